// Changes of the model: what is left and entered, told and assigned, as a rule is taken or an instant begins.
#include <algorithm>
#include <cmath>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

std::vector<Truths> Model::loops_of(const Config& config) const {
  std::vector<std::uint16_t> looping;
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (config.leaves[r] != kNoIndex && states_[config.leaves[r]].may_loop &&
        machine_.states()[config.leaves[r]].uses_loops)
      looping.push_back(r);
  std::vector<Truths> out;
  for (std::size_t mask = 0; mask < std::size_t{1} << looping.size(); ++mask) {
    Truths& each = out.emplace_back(config.leaves.size(), Truth::no);
    for (std::size_t i = 0; i < looping.size(); ++i)
      if ((mask >> i & 1) != 0) each[looping[i]] = Truth::yes;
  }
  return out;
}

Truths Model::pulses_in_time() const {
  const auto inputs = machine_.inputs();
  Truths out(inputs.size(), Truth::no);
  for (std::size_t i = 0; i < inputs.size(); ++i)
    if (const auto* pulse = std::get_if<PulseInput>(&inputs[i].kind); pulse != nullptr && pulse->buffer.count > 0)
      out[i] = Truth::maybe;
  return out;
}

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
        value = compute(*action.value,
                        View{inputs_, &made_.config.variables, &made_active_, nullptr, nullptr, &traits_, choices_});
    }
    value = stored(variable, value);
    made_.config.variables[action.variable] = snapped(action.variable, value);
  }
}

void Model::leave(std::uint16_t state) {
  for (const std::uint16_t child : states_[state].children)
    if (made_active_[child] != 0) leave(child);
  act(states_[state].exit);
  if (!left_[state]) {
    left_[state] = true;
    grown_ = grown_ || (!remembers_ && leads_back_[states_[state].region]);
  }
  remember_last(states_[state].parent, state);
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  made_active_[state] = 0;
  for (const std::uint16_t region : states_[state].regions) {
    made_.config.leaves[region] = kNoIndex;
    made_.fresh[region] = kNoIndex;
  }
}

// Where the play of a state begins that is entered by the rule at hand.
Begun Model::begun(std::uint16_t state) const {
  const StateFacts& facts = states_[state];
  if (facts.turns_at_once) return Begun::anywhere;
  if (start_ == nullptr || start_->kind == StartKind::begin) return Begun::at_begin;
  const StateDef& def = *defs_[state];
  if ((start_->kind != StartKind::frame && start_->kind != StartKind::time) || def.blend || def.clip_by)
    return Begun::anywhere;
  const ClipInfo* const clip = def.clip.empty() ? nullptr : &machine_.clips()[machine_.states()[state].clips.front()];
  const Ticks length = clip != nullptr ? clip->length : def.length.value_or(Ticks());
  Ticks from = start_->time, until = start_->time;  // where it stands if it plays forwards, if it plays backwards
  if (start_->kind == StartKind::frame) {
    const auto frame = static_cast<std::size_t>(start_->frame);
    if (clip == nullptr || frame + 1 >= clip->borders.size()) return Begun::anywhere;
    from = clip->borders[frame], until = clip->borders[frame + 1];
  }
  return from < length && (until.count > 0 || facts.course == Course::forward) ? Begun::inside : Begun::anywhere;
}

void Model::mark_fresh(std::uint16_t state, Begun begun) {
  const std::uint16_t region = states_[state].region;
  const std::uint16_t before = made_.fresh[region];
  if (before == kNoIndex || !within(state, before) || made_active_[before] == 0) made_.fresh[region] = state;
  made_.begun[region] = static_cast<std::uint8_t>(begun);
}

