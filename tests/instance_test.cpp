// Instances from game code: handles, inputs, queries, rate, freeze, reset, lists and routers.
#include <cmath>
#include <limits>
#include <random>

#include "mobrin/core/router.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

Machine keeper() {
  const Loaded loaded = load_character(MOBRIN_DEMO "/keeper.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  return *loaded.machine;
}

TEST(Handles, AMisspeltNameGivesTheNearest) {
  const Machine machine = keeper();
  EXPECT_TRUE(machine.input<float>("move"));
  EXPECT_EQ(machine.input<float>("mvoe").error().text(), "there is no input \"mvoe\"; did you mean \"move\"?");
  EXPECT_EQ(machine.pulse("swign").error().text(), "there is no pulse \"swign\"; did you mean \"swing\"?");
  EXPECT_EQ(machine.state("wlak").error().nearest, "ground/walk");
  EXPECT_EQ(machine.state("walk").error().nearest, "ground/walk");
  EXPECT_EQ(machine.state("grund/wlak").error().nearest, "ground/walk");
  EXPECT_EQ(machine.trait("bussy").error().nearest, "busy");
  EXPECT_EQ(machine.field("net_out", "amout").error().nearest, "amount");
  EXPECT_EQ(machine.choice(*machine.input<Choice>("carrying"), "nett").error().nearest, "net");
}

TEST(Handles, TheWrongTypeIsAnError) {
  const Machine machine = keeper();
  EXPECT_EQ(machine.input<bool>("move").error().message, "the input \"move\" is a float, not a bool");
  EXPECT_EQ(machine.input<float>("swing").error().message, "the input \"swing\" is a pulse, not a float");
  EXPECT_EQ(machine.pulse("health").error().message,
            "the input \"health\" is a whole number (std::int32_t), not a pulse");
}

TEST(Handles, OfAnotherMachineAreRefused) {
  const Machine machine = keeper(), reloaded = keeper();
  Instance instance(reloaded);
  EXPECT_EQ(instance.set(*machine.input<float>("move"), 1.0f), Written::refused);
  EXPECT_EQ(instance.pulse(*machine.pulse("swing")), Written::refused);
  EXPECT_FALSE(instance.in(*machine.state("ground/stand")));
  EXPECT_FALSE(instance.is(*machine.trait("busy")));
  EXPECT_EQ(instance.set(*reloaded.input<float>("move"), 1.0f), Written::changed);
}

TEST(Inputs, AreClampedRoundedAndNeverNaN) {
  const Machine machine = machine_of(
      "inputs: {v: {float: 0, min: -1, max: 1, grain: 0.25}, n: {int: 2, min: 0, max: 6}, w: 0.0, c: {one_of: [x, y], "
      "start: y}}\nstates: {a: {}}");
  Instance instance(machine);
  const auto v = *machine.input<float>("v");
  EXPECT_EQ(instance.set(v, 0.3f), Written::changed);
  EXPECT_EQ(std::get<double>(instance.input_value(0)), 0.25);
  EXPECT_EQ(instance.set(v, 0.26f), Written::same);  // the same grain
  EXPECT_EQ(instance.set(v, 7), Written::clamped);
  EXPECT_EQ(std::get<double>(instance.input_value(0)), 1.0);
  EXPECT_EQ(instance.set(v, std::numeric_limits<float>::quiet_NaN()), Written::refused);
  EXPECT_EQ(std::get<double>(instance.input_value(0)), 1.0);
  const auto w = *machine.input<float>("w");
  EXPECT_EQ(instance.set(w, std::numeric_limits<float>::infinity()), Written::clamped);
  EXPECT_EQ(std::get<double>(instance.input_value(2)), std::numeric_limits<float>::max());
  instance.set(w, -0.0f);
  EXPECT_FALSE(std::signbit(std::get<double>(instance.input_value(2))));
  EXPECT_EQ(instance.set(*machine.input<std::int32_t>("n"), 9), Written::clamped);
  EXPECT_EQ(std::get<std::int64_t>(instance.input_value(1)), 6);
  EXPECT_EQ(std::get<std::string>(instance.input_value(3)), "y");
  EXPECT_EQ(instance.set(*machine.input<Choice>("c"), Choice{2}), Written::refused);
}

TEST(Inputs, ByNameSayWhatTheyTake) {
  const Machine machine = keeper();
  Instance instance(machine);
  EXPECT_TRUE(instance.set_by_name("health", std::int64_t{3}));
  EXPECT_TRUE(instance.set_by_name("move", std::int64_t{1}));  // a whole number is a number
  EXPECT_TRUE(instance.set_by_name("carrying", std::string("net")));
  EXPECT_FALSE(instance.set_by_name("health", 2.5));
  EXPECT_FALSE(instance.set_by_name("grounded", std::string("yes")));
  EXPECT_EQ(instance.set_by_name("carrying", std::string("smokr")).error().nearest, "smoker");
}

TEST(Queries, TellWhatIsActiveAndShown) {
  const Machine machine = keeper();
  Instance instance(machine);
  EXPECT_EQ(instance.active(), kNoIndex);
  EXPECT_TRUE(instance.shown().nothing());
  CueList<32> cues;
  instance.set(*machine.input<Choice>("carrying"), *machine.choice(*machine.input<Choice>("carrying"), "net"));
  ASSERT_TRUE(instance.advance(100ms, cues).complete());
  EXPECT_TRUE(instance.in(*machine.state("ground/stand")));
  EXPECT_FALSE(instance.is(*machine.trait("busy")));
  instance.pulse(*machine.pulse("swing"));
  ASSERT_TRUE(instance.advance(160ms, cues).complete());
  EXPECT_TRUE(instance.in(*machine.state("ground/net")));
  EXPECT_TRUE(instance.is(*machine.trait("busy")));
  EXPECT_EQ(machine.clips()[instance.shown().clip].def.name.text, "net");
  EXPECT_EQ(instance.shown().frame, 3);
  EXPECT_DOUBLE_EQ(instance.shown().seconds, 0.16);
  ASSERT_EQ(cues.size(), 3u);
  EXPECT_EQ(cues[2].name(), "net_out");
  EXPECT_EQ(cues[2].kind(), "damage");
  EXPECT_EQ(cues[2].number("amount"), 2);
  EXPECT_EQ(std::get<std::int64_t>(*cues[2].field(*machine.field("net_out", "amount"))), 2);
  EXPECT_EQ(cues[2].text("reach"), "net_reach");
  EXPECT_EQ(cues[2].field("nothing"), nullptr);
  EXPECT_EQ(cues[2].field(*machine.field("step", "foot")), nullptr);  // a field of another cue
}

TEST(Rate, SlowMotionPauseAndResume) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {2: k}}}\ninputs: {p: {pulse: "
      "100ms}}\ninitial: a\nstates: {a: {clip: c, go: [{after: 300ms, to: b}]}, b: {}}");
  Instance instance(machine);
  std::vector<std::string> log;
  const auto cover = [&](Ticks dt) { listen(instance, dt, log); };
  cover(100ms);
  EXPECT_TRUE(instance.set_rate(0.25));
  cover(200ms);  // 50 ms of the clip
  EXPECT_DOUBLE_EQ(instance.shown().seconds, 0.15);
  EXPECT_TRUE(instance.set_rate(0));
  cover(10s);
  EXPECT_TRUE(instance.set_rate(1));
  cover(1s);
  EXPECT_EQ(log, (std::vector<std::string>{"0 enter a", "10350 k c:2", "10450 leave a", "10450 enter b"}));
  for (const double rate : {-1.0, 65.0, std::nan("")}) EXPECT_FALSE(instance.set_rate(rate));
  EXPECT_EQ(instance.rate(), 1.0);
}

