// Images: PNG and WebP files as plain pixels.
#pragma once

#include <cstdint>
#include <deque>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// Pixels, row by row from the top, four bytes each: red, green, blue, alpha (not premultiplied).
struct Image {
  std::int32_t width = 0;   ///< pixels
  std::int32_t height = 0;  ///< pixels
  /// a row after the other from the top, four bytes a pixel: red, green, blue, opacity (not multiplied in)
  std::vector<std::uint8_t> rgba;
};

/// Images larger than this many pixels are refused before anything is allocated for them.
inline constexpr std::int64_t kMaxPixels = std::int64_t{64} << 20;

/// Reads a PNG of any colour type and depth. The error says why a file is refused; one whose header promises more
/// pixels than its bytes can hold is refused before anything is allocated for them.
[[nodiscard]] Result<Image> load_png(const std::string& path);

/// Reads a PNG, or a WebP that is not animated and has at most 16 megapixels, whichever the file is. Of an animated PNG
/// it is the picture for who cannot animate.
[[nodiscard]] Result<Image> load_image(const std::string& path);

/// A PNG file's bytes. The error: the image is too large, or its pixels are not as many as it says.
[[nodiscard]] Result<std::string> png_bytes(const Image& image);

/// Writes a PNG.
[[nodiscard]] Outcome write_png(const Image& image, const std::string& path);

/// Finds frames' pictures and reads each image once, by its content: PNG, WebP, GIF, animations. At most 256 MiB are
/// held; what was read longest ago is read again when it is asked for again.
class ArtStore {
 public:
  /// `folder`, with its slash: where paths that are not absolute begin; empty for the current one.
  explicit ArtStore(std::string folder) : folder_(std::move(folder)) {}

  /// A frame of a clip, and the pixels it is cut from.
  struct Picture {
    std::shared_ptr<const Image> image{};  ///< the whole image, shared; null where it cannot be read
    PixelRect rect{};                      ///< the frame's part of it
  };
  /// The error says why there is no picture. REQUIRES: `art.source` is not empty.
  [[nodiscard]] Result<Picture> find(const FrameArt& art);

  /// Where an image lies that a frame names.
  [[nodiscard]] std::string path_of(const std::string& source) const;

  /// From now on reads at most so many pixels in all, each image counted once, and of one PNG; find() then fails for
  /// the rest.
  void spend_at_most(std::int64_t pixels, std::int64_t pixels_of_image) {
    most_pixels_ = pixels;
    most_of_image_ = pixels_of_image;
  }
  /// Whether the image was left out for that; find() was asked for it.
  [[nodiscard]] bool left_out(const std::string& source) const;

 private:
  static constexpr std::size_t kMostBytes = std::size_t{256} << 20;
  struct Source {
    std::vector<std::shared_ptr<const Image>> images{};  // of an animation: its frames
    std::size_t bytes = 0;
    std::string wrong{};
    bool left_out = false;
  };
  void read(const std::string& name, bool of_animation, Source& source);

  std::string folder_;
  std::map<std::string, Source> sources_;
  std::deque<std::string> order_;
  std::size_t held_ = 0;
  std::set<std::string, std::less<>> counted_;
  std::int64_t pixels_ = 0;  // of those
  std::int64_t most_pixels_ = std::numeric_limits<std::int64_t>::max(), most_of_image_ = most_pixels_;
};

}  // namespace mobrin
