// mobrin check: loads files and reports what is wrong with them.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <memory>
#include <set>

#include "command.hpp"
#include "console.hpp"
#include "expectations.hpp"
#include "json.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/scene.hpp"
#include "mobrin/prove/art_files.hpp"
#include "mobrin/prove/prove.hpp"
#include "places.hpp"
#include "run_source.hpp"
#include "sarif.hpp"
#include "tape_lines.hpp"
#include "tape_test.hpp"

namespace mobrin::cli {
namespace {

struct Checked {
  std::vector<Finding> findings;
  std::string summary;  // what a sound file holds
  LogicReport logic{};
  std::vector<std::string> files{};        // all that were read for it
  std::map<Answer, std::size_t> claims{};  // how many are answered how
};

// `; claims: 3 proved, 1 open`; nothing where there are none.
std::string claims_text(const Checked& checked) {
  std::string out;
  for (const auto& [answer, count] : checked.claims)
    out += fmt::format("{} {} {}", out.empty() ? "; claims:" : ",", count, text_of(answer));
  return out;
}

// What could not be decided: with hints which, else only that it is much.
std::string undecided_text(const std::vector<FindingCode>& codes, bool hints) {
  const bool much = std::count(codes.begin(), codes.end(), FindingCode::unreachable) > 0;
  if (!hints) return much ? "; too large to decide all, --hints says what" : "";
  std::string out;
  for (const FindingCode code : codes) out += (out.empty() ? "; undecided: " : ", ") + std::string(text_of(code));
  return out;
}

Checked check_tape_file(const std::string& path) {
  LoadedTape loaded = load_tape(path);
  Checked out{std::move(loaded.findings), ""};
  if (!loaded.tape) return out;
  out.summary = fmt::format("tape {}, {}", loaded.tape->name, plural(loaded.tape->steps.size(), "step"));
  if (loaded.tape->machine.empty()) {
    out.summary += "; names no machine, so its inputs were not checked";
    return out;
  }
  if (auto missing = missing_machine(*loaded.tape, path)) {
    out.findings.push_back(std::move(*missing));
    return out;
  }
  const Loaded machine = load_character(loaded.tape->machine);
  out.findings.insert(out.findings.end(), machine.findings.begin(), machine.findings.end());
  if (!machine.machine) return out;
  for (const std::vector<Finding>& more :
       {check_tape(*loaded.tape, *machine.machine, path), clamped_writes(*loaded.tape, path, *machine.machine),
        expectation_findings({loaded.tape->expects, loaded.tape->until, "tape"}, path, *machine.definition,
                             *machine.machine)})
    out.findings.insert(out.findings.end(), more.begin(), more.end());
  return out;
}

Checked check_file(const std::string& path) {
  if (is_tape(path).value_or(false)) return check_tape_file(path);
  if (is_scene(path).value_or(false)) {
    LoadedScene scene = load_scene(path);
    Checked out{std::move(scene.findings), ""};
    for (Finding& finding : expectation_findings(scene, path)) out.findings.push_back(std::move(finding));
    if (scene.scene)
      out.summary = fmt::format("scene {}, {}, {:g} s", scene.scene->name, plural(scene.scene->actors.size(), "actor"),
                                scene.scene->until.to_seconds());
    return out;
  }
  Loaded loaded = load_character(path);
  Checked out{std::move(loaded.findings), "", {}, loaded.files};
  if (!loaded.machine) return out;
  std::vector<Finding> art = art_file_findings(loaded, path);
  // A search here is short: `prove` and `cover` take their time.
  ProofLimits limits;
  limits.steps = 100'000;
  limits.moments = 4'000;
  limits.moves = 24'000;
  if (loaded.has_machine && loaded.definition) {
    out.logic = logic_and_runs(*loaded.definition, *loaded.machine, limits);
  }
  if (loaded.definition) honour_accepts(*loaded.definition, art, out.logic.findings);
  for (Finding& finding : art) out.findings.push_back(std::move(finding));
  const Machine& machine = *loaded.machine;
  if (loaded.has_machine && loaded.definition && !loaded.definition->claims.empty() &&
      std::none_of(out.logic.findings.begin(), out.logic.findings.end(), [](const ProvedFinding& each) {
        return each.finding.code == FindingCode::bad_expression;  // of a claim
      })) {
    for (const ClaimAnswer& answer : prove(*loaded.definition, machine, limits, out.logic.too_large))
      ++out.claims[answer.answer];
  }
  const auto clips = plural(machine.clips().size(), "clip");
  if (!loaded.has_machine)
    out.summary = fmt::format("no machine; {}, {}", clips, plural(machine.inputs().size(), "input"));
  else
    out.summary =
        fmt::format("machine {}: {}, {}, {}, {}, {}", machine.name(), plural(machine.states().size() - 1, "state"),
                    plural(machine.transitions().size(), "transition"), clips, plural(machine.inputs().size(), "input"),
                    plural(machine.cues().size(), "cue")) +
        claims_text(out);
  return out;
}

int explain_code(const std::string& code) {
  if (!finding_code(code)) {
    std::vector<std::string> known;
    for (const std::string_view each : finding_codes()) known.emplace_back(each);
    const std::string nearest = nearest_name(code, known);
    return usage("there is no finding `" + code + "`",
                 nearest.empty() ? "The codes are in docs/checking.md." : "Did you mean `" + nearest + "`?");
  }
  const std::string_view text = explain_finding(code);
  if (text.empty())
    return usage("there is no more to say of `" + code + "` than its message", "The codes are in docs/checking.md.");
  fmt::print("{}\n  {}\n", styled(Style::strong, code), text);
  return kFine;
}

struct CheckOptions {
  std::vector<std::string> files;
  std::string explain;
  bool json = false, hints = false, sarif = false;
};

// With what shows it below.
void print_finding(const ProvedFinding& each) {
  print_findings({each.finding}, false);
  if (!each.tape) return;
  std::string steps;
  for (const std::string& line : tape_lines(*each.tape)) steps += (steps.empty() ? "" : ", ") + line;
  fmt::print("    {}\n", steps.empty() ? "Nothing needs to be written for it."
                                       : fmt::format("A run that shows it: steps: [{}]", steps));
}

// So many as somebody reads; of more the errors first.
void print_first(std::vector<ProvedFinding> all, const std::string& file) {
  if (all.size() > kMostFindingsPrinted)
    std::stable_partition(all.begin(), all.end(), [](const ProvedFinding& each) { return is_error(each.finding); });
  for (std::size_t i = 0; i < std::min(all.size(), kMostFindingsPrinted); ++i) print_finding(all[i]);
  if (all.size() > kMostFindingsPrinted)
    fmt::print("... and {} more; `mobrin check {} --json` lists all of them\n", all.size() - kMostFindingsPrinted,
               as_argument(file));
}

// What is told of one file and depends on who uses it: it is told where nobody who was checked does.
bool by_use(FindingCode code) {
  return code == FindingCode::unused_input || code == FindingCode::unused_var || code == FindingCode::unused_cue ||
         code == FindingCode::unused_clip || code == FindingCode::unused_window || code == FindingCode::unused_reach ||
         code == FindingCode::never_set || code == FindingCode::idle_accept;
}
std::string place_of(const Finding& finding) {
  return fmt::format("{}:{}:{} {} {}", finding.file, finding.line, finding.column, text_of(finding.code),
                     finding.message);
}

// The findings of several files held against each other: the same one is told once, what another file uses is not
// unused, and of a used file one hint a code.
void hold_against_each_other(std::vector<Checked>& all, std::vector<std::vector<ProvedFinding>>& told) {
  std::map<std::string, std::size_t> times, readers;
  for (const Checked& each : all)
    for (const std::string& file : each.files) ++readers[file];
  for (const auto& list : told)
    for (const ProvedFinding& each : list) ++times[place_of(each.finding)];
  std::set<std::string> seen;
  for (std::size_t i = 0; i < told.size(); ++i) {
    const std::string own = all[i].files.empty() ? "" : all[i].files.front();
    std::map<std::pair<std::string, FindingCode>, std::pair<std::size_t, std::size_t>>
        kept;  // of used files: which, and how many more
    std::vector<ProvedFinding> list;
    for (ProvedFinding& each : told[i]) {
      const Finding& finding = each.finding;
      if (by_use(finding.code) && times[place_of(finding)] < readers[finding.file]) continue;
      if (!seen.insert(place_of(finding)).second) continue;
      if (by_use(finding.code) && finding.hint && finding.file != own) {
        const auto [found, fresh] =
            kept.try_emplace({finding.file, finding.code}, std::pair(list.size(), std::size_t{0}));
        if (!fresh) {
          auto& [index, more] = found->second;
          Finding& first = list[index].finding;
          first.message += fmt::format("{}{}", more++ == 0 ? "; also line " : ", ", finding.line);
          continue;
        }
      }
      list.push_back(std::move(each));
    }
    told[i] = std::move(list);
  }
}

int check(const CheckOptions& options) {
  int exit_code = kFine;
  Json json = Json::array();
  std::vector<Finding> every;
  std::vector<Checked> all;
  std::vector<std::vector<ProvedFinding>> told;
  for (const std::string& file : options.files) {
    Checked& checked = all.emplace_back(check_file(file));
    std::vector<ProvedFinding>& list = told.emplace_back();
    for (Finding& finding : checked.findings) list.push_back({std::move(finding), {}});
    for (ProvedFinding& each : checked.logic.findings) list.push_back(std::move(each));
    // Hints change nothing but what is shown, and come last.
    std::stable_partition(list.begin(), list.end(), [](const ProvedFinding& each) { return !each.finding.hint; });
  }
  std::vector<bool> sound;
  for (const auto& list : told)
    sound.push_back(std::none_of(list.begin(), list.end(), [](const auto& each) { return is_error(each.finding); }));
  hold_against_each_other(all, told);
  for (std::size_t i = 0; i < all.size(); ++i) {
    const std::string& file = options.files[i];
    // What was not looked at is told in any case.
    if (!options.hints) {
      const auto hidden = std::erase_if(told[i], [](const ProvedFinding& each) {
        return each.finding.hint && each.finding.code != FindingCode::art_left_out;
      });
      if (hidden > 0) all[i].summary += "; " + plural(hidden, "hint") + " with --hints";
    }
    const std::string open = undecided_text(all[i].logic.undecided, options.hints);
    all[i].summary += open;
    std::vector<Finding> counted;
    for (const ProvedFinding& each : told[i])
      if (!each.finding.hint) counted.push_back(each.finding);
    if (!counted.empty()) exit_code = kFindings;
    if (options.sarif) {
      for (const ProvedFinding& each : told[i]) every.push_back(each.finding);
      continue;
    }
    if (options.json) {
      Json findings = Json::array(), undecided = Json::array();
      for (const ProvedFinding& each : told[i]) {
        Json out = json_of(each.finding);
        if (each.tape) out["tape"] = json_of(*each.tape);
        findings.push_back(std::move(out));
      }
      for (const FindingCode code : all[i].logic.undecided) undecided.push_back(std::string(text_of(code)));
      Json claims = Json::object();
      for (const auto& [answer, count] : all[i].claims) claims[std::string(text_of(answer))] = count;
      json.push_back({{"file", file},
                      {"sound", bool{sound[i]}},
                      {"findings", findings},
                      {"undecided", undecided},
                      {"claims", claims}});
      continue;
    }
    tell_once(told[i], &ProvedFinding::finding);
    print_first(told[i], file);
    const auto refuted = all[i].claims.find(Answer::refuted);
    const bool refutes = refuted != all[i].claims.end();
    if (!counted.empty())
      fmt::print("{}  {}  {}{}\n", styled(Style::bad, counts(counted)), file,
                 sound[i] ? "runs" : "will not run", claims_text(all[i]) + open);
    else if (!sound[i])
      fmt::print("{}  {}  (it needs what has the errors above)\n", styled(Style::bad, "will not run"), file);
    else if (refutes)
      fmt::print("{}  {}  ({})\n", styled(Style::warm, plural(refuted->second, "claim") + " refuted"), file,
                 all[i].summary);
    else
      fmt::print("{}  {}  ({})\n", styled(Style::good, "fine"), file, all[i].summary);
    if (refutes) fmt::print("What refutes it: mobrin prove {}\n", as_argument(file));
  }
  if (options.sarif) fmt::print("{}\n", print_json(sarif_of(every), 1));
  if (options.json && !options.sarif) fmt::print("{}\n", print_json({{"files", json}}, 1));
  return exit_code;
}

const Command check_command(
    Command::Rank::look, "check", "Report what is wrong with machines, clips, marks and tapes",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<CheckOptions>();
      parameters.places("FILE", options->files, "Files to check; of a folder all that say `mobrin:`",
                        Parameters::Need::optional);
      parameters.flag("--hints", options->hints, "Show hints too: matters of taste, which change no exit code");
      parameters.option("--explain", options->explain, "Say more about a finding's code: shadowed");
      parameters.flag("--json", options->json, "Print the findings as JSON");
      parameters.flag("--sarif", options->sarif, "Print the findings as SARIF 2.1.0, for code review and editors");
      parameters.footer(
          "Example:\n  mobrin check keeper.yaml dusk.tape.yaml\n  mobrin check game/characters\n\nExit code: 0 when "
          "all is fine, 1 with findings.");
      return [options]() -> int {
        if (!options->explain.empty()) return explain_code(options->explain);
        if (options->files.empty())
          return usage("no file is named", "Name files or folders to check: `mobrin check keeper.yaml`.");
        options->files = files_at(options->files, says_mobrin);
        if (options->files.empty()) return usage("no file in there says `mobrin:`", "Name files, or another folder.");
        return check(*options);
      };
    });

}  // namespace

}  // namespace mobrin::cli
