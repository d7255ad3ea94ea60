// A block's values: what of them is over, and their bytes.
#include <algorithm>
#include <bit>
#include <set>

#include "machine/machine_data.hpp"

namespace mobrin::detail {
namespace {

// Calls visit(offset, size) for each value of more than a byte.
template <class Visit>
void each_wide_value(const MachineData& m, const Visit& visit) {
  const auto there = [&](std::uint32_t offset, std::size_t size) {
    if (offset != kNoOffset) visit(offset, size);
  };
  visit(offsetof(BlockHeader, now), 8), visit(offsetof(BlockHeader, wake), 8), visit(offsetof(BlockHeader, anchor), 8);
  visit(offsetof(BlockHeader, frozen), 4), visit(offsetof(BlockHeader, packed), 4);
  visit(offsetof(BlockHeader, lowest), 2);
  const auto slot = [&](const SlotData& values) {
    there(values.playhead, 8), there(values.speed, 4), there(values.passes, 2);
  };
  for (const InputData& input : m.inputs) {
    if (input.kind == InputKind::whole || input.kind == InputKind::number) there(input.offset, 4);
    if (input.kind == InputKind::pulse && input.buffer > 0) there(input.offset, 8);
  }
  for (const VarData& var : m.vars)
    if (var.type == ValueType::whole || var.type == ValueType::number) there(var.offset, 4);
  for (const RegionData& region : m.regions) {
    there(region.leaf, 2), there(region.rest, 2), there(region.fade_length, 8), there(region.fade_run, 8);
    slot(region.slot);
    for (const LayerData& layer : region.layers) slot(layer.slot), there(layer.weight, 4), there(layer.state, 2);
  }
  std::set<std::uint32_t> timers;  // some states share one
  for (const StateData& state : m.states) {
    there(state.back, 2), there(state.last_child, 2);
    if (timers.insert(state.timer).second) there(state.timer, 8);
  }
}

// Whether an active state has the same timer as one that is not.
bool active_with_timer(const MachineData& m, const std::byte* block, const StateData& idle) {
  if (leaf_of(m, block, idle.region) == kNoIndex) return false;
  std::uint16_t state = leaf_of(m, block, idle.region);
  while (m.states[state].depth > idle.depth) state = m.states[state].parent;
  return m.states[state].timer == idle.timer;
}

}  // namespace

void forget_what_is_over(const MachineData& m, std::byte* block) {
  const std::int64_t now = header_of(block).now;
  for (const InputData& input : m.inputs)
    if (input.kind == InputKind::pulse && !pulse_alive(block, input, now)) forget_pulse(block, input);
  for (std::uint16_t s = 1; s < m.states.size(); ++s) {  // the root is active from the start on
    const StateData& state = m.states[s];
    if (is_active(m, block, s)) continue;
    for (const VarData& var : MachineData::view(m.vars, state.vars)) {
      if (var.type == ValueType::whole || var.type == ValueType::number)
        field_at<std::uint32_t>(block, var.offset) = 0;
      else
        field_at<std::uint8_t>(block, var.offset) = 0;
    }
    if (state.timer != kNoOffset && !active_with_timer(m, block, state)) field_at<std::int64_t>(block, state.timer) = 0;
  }
}

void to_little_endian(const MachineData& m, std::byte* block) {
  if constexpr (std::endian::native == std::endian::big)
    each_wide_value(m,
                    [&](std::size_t offset, std::size_t size) { std::reverse(block + offset, block + offset + size); });
}

}  // namespace mobrin::detail
