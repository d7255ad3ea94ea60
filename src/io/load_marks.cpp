// Loading marks: what people add to clips.
#include <algorithm>
#include <array>
#include <iterator>

#include "loader.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

constexpr const char* kOffset = "[x, y] in pixels, x forward and y up";

bool tracks_alone(const ClipMarksDef& marks) {
  return !marks.pivot && !marks.offset && marks.offsets.empty() && !marks.airborne && marks.boxes.empty() &&
         marks.marks.empty() && marks.windows.empty();
}

// Of what stands where a cue should: a frame or a time, so that the two are the wrong way round.
bool stands_for_frame(const YamlNode& value) {
  if (value.kind == YamlNode::Kind::map)
    return !value.entries.empty() && (value.entries[0].key.text == "frame" || value.entries[0].key.text == "at");
  return value.kind == YamlNode::Kind::scalar && (parse_whole(value.text) || read_duration(value.text));
}

}  // namespace

void Loader::read_marks(const YamlNode& node) {
  reader.each_entry(node, "`marks:`", [&](const YamlNode& key, const YamlNode& value) {
    if (own_marks_.count(key.text) > 0) return note_replaced(key.text, value);  // the character brings its own
    const std::size_t before = findings.size(), keys_before = keys_.size();
    ClipMarksDef marks;
    marks.clip = reader.text_of(key);
    const Fields fields = reader.fields(value, Section::marks);
    if (const YamlNode* pivot = fields.get("pivot"))
      if (const auto xy = read_numbers<2>(*pivot, "`pivot:`", "[x, y] in image pixels from the top left"))
        marks.pivot = {(*xy)[0], (*xy)[1]};
    if (const YamlNode* offset = fields.get("offset"))
      if (const auto xy = read_numbers<2>(*offset, "`offset:`", kOffset)) marks.offset = {(*xy)[0], (*xy)[1]};
    if (const YamlNode* offsets = fields.get("offsets")) read_offsets(*offsets, marks);
    if (const YamlNode* airborne = fields.get("airborne"))
      marks.airborne = reader.boolean(*airborne, "`airborne:`").value_or(false);
    if (const YamlNode* tracks = fields.get("tracks")) read_tracks(*tracks, marks);
    if (const YamlNode* boxes = fields.get("boxes"))
      reader.each_item(*boxes, [&](const YamlNode& box) { read_box(box, marks); });
    // Cues and spans of one place are told in the order of the file, whichever key comes first.
    const YamlNode* cues = fields.get("cues");
    const YamlNode* spans = fields.get("spans");
    const bool spans_first = cues != nullptr && spans != nullptr &&
                             std::pair(spans->line, spans->column) < std::pair(cues->line, cues->column);
    if (spans != nullptr && spans_first) read_spans(*spans, marks);
    if (cues != nullptr) read_mark_cues(*cues, marks);
    if (spans != nullptr && !spans_first) read_spans(*spans, marks);
    if (const YamlNode* windows = fields.get("windows")) {
      reader.each_entry(*windows, "`windows:`", [&](const YamlNode& name, const YamlNode& stretches) {
        if (turned_round(name, stretches, "the window")) {
          broken.insert(stretches.text);
          return;
        }
        WindowDef window;
        window.name = reader.text_of(name);
        if (stretches.is_empty())
          reader.fail(FindingCode::missing_key, name, "the window \"" + name.text + "\" does not say when it is open",
                      "Write frames, such as `" + name.text + ": 4-5`, or times, such as `0.1s-0.3s`.");
        if (!reader.look_for_ends(stretches, "the window \"" + name.text + "\""))
          reader.each_item(stretches, [&](const YamlNode& item) {
            if (const auto stretch = reader.stretch(item, "the window \"" + name.text + "\""))
              window.stretches.push_back(*stretch);
          });
        if (errors_since(before)) broken.insert(name.text);
        marks.windows.push_back(std::move(window));
      });
    }
    // Tracks may stand in a file of their own, beside the clip's other marks.
    for (ClipMarksDef& other : definition.marks) {
      if (other.clip.text != marks.clip.text || (!tracks_alone(other) && !tracks_alone(marks))) continue;
      for (std::size_t i = keys_before; i < keys_.size(); ++i) keys_[i].track += other.tracks.size();
      std::vector<TrackDef> tracks = std::move(other.tracks);
      tracks.insert(tracks.end(), std::make_move_iterator(marks.tracks.begin()),
                    std::make_move_iterator(marks.tracks.end()));
      if (tracks_alone(other)) other = std::move(marks);
      other.tracks = std::move(tracks);
      return;
    }
    definition.marks.push_back(std::move(marks));
  });
}

