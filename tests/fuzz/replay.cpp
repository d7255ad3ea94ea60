// Opens doors with files, each in a folder that is named after its door: what fuzzers have found, and seeds.
//   mobrin_corpus FOLDER...
//   mobrin_corpus --doors     their names
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <vector>

#include "doors.hpp"

int main(int argc, char** argv) {
  if (argc > 1 && std::strcmp(argv[1], "--doors") == 0) {
    for (const mobrin::fuzz::Door& door : mobrin::fuzz::doors()) std::puts(door.name);
    return 0;
  }
  int files = 0;
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
        door.open(data);
        ++files;
      }
    }
  std::printf("%d files\n", files);
  return files > 0 ? 0 : 1;
}
