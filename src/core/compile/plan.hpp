// The plan of a machine: what can be taken in each state, and what leaving, entering and beginning to play do, as lists
// that are run one after the other. Made once, when the machine is complete, for the quick way (quick.hpp).
#pragma once

#include <cstring>
#include <vector>

#include "expression/program.hpp"
#include "machine/machine_data.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin::detail {

inline constexpr std::size_t kMostQuickRegions = 8;

// Blocks are whole words, and no value lies across two.
inline constexpr std::uint32_t kWord = sizeof(std::uint64_t);
inline constexpr std::uint32_t kFirstWord = offsetof(BlockHeader, anchor);  // of those that a crowd's block has, too

// What was added to a list that had `begin` entries.
template <class T>
[[nodiscard]] Range<T> since(const std::vector<T>& all, std::size_t begin) {
  return {static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(all.size() - begin)};
}

// One thing that is done to a block, or told.
struct Deed {
  enum class Does : std::uint8_t {
    store8,
    store16,
    store32,
    store64,
    tell,       // the record `at` of the plan
    assign,     // the action `at`
    end_spans,  // of the play of the state `at`, by where it stands
    remember,   // the state `at` keeps where its `to: back` leads
    count,      // `value` records that nobody hears
  };
  Does does = Does::store8;
  std::uint32_t at = 0;  // an offset in the block, or an index
  std::int64_t value = 0;
};

// What one word of a block becomes: what is kept of it, and what is stored beside that.
struct Patch {
  std::uint32_t at = 0;
  std::uint64_t keep = 0, value = 0;
  void apply(std::byte* block) const {
    std::uint64_t word = 0;
    std::memcpy(&word, block + at, sizeof word);
    word = (word & keep) | value;
    std::memcpy(block + at, &word, sizeof word);
  }
};

// A way out of a state and into another that only stores and tells, at once.
struct Script {
  Range<Patch> patches;
  Range<CrowdCue> cues;       // what is told, but for when and by whom
  std::uint32_t records = 0;  // with those that nobody hears
};

// The commonest guards: values of the block that lie within an interval or not, all of them or any. Of a number, of its
// distance from 0, of a bool, a choice, or of the innermost active state of a region.
struct PlanGuard {
  using From = BlockValue;
  From from = From::byte;
  bool outside = false;
  std::uint32_t at = 0;
  double low = 0, high = 0;
};

// Whether a value does; and the one in a block.
[[nodiscard]] inline bool lies_within(const PlanGuard& guard, double value) {
  return ((value >= guard.low) & (value <= guard.high)) != guard.outside;
}
[[nodiscard]] inline bool lies_within(const PlanGuard& guard, const std::byte* block) {
  return lies_within(guard, value_at(block, guard.from, guard.at));
}

inline constexpr std::uint32_t kNoScript = 0xffff'ffff;

// A transition as it is looked at.
struct PlanGo {
  GoEvent event = GoEvent::none;
  bool buffered = false;  // of a pulse: it has a last instant
  bool stands = false;    // see EventRule
  bool restart = false;
  bool sure = false;   // plain, without a guard, and nothing is sealed: it leads where it leads once its event comes
  bool plain = false;  // where it leads does not hang on memory, windows, times or other regions, and nothing fades
  std::uint16_t target = 0, target_last = 0;  // the state, and its last descendant
  std::uint16_t leaf = 0;                     // what is innermost when it is entered
  std::uint8_t region = 0;                    // where that lies
  std::uint32_t pulse = 0;                    // where it lies
  enum class Guard : std::uint8_t { nothing, all, any, program } guard = Guard::nothing;
  Range<PlanGuard> guards;
  ExprRef expression;  // where the guard is more than that
  Range<Deed> actions;
  // All that it does, for who hears neither states entered nor left; where it is plain and its owner is innermost.
  Range<Deed> whole;
  std::uint32_t script = kNoScript;  // the same, where it only stores and tells
};
static_assert(sizeof(PlanGo) <= 64);

// Bytes of one word of a block.
struct WordMask {
  std::uint32_t at = 0;
  std::uint64_t mask = 0;
};

// A transition as one leaf looks at it, where all that may be taken there stands in one list: those of the outer states
// first, without any that leads nowhere from there.
struct LeafGo {
  // What one word must hold: a pulse without a buffer, and terms of the guard that ask for one value of a byte or two.
  WordMask word{kFirstWord, 0};
  std::uint64_t wanted = 0;
  enum class Waits : std::uint8_t { nothing, buffered_pulse, more } waits = Waits::nothing;
  PlanGo::Guard guard = PlanGo::Guard::nothing;  // what is left of it
  Range<PlanGuard> guards;
  std::uint16_t owner = 0;
  std::uint16_t skip = 0;  // where it stands: so many further is the first one of the next state; 0: it is taken
  std::uint32_t pulse = 0;
  std::uint32_t go = 0;
};

