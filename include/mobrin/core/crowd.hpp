// Crowd: many instances of one machine, stepped together. One that has nothing to do costs a comparison.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <type_traits>
#include <vector>

#include "mobrin/core/instance.hpp"
#include "mobrin/core/memory.hpp"

namespace mobrin {

/// A member of a crowd: its place, and a number that a later member of the same place does not share. Keep it as long
/// as you like; once the member is removed it is refused, never taken for another's.
struct Member {
  std::uint32_t place = 0xffff'ffff;                 ///< index, from 0
  std::uint32_t generation = 0;                      ///< 0: nobody
  friend bool operator==(Member, Member) = default;  ///< The same place, used by the same member.
};

/// A record with the place of the member that told it.
struct CrowdCue {
  Cue cue;                  ///< as an instance tells it
  std::uint32_t place = 0;  ///< of the member that tells it
};

/// What a crowd tells: one contiguous list that grows as needed, up to a limit, and keeps its memory when cleared;
/// reserve() first, and a step allocates nothing. In order of places, of one place in order of time: the same on every
/// machine and for any number of threads whose ranges are read in order. Moved, not copied.
class CrowdCues {
 public:
  /// Holds at most `limit` records: a step that would tell more stops before (see Crowd::advance). Takes its memory
  /// from `memory`.
  explicit CrowdCues(MemorySource memory = {}, std::size_t limit = static_cast<std::size_t>(-1))
      : memory_(memory), limit_(limit) {}
  CrowdCues(CrowdCues&& other) noexcept;             ///< Moves what was told and its memory.
  CrowdCues& operator=(CrowdCues&& other) noexcept;  ///< Moves what was told and its memory.
  ~CrowdCues();
  /// Room for so many records, or as many as the limit allows. False where there is no memory for them.
  bool reserve(std::size_t count);
  /// Forgets what was told; keeps the memory.
  void clear() { size_ = 0; }
  /// How many were told.
  [[nodiscard]] std::size_t size() const { return size_; }
  /// Whether nothing was told.
  [[nodiscard]] bool empty() const { return size_ == 0; }
  /// The most it may hold.
  [[nodiscard]] std::size_t limit() const { return limit_; }
  /// The first that was told.
  [[nodiscard]] const CrowdCue* begin() const { return all_; }
  /// One past the last.
  [[nodiscard]] const CrowdCue* end() const { return all_ + size_; }
  /// REQUIRES: i < size().
  [[nodiscard]] const CrowdCue& operator[](std::size_t i) const { return all_[i]; }

  // Not for users: the engine's side.
  /// Whether so many more fit; makes room if that can be.
  [[nodiscard]] bool has_room(std::size_t more) { return more <= room_ - size_ || grow(more); }
  /// False, with nothing told, where there is no room.
  bool append(const Cue& cue, std::uint32_t place) {
    if (!has_room(1)) return false;
    all_[size_++] = {cue, place};
    return true;
  }
  /// Their numbers count on from `before`. REQUIRES: has_room() for them.
  void append(std::span<const CrowdCue> cues, Ticks at, std::uint32_t place, std::uint32_t before = 0) {
    for (const CrowdCue& each : cues) {
      CrowdCue& told = all_[size_++] = each;
      told.cue.at = at;
      told.cue.ordinal += before;
      told.place = place;
    }
  }
  /// The same of so many members from `place` on. REQUIRES: has_room() for all of it.
  void append_for_each(std::span<const CrowdCue> cues, Ticks at, std::uint32_t place, std::uint32_t members);
  /// Forgets all but the first so many.
  void shrink(std::size_t size) { size_ = size; }
  /// Room for one member while it is stepped; null where there is no memory.
  [[nodiscard]] std::byte* scratch(std::size_t bytes);

 private:
  bool grow(std::size_t more);
  bool take_room(std::size_t count);

