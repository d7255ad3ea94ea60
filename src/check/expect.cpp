#include "mobrin/check/expect.hpp"

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <variant>

#include "mobrin/core/carry.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/parts.hpp"
#include "reference_expression.hpp"

namespace mobrin {
namespace {

double number_of(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? 1 : 0;
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return static_cast<double>(*whole);
  if (const auto* number = std::get_if<double>(&value)) return *number;
  return 0;
}

// The index of an input by its name; as many as there are where it is none.
std::ptrdiff_t find_input(const Machine& machine, std::string_view name) {
  const auto inputs = machine.inputs();
  return std::find_if(inputs.begin(), inputs.end(), [&](const InputDef& each) { return each.name.text == name; }) -
         inputs.begin();
}

// The machine's own variable of that name, or that of an active state.
const FieldValue* find_variable(const Instance& instance, const SavedInstance& saved, std::string_view name) {
  for (const auto& each : saved.variables) {
    const auto state = instance.machine().state(each.state);
    if (each.name == name && (each.state.empty() || (state && instance.in(*state)))) return &each.value;
  }
  return nullptr;
}

}  // namespace

double expression_value(const Instance& instance, std::string_view expression) {
  const Machine& machine = instance.machine();
  std::optional<SavedInstance> made;  // where a variable is asked for
  const auto saved = [&]() -> const SavedInstance& {
    if (!made) made = save(instance);
    return *made;
  };
  std::vector<std::string> choices;
  check::Names names;
  const auto input = [&](const std::string& name) { return find_input(machine, name); };
  const auto count = static_cast<std::ptrdiff_t>(machine.inputs().size());
  names.known = [&](const std::string& name) {
    return input(name) < count || std::any_of(saved().variables.begin(), saved().variables.end(),
                                              [&](const auto& each) { return each.name == name; });
  };
  names.value = [&](const std::string& name) -> check::NameValue {
    if (const auto index = input(name); index < count) {
      const FieldValue value = instance.input_value(static_cast<std::uint16_t>(index));
      const auto* words = std::get_if<std::string>(&value);
      if (words == nullptr) return {number_of(value), nullptr};
      choices.clear();
      for (const Text& each : std::get<ChoiceInput>(machine.inputs()[static_cast<std::size_t>(index)].kind).choices)
        choices.push_back(each.text);
      return {static_cast<double>(std::find(choices.begin(), choices.end(), *words) - choices.begin()), &choices};
    }
    const FieldValue* const value = find_variable(instance, saved(), name);
    return value == nullptr ? check::NameValue{} : check::NameValue{number_of(*value), nullptr};
  };
  names.in_state = [&](const std::string& path) {
    const auto state = machine.state(path);
    if (state) return instance.in(*state);
    // By its own name, as guards may say it.
    for (std::uint16_t s = 1; s < machine.states().size(); ++s) {
      const std::string& whole = machine.states()[s].path;
      if (whole.size() > path.size() && whole.ends_with("/" + path)) return instance.in({machine.serial(), s});
    }
    return false;
  };
  return check::compute(expression, names);
}

bool expression_holds(const Instance& instance, std::string_view expression) {
  return expression_value(instance, expression) != 0;
}

std::vector<FieldDef> expression_reads(const Instance& instance, std::string_view expression) {
  std::vector<FieldDef> out;
  const SavedInstance saved = save(instance);
  for (std::size_t i = 0; i < expression.size();) {
    std::size_t end = i;
    while (end < expression.size() && (detail::is_letter(expression[end]) || detail::is_digit(expression[end]))) ++end;
    const std::string name(expression.substr(i, end - i));
    i = std::max(end, i + 1);
    const auto index = find_input(instance.machine(), name);
    const bool is_input = index < static_cast<std::ptrdiff_t>(instance.machine().inputs().size());
    const FieldValue* const variable = find_variable(instance, saved, name);
    const bool known =
        std::any_of(out.begin(), out.end(), [&](const FieldDef& each) { return each.name.text == name; });
    if (known || (!is_input && variable == nullptr)) continue;
    out.push_back({name, is_input ? instance.input_value(static_cast<std::uint16_t>(index)) : *variable});
  }
  return out;
}

}  // namespace mobrin
