#include "compile/other_kinds.hpp"

#include <algorithm>
#include <array>
#include <utility>
#include <variant>

namespace mobrin::detail {
namespace {

bool reads_like_a_clip(const CueDef& cue) {
  return std::any_of(cue.fields.begin(), cue.fields.end(), [](const FieldDef& field) {
    for (const char* key : {"fps", "frames", "images", "sheet", "length", "play"})
      if (field.name.text == key) return true;
    return false;
  });
}

}  // namespace

OtherKinds::OtherKinds(const MachineDef& definition) {
  for (const InputDef& input : definition.inputs) {
    const std::string& name = input.name.text;
    if (std::holds_alternative<PulseInput>(input.kind))
      pulses_.try_emplace(name, "It is a pulse; a rule takes it by `pulse: " + name + "`.");
    else
      inputs_.try_emplace(name, "It is an input; a guard asks for its value, `when:`.");
    if (const auto* const choice = std::get_if<ChoiceInput>(&input.kind))
      for (const Text& each : choice->choices)
        choices_.try_emplace(each.text, "It is a choice of \"" + name + "\": `" + name + " == " + each.text + "`.");
  }
  for (const CueDef& cue : definition.cues)
    cues_.try_emplace(cue.name.text, reads_like_a_clip(cue)
                                         ? "It stands under `cues:`, but reads like a clip: put it under `clips:`."
                                         : "It is a cue; a rule hears it by `cue: " + cue.name.text +
                                               "`, an action tells it by `tell: " + cue.name.text + "`.");
  for (const ClipDef& clip : definition.clips)
    clips_.try_emplace(clip.name.text, "It is a clip; a state plays it by `clip: " + clip.name.text + "`.");
  for (const ClipMarksDef& marks : definition.marks)
    for (const WindowDef& window : marks.windows)
      windows_.try_emplace(window.name.text,
                           "It is a window; a rule is open within it by `during: " + window.name.text + "`.");
  add(definition.root, "");
}

void OtherKinds::add(const StateDef& state, const std::string& path) {
  const std::string& name = state.name.text;
  if (!name.empty())
    states_.try_emplace(
        name, "It is a state; a rule leads to it by `to: " + path + "`, a guard asks for it by `in(" + path + ")`.");
  for (const Text& trait : state.traits)
    traits_.try_emplace(trait.text, "It is a trait, for the game to ask for; a guard asks for a state, `in(STATE)`.");
  players_.try_emplace(state.clip.text, path);
  const auto below = [&](const std::string& inner) { return path.empty() ? inner : path + "/" + inner; };
  for (const StateDef& inner : state.states) add(inner, below(inner.name.text));
  for (const RegionDef& region : state.regions)
    for (const StateDef& inner : region.states) add(inner, below(region.name.text + "/" + inner.name.text));
}

std::string OtherKinds::remedy(std::string_view looked_for, std::string_view name) const {
  const auto found = [&](const auto& names) {
    const auto at = names.find(name);
    return at == names.end() ? std::string() : at->second;
  };
  if (looked_for == "state")
    if (const std::string player = found(players_); !player.empty() && clips_.find(name) != clips_.end())
      return "It is a clip; \"" + player + "\" plays it.";
  const std::array kinds{std::pair("pulse", &pulses_), std::pair("input", &inputs_), std::pair("cue", &cues_),
                         std::pair("state", &states_), std::pair("clip", &clips_),   std::pair("window", &windows_)};
  bool known = false;
  for (const auto& [kind, names] : kinds) known = known || looked_for == kind;
  if (!known) return {};
  for (const auto& [kind, names] : kinds) {
    // A clip is often called as the state that plays it, or as what leads there.
    const bool alike = looked_for == "clip" && (names == &states_ || names == &pulses_);
    if (const std::string other = found(*names); looked_for != kind && !alike && !other.empty()) return other;
  }
  if (const std::string trait = found(traits_); !trait.empty()) return trait;
  return looked_for == "input" ? found(choices_) : std::string();
}

}  // namespace mobrin::detail
