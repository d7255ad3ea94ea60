// Compiling what stands in space or changes art: reaches, zones, looks, tracks, blends.
#include <algorithm>
#include <cmath>

#include "compile/compile.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {

bool near_pivot(double value) { return value >= -kMaxPixelsFromPivot && value <= kMaxPixelsFromPivot; }

bool sound_shape(const Shape& shape, bool cones) {
  const auto near = near_pivot;
  const auto size = [](double value) { return value > 0 && near_pivot(value); };
  if (const auto* rect = std::get_if<RectShape>(&shape))
    return near(rect->left) && near(rect->bottom) && size(rect->width) && size(rect->height);
  if (const auto* circle = std::get_if<CircleShape>(&shape))
    return near(circle->x) && near(circle->y) && size(circle->radius);
  const auto* cone = std::get_if<ConeShape>(&shape);
  return cones && near(cone->x) && near(cone->y) && size(cone->length) && cone->angle > 0 && cone->angle <= 360;
}

bool sound_track(const TrackDef& track, Ticks length) {
  Ticks before{-1};
  for (const TrackKey& key : track.keys) {
    if (!std::isfinite(key.value) || !std::isfinite(key.in) || !std::isfinite(key.out)) return false;
    if (key.time <= before || key.time > length) return false;
    before = key.time;
  }
  return !track.keys.empty();
}

// All tags that filters name, each once; `self` is none.
std::size_t count_tags(const MachineData& m) {
  std::set<std::string_view> tags;
  const auto add = [&](const std::vector<std::string>& all) {
    for (const std::string& tag : all)
      if (tag != "self") tags.insert(tag);
  };
  for (const ReachDef& reach : m.reaches) add(reach.hits), add(reach.spares);
  for (const ZoneInfo& zone : m.zones) add(zone.def.tags);
  for (const ClipInfo& clip : m.clip_infos)
    for (const BoxDef& box : clip.marks.boxes) add(box.hits), add(box.spares);
  return tags.size();
}

void Compilation::compile_space() {
  MachineData& m = *data;
  if (!sound_unit(def.unit))
    report(FindingCode::bad_value, {}, "the unit is no size", "Pixels to a world unit: above 0.");
  m.unit = def.unit;
  std::set<std::string, std::less<>> taken;
  for (const ReachDef& reach : def.reaches) {
    if (!declare("reach", reach.name, taken)) continue;
    if (!sound_shape(reach.shape, true))
      report(FindingCode::bad_value, reach.name.place,
             "the reach \"" + reach.name.text + "\" has no size, or is out of range",
             "Sizes are above 0 and below 1000000 pixels, an angle at most 360 degrees.", reach.name.text);
    m.reaches.push_back(reach);
  }
  check_reach_fields();
  taken.clear();
  for (const ZoneDef& zone : def.zones)
    if (declare("zone", zone.name, taken)) compile_zone(zone);
  taken.clear();
  for (const LookDef& look : def.looks) {
    if (!declare("look", look.name, taken)) continue;
    const CompiledExpr when = compile_text(look.when, -1);
    if (when.ref.empty()) continue;
    if (when.type != ValueType::boolean)
      report(FindingCode::wrong_operand, look.when.place, "\"" + look.when.text + "\" is no condition",
             "Write a comparison, such as `health <= 2`.", look.when.text);
    m.looks.push_back(look);
    m.look_guards.push_back(when.ref);
  }
  within("tags in `hits:`, `spares:` and zones", count_tags(m), kMaxTags, def.name.place);
}

// A cue's field `reach` names a reach, where the machine has any.
void Compilation::check_reach_fields() {
  std::vector<std::string> known;
  for (const ReachDef& reach : data->reaches) known.push_back(reach.name.text);
  if (known.empty()) return;
  const auto check = [&](const std::vector<FieldDef>& fields) {
    for (const FieldDef& field : fields) {
      const auto* name = std::get_if<std::string>(&field.value);
      if (field.name.text != "reach" || name == nullptr) continue;
      if (std::find(known.begin(), known.end(), *name) == known.end())
        unknown("reach", {*name, field.name.place}, known, "Declare it under `reaches:`.");
    }
  };
  // Cues are shared among machines; what counts is what this one's clips tell.
  for (const ClipMarksDef& marks : def.marks)
    for (const MarkDef& mark : marks.marks) {
      check(mark.fields);
      const bool overridden = std::any_of(mark.fields.begin(), mark.fields.end(),
                                          [](const FieldDef& field) { return field.name.text == "reach"; });
      for (const CueDef& cue : def.cues)
        if (cue.name.text == mark.cue.text && !overridden) check(cue.fields);
    }
}

void Compilation::compile_zone(const ZoneDef& zone) {
  ZoneInfo out{zone};
  if (!sound_shape(zone.shape, false))
    report(FindingCode::bad_value, zone.name.place,
           "the zone \"" + zone.name.text + "\" has no size, or is out of range",
           "Sizes are above 0 and below 1000000 pixels.", zone.name.text);
  const auto find = [&](const Text& name, const char* key, auto fits, const char* what) -> std::uint16_t {
    if (name.empty()) return kNoIndex;
    const auto input = inputs.find(name.text);
    if (input == inputs.end()) {
      std::vector<std::string> known;
      for (const auto& [each, index] : inputs) known.push_back(each);
      unknown("input", name, known, "Declare it under `inputs:`.");
      return kNoIndex;
    }
    if (fits(data->inputs[input->second].kind)) return input->second;
    report(FindingCode::wrong_operand, name.place,
           std::string("`").append(key) + ":` of the zone \"" + zone.name.text + "\" names the input \"" + name.text +
               "\"",
           std::string("It needs ") + what + ".", zone.name.text);
    return kNoIndex;
  };
  out.inside = find(
      zone.inside, "inside", [](InputKind kind) { return kind == InputKind::boolean || kind == InputKind::whole; },
      "a bool (anyone is inside) or an int (how many are)");
  out.counts = out.inside != kNoIndex && data->inputs[out.inside].kind == InputKind::whole;
  const auto pulse = [](InputKind kind) { return kind == InputKind::pulse; };
  out.enter = find(zone.enter, "enter", pulse, "a pulse");
  out.leave = find(zone.leave, "leave", pulse, "a pulse");
  data->zones.push_back(std::move(out));
}

