// The expression tree, between parsing and compiling.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "expression/expression.hpp"

namespace mobrin::detail {

struct ExprNode {
  // The last three only in claims: `is(busy)`, `pulse(swing)`, `cue(step)`.
  enum class Kind : std::uint8_t { number, boolean, name, state, operation, trait, pulse, cue };
  Kind kind = Kind::number;
  Op op = Op::constant;
  ValueType type = ValueType::none;
  bool whole = false;  // a number written without a point
  double value = 0;    // of a number or boolean
  std::string name;    // of a name, state, trait, pulse, cue or operation, as written
  std::size_t offset = 0;
  std::vector<std::unique_ptr<ExprNode>> operands;
};

// The tree of `source`, or null with the reason in `problem`.
enum class ExprWords : std::uint8_t { guard, claim };
[[nodiscard]] std::unique_ptr<ExprNode> parse_expression(std::string_view source, ExprProblem& problem,
                                                         ExprWords words = ExprWords::guard);

}  // namespace mobrin::detail
