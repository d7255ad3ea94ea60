// Scenes: several actors on one stage, with what happens between them.
#pragma once

#include <deque>
#include <functional>
#include <initializer_list>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/contact/arena.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// A straight move, or a turn, of an actor.
struct SceneMove {
  Ticks at{};                        ///< when it begins
  Ticks lasts{};                     ///< 0: it jumps
  Vec2 by{};                         ///< world units
  std::optional<bool> faces_left{};  ///< how it faces from then on; empty: as before
  Text follows{};                    ///< an actor it goes to while the move lasts; empty: none
  double keeps = 0;                  ///< how far from it it stays, in world units
  double speed = 2;                  ///< world units a second
  bool faces_it = false;             ///< whom it follows
};

/// What a hit does to the actor who is hit: the rule a game would write in its handler.
struct HitRule {
  Text box{};                                  ///< the name of what hits: a box, a damage cue or its reach; empty: any
  std::vector<Text> pulses{};                  ///< inputs to pulse
  std::vector<std::pair<Text, double>> add{};  ///< to number inputs
};

/// Somebody in a scene.
struct SceneActor {
  Text name{};                       ///< its own name, by which records tell of it
  std::string file{};                ///< of the machine or character
  Placement start{};                 ///< where it stands at the begin
  std::vector<std::string> tags{};   ///< what it is, for boxes and reaches
  Tape tape{};                       ///< what happens to its inputs
  std::vector<SceneMove> moves{};    ///< in order of time; one ends before the next begins
  std::vector<HitRule> rules{};      ///< what hits do to it
  Text grounded{};                   ///< a bool input that says whether it stands on the ground; empty: none
  std::optional<Machine> machine{};  ///< set in a scene that was loaded without errors
};

/// What a spawn cue makes: an actor of its own, at the point `from` on who told it, mirrored with it.
struct SceneSpawn {
  Text what{};                       ///< the cue's field `what`, or its name
  std::string file{};                ///< of the machine or character
  std::vector<std::string> tags{};   ///< what it is, for boxes and reaches
  Vec2 velocity{};                   ///< world units a second, forward and up
  bool falls = false;                ///< gravity is for it
  Ticks lasts{};                     ///< after this long it is gone; 0: when it is done, or off the stage
  std::vector<HitRule> rules{};      ///< what hits do to it
  Place place{};                     ///< where its file is named
  std::optional<Machine> machine{};  ///< set in a scene that was loaded without errors
};

/// An actor is dead for contacts while a state with the trait `dead` is active, and once it is done.
struct Scene {
  std::string name;                ///< as it names itself
  std::vector<SceneActor> actors;  ///< in the file's order
  std::vector<SceneSpawn> spawns;  ///< what cues can make
  double gravity = 20;             ///< world units a second, each second
  double ground = 0;               ///< who flies comes down to this height, in world units
  bool still = false;              ///< nobody moves or meets anybody: cues are told and do nothing
  Ticks until{};                   ///< where it ends
};

/// A scene, or why there is none.
struct LoadedScene {
  std::optional<Scene> scene;                                       ///< empty where there is an error
  std::vector<Finding> findings;                                    ///< errors and warnings of all its files
  std::vector<std::string> files{};                                 ///< all files read, the named one first
  std::map<std::string, std::shared_ptr<const Loaded>> machines{};  ///< by the files that actors and spawns name
};
/// Loads a scene, its machines and its tapes. Never throws; what cannot be read or does not fit is a finding. `instead`
/// stands for what one of the files holds.
[[nodiscard]] LoadedScene load_scene(const std::string& path, const FileText& instead = {});
/// Whether a file says `scene:`; empty where it cannot be read.
[[nodiscard]] std::optional<bool> is_scene(const std::string& path);

