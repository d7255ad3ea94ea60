// Characters that look like others, as in text that was copied from a page.
#include <algorithm>
#include <optional>
#include <string>

#include "columns.hpp"
#include "expression/look_alike.hpp"
#include "mend.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

using detail::look_alike;
using detail::LookAlike;

// Goes through a file's text and knows where it is: what is quoted or a comment stays as it is, and so does a space
// within a word, which may be a file's name.
class Spaces {
 public:
  explicit Spaces(std::string_view text) : text_(text) {}

  std::string plain() {
    while (at_ < text_.size()) {
      const char c = text_[at_];
      if (quote_ != 0)
        within_quotes(c);
      else if (c == '#' && (begins_ || last_is_space()))
        copy(text_.find('\n', at_) - at_);
      else if (const LookAlike like = look_alike(text_.substr(at_)); !like.letter.empty() && detail::is_space(like))
        space();
      else
        outside_quotes(c);
    }
    return std::move(out_);
  }

  std::string_view first;              // the first one; empty for none
  std::uint32_t line = 0, column = 0;  // where it stands
  std::uint32_t lines = 0;             // on how many lines there are some

 private:
  void copy(std::size_t bytes) {
    for (const char c : text_.substr(at_, bytes)) {
      column_ = c == '\n' ? 1 : column_ + (goes_on(c) ? 0 : 1);
      line_ += c == '\n' ? 1 : 0;
    }
    out_ += text_.substr(at_, bytes);
    at_ += std::min(bytes, text_.size() - at_);
  }
  [[nodiscard]] bool last_is_space() const { return out_.ends_with(' ') || out_.ends_with('\t'); }
  void within_quotes(char c) {
    if (c == '\\' && quote_ == '"') return copy(2);
    if (c == quote_) quote_ = 0;
    copy(1);
  }
  void outside_quotes(char c) {
    if (begins_ && (c == '"' || c == '\'')) quote_ = c;
    const bool sign = c == ':' || c == ',' || c == '{' || c == '[' || c == '\n' || (c == '-' && begins_);
    begins_ = sign || (begins_ && (c == ' ' || c == '\t' || c == '\r'));
    copy(1);
  }
  // A run of spaces: one that stands before or behind a word is mended, one in it stays.
  void space() {
    std::size_t end = at_;
    while (const std::size_t size = space_size(text_.substr(end))) end += size;
    if (!begins_ && end < text_.size() && std::string_view("\n}],:#").find(text_[end]) == std::string_view::npos)
      return copy(end - at_);
    while (at_ < end) {
      const LookAlike like = look_alike(text_.substr(at_));
      if (like.letter.empty()) {
        copy(1);
        continue;
      }
      if (lines == 0) first = like.letter, line = line_, column = column_;
      lines += told_ == line_ ? 0 : 1;
      told_ = line_;
      out_ += like.plain;
      at_ += like.letter.size();
      column_ += 1;
    }
  }
  // Of what stands at the begin of `text`: 0 where it is no space of any kind.
  static std::size_t space_size(std::string_view text) {
    if (text.empty()) return 0;
    if (text.front() == ' ' || text.front() == '\t' || text.front() == '\r') return 1;
    const LookAlike like = look_alike(text);
    return detail::is_space(like) ? like.letter.size() : 0;
  }

  std::string_view text_;
  std::string out_;
  std::size_t at_ = 0;
  char quote_ = 0;      // the one that is open
  bool begins_ = true;  // a word begins here
  std::uint32_t line_ = 1, column_ = 1, told_ = 0;
};

// Words that begin with a curly quote.
struct Curly {
  Place place;               // of the first one,
  std::string shown, plain;  // how it stands there, and how it is meant
  std::size_t count = 0;
};

bool in_curly_quotes(const YamlNode& node) {
  return node.kind == YamlNode::Kind::scalar && !node.quoted && detail::is_quote(look_alike(node.text));
}
// The curly quote at the end of `text`; empty for none.
std::string_view last_quote(std::string_view text) {
  for (std::size_t size = 2; size <= 3 && size < text.size(); ++size)
    if (const LookAlike like = look_alike(text.substr(text.size() - size));
        like.letter.size() == size && detail::is_quote(like))
      return like.letter;
  return {};
}

