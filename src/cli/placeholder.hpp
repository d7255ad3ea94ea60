// Stand-ins for pictures that are not drawn yet.
#pragma once

#include <string_view>

#include "mobrin/io/image.hpp"

namespace mobrin::cli {

// How many frames the stand-in for a role has; 0 for none of the five (`stand`, `move`, `act`, `hurt`, `down`).
[[nodiscard]] int placeholder_frames(std::string_view role);
// One of them, `size` pixels wide and high: a small beekeeper.
[[nodiscard]] Image draw_placeholder(std::string_view role, int frame, int size);

}  // namespace mobrin::cli
