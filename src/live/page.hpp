// The page's files, as they are in the program.
#pragma once

#include <string_view>

namespace mobrin::live {

struct PageFile {
  std::string_view name, type, bytes;
};

// By its path below the token; null for none.
[[nodiscard]] const PageFile* page_file(std::string_view path);

}  // namespace mobrin::live
