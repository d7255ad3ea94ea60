// Settling: microsteps, which transition holds, leaving and entering.
#include <algorithm>
#include <limits>

#include "engine/engine.hpp"
#include "engine/quick.hpp"

namespace mobrin::detail {

void Engine::settle() {
  for (round_ = 0; round_ < kMaxMicrosteps; ++round_) {
    std::copy_n(cues_fired_.begin(), m_.cue_words, cues_seen_.begin());
    loops_seen_ = loops_fired_;
    std::fill_n(cues_fired_.begin(), m_.cue_words, 0);
    loops_fired_ = 0;
    any_taken_ = false;
    taken_pulse_count_ = 0;

    std::uint16_t changed = kNoIndex;
    if (!look_at(0, changed)) {
      const StateData& root = m_.states[0];
      for (std::uint16_t r = root.region_begin; r < root.region_begin + root.region_count; ++r) look_into(r);
    }
    for (std::size_t i = 0; i < taken_pulse_count_; ++i) forget_pulse(b_, m_.inputs[taken_pulses_[i]]);
    if (!any_taken_) return;
  }
  cues_fired_.fill(0);
  loops_fired_ = 0;
  header().flags |= kUnsettled;
  if (!was_unsettled_) tell_state(Told::fault, m_.transitions[last_taken_].target, last_taken_);
}

// Looks at what is active in `region`, outermost first. Gives the region that changed where that lies outside `region`:
// then what was below it is gone.
std::uint16_t Engine::look_into(std::uint16_t region) {
  const std::uint16_t inner = leaf(region);
  if (inner == kNoIndex) return kNoIndex;
  std::array<std::uint16_t, kMaxDepth + 1> chain;
  std::size_t count = 0;
  for (std::uint16_t s = inner; s != m_.regions[region].owner; s = m_.states[s].parent) chain[count++] = s;
  while (count > 0) {
    std::uint16_t changed = kNoIndex;
    if (look_at(chain[--count], changed)) return lies_inside(changed, region) ? kNoIndex : changed;
  }
  const StateData& data = m_.states[inner];
  for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r) {
    const std::uint16_t changed = look_into(r);
    if (changed != kNoIndex) return changed == region ? kNoIndex : changed;
  }
  return kNoIndex;
}

bool Engine::lies_inside(std::uint16_t region, std::uint16_t around) const {
  while (region != around) {
    const std::uint16_t owner = m_.regions[region].owner;
    if (owner == 0) return false;
    region = m_.states[owner].region;
  }
  return true;
}

// Looks at a state's own transitions in order; true when one was taken.
bool Engine::look_at(std::uint16_t state, std::uint16_t& changed) {
  const Range<TransitionData> range = m_.states[state].go;
  for (std::uint32_t i = range.begin; i < range.begin + range.count; ++i) {
    std::uint16_t target = kNoIndex;
    const Verdict verdict = judge(i, target);
    if (trace_.call != nullptr) trace_.call(trace_.context, {Ticks(header().anchor), round_, i, verdict, &m_, b_});
    if (verdict == Verdict::stands) return false;
    if (verdict != Verdict::taken) continue;
    changed = m_.states[first_entered(target)].region;
    take(i, target);
    return true;
  }
  return false;
}

// Whether a transition holds, and what it does then; `target` is known when it does.
Verdict Engine::judge(std::uint32_t transition, std::uint16_t& target) {
  const TransitionData& go = m_.transitions[transition];
  if (!event_holds(go)) return Verdict::event;
  if (!m_.prepared->guard_holds(m_, b_, transition)) return Verdict::guard;
  if (go.during != kNoIndex && !window_open(go)) return Verdict::window;
  target = target_of(go);
  if (sealed_off(go, target)) return Verdict::sealed;
  if (go.restart || !is_active(m_, b_, target)) return Verdict::taken;
  return rule_of(go.event).stands ? Verdict::stands : Verdict::already_active;
}

bool Engine::event_holds(const TransitionData& go) {
  switch (go.event) {
    case GoEvent::none:
      return true;
    case GoEvent::pulse:
      return pulse_alive(b_, m_.inputs[go.arg], header().anchor);
    case GoEvent::cue:
      return (cues_seen_[go.arg / 64] >> (go.arg % 64) & 1) != 0;
    case GoEvent::after:
      return field_at<std::int64_t>(b_, m_.states[go.owner].timer) >= go.after;
    case GoEvent::at_loop:
      return (loops_seen_ >> played_region(m_, go.owner) & 1) != 0;
    case GoEvent::at_end: {
      return stands_at_end(m_, b_, go.owner);
    }
  }
  return false;
}

