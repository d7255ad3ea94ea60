// Loading what stands in space or changes art: reaches, zones, looks; blends of states; tracks of clips.
#include "loader.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::io {
namespace {

std::vector<std::string> words_of(const std::vector<Text>& names) {
  std::vector<std::string> out;
  for (const Text& name : names) out.push_back(name.text);
  return out;
}

}  // namespace

std::vector<std::string> Loader::read_tags(const Fields& fields, std::string_view key) {
  const YamlNode* node = fields.get(key);
  if (node == nullptr) return {};
  // Unlike with an empty list, who writes nothing meant to write something; and without it all are meant.
  if (node->kind == YamlNode::Kind::null)
    reader.mismatch(*node, "`" + std::string(key) + ":`", "a tag, or a list of them");
  return words_of(reader.names(*node, "a tag"));
}

// One of `rect:`, `circle:` and, where `cones`, `cone:`. Empty with a finding where there is none or several;
// `several`: what to do then.
std::optional<Shape> Loader::read_shape(const YamlNode& node, const Fields& fields, const std::string& what, bool cones,
                                        const char* several) {
  const YamlNode *rect = fields.get("rect"), *circle = fields.get("circle"),
                 *cone = cones ? fields.get("cone") : nullptr;
  const int shapes = (rect != nullptr) + (circle != nullptr) + (cone != nullptr);
  if (shapes != 1) {
    if (shapes == 0 && fields.strange) return std::nullopt;
    if (shapes == 0)
      reader.fail(FindingCode::missing_key, node, what + " has no shape",
                  std::string("Add `rect: [left, bottom, width, height]`") +
                      (cones ? ", `circle: [x, y, radius]` or `cone: {length: 44, angle: 75}`."
                             : " or `circle: [x, y, radius]`."));
    else
      reader.fail(FindingCode::conflicting_keys, rect != nullptr && circle != nullptr ? *circle : *cone,
                  what + " has both `" + (rect != nullptr ? "rect" : "circle") + ":` and `" +
                      (rect != nullptr && circle != nullptr ? "circle" : "cone") + ":`",
                  several);
    return std::nullopt;
  }
  if (rect != nullptr) {
    const auto out = read_numbers<4>(*rect, "`rect:`", "[left, bottom, width, height] in pixels from the pivot");
    if (!out) return std::nullopt;
    return RectShape{(*out)[0], (*out)[1], (*out)[2], (*out)[3]};
  }
  if (circle != nullptr) {
    const auto out = read_numbers<3>(*circle, "`circle:`", "[x, y, radius] in pixels from the pivot");
    if (!out) return std::nullopt;
    return CircleShape{(*out)[0], (*out)[1], (*out)[2]};
  }
  const Fields parts = reader.fields(*cone, Section::cone);
  ConeShape out;
  if (!parts.has("length") || !parts.has("angle")) {
    if (!parts.foreign && !parts.strange)
      reader.fail(FindingCode::missing_key, *cone,
                  std::string("the cone lacks ") + (parts.has("length") ? "`angle:`" : "`length:`"),
                  "Write `{length: 44, angle: 75}`.");
    return std::nullopt;
  }
  out.length = reader.number(*parts.get("length"), "`length:`").value_or(1);
  out.angle = reader.number(*parts.get("angle"), "`angle:`").value_or(1);
  if (const YamlNode* tip = parts.get("tip"))
    if (const auto at = read_numbers<2>(*tip, "`tip:`", "[x, y] in pixels from the pivot"))
      out.x = (*at)[0], out.y = (*at)[1];
  return out;
}

void Loader::read_reaches(const YamlNode& node) {
  reader.each_entry(node, "`reaches:`", [&](const YamlNode& key, const YamlNode& value) {
    const Fields fields = reader.fields(value, Section::reach);
    if (fields.foreign) return;
    ReachDef out;
    out.name = reader.text_of(key);
    const auto shape = read_shape(value, fields, "the reach \"" + key.text + "\"", true, "Keep one of them.");
    if (!shape) return;
    out.shape = *shape;
    out.hits = read_tags(fields, "hits");
    out.spares = read_tags(fields, "spares");
    if (const YamlNode* accept = fields.get("accept"))
      for (const Text& code : reader.names(*accept, "a finding's code")) out.accept.push_back(code);
    definition.reaches.push_back(std::move(out));
  });
}

void Loader::read_zones(const YamlNode& node) {
  reader.each_entry(node, "`zones:`", [&](const YamlNode& key, const YamlNode& value) {
    const Fields fields = reader.fields(value, Section::zone);
    if (fields.foreign) return;
    ZoneDef out;
    out.name = reader.text_of(key);
    const auto shape = read_shape(value, fields, "the zone \"" + key.text + "\"", false, "Keep one of them.");
    if (!shape) return;
    out.shape = *shape;
    out.tags = read_tags(fields, "tags");
    for (const auto& [word, to] :
         {std::pair("inside", &out.inside), std::pair("enter", &out.enter), std::pair("leave", &out.leave)})
      if (const YamlNode* input = fields.get(word))
        if (const auto name = reader.name(*input, "`" + std::string(word) + ":`")) *to = *name;
    definition.zones.push_back(std::move(out));
  });
}

