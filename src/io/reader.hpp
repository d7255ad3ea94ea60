// Reading values out of a YAML tree, with a finding for each that does not fit. loader.cpp and its kin build on this.
#pragma once

#include <initializer_list>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "keys.hpp"
#include "mobrin/core/definition.hpp"
#include "mobrin/io/load.hpp"
#include "yaml_tree.hpp"

namespace mobrin::io {

// The values of a map, its keys checked against the table of a section. Refers to the node, which must outlive it.
class Fields {
 public:
  [[nodiscard]] const YamlNode* get(std::string_view key) const {
    const auto found = values_.find(key);
    return found == values_.end() ? nullptr : found->second;
  }
  [[nodiscard]] bool has(std::string_view key) const { return get(key) != nullptr; }
  void put(std::string_view key, const YamlNode* value) { values_.emplace(key, value); }
  bool foreign = false;  // no map, or none of its keys is one of the section: what is missing is not to be told
  bool strange = false;  // one of its keys is none of the section: it may say what is missing

 private:
  std::map<std::string, const YamlNode*, std::less<>> values_;
};

class Reader {
 public:
  Reader(std::vector<std::string>& files, std::vector<Finding>& findings) : files_(files), findings_(findings) {}

  const FileText* instead = nullptr;  // stands for what a file holds
  bool left_out = false;              // something was not read: names that are missing may be there

  // Reads and parses a file, or text that stands for one; null with a finding where that fails.
  [[nodiscard]] std::optional<YamlNode> parse_file(const std::string& path, const Text& named_by);
  // `before`: how many lines of the file come before the text.
  [[nodiscard]] std::optional<YamlNode> parse_text(std::string_view text, const std::string& name,
                                                   std::uint32_t before = 0);
  // Reads at most a byte more than `most`; null with a finding where that fails.
  [[nodiscard]] std::optional<std::string> read_text(const std::string& path, const Text& named_by, std::size_t most);

  void fail(FindingCode code, const YamlNode& node, std::string message, std::string remedy) {
    fail(code, place_of(node), std::move(message), std::move(remedy));
  }
  void fail(FindingCode code, Place place, std::string message, std::string remedy);
  // Where a list is two numbers that are not neighbours, or two times, as one writes who means all from the one to the
  // other; whether it says nothing else.
  bool look_for_ends(const YamlNode& node, std::string_view what);
  // "expected ... but found ..."
  void mismatch(const YamlNode& node, std::string_view what, std::string_view expected);
  // The same; a number that is written in another way is answered with how it is written here.
  using Reads = bool (*)(std::string_view text);
  void no_number(const YamlNode& node, std::string_view what, std::string_view expected, Reads reads);
  // The same of a list of numbers: `22, 38` without its brackets.
  void no_numbers(const YamlNode& node, std::string_view what, std::string_view expected);
  // True, and told, where brackets of an expression in { } or [ ] stay open.
  bool unclosed(const YamlNode& node);

  [[nodiscard]] Place place_of(const YamlNode& node) const { return {file_, node.line, node.column}; }
  [[nodiscard]] Text text_of(const YamlNode& node) const;

  // Checks that `node` is a map whose keys belong to `section`.
  [[nodiscard]] Fields fields(const YamlNode& node, Section section);
  // Visits the entries of a map of names. Null counts as empty.
  template <class Visit>
  void each_entry(const YamlNode& node, std::string_view what, const Visit& visit) {
    if (!is_map(node, what)) {
      left_out = left_out || node.kind != YamlNode::Kind::null;
      return;
    }
    for (const auto& [key, value] : node.entries)
      if (plain_key(key)) visit(key, value);
  }
  // Visits the items of a list; a single value counts as a list of one.
  template <class Visit>
  void each_item(const YamlNode& node, const Visit& visit) {
    if (node.kind == YamlNode::Kind::null) return;
    if (node.kind != YamlNode::Kind::list) return visit(node);
    for (const YamlNode& item : node.items) visit(item);
  }