bool Engine::window_open(const TransitionData& go) {
  const std::uint16_t region = played_region(m_, go.owner);
  const PlayData& play = m_.states[leaf(region)].play;
  const DuringData& during = m_.durings[go.during];
  if (play.type == PlayType::nothing) return false;
  const Run run(m_, b_, region);
  const ClipData& clip = run.clip();
  const auto open = [&](std::span<const Stretch> stretches) {
    if (play.moves()) return inside(clip, stretches, run.playhead(), run.backward());
    return std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& s) {
      if (!s.timed) return s.begin <= play.pose_frame && play.pose_frame <= s.end;
      return play.pose_frame < 0 && s.begin <= play.pose_time &&
             (play.pose_time < s.end || (play.pose_time == s.end && reaches_end(clip, s)));
    });
  };
  if (during.window == kNoIndex) return open(std::span(&during.stretch, 1));
  return std::any_of(clip.windows.begin(), clip.windows.end(),
                     [&](const ClipWindow& window) { return window.name == during.window && open(window.stretches); });
}

std::uint16_t Engine::target_of(const TransitionData& go) {
  if (go.target_kind == TargetKind::state) return go.target;
  const StateData& data = m_.states[go.target];
  if (go.target_kind == TargetKind::back) {
    const RegionData& region = m_.regions[data.region];
    const std::uint16_t before = memory(data.back != kNoOffset ? data.back : region.rest);
    if (before != kNoIndex) return before;
    // One that is active already, around the owner, would stand for ever: then where it begins.
    std::uint16_t initial = region.initial;
    while (is_active(m_, b_, initial) && m_.states[initial].initial != kNoIndex) initial = m_.states[initial].initial;
    return initial;
  }
  if (!is_active(m_, b_, go.target))
    return memory(data.last_child) != kNoIndex ? memory(data.last_child) : data.initial;
  std::uint16_t child = leaf(data.region);
  while (child != go.target && m_.states[child].parent != go.target) child = m_.states[child].parent;
  return child;
}

// Whether a sealed state, entered by none of the owner's own kin, lies where the transition would change something.
bool Engine::sealed_off(const TransitionData& go, std::uint16_t target) {
  const std::uint16_t region = m_.states[first_entered(target)].region;
  const std::uint16_t inner = leaf(region);
  if (inner == kNoIndex) return false;
  if (sealed_from(m_, go.owner, inner)) return true;
  return m_.states[inner].region_count > 0 && sealed_below(inner, go.owner);
}

bool Engine::sealed_below(std::uint16_t state, std::uint16_t owner) const {
  const StateData& data = m_.states[state];
  for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r) {
    const std::uint16_t inner = leaf_of(m_, b_, r);
    if (inner == kNoIndex) continue;
    for (std::uint16_t s = inner; s != state; s = m_.states[s].parent)
      if (keeps_out(m_, s, owner)) return true;
    if (m_.states[inner].region_count > 0 && sealed_below(inner, owner)) return true;
  }
  return false;
}

std::uint16_t Engine::first_entered(std::uint16_t target) const {
  std::uint16_t first = target;
  while (m_.states[first].parent != 0 && !is_active(m_, b_, m_.states[first].parent)) first = m_.states[first].parent;
  return first;
}

void Engine::take(std::uint32_t transition, std::uint16_t target) {
  const TransitionData& go = m_.transitions[transition];
  any_taken_ = true;
  last_taken_ = transition;
  if (go.event == GoEvent::pulse && taken_pulse_count_ < taken_pulses_.size())
    taken_pulses_[taken_pulse_count_++] = go.arg;
  Entry entry;
  entry.transition = transition;
  entry.start = go.start;
  entry.frame = go.start_frame;
  entry.time = go.start_time;
  entry.fade = go.fade;
  entry.loud = go.loud;
  go_to(target, entry, go.actions);
  if (go.event == GoEvent::pulse) tickets_taken(go.arg, target);
}

void Engine::go_to(std::uint16_t target, const Entry& wanted, Range<ActionData> actions) {
  if (target == 0) {
    // The whole machine, which only force() and place() lead to: all its regions are left and entered anew.
    leave_all();
    enter_own(0, wanted);
    return enter_inside(0, wanted);
  }
  const std::uint16_t first = first_entered(target);
  const std::uint16_t region = m_.states[first].region;
  Entry entry = wanted;
  if (const std::uint16_t inner = leaf(region); inner != kNoIndex && m_.states[inner].play.moves()) {
    const Run run(m_, b_, region);
    entry.ended = {true, run.playhead(), run.clip().cycle};
  }
  const Fadings before = fadings(region, entry.loud);
  leave_region(region, m_.states[first].parent, entry.transition);
  run_actions(actions);
  enter_path(first, target, entry);
  begin_fade(region, before, entry);
  retake();
}

void Engine::leave_all() {
  const StateData& root = m_.states[0];
  for (std::uint16_t r = root.region_begin; r < root.region_begin + root.region_count; ++r)
    leave_region(r, 0, kNoTransition);
  run_actions(root.exit);
}