void Compilation::check_tracks(const ClipInfo& clip) {
  std::set<std::string, std::less<>> taken;
  for (const TrackDef& track : clip.marks.tracks) {
    if (!declare("track", track.name, taken)) continue;
    if (track.keys.empty())
      report(FindingCode::missing_key, track.name.place, "the track \"" + track.name.text + "\" has no keys",
             "Give it one at least, such as `{0: 0, 5: 40}`.", track.name.text);
    for (std::size_t i = 0; i < track.keys.size(); ++i) {
      const TrackKey& key = track.keys[i];
      if (!std::isfinite(key.value) || !std::isfinite(key.in) || !std::isfinite(key.out))
        report(FindingCode::bad_value, track.name.place, "a key of \"" + track.name.text + "\" is no number",
               "Write finite numbers.", track.name.text);
      if (key.time.count < 0 || key.time > clip.length)
        report(FindingCode::outside_clip, track.name.place,
               "a key of the track \"" + track.name.text + "\" lies past the end of \"" + clip.def.name.text + "\"",
               "The clip lasts " + number_text(clip.length.to_seconds()) + " s.", track.name.text);
      if (i > 0 && key.time <= track.keys[i - 1].time)
        report(FindingCode::bad_value, track.name.place, "the keys of \"" + track.name.text + "\" do not rise in time",
               "Write them in order, one for each time.", track.name.text);
    }
  }
}

void Compilation::compile_blend(const BlendDef& blend, const StateDef& source, std::uint16_t index) {
  MachineData& m = *data;
  PlayData& play = m.states[index].play;
  StateInfo& info = m.state_infos[index];
  const auto wrong = [&](const std::string& what, const std::string& remedy) {
    report(FindingCode::bad_value, blend.place, "the blend of \"" + source.name.text + "\" " + what, remedy,
           source.name.text);
  };
  if (blend.points.size() < 2 || blend.points.size() > kMostBlendPoints)
    return wrong("has " + std::to_string(blend.points.size()) + " points", "Give it 2 to 32.");
  if (!(blend.floor >= 0 && blend.floor * static_cast<double>(blend.points.size()) < 1))
    return wrong("has an impossible floor", "It is at least 0; times the points it is less than 1.");
  for (std::size_t i = 0; i < blend.points.size(); ++i) {
    const BlendPointDef& point = blend.points[i];
    if (!near_pivot(point.x) || !near_pivot(point.y))
      return wrong("has a point out of range", "Points lie within 1000000.");
    for (std::size_t k = 0; k < i; ++k)
      if (blend.points[k].x == point.x && blend.points[k].y == point.y)
        return wrong("has two clips at one point", "Move one of them.");
  }
  if (blend.cues_above && !(*blend.cues_above > 0 && *blend.cues_above <= 1))
    return wrong("has an impossible weight for cues", "`cues_above:` lies above 0 and at most at 1.");
  if (source.pose) return wrong("is a pose", "A pose shows one frame of one clip.");
  info.plays = "blend";
  std::vector<std::uint16_t> found;
  for (const BlendPointDef& point : blend.points) {
    const auto clip = find_clip(point.clip);
    if (!clip) return;
    found.push_back(*clip);
    info.plays += (found.size() > 1 ? ", " : ": ") + point.clip.text;
    const PlayMode mode = m.clip_infos[*clip].def.play;
    if (mode.kind == PlayKind::back_and_forth || !mode.endless())
      report(FindingCode::bad_value, point.clip.place,
             "the clip \"" + point.clip.text + "\" of a blend plays " + mode.text(),
             "Clips of a blend run in phase: they all `loop`.", point.clip.text);
  }
  play.type = PlayType::clip;
  for (const std::uint16_t clip : found) add_played(play, clip);
  info.clips = std::move(found);
  play.blend = static_cast<std::uint16_t>(m.blends.size());
  m.blends.push_back({{}, {}, blend.points, blend.floor, blend.cues_above.value_or(2)});
}

// Expressions of blends, once everything has its place in the block.
void Compilation::compile_blend_axes(const StateDef& source, std::uint16_t index, std::int32_t node) {
  if (data->states[index].play.blend == kNoIndex) return;
  BlendData& out = data->blends[data->states[index].play.blend];
  for (const auto& [text, to] : {std::pair(&source.blend->x, &out.x), std::pair(&source.blend->y, &out.y)}) {
    if (text->empty()) continue;
    const CompiledExpr axis = compile_text(*text, node);
    if (axis.ref.empty()) continue;
    if (axis.type != ValueType::whole && axis.type != ValueType::number)
      report(FindingCode::wrong_operand, text->place, "\"" + text->text + "\" is no number",
             "An axis of a blend is a number.", text->text);
    *to = axis.ref;
  }
}

}  // namespace mobrin::detail
