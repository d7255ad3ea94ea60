// Session: a scene, or a machine alone, that is played by hand, with its past: any instant can be gone back to.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/io/scene.hpp"

namespace mobrin {

/// What a file brings on: a scene, or a machine or character as a scene of one who stays where it is. Immutable.
struct Cast {
  Scene scene{};       ///< all that takes part; a machine alone is a scene of one
  bool alone = true;   ///< a machine or character
  std::string file{};  ///< the file that was named
  std::map<std::string, std::shared_ptr<const Loaded>> machines{};  ///< by the files that actors and spawns name
};
/// A cast, or why there is none.
struct LoadedCast {
  std::shared_ptr<const Cast> cast{};  ///< null where something is an error
  std::vector<Finding> findings{};     ///< errors and warnings
  std::vector<std::string> files{};    ///< all that were read, the named one first
};
/// Loads a scene, a machine or a character. `instead` stands for what one of its files holds. Never throws.
[[nodiscard]] LoadedCast load_cast(const std::string& path, const FileText& instead = {});

/// Something that was written, or is to be.
struct SessionWrite {
  Ticks at{};                          ///< the instant
  std::uint32_t actor = 0;             ///< to whom, as in SceneRecord
  TapeStep step{};                     ///< what is written
  bool by_hand = true;                 ///< holds the inputs it sets: no tape sets them any more
  std::optional<Text> give_back{};     ///< an input that tapes may set again
  std::shared_ptr<const Cast> cast{};  ///< a reload
  std::shared_ptr<const std::vector<std::vector<std::byte>>> blocks{};  ///< the actors were put elsewhere: see follow()
};

/// Something that happened.
struct SessionRecord {
  SceneRecord::What what = SceneRecord::What::told;  ///< what happened
  Ticks at{};                                        ///< the instant
  std::uint32_t actor = 0;                           ///< as in SceneRecord
  std::uint32_t other = 0;                           ///< as in SceneRecord
  Cue cue{};                                         ///< of told; its machine lives as long as the session
  std::string text{};                                ///< of a hit what hits and what is hit; of a zone its name
  bool entered = false;                              ///< of zone: it came in, and did not go out
  std::uint32_t stretch = 0;                         ///< its cast: see Session::cast_of
};

/// When a session stops by itself, after the whole instant.
struct Halt {
  /// What it waits for.
  enum class On : std::uint8_t { state, rule, cue, holds };
  On on = On::state;        ///< what it waits for
  std::uint32_t actor = 0;  ///< whose state, rule, cue or expression
  std::uint32_t index = 0;  ///< of the state, the rule or the cue
  std::string holds{};      ///< an expression that becomes true
};

/// How much of the past is kept.
struct SessionLimits {
  Ticks kept = seconds(600);                  ///< how far one can go back
  std::size_t bytes = std::size_t{64} << 20;  ///< of blocks
  std::size_t strands = 8;                    ///< futures left that are kept
};

/// A future that was left: what was written from the instant on at which another was begun.
struct StrandInfo {
  std::uint32_t id = 0;    ///< its number
  Ticks from{};            ///< where it parts from the one it came of
  Ticks to{};              ///< where it ends
  std::size_t writes = 0;  ///< how many writes it has of its own
};

/// What could not be carried over, by the actor's name.
using SessionLosses = std::vector<std::pair<std::string, CarryLoss>>;

/// Plays a cast and remembers it. An instant is a tick with all that happens at it. What is written at an instant takes
/// effect as time goes on; until then it waits. Going back to an instant gives the very block that was there when it
/// was reached first. From there time runs over what is known; a write leaves that future and begins another: the one
/// left is kept as a strand and can be taken up again. A reload cuts the past into stretches, each with its own cast;
/// going on from an older one carries its state over to the newest.
///
/// Not thread-safe. Allocates.
class Session {
 public:
  /// With `tape`, what it writes comes by itself, to the first actor, until a hand writes to the same inputs.
  explicit Session(std::shared_ptr<const Cast> cast, const Tape* tape = nullptr, SessionLimits limits = {});
  ~Session();
  Session(const Session&) = delete;
  Session& operator=(const Session&) = delete;

