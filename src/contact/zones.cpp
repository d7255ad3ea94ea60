// Zones.
#include "mobrin/contact/zones.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace mobrin {

void Zones::begin(Ticks from, Ticks to) {
  from_ = from;
  to_ = to;
  owners_.clear();
  visitors_.clear();
  events_.clear();
}

bool Zones::add_owner(std::uint32_t id, Instance& instance, const Placement& from, const Placement& to) {
  if (!is_sound(from) || !is_sound(to)) return false;
  owners_.push_back({id, &instance, from, to});
  return true;
}

bool Zones::add_visitor(const Visitor& visitor) {
  if (!is_sound({visitor.from}) || !is_sound({visitor.to})) return false;
  visitors_.push_back(visitor);
  return true;
}

void Zones::find() {
  events_.clear();
  const auto was_inside = [&](const Inside& key) { return std::binary_search(inside_.begin(), inside_.end(), key); };
  std::vector<Inside> seen;
  for (const Owner& owner : owners_) {
    const Machine& machine = owner.instance->machine();
    for (std::uint16_t z = 0; z < machine.zones().size(); ++z) {
      const ZoneDef& zone = machine.zones()[z].def;
      const Tags wanted = tags_->bits(zone.tags);
      Placement start = owner.from;
      start.faces_left = owner.to.faces_left;
      const WorldShape shape = to_world(zone.shape, start, machine.unit());
      for (const Visitor& visitor : visitors_) {
        if (visitor.id == owner.id || (!zone.tags.empty() && (visitor.tags & wanted) == 0)) continue;
        const Inside key{owner.id, z, visitor.id};
        WorldShape point;
        point.middle = visitor.from;
        const Vec2 way{visitor.to.x - visitor.from.x - (owner.to.at.x - owner.from.at.x),
                       visitor.to.y - visitor.from.y - (owner.to.at.y - owner.from.at.y)};
        const auto met = meeting(shape, point, way);
        const auto instant = [&](double part) {
          const double ticks = std::ceil(part * static_cast<double>((to_ - from_).count) - 1e-6);
          return Ticks(std::clamp(from_.count + static_cast<std::int64_t>(ticks), from_.count, to_.count));
        };
        seen.push_back(key);
        bool inside = was_inside(key);
        // Who is out from the beginning on has left; who comes in does so where the way meets the zone.
        if (inside && (!met || met->begin > 0))
          events_.push_back({from_, owner.id, z, visitor.id, false}), inside = false;
        // On the border and off again within a tick is no visit: where a step was cut, it would come twice.
        const bool stays = way.x == 0 && way.y == 0;
        if (!met || (!inside && !stays && (met->end - met->begin) * static_cast<double>((to_ - from_).count) <= 1))
          continue;
        if (!inside) events_.push_back({instant(met->begin), owner.id, z, visitor.id, true});
        if (met->end < 1) events_.push_back({instant(met->end), owner.id, z, visitor.id, false});
      }
    }
  }
  std::sort(seen.begin(), seen.end());
  for (const Inside& key : inside_)
    if (!std::binary_search(seen.begin(), seen.end(), key))
      events_.push_back({from_, key.owner, key.zone, key.visitor, false});
  std::stable_sort(events_.begin(), events_.end(), [](const ZoneEvent& a, const ZoneEvent& b) {
    if (a.at != b.at) return a.at < b.at;
    if (std::tie(a.owner, a.zone, a.visitor) == std::tie(b.owner, b.zone, b.visitor)) return false;  // as they happened
    if (a.entered != b.entered) return !a.entered;
    return std::tie(a.owner, a.zone, a.visitor) < std::tie(b.owner, b.zone, b.visitor);
  });
}

bool Zones::first_instant(Ticks& at) {
  find();
  if (!events_.empty()) at = events_.front().at;
  return !events_.empty();
}

std::span<const ZoneEvent> Zones::resolve(Ticks until) {
  find();
  std::erase_if(events_, [&](const ZoneEvent& event) { return event.at > until; });
  for (const ZoneEvent& event : events_) {
    const Inside key{event.owner, event.zone, event.visitor};
    const auto at = std::lower_bound(inside_.begin(), inside_.end(), key);
    if (event.entered && (at == inside_.end() || *at != key)) inside_.insert(at, key);
    if (!event.entered && at != inside_.end() && *at == key) inside_.erase(at);
    for (const Owner& owner : owners_) {
      if (owner.id != event.owner) continue;
      const ZoneInfo& zone = owner.instance->machine().zones()[event.zone];
      const std::uint16_t pulse = event.entered ? zone.enter : zone.leave;
      if (pulse != kNoIndex) (void)owner.instance->pulse_by_name(owner.instance->machine().inputs()[pulse].name.text);
      if (zone.inside == kNoIndex) continue;
      const auto count = std::count_if(inside_.begin(), inside_.end(), [&](const Inside& each) {
        return each.owner == event.owner && each.zone == event.zone;
      });
      const FieldValue value = zone.counts ? FieldValue(static_cast<std::int64_t>(count)) : FieldValue(count > 0);
      (void)owner.instance->set_by_name(owner.instance->machine().inputs()[zone.inside].name.text, value);
    }
  }
  return events_;
}

}  // namespace mobrin
