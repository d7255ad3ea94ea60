// Plays: beginning and stopping one, the frame it shows, and telling what lies on it.
#include <algorithm>

#include "compile.hpp"
#include "engine.hpp"

namespace mobrin::detail {
namespace {

__extension__ using Wide = __int128;

}  // namespace

void Engine::start_play(std::uint16_t region, std::uint16_t state, const Entry& entry) {
  const StateData& data = m_.states[state];
  const PlayData& play = data.play;
  if (!play.moves()) return;
  const ClipData& clip = m_.clips[play.clip];
  const std::int32_t own =
      play.speed_expression.empty() ? play.speed : fixed_speed(evaluate(m_, b_, play.speed_expression));
  const bool backward = own < 0;
  const std::int64_t cycle = clip.cycle << kSubBits;
  speed(region) = own;
  passes(region) = backward ? kBackward : 0;
  std::int64_t& here = playhead(region);
  here = backward ? cycle : 0;
  bool tells_frame = true;
  if (entry.start == StartKind::same && entry.ended.played) {
    here = static_cast<std::int64_t>(Wide{entry.ended.position} * clip.cycle / entry.ended.cycle);
    tells_frame = false;
  } else if (entry.start == StartKind::clock) {
    const Wide run = Wide{own} * header().anchor % cycle;
    here = static_cast<std::int64_t>(run < 0 ? run + cycle : run);
    tells_frame = false;
  } else if (entry.start == StartKind::frame) {
    const auto begins = [&](const Segment& s) { return s.frame == entry.frame; };
    if (backward) {
      const auto found = std::find_if(clip.segments.rbegin(), clip.segments.rend(), begins);
      here = (found == clip.segments.rbegin() ? clip.cycle : (found - 1)->begin) << kSubBits;
    } else {
      here = std::find_if(clip.segments.begin(), clip.segments.end(), begins)->begin << kSubBits;
    }
  }
  if (own != 0) at_edge_ahead(region, play);
  const std::int32_t frame = shown_frame(region, play);
  for (const MarkData& mark : clip.marks) {
    const bool down = backward != (!clip.segments.empty() && clip.segments[segment_at(clip, here, backward)].mirrored);
    const bool way = mark.way == MarkWay::both || (mark.way == MarkWay::backward) == down;
    if (mark.at == MarkAt::frames) {
      if (mark.first <= frame && frame <= mark.last) tell_mark(state, mark, Edge::begin, frame);
    } else if (tells_frame && way) {
      const bool here_now =
          mark.at == MarkAt::time
              ? here == mark.time << kSubBits || (mark.mirrored_time >= 0 && here == mark.mirrored_time << kSubBits)
              : mark.at == MarkAt::frame_begin && mark.first == frame;
      if (here_now) tell_mark(state, mark, Edge::none, frame);
    }
  }
}

void Engine::stop_play(std::uint16_t region, std::uint16_t state) {
  const PlayData& play = m_.states[state].play;
  if (!play.moves()) return;
  tell_spans(state, shown_frame(region, play), -1);
  playhead(region) = 0;
  speed(region) = 0;
  passes(region) = 0;
}

// Tells the spans that end and begin because the shown frame changes otherwise than by passing a border.
void Engine::tell_spans(std::uint16_t state, std::int32_t from_frame, std::int32_t to_frame) {
  if (from_frame == to_frame) return;
  const auto covers = [](const MarkData& mark, std::int32_t frame) {
    return mark.first <= frame && frame <= mark.last;
  };
  for (const MarkData& mark : m_.clips[m_.states[state].play.clip].marks)
    if (mark.at == MarkAt::frames && covers(mark, from_frame) && !covers(mark, to_frame))
      tell_mark(state, mark, Edge::end, from_frame);
  for (const MarkData& mark : m_.clips[m_.states[state].play.clip].marks)
    if (mark.at == MarkAt::frames && covers(mark, to_frame) && !covers(mark, from_frame))
      tell_mark(state, mark, Edge::begin, to_frame);
}

std::int32_t Engine::shown_frame(std::uint16_t region, const PlayData& play) {
  const ClipData& clip = m_.clips[play.clip];
  if (clip.segments.empty()) return -1;
  return clip.segments[segment_at(clip, playhead(region), (passes(region) & kBackward) != 0)].frame;
}

void Engine::tell_mark(std::uint16_t state, const MarkData& mark, Edge edge, std::int32_t frame) {
  Cue record;
  record.what = Told::cue;
  record.edge = edge;
  record.cue = mark.cue;
  record.fields = mark.fields;
  record.state = state;
  record.clip = m_.states[state].play.clip;
  record.frame = frame;
  if (edge != Edge::end) cues_fired_[mark.cue / 64] |= std::uint64_t{1} << (mark.cue % 64);
  tell(record);
}

void Engine::tell_state(Told what, std::uint16_t state, std::uint32_t transition) {
  Cue record;
  record.what = what;
  record.state = state;
  record.transition = transition;
  tell(record);
}

void Engine::tell(Cue record) {
  if (silent_) return;
  BlockHeader& h = header();
  record.machine = &m_;
  record.at = Ticks(h.anchor);
  record.ordinal = h.ordinal++;
  sink_.put(record);
}

}  // namespace mobrin::detail
