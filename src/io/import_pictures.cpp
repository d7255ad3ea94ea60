// Writing what an import takes out of animated images.
#include <filesystem>

#include "clip_pictures.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/import.hpp"

namespace mobrin {

Outcome write_pictures(const Imported& imported) {
  namespace fs = std::filesystem;
  for (const TakenOut& each : imported.taken_out) {
    std::error_code made;
    if (!each.pictures.empty()) fs::create_directories(fs::path(each.pictures.front()).parent_path(), made);
    std::size_t next = 0;
    Outcome written = Done{};
    const auto write = [&](const Image& image) {
      if (!written || next == each.pictures.size()) return;
      const std::string& to = each.pictures[next++];
      // What is as it was is not even touched.
      if (io::print_of_file(to) != io::print_of(image, {0, 0, image.width, image.height}))
        written = write_png(image, to);
    };
    if (const auto read = read_animation(each.source, write); !read) return read.error();
    if (!written) return written;
  }
  return Done{};
}

}  // namespace mobrin
