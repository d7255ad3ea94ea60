// Words in files that tools write.
#pragma once

#include <string>

namespace mobrin {

/// A path or a word as a value of a YAML file: in quotes where it is not plain, or `always`, as JSON wants it. Control
/// characters are escaped.
[[nodiscard]] std::string quoted(const std::string& text, bool always = false);

}  // namespace mobrin
