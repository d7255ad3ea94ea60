// Writing and running programs.
#include "expression/program.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

#include "machine/machine_data.hpp"

namespace mobrin::detail {

using Does = ProgramStep::Does;

namespace {

// An expression as a tree again.
struct ProgramTerm {
  Instruction step;
  std::vector<std::unique_ptr<ProgramTerm>> of;
};

// Where a number comes from that a step can take within itself.
enum class From : std::uint8_t { constant, byte, whole, number, aside };

constexpr Does offset_by(Does first, From from) {
  return static_cast<Does>(static_cast<std::uint8_t>(first) + static_cast<std::uint8_t>(from));
}

// The step of an operation that takes its second number from within itself, with the first of its five forms.
struct Form {
  Does first;
  bool truth;
};
Form form_of(Op op) {
  switch (op) {
    case Op::add:
      return {Does::add_C, false};
    case Op::subtract:
      return {Does::subtract_C, false};
    case Op::multiply:
      return {Does::multiply_C, false};
    case Op::divide:
      return {Does::divide_C, false};
    case Op::min:
      return {Does::minimum_C, false};
    case Op::max:
      return {Does::maximum_C, false};
    case Op::less:
      return {Does::less_C, true};
    case Op::less_equal:
      return {Does::less_equal_C, true};
    case Op::greater:
      return {Does::greater_C, true};
    case Op::greater_equal:
      return {Does::greater_equal_C, true};
    case Op::equal:
      return {Does::equal_C, true};
    default:
      return {Does::not_equal_C, true};
  }
}
// The same with its two numbers in the other order. Not for min and max, which tell the two apart where one is no
// number.
bool turn(Op op, Form& form) {
  if (op == Op::min || op == Op::max) return false;
  form = op == Op::subtract ? Form{Does::subtract_from_C, false}
         : op == Op::divide ? Form{Does::divide_into_C, false}
                            : form_of(mirrored(op));
  return true;
}

std::optional<From> source_of(const ProgramTerm& term) {
  switch (term.step.op) {
    case Op::constant:
      return From::constant;
    case Op::load_bool:
      return From::byte;
    case Op::load_int:
      return From::whole;
    case Op::load_float:
      return From::number;
    default:
      return std::nullopt;
  }
}

bool gives_truth(Op op) {
  return op == Op::and_ || op == Op::or_ || op == Op::not_ || op == Op::in_state ||
         (operands_of(op) == 2 && form_of(op).truth && op != Op::and_ && op != Op::or_);
}

}  // namespace

class ProgramWriter {
 public:
  ProgramWriter(const ExprPool& pool, std::vector<ProgramStep>& out) : pool_(pool), out_(out) {}

  // Whether it leaves a truth.
  bool write(ExprRef expression) {
    std::vector<std::unique_ptr<ProgramTerm>> stack;
    for (std::uint32_t i = expression.begin; i < expression.begin + expression.count; ++i) {
      auto term = std::make_unique<ProgramTerm>();
      term->step = pool_.code[i];
      const auto count = static_cast<std::ptrdiff_t>(operands_of(term->step.op));
      term->of.assign(std::make_move_iterator(stack.end() - count), std::make_move_iterator(stack.end()));
      stack.resize(stack.size() - static_cast<std::size_t>(count));
      stack.push_back(std::move(term));
    }
    const ProgramTerm& root = *stack.back();
    const bool is_truth = gives_truth(root.step.op);
    if (is_truth)
      truth(root);
    else
      number(root);
    add(Does::end);
    return is_truth;
  }

 private:
  std::size_t add(Does does, std::uint32_t arg = 0, double constant = 0) {
    out_.push_back({does, arg, constant});
    return out_.size() - 1;
  }
  // The step that was added lands here.
  void land(std::size_t at) { out_[at].arg = static_cast<std::uint32_t>(out_.size() - at - 1); }
  void add_with(Does first, From from, const ProgramTerm& second) {
    const bool constant = from == From::constant;
    add(offset_by(first, from), constant ? 0 : second.step.arg, constant ? pool_.constants[second.step.arg] : 0);
  }

