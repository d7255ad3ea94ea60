// Trace: what an instance considered in a step, transition by transition, and why each was taken or not.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

struct Shown;

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
  /// What the region of its state shows then: what `during:` is held against. Include instance.hpp to look into it.
  [[nodiscard]] Shown shown() const;
};

/// A transition that a round did not look at, though its state was active when the round began.
struct Skipped {
  /// Why it was not looked at.
  enum class Why : std::uint8_t {
    above,   ///< one above it in its own list was taken, or stands
    around,  ///< one of a state around its own was taken
    left,    ///< one of another region was taken and left its state
  };
  std::uint32_t transition = 0;  ///< index into Machine::transitions()
  Why why = Why::above;          ///< the first of these that is so
  std::uint32_t by = 0;          ///< the transition that was taken or stands, by index
};

/// A round of settling, gathered from what a trace hook hears: what it looked at, and what it did not look at. Valid as
/// long as its machine.
class SettlingRound {
 public:
  /// Begins with the first that is looked at. During the call of the hook only. Allocates, as add() does.
  explicit SettlingRound(const Considered& first);
  /// Whether the next one belongs to this round too; else it begins another.
  [[nodiscard]] bool goes_on_with(const Considered& next) const;
  /// The next one of this round.
  void add(const Considered& next) { looked_.push_back({next.transition, next.verdict}); }

  /// One that was looked at.
  struct Looked {
    std::uint32_t transition = 0;      ///< index into Machine::transitions()
    Verdict verdict = Verdict::event;  ///< why it was taken, or not
  };
  /// All of them in their order.
  [[nodiscard]] std::span<const Looked> looked() const { return looked_; }
  /// The instant.
  [[nodiscard]] Ticks at() const { return at_; }
  /// Which of the settling it is, from 0.
  [[nodiscard]] int number() const { return number_; }
  /// The states that were active when it began, by index, those around others before them.
  [[nodiscard]] std::span<const std::uint16_t> active() const { return active_; }
  /// The transitions of those states that were not looked at, by index, each once. Allocates.
  [[nodiscard]] std::vector<Skipped> skipped() const;

 private:
  Ticks at_;
  int number_ = 0;
  const detail::MachineData* machine_ = nullptr;
  std::vector<std::uint16_t> active_;
  std::vector<Looked> looked_;
};

/// Called for each transition looked at, in order. It must not touch the instance. Null, the default, costs nothing.
struct TraceHook {
  void (*call)(void* context, const Considered& considered) = nullptr;  ///< Called with each transition looked at.
  void* context = nullptr;  ///< owned by whoever sets the hook; alive as long as the hook is set
};

}  // namespace mobrin
