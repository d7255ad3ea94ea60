// Rounds of the model: what may be taken, and what becomes of it.
#include <algorithm>
#include <cmath>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

std::uint16_t Model::active_child(std::uint16_t state) const {
  for (const std::uint16_t child : states_[state].children)
    if (active_[child] != 0) return child;
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

bool Model::fresh(std::uint16_t state) const {
  const std::uint16_t top = now_->fresh[states_[state].region];
  return state != 0 && top != kNoIndex && within(state, top);
}

std::uint16_t Model::first_entered(std::uint16_t target) const {
  std::uint16_t first = target;
  for (std::uint16_t up = states_[target].parent; active_[up] == 0; up = states_[up].parent) first = up;
  return first;
}

bool Model::sealed_off(std::uint16_t owner, std::uint16_t target) const {
  const std::uint16_t first = first_entered(target);
  const std::uint16_t around = states_[first].parent;
  const bool by_region = states_[around].regions.size() > (around == 0 ? 1U : 0U);
  for (const std::uint16_t node : sealing_) {
    if (active_[node] == 0 || within(owner, node)) continue;
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

template <class Visit>
void Model::each_target(const Rule& rule, const Visit& visit) const {
  if (rule.aim == Aim::state) return visit(rule.target);
  if (rule.aim == Aim::last) {
    if (active_[rule.target] != 0)
      if (const std::uint16_t child = active_child(rule.target); child != kNoIndex) return visit(child);
    for (const std::uint16_t child : states_[rule.target].children) visit(child);
    return;
  }
  // Back: any leaf of its region that ever was active, or the initial one.
  const std::uint16_t region = rule.owner == 0 ? 0 : states_[rule.owner].region;
  std::uint16_t initial = machine_.regions()[region].initial;
  while (active_[initial] != 0 && states_[initial].initial != kNoIndex) initial = states_[initial].initial;
  bool met = false;
  for (std::uint16_t s = 1; s < states_.size(); ++s)
    if (states_[s].region == region && (states_[s].children.empty() || !states_[s].regions.empty()) &&
        states_[s].restful && left_[s] && !within(s, rule.owner)) {
      met = met || s == initial;
      visit(s);
    }
  if (!met) visit(initial);
}

Truth Model::rule_holds(const Rule& rule, std::uint16_t target) {
  const std::uint16_t leaf = played_leaf(rule.owner);
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
      if (leaf == kNoIndex || !states_[leaf].may_end) return Truth::no;
      out = fresh(leaf) && now_->odd[states_[leaf].region] == 0 ? Truth::no : Truth::maybe;
      // At its end it would not have come to rest.
      if (!fresh(leaf) && !now_->timed && !unruly_ && states_[leaf].leaves_at_end) return Truth::no;
      break;
    case Event::loop:
      if (leaf == kNoIndex || !states_[leaf].may_loop || fresh(leaf)) return Truth::no;
      out = now_->looped[states_[leaf].region];
      break;
    case Event::after:
      out = fresh(rule.owner) || (leads_on_[rule.index] && !now_->timed && !unruly_) ? Truth::no : Truth::maybe;
      break;
  }
  if (out == Truth::no) return out;
  if (!rule.def->during.empty() || rule.def->during_frames) {
    if (leaf == kNoIndex || !states_[leaf].plays) return Truth::no;
    if (!rule.def->during.empty() && !contains(states_[leaf].windows, rule.def->during.text)) return Truth::no;
    out = Truth::maybe;
  }
  if (rule.when) {
    const View view{inputs_, &now_->config.variables, &active_, nullptr, nullptr, &traits_};
    const Truth guard = proof::holds(*rule.when, view);
    if (guard == Truth::maybe && !out_->need)
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind == Term::Kind::input && (*split_)[term.index] && !out_->need) {
          out_->need = term.index;
          out_->need_of = rule.index;
        }
      });
    out = std::min(out, guard);
  }
  if (out != Truth::no && sealed_off(rule.owner, target)) return Truth::no;
  return out;
}

void Model::note_hidden(std::uint16_t state, const std::vector<std::uint32_t>& decided, std::size_t from) {
  if (!noted_) return;
  const auto& rules = states_[state].rules;
  for (std::size_t i = from; i < rules.size(); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    each_target(rule, [&](std::uint16_t target) {
      if (rule_holds(rule, target) != Truth::no)
        for (const std::uint32_t each : decided) seen_notes_.push_back({rule.index, Noted::hidden, each});
    });
  }
}

