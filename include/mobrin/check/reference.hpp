// The reference evaluator: what a machine must do, computed slowly and plainly. Written from docs/behaviour.md; shares
// nothing with the engine but the definitions. For comparing, not for games.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin {

/// One thing written to an instance at an instant.
struct ScriptEntry {
  /// What is done.
  enum class Kind : std::uint8_t { set, pulse, rate, freeze, reset };
  Ticks at;               ///< the instant
  Kind kind = Kind::set;  ///< what is done
  std::string name{};     ///< of the input or pulse
  double value = 0;       ///< of the input (bools 0 and 1, choices their index) or the rate
  Ticks duration{};       ///< of the freeze
};

/// Runs `definition` from 0 to `until` and gives a line for each record, all kinds: `TICKS enter PATH`, `TICKS leave
/// PATH`, `TICKS loop PATH`, `TICKS done PATH`, `TICKS fault`, `TICKS cue NAME CLIP FRAME EDGE`, and last
/// `TICKS shown PATH CLIP FRAME POSITION` for each play, its position in 1/65536 ticks of the cycle,
/// followed by `TICKS fades PATH CLIP FRAME WEIGHT` for each layer that fades out in its region, the newest first, its
/// weight in millionths.
/// REQUIRES: compile() takes the definition; the script is in order of time.
[[nodiscard]] std::vector<std::string> run_reference(const MachineDef& definition,
                                                     const std::vector<ScriptEntry>& script, Ticks until);

}  // namespace mobrin
