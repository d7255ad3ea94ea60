// Loading clips.
#include <algorithm>

#include "expression/look_alike.hpp"
#include "loader.hpp"
#include "machine/limits.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

// `0..5`, `0:5`, `0 to 5`, `0~5` as it is written here; empty for none.
std::string meant_range(std::string_view text) {
  const std::size_t first = text.find_first_not_of("0123456789");
  if (first == std::string_view::npos || first == 0) return {};
  const std::size_t last = text.find_first_of("0123456789", first);
  if (last == std::string_view::npos || !parse_whole(text.substr(last))) return {};
  std::string between(text.substr(first, last - first));
  std::erase(between, ' ');
  for (const std::string_view each : {"..", "...", ":", "to", "~", "->", "\u2013"})
    if (between == each) return std::string(text.substr(0, first)) + "-" + std::string(text.substr(last));
  return {};
}

}  // namespace

void Loader::read_clips(const YamlNode& node) {
  reader.each_entry(node, "`clips:`", [&](const YamlNode& key, const YamlNode& value) {
    if (own_clips_.count(key.text) > 0) return;  // the character brings its own
    const Watch watch(*this, key.text);
    read_clip(key, value);
  });
}

void Loader::read_clip(const YamlNode& key, const YamlNode& value) {
  ClipDef clip;
  clip.name = reader.text_of(key);
  const Fields fields = reader.fields(value, Section::clip);
  if (const YamlNode* node = fields.get("accept"))
    for (const Text& code : reader.names(*node, "a finding's code")) clip.accept.push_back(code);
  if (value.kind != YamlNode::Kind::map) {
    if (value.kind == YamlNode::Kind::null)
      reader.mismatch(value, "the clip \"" + key.text + "\"", "a map such as `{frames: [0-7], fps: 12, play: loop}`");
    return;
  }
  const auto conflict = [&](std::string_view one, std::string_view other) {
    if (!fields.has(one) || !fields.has(other)) return false;
    reader.fail(FindingCode::conflicting_keys, *fields.get(other),
                "the clip \"" + key.text + "\" has both `" + std::string(one) + ":` and `" + std::string(other) + ":`",
                one == "length" && (other == "frames" || other == "images")
                    ? "`length:` is of a clip without frames: how long these show is `fps:`, or `times:`."
                : one == "part"
                    ? "A part has the pictures of the clip it is taken from; its own are `frames:` within `part:`."
                    : "Keep one of them.");
    return true;
  };
  bool sound = true;
  for (const auto& [one, other] :
       std::initializer_list<std::pair<std::string_view, std::string_view>>{{"sheet", "images"},
                                                                            {"part", "animation"},
                                                                            {"part", "sheet"},
                                                                            {"part", "images"},
                                                                            {"part", "frames"},
                                                                            {"part", "length"},
                                                                            {"part", "tile"},
                                                                            {"part", "margin"},
                                                                            {"part", "spacing"},
                                                                            {"animation", "sheet"},
                                                                            {"animation", "images"},
                                                                            {"length", "animation"},
                                                                            {"fps", "times"},
                                                                            {"length", "frames"},
                                                                            {"length", "images"},
                                                                            {"length", "fps"},
                                                                            {"length", "times"}})
    if (sound && conflict(one, other)) sound = false;
  if (const YamlNode* node = fields.get("play"))
    if (const auto play = reader.play(*node)) clip.play = *play;
  if (const YamlNode* node = fields.get("length"))
    if (const auto length = reader.duration(*node, "`length:`")) clip.length = *length;
  if (const YamlNode* node = fields.get("fps"))
    if (const auto fps = reader.fraction(*node)) clip.fps = *fps;
  if (!sound) {
    broken.insert(key.text);
    return;
  }
  if (fields.has("part")) return read_part(*fields.get("part"), fields, clip);
  const Sheet* sheet = nullptr;
  if (const YamlNode* node = fields.get("sheet")) {
    sheet = sheet_named(*node);
    if (sheet != nullptr && sheet->broken) {  // told once, where it is broken
      broken.insert(key.text);
      return;
    }
  }
  if (const YamlNode* node = fields.get("frames")) {
    clip.frames = read_frames(*node, sheet);
    if (sheet == nullptr && clip.frames.size() == 1) look_for_count(*node);
  }
  read_art(fields, sheet, clip);
  read_times(fields, clip);
  // What could not be read is reported already; a clip that would only be reported again is left out of the checks that
  // follow.
  if (fields.has("frames") && clip.frames.empty() && fields.get("frames")->kind == YamlNode::Kind::list &&
      fields.get("frames")->items.empty())
    reader.fail(FindingCode::bad_value, *fields.get("frames"),
                "the clip \"" + key.text + "\" has an empty list of frames", "List its frames, such as `[0-7]`.");
  if (!clip.frames.empty() && !fields.has("fps") && !fields.has("times")) {
    if (fields.strange) return;  // that is why
    return reader.fail(FindingCode::missing_key, key, "the clip \"" + key.text + "\" says no timing",
                       "Add `fps:`, or `times:` with one time a frame.");
  }
  definition.clips.push_back(std::move(clip));
}

