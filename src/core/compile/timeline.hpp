// What shows where on a clip's cycle; for the compiler and the engine.
#pragma once

#include "machine/machine_data.hpp"

namespace mobrin::detail {

// The segment shown at `position` (sub-ticks).
[[nodiscard]] std::size_t segment_at(const ClipData& clip, std::int64_t position, bool backward);
// Where a segment of the clip ends on its cycle, in ticks.
[[nodiscard]] inline std::int64_t segment_end(const ClipData& clip, const Segment& segment) {
  return &segment == &clip.segments.back() ? clip.cycle : (&segment + 1)->begin;
}
// Where the way back passes `time` of the clip's own time, on the cycle; -1 for nowhere. REQUIRES: no sequence.
[[nodiscard]] std::int64_t mirrored_time(const ClipData& clip, std::int64_t time);
// `position` on the own time of the clip that shows there, in sub-ticks.
[[nodiscard]] std::int64_t own_time(const Segment& segment, std::int64_t position);
// Whether a segment goes on with what the one before it shows, a further piece of it.
[[nodiscard]] bool continues(const ClipData& clip, std::size_t segment);
// REQUIRES: the mark is a span.
[[nodiscard]] bool covers(const MarkData& mark, const Segment& segment);
// Whether a stretch of times holds the end of the clip that plays, too.
[[nodiscard]] inline bool reaches_end(const ClipData& clip, const Stretch& stretch) {
  return stretch.clip == kNoIndex ? stretch.end == clip.length : stretch.to_end;
}
// Whether a stretch of frames holds what the segment shows.
[[nodiscard]] bool open_at(const Segment& segment, const Stretch& stretch);
// Whether `position` lies in one of the stretches.
[[nodiscard]] bool inside(const ClipData& clip, std::span<const Stretch> stretches, std::int64_t position,
                          bool backward);

}  // namespace mobrin::detail
