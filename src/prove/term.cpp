#include "term.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

#include "mobrin/core/names.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

using detail::ExprNode;
using detail::Op;

namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();
constexpr Span kAnything{-kInfinity, kInfinity};

class Binder {
 public:
  explicit Binder(const Vocabulary& names) : names_(names) {}

  std::optional<Term> bind(const ExprNode& node) {
    offset = node.offset;
    auto out = term_of(node);
    if (out) out->offset = node.offset;
    return out;
  }

  std::string problem, remedy;
  std::size_t offset = 0;  // of what is wrong

 private:
  std::optional<Term> term_of(const ExprNode& node) {
    Term out;
    switch (node.kind) {
      case ExprNode::Kind::number:
      case ExprNode::Kind::boolean:
        out.value = node.value;
        out.truth = node.kind == ExprNode::Kind::boolean;
        return out;
      case ExprNode::Kind::name:
        return name(node.name);
      case ExprNode::Kind::state:
        if (const auto state = names_.state(node.name)) return named(Term::Kind::state, *state);
        if (const std::string inside = detail::state_in_region(node.name, states());
            !inside.empty() && problem.empty()) {
          problem = "\"" + node.name + "\" is a region, and no state";
          remedy = "Ask for a state inside, such as `in(" + inside + ")`.";
        }
        return unknown("state", node.name, states());
      case ExprNode::Kind::trait: {
        std::vector<std::string> all(names_.machine->traits().begin(), names_.machine->traits().end());
        return among(Term::Kind::trait, "trait", node.name, all);
      }
      case ExprNode::Kind::pulse: {
        std::vector<std::string> all;
        const auto inputs = names_.machine->inputs();
        for (std::uint16_t i = 0; i < inputs.size(); ++i) {
          if (!std::holds_alternative<PulseInput>(inputs[i].kind)) continue;
          if (inputs[i].name.text == node.name) return named(Term::Kind::pulse, i);
          all.push_back(inputs[i].name.text);
        }
        return unknown("pulse", node.name, all);
      }
      case ExprNode::Kind::cue: {
        std::vector<std::string> all;
        for (const CueDef& cue : names_.machine->cues()) all.push_back(cue.name.text);
        return among(Term::Kind::cue, "cue", node.name, all);
      }
      case ExprNode::Kind::operation:
        return operation(node);
    }
    return std::nullopt;
  }
  static Term named(Term::Kind kind, std::uint16_t index) {
    Term out;
    out.kind = kind;
    out.index = index;
    return out;
  }
  std::optional<Term> among(Term::Kind kind, const char* what, const std::string& name,
                            const std::vector<std::string>& all) {
    const auto found = std::find(all.begin(), all.end(), name);
    if (found == all.end()) return unknown(what, name, all);
    return named(kind, static_cast<std::uint16_t>(found - all.begin()));
  }
  std::optional<Term> unknown(const std::string& what, const std::string& name, const std::vector<std::string>& all) {
    if (problem.empty()) {
      problem = "there is no " + what + " \"" + name + "\"";
      const std::string nearest = nearest_name(name, all);
      remedy = nearest.empty() ? "`mobrin list` prints what there is." : "Did you mean \"" + nearest + "\"?";
    }
    return std::nullopt;
  }
  [[nodiscard]] std::vector<std::string> states() const {
    std::vector<std::string> out;
    for (const StateInfo& state : names_.machine->states())
      if (!state.path.empty()) out.push_back(state.path);
    return out;
  }
  std::optional<std::uint16_t> input(const std::string& name) const {
    const auto inputs = names_.machine->inputs();
    for (std::uint16_t i = 0; i < inputs.size(); ++i)
      if (inputs[i].name.text == name) return i;
    return std::nullopt;
  }
  std::optional<Term> name(const std::string& text) {
    if (const auto variable = names_.variable(text)) return named(Term::Kind::variable, *variable);
    if (const auto index = input(text)) {
      if (!std::holds_alternative<PulseInput>(names_.machine->inputs()[*index].kind))
        return named(Term::Kind::input, *index);
      problem = "\"" + text + "\" is a pulse and has no value";
      remedy = "Write `pulse(" + text + ")`: it was written at this instant.";
      return std::nullopt;
    }
    if (is_something_else(text)) return std::nullopt;
    std::vector<std::string> all;
    for (const InputDef& each : names_.machine->inputs()) all.push_back(each.name.text);
    return unknown("input or variable", text, all);
  }
  // What is asked for by a function of its own; told.
  bool is_something_else(const std::string& text) {
    const auto tell = [&](const char* kind, const std::string& written) {
      if (!problem.empty()) return true;
      problem = "\"" + text + "\" is a " + kind + ", and no input or variable";
      remedy = "Write `" + written + "`.";
      return true;
    };
    if (const std::string state = names_.state(text) ? text : detail::path_ending_in(text, states()); !state.empty())
      return tell("state", "in(" + state + ")");
    for (const StateInfo& state : names_.machine->states())
      if (std::find(state.traits.begin(), state.traits.end(), text) != state.traits.end())
        return tell("trait", "is(" + text + ")");
    for (const CueDef& cue : names_.machine->cues())
      if (cue.name.text == text) return tell("cue", "cue(" + text + ")");
    return false;
  }
  std::optional<Term> operation(const ExprNode& node) {
    Term out;
    out.kind = Term::Kind::operation;
    out.op = node.op;
    // `tool == net`: a bare name beside a choice is one of its choices.
    if (node.operands.size() == 2 && (node.op == Op::equal || node.op == Op::not_equal))
      for (const std::size_t side : {0U, 1U}) {
        const ExprNode &one = *node.operands[side], &other = *node.operands[1 - side];
        if (one.kind != ExprNode::Kind::name || other.kind != ExprNode::Kind::name) continue;
        const auto index = input(one.name);
        const auto* choice = index ? std::get_if<ChoiceInput>(&names_.machine->inputs()[*index].kind) : nullptr;
        if (choice == nullptr) continue;
        std::vector<std::string> all;
        for (const Text& each : choice->choices) all.push_back(each.text);
        const auto found = std::find(all.begin(), all.end(), other.name);
        if (found == all.end()) {
          if (input(other.name)) continue;
          offset = other.offset;
          return unknown("choice", other.name, all);
        }
        Term constant;
        constant.value = static_cast<double>(found - all.begin());
        out.operands = {named(Term::Kind::input, *index), constant};
        return out;
      }
    for (const auto& each : node.operands) {
      auto operand = bind(*each);
      if (!operand) return std::nullopt;
      out.operands.push_back(std::move(*operand));
    }
    if (out.op == Op::negate && out.operands[0].kind == Term::Kind::constant) {  // -0.5
      Term constant = out.operands[0];
      constant.value = -constant.value;
      return constant;
    }
    return out;
  }

