// The hash of an instance tells what goes on, not how it came there.
#include "engine_log.hpp"
#include "made_machine.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/io/save.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

TEST(Hash, ForgetsPressesThatHaveRunOut) {
  const Machine machine = machine_of(
      "inputs: {p: {pulse: 100ms}, q: pulse, off: false}\ninitial: a\n"
      "states: {a: {go: [{pulse: p, when: off, to: b}]}, b: {}}\n");
  Instance pressed(machine), quiet(machine);
  CueList<8> cues;
  pressed.pulse(*machine.pulse("p"));
  pressed.pulse(*machine.pulse("q"));
  for (Instance* each : {&pressed, &quiet}) (void)each->advance(milliseconds(100), cues);
  EXPECT_NE(pressed.hash(), quiet.hash());  // it is alive to the end of that instant
  for (Instance* each : {&pressed, &quiet}) (void)each->advance(Ticks(1), cues);
  EXPECT_EQ(pressed.hash(), quiet.hash());
}

TEST(Hash, ForgetsTimesAndVariablesOfWhatWasLeft) {
  const Machine machine = machine_of(
      "inputs: {p: pulse}\ninitial: a\nstates:\n"
      "  a: {vars: {n: 0, x: 0.5, on: false}, enter: [n = n + 1, x = x * 3, on = true], go: [{pulse: p, to: c}, "
      "{after: 1s, to: c}]}\n"
      "  b: {go: [{after: 2s, to: a}]}\n"
      "  c: {initial: deep, states: {deep: {}}}\n");
  Instance pressed(machine), waited(machine), forced(machine);
  CueList<32> cues;
  (void)pressed.advance(milliseconds(300), cues);
  pressed.pulse(*machine.pulse("p"));
  forced.force(*machine.state("b"));
  (void)forced.advance(milliseconds(300), cues);
  forced.force(*machine.state("c"));
  (void)pressed.advance(milliseconds(900), cues);
  (void)waited.advance(milliseconds(1200), cues);
  (void)forced.advance(milliseconds(900), cues);
  EXPECT_EQ(pressed.hash(), waited.hash());
  EXPECT_EQ(forced.hash(), waited.hash());
}

class RandomHash : public testing::TestWithParam<Made> {};

// Reset or loaded from a save, it is what it is; and what is asked of it changes nothing in it.
TEST_P(RandomHash, TellsWhatGoesOnHoweverItCameThere) {
  static CueList<kMostRecords> told(kAllRecords);
  int reset = 0;
  std::uint32_t from = 0;
  for (int more = 150; more > 0; --more) {
    SoundMachine subject = next_sound(from, GetParam());
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    const Machine& machine = subject.machine;
    Instance lived(machine);
    bool rests = true;
    for (int i = 5 + random.pick(20); i > 0 && rests; --i) {
      random.write(lived);
      rests = comes_to_rest(lived, Ticks(random.pick(60'000'000)), told);
      Instance loaded(machine);
      ASSERT_TRUE(load(*read_save(save_text(lived)), loaded).empty()) << "seed " << seed;
      ASSERT_EQ(loaded.hash(), lived.hash()) << "seed " << seed << machine.dump();
      ASSERT_EQ(save_text(loaded), save_text(lived)) << "seed " << seed;
    }
    if (!rests) continue;
    Instance fresh(machine, {.begin = lived.now()});
    SavedInstance inputs = save(fresh);
    const SavedInstance had = save(lived);
    inputs.inputs = had.inputs, inputs.rate = had.rate, inputs.frozen = had.frozen;
    ASSERT_TRUE(load(inputs, fresh).empty());
    lived.reset();
    fresh.reset();  // forgets presses, too
    const Ticks time(random.pick(3) == 0 ? 0 : random.pick(60'000'000));
    if (!comes_to_rest(lived, time, told) || !comes_to_rest(fresh, time, told)) continue;
    ++reset;
    EXPECT_EQ(lived.hash(), fresh.hash()) << "seed " << seed << machine.dump();
  }
  EXPECT_GT(reset, 60);
}
INSTANTIATE_TEST_SUITE_P(All, RandomHash,
                         testing::ValuesIn(kAllMade),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
