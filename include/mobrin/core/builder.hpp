// MachineBuilder: makes in code the same machine that a file makes.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/machine.hpp"

namespace mobrin {

/// Collects a definition piece by piece; nothing is checked before build(). The returned references stay valid until
/// the next call that adds something of the same kind. Not thread-safe.
class MachineBuilder {
 public:
  explicit MachineBuilder(std::string name) { definition_.name = Text(std::move(name)); }

  MachineBuilder& input(std::string name, BoolInput kind) { return add_input(std::move(name), kind); }
  MachineBuilder& input(std::string name, IntInput kind) { return add_input(std::move(name), kind); }
  MachineBuilder& input(std::string name, FloatInput kind) { return add_input(std::move(name), kind); }
  MachineBuilder& input(std::string name, ChoiceInput kind) { return add_input(std::move(name), std::move(kind)); }
  /// A pulse; `buffer` is how long it stays alive, both ends included.
  MachineBuilder& pulse(std::string name, Ticks buffer = {}) { return add_input(std::move(name), PulseInput{buffer}); }

  MachineBuilder& cue(std::string name, std::string kind, std::vector<FieldDef> fields = {}) {
    definition_.cues.push_back({Text(std::move(name)), std::move(kind), std::move(fields)});
    return *this;
  }

  /// A clip of `frames` frames at `fps` frames a second; change the returned definition for holds, times and art.
  ClipDef& clip(std::string name, std::int32_t frames, Fraction fps, PlayMode play) {
    definition_.clips.push_back({Text(std::move(name)), plain_frames(frames), fps, {}, play});
    return definition_.clips.back();
  }
  /// A clip known by name and length only.
  ClipDef& clip(std::string name, Ticks length, PlayMode play) {
    definition_.clips.push_back({Text(std::move(name)), {}, {}, length, play});
    return definition_.clips.back();
  }

  /// The marks of a clip: one definition a clip, found again by later calls.
  ClipMarksDef& marks(const std::string& clip) {
    for (ClipMarksDef& each : definition_.marks)
      if (each.clip.text == clip) return each;
    definition_.marks.emplace_back().clip = Text(clip);
    return definition_.marks.back();
  }
  /// Tells `cue` when `frame` of `clip` begins to show.
  MachineBuilder& mark(const std::string& clip, std::int32_t frame, std::string cue,
                       std::vector<FieldDef> fields = {}) {
    MarkDef def;
    def.cue = Text(std::move(cue));
    def.frame = frame;
    def.fields = std::move(fields);
    marks(clip).marks.push_back(std::move(def));
    return *this;
  }

  /// Adds a state to the machine; give it children through StateDef::states or StateDef::regions.
  MachineBuilder& state(StateDef state) {
    definition_.root.states.push_back(std::move(state));
    return *this;
  }
  /// The state to start in; needed where there is more than one.
  MachineBuilder& initial(std::string state) {
    definition_.root.initial = Text(std::move(state));
    return *this;
  }
  /// Adds a transition that holds from anywhere, after those added before.
  MachineBuilder& go(GoDef go) {
    definition_.root.go.push_back(std::move(go));
    return *this;
  }

  /// All that has been collected, for what has no call of its own.
  [[nodiscard]] MachineDef& definition() { return definition_; }

  /// Checks and compiles what has been collected so far.
  [[nodiscard]] Compiled build() const { return compile(definition_); }

 private:
  template <class Kind>
  MachineBuilder& add_input(std::string name, Kind kind) {
    definition_.inputs.push_back({Text(std::move(name)), std::move(kind)});
    return *this;
  }

  MachineDef definition_;
};

}  // namespace mobrin
