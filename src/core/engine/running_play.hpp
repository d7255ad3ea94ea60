// Run: one play at work. What it plays, and its values in the block.
#pragma once

#include <type_traits>

#include "compile/timeline.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::detail {

// Refers to machine and block; cheap to make, not to be kept. REQUIRES: the state's play moves.
template <class Byte>
class BasicRun {
  template <class T>
  using Value = std::conditional_t<std::is_const_v<Byte>, const T, T>;

 public:
  BasicRun(const MachineData& machine, Byte* block, const SlotData& slot, std::uint16_t state)
      : m_(&machine), b_(block), slot_(&slot), state_(state), play_(&machine.states[state].play) {}
  // The play of a region's leaf.
  BasicRun(const MachineData& machine, Byte* block, std::uint16_t region)
      : BasicRun(machine, block, machine.regions[region].slot, leaf_of(machine, block, region)) {}

  [[nodiscard]] std::uint16_t state() const { return state_; }
  [[nodiscard]] const PlayData& play() const { return *play_; }
  [[nodiscard]] const PlayedClip& played() const { return m_->played[play_->clips.begin + choice()]; }
  [[nodiscard]] const ClipData& clip() const { return m_->clips[played().clip]; }
  [[nodiscard]] std::span<const Stop> stops() const { return MachineData::view(m_->stops, played().stops); }
  [[nodiscard]] std::int64_t cycle() const { return clip().cycle << kSubBits; }

  [[nodiscard]] Value<std::int64_t>& playhead() const { return value<std::int64_t>(slot_->playhead); }
  // What a region stores of its plays depends on what they need: see compile_block.cpp.
  [[nodiscard]] std::int32_t speed() const {
    return slot_->speed != kNoOffset ? value<std::int32_t>(slot_->speed) : play_->speed;
  }
  void set_speed(std::int32_t speed) const {
    if (slot_->speed != kNoOffset) value<std::int32_t>(slot_->speed) = speed;
  }
  [[nodiscard]] bool backward() const {
    return slot_->passes != kNoOffset ? (value<std::uint16_t>(slot_->passes) & kBackward) != 0 : play_->speed < 0;
  }
  [[nodiscard]] std::int32_t passes() const {
    return slot_->passes != kNoOffset ? value<std::uint16_t>(slot_->passes) & ~kBackward : 0;
  }
  void set_passes(bool backward, std::int32_t passes) const {
    if (slot_->passes != kNoOffset)
      value<std::uint16_t>(slot_->passes) = static_cast<std::uint16_t>((backward ? kBackward : 0) | passes);
  }
  [[nodiscard]] std::uint8_t choice() const {
    return play_->chooses() ? value<std::uint8_t>(slot_->choice) : std::uint8_t{0};
  }
  void set_choice(std::uint8_t choice) const {
    if (slot_->choice != kNoOffset) value<std::uint8_t>(slot_->choice) = choice;
  }

  [[nodiscard]] bool ended() const { return clip().passes > 0 && passes() >= clip().passes; }
  // The edge of the cycle it runs toward.
  [[nodiscard]] std::int64_t edge_ahead() const { return backward() ? 0 : cycle(); }
  [[nodiscard]] std::int64_t edge_behind() const { return backward() ? cycle() : 0; }
  [[nodiscard]] const Segment& segment() const { return clip().segments[segment_at(clip(), playhead(), backward())]; }

 private:
  template <class T>
  [[nodiscard]] Value<T>& value(std::uint32_t offset) const {
    return field_at<T>(b_, offset);
  }

  const MachineData* m_;
  Byte* b_;
  const SlotData* slot_;
  std::uint16_t state_;
  const PlayData* play_;
};

using Run = BasicRun<std::byte>;
using ConstRun = BasicRun<const std::byte>;

// Whether a play is to turn, or stands on the edge it would run toward: its speed was set while all was held.
template <class Byte>
[[nodiscard]] inline bool turns(const BasicRun<Byte>& run) {
  if (run.speed() == 0) return false;
  return run.backward() != (run.speed() < 0) || (!run.ended() && run.playhead() == run.edge_ahead());
}

// The region whose play a state's `at:` and `during:` speak of.
[[nodiscard]] inline std::uint16_t played_region(const MachineData& machine, std::uint16_t state) {
  return state == 0 ? machine.states[0].region_begin : machine.states[state].region;
}
// Whether the play that a state's `at:` speaks of stands at its end. REQUIRES: the state is active.
[[nodiscard]] inline bool stands_at_end(const MachineData& machine, const std::byte* block, std::uint16_t state) {
  const std::uint16_t region = played_region(machine, state);
  return machine.states[leaf_of(machine, block, region)].play.moves() && ConstRun(machine, block, region).ended();
}

// Where a play stands, and the edges it has reached.
struct Reached {
  std::int64_t playhead = 0;
  std::int32_t passes = 0;
};
// Where a play stands that runs `way` sub-ticks further (negative: backwards), edges included, nothing told.
[[nodiscard]] Reached run_on(const ClipData& clip, Reached from, Wide way);

}  // namespace mobrin::detail