TEST(Freeze, HoldsThePlayAndNotThePulses) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 10}}\ninputs: {p: {pulse: 100ms}, x: false}\ninitial: a\nstates: {a: {clip: c, "
      "go: [{pulse: p, when: x, to: a, restart: true}, {at: end, to: b}]}, b: {}}");
  Instance instance(machine);
  std::vector<std::string> log;
  const auto cover = [&](Ticks dt) { listen(instance, dt, log); };
  cover(100ms);
  instance.pulse(*machine.pulse("p"));
  EXPECT_TRUE(instance.freeze(60ms));
  EXPECT_TRUE(instance.freeze(20ms));  // a shorter one changes nothing
  cover(30ms);
  EXPECT_DOUBLE_EQ(instance.shown().seconds, 0.1);
  cover(100ms);
  EXPECT_DOUBLE_EQ(instance.shown().seconds, 0.17);
  instance.set(*machine.input<bool>("x"), true);  // 130 ms after the press: its buffer is over
  cover(1s);
  EXPECT_EQ(log, (std::vector<std::string>{"0 enter a", "460 leave a", "460 enter b"}));
  EXPECT_FALSE(instance.freeze(Ticks(-1)));
}

TEST(Reset, StartsAnewWithVariablesAndKeepsInputs) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 10, play: loop}}\ncues: {s: {}, bye: {}}\nmarks: {c: {spans: {s: "
      "1-2}}}\ninputs: {x: 0, p: {pulse: 1s}}\ninitial: a\nvars: {count: 0}\nstates: {a: {clip: c, exit: [tell: bye], "
      "each_loop: [count = count + 1], go: [{pulse: p, when: x > 5, to: b}, {at: loop, when: count >= 2, to: b}]}, b: "
      "{final: true}}");
  Instance instance(machine);
  std::vector<std::string> log;
  const auto cover = [&](Ticks dt) { listen(instance, dt, log); };
  instance.set(*machine.input<std::int32_t>("x"), 6);
  cover(500ms);
  EXPECT_TRUE(instance.set_by_name("x", std::int64_t{3}));
  instance.pulse(*machine.pulse("p"));
  instance.reset();
  EXPECT_TRUE(instance.set_by_name("x", std::int64_t{6}));
  cover(850ms);
  EXPECT_TRUE(instance.done());
  instance.reset();
  cover(0ms);
  EXPECT_FALSE(instance.done());
  EXPECT_EQ(log, (std::vector<std::string>{"0 enter a",   "100 s> c:1",   "300 <s c:2",   "400 loop a",  "500 s> c:1",
                                           "500 <s c:1",  "500 bye",      "500 leave a",  "500 enter a", "600 s> c:1",
                                           "800 <s c:2",  "900 loop a",   "1000 s> c:1",  "1200 <s c:2", "1300 loop a",
                                           "1300 bye",    "1300 leave a", "1300 enter b", "1300 done b", "1350 leave b",
                                           "1350 enter a"}));
  EXPECT_EQ(std::get<std::int64_t>(instance.input_value(0)), 6);
}

TEST(Reset, APulseWrittenAfterItCounts) {
  const Machine machine =
      machine_of("inputs: {p: pulse}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, b: {final: true}}");
  Instance instance(machine);
  CueList<8> cues;
  instance.pulse(*machine.pulse("p"));
  ASSERT_TRUE(instance.advance(1ms, cues).complete());
  ASSERT_TRUE(instance.done());
  EXPECT_FALSE(instance.force(*machine.state("a")));
  EXPECT_EQ(instance.pulse(*machine.pulse("p")), Written::same);  // it rests
  instance.reset();
  EXPECT_EQ(instance.pulse(*machine.pulse("p")), Written::changed);
  ASSERT_TRUE(instance.advance(1ms, cues).complete());
  EXPECT_TRUE(instance.in(*machine.state("b")));
}

TEST(Trace, NamesTheFirstPartThatFails) {
  const Machine machine = machine_of(
      "inputs: {p: pulse, x: 0}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\nregions:\n  l: {initial: a, states: "
      "{a: "
      "{clip: c, go: [{pulse: p, to: b}, {when: x > 0, to: b}, {during: 3, to: b}, {when: x == 0, to: a}]}, b: {}}}\n"
      "  r: {states: {s: {go: [{pulse: p, to: s}, {to: t}], initial: t, states: {t: {sealed: true}, u: {}}}}}");
  Instance instance(machine);
  std::vector<std::pair<std::string, Verdict>> verdicts;
  struct Heard {
    const Machine& machine;
    std::vector<std::pair<std::string, Verdict>>& verdicts;
  } heard{machine, verdicts};
  instance.set_trace({[](void* context, const Considered& considered) {
                        auto& to = *static_cast<Heard*>(context);
                        to.verdicts.emplace_back(to.machine.transitions()[considered.transition].text,
                                                 considered.verdict);
                      },
                      &heard});
  CueList<16> cues;
  instance.pulse(*machine.pulse("p"));
  ASSERT_TRUE(instance.advance(1ms, cues).complete());
  using V = std::pair<std::string, Verdict>;
  EXPECT_EQ(verdicts, (std::vector<V>{{"pulse: p", Verdict::taken},
                                      {"pulse: p", Verdict::sealed},
                                      {"always", Verdict::sealed},
                                      {"pulse: p", Verdict::event},
                                      {"always", Verdict::sealed}}));
  verdicts.clear();
  Instance other(machine);
  other.set_trace({[](void* context, const Considered& considered) {
                     auto& to = *static_cast<Heard*>(context);
                     to.verdicts.emplace_back(to.machine.transitions()[considered.transition].text, considered.verdict);
                   },
                   &heard});
  ASSERT_TRUE(other.advance(1ms, cues).complete());
  EXPECT_EQ(verdicts[0], V("pulse: p", Verdict::event));
  EXPECT_EQ(verdicts[1], V("when: x > 0", Verdict::guard));
  EXPECT_EQ(verdicts[2], V("during: 3", Verdict::window));
  EXPECT_EQ(verdicts[3], V("when: x == 0", Verdict::stands));
}

TEST(Lists, AStopBeforeAnInstantLosesNothing) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-1], fps: 10, play: loop}}\ncues: {k: {}, l: {}}\nmarks: {c: {cues: {0: [k, l], 1: "
      "k}}}\nstates: {a: {clip: c}}");
  Instance instance(machine);
  CueList<3> cues;
  Advanced step = instance.advance(1s, cues);
  EXPECT_FALSE(step.complete());
  EXPECT_EQ(cues.size(), 3u);  // two at 0, one at 100 ms
  EXPECT_EQ(instance.now(), Ticks(200ms) - Ticks(1));
  EXPECT_EQ(step.covered + step.left, Ticks(1s));
  int told = 3;
  while (!step.complete()) {
    cues.clear();
    step = instance.advance(step.left, cues);
    told += static_cast<int>(cues.size());
  }
  EXPECT_EQ(told, 2 + 5 + 2 * 5);
  CueList<1> tiny;
  Instance other(machine);
  EXPECT_EQ(other.advance(1s, tiny).needs, 2u);  // says how much room the instant needs
}

TEST(Lists, HandlersWriteAtTheInstantOfTheRecord) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {1: k}}}\ninputs: {hit: false}\ninitial: "
      "a\nstates: {a: {clip: c, go: [{when: hit, to: b}]}, b: {}}");
  Instance instance(machine);
  std::vector<std::string> log;
  instance.advance(
      1s,
      [&](const Cue& cue) {
        log.push_back(line(cue));
        if (cue.what == Told::cue) instance.set(*machine.input<bool>("hit"), true);
      },
      kAllRecords);
  EXPECT_EQ(log, (std::vector<std::string>{"0 enter a", "100 k c:1", "100 leave a", "100 enter b"}));
}

