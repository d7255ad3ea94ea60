// The files of a new project, as texts.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "mobrin/core/parts.hpp"

namespace mobrin::cli {

// What a first character does.
enum Role : std::uint8_t { stand, move, act, hurt, down };
inline constexpr std::array<std::string_view, 5> kRoles{"stand", "move", "act", "hurt", "down"};

// For each role the clip whose name says that it shows it, each clip for one; empty for none.
[[nodiscard]] std::array<std::string, kRoles.size()> clips_for_roles(const std::vector<ClipDef>& clips);

struct Project {
  std::string name;                              // of machine, files, class and target
  std::array<std::string, kRoles.size()> shows;  // the clip of each role
  std::array<ClipInfo, kRoles.size()> clips;     // those clips
  bool more_clips = false;                       // the art has others too
};

// Names and texts of all files but the clips file and the art.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> project_files(const Project& project);

}  // namespace mobrin::cli