void take_off(const Reader& reader, YamlNode& node, Curly& found) {
  if (!in_curly_quotes(node)) return;
  const std::string shown = node.text;
  node.text.resize(node.text.size() - last_quote(node.text).size());
  node.text.erase(0, look_alike(node.text).letter.size());
  node.quoted = true;
  if (found.count++ == 0) found.place = reader.place_of(node), found.shown = shown, found.plain = node.text;
}

// What a comma between curly quotes cut is one again.
std::size_t join_quoted(std::vector<YamlEntry>& entries, std::size_t i) {
  YamlNode& value = entries[i].value;
  if (!in_curly_quotes(value) || !last_quote(value.text).empty()) return 0;
  std::string whole = value.text;
  for (std::size_t j = i + 1; j < entries.size() && entries[j].value.kind == YamlNode::Kind::null; ++j) {
    whole += ", " + entries[j].key.text;
    if (last_quote(whole).empty()) continue;
    value.text = whole;
    return j - i;
  }
  return 0;
}

void take_off_all(const Reader& reader, YamlNode& node, Curly& found) {
  if (node.flow) join(node.entries, join_quoted);
  take_off(reader, node, found);
  for (YamlNode& item : node.items) take_off_all(reader, item, found);
  for (YamlEntry& entry : node.entries) take_off(reader, entry.key, found), take_off_all(reader, entry.value, found);
}

// Of what is told once: that others have such, too.
std::string and_more(std::size_t count, std::string_view what) {
  if (count < 2) return "";
  return "; " + std::to_string(count - 1) + " more " + std::string(what) + (count > 2 ? "s have such" : " has such");
}

}  // namespace

std::optional<std::string> plain_spaces(Reader& reader, std::string_view text) {
  if (std::all_of(text.begin(), text.end(), [](unsigned char c) { return c < 0x80; })) return std::nullopt;
  Spaces spaces(text);
  std::string out = spaces.plain();
  if (spaces.lines == 0) return std::nullopt;
  const bool seen = !look_alike(spaces.first).plain.empty();
  reader.fail(FindingCode::bad_yaml, Place{reader.file(), spaces.line, spaces.column},
              "the character " + detail::code_point(spaces.first) +
                  (seen ? " looks like a space and is none" : " stands here, which cannot be seen") +
                  and_more(spaces.lines, "line"),
              seen ? "Write plain spaces; text that is copied from a page often has others."
                   : "Take it out; text that is copied from a page often has such.");
  return out;
}

void plain_quotes(Reader& reader, YamlNode& root) {
  Curly found;
  for (YamlEntry& entry : root.entries) {
    take_off(reader, entry.key, found);
    if (entry.key.text != "cues") take_off_all(reader, entry.value, found);  // their fields hold any text
  }
  if (found.count == 0) return;
  reader.fail(FindingCode::bad_yaml, found.place,
              "the quotes of " + found.shown + " are none to YAML" + and_more(found.count, "word"),
              "Write `\"" + found.plain + "\"`, or no quotes at all.");
}

namespace {

// A plain value up to what other languages begin a comment with.
void cut_comments(Reader& reader, YamlNode& node) {
  for (YamlNode& item : node.items) cut_comments(reader, item);
  for (YamlEntry& entry : node.entries) cut_comments(reader, entry.value);
  if (node.kind != YamlNode::Kind::scalar || node.quoted) return;
  const std::size_t at = std::min(node.text.find(" //"), node.text.find(" /*"));
  if (at == std::string::npos || at == 0) return;
  reader.fail(FindingCode::bad_yaml, node, "a comment does not begin with `" + node.text.substr(at + 1, 2) + "`",
              "Write `#`.");
  node.text.resize(node.text.find_last_not_of(' ', at) + 1);
}

}  // namespace

void plain_comments(Reader& reader, YamlNode& root, std::string_view text) {
  if (text.find(" //") == text.npos && text.find(" /*") == text.npos) return;
  for (YamlEntry& entry : root.entries)
    if (entry.key.text != "cues") cut_comments(reader, entry.value);  // their fields hold any text
}

}  // namespace mobrin::io
