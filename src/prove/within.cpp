#include "within.hpp"

#include <algorithm>
#include <deque>

namespace mobrin::proof {
namespace {

// What ends the time in a configuration, and when that comes at the latest.
struct TimeLimit {
  enum class By : std::uint8_t {
    visit,  // since the leaf was entered: whatever else changes
    stand,  // since the configuration stands
    round,  // since the leaf was entered, or its play last came round
  } by = By::visit;
  Ticks most{};
};

std::optional<TimeLimit> limit_of(const Model& model, const std::vector<Span>& inputs, const Config& config,
                                  std::uint16_t region) {
  const std::uint16_t leaf = config.leaves[region];
  if (leaf == kNoIndex) return std::nullopt;
  if (const auto stay = model.stay(leaf)) return TimeLimit{TimeLimit::By::visit, *stay};
  if (const auto stay = model.stay_while(leaf, &inputs, &config)) return TimeLimit{TimeLimit::By::stand, *stay};
  if (const auto round = model.longest_round(leaf, &inputs)) return TimeLimit{TimeLimit::By::round, *round};
  return std::nullopt;
}

// From one to another of those that are waited in, and what it adds at most.
struct Leg {
  std::uint32_t to = 0;
  Ticks more{};
};

}  // namespace

std::optional<Ticks> longest_wait(const Model& model, const std::vector<Config>& nodes, const std::vector<Wait>& waits,
                                  std::uint16_t region, Ticks most) {
  const std::vector<Span> any = model.any_inputs();
  std::vector<std::optional<TimeLimit>> limits(nodes.size());
  for (const Wait& wait : waits)
    if (!limits[wait.to] && !(limits[wait.to] = limit_of(model, any, nodes[wait.to], region))) return std::nullopt;
  const std::uint64_t bit = std::uint64_t{1} << region;
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
    const bool entered = (wait.entered & bit) != 0, looped = (wait.looped & bit) != 0;
    if (wait.from == UINT32_MAX) {
      takes(wait.to, limit.most);
      continue;
    }
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

}  // namespace mobrin::proof
