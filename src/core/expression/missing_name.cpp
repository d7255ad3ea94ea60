// A name in an expression that is declared nowhere: how it could be.
#include "expression/missing_name.hpp"

#include <algorithm>

namespace mobrin::detail {
namespace {

// What `node` is an operand of; null for the whole.
const ExprNode* around(const ExprNode& node, const ExprNode& within) {
  for (const auto& operand : within.operands) {
    if (operand.get() == &node) return &within;
    if (const ExprNode* const found = around(node, *operand)) return found;
  }
  return nullptr;
}

// Whether a number with a fraction, or a quotient, stands in it.
bool has_fractions(const ExprNode& node) {
  if (node.kind == ExprNode::Kind::number) return !node.whole;
  return (node.kind == ExprNode::Kind::operation && node.op == Op::divide) ||
         std::any_of(node.operands.begin(), node.operands.end(),
                     [](const auto& operand) { return has_fractions(*operand); });
}

// Empty where nothing says what it holds.
std::string declaration(const ExprNode& name, const ExprNode& whole, ValueType wanted, const Symbols& symbols) {
  const std::string truth = name.name + ": false", number = name.name + (has_fractions(whole) ? ": 0.0" : ": 0");
  const ExprNode* const asked = around(name, whole);
  if (asked == nullptr)
    return wanted == ValueType::boolean ? truth : wanted == ValueType::number ? name.name + ": 1.0" : "";
  switch (asked->op) {
    case Op::and_:
    case Op::or_:
    case Op::not_:
      return truth;
    case Op::select:
      return asked->operands[0].get() == &name ? truth : "";
    case Op::equal:
    case Op::not_equal: {
      const ExprNode& other = *asked->operands[asked->operands[0].get() == &name ? 1 : 0];
      if (other.kind == ExprNode::Kind::boolean || other.kind == ExprNode::Kind::state) return truth;
      if (other.kind != ExprNode::Kind::name) return number;
      const Symbol* const known = symbols.find(other.name);
      if (known == nullptr) return name.name + ": {one_of: [" + other.name + ", ...]}";
      return known->type == ValueType::boolean ? truth : known->type == ValueType::choice ? "" : number;
    }
    default:
      return number;
  }
}

}  // namespace

std::string how_to_declare(const ExprNode& name, const ExprNode& whole, ValueType wanted, const Symbols& symbols) {
  const std::string as = declaration(name, whole, wanted, symbols);
  return as.empty() ? "Declare it under `inputs:` or `vars:`."
                    : "Declare it under `inputs:`, as `" + as + "`, or under `vars:`.";
}

}  // namespace mobrin::detail
