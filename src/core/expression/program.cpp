// Writing and running programs.
#include "expression/program.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <utility>

#include "expression/expression_tree.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

using Does = ProgramStep::Does;

namespace {

// Where a number comes from that a step can take within itself; the last two: the first one from the block, the second
// one a constant.
enum class From : std::uint8_t { constant, byte, whole, number, aside, whole_and_constant, number_and_constant };

constexpr Does offset_by(Does first, From from) {
  return static_cast<Does>(static_cast<std::uint8_t>(first) + static_cast<std::uint8_t>(from));
}

// The step of an operation that takes its second number from within itself, with the first of its forms.
struct Form {
  Does first;
  bool truth;
  bool both;  // it has forms that take both numbers from within themselves
};
Form form_of(Op op) {
  switch (op) {
    case Op::add:
      return {Does::add_C, false, true};
    case Op::subtract:
      return {Does::subtract_C, false, true};
    case Op::multiply:
      return {Does::multiply_C, false, true};
    case Op::divide:
      return {Does::divide_C, false, false};
    case Op::min:
      return {Does::minimum_C, false, false};
    case Op::max:
      return {Does::maximum_C, false, false};
    case Op::less:
      return {Does::less_C, true, true};
    case Op::less_equal:
      return {Does::less_equal_C, true, true};
    case Op::greater:
      return {Does::greater_C, true, true};
    case Op::greater_equal:
      return {Does::greater_equal_C, true, true};
    case Op::equal:
      return {Does::equal_C, true, true};
    default:
      return {Does::not_equal_C, true, true};
  }
}
// The same with its two numbers in the other order. Not for min and max, which tell the two apart where one is no
// number.
bool turn(Op op, Form& form) {
  if (op == Op::min || op == Op::max) return false;
  form = op == Op::subtract ? Form{Does::subtract_from_C, false, false}
         : op == Op::divide ? Form{Does::divide_into_C, false, false}
                            : form_of(mirrored(op));
  return true;
}

std::optional<From> source_of(const ExprTerm& term) {
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

namespace {

class ProgramWriter {
 public:
  ProgramWriter(const ExprPool& pool, std::vector<ProgramStep>& out) : pool_(pool), out_(out) {}

  void write(const ExprTerm& root) {
    if (!gives_truth(root.step.op)) {
      number(root);
      add(Does::end);
      return;
    }
    Jumps other;
    truth(root, true, other);
    add(Does::end_true);
    land(other);
    add(Does::end_false);
  }

 private:
  // Steps that go on from where they are told to land.
  using Jumps = std::vector<std::size_t>;

  std::size_t add(Does does, std::uint32_t arg = 0, double constant = 0) {
    out_.push_back({does, true, 0, arg, constant});
    return out_.size() - 1;
  }
  void land(const Jumps& jumps) {
    for (const std::size_t at : jumps) out_[at].over = static_cast<std::uint16_t>(out_.size() - at - 1);
  }
  // The last step decides: one that gives `goes_on` goes to the next, the other jumps.
  void decide(bool goes_on, Jumps& other) {
    out_.back().goes_on = goes_on;
    other.push_back(out_.size() - 1);
  }
  void add_with(Does first, From from, const ExprTerm& second) {
    const bool constant = from == From::constant;
    add(offset_by(first, from), constant ? 0 : second.step.arg, constant ? pool_.constants[second.step.arg] : 0);
  }
  // A number of the block with a constant, in one step where there is such a one.
  bool fused(const Form& form, const ExprTerm& block, const ExprTerm& constant) {
    const std::optional<From> from = source_of(block);
    if (!form.both || (from != From::whole && from != From::number) || source_of(constant) != From::constant)
      return false;
    add(offset_by(form.first, from == From::whole ? From::whole_and_constant : From::number_and_constant),
        block.step.arg, pool_.constants[constant.step.arg]);
    return true;
  }

  // Two numbers, the second one within the step where that can be.
  void pair(const ExprTerm& term) {
    const Op op = term.step.op;
    const ExprTerm &left = *term.of[0], &right = *term.of[1];
    Form form = form_of(op);
    const auto from_left = source_of(left), from_right = source_of(right);
    if (fused(form, left, right)) return;
    if (from_right) {
      number(left);
      return add_with(form.first, *from_right, right);
    }
    if (from_left && turn(op, form)) {
      if (fused(form, right, left)) return;
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

  void number(const ExprTerm& term) {
    const Op op = term.step.op;
    if (gives_truth(op))
      return choose(
          term, [&] { add(Does::load_C, 0, 1); }, [&] { add(Does::load_C, 0, 0); });
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
      case Op::select:
        return choose(
            *term.of[0], [&] { number(*term.of[1]); }, [&] { number(*term.of[2]); });
      default:
        pair(term);
    }
  }

  // One of two numbers.
  template <class IfTrue, class IfFalse>
  void choose(const ExprTerm& condition, const IfTrue& if_true, const IfFalse& if_false) {
    Jumps other;
    truth(condition, true, other);
    if_true();
    const Jumps over{add(Does::skip)};
    land(other);
    if_false();
    land(over);
  }

  // Where it is `goes_on` the next step is next; where it is not, the jumps lead elsewhere.
  void truth(const ExprTerm& term, bool goes_on, Jumps& other) {
    const Op op = term.step.op;
    switch (op) {
      case Op::and_:
      case Op::or_: {
        // The second one is looked at only where it decides: looking changes nothing.
        const bool undecided = op == Op::and_;
        if (undecided == goes_on) {
          truth(*term.of[0], undecided, other);
          return truth(*term.of[1], goes_on, other);
        }
        Jumps decided;
        truth(*term.of[0], undecided, decided);
        truth(*term.of[1], goes_on, other);
        return land(decided);
      }
      case Op::not_:
        return truth(*term.of[0], !goes_on, other);
      case Op::in_state:
        add(Does::in_state, term.step.arg);
        break;
      case Op::load_bool:
        add(Does::byte_is_true, term.step.arg);
        break;
      default:
        if (gives_truth(op)) {
          pair(term);
        } else {
          number(term);
          add(Does::is_true);
        }
    }
    decide(goes_on, other);
  }

  const ExprPool& pool_;
  std::vector<ProgramStep>& out_;
};

}  // namespace

Programs::Programs(const ExprPool& pool, const std::vector<ExprRef>& all) : starts_(pool.code.size()) {
  for (const ExprRef& each : all) {
    if (each.empty()) continue;
    const std::unique_ptr<ExprTerm> root = tree_of(pool, each);
    Start& start = starts_[each.begin];
    start.step = static_cast<std::uint32_t>(steps_.size());
    ProgramWriter(pool, steps_).write(*root);
    start.condition = add_condition(pool, *root, comparisons_);
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
inline auto Programs::run(const MachineData& machine, const std::byte* block, const ProgramStep* step,
                          const Give& give) {
  double aside[kMaxStack];  // the compiler has checked that it is enough
  double* top = aside;
  double a = 0;
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
#define MOBRIN_K(name, source, what)    \
  case Does::name##_K##source: {        \
    a = at_##source(block, *step, top); \
    const double b = step->constant;    \
    what;                               \
    break;                              \
  }
#define MOBRIN_GO(truth) step += (truth) == step->goes_on ? 0 : step->over
#define MOBRIN_BUT_ASIDE(name, what) \
  MOBRIN_X(name, C, what) MOBRIN_X(name, B, what) MOBRIN_X(name, I, what) MOBRIN_X(name, F, what)
#define MOBRIN_ALL(name, what) MOBRIN_BUT_ASIDE(name, what) MOBRIN_X(name, S, what)
#define MOBRIN_ALL_AND_K(name, what) MOBRIN_ALL(name, what) MOBRIN_K(name, I, what) MOBRIN_K(name, F, what)
#define MOBRIN_STEP(name, what) \
  case Does::name:              \
    what;                       \
    break;
      MOBRIN_ALL_AND_K(add, a = a + b)
      MOBRIN_ALL_AND_K(subtract, a = a - b)
      MOBRIN_ALL_AND_K(multiply, a = a * b)
      MOBRIN_ALL(divide, a = b == 0 ? 0 : a / b)
      MOBRIN_ALL(subtract_from, a = b - a)
      MOBRIN_ALL(divide_into, a = a == 0 ? 0 : b / a)
      MOBRIN_BUT_ASIDE(minimum, a = b < a ? b : a)
      MOBRIN_X(minimum, S, a = a < b ? a : b)  // aside is the first one
      MOBRIN_BUT_ASIDE(maximum, a = a < b ? b : a)
      MOBRIN_X(maximum, S, a = b < a ? a : b)
      MOBRIN_ALL_AND_K(less, MOBRIN_GO(a < b))
      MOBRIN_ALL_AND_K(less_equal, MOBRIN_GO(a <= b))
      MOBRIN_ALL_AND_K(greater, MOBRIN_GO(a > b))
      MOBRIN_ALL_AND_K(greater_equal, MOBRIN_GO(a >= b))
      MOBRIN_ALL_AND_K(equal, MOBRIN_GO(a == b))
      MOBRIN_ALL_AND_K(not_equal, MOBRIN_GO(a != b))
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
        MOBRIN_STEP(is_true, MOBRIN_GO(a != 0))
        MOBRIN_STEP(byte_is_true, MOBRIN_GO(field_at<std::uint8_t>(block, step->arg) != 0))
        MOBRIN_STEP(in_state, MOBRIN_GO(is_active(machine, block, static_cast<std::uint16_t>(step->arg))))
        MOBRIN_STEP(skip, step += step->over)
#undef MOBRIN_STEP
#undef MOBRIN_ALL_AND_K
#undef MOBRIN_ALL
#undef MOBRIN_BUT_ASIDE
#undef MOBRIN_GO
#undef MOBRIN_K
#undef MOBRIN_X
      case Does::end:
        return give.of_number(a);
      case Does::end_true:
        return give.of_truth(true);
      case Does::end_false:
        return give.of_truth(false);
    }
  }
}

namespace {

struct AsNumber {
  [[nodiscard]] static double of_number(double number) { return number; }
  [[nodiscard]] static double of_truth(bool is) { return is ? 1 : 0; }
};
struct AsTruth {
  [[nodiscard]] static bool of_number(double number) { return number != 0; }
  [[nodiscard]] static bool of_truth(bool is) { return is; }
};

}  // namespace

double Programs::number(const MachineData& machine, const std::byte* block, ExprRef expression) const {
  return run(machine, block, steps_.data() + starts_[expression.begin].step, AsNumber());
}

bool Programs::runs_true(const MachineData& machine, const std::byte* block, std::uint32_t step) const {
  return run(machine, block, steps_.data() + step, AsTruth());
}

}  // namespace mobrin::detail
