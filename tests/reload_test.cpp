// Reloads, saves and tapes: what is carried over is told or refused, never lost without a word.
#include <type_traits>

#include "made_machine.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/io/scene.hpp"
#include "mobrin/pack/pack.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// --- results, handles, reloads --------------------------------------------------------------------------------------

TEST(ResultDeathTest, TheValueOfAnErrorEndsTheProgramWithItsText) {
  const Machine machine = machine_of("inputs: {move: 0.0}\nstates: {a: {}}");
  const auto wrong = machine.input<float>("mvoe");
  EXPECT_DEATH((void)*wrong, "there is no input \"mvoe\"; did you mean \"move\"");
  EXPECT_DEATH((void)wrong->index, "mvoe");
  EXPECT_EQ(wrong.value_or(Input<float>{7, 3}).index, 3);
  EXPECT_EQ(machine.input<float>("move").value_or({7, 3}).index, 0);
}

TEST(Bindings, FetchAllWithEveryErrorAndAgainFromAnotherMachine) {
  const Machine before = machine_of(
      "inputs: {v: 0.0, p: pulse, c: {one_of: [x, y]}}\ncues: {k: damage}\ninitial: a\nstates: {a: {traits: [busy]}}");
  const Machine after =
      machine_of("inputs: {new: 0, v: 0.0, c: {one_of: [y, z]}}\ncues: {l: sound}\nstates: {a: {traits: [busy]}}");
  Input<float> v, wrong;
  Pulse p;
  Choice y;
  State a;
  Trait busy;
  int told = 0;
  Router router(before);
  EXPECT_TRUE(router.on("k", [&](const Cue&) { ++told; }));
  EXPECT_TRUE(router.on_kind("damage", [&](const Cue&) { ++told; }));
  Bindings names(before);
  names.input(v, "v")
      .input(wrong, "vv")
      .pulse(p, "q")
      .pulse(p, "p")
      .choice(y, "c", "y")
      .state(a, "a")
      .trait(busy, "busy")
      .router(router);
  EXPECT_EQ(names.errors().size(), 2u) << names.text();
  EXPECT_FALSE(names);
  Instance live(after);
  EXPECT_EQ(live.set(v, 2.0f), Written::refused) << "a handle of before";
  const auto gone = names.rebind(after);
  EXPECT_EQ(names.text(),
            "there is no input \"vv\"; did you mean \"v\"?\nthere is no pulse \"q\". There is none.\nthere is no pulse "
            "\"p\". "
            "There is none.\nthere is no cue \"k\"\nno cue is of the kind \"damage\"\n");
  EXPECT_EQ(gone.size(), 5u);
  EXPECT_EQ(live.set(v, 2.0f), Written::changed);
  EXPECT_EQ(y.index, 0);
  EXPECT_EQ(live.pulse(p), Written::refused) << "what has gone is refused, not misread";
  names.rebind(before);
  EXPECT_EQ(names.errors().size(), 2u) << "what comes back is bound again";
}

TEST(Routers, CountWhatIsNotTheirs) {
  const Machine mine = machine_of(
      "cues: {k: x}\nclips: {c: {frames: [0-1], fps: 10, play: loop}}\nmarks: {c: {cues: {1: k}}}\nstates: {a: {clip: "
      "c}}");
  const Machine other = machine_of(
      "cues: {k: x}\nclips: {c: {frames: [0-1], fps: 10, play: loop}}\nmarks: {c: {cues: {1: k}}}\nstates: {a: {clip: "
      "c}}");
  int heard = 0;
  Router router(mine);
  EXPECT_TRUE(router.on("k", [&](const Cue&) { ++heard; }));
  Instance instance(other);
  instance.advance(seconds(1), router);
  EXPECT_EQ(heard, 0);
  EXPECT_EQ(router.strangers(), 5u);
  EXPECT_TRUE(router.rebind(other).empty());
  instance.advance(seconds(1), router);
  EXPECT_EQ(heard, 5);
  EXPECT_EQ(router.strangers(), 0u);
}

