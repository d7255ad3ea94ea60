// Clips as the text of a file.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::io {

// A whole clips file, which loads as these clips again.
[[nodiscard]] std::string clips_text(const std::vector<ClipDef>& clips);

}  // namespace mobrin::io
