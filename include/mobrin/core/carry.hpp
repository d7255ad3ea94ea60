// Carrying an instance's state by names: into a save, or over to a changed machine while the game runs.
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin {

/// A play by names: what it showed, and how far it had come.
struct SavedPlay {
  std::string state{};               ///< path of the leaf; empty where the region is not active
  std::vector<std::string> clips{};  ///< what it plays: one clip, or several in turn; none for a bare length or nothing
  std::string choice{};              ///< the choice that picked the clip, where an input does; of a blend, `#point`
  std::int64_t position = 0;         ///< on the cycle, in 1/65536 ticks
  std::int64_t cycle = 0;            ///< in ticks; 0 where nothing moves
  std::int32_t speed = 0;            ///< 16.16 fixed point
  std::int32_t edges = 0;            ///< of the cycle, reached so far by a play that ends
  bool backward = false;             ///< it goes back at the moment
};

/// A play that was left and fades out.
struct SavedLayer {
  SavedPlay play{};          ///< what it plays
  std::uint32_t weight = 0;  ///< of 2^30, when the fade began
  bool tells_cues = false;   ///< its cues count while it fades
};

/// What one region was in.
struct SavedRegion {
  std::string path{};                ///< as in RegionInfo; of the machine's own region, empty
  SavedPlay play{};                  ///< what it plays
  std::string rest{};                ///< where `to: back` would lead, if that is remembered
  std::int64_t fade_run = 0;         ///< 1/65536 ticks of the fade that are over
  std::int64_t fade_length = 0;      ///< 1/65536 ticks it lasts in all
  std::vector<SavedLayer> layers{};  ///< the oldest first
};

/// The whole state of an instance by names. Plain values; tickets are not in it.
struct SavedInstance {
  /// A value by its name.
  struct Named {
    std::string state{};  ///< of a variable, timer or memory: path of the state it belongs to; empty for the machine
    std::string name{};   ///< of the input or variable
    FieldValue value{};   ///< what it holds
  };
  std::string machine{};          ///< the machine's name
  std::uint64_t fingerprint = 0;  ///< Machine::fingerprint() of what was saved
  Ticks now{};                    ///< the instance's clock
  Ticks frozen{};                 ///< what is left of a freeze
  std::int32_t rate = 0;          ///< 16.16 fixed point
  std::uint32_t ordinal = 0;      ///< records told at `now` so far
  std::uint8_t flags =
      0;  ///< 1 started, 2 something was written, 4 done, 8 about to be reset, 16 a runaway was told last
  std::vector<Named> inputs{};         ///< a pulse's value: the last instant of its life, in ticks
  std::vector<Named> variables{};      ///< of all states, also of those that are not active
  std::vector<Named> timers{};         ///< time in an active state, 1/65536 ticks
  std::vector<Named> memories{};       ///< `back` and `last`: what a state remembers, by path
  std::vector<SavedRegion> regions{};  ///< in the order of regions()
};

/// One thing that could not be carried over as it was, and what stands in its place: what is gone or of another type,
/// a value that was clamped into a narrower range, a fade that was cut. Of the kind `machine`: nothing was carried
/// over.
struct CarryLoss {
  /// What could not be carried over.
  enum class Kind : std::uint8_t { input, variable, state, play, fade, machine, cue };
  Kind kind = Kind::input;  ///< what was lost
  std::string name{};       ///< of the input or the cue; path of the state
  std::string text{};       ///< for people
};

/// What became of a carrying over. Empty: all of it was carried.
using CarryLosses = std::vector<CarryLoss>;

/// All that `instance` holds, by names. Allocates.
[[nodiscard]] SavedInstance save(const Instance& instance);

/// A machine packed without names goes by numbers, which only the same machine understands: with another one `into`
/// stays as it is, and the one loss says so.
///
/// Gives `into` the state that was saved, of the same machine or of a changed one. What still exists is carried over:
/// inputs and variables by name, states by path, plays by the names of their clips, at the same relative position.
/// What is new has its start value; nothing is told, no action runs. Where the machine is another, transitions are
/// looked at anew at the next advance; where it is the same, the instance goes on bit for bit. Tickets of `into` stay.
CarryLosses load(const SavedInstance& saved, Instance& into);

/// Hot reload: gives `into`, an instance of a changed machine, what `from` holds: the same as load(save(from), into),
/// and cues that the new machine does not have are among the losses, for nobody hears them any more.
CarryLosses carry_over(const Instance& from, Instance& into);

/// The same for a whole crowd: `into`, a crowd of the changed machine, gets the members of `from` at their places, with
/// their handles and the clock; what was in it before is gone. Each loss is told once, with how many members had it.
CarryLosses carry_over(const Crowd& from, Crowd& into);

}  // namespace mobrin