  const Vocabulary& names_;
};

// From what the ends of ranges lead to: rounding changes no order, so what lies between leads to what lies between.
Span between(double low, double high) { return std::isnan(low) || std::isnan(high) ? kAnything : Span{low, high}; }
Span product(const Span& a, const Span& b) {
  const auto times = [](double x, double y) { return x == 0 || y == 0 ? 0.0 : x * y; };
  const double all[] = {times(a.low, b.low), times(a.low, b.high), times(a.high, b.low), times(a.high, b.high)};
  return between(*std::min_element(all, all + 4), *std::max_element(all, all + 4));
}
Span quotient(const Span& a, const Span& b) {
  if (b.low <= 0 && b.high >= 0) return kAnything;  // near 0 it may be anything, at 0 it is 0
  const double all[] = {a.low / b.low, a.low / b.high, a.high / b.low, a.high / b.high};
  if (std::any_of(all, all + 4, [](double x) { return std::isnan(x); })) return kAnything;
  return between(*std::min_element(all, all + 4), *std::max_element(all, all + 4));
}
Truth less(const Span& a, const Span& b) {
  return a.high < b.low ? Truth::yes : a.low >= b.high ? Truth::no : Truth::maybe;
}
Truth equal(const Span& a, const Span& b) {
  if (a.point() && b.point() && a.low == b.low) return Truth::yes;
  return a.high < b.low || b.high < a.low ? Truth::no : Truth::maybe;
}
Truth opposite(Truth truth) { return truth == Truth::yes ? Truth::no : truth == Truth::no ? Truth::yes : Truth::maybe; }
double clamped(double a, double b, double c) { return a < b ? b : c < a ? c : a; }

