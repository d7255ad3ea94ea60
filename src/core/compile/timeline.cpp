// Timelines: a clip unrolled into the cycle it plays, and the places on it where something lies.
#include <algorithm>
#include <map>
#include <set>

#include "compile/compile.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::detail {
namespace {

std::int64_t divide_down(Wide value, std::int64_t by) { return static_cast<std::int64_t>(value / by); }

// What lies at one place, before it is put in order.
struct TellingAt {
  std::vector<Firing> forward_ends, forward_rest, backward_ends, backward_rest;
  bool always = false, window = false;
};

class StopMaker {
 public:
  StopMaker(const ClipData& clip, MachineData& data) : clip_(clip), data_(data) {
    places_[0].always = true;
    places_[clip.cycle].always = true;
    // Where two passes meet, what lies on the one left comes before what lies on the one entered.
    for (const CyclePart& part : clip.parts) add_marks(part, false);
    for (auto part = clip.parts.rbegin(); part != clip.parts.rend(); ++part) add_marks(*part, true);
  }

  // Places where a window opens or closes; nothing is told there, but transitions are looked at.
  void add_window(std::span<const Stretch> stretches) {
    for (const Stretch& stretch : stretches) {
      if (stretch.timed) {
        for (const CyclePart& part : clip_.parts) {
          if (part.clip != stretch.clip) continue;
          for (const std::int64_t time : {stretch.begin, stretch.end}) {
            add_edge(part.begin + time);
            if (const std::int64_t again = mirrored_time(data_.clips[part.clip], time); again >= 0)
              add_edge(part.begin + again);
          }
        }
        continue;
      }
      for (std::size_t s = 1; s < clip_.segments.size(); ++s)
        if (open_at(clip_.segments[s], stretch) != open_at(clip_.segments[s - 1], stretch))
          add_edge(clip_.segments[s].begin);
    }
  }

  // Cues of another clip of the same blend, which runs in phase: each at its share of the cycle, rounded up.
  void add_others(const PlayedClip& other, std::uint8_t point) {
    const ClipData& of = data_.clips[other.clip];
    for (std::uint32_t i = other.stops.begin; i < other.stops.begin + other.stops.count; ++i) {
      const Stop stop = data_.stops[i];
      TellingAt& place = places_[static_cast<std::int64_t>((Wide{stop.at} * clip_.cycle + of.cycle - 1) / of.cycle)];
      const auto add = [&](Range<Firing> firings, std::vector<Firing>& to) {
        for (std::uint32_t f = firings.begin; f < firings.begin + firings.count; ++f) {
          Firing firing = data_.firings[f];
          if (firing.kind != FiringKind::cue || firing.point != kOwnPoint) continue;
          firing.point = point;
          to.push_back(firing);
        }
      };
      add(stop.forward, place.forward_rest);
      add(stop.backward, place.backward_rest);
    }
  }

  Range<Stop> finish() {
    Range<Stop> range{static_cast<std::uint32_t>(data_.stops.size()), 0};
    for (const auto& [at, place] : places_) {
      Stop stop;
      stop.at = at;
      stop.always = place.always;
      stop.window = place.window;
      stop.forward = append(place.forward_ends, place.forward_rest);
      stop.backward = append(place.backward_ends, place.backward_rest);
      data_.stops.push_back(stop);
      ++range.count;
    }
    return range;
  }

 private:
  void add_edge(std::int64_t at) {
    TellingAt& place = places_[at];
    place.always = place.window = true;
  }
  void add_marks(const CyclePart& part, bool backward) {
    for (std::size_t i = 0; i < clip_.marks.size(); ++i) {
      const MarkData& mark = clip_.marks[i];
      const auto index = static_cast<std::uint16_t>(i);
      if (mark.clip != part.clip) continue;
      if (mark.at == MarkAt::time) {
        add_time(index, part, mark.time, false, backward);
        if (const std::int64_t again = mirrored_time(data_.clips[part.clip], mark.time); again >= 0)
          add_time(index, part, again, true, backward);
        continue;
      }
      const std::size_t count = data_.clips[part.clip].segments.size();
      for (std::size_t s = part.segment; s < part.segment + count; ++s) {
        if (mark.at == MarkAt::frames)
          add_span_edges(index, s, backward);
        else if (clip_.segments[s].frame == mark.first)
          add_frame(index, s, backward);
      }
    }
  }

  // Whether a mark fires when its place is passed in the cycle's direction `backward`, on the way back or not.
  static bool fires(const MarkData& mark, bool backward, bool mirrored) {
    if (mark.way == MarkWay::both) return true;
    return (mark.way == MarkWay::backward) == (backward != mirrored);
  }

