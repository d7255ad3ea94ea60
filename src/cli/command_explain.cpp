// mobrin explain: why a transition was taken at an instant, and why the others were not.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <variant>

#include "command.hpp"
#include "console.hpp"
#include "explanation.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/scene.hpp"
#include "run_log.hpp"
#include "run_source.hpp"

namespace mobrin::cli {
namespace {

struct ExplainOptions {
  std::string file, tape, at, state, to, actor;
  TypedSteps steps;
};

// The instant that `--at` means: a duration, `{ticks: N}`, or what `run` printed, which is the nearest instant at which
// something happened within half its last digit.
class Instant {
 public:
  // False with a message told where the text is none.
  bool read(const std::string& text) {
    std::string inner = text;
    std::erase_if(inner, [](char c) { return c == ' ' || c == '{' || c == '}'; });
    if (inner.starts_with("ticks:")) {
      char* end = nullptr;
      const long long ticks = std::strtoll(inner.c_str() + 6, &end, 10);
      if (*end == '\0' && end != inner.c_str() + 6 && ticks >= 0 && ticks <= kMaxDurationTicks) {
        at = Ticks(ticks);
        return true;
      }
    } else if (const auto instant = parse_duration(text); instant && instant->count <= kMaxDurationTicks) {
      at = *instant;
      // Half of the last digit, at most half a millisecond.
      const std::size_t point = text.find('.');
      const std::size_t digits =
          point == std::string::npos ? 0 : text.find_first_not_of("0123456789", point + 1) - point - 1;
      double unit = text.ends_with("ms") ? 0.001 : 1;
      for (std::size_t i = 0; i < digits; ++i) unit /= 10;
      slack = Ticks(std::llround(std::min(unit, 0.001) / 2 * static_cast<double>(kTicksPerSecond)));
      return true;
    }
    usage(fmt::format("`--at {}` is no instant", text),
          "Write it with its unit, such as `--at 1.75s`, or as a tape does, `--at '{ticks: 1234567}'`; at most 10 "
          "hours.");
    return false;
  }
  // Something happened at `when`.
  void offer(Ticks when) {
    if (when >= at - slack && when <= at + slack && std::find(near_.begin(), near_.end(), when) == near_.end())
      near_.push_back(when);
  }
  // Takes the nearest; says which others there are.
  void settle() {
    const auto far = [&](Ticks when) { return std::abs(when.count - at.count); };
    std::sort(near_.begin(), near_.end(), [&](Ticks a, Ticks b) { return far(a) < far(b); });
    if (!near_.empty()) at = near_.front();
  }
  void name_others() const {
    for (std::size_t i = 1; i < near_.size(); ++i) fmt::print("Also near: --at '{{ticks: {}}}'\n", near_[i].count);
  }

  Ticks at{}, slack{};

 private:
  std::vector<Ticks> near_;
};

// Hears what is written to an instance, for its presses and for its explanation.
struct Writes {
  Presses& presses;
  Explanation& explanation;
  const Instance& instance;

