// How a crowd's blocks lie in memory, and asking for them before they are needed.
#pragma once

#include <bit>
#include <cstring>

#include "machine/inlining.hpp"
#include "machine/machine_data.hpp"

namespace mobrin::detail {

// Of a block's header the clock and the wake lie elsewhere: the clock is the crowd's, the wakes stand together.
inline constexpr std::size_t kElsewhere = offsetof(BlockHeader, anchor);
static_assert(kElsewhere == 2 * sizeof(std::int64_t) && offsetof(BlockHeader, wake) < kElsewhere);

inline constexpr std::uint32_t kRow = 8;   // members whose wakes lie in one cache line
inline constexpr std::size_t kAhead = 12;  // how far ahead blocks are fetched from memory

// Two words of a block, as one where the processor takes them so.
#if defined(__GNUC__) && (defined(__SSE2__) || defined(__ARM_NEON))
using WordPair = std::uint64_t __attribute__((vector_size(16)));
#else
struct WordPair {
  std::uint64_t first, second;
  friend WordPair operator^(WordPair a, WordPair b) { return {a.first ^ b.first, a.second ^ b.second}; }
  friend WordPair operator&(WordPair a, WordPair b) { return {a.first & b.first, a.second & b.second}; }
  friend WordPair operator|(WordPair a, WordPair b) { return {a.first | b.first, a.second | b.second}; }
  friend WordPair operator~(WordPair a) { return {~a.first, ~a.second}; }
};
#endif
static_assert(sizeof(WordPair) == 2 * sizeof(std::uint64_t));

// A Word is a word or a pair of them, wherever it lies.
template <class Word>
[[nodiscard]] MOBRIN_INLINE Word load_word(const std::byte* from) {
  Word word;
  std::memcpy(&word, from, sizeof word);
  return word;
}
template <class Word>
MOBRIN_INLINE void store_word(std::byte* to, Word word) {
  std::memcpy(to, &word, sizeof word);
}
[[nodiscard]] MOBRIN_INLINE std::uint64_t bits_of(std::uint64_t word) { return word; }
[[nodiscard]] MOBRIN_INLINE std::uint64_t bits_of(WordPair pair) {
  std::uint64_t words[2];
  std::memcpy(words, &pair, sizeof words);
  return words[0] | words[1];
}
// each(at, a Word) for so many bytes of whole words, in pairs as far as they go.
template <class Each>
MOBRIN_INLINE void for_words(std::size_t bytes, const Each& each) {
  std::size_t at = 0;
  for (; at + sizeof(WordPair) <= bytes; at += sizeof(WordPair)) each(at, WordPair{});
  if (at < bytes) each(at, std::uint64_t{});
}

// Of blocks, which are whole words: a call would take longer than to copy or compare one. So many that lie side by
// side, `stride` apart: whether all are the same as one, and that one copied to each.
template <std::size_t kCount>
[[nodiscard]] MOBRIN_INLINE bool same_words(const std::byte* blocks, std::size_t stride, const std::byte* one,
                                            std::size_t bytes) {
  std::uint64_t differ = 0;
  for_words(bytes, [&]<class Word>(std::size_t at, Word) {
    const Word word = load_word<Word>(one + at);
    Word others{};
    for (std::size_t i = 0; i < kCount; ++i) others = others | (load_word<Word>(blocks + i * stride + at) ^ word);
    differ |= bits_of(others);
  });
  return differ == 0;
}
template <std::size_t kCount>
MOBRIN_INLINE void copy_words(std::byte* blocks, std::size_t stride, const std::byte* one, std::size_t bytes) {
  for_words(bytes, [&]<class Word>(std::size_t at, Word) {
    const Word word = load_word<Word>(one + at);
    for (std::size_t i = 0; i < kCount; ++i) store_word(blocks + i * stride + at, word);
  });
}
inline void copy_words(std::byte* to, const std::byte* from, std::size_t bytes) { copy_words<1>(to, 0, from, bytes); }

// act(i) for each of a row that has its bit set, in order.
template <class Act>
MOBRIN_INLINE void for_bits(std::uint32_t bits, const Act& act) {
  for (; bits != 0; bits &= bits - 1) act(static_cast<std::uint32_t>(std::countr_zero(bits)));
}

// Whether all of a row hold one value.
template <class T>
[[nodiscard]] MOBRIN_INLINE bool same_values(const T* row) {
  const auto* const bytes = reinterpret_cast<const std::byte*>(row);
  const auto word = load_word<std::uint64_t>(bytes);
  const WordPair first = {word, word};
  WordPair differ{};
  for (std::size_t at = 0; at < kRow * sizeof(T); at += sizeof first)
    differ = differ | (load_word<WordPair>(bytes + at) ^ first);
  return bits_of(differ) == 0 && std::rotl(word, 8 * static_cast<int>(sizeof(T) % sizeof word)) == word;
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
