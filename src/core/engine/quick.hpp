// The quick way: the commonest instants, done in place by the machine's plan. Plays move on, one of them passes a stop
// that only tells cues, transitions are taken whose way is known beforehand. Whatever is more than that is left to the
// engine, which comes to the same.
#pragma once

#include <array>
#include <vector>

#include "compile/plan.hpp"
#include "engine/engine.hpp"
#include "expression/program.hpp"

namespace mobrin::detail {

// Ticks that an instant may cover, six minutes: a distance stays far from overflow.
inline constexpr std::int64_t kLongestQuick = std::int64_t{1} << 38;

// What a region shows, and until when at least if nothing touches it.
struct Showing {
  CrowdShown shown;
  std::int64_t until = kNever;
  // Where it plays at normal pace, endless or once: what of which clip.
  const Segment* on = nullptr;
  const ClipData* of = nullptr;
};

class Quick {
 public:
  // Without `hears_loops` rounds on which nothing else lies wake nobody.
  Quick(const MachineData& machine, const Plan& plan, const Programs& programs, bool hears_loops);

  // What comes after an instant.
  struct After {
    std::int64_t wake = 0;
    std::uint16_t cruise = kNoIndex;  // see cruise()
  };

  // Everything that lies at `at`, which is the block's wake, or its now if something was written, with what it tells.
  // False where that is more than the quick way can do: then the block is one with which the engine goes on at that
  // very instant. The block's clock and wake are not touched; the wake is given. `undo` has room for another block.
  // One that cruised may come as it was then if something was written.
  [[nodiscard]] bool instant(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const;
  // The same where something was written to a block of one region, and one transition with a script is all that comes
  // of it: to be tried first, for instant() does not. False, with nothing changed or told, where that is not so.
  [[nodiscard]] bool answer(std::byte* block, std::int64_t at, Sink& sink, After& after) const {
    const PlanGo* taken = nullptr;
    return answer(block, at, sink, after, taken);
  }
  [[nodiscard]] bool answer(std::byte* block, std::int64_t at, Sink& sink, After& after, const PlanGo*& taken) const;
  // Whether some transition may be taken at `at`, with the values as they are; a close look, but for what is not plain.
  // Where not, nothing comes of settling. REQUIRES: the block came to rest, and only values of inputs changed since.
  [[nodiscard]] bool may_take(const std::byte* block, std::int64_t at) const;

  // A block at rest to which pulses are written that nothing active hears: brings it to `at`, the instant at which they
  // live, for something else that is written there may lead to where they are heard. False, with nothing changed, where
  // that is more than the quick way can do. REQUIRES: all that lies until then has been told, and nothing at `at`.
  [[nodiscard]] bool hold_pulses(std::byte* block, std::int64_t at) const;

  // Whether anything may come of it that the input at `offset` has another value now. REQUIRES: as may_take().
  [[nodiscard]] bool stirs(const std::byte* block, std::uint32_t offset, std::int64_t at) const;

  // What a region shows, where it plays on by itself; false where a closer look is needed.
  [[nodiscard]] bool look(const std::byte* block, std::uint16_t region, std::int64_t now, Showing& out) const;

  // A member of a crowd whose only business is to pass quiet stops of one endless play at normal pace: where it tells
  // next is known without its block, which stays as it was when this began. That stop, or kNoIndex where that is not
  // so.
  [[nodiscard]] std::uint16_t cruise(const std::byte* block) const;
  // Brings the block of one that cruised to `now`; all that lay on the way has been told, `told` records at `now`.
  void catch_up(std::byte* block, std::int64_t now, std::uint32_t told) const;
  // How many records one that cruises towards `cruise`, which it reaches at `wake`, told at `now`.
  [[nodiscard]] std::uint32_t told_at(std::uint16_t cruise, std::int64_t wake, std::int64_t now) const {
    const LapStop& next = stops_[cruise];
    return wake - next.since_last == now ? next.told_last : 0;
  }
  // What the place tells that a cruising member reaches next.
  [[nodiscard]] std::uint32_t cues_at(std::uint16_t cruise) const { return stops_[cruise].cues.count; }
  // Tells the stop that a cruising member reaches at `at`; the instant of the next one. REQUIRES: the list has room.
  std::int64_t pass(std::uint16_t& cruise, std::int64_t at, Sink& sink) const {
    const LapStop& stop = stops_[cruise];
    if (sink.listens(Told::cue)) sink.crowd->append(MachineData::view(cues_, stop.cues), Ticks(at), sink.place);
    cruise = stop.next;
    return at + stop.to_next;
  }

 private:
  friend class Repeats;
  struct LapStop {
    std::int64_t at = 0;       // sub-ticks on the cycle
    Range<CrowdCue> cues;      // what is told here, but for when and by whom
    bool quiet = true;         // tells cues that no transition waits for, and nothing else
    bool ends = false;         // the play ends here, or comes round before, telling no more than that
    std::int64_t to_next = 0;  // where the play cruises: ticks to the stop that follows, and which that is
    std::uint16_t next = 0;
    std::int64_t since_last = 0;  // and from the one before, which tells so many
    std::uint32_t told_last = 0;
  };
  // The play of a state at its own constant pace, forwards.
  struct Lap {
    bool quick = false;  // the state and those around it wait for no time
    bool moves = false;
    bool cruises = false;     // all its stops are quiet, and pass at whole ticks
    bool round_trip = false;  // it comes round without telling or waking
    bool endless = false;
    std::uint16_t clip = 0;
    std::uint16_t passes = 0;            // 0 for endless
    std::uint32_t stops = 0, first = 0;  // rising; the last one is the end of the cycle where that wakes
    std::int64_t pace = 0;               // sub-ticks a tick
    std::int64_t cycle = 0;              // sub-ticks
    double rounds = 0;                   // in a sub-tick
    // From the beginning of the play: ticks to its first stop, and which that is where it cruises.
    std::int64_t to_first = kNever;
    std::uint16_t first_stop = kNoIndex;
  };
  // Where a region's values lie.
  struct Slot {
    std::uint32_t leaf, playhead, passes, fade_length;
  };
  // Gathers, region by region, whether a block cruises.
  class Cruise {
   public:
    // A play that moves and has not ended, and its next stop.
    void add(const Lap& lap, std::uint16_t next) {
      if (!lap.round_trip)
        more_ = true;
      else if (lap.stops == 0)
        // Where it comes round at the instant of a cue, that counts as a record: before the cue if its region is first.
        round_before_ = round_before_ || stop_ == kNoIndex;
      else if (!lap.cruises || stop_ != kNoIndex || round_before_)
        more_ = true;
      else
        stop_ = next;
    }
    [[nodiscard]] std::uint16_t stop() const { return more_ ? kNoIndex : stop_; }

   private:
    std::uint16_t stop_ = kNoIndex;
    bool round_before_ = false, more_ = false;
  };
  // What an instant has to do with.
  struct Instant {
    Instant(std::byte* block, std::int64_t when, Sink& told, std::byte* before, std::uint32_t next)
        : b(block), at(when), sink(told), undo(before), ordinal(next), hears_states(Quick::hears_states(told)) {}
    std::byte* b;
    std::int64_t at;
    Sink& sink;
    std::byte* undo;
    std::uint32_t ordinal;
    bool hears_states;
    bool taken = false;  // some transition; before it the block lies in `undo`, and so much was told
    Sink::Mark told_before;
    std::size_t pulse_count = 0;  // taken in this round
    std::array<const PlanGo*, kMostQuickRegions> pulses;
    std::uint32_t begun = 0;  // regions that something was begun to play in, a bit each
  };
  [[nodiscard]] static bool hears_states(const Sink& sink) {
    return (sink.heard() & (listen_to(Told::enter) | listen_to(Told::leave))) != 0;
  }
  // Where the regions' plays stand.
  using Playheads = std::array<std::int64_t, kMostQuickRegions>;

  void add_stops(std::uint16_t state, const PlayedClip& played, bool round_trip, bool hears_loops);
  // Where on the cycle an endless play is that would be `to` sub-ticks from its beginning.
  [[nodiscard]] static std::int64_t within(const Lap& lap, std::int64_t to) {
    // The product may be one off; a division would take several times as long.
    to -= static_cast<std::int64_t>(static_cast<double>(to) * lap.rounds) * lap.cycle;
    if (to < 0) to += lap.cycle;
    return to >= lap.cycle ? to - lap.cycle : to;
  }
  // Whether a play that moves has ended, and stands.
  [[nodiscard]] static bool stands(const Lap& lap, std::int64_t here) { return !lap.round_trip && here == lap.cycle; }
  // Whether a play that moves is, so long after `here`, at an instant at which it ends or comes round: that is a
  // record, though nobody may hear it.
  [[nodiscard]] static bool turns(const Lap& lap, std::int64_t here, std::int64_t played) {
    if (played == 0 || stands(lap, here)) return false;
    const std::int64_t to = here + lap.pace * played;
    return to >= lap.cycle && (!lap.round_trip || within(lap, to) < lap.pace);
  }
  [[nodiscard]] const LapStop* stops_of(const Lap& lap) const { return stops_.data() + lap.first; }
  // The first stop behind `here`; the end of its stops for none before the play comes round.
  [[nodiscard]] const LapStop* stop_ahead(const Lap& lap, std::int64_t here) const {
    const LapStop* next = stops_of(lap);
    const LapStop* const end = next + lap.stops;
    while (next != end && next->at <= here) ++next;
    return next;
  }
  [[nodiscard]] static std::uint16_t index_of(const Lap& lap, std::size_t stop) {
    return static_cast<std::uint16_t>(lap.first + (stop < lap.stops ? stop : 0));
  }
  [[nodiscard]] std::uint16_t index_of(const Lap& lap, const LapStop* stop) const {
    return index_of(lap, static_cast<std::size_t>(stop - stops_of(lap)));
  }
  [[nodiscard]] static bool fades(const std::byte* block, const Slot& slot) {
    return slot.fade_length != kNoOffset && field_at<std::int64_t>(block, slot.fade_length) != 0;
  }
  // Ticks until a play that stands at `here` reaches that; kNever for never. REQUIRES: it moves and has not ended.
  [[nodiscard]] std::int64_t ticks_to(const LapStop* next, const Lap& lap, std::int64_t here) const {
    if (next != stops_of(lap) + lap.stops) return ticks_to_cover(next->at - here, lap.pace);
    if (lap.stops == 0 || !lap.round_trip) return kNever;
    return ticks_to_cover(lap.cycle - here + stops_of(lap)->at, lap.pace);
  }
  template <std::size_t kRegions>
  [[nodiscard]] After after(const Instant& now) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool settle(Instant& now) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool instant_of(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool bring(std::byte* block, std::int64_t at) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool decide(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool move_on(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const;
  template <std::size_t kRegions>
  [[nodiscard]] bool come_to_rest(std::byte* block, std::int64_t at, Sink& sink, std::byte* undo, After& after) const;
  [[nodiscard]] bool run(Instant& now, const Script& script) const;
  [[nodiscard]] bool time_is_over(const PlanGo& go, std::uint16_t owner, const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool opens(const PlanGo& go, std::uint16_t owner, const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool opens(const LeafGo& go, const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool more_opens(const PlanGo& go, std::uint16_t owner, const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool any_pulse_but(const PlanGo& go, const std::byte* block) const;
  [[nodiscard]] std::uint16_t first_heard(const StatePlan& plan, const std::byte* block) const;
  [[nodiscard]] const PlanGo* open_from(const PlanGo* go, std::uint16_t owner, std::uint16_t leaf,
                                        const std::byte* block, std::int64_t at) const;
  [[nodiscard]] const PlanGo* open(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                   std::int64_t at) const;
  [[nodiscard]] const PlanGo* open_on_path(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                           std::int64_t at) const;
  [[nodiscard]] const PlanGo* first_open(const LeafGo* each, const LeafGo* end, const std::byte* block,
                                         std::int64_t at) const;
  [[nodiscard]] const PlanGo* heard(const StatePlan& plan, std::uint16_t leaf, const std::byte* block,
                                    std::int64_t at) const;
  [[nodiscard]] const PlanGo* heard_from(const PlanGo* go, const StatePlan& plan, std::uint16_t leaf,
                                         const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool root_opens(const std::byte* block, std::int64_t at) const;
  [[nodiscard]] bool take(Instant& now, const PlanGo& go, std::uint16_t leaf) const;
  [[nodiscard]] bool act_out(Instant& now, const PlanGo& go, std::uint16_t leaf) const;
  void take_back(Instant& now) const;
  void act(Instant& now, Range<Deed> deeds, std::uint32_t transition) const;
  void end_spans(Instant& now, std::uint16_t state) const;
  void tell(Instant& now, const Cue& record, std::uint32_t transition) const;
  [[nodiscard]] static bool tell_all(std::span<const CrowdCue> cues, std::int64_t at, std::uint32_t before, Sink& sink);

  const MachineData& m_;
  const Plan& plan_;
  const Programs& programs_;
  bool possible_;
  bool single_;              // and there is one region
  bool root_looks_ = false;  // it has transitions of its own, and there are several regions
  std::vector<Slot> slots_;
  std::vector<Lap> laps_;  // a state's
  std::vector<LapStop> stops_;
  std::vector<CrowdCue> cues_;
};

// What is made of a machine's tables when they are complete.
struct Prepared {
  explicit Prepared(const MachineData& machine);
  [[nodiscard]] const Quick& quick(bool hears_loops) const { return hears_loops ? of_all : of_game; }

  // Whether the guard of a transition holds.
  [[nodiscard]] bool guard_holds(const MachineData& machine, const std::byte* block, std::uint32_t transition) const {
    return plan.guard_holds(machine, programs, block, plan.gos[transition]);
  }

  Plan plan;
  Programs programs;
  Quick of_game, of_all;
};

}  // namespace mobrin::detail
