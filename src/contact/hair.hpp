// What places are rounded by, and what is let pass for it, so that who meets whom at which tick does not hang on where
// a step is cut.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>

#include "mobrin/contact/space.hpp"

namespace mobrin::detail {

inline constexpr double kHairOfATick = 1e-4;
inline constexpr double kHair = 1e-12;    // of the numbers that shapes lie at
inline constexpr double kTouches = 1e-9;  // of the longest way through a circle, squared

// By how much places near a shape may be off.
inline double hair(const WorldShape& shape) {
  return kHair * (1 + std::abs(shape.middle.x) + std::abs(shape.middle.y) + shape.half_width + shape.half_height);
}

// How far one moves against another; what rounding alone makes of places is no way.
inline Vec2 way_between(Vec2 one, Vec2 other, double hair) {
  const auto part = [&](double by, double others) { return std::abs(by - others) > hair ? by - others : 0; };
  return {part(one.x, other.x), part(one.y, other.y)};
}

// As meeting(), of shapes that touch where they do not move against each other: they do so all the while.
inline std::optional<Meeting> meeting_of(WorldShape shape, const WorldShape& other, Vec2 way, double hair) {
  if (way.x == 0 && way.y == 0) return meeting(shape.grown(hair), other, way);
  if (!shape.is_circle()) shape.half_width += way.x == 0 ? hair : 0, shape.half_height += way.y == 0 ? hair : 0;
  return meeting(shape, other, way);
}

// As meeting_of(), of those too who graze each other, which rounding makes or unmakes: at the middle of the moment in
// which they are as near as that.
inline std::optional<Meeting> grazing_of(const WorldShape& shape, const WorldShape& other, Vec2 way, double hair) {
  if (const auto met = meeting_of(shape, other, way, hair)) return met;
  auto met = meeting(shape.grown(hair), other, way);
  if (!met || (met->begin <= 0 && met->end >= 1)) return met;
  const double at = met->begin <= 0 ? 0 : met->end >= 1 ? 1 : (met->begin + met->end) / 2;
  return Meeting{at, at};
}

// A distance, by which the nearest come first: in billionths, so that equal ones are equal however they were computed.
inline double rank(double distance) { return std::nearbyint(distance * 1e9); }

// The first tick of [begin, end] from a part of it on.
inline Ticks first_tick(Ticks begin, Ticks end, double part) {
  const double ticks = std::ceil(part * static_cast<double>((end - begin).count) - kHairOfATick);
  return Ticks(std::clamp(begin.count + static_cast<std::int64_t>(ticks), begin.count, end.count));
}

}  // namespace mobrin::detail
