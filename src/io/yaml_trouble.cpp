// What is wrong with text that is no YAML.
#include "yaml_trouble.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include "columns.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

YamlProblem at(std::uint32_t line, std::size_t column, std::string message, std::string remedy) {
  return {false, line, static_cast<std::uint32_t>(column), std::move(message), std::move(remedy)};
}

// What is said where a text, or a reason of the parser's, is this.
struct Said {
  std::string_view text;
  std::string_view what;
  std::string_view remedy;
};
// What lines of other kinds of text begin with.
constexpr Said kForeignLines[] = {
    {"<<<<<<<", "is a mark of a merge that is not done", "Finish the merge: keep one of the two, without the marks."},
    {"=======", "is a mark of a merge that is not done", "Finish the merge: keep one of the two, without the marks."},
    {">>>>>>>", "is a mark of a merge that is not done", "Finish the merge: keep one of the two, without the marks."},
    {"```", "is the frame of a listing", "Take the line out; it came with the text from a page."},
};
constexpr std::string_view kForeignComments[] = {"//", "/*", "--", ";"};

// Goes through the lines and knows what is open.
class Lines {
 public:
  explicit Lines(std::string_view source) : source_(source) {}

  // The first trouble; of words and tabs, of which YAML takes some, up to the line where the parser stopped.
  std::optional<YamlProblem> trouble(std::uint32_t last) {
    std::optional<YamlProblem> out;
    for (std::size_t begin = 0; begin < source_.size() && !out; ++line_) {
      const std::size_t end = std::min(source_.find('\n', begin), source_.size());
      text_ = source_.substr(begin, end - begin);
      const bool plain = open_.empty() && quote_ == 0;
      comment_ = std::string_view::npos;
      out = of_line(last);
      if (plain) plain_.push_back({line_, text_.substr(0, comment_)});
      begin = end + 1;
    }
    if (!out && !open_.empty()) out = not_closed();
    return out;
  }
  // Those that begin outside of brackets and quotes, without their comments.
  [[nodiscard]] const std::vector<PlainLine>& plain() const { return plain_; }

 private:
  struct Bracket {
    char sign;
    std::uint32_t line;
    std::string_view before;               // what stands before it on its line
    std::size_t within;                    // what belongs into it begins at least so far to the right
    bool has_value = false, asks = false;  // of the entry that is being read: its colon has come, or a `?`
  };

  std::optional<YamlProblem> of_line(std::uint32_t last) {
    const std::size_t first = text_.find_first_not_of(" \t\r");
    if (first == std::string_view::npos) return std::nullopt;
    if (quote_ != 0) {
      const std::size_t end = end_of_quote(first, quote_);
      if (end == std::string_view::npos) return std::nullopt;
      quote_ = 0;
      closed_ = true;
      return of_signs(end + 1, last);
    }
    if (open_.empty()) closed_ = false;
    const std::string_view rest = text_.substr(first);
    if (line_ <= last && open_.empty() && rest.front() != '#' && text_.substr(0, first).find('\t') != text_.npos)
      return at(line_, 1, "this line is indented with a tab",
                "YAML is indented with spaces; write two for each level.");
    for (const Said& each : kForeignLines)
      if (rest.starts_with(each.text))
        return at(line_, first + 1, "\"" + std::string(each.text) + "\" " + std::string(each.what),
                  std::string(each.remedy));
    // What goes on to the left of where it was opened was to be closed before.
    if (!open_.empty() && (rest.starts_with("- ") || (is_key(rest) && first < open_.back().within)))
      return not_closed();
    return of_signs(first, last);
  }
  static bool is_key(std::string_view rest) {
    const std::size_t end = rest.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_");
    return end != 0 && end != std::string_view::npos && rest[end] == ':';
  }

