// What one machine may hold; compile() refuses more.
#pragma once

#include <cstddef>
#include <cstdint>

namespace mobrin::detail {

inline constexpr double kLeastGrain = 1.401298464324817e-45;  // the least number in 32 bits
inline constexpr double kMaxPixelsFromPivot = 1'000'000;  // of boxes and offsets
inline constexpr std::size_t kMaxStates = 10'000;
inline constexpr std::size_t kMaxRegions = 64;
inline constexpr std::size_t kMaxTransitions = 100'000;
inline constexpr std::size_t kMaxInputs = 1'000;
inline constexpr std::size_t kMaxCues = 1'024;
inline constexpr std::size_t kMaxClips = 4'096;
inline constexpr std::size_t kMaxFrames = 10'000;
inline constexpr std::size_t kMaxFramesOfAll = 500'000;  // of all clips together
inline constexpr std::size_t kMaxSequence = 256;
inline constexpr std::size_t kMaxSegments = 100'000;
inline constexpr std::size_t kMaxSegmentsOfAll = 1'000'000;  // of all that states play in turn
inline constexpr std::size_t kMaxMarksOfClip = 4'096;
inline constexpr std::size_t kMaxMarksOfCycle =
    65'535;  // of all clips that a state plays in turn: a Firing counts in 16 bits
inline constexpr std::size_t kMaxWindowNames = 65'535;      // kNoIndex is none
inline constexpr std::size_t kMaxWindowsAskedFor = 65'535;  // `during:`, likewise
inline constexpr std::size_t kMaxTags = 64;                 // a bit each
inline constexpr std::size_t kMaxTraits = 64;
inline constexpr std::size_t kMaxDepth = 32;
inline constexpr std::int32_t kMaxPasses = 10'000;

}  // namespace mobrin::detail
