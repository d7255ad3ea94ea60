// Long tapes: read some thousands of steps at a time, so that one of hours needs little more memory than what it says.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace mobrin::io {

inline constexpr std::size_t kMaxTapeBytes = 64u << 20;
inline constexpr std::size_t kMaxSteps = 500'000;

struct LongTape {
  struct Piece {
    std::string text;          // `steps:` and some of them
    std::uint32_t before = 0;  // how many lines the file has before that
  };
  std::string around;  // the text with empty lines in place of its steps
  std::vector<Piece> pieces;
  std::size_t steps = 0;
};

// Empty for a text that is short enough to be read at once, or whose steps do not begin on lines of their own.
[[nodiscard]] std::optional<LongTape> split_long_tape(std::string_view text);

}  // namespace mobrin::io
