#include "expression/condition.hpp"

#include <utility>

namespace mobrin::detail {

namespace {

// What a term does to one value, put together from the inside out; fails where it is more than a side can be.
class SideWriter {
 public:
  explicit SideWriter(const ExprPool& pool) : pool_(pool) {}

  [[nodiscard]] bool write(const ExprTerm& term, Side& side) {
    const Op op = term.step.op;
    switch (op) {
      case Op::constant:
        side.then_plus = pool_.constants[term.step.arg];
        return true;
      case Op::load_bool:
      case Op::load_int:
      case Op::load_float:
        side.constant = false;
        side.from = op == Op::load_bool  ? BlockValue::byte
                    : op == Op::load_int ? BlockValue::whole
                                         : BlockValue::number;
        side.at = term.step.arg;
        return true;
      case Op::negate:
        return moving(*term.of[0], side) && multiply(side, -1);
      case Op::abs:
        if (!moving(*term.of[0], side) || done_ >= kAbsolute) return false;
        done_ = kAbsolute;
        side.absolute = true;
        side.plain = false;
        return true;
      case Op::add:
      case Op::subtract:
      case Op::multiply:
        return with_constant(term, side);
      default:
        return false;
    }
  }

 private:
  // The parts of a side in the order in which they are done.
  enum Done { kNothing, kTimes, kPlus, kAbsolute, kThenTimes, kThenPlus };

  [[nodiscard]] bool moving(const ExprTerm& term, Side& side) { return write(term, side) && !side.constant; }
  // One of the two places that there are for such a part, the one behind what is done already.
  [[nodiscard]] bool put(Side& side, Done early, double Side::*first, Done late, double Side::*second, double value) {
    if (done_ >= late) return false;
    const bool is_first = done_ < early;
    side.*(is_first ? first : second) = value;
    done_ = is_first ? early : late;
    side.plain = false;
    return true;
  }
  [[nodiscard]] bool multiply(Side& side, double by) {
    return put(side, kTimes, &Side::times, kThenTimes, &Side::then_times, by);
  }
  [[nodiscard]] bool add(Side& side, double what) {
    return put(side, kPlus, &Side::plus, kThenPlus, &Side::then_plus, what);
  }
  [[nodiscard]] bool with_constant(const ExprTerm& term, Side& side) {
    const bool first = term.of[0]->step.op == Op::constant;
    if (first == (term.of[1]->step.op == Op::constant)) return false;
    const double constant = pool_.constants[term.of[first ? 0 : 1]->step.arg];
    if (!moving(*term.of[first ? 1 : 0], side)) return false;
    if (term.step.op == Op::multiply) return multiply(side, constant);
    if (term.step.op == Op::add) return add(side, constant);
    // a - c is a + -c, c - a is -a + c.
    return first ? multiply(side, -1) && add(side, constant) : add(side, -constant);
  }

  const ExprPool& pool_;
  Done done_ = kNothing;
};

class ConditionWriter {
 public:
  ConditionWriter(const ExprPool& pool, std::vector<Comparison>& out) : pool_(pool), out_(out), begin_(out.size()) {}

  [[nodiscard]] bool write(const ExprTerm& root) {
    if (!truth(root, Comparison::kTrue, Comparison::kFalse) || ways_.size() >= kMost) {
      out_.resize(begin_);
      return false;
    }
    const auto found = [&](std::uint16_t place) { return place < kMost ? starts_[place] : place; };
    for (std::size_t i = 0; i < ways_.size(); ++i) {
      Comparison& each = out_[begin_ + i];
      const std::uint16_t yes = found(ways_[i].yes), no = found(ways_[i].no);
      // What a comparison is followed by in the list is what one of its outcomes leads to: the last one of a term
      // leads to both places that the term does, and one of those is the next.
      each.last = i + 1 == ways_.size();
      each.goes_on = each.last ? yes == Comparison::kTrue : yes == i + 1;
      each.other = each.goes_on ? no : yes;
    }
    return true;
  }

 private:
  static constexpr std::size_t kMost = 0x8000;  // comparisons, and places where one goes on

  // Where it goes on: a number that a place is found for later.
  std::uint16_t new_place() {
    starts_.push_back(0);
    return static_cast<std::uint16_t>(starts_.size() - 1);
  }
  void here(std::uint16_t place) { starts_[place] = static_cast<std::uint16_t>(out_.size() - begin_); }

  [[nodiscard]] bool truth(const ExprTerm& term, std::uint16_t yes, std::uint16_t no) {
    if (starts_.size() >= kMost) return false;
    switch (term.step.op) {
      case Op::and_:
      case Op::or_: {
        const std::uint16_t second = new_place();
        if (!(term.step.op == Op::and_ ? truth(*term.of[0], second, no) : truth(*term.of[0], yes, second)))
          return false;
        here(second);
        return truth(*term.of[1], yes, no);
      }
      case Op::not_:
        return truth(*term.of[0], no, yes);
      case Op::load_bool: {
        Comparison is;  // not 0
        is.left.constant = false;
        is.left.at = term.step.arg;
        is.right.then_plus = 0;
        return add(is, no, yes);
      }
      case Op::less:
        return compare(*term.of[0], *term.of[1], Comparison::Is::less, yes, no);
      case Op::less_equal:
        return compare(*term.of[0], *term.of[1], Comparison::Is::less_equal, yes, no);
      case Op::greater:
        return compare(*term.of[1], *term.of[0], Comparison::Is::less, yes, no);
      case Op::greater_equal:
        return compare(*term.of[1], *term.of[0], Comparison::Is::less_equal, yes, no);
      case Op::equal:
        return compare(*term.of[0], *term.of[1], Comparison::Is::equal, yes, no);
      case Op::not_equal:
        return compare(*term.of[0], *term.of[1], Comparison::Is::equal, no, yes);
      default:
        return false;
    }
  }

  [[nodiscard]] bool compare(const ExprTerm& left, const ExprTerm& right, Comparison::Is is, std::uint16_t yes,
                             std::uint16_t no) {
    Comparison out;
    out.is = is;
    return SideWriter(pool_).write(left, out.left) && SideWriter(pool_).write(right, out.right) && add(out, yes, no);
  }
  bool add(const Comparison& comparison, std::uint16_t yes, std::uint16_t no) {
    out_.push_back(comparison);
    ways_.push_back({yes, no});
    return true;
  }

  struct Ways {
    std::uint16_t yes, no;
  };
  const ExprPool& pool_;
  std::vector<Comparison>& out_;
  std::size_t begin_;
  std::vector<Ways> ways_;
  std::vector<std::uint16_t> starts_;
};

}  // namespace

bool add_condition(const ExprPool& pool, const ExprTerm& root, std::vector<Comparison>& out) {
  return ConditionWriter(pool, out).write(root);
}

}  // namespace mobrin::detail
