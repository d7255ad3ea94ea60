// What is wrong with lines that no bracket holds together: keys, their values, and how deep they stand.
#include <algorithm>
#include <span>
#include <vector>

#include "mobrin/core/names.hpp"
#include "yaml_trouble.hpp"

namespace mobrin::io {
namespace {

constexpr std::string_view kBlanks = " \t\r";

// A line outside of brackets and quotes, without its comment.
struct Line {
  std::uint32_t number = 0;
  std::size_t indent = 0;   // of its first sign
  std::size_t begin = 0;    // of its key or value, behind a dash
  std::string_view text{};  // from `begin` on
  bool item = false;        // a dash stands before it
  std::string_view name{};  // of its key, where it has one
  std::string_view rest{};  // what stands behind the colon
  [[nodiscard]] bool is_key() const { return !name.empty(); }
};

std::string_view trimmed(std::string_view text) {
  const std::size_t first = text.find_first_not_of(kBlanks);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(kBlanks) + 1 - first);
}

// How long the name is with which a text begins.
std::size_t name_length(std::string_view text) {
  const auto end =
      std::find_if(text.begin(), text.end(), [](char c) { return !detail::is_letter(c) && !detail::is_digit(c); });
  return static_cast<std::size_t>(end - text.begin());
}

// The words with which a text begins, as the name of a claim may have several.
std::string_view words(std::string_view text) {
  const auto end = std::find_if(text.begin(), text.end(), [](char c) {
    return !detail::is_letter(c) && !detail::is_digit(c) && c != ' ' && c != '-';
  });
  return trimmed(text.substr(0, static_cast<std::size_t>(end - text.begin())));
}

Line line_of(std::uint32_t number, std::string_view text) {
  Line out;
  out.number = number;
  out.indent = out.begin = text.find_first_not_of(kBlanks);
  out.item = text.substr(out.begin) == "-" || text.substr(out.begin).starts_with("- ");
  if (out.item) out.begin = std::min(text.find_first_not_of(kBlanks, out.begin + 1), text.size());
  out.text = trimmed(text.substr(std::min(out.begin, text.size())));
  const std::string_view name = words(out.text), behind = out.text.substr(name.size());
  if (!name.empty() && (behind == ":" || behind.starts_with(": "))) {
    out.name = name;
    out.rest = trimmed(behind.substr(1));
  }
  return out;
}

YamlProblem at(const Line& line, std::size_t column, std::string message, std::string remedy) {
  return {false, line.number, static_cast<std::uint32_t>(column + 1), std::move(message), std::move(remedy)};
}

// Two keys that no bracket holds: `ground: initial: stand`.
std::optional<YamlProblem> two_keys(const Line& line) {
  const std::string_view plain = line.rest.substr(0, line.rest.find_first_of("{[\"'"));
  for (std::size_t at_word = 0; at_word < plain.size();) {
    const std::size_t length = name_length(plain.substr(at_word));
    const std::string_view behind = plain.substr(at_word + length);
    if (length > 0 && (behind == ":" || behind.starts_with(": ")))
      return at(line, line.begin + static_cast<std::size_t>(line.rest.data() - line.text.data()) + at_word,
                "a second key stands on this line", "Put it on a line of its own, or both into `{ }` with a comma.");
    at_word += std::max<std::size_t>(1, length);
  }
  return std::nullopt;
}

// Whether a line that is no key stands where keys do.
bool beside_keys(const Line& line, const Line* before, const Line* next) {
  const auto is_beside = [&](const Line* other) {
    return other != nullptr && other->is_key() && other->indent == line.indent;
  };
  if (line.item || (before != nullptr && before->item && before->indent <= line.indent)) return false;
  return is_beside(next) || (is_beside(before) && (next == nullptr || next->indent < line.indent));
}

// A line by itself: no space behind a colon or a dash, another sign in place of a colon, none at all.
std::optional<YamlProblem> of_signs(const Line& line, const Line* before, const Line* next) {
  const std::string_view all = line.text;
  const bool is_value = !all.empty() && !line.is_key() && (all[0] == '{' || all[0] == '[' || detail::is_digit(all[0]));
  if (is_value && beside_keys(line, before, next))
    return at(line, line.begin, "a value stands here without its key", "Write the key before it: `name: value`.");
  if (!line.item && all.size() > 1 && all[0] == '-' && (detail::is_letter(all[1]) || all[1] == '{' || all[1] == '['))
    return at(line, line.begin, "there is no space behind the dash", "Write `- " + std::string(all.substr(1)) + "`.");
  if (line.item && all.starts_with("- "))
    return at(line, line.begin, "a second dash stands here", "Write one dash for each item.");
  constexpr std::string_view kStray = ",=|>";
  if (all.size() > 1 && kStray.find(all[0]) != std::string_view::npos)
    return at(line, line.begin, std::string("`") + all[0] + "` begins no line", "Take it out.");
  if (line.is_key() && line.rest.size() > 1 && kStray.find(line.rest[0]) != std::string_view::npos &&
      std::string_view(" +-0123456789").find(line.rest[1]) == std::string_view::npos)
    return at(line, line.begin + static_cast<std::size_t>(line.rest.data() - line.text.data()),
              std::string("`") + line.rest[0] + "` begins no value", "Take it out, or put the value into quotes.");
  if (line.is_key() && line.rest.starts_with("- "))
    return at(line, line.begin + static_cast<std::size_t>(line.rest.data() - line.text.data()),
              "a dash stands behind a key", "Begin the item on a line of its own.");
  if (line.is_key()) return two_keys(line);
  const std::size_t length = name_length(all);
  if (length == 0 || detail::is_digit(all[0])) return std::nullopt;
  const std::string name(all.substr(0, length));
  const std::string_view behind = all.substr(length),
                         value = trimmed(behind.substr(std::min<std::size_t>(1, behind.size())));
  if (const std::string_view sign = trimmed(behind); sign.size() > 1 && sign.front() == ':')
    return at(line, line.begin, "there is no space behind the colon of \"" + name + "\"",
              "Write `" + name + ": " + std::string(trimmed(sign.substr(1))) + "`.");
  if (trimmed(behind).starts_with("=") && all.find(':') == std::string_view::npos)
    return at(line, line.begin, "between \"" + name + "\" and its value stands `=`",
              "Write `" + name + ": " + std::string(trimmed(trimmed(behind).substr(1))) + "`.");
  const auto no_colon = [&](const std::string& of, const std::string& wanted) {
    return at(line, line.begin, "there is no colon behind \"" + of + "\"", "Write `" + wanted + "`.");
  };
  const bool has_inside = next != nullptr && next->indent > line.indent && (next->is_key() || next->item);
  if (behind.empty() && has_inside) return no_colon(name, name + ":");
  const std::string several(words(all));
  const std::string_view held = all.substr(several.size());
  if (const std::string_view list = trimmed(held); list.starts_with("[") || list.starts_with("{"))
    return no_colon(several, several + ": " + std::string(list));
  if (behind.starts_with(" ") && name_length(value) > 0 && all.find(':') == std::string_view::npos)
    return no_colon(name, name + ": " + std::string(value));
  if (all.find_first_of(" :{}[],") == std::string_view::npos && beside_keys(line, before, next))
    return at(line, line.begin, "\"" + std::string(all) + "\" stands here alone, among keys",
              "Write the key that it belongs to before it" +
                  (behind.empty() ? ", or `" + name + ":` if it is one." : std::string(".")));
  return std::nullopt;
}

std::string by_spaces(std::size_t count) {
  return count == 0 ? "by nothing" : "by " + std::to_string(count) + (count == 1 ? " space" : " spaces");
}

// Where lines begin that one may go on with, and the line that was the first to do so.
struct Level {
  std::size_t indent = 0;
  std::uint32_t line = 0;
};
struct Levels {
  std::vector<Level> keys{}, dashes{};
  static bool has(const std::vector<Level>& all, std::size_t indent) {
    return std::ranges::any_of(all, [&](const Level& each) { return each.indent == indent; });
  }
};

Levels levels_before_the_last(const std::vector<Line>& lines) {
  Levels out;
  for (const Line& line : std::span(lines).first(lines.size() - 1)) {
    for (auto* all : {&out.keys, &out.dashes})
      while (!all->empty() && all->back().indent > line.indent) all->pop_back();
    std::vector<Level>& of_its_kind = line.item ? out.dashes : out.keys;
    if (of_its_kind.empty() || of_its_kind.back().indent < line.indent)
      of_its_kind.push_back({line.indent, line.number});
    if (line.item && line.is_key()) out.keys.push_back({line.begin, line.number});
  }
  return out;
}

// A line that begins where none before it does. Of the levels around that one is meant which should begin there, two
// spaces behind the one around it.
std::optional<YamlProblem> between_levels(const Line& line, const Levels& levels) {
  std::vector<Level> all = levels.keys;
  all.insert(all.end(), levels.dashes.begin(), levels.dashes.end());
  std::ranges::stable_sort(all, {}, &Level::indent);
  const auto further = std::ranges::lower_bound(all, line.indent, {}, &Level::indent);
  if (further == all.end() || further == all.begin() || further->indent == line.indent) return std::nullopt;
  const Level* meant = nullptr;
  for (const Level& each : {*(further - 1), *further})
    for (const Level& around : all)
      if (around.indent < each.indent && around.indent + 2 == line.indent && meant == nullptr)
        meant = each.indent == further->indent ? &*further : &*(further - 1);
  return at(line, line.indent, "this line stands between two levels",
            meant != nullptr
                ? "Indent it " + by_spaces(meant->indent) + ", or line " + std::to_string(meant->line) + " " +
                      by_spaces(line.indent) + "."
                : "Indent it " + by_spaces((further - 1)->indent) + " or " + by_spaces(further->indent) + ".");
}

// How deep a line stands beside those before it.
std::optional<YamlProblem> of_depth(const std::vector<Line>& lines) {
  const Line &line = lines.back(), &before = lines[lines.size() - 2];
  const bool whole = before.is_key() && !before.rest.empty() && before.rest != "|" && before.rest != ">";
  const bool item_in_brackets = before.item && (before.text.ends_with("}") || before.text.ends_with("]"));
  if (line.item && item_in_brackets && line.indent > before.indent)
    return at(line, line.indent, "this line stands deeper than the one before, which is whole",
              "Indent both " + by_spaces(before.indent) + ".");
  if (line.indent > before.begin && whole) {
    const bool of_more = line.item || line.rest.empty();  // a list, or a heading
    return at(line, line.indent, "this line stands deeper than the one before, which is whole",
              of_more ? "Is the line missing above it that it belongs under? Else indent both " +
                            by_spaces(before.begin) + "."
                      : "Indent both " + by_spaces(before.begin) + ".");
  }
  if (const Line& first = lines.front(); line.indent < first.indent)
    return at(first, first.indent, "the first line stands deeper than line " + std::to_string(line.number),
              "Indent it " + by_spaces(line.indent) + ", too.");
  const Levels levels = levels_before_the_last(lines);
  if (!line.item && line.text.starts_with("{") && item_in_brackets)
    return at(line, line.indent, "there is no dash before this item", "Write `- ` before it, as before the others.");
  const bool begins_a_list = before.is_key() && before.rest.empty() && before.indent == line.indent;
  if (line.item && Levels::has(levels.keys, line.indent) && !Levels::has(levels.dashes, line.indent) && !begins_a_list)
    return at(line, line.indent, "a dash stands among keys", "Take it out, or put the list under a key of its own.");
  if (!line.item && Levels::has(levels.dashes, line.indent) && !Levels::has(levels.keys, line.indent))
    return at(line, line.indent, "this line stands beside a dash, and has none",
              "Indent it " + by_spaces(line.indent + 2) + ", as what stands behind the dash, or take the dash out.");
  return between_levels(line, levels);
}

}  // namespace

std::optional<YamlProblem> trouble_with_levels(const std::vector<PlainLine>& all, std::uint32_t last) {
  std::vector<Line> lines;
  std::optional<Line> next;  // the one behind them
  for (const PlainLine& each : all) {
    if (next || trimmed(each.text).empty()) continue;
    const Line line = line_of(each.number, each.text);
    if (each.number <= last)
      lines.push_back(line);
    else
      next = line;
  }
  if (lines.empty()) return std::nullopt;
  const Line* before = lines.size() > 1 ? &lines[lines.size() - 2] : nullptr;
  if (before != nullptr)
    if (auto found = of_signs(*before, lines.size() > 2 ? before - 1 : nullptr, &lines.back())) return found;
  if (auto found = of_signs(lines.back(), before, next ? &*next : nullptr)) return found;
  if (before == nullptr) return std::nullopt;
  return of_depth(lines);
}

}  // namespace mobrin::io