  MemorySource memory_;
  std::size_t limit_;
  CrowdCue* all_ = nullptr;
  std::size_t size_ = 0, room_ = 0;
  std::byte* scratch_ = nullptr;
  std::size_t scratch_size_ = 0;
};

/// What a member shows, for a renderer.
struct CrowdShown {
  std::uint16_t clip = kNoIndex;  ///< index into Machine::clips(); kNoIndex when nothing is shown
  bool mirrored = false;          ///< of a blend: the clip is shown mirrored
  std::int32_t frame = -1;        ///< index in the clip's own list; -1 for a clip without frames
  float weight = 1;               ///< below 1 while it fades in over what was left
};

/// Who shows something else now, and what.
struct CrowdChange {
  std::uint32_t place = 0;  ///< whose picture changed
  CrowdShown shown;         ///< since this instant
};

/// How a crowd is made.
struct CrowdOptions {
  /// What is told. A crowd that does not listen to Told::loop does not wake its members for it.
  Listening listening = kGameRecords;
  /// Where the members' memory comes from; it must outlive the crowd. Large pages make a crowd of a hundred thousand
  /// and more faster (docs/performance.md); the default asks for such.
  MemorySource memory{};
};

namespace detail {
struct CrowdData;
}

/// Many instances of one machine. They behave exactly as Instances do and tell the same; they share one clock, and a
/// member begins at the crowd's now. A write wakes a member only if something active could change by it.
///
/// Not thread-safe, but for advance_range(), and reading while nobody writes. Members are addressed by Member, which is
/// checked, or in bulk by place; a place where nobody is takes writes without effect. Allocates when members are added
/// beyond what is reserved; where there is no memory to grow, the program ends (see MemorySource).
class Crowd {
 public:
  /// Keeps a copy of `machine`, which shares its tables.
  explicit Crowd(Machine machine, CrowdOptions options = {});
  Crowd(Crowd&&) noexcept;             ///< Moves; the one moved from is only fit to be assigned to or destroyed.
  Crowd& operator=(Crowd&&) noexcept;  ///< Moves; the one moved from is only fit to be assigned to or destroyed.
  ~Crowd();

  /// Room for so many members.
  void reserve(std::uint32_t count);
  /// A new member with all inputs at their start; it enters its initial states at the next advance. Places of those
  /// removed are given anew, the last one freed first.
  Member add();
  /// False where the member is gone already. It tells nothing any more, not even the ends of its spans.
  bool remove(Member member);
  /// Removes all that told Told::done in `cues`; their number.
  std::uint32_t remove_done(const CrowdCues& cues);
  /// Members that are there.
  [[nodiscard]] std::uint32_t size() const;
  /// Places: each member's is below this.
  [[nodiscard]] std::uint32_t places() const;
  /// Whether this very member is still there, and not another one at its place.
  [[nodiscard]] bool has(Member member) const;
  /// Who is at a place; nobody's member (which is refused everywhere) where it is free or beyond places().
  [[nodiscard]] Member at(std::uint32_t place) const;

  /// Inputs take effect at the next advance, at the instant it starts from. Written::refused also for a member that is
  /// gone.
  Written set(Member member, Input<bool> input, bool value) { return write(member, input, value); }
  /// The same of a whole number; clamped to the input's range.
  Written set(Member member, Input<std::int32_t> input, std::int32_t value) { return write(member, input, value); }
  /// The same of a number; clamped, and what is no number refused.
  Written set(Member member, Input<float> input, float value) { return write(member, input, value); }
  /// The same of a choice.
  Written set(Member member, Input<Choice> input, Choice value) { return write(member, input, value); }
  Written pulse(Member member, Pulse pulse);  ///< Sends a pulse to one member, as Instance::pulse does.

  /// Writes one value for each of `places`; of the longer list the rest is left out, as are places beyond places(). The
  /// number of values that were refused (see Written). Ascending places are fastest.
  template <class T>
  std::size_t set(std::span<const std::uint32_t> places, Input<T> input,
                  std::span<const std::type_identity_t<T>> values) {
    return write_many(places, input, values);
  }
  /// The same for all places, from 0 on.
  template <class T>
  std::size_t set_all(Input<T> input, std::span<const std::type_identity_t<T>> values) {
    return write_all(input, values);
  }
  /// One value for all.
  template <class T>
  std::size_t set_all(Input<T> input, std::type_identity_t<T> value) {
    return write_same(input, value);
  }
  /// Bools as bytes, 0 for false: a std::vector<bool> is no span of bools.
  std::size_t set(std::span<const std::uint32_t> places, Input<bool> input, std::span<const std::uint8_t> values);
  /// The same of inputs that are true or false: a byte a place, 0 for false.
  std::size_t set_all(Input<bool> input, std::span<const std::uint8_t> values);
  /// Writes a pulse to each of `places`. False for a handle of another machine.
  bool pulse(std::span<const std::uint32_t> places, Pulse pulse);

