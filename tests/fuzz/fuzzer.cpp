// One fuzzer for all doors: MOBRIN_DOOR names the one that is open.
#include <cstdio>
#include <cstdlib>
#include <string_view>

#include "doors.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const mobrin::fuzz::Door* const door = [] {
    const char* name = std::getenv("MOBRIN_DOOR");
    for (const mobrin::fuzz::Door& each : mobrin::fuzz::doors())
      if (name != nullptr && std::string_view(name) == each.name) return &each;
    std::fputs("MOBRIN_DOOR names no door\n", stderr);
    std::exit(2);
  }();
  door->open({data, size});
  return 0;
}
