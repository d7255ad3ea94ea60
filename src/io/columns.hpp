// Columns as people count them.
#pragma once

#include <cstddef>
#include <span>
#include <string_view>

#include "mobrin/core/finding.hpp"
#include "yaml_tree.hpp"

namespace mobrin::io {

// Whether a byte of UTF-8 belongs to the character before it.
[[nodiscard]] inline bool goes_on(char byte) { return (static_cast<unsigned char>(byte) & 0xc0) == 0x80; }
// How many characters a text in UTF-8 has.
[[nodiscard]] std::size_t characters(std::string_view text);

// Where a parsed text holds letters of several bytes: columns of a tree and of findings in it, which count bytes, count
// characters afterwards.
void count_characters(std::string_view text, YamlNode& root, std::span<Finding> findings);

}  // namespace mobrin::io
