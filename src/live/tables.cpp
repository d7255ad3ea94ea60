// Tables: machines, clips and marks as the page needs them.
#include "tables.hpp"

#include <algorithm>
#include <charconv>
#include <map>

#include "json.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/image.hpp"

namespace mobrin::live {

std::string hex_text(std::uint64_t value) {
  char text[17];
  for (int i = 15; i >= 0; --i, value >>= 4) text[i] = "0123456789abcdef"[value & 15];
  return {text, 16};
}

// FNV-1a, 64 bits.
std::string hash_text(std::string_view text) {
  std::uint64_t hash = 0xcbf29ce484222325;
  for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3;
  return hex_text(hash);
}

namespace {

constexpr std::int32_t kSheetWidth = 2048, kSheetHeight = 4096;

std::string folder_of_file(const std::string& path) { return path.substr(0, path.rfind('/') + 1); }

// Pictures side by side in rows, one sheet after the other.
class Sheets {
 public:
  // Where a picture lies: sheet, x, y, width, height. Null where it is too large for any.
  Json add(const ArtStore::Picture& picture) {
    const PixelRect& rect = picture.rect;
    if (rect.width > kSheetWidth || rect.height > kSheetHeight) return {};
    if (x_ + rect.width > kSheetWidth) x_ = 0, y_ += row_, row_ = 0;
    if (images_.empty() || y_ + rect.height > kSheetHeight) {
      images_.emplace_back();
      images_.back().width = kSheetWidth;
      x_ = y_ = row_ = 0;
    }
    Image& image = images_.back();
    image.height = std::max(image.height, y_ + rect.height);
    image.rgba.resize(static_cast<std::size_t>(image.height) * kSheetWidth * 4);
    for (std::int32_t y = 0; y < rect.height; ++y) {
      const auto from = 4 * (static_cast<std::size_t>(rect.y + y) * static_cast<std::size_t>(picture.image->width) +
                             static_cast<std::size_t>(rect.x));
      const auto to = 4 * (static_cast<std::size_t>(y_ + y) * kSheetWidth + static_cast<std::size_t>(x_));
      std::copy_n(picture.image->rgba.begin() + static_cast<std::ptrdiff_t>(from), 4 * rect.width,
                  image.rgba.begin() + static_cast<std::ptrdiff_t>(to));
    }
    Json out = {images_.size() - 1, x_, y_, rect.width, rect.height};
    x_ += rect.width;
    row_ = std::max(row_, rect.height);
    return out;
  }
  [[nodiscard]] std::vector<std::shared_ptr<const std::string>> files() const {
    std::vector<std::shared_ptr<const std::string>> out;
    for (const Image& image : images_) {
      auto bytes = png_bytes(image);
      out.push_back(std::make_shared<const std::string>(bytes ? std::move(*bytes) : std::string()));
    }
    return out;
  }

 private:
  std::vector<Image> images_;
  std::int32_t x_ = 0, y_ = 0, row_ = 0;
};

class Maker {
 public:
  Maker(const Cast& cast, const std::vector<std::string>& files) : cast_(cast), files_(files) {}

  Tables run() {
    Json machines = Json::array(), actors = Json::array();
    const std::vector<std::string> names = machine_files(cast_);
    for (const std::string& name : names) machines.push_back(machine(name, *cast_.machines.at(name)));
    for (const SceneActor& actor : cast_.scene.actors)
      actors.push_back(
          {{"name", actor.name.text}, {"machine", std::find(names.begin(), names.end(), actor.file) - names.begin()}});
    const Json all = {
        {"name", cast_.scene.name},        {"alone", cast_.alone},
        {"ground", cast_.scene.ground},    {"until", cast_.alone ? Json() : Json(cast_.scene.until.count)},
        {"machines", std::move(machines)}, {"actors", std::move(actors)}};
    out_.json = text_of(all);
    out_.sheets = sheets_.files();
    return std::move(out_);
  }

 private:
  // [file, line] as the page numbers files; null where it is unknown.
  [[nodiscard]] Json place(const Machine& of, const Place& where) const {
    if (where.line == 0 || where.file >= of.files().size()) return {};
    const auto found = std::find(files_.begin(), files_.end(), of.files()[where.file]);
    if (found == files_.end()) return {};
    return {found - files_.begin(), where.line};
  }