// Stops where more must be known of an input: `need`.
void Model::look_at(std::uint16_t state, std::vector<std::uint32_t> decided) {
  const auto& rules = states_[state].rules;
  for (std::size_t i = 0; i < rules.size(); ++i) {
    const Rule& rule = rules_[rules[i]];
    if (rule.def == nullptr) continue;
    if (!decided.empty()) {
      note_hidden(state, decided, i);
      break;
    }
    const bool may_stand = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
    bool all_taken = true, all_decide = true, all_sure = true;
    each_target(rule, [&](std::uint16_t target) {
      const Truth holds = rule_holds(rule, target);
      if (holds != Truth::yes) all_sure = false;
      if (holds == Truth::no || out_->need) return;
      const bool taken = active_[target] == 0 || rule.def->restart;
      seen_notes_.push_back({rule.index, taken ? Noted::taken : Noted::its_turn, 0});
      if (taken) {
        out_->steps.push_back({rule.index, take(rule, target)});
      } else {
        all_taken = false;
        if (!may_stand) all_decide = false;
      }
    });
    if (out_->need) return;  // it is looked at again with more known
    if (!all_sure || !all_decide) continue;
    note_hidden(state, {rule.index}, i + 1);
    if (!all_taken) break;  // it stands, so the rest of the list is passed over
    out_->rests = false;
    // Another region may change what this guard read before those below are looked at.
    if (!states_[state].splits_below || rule.inputs_only) decided.push_back(rule.index);
    break;
  }
  const bool split = states_[state].regions.size() > (state == 0 ? 1U : 0U);
  if (!split) {
    if (const std::uint16_t child = active_child(state); child != kNoIndex) look_at(child, std::move(decided));
    return;
  }
  for (const std::uint16_t child : states_[state].children)
    if (active_[child] != 0 && !out_->need) look_at(child, decided);
}

Model::Looked Model::look(const Moment& moment, const std::vector<Span>& inputs, const std::vector<bool>& split,
                          bool noted) {
  Looked out;
  noted_ = noted;
  now_ = &moment;
  inputs_ = &inputs;
  split_ = &split;
  active_ = active(moment.config);
  out_ = &out;
  seen_notes_.clear();
  look_at(0, {});
  // Where more can be known it is looked at again.
  for (std::size_t i = 0; noted && !out.need && i < seen_notes_.size(); ++i) {
    Notes& notes = notes_[seen_notes_[i].rule];
    notes.possible = true;
    if (seen_notes_[i].what == Noted::hidden)
      notes.deciders[seen_notes_[i].decider] = true;
    else
      notes.its_turn = true;
    if (seen_notes_[i].what == Noted::taken) notes.taken = true;
  }
  return out;
}

std::vector<std::vector<Truth>> Model::loops_of(const Config& config) const {
  std::vector<std::uint16_t> looping;
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (config.leaves[r] != kNoIndex && states_[config.leaves[r]].may_loop &&
        machine_.states()[config.leaves[r]].uses_loops)
      looping.push_back(r);
  std::vector<std::vector<Truth>> out;
  for (std::size_t mask = 0; mask < std::size_t{1} << looping.size(); ++mask) {
    std::vector<Truth>& each = out.emplace_back(config.leaves.size(), Truth::no);
    for (std::size_t i = 0; i < looping.size(); ++i)
      if ((mask >> i & 1) != 0) each[looping[i]] = Truth::yes;
  }
  return out;
}

std::vector<Truth> Model::pulses_in_time() const {
  const auto inputs = machine_.inputs();
  std::vector<Truth> out(inputs.size(), Truth::no);
  for (std::size_t i = 0; i < inputs.size(); ++i)
    if (const auto* pulse = std::get_if<PulseInput>(&inputs[i].kind); pulse != nullptr && pulse->buffer.count > 0)
      out[i] = Truth::maybe;
  return out;
}

// --- taking ---

void Model::act(const std::vector<Action>& actions) {
  for (const Action& action : actions) {
    if (action.cue != kNoIndex) fired_[action.cue] = made_.told[action.cue] = Truth::yes;
    if (action.variable == kNoIndex) continue;
    const Variable& variable = variables_[action.variable];
    Span value = variable.range;
    bool states = false;  // what is active in the middle of a change is not told apart
    if (action.value) {
      each_term(*action.value, [&](const Term& term) { states = states || term.kind == Term::Kind::state; });
      if (!states)
        value =
            compute(*action.value, View{inputs_, &made_.config.variables, &made_active_, nullptr, nullptr, &traits_});
    }
    const auto stored = [&](double each) {
      if (variable.kind == Variable::Kind::number) each = static_cast<double>(static_cast<float>(each));
      if (variable.kind == Variable::Kind::whole) each = std::clamp(each, variable.range.low, variable.range.high);
      return each == 0 ? 0 : each;  // no negative zero
    };
    value = {stored(value.low), stored(value.high)};
    if (std::isnan(value.low) || std::isnan(value.high)) value = variable.range;
    made_.config.variables[action.variable] = snapped(action.variable, value);
  }
}

void Model::leave(std::uint16_t state) {
  for (const std::uint16_t child : states_[state].children)
    if (made_active_[child] != 0) leave(child);
  act(states_[state].exit);
  if (!left_[state]) left_[state] = grown_ = true;
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  made_active_[state] = 0;
  for (const std::uint16_t region : states_[state].regions) {
    made_.config.leaves[region] = kNoIndex;
    made_.fresh[region] = kNoIndex;
  }
}

