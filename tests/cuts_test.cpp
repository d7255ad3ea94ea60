// Cutting time differently changes nothing: the same records, the same instants, the same block, bit for bit.
#include <algorithm>
#include <random>

#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct History {
  std::vector<std::string> lines;
  std::vector<std::byte> block;
};

std::string identity(const Cue& cue) { return line(cue) + " #" + std::to_string(cue.ordinal); }

// Runs with writes at fixed instants; `cover` covers the time between two of them.
template <class Cover>
History run(const Machine& machine, std::uint32_t seed, const Cover& cover) {
  Instance instance(machine);
  RandomMachine writer(seed ^ 0x5eed);
  History out;
  for (int i = 0; i < 12; ++i) {
    writer.write(instance);
    if (i % 3 == 0) writer.write(instance);
    cover(instance, Ticks(milliseconds(1 + writer.pick(300)).count + writer.pick(1000)), out.lines);
  }
  out.block.assign(instance.block().begin(), instance.block().end());
  return out;
}

void whole(Instance& instance, Ticks dt, std::vector<std::string>& lines) {
  static std::vector<Cue> memory(500'000);  // more than any of these runs tells in one step
  CueBuffer cues(memory, kAllRecords);
  const Advanced step = instance.advance(dt, cues);
  ASSERT_TRUE(step.complete());
  for (const Cue& cue : cues) lines.push_back(identity(cue));
}

class Cuts : public testing::TestWithParam<int> {};

TEST_P(Cuts, ChangeNothing) {
  int sound = 0;
  std::size_t records = 0;
  for (std::uint32_t seed = static_cast<std::uint32_t>(GetParam()) * 1000; sound < 100; ++seed) {
    const Compiled compiled = compile(RandomMachine(seed).make());
    if (!compiled.machine) continue;  // the generator makes some that the compiler rightly refuses
    ++sound;
    const Machine& machine = *compiled.machine;
    const History plain = run(machine, seed, whole);
    records += plain.lines.size();

    std::mt19937 random(seed);
    const History cut = run(machine, seed, [&](Instance& instance, Ticks dt, std::vector<std::string>& lines) {
      while (dt.count > 0) {
        const Ticks part(std::min<std::int64_t>(dt.count, 1 + static_cast<std::int64_t>(random() % 30'000'000)));
        whole(instance, part, lines);
        dt -= part;
      }
    });
    ASSERT_EQ(cut.lines, plain.lines) << "seed " << seed << "\n" << machine.dump();
    ASSERT_EQ(cut.block, plain.block) << "seed " << seed;

    // A list so small that the step stops again and again.
    std::size_t most = 1;
    const History small = run(machine, seed, [&](Instance& instance, Ticks dt, std::vector<std::string>& lines) {
      std::vector<Cue> memory(most);
      for (Advanced step{{}, dt, 0};;) {
        CueBuffer cues(memory, kAllRecords);
        step = instance.advance(step.left, cues);
        for (const Cue& cue : cues) lines.push_back(identity(cue));
        if (step.needs > 0) memory.resize(most = step.needs);
        if (step.complete()) return;
      }
    });
    ASSERT_EQ(small.lines, plain.lines) << "seed " << seed;
    ASSERT_EQ(small.block, plain.block) << "seed " << seed;
    ASSERT_LE(most, machine.most_records_per_instant()) << "seed " << seed;

    // A handler, which is told large instants in parts.
    const History handled = run(machine, seed, [&](Instance& instance, Ticks dt, std::vector<std::string>& lines) {
      const Advanced step = instance.advance(
          dt, [&](const Cue& cue) { lines.push_back(identity(cue)); }, kAllRecords);
      ASSERT_TRUE(step.complete());
    });
    ASSERT_EQ(handled.lines, plain.lines) << "seed " << seed;
    ASSERT_EQ(handled.block, plain.block) << "seed " << seed;

    // Going back to the middle and running again tells the same records once more, with the same identity.
    Instance instance(machine);
    std::vector<std::string> first, again;
    whole(instance, milliseconds(100), first);
    const std::vector<std::byte> snapshot(instance.block().begin(), instance.block().end());
    first.clear();
    whole(instance, milliseconds(400), first);
    const std::uint64_t hash = instance.hash();
    ASSERT_TRUE(instance.restore(snapshot));
    whole(instance, milliseconds(400), again);
    ASSERT_EQ(again, first);
    ASSERT_EQ(instance.hash(), hash);
  }
  EXPECT_GT(records, 1000u);
}

INSTANTIATE_TEST_SUITE_P(Seeds, Cuts, testing::Range(0, 8));

}  // namespace
}  // namespace mobrin::test
