#include "run_source.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"

namespace mobrin::cli {
namespace {

// `swing@0.9s`, `move=1@0.2s`, `move=1`, read as a tape of one step. False with an error printed.
bool read_step(const std::string& text, bool press, std::vector<TypedStep>& steps) {
  const std::string argument = (press ? "--press " : "--set ") + text;
  const std::size_t at = text.rfind('@'), equals = text.find('=');
  const std::string when = at == std::string::npos ? "0s" : text.substr(at + 1), what = text.substr(0, at);
  const auto instant = parse_duration(when);
  if (!instant || what.empty() || (press && at == std::string::npos) ||
      (!press && (equals == std::string::npos || equals == 0))) {
    usage(fmt::format("`{}` cannot be read", argument),
          press ? "Write the pulse and when: `--press swing@0.9s`."
                : "Write the input, its value and when: `--set move=1@0.2s`.");
    return false;
  }
  const auto quoted = [](const std::string& words) {
    return Json(words).dump(-1, ' ', true, Json::error_handler_t::replace);
  };
  const std::string step = press ? "pulse: " + quoted(what)
                                 : "set: {" + quoted(what.substr(0, equals)) + ": " + what.substr(equals + 1) + "}";
  LoadedTape loaded = load_tape_text(
      fmt::format("mobrin: 1\ntape: line\nsteps:\n  - {{at: {{ticks: {}}}, {}}}\n", instant->count, step), argument);
  // Where it stands in that text says nothing to who typed it.
  for (Finding& finding : loaded.findings) finding.line = finding.column = 0;
  print_findings(loaded.findings, true);
  if (!loaded.tape) return false;
  for (TapeStep& each : loaded.tape->steps) {
    for (auto& [input, value] : each.set) input.place = {};
    for (Text& pulse : each.pulses) pulse.place = {};
    steps.push_back({argument, std::move(each)});
  }
  return true;
}

// Whether a tape fits; else that is printed.
bool fits(const Tape& tape, const Machine& machine, const std::string& name) {
  const auto misfits = check_tape(tape, machine, name);
  print_findings(misfits, true);
  if (!has_errors(misfits)) return true;
  fmt::print(stderr, "{} in {}; nothing was run.\n", counts(misfits), printable(name));
  return false;
}

constexpr std::int64_t kGoesOn = 2;  // seconds behind the last step, where nothing says how long

// Steps of the command line behind those of the tape at their instants.
void add_steps(const std::vector<TypedStep>& steps, Tape& tape) {
  for (const TypedStep& typed : steps) {
    const auto at = std::upper_bound(tape.steps.begin(), tape.steps.end(), typed.step,
                                     [](const TapeStep& a, const TapeStep& b) { return a.at < b.at; });
    tape.steps.insert(at, typed.step);
  }
  if (!tape.until && !steps.empty()) tape.until = tape.steps.back().at + seconds(kGoesOn);
}

}  // namespace

void TypedSteps::add_to(Parameters& parameters) {
  parameters.options("--press", presses, "A press without a tape: swing@0.9s; may be given several times");
  parameters.options("--set", sets, "A value without a tape: move=1@0.2s, or move=1 from the beginning");
}

std::optional<std::vector<TypedStep>> TypedSteps::read() const {
  std::vector<TypedStep> out;
  for (const std::string& text : presses)
    if (!read_step(text, true, out)) return std::nullopt;
  for (const std::string& text : sets)
    if (!read_step(text, false, out)) return std::nullopt;
  std::stable_sort(out.begin(), out.end(),
                   [](const TypedStep& a, const TypedStep& b) { return a.step.at < b.step.at; });
  return out;
}

std::optional<Finding> missing_machine(const Tape& tape, const std::string& tape_file) {
  std::error_code error;
  if (tape.machine.empty() || std::filesystem::exists(tape.machine, error)) return std::nullopt;
  return finding_in(tape_file, FindingCode::unreadable_file, "\"" + tape.machine + "\" does not exist",
                    path_remedy(tape.machine, "Check the path; it is relative to the tape."), tape.machine_place.line,
                    tape.machine_place.column);
}

std::string possible_end(const Tape& tape) {
  Ticks last = tape.steps.empty() ? Ticks{} : tape.steps.back().at;
  for (const TapeExpect& each : tape.expects) last = std::max({last, each.at, each.to.value_or(Ticks{})});
  return fmt::format("{}s", last.count / kTicksPerSecond + kGoesOn);
}

std::variant<RunSource, int> run_source(const std::string& command, const std::string& machine, const std::string& tape,
                                        const std::vector<TypedStep>& steps) {
  auto loaded_tape = tape_or_report(tape);
  if (!loaded_tape) return kFindings;
  const std::string path = machine.empty() ? loaded_tape->machine : machine;
  if (path.empty())
    return usage(fmt::format("the tape {} names no machine", tape),
                 fmt::format("Add `machine: FILE` to it, or run `mobrin {} MACHINE --tape {}`.", command, tape));
  if (const auto missing = machine.empty() ? missing_machine(*loaded_tape, tape) : std::nullopt) {
    print_findings({*missing}, true);
    return kUsage;
  }
  auto loaded = load_or_report(path);
  if (!loaded) return kFindings;
  if (!loaded->has_machine) {
    usage(path + " holds no machine", "Name a file that says `machine: NAME`, or a tape that names one.");
    return kFindings;
  }
  if (!fits(*loaded_tape, *loaded->machine, tape)) return kFindings;
  for (const TypedStep& typed : steps) {
    Tape alone;
    alone.steps = {typed.step};
    if (!fits(alone, *loaded->machine, typed.argument)) return kUsage;
  }
  add_steps(steps, *loaded_tape);
  return RunSource{std::move(*loaded_tape), path, std::move(*loaded)};
}

}  // namespace mobrin::cli
