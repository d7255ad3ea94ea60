#include "claim_runs.hpp"

#include <algorithm>

#include "can.hpp"
#include "hints.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

SearchLimits RunsAgainst::limits_of_claim() const {
  SearchLimits out;
  out.nodes = limits_.moments;
  out.moves = limits_.moves;
  out.memory_is_time = is_timed(claim_);
  for (const auto* list : {&claimed_.asked.before, &claimed_.asked.after})
    for (const Term& term : *list) out.reads.push_back(&term);
  if (is_timed(claim_)) out.patience = claim_.within + milliseconds(1);
  return out;
}

bool RunsAgainst::may_hold_in(std::uint16_t state) const {
  const auto& states = parts_.states();
  Flags active(states.size(), kPerhaps);
  for (std::uint16_t s = 1; s < states.size(); ++s)
    if (states[s].region == states[state].region) active[s] = 0;
  for (std::uint16_t up = state; up != 0; up = states[up].parent) active[up] = 1;
  const std::vector<Span> inputs = parts_.any_inputs();
  const Values variables = parts_.nothing_known();
  const Truths pulses(inputs.size(), Truth::maybe), cues(parts_.machine().cues().size(), Truth::maybe);
  const View view{&inputs, &variables, &active, &pulses, &cues, &parts_.traits()};
  return proof::holds(claimed_.first, view) != Truth::no;
}

bool RunsAgainst::refute_once_done(ClaimAnswer& out) {
  std::vector<bool> goals;
  for (std::uint16_t s = 0; s < parts_.states().size(); ++s)
    goals.push_back(parts_.states()[s].final && !parts_.leaves_out(s) && may_hold_in(s));
  if (std::find(goals.begin(), goals.end(), true) == goals.end()) return false;
  SearchLimits limits = limits_of_claim();
  limits.nodes /= 4, limits.moves /= 4;
  Search search(parts_, limits);
  search.prefer_new_states(goals);
  const auto look = [&](Seen& seen) { return watch(seen, search, {}); };
  auto found = search.run(look);
  tried_ += search.moves();
  if (found) return take(search, *found, look, out);
  // What is true as it begins is made false first.
  search.prefer_new_states();
  found = search.run([&](Seen& seen) {
    if (search.breaks_assumed(seen)) return Verdict::ends;
    const bool missed = proof::holds(claimed_.first, seen.after) == Truth::yes &&
                        proof::holds(claimed_.second, seen.after) == Truth::no;
    return missed ? Verdict::found : Verdict::goes_on;
  });
  tried_ += search.moves();
  if (!found) return false;
  search.prefer_new_states(goals);
  found = search.go_on(found, look);
  tried_ += search.moves();
  return found && take(search, *found, look, out);
}

// What likely has to do with it: where there is little to write, a run may be longer.
bool RunsAgainst::refute_narrowly(SearchLimits limits, const std::vector<bool>& no_hope, ClaimAnswer& out) {
  std::vector<Term> terms = {claimed_.first};
  if (!claim_.second.empty()) terms.push_back(claimed_.second);
  limits.writes = model_.inputs_behind(terms);
  const bool all = std::find(limits.writes.begin(), limits.writes.end(), false) == limits.writes.end();
  return !all && refute_within(limits, no_hope, false, out);
}

bool RunsAgainst::refute_soon(ClaimAnswer& out) {
  SearchLimits limits = limits_of_claim();
  limits.nodes /= 4, limits.moves /= 8;
  if (refute_narrowly(limits, {}, out)) return true;
  limits = limits_of_claim();
  limits.moves /= 4;
  return refute_by_guide(limits, out);
}

bool RunsAgainst::refute(ClaimAnswer& out) {
  SearchLimits limits = limits_of_claim();
  if (space_ != nullptr) limits.hints = hints_against(*space_, parts_, claim_);
  std::vector<bool> no_hope;
  if (claim_.kind == ClaimKind::can) {
    if (space_ == nullptr) return false;
    no_hope = hopeless(*space_);
  }
  SearchLimits narrow = limits;
  narrow.moves /= 4;
  if (refute_narrowly(narrow, no_hope, out)) return true;
  narrow = limits;
  narrow.moves /= 2;
  if (claim_.kind != ClaimKind::can && refute_by_guide(narrow, out)) return true;
  return refute_within(limits, no_hope, true, out);
}

bool RunsAgainst::refute_by_guide(SearchLimits limits, ClaimAnswer& out) {
  const Question question{claimed_.asked, claim_.kind, is_timed(claim_)};
  if (!guide_) guide_ = guide_against(parts_, question, limits_.steps / 4);
  if (guide_->places.empty()) return false;
  limits.guide = &*guide_;
  Search search(parts_, limits);
  search.follow_guide();
  const auto look = [&](Seen& seen) { return watch(seen, search, {}); };
  const auto found = search.run(look);
  tried_ += search.moves();
  return found && take(search, *found, look, out);
}

