// Reading YAML into a tree. Uses the parser's events: they keep duplicate keys, places and styles.
#include "yaml_tree.hpp"

#include <yaml-cpp/depthguard.h>
#include <yaml-cpp/eventhandler.h>
#include <yaml-cpp/yaml.h>
#include <algorithm>
#include <new>

#include <map>
#include <sstream>

#include "yaml_trouble.hpp"

namespace mobrin::io {
namespace {

struct TooLarge {
  std::string what;
};

class TreeMaker final : public YAML::EventHandler {
 public:
  TreeMaker(std::string_view source, YamlNode& root) : root_(root) {
    std::size_t begin = 0;
    while (begin <= source.size()) {
      const std::size_t end = std::min(source.find('\n', begin), source.size());
      lines_.push_back(source.substr(begin, end - begin));
      begin = end + 1;
    }
  }

  void OnDocumentStart(const YAML::Mark&) override {}
  void OnDocumentEnd() override {}

  void OnNull(const YAML::Mark& mark, YAML::anchor_t anchor) override {
    YamlNode node = make(YamlNode::Kind::null, mark);
    put_behind(node);
    add(std::move(node), anchor);
  }

  void OnScalar(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                const std::string& value) override {
    YamlNode node = make(YamlNode::Kind::scalar, mark);
    bytes_ += value.size();
    node.text = value;
    node.quoted = tag == "!";
    node.tagged = is_tagged(node, tag);
    if (node.tagged && node.text.empty()) node.text = tag;
    add(std::move(node), anchor);
  }

  void OnAlias(const YAML::Mark& mark, YAML::anchor_t anchor) override {
    const auto found = anchors_.find(anchor);
    if (found != anchors_.end()) count_all(found->second);
    YamlNode copy = found == anchors_.end() ? YamlNode() : found->second;
    copy.line = static_cast<std::uint32_t>(mark.line + 1);
    copy.column = static_cast<std::uint32_t>(mark.column + 1);
    place(std::move(copy));
  }

  void OnSequenceStart(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                       YAML::EmitterStyle::value style) override {
    open(YamlNode::Kind::list, mark, tag, anchor, style);
  }
  void OnSequenceEnd() override { close(); }
  void OnMapStart(const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
                  YAML::EmitterStyle::value style) override {
    open(YamlNode::Kind::map, mark, tag, anchor, style);
  }
  void OnMapEnd() override { close(); }

 private:
  struct Open {
    YamlNode node;
    YAML::anchor_t anchor = 0;
    bool has_key = false;
    YamlNode key;
  };