// What the machine's marks of a clip have that the character's stand in place of.
void Loader::note_replaced(const std::string& clip, const YamlNode& marks) {
  const auto own = std::find_if(definition.marks.begin(), definition.marks.end(),
                                [&](const ClipMarksDef& each) { return each.clip.text == clip; });
  const auto add = [](std::vector<std::string>& to, const std::string& name) {
    if (!name.empty() && std::find(to.begin(), to.end(), name) == to.end()) to.push_back(name);
  };
  if (own == definition.marks.end()) return;
  const auto cue = [&](const YamlNode& node) {
    add(own->replaced_cues, node.text);
    for (const YamlEntry& each : node.entries) add(own->replaced_cues, each.key.text);
  };
  if (const YamlEntry* cues = entry_of(marks, "cues"))
    for (const YamlEntry& place : cues->value.entries) {
      if (place.value.kind != YamlNode::Kind::list) cue(place.value);
      for (const YamlNode& each : place.value.items) cue(each);
    }
  if (const YamlEntry* spans = entry_of(marks, "spans"))
    for (const YamlEntry& each : spans->value.entries) add(own->replaced_cues, each.key.text);
  if (const YamlEntry* boxes = entry_of(marks, "boxes"))
    for (const YamlNode& each : boxes->value.items)
      if (const YamlEntry* role = entry_of(each, "role")) add(own->replaced_roles, role->value.text);
}

// `{3: [1, 0], 5-7: [0, 2]}`
void Loader::read_offsets(const YamlNode& node, ClipMarksDef& marks) {
  reader.each_entry(node, "`offsets:`", [&](const YamlNode& key, const YamlNode& value) {
    const auto frames = reader.stretch(key, "the place of an offset");
    const auto xy = read_numbers<2>(value, "the offset of \"" + key.text + "\"", kOffset);
    if (frames && frames->timed) return reader.mismatch(key, "the place of an offset", "a frame `3`, or frames `5-7`");
    if (frames && xy) marks.offsets.push_back({frames->first, frames->last, (*xy)[0], (*xy)[1], reader.place_of(key)});
  });
}

// `{name: head, role: hurt, frames: 3-4, circle: [0, 25, 5]}`
void Loader::read_box(const YamlNode& node, ClipMarksDef& marks) {
  const Fields fields = reader.fields(node, Section::box);
  if (node.kind != YamlNode::Kind::map) {
    if (node.kind == YamlNode::Kind::null)
      reader.mismatch(node, "a box", "a map such as `{name: head, role: hurt, ...}`");
    return;
  }
  if (fields.foreign) return;
  BoxDef box;
  box.place = reader.place_of(node);
  const auto lacks = [&](const std::string& what, const std::string& remedy) {
    reader.fail(FindingCode::missing_key, node,
                "the box" + (box.name.text.empty() ? "" : " \"" + box.name.text + "\"") + " has no " + what, remedy);
  };
  if (const YamlNode* name = fields.get("name"))
    box.name = reader.name(*name, "`name:`").value_or(Text());
  else
    lacks("`name:`", "Give it one; boxes of one name are one box with several frames.");
  if (const YamlNode* role = fields.get("role"))
    box.role = reader.name(*role, "`role:`").value_or(Text());
  else
    lacks("`role:`", "Say what it is for: body, hurt, hit, grab, or a word of your own.");
  if (const YamlNode* frames = fields.get("frames")) {
    if (frames->is_empty())
      reader.mismatch(*frames, "`frames:` of a box", "frames such as `3-4`; without it, all of them");
    if (!reader.look_for_ends(*frames, "`frames:`"))
      reader.each_item(*frames, [&](const YamlNode& item) {
        if (const auto stretch = reader.stretch(item, "`frames:` of a box")) box.stretches.push_back(*stretch);
      });
  }
  const auto shape = read_shape(node, fields, "the box" + (box.name.text.empty() ? "" : " \"" + box.name.text + "\""),
                                false, "Write two boxes of the same name and role.");
  if (!shape) return;
  box.shape = *shape;
  box.hits = read_tags(fields, "hits");
  box.spares = read_tags(fields, "spares");
  if (const YamlNode* every = fields.get("every"))
    if (const auto time = reader.duration(*every, "`every:`")) box.every = *time;
  if (!box.name.empty() && !box.role.empty()) marks.boxes.push_back(std::move(box));
}

