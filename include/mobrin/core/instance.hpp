// Instance: one running machine. Write inputs, advance time, read what to show and what happened.
#pragma once

#include <array>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <utility>

#include "mobrin/core/cue.hpp"
#include "mobrin/core/machine.hpp"
#include "mobrin/core/ticket.hpp"
#include "mobrin/core/trace.hpp"

namespace mobrin {

namespace detail {
struct Sink;
struct TicketSlot;

/// Not for users: some bytes, all 0 at first.
class OwnedBytes {
 public:
  explicit OwnedBytes(std::size_t size) : bytes_(new std::byte[size]()) {}
  OwnedBytes(OwnedBytes&& other) noexcept : bytes_(std::exchange(other.bytes_, nullptr)) {}
  OwnedBytes& operator=(OwnedBytes&& other) noexcept { return std::swap(bytes_, other.bytes_), *this; }
  ~OwnedBytes() { delete[] bytes_; }
  [[nodiscard]] std::byte* get() const { return bytes_; }

 private:
  std::byte* bytes_;
};
}  // namespace detail

/// What became of a written value.
enum class Written : std::uint8_t {
  same,     ///< it had that value already (or the instance is done and rests): nothing changes
  changed,  ///< stored; it takes effect at the next advance
  clamped,  ///< stored after clamping into the input's range
  refused,  ///< not stored: a NaN, a choice that does not exist, or a handle of another machine
};

/// How far an advance came.
struct Advanced {
  Ticks covered;            ///< how much of the asked time was covered
  Ticks left;               ///< how much is left because the list had no room for the next instant; 0 when all is done
  std::uint32_t needs = 0;  ///< where an empty list is too small for the next instant: the records it needs
  bool stopped = false;     ///< the next instant does not fit, or a handler went on and on; call again with `left`
  /// Whether the whole step was done.
  [[nodiscard]] bool complete() const { return !stopped; }
};

/// The longest freeze: hit-stop lasts frames; to pause for longer, set the rate to 0.
inline constexpr Ticks kLongestFreeze = seconds(6);

/// What a region shows now.
struct Shown {
  std::uint16_t clip = kNoIndex;  ///< index into Machine::clips(); kNoIndex when nothing is shown
  std::int32_t frame = -1;        ///< index in the clip's own list; -1 for a clip without frames
  double seconds = 0;             ///< the playhead on the clip's own time
  double weight = 1;              ///< below 1 while it fades in over what was left
  bool mirrored = false;          ///< of a blend: the clip is shown mirrored
  /// Whether nothing is shown.
  [[nodiscard]] bool nothing() const { return clip == kNoIndex; }
};

/// What a region shows while it fades: what was entered last first, then what fades out, the newest first. Weights sum
/// to 1 (to the rounding of double); a play without a picture has its weight too. Holds its values.
class ShownLayers {
 public:
  /// How many there are.
  [[nodiscard]] std::size_t size() const { return count_; }
  /// The lowest one.
  [[nodiscard]] const Shown* begin() const { return all_.data(); }
  /// One past the topmost.
  [[nodiscard]] const Shown* end() const { return all_.data() + count_; }
  /// REQUIRES: i < size().
  [[nodiscard]] const Shown& operator[](std::size_t i) const { return all_[i]; }
  /// Not for users. REQUIRES: fewer than 4 so far.
  void add(const Shown& shown) { all_[count_++] = shown; }

