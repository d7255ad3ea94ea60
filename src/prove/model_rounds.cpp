// Rounds of the model: what may be taken in each.
#include <algorithm>
#include <cmath>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

std::uint16_t Model::active_child(std::uint16_t state) const {
  for (const std::uint16_t child : states_[state].children)
    if ((*active_)[child] != 0) return child;
  return kNoIndex;
}

// --- what may be taken ---

std::uint16_t Model::played_leaf(std::uint16_t owner) const {
  for (std::uint16_t at = owner;;) {
    const bool split = states_[at].regions.size() > (at == 0 ? 1U : 0U);
    if (split) return kNoIndex;
    const std::uint16_t child = active_child(at);
    if (child == kNoIndex) return at;
    at = child;
  }
}

// Whether a final state was told to be done at an instant before.
bool Model::is_over(const Moment& moment) const {
  for (std::size_t r = 0; r < moment.config.leaves.size(); ++r) {
    const std::uint16_t leaf = moment.config.leaves[r], top = moment.fresh[r];
    if (leaf != kNoIndex && states_[leaf].ends_all && !(top != kNoIndex && within(leaf, top))) return true;
  }
  return false;
}

bool Model::fresh(std::uint16_t state) const {
  const std::uint16_t top = now_->fresh[states_[state].region];
  return state != 0 && top != kNoIndex && within(state, top);
}

// Whether a region is this one, or one inside of it.
bool Model::lies_in(std::uint16_t region, std::uint16_t other) const {
  while (region != other) {
    const std::uint16_t owner = machine_.regions()[region].owner;
    if (owner == 0) return false;
    region = states_[owner].region;
  }
  return true;
}

// Whether the way to `target` leaves a state that is dead.
bool Model::leaves_dead(std::uint16_t target) const {
  return std::any_of(dead_.begin(), dead_.end(), [&](std::uint16_t state) {
    return (*active_)[state] != 0 && lies_in(states_[state].region, states_[first_entered(target)].region);
  });
}

std::uint16_t Model::first_entered(std::uint16_t target) const {
  std::uint16_t first = target;
  for (std::uint16_t up = states_[target].parent; (*active_)[up] == 0; up = states_[up].parent) first = up;
  return first;
}

bool Model::sealed_off(std::uint16_t owner, std::uint16_t target) const {
  const std::uint16_t first = first_entered(target);
  const std::uint16_t around = states_[first].parent;
  const bool by_region = states_[around].regions.size() > (around == 0 ? 1U : 0U);
  for (const std::uint16_t node : sealing_) {
    if ((*active_)[node] == 0 || within(owner, node)) continue;
    bool below = node != around && within(node, around);
    if (below && by_region) {
      below = false;
      for (std::uint16_t up = node; up != around; up = states_[up].parent)
        if (states_[up].region == states_[first].region) below = true;
    }
    if (below || (within(around, node) && within(node, owner))) return true;
  }
  return false;
}

// What is final is not left for anything outside of it.
bool Model::may_be_left_for(std::uint16_t state, std::uint16_t other) const {
  for (; state != 0; state = states_[state].parent)
    if (states_[state].final && !within(other, state)) return false;
  return true;
}

template <class Visit>
void Model::each_target(const Rule& rule, const Visit& visit) const {
  if (rule.aim == Aim::state) return visit(rule.target);
  if (rule.aim == Aim::last && (*active_)[rule.target] != 0)
    if (const std::uint16_t child = active_child(rule.target); child != kNoIndex) return visit(child);
  if (const Indices& held = now_->config.memories; !held.empty()) {
    const std::uint16_t kept = held[memory_of_[rule.index]];
    return visit(kept != kNoIndex ? kept : initial_for(rule));
  }
  if (rule.aim == Aim::last) {
    for (const std::uint16_t child : states_[rule.target].children) visit(child);
    return;
  }
  // Back: any leaf of its region that ever was active, or the initial one.
  const std::uint16_t region = states_[rule.owner].region, initial = initial_for(rule);
  bool met = false;
  for (std::uint16_t s = 1; s < states_.size(); ++s)
    if (states_[s].region == region && (states_[s].children.empty() || !states_[s].regions.empty()) &&
        states_[s].restful && left_[s] && !within(s, rule.owner) && may_be_left_for(s, rule.owner)) {
      met = met || s == initial;
      visit(s);
    }
  if (!met) visit(initial);
}

