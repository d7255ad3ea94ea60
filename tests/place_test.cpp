// Instances that are put somewhere: force, and place.
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/record.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

TEST(Force, MakesAStateActiveWhateverHolds) {
  const Machine machine = machine_of(
      "cues: {k: {}}\ninitial: a\nstates: {a: {sealed: true, exit: [tell: k], go: [{after: 1s, to: b}]}, b: {}, c: "
      "{}}");
  Instance instance(machine);
  std::vector<std::string> log;
  const auto cover = [&](Ticks dt) { listen(instance, dt, log); };
  cover(10ms);
  EXPECT_TRUE(instance.force(*machine.state("c")));
  cover(10ms);
  cover(2s);
  EXPECT_EQ(log, (std::vector<std::string>{"0 enter a", "10 k", "10 leave a", "10 enter c"}));
  EXPECT_FALSE(instance.force(*machine_of("states: {c: {}}").state("c")));
}

TEST(Force, IsNotDelayedByWhatIsCalledBeforeTheNextAdvance) {
  const Machine machine = machine_of("inputs: {v: 1.0}\ninitial: a\nstates: {a: {length: 10s, speed: v}, b: {}}");
  const auto log_of = [&](const auto& between) {
    Instance it(machine);
    std::vector<std::string> log;
    listen(it, 1s, log);
    EXPECT_TRUE(it.force(*machine.state("b")));
    between(it);
    EXPECT_EQ(it.next_wake(), it.now());
    log.clear();
    listen(it, 0ms, log);
    return log;
  };
  const std::vector<std::string> expected{"1000 leave a", "1000 enter b"};
  EXPECT_EQ(log_of([](Instance&) {}), expected);
  EXPECT_EQ(log_of([](Instance& it) { it.set_rate(0.5); }), expected);
  EXPECT_EQ(log_of([](Instance& it) { it.freeze(100ms); }), expected);
  // One that heard no loops reckons anew for who hears them.
  Instance it(machine);
  CueList<8> game;
  (void)it.advance(1s, game);
  EXPECT_TRUE(it.force(*machine.state("b")));
  std::vector<std::string> log;
  listen(it, 0ms, log);
  EXPECT_EQ(log, expected);
}

TEST(Force, IsForgottenByWhoIsReset) {
  const Machine machine = machine_of("initial: a\nstates: {a: {}, b: {}}");
  Instance it(machine), again(machine);
  Recorder recorder(it, "forced");
  std::vector<std::string> log;
  listen(it, 1s, log);
  EXPECT_TRUE(it.force(*machine.state("b")));
  ASSERT_TRUE(it.forced());
  EXPECT_EQ(it.forced()->index, machine.state("b")->index);
  it.reset();
  EXPECT_FALSE(it.forced());
  listen(it, 1s, log);
  EXPECT_TRUE(it.in(*machine.state("a")));
  run_tape(again, recorder.tape(), {}, [](const Cue&) {});
  EXPECT_TRUE(again.in(*machine.state("a")));
}

TEST(Force, IsForgottenByWhoIsRestored) {
  const Machine machine = machine_of("initial: a\nstates: {a: {}, b: {}}");
  Instance it(machine);
  std::vector<std::string> log;
  listen(it, 1s, log);
  const std::vector<std::byte> before(it.block().begin(), it.block().end());
  EXPECT_TRUE(it.force(*machine.state("b")));
  EXPECT_TRUE(it.restore(before));
  listen(it, 1s, log);
  EXPECT_TRUE(it.in(*machine.state("a")));
}

