// Images: PNG files as plain pixels.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// Pixels, row by row from the top, four bytes each: red, green, blue, alpha (not premultiplied).
struct Image {
  std::int32_t width = 0;
  std::int32_t height = 0;
  std::vector<std::uint8_t> rgba;
};

/// Images larger than this many pixels are refused before anything is allocated for them.
inline constexpr std::int64_t kMaxPixels = std::int64_t{64} << 20;

/// Reads a PNG of any colour type and depth. The error says why a file is refused.
[[nodiscard]] Result<Image> load_png(const std::string& path);

/// Where a frame's picture lies on its image of that size: the whole of it, a rectangle, or a cell of its grid. Empty
/// where it reaches past the image.
[[nodiscard]] std::optional<PixelRect> rect_on_image(const FrameArt& art, std::int32_t width, std::int32_t height);

}  // namespace mobrin
