#include "tape_test.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "console.hpp"
#include "expectations.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/tape_log.hpp"
#include "run_log.hpp"
#include "run_source.hpp"

namespace mobrin::cli {
namespace {

class TapeTest {
 public:
  TapeTest(const Tape& tape, const std::string& path, const Machine& machine, TestResult& out)
      : tape_(tape),
        path_(path),
        instance_(machine),
        expectations_(tape.expects, path, "", instance_, out.failures),
        out_(out) {}

  void run(Ticks until) {
    if (tape_.save) (void)load(*tape_.save, instance_);
    const Ticks begin = instance_.now();
    Changes changes(begin);
    if (expectations_.asks_for_changes()) {
      Instance first(machine());
      if (tape_.save) (void)load(*tape_.save, first);
      first.set_write_hook(changes.hook_of(first));
      Tape rest = tape_;
      rest.save.reset();
      rest.until = until;
      run_tape(first, rest, {}, [&](const Cue& cue) { changes.hear(cue); });
    }
    std::set<Ticks> instants{until};
    expectations_.instants(changes, instants);
    Ticks before{-1};
    auto step = tape_.steps.begin();
    for (const Ticks at : instants) {
      Tape part;
      for (; step != tape_.steps.end() && step->at <= at; ++step) {
        part.steps.push_back(*step);
        part.steps.back().at = step->at - std::max(before, Ticks());
      }
      RunOptions options;
      options.until = at - std::max(before, Ticks());
      // A tape's instants count from its begin.
      run_tape(instance_, part, options, [&](Cue cue) {
        cue.at -= begin;
        hear(cue);
      });
      expectations_.look(at);
      before = at;
    }
    expectations_.finish();
    if (tape_.log) compare_log();
    if (faults_ != tape_.faults)
      out_.failures.push_back(fmt::format(
          "{}: expected {}, but there {} {}", path_, plural(static_cast<std::size_t>(tape_.faults), "runaway"),
          faults_ == 1 ? "was" : "were", faults_ == 0 ? "none" : std::to_string(faults_)));
  }

 private:
  [[nodiscard]] const Machine& machine() const { return instance_.machine(); }

  // The first line that differs, with the rule that made it.
  void compare_log() {
    const std::vector<Text>& kept = *tape_.log;
    std::size_t same = 0;
    while (same < kept.size() && same < out_.log.size() && kept[same].text == out_.log[same]) ++same;
    if (same == kept.size() && same == out_.log.size()) return;
    const std::string now = same < out_.log.size() ? "\"" + out_.log[same] + "\"" : "the end";
    const std::string before = same < kept.size() ? "\"" + kept[same].text + "\"" : "no more";
    std::string rule;
    if (same < out_.log.size() && rules_[same] != kNoTransition)
      rule = ", by " + rule_text(machine(), machine().transitions()[rules_[same]]);
    const std::uint32_t line = same < kept.size() ? kept[same].place.line : 0;
    out_.failures.push_back(printable(fmt::format("{}{}: the log differs: expected {}, but it tells {}{}", path_,
                                                  line > 0 ? fmt::format(":{}", line) : "", before, now, rule)));
    // Where both are the same again at the end.
    std::size_t end = 0;
    while (end < kept.size() - same && end < out_.log.size() - same &&
           kept[kept.size() - 1 - end].text == out_.log[out_.log.size() - 1 - end])
      ++end;
    for (std::size_t i = same; i < kept.size() - end; ++i) out_.changed.push_back("- " + kept[i].text);
    for (std::size_t i = same; i < out_.log.size() - end; ++i) out_.changed.push_back("+ " + out_.log[i]);
  }

  void hear(const Cue& cue) {
    if (const std::string line = log_line(machine(), cue); !line.empty()) {
      out_.log.push_back(line);
      rules_.push_back(cue.transition);
    }
    out_.runs.front().hear(cue);
    if (cue.what == Told::fault) ++faults_;
    expectations_.hear(cue);
  }

  const Tape& tape_;
  const std::string& path_;
  Instance instance_;
  Expectations expectations_;
  TestResult& out_;
  std::vector<std::uint32_t> rules_;  // beside the log
  std::int32_t faults_ = 0;
};

}  // namespace

std::vector<Finding> clamped_writes(const Tape& tape, const std::string& path, const Machine& machine) {
  std::vector<Finding> out;
  Instance trial(machine);
  InstanceWrite last;
  trial.set_write_hook({[](void* to, const InstanceWrite& write) { *static_cast<InstanceWrite*>(to) = write; }, &last});
  for (const TapeStep& step : tape.steps)
    for (const auto& [name, value] : step.set) {
      last = {};
      if (!trial.set_by_name(name.text, value) || !last.clamped) continue;
      out.push_back(finding_in(path, FindingCode::hardly_meant,
                               fmt::format("\"{}\" is {} here, beyond its range", name.text, value_text(value)),
                               fmt::format("It becomes {}.", value_text(trial.input_value(last.input))),
                               name.place.line, name.place.column));
      out.back().hint = true;
    }
  return out;
}

MachineRun& TestResult::run_of(const std::string& of, const Machine& machine) {
  for (MachineRun& each : runs)
    if (each.file == of) return each;
  return runs.emplace_back(MachineRun{of, machine});
}

TestResult test_tape(const std::string& path, const std::string& on) {
  TestResult out;
  out.file = path;
  LoadedTape loaded = load_tape(path);
  out.findings = std::move(loaded.findings);
  if (!loaded.tape) return out;
  const Tape& tape = *loaded.tape;
  const auto missing = [&](std::string message, std::string remedy) {
    Finding& finding = out.findings.emplace_back();
    finding.code = FindingCode::missing_key;
    finding.file = path;
    finding.message = std::move(message);
    finding.remedy = std::move(remedy);
  };
  const std::string machine_path = on.empty() ? tape.machine : on;
  if (machine_path.empty())
    return missing("the tape names no machine", "Add `machine: FILE`, or say `--on MACHINE`."), out;
  if (auto gone = on.empty() ? missing_machine(tape, path) : std::nullopt)
    return out.findings.push_back(std::move(*gone)), out;
  const Loaded machine = load_character(machine_path);
  for (const Finding& finding : machine.findings)
    if (is_error(finding.code)) out.findings.push_back(finding);
  if (!machine.machine || !machine.has_machine) {
    if (out.findings.empty())
      missing("\"" + machine_path + "\" holds no machine", "Name a file that says `machine: NAME`.");
    return out;
  }
  for (Finding& finding : check_tape(tape, *machine.machine, path)) out.findings.push_back(std::move(finding));
  for (Finding& finding :
       expectation_findings({tape.expects, tape.until, "tape"}, path, *machine.definition, *machine.machine))
    out.findings.push_back(std::move(finding));
  if (!tape.until) missing("nothing says how long to run", "Add `until: " + possible_end(tape) + "`.");
  if (!out.findings.empty()) return out;
  out.expectations = tape.expects.size() + (tape.faults > 0 ? 1 : 0) + (tape.log ? 1 : 0);
  out.run_of(machine_path, *machine.machine);
  if (claim_findings(*machine.definition, *machine.machine).empty())
    out.broken = broken_assumptions(*machine.definition, *machine.machine, tape);
  TapeTest(tape, path, *machine.machine, out).run(*tape.until);
  return out;
}

}  // namespace mobrin::cli