/// One thing that happened. Actors are numbers for SceneRun::actor: those of the scene, then those that were spawned.
struct SceneRecord {
  /// What happened.
  enum class What : std::uint8_t { told, hit, zone, spawn, gone };
  What what = What::told;      ///< what happened
  Ticks at{};                  ///< the instant
  std::uint32_t actor = 0;     ///< who told it, who hit, whose zone, who came or is gone
  Cue cue{};                   ///< of told
  std::uint32_t other = 0;     ///< who was hit; who entered or left; who spawned it
  Vec2 where{};                ///< of a hit
  std::string_view box{};      ///< of a hit: the name of the box that hit, or of the reach
  std::string_view hurt{};     ///< of a hit: the name of the box that was hit; none through a reach
  std::string_view hit_cue{};  ///< of a hit: the damage cue its state told last; may be empty
  std::string_view zone{};     ///< of zone: its name
  bool entered = false;        ///< of zone: it came in, and did not go out
};

/// A scene that runs, on an Arena. Cues do what they say: a `damage` with a reach hits through it (each swing each
/// target once, box or reach), an `impulse` moves its actor (fields `forward` and `up`, world units a second, then
/// gravity until the ground), a `spawn` makes an actor where the scene says of what machine. Who flies or follows moves
/// straight within cells of 1/240 s of the scene's time. Who is further than kStage from the middle is gone.
///
/// It is cut where something is written, a move begins or ends, somebody dies, hits or enters a
/// zone: what follows from a hit takes effect at its very instant, so no step size changes anything. Keeps a reference
/// to the scene.
class SceneRun {
  // Where its own moves lead it, without flying and following.
  struct Body {
    Vec2 from{}, to{};  // off the way of its moves, at the ends of [begin, end]
    Ticks begin{}, end{};
    Vec2 velocity{};  // at begin
    bool flies = false, falls = true;
    bool faces_left = false;          // as it follows whom it faces
    std::size_t faced_by = SIZE_MAX;  // the move by which it does; none yet
    Ticks until{};                    // 0: for ever
    bool gone = false;
  };

 public:
  /// `scene` outlives it.
  explicit SceneRun(const Scene& scene);
  explicit SceneRun(Scene&&) = delete;  // it would be gone at once
  SceneRun(const SceneRun&) = delete;   // what watches it knows where it lies
  SceneRun& operator=(const SceneRun&) = delete;

  /// Goes on to `until`, at which the actors' steps take effect too, and calls `told` for each record in order: at one
  /// instant the actors' records in the order of the scene, then hits, then zones.
  void run(Ticks until, const std::function<void(const SceneRecord&)>& told);

  /// The instant up to which it has run.
  [[nodiscard]] Ticks now() const { return now_; }
  /// How many have been there: the scene's actors, then those that were spawned, in the order in which they came.
  [[nodiscard]] std::size_t actors() const { return actors_.size(); }
  /// Somebody, by number.
  [[nodiscard]] const SceneActor& actor(std::size_t index) const { return *actors_[index]; }
  /// Whether it has left the stage for good.
  [[nodiscard]] bool gone(std::size_t actor) const { return bodies_[actor].gone; }
  static constexpr double kStage = 100;  ///< world units
  /// His running machine.
  [[nodiscard]] const Instance& instance(std::size_t actor) const { return instances_[actor]; }
  /// Whether an actor can hit and be hit: not done, nor in a state with the trait `dead`.
  [[nodiscard]] bool alive(std::size_t actor) const;
  /// As of Instance. The scene tries out what lies ahead and takes it back, so what is considered on the way may be
  /// heard more than once; writes are heard once.
  void set_trace(std::size_t actor, TraceHook hook) { instances_[actor].set_trace(hook); }
  /// Calls a hook with each write to his inputs.
  void set_write_hook(std::size_t actor, WriteHook hook) { instances_[actor].set_write_hook(hook); }
  /// Whether time is also cut where something comes due for an actor, so that who is told sees him as he is then.
  void set_at_wakes(bool on) { at_wakes_ = on; }
  /// For a Recorder to listen to; write through write(), and let the run advance it.
  [[nodiscard]] Instance& listened(std::size_t actor) { return instances_[actor]; }
  /// Writes to an actor by hand; it takes effect as the run goes on. Its tape runs on, but for what is held.
  void write(std::size_t actor, const TapeStep& step) { write_step(instances_[actor], step); }
  /// Whether an input, by index, is left to the hand: its tape does not set it any more, nor the ground under it.
  /// REQUIRES: `actor` is there.
  void hold(std::size_t actor, std::uint16_t input, bool held = true);
  /// Whether hold() has left it to the hand.
  [[nodiscard]] bool holds(std::size_t actor, std::uint16_t input) const;

