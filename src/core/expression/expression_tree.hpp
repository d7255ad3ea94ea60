// A compiled expression as a tree again: for what is made of it when a machine is complete.
#pragma once

#include <memory>
#include <vector>

#include "expression/expression.hpp"

namespace mobrin::detail {

struct ExprTerm {
  Instruction step;
  std::vector<std::unique_ptr<ExprTerm>> of;  // operands_of(step.op)
};

// REQUIRES: a whole expression of the pool, not empty.
[[nodiscard]] inline std::unique_ptr<ExprTerm> tree_of(const ExprPool& pool, ExprRef expression) {
  std::vector<std::unique_ptr<ExprTerm>> stack;
  for (std::uint32_t i = expression.begin; i < expression.begin + expression.count; ++i) {
    auto term = std::make_unique<ExprTerm>();
    term->step = pool.code[i];
    const auto count = static_cast<std::ptrdiff_t>(operands_of(term->step.op));
    term->of.assign(std::make_move_iterator(stack.end() - count), std::make_move_iterator(stack.end()));
    stack.resize(stack.size() - static_cast<std::size_t>(count));
    stack.push_back(std::move(term));
  }
  return std::move(stack.back());
}

}  // namespace mobrin::detail
