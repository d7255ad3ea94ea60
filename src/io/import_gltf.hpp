// Import: what becomes of a glTF file's animations.
#pragma once

#include <string>
#include <vector>

#include "import_merge.hpp"
#include "mobrin/io/gltf.hpp"

namespace mobrin::io {

struct GltfClips {
  std::vector<ArtClip> clips{};  // known by their lengths; `source` is left empty
  std::vector<ClipMarksDef> tracks{};
  std::vector<Finding> findings{};
  std::vector<std::string> notes{};
};

// A clip for each animation of the file `shown`; `folder` stands before their names where it is not empty.
[[nodiscard]] GltfClips clips_of_gltf(const std::string& shown, const std::vector<GltfAnimation>& animations,
                                      const std::string& folder, bool with_tracks);

}  // namespace mobrin::io