  void add_time(std::uint16_t index, const CyclePart& part, std::int64_t at, bool mirrored, bool backward) {
    if (!fires(clip_.marks[index], backward, mirrored)) return;
    const ClipData& own = data_.clips[part.clip];
    const std::int32_t frame = own.segments[segment_at(own, at << kSubBits, backward)].frame;
    TellingAt& place = places_[part.begin + at];
    (backward ? place.backward_rest : place.forward_rest).push_back({index, FiringKind::cue, frame});
  }
  void add_frame(std::uint16_t index, std::size_t segment, bool backward) {
    const MarkData& mark = clip_.marks[index];
    if (!fires(mark, backward, clip_.segments[segment].mirrored)) return;
    const bool at_end = mark.at == MarkAt::frame_end;
    TellingAt& place =
        places_[at_end == backward ? clip_.segments[segment].begin : segment_end(clip_, clip_.segments[segment])];
    const Firing firing{index, FiringKind::cue, mark.first};
    if (backward)
      (at_end ? place.backward_ends : place.backward_rest).push_back(firing);
    else
      (at_end ? place.forward_ends : place.forward_rest).push_back(firing);
  }
  // A span begins where the shown frame comes into its frames and ends where it goes out of them, also where the cycle
  // comes round.
  void add_span_edges(std::uint16_t index, std::size_t segment, bool backward) {
    const MarkData& mark = clip_.marks[index];
    const std::size_t count = clip_.segments.size();
    if (!covers(mark, clip_.segments[segment])) return;
    const std::int32_t frame = clip_.segments[segment].frame;
    const Firing begin{index, FiringKind::span_begin, frame}, end{index, FiringKind::span_end, frame};
    if (!covers(mark, clip_.segments[(segment + count - 1) % count])) {
      TellingAt& place = places_[clip_.segments[segment].begin];
      if (backward)
        place.backward_ends.push_back(end);
      else
        place.forward_rest.push_back(begin);
    }
    if (!covers(mark, clip_.segments[(segment + 1) % count])) {
      TellingAt& place = places_[segment_end(clip_, clip_.segments[segment])];
      if (backward)
        place.backward_rest.push_back(begin);
      else
        place.forward_ends.push_back(end);
    }
  }

  Range<Firing> append(const std::vector<Firing>& ends, const std::vector<Firing>& rest) {
    const Range<Firing> range{static_cast<std::uint32_t>(data_.firings.size()),
                              static_cast<std::uint32_t>(ends.size() + rest.size())};
    data_.firings.insert(data_.firings.end(), ends.begin(), ends.end());
    data_.firings.insert(data_.firings.end(), rest.begin(), rest.end());
    return range;
  }

  const ClipData& clip_;
  MachineData& data_;
  std::map<std::int64_t, TellingAt> places_;
};

}  // namespace

std::vector<std::int64_t> frame_borders(const ClipDef& clip) {
  std::vector<std::int64_t> borders;
  if (clip.frames.empty()) return borders;
  borders.reserve(clip.frames.size() + 1);
  Wide holds = 0;
  std::int64_t times = 0;
  borders.push_back(0);
  for (const FrameDef& frame : clip.frames) {
    holds += frame.hold;
    times += frame.time.count;
    borders.push_back(clip.fps.num > 0 ? divide_down(holds * kTicksPerSecond * clip.fps.den, clip.fps.num) : times);
  }
  return borders;
}

void make_timeline(const ClipDef& clip, std::uint16_t index, const std::vector<std::int64_t>& borders, ClipData& out) {
  const auto frames = static_cast<std::int32_t>(clip.frames.size());
  out.length = frames > 0 ? borders.back() : clip.length.count;
  out.cycle = out.length;
  out.passes = clip.play.passes;
  out.parts = {{index, 0, 0}};
  for (std::int32_t i = 0; i < frames; ++i) {
    const std::int64_t begin = borders[static_cast<std::size_t>(i)];
    out.segments.push_back({begin, begin, i, index, false});
  }
  if (frames == 0) out.segments.push_back({0, 0, -1, index, false});
  if (clip.play.kind != PlayKind::back_and_forth) return;
  if (frames == 0) {
    out.turn = out.length;
    out.cycle = 2 * out.length;
    out.segments.push_back({out.length, out.length, -1, index, true});
    return;
  }
  if (frames < 3) return;  // no frame lies between the first and the last
  out.turn = borders[static_cast<std::size_t>(frames - 1)];
  for (std::int32_t i = frames - 2; i >= 1; --i) {
    const std::int64_t end = borders[static_cast<std::size_t>(i) + 1];
    out.segments.push_back({out.cycle, end, i, index, true});
    out.cycle += end - borders[static_cast<std::size_t>(i)];
  }
}

ClipData make_sequence(const MachineData& data, std::span<const std::uint16_t> clips) {
  ClipData out;
  std::set<std::uint16_t> known;
  for (const std::uint16_t index : clips) {
    const ClipData& clip = data.clips[index];
    for (std::int32_t pass = 0; pass < clip.passes; ++pass) {
      out.parts.push_back({index, out.cycle, static_cast<std::uint32_t>(out.segments.size())});
      for (Segment segment : clip.segments) {
        segment.begin += out.cycle;
        out.segments.push_back(segment);
      }
      out.cycle += clip.cycle;
    }
    if (!known.insert(index).second) continue;
    out.marks.insert(out.marks.end(), clip.marks.begin(), clip.marks.end());
    out.windows.insert(out.windows.end(), clip.windows.begin(), clip.windows.end());
  }
  out.length = out.cycle;
  return out;
}

