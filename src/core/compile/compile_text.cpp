// Expressions and actions of states and transitions.
#include "compile/compile.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

class NodeSymbols final : public Symbols {
 public:
  NodeSymbols(const MachineData& machine, const StateTree& tree, std::int32_t node)
      : m_(machine), tree_(tree), node_(node) {}

  [[nodiscard]] const Symbol* find(std::string_view name) const override {
    const Symbol* found = nullptr;
    each([&](const Symbol& symbol) {
      if (found == nullptr && symbol.name == name) found = &symbol;
    });
    return found;
  }
  [[nodiscard]] std::vector<std::string> names() const override {
    std::vector<std::string> all;
    each([&](const Symbol& symbol) { all.push_back(symbol.name); });
    return all;
  }
  [[nodiscard]] std::optional<std::uint16_t> state(std::string_view path) const override {
    return tree_.find_state(path, node_);
  }
  [[nodiscard]] const std::vector<std::string>& state_names() const override { return tree_.names(); }

 private:
  // The innermost first.
  template <class Visit>
  void each(const Visit& visit) const {
    const auto inputs = std::span(m_.symbols).first(m_.inputs.size()),
               vars = std::span(m_.symbols).subspan(m_.inputs.size());
    for (std::int32_t node = node_; node >= 0; node = tree_.node(node).parent)
      for (const std::uint32_t var : tree_.node(node).vars) visit(vars[var]);
    for (const Symbol& input : inputs) visit(input);
  }

  const MachineData& m_;
  const StateTree& tree_;
  std::int32_t node_;
};

}  // namespace

// A name that is unknown here may be a variable of a state that is not around.
std::string Texts::elsewhere(const ExprProblem& problem) const {
  for (std::size_t s = 1; s < m_.states.size(); ++s) {
    const Range<VarData> vars = m_.states[s].vars;
    for (std::uint32_t i = vars.begin; i < vars.begin + vars.count; ++i)
      if (m_.var_names[i] == problem.subject)
        return "It is a variable of \"" + m_.state_infos[s].path +
               "\" and exists only inside it; declare it under `vars:` of a state around both.";
  }
  const std::string other = problem.stranger ? work_.of_another_kind("input", problem.subject) : "";
  return other.empty() ? problem.remedy : other;
}

CompiledExpr Texts::expression(const Text& source, std::int32_t node, ValueType wanted) {
  CompiledExpr out = compile_expression(source.text, NodeSymbols(m_, tree_, node), m_.expressions, wanted);
  for (const ExprProblem& problem : out.problems) {
    Place place = source.place;
    if (place.line > 0) place.column += static_cast<std::uint32_t>(problem.offset);
    work_.report(problem.code, place, problem.message,
                 problem.code == FindingCode::unknown_name ? elsewhere(problem) : problem.remedy, problem.subject);
  }
  return out;
}

std::optional<ActionData> Texts::telling(const ActionDef& action) {
  const auto cue = find_cue(work_, cues_, action.tell);
  if (!cue) return std::nullopt;
  ActionData out;
  out.cue = *cue;
  out.fields = resolve_fields(work_, *cue, action.fields, action.tell.place);
  return out;
}

