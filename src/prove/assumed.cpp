// Claims and assumptions against the machine's names, and tapes against assumptions.
#include <algorithm>

#include "mobrin/prove/prove.hpp"
#include "model_parts.hpp"
#include "search.hpp"

namespace mobrin {
namespace {

using proof::Term;

// The kinds of values as an expression's compiler tells them apart.
detail::ValueType type_of(const Term& term, const proof::Model& model) {
  using detail::Op;
  using detail::ValueType;
  switch (term.kind) {
    case Term::Kind::constant:
      return term.truth ? ValueType::boolean : ValueType::number;
    case Term::Kind::input: {
      const auto& kind = model.machine().inputs()[term.index].kind;
      if (std::holds_alternative<BoolInput>(kind)) return ValueType::boolean;
      if (std::holds_alternative<ChoiceInput>(kind)) return ValueType::choice;
      return std::holds_alternative<IntInput>(kind) ? ValueType::whole : ValueType::number;
    }
    case Term::Kind::variable: {
      const auto kind = model.variables()[term.index].kind;
      if (kind == proof::Variable::Kind::truth) return ValueType::boolean;
      return kind == proof::Variable::Kind::whole ? ValueType::whole : ValueType::number;
    }
    case Term::Kind::state:
    case Term::Kind::trait:
    case Term::Kind::pulse:
    case Term::Kind::cue:
      return ValueType::boolean;
    case Term::Kind::operation:
      break;
  }
  if (term.op == Op::select) return type_of(term.operands[1], model);
  return proof::compares(term.op) || term.op == Op::not_ || term.op == Op::and_ || term.op == Op::or_
             ? ValueType::boolean
             : ValueType::number;
}

std::string name_of(const Term& term, const proof::Model& model) {
  if (term.kind == Term::Kind::input) return "\"" + model.machine().inputs()[term.index].name.text + "\"";
  if (term.kind == Term::Kind::variable) return "\"" + model.variables()[term.index].name + "\"";
  return "what stands there";
}

// The first part of it that should be true or false and is not; null for none.
const Term* no_truth(const Term& term, const proof::Model& model, bool truth) {
  using detail::Op;
  if (truth && type_of(term, model) != detail::ValueType::boolean) return &term;
  const bool of_truths =
      term.kind == Term::Kind::operation && (term.op == Op::and_ || term.op == Op::or_ || term.op == Op::not_);
  for (const Term& each : term.operands)
    if (const Term* const found = no_truth(each, model, of_truths)) return found;
  return nullptr;
}

Finding found_in(const Text& text, const proof::Model& model, FindingCode code, std::size_t offset,
                 const std::string& problem, const std::string& remedy) {
  const auto& files = model.definition().files;
  const auto further = text.place.line > 0 ? static_cast<std::uint32_t>(offset) : 0;
  return finding_in(text.place.file < files.size() ? files[text.place.file] : "", code,
                    "\"" + text.text + "\": " + problem, remedy, text.place.line, text.place.column + further);
}

// A cue in it; null for none.
const Term* cue_in(const Term& term) {
  const Term* out = nullptr;
  proof::each_term(term, [&](const Term& each) {
    if (each.kind == Term::Kind::cue && out == nullptr) out = &each;
  });
  return out;
}

// `of_the_write`: it is read when the game has written and nothing has settled.
std::optional<Finding> problem_of(const Text& text, const proof::Model& model, const proof::Vocabulary& names,
                                  bool truth, bool of_the_write = false) {
  const proof::Bound bound = proof::bind_term(text.text, names, detail::ExprWords::claim);
  if (!bound.term) return found_in(text, model, FindingCode::bad_expression, bound.offset, bound.problem, bound.remedy);
  const Term* const wrong = no_truth(*bound.term, model, truth);
  if (const Term* const cue = cue_in(*bound.term); wrong == nullptr && cue != nullptr && of_the_write)
    return found_in(text, model, FindingCode::wrong_operand, cue->offset,
                    "no cue is told yet when this is read, before the machine settles",
                    "Ask from then on: `{from: cue(" + model.machine().cues()[cue->index].name.text +
                        "), within: 0s, reaches: ...}`.");
  if (wrong == nullptr) return std::nullopt;
  const detail::ValueType type = type_of(*wrong, model);
  return found_in(
      text, model, FindingCode::wrong_operand, wrong->offset,
      name_of(*wrong, model) + " is " + std::string(text_of(type)) + ", not true or false",
      type == detail::ValueType::choice ? "Compare it with one of its choices." : "Compare it, such as with `> 0`.");
}

}  // namespace

std::optional<Finding> expression_finding(const MachineDef& definition, const Machine& machine, const Text& expression,
                                          bool truth) {
  const proof::Model model(definition, machine);
  return problem_of(expression, model, model.names_at(0, true), truth);
}

std::vector<Finding> claim_findings(const MachineDef& definition, const Machine& machine) {
  std::vector<Finding> out;
  if (definition.claims.empty() && definition.assumed.empty()) return out;
  const proof::Model model(definition, machine);
  const proof::Vocabulary names = model.names_at(0, true);
  const auto check = [&](const Text& text, bool of_the_write) {
    if (text.empty()) return;
    if (auto found = problem_of(text, model, names, true, of_the_write)) out.push_back(std::move(*found));
  };
  for (const Text& text : definition.assumed) check(text, true);
  for (const ClaimDef& claim : definition.claims) {
    check(claim.first, claim.kind == ClaimKind::when);
    check(claim.second, false);
  }
  return out;
}

std::vector<BrokenAssumption> broken_assumptions(const MachineDef& definition, const Machine& machine,
                                                 const Tape& tape) {
  using namespace proof;
  std::vector<BrokenAssumption> out;
  if (definition.assumed.empty()) return out;
  const Model model(definition, machine);
  const std::vector<Term> terms = model.assumed();
  Instance instance(machine);
  std::vector<bool> told(terms.size(), false);  // each once
  CueList<256> nobody(0);
  Reading reading;
  const auto look = [&](Ticks at, const Truths& pulses) {
    read(model, instance, reading);
    const View view = reading.view(model, pulses, nullptr);
    for (std::size_t i = 0; i < terms.size(); ++i)
      if (!told[i] && holds(terms[i], view) == Truth::no) {
        told[i] = true;
        out.push_back({at, definition.assumed[i].text});
      }
  };
  for (std::size_t i = 0; i < tape.steps.size();) {
    const Ticks at = tape.steps[i].at;
    if (tape.until && at > *tape.until) break;
    (void)instance.advance(at - instance.now(), nobody);
    Truths pulses(machine.inputs().size(), Truth::no);
    for (bool written = false; i < tape.steps.size() && tape.steps[i].at == at; ++i, written = true) {
      const TapeStep& step = tape.steps[i];
      if (takes_turn(step, written)) {
        look(at, pulses);
        (void)instance.advance(Ticks{}, nobody);
        pulses.assign(pulses.size(), Truth::no);
      }
      write_step(instance, step);
      for (const Text& pulse : step.pulses)
        for (std::size_t p = 0; p < pulses.size(); ++p)
          if (machine.inputs()[p].name.text == pulse.text) pulses[p] = Truth::yes;
    }
    look(at, pulses);
    (void)instance.advance(Ticks{}, nobody);
  }
  return out;
}

}  // namespace mobrin
