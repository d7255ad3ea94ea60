#include "definition_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

#include "console.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::cli {
namespace {

std::string var_value(const VarDef& var) {
  if (const auto* boolean = std::get_if<bool>(&var.start)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int32_t>(&var.start)) return std::to_string(*whole);
  return fmt::format("{}", std::get<double>(var.start));
}

std::string fields_text(const std::vector<FieldDef>& fields) {
  std::string out;
  for (const FieldDef& field : fields)
    out += fmt::format("{}{}: {}", out.empty() ? "" : ", ", field.name.text, value_text(field.value));
  return out;
}

std::string actions_text(const std::vector<ActionDef>& actions) {
  std::string out;
  for (const ActionDef& action : actions) {
    out += out.empty() ? "" : "; ";
    if (action.tell.empty())
      out += action.assign.text;
    else
      out += "tell " + action.tell.text + (action.fields.empty() ? "" : " {" + fields_text(action.fields) + "}");
  }
  return printable(out);
}

std::string blend_text(const BlendDef& blend) {
  std::string out = "by " + blend.x.text + (blend.y.empty() ? "" : " and " + blend.y.text) + ":";
  for (const BlendPointDef& point : blend.points)
    out += fmt::format("{} {} at {:g}{}{}{}", &point == &blend.points.front() ? "" : ",", point.clip.text, point.x,
                       blend.y.empty() ? "" : fmt::format(", {:g}", point.y), point.mirrored ? " mirrored" : "",
                       point.backward ? " backward" : "");
  if (blend.floor > 0) out += fmt::format("; none below {:g}", blend.floor);
  if (blend.cues_above) out += fmt::format("; cues of all from {:g} on", *blend.cues_above);
  return out;
}

std::string start_text(const StartDef& start) {
  switch (start.kind) {
    case StartKind::begin:
      return "";
    case StartKind::same:
      return "same";
    case StartKind::clock:
      return "clock";
    case StartKind::frame:
      return std::to_string(start.frame);
    case StartKind::time:
      return fmt::format("{}s", start.time.to_seconds());
  }
  return "";
}

void gather(const StateDef& state, const std::string& path, std::map<std::string, const StateDef*>& out) {
  out[path] = &state;
  const std::string below = path.empty() ? "" : path + "/";
  for (const StateDef& each : state.states) gather(each, below + each.name.text, out);
  for (const RegionDef& region : state.regions)
    for (const StateDef& each : region.states) gather(each, below + region.name.text + "/" + each.name.text, out);
}

double begins(const ClipInfo& clip, const StretchDef& stretch) {
  if (stretch.timed) return stretch.begin.to_seconds();
  const auto frame = static_cast<std::size_t>(std::max(stretch.first, 0));
  return frame < clip.borders.size() ? clip.borders[frame].to_seconds() : clip.length.to_seconds();
}

std::string way_text(MarkWay way) {
  return way == MarkWay::both ? "" : way == MarkWay::forward ? ", forward only" : ", backward only";
}

// `frames 2 to 4`.
std::string place_words(const MarkDef& mark) {
  switch (mark.at) {
    case MarkAt::frame_begin:
      return fmt::format("frame {}", mark.frame);
    case MarkAt::frame_end:
      return fmt::format("the end of frame {}", mark.frame);
    case MarkAt::time:
      return "this time";
    case MarkAt::frames:
      return fmt::format("frames {} to {}", mark.frame, mark.last_frame);
    case MarkAt::times:
      return fmt::format("{:g} to {:g} s", mark.time.to_seconds(), mark.until.to_seconds());
  }
  return "";
}

}  // namespace

std::map<std::string, const StateDef*> states_by_path(const MachineDef& definition) {
  std::map<std::string, const StateDef*> out;
  gather(definition.root, "", out);
  return out;
}

std::string vars_text(const std::vector<VarDef>& vars) {
  std::string out;
  for (const VarDef& var : vars)
    out += fmt::format("{}{} = {}", out.empty() ? "" : ", ", var.name.text, var_value(var));
  return out;
}

std::vector<std::string> lines_of(const StateDef& state) {
  std::vector<std::string> out;
  const auto add = [&](const char* what, const std::string& text) {
    if (!text.empty()) out.push_back(fmt::format("{} {}", what, text));
  };
  add("speed", state.speed.text);
  if (state.blend) add("blend", blend_text(*state.blend));
  add("vars", vars_text(state.vars));
  add("on entry", actions_text(state.enter));
  add("on exit", actions_text(state.exit));
  add("each loop", actions_text(state.each_loop));
  if (state.linger.count > 0) add("lingers", fmt::format("{:g} s", state.linger.to_seconds()));
  return out;
}

