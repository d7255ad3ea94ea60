// Where names in files may lead.
#include <atomic>
#include <filesystem>

#include "loader.hpp"

namespace mobrin {

namespace {
std::atomic<bool> outside_allowed = false;
}

void allow_outside(bool allow) { outside_allowed = allow; }
bool outside_is_allowed() { return outside_allowed; }

namespace io {

bool Loader::stays(const std::string& folder, const Text& written) {
  if (outside_is_allowed() || written.empty() || written.text.front() == '/') return true;
  // What names nothing above it stays: the folder of a file that is read was looked at when that was named.
  if (written.text.find("..") == std::string::npos) return true;
  const std::filesystem::path path = join(folder, written.text);
  for (const std::string& root : roots_) {
    const std::filesystem::path from = std::filesystem::path(root.empty() ? "." : root).lexically_normal();
    const std::string road = path.lexically_relative(from).generic_string();
    if (!road.empty() && road != ".." && !road.starts_with("../")) return true;
  }
  if (!told_roads_.insert(std::to_string(written.place.file) + folder_of(path.generic_string())).second) return false;
  reader.fail(FindingCode::outside_folder, written.place,
              "\"" + written.text + "\" leads out of the folder of the file that was asked for",
              "Move what it names into the folder, or say that it is meant so: `--allow-outside`.");
  return false;
}

}  // namespace io
}  // namespace mobrin
