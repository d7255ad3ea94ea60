#include "guards.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

namespace mobrin::check {

using detail::ExprNode;
using detail::Op;

namespace {

constexpr std::size_t kMostCases = 20'000;

bool is_comparison(const ExprNode& node) {
  if (node.kind != ExprNode::Kind::operation || node.operands.size() != 2) return false;
  for (const char* sign : {"<", "<=", ">", ">=", "==", "!="})
    if (node.name == sign) return true;
  return false;
}

// A number that is written, with a sign.
std::optional<double> constant(const ExprNode& node) {
  if (node.kind == ExprNode::Kind::number)
    return node.whole ? node.value : static_cast<double>(static_cast<float>(node.value));
  if (node.kind == ExprNode::Kind::operation && node.operands.size() == 1 && node.name == "-")
    if (const auto inner = constant(*node.operands[0])) return -*inner;
  return std::nullopt;
}

std::string text_of(const ExprNode& node) {
  std::string out;
  switch (node.kind) {
    case ExprNode::Kind::number:
      out = std::to_string(node.value);
      break;
    case ExprNode::Kind::boolean:
      out = node.value != 0 ? "true" : "false";
      break;
    case ExprNode::Kind::name:
      out = node.name;
      break;
    case ExprNode::Kind::state:
      out = "in(" + node.name + ")";
      break;
    case ExprNode::Kind::trait:
    case ExprNode::Kind::pulse:
    case ExprNode::Kind::cue:
      out = node.name;
      break;
    case ExprNode::Kind::operation:
      out = node.name + "(";
      for (const auto& each : node.operands) out += text_of(*each) + ",";
      out += ")";
  }
  return out;
}

const InputDef* input_of(const MachineDef& definition, const std::string& name) {
  for (const InputDef& input : definition.inputs)
    if (input.name.text == name) return &input;
  return nullptr;
}

}  // namespace

Guard::Guard(const std::string& text, const MachineDef& definition) : definition_(&definition) {
  detail::ExprProblem problem;
  if (!text.empty()) tree_ = detail::parse_expression(text, problem);
}

// All cases of the values that some guards speak of.
class GuardCases {
 public:
  explicit GuardCases(std::initializer_list<const Guard*> guards) : definition_(*(*guards.begin())->definition_) {
    for (const Guard* guard : guards)
      if (guard->tree_) gather_truth(*guard->tree_);
    for (auto& [name, value] : values_) {
      names_.push_back(name);
      samples_.push_back(samples_of(value));
    }
  }

  // Calls `visit` in each case until it says false. False where there are too many.
  bool each(const std::function<bool()>& visit) {
    std::size_t count = 1;
    for (const auto& all : samples_) {
      count *= std::max<std::size_t>(1, all.size());
      if (count > kMostCases) return false;
    }
    std::vector<std::size_t> at(samples_.size(), 0);
    for (std::size_t n = 0; n < count; ++n) {
      for (std::size_t i = 0; i < at.size(); ++i) now_[names_[i]] = samples_[i][at[i]];
      if (!visit()) return true;
      for (std::size_t i = 0; i < at.size(); ++i) {
        if (++at[i] < samples_[i].size()) break;
        at[i] = 0;
      }
    }
    return true;
  }

  [[nodiscard]] bool holds(const Guard& guard) const { return guard.tree_ == nullptr || truth(*guard.tree_); }

 private:
  // --- what is spoken of ---

  void gather_truth(const ExprNode& node) {
    if (node.kind == ExprNode::Kind::operation && (node.name == "and" || node.name == "or" || node.name == "not")) {
      for (const auto& each : node.operands) gather_truth(*each);
      return;
    }
    if (node.kind == ExprNode::Kind::boolean) return;
    if (is_comparison(node) && gather_comparison(node)) return;
    values_.try_emplace(text_of(node));  // true or false, whatever it is
  }

  bool gather_comparison(const ExprNode& node) {
    const ExprNode &left = *node.operands[0], &right = *node.operands[1];
    for (const auto& [one, other] : {std::pair(&left, &right), std::pair(&right, &left)}) {
      if (const auto number = constant(*other)) {
        GuardValue& value = number_of(*one);
        value.constants.insert(*number);
        return true;
      }
      if (one->kind != ExprNode::Kind::name || other->kind != ExprNode::Kind::name) continue;
      if (const auto index = choice_of(*one, *other)) {
        const InputDef* input = input_of(definition_, one->name);
        GuardValue& value = values_[one->name];
        value.kind = GuardValue::Kind::choice;
        value.choices = std::get<ChoiceInput>(input->kind).choices.size();
        return true;
      }
    }
    return false;
  }

