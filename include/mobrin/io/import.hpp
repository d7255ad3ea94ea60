// Importing art: from images to a clips file. What people add to clips (marks) lies elsewhere and is never touched.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/finding.hpp"

namespace mobrin {

/// How a sheet is divided into equal cells. Pixels.
struct SheetGrid {
  std::int32_t width = 0, height = 0;                        ///< of a cell
  std::int32_t margin = 0;                                   ///< around all cells
  std::int32_t spacing = 0;                                  ///< between two cells
  std::optional<std::int32_t> count{};                       ///< only the first so many cells, row by row
  std::vector<std::pair<std::int32_t, std::string>> rows{};  ///< row (from 0) and clip; none: all cells are one clip
};

struct ImportOptions {
  std::vector<std::string> sources{};  ///< folders, images, glTF files
  std::string out{};                   ///< the clips file; paths in it are relative to its folder
  std::optional<SheetGrid> grid{};     ///< the sources are sheets
  std::string extract{};               ///< a folder for the frames of animated images as PNG files; empty: none
  bool tracks = false;                 ///< of glTF files also what moves, as `tracks_text`
  std::optional<Fraction> fps{};       ///< of all clips; else what the file at `out` says of a clip, else 12
  std::optional<PlayMode> play{};      ///< likewise; else once
  std::function<void(std::size_t done, std::size_t all)> progress{};  ///< called now and then
};

struct Imported {
  std::vector<ClipDef> clips{};
  std::vector<Finding> findings{};
  std::vector<std::string> notes{};  ///< what was decided on the way, for people
  std::string text{};                ///< the clips file
  std::string tracks_text{};         ///< a file of marks with the tracks of the clips; empty without any
};

/// Looks at the sources and makes the clips file's text; of files it writes those under `extract` only. Files are known
/// by their content. Images of a folder make clips by what their names have in common, in the order of their numbers;
/// sub-folders prefix them. An animated image (GIF, APNG) makes a clip with its own delays, exactly: holds over a
/// common rate, or times; a frame that asks for less than 1 ms gets 100 ms. Each animation of a glTF 2.0 file makes a
/// clip of the length from its first key to its last. Play modes, and the timing of images that have none of their own,
/// are kept from the file at `out` unless the options say otherwise. What is doubtful is a finding, never a silent
/// choice; of what is wrong no clip is made.
[[nodiscard]] Imported import_art(const ImportOptions& options);

}  // namespace mobrin
