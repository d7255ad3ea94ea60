// Findings about art: what is well-formed and still a mistake, seen in the pixels.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "mobrin/core/parts.hpp"

namespace mobrin {

/// A frame's pixels where they lie: four bytes each (red, green, blue, alpha).
struct FramePixels {
  const std::uint8_t* rgba = nullptr;   ///< of its top left
  std::int32_t width = 0;               ///< pixels
  std::int32_t height = 0;              ///< pixels
  std::int32_t stride = 0;              ///< pixels from one row to the next
  std::shared_ptr<const void> owner{};  ///< keeps them alive; may be empty where something else does
};

/// Gives the pixels of a frame, empty where there are none. It is asked for frame after frame, clip after clip, and at
/// most three frames are held at a time.
using FrameSource = std::function<std::optional<FramePixels>(const FrameArt& art)>;

/// The usual mistakes: a loop whose last frame is its first again, neighbours that are equal, a clip of one picture
/// only, empty frames, frames of several sizes, a rate too high for few frames, marks on a clip that no state plays, a
/// pivot that some clips have and this one lacks, a box that lies outside of the picture in all its frames (or, of the
/// role `hurt`, over nothing that is drawn), pictures that are opaque with one colour around what they show. A frame
/// that shows nearly what the others of its clip do, at least 3 pixels (or a 24th of the figure) beside it, and frames
/// that go back and forth so: silhouettes are laid on one another; a hint where the clip does not loop. A look whose
/// pictures stand at least 2 pixels beside those they stand in for, show nothing, or nothing else. Then what jumps from
/// clip to clip: where the feet are, measured against the pivot (without pivots: against the image's lower
/// edge and middle). The ground line of a clip is the lowest row with a visible pixel in any frame; the feet's middle
/// is that of the lowest quarter of its first frame. Most clips of a machine agree; one that is off by more than a
/// twentieth of the frame's height (or a quarter of the figure's width) is told. The ground is compared where at least
/// half of the clips stand on their pivots. Clips marked `airborne` are left out. Each at the place of the clip,
/// the box or the look.
/// Pixels are compared as seen: where alpha is 0, colour does not count. `plays` false: a file of clips alone, of which
/// no state plays any; then neither cues nor jumps are looked at.
[[nodiscard]] std::vector<Finding> art_findings(const Machine& machine, const FrameSource& source, bool plays = true);

}  // namespace mobrin
