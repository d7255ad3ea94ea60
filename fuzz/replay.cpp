// Opens doors with files, each in a folder that is named after its door: what fuzzers have found, and seeds. Each must
// come back within a second (five under sanitizers).
//   mobrin_corpus FOLDER...
#include <chrono>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <vector>

#include "doors.hpp"

int main(int argc, char** argv) {
  int files = 0, slow = 0;
  for (int i = 1; i < argc; ++i)
    for (const auto& each : std::filesystem::recursive_directory_iterator(argv[i])) {
      if (!each.is_regular_file()) continue;
      for (const mobrin::fuzz::Door& door : mobrin::fuzz::doors()) {
        if (each.path().parent_path().filename() != door.name) continue;
        std::ifstream in(each.path(), std::ios::binary);
        const std::vector<char> bytes((std::istreambuf_iterator<char>(in)), {});
        std::vector<std::uint8_t> data(bytes.size());
        if (!bytes.empty()) std::memcpy(data.data(), bytes.data(), bytes.size());
        std::fprintf(stderr, "%s\n", each.path().c_str());  // the last one, where it does not come back
        const auto begin = std::chrono::steady_clock::now();
        door.open(data);
        const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
#ifdef MOBRIN_SANITIZED
        const double most = 5;
#else
        const double most = 1;
#endif
        if (took > most) std::printf("%s takes %.1f s\n", each.path().c_str(), took), ++slow;
        ++files;
      }
    }
  std::printf("%d files, %d slow\n", files, slow);
  return files > 0 && slow == 0 ? 0 : 1;
}
