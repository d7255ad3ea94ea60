#include "guard_facts.hpp"

#include <vector>

#include "model.hpp"
#include "solver.hpp"

namespace mobrin::proof {
namespace {

constexpr std::size_t kMostKnown = 150;  // each takes a while

}  // namespace

GuardFacts::GuardFacts() = default;
GuardFacts::GuardFacts(const GuardFacts& other) : known_(other.known_) {}
GuardFacts& GuardFacts::operator=(const GuardFacts& other) {
  solver_ = nullptr;  // it looks at the other's model
  known_ = other.known_;
  return *this;
}
GuardFacts::~GuardFacts() = default;

Truth GuardFacts::holds(const Model& model, const Indices& before, std::uint16_t rule) {
  const Term& guard = *model.rules()[rule].when;
  std::vector<const Term*> terms;
  for (const std::uint16_t each : before)
    if (share(*model.rules()[each].when, guard)) terms.push_back(&*model.rules()[each].when);
  if (terms.empty()) return Truth::maybe;
  const auto found = known_.find({before, rule});
  if (found != known_.end()) return found->second;
  if (known_.size() >= kMostKnown) return Truth::maybe;
  if (!solver_) solver_ = std::make_unique<Solver>(model);
  Truth out = solver_->impossible(terms, {&guard}, true) ? Truth::yes : Truth::maybe;
  terms.push_back(&guard);
  if (out == Truth::maybe && solver_->impossible(terms, {}, true)) out = Truth::no;
  known_.emplace(std::pair(before, rule), out);
  return out;
}

}  // namespace mobrin::proof