 private:
  std::array<Shown, 4> all_{};
  std::size_t count_ = 0;
};

/// One thing the game wrote to an instance that changed it.
struct InstanceWrite {
  /// What was written.
  enum class Kind : std::uint8_t { input, pulse, rate, freeze, reset, force, restore, place };
  Kind kind = Kind::input;         ///< what was written
  std::uint16_t input = kNoIndex;  ///< index into Machine::inputs()
  double rate = 1;                 ///< of a rate
  Ticks duration{};                ///< of a freeze; of a restore: what is left of one; of a place: its time
  std::uint16_t state = kNoIndex;  ///< of a force or a place: index into Machine::states()
  bool clamped = false;            ///< of an input: the value was clamped into its range
  bool pending = false;  ///< before it (of a restore: in the block) were writes that have not taken effect yet
};

/// Called right after each write. It may read the instance, not change it. Null, the default, costs nothing.
struct WriteHook {
  void (*call)(void* context, const InstanceWrite& write) = nullptr;  ///< Called with each write, after it was taken.
  void* context = nullptr;  ///< owned by whoever sets the hook; alive as long as the hook is set
};

/// How an instance is made.
struct InstanceOptions {
  /// How many tickets may be open (waiting or running) at once; each takes 24 bytes behind the block.
  std::uint16_t tickets = 4;
  /// The game's instant at which it begins, as a member of a crowd begins at the crowd's now: its clock starts there.
  /// From 0 on; a negative one counts as 0.
  Ticks begin{};
};

/// One running machine. Not thread-safe; different instances may run on different threads. All its state is one flat
/// block: copy it for a snapshot, copy it back to roll back. Allocates when it is made, never afterwards.
class Instance {
 public:
  /// Keeps a copy of `machine`, which shares its tables.
  explicit Instance(Machine machine, InstanceOptions options = {});

  /// Lets one that was never advanced begin at another instant, and with it what was written. False, with nothing
  /// changed, for one that has begun.
  bool begin_at(Ticks begin);

  /// Inputs take effect at the next advance, at the instant it starts from.
  Written set(Input<bool> input, bool value);
  /// The same of a whole number; clamped to the input's range.
  Written set(Input<std::int32_t> input, std::int32_t value);
  /// The same of a number; clamped to the input's range; what is no number is refused.
  Written set(Input<float> input, float value);
  Written set(Input<Choice> input, Choice value);  ///< The same of a choice.
  /// Sends a pulse. It waits for as long as its buffer says, and at least for the next advance.
  Written pulse(Pulse pulse);
  /// By name, for tools: a bool, whole number, number or choice. The error says what the input takes.
  Outcome set_by_name(std::string_view input, const FieldValue& value);
  Outcome pulse_by_name(std::string_view pulse);  ///< Sends a pulse by its name; an error where there is none.

  /// Covers (now, now + dt] and appends what happens in it to `cues`. Rounds of a loop on which nothing hangs cost
  /// nothing unless `cues` listens to Told::loop. Stops before an instant for which the list has no room; clear the
  /// list and call again with `left`: the cut changes nothing. A negative dt counts as 0.
  [[nodiscard]] Advanced advance(Ticks dt, CueBuffer& cues);

  /// Covers dt and calls `handler(const Cue&)` for each record, in order, right after the instant it belongs to is
  /// settled: now() is that instant, and what the handler writes takes effect at it. The handler may write inputs and
  /// read the instance; it must not advance, restore or reset it. A handler whose writes bring about new records at one
  /// instant more than 64 times over is stopped: then time is left over, and advancing again goes on.
  template <class Handler>
  requires std::invocable<Handler&, const Cue&> Advanced advance(Ticks dt, Handler&& handler,
                                                                 Listening listening = kGameRecords) {
    CueList<16> cues(listening);
    Advanced total{{}, dt};
    Ticks last{-1};
    for (int rounds = 0; rounds <= 64;) {
      PartOfStep part = advance_part(total.left, cues);
      total.covered += part.covered;
      total.left = part.left;
      if (cues.empty()) return total;
      rounds = now() == last ? rounds + 1 : 0;
      last = now();
      for (const Cue& cue : cues) handler(cue);
      if (part.told > cues.size()) tell_rest(cues.size(), part.told, handler, listening);
      cues.clear();
      if (total.left.count == 0) return total;
    }
    total.stopped = true;
    return total;
  }

