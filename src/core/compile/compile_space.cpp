// Compiling what stands in space or changes art: reaches, zones, looks.
#include <algorithm>
#include <cmath>

#include "compile/compile.hpp"

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

namespace {

class SpaceStage {
 public:
  SpaceStage(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues)
      : work_(work), m_(work.data), texts_(work, tree, inputs, cues), inputs_(inputs) {}

  void run() {
    if (!sound_unit(work_.def.unit))
      work_.report(FindingCode::bad_value, {}, "the unit is no size", "Pixels to a world unit: above 0.");
    m_.unit = work_.def.unit;
    std::set<std::string, std::less<>> taken;
    for (const ReachDef& reach : work_.def.reaches) {
      if (!work_.declare("reach", reach.name, taken)) continue;
      if (!sound_shape(reach.shape, true))
        work_.report(FindingCode::bad_value, reach.name.place,
                     "the reach \"" + reach.name.text + "\" has no size, or is out of range",
                     "Sizes are above 0 and below 1000000 pixels, an angle at most 360 degrees.", reach.name.text);
      m_.reaches.push_back(reach);
    }
    check_reach_fields();
    taken.clear();
    for (const ZoneDef& zone : work_.def.zones)
      if (work_.declare("zone", zone.name, taken)) compile_zone(zone);
    taken.clear();
    for (const LookDef& look : work_.def.looks) {
      if (!work_.declare("look", look.name, taken)) continue;
      const CompiledExpr when = texts_.expression(look.when, 0, ValueType::boolean);
      if (when.ref.empty()) continue;
      if (when.type != ValueType::boolean)
        work_.report(FindingCode::wrong_operand, look.when.place, "\"" + look.when.text + "\" is no condition",
                     "Write a comparison, such as `health <= 2`.", look.when.text);
      m_.looks.push_back(look);
      m_.look_guards.push_back(when.ref);
    }
    work_.within("tags in `hits:`, `spares:` and zones", count_tags(m_), kMaxTags, work_.def.name.place);
  }

 private:
  // A cue's field `reach` names a reach, where the machine has any.
  void check_reach_fields() {
    std::vector<std::string> known;
    for (const ReachDef& reach : m_.reaches) known.push_back(reach.name.text);
    if (known.empty()) return;
    const auto check = [&](const std::vector<FieldDef>& fields) {
      for (const FieldDef& field : fields) {
        const auto* name = std::get_if<std::string>(&field.value);
        if (field.name.text != "reach" || name == nullptr) continue;
        if (std::find(known.begin(), known.end(), *name) == known.end())
          work_.unknown("reach", {*name, field.name.place}, known, "Declare it under `reaches:`.");
      }
    };
    // Cues are shared among machines; what counts is what this one's clips tell.
    for (const ClipMarksDef& marks : work_.def.marks)
      for (const MarkDef& mark : marks.marks) {
        check(mark.fields);
        const bool overridden = std::any_of(mark.fields.begin(), mark.fields.end(),
                                            [](const FieldDef& field) { return field.name.text == "reach"; });
        for (const CueDef& cue : work_.def.cues)
          if (cue.name.text == mark.cue.text && !overridden) check(cue.fields);
      }
  }

  void compile_zone(const ZoneDef& zone) {
    ZoneInfo out{zone};
    if (!sound_shape(zone.shape, false))
      work_.report(FindingCode::bad_value, zone.name.place,
                   "the zone \"" + zone.name.text + "\" has no size, or is out of range",
                   "Sizes are above 0 and below 1000000 pixels.", zone.name.text);
    const auto find = [&](const Text& name, const char* key, auto fits, const char* what) -> std::uint16_t {
      if (name.empty()) return kNoIndex;
      const auto input = work_.find("input", inputs_, name, "Declare it under `inputs:`.");
      if (!input) return kNoIndex;
      if (fits(m_.inputs[*input].kind)) return *input;
      work_.report(FindingCode::wrong_operand, name.place,
                   std::string("`").append(key) + ":` of the zone \"" + zone.name.text + "\" names the input \"" +
                       name.text + "\"",
                   std::string("It needs ") + what + ".", zone.name.text);
      return kNoIndex;
    };
    out.inside = find(
        zone.inside, "inside", [](InputKind kind) { return kind == InputKind::boolean || kind == InputKind::whole; },
        "a bool (anyone is inside) or an int (how many are)");
    out.counts = out.inside != kNoIndex && m_.inputs[out.inside].kind == InputKind::whole;
    const auto pulse = [](InputKind kind) { return kind == InputKind::pulse; };
    out.enter = find(zone.enter, "enter", pulse, "a pulse");
    out.leave = find(zone.leave, "leave", pulse, "a pulse");
    m_.zones.push_back(std::move(out));
  }

  Work& work_;
  MachineData& m_;
  Texts texts_;
  const NameTable& inputs_;
};

}  // namespace

void compile_space(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues) {
  SpaceStage(work, tree, inputs, cues).run();
}

}  // namespace mobrin::detail
