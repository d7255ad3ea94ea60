// Animated images: GIF, APNG and WebP as whole pictures with exact delays.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "mobrin/io/image.hpp"

namespace mobrin {

/// What a file is: no image that is read, one picture, or several in turn. A GIF counts as animated.
enum class ImageKind : std::uint8_t { none, still, animated };

/// What a file is, whatever its name says. One that cannot be opened is `none`. Reads a few bytes of each chunk before
/// the pixels, no more.
[[nodiscard]] ImageKind image_kind(const std::string& path);

/// How the names of image files end that are read, in small letters: ".png", ".apng" and so on.
[[nodiscard]] std::vector<std::string> image_endings();
/// Whether a file's name ends like that of an image, in letters of any size. It may be none all the same.
[[nodiscard]] bool has_image_ending(const std::string& path);

/// The frames of an animated image, without their pixels.
struct Animation {
  std::int32_t width = 0;          ///< of every frame, in pixels
  std::int32_t height = 0;         ///< of every frame, in pixels
  std::vector<Fraction> delays{};  ///< seconds each frame shows, as the file says; num 0: it asks for no delay
  std::int32_t plays = 0;          ///< how often it plays; 0: for ever
};

/// Reads a GIF, an APNG or an animated WebP and gives `frame` each picture as it is seen: laid over what the frames
/// before left, after their disposal, with this frame's blending. What a frame leaves uncovered is transparent; a GIF's
/// background colour is not used, as is common. A GIF's repeat count of N plays N + 1 times; without one it plays once;
/// a WebP's plays N times. The error says why a file is refused: damaged, cut short, with frames outside the canvas, or
/// with more pixels than it has bytes for.
[[nodiscard]] Result<Animation> read_animation(const std::string& path,
                                               const std::function<void(const Image&)>& frame = {});

/// Writes an animated PNG of whole pictures of one size that plays for ever, each shown for `delay` seconds. REQUIRES:
/// at least one picture, all of one size.
[[nodiscard]] Outcome write_apng(const std::vector<Image>& frames, Fraction delay, const std::string& path);
/// The same with a delay for each picture (parts of a second as they can be written there: both of 16 bits), and so
/// many plays, 0 for ever. REQUIRES: as many delays as pictures.
[[nodiscard]] Outcome write_apng(const std::vector<Image>& frames, const std::vector<Fraction>& delays,
                                 std::int32_t plays, const std::string& path);

}  // namespace mobrin
