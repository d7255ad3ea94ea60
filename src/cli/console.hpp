// Writing to the terminal: colours where they are wanted, findings, numbers.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <tuple>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin::cli {

enum class Style { plain, strong, faint, good, bad, warm };

// `words` in a style, made printable, for standard output; plain where that is no terminal or NO_COLOR is set.
[[nodiscard]] std::string styled(Style style, std::string_view words);

inline constexpr std::size_t kMostFindingsPrinted = 200;

// Adds to a finding's message at which further lines the same is so.
void name_lines(Finding& finding, const std::vector<std::uint32_t>& lines);

// A name that is unknown wherever it is used is one mistake, made where it is declared or left out, and so is a key that
// is put in the same wrong place again and again: of such findings the first stays, and names the lines of the others.
// `finding_of` gives the finding of one.
template <class Each, class FindingOf>
void tell_once(std::vector<Each>& all, const FindingOf& finding_of) {
  // The nearest name differs with where one stands; where a key belongs makes it another mistake.
  const auto mistake = [](const Finding& each) {
    return std::tuple(each.file, each.message, each.code == FindingCode::unknown_key ? each.remedy : "");
  };
  std::map<std::tuple<std::string, std::string, std::string>, std::vector<std::uint32_t>> lines;
  std::erase_if(all, [&](const Each& each) {
    const Finding& finding = std::invoke(finding_of, each);
    const bool is_spread = finding.code == FindingCode::unknown_name || finding.code == FindingCode::unknown_key;
    if (!is_spread || finding.line == 0) return false;
    std::vector<std::uint32_t>& of_it = lines[mistake(finding)];
    of_it.push_back(finding.line);
    return of_it.size() > 1;
  });
  for (Each& each : all) {
    Finding& finding = std::invoke(finding_of, each);
    if (const auto found = lines.find(mistake(finding)); found != lines.end()) name_lines(finding, found->second);
  }
}

// Findings as text, to standard error or (the report of `check`) to standard output; the first of them where there are
// more than somebody reads; each once.
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
