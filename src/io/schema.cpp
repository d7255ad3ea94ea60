// The JSON Schema and the documentation's tables, both made from the table of keys.
#include <nlohmann/json.hpp>

#include <stdexcept>

#include "keys.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {
namespace io {
namespace {

using Json = nlohmann::ordered_json;

struct TypeRow {
  std::string_view name;
  std::string_view words;   // for people
  std::string_view schema;  // JSON; `@section` stands for a reference
};

constexpr std::string_view kDuration = R"({"type":"string","pattern":"^([0-9]+\\.?[0-9]*|\\.[0-9]+) ?(ms|s)$"})";
constexpr std::string_view kExpression = R"({"type":["string","number","boolean"],"pattern":"\\S"})";
constexpr std::string_view kNames = R"({"anyOf":[{"type":"string"},{"type":"array","items":{"type":"string"}}]})";
constexpr std::string_view kFrames =
    R"({"anyOf":[{"type":["string","integer"]},{"type":"array","minItems":1,"items":{"type":["string","integer"]}}]})";
constexpr std::string_view kInstant =
    R"({"anyOf":[{"type":"string","pattern":"^([0-9]+\\.?[0-9]*|\\.[0-9]+) ?(ms|s)$"},{"type":"object","required":["ticks"],"additionalProperties":false,"properties":{"ticks":{"type":"integer","minimum":0}}}]})";
constexpr std::string_view kPair = R"({"type":"array","items":{"type":"number"},"minItems":2,"maxItems":2})";
constexpr std::string_view kFieldValue =
    R"({"anyOf":[{"type":["boolean","number","string"]},{"type":"array","items":{"type":"number"}}]})";

// Types of keys. A type that refers to another section writes "$SECTION".
constexpr TypeRow kTypes[] = {
    {"version", "1", R"({"const":1})"},
    {"name", "name", R"("$name")"},
    {"title", "text", R"({"type":"string","minLength":1})"},
    {"state_path", "a state's path", R"({"type":"string"})"},
    {"path", "text", R"({"type":"string"})"},
    {"paths", "text or list of texts", kNames},
    {"names", "name or list of names", kNames},
    {"bool", "true or false", R"({"type":"boolean"})"},
    {"int", "whole number", R"({"type":"integer"})"},
    {"number", "number", R"({"type":"number"})"},
    {"pixels", "pixels, as `32px`", R"({"type":"string","pattern":"^[0-9.]+px$"})"},
    {"duration", "duration, as `110ms` or `1.5s`", kDuration},
    {"durations", "list of durations", R"({"anyOf":[{"type":"string"},{"type":"array","items":{"type":"string"}}]})"},
    {"prints", "list, or map by cell, of words",
     R"({"anyOf":[{"type":"array","items":{"type":"string"}},{"type":"object","additionalProperties":{"type":"string"}}]})"},
    {"instant", "duration or `{ticks: N}`", kInstant},
    {"expression", "expression", kExpression},
    {"inputs", "map of inputs",
     R"({"type":"object","propertyNames":"$name","additionalProperties":{"anyOf":[{"const":"pulse"},{"type":["boolean","number"]},"$input"]}})"},
    {"cues", "map of cues",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":{"anyOf":[{"type":["string","null"]},{"type":"object","properties":{"kind":{"type":"string"}},"additionalProperties":"$field_value"}]}})"},
    {"clips", "map of clips", R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":"$clip"})"},
    {"sheets", "map of sheets", R"({"type":["object","null"],"additionalProperties":"$sheet"})"},
    {"marks_by_clip", "map of marks", R"({"type":["object","null"],"additionalProperties":"$marks"})"},
    {"vars", "map of start values",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":{"type":["boolean","number"]}})"},
    {"actions", "action or list of actions",
     R"({"anyOf":[{"type":"string"},"$action",{"type":"array","items":{"anyOf":[{"type":"string"},"$action"]}}]})"},
    {"go_list", "list of transitions", R"({"type":["array","null"],"items":"$go"})"},
    {"states", "map of states",
     R"({"type":"object","minProperties":1,"propertyNames":"$name","additionalProperties":{"anyOf":[{"type":"null"},"$state"]}})"},
    {"inner_states", "map of states",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":{"anyOf":[{"type":"null"},"$state"]}})"},
    {"regions", "map of regions",
     R"({"type":"object","minProperties":1,"propertyNames":"$name","additionalProperties":"$region"})"},
    {"tape_steps", "list of steps", R"({"type":["array","null"],"items":"$tape_step"})"},
    {"values", "map of values", R"({"type":"object","additionalProperties":{"type":["boolean","number","string"]}})"},
    {"clip_choice", "clip, list of clips, or map of `by` and choices to clips",
     R"({"anyOf":[{"type":"string"},{"type":"array","items":{"type":"string"},"minItems":1},{"type":"object","required":["by"],"additionalProperties":{"type":"string"}}]})"},
    {"pose", "clip, or map of `clip` and `frame` or `time`",
     R"({"anyOf":[{"type":"string"},{"type":"object","required":["clip"],"additionalProperties":false,"properties":{"clip":{"anyOf":[{"type":"string"},{"type":"object","required":["by"],"additionalProperties":{"type":"string"}}]},"frame":{"type":"integer","minimum":0},"time":{"type":"string","pattern":"^([0-9]+\\.?[0-9]*|\\.[0-9]+) ?(ms|s)$"}}}]})"},
    {"fade_cues", "`entered` or `both`", R"({"enum":["entered","both"]})"},
    {"at", "`end` or `loop`", R"({"enum":["end","loop"]})"},
    {"during", "window, frames or times", R"({"type":["string","integer"]})"},
    {"start", "word, frame or time",
     R"({"anyOf":[{"enum":["begin","same","clock"]},{"type":"integer","minimum":0},{"type":"string","pattern":"^([0-9]+\\.?[0-9]*|\\.[0-9]+) ?(ms|s)$"}]})"},
    {"tell", "cue, or map of a cue to fields",
     R"({"anyOf":[{"type":"string"},{"type":"object","minProperties":1,"maxProperties":1}]})"},
    {"size", "[width, height]", R"({"type":"array","items":{"type":"integer","minimum":1},"minItems":2,"maxItems":2})"},
    {"frames", "list of frames", kFrames},
    {"fps", "number or fraction",
     R"({"anyOf":[{"type":"number","exclusiveMinimum":0},{"type":"string","pattern":"^[0-9.]+/[0-9]+$"}]})"},
    {"part", "part of a clip", R"("$part")"},
    {"play", "play mode", R"({"type":"string","pattern":"^(once|(loop|back-and-forth)( x[0-9]+)?)$"})"},
    {"rects", "map of [left, top, width, height]",
     R"({"type":"object","additionalProperties":{"type":"array","items":{"type":"integer","minimum":0},"minItems":4,"maxItems":8}})"},
    {"pair", "[x, y]", kPair},
    {"marked_cues", "map of places to cues",
     R"({"type":["object","null"],"propertyNames":{"pattern":"^([0-9]+(\\.end)?|([0-9]+\\.?[0-9]*|\\.[0-9]+) ?(ms|s))$"},"additionalProperties":{"anyOf":[{"type":"string"},{"type":"object","minProperties":1},{"type":"array","minItems":1,"items":{"type":["string","object"]}}]}})"},
    {"marked_spans", "map of cues to stretches",
     R"({"type":["object","null"],"additionalProperties":{"anyOf":[{"type":["string","integer"]},{"type":"array","minItems":1,"items":{"type":["string","integer"]}},{"type":"object","required":["frames"]}]}})"},
    {"offsets", "map of frames to [x, y]",
     R"({"type":["object","null"],"propertyNames":{"pattern":"^[0-9]+(-[0-9]+)?$"},"additionalProperties":{"type":"array","items":{"type":"number"},"minItems":2,"maxItems":2}})"},
    {"boxes", "list of boxes", R"({"anyOf":[{"type":"null"},"$box",{"type":"array","items":"$box"}]})"},
    {"stretches", "frames, times, or a list of them", kFrames},
    {"reaches", "map of reaches",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":"$reach"})"},
    {"zones", "map of zones", R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":"$zone"})"},
    {"keys", "map of inputs to keys",
     R"({"type":["object","null"],"additionalProperties":{"anyOf":[{"type":["string","integer"]},{"type":"array","items":{"type":["string","integer"]}}]}})"},
    {"claims", "map of claims", R"({"type":["object","null"],"additionalProperties":"$claim"})"},
    {"expressions", "expression or list of expressions",
     R"({"anyOf":[{"type":["string","boolean"]},{"type":"array","items":{"type":["string","boolean"]}}]})"},
    {"looks", "map of looks", R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":"$look"})"},
    {"cone", "cone", R"("$cone")"},
    {"art", "map of images to images", R"({"type":"object","additionalProperties":{"type":"string"}})"},
    {"blend", "blend", R"("$blend")"},
    {"blend_points", "list of points", R"({"type":"array","items":"$blend_point","minItems":2})"},
    {"blend_place", "[x, y] or number",
     R"({"anyOf":[{"type":"number"},{"type":"array","items":{"type":"number"},"minItems":2,"maxItems":2}]})"},
    {"tracks", "map of tracks",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":"$track"})"},
    {"curve", "`step`, `linear` or `cubic`", R"({"enum":["step","linear","cubic"]})"},
    {"track_keys", "map of places to values",
     R"({"type":"object","additionalProperties":{"anyOf":[{"type":"number"},{"type":"array","items":{"type":"number"},"minItems":3,"maxItems":3}]}})"},
    {"actors", "map of actors", R"({"type":"object","minProperties":1,"additionalProperties":"$actor"})"},
    {"face", "`right` or `left`", R"({"enum":["right","left"]})"},
    {"scene_spawns", "map of spawns", R"({"type":["object","null"],"additionalProperties":"$scene_spawn"})"},
    {"expectation", "expectation", R"("$tape_expect")"},
    {"counts", "map of numbers", R"({"type":"object","additionalProperties":{"type":"integer","minimum":0}})"},
    {"text", "text", R"({"type":"string"})"},
    {"it", "`it`", R"({"const":"it"})"},
    {"scene_moves", "list of moves", R"({"anyOf":["$scene_move",{"type":"array","items":"$scene_move"}]})"},
    {"hit_rules", "list of rules", R"({"anyOf":["$hit_rule",{"type":"array","items":"$hit_rule"}]})"},
    {"three_numbers", "[x, y, radius]", R"({"type":"array","items":{"type":"number"},"minItems":3,"maxItems":3})"},
    {"four_numbers", "[left, bottom, width, height]",
     R"({"type":"array","items":{"type":"number"},"minItems":4,"maxItems":4})"},
    {"windows", "map of names to stretches",
     R"({"type":["object","null"],"propertyNames":"$name","additionalProperties":{"anyOf":[{"type":["string","integer"]},{"type":"array","minItems":1,"items":{"type":["string","integer"]}}]}})"},
};

const TypeRow& type_of(const KeyRow& row) {
  for (const TypeRow& type : kTypes)
    if (type.name == row.type) return type;
  throw std::logic_error("a key's type is not in the table: " + std::string(row.type));
}

std::string definition_name(Section section) {
  constexpr std::string_view kNamesOfSections[] = {
      "machine",    "tape",        "input",        "state",       "region",      "go",        "action", "clip",
      "part",       "sheet",       "packed_sheet", "marks",       "tape_step",   "character", "box",    "reach",
      "cone",       "zone",        "look",         "blend",       "blend_point", "track",     "scene",  "actor",
      "scene_move", "scene_spawn", "hit_rule",     "tape_expect", "claim"};
  static_assert(std::size(kNamesOfSections) == static_cast<std::size_t>(Section::count));
  return std::string(kNamesOfSections[static_cast<std::size_t>(section)]);
}

// Turns "$state" into a reference to that definition.
void link(Json& json) {
  if (json.is_string() && json.get<std::string>().starts_with('$')) {
    const std::string name = json.get<std::string>().substr(1);
    json = {{"$ref", "#/$defs/" + name}};
    return;
  }
  if (json.is_structured())
    for (auto& each : json) link(each);
}

Json section_schema(Section section) {
  Json out = {{"type", "object"}, {"additionalProperties", false}};
  Json required = Json::array();
  Json& properties = out["properties"] = Json::object();
  for (const KeyRow& row : all_keys()) {
    if (row.section != section) continue;
    Json property = Json::parse(type_of(row).schema);
    link(property);
    if (property.contains("$ref")) property = {{"allOf", Json::array({property})}};
    property["description"] = row.text;
    if (row.key == "mobrin" || row.text.ends_with("Required.")) required.push_back(row.key);
    properties[std::string(row.key)] = std::move(property);
  }
  if (section == Section::clip || section == Section::marks) out["type"] = {"object", "null"};
  if (section == Section::clip) out["type"] = "object";
  if (section == Section::tape_step) out["anyOf"] = {{{"required", {"at"}}}, {{"required", {"from", "to", "expect"}}}};
  if (!required.empty()) out["required"] = required;
  return out;
}

// As is_name() has it.
Json name_schema() {
  std::string words;
  for (const std::string_view word : detail::expression_words())
    words += (words.empty() ? "" : "|") + std::string(word);
  return {{"type", "string"}, {"pattern", "^(?!(" + words + ")$)[A-Za-z_][A-Za-z0-9_]{0,63}$"}};
}

}  // namespace
}  // namespace io

