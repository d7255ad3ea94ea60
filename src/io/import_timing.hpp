// The timing of animated images as a clips file says it.
#pragma once

#include <string>
#include <vector>

#include "clips_file.hpp"

namespace mobrin::io {

// Exact delays: holds over the greatest rate that all of them are multiples of, or times where there is none. Gives
// what was decided on the way, in words; empty for nothing. REQUIRES: the clip has a frame for each delay.
[[nodiscard]] std::string time_by(std::vector<Fraction> delays, ArtClip& clip);

}  // namespace mobrin::io
