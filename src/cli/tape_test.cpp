#include "tape_test.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "console.hpp"
#include "mobrin/check/expect.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/tape_log.hpp"
#include "run_log.hpp"
#include "run_source.hpp"

namespace mobrin::cli {
namespace {

class TapeTest {
 public:
  TapeTest(const Tape& tape, const std::string& path, const Machine& machine, TestResult& out)
      : tape_(tape), path_(path), instance_(machine), out_(out) {}

  void run(Ticks until) {
    if (tape_.save) (void)load(*tape_.save, instance_);
    begin_ = instance_.now();
    // Everywhere something is expected the run is cut, which changes nothing.
    std::set<Ticks> instants{until};
    for (const TapeExpect& each : tape_.expects) {
      if (!each.to) instants.insert(each.at);
    }
    Ticks before{-1};
    for (const Ticks at : instants) {
      Tape part;
      for (const TapeStep& step : tape_.steps) {
        if (step.at <= before || step.at > at) continue;
        part.steps.push_back(step);
        part.steps.back().at = step.at - std::max(before, Ticks());
      }
      RunOptions options;
      options.until = at - std::max(before, Ticks());
      // A tape's instants count from its begin.
      run_tape(instance_, part, options, [&](Cue cue) {
        cue.at -= begin_;
        hear(cue);
      });
      for (const TapeExpect& each : tape_.expects)
        if (!each.to && each.at == at) look(each);
      before = at;
    }
    for (const TapeExpect& each : tape_.expects) finish(each);
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
    if (cue.transition != kNoTransition) out_.taken.insert(cue.transition);
    if (cue.what == Told::enter) out_.entered.insert(cue.state);
    if (cue.what == Told::fault) ++faults_;
    if (cue.what == Told::cue && cue.edge != Edge::end) told_.push_back(cue);
    if (cue.what == Told::enter || cue.what == Told::leave) last_ = cue;
    for (const TapeExpect& each : tape_.expects) {
      if (!each.to || cue.at < each.at || cue.at >= *each.to) continue;
      stretch(each, cue.at);
    }
  }

  // Over a stretch: once it fails it is told once.
  void stretch(const TapeExpect& expect, Ticks at) {
    if (failed_.count(&expect) > 0) return;
    const auto fails = [&](const Text& text, bool wanted, const char* word) {
      if (text.empty() || expression_holds(instance_, text.text) == wanted) return;
      failed_.insert(&expect);
      fail(expect,
           fmt::format("{} \"{}\" from {:g} s to {:g} s, but at {:.3f} s it is {}", word, text.text,
                       expect.at.to_seconds(), expect.to->to_seconds(), at.to_seconds(), wanted ? "not" : "so"));
    };
    fails(expect.never, false, "never");
    fails(expect.always, true, "always");
  }

  void look(const TapeExpect& expect) {
    const auto where = [&] { return fmt::format("{}", fmt::join(RunLog::active_leaves(machine(), instance_), ", ")); };
    const std::string when = fmt::format("at {:g} s", expect.at.to_seconds());
    if (!expect.in.empty()) {
      const auto state = machine().state(expect.in.text);
      if (!state || !instance_.in(*state))
        fail(expect, fmt::format("{} in {}, but it is in {}", when, expect.in.text, where()) + since());
    }
    if (!expect.is.empty()) {
      const auto trait = machine().trait(expect.is.text);
      if (!trait || !instance_.is(*trait))
        fail(expect, fmt::format("{} to be {}, but in {} it is not", when, expect.is.text, where()) + since());
    }
    if (!expect.holds.empty() && !expression_holds(instance_, expect.holds.text))
      fail(expect, fmt::format("{} \"{}\", which is false", when, expect.holds.text));
    if (!expect.shows.empty()) {
      const std::size_t slash = expect.shows.text.find('/');
      const std::string clip = expect.shows.text.substr(0, slash);
      std::string shown;
      bool found = false;
      for (std::uint16_t r = 0; r < instance_.region_count(); ++r) {
        const Shown now = instance_.shown(r);
        if (now.nothing()) continue;
        const std::string& name = machine().clips()[now.clip].def.name.text;
        shown += fmt::format("{}{}/{}", shown.empty() ? "" : ", ", name, now.frame);
        found = found || (name == clip && (slash == std::string::npos ||
                                           expect.shows.text.substr(slash + 1) == std::to_string(now.frame)));
      }
      if (!found)
        fail(expect,
             fmt::format("{} to show {}, but it shows {}", when, expect.shows.text, shown.empty() ? "nothing" : shown) +
                 since());
    }
  }

