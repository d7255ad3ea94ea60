// Every key of the file format, listed once: the loader, the JSON Schema and docs/format.md derive from this table.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace mobrin::io {

enum class Section : std::uint8_t {
  machine,
  tape,
  input,
  state,
  region,
  go,
  action,
  clip,
  part,
  sheet,
  packed_sheet,
  marks,
  tape_step,
  character,
  box,
  reach,
  cone,
  zone,
  look,
  blend,
  blend_point,
  track,
  scene,
  actor,
  scene_move,
  scene_spawn,
  hit_rule,
  tape_expect,
  claim,
  count
};

struct KeyRow {
  Section section;
  std::string_view key;
  std::string_view type;           // a name of kTypes in schema.cpp
  std::string_view default_value;  // empty: none
  std::string_view text;
};

[[nodiscard]] std::span<const KeyRow> all_keys();
[[nodiscard]] std::string_view name_of(Section section);
[[nodiscard]] const std::vector<std::string>& keys_of(Section section);
// Whether a word is one of those, each between two spaces.
[[nodiscard]] bool is_among(std::string_view words, std::string_view word);
// The key that is meant by another word for it, such as `if` for `when`; empty where none is known.
[[nodiscard]] std::string_view meant_key(Section section, std::string_view word);
// Where a key belongs that does not belong to `section`, as a sentence; empty where nobody knows.
[[nodiscard]] std::string key_elsewhere(Section section, std::string_view key);
// Which one or two other sections of such a file have a key, as a sentence with a blank behind it; else empty.
[[nodiscard]] std::string key_of_others(Section section, std::string_view key);

}  // namespace mobrin::io
