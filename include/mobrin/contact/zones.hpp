// Zones: who comes near, and the inputs that say so.
#pragma once

#include <cstdint>
#include <vector>

#include "mobrin/contact/reach.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin {

/// Somebody who may enter a zone: a point (its pivot) that moves straight over the step.
struct Visitor {
  std::uint32_t id = 0;  ///< the game's own
  Tags tags = 0;         ///< what the zone's filter asks for
  Vec2 from{};           ///< world units, at the step's begin
  Vec2 to{};             ///< at its end
};

/// Somebody comes into a zone or goes out of it.
struct ZoneEvent {
  Ticks at{};                 ///< the exact instant
  std::uint32_t owner = 0;    ///< whose zone it is
  std::uint16_t zone = 0;     ///< index into the machine's zones()
  std::uint32_t visitor = 0;  ///< who came or went
  bool entered = false;       ///< else left
};

/// Watches the zones of machines and fills their inputs. Events come in the order of their instants; at one instant
/// leaving before entering, then by owner, zone and visitor. Nobody enters his own zone.
///
/// A border belongs to its zone for who stands on it or goes along it. Who comes to one just as a step ends is told of
/// by the next step, which knows where he goes on; where no time passes nobody comes or goes. So the events are the
/// same however time is cut.
///
/// The order of a step: advance all machines, work off the hits (Contacts::resolve), then resolve() here: it writes to
/// the owners at the end of the step, and what they make of it begins with the next.
///
/// A plain value; copy it with the blocks for a rollback. Allocates while its lists grow, not afterwards. Who is far
/// from all zones costs next to nothing.
class Zones {
 public:
  /// `tags` is owned by the caller and kept alive, also for copies. `margin`, in world units from 0 on: who is inside
  /// leaves only where a zone that is larger by it on all sides ends, so that hovering on an edge does not flicker.
  explicit Zones(TagNames& tags, double margin = 0) : tags_(&tags), margin_(margin > 0 ? margin : 0) {}

  /// Begins a step over [from, to): what falls on `to` is the next step's. Who was inside and is not added again has
  /// left at `from`.
  void begin(Ticks from, Ticks to);
  /// A machine with zones. The instance is written to by resolve() and stays the caller's. False where a placement is
  /// not sound.
  bool add_owner(std::uint32_t id, Instance& instance, const Placement& from, const Placement& to);
  /// False where a point is not sound.
  bool add_visitor(const Visitor& visitor);

  /// Finds the events, writes the owners' inputs (`inside` as it is in the end; pulses for each that came) and returns
  /// the events; valid until the next begin(). `until`: later ones are left for the next step.
  std::span<const ZoneEvent> resolve(Ticks until);
  /// The same with those whom add() and move() have told of.
  std::span<const ZoneEvent> resolve() { return resolve(to_); }
  /// The first instant at which somebody enters or leaves; false for none. Writes nothing.
  [[nodiscard]] bool first_instant(Ticks& at);

 private:
  friend class Arena;
  struct Owner {
    std::uint32_t id = 0;
    Instance* instance = nullptr;
    Placement from{}, to{};
  };
  struct Inside {
    std::uint32_t owner = 0;
    std::uint16_t zone = 0;
    std::uint32_t visitor = 0;
    friend bool operator==(const Inside&, const Inside&) = default;
    friend auto operator<=>(const Inside&, const Inside&) = default;
  };
  struct Watched {            // a zone in this step
    std::uint32_t owner = 0;  // into owners_
    std::uint16_t zone = 0;
    TagFilter filter;
    WorldShape shape{};
  };
  void find();
  void look_at(const Watched& zone, const Visitor& visitor);

  TagNames* tags_;
  Ticks from_{}, to_{};
  detail::List<Owner> owners_;
  detail::List<Visitor> visitors_;
  double margin_;
  detail::List<Watched> watched_;
  detail::List<std::uint32_t> by_x_;  // visitors, from left to right
  detail::List<Inside> inside_;       // sorted
  detail::List<bool> seen_;           // beside inside_
  detail::List<ZoneEvent> events_;
};

}  // namespace mobrin