// Leaves what is active in `region`, innermost first, up to but not including `up_to`.
void Engine::leave_region(std::uint16_t region, std::uint16_t up_to, std::uint32_t transition) {
  const std::uint16_t owner = m_.regions[region].owner;
  clear_fade(region);
  while (leaf(region) != kNoIndex && leaf(region) != up_to) {
    const std::uint16_t state = leaf(region);
    const StateData& data = m_.states[state];
    for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r)
      leave_region(r, state, transition);
    if (data.last == state) stop_play(region, state);
    run_actions(data.exit);
    tell_state(Told::leave, state, transition);
    tickets_left(state, transition);
    leaf(region) = data.parent == owner ? kNoIndex : data.parent;
    const std::uint32_t remembered = m_.states[data.parent].last_child;
    if (remembered != kNoOffset) memory(remembered) = state;
  }
}

// Enters `state`, an ancestor of `target` or the target itself, and goes down to it; then on to what is initial.
void Engine::enter_path(std::uint16_t state, std::uint16_t target, const Entry& entry) {
  enter_own(state, entry);
  if (state == target) return enter_inside(state, entry);
  // The child of `state` on the way to `target`.
  std::uint16_t next = target;
  while (m_.states[next].parent != state) next = m_.states[next].parent;
  const StateData& data = m_.states[state];
  if (data.region_count == 0) return enter_path(next, target, entry);
  Entry each = entry;
  each.start = StartKind::begin;  // `start:` is for a single leaf
  for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r) {
    if (m_.states[next].region == r) {
      enter_path(next, target, each);
    } else {
      enter_own(m_.regions[r].initial, each);
      enter_inside(m_.regions[r].initial, each);
    }
  }
}

// Goes down from a state just entered to what is initial in it, and starts what plays there.
void Engine::enter_inside(std::uint16_t state, const Entry& entry) {
  const StateData& data = m_.states[state];
  if (data.initial != kNoIndex) {
    enter_own(data.initial, entry);
    return enter_inside(data.initial, entry);
  }
  if (state != 0 && data.restful && m_.regions[data.region].rest != kNoOffset)
    memory(m_.regions[data.region].rest) = state;
  if (data.region_count == 0) return start_play(data.region, state, entry);
  Entry each = entry;
  if (data.region_count > 1) each.start = StartKind::begin;
  for (std::uint16_t r = data.region_begin; r < data.region_begin + data.region_count; ++r) {
    enter_own(m_.regions[r].initial, each);
    enter_inside(m_.regions[r].initial, each);
  }
}

void Engine::enter_own(std::uint16_t state, const Entry& entry) {
  const StateData& data = m_.states[state];
  if (state != 0) {
    leaf(data.region) = state;
    if (data.back != kNoOffset) {
      const std::uint16_t before = memory(m_.regions[data.region].rest);
      const bool within = before != kNoIndex && before >= state && before <= data.last;
      if (!within) memory(data.back) = before;
    }
    tell_state(Told::enter, state, entry.transition);
    tickets_entered(state);
  }
  if (data.timer != kNoOffset) field_at<std::int64_t>(b_, data.timer) = 0;
  for (const VarData& var : MachineData::view(m_.vars, data.vars)) {
    if (var.type == ValueType::whole)
      field_at<std::int32_t>(b_, var.offset) = static_cast<std::int32_t>(var.start);
    else if (var.type == ValueType::number)
      field_at<float>(b_, var.offset) = static_cast<float>(var.start) + 0.0f;
    else
      field_at<std::uint8_t>(b_, var.offset) = var.start != 0 ? 1 : 0;
  }
  run_actions(data.enter);
}

void Engine::run_actions(Range<ActionData> actions) {
  if (silent_) return;
  for (const ActionData& action : MachineData::view(m_.actions, actions)) {
    if (action.cue != kNoIndex) {
      cues_fired_[action.cue / 64] |= std::uint64_t{1} << (action.cue % 64);
      tell(record_of(action));
      continue;
    }
    assign(m_, b_, action);
  }
}

void assign(const MachineData& machine, std::byte* block, const ActionData& action) {
  const double value = number_of(machine, block, action.value);
  if (action.type == ValueType::whole) {
    const double low = std::numeric_limits<std::int32_t>::min();
    const double high = std::numeric_limits<std::int32_t>::max();
    field_at<std::int32_t>(block, action.offset) =
        static_cast<std::int32_t>(value != value ? 0 : std::clamp(value, low, high));
  } else if (action.type == ValueType::number) {
    const double most = static_cast<double>(std::numeric_limits<float>::max());
    field_at<float>(block, action.offset) =
        value != value ? 0.0f : static_cast<float>(std::clamp(value, -most, most)) + 0.0f;
  } else {
    field_at<std::uint8_t>(block, action.offset) = value != 0 ? 1 : 0;
  }
}

}  // namespace mobrin::detail
