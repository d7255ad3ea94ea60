// Changing a YAML text in one place.
#include "yaml_edit.hpp"

#include <algorithm>
#include <string_view>

namespace mobrin::io {
namespace {

bool closes(char c) { return c == ',' || c == ']' || c == '}'; }
bool blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; }

}  // namespace

YamlText::YamlText(std::string text, const YamlNode& root) : text_(std::move(text)) {
  const std::size_t first = text_.find('\n');
  newline_ = first != std::string::npos && first > 0 && text_[first - 1] == '\r' ? "\r\n" : "\n";
  lines_.push_back(0);
  for (std::size_t i = 0; i < text_.size(); ++i)
    if (text_[i] == '\n') lines_.push_back(i + 1);
  json_ = root.flow && !root.entries.empty() && root.entries.front().key.quoted;
}

std::size_t YamlText::begin_of(const YamlNode& node) const {
  const std::size_t line = std::min<std::size_t>(std::max(node.line, 1u) - 1, lines_.size() - 1);
  return std::min(text_.size(), lines_[line] + std::max(node.column, 1u) - 1);
}

// Past the last character of a node.
std::size_t YamlText::end_of(const YamlNode& node) const {
  const std::size_t begin = begin_of(node);
  if (node.kind == YamlNode::Kind::null || begin >= text_.size()) return begin;
  const bool container = node.kind != YamlNode::Kind::scalar;
  if (container && !node.flow) {
    if (node.kind == YamlNode::Kind::map) return node.entries.empty() ? begin : end_of(node.entries.back());
    return node.items.empty() ? begin : end_of(node.items.back());
  }
  // Quotes and brackets end where they close; a plain scalar ends before a comment, at the line's end, or (in brackets)
  // where the next part begins.
  int depth = 0;
  char quote = 0;
  std::size_t at = begin;
  const bool framed = container || text_[begin] == '"' || text_[begin] == '\'';
  for (; at < text_.size(); ++at) {
    const char c = text_[at];
    if (quote != 0) {
      if (quote == '"' && c == '\\') ++at;
      if (c == quote) quote = 0;
      if (quote == 0 && depth == 0 && framed) return at + 1;
      continue;
    }
    const bool starts =
        at == begin || blank(text_[at - 1]) || std::string_view("[{,:").find(text_[at - 1]) != std::string_view::npos;
    if (framed && starts && (c == '"' || c == '\'')) {
      quote = c;
      continue;
    }
    if (c == '#' && at > begin && blank(text_[at - 1])) {
      if (!framed) break;
      at = line_end(at);
      continue;
    }
    if (framed) {
      if (c == '{' || c == '[') ++depth;
      if ((c == '}' || c == ']') && --depth == 0) return at + 1;
    } else if (c == '\n' || closes(c) || (c == ':' && at + 1 < text_.size() && blank(text_[at + 1]))) {
      break;
    }
  }
  while (at > begin && blank(text_[at - 1])) --at;
  return at;
}

std::size_t YamlText::end_of(const YamlEntry& entry) const {
  if (entry.value.kind != YamlNode::Kind::null) return end_of(entry.value);
  const std::size_t colon = text_.find(':', end_of(entry.key));
  return colon == std::string::npos ? text_.size() : colon + 1;
}

std::size_t YamlText::line_end(std::size_t at) const {
  std::size_t end = std::min(text_.find('\n', at), text_.size());
  if (end > at && end < text_.size() && text_[end - 1] == '\r') --end;
  return end;
}
std::size_t YamlText::line_begin(std::size_t at) const {
  const std::size_t before = at == 0 ? std::string::npos : text_.rfind('\n', at - 1);
  return before == std::string::npos ? 0 : before + 1;
}

std::string YamlText::written(const YamlNode& node) const {
  const std::size_t begin = begin_of(node);
  return text_.substr(begin, end_of(node) - begin);
}

// ` value`, or lines of their own with this file's line ends.
std::string YamlText::spaced(const std::string& value) const {
  if (!value.starts_with('\n')) return " " + value;
  std::string out;
  for (const char c : value) out += c == '\n' ? newline_ : std::string(1, c);
  return out;
}

void YamlText::add_entry(const YamlNode& map, const YamlEntry* holder, const std::string& key,
                         const std::string& value) {
  if (map.kind == YamlNode::Kind::null) {  // `cues:` and nothing behind it, or an empty file
    if (holder == nullptr) {
      if (!text_.empty() && text_.back() != '\n') text_ += newline_;
      text_ += key + ":" + spaced(value) + newline_;
    } else {
      text_.insert(end_of(*holder), " {" + key + ": " + value + "}");
    }
    return;
  }
  if (map.flow) {
    const bool empty = map.entries.empty();
    text_.insert(empty ? begin_of(map) + 1 : end_of(map.entries.back()), (empty ? "" : ", ") + key + ": " + value);
    return;
  }
  const std::size_t indent = map.entries.empty() ? 0 : map.entries.front().key.column - 1;  // empty: it is no map
  text_.insert(line_end(end_of(map)), newline_ + std::string(indent, ' ') + key + ":" + spaced(value));
}

