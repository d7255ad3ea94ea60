// The world: where a machine stands, and its shapes there. x right, y up, in world units.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>

#include "mobrin/core/instance.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin {

/// A point, or a way.
struct Vec2 {
  double x = 0;  ///< right, in world units
  double y = 0;  ///< up, in world units
};

/// Where an instance stands, as the game says: its pivot's place, the way it faces, its size. Facing is not the
/// direction of movement.
struct Placement {
  Vec2 at{};                ///< of the pivot
  bool faces_left = false;  ///< everything relative to the pivot is mirrored
  double scale = 1;         ///< above 0
};

/// No coordinate of a placement lies beyond this.
inline constexpr double kFarthest = 1e9;

/// Whether a placement is sound: finite, within kFarthest, with a scale above 0 and at most 1000000.
[[nodiscard]] bool is_sound(const Placement& placement);

/// A shape in the world: a rectangle by its middle and half sizes, or a circle by its middle and radius.
struct WorldShape {
  Vec2 middle{};           ///< world units
  double half_width = 0;   ///< of a rectangle, in world units
  double half_height = 0;  ///< of a rectangle, in world units
  double radius = 0;       ///< above 0: a circle
  /// Whether it is a circle, and not a rectangle.
  [[nodiscard]] bool is_circle() const { return radius > 0; }
  /// The same, larger on all sides by so many world units.
  [[nodiscard]] WorldShape grown(double by) const;
};

/// A point given in pixels from the pivot (x forward, y up), in the world. `unit` is Machine::unit().
[[nodiscard]] Vec2 to_world(Vec2 pixels, const Placement& placement, double unit);
/// A rectangle or circle given in pixels from the pivot, in the world. REQUIRES: it is no cone.
[[nodiscard]] WorldShape to_world(const Shape& shape, const Placement& placement, double unit);

/// Whether two shapes overlap; touching counts.
[[nodiscard]] bool overlap(const WorldShape& a, const WorldShape& b);

/// The part of a straight move in which two shapes overlap: `b` moves by `way` against `a` while time runs from 0 to 1.
/// Empty where they never do.
struct Meeting {
  double begin = 0;  ///< part of the move, 0 to 1
  double end = 0;    ///< part of the move, 0 to 1
};
[[nodiscard]] std::optional<Meeting> meeting(const WorldShape& a, const WorldShape& b, Vec2 way);

/// A box of what an instance shows, in the world.
struct ActiveBox {
  const BoxDef* box = nullptr;  ///< lives as long as the machine
  std::uint16_t region = 0;     ///< index into Machine::regions()
  std::uint16_t clip = 0;       ///< index into Machine::clips()
  WorldShape shape{};           ///< in world units
};

/// The boxes that are there now: those of the clip each region shows (of a fade or a blend: the one that was entered,
/// the heaviest), by region and in file order; computed when asked. Returns their number; those for which `out` has no
/// room are left out. Mirrored clips of a blend mirror their boxes. An unsound placement has none.
std::size_t boxes(const Instance& instance, const Placement& placement, std::span<ActiveBox> out);

/// A walker's direction as a blend takes it: 1 is walking speed.
struct LocalDirection {
  double forward = 0;  ///< along the way it faces; 1: at walking speed
  double right = 0;    ///< to its right, likewise
};
/// `velocity` over `walk_speed`, seen along `facing` (any length above 0). Formula: the dot products with the facing
/// and with its right. Without a sound facing or speed both are 0.
[[nodiscard]] LocalDirection local_direction(Vec2 velocity, Vec2 facing, double walk_speed);

/// One of four or eight headings: 0 is right (+x), then counter-clockwise. Keeps `before` unless another fits better by
/// more than `slack` (a part of the speed; 0 for none), so that it does not flicker at a border; keeps it at rest too.
/// REQUIRES: `count` is 4 or 8, `before` below it.
[[nodiscard]] int heading(Vec2 velocity, int count, int before, double slack = 0.1);

}  // namespace mobrin
