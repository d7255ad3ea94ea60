// What a run shows: the engine tries what a game may write.
#include <algorithm>
#include <map>
#include <set>

#include "findings.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostOfARing = 8;  // rules that a message names

}  // namespace

std::vector<FindingCode> RunFindings::may_be_shown(const Model& part, const PartFacts& facts) {
  const auto rule_may = [&](const auto& does) {
    return std::ranges::any_of(part.rules(), [&](const Rule& rule) { return rule.def != nullptr && does(rule); });
  };
  const auto presses = [](const Rule& rule) { return rule.event == Event::pulse; };
  const auto revives = [&](const Rule& rule) {
    const bool to_an_ending = rule.aim == Aim::state && part.ending(rule.target);
    return part.notes()[rule.index].leaves_dead && !to_an_ending;
  };
  const bool dead = std::ranges::any_of(part.states(), [](const StateFacts& state) { return state.dead; });
  std::vector<FindingCode> out;
  if (!facts.whole || facts.runaway) out.push_back(FindingCode::runaway);
  if (facts.undoes_a_press && rule_may(presses)) out.push_back(FindingCode::press_lost);
  if (dead && (!facts.whole || rule_may(revives))) out.push_back(FindingCode::revived);
  if (may_stand(part, facts.whole)) out.push_back(FindingCode::stands_still);
  return out;
}

bool RunFindings::may_stand(const Model& part, bool whole) {
  const Values values = part.nothing_known();
  const std::vector<Span> inputs = part.any_inputs();
  const View view{&inputs, &values, nullptr, nullptr, nullptr, &part.traits()};
  for (std::uint16_t s = 1; s < part.states().size(); ++s) {
    const StateFacts& state = part.states()[s];
    if (!state.speed || state.speed->kind == Term::Kind::constant || (whole && !part.entered(s))) continue;
    const Span speed = compute(*state.speed, view);
    if (speed.low <= 0 && speed.high >= 0 && !waiting_for(part, s).empty()) return true;
  }
  return false;
}

// The rules that wait for the play of a leaf.
std::vector<std::uint32_t> RunFindings::waiting_for(const Model& part, std::uint16_t leaf) {
  std::vector<std::uint32_t> out;
  const std::uint16_t region = part.states()[leaf].region;
  for (std::uint16_t up = leaf;; up = part.states()[up].parent) {
    for (const std::uint32_t index : part.states()[up].rules) {
      const Rule& rule = part.rules()[index];
      const bool waits = (rule.event == Event::end && part.states()[leaf].may_end) ||
                         (rule.event == Event::loop && part.states()[leaf].may_loop);
      if (rule.def != nullptr && waits) out.push_back(index);
    }
    if (up == 0 || part.states()[up].region != region) return out;
  }
}

void RunFindings::runs() {
  const std::vector<Apart> parts = parts_of(model_, model_.assumed());
  const std::size_t share = std::max<std::size_t>(1, parts.size() / 2);
  for (const Apart& apart : parts) {
    Model part = model_;
    part.leave_out(apart);
    runs_in(part, explored_.of(apart), share);
  }
  if (parts.empty()) runs_in(model_, explored_.of(model_.left_out()), 1);
}

void RunFindings::runs_in(const Model& part, const PartFacts& facts, std::size_t share) {
  const std::vector<FindingCode> may = may_be_shown(part, facts);
  if (may.empty() || look_for_runs(part, share)) return;
  for (const FindingCode code : may)
    if (std::ranges::count(undecided_, code) == 0) undecided_.push_back(code);
}