  // The index of `other` among the choices of the input `one`.
  [[nodiscard]] std::optional<std::size_t> choice_of(const ExprNode& one, const ExprNode& other) const {
    const InputDef* input = input_of(definition_, one.name);
    const auto* choice = input == nullptr ? nullptr : std::get_if<ChoiceInput>(&input->kind);
    for (std::size_t i = 0; choice != nullptr && i < choice->choices.size(); ++i)
      if (choice->choices[i].text == other.name) return i;
    return std::nullopt;
  }

  GuardValue& number_of(const ExprNode& node) {
    GuardValue& value = values_[text_of(node)];
    if (value.kind == GuardValue::Kind::number) return value;
    value.kind = GuardValue::Kind::number;
    value.low = -std::numeric_limits<double>::max();
    value.high = std::numeric_limits<double>::max();
    const InputDef* input = node.kind == ExprNode::Kind::name ? input_of(definition_, node.name) : nullptr;
    if (input == nullptr) return value;
    if (const auto* whole = std::get_if<IntInput>(&input->kind)) {
      value.whole = true;
      value.low = whole->min;
      value.high = whole->max;
    } else if (const auto* number = std::get_if<FloatInput>(&input->kind)) {
      value.low = static_cast<double>(static_cast<float>(number->min));
      value.high = static_cast<double>(static_cast<float>(number->max));
    }
    return value;
  }

  [[nodiscard]] static std::vector<double> samples_of(const GuardValue& value) {
    std::vector<double> out;
    if (value.kind == GuardValue::Kind::truth) return {0, 1};
    if (value.kind == GuardValue::Kind::choice) {
      for (std::size_t i = 0; i < value.choices; ++i) out.push_back(static_cast<double>(i));
      return out;
    }
    // On each constant, right beside it, and at the ends: between two of these no comparison changes.
    std::set<double> all{value.low, value.high};
    for (const double c : value.constants) {
      if (value.whole) {
        for (const double near : {std::floor(c) - 1, std::floor(c), std::floor(c) + 1, std::ceil(c), std::ceil(c) + 1})
          all.insert(near);
      } else {
        const auto narrow = static_cast<float>(c);
        all.insert(c);
        all.insert(static_cast<double>(std::nextafter(narrow, std::numeric_limits<float>::max())));
        all.insert(static_cast<double>(std::nextafter(narrow, -std::numeric_limits<float>::max())));
      }
    }
    for (const double each : all)
      if (each >= value.low && each <= value.high) out.push_back(each);
    return out;
  }

  // --- one case ---

  [[nodiscard]] bool truth(const ExprNode& node) const {
    if (node.kind == ExprNode::Kind::operation) {
      if (node.name == "and") return truth(*node.operands[0]) && truth(*node.operands[1]);
      if (node.name == "or") return truth(*node.operands[0]) || truth(*node.operands[1]);
      if (node.name == "not") return !truth(*node.operands[0]);
    }
    if (node.kind == ExprNode::Kind::boolean) return node.value != 0;
    if (is_comparison(node)) {
      const ExprNode &left = *node.operands[0], &right = *node.operands[1];
      const auto c = constant(right), d = constant(left);
      if (c) return compare(node.name, now_.at(text_of(left)), *c);
      if (d) return compare(node.name, *d, now_.at(text_of(right)));
      for (const auto& [one, other] : {std::pair(&left, &right), std::pair(&right, &left)}) {
        if (one->kind != ExprNode::Kind::name || other->kind != ExprNode::Kind::name) continue;
        if (const auto index = choice_of(*one, *other))
          return compare(node.name, now_.at(one->name), static_cast<double>(*index));
      }
    }
    return now_.at(text_of(node)) != 0;
  }
  [[nodiscard]] static bool compare(const std::string& sign, double a, double b) {
    return sign == "<"    ? a < b
           : sign == "<=" ? a <= b
           : sign == ">"  ? a > b
           : sign == ">=" ? a >= b
           : sign == "==" ? a == b
                          : a != b;
  }

  const MachineDef& definition_;
  std::map<std::string, GuardValue> values_;
  std::vector<std::string> names_;
  std::vector<std::vector<double>> samples_;
  std::map<std::string, double> now_;
};

std::optional<bool> never(const Guard& guard) {
  if (guard.empty()) return false;
  GuardCases cases({&guard});
  bool any = false;
  if (!cases.each([&] { return !(any = cases.holds(guard)); })) return std::nullopt;
  return !any;
}

std::optional<bool> always(const Guard& guard) {
  if (guard.empty()) return true;
  GuardCases cases({&guard});
  bool all = true;
  if (!cases.each([&] { return all = cases.holds(guard); })) return std::nullopt;
  return all;
}

std::optional<bool> covers(const Guard& one, const Guard& other) {
  if (one.empty()) return true;
  GuardCases cases({&one, &other});
  bool all = true;
  if (!cases.each([&] { return all = !cases.holds(other) || cases.holds(one); })) return std::nullopt;
  return all;
}

}  // namespace mobrin::check