// One operation as the engine computes it.
double exactly(Op op, double a, double b) {
  switch (op) {
    case Op::add:
      return a + b;
    case Op::subtract:
      return a - b;
    case Op::multiply:
      return a * b;
    default:
      return b == 0 ? 0 : a / b;
  }
}

Span arithmetic(Op op, const Span& a, const Span& b) {
  if (a.point() && b.point()) {
    const double value = exactly(op, a.low, b.low);
    return std::isfinite(value) ? Span{value, value} : kAnything;
  }
  if (op == Op::add) return between(a.low + b.low, a.high + b.high);
  if (op == Op::subtract) return between(a.low - b.high, a.high - b.low);
  return op == Op::multiply ? product(a, b) : quotient(a, b);
}

Span operation(const Term& term, const View& view) {
  const Span a = compute(term.operands[0], view);
  // What the first operand decides alone.
  const Truth first = truth_of(a);
  if (term.op == Op::and_ && first == Truth::no) return span_of(Truth::no);
  if (term.op == Op::or_ && first == Truth::yes) return span_of(Truth::yes);
  const Span b = term.operands.size() > 1 ? compute(term.operands[1], view) : Span{};
  const Truth second = truth_of(b);
  switch (term.op) {
    case Op::negate:
      return {-a.high, -a.low};
    case Op::not_:
      return span_of(opposite(first));
    case Op::abs:
      if (a.low >= 0) return a;
      if (a.high <= 0) return {-a.high, -a.low};
      return {0, std::max(-a.low, a.high)};
    case Op::sign: {
      const auto sign = [](double x) { return static_cast<double>((x > 0) - (x < 0)); };
      return {sign(a.low), sign(a.high)};
    }
    case Op::add:
    case Op::subtract:
    case Op::multiply:
    case Op::divide:
      return arithmetic(term.op, a, b);
    case Op::less:
      return span_of(less(a, b));
    case Op::less_equal:
      return span_of(opposite(less(b, a)));
    case Op::greater:
      return span_of(less(b, a));
    case Op::greater_equal:
      return span_of(opposite(less(a, b)));
    case Op::equal:
      return span_of(equal(a, b));
    case Op::not_equal:
      return span_of(opposite(equal(a, b)));
    case Op::and_:
      return span_of(second == Truth::no ? Truth::no : std::min(first, second));
    case Op::or_:
      return span_of(std::max(first, second));
    case Op::min:
      return {std::min(a.low, b.low), std::min(a.high, b.high)};
    case Op::max:
      return {std::max(a.low, b.low), std::max(a.high, b.high)};
    case Op::clamp: {
      const Span c = compute(term.operands[2], view);
      if (b.high <= c.low) return {clamped(a.low, b.low, c.low), clamped(a.high, b.high, c.high)};
      return hull(hull(a, b), c);
    }
    case Op::select: {
      const Span c = compute(term.operands[2], view);
      if (first == Truth::maybe && view.choices != nullptr && b != c)
        if (const auto choice = view.choices->make()) return *choice ? b : c;
      return first == Truth::yes ? b : first == Truth::no ? c : hull(b, c);
    }
    default:
      return kAnything;
  }
}

}  // namespace

std::optional<bool> Choices::make() {
  if (at_ == kMost) return std::nullopt;
  if (at_ == made_.size()) made_.push_back(false);
  return made_[at_++];
}

bool Choices::next() {
  while (!made_.empty() && made_.back()) made_.pop_back();
  if (!made_.empty()) made_.back() = true;
  at_ = 0;
  return !made_.empty();
}

