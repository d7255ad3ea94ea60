// How long plays take: at which speeds, to their end, through a round, to a place.
#include <algorithm>
#include <cmath>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

std::optional<Span> Model::speeds_of(std::uint16_t state, const std::vector<Span>* held) const {
  return states_[state].speed && !defs_[state]->blend ? std::optional(own_speeds(state, held)) : std::nullopt;
}

// Of a blend those that its clips' own are multiplied with.
Span Model::own_speeds(std::uint16_t state, const std::vector<Span>* held) const {
  const StateFacts& facts = states_[state];
  if (!facts.speed) return {1, 1};
  std::vector<Span> inputs;
  if (held == nullptr) {
    for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i) {
      const std::vector<Span> all = cells_of(machine_.inputs()[i], {});
      inputs.push_back({all.front().low, all.back().high});
    }
    held = &inputs;
  }
  bool states = false;
  each_term(*facts.speed, [&](const Term& term) { states = states || term.kind == Term::Kind::state; });
  constexpr double kFastest = 64;
  if (states) return Span{-kFastest, kFastest};
  const Values variables = nothing_known();
  const Flags active(states_.size(), 0);
  return compute(*facts.speed, View{held, &variables, &active, nullptr, nullptr, &traits_});
}

std::optional<Ticks> Model::longest_play(std::uint16_t state, const std::vector<Span>* held) const {
  const StateFacts& facts = states_[state];
  if (facts.length) return facts.length;
  if (facts.chosen_by != kNoIndex) return facts.may_end ? longest_of_choices(state, held) : std::nullopt;
  return facts.way ? longest_way(*facts.way, state, held) : std::nullopt;
}

std::optional<Ticks> Model::longest_round(std::uint16_t state, const std::vector<Span>* held) const {
  const StateFacts& facts = states_[state];
  if (facts.chosen_by != kNoIndex)
    return facts.may_loop && !facts.may_end && machine_.states()[state].uses_loops ? longest_of_choices(state, held)
                                                                                   : std::nullopt;
  if (!facts.round || facts.steady) return facts.round;
  return longest_way(*facts.round, state, held);
}

// How long so much of a clip takes at most. `changes`: to another clip meanwhile.
std::optional<Ticks> Model::longest_way(Ticks way, std::uint16_t state, const std::vector<Span>* held,
                                        bool changes) const {
  const auto speeds = states_[state].steady ? std::optional(Span{1, 1}) : speeds_of(state, held);
  if (!speeds || !(speeds->low > 0 || speeds->high < 0)) return std::nullopt;
  const double slowest = std::min(64.0, speeds->low > 0 ? speeds->low : -speeds->high);
  // One grain less, for what rounding may take; none where it is exact: what is a grain and a little is rounded to it.
  double parts = std::floor(slowest / kSpeedGrain);
  const bool even = parts * kSpeedGrain == slowest, exact = even && !changes;
  parts -= (even ? 0 : 1) + (changes ? 1 : 0);
  if (!(parts >= 1)) return std::nullopt;
  if (const auto whole = static_cast<std::int64_t>(parts); exact && way.count < INT64_MAX / 65536 - whole)
    return Ticks((way.count * 65536 + whole - 1) / whole);
  const double longest = std::ceil(static_cast<double>(way.count) / parts / kSpeedGrain) + 1;
  if (!(longest < 9e18)) return std::nullopt;
  return Ticks(static_cast<std::int64_t>(longest));
}

// The same from its begin, where it stands still for nothing.
std::optional<Ticks> Model::longest_until(std::uint16_t leaf, Ticks place, const std::vector<Span>* held) const {
  return states_[leaf].steady ? std::optional(place) : longest_way(place, leaf, held);
}

Course Model::course_of(std::uint16_t leaf, const std::vector<Span>& held) const {
  const StateFacts& facts = states_[leaf];
  if (facts.course != Course::any || facts.turns_at_once) return facts.course;
  const auto speeds = speeds_of(leaf, &held);
  if (!speeds) return Course::any;
  if (speeds->low >= 0) return Course::forward;
  return speeds->high < -kSpeedGrain && may_run_backward(leaf) ? Course::backward : Course::any;
}

bool Model::may_run_backward(std::uint16_t state) const {
  const std::vector<const ClipInfo*> clips = clips_of(state);
  return std::all_of(clips.begin(), clips.end(), [](const ClipInfo* clip) { return is_plain(*clip); });
}

std::optional<Ticks> Model::comes_to(std::uint16_t leaf, Ticks place, const std::vector<Span>& held,
                                     Course course) const {
  const StateFacts& facts = states_[leaf];
  if (!facts.children.empty() || !facts.plays || defs_[leaf]->pose || defs_[leaf]->blend) return std::nullopt;
  if (facts.course == Course::any && (course == Course::any || course_of(leaf, held) != course)) return std::nullopt;
  return longest_until(leaf, place, &held);
}

}  // namespace mobrin::proof
