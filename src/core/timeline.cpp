// Timelines: a clip unrolled into the cycle it plays, and the places on it where something lies.
#include <algorithm>
#include <map>

#include "compile.hpp"

namespace mobrin::detail {
namespace {

__extension__ using Wide = __int128;

std::int64_t divide_down(Wide value, std::int64_t by) { return static_cast<std::int64_t>(value / by); }

// What lies at one place, before it is put in order.
struct Place_ {
  std::vector<Firing> forward_ends, forward_rest, backward_ends, backward_rest;
  bool always = false;
};

class StopMaker {
 public:
  StopMaker(const ClipData& clip, MachineData& data) : clip_(clip), data_(data) {
    places_[0].always = true;
    places_[clip.cycle].always = true;
  }

  void add_mark(std::uint16_t index) {
    const MarkData& mark = clip_.marks[index];
    if (mark.at == MarkAt::time) {
      add_time(index, mark.time, false);
      if (mark.mirrored_time >= 0) add_time(index, mark.mirrored_time, true);
      return;
    }
    for (std::size_t s = 0; s < clip_.segments.size(); ++s) {
      if (mark.at == MarkAt::frames) {
        add_span_edges(index, s);
      } else if (clip_.segments[s].frame == mark.first) {
        add_frame(index, s);
      }
    }
  }

  // Places where a window opens or closes; nothing is told there, but transitions are looked at.
  void add_window(std::span<const Stretch> stretches) {
    for (const Stretch& stretch : stretches) {
      if (stretch.timed) {
        for (const std::int64_t time : {stretch.begin, stretch.end}) {
          if (time > clip_.length) continue;
          places_[time].always = true;
          if (const std::int64_t again = mirrored_time(clip_, time); again >= 0) places_[again].always = true;
        }
        continue;
      }
      const auto open = [&](std::size_t s) {
        return clip_.segments[s].frame >= stretch.begin && clip_.segments[s].frame <= stretch.end;
      };
      for (std::size_t s = 1; s < clip_.segments.size(); ++s)
        if (open(s) != open(s - 1)) places_[clip_.segments[s].begin].always = true;
    }
  }

  Range<Stop> finish() {
    Range<Stop> range{static_cast<std::uint32_t>(data_.stops.size()), 0};
    for (const auto& [at, place] : places_) {
      Stop stop;
      stop.at = at;
      stop.always = place.always;
      stop.forward = append(place.forward_ends, place.forward_rest);
      stop.backward = append(place.backward_ends, place.backward_rest);
      data_.stops.push_back(stop);
      ++range.count;
    }
    return range;
  }

 private:
  [[nodiscard]] std::int64_t end_of(std::size_t segment) const {
    return segment + 1 < clip_.segments.size() ? clip_.segments[segment + 1].begin : clip_.cycle;
  }
  // Whether a mark fires when its place is passed in the cycle's direction `backward`, on the way back or not.
  static bool fires(const MarkData& mark, bool backward, bool mirrored) {
    if (mark.way == MarkWay::both) return true;
    return (mark.way == MarkWay::backward) == (backward != mirrored);
  }

