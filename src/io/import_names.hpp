// What names of images and folders say: which clip, which frame.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace mobrin::io {

// `walk_1`, `walk-01`, `walk0001`, `walk (3)`: what is common, and the number.
struct Numbered {
  std::string stem;
  std::optional<std::int64_t> number;
};
[[nodiscard]] Numbered numbered(std::string name);
// "the number 4 is missing", "the numbers 4 to 6 are missing": those between two.
[[nodiscard]] std::string numbers_between(std::int64_t before, std::int64_t after);

// A picture as it is called, without its ending.
struct PictureName {
  std::string name;
  std::string folder;  // below what was named
  std::string plain;   // what a clip of it is called where the name is nothing but a number
};
struct PictureOfClip {
  std::string clip;
  std::int64_t number = -1;  // -1: it has none
};
struct NamedClips {
  std::vector<PictureOfClip> pictures;                       // as the names given
  std::vector<std::pair<std::string, std::string>> notes;    // of a clip: what people should know of its name
  std::vector<std::pair<std::size_t, std::size_t>> clashes;  // of a clip: two pictures that are of two, by their words
};
// Which clip each belongs to: those of a folder whose names differ by a number only make one, in the order of their
// numbers. The number is the one at the end; of names that end otherwise the one by which most of them differ.
[[nodiscard]] NamedClips clips_by_names(const std::vector<PictureName>& names);

// A clip's name out of any words.
[[nodiscard]] std::string clip_name(const std::string& words);
inline constexpr const char* kClipLetters = "a clip's name is made of the letters a to z, digits and _";
// Whether there is more in the words than marks between them that the name cannot say.
[[nodiscard]] bool loses_letters(const std::string& words);
// The note on a clip whose name could not be `words`.
[[nodiscard]] std::string called(const std::string& words);

// The folder of a file below `of`; empty where it lies in that itself.
[[nodiscard]] std::string inner_folder(const std::filesystem::path& file, const std::filesystem::path& of);

}  // namespace mobrin::io
