// Parts: what a compiled machine is made of, for tools and for games that look closely.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/machine.hpp"

namespace mobrin {

/// A clip of the machine with what follows from its definition.
struct ClipInfo {
  ClipDef def;                 ///< as it was given, parts and holds worked out
  ClipMarksDef marks;          ///< what stands on it
  Ticks length;                ///< exact length of one pass over its frames, rounded down once
  Ticks cycle;                 ///< what comes round: more than `length` for back-and-forth
  std::vector<Ticks> borders;  ///< frame i is shown on [borders[i], borders[i + 1]); empty without frames

  /// The frame shown at `time` of the clip's own time when played forwards (times outside are clamped); empty without
  /// frames.
  [[nodiscard]] std::optional<std::int32_t> frame_at(Ticks time) const;
  /// Where a mark lies on the clip's own time, played forwards; of a span where it begins. The mark is one of `marks`.
  [[nodiscard]] Ticks begin_of(const MarkDef& mark) const;
  /// Where a span ends on the clip's own time; of another mark begin_of it.
  [[nodiscard]] Ticks end_of(const MarkDef& mark) const;
  /// Where the pivot lies on the picture of a frame (before it was trimmed: see pivot_on_cut), in pixels from its top
  /// left: the clip's pivot less the offsets of the clip and of the frame. Empty where the marks say no pivot.
  [[nodiscard]] std::optional<std::pair<double, double>> pivot_of(std::int32_t frame) const;
  /// Whether a stretch holds `time` of the clip's own time and the frame shown then.
  [[nodiscard]] bool holds(const StretchDef& stretch, Ticks time, std::int32_t frame) const;
};

/// A state, as tools look at it.
struct StateInfo {
  std::string path;                  ///< `faint/lie`; empty for the root
  std::uint16_t parent = 0;          ///< index into states(); kNoIndex for the root
  std::uint16_t region = 0;          ///< where it lies, as an index into regions()
  std::vector<std::uint16_t> clips;  ///< what it shows, by index into clips(): in turn, or by choice
  std::string plays;                 ///< in words: `walk`, `windup, strike`, `by heading: walk_up, walk_down`
  bool has_children = false;         ///< of `states` or regions
  std::uint16_t initial = kNoIndex;  ///< the state inside it that is entered with it; none where regions do that
  bool final = false;                ///< the instance is done when it is entered
  bool sealed = false;               ///< rules around it do not lead out of it
  bool uses_loops = false;  ///< something hangs on its loop moments: `each_loop`, or `at: loop` in its or an outer `go`
  std::vector<std::string> traits;  ///< in the file's order
  Place place;                      ///< where it stands in the file
};

/// A region, as tools look at it.
struct RegionInfo {
  std::string path;  ///< `body`, `boss/left`; of what lies directly in the machine or runs alone in a state, empty
  std::uint16_t owner = 0;    ///< the state it lies in
  std::uint16_t initial = 0;  ///< the state it begins in
};

/// A transition, as tools look at it.
struct TransitionInfo {
  std::uint16_t owner = 0;         ///< the state whose rule it is, as an index into states()
  std::uint16_t target = 0;        ///< of `back` the owner, of `x/last` x
  std::uint16_t pulse = kNoIndex;  ///< the pulse that is its event, as an index into inputs()
  std::string to;                  ///< the target as written
  std::string text;  ///< its event, guard, window and fade, as a file says them: `pulse: swing, when: carrying == net`
  Place place;       ///< where it stands in the file
};

/// A zone with the inputs it fills, as indices into inputs(); kNoIndex where it fills none.
struct ZoneInfo {
  ZoneDef def;                      ///< as it was given
  std::uint16_t inside = kNoIndex;  ///< input that it writes, as an index into inputs(); kNoIndex for none
  std::uint16_t enter = kNoIndex;   ///< likewise
  std::uint16_t leave = kNoIndex;   ///< likewise
  bool counts = false;              ///< `inside` is an int
};

}  // namespace mobrin
