// The quick way: an instant, and settling in it.
#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "engine/quick_open.hpp"
#include "machine/block_memory.hpp"
#include "machine/inlining.hpp"

namespace mobrin::detail {

// What comes after the last thing that happens in an instant: the next stop, as update_wake() finds it.
template <std::size_t kRegions>
MOBRIN_INLINE Quick::After Quick::after(const Instant& now) const {
  std::int64_t soonest = kNever;
  Cruise cruise;
  const std::size_t count = kRegions > 0 ? kRegions : slots_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const Slot& slot = slots_[i];
    const auto leaf = field_at<std::uint16_t>(now.b, slot.leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.moves) continue;
    if ((now.begun >> i & 1) != 0) {
      soonest = std::min(soonest, lap.to_first);
      cruise.add(lap, lap.first_stop);
      continue;
    }
    const auto here = field_at<std::int64_t>(now.b, slot.playhead);
    if (stands(lap, here)) continue;
    const LapStop* const next = stop_ahead(lap, here);
    soonest = std::min(soonest, ticks_to(next, lap, here));
    cruise.add(lap, index_of(lap, next));
  }
  return {soonest == kNever ? kNever : now.at + soonest, cruise.stop()};
}

// --- settling -------------------------------------------------------------------------------------------------------

void Quick::act(Instant& now, Range<Deed> deeds, std::uint32_t transition) const {
  for (const Deed& deed : MachineData::view(plan_.deeds, deeds)) {
    switch (deed.does) {
      case Deed::Does::store8:
        field_at<std::uint8_t>(now.b, deed.at) = static_cast<std::uint8_t>(deed.value);
        break;
      case Deed::Does::store16:
        field_at<std::uint16_t>(now.b, deed.at) = static_cast<std::uint16_t>(deed.value);
        break;
      case Deed::Does::store32:
        field_at<std::int32_t>(now.b, deed.at) = static_cast<std::int32_t>(deed.value);
        break;
      case Deed::Does::store64:
        field_at<std::int64_t>(now.b, deed.at) = deed.value;
        break;
      case Deed::Does::tell:
        tell(now, plan_.records[deed.at], transition);
        break;
      case Deed::Does::assign:
        assign(m_, now.b, m_.actions[deed.at]);
        break;
      case Deed::Does::count:
        now.ordinal = std::min<std::uint32_t>(kMaxOrdinal, now.ordinal + static_cast<std::uint32_t>(deed.value));
        break;
      case Deed::Does::end_spans:
        end_spans(now, static_cast<std::uint16_t>(deed.at));
        break;
      case Deed::Does::remember: {
        const StateData& data = m_.states[deed.at];
        const auto before = field_at<std::uint16_t>(now.b, m_.regions[data.region].rest);
        const bool within = before != kNoIndex && before >= deed.at && before <= data.last;
        if (!within) field_at<std::uint16_t>(now.b, data.back) = before;
        break;
      }
    }
  }
}

void Quick::end_spans(Instant& now, std::uint16_t state) const {
  const ConstRun run(m_, now.b, m_.regions[m_.states[state].region].slot, state);
  const Segment& shown = run.segment();
  for (const MarkData& mark : run.clip().marks) {
    if (!is_span(mark.at) || !covers(mark, shown)) continue;
    tell(now, record_of(mark, state, Edge::end, shown.frame), kNoTransition);
  }
}

void Quick::tell(Instant& now, const Cue& record, std::uint32_t transition) const {
  if (now.sink.listens(record.what)) {
    Cue told = record;
    told.machine = &m_;
    told.at = Ticks(now.at);
    told.ordinal = now.ordinal;
    if (record.what != Told::cue) told.transition = transition;
    now.sink.put(told);
  }
  if (now.ordinal < kMaxOrdinal) ++now.ordinal;
}

// See Engine::go_to. False where it is not plain on its whole way or the list is full.
MOBRIN_INLINE bool Quick::take(Instant& now, const PlanGo& go, std::uint16_t leaf) const {
  if (!now.taken) {
    copy_words(now.undo + kElsewhere, now.b + kElsewhere, m_.block_size - kElsewhere);
    now.told_before = now.sink.mark();
    now.taken = true;
  }
  if (go.script != kNoScript && !now.hears_states) {
    if (!run(now, plan_.scripts[go.script])) return false;
  } else if (!act_out(now, go, leaf)) {
    return false;
  }
  now.begun |= 1u << go.region;
  if (go.event == GoEvent::pulse) now.pulses[now.pulse_count++] = &go;
  return true;
}

