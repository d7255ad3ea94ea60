#include "expression/condition.hpp"

#include <array>
#include <bit>
#include <utility>

#include "machine/inlining.hpp"

namespace mobrin::detail {

namespace {

using Kind = Side::Kind;

template <Kind kKind>
[[nodiscard]] MOBRIN_INLINE double value_of(const Side& side, const std::byte* block) {
  if constexpr (kKind == Kind::constant) {
    return side.then_plus;
  } else if constexpr (kKind == Kind::sum_of_whole || kKind == Kind::sum_of_number) {
    constexpr Kind kPlain = kKind == Kind::sum_of_whole ? Kind::whole : Kind::number;
    const double sum = value_of<kPlain>(side, block) * side.times + side.plus;
    return std::bit_cast<double>(std::bit_cast<std::uint64_t>(sum) & side.kept) * side.then_times + side.then_plus;
  } else {
    return value_at(block,
                    kKind == Kind::byte    ? BlockValue::byte
                    : kKind == Kind::whole ? BlockValue::whole
                                           : BlockValue::number,
                    side.at);
  }
}

// By a branch, which is foreseen where the values stay alike. The call is the last thing that is done: compilers make
// a jump of it.
template <Kind kLeft, Kind kRight, Comparison::Is kIs>
bool compares(const Comparison* self, const std::byte* block) {
  const double left = value_of<kLeft>(self->left, block), right = value_of<kRight>(self->right, block);
  const bool is = kIs == Comparison::Is::less         ? left < right
                  : kIs == Comparison::Is::less_equal ? left <= right
                                                      : left == right;
  const Comparison* const next = is ? self->if_true : self->if_false;
  return next->decides(next, block);
}
template <bool kIs>
bool ends(const Comparison*, const std::byte*) {
  return kIs;
}

constexpr std::size_t kKinds = 6;
using OfKinds = std::array<Comparison::Decides, kKinds * kKinds>;
template <Comparison::Is kIs, std::size_t... kBoth>
constexpr OfKinds of_kinds(std::index_sequence<kBoth...>) {
  return {compares<static_cast<Kind>(kBoth / kKinds), static_cast<Kind>(kBoth % kKinds), kIs>...};
}
// The function for a comparison.
Comparison::Decides decides(const Comparison& comparison) {
  using Is = Comparison::Is;
  static constexpr std::make_index_sequence<kKinds * kKinds> kAll;
  static constexpr OfKinds kLess = of_kinds<Is::less>(kAll), kLessEqual = of_kinds<Is::less_equal>(kAll),
                           kEqual = of_kinds<Is::equal>(kAll);
  const OfKinds& all = comparison.is == Is::less ? kLess : comparison.is == Is::less_equal ? kLessEqual : kEqual;
  return all[static_cast<std::size_t>(comparison.left.kind) * kKinds + static_cast<std::size_t>(comparison.right.kind)];
}

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
        side.kind = op == Op::load_bool ? Kind::byte : op == Op::load_int ? Kind::whole : Kind::number;
        side.at = term.step.arg;
        return true;
      case Op::negate:
        return moving(*term.of[0], side) && multiply(side, -1);
      case Op::abs:
        if (!moving(*term.of[0], side) || done_ >= kAbsolute) return false;
        done_ = kAbsolute;
        side.kept = ~std::bit_cast<std::uint64_t>(-0.0);
        return sums(side);
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

  [[nodiscard]] bool moving(const ExprTerm& term, Side& side) {
    return write(term, side) && side.kind != Kind::constant;
  }
  // False where there is no kind for it.
  [[nodiscard]] static bool sums(Side& side) {
    if (side.kind == Kind::whole) side.kind = Kind::sum_of_whole;
    if (side.kind == Kind::number) side.kind = Kind::sum_of_number;
    return side.kind == Kind::sum_of_whole || side.kind == Kind::sum_of_number;
  }
  // One of the two places that there are for such a part, the one behind what is done already.
  [[nodiscard]] bool put(Side& side, Done early, double Side::*first, Done late, double Side::*second, double value) {
    if (done_ >= late) return false;
    const bool is_first = done_ < early;
    side.*(is_first ? first : second) = value;
    done_ = is_first ? early : late;
    return sums(side);
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
    if (!truth(root, kTrue, kFalse)) {
      out_.resize(begin_);
      return false;
    }
    const auto at = [&](std::uint16_t place) {
      return place == kTrue ? 0 : place == kFalse ? 1 : static_cast<std::uint32_t>(begin_ + starts_[place]);
    };
    for (std::size_t i = 0; i < ways_.size(); ++i) {
      Comparison& each = out_[begin_ + i];
      each.true_at = at(ways_[i].yes);
      each.false_at = at(ways_[i].no);
      each.decides = decides(each);
    }
    return true;
  }

 private:
  static constexpr std::size_t kMost = 256;  // comparisons: some compilers make no jumps of calls
  static constexpr std::uint16_t kTrue = 0xffff, kFalse = 0xfffe;

  // Where it goes on: a number that a place is found for later.
  std::uint16_t new_place() {
    starts_.push_back(0);
    return static_cast<std::uint16_t>(starts_.size() - 1);
  }
  void here(std::uint16_t place) { starts_[place] = static_cast<std::uint16_t>(out_.size() - begin_); }

  [[nodiscard]] bool truth(const ExprTerm& term, std::uint16_t yes, std::uint16_t no) {
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
        Comparison is;
        is.left.kind = Kind::byte;
        is.left.at = term.step.arg;
        is.right.then_plus = 0;
        return add(is, no, yes);  // it is not 0
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
  [[nodiscard]] bool add(const Comparison& comparison, std::uint16_t yes, std::uint16_t no) {
    out_.push_back(comparison);
    ways_.push_back({yes, no});
    return ways_.size() < kMost;
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

std::vector<Comparison> no_comparisons() {
  std::vector<Comparison> all(2);
  all[0].decides = ends<true>;
  all[1].decides = ends<false>;
  return all;
}

void link(std::vector<Comparison>& list) {
  for (Comparison& each : list) {
    each.if_true = &list[each.true_at];
    each.if_false = &list[each.false_at];
  }
}

bool add_condition(const ExprPool& pool, const ExprTerm& root, std::vector<Comparison>& out) {
  return ConditionWriter(pool, out).write(root);
}

}  // namespace mobrin::detail