// Whether its time is not over, as it would not have come to rest then.
bool Model::not_yet(const Rule& rule) const {
  if (now_->timed || unruly_) return false;
  const Indices& early = now_->early;
  if (std::find(early.begin(), early.end(), static_cast<std::uint16_t>(rule.index)) != early.end()) return true;
  if (rule.event == Event::after) return leads_on_[rule.index];
  const std::uint16_t leaf = played_leaf(rule.owner);
  return rule.event == Event::end && leaf != kNoIndex && states_[leaf].leaves_at_end;
}

Truth Model::rule_holds(const Rule& rule, std::uint16_t target, bool over) {
  const std::uint16_t leaf = played_leaf(rule.owner);
  const Truth supposed = supposed_.empty() ? Truth::maybe : supposed_[rule.index];
  if (supposed == Truth::no) return Truth::no;
  Truth out = Truth::yes;
  switch (rule.event) {
    case Event::none:
      break;
    case Event::pulse:
      out = now_->pulses[rule.pulse];
      break;
    case Event::cue:
      out = rule.cue == kNoIndex ? Truth::no : now_->cues[rule.cue];
      break;
    case Event::end:
      if (leaf == kNoIndex || !states_[leaf].may_end || (states_[leaf].ends_before && !unruly_)) return Truth::no;
      out = fresh(leaf) && begun_at(leaf) != Begun::anywhere ? Truth::no : Truth::maybe;
      if (!fresh(leaf) && not_yet(rule)) return Truth::no;
      if (over) out = Truth::yes;
      break;
    case Event::loop:
      if (leaf == kNoIndex || !states_[leaf].may_loop || fresh(leaf)) return Truth::no;
      out = now_->looped[states_[leaf].region];
      break;
    case Event::after:
      if (fresh(rule.owner) || not_yet(rule) || too_early(rule)) return Truth::no;
      out = over ? Truth::yes : Truth::maybe;
      break;
  }
  if (out == Truth::no) return out;
  if (rule.in_a_window()) {
    if (leaf == kNoIndex || !states_[leaf].plays) return Truth::no;
    const StateFacts& facts = states_[leaf];
    const bool begins = fresh(leaf) && begun_at(leaf) == Begun::at_begin;
    const std::string& window = rule.def->during.text;
    if (!window.empty() && !contains(begins ? facts.first_windows : facts.windows, window)) return Truth::no;
    if (begins && rule.def->during_stretch && !begins_in(*rule.def->during_stretch, leaf)) return Truth::no;
    const bool ended = over && rule.event != Event::after && open_at_end(rule, facts);
    if (supposed != Truth::yes && !ended) out = Truth::maybe;
  }
  if (rule.when) {
    const View view{inputs_, &now_->config.variables, active_, nullptr, nullptr, &traits_};
    Truth guard = proof::holds(*rule.when, view);
    if (guard == Truth::maybe && rule.inputs_only && !now_->held.empty() && rule.index < kNoIndex)
      guard = guard_facts_.holds(*this, now_->held, static_cast<std::uint16_t>(rule.index));
    if (guard == Truth::maybe && !out_->need)
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind == Term::Kind::input && (*split_)[term.index] && !out_->need) {
          out_->need = term.index;
          out_->need_of = rule.index;
          out_->need_in = now_->config;
        }
      });
    out = std::min(out, guard);
  }
  if (out != Truth::no && sealed_off(rule.owner, target)) return Truth::no;
  return out;
}

void Model::note_hidden(std::uint16_t state, std::uint32_t decider, std::size_t from, std::size_t to) {
  if (!noted_) return;
  const auto& rules = states_[state].rules;
  for (std::size_t i = from; i < std::min(to, rules.size()); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    each_target(rule, [&](std::uint16_t target) {
      if (rule_holds(rule, target) != Truth::no) seen_notes_.push_back({rule.index, Noted::hidden, decider});
    });
  }
}

