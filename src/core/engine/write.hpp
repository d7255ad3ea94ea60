// Writing inputs into a block, for Instance and Crowd alike.
#pragma once

#include "engine/engine.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::detail {

// What became of a written value, and whether the stored one is another now.
struct Stored {
  Written written = Written::refused;
  bool changes = false;
};

[[nodiscard]] Stored store(const MachineData& machine, std::byte* block, std::uint16_t input, bool value);
[[nodiscard]] Stored store(const MachineData& machine, std::byte* block, std::uint16_t input, std::int32_t value);
[[nodiscard]] Stored store(const MachineData& machine, std::byte* block, std::uint16_t input, float value);
[[nodiscard]] Stored store(const MachineData& machine, std::byte* block, std::uint16_t input, Choice value);
void store_pulse(std::byte* block, const InputData& pulse, std::int64_t now);

// Done, and not about to start anew: what is written is kept but wakes nobody.
[[nodiscard]] inline bool rests(const BlockHeader& header) { return (header.flags & (kDone | kReset)) == kDone; }

// Lets the next instant settle. `now` is the block's clock. REQUIRES: it does not rest.
inline void stir_block(const MachineData& machine, std::byte* block, std::int64_t now) {
  BlockHeader& header = header_of(block);
  if ((header.flags & kDirty) == 0 && now != header.anchor && !machine.brief_pulses.empty())
    forget_pulses(machine, block);  // those of the last instant
  header.flags |= kDirty;
}
// Back to the beginning at the next instant; false where it has not begun.
bool restart_block(const MachineData& machine, std::byte* block);
// Whether a pulse is alive at `now`.
[[nodiscard]] bool pulse_lives(const MachineData& machine, const std::byte* block, std::uint16_t pulse,
                               std::int64_t now);
[[nodiscard]] FieldValue value_of(const MachineData& machine, const std::byte* block, std::uint16_t input,
                                  std::int64_t now);

// Sets the rate or begins a freeze at the block's clock; false where it has that rate already, or a longer freeze. For
// `hears_loops` see update_wake().
bool change_rate(const MachineData& machine, std::byte* block, double rate, bool hears_loops = true);
bool begin_freeze(const MachineData& machine, std::byte* block, std::int64_t ticks, bool hears_loops = true);

// What a region shows at `now`. REQUIRES: there is such a region.
[[nodiscard]] Shown show(const MachineData& machine, const std::byte* block, std::uint16_t region, std::int64_t now);
// The first look whose condition holds; kNoIndex for none.
[[nodiscard]] std::uint16_t look_of(const MachineData& machine, const std::byte* block);
[[nodiscard]] bool has_trait(const MachineData& machine, const std::byte* block, std::uint16_t trait);

}  // namespace mobrin::detail
