// What a question hangs on, where all that a machine can come to is too much: variables of which nothing else need be
// known, and inputs that are worth writing.
#include <algorithm>

#include "reach.hpp"
#include "search.hpp"

namespace mobrin::proof {

std::vector<bool> Model::variables_behind(const std::vector<Term>& terms, bool guards) const {
  std::vector<bool> out(variables_.size(), false);
  bool more = false;
  const auto add = [&](const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::variable && !out[each.index]) out[each.index] = more = true;
    });
  };
  for (const Term& term : terms) add(term);
  const auto follow = [&](const std::vector<Action>& actions, const Rule* rule) {
    for (const Action& action : actions) {
      if (action.variable == kNoIndex || !out[action.variable]) continue;
      if (action.value) add(*action.value);
      if (guards && rule != nullptr && rule->when) add(*rule->when);
    }
  };
  do {
    more = false;
    for (const Rule& rule : rules_) follow(rule.actions, &rule);
    for (const StateFacts& state : states_)
      for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) follow(*actions, nullptr);
  } while (more);
  return out;
}

std::vector<bool> Model::variables_leading_to(const std::vector<Term>& terms) const {
  std::vector<bool> goals(states_.size(), false), cues(machine_.cues().size(), false);
  for (const Term& term : terms)
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::state) goals[each.index] = true;
      if (each.kind == Term::Kind::cue) cues[each.index] = true;
      for (std::uint16_t s = 0; each.kind == Term::Kind::trait && s < states_.size(); ++s)
        if (traits_[s][each.index]) goals[s] = true;
    });
  for (std::uint16_t s = 0; s < states_.size(); ++s)
    for (const auto* told : {&states_[s].cues, &states_[s].entry_cues, &states_[s].turn_cues})
      for (const std::uint16_t cue : *told)
        if (cues[cue]) goals[s] = true;
  std::vector<Term> all = terms;
  for (const Rule& rule : rules_) {
    if (rule.def == nullptr || !rule.when) continue;
    bool leads = std::any_of(rule.actions.begin(), rule.actions.end(),
                             [&](const Action& action) { return action.cue != kNoIndex && cues[action.cue]; });
    for (std::uint16_t up = rule.target; up != 0 && !leads; up = states_[up].parent) leads = goals[up];
    if (leads) all.push_back(*rule.when);
  }
  return variables_behind(all, false);
}

std::vector<Model::Some> Model::few_to_know(const std::vector<Term>& terms) const {
  constexpr std::size_t kMostAlone = 4;
  const Some leading = variables_leading_to(terms);
  std::vector<Some> out = {leading};
  if (std::count(leading.begin(), leading.end(), true) > 1)
    for (std::size_t v = 0; v < leading.size() && out.size() <= kMostAlone; ++v)
      if (leading[v]) out.emplace_back(leading.size(), false)[v] = true;
  out.emplace_back(leading.size(), false);
  return out;
}

namespace {

// Follows what terms read back to what the game writes.
class Backwards {
 public:
  // `one_way`: of the ways that lead to a state by the one of the fewest rules alone.
  Backwards(const Model& model, bool one_way)
      : model_(model),
        inputs_(model.machine().inputs().size(), false),
        variables_(model.variables().size(), false),
        cues_(model.machine().cues().size(), false),
        states_(model.states().size(), false),
        asked_(states_),
        first_(states_),
        around_(states_),
        variables_may_be_(model.nothing_known()) {
    for (const InputDef& input : model.machine().inputs())
      starts_.push_back({in_its_bits(input, start_of(input)), in_its_bits(input, start_of(input))});
    enter_first(0);
    if (one_way) find_ways();
  }

  std::vector<bool> from(const std::vector<Term>& terms, std::uint16_t state) {
    for (const Term& term : terms) add(term);
    need(state);
    return inputs();
  }
  std::vector<bool> from(const Rule& rule) {
    take(rule);
    return inputs();
  }