Json json_of(const StateDef& state) {
  Json vars = Json::object();
  for (const VarDef& var : state.vars)
    vars[var.name.text] = std::visit([](const auto& value) { return Json(value); }, var.start);
  return {{"speed", text_or_null(state.speed.text)},
          {"blend", state.blend ? Json(blend_text(*state.blend)) : Json()},
          {"vars", vars},
          {"enter", text_or_null(actions_text(state.enter))},
          {"exit", text_or_null(actions_text(state.exit))},
          {"each_loop", text_or_null(actions_text(state.each_loop))},
          {"linger_ticks", state.linger.count}};
}

std::string extras_of(const GoDef& go) {
  std::string out;
  const auto add = [&](const std::string& words) { out += (out.empty() ? "" : ", ") + words; };
  if (const std::string start = start_text(go.start); !start.empty()) add("start: " + start);
  if (go.fade_cues == FadeCues::both) add("cues: both");
  if (!go.actions.empty()) add("do: " + actions_text(go.actions));
  return out;
}

Json json_of(const GoDef& go) {
  return {{"start", text_or_null(start_text(go.start))},
          {"fade_ticks", go.fade.count},
          {"cues", go.fade_cues == FadeCues::both ? "both" : "entered"},
          {"do", text_or_null(actions_text(go.actions))}};
}

std::string shape_text(const Shape& shape) {
  if (const auto* rect = std::get_if<RectShape>(&shape))
    return fmt::format("rect [{:g}, {:g}, {:g}, {:g}]", rect->left, rect->bottom, rect->width, rect->height);
  if (const auto* circle = std::get_if<CircleShape>(&shape))
    return fmt::format("circle [{:g}, {:g}, {:g}]", circle->x, circle->y, circle->radius);
  const auto& cone = std::get<ConeShape>(shape);
  return fmt::format("cone of {:g} px and {:g} degrees from [{:g}, {:g}]", cone.length, cone.angle, cone.x, cone.y);
}

Json json_of(const Shape& shape) {
  if (const auto* rect = std::get_if<RectShape>(&shape))
    return {{"rect", {rect->left, rect->bottom, rect->width, rect->height}}};
  if (const auto* circle = std::get_if<CircleShape>(&shape))
    return {{"circle", {circle->x, circle->y, circle->radius}}};
  const auto& cone = std::get<ConeShape>(shape);
  return {{"cone", {{"length", cone.length}, {"angle", cone.angle}, {"tip", {cone.x, cone.y}}}}};
}

std::string tags_text(const std::vector<std::string>& only, const std::vector<std::string>& spares) {
  std::string out;
  if (!only.empty()) out += fmt::format(", only {}", fmt::join(only, ", "));
  if (!spares.empty()) out += fmt::format(", not {}", fmt::join(spares, ", "));
  return printable(out);
}

std::vector<MarkLine> mark_lines(const ClipInfo& clip) {
  std::vector<MarkLine> out;
  const ClipMarksDef& marks = clip.marks;
  if (marks.pivot)
    out.push_back({-1, "", "", fmt::format("pivot {:g}, {:g}", marks.pivot->first, marks.pivot->second)});
  if (marks.offset)
    out.push_back({-1, "", "", fmt::format("offset {:g}, {:g}", marks.offset->first, marks.offset->second)});
  if (marks.airborne) out.push_back({-1, "", "", "airborne"});
  for (const OffsetDef& each : marks.offsets) {
    StretchDef stretch;
    stretch.first = each.first;
    stretch.last = each.last;
    out.push_back({begins(clip, stretch), stretch_text(stretch), "", fmt::format("offset {:g}, {:g}", each.x, each.y)});
  }
  for (const MarkDef& mark : marks.marks) {
    const std::string fields = fields_text(mark.fields);
    const std::string rest = way_text(mark.way) + (fields.empty() ? "" : "  " + fields);
    out.push_back({clip.begin_of(mark).to_seconds(), mark_text(mark), mark.cue.text + rest,
                   mark.cue.text + " at " + place_words(mark) + rest});
  }
  for (const WindowDef& window : marks.windows)
    for (const StretchDef& each : window.stretches)
      out.push_back({begins(clip, each), stretch_text(each), "", "window " + window.name.text});
  for (const BoxDef& box : marks.boxes) {
    std::string when;
    double at = -1;
    for (const StretchDef& each : box.stretches) {
      if (when.empty()) at = begins(clip, each);
      when += (when.empty() ? "" : ", ") + stretch_text(each);
    }
    out.push_back(
        {at, when, "",
         fmt::format("box {} ({})  {}{}{}", box.name.text, printable(box.role.text), shape_text(box.shape),
                     tags_text(box.hits, box.spares),
                     box.every.count > 0 ? fmt::format(", every {:g} ms", box.every.to_seconds() * 1000) : "")});
  }
  constexpr const char* kCurves[] = {"step", "linear", "cubic"};
  for (const TrackDef& track : marks.tracks) {
    std::string keys;
    for (const TrackKey& key : track.keys)
      keys += fmt::format("{}{:g} s: {:g}", keys.empty() ? "" : ", ", key.time.to_seconds(), key.value);
    out.push_back(
        {track.keys.empty() ? -1 : track.keys.front().time.to_seconds(), "", "",
         fmt::format("track {} ({})  {}", track.name.text, kCurves[static_cast<std::size_t>(track.curve)], keys)});
  }
  std::stable_sort(out.begin(), out.end(), [](const MarkLine& a, const MarkLine& b) { return a.seconds < b.seconds; });
  return out;
}

