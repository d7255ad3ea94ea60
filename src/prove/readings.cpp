// What an instance holds, as terms read it; and whether the reference tells of a tape what the engine does.
#include <algorithm>

#include "machine/machine_data.hpp"
#include "mobrin/check/reference.hpp"
#include "model_parts.hpp"
#include "search.hpp"

namespace mobrin::proof {

void read(const Model& model, const Instance& instance, Reading& out) {
  const detail::MachineData& m = model.machine().data();
  const std::byte* block = instance.block().data();
  out.inputs.assign(m.inputs.size(), Span{});
  for (std::uint16_t i = 0; i < m.inputs.size(); ++i) {
    double value = 0;
    switch (m.inputs[i].kind) {
      case detail::InputKind::boolean:
      case detail::InputKind::choice:
        value = read_at<std::uint8_t>(block, m.inputs[i].offset);
        break;
      case detail::InputKind::whole:
        value = read_at<std::int32_t>(block, m.inputs[i].offset);
        break;
      case detail::InputKind::number:
        value = static_cast<double>(read_at<float>(block, m.inputs[i].offset));
        break;
      case detail::InputKind::pulse:
        break;
    }
    out.inputs[i] = {value, value};
  }
  out.config.leaves.clear();
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) out.config.leaves.push_back(instance.active(r));
  // Before the first advance nothing is active.
  const bool begun = std::any_of(out.config.leaves.begin(), out.config.leaves.end(),
                                 [](std::uint16_t leaf) { return leaf != kNoIndex; });
  out.active = begun ? model.active(out.config) : Flags(model.states().size(), 0);
  out.config.variables.clear();
  // Both list variables by state, and those of one state in the file's order.
  const auto& variables = model.variables();
  for (std::size_t v = 0, of_state = 0; v < variables.size(); ++v) {
    const std::uint16_t owner = variables[v].owner;
    of_state = v > 0 && variables[v - 1].owner == owner ? of_state + 1 : 0;
    double value = variables[v].start;
    if (out.active[owner] != 0) {
      const detail::VarData& var = m.vars[m.states[owner].vars.begin + of_state];
      value = var.type == detail::ValueType::whole    ? read_at<std::int32_t>(block, var.offset)
              : var.type == detail::ValueType::number ? static_cast<double>(read_at<float>(block, var.offset))
                                                      : read_at<std::uint8_t>(block, var.offset);
    }
    out.config.variables.push_back({value, value});
  }
  out.config.memories.clear();
  for (const Memory& memory : model.memories()) {
    const std::uint32_t rest = m.regions[memory.region].rest;
    std::uint16_t held = kNoIndex;
    if (memory.aim == Aim::last) {
      if (out.active[memory.of] == 0) held = read_at<std::uint16_t>(block, m.states[memory.of].last_child);
    } else if (held = read_at<std::uint16_t>(block, rest);
               memory.of != kNoIndex && held != kNoIndex && model.within(held, memory.of)) {
      held = read_at<std::uint16_t>(block, m.states[memory.of].back);
    }
    out.config.memories.push_back(held);
  }
}

bool replays(const Model& model, const Tape& tape) {
  std::vector<ScriptEntry> script;
  for (const TapeStep& step : tape.steps) {
    for (const auto& [name, value] : step.set) {
      ScriptEntry& entry = script.emplace_back();
      entry.at = step.at;
      entry.name = name.text;
      for (const InputDef& input : model.machine().inputs()) {
        if (input.name.text != name.text) continue;
        if (const auto* truth = std::get_if<bool>(&value)) entry.value = *truth ? 1 : 0;
        if (const auto* whole = std::get_if<std::int64_t>(&value)) entry.value = static_cast<double>(*whole);
        if (const auto* number = std::get_if<double>(&value)) entry.value = *number;
        if (const auto* words = std::get_if<std::string>(&value))
          if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
            for (std::size_t i = 0; i < choice->choices.size(); ++i)
              if (choice->choices[i].text == *words) entry.value = static_cast<double>(i);
      }
    }
    for (const Text& pulse : step.pulses) {
      ScriptEntry& entry = script.emplace_back();
      entry.at = step.at;
      entry.kind = ScriptEntry::Kind::pulse;
      entry.name = pulse.text;
    }
  }
  const Ticks until = tape.until.value_or(Ticks{});
  std::vector<std::string> expected;
  for (const std::string& line : run_reference(model.definition(), script, until))
    if (line.find(" enter ") != std::string::npos || line.find(" leave ") != std::string::npos ||
        line.ends_with(" fault"))
      expected.push_back(line);
  std::vector<std::string> told;
  Instance instance(model.machine());
  RunOptions options;
  options.until = until;
  run_tape(instance, tape, options, [&](const Cue& cue) {
    const std::string at = std::to_string(cue.at.count);
    if (cue.what == Told::fault) told.push_back(at + " fault");
    if (cue.what != Told::enter && cue.what != Told::leave) return;
    told.push_back(at + (cue.what == Told::enter ? " enter " : " leave ") + model.machine().states()[cue.state].path);
  });
  return told == expected;
}

}  // namespace mobrin::proof
