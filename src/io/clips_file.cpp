#include "clips_file.hpp"

#include <algorithm>
#include <map>

#include "clips_text.hpp"
#include "reader.hpp"

namespace mobrin::io {
namespace {

const YamlNode* value_of(const YamlNode& map, std::string_view key) {
  for (const YamlEntry& entry : map.entries)
    if (entry.key.text == key) return &entry.value;
  return nullptr;
}

// The numbers and holds of `frames:`, of a file that loads.
std::vector<PictureFrame> numbers_of(const YamlNode& node) {
  std::vector<PictureFrame> out;
  for (const YamlNode& item : node.kind == YamlNode::Kind::list ? node.items : std::vector<YamlNode>{node}) {
    std::string_view text = item.text;
    std::int32_t hold = 1;
    if (const std::size_t star = text.find('*'); star != std::string_view::npos) {
      hold = static_cast<std::int32_t>(parse_whole(text.substr(star + 1)).value_or(1));
      text = text.substr(0, star);
    }
    const std::size_t dash = text.find('-');
    const std::int64_t first = parse_whole(text.substr(0, dash)).value_or(0);
    const std::int64_t last = dash == std::string_view::npos ? first : parse_whole(text.substr(dash + 1)).value_or(0);
    for (std::int64_t number = first;; number += last < first ? -1 : 1) {
      out.push_back({static_cast<std::int32_t>(number), hold, {}});
      if (number == last) break;
    }
  }
  return out;
}

// Of a clip on a packed sheet: its pictures are those that were imported, then those that are shown.
void read_packed(const YamlNode* prints, const ClipDef& def, ArtClip& out) {
  out.kind = ArtClip::Kind::cells;
  out.sheet = out.packed = true;
  out.knows_all = prints != nullptr;
  std::map<std::string, std::int32_t> index;
  const auto add = [&](const std::string& name) -> std::int32_t {
    const auto place = static_cast<std::int32_t>(out.pictures.size());
    const auto [at, fresh] = index.try_emplace(name, place);
    if (fresh) out.pictures.push_back({name, place});
    return at->second;
  };
  if (prints != nullptr)
    for (const auto& [name, print] : prints->entries)
      out.pictures[static_cast<std::size_t>(add(name.text))].print = print.text;
  for (const FrameDef& frame : def.frames) out.frames.push_back({add(frame.art.tile), 1, {}});
}

ArtClip clip_of(const YamlEntry& entry, const ClipDef& def) {
  ArtClip out;
  out.name = Text(entry.key.text);
  out.fps = def.fps;
  out.play = def.play;
  out.length = def.length;
  const YamlNode& fields = entry.value;
  const auto text = [&](std::string_view key) {
    const YamlNode* node = value_of(fields, key);
    return node == nullptr ? std::string() : node->text;
  };
  const YamlNode* prints = value_of(fields, "prints");
  const YamlNode* frames = value_of(fields, "frames");
  const YamlNode* images = value_of(fields, "images");
  if (images != nullptr) {
    out.kind = ArtClip::Kind::images;
    for (const YamlNode& item : images->kind == YamlNode::Kind::list ? images->items : std::vector<YamlNode>{*images})
      out.pictures.push_back({item.text});
    for (std::size_t i = 0; prints != nullptr && i < prints->items.size() && i < out.pictures.size(); ++i)
      out.pictures[i].print = prints->items[i].text;
    if (frames != nullptr)
      out.frames = numbers_of(*frames);
    else
      for (std::size_t i = 0; i < def.frames.size(); ++i) out.frames.push_back({static_cast<std::int32_t>(i), 1, {}});
  } else if (frames != nullptr && !def.frames.empty() &&
             (value_of(fields, "animation") != nullptr || value_of(fields, "tile") != nullptr)) {
    out.kind = ArtClip::Kind::cells;
    out.sheet = value_of(fields, "tile") != nullptr;
    out.source = text(out.sheet ? "sheet" : "animation");
    out.tile = def.frames[0].art.rect;
    out.margin = def.frames[0].art.margin;
    out.spacing = def.frames[0].art.spacing;
    out.frames = numbers_of(*frames);
    std::map<std::int64_t, ArtPicture> cells;
    for (const PictureFrame& frame : out.frames) cells[frame.picture].cell = frame.picture;
    out.knows_all = prints != nullptr;
    if (prints != nullptr)
      for (const auto& [cell, print] : prints->entries)
        if (const auto number = parse_whole(cell.text)) {
          const std::size_t space = print.text.find(' ');
          cells[*number] = {"", *number, print.text.substr(0, space),
                            space == std::string::npos ? "" : print.text.substr(space + 1)};
        }
    std::map<std::int64_t, std::int32_t> index;
    for (auto& [cell, picture] : cells) {
      picture.name = std::to_string(cell);
      index[cell] = static_cast<std::int32_t>(out.pictures.size());
      out.pictures.push_back(std::move(picture));
    }
    for (PictureFrame& frame : out.frames) frame.picture = index[frame.picture];
  } else if (frames != nullptr && !def.frames.empty() && def.frames[0].art.rect.width > 0 &&
             !def.frames[0].art.tile.empty()) {
    out.source = text("sheet");
    read_packed(prints, def, out);
  } else if (def.frames.empty() && value_of(fields, "length") != nullptr) {
    out.kind = ArtClip::Kind::length;
    out.source = text("from");
  }
  // What was read as numbers is what the loader made of it, with its times.
  if (out.frames.size() != def.frames.size() && out.kind != ArtClip::Kind::length) out.kind = ArtClip::Kind::other;
  for (std::size_t i = 0; i < out.frames.size() && i < def.frames.size(); ++i) {
    out.frames[i].hold = def.frames[i].hold;
    out.frames[i].time = def.frames[i].time;
  }
  return out;
}

// --- as text --------------------------------------------------------------------------------------------------------

std::string words(const std::string& text, bool json) { return json ? quoted(text, true) : quoted(text, false); }

std::int64_t number_of(const ArtClip& clip, std::size_t frame) {
  const auto picture = static_cast<std::size_t>(clip.frames[frame].picture);
  return clip.kind == ArtClip::Kind::images ? static_cast<std::int64_t>(picture) : clip.pictures[picture].cell;
}

// Whether `frames:` would say nothing new: all images in order, each once.
bool says_itself(const ArtClip& clip) {
  if (clip.kind != ArtClip::Kind::images || clip.frames.size() != clip.pictures.size()) return false;
  for (std::size_t i = 0; i < clip.frames.size(); ++i)
    if (clip.frames[i].picture != static_cast<std::int32_t>(i) || clip.frames[i].hold != 1) return false;
  return true;
}

// Runs of numbers as ranges, up or down; names one by one.
std::string frames_text(const ArtClip& clip, bool json) {
  std::string out;
  for (std::size_t i = 0; clip.packed && i < clip.frames.size(); ++i) {
    const PictureFrame& frame = clip.frames[i];
    const std::string& name = clip.pictures[static_cast<std::size_t>(frame.picture)].name;
    const std::string hold = frame.hold > 1 ? "*" + std::to_string(frame.hold) : "";
    out += (i == 0 ? "" : ", ") + (words(name, json) == name ? name + hold : words(name + hold, json));
  }
  if (clip.packed) return "[" + out + "]";
  for (std::size_t i = 0; i < clip.frames.size();) {
    const std::int32_t hold = clip.frames[i].hold;
    const auto follows = [&](std::size_t at, std::int64_t step) {
      return at < clip.frames.size() && clip.frames[at].hold == hold &&
             number_of(clip, at) == number_of(clip, at - 1) + step;
    };
    const std::int64_t step = follows(i + 1, -1) && follows(i + 2, -1) ? -1 : 1;
    std::size_t end = i + 1;
    while (follows(end, step)) ++end;
    std::string run = std::to_string(number_of(clip, i));
    if (end - i > 1) run += "-" + std::to_string(number_of(clip, end - 1));
    if (hold > 1) run += "*" + std::to_string(hold);
    out += (out.empty() ? "" : ", ") + (json ? "\"" + run + "\"" : run);
    i = end;
  }
  return "[" + out + "]";
}

std::string times_text(const ArtClip& clip, bool json) {
  std::string out;
  for (const PictureFrame& frame : clip.frames) out += (out.empty() ? "" : ", ") + words(time_text(frame.time), json);
  return "[" + out + "]";
}

std::string prints_text(const ArtClip& clip, bool json, const std::string& newline) {
  const bool listed = clip.kind == ArtClip::Kind::images;
  std::string out;
  for (std::size_t i = 0; i < clip.pictures.size(); ++i) {
    const ArtPicture& picture = clip.pictures[i];
    if (!out.empty()) out += i % 6 == 0 && !newline.empty() ? "," + newline : ", ";
    const std::string print = picture.print + (picture.delay.empty() ? "" : " " + picture.delay);
    if (!listed) {
      const std::string key = clip.packed ? picture.name : std::to_string(picture.cell);
      out += (json || clip.packed ? words(key, json) : key) + ": ";
    }
    out += json ? "\"" + print + "\"" : print;
  }
  return (listed ? "[" : "{") + out + (listed ? "]" : "}");
}

std::string fps_text(Fraction fps, bool json) {
  if (fps.den == 1) return std::to_string(fps.num);
  const std::string text = std::to_string(fps.num) + "/" + std::to_string(fps.den);
  return json ? "\"" + text + "\"" : text;
}

bool prints_differ(const ArtClip& a, const ArtClip& b) {
  if (a.pictures.size() != b.pictures.size()) return true;
  for (std::size_t i = 0; i < a.pictures.size(); ++i)
    if (a.pictures[i].print != b.pictures[i].print || a.pictures[i].delay != b.pictures[i].delay ||
        (a.packed ? a.pictures[i].name != b.pictures[i].name : a.pictures[i].cell != b.pictures[i].cell))
      return true;
  return !a.knows_all;
}

// All fields of a new entry, in order; `images` apart.
std::vector<std::pair<std::string, std::string>> fields_of(const ArtClip& clip, bool json, const std::string& newline) {
  std::vector<std::pair<std::string, std::string>> out;
  const auto put = [&](const char* key, std::string value) { out.emplace_back(key, std::move(value)); };
  if (clip.kind == ArtClip::Kind::length) {
    put("length", words(time_text(clip.length), json));
  } else {
    if (clip.kind == ArtClip::Kind::cells) {
      put(clip.sheet ? "sheet" : "animation", words(clip.source, json));
      if (clip.sheet && !clip.packed)
        put("tile", "[" + std::to_string(clip.tile.width) + ", " + std::to_string(clip.tile.height) + "]");
      if (clip.margin > 0) put("margin", std::to_string(clip.margin));
      if (clip.spacing > 0) put("spacing", std::to_string(clip.spacing));
    }
    if (!says_itself(clip)) put("frames", frames_text(clip, json));
    if (clip.fps.num > 0)
      put("fps", fps_text(clip.fps, json));
    else
      put("times", times_text(clip, json));
  }
  put("play", words(clip.play.text(), json));
  if (clip.kind == ArtClip::Kind::length)
    put("from", words(clip.source, json));
  else
    put("prints", prints_text(clip, json, newline));
  return out;
}

}  // namespace

ClipDef ArtClip::definition() const {
  ClipDef out;
  out.name = name;
  out.fps = fps;
  out.length = length;
  out.play = play;
  for (const PictureFrame& frame : frames) {
    FrameDef& to = out.frames.emplace_back();
    const ArtPicture& picture = pictures[static_cast<std::size_t>(frame.picture)];
    to.hold = frame.hold;
    to.time = frame.time;
    to.art.source = kind == Kind::images ? picture.name : source;
    if (kind == Kind::cells) to.art.tile = packed ? picture.name : std::to_string(picture.cell);
    to.art.rect = tile;
    to.art.margin = margin;
    to.art.spacing = spacing;
  }
  return out;
}

std::vector<ArtClip> clips_of(const YamlNode& root, const Machine& loaded) {
  std::vector<ArtClip> out;
  const YamlNode* clips = value_of(root, "clips");
  if (clips == nullptr) return out;
  for (const YamlEntry& entry : clips->entries)
    for (const ClipInfo& info : loaded.clips())
      if (info.def.name.text == entry.key.text) out.push_back(clip_of(entry, info.def));
  return out;
}

ClipsFile::ClipsFile(std::string text) {
  if (text.starts_with("\xEF\xBB\xBF")) {
    mark_ = text.substr(0, 3);
    text.erase(0, 3);
  }
  if (text.find_first_not_of(" \t\r\n") == std::string::npos)
    text =
        "# Made by `mobrin import`. Run it again when the art changes: it knows pictures again (`prints:`), and what "
        "you\n"
        "# write here, timing above all, goes with them.\nmobrin: 1\n";
  text_ = std::move(text);
  read();
}

void ClipsFile::read() {
  YamlProblem problem;
  root_ = {};
  (void)parse_yaml(text_, root_, problem);
  json_ = YamlText(text_, root_).is_json();
}

void ClipsFile::edit(const std::function<void(YamlText&)>& change) {
  YamlText out(text_, root_);
  change(out);
  text_ = out.text();
  read();
}

const YamlEntry* ClipsFile::clips() const {
  for (const YamlEntry& entry : root_.entries)
    if (entry.key.text == "clips") return &entry;
  return nullptr;
}

const YamlEntry* ClipsFile::clip(const std::string& name) const {
  const YamlEntry* all = clips();
  if (all == nullptr) return nullptr;
  for (const YamlEntry& entry : all->value.entries)
    if (entry.key.text == name) return &entry;
  return nullptr;
}

void ClipsFile::set(const std::string& name, const std::string& key, const std::string& value) {
  const YamlEntry* holder = clip(name);
  if (holder == nullptr) return;
  edit([&](YamlText& out) {
    for (const YamlEntry& entry : holder->value.entries)
      if (entry.key.text == key) return out.replace(entry, value);
    out.add_entry(holder->value, holder, out.word(key), value);
  });
}

void ClipsFile::unset(const std::string& name, const std::string& key) {
  const YamlEntry* holder = clip(name);
  if (holder == nullptr) return;
  for (std::size_t i = 0; i < holder->value.entries.size(); ++i)
    if (holder->value.entries[i].key.text == key)
      return edit([&](YamlText& out) { out.remove_entry(holder->value, i); });
}

bool ClipsFile::in_lines() const {
  const YamlEntry* all = clips();
  return !root_.flow && (all == nullptr || (!all->value.flow && (all->value.kind == YamlNode::Kind::map ||
                                                                 all->value.kind == YamlNode::Kind::null)));
}

void ClipsFile::add_flow(const ArtClip& clip) {
  std::string images;
  for (const ArtPicture& picture : clip.pictures) images += (images.empty() ? "" : ", ") + words(picture.name, json_);
  std::string value;
  const auto put = [&](const std::string& key, const std::string& text) {
    value += (value.empty() ? "" : ", ") + words(key, json_) + ": " + text;
  };
  if (clip.kind == ArtClip::Kind::images) put("images", "[" + images + "]");
  for (const auto& [key, text] : fields_of(clip, json_, "")) put(key, text);
  const YamlEntry* all = clips();
  edit([&](YamlText& out) {
    if (all == nullptr)
      out.add_entry(root_, nullptr, out.word("clips"), "{" + out.word(clip.name.text) + ": {" + value + "}}");
    else
      out.add_entry(all->value, all, out.word(clip.name.text), "{" + value + "}");
  });
}

void ClipsFile::add(const std::vector<ArtClip>& added) {
  if (added.empty()) return;
  if (!in_lines()) {
    for (const ArtClip& clip : added) add_flow(clip);
    return;
  }
  const YamlEntry* all = clips();
  const bool fresh = all == nullptr || all->value.kind == YamlNode::Kind::null;
  const std::string indent(fresh ? 2 : all->value.entries.front().key.column - 1, ' ');
  std::string value;  // of the first, and the others behind it
  for (const ArtClip& clip : added) {
    if (&clip != &added.front()) value += "\n" + indent + clip.name.text + ":";
    if (clip.kind == ArtClip::Kind::images) {
      value += "\n" + indent + "  images:";
      for (const ArtPicture& picture : clip.pictures) value += "\n" + indent + "    - " + words(picture.name, false);
    }
    for (const auto& [key, text] : fields_of(clip, false, "\n" + indent + "    "))
      value += "\n" + indent + "  " + key + ": " + text;
  }
  const std::string& first = added.front().name.text;
  edit([&](YamlText& out) {
    if (all == nullptr)
      out.add_entry(root_, nullptr, "clips", "\n" + indent + first + ":" + value);
    else if (fresh)
      out.replace(*all, "\n" + indent + first + ":" + value);
    else
      out.add_entry(all->value, all, first, value);
  });
}

void ClipsFile::set_images(const ArtClip& before, const ArtClip& after) {
  const YamlEntry* holder = clip(after.name.text);
  if (holder == nullptr) return;
  for (const YamlEntry& entry : holder->value.entries) {
    if (entry.key.text != "images") continue;
    // Each picture from the line it stood on, if it stood there.
    const std::vector<std::int32_t> matched = match_pictures(before.pictures, after.pictures);
    std::vector<YamlText::Item> items(after.pictures.size());
    for (std::size_t i = 0; i < matched.size(); ++i)
      if (matched[i] >= 0) items[static_cast<std::size_t>(matched[i])].index = i;
    for (std::size_t j = 0; j < items.size(); ++j)
      if (items[j].index >= before.pictures.size() || before.pictures[items[j].index].name != after.pictures[j].name)
        items[j].words = words(after.pictures[j].name, json_);
    return edit([&](YamlText& out) { out.rebuild_list(entry, items); });
  }
}

void ClipsFile::change_one(const ArtClip& before, const ArtClip& after) {
  const std::string& name = after.name.text;
  if (before.name.text != name) rename(before.name.text, name);
  const auto same_names = [&] {
    return std::equal(before.pictures.begin(), before.pictures.end(), after.pictures.begin(), after.pictures.end(),
                      [](const ArtPicture& a, const ArtPicture& b) { return a.name == b.name; });
  };
  if (after.kind == ArtClip::Kind::images && !same_names()) set_images(before, after);
  if (after.kind == ArtClip::Kind::cells) {
    if (before.source != after.source) set(name, after.sheet ? "sheet" : "animation", words(after.source, json_));
    if (after.sheet && (before.tile.width != after.tile.width || before.tile.height != after.tile.height))
      set(name, "tile", "[" + std::to_string(after.tile.width) + ", " + std::to_string(after.tile.height) + "]");
    if (before.margin != after.margin) set(name, "margin", std::to_string(after.margin));
    if (before.spacing != after.spacing) set(name, "spacing", std::to_string(after.spacing));
  }
  if (frames_text(before, json_) != frames_text(after, json_)) {
    if (says_itself(after))
      unset(name, "frames");
    else
      set(name, "frames", frames_text(after, json_));
  }
  if (after.kind == ArtClip::Kind::length) {
    if (before.length != after.length) set(name, "length", words(time_text(after.length), json_));
    if (before.source != after.source) set(name, "from", words(after.source, json_));
  } else {
    const bool same_times =
        std::equal(before.frames.begin(), before.frames.end(), after.frames.begin(), after.frames.end(),
                   [](const PictureFrame& a, const PictureFrame& b) { return a.time == b.time; });
    if (after.fps.num > 0) {
      if (before.fps.num == 0) unset(name, "times");
      if (before.fps.num != after.fps.num || before.fps.den != after.fps.den)
        set(name, "fps", fps_text(after.fps, json_));
    } else {
      if (before.fps.num > 0) unset(name, "fps");
      if (before.fps.num > 0 || !same_times) set(name, "times", times_text(after, json_));
    }
    if (prints_differ(before, after)) {
      const YamlEntry* holder = clip(name);
      const bool block = holder != nullptr && !holder->value.flow && !holder->value.entries.empty();
      const std::string indent = block ? (text_.find("\r\n") != std::string::npos ? "\r\n" : "\n") +
                                             std::string(holder->value.entries.front().key.column - 1 + 2, ' ')
                                       : std::string();
      set(name, "prints", prints_text(after, json_, indent));
    }
  }
  if (before.play.text() != after.play.text()) set(name, "play", words(after.play.text(), json_));
}

bool ClipsFile::change_apart(const std::vector<std::pair<ArtClip, ArtClip>>& changes) {
  const YamlEntry* all = clips();
  if (all == nullptr || !in_lines()) return false;
  const YamlText whole(text_, root_);
  const std::string head = "clips:" + whole.newline();
  std::map<std::string_view, const std::pair<ArtClip, ArtClip>*> of;
  for (const auto& each : changes) of.emplace(each.first.name.text, &each);
  std::string text = text_;
  std::size_t end = text.size();
  for (auto entry = all->value.entries.rbegin(); entry != all->value.entries.rend(); ++entry) {
    const std::size_t begin = whole.line_begin(whole.begin_of(entry->key));
    if (const auto found = of.find(entry->key.text); found != of.end()) {
      ClipsFile alone(head + text_.substr(begin, end - begin));
      if (alone.root_.kind == YamlNode::Kind::null) return false;
      alone.change_one(found->second->first, found->second->second);
      text.replace(begin, end - begin, alone.text_.substr(head.size()));
    }
    end = begin;
  }
  text_ = std::move(text);
  read();
  return true;
}

void ClipsFile::change(const std::vector<std::pair<ArtClip, ArtClip>>& changes) {
  // A file of thousands of clips would be parsed anew for each.
  if (changes.size() > 1 && change_apart(changes)) return;
  for (const auto& [before, after] : changes) change_one(before, after);
}

void ClipsFile::rename(const std::string& name, const std::string& to) {
  const YamlEntry* entry = clip(name);
  if (entry == nullptr) return;
  edit([&](YamlText& out) { out.replace_nodes({{&entry->key, out.word(to)}}); });
}

void ClipsFile::remove(const std::string& name) {
  const YamlEntry* all = clips();
  for (std::size_t i = 0; all != nullptr && i < all->value.entries.size(); ++i)
    if (all->value.entries[i].key.text == name) return edit([&](YamlText& out) { out.remove_entry(all->value, i); });
}

}  // namespace mobrin::io