void Model::enter(std::uint16_t state, const std::vector<std::uint16_t>& way, std::size_t at) {
  if (state != 0) {
    seen_entered_.push_back(state);
    mark_fresh(state, begun(state));
    made_.config.leaves[states_[state].region] = state;
  }
  made_active_[state] = 1;
  remember_last(states_[state].parent, kNoIndex);
  for (const std::uint16_t variable : states_[state].variables) made_.config.variables[variable] = started(variable);
  act(states_[state].enter);
  for (const std::uint16_t cue : all_entry_cues_ ? states_[state].cues : states_[state].entry_cues)
    if (made_.told[cue] == Truth::no || fired_[cue] == Truth::no) {
      fired_[cue] = std::max(fired_[cue], Truth::maybe);
      made_.told[cue] = std::max(made_.told[cue], Truth::maybe);
    }
  if (!all_entry_cues_ && begun(state) == Begun::at_begin)
    for (const std::uint16_t cue : states_[state].begin_cues) made_.told[cue] = fired_[cue] = Truth::yes;
  const std::uint16_t next = at < way.size() ? way[at] : kNoIndex;
  const bool inner = next != kNoIndex || states_[state].initial != kNoIndex;
  if (!inner && state != 0) remember_rest(state);
  if (!states_[state].regions.empty()) {
    for (const std::uint16_t region : states_[state].regions) {
      if (left_out_.regions[region]) continue;
      made_.begun[region] = 0;
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

// What a rule makes of the moment: `now_`, with what was told in this round in `fired_`.
Moment Model::taken(const Rule& rule, std::uint16_t target) {
  made_ = *now_;
  made_active_ = *active_;
  if (const std::uint16_t leaf = played_leaf(rule.owner); leaf != kNoIndex && !fresh(leaf)) hush_for(rule, leaf);
  if (rule.relates) {
    Indices& held = made_.held;
    const auto index = static_cast<std::uint16_t>(rule.index);
    if (std::find(held.begin(), held.end(), index) == held.end()) held.push_back(index);
    std::sort(held.begin(), held.end());
  }
  if (rule.cue != kNoIndex) made_.told[rule.cue] = Truth::yes;  // or it had not been taken
  start_ = &rule.def->start;
  all_entry_cues_ = rule.def->start.kind == StartKind::frame || rule.def->start.kind == StartKind::time;
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
  note_ages(first);
  return std::move(made_);
}

std::vector<Moment> Model::instants(const Config& config, const Truths& pulses, const Truths& looped,
                                    const std::vector<Span>& inputs, bool timed) {
  return each_choice([&] { return instant(config, pulses, looped, inputs, timed); });
}

std::vector<Moment> Model::each_choice(const std::function<Moment()>& make) {
  Choices choices;
  std::vector<Moment> out;
  do {
    choices_ = &choices;
    Moment made = make();
    choices_ = nullptr;
    for (Moment& each : told_apart(std::move(made)))
      if (std::none_of(out.begin(), out.end(),
                       [&](const Moment& other) { return other.config.variables == each.config.variables; }))
        out.push_back(std::move(each));
  } while (choices.next());
  return out;
}

std::vector<Moment> Model::told_apart(Moment moment) const {
  constexpr std::size_t kMost = 64;
  constexpr double kFewValues = 8;
  std::vector<Moment> out;
  out.push_back(std::move(moment));
  for (std::uint16_t v = 0; v < variables_.size(); ++v) {
    const Span all = out.front().config.variables[v];
    if (known_[v] == Knowledge::nothing || all.point()) continue;
    std::vector<Span> within;
    if (known_[v] == Knowledge::values && variables_[v].kind == Variable::Kind::whole) {
      // What was assigned is not known, `heat + select(lit, 1, -1)`: a few values, each by itself.
      if (all.high - all.low > kFewValues) continue;
      for (double each = std::ceil(all.low); each <= all.high; ++each) within.push_back({each, each});
    } else if (known_[v] == Knowledge::values && variables_[v].kind != Variable::Kind::truth) {
      continue;
    } else {
      for (const Span& cell : variable_cells(v))
        if (cell.high >= all.low && cell.low <= all.high) within.push_back(cell);
    }
    if (within.size() < 2 || out.size() * within.size() > kMost) continue;
    std::vector<Moment> more;
    for (const Moment& each : out)
      for (const Span& cell : within) {
        more.push_back(each);
        more.back().config.variables[v] = cell;
      }
    out = std::move(more);
  }
  return out;
}

Moment Model::begin(const std::vector<Span>& inputs) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config.leaves.assign(machine_.regions().size(), kNoIndex);
  made_.config.variables = at_start();
  if (remembers_) made_.config.memories.assign(memories_.size(), kNoIndex);
  if (compares_times_) made_.config.ages.assign(clocks_.size() * machine_.regions().size(), 0);
  made_.pulses.assign(machine_.inputs().size(), Truth::maybe);
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.looped.assign(machine_.regions().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.begun.assign(machine_.regions().size(), 0);
  made_active_.assign(states_.size(), 0);
  fired_.assign(machine_.cues().size(), Truth::no);
  start_ = nullptr;
  all_entry_cues_ = false;
  enter(0, {}, 0);
  made_.cues = fired_;
  return std::move(made_);
}

Moment Model::instant(const Config& config, const Truths& pulses, const Truths& looped, const std::vector<Span>& inputs,
                      bool timed) {
  inputs_ = &inputs;
  made_ = Moment{};
  made_.config = config;
  made_.timed = timed;
  if (!timed && !unruly_) made_.early = early_rules(config);
  made_.pulses = pulses;
  made_.looped = looped;
  made_.told.assign(machine_.cues().size(), Truth::no);
  made_.fresh.assign(machine_.regions().size(), kNoIndex);
  made_.begun.assign(machine_.regions().size(), 0);
  made_active_ = active(config);
  fired_.assign(machine_.cues().size(), Truth::no);
  for (std::uint16_t s = 0; s < states_.size(); ++s) {
    if (made_active_[s] == 0) continue;
    for (const std::uint16_t cue : timed ? states_[s].cues : states_[s].turn_cues)
      fired_[cue] = made_.told[cue] = Truth::maybe;
    for (const std::uint16_t cue : states_[s].layer_cues)
      if (timed) fired_[cue] = made_.told[cue] = Truth::maybe;
  }
  for (std::uint16_t r = 0; r < config.leaves.size(); ++r)
    if (looped[r] == Truth::yes && config.leaves[r] != kNoIndex) {
      hush(states_[config.leaves[r]].inner_cues);
      for (const std::uint16_t cue : states_[config.leaves[r]].inner_cues) fired_[cue] = Truth::no;
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
