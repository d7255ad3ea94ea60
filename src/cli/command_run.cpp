// mobrin run: runs a machine over a tape and prints what happens.
#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <variant>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/draw/run.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/scene.hpp"
#include "output.hpp"
#include "run_log.hpp"
#include "run_source.hpp"

namespace mobrin::cli {
namespace {

// Where a machine is at the end: states, what they show, what it holds.
std::string end_text(const Machine& machine, const Instance& instance) {
  std::string with, shows;
  for (std::uint16_t i = 0; i < machine.inputs().size(); ++i) {
    const InputDef& input = machine.inputs()[i];
    if (!std::holds_alternative<PulseInput>(input.kind))
      with += fmt::format(" {}={}", input.name.text, value_text(instance.input_value(i)));
  }
  for (const auto& variable : save(instance).variables)
    with += fmt::format(" {}{}{}={}", variable.state, variable.state.empty() ? "" : ":", variable.name,
                        value_text(variable.value));
  std::vector<Shown> all(64);
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    const bool blends = instance.blended(r, all) > 1 && instance.layers(r).size() == 1;
    const ShownLayers layers = instance.layers(r);
    std::vector<Shown> here(layers.begin(), layers.end());
    if (blends)
      here.assign(all.begin(),
                  all.begin() + static_cast<std::ptrdiff_t>(std::min(all.size(), instance.blended(r, all))));
    for (const Shown& shown : here) {
      if (shown.nothing() || (blends && shown.weight <= 0)) continue;
      shows += fmt::format("; shows {}", machine.clips()[shown.clip].def.name.text);
      if (shown.frame >= 0) shows += fmt::format(" frame {}", shown.frame);
      shows += fmt::format(" at {:.3f} s", shown.seconds);
      if (shown.weight < 1) shows += fmt::format(" ({:.0f}%)", 100 * shown.weight);
    }
  }
  if (instance.look() != kNoIndex) shows += fmt::format("; look {}", machine.looks()[instance.look()].name.text);
  return fmt::format("in {}{}{}", fmt::join(RunLog::active_leaves(machine, instance), ", "), shows,
                     styled(Style::faint, with.empty() ? "" : "  with" + with));
}

}  // namespace

Json final_json(const Machine& machine, const Instance& instance) {
  Json inputs = Json::object();
  for (std::uint16_t i = 0; i < machine.inputs().size(); ++i) {
    const InputDef& input = machine.inputs()[i];
    if (std::holds_alternative<PulseInput>(input.kind)) continue;
    const FieldValue value = instance.input_value(i);
    // A float in as few digits as tell it from its neighbours: 0.1, not 0.10000000149011612.
    if (const auto* number = std::get_if<double>(&value))
      inputs[input.name.text] = std::stod(fmt::format("{}", static_cast<float>(*number)));
    else
      inputs[input.name.text] = json_of(value);
  }
  Json vars = Json::object();
  for (const auto& variable : save(instance).variables)
    vars[variable.state.empty() ? variable.name : variable.state + ":" + variable.name] = json_of(variable.value);
  std::vector<std::pair<std::uint16_t, Shown>> plays;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r)
    for (const Shown& shown : instance.layers(r))
      if (!shown.nothing()) plays.emplace_back(instance.active(r), shown);
  std::stable_sort(plays.begin(), plays.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  Json shown = Json::array();
  for (const auto& [state, play] : plays)
    shown.push_back({{"clip", machine.clips()[play.clip].def.name.text},
                     {"frame", play.frame < 0 ? Json() : Json(play.frame)},
                     {"seconds", play.seconds},
                     {"weight", play.weight}});
  Json out = {{"ticks", instance.now().count},
              {"what", "final"},
              {"states", RunLog::active_leaves(machine, instance)},
              {"inputs", inputs},
              {"shown", shown},
              {"look", instance.look() == kNoIndex ? Json() : Json(machine.looks()[instance.look()].name.text)}};
  if (!vars.empty()) out["vars"] = vars;
  return out;
}

