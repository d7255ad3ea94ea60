// Zones.
#include "mobrin/contact/zones.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <tuple>

#include "hair.hpp"

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

// Who comes to a border just as the step ends is in or out by what he does next: the next step tells of it. On a border
// along which he goes, or stands, he is in.
void Zones::look_at(const Watched& zone, const Visitor& visitor) {
  const Owner& owner = owners_[zone.owner];
  if (visitor.id == owner.id || !zone.filter.takes(visitor.tags)) return;
  const Inside key{owner.id, zone.zone, visitor.id};
  const auto known = std::lower_bound(inside_.begin(), inside_.end(), key);
  bool inside = known != inside_.end() && *known == key;
  if (inside) seen_[static_cast<std::size_t>(known - inside_.begin())] = true;
  const auto tell = [&](Ticks at, bool entered) { events_.push_back({at, owner.id, zone.zone, visitor.id, entered}); };
  const double hair = detail::hair(zone.shape);
  const auto by = [](Vec2 from, Vec2 to) { return Vec2{to.x - from.x, to.y - from.y}; };
  const Vec2 way = detail::way_between(by(visitor.from, visitor.to), by(owner.from.at, owner.to.at), hair);
  WorldShape point;
  point.middle = visitor.from;
  const auto tick = [&](double part) { return detail::first_tick(from_, to_, part); };
  if (inside && !overlap(zone.shape.grown(margin_ + hair), point)) tell(from_, false), inside = false;
  if (!inside) {
    const auto met = detail::meeting_of(zone.shape, point, way, hair);
    if (!met) return;
    const Ticks in = tick(met->begin);
    if (in >= to_ || (met->end < 1 && in >= tick(met->end))) return;  // off again before the next tick: no visit
    tell(in, true);
  }
  const auto met = detail::meeting_of(zone.shape.grown(margin_), point, way, hair);
  if (!met || met->end < 1) {
    const Ticks out = met ? tick(met->end) : from_;
    if (out < to_) tell(out, false);
  }
}

void Zones::find() {
  events_.clear();
  if (from_ >= to_) return;
  watched_.clear();
  for (std::uint32_t o = 0; o < owners_.size(); ++o) {
    const Machine& machine = owners_[o].instance->machine();
    for (std::uint16_t z = 0; z < machine.zones().size(); ++z) {
      const ZoneDef& zone = machine.zones()[z].def;
      Placement start = owners_[o].from;
      start.faces_left = owners_[o].to.faces_left;
      watched_.push_back({o, z, tags_->filter(zone.tags, {}), to_world(zone.shape, start, machine.unit())});
    }
  }
  // Visitors from left to right; none moves further sideways than `reach`.
  by_x_.resize(visitors_.size());
  std::iota(by_x_.begin(), by_x_.end(), 0u);
  std::sort(by_x_.begin(), by_x_.end(), [&](std::uint32_t a, std::uint32_t b) {
    return std::tuple(visitors_[a].from.x, a) < std::tuple(visitors_[b].from.x, b);
  });
  double reach = 0;
  for (const Visitor& visitor : visitors_) reach = std::max(reach, std::abs(visitor.to.x - visitor.from.x));
  seen_.assign(inside_.size(), false);
  for (const Watched& zone : watched_) {
    const Owner& owner = owners_[zone.owner];
    // A little more than the zone and all ways, so that rounding leaves nobody out.
    const double far =
        (zone.shape.half_width + margin_ + reach + std::abs(owner.to.at.x - owner.from.at.x)) * (1 + 1e-9);
    const auto first = std::lower_bound(by_x_.begin(), by_x_.end(), zone.shape.middle.x - far,
                                        [&](std::uint32_t v, double x) { return visitors_[v].from.x < x; });
    for (auto at = first; at != by_x_.end() && visitors_[*at].from.x <= zone.shape.middle.x + far; ++at) {
      const Visitor& visitor = visitors_[*at];
      const double high = zone.shape.half_height + margin_ + std::abs(visitor.to.y - visitor.from.y) +
                          std::abs(owner.to.at.y - owner.from.at.y);
      if (std::abs(visitor.from.y - zone.shape.middle.y) <= high * (1 + 1e-9)) look_at(zone, visitor);
    }
  }
  // Who was inside and is not even near, or not there any more, has left.
  for (std::size_t i = 0; i < inside_.size(); ++i)
    if (!seen_[i]) events_.push_back({from_, inside_[i].owner, inside_[i].zone, inside_[i].visitor, false});
  std::sort(events_.begin(), events_.end(), [](const ZoneEvent& a, const ZoneEvent& b) {
    return std::tuple(a.at, a.entered, a.owner, a.zone, a.visitor) <
           std::tuple(b.at, b.entered, b.owner, b.zone, b.visitor);
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
      const Machine& machine = owner.instance->machine();
      const ZoneInfo& zone = machine.zones()[event.zone];
      const std::uint16_t pulse = event.entered ? zone.enter : zone.leave;
      if (pulse != kNoIndex) (void)owner.instance->pulse(Pulse{machine.serial(), pulse});
      if (zone.inside == kNoIndex) continue;
      const auto first = std::lower_bound(inside_.begin(), inside_.end(), Inside{event.owner, event.zone, 0});
      const auto last = std::upper_bound(first, inside_.end(), Inside{event.owner, event.zone, 0xffff'ffff});
      if (zone.counts)
        (void)owner.instance->set(Input<std::int32_t>{machine.serial(), zone.inside},
                                  static_cast<std::int32_t>(last - first));
      else
        (void)owner.instance->set(Input<bool>{machine.serial(), zone.inside}, last != first);
    }
  }
  return events_;
}

}  // namespace mobrin
