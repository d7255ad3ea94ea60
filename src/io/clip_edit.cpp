// Editing clips: the keys of one entry of `clips:`.
#include "mobrin/io/clip_edit.hpp"

#include <algorithm>
#include <optional>

#include "reader.hpp"
#include "yaml_edit.hpp"

namespace mobrin {
namespace {

using namespace io;
using ClipKind = ClipEdit::Kind;

// `7`, `8-13`, `19*3`, `2-4*2`: the first and last picture and the hold.
struct FrameItem {
  std::int64_t first = 0, last = 0, hold = 1;
  bool range = false;
  [[nodiscard]] std::int64_t count() const { return (last > first ? last - first : first - last) + 1; }
};

std::optional<FrameItem> frame_item(std::string text) {
  FrameItem out;
  if (const std::size_t star = text.find('*'); star != std::string::npos) {
    const auto hold = parse_whole(text.substr(star + 1));
    if (!hold || *hold < 1) return std::nullopt;
    out.hold = *hold;
    text.erase(star);
  }
  const std::size_t dash = text.find('-');
  const auto first = parse_whole(text.substr(0, dash));
  const auto last = dash == std::string::npos ? first : parse_whole(text.substr(dash + 1));
  if (!first || !last || *first < 0 || *last < 0) return std::nullopt;
  out.first = *first;
  out.last = *last;
  out.range = dash != std::string::npos;
  return out;
}

std::string item_text(std::int64_t first, std::int64_t last, std::int64_t hold) {
  return std::to_string(first) + (first == last ? "" : "-" + std::to_string(last)) +
         (hold == 1 ? "" : "*" + std::to_string(hold));
}

// The list of frames with one of them held otherwise; empty where the frame is not there or the list is another's.
std::optional<std::vector<YamlText::Item>> held(const YamlNode& frames, std::size_t frame, std::int64_t hold) {
  std::vector<YamlText::Item> out;
  std::int64_t before = 0;
  bool found = false;
  const auto one = [&](const YamlNode& node, std::size_t index) {
    const auto item = node.kind == YamlNode::Kind::scalar ? frame_item(node.text) : std::nullopt;
    if (!item) return false;
    const auto at = static_cast<std::int64_t>(frame) - before;
    before += item->count();
    if (at < 0 || at >= item->count()) {
      out.push_back({index, ""});
      return true;
    }
    found = true;
    const std::int64_t step = item->last >= item->first ? 1 : -1, here = item->first + step * at;
    std::vector<std::string> parts;
    if (at > 0) parts.push_back(item_text(item->first, here - step, item->hold));
    parts.push_back(item_text(here, here, hold));
    if (at + 1 < item->count()) parts.push_back(item_text(here + step, item->last, item->hold));
    // The first part stands where the item did, with what was written beside it.
    for (std::size_t i = 0; i < parts.size(); ++i)
      out.push_back({i == 0 ? index : static_cast<std::size_t>(-1), parts[i]});
    return true;
  };
  if (frames.kind == YamlNode::Kind::list) {
    for (std::size_t i = 0; i < frames.items.size(); ++i)
      if (!one(frames.items[i], i)) return std::nullopt;
  } else if (!one(frames, 0)) {
    return std::nullopt;
  }
  if (!found) return std::nullopt;
  return out;
}

}  // namespace

Result<std::string> edit_clip(std::string_view text, const ClipEdit& edit) {
  std::string now(text);
  const std::string mark = now.starts_with("\xEF\xBB\xBF") ? now.substr(0, 3) : "";  // of byte order
  now.erase(0, mark.size());
  YamlNode before, after;
  YamlProblem problem;
  if (!parse_yaml(now, before, problem)) return Error{problem.message, ""};
  const YamlEntry* clips = entry_of(before, "clips");
  const YamlEntry* clip = clips == nullptr ? nullptr : entry_of(clips->value, edit.clip);
  if (clip == nullptr) return Error{"this file has no clip \"" + edit.clip + "\"", ""};
  const Error by_hand{
      "the clip \"" + edit.clip + "\" is written in a way that cannot be edited here; edit the file by hand", ""};
  if (clip->value.kind != YamlNode::Kind::map || clip->value.entries.empty()) return by_hand;
  YamlText out(std::move(now), before);
  std::string key = "frames";
  if (edit.kind == ClipKind::hold) {
    const YamlEntry* frames = entry_of(clip->value, "frames");
    const auto hold = parse_whole(edit.to);
    if (!hold || *hold < 1 || *hold > 1000)
      return Error{"a frame is held for 1 to 1000 frame times, not " + edit.to, ""};
    if (entry_of(clip->value, "times") != nullptr)
      return Error{"the frames of \"" + edit.clip + "\" have times of their own; edit them in `times:`", ""};
    if (frames == nullptr) return by_hand;
    const auto items = held(frames->value, edit.frame, *hold);
    if (!items)
      return Error{"\"" + edit.clip + "\" has no frame " + std::to_string(edit.frame) + " that can be held here", ""};
    out.rebuild_list(*frames, *items);
  } else {
    key = edit.kind == ClipKind::rate ? "fps" : "play";
    if (edit.kind == ClipKind::rate && entry_of(clip->value, "times") != nullptr)
      return Error{"the frames of \"" + edit.clip + "\" have times of their own, so it has no rate", ""};
    const std::string words = edit.kind == ClipKind::play ? out.word(edit.to) : edit.to;
    if (const YamlEntry* there = entry_of(clip->value, key); there != nullptr)
      out.replace(*there, words);
    else
      out.add_entry(clip->value, clip, out.word(key), words);
  }
  // Read again: nothing else may differ.
  const auto others = [&](const YamlNode& root) {
    auto all = leaves(root);
    const std::string inside = "/clips/" + edit.clip + "/" + key;
    std::erase_if(all, [&](const auto& leaf) { return leaf.first == inside || leaf.first.starts_with(inside + "/"); });
    return all;
  };
  if (!parse_yaml(out.text(), after, problem) || others(before) != others(after)) return by_hand;
  return mark + out.text();
}

std::string file_of_clip(const Loaded& loaded, const std::string& file, const std::string& clip) {
  if (loaded.machine)
    for (const ClipInfo& info : loaded.machine->clips())
      if (info.def.name.text == clip && info.def.name.place.file < loaded.files.size())
        return loaded.files[info.def.name.place.file];
  return file;
}

}  // namespace mobrin
