// mobrin explain: why a transition was taken at an instant, and why the others were not.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"
#include "console.hpp"

namespace mobrin::cli {
namespace {

struct ExplainOptions {
  std::string file, tape, at, state, to;
};

// What one transition was found to be, in words.
std::string verdict_text(const Machine& machine, const Considered& considered) {
  const TransitionInfo& transition = machine.transitions()[considered.transition];
  const std::string& text = transition.text;
  switch (considered.verdict) {
    case Verdict::taken:
      return styled(Style::good, "taken");
    case Verdict::stands:
      return "stands: " + transition.to + " is active already, so the rest of this list is passed over";
    case Verdict::already_active:
      return "passed over: " + transition.to + " is active already";
    case Verdict::sealed:
      return "no: a sealed state lies in between";
    case Verdict::window:
      return "no: the playhead is not in the window";
    case Verdict::guard:
      return "no: the guard is false";
    case Verdict::event:
      return "no: " + text.substr(0, text.find(',')) + " does not hold now";
  }
  return "";
}

class Explanation {
 public:
  Explanation(const Machine& machine, Ticks at, const ExplainOptions& options)
      : machine_(machine), at_(at), options_(options) {}

  void add(const Considered& considered) {
    if (considered.at != at_) return;
    const TransitionInfo& transition = machine_.transitions()[considered.transition];
    const std::string& owner = machine_.states()[transition.owner].path;
    if (!options_.state.empty() && owner != options_.state) return;
    // A target may be named as it is written, or by its whole path.
    const bool wanted =
        options_.to.empty() || transition.to == options_.to || machine_.states()[transition.target].path == options_.to;
    if (!wanted) return;
    if (considered.round != round_)
      fmt::print("{}\n", styled(Style::strong, fmt::format("round {}", considered.round + 1)));
    round_ = considered.round;
    const std::string place =
        transition.place.line == 0 ? "" : fmt::format("  ({}:{})", base_name(transition.place), transition.place.line);
    fmt::print("  {} -> {}  {}{}\n", owner.empty() ? "anywhere" : owner, transition.to, transition.text,
               styled(Style::faint, place));
    fmt::print("      {}\n", verdict_text(machine_, considered));
    ++count;
    if (considered.verdict == Verdict::event) return;
    for (const PartValue& part : considered.guard_parts())
      fmt::print("        {}\n", styled(Style::faint, fmt::format("{}  is {}", part.text, value_of(part))));
  }

  int count = 0;

 private:
  static std::string value_of(const PartValue& part) {
    if (!part.choice.empty()) return part.choice;
    if (part.is_truth) return part.value != 0 ? "true" : "false";
    return fmt::format("{:g}", part.value);
  }
  std::string base_name(const Place& place) const {
    const std::string& file = machine_.files()[place.file];
    return file.substr(folder_of(file).size());
  }

  const Machine& machine_;
  Ticks at_;
  const ExplainOptions& options_;
  int round_ = -1;
};

int explain(const ExplainOptions& options) {
  const auto at = parse_duration(options.at);
  if (!at || at->count > kMaxDurationTicks) {
    fmt::print(stderr,
               "error: `--at {}` is no instant\n    Write it with its unit, such as `--at 1.75s`; at most 10 hours.\n",
               options.at);
    return kUsage;
  }
  auto tape = tape_or_report(options.tape);
  const auto loaded = load_or_report(options.file);
  if (!tape || !loaded) return kFindings;
  const Machine& machine = *loaded->machine;
  if (!options.state.empty()) {
    if (const auto state = machine.state(options.state); !state) {
      fmt::print(stderr, "error: {}\n", state.error().text());
      return kUsage;
    }
  }
  const auto misfits = check_tape(*tape, machine, options.tape);
  print_findings(misfits, true);
  if (has_errors(misfits)) return kFindings;

  Instance instance(machine);
  Explanation explanation(machine, *at, options);
  instance.set_trace(
      {[](void* context, const Considered& considered) { static_cast<Explanation*>(context)->add(considered); },
       &explanation});
  RunOptions run;
  run.until = at;
  fmt::print("{} at {} s\n", styled(Style::strong, machine.name()), at->to_seconds());
  run_tape(instance, *tape, run, [](const Cue&) {});
  if (explanation.count == 0) {
    fmt::print("Nothing happened at this instant, so nothing was looked at. If it were looked at now:\n");
    instance.consider();
  }
  if (explanation.count == 0)
    fmt::print("  no transition {}\n",
               options.state.empty() && options.to.empty() ? "is in reach" : "of those asked for is in reach");
  return kFine;
}

const Command explain_command(
    Command::Rank::run, "explain", "Say why a transition was taken at an instant, and why the others were not",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<ExplainOptions>();
      parameters.place("FILE", options->file, "The machine");
      parameters.option("--tape", options->tape, "The recorded inputs; without, nothing is pressed");
      parameters.option("--at", options->at, "The instant, such as 1.75s", Parameters::Need::required);
      parameters.option("--state", options->state, "Only transitions of this state");
      parameters.option("--to", options->to, "Only transitions to this state");
      parameters.footer("Example:\n  mobrin explain keeper.yaml --tape keeper.tape.yaml --at 1.75s");
      return [options] { return explain(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