bool RunFindings::look_for_runs(const Model& part, std::size_t share) {
  SearchLimits limits;
  limits.nodes = limits_.moments / share;
  limits.moves = limits_.moves / share;
  Search search(part, limits);
  bool all = true;  // whatever is elsewhere, which might be kept from what it does by what is not written here
  const auto is_elsewhere = [&](const Cue& cue) { return part.leaves_out(cue.state); };
  const auto look = [&](Seen& seen) {
    if (search.breaks_assumed(seen)) return Verdict::ends;
    if (std::any_of(seen.told.begin(), seen.told.end(), [](const Cue& cue) { return cue.what == Told::fault; })) {
      runaway(seen, search);
      all = all && std::ranges::none_of(
                       seen.told, [&](const Cue& cue) { return cue.transition != kNoTransition && is_elsewhere(cue); });
      return Verdict::ends;  // what comes of it says nothing more
    }
    all = all &&
          std::ranges::none_of(seen.told, [&](const Cue& cue) { return cue.what == Told::done && is_elsewhere(cue); });
    lost_press(seen, search);
    revived(seen, search);
    stands(seen, search);
    return Verdict::goes_on;
  };
  (void)search.run(look);
  if (search.exhausted()) {
    search.look_closer();
    (void)search.run(look);
    return all && search.exhausted() && search.tells_all_values();
  }
  // What is not met yet may lie further than the shortest runs come.
  bool met = true;
  for (std::uint16_t s = 1; s < model_.states().size(); ++s)
    met =
        met && (!model_.entered(s) || !model_.states()[s].children.empty() || part.leaves_out(s) || search.has_met(s));
  if (met) return false;
  search.prefer_new_states();
  (void)search.run(look);
  return false;
}

void RunFindings::shown_by(ProvedFinding* finding, const Seen& seen, const Search& search) {
  if (finding == nullptr) return;
  Tape tape = search.tape_to(seen);
  if (!replays(model_, tape)) return void(out_.pop_back());
  tape.name = std::string(text_of(finding->finding.code));
  finding->tape = std::move(tape);
}

void RunFindings::runaway(const Seen& seen, const Search& search) {
  // The ring: what was taken since a rule was taken last.
  std::vector<std::uint32_t> taken;
  std::uint16_t first = 0;  // state that the last one entered
  for (const Cue& cue : seen.told) {
    if (cue.what != Told::enter || cue.transition == kNoTransition) continue;
    if (!taken.empty() && taken.back() == cue.transition && cue.state != first) continue;
    taken.push_back(cue.transition);
    first = cue.state;
  }
  if (taken.empty()) return;
  std::vector<std::uint32_t> ring = {taken.back()};
  for (std::size_t i = taken.size() - 1; i-- > 0 && taken[i] != taken.back();) ring.insert(ring.begin(), taken[i]);
  std::rotate(ring.begin(), std::min_element(ring.begin(), ring.end()), ring.end());
  // Those that share a rule are one mistake.
  const bool known = std::any_of(ring.begin(), ring.end(), [&](std::uint32_t each) {
    return shown_.count({FindingCode::runaway, each}) > 0;
  });
  for (const std::uint32_t each : ring) (void)once(FindingCode::runaway, each);
  if (known) return;
  std::string way;
  std::string remedy = ring.size() > 1 ? "Let the guards of the ring exclude each other."
                                       : "Let it wait, such as by `at: end` or `after:`.";
  bool always = true;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const Rule& rule = model_.rules()[ring[i]];
    const bool at_once = rule.event == Event::none && (!rule.when || rule.def->when.text == "true") &&
                         rule.def->during.empty() && !rule.def->during_stretch;
    if (at_once) remedy = "Let " + line_of(ring[i]) + " wait (`at: end`, `after:`), or guard it.";
    always = always && at_once;
    if (i >= kMostOfARing) continue;
    const TransitionInfo& info = model_.machine().transitions()[ring[i]];
    way += (way.empty() ? "" : ", ") + std::string(rule.owner == 0 ? "anywhere" : path(rule.owner)) + " -> " + info.to;
    if (info.place.line > 0) way += " (line " + std::to_string(info.place.line) + ")";
  }
  std::string values;
  for (std::uint16_t i = 0; i < model_.machine().inputs().size(); ++i) {
    bool read = false;
    for (const std::uint32_t each : ring)
      if (model_.rules()[each].when)
        each_term(*model_.rules()[each].when,
                  [&](const Term& term) { read = read || (term.kind == Term::Kind::input && term.index == i); });
    if (!read) continue;
    const FieldValue value = seen.instance.input_value(i);
    std::string text;
    if (const auto* truth = std::get_if<bool>(&value)) text = *truth ? "true" : "false";
    if (const auto* whole = std::get_if<std::int64_t>(&value)) text = std::to_string(*whole);
    if (const auto* words = std::get_if<std::string>(&value)) text = *words;
    if (const auto* number = std::get_if<double>(&value)) text = detail::shortest_text(static_cast<float>(*number));
    values += (values.empty() ? " with " : ", ") + model_.machine().inputs()[i].name.text + " " + text;
  }
  ProvedFinding* finding = tell(FindingCode::runaway, model_.rules()[ring.front()],
                                "it never comes to rest" + values + ": " + way + ", and so on", std::move(remedy));
  if (finding != nullptr) finding->finding.severe = always;
  shown_by(finding, seen, search);
}