TEST(Lists, AHandlerThatAnswersItselfForEverIsStopped) {
  const Machine machine = machine_of(
      "cues: {k: {}}\ninputs: {p: pulse}\ninitial: a\nstates: {a: {enter: {tell: k}, go: [{pulse: p, to: a, restart: "
      "true}]}}");
  Instance instance(machine);
  int told = 0;
  const Advanced step = instance.advance(1s, [&](const Cue&) { ++told, instance.pulse(*machine.pulse("p")); });
  EXPECT_FALSE(step.complete());
  EXPECT_EQ(told, 66);
}

TEST(Routers, BindByNameAndKindAndRefuseUnknownNames) {
  const Machine machine = keeper();
  Router router(machine);
  std::vector<std::string> heard;
  EXPECT_TRUE(router.on("step", [&](const Cue& cue) { heard.push_back("name " + std::string(cue.text("foot"))); }));
  EXPECT_TRUE(router.on_kind("sound", [&](const Cue& cue) { heard.push_back("kind " + std::string(cue.name())); }));
  router.on_done([&](const Cue&) { heard.push_back("done"); });
  EXPECT_EQ(router.on("setp", [](const Cue&) {}).error().text(), "there is no cue \"setp\"; did you mean \"step\"?");
  EXPECT_EQ(router.on_kind("damge", [](const Cue&) {}).error().nearest, "damage");
  Instance instance(machine);
  instance.set(*machine.input<float>("move"), 1.0f);
  instance.advance(400ms, router);
  EXPECT_EQ(heard, (std::vector<std::string>{"name left", "kind step", "name right", "kind step"}));
  heard.clear();
  instance.set(*machine.input<std::int32_t>("health"), 0);
  instance.advance(5s, router);
  EXPECT_EQ(heard, (std::vector<std::string>{"kind thud", "done"}));
}

