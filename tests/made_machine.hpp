// The kinds of random machines.
#pragma once

#include <array>

#include "counting_machine.hpp"
#include "random_machine.hpp"
#include "wider_machine.hpp"

namespace mobrin::test {

// The others have regions side by side, or loops, ways back and a variable that counts, or use everything that
// expressions have.
enum class Made : std::uint8_t { plain, with_regions, with_regions_apart, counting, wider };
inline constexpr std::array kAllMade = {Made::plain, Made::with_regions, Made::with_regions_apart, Made::counting,
                                        Made::wider};

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

// A machine that the compiler takes, of which seed, with the random numbers that come next.
struct SoundMachine {
  std::uint32_t seed;
  RandomMachine random;
  MachineDef definition;
  Machine machine;
};

// The next one, made by `make(seed, random)` of a seed from `next` on, which is the one behind it then: the generators
// make some that are rightly refused.
template <class Make>
SoundMachine next_sound(std::uint32_t& next, const Make& make, bool plain = false) {
  for (;;) {
    const std::uint32_t seed = next++;
    RandomMachine random(seed, plain);
    MachineDef definition = make(seed, random);
    if (const Compiled compiled = compile(definition); compiled.machine)
      return {seed, random, std::move(definition), *compiled.machine};
  }
}
inline SoundMachine next_sound(std::uint32_t& next, Made kind) {
  return next_sound(next, [&](std::uint32_t, RandomMachine& random) { return made(kind, random); });
}
// Of all kinds in turn.
inline SoundMachine next_sound(std::uint32_t& next) {
  return next_sound(next, [](std::uint32_t seed, RandomMachine& random) { return made(seed, random); });
}
// Of those alone that a crowd steps quickly.
inline SoundMachine next_quick(std::uint32_t& next) {
  return next_sound(
      next, [](std::uint32_t, RandomMachine& random) { return random.make(); }, true);
}

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