  // Cues: their instants are known only when the run has gone a little further.
  void finish(const TapeExpect& expect) {
    if (!expect.cue.empty()) {
      const Cue* nearest = nullptr;
      for (const Cue& cue : told_) {
        if (cue.name() != expect.cue.text) continue;
        const auto far = [&](const Cue& each) { return std::abs((each.at - expect.at).count); };
        if (nearest == nullptr || far(cue) < far(*nearest)) nearest = &cue;
      }
      const bool there = nearest != nullptr && std::abs((nearest->at - expect.at).count) <= expect.rounded.count;
      if (!there)
        fail(expect,
             fmt::format("the cue {} at {:g} s, but {}", expect.cue.text, expect.at.to_seconds(),
                         nearest == nullptr ? "it is never told"
                                            : fmt::format("the nearest is at {:.4f} s", nearest->at.to_seconds())));
    }
    for (const auto& [name, times] : expect.cues) {
      const auto count = std::count_if(told_.begin(), told_.end(), [&, &wanted = name](const Cue& cue) {
        return cue.name() == wanted.text && cue.at >= expect.at && expect.to && cue.at < *expect.to;
      });
      if (count != times)
        fail(expect, fmt::format("the cue {} {} times from {:g} s to {:g} s, but it is told {} times", name.text, times,
                                 expect.at.to_seconds(), expect.to->to_seconds(), count));
    }
  }

  // What led to where it is.
  [[nodiscard]] std::string since() const {
    if (!last_ || last_->transition == kNoTransition) return "";
    return fmt::format(", since {:.3f} s by {}", last_->at.to_seconds(),
                       rule_text(machine(), machine().transitions()[last_->transition]));
  }
  void fail(const TapeExpect& expect, const std::string& what) {
    out_.failures.push_back(printable(fmt::format("{}:{}: expected {}", path_, expect.place.line, what)));
  }