std::string json_schema() {
  using io::Json;
  Json out = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
              {"title", "Mobrin files, version 1: machines, characters, clips and marks, tapes"},
              {"type", "object"},
              {"required", {"mobrin"}},
              {"if", {{"required", {"tape"}}}},
              {"then", {{"$ref", "#/$defs/tape"}}},
              {"else",
               {{"if", {{"required", {"character"}}}},
                {"then", {{"$ref", "#/$defs/character"}}},
                {"else",
                 {{"if", {{"required", {"scene"}}}},
                  {"then", {{"$ref", "#/$defs/scene"}}},
                  {"else", {{"$ref", "#/$defs/machine"}}}}}}}};
  Json& definitions = out["$defs"] = Json::object();
  for (std::size_t i = 0; i < static_cast<std::size_t>(io::Section::count); ++i) {
    const auto section = static_cast<io::Section>(i);
    definitions[io::definition_name(section)] = io::section_schema(section);
  }
  definitions["field_value"] = Json::parse(io::kFieldValue);
  definitions["name"] = io::name_schema();
  return out.dump(1) + "\n";
}

std::string key_table(std::string_view section) {
  std::string out = "| key | type | default | meaning |\n|---|---|---|---|\n";
  for (const io::KeyRow& row : io::all_keys()) {
    if (io::definition_name(row.section) != section) continue;
    out += "| `" + std::string(row.key) + "` | " + std::string(io::type_of(row).words) + " | " +
           (row.default_value.empty() ? "" : "`" + std::string(row.default_value) + "`") + " | " +
           std::string(row.text) + " |\n";
  }
  return out;
}

}  // namespace mobrin
