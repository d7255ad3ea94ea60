// Trace: a guard taken apart into its parts with their values, and what a round did not look at.
#include "mobrin/core/trace.hpp"

#include <algorithm>
#include <optional>

#include "machine/machine_data.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {
namespace {

using detail::Instruction;
using detail::MachineData;
using detail::number_text;
using detail::Op;

struct Term {
  std::string text;
  std::uint32_t begin = 0;  // its first instruction
  bool compound = false;    // needs brackets inside another operation
  bool is_constant = false;
  const std::vector<Text>* choices = nullptr;
};

std::string bracketed(const Term& part) { return part.compound ? "(" + part.text + ")" : part.text; }

Term load(const MachineData& m, const Instruction& step) {
  if (step.op == Op::constant) return {number_text(m.expressions.constants[step.arg]), 0, false, true, nullptr};
  if (step.op == Op::in_state) return {"in(" + m.state_infos[step.arg].path + ")", 0, false, false, nullptr};
  for (const detail::Symbol& symbol : m.symbols)
    if (symbol.offset == step.arg && symbol.type != detail::ValueType::none)
      return {symbol.name, 0, false, false, symbol.choices};
  return {};
}

bool is_truth(Op op) {
  switch (op) {
    case Op::load_bool:
    case Op::in_state:
    case Op::not_:
    case Op::less:
    case Op::less_equal:
    case Op::greater:
    case Op::greater_equal:
    case Op::equal:
    case Op::not_equal:
    case Op::and_:
    case Op::or_:
      return true;
    default:
      return false;
  }
}

Term combine(Op op, std::vector<Term>& operands) {
  const std::string sign(detail::text_of(op));
  if (operands.size() == 2)
    for (int i = 0; i < 2; ++i) {  // the index of a choice, by its name
      const Term& input = operands[static_cast<std::size_t>(i)];
      Term& other = operands[static_cast<std::size_t>(1 - i)];
      if (input.choices != nullptr && other.is_constant)
        other.text = (*input.choices)[static_cast<std::size_t>(std::stoi(other.text))].text;
    }
  if (op == Op::not_) return {"not " + bracketed(operands[0]), 0, true, false, nullptr};
  if (op == Op::negate) return {"-" + bracketed(operands[0]), 0, true, false, nullptr};
  const bool infix = operands.size() == 2 && op != Op::min && op != Op::max;
  if (infix) return {bracketed(operands[0]) + " " + sign + " " + bracketed(operands[1]), 0, true, false, nullptr};
  std::string list;
  for (const Term& operand : operands) list += (list.empty() ? "" : ", ") + operand.text;
  return {sign + "(" + list + ")", 0, false, false, nullptr};
}

}  // namespace

std::vector<PartValue> Considered::guard_parts() const {
  const MachineData& m = *machine;
  const detail::ExprRef guard = m.transitions[transition].guard;
  std::vector<PartValue> out;
  std::vector<Term> stack;
  for (std::uint32_t i = guard.begin; i < guard.begin + guard.count; ++i) {
    const Instruction& step = m.expressions.code[i];
    const auto count = static_cast<std::size_t>(detail::operands_of(step.op));
    Term part;
    std::uint32_t begin = i;
    if (count == 0) {
      part = load(m, step);
    } else {
      std::vector<Term> operands(stack.end() - static_cast<std::ptrdiff_t>(count), stack.end());
      begin = operands.front().begin;
      stack.resize(stack.size() - count);
      part = combine(step.op, operands);
    }
    part.begin = begin;
    if (!part.is_constant || guard.count == 1) {
      const bool choice = part.choices != nullptr;
      PartValue value{part.text, detail::evaluate(m, block, {begin, i + 1 - begin}), is_truth(step.op) && !choice};
      if (choice) value.choice = (*part.choices)[static_cast<std::size_t>(value.value)].text;
      const bool known =
          std::any_of(out.begin(), out.end(), [&](const PartValue& other) { return other.text == value.text; });
      if (!known) out.push_back(std::move(value));
    }
    stack.push_back(std::move(part));
  }
  return out;
}

SettlingRound::SettlingRound(const Considered& first) : at_(first.at), number_(first.round), machine_(first.machine) {
  for (std::size_t state = 0; state < machine_->states.size(); ++state)
    if (detail::is_active(*machine_, first.block, static_cast<std::uint16_t>(state)))
      active_.push_back(static_cast<std::uint16_t>(state));
  add(first);
}

bool SettlingRound::goes_on_with(const Considered& next) const {
  // States are looked at in the order of their numbers, and so are transitions; who settles once more begins anew.
  return next.at == at_ && next.round == number_ && next.machine == machine_ &&
         next.transition > looked_.back().transition;
}

std::vector<Skipped> SettlingRound::skipped() const {
  const MachineData& m = *machine_;
  const auto owner_of = [&](const Looked& each) { return m.transitions[each.transition].owner; };
  std::vector<Skipped> out;
  std::optional<std::uint32_t> taken;  // the last one that was
  auto next = looked_.begin();
  for (const std::uint16_t state : active_) {
    for (; next != looked_.end() && owner_of(*next) < state; ++next)
      if (next->verdict == Verdict::taken) taken = next->transition;
    const std::optional<std::uint32_t> before = taken;
    // Of its own, those at the top of its list were looked at, up to one that decided.
    const detail::Range<detail::TransitionData> go = m.states[state].go;
    std::uint32_t first = go.begin;
    for (; next != looked_.end() && owner_of(*next) == state; ++next) {
      first = next->transition + 1;
      if (next->verdict == Verdict::taken) taken = next->transition;
    }
    for (std::uint32_t i = first; i < go.begin + go.count; ++i) {
      if (first > go.begin)
        out.push_back({i, Skipped::Why::above, first - 1});
      else if (before)
        out.push_back({i,
                       state <= m.states[m.transitions[*before].owner].last ? Skipped::Why::around : Skipped::Why::left,
                       *before});
    }
  }
  return out;
}

}  // namespace mobrin
