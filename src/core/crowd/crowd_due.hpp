// Which of some instants that lie together are due, a bit each, without a branch that depends on them.
#pragma once

#include <cstring>

#include "crowd/crowd_wakes.hpp"

namespace mobrin::detail {

inline constexpr std::uint32_t kDueTogether = 8;  // how many 32-bit instants are compared at once
static_assert(CrowdWakes::kTogether == 8);

// Of fewer.
[[nodiscard]] inline std::uint32_t due_among(const CoarseWake* soonest, std::uint32_t count, CoarseWake limit) {
  std::uint32_t bits = 0;
  for (std::uint32_t i = 0; i < count; ++i) bits |= (soonest[i] <= limit ? 1u : 0u) << i;
  return bits;
}

#if defined(__GNUC__) && defined(__SSE2__)

using FourInts = std::int32_t __attribute__((vector_size(16)));
using FourFloats = float __attribute__((vector_size(16)));
[[nodiscard]] inline std::uint32_t signs_of(FourInts four) {
  return static_cast<std::uint32_t>(__builtin_ia32_movmskps(reinterpret_cast<FourFloats>(four)));
}

[[nodiscard]] inline std::uint32_t due_among(const CoarseWake* soonest, CoarseWake limit) {
  const FourInts most = {limit, limit, limit, limit};
  FourInts after[2];
  std::memcpy(after, soonest, sizeof after);
  for (FourInts& four : after) four = four > most;
  return (signs_of(after[0]) | signs_of(after[1]) << 4) ^ 0xff;
}
// Of a row of wakes: the signs of the differences.
[[nodiscard]] inline std::uint32_t due_among(const std::int64_t* wakes, std::int64_t limit) {
  using Two = std::int64_t __attribute__((vector_size(16)));
  using TwoDoubles = double __attribute__((vector_size(16)));
  const Two most = {limit + 1, limit + 1};
  Two before[CrowdWakes::kTogether / 2];
  std::memcpy(before, wakes, sizeof before);
  for (Two& pair : before) pair -= most;
  const auto signs = [](Two pair) {
    return static_cast<std::uint32_t>(__builtin_ia32_movmskpd(reinterpret_cast<TwoDoubles>(pair)));
  };
  return signs(before[0]) | signs(before[1]) << 2 | signs(before[2]) << 4 | signs(before[3]) << 6;
}

#else

[[nodiscard]] inline std::uint32_t due_among(const CoarseWake* soonest, CoarseWake limit) {
  return due_among(soonest, kDueTogether, limit);
}
[[nodiscard]] inline std::uint32_t due_among(const std::int64_t* wakes, std::int64_t limit) {
  std::uint32_t bits = 0;
  for (std::uint32_t i = 0; i < CrowdWakes::kTogether; ++i) bits |= (wakes[i] <= limit ? 1u : 0u) << i;
  return bits;
}

#endif

}  // namespace mobrin::detail
