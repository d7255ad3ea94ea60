// How a crowd's blocks lie in memory, and asking for them before they are needed.
#pragma once

#include <cstring>

#include "machine/inlining.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

// Of a block's header the clock and the wake lie elsewhere: the clock is the crowd's, the wakes stand together.
inline constexpr std::size_t kElsewhere = offsetof(BlockHeader, anchor);
static_assert(kElsewhere == 2 * sizeof(std::int64_t) && offsetof(BlockHeader, wake) < kElsewhere);

inline constexpr std::size_t kAhead = 12;  // how far ahead blocks are fetched from memory

// Of blocks, which are whole words: a call would take longer than to copy or compare one.
inline void copy_words(std::byte* to, const std::byte* from, std::size_t bytes) {
  for (std::size_t i = 0; i < bytes; i += sizeof(std::uint64_t)) std::memcpy(to + i, from + i, sizeof(std::uint64_t));
}
[[nodiscard]] inline bool same_words(const std::byte* a, const std::byte* b, std::size_t bytes) {
  std::uint64_t differ = 0;
  for (std::size_t i = 0; i < bytes; i += sizeof(std::uint64_t)) {
    std::uint64_t one = 0, other = 0;
    std::memcpy(&one, a + i, sizeof one);
    std::memcpy(&other, b + i, sizeof other);
    differ |= one ^ other;
  }
  return differ == 0;
}

// Asks memory for what is needed soon. A function that does no more than that must be inlined: compilers leave out
// calls that have no effect.
MOBRIN_INLINE void fetch(const void* what) {
#if defined(__GNUC__) || defined(__clang__)
  __builtin_prefetch(what, 1);
#else
  static_cast<void>(what);
#endif
}
// A member's block: its first 64 bytes and its last one are enough for most machines.
MOBRIN_INLINE void fetch(const std::byte* block, std::size_t stride) {
  fetch(block + kElsewhere);
  fetch(block + kElsewhere + stride - 1);
}

}  // namespace mobrin::detail