  // Values; each reports and gives nothing where the node does not hold one.
  [[nodiscard]] std::optional<Text> name(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<bool> boolean(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<std::int64_t> whole(const YamlNode& node, std::string_view what, std::int64_t low,
                                                  std::int64_t high);
  [[nodiscard]] std::optional<double> number(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<Ticks> duration(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<Fraction> fraction(const YamlNode& node);
  [[nodiscard]] std::optional<Text> expression(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<StretchDef> stretch(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::optional<PlayMode> play(const YamlNode& node);
  [[nodiscard]] std::optional<FieldValue> field_value(const YamlNode& node, std::string_view what);
  [[nodiscard]] std::vector<Text> names(const YamlNode& node, std::string_view what);
  // One of a few words; the nearest is offered.
  [[nodiscard]] std::optional<std::size_t> one_of(const YamlNode& node, std::string_view what,
                                                  std::initializer_list<std::string_view> words);

  [[nodiscard]] std::uint16_t file() const { return file_; }
  void set_file(std::uint16_t file) { file_ = file; }

 private:
  bool is_map(const YamlNode& node, std::string_view what);
  bool plain_key(const YamlNode& key);
  void tell_foreign(std::span<const YamlEntry* const> foreign, Section section, bool together);
  [[nodiscard]] std::optional<YamlNode> parse_into(std::string_view text);

  std::vector<std::string>& files_;
  std::vector<Finding>& findings_;
  std::uint16_t file_ = 0;
  const YamlNode* renamed_ = nullptr;  // the value of the last key that was told to be another
};

// In the order of `files`, and as they stand in each.
[[nodiscard]] std::vector<Finding> sorted_by_place(std::vector<Finding> findings,
                                                   const std::vector<std::string>& files);
// Whether a file can be read on: it says `mobrin: 1`, or does not and is told so, but is one of ours by its other keys.
// Another version and what is no map are told, too; the file should be one of `kinds`.
[[nodiscard]] bool check_version(Reader& reader, YamlNode& root, std::string_view kinds);
// Whether a file that says it is no other kind is one by its other keys, or its kind is misspelt: told then.
[[nodiscard]] bool told_by_its_keys(Reader& reader, const YamlNode& root);
// `text` as ticks: digits with an optional fraction and `ms` or `s`; rounded to the nearest tick, half up. Empty where
// it is no duration at all.
[[nodiscard]] std::optional<Ticks> read_duration(std::string_view text);
// A whole number; empty where `text` is none or does not fit.
[[nodiscard]] std::optional<std::int64_t> parse_whole(std::string_view text);
// A finite number.
[[nodiscard]] std::optional<double> parse_number(std::string_view text);
// A play mode in other words than `play:` takes, such as `loop 3`, as it is written here; empty for none.
[[nodiscard]] std::string meant_play(std::string_view text);
// Frames such as 4-5, or times such as 0.1s-0.3s; empty for what is neither.
[[nodiscard]] std::optional<StretchDef> stretch_of(std::string_view text);
// What of that is meant by a map of two ends, or by times without a unit; empty where it is not clear.
[[nodiscard]] std::string stretch_meant(const YamlNode& node);
// Whether it is the begin of an expression in which YAML took a comma for its end.
[[nodiscard]] bool is_cut(const YamlNode& node);
// `a clip`, `an input`.
[[nodiscard]] std::string with_article(std::string_view name);
// `"a", "b" and "c"`; of many the first few and how many more.
[[nodiscard]] std::string in_quotes(std::span<const std::string> words);
// The folder of a path, with its slash; empty for none.
[[nodiscard]] std::string folder_of(const std::string& path);
// `path` as seen from `folder`, normalised; absolute paths stay.
[[nodiscard]] std::string join(const std::string& folder, const std::string& path);

}  // namespace mobrin::io