std::int64_t mirrored_time(const ClipData& clip, std::int64_t time) {
  if (clip.cycle == clip.length) return -1;
  const std::int64_t again = clip.length + (clip.turn - time);
  if (clip.segments.front().frame < 0) return again > clip.length && again < clip.cycle ? again : -1;
  return again >= clip.length && again <= clip.cycle ? again : -1;
}

std::size_t segment_at(const ClipData& clip, std::int64_t position, bool backward) {
  // At a border, playing forwards shows the later segment, playing backwards the earlier one.
  const auto after = std::partition_point(clip.segments.begin(), clip.segments.end(), [&](const Segment& segment) {
    const std::int64_t begin = segment.begin << kSubBits;
    return backward ? begin < position : begin <= position;
  });
  const auto index = after - clip.segments.begin();
  return index == 0 ? 0 : static_cast<std::size_t>(index - 1);
}

std::int64_t own_time(const Segment& segment, std::int64_t position) {
  const std::int64_t run = position - (segment.begin << kSubBits);
  return (segment.own << kSubBits) + (segment.mirrored ? -run : run);
}

bool covers(const MarkData& mark, const Segment& segment) {
  return segment.clip == mark.clip && segment.frame >= mark.first && segment.frame <= mark.last;
}

bool open_at(const Segment& segment, const Stretch& stretch) {
  if (stretch.clip != kNoIndex && stretch.clip != segment.clip) return false;
  return segment.frame >= 0 && segment.frame >= stretch.begin && segment.frame <= stretch.end;
}

bool inside(const ClipData& clip, std::span<const Stretch> stretches, std::int64_t position, bool backward) {
  const Segment& segment = clip.segments[segment_at(clip, position, backward)];
  if (segment.frame < 0) return false;
  const bool down = backward != segment.mirrored;
  const std::int64_t time = own_time(segment, position);
  return std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& stretch) {
    if (!stretch.timed) return open_at(segment, stretch);
    if (stretch.clip != segment.clip) return false;
    const std::int64_t begin = stretch.begin << kSubBits;
    const std::int64_t end = stretch.end << kSubBits;
    if (down) return (begin < time && time <= end) || (begin == 0 && time == 0);
    return (begin <= time && time < end) || (stretch.to_end && time == end);
  });
}

void Compilation::compile_stops() {
  MachineData& m = *data;
  // The windows that matter to a play are those its state's and the states' around it transitions name.
  std::vector<std::vector<std::uint16_t>> durings(m.states.size());
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    if (s > 0) durings[s] = durings[m.states[s].parent];
    for (const TransitionData& go : MachineData::view(m.transitions, m.states[s].go))
      if (go.during != kNoIndex) durings[s].push_back(go.during);
  }
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const PlayData& play = m.states[s].play;
    if (!play.moves()) continue;
    const auto played = std::span(m.played).subspan(play.clips.begin, play.clips.count);
    const bool others = play.blend != kNoIndex && m.blends[play.blend].cues_above <= 1;
    if (others)
      for (PlayedClip& each : played) each.stops = StopMaker(m.clips[each.clip], m).finish();
    std::vector<PlayedClip> alone(played.begin(), played.end());
    for (PlayedClip& each : played) {
      const ClipData& clip = m.clips[each.clip];
      StopMaker stops(clip, m);
      for (std::size_t k = 0; others && k < alone.size(); ++k) {
        const auto same = [&](const PlayedClip& p) { return p.clip == alone[k].clip; };
        if (!same(each) &&
            std::find_if(alone.begin(), alone.end(), same) == alone.begin() + static_cast<std::ptrdiff_t>(k))
          stops.add_others(alone[k], static_cast<std::uint8_t>(k));
      }
      for (const std::uint16_t during : durings[s]) {
        if (m.durings[during].window == kNoIndex) stops.add_window(std::span(&m.durings[during].frames, 1));
        for (const ClipWindow& window : clip.windows)
          if (window.name == m.durings[during].window) stops.add_window(window.stretches);
      }
      each.stops = stops.finish();
      const Stop &first = m.stops[each.stops.begin], &last = m.stops[each.stops.begin + each.stops.count - 1];
      each.edges_stir = clip.passes > 0 || m.state_infos[s].uses_loops || !durings[s].empty();
      each.forward_round = !each.edges_stir && first.forward.count + last.forward.count == 0;
      each.backward_round = !each.edges_stir && first.backward.count + last.backward.count == 0;
    }
  }
}

}  // namespace mobrin::detail
