// Editing clips in a file: their rate, how they play, how long a frame is held. What is not edited stays, byte for
// byte.
#pragma once

#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// One change to a clip.
struct ClipEdit {
  /// What is changed.
  enum class Kind : std::uint8_t {
    rate,  ///< `to` frames a second: `14`, `30000/1001`
    play,  ///< `to` is how it plays: `once`, `loop x3`
    hold,  ///< the frame `frame` is held for `to` frame times, 1 to 1000
  };
  Kind kind = Kind::rate;  ///< what is changed
  std::string clip{};      ///< the clip's name
  std::size_t frame = 0;   ///< index in the clip's own list
  std::string to{};        ///< its new value, as it stands in a file
};

/// The text of a file that holds the clip under `clips:` after one change. YAML and JSON. A range of frames is split
/// where one of them is held for longer. The error says why nothing was changed: the clip is not there, its frames have
/// times of their own, or it is written in a way that this cannot edit. The result was read again and differs from the
/// text in that one place only. Whether it makes sense is for who loads it.
[[nodiscard]] Result<std::string> edit_clip(std::string_view text, const ClipEdit& edit);

/// The file of a machine that defines a clip; `file` itself where none does.
[[nodiscard]] std::string file_of_clip(const Loaded& loaded, const std::string& file, const std::string& clip);

}  // namespace mobrin
