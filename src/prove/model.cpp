// What there is: states, rules, variables, plays, and what surely leads on.
#include "model.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "model_parts.hpp"

namespace mobrin::proof {

Model::Model(const MachineDef& definition, const Machine& machine) : def_(definition), machine_(machine) {
  cuts_.resize(machine.inputs().size());
  leads_back_.resize(std::max<std::size_t>(machine.regions().size(), 1), false);
  for (std::uint16_t c = 0; c < machine.clips().size(); ++c) clips_[machine.clips()[c].def.name.text] = c;
  for (std::uint16_t c = 0; c < machine.cues().size(); ++c) cues_[machine.cues()[c].name.text] = c;
  take_states();
  rules_.resize(machine.transitions().size());
  notes_.resize(rules_.size());
  for (std::uint32_t t = 0; t < rules_.size(); ++t) {
    rules_[t].index = t;
    rules_[t].owner = machine.transitions()[t].owner;
    rules_[t].target = machine.transitions()[t].target;
    rules_[t].pulse = machine.transitions()[t].pulse;
    states_[rules_[t].owner].rules.push_back(t);
  }
  gather(definition.root, "");
  known_.assign(variables_.size(), Knowledge::values);
  left_out_ = {std::vector<bool>(machine.regions().size(), false), std::vector<bool>(variables_.size(), false)};
  variable_cuts_.resize(variables_.size());
  // Actions and guards may speak of what is defined further down, so they are bound when all is known.
  for (std::uint16_t s = 0; s < states_.size(); ++s)
    if (defs_[s] != nullptr) bind_state(s);
  find_begins();
  find_memories();
  find_ranges();
  find_counters();
  for (std::uint16_t s = 0; s < states_.size(); ++s)
    if (defs_[s] != nullptr) facts_of_plays(s);
  find_layer_cues();
  find_inner_cues();
  find_sure_cues();
  find_begin_cues();
  cells_.clear(), fine_cells_.clear();  // what inputs may hold was asked for before they were cut
  cut_by_rules();
  find_leads();
  find_clocks();
}

void Model::take_states() {
  const auto infos = machine_.states();
  const auto regions = machine_.regions();
  states_.resize(infos.size());
  defs_.assign(infos.size(), nullptr);
  traits_.assign(infos.size(), std::vector<bool>(machine_.traits().size(), false));
  entered_.assign(infos.size(), false);
  left_ = rested_ = entered_;
  for (std::uint16_t s = 0; s < infos.size(); ++s) {
    const StateInfo& info = infos[s];
    StateFacts& facts = states_[s];
    index_[info.path] = s;
    facts.parent = info.parent;
    facts.region = info.region;
    facts.initial = s == 0 ? kNoIndex : info.initial;
    facts.sealed = info.sealed;
    facts.final = info.final;
    if (s > 0 && (info.sealed || info.final)) sealing_.push_back(s);
    facts.dead = contains(info.traits, "dead");
    if (s > 0 && facts.dead) dead_.push_back(s);
    for (std::size_t t = 0; t < machine_.traits().size(); ++t)
      traits_[s][t] = contains(info.traits, machine_.traits()[t]);
    if (s > 0) {
      facts.depth = static_cast<std::uint16_t>(states_[info.parent].depth + 1);
      states_[info.parent].children.push_back(s);
    }
  }
  for (std::uint16_t r = 0; r < regions.size(); ++r) states_[regions[r].owner].regions.push_back(r);
  for (std::uint16_t s = 0; s < infos.size(); ++s)
    if (states_[s].regions.size() > (s == 0 ? 1U : 0U))
      for (std::uint16_t up = s;; up = states_[up].parent) {
        states_[up].splits_below = true;
        if (up == 0) break;
      }
}

void Model::bind_state(std::uint16_t s) {
  StateFacts& facts = states_[s];
  const StateDef& def = *defs_[s];
  facts.enter = actions_of(def.enter, s);
  facts.exit = actions_of(def.exit, s);
  facts.each_loop = actions_of(def.each_loop, s);
  if (!def.speed.empty()) facts.speed = bind_term(def.speed.text, names_at(s), detail::ExprWords::guard).term;
  for (const Text* axis : {def.blend ? &def.blend->x : nullptr, def.blend ? &def.blend->y : nullptr})
    if (axis != nullptr && !axis->empty())
      if (auto bound = bind_term(axis->text, names_at(s), detail::ExprWords::guard).term)
        facts.axes.push_back(std::move(*bound));
  for (std::size_t i = 0; i < facts.rules.size() && i < def.go.size(); ++i)
    bind_rule(rules_[facts.rules[i]], def.go[i], s);
}

void Model::bind_rule(Rule& rule, const GoDef& go, std::uint16_t owner) {
  rule.def = &go;
  rule.event = !go.pulse.empty()                 ? Event::pulse
               : !go.cue.empty()                 ? Event::cue
               : go.at == GoAt::end              ? Event::end
               : go.at == GoAt::loop             ? Event::loop
               : go.after && go.after->count > 0 ? Event::after
                                                 : Event::none;
  rule.cue = cue_of(go.cue.text);
  if (go.to.text == "back") {
    rule.aim = Aim::back;
    leads_back_[owner == 0 ? 0 : states_[owner].region] = true;
  }
  if (go.to.text.ends_with("/last")) rule.aim = Aim::last;
  if (go.at == GoAt::end || go.to.text == "back") states_[owner].restful = false;
  if (!go.when.empty()) {
    rule.when = bind_term(go.when.text, names_at(owner), detail::ExprWords::guard).term;
    if (rule.when)
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind == Term::Kind::variable || term.kind == Term::Kind::state) rule.inputs_only = false;
      });
  }
  rule.actions = actions_of(go.actions, owner);
}

