// Contacts: who hits whom within a step, each swing each target once.
#pragma once

#include <cstdint>
#include <vector>

#include "mobrin/contact/reach.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin {

/// Somebody who may hit or be hit in a step. Plain value.
struct Participant {
  std::uint32_t id = 0;  ///< the game's own; one in a step
  Tags tags = 0;         ///< what boxes that name tags ask for
  bool alive = true;     ///< false: neither hits nor is hit
  Placement from{};      ///< at the step's begin
  Placement to{};        ///< at its end; straight in between. Faces as it says all the step
};

/// A box of something that is no machine, such as a stone that is thrown or a wall that stings.
struct PlainBox {
  bool hits = false;        ///< else it can be hit
  Shape shape{};            ///< in pixels, as of a machine with `unit` pixels to a world unit
  double unit = 32;         ///< pixels to a world unit; above 0
  Tags only = 0;            ///< of what hits: whom, 0 for all
  Tags spares = 0;          ///< whom it does not hit
  Ticks every{};            ///< as BoxDef::every
  std::uint32_t swing = 0;  ///< another number is another swing; remembered while it is added each step
};

/// One hit. Pointers live as long as the machines; null for plain boxes.
struct Hit {
  Ticks at{};                        ///< the first instant at which both boxes touch
  std::uint32_t by = 0;              ///< id of who hits
  std::uint32_t on = 0;              ///< id of who is hit
  const BoxDef* hit_box = nullptr;   ///< of the hitting machine; null: a plain box
  const BoxDef* hurt_box = nullptr;  ///< of the machine that is hit; null: a plain box
  double distance = 0;               ///< between the two pivots at that instant
  Vec2 where{};                      ///< the middle between the two boxes' middles
};

/// What a game answers to a hit.
enum class HitAnswer : std::uint8_t {
  lives,
  dies,    ///< the target neither hits nor is hit at later instants of this step
  misses,  ///< as if it had not been: the swing may still hit this target, with other boxes or in the next step
};

