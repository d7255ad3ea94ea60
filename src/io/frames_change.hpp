// What has become of a clip's frames and of places on them, where its art has changed.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/time.hpp"

namespace mobrin::io {

struct FramesChange {
  using Range = std::pair<std::int32_t, std::int32_t>;  // of frames, both included

  std::string clip{};
  std::string renamed{};               // empty: it keeps its name
  std::vector<std::int32_t> from{};    // of each frame now, which it was; -1 for a new one
  std::vector<std::int32_t> to{};      // of each frame before, which it is; -1 for one that is gone
  std::vector<Ticks> before{}, now{};  // the frames' borders: one more than frames
  std::vector<std::string> gone{};     // the picture of each frame before, for messages

  [[nodiscard]] bool changes() const;
  [[nodiscard]] std::int32_t frames_before() const { return static_cast<std::int32_t>(to.size()); }

  // Where a frame is now. Empty where it is gone; one that never was stays.
  [[nodiscard]] std::optional<std::int32_t> frame(std::int32_t was) const;
  // Where these stretches are now: new frames belong to what lies on both sides of them.
  [[nodiscard]] std::vector<Range> ranges(const std::vector<Range>& were) const;
  // Where an instant of the clip's own time is now: it goes with the frame in which it lies. Empty where that is gone.
  // `ending`: of a stretch, so its border belongs to the frame before.
  [[nodiscard]] std::optional<Ticks> time(Ticks was, bool ending) const;
  // The frame in which an instant lay.
  [[nodiscard]] std::int32_t frame_at(Ticks was) const;
};

}  // namespace mobrin::io
