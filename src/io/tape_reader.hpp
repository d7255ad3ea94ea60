// Reading steps of tapes, which scenes have too.
#pragma once

#include "mobrin/io/load.hpp"
#include "reader.hpp"

namespace mobrin::io {

// A duration from 0, or `{ticks: N}` as a recorder writes it.
[[nodiscard]] std::optional<Ticks> read_instant(Reader& reader, const YamlNode& node, std::string_view what);
// One, or a list of them.
[[nodiscard]] std::vector<Text> read_pulses(Reader& reader, const YamlNode& node);
// Whether a file has `key` at its top; empty where it cannot be read.
[[nodiscard]] std::optional<bool> has_key(const std::string& path, std::string_view key);
// Whether it does anything to its instance.
[[nodiscard]] bool writes(const TapeStep& step);
void read_steps(Reader& reader, const YamlNode& node, Tape& tape);

}  // namespace mobrin::io
