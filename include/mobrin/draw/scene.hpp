// Scenes as pictures: the stage at an instant or several, a film, and everybody's lanes over time.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "mobrin/io/scene.hpp"

namespace mobrin {

/// How a stage is drawn.
struct StageOptions {
  bool shapes = true;  ///< boxes in the colours of their roles, zones, names and states
  double zoom = 0;     ///< image pixels to picture pixels, 0.1 to 16; 0: so that the stage fits
  bool dark = false;   ///< light on dark
};

/// Runs the scene and draws the stage at each of `instants` (in order of time), one under the other or side by side, to
/// `path`: an SVG if that is its ending, else a PNG. The result names art that could not be read. An unwritable path is
/// an error. REQUIRES: at least one instant.
[[nodiscard]] Result<std::vector<std::string>> draw_stage(const Scene& scene, const std::vector<Ticks>& instants,
                                                          const StageOptions& options, const std::string& path);

/// The same as an animated PNG with so many pictures a second, from the beginning to the scene's end; it plays for
/// ever.
[[nodiscard]] Result<std::vector<std::string>> draw_film(const Scene& scene, int fps, const StageOptions& options,
                                                         const std::string& path);

/// How lanes are drawn.
struct LanesOptions {
  bool dark = false;          ///< light on dark
  Ticks from{};               ///< what is before it has happened and is not drawn
  std::optional<Ticks> to{};  ///< above `from`; empty: the scene's end
};

/// The scene over time: for each actor its states, variables and cues as flags; hits from who hit to who was hit; who
/// is in which zone; what was spawned. An SVG if that is the path's ending, else a PNG.
[[nodiscard]] Outcome draw_scene(const Scene& scene, const std::string& path, const LanesOptions& options);

}  // namespace mobrin
