#include "courses.hpp"

#include <algorithm>

namespace mobrin::proof {
namespace {

// The same seen by who runs backward.
Stretch mirrored(const ClipInfo& clip, Stretch stay) {
  return {clip.cycle.count - stay.end, clip.cycle.count - stay.begin};
}

}  // namespace

bool is_plain(const ClipInfo& clip) {
  return clip.def.play.kind == PlayKind::once || clip.def.play.kind == PlayKind::loop;
}

// A frame that is come to from behind is come to at its end.
Stretch told_at(const ClipInfo& clip, const MarkDef& mark, Course course) {
  const Stretch forward{clip.begin_of(mark).count, clip.end_of(mark).count};
  if (course != Course::backward) return forward;
  const auto frame = static_cast<std::size_t>(std::max(mark.frame, 0));
  if (mark.at == MarkAt::frame_begin)
    return mirrored(clip, {clip.borders[frame + 1].count, clip.borders[frame + 1].count});
  if (mark.at == MarkAt::frame_end) return mirrored(clip, {clip.borders[frame].count, clip.borders[frame].count});
  return mirrored(clip, forward);
}

bool tells(const MarkDef& mark, Course course) {
  return mark.way == MarkWay::both || course == Course::any ||
         (mark.way == MarkWay::forward) == (course == Course::forward);
}

bool has_frames_of(const ClipInfo& clip, const StretchDef& stretch) {
  return stretch.timed || static_cast<std::size_t>(stretch.last) + 1 < clip.borders.size();
}

bool open_at_begin(const ClipInfo& clip, const StretchDef& stretch, Course course) {
  if (open_at(clip, stretch, course).begin <= 0) return true;
  return course == Course::any && (!is_plain(clip) || open_at(clip, stretch, Course::backward).begin <= 0);
}

Stretch open_at(const ClipInfo& clip, const StretchDef& stretch, Course course) {
  const Ticks begin = stretch.timed ? stretch.begin : clip.borders[static_cast<std::size_t>(stretch.first)];
  const Ticks end = stretch.timed ? stretch.end : clip.borders[static_cast<std::size_t>(stretch.last) + 1];
  const Stretch forward{begin.count, end.count};
  return course == Course::backward ? mirrored(clip, forward) : forward;
}

}  // namespace mobrin::proof
