// Compiling expressions: types are checked, constant parts folded, the rest becomes a short list for a stack.
#include <algorithm>
#include <cmath>

#include "expression/expression_parse.hpp"
#include "expression/idioms.hpp"
#include "expression/missing_name.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

struct OpRow {
  std::string_view text;
  int operands;
};
constexpr OpRow kOps[] = {
#define MOBRIN_X(id, text, operands) {text, operands},
    MOBRIN_OPS(MOBRIN_X)
#undef MOBRIN_X
};

double apply(Op op, double a) {
  switch (op) {
    case Op::negate:
      return -a;
    case Op::not_:
      return a == 0 ? 1 : 0;
    case Op::abs:
      return std::abs(a);
    case Op::sign:
      return a > 0 ? 1 : a < 0 ? -1 : 0;
    default:
      return 0;
  }
}
double apply(Op op, double a, double b) {
  switch (op) {
    case Op::add:
      return a + b;
    case Op::subtract:
      return a - b;
    case Op::multiply:
      return a * b;
    case Op::divide:
      return b == 0 ? 0 : a / b;
    case Op::less:
      return a < b;
    case Op::less_equal:
      return a <= b;
    case Op::greater:
      return a > b;
    case Op::greater_equal:
      return a >= b;
    case Op::equal:
      return a == b;
    case Op::not_equal:
      return a != b;
    case Op::and_:
      return a != 0 && b != 0;
    case Op::or_:
      return a != 0 || b != 0;
    case Op::min:
      return b < a ? b : a;
    case Op::max:
      return a < b ? b : a;
    default:
      return 0;
  }
}
double apply(Op op, double a, double b, double c) {
  if (op == Op::select) return a != 0 ? b : c;
  return a < b ? b : c < a ? c : a;  // clamp(value, low, high)
}

bool is_numeric(ValueType type) { return type == ValueType::whole || type == ValueType::number; }

class Compiler {
 public:
  Compiler(const Symbols& symbols, ExprPool& pool, CompiledExpr& out, ValueType wanted)
      : symbols_(symbols), pool_(pool), out_(out), wanted_(wanted) {}

  void run(ExprNode& root) {
    whole_ = &root;
    if (!check(root)) return;
    fold(root);
    if (!check_depth(root)) return;
    const auto begin = static_cast<std::uint32_t>(pool_.code.size());
    emit(root);
    out_.ref = {begin, static_cast<std::uint32_t>(pool_.code.size()) - begin};
    out_.type = root.type;
    if (root.kind == ExprNode::Kind::number || root.kind == ExprNode::Kind::boolean) out_.constant = root.value;
  }

 private:
  static constexpr int kDeepestPath = 16;
  static constexpr std::size_t kMostSought = 8;  // an expression with more that is wrong is none

  bool fail(FindingCode code, const ExprNode& node, std::string message, std::string remedy) {
    out_.problems.push_back({code, node.offset, std::move(message), std::move(remedy), node.name});
    return false;
  }

