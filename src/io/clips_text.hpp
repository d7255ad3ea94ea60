// Words of files that import writes.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/io/words.hpp"

namespace mobrin::io {

// The nearest text of a time that is read as the same ticks again.
[[nodiscard]] std::string time_text(Ticks time);

// A whole file of marks with nothing but tracks.
[[nodiscard]] std::string tracks_text(const std::vector<ClipMarksDef>& marks);

}  // namespace mobrin::io