  /// Covers (now, now + dt] and appends what happens in it to `cues`. A negative dt counts as 0. Where the list can
  /// hold no more (its limit, or no memory) it stops before the instant that does not fit, with `left` above 0: read
  /// and clear the list and call again with `left`; nothing is lost, and until it is complete nothing but this may be
  /// called. `needs` is above 0 where an empty list cannot hold the next instant of one member: the records that needs.
  Advanced advance(Ticks dt, CrowdCues& cues);

  /// The same in parts, for several threads: begin_step(), then advance_range() of ranges that do not overlap and
  /// together are [0, places()), each with a list of its own and on any thread, then end_step(). Between begin_step()
  /// and end_step() nothing else may be called. A range that is not complete() is to be advanced again, with its list
  /// cleared, until it is.
  void begin_step(Ticks dt);
  /// Advances the members at the places from `first` up to `end`, not included. Ranges that share no place may run at
  /// once, each with a list of its own.
  Advanced advance_range(std::uint32_t first, std::uint32_t end, CrowdCues& cues);
  void end_step();  ///< Ends the step. REQUIRES: every place was in a range.

  [[nodiscard]] Ticks now() const;  ///< The instant up to which all have been advanced.
  /// The soonest instant at which any member has something to do: now() if one has at once, the largest Ticks for
  /// never.
  [[nodiscard]] Ticks next_wake() const;

  /// As of Instance; of a member that is gone what an instance gives that has not begun.
  bool set_rate(Member member, double rate);
  /// Holds a member for this long, as Instance::freeze does; false where the member has gone.
  bool freeze(Member member, Ticks duration);
  /// Puts a member back to its begin, as Instance::reset does; false where the member has gone.
  bool reset(Member member);
  /// As of Instance: a new member that begins in the middle of `state`, so that a crowd does not move in step. Nobody
  /// hears of it. Allocates.
  bool place(Member member, State state, Ticks time = {});
  /// The innermost active state of a region; kNoIndex where the region is not active or the member has gone.
  [[nodiscard]] std::uint16_t active(Member member, std::uint16_t region = 0) const;
  [[nodiscard]] bool in(Member member, State state) const;  ///< Whether the state is active.
  [[nodiscard]] bool is(Member member, Trait trait) const;  ///< Whether an active state has the trait.
  [[nodiscard]] bool done(Member member) const;             ///< Whether its machine has come to an end.
  /// What it shows in a region; its clip is kNoIndex where that is nothing.
  [[nodiscard]] Shown shown(Member member, std::uint16_t region = 0) const;
  [[nodiscard]] std::uint16_t look(Member member) const;  ///< The index of the look that holds; kNoIndex without any.
  /// What is to be drawn of a region: the image, what to cut out of it, the pivot, with the look that holds.
  /// `faces_left`: mirrored, as drawn facing right.
  [[nodiscard]] Picture picture(Member member, std::uint16_t region = 0, bool faces_left = false) const;
  /// An input's value by the input's index; a pulse: whether it waits.
  [[nodiscard]] FieldValue input_value(Member member, std::uint16_t index) const;
  /// An input's value; false or 0 where the member has gone or the handle is another machine's.
  [[nodiscard]] bool value(Member member, Input<bool> input) const;
  [[nodiscard]] std::int32_t value(Member member, Input<std::int32_t> input) const;  ///< The same of a whole number.
  [[nodiscard]] float value(Member member, Input<float> input) const;                ///< The same of a number.
  [[nodiscard]] Choice value(Member member, Input<Choice> input) const;              ///< The same of a choice.
  [[nodiscard]] bool value(Member member, Pulse pulse) const;                        ///< Whether the pulse waits.
  [[nodiscard]] double value(Member member, Variable variable) const;                ///< A variable's value.
  /// A copy of a member as an instance of its own, without tickets: to look at it closely (layers, looks, tracks, what
  /// it considers), or to go on with it alone. Nothing for a member that is gone.
  [[nodiscard]] std::optional<Instance> copy(Member member) const;

