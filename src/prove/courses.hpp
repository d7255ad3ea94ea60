// Which way a play runs, and where it tells and opens what then.
#pragma once

#include <cstdint>

#include "mobrin/core/parts.hpp"

namespace mobrin::proof {

// `any`: it may turn, or begin anywhere, or runs backward through a clip whose way back is its way there.
enum class Course : std::uint8_t { any, forward, backward };

// Ticks from where a play begins that runs one way.
struct Stretch {
  std::int64_t begin = 0, end = 0;
};

// Whether one pass of a clip runs one way.
[[nodiscard]] bool is_plain(const ClipInfo& clip);

// Where a plain clip tells a mark: of a span where that begins and where it ends.
[[nodiscard]] Stretch told_at(const ClipInfo& clip, const MarkDef& mark, Course course);

// Whether a mark is told in this direction.
[[nodiscard]] bool tells(const MarkDef& mark, Course course);

// Whether a clip has all frames that a window says: a rule of a state around it may say more.
[[nodiscard]] bool has_frames_of(const ClipInfo& clip, const StretchDef& stretch);

// REQUIRES, of these: has_frames_of().
// Whether a window may be open where a play begins; at either end where it is not known which way it runs.
[[nodiscard]] bool open_at_begin(const ClipInfo& clip, const StretchDef& stretch, Course course);

// Where a window is open; running backward its first tick and its last may be left out.
[[nodiscard]] Stretch open_at(const ClipInfo& clip, const StretchDef& stretch, Course course);

}  // namespace mobrin::proof