  Json machine(const std::string& file, const Loaded& loaded) {
    const Machine& of = *loaded.machine;
    Json out = {{"name", std::string(of.name())},
                {"file", file},
                {"fingerprint", hex_text(of.fingerprint())},
                {"own", own(loaded)},
                {"unit", of.unit()},
                {"traits", of.traits()}};
    Json states = Json::array(), rules = Json::array(), regions = Json::array();
    for (const StateInfo& state : of.states())
      states.push_back({{"path", state.path},
                        {"parent", state.parent},
                        {"region", state.region},
                        {"leaf", !state.has_children},
                        {"plays", state.plays},
                        {"clips", state.clips},
                        {"final", state.final},
                        {"sealed", state.sealed},
                        {"traits", state.traits},
                        {"at", place(of, state.place)}});
    for (const TransitionInfo& rule : of.transitions())
      rules.push_back({{"owner", rule.owner},
                       {"target", rule.target},
                       {"pulse", rule.pulse == kNoIndex ? Json() : Json(rule.pulse)},
                       {"to", rule.to},
                       {"text", rule.text},
                       {"at", place(of, rule.place)}});
    for (const RegionInfo& region : of.regions()) regions.push_back(region.path);
    out["states"] = std::move(states);
    out["rules"] = std::move(rules);
    out["regions"] = std::move(regions);
    out["inputs"] = inputs(of);
    out["cues"] = cues(of, file);
    Json looks = Json::array();
    for (const LookDef& look : of.looks()) looks.push_back(look.name.text);
    out["looks"] = std::move(looks);
    out["clips"] = clips(of, file);
    Json keys = Json::object();
    if (loaded.definition)
      for (const KeysDef& each : loaded.definition->keys) {
        Json codes = Json::array();
        for (const Text& code : each.codes) codes.push_back(code.text);
        keys[each.input.text] = std::move(codes);
      }
    out["keys"] = std::move(keys);
    Json zones = Json::array();
    for (const ZoneInfo& zone : of.zones())
      zones.push_back({{"name", zone.def.name.text}, {"shape", shape(zone.def.shape)}});
    out["zones"] = std::move(zones);
    Json reaches = Json::array();
    for (const ReachDef& reach : of.reaches())
      reaches.push_back({{"name", reach.name.text}, {"shape", shape(reach.shape)}});
    out["reaches"] = std::move(reaches);
    return out;
  }

  // A character's own files as the page numbers them; null for a machine's.
  [[nodiscard]] Json own(const Loaded& loaded) const {
    const std::vector<std::string> mine = own_files(loaded);
    if (mine.size() == loaded.files.size()) return {};
    Json out = Json::array();
    for (const std::string& file : mine) out.push_back(std::find(files_.begin(), files_.end(), file) - files_.begin());
    return out;
  }

  static Json inputs(const Machine& of) {
    Json out = Json::array();
    for (const InputDef& input : of.inputs()) {
      Json each = {{"name", input.name.text}};
      if (std::holds_alternative<BoolInput>(input.kind)) each["kind"] = "bool";
      if (const auto* whole = std::get_if<IntInput>(&input.kind)) {
        each["kind"] = "int";
        each["min"] = whole->min;
        each["max"] = whole->max;
      }
      if (const auto* number = std::get_if<FloatInput>(&input.kind)) {
        each["kind"] = "float";
        each["min"] = number->min;
        each["max"] = number->max;
        each["grain"] = number->grain;
      }
      if (const auto* choice = std::get_if<ChoiceInput>(&input.kind)) {
        each["kind"] = "choice";
        Json names = Json::array();
        for (const Text& name : choice->choices) names.push_back(name.text);
        each["choices"] = std::move(names);
      }
      if (const auto* pulse = std::get_if<PulseInput>(&input.kind)) {
        each["kind"] = "pulse";
        each["buffer"] = pulse->buffer.count;
      }
      out.push_back(std::move(each));
    }
    return out;
  }

  Json cues(const Machine& of, const std::string& file) {
    Json out = Json::array();
    for (const CueDef& cue : of.cues()) {
      Json fields = Json::object();
      for (const FieldDef& field : cue.fields) fields[field.name.text] = json_of(field.value);
      Json each = {{"name", cue.name.text}, {"kind", cue.kind}};
      if (cue.kind == "sound")
        for (const FieldDef& field : cue.fields)
          if (const auto* name = std::get_if<std::string>(&field.value); name != nullptr && field.name.text == "file") {
            const std::string path = name->starts_with('/') ? *name : folder_of_file(file) + *name;
            if (!is_plain_file(path)) continue;
            each["sound"] = out_.sounds.size();
            out_.sounds.push_back(path);
          }
      each["fields"] = std::move(fields);
      out.push_back(std::move(each));
    }
    return out;
  }

  static Json stretches(const std::vector<StretchDef>& all) {
    Json out = Json::array();
    for (const StretchDef& each : all)
      out.push_back(each.timed ? Json{{"begin", each.begin.count}, {"end", each.end.count}}
                               : Json{{"first", each.first}, {"last", each.last}});
    return out;
  }

  static Json shape(const Shape& of) {
    if (const auto* rect = std::get_if<RectShape>(&of))
      return {{"rect", {rect->left, rect->bottom, rect->width, rect->height}}};
    if (const auto* circle = std::get_if<CircleShape>(&of)) return {{"circle", {circle->x, circle->y, circle->radius}}};
    const auto& cone = std::get<ConeShape>(of);
    return {{"cone", {cone.x, cone.y, cone.length, cone.angle}}};
  }

