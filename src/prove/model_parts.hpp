// What the model's own files share.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstring>
#include <string>
#include <type_traits>
#include <vector>

#include "model.hpp"

namespace mobrin::proof {

constexpr double kSpeedGrain = 1.0 / 65536;  // to which speeds are rounded

constexpr Ticks kSurely{1'000};  // what rates and speeds may be rounded by, and far more

// All passes of a clip; one where it goes on for ever.
inline Ticks whole_play(const ClipInfo& clip) { return Ticks(clip.cycle.count * std::max(1, clip.def.play.passes)); }

inline bool contains(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}
template <class Value>
void add_once(std::vector<Value>& all, std::type_identity_t<Value> one) {
  if (std::find(all.begin(), all.end(), one) == all.end()) all.push_back(one);
}

// Marks the inputs that a term, or what actions assign, is computed from.
// Whether it speaks of more than one input or variable.
[[nodiscard]] bool names_several(const Term& term);
inline void note_inputs(const Term& term, std::vector<bool>& out) {
  each_term(term, [&](const Term& each) {
    if (each.kind == Term::Kind::input) out[each.index] = true;
  });
}
inline void note_inputs(const std::vector<Action>& actions, std::vector<bool>& out) {
  for (const Action& action : actions)
    if (action.value) note_inputs(*action.value, out);
}

inline bool compares(detail::Op op) { return op >= detail::Op::less && op <= detail::Op::not_equal; }

// A value of a block.
template <class T>
[[nodiscard]] T read_at(const std::byte* block, std::size_t offset) {
  T out;
  std::memcpy(&out, block + offset, sizeof out);
  return out;
}

template <class List>
void add_bytes(std::string& out, const List& all) {
  out.append(reinterpret_cast<const char*>(all.data()), all.size() * sizeof(*all.data()));
}

// The parts into which `cuts` divide what an input may hold, as it is stored.
[[nodiscard]] std::vector<Span> cells_of(const InputDef& input, std::vector<double> cuts);

}  // namespace mobrin::proof
