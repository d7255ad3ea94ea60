// The tree of a YAML file with the place of every node, and the limits on hostile input.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace mobrin::io {

inline constexpr std::size_t kMaxFileBytes = 8u << 20;
inline constexpr std::size_t kMaxNodes = 500'000;
inline constexpr std::size_t kMaxTreeBytes = 128u << 20;

struct YamlEntry;

struct YamlNode {
  enum class Kind : std::uint8_t { null, scalar, list, map };
  Kind kind = Kind::null;
  bool quoted = false;
  bool flow = false;       // written with { } or [ ]
  bool tagged = false;     // begins with `!`
  std::uint32_t line = 0;  // from 1
  std::uint32_t column = 0;
  std::string text;
  std::vector<YamlNode> items;
  std::vector<YamlEntry> entries;

  // Whether nothing is there, or a list or map of nothing.
  [[nodiscard]] bool is_empty() const { return kind != Kind::scalar && items.empty() && entries.empty(); }
  // The words of a node for a message: the scalar, or what it is.
  [[nodiscard]] std::string words() const;
};

// A key of a map and its value.
struct YamlEntry {
  YamlNode key;
  YamlNode value;
};

// The entry of a map under a key; null where there is none, or no map.
[[nodiscard]] inline const YamlEntry* entry_of(const YamlNode* map, std::string_view key) {
  if (map == nullptr) return nullptr;
  for (const YamlEntry& entry : map->entries)
    if (entry.key.text == key) return &entry;
  return nullptr;
}
[[nodiscard]] inline const YamlEntry* entry_of(const YamlNode& map, std::string_view key) {
  return entry_of(&map, key);
}

struct YamlProblem {
  bool too_large = false;
  std::uint32_t line = 0;
  std::uint32_t column = 0;
  std::string message;
  std::string remedy;
};

// Parses the one document of `source`. True, or false with the reason.
[[nodiscard]] bool parse_yaml(std::string_view source, YamlNode& root, YamlProblem& problem);

}  // namespace mobrin::io
