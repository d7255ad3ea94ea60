// Conditions: the commonest truths, comparisons of what a little arithmetic makes of one value each, as a list of such
// comparisons that are all done the same way. What they give is bit for bit what evaluate() gives.
#pragma once

#include <cmath>
#include <cstring>
#include <optional>
#include <vector>

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
  BlockValue from = BlockValue::byte;
  bool constant = true;
  bool plain = true;  // the value as it is
  bool absolute = false;
  std::uint32_t at = 0;                                             // in the block
  double times = 1, plus = -0.0, then_times = 1, then_plus = -0.0;  // of a constant the last one is all
};

// Where it is `goes_on` the next one decides; of the last one the whole is true. Otherwise another one does, counted
// from the condition's first, or the whole is true or false.
struct Comparison {
  enum class Is : std::uint8_t { less, less_equal, equal } is = Is::equal;
  static constexpr std::uint16_t kTrue = 0xffff, kFalse = 0xfffe;
  bool goes_on = true, last = true;
  std::uint16_t other = kFalse;
  Side left, right;
};

// The list of an expression that gives a truth, added to `out`; false, with nothing added, where it is more than that.
[[nodiscard]] bool add_condition(const ExprPool& pool, const ExprTerm& root, std::vector<Comparison>& out);

[[nodiscard]] inline double value_of(const Side& side, const std::byte* block) {
  if (side.constant) return side.then_plus;
  double value = value_at(block, side.from, side.at);
  if (side.plain) return value;
  value = value * side.times + side.plus;
  if (side.absolute) [[unlikely]]
    value = std::abs(value);
  return value * side.then_times + side.then_plus;
}

[[nodiscard]] inline bool is_so(const Comparison& comparison, const std::byte* block) {
  const double left = value_of(comparison.left, block), right = value_of(comparison.right, block);
  if (comparison.is == Comparison::Is::less) return left < right;
  return comparison.is == Comparison::Is::less_equal ? left <= right : left == right;
}

// Whether the condition that begins there holds. By branches, which are foreseen where the values stay alike.
[[nodiscard]] inline bool condition_holds(const Comparison* first, const std::byte* block) {
  for (const Comparison* each = first;;) {
    if (is_so(*each, block) == each->goes_on) {
      if (each->last) return true;
      ++each;
    } else {
      if (each->other >= Comparison::kFalse) return each->other == Comparison::kTrue;
      each = first + each->other;
    }
  }
}

}  // namespace mobrin::detail