  /// All that a run is at an instant, for going back to it. Keeps who was spawned until then.
  class Moment {
   public:
    /// The instant it was taken at.
    [[nodiscard]] Ticks at() const { return now_; }
    /// What it takes in memory, about.
    [[nodiscard]] std::size_t bytes() const;

   private:
    friend class SceneRun;
    Ticks now_{};
    bool begun_ = false;
    std::vector<std::shared_ptr<const SceneActor>> spawned_{};
    std::vector<std::uint32_t> spawned_of_{};
    std::vector<std::byte> blocks_{};
    std::vector<Body> bodies_{};
    std::vector<std::size_t> next_step_{};
    std::vector<std::string_view> last_damage_{};
    std::vector<std::pair<std::uint32_t, std::uint32_t>> struck_{}, held_{};
    std::optional<Arena::Memory> arena_{};
  };
  [[nodiscard]] Moment save() const;  ///< All of it, to be put back with restore().
  /// Of a still scene: puts the actors where others are, to go on from there: a block each, all of one clock. False,
  /// with nothing changed, where there are not as many or one does not fit.
  bool adopt(const std::vector<std::vector<std::byte>>& blocks);
  /// Makes it what it was. Hooks stay with actors that are there in both. REQUIRES: `moment` was saved by a run of the
  /// same scene.
  void restore(const Moment& moment);
  /// Gives a run that has not begun what `from`, a run of another version of the scene, has come to: actors by their
  /// names, with their state, their places and what is held; who was spawned only if its kind is still there. What
  /// could not be carried over, by the actor's name. Swings under way may hit once more.
  std::vector<std::pair<std::string, CarryLoss>> carry_over(const SceneRun& from);

  /// Where an actor stands at an instant, from now on; of one who neither flies nor follows also before.
  [[nodiscard]] Placement placement(std::size_t actor, Ticks at) const;

 private:
  class Events;
  [[nodiscard]] Placement placement(std::size_t actor, Ticks at, Ticks begun) const;
  [[nodiscard]] Ticks next_cut(Ticks until) const;
  void enter_arena(Ticks cut);
  void run_apart(Ticks until, const std::function<void(const SceneRecord&)>& told);
  void name_tags(const std::vector<std::string>& own, const Machine& machine);
  [[nodiscard]] bool is_to_write() const;
  bool write_steps();
  void write_from_tape(std::size_t actor, const TapeStep& step);
  [[nodiscard]] bool holds(std::size_t actor, std::string_view input) const;
  void react(std::uint32_t actor, std::initializer_list<std::string_view> by);
  [[nodiscard]] Vec2 off(const Body& body, Ticks at) const;
  [[nodiscard]] const SceneMove* following(std::size_t actor) const;
  void plan(std::size_t actor, Ticks until);
  void plan_all();
  void push(std::uint32_t actor, const Cue& cue);
  void spawn(std::uint32_t parent, const Cue& cue, const std::function<void(const SceneRecord&)>& told);
  void clear_stage(const std::function<void(const SceneRecord&)>& told);
  void set_grounded(std::size_t actor, bool value);

  const Scene& scene_;
  Ticks now_{};
  bool begun_ = false, has_zones_ = false, at_wakes_ = false;
  TagNames tags_;
  std::vector<const SceneActor*> actors_;
  std::vector<std::shared_ptr<const SceneActor>> spawned_;
  std::vector<std::uint32_t> spawned_of_;  // beside scene_.spawns: how many
  std::deque<Instance> instances_;         // they stay where they are
  std::vector<Body> bodies_;
  std::vector<std::size_t> next_step_;
  std::vector<std::string_view> last_damage_;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> struck_;  // by and on, of the swings that go on
  std::vector<std::pair<std::uint32_t, std::uint32_t>> held_;    // actor and input, left to the hand
  Arena arena_;
};

}  // namespace mobrin
