// mobrin run: runs a machine over a tape and prints what happens.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/draw/run.hpp"
#include "mobrin/io/scene.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

// The log a person reads: a line an event; what one transition left and entered stands on one line.
class TextLog {
 public:
  TextLog(const Machine& machine, std::int64_t rate_hz, bool all_loops)
      : machine_(machine), rate_hz_(rate_hz), all_loops_(all_loops) {
    fmt::print("{}\n", styled(Style::faint, "  seconds    step  what"));
  }

  void add(const Cue& record) {
    if (record.what == Told::enter || record.what == Told::leave) {
      if (pending_ && (record.transition != transition_ || record.at != at_)) flush();
      pending_ = true;
      transition_ = record.transition;
      at_ = record.at;
      if (record.what == Told::leave && left_.empty()) left_ = record.state_path();
      if (record.what == Told::enter) {
        // Of the way down only the innermost; where regions split it, one a region.
        if (!machine_.states()[record.state].has_children) entered_.emplace_back(record.state_path());
      }
      return;
    }
    // A loop on which nothing hangs is no news.
    if (record.what == Told::loop && !all_loops_ && !machine_.states()[record.state].uses_loops) return;
    flush();
    const std::string in =
        record.state_path().empty() ? "" : styled(Style::faint, fmt::format("  in {}", record.state_path()));
    switch (record.what) {
      case Told::cue:
        line(record.at, "cue", cue_text(record) + (record.clip == kNoIndex ? in : ""));
        break;
      case Told::loop:
        line(record.at, "loop", fmt::format("{} comes round", record.state_path()));
        break;
      case Told::done:
        line(record.at, "done", styled(Style::strong, fmt::format("{}: remove me", record.state_path())));
        break;
      case Told::fault:
        line(record.at, "fault", fault_text(record));
        break;
      default:
        break;
    }
  }

  void end(const Instance& instance) {
    flush();
    std::string inputs;
    for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i) {
      const InputDef& input = machine_.inputs()[i];
      if (!std::holds_alternative<PulseInput>(input.kind))
        inputs += fmt::format(" {}={}", input.name.text, value_text(instance.input_value(i)));
    }
    std::string shows;
    for (std::uint16_t r = 0; r < instance.region_count(); ++r)
      for (const Shown& shown : instance.layers(r)) {
        if (shown.nothing()) continue;
        shows += fmt::format("; shows {}", machine_.clips()[shown.clip].def.name.text);
        if (shown.frame >= 0) shows += fmt::format(" frame {}", shown.frame);
        shows += fmt::format(" at {:.3f} s", shown.seconds);
        if (shown.weight < 1) shows += fmt::format(" ({:.0f}%)", 100 * shown.weight);
      }
    line(instance.now(), "end",
         fmt::format("in {}{}{}", fmt::join(active_leaves(machine_, instance), ", "), shows,
                     styled(Style::faint, inputs.empty() ? "" : "  with" + inputs)));
  }

  // Paths of the innermost active states, in region order.
  static std::vector<std::string> active_leaves(const Machine& machine, const Instance& instance) {
    std::vector<std::uint16_t> leaves;
    for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
      const std::uint16_t leaf = instance.active(r);
      if (leaf != kNoIndex && !machine.states()[leaf].has_children) leaves.push_back(leaf);
    }
    std::sort(leaves.begin(), leaves.end());
    std::vector<std::string> paths;
    for (const std::uint16_t leaf : leaves) paths.push_back(machine.states()[leaf].path);
    return paths;
  }

 private:
  void line(Ticks at, std::string_view what, const std::string& text) const {
    const std::int64_t step =
        at.count / kTicksPerSecond * rate_hz_ + at.count % kTicksPerSecond * rate_hz_ / kTicksPerSecond;
    fmt::print("{:9.3f}  {:6}  {:6} {}\n", at.to_seconds(), step, what, text);
  }

  std::string fault_text(const Cue& record) const {
    const TransitionInfo& last = machine_.transitions()[record.transition];
    return styled(Style::bad, "runaway") +
           fmt::format(": 64 rounds of transitions in one instant, the last to {}", record.state_path()) + why(last) +
           "; these states' conditions send them to each other";
  }

  // A transition in its author's words, with its place.
  std::string why(const TransitionInfo& transition) const {
    std::string out = "  " + transition.text;
    if (transition.place.line == 0) return styled(Style::faint, out);
    const std::string& file = machine_.files()[transition.place.file];
    return styled(Style::faint,
                  out + fmt::format("  ({}:{})", file.substr(folder_of(file).size()), transition.place.line));
  }

  static std::string cue_text(const Cue& cue) {
    std::string out = styled(Style::warm, cue.name());
    if (cue.edge != Edge::none) out += cue.edge == Edge::begin ? " begins" : " ends";
    if (!cue.kind().empty()) out += fmt::format(" ({})", printable(cue.kind()));
    if (cue.clip != kNoIndex)
      out += fmt::format("  {}{}", cue.clip_name(), cue.frame < 0 ? "" : fmt::format(" frame {}", cue.frame));
    std::string fields;
    for (const FieldDef& field : cue.definition().fields)
      fields += fmt::format("  {}: {}", field.name.text, value_text(*cue.field(field.name.text)));
    return out + styled(Style::faint, fields);
  }

  void flush() {
    if (!pending_) return;
    const std::string entered = fmt::format("{}", fmt::join(entered_, ", "));
    const std::string states = left_.empty()     ? entered
                               : entered.empty() ? left_ + " is left"
                                                 : left_ + " -> " + entered;
    line(at_, "state",
         styled(Style::good, states) + (transition_ == kNoTransition ? "" : why(machine_.transitions()[transition_])));
    pending_ = false;
    left_.clear();
    entered_.clear();
  }

  const Machine& machine_;
  std::int64_t rate_hz_;
  bool pending_ = false;
  std::uint32_t transition_ = kNoTransition;
  Ticks at_;
  std::string left_;
  std::vector<std::string> entered_;
  bool all_loops_;
};

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
  return {{"ticks", instance.now().count},
          {"what", "final"},
          {"states", TextLog::active_leaves(machine, instance)},
          {"inputs", inputs},
          {"shown", shown},
          {"look", instance.look() == kNoIndex ? Json() : Json(machine.looks()[instance.look()].name.text)}};
}