// Leaves that a rule may let begin elsewhere than at their begin: what it aims at, and what is entered beside that.
void Model::find_begins() {
  for (const Rule& rule : rules_) {
    if (rule.def == nullptr || rule.def->start.kind == StartKind::begin) continue;
    std::uint16_t around = rule.aim == Aim::state ? rule.target : 0;
    for (std::uint16_t up = around; up != 0; up = states_[up].parent)
      if (states_[states_[up].parent].regions.size() > 1 && states_[up].parent != 0) around = states_[up].parent;
    for (std::uint16_t s = 1; s < states_.size(); ++s)
      if (within(s, around)) states_[s].begins = false;
  }
}

// `to: back` leads out of its owner, but where that is the initial state.
bool Model::leads_outside(const Rule& rule) const {
  if (rule.owner == 0) return false;
  std::uint16_t initial = machine_.regions()[states_[rule.owner].region].initial;
  while (states_[initial].initial != kNoIndex) initial = states_[initial].initial;
  return !within(initial, rule.owner);
}

// Whether something that seals may be active beside a leaf, in a region that a rule would leave with it.
bool Model::sealed_beside(const Rule& rule, std::uint16_t leaf) const {
  std::uint16_t first = rule.aim == Aim::back ? rule.owner : rule.target;
  while (!within(leaf, states_[first].parent)) first = states_[first].parent;
  const auto together = [&](std::uint16_t one, std::uint16_t other) {
    while (states_[one].depth > states_[other].depth) one = states_[one].parent;
    while (states_[other].depth > states_[one].depth) other = states_[other].parent;
    while (states_[one].parent != states_[other].parent) one = states_[one].parent, other = states_[other].parent;
    return states_[one].region != states_[other].region;
  };
  return std::any_of(sealing_.begin(), sealing_.end(), [&](std::uint16_t node) {
    return !within(rule.owner, node) && within(node, states_[first].parent) &&
           lies_in(states_[node].region, states_[first].region) && together(node, leaf);
  });
}