TEST(CarryOver, TellsWhatItClamps) {
  const Machine before = machine_of("inputs: {n: 50, v: 7.5, ok: 3}\nstates: {a: {}}");
  const Machine after = machine_of("inputs: {n: {int: 0, max: 9}, v: {float: 0, max: 2.5}, ok: 3}\nstates: {a: {}}");
  Instance from(before), into(after);
  from.advance(seconds(1), [](const Cue&) {});
  std::string text;
  for (const CarryLoss& loss : carry_over(from, into)) text += loss.text + "\n";
  EXPECT_EQ(text, "the input \"n\" was 50 and is clamped to 9\nthe input \"v\" was 7.5 and is clamped to 2.5\n");
  EXPECT_EQ(into.input_value(0), FieldValue(std::int64_t{9}));
}

TEST(CarryOver, TellsCuesThatAreGone) {
  const Machine before = machine_of(
      "cues: {hiss: {kind: sound}, puff: {kind: spawn}}\nstates: {a: {enter: [{tell: hiss}, {tell: puff}]}}");
  const Machine after =
      machine_of("cues: {sizzle: {kind: sound}, puff: {kind: spawn}}\nstates: {a: {enter: [{tell: puff}]}}");
  Instance from(before), into(after);
  const CarryLosses losses = carry_over(from, into);
  ASSERT_EQ(losses.size(), 1u);
  EXPECT_EQ(losses[0].kind, CarryLoss::Kind::cue);
  EXPECT_EQ(losses[0].name, "hiss");
  Crowd many(before), others(after);
  many.add();
  many.add();
  EXPECT_EQ(carry_over(many, others).size(), 1u) << "once, not once a member";
}

TEST(CarryOver, OfACrowdGoesOnAsItsMembersApart) {
  for (std::uint32_t seed = 0; seed < 40; ++seed) {
    RandomMachine random(seed);
    const MachineDef definition = made(seed, random);
    const Compiled one = compile(definition);
    if (!one.machine) continue;
    const Machine other = *compile(definition).machine;
    Crowd from(*one.machine), into(other);
    CrowdCues cues;
    for (int i = 0; i < 5; ++i) from.add();
    for (int i = 0; i < 10; ++i) {
      Instance probe(*one.machine);
      for (std::uint32_t m = 0; m < 5; ++m)
        if (random.pick(2) == 0)
          from.set(from.at(m), *one.machine->input<float>("v"), static_cast<float>(random.pick(9) - 4));
      cues.clear();
      ASSERT_TRUE(from.advance(milliseconds(random.pick(60)), cues).complete());
    }
    const Member gone = from.at(2);
    from.remove(gone);
    EXPECT_TRUE(carry_over(from, into).empty()) << seed;
    EXPECT_EQ(into.now(), from.now());
    EXPECT_FALSE(into.has(gone));
    EXPECT_EQ(into.size(), 4u);
    std::vector<std::string> told, expected;
    for (int i = 0; i < 10; ++i) {
      for (Crowd* crowd : {&from, &into}) {
        cues.clear();
        ASSERT_TRUE(crowd->advance(milliseconds(70), cues).complete());
        for (const CrowdCue& each : cues)
          (crowd == &from ? expected : told).push_back(std::to_string(each.place) + " " + record(each.cue));
      }
    }
    ASSERT_EQ(told, expected) << seed;
    for (std::uint32_t m = 0; m < 5; ++m)
      if (from.at(m).generation != 0) {
        ASSERT_EQ(from.copy(from.at(m))->hash(), into.copy(into.at(m))->hash());
      }
  }
}