MOBRIN_INLINE bool Quick::run(Instant& now, const Script& script) const {
  if (script.cues.count > 0 && !tell_all(MachineData::view(plan_.cues, script.cues), now.at, now.ordinal, now.sink))
    return false;
  now.ordinal = std::min(kMaxOrdinal, now.ordinal + script.records);
  const Patch* const first = plan_.patches.data() + script.patches.begin;
  for (const Patch* patch = first; patch != first + script.patches.count; ++patch) patch->apply(now.b);
  return true;
}

// What no script does.
MOBRIN_APART bool Quick::act_out(Instant& now, const PlanGo& go, std::uint16_t leaf) const {
  const StatePlan& last = plan_.states[go.leaf];
  if (!last.steady || !last.begins || !last.enters_all || !plan_.states[leaf].leaves_all) return false;
  if (go.whole.count > 0 && !now.hears_states) {
    act(now, go.whole, kNoTransition);
    return true;
  }
  const auto transition = static_cast<std::uint32_t>(&go - plan_.gos.data());
  const StatePlan* const plans = plan_.states.data();
  std::uint16_t first = go.target, kept = plans[first].parent;
  while (kept != 0 && !(leaf >= kept && leaf <= plans[kept].last)) first = kept, kept = plans[first].parent;
  for (std::uint16_t s = leaf; s != kept && s != 0; s = plans[s].parent) act(now, plans[s].leave, transition);
  act(now, go.actions, transition);
  const std::uint16_t* s = plan_.paths.data() + plans[go.leaf].path.begin;
  const std::uint16_t* const end = s + plans[go.leaf].path.count;
  while (*s != first) ++s;
  for (; s != end; ++s) act(now, plans[*s].enter, transition);
  act(now, plans[go.leaf].begin, transition);
  return true;
}

// Whether the time that it waits for may be over; known where time goes at its normal pace.
MOBRIN_APART bool Quick::time_is_over(const PlanGo& go, std::uint16_t owner, const std::byte* block,
                                      std::int64_t at) const {
  const BlockHeader& h = header_of(block);
  const std::int64_t played = at - h.anchor;
  if (h.rate() != kOne || h.frozen != 0 || played < 0 || played > kLongestQuick) return true;
  const std::int64_t wanted = m_.transitions[static_cast<std::size_t>(&go - plan_.gos.data())].after;
  return field_at<std::int64_t>(block, m_.states[owner].timer) + played * kOne >= wanted;
}

MOBRIN_APART bool Quick::more_opens(const PlanGo& go, std::uint16_t owner, const std::byte* block,
                                    std::int64_t at) const {
  return opens(go, owner, block, at);
}

MOBRIN_APART const PlanGo* Quick::first_open(const LeafGo* each, const LeafGo* end, const std::byte* block,
                                             std::int64_t at) const {
  while (each != end) {
    if (!opens(*each, block, at))
      ++each;
    else if (each->skip == 0)
      return &plan_.gos[each->go];
    else
      each += each->skip;
  }
  return nullptr;
}

MOBRIN_APART const PlanGo* Quick::heard_from(const PlanGo* go, const StatePlan& plan, std::uint16_t leaf,
                                             const std::byte* block, std::int64_t at) const {
  return open_from(go, plan.hears, leaf, block, at);
}

MOBRIN_APART const PlanGo* Quick::open_on_path(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                               std::int64_t at) const {
  const std::uint16_t* const path = plan_.paths.data() + plan.path.begin;
  for (std::uint32_t i = 0; i < plan.path.count; ++i) {
    const PlanGo* const own = plan_.gos.data() + plan_.states[path[i]].go.begin;
    if (const PlanGo* const go = open_from(own, path[i], leaf, block, at); go != nullptr) return go;
  }
  return nullptr;
}

// One of the root's, where there are several regions, is the engine's.
bool Quick::root_opens(const std::byte* block, std::int64_t at) const {
  for (const PlanGo& go : MachineData::view(plan_.gos, plan_.states[0].go))
    if (opens(go, 0, block, at)) return true;
  return false;
}

bool Quick::may_take(const std::byte* block, std::int64_t at) const {
  if (!possible_ || (root_looks_ && root_opens(block, at))) return true;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf != kNoIndex && open(plan_.states[leaf], leaf, block, at) != nullptr) return true;
  }
  return false;
}

