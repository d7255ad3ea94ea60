// mobrin test: tapes whose expectations are held against what their machines do.
#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <filesystem>
#include <map>
#include <memory>
#include <set>
#include <thread>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/check/expect.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/parts.hpp"
#include "mobrin/draw/graph.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/tape_log.hpp"
#include "mobrin/prove/prove.hpp"
#include "output.hpp"
#include "run_log.hpp"

namespace mobrin::cli {
namespace {

namespace fs = std::filesystem;

struct TestResult {
  std::string tape;
  std::size_t expectations = 0;
  std::vector<Finding> findings;         // that keep it from running
  std::vector<std::string> failures;     // `file:line: expected ..., but ...`
  std::vector<BrokenAssumption> broken;  // what is assumed and not so
  std::vector<std::string> log;          // what was told
  std::vector<std::string> changed;      // the log that was kept and this one, line by line, where they differ
  std::string machine_file;
  std::optional<Machine> machine;
  std::set<std::uint32_t> taken;    // transitions
  std::set<std::uint16_t> entered;  // states
  double seconds = 0;               // of the run, in the game's time
  [[nodiscard]] bool passed() const { return findings.empty() && failures.empty(); }
};

// Files that are tapes, of folders with what is below; in order.
std::vector<std::string> tapes_of(const std::vector<std::string>& places) {
  std::vector<std::string> out;
  for (const std::string& place : places) {
    std::error_code error;
    if (!fs::is_directory(place, error)) {
      out.push_back(place);
      continue;
    }
    std::vector<std::string> here;
    for (fs::recursive_directory_iterator at(place, fs::directory_options::skip_permission_denied, error), end;
         !error && at != end; at.increment(error)) {
      const std::string path = at->path().generic_string();
      const bool text = path.ends_with(".yaml") || path.ends_with(".yml") || path.ends_with(".json");
      if (text && at->is_regular_file(error) && is_tape(path).value_or(false)) here.push_back(path);
    }
    std::sort(here.begin(), here.end());
    out.insert(out.end(), here.begin(), here.end());
  }
  return out;
}

class TapeTest {
 public:
  TapeTest(const Tape& tape, const std::string& path, const MachineDef& definition, const Machine& machine,
           TestResult& out)
      : tape_(tape), path_(path), definition_(definition), instance_(machine), out_(out) {}

