// What a file says, in words: for `list` and `marks`.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "json.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin::cli {

// All states of a definition by their paths; the root under the empty one.
[[nodiscard]] std::map<std::string, const StateDef*> states_by_path(const MachineDef& definition);

// What a state says beside what it plays and its transitions: speed, variables, actions, its blend; a line each.
[[nodiscard]] std::vector<std::string> lines_of(const StateDef& state);
[[nodiscard]] Json json_of(const StateDef& state);

// What a transition says beside TransitionInfo::text: `start: same, cues: both, do: n = n + 1`; or empty.
[[nodiscard]] std::string extras_of(const GoDef& go);
[[nodiscard]] Json json_of(const GoDef& go);

// `rect [-10, -5, 18, 11]`, `cone of 26 px and 75 degrees from [0, 12]`
[[nodiscard]] std::string shape_text(const Shape& shape);
[[nodiscard]] Json json_of(const Shape& shape);

// Whom a box, a reach or a zone takes: `, only hornet, not friend`; or empty.
[[nodiscard]] std::string tags_text(const std::vector<std::string>& only, const std::vector<std::string>& spares);

[[nodiscard]] std::string vars_text(const std::vector<VarDef>& vars);

// All of a clip's marks sorted by where they lie: what they are, where, as a file writes it, and in seconds.
struct MarkLine {
  double seconds = 0;  // where it begins; below 0: the whole clip
  std::string place;
  std::string cue;   // of cues and spans
  std::string text;  // what it is, where in words
};
[[nodiscard]] std::vector<MarkLine> mark_lines(const ClipInfo& clip);

// A clip with its frames and all of its marks.
[[nodiscard]] Json clip_json(const Machine& machine, const ClipInfo& clip);

}  // namespace mobrin::cli
