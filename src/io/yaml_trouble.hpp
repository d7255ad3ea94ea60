// What is wrong with text that is no YAML, told as people see it: a bracket or a quote that is open, a comment of
// another language, a tab.
#pragma once

#include <optional>
#include <vector>

#include "yaml_tree.hpp"

namespace mobrin::io {

// Of text that the parser stopped reading at a line and a column, for a reason of its own.
[[nodiscard]] YamlProblem trouble_of(std::string_view source, std::uint32_t line, std::uint32_t column,
                                     const std::string& reason);
// Of text in which a second document begins at that line, be it for a dash before the first key.
[[nodiscard]] YamlProblem second_document(std::string_view source, std::uint32_t line);
// A line that begins outside of brackets and quotes, without its comment.
struct PlainLine {
  std::uint32_t number = 0;
  std::string_view text{};
};
// Of those up to a line, and it: a colon or a space that is missing, a line that stands too deep or not deep enough.
[[nodiscard]] std::optional<YamlProblem> trouble_with_levels(const std::vector<PlainLine>& lines, std::uint32_t last);
// Whether a file is no text at all, and what it is instead.
[[nodiscard]] bool is_no_text(std::string_view source);
[[nodiscard]] YamlProblem no_text(std::string_view source);

}  // namespace mobrin::io
