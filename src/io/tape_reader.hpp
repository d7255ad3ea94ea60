// Reading steps of tapes, which scenes have too.
#pragma once

#include "mobrin/io/load.hpp"
#include "reader.hpp"

namespace mobrin::io {

// A duration from 0, or `{ticks: N}` as a recorder writes it.
[[nodiscard]] std::optional<Ticks> read_instant(Reader& reader, const YamlNode& node, std::string_view what);
void read_steps(Reader& reader, const YamlNode& node, Tape& tape);

}  // namespace mobrin::io
