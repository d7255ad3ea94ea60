// Where a crowd's members lie: memory from the caller, ranges that cut anywhere, crowds that grow and shrink, clocks
// that have run for months.
#include <algorithm>
#include <array>
#include <cinttypes>
#include <cstdio>
#include <fstream>
#include <map>
#include <memory_resource>
#include <random>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/crowd.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// Gives what the heap gives and knows what is still out.
class Counted : public std::pmr::memory_resource {
 public:
  [[nodiscard]] std::size_t out() const { return out_; }
  [[nodiscard]] int given() const { return given_; }

 private:
  void* do_allocate(std::size_t bytes, std::size_t alignment) override {
    out_ += bytes;
    ++given_;
    return std::pmr::new_delete_resource()->allocate(bytes, alignment);
  }
  void do_deallocate(void* what, std::size_t bytes, std::size_t alignment) override {
    out_ -= bytes;
    std::pmr::new_delete_resource()->deallocate(what, bytes, alignment);
  }
  [[nodiscard]] bool do_is_equal(const memory_resource& other) const noexcept override { return this == &other; }

  std::size_t out_ = 0;
  int given_ = 0;
};

// A bee that hums twice a second, and turns to dancing where `full` is at least 5.
Machine bee() {
  return machine_of(R"(
inputs: {full: {float: 0, min: 0, max: 10}}
cues: {hum: {}, waggle: {}}
clips:
  fly: {frames: [0-3], fps: 8, play: loop}
  dance: {frames: [0-2], fps: 10, play: loop}
marks:
  fly: {cues: {1: hum}}
  dance: {cues: {2: waggle}}
states:
  flying: {clip: fly, go: [{when: full >= 5, to: dancing}]}
  dancing: {clip: dance, go: [{when: full < 4, to: flying}]}
initial: flying
)");
}

std::vector<std::string> told_in(const CrowdCues& cues) {
  std::vector<std::string> out;
  for (const CrowdCue& each : cues) out.push_back(std::to_string(each.place) + " " + record(each.cue));
  return out;
}

TEST(Memory, OfTheProgramsOwnMuchBeginsWithALargePage) {
  constexpr std::size_t kPage = std::size_t{2} << 20;
  for (const std::size_t bytes : {std::size_t{64}, 2 * kPage - 1, 2 * kPage, 2 * kPage + 1, 5 * kPage / 2}) {
    for (const std::size_t alignment : {std::size_t{8}, std::size_t{64}, 2 * kPage}) {
      auto* const memory = static_cast<std::byte*>(MemorySource().allocate(bytes, alignment));
      ASSERT_NE(memory, nullptr);
      EXPECT_EQ(
          reinterpret_cast<std::uintptr_t>(memory) % (bytes >= 2 * kPage ? std::max(kPage, alignment) : alignment), 0u);
      std::fill_n(memory, bytes, std::byte{7});
      EXPECT_EQ(memory[bytes - 1], std::byte{7});
      MemorySource().deallocate(memory, bytes, alignment);
    }
  }
}

#if defined(__linux__)
// What the kernel knows of the memory at `where`, by its flags; empty where it does not tell.
std::string flags_of(const void* where) {
  std::ifstream maps("/proc/self/smaps");
  const auto wanted = reinterpret_cast<std::uintptr_t>(where);
  bool here = false;
  for (std::string line; std::getline(maps, line);) {
    std::uintptr_t begin = 0, end = 0;
    if (std::sscanf(line.c_str(), "%" SCNxPTR "-%" SCNxPTR " ", &begin, &end) == 2)
      here = begin <= wanted && wanted < end;
    if (here && line.starts_with("VmFlags:")) return line + " ";
  }
  return "";
}

TEST(Memory, OfTheProgramsOwnMuchIsAskedForInLargePages) {
  if (!std::ifstream("/sys/kernel/mm/transparent_hugepage/enabled")) GTEST_SKIP() << "this kernel has none";
  constexpr std::size_t kMuch = std::size_t{8} << 20;
  void* const memory = MemorySource().allocate(kMuch, 64);
  const std::string flags = flags_of(memory);
  MemorySource().deallocate(memory, kMuch, 64);
  if (flags.empty()) GTEST_SKIP() << "this kernel does not tell";
  EXPECT_NE(flags.find(" hg "), std::string::npos) << flags;
}
#endif