TEST(Blocks, SizeIsKnownAndARestoreOfAnotherSizeRefused) {
  const Machine machine = keeper();
  Instance instance(machine);
  EXPECT_EQ(instance.block().size(), machine.block_size() + 4 * 24);  // room for four tickets
  EXPECT_EQ(Instance(machine, {.tickets = 0}).block().size(), machine.block_size());
  EXPECT_FALSE(instance.restore(instance.block().first(8)));
}

TEST(Blocks, AHornetTakesSixtyFourBytes) {
  const Loaded hornet = load_character(MOBRIN_DEMO "/hornet.yaml");
  ASSERT_TRUE(hornet.machine);
  EXPECT_EQ(hornet.machine->block_size(), 64u);
}

TEST(Blocks, AnInstanceThatWaitsKnowsWhen) {
  const Machine machine = machine_of(
      "inputs: {x: false, y: 0, z: 0, near: 9.5}\ninitial: a\n"
      "states: {a: {go: [{after: 300ms, to: b}, {when: x and y > 3, to: c}, {when: near < 2, to: c}]}, b: {}, c: {}}");
  Instance instance(machine);
  CueList<8> cues;
  ASSERT_TRUE(instance.advance(10ms, cues).complete());
  EXPECT_EQ(instance.next_wake(), Ticks(300ms));
  const auto set = [&](const char* input, FieldValue value) { EXPECT_TRUE(instance.set_by_name(input, value)); };
  // Nothing reads one, and by the others nothing holds yet: an advance has nothing to do with them.
  set("z", std::int64_t{5});
  set("near", 3.0);
  EXPECT_EQ(instance.next_wake(), Ticks(300ms));
  ASSERT_TRUE(instance.advance(10ms, cues).complete());
  set("near", 1.5);
  EXPECT_EQ(instance.next_wake(), instance.now());
  set("near", 3.0);  // at the same instant: it never was less
  ASSERT_TRUE(instance.advance(10ms, cues).complete());
  EXPECT_EQ(instance.next_wake(), Ticks(300ms));
  EXPECT_EQ(instance.active(), machine.state("a")->index);
  // What holds by two values that were written apart.
  set("x", true);
  set("y", std::int64_t{4});
  EXPECT_EQ(instance.next_wake(), instance.now());
  ASSERT_TRUE(instance.advance(1s, cues).complete());
  EXPECT_EQ(instance.active(), machine.state("c")->index);
  EXPECT_EQ(instance.next_wake().count, std::numeric_limits<std::int64_t>::max());
}