/// Finds hits within steps. Boxes are taken at the frames that were shown within the step and move with their
/// participants, so nothing tunnels between steps. A swing begins when the box's region enters a state or tells a cue
/// of the kind `damage`; it hits each target once, or again after the box's `every`. Hits are worked off by instant:
/// what dies at one instant does nothing at a later one. At one instant they come by the id of who hits, then nearest
/// first, then by the id of who is hit; the order of adding changes nothing. Nobody hits himself.
///
/// Who takes part in no step for kForgotten is forgotten, with his swings: an id may be given anew after that.
///
/// A plain value: copy it with the blocks for a rollback. Allocates while its lists grow, not afterwards. Not
/// thread-safe.
class Contacts {
 public:
  static constexpr Ticks kForgotten = milliseconds(10'000);  ///< the game's time

  /// Tags of boxes are looked up in `tags`, which the caller owns and keeps alive, also for copies.
  explicit Contacts(TagNames& tags) : tags_(&tags) {}

  /// Begins a step over (from, to] and forgets what was added for the last one. REQUIRES: from <= to.
  void begin(Ticks from, Ticks to);

  /// Covers the rest of the step with `instance` and takes the boxes it shows on the way; `handler` is called as by
  /// Instance::advance. False, and the instance is only advanced, where a placement is not sound.
  template <class Handler>
  bool advance(const Participant& who, Instance& instance, Handler&& handler, Listening listening = kGameRecords) {
    if (instance.now() < from_) (void)instance.begin_at(from_);  // a new one has not lived till now
    const std::size_t index = join(who);
    const auto heard = [&](const Cue& cue) {
      hear(who.id, instance.machine(), cue);
      if ((listening & listen_to(cue.what)) != 0) handler(cue);
    };
    for (int idle = 0; instance.now() < to_ || idle == 0;) {
      const Ticks before = instance.now();
      // What was written takes effect first; then on to what changes the picture.
      (void)instance.advance(Ticks(0), heard, kAllRecords);
      Ticks next = instance.next_change();
      if (next > to_) next = to_;
      if (next <= before) next = idle++ > 64 && before < to_ ? Ticks(before.count + 1) : before;
      take(index, instance, before, next);
      if (next > before) (void)instance.advance(next - before, heard, kAllRecords);
      if (instance.now() > before) idle = 1;
      if (before >= to_) break;
    }
    take(index, instance, instance.now(), instance.now());
    return index != kNobody;
  }

  /// Takes boxes that are there all the step. False where a placement or a shape is not sound.
  bool add(const Participant& who, std::span<const PlainBox> boxes);

  /// Works off the hits: calls `answer(const Hit&)`, which returns a HitAnswer, for each in order.
  template <class Answer>
  void resolve(Answer&& answer) {
    resolve(to_, answer);
  }
  /// The same up to and with `until`; later hits are left for the next step.
  template <class Answer>
  void resolve(Ticks until, Answer&& answer) {
    gather();
    for (const Hit* hit = next(); hit != nullptr && hit->at <= until; hit = next()) settle(answer(*hit));
  }

  /// All hits at the first instant at which there is one, without working them off; for who wants to stop there.
  [[nodiscard]] bool first_instant(Ticks& at);

 private:
  friend class Arena;
  static constexpr std::size_t kNobody = static_cast<std::size_t>(-1);
  struct Noted {  // a box while it stood still on its participant
    std::uint32_t who = 0;
    Ticks begin{}, end{};
    WorldShape at_begin{};
    Vec2 way{};  // from begin to end
    const BoxDef* box = nullptr;
    TagFilter filter;
    Ticks every{};
    std::uint64_t swing = 0;
  };
  struct Key {
    std::uint64_t by = 0, swing = 0;  // who hit whom; with which swing
    friend auto operator<=>(const Key&, const Key&) = default;
  };
  struct Missed {  // boxes that were answered to miss in this step
    Key key;
    const BoxDef *hit = nullptr, *hurt = nullptr;
    friend bool operator==(const Missed&, const Missed&) = default;
  };
  struct Pair {
    Ticks at{}, until{};
    std::uint32_t by = 0, on = 0;  // into noted hits and hurts
    double distance = 0;
  };
  // The swings of a participant's region, sorted by `of`.
  struct Swings {
    std::uint64_t of = 0;
    Ticks seen{};  // the end of the last step it took part in
    std::uint32_t number = 0;
  };

  // Where a swing's last hit on a target is remembered, or would be.
  [[nodiscard]] detail::List<std::pair<Key, Ticks>>::iterator remembered(const Key& key);
  [[nodiscard]] Key key_of(const Pair& pair) const;
  [[nodiscard]] Missed missed_of(const Pair& pair) const;
  void forget_old_swings();
  // Begins another part of the same step.
  void go_on(Ticks from, Ticks to);
  std::size_t join(const Participant& who);
  void hear(std::uint32_t id, const Machine& machine, const Cue& cue);
  void take(std::size_t index, const Instance& instance, Ticks begin, Ticks end);
  void note(std::size_t index, Noted box, const Shape& shape, double unit, bool mirrored, bool hits);
  [[nodiscard]] Placement placed(const Participant& who, Ticks at) const;
  [[nodiscard]] const TagFilter& filter_of(const Machine& machine, const ActiveBox& active);
  [[nodiscard]] detail::List<Swings>::iterator place_of(std::uint64_t of);
  [[nodiscard]] Swings& swings_of(std::uint32_t id, std::uint16_t region);
  void forget_the_gone();
  void gather();
  void find_pairs();
  void look_at(std::uint32_t hit, std::uint32_t hurt);
  void move_to(Pair& pair, Ticks at) const;
  [[nodiscard]] bool before(const Pair& a, const Pair& b) const;
  const Hit* next();
  void settle(HitAnswer answer);

  TagNames* tags_;
  Ticks from_{}, to_{};
  detail::List<Participant> who_;
  detail::List<Ticks> died_;  // beside who_
  detail::List<Noted> hits_, hurts_;
  detail::List<Missed> missed_;
  detail::List<Pair> pairs_;                                                    // a heap, the soonest first
  detail::List<std::uint32_t> starts_, filled_, standing_, large_, looked_at_;  // of the grid
  Pair current_{};
  Hit hit_{};
  struct BoxFilter {
    std::uint64_t box = 0;  // machine, clip and place in the clip
    TagFilter filter;
  };
  detail::List<Swings> swings_;
  detail::List<std::pair<Key, Ticks>> last_;  // when a swing last hit a target; sorted
  detail::List<BoxFilter> filters_;           // sorted
  detail::List<ActiveBox> shown_boxes_;       // of one participant
};

}  // namespace mobrin