  [[nodiscard]] WriteHook hook() const {
    return {[](void* context, const InstanceWrite& write) {
              const auto& all = *static_cast<const Writes*>(context);
              all.explanation.written(all.instance.now());
              if (write.kind == InstanceWrite::Kind::pulse) all.presses.pressed(write.input, all.instance.now());
              if (write.kind == InstanceWrite::Kind::reset) all.presses.forget();
            },
            const_cast<Writes*>(this)};
  }
};

// Presses that ran out a short while ago, and those that wait, with their age and who could take them.
void print_presses(const Machine& machine, const Instance& instance, Presses& presses, Ticks at) {
  for (const auto& [input, end] : presses.ran_out(at))
    if (at - end < seconds(1))
      fmt::print("{} was pressed {} ago and ran out {} ago, untaken\n", machine.inputs()[input].name.text,
                 ms_text(at - end + presses.life(input)), ms_text(at - end));
  for (const Presses::Waiting& each : presses.waiting()) {
    const Ticks age = at - each.at, left = presses.life(each.input) - age;
    const std::string& name = machine.inputs()[each.input].name.text;
    if (presses.life(each.input).count == 0)
      fmt::print("{} was pressed at this instant, and counts at no other", name);
    else
      fmt::print("{} was pressed {} ago and waits {} longer", name, ms_text(age), ms_text(left));
    std::string takers;
    for (const TransitionInfo& rule : machine.transitions()) {
      if (rule.pulse != each.input) continue;
      if (!instance.in({machine.serial(), rule.owner})) continue;
      takers += fmt::format("\n    {} -> {}  {}", rule.owner == 0 ? "anywhere" : machine.states()[rule.owner].path,
                            rule.to, rule_text(machine, rule));
    }
    fmt::print("{}\n", takers.empty() ? "; no rule in effect takes it" : "; what could take it:" + takers);
  }
}

// What is left to say; where nothing was looked at, what would be.
void end(Explanation& explanation, const Instance& instance) {
  if (!explanation.has_heard() && instance.done()) {
    fmt::print("It is done: no rule is looked at any more.\n");
    return;
  }
  if (!explanation.has_heard()) {
    fmt::print("Nothing happened at this instant, so nothing was looked at. As things stand:\n");
    explanation.listen_at(instance.now());
    instance.consider();
  }
  if (!explanation.has_heard()) fmt::print("  no rule is in effect\n");
  explanation.end();
}

// What is asked for; nothing, with a message told, where it is not there.
std::optional<RulesWanted> wanted(const Machine& machine, const ExplainOptions& options) {
  RulesWanted out{.to = options.to};
  if (!options.state.empty()) {
    const auto state = machine.state(options.state);
    if (state)
      out.state = state->index;
    else if (options.state == "anywhere")
      out.state = 0;  // as it is printed
    else
      return usage(state.error().text(), "Name a state by its path, as `mobrin list` prints it."), std::nullopt;
  }
  if (options.to.empty()) return out;
  if (const auto target = machine.state(options.to)) out.target = target->index;
  std::vector<std::string> known;
  for (const TransitionInfo& rule : machine.transitions()) {
    if (out.leads_there(machine, rule)) return out;
    known.push_back(rule.to);
    known.push_back(machine.states()[rule.target].path);
  }
  usage(Error{"no transition leads to \"" + options.to + "\"", nearest_name(options.to, known)}.text(),
        "Name a target as it is written, or by its whole path.");
  return std::nullopt;
}

// --- a machine ------------------------------------------------------------------------------------------------------

int explain_machine(const ExplainOptions& options, const std::vector<TypedStep>& steps, Instant instant) {
  const auto source = run_source("explain", options.file, options.tape, steps);
  if (const int* over = std::get_if<int>(&source)) return *over;
  const auto& [tape, path, loaded] = std::get<RunSource>(source);
  const Machine& machine = *loaded.machine;
  const auto rules = wanted(machine, options);
  if (!rules) return kUsage;

  // First to see when something happens, then to look at it.
  RunOptions run;
  // Of a tape that begins in the middle instants are those of the clock, as `run` prints them.
  const Ticks begins = tape.save ? tape.save->now : Ticks(0);
  run.until = instant.at + instant.slack - begins;
  {
    Instance instance(machine);
    const TraceHook hook{
        [](void* context, const Considered& considered) { static_cast<Instant*>(context)->offer(considered.at); },
        &instant};
    instance.set_trace(hook);
    run_tape(instance, tape, run, [&](const Cue& cue) { instant.offer(cue.at); });
  }
  instant.settle();
  Instance instance(machine);
  Explanation explanation(machine, *rules);
  explanation.listen_at(instant.at);
  instance.set_trace(explanation.hook());
  Presses presses(machine);
  const Writes writes{presses, explanation, instance};
  instance.set_write_hook(writes.hook());
  run.until = instant.at - begins;
  fmt::print("{} at {:.9g} s\n", styled(Style::strong, machine.name()), instant.at.to_seconds());
  instant.name_others();
  run_tape(instance, tape, run, [&](const Cue& cue) {
    if ((cue.what == Told::enter || cue.what == Told::leave) && cue.transition != kNoTransition &&
        machine.transitions()[cue.transition].pulse != kNoIndex)
      (void)presses.taken(machine.transitions()[cue.transition].pulse, cue.at);
  });
  end(explanation, instance);
  print_presses(machine, instance, presses, instant.at);
  return kFine;
}

// --- an actor of a scene --------------------------------------------------------------------------------------------

bool has_one(const std::vector<std::string>& wanted, const std::vector<std::string>& tags) {
  return std::any_of(wanted.begin(), wanted.end(),
                     [&](const std::string& each) { return std::find(tags.begin(), tags.end(), each) != tags.end(); });
}

// How far two shapes are apart; 0 where they touch.
double gap(const WorldShape& a, const WorldShape& b) {
  const double x = std::abs(a.middle.x - b.middle.x), y = std::abs(a.middle.y - b.middle.y);
  if (a.is_circle() && b.is_circle()) return std::max(0.0, std::hypot(x, y) - a.radius - b.radius);
  const double sides = a.is_circle() ? a.radius : b.is_circle() ? b.radius : 0;
  const double width = (a.is_circle() ? 0 : a.half_width) + (b.is_circle() ? 0 : b.half_width);
  const double height = (a.is_circle() ? 0 : a.half_height) + (b.is_circle() ? 0 : b.half_height);
  return std::max(0.0, std::hypot(std::max(0.0, x - width), std::max(0.0, y - height)) - sides);
}

class SceneHits {
 public:
  void add(const SceneRecord& record) {
    if (record.what == SceneRecord::What::hit) {
      hits_.push_back(record);
    } else if (record.what == SceneRecord::What::told) {
      if (record.actor >= since_.size()) since_.resize(record.actor + 1);  // one spawned on the way
      const Cue& cue = record.cue;
      const bool strikes = cue.what == Told::cue && cue.edge != Edge::end && cue.kind() == "damage";
      if (cue.what == Told::enter || strikes) since_[record.actor] = record.at;  // another swing
    }
  }

