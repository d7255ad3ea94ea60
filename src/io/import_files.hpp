// The files whose marks stand on the clips of a clips file.
#pragma once

#include <map>
#include <string>
#include <vector>

namespace mobrin::io {

struct FileOfMarks {
  std::string path;
  std::string text;
  // Clips whose marks here also stand on a clip of another file; with that file.
  std::map<std::string, std::string> shared{};
};

// The clips file itself, and of the machines and characters beside it (in its folder and below, in the two folders
// above, and those named) that use it all files with marks or states; a file of marks named like it, too.
[[nodiscard]] std::vector<FileOfMarks> files_of_marks(const std::string& clips, const std::vector<std::string>& beside);

}  // namespace mobrin::io