  void run(Ticks until) {
    if (!check_names(until)) return;
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
      run_tape(instance_, part, options, [&](const Cue& cue) { hear(cue); });
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
      const auto count = std::count_if(told_.begin(), told_.end(), [&](const Cue& cue) {
        return cue.name() == name.text && cue.at >= expect.at && expect.to && cue.at < *expect.to;
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

  // Names and expressions, before anything runs.
  bool check_names(Ticks until) {
    bool sound = true;
    const auto report = [&](const Text& name, const std::string& message, const std::string& remedy) {
      Finding& finding = out_.findings.emplace_back();
      finding.code = FindingCode::unknown_name;
      finding.file = path_;
      finding.line = name.place.line;
      finding.column = name.place.column;
      finding.message = message;
      finding.remedy = remedy;
      sound = false;
    };
    const auto with = [&](const Text& name, const Error& error, const char* remedy) {
      report(name, error.message, error.nearest.empty() ? remedy : "Did you mean \"" + error.nearest + "\"?");
    };
    std::vector<std::string> clips, cues;
    for (const ClipInfo& clip : machine().clips()) clips.push_back(clip.def.name.text);
    for (const CueDef& cue : machine().cues()) cues.push_back(cue.name.text);
    const auto one_of = [&](const Text& name, const std::string& word, const std::vector<std::string>& known,
                            const char* kind) {
      if (std::find(known.begin(), known.end(), word) == known.end())
        with(name, Error{"there is no " + std::string(kind) + " \"" + word + "\"", nearest_name(word, known)},
             "`mobrin list` prints what there is.");
    };
    for (const TapeExpect& each : tape_.expects) {
      if (each.at > until || (each.to && *each.to > until)) {
        Text at;
        at.place = each.place;
        report(at, "the tape ends before this expectation", "Raise `until:`.");
      }
      if (!each.in.empty())
        if (const auto state = machine().state(each.in.text); !state)
          with(each.in, state.error(), "Name a state by its path.");
      if (!each.is.empty())
        if (const auto trait = machine().trait(each.is.text); !trait)
          with(each.is, trait.error(), "Name a trait of a state.");
      if (!each.shows.empty()) one_of(each.shows, each.shows.text.substr(0, each.shows.text.find('/')), clips, "clip");
      if (!each.cue.empty()) one_of(each.cue, each.cue.text, cues, "cue");
      for (const auto& [name, times] : each.cues) one_of(name, name.text, cues, "cue");
      for (const Text* text : {&each.holds, &each.never, &each.always}) {
        if (text->empty()) continue;
        // As a guard of the root it must compile.
        MachineDef trial = definition_;
        GoDef go;
        go.when = Text(text->text);
        go.to = Text(machine().states()[1].path);
        trial.root.go.push_back(go);
        for (const Finding& finding : compile(trial).findings)
          if (is_error(finding.code) && finding.line == 0) report(*text, finding.message, finding.remedy);
      }
    }
    return sound;
  }

  const Tape& tape_;
  const std::string& path_;
  const MachineDef& definition_;
  Instance instance_;
  TestResult& out_;
  std::vector<Cue> told_;
  std::vector<std::uint32_t> rules_;  // beside the log
  std::optional<Cue> last_;
  std::set<const TapeExpect*> failed_;
  std::int32_t faults_ = 0;
};

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
  const Loaded machine = load_character(machine_path);
  for (const Finding& finding : machine.findings)
    if (is_error(finding.code)) out.findings.push_back(finding);
  if (!machine.machine || !machine.has_machine) {
    if (out.findings.empty())
      missing("\"" + machine_path + "\" holds no machine", "Name a file that says `machine: NAME`.");
    return out;
  }
  for (Finding& finding : check_tape(tape, *machine.machine, path)) out.findings.push_back(std::move(finding));
  if (!tape.until) missing("nothing says how long to run", "Add `until: 4s`.");
  if (!out.findings.empty()) return out;
  out.expectations = tape.expects.size() + (tape.faults > 0 ? 1 : 0) + (tape.log ? 1 : 0);
  out.machine_file = machine_path;
  out.machine = machine.machine;
  if (claim_findings(*machine.definition, *machine.machine).empty())
    out.broken = broken_assumptions(*machine.definition, *machine.machine, tape);
  out.seconds = tape.until->to_seconds();
  TapeTest(tape, path, *machine.definition, *machine.machine, out).run(*tape.until);
  return out;
}

std::string xml(const std::string& text) {
  std::string out;
  for (const char c : printable(text))
    out += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : c == '"' ? "&quot;" : std::string(1, c);
  return out;
}

// The report that build servers read.
std::string junit(const std::vector<TestResult>& results) {
  std::size_t failures = 0, skipped = 0, errors = 0;
  for (const TestResult& each : results) {
    errors += each.findings.empty() ? 0 : 1;
    failures += each.failures.empty() ? 0 : 1;
    skipped += each.passed() && each.expectations == 0 ? 1 : 0;
  }
  std::string out = fmt::format(
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n<testsuite name=\"mobrin\" tests=\"{}\" "
      "failures=\"{}\" errors=\"{}\" skipped=\"{}\">\n",
      results.size(), failures, errors, skipped);
  for (const TestResult& each : results) {
    out += fmt::format("<testcase classname=\"tapes\" name=\"{}\">", xml(each.tape));
    for (const Finding& finding : each.findings) out += fmt::format("<error message=\"{}\"/>", xml(finding.text()));
    if (!each.failures.empty())
      out += fmt::format("<failure message=\"{}\"/>", xml(fmt::format("{}", fmt::join(each.failures, "; "))));
    if (each.passed() && each.expectations == 0) out += "<skipped message=\"it expects nothing\"/>";
    out += "</testcase>\n";
  }
  return out + "</testsuite>\n</testsuites>\n";
}

struct TestOptions {
  std::vector<std::string> places;
  std::string on, junit, picture;
  bool json = false, keep = false, diff = false, coverage = false;
};

// All tapes, on as many threads as there are processors; the results in the order of the tapes.
std::vector<TestResult> test_all(const std::vector<std::string>& tapes, const std::string& on) {
  std::vector<TestResult> results(tapes.size());
  std::atomic<std::size_t> next{0};
  const auto work = [&] {
    for (std::size_t i = next++; i < tapes.size(); i = next++) results[i] = test_tape(tapes[i], on);
  };
  std::vector<std::thread> others;
  const std::size_t count = std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), tapes.size());
  for (std::size_t i = 1; i < count; ++i) others.emplace_back(work);
  work();
  for (std::thread& each : others) each.join();
  return results;
}

// Writes the log of each run into its tape. False where one could not be.
bool keep_logs(std::vector<TestResult>& results) {
  bool fine = true;
  for (TestResult& each : results) {
    if (!each.findings.empty()) continue;
    const EditLock lock(each.tape);
    const auto text = read_file(each.tape);
    const auto edited = lock.held() && text ? with_log(*text, each.log)
                                            : Result<std::string>(Error{"it cannot be read, or somebody edits it", ""});
    if (!edited) {
      fmt::print(stderr, "error: {}: {}\n", printable(each.tape), edited.error().text());
      fine = false;
      continue;
    }
    if (*edited != *text && !write_or_report(each.tape, *edited)) fine = false;
    std::erase_if(each.failures,
                  [](const std::string& words) { return words.find(": the log differs:") < words.size(); });
    each.changed.clear();
    each.expectations = std::max<std::size_t>(1, each.expectations);
  }
  return fine;
}

// What all tapes of a machine take and enter together.
int tell_coverage(const std::vector<TestResult>& results, const TestOptions& options, Json& all) {
  std::map<std::string, std::vector<const TestResult*>> machines;
  for (const TestResult& each : results)
    if (each.machine) machines[fs::path(each.machine_file).lexically_normal().generic_string()].push_back(&each);
  for (const auto& [file, runs] : machines) {
    const Machine& machine = *runs.front()->machine;
    std::set<std::uint32_t> taken;
    std::set<std::uint16_t> entered;
    for (const TestResult* run : runs) {
      taken.insert(run->taken.begin(), run->taken.end());
      entered.insert(run->entered.begin(), run->entered.end());
    }
    GraphOptions graph;
    Json rules = Json::array(), states = Json::array();
    std::vector<std::string> lines;
    for (std::uint32_t t = 0; t < machine.transitions().size(); ++t) {
      if (taken.count(t) > 0) continue;
      const TransitionInfo& rule = machine.transitions()[t];
      const std::string& owner = machine.states()[rule.owner].path;
      graph.missed.push_back(t);
      rules.push_back({{"state", owner}, {"rule", rule_text(machine, rule)}, {"line", rule.place.line}});
      lines.push_back(fmt::format("not taken    {}: {}", owner.empty() ? "anywhere" : owner, rule_text(machine, rule)));
    }
    for (std::uint16_t state = 1; state < machine.states().size(); ++state) {
      if (entered.count(state) > 0) continue;
      states.push_back(machine.states()[state].path);
      lines.push_back("not entered  " + machine.states()[state].path);
    }
    if (options.json)
      all.push_back({{"machine", file},
                     {"rules", machine.transitions().size()},
                     {"taken", taken.size()},
                     {"not_taken", rules},
                     {"not_entered", states}});
    if (!options.json) {
      fmt::print("{}  {} of {} taken, {} of {} entered by {}\n", styled(Style::strong, file), taken.size(),
                 plural(machine.transitions().size(), "rule"), machine.states().size() - 1 - states.size(),
                 plural(machine.states().size() - 1, "state"), plural(runs.size(), "tape"));
      for (const std::string& line : lines) fmt::print("  {}\n", printable(line));
      if (!lines.empty()) fmt::print("  `mobrin cover {} -o tapes/` writes tapes for them.\n", file);
    }
    if (options.picture.empty()) continue;
    if (machines.size() > 1)
      return usage("a picture shows one machine, these tapes run " + plural(machines.size(), "machine"),
                   "Name tapes of one machine.");
    if (const Outcome drawn = draw_graph(machine, graph, options.picture); !drawn) {
      fmt::print(stderr, "error: {}\n", drawn.error().text());
      return kFindings;
    }
    if (!options.json) fmt::print("{}  {}\n", styled(Style::strong, "picture"), options.picture);
  }
  return kFine;
}

void print_result(const TestResult& each, bool diff) {
  if (each.passed() && each.expectations == 0)
    fmt::print("{}  {}  expects nothing\n", styled(Style::faint, "-     "), printable(each.tape));
  else if (each.passed())
    fmt::print("{}  {}  {}\n", styled(Style::good, "passed"), printable(each.tape),
               plural(each.expectations, "expectation"));
  else
    fmt::print("{}  {}\n", styled(Style::bad, "failed"), printable(each.tape));
  print_findings(each.findings, false);
  for (const std::string& failure : each.failures) fmt::print("  {}\n", failure);
  for (const BrokenAssumption& broken : each.broken)
    fmt::print("  at {:g} s what is written breaks what the machine assumes: {}\n", broken.at.to_seconds(),
               printable(broken.assumed));
  if (diff)
    for (const std::string& line : each.changed)
      fmt::print("  {}\n", styled(line[0] == '-' ? Style::bad : Style::good, line));
  else if (!each.changed.empty())
    fmt::print("  `--diff` shows {} that differ, `--keep` keeps them.\n", plural(each.changed.size(), "line"));
}

int test(const TestOptions& options) {
  if (!options.junit.empty() && !can_write("--junit", options.junit, {".xml"})) return kFindings;
  if (!options.picture.empty() && !can_write("--picture", options.picture, {".svg", ".png"})) return kFindings;
  const std::vector<std::string> tapes = tapes_of(options.places);
  if (tapes.empty()) return usage("there is no tape there", "Name tapes, or folders that hold some.");
  std::vector<TestResult> results = test_all(tapes, options.on);
  const bool kept = !options.keep || keep_logs(results);
  std::size_t passed = 0, failed = 0, idle = 0;
  Json all = Json::array(), coverage = Json::array();
  for (const TestResult& each : results) {
    const bool nothing = each.passed() && each.expectations == 0;
    (nothing ? idle : each.passed() ? passed : failed)++;
    if (!options.json) {
      print_result(each, options.diff);
      continue;
    }
    Json findings = Json::array(), broken = Json::array();
    for (const Finding& finding : each.findings) findings.push_back(json_of(finding));
    for (const BrokenAssumption& one : each.broken)
      broken.push_back({{"ticks", one.at.count}, {"assumed", one.assumed}});
    all.push_back({{"tape", each.tape},
                   {"passed", nothing ? Json() : Json(each.passed())},
                   {"expectations", each.expectations},
                   {"failures", each.failures},
                   {"broken_assumptions", broken},
                   {"log_changes", each.changed},
                   {"findings", findings}});
  }
  int code = failed > 0 || !kept ? kFindings : kFine;
  if (!options.json)
    fmt::print("{} passed, {} failed{}\n", passed, failed, idle > 0 ? fmt::format(", {} expect nothing", idle) : "");
  if (options.coverage || !options.picture.empty()) code = std::max(code, tell_coverage(results, options, coverage));
  if (options.json) {
    Json out = {{"tapes", all}};
    if (options.coverage) out["coverage"] = coverage;
    fmt::print("{}\n", print_json(out, 1));
  }
  if (!options.junit.empty() && !write_or_report(options.junit, junit(results))) return kFindings;
  return code;
}

const Command test_command(
    Command::Rank::run, "test", "Run tapes and hold what they expect against what happens",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<TestOptions>();
      parameters.places("TAPE", options->places, "Tapes, or folders of them");
      parameters.option("--on", options->on, "Run them on this machine or character instead of their own");
      parameters.option("--junit", options->junit, "Write the result for build servers to this file, NAME.xml");
      parameters.flag("--keep", options->keep,
                      "Keep what each run tells as its tape's `log:`; later runs must tell the same");
      parameters.flag("--diff", options->diff, "Where a log differs, show its old lines and the new ones");
      parameters.flag("--coverage", options->coverage,
                      "Say which rules and states of the machines no tape takes or enters");
      parameters.option("--picture", options->picture,
                        "The machine as a graph, .svg or .png, with what no tape takes in red");
      parameters.flag("--json", options->json, "Print the result as JSON");
      parameters.footer(
          "Example:\n  mobrin test keeper.tape.yaml\n  mobrin test tapes/ --junit results.xml\n\nA step of a tape "
          "expects: {at: 900ms, expect: {in: net, shows: net/3}}. Exit code: 0 when all is as expected, else 1.");
      return [options] { return test(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
