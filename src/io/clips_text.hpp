// Clips as the text of a file.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::io {

// A whole clips file, which loads as these clips again.
[[nodiscard]] std::string clips_text(const std::vector<ClipDef>& clips);

// A whole file of marks with nothing but tracks.
[[nodiscard]] std::string tracks_text(const std::vector<ClipMarksDef>& marks);

}  // namespace mobrin::io
