// Saves: SavedInstance to JSON and back.
#include "mobrin/io/save.hpp"

#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

namespace mobrin {
namespace {

using Json = nlohmann::ordered_json;
using Named = SavedInstance::Named;

constexpr std::size_t kMostSaved = 100'000;  // values in one list

Json json_of(const FieldValue& value) {
  return std::visit([](const auto& held) { return Json(held); }, value);
}

Json json_of(const SavedPlay& play) {
  Json out = {{"state", play.state}, {"clips", play.clips}};
  if (!play.choice.empty()) out["choice"] = play.choice;
  if (play.cycle == 0) return out;
  out["position"] = play.position;
  out["cycle"] = play.cycle;
  out["speed"] = play.speed;
  out["edges"] = play.edges;
  out["backward"] = play.backward;
  return out;
}

Json json_of(const std::vector<Named>& list) {
  Json out = Json::array();
  for (const Named& each : list) {
    Json row = Json::object();
    if (!each.state.empty()) row["state"] = each.state;
    if (!each.name.empty()) row["name"] = each.name;
    row["value"] = json_of(each.value);
    out.push_back(std::move(row));
  }
  return out;
}

// Reads values out of JSON; the first that does not fit is kept as the error.
class Reading {
 public:
  const Json* get(const Json& from, const char* key, bool required) {
    if (!from.is_object()) return fail("`" + std::string(key) + "` is asked of what is no map"), nullptr;
    const auto found = from.find(key);
    if (found != from.end()) return &*found;
    if (required) fail("`" + std::string(key) + "` is missing");
    return nullptr;
  }
  std::string text(const Json& from, const char* key, bool required = false) {
    const Json* value = get(from, key, required);
    if (value == nullptr) return "";
    if (!value->is_string()) return fail("`" + std::string(key) + "` is no text"), "";
    return value->get<std::string>();
  }
  template <class T>
  T whole(const Json& from, const char* key, bool required = false) {
    const Json* value = get(from, key, required);
    if (value == nullptr) return 0;
    const bool fits =
        value->is_number_integer() &&
        !(value->is_number_unsigned() && sizeof(T) == 8 && std::is_signed_v<T> &&
          value->get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()));
    if (!fits) return fail("`" + std::string(key) + "` is no whole number"), T{0};
    if constexpr (sizeof(T) == 8) {
      return value->get<T>();
    } else {
      const auto wide = value->get<std::int64_t>();
      if (wide < static_cast<std::int64_t>(std::numeric_limits<T>::min()) ||
          wide > static_cast<std::int64_t>(std::numeric_limits<T>::max()))
        return fail("`" + std::string(key) + "` is out of range"), T{0};
      return static_cast<T>(wide);
    }
  }
  bool truth(const Json& from, const char* key) {
    const Json* value = get(from, key, false);
    if (value == nullptr) return false;
    if (!value->is_boolean()) return fail("`" + std::string(key) + "` is not true or false"), false;
    return value->get<bool>();
  }
  FieldValue value(const Json& json) {
    if (json.is_boolean()) return json.get<bool>();
    if (json.is_number_integer()) return json.get<std::int64_t>();
    if (json.is_number()) return json.get<double>();
    if (json.is_string()) return json.get<std::string>();
    fail("a value is neither a truth value, a number nor a text");
    return false;
  }
  template <class Visit>
  void each(const Json& from, const char* key, const Visit& visit) {
    const Json* list = get(from, key, false);
    if (list == nullptr) return;
    if (!list->is_array() || list->size() > kMostSaved) return fail("`" + std::string(key) + "` is no list");
    for (const Json& item : *list) visit(item);
  }
  std::vector<Named> named(const Json& from, const char* key) {
    std::vector<Named> out;
    each(from, key, [&](const Json& item) {
      Named& row = out.emplace_back();
      row.state = text(item, "state");
      row.name = text(item, "name");
      if (const Json* held = get(item, "value", true)) row.value = value(*held);
    });
    return out;
  }
  SavedPlay play(const Json& from) {
    SavedPlay out;
    out.state = text(from, "state");
    each(from, "clips", [&](const Json& clip) {
      if (clip.is_string())
        out.clips.push_back(clip.get<std::string>());
      else
        fail("a clip's name is no text");
    });
    out.choice = text(from, "choice");
    out.position = whole<std::int64_t>(from, "position");
    out.cycle = whole<std::int64_t>(from, "cycle");
    out.speed = whole<std::int32_t>(from, "speed");
    out.edges = whole<std::int32_t>(from, "edges");
    out.backward = truth(from, "backward");
    if (out.cycle < 0 || out.cycle > 2 * kMaxDurationTicks) fail("`cycle` is out of range");
    return out;
  }