bool Quick::stirs(const std::byte* block, std::uint32_t offset, std::int64_t at) const {
  if (!possible_) return true;
  const std::uint64_t read = read_bit(offset);
  std::uint64_t guards = root_looks_ ? plan_.states[0].guards_read : 0;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    if ((plan_.states[leaf].play_reads & read) != 0) return true;
    guards |= plan_.states[leaf].guards_read;
  }
  return (guards & read) != 0 && may_take(block, at);
}

// Back to before the first transition was taken.
void Quick::take_back(Instant& now) const {
  copy_words(now.b + kElsewhere, now.undo + kElsewhere, m_.block_size - kElsewhere);
  now.sink.back_to(now.told_before);
}

// What Engine::settle does, with the plan's transitions: rounds until nothing is taken any more. False where one is not
// plain, or it comes to no rest.
template <std::size_t kRegions>
MOBRIN_INLINE bool Quick::settle(Instant& now) const {
  const std::size_t count = kRegions > 0 ? kRegions : slots_.size();
  for (int round = 0; round < kMaxMicrosteps; ++round) {
    if (kRegions != 1 && root_looks_ && root_opens(now.b, now.at)) return false;
    now.pulse_count = 0;
    bool taken = false;
    for (std::size_t i = 0; i < count; ++i) {
      const auto leaf = field_at<std::uint16_t>(now.b, slots_[i].leaf);
      if (leaf == kNoIndex) continue;
      const PlanGo* const go = open(plan_.states[leaf], leaf, now.b, now.at);
      if (go == nullptr) continue;
      if (!go->plain || !take(now, *go, leaf)) return false;
      taken = true;
    }
    for (std::size_t i = 0; i < now.pulse_count; ++i) {
      const PlanGo& go = *now.pulses[i];
      if (go.buffered)
        field_at<std::int64_t>(now.b, go.pulse) = kLongAgo;
      else
        field_at<std::uint8_t>(now.b, go.pulse) = 0;
    }
    if (!taken) return true;
  }
  return false;
}

// --- an instant ------------------------------------------------------------------------------------------------------

