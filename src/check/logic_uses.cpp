// What is declared and used nowhere, and blows that hit twice.
#include <algorithm>
#include <map>
#include <set>

#include "logic_views.hpp"

namespace mobrin::check {

namespace {

// What a variable does that is set to all of these values, where it never comes back to what it was; else empty.
std::string remembered(const VarDef& variable, const std::set<std::string>& values) {
  const auto is_number = [](std::string_view text) {
    return !text.empty() && text.find_first_not_of("0123456789.") == std::string_view::npos;
  };
  // What only falls, as life does, is mostly meant so.
  const std::string step = variable.name.text + "+";
  const bool grows = std::all_of(values.begin(), values.end(), [&](const std::string& value) {
    return value.starts_with(step) && is_number(std::string_view(value).substr(step.size()));
  });
  if (grows) return "only grows, and nothing sets it back";
  const std::string& value = *values.begin();
  const bool truth = value == "true" || value == "false";
  const bool constant = truth || is_number(std::string_view(value).substr(value.starts_with('-') ? 1 : 0));
  std::string start = "0";
  if (const auto* boolean = std::get_if<bool>(&variable.start)) start = *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int32_t>(&variable.start)) start = std::to_string(*whole);
  if (values.size() > 1 || !constant || value == start || std::holds_alternative<double>(variable.start)) return {};
  return "is set to " + value + " and never to anything else again";
}

}  // namespace

void Logic::uses() {
  std::set<std::string> read, counted, taken, heard, shown, windows;
  Assigned assigned;
  const auto words = [&](const Text& text) { words_of(text.text, read); };
  const auto actions = [&](const std::vector<ActionDef>& all) {
    each_assignment(all, [&](const std::string& variable, std::string value) {
      std::set<std::string> of_value;
      words_of(value, of_value);
      std::erase(value, ' ');
      assigned[variable].insert(std::move(value));
      if (of_value.erase(variable) > 0) counted.insert(variable);
      read.insert(of_value.begin(), of_value.end());
    });
  };
  for (const StateView& view : views_) {
    const StateDef& state = *view.def;
    words(state.speed);
    for (const auto* list : {&state.enter, &state.exit, &state.each_loop}) actions(*list);
    if (state.clip_by) {
      read.insert(state.clip_by->input.text);
      for (const auto& [choice, clip] : state.clip_by->clips) shown.insert(clip.text);
    }
    if (state.blend) {
      words(state.blend->x);
      words(state.blend->y);
      for (const BlendPointDef& point : state.blend->points) shown.insert(point.clip.text);
    }
    shown.insert(state.clip.text);
    for (const Text& clip : state.sequence) shown.insert(clip.text);
    for (const GoDef& go : state.go) {
      words(go.when);
      taken.insert(go.pulse.text);
      heard.insert(go.cue.text);
      windows.insert(go.during.text);
      actions(go.actions);
    }
  }
  for (const LookDef& look : def_.looks) words(look.when);
  // What zones fill is written; it is read by guards like all else.
  const auto own = [&](Place place) { return place.file == 0; };
  for (const InputDef& input : def_.inputs) {
    const std::string& name = input.name.text;
    const bool pulse = std::holds_alternative<PulseInput>(input.kind);
    if (pulse ? taken.count(name) > 0 : read.count(name) > 0) continue;
    tell(FindingCode::unused_input, input.name.place, input.accept,
         pulse ? "no rule takes the pulse \"" + name + "\"" : "nothing reads the input \"" + name + "\"",
         "Remove it, or use it.", !own(input.name.place), name);
  }
  std::set<std::string> claimed;
  for (const ClaimDef& claim : def_.claims) words_of(claim.first.text, claimed), words_of(claim.second.text, claimed);
  for (const StateView& view : views_)
    for (const VarDef& var : view.def->vars)
      if (const bool counts = counted.count(var.name.text) > 0;
          read.count(var.name.text) == 0 && claimed.count(var.name.text) == 0)
        tell(FindingCode::unused_var, var.name.place, view.def->accept,
             "nothing" + std::string(counts ? " but what it is set to" : "") + " reads the variable \"" +
                 var.name.text + "\"",
             counts ? "Use it in a guard, or leave it where the game reads it." : "Remove it, or use it.",
             counts || !own(var.name.place), var.name.text);
  for (const CueDef& cue : def_.cues)
    if (!told_of_cue(cue.name.text))
      tell(FindingCode::unused_cue, cue.name.place, cue.accept, "nothing tells the cue \"" + cue.name.text + "\"",
           "Put it on a clip, or remove it.", !own(cue.name.place), cue.name.text);
  // Who plays a part of a clip uses that.
  for (bool more = true; more;) {
    more = false;
    for (const ClipDef& clip : def_.clips)
      if (shown.count(clip.name.text) > 0 && !clip.part_of.empty())
        more = shown.insert(clip.part_of.text).second || more;
  }
  for (const ClipDef& clip : def_.clips)
    if (shown.count(clip.name.text) == 0)
      tell(FindingCode::unused_clip, clip.name.place, clip.accept, "no state plays the clip \"" + clip.name.text + "\"",
           "Remove it, or let a state play it.", !own(clip.name.place), clip.name.text);
  for (const ClipMarksDef& marks : def_.marks)
    for (const WindowDef& window : marks.windows)
      if (windows.count(window.name.text) == 0)
        tell(FindingCode::unused_window, window.name.place, {},
             "no rule has the window \"" + window.name.text + "\" of \"" + marks.clip.text + "\"",
             "Remove it, or use it: `during: " + window.name.text + "`.", !own(window.name.place), window.name.text);
  variables(read, assigned);
  unused_reaches();
}

