// Programs: expressions as the engine runs them. Made from the compiled ones when a machine is complete; what they give
// is bit for bit what evaluate() gives.
#pragma once

#include <vector>

#include "expression/expression.hpp"

namespace mobrin::detail {

// Numbers lie in one place, truths in another; a step that takes a second number has it within itself. C: a constant,
// B, I, F: a byte, a whole number, a float of the block, S: what was put aside last.
#define MOBRIN_OPERANDS(X, name) X(name, C) X(name, B) X(name, I) X(name, F) X(name, S)
#define MOBRIN_NUMBER_STEPS(X) \
  MOBRIN_OPERANDS(X, add)      \
  MOBRIN_OPERANDS(X, subtract) \
  MOBRIN_OPERANDS(X, multiply) \
  MOBRIN_OPERANDS(X, divide)   \
  MOBRIN_OPERANDS(X, minimum)  \
  MOBRIN_OPERANDS(X, maximum) MOBRIN_OPERANDS(X, subtract_from) MOBRIN_OPERANDS(X, divide_into)
#define MOBRIN_TRUTH_STEPS(X)    \
  MOBRIN_OPERANDS(X, less)       \
  MOBRIN_OPERANDS(X, less_equal) \
  MOBRIN_OPERANDS(X, greater) MOBRIN_OPERANDS(X, greater_equal) MOBRIN_OPERANDS(X, equal) MOBRIN_OPERANDS(X, not_equal)

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
    clamp,  // clamp: of the two put aside and the number at hand
    is_true,
    byte_is_true,
    in_state,
    not_true,
    to_number,
    skip_if_false,
    skip_if_true,
    skip,  // `arg` steps on
    end,
  };
  Does does = Does::end;
  std::uint32_t arg = 0;  // an offset in the block, a state, how many steps
  double constant = 0;
};
static_assert(sizeof(ProgramStep) == 16);

class Programs {
 public:
  // REQUIRES: each of `all` is a whole expression of the pool.
  Programs(const ExprPool& pool, const std::vector<ExprRef>& all);

  // The value of one of them, as evaluate() gives it, and whether that is not 0.
  [[nodiscard]] double number(const MachineData& machine, const std::byte* block, ExprRef expression) const;
  [[nodiscard]] bool holds(const MachineData& machine, const std::byte* block, ExprRef expression) const;

 private:
  friend class ProgramWriter;
  struct Start {
    std::uint32_t step = 0;
    bool truth = false;  // it leaves a truth, not a number
  };
  template <class Give>
  static void run(const MachineData& machine, const std::byte* block, const ProgramStep* step, const Give& give);

  std::vector<ProgramStep> steps_;
  std::vector<Start> starts_;  // by the index of an expression's first instruction
};

}  // namespace mobrin::detail