  /// Which loading the shown instant belongs to, from 0.
  [[nodiscard]] std::uint32_t stretch() const { return stretch_; }
  /// The number of the cast that was loaded last.
  [[nodiscard]] std::uint32_t newest() const { return static_cast<std::uint32_t>(casts_.size() - 1); }
  /// REQUIRES: stretch <= newest().
  [[nodiscard]] const Cast& cast_of(std::uint32_t stretch) const { return *casts_[stretch]; }
  /// The cast that plays at the instant shown.
  [[nodiscard]] const Cast& cast() const { return *casts_[stretch_]; }
  /// The run, at the instant shown.
  [[nodiscard]] const SceneRun& run() const { return *run_; }
  /// The instant shown.
  [[nodiscard]] Ticks now() const { return run_->now(); }
  /// The first instant that can be gone back to, and the last that is known.
  [[nodiscard]] Ticks first() const;
  [[nodiscard]] Ticks end() const;  ///< The furthest instant that was played.
  /// Whether something was written at now() and waits for time to go on.
  [[nodiscard]] bool waits() const { return waits_; }

  /// Goes on by `dt`: over what is known, then anew. With halts it stops after the instant of the first that holds:
  /// halted() tells which.
  void advance(Ticks dt);
  /// To the next instant at which what is shown may change, at most `most` away.
  void step(Ticks most);
  /// To an instant from first() to end(); another is moved to the nearer of both.
  void jump(Ticks to);

  /// Writes to an actor at now(). In the past it begins a new strand; from an older stretch the newest cast goes on.
  /// False where there is no such actor or it is gone.
  bool write(std::uint32_t actor, const TapeStep& step);
  /// Lets tapes set an input again.
  bool give_back(std::uint32_t actor, const std::string& input);

  /// Puts a changed cast in the place of the one that plays, from now() on. In the past it begins a new strand.
  void reload(std::shared_ptr<const Cast> cast);
  /// Goes back by `span` and lets what was written by hand since come again, with the newest cast, up to where it was.
  void again(Ticks span);
  /// Of the last reload or going on from an older stretch.
  [[nodiscard]] const SessionLosses& losses() const { return losses_; }

  /// For who watches instances that run elsewhere, in a still scene: what was written to them since, in order of time,
  /// and the block of each now (see Machine::block_size), all of one clock. The session plays what was written from
  /// where it was; where that does not lead to the same states (something was restored, placed, left out) it takes the
  /// blocks, and writes() tells it. The instant that is shown moves on with them only if it was the newest. False, with
  /// nothing changed, where the blocks do not fit.
  bool follow(std::vector<SessionWrite> writes, const std::vector<std::vector<std::byte>>& blocks);
  /// The next follow() begins anew: those that are watched have another clock, and what was is forgotten.
  void forget_followed() { follows_ = false; }

  /// The strands that are kept, the newest first. Taking one up leaves the present future as another. False for one
  /// that is not there (any more).
  [[nodiscard]] std::vector<StrandInfo> strands() const;
  bool take_up(std::uint32_t strand);  ///< Goes on with that strand in place of this one; false where there is none.
  /// What happened in a strand after it parted, the last so many.
  [[nodiscard]] std::vector<SessionRecord> records_of(std::uint32_t strand, std::size_t most = 2000) const;

  /// What happened and what was written in [from, to] of this strand, in order; at most `most`, the last ones.
  [[nodiscard]] std::vector<SessionRecord> records(Ticks from, Ticks to, std::size_t most = 2000) const;
  /// What was written in [from, to], the last so many.
  [[nodiscard]] std::vector<SessionWrite> writes(Ticks from, Ticks to, std::size_t most = 2000) const;
  /// Another one where something happened, was written, or another past is shown.
  [[nodiscard]] std::uint64_t number() const { return number_; }

  /// What was written to an actor in [from, to] as a tape whose instants count from `from`, with the values that its
  /// inputs had there at its begin; where that is not 0 it carries the state of then. Replayed it tells the same. The
  /// instant that is shown does not change.
  [[nodiscard]] Tape tape(std::uint32_t actor, Ticks from, Ticks to);
  /// Lets what a tape writes come from now() on; the future that is known is left as a strand.
  bool load(std::uint32_t actor, const Tape& tape);

