// The commonest instant of a crowd's member, done in place: plays move on, one of them passes a place that only tells
// cues, nothing else happens. Whatever is more than that is left to the engine.
#pragma once

#include <vector>

#include "engine.hpp"

namespace mobrin::detail {

class QuickStep {
 public:
  QuickStep(const MachineData& machine, Listening listening);

  // Everything that lies at `at`, which is the member's wake, or the crowd's now if something was written, with what it
  // tells; false, with nothing changed, where that is more than plays moving on. `block` lacks its clock and
  // its wake, which is given.
  [[nodiscard]] bool instant(std::byte* block, std::int64_t at, Sink& sink, std::int64_t& wake) const;

  // What a region shows, where it plays on by itself; false where a closer look is needed.
  [[nodiscard]] bool show(const std::byte* block, std::uint16_t region, std::int64_t now, CrowdShown& out) const;

  // A member whose only business is to pass quiet places of one endless play at normal pace: where it tells next is
  // known without its block, which stays as it was when this began. That place, or kNoIndex where that is not so.
  [[nodiscard]] std::uint16_t cruise(const std::byte* block) const;
  // Brings the block of one that cruised to `now`; all that lay on the way has been told.
  void catch_up(std::byte* block, std::int64_t now) const;
  // What the place tells that a cruising member reaches next.
  [[nodiscard]] std::uint32_t cues_at(std::uint16_t cruise) const {
    return tells_cues_ ? places_[cruise].cues.count : 0;
  }
  [[nodiscard]] bool has_room(std::uint16_t cruise, const Sink& sink) const {
    return sink.crowd->has_room(cues_at(cruise));
  }
  // Tells the place that a cruising member reaches at `at`; the instant of the next one. REQUIRES: has_room().
  std::int64_t pass(std::uint16_t& cruise, std::int64_t at, Sink& sink) const {
    const Place& place = places_[cruise];
    if (tells_cues_) sink.crowd->append(MachineData::view(cues_, place.cues), Ticks(at), sink.place);
    cruise = place.next;
    return at + place.to_next;
  }

 private:
  struct Place {
    std::int64_t at = 0;       // sub-ticks on the cycle
    Range<CrowdCue> cues;      // what is told here, but for when and by whom
    bool quiet = true;         // tells cues that no transition waits for, and nothing else
    std::int64_t to_next = 0;  // where the play cruises: ticks to the place that follows, and which that is
    std::uint16_t next = 0;
  };
  // The play of a state at its own constant pace, forwards.
  struct Lap {
    bool quick = false;  // the state and those around it wait for no time
    bool moves = false;
    bool cruises = false;     // all its places are quiet, and pass at whole ticks
    bool round_trip = false;  // it comes round without telling or waking
    bool endless = false;
    std::uint16_t clip = 0;
    std::uint32_t places = 0;
    const Place* first = nullptr;  // rising; the last one is the end of the cycle where that wakes
    std::int64_t pace = 0;         // sub-ticks a tick
    std::int64_t cycle = 0;        // sub-ticks
    double rounds = 0;             // in a sub-tick
  };
  // Where a region's values lie.
  struct Slot {
    std::uint32_t leaf, playhead, fade_length;
  };
  // Whether a transition might be taken after a write.
  [[nodiscard]] bool may_settle(const std::byte* block, std::int64_t now) const;
  // Where on the cycle an endless play is that would be `to` sub-ticks from its beginning.
  [[nodiscard]] static std::int64_t within(const Lap& lap, std::int64_t to) {
    // The product may be one off; a division would take several times as long.
    to -= static_cast<std::int64_t>(static_cast<double>(to) * lap.rounds) * lap.cycle;
    if (to < 0) to += lap.cycle;
    return to >= lap.cycle ? to - lap.cycle : to;
  }
  void add_places(std::uint16_t state, const PlayedClip& played, bool round_trip);

  bool possible_ = true;
  bool tells_cues_ = true;
  std::vector<Slot> slots_;
  std::vector<Lap> laps_;  // a state's
  std::vector<Place> places_;
  std::vector<CrowdCue> cues_;
  std::vector<std::uint32_t> brief_pulses_;  // where they lie
  const MachineData& m_;
};

}  // namespace mobrin::detail