void Model::mark_fresh(std::uint16_t state, bool odd) {
  const std::uint16_t region = states_[state].region;
  const std::uint16_t before = made_.fresh[region];
  if (before == kNoIndex || !within(state, before) || made_active_[before] == 0) made_.fresh[region] = state;
  made_.odd[region] = odd ? 1 : 0;
}

void Model::enter(std::uint16_t state, const std::vector<std::uint16_t>& way, std::size_t at) {
  if (state != 0) {
    mark_fresh(state, odd_start_ || !states_[state].steady);
    made_.config.leaves[states_[state].region] = state;
  }
  made_active_[state] = 1;
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  act(states_[state].enter);
  for (const std::uint16_t cue : all_entry_cues_ ? states_[state].cues : states_[state].entry_cues)
    if (made_.told[cue] == Truth::no || fired_[cue] == Truth::no) {
      fired_[cue] = std::max(fired_[cue], Truth::maybe);
      made_.told[cue] = std::max(made_.told[cue], Truth::maybe);
    }
  const std::uint16_t next = at < way.size() ? way[at] : kNoIndex;
  if (!states_[state].regions.empty()) {
    for (const std::uint16_t region : states_[state].regions) {
      made_.odd[region] = 0;
      made_.fresh[region] = kNoIndex;
      if (next != kNoIndex && states_[next].region == region)
        enter(next, way, at + 1);
      else
        enter(machine_.regions()[region].initial, {}, 0);
    }
  } else if (next != kNoIndex) {
    enter(next, way, at + 1);
  } else if (states_[state].initial != kNoIndex) {
    enter(states_[state].initial, {}, 0);
  }
}

Moment Model::take(const Rule& rule, std::uint16_t target) {
  made_ = *now_;
  made_active_ = active_;
  fired_.assign(machine_.cues().size(), Truth::no);
  odd_start_ = rule.def->start.kind != StartKind::begin;
  all_entry_cues_ = rule.def->start.kind == StartKind::frame;
  const std::uint16_t first = first_entered(target);
  const std::uint16_t around = states_[first].parent;
  const bool split = states_[around].regions.size() > (around == 0 ? 1U : 0U);
  for (const std::uint16_t child : states_[around].children)
    if (made_active_[child] != 0 && (!split || states_[child].region == states_[first].region)) {
      leave(child);
      break;
    }
  act(rule.actions);
  std::vector<std::uint16_t> way;
  for (std::uint16_t at = target; at != first; at = states_[at].parent) way.insert(way.begin(), at);
  enter(first, way, 0);
  if (rule.event == Event::pulse) {
    // Every other region may take it in the same round.
    if (one_region_)
      made_.pulses[rule.pulse] = Truth::no;
    else if (made_.pulses[rule.pulse] == Truth::yes)
      made_.pulses[rule.pulse] = Truth::maybe;
  }
  for (std::size_t c = 0; c < fired_.size(); ++c)
    made_.cues[c] =
        one_region_ ? fired_[c] : std::max(std::min(made_.cues[c], Truth::maybe), std::min(fired_[c], Truth::maybe));
  for (Truth& looped : made_.looped) looped = one_region_ ? Truth::no : std::min(looped, Truth::maybe);
  return std::move(made_);
}

Moment Model::begin(const std::vector<Span>& inputs) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config.leaves.assign(machine_.regions().size(), kNoIndex);
  made_.config.variables = at_start();
  made_.pulses.assign(machine_.inputs().size(), Truth::maybe);
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.looped.assign(machine_.regions().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.odd.assign(machine_.regions().size(), 0);
  made_active_.assign(states_.size(), 0);
  fired_.assign(machine_.cues().size(), Truth::no);
  odd_start_ = all_entry_cues_ = false;
  enter(0, {}, 0);
  made_.cues = fired_;
  return std::move(made_);
}

Moment Model::instant(const Config& config, const std::vector<Truth>& pulses, const std::vector<Truth>& looped,
                      const std::vector<Span>& inputs, bool timed) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config = config;
  made_.timed = timed;
  made_.pulses = pulses;
  made_.looped = looped;
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.odd.assign(machine_.regions().size(), 0);
  made_active_ = active(config);
  fired_.assign(machine_.cues().size(), Truth::no);
  for (std::uint16_t s = 0; s < states_.size(); ++s) {
    const bool active = made_active_[s] != 0;
    if (!active && !(timed && fades_tell_)) continue;
    for (const std::uint16_t cue : timed ? states_[s].cues : states_[s].turn_cues)
      fired_[cue] = made_.told[cue] = Truth::maybe;
  }
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (looped[r] == Truth::yes)
      for (std::uint16_t up = config.leaves[r]; up != kNoIndex; up = states_[up].parent) {
        act(states_[up].each_loop);
        if (up == 0 || states_[up].region != r) break;
      }
  made_.cues = fired_;
  return std::move(made_);
}

}  // namespace mobrin::proof