// `frames: 6`, written for six of them.
void Loader::look_for_count(const YamlNode& frames) {
  const auto number = frames.kind == YamlNode::Kind::scalar ? parse_whole(frames.text) : std::nullopt;
  if (!number || *number < 1) return;
  const std::string all =
      *number == 1 ? "`[0]` for one frame" : "`[0-" + std::to_string(*number - 1) + "]` for " + frames.text + " frames";
  reader.fail(FindingCode::lone_frame, frames, "`frames: " + frames.text + "` is one frame, number " + frames.text,
              "Write " + all + ", `[" + frames.text + "]` for this one.");
}

// `3`, `2-5`, `7*3`, `2-5*2`, or a rectangle's name with an optional hold.
std::vector<FrameDef> Loader::read_frames(const YamlNode& node, const Sheet* sheet) {
  std::vector<FrameDef> out;
  bool sound = true;
  reader.each_item(node, [&](const YamlNode& item) {
    if (!sound) return;
    const auto wrong = [&] {
      sound = false;
      if (const std::string range = sheet == nullptr ? meant_range(item.text) : ""; !range.empty())
        return reader.fail(FindingCode::wrong_type, item, "a frame is " + item.words(), "Write `" + range + "`.");
      if (sheet == nullptr && item.kind != YamlNode::Kind::scalar)
        return reader.fail(FindingCode::wrong_type, item, "a frame is " + item.words(),
                           "Times stand beside the frames: `frames: [0, 1], times: [100ms, 50ms]`.");
      reader.mismatch(item, "a frame",
                      sheet != nullptr ? "the name of a rectangle such as `walk_1`, with a hold `walk_1*3`"
                                       : "a number `3`, a range `2-5`, or a hold `7*3`");
    };
    if (item.kind != YamlNode::Kind::scalar || item.tagged) return wrong();
    std::string_view text = item.text;
    FrameDef frame;
    if (const std::size_t star = text.find('*'); star != std::string_view::npos) {
      const auto hold = parse_whole(text.substr(star + 1));
      if (!hold || *hold < 1 || *hold > 10'000) {
        sound = false;
        return reader.fail(FindingCode::bad_value, item, "the frame " + item.words() + " has an impossible hold",
                           "A hold is a whole number from 1 to 10000, such as `7*3`.");
      }
      frame.hold = static_cast<std::int32_t>(*hold);
      text = text.substr(0, star);
    }
    if (sheet != nullptr) {
      const auto packed = sheet->pictures.find(text);
      if (packed == sheet->pictures.end() && trusts_packed_names) {
        frame.art.source = sheet->image;
        frame.art.tile = std::string(text);
        frame.art.rect = {0, 0, 1, 1};
        out.push_back(frame);
        return;
      }
      if (packed == sheet->pictures.end()) {
        std::vector<std::string> known;
        for (const auto& [name, each] : sheet->pictures) known.push_back(name);
        const std::string nearest = nearest_name(text, known);
        sound = false;
        return reader.fail(FindingCode::unknown_name, item,
                           "there is no rectangle \"" + std::string(text) + "\" on this sheet",
                           nearest.empty() ? "Name one of its `rects:`." : "Did you mean \"" + nearest + "\"?");
      }
      frame.art.source = sheet->image;
      frame.art.tile = std::string(text);
      frame.art.rect = packed->second.rect;
      frame.art.whole = packed->second.whole;
      out.push_back(frame);
      return;
    }
    const std::size_t dash = text.find('-');
    const auto first = parse_whole(text.substr(0, dash));
    const auto last = dash == std::string_view::npos ? first : parse_whole(text.substr(dash + 1));
    if (!first || !last || *first < 0 || *last < 0 || *first > 1'000'000 || *last > 1'000'000) return wrong();
    const std::int64_t step = *last < *first ? -1 : 1;
    if (out.size() + static_cast<std::size_t>((*last - *first) * step) + 1 > detail::kMaxFrames) {
      sound = false;
      return reader.fail(FindingCode::too_large, item, "more than 10000 frames in one clip", "Split the clip up.");
    }
    if (frames_read_ + out.size() > detail::kMaxFramesOfAll) {
      sound = false;
      return reader.fail(FindingCode::too_large, item, "more than 500000 frames in all clips together",
                         "Leave out what is not shown, or make several characters of it.");
    }
    for (std::int64_t number = *first;; number += step) {
      frame.art.tile = std::to_string(number);
      out.push_back(frame);
      if (number == *last) break;
    }
  });
  if (!sound) out.clear();
  frames_read_ += out.size();
  return out;
}

