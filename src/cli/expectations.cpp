#include "expectations.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "console.hpp"
#include "mobrin/core/names.hpp"
#include "run_log.hpp"

namespace mobrin::cli {
namespace {

// The look that is worn, in words.
std::string look_text(const Instance& instance) {
  const std::uint16_t look = instance.look();
  return look == kNoIndex ? "none" : instance.machine().looks()[look].name.text;
}

}  // namespace

WriteHook Changes::hook_of(const Instance& instance) {
  return {[](void* context, const InstanceWrite&) {
            const auto& watched = *static_cast<const Watched*>(context);
            watched.to.at_.insert(watched.instance.now() - watched.to.begin_);
          },
          &watched_.emplace_back(Watched{instance, *this})};
}

bool Expectations::asks_for_changes() const {
  return std::any_of(expects_.begin(), expects_.end(),
                     [](const TapeExpect& each) { return !each.never.empty() || !each.always.empty(); });
}

void Expectations::instants(const Changes& changes, std::set<Ticks>& to) const {
  for (const TapeExpect& each : expects_) {
    to.insert(each.at);
    if (!each.never.empty() || !each.always.empty())
      to.insert(changes.at().lower_bound(each.at), changes.at().lower_bound(*each.to));
  }
}

void Expectations::hear(const Cue& cue) {
  if (cue.what == Told::cue && cue.edge != Edge::end) told_.push_back(cue);
  if (cue.what == Told::enter || cue.what == Told::leave) last_ = cue;
}

void Expectations::look(Ticks at) {
  for (const TapeExpect& each : expects_) {
    if (!each.to && each.at == at) look_at(each);
    if (each.to && each.at <= at && at < *each.to) look_at_stretch(each, at);
  }
}

void Expectations::finish() {
  for (const TapeExpect& each : expects_) finish(each);
}

// Once it fails it is told once.
void Expectations::look_at_stretch(const TapeExpect& expect, Ticks at) {
  if (failed_.count(&expect) > 0) return;
  const auto fails = [&](const Text& text, bool wanted, const char* word) {
    if (text.empty() || expression_holds(instance_, text.text) == wanted) return;
    failed_.insert(&expect);
    fail(expect, fmt::format("{} \"{}\" from {:g} s to {:g} s, but at {:.3f} s it is {}", word, text.text,
                             expect.at.to_seconds(), expect.to->to_seconds(), at.to_seconds(), wanted ? "not" : "so") +
                     held(text.text));
  };
  fails(expect.never, false, "never");
  fails(expect.always, true, "always");
}

// What is shown, in words, and whether `wanted` is among it.
std::string Expectations::shown(const Text& wanted, bool& found) const {
  const std::size_t slash = wanted.text.find('/');
  std::string out;
  for (std::uint16_t r = 0; r < instance_.region_count(); ++r) {
    const Shown now = instance_.shown(r);
    if (now.nothing()) continue;
    const std::string frame = fmt::format("{}/{}", machine().clips()[now.clip].def.name.text, now.frame);
    out += (out.empty() ? "" : ", ") + frame;
    found = found || wanted.text == (slash == std::string::npos ? frame.substr(0, frame.find('/')) : frame);
  }
  return out.empty() ? "nothing" : out;
}

void Expectations::look_at(const TapeExpect& expect) {
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
  if (!expect.look.empty() && look_text(instance_) != expect.look.text)
    fail(expect, fmt::format("{} the look {}, but it is {}", when, expect.look.text, look_text(instance_)));
  if (!expect.holds.empty() && !expression_holds(instance_, expect.holds.text))
    fail(expect, fmt::format("{} \"{}\", which is false", when, expect.holds.text) + held(expect.holds.text));
  if (expect.shows.empty()) return;
  bool found = false;
  const std::string now = shown(expect.shows, found);
  if (!found) fail(expect, fmt::format("{} to show {}, but it shows {}", when, expect.shows.text, now) + since());
}

// Cues: their instants are known only when the run has gone a little further.
void Expectations::finish(const TapeExpect& expect) {
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

// What an expression reads: `: health is 3, in ground/net`.
std::string Expectations::held(const std::string& expression) const {
  std::vector<std::string> out;
  for (const FieldDef& each : expression_reads(instance_, expression))
    out.push_back(fmt::format("{} is {}", each.name.text, value_text(each.value)));
  if (expression.find("in(") != std::string::npos)
    out.push_back(fmt::format("in {}", fmt::join(RunLog::active_leaves(machine(), instance_), ", ")));
  return out.empty() ? "" : fmt::format(": {}", fmt::join(out, ", "));
}

// What led to where it is.
std::string Expectations::since() const {
  if (!last_ || last_->transition == kNoTransition) return "";
  return fmt::format(", since {:.3f} s by {}", last_->at.to_seconds(),
                     rule_text(machine(), machine().transitions()[last_->transition]));
}

void Expectations::fail(const TapeExpect& expect, const std::string& what) {
  failures_.push_back(
      printable(fmt::format("{}:{}: {}expected {}", path_, expect.place.line, who_.empty() ? "" : who_ + ": ", what)));
}

namespace {

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

void remove_rules(StateDef& state) {
  state.go.clear();
  for (StateDef& child : state.states) remove_rules(child);
  for (RegionDef& region : state.regions)
    for (StateDef& child : region.states) remove_rules(child);
}

// The expressions of a tape must compile as guards of the root: many at once, in place of the machine's rules.
std::vector<Finding> expression_findings(const Expected& expected, const std::string& path,
                                         const MachineDef& definition, const Machine& machine) {
  constexpr std::size_t kAtOnce = 10'000;  // fewer than the rules that a machine may have
  std::vector<const Text*> texts;
  for (const TapeExpect& each : expected.expects)
    for (const Text* text : {&each.holds, &each.never, &each.always})
      if (!text->empty()) texts.push_back(text);
  std::vector<Finding> out;
  if (texts.empty()) return out;
  MachineDef trial = definition;
  remove_rules(trial.root);
  const auto file = static_cast<std::uint16_t>(trial.files.size());
  trial.files.push_back(path);
  for (std::size_t begin = 0; begin < texts.size(); begin += kAtOnce) {
    trial.root.go.clear();
    for (std::size_t i = begin; i < std::min(texts.size(), begin + kAtOnce); ++i) {
      GoDef& go = trial.root.go.emplace_back();
      go.when = Text(texts[i]->text, {file, texts[i]->place.line, texts[i]->place.column});
      go.to = Text(machine.states()[1].path);
    }
    for (Finding& finding : compile(trial).findings)
      if (is_error(finding.code) && finding.file == path) out.push_back(std::move(finding));
  }
  return out;
}

}  // namespace

std::vector<Finding> expectation_findings(const Expected& expected, const std::string& path,
                                          const MachineDef& definition, const Machine& machine) {
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
  const auto unknown = [&](const Text& name, const Error& error) {
    report(FindingCode::unknown_name, name.place, error.message,
           error.nearest.empty() ? error.remedy : "Did you mean \"" + error.nearest + "\"?");
  };
  std::vector<std::string> clips, cues, looks{"none"};
  for (const ClipInfo& clip : machine.clips()) clips.push_back(clip.def.name.text);
  for (const CueDef& cue : machine.cues()) cues.push_back(cue.name.text);
  for (const LookDef& look : machine.looks()) looks.push_back(look.name.text);
  const auto one_of = [&](const Text& name, const std::string& word, const std::vector<std::string>& known,
                          const char* kind) {
    if (std::find(known.begin(), known.end(), word) == known.end()) unknown(name, no_such(kind, word, known));
  };
  for (const TapeExpect& each : expected.expects) {
    if (expected.until && (each.at > *expected.until || (each.to && *each.to > *expected.until)))
      report(FindingCode::bad_value, each.place, "the " + std::string(expected.by) + " ends before this expectation",
             "Raise `until:`.");
    if (!each.in.empty())
      if (const auto state = machine.state(each.in.text); !state) unknown(each.in, state.error());
    if (!each.is.empty())
      if (const auto trait = machine.trait(each.is.text); !trait) unknown(each.is, trait.error());
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
    if (!each.look.empty()) one_of(each.look, each.look.text, looks, "look");
    if (!each.cue.empty()) one_of(each.cue, each.cue.text, cues, "cue");
    for (const auto& [name, times] : each.cues) one_of(name, name.text, cues, "cue");
  }
  for (Finding& finding : expression_findings(expected, path, definition, machine)) out.push_back(std::move(finding));
  return out;
}

}  // namespace mobrin::cli
