// mobrin cover: writes tapes that take every rule that can be taken.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "run_log.hpp"
#include "tape_lines.hpp"

namespace mobrin::cli {
namespace {

struct CoverOptions {
  std::string file, out;
  std::int64_t effort = 1;
  bool json = false;
};

int cover_file(const CoverOptions& options) {
  const auto loaded = load_or_report(options.file);
  if (!loaded) return kFindings;
  if (!loaded->has_machine || !loaded->definition)
    return usage(options.file + " holds no machine", "Name a file that says `machine: NAME`.");
  const Machine& machine = *loaded->machine;
  const ProofLimits limits = ProofLimits{}.times(static_cast<std::size_t>(options.effort));
  const Cover covered = cover(*loaded->definition, machine, limits);
  const std::size_t rules = machine.transitions().size(), states = machine.states().size() - 1;
  Json tapes = Json::array(), left = Json::array(), not_entered = Json::array();
  std::vector<std::string> lines;
  for (std::size_t i = 0; i < covered.tapes.size(); ++i) {
    Tape tape = covered.tapes[i];
    tape.name = fmt::format("cover {} {}", machine.name(), i + 1);
    const std::string path =
        options.out.empty() ? "" : write_tape(tape, options.out, fmt::format("cover-{}", i + 1), options.file);
    if (!options.out.empty() && path.empty()) return kFindings;
    Json out = json_of(tape);
    if (!path.empty()) out["file"] = path;
    tapes.push_back(std::move(out));
    if (!path.empty())
      lines.push_back(
          fmt::format("{}  {}, {:g} s", printable(path), plural(tape.steps.size(), "step"), tape.until->to_seconds()));
  }
  std::size_t open = 0;
  for (const Cover::Left& each : covered.left) {
    const TransitionInfo& rule = machine.transitions()[each.transition];
    const std::string& owner = machine.states()[rule.owner].path;
    const std::string words = rule_text(machine, rule);
    if (!each.never) ++open;
    left.push_back({{"rule", words}, {"state", owner}, {"line", rule.place.line}, {"never", each.never}});
    lines.push_back(fmt::format("{}  {}{}", each.never ? styled(Style::faint, "never") : styled(Style::warm, "open "),
                                printable(owner.empty() ? "anywhere" : owner) + ": ", printable(words)));
  }
  for (const std::uint16_t state : covered.states) {
    not_entered.push_back(machine.states()[state].path);
    lines.push_back("not entered  " + printable(machine.states()[state].path));
  }
  if (options.json) {
    fmt::print("{}\n", print_json({{"file", options.file},
                                   {"rules", rules},
                                   {"taken", rules - covered.left.size()},
                                   {"tapes", tapes},
                                   {"left", left},
                                   {"not_entered", not_entered}},
                                  1));
  } else {
    fmt::print("{}  {}: {} of {} taken, {} of {} entered\n", styled(Style::strong, machine.name()),
               plural(covered.tapes.size(), "tape"), rules - covered.left.size(), plural(rules, "rule"),
               states - covered.states.size(), plural(states, "state"));
    for (const std::string& line : lines) fmt::print("  {}\n", line);
    if (options.out.empty() && !covered.tapes.empty()) fmt::print("  `-o tapes/` writes them.\n");
  }
  return open > 0 ? kFindings : kFine;
}

const Command cover_command(
    Command::Rank::run, "cover", "Write a few tapes that take every rule that can be taken",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<CoverOptions>();
      parameters.place("FILE", options->file, "The machine");
      parameters.option("-o,--out", options->out, "Write the tapes into this folder");
      parameters.number("--effort", options->effort, {1, 100}, "How many times the usual work it may take");
      parameters.flag("--json", options->json, "Print the result as JSON");
      parameters.footer(
          "Example:\n  mobrin cover keeper.yaml -o tapes/\n\nA rule that no tape takes is `never` (proved: no run "
          "takes "
          "it) or `open`. Exit code: 0, 1 where one is open.");
      return [options] { return cover_file(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
