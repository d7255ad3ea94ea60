#include "engine/quick.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "machine/block_memory.hpp"

namespace mobrin::detail {
namespace {

// Of blocks, which are whole words.
inline void copy_words(std::byte* to, const std::byte* from, std::size_t bytes) {
  for (std::size_t i = 0; i < bytes; i += sizeof(std::uint64_t)) std::memcpy(to + i, from + i, sizeof(std::uint64_t));
}

}  // namespace

inline std::int64_t Quick::ticks_to(const LapStop* next, const Lap& lap, std::int64_t here) const {
  std::int64_t distance = 0;
  if (next != stops_of(lap) + lap.stops)
    distance = next->at - here;
  else if (lap.stops > 0 && lap.round_trip)
    distance = lap.cycle - here + stops_of(lap)->at;
  else
    return kNever;
  return ticks_to_cover(distance, lap.pace);
}

// When the next stop comes, as update_wake() finds it; not `plain` where something else may come before.
std::int64_t Quick::next_wake(const std::byte* block, std::int64_t at, bool& plain) const {
  std::int64_t soonest = kNever;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    plain = plain && lap.quick;
    if (!lap.moves || !plain) continue;
    const auto here = field_at<std::int64_t>(block, slot.playhead);
    if (!lap.round_trip && here == lap.cycle) continue;  // it has ended and stands
    soonest = std::min(soonest, ticks_to(stop_ahead(lap, here), lap, here));
  }
  return soonest == kNever ? kNever : at + soonest;
}

// --- settling -------------------------------------------------------------------------------------------------------

inline void Quick::act(Instant& now, Range<Deed> deeds, std::uint32_t transition) const {
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
    if (mark.at != MarkAt::frames || !covers(mark, shown)) continue;
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

// See Engine::sealed_off.
bool Quick::sealed(std::uint16_t owner, std::uint16_t leaf) const {
  for (std::uint16_t s = leaf; s != 0 && s != owner; s = m_.states[s].parent)
    if (m_.states[s].sealed && !(owner >= s && owner <= m_.states[s].last)) return true;
  return false;
}

// See Engine::go_to. False, with nothing done, where it is not plain on its whole way.
inline bool Quick::take(Instant& now, const PlanGo& go, std::uint16_t leaf) const {
  const bool whole = go.whole.count > 0 && !now.hears_states;
  if (!whole && !is_plain(go, leaf)) return false;
  if (!now.taken) {
    copy_words(now.undo + kElsewhere, now.b + kElsewhere, m_.block_size - kElsewhere);
    now.told_before = now.sink.mark();
    now.taken = true;
  }
  if (whole)
    act(now, go.whole, kNoTransition);
  else
    take_step_by_step(now, go, leaf);
  if (go.event == GoEvent::pulse) now.pulses[now.pulse_count++] = &go;
  return true;
}

bool Quick::is_plain(const PlanGo& go, std::uint16_t leaf) const {
  const StatePlan& last = plan_.states[go.leaf];
  return last.steady && last.begins && last.enters_all && plan_.states[leaf].leaves_all;
}

void Quick::take_step_by_step(Instant& now, const PlanGo& go, std::uint16_t leaf) const {
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
}

inline bool Quick::event_holds(const PlanGo& go, std::uint16_t owner, const std::byte* block, std::int64_t at) const {
  if (go.event == GoEvent::none) return true;
  if (go.event == GoEvent::pulse)
    return go.buffered ? field_at<std::int64_t>(block, go.pulse) >= at : field_at<std::uint8_t>(block, go.pulse) != 0;
  if (go.event == GoEvent::at_end) return stands_at_end(m_, block, owner);
  return rule_of(go.event).lasts;  // what was told is over
}

// Looks at a state's own transitions in order, as Engine::look_at does.
inline Quick::Look Quick::look(Instant& now, std::uint16_t state, std::uint16_t leaf) const {
  const Range<TransitionData> range = m_.states[state].go;
  const PlanGo* const end = plan_.gos.data() + range.begin + range.count;
  for (const PlanGo* go = end - range.count; go != end; ++go) {
    if (!event_holds(*go, state, now.b, now.at)) continue;
    if (go->event == GoEvent::after) return Look::beyond;  // a time runs
    if (!plan_.guard_holds(m_, programs_, now.b, *go)) continue;
    if (!go->plain) return Look::beyond;
    if (plan_.seals && sealed(state, leaf)) continue;
    if (!go->restart && leaf >= go->target && leaf <= go->target_last) {
      if (go->stands) return Look::nothing;
      continue;
    }
    return take(now, *go, leaf) ? Look::taken : Look::beyond;
  }
  return Look::nothing;
}

bool Quick::may_take(std::uint16_t state, std::uint16_t leaf, const std::byte* block, std::int64_t at) const {
  const Range<TransitionData> range = m_.states[state].go;
  for (const PlanGo& go : std::span(plan_.gos).subspan(range.begin, range.count)) {
    if (!event_holds(go, state, block, at) || !plan_.guard_holds(m_, programs_, block, go)) continue;
    if (go.event == GoEvent::after || !go.plain || go.restart || leaf < go.target || leaf > go.target_last) return true;
    if (go.stands) return false;
  }
  return false;
}

bool Quick::may_take(const std::byte* block, std::int64_t at) const {
  if (!possible_) return true;
  if (root_looks_ &&
      may_take(0, slots_.size() == 1 ? field_at<std::uint16_t>(block, slots_[0].leaf) : kNoIndex, block, at))
    return true;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    for (const std::uint16_t state : MachineData::view(plan_.paths, plan_.states[leaf].path))
      if (may_take(state, leaf, block, at)) return true;
  }
  return false;
}

