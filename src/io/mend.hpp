// Mistakes in how a file is written that YAML does not see, or sees as something else: told once each, and then read as
// they are meant, so that nothing that hangs on them is told as well.
#pragma once

#include "reader.hpp"

namespace mobrin::io {

// Adds colons, and spaces behind them, that are missing: `{at 2s}`, `{at:2s}`, `swing {pulse: 110ms}`.
void add_colons(Reader& reader, YamlNode& node);

// Puts what is plainly meant for another section there, as where a line lost its indentation or a heading is gone.
// REQUIRES: a file's top level.
void put_in_place(Reader& reader, YamlNode& root);

// Joins what stands under one key twice.
void join_repeated(Reader& reader, YamlNode& root);

}  // namespace mobrin::io
