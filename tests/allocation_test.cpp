// A step allocates nothing: every allocation of this program is counted.
#include <gtest/gtest.h>

#include <array>
#include <cstdlib>
#include <new>

#include "mobrin/contact/contacts.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/router.hpp"
#include "random_machine.hpp"

namespace {
long allocations = 0;
void* counted(std::size_t size) {
  ++allocations;
  void* memory = std::malloc(size);
  if (memory == nullptr) std::abort();
  return memory;
}
}  // namespace

void* operator new(std::size_t size) { return counted(size); }
void* operator new[](std::size_t size) { return counted(size); }
void* operator new(std::size_t size, std::align_val_t alignment) {
  ++allocations;
  const auto to = static_cast<std::size_t>(alignment);
  void* memory = std::aligned_alloc(to, (size + to - 1) / to * to);
  if (memory == nullptr) std::abort();
  return memory;
}
void operator delete(void* memory, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete[](void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete[](void* memory, std::size_t) noexcept { std::free(memory); }

namespace mobrin::test {
namespace {

TEST(Allocation, TheCounterCounts) {
  const long before = allocations;
  int* volatile one = new int(1);  // volatile, so that no compiler leaves the pair out
  delete one;
  struct alignas(64) Wide {
    char bytes[64];
  };
  Wide* volatile wide = new Wide;
  delete wide;
  EXPECT_EQ(allocations, before + 2);
}

TEST(Allocation, AStepAllocatesNothing) {
  int sound = 0;
  std::uint64_t told = 0;
  for (std::uint32_t seed = 0; sound < 100; ++seed) {
    const Compiled compiled = compile(RandomMachine(seed).make());
    if (!compiled.machine) continue;
    ++sound;
    const Machine& machine = *compiled.machine;
    const auto v = *machine.input<float>("v");
    const auto n = *machine.input<std::int32_t>("n");
    const auto p = *machine.pulse("p");
    Router router(machine);
    ASSERT_TRUE(router.on_kind("kind", [&](const Cue& cue) { told += cue.number("amount").has_value() ? 1 : 0; }));
    Instance instance(machine);
    CueList<8> cues;
    const long before = allocations;
    for (int i = 0; i < 60; ++i) {
      instance.set(v, static_cast<float>(i % 7) - 3);
      instance.set(n, i % 3);
      if (i % 5 == 0) instance.pulse(p);
      instance.advance(milliseconds(16), router);
      static_cast<void>(instance.advance(milliseconds(1), cues));
      cues.clear();
      told += instance.shown().nothing() ? 0 : 1;
      if (i == 30) instance.freeze(milliseconds(5));
      if (i == 40) instance.reset();
    }
    EXPECT_EQ(allocations, before) << "seed " << seed;
  }
  EXPECT_GT(told, 1000u);
}

TEST(Allocation, AStepOfACrowdAllocatesNothing) {
  int sound = 0;
  std::size_t told = 0;
  for (std::uint32_t seed = 0; sound < 60; ++seed) {
    const Compiled compiled = compile(RandomMachine(seed).make());
    if (!compiled.machine) continue;
    ++sound;
    const Machine& machine = *compiled.machine;
    const auto v = *machine.input<float>("v");
    Crowd crowd(machine);
    CrowdCues cues;
    crowd.reserve(50);
    cues.reserve(200'000);
    std::array<float, 50> values{};
    std::array<CrowdShown, 50> shown;
    std::vector<std::byte> snapshot;
    snapshot.reserve(100'000);
    for (int i = 0; i < 50; ++i) crowd.add();
    crowd.advance(Ticks(0), cues);
    const long before = allocations;
    for (int i = 0; i < 30; ++i) {
      values[static_cast<std::size_t>(i)] = static_cast<float>(i % 7) - 3;
      crowd.set_all(v, values);
      cues.clear();
      crowd.advance(milliseconds(16), cues);
      crowd.shown_all(shown);
      crowd.snapshot(snapshot);
      told += cues.size();
      if (i == 20) crowd.remove(crowd.at(7));
      if (i == 22) crowd.add();
    }
    EXPECT_EQ(allocations, before) << "seed " << seed;
  }
  EXPECT_GT(told, 1000u);
}

TEST(Allocation, ContactsAllocateNothingOnceTheyHaveGrown) {
  TagNames tags;
  Contacts contacts(tags);
  std::array<PlainBox, 2> boxes{PlainBox{true, CircleShape{0, 0, 32}, 32},
                                PlainBox{false, RectShape{-16, 0, 32, 32}, 32}};
  long before = 0, hits = 0;
  for (std::uint32_t step = 0; step < 3000; ++step) {
    if (step == 2000) before = allocations;
    boxes[0].swing = step / 10;  // a new swing now and then, so that old ones are forgotten
    contacts.begin(Ticks(0), milliseconds(16));
    for (std::uint32_t i = 0; i < 12; ++i) {
      Participant who{i};
      who.from.at = who.to.at = {0.3 * i, 0};
      contacts.add(who, boxes);
    }
    contacts.resolve([&](const Hit&) { return ++hits, HitAnswer::lives; });
  }
  EXPECT_GT(hits, 10'000);
  EXPECT_EQ(allocations, before);
}

}  // namespace
}  // namespace mobrin::test