// `{kind: damage, fields: {amount: 2}}`: where they stand is said, and they are read.
bool Loader::read_wrapped_fields(const YamlNode& key, const YamlNode& value, std::vector<FieldDef>& out) {
  constexpr std::string_view kWrappers = " fields args arguments params parameters data values payload with ";
  if (value.kind != YamlNode::Kind::map || !is_among(kWrappers, key.text)) return false;
  std::string all;
  for (const auto& [name, inner] : value.entries) {
    const std::string field = name.text + ": " + (inner.kind == YamlNode::Kind::scalar ? inner.text : "...");
    if (all.size() < 60) all += (all.empty() ? "" : ", ") + field;
    if (auto read = reader.field_value(inner, "the field \"" + name.text + "\""))
      out.push_back({reader.text_of(name), std::move(*read)});
  }
  reader.fail(FindingCode::unknown_key, key, "what a cue carries stands in no map of its own",
              "Leave `" + key.text + ":` and its braces out" + (all.empty() ? "." : ": `" + all + "`."));
  return true;
}

std::vector<FieldDef> Loader::read_fields(const YamlNode& node, std::string_view cue,
                                          std::initializer_list<std::string_view> reserved) {
  std::vector<FieldDef> out;
  if (node.kind != YamlNode::Kind::map && node.kind != YamlNode::Kind::null)
    reader.fail(FindingCode::wrong_type, node, "what \"" + std::string(cue) + "\" carries is " + node.words(),
                "Write a map: `{" + std::string(cue) + ": {field: value}}`.");
  else
    reader.each_entry(node, "the fields", [&](const YamlNode& key, const YamlNode& value) {
      if (std::find(reserved.begin(), reserved.end(), key.text) != reserved.end()) return;
      if (read_wrapped_fields(key, value, out)) return;
      if (auto field = reader.field_value(value, "the field \"" + key.text + "\""))
        out.push_back({reader.text_of(key), std::move(*field)});
    });
  return out;
}

void Loader::read_mark_cues(const YamlNode& node, ClipMarksDef& marks) {
  reader.each_entry(node, "`cues:` of marks", [&](const YamlNode& key, const YamlNode& value) {
    MarkDef at;
    at.place = reader.place_of(key);
    std::string_view text = key.text;
    if (const auto time = read_duration(text)) {
      at.at = MarkAt::time;
      at.time = *time;
    } else {
      if (text.ends_with(".end")) {
        at.at = MarkAt::frame_end;
        text.remove_suffix(4);
      }
      const auto frame = parse_whole(text);
      if (!frame && parse_number(text))
        return reader.fail(FindingCode::wrong_type, key, "the place of a cue is \"" + key.text + "\"",
                           "A time has a unit: write `" + key.text + "s`.");
      if (!frame || *frame < 0 || *frame > 1'000'000)
        return reader.mismatch(
            key, "the place of a cue",
            stands_for_frame(value)
                ? "the frame first, then the cue: `" + (value.text.empty() ? "3" : value.text) + ": " + key.text + "`"
                : "a frame `3`, the end of a frame `5.end`, or a time `0.22s`");
      at.frame = static_cast<std::int32_t>(*frame);
    }
    if (value.is_empty()) return read_mark_cue(key, value, at, marks);
    reader.each_item(value, [&](const YamlNode& item) { read_mark_cue(key, item, at, marks); });
  });
}

namespace {

// As it is written with { }; of lists only that there is one.
std::string in_flow(const YamlNode& map) {
  std::string out;
  for (const auto& [key, value] : map.entries) {
    if (out.size() > 120) return out + ", ...}";
    out += (out.empty() ? "{" : ", ") + key.text;
    if (value.kind == YamlNode::Kind::map && !value.entries.empty()) out += ": " + in_flow(value);
    if (value.kind == YamlNode::Kind::scalar) out += ": " + value.text;
    if (value.kind == YamlNode::Kind::list) out += ": [...]";
  }
  return out + "}";
}

}  // namespace