void YamlText::add_item(const YamlNode& value, const std::string& item) {
  if (value.kind != YamlNode::Kind::list) {
    const std::string old = written(value);
    text_.replace(begin_of(value), old.size(), "[" + old + ", " + item + "]");
  } else if (value.flow) {
    const bool empty = value.items.empty();
    text_.insert(empty ? begin_of(value) + 1 : end_of(value.items.back()), (empty ? "" : ", ") + item);
  } else {
    const std::size_t first = begin_of(value);  // of the first dash
    text_.insert(line_end(end_of(value)), newline_ + std::string(first - line_begin(first), ' ') + "- " + item);
  }
}

void YamlText::replace(const YamlEntry& entry, const std::string& value) {
  if (entry.value.kind == YamlNode::Kind::null) {
    text_.insert(end_of(entry), spaced(value));
    return;
  }
  const std::size_t begin = begin_of(entry.value);
  text_.replace(begin, end_of(entry.value) - begin, value);
}

void YamlText::replace_nodes(std::vector<std::pair<const YamlNode*, std::string>> nodes) {
  std::sort(nodes.begin(), nodes.end(),
            [&](const auto& a, const auto& b) { return begin_of(*a.first) > begin_of(*b.first); });
  for (const auto& [node, words] : nodes) {
    const std::size_t begin = begin_of(*node);
    text_.replace(begin, end_of(*node) - begin, words);
  }
}

void YamlText::rebuild_list(const YamlEntry& entry, const std::vector<Item>& items) {
  const YamlNode& list = entry.value;
  if (list.kind != YamlNode::Kind::list || list.flow || list.items.empty()) {
    std::string out = "[";
    for (const Item& item : items)
      out += (out.size() > 1 ? ", " : "") + (!item.words.empty()                 ? item.words
                                             : list.kind != YamlNode::Kind::list ? written(list)
                                                                                 : written(list.items[item.index]));
    return replace(entry, out + "]");
  }
  // Each item with the lines of comments above it and what stands behind it on its line.
  const std::size_t dash = begin_of(list);
  const std::string indent(dash - line_begin(dash), ' ');
  std::vector<std::pair<std::size_t, std::size_t>> pieces;
  std::size_t begin = line_begin(dash);
  for (const YamlNode& item : list.items) {
    const std::size_t end = std::min(text_.size(), line_end(end_of(item)));
    pieces.emplace_back(begin, end);
    const std::size_t next = text_.find('\n', end);
    begin = next == std::string::npos ? text_.size() : next + 1;
  }
  std::string out;
  for (const Item& item : items) {
    std::string line = indent + "- " + item.words;
    if (item.index < pieces.size()) {
      const auto [from, to] = pieces[item.index];
      line = text_.substr(from, to - from);
      if (!item.words.empty()) {
        const YamlNode& node = list.items[item.index];
        const std::size_t at = begin_of(node);
        line.replace(at - from, end_of(node) - at, item.words);
      }
    }
    out += (out.empty() ? "" : newline_) + line;
  }
  text_.replace(pieces.front().first, pieces.back().second - pieces.front().first, out);
}

void YamlText::remove_lines(std::size_t begin, std::size_t end) {
  const std::size_t from = line_begin(begin);
  const std::size_t newline = text_.find('\n', end);
  text_.erase(from, newline == std::string::npos ? std::string::npos : newline + 1 - from);
}

void YamlText::remove_part(const std::vector<std::pair<std::size_t, std::size_t>>& parts, std::size_t index) {
  std::size_t from = parts[index].first, to = parts[index].second;
  if (index + 1 < parts.size())
    to = parts[index + 1].first;
  else if (index > 0)
    from = parts[index - 1].second;
  text_.erase(from, to - from);
}

void YamlText::remove_entry(const YamlNode& map, std::size_t index) {
  if (!map.flow) return remove_lines(begin_of(map.entries[index].key), end_of(map.entries[index]));
  std::vector<std::pair<std::size_t, std::size_t>> parts;
  for (const YamlEntry& entry : map.entries) parts.emplace_back(begin_of(entry.key), end_of(entry));
  remove_part(parts, index);
}

void YamlText::remove_item(const YamlNode& list, std::size_t index) {
  if (!list.flow) return remove_lines(begin_of(list.items[index]), end_of(list.items[index]));
  std::vector<std::pair<std::size_t, std::size_t>> parts;
  for (const YamlNode& item : list.items) parts.emplace_back(begin_of(item), end_of(item));
  remove_part(parts, index);
}

std::vector<std::pair<std::string, std::string>> leaves(const YamlNode& root) {
  std::vector<std::pair<std::string, std::string>> out;
  const auto visit = [&](const auto& self, const YamlNode& node, const std::string& path) -> void {
    if (node.kind == YamlNode::Kind::scalar) out.emplace_back(path, node.text);
    if (node.kind == YamlNode::Kind::null || (node.items.empty() && node.entries.empty() && node.text.empty()))
      out.emplace_back(path, "");
    for (std::size_t i = 0; i < node.items.size(); ++i) self(self, node.items[i], path + "/" + std::to_string(i));
    for (const auto& [key, value] : node.entries) self(self, value, path + "/" + key.text);
  };
  visit(visit, root, "");
  return out;
}

}  // namespace mobrin::io
