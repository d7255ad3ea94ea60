// mobrin prove: answers what is claimed of a machine.
#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/prove/prove.hpp"
#include "tape_lines.hpp"

namespace mobrin::cli {
namespace {

struct ProveOptions {
  std::vector<std::string> files, claims;
  std::string out;
  std::int64_t effort = 1;
  bool json = false, strict = false;
};

Style style_of(Answer answer) {
  return answer == Answer::proved ? Style::good : answer == Answer::refuted ? Style::bad : Style::warm;
}

// Keeps those that are asked for; kUsage where one is not there.
int keep_claims(const std::vector<std::string>& wanted, const std::string& file, std::vector<ClaimDef>& claims) {
  std::vector<std::string> names;
  for (const ClaimDef& claim : claims) names.push_back(claim.name.text);
  for (const std::string& each : wanted) {
    if (std::find(names.begin(), names.end(), each) != names.end()) continue;
    const std::string nearest = nearest_name(each, names);
    std::string all;
    for (const std::string& name : names) all += (all.empty() ? "\"" : ", \"") + name + "\"";
    return usage(file + " has no claim \"" + each + "\"",
                 nearest.empty() ? "It has " + all + "." : "Did you mean \"" + nearest + "\"?");
  }
  std::erase_if(claims, [&](const ClaimDef& claim) {
    return !wanted.empty() && std::find(wanted.begin(), wanted.end(), claim.name.text) == wanted.end();
  });
  return kFine;
}

Json json_of_answer(const ClaimAnswer& answer, const std::string& written) {
  Json out = {{"claim", answer.claim.text},
              {"line", answer.claim.place.line},
              {"answer", text_of(answer.answer)},
              {"says", answer.says},
              {"tape", answer.tape ? json_of(*answer.tape) : Json()}};
  if (!written.empty()) out["file"] = written;
  return out;
}

// At once, as the next may take its time.
void print_answer(const ClaimAnswer& answer, std::size_t width, const std::string& written) {
  fmt::print("{}  {:{}}  {}\n", styled(style_of(answer.answer), fmt::format("{:8}", text_of(answer.answer))),
             printable(answer.claim.text), width, printable(answer.says));
  if (answer.tape) {
    const auto lines = tape_lines(*answer.tape);
    for (const std::string& line : lines) fmt::print("{:{}}{}\n", "", 12, line);
    if (lines.empty()) fmt::print("{:{}}nothing needs to be written\n", "", 12);
    if (!written.empty()) fmt::print("{:{}}{}\n", "", 12, printable(written));
  }
  std::fflush(stdout);
}

int prove_file(const std::string& file, const ProveOptions& options, Json& all) {
  const auto loaded = load_or_report(file);
  if (!loaded) return kFindings;
  if (!loaded->has_machine || !loaded->definition)
    return usage(file + " holds no machine", "Name a file that says `machine: NAME`.");
  const std::vector<Finding> wrong = claim_findings(*loaded->definition, *loaded->machine);
  if (!wrong.empty()) {
    print_findings(wrong, true);
    fmt::print(stderr, "{}; nothing was proved.\n", counts(wrong));
    return kFindings;
  }
  if (loaded->definition->claims.empty())
    return usage(file + " claims nothing", "Write `claims: {death is final: {once: in(faint), then: in(faint)}}`.");
  MachineDef definition = *loaded->definition;
  int code = keep_claims(options.claims, file, definition.claims);
  if (code != kFine) return code;
  const ProofLimits limits = ProofLimits{}.times(static_cast<std::size_t>(options.effort));
  bool written_all = true;
  Json claims = Json::array();
  std::size_t width = 0;
  for (const ClaimDef& claim : definition.claims) width = std::max(width, printable(claim.name.text).size());
  const auto tell = [&](const ClaimAnswer& answer) {
    if (answer.answer == Answer::refuted || (options.strict && answer.answer != Answer::proved)) code = kFindings;
    std::string written;
    if (answer.tape && !options.out.empty() && written_all) {
      written = write_tape(*answer.tape, options.out, answer.claim.text, file);
      written_all = !written.empty();
    }
    if (options.json)
      claims.push_back(json_of_answer(answer, written));
    else
      print_answer(answer, width, written);
  };
  prove(definition, *loaded->machine, limits, {}, tell);
  if (!written_all) return kFindings;
  all.push_back({{"file", file}, {"claims", claims}});
  return code;
}

int prove_all(const ProveOptions& options) {
  Json all = Json::array();
  int code = kFine;
  for (const std::string& file : options.files) {
    if (!options.json && options.files.size() > 1) fmt::print("{}\n", styled(Style::strong, file));
    code = std::max(code, prove_file(file, options, all));
  }
  if (options.json) fmt::print("{}\n", print_json({{"files", all}}, 1));
  return code;
}

}  // namespace

int prove_claims(const std::string& file) {
  ProveOptions options;
  options.files = {file};
  return prove_all(options);
}

namespace {

const Command prove_command(
    Command::Rank::look, "prove", "Answer what is claimed of a machine: proved, or refuted with a tape",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<ProveOptions>();
      parameters.places("FILE", options->files, "Machines with `claims:`");
      parameters.option("-o,--out", options->out, "Write the tapes of what is refuted into this folder");
      parameters.options("--claim", options->claims, "Only the claim of this name; several times for several");
      parameters.number("--effort", options->effort, {1, 100}, "How many times the usual work a claim may take");
      parameters.flag("--strict", options->strict, "Exit 1 also where a claim is open or vacuous");
      parameters.flag("--json", options->json, "Print the answers as JSON");
      parameters.footer(
          "Example:\n  mobrin prove keeper.yaml\n  mobrin prove keeper.yaml -o tapes/\n  mobrin prove keeper.yaml "
          "--claim 'a blow gets over' --effort 10\n\nA claim is a line of the "
          "file: "
          "`claims: {a blow gets over: {from: in(net), within: 2s, reaches: not in(net)}}`; docs/checking.md has all "
          "forms. Exit code: 0, 1 where one is refuted.");
      return [options] { return prove_all(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
