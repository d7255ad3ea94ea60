// Reading values out of a YAML tree.
#include "reader.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <tuple>

#include "columns.hpp"
#include "mend.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/core/wide.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin::io {
namespace {

using detail::Wide;

bool all_digits(std::string_view text) {
  return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

// An exact decimal: value = digits / 10^places. Empty where `text` is none, or longer than 18 digits.
struct Decimal {
  std::int64_t digits = 0;
  std::int64_t scale = 1;
};
std::optional<Decimal> parse_decimal(std::string_view text) {
  const std::size_t point = text.find('.');
  const std::string_view whole = text.substr(0, point);
  std::string_view part = point == std::string_view::npos ? std::string_view() : text.substr(point + 1);
  while (!part.empty() && part.back() == '0') part.remove_suffix(1);
  const bool sound = (all_digits(whole) || (whole.empty() && !part.empty())) && (part.empty() || all_digits(part));
  if (!sound || whole.size() + part.size() > 18) return std::nullopt;
  Decimal out;
  for (const char c : std::string(whole) + std::string(part)) out.digits = out.digits * 10 + (c - '0');
  for (std::size_t i = 0; i < part.size(); ++i) out.scale *= 10;
  return out;
}

// What is a map of things by their names, as it is written.
struct Map {
  std::string_view what, example;
};
constexpr Map kMaps[] = {
    {"`inputs:`", "`{move: 0.0, swing: pulse}`"},
    {"`cues:`", "`{step: {kind: sound, file: step.wav}}`"},
    {"`cues:` of marks", "`{3: step}`"},
    {"`cues:` of an expectation", "`{step: 2}`"},
    {"`clips:`", "`{walk: {frames: [0-7], fps: 12, play: loop}}`"},
    {"`marks:`", "`{walk: {cues: {3: step}}}`"},
    {"a clip's marks", "`{cues: {3: step}, windows: {again: 3-5}}`"},
    {"`windows:`", "`{again: 3-5}`"},
    {"`spans:`", "`{hum: 2-4}`"},
    {"`vars:`", "`{blows: 0}`"},
    {"`states:`", "`{stand: {clip: stand, go: [{pulse: swing, to: net}]}}`"},
    {"`regions:`", "`{arms: {initial: free, states: {free: {}}}}`"},
    {"a state", "`{clip: walk}`; what is inside it stands under `states:`"},
    {"a region", "`{initial: free, states: {free: {}, full: {}}}`"},
    {"a clip", "`{frames: [0-7], fps: 12, play: loop}`"},
    {"a box", "`{name: bite, role: hit, frames: 2-4, rect: [0, 0, 12, 20]}`"},
    {"a reach", "`{cone: {length: 30, angle: 60}}`"},
    {"a zone", "`{rect: [-4, 0, 8, 8], tags: [bees], inside: near}`"},
    {"a look", "`{when: health < 3, art: {bee.png: pale_bee.png}}`"},
    {"`tracks:`", "`{lift: {keys: {0: 0, 3: 4}}}`"},
    {"`claims:`", "`{no blow when dead: {never: cue(blow) and is(dead)}}`"},
    {"`set:`", "`{move: 1}`"},
    {"`add:`", "`{health: -2}`"},
};

}  // namespace

std::optional<Ticks> read_duration(std::string_view text) {
  std::int64_t unit = 0;
  if (text.ends_with("ms"))
    unit = kTicksPerSecond / 1000;
  else if (text.ends_with("s"))
    unit = kTicksPerSecond;
  if (unit == 0) return std::nullopt;
  text.remove_suffix(unit == kTicksPerSecond ? 1 : 2);
  while (text.ends_with(' ')) text.remove_suffix(1);
  const auto decimal = parse_decimal(text);
  if (!decimal) return std::nullopt;
  const Wide ticks = (Wide{2} * decimal->digits * unit + decimal->scale) / (Wide{2} * decimal->scale);
  return Ticks(static_cast<std::int64_t>(std::min<Wide>(ticks, std::int64_t{1} << 62)));
}

std::optional<std::int64_t> parse_whole(std::string_view text) {
  std::int64_t value = 0;
  if (text.starts_with('+')) text.remove_prefix(1);
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc() || end != text.data() + text.size() || text.empty()) return std::nullopt;
  return value;
}