TEST(Place, PutsAnInstanceIntoAStateAsIfItHadBeenThere) {
  const Machine machine = machine_of(
      "cues: {k: {}}\nclips: {c: {frames: [0-3], fps: 10, play: loop x3}}\nmarks: {c: {cues: {0: k, 3: k}}}\ninitial: "
      "a\nstates: {a: {}, b: {clip: c, enter: [tell: k], go: [{at: end, to: d}]}, d: {}}");
  Instance instance(machine);
  EXPECT_TRUE(instance.place(*machine.state("b"), 650ms));
  EXPECT_TRUE(instance.in(*machine.state("b")));
  EXPECT_EQ(instance.shown().frame, 2);
  std::vector<std::string> log;
  instance.advance(
      1s, [&](const Cue& cue) { log.push_back(line(cue)); }, kAllRecords);
  EXPECT_EQ(log, (std::vector<std::string>{"50 k c:3", "150 loop b", "150 k c:0", "450 k c:3", "550 leave b",
                                           "550 enter d"}));
  EXPECT_FALSE(instance.place(*machine.state("b"), Ticks(-1)));
  EXPECT_TRUE(instance.place(*machine.state("b"), 5s));  // long over
  log.clear();
  instance.advance(
      1ms, [&](const Cue& cue) { log.push_back(line(cue)); }, kAllRecords);
  EXPECT_EQ(log, (std::vector<std::string>{"1000 leave b", "1000 enter d"}));
}

// While it was done nothing moved, so nothing has moved when it is placed.
TEST(Place, WakesOneThatWasDoneWhereItStood) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 1, play: once}}\n"
      "regions:\n"
      "  body: {initial: a, states: {a: {go: [{after: 1s, to: over}]}, b: {}, over: {final: true}}}\n"
      "  wings: {initial: beat, states: {beat: {clip: c}}}\n");
  Instance it(machine);
  std::vector<std::string> log;
  listen(it, 60s, log);
  ASSERT_TRUE(it.done());
  EXPECT_EQ(it.shown(1).seconds, 1);
  ASSERT_TRUE(it.place(*machine.state("body/b")));
  EXPECT_FALSE(it.done());
  EXPECT_EQ(it.shown(1).seconds, 1);
  Instance other(machine);
  EXPECT_TRUE(carry_over(it, other).empty());
  EXPECT_EQ(other.hash(), it.hash());
  listen(it, 2s, log);
  EXPECT_EQ(it.shown(1).seconds, 3);
}

TEST(Place, AtTheEndOfAFinalStateItIsDone) {
  const Machine machine = machine_of(
      "inputs: {v: 0.0}\nclips: {c: {frames: [0-3], fps: 10, play: once}}\ninitial: a\n"
      "states: {a: {go: [{when: v > 1, to: over}]}, over: {clip: c, final: true}}");
  Instance it(machine);
  ASSERT_TRUE(it.place(*machine.state("over"), 1s));
  EXPECT_FALSE(it.done());
  CueList<8> cues;
  (void)it.advance(0ms, cues);
  EXPECT_TRUE(it.done());
  ASSERT_EQ(cues.size(), 1u);
  EXPECT_EQ(cues[0].what, Told::done);
  Crowd crowd(machine);
  const Member member = crowd.add();
  ASSERT_TRUE(crowd.place(member, *machine.state("over"), 1s));
  CrowdCues told({}, 100);
  (void)crowd.advance(1s, told);
  EXPECT_TRUE(crowd.done(member));
  EXPECT_EQ(told.size(), 1u);
}

TEST(Place, IsTheLastWord) {
  const Machine machine = machine_of(
      "cues: {k: {}}\ninitial: a\nstates: {a: {exit: [tell: k]}, b: {vars: {n: 0}, go: [{after: 1s, to: c}]}, c: {}}");
  Instance it(machine);
  std::vector<std::string> log;
  listen(it, 5s, log);
  log.clear();
  it.reset();
  ASSERT_TRUE(it.place(*machine.state("b"), 400ms));
  listen(it, 10ms, log);
  EXPECT_TRUE(it.in(*machine.state("b")));
  ASSERT_TRUE(it.force(*machine.state("a")));
  ASSERT_TRUE(it.place(*machine.state("b"), 400ms));
  listen(it, 650ms, log);
  EXPECT_EQ(log, (std::vector<std::string>{"5610 leave b", "5610 enter c"}));
  // A crowd's member alike.
  Crowd crowd(machine);
  const Member member = crowd.add();
  CrowdCues told({}, 100);
  (void)crowd.advance(5s, told);
  ASSERT_TRUE(crowd.reset(member));
  ASSERT_TRUE(crowd.place(member, *machine.state("b"), 400ms));
  (void)crowd.advance(10ms, told);
  EXPECT_TRUE(crowd.in(member, *machine.state("b")));
}

}  // namespace
}  // namespace mobrin::test
