// Reaches.
#include "mobrin/contact/reach.hpp"

#include <algorithm>
#include <cmath>

#include "hair.hpp"

namespace mobrin {
namespace {

constexpr double kPi = 3.14159265358979323846;

// Edges belong to a shape, within this part of the distance: what lies on one to the last digits is on it.
constexpr double kEdge = 1e-12;

// Whether a circle overlaps a sector with its tip at 0 that opens along +x.
bool in_sector(Vec2 at, double radius, double length, double half_angle) {
  const double distance = std::sqrt(at.x * at.x + at.y * at.y);
  if (distance > (length + radius) * (1 + kEdge)) return false;
  const double cosine = std::cos(half_angle), sine = std::sin(half_angle);
  if (at.x >= cosine * distance - kEdge * distance) return true;
  // Beside it: the nearest point of the nearer edge.
  const double y = std::abs(at.y);
  const double along = std::clamp(at.x * cosine + y * sine, 0.0, length);
  const double dx = at.x - along * cosine, dy = y - along * sine;
  return dx * dx + dy * dy <= radius * radius * (1 + kEdge);
}

}  // namespace

Tags TagNames::bit(std::string_view tag) {
  for (std::size_t i = 0; i < names_.size(); ++i)
    if (names_[i] == tag) return Tags{1} << i;
  if (tag == "self") return 0;
  if (names_.size() >= 64) {
    ++refused_;
    return 0;
  }
  names_.emplace_back(tag);
  return Tags{1} << (names_.size() - 1);
}

Tags TagNames::bits(std::span<const std::string> tags) {
  Tags out = 0;
  for (const std::string& tag : tags) out |= bit(tag);
  return out;
}

TagFilter TagNames::filter(std::span<const std::string> only, std::span<const std::string> spares) {
  TagFilter out;
  out.all = only.empty();
  out.only = bits(only);
  for (const std::string& tag : spares) {
    const Tags one = bit(tag);
    // Whom it should spare cannot be told from others: it finds nobody.
    if (one == 0 && tag != "self") return {0, 0, false};
    out.spares |= one;
  }
  return out;
}

const ReachDef* reach_of(const Cue& cue, const Machine& machine) {
  const std::string_view name = cue.text("reach");
  for (const ReachDef& reach : machine.reaches())
    if (reach.name.text == name) return &reach;
  return nullptr;
}

std::size_t targets(const ReachDef& reach, const Placement& origin, double unit, std::uint32_t self,
                    std::span<const Candidate> candidates, TagNames& tags, std::vector<Target>& out) {
  out.clear();
  if (!is_sound(origin)) return 0;
  const TagFilter filter = tags.filter(reach.hits, reach.spares);
  const auto* cone = std::get_if<ConeShape>(&reach.shape);
  const double scale = origin.scale / unit;
  const Vec2 from = cone != nullptr ? to_world({cone->x, cone->y}, origin, unit) : origin.at;
  for (const Candidate& each : candidates) {
    const bool wanted = filter.takes(each.tags);
    if (!each.alive || each.id == self || !wanted || !is_sound({each.at}) || !(each.radius >= 0)) continue;
    const Vec2 way{each.at.x - from.x, each.at.y - from.y};
    bool inside = false;
    if (cone != nullptr) {
      inside = in_sector({origin.faces_left ? -way.x : way.x, way.y}, each.radius, cone->length * scale,
                         cone->angle / 360 * kPi);
    } else {
      WorldShape body;
      body.middle = each.at;
      body.radius = each.radius;
      body.half_width = body.half_height = each.radius;
      inside = overlap(to_world(reach.shape, origin, unit), body);
    }
    if (inside) out.push_back({each.id, std::sqrt(way.x * way.x + way.y * way.y)});
  }
  std::sort(out.begin(), out.end(), [](const Target& a, const Target& b) {
    return detail::rank(a.distance) != detail::rank(b.distance) ? a.distance < b.distance : a.id < b.id;
  });
  return out.size();
}

}  // namespace mobrin