TEST(Saves, OfBlendsKeepTheirFades) {
  const Machine machine = machine_of(R"(
inputs: {v: 0.0, p: pulse}
clips: {c: {frames: [0-3], fps: 10, play: loop}, d: {frames: [0-3], fps: 10, play: loop}, e: {frames: [0-3], fps: 10, play: loop}}
initial: a
states:
  a: {blend: {x: v, points: [{at: 0, clip: c}, {at: 1, clip: d}]}, go: [{pulse: p, to: b, fade: 1s}]}
  b: {clip: e}
)");
  Instance live(machine), loaded(machine);
  live.advance(seconds(0.5), [](const Cue&) {});
  live.pulse(*machine.pulse("p"));
  live.advance(seconds(0.25), [](const Cue&) {});
  live.set(*machine.input<float>("v"), 1.0f);
  live.advance(seconds(0.05), [](const Cue&) {});
  EXPECT_TRUE(load(*read_save(save_text(live)), loaded).empty());
  EXPECT_EQ(loaded.layers().size(), 2u);
  EXPECT_EQ(loaded.hash(), live.hash());
}

TEST(Saves, KeepWhatToGoBackToWhereNothingIsActive) {
  const Machine machine = machine_of(R"(
inputs: {go: pulse, leave: pulse, again: pulse}
initial: fight
states:
  fight:
    go: [{pulse: leave, to: away}]
    regions:
      arms: {initial: rest, states: {rest: {go: [{pulse: go, to: net}, {pulse: again, to: back}]}, net: {}}}
      legs: {states: {stand: {}}}
  away: {go: [{pulse: leave, to: fight}]}
)");
  Instance live(machine), loaded(machine);
  const auto press = [&](Instance& it, const char* name) {
    it.pulse(*machine.pulse(name));
    (void)it.advance(milliseconds(10), [](const Cue&) {});
  };
  press(live, "go"), press(live, "leave");
  EXPECT_TRUE(load(*read_save(save_text(live)), loaded).empty());
  EXPECT_EQ(loaded.hash(), live.hash());
  for (Instance* it : {&live, &loaded}) {
    press(*it, "leave"), press(*it, "again");
    EXPECT_TRUE(it->in(*machine.state("fight/arms/net")));
  }
}

TEST(Saves, OfMachinesWithoutNamesGoByNumbers) {
  for (std::uint32_t seed = 0; seed < 60; ++seed) {
    RandomMachine random(seed);
    const Compiled compiled = compile(made(seed, random));
    if (!compiled.machine) continue;
    const Machine bare = *load_pack(pack(*compiled.machine, {false}));
    Instance named(*compiled.machine), live(bare), loaded(bare);
    for (Instance* each : {&named, &live}) {
      RandomMachine writes(seed + 9);
      for (int i = 0; i < 12; ++i) {
        for (std::uint16_t input = 0; input < bare.inputs().size(); ++input)
          if (std::holds_alternative<FloatInput>(bare.inputs()[input].kind))
            each->set(Input<float>{each->machine().serial(), input}, static_cast<float>(writes.pick(9) - 4));
        each->advance(milliseconds(writes.pick(90)), [](const Cue&) {});
      }
    }
    ASSERT_EQ(live.hash(), named.hash());
    const CarryLosses losses = load(*read_save(save_text(live)), loaded);
    ASSERT_TRUE(losses.empty()) << seed << losses[0].text << save_text(live);
    ASSERT_EQ(loaded.hash(), live.hash()) << seed;
    const std::uint64_t before = loaded.hash();
    const CarryLosses refused = carry_over(named, loaded);
    ASSERT_EQ(refused.size(), 1u);
    EXPECT_EQ(refused[0].kind, CarryLoss::Kind::machine);
    EXPECT_EQ(loaded.hash(), before) << "and nothing was touched";
  }
}

TEST(Saves, HashAlikeAtOnce) {
  for (std::uint32_t seed = 0; seed < 150; ++seed) {
    RandomMachine random(seed);
    const Compiled compiled = compile(made(seed, random));
    if (!compiled.machine) continue;
    Instance live(*compiled.machine);
    for (int i = 0; i < 20; ++i) {
      random.write(live);
      live.advance(milliseconds(random.pick(60)), [](const Cue&) {});
      Instance loaded(*compiled.machine);
      ASSERT_TRUE(load(save(live), loaded).empty());
      ASSERT_EQ(loaded.hash(), live.hash()) << "seed " << seed << " step " << i;
    }
  }
}

