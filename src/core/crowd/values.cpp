// What inputs and variables hold, by their handles: of an instance, and of a crowd's member.
#include "crowd/crowd_data.hpp"
#include "engine/write.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {
namespace detail {
namespace {

bool value(const MachineData& m, const std::byte* block, Input<bool> input, std::int64_t) {
  return field_at<std::uint8_t>(block, m.inputs[input.index].offset) != 0;
}
std::int32_t value(const MachineData& m, const std::byte* block, Input<std::int32_t> input, std::int64_t) {
  return field_at<std::int32_t>(block, m.inputs[input.index].offset);
}
float value(const MachineData& m, const std::byte* block, Input<float> input, std::int64_t) {
  return field_at<float>(block, m.inputs[input.index].offset);
}
Choice value(const MachineData& m, const std::byte* block, Input<Choice> input, std::int64_t) {
  return {field_at<std::uint8_t>(block, m.inputs[input.index].offset)};
}
bool value(const MachineData& m, const std::byte* block, Pulse pulse, std::int64_t now) {
  return pulse_lives(m, block, pulse.index, now);
}
double value(const MachineData& m, const std::byte* block, Variable variable, std::int64_t) {
  const VarData& var = m.vars[variable.index];
  if (var.type == ValueType::whole) return field_at<std::int32_t>(block, var.offset);
  if (var.type == ValueType::number) return static_cast<double>(field_at<float>(block, var.offset));
  return field_at<std::uint8_t>(block, var.offset) != 0 ? 1 : 0;
}

}  // namespace
}  // namespace detail

template <class Handle>
auto Instance::value_of(Handle handle) const {
  using Value = decltype(detail::value(machine_.data(), nullptr, handle, 0));
  const std::byte* block = bytes_.get();
  return known(handle.machine) ? detail::value(machine_.data(), block, handle, detail::header_of(block).now) : Value{};
}
bool Instance::value(Input<bool> input) const { return value_of(input); }
std::int32_t Instance::value(Input<std::int32_t> input) const { return value_of(input); }
float Instance::value(Input<float> input) const { return value_of(input); }
Choice Instance::value(Input<Choice> input) const { return value_of(input); }
bool Instance::value(Pulse pulse) const { return value_of(pulse); }
double Instance::value(Variable variable) const { return value_of(variable); }

template <class Handle>
auto Crowd::value_of(Member member, Handle handle) const {
  const detail::MachineData& m = d_->machine.data();
  using Value = decltype(detail::value(m, nullptr, handle, 0));
  return has(member) && handle.machine == m.serial ? detail::value(m, d_->block(member.place), handle, d_->now)
                                                   : Value{};
}
bool Crowd::value(Member member, Input<bool> input) const { return value_of(member, input); }
std::int32_t Crowd::value(Member member, Input<std::int32_t> input) const { return value_of(member, input); }
float Crowd::value(Member member, Input<float> input) const { return value_of(member, input); }
Choice Crowd::value(Member member, Input<Choice> input) const { return value_of(member, input); }
bool Crowd::value(Member member, Pulse pulse) const { return value_of(member, pulse); }
double Crowd::value(Member member, Variable variable) const { return value_of(member, variable); }

}  // namespace mobrin