// Of what is active inside of a state: all, or one region of it.
void Model::note_hidden_below(std::uint16_t state, std::uint32_t decider, std::uint16_t region) {
  if (!noted_) return;
  for (const std::uint16_t child : states_[state].children)
    if ((*active_)[child] != 0 && (region == kNoIndex || states_[child].region == region)) {
      note_hidden(child, decider, 0);
      note_hidden_below(child, decider);
    }
}

// From a round in which something may have been taken already, the next region to be looked at; all that may come of
// it goes to `out_`.
void Model::go_on(const Round& round, Indices regions) {
  while (!regions.empty() && round.moment.config.leaves[regions.back()] == kNoIndex) regions.pop_back();
  if (regions.empty()) return end_round(round);
  const std::uint16_t region = regions.back();
  regions.pop_back();
  std::uint16_t outermost = round.moment.config.leaves[region];
  while (states_[outermost].parent != machine_.regions()[region].owner) outermost = states_[outermost].parent;
  look_at(round, outermost, regions, 0, {});
}

// What lies inside of a state of which no rule was taken.
void Model::look_below(const Round& round, std::uint16_t state, Indices regions) {
  const std::uint16_t leaf = state == 0 ? state : round.moment.config.leaves[states_[state].region];
  if (leaf == state) {
    regions.append(states_[state].regions.rbegin(), states_[state].regions.rend());
    return go_on(round, std::move(regions));
  }
  std::uint16_t child = leaf;
  while (states_[child].parent != state) child = states_[child].parent;
  look_at(round, child, regions, 0, {});
}

namespace {

// Whether there is what a rule waits for: all rules of a round see it, or none.
template <class AnyMoment>
auto event_of(const Rule& rule, AnyMoment& moment) -> decltype(&moment.pulses[0]) {
  if (rule.event == Event::pulse) return &moment.pulses[rule.pulse];
  return rule.event == Event::cue && rule.cue != kNoIndex ? &moment.cues[rule.cue] : nullptr;
}

}  // namespace

// What becomes of a rule where it is its turn, in the round at `now_`.
Model::Turn Model::turn_of(const Rule& rule, bool over) {
  const bool may_stand = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
  Turn out;
  bool all_sure = true, all_decide = true;
  each_target(rule, [&](std::uint16_t target) {
    const Truth holds = rule_holds(rule, target, over);
    if (holds != Truth::yes) all_sure = false;
    if (holds == Truth::no || out_->need) return;
    out.may_hold = true;
    const bool taken = (*active_)[target] == 0 || rule.def->restart;
    seen_notes_.push_back({rule.index, taken ? Noted::taken : Noted::its_turn, 0});
    if (taken && leaves_dead(target)) seen_notes_.push_back({rule.index, Noted::leaves_dead, 0});
    if (taken) out.targets.push_back(target);
    out.stands = out.stands || (!taken && may_stand);
    out.all_taken = out.all_taken && taken;
    all_decide = all_decide && (taken || may_stand);
  });
  out.surely = all_sure && all_decide;
  return out;
}

// Whether there is a window that it waits for, which is open where its play is over.
bool Model::closes_in(const Rule& rule) const {
  if (!rule.in_a_window() || rule.event == Event::loop) return false;
  const std::uint16_t leaf = played_leaf(rule.owner);
  return leaf != kNoIndex && states_[leaf].may_end && open_at_end(rule, states_[leaf]);
}

