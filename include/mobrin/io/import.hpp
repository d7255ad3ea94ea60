// Importing art: from images to a clips file, and again when the art changes, with all that people added going with the
// pictures it belongs to.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/finding.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// How a sheet is divided into equal cells. Pixels.
struct SheetGrid {
  std::int32_t width = 0;                                    ///< of a cell, in pixels: 1 to 65,536
  std::int32_t height = 0;                                   ///< of a cell, in pixels: 1 to 65,536
  std::int32_t margin = 0;                                   ///< around all cells, in pixels: 0 to 65,536
  std::int32_t spacing = 0;                                  ///< between two cells, in pixels: 0 to 65,536
  std::optional<std::int32_t> count{};                       ///< only the first so many cells, row by row
  std::vector<std::pair<std::int32_t, std::string>> rows{};  ///< row (from 0) and clip; none: all cells are one clip
};

/// What is imported, and how.
struct ImportOptions {
  std::vector<std::string> sources{};  ///< folders, images, glTF files, descriptions of packed sheets
  std::string out{};                   ///< the clips file; paths in it are relative to its folder
  std::optional<SheetGrid> grid{};     ///< the sources are sheets
  std::string extract{};               ///< a folder for the frames of animated images as PNG files; empty: none
  bool tracks = false;                 ///< of glTF files also what moves, as `tracks_text`
  std::optional<Fraction> fps{};   ///< of all clips but those whose art says its timing; else as the file says, else 12
  std::optional<PlayMode> play{};  ///< likewise; else once
  /// Of single clips, whatever their art or the file says.
  struct OfClip {
    std::string clip{};              ///< its name
    std::optional<PlayMode> play{};  ///< how it plays
    std::optional<Fraction> fps{};   ///< its rate
  };
  std::vector<OfClip> clips{};        ///< each clip once
  bool as_new = false;                ///< clips under another name are new ones, whatever their pictures
  std::vector<std::string> beside{};  ///< machines and characters elsewhere whose marks stand on these clips
  std::function<void(std::size_t done, std::size_t all)> progress{};  ///< called now and then
};

/// Frames of an animated image that become pictures of their own: see ImportOptions::extract.
struct TakenOut {
  std::string source{};                 ///< the animated image
  std::vector<std::string> pictures{};  ///< a path for each of its frames, in order
};

/// What an import came to; nothing is written yet.
struct Imported {
  std::vector<ClipDef> clips{};       ///< all clips, in the file's order
  std::vector<Finding> findings{};    ///< what is wrong with the art or the file
  std::vector<std::string> notes{};   ///< what was decided on the way, for people
  std::vector<std::string> moves{};   ///< what stands on other frames now, in whatever file
  std::vector<std::string> losses{};  ///< what somebody wrote that goes with a picture that is gone, or cannot follow
  std::string text{};                 ///< the clips file
  std::vector<std::pair<std::string, std::string>> others{};  ///< other files that change (paths and texts): marks
  std::string tracks_text{};          ///< a file of marks with the tracks of the clips; empty without any
  std::vector<TakenOut> taken_out{};  ///< what write_pictures() writes
};

/// Looks at the sources and makes the clips file's text; writes nothing. Files are known by their content. Images of a
/// folder make clips by what their names have in common, in the order of their numbers; sub-folders prefix them. The
/// pictures of a packed sheet count as such images, by their names. An animated image (GIF, APNG) makes a clip with its
/// own delays, exactly: holds over a common rate, or times; a frame that asks for less than 1 ms gets 100 ms. Each
/// animation of a glTF 2.0 file makes a clip of the length from its first key to its last.
///
/// The file at `out` is changed where the art has, and is else byte for byte what it was: other keys, comments, clips
/// of other sources. Pictures are known again by their names and pixels (`prints:` in the file), so holds, times, an
/// order of one's own and pictures left out stay with them, and so do marks, poses and windows on frames in all files
/// beside the clips file whose machines use it; what stood on a picture that is gone is a loss. A clip whose pictures
/// are all those of one that is gone has been renamed. What is doubtful is a finding, never a silent choice; of what is
/// wrong no clip is made.
[[nodiscard]] Imported import_art(const ImportOptions& options);

/// Writes the pictures that were taken out of animated images, where they are not there already, and makes their
/// folder. An error says which cannot be written, or which source can no longer be read.
[[nodiscard]] Outcome write_pictures(const Imported& imported);

/// Whether a file (.json, .yaml) describes a packed sheet: it parses, and says `rects:` beside `image:`.
[[nodiscard]] bool is_packed_sheet(const std::string& path);

}  // namespace mobrin
