// Expressions about a running instance, for tests and tools.
#pragma once

#include <string_view>

#include "mobrin/core/instance.hpp"

namespace mobrin {

/// Whether a guard's expression is true of an instance as it stands. REQUIRES: the expression compiles in its machine,
/// at its root. Slow: it is read anew each time.
[[nodiscard]] bool expression_holds(const Instance& instance, std::string_view expression);

}  // namespace mobrin