// For each leaf the rules that surely lead on: looked at before any that may stand, of what no seal stops.
void Model::find_leads() {
  leads_on_.assign(rules_.size(), false);
  std::vector<std::uint32_t> leaves(states_.size(), 0), led(rules_.size(), 0);  // inside of a state; by its rule
  for (std::uint16_t leaf = 1; leaf < states_.size(); ++leaf) {
    StateFacts& facts = states_[leaf];
    if (!facts.children.empty()) continue;
    for (std::uint16_t up = leaf;; up = states_[up].parent) {
      ++leaves[up];
      if (up == 0) break;
    }
    facts.stay = stay_while(leaf, nullptr);
    each_lead(leaf, nullptr, nullptr, [&](const Rule& rule) {
      if (rule.event == Event::end) facts.leaves_at_end = true;
      if (rule.event == Event::cue) facts.ends_before = rule.index;
      if (rule.event == Event::after) ++led[rule.index];
    });
  }
  for (const Rule& rule : rules_) {
    if (!rule.when || rule.index >= kNoIndex || (rule.event != Event::after && rule.event != Event::end)) continue;
    for (std::uint16_t s = 1; s < states_.size(); ++s)
      if (within(s, rule.owner)) states_[s].may_leave_in_time = true;
  }
  for (const Rule& rule : rules_) {
    if (led[rule.index] == 0 || led[rule.index] < leaves[rule.owner]) continue;
    leads_on_[rule.index] = true;
    std::optional<Ticks>& stay = states_[rule.owner].stay;
    if (!stay || *rule.def->after < *stay) stay = rule.def->after;
  }
}

std::vector<Term> Model::assumed() const {
  std::vector<Term> out;
  const Vocabulary names = names_at(0, true);
  for (const Text& text : def_.assumed)
    if (Bound bound = bind_term(text.text, names, detail::ExprWords::claim); bound.term)
      out.push_back(std::move(*bound.term));
  return out;
}

std::vector<std::uint32_t> Model::distances_to(const std::vector<bool>& goals, std::uint32_t most) const {
  std::vector<std::uint32_t> out(states_.size(), most), by_rule = out;
  for (std::uint16_t s = 1; s < states_.size(); ++s)
    for (std::uint16_t up = s;; up = states_[up].parent) {
      if (goals[up]) out[s] = 0;
      if (up == 0) break;
    }
  // The nearest of what is entered with a state.
  const auto entered = [&](const auto& self, std::uint16_t state) -> std::uint32_t {
    std::uint32_t least = out[state];
    if (states_[state].initial != kNoIndex) least = std::min(least, self(self, states_[state].initial));
    for (const std::uint16_t region : states_[state].regions)
      least = std::min(least, self(self, machine_.regions()[region].initial));
    return least;
  };
  for (bool more = true; more;) {
    more = false;
    for (const Rule& rule : rules_) {
      if (rule.def == nullptr || rule.aim == Aim::back) continue;
      const std::uint32_t far = entered(entered, rule.target) + 1;
      if (far < by_rule[rule.owner]) by_rule[rule.owner] = far, more = true;
    }
    for (std::uint16_t s = 1; s < states_.size(); ++s)
      for (std::uint16_t up = s;; up = states_[up].parent) {
        out[s] = std::min(out[s], by_rule[up]);
        if (up == 0) break;
      }
  }
  return out;
}

std::optional<Ticks> Model::stay_while(std::uint16_t leaf, const std::vector<Span>* held, const Config* known,
                                       bool lasting) const {
  std::optional<Ticks> out;
  each_lead(leaf, held, known, [&](const Rule& rule) {
    if (lasting && rule.event != Event::end && rule.event != Event::after) return;
    std::optional<Ticks> time = rule.def->after;
    if (rule.event == Event::end) time = longest_play(leaf, held);
    if (rule.event == Event::loop) time = longest_round(leaf, held);
    if (rule.event == Event::cue) time = longest_until(leaf, *sure_place(leaf, rule.cue), held);
    if (time && (!out || *time < *out)) out = time;
  });
  return out;
}

