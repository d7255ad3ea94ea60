// Time: moving playheads and timers, passing places, loops and ends; when the next instant is due.
#include "engine.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "compile.hpp"

namespace mobrin::detail {
namespace {

__extension__ using Wide = __int128;
constexpr std::int64_t kLongest = std::int64_t{1} << 62;

std::int64_t capped(Wide value) { return value > kLongest ? kLongest : static_cast<std::int64_t>(value); }

// Ticks until `distance` sub-ticks are covered at `speed` a tick.
std::int64_t ticks_to_cover(std::int64_t distance, std::int64_t speed) { return (distance + speed - 1) / speed; }

// Game time for which plays ran between the block's anchor and `at`.
std::int64_t played_until(const BlockHeader& header, std::int64_t at) {
  const std::int64_t from = std::max(header.anchor, header.frozen_until);
  return at > from ? at - from : 0;
}

// Whether a timer of `state` runs: that of a final state waits for the end of a play that has one.
bool timer_runs(const MachineData& m, const std::byte* block, std::uint16_t index) {
  const StateData& state = m.states[index];
  if (!state.final || !state.play.moves() || m.clips[state.play.clip].passes == 0) return true;
  return play_ended(m, block, state.region, state.play);
}

// The next place ahead of `here` (sub-ticks) where something lies in playing direction; null past the last one.
const Stop* next_stop(std::span<const Stop> stops, std::int64_t here, bool backward) {
  if (backward) {
    auto after =
        std::partition_point(stops.begin(), stops.end(), [&](const Stop& s) { return (s.at << kSubBits) < here; });
    while (after != stops.begin()) {
      --after;
      if (after->always || after->backward.count > 0) return &*after;
    }
    return nullptr;
  }
  auto next =
      std::partition_point(stops.begin(), stops.end(), [&](const Stop& s) { return (s.at << kSubBits) <= here; });
  for (; next != stops.end(); ++next)
    if (next->always || next->forward.count > 0) return &*next;
  return nullptr;
}

// Calls visit(state) for the root and every active state.
template <class Visit>
void each_active_state(const MachineData& m, const std::byte* block, const Visit& visit) {
  visit(std::uint16_t{0});
  for (std::uint16_t r = 0; r < m.regions.size(); ++r) {
    const std::uint16_t leaf = leaf_of(m, block, r);
    if (leaf == kNoIndex) continue;
    for (std::uint16_t s = leaf; s != m.regions[r].owner; s = m.states[s].parent) visit(s);
  }
}

// Lets the timers of all active states run for `played` ticks.
void run_timers(const MachineData& m, std::byte* block, std::int64_t played) {
  each_active_state(m, block, [&](std::uint16_t state) {
    const std::uint32_t timer = m.states[state].timer;
    if (timer == kNoOffset || !timer_runs(m, block, state)) return;
    std::int64_t& elapsed = field_at<std::int64_t>(block, timer);
    elapsed = capped(elapsed + Wide{played} * header_of(block).rate);
  });
}

}  // namespace

std::int64_t effective_speed(std::int32_t speed, std::int32_t rate) {
  if (rate == kOne) return speed;
  const std::int64_t product = std::int64_t{speed} * rate;
  const std::int64_t down = product >> kSubBits;  // towards minus infinity
  const std::int64_t rest = product - (down << kSubBits);
  if (rest > kOne / 2 || (rest == kOne / 2 && (down & 1) != 0)) return down + 1;
  return down;
}

bool play_ended(const MachineData& machine, const std::byte* block, std::uint16_t region, const PlayData& play) {
  const std::int32_t most = machine.clips[play.clip].passes;
  return most > 0 && (field_at<std::uint16_t>(block, machine.regions[region].passes) & ~kBackward) >= most;
}

std::int64_t playhead_at(const MachineData& machine, const std::byte* block, std::uint16_t region, std::int64_t now) {
  const BlockHeader& header = header_of(block);
  const RegionData& data = machine.regions[region];
  const std::int64_t position = field_at<std::int64_t>(block, data.playhead);
  const PlayData& play = machine.states[leaf_of(machine, block, region)].play;
  if (play_ended(machine, block, region, play) || (header.flags & kDone) != 0) return position;
  const Wide run =
      Wide{effective_speed(field_at<std::int32_t>(block, data.speed), header.rate)} * played_until(header, now);
  const Wide cycle = Wide{machine.clips[play.clip].cycle} << kSubBits;
  return static_cast<std::int64_t>(std::clamp<Wide>(position + run, 0, cycle));
}

bool Engine::ended(std::uint16_t region, const PlayData& play) { return play_ended(m_, b_, region, play); }

void Engine::instant(std::int64_t at) {
  BlockHeader& h = header();
  if ((h.flags & kReset) != 0) {
    move_to(at);
    const StateData& root = m_.states[0];
    for (std::uint16_t r = root.region_begin; r < root.region_begin + root.region_count; ++r)
      leave_region(r, 0, kNoTransition);
    run_actions(root.exit);
    h.flags &= static_cast<std::uint8_t>(~(kReset | kStarted | kDone));
  }
  if ((h.flags & kStarted) == 0) {
    if (at != h.anchor) h.ordinal = 0;
    h.anchor = at;
    h.flags |= kStarted;
    start();
  } else {
    move_to(at);
  }
  if (forced_ != kNoIndex && (h.flags & kDone) == 0) go_to(forced_, {}, {});
  retake_speeds();
  settle();
  h.flags &= static_cast<std::uint8_t>(~kDirty);
  check_done();
  update_wake(m_, b_);
}

void Engine::start() {
  const StateData& root = m_.states[0];
  if (root.timer != kNoOffset) field_at<std::int64_t>(b_, root.timer) = 0;
  forget();
  enter_own(0, {});
  enter_inside(0, {});
}

void Engine::forget() {
  for (const RegionData& region : m_.regions)
    if (region.rest != kNoOffset) memory(region.rest) = kNoIndex;
  for (const StateData& state : m_.states) {
    if (state.back != kNoOffset) memory(state.back) = kNoIndex;
    if (state.last_child != kNoOffset) memory(state.last_child) = kNoIndex;
  }
}

void Engine::place(std::uint16_t target, std::int64_t played) {
  silent_ = true;
  BlockHeader& h = header();
  h.flags &= static_cast<std::uint8_t>(~kDone);
  if ((h.flags & kStarted) == 0) {
    h.flags |= kStarted;
    h.anchor = h.now;
    start();
  } else {
    reanchor(m_, b_, h.now);
  }
  go_to(target, {}, {});
  const std::uint16_t region = m_.states[target].region;
  const std::uint16_t state = leaf(region);
  if (m_.states[target].timer != kNoOffset)
    field_at<std::int64_t>(b_, m_.states[target].timer) = capped(Wide{played} * kOne);
  const PlayData& play = m_.states[state].play;
  if (target == state && play.moves()) {
    // As if it had played undisturbed at the speed it has now.
    const ClipData& clip = m_.clips[play.clip];
    const Wide cycle = Wide{clip.cycle} << kSubBits;
    const bool backward = (passes(region) & kBackward) != 0;
    const Wide run = Wide{speed(region)} * played * (backward ? -1 : 1);
    const Wide rounds = run / cycle;
    const bool over = clip.passes > 0 && rounds >= clip.passes;
    const Wide rest = over ? cycle : run % cycle;
    playhead(region) = static_cast<std::int64_t>(backward ? cycle - rest : rest);
    if (clip.passes > 0)
      passes(region) = static_cast<std::uint16_t>(passes(region) + (over ? clip.passes : static_cast<int>(rounds)));
  }
  cues_fired_.fill(0);
  loops_fired_ = 0;
  silent_ = false;
  h.flags |= kDirty;
  update_wake(m_, b_);
}

void Engine::move_to(std::int64_t at) {
  BlockHeader& h = header();
  const std::int64_t played = played_until(h, at);
  if (at != h.anchor) h.ordinal = 0;
  run_timers(m_, b_, played);
  h.anchor = at;
  if ((h.flags & kDone) != 0) return;
  each_active_region(0, [&](std::uint16_t region, std::uint16_t state) {
    if (m_.states[state].play.moves()) move_play(region, state, played);
  });
}

void Engine::move_play(std::uint16_t region, std::uint16_t state, std::int64_t played) {
  const PlayData& play = m_.states[state].play;
  if (ended(region, play)) return;
  const std::int64_t cycle = m_.clips[play.clip].cycle << kSubBits;
  const auto stops = MachineData::view(m_.stops, play.stops);
  std::int64_t left =
      effective_speed(speed(region), header().rate) * played;  // bounded: no place is passed by more than a tick
  const bool backward = left < 0;
  while (left != 0) {
    const Stop& next = *next_stop(stops, playhead(region), backward);  // the edges of the cycle are stops
    const std::int64_t distance = (next.at << kSubBits) - playhead(region);
    if (backward ? distance < left : distance > left) {
      playhead(region) += left;
      return;
    }
    left -= distance;
    playhead(region) += distance;
    const bool edge = playhead(region) == (backward ? 0 : cycle);
    const bool ends = edge && (passes(region) & ~kBackward) + 1 == m_.clips[play.clip].passes;
    pass(region, state, backward ? next.backward : next.forward, edge, ends);
    if (edge && !reach_edge(region, state, left)) return;
  }
}

// Tells what lies at a place. At an edge where the play ends, the last frame stays shown, so no span ends there.
void Engine::pass(std::uint16_t region, std::uint16_t state, Range<Firing> firings, bool at_edge, bool ends) {
  if (firings.count == 0) return;
  const PlayData& play = m_.states[state].play;
  const ClipData& clip = m_.clips[play.clip];
  const std::int64_t here = playhead(region);
  const bool backward = (passes(region) & kBackward) != 0;
  for (const Firing& firing : MachineData::view(m_.firings, firings)) {
    const MarkData& mark = clip.marks[firing.mark];
    if (firing.kind == FiringKind::span_end && at_edge && ends) continue;
    // The frame that is over, for its end; else the one that is shown from here on.
    const bool over = firing.kind == FiringKind::span_end || mark.at == MarkAt::frame_end;
    const std::int32_t frame = mark.at == MarkAt::frame_begin || mark.at == MarkAt::frame_end ? mark.first
                               : clip.segments.empty()
                                   ? -1
                                   : clip.segments[segment_at(clip, here, over ? !backward : backward)].frame;
    tell_mark(state, mark,
              firing.kind == FiringKind::cue          ? Edge::none
              : firing.kind == FiringKind::span_begin ? Edge::begin
                                                      : Edge::end,
              frame);
  }
}

// At an edge of the cycle: ends the play (false), or comes round and goes on with what is left.
bool Engine::reach_edge(std::uint16_t region, std::uint16_t state, std::int64_t& left) {
  const StateData& data = m_.states[state];
  const std::int32_t most = m_.clips[data.play.clip].passes;
  const bool backward = (passes(region) & kBackward) != 0;
  if (most > 0) {
    ++passes(region);
    if ((passes(region) & ~kBackward) >= most) {
      left = 0;
      if (data.final && data.timer != kNoOffset) field_at<std::int64_t>(b_, data.timer) = 0;
      return false;
    }
  }
  tell_state(Told::loop, state, kNoTransition);
  loops_fired_ |= std::uint64_t{1} << region;
  const auto stops = MachineData::view(m_.stops, data.play.stops);
  playhead(region) = backward ? stops.back().at << kSubBits : 0;
  pass(region, state, backward ? stops.back().backward : stops.front().forward, false, false);
  run_actions(data.each_loop);
  return true;
}

void Engine::retake_speeds() {
  for (const std::uint16_t region : m_.speed_regions) {
    const std::uint16_t state = leaf(region);
    if (state == kNoIndex || m_.states[state].play.speed_expression.empty()) continue;
    apply_speed(region, state, fixed_speed(evaluate(m_, b_, m_.states[state].play.speed_expression)));
  }
}

void Engine::apply_speed(std::uint16_t region, std::uint16_t state, std::int32_t wanted) {
  if (speed(region) == wanted) return;
  const PlayData& play = m_.states[state].play;
  speed(region) = wanted;
  if (wanted == 0) return;
  const std::int32_t shown_before = shown_frame(region, play);
  const bool was_backward = (passes(region) & kBackward) != 0;
  const bool backward = wanted < 0;
  if (was_backward != backward) {
    if (ended(region, play)) passes(region) = 0;  // it turns away from the edge and plays again
    passes(region) = static_cast<std::uint16_t>((passes(region) & ~kBackward) | (backward ? kBackward : 0));
  }
  if (!ended(region, play) && at_edge_ahead(region, play) && ended(region, play)) {
    const StateData& data = m_.states[state];
    if (data.final && data.timer != kNoOffset) field_at<std::int64_t>(b_, data.timer) = 0;
  }
  tell_spans(state, shown_before, shown_frame(region, play));
}

// A playhead on the edge it runs toward has reached it: a play of one pass has ended, a loop stands on the other edge.
bool Engine::at_edge_ahead(std::uint16_t region, const PlayData& play) {
  const ClipData& clip = m_.clips[play.clip];
  const bool backward = (passes(region) & kBackward) != 0;
  const std::int64_t edge = backward ? 0 : clip.cycle << kSubBits;
  if (playhead(region) != edge) return false;
  if (clip.passes == 1) {
    ++passes(region);
  } else {
    playhead(region) = backward ? clip.cycle << kSubBits : 0;
  }
  return true;
}

void Engine::check_done() {
  BlockHeader& h = header();
  if ((h.flags & kDone) != 0) return;
  std::uint16_t final_state = kNoIndex;
  each_active_region(0, [&](std::uint16_t, std::uint16_t state) {
    const StateData& data = m_.states[state];
    if (final_state != kNoIndex || !data.final || !timer_runs(m_, b_, state)) return;
    if (field_at<std::int64_t>(b_, data.timer) >= data.linger) final_state = state;
  });
  if (final_state == kNoIndex) return;
  tell_state(Told::done, final_state, kNoTransition);
  h.flags |= kDone;
}

void reanchor(const MachineData& machine, std::byte* block, std::int64_t at) {
  BlockHeader& h = header_of(block);
  if ((h.flags & (kStarted | kDone)) != kStarted || at == h.anchor) return;
  const std::int64_t played = played_until(h, at);
  run_timers(machine, block, played);
  for (std::uint16_t r = 0; r < machine.regions.size(); ++r) {
    const std::uint16_t leaf = leaf_of(machine, block, r);
    if (leaf != kNoIndex && machine.states[leaf].play.moves())
      field_at<std::int64_t>(block, machine.regions[r].playhead) = playhead_at(machine, block, r, at);
  }
  h.anchor = at;
  h.ordinal = 0;
}

void update_wake(const MachineData& m, std::byte* block) {
  BlockHeader& h = header_of(block);
  if ((h.flags & (kDirty | kReset)) != 0 || (h.flags & kStarted) == 0) {
    h.wake = kLongAgo;
    return;
  }
  h.wake = kNever;
  if ((h.flags & kDone) != 0 || h.rate == 0) return;
  std::int64_t soonest = kNever;
  const auto consider = [&](std::int64_t distance, std::int64_t pace) {
    if (distance > 0 && pace > 0) soonest = std::min(soonest, ticks_to_cover(distance, pace));
  };
  each_active_state(m, block, [&](std::uint16_t index) {
    const StateData& state = m.states[index];
    if (state.timer != kNoOffset && timer_runs(m, block, index)) {
      const std::int64_t elapsed = field_at<std::int64_t>(block, state.timer);
      for (const std::int64_t after : MachineData::view(m.afters, state.afters)) consider(after - elapsed, h.rate);
      if (state.final) consider(state.linger - elapsed, h.rate);
    }
    if (!state.play.moves() || play_ended(m, block, state.region, state.play)) return;
    const std::int64_t pace = effective_speed(field_at<std::int32_t>(block, m.regions[state.region].speed), h.rate);
    const std::int64_t here = field_at<std::int64_t>(block, m.regions[state.region].playhead);
    const auto stops = MachineData::view(m.stops, state.play.stops);
    if (pace == 0) return;
    if (const Stop* next = next_stop(stops, here, pace < 0))
      consider(std::abs((next->at << kSubBits) - here), std::abs(pace));
  });
  if (soonest == kNever) return;
  const std::int64_t from = std::max(h.anchor, h.frozen_until);
  h.wake = soonest > kLongest - from ? kNever : from + soonest;
}

void make_block(const MachineData& m, std::byte* block) {
  std::fill(block, block + m.block_size, std::byte{0});
  BlockHeader& h = header_of(block);
  h.wake = kLongAgo;
  h.frozen_until = kLongAgo;
  h.rate = kOne;
  for (const InputData& input : m.inputs) {
    switch (input.kind) {
      case InputKind::boolean:
      case InputKind::choice:
        field_at<std::uint8_t>(block, input.offset) = static_cast<std::uint8_t>(input.whole_start);
        break;
      case InputKind::whole:
        field_at<std::int32_t>(block, input.offset) = input.whole_start;
        break;
      case InputKind::number:
        field_at<float>(block, input.offset) = input.start;
        break;
      case InputKind::pulse:
        field_at<std::int64_t>(block, input.offset) = kLongAgo;
        break;
    }
  }
  for (const RegionData& region : m.regions) field_at<std::uint16_t>(block, region.leaf) = kNoIndex;
}

}  // namespace mobrin::detail
