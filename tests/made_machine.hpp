// The kinds of random machines.
#pragma once

#include "counting_machine.hpp"
#include "random_machine.hpp"
#include "wider_machine.hpp"

namespace mobrin::test {

// The others have regions side by side, or loops, ways back and a variable that counts, or use everything that
// expressions have.
enum class Made : std::uint8_t { plain, with_regions, with_regions_apart, counting, wider };

inline MachineDef made(Made kind, RandomMachine& random) {
  switch (kind) {
    case Made::plain:
      break;
    case Made::with_regions:
      return random.make_with_regions();
    case Made::with_regions_apart:
      return random.make_with_regions_apart();
    case Made::counting:
      return CountingMachine(random).make();
    case Made::wider:
      return WiderMachine(random).make();
  }
  return random.make();
}
// All kinds in turn, and every other one plain.
inline MachineDef made(std::uint32_t seed, RandomMachine& random) {
  return made(seed % 2 == 0 ? Made::plain : static_cast<Made>(1 + seed / 2 % 4), random);
}
inline MachineDef made(std::uint32_t seed, RandomMachine&& random) { return made(seed, random); }

// Of tests that have a Made as their parameter.
struct NameOfMade {
  template <class Info>
  std::string operator()(const Info& info) const {
    constexpr const char* kNames[] = {"Plain", "WithRegions", "WithRegionsApart", "Counting", "Wider"};
    return kNames[static_cast<std::size_t>(info.param)];
  }
};
inline constexpr NameOfMade name_of_made;

}  // namespace mobrin::test
