// Conditions: the commonest truths, comparisons of what a little arithmetic makes of one value each, each done by
// a function for just that kind, which leads on to the next. What they give is bit for bit what evaluate() gives.
#pragma once

#include <deque>

#include "expression/expression_tree.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

// How a value lies in a block that a guard reads.
enum class BlockValue : std::uint8_t { byte, half, whole, number };
[[nodiscard]] inline double value_at(const std::byte* block, BlockValue as, std::uint32_t at) {
  if (as == BlockValue::number) return static_cast<double>(field_at<float>(block, at));
  if (as == BlockValue::byte) return field_at<std::uint8_t>(block, at);
  if (as == BlockValue::half) return field_at<std::uint16_t>(block, at);
  return field_at<std::int32_t>(block, at);
}

// |value * times + plus| * then_times + then_plus; with what changes no number where the expression has none of them.
struct Side {
  enum class Kind : std::uint8_t { constant, byte, whole, number, sum_of_whole, sum_of_number } kind = Kind::constant;
  std::uint32_t at = 0;                                             // in the block
  std::uint64_t kept = ~std::uint64_t{0};                           // bits of the first sum: all, or all but its sign
  double times = 1, plus = -0.0, then_times = 1, then_plus = -0.0;  // of a constant the last one is all
};

struct Comparison {
  // Whether the whole is true, decided from here on: by another one, whichever this one leads to.
  using Decides = bool (*)(const Comparison* self, const std::byte* block);
  Decides decides = nullptr;
  const Comparison *if_true = nullptr, *if_false = nullptr;
  Side left{}, right{};
};

// Adds what an expression that gives a truth comes to; its first one, or null, with nothing added, where it is more
// than comparisons.
[[nodiscard]] const Comparison* add_condition(const ExprPool& pool, const ExprTerm& root, std::deque<Comparison>& out);

// Whether the condition that begins there holds.
[[nodiscard]] inline bool condition_holds(const Comparison* first, const std::byte* block) {
  return first->decides(first, block);
}

}  // namespace mobrin::detail