// Presses that are answered at once, whatever room the list has: what does not fit changes nothing.
TEST(Advance, APressIsAnsweredTheSameWhateverRoomThereIs) {
  const Machine machine = machine_of(
      "inputs: {p: pulse, q: {pulse: 100ms}, n: 0}\ncues: {one: {}, two: {}, three: {}}\n"
      "initial: a\n"
      "states:\n"
      "  a: {exit: [tell: one], go: [{pulse: p, to: b, do: [tell: two]}, {pulse: q, when: n > 2, to: c}]}\n"
      "  b: {enter: [tell: three], go: [{pulse: p, to: a}, {pulse: q, to: c, do: [tell: one]}, {when: n == 7, to: "
      "c}]}\n"
      "  c: {enter: [tell: one, tell: two], go: [{pulse: p, to: a, restart: true}, {when: n == 1, to: b}]}\n");
  const auto p = *machine.pulse("p"), q = *machine.pulse("q");
  const auto n = *machine.input<std::int32_t>("n");
  Instance wide(machine), narrow(machine);
  CueList<64> all;
  CueList<12> few;
  std::vector<std::string> expected, told;
  std::mt19937 random(3);
  for (int step = 0; step < 4000; ++step) {
    for (Instance* it : {&wide, &narrow}) {
      auto same = random;
      if (same() % 3 == 0) it->pulse(p);
      if (same() % 4 == 0) it->pulse(q);
      if (same() % 3 == 0) it->set(n, static_cast<std::int32_t>(same() % 9));
    }
    random.discard(7);
    const Ticks dt(static_cast<std::int64_t>(random() % 60'000'000));
    ASSERT_TRUE(wide.advance(dt, all).complete());
    for (const Cue& cue : all) expected.push_back(record(cue));
    all.clear();
    // Some of what was told before may still lie in the list.
    for (Advanced part = narrow.advance(dt, few);; part = narrow.advance(part.left, few)) {
      const bool keeps = part.complete() && step % 4 != 0;
      for (const Cue& cue : few)
        if (!keeps) told.push_back(record(cue));
      if (!keeps) few.clear();
      if (part.complete()) break;
      ASSERT_EQ(part.needs, 0u);
    }
    ASSERT_EQ(wide.hash(), narrow.hash()) << step;
  }
  for (const Cue& cue : few) told.push_back(record(cue));
  EXPECT_GT(expected.size(), 2000u);
  EXPECT_EQ(told, expected);
}