Truth truth_of(const Span& span) {
  if (span.low == 0 && span.high == 0) return Truth::no;
  return span.low > 0 || span.high < 0 ? Truth::yes : Truth::maybe;
}
Span span_of(Truth truth) { return truth == Truth::yes ? Span{1, 1} : truth == Truth::no ? Span{0, 0} : Span{0, 1}; }

Bound bind_term(const std::string& text, const Vocabulary& names, detail::ExprWords words) {
  detail::ExprProblem problem;
  const auto tree = detail::parse_expression(text, problem, words);
  if (!tree) return {std::nullopt, problem.message, problem.remedy, problem.offset};
  Binder binder(names);
  auto term = binder.bind(*tree);
  if (!term) return {std::nullopt, binder.problem, binder.remedy, binder.offset};
  return {std::move(term)};
}

namespace {

Truth active_truth(std::uint8_t flag) { return flag == 0 ? Truth::no : flag == kPerhaps ? Truth::maybe : Truth::yes; }

Truth has_trait(const View& view, std::uint16_t trait) {
  Truth out = Truth::no;
  for (std::size_t s = 0; s < view.active->size() && out != Truth::yes; ++s)
    if ((*view.traits)[s][trait]) out = std::max(out, active_truth((*view.active)[s]));
  return out;
}

}  // namespace

Span compute(const Term& term, const View& view) {
  switch (term.kind) {
    case Term::Kind::constant:
      return {term.value, term.value};
    case Term::Kind::input:
      return (*view.inputs)[term.index];
    case Term::Kind::variable:
      return (*view.variables)[term.index];
    case Term::Kind::state:
      if (view.active == nullptr) return span_of(Truth::maybe);
      return span_of(active_truth((*view.active)[term.index]));
    case Term::Kind::trait:
      if (view.active == nullptr) return span_of(Truth::maybe);
      return span_of(has_trait(view, term.index));
    case Term::Kind::pulse:
      return span_of(view.pulses == nullptr ? Truth::maybe : (*view.pulses)[term.index]);
    case Term::Kind::cue:
      return span_of(view.cues == nullptr ? Truth::maybe : (*view.cues)[term.index]);
    case Term::Kind::operation:
      return operation(term, view);
  }
  return kAnything;
}

Truth holds(const Term& term, const View& view) { return truth_of(compute(term, view)); }

void each_term(const Term& term, const std::function<void(const Term&)>& visit) {
  visit(term);
  for (const Term& each : term.operands) each_term(each, visit);
}

bool computes(const Term& term) {
  bool out = false;
  each_term(term, [&](const Term& each) {
    if (each.kind != Term::Kind::operation || each.operands.size() < 2) return;
    using detail::Op;
    if (each.op == Op::and_ || each.op == Op::or_) return;
    const bool constant =
        each.operands[0].kind == Term::Kind::constant || each.operands[1].kind == Term::Kind::constant;
    const bool named = each.operands[0].kind != Term::Kind::operation && each.operands[1].kind != Term::Kind::operation;
    if (!constant || !named) out = true;
  });
  return out;
}

std::string key_of_term(const Term& term) {
  std::string out;
  each_term(term, [&](const Term& each) {
    add_bytes(out, std::vector<double>{double(each.kind), double(each.op), each.value, double(each.index)});
  });
  return out;
}

namespace {

using Names = std::set<std::pair<Term::Kind, std::uint16_t>>;
Names names_of(const Term& term) {
  Names out;
  each_term(term, [&](const Term& each) {
    if (each.kind != Term::Kind::constant && each.kind != Term::Kind::operation) out.insert({each.kind, each.index});
  });
  return out;
}

}  // namespace

bool names_several(const Term& term) {
  const Names names = names_of(term);
  return std::count_if(names.begin(), names.end(), [](const auto& name) {
           return name.first == Term::Kind::input || name.first == Term::Kind::variable;
         }) > 1;
}

bool share(const Term& one, const Term& other) {
  const Names names = names_of(one), others = names_of(other);
  return std::any_of(names.begin(), names.end(), [&](const auto& name) { return others.count(name) > 0; });
}

}  // namespace mobrin::proof