 private:
  std::vector<bool> inputs() {
    do {
      more_ = false;
      for (const Rule& rule : model_.rules())
        if (rule.def != nullptr) follow(rule);
      for (std::uint16_t s = 0; s < states_.size(); ++s) follow(s);
    } while (more_);
    return inputs_;
  }
  void set(std::vector<bool>& of, std::size_t at) {
    more_ = more_ || !of[at];
    of[at] = true;
  }
  void add(const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::input || each.kind == Term::Kind::pulse) set(inputs_, each.index);
      if (each.kind == Term::Kind::variable) set(variables_, each.index);
      if (each.kind == Term::Kind::state) ask(each.index);
      if (each.kind == Term::Kind::cue) set(cues_, each.index);
      for (std::uint16_t s = 0; each.kind == Term::Kind::trait && s < states_.size(); ++s)
        if (model_.traits()[s][each.index]) ask(s);
    });
  }
  void need(std::uint16_t state) {
    if (!states_[state] && !first_[state])
      for (std::uint16_t up = state; up != 0 && !around_[up]; up = model_.states()[up].parent) around_[up] = true;
    set(states_, state);
  }
  void ask(std::uint16_t state) {
    need(state);
    set(asked_, state);
  }
  // What is active from the begin need not be come to.
  void enter_first(std::uint16_t state) {
    const StateFacts& facts = model_.states()[state];
    first_[state] = true;
    if (facts.initial != kNoIndex) enter_first(facts.initial);
    for (const std::uint16_t region : facts.regions) enter_first(model_.machine().regions()[region].initial);
  }
  // Whether one of them does something to what is asked for; what it assigns then counts as well.
  bool does(const std::vector<Action>& actions) {
    bool out = false;
    for (const Action& action : actions) {
      if (action.cue != kNoIndex) out = out || cues_[action.cue];
      if (action.variable == kNoIndex || !variables_[action.variable]) continue;
      if (action.value) add(*action.value);
      out = true;
    }
    return out;
  }
  // By state the rule that enters it on its way, from what is active at the begin on.
  void find_ways() {
    const auto& states = model_.states();
    ways_.emplace(states.size(), UINT32_MAX);
    std::vector<bool> met = first_;
    std::vector<std::uint16_t> open;
    for (std::uint16_t s = 0; s < states.size(); ++s)
      if (met[s]) open.push_back(s);
    const auto enter = [&](const auto& self, std::uint16_t state, std::uint32_t rule) -> void {
      if (met[state]) return;
      met[state] = true;
      (*ways_)[state] = rule;
      open.push_back(state);
      if (states[state].initial != kNoIndex) self(self, states[state].initial, rule);
      for (const std::uint16_t region : states[state].regions)
        self(self, model_.machine().regions()[region].initial, rule);
    };
    for (std::size_t i = 0; i < open.size(); ++i)
      for (const std::uint32_t index : states[open[i]].rules) {
        const Rule& rule = model_.rules()[index];
        if (rule.def == nullptr || rule.aim != Aim::state) continue;
        enter(enter, rule.target, index);
        for (std::uint16_t up = states[rule.target].parent; up != 0; up = states[up].parent)
          if (!met[up]) met[up] = true, (*ways_)[up] = index, open.push_back(up);
      }
  }
  [[nodiscard]] bool leads_to_one(const Rule& rule) const {
    for (std::size_t s = 0; ways_ && s < states_.size(); ++s)
      if (states_[s] && (*ways_)[s] == rule.index) return true;
    if (ways_) return false;
    if (rule.aim != Aim::state || around_[rule.target]) return true;
    for (std::uint16_t up = rule.target; up != 0; up = model_.states()[up].parent)
      if (states_[up] && !first_[up]) return true;
    for (std::uint16_t up = rule.owner; up != 0; up = model_.states()[up].parent)
      if (asked_[up] && !model_.within(rule.target, up)) return true;
    return false;
  }
  void follow(const Rule& rule) {
    const bool acts = does(rule.actions);
    if (acts || leads_to_one(rule)) take(rule);
  }
  // What those before it wait for must not be so: what is so at the begin need be written for that.
  void add_before(const Rule& rule) {
    for (const std::uint32_t index : model_.states()[rule.owner].rules) {
      if (index == rule.index) return;
      const Rule& before = model_.rules()[index];
      if (before.when && before.pulse == kNoIndex && may_hold_at_start(*before.when)) add(*before.when);
    }
  }
  [[nodiscard]] bool may_hold_at_start(const Term& guard) const {
    return proof::holds(guard, View{&starts_, &variables_may_be_, nullptr, nullptr, nullptr, nullptr}) != Truth::no;
  }
  void take(const Rule& rule) {
    add_before(rule);
    if (rule.pulse != kNoIndex) set(inputs_, rule.pulse);
    if (rule.cue != kNoIndex) set(cues_, rule.cue);
    if (rule.when) add(*rule.when);
    need(rule.owner);
    if (rule.event == Event::end || rule.event == Event::loop || rule.in_a_window()) need_play(rule.owner);
  }
  // One of those that play in a state.
  void need_play(std::uint16_t state) {
    if (model_.states()[state].plays) return;
    for (const std::uint16_t child : model_.states()[state].children) need(child), need_play(child);
  }
  void follow(std::uint16_t state) {
    const StateFacts& facts = model_.states()[state];
    bool acts = does(facts.enter);
    acts = does(facts.exit) || acts;
    acts = does(facts.each_loop) || acts;
    for (const auto* told : {&facts.cues, &facts.entry_cues, &facts.turn_cues})
      for (const std::uint16_t cue : *told) acts = acts || cues_[cue];
    if (acts) need(state);
    if (states_[state] && facts.speed) add(*facts.speed);
  }

  const Model& model_;
  std::vector<bool> inputs_, variables_, cues_;
  std::vector<bool> states_;  // that it must be in, for what follows
  std::vector<bool> asked_;   // of these, those of which it is asked whether they are active
  std::vector<bool> first_;   // active from the begin
  std::vector<bool> around_;  // one of those that must be come to, or around one
  std::vector<Span> starts_;  // by input
  std::optional<std::vector<std::uint32_t>> ways_{};
  const Values variables_may_be_;
  bool more_ = false;
};

}  // namespace

