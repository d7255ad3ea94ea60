// Scenes: several actors on one stage, with what happens between them.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/contact/arena.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// A straight move, or a turn, of an actor.
struct SceneMove {
  Ticks at{};
  Ticks lasts{};  ///< 0: it jumps
  Vec2 by{};      ///< world units
  std::optional<bool> faces_left{};
};

/// What a hit does to the actor who is hit: the rule a game would write in its handler.
struct HitRule {
  Text box{};                                  ///< the name of the box that hits; empty: any
  std::vector<Text> pulses{};                  ///< inputs to pulse
  std::vector<std::pair<Text, double>> add{};  ///< to number inputs
};

struct SceneActor {
  Text name{};
  std::string file{};  ///< of the machine or character
  Placement start{};
  std::vector<std::string> tags{};
  Tape tape{};
  std::vector<SceneMove> moves{};  ///< in order of time; one ends before the next begins
  std::vector<HitRule> rules{};
  std::optional<Machine> machine{};  ///< set in a scene that was loaded without errors
};

/// An actor is dead for contacts while a state with the trait `dead` is active, and once it is done.
struct Scene {
  std::string name;
  std::vector<SceneActor> actors;
  Ticks until{};
};

struct LoadedScene {
  std::optional<Scene> scene;
  std::vector<Finding> findings;
};
/// Loads a scene, its machines and its tapes. Never throws; what cannot be read or does not fit is a finding.
[[nodiscard]] LoadedScene load_scene(const std::string& path);
/// Whether a file says `scene:`; empty where it cannot be read.
[[nodiscard]] std::optional<bool> is_scene(const std::string& path);

/// One thing that happened. Actors are indices into Scene::actors.
struct SceneRecord {
  enum class What : std::uint8_t { told, hit, zone };
  What what = What::told;
  Ticks at{};
  std::uint32_t actor = 0;         ///< who told it, who hit, whose zone
  Cue cue{};                       ///< of told
  std::uint32_t other = 0;         ///< who was hit; who entered or left
  Vec2 where{};                    ///< of a hit
  std::string_view box{}, hurt{};  ///< of a hit: names of both boxes
  std::string_view hit_cue{};      ///< of a hit: the damage cue its state told last; may be empty
  std::string_view zone{};
  bool entered = false;
};

/// A scene that runs. It is cut where something is written, a move begins or ends, somebody dies, hits or enters a
/// zone: what follows from a hit takes effect at its very instant, so no step size changes anything. Keeps a reference
/// to the scene.
class SceneRun {
 public:
  /// `scene` outlives it.
  explicit SceneRun(const Scene& scene);
  explicit SceneRun(Scene&&) = delete;  // it would be gone at once
  SceneRun(const SceneRun&) = delete;   // what watches it knows where it lies
  SceneRun& operator=(const SceneRun&) = delete;

  /// Goes on to `until` and calls `told` for each record in order: at one instant the actors' records in the order of
  /// the scene, then hits, then zones.
  void run(Ticks until, const std::function<void(const SceneRecord&)>& told);

  [[nodiscard]] Ticks now() const { return now_; }
  [[nodiscard]] const Instance& instance(std::size_t actor) const { return instances_[actor]; }
  /// Whether an actor can hit and be hit: not done, nor in a state with the trait `dead`.
  [[nodiscard]] bool alive(std::size_t actor) const;
  /// As of Instance. The scene tries out what lies ahead and takes it back, so what is considered on the way may be heard
  /// more than once; writes are heard once.
  void set_trace(std::size_t actor, TraceHook hook) { instances_[actor].set_trace(hook); }
  void set_write_hook(std::size_t actor, WriteHook hook) { instances_[actor].set_write_hook(hook); }
  /// Where an actor stands at an instant.
  [[nodiscard]] Placement placement(std::size_t actor, Ticks at) const;

 private:
  class Events;
  [[nodiscard]] Ticks next_cut(Ticks until) const;
  bool write_steps();
  void react(std::uint32_t actor, std::string_view box);

  const Scene& scene_;
  Ticks now_{};
  bool begun_ = false;
  TagNames tags_;
  std::vector<Instance> instances_;
  std::vector<std::size_t> next_step_;
  std::vector<std::string_view> last_damage_;
  Arena arena_;
};

}  // namespace mobrin