void Logic::unused_reaches() {
  for (const ReachDef& reach : def_.reaches) {
    bool used = false;
    const auto names = [&](const std::vector<FieldDef>& fields) {
      for (const FieldDef& field : fields)
        if (const auto* text = std::get_if<std::string>(&field.value);
            text != nullptr && field.name.text == "reach" && *text == reach.name.text)
          used = true;
    };
    for (const CueDef& cue : def_.cues) names(cue.fields);
    for (const ClipMarksDef& marks : def_.marks)
      for (const MarkDef& mark : marks.marks) names(mark.fields);
    for (const StateView& view : views_)
      for (const auto* list : {&view.def->enter, &view.def->exit, &view.def->each_loop})
        for (const ActionDef& action : *list) names(action.fields);
    if (!used)
      tell(FindingCode::unused_reach, reach.name.place, reach.accept,
           "no cue names the reach \"" + reach.name.text + "\"",
           "Remove it, or name it: `reach: " + reach.name.text + "`.", reach.name.place.file != 0, reach.name.text);
  }
}

// What guards read that let the machine end: no more is counted then, and nothing need be set back.
std::set<std::string> Logic::counted_to_an_end() const {
  std::set<std::string> ends, out;
  for (const StateView& view : views_)
    if (view.def->final) ends.insert(view.def->name.text);
  for (const StateView& view : views_)
    for (const GoDef& go : view.def->go)
      if (ends.count(go.to.text.substr(go.to.text.rfind('/') + 1)) > 0) words_of(go.when.text, out);
  return out;
}

void Logic::variables(const std::set<std::string>& read, const Assigned& assigned) {
  for (const StateView& view : views_)
    for (const VarDef& var : view.def->vars) {
      if (assigned.count(var.name.text) > 0 || read.count(var.name.text) == 0) continue;
      // A number may be meant as one that has a name.
      const bool hint = !std::holds_alternative<bool>(var.start) || var.name.place.file != 0;
      tell(FindingCode::never_set, var.name.place, view.def->accept,
           "nothing sets the variable \"" + var.name.text + "\": it stays what it starts with",
           "Set it, `do: [" + var.name.text + " = ...]`, or write its value where it is read.", hint, var.name.text);
    }
  const std::set<std::string> ending = counted_to_an_end();
  for (const VarDef& var : def_.root.vars) {
    const auto found = assigned.find(var.name.text);
    if (found == assigned.end() || ending.count(var.name.text) > 0) continue;
    const std::string remembers = remembered(var, found->second);
    const bool used = read.count(var.name.text) > 0;  // else that is told
    if (!remembers.empty() && used)
      tell(FindingCode::stays_set, var.name.place, def_.root.accept, "\"" + var.name.text + "\" " + remembers,
           "Set it back somewhere, or say that it is meant.", true, var.name.text);
  }
}

void Logic::swings() {
  for (const ClipDef& clip : def_.clips) {
    const ClipMarksDef* marks = nullptr;
    for (const ClipMarksDef& each : def_.marks)
      if (each.clip.text == clip.name.text) marks = &each;
    if (marks == nullptr) continue;
    int damage = 0, reaching = 0;
    for (const MarkDef& mark : marks->marks)
      for (const CueDef& cue : def_.cues)
        if (cue.name.text == mark.cue.text && cue.kind == "damage") {
          ++damage;
          for (const FieldDef& field : cue.fields)
            if (field.name.text == "reach") ++reaching;
        }
    const bool box = std::any_of(marks->boxes.begin(), marks->boxes.end(),
                                 [](const BoxDef& each) { return each.role.text == "hit"; });
    if (damage >= 2)
      tell(FindingCode::hits_twice, clip.name.place, clip.accept,
           "one pass of \"" + clip.name.text + "\" has two damage cues: it may hit a target twice",
           "Keep one, or say `accept: [hits-twice]`.", true, clip.name.text);
    else if (box && reaching > 0)
      tell(FindingCode::hits_twice, clip.name.place, clip.accept,
           "\"" + clip.name.text + "\" hits with a box and with the reach of a cue: a game that takes both hits twice",
           "Keep one, or say `accept: [hits-twice]`.", true, clip.name.text);
  }
}

}  // namespace mobrin::check