  // Two numbers, the second one within the step where that can be.
  void pair(const ProgramTerm& term) {
    const Op op = term.step.op;
    const ProgramTerm &left = *term.of[0], &right = *term.of[1];
    Form form = form_of(op);
    const auto from_left = source_of(left), from_right = source_of(right);
    if (from_right) {
      number(left);
      return add_with(form.first, *from_right, right);
    }
    if (from_left && turn(op, form)) {
      number(right);
      return add_with(form.first, *from_left, left);
    }
    number(left);
    add(Does::put_aside);
    number(right);
    // The first one is what was put aside.
    if (turn(op, form)) {
      add(offset_by(form.first, From::aside));
    } else {
      // min(a, b) is `b < a ? b : a`: at hand is b, aside a.
      add(offset_by(op == Op::min ? Does::minimum_C : Does::maximum_C, From::aside));
    }
  }

  void number(const ProgramTerm& term) {
    const Op op = term.step.op;
    if (gives_truth(op)) {
      truth(term);
      add(Does::to_number);
      return;
    }
    switch (op) {
      case Op::constant:
        add(Does::load_C, 0, pool_.constants[term.step.arg]);
        return;
      case Op::load_bool:
        add(Does::load_B, term.step.arg);
        return;
      case Op::load_int:
        add(Does::load_I, term.step.arg);
        return;
      case Op::load_float:
        add(Does::load_F, term.step.arg);
        return;
      case Op::negate:
      case Op::abs:
      case Op::sign:
        number(*term.of[0]);
        add(op == Op::negate ? Does::negate : op == Op::abs ? Does::absolute : Does::sign);
        return;
      case Op::clamp:
        number(*term.of[0]);
        add(Does::put_aside);
        number(*term.of[1]);
        add(Does::put_aside);
        number(*term.of[2]);
        add(Does::clamp);
        return;
      case Op::select: {
        truth(*term.of[0]);
        const std::size_t other = add(Does::skip_if_false);
        number(*term.of[1]);
        const std::size_t over = add(Does::skip);
        land(other);
        number(*term.of[2]);
        land(over);
        return;
      }
      default:
        pair(term);
    }
  }

  void truth(const ProgramTerm& term) {
    const Op op = term.step.op;
    switch (op) {
      case Op::and_:
      case Op::or_: {
        // The second one is looked at only where it decides: looking changes nothing.
        truth(*term.of[0]);
        const std::size_t over = add(op == Op::and_ ? Does::skip_if_false : Does::skip_if_true);
        truth(*term.of[1]);
        land(over);
        return;
      }
      case Op::not_:
        truth(*term.of[0]);
        add(Does::not_true);
        return;
      case Op::in_state:
        add(Does::in_state, term.step.arg);
        return;
      case Op::load_bool:
        add(Does::byte_is_true, term.step.arg);
        return;
      default:
        break;
    }
    if (gives_truth(op)) return pair(term);
    number(term);
    add(Does::is_true);
  }