std::optional<double> parse_number(std::string_view text) {
  double value = 0;
  if (text.starts_with('+')) text.remove_prefix(1);
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc() || end != text.data() + text.size() || text.empty() || !std::isfinite(value))
    return std::nullopt;
  return value;
}

bool is_cut(const YamlNode& node) {
  return node.kind == YamlNode::Kind::scalar && !node.quoted &&
         std::count(node.text.begin(), node.text.end(), '(') > std::count(node.text.begin(), node.text.end(), ')');
}

std::string with_article(std::string_view name) {
  if (name == "marks") return "a clip's marks";
  const bool vowel = std::string_view("aeiou").find(name.front()) != std::string_view::npos;
  return (vowel ? "an " : "a ") + std::string(name);
}

std::string in_quotes(std::span<const std::string> words) {
  constexpr std::size_t kMost = 8;
  const std::size_t shown = std::min(words.size(), kMost);
  std::string out;
  for (std::size_t i = 0; i < shown; ++i) {
    if (i > 0) out += i + 1 < shown || shown < words.size() ? ", " : " and ";
    out += "\"" + words[i] + "\"";
  }
  return shown < words.size() ? out + " and " + std::to_string(words.size() - shown) + " more" : out;
}

std::string folder_of(const std::string& path) {
  const std::size_t slash = path.find_last_of('/');
  return slash == std::string::npos ? "" : path.substr(0, slash + 1);
}

std::string join(const std::string& folder, const std::string& path) {
  if (path.empty() || path.front() == '/') return path;
  return std::filesystem::path(folder + path).lexically_normal().generic_string();
}

void Reader::fail(FindingCode code, Place place, std::string message, std::string remedy) {
  const std::string file = place.file < files_.size() ? files_[place.file] : "";
  // What was mended there is read on for what follows; at the very place nothing else is to be told.
  if (!findings_.empty())
    if (const Finding& last = findings_.back(); last.code == FindingCode::bad_yaml && last.line == place.line &&
                                                last.column == place.column && last.file == file)
      return;
  Finding& finding = findings_.emplace_back();
  finding.code = code;
  finding.file = file;
  finding.line = place.line;
  finding.column = place.column;
  finding.message = std::move(message);
  finding.remedy = std::move(remedy);
}

void Reader::no_number(const YamlNode& node, std::string_view what, std::string_view expected, Reads reads) {
  const std::vector<std::string> meant = node.quoted ? std::vector<std::string>() : meant_numbers(node.text, reads);
  if (meant.empty()) return mismatch(node, what, expected);
  fail(FindingCode::wrong_type, node, std::string(what) + " is " + node.words(), "Write " + in_code(meant) + ".");
}

void Reader::no_numbers(const YamlNode& node, std::string_view what, std::string_view expected) {
  constexpr std::string_view apart = ", ()x";  // `40x56` too
  constexpr std::size_t kMostNumbers = 4;      // of a rectangle
  std::vector<std::string> numbers;
  for (std::size_t at = node.text.find_first_not_of(apart); at < node.text.size();) {
    const std::size_t end = std::min(node.text.find_first_of(apart, at), node.text.size());
    numbers.push_back(node.text.substr(at, end - at));
    if (!parse_number(numbers.back()) || numbers.size() > kMostNumbers) return mismatch(node, what, expected);
    at = node.text.find_first_not_of(apart, end);
  }
  if (node.kind != YamlNode::Kind::scalar || numbers.size() < 2) return mismatch(node, what, expected);
  std::string list;
  for (const std::string& number : numbers) list += (list.empty() ? "[" : ", ") + number;
  fail(FindingCode::wrong_type, node, std::string(what) + " is " + node.words(), "Write `" + list + "]`.");
}

