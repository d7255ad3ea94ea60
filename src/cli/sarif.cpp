#include "sarif.hpp"

#include <map>

#include "mobrin/check/logic.hpp"

namespace mobrin::cli {
namespace {

// A path as a reference that a URI may hold.
std::string uri_of(const std::string& path) {
  constexpr char kHex[] = "0123456789ABCDEF";
  std::string out;
  for (const char c : path) {
    const auto byte = static_cast<unsigned char>(c);
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '/' ||
                       c == '.' || c == '-' || c == '_' || c == '~';
    if (plain)
      out += c;
    else
      out += {'%', kHex[byte >> 4], kHex[byte & 15]};
  }
  return out;
}

}  // namespace

Json sarif_of(const std::vector<Finding>& findings) {
  std::map<std::string, std::size_t> index;
  Json rules = Json::array(), results = Json::array();
  for (const Finding& finding : findings) {
    const std::string code(text_of(finding.code));
    const auto [found, fresh] = index.try_emplace(code, rules.size());
    if (fresh) {
      Json rule = {{"id", code}};
      if (const std::string_view words = explain_finding(code); !words.empty())
        rule["fullDescription"] = {{"text", std::string(words)}};
      rules.push_back(std::move(rule));
    }
    Json result = {{"ruleId", code},
                   {"ruleIndex", found->second},
                   {"level", is_error(finding) ? "error"
                             : finding.hint    ? "note"
                                               : "warning"},
                   {"message", {{"text", finding.message + (finding.remedy.empty() ? "" : "\n" + finding.remedy)}}}};
    if (!finding.file.empty()) {
      Json place = {{"artifactLocation", {{"uri", uri_of(finding.file)}}}};
      if (finding.line > 0) {
        place["region"] = {{"startLine", finding.line}};
        if (finding.column > 0) place["region"]["startColumn"] = finding.column;
      }
      result["locations"] = Json::array({{{"physicalLocation", place}}});
    }
    results.push_back(std::move(result));
  }
  const Json driver = {{"name", "mobrin"}, {"version", MOBRIN_VERSION_TEXT}, {"rules", rules}};
  return {{"$schema", "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"},
          {"version", "2.1.0"},
          {"runs",
           Json::array({{{"tool", {{"driver", driver}}}, {"columnKind", "unicodeCodePoints"}, {"results", results}}})}};
}

}  // namespace mobrin::cli