bool Quick::instant(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const {
  if (!possible_) return false;
  switch (slots_.size()) {
    case 1:
      return instant_of<1>(block, at, sink, undo, after);
    case 2:
      return instant_of<2>(block, at, sink, undo, after);
    default:
      return instant_of<0>(block, at, sink, undo, after);
  }
}

// Of so many regions; 0 for any number.
template <std::size_t kRegions>
MOBRIN_INLINE bool Quick::instant_of(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo,
                                     After& after) const {
  const BlockHeader& h = header_of(block);
  if (h.frozen != 0 || h.rate() != kOne || at < h.anchor || at - h.anchor > kLongestQuick) return false;
  if (h.flags == kStarted) return move_on<kRegions>(block, at, sink, undo, after);
  return h.flags == (kStarted | kDirty) && decide<kRegions>(block, at, sink, undo, after);
}

// Plays move on to `at`, at which nothing lies, nor since the block's anchor, that has not been told. False, with
// nothing changed, where one comes round or ends at that very instant, or is not plain.
template <std::size_t kRegions>
MOBRIN_INLINE bool Quick::bring(std::byte* block, std::int64_t at) const {
  BlockHeader& h = header_of(block);
  const std::int64_t played = at - h.anchor;
  Playheads there;
  const std::size_t count = kRegions > 0 ? kRegions : slots_.size();
  for (std::size_t i = 0; i < count; ++i) {
    there[i] = -1;
    const auto leaf = field_at<std::uint16_t>(block, slots_[i].leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || fades(block, slots_[i])) return false;
    if (!lap.moves || played == 0) continue;
    const auto here = field_at<std::int64_t>(block, slots_[i].playhead);
    if (stands(lap, here)) continue;
    there[i] = here + lap.pace * played;
    if (there[i] < lap.cycle) continue;
    if (!lap.round_trip) return false;
    there[i] = within(lap, there[i]);
    if (there[i] < lap.pace) return false;  // it comes round at this very instant
  }
  if (played != 0) {
    for (std::size_t i = 0; i < count; ++i)
      if (there[i] >= 0) field_at<std::int64_t>(block, slots_[i].playhead) = there[i];
    h.anchor = at;
    h.set_ordinal(0);
  }
  return true;
}

// Something was written.
template <std::size_t kRegions>
MOBRIN_INLINE bool Quick::decide(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const {
  return bring<kRegions>(block, at) && come_to_rest<kRegions>(block, at, sink, undo, after);
}

bool Quick::hold_pulses(std::byte* block, std::int64_t at) const {
  const BlockHeader& h = header_of(block);
  if (at == h.anchor) return true;
  if (!possible_ || h.frozen != 0 || h.rate() != kOne || at < h.anchor || at - h.anchor > kLongestQuick) return false;
  if (!bring<0>(block, at)) return false;
  forget_pulses(m_, block);
  return true;
}

// Plays move on to `at`; one of them passes a stop there, or ends.
template <std::size_t kRegions>
MOBRIN_INLINE bool Quick::move_on(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const {
  BlockHeader& h = header_of(block);
  const std::int64_t played = at - h.anchor;
  const LapStop* told = nullptr;
  std::uint32_t ended = 0, round = 0;  // regions whose plays end, or come round with more passes to come, a bit each
  Playheads there;
  std::int64_t soonest = kNever;  // ticks
  Cruise cruise;
  const std::size_t count = kRegions > 0 ? kRegions : slots_.size();
  for (std::size_t i = 0; i < count; ++i) {
    there[i] = -1;
    const auto leaf = field_at<std::uint16_t>(block, slots_[i].leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || fades(block, slots_[i])) return false;
    if (!lap.moves) continue;
    const auto here = field_at<std::int64_t>(block, slots_[i].playhead);
    if (stands(lap, here)) continue;
    std::int64_t to = here + lap.pace * played;
    const LapStop* const end = stops_of(lap) + lap.stops;
    const LapStop* next = stop_ahead(lap, here);
    if (to >= lap.cycle && !lap.endless) {
      if (next + 1 != end || !next->ends || told != nullptr) return false;
      told = next;
      if (lap.passes == 1 || field_at<std::uint16_t>(block, slots_[i].passes) + 1 == lap.passes) {
        there[i] = lap.cycle;
        ended |= 1u << i;
        continue;
      }
      to -= lap.cycle;
      next = stops_of(lap);
      if (to >= lap.pace || next->at <= to) return false;
      round |= 1u << i;
    } else if (to >= lap.cycle) {
      if (!lap.round_trip || next != end) return false;
      to = within(lap, to);
      if (to < lap.pace) return false;  // it comes round at this very instant
      next = stops_of(lap);
    }
    there[i] = to;
    if (next != end && next->at <= to) {
      if (!next->quiet || told != nullptr) return false;  // the order of two regions is the engine's
      told = next++;
      if (next != end && next->at <= to) return false;  // it passes several
    }
    soonest = std::min(soonest, ticks_to(next, lap, to));
    cruise.add(lap, index_of(lap, next));
  }
  const std::uint32_t before = at != h.anchor ? 0 : h.ordinal();
  if (told != nullptr && !tell_all(MachineData::view(cues_, told->cues), at, before, sink)) return false;
  if (at != h.anchor) {
    forget_pulses(m_, block);
    h.anchor = at;
    h.set_ordinal(0);
  }
  for (std::size_t i = 0; i < count; ++i)
    if (there[i] >= 0) field_at<std::int64_t>(block, slots_[i].playhead) = there[i];
  for (std::uint32_t bits = ended | round; bits != 0; bits &= bits - 1)
    if (const std::uint32_t passes = slots_[static_cast<std::size_t>(std::countr_zero(bits))].passes;
        passes != kNoOffset)
      ++field_at<std::uint16_t>(block, passes);
  if (told != nullptr)
    h.set_ordinal(before + told->cues.count + (round != 0 ? 1 : 0));  // the round is one that nobody hears
  if (ended != 0) return come_to_rest<kRegions>(block, at, sink, undo, after);
  after = {soonest == kNever ? kNever : at + soonest, cruise.stop()};
  return true;
}

// Settles a block that has moved to `at`. Where that is more than the quick way can do, the block is one with which the
// engine goes on at that very instant.
template <std::size_t kRegions>
inline bool Quick::come_to_rest(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const {
  BlockHeader& h = header_of(block);
  h.flags |= kDirty;
  Instant now(block, at, sink, undo, h.ordinal());
  if (!settle<kRegions>(now) || sink.full) {
    if (now.taken) take_back(now);
    return false;
  }
  h.flags = kStarted;
  if (now.taken) h.set_ordinal(now.ordinal);
  after = this->after<kRegions>(now);
  return true;
}

}  // namespace mobrin::detail
