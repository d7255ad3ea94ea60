// Of the plan of a machine: what may be taken where a leaf is active, found without a look at the states around it.
#include <algorithm>
#include <cstring>
#include <limits>

#include "compile/plan.hpp"

namespace mobrin::detail {

namespace {

// Has a value of the word looked for; false where another word is, or another value of it.
template <class T>
bool want(LeafGo& go, std::uint32_t at, T value) {
  const std::uint32_t word = at - at % kWord;
  if (go.word.mask != 0 && go.word.at != word) return false;
  const auto put = [&](std::uint64_t& bytes, T what) {
    std::memcpy(reinterpret_cast<std::byte*>(&bytes) + (at - word), &what, sizeof what);
  };
  std::uint64_t mask = 0, wanted = 0;
  put(mask, std::numeric_limits<T>::max());
  put(wanted, value);
  if ((go.word.mask & mask) != 0 && (go.wanted & mask) != wanted) return false;
  go.word = {word, go.word.mask | mask};
  go.wanted |= wanted;
  return true;
}

// The same of the value that a term of a guard asks for, where that is one only.
bool want(LeafGo& go, const PlanGuard& term, const std::vector<bool>& bools) {
  if (term.from == PlanGuard::From::byte && term.outside)  // anything but 0
    return term.low == 0 && term.high == 0 && bools[term.at] && want(go, term.at, std::uint8_t{1});
  if (term.outside || term.low != term.high) return false;
  if (term.from == PlanGuard::From::byte && term.low >= 0 && term.low <= 0xff)
    return want(go, term.at, static_cast<std::uint8_t>(term.low));
  if (term.from == PlanGuard::From::half && term.low >= 0 && term.low <= 0xffff)
    return want(go, term.at, static_cast<std::uint16_t>(term.low));
  return false;
}

}  // namespace

// Looking for the pulse that is alive pays where there are fewer words of pulses than transitions.
void Plan::add_dispatch(StatePlan& plan) {
  std::uint16_t hears = kNoIndex;
  for (const std::uint16_t state : MachineData::view(paths, plan.path)) {
    if (states[state].go.count == 0) continue;
    if (hears != kNoIndex) return;
    hears = state;
  }
  if (hears == kNoIndex) return;
  StatePlan& owner = states[hears];
  const auto own = MachineData::view(gos, owner.go);
  const bool all_brief =
      std::all_of(own.begin(), own.end(), [](const PlanGo& go) { return go.event == GoEvent::pulse && !go.buffered; });
  if (!all_brief || own.size() < brief_pulses.size() || own.size() >= kNoIndex) return;
  plan.hears = hears;
  if (owner.by_pulse.count == 0) add_by_pulse(owner);
}

void Plan::add_by_pulse(StatePlan& plan) {
  const std::size_t begin = by_pulse.size();
  by_pulse.resize(begin + kWord * brief_pulses.size(), kNoIndex);
  plan.by_pulse = since(by_pulse, begin);
  for (std::uint32_t i = plan.go.count; i-- > 0;) {
    const std::uint32_t at = gos[plan.go.begin + i].pulse;
    const auto word = std::find_if(brief_pulses.begin(), brief_pulses.end(),
                                   [&](const WordMask& each) { return each.at == at - at % kWord; });
    by_pulse[begin + static_cast<std::size_t>(word - brief_pulses.begin()) * kWord + at % kWord] =
        static_cast<std::uint16_t>(i);
  }
}

// Transitions of outer states stand in the lists of all leaves below: not in more than there is some measure to.
void Plan::add_leaf_gos(const MachineData& m, std::uint16_t leaf, const std::vector<bool>& bools) {
  const std::size_t begin = leaf_gos.size(), most = 2 * (states.size() + gos.size());
  std::size_t wanted = 0;
  for (const std::uint16_t owner : MachineData::view(paths, states[leaf].path)) wanted += states[owner].go.count;
  if (wanted >= kNoIndex || begin + wanted > most) return;
  for (const std::uint16_t owner : MachineData::view(paths, states[leaf].path)) {
    const std::size_t first = leaf_gos.size();
    const bool leads_out = !sealed_from(m, owner, leaf);
    const Range<PlanGo> own = states[owner].go;
    for (std::uint32_t i = own.begin; i < own.begin + own.count; ++i) {
      const PlanGo& go = gos[i];
      if (go.event == GoEvent::cue || go.event == GoEvent::at_loop) continue;  // when it is looked at they are over
      const bool within = !go.restart && leaf >= go.target && leaf <= go.target_last;
      if (go.plain && (!leads_out || (within && !go.stands))) continue;
      LeafGo each = leaf_go(owner, i, bools);
      each.skip = go.plain && within ? 1 : 0;
      leaf_gos.push_back(each);
    }
    for (std::size_t i = first; i < leaf_gos.size(); ++i)
      if (leaf_gos[i].skip != 0) leaf_gos[i].skip = static_cast<std::uint16_t>(leaf_gos.size() - i);
  }
  states[leaf].leaf_gos = since(leaf_gos, begin);
  states[leaf].has_leaf_gos = true;
}

LeafGo Plan::leaf_go(std::uint16_t owner, std::uint32_t index, const std::vector<bool>& bools) {
  const PlanGo& go = gos[index];
  LeafGo out;
  out.owner = owner;
  out.go = index;
  out.guard = go.guard;
  out.guards = go.guards;
  out.pulse = go.pulse;
  if (go.event == GoEvent::pulse && go.buffered)
    out.waits = LeafGo::Waits::buffered_pulse;
  else if (go.event == GoEvent::pulse)
    want(out, go.pulse, std::uint8_t{1});
  else if (go.event != GoEvent::none)
    out.waits = LeafGo::Waits::more;
  if (out.waits != LeafGo::Waits::more) fold_guard(out, bools);
  return out;
}

// Terms of the guard that one word decides, with what is in it already.
void Plan::fold_guard(LeafGo& go, const std::vector<bool>& bools) {
  constexpr std::uint32_t kMost = 4;  // what is left stands in the list of each leaf anew
  const bool all = go.guard == PlanGo::Guard::all || (go.guard == PlanGo::Guard::any && go.guards.count == 1);
  if (!all || go.guards.count > kMost) return;
  const std::size_t begin = guards.size();
  for (std::uint32_t i = go.guards.begin; i < go.guards.begin + go.guards.count; ++i) {
    const PlanGuard term = guards[i];
    if (!want(go, term, bools)) guards.push_back(term);
  }
  const Range<PlanGuard> left = since(guards, begin);
  if (left.count == go.guards.count) {
    guards.resize(begin);
    return;
  }
  go.guards = left;
  if (left.count == 0) go.guard = PlanGo::Guard::nothing;
}

}  // namespace mobrin::detail
