// Colons, and spaces behind them, that are missing: YAML then takes a key and its value for one word.
#include <optional>

#include "mend.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

// What stands where `at` does, of text that is none of the file's own lines.
std::optional<YamlNode> parsed_at(const YamlNode& at, const std::string& text) {
  YamlNode out;
  YamlProblem problem;
  if (!parse_yaml(text, out, problem)) return std::nullopt;
  const auto stand = [&](auto&& self, YamlNode& node) -> void {
    node.line = at.line, node.column = at.column;
    for (YamlNode& each : node.items) self(self, each);
    for (YamlEntry& each : node.entries) self(self, each.key), self(self, each.value);
  };
  stand(stand, out);
  return out;
}

// To YAML `swing {pulse: 110ms}` is one word up to its colon, and `{at 2s}` and `{at:2s}` are one word.
void add_colon(Reader& reader, YamlEntry& entry, bool flow) {
  const YamlNode& key = entry.key;
  if (key.kind != YamlNode::Kind::scalar || key.quoted ||
      entry.value.kind != (flow ? YamlNode::Kind::null : YamlNode::Kind::scalar))
    return;
  const std::size_t end = key.text.find_first_of(flow ? ": " : "{[");
  if (end == std::string::npos || end == 0) return;
  const std::size_t last = key.text.find_last_not_of(' ', end - 1);
  const bool colon = key.text[flow ? end : last] == ':';
  const std::string name = key.text.substr(0, colon && !flow ? last : last + 1);
  const std::size_t begin = flow ? key.text.find_first_not_of(' ', end + 1) : end;
  if (begin == std::string::npos) return;
  std::string rest = key.text.substr(begin);
  if (!flow) {
    if (!entry.value.text.ends_with(rest.front() == '{' ? '}' : ']')) return;
    rest += ": " + entry.value.text;
  }
  auto value = is_name(name) ? parsed_at(key, rest) : std::nullopt;
  if (!value) return;
  reader.fail(
      FindingCode::bad_yaml, key,
      std::string("there is no ") + (colon ? "space behind the colon of" : "colon behind") + " \"" + name + "\"",
      "Write `" + name + ": " + rest + "`.");
  entry.key.text = name;
  entry.value = std::move(*value);
}

}  // namespace

void add_colons(Reader& reader, YamlNode& node) {
  for (YamlNode& item : node.items) add_colons(reader, item);
  bool cut = false;  // by the commas of an expression
  for (YamlEntry& entry : node.entries) {
    cut = cut || (node.flow && is_cut(entry.value));
    if (!cut) add_colon(reader, entry, node.flow);
    add_colons(reader, entry.value);
  }
}

}  // namespace mobrin::io