  bool check(ExprNode& node) {
    switch (node.kind) {
      case ExprNode::Kind::number:
        node.type = node.whole ? ValueType::whole : ValueType::number;
        return true;
      case ExprNode::Kind::boolean:
        node.type = ValueType::boolean;
        return true;
      case ExprNode::Kind::name:
        return check_name(node);
      case ExprNode::Kind::state:
        return check_state(node);
      case ExprNode::Kind::trait:
      case ExprNode::Kind::pulse:
      case ExprNode::Kind::cue:  // of claims: no guard is read with them
        return false;
      case ExprNode::Kind::operation:
        break;
    }
    if (node.op == Op::equal || node.op == Op::not_equal) {
      if (involves_choice(node)) return check_choice(node);
      if (is_unknown(*node.operands[0]) && is_unknown(*node.operands[1])) return check_unknown(node);
    }
    if (is_order(node.op) && involves_choice(node)) return fail_order(node);
    if (node.op == Op::divide && out_.problems.size() < kMostSought)
      if (const std::string path = path_of(node); !path.empty() && !state_called(path).empty())
        return fail_state(first_name(node), path);
    bool sound = true;
    for (auto& operand : node.operands) sound = check(*operand) && sound;
    if (!sound) return false;
    switch (node.op) {
      case Op::and_:
      case Op::or_:
      case Op::not_:
        node.type = ValueType::boolean;
        return all(node, ValueType::boolean);
      case Op::less:
      case Op::less_equal:
      case Op::greater:
      case Op::greater_equal:
        node.type = ValueType::boolean;
        return all_numeric(node, 0);
      case Op::equal:
      case Op::not_equal:
        node.type = ValueType::boolean;
        return node.operands[0]->type == ValueType::boolean ? all(node, ValueType::boolean) : all_numeric(node, 0);
      case Op::sign:
        node.type = ValueType::whole;
        return all_numeric(node, 0);
      case Op::select:
        return check_select(node);
      case Op::divide:
        node.type = ValueType::number;
        if (!all_numeric(node, 0)) return false;
        warn_of_zero(*node.operands[1]);
        return true;
      default:
        if (!all_numeric(node, 0)) return false;
        node.type = ValueType::whole;
        for (auto& operand : node.operands)
          if (operand->type == ValueType::number) node.type = ValueType::number;
        return true;
    }
  }

  [[nodiscard]] bool is_unknown(const ExprNode& node) const {
    return node.kind == ExprNode::Kind::name && symbols_.find(node.name) == nullptr;
  }
  [[nodiscard]] std::string nearest(const ExprNode& node) const { return nearest_name(node.name, symbols_.names()); }
  // `carying == net`: the other one may be a choice of the input that is meant, so only that is told.
  bool check_unknown(ExprNode& node) {
    const bool left = !nearest(*node.operands[0]).empty() || nearest(*node.operands[1]).empty();
    return check_name(*node.operands[left ? 0 : 1]);
  }

  // `air/fall`, which is read as a division of two names that nothing has; else empty.
  [[nodiscard]] std::string path_of(const ExprNode& node, int deeper = kDeepestPath) const {
    if (is_unknown(node)) return node.name;
    if (node.kind != ExprNode::Kind::operation || node.op != Op::divide || deeper == 0) return {};
    const std::string above = path_of(*node.operands[0], deeper - 1);
    if (above.empty()) return {};
    const std::string below = path_of(*node.operands[1], 0);
    return below.empty() ? std::string() : above + "/" + below;
  }
  static const ExprNode& first_name(const ExprNode& node) {
    return node.kind == ExprNode::Kind::operation ? first_name(*node.operands[0]) : node;
  }
  // The path of a state that is called by it or by its end; else empty.
  [[nodiscard]] std::string state_called(const std::string& path) const {
    if (symbols_.state(path)) return path;
    return path_ending_in(path, symbols_.state_names());
  }
  bool fail_state(const ExprNode& node, const std::string& path) {
    return fail(FindingCode::unknown_name, node, "\"" + path + "\" is a state, and no input or variable",
                "Whether it is active is asked by `in(" + state_called(path) + ")`.");
  }

  // The names of values that there are, as words behind others.
  [[nodiscard]] std::string there() const {
    std::vector<std::string> names = symbols_.names();
    std::erase_if(names, [&](const std::string& name) { return symbols_.find(name)->type == ValueType::none; });
    return names.empty() ? "" : " " + those_there(names);
  }

