// The stepping engine: what happens at one instant, and when the next one is due. Works on one block; holds no state of
// its own between instants.
#pragma once

#include <array>
#include <cstdint>

#include "engine/running_play.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/trace.hpp"

namespace mobrin::detail {

// Where an instant's records go. Records the list does not listen to are counted in `ordinal` only.
struct Sink {
  CueBuffer* list = nullptr;  // or `crowd`
  std::uint32_t skip = 0;     // records of this instant told before
  std::uint32_t told = 0;     // records of this instant the list listens to
  bool full = false;          // some did not fit
  CrowdCues* crowd = nullptr;
  std::uint32_t place = 0;  // of the crowd's member
  Listening listening = 0;  // of the crowd

  [[nodiscard]] Listening heard() const { return crowd != nullptr ? listening : list->listening(); }
  [[nodiscard]] bool listens(Told what) const { return (heard() & listen_to(what)) != 0; }
  // How far it has come, and back to there: what was told since is taken back, whether there was room for it or not.
  struct Mark {
    std::size_t size = 0;
    std::uint32_t told = 0;
    bool full = false;
  };
  [[nodiscard]] Mark mark() const { return {crowd != nullptr ? crowd->size() : list->size(), told, full}; }
  void back_to(const Mark& mark) {
    told = mark.told;
    full = mark.full;
    if (crowd != nullptr)
      crowd->shrink(mark.size);
    else
      list->shrink(static_cast<std::uint32_t>(mark.size));
  }
  void put(const Cue& cue) {
    if (crowd != nullptr) {
      if ((listening & listen_to(cue.what)) == 0) return;
      ++told;
      full = !crowd->append(cue, place) || full;
      return;
    }
    if ((list->listening() & listen_to(cue.what)) == 0) return;
    if (++told <= skip || full) return;
    full = !list->append(cue);
  }
};

class Engine {
 public:
  Engine(const MachineData& machine, std::byte* block, Sink& sink, TraceHook trace = {})
      : m_(machine), b_(block), sink_(sink), trace_(trace) {}

  // What is asked for, to be kept up to date; none by default.
  void watch(std::span<TicketSlot> tickets) { tickets_ = tickets; }
  // Makes `target` active at the next instant whatever holds; see Instance::force.
  void force(std::uint16_t target) { forced_ = target; }
  // Makes `target` active at once, for `played` ticks already, without telling or acting; see Instance::place.
  void place(std::uint16_t target, std::int64_t played);

  // Nobody listens to `loop`: rounds on which nothing else lies wake nobody.
  void pass_over_rounds() { hears_loops_ = false; }

  // Everything that lies at `at`, which is the block's wake, or its now if something was written.
  void instant(std::int64_t at);

 private:
  // What a transition remembers of the play it ends, for `start: same`.
  struct Ended {
    bool played = false;
    std::int64_t position = 0;
    std::int64_t cycle = 0;
  };
  struct Entry {
    std::uint32_t transition = kNoTransition;
    StartKind start = StartKind::begin;
    std::int32_t frame = 0;
    std::int64_t time = 0;  // ticks on the clip's own time
    std::int64_t fade = 0;  // sub-ticks
    bool loud = false;
    Ended ended;
  };
  // A region's plays as they were before a transition: those that fade already, the oldest first, then the leaf's.
  struct Fading {
    std::uint16_t state = kNoIndex;
    std::uint32_t weight = 0;
    bool loud = false;
    std::int64_t playhead = 0;
    std::int32_t speed = 0;
    std::int32_t passes = 0;
    bool backward = false;
    std::uint8_t choice = 0;
  };
  struct Fadings {
    std::array<Fading, kFadeLayers + 1> all;
    std::size_t count = 0;
  };

  [[nodiscard]] BlockHeader& header() { return header_of(b_); }
  [[nodiscard]] std::uint16_t& leaf(std::uint16_t region) {
    return field_at<std::uint16_t>(b_, m_.regions[region].leaf);
  }

  // engine.cpp: time
  void start();
  void forget();
  void move_to(std::int64_t at);
  void move_play(const Run& run, std::int64_t played, bool fading);
  bool reach_edge(const Run& run, std::int64_t& left, bool now, bool fading);
  void check_done();

  // play.cpp: playing and telling
  void start_play(std::uint16_t region, std::uint16_t state, const Entry& entry);
  void stop_play(std::uint16_t region, std::uint16_t state);
  void pass(const Run& run, Range<Firing> firings, bool ends, bool fading);
  void retake();
  void apply_choice(const Run& run, std::uint8_t wanted);
  void apply_speed(const Run& run, std::int32_t wanted);
  bool at_edge_ahead(const Run& run);
  void play_is_over(std::uint16_t state);
  void tell_spans(const Run& run, const Segment* from, const Segment* to, const ClipData& from_clip);
  void tell_mark(std::uint16_t state, const MarkData& mark, Edge edge, std::int32_t frame);
  void tell_firing(const Run& run, const Firing& firing, Edge edge);
  void tell(Cue record);
  void tell_state(Told what, std::uint16_t state, std::uint32_t transition);

  // fade.cpp
  // `loud`: of the leaf's play; what fades already stays as it was.
  [[nodiscard]] Fadings fadings(std::uint16_t region, bool loud);
  void begin_fade(std::uint16_t region, Fadings before, const Entry& entry);
  void clear_fade(std::uint16_t region);
  void move_fade(std::uint16_t region, std::int64_t played);

  // ticket.cpp
  void tickets_taken(std::uint16_t pulse, std::uint16_t target);
  void tickets_entered(std::uint16_t state);
  void tickets_left(std::uint16_t state, std::uint32_t transition);
  void tickets_done(std::uint16_t final_state);
  void settle_tickets(std::uint16_t state, TicketStatus status);
  void begin_ticket(TicketSlot& slot);

