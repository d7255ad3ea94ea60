// Findings in SARIF 2.1.0, for code-review tools and editors.
#pragma once

#include <vector>

#include "json.hpp"
#include "mobrin/core/finding.hpp"

namespace mobrin::cli {

[[nodiscard]] Json sarif_of(const std::vector<Finding>& findings);

}  // namespace mobrin::cli
