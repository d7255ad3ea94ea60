// Commas that YAML takes for the end of a value: within numbers, and between the operands of a call.
#include <algorithm>
#include <array>
#include <optional>
#include <string>

#include "expression/expression.hpp"
#include "expression/look_alike.hpp"
#include "mend.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

using detail::is_digit;
using detail::look_alike;
using detail::LookAlike;

// Where the number begins with whose digits `text` ends; its size where it ends with none, or with a name's.
std::size_t last_number(std::string_view text) {
  std::size_t begin = text.size();
  while (begin > 0 && is_digit(text[begin - 1])) --begin;
  if (begin > 0 && begin < text.size() && (text[begin - 1] == '.' || detail::is_letter(text[begin - 1])))
    return text.size();
  return begin;
}

// The function whose brackets are open at the end of `text`; empty where none are, or they are no function's.
std::string_view open_call(std::string_view text) {
  int closed = 0;
  for (std::size_t i = text.size(); i-- > 0;) {
    if (text[i] == ')') ++closed;
    if (text[i] != '(' || closed-- > 0) continue;
    std::string_view word = text.substr(0, i);
    while (word.ends_with(' ')) word.remove_suffix(1);
    std::size_t begin = word.size();
    while (begin > 0 && detail::is_letter(word[begin - 1])) --begin;
    return word.substr(begin);
  }
  return {};
}

// Without commas that three digits follow each; as it is where one has others.
std::string without_thousands(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] != ',') {
      out += text[i];
      continue;
    }
    const std::size_t end = std::min(text.find_first_not_of("0123456789", i + 1), text.size());
    if (end != i + 4) return text;
  }
  return out;
}

// Words with those behind the comma that cut them, as they stood: without a space behind it where none was.
class Pieces {
 public:
  explicit Pieces(const YamlNode& first)
      : text_(first.text), line_(first.line), end_(first.column + first.text.size()) {
    count(first.text);
  }
  // Whether the next piece belongs to them. Brackets stay open behind it, or are closed by it.
  bool takes(const YamlNode& next) {
    if (next.kind != YamlNode::Kind::scalar || next.quoted || next.tagged || ++pieces_ > kMostPieces) return false;
    text_ += next.line == line_ && next.column == end_ + 1 ? "," : ", ";
    text_ += next.text;
    line_ = next.line, end_ = next.column + next.text.size();
    count(next.text);
    return true;
  }
  [[nodiscard]] bool open() const { return open_ > 0; }
  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  static constexpr int kMostPieces = 64;
  void count(std::string_view text) {
    for (const char c : text) open_ += c == '(' ? 1 : c == ')' ? -1 : 0;
  }
  std::string text_;
  std::uint32_t line_;
  std::size_t end_;
  int open_ = 0, pieces_ = 0;
};

// Joins an expression with the pieces behind it, which next(1), next(2), ... give, null behind the last; their number.
template <class Next>
std::size_t join_call(Reader& reader, YamlNode& node, const Next& next) {
  if (!is_cut(node)) return 0;
  Pieces whole(node);
  for (std::size_t more = 1;; ++more) {
    const YamlNode* piece = next(more);
    if (piece == nullptr || !whole.takes(*piece)) return 0;
    if (whole.open()) continue;
    reader.fail(FindingCode::bad_expression, node,
                "the expression " + node.words() + " is cut at its comma: inside { } and [ ] a comma ends the value",
                "Put the whole expression in quotes: `\"" + whole.text() + "\"`.");
    node.text = whole.text();
    return more;
  }
}

// `{pulse: 0,5s}`
void join_decimals(Reader& reader, YamlNode& node) {
  join(node.entries, [&](std::vector<YamlEntry>& entries, std::size_t i) -> std::size_t {
    YamlNode& value = entries[i].value;
    if (i + 1 == entries.size() || value.quoted) return 0;
    const YamlEntry& next = entries[i + 1];
    const std::size_t begin = last_number(value.text);
    const bool adjoins = next.key.line == value.line && next.key.column == value.column + value.text.size() + 1;
    if (begin == value.text.size() || next.value.kind != YamlNode::Kind::null || next.key.quoted || !adjoins ||
        !is_digit(next.key.text.empty() ? ' ' : next.key.text.front()))
      return 0;
    // In a call of several operands it parts two of them.
    if (detail::operands_of_function(open_call(value.text)) > 1) return 0;
    // Of an expression the number alone.
    const std::size_t end = begin == 0 ? next.key.text.size() : next.key.text.find_first_not_of("0123456789");
    const bool minus = begin == 1 && value.text.front() == '-';
    const std::string comma = value.text.substr(minus ? 0 : begin) + "," + next.key.text.substr(0, end);
    const std::vector<std::string> meant = meant_numbers(
        comma, [](std::string_view text) { return parse_number(text).has_value() || read_duration(text).has_value(); });
    if (meant.empty()) return 0;
    reader.fail(FindingCode::bad_yaml, value, "the comma in `" + comma + "` ends the value",
                "Write " + in_code(meant) + ": numbers have a point, and nothing between thousands.");
    value.text = value.text.substr(0, minus ? 0 : begin) + meant.front() +
                 (end < next.key.text.size() ? next.key.text.substr(end) : "");
    return 1;
  });
}

// `{when: max(x, y) > 1}`
void join_calls(Reader& reader, YamlNode& node) {
  join(node.entries, [&](std::vector<YamlEntry>& entries, std::size_t i) {
    return join_call(reader, entries[i].value, [&](std::size_t more) -> const YamlNode* {
      const bool words = i + more < entries.size() && entries[i + more].value.kind == YamlNode::Kind::null;
      return words ? &entries[i + more].key : nullptr;
    });
  });
  join(node.items, [&](std::vector<YamlNode>& items, std::size_t i) {
    return join_call(reader, items[i],
                     [&](std::size_t more) { return i + more < items.size() ? &items[i + more] : nullptr; });
  });
}

}  // namespace

std::vector<std::string> meant_numbers(std::string_view text, bool (*reads)(std::string_view)) {
  std::string plain;
  for (std::string_view rest = text; !rest.empty();) {
    const LookAlike like = look_alike(rest);
    plain += like.letter.empty() ? rest.substr(0, 1) : like.plain;
    rest.remove_prefix(like.letter.empty() ? 1 : like.letter.size());
  }
  std::string point = plain;
  std::replace(point.begin(), point.end(), ',', '.');
  std::vector<std::string> out;
  for (const std::string& each : {without_thousands(plain), point})
    if (each != text && reads(each) && (out.empty() || out[0] != each)) out.push_back(each);
  if (!out.empty() || !parse_number(plain)) return out;
  // A duration without its unit: a fraction is of seconds, and nothing is as much of both.
  const bool seconds = plain.find_first_of("123456789") == std::string::npos || plain.find('.') != std::string::npos;
  const std::array<const char*, 2> units = seconds || plain.size() < 2 ? std::array{"s", "ms"} : std::array{"ms", "s"};
  for (const char* unit : units)
    if (reads(plain + unit) && (out.empty() || !seconds)) out.push_back(plain + unit);
  return out;
}

std::string in_code(const std::vector<std::string>& words) {
  std::string out;
  for (const std::string& word : words) out += (out.empty() ? "`" : " or `") + word + "`";
  return out;
}

void join_at_commas(Reader& reader, YamlNode& node) {
  for (YamlNode& item : node.items) join_at_commas(reader, item);
  for (YamlEntry& entry : node.entries) join_at_commas(reader, entry.value);
  if (!node.flow) return;
  join_decimals(reader, node);
  join_calls(reader, node);
}

}  // namespace mobrin::io
