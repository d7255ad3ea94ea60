// Marks follow their pictures: what a changed clip means for whatever stands on its frames and times, in any file.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/time.hpp"

namespace mobrin::io {

// What has become of a clip's frames.
struct FramesChange {
  std::string clip{};
  std::string renamed{};               // empty: it keeps its name
  std::vector<std::int32_t> from{};    // of each frame now, which it was; -1 for a new one
  std::vector<std::int32_t> to{};      // of each frame before, which it is; -1 for one that is gone
  std::vector<Ticks> before{}, now{};  // the frames' borders: one more than frames
  std::vector<std::string> gone{};     // the picture of each frame before, for messages

  [[nodiscard]] bool changes() const;
};

struct FollowedMarks {
  std::string text{};
  std::vector<std::string> moves{};   // `keeper.marks.yaml:5: the cue net_out of "net" goes from 3 to 4`
  std::vector<std::string> losses{};  // what stood on a picture that is gone
};

// A file's text with the marks of one clip (and poses and windows of transitions written as its frames) where they
// belong now; the rest byte for byte. What cannot be done in the file is among the losses.
[[nodiscard]] FollowedMarks follow_marks(const std::string& path, const std::string& text, const FramesChange& change);

}  // namespace mobrin::io
