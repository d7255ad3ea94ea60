// Changing a YAML text in one place. Positions come from the parsed tree; the rest of the text is not touched.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "yaml_tree.hpp"

namespace mobrin::io {

class YamlText {
 public:
  // REQUIRES: `root` is the tree of `text`.
  YamlText(std::string text, const YamlNode& root);

  // Each of these makes one change, after which the tree is stale: parse the result again.

  // Adds `key: value` at the end of a map. `holder` is the entry whose value the map is; null for the root.
  void add_entry(const YamlNode& map, const YamlEntry* holder, const std::string& key, const std::string& value);
  // Adds an item at the end of a list; a scalar becomes a list of two.
  void add_item(const YamlNode& value, const std::string& item);
  void replace(const YamlEntry& entry, const std::string& value);
  // Other words for nodes of one tree, all at once; none lies within another.
  void replace_nodes(std::vector<std::pair<const YamlNode*, std::string>> nodes);
  // A list anew: each item is one of those that are there, by index, with its comments, or new words (`words` not
  // empty), in place of it or beside. A block list stays one.
  struct Item {
    std::size_t index = static_cast<std::size_t>(-1);
    std::string words{};
  };
  void rebuild_list(const YamlEntry& entry, const std::vector<Item>& items);
  void remove_entry(const YamlNode& map, std::size_t index);
  void remove_item(const YamlNode& list, std::size_t index);

  // The words of a node as they are written.
  [[nodiscard]] std::string written(const YamlNode& node) const;
  // A word as this file writes words: in JSON in quotes.
  [[nodiscard]] std::string word(const std::string& text) const { return json_ ? "\"" + text + "\"" : text; }
  [[nodiscard]] bool is_json() const { return json_; }
  [[nodiscard]] const std::string& text() const { return text_; }
  // How its lines end, as the first one does.
  [[nodiscard]] const std::string& newline() const { return newline_; }
  [[nodiscard]] std::size_t begin_of(const YamlNode& node) const;
  // Where the line of that character begins.
  [[nodiscard]] std::size_t line_begin(std::size_t at) const;

 private:
  [[nodiscard]] std::size_t end_of(const YamlNode& node) const;
  [[nodiscard]] std::size_t end_of(const YamlEntry& entry) const;
  [[nodiscard]] std::size_t line_end(std::size_t at) const;
  [[nodiscard]] std::string spaced(const std::string& value) const;
  void remove_lines(std::size_t begin, std::size_t end);
  // Of the parts of a flow list or map: [begin, end) of each.
  void remove_part(const std::vector<std::pair<std::size_t, std::size_t>>& parts, std::size_t index);

  std::string text_;
  std::string newline_;
  std::vector<std::size_t> lines_;  // where each begins
  bool json_ = false;
};

// All scalars of a tree by their paths, to compare trees.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> leaves(const YamlNode& root);

}  // namespace mobrin::io
