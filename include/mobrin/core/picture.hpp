// Picture: which part of which image to draw for what is shown.
#pragma once

#include <cstdint>
#include <optional>
#include <utility>

namespace mobrin {

struct FrameArt;

/// A rectangle of an image in pixels from its top left.
struct PixelRect {
  std::int32_t x = 0;       ///< pixels from the left
  std::int32_t y = 0;       ///< pixels from the top
  std::int32_t width = 0;   ///< pixels; 0: no rectangle
  std::int32_t height = 0;  ///< pixels
};

/// Where a frame's picture lies on its image of that size: the whole of it, a rectangle, or a cell of its grid. Empty
/// where it reaches past the image.
[[nodiscard]] std::optional<PixelRect> rect_on_image(const FrameArt& art, std::int32_t width, std::int32_t height);

/// Where the pivot lies on what is cut out for a frame, in pixels from its top left. `pivot`: on the whole picture, as
/// ClipInfo::pivot_of gives it; empty: the middle of its lower edge. What was trimmed away goes off.
[[nodiscard]] std::pair<double, double> pivot_on_cut(const FrameArt& art, const PixelRect& cut,
                                                     std::optional<std::pair<double, double>> pivot);

/// What to cut out of an image, and where its pivot lies.
struct PictureCut {
  PixelRect from{};    ///< in the image; width 0 where the picture reaches past it
  double pivot_x = 0;  ///< on what is drawn, mirrored if it is, in pixels from its left: draw it there
  double pivot_y = 0;  ///< pixels from its top
};

/// Stands for no image.
inline constexpr std::uint32_t kNoImage = 0xffff'ffff;

/// A frame's picture. Plain value; valid as long as its machine.
struct Picture {
  std::uint32_t image = kNoImage;  ///< index into Machine::images(), the look applied; kNoImage: nothing to draw
  std::int32_t file_frame = -1;    ///< of an animated image (GIF, APNG): which of its frames, from 0
  std::uint16_t clip = 0xffff;     ///< what it is of, as in Shown
  std::int32_t frame = -1;         ///< as in Shown: index in the clip's own list; -1 for none
  bool mirrored = false;           ///< draw it with left and right exchanged
  bool has_pivot = false;          ///< the marks say a pivot; else it is the middle of the lower edge
  double pivot_x = 0;              ///< on the whole picture, before trimming, offsets applied; for drawing see cut()
  double pivot_y = 0;              ///< likewise
  const FrameArt* art = nullptr;   ///< not for users
  /// Whether there is something to draw.
  [[nodiscard]] explicit operator bool() const { return image != kNoImage; }
  /// What to cut out of its image, which is `width` by `height` pixels (of an animated image: its frame).
  [[nodiscard]] PictureCut cut(std::int32_t width, std::int32_t height) const;
};

}  // namespace mobrin
