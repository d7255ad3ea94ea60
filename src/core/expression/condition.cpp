#include "expression/condition.hpp"

#include <array>
#include <bit>
#include <utility>

#include "machine/inlining.hpp"

namespace mobrin::detail {

namespace {

using Kind = Side::Kind;
enum class Is : std::uint8_t { less, less_equal, equal };

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
template <Kind kLeft, Kind kRight, Is kIs>
bool compares(const Comparison* self, const std::byte* block) {
  const double left = value_of<kLeft>(self->left, block), right = value_of<kRight>(self->right, block);
  const bool is = kIs == Is::less ? left < right : kIs == Is::less_equal ? left <= right : left == right;
  const Comparison* const next = is ? self->if_true : self->if_false;
  return next->decides(next, block);
}
template <bool kIs>
bool ends(const Comparison*, const std::byte*) {
  return kIs;
}

constexpr std::size_t kKinds = 6;
using OfKinds = std::array<Comparison::Decides, kKinds * kKinds>;
template <Is kIs, std::size_t... kBoth>
constexpr OfKinds of_kinds(std::index_sequence<kBoth...>) {
  return {compares<static_cast<Kind>(kBoth / kKinds), static_cast<Kind>(kBoth % kKinds), kIs>...};
}
// The function for a comparison.
Comparison::Decides decides(Is is, Kind left, Kind right) {
  static constexpr std::make_index_sequence<kKinds * kKinds> kAll;
  static constexpr OfKinds kLess = of_kinds<Is::less>(kAll), kLessEqual = of_kinds<Is::less_equal>(kAll),
                           kEqual = of_kinds<Is::equal>(kAll);
  const OfKinds& all = is == Is::less ? kLess : is == Is::less_equal ? kLessEqual : kEqual;
  return all[static_cast<std::size_t>(left) * kKinds + static_cast<std::size_t>(right)];
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

constexpr Comparison kTrue{ends<true>}, kFalse{ends<false>};

// Writes a term when what it leads to is written: the last comparison first.
class ConditionWriter {
 public:
  ConditionWriter(const ExprPool& pool, std::deque<Comparison>& out) : pool_(pool), out_(out), begin_(out.size()) {}

  [[nodiscard]] const Comparison* write(const ExprTerm& root) {
    const Comparison* const first = truth(root, &kTrue, &kFalse);
    if (first == nullptr) out_.resize(begin_);
    return first;
  }

 private:
  static constexpr std::size_t kMost = 256;  // comparisons: some compilers make no jumps of calls

  // Where the term is decided, which leads to one of the two; null where it is more than comparisons, or leads to that.
  [[nodiscard]] const Comparison* truth(const ExprTerm& term, const Comparison* yes, const Comparison* no) {
    if (yes == nullptr || no == nullptr) return nullptr;
    switch (term.step.op) {
      case Op::and_:
        return truth(*term.of[0], truth(*term.of[1], yes, no), no);
      case Op::or_:
        return truth(*term.of[0], yes, truth(*term.of[1], yes, no));
      case Op::not_:
        return truth(*term.of[0], no, yes);
      case Op::load_bool: {
        Side byte, zero;
        byte.kind = Kind::byte;
        byte.at = term.step.arg;
        zero.then_plus = 0;
        return add(Is::equal, byte, zero, no, yes);  // it is not 0
      }
      case Op::less:
        return compare(*term.of[0], *term.of[1], Is::less, yes, no);
      case Op::less_equal:
        return compare(*term.of[0], *term.of[1], Is::less_equal, yes, no);
      case Op::greater:
        return compare(*term.of[1], *term.of[0], Is::less, yes, no);
      case Op::greater_equal:
        return compare(*term.of[1], *term.of[0], Is::less_equal, yes, no);
      case Op::equal:
        return compare(*term.of[0], *term.of[1], Is::equal, yes, no);
      case Op::not_equal:
        return compare(*term.of[0], *term.of[1], Is::equal, no, yes);
      default:
        return nullptr;
    }
  }

  [[nodiscard]] const Comparison* compare(const ExprTerm& left, const ExprTerm& right, Is is, const Comparison* yes,
                                          const Comparison* no) {
    Side of_left, of_right;
    if (!SideWriter(pool_).write(left, of_left) || !SideWriter(pool_).write(right, of_right)) return nullptr;
    return add(is, of_left, of_right, yes, no);
  }
  [[nodiscard]] const Comparison* add(Is is, const Side& left, const Side& right, const Comparison* yes,
                                      const Comparison* no) {
    if (out_.size() - begin_ >= kMost) return nullptr;
    return &out_.emplace_back(Comparison{decides(is, left.kind, right.kind), yes, no, left, right});
  }

  const ExprPool& pool_;
  std::deque<Comparison>& out_;
  std::size_t begin_;
};

}  // namespace

const Comparison* add_condition(const ExprPool& pool, const ExprTerm& root, std::deque<Comparison>& out) {
  return ConditionWriter(pool, out).write(root);
}

}  // namespace mobrin::detail
