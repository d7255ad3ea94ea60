// Trace: what an instance considered in a step, transition by transition, and why each was taken or not.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// What became of a transition that was looked at. The parts are tried in this order; the first that fails is named.
enum class Verdict : std::uint8_t {
  event,           ///< its event is not there: no such pulse alive, cue, loop moment; not at the end, or not that long
  guard,           ///< its `when:` is false
  window,          ///< its `during:` does not hold the playhead
  sealed,          ///< a sealed state lies in between
  already_active,  ///< it asks for what is there already, and its event lets the search go on
  stands,          ///< it asks for what is there already: the rest of its list is passed over
  taken,
};

/// A part of a guard with its value at that moment: bools are 0 and 1, choices their index.
struct PartValue {
  std::string text;       ///< as it stands in the file
  double value = 0;       ///< what it was worked out to
  bool is_truth = false;  ///< the value is true or false
  std::string choice{};   ///< the choice's name, where it is one
};

/// One transition looked at. Valid during the call of the hook only.
struct Considered {
  Ticks at;                                      ///< when it was looked at
  int round = 0;                                 ///< of the settling, from 0
  std::uint32_t transition = 0;                  ///< index into Machine::transitions()
  Verdict verdict = Verdict::event;              ///< why it was taken, or not
  const detail::MachineData* machine = nullptr;  ///< not for users
  const std::byte* block = nullptr;              ///< not for users

  /// The guard's parts with their values, innermost first, the whole guard last; empty without a guard. Allocates.
  [[nodiscard]] std::vector<PartValue> guard_parts() const;
};

/// Called for each transition looked at, in order. It must not touch the instance. Null, the default, costs nothing.
struct TraceHook {
  void (*call)(void* context, const Considered& considered) = nullptr;  ///< Called with each transition looked at.
  void* context = nullptr;  ///< owned by whoever sets the hook; alive as long as the hook is set
};

}  // namespace mobrin