namespace {

// What it goes by; or what it ends with, and why is printed.
std::variant<RunSource, int> prepare(const RunRequest& request) {
  auto source = run_source("run", request.machine, request.tape, request.steps);
  const auto* what = std::get_if<RunSource>(&source);
  if (what == nullptr) return source;
  if (!request.until && !what->tape.until)
    return usage("nothing says how long to run",
                 fmt::format("Add `until: {0}` to the tape, or `--until {0}`; or press something: `--press NAME@0.5s`.",
                             possible_end(what->tape)));
  const Ticks end = request.until ? *request.until : *what->tape.until;
  if (request.from && *request.from > end)
    return usage(fmt::format("`--from` lies behind the end of the run, {:g} s", end.to_seconds()),
                 "Name an earlier instant, or let the run last: `--until`.");
  if (!request.picture.empty() && !can_write("--picture", request.picture, {".png", ".svg"}, &what->loaded))
    return kFindings;
  return source;
}

int draw_picture(const RunRequest& request, const RunSource& what) {
  const Ticks whole = request.until ? *request.until : *what.tape.until;
  const Ticks from = request.from.value_or(Ticks()), until = std::min(whole, request.to.value_or(whole));
  if (until <= from) {
    fmt::print(stderr, "error: a run of no time has no picture\n    Let it last: `--until 4s`.\n");
    return kUsage;
  }
  if (const Outcome drawn = draw_run(*what.loaded.machine, what.tape, until, request.picture, request.dark, from);
      !drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  if (!request.json) fmt::print("{}  {}\n", styled(Style::strong, "picture"), request.picture);
  return kFine;
}

}  // namespace

int run(const RunRequest& request) {
  const auto prepared = prepare(request);
  if (const int* over = std::get_if<int>(&prepared)) return *over;
  const auto& what = std::get<RunSource>(prepared);
  const Machine& machine = *what.loaded.machine;
  Instance instance(machine);
  RunOptions options;
  options.rate_hz = request.rate_hz;
  options.until = request.until;
  options.at_wakes = !machine.looks().empty();
  const auto wanted = [&](Ticks at) {
    return (!request.from || at >= *request.from) && (!request.to || at <= *request.to);
  };
  const auto line = [&](Ticks at, std::string_view what_is_told, const std::string& text) {
    if (!wanted(at)) return;
    const std::int64_t step =
        at.count / kTicksPerSecond * request.rate_hz + at.count % kTicksPerSecond * request.rate_hz / kTicksPerSecond;
    fmt::print("{:9.3f}  {:6}  {:6} {}\n", at.to_seconds(), step, what_is_told, text);
  };
  const auto json = [&](const Json& each) {
    if (wanted(Ticks(each["ticks"].get<std::int64_t>()))) fmt::print("{}\n", print_json(each));
  };
  if (!request.json) {
    fmt::print("{}  {}{}\n", styled(Style::strong, machine.name()), what.path,
               request.tape.empty() ? "" : "  tape " + request.tape);
    fmt::print("{}\n", styled(Style::faint, "  seconds    step  what"));
  }
  RunLog log(instance, request.json ? RunLog::Line() : line, request.json ? RunLog::JsonLine(json) : RunLog::JsonLine(),
             request.loops);
  instance.set_write_hook(log.hook());
  run_tape(instance, what.tape, options, [&](const Cue& record) { log.add(record); });
  instance.set_write_hook({});
  log.end();
  if (request.json)
    fmt::print("{}\n", print_json(final_json(machine, instance)));
  else
    line(instance.now(), "end", end_text(machine, instance));
  if (!request.picture.empty())
    if (const int drawn = draw_picture(request, what); drawn != kFine) return drawn;
  return log.faults() ? kFindings : kFine;
}

namespace {

const Command run_command(
    Command::Rank::run, "run", "Run a machine over a tape and print what happens",
    [](Parameters& parameters) -> Action {
      struct Options {
        std::string file, tape, until, picture, from, to;
        TypedSteps steps;
        std::int64_t rate = 60;
        bool json = false, loops = false, dark = false;
      };
      const auto options = std::make_shared<Options>();
      parameters.place("FILE", options->file, "The machine; or a tape that names its machine; or a scene");
      parameters.option("--tape", options->tape, "The recorded inputs; without, nothing is pressed");
      options->steps.add_to(parameters);
      parameters.number("--rate", options->rate, {1, 100'000}, "Steps a second; changes nothing but the column `step`");
      parameters.option("--until", options->until, "How long to run, such as 4s; overrides the tape's");
      parameters.option("--from", options->from, "Print and draw only what happens from this instant on");
      parameters.option("--to", options->to, "... and up to this one");
      parameters.flag("--loops", options->loops, "Print also the loops on which nothing hangs (--json has all)");
      parameters.option("--picture", options->picture,
                        "Draw the run: lanes over time; a PNG, or an SVG if it ends in .svg");
      parameters.flag("--dark", options->dark, "The picture on a dark ground");
      parameters.flag("--json", options->json, "Print one JSON object a line");
      parameters.footer(
          "Example:\n  mobrin run keeper.yaml --tape dusk.tape.yaml\n  mobrin run keeper.yaml --set carrying=net "
          "--press swing@0.9s\n  mobrin run keeper.yaml --until 2s "
          "--json\n\nExit "
          "code: 0 when all is fine, 1 when a file has errors or the run has a fault.");
      return [options]() -> int {
        RunRequest request{options->file, options->tape,  options->rate,    std::nullopt,
                           options->json, options->loops, options->picture, options->dark};
        for (const auto& [name, text, instant] :
             {std::tuple("until", &options->until, &request.until), std::tuple("from", &options->from, &request.from),
              std::tuple("to", &options->to, &request.to)}) {
          if (text->empty()) continue;
          *instant = parse_duration(*text);
          if (!*instant || **instant > Ticks(kMaxDurationTicks))
            return usage(fmt::format("`--{} {}` is no duration", name, *text),
                         fmt::format("Write it with its unit, such as `--{} 4s` or `--{} 500ms`; at most 10 hours.",
                                     name, name));
        }
        if (request.from && request.to && *request.to < *request.from)
          return usage("`--to` lies before `--from`", "Give them in order.");
        const auto steps = options->steps.read();
        if (!steps) return kUsage;
        request.steps = *steps;
        if (is_scene(request.machine).value_or(false)) {
          return run_scene(request);
        }
        if (request.tape.empty() && is_tape(request.machine).value_or(false)) std::swap(request.tape, request.machine);
        return run(request);
      };
    });

}  // namespace

}  // namespace mobrin::cli
