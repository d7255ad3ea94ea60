// What kinds of picture files are read. To add one: a reader in a file of its own that ends with its row, a line for it
// below, and its name in kPictureFormats (picture_formats.cpp). Everything that opens pictures goes by these rows.
#pragma once

#include <span>

#include "animation.hpp"

namespace mobrin::io {

struct PictureFormat {
  std::string_view name;        // as people call it
  std::string_view endings[2];  // of its files' names, in small letters; the second may be empty
  // What a file of this format is, by its first eight bytes and what it reads of the rest; none: it is of another.
  ImageKind (*kind)(const std::string& path, std::span<const std::uint8_t, 8> head);
  PixelSize (*size)(const std::string& path);                                // of a still one; null: none is
  Result<Image> (*load)(const std::string& path);                            // a still one; null: none is
  Result<Animation> (*read)(const std::string& path, const OnFrame& frame);  // an animated one; null: none is
  bool still_beside = false;  // an animated one has a picture for who cannot animate, which `load` gives
};

extern const PictureFormat kPng, kWebp, kGif;  // animation.cpp, webp.cpp, gif.cpp

// The format of a file and what it is of that; null and none where it is no picture.
struct Recognised {
  const PictureFormat* format = nullptr;
  ImageKind kind = ImageKind::none;
};
[[nodiscard]] Recognised recognise(const std::string& path);
// The names of all formats: "PNG, WebP, GIF".
[[nodiscard]] std::string picture_format_names();

}  // namespace mobrin::io
