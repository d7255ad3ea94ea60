// Writing to the terminal.
#include "console.hpp"
#include "command.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"

#include <fmt/format.h>

#include <unistd.h>
#include <filesystem>

#include <algorithm>
#include <cstdlib>

namespace mobrin::cli {
namespace {

bool colours() {
  static const bool wanted = [] {
    const char* none = std::getenv("NO_COLOR");
    return (none == nullptr || *none == '\0') && isatty(STDOUT_FILENO) == 1;
  }();
  return wanted;
}

}  // namespace

std::string styled(Style style, std::string_view words) {
  const std::string text = printable(words);
  if (!colours() || style == Style::plain) return text;
  const int code = style == Style::strong  ? 1
                   : style == Style::faint ? 2
                   : style == Style::good  ? 36
                   : style == Style::bad   ? 31
                                           : 33;
  return fmt::format("\x1b[{}m{}\x1b[0m", code, text);
}

void name_lines(Finding& finding, const std::vector<std::uint32_t>& lines) {
  constexpr std::size_t kMost = 8;
  std::uint32_t last = finding.line;
  std::size_t count = 0;
  for (const std::uint32_t line : lines) {
    if (line == last) continue;
    last = line;
    if (++count <= kMost) finding.message += fmt::format("{}{}", count == 1 ? "; also line " : ", ", line);
  }
  if (count > kMost) finding.message += fmt::format(" and {} more", count - kMost);
}

void print_findings(const std::vector<Finding>& all, bool to_stderr) {
  std::FILE* const out = to_stderr ? stderr : stdout;
  std::vector<Finding> findings = all;
  tell_once(findings, std::identity{});
  std::vector<const Finding*> order;
  for (const Finding& finding : findings) order.push_back(&finding);
  const std::size_t printed = std::min(order.size(), kMostFindingsPrinted);
  if (printed < order.size())
    std::stable_partition(order.begin(), order.end(), [](const Finding* each) { return is_error(*each); });
  for (std::size_t i = 0; i < printed; ++i) fmt::print(out, "{}\n", order[i]->text());
  if (printed < order.size())
    fmt::print(out, "... and {} more; `mobrin check FILE --json` lists all of them\n", order.size() - printed);
}

std::string counts(const std::vector<Finding>& all) {
  std::vector<Finding> findings = all;
  tell_once(findings, std::identity{});
  const auto errors = static_cast<std::size_t>(
      std::count_if(findings.begin(), findings.end(), [](const Finding& f) { return is_error(f); }));
  const std::size_t warnings = findings.size() - errors;
  if (warnings == 0) return plural(errors, "error");
  if (errors == 0) return plural(warnings, "warning");
  return plural(errors, "error") + ", " + plural(warnings, "warning");
}

std::string plural(std::size_t count, std::string_view noun) {
  return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

std::string as_argument(std::string_view path) {
  constexpr std::string_view plain = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789/._-+,:@%";
  if (!path.empty() && path.find_first_not_of(plain) == std::string_view::npos) return std::string(path);
  std::string out = "'";
  for (const char each : path) out += each == '\'' ? "'\\''" : std::string(1, each);
  return printable(out + "'");
}

std::string value_text(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return fmt::format("{}", *whole);
  if (const auto* number = std::get_if<double>(&value)) return fmt::format("{}", static_cast<float>(*number));
  if (const auto* words = std::get_if<std::string>(&value)) return printable(*words);
  std::string out;
  for (const double number : std::get<std::vector<double>>(value))
    out += fmt::format("{}{}", out.empty() ? "" : ", ", number);
  return "[" + out + "]";
}

std::optional<Loaded> load_or_report(const std::string& path) {
  Loaded loaded = load_character(path);
  print_findings(loaded.findings, true);
  if (!loaded.machine) {
    fmt::print(stderr, "{} in {}; nothing was done.\n", counts(loaded.findings), path);
    return std::nullopt;
  }
  return loaded;
}

std::optional<Tape> tape_or_report(const std::string& path) {
  if (path.empty()) return Tape{};
  LoadedTape loaded = load_tape(path);
  print_findings(loaded.findings, true);
  if (!loaded.tape) fmt::print(stderr, "{} in {}; nothing was run.\n", counts(loaded.findings), path);
  return std::move(loaded.tape);
}

std::string folder_of(const std::string& path) {
  const std::size_t slash = path.find_last_of('/');
  return slash == std::string::npos ? "" : path.substr(0, slash + 1);
}

std::string mark_text(const MarkDef& mark) {
  switch (mark.at) {
    case MarkAt::frame_begin:
      return fmt::format("{}", mark.frame);
    case MarkAt::frame_end:
      return fmt::format("{}.end", mark.frame);
    case MarkAt::time:
      return fmt::format("{}s", mark.time.to_seconds());
    case MarkAt::frames:
      return fmt::format("{}-{}", mark.frame, mark.last_frame);
    case MarkAt::times:
      return fmt::format("{}s-{}s", mark.time.to_seconds(), mark.until.to_seconds());
  }
  return "";
}

std::string stretch_text(const StretchDef& stretch) {
  if (stretch.timed) return fmt::format("{}s-{}s", stretch.begin.to_seconds(), stretch.end.to_seconds());
  return stretch.first == stretch.last ? std::to_string(stretch.first)
                                       : fmt::format("{}-{}", stretch.first, stretch.last);
}

int usage(const std::string& message, const std::string& remedy) {
  fmt::print(stderr, "error: {}\n    {}\n", message, remedy);
  return kUsage;
}

bool write_or_report(const std::string& path, std::string_view bytes) {
  const auto written = write_file(path, bytes);
  if (!written) fmt::print(stderr, "error: {}\n", written.error().text());
  return static_cast<bool>(written);
}

}  // namespace mobrin::cli
