// Findings: their codes' names and their text.
#include "mobrin/core/finding.hpp"

#include <algorithm>
#include <array>
#include <iterator>
#include <utility>

#include "mobrin/core/names.hpp"

namespace mobrin {
namespace {

struct CodeRow {
  std::string_view text;
  bool error;
  std::string_view meaning;
};
constexpr CodeRow kCodes[] = {
#define MOBRIN_X(id, text, error, meaning) {text, error, meaning},
    MOBRIN_FINDINGS(MOBRIN_X)
#undef MOBRIN_X
};

}  // namespace

std::string_view text_of(FindingCode code) { return kCodes[static_cast<std::size_t>(code)].text; }
std::string_view meaning_of(FindingCode code) { return kCodes[static_cast<std::size_t>(code)].meaning; }

std::optional<FindingCode> finding_code(std::string_view text) {
  for (std::size_t i = 0; i < std::size(kCodes); ++i)
    if (kCodes[i].text == text) return static_cast<FindingCode>(i);
  return std::nullopt;
}

std::vector<std::string_view> finding_codes() {
  std::vector<std::string_view> out;
  for (const auto& code : kCodes) out.push_back(code.text);
  return out;
}

Finding finding_in(std::string file, FindingCode code, std::string message, std::string remedy, std::uint32_t line,
                   std::uint32_t column) {
  Finding out;
  out.code = code;
  out.file = std::move(file);
  out.line = line;
  out.column = column;
  out.message = std::move(message);
  out.remedy = std::move(remedy);
  return out;
}

bool is_error(const Finding& finding) { return finding.severe || is_error(finding.code); }
bool is_error(FindingCode code) { return kCodes[static_cast<std::size_t>(code)].error; }

std::string Finding::text() const {
  std::string out;
  if (!file.empty()) out += printable(file) + ":";
  if (line > 0) out += std::to_string(line) + ":" + std::to_string(column) + ":";
  if (!out.empty()) out += " ";
  out += is_error(*this) ? "error: " : hint ? "hint: " : "warning: ";
  out += printable(message) + " [" + std::string(text_of(code)) + "]";
  if (!remedy.empty()) out += "\n    " + printable(remedy);
  return out;
}

bool has_errors(const std::vector<Finding>& findings) {
  return std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return is_error(f); });
}

}  // namespace mobrin