  /// What makes advance() stop. The caller's to change.
  std::vector<Halt> halts{};
  /// The halt at which it stands, if it does.
  [[nodiscard]] const std::optional<Halt>& halted() const { return halted_; }

  /// A rule that an actor looked at, and what became of it; or one that it did not look at, and why.
  struct Looked {
    Ticks at{};                        ///< the instant
    int round = 0;                     ///< which time round at that instant, from 0
    std::uint32_t transition = 0;      ///< index into Machine::transitions()
    Verdict verdict = Verdict::event;  ///< what came of it
    std::vector<PartValue> parts{};    ///< the parts of its condition with what they were then
    Shown shown{};                     ///< of `window`: what played then
    std::optional<Skipped> skipped{};  ///< why it was not looked at, though its state was active: then no verdict
  };
  /// All that an actor looked at in [from, to] of this strand, in one stretch; behind each round what it did not look
  /// at. The instant that is shown does not change.
  [[nodiscard]] std::vector<Looked> considered(std::uint32_t actor, Ticks from, Ticks to);
  /// What an expression was at an instant.
  struct Sample {
    Ticks at{};        ///< the instant
    double value = 0;  ///< what it was; of true or false 1 or 0
  };
  /// What an expression gives of an actor at `most` instants of [from, to], evenly apart, where it changes: a bool as 0
  /// or 1, a choice as its index. Only of the stretch that is shown. The instant that is shown does not change.
  /// REQUIRES: the expression compiles in the actor's machine, at its root.
  [[nodiscard]] std::vector<Sample> values(std::uint32_t actor, std::string_view expression, Ticks from, Ticks to,
                                           std::size_t most = 500);
  /// What it would look at first now, with what waits; as considered().
  [[nodiscard]] std::vector<Looked> would_consider(std::uint32_t actor);

 private:
  template <class T>
  struct Numbered;
  struct Moment;
  struct Line;
  struct Strand;
  // Where in a line something stands: how much was written and told before it.
  struct Spot {
    Ticks at{};
    std::uint64_t writes = 0, records = 0;
  };
  [[nodiscard]] Spot spot() const;
  void play_to(Ticks to);
  void run_to(Ticks to);
  void apply_due(std::uint64_t until = UINT64_MAX);
  void settle_end();
  void apply(const SessionWrite& write, bool& written);
  void note(const SceneRecord& record);
  void keep(bool reloaded);
  void forget();
  void begin_anew();
  void go_to(const Moment& moment);
  void carry(const std::shared_ptr<const Cast>& cast);
  void leave_future();
  void insert(SessionWrite write);
  void put_in_line(SessionWrite write);
  [[nodiscard]] const Moment& last_moment(const std::function<bool(const Moment&)>& is) const;
  [[nodiscard]] bool same_as(const std::vector<Instance>& others) const;
  void begin_anew(SessionWrite write);
  void renew();
  void cut(const Spot& at, std::uint32_t id);
  void append(Strand& strand);
  [[nodiscard]] Ticks next_wake() const;
  [[nodiscard]] bool halts_since(std::uint64_t record, std::vector<bool>& held);
  [[nodiscard]] std::vector<bool> held_now() const;

  SessionLimits limits_;
  std::vector<std::shared_ptr<const Cast>> casts_;
  std::uint32_t stretch_ = 0;
  std::unique_ptr<SceneRun> run_;
  std::unique_ptr<Line> line_;
  std::vector<std::shared_ptr<Strand>> strands_;    // the newest first
  std::uint64_t next_write_ = 0, next_record_ = 0;  // of the line, what is not applied, not told yet
  std::uint32_t last_strand_ = 0;
  std::uint64_t number_ = 0;
  bool waits_ = false;
  bool follows_ = false;  // follow() has been called
  SessionLosses losses_;
  std::optional<Halt> halted_;
  std::vector<bool> held_before_;  // which halts' expressions held before what waits was written
};

}  // namespace mobrin