struct StatePlan {
  // Of states from the outermost of its region down to itself; before them the root, if there is no other region.
  Range<std::uint16_t> path;
  Range<PlanGo> go;  // its own
  Range<Deed> leave, enter;
  Range<Deed> begin;                   // its play, where it is the innermost
  std::uint16_t parent = 0, last = 0;  // as of StateData
  // Whether that is all that happens: no cue that a transition waits for is told, nothing hangs on inputs. `all`: of
  // those around it in its region, too.
  bool leaves = false, enters = false, begins = false;
  bool leaves_all = false, enters_all = false;
  bool steady = false;  // its play goes on at its own pace, forwards, and nothing waits for a time
  // What is read while it is innermost, see read_bit(): by guards of what may be taken in it or in those around it at
  // any time, and by its play.
  std::uint64_t guards_read = 0, play_reads = 0;
  // Of an innermost one: all that may be taken there. Without it, for want of room, the states of the path are looked
  // at.
  Range<LeafGo> leaf_gos;
  bool has_leaf_gos = false;
  // Where all that may be taken in it waits for pulses without a buffer, and but one state of the path has transitions:
  // which that is.
  std::uint16_t hears = kNoIndex;
  // Of that one: for each byte of the pulses' words the first of its transitions that waits for the pulse there.
  Range<std::uint16_t> by_pulse;
};

// Stands for a value of the block in a set; several values may share a bit.
[[nodiscard]] inline std::uint64_t read_bit(std::uint32_t offset) {
  return std::uint64_t{1} << ((offset * std::uint32_t{0x9E37'79B1}) >> 26);
}

struct Plan {
  explicit Plan(const MachineData& machine);

  // Whether the guard of a transition holds.
  [[nodiscard]] bool guard_holds(const MachineData& machine, const Programs& programs, const std::byte* block,
                                 const PlanGo& go) const {
    if (go.guard == PlanGo::Guard::nothing) return true;
    if (go.guard == PlanGo::Guard::program) return programs.holds(machine, block, go.expression);
    return terms_hold(go.guards, go.guard == PlanGo::Guard::any, block);
  }
  // Whether any of them does, or all.
  [[nodiscard]] bool terms_hold(Range<PlanGuard> terms, bool any, const std::byte* block) const {
    const PlanGuard* const first = guards.data() + terms.begin;
    for (std::uint32_t i = 0; i < terms.count; ++i)
      if (lies_within(first[i], block) == any) return any;
    return !any;
  }

  bool possible = false;               // few regions, none within a state; without it there are `gos` and `guards` only
  bool seals = false;                  // some state is sealed
  std::vector<WordMask> brief_pulses;  // those without a buffer; also where the rest is not possible
  std::vector<StatePlan> states;
  std::vector<PlanGo> gos;  // by the index of their transition
  std::vector<PlanGuard> guards;
  std::vector<LeafGo> leaf_gos;
  std::vector<std::uint16_t> paths;
  std::vector<Deed> deeds;
  std::vector<Cue> records;             // without machine, instant and number
  std::vector<std::uint16_t> by_pulse;  // counted from the state's first; kNoIndex for none
  std::vector<Script> scripts;
  std::vector<Patch> patches;
  std::vector<CrowdCue> cues;  // of scripts

 private:
  void add_reads(const MachineData& machine, std::uint16_t state);
  void add_dispatch(StatePlan& plan);
  void add_by_pulse(StatePlan& plan);
  // `bools`: of each byte of a block whether that is where one lies.
  void add_leaf_gos(const MachineData& machine, std::uint16_t leaf, const std::vector<bool>& bools);
  [[nodiscard]] LeafGo leaf_go(std::uint16_t owner, std::uint32_t go, const std::vector<bool>& bools);
  void fold_guard(LeafGo& go, const std::vector<bool>& bools);
  void add_guard(const MachineData& machine, PlanGo& go);
  void add_go(const MachineData& machine, const TransitionData& go);
  void finish_go(const MachineData& machine, const TransitionData& go, PlanGo& out);
  void add_leave(const MachineData& machine, std::uint16_t state);
  void add_enter(const MachineData& machine, std::uint16_t state);
  void add_begin(const MachineData& machine, std::uint16_t state);
  void add_actions(const MachineData& machine, Range<ActionData> actions, bool& plain);
  void add_wholes(const MachineData& machine);
  void add_whole(const MachineData& machine, std::uint16_t leaf, PlanGo& go, std::vector<Deed>& scratch);
  void add_script(const MachineData& machine, PlanGo& go);
  void add_slot(const SlotData& slot, std::int32_t speed);
  void add(Deed::Does does, std::uint32_t at, std::int64_t value = 0) { deeds.push_back({does, at, value}); }
  void add_record(const Cue& record);
};

// quick_laps.cpp: of a machine that is complete.
[[nodiscard]] const Plan& plan_of(const MachineData& machine);

// All expressions that the engine runs as programs.
[[nodiscard]] std::vector<ExprRef> programs_of(const MachineData& machine, const Plan& plan);

}  // namespace mobrin::detail