  bool check_name(ExprNode& node) {
    const Symbol* symbol = symbols_.find(node.name);
    if (symbol == nullptr && out_.problems.size() < kMostSought && !state_called(node.name).empty())
      return fail_state(node, node.name);
    if (symbol == nullptr) {
      const std::string nearest = this->nearest(node);
      const std::string_view idiom = idiom_of_name(node.name);
      fail(FindingCode::unknown_name, node, "\"" + node.name + "\" is no input or variable",
           !nearest.empty() ? "Did you mean \"" + nearest + "\"?"
           : !idiom.empty() ? std::string(idiom)
                            : how_to_declare(node, *whole_, wanted_, symbols_) + there());
      out_.problems.back().stranger = nearest.empty() && idiom.empty();
      return false;
    }
    if (symbol->type == ValueType::none)
      return fail(FindingCode::wrong_operand, node,
                  "\"" + node.name + "\" is a pulse, and pulses are not names in expressions",
                  "Write `pulse: " + node.name + "` as the transition's event.");
    node.type = symbol->type;
    return true;
  }

  bool check_state(ExprNode& node) {
    node.type = ValueType::boolean;
    if (const auto state = symbols_.state(node.name)) {
      node.value = *state;
      return true;
    }
    if (const std::string inside = state_in_region(node.name, symbols_.state_names()); !inside.empty())
      return fail(FindingCode::unknown_name, node, "\"" + node.name + "\" is a region, and no state",
                  "Ask for a state inside, such as `in(" + inside + ")`.");
    // One of that very name somewhere else is meant by its path.
    std::string nearest = state_called(node.name);
    if (nearest.empty()) nearest = nearest_name(node.name, symbols_.state_names());
    if (node.name.find_first_of("'\"") != std::string::npos)
      return fail(FindingCode::unknown_name, node, "\"" + node.name + "\" is no state", "Names stand without quotes.");
    if (const std::size_t comma = node.name.find(','); comma != std::string::npos)
      return fail(FindingCode::unknown_name, node, "\"" + node.name + "\" is no state",
                  "Ask for each: `in(" + node.name.substr(0, comma) + ") or in(...)`.");
    return fail(FindingCode::unknown_name, node, "\"" + node.name + "\" is no state",
                nearest.empty() ? "Name a state of this machine." : "Did you mean \"" + nearest + "\"?");
  }

  const Symbol* choice_symbol(const ExprNode& node) const {
    if (node.kind != ExprNode::Kind::name) return nullptr;
    const Symbol* symbol = symbols_.find(node.name);
    return symbol != nullptr && symbol->type == ValueType::choice ? symbol : nullptr;
  }
  bool involves_choice(const ExprNode& node) const {
    return choice_symbol(*node.operands[0]) != nullptr || choice_symbol(*node.operands[1]) != nullptr;
  }
  static bool is_order(Op op) {
    return op == Op::less || op == Op::less_equal || op == Op::greater || op == Op::greater_equal;
  }
  bool fail_order(const ExprNode& node) {
    const ExprNode& choice = *node.operands[choice_symbol(*node.operands[0]) != nullptr ? 0 : 1];
    return fail(FindingCode::wrong_operand, choice,
                "\"" + choice.name + "\" is one of several choices, which have no order",
                "Compare it with `==` or `!=`, or make it a whole number.");
  }
  // `carrying == net`: one side is a choice input, the other one of its choices, or an input with the same choices.
  bool check_choice(ExprNode& node) {
    node.type = ValueType::boolean;
    const bool left = choice_symbol(*node.operands[0]) != nullptr;
    ExprNode& input = *node.operands[left ? 0 : 1];
    ExprNode& other = *node.operands[left ? 1 : 0];
    const Symbol& symbol = *choice_symbol(input);
    input.type = ValueType::choice;
    std::vector<std::string> names;
    for (const Text& choice : *symbol.choices) names.push_back(choice.text);
    if (other.kind == ExprNode::Kind::name) {
      for (std::size_t i = 0; i < names.size(); ++i) {
        if (names[i] != other.name) continue;
        other.kind = ExprNode::Kind::number;
        other.type = ValueType::choice;
        other.value = static_cast<double>(i);
        return true;
      }
      if (const Symbol* same = choice_symbol(other)) {
        std::vector<std::string> others;
        for (const Text& choice : *same->choices) others.push_back(choice.text);
        other.type = ValueType::choice;
        if (others == names) return true;
      }
    }
    const std::string nearest = other.kind == ExprNode::Kind::name ? nearest_name(other.name, names) : "";
    std::string list;
    for (const std::string& name : names) list += (list.empty() ? "" : ", ") + name;
    return fail(FindingCode::unknown_name, other,
                "\"" + (other.name.empty() ? "this" : other.name) + "\" is no choice of \"" + symbol.name + "\"",
                (nearest.empty() ? "" : "Did you mean \"" + nearest + "\"? ") + "The choices are: " + list + ".");
  }