Json clip_json(const Machine& machine, const ClipInfo& clip) {
  Json frames = Json::array();
  for (std::size_t i = 0; i < clip.def.frames.size(); ++i) {
    const FrameArt& art = clip.def.frames[i].art;
    Json tile;
    if (!art.tile.empty()) {
      const bool named = art.rect.width > 0 && art.rect.x >= 0;  // a rectangle, which may be called `1`
      std::int64_t number = 0;
      const char* const end = art.tile.data() + art.tile.size();
      const bool whole = !named && std::from_chars(art.tile.data(), end, number).ptr == end;
      tile = whole ? Json(number) : Json(art.tile);
    }
    frames.push_back({{"index", i},
                      {"source", text_or_null(art.source)},
                      {"tile", tile},
                      {"ticks", (clip.borders[i + 1] - clip.borders[i]).count}});
  }
  Json cues = Json::array();
  for (const MarkDef& mark : clip.marks.marks) {
    Json cue = {{"cue", mark.cue.text}, {"at", mark_text(mark)}, {"ticks", clip.begin_of(mark).count}};
    if (mark.at == MarkAt::frame_begin || mark.at == MarkAt::frame_end) cue["frame"] = mark.frame;
    if (mark.at == MarkAt::frames) cue["frames"] = {mark.frame, mark.last_frame};
    if (is_span(mark.at)) cue["until_ticks"] = clip.end_of(mark).count;
    if (mark.way != MarkWay::both) cue["way"] = mark.way == MarkWay::forward ? "forward" : "backward";
    for (const CueDef& def : machine.cues())
      if (def.name.text == mark.cue.text) cue["fields"] = json_of_fields(def, mark.fields);
    cues.push_back(std::move(cue));
  }
  const auto pair = [](const std::optional<std::pair<double, double>>& value) {
    return value ? Json{value->first, value->second} : Json();
  };
  Json boxes = Json::array(), windows = Json::array(), tracks = Json::array(), offsets = Json::array();
  const auto stretches = [](const std::vector<StretchDef>& all) {
    Json out = Json::array();
    for (const StretchDef& each : all) out.push_back(stretch_text(each));
    return out;
  };
  for (const BoxDef& box : clip.marks.boxes) {
    Json out = {{"name", box.name.text}, {"role", box.role.text}, {"frames", stretches(box.stretches)}};
    out.update(json_of(box.shape));
    out["hits"] = box.hits;
    out["spares"] = box.spares;
    out["every_ticks"] = box.every.count;
    boxes.push_back(std::move(out));
  }
  for (const WindowDef& window : clip.marks.windows)
    windows.push_back({{"name", window.name.text}, {"frames", stretches(window.stretches)}});
  constexpr const char* kCurves[] = {"step", "linear", "cubic"};
  for (const TrackDef& track : clip.marks.tracks) {
    Json keys = Json::array();
    for (const TrackKey& key : track.keys) keys.push_back({{"ticks", key.time.count}, {"value", key.value}});
    tracks.push_back(
        {{"name", track.name.text}, {"curve", kCurves[static_cast<std::size_t>(track.curve)]}, {"keys", keys}});
  }
  for (const OffsetDef& each : clip.marks.offsets)
    offsets.push_back({{"frames", {each.first, each.last}}, {"offset", {each.x, each.y}}});
  return {{"name", clip.def.name.text},
          {"play", clip.def.play.text()},
          {"ticks", clip.length.count},
          {"frames", frames},
          {"cues", cues},
          {"pivot", pair(clip.marks.pivot)},
          {"offset", pair(clip.marks.offset)},
          {"offsets", offsets},
          {"airborne", clip.marks.airborne},
          {"windows", windows},
          {"boxes", boxes},
          {"tracks", tracks}};
}

}  // namespace mobrin::cli