  const ExprPool& pool_;
  std::vector<ProgramStep>& out_;
};

Programs::Programs(const ExprPool& pool, const std::vector<ExprRef>& all) : starts_(pool.code.size()) {
  for (const ExprRef& each : all) {
    if (each.empty()) continue;
    const auto at = static_cast<std::uint32_t>(steps_.size());
    starts_[each.begin] = {at, ProgramWriter(pool, steps_).write(each)};
  }
}

namespace {

double at_C(const std::byte*, const ProgramStep& step, double*&) { return step.constant; }
double at_B(const std::byte* block, const ProgramStep& step, double*&) {
  return field_at<std::uint8_t>(block, step.arg);
}
double at_I(const std::byte* block, const ProgramStep& step, double*&) {
  return field_at<std::int32_t>(block, step.arg);
}
double at_F(const std::byte* block, const ProgramStep& step, double*&) {
  return static_cast<double>(field_at<float>(block, step.arg));
}
double at_S(const std::byte*, const ProgramStep&, double*& top) { return *--top; }

}  // namespace

template <class Give>
inline void Programs::run(const MachineData& machine, const std::byte* block, const ProgramStep* step,
                          const Give& give) {
  double aside[kMaxStack];  // the compiler has checked that it is enough
  double* top = aside;
  double a = 0;
  bool is = false;
  for (;; ++step) {
    switch (step->does) {
#define MOBRIN_X(name, operand, what)                  \
  case Does::name##_##operand: {                       \
    double* from = top;                                \
    const double b = at_##operand(block, *step, from); \
    top = from;                                        \
    what;                                              \
    break;                                             \
  }
#define MOBRIN_BUT_ASIDE(name, what) \
  MOBRIN_X(name, C, what) MOBRIN_X(name, B, what) MOBRIN_X(name, I, what) MOBRIN_X(name, F, what)
#define MOBRIN_ALL(name, what) MOBRIN_BUT_ASIDE(name, what) MOBRIN_X(name, S, what)
#define MOBRIN_STEP(name, what) \
  case Does::name:              \
    what;                       \
    break;
      MOBRIN_ALL(add, a = a + b)
      MOBRIN_ALL(subtract, a = a - b)
      MOBRIN_ALL(multiply, a = a * b)
      MOBRIN_ALL(divide, a = b == 0 ? 0 : a / b)
      MOBRIN_ALL(subtract_from, a = b - a)
      MOBRIN_ALL(divide_into, a = a == 0 ? 0 : b / a)
      MOBRIN_BUT_ASIDE(minimum, a = b < a ? b : a)
      MOBRIN_X(minimum, S, a = a < b ? a : b)  // aside is the first one
      MOBRIN_BUT_ASIDE(maximum, a = a < b ? b : a)
      MOBRIN_X(maximum, S, a = b < a ? a : b)
      MOBRIN_ALL(less, is = a < b)
      MOBRIN_ALL(less_equal, is = a <= b)
      MOBRIN_ALL(greater, is = a > b)
      MOBRIN_ALL(greater_equal, is = a >= b)
      MOBRIN_ALL(equal, is = a == b)
      MOBRIN_ALL(not_equal, is = a != b)
      MOBRIN_STEP(load_C, a = step->constant)
      MOBRIN_STEP(load_B, a = field_at<std::uint8_t>(block, step->arg))
      MOBRIN_STEP(load_I, a = field_at<std::int32_t>(block, step->arg))
      MOBRIN_STEP(load_F, a = static_cast<double>(field_at<float>(block, step->arg)))
      MOBRIN_STEP(put_aside, *top++ = a)
      MOBRIN_STEP(negate, a = -a)
      MOBRIN_STEP(absolute, a = std::abs(a))
      MOBRIN_STEP(sign, a = a > 0 ? 1 : a < 0 ? -1 : 0)
      case Does::clamp: {
        const double low = top[-1], value = top[-2];
        top -= 2;
        a = value < low ? low : a < value ? a : value;
        break;
      }
        MOBRIN_STEP(is_true, is = a != 0)
        MOBRIN_STEP(byte_is_true, is = field_at<std::uint8_t>(block, step->arg) != 0)
        MOBRIN_STEP(in_state, is = is_active(machine, block, static_cast<std::uint16_t>(step->arg)))
        MOBRIN_STEP(not_true, is = !is)
        MOBRIN_STEP(to_number, a = is ? 1 : 0)
        MOBRIN_STEP(skip_if_false, if (!is) step += step->arg)
        MOBRIN_STEP(skip_if_true, if (is) step += step->arg)
        MOBRIN_STEP(skip, step += step->arg)
#undef MOBRIN_STEP
#undef MOBRIN_ALL
#undef MOBRIN_BUT_ASIDE
#undef MOBRIN_X
      case Does::end:
        return give(a, is);
    }
  }
}

double Programs::number(const MachineData& machine, const std::byte* block, ExprRef expression) const {
  const Start& start = starts_[expression.begin];
  double out = 0;
  run(machine, block, steps_.data() + start.step,
      [&](double number, bool is) { out = start.truth ? (is ? 1 : 0) : number; });
  return out;
}

bool Programs::holds(const MachineData& machine, const std::byte* block, ExprRef expression) const {
  const Start& start = starts_[expression.begin];
  bool out = false;
  run(machine, block, steps_.data() + start.step,
      [&](double number, bool is) { out = start.truth ? is : number != 0; });
  return out;
}

}  // namespace mobrin::detail
