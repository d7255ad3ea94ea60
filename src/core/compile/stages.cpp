#include "compile/stages.hpp"

#include <algorithm>
#include <tuple>

#include "mobrin/core/machine.hpp"

namespace mobrin {
namespace detail {
namespace {

using Needs = Stage::Needs;

constexpr Stage kStages[] = {
    {{"inputs", "inputs and what they may hold"}, Needs::nothing, &Compilation::compile_inputs, inputs_text},
    {{"cues", "cues and their fields"}, Needs::nothing, &Compilation::compile_cues, cues_text},
    {{"clips", "clips: what shows when on a cycle"}, Needs::nothing, &Compilation::compile_clips, clips_text},
    {{"tree", "states and regions, parents before children"}, Needs::nothing, &Compilation::flatten, tree_text},
    {{"plays", "what each state plays"}, Needs::states, &Compilation::compile_plays, plays_text},
    {{"block", "where each changing value lies"}, Needs::states, &Compilation::lay_out, block_text},
    {{"states", "speeds, and actions on entering, leaving, each loop"},
     Needs::states,
     &Compilation::compile_states,
     states_text},
    {{"go", "transitions, in the order in which they are looked at"}, Needs::states, &Compilation::compile_go, go_text},
    {{"space", "looks, reaches, zones"}, Needs::states, &Compilation::compile_space, space_text},
    {{"stops", "the places on each play's cycle where something lies"},
     Needs::soundness,
     &Compilation::compile_stops,
     stops_text},
    {{"plan", "what may be taken in each state, and what it does"}, Needs::soundness, &Compilation::finish, plan_text},
};

}  // namespace

}  // namespace detail

Compiled compile(const MachineDef& definition) {
  detail::Compilation work(definition);
  for (const detail::Stage& stage : detail::kStages) {
    if (stage.needs != detail::Needs::nothing && work.data->states.empty()) break;
    if (stage.needs == detail::Needs::soundness && !work.sound()) break;
    (work.*stage.run)();
  }
  Compiled out;
  if (work.sound() && work.data->prepared != nullptr) out.machine.emplace(detail::SharedTables(work.data.release()));
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