  bool check_select(ExprNode& node) {
    if (node.operands[0]->type != ValueType::boolean) return wrong(*node.operands[0], "a condition (true or false)");
    const ValueType a = node.operands[1]->type;
    const ValueType b = node.operands[2]->type;
    node.type = a;
    if (a == b && a != ValueType::choice) return true;
    if (!is_numeric(a) || !is_numeric(b)) return wrong(*node.operands[2], "the same type as the second operand");
    node.type = ValueType::number;
    return true;
  }

  bool all(const ExprNode& node, ValueType type) {
    for (auto& operand : node.operands)
      if (operand->type != type) return wrong(*operand, "true or false");
    return true;
  }
  bool all_numeric(const ExprNode& node, std::size_t first) {
    for (std::size_t i = first; i < node.operands.size(); ++i)
      if (!is_numeric(node.operands[i]->type)) return wrong(*node.operands[i], "a number");
    return true;
  }
  bool wrong(const ExprNode& node, std::string_view wanted) {
    std::string remedy = "Expected " + std::string(wanted) + ".";
    if (node.type == ValueType::choice) remedy = "Compare it with one of its choices: `" + node.name + " == ...`.";
    if (is_numeric(node.type) && wanted == "true or false")
      remedy = node.name == "1"   ? "Write `true`."
               : node.name == "0" ? "Write `false`."
                                  : "Compare it: `" + node.name + " > 0`.";
    return fail(FindingCode::wrong_operand, node, "\"" + node.name + "\" is " + std::string(text_of(node.type)),
                remedy);
  }
  void warn_of_zero(const ExprNode& divisor) {
    if (divisor.kind == ExprNode::Kind::number && divisor.value == 0)
      fail(FindingCode::division_by_zero, divisor, "a division by zero gives 0", "Divide by something else.");
  }

  // Replaces operations on constants by their value.
  void fold(ExprNode& node) {
    if (node.kind != ExprNode::Kind::operation) return;
    bool constant = true;
    for (auto& operand : node.operands) {
      fold(*operand);
      constant = constant && (operand->kind == ExprNode::Kind::number || operand->kind == ExprNode::Kind::boolean);
    }
    if (!constant) return;
    const auto value = [&](std::size_t i) { return node.operands[i]->value; };
    const std::size_t count = node.operands.size();
    node.value = count == 1   ? apply(node.op, value(0))
                 : count == 2 ? apply(node.op, value(0), value(1))
                              : apply(node.op, value(0), value(1), value(2));
    node.kind = node.type == ValueType::boolean ? ExprNode::Kind::boolean : ExprNode::Kind::number;
  }

  static std::size_t depth(const ExprNode& node) {
    if (node.kind != ExprNode::Kind::operation) return 1;
    std::size_t most = 0;
    for (std::size_t i = 0; i < node.operands.size(); ++i) most = std::max(most, depth(*node.operands[i]) + i);
    return most;
  }
  bool check_depth(const ExprNode& root) {
    if (depth(root) <= kMaxStack) return true;
    return fail(FindingCode::bad_expression, root, "the expression is too deeply nested", "Split it up.");
  }

