// Shapes in the world, and when moving ones meet.
#include "mobrin/contact/space.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "hair.hpp"

namespace mobrin {
namespace {

bool sound(double value) { return value >= -kFarthest && value <= kFarthest; }

// Where 0 + t * way lies within [-half, half] of both axes.
std::optional<Meeting> in_slabs(Vec2 from, Vec2 way, double half_width, double half_height) {
  Meeting out{0, 1};
  const auto clip = [&](double at, double speed, double half) {
    if (speed == 0) return at >= -half && at <= half;
    double first = (-half - at) / speed, last = (half - at) / speed;
    if (first > last) std::swap(first, last);
    out.begin = std::max(out.begin, first);
    out.end = std::min(out.end, last);
    return out.begin <= out.end;
  };
  if (!clip(from.x, way.x, half_width) || !clip(from.y, way.y, half_height)) return std::nullopt;
  return out;
}

std::optional<Meeting> in_circle(Vec2 from, Vec2 way, double radius) {
  const double a = way.x * way.x + way.y * way.y;
  if (a == 0) return from.x * from.x + from.y * from.y <= radius * radius ? std::optional(Meeting{0, 1}) : std::nullopt;
  // Half of the way through it, squared; one as short as rounding makes it is that of who only touches it.
  const double b = from.x * way.x + from.y * way.y, past = from.x * way.y - from.y * way.x;
  const double whole = a * radius * radius, through = whole - past * past, touches = detail::kTouches * whole;
  if (through < -touches) return std::nullopt;
  const double root = through < touches ? 0 : std::sqrt(through);
  const Meeting out{std::max(0.0, (-b - root) / a), std::min(1.0, (-b + root) / a)};
  return out.begin <= out.end ? std::optional(out) : std::nullopt;
}

void join(std::optional<Meeting>& all, const std::optional<Meeting>& part) {
  if (!part) return;
  if (!all) {
    all = part;
    return;
  }
  all->begin = std::min(all->begin, part->begin);
  all->end = std::max(all->end, part->end);
}

}  // namespace

WorldShape WorldShape::grown(double by) const {
  return {middle, half_width + by, half_height + by, is_circle() ? radius + by : 0};
}

bool is_sound(const Placement& placement) {
  return sound(placement.at.x) && sound(placement.at.y) && placement.scale > 0 && placement.scale <= 1e6;
}

Vec2 to_world(Vec2 pixels, const Placement& placement, double unit) {
  const double scale = placement.scale / unit;
  return {placement.at.x + (placement.faces_left ? -pixels.x : pixels.x) * scale, placement.at.y + pixels.y * scale};
}

WorldShape to_world(const Shape& shape, const Placement& placement, double unit) {
  const double scale = placement.scale / unit;
  WorldShape out;
  if (const auto* rect = std::get_if<RectShape>(&shape)) {
    out.middle = to_world({rect->left + rect->width / 2, rect->bottom + rect->height / 2}, placement, unit);
    out.half_width = rect->width / 2 * scale;
    out.half_height = rect->height / 2 * scale;
  } else if (const auto* circle = std::get_if<CircleShape>(&shape)) {
    out.middle = to_world({circle->x, circle->y}, placement, unit);
    out.radius = circle->radius * scale;
    out.half_width = out.half_height = out.radius;
  }
  return out;
}

// The way of b's middle seen from a's, against the sum of both shapes. That of a rectangle and a circle is a rectangle
// with rounded corners: two rectangles and four circles, and being convex, what lies between the first and the last
// moment belongs to it.
std::optional<Meeting> meeting(const WorldShape& a, const WorldShape& b, Vec2 way) {
  const Vec2 from{b.middle.x - a.middle.x, b.middle.y - a.middle.y};
  if (a.is_circle() && b.is_circle()) return in_circle(from, way, a.radius + b.radius);
  if (!a.is_circle() && !b.is_circle())
    return in_slabs(from, way, a.half_width + b.half_width, a.half_height + b.half_height);
  const WorldShape& rect = a.is_circle() ? b : a;
  const double radius = a.is_circle() ? a.radius : b.radius;
  std::optional<Meeting> out = in_slabs(from, way, rect.half_width + radius, rect.half_height);
  join(out, in_slabs(from, way, rect.half_width, rect.half_height + radius));
  for (const double x : {-rect.half_width, rect.half_width})
    for (const double y : {-rect.half_height, rect.half_height})
      join(out, in_circle({from.x - x, from.y - y}, way, radius));
  return out;
}

bool overlap(const WorldShape& a, const WorldShape& b) { return meeting(a, b, {}).has_value(); }

std::size_t boxes(const Instance& instance, const Placement& placement, std::span<ActiveBox> out) {
  if (!is_sound(placement)) return 0;
  const Machine& machine = instance.machine();
  std::size_t count = 0;
  for (std::uint16_t region = 0; region < instance.region_count(); ++region) {
    const Shown shown = instance.shown(region);
    if (shown.nothing()) continue;
    const ClipInfo& clip = machine.clips()[shown.clip];
    Placement here = placement;
    here.faces_left = here.faces_left != shown.mirrored;
    for (const BoxDef& box : clip.marks.boxes) {
      const auto holds = [&](const StretchDef& stretch) {
        return clip.holds(stretch, seconds(shown.seconds), shown.frame);
      };
      if (!box.stretches.empty() && std::none_of(box.stretches.begin(), box.stretches.end(), holds)) continue;
      if (count < out.size()) out[count] = {&box, region, shown.clip, to_world(box.shape, here, machine.unit())};
      ++count;
    }
  }
  return count;
}

LocalDirection local_direction(Vec2 velocity, Vec2 facing, double walk_speed) {
  const double length = std::sqrt(facing.x * facing.x + facing.y * facing.y);
  const double scale = length * walk_speed;
  if (!(scale > 0) || !sound(velocity.x) || !sound(velocity.y) || !sound(scale)) return {};
  return {(velocity.x * facing.x + velocity.y * facing.y) / scale,
          (velocity.x * facing.y - velocity.y * facing.x) / scale};
}

int heading(Vec2 velocity, int count, int before, double slack) {
  const double speed = std::sqrt(velocity.x * velocity.x + velocity.y * velocity.y);
  if (!(speed > 0) || !sound(speed)) return before;
  constexpr double kDiagonal = 0.70710678118654752;
  constexpr std::array<Vec2, 8> kAll{{{1, 0},
                                      {kDiagonal, kDiagonal},
                                      {0, 1},
                                      {-kDiagonal, kDiagonal},
                                      {-1, 0},
                                      {-kDiagonal, -kDiagonal},
                                      {0, -1},
                                      {kDiagonal, -kDiagonal}}};
  const auto fit = [&](int index) {
    const Vec2 way = kAll[static_cast<std::size_t>(count == 4 ? 2 * index : index)];
    return (velocity.x * way.x + velocity.y * way.y) / speed;
  };
  int best = before;
  for (int i = 0; i < count; ++i)
    if (fit(i) > fit(best)) best = i;
  return best != before && fit(best) - fit(before) > slack ? best : before;
}

}  // namespace mobrin
