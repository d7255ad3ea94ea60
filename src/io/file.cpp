#include "mobrin/io/file.hpp"

#include <filesystem>
#include <fstream>

namespace mobrin {
namespace {

bool write_bytes(const std::string& path, std::string_view bytes) {
  std::ofstream out(path, std::ios::binary);
  out.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
  out.close();
  return static_cast<bool>(out);
}

}  // namespace

Outcome write_file(const std::string& path, std::string_view bytes) {
  namespace fs = std::filesystem;
  const Error unwritable{"\"" + path + "\" cannot be written; check its folder, the permissions and the room left", ""};
  std::error_code error;
  // A link stays one: the file that it leads to is written.
  const fs::path file = fs::is_symlink(path, error) ? fs::weakly_canonical(path, error) : fs::path(path);
  if (fs::exists(file, error) && !fs::is_regular_file(file, error))
    return write_bytes(path, bytes) ? Outcome(Done{}) : unwritable;
  const std::string part = file.string() + ".part";
  bool done = write_bytes(part, bytes);
  if (done) {
    fs::rename(part, file, error);
    done = !error;
  }
  if (done) return Done{};
  fs::remove(part, error);
  return unwritable;
}

}  // namespace mobrin
