// What a file is, by its top level.
#include <algorithm>

#include "keys.hpp"
#include "mobrin/core/names.hpp"
#include "reader.hpp"

namespace mobrin::io {

namespace {

// Whether it says by another key that it is one of ours: what else is wrong in it may be told as well.
bool says_what_it_is(const YamlNode& root) {
  for (const char* kind : {"machine", "character", "tape", "scene", "clips", "marks", "inputs", "cues"})
    if (entry_of(root, kind) != nullptr) return true;
  return false;
}

}  // namespace

bool check_version(Reader& reader, YamlNode& root, std::string_view kinds) {
  if (root.kind != YamlNode::Kind::map) {
    reader.fail(
        FindingCode::wrong_kind_of_file, root.line > 0 ? reader.place_of(root) : Place{reader.file(), 1, 1},
        root.kind == YamlNode::Kind::null ? "the file is empty" : "the file holds " + root.words() + ", not a map",
        "Expected " + std::string(kinds) + ".");
    return false;
  }
  for (const auto& [key, value] : root.entries) {
    if (key.text != "mobrin") continue;
    if (value.kind == YamlNode::Kind::scalar && value.text == "1") return true;
    reader.fail(FindingCode::wrong_version, value, "this is version " + value.words() + " of the format",
                "This build reads version 1: `mobrin: 1`.");
    return false;
  }
  std::vector<std::string> keys;
  for (const auto& [key, value] : root.entries) keys.push_back(key.text);
  const std::string nearest = nearest_name("mobrin", keys);
  const auto misspelt = std::find_if(root.entries.begin(), root.entries.end(), [&](const YamlEntry& entry) {
    return !nearest.empty() && entry.key.text == nearest;
  });
  const bool named = misspelt != root.entries.end();
  reader.fail(FindingCode::wrong_version, named ? reader.place_of(misspelt->key) : Place{reader.file(), 1, 1},
              "the file does not say `mobrin: 1`",
              named ? "Write it where `" + nearest + ":` stands; it is the version of the format."
                    : "Put `mobrin: 1` at its begin, the version of the format.");
  if (named) misspelt->key.text = "mobrin";
  return says_what_it_is(root);
}

bool told_by_its_keys(Reader& reader, const YamlNode& root) {
  static const std::vector<std::string> kinds{"character", "tape", "scene"};
  const std::vector<std::string>& known = keys_of(Section::machine);
  for (const auto& [key, value] : root.entries) {
    const std::string kind = nearest_name(key.text, kinds);
    if (kind.empty() || !nearest_name(key.text, known).empty()) continue;
    reader.fail(FindingCode::unknown_key, key, "\"" + key.text + "\" is no key of a machine",
                "Did you mean \"" + kind + "\"?");
    return true;
  }
  if (const YamlEntry* const rects = entry_of(root, "rects"); rects != nullptr && entry_of(root, "image") != nullptr) {
    reader.fail(FindingCode::wrong_kind_of_file, rects->key, "the file describes a packed sheet",
                "A clip names it, `sheet: FILE`; `mobrin import FILE -o NAME.clips.yaml` makes clips of it.");
    return true;
  }
  for (const auto& [kind, only] : {std::pair("scene", "actors"), std::pair("tape", "steps")}) {
    const YamlEntry* const entry = entry_of(root, only);
    if (entry == nullptr || entry_of(root, "states") != nullptr) continue;
    reader.fail(FindingCode::wrong_kind_of_file, entry->key,
                std::string("the file has `") + only + ":` but no `" + kind + ":`",
                std::string("Add `") + kind + ": NAME`.");
    return true;
  }
  return false;
}

}  // namespace mobrin::io
