// What variables can come to hold at all, whatever leads there.
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

constexpr int kGrowing = 24, kNarrowing = 3;  // rounds

Span both(const Span& a, const Span& b) { return {std::max(a.low, b.low), std::min(a.high, b.high)}; }

// What values of a variable let `variable OP number` be true; `whole`: it holds no fractions.
Span that_satisfy(detail::Op op, double number, bool whole) {
  constexpr double kInfinity = std::numeric_limits<double>::infinity();
  switch (op) {
    case detail::Op::less:
      return {-kInfinity, whole ? std::ceil(number) - 1 : number};
    case detail::Op::less_equal:
      return {-kInfinity, number};
    case detail::Op::greater:
      return {whole ? std::floor(number) + 1 : number, kInfinity};
    case detail::Op::greater_equal:
      return {number, kInfinity};
    case detail::Op::equal:
      return {number, number};
    default:
      return {-kInfinity, kInfinity};
  }
}

// What a variable held before it was narrowed.
using Before = std::vector<std::pair<std::uint16_t, Span>>;

// Cuts off what a guard that is true rules out of the variables that stay what they were until an action is done.
void narrow(const Term& guard, const std::vector<Variable>& variables, const std::vector<bool>& stays, Values& values,
            Before& before) {
  if (guard.kind != Term::Kind::operation || guard.operands.size() != 2) return;
  if (guard.op == detail::Op::and_) {
    for (const Term& each : guard.operands) narrow(each, variables, stays, values, before);
    return;
  }
  for (const bool turned : {false, true}) {
    const Term &variable = guard.operands[turned ? 1 : 0], &number = guard.operands[turned ? 0 : 1];
    if (variable.kind != Term::Kind::variable || number.kind != Term::Kind::constant || !stays[variable.index])
      continue;
    const bool whole = variables[variable.index].kind == Variable::Kind::whole;
    const Span left =
        both(values[variable.index], that_satisfy(turned ? detail::mirrored(guard.op) : guard.op, number.value, whole));
    if (left.low > left.high) continue;  // it is never true
    before.emplace_back(variable.index, values[variable.index]);
    values[variable.index] = left;
  }
}

// Whether what is assigned to a variable only counts it up, or sets it to a number.
bool only_counts(const Term& value, std::uint16_t variable) {
  if (value.kind == Term::Kind::constant) return true;
  if (value.kind != Term::Kind::operation || value.op != detail::Op::add || value.operands.size() != 2) return false;
  const bool turned = value.operands[0].kind == Term::Kind::constant;
  const Term &named = value.operands[turned ? 1 : 0], &more = value.operands[turned ? 0 : 1];
  return named.kind == Term::Kind::variable && named.index == variable && more.kind == Term::Kind::constant &&
         more.value >= 0;
}

}  // namespace

// What it is rounded and clamped to as it is assigned.
Span Model::stored(const Variable& variable, Span value) {
  const auto rounded = [&](double each) {
    if (variable.kind == Variable::Kind::number) each = static_cast<double>(static_cast<float>(each));
    if (variable.kind == Variable::Kind::whole)
      each = std::trunc(std::clamp(each, variable.range.low, variable.range.high));
    return each == 0 ? 0 : each;  // no negative zero
  };
  value = {rounded(value.low), rounded(value.high)};
  return std::isnan(value.low) || std::isnan(value.high) ? variable.range : value;
}