std::string Texts::meant_by(const std::string& action) const {
  // `hum`, `play hum`, `play(hum)`
  const std::size_t equals = action.find('=');
  std::string told;
  for (std::size_t i = 0; i < action.size() && equals == std::string::npos;) {
    std::size_t end = i;
    while (end < action.size() && (is_letter(action[end]) || is_digit(action[end]))) ++end;
    if (const std::string word = action.substr(i, end - i); cues_.contains(word)) told = word;
    i = end + 1;
  }
  if (!told.empty()) return "Write `tell: " + told + "`.";
  const auto trimmed = [](std::string_view text) {
    while (text.starts_with(' ')) text.remove_prefix(1);
    while (text.ends_with(' ')) text.remove_suffix(1);
    return std::string(text);
  };
  std::string name = trimmed(action.substr(0, equals)), value = "1";
  char sign = 0;  // of `count += 1` and `count++`
  if (equals != std::string::npos && !name.empty()) {
    value = trimmed(action.substr(equals + 1));
    if (std::string_view("+-*/:").find(name.back()) != std::string_view::npos) {
      sign = name.back();
      name = trimmed(name.substr(0, name.size() - 1));
    } else if (value.starts_with('=')) {
      value = trimmed(value.substr(1));
    }
    if (sign == ':') sign = 0;
    name = name.substr(name.rfind(' ') + 1);  // `set count = 1`
  } else if (action.ends_with("++") || action.ends_with("--")) {
    sign = action.back();
    name = trimmed(action.substr(0, action.size() - 2));
  } else {
    name.clear();
  }
  if (!is_name(name) || value.empty()) return "Write `variable = expression`, or `tell: cue`.";
  if (sign == 0) return "Write `" + name + " = " + value + "`.";
  if (value.find_first_of("+-*/ ") != std::string::npos) value = "(" + value + ")";
  return "Write `" + name + " = " + name + " " + sign + " " + value + "`.";
}

std::optional<ActionData> Texts::assignment(const ActionDef& action, std::int32_t node) {
  const std::string& source = action.assign.text;
  const std::size_t equals = source.find('=');
  std::string name = source.substr(0, equals);
  while (!name.empty() && name.back() == ' ') name.pop_back();
  if (equals == std::string::npos || !is_name(name) || source.substr(equals, 2) == "==") {
    work_.report(FindingCode::bad_expression, action.assign.place, "\"" + source + "\" is no action", meant_by(source),
                 source);
    return std::nullopt;
  }
  const NodeSymbols symbols(m_, tree_, node);
  const Symbol* symbol = symbols.find(name);
  const bool is_input = symbol != nullptr && inputs_.count(name) > 0;
  if (symbol == nullptr || is_input) {
    if (is_input) {
      work_.report(FindingCode::wrong_operand, action.assign.place,
                   "\"" + name + "\" is an input, which only the game writes",
                   "Declare a variable under `vars:` and assign to that.", name);
    } else {
      std::vector<std::string> variables = symbols.names();
      std::erase_if(variables, [&](const std::string& each) { return inputs_.count(each) > 0; });
      work_.unknown("variable", {name, action.assign.place}, variables,
                    "Declare it under `vars:` of this state or one around it.");
    }
    return std::nullopt;
  }
  ActionData out;
  out.type = symbol->type;
  out.offset = symbol->offset;
  Text value(source.substr(equals + 1), action.assign.place);
  if (value.place.line > 0) value.place.column += static_cast<std::uint32_t>(equals + 1);
  const CompiledExpr compiled = expression(value, node);
  if (compiled.ref.empty()) return std::nullopt;
  const bool fits = compiled.type == out.type || (out.type == ValueType::number && compiled.type == ValueType::whole);
  if (!fits) {
    work_.report(FindingCode::wrong_type, action.assign.place,
                 "\"" + source + "\" assigns " + std::string(text_of(compiled.type)) + " to a variable that holds " +
                     std::string(text_of(out.type)),
                 "Start the variable as `" + name + ": " +
                     (compiled.type == ValueType::boolean  ? "false` to let it hold true or false."
                      : compiled.type == ValueType::whole  ? "0` to let it hold whole numbers."
                      : compiled.type == ValueType::number ? "0.0` to let it hold any number."
                                                           : "0`: it holds no choice."),
                 source);
    return std::nullopt;
  }
  out.value = compiled.ref;
  return out;
}

Range<ActionData> Texts::actions(const std::vector<ActionDef>& actions, std::int32_t node) {
  Range<ActionData> range{static_cast<std::uint32_t>(m_.actions.size()), 0};
  for (const ActionDef& action : actions) {
    const auto compiled = action.tell.empty() ? assignment(action, node) : telling(action);
    if (compiled) m_.actions.push_back(*compiled);
  }
  range.count = static_cast<std::uint32_t>(m_.actions.size()) - range.begin;
  return range;
}

}  // namespace mobrin::detail