  const Tape& tape_;
  const std::string& path_;
  Instance instance_;
  Ticks begin_{};
  TestResult& out_;
  std::vector<Cue> told_;
  std::vector<std::uint32_t> rules_;  // beside the log
  std::optional<Cue> last_;
  std::set<const TapeExpect*> failed_;
  std::int32_t faults_ = 0;
};

// What is wrong with a frame of a clip, as an expectation names it; empty for nothing.
std::string frame_misfit(const ClipInfo& clip, const std::string& frame) {
  const std::size_t count = clip.def.frames.size();
  const bool number = !frame.empty() && frame.size() < 7 && frame.find_first_not_of("0123456789") == std::string::npos;
  if (number && std::stoul(frame) < count) return {};
  return "frame " + frame + " is not in the clip \"" + clip.def.name.text + "\", which has " +
         (count == 0   ? "no frames"
          : count == 1 ? "one, number 0"
                       : std::to_string(count) + ", 0 to " + std::to_string(count - 1));
}

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

std::vector<Finding> expectation_findings(const Tape& tape, const std::string& path, const MachineDef& definition,
                                          const Machine& machine) {
  std::vector<Finding> out;
  const auto report = [&](FindingCode code, Place place, const std::string& message, const std::string& remedy) {
    Finding& finding = out.emplace_back();
    finding.code = code;
    finding.file = path;
    finding.line = place.line;
    finding.column = place.column;
    finding.message = message;
    finding.remedy = remedy;
  };
  const auto unknown = [&](const Text& name, const Error& error, const char* remedy) {
    report(FindingCode::unknown_name, name.place, error.message,
           error.nearest.empty() ? remedy : "Did you mean \"" + error.nearest + "\"?");
  };
  std::vector<std::string> clips, cues;
  for (const ClipInfo& clip : machine.clips()) clips.push_back(clip.def.name.text);
  for (const CueDef& cue : machine.cues()) cues.push_back(cue.name.text);
  const auto one_of = [&](const Text& name, const std::string& word, const std::vector<std::string>& known,
                          const char* kind) {
    if (std::find(known.begin(), known.end(), word) == known.end())
      unknown(name, Error{"there is no " + std::string(kind) + " \"" + word + "\"", nearest_name(word, known)},
              "`mobrin list` prints what there is.");
  };
  for (const TapeExpect& each : tape.expects) {
    if (tape.until && (each.at > *tape.until || (each.to && *each.to > *tape.until)))
      report(FindingCode::bad_value, each.place, "the tape ends before this expectation", "Raise `until:`.");
    if (!each.in.empty())
      if (const auto state = machine.state(each.in.text); !state)
        unknown(each.in, state.error(), "Name a state by its path.");
    if (!each.is.empty())
      if (const auto trait = machine.trait(each.is.text); !trait)
        unknown(each.is, trait.error(), "Name a trait of a state.");
    if (!each.shows.empty()) {
      const std::string& shows = each.shows.text;
      const std::size_t slash = shows.find('/');
      one_of(each.shows, shows.substr(0, slash), clips, "clip");
      const auto clip = std::find(clips.begin(), clips.end(), shows.substr(0, slash));
      if (clip != clips.end() && slash != std::string::npos)
        if (const std::string wrong =
                frame_misfit(machine.clips()[static_cast<std::size_t>(clip - clips.begin())], shows.substr(slash + 1));
            !wrong.empty())
          report(FindingCode::outside_clip, each.shows.place, wrong,
                 "A frame is written by its number: `" + shows.substr(0, slash) + "/0`.");
    }
    if (!each.cue.empty()) one_of(each.cue, each.cue.text, cues, "cue");
    for (const auto& [name, times] : each.cues) one_of(name, name.text, cues, "cue");
    for (const Text* text : {&each.holds, &each.never, &each.always}) {
      if (text->empty()) continue;
      // As a guard of the root it must compile.
      MachineDef trial = definition;
      GoDef go;
      go.when = Text(text->text);
      go.to = Text(machine.states()[1].path);
      trial.root.go.push_back(go);
      for (const Finding& finding : compile(trial).findings)
        if (is_error(finding.code) && finding.line == 0)
          report(finding.code, text->place, finding.message, finding.remedy);
    }
  }
  return out;
}

TestResult test_tape(const std::string& path, const std::string& on) {
  TestResult out;
  out.tape = path;
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
  for (Finding& finding : expectation_findings(tape, path, *machine.definition, *machine.machine))
    out.findings.push_back(std::move(finding));
  if (!tape.until) missing("nothing says how long to run", "Add `until: 4s`.");
  if (!out.findings.empty()) return out;
  out.expectations = tape.expects.size() + (tape.faults > 0 ? 1 : 0) + (tape.log ? 1 : 0);
  out.machine_file = machine_path;
  out.machine = machine.machine;
  if (claim_findings(*machine.definition, *machine.machine).empty())
    out.broken = broken_assumptions(*machine.definition, *machine.machine, tape);
  out.seconds = tape.until->to_seconds();
  TapeTest(tape, path, *machine.machine, out).run(*tape.until);
  return out;
}

}  // namespace mobrin::cli