int run(const RunRequest& request) {
  const auto tape = tape_or_report(request.tape);
  if (!tape) return kFindings;
  const std::string machine_path = request.machine.empty() ? tape->machine : request.machine;
  if (machine_path.empty()) {
    fmt::print(
        stderr,
        "error: the tape {} names no machine\n    Add `machine: FILE` to it, or run `mobrin run MACHINE --tape {}`.\n",
        request.tape, request.tape);
    return kUsage;
  }
  const auto loaded = load_or_report(machine_path);
  if (!loaded) return kFindings;
  if (!loaded->has_machine) {
    fmt::print(stderr, "error: {} holds no machine\n    Name a file that says `machine: NAME`.\n", machine_path);
    return kFindings;
  }
  const auto misfits = check_tape(*tape, *loaded->machine, request.tape);
  print_findings(misfits, true);
  if (has_errors(misfits)) {
    fmt::print(stderr, "{} in {}; nothing was run.\n", counts(misfits), request.tape);
    return kFindings;
  }
  if (!request.until && !tape->until) {
    fmt::print(stderr, "error: nothing says how long to run\n    Add `until: 4s` to the tape, or `--until 4s`.\n");
    return kUsage;
  }
  if (!request.picture.empty() && !can_write("--picture", request.picture, {".png", ".svg"}, &*loaded))
    return kFindings;
  Instance instance(*loaded->machine);
  bool faults = false;
  RunOptions options;
  options.rate_hz = request.rate_hz;
  options.until = request.until;
  if (request.json) {
    run_tape(instance, *tape, options, [&](const Cue& record) {
      faults = faults || record.what == Told::fault;
      fmt::print("{}\n", print_json(json_of(record)));
    });
    fmt::print("{}\n", print_json(final_json(*loaded->machine, instance)));
  } else {
    fmt::print("{}  {}{}\n", styled(Style::strong, loaded->machine->name()), machine_path,
               request.tape.empty() ? "" : "  tape " + request.tape);
    TextLog log(*loaded->machine, request.rate_hz, request.loops);
    run_tape(instance, *tape, options, [&](const Cue& record) {
      faults = faults || record.what == Told::fault;
      log.add(record);
    });
    log.end(instance);
  }
  if (!request.picture.empty()) {
    const Ticks until = request.until ? *request.until : *tape->until;
    if (until.count <= 0) {
      fmt::print(stderr, "error: a run of no time has no picture\n    Let it last: `--until 4s`.\n");
      return kUsage;
    }
    if (const Outcome drawn = draw_run(*loaded->machine, *tape, until, request.picture, request.dark); !drawn) {
      fmt::print(stderr, "error: {}\n", drawn.error().text());
      return kFindings;
    }
    if (!request.json) fmt::print("{}  {}\n", styled(Style::strong, "picture"), request.picture);
  }
  return faults ? kFindings : kFine;
}

namespace {

const Command run_command(
    Command::Rank::run, "run", "Run a machine over a tape and print what happens",
    [](Parameters& parameters) -> Action {
      struct Options {
        std::string file, tape, until, picture;
        std::int64_t rate = 60;
        bool json = false, loops = false, dark = false;
      };
      const auto options = std::make_shared<Options>();
      parameters.place("FILE", options->file, "The machine; or a tape that names its machine; or a scene");
      parameters.option("--tape", options->tape, "The recorded inputs; without, nothing is pressed");
      parameters.number("--rate", options->rate, {1, 100'000}, "Steps a second; changes nothing but the column `step`");
      parameters.option("--until", options->until, "How long to run, such as 4s; overrides the tape's");
      parameters.flag("--loops", options->loops, "Print also the loops on which nothing hangs (--json has all)");
      parameters.option("--picture", options->picture,
                        "Draw the run: lanes over time; a PNG, or an SVG if it ends in .svg");
      parameters.flag("--dark", options->dark, "The picture on a dark ground");
      parameters.flag("--json", options->json, "Print one JSON object a line");
      parameters.footer(
          "Example:\n  mobrin run keeper.yaml --tape dusk.tape.yaml\n  mobrin run keeper.yaml --until 2s "
          "--json\n\nExit "
          "code: 0 when all is fine, 1 when a file has errors or the run has a fault.");
      return [options]() -> int {
        RunRequest request{options->file, options->tape,  options->rate,    std::nullopt,
                           options->json, options->loops, options->picture, options->dark};
        if (!options->until.empty()) {
          request.until = parse_duration(options->until);
          if (!request.until || *request.until > Ticks(kMaxDurationTicks)) {
            fmt::print(
                stderr,
                "error: `--until {}` is no duration\n    Write it with its unit, such as `--until 4s` or `--until "
                "500ms`; at most 10 hours.\n",
                options->until);
            return kUsage;
          }
        }
        if (is_scene(request.machine).value_or(false)) {
          return run_scene(request);
        }
        if (request.tape.empty() && is_tape(request.machine).value_or(false)) std::swap(request.tape, request.machine);
        return run(request);
      };
    });

}  // namespace

}  // namespace mobrin::cli