// A rule that surely is taken or stands once its time is over, and is not: then its owner is younger, and no time is
// over that is as long.
void Model::note_young(const Rule& rule, const Turn& turn, Young& young) {
  if (turn.surely) return;
  if (rule.event != Event::end && rule.event != Event::after) {
    // Or the window is closed, that is open where its play is over.
    if (!young.plays_by && closes_in(rule) && turn.may_hold && turn_of(rule, true).surely) young.plays_by = rule.index;
    return;
  }
  const std::uint16_t leaf = rule.event == Event::end ? played_leaf(rule.owner) : kNoIndex;
  const bool entered = fresh(leaf != kNoIndex ? leaf : rule.owner);
  const bool waits = !entered && (not_yet(rule) || (rule.event == Event::after && too_early(rule)));
  if (!waits && !(turn.may_hold && turn_of(rule, true).surely)) return;
  if (rule.event == Event::end && !young.plays_by) young.plays_by = rule.index;
  const std::optional<Ticks> time = time_of(rule);
  if (!time || entered) return;
  const Ticks than = rule.event == Event::end ? *time + kSurely : *time;
  if (!young.than || than < *young.than) young.than = than, young.by = rule.index;
}

std::optional<std::uint32_t> Model::outlasted(const Rule& rule, const Young& young) const {
  if (rule.event == Event::end && young.plays_by) return young.plays_by;
  const std::optional<Ticks> time = young.than ? time_of(rule) : std::nullopt;
  if (!time || (rule.event == Event::end ? *time - kSurely : *time) < *young.than) return std::nullopt;
  return young.by;
}

// A state's rules in their order, from one of them on. Stops where more must be known of an input: `need`.
void Model::look_at(const Round& round, std::uint16_t state, const Indices& regions, std::size_t from, Young young) {
  const auto& rules = states_[state].rules;
  bool below = true, looked_below = false, elsewhere = true;
  for (std::size_t i = from; i < rules.size(); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    if (elsewhere) {  // at what came of it, meanwhile
      now_ = &round.moment;
      active_ = &round.active;
      elsewhere = false;
    }
    if (const auto by = outlasted(rule, young)) {
      note_hidden(state, *by, i, i + 1);
      continue;
    }
    const Truth* const event = event_of(rule, round.moment);
    const Turn turn = turn_of(rule);
    if (out_->need) return;  // it is looked at again with more known
    if (turn.may_hold && event != nullptr && *event == Truth::maybe) {
      Round there = round;
      *event_of(rule, there.moment) = Truth::yes;
      now_ = &there.moment;
      if (turn_of(rule).surely || (closes_in(rule) && turn_of(rule, true).surely)) {
        Round gone = round;
        *event_of(rule, gone.moment) = Truth::no;
        look_at(gone, state, regions, i + 1, young);
        if (!out_->need && !out_->too_many) look_at(there, state, regions, i, young);
        return;
      }
      // It may be there and nothing come of it: whoever is looked at next knows no more of it than before.
      for (const std::uint16_t target : turn.targets) take(there, rule, target, regions, false);
      if (out_->need || out_->too_many) return;
      elsewhere = true;
      continue;
    }
    if (i + 1 < rules.size()) note_young(rule, turn, young);
    if (turn.stands && !turn.surely && !looked_below) {  // where it stands, none of the rest is taken
      look_below(round, state, regions);
      looked_below = elsewhere = true;
      if (out_->need || out_->too_many) return;
    }
    if (turn.surely) {
      note_hidden(state, rule.index, i + 1);
      if (turn.all_taken) note_hidden_below(state, rule.index);
    }
    for (const std::uint16_t target : turn.targets) take(round, rule, target, regions, turn.surely);
    elsewhere = elsewhere || !turn.targets.empty();
    if (out_->need || out_->too_many) return;
    if (!turn.surely) continue;
    below = !turn.all_taken;  // it stands, so the rest of the list is passed over
    break;
  }
  if (below && !looked_below) look_below(round, state, regions);
}

// The regions that are looked at no more after one inside of which a rule changed another: those beside it, and those
// beside the ones around it up to the one that changed.
Indices Model::passed_over(Indices& regions, std::uint16_t from, std::uint16_t changed) const {
  const auto around = [&](std::uint16_t region) {
    const std::uint16_t owner = machine_.regions()[region].owner;
    return owner == 0 ? kNoIndex : states_[owner].region;
  };
  Indices out;
  for (std::uint16_t up = changed; up != kNoIndex; up = around(up))
    if (up == from) return out;
  for (std::uint16_t up = around(from); up != kNoIndex; up = around(up)) {
    regions.erase_if([&](std::uint16_t each) {
      const bool passed = around(each) == up;
      if (passed) out.push_back(each);
      return passed;
    });
    if (up == changed) break;
  }
  return out;
}

