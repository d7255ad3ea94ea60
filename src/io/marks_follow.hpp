// Marks follow their pictures: what a changed clip means for whatever stands on its frames and times, in any file.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "frames_change.hpp"

namespace mobrin::io {

struct FollowedMarks {
  std::vector<std::string> moves{};   // `keeper.marks.yaml:5: the cue net_out of "net" goes from 3 to 4`
  std::vector<std::string> losses{};  // what stood on a picture that is gone
};

// Puts the marks of these clips (and poses and windows of transitions written as their frames) into a file's text where
// they belong now; the rest stays byte for byte. For each change in turn what it brings; what cannot be done in the
// file is among the losses.
[[nodiscard]] std::vector<FollowedMarks> follow_marks(const std::string& path, std::string& text,
                                                      std::span<const FramesChange* const> changes);

}  // namespace mobrin::io