  YamlNode make(YamlNode::Kind kind, const YAML::Mark& mark) {
    YamlNode node;
    count(node);
    node.kind = kind;
    node.line = static_cast<std::uint32_t>(mark.line + 1);
    node.column = static_cast<std::uint32_t>(mark.column + 1);
    return node;
  }
  // `null` or `~`, not just nothing.
  bool is_written(const YamlNode& node) const {
    if (node.line > lines_.size()) return false;
    const std::string_view line = lines_[node.line - 1];
    const std::string_view words = node.column <= line.size() ? line.substr(node.column - 1) : "";
    return words.starts_with('~') || words.starts_with("null") || words.starts_with("Null") ||
           words.starts_with("NULL");
  }
  // What is not there is where the next word begins, to the parser: it belongs to the key or the dash that it is
  // behind.
  void put_behind(YamlNode& node) const {
    if (open_.empty() || is_written(node)) return;
    const Open& parent = open_.back();
    if (parent.node.kind == YamlNode::Kind::map) {
      if (!parent.has_key || parent.key.line == node.line) return;
      node.line = parent.key.line;
      node.column = parent.key.column;
      return;
    }
    if (parent.node.flow) return;
    // The last dash before it with nothing behind but comments.
    const auto last = static_cast<std::uint32_t>(std::min<std::size_t>(node.line, lines_.size()));
    for (std::uint32_t line = last; line > 0 && node.line - line <= 3; --line) {
      const std::string_view words = lines_[line - 1].substr(0, lines_[line - 1].find(" #"));
      const std::size_t dash = words.find_last_not_of(" \r");
      if (dash == std::string_view::npos || words[dash] != '-') continue;
      if (line == node.line && dash + 1 >= node.column && line < lines_.size()) continue;  // the next one's
      node.line = line;
      node.column = static_cast<std::uint32_t>(dash + 1);
      return;
    }
  }
  // Quoted scalars have the tag "!" without showing it; whoever writes `! x` has it too, so the source decides.
  bool is_tagged(const YamlNode& node, const std::string& tag) const {
    if (tag.empty() || tag == "?") return false;
    if (tag != "!") return true;
    return node.line <= lines_.size() && node.column <= lines_[node.line - 1].size() &&
           lines_[node.line - 1][node.column - 1] == '!';
  }
  void count(const YamlNode& node) {
    bytes_ += sizeof node + node.text.size();
    if (++count_ > kMaxNodes) throw TooLarge{"has more than 500000 values"};
    if (bytes_ > kMaxTreeBytes) throw TooLarge{"takes more than 128 MiB of memory"};
  }
  void count_all(const YamlNode& node) {
    count(node);
    for (const YamlNode& item : node.items) count_all(item);
    for (const auto& [key, value] : node.entries) {
      count_all(key);
      count_all(value);
    }
  }
  void open(YamlNode::Kind kind, const YAML::Mark& mark, const std::string& tag, YAML::anchor_t anchor,
            YAML::EmitterStyle::value style) {
    YamlNode node = make(kind, mark);
    node.flow = style == YAML::EmitterStyle::Flow;
    node.tagged = !tag.empty() && tag != "?";
    open_.push_back({std::move(node), anchor, false, {}});
  }
  void close() {
    Open done = std::move(open_.back());
    open_.pop_back();
    add(std::move(done.node), done.anchor);
  }
  void add(YamlNode node, YAML::anchor_t anchor) {
    if (anchor != 0) {
      count_all(node);  // it is kept once more, for whoever names it
      anchors_[anchor] = node;
    }
    place(std::move(node));
  }
  void place(YamlNode node) {
    if (open_.empty()) {
      root_ = std::move(node);
      return;
    }
    Open& parent = open_.back();
    if (parent.node.kind == YamlNode::Kind::list) {
      parent.node.items.push_back(std::move(node));
    } else if (!parent.has_key) {
      parent.key = std::move(node);
      parent.has_key = true;
    } else {
      parent.node.entries.push_back({std::move(parent.key), std::move(node)});
      parent.has_key = false;
    }
  }

  YamlNode& root_;
  std::vector<std::string_view> lines_;
  std::vector<Open> open_;
  std::map<YAML::anchor_t, YamlNode> anchors_;
  std::size_t count_ = 0, bytes_ = 0;
};

}  // namespace

std::string YamlNode::words() const {
  switch (kind) {
    case Kind::null:
      return "nothing";
    case Kind::scalar:
      return "\"" + (text.size() > 60 ? text.substr(0, 57) + "..." : text) + "\"";
    case Kind::list:
      return "a list";
    case Kind::map:
      return "a map";
  }
  return "";
}

bool parse_yaml(std::string_view source, YamlNode& root, YamlProblem& problem) {
  if (source.size() > kMaxFileBytes) {
    problem = {true, 1, 1, "the file is larger than 8 MiB", "Split it up and name the parts under `use:`."};
    return false;
  }
  if (is_no_text(source)) {
    problem = no_text(source);
    return false;
  }
  try {
    std::istringstream stream{std::string(source)};
    YAML::Parser parser(stream);
    TreeMaker maker(source, root);
    if (!parser.HandleNextDocument(maker)) root = {};
    YamlNode other;
    TreeMaker rest({}, other);
    if (parser.HandleNextDocument(rest)) {
      problem = second_document(source, other.line);
      return false;
    }
    return true;
  } catch (const TooLarge& large) {
    problem = {true, 1, 1, "the file " + large.what, "Split it up; aliases (`*name`) count each time they are used."};
  } catch (const YAML::DeepRecursion&) {
    problem = {true, 1, 1, "the file nests too deeply", "Flatten it; a machine needs no more than a few dozen levels."};
  } catch (const YAML::Exception& error) {
    problem = trouble_of(source, static_cast<std::uint32_t>(error.mark.line + 1),
                         static_cast<std::uint32_t>(error.mark.column + 1), error.msg);
  } catch (const std::bad_alloc&) {
    throw;  // no fault of the file's
  } catch (const std::exception& error) {
    problem = {false, 1, 1, std::string("this cannot be read as YAML: ") + error.what(), "Check the file."};
  }
  return false;
}

}  // namespace mobrin::io
