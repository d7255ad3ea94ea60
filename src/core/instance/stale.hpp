// Says, in builds with asserts, that something of another machine was used, as happens after a reload.
#pragma once

#include <string_view>

#include "mobrin/core/machine.hpp"

namespace mobrin::detail {

// `what` was made for another machine than `machine`, for which it is used. Nothing where asserts are off.
void tell_stale(std::string_view what, const Machine& machine);
// Says, once a program, that floating-point numbers are not computed as everywhere else. Nothing where asserts are off.
void check_floats();

}  // namespace mobrin::detail
