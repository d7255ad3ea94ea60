// mobrin test: tapes and scenes whose expectations are held against what their machines do.
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
#include "mobrin/core/names.hpp"
#include "mobrin/core/parts.hpp"
#include "mobrin/draw/graph.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/scene.hpp"
#include "mobrin/io/tape_log.hpp"
#include "mobrin/prove/prove.hpp"
#include "output.hpp"
#include "places.hpp"
#include "run_log.hpp"
#include "tape_test.hpp"

namespace mobrin::cli {
namespace {

namespace fs = std::filesystem;

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
    out += fmt::format("<testcase classname=\"tapes\" name=\"{}\">", xml(each.file));
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

// All tapes and scenes, on as many threads as there are processors; the results in their order.
std::vector<TestResult> test_all(const std::vector<std::string>& tapes, const std::set<std::string>& scenes,
                                 const std::string& on) {
  std::vector<TestResult> results(tapes.size());
  std::atomic<std::size_t> next{0};
  const auto work = [&] {
    for (std::size_t i = next++; i < tapes.size(); i = next++)
      results[i] = scenes.count(tapes[i]) > 0 ? test_scene(tapes[i]) : test_tape(tapes[i], on);
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
    if (each.is_scene) {
      fmt::print(stderr, "note: {} is a scene, which keeps no log\n", printable(each.file));
      continue;
    }
    const EditLock lock(each.file);
    const auto text = read_file(each.file);
    Result<std::string> edited = lock.held() && text
                                     ? with_log(*text, each.log)
                                     : Result<std::string>(Error{"it cannot be read, or somebody edits it", ""});
    // What is written must say what it said, and the log.
    if (edited) {
      const LoadedTape after = load_tape_text(*edited, each.file);
      if (!after.tape || !after.tape->log || after.tape->log->size() != each.log.size())
        edited =
            Error{"its `log:` is written in a way that cannot be edited here", "", "Remove it, and keep it again."};
    }
    if (!edited) {
      fmt::print(stderr, "error: {}: {}\n", printable(each.file), edited.error().text());
      fine = false;
      continue;
    }
    if (*edited != *text && !write_or_report(each.file, *edited)) fine = false;
    std::erase_if(each.failures,
                  [](const std::string& words) { return words.find(": the log differs:") < words.size(); });
    each.changed.clear();
    each.expectations = std::max<std::size_t>(1, each.expectations);
  }
  return fine;
}

// What all runs of a machine take and enter together.
int tell_coverage(const std::vector<TestResult>& results, const TestOptions& options, Json& all) {
  std::map<std::string, std::vector<const MachineRun*>> machines;
  for (const TestResult& each : results)
    for (const MachineRun& run : each.runs)
      machines[fs::path(run.file).lexically_normal().generic_string()].push_back(&run);
  const bool scenes = std::any_of(results.begin(), results.end(), [](const TestResult& each) { return each.is_scene; });
  for (const auto& [file, runs] : machines) {
    const Machine& machine = runs.front()->machine;
    std::set<std::uint32_t> taken;
    std::set<std::uint16_t> entered;
    for (const MachineRun* run : runs) {
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
                 plural(machine.states().size() - 1, "state"), plural(runs.size(), scenes ? "run" : "tape"));
      for (const std::string& line : lines) fmt::print("  {}\n", printable(line));
      if (!lines.empty()) fmt::print("  `mobrin cover {} -o tapes/` writes tapes for them.\n", as_argument(file));
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
    fmt::print("{}  {}  expects nothing\n", styled(Style::faint, "-     "), printable(each.file));
  else if (each.passed())
    fmt::print("{}  {}  {}\n", styled(Style::good, "passed"), printable(each.file),
               plural(each.expectations, "expectation"));
  else
    fmt::print("{}  {}\n", styled(Style::bad, "failed"), printable(each.file));
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
  std::set<std::string> scenes;
  for (const std::string& place : options.places)
    if (is_scene(place).value_or(false)) scenes.insert(place);
  if (!scenes.empty() && !options.on.empty())
    return usage("`--on` runs tapes on a machine, and " + *scenes.begin() + " is a scene, which names its own",
                 "Leave it out, or name tapes.");
  const std::set<std::string> named = scenes;
  const std::vector<std::string> tapes = files_at(options.places, [&](const std::string& path) {
    if (is_tape(path).value_or(false)) return true;
    if (!options.on.empty() || !is_scene(path).value_or(false)) return false;
    scenes.insert(path);
    return true;
  });
  if (tapes.empty()) return usage("there is no tape or scene there", "Name some, or folders that hold some.");
  std::vector<TestResult> results = test_all(tapes, scenes, options.on);
  // A scene of a folder is for looking at, unless it expects something.
  std::erase_if(results, [&](const TestResult& each) {
    return each.is_scene && each.passed() && each.expectations == 0 && named.count(each.file) == 0;
  });
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
    all.push_back({{"tape", each.file},
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
    Command::Rank::run, "test", "Run tapes and scenes and hold what they expect against what happens",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<TestOptions>();
      parameters.places("TAPE", options->places, "Tapes and scenes, or folders of them");
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
