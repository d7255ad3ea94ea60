// Editing the shapes of reaches and zones in a machine's file. What is not edited stays, byte for byte.
#pragma once

#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// Another shape for a reach or a zone: one of the kind that it has, with other numbers.
struct ShapeEdit {
  /// What has the shape.
  enum class Of : std::uint8_t { reach, zone };
  Of of = Of::reach;   ///< what has the shape
  std::string name{};  ///< its name
  Shape shape{};       ///< its new shape
};

/// The text of a file that holds it under `reaches:` or `zones:` after the change. YAML and JSON. The error says why
/// nothing was changed: it is not there, has a shape of another kind, or is written in a way that this cannot edit. The
/// result was read again and differs from the text in that one place only. Whether the numbers make sense is for who
/// loads it.
[[nodiscard]] Result<std::string> edit_shape(std::string_view text, const ShapeEdit& edit);

/// The file of a machine that holds the reach or zone; `file` itself where none does.
[[nodiscard]] std::string file_of_shape(const Loaded& loaded, const std::string& file, const ShapeEdit& edit);

}  // namespace mobrin
