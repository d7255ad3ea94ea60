// Reading when and how something plays: stretches of frames or of time, and play modes.
#include <algorithm>
#include <iterator>

#include "mobrin/core/names.hpp"
#include "reader.hpp"

namespace mobrin::io {
namespace {

// The words of a play mode, and others for the same.
struct Mode {
  std::string_view word;
  PlayKind kind;
  std::string_view others;  // each between two spaces
};
constexpr Mode kModes[] = {
    {"once", PlayKind::once, " false one single one-shot oneshot "},
    {"loop", PlayKind::loop, " true looped looping repeat repeats repeating forever endless infinite cycle "},
    {"back-and-forth", PlayKind::back_and_forth,
     " pingpong ping-pong ping_pong bounce alternate yoyo back_and_forth "}};

// `once`, `loop`, `loop x3`; empty for none.
std::optional<PlayMode> play_of(std::string_view text) {
  const std::size_t space = text.find(' ');
  const auto* const mode = std::find_if(std::begin(kModes), std::end(kModes),
                                        [&](const Mode& each) { return each.word == text.substr(0, space); });
  if (mode == std::end(kModes)) return std::nullopt;
  PlayMode out{mode->kind, mode->kind == PlayKind::once ? 1 : 0};
  if (space == std::string_view::npos) return out;
  const std::string_view times = text.substr(space + 1);
  const auto passes =
      times.starts_with('x') && out.kind != PlayKind::once ? parse_whole(times.substr(1)) : std::nullopt;
  if (!passes || *passes < 1 || *passes > 10'000) return std::nullopt;
  out.passes = static_cast<std::int32_t>(*passes);
  return out;
}

// Such as 12; not beyond what a clip may have frames.
std::optional<std::int32_t> frame_of(std::string_view text) {
  const bool digits = !text.empty() && std::all_of(text.begin(), text.end(), detail::is_digit);
  if (!digits || text.size() >= 7) return std::nullopt;
  return static_cast<std::int32_t>(*parse_whole(text));
}

}  // namespace

std::string meant_play(std::string_view text) {
  for (const std::string_view end : {" times", " time"})  // `loop 3 times`
    if (text.ends_with(end)) text.remove_suffix(end.size());
  const std::size_t digits = text.find_last_not_of("0123456789") + 1;
  const std::string_view times = text.substr(digits);
  std::string word(text.substr(0, digits));
  while (!times.empty() && (word.ends_with(' ') || word.ends_with('x') || word.ends_with('*'))) word.pop_back();
  std::replace(word.begin(), word.end(), ' ', '-');  // `back and forth`
  for (const Mode& each : kModes) {
    const bool one = word == each.word || is_among(each.others, word);
    if (word.empty() || !one) continue;
    const std::string mode =
        std::string(each.word) + (times.empty() || each.kind == PlayKind::once ? "" : " x" + std::string(times));
    return play_of(mode) ? mode : std::string();
  }
  return {};
}

std::optional<PlayMode> Reader::play(const YamlNode& node) {
  if (node.kind == YamlNode::Kind::scalar) {
    if (const auto mode = play_of(node.text)) return mode;
    const std::string meant = meant_play(node.text);
    if (&node == renamed_) return play_of(meant);  // told with its key
    if (!meant.empty()) {
      fail(FindingCode::bad_value, node, "`play:` is " + node.words(), "Write `" + meant + "`.");
      return play_of(meant);
    }
    std::vector<std::string> known;
    for (const Mode& each : kModes) known.emplace_back(each.word);
    const std::string word = node.text.substr(0, node.text.find(' '));
    if (std::find(known.begin(), known.end(), word) == known.end()) {
      const std::string nearest = nearest_name(word, known);
      const bool back = word.starts_with("revers") || word.starts_with("backward");
      fail(FindingCode::bad_value, node, "`play:` is " + node.words(),
           back ? "It says how the clip goes on at its end; the state that plays it backwards says `speed: -1`."
           : nearest.empty() ? "Expected once, loop, loop x3, back-and-forth or back-and-forth x3."
                             : "Did you mean \"" + nearest + "\"?");
      return std::nullopt;
    }
  }
  mismatch(node, "`play:`", "once, loop, loop x3, back-and-forth or back-and-forth x3 (1 to 10000 times)");
  return std::nullopt;
}

std::optional<StretchDef> stretch_of(std::string_view text) {
  const std::size_t dash = text.find('-');
  const std::string_view first = text.substr(0, dash);
  const std::string_view last = dash == std::string_view::npos ? first : text.substr(dash + 1);
  StretchDef out;
  if (const auto from = frame_of(first), to = frame_of(last); from && to) {
    out.first = *from;
    out.last = *to;
    return out;
  }
  const auto begin = read_duration(first);
  const auto end = read_duration(last);
  if (!begin || !end || dash == std::string_view::npos) return std::nullopt;
  out.timed = true;
  out.begin = *begin;
  out.end = *end;
  return out;
}

// `{from: 0.2s, to: 0.4s}`, or a time without its unit, as it is written here; empty where that is not clear.
std::string stretch_meant(const YamlNode& node) {
  std::string one, other;
  if (node.kind == YamlNode::Kind::map && node.entries.size() == 2) {
    one = node.entries[0].value.text, other = node.entries[1].value.text;
  } else if (const std::size_t dash = node.text.find('-');
             node.kind == YamlNode::Kind::scalar && dash != std::string::npos && dash > 0) {
    one = node.text.substr(0, dash), other = node.text.substr(dash + 1);
    const auto unitless = [](const std::string& text) {
      return text.find('.') != std::string::npos && parse_number(text);
    };
    if (unitless(one)) one += 's';
    if (unitless(other)) other += 's';
    if (parse_whole(one) && read_duration(other)) one += other.ends_with("ms") ? "ms" : "s";
  }
  const std::string out = one + "-" + other;
  return stretch_of(out) && out != node.text ? out : "";
}

std::optional<StretchDef> Reader::stretch(const YamlNode& node, std::string_view what) {
  if (node.kind == YamlNode::Kind::scalar)
    if (const auto out = stretch_of(node.text)) return out;
  if (const std::string meant = stretch_meant(node); !meant.empty())
    fail(FindingCode::wrong_type, node, std::string(what) + " is " + node.words(), "Write `" + meant + "`.");
  else
    mismatch(node, what, "frames such as `4-5`, or times such as `0.1s-0.3s`");
  return std::nullopt;
}

bool Reader::look_for_ends(const YamlNode& node, std::string_view what) {
  if (node.kind != YamlNode::Kind::list || node.items.size() != 2) return false;
  const YamlNode &one = node.items[0], &other = node.items[1];
  if (one.kind != YamlNode::Kind::scalar || other.kind != YamlNode::Kind::scalar) return false;
  if (read_duration(one.text) && read_duration(other.text)) {
    fail(FindingCode::wrong_type, node, std::string(what) + " is a list of two times",
         "Write `" + one.text + "-" + other.text + "`.");
    return true;
  }
  const auto first = frame_of(one.text), last = frame_of(other.text);
  if (!first || !last || *last <= *first + 1) return false;
  fail(FindingCode::hardly_meant, node,
       std::string(what) + " is frames " + one.text + " and " + other.text + ", without those between them",
       "Write `" + one.text + "-" + other.text + "` for all of them, `[" + one.text + "-" + one.text + ", " +
           other.text + "-" + other.text + "]` for these two.");
  return false;
}

}  // namespace mobrin::io