  std::optional<YamlProblem> of_signs(std::size_t first, std::uint32_t last) {
    bool begins = true;                                        // a word begins here
    std::size_t word = first, colon = std::string_view::npos;  // the last colon that stands behind a closed value
    for (std::size_t i = first; i < text_.size(); ++i) {
      const char c = text_[i];
      const bool apart = i == 0 || is_blank(text_[i - 1]);
      if (c == '#' && (apart || begins || closed_)) return comment_ = i, std::nullopt;
      if (is_blank(c)) continue;
      const bool glued = i > first && text_[i - 1] == ':' && colon != i - 1;
      if (begins && !glued) word = i;
      if (line_ <= last && (i == first || closed_))
        if (auto wrong = foreign(i, apart)) return wrong;
      if (begins && (c == '"' || c == '\'')) {
        i = end_of_quote(i + 1, c);
        if (i == std::string_view::npos) return open_quote(c);
        closed_ = true, begins = false;
        continue;
      }
      const bool item = c == '-' && begins && i + 1 < text_.size() && text_[i + 1] == ' ';
      if (!open_.empty() && line_ <= last && item)
        return at(line_, i + 1, "a dash stands within brackets",
                  "Take it out: within brackets, commas part the items.");
      if ((c == '{' || c == '[') && !open_.empty() && line_ <= last && !closed_ && (!begins || glued))
        return bracket_in_a_word(word, i);
      if ((c == '{' || c == '[') && (begins || !open_.empty())) {
        open_.push_back({c, line_, text_.substr(0, i), i == first ? first : first + 1});
      } else if ((c == '}' || c == ']') && (!open_.empty() || closed_ || begins)) {
        if (auto wrong = close(c, i)) return wrong;
        closed_ = true, begins = false;
        continue;
      }
      if (!open_.empty())
        if (auto wrong = second_value(i)) return wrong;
      if (c == ':' && (closed_ || begins)) colon = i;
      begins = c == ':' || c == ',' || c == '{' || c == '[' || item;
      closed_ = false;
    }
    return std::nullopt;
  }
  // In brackets an entry has one colon; another belongs to the next entry, or to a choice as other languages write it.
  std::optional<YamlProblem> second_value(std::size_t i) {
    Bracket& within = open_.back();
    const char c = text_[i];
    if (c == ',') within.has_value = within.asks = false;
    if (c == '?') within.asks = true;
    const char next = i + 1 < text_.size() ? text_[i + 1] : ' ';
    const bool ends = next == ',' || next == '}' || next == ']';
    if (c != ':' || (!is_blank(next) && !ends && !closed_)) return std::nullopt;
    if (!std::exchange(within.has_value, true)) return std::nullopt;
    if (ends && !within.asks) return at(line_, i + 1, "a second colon stands here", "Take it out.");
    if (within.asks)
      return at(line_, std::min(text_.substr(0, i).rfind('?'), i) + 1, "`?` and `:` choose nothing here",
                "Write `\"select(condition, a, b)\"`.");
    std::size_t word = i;
    while (word > 0 && is_blank(text_[word - 1])) --word;
    const std::size_t end = word;
    while (word > 0 && (detail::is_letter(text_[word - 1]) || detail::is_digit(text_[word - 1]))) --word;
    if (word == end) return std::nullopt;
    return at(line_, word + 1, "a comma is missing before `" + std::string(text_.substr(word, end - word)) + ":`",
              "Write `,` between the two.");
  }
  // Within brackets another one begins behind a word: `{set {move: 0}}`, `{se:t {move: 0}}`, `{se{t: 0}}`.
  [[nodiscard]] YamlProblem bracket_in_a_word(std::size_t word, std::size_t bracket) const {
    std::string_view before = text_.substr(word, bracket - word);
    const bool apart = is_blank(before.back());
    while (is_blank(before.back())) before.remove_suffix(1);
    const std::size_t colon = before.find(':');
    std::string key(before.substr(0, colon));
    while (is_blank(key.back())) key.pop_back();
    const std::string sign(1, text_[bracket]);
    if (colon != std::string_view::npos)
      return at(line_, word + 1, "there is no space behind the colon of \"" + key + "\"",
                "Write `" + key + ": " + sign + "`.");
    if (apart)
      return at(line_, word + 1, "there is no colon behind \"" + key + "\"", "Write `" + key + ": " + sign + "`.");
    return at(line_, bracket + 1, "`" + sign + "` stands in the middle of a word",
              "Take it out, or put the word into quotes.");
  }
  static bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }

  // What stands at the begin of a line or behind a value that is closed, and is nothing of YAML's.
  [[nodiscard]] std::optional<YamlProblem> foreign(std::size_t i, bool apart) const {
    const std::string_view rest = text_.substr(i);
    for (const std::string_view sign : kForeignComments)
      if (apart && rest.starts_with(sign) && !rest.starts_with("---"))
        return at(line_, i + 1, "a comment does not begin with `" + std::string(sign) + "`", "Write `#`.");
    if (closed_ && rest.front() == ';') return at(line_, i + 1, "nothing ends with `;`", "Take it out.");
    if (closed_ && !open_.empty() && std::string_view(",:}]").find(rest.front()) == std::string_view::npos)
      return at(line_, i + 1, "a comma is missing before this", "Write `,` between the two.");
    if (closed_ && open_.empty() && rest.front() != ':' && rest.front() != '}' && rest.front() != ']')
      return at(line_, i + 1, "the value before this is closed", "Take this out, or put it inside.");
    return std::nullopt;
  }
  // A quote that this line does not close.
  std::optional<YamlProblem> open_quote(char quote) {
    if (!next_is_another()) {
      quote_ = quote;
      return std::nullopt;
    }
    return at(line_, quote_at_ + 1, "the quote that begins here is not closed on its line",
              std::string("Close it with `") + quote + "`.");
  }
  [[nodiscard]] std::size_t end_of_quote(std::size_t i, char quote) {
    quote_at_ = i - 1;
    for (; i < text_.size(); ++i) {
      const bool pair = quote == '\'' && text_.substr(i).starts_with("''");
      if (pair || (text_[i] == '\\' && quote == '"'))
        ++i;
      else if (text_[i] == quote)
        return i;
    }
    return std::string_view::npos;
  }
  // Whether the next line is none that goes on with what is quoted in this one.
  [[nodiscard]] bool next_is_another() const {
    const std::size_t first =
        source_.find_first_not_of(" \t\r\n", static_cast<std::size_t>(text_.end() - source_.begin()));
    if (first == std::string_view::npos) return true;
    const std::string_view rest = source_.substr(first);
    return is_key(rest) || rest.starts_with("- ") || rest.front() == '}' || rest.front() == ']';
  }
  std::optional<YamlProblem> close(char sign, std::size_t i) {
    if (open_.empty())
      return at(line_, i + 1, std::string("no `") + (sign == '}' ? '{' : '[') + "` is open for this `" + sign + "`",
                "Take it out, or open it before.");
    const Bracket last = open_.back();
    open_.pop_back();
    const char wanted = last.sign == '{' ? '}' : ']';
    if (sign == wanted) return std::nullopt;
    return at(line_, i + 1,
              std::string("`") + sign + "` stands here, but the `" + last.sign + "` of " + place_of(last) + " is open",
              std::string("Close that with `") + wanted + "` first.");
  }
  [[nodiscard]] std::string place_of(const Bracket& bracket) const {
    return (bracket.line == line_ ? "" : "line " + std::to_string(bracket.line) + ", ") + "column " +
           std::to_string(characters(bracket.before) + 1);
  }
  [[nodiscard]] YamlProblem not_closed() const {
    const Bracket& last = open_.back();
    return at(last.line, last.before.size() + 1, std::string("the `") + last.sign + "` that begins here is not closed",
              std::string("Close it with `") + (last.sign == '{' ? '}' : ']') + "`.");
  }

  std::string_view source_, text_;
  std::uint32_t line_ = 1;
  char quote_ = 0;            // one that was opened on a line before
  std::size_t quote_at_ = 0;  // where the last one begins
  bool closed_ = false;       // a value in quotes or brackets has just ended
  std::vector<Bracket> open_;
  std::size_t comment_ = std::string_view::npos;  // where the line's begins
  std::vector<PlainLine> plain_;
};