  void emit(const ExprNode& node) {
    for (auto& operand : node.operands)
      if (node.kind == ExprNode::Kind::operation) emit(*operand);
    Instruction step;
    switch (node.kind) {
      case ExprNode::Kind::number:
      case ExprNode::Kind::boolean:
        step = {Op::constant, static_cast<std::uint32_t>(pool_.constants.size())};
        pool_.constants.push_back(node.value);
        break;
      case ExprNode::Kind::name: {
        const Symbol& symbol = *symbols_.find(node.name);
        const Op op = symbol.type == ValueType::whole    ? Op::load_int
                      : symbol.type == ValueType::number ? Op::load_float
                                                         : Op::load_bool;  // choices are a byte, too
        step = {op, symbol.offset};
        break;
      }
      case ExprNode::Kind::state:
        step = {Op::in_state, static_cast<std::uint32_t>(node.value)};
        break;
      case ExprNode::Kind::operation:
        step = {node.op, 0};
        break;
      case ExprNode::Kind::trait:
      case ExprNode::Kind::pulse:
      case ExprNode::Kind::cue:
        return;
    }
    pool_.code.push_back(step);
  }

  const Symbols& symbols_;
  ExprPool& pool_;
  CompiledExpr& out_;
  ValueType wanted_;
  const ExprNode* whole_ = nullptr;
};

}  // namespace

std::string_view text_of(Op op) { return kOps[static_cast<std::size_t>(op)].text; }
Op mirrored(Op op) {
  switch (op) {
    case Op::less:
      return Op::greater;
    case Op::less_equal:
      return Op::greater_equal;
    case Op::greater:
      return Op::less;
    case Op::greater_equal:
      return Op::less_equal;
    default:
      return op;
  }
}
int operands_of(Op op) { return kOps[static_cast<std::size_t>(op)].operands; }

std::string_view text_of(ValueType type) {
  switch (type) {
    case ValueType::none:
      return "nothing";
    case ValueType::boolean:
      return "true or false";
    case ValueType::whole:
      return "a whole number";
    case ValueType::number:
      return "a number";
    case ValueType::choice:
      return "a choice";
  }
  return "";
}

CompiledExpr compile_expression(std::string_view source, const Symbols& symbols, ExprPool& pool, ValueType wanted) {
  CompiledExpr out;
  ExprProblem problem;
  const auto root = parse_expression(source, problem);
  if (!root) {
    out.problems.push_back(std::move(problem));
    return out;
  }
  Compiler(symbols, pool, out, wanted).run(*root);
  return out;
}

double evaluate(const MachineData& machine, const std::byte* block, ExprRef expression) {
  double stack[kMaxStack];
  std::size_t top = 0;  // the compiler has checked that kMaxStack is enough
  const Instruction* step = machine.expressions.code.data() + expression.begin;
  for (const Instruction* end = step + expression.count; step != end; ++step) {
    switch (step->op) {
      case Op::constant:
        stack[top++] = machine.expressions.constants[step->arg];
        break;
      case Op::load_bool:
        stack[top++] = field_at<std::uint8_t>(block, step->arg);
        break;
      case Op::load_int:
        stack[top++] = field_at<std::int32_t>(block, step->arg);
        break;
      case Op::load_float:
        stack[top++] = static_cast<double>(field_at<float>(block, step->arg));
        break;
      case Op::in_state:
        stack[top++] = is_active(machine, block, static_cast<std::uint16_t>(step->arg)) ? 1 : 0;
        break;
      case Op::negate:
      case Op::not_:
      case Op::abs:
      case Op::sign:
        stack[top - 1] = apply(step->op, stack[top - 1]);
        break;
      case Op::clamp:
      case Op::select:
        top -= 2;
        stack[top - 1] = apply(step->op, stack[top - 1], stack[top], stack[top + 1]);
        break;
      default:
        --top;
        stack[top - 1] = apply(step->op, stack[top - 1], stack[top]);
        break;
    }
  }
  return stack[0];
}

}  // namespace mobrin::detail
