// The doors by which something from outside comes in, each as one function over bytes: for fuzzers, and for the files
// that fuzzers found (tests/corpus/).
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace mobrin::fuzz {

struct Door {
  const char* name;
  void (*open)(std::span<const std::uint8_t> bytes);
};
// Each aborts where something is not as it must be; else it comes back, whatever the bytes are.
[[nodiscard]] std::span<const Door> doors();

}  // namespace mobrin::fuzz