// Rules that would have been taken if their time, or play, were over: guards of variables and states are known.
Indices Model::early_rules(const Config& at_rest) const {
  Indices out;
  for (const std::uint16_t leaf : at_rest.leaves) {
    if (leaf == kNoIndex || !states_[leaf].may_leave_in_time) continue;
    const std::vector<Span> any = any_inputs();
    each_lead(leaf, &any, &at_rest, [&](const Rule& rule) {
      if (rule.when && rule.index < kNoIndex && (rule.event == Event::after || rule.event == Event::end))
        out.push_back(static_cast<std::uint16_t>(rule.index));
    });
  }
  return out;
}

// Calls `visit` with each rule by which a leaf is surely left when its play ends or its time is over. `held`: what the
// inputs are all the while; else they may be anything. `known`: what else is then, with inputs that are held.
void Model::each_lead(std::uint16_t leaf, const std::vector<Span>* held, const Config* known,
                      const std::function<void(const Rule&)>& visit) const {
  const StateFacts& facts = states_[leaf];
  if (!facts.children.empty() || facts.final) return;
  const Flags active = known != nullptr ? this->active(*known) : Flags(states_.size(), 0);
  const Values variables = known != nullptr ? known->variables : nothing_known();
  const auto guard = [&](const Rule& rule) {
    if (!rule.when) return rule.def->when.empty() ? Truth::yes : Truth::maybe;
    if (known == nullptr && (held == nullptr || !rule.inputs_only)) return Truth::maybe;
    return proof::holds(*rule.when, View{held, &variables, &active, nullptr, nullptr, &traits_});
  };
  std::vector<std::uint16_t> around;
  for (std::uint16_t up = leaf;; up = states_[up].parent) {
    around.insert(around.begin(), up);
    if (up == 0) break;
  }
  for (const std::uint16_t owner : around) {
    bool sealed = false, split = states_[leaf].regions.size() > 0;  // below the owner
    for (std::uint16_t up = leaf; up != owner; up = states_[up].parent) {
      sealed = sealed || states_[up].sealed;
      split = split || states_[states_[up].parent].regions.size() > (states_[up].parent == 0 ? 1U : 0U);
    }
    for (const std::uint32_t index : states_[owner].rules) {
      const Rule& rule = rules_[index];
      if (rule.def == nullptr || guard(rule) == Truth::no) continue;
      const bool lasting = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
      const bool outside = rule.def->restart || !within(leaf, rule.target);
      const bool elsewhere = rule.aim == Aim::back   ? leads_outside(rule)
                             : rule.aim == Aim::last ? outside && states_[leaf].region == states_[rule.target].region
                                                     : outside;
      if (lasting && !elsewhere) break;  // it may stand, and then the rest of its list is passed over
      const bool free = guard(rule) == Truth::yes && rule.def->during.empty() && !rule.def->during_stretch;
      if (!free || sealed || !elsewhere || sealed_beside(rule, leaf)) continue;
      const bool ends = facts.may_end && (facts.steady || longest_play(leaf, held));
      const bool at_end = rule.event == Event::end && ends && !split;
      const bool at_loop = rule.event == Event::loop && !split && longest_round(leaf, held);
      // A cue is seen when it is told, and no more: who has others inside, or a guard, may have missed it.
      const bool at_cue =
          rule.event == Event::cue && !split && known == nullptr && held == nullptr && sure_place(leaf, rule.cue);
      // Who is around a leaf is active for as long as it, or longer.
      if (at_end || at_loop || at_cue || (rule.event == Event::after && !split)) visit(rule);
    }
  }
}