void Reader::mismatch(const YamlNode& node, std::string_view what, std::string_view expected) {
  fail(FindingCode::wrong_type, node, std::string(what) + " is " + node.words(),
       "Expected " + std::string(expected) + ".");
}

Text Reader::text_of(const YamlNode& node) const {
  Place place = place_of(node);
  if (node.quoted) ++place.column;  // the words begin behind the quote
  return {node.text, place};
}

std::optional<YamlNode> Reader::parse_file(const std::string& path, const Text& named_by) {
  if (instead != nullptr && whole_path(path) == whole_path(instead->path)) return parse_text(instead->text, path);
  const auto text = read_text(path, named_by, kMaxFileBytes);
  return text ? parse_text(*text, path) : std::nullopt;
}

std::optional<std::string> Reader::read_text(const std::string& path, const Text& named_by, std::size_t most) {
  const auto unreadable = [&](const std::string& why, const std::string& remedy) {
    Place place = named_by.place;
    if (place.line == 0) {
      files_.push_back(path);
      place = {static_cast<std::uint16_t>(files_.size() - 1), 0, 0};
    }
    fail(FindingCode::unreadable_file, place, "\"" + path + "\" " + why, remedy);
    return std::nullopt;
  };
  std::error_code error;
  const auto status = std::filesystem::status(path, error);
  if (!std::filesystem::exists(status))
    return unreadable(
        "does not exist",
        path_remedy(path, named_by.place.line > 0 ? "Check the path; it is relative to the file it stands in."
                                                  : "Check the path."));
  if (std::filesystem::is_directory(status)) return unreadable("is a folder", "Name a file.");
  if (!std::filesystem::is_regular_file(status)) return unreadable("is no regular file", "Name a file.");
  std::ifstream stream(path, std::ios::binary);
  if (!stream) return unreadable("cannot be opened", "Check its permissions.");
  // A little more than what is taken, so that more is seen to be too much.
  std::string text;
  std::size_t read = 0;
  while (stream && read <= most) {
    text.resize(std::min(most + 1, std::max<std::size_t>(2 * read, std::size_t{16} << 10)));
    stream.read(text.data() + read, static_cast<std::streamsize>(text.size() - read));
    read += static_cast<std::size_t>(stream.gcount());
  }
  if (stream.bad()) return unreadable("cannot be read", "Check the disk it lies on.");
  text.resize(read);
  return text;
}

namespace {

void move_down(YamlNode& node, std::uint32_t lines) {
  node.line += lines;
  for (YamlNode& item : node.items) move_down(item, lines);
  for (auto& [key, value] : node.entries) {
    move_down(key, lines);
    move_down(value, lines);
  }
}

}  // namespace

std::optional<YamlNode> Reader::parse_text(std::string_view text, const std::string& name, std::uint32_t before) {
  if (files_.empty() || files_.back() != name) files_.push_back(name);
  file_ = static_cast<std::uint16_t>(files_.size() - 1);
  if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
  const std::size_t told = findings_.size();
  auto root = parse_into(text);
  if (before > 0 && root) move_down(*root, before);
  for (Finding& finding : std::span(findings_).subspan(told)) finding.line += before;
  return root;
}

std::optional<YamlNode> Reader::parse_into(std::string_view text) {
  YamlNode root;
  YamlProblem problem;
  const std::optional<std::string> mended = plain_spaces(*this, text);
  const std::string_view plain = mended ? *mended : text;
  const std::size_t told = findings_.size();
  const bool sound = parse_yaml(plain, root, problem);
  if (sound) {
    plain_quotes(*this, root);
    plain_comments(*this, root, plain);
    join_at_commas(*this, root);
    add_colons(*this, root);
    put_in_place(*this, root);
    join_repeated(*this, root);
  } else {
    fail(problem.too_large ? FindingCode::too_large : FindingCode::bad_yaml, Place{file_, problem.line, problem.column},
         problem.message, problem.remedy);
  }
  count_characters(plain, root, std::span(findings_).subspan(told));
  return sound ? std::optional(std::move(root)) : std::nullopt;
}