  // Who hit whom at the instant; and for each box that hits, why the others were not hit.
  void print(const SceneRun& run, std::size_t actor, Ticks at) const {
    std::vector<ActiveBox> mine(64), theirs(64);
    const auto name = [&](std::size_t i) { return printable(run.actor(i).name.text); };
    mine.resize(std::min<std::size_t>(64, boxes(run.instance(actor), run.placement(actor, at), mine)));
    for (const SceneRecord& hit : hits_)
      if (hit.at == at && (hit.actor == actor || hit.other == actor))
        fmt::print("{} hits {} with {}\n", name(hit.actor), name(hit.other), hit.box);
    for (const ActiveBox& box : mine) {
      if (box.box->role.text != "hit") continue;
      for (std::size_t other = 0; other < run.actors(); ++other) {
        if (other == actor || run.gone(other)) continue;
        fmt::print("{} of {}, on {}: {}\n", box.box->name.text, name(actor), name(other),
                   reason(run, actor, other, box, at));
      }
    }
  }

 private:
  [[nodiscard]] std::string reason(const SceneRun& run, std::size_t actor, std::size_t other, const ActiveBox& box,
                                   Ticks at) const {
    const std::vector<std::string>& tags = run.actor(other).tags;
    for (const SceneRecord& hit : hits_)
      if (hit.at == at && hit.actor == actor && hit.other == other) return styled(Style::good, "hit now");
    if (!run.alive(actor)) return "no: who strikes is dead";
    if (!run.alive(other)) return "no: it is dead";
    if (!box.box->hits.empty() && !has_one(box.box->hits, tags))
      return fmt::format("no: it has none of the tags {}", fmt::join(box.box->hits, ", "));
    if (has_one(box.box->spares, tags))
      return fmt::format("no: who has one of the tags {} is spared", fmt::join(box.box->spares, ", "));
    for (const SceneRecord& hit : hits_)
      if (hit.actor == actor && hit.other == other && (actor >= since_.size() || hit.at >= since_[actor]) &&
          box.box->every.count == 0)
        return fmt::format("no: this swing hit it at {:.3f} s already", hit.at.to_seconds());
    std::vector<ActiveBox> theirs(64);
    theirs.resize(std::min<std::size_t>(64, boxes(run.instance(other), run.placement(other, at), theirs)));
    double nearest = -1;
    for (const ActiveBox& hurt : theirs)
      if (hurt.box->role.text == "hurt") {
        const double far = gap(box.shape, hurt.shape);
        nearest = nearest < 0 ? far : std::min(nearest, far);
      }
    if (nearest < 0) return "no: it has no box that can be hit now";
    return fmt::format("no: out of reach by {:.3g}", nearest);
  }