std::optional<YamlNode> Loader::named_by_key(const YamlNode& cue) {
  const auto names = [](const YamlEntry& each) {
    const std::string& key = each.key.text;
    return each.value.kind == YamlNode::Kind::scalar &&
           (key == "cue" || key == "name" || key == "tell" || key == "event");
  };
  const auto named = std::find_if(cue.entries.begin(), cue.entries.end(), names);
  if (named == cue.entries.end()) return std::nullopt;
  YamlNode out;
  out.kind = YamlNode::Kind::map;
  out.line = cue.line, out.column = cue.column;
  YamlNode fields = out;
  for (auto each = cue.entries.begin(); each != cue.entries.end(); ++each)
    if (each != named) fields.entries.push_back(*each);
  const bool alone = fields.entries.empty();
  out.entries.push_back({named->value, std::move(fields)});
  reader.fail(
      FindingCode::wrong_type, named->key, "\"" + named->key.text + "\" stands where the cue's name stands",
      alone ? "The name alone will do: `" + named->value.text + "`." : "The name is the key: `" + in_flow(out) + "`.");
  return out;
}

// A cue's name, or `{name: {field: value, way: forward}}`.
void Loader::read_mark_cue(const YamlNode& key, const YamlNode& value, MarkDef at, ClipMarksDef& marks) {
  if (value.kind == YamlNode::Kind::scalar && !value.tagged) {
    at.cue = reader.text_of(value);
    if (at.at == MarkAt::frame_begin || at.at == MarkAt::frame_end || at.at == MarkAt::time)
      at.place = reader.place_of(key);
    marks.marks.push_back(std::move(at));
    return;
  }
  if (value.kind != YamlNode::Kind::map || value.entries.empty())
    return reader.mismatch(value, "the cue at \"" + key.text + "\"", "a cue's name, or `{name: {field: value}}`");
  if (const std::optional<YamlNode> meant = named_by_key(value)) return read_mark_cue(key, *meant, at, marks);
  reader.each_entry(value, "a cue", [&](const YamlNode& name, const YamlNode& fields) {
    MarkDef mark = at;
    mark.cue = reader.text_of(name);
    mark.fields = read_fields(fields, name.text, {"way"});
    for (const auto& [field, way] : fields.entries) {
      if (field.text != "way") continue;
      if (const auto index = reader.one_of(way, "`way:`", {"both", "forward", "backward"}))
        mark.way = static_cast<MarkWay>(*index);
    }
    marks.marks.push_back(std::move(mark));
  });
}

bool Loader::turned_round(const YamlNode& key, const YamlNode& value, const std::string& what) {
  if (value.kind != YamlNode::Kind::scalar || !is_name(value.text) || !stretch_of(key.text)) return false;
  reader.mismatch(value, what + " \"" + key.text + "\"",
                  "the name first, then when: `" + value.text + ": " + key.text + "`");
  return true;
}

void Loader::read_spans(const YamlNode& node, ClipMarksDef& marks) {
  reader.each_entry(node, "`spans:`", [&](const YamlNode& key, const YamlNode& value) {
    if (turned_round(key, value, "the span")) return;
    std::vector<FieldDef> overrides;
    const YamlNode* frames = &value;
    if (value.kind == YamlNode::Kind::map) {
      overrides = read_fields(value, key.text, {"frames"});
      frames = nullptr;
      for (const auto& [name, each] : value.entries)
        if (name.text == "frames") frames = &each;
    }
    if (frames == nullptr || frames->is_empty())
      return reader.fail(FindingCode::missing_key, key,
                         "the span \"" + key.text + "\" does not say over which frames or times",
                         !stretch_meant(value).empty() ? "Write `" + key.text + ": " + stretch_meant(value) + "`."
                         : frames == &value            ? "Write `" + key.text + ": 2-4`, or `0.1s-0.3s`."
                                                       : "Add `frames: 2-4`, or `frames: 0.1s-0.3s`.");
    if (reader.look_for_ends(*frames, "the span \"" + key.text + "\"")) return;
    reader.each_item(*frames, [&](const YamlNode& item) {
      const auto stretch = reader.stretch(item, "the span \"" + key.text + "\"");
      if (!stretch) return;
      MarkDef mark;
      mark.at = stretch->timed ? MarkAt::times : MarkAt::frames;
      mark.cue = reader.text_of(key);
      mark.frame = stretch->first;
      mark.last_frame = stretch->last;
      mark.time = stretch->begin;
      mark.until = stretch->end;
      mark.fields = overrides;
      mark.place = reader.place_of(item);
      marks.marks.push_back(std::move(mark));
    });
  });
}

}  // namespace mobrin::io
