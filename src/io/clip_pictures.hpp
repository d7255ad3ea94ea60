// Pictures of clips: how they are known again, and what becomes of a clip's frames when its art has changed.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/io/image.hpp"

namespace mobrin::io {

// A picture of a clip's art: one image of a list, or one cell of a sheet or frame of an animation.
struct ArtPicture {
  std::string name;       // the image as the clips file names it; of cells their number; of a packed sheet its own name
  std::int64_t cell = 0;  // of cells; of a packed sheet its place among the sheet's pictures
  std::string print{};    // of its pixels; empty where nothing is known of them
  std::string delay{};    // of an animation's frame, as text
};

// Twelve digits that two pictures share only if their pixels do.
[[nodiscard]] std::string print_of(const Image& image, const PixelRect& part);
[[nodiscard]] std::string print_of_bytes(const std::string& bytes);
// Of an image file, also where it cannot be decoded; empty where it cannot be read.
[[nodiscard]] std::string print_of_file(const std::string& path);

// Which of `now` is which of `before`: index for index, -1 for one that is gone. Of the same name and pixels first,
// then of the same pixels in order, then of the same name: painted anew.
[[nodiscard]] std::vector<std::int32_t> match_pictures(const std::vector<ArtPicture>& before,
                                                       const std::vector<ArtPicture>& now);

// A frame of a clip: which picture, and how long.
struct PictureFrame {
  std::int32_t picture = 0;
  std::int32_t hold = 1;
  Ticks time{};
  friend bool operator==(const PictureFrame&, const PictureFrame&) = default;
};

// The frames of changed art. Frames that play their pictures in order go on doing so, those in an order of their own
// keep it; pictures that were left out stay out; new ones come beside their neighbours.
struct MergedFrames {
  std::vector<PictureFrame> frames;
  std::vector<std::int32_t> from;  // for each of `frames` which it was before; -1 for a new one
  std::vector<std::int32_t> to;    // for each frame before where it is now; -1 for one that is gone
};
[[nodiscard]] MergedFrames merge_frames(const std::vector<PictureFrame>& before, std::size_t pictures_before,
                                        const std::vector<std::int32_t>& matched, std::size_t pictures_now,
                                        Ticks new_time);

}  // namespace mobrin::io