TEST(CrowdMemory, ComesFromTheCallerAndGoesBackThere) {
  const Machine machine = bee();
  Counted memory;
  {
    Crowd crowd(machine, {.memory = &memory});
    CrowdCues cues(&memory);
    crowd.reserve(1000);
    cues.reserve(5000);
    EXPECT_GE(memory.out(), 1000 * (crowd.bytes_per_member() - 1));
    for (int i = 0; i < 1000; ++i) crowd.add();
    crowd.advance(milliseconds(16), cues);
    const int given = memory.given();
    for (int step = 0; step < 100; ++step) {
      if (step % 20 == 0) crowd.remove(crowd.at(static_cast<std::uint32_t>(step)));
      if (step % 30 == 0) crowd.add();
      cues.clear();
      crowd.advance(milliseconds(16), cues);
    }
    EXPECT_EQ(memory.given(), given) << "a step took memory";
  }
  EXPECT_EQ(memory.out(), 0u);
}

TEST(CrowdMemory, ComesAlongWhenACrowdIsMoved) {
  const Machine machine = bee();
  Counted first, second;
  {
    Crowd crowd(machine, {.memory = &first}), other(machine, {.memory = &second});
    for (int i = 0; i < 100; ++i) crowd.add(), other.add();
    CrowdCues cues;
    crowd.advance(milliseconds(300), cues);
    const std::uint64_t hash = crowd.hash();
    const int given = first.given();
    other = std::move(crowd);
    EXPECT_EQ(second.out(), 0u) << "what it had is given back";
    EXPECT_EQ(first.given(), given) << "nothing is copied";
    EXPECT_EQ(other.hash(), hash);
    Crowd third(std::move(other));
    EXPECT_EQ(third.hash(), hash);
    third.advance(milliseconds(300), cues);
    EXPECT_EQ(third.size(), 100u);
  }
  EXPECT_EQ(first.out(), 0u);
}

// Any cuts of all places into ranges, in any order, give what one range gives.
TEST(CrowdMemory, RangesMayCutAnywhere) {
  const Machine machine = bee();
  const auto full = *machine.input<float>("full");
  std::mt19937 random(3);
  for (const std::uint32_t count : {1u, 7u, 8u, 9u, 16u, 41u}) {
    Crowd whole(machine), parts(machine);
    std::uint32_t told = 0;
    for (std::uint32_t i = 0; i < count; ++i) whole.add(), parts.add();
    for (int step = 0; step < 200; ++step) {
      const std::uint32_t who = random() % count;
      const float value = static_cast<float>(random() % 10);
      if (step % 8 == 0)
        for (Crowd* crowd : {&whole, &parts}) crowd->set(crowd->at(who), full, value);
      CrowdCues all;
      whole.advance(milliseconds(16), all);
      std::vector<std::uint32_t> cuts{0, count};
      for (std::uint32_t i = random() % 6; i > 0; --i) cuts.push_back(random() % (count + 1));
      std::sort(cuts.begin(), cuts.end());
      std::vector<std::size_t> order(cuts.size() - 1);
      for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
      std::shuffle(order.begin(), order.end(), random);
      std::vector<CrowdCues> lists(order.size());
      parts.begin_step(milliseconds(16));
      for (const std::size_t i : order) parts.advance_range(cuts[i], cuts[i + 1], lists[i]);
      parts.end_step();
      std::vector<std::string> joined;
      for (const CrowdCues& list : lists)
        for (const std::string& each : told_in(list)) joined.push_back(each);
      ASSERT_EQ(joined, told_in(all)) << count << " bees, step " << step;
      ASSERT_EQ(parts.hash(), whole.hash());
      ASSERT_EQ(parts.next_wake(), whole.next_wake());
      told += static_cast<std::uint32_t>(joined.size());
    }
    EXPECT_GT(told, count * 4);
  }
}

TEST(CrowdMemory, RangesBeyondAllPlacesAreNothing) {
  Crowd crowd(bee());
  CrowdCues cues;
  crowd.begin_step(milliseconds(500));
  crowd.advance_range(0, 100, cues);
  crowd.end_step();
  EXPECT_TRUE(cues.empty());
  EXPECT_EQ(crowd.next_wake().count, std::numeric_limits<std::int64_t>::max());
  crowd.add();
  crowd.begin_step(milliseconds(500));
  crowd.advance_range(1, 100, cues);
  crowd.advance_range(5, 3, cues);
  EXPECT_TRUE(cues.empty());
  crowd.advance_range(0, 100, cues);
  crowd.end_step();
  EXPECT_FALSE(cues.empty());
}

