// Timelines: a clip unrolled into the cycle it plays.
#pragma once

#include <set>
#include <span>
#include <vector>

#include "compile/timeline.hpp"

namespace mobrin::detail {

// The borders of a clip's frames: entry i is where frame i begins, the last where the last one ends.
[[nodiscard]] std::vector<std::int64_t> frame_borders(const ClipDef& clip);
// Fills length, cycle, turn, passes, parts and segments; `index` is the clip's own.
void make_timeline(const ClipDef& clip, std::uint16_t index, const std::vector<std::int64_t>& borders, ClipData& out);
// Cuts the segments at these times of the clip's own time, on both ways. REQUIRES: no sequence.
void cut_timeline(ClipData& clip, const std::set<std::int64_t>& times);
// These clips in turn, each with all its passes, as one clip played once. REQUIRES: each ends.
[[nodiscard]] ClipData make_sequence(const MachineData& data, std::span<const std::uint16_t> clips);

}  // namespace mobrin::detail
