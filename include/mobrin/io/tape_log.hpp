// The log of a tape: all that a run of it tells, kept in the tape itself so that a later run can be held against it.
#pragma once

#include <string>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin {

/// A line of a log, `70560000 enter ground/walk`: ticks, then what (`enter`, `leave`, `cue`, `begin`, `end` of a span,
/// `done`, `fault`), then the state's path or the cue's name. Empty for what a log does not hold: loops.
[[nodiscard]] std::string log_line(const Machine& machine, const Cue& cue);

/// `text` of a tape with `log` as its `log:`, in place of the one it has or at its end; no other byte changes. An error
/// where it is not written with its keys one below the other.
[[nodiscard]] Result<std::string> with_log(const std::string& text, const std::vector<std::string>& log);

}  // namespace mobrin
