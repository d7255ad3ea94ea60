// Findings about the art that a machine's files name, with the images read.
#pragma once

#include <string>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin {

/// Images that are not there or hold no such frame, what art_findings() tells of the others, and looks whose images do
/// not fit those they stand in for. REQUIRES: `loaded` was loaded from `path` and has a machine.
[[nodiscard]] std::vector<Finding> art_file_findings(const Loaded& loaded, const std::string& path);

}  // namespace mobrin