void Loader::read_looks(const YamlNode& node) {
  reader.each_entry(node, "`looks:`", [&](const YamlNode& key, const YamlNode& value) {
    const Fields fields = reader.fields(value, Section::look);
    LookDef out;
    out.name = reader.text_of(key);
    const YamlNode *when = fields.get("when"), *art = fields.get("art");
    if (when == nullptr || art == nullptr || art->kind == YamlNode::Kind::null) {
      if (!fields.foreign && !fields.strange)
        reader.fail(FindingCode::missing_key, key,
                    "the look \"" + key.text + "\" lacks " + (when == nullptr ? "`when:`" : "`art:`"),
                    "Write `{when: health <= 2, art: {keeper.png: keeper_pale.png}}`.");
      return;
    }
    if (const auto condition = reader.expression(*when, "`when:`")) out.when = *condition;
    reader.each_entry(*art, "`art:`", [&](const YamlNode& from, const YamlNode& to) {
      if (const auto name = reader.name(to, "the image in place of \"" + from.text + "\""))
        out.art.emplace_back(art_path(reader.text_of(from)), art_path(*name));
    });
    definition.looks.push_back(std::move(out));
  });
}

// `{x: local_x, y: local_y, points: [{at: [0, 1], clip: walk}], floor: 0.01}`
void Loader::read_blend(const YamlNode& node, StateDef& state) {
  if (node.kind == YamlNode::Kind::list)
    return reader.mismatch(node, "a blend",
                           "an axis and its points: `{x: pace, points: [{at: 0, clip: stroll}, {at: 1, clip: run}]}`");
  const Fields fields = reader.fields(node, Section::blend);
  if (node.kind != YamlNode::Kind::map || fields.foreign) return;
  BlendDef& out = state.blend.emplace();
  out.place = reader.place_of(node);
  for (const auto& [word, to] : {std::pair("x", &out.x), std::pair("y", &out.y)})
    if (const YamlNode* axis = fields.get(word))
      if (const auto expression = reader.expression(*axis, "`" + std::string(word) + ":`")) *to = *expression;
  if (!fields.has("x") || (!fields.has("points") && !fields.strange))
    reader.fail(FindingCode::missing_key, node,
                std::string("the blend lacks ") + (fields.has("x") ? "`points:`" : "`x:`"),
                "Write `{x: pace, points: [{at: 0, clip: stroll}, {at: 1, clip: run}]}`.");
  if (const YamlNode* floor = fields.get("floor")) out.floor = reader.number(*floor, "`floor:`").value_or(0);
  if (const YamlNode* above = fields.get("cues_above")) out.cues_above = reader.number(*above, "`cues_above:`");
  const YamlNode* points = fields.get("points");
  if (points == nullptr) return;
  if (points->kind == YamlNode::Kind::map && entry_of(*points, "clip") == nullptr)
    return reader.mismatch(*points, "`points:`", "a list: `[{at: 0, clip: stroll}, {at: 1, clip: run}]`");
  reader.each_item(*points, [&](const YamlNode& item) {
    const bool pair = item.kind == YamlNode::Kind::list && item.items.size() == 2;
    if (pair && parse_number(item.items[0].text))
      return reader.fail(FindingCode::wrong_type, item, "a blend point is " + item.words(),
                         "Write `{at: " + item.items[0].text + ", clip: " + item.items[1].text + "}`.");
    const Fields parts = reader.fields(item, Section::blend_point);
    if (item.kind != YamlNode::Kind::map || parts.foreign) return;
    BlendPointDef point;
    const YamlNode *at = parts.get("at"), *clip = parts.get("clip");
    if (at == nullptr || clip == nullptr)
      return reader.fail(FindingCode::missing_key, item,
                         std::string("a point of the blend lacks ") + (at == nullptr ? "`at:`" : "`clip:`"),
                         "Write `{at: [0, 1], clip: walk}`; with one axis `{at: 0.5, clip: walk}`.");
    if (out.y.empty()) {
      const auto x = reader.number(*at, "`at:` of a blend with one axis");
      if (!x) return;
      point.x = *x;
    } else {
      const auto xy = read_numbers<2>(*at, "`at:` of a blend with two axes", "[x, y]");
      if (!xy) return;
      point.x = (*xy)[0], point.y = (*xy)[1];
    }
    const auto name = reader.name(*clip, "`clip:`");
    if (!name) return;
    point.clip = *name;
    if (const YamlNode* flag = parts.get("mirror")) point.mirrored = reader.boolean(*flag, "`mirror:`").value_or(false);
    if (const YamlNode* flag = parts.get("backward"))
      point.backward = reader.boolean(*flag, "`backward:`").value_or(false);
    out.points.push_back(std::move(point));
  });
}

