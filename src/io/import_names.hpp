// What names of images and folders say: which clip, which frame.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace mobrin::io {

// `walk_1`, `walk-01`, `walk0001`, `walk (3)`: what is common, and the number.
struct Numbered {
  std::string stem;
  std::optional<std::int64_t> number;
};
[[nodiscard]] Numbered numbered(std::string name);

// A clip's name out of any words.
[[nodiscard]] std::string clip_name(const std::string& words);

}  // namespace mobrin::io
