// Words of files that import writes.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::io {

// A path or a word as a value: in quotes where it is not plain, or always, as JSON wants it.
[[nodiscard]] std::string quoted(const std::string& text, bool always = false);

// The nearest text of a time that is read as the same ticks again.
[[nodiscard]] std::string time_text(Ticks time);

// A whole file of marks with nothing but tracks.
[[nodiscard]] std::string tracks_text(const std::vector<ClipMarksDef>& marks);

}  // namespace mobrin::io
