// Expressions: the parsed, typed and compiled form of guards, speeds and assignments.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::detail {

struct MachineData;

// Every operation: identifier, its sign in the text dump, operands taken from the stack.
#define MOBRIN_OPS(X)       \
  X(constant, "", 0)        \
  X(load_bool, "", 0)       \
  X(load_int, "", 0)        \
  X(load_float, "", 0)      \
  X(in_state, "", 0)        \
  X(negate, "neg", 1)       \
  X(not_, "not", 1)         \
  X(abs, "abs", 1)          \
  X(sign, "sign", 1)        \
  X(add, "+", 2)            \
  X(subtract, "-", 2)       \
  X(multiply, "*", 2)       \
  X(divide, "/", 2)         \
  X(less, "<", 2)           \
  X(less_equal, "<=", 2)    \
  X(greater, ">", 2)        \
  X(greater_equal, ">=", 2) \
  X(equal, "==", 2)         \
  X(not_equal, "!=", 2)     \
  X(and_, "and", 2) X(or_, "or", 2) X(min, "min", 2) X(max, "max", 2) X(clamp, "clamp", 3) X(select, "select", 3)

enum class Op : std::uint8_t {
#define MOBRIN_X(id, text, operands) id,
  MOBRIN_OPS(MOBRIN_X)
#undef MOBRIN_X
};
[[nodiscard]] std::string_view text_of(Op op);
[[nodiscard]] int operands_of(Op op);
// How many the function of that name takes, as it is written in a file; 0 where there is none.
[[nodiscard]] int operands_of_function(std::string_view name);

// The operation that gives the same with its two operands exchanged; itself where there is no such.
[[nodiscard]] Op mirrored(Op op);

// One step of a compiled expression. `arg`: index of a constant, byte offset in the block, or a state.
struct Instruction {
  Op op = Op::constant;
  std::uint32_t arg = 0;
};

// A stretch of the machine's instruction list; count 0 where there is no expression.
struct ExprRef {
  std::uint32_t begin = 0;
  std::uint32_t count = 0;
  [[nodiscard]] bool empty() const { return count == 0; }
};

inline constexpr std::size_t kMaxStack = 32;
inline constexpr std::size_t kMaxExpressionLength = 4096;

enum class ValueType : std::uint8_t { none, boolean, whole, number, choice };
[[nodiscard]] std::string_view text_of(ValueType type);

// What a name in an expression stands for.
struct Symbol {
  ValueType type = ValueType::none;  // none: a pulse
  std::uint32_t offset = 0;
  const std::vector<Text>* choices = nullptr;
  std::string name;
};

// Where the names of an expression are looked up.
class Symbols {
 public:
  [[nodiscard]] virtual const Symbol* find(std::string_view name) const = 0;
  [[nodiscard]] virtual std::vector<std::string> names() const = 0;
  // A state by path as seen from where the expression stands; empty where there is none.
  [[nodiscard]] virtual std::optional<std::uint16_t> state(std::string_view path) const = 0;
  [[nodiscard]] virtual const std::vector<std::string>& state_names() const = 0;

 protected:
  ~Symbols() = default;
};

// The first of these paths of states that ends with `name`, `ground/walk` for `walk`; empty where none does.
[[nodiscard]] std::string path_ending_in(std::string_view name, std::span<const std::string> paths);
// The first state of a region of that name, `arm/ready` for `arm`; empty where there is none.
[[nodiscard]] std::string state_in_region(std::string_view name, std::span<const std::string> paths);

// What is wrong with an expression and where: `offset` counts bytes from its begin.
struct ExprProblem {
  FindingCode code = FindingCode::bad_expression;
  std::size_t offset = 0;
  std::string message;
  std::string remedy;
  std::string subject{};  // the name that is wrong, where one is
  bool stranger = false;  // nothing near it is known
};

// Where compiled expressions are collected.
struct ExprPool {
  std::vector<Instruction> code;
  std::vector<double> constants;
};

struct CompiledExpr {
  ExprRef ref;
  ValueType type = ValueType::none;
  std::optional<double> constant;     // its value where it needs no input
  std::vector<ExprProblem> problems;  // with an error among them, `ref` is empty
};

// Parses, checks and compiles `source`. Appends to `pool` only where it is sound. `wanted`: what it is to give, for
// what is said of a name that is unknown; whether it does is for the caller to check.
[[nodiscard]] CompiledExpr compile_expression(std::string_view source, const Symbols& symbols, ExprPool& pool,
                                              ValueType wanted = ValueType::none);

// The value of a compiled expression: bools are 0 and 1, choices their index. Never fails and always ends; division by
// zero gives 0.
[[nodiscard]] double evaluate(const MachineData& machine, const std::byte* block, ExprRef expression);

}  // namespace mobrin::detail