// `{lid: {curve: linear, keys: {0: 0, 5: 40, 7.end: 80}}}`: keys at frames and times of a clip that may stand in
// another file; frames become times when all clips are known.
void Loader::read_tracks(const YamlNode& node, ClipMarksDef& marks) {
  reader.each_entry(node, "`tracks:`", [&](const YamlNode& key, const YamlNode& value) {
    const auto is_place = [](const YamlEntry& each) {
      std::string_view text = each.key.text;
      if (text.ends_with(".end")) text.remove_suffix(4);
      return read_duration(text) || parse_whole(text);
    };
    if (!value.entries.empty() && std::all_of(value.entries.begin(), value.entries.end(), is_place)) {
      const YamlEntry& first = value.entries.front();
      return reader.fail(FindingCode::unknown_key, first.key,
                         "the keys of the track \"" + key.text + "\" stand without `keys:`",
                         "Write `" + key.text + ": {keys: {" + first.key.text + ": " + first.value.text +
                             (value.entries.size() > 1 ? ", ...}}`." : "}}`."));
    }
    const Fields fields = reader.fields(value, Section::track);
    TrackDef track;
    track.name = reader.text_of(key);
    if (const YamlNode* curve = fields.get("curve"))
      if (const auto index = reader.one_of(*curve, "`curve:`", {"step", "linear", "cubic"}))
        track.curve = static_cast<TrackCurve>(*index);
    const YamlNode* keys = fields.get("keys");
    const std::size_t before = findings.size();
    if (keys == nullptr) {
      if (value.kind == YamlNode::Kind::map && !fields.foreign)
        reader.fail(FindingCode::missing_key, key, "the track \"" + key.text + "\" has no keys",
                    "Add `keys:`, such as `{0: 0, 5: 40}`.");
      return;
    }
    reader.each_entry(*keys, "`keys:`", [&](const YamlNode& place, const YamlNode& number) {
      PendingKey pending;
      pending.clip = marks.clip.text;
      pending.track = marks.tracks.size();
      pending.place = reader.place_of(place);
      TrackKey& out = pending.key;
      if (track.curve == TrackCurve::cubic && number.kind == YamlNode::Kind::list) {
        const auto three = read_numbers<3>(number, "a key", "[slope before, value, slope after]");
        if (!three) return;
        out.in = (*three)[0], out.value = (*three)[1], out.out = (*three)[2];
      } else {
        const auto one = reader.number(number, "a key");
        if (!one) return;
        out.value = *one;
      }
      std::string_view text = place.text;
      if (const auto time = read_duration(text)) {
        out.time = *time;
      } else {
        if (text.ends_with(".end")) {
          pending.at_end = true;
          text.remove_suffix(4);
        }
        const auto frame = parse_whole(text);
        if (!frame || *frame < 0 || *frame > 1'000'000)
          return reader.mismatch(place, "the place of a key",
                                 "a frame `3`, the end of a frame `5.end`, or a time `0.22s`");
        pending.frame = static_cast<std::int32_t>(*frame);
      }
      pending.index = track.keys.size();
      track.keys.push_back(out);
      keys_.push_back(std::move(pending));
    });
    if (track.keys.empty() && errors_since(before)) return;
    marks.tracks.push_back(std::move(track));
  });
}

void Loader::resolve_keys() {
  for (const PendingKey& pending : keys_) {
    if (pending.frame < 0) continue;
    for (ClipMarksDef& marks : definition.marks) {
      if (marks.clip.text != pending.clip) continue;
      for (const ClipDef& clip : definition.clips) {
        if (clip.name.text != pending.clip) continue;
        const auto frames = static_cast<std::int32_t>(clip.frames.size());
        if (pending.frame >= frames) {
          reader.fail(FindingCode::outside_clip, pending.place,
                      "frame " + std::to_string(pending.frame) + " is not in the clip \"" + pending.clip + "\"",
                      "It has " + std::to_string(frames) + " frames, numbered from 0.");
          continue;
        }
        // As the compiler counts borders: the exact sum, rounded down once.
        using Sum = detail::Wide;
        Sum holds = 0, times = 0;
        for (std::int32_t i = 0; i < pending.frame + (pending.at_end ? 1 : 0); ++i) {
          holds += clip.frames[static_cast<std::size_t>(i)].hold;
          times += clip.frames[static_cast<std::size_t>(i)].time.count;
        }
        const Sum at = clip.fps.num > 0 ? holds * kTicksPerSecond * clip.fps.den / clip.fps.num : times;
        marks.tracks[pending.track].keys[pending.index].time = Ticks(static_cast<std::int64_t>(at));
      }
    }
  }
}

}  // namespace mobrin::io