void Loader::read_art(const Fields& fields, const Sheet* sheet, ClipDef& clip) {
  PixelRect tile;
  if (const YamlNode* node = fields.get("tile")) {
    if (node->kind == YamlNode::Kind::list && node->items.size() == 2) {
      const auto width = reader.whole(node->items[0], "`tile:`", 1, 100'000);
      const auto height = reader.whole(node->items[1], "`tile:`", 1, 100'000);
      if (width && height) tile = {-1, -1, static_cast<std::int32_t>(*width), static_cast<std::int32_t>(*height)};
    } else {
      reader.no_numbers(*node, "`tile:`", "[width, height] in pixels");
    }
    if (!fields.has("sheet"))
      reader.fail(FindingCode::missing_key, *node, "`tile:` without `sheet:`", "Name the image it divides.");
  }
  const auto pixels = [&](std::string_view key) {
    const YamlNode* node = fields.get(key);
    if (node == nullptr) return 0;
    if (!fields.has("tile"))
      reader.fail(FindingCode::missing_key, *node, "`" + std::string(key) + ":` without `tile:`",
                  "It speaks of a grid; give the size of its cells.");
    return static_cast<std::int32_t>(reader.whole(*node, "`" + std::string(key) + ":`", 0, 100'000).value_or(0));
  };
  const std::int32_t margin = pixels("margin"), spacing = pixels("spacing");
  if (const YamlNode* node = fields.get("sheet"); node != nullptr && sheet == nullptr) {
    const auto image = reader.name(*node, "`sheet:`");
    if (!fields.has("tile") && !fields.strange)
      reader.fail(FindingCode::missing_key, *node, "the sheet " + node->words() + " has no `tile:`",
                  "Add `tile: [width, height]`, or declare its rectangles under `sheets:`.");
    if (!fields.has("frames") && !fields.strange)
      reader.fail(FindingCode::missing_key, *node,
                  "the clip \"" + clip.name.text + "\" does not say which frames of the sheet it shows",
                  "Add `frames:`, such as `[0-7]`.");
    const std::string source = image ? art_path(*image) : "";
    for (FrameDef& frame : clip.frames) {
      frame.art.source = source;
      frame.art.rect = tile;
      frame.art.margin = margin;
      frame.art.spacing = spacing;
    }
  }
  if (const YamlNode* node = fields.get("animation")) {
    const auto image = reader.name(*node, "`animation:`");
    if (!fields.has("frames") && !fields.strange)
      reader.fail(FindingCode::missing_key, *node,
                  "the clip \"" + clip.name.text + "\" does not say which frames of the animation it shows",
                  "Add `frames:`, such as `[0-7]`.");
    const std::string source = image ? art_path(*image) : "";
    for (FrameDef& frame : clip.frames) frame.art.source = source;
  }
  if (const YamlNode* node = fields.get("images")) {
    const std::vector<Text> images = reader.names(*node, "an image");
    if (!fields.has("frames")) {
      for (std::size_t i = 0; i < images.size() && i < detail::kMaxFrames; ++i)
        clip.frames.emplace_back().art.tile = std::to_string(i);
    }
    for (FrameDef& frame : clip.frames) {
      const auto index = static_cast<std::size_t>(*parse_whole(frame.art.tile));
      if (index >= images.size()) {
        reader.fail(
            FindingCode::outside_clip, *fields.get("frames"),
            "the clip \"" + clip.name.text + "\" has no image " + frame.art.tile,
            images.size() == 1
                ? "It lists one image, 0. Frames of one image are cells of a `sheet:`, with `tile: [width, height]`."
                : "It lists " + std::to_string(images.size()) + " images, numbered from 0.");
        clip.frames.clear();
        return;
      }
      frame.art = {};
      frame.art.source = art_path(images[index]);
    }
  }
}

void Loader::read_times(const Fields& fields, ClipDef& clip) {
  const YamlNode* node = fields.get("times");
  if (node == nullptr) return;
  std::vector<Ticks> times;
  bool sound = true, unit_told = false;
  reader.each_item(*node, [&](const YamlNode& item) {
    // Who leaves the unit out of one leaves it out of all.
    const bool lacks_unit = item.kind == YamlNode::Kind::scalar && parse_number(item.text).has_value();
    const auto time = lacks_unit && unit_told ? std::nullopt : reader.duration(item, "a frame's time");
    unit_told = unit_told || lacks_unit;
    if (time && time->count == 0)
      reader.fail(FindingCode::bad_value, item, "a frame's time is 0", "A frame shows for at least 1 ms.");
    sound = sound && time && time->count > 0;
    times.push_back(time.value_or(Ticks()));
  });
  if (sound && times.size() != clip.frames.size()) {
    sound = false;
    reader.fail(
        FindingCode::bad_value, *node,
        "the clip \"" + clip.name.text + "\" has " + std::to_string(clip.frames.size()) + " frames and " +
            std::to_string(times.size()) + (times.size() == 1 ? " time" : " times"),
        times.size() == 1
            ? "Give one time a frame; one for all is `fps: " + detail::number_text(1 / times[0].to_seconds()) + "`."
            : "Give one time a frame.");
  }
  for (std::size_t i = 0; i < clip.frames.size(); ++i) {
    if (sound && clip.frames[i].hold != 1) {
      reader.fail(FindingCode::conflicting_keys, *node,
                  "a frame of the clip \"" + clip.name.text + "\" has both a hold and a time",
                  "Holds belong to `fps:`; write the whole time here.");
      sound = false;
    }
    clip.frames[i].time = sound ? times[i] : milliseconds(100);  // a stand-in after an error
    if (!sound) clip.frames[i].hold = 1;
  }
}

void Loader::read_part(const YamlNode& value, const Fields& clip_fields, ClipDef& clip) {
  const Fields fields = reader.fields(value, Section::part);
  PendingPart part;
  part.place = reader.place_of(value);
  part.own_timing = clip_fields.has("fps");
  if (const YamlNode* times = clip_fields.get("times"))
    reader.fail(FindingCode::conflicting_keys, *times, "a part with `times:`",
                "A part brings its times along; `fps:` may replace them.");
  const YamlNode* of = fields.get("of");
  if (of == nullptr) {
    if (!fields.foreign)
      reader.fail(FindingCode::missing_key, value, "the part does not say of which clip", "Add `of: CLIP`.");
    return;
  }
  const auto name = reader.name(*of, "`of:`");
  if (!name) return;
  clip.part_of = *name;
  if (const YamlNode* node = fields.get("frames")) part.chosen = read_frames(*node, nullptr);
  const auto read = [&](std::string_view key, Ticks& to, bool& has) {
    if (const YamlNode* node = fields.get(key))
      if (const auto time = reader.duration(*node, "`" + std::string(key) + ":`")) to = *time, has = true;
  };
  read("from", part.from, part.has_from);
  read("to", part.to, part.has_to);
  if (part.chosen && (part.has_from || part.has_to))
    return reader.fail(FindingCode::conflicting_keys, value, "a part with both frames and times",
                       "Use `frames:` for a clip with frames, `from:` and `to:` for one without.");
  part.clip = definition.clips.size();
  parts_.push_back(std::move(part));
  definition.clips.push_back(std::move(clip));
}

void Loader::resolve_parts() {
  std::vector<std::string> known;
  for (const ClipDef& clip : definition.clips) known.push_back(clip.name.text);
  std::vector<bool> resolved(parts_.size(), false);
  // Parts of parts: each round resolves those whose clip is no unresolved part itself.
  for (bool progress = true; progress;) {
    progress = false;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
      const PendingPart& part = parts_[i];
      const Text& of = definition.clips[part.clip].part_of;
      if (resolved[i]) continue;
      const auto found = std::find(known.begin(), known.end(), of.text);
      const auto source_index = static_cast<std::size_t>(found - known.begin());
      const bool waits = std::any_of(parts_.begin(), parts_.end(), [&](const PendingPart& other) {
        return !resolved[static_cast<std::size_t>(&other - parts_.data())] && other.clip == source_index;
      });
      if (waits) continue;
      resolved[i] = progress = true;
      ClipDef& clip = definition.clips[part.clip];
      const Watch watch(*this, clip.name.text);
      clip.length = milliseconds(100);  // a stand-in after an error
      if (found == known.end()) {
        const std::string nearest = nearest_name(of.text, known);
        reader.fail(FindingCode::unknown_name, of.place, "there is no clip \"" + of.text + "\"",
                    nearest.empty() ? "Name the clip the part is taken from." : "Did you mean \"" + nearest + "\"?");
        continue;
      }
      const ClipDef source = definition.clips[source_index];
      if (source.frames.empty()) {
        const Ticks to = part.has_to ? part.to : source.length;
        if (part.chosen)
          reader.fail(FindingCode::conflicting_keys, part.place, "\"" + of.text + "\" has no frames to take",
                      "Use `from:` and `to:`.");
        else if (to > source.length || part.from >= to)
          reader.fail(FindingCode::outside_clip, part.place, "the part lies outside \"" + of.text + "\"",
                      "That clip lasts " + detail::number_text(source.length.to_seconds()) + " s.");
        else if (part.own_timing)
          reader.fail(FindingCode::conflicting_keys, part.place,
                      "\"" + clip.name.text + "\" says `fps:`, and \"" + of.text + "\" has no frames",
                      "Remove it: its part lasts from `from:` to `to:`.");
        else
          clip.length = to - part.from;
        continue;
      }
      if (!part.chosen) {
        reader.fail(FindingCode::missing_key, part.place, "the part does not say which frames",
                    "Add `frames:` with indices of \"" + of.text + "\", such as `[2-5]`.");
        continue;
      }
      clip.length = {};
      if (!part.own_timing) clip.fps = source.fps;
      for (const FrameDef& chosen : *part.chosen) {
        const auto index = static_cast<std::size_t>(*parse_whole(chosen.art.tile));
        if (index >= source.frames.size()) {
          reader.fail(FindingCode::outside_clip, part.place,
                      "frame " + chosen.art.tile + " is not in the clip \"" + of.text + "\"",
                      "It has " + std::to_string(source.frames.size()) + " frames, numbered from 0.");
          break;
        }
        FrameDef frame = source.frames[index];
        frame.hold *= chosen.hold;
        frame.time = part.own_timing ? Ticks() : Ticks(frame.time.count * chosen.hold);
        clip.frames.push_back(frame);
      }
      if (clip.frames.empty()) clip.length = milliseconds(100);
    }
  }
  for (std::size_t i = 0; i < parts_.size(); ++i)
    if (!resolved[i])
      reader.fail(FindingCode::bad_value, parts_[i].place,
                  "the parts \"" + definition.clips[parts_[i].clip].part_of.text + "\" and \"" + known[parts_[i].clip] +
                      "\" are taken from each other",
                  "Give one of them frames of its own.");
}

}  // namespace mobrin::io