bool Reader::is_map(const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::map) return true;
  if (node.kind == YamlNode::Kind::null) return false;
  const YamlEntry* name =
      node.kind == YamlNode::Kind::list && !node.items.empty() ? entry_of(node.items[0], "name") : nullptr;
  if (name != nullptr && name->value.kind == YamlNode::Kind::scalar) {
    const std::string& word = name->value.text;
    mismatch(node, what, "each under its name, `" + word + ": {...}` in place of `- name: " + word + "`");
    return false;
  }
  const auto* const shown =
      std::find_if(std::begin(kMaps), std::end(kMaps), [&](const Map& each) { return what == each.what; });
  mismatch(node, what,
           shown == std::end(kMaps) ? "a map: `name: value` lines" : "a map, such as " + std::string(shown->example));
  return false;
}

bool Reader::plain_key(const YamlNode& key) {
  if (key.kind == YamlNode::Kind::scalar && !key.tagged) return true;
  fail(FindingCode::bad_name, key, "a key is " + key.words(), "Expected a name.");
  return false;
}

std::optional<Text> Reader::name(const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::scalar && !node.tagged && !node.text.empty()) return text_of(node);
  mismatch(node, what, "a name");
  return std::nullopt;
}

std::vector<Text> Reader::names(const YamlNode& node, std::string_view what) {
  std::vector<Text> out;
  each_item(node, [&](const YamlNode& item) {
    if (auto text = name(item, what)) out.push_back(*text);
  });
  return out;
}

std::optional<bool> Reader::boolean(const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::scalar && !node.quoted && (node.text == "true" || node.text == "false"))
    return node.text == "true";
  mismatch(node, what, "`true` or `false`");
  return std::nullopt;
}

std::optional<std::int64_t> Reader::whole(const YamlNode& node, std::string_view what, std::int64_t low,
                                          std::int64_t high) {
  const auto value = node.kind == YamlNode::Kind::scalar && !node.quoted ? parse_whole(node.text) : std::nullopt;
  if (value && *value >= low && *value <= high) return value;
  no_number(node, what, "a whole number from " + std::to_string(low) + " to " + std::to_string(high),
            [](std::string_view text) { return parse_whole(text).has_value(); });
  return std::nullopt;
}

std::optional<double> Reader::number(const YamlNode& node, std::string_view what) {
  const auto value = node.kind == YamlNode::Kind::scalar && !node.quoted ? parse_number(node.text) : std::nullopt;
  if (!value) no_number(node, what, "a number", [](std::string_view text) { return parse_number(text).has_value(); });
  return value;
}

std::optional<Ticks> Reader::duration(const YamlNode& node, std::string_view what) {
  const auto value = node.kind == YamlNode::Kind::scalar ? read_duration(node.text) : std::nullopt;
  if (!value) {
    no_number(node, what, "a duration with its unit, such as `110ms` or `1.5s`",
              [](std::string_view text) { return read_duration(text).has_value(); });
    return std::nullopt;
  }
  if (value->count != 0 && value->count < kTicksPerSecond / 1000) {
    fail(FindingCode::bad_value, node, std::string(what) + " is " + node.words() + ", which is too short",
         "A duration is 0 or at least 1 ms.");
    return std::nullopt;
  }
  if (value->count > kMaxDurationTicks) {
    fail(FindingCode::bad_value, node, std::string(what) + " is " + node.words() + ", which is too long",
         "A duration is at most 10 hours.");
    return std::nullopt;
  }
  return value;
}

