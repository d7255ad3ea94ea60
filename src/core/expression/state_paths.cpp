// States by the ends of their paths: what an expression or a rule may have meant.
#include <algorithm>

#include "expression/expression.hpp"

namespace mobrin::detail {

std::string path_ending_in(std::string_view name, std::span<const std::string> paths) {
  const std::string end = "/" + std::string(name);
  const auto found =
      std::find_if(paths.begin(), paths.end(), [&](const std::string& each) { return each.ends_with(end); });
  return found != paths.end() ? *found : std::string();
}

std::string state_in_region(std::string_view name, std::span<const std::string> paths) {
  const auto is_state = [&](std::string_view path) {
    return std::find(paths.begin(), paths.end(), path) != paths.end();
  };
  for (const std::string& each : paths) {
    const std::string_view around = std::string_view(each).substr(0, std::min(each.rfind('/'), each.size()));
    const bool named = around == name || around.ends_with("/" + std::string(name));
    if (named && around.size() < each.size() && !is_state(around)) return each;
  }
  return {};
}

}  // namespace mobrin::detail
