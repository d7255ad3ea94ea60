// JSON of what several commands print.
#include "json.hpp"

#include <fmt/format.h>

#include <charconv>

namespace mobrin::cli {

Json json_of(const FieldValue& value) {
  return std::visit([](const auto& each) { return Json(each); }, value);
}

Json json_of_fields(const CueDef& cue, const std::vector<FieldDef>& overrides) {
  Json out = Json::object();
  for (const FieldDef& field : cue.fields) out[field.name.text] = json_of(field.value);
  for (const FieldDef& field : overrides) out[field.name.text] = json_of(field.value);
  return out;
}

Json json_of(const Finding& finding) {
  return {
      {"code", text_of(finding.code)}, {"severity", is_error(finding) ? "error" : finding.hint ? "hint" : "warning"},
      {"file", finding.file},          {"line", finding.line},
      {"column", finding.column},      {"message", finding.message},
      {"remedy", finding.remedy}};
}

Json text_or_null(std::string_view text) { return text.empty() ? Json() : Json(std::string(text)); }

Json json_of(const Cue& cue) {
  constexpr std::string_view kWhat[] = {"cue", "enter", "leave", "loop", "done", "fault"};
  Json out = {{"ticks", cue.at.count}, {"what", kWhat[static_cast<std::size_t>(cue.what)]}};
  if (cue.what == Told::fault) {
    out["fault"] = "runaway";
  } else if (cue.what != Told::cue) {
    out["state"] = std::string(cue.state_path());
  } else {
    out["cue"] = std::string(cue.name());
    out["kind"] = text_or_null(cue.kind());
    out["clip"] = text_or_null(cue.clip_name());
    out["frame"] = cue.frame < 0 ? Json() : Json(cue.frame);
    if (cue.edge != Edge::none) out["edge"] = cue.edge == Edge::begin ? "begin" : "end";
    Json fields = Json::object();
    for (const FieldDef& field : cue.definition().fields)
      fields[field.name.text] = json_of(*cue.field(field.name.text));
    out["fields"] = std::move(fields);
  }
  return out;
}

std::string print_json(const Json& json, int indent) {
  return json.dump(indent, ' ', false, Json::error_handler_t::replace);
}

}  // namespace mobrin::cli