  // settle.cpp
  void settle();
  bool look_at(std::uint16_t state, std::uint16_t& changed);
  [[nodiscard]] Verdict judge(std::uint32_t transition, std::uint16_t& target);
  std::uint16_t look_into(std::uint16_t region);
  [[nodiscard]] bool event_holds(const TransitionData& go);
  [[nodiscard]] bool window_open(const TransitionData& go);
  [[nodiscard]] std::uint16_t target_of(const TransitionData& go);
  [[nodiscard]] std::uint16_t& memory(std::uint32_t offset) { return field_at<std::uint16_t>(b_, offset); }
  [[nodiscard]] bool sealed_off(const TransitionData& go, std::uint16_t target);
  [[nodiscard]] bool sealed_below(std::uint16_t state, std::uint16_t owner) const;
  // The state at which the way down to `target` leaves what is active, or `target` itself.
  [[nodiscard]] std::uint16_t first_entered(std::uint16_t target) const;
  [[nodiscard]] bool lies_inside(std::uint16_t region, std::uint16_t around) const;
  void take(std::uint32_t transition, std::uint16_t target);
  // Leaves and enters what is needed to have `target` active; actions run in between.
  void go_to(std::uint16_t target, const Entry& entry, Range<ActionData> actions);
  void leave_all();
  void leave_region(std::uint16_t region, std::uint16_t up_to, std::uint32_t transition);
  void enter_path(std::uint16_t state, std::uint16_t target, const Entry& entry);
  void enter_inside(std::uint16_t state, const Entry& entry);
  void enter_own(std::uint16_t state, const Entry& entry);
  void run_actions(Range<ActionData> actions);

  template <class Visit>
  void each_active_region(std::uint16_t state, const Visit& visit) {
    const StateData& data = m_.states[state];
    for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r) {
      const std::uint16_t inner = leaf(r);
      if (inner == kNoIndex) continue;
      visit(r, inner);
      if (m_.states[inner].region_count > 0) each_active_region(inner, visit);
    }
  }

  const MachineData& m_;
  std::byte* b_;
  Sink& sink_;
  TraceHook trace_;
  std::span<TicketSlot> tickets_;
  int round_ = 0;
  // Edges: what one microstep sees, and what it fires for the next.
  std::array<std::uint64_t, kMaxCues / 64> cues_seen_{}, cues_fired_{};
  std::uint64_t loops_seen_ = 0, loops_fired_ = 0;
  std::array<std::uint16_t, kMaxRegions> taken_pulses_{};
  std::size_t taken_pulse_count_ = 0;
  std::uint16_t forced_ = kNoIndex;
  bool silent_ = false;
  bool hears_loops_ = true;
  bool stirred_ = false;  // something happened for which transitions are to be looked at
  bool any_taken_ = false;
  bool was_unsettled_ = false;  // a runaway was told, and it has not come to rest since
  std::uint32_t last_taken_ = 0;
};

// Carries out an action that is an assignment.
void assign(const MachineData& machine, std::byte* block, const ActionData& action);

// Computes the block's wake from its state; nothing lies before it. Without `hears_loops` not what tells `loop` only.
void update_wake(const MachineData& machine, std::byte* block, bool hears_loops = true);
// Moves the block's playheads and timers to `at`, where nothing may lie before or at it.
void reanchor(const MachineData& machine, std::byte* block, std::int64_t at);
// Makes `at` the anchor: what is counted from it is carried over, pulses that lived at the old one are over.
void turn_to(const MachineData& machine, std::byte* block, std::int64_t at);
// Pulses without a buffer live at one instant only; forgets those of the anchor.
void forget_pulses(const MachineData& machine, std::byte* block);
// Ticks until `distance` sub-ticks are covered at `pace` a tick. REQUIRES: both are above 0.
[[nodiscard]] inline std::int64_t ticks_to_cover(std::int64_t distance, std::int64_t pace) {
  return pace == kOne ? (distance + kOne - 1) >> kSubBits : (distance + pace - 1) / pace;
}
// The speed a play runs at: its own times the instance's rate.
[[nodiscard]] std::int64_t effective_speed(std::int32_t speed, std::int32_t rate);
// The playhead of a region's leaf at `now`, without storing it.
[[nodiscard]] std::int64_t playhead_at(const std::byte* block, const ConstRun& run, std::int64_t now);
// The same at the block's now, of a play that fades out too, with the edges it has reached. REQUIRES: it moves.
[[nodiscard]] Reached reached_now(const std::byte* block, const ConstRun& run);
// The next place ahead of the playhead where something lies, in playing direction; null past the last one.
[[nodiscard]] const Stop* next_stop(std::span<const Stop> stops, std::int64_t here, bool backward);
// Game time for which plays ran between the block's anchor and `at`.
[[nodiscard]] std::int64_t played_until(const BlockHeader& header, std::int64_t at);

// fade.cpp
// How far the fade of a region has come at `now`, 0 to 1; 1 where none is under way.
[[nodiscard]] double fade_progress(const MachineData& machine, const std::byte* block, std::uint16_t region,
                                   std::int64_t now);
[[nodiscard]] inline std::uint32_t layer_weight(const std::byte* block, const LayerData& layer) {
  return field_at<std::uint32_t>(block, layer.weight);
}
[[nodiscard]] inline std::uint16_t layer_state(const std::byte* block, const LayerData& layer) {
  return field_at<std::uint16_t>(block, layer.state);
}
// Moves the layers of all regions on by `played` ticks, nothing told.
void carry_fades(const MachineData& machine, std::byte* block, std::int64_t played);

}  // namespace mobrin::detail