bool RunsAgainst::refute_within(const SearchLimits& limits, const std::vector<bool>& no_hope, bool closely,
                                ClaimAnswer& out) {
  Search search(parts_, limits);
  const auto look = [&](Seen& seen) { return watch(seen, search, no_hope); };
  auto found = search.run(look);
  tried_ += search.moves();
  const bool exhausted = search.exhausted();
  for (const std::vector<Term>& sought : sought_apart()) {
    if (found || exhausted) break;
    std::vector<bool> goals(model_.states().size(), false);
    Search::Numbers numbers;
    for (const Term& term : sought) {
      each_term(term, [&](const Term& each) {
        if (each.kind == Term::Kind::state) goals[each.index] = true;
      });
      add_numbers(term, numbers);
    }
    search.prefer_new_states(goals, numbers);
    found = search.run(look);
    tried_ += search.moves();
  }
  if (!found && closely) {
    search.look_closer();
    found = search.run(look);
    tried_ += search.moves();
  }
  return found && take(search, *found, look, out);
}

bool RunsAgainst::take(Search& search, std::uint32_t found, const Search::Watch& look, ClaimAnswer& out) {
  found = search.shorten(found, look);
  Tape tape = search.tape_to(found);
  if (!replays(model_, tape)) return false;
  out.answer = Answer::refuted;
  out.says = "at " + seconds_text(search.at(found)) + ": " + found_;
  tape.name = claim_.name.text;
  out.tape = std::move(tape);
  return true;
}

// `always: rust >= 0 and rust <= 9` is broken at one end or at the other: each is looked for by itself, but for those
// that cannot be broken.
std::vector<std::vector<Term>> RunsAgainst::sought_apart() const {
  constexpr std::size_t kMost = 3;
  std::vector<Term> parts = claims_in(claim_.kind, claimed_.first);
  std::erase_if(parts, [&](const Term& part) { return holds_by_ranges(model_, claim_.kind, part); });
  std::vector<std::vector<Term>> out;
  for (Term& part : parts) out.push_back({std::move(part)});
  if (out.empty() || out.size() > kMost) return {{claimed_.first, claimed_.second}};
  return out;
}

// The state that ended it: who reads this may want to leave it out of the claim.
std::string RunsAgainst::where_done(const Seen& seen) const {
  for (std::uint16_t state = 1; state < model_.states().size(); ++state)
    if (model_.states()[state].final && (*seen.after.active)[state] == 1)
      return " in \"" + model_.machine().states()[state].path + "\"";
  return "";
}

Verdict RunsAgainst::watch(Seen& seen, const Search& search, const std::vector<bool>& no_hope) {
  if (search.breaks_assumed(seen)) return Verdict::ends;
  // Nothing settled: no instant of its own. Rounds on which something hangs are one.
  const bool round = seen.settles && std::any_of(seen.config.leaves.begin(), seen.config.leaves.end(), [&](auto leaf) {
                       return leaf != kNoIndex && model_.machine().states()[leaf].uses_loops;
                     });
  const bool quiet = seen.told.empty() && seen.press.empty() && seen.parent != UINT32_MAX && !round;
  const bool one = proof::holds(claimed_.first, reads_before(claim_.kind) ? seen.before : seen.after) == Truth::yes;
  const bool two = !claim_.second.empty() && proof::holds(claimed_.second, seen.after) == Truth::yes;
  const std::string first = "\"" + claim_.first.text + "\"", second = "\"" + claim_.second.text + "\"";
  const auto tell = [&](std::string words) {
    found_ = std::move(words);
    return Verdict::found;
  };
  const std::int64_t now = seen.instance.now().count;
  switch (claim_.kind) {
    case ClaimKind::never:
      return one ? tell(first + " is true") : Verdict::goes_on;
    case ClaimKind::always:
      return !one ? tell(first + " is not true") : Verdict::goes_on;
    case ClaimKind::once:
      if ((one || seen.memory != 0) && !two) return tell(second + " is not true");
      seen.memory = one || seen.memory != 0 ? 1 : 0;
      return Verdict::goes_on;
    case ClaimKind::next:
      // What came due and tells nothing may be an instant, or not: a window that opens where a rule stands.
      if (quiet && seen.settles && !one) seen.memory = 0;
      if (quiet) return Verdict::goes_on;
      if (seen.memory != 0 && !one && !two) return tell("neither " + first + " nor " + second + " is true");
      seen.memory = one ? 1 : 0;
      return Verdict::goes_on;
    case ClaimKind::when:
    case ClaimKind::within:
      if (claim_.within.count == 0)
        return one && !two ? tell(first + " was true, " + second + " is not") : Verdict::goes_on;
      if (seen.memory != 0 && now - (seen.memory - 1) > claim_.within.count)
        return tell(first + " was true at " + seconds_text(Ticks(seen.memory - 1)) + ", " + second +
                    " was not within " + seconds_text(claim_.within));
      if (!seen.settles) return Verdict::goes_on;
      if (two)
        seen.memory = 0;
      else if (one && seen.memory == 0)
        seen.memory = now + 1;
      return Verdict::goes_on;
    case ClaimKind::can: {
      if (!one || two) return Verdict::goes_on;
      if (seen.instance.done() && is_never(model_, claimed_.second, *seen.after.active, *seen.after.variables))
        return tell("the machine is done" + where_done(seen) + ", and " + second + " is not true");
      if (space_ == nullptr) return Verdict::goes_on;
      const auto node = space_->configurations().find(parts_.abstracted(seen.config));
      return node && no_hope[*node] ? tell("no run leads from here to " + second) : Verdict::goes_on;
    }
  }
  return Verdict::goes_on;
}

}  // namespace mobrin::proof