std::vector<bool> Model::inputs_behind(const std::vector<Term>& terms, std::uint16_t state, bool one_way) const {
  return Backwards(*this, one_way).from(terms, state);
}
std::vector<bool> Model::inputs_behind(const Rule& rule, bool one_way) const {
  return Backwards(*this, one_way).from(rule);
}

// What is known of variables, one way after the other, until one does.
std::vector<Reach::Knowing> Reach::ways_to_know_variables(bool claims) const {
  Knowing left{model_.known()};  // as it was found
  left.exact = !model_.knows_less();
  left.eighths = claims ? 1 : 2;
  const bool rests_only = question_ != nullptr && question_->kind == ClaimKind::can;
  if (left.known.empty() || rests_only) return {left};
  Knowing compared = left;
  std::fill(compared.known.begin(), compared.known.end(), Knowledge::comparisons);
  std::vector<Term> terms;
  if (question_ != nullptr)
    for (const auto* list : {&question_->asked.assumed, &question_->asked.before, &question_->asked.after})
      terms.insert(terms.end(), list->begin(), list->end());
  compared.eighths = claims ? 3 : 6;
  // All of those on which it hangs, nothing of others, but for what is true or false: little, and it often stops rules
  // that would be taken for ever.
  std::vector<Knowing> some;
  for (const bool guards : {false, true}) {
    Knowing each = left;
    each.exact = false;
    each.eighths = claims && guards ? 2 : 4;
    const std::vector<bool> behind = model_.variables_behind(terms, guards);
    for (std::size_t v = 0; v < behind.size(); ++v)
      each.known[v] =
          behind[v] || model_.variables()[v].kind == Variable::Kind::truth ? Knowledge::values : Knowledge::nothing;
    if (each.known == left.known || (!some.empty() && each.known == some.back().known)) continue;
    // What it is compared with is less still, and often enough.
    if (claims && some.empty()) {
      Knowing less = each;
      less.eighths = 2;
      std::replace(less.known.begin(), less.known.end(), Knowledge::values, Knowledge::comparisons);
      some.push_back(std::move(less));
    }
    if (auto more = claims ? std::nullopt : stopping(each)) some.push_back(std::move(*more));
    some.push_back(std::move(each));
  }
  // Of all rules those that know more come first: what was noted before counts as well.
  std::vector<Knowing> out = claims ? some : std::vector<Knowing>();
  out.push_back(std::move(left));
  out.push_back(std::move(compared));
  if (!claims) out.insert(out.end(), some.begin(), some.end());
  return out;
}

// The same and of variables that rules wait for which need no event with what they are compared: without, they may lead
// to each other for ever. Empty where that is no more.
std::optional<Reach::Knowing> Reach::stopping(Knowing known) const {
  bool more = false;
  for (const Rule& rule : model_.rules())
    if (rule.def != nullptr && rule.when && rule.event == Event::none)
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind != Term::Kind::variable || model_.left_out().variables[term.index]) return;
        more = more || known.known[term.index] == Knowledge::nothing;
        known.known[term.index] = std::min(known.known[term.index], Knowledge::comparisons);
      });
  known.eighths = 4;
  return more ? std::optional(std::move(known)) : std::nullopt;
}

// With and without what is remembered, where anything is.
std::vector<Reach::Knowing> Reach::ways_to_know() const {
  const bool claims = question_ != nullptr && !(question_->asked.before.empty() && question_->asked.after.empty());
  std::vector<Knowing> out = ways_to_know_variables(claims);
  constexpr std::size_t kMostStates = 200;  // else it takes long and comes to nothing
  if (!model_.remembers() || (!claims && model_.states().size() > kMostStates)) return out;
  std::vector<Knowing> more = out;
  for (Knowing& each : out) each.exact = false;
  for (Knowing& each : more) each.remembers = true, each.eighths = (each.eighths + 1) / 2;
  // A claim is tried first with what takes least; of all rules those ways come first that know most.
  out.insert(claims ? out.end() : out.begin(), more.begin(), more.end());
  return out;
}

}  // namespace mobrin::proof
