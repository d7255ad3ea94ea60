// Clip sheets: every frame of a clip with its number, seconds, hold, cues, boxes and pivot, as a picture.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// How a sheet of clips is drawn.
struct SheetOptions {
  std::vector<std::string> clips{};                               ///< names; empty for all
  std::string art_folder{};                                       ///< where images are looked up, with its slash
  std::optional<std::pair<std::int32_t, std::int32_t>> frames{};  ///< only these, both included
  std::string ghost{};                        ///< a clip that shows faintly under each frame, pivot on pivot
  std::optional<std::int32_t> ghost_frame{};  ///< which of its frames; else the one of the same number, round and round
  std::string look{};                         ///< a look of the machine, whose art is drawn
  double zoom = 0;                            ///< image pixels to picture pixels, 0.1 to 64; 0: chosen by size
  bool dark = false;                          ///< light on dark
};

/// Draws the clips under each other and writes them to `path`, an SVG if that is its ending, else a PNG. An ending
/// .apng makes a film of one clip at its exact timing (a clip that plays once comes again and again), its frame framed
/// in the cues' colour where it tells one. The pivots of a clip's frames lie at one place of their cells, so what jumps
/// is seen to jump. Art that cannot be read is drawn as a crossed box and named in the result: the messages say which
/// and why. An unknown clip, a frame that is not there and an unwritable path are errors.
[[nodiscard]] Result<std::vector<std::string>> draw_sheet(const Machine& machine, const SheetOptions& options,
                                                          const std::string& path);

}  // namespace mobrin
