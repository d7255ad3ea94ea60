// What definitions do besides holding values. Written here and not in the header, which many sources read.
#include "mobrin/core/definition.hpp"

#include <algorithm>
#include <cstddef>
#include <utility>

namespace mobrin {

Text::Text(const char* words) : text(words) {}
Text::Text(std::string words, Place where) : text(std::move(words)), place(where) {}

ActionDef::ActionDef(const char* assignment) : assign(assignment) {}
ActionDef::ActionDef(Text assignment) : assign(std::move(assignment)) {}

std::vector<FrameDef> plain_frames(std::int32_t count) {
  return std::vector<FrameDef>(static_cast<std::size_t>(std::max(0, count)));
}

std::string PlayMode::text() const {
  const std::string base = kind == PlayKind::once ? "once" : kind == PlayKind::loop ? "loop" : "back-and-forth";
  return kind == PlayKind::once || passes == 0 ? base : base + " x" + std::to_string(passes);
}

}  // namespace mobrin