// --- tapes ----------------------------------------------------------------------------------------------------------

TEST(Tapes, WithHostileNamesAreReadBack) {
  for (const char* name : {"bug",   "bug: 12", "#1",  "- x", "a\nb", "12", "null", "~", "yes", "{a}", "a, b",
                           "\"q\"", "it's",    "é\t", " x ", "&a",   "*b", "!t",   "%", "@",   "`"}) {
    Tape tape;
    tape.name = name;
    tape.machine = "";
    TapeStep& step = tape.steps.emplace_back();
    step.at = milliseconds(5);
    step.set.emplace_back(Text("carrying"), FieldValue(std::string(name)));
    step.pulses.emplace_back(name);
    step.force = Text("air/fall");
    step.place = Text(name);
    step.played = Ticks(7);
    tape.until = milliseconds(10);
    const LoadedTape again = load_tape_text(tape_text(tape), "t.yaml");
    ASSERT_TRUE(again.tape) << tape_text(tape) << joined(again.findings);
    EXPECT_EQ(again.tape->name, name);
    EXPECT_EQ(again.tape->steps[0].set[0].second, FieldValue(std::string(name))) << tape_text(tape);
    EXPECT_EQ(again.tape->steps[0].pulses[0].text, name);
    EXPECT_EQ(again.tape->steps[0].force->text, "air/fall");
    EXPECT_EQ(again.tape->steps[0].place->text, name);
    EXPECT_EQ(again.tape->steps[0].played, Ticks(7));
  }
}

TEST(Tapes, StepsOfOneInstantActInTheOrderOfTheFile) {
  const Machine machine =
      machine_of("inputs: {p: {pulse: 50ms}}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, b: {}}");
  const auto log = [&](const char* steps) { return text_of(log_of(machine, tape_of(steps), milliseconds(20))); };
  EXPECT_EQ(log("  - {at: 10ms, pulse: p}\n  - {at: 10ms, reset: true}\n"),
            "0 enter a\n10 leave a\n10 enter b\n10 leave b\n10 enter a\n");
  EXPECT_EQ(log("  - {at: 10ms, reset: true}\n  - {at: 10ms, pulse: p}\n"),
            "0 enter a\n10 leave a\n10 enter a\n10 leave a\n10 enter b\n");
  EXPECT_EQ(log("  - {at: 10ms, pulse: p}\n  - {at: 10ms, settled: true, reset: false, pulse: p}\n"),
            "0 enter a\n10 leave a\n10 enter b\n");
  EXPECT_EQ(log("  - {at: 10ms, force: b}\n"), "0 enter a\n10 leave a\n10 enter b\n");
  EXPECT_EQ(log("  - {at: 10ms, place: b}\n  - {at: 15ms, force: a}\n"), "0 enter a\n15 leave b\n15 enter a\n");
  EXPECT_EQ(log("  - {at: 10ms, pulse: p}\n  - {at: 10ms, place: b, reset: true}\n"),
            "0 enter a\n10 leave b\n10 enter a\n");
  EXPECT_EQ(log("  - {at: 10ms, pulse: p}\n  - {at: 10ms, settled: true, place: a}\n"),
            "0 enter a\n10 leave a\n10 enter b\n");
  for (const char* step : {"  - {at: 10ms, force: bb}\n", "  - {at: 10ms, place: bb}\n"})
    EXPECT_NE(joined(check_tape(tape_of(step), machine, "t.yaml")).find("there is no state \"bb\""), std::string::npos);
}