bool begins_as_utf16(std::string_view source) {
  const bool marked = source.starts_with("\xff\xfe") || source.starts_with("\xfe\xff");
  const std::string_view begin = source.substr(0, 64);
  const auto zeros = static_cast<std::size_t>(std::count(begin.begin(), begin.end(), '\0'));
  return marked || (begin.size() > 1 && (begin[0] == 0) != (begin[1] == 0) && zeros * 3 > begin.size());
}

// What the parser says of signs that mean something to YAML, in other words.
constexpr Said kSigns[] = {
    {"unknown token", "no word begins with the sign that stands here", "Take it out, or put the word into quotes."},
    {"the referenced anchor is not defined", "`*` repeats what `&` has named before, and nothing has that name",
     "Write the value itself; what begins with `*` otherwise stands in quotes."},
    {"alias not found after *", "`*` repeats what `&` has named, and no name stands behind it", "Take it out."},
    {"anchor not found after &", "`&` names a value, and no name stands behind it", "Take it out."},
};

}  // namespace

YamlProblem trouble_of(std::string_view source, std::uint32_t line, std::uint32_t column, const std::string& reason) {
  Lines lines(source);
  if (auto seen = lines.trouble(line)) return *seen;
  if (auto seen = trouble_with_levels(lines.plain(), line)) return *seen;
  for (const Said& sign : kSigns)
    if (reason == sign.text) return at(line, column, std::string(sign.what), std::string(sign.remedy));
  return at(line, column, "this is not well-formed YAML: " + reason,
            "Check indentation, brackets and quotes on this line and the one before it.");
}

YamlProblem second_document(std::string_view source, std::uint32_t line) {
  const bool parted = source.find("\n---") != std::string_view::npos || source.find("\n...") != std::string_view::npos;
  Lines lines(source);
  if (!parted && !lines.trouble(line))
    if (auto seen = trouble_with_levels(lines.plain(), line)) return *seen;
  return at(1, 1, "the file holds several documents", "Put each into a file of its own.");
}

bool is_no_text(std::string_view source) {
  return source.find('\0') != std::string_view::npos || begins_as_utf16(source);
}

YamlProblem no_text(std::string_view source) {
  if (begins_as_utf16(source)) return at(1, 1, "the file is text in UTF-16, not in UTF-8", "Save it as UTF-8.");
  for (const std::string_view picture : {"\x89PNG", "GIF8", "RIFF"})
    if (source.starts_with(picture))
      return at(1, 1, "the file is a picture", "Name a YAML or JSON file; `mobrin import` makes clips of pictures.");
  if (source.starts_with("MOBRINPK"))
    return at(1, 1, "the file is a pack, which games load", "Name the file that it was made of.");
  return at(1, 1, "the file holds a zero byte, so it is no text", "Name a YAML or JSON file.");
}

}  // namespace mobrin::io
