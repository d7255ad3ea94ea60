// Clip sheets: every frame of a clip with its number, seconds, hold, cues and pivot, as a picture.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

struct SheetOptions {
  std::vector<std::string> clips;  ///< names; empty for all
  std::string art_folder;          ///< where images are looked up, with its slash; empty for the current folder
};

/// Draws the clips under each other and writes a PNG to `path`. Art that cannot be read is drawn as a crossed box and
/// named in the result: the messages say which and why. An unknown clip or an unwritable path is an error.
[[nodiscard]] Result<std::vector<std::string>> draw_sheet(const Machine& machine, const SheetOptions& options,
                                                          const std::string& path);

}  // namespace mobrin
