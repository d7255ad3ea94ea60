// A run as a picture: lanes over time for what was written, where the machine was, what it showed and what it told.
#pragma once

#include <string>

#include "mobrin/io/load.hpp"

namespace mobrin {

/// Runs `tape` on a fresh instance until `until` and draws what happens from `from` on to `path`, an SVG if that is its
/// ending, else a PNG, on light or `dark` ground: the inputs the tape writes, pulses with their life and whether and
/// when they were taken, variables, looks, the states and the clips with their frames for each region, cues and spans,
/// faults and the end. A picture that cannot be written is an error. REQUIRES: check_tape found no error; `until` is
/// above `from`.
[[nodiscard]] Outcome draw_run(const Machine& machine, const Tape& tape, Ticks until, const std::string& path,
                               bool dark = false, Ticks from = {});

}  // namespace mobrin
