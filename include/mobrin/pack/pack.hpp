// Pack: a compiled machine as bytes. Small to ship, fast to load, refused where damaged.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// How a machine is packed.
struct PackOptions {
  /// Names of states, regions, inputs, cues and their fields, traits, windows, variables and choices, and the words of
  /// transitions. Without them handles come from indices (see handle_at, which generated headers use), and logs and
  /// pictures are of little use. Names that games look art, boxes and reaches up by stay.
  bool names = true;
};

/// A machine as a pack (docs/pack.md has its grammar): the same bytes for the same machine on every computer.
[[nodiscard]] std::vector<std::byte> pack(const Machine& machine, PackOptions options = {});

/// Loads a pack from memory, which may be freed afterwards. Linear in its size; allocates; throws nothing. Every size
/// and index is checked before it is used: bytes that are no sound pack of this version are refused with the reason.
/// `fits` is the interface a game was built against (see interface_of), 0 for any: another one is refused.
[[nodiscard]] Result<Machine> load_pack(std::span<const std::byte> bytes, std::uint64_t fits = 0);

/// What handles depend on, as a number: names, kinds, ranges and choices of inputs, names of states, cues, their fields
/// and traits, in their order. Never 0. A machine loaded from a pack without names has that of the one it was packed
/// from in its pack only.
[[nodiscard]] std::uint64_t interface_of(const Machine& machine);

/// Not for users: what a machine's handles carry.
[[nodiscard]] std::uint32_t serial_of(const Machine& machine);
/// Not for users: handles by index, for generated headers whose pack has been found to fit. T is a handle's type.
/// REQUIRES: the machine has such a thing there.
template <class T>
[[nodiscard]] T handle_at(const Machine& machine, std::uint16_t index) {
  return {serial_of(machine), index};
}

/// Whether header_text() takes it as the name of a class: letters, digits and strokes, none of the language's own
/// words.
[[nodiscard]] bool is_cpp_name(std::string_view name);

/// A header for C++ games, and the pack as a table in it.
struct HeaderOptions {
  std::string name{};    ///< the class; a C++ name
  std::string source{};  ///< the machine's file, for the comment
  bool names = true;     ///< see PackOptions
};
/// The text of a header with one class that holds the machine and a handle for each input, state, cue, trait and
/// choice, so that a misspelt name does not compile. The error names what cannot be a C++ name.
[[nodiscard]] Result<std::string> header_text(const Machine& machine, const HeaderOptions& options);

}  // namespace mobrin