  /// What `region` (0 for a machine without regions) shows now; computed when asked. While it fades, what was entered
  /// last, with its weight; layers() has all.
  [[nodiscard]] Shown shown(std::uint16_t region = 0) const;
  /// All that `region` shows now, one to four; none for a region that is not active.
  [[nodiscard]] ShownLayers layers(std::uint16_t region = 0) const;
  /// The same for a region by its handle; nothing for one of another machine.
  [[nodiscard]] Shown shown(Region region) const { return shown(index_of(region)); }
  /// The same by a handle.
  [[nodiscard]] ShownLayers layers(Region region) const { return layers(index_of(region)); }
  /// Whether a region shows the clip (of a fade: what was entered last). False for a handle of another machine.
  [[nodiscard]] bool shows(Clip clip) const;
  /// The picture of what `region` shows now: its image with the look that holds, what to cut out of it, its pivot.
  /// `faces_left` is the game's: the character looks that way, so that the picture is mirrored once more.
  [[nodiscard]] Picture picture(std::uint16_t region = 0, bool faces_left = false) const;
  [[nodiscard]] std::uint16_t region_count() const;  ///< How many regions the machine has, active or not.
  /// The active innermost state of a region, as an index into Machine::states(); kNoIndex before the first advance and
  /// for a region that is not active.
  [[nodiscard]] std::uint16_t active(std::uint16_t region = 0) const;
  /// The same by a handle.
  [[nodiscard]] std::uint16_t active(Region region) const { return active(index_of(region)); }
  /// The active innermost state's path, `ground/net`; empty where active() gives kNoIndex. View into the machine.
  [[nodiscard]] std::string_view active_path(std::uint16_t region = 0) const;
  /// The playhead of a region on its clip's cycle, in 1/65536 ticks; empty where nothing moves.
  [[nodiscard]] std::optional<std::int64_t> playhead(std::uint16_t region = 0) const;
  /// Whether the state, or a state inside it, is active. False for a handle of another machine.
  [[nodiscard]] bool in(State state) const;
  /// Whether an active state carries the trait.
  [[nodiscard]] bool is(Trait trait) const;
  /// Whether `done` has been told: a final state has lingered, and the instance rests for ever.
  [[nodiscard]] bool done() const;
  /// The instance's clock: where it began (see InstanceOptions) and all time covered since.
  [[nodiscard]] Ticks now() const;
  /// Before this instant, with nothing written, an advance has nothing to do; the largest Ticks for never. A write
  /// makes it now() where something may come of it: an advance has nothing to do with a value that nothing active
  /// reads, or by which nothing can be taken.
  [[nodiscard]] Ticks next_wake() const;
  /// The value of an input by index into Machine::inputs(): bool, whole number, number, or a choice's name. A pulse
  /// gives whether it is alive now.
  [[nodiscard]] FieldValue input_value(std::uint16_t index) const;
  /// What an input holds now, and whether a pulse is alive. For a handle of another machine false, 0 or the first
  /// choice.
  [[nodiscard]] bool value(Input<bool> input) const;
  [[nodiscard]] std::int32_t value(Input<std::int32_t> input) const;  ///< The same of a whole number.
  [[nodiscard]] float value(Input<float> input) const;                ///< The same of a number.
  [[nodiscard]] Choice value(Input<Choice> input) const;              ///< The same of a choice.
  [[nodiscard]] bool value(Pulse pulse) const;                        ///< Whether the pulse waits.
  /// What a variable holds now: a bool as 0 or 1, one of a state that is not active what it held last. 0 for a handle
  /// of another machine.
  [[nodiscard]] double value(Variable variable) const;

  /// Scales plays, fades, `after` and `linger` from now on: 0.25 is slow motion, 0 a pause. Rounded to 1/65536 (half to
  /// even). Refused (false) outside [0, 64] or for a NaN. Pulse buffers run on.
  bool set_rate(double rate);
  [[nodiscard]] double rate() const;  ///< The pace at which it lives: 1 as the machine says, 0 held.
  /// Holds plays, fades, `after` and `linger` for `duration` of the game's time (hit-stop). A longer freeze under way
  /// stays. Refused (false) below 0 and above kLongestFreeze.
  bool freeze(Ticks duration);