inline Quick::Look Quick::look_at_one(Instant& now) const {
  const auto leaf = field_at<std::uint16_t>(now.b, slots_[0].leaf);
  if (leaf == kNoIndex) return Look::nothing;
  const StatePlan& plan = plan_.states[leaf];
  if (plan.hears_brief_only && now.taken && !any_brief(now.b)) return Look::nothing;
  if (root_looks_)
    if (const Look looked = look(now, 0, leaf); looked != Look::nothing) return looked;
  const std::uint16_t* const path = plan_.paths.data() + plan.path.begin;
  for (std::uint32_t i = 0; i < plan.path.count; ++i)
    if (const Look looked = look(now, path[i], leaf); looked != Look::nothing) return looked;
  return Look::nothing;
}

Quick::Look Quick::look_at_all(Instant& now) const {
  if (root_looks_)
    if (const Look looked = look(now, 0, kNoIndex); looked != Look::nothing) return looked;
  Look out = Look::nothing;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(now.b, slot.leaf);
    if (leaf == kNoIndex) continue;
    for (const std::uint16_t state : MachineData::view(plan_.paths, plan_.states[leaf].path)) {
      const Look looked = look(now, state, leaf);
      if (looked == Look::nothing) continue;
      if (looked == Look::beyond) return looked;
      out = looked;
      break;
    }
  }
  return out;
}

// What Engine::settle does, with the plan's transitions. False where one is not plain, or it comes to no rest.
template <std::size_t kRegions>
inline bool Quick::settle(Instant& now) const {
  for (int round = 0; round < kMaxMicrosteps; ++round) {
    now.pulse_count = 0;
    const Look looked = kRegions == 1 ? look_at_one(now) : look_at_all(now);
    if (looked == Look::beyond) return false;
    for (std::size_t i = 0; i < now.pulse_count; ++i) {
      const PlanGo& go = *now.pulses[i];
      if (go.buffered)
        field_at<std::int64_t>(now.b, go.pulse) = kLongAgo;
      else
        field_at<std::uint8_t>(now.b, go.pulse) = 0;
    }
    if (looked == Look::nothing) return true;
  }
  return false;
}

// Back to before the first transition was taken.
void Quick::take_back(Instant& now) const {
  copy_words(now.b + kElsewhere, now.undo + kElsewhere, m_.block_size - kElsewhere);
  now.sink.back_to(now.told_before);
}

// --- an instant ------------------------------------------------------------------------------------------------------

bool Quick::instant(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, std::int64_t& wake) const {
  if (!possible_) return false;
  switch (slots_.size()) {
    case 1:
      return instant_of<1>(block, at, sink, undo, wake);
    case 2:
      return instant_of<2>(block, at, sink, undo, wake);
    default:
      return instant_of<0>(block, at, sink, undo, wake);
  }
}

