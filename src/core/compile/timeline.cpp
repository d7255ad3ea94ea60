#include "compile/timeline.hpp"

#include <algorithm>

namespace mobrin::detail {

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

std::int64_t mirrored_time(const ClipData& clip, std::int64_t time) {
  if (clip.cycle == clip.length) return -1;
  const std::int64_t again = clip.length + (clip.turn - time);
  if (clip.segments.front().frame < 0) return again > clip.length && again < clip.cycle ? again : -1;
  return again >= clip.length && again <= clip.cycle ? again : -1;
}

bool continues(const ClipData& clip, std::size_t segment) {
  if (segment == 0) return false;
  const Segment &before = clip.segments[segment - 1], &here = clip.segments[segment];
  return before.clip == here.clip && before.frame == here.frame && before.mirrored == here.mirrored &&
         own_time(before, here.begin << kSubBits) == here.own << kSubBits;
}

bool covers(const MarkData& mark, const Segment& segment) {
  if (segment.clip != mark.clip) return false;
  if (mark.at == MarkAt::frames) return segment.frame >= mark.first && segment.frame <= mark.last;
  // Its times begin and end where segments do; one on the way back lies before its own time.
  return segment.mirrored ? mark.time < segment.own && segment.own <= mark.until
                          : mark.time <= segment.own && segment.own < mark.until;
}

bool open_at(const Segment& segment, const Stretch& stretch) {
  if (stretch.clip != kNoIndex && stretch.clip != segment.clip) return false;
  return segment.frame >= 0 && segment.frame >= stretch.begin && segment.frame <= stretch.end;
}

bool inside(const ClipData& clip, std::span<const Stretch> stretches, std::int64_t position, bool backward) {
  const Segment& segment = clip.segments[segment_at(clip, position, backward)];
  const bool down = backward != segment.mirrored;
  const std::int64_t time = own_time(segment, position);
  return std::any_of(stretches.begin(), stretches.end(), [&](const Stretch& stretch) {
    if (!stretch.timed) return open_at(segment, stretch);
    if (stretch.clip != kNoIndex && stretch.clip != segment.clip) return false;
    const std::int64_t begin = stretch.begin << kSubBits;
    const std::int64_t end = stretch.end << kSubBits;
    if (down) return (begin < time && time <= end) || (begin == 0 && time == 0);
    return (begin <= time && time < end) || (time == end && reaches_end(clip, stretch));
  });
}

}  // namespace mobrin::detail