std::optional<Fraction> Reader::fraction(const YamlNode& node) {
  if (node.kind == YamlNode::Kind::scalar) {
    const std::size_t slash = node.text.find('/');
    const auto top = parse_decimal(std::string_view(node.text).substr(0, slash));
    const auto bottom =
        slash == std::string::npos ? Decimal{1, 1} : parse_decimal(std::string_view(node.text).substr(slash + 1));
    if (top && bottom && top->digits > 0 && bottom->digits > 0 && bottom->scale == 1) {
      const double rate =
          static_cast<double>(top->digits) / static_cast<double>(top->scale) / static_cast<double>(bottom->digits);
      const bool fits = top->digits <= 1'000'000'000'000 && top->scale <= 1'000'000 && bottom->digits <= 1'000'000;
      if (fits && rate >= 0.001 && rate <= 10'000) return Fraction{top->digits, top->scale * bottom->digits};
      fail(FindingCode::bad_value, node, "`fps:` is " + node.words(),
           "Rates lie between 0.001 and 10000 frames a second.");
      return std::nullopt;
    }
  }
  mismatch(node, "`fps:`", "a number above 0 such as `12`, `12.5` or `30000/1001`");
  return std::nullopt;
}

std::optional<Text> Reader::expression(const YamlNode& node, std::string_view what) {
  if (node.tagged) {
    const std::string rest = node.text.starts_with('!') ? node.text.substr(1) : node.text;
    fail(FindingCode::bad_expression, node, std::string(what) + " begins with `!`, which YAML takes for itself",
         "Write `not " + rest + "`.");
    return std::nullopt;
  }
  if (node.kind == YamlNode::Kind::scalar && node.text.find_first_not_of(' ') != std::string::npos)
    return text_of(node);
  mismatch(node, what, "an expression");
  return std::nullopt;
}

std::optional<FieldValue> Reader::field_value(const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::scalar && !node.tagged) {
    if (node.quoted) return node.text;
    if (node.text == "true" || node.text == "false") return node.text == "true";
    if (const auto whole = parse_whole(node.text)) return *whole;
    if (const auto number = parse_number(node.text)) return *number;
    return node.text;
  }
  if (node.kind == YamlNode::Kind::list) {
    std::vector<double> list;
    for (const YamlNode& item : node.items) {
      const auto value = number(item, "an entry of the list");
      if (!value) return std::nullopt;
      list.push_back(*value);
    }
    return list;
  }
  mismatch(node, what, "true, false, a number, text or a list of numbers");
  return std::nullopt;
}

std::optional<std::size_t> Reader::one_of(const YamlNode& node, std::string_view what,
                                          std::initializer_list<std::string_view> words) {
  std::vector<std::string> known(words.begin(), words.end());
  std::string list;
  for (std::size_t i = 0; i < known.size(); ++i) {
    if (node.kind == YamlNode::Kind::scalar && node.text == known[i]) return i;
    list += (i == 0 ? "`" : i + 1 == known.size() ? " or `" : ", `") + known[i] + "`";
  }
  const std::string nearest = node.kind == YamlNode::Kind::scalar ? nearest_name(node.text, known) : "";
  fail(FindingCode::bad_value, node, std::string(what) + " is " + node.words(),
       nearest.empty() ? "Expected " + list + "." : "Did you mean \"" + nearest + "\"?");
  return std::nullopt;
}

std::vector<Finding> sorted_by_place(std::vector<Finding> findings, const std::vector<std::string>& files) {
  const auto place = [&](const Finding& finding) {
    return std::tuple(std::find(files.begin(), files.end(), finding.file) - files.begin(), finding.line,
                      finding.column);
  };
  std::stable_sort(findings.begin(), findings.end(),
                   [&](const Finding& a, const Finding& b) { return place(a) < place(b); });
  return findings;
}

}  // namespace mobrin::io

std::optional<mobrin::Ticks> mobrin::parse_duration(std::string_view text) { return io::read_duration(text); }