  Json clips(const Machine& of, const std::string& file) {
    Json out = Json::array();
    for (const ClipInfo& clip : of.clips()) {
      Json frames = Json::array();
      for (std::size_t i = 0; i < clip.def.frames.size(); ++i) {
        const FrameDef& frame = clip.def.frames[i];
        // Where it lies on what is drawn.
        auto pivot = clip.pivot_of(static_cast<std::int32_t>(i));
        if (pivot || frame.art.whole.width > 0) pivot = pivot_on_cut(frame.art, {}, pivot);
        Json art = Json::array();  // as drawn, then by look
        art.push_back(picture(frame.art, file));
        for (const LookDef& look : of.looks()) {
          FrameArt other = frame.art;
          for (const auto& [from, to] : look.art)
            if (other.source == from) {
              other.source = to;
              break;
            }
          art.push_back(other.source == frame.art.source ? art[0] : picture(other, file));
        }
        frames.push_back({{"ticks", (clip.borders[i + 1] - clip.borders[i]).count},
                          {"hold", frame.hold},
                          {"picture", frame.art.tile.empty() ? frame.art.source : frame.art.tile},
                          {"pivot", pivot ? Json{pivot->first, pivot->second} : Json()},
                          {"trim", Json{frame.art.whole.x, frame.art.whole.y}},
                          {"art", std::move(art)}});
      }
      Json each = {{"name", clip.def.name.text},
                   {"play", clip.def.play.text()},
                   {"fps", clip.def.fps.num == 0
                               ? Json()
                               : Json(static_cast<double>(clip.def.fps.num) / static_cast<double>(clip.def.fps.den))},
                   {"ticks", clip.length.count},
                   {"frames", std::move(frames)},
                   {"at", place(of, clip.def.name.place)}};
      marks(clip, each);
      each["marks_at"] = place(of, clip.marks.clip.place);
      out.push_back(std::move(each));
    }
    return out;
  }

  static void marks(const ClipInfo& clip, Json& out) {
    Json cues = Json::array(), boxes = Json::array(), windows = Json::array();
    for (const MarkDef& mark : clip.marks.marks) {
      constexpr const char* kAt[] = {"begin", "end", "time", "frames", "times"};
      constexpr const char* kWay[] = {"both", "forward", "backward"};
      Json fields = Json::object();
      for (const FieldDef& field : mark.fields) fields[field.name.text] = json_of(field.value);
      cues.push_back({{"cue", mark.cue.text},
                      {"at", kAt[static_cast<std::size_t>(mark.at)]},
                      {"frame", mark.frame},
                      {"last", mark.last_frame},
                      {"ticks", mark.time.count},
                      {"until", mark.until.count},
                      {"way", kWay[static_cast<std::size_t>(mark.way)]},
                      {"fields", std::move(fields)}});
    }
    for (const BoxDef& box : clip.marks.boxes)
      boxes.push_back({{"name", box.name.text},
                       {"role", box.role.text},
                       {"stretches", stretches(box.stretches)},
                       {"shape", shape(box.shape)},
                       {"hits", box.hits},
                       {"spares", box.spares},
                       {"every", box.every.count}});
    for (const WindowDef& window : clip.marks.windows)
      windows.push_back({{"name", window.name.text}, {"stretches", stretches(window.stretches)}});
    Json tracks = Json::array();
    for (const TrackDef& track : clip.marks.tracks) tracks.push_back(track.name.text);
    const auto pair = [](const std::optional<std::pair<double, double>>& value) {
      return value ? Json{value->first, value->second} : Json();
    };
    out["cues"] = std::move(cues);
    out["boxes"] = std::move(boxes);
    out["windows"] = std::move(windows);
    out["tracks"] = std::move(tracks);
    out["pivot"] = pair(clip.marks.pivot);
    out["offset"] = pair(clip.marks.offset);
  }

  Json picture(const FrameArt& art, const std::string& file) {
    if (art.source.empty()) return {};
    const std::string folder = folder_of_file(file);
    const std::string key = folder + "\n" + art.source + "\n" + art.tile + "\n" + std::to_string(art.rect.x) + " " +
                            std::to_string(art.rect.y) + " " + std::to_string(art.rect.width) + " " +
                            std::to_string(art.rect.height);
    const auto [known, fresh] = pictures_.try_emplace(key);
    if (!fresh) return known->second;
    const auto found = stores_.try_emplace(folder, folder).first->second.find(art);
    if (found) known->second = sheets_.add(*found);
    return known->second;
  }

  const Cast& cast_;
  const std::vector<std::string>& files_;
  Tables out_;
  Sheets sheets_;
  std::map<std::string, ArtStore> stores_;
  std::map<std::string, Json> pictures_;
};

}  // namespace

std::vector<std::string> machine_files(const Cast& cast) {
  std::vector<std::string> out;
  for (const auto& [file, loaded] : cast.machines) out.push_back(file);
  return out;
}

Tables tables_of(const Cast& cast, const std::vector<std::string>& files) { return Maker(cast, files).run(); }

}  // namespace mobrin::live
