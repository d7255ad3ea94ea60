// Findings: what loading and checking report, each with a code, a place and a remedy.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/finding_codes.hpp"

namespace mobrin {

/// Where something stands in a file. `file` indexes the definition's list of files; lines and columns count from 1,
/// 0 means unknown (a machine built in code).
struct Place {
  std::uint16_t file = 0;                                        ///< index into the machine's files()
  std::uint32_t line = 0;                                        ///< from 1; 0: none
  std::uint32_t column = 0;                                      ///< from 1, in characters (code points); 0: none
  friend bool operator==(const Place&, const Place&) = default;  ///< The same file, line and column.
};

/// What a finding is; see MOBRIN_FINDINGS.
enum class FindingCode : std::uint8_t {
#define MOBRIN_X(id, text, is_error, meaning) id,
  MOBRIN_FINDINGS(MOBRIN_X)
#undef MOBRIN_X
};

/// The code as printed, such as "unknown-name". Static storage.
[[nodiscard]] std::string_view text_of(FindingCode code);
/// The code that is printed so; nothing for text that is none.
[[nodiscard]] std::optional<FindingCode> finding_code(std::string_view text);
/// All of them, as text_of() says them.
[[nodiscard]] std::vector<std::string_view> finding_codes();
/// What a code means, for people; empty where its findings say it all.
[[nodiscard]] std::string_view meaning_of(FindingCode code);
/// Whether a finding with this code keeps the machine from running; the others are warnings.
[[nodiscard]] bool is_error(FindingCode code);

/// One thing wrong with a definition or a file. Plain value.
struct Finding {
  FindingCode code = FindingCode::bad_value;  ///< what kind of mistake; its word is in brackets behind the message
  std::string file;                           ///< as it was named by the user; empty for a machine built in code
  std::uint32_t line = 0;                     ///< from 1; 0: of no place in a file
  std::uint32_t column = 0;                   ///< from 1, in characters (code points)
  std::string message;                        ///< what is wrong, with the offending words in quotes
  std::string remedy;                         ///< what to do about it: what was expected, or the nearest known name
  std::string subject{};  ///< the name it is about, as it is written, or the code that is accepted; may be empty
  bool hint = false;      ///< a matter of taste: no error, and not even a warning
  bool severe = false;    ///< told as an error, though its code is a warning's: what is wrong is so in every run

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