// Of so many regions; 0 for any number.
template <std::size_t kRegions>
inline bool Quick::instant_of(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo,
                              std::int64_t& wake) const {
  BlockHeader& h = header_of(block);
  if (h.frozen != 0 || h.rate() != kOne) return false;
  const bool written = h.flags == (kStarted | kDirty);
  if (h.flags != kStarted && !written) return false;
  const std::int64_t played = at - h.anchor;
  if (played > kLongestQuick) return false;
  const LapStop* told = nullptr;
  std::uint32_t ended = 0;                            // regions whose plays do, a bit each
  std::array<std::int64_t, kMostQuickRegions> there;  // each region's playhead
  std::int64_t soonest = kNever;                      // ticks
  const std::size_t count = kRegions > 0 ? kRegions : slots_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const Slot& slot = slots_[i];
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    there[i] = -1;
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || (slot.fade_length != kNoOffset && field_at<std::int64_t>(block, slot.fade_length) != 0))
      return false;
    if (!lap.moves) continue;
    const auto here = field_at<std::int64_t>(block, slot.playhead);
    if (!lap.round_trip && here == lap.cycle) continue;  // it has ended and stands
    std::int64_t to = here + lap.pace * played;
    const LapStop* const end = stops_of(lap) + lap.stops;
    const LapStop* next = stop_ahead(lap, here);
    if (to >= lap.cycle && !lap.endless) {
      if (next + 1 != end || !next->ends || told != nullptr) return false;
      told = next;
      there[i] = lap.cycle;
      ended |= 1u << i;
      continue;
    }
    if (to >= lap.cycle) {
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
  }
  if (told != nullptr && !room_for(*told, sink)) return false;
  if (at != h.anchor) {
    if (!written) forget_pulses(m_, block);
    h.anchor = at;
    h.set_ordinal(0);
  }
  for (std::size_t i = 0; i < count; ++i)
    if (there[i] >= 0) field_at<std::int64_t>(block, slots_[i].playhead) = there[i];
  for (std::uint32_t bits = ended; bits != 0; bits &= bits - 1)
    if (const std::uint32_t passes = slots_[static_cast<std::size_t>(std::countr_zero(bits))].passes;
        passes != kNoOffset)
      field_at<std::uint16_t>(block, passes) = 1;
  if (told != nullptr) tell_stop(*told, at, sink, h);
  const std::int64_t next = soonest == kNever ? kNever : at + soonest;
  if (!written && ended == 0) {
    wake = next;
    return true;
  }
  // From here on the block is one that the engine goes on with, at this very instant.
  h.flags |= kDirty;
  Instant now(block, at, sink, undo, h.ordinal());
  const bool rests = settle<kRegions>(now);
  if (!now.taken) {
    if (!rests) return false;
    h.flags = kStarted;
    wake = next;
    return true;
  }
  bool plain = rests && !sink.full;
  const std::int64_t after = plain ? next_wake(block, at, plain) : 0;
  if (!plain) {
    take_back(now);
    return false;
  }
  wake = after;
  h.flags = kStarted;
  h.set_ordinal(now.ordinal);
  return true;
}

bool Quick::room_for(const LapStop& stop, Sink& sink) const {
  if (!sink.listens(Told::cue)) return true;
  return sink.crowd != nullptr ? sink.crowd->has_room(stop.cues.count)
                               : sink.list->capacity() - sink.list->size() >= stop.cues.count;
}

void Quick::tell_stop(const LapStop& stop, std::int64_t at, Sink& sink, BlockHeader& header) const {
  const std::uint32_t before = header.ordinal();
  header.set_ordinal(before + stop.cues.count);
  if (!sink.listens(Told::cue)) return;
  const auto cues = MachineData::view(cues_, stop.cues);
  if (sink.crowd != nullptr && before == 0) return sink.crowd->append(cues, Ticks(at), sink.place);
  for (const CrowdCue& each : cues) {
    Cue cue = each.cue;
    cue.at = Ticks(at);
    cue.ordinal += before;
    sink.put(cue);
  }
}

}  // namespace mobrin::detail