  void fail(std::string why) {
    if (error.empty()) error = std::move(why);
  }
  std::string error;
};

}  // namespace

std::string save_text(const Instance& instance) { return save_text(save(instance)); }

std::string save_text(const SavedInstance& saved) {
  Json regions = Json::array();
  for (const SavedRegion& region : saved.regions) {
    Json row = {{"path", region.path}, {"play", json_of(region.play)}};
    if (!region.rest.empty()) row["rest"] = region.rest;
    if (region.fade_length > 0) {
      row["fade"] = {{"run", region.fade_run}, {"length", region.fade_length}, {"layers", Json::array()}};
      for (const SavedLayer& layer : region.layers)
        row["fade"]["layers"].push_back(
            {{"play", json_of(layer.play)}, {"weight", layer.weight}, {"cues", layer.tells_cues}});
    }
    regions.push_back(std::move(row));
  }
  // Fingerprints take all 64 bits, so they are written as text.
  const Json out = {{"mobrin", 1},
                    {"save", saved.machine},
                    {"fingerprint", std::to_string(saved.fingerprint)},
                    {"now", saved.now.count},
                    {"frozen", saved.frozen.count},
                    {"rate", saved.rate},
                    {"ordinal", saved.ordinal},
                    {"flags", saved.flags},
                    {"inputs", json_of(saved.inputs)},
                    {"variables", json_of(saved.variables)},
                    {"timers", json_of(saved.timers)},
                    {"memories", json_of(saved.memories)},
                    {"regions", regions}};
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<SavedInstance> read_save(std::string_view text) {
  const Json json = Json::parse(text, nullptr, false);
  if (json.is_discarded()) return Error{"the save is no JSON", ""};
  Reading read;
  SavedInstance out;
  if (read.whole<std::int32_t>(json, "mobrin", true) != 1) read.fail("it is not of version 1 of the format");
  out.machine = read.text(json, "save", true);
  const std::string fingerprint = read.text(json, "fingerprint");
  for (const char c : fingerprint) {
    if (c < '0' || c > '9') read.fail("`fingerprint` is no number");
    out.fingerprint = out.fingerprint * 10 + static_cast<std::uint64_t>(c - '0');
  }
  out.now = Ticks(read.whole<std::int64_t>(json, "now"));
  out.frozen = Ticks(read.whole<std::int64_t>(json, "frozen"));
  out.rate = read.whole<std::int32_t>(json, "rate", true);
  out.ordinal = read.whole<std::uint32_t>(json, "ordinal");
  out.flags = read.whole<std::uint8_t>(json, "flags");
  out.inputs = read.named(json, "inputs");
  out.variables = read.named(json, "variables");
  out.timers = read.named(json, "timers");
  out.memories = read.named(json, "memories");
  read.each(json, "regions", [&](const Json& row) {
    SavedRegion& region = out.regions.emplace_back();
    region.path = read.text(row, "path");
    if (const Json* play = read.get(row, "play", true)) region.play = read.play(*play);
    region.rest = read.text(row, "rest");
    const Json* fade = read.get(row, "fade", false);
    if (fade == nullptr) return;
    region.fade_run = read.whole<std::int64_t>(*fade, "run");
    region.fade_length = read.whole<std::int64_t>(*fade, "length");
    read.each(*fade, "layers", [&](const Json& item) {
      SavedLayer& layer = region.layers.emplace_back();
      if (const Json* play = read.get(item, "play", true)) layer.play = read.play(*play);
      layer.weight = read.whole<std::uint32_t>(item, "weight");
      layer.tells_cues = read.truth(item, "cues");
    });
  });
  if (!read.error.empty()) return Error{"the save cannot be read: " + read.error, ""};
  return out;
}

}  // namespace mobrin
