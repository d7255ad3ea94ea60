// An instance's state by names.
#include <cstring>

#include "engine/engine.hpp"
#include "instance/carry_names.hpp"
#include "mobrin/core/carry.hpp"

namespace mobrin {
namespace {

using namespace detail;

SavedPlay save_play(const MachineData& m, const std::byte* block, const SlotData& slot, std::uint16_t state) {
  SavedPlay out;
  out.state = path_of(m, state);
  const ConstRun run(m, block, slot, state);
  const PlayData& play = run.play();
  out.clips = clip_names(m, play, state, run.choice());
  if (play.by != kNoIndex) out.choice = name_or_number(choices_of(m, play.by)[run.choice()].text, run.choice());
  if (play.blend != kNoIndex) out.choice = name_or_number("", run.choice());
  if (!play.moves()) return out;
  out.position = run.playhead();
  out.cycle = run.clip().cycle;
  out.speed = run.speed();
  out.edges = run.passes();
  out.backward = run.backward();
  return out;
}

FieldValue variable_value(const std::byte* block, const VarData& var) {
  if (var.type == ValueType::whole) return static_cast<std::int64_t>(field_at<std::int32_t>(block, var.offset));
  if (var.type == ValueType::number) return static_cast<double>(field_at<float>(block, var.offset));
  return field_at<std::uint8_t>(block, var.offset) != 0;
}

FieldValue input_of(const MachineData& m, const std::byte* block, std::uint16_t index) {
  const InputData& input = m.inputs[index];
  if (input.kind == InputKind::choice) {
    const std::uint8_t choice = field_at<std::uint8_t>(block, input.offset);
    return name_or_number(choices_of(m, index)[choice].text, choice);
  }
  if (input.kind != InputKind::pulse) return stored_value(m, block, index);
  if (input.buffer > 0) return field_at<std::int64_t>(block, input.offset);
  return pulse_alive(block, input, 0) ? header_of(block).now : kLongAgo;
}

}  // namespace

SavedInstance save(const Instance& instance) {
  const MachineData& m = instance.machine().data();
  // Everything as it stands now. With the alignment that values of eight bytes need.
  std::vector<std::uint64_t> room((instance.block().size() + 7) / 8);
  auto* block = reinterpret_cast<std::byte*>(room.data());
  std::memcpy(block, instance.block().data(), instance.block().size());
  reanchor(m, block, header_of(block).now);
  const BlockHeader& header = header_of(block);
  SavedInstance out;
  out.machine = m.name;
  out.fingerprint = instance.machine().fingerprint();
  out.now = Ticks(header.now);
  out.frozen = Ticks(header.frozen);
  out.rate = header.rate();
  out.ordinal = header.ordinal();
  out.flags = header.flags;
  for (std::uint16_t i = 0; i < m.inputs.size(); ++i)
    out.inputs.push_back({"", name_or_number(m.input_defs[i].name.text, i), input_of(m, block, i)});
  if ((header.flags & kStarted) == 0) return out;
  for (std::uint16_t s = 0; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    const std::string path = path_of(m, s);
    for (std::uint32_t i = state.vars.begin; i < state.vars.begin + state.vars.count; ++i)
      out.variables.push_back({path, name_or_number(m.var_names[i], i), variable_value(block, m.vars[i])});
    if (state.timer != kNoOffset && is_active(m, block, s))
      out.timers.push_back({path, "", FieldValue(field_at<std::int64_t>(block, state.timer))});
    const auto remember = [&](const char* name, std::uint32_t offset) {
      if (offset == kNoOffset || field_at<std::uint16_t>(block, offset) == kNoIndex) return;
      out.memories.push_back({path, name, FieldValue(path_of(m, field_at<std::uint16_t>(block, offset)))});
    };
    remember("back", state.back);
    remember("last", state.last_child);
  }
  for (std::uint16_t r = 0; r < m.regions.size(); ++r) {
    const RegionData& region = m.regions[r];
    SavedRegion& to = out.regions.emplace_back();
    to.path = region_of(m, r);
    const std::uint16_t leaf = leaf_of(m, block, r);
    if (leaf != kNoIndex) to.play = save_play(m, block, region.slot, leaf);
    if (region.rest != kNoOffset) to.rest = path_of(m, field_at<std::uint16_t>(block, region.rest));
    if (!region.fades() || field_at<std::int64_t>(block, region.fade_length) == 0) continue;
    to.fade_length = field_at<std::int64_t>(block, region.fade_length);
    to.fade_run = field_at<std::int64_t>(block, region.fade_run);
    for (const LayerData& layer : region.layers)
      if (layer_weight(block, layer) > 0)
        to.layers.push_back({save_play(m, block, layer.slot, layer_state(block, layer)), layer_weight(block, layer),
                             field_at<std::uint8_t>(block, layer.loud) != 0});
  }
  return out;
}

}  // namespace mobrin
