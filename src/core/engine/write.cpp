#include "engine/write.hpp"

#include <algorithm>
#include <cmath>

#include "engine/engine.hpp"

namespace mobrin::detail {
namespace {

template <class T>
Stored keep(std::byte* block, std::uint32_t offset, T value, bool clamped) {
  T& stored = field_at<T>(block, offset);
  const bool changes = stored != value;
  stored = value;
  return {clamped ? Written::clamped : changes ? Written::changed : Written::same, changes};
}

}  // namespace

Stored store(const MachineData& m, std::byte* block, std::uint16_t input, bool value) {
  return keep<std::uint8_t>(block, m.inputs[input].offset, value ? 1 : 0, false);
}

Stored store(const MachineData& m, std::byte* block, std::uint16_t input, std::int32_t value) {
  const InputData& data = m.inputs[input];
  const std::int32_t kept = std::clamp(value, data.whole_min, data.whole_max);
  return keep(block, data.offset, kept, kept != value);
}

Stored store(const MachineData& m, std::byte* block, std::uint16_t input, float value) {
  if (std::isnan(value)) return {};
  const InputData& data = m.inputs[input];
  float kept = std::clamp(value, data.min, data.max);
  const bool clamped = kept != value;
  if (data.grain > 0 && std::isfinite(kept))
    kept = static_cast<float>(std::clamp(std::nearbyint(static_cast<double>(kept) / data.grain) * data.grain,
                                         static_cast<double>(data.min), static_cast<double>(data.max)));
  kept += 0.0f;  // no negative zero
  return keep(block, data.offset, kept, clamped);
}

Stored store(const MachineData& m, std::byte* block, std::uint16_t input, Choice value) {
  const auto& choices = std::get<ChoiceInput>(m.input_defs[input].kind).choices;
  if (value.index >= choices.size()) return {};
  return keep(block, m.inputs[input].offset, value.index, false);
}

void store_pulse(std::byte* block, const InputData& pulse, std::int64_t now) {
  if (pulse.buffer > 0)
    field_at<std::int64_t>(block, pulse.offset) = now + pulse.buffer;
  else
    field_at<std::uint8_t>(block, pulse.offset) = 1;
}

bool restart_block(const MachineData& m, std::byte* block) {
  for (const InputData& input : m.inputs)
    if (input.kind == InputKind::pulse) forget_pulse(block, input);
  BlockHeader& header = header_of(block);
  if ((header.flags & kStarted) == 0) return false;
  header.flags |= kReset;
  return true;
}

bool change_rate(const MachineData& m, std::byte* block, double rate, bool hears_loops) {
  BlockHeader& header = header_of(block);
  const std::int32_t fixed = fixed_speed(rate);
  if (fixed == header.rate()) return false;
  reanchor(m, block, header.now);
  const bool held = header.rate() == 0;
  header.set_rate(fixed);
  // What was set meanwhile takes effect now.
  const auto turns_in = [&](std::uint16_t region) {
    const std::uint16_t leaf = leaf_of(m, block, region);
    return leaf != kNoIndex && m.states[leaf].play.moves() && turns(ConstRun(m, block, region));
  };
  if (held && (header.flags & kStarted) != 0 && (header.flags & kDone) == 0 &&
      (std::any_of(m.speed_regions.begin(), m.speed_regions.end(), turns_in) ||
       std::any_of(m.choice_regions.begin(), m.choice_regions.end(), turns_in)))
    header.flags |= kRetake;
  update_wake(m, block, hears_loops);
  return true;
}

bool begin_freeze(const MachineData& m, std::byte* block, std::int64_t ticks, bool hears_loops) {
  BlockHeader& header = header_of(block);
  if (header.now + ticks <= header.anchor + header.frozen) return false;
  reanchor(m, block, header.now);
  header.frozen = static_cast<std::uint32_t>(ticks);
  update_wake(m, block, hears_loops);
  return true;
}

FieldValue value_of(const MachineData& m, const std::byte* block, std::uint16_t index, std::int64_t now) {
  const InputData& input = m.inputs[index];
  return input.kind == InputKind::pulse ? FieldValue(pulse_lives(m, block, index, now)) : stored_value(m, block, index);
}

bool pulse_lives(const MachineData& m, const std::byte* block, std::uint16_t index, std::int64_t now) {
  const InputData& input = m.inputs[index];
  // One without a buffer lives at the instant it was written for.
  const BlockHeader& header = header_of(block);
  const bool this_instant = now == header.anchor || (header.flags & kDirty) != 0;
  return pulse_alive(block, input, now) && (input.buffer > 0 || this_instant);
}

bool has_trait(const MachineData& m, const std::byte* block, std::uint16_t trait) {
  for (std::uint16_t s = 0; s < m.states.size(); ++s)
    if ((m.states[s].traits >> trait & 1) != 0 && is_active(m, block, s)) return true;
  return false;
}

}  // namespace mobrin::detail