  /// What a region of the members at `places` shows now; nothing for free places and beyond places(). As many as `out`
  /// has room for; their number.
  std::size_t shown(std::span<const std::uint32_t> places, std::span<CrowdShown> out, std::uint16_t region = 0) const;
  /// The same for all places, from 0 on. From a few hundred places on the crowd keeps what it told, so that the next
  /// call looks only at those whose frame is over or to whom something happened: the first call for a region takes some
  /// 40 bytes a place from the crowd's memory.
  std::size_t shown_all(std::span<CrowdShown> out, std::uint16_t region = 0) const;
  /// The same without a copy: valid until the crowd is next asked what is shown, written to or stepped.
  [[nodiscard]] std::span<const CrowdShown> shown_all(std::uint16_t region = 0) const;
  /// Only those places where something else is shown than when this was last asked for the region, even where that went
  /// and came back between; nothing for one that was removed. Each once, in no order that says anything; the first call
  /// gives all members. Valid until the crowd is next asked what is shown, written to or stepped. A fade changes its
  /// member's weight at every instant.
  [[nodiscard]] std::span<const CrowdChange> shown_changed(std::uint16_t region = 0);

  /// Adds to `counts`, by index into Machine::states(), how many of the members at places [first, end) have which
  /// innermost state active, in each region. What is beyond the longest of both is left out. The members there.
  std::uint32_t count_active(std::uint32_t first, std::uint32_t end, std::span<std::uint32_t> counts) const;

  /// Bytes of a snapshot as things stand.
  [[nodiscard]] std::size_t snapshot_size() const;
  /// The whole crowd: members, clock, free places. `out` is resized; with room enough nothing is allocated.
  void snapshot(std::vector<std::byte>& out) const;
  /// Back to a snapshot. Handles are what they were then. Refused (false), with nothing changed, where the size is
  /// wrong. REQUIRES: the bytes are a snapshot of a crowd of this very machine.
  bool restore(std::span<const std::byte> snapshot);
  /// A 64-bit hash of the whole crowd: crowds that were written to and stepped alike hash equally, on every machine of
  /// the same byte order.
  [[nodiscard]] std::uint64_t hash() const;

  /// Bytes of one member (see member_bytes).
  [[nodiscard]] std::size_t member_size() const;
  /// One place's whole state, free or not: send what differs from a snapshot, put it in elsewhere with put_member_bytes
  /// in a crowd of the same places and clock. `out` holds member_size() bytes at least. False beyond places().
  bool member_bytes(std::uint32_t place, std::span<std::byte> out) const;
  /// False where the size is wrong or the place is beyond places(). REQUIRES: member_bytes() of this very machine gave
  /// the bytes. Members that come or go this way are counted; the order in which free places are given anew is not
  /// kept.
  bool put_member_bytes(std::uint32_t place, std::span<const std::byte> bytes);
  /// Writes the places that differ from a snapshot of this crowd to `out` (cleared first), ascending; places that the
  /// snapshot does not have are among them. False where it is none.
  bool changed_since(std::span<const std::byte> snapshot, std::vector<std::uint32_t>& out) const;

  /// Not for users: lets an instance of the same machine stand in for a member, who does nothing until it is taken
  /// back, at the same instant of the crowd's clock that the instance has come to. See Arena.
  bool lend(Member member, Instance& stand_in);
  /// Puts what a stand-in has become back into its member; false where the member has gone or the machines differ.
  bool take_back(Member member, const Instance& stand_in);
  /// Not for users: the members of another crowd at the same places, made anew by `carry(from, into)`; see
  /// carry_over().
  void take_over(const Crowd& from, void (*carry)(void* context, const Instance& from, Instance& into), void* context);

  [[nodiscard]] const Machine& machine() const;  ///< The machine of all members.
  /// Bytes a member takes in all.
  [[nodiscard]] std::size_t bytes_per_member() const;

 private:
  template <class T>
  Written write(Member member, Input<T> input, T value);
  template <class T>
  std::size_t write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values);
  template <class T>
  std::size_t write_all(Input<T> input, std::span<const T> values);
  template <class T>
  std::size_t write_same(Input<T> input, T value);
  template <class Handle>
  [[nodiscard]] auto value_of(Member member, Handle handle) const;

  detail::CrowdData* d_;
};

}  // namespace mobrin
