// The quick way where one transition with a script is all that comes of what was written: as it is, without keeping the
// block that was before it.
#include <algorithm>
#include <array>
#include <cstring>
#include <utility>

#include "engine/quick_open.hpp"

namespace mobrin::detail {

bool Quick::answer(std::byte* block, std::int64_t at, Sink& sink, After& after, const PlanGo*& taken) const {
  BlockHeader& h = header_of(block);
  if (!single_ || h.flags != (kStarted | kDirty)) return false;
  if (h.frozen != 0 || h.rate() != kOne || at < h.anchor || at - h.anchor > kLongestQuick) return false;
  const Slot& slot = slots_[0];
  const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
  if (leaf == kNoIndex || !laps_[leaf].quick || fades(block, slot)) return false;
  if (const Lap& lap = laps_[leaf]; lap.moves) {
    if (turns(lap, field_at<std::int64_t>(block, slot.playhead), at - h.anchor)) return false;
  }
  const PlanGo* const go = open(plan_.states[leaf], leaf, block, at);
  if (go == nullptr || !go->plain || go->script == kNoScript || hears_states(sink)) return false;
  const Script& script = plan_.scripts[go->script];
  constexpr std::size_t kMostPatches = 8;
  if (script.patches.count > kMostPatches) return false;
  const StatePlan& target = plan_.states[go->leaf];
  // Before the byte is written: a word that is read right after waits for that.
  const bool heard = target.hears != kNoIndex && any_pulse_but(*go, block);
  // As after it; then back, if that is not all.
  std::array<std::uint64_t, kMostPatches> before;
  const Patch* const patches = plan_.patches.data() + script.patches.begin;
  for (std::size_t i = 0; i < script.patches.count; ++i) {
    std::memcpy(&before[i], block + patches[i].at, sizeof before[i]);
    patches[i].apply(block);
  }
  std::int64_t pulse = 0;
  if (go->event == GoEvent::pulse) {
    if (go->buffered)
      pulse = std::exchange(field_at<std::int64_t>(block, go->pulse), kLongAgo);
    else
      field_at<std::uint8_t>(block, go->pulse) = 0;
  }
  const std::uint32_t ordinal = at != h.anchor ? 0 : h.ordinal();
  const bool more = target.hears != kNoIndex ? heard : open(target, go->leaf, block, at) != nullptr;
  if (more || (script.cues.count > 0 && !tell_all(MachineData::view(plan_.cues, script.cues), at, ordinal, sink))) {
    if (go->event == GoEvent::pulse) {
      if (go->buffered)
        field_at<std::int64_t>(block, go->pulse) = pulse;
      else
        field_at<std::uint8_t>(block, go->pulse) = 1;
    }
    for (std::size_t i = 0; i < script.patches.count; ++i)
      std::memcpy(block + patches[i].at, &before[i], sizeof before[i]);
    return false;
  }
  h.anchor = at;
  h.set_ordinal(std::min(kMaxOrdinal, ordinal + script.records));
  h.flags = kStarted;
  const Lap& lap = laps_[go->leaf];
  Cruise cruise;
  if (lap.moves) cruise.add(lap, lap.first_stop);
  after = {!lap.moves || lap.to_first == kNever ? kNever : at + lap.to_first, cruise.stop()};
  taken = go;
  return true;
}

}  // namespace mobrin::detail
