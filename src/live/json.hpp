// JSON as the page gets it.
#pragma once

#include <nlohmann/json.hpp>

#include <string>

#include "mobrin/core/definition.hpp"

namespace mobrin::live {

using Json = nlohmann::ordered_json;

// What is no UTF-8 is replaced, so that printing never fails.
[[nodiscard]] inline std::string text_of(const Json& json) {
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}
[[nodiscard]] inline Json json_of(const FieldValue& value) {
  return std::visit([](const auto& each) { return Json(each); }, value);
}
// What is there as text; empty for anything else.
[[nodiscard]] inline std::string text_in(const Json& from, const char* key) {
  const auto found = from.find(key);
  return found != from.end() && found->is_string() ? found->get<std::string>() : std::string();
}
// 64 bits do not fit into a number of the page.
[[nodiscard]] std::string hex_text(std::uint64_t value);
// Of a file's text, to tell whether it is still the same.
[[nodiscard]] std::string hash_text(std::string_view text);

}  // namespace mobrin::live
