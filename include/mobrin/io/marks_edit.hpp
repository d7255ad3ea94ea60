// Editing marks in a file: what is not edited stays as it is, byte for byte, comments too.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin {

/// One change to the marks of a clip.
struct MarkEdit {
  /// What is changed.
  enum class Kind : std::uint8_t {
    add_cue,        ///< the cue `name` at `place`, after those that are there
    remove_cue,     ///< the cue `name` from `place`
    move_cue,       ///< the cue `name` from `place` to `to`, with the fields it has there
    set_pivot,      ///< `to` is `[22, 38]`
    set_offset,     ///< of the clip, or of the frames `place`; `to` is `[1, 0]`
    set_span,       ///< the span `name` lasts over the frames or times `to`
    remove_span,    ///< the span `name`
    set_window,     ///< the window `name` is the frames or times `to`
    remove_window,  ///< the window `name`
    set_airborne,   ///< `to` is `true` or `false`
    remove_box,     ///< the first box `name`, or with `place` the one of these frames
    add_box,        ///< one more box; `to` is `{name: net, role: hit, frames: 3-4, rect: [10, 10, 18, 14]}`
    set_box,        ///< of the box `index` the key `name` (`frames`, `rect`, `circle`, `role`, ...) is `to`
    split_box,      ///< the box `index` stays as it is for the frames `name`; for `place` its shape (`rect`, as it has
                    ///< one) is `to`
    drop_box,       ///< the box `index`
    set_fields,     ///< the cue `name` at `place`, or without a place the span `name`, has the fields `to`:
                    ///< `{foot: right}`; `{}`: those it is declared with
  };
  Kind kind = Kind::add_cue;  ///< what is changed
  std::string clip{};         ///< the clip's name
  std::string place{};        ///< as a file writes it: `3`, `5.end`, `0.22s`; of offsets `3` or `5-7`
  std::string name{};         ///< of the cue, window, box or track
  std::string to{};           ///< its new name, frame or value, as it stands in a file
  std::size_t index = 0;      ///< of a box, in the order in which the clip's marks list them
};

/// The kind by its name, such as `add_cue`; empty for none.
[[nodiscard]] std::optional<MarkEdit::Kind> mark_edit_kind(std::string_view name);

/// The text of a file of marks (or of any file that holds `marks:`; empty text is a new one) after one change. YAML and
/// JSON. Entries that are missing on the way (`marks:`, the clip) are made. The error says why nothing was changed:
/// there is no such cue, it is there already, the text is no YAML, or it is written in a way that this cannot edit
/// (aliases, for one). The result was read again and differs from the text in that one place only. Whether names and
/// frames exist is not looked at.
[[nodiscard]] Result<std::string> edit_marks(std::string_view text, const MarkEdit& edit);

/// The text `into`, a file of a character, with the marks of a clip as `from` has them: as its own they stand in for
/// the machine's, whole. The error: `from` has none, or `into` has some already.
[[nodiscard]] Result<std::string> copy_marks(std::string_view from, std::string_view into, const std::string& clip);

/// Where a clip's marks are, or where new ones go: the file that has them, else the one file of the machine that is
/// called marks, else `file` itself, which `loaded` was loaded from.
[[nodiscard]] std::string file_of_marks(const Loaded& loaded, const std::string& file, const std::string& clip);

}  // namespace mobrin
