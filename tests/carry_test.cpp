// Restoring, saving and reloading: what was going on goes on.
#include "mobrin/core/carry.hpp"
#include "made_machine.hpp"
#include "mobrin/io/save.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using Lines = std::vector<std::string>;

void cover(Instance& instance, Ticks to, Lines& lines) {
  static std::vector<Cue> memory(500'000);
  CueBuffer cues(memory, kAllRecords);
  ASSERT_TRUE(instance.advance(to - instance.now(), cues).complete());
  for (const Cue& cue : cues) lines.push_back(line(cue) + " #" + std::to_string(cue.ordinal));
}

// Runs a script from its entry `from` on, which lies at or after the instance's now.
template <class Before>
Lines run(Instance& instance, const std::vector<ScriptEntry>& script, std::size_t from, const Before& before) {
  Lines lines;
  for (std::size_t i = from; i < script.size(); ++i) {
    if (script[i].at > instance.now()) cover(instance, script[i].at, lines);
    before(i, lines);
    write(instance, script[i]);
  }
  cover(instance, script.back().at + milliseconds(300), lines);
  return lines;
}

class Replay : public testing::TestWithParam<int> {};

TEST_P(Replay, OfATapeIsBitExactAfterRestoringOrLoadingAtAnyPoint) {
  std::uint32_t from = static_cast<std::uint32_t>(GetParam()) * 1000;
  for (int more = 60; more > 0; --more) {
    SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    const Machine other = *compile(subject.definition).machine;  // the same, as another process has it
    ASSERT_EQ(other.fingerprint(), subject.machine.fingerprint());
    const std::vector<ScriptEntry> script = random.script(12);
    struct Point {
      std::size_t entry, told;
      std::vector<std::byte> block;
      std::string save;
    };
    std::vector<Point> points;
    Instance first(subject.machine);
    const Lines all = run(first, script, 0, [&](std::size_t i, const Lines& lines) {
      points.push_back({i, lines.size(), {first.block().begin(), first.block().end()}, save_text(first)});
    });
    for (const Point& point : points) {
      const Lines rest(all.begin() + static_cast<std::ptrdiff_t>(point.told), all.end());
      const auto nothing = [](std::size_t, const Lines&) {};
      Instance restored(subject.machine);
      ASSERT_TRUE(restored.restore(point.block));
      ASSERT_EQ(run(restored, script, point.entry, nothing), rest) << "seed " << seed << " entry " << point.entry;
      ASSERT_EQ(restored.hash(), first.hash());
      Instance loaded(other);
      const auto saved = read_save(point.save);
      ASSERT_TRUE(saved) << saved.error().message;
      ASSERT_TRUE(load(*saved, loaded).empty()) << "seed " << seed;
      ASSERT_EQ(save_text(loaded), point.save) << "seed " << seed << other.dump();
      ASSERT_EQ(run(loaded, script, point.entry, nothing), rest) << "seed " << seed << " entry " << point.entry;
      ASSERT_EQ(save_text(loaded), save_text(first)) << "seed " << seed;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(Seeds, Replay, testing::Range(0, 4));

const char* const kBefore = R"(
inputs: {speed: 1.0, health: 6, gear: {one_of: [net, smoker]}, jump: {pulse: 500ms}, old: true}
cues: {step: sound}
clips:
  walk: {frames: [0-3], fps: 4, play: loop}
  hop:  {frames: [0-3], fps: 4}
  buzz: {frames: [0-1], fps: 4, play: loop}
marks: {walk: {cues: {3: step}}}
regions:
  body:
    initial: ground
    states:
      ground:
        vars: {steps: 0, tired: 0.5}
        initial: stand
        states:
          stand: {go: [{when: speed > 0, to: walk}]}
          walk: {clip: walk, speed: speed, each_loop: [steps = steps + 1], go: [{pulse: jump, when: health > 90, to: hop}]}
          hop: {clip: hop, go: [{at: end, to: stand}]}
  wings:
    states: {buzz: {clip: buzz}}
)";

class Reload : public testing::Test {
 protected:
  Reload() {
    CueList<64> cues;
    static_cast<void>(before_.set_by_name("health", FieldValue(std::int64_t{3})));
    static_cast<void>(before_.set_by_name("gear", FieldValue(std::string("smoker"))));
    static_cast<void>(before_.pulse_by_name("jump"));
    EXPECT_TRUE(before_.advance(milliseconds(1250), cues).complete());
    before_.set_rate(0.5);
  }
  // What a changed machine takes over, and what it loses.
  static std::string replaced(const std::string& from, const std::string& to) {
    std::string text = kBefore;
    const std::size_t at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
  }
  static Lines texts(const CarryLosses& losses) {
    Lines out;
    for (const CarryLoss& loss : losses) out.push_back(loss.text);
    return out;
  }

  Machine machine_ = machine_of(kBefore);
  Instance before_{machine_};
};

TEST_F(Reload, WhatIsUnchangedGoesOn) {
  const Machine same = machine_of(kBefore);
  Instance after(same);
  EXPECT_TRUE(carry_over(before_, after).empty());
  EXPECT_EQ(save_text(after), save_text(before_));
  EXPECT_TRUE(after.in(*same.state("body/ground/walk")));
  EXPECT_EQ(after.now(), milliseconds(1250));
  EXPECT_EQ(after.rate(), 0.5);
  EXPECT_EQ(after.shown(0).frame, 1);
}

TEST_F(Reload, APlayKeepsItsRelativePositionInAClipThatChanged) {
  // Four frames a second for four frames became eight: 250 ms into the clip's 1000 is a quarter of its 500.
  Instance after(machine_of(replaced("walk: {frames: [0-3], fps: 4,", "walk: {frames: [0-3], fps: 8,")));
  EXPECT_TRUE(carry_over(before_, after).empty());
  EXPECT_EQ(after.shown(0).frame, 1);
  EXPECT_NEAR(after.shown(0).seconds, 0.125, 1e-9);
  CueList<8> cues(kAllRecords);
  ASSERT_TRUE(after.advance(milliseconds(750), cues).complete());  // at half the rate: 375 ms of the clip
  ASSERT_EQ(cues.size(), 3u);
  EXPECT_EQ(line(cues[0]), "1750 step walk:3");
  EXPECT_EQ(line(cues[1]), "1750 loop wings/buzz");
  EXPECT_EQ(line(cues[2]), "2000 loop body/ground/walk");
}

TEST_F(Reload, InputsAndVariablesAreKeptByNameAndTheLostAreTold) {
  Instance after(machine_of(replaced("health: 6, gear: {one_of: [net, smoker]}, jump: {pulse: 500ms}, old: true",
                                     "fresh: 0.5, health: 6.0, gear: {one_of: [net, lamp]}, jump: {pulse: 500ms}")));
  EXPECT_EQ(
      texts(carry_over(before_, after)),
      (Lines{"the input \"gear\" was \"smoker\", which is gone; it has its start value", "the input \"old\" is gone"}));
  EXPECT_EQ(std::get<double>(after.input_value(2)), 3.0);
  const SavedInstance saved = save(after);
  EXPECT_EQ(saved.variables[0].name, "steps");
  EXPECT_EQ(std::get<std::int64_t>(saved.variables[0].value), 1);
}

TEST_F(Reload, AStateThatIsGoneLeavesItsPlaceToTheNearestAround) {
  const std::string renamed = replaced("walk: {clip: walk, speed", "stroll: {clip: walk, speed");
  const std::size_t target = renamed.find("to: walk}");
  Instance after(machine_of(std::string(renamed).replace(target, 9, "to: stroll}")));
  const CarryLosses losses = carry_over(before_, after);
  EXPECT_EQ(texts(losses),
            (Lines{"the state \"body/ground/walk\" is gone; \"body/ground/stand\" stands in its place"}));
  EXPECT_EQ(losses[0].kind, CarryLoss::Kind::state);
  EXPECT_EQ(std::get<std::int64_t>(save(after).variables[0].value), 1);  // `ground` was there all along
  CueList<8> cues;
  ASSERT_TRUE(after.advance({}, cues).complete());  // what holds now is looked at anew
  EXPECT_TRUE(after.in(*after.machine().state("body/ground/stroll")));
}

TEST_F(Reload, AnotherClipInTheSameStateBeginsAnew) {
  Instance after(machine_of(replaced("buzz: {clip: buzz}", "buzz: {clip: hop}")));
  EXPECT_EQ(texts(carry_over(before_, after)),
            (Lines{"what \"wings/buzz\" plays is another clip now; it begins anew"}));
  EXPECT_EQ(after.shown(1).seconds, 0);
}

TEST_F(Reload, ANewRegionAndANewVariableStartAtTheirStart) {
  Instance after(machine_of(
      replaced("  wings:\n", "  eyes: {initial: shut, states: {open: {}, shut: {vars: {n: 7}}}}\n  wings:\n")));
  EXPECT_TRUE(carry_over(before_, after).empty());
  EXPECT_TRUE(after.in(*after.machine().state("eyes/shut")));
  EXPECT_TRUE(after.in(*after.machine().state("wings/buzz")));
  EXPECT_EQ(after.shown(2).frame, 1);
}

TEST_F(Reload, AGuardThatChangedIsLookedAtAtTheNextAdvanceWithThePulseStillAlive) {
  static_cast<void>(before_.pulse_by_name("jump"));
  Instance after(machine_of(replaced("health > 90", "health > 1")));
  EXPECT_TRUE(carry_over(before_, after).empty());
  CueList<8> cues;
  ASSERT_TRUE(after.advance(milliseconds(1), cues).complete());
  EXPECT_TRUE(after.in(*after.machine().state("body/ground/hop")));
}

// One that was done while all was held keeps the way its plays ran: nothing turns any more.
TEST(Carry, WhatIsDoneIsCarriedOverAsItStands) {
  const Machine machine = machine_of(
      "inputs: {p: pulse, v: {float: -1, min: -4, max: 4}}\n"
      "clips: {c: {frames: [0-3], fps: 4, play: once}}\n"
      "regions:\n"
      "  body: {initial: a, states: {a: {go: [{pulse: p, to: over}]}, over: {final: true}}}\n"
      "  wings: {initial: beat, states: {beat: {clip: c, speed: v}}}\n");
  Instance it(machine);
  CueList<8> cues;
  (void)it.advance(milliseconds(300), cues);
  it.set_rate(0);
  it.set(*machine.input<float>("v"), 2.0f);
  it.pulse(*machine.pulse("p"));
  (void)it.advance(milliseconds(300), cues);
  ASSERT_TRUE(it.done());
  it.set_rate(1);
  (void)it.advance(milliseconds(300), cues);
  Instance other(machine);
  EXPECT_TRUE(carry_over(it, other).empty());
  EXPECT_EQ(other.hash(), it.hash());
  EXPECT_EQ(save_text(other), save_text(it));
}

// States that are never active together share a timer; what it held of one that was left is nothing to another.
TEST(Carry, ARuleAfterATimeThatIsNewCountsFromTheReload) {
  const std::string first = "inputs: {p: pulse}\ninitial: a\nstates: {a: {go: [{after: 1s, to: b}]}, c: {}, b: {go: [";
  const Machine before = machine_of(first + "{pulse: p, to: c}]}}\n");
  const Machine after = machine_of(first + "{pulse: p, to: c}, {after: 500ms, to: c}]}}\n");
  Instance it(before), carried(after), loaded(after);
  CueList<8> cues;
  (void)it.advance(milliseconds(1100), cues);
  EXPECT_TRUE(carry_over(it, carried).empty());
  EXPECT_TRUE(load(*read_save(save_text(it)), loaded).empty());
  for (Instance* each : {&carried, &loaded}) {
    (void)each->advance(milliseconds(499), cues);
    EXPECT_EQ(each->active(), after.state("b")->index);
    (void)each->advance(milliseconds(1), cues);
    EXPECT_EQ(each->active(), after.state("c")->index);
  }
}

TEST(Carry, AStateInPlaceOfOneThatIsGoneBeginsAnew) {
  const std::string a =
      "inputs: {p: pulse}\ninitial: a\nstates: {a: {vars: {n: 1}, enter: [n = n + 1], go: [{pulse: p, to: b}, {after: "
      "1s, to: c}]}, c: {}";
  const Machine before = machine_of(a + ", b: {}}\n"),
                after = machine_of(std::string(a).replace(a.find("to: b"), 5, "to: c") + "}\n");
  Instance it(before), carried(after), loaded(after);
  CueList<8> cues;
  (void)it.advance(milliseconds(700), cues);
  it.pulse(*before.pulse("p"));
  (void)it.advance(milliseconds(700), cues);
  ASSERT_EQ(it.active(), before.state("b")->index);
  EXPECT_EQ(carry_over(it, carried).size(), 1U);
  EXPECT_EQ(load(*read_save(save_text(it)), loaded).size(), 1U);
  for (Instance* each : {&carried, &loaded}) {
    EXPECT_EQ(std::get<std::int64_t>(save(*each).variables.front().value), 1);  // no action runs
    (void)each->advance(milliseconds(999), cues);
    EXPECT_EQ(each->active(), after.state("a")->index);
    (void)each->advance(milliseconds(1), cues);
    EXPECT_EQ(each->active(), after.state("c")->index);
  }
}

// What was set while all was held waits for the next advance, wherever it is carried to before.
TEST(Carry, APlayThatWaitsToEndEndsAfterIt) {
  const Machine machine = machine_of(
      "inputs: {p: pulse, v: {float: 0, min: 0, max: 4}, n: 0}\ninitial: a\n"
      "clips: {hop: {frames: [0, 0], fps: 10, play: once}}\n"
      "states:\n"
      "  a: {clip: hop, go: [{pulse: p, to: b, start: same}]}\n"
      "  b: {clip: hop, speed: v, go: [{at: end, to: c}]}\n"
      "  c: {}\n");
  for (const bool writes_more : {false, true}) {
    Instance it(machine);
    CueList<32> cues;
    (void)it.advance(seconds(1), cues);
    it.pulse(*machine.pulse("p"));
    (void)it.advance(Ticks(1), cues);
    ASSERT_TRUE(it.set_rate(0));
    it.set(*machine.input<float>("v"), 1.0f);
    (void)it.advance(Ticks(1), cues);
    ASSERT_TRUE(it.set_rate(1));
    if (writes_more) it.set(*machine.input<std::int32_t>("n"), 5);
    Instance carried(machine), loaded(machine);
    EXPECT_TRUE(carry_over(it, carried).empty());
    const auto save = read_save(save_text(it));
    ASSERT_TRUE(save);
    EXPECT_TRUE(load(*save, loaded).empty());
    for (Instance* each : {&it, &carried, &loaded}) {
      EXPECT_EQ(each->hash(), it.hash());
      EXPECT_EQ(each->active(), machine.state("b")->index);
    }
    for (Instance* each : {&it, &carried, &loaded}) {
      (void)each->advance(Ticks(5), cues);
      EXPECT_EQ(each->active(), machine.state("c")->index);
    }
  }
}

TEST(Save, IsReadableByPeople) {
  Instance instance(machine_of(
      "inputs: {v: 1.5}\nclips: {c: {frames: [0-1], fps: 2, play: loop}}\nstates: {a: {clip: c, vars: {n: 2}}}"));
  CueList<8> cues;
  ASSERT_TRUE(instance.advance(milliseconds(250), cues).complete());
  const std::string text = save_text(instance);
  for (const char* words : {"\"save\": \"m\"", "\"now\": 176400000", "\"name\": \"v\"", "\"value\": 1.5",
                            "\"state\": \"a\"", "\"c\"", "\"cycle\": 705600000"})
    EXPECT_NE(text.find(words), std::string::npos) << words << "\n" << text;
}

TEST(Save, OfADoneInstanceRestsAgain) {
  const Machine machine = machine_of("states: {end: {length: 10ms, final: true}}");
  Instance instance(machine), again(machine);
  CueList<8> cues;
  ASSERT_TRUE(instance.advance(milliseconds(20), cues).complete());
  ASSERT_TRUE(instance.done());
  EXPECT_TRUE(load(*read_save(save_text(instance)), again).empty());
  EXPECT_TRUE(again.done());
  cues.clear();
  ASSERT_TRUE(again.advance(seconds(1), cues).complete());
  EXPECT_TRUE(cues.empty());
}

TEST(Save, WhatIsNoneIsRefusedWithTheReason) {
  const auto error = [](const std::string& text) {
    const auto saved = read_save(text);
    return saved ? "" : saved.error().message;
  };
  EXPECT_EQ(error("{"), "the save is no JSON");
  EXPECT_EQ(error("[]"), "the save cannot be read: `mobrin` is asked of what is no map");
  EXPECT_EQ(error("{\"mobrin\": 2}"), "the save cannot be read: it is not of version 1 of the format");
  EXPECT_EQ(error("{\"mobrin\": 1, \"save\": 3}"), "the save cannot be read: `save` is no text");
  EXPECT_EQ(error("{\"mobrin\": 1, \"save\": \"m\"}"), "the save cannot be read: `rate` is missing");
  EXPECT_EQ(error("{\"mobrin\": 1, \"save\": \"m\", \"rate\": 1e3}"),
            "the save cannot be read: `rate` is no whole number");
  EXPECT_EQ(error("{\"mobrin\": 1, \"save\": \"m\", \"rate\": 65536, \"inputs\": {}}"),
            "the save cannot be read: `inputs` is no list");
}

TEST(Save, BrokenOnesNeverHarm) {
  // Each byte left out or changed: refused, or loaded into something that runs.
  Instance instance(machine_of(kBefore));
  CueList<64> cues;
  ASSERT_TRUE(instance.advance(milliseconds(700), cues).complete());
  const std::string text = save_text(instance);
  for (std::size_t i = 0; i < text.size(); ++i) {
    std::string cut = text, changed = text;
    cut.erase(i, 1);
    changed[i] = changed[i] == '9' ? '-' : '9';
    for (const std::string& broken : {cut, changed, text.substr(0, i)}) {
      const auto saved = read_save(broken);
      if (!saved) continue;
      Instance again(instance.machine());
      static_cast<void>(load(*saved, again));
      cues.clear();
      static_cast<void>(again.advance(milliseconds(500), cues));
      ASSERT_GE(again.now().count, 0);
    }
  }
}

}  // namespace
}  // namespace mobrin::test
