// Plays: beginning and stopping one, what it takes from inputs, and telling what lies on it.
#include <algorithm>

#include "engine/engine.hpp"

namespace mobrin::detail {
namespace {

const MarkData& mark_of(const MachineData& m, const Run& run, const Firing& firing) {
  if (firing.point == kOwnPoint) return run.clip().marks[firing.mark];
  return m.clips[m.played[run.play().clips.begin + firing.point].clip].marks[firing.mark];
}

}  // namespace

void Engine::start_play(std::uint16_t region, std::uint16_t state, const Entry& entry) {
  const PlayData& play = m_.states[state].play;
  const Run run(m_, b_, m_.regions[region].slot, state);
  if (play.chooses()) run.set_choice(chosen(m_, b_, play));
  if (!play.moves()) return;
  const ClipData& clip = run.clip();
  const std::int32_t own = speed_now(m_, b_, play);
  const bool backward = own < 0;
  const std::int64_t cycle = run.cycle();
  run.set_speed(own);
  run.set_passes(backward, 0);
  std::int64_t& here = run.playhead();
  here = backward ? cycle : 0;
  bool tells_frame = true;
  if (entry.start == StartKind::same && entry.ended.played) {
    here = static_cast<std::int64_t>(Wide{entry.ended.position} * clip.cycle / entry.ended.cycle);
    tells_frame = false;
  } else if (entry.start == StartKind::clock) {
    const Wide way = Wide{own} * header().anchor % cycle;
    here = static_cast<std::int64_t>(way < 0 ? way + cycle : way);
    tells_frame = false;
  } else if (entry.start == StartKind::frame) {
    const auto begins = [&](const Segment& s) { return s.frame == entry.frame; };
    if (backward) {
      const auto found = std::find_if(clip.segments.rbegin(), clip.segments.rend(), begins);
      here = (found == clip.segments.rbegin() ? clip.cycle : (found - 1)->begin) << kSubBits;
    } else {
      here = std::find_if(clip.segments.begin(), clip.segments.end(), begins)->begin << kSubBits;
    }
  } else if (entry.start == StartKind::time) {
    const std::int64_t again = backward ? mirrored_time(clip, entry.time) : -1;
    here = (again >= 0 ? again : entry.time) << kSubBits;
  }
  if (own != 0) at_edge_ahead(run);
  // What lies here in playing direction, but no frame is over yet. A span begins wherever in it the play does.
  const auto stops = run.stops();
  const auto stop =
      std::partition_point(stops.begin(), stops.end(), [&](const Stop& s) { return (s.at << kSubBits) < here; });
  Range<Firing> firings;
  if (tells_frame && stop != stops.end() && (stop->at << kSubBits) == here)
    firings = backward ? stop->backward : stop->forward;
  const Segment& shown = run.segment();
  for (std::size_t i = 0; i < clip.marks.size(); ++i) {
    const MarkData& mark = clip.marks[i];
    if (is_span(mark.at)) {
      if (covers(mark, shown)) tell_mark(state, mark, Edge::begin, shown.frame);
      continue;
    }
    if (mark.at == MarkAt::frame_end) continue;
    for (const Firing& firing : MachineData::view(m_.firings, firings))
      if (firing.mark == i && firing.point == kOwnPoint) tell_mark(state, mark, Edge::none, firing.frame);
  }
  for (const Firing& firing : MachineData::view(m_.firings, firings))
    if (firing.point != kOwnPoint && mark_of(m_, run, firing).at != MarkAt::frame_end)
      tell_firing(run, firing, Edge::none);
}

void Engine::stop_play(std::uint16_t region, std::uint16_t state) {
  const PlayData& play = m_.states[state].play;
  const Run run(m_, b_, m_.regions[region].slot, state);
  if (play.moves()) {
    tell_spans(run, &run.segment(), nullptr, run.clip());
    run.playhead() = 0;
    run.set_speed(0);
    run.set_passes(false, 0);
  }
  if (play.chooses()) run.set_choice(0);
}

// Tells what lies at a place. Where the play ends the last frame stays shown, so no span ends there; a play that fades
// out ended its spans when its state was left.
void Engine::pass(const Run& run, Range<Firing> firings, bool ends, bool fading) {
  if (firings.count == 0) return;
  for (const Firing& firing : MachineData::view(m_.firings, firings)) {
    const bool of_span = firing.kind != FiringKind::cue;
    if ((fading && of_span) || (ends && firing.kind == FiringKind::span_end)) continue;
    tell_firing(run, firing, edge_of(firing.kind));
  }
}

// Takes anew what plays follow: the clips that inputs choose, then the speeds that expressions give.
void Engine::retake() {
  for (const std::uint16_t region : m_.choice_regions) {
    const std::uint16_t state = leaf(region);
    if (state == kNoIndex || !m_.states[state].play.chooses()) continue;
    const Run run(m_, b_, region);
    apply_choice(run, chosen(m_, b_, m_.states[state].play));
    if (m_.states[state].play.moves() && !m_.states[state].play.follows()) apply_speed(run, run.speed());
  }
  for (const std::uint16_t region : m_.speed_regions) {
    const std::uint16_t state = leaf(region);
    if (state == kNoIndex || !m_.states[state].play.follows()) continue;
    apply_speed(Run(m_, b_, region), speed_now(m_, b_, m_.states[state].play));
  }
}

void Engine::apply_choice(const Run& run, std::uint8_t wanted) {
  if (run.choice() == wanted) return;
  if (!run.play().moves()) {
    stirred_ = true;  // a pose may stand in a window
    return run.set_choice(wanted);
  }
  const ClipData& before = run.clip();
  const Segment& shown_before = run.segment();
  stirred_ = true;
  run.set_choice(wanted);
  // The same relative position, rounded down.
  run.playhead() = static_cast<std::int64_t>(Wide{run.playhead()} * run.clip().cycle / before.cycle);
  if (run.speed() != 0 && header().rate() != 0 && !run.ended() && at_edge_ahead(run) && run.ended())
    play_is_over(run.state());
  tell_spans(run, &shown_before, &run.segment(), before);
}

void Engine::apply_speed(const Run& run, std::int32_t wanted) {
  if (run.speed() != wanted) {
    if (run.speed() == 0) stirred_ = true;  // it may have stood at an edge
    run.set_speed(wanted);
  }
  // At rate 0 all is held: it turns when it goes on.
  if (header().rate() == 0 || !turns(run)) return;
  const Segment& shown_before = run.segment();
  const bool backward = wanted < 0;
  // Where it turns away from the edge at which it ended, it plays again.
  if (run.backward() != backward) {
    run.set_passes(backward, run.ended() ? 0 : run.passes());
    stirred_ = true;  // windows have other edges this way
  }
  if (!run.ended() && at_edge_ahead(run) && run.ended()) play_is_over(run.state());
  tell_spans(run, &shown_before, &run.segment(), run.clip());
}

// A playhead on the edge it runs toward has reached it: a play of one pass has ended, a loop stands on the other edge.
bool Engine::at_edge_ahead(const Run& run) {
  if (run.playhead() != run.edge_ahead()) return false;
  if (run.clip().passes == 1)
    run.set_passes(run.backward(), run.passes() + 1);
  else
    run.playhead() = run.edge_behind();
  return true;
}

// A play reached its end: a final state lingers from now, and who asked for it has it.
void Engine::play_is_over(std::uint16_t state) {
  stirred_ = true;
  settle_tickets(state, TicketStatus::succeeded);
  const StateData& data = m_.states[state];
  if (data.final && data.timer != kNoOffset) field_at<std::int64_t>(b_, data.timer) = 0;
}

// Tells the spans that end and begin because what is shown changes otherwise than by passing a border.
void Engine::tell_spans(const Run& run, const Segment* from, const Segment* to, const ClipData& from_clip) {
  const auto holds = [](const MarkData& mark, const Segment* segment) {
    return is_span(mark.at) && segment != nullptr && covers(mark, *segment);
  };
  for (const MarkData& mark : from_clip.marks)
    if (holds(mark, from) && !holds(mark, to)) tell_mark(run.state(), mark, Edge::end, from->frame);
  for (const MarkData& mark : run.clip().marks)
    if (holds(mark, to) && !holds(mark, from)) tell_mark(run.state(), mark, Edge::begin, to->frame);
}

// Tells a mark of the heaviest clip, or of another one if that weighs enough.
void Engine::tell_firing(const Run& run, const Firing& firing, Edge edge) {
  if (firing.point != kOwnPoint && !weighs_enough(m_, b_, run.play(), firing.point)) return;
  tell_mark(run.state(), mark_of(m_, run, firing), edge, firing.frame);
}

void Engine::tell_mark(std::uint16_t state, const MarkData& mark, Edge edge, std::int32_t frame) {
  if (m_.heard[mark.cue] != 0) {
    stirred_ = true;
    if (edge != Edge::end) cues_fired_[mark.cue / 64] |= std::uint64_t{1} << (mark.cue % 64);
  }
  tell(record_of(mark, state, edge, frame));
}

void Engine::tell_state(Told what, std::uint16_t state, std::uint32_t transition) {
  tell(record_of(what, state, transition));
}

void Engine::tell(Cue record) {
  if (silent_) return;
  BlockHeader& h = header();
  record.machine = &m_;
  record.at = Ticks(h.anchor);
  record.ordinal = h.ordinal();
  if (record.ordinal < kMaxOrdinal) h.set_ordinal(record.ordinal + 1);
  sink_.put(record);
}

}  // namespace mobrin::detail
