// Expressions about a running instance, for tests and tools.
#pragma once

#include <string_view>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin {

/// What an expression gives of an instance as it stands: a bool as 0 or 1, a choice as its index. REQUIRES: the
/// expression compiles in its machine, at its root. Slow: it is read anew each time.
[[nodiscard]] double expression_value(const Instance& instance, std::string_view expression);
/// Whether a guard's expression is true. REQUIRES and cost as above.
[[nodiscard]] bool expression_holds(const Instance& instance, std::string_view expression);
/// The inputs and variables that an expression reads, each once and in its order, with what they hold: of a pulse
/// whether it waits.
[[nodiscard]] std::vector<FieldDef> expression_reads(const Instance& instance, std::string_view expression);

}  // namespace mobrin
