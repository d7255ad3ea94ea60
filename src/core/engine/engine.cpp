// Time: moving playheads and timers, passing places, loops and ends; when the next instant is due.
#include "engine/engine.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "engine/quick.hpp"

namespace mobrin::detail {
namespace {

constexpr std::int64_t kLongest = std::int64_t{1} << 62;

std::int64_t capped(Wide value) { return value > kLongest ? kLongest : static_cast<std::int64_t>(value); }

// Whether a timer of `state` runs: that of a final state waits for the end of a play that has one.
bool timer_runs(const MachineData& m, const std::byte* block, std::uint16_t index) {
  const StateData& state = m.states[index];
  if (!state.final || !state.play.moves()) return true;
  const ConstRun run(m, block, state.region);
  return run.clip().passes == 0 || run.ended();
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

// Lets the timers of all active states run for `played` ticks. True where one reaches what something waits for.
bool run_timers(const MachineData& m, std::byte* block, std::int64_t played) {
  bool due = false;
  if (!m.timed) return due;
  each_active_state(m, block, [&](std::uint16_t state) {
    const std::uint32_t timer = m.states[state].timer;
    if (timer == kNoOffset || !timer_runs(m, block, state)) return;
    std::int64_t& elapsed = field_at<std::int64_t>(block, timer);
    const std::int64_t before = elapsed;
    elapsed = capped(elapsed + Wide{played} * header_of(block).rate());
    for (const std::int64_t after : MachineData::view(m.afters, m.states[state].afters))
      due = due || (before < after && after <= elapsed);
    if (m.states[state].final) due = due || (before < m.states[state].linger && m.states[state].linger <= elapsed);
  });
  return due;
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

std::int64_t played_until(const BlockHeader& header, std::int64_t at) {
  return std::max<std::int64_t>(0, at - header.anchor - header.frozen);
}

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

Reached run_on(const ClipData& clip, Reached from, Wide way) {
  if (way == 0 || (clip.passes > 0 && from.passes >= clip.passes)) return from;
  const Wide cycle = Wide{clip.cycle} << kSubBits;
  // From the edge it runs away from.
  const Wide run = way > 0 ? from.playhead + way : cycle - from.playhead - way;
  const Wide rounds = run / cycle;
  Wide rest = run % cycle;
  if (clip.passes > 0) {
    const bool over = from.passes + rounds >= clip.passes;
    if (over) rest = cycle;
    from.passes = over ? clip.passes : from.passes + static_cast<std::int32_t>(rounds);
  }
  from.playhead = static_cast<std::int64_t>(way > 0 ? rest : cycle - rest);
  return from;
}

std::int64_t playhead_at(const std::byte* block, const ConstRun& run, std::int64_t now) {
  const BlockHeader& header = header_of(block);
  if (run.ended() || (header.flags & kDone) != 0) return run.playhead();
  const Wide way = Wide{effective_speed(run.speed(), header.rate())} * played_until(header, now);
  const Wide there = run.playhead() + way;
  if (way == 0 || (there > 0 && there < run.cycle())) return static_cast<std::int64_t>(there);
  return run_on(run.clip(), {run.playhead(), run.passes()}, way).playhead;  // rounds that were passed over
}

Reached reached_now(const std::byte* block, const ConstRun& run) {
  const BlockHeader& header = header_of(block);
  const bool rests = (header.flags & kDone) != 0;
  const Wide way = rests ? 0 : Wide{effective_speed(run.speed(), header.rate())} * played_until(header, header.now);
  return run_on(run.clip(), {run.playhead(), run.passes()}, way);
}

void forget_pulses(const MachineData& machine, std::byte* block) {
  for (const WordMask& pulses : machine.prepared->plan.brief_pulses)
    field_at<std::uint64_t>(block, pulses.at) &= ~pulses.mask;
}

void turn_to(const MachineData& machine, std::byte* block, std::int64_t at) {
  BlockHeader& h = header_of(block);
  if (at == h.anchor) return;
  if ((h.flags & kDirty) == 0) forget_pulses(machine, block);
  h.frozen = static_cast<std::uint32_t>(std::max<std::int64_t>(0, h.frozen - (at - h.anchor)));
  h.anchor = at;
  h.set_ordinal(0);
}

void Engine::instant(std::int64_t at) {
  BlockHeader& h = header();
  // Settling came to rest last time: transitions need no look unless something happens that one of them waits for.
  stirred_ = (h.flags & (kDirty | kReset | kUnsettled)) != 0 || (h.flags & kStarted) == 0 || forced_ != kNoIndex ||
             trace_.call != nullptr;
  loops_fired_ = 0;
  if ((h.flags & kReset) != 0) {
    move_to(at);
    leave_all();
    h.flags &= static_cast<std::uint8_t>(~(kReset | kStarted | kDone | kUnsettled));
  }
  was_unsettled_ = (h.flags & kUnsettled) != 0;
  if ((h.flags & kStarted) == 0) {
    turn_to(m_, b_, at);
    h.flags |= kStarted;
    start();
  } else {
    move_to(at);
  }
  if (forced_ != kNoIndex && (h.flags & kDone) == 0) go_to(forced_, {}, {});
  if (stirred_ || (h.flags & kRetake) != 0) retake();
  if (stirred_) {
    h.flags &= static_cast<std::uint8_t>(~kUnsettled);
    settle();
  }
  h.flags &= static_cast<std::uint8_t>(~(kDirty | kRetake));
  if (stirred_) check_done();
  update_wake(m_, b_, hears_loops_);
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
  if ((h.flags & kStarted) != 0) reanchor(m_, b_, h.now);  // while it may still be done: nothing has moved since
  if ((h.flags & kReset) != 0) {
    leave_all();
    h.flags &= static_cast<std::uint8_t>(~(kReset | kStarted | kUnsettled));
  }
  h.flags &= static_cast<std::uint8_t>(~kDone);
  if ((h.flags & kStarted) == 0) {
    turn_to(m_, b_, h.now);
    h.flags |= kStarted;
    start();
  }
  go_to(target, {}, {});
  const std::uint16_t region = m_.states[target].region;
  const std::uint16_t state = leaf(region);
  if (m_.states[target].timer != kNoOffset)
    field_at<std::int64_t>(b_, m_.states[target].timer) = capped(Wide{played} * kOne);
  if (target == state && m_.states[state].play.moves()) {
    // As if it had played undisturbed at the speed it has now.
    const Run run(m_, b_, region);
    const Wide way = Wide{run.speed()} * played;
    const Reached reached = run_on(run.clip(), {run.edge_behind(), 0}, way);
    run.playhead() = reached.playhead;
    run.set_passes(run.backward(), reached.passes);
  }
  cues_fired_.fill(0);
  loops_fired_ = 0;
  silent_ = false;
  h.flags |= kDirty;
  update_wake(m_, b_);
}

void Engine::move_to(std::int64_t at) {
  const std::int64_t played = played_until(header(), at);
  const bool rests = (header().flags & kDone) != 0;
  if (!rests && run_timers(m_, b_, played)) stirred_ = true;
  turn_to(m_, b_, at);
  if (rests) return;
  each_active_region(0, [&](std::uint16_t region, std::uint16_t state) {
    move_fade(region, played);
    if (m_.states[state].play.moves()) move_play(Run(m_, b_, region), played, false);
  });
}

// Moves a play on and tells what lies on its way; of one that fades out its cues only.
void Engine::move_play(const Run& run, std::int64_t played, bool fading) {
  if (run.ended()) return;
  const std::int64_t pace = effective_speed(run.speed(), header().rate());
  Wide way = Wide{pace} * played;
  const Wide cycle = run.cycle();
  // Rounds that were passed over: all but the last are left out.
  if (way > 3 * cycle || way < -3 * cycle) way += (way < 0 ? cycle : -cycle) * ((way < 0 ? -way : way) / cycle - 2);
  auto left = static_cast<std::int64_t>(way);  // at most a tick past a place, but for rounds passed over
  const bool backward = left < 0;
  while (left != 0) {
    const Stop& next = *next_stop(run.stops(), run.playhead(), backward);  // the edges of the cycle are stops
    const std::int64_t distance = (next.at << kSubBits) - run.playhead();
    if (backward ? distance < left : distance > left) {
      run.playhead() += left;
      return;
    }
    left -= distance;
    run.playhead() += distance;
    if (next.window) stirred_ = true;
    const bool edge = run.playhead() == run.edge_ahead();
    const bool ends = edge && run.passes() + 1 == run.clip().passes;
    pass(run, backward ? next.backward : next.forward, ends, fading);
    if (edge && !reach_edge(run, left, std::abs(left) < std::abs(pace), fading)) return;
  }
}

// At an edge of the cycle: ends the play (false), or comes round and goes on with what is left. Not `now`: a round that
// was passed over, at an earlier instant.
bool Engine::reach_edge(const Run& run, std::int64_t& left, bool now, bool fading) {
  const std::int32_t most = run.clip().passes;
  if (!fading && run.played().edges_stir) stirred_ = true;
  if (most > 0) {
    run.set_passes(run.backward(), run.passes() + 1);
    if (run.ended()) {
      left = 0;
      if (!fading) play_is_over(run.state());
      return false;
    }
  }
  if (!fading && now) {
    tell_state(Told::loop, run.state(), kNoTransition);
    loops_fired_ |= std::uint64_t{1} << m_.states[run.state()].region;
  }
  run.playhead() = run.edge_behind();
  pass(run, run.backward() ? run.stops().back().backward : run.stops().front().forward, false, fading);
  if (!fading) run_actions(m_.states[run.state()].each_loop);
  return true;
}

void Engine::check_done() {
  BlockHeader& h = header();
  if ((h.flags & kDone) != 0 || !m_.ends) return;
  std::uint16_t final_state = kNoIndex;
  each_active_region(0, [&](std::uint16_t, std::uint16_t state) {
    const StateData& data = m_.states[state];
    if (final_state != kNoIndex || !data.final || !timer_runs(m_, b_, state)) return;
    if (data.timer == kNoOffset || field_at<std::int64_t>(b_, data.timer) >= data.linger) final_state = state;
  });
  if (final_state == kNoIndex) return;
  tell_state(Told::done, final_state, kNoTransition);
  tickets_done(final_state);
  h.flags |= kDone;
}

namespace {

// How often a play that is `there` came round in the last tick: rounds that nobody heard, but records all the same.
std::uint32_t rounds_just_now(const ConstRun& run, std::int64_t there, std::int64_t pace) {
  if (run.clip().passes != 0) return 0;
  const std::int64_t since = pace < 0 ? run.cycle() - there : there;
  return since >= std::abs(pace) ? 0 : 1 + static_cast<std::uint32_t>((std::abs(pace) - 1 - since) / run.cycle());
}

}  // namespace

void reanchor(const MachineData& machine, std::byte* block, std::int64_t at) {
  BlockHeader& h = header_of(block);
  if ((h.flags & kStarted) == 0 || at == h.anchor) return;
  std::uint32_t rounds = 0;
  if ((h.flags & kDone) == 0) {
    const std::int64_t played = played_until(h, at);
    run_timers(machine, block, played);
    carry_fades(machine, block, played);
    for (std::uint16_t r = 0; r < machine.regions.size(); ++r) {
      const std::uint16_t leaf = leaf_of(machine, block, r);
      if (leaf == kNoIndex || !machine.states[leaf].play.moves()) continue;
      const ConstRun run(machine, block, r);
      const std::int64_t there = playhead_at(block, run, at);
      if (played > 0) rounds += rounds_just_now(run, there, effective_speed(run.speed(), h.rate()));
      Run(machine, block, r).playhead() = there;
    }
  }
  turn_to(machine, block, at);
  h.set_ordinal(std::min(kMaxOrdinal, rounds));
}

namespace {

// Sub-ticks until a play reaches something; 0 for never.
std::int64_t way_to_next(const Run& run, bool backward, bool hears_loops) {
  const Stop* next = next_stop(run.stops(), run.playhead(), backward);
  if (next == nullptr) return 0;
  const std::int64_t at = next->at << kSubBits, distance = std::abs(at - run.playhead());
  const PlayedClip& played = run.played();
  if (hears_loops || at != run.edge_ahead() || !(backward ? played.backward_round : played.forward_round))
    return distance;
  const std::int64_t behind = run.edge_behind();
  const std::int64_t after = next_stop(run.stops(), behind, backward)->at << kSubBits;
  return after == at ? 0 : distance + std::abs(after - behind);
}

}  // namespace

void update_wake(const MachineData& m, std::byte* block, bool hears_loops) {
  BlockHeader& h = header_of(block);
  if ((h.flags & (kDirty | kReset | kRetake)) != 0 || (h.flags & kStarted) == 0) {
    h.wake = kLongAgo;
    return;
  }
  h.wake = kNever;
  if ((h.flags & kDone) != 0 || h.rate() == 0) return;
  hears_loops = hears_loops || (h.flags & kUnsettled) != 0;  // it goes on at each instant, of a round too
  std::int64_t soonest = kNever;
  const auto consider = [&](std::int64_t distance, std::int64_t pace) {
    if (distance > 0 && pace > 0) soonest = std::min(soonest, ticks_to_cover(distance, pace));
  };
  if (m.timed)
    each_active_state(m, block, [&](std::uint16_t index) {
      const StateData& state = m.states[index];
      if (state.timer != kNoOffset && timer_runs(m, block, index)) {
        const std::int64_t elapsed = field_at<std::int64_t>(block, state.timer);
        for (const std::int64_t after : MachineData::view(m.afters, state.afters)) consider(after - elapsed, h.rate());
        if (state.final) consider(state.linger - elapsed, h.rate());
      }
    });
  const auto consider_play = [&](const Run& run) {
    const std::int64_t pace = effective_speed(run.speed(), h.rate());
    if (pace == 0 || run.ended()) return;
    consider(way_to_next(run, pace < 0, hears_loops), std::abs(pace));
  };
  for (std::uint16_t r = 0; r < m.regions.size(); ++r) {
    const std::uint16_t leaf = leaf_of(m, block, r);
    if (leaf == kNoIndex) continue;
    if (m.states[leaf].play.moves()) consider_play(Run(m, block, r));
    const RegionData& region = m.regions[r];
    if (!region.fades() || field_at<std::int64_t>(block, region.fade_length) == 0) continue;
    consider(field_at<std::int64_t>(block, region.fade_length) - field_at<std::int64_t>(block, region.fade_run),
             h.rate());
    for (const LayerData& layer : region.layers) {
      if (layer_weight(block, layer) == 0 || field_at<std::uint8_t>(block, layer.loud) == 0) continue;
      const std::uint16_t state = layer_state(block, layer);
      if (m.states[state].play.moves()) consider_play(Run(m, block, layer.slot, state));
    }
  }
  if (soonest == kNever) return;
  const std::int64_t from = h.anchor + h.frozen;
  h.wake = soonest > kLongest - from ? kNever : from + soonest;
}

void make_block(const MachineData& m, std::byte* block) {
  std::fill(block, block + m.block_size, std::byte{0});
  BlockHeader& h = header_of(block);
  h.wake = kLongAgo;
  h.set_rate(kOne);
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
        if (input.buffer > 0) field_at<std::int64_t>(block, input.offset) = kLongAgo;
        break;
    }
  }
  for (const RegionData& region : m.regions) field_at<std::uint16_t>(block, region.leaf) = kNoIndex;
}

}  // namespace mobrin::detail
