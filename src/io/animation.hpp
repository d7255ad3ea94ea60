// What the readers of images share.
#pragma once

#include <span>

#include "mobrin/io/animation.hpp"

namespace mobrin::io {

using OnFrame = std::function<void(const Image&)>;

// Frames of an animated image altogether, in pixels: what takes longer to look at than anybody waits.
inline constexpr std::int64_t kMostAnimationPixels = std::int64_t{1} << 32;
inline constexpr std::size_t kMostAnimationFrames = 10'000;

// A picture without a colour.
[[nodiscard]] inline Image blank(std::int32_t width, std::int32_t height) {
  return {width, height,
          std::vector<std::uint8_t>(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * 4)};
}
void clear(Image& canvas, const PixelRect& area);

struct PixelSize {
  std::int32_t width = 0, height = 0;
};
// A PNG's size stands in its first bytes, so no image is decoded for it. What the file says, true or not.
[[nodiscard]] PixelSize png_size(const std::string& path);

[[nodiscard]] Result<std::vector<std::uint8_t>> encode_png(const Image& image);
// A PNG that lies in memory.
[[nodiscard]] Result<Image> decode_png(std::span<const std::uint8_t> bytes);

}  // namespace mobrin::io
