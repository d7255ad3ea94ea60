// What may be taken where a leaf is active, and what is told at once: for the files of the quick way, which are made of
// these.
#pragma once

#include <bit>

#include "engine/quick.hpp"
#include "machine/inlining.hpp"

namespace mobrin::detail {

// In which byte of a word the lowest bit lies that is set, in memory's order. REQUIRES: one is.
[[nodiscard]] inline std::size_t byte_of_lowest(std::uint64_t word) {
  const auto from_lowest = static_cast<std::size_t>(std::countr_zero(word)) / 8;
  return std::endian::native == std::endian::little ? from_lowest : sizeof word - 1 - from_lowest;
}

// Where a byte of a word lies in it.
[[nodiscard]] inline unsigned shift_of_byte(std::uint32_t byte) {
  return 8 * (std::endian::native == std::endian::little
                  ? byte
                  : static_cast<std::uint32_t>(sizeof(std::uint64_t)) - 1 - byte);
}

// False, with nothing told, where there is no room. They are numbered from `before` on.
MOBRIN_INLINE bool Quick::tell_all(std::span<const CrowdCue> cues, std::int64_t at, std::uint32_t before, Sink& sink) {
  if (!sink.listens(Told::cue)) return true;
  if (sink.crowd != nullptr) {
    if (!sink.crowd->has_room(cues.size())) return false;
    sink.crowd->append(cues, Ticks(at), sink.place, before);
    return true;
  }
  if (sink.list->capacity() - sink.list->size() < cues.size()) return false;
  for (const CrowdCue& each : cues) {
    Cue cue = each.cue;
    cue.at = Ticks(at);
    cue.ordinal += before;
    sink.put(cue);
  }
  return true;
}

// Whether what it waits for is so, and its guard holds.
MOBRIN_INLINE bool Quick::opens(const PlanGo& go, std::uint16_t owner, const std::byte* block, std::int64_t at) const {
  switch (go.event) {
    case GoEvent::none:
      break;
    case GoEvent::after:
      if (!time_is_over(go, owner, block, at)) return false;
      break;
    case GoEvent::pulse:
      if (go.buffered ? field_at<std::int64_t>(block, go.pulse) < at : field_at<std::uint8_t>(block, go.pulse) == 0)
        return false;
      break;
    case GoEvent::at_end:
      if (!stands_at_end(m_, block, owner)) return false;
      break;
    case GoEvent::cue:
    case GoEvent::at_loop:
      return false;  // what was told is over
  }
  return go.guard == PlanGo::Guard::nothing || plan_.guard_holds(m_, programs_, block, go);
}

// The same of a leaf's own list.
MOBRIN_INLINE bool Quick::opens(const LeafGo& go, const std::byte* block, std::int64_t at) const {
  if ((field_at<std::uint64_t>(block, go.word.at) & go.word.mask) != go.wanted) return false;
  if (go.waits == LeafGo::Waits::more) return more_opens(plan_.gos[go.go], go.owner, block, at);
  if (go.waits == LeafGo::Waits::buffered_pulse && field_at<std::int64_t>(block, go.pulse) < at) return false;
  if (go.guard == PlanGo::Guard::nothing) return true;
  if (go.guard == PlanGo::Guard::program) return plan_.guard_holds(m_, programs_, block, plan_.gos[go.go]);
  return plan_.terms_hold(go.guards, go.guard == PlanGo::Guard::any, block);
}

// The first of a state's transitions, from `go` on, that may be taken; null for none.
MOBRIN_INLINE const PlanGo* Quick::open_from(const PlanGo* go, std::uint16_t owner, std::uint16_t leaf,
                                             const std::byte* block, std::int64_t at) const {
  const Range<PlanGo> all = plan_.states[owner].go;
  for (const PlanGo* const end = plan_.gos.data() + all.begin + all.count; go != end; ++go) {
    if (!opens(*go, owner, block, at)) continue;
    if (!go->plain) return go;
    if (plan_.seals && sealed_from(m_, owner, leaf)) continue;
    if (go->restart || leaf < go->target || leaf > go->target_last) return go;
    if (go->stands) break;  // the rest of the list is passed over
  }
  return nullptr;
}

// Whether some pulse without a buffer is alive besides the one that a transition takes, if it takes one.
MOBRIN_INLINE bool Quick::any_pulse_but(const PlanGo& go, const std::byte* block) const {
  std::uint64_t alive = 0;
  for (const WordMask& pulses : plan_.brief_pulses) {
    std::uint64_t mask = pulses.mask;
    if (const std::uint32_t byte = go.pulse - pulses.at; byte < sizeof mask)
      mask &= ~(std::uint64_t{0xff} << shift_of_byte(byte));
    alive |= field_at<std::uint64_t>(block, pulses.at) & mask;
  }
  return alive != 0;
}

// The first of the transitions of a leaf that hears pulses only that may wait for one which is alive; kNoIndex for
// none.
MOBRIN_INLINE std::uint16_t Quick::first_heard(const StatePlan& plan, const std::byte* block) const {
  std::uint16_t first = kNoIndex;
  const std::uint16_t* heard = plan_.by_pulse.data() + plan_.states[plan.hears].by_pulse.begin;
  for (const WordMask& pulses : plan_.brief_pulses) {
    std::uint64_t alive = field_at<std::uint64_t>(block, pulses.at) & pulses.mask;
    for (; alive != 0; alive &= alive - 1) first = std::min(first, heard[byte_of_lowest(alive)]);
    heard += sizeof(std::uint64_t);
  }
  return first;
}

// The first of them that may be taken; null for none.
MOBRIN_INLINE const PlanGo* Quick::heard(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                         std::int64_t at) const {
  const std::uint16_t first = first_heard(plan, block);
  if (first == kNoIndex) return nullptr;
  const PlanGo* const go = plan_.gos.data() + plan_.states[plan.hears].go.begin + first;
  if (go->sure && (go->restart || leaf < go->target || leaf > go->target_last)) return go;
  return heard_from(go, plan, leaf, block, at);
}

// The first transition of a leaf and those around it that may be taken, as Engine::look_at finds it; null for none.
MOBRIN_INLINE const PlanGo* Quick::open(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                        std::int64_t at) const {
  if (plan.hears != kNoIndex) return heard(plan, leaf, block, at);
  if (!plan.has_leaf_gos) return open_on_path(plan, leaf, block, at);
  if (plan.leaf_gos.count == 0) return nullptr;
  const LeafGo* const first = plan_.leaf_gos.data() + plan.leaf_gos.begin;
  return first_open(first, first + plan.leaf_gos.count, block, at);
}

}  // namespace mobrin::detail
