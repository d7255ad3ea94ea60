// Where what a frame shows stands, against what others of its clip do.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/check/art.hpp"

namespace mobrin::check {

// What can be seen of a frame, and where: in pixels from its pivot, x forward, y down.
class Silhouette {
 public:
  Silhouette() = default;
  Silhouette(const FramePixels& frame, std::pair<double, double> pivot);
  [[nodiscard]] bool empty() const { return seen_.empty(); }
  [[nodiscard]] std::int32_t width() const { return width_; }
  [[nodiscard]] std::int32_t height() const { return height_; }
  // How far `other` shows the same further forward and lower; empty where it does not show nearly the same.
  [[nodiscard]] std::optional<std::pair<std::int32_t, std::int32_t>> moved_to(const Silhouette& other) const;

 private:
  // What both show, of all that one of them does, where `other` is taken so far back: 0 to 1.
  [[nodiscard]] double alike(const Silhouette& other, std::int32_t x, std::int32_t y) const;
  [[nodiscard]] bool at(std::int32_t x, std::int32_t y) const {
    return x >= 0 && y >= 0 && x < width_ && y < height_ &&
           seen_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)];
  }

  std::int32_t left_ = 0, top_ = 0, width_ = 0, height_ = 0;
  std::vector<bool> seen_{};  // row by row, of the part that shows something
};

// "3 pixels further left and 1 pixel lower", of steps along and down.
[[nodiscard]] std::string steps_text(std::int32_t along, std::int32_t down, const std::string& on,
                                     const std::string& back);

// Pixel for pixel, as they are seen: where nothing is, colours do not count.
[[nodiscard]] bool same_pixels(const FramePixels& a, const FramePixels& b);

// Of a machine's looks: pictures that stand beside those they stand in for, show nothing, or nothing else.
void look_findings(const Machine& machine, const FrameSource& source, std::vector<Finding>& findings);

// A frame that shows what the others do, beside it.
struct FrameJump {
  std::size_t frame = 0;
  std::int32_t forward = 0, down = 0;  // pixels
};

// Gathers a clip's frames, one after the other.
class FrameJumps {
 public:
  static constexpr std::size_t kLeastFrames = 4;  // fewer say nothing of each other
  void add(const FramePixels& frame, std::pair<double, double> pivot);
  // Those few that stand beside all the others; none where what is shown changes too much to be compared.
  [[nodiscard]] std::vector<FrameJump> found() const;
  // How far what is shown goes back and forth from frame to frame, in pixels; 0 where it does not.
  [[nodiscard]] std::int32_t shaken() const;
  // Of the frames: pixels.
  [[nodiscard]] std::int32_t width() const { return width_; }
  [[nodiscard]] std::int32_t height() const { return height_; }

 private:
  // What is seen as a jump, in pixels.
  [[nodiscard]] std::int32_t far() const { return std::max(3, size_ / 24); }

  Silhouette before_{};
  std::vector<std::pair<std::int32_t, std::int32_t>> places_{};  // against the first frame
  std::int32_t size_ = 0;                                        // of the largest figure
  std::int32_t width_ = 0, height_ = 0;
  bool lost_ = false;
};

}  // namespace mobrin::check