  void add_time(std::uint16_t index, std::int64_t at, bool mirrored) {
    const MarkData& mark = clip_.marks[index];
    if (fires(mark, false, mirrored)) places_[at].forward_rest.push_back({index, FiringKind::cue});
    if (fires(mark, true, mirrored)) places_[at].backward_rest.push_back({index, FiringKind::cue});
  }
  void add_frame(std::uint16_t index, std::size_t segment) {
    const MarkData& mark = clip_.marks[index];
    const bool mirrored = clip_.segments[segment].mirrored;
    const std::int64_t begin = clip_.segments[segment].begin;
    const std::int64_t end = end_of(segment);
    const bool at_end = mark.at == MarkAt::frame_end;
    const Firing firing{index, FiringKind::cue};
    if (fires(mark, false, mirrored)) {
      if (at_end)
        places_[end].forward_ends.push_back(firing);
      else
        places_[begin].forward_rest.push_back(firing);
    }
    if (fires(mark, true, mirrored)) {
      if (at_end)
        places_[begin].backward_ends.push_back(firing);
      else
        places_[end].backward_rest.push_back(firing);
    }
  }
  // A span begins where the shown frame comes into its frames and ends where it goes out of them, also where the cycle
  // comes round.
  void add_span_edges(std::uint16_t index, std::size_t segment) {
    const std::size_t count = clip_.segments.size();
    if (!covers(index, segment)) return;
    const std::int64_t begin = clip_.segments[segment].begin;
    const std::int64_t end = end_of(segment);
    if (!covers(index, (segment + count - 1) % count)) {
      places_[begin].forward_rest.push_back({index, FiringKind::span_begin});
      places_[begin].backward_ends.push_back({index, FiringKind::span_end});
    }
    if (!covers(index, (segment + 1) % count)) {
      places_[end].forward_ends.push_back({index, FiringKind::span_end});
      places_[end].backward_rest.push_back({index, FiringKind::span_begin});
    }
  }
  [[nodiscard]] bool covers(std::uint16_t index, std::size_t segment) const {
    const std::int32_t frame = clip_.segments[segment].frame;
    return frame >= clip_.marks[index].first && frame <= clip_.marks[index].last;
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
  std::map<std::int64_t, Place_> places_;
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

void make_timeline(const ClipDef& clip, const std::vector<std::int64_t>& borders, ClipData& out) {
  const auto frames = static_cast<std::int32_t>(clip.frames.size());
  out.length = frames > 0 ? borders.back() : clip.length.count;
  out.cycle = out.length;
  out.passes = clip.play.passes;
  for (std::int32_t i = 0; i < frames; ++i) out.segments.push_back({borders[static_cast<std::size_t>(i)], i, false});
  if (clip.play.kind != PlayKind::back_and_forth) return;
  if (frames == 0) {
    out.turn = out.length;
    out.cycle = 2 * out.length;
    return;
  }
  if (frames < 3) return;  // no frame lies between the first and the last
  out.turn = borders[static_cast<std::size_t>(frames - 1)];
  for (std::int32_t i = frames - 2; i >= 1; --i) {
    out.segments.push_back({out.cycle, i, true});
    out.cycle += borders[static_cast<std::size_t>(i) + 1] - borders[static_cast<std::size_t>(i)];
  }
}

std::int64_t mirrored_time(const ClipData& clip, std::int64_t time) {
  if (clip.cycle == clip.length) return -1;
  const std::int64_t again = clip.length + (clip.turn - time);
  if (clip.segments.empty()) return again > clip.length && again < clip.cycle ? again : -1;
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

std::int64_t own_time(const ClipData& clip, std::int64_t position, bool backward) {
  const std::int64_t length = clip.length << kSubBits;
  const bool mirrored =
      clip.segments.empty() ? position > length : clip.segments[segment_at(clip, position, backward)].mirrored;
  return mirrored ? (clip.turn << kSubBits) - (position - length) : position;
}

bool inside(const ClipData& clip, std::span<const Stretch> stretches, std::int64_t position, bool backward) {
  if (clip.segments.empty()) return false;
  const Segment& segment = clip.segments[segment_at(clip, position, backward)];
  const bool down = backward != segment.mirrored;
  const std::int64_t time = own_time(clip, position, backward);
  return std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& stretch) {
    if (!stretch.timed) return segment.frame >= stretch.begin && segment.frame <= stretch.end;
    const std::int64_t begin = stretch.begin << kSubBits;
    const std::int64_t end = stretch.end << kSubBits;
    const std::int64_t length = clip.length << kSubBits;
    if (down) return (begin < time && time <= end) || (begin == 0 && time == 0);
    return (begin <= time && time < end) || (end == length && time == length);
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
    PlayData& play = m.states[s].play;
    if (!play.moves()) continue;
    const ClipData& clip = m.clips[play.clip];
    StopMaker stops(clip, m);
    for (std::size_t i = 0; i < clip.marks.size(); ++i) stops.add_mark(static_cast<std::uint16_t>(i));
    for (const std::uint16_t during : durings[s]) {
      if (m.durings[during].window == kNoIndex) stops.add_window(std::span(&m.durings[during].frames, 1));
      for (const ClipWindow& window : clip.windows)
        if (window.name == m.durings[during].window) stops.add_window(window.stretches);
    }
    play.stops = stops.finish();
  }
}

}  // namespace mobrin::detail
