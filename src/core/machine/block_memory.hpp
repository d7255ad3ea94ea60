// How a crowd's blocks lie in memory, and asking for them before they are needed.
#pragma once

#include <cstring>

#include "machine/inlining.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

// Of a block's header the clock and the wake lie elsewhere: the clock is the crowd's, the wakes stand together.
inline constexpr std::size_t kElsewhere = offsetof(BlockHeader, anchor);
static_assert(kElsewhere == 2 * sizeof(std::int64_t) && offsetof(BlockHeader, wake) < kElsewhere);

inline constexpr std::uint32_t kRow = 8;   // members whose wakes lie in one cache line
inline constexpr std::size_t kAhead = 12;  // how far ahead blocks are fetched from memory

// Of blocks, which are whole words: a call would take longer than to copy or compare one. So many that lie side by
// side, `stride` apart: whether all are the same as one, and that one copied to each.
template <std::size_t kCount>
[[nodiscard]] MOBRIN_INLINE bool same_words(const std::byte* blocks, std::size_t stride, const std::byte* one,
                                            std::size_t bytes) {
  std::uint64_t differ = 0;
  for (std::size_t at = 0; at < bytes; at += sizeof(std::uint64_t)) {
    std::uint64_t word = 0;
    std::memcpy(&word, one + at, sizeof word);
    for (std::size_t i = 0; i < kCount; ++i) {
      std::uint64_t other = 0;
      std::memcpy(&other, blocks + i * stride + at, sizeof other);
      differ |= word ^ other;
    }
  }
  return differ == 0;
}
template <std::size_t kCount>
MOBRIN_INLINE void copy_words(std::byte* blocks, std::size_t stride, const std::byte* one, std::size_t bytes) {
  for (std::size_t at = 0; at < bytes; at += sizeof(std::uint64_t)) {
    std::uint64_t word = 0;
    std::memcpy(&word, one + at, sizeof word);
    for (std::size_t i = 0; i < kCount; ++i) std::memcpy(blocks + i * stride + at, &word, sizeof word);
  }
}
inline void copy_words(std::byte* to, const std::byte* from, std::size_t bytes) { copy_words<1>(to, 0, from, bytes); }

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