void Model::gather(const StateDef& state, const std::string& path) {
  const auto found = index_.find(path);
  if (found == index_.end()) return;
  defs_[found->second] = &state;
  for (const VarDef& var : state.vars) {
    Variable& out = variables_.emplace_back();
    out.name = var.name.text;
    out.owner = found->second;
    states_[found->second].variables.push_back(static_cast<std::uint16_t>(variables_.size() - 1));
    if (const auto* truth = std::get_if<bool>(&var.start)) {
      out.start = *truth ? 1 : 0;
      out.range = {0, 1};
    } else if (const auto* whole = std::get_if<std::int32_t>(&var.start)) {
      out.kind = Variable::Kind::whole;
      out.start = *whole;
      out.range = {INT32_MIN, INT32_MAX};
    } else {
      out.kind = Variable::Kind::number;
      out.start = static_cast<double>(static_cast<float>(std::get<double>(var.start)));
      out.range = {-std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};
    }
  }
  const std::string below = path.empty() ? "" : path + "/";
  for (const StateDef& each : state.states) gather(each, below + each.name.text);
  for (const RegionDef& region : state.regions)
    for (const StateDef& each : region.states) gather(each, below + region.name.text + "/" + each.name.text);
}

std::uint16_t Model::cue_of(const std::string& name) const {
  const auto found = cues_.find(name);
  return found == cues_.end() ? kNoIndex : found->second;
}

std::vector<Action> Model::actions_of(const std::vector<ActionDef>& all, std::uint16_t owner) const {
  std::vector<Action> out;
  const Vocabulary names = names_at(owner);
  for (const ActionDef& def : all) {
    Action action;
    if (!def.tell.empty()) {
      action.cue = cue_of(def.tell.text);
    } else {
      const std::size_t equals = def.assign.text.find('=');
      std::string name = def.assign.text.substr(0, equals);
      name.erase(std::remove(name.begin(), name.end(), ' '), name.end());
      if (const auto variable = names.variable(name)) action.variable = *variable;
      action.value = bind_term(def.assign.text.substr(equals + 1), names, detail::ExprWords::guard).term;
    }
    out.push_back(std::move(action));
  }
  return out;
}

std::optional<std::uint16_t> Model::find_state(const std::string& path, std::uint16_t owner, bool claim) const {
  for (std::string scope = machine_.states()[owner].path;;) {
    const auto found = index_.find(scope.empty() ? path : scope + "/" + path);
    if (found != index_.end() && !path.empty()) return found->second;
    if (scope.empty()) break;
    const std::size_t slash = scope.rfind('/');
    scope.erase(slash == std::string::npos ? 0 : slash);
  }
  std::optional<std::uint16_t> out;
  for (const auto& [whole, state] : index_)
    if (claim && whole.ends_with("/" + path)) {
      if (out) return std::nullopt;  // which one?
      out = state;
    }
  return out;
}

Vocabulary Model::names_at(std::uint16_t owner, bool claim) const {
  Vocabulary out;
  out.machine = &machine_;
  out.state = [this, owner, claim](const std::string& path) { return find_state(path, owner, claim); };
  out.variable = [this, owner, claim](const std::string& name) -> std::optional<std::uint16_t> {
    for (std::uint16_t up = owner;; up = states_[up].parent) {
      for (const std::uint16_t each : states_[up].variables)
        if (variables_[each].name == name) return each;
      if (up == 0) break;
    }
    std::optional<std::uint16_t> found;
    for (std::uint16_t v = 0; claim && v < variables_.size(); ++v)
      if (variables_[v].name == name) {
        if (found) return std::nullopt;
        found = v;
      }
    return found;
  };
  return out;
}

bool Model::within(std::uint16_t state, std::uint16_t of) const {
  while (states_[state].depth > states_[of].depth) state = states_[state].parent;
  return state == of;
}
bool Model::may_be_done(const Indices& leaves) const {
  return std::any_of(leaves.begin(), leaves.end(),
                     [&](std::uint16_t leaf) { return leaf != kNoIndex && states_[leaf].final; });
}
bool Model::ending(std::uint16_t state) const {
  for (;; state = states_[state].parent) {
    if (states_[state].final || states_[state].dead) return true;
    if (state == 0) return false;
  }
}

}  // namespace mobrin::proof
