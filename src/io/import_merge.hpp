// From what art says to the clips file that was there: what stays, what is new, and what goes with what.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "clips_file.hpp"
#include "mobrin/io/import.hpp"

namespace mobrin::io {

struct FoundArt {
  std::vector<std::filesystem::path> roots;  // what was named, canonical
  std::string before;                        // the clips file's text; empty for a new one
  std::vector<ArtClip> known, found;         // what it says; what the art says
};

// Adds clips, the file's new text, other files' texts, moves, losses and findings to `out`.
void merge_into_file(const ImportOptions& options, FoundArt art, Imported& out);

}  // namespace mobrin::io
