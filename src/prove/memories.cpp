// Where `to: back` and `to: x/last` lead.
#include <algorithm>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

void Model::find_memories() {
  memory_of_.assign(rules_.size(), kNoIndex);
  for (const Rule& rule : rules_) {
    if (rule.def == nullptr || rule.aim == Aim::state) continue;
    Memory memory{rule.aim, rule.target, states_[rule.target].region};
    // What goes back is none to go back to, so that all leaves of a region remember the same.
    if (rule.aim == Aim::back && states_[rule.owner].children.empty()) memory.of = kNoIndex;
    const auto found = std::find(memories_.begin(), memories_.end(), memory);
    memory_of_[rule.index] = static_cast<std::uint16_t>(found - memories_.begin());
    if (found == memories_.end()) memories_.push_back(memory);
  }
}

void Model::remember_rest(std::uint16_t state) {
  Indices& held = made_.config.memories;
  for (std::size_t i = 0; i < held.size(); ++i) {
    const Memory& each = memories_[i];
    if (each.aim == Aim::back && states_[state].restful && each.region == states_[state].region &&
        (each.of == kNoIndex || !within(state, each.of)))
      held[i] = state;
  }
}

void Model::remember_last(std::uint16_t of, std::uint16_t child) {
  Indices& held = made_.config.memories;
  for (std::size_t i = 0; i < held.size(); ++i)
    if (memories_[i].aim == Aim::last && memories_[i].of == of) held[i] = child;
}

std::uint16_t Model::initial_for(const Rule& rule) const {
  if (rule.aim == Aim::last) return states_[rule.target].initial;
  std::uint16_t initial = machine_.regions()[states_[rule.owner].region].initial;
  while ((*active_)[initial] != 0 && states_[initial].initial != kNoIndex) initial = states_[initial].initial;
  return initial;
}

}  // namespace mobrin::proof
