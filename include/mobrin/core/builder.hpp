// MachineBuilder: makes in code the same machine that a file makes.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/machine.hpp"

namespace mobrin {

/// Collects a definition piece by piece; nothing is checked before build(). The returned references stay valid until
/// the next call that adds something of the same kind. Not thread-safe.
class MachineBuilder {
 public:
  explicit MachineBuilder(std::string name);  ///< Begins a machine of that name.

  MachineBuilder& input(std::string name, BoolInput kind);    ///< Adds an input that is true or false.
  MachineBuilder& input(std::string name, IntInput kind);     ///< Adds a whole number.
  MachineBuilder& input(std::string name, FloatInput kind);   ///< Adds a number.
  MachineBuilder& input(std::string name, ChoiceInput kind);  ///< Adds a choice.
  /// A pulse; `buffer` is how long it stays alive, both ends included.
  MachineBuilder& pulse(std::string name, Ticks buffer = {});

  /// Adds a cue with what it carries.
  MachineBuilder& cue(std::string name, std::string kind, std::vector<FieldDef> fields = {});

  /// A clip of `frames` frames at `fps` frames a second; change the returned definition for holds, times and art.
  ClipDef& clip(std::string name, std::int32_t frames, Fraction fps, PlayMode play);
  /// A clip known by name and length only.
  ClipDef& clip(std::string name, Ticks length, PlayMode play);

  /// The marks of a clip: one definition a clip, found again by later calls.
  ClipMarksDef& marks(const std::string& clip);
  /// Tells `cue` when `frame` of `clip` begins to show.
  MachineBuilder& mark(const std::string& clip, std::int32_t frame, std::string cue, std::vector<FieldDef> fields = {});

  /// Adds a state to the machine; give it children through StateDef::states or StateDef::regions.
  MachineBuilder& state(StateDef state);
  /// The state to start in; needed where there is more than one.
  MachineBuilder& initial(std::string state);
  /// Adds a transition that holds from anywhere, after those added before.
  MachineBuilder& go(GoDef go);

  /// All that has been collected, for what has no call of its own.
  [[nodiscard]] MachineDef& definition() { return definition_; }

  /// Checks and compiles what has been collected so far.
  [[nodiscard]] Compiled build() const;

 private:
  MachineDef definition_;
};

}  // namespace mobrin