void RunFindings::lost_press(const Seen& seen, const Search& search) {
  if (seen.press.pulses.size() > 1) return;     // one of two at a time undoes what the other did
  std::map<std::uint16_t, std::uint32_t> left;  // leaves, by the rule that took a pulse
  std::optional<std::uint32_t> cause;           // the rule that is taken next
  for (const Cue& cue : seen.told) {
    if (cue.transition == kNoTransition || cue.at != seen.instance.now()) continue;
    const Rule& rule = model_.rules()[cue.transition];
    const bool leaf = !model_.machine().states()[cue.state].has_children;
    if (cue.what == Told::leave && leaf && rule.event == Event::pulse && (*seen.before.active)[cue.state] != 0 &&
        left.count(cue.state) == 0)
      left[cue.state] = cue.transition;
    if (!cause && !left.empty() && rule.event != Event::pulse) cause = cue.transition;
    if (cue.what != Told::enter || left.count(cue.state) == 0 || left[cue.state] == cue.transition) continue;
    const Rule& taker = model_.rules()[left[cue.state]];
    // One that stays, and does something.
    const bool done = taker.def != nullptr && taker.def->restart && !taker.actions.empty() && taker.owner != 0 &&
                      taker.aim != Aim::back && model_.within(taker.target, taker.owner);
    if (taker.def == nullptr || done || !once(FindingCode::press_lost, cause.value_or(taker.index))) continue;
    shown_by(tell(FindingCode::press_lost, taker,
                  "it takes \"" + taker.def->pulse.text + "\", and at the same instant " + line_of(cue.transition) +
                      " leads back to \"" + path(cue.state) + "\": the press is lost",
                  "Let that rule wait (`after:`), or guard it against what is still true of the state before."),
             seen, search);
  }
}

void RunFindings::revived(const Seen& seen, const Search& search) {
  for (const Cue& cue : seen.told) {
    if (cue.what != Told::leave || cue.transition == kNoTransition || !model_.states()[cue.state].dead ||
        (*seen.before.active)[cue.state] == 0)
      continue;
    const Rule& rule = model_.rules()[cue.transition];
    const std::uint16_t region = model_.states()[cue.state].region;
    const std::uint16_t now = seen.instance.active(region);
    if (rule.def == nullptr || now == kNoIndex || model_.ending(now) || !once(FindingCode::revived, rule.index))
      continue;
    shown_by(tell(FindingCode::revived, rule,
                  "it leads out of \"" + path(cue.state) + "\", which is dead, to \"" + path(now) + "\"",
                  "Guard it, seal the dead state (`sealed: true`, `final: true`), or say that it is meant."),
             seen, search);
  }
}

void RunFindings::stands(const Seen& seen, const Search& search) {
  for (std::uint16_t r = 0; r < seen.instance.region_count(); ++r) {
    const std::uint16_t leaf = seen.instance.active(r);
    if (leaf == kNoIndex || !model_.states()[leaf].speed) continue;
    const Term& speed = *model_.states()[leaf].speed;
    if (compute(speed, seen.after) != Span{0, 0}) continue;
    if (speed.kind == Term::Kind::constant) continue;
    for (const std::uint32_t index : waiting_for(model_, leaf)) {
      const Rule& rule = model_.rules()[index];
      if (!once(FindingCode::stands_still, index)) continue;
      shown_by(
          tell(FindingCode::stands_still, rule,
               std::string(rule.event == Event::end ? "`at: end`" : "`at: loop`") + " waits for the play of \"" +
                   path(leaf) + "\", which stands while `speed: " + model_.definition_of(leaf)->speed.text + "` is 0",
               "Keep the speed above 0, or give the state another way out."),
          seen, search);
    }
  }
}

}  // namespace mobrin::proof