// All that the actions of a list assign, when `guard` was true before (null: nothing is known), joined to `out`. `held`
// is as it was afterwards.
void Model::assigned(const std::vector<Action>& actions, const Term* guard, const std::vector<bool>& stays,
                     const std::vector<Span>& inputs, Values& held, Values& out) const {
  if (actions.empty()) return;
  std::vector<bool> still = guard == nullptr ? std::vector<bool>() : stays;
  Before before;
  for (const Action& action : actions) {
    if (action.variable == kNoIndex) continue;
    const Variable& variable = variables_[action.variable];
    Span value = variable.range;
    if (action.value) {
      before.clear();
      if (guard != nullptr) narrow(*guard, variables_, still, held, before);
      value = stored(variable, compute(*action.value, View{&inputs, &held}));
      for (auto each = before.rbegin(); each != before.rend(); ++each) held[each->first] = each->second;
    }
    out[action.variable] = hull(out[action.variable], value);
    if (guard != nullptr) still[action.variable] = false;
  }
}

// Whole ones without an upper bound that are only counted up and set to numbers: beyond what anything compares them
// with, one value does as another.
void Model::find_counters() {
  counter_.assign(variables_.size(), false);
  for (std::size_t v = 0; v < variables_.size(); ++v)
    counter_[v] = variables_[v].kind == Variable::Kind::whole && variables_[v].range.high == INT32_MAX;
  const auto look = [&](const std::vector<Action>& actions) {
    for (const Action& action : actions) {
      if (action.variable == kNoIndex) continue;
      const bool up = action.value && only_counts(*action.value, action.variable);
      counter_[action.variable] = counter_[action.variable] && up;
      if (action.value && !up) note_computed(*action.value);
    }
  };
  for (const StateFacts& state : states_)
    for (const auto* list : {&state.enter, &state.exit, &state.each_loop}) look(*list);
  for (const Rule& rule : rules_) look(rule.actions);
}

// Who is computed with is no counter: only comparisons with constants say no more than those.
void Model::note_computed(const Term& term) {
  if (term.kind == Term::Kind::variable) counter_[term.index] = false;
  if (term.kind != Term::Kind::operation) return;
  for (const std::size_t side : {0U, 1U})
    if (compares(term.op) && term.operands[side].kind == Term::Kind::variable &&
        term.operands[1 - side].kind == Term::Kind::constant)
      return;
  for (const Term& each : term.operands) note_computed(each);
}

// Grown from what they start with by all that is assigned anywhere; what does not stop growing has no bound there. With
// bounds of their own the rest comes down again, where guards keep it.
void Model::find_ranges() {
  Values start;
  for (const Variable& variable : variables_) start.push_back({variable.start, variable.start});
  // What no exit changes, and no state that is left resets, is at an action of a rule what it was for the guard.
  std::vector<bool> stays;
  for (const Variable& variable : variables_) stays.push_back(variable.owner == 0);
  for (const StateFacts& state : states_)
    for (const Action& action : state.exit)
      if (action.variable != kNoIndex) stays[action.variable] = false;
  const std::vector<Span> inputs = any_inputs();
  const auto next = [&](Values& held) {
    Values out = start;
    for (const StateFacts& state : states_)
      for (const auto* list : {&state.enter, &state.exit, &state.each_loop})
        assigned(*list, nullptr, stays, inputs, held, out);
    for (const Rule& rule : rules_) assigned(rule.actions, rule.when ? &*rule.when : nullptr, stays, inputs, held, out);
    return out;
  };
  Values held = start;
  bool grown = true;
  for (int round = 0; grown; ++round) {
    const Values more = next(held);
    grown = false;
    for (std::size_t v = 0; v < held.size(); ++v) {
      const Span before = held[v], all = variables_[v].range;
      held[v] = hull(before, more[v]);
      if (held[v] == before) continue;
      grown = true;
      if (round < kGrowing) continue;
      if (held[v].low < before.low) held[v].low = all.low;
      if (held[v].high > before.high) held[v].high = all.high;
    }
  }
  for (int round = 0; round < kNarrowing; ++round) {
    const Values less = next(held);
    for (std::size_t v = 0; v < held.size(); ++v) held[v] = both(held[v], less[v]);
  }
  for (std::size_t v = 0; v < held.size(); ++v) variables_[v].range = both(variables_[v].range, held[v]);
}

}  // namespace mobrin::proof
