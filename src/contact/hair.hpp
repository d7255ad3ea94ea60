// What places are rounded by, and what is let pass for it, so that who meets whom at which tick does not hang on where
// a step is cut.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "mobrin/contact/space.hpp"

namespace mobrin::detail {

inline constexpr double kHairOfATick = 1e-4;
inline constexpr double kHair = 1e-12;  // of the numbers that shapes lie at

// By how much places near a shape may be off.
inline double hair(const WorldShape& shape) {
  return kHair * (1 + std::abs(shape.middle.x) + std::abs(shape.middle.y) + shape.half_width + shape.half_height);
}

// The first tick of [begin, end] from a part of it on.
inline Ticks first_tick(Ticks begin, Ticks end, double part) {
  const double ticks = std::ceil(part * static_cast<double>((end - begin).count) - kHairOfATick);
  return Ticks(std::clamp(begin.count + static_cast<std::int64_t>(ticks), begin.count, end.count));
}

}  // namespace mobrin::detail