// More records of one instant than the lists inside have room for, and rounds that are taken back and played otherwise.
TEST(Advance, AHandlerHearsAllOfARunaway) {
  const Machine machine = machine_of(
      "inputs: {on: false}\ninitial: a\nstates:\n"
      "  a: {go: [{when: on, to: b}], initial: x, states: {x: {initial: y, states: {y: {}}}}}\n"
      "  b: {go: [{when: on, to: a}], initial: x, states: {x: {initial: y, states: {y: {}}}}}\n");
  const auto on = *machine.input<bool>("on");
  Instance one(machine), two(machine);
  CueList<512> list(kAllRecords);
  std::vector<std::string> expected, told;
  for (int step = 0; step < 3; ++step) {
    one.set(on, step == 1);
    two.set(on, step == 1);
    list.clear();
    EXPECT_TRUE(one.advance(milliseconds(10), list).complete());
    for (const Cue& cue : list) expected.push_back(line(cue));
    const Advanced done = two.advance(
        milliseconds(10), [&](const Cue& cue) { told.push_back(line(cue)); }, kAllRecords);
    EXPECT_TRUE(done.complete());
    EXPECT_EQ(one.hash(), two.hash());
  }
  EXPECT_EQ(told, expected);
  EXPECT_GT(told.size(), 2u * 64 * 3);
}

}  // namespace
}  // namespace mobrin::test