  /// Writes a pulse and gives a ticket to watch what becomes of it. Two asks for one press share it: the second gives
  /// the first one's ticket. Where no place is free, the oldest ticket that follow() gave is lost to it. A false ticket
  /// where there is none either (the pulse is written all the same), and for a handle of another machine.
  [[nodiscard]] Ticket ask(Pulse pulse);
  /// A ticket for a state: running if it is active (from when it is entered, if not) until its play ends or it is left.
  [[nodiscard]] Ticket follow(State state);
  /// Whether what a running ticket stands for does not end by itself: it loops, shows a pose or plays nothing, and no
  /// `at: end` or `after:` leads on, be it one of a state around it or of another region. It is over only when
  /// something else leads away; do not wait for it to succeed.
  [[nodiscard]] bool never_ends(Ticket ticket) const;
  /// For who needs it no more: its place is free when all who share it have given it back. False for one that is lost.
  bool give_back(Ticket ticket);
  /// What became of it so far. The place of a ticket that is over is given away again, the oldest first.
  [[nodiscard]] TicketStatus status(Ticket ticket) const;
  /// All tickets that are not lost, in the order of their places, as many as `out` has room for; their number.
  std::size_t open_tickets(std::span<TicketInfo> out) const;

  /// Sets who is told what each step considers; a hook without a call, the default, costs nothing. A step that is told
  /// in parts is considered once a part.
  void set_trace(TraceHook hook) { trace_ = hook; }
  /// Sets who is told what is written; see Recorder.
  void set_write_hook(WriteHook hook) { write_hook_ = hook; }
  /// The one that is set: who sets another and wants both keeps it and calls it.
  [[nodiscard]] WriteHook write_hook() const { return write_hook_; }
  /// Looks at all transitions as they stand now and tells the trace hook, without taking any: what would be considered
  /// first if the machine settled at this instant. Pulses, cues and loop moments of the past are over.
  void consider() const;

  /// For tools and tests: at the next advance `state` becomes active, seals and guards notwithstanding; what is left
  /// and entered is told, actions run. A snapshot taken before that advance does not hold it; restore(), reset() and
  /// place() forget it. False when done, and for a handle of another machine.
  bool force(State state);
  /// The state that the next advance makes active, where force() has asked for one.
  [[nodiscard]] std::optional<State> forced() const;
  /// Makes `state` active at once, as if it had been for `time` already: nothing is told, no action runs, variables
  /// have their start values. Other regions go on where they stand, also where it was done; a reset() or force() that
  /// waited is over. For joining a game under way. Refused (false) for a handle of another machine, a
  /// negative time or one above ten hours.
  bool place(State state, Ticks time = {});

  /// Back to the initial states, with variables at their start and pulses forgotten, at the next advance: what is
  /// active is left (spans end, exit actions run). Inputs, clock, rate and freeze stay as they are.
  void reset();

  /// The whole state, tickets included. Copy it to keep a snapshot; restore() copies one back. Owned by the instance.
  [[nodiscard]] std::span<const std::byte> block() const;
  /// Refused (false) where the size is not this instance's. REQUIRES: the bytes are a block of this very machine.
  bool restore(std::span<const std::byte> block);
  /// A 64-bit hash of the state as it is now, without tickets: equal for what goes on alike, however it came there (in
  /// one step or many, loaded from a save, whatever was listened to), on every machine. What states held that are left,
  /// and presses that have run out, are no part of it, nor how many records were told at this very instant; that a
  /// write waits is one, so compare after an advance.
  [[nodiscard]] std::uint64_t hash() const;

  /// The first look whose condition holds with the values as they are now, as an index into Machine::looks(); kNoIndex
  /// for none. What plays goes on: a look changes art only.
  [[nodiscard]] std::uint16_t look() const;

  /// All clips that a region's blend shows with their weights, which sum to the region's own (see Shown::weight); their
  /// number. Without a blend what shown() gives. Those for which `out` has no room are left out.
  std::size_t blended(std::uint16_t region, std::span<Shown> out) const;