// What is written after an advance of no time comes after what that settled, live, in a tape and in a scene.
TEST(Recorder, TellsApartWhatAStepOfNoTimeParts) {
  const std::string text = "inputs: {v: 0}\ninitial: a\nstates:\n  a: {go: [{when: v == 1, to: b}]}\n  b: {}\n";
  const Machine machine = machine_of(text);
  Instance live(machine);
  Recorder recorder(live, "parts");
  const auto write = [&](std::int32_t value) { live.set(*machine.input<std::int32_t>("v"), value); };
  const auto go_on = [&](Ticks dt) { (void)live.advance(dt, [](const Cue&) {}); };
  go_on(milliseconds(20));
  write(1);
  go_on(Ticks(0));
  write(2);
  go_on(milliseconds(20));
  EXPECT_TRUE(live.in(*machine.state("b")));
  const LoadedTape loaded = load_tape_text(tape_text(recorder.tape()), "t.yaml");
  ASSERT_TRUE(loaded.tape) << joined(loaded.findings);
  Instance again(machine);
  run_tape(again, *loaded.tape, {}, [](const Cue&) {});
  EXPECT_EQ(again.hash(), live.hash());

  Scene scene;
  scene.until = milliseconds(40);
  SceneActor actor;
  actor.name = "one";
  actor.machine = machine;
  actor.tape = *loaded.tape;
  scene.actors.push_back(actor);
  SceneRun run(scene);
  run.run(scene.until, [](const SceneRecord&) {});
  EXPECT_EQ(run.instance(0).hash(), live.hash());
}

TEST(Tapes, TicksHaveTheLimitsOfTheClock) {
  EXPECT_TRUE(
      load_tape_text("mobrin: 1\ntape: t\nsteps: [{at: {ticks: 4611686018427387904}, set: {a: 1}}]\n", "t").tape);
  EXPECT_FALSE(
      load_tape_text("mobrin: 1\ntape: t\nsteps: [{at: {ticks: 4611686018427387905}, set: {a: 1}}]\n", "t").tape);
  const Machine machine =
      machine_of("clips: {c: {frames: [0], fps: 1000, play: loop}}\nstates: {a: {clip: c, speed: 64}}\n");
  Instance instance(machine);
  run_tape(instance, Tape{}, {60, Ticks(std::int64_t{1} << 61), kGameRecords}, [](const Cue&) {});  // ends
  EXPECT_EQ(instance.now().count, std::int64_t{1} << 61);
}

TEST(Recorder, CutsBackWithItsInstance) {
  int compared = 0;
  for (std::uint32_t seed = 0; seed < 200; ++seed) {
    RandomMachine random(seed);
    const Compiled compiled = compile(made(seed, random));
    if (!compiled.machine) continue;
    Instance live(*compiled.machine, {.tickets = 0});
    Recorder recorder(live, "back: and forth");
    std::vector<std::byte> taken;
    for (int i = 0; i < 60; ++i) {
      if (random.pick(8) == 0) taken.assign(live.block().begin(), live.block().end());
      if (random.pick(12) == 0 && !taken.empty()) {
        ASSERT_TRUE(live.restore(taken));
      }
      if (random.pick(2) == 0) random.write(live);
      live.advance(milliseconds(1 + random.pick(40)), [](const Cue&) {});
    }
    const LoadedTape tape = load_tape_text(tape_text(recorder.tape()), "t.yaml");
    ASSERT_TRUE(tape.tape) << tape_text(recorder.tape()) << joined(tape.findings);
    Instance again(*compiled.machine, {.tickets = 0});
    run_tape(again, *tape.tape, {}, [](const Cue&) {});
    ASSERT_EQ(again.hash(), live.hash()) << "seed " << seed << "\n" << tape_text(recorder.tape());
    ++compared;
  }
  EXPECT_GT(compared, 20);
}

// --- scenes cannot be written wrongly -------------------------------------------------------------------------------

static_assert(std::is_constructible_v<SceneRun, const Scene&>);
static_assert(!std::is_constructible_v<SceneRun, Scene>, "a temporary would be gone at once");
static_assert(!std::is_move_constructible_v<SceneRun> && !std::is_copy_constructible_v<SceneRun>);
static_assert(std::is_move_constructible_v<Router> && !std::is_copy_constructible_v<Router>);

}  // namespace
}  // namespace mobrin::test
