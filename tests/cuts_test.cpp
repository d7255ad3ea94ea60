// Cutting time differently changes nothing: the same records, the same instants, the same block, bit for bit.
#include <algorithm>
#include <random>

#include "made_machine.hpp"
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
  std::size_t records = 0;
  std::uint32_t from = static_cast<std::uint32_t>(GetParam()) * 1000;
  for (int more = 100; more > 0; --more) {
    const SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    const Machine& machine = subject.machine;
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

// Two clips with a track each, in all ways of playing, at a speed that is written.
std::string tracked(RandomMachine& random) {
  const auto number = [&](int below) { return std::to_string(random.pick(below)); };
  const char* const plays[] = {"once", "loop", "loop x3", "back-and-forth", "back-and-forth x2"};
  std::string clips, tracks;
  for (const char* name : {"  c: ", "  d: "}) {
    clips += std::string(name) + "{frames: [0-" + std::to_string(1 + random.pick(5)) +
             "], fps: " + std::to_string(4 + random.pick(12)) + ", play: " + plays[random.pick(5)] + "}\n";
    tracks += std::string(name) + "{tracks: {x: {curve: " + (random.pick(2) == 0 ? "linear" : "step") +
              ", keys: {0s: " + number(10) + ", 0.05s: " + number(10) + ", 0.12s: " + number(10) + "}}}}\n";
  }
  return "inputs: {v: {float: 1, min: -4, max: 4}, p: pulse, q: pulse}\nclips:\n" + clips + "marks:\n" + tracks +
         "initial: a\nstates:\n  a: {clip: c, speed: v, go: [{pulse: p, to: b}]}\n  b: {clip: d, speed: " +
         (random.pick(2) == 0 ? "v" : "1.5") + ", go: [{pulse: q, to: a}]}\n";
}

// Through writes, turns, freezes and rates, and where a play stands at its end.
TEST(Tracks, MoveAsFarHoweverTimeIsCut) {
  std::size_t compared = 0;
  for (std::uint32_t seed = 0; seed < 300; ++seed) {
    RandomMachine random(seed);
    const Machine machine = machine_of(tracked(random));
    Instance whole(machine), cut(machine);
    CueList<4'096> told(listen_to(Told::enter));
    const auto moved = [&](Instance& instance, Ticks time) {
      const std::vector<std::byte> before(instance.block().begin(), instance.block().end());
      EXPECT_TRUE(instance.advance(time, told).complete());
      return instance.moved("x", before);
    };
    for (int step = 0; step < 30; ++step) {
      if (random.pick(3) == 0) {
        const float speed = static_cast<float>(random.pick(17) - 8) / 2;
        for (Instance* each : {&whole, &cut}) each->set(*machine.input<float>("v"), speed);
      }
      if (random.pick(4) == 0) {
        const Pulse pulse = *machine.pulse(random.pick(2) == 0 ? "p" : "q");
        for (Instance* each : {&whole, &cut}) each->pulse(pulse);
      }
      if (random.pick(6) == 0) {
        const double rate = random.pick(4) / 2.0;
        for (Instance* each : {&whole, &cut}) each->set_rate(rate);
      }
      if (random.pick(8) == 0) {
        const Ticks held = milliseconds(random.pick(200));
        for (Instance* each : {&whole, &cut}) each->freeze(held);
      }
      Ticks left(random.pick(900'000'000));
      told.clear();
      const double expected = moved(whole, left);
      const bool entered = !told.empty();  // what is played now counts from its beginning
      double sum = 0;
      for (int i = random.pick(8); i > 0 && left.count > 0; --i) {
        const Ticks part(random.pick(static_cast<int>(left.count)));
        sum += moved(cut, part);
        left = left - part;
      }
      sum += moved(cut, left);
      if (entered) continue;
      ++compared;
      ASSERT_NEAR(sum, expected, 1e-9) << "seed " << seed << " step " << step;
    }
  }
  EXPECT_GT(compared, 5'000U);
}

}  // namespace
}  // namespace mobrin::test
