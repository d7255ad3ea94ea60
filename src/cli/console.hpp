// Writing to the terminal: colours where they are wanted, findings, numbers.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin::cli {

enum class Style { plain, strong, faint, good, bad, warm };

// `words` in a style, made printable, for standard output; plain where that is no terminal or NO_COLOR is set.
[[nodiscard]] std::string styled(Style style, std::string_view words);

inline constexpr std::size_t kMostFindingsPrinted = 200;

// Findings as text, to standard error or (the report of `check`) to standard output; the first of them where there are
// more than somebody reads.
void print_findings(const std::vector<Finding>& findings, bool to_stderr);

// `3 errors, 1 warning`.
[[nodiscard]] std::string counts(const std::vector<Finding>& findings);

// `1 state`, `2 states`.
[[nodiscard]] std::string plural(std::size_t count, std::string_view noun);

// A path as a shell takes it for one argument: in quotes where it must be. For commands that are printed.
[[nodiscard]] std::string as_argument(std::string_view path);

// A field's or input's value as a person writes it.
[[nodiscard]] std::string value_text(const FieldValue& value);

// Loads a machine for a command that needs one: prints findings to standard error; empty where there is an error.
[[nodiscard]] std::optional<Loaded> load_or_report(const std::string& path);

// Loads a tape likewise; an empty path gives an empty tape.
[[nodiscard]] std::optional<Tape> tape_or_report(const std::string& path);

// Writes a file whole (see write_file). False, with an error printed, where that cannot be.
[[nodiscard]] bool write_or_report(const std::string& path, std::string_view bytes);

// The folder of a path with its slash.
[[nodiscard]] std::string folder_of(const std::string& path);

// Where a mark lies, and a stretch of a clip, as a file writes them.
[[nodiscard]] std::string mark_text(const MarkDef& mark);
[[nodiscard]] std::string stretch_text(const StretchDef& stretch);

}  // namespace mobrin::cli
