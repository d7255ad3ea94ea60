// The stages of compiling, in order.
#pragma once

#include <string>

#include "compile/compile.hpp"

namespace mobrin::detail {

// What stages leave to later ones beside the tables.
struct Known {
  NameTable inputs, cues;
  ClipNames names;
  std::optional<StateTree> tree;
};

// A stage: what it does, when it can, what it reads and makes, and the text of what it made.
struct Stage {
  enum class Needs : std::uint8_t { nothing, states, soundness };
  StageInfo info;
  Needs needs;
  void (*run)(Work& work, Known& known);
  std::string (*text)(const MachineData& machine);
};

// stage_text.cpp
[[nodiscard]] std::string inputs_text(const MachineData& machine);
[[nodiscard]] std::string cues_text(const MachineData& machine);
[[nodiscard]] std::string clips_text(const MachineData& machine);
[[nodiscard]] std::string tree_text(const MachineData& machine);
[[nodiscard]] std::string plays_text(const MachineData& machine);
[[nodiscard]] std::string block_text(const MachineData& machine);
[[nodiscard]] std::string states_text(const MachineData& machine);
[[nodiscard]] std::string go_text(const MachineData& machine);
[[nodiscard]] std::string space_text(const MachineData& machine);
[[nodiscard]] std::string stops_text(const MachineData& machine);
[[nodiscard]] std::string plan_text(const MachineData& machine);

}  // namespace mobrin::detail
