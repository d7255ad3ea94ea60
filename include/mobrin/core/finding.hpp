// Findings: what loading and checking report, each with a code, a place and a remedy.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace mobrin {

/// Where something stands in a file. `file` indexes the definition's list of files; lines and columns count from 1,
/// 0 means unknown (a machine built in code).
struct Place {
  std::uint16_t file = 0;
  std::uint32_t line = 0;
  std::uint32_t column = 0;
  friend bool operator==(const Place&, const Place&) = default;
};

/// Every code a finding can have: identifier, the code as printed, whether it keeps the machine from running.
#define MOBRIN_FINDINGS(X)                          \
  X(unreadable_file, "unreadable-file", true)       \
  X(bad_yaml, "bad-yaml", true)                     \
  X(too_large, "too-large", true)                   \
  X(wrong_version, "wrong-version", true)           \
  X(wrong_kind_of_file, "wrong-kind-of-file", true) \
  X(unknown_key, "unknown-key", true)               \
  X(duplicate_key, "duplicate-key", true)           \
  X(missing_key, "missing-key", true)               \
  X(wrong_type, "wrong-type", true)                 \
  X(bad_value, "bad-value", true)                   \
  X(bad_name, "bad-name", true)                     \
  X(duplicate_name, "duplicate-name", true)         \
  X(unknown_name, "unknown-name", true)             \
  X(bad_expression, "bad-expression", true)         \
  X(wrong_operand, "wrong-operand", true)           \
  X(conflicting_keys, "conflicting-keys", true)     \
  X(outside_clip, "outside-clip", true)             \
  X(meaningless_event, "meaningless-event", true)   \
  X(unreachable_target, "unreachable-target", true) \
  X(division_by_zero, "division-by-zero", false)    \
  X(never_ends, "never-ends", false)                \
  X(missing_art, "missing-art", false)              \
  X(unreadable_art, "unreadable-art", true)         \
  X(bad_grid, "bad-grid", true)                     \
  X(number_twice, "number-twice", true)             \
  X(gap_in_numbers, "gap-in-numbers", false)        \
  X(no_length, "no-length", false)                  \
  X(ground_jump, "ground-jump", false)              \
  X(pivot_missing, "pivot-missing", false)          \
  X(pivot_jump, "pivot-jump", false)                \
  X(mixed_sizes, "mixed-sizes", false)              \
  X(empty_frame, "empty-frame", false)              \
  X(equal_neighbours, "equal-neighbours", false)    \
  X(same_picture, "same-picture", false)            \
  X(loop_seam, "loop-seam", false)                  \
  X(absurd_rate, "absurd-rate", false)              \
  X(unreached_cue, "unreached-cue", false)          \
  X(look_misfit, "look-misfit", false)              \
  X(after_until, "after-until", false)              \
  X(unreachable, "unreachable", false)              \
  X(no_way_out, "no-way-out", false)                \
  X(never_holds, "never-holds", false)              \
  X(always_holds, "always-holds", false)            \
  X(shadowed, "shadowed", false)                    \
  X(wrong_order, "wrong-order", false)              \
  X(flicker, "flicker", false)                      \
  X(unused_input, "unused-input", false)            \
  X(unused_var, "unused-var", false)                \
  X(unused_cue, "unused-cue", false)                \
  X(unused_clip, "unused-clip", false)              \
  X(unused_window, "unused-window", false)          \
  X(unused_reach, "unused-reach", false)            \
  X(stays_set, "stays-set", false)                  \
  X(hits_twice, "hits-twice", false)                \
  X(idle_accept, "idle-accept", false)              \
  X(runaway, "runaway", false)                      \
  X(press_lost, "press-lost", false)                \
  X(revived, "revived", false)                      \
  X(stands_still, "stands-still", false)

enum class FindingCode : std::uint8_t {
#define MOBRIN_X(id, text, is_error) id,
  MOBRIN_FINDINGS(MOBRIN_X)
#undef MOBRIN_X
};

/// The code as printed, such as "unknown-name". Static storage.
[[nodiscard]] std::string_view text_of(FindingCode code);
/// Whether a finding with this code keeps the machine from running; the others are warnings.
[[nodiscard]] bool is_error(FindingCode code);

/// One thing wrong with a definition or a file. Plain value.
struct Finding {
  FindingCode code = FindingCode::bad_value;
  std::string file;  ///< as it was named by the user; empty for a machine built in code
  std::uint32_t line = 0;
  std::uint32_t column = 0;
  std::string message;  ///< what is wrong, with the offending words in quotes
  std::string remedy;   ///< what to do about it: what was expected, or the nearest known name
  std::string subject{};  ///< the name it is about, as it is written, or the code that is accepted; may be empty
  bool hint = false;    ///< a matter of taste: no error, and not even a warning
  bool severe = false;  ///< told as an error, though its code is a warning's: what is wrong is so in every run

  /// `file:line:column: error: message [code]` (or `warning:`, `hint:`), then the remedy on a line of its own,
  /// indented.
  [[nodiscard]] std::string text() const;
};

/// One of a whole file, or of a place in it.
[[nodiscard]] Finding finding_in(std::string file, FindingCode code, std::string message, std::string remedy,
                                 std::uint32_t line = 0, std::uint32_t column = 0);

/// Whether it is told as an error.
[[nodiscard]] bool is_error(const Finding& finding);
/// Whether any finding of the list is an error.
[[nodiscard]] bool has_errors(const std::vector<Finding>& findings);

}  // namespace mobrin
