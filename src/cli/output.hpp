// Where a command writes: the ending says what it is, and nothing of another kind is written over.
#pragma once

#include <initializer_list>
#include <string>
#include <string_view>

#include "mobrin/io/load.hpp"

namespace mobrin::cli {

// Whether `path` can be written to as what its ending says; else says why, with what to write instead. `option` is how
// it was given (`-o`), `endings` those the command can write (`.png`), `loaded` the files it reads: neither they nor
// their art are written over, nor is a file of another kind than the ending's. What is no plain file may be anything.
[[nodiscard]] bool can_write(const std::string& option, const std::string& path,
                             std::initializer_list<std::string_view> endings, const Loaded* loaded = nullptr);

}  // namespace mobrin::cli
