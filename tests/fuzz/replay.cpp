// Opens doors with files, each in a folder that is named after its door: what fuzzers have found, and seeds.
//   mobrin_corpus FOLDER...
//   mobrin_corpus --doors     their names
//   mobrin_corpus --random DOOR COUNT [SEED]   opens one so many times with bytes of chance
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

#include "doors.hpp"

namespace {

int open_at_random(const std::string& name, unsigned long count, unsigned long seed) {
  for (const mobrin::fuzz::Door& door : mobrin::fuzz::doors()) {
    if (door.name != name) continue;
    for (unsigned long i = 0; i < count; ++i) {
      std::mt19937 random(static_cast<std::uint32_t>(seed + i));
      std::vector<std::uint8_t> bytes(50 + random() % 700);
      for (std::uint8_t& each : bytes) each = static_cast<std::uint8_t>(random());
      std::fprintf(stderr, "%lu\r", seed + i);  // the last one, where it does not come back
      door.open(bytes);
    }
    std::printf("%s: opened %lu times\n", door.name, count);
    return 0;
  }
  std::fprintf(stderr, "There is no door \"%s\"; see --doors.\n", name.c_str());
  return 1;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc > 1 && std::strcmp(argv[1], "--doors") == 0) {
    for (const mobrin::fuzz::Door& door : mobrin::fuzz::doors()) std::puts(door.name);
    return 0;
  }
  if (argc > 3 && std::strcmp(argv[1], "--random") == 0)
    return open_at_random(argv[2], std::strtoul(argv[3], nullptr, 10),
                          argc > 4 ? std::strtoul(argv[4], nullptr, 10) : 0);
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
