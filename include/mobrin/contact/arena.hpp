// Arena: a whole step of those who meet, cut at the very instants at which one changes what happens to another.
#pragma once

#include <cstdint>
#include <deque>
#include <span>
#include <vector>

#include "mobrin/contact/contacts.hpp"
#include "mobrin/contact/zones.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin {

class Arena;

/// What a game makes of what happens in a step: derive from it and override what you need. What it writes, to anybody
/// of the arena (see Arena::instance), takes effect at the instant it is told of. It must not call add(), begin() or
/// run() of the arena.
class ArenaGame {
 public:
  virtual ~ArenaGame() = default;
  /// Somebody's record: all kinds are told. What is written here takes effect at the cue's own instant only where
  /// acts_at() says so; else where the arena is cut next, or at the end of the step.
  virtual void told(std::uint32_t id, const Cue& cue) { (void)id, (void)cue; }
  /// Whether the game writes something at this record: the step is cut there. Asked more than once for a record.
  virtual bool acts_at(std::uint32_t id, const Cue& cue) {
    (void)id, (void)cue;
    return false;
  }
  /// One hits another. HitAnswer::dies is for what has no trait `dead`: it takes no part in the rest of the step.
  virtual HitAnswer hit(const Hit& hit) {
    (void)hit;
    return HitAnswer::lives;
  }
  /// All records and hits of an instant have been told; zones come after.
  virtual void settled(Ticks at) { (void)at; }
  /// Somebody enters or leaves a zone; its inputs are written already.
  virtual void zone(const ZoneEvent& event) { (void)event; }
  /// A record of a member that is in no arena, though others of its crowd are.
  virtual void aside(Crowd& crowd, const CrowdCue& cue) { (void)crowd, (void)cue; }
};

/// Does the whole order of a step for instances and members of crowds: what was written takes effect, then all advance,
/// and where one hits another, enters a zone or leaves it, dies, comes back to life or is done, everybody stops at that
/// very instant, the game answers, and what it wrote takes effect there, before anything later. So one step of a second
/// does what sixty do, whoever was added first. Scenes run on it.
///
/// Dead, and so neither hitting nor hit, is who is done, who is in a state with the trait `dead`, and who is added with
/// `alive = false`. Who was done when a part of the step begins enters no zones.
///
/// At one instant: the records of all in the order of adding, then hits in the order of Contacts, then, with what those
/// brought about done, zones in the order of Zones; what falls on the step's end is told by the next step. Allocates
/// while its lists grow, not afterwards. A step without events advances everybody once, each instant with events twice
/// more. Not thread-safe.
class Arena {
 public:
  /// `tags` is owned by the caller and kept alive. `margin`: as of Zones.
  explicit Arena(TagNames& tags, double margin = 0)
      : tags_(&tags), kept_{Contacts(tags), Zones(tags, margin)}, saved_(kept_) {}
  Arena(const Arena&) = delete;
  Arena& operator=(const Arena&) = delete;

  /// Begins a step over (from, to] and forgets who was added for the last one. REQUIRES: from <= to.
  void begin(Ticks from, Ticks to);
  /// Somebody who takes part: stays the caller's, and where it is until the step has run. Instances that were never
  /// advanced begin at the step's begin. False, with nobody added, where the id is taken or the clock is past the
  /// step's begin; false for a placement that is not sound: then it is advanced only.
  bool add(const Participant& who, Instance& instance);
  /// A member of a crowd. The crowd is advanced with the step, so do not advance it yourself; its other members tell
  /// ArenaGame::aside. False too where the member is gone or the crowd's clock is not at the step's begin.
  bool add(const Participant& who, Crowd& crowd, Member member);
  /// Boxes of what is no machine. False, with nobody added, as Contacts::add.
  bool add(const Participant& who, std::span<const PlainBox> boxes);

  /// Runs the step. Whether something was answered at its last instant, which takes effect with the next step: one of
  /// no time, from there to there, would do it now. False too where 64 such answers in a row
  /// brought about further ones: then the step goes on a millisecond later.
  bool run(ArenaGame& game);
  /// Runs what happens at the step's begin alone: nobody's time goes on. For who stops there and wants to know who is
  /// in which zone, of those too who are on a border. Whether something was answered, as of run().
  bool run_begin(ArenaGame& game);

  /// For ArenaGame's functions: the step ends at the instant that is being told; now() says how far it came. For games
  /// in which somebody moves another way from then on.
  void end_here() { ends_ = true; }

  /// Who has this id in the step, to be written to and read; of a member of a crowd what stands for it until the step
  /// has run. Null for nobody and for plain boxes.
  [[nodiscard]] Instance* instance(std::uint32_t id);
  /// How far the step has come.
  [[nodiscard]] Ticks now() const { return now_; }
  /// Where somebody of the step stands at an instant of it. REQUIRES: he was added.
  [[nodiscard]] Placement placement(std::uint32_t id, Ticks at) const;

  /// What is remembered between steps: who was hit by which swing, who is in which zone. Copy it with the blocks for a
  /// rollback.
  struct Memory {
    Contacts contacts;  ///< who was hit by which swing
    Zones zones;        ///< who is in which zone
    int restless = 0;   ///< instants in a row at which time stood still
  };
  /// As it is now.
  [[nodiscard]] const Memory& memory() const { return kept_; }
  /// Of this arena, or of another whose tags have the same bits.
  void recall(const Memory& memory);

 private:
  struct Fighter {
    Participant who;
    Instance* instance = nullptr;  // null: plain boxes
    std::uint32_t crowd = kNone;   // into crowds_, or first of plain_
    Member member{};
    std::uint32_t boxes = 0;
    std::uint16_t dead = kNoIndex;  // the trait
    std::optional<State> forced{};  // what its instance waited to be forced to when that was saved
    bool out = false;               // killed by an answer in this step
    bool was_alive = true;          // when the part that is covered began
    bool was_gone = false;
  };
  struct Host {  // a crowd that takes part
    Crowd* crowd = nullptr;
    std::deque<Instance, detail::StoppingAllocator<Instance>> stand_ins;
    std::size_t used = 0;
  };
  struct Record {
    std::uint32_t fighter = 0;
    std::uint32_t order = 0;  // in which it came
    Cue cue{};
  };
  static constexpr std::uint32_t kNone = 0xffff'ffff;

  bool run(ArenaGame& game, Ticks until);
  bool join(Fighter fighter);
  [[nodiscard]] std::size_t find(std::uint32_t id) const;
  [[nodiscard]] Placement placed(const Fighter& fighter, Ticks at) const;
  [[nodiscard]] bool alive(const Fighter& fighter) const;
  void lend();
  void give_back(ArenaGame& game);
  void save();
  void go_back();
  void cover(Ticks to, ArenaGame& game);
  void cover_part(Ticks to, ArenaGame& game);
  bool answer(Ticks begun, Ticks at, ArenaGame& game);

  TagNames* tags_;
  Memory kept_;
  Ticks from_{}, to_{}, now_{};
  detail::List<Fighter> fighters_;
  detail::List<std::pair<std::uint32_t, std::uint32_t>> by_id_;  // id and index, sorted
  detail::List<PlainBox> plain_;
  std::deque<Host, detail::StoppingAllocator<Host>> hosts_;
  CrowdCues asides_{detail::stopping_memory()};
  detail::List<Record> records_;
  bool ends_ = false;
  Ticks stop_{};  // the first instant of what was covered at which somebody dies, rises, is gone, or the game acts
  Memory saved_;
  detail::List<std::byte> blocks_;
};

}  // namespace mobrin
