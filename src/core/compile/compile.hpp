// Compiling: what the stages share, and each stage as a function of what it reads. Its tables go to Work::data; what
// only later stages need of it is what it returns. stages.cpp has their order, stage_text.cpp the text of each.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "compile/other_kinds.hpp"
#include "compile/state_tree.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

// What all stages have: the definition, the tables that they fill, and where they tell what is wrong.
class Work {
 public:
  Work(const MachineDef& definition, MachineData& tables) : def(definition), data(tables) {}

  void report(FindingCode code, Place place, std::string message, std::string remedy, std::string subject = {});
  // There is no such thing; the nearest of what is `known` is the remedy, or else `advice` with all of it.
  void unknown(std::string_view what, const Text& name, const std::vector<std::string>& known, std::string_view advice);
  // What `table` has under that name; empty, and told, where there is nothing.
  std::optional<std::uint16_t> find(std::string_view what, const NameTable& table, const Text& name,
                                    std::string_view advice);
  // How something else that is called so is written; empty where nothing is.
  [[nodiscard]] std::string of_another_kind(std::string_view what, std::string_view name);
  // Checks a declared name and that it is new in `taken`.
  bool declare(std::string_view what, const Text& name, std::set<std::string, std::less<>>& taken);
  bool within(std::string_view what, std::size_t count, std::size_t most, Place place);
  [[nodiscard]] bool sound() const { return !has_errors(findings); }

  const MachineDef& def;
  MachineData& data;
  std::vector<Finding> findings;

 private:
  bool none_of(const std::string& what, const Text& name);

  struct NoneThere {
    std::size_t finding = 0;  // the one that is told
    std::vector<std::string> names{};
  };
  std::map<std::string, NoneThere> none_there_{};  // kinds of which nothing is declared
  std::size_t unknown_names_ = 0;                  // told so far
  std::optional<OtherKinds> others_;
};

struct ClipNames {
  NameTable clips, windows;
};

// --- the stages ---

// Before them: what no file says, and they do not look at. False where a word is none that its list has, with which
// they cannot go on.
[[nodiscard]] bool check_values(Work& work);
// Inputs, by name.
[[nodiscard]] NameTable compile_inputs(Work& work);
// Cues, by name.
[[nodiscard]] NameTable compile_cues(Work& work);
[[nodiscard]] ClipNames compile_clips(Work& work, const NameTable& cues);
// States and regions; no states in the tables where there can be none.
[[nodiscard]] StateTree make_tree(Work& work, const NameTable& inputs);
void compile_plays(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& clips);
// Where each changing value lies in a block.
void lay_out_block(MachineData& machine, const StateTree& tree);
// Actions on entering, leaving and each loop, speeds, axes of blends.
void compile_states(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues);
void compile_go(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues,
                const NameTable& windows);
// Looks, reaches, zones.
void compile_space(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues);
void compile_stops(MachineData& machine);
// What is known once all tables are there, and the plan.
void finish(Work& work);

// --- what several of them do ---

[[nodiscard]] std::optional<std::uint16_t> find_cue(Work& work, const NameTable& cues, const Text& name);
// The index of the resolved fields of `cue` with `overrides`, which are checked.
[[nodiscard]] std::uint32_t resolve_fields(Work& work, std::uint16_t cue, const std::vector<FieldDef>& overrides,
                                           Place place);
// It says what it plays, and that is wrong: told already, and no reason to tell what follows from it.
[[nodiscard]] bool plays_wrongly(const StateDef& source, const PlayData& play);

// Expressions and actions, as they are read at a node of the tree.
class Texts {
 public:
  Texts(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues)
      : work_(work), m_(work.data), tree_(tree), inputs_(inputs), cues_(cues) {}

  CompiledExpr expression(const Text& source, std::int32_t node, ValueType wanted = ValueType::none);
  Range<ActionData> actions(const std::vector<ActionDef>& actions, std::int32_t node);

 private:
  std::optional<ActionData> telling(const ActionDef& action);
  std::optional<ActionData> assignment(const ActionDef& action, std::int32_t node);
  // What to write in place of what is no action.
  [[nodiscard]] std::string meant_by(const std::string& action) const;
  [[nodiscard]] std::string elsewhere(const ExprProblem& problem) const;

  Work& work_;
  MachineData& m_;
  const StateTree& tree_;
  const NameTable &inputs_, &cues_;
};

}  // namespace mobrin::detail
