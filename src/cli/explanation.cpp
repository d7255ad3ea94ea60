#include "explanation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "console.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/core/names.hpp"
#include "run_log.hpp"

namespace mobrin::cli {
namespace {

std::string value_of(const PartValue& part) {
  if (!part.choice.empty()) return part.choice;
  if (part.is_truth) return part.value != 0 ? "true" : "false";
  return fmt::format("{:g}", part.value);
}

bool has(std::span<const std::uint16_t> list, std::uint16_t one) {
  return std::find(list.begin(), list.end(), one) != list.end();
}

}  // namespace

bool RulesWanted::leads_there(const Machine& machine, const TransitionInfo& rule) const {
  if (to.empty() || rule.to == to) return true;
  if (!target) return false;
  std::uint16_t around = *target;
  while (around != rule.target && around != 0) around = machine.states()[around].parent;
  return around == rule.target && around != 0;
}

bool Explanation::wants(std::uint32_t rule) const {
  const TransitionInfo& info = machine_.transitions()[rule];
  return (!wanted_.state || info.owner == *wanted_.state) && wanted_.leads_there(machine_, info);
}

std::string Explanation::name_of(std::uint16_t state) const {
  return state == 0 ? "anywhere" : printable(machine_.states()[state].path);
}

// Why its event is not there, where that is what it fails by.
std::string Explanation::event_text(const TransitionInfo& rule) const {
  if (rule.pulse != kNoIndex) {
    return machine_.inputs()[rule.pulse].name.text +
           (has(taken_pulses_, rule.pulse) ? " was taken by a round before" : " is not pressed");
  }
  const std::string event = rule.text.substr(0, rule.text.find(','));
  if (event == "at: end") return "its play has not ended";
  if (event == "at: loop") return "its play does not come round now";
  const std::string name = event.substr(std::min(event.size(), event.find(": ") + 2));
  if (event.starts_with("after:")) return "its state has not been active for " + name;
  if (event.starts_with("cue:")) return name + " is not told now";
  return event + " does not hold now";
}

// Where the playhead is, and where its window.
std::string Explanation::window_text(const TransitionInfo& rule, const Shown& shown) const {
  if (shown.nothing()) return "nothing plays that could be in its window";
  const ClipInfo& clip = machine_.clips()[shown.clip];
  const std::string& plays = clip.def.name.text;
  const std::string frame = shown.frame < 0 ? "" : fmt::format("on frame {}", shown.frame);
  const std::string time = fmt::format("at {:.3f} s", shown.seconds);
  const std::string during = rule.text.substr(rule.text.find("during: ") + 8);
  const std::string name = during.substr(0, during.find(','));
  for (const WindowDef& window : clip.marks.windows) {
    if (window.name.text != name) continue;
    std::string open;
    bool is_timed = frame.empty();
    for (const StretchDef& each : window.stretches) {
      open += (open.empty() ? "" : ", ") + stretch_text(each);
      is_timed = is_timed || each.timed;
    }
    return fmt::format("{} is {}{}{}; {} is {}", plays, frame, is_timed && !frame.empty() ? ", " : "",
                       is_timed ? time : "", name, open);
  }
  const bool times = name.ends_with('s') && name[0] >= '0' && name[0] <= '9';  // no name begins with a digit
  return fmt::format("{} is {}, not in {}", plays, frame.empty() || times ? time : frame, name);
}

// What one rule was found to be, in words.
std::string Explanation::verdict_text(const Considered& considered) const {
  const TransitionInfo& rule = machine_.transitions()[considered.transition];
  switch (considered.verdict) {
    case Verdict::taken:
      return styled(Style::good, "taken");
    case Verdict::stands:
      return "stands: " + printable(rule.to) + " is active already, so the rest of this list is passed over";
    case Verdict::already_active:
      return "passed over: " + printable(rule.to) + " is active already";
    case Verdict::sealed:
      return "no: a sealed state lies in between";
    case Verdict::window:
      return "no: " + printable(window_text(rule, considered.shown()));
    case Verdict::guard:
      return "no: the guard is false";
    case Verdict::event:
      return "no: " + printable(event_text(rule));
  }
  return "";
}

void Explanation::add(const Considered& considered) {
  if (considered.at != at_) return;
  if (round_ && round_->goes_on_with(considered)) {
    round_->add(considered);
  } else {
    end_round();
    if (considered.round == 0) begin_settling();
    round_.emplace(considered);
    is_numbered_ = false;
    const auto active = round_->active();
    if (leaves_.empty())
      for (const std::uint16_t state : active)
        if (!machine_.states()[state].has_children) leaves_ += (leaves_.empty() ? "" : ", ") + name_of(state);
    for (const std::uint16_t state : active)
      if (!has(was_active_, state)) was_active_.push_back(state);
  }
  if (!wants(considered.transition)) return;
  head(considered.transition);
  put("      {}\n", verdict_text(considered));
  for (const PartValue& part : considered.guard_parts())
    put("        {}\n", styled(Style::faint, fmt::format("{}  is {}", part.text, value_of(part))));
}

// An instant that settles again does so for what was written then; else a step came to it again, and the last counts.
void Explanation::begin_settling() {
  taken_pulses_.clear();
  const bool was_written = std::exchange(was_written_, false);
  if (!has_heard()) return;
  if (was_written) {
    if (text_.size() > settled_) text_ += "then, with what was written at this instant:\n";
    settled_ = text_.size();
  } else {
    text_.resize(settled_);
  }
}

void Explanation::tell_number() {
  if (!is_numbered_) put("{}\n", styled(Style::strong, fmt::format("round {}", round_->number() + 1)));
  is_numbered_ = true;
}

void Explanation::head(std::uint32_t rule) {
  tell_number();
  const TransitionInfo& info = machine_.transitions()[rule];
  put("  {} -> {}  {}\n", name_of(info.owner), printable(info.to), rule_text(machine_, info));
}

// Why a round did not come to it.
std::string Explanation::skipped_text(const Skipped& skipped) const {
  const TransitionInfo& by = machine_.transitions()[skipped.by];
  if (skipped.why == Skipped::Why::above)
    return fmt::format("{} above it decided",
                       by.place.line == 0 ? "the rule" : fmt::format("the rule in line {}", by.place.line));
  return fmt::format("{} -> {}, {}", name_of(by.owner), printable(by.to),
                     skipped.why == Skipped::Why::around ? "around it, was taken" : "elsewhere, was taken and left it");
}

// Of all rules, those below the one that decided one by one, those of a state together; of some, each.
void Explanation::end_round() {
  if (!round_) return;
  const std::vector<Skipped> skipped = round_->skipped();
  const auto owner_of = [&](const Skipped& each) { return machine_.transitions()[each.transition].owner; };
  for (auto each = skipped.begin(); each != skipped.end();) {
    const bool apart = !wanted_.all() || each->why == Skipped::Why::above;
    const auto end = apart ? each + 1 : std::find_if(each, skipped.end(), [&](const Skipped& other) {
      return owner_of(other) != owner_of(*each);
    });
    if (apart && wants(each->transition)) {
      head(each->transition);
      put("      not looked at: {}\n", skipped_text(*each));
    } else if (!apart) {
      tell_number();
      put("  {}: {} not looked at: {}\n", name_of(owner_of(*each)),
          end - each == 1 ? "its rule was" : fmt::format("its {} rules were", end - each), skipped_text(*each));
    }
    each = end;
  }
  for (const SettlingRound::Looked& each : round_->looked())
    if (each.verdict == Verdict::taken && machine_.transitions()[each.transition].pulse != kNoIndex)
      taken_pulses_.push_back(machine_.transitions()[each.transition].pulse);
}

void Explanation::end() {
  end_round();
  tell_inactive();
  fmt::print("{}", text_);
}

// Of wanted rules those whose state no round found active: that is why.
void Explanation::tell_inactive() {
  if (!round_ || wanted_.all()) return;
  const auto tell = [&](std::uint16_t state) {
    put("{}no: {} is not active; {} is\n", wanted_.state ? "  " : "      ", name_of(state), leaves_);
  };
  if (wanted_.state) {
    const std::uint16_t state = *wanted_.state;
    bool has_rule = false;
    for (std::uint32_t rule = 0; rule < machine_.transitions().size(); ++rule) has_rule = has_rule || wants(rule);
    if (!has(was_active_, state)) return tell(state);
    if (!has_rule)
      put("  {} has no rule{}\n", name_of(state), wanted_.to.empty() ? "" : " to " + printable(wanted_.to));
    return;
  }
  is_numbered_ = true;
  for (std::uint32_t rule = 0; rule < machine_.transitions().size(); ++rule) {
    const std::uint16_t owner = machine_.transitions()[rule].owner;
    if (!wants(rule) || has(was_active_, owner)) continue;
    head(rule);
    tell(owner);
  }
}

}  // namespace mobrin::cli
