// Programs: expressions as the engine runs them. Made from the compiled ones when a machine is complete; what they give
// is bit for bit what evaluate() gives.
#pragma once

#include <deque>
#include <vector>

#include "expression/condition.hpp"

namespace mobrin::detail {

// A number is at hand, others lie aside; a truth is no value but a way to go. A step that takes a second number has it
// within itself. C: a constant, B, I, F: a byte, a whole number, a float of the block, S: what was put aside last.
// Steps of K take their first number from the block too, a whole one or a float, and a constant as the second.
#define MOBRIN_OPERANDS(X, name) X(name, C) X(name, B) X(name, I) X(name, F) X(name, S)
#define MOBRIN_OPERANDS_AND_K(X, name) MOBRIN_OPERANDS(X, name) X(name, KI) X(name, KF)
#define MOBRIN_NUMBER_STEPS(X)       \
  MOBRIN_OPERANDS_AND_K(X, add)      \
  MOBRIN_OPERANDS_AND_K(X, subtract) \
  MOBRIN_OPERANDS_AND_K(X, multiply) \
  MOBRIN_OPERANDS(X, divide)         \
  MOBRIN_OPERANDS(X, minimum)        \
  MOBRIN_OPERANDS(X, maximum) MOBRIN_OPERANDS(X, subtract_from) MOBRIN_OPERANDS(X, divide_into)
#define MOBRIN_TRUTH_STEPS(X)          \
  MOBRIN_OPERANDS_AND_K(X, less)       \
  MOBRIN_OPERANDS_AND_K(X, less_equal) \
  MOBRIN_OPERANDS_AND_K(X, greater)    \
  MOBRIN_OPERANDS_AND_K(X, greater_equal) MOBRIN_OPERANDS_AND_K(X, equal) MOBRIN_OPERANDS_AND_K(X, not_equal)

struct ProgramStep {
  enum class Does : std::uint8_t {
#define MOBRIN_X(name, operand) name##_##operand,
    MOBRIN_NUMBER_STEPS(MOBRIN_X) MOBRIN_TRUTH_STEPS(MOBRIN_X)
#undef MOBRIN_X
        load_C,
    load_B,
    load_I,
    load_F,
    put_aside,
    negate,
    absolute,
    sign,
    clamp,  // of the two put aside and the number at hand
    is_true,
    byte_is_true,
    in_state,
    skip,
    end,  // with the number at hand
    end_true,
    end_false,
  };
  Does does = Does::end;
  bool goes_on = true;     // of a truth: that which the next step is for; the other goes further
  std::uint16_t over = 0;  // so many steps
  std::uint32_t arg = 0;   // an offset in the block, a state
  double constant = 0;
};
static_assert(sizeof(ProgramStep) == 16);

class Programs {
 public:
  // REQUIRES: each of `all` is a whole expression of the pool.
  Programs(const ExprPool& pool, const std::vector<ExprRef>& all);
  Programs(const Programs&) = delete;
  Programs& operator=(const Programs&) = delete;

  // The value of one of them, as evaluate() gives it, and whether that is not 0.
  [[nodiscard]] double number(const MachineData& machine, const std::byte* block, ExprRef expression) const;
  [[nodiscard]] bool holds(const MachineData& machine, const std::byte* block, ExprRef expression) const {
    const Start& start = starts_[expression.begin];
    if (start.condition != nullptr) return condition_holds(start.condition, block);
    return runs_true(machine, block, start.step);
  }

 private:
  [[nodiscard]] bool runs_true(const MachineData& machine, const std::byte* block, std::uint32_t step) const;
  template <class Give>
  static auto run(const MachineData& machine, const std::byte* block, const ProgramStep* step, const Give& give);

  struct Start {
    const Comparison* condition = nullptr;  // where it is one
    std::uint32_t step = 0;
  };
  std::vector<ProgramStep> steps_;
  std::deque<Comparison> comparisons_;  // of conditions; they know one another by their addresses
  std::vector<Start> starts_;           // by the index of an expression's first instruction
};

}  // namespace mobrin::detail
