#include "mobrin/core/builder.hpp"

#include <utility>

namespace mobrin {
namespace {

template <class Kind>
void add_input(MachineDef& definition, std::string name, Kind kind) {
  InputDef& input = definition.inputs.emplace_back();
  input.name = Text(std::move(name));
  input.kind = std::move(kind);
}

}  // namespace

MachineBuilder::MachineBuilder(std::string name) { definition_.name = Text(std::move(name)); }

MachineBuilder& MachineBuilder::input(std::string name, BoolInput kind) {
  add_input(definition_, std::move(name), kind);
  return *this;
}
MachineBuilder& MachineBuilder::input(std::string name, IntInput kind) {
  add_input(definition_, std::move(name), kind);
  return *this;
}
MachineBuilder& MachineBuilder::input(std::string name, FloatInput kind) {
  add_input(definition_, std::move(name), kind);
  return *this;
}
MachineBuilder& MachineBuilder::input(std::string name, ChoiceInput kind) {
  add_input(definition_, std::move(name), std::move(kind));
  return *this;
}
MachineBuilder& MachineBuilder::pulse(std::string name, Ticks buffer) {
  add_input(definition_, std::move(name), PulseInput{buffer});
  return *this;
}

MachineBuilder& MachineBuilder::cue(std::string name, std::string kind, std::vector<FieldDef> fields) {
  definition_.cues.push_back({Text(std::move(name)), std::move(kind), std::move(fields)});
  return *this;
}

ClipDef& MachineBuilder::clip(std::string name, std::int32_t frames, Fraction fps, PlayMode play) {
  definition_.clips.push_back({Text(std::move(name)), plain_frames(frames), fps, {}, play});
  return definition_.clips.back();
}
ClipDef& MachineBuilder::clip(std::string name, Ticks length, PlayMode play) {
  definition_.clips.push_back({Text(std::move(name)), {}, {}, length, play});
  return definition_.clips.back();
}

ClipMarksDef& MachineBuilder::marks(const std::string& clip) {
  for (ClipMarksDef& each : definition_.marks)
    if (each.clip.text == clip) return each;
  definition_.marks.emplace_back().clip = Text(clip);
  return definition_.marks.back();
}
MachineBuilder& MachineBuilder::mark(const std::string& clip, std::int32_t frame, std::string cue,
                                     std::vector<FieldDef> fields) {
  MarkDef& def = marks(clip).marks.emplace_back();
  def.cue = Text(std::move(cue));
  def.frame = frame;
  def.fields = std::move(fields);
  return *this;
}

MachineBuilder& MachineBuilder::state(StateDef state) {
  definition_.root.states.push_back(std::move(state));
  return *this;
}
MachineBuilder& MachineBuilder::initial(std::string state) {
  definition_.root.initial = Text(std::move(state));
  return *this;
}
MachineBuilder& MachineBuilder::go(GoDef go) {
  definition_.root.go.push_back(std::move(go));
  return *this;
}

Compiled MachineBuilder::build() const { return compile(definition_); }

}  // namespace mobrin
