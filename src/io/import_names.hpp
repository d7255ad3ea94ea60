// What names of images and folders say: which clip, which frame.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace mobrin::io {

// `walk_1`, `walk-01`, `walk0001`, `walk (3)`: what is common, and the number.
struct Numbered {
  std::string stem;
  std::optional<std::int64_t> number;
};
[[nodiscard]] Numbered numbered(std::string name);

// A picture as it is called, without its ending.
struct PictureName {
  std::string name;
  std::string folder;  // below what was named
  std::string plain;   // what a clip of it is called where the name is nothing but a number
};
struct PictureOfClip {
  std::string clip;
  std::int64_t number = -1;  // -1: it has none
  bool inside = false;       // the number stands inside of its name: `sting-3@2x`
};
// Which clip each belongs to: those of a folder whose names differ by a number only make one, in the order of their
// numbers. The number is the one at the end; of names that end otherwise the one by which most of them differ.
[[nodiscard]] std::vector<PictureOfClip> clips_by_names(const std::vector<PictureName>& names);

// A clip's name out of any words.
[[nodiscard]] std::string clip_name(const std::string& words);

// The folder of a file below `of`; empty where it lies in that itself.
[[nodiscard]] std::string inner_folder(const std::filesystem::path& file, const std::filesystem::path& of);

}  // namespace mobrin::io
