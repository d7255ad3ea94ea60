// What the page knows of a cast before anything runs, as JSON, and its art packed into sheets.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "mobrin/live/session.hpp"

namespace mobrin::live {

struct Tables {
  std::string json;
  std::vector<std::shared_ptr<const std::string>> sheets;  // PNG files
  std::vector<std::string> sounds;                         // paths
};

// `files`: as the page numbers them. Reads the art; what cannot be read is left out.
[[nodiscard]] Tables tables_of(const Cast& cast, const std::vector<std::string>& files);

// The machines of a cast by the files that name them, in the order of the tables.
[[nodiscard]] std::vector<std::string> machine_files(const Cast& cast);

}  // namespace mobrin::live
