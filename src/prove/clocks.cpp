// Timers beside others: that one is not over while what was entered with it, or later, lasts less.
#include <algorithm>

#include "loose.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

// States with rules that wait for more time than some leaf lasts, and those that linger for more.
void Model::find_clocks() {
  clock_of_.assign(states_.size(), kNoIndex);
  std::optional<Ticks> shortest;
  for (const StateFacts& state : states_)
    if (state.children.empty() && state.stay && (!shortest || *state.stay < *shortest)) shortest = state.stay;
  if (!shortest) return;
  const auto time = [&](std::uint16_t state, Ticks lasts) {
    if (lasts <= *shortest) return;
    std::uint16_t& clock = clock_of_[state];
    if (clock == kNoIndex) {
      clock = static_cast<std::uint16_t>(clocks_.size());
      clocks_.push_back({state});
    }
    clocks_[clock].longest = std::max(clocks_[clock].longest, lasts);
  };
  for (const Rule& rule : rules_)
    if (rule.def != nullptr && rule.event == Event::after) time(rule.owner, *rule.def->after);
  for (std::uint16_t s = 1; s < states_.size(); ++s)
    if (states_[s].final && states_[s].children.empty()) time(s, defs_[s]->linger);
}

void Model::compare_times(const std::vector<Term>& asked, std::uint16_t steps) {
  compares_times_ = true;
  std::vector<bool> regions = regions_before(*this, asked);
  for (const Term& term : asked) note_regions(*this, term, regions);
  std::erase_if(clocks_, [&](const Clock& each) {
    const std::uint16_t region = states_[each.state].region;
    return (!regions[region] && !states_[each.state].final) || left_out_.regions[region];
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

bool Model::may_be_done_meanwhile(const Config& config) const {
  const std::size_t regions = config.leaves.size();
  return std::any_of(config.leaves.begin(), config.leaves.end(), [&](std::uint16_t last) {
    if (last == kNoIndex || !states_[last].final) return false;
    const std::uint16_t clock = clock_of_[last];
    if (clock == kNoIndex || unruly_ || config.ages.empty()) return true;
    for (std::size_t r = 0; r < regions; ++r) {
      const std::uint16_t leaf = config.leaves[r], age = config.ages[clock * regions + r];
      if (leaf == kNoIndex || age == kNoIndex || !stay(leaf)) continue;
      if (Ticks(clocks_[clock].step.count * age) + *stay(leaf) + kSurely < defs_[last]->linger) return false;
    }
    return true;
  });
}

bool Model::too_early(const Rule& rule) const {
  const std::uint16_t clock = clock_of_[rule.owner];
  const std::optional<Ticks> age = clock == kNoIndex ? std::nullopt : oldest(*now_, clock);
  return age && *age + kSurely < *rule.def->after;
}

std::optional<Ticks> Model::time_of(const Rule& rule) const {
  if (rule.event == Event::after) return rule.def->after;
  const StateFacts& owner = states_[rule.owner];
  if (rule.event != Event::end || rule.owner == 0 || !owner.children.empty() || !owner.begins) return std::nullopt;
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
