#include "solver.hpp"

#include <z3++.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace mobrin::proof {

using detail::Op;

namespace {

bool same(const Term& a, const Term& b) {
  const bool alike = a.kind == b.kind && a.op == b.op && a.value == b.value && a.index == b.index;
  return alike && std::equal(a.operands.begin(), a.operands.end(), b.operands.begin(), b.operands.end(), same);
}

}  // namespace

struct Solver::Work {
  explicit Work(const Model& m) : model(m) {}

  const Model& model;
  z3::context context{};
  std::optional<z3::solver> plain{}, choosing{};
  std::vector<z3::expr> facts{};  // of the question
  bool linear = true;             // all of them
  bool exact = false;             // as if nothing were rounded
  bool quickly = false;           // nothing is known of products
  std::map<std::pair<int, std::uint16_t>, z3::expr> known{};
  std::map<double, z3::expr> numbers{};
  std::vector<std::pair<const Term*, z3::expr>> computed{};  // operations that were rounded in the question
  int slack_count = 0;

  // The plain one where it can only be short; choosing among strategies takes longer than such a question. Products of
  // what is not known it may follow for ever.
  z3::solver& solver_for_it() {
    std::optional<z3::solver>& out = linear ? plain : choosing;
    if (out) {
      out->reset();
      return *out;
    }
    out = linear ? z3::solver(context, z3::solver::simple{}) : z3::solver(context);
    z3::params params(context);
    params.set("rlimit", 100'000U);
    params.set("random_seed", 1U);
    out->set(params);
    return *out;
  }

  // A double is a fraction: exact. Kept, as the same few come again in every question.
  z3::expr number(double value) {
    if (const auto found = numbers.find(value); found != numbers.end()) return found->second;
    int exponent = 0;
    const double mantissa = std::frexp(value, &exponent);
    const z3::expr whole = context.real_val(static_cast<std::int64_t>(std::ldexp(mantissa, 53)));
    const int shift = exponent - 53;
    if (std::abs(shift) > 1100) throw z3::exception("out of range");
    const z3::expr power = context.real_val(power_of_two(std::abs(shift)).c_str());
    const z3::expr out = (shift > 0 ? whole * power : whole / power).simplify();
    numbers.emplace(value, out);
    return out;
  }
  // In decimal.
  static std::string power_of_two(int exponent) {
    std::string digits = "1";
    for (int i = 0; i < exponent; ++i) {
      int carry = 0;
      for (std::size_t d = digits.size(); d-- > 0;) {
        const int twice = (digits[d] - '0') * 2 + carry;
        digits[d] = static_cast<char>('0' + twice % 10);
        carry = twice / 10;
      }
      if (carry > 0) digits.insert(digits.begin(), static_cast<char>('0' + carry));
    }
    return digits;
  }
  z3::expr truth_number(const z3::expr& truth) { return z3::ite(truth, context.real_val(1), context.real_val(0)); }
  z3::expr as_truth(const z3::expr& term) { return term.is_bool() ? term : term != 0; }
  z3::expr as_number(const z3::expr& term) { return term.is_bool() ? truth_number(term) : term; }

  // Off by at most what rounding to 64 bits may lose.
  z3::expr rounded(const z3::expr& whole) {
    if (exact) return whole;
    const z3::expr out = context.real_const(("r" + std::to_string(slack_count++)).c_str());
    const z3::expr size = z3::ite(whole >= 0, whole, -whole);
    const z3::expr off = size * number(std::ldexp(1, -52)) + number(std::ldexp(1, -1000));
    facts.push_back(out >= whole - off && out <= whole + off);
    facts.push_back(whole != 0 || out == 0);
    return out;
  }

  // What 32 bits hold is nothing, or not less than that.
  void add_least(const z3::expr& value) {
    if (exact) return;
    const z3::expr least = number(std::ldexp(1, -149));
    facts.push_back(value == 0 || value >= least || value <= -least);
  }

  z3::expr any_number(bool no_less_than_zero) {
    const z3::expr out = context.real_const(("p" + std::to_string(slack_count++)).c_str());
    if (no_less_than_zero) facts.push_back(out >= 0);
    return out;
  }

  z3::expr named(const Term& term) {
    const std::pair<int, std::uint16_t> key{static_cast<int>(term.kind), term.index};
    if (const auto found = known.find(key); found != known.end()) return found->second;
    const std::string name = "x" + std::to_string(known.size());
    std::optional<z3::expr> out;
    if (term.kind == Term::Kind::input) {
      const InputDef& input = model.machine().inputs()[term.index];
      const auto& cells = model.fine_cells()[term.index];
      if (std::holds_alternative<BoolInput>(input.kind)) {
        out = context.bool_const(name.c_str());
      } else if (std::holds_alternative<IntInput>(input.kind) || std::holds_alternative<ChoiceInput>(input.kind)) {
        const z3::expr whole = context.int_const(name.c_str());
        out = z3::to_real(whole);
        facts.push_back(*out >= number(cells.front().low) && *out <= number(cells.back().high));
      } else {
        out = context.real_const(name.c_str());
        z3::expr_vector any(context);
        for (const Span& cell : cells) any.push_back(*out >= number(cell.low) && *out <= number(cell.high));
        facts.push_back(z3::mk_or(any));
        add_least(*out);
      }
    } else if (term.kind == Term::Kind::variable) {
      const Variable& variable = model.variables()[term.index];
      if (variable.kind == Variable::Kind::truth) {
        out = context.bool_const(name.c_str());
      } else if (variable.kind == Variable::Kind::whole) {
        out = z3::to_real(context.int_const(name.c_str()));
        facts.push_back(*out >= number(variable.range.low) && *out <= number(variable.range.high));
      } else {
        out = context.real_const(name.c_str());
        add_least(*out);
      }
    } else {
      out = context.bool_const(name.c_str());  // a state, a pulse: any
    }
    known.emplace(key, *out);
    return *out;
  }

  // The same operation of the same values is off by the same.
  z3::expr translate(const Term& term) {
    if (term.kind == Term::Kind::constant) return number(term.value);
    if (term.kind != Term::Kind::operation) return named(term);
    for (const auto& [known_term, value] : computed)
      if (same(*known_term, term)) return value;
    computed.emplace_back(&term, translate_operation(term));
    return computed.back().second;
  }

  z3::expr translate_operation(const Term& term) {
    std::vector<z3::expr> kids;
    for (const Term& each : term.operands) kids.push_back(translate(each));
    const auto a = [&] { return as_number(kids[0]); };
    const auto b = [&] { return as_number(kids[1]); };
    switch (term.op) {
      case Op::negate:
        return -a();
      case Op::not_:
        return !as_truth(kids[0]);
      case Op::abs:
        return z3::ite(a() >= 0, a(), -a());
      case Op::sign:
        return z3::ite(a() > 0, context.real_val(1), z3::ite(a() < 0, context.real_val(-1), context.real_val(0)));
      case Op::add:
        return rounded(a() + b());
      case Op::subtract:
        return rounded(a() - b());
      case Op::multiply:
        if (!a().is_numeral() && !b().is_numeral()) {
          if (quickly) return any_number(same(term.operands[0], term.operands[1]));
          linear = false;
        }
        return rounded(a() * b());
      case Op::divide:
        if (!b().is_numeral()) {
          if (quickly) return any_number(false);
          linear = false;
        }
        return z3::ite(b() == 0, context.real_val(0), rounded(a() / z3::ite(b() == 0, context.real_val(1), b())));
      case Op::less:
        return a() < b();
      case Op::less_equal:
        return a() <= b();
      case Op::greater:
        return a() > b();
      case Op::greater_equal:
        return a() >= b();
      case Op::equal:
        return a() == b();
      case Op::not_equal:
        return a() != b();
      case Op::and_:
        return as_truth(kids[0]) && as_truth(kids[1]);
      case Op::or_:
        return as_truth(kids[0]) || as_truth(kids[1]);
      case Op::min:
        return z3::ite(a() < b(), a(), b());
      case Op::max:
        return z3::ite(a() < b(), b(), a());
      case Op::clamp: {
        const z3::expr c = as_number(kids[2]);
        return z3::ite(a() < b(), b(), z3::ite(c < a(), c, a()));
      }
      case Op::select:
        return z3::ite(as_truth(kids[0]), b(), as_number(kids[2]));
      default:
        throw z3::exception("no such operation");
    }
  }

  bool has_no_values(const std::vector<const Term*>& terms, const std::vector<const Term*>& others, bool exactly) {
    known.clear();
    facts.clear();
    computed.clear();
    linear = true;
    exact = exactly;
    slack_count = 0;
    for (const Term* term : terms) facts.push_back(as_truth(translate(*term)));
    for (const Term* term : others) facts.push_back(!as_truth(translate(*term)));
    z3::solver& solver = solver_for_it();
    for (const z3::expr& fact : facts) solver.add(fact);
    return solver.check() == z3::unsat;
  }
};

Solver::Solver(const Model& model) : work_(std::make_unique<Work>(model)) {}
Solver::~Solver() = default;

bool Solver::impossible(const std::vector<const Term*>& terms, const std::vector<const Term*>& others, bool quickly) {
  // What may overflow is not decided: inputs and variables have 32 bits, so a few products fit.
  for (const auto* list : {&terms, &others})
    for (const Term* term : *list) {
      int products = 0;
      each_term(*term, [&](const Term& each) {
        if (each.kind == Term::Kind::operation && (each.op == Op::multiply || each.op == Op::divide)) ++products;
      });
      if (products > 6) return false;
    }
  try {
    Work& work = *work_;
    work.quickly = quickly;
    // What is possible as if nothing were rounded is possible: mostly that is all, and it is much the shorter question.
    return work.has_no_values(terms, others, true) && work.has_no_values(terms, others, false);
  } catch (const z3::exception&) {
    return false;  // not decided
  }
}

}  // namespace mobrin::proof