  std::vector<Ticks> since_;  // per actor, when its swing began
  std::vector<SceneRecord> hits_;
};

int explain_scene(const ExplainOptions& options, Instant instant) {
  LoadedScene loaded = load_scene(options.file);
  print_findings(loaded.findings, true);
  if (!loaded.scene) return kFindings;
  const Scene& scene = *loaded.scene;
  std::vector<std::string> names;
  for (const SceneActor& each : scene.actors) names.push_back(each.name.text);
  const auto found = std::find(names.begin(), names.end(), options.actor);
  if (options.actor.empty())
    return usage("a scene has several actors",
                 fmt::format("Say whom: `--actor {}`; there are {}.", names.front(), fmt::join(names, ", ")));
  if (found == names.end())
    return usage(Error{"there is no actor \"" + options.actor + "\"", nearest_name(options.actor, names)}.text(),
                 fmt::format("There are {}.", fmt::join(names, ", ")));
  if (!options.tape.empty()) return usage("a scene has its own tapes", "Leave `--tape` out.");
  if (!options.steps.presses.empty() || !options.steps.sets.empty())
    return usage("a scene has its own presses", "Write them under its actors: `steps:`.");
  const auto actor = static_cast<std::size_t>(found - names.begin());
  const Machine& machine = *scene.actors[actor].machine;
  const auto rules = wanted(machine, options);
  if (!rules) return kUsage;
  if (instant.at > scene.until)
    return usage(fmt::format("the scene ends at {} s", scene.until.to_seconds()), "Name an instant before that.");
  {
    SceneRun run(scene);
    run.run(std::min(scene.until, instant.at + instant.slack), [&](const SceneRecord& record) {
      if (record.actor == actor || record.other == actor) instant.offer(record.at);
    });
  }
  instant.settle();
  SceneRun run(scene);
  SceneHits hits;
  Presses presses(machine);
  const auto hear = [&](const SceneRecord& record) {
    hits.add(record);
    if (record.what == SceneRecord::What::told && record.actor == actor && record.cue.transition != kNoTransition &&
        machine.transitions()[record.cue.transition].pulse != kNoIndex)
      (void)presses.taken(machine.transitions()[record.cue.transition].pulse, record.at);
  };
  Explanation explanation(machine, *rules);
  explanation.listen_at(instant.at);
  const Writes writes{presses, explanation, run.instance(actor)};
  run.set_write_hook(actor, writes.hook());
  // Up to just before, so that what is tried and taken back on the way is not heard.
  if (instant.at.count > 0) run.run(Ticks(instant.at.count - 1), hear);
  run.set_trace(actor, explanation.hook());
  fmt::print("{} of {} at {:.9g} s\n", styled(Style::strong, names[actor]), printable(scene.name),
             instant.at.to_seconds());
  instant.name_others();
  run.run(instant.at, hear);
  end(explanation, run.instance(actor));
  print_presses(machine, run.instance(actor), presses, instant.at);
  hits.print(run, actor, instant.at);
  return kFine;
}

int explain(ExplainOptions options) {
  Instant instant;
  if (!instant.read(options.at)) return kUsage;
  if (is_scene(options.file).value_or(false)) return explain_scene(options, instant);
  if (!options.actor.empty()) return usage("`--actor` is for scenes", "Leave it out, or name a scene.");
  const auto steps = options.steps.read();
  if (!steps) return kUsage;
  if (options.tape.empty() && is_tape(options.file).value_or(false)) std::swap(options.tape, options.file);
  return explain_machine(options, *steps, instant);
}

const Command explain_command(
    Command::Rank::run, "explain", "Say why a transition was taken at an instant, and why the others were not",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<ExplainOptions>();
      parameters.place("FILE", options->file, "The machine; or a tape that names its machine; or a scene");
      parameters.option("--tape", options->tape, "The recorded inputs; without, nothing is pressed");
      options->steps.add_to(parameters);
      parameters.option("--at", options->at, "The instant as `run` prints it, such as 1.75s; or '{ticks: N}'",
                        Parameters::Need::required);
      parameters.option("--state", options->state,
                        "Only transitions of this state; `anywhere`: those that hold from anywhere");
      parameters.option("--to", options->to, "Only transitions that lead to this state, or to one around it");
      parameters.option("--actor", options->actor, "Of a scene: whose transitions, and whom it hits or does not");
      parameters.footer(
          "Example:\n  mobrin explain keeper.yaml --tape keeper.tape.yaml --at 1.75s\n  mobrin explain keeper.yaml "
          "--press swing@0.9s --at 0.9s\n  mobrin explain dusk.scene.yaml --actor keeper --at 2.05s");
      return [options] { return explain(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
