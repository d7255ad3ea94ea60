// Computing an expression straight from its text.
#include "reference_expression.hpp"

#include <cctype>
#include <charconv>
#include <cmath>

namespace mobrin::check {
namespace {

struct Value {
  double number = 0;
  std::string name;  // where it is a bare name
  const std::vector<std::string>* choices = nullptr;
};

class Computer {
 public:
  Computer(std::string_view text, const Names& names) : text_(text), names_(names) {}
  double run() { return either().number; }

 private:
  void space() {
    while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
  }
  std::string word() {
    space();
    std::size_t end = at_;
    while (end < text_.size() && (std::isalnum(static_cast<unsigned char>(text_[end])) != 0 || text_[end] == '_'))
      ++end;
    return std::string(text_.substr(at_, end - at_));
  }
  bool take_word(const std::string& wanted) {
    if (word() != wanted) return false;
    at_ += wanted.size();
    return true;
  }
  bool take(std::string_view sign) {
    space();
    if (text_.substr(at_, sign.size()) != sign) return false;
    at_ += sign.size();
    return true;
  }
  static Value of(double number) { return {number, "", nullptr}; }

  Value either() {
    Value left = both();
    while (take_word("or")) {
      const Value right = both();
      left = of(left.number != 0 || right.number != 0);
    }
    return left;
  }
  Value both() {
    Value left = negated();
    while (take_word("and")) {
      const Value right = negated();
      left = of(left.number != 0 && right.number != 0);
    }
    return left;
  }
  Value negated() {
    if (take_word("not")) return of(negated().number == 0);
    return comparison();
  }
  Value comparison() {
    Value left = sum();
    for (const char* sign : {"<=", ">=", "==", "!=", "<", ">"}) {
      if (!take(sign)) continue;
      Value right = sum();
      if (!choose(left, right)) (void)choose(right, left);
      const std::string s = sign;
      const double a = left.number, b = right.number;
      return of(s == "<="   ? a <= b
                : s == ">=" ? a >= b
                : s == "==" ? a == b
                : s == "!=" ? a != b
                : s == "<"  ? a < b
                            : a > b);
    }
    return left;
  }
  // `tool == net`: the bare name beside a choice is one of its choices, also where it is an input's too.
  static bool choose(const Value& input, Value& other) {
    if (input.choices == nullptr || other.name.empty()) return false;
    for (std::size_t i = 0; i < input.choices->size(); ++i) {
      if ((*input.choices)[i] != other.name) continue;
      other.number = static_cast<double>(i);
      return true;
    }
    return false;
  }
  Value sum() {
    Value left = product();
    for (;;) {
      if (take("+"))
        left = of(left.number + product().number);
      else if (take("-"))
        left = of(left.number - product().number);
      else
        return left;
    }
  }
  Value product() {
    Value left = sign();
    for (;;) {
      if (take("*")) {
        left = of(left.number * sign().number);
      } else if (take("/")) {
        const double by = sign().number;
        left = of(by == 0 ? 0 : left.number / by);
      } else {
        return left;
      }
    }
  }
  Value sign() {
    if (take("-")) return of(-sign().number);
    return primary();
  }
  Value primary() {
    if (take("(")) {
      const Value inner = either();
      take(")");
      return inner;
    }
    space();
    if (std::isdigit(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == '.') {
      double number = 0;
      const auto end = std::from_chars(text_.data() + at_, text_.data() + text_.size(), number).ptr;
      at_ = static_cast<std::size_t>(end - text_.data());
      return of(number == std::trunc(number) ? number : static_cast<float>(number));
    }
    const std::string name = word();
    at_ += name.size();
    if (name == "true" || name == "false") return of(name == "true");
    if (take("(")) return call(name);
    Value out;
    out.name = name;
    if (names_.known(name)) {
      const NameValue value = names_.value(name);
      out.number = value.value;
      out.choices = value.choices;
    }
    return out;
  }
  Value call(const std::string& name) {
    if (name == "in") {
      const std::size_t close = text_.find(')', at_);
      std::string path(text_.substr(at_, close - at_));
      at_ = close + 1;
      while (!path.empty() && path.back() == ' ') path.pop_back();
      return of(names_.in_state(path));
    }
    std::vector<double> operands;
    do operands.push_back(either().number);
    while (take(","));
    take(")");
    const double a = operands[0];
    const double b = operands.size() > 1 ? operands[1] : 0;
    const double c = operands.size() > 2 ? operands[2] : 0;
    if (name == "abs") return of(std::fabs(a));
    if (name == "sign") return of((a > 0) - (a < 0));
    if (name == "min") return of(std::fmin(a, b));
    if (name == "max") return of(std::fmax(a, b));
    if (name == "clamp") return of(a < b ? b : c < a ? c : a);
    return of(a != 0 ? b : c);  // select
  }

  std::string_view text_;
  const Names& names_;
  std::size_t at_ = 0;
};

}  // namespace

double compute(std::string_view source, const Names& names) { return Computer(source, names).run(); }

}  // namespace mobrin::check