// The soonest of all is what separate instances say, whatever was written, removed and added.
TEST(CrowdMemory, TheNextWakeIsTheSoonestOfAll) {
  const Machine machine = bee();
  const auto full = *machine.input<float>("full");
  Crowd crowd(machine);
  std::map<std::uint32_t, std::unique_ptr<Instance>> alone;
  std::mt19937 random(5);
  CrowdCues cues;
  CueList<64> list;
  for (int step = 0; step < 400; ++step) {
    const std::uint32_t act = random() % 8;
    if (act == 0 && alone.size() < 20) {
      const Member member = crowd.add();
      alone[member.place] = std::make_unique<Instance>(machine);
    } else if (act == 1 && !alone.empty()) {
      const auto gone = std::next(alone.begin(), static_cast<std::ptrdiff_t>(random() % alone.size()));
      ASSERT_TRUE(crowd.remove(crowd.at(gone->first)));
      alone.erase(gone);
    } else if (act == 2 && !alone.empty()) {
      const auto who = std::next(alone.begin(), static_cast<std::ptrdiff_t>(random() % alone.size()));
      const float value = static_cast<float>(random() % 10);
      crowd.set(crowd.at(who->first), full, value);
      who->second->set(full, value);
    }
    const std::int64_t before = crowd.now().count, ahead = crowd.next_wake().count - before;
    const Ticks dt = milliseconds(random() % 40);
    cues.clear();
    crowd.advance(dt, cues);
    std::size_t told = 0;
    for (auto& [place, one] : alone) {
      list.clear();
      ASSERT_TRUE(one->advance(dt, list).complete());
      told += static_cast<std::size_t>(
          std::count_if(list.begin(), list.end(), [](const Cue& cue) { return cue.what == Told::cue; }));
    }
    ASSERT_EQ(cues.size(), told) << "step " << step;
    if (told > 0) {
      ASSERT_LE(ahead, dt.count) << "step " << step;
      std::int64_t first = cues[0].cue.at.count;
      for (const CrowdCue& each : cues) first = std::min(first, each.cue.at.count);
      ASSERT_LE(before + ahead, first) << "step " << step;
    }
  }
}

TEST(CrowdMemory, ASnapshotOfAnySizeIsTakenByACrowdOfAnySize) {
  const Machine machine = bee();
  CrowdCues cues;
  for (const std::uint32_t from : {0u, 1u, 8u, 13u, 40u})
    for (const std::uint32_t to : {0u, 1u, 8u, 13u, 40u}) {
      Crowd one(machine), other(machine);
      for (std::uint32_t i = 0; i < from; ++i) one.add(), one.advance(milliseconds(10 + i), cues);
      for (std::uint32_t i = 0; i < to; ++i) other.add(), other.advance(milliseconds(5 + i), cues);
      std::vector<std::byte> snapshot;
      one.snapshot(snapshot);
      ASSERT_TRUE(other.restore(snapshot)) << from << " into " << to;
      ASSERT_EQ(other.hash(), one.hash());
      ASSERT_EQ(other.next_wake(), one.next_wake());
      std::vector<std::uint32_t> changed;
      ASSERT_TRUE(other.changed_since(snapshot, changed));
      ASSERT_TRUE(changed.empty());
      // Both go on alike, with new ones too.
      std::vector<std::string> told[2];
      for (Crowd* crowd : {&one, &other}) {
        cues.clear();
        for (int i = 0; i < 10; ++i) crowd->add();
        crowd->advance(milliseconds(700), cues);
        told[crowd == &one ? 0 : 1] = told_in(cues);
      }
      ASSERT_EQ(told[0], told[1]);
      ASSERT_GE(told[0].size(), 10u);
      ASSERT_EQ(other.hash(), one.hash());
    }
}

// After more weeks than the coarse clock of the rows can tell apart, a crowd still does what instances do.
TEST(CrowdMemory, AClockThatRanForMonthsIsExact) {
  const Machine machine = machine_of(R"(
inputs: {calm: true}
cues: {piping: {}}
clips: {pipe: {frames: [0-3], fps: 7}}
marks: {pipe: {cues: {2: piping}}}
states:
  resting: {go: [{when: not calm, to: piping}]}
  piping: {clip: pipe, go: [{at: end, to: resting}]}
initial: resting
)");
  const auto calm = *machine.input<bool>("calm");
  for (const int days : {1, 36, 37, 1000}) {
    Crowd crowd(machine);
    Instance one(machine);
    CrowdCues cues;
    CueList<256> list;
    for (int i = 0; i < 20; ++i) crowd.add();
    const auto both = [&](Ticks dt) {
      crowd.advance(dt, cues);
      ASSERT_TRUE(one.advance(dt, list).complete());
    };
    for (int day = 0; day < days; ++day) both(seconds(86'400));
    EXPECT_TRUE(cues.empty() && list.empty());
    crowd.set(crowd.at(11), calm, false);
    one.set(calm, false);
    for (int step = 0; step < 100; ++step) {
      both(milliseconds(16));
      const Member member = crowd.at(11);
      EXPECT_EQ(crowd.next_wake(), one.next_wake());
      EXPECT_EQ(crowd.active(member), one.active());
    }
    std::vector<std::string> expected;
    for (const Cue& cue : list) expected.push_back("11 " + record(cue));
    EXPECT_GE(expected.size(), 2u) << days << " days";
    EXPECT_EQ(told_in(cues), expected) << days << " days";
  }
}

}  // namespace
}  // namespace mobrin::test
