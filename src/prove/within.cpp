#include "within.hpp"

#include <algorithm>
#include <deque>

namespace mobrin::proof {
namespace {

// What ends the time in a configuration, and when that comes at the latest.
struct TimeLimit {
  enum class By : std::uint8_t {
    visit,  // since `of` was entered: whatever else changes
    stand,  // since the configuration stands
    round,  // since the leaf was entered, or its play last came round
  } by = By::visit;
  Ticks most{};
  std::uint16_t of = 0;
};

// `around`: rather of the outermost state that is over in time than of the leaf.
std::optional<TimeLimit> limit_of(const Model& model, const std::vector<Span>& inputs, const Config& config,
                                  std::uint16_t region, bool around) {
  const std::uint16_t leaf = config.leaves[region];
  if (leaf == kNoIndex) return std::nullopt;
  std::optional<TimeLimit> out;
  for (std::uint16_t up = leaf; around && up != 0 && model.states()[up].region == region;
       up = model.states()[up].parent)
    if (const auto stay = model.stay_in(up)) out = TimeLimit{TimeLimit::By::visit, *stay, up};
  if (out) return out;
  if (const auto stay = model.stay(leaf)) return TimeLimit{TimeLimit::By::visit, *stay, leaf};
  if (const auto stay = model.stay_while(leaf, &inputs, &config)) return TimeLimit{TimeLimit::By::stand, *stay, leaf};
  if (const auto round = model.longest_round(leaf, &inputs)) return TimeLimit{TimeLimit::By::round, *round, leaf};
  return std::nullopt;
}

// From one to another of those that are waited in, and what it adds at most.
struct Leg {
  std::uint32_t to = 0;
  Ticks more{};
};

std::optional<Ticks> longest_way(const Model& model, const std::vector<Config>& nodes, const std::vector<Wait>& waits,
                                 std::uint16_t region, bool around, Ticks most) {
  const std::vector<Span> any = model.any_inputs();
  std::vector<std::optional<TimeLimit>> limits(nodes.size());
  for (const Wait& wait : waits)
    if (!limits[wait.to] && !(limits[wait.to] = limit_of(model, any, nodes[wait.to], region, around)))
      return std::nullopt;
  std::vector<std::vector<Leg>> legs(nodes.size());
  std::vector<std::optional<Ticks>> longest(nodes.size());
  std::deque<std::uint32_t> open;
  const auto takes = [&](std::uint32_t node, Ticks time) {
    if (longest[node] && *longest[node] >= time) return;
    longest[node] = time;
    open.push_back(node);
  };
  for (const Wait& wait : waits) {
    const TimeLimit& limit = *limits[wait.to];
    const std::uint16_t fresh = wait.fresh[region];
    const bool looped = (wait.looped >> region & 1) != 0;
    // Of what was inside already only if it was left and entered again.
    const bool entered = fresh != kNoIndex && model.within(limit.of, fresh);
    takes(wait.to, limit.most);  // it may begin anywhere
    if (wait.from == UINT32_MAX) continue;
    if (wait.from == wait.to && !entered && !(looped && limit.by == TimeLimit::By::round)) continue;
    bool anew = entered;
    if (limit.by == TimeLimit::By::stand) anew = true;
    if (limit.by == TimeLimit::By::round) anew = anew || looped || limits[wait.from]->by != TimeLimit::By::round;
    legs[wait.from].push_back({wait.to, anew ? limit.most : Ticks{}});
  }
  // A ring takes longer with every turn; one that takes no time is not gone round.
  std::size_t work = 10'000 + 64 * waits.size();
  while (!open.empty()) {
    const std::uint32_t node = open.front();
    open.pop_front();
    if (*longest[node] > most) return std::nullopt;
    for (const Leg& leg : legs[node]) {
      if (work-- == 0) return std::nullopt;
      takes(leg.to, *longest[node] + leg.more);
    }
  }
  Ticks out{};
  for (const auto& each : longest)
    if (each) out = std::max(out, *each);
  return out;
}

// What is waited in all the while, and left once its time is over, but for what keeps it there: `{after: 2s, when: not
// in(body/rise), to: off}` takes two seconds, and as long as one may rise then.
std::optional<Ticks> longest_kept(const Model& model, const std::vector<Config>& nodes, const std::vector<Wait>& waits,
                                  std::uint16_t region, Ticks most) {
  const std::vector<Span> any = model.any_inputs();
  const std::uint16_t leaf = nodes[waits.front().to].leaves[region];
  Ticks time;
  bool leads = false;
  std::vector<Wait> kept;
  std::vector<bool> keeps(nodes.size(), false);
  for (const Wait& wait : waits) {
    const Config& config = nodes[wait.to];
    if (leaf == kNoIndex || config.leaves[region] != leaf) return std::nullopt;
    if (wait.from != UINT32_MAX && wait.fresh[region] != kNoIndex) return std::nullopt;
    if (const auto stay = model.stay_while(leaf, &any, &config, true)) {
      time = std::max(time, *stay);
      leads = true;
    } else {
      kept.push_back(wait);
      keeps[wait.to] = true;
    }
  }
  if (!leads || time > most) return std::nullopt;
  if (kept.empty()) return time;
  for (Wait& wait : kept)
    if (wait.from != UINT32_MAX && !keeps[wait.from]) wait.from = UINT32_MAX;
  for (std::uint16_t r = 0; r < nodes[waits.front().to].leaves.size() && r < 64; ++r)
    for (const bool around : {false, true})
      if (const auto longest = r == region ? std::nullopt : longest_way(model, nodes, kept, r, around, most - time))
        return time + *longest;
  return std::nullopt;
}

}  // namespace

std::optional<Ticks> longest_wait(const Model& model, const std::vector<Config>& nodes, const std::vector<Wait>& waits,
                                  std::uint16_t region, Ticks most) {
  if (std::any_of(waits.begin(), waits.end(), [](const Wait& wait) { return wait.rests; })) return std::nullopt;
  const auto by_leaf = longest_way(model, nodes, waits, region, false, most);
  const auto by_either = by_leaf ? by_leaf : longest_way(model, nodes, waits, region, true, most);
  return by_either ? by_either : longest_kept(model, nodes, waits, region, most);
}

}  // namespace mobrin::proof
