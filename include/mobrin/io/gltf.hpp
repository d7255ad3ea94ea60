// glTF 2.0: the animations of a file, by name and length, and the tracks of what they move.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// One animation. Its keys lie between `first` and `last`, in seconds. The file keeps times as 32-bit numbers: where
/// such a number stands for a whole millisecond or a frame of 24, 30, 60, 72, 90, 120 or 144 a second, it is that.
struct GltfAnimation {
  std::string name{};  ///< as the file says; empty where it has none
  double first = 0;    ///< seconds
  double last = 0;     ///< seconds
  /// Positions of nodes (`lid_x`, `lid_y`, `lid_z`) and weights of their shapes (`lid_weight`, or `lid_weight_0` and so
  /// on), with key times from `first` on. Slopes of cubic tracks are per second, as the file has them. Rotations and
  /// scales make no track.
  std::vector<TrackDef> tracks{};
};

/// Whether a file looks like glTF: its first bytes, or JSON that speaks of an asset.
[[nodiscard]] bool looks_like_gltf(const std::string& path);

/// Reads a .gltf or .glb file of version 2 with its buffers; images and meshes are left alone. Key times are read from
/// the buffers, every one of them. The error says why a file is refused: another version, damaged, a buffer that is
/// missing or too short, key times that fall or are no numbers, an extension it needs.
[[nodiscard]] Result<std::vector<GltfAnimation>> read_gltf(const std::string& path);

}  // namespace mobrin
