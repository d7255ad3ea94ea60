#include "compile/stages.hpp"

#include <algorithm>
#include <memory>
#include <span>
#include <tuple>

#include "mobrin/core/machine.hpp"

namespace mobrin {
namespace detail {
namespace {

using Needs = Stage::Needs;

constexpr Stage kStages[] = {
    {{"inputs", "inputs and what they may hold"},
     Needs::nothing,
     [](Work& work, Known& known) { known.inputs = compile_inputs(work); },
     inputs_text},
    {{"cues", "cues and their fields"},
     Needs::nothing,
     [](Work& work, Known& known) { known.cues = compile_cues(work); },
     cues_text},
    {{"clips", "clips: what shows when on a cycle"},
     Needs::nothing,
     [](Work& work, Known& known) { known.names = compile_clips(work, known.cues); },
     clips_text},
    {{"tree", "states and regions, parents before children"},
     Needs::nothing,
     [](Work& work, Known& known) { known.tree.emplace(make_tree(work, known.inputs)); },
     tree_text},
    {{"plays", "what each state plays"},
     Needs::states,
     [](Work& work, Known& known) { compile_plays(work, *known.tree, known.inputs, known.names.clips); },
     plays_text},
    {{"block", "where each changing value lies"},
     Needs::states,
     [](Work& work, Known& known) { lay_out_block(work.data, *known.tree); },
     block_text},
    {{"states", "speeds, and actions on entering, leaving, each loop"},
     Needs::states,
     [](Work& work, Known& known) { compile_states(work, *known.tree, known.inputs, known.cues); },
     states_text},
    {{"go", "transitions, in the order in which they are looked at"},
     Needs::states,
     [](Work& work, Known& known) { compile_go(work, *known.tree, known.inputs, known.cues, known.names.windows); },
     go_text},
    {{"space", "looks, reaches, zones"},
     Needs::states,
     [](Work& work, Known& known) { compile_space(work, *known.tree, known.inputs, known.cues); },
     space_text},
    {{"stops", "the places on each play's cycle where something lies"},
     Needs::soundness,
     [](Work& work, Known&) { compile_stops(work.data); },
     stops_text},
    {{"plan", "what may be taken in each state, and what it does"},
     Needs::soundness,
     [](Work& work, Known&) { finish(work); },
     plan_text},
};

}  // namespace

}  // namespace detail

Compiled compile(const MachineDef& definition) {
  auto tables = std::make_unique<detail::MachineData>();
  detail::Work work(definition, *tables);
  detail::Known known;
  const std::span<const detail::Stage> stages(detail::kStages);
  for (const detail::Stage& stage : detail::check_values(work) ? stages : stages.first(0)) {
    if (stage.needs != detail::Needs::nothing && tables->states.empty()) break;
    if (stage.needs == detail::Needs::soundness && !work.sound()) break;
    stage.run(work, known);
  }
  Compiled out;
  if (work.sound() && tables->prepared != nullptr) out.machine.emplace(detail::SharedTables(tables.release()));
  out.findings = std::move(work.findings);
  std::stable_sort(out.findings.begin(), out.findings.end(), [](const Finding& a, const Finding& b) {
    return std::tie(a.file, a.line, a.column) < std::tie(b.file, b.line, b.column);
  });
  return out;
}

std::vector<StageInfo> compile_stages() {
  std::vector<StageInfo> out;
  for (const detail::Stage& stage : detail::kStages) out.push_back(stage.info);
  return out;
}

std::string Machine::dump(std::string_view name) const {
  for (const detail::Stage& stage : detail::kStages)
    if (stage.info.name == name) return stage.text(data());
  return {};
}

}  // namespace mobrin
