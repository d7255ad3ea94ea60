// Findings about art: what is well-formed and still a mistake, seen in the pixels.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// A frame's pixels where they lie: four bytes each (red, green, blue, alpha), `stride` pixels from row to row.
struct FramePixels {
  const std::uint8_t* rgba = nullptr;  ///< of its top left
  std::int32_t width = 0, height = 0, stride = 0;
};

/// Gives the pixels of a frame, empty where there are none. What it gives stays valid until art_findings returns.
using FrameSource = std::function<std::optional<FramePixels>(const FrameArt& art)>;

/// The usual mistakes: a loop whose last frame is its first again, neighbours that are equal, a clip of one picture
/// only, empty frames, frames of several sizes, a rate too high for few frames, marks on a clip that no state plays.
/// Each a warning at the clip's place. Pixels are compared as seen: where alpha is 0, colour does not count.
[[nodiscard]] std::vector<Finding> art_findings(const Machine& machine, const FrameSource& source);

}  // namespace mobrin