  /// A track of what a region shows (see TrackDef), sampled now; empty where its clip has no such track.
  [[nodiscard]] std::optional<double> track(std::string_view name, std::uint16_t region = 0) const;
  /// How far a track moved from `before` (a block of this machine, as block() gave it) to now: the sum over the way the
  /// play went, across loops and turns; a play that is another now counts from its beginning. 0 without such a track.
  [[nodiscard]] double moved(std::string_view name, std::span<const std::byte> before, std::uint16_t region = 0) const;

  /// The soonest instant after now() at which what is shown may change: a frame's border (of what fades out, too), a
  /// border in time of a box, or anything that advancing tells or settles. Until then every frame stays, if nothing is
  /// written. The largest Ticks where nothing is due; now() where something was written that has not taken effect yet.
  [[nodiscard]] Ticks next_change() const;

  /// Its machine.
  [[nodiscard]] const Machine& machine() const { return machine_; }

 private:
  // One step of the advance with a handler: up to and including the first instant that tells something.
  struct PartOfStep {
    Ticks covered;
    Ticks left;
    std::uint32_t told = 0;  // by that instant; more than the list holds where it had no room for all
  };
  PartOfStep advance_part(Ticks dt, CueBuffer& cues);
  // The records of advance_part's last instant from `told` on: each list full takes that instant once more.
  template <class Handler>
  void tell_rest(std::uint32_t told, std::uint32_t all, Handler& handler, Listening listening) {
    for (CueList<256> cues(listening); told < all; cues.clear()) {
      tell_again(told, cues);
      for (const Cue& cue : cues) handler(cue);
      told += cues.size();
    }
  }
  // Tells the last instant of advance_part again, without its first `skip` records.
  void tell_again(std::uint32_t skip, CueBuffer& cues);
  [[nodiscard]] bool known(std::uint32_t serial) const;
  template <class Handle>
  [[nodiscard]] auto value_of(Handle handle) const;
  template <class Handle>
  [[nodiscard]] std::uint16_t index_of(Handle handle) const {
    return known(handle.machine) ? handle.index : kNoIndex;
  }
  template <class T>
  Written write(Input<T> input, T value);
  [[nodiscard]] bool comes_to_something(std::uint16_t input);
  void wake();
  void start_anew();
  // Whether the next instants leave out rounds on which nothing hangs, as nobody hears them.
  bool begin_step(Listening listening);
  [[nodiscard]] bool passes_over_rounds(Listening listening);
  // The block as it is now, whatever instants led here, in scratch memory.
  [[nodiscard]] const std::byte* settled_block() const;
  void run_instant(std::int64_t at, detail::Sink& sink, bool passes, bool keeps);
  void run_engine(std::int64_t at, detail::Sink& sink, bool passes);
  [[nodiscard]] bool tickets_open();
  [[nodiscard]] bool writes_wait() const;
  // What was written is put together only where somebody hears of it.
  template <class Make>
  void tell_write(const Make& make) const {
    if (write_hook_.call != nullptr) write_hook_.call(write_hook_.context, make());
  }
  [[nodiscard]] std::span<detail::TicketSlot> tickets();
  [[nodiscard]] Ticket give_ticket(const detail::TicketSlot& asked);
  [[nodiscard]] TicketStatus status_of(const detail::TicketSlot& slot) const;

  Machine machine_;
  std::size_t block_size_;    // with the tickets behind it
  detail::OwnedBytes bytes_;  // the block; a copy from before the last instant; room to tell it again
  TraceHook trace_;
  WriteHook write_hook_;
  std::uint16_t ticket_count_;
  bool may_be_asked_ = false;        // some ticket may be open
  mutable bool told_stale_ = false;  // in builds with asserts: once an instance
  bool passed_rounds_ = false;       // the block's wake leaves them out
  std::uint16_t forced_ = kNoIndex;
  std::uint16_t told_forced_ = kNoIndex;  // of the instant tell_again() repeats
};

}  // namespace mobrin
