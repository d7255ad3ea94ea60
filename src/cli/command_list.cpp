// mobrin list: what a file holds.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "definition_text.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::cli {
namespace {

Json input_json(const InputDef& input) {
  Json out = {{"name", input.name.text}};
  if (const auto* boolean = std::get_if<BoolInput>(&input.kind)) {
    out["type"] = "bool";
    out["start"] = boolean->start;
  } else if (const auto* whole = std::get_if<IntInput>(&input.kind)) {
    out["type"] = "int";
    out["start"] = whole->start;
    out["min"] = whole->min == INT32_MIN ? Json() : Json(whole->min);
    out["max"] = whole->max == INT32_MAX ? Json() : Json(whole->max);
  } else if (const auto* number = std::get_if<FloatInput>(&input.kind)) {
    const FloatInput unbounded;
    out["type"] = "float";
    out["start"] = number->start;
    out["min"] = number->min <= unbounded.min ? Json() : Json(number->min);
    out["max"] = number->max >= unbounded.max ? Json() : Json(number->max);
    out["grain"] = number->grain;
  } else if (const auto* choice = std::get_if<ChoiceInput>(&input.kind)) {
    out["type"] = "one_of";
    Json names = Json::array();
    for (const Text& each : choice->choices) names.push_back(each.text);
    out["choices"] = names;
    out["start"] = choice->start.empty() ? choice->choices.front().text : choice->start.text;
  } else {
    out["type"] = "pulse";
    out["buffer_ticks"] = std::get<PulseInput>(input.kind).buffer.count;
  }
  return out;
}

// The transitions of a state as its definition says them, in order.
const GoDef* go_of(const StateDef* state, std::size_t index) {
  return state != nullptr && index < state->go.size() ? &state->go[index] : nullptr;
}

Json machine_json(const Loaded& loaded) {
  const Machine& machine = *loaded.machine;
  Json clips = Json::array(), states = Json::array(), inputs = Json::array(), cues = Json::array();
  for (const ClipInfo& clip : machine.clips()) clips.push_back(clip_json(machine, clip));
  const auto defined =
      loaded.definition ? states_by_path(*loaded.definition) : std::map<std::string, const StateDef*>();
  const auto definition_of = [&](const std::string& path) {
    const auto found = defined.find(path);
    return found == defined.end() ? nullptr : found->second;
  };
  Json anywhere = Json::array();
  for (std::size_t s = 0; loaded.has_machine && s < machine.states().size(); ++s) {
    const StateInfo& state = machine.states()[s];
    const StateDef* def = definition_of(state.path);
    Json go = Json::array();
    for (const TransitionInfo& transition : machine.transitions()) {
      if (transition.owner != s) continue;
      Json rule = {{"text", transition.text}, {"to", transition.to}, {"line", transition.place.line}};
      if (const GoDef* more = go_of(def, go.size())) rule.update(json_of(*more));
      go.push_back(std::move(rule));
    }
    if (s == 0) {
      anywhere = std::move(go);
      continue;
    }
    Json out = {{"name", state.path},     {"plays", text_or_null(state.plays)},
                {"final", state.final},   {"sealed", state.sealed},
                {"traits", state.traits}, {"go", go}};
    if (def != nullptr) out.update(json_of(*def));
    states.push_back(std::move(out));
  }
  Json reaches = Json::array(), zones = Json::array(), looks = Json::array(), vars = Json::object();
  for (const ReachDef& reach : machine.reaches()) {
    Json out = {{"name", reach.name.text}, {"hits", reach.hits}, {"spares", reach.spares}};
    out.update(json_of(reach.shape));
    reaches.push_back(std::move(out));
  }
  for (const ZoneInfo& zone : machine.zones()) {
    Json out = {{"name", zone.def.name.text},
                {"tags", zone.def.tags},
                {"inside", text_or_null(zone.def.inside.text)},
                {"enter", text_or_null(zone.def.enter.text)},
                {"leave", text_or_null(zone.def.leave.text)}};
    out.update(json_of(zone.def.shape));
    zones.push_back(std::move(out));
  }
  for (const LookDef& look : machine.looks()) {
    Json art = Json::object();
    for (const auto& [from, to] : look.art) art[from] = to;
    looks.push_back({{"name", look.name.text}, {"when", look.when.text}, {"art", art}});
  }
  if (loaded.definition) vars = json_of(loaded.definition->root)["vars"];
  for (const InputDef& input : machine.inputs()) inputs.push_back(input_json(input));
  for (const CueDef& cue : machine.cues())
    cues.push_back({{"name", cue.name.text}, {"kind", text_or_null(cue.kind)}, {"fields", json_of_fields(cue, {})}});
  return {{"machine", loaded.has_machine ? Json(std::string(machine.name())) : Json()},
          {"clips", clips},
          {"states", states},
          {"inputs", inputs},
          {"cues", cues},
          {"unit", machine.unit()},
          {"vars", vars},
          {"anywhere", anywhere},
          {"reaches", reaches},
          {"zones", zones},
          {"looks", looks}};
}

std::string input_text(const InputDef& input) {
  const Json json = input_json(input);
  const std::string type = json["type"];
  if (type == "bool") return fmt::format("bool, starts {}", json["start"].get<bool>());
  if (type == "pulse") {
    const Ticks buffer = std::get<PulseInput>(input.kind).buffer;
    return buffer.count == 0 ? "pulse" : fmt::format("pulse, alive for {:g} ms", buffer.to_seconds() * 1000);
  }
  if (type == "one_of") {
    std::string names;
    for (const Json& name : json["choices"]) names += (names.empty() ? "" : ", ") + name.get<std::string>();
    return fmt::format("one of {}; starts {}", names, json["start"].get<std::string>());
  }
  std::string out = fmt::format("{}, starts {}", type, json["start"].dump());
  if (!json["min"].is_null() || !json["max"].is_null())
    out += fmt::format(", from {} to {}", json["min"].is_null() ? "any" : json["min"].dump(),
                       json["max"].is_null() ? "any" : json["max"].dump());
  return out;
}

std::size_t widest(std::size_t least, const auto& list, const auto& text) {
  for (const auto& each : list) least = std::max(least, text(each).size());
  return least;
}

std::string rate_text(const Fraction& fps) {
  if (fps.num == 0) return ", own times";
  const double rate = static_cast<double>(fps.num) / static_cast<double>(fps.den);
  return fmt::format(", {:g} fps", rate);
}

std::string frames_text(const ClipInfo& clip) {
  if (clip.def.frames.empty()) return "no frames";
  const std::string out = plural(clip.def.frames.size(), "frame");
  std::vector<std::string> held;
  for (std::size_t i = 0; i < clip.def.frames.size(); ++i)
    if (clip.def.frames[i].hold > 1) held.push_back(fmt::format("{} held {}", i, clip.def.frames[i].hold));
  return fmt::format("{}{}{}", out, held.empty() ? "" : fmt::format(" ({})", fmt::join(held, ", ")),
                     rate_text(clip.def.fps));
}

void print_heading(std::string_view text, const std::string& note = "") {
  fmt::print("\n{}{}\n", styled(Style::strong, text), styled(Style::faint, note));
}

template <class Def>
const std::string& name_of(const Def& def) {
  return def.name.text;
}

// What a state shows and is.
std::string notes_of(const Machine& machine, const StateInfo& state) {
  const bool turns = state.plays.find(", ") != std::string::npos;  // several clips
  std::string notes = state.plays;
  if (!notes.empty() && !notes.starts_with("pose ")) notes = (turns ? "clips " : "clip ") + notes;
  if (state.initial != kNoIndex) {
    const std::string& first = machine.states()[state.initial].path;
    notes = "begins in " + first.substr(first.rfind('/') + 1);
  }
  const auto add = [&](const std::string& note) { notes += (notes.empty() ? "" : turns ? "; " : ", ") + note; };
  if (state.final)
    add("final");
  else if (state.sealed)
    add("sealed");
  if (!state.traits.empty()) add(fmt::format("is {}", fmt::join(state.traits, ", ")));
  return notes;
}

void print_state(const Machine& machine, std::size_t s, const StateDef* def, std::size_t width) {
  const StateInfo& state = machine.states()[s];
  const std::string notes = notes_of(machine, state), path = s == 0 ? "anywhere" : state.path;
  fmt::print("  {}\n", notes.empty() ? path : fmt::format("{:{}}  {}", path, width, styled(Style::faint, notes)));
  if (def != nullptr)
    for (const std::string& line : lines_of(*def)) fmt::print("  {:{}}    {}\n", "", width, line);
  std::size_t rule = 0;
  for (const TransitionInfo& transition : machine.transitions()) {
    if (transition.owner != s) continue;
    const GoDef* more = go_of(def, rule++);
    const std::string extras = more == nullptr ? "" : extras_of(*more);
    fmt::print(
        "  {:{}}    to {}  {}\n", "", width, transition.to,
        styled(Style::faint, transition.text + (extras.empty() || transition.text.empty() ? "" : ", ") + extras));
  }
}

void print_states(const Loaded& loaded) {
  const Machine& machine = *loaded.machine;
  std::string begins;
  for (const RegionInfo& region : machine.regions())
    if (region.owner == 0) begins += (begins.empty() ? "" : ", ") + machine.states()[region.initial].path;
  print_heading("states", "  begins in " + begins);
  const std::size_t width =
      widest(8, machine.states(), [](const StateInfo& state) -> const std::string& { return state.path; });
  const auto defined =
      loaded.definition ? states_by_path(*loaded.definition) : std::map<std::string, const StateDef*>();
  for (std::size_t s = 0; s < machine.states().size(); ++s) {
    const auto found = defined.find(machine.states()[s].path);
    const StateDef* def = found == defined.end() ? nullptr : found->second;
    const bool any = std::any_of(machine.transitions().begin(), machine.transitions().end(),
                                 [&](const TransitionInfo& t) { return t.owner == s; });
    if (s > 0 || any || (def != nullptr && !lines_of(*def).empty())) print_state(machine, s, def, width);
  }
}

void print_clips(const Machine& machine) {
  if (machine.clips().empty()) return;
  print_heading("clips");
  const std::size_t width =
      widest(8, machine.clips(), [](const ClipInfo& clip) -> const std::string& { return clip.def.name.text; });
  for (const ClipInfo& clip : machine.clips()) {
    fmt::print("  {:{}}  {:>7.3f} s  {}, {}\n", clip.def.name.text, width, clip.length.to_seconds(),
               clip.def.play.text(), frames_text(clip));
    for (const MarkLine& line : mark_lines(clip)) {
      const std::string when = line.seconds < 0 ? "" : fmt::format("{:.3f} s", line.seconds);
      fmt::print("  {:{}}  {:>9}  {}{}\n", "", width, when, line.text,
                 styled(Style::faint, line.place.empty() || !line.cue.empty() ? "" : "  at " + line.place));
    }
  }
}

void print_reaches_and_zones(const Machine& machine) {
  if (!machine.reaches().empty()) print_heading("reaches");
  for (const ReachDef& reach : machine.reaches())
    fmt::print("  {:8}  {}{}\n", reach.name.text, shape_text(reach.shape), tags_text(reach.hits, reach.spares));
  if (!machine.zones().empty()) print_heading("zones");
  for (const ZoneInfo& zone : machine.zones()) {
    std::string fills;
    for (const auto& [what, input] : {std::pair("inside", &zone.def.inside), std::pair("enter", &zone.def.enter),
                                      std::pair("leave", &zone.def.leave)})
      if (!input->empty()) fills += fmt::format("  {}: {}", what, input->text);
    fmt::print("  {:8}  {}{}{}\n", zone.def.name.text, shape_text(zone.def.shape), tags_text(zone.def.tags, {}), fills);
  }
}

void print_machine(const Loaded& loaded, const std::string& path) {
  const Machine& machine = *loaded.machine;
  fmt::print("{}  {}\n", loaded.has_machine ? styled(Style::strong, machine.name()) : "no machine", path);
  if (!machine.inputs().empty()) print_heading("inputs");
  const std::size_t input_width = widest(8, machine.inputs(), name_of<InputDef>);
  for (const InputDef& input : machine.inputs())
    fmt::print("  {:{}}  {}\n", input.name.text, input_width, input_text(input));
  if (loaded.has_machine) print_states(loaded);
  print_clips(machine);
  if (!machine.looks().empty()) print_heading("looks");
  for (const LookDef& look : machine.looks()) {
    std::string art;
    for (const auto& [from, to] : look.art) art += fmt::format("  {} instead of {}", to, from);
    fmt::print("  {:8}  when {}{}\n", look.name.text, look.when.text, styled(Style::faint, art));
  }
  print_reaches_and_zones(machine);
  if (!machine.cues().empty()) print_heading("cues");
  const std::size_t cue_width = widest(8, machine.cues(), name_of<CueDef>);
  for (const CueDef& cue : machine.cues()) {
    std::string fields;
    for (const FieldDef& field : cue.fields)
      fields += fmt::format("  {}: {}", field.name.text, value_text(field.value));
    fmt::print("  {:{}}  {:8}{}\n", cue.name.text, cue_width, printable(cue.kind), fields);
  }
}

std::string stage_names() {
  std::string out;
  for (const StageInfo& stage : compile_stages()) out += (out.empty() ? "" : ", ") + std::string(stage.name);
  return out;
}

Exit print_stage(const Loaded& loaded, const std::string& file, const std::string& stage) {
  const auto stages = compile_stages();
  if (std::none_of(stages.begin(), stages.end(), [&](const StageInfo& each) { return each.name == stage; })) {
    usage("there is no stage \"" + stage + "\"", "The stages are, in order: " + stage_names() + ".");
    return kUsage;
  }
  if (!loaded.has_machine) {
    fmt::print(stderr,
               "error: {} holds no machine\n    Clips and marks are compiled with the machine that uses them.\n", file);
    return kFindings;
  }
  fmt::print("{}", loaded.machine->dump(stage));
  return kFine;
}

const Command list_command(
    Command::Rank::look, "list", "List a file's inputs, states, clips and cues", [](Parameters& parameters) -> Action {
      struct Options {
        std::string file, stage;
        bool json = false;
      };
      const auto options = std::make_shared<Options>();
      parameters.place("FILE", options->file, "A machine, or a file of clips and marks");
      parameters.flag("--json", options->json, "Print it as JSON, times in ticks of 1/705600000 s");
      parameters.option("--dump", options->stage,
                        ("Print what a stage of compiling made of it instead: " + stage_names()).c_str());
      parameters.footer("Example:\n  mobrin list keeper.yaml\n  mobrin list keeper.yaml --dump plan");
      return [options] {
        if (options->json && !options->stage.empty()) {
          usage("`--json` and `--dump` are two ways of printing", "Say one of them.");
          return kUsage;
        }
        const auto loaded = load_or_report(options->file);
        if (!loaded) return kFindings;
        if (!options->stage.empty()) return print_stage(*loaded, options->file, options->stage);
        if (options->json)
          fmt::print("{}\n", print_json(machine_json(*loaded), 1));
        else
          print_machine(*loaded, options->file);
        return kFine;
      };
    });

}  // namespace

}  // namespace mobrin::cli