void Model::take(const Round& round, const Rule& rule, std::uint16_t target, Indices regions, bool surely) {
  now_ = &round.moment;
  active_ = &round.active;
  if (rule.owner != 0)
    for (const std::uint16_t region :
         passed_over(regions, states_[rule.owner].region, states_[first_entered(target)].region))
      if (surely) note_hidden_below(machine_.regions()[region].owner, rule.index, region);
  std::vector<Moment> after = each_choice([&] {
    fired_ = round.fired;
    return taken(rule, target);
  });
  Round next{{}, made_active_, fired_, round.pulses, true};
  if (rule.event == Event::pulse) next.pulses.push_back(rule.pulse);
  for (Moment& each : after) {
    next.moment = std::move(each);
    go_on(next, regions);
    if (out_->need || out_->too_many) return;
  }
}

void Model::end_round(const Round& round) {
  constexpr std::size_t kMostSteps = 2'000;
  if (!round.takes) {
    out_->rests = true;
    return;
  }
  if (out_->steps.size() >= kMostSteps) {
    out_->too_many = true;
    return;
  }
  Step& step = out_->steps.emplace_back();
  step.after = round.moment;
  step.after.cues = round.fired;
  step.after.looped.assign(round.moment.looped.size(), Truth::no);
  for (const std::uint16_t pulse : round.pulses) step.after.pulses[step.pulse = pulse] = Truth::no;
}

Model::Looked Model::look(const Moment& moment, const std::vector<Span>& inputs, const std::vector<bool>& split,
                          bool noted) {
  Looked out;
  noted_ = noted;
  inputs_ = &inputs;
  split_ = &split;
  out_ = &out;
  seen_notes_.clear();
  seen_entered_.clear();
  if (is_over(moment))
    out.rests = true;
  else
    look_at({moment, active(moment.config), Truths(machine_.cues().size(), Truth::no)}, 0, {}, 0, {});
  // Where more can be known it is looked at again.
  if (!noted || out.need) return out;
  for (const Note& note : seen_notes_) {
    Notes& notes = notes_[note.rule];
    notes.possible = true;
    if (note.what == Noted::hidden)
      notes.deciders[note.decider] = true;
    else
      notes.its_turn = true;
    if (note.what == Noted::taken) notes.taken = true;
    if (note.what == Noted::leaves_dead) notes.leaves_dead = true;
  }
  for (const std::uint16_t state : seen_entered_) entered_[state] = true;
  if (out.rests || out.too_many)
    for (std::uint16_t up : moment.config.leaves)
      for (; up != kNoIndex && !rested_[up]; up = up == 0 ? kNoIndex : states_[up].parent) rested_[up] = true;
  return out;
}

Truths Model::pending(const Config& config, Truths alive, const std::vector<Span>& inputs,
                      const std::vector<bool>& split, Looked& looked) {
  if (std::find(alive.begin(), alive.end(), Truth::maybe) == alive.end()) return alive;
  const Truths no_loops(machine_.regions().size(), Truth::no);
  std::vector<bool> taken(alive.size(), false);  // by a rule that has its turn here
  for (std::uint16_t up : config.leaves)
    for (; up != kNoIndex; up = up == 0 ? kNoIndex : states_[up].parent)
      for (const std::uint32_t rule : states_[up].rules)
        if (rules_[rule].def != nullptr && rules_[rule].event == Event::pulse) taken[rules_[rule].pulse] = true;
  for (std::size_t i = 0; i < alive.size(); ++i) {
    if (alive[i] != Truth::maybe || !taken[i]) continue;
    Truths one(alive.size(), Truth::maybe);
    one[i] = Truth::yes;
    looked = look(instant(config, one, no_loops, inputs, false), inputs, split, false);
    if (looked.need) return alive;
    if (!looked.rests && !looked.too_many) alive[i] = Truth::no;
  }
  return alive;
}

}  // namespace mobrin::proof
