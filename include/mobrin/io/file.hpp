// Files, written whole or not at all.
#pragma once

#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"

namespace mobrin {

/// Writes `bytes` as the file at `path`: beside it first (as `path` with `.part`), then over it. The error names the
/// file; what was there before is still there then. What is no plain file (a pipe, a device) is written to as it is.
[[nodiscard]] Outcome write_file(const std::string& path, std::string_view bytes);

}  // namespace mobrin
