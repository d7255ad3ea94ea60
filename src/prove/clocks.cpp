// Timers beside others: that one is not over while what was entered with it, or later, lasts less.
#include <algorithm>

#include "loose.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

// States with rules that wait for more time than some leaf lasts.
void Model::find_clocks() {
  clock_of_.assign(states_.size(), kNoIndex);
  std::optional<Ticks> shortest;
  for (const StateFacts& state : states_)
    if (state.children.empty() && state.stay && (!shortest || *state.stay < *shortest)) shortest = state.stay;
  if (!shortest) return;
  for (const Rule& rule : rules_) {
    if (rule.def == nullptr || rule.event != Event::after || *rule.def->after <= *shortest) continue;
    std::uint16_t& clock = clock_of_[rule.owner];
    if (clock == kNoIndex) {
      clock = static_cast<std::uint16_t>(clocks_.size());
      clocks_.push_back({rule.owner});
    }
    clocks_[clock].longest = std::max(clocks_[clock].longest, *rule.def->after);
  }
}

void Model::compare_times(const std::vector<Term>& asked, std::uint16_t steps) {
  compares_times_ = true;
  std::vector<bool> regions = regions_before(*this, asked);
  for (const Term& term : asked) note_regions(*this, term, regions);
  std::erase_if(clocks_, [&](const Clock& each) {
    const std::uint16_t region = states_[each.state].region;
    return !regions[region] || left_out_.regions[region];
  });
  clock_of_.assign(states_.size(), kNoIndex);
  for (std::uint16_t c = 0; c < clocks_.size(); ++c) {
    clock_of_[clocks_[c].state] = c;
    clocks_[c].step = Ticks(clocks_[c].longest.count / steps + 1);
  }
}

// A state is not older than it was when another region's leaf was entered, and as long as that is stayed in.
std::optional<Ticks> Model::oldest(const Moment& at, std::uint16_t clock) const {
  if (unruly_ || at.config.ages.empty()) return std::nullopt;
  const std::size_t regions = at.config.leaves.size();
  std::optional<Ticks> out;
  for (std::size_t r = 0; r < regions; ++r) {
    const std::uint16_t leaf = at.config.leaves[r], age = at.config.ages[clock * regions + r];
    if (leaf == kNoIndex || age == kNoIndex) continue;
    const bool just_entered = at.fresh[r] != kNoIndex && within(leaf, at.fresh[r]);
    if (!just_entered && !stay(leaf)) continue;
    const Ticks bound = Ticks(clocks_[clock].step.count * age) + (just_entered ? Ticks{} : *stay(leaf));
    if (!out || bound < *out) out = bound;
  }
  return out;
}

bool Model::too_early(const Rule& rule) const {
  const std::uint16_t clock = clock_of_[rule.owner];
  const std::optional<Ticks> age = clock == kNoIndex ? std::nullopt : oldest(*now_, clock);
  return age && *age + kSurely < *rule.def->after;
}

std::optional<Ticks> Model::time_of(const Rule& rule) const {
  if (rule.event == Event::after) return rule.def->after;
  const StateFacts& owner = states_[rule.owner];
  if (rule.event != Event::end || rule.owner == 0 || !owner.children.empty() || !owner.begins)
    return std::nullopt;
  return owner.length;
}

// `made_` is what came of `now_` as `first` and what is in it were entered.
void Model::note_ages(std::uint16_t first) {
  Indices& ages = made_.config.ages;
  const std::size_t regions = made_.config.leaves.size();
  for (std::uint16_t c = 0; !ages.empty() && c < clocks_.size(); ++c) {
    const bool begins = made_active_[clocks_[c].state] == 0 || within(clocks_[c].state, first);
    const std::optional<Ticks> bound = begins ? Ticks{} : oldest(*now_, c);
    const Ticks step = clocks_[c].step;
    std::uint16_t age = kNoIndex;
    if (bound && *bound < clocks_[c].longest)
      age = static_cast<std::uint16_t>((bound->count + step.count - 1) / step.count);
    for (std::size_t r = 0; r < regions; ++r) {
      const std::uint16_t leaf = made_.config.leaves[r];
      if (begins || leaf == kNoIndex)
        ages[c * regions + r] = 0;
      else if (within(leaf, first))
        ages[c * regions + r] = age;
    }
  }
}

}  // namespace mobrin::proof
