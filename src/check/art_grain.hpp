// How large the pixels are that pictures are drawn in.
#pragma once

#include <cstdint>

#include "mobrin/check/art.hpp"

namespace mobrin::check {

// The largest squares, by their side in pixels, of which the whole picture consists, wherever the first begins: 1 where
// single pixels differ, more where it was drawn smaller and enlarged. 0 where it has too few edges to say.
[[nodiscard]] std::int32_t grain_of(const FramePixels& frame);

}  // namespace mobrin::check
