// Findings about the art that a machine's files name, with the images read.
#pragma once

#include <string>
#include <vector>

#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"

namespace mobrin {

/// Images that are not there or hold no such frame, what art_findings() tells of the others, and looks whose images do
/// not fit those they stand in for. REQUIRES: `loaded` was loaded from `path` and has a machine.
[[nodiscard]] std::vector<Finding> art_file_findings(const Loaded& loaded, const std::string& path);

/// Takes out of `art` what `accept:` of its clip, or at the top of a file, says is meant so, and out of `logic` those
/// `accept:` that were of use for that, which logic alone takes for idle.
void honour_accepts(const MachineDef& definition, std::vector<Finding>& art, std::vector<ProvedFinding>& logic);

}  // namespace mobrin
