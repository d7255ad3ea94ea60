#include "at_rest.hpp"

#include <algorithm>
#include <utility>

namespace mobrin::proof {
namespace {

constexpr std::size_t kMostQuestions = 600;  // they take a while each

Term constant(double value) {
  Term out;
  out.value = value;
  return out;
}

// With a constant for each name of which the value is known.
Term reduced(const Term& term, const View& view) {
  if (term.kind == Term::Kind::constant) return term;
  if (term.kind != Term::Kind::operation) {
    const Span value = compute(term, view);
    return value.point() ? constant(value.low) : term;
  }
  Term out = term;
  for (Term& each : out.operands) each = reduced(each, view);
  return out;
}

// Between which values those lie that it names.
void add_bounds(const Term& term, const View& view, std::vector<Term>& out) {
  each_term(term, [&](const Term& each) {
    if (each.kind != Term::Kind::input && each.kind != Term::Kind::variable) return;
    const Span value = compute(each, view);
    for (const auto& [op, bound] :
         {std::pair(detail::Op::greater_equal, value.low), {detail::Op::less_equal, value.high}}) {
      Term compared;
      compared.kind = Term::Kind::operation;
      compared.op = op;
      compared.operands = {each, constant(bound)};
      out.push_back(std::move(compared));
    }
  });
}

}  // namespace

// Of the rules of active states those that would have been taken, whatever others do. Nothing that is final is active.
std::vector<const Term*> Model::failing_guards(const Moment& rest) {
  std::vector<const Term*> out;
  const Flags active = this->active(rest.config);
  active_ = &active;
  now_ = &rest;
  for (const std::uint16_t leaf : rest.config.leaves)
    if (leaf != kNoIndex && states_[leaf].final) return out;
  for (std::uint16_t s = 0; s < states_.size(); ++s) {
    if (active[s] != 1) continue;
    for (const std::uint32_t index : states_[s].rules) {
      const Rule& rule = rules_[index];
      if (rule.def == nullptr) continue;
      const bool may_stand = rule.event == Event::none || rule.event == Event::end || rule.event == Event::after;
      const bool elsewhere = rule.aim == Aim::state && active[rule.target] == 0;
      if (may_stand && !elsewhere) break;  // then the rest of the list is passed over
      const bool comes =
          rule.event == Event::none || (rule.event == Event::pulse && rest.pulses[rule.pulse] == Truth::yes);
      if (comes && elsewhere && rule.when && !rule.in_a_window() && !sealed_off(rule.owner, rule.target))
        out.push_back(&*rule.when);
    }
  }
  return out;
}

Truth AtRest::holds(const Term& term, const View& seen, const Moment& rest, const View& view) {
  std::vector<Term> guards, bounds;
  const Term asked = reduced(term, seen);
  bool held = true;  // what it names is the same now
  if (&seen != &view)
    each_term(asked, [&](const Term& each) {
      if (each.kind == Term::Kind::variable || each.kind == Term::Kind::state || each.kind == Term::Kind::trait)
        held = false;
    });
  if (!held) return Truth::maybe;
  for (const Term* guard : model_.failing_guards(rest))
    if (share(asked, *guard)) guards.push_back(reduced(*guard, view));
  if (guards.empty()) return Truth::maybe;
  add_bounds(asked, seen, bounds);
  for (const Term& guard : guards) add_bounds(guard, view, bounds);
  std::string key = key_of_term(asked);
  for (const auto* list : {&guards, &bounds})
    for (const Term& each : *list) key += key_of_term(each);
  const auto found = known_.find(key);
  if (found != known_.end()) return found->second;
  if (known_.size() >= kMostQuestions) return Truth::maybe;
  return known_[key] = ask(asked, bounds, guards);
}

Truth AtRest::ask(const Term& asked, const std::vector<Term>& bounds, const std::vector<Term>& guards) {
  if (!solver_) solver_.emplace(model_);
  std::vector<const Term*> so, not_so;
  for (const Term& bound : bounds) so.push_back(&bound);
  for (const Term& guard : guards) not_so.push_back(&guard);
  so.push_back(&asked);
  if (solver_->impossible(so, not_so, true)) return Truth::no;
  so.pop_back();
  not_so.push_back(&asked);
  return solver_->impossible(so, not_so, true) ? Truth::yes : Truth::maybe;
}

}  // namespace mobrin::proof
