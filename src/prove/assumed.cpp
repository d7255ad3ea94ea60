// Claims and assumptions against the machine's names, and tapes against assumptions.
#include <algorithm>

#include "mobrin/prove/prove.hpp"
#include "search.hpp"

namespace mobrin {

std::vector<Finding> claim_findings(const MachineDef& definition, const Machine& machine) {
  std::vector<Finding> out;
  if (definition.claims.empty() && definition.assumed.empty()) return out;
  const proof::Model model(definition, machine);
  const proof::Vocabulary names = model.names_at(0, true);
  const auto check = [&](const Text& text) {
    if (text.empty()) return;
    const proof::Bound bound = proof::bind_term(text.text, names, detail::ExprWords::claim);
    if (bound.term) return;
    out.push_back(finding_in(text.place.file < definition.files.size() ? definition.files[text.place.file] : "",
                             FindingCode::bad_expression, "\"" + text.text + "\": " + bound.problem, bound.remedy,
                             text.place.line, text.place.column));
  };
  for (const Text& text : definition.assumed) check(text);
  for (const ClaimDef& claim : definition.claims) {
    check(claim.first);
    check(claim.second);
  }
  return out;
}

std::vector<BrokenAssumption> broken_assumptions(const MachineDef& definition, const Machine& machine,
                                                 const Tape& tape) {
  using namespace proof;
  std::vector<BrokenAssumption> out;
  if (definition.assumed.empty()) return out;
  const Model model(definition, machine);
  std::vector<Term> terms;
  for (const Text& text : definition.assumed)
    terms.push_back(*bind_term(text.text, model.names_at(0, true), detail::ExprWords::claim).term);
  Instance instance(machine);
  std::vector<bool> told(terms.size(), false);  // each once
  CueList<256> nobody(0);
  Reading reading;
  const auto look = [&](Ticks at, const std::vector<Truth>& pulses) {
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
    std::vector<Truth> pulses(machine.inputs().size(), Truth::no);
    for (bool written = false; i < tape.steps.size() && tape.steps[i].at == at; ++i, written = true) {
      const TapeStep& step = tape.steps[i];
      if (step.settled || (written && takes_turn(step))) {
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
