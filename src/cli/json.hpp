// JSON of what several commands print.
#pragma once

#include <nlohmann/json.hpp>

#include <string>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::cli {

using Json = nlohmann::ordered_json;

// A value; numbers held in 32 bits are written with as few digits as tell them apart.
[[nodiscard]] Json json_of(const FieldValue& value);
// A cue's fields by name.
[[nodiscard]] Json json_of_fields(const CueDef& cue, const std::vector<FieldDef>& overrides);
// One line of the log of a run.
[[nodiscard]] Json json_of(const Cue& cue);
// The last line of the log of a run: where it is, what it shows.
[[nodiscard]] Json final_json(const Machine& machine, const Instance& instance);
// A finding with its place.
[[nodiscard]] Json json_of(const Finding& finding);
// Null for an empty text.
[[nodiscard]] Json text_or_null(std::string_view text);
// Replaces what is not UTF-8, so that printing never fails.
[[nodiscard]] std::string print_json(const Json& json, int indent = -1);

}  // namespace mobrin::cli
