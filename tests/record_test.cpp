// Recorded inputs replay to the same result; characters share a machine's logic.
#include "mobrin/io/record.hpp"

#include <filesystem>
#include <fstream>
#include <functional>

#include <unistd.h>

#include "made_machine.hpp"
#include "mobrin/core/carry.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using Lines = std::vector<std::string>;

// Advances a live instance unevenly, as a game does.
void play(Instance& instance, RandomMachine& random, int steps, Lines& lines) {
  static std::vector<Cue> memory(500'000);
  for (int i = 0; i < steps; ++i) {
    if (random.pick(3) == 0) random.write(instance);
    CueBuffer cues(memory, kAllRecords);
    // Some steps take no time: what is written after them has its own turn.
    const Ticks dt(random.pick(4) == 0 ? 0 : 1'000'000 + random.pick(30'000'000));
    ASSERT_TRUE(instance.advance(dt, cues).complete());
    for (const Cue& cue : cues) lines.push_back(line(cue));
  }
}

TEST(Recorder, ItsTapeReplaysTheLiveRunToTheTick) {
  std::size_t told = 0;
  std::uint32_t from = 0;
  for (int more = 60; more > 0; --more) {
    SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    Instance live(subject.machine);
    Lines lines;
    Recorder recorder(live, "live");
    play(live, random, 150, lines);
    told += lines.size();
    const LoadedTape loaded = load_tape_text(tape_text(recorder.tape()), "live.tape.yaml");
    ASSERT_TRUE(loaded.tape) << joined(loaded.findings) << tape_text(recorder.tape());
    EXPECT_TRUE(check_tape(*loaded.tape, subject.machine, "").empty());
    for (const std::int64_t rate : {60, 11, 0}) {
      Instance again(subject.machine);
      Lines replayed;
      run_tape(again, *loaded.tape, {rate, {}, kAllRecords}, [&](const Cue& cue) { replayed.push_back(line(cue)); });
      ASSERT_EQ(replayed, lines) << "seed " << seed << "\n" << tape_text(recorder.tape());
      ASSERT_EQ(again.hash(), live.hash());
    }
  }
  EXPECT_GT(told, 1000u);
}

TEST(Recorder, FromTheMiddleOfARunItsTapeFitsTheSaveTakenThere) {
  RandomMachine random(7);
  const Machine machine = machine_of(
      "inputs: {v: 1.0, n: 0, b: true, h: {one_of: [x, y, z]}, p: {pulse: 90ms}, q: pulse}\ncues: {c: x}\nclips: {w: "
      "{frames: "
      "[0-5], fps: 12, play: loop}}\nmarks: {w: {cues: {2: c}}}\ninitial: a\nstates: {a: {clip: w, speed: v, go: "
      "[{pulse: p, "
      "to: b}]}, b: {clip: w, go: [{pulse: q, to: a}, {after: 300ms, to: a}]}}");
  Instance live(machine), again(machine);
  Lines lines;
  play(live, random, 100, lines);
  const SavedInstance saved = save(live);
  lines.clear();
  Recorder recorder(live, "from the middle");
  play(live, random, 100, lines);
  ASSERT_TRUE(load(saved, again).empty());
  Lines replayed;
  run_tape(again, recorder.tape(), {60, {}, kAllRecords}, [&](const Cue& cue) { replayed.push_back(line(cue)); });
  EXPECT_EQ(replayed, lines);
  EXPECT_FALSE(lines.empty());
}

// Whether the tape of what `plays_of` does with an instance, recorded, tells the same and comes to the same.
using Advance = std::function<void(Ticks)>;
void expect_replays(const Machine& machine, const std::function<void(Instance&, const Advance&)>& plays_of) {
  Instance live(machine), again(machine);
  Recorder recorder(live, "live");
  Lines lines, replayed;
  CueList<32> cues(kAllRecords);
  const Advance advance = [&](Ticks dt) {
    cues.clear();
    ASSERT_TRUE(live.advance(dt, cues).complete());
    for (const Cue& cue : cues) lines.push_back(line(cue));
  };
  plays_of(live, advance);
  advance(milliseconds(100));
  const LoadedTape tape = load_tape_text(tape_text(recorder.tape()), "live.tape.yaml");
  ASSERT_TRUE(tape.tape) << joined(tape.findings);
  run_tape(again, *tape.tape, {60, {}, kAllRecords}, [&](const Cue& cue) { replayed.push_back(line(cue)); });
  EXPECT_EQ(replayed, lines) << tape_text(recorder.tape());
  EXPECT_EQ(again.hash(), live.hash()) << tape_text(recorder.tape());
}

// What is settled between two writes of one instant is so in the tape.
TEST(Recorder, StepsOfNoTimeStandInTheTape) {
  const Machine machine = machine_of(
      "inputs: {n: 0, v: {float: 1, min: -4, max: 4}}\nclips: {c: {frames: [0-3], fps: 4, play: loop}}\n"
      "initial: a\nstates: {a: {clip: c, speed: v, go: [{when: n > 0, to: b}, {to: c}]}, b: {clip: c}, c: {clip: c, "
      "speed: v}}");
  const auto n = *machine.input<std::int32_t>("n");
  const auto v = *machine.input<float>("v");
  expect_replays(machine, [&](Instance& live, const auto& advance) {
    live.freeze(milliseconds(20));  // before it has begun
    advance(Ticks(0));
    live.set(n, 1);
  });
  for (const bool turns : {true, false})
    expect_replays(machine, [&](Instance& live, const auto& advance) {
      advance(milliseconds(100));
      live.set_rate(0);
      live.set(v, -2.0f);
      advance(milliseconds(100));
      live.set_rate(1);
      if (turns) {
        advance(Ticks(0));
        live.set_rate(0);
      }
      live.set(v, 3.0f);
    });
}

// A state that is placed stands in the tape between what was written before it and after it at its instant: each two of
// these, with a turn between them or without, before the machine has begun and in its middle.
TEST(Recorder, APlaceStandsInTheTapeWhereItWas) {
  const Machine machine = machine_of(
      "inputs: {v: {float: 1, min: -4, max: 4}, p: {pulse: 50ms}}\nclips: {c: {frames: [0-3], fps: 4, play: loop}}\n"
      "initial: a\nstates: {a: {clip: c, speed: v, exit: {tell: left}, go: [{pulse: p, to: b}]}, "
      "b: {clip: c, speed: v, enter: {tell: here}, go: [{when: v > 3, to: c}]}, c: {length: 1s}}\n"
      "cues: {left: {}, here: {}}");
  const auto v = *machine.input<float>("v");
  const auto p = *machine.pulse("p");
  const std::vector<std::function<void(Instance&)>> writes{
      [&](Instance& it) { it.set(v, 3.5f); },
      [&](Instance& it) { it.pulse(p); },
      [](Instance& it) { it.set_rate(0); },
      [](Instance& it) { it.set_rate(0.5); },
      [](Instance& it) { it.freeze(milliseconds(60)); },
      [](Instance& it) { it.reset(); },
      [&](Instance& it) { it.force(*machine.state("c")); },
      [&](Instance& it) { it.place(*machine.state("b"), milliseconds(300)); },
      [&](Instance& it) { it.place(*machine.state("c")); }};
  const auto place = [&](Instance& it) { it.place(*machine.state("b"), milliseconds(1234)); };
  for (const auto& before : writes)
    for (const auto& after : writes)
      for (int turns = 0; turns < 8; ++turns)
        expect_replays(machine, [&](Instance& live, const auto& advance) {
          if ((turns & 4) != 0) advance(milliseconds(70));
          before(live);
          if ((turns & 1) != 0) advance(Ticks(0));
          place(live);
          if ((turns & 2) != 0) advance(Ticks(0));
          after(live);
        });
}

// Of what was written at the instant of a snapshot the tape has what stands in it, taken effect or not.
TEST(Recorder, ASnapshotKeepsWhatWasWrittenBeforeItAtItsInstant) {
  const Machine machine = machine_of(
      "inputs: {v: {float: 1, min: -4, max: 4}}\nclips: {c: {frames: [0-3], fps: 4, play: loop}}\n"
      "states: {a: {clip: c, speed: v}}");
  const auto v = *machine.input<float>("v");
  const std::vector<std::function<void(Instance&)>> writes{[&](Instance& it) { it.set(v, 2.0f); },
                                                           [](Instance& it) { it.set_rate(0.5); },
                                                           [](Instance& it) { it.freeze(milliseconds(60)); }};
  for (const auto& before : writes)
    for (const auto& after : writes)
      for (const bool settles : {true, false}) {
        Instance live(machine), again(machine);
        Recorder recorder(live, "live");
        CueList<8> cues;
        (void)live.advance(milliseconds(100), cues);
        before(live);
        if (settles) (void)live.advance(Ticks(0), cues);
        const std::vector<std::byte> snapshot(live.block().begin(), live.block().end());
        after(live);
        (void)live.advance(milliseconds(100), cues);
        ASSERT_TRUE(live.restore(snapshot));
        (void)live.advance(milliseconds(100), cues);
        run_tape(again, recorder.tape(), {}, [](const Cue&) {});
        EXPECT_EQ(again.hash(), live.hash()) << tape_text(recorder.tape());
      }
}

TEST(Recorder, ATapeIsWrittenForPeople) {
  const Machine machine =
      machine_of("inputs: {move: 0.0, carrying: {one_of: [nothing, net]}, swing: pulse, hop: pulse}\nstates: {a: {}}");
  Instance instance(machine);
  CueList<4> cues;
  static_cast<void>(instance.set_by_name("carrying", FieldValue(std::string("net"))));
  Recorder recorder(instance, "dusk");
  instance.set(*machine.input<float>("move"), 0.1f);
  instance.set(*machine.input<float>("move"), 0.3f);
  ASSERT_TRUE(instance.advance(milliseconds(500), cues).complete());
  instance.pulse(*machine.pulse("swing"));
  instance.pulse(*machine.pulse("hop"));
  instance.pulse(*machine.pulse("swing"));
  instance.set(*machine.input<float>("move"), 0.3f);  // no change
  ASSERT_TRUE(instance.advance(milliseconds(500), cues).complete());
  instance.set_rate(0.25);
  instance.freeze(milliseconds(60));
  ASSERT_TRUE(instance.advance(milliseconds(1), cues).complete());
  instance.reset();
  instance.place(*machine.state("a"), milliseconds(250));
  EXPECT_EQ(tape_text(recorder.tape()),
            "mobrin: 1\ntape: dusk\nsteps:\n"
            "  - {at: {ticks: 0}, set: {carrying: net, move: 0.3}}\n"
            "  - {at: {ticks: 352800000}, pulse: [swing, hop]}\n"
            "  - {at: {ticks: 705600000}, rate: 0.25, freeze: {ticks: 42336000}}\n"
            "  - {at: {ticks: 706305600}, reset: true}\n"
            "  - {at: {ticks: 706305600}, place: a, played: {ticks: 176400000}}\n"
            "until: {ticks: 706305600}\n");
}

TEST(Recorder, WhatATapeCannotHoldIsRefused) {
  const auto findings = [](const std::string& step) {
    return joined(
        load_tape_text("mobrin: 1\ntape: t\nsteps:\n  - {at: 0s, " + step + "}\nuntil: 1s\n", "t.yaml").findings);
  };
  EXPECT_EQ(findings("rate: 0.5, freeze: 60ms, reset: true"), "");
  EXPECT_EQ(findings("rate: 65"),
            "t.yaml:4:20: error: the rate \"65\" is out of range [bad-value]\n    Rates lie between 0 and 64.\n");
  EXPECT_EQ(
      findings("freeze: 7s"),
      "t.yaml:4:22: error: the freeze \"7s\" is too long [bad-value]\n    It lasts at most 6 s; to pause for longer, "
      "set `rate: 0`.\n");
  EXPECT_EQ(findings("place: \"\", played: 36000s"), "");
  EXPECT_EQ(
      findings("place: a, played: {ticks: 25401600000001}"),
      "t.yaml:4:32: error: `played:` is more than 10 hours [bad-value]\n    A state is placed as one that has been "
      "active for at most `36000s`.\n");
  EXPECT_EQ(findings("played: 1s"),
            "t.yaml:4:22: error: `played:` stands without `place:` [missing-key]\n    It says how long the state of "
            "`place:` has been active: `{at: 1s, place: walk, played: 300ms}`.\n");
}

// Files of a machine and its characters, in a folder of their own.
class Characters : public testing::Test {
 protected:
  Characters() : folder_(std::filesystem::temp_directory_path() / ("mobrin_characters_" + std::to_string(::getpid()))) {
    std::filesystem::create_directories(folder_ / "marsh");
    put("hornet.yaml",
        "machine: hornet\nuse: [words.yaml]\nunit: 16px\ninputs: {near: false}\nmarks: {hover: {cues: {1: buzz}}, "
        "dive: {cues: {0: sting}}}\nclips: {dive: {frames: [0-1], fps: 10}, hover: {frames: [0-3], fps: 10, "
        "play: loop}}\ninitial: hover\nstates: {hover: {clip: hover, go: [{when: near, to: dive}]}, dive: {clip: "
        "dive, go: [{at: end, to: hover}]}}");
    put("words.yaml", "cues: {buzz: sound, sting: {kind: damage, amount: 1}}\ninputs: {loud: true}");
  }
  ~Characters() override { std::filesystem::remove_all(folder_); }
  void put(const std::string& name, const std::string& text) {
    std::ofstream(folder_ / name) << "mobrin: 1\n" << text << "\n";
  }
  Loaded loaded(const std::string& name) { return load_character((folder_ / name).string()); }
  // The findings without the folder.
  std::string findings(const std::string& name) {
    std::string text = joined(loaded(name).findings);
    const std::string folder = folder_.string() + "/";
    for (std::size_t at = text.find(folder); at != std::string::npos; at = text.find(folder))
      text.erase(at, folder.size());
    return text;
  }
  std::filesystem::path folder_;
};

TEST_F(Characters, HaveAMachinesLogicWithClipsAndMarksOfTheirOwn) {
  put("marsh/marsh.yaml",
      "character: marsh_hornet\nmachine: ../hornet.yaml\nuse: [marsh.clips.yaml]\nunit: 24px\nmarks: "
      "{dive: {cues: {3: {sting: {amount: 5}}}}}");
  put("marsh/marsh.clips.yaml", "clips: {dive: {sheet: marsh.png, tile: [8, 8], frames: [0-4], fps: 20}}");
  const Loaded marsh = loaded("marsh/marsh.yaml");
  ASSERT_TRUE(marsh.machine) << joined(marsh.findings);
  EXPECT_EQ(marsh.machine->name(), "marsh_hornet");
  EXPECT_EQ(marsh.machine->unit(), 24);
  EXPECT_EQ(marsh.files.size(), 4u);
  const Tape tape = tape_of("  - {at: 300ms, set: {near: true}}\n  - {at: 310ms, set: {near: false}}\n");
  EXPECT_EQ(log_of(*marsh.machine, tape, milliseconds(600)),
            (Lines{"0 enter hover", "100 buzz hover:1", "300 leave hover", "300 enter dive", "450 sting dive:3",
                   "550 leave dive", "550 enter hover"}));
  EXPECT_EQ(log_of(*loaded("hornet.yaml").machine, tape, milliseconds(600)),
            (Lines{"0 enter hover", "100 buzz hover:1", "300 leave hover", "300 enter dive", "300 sting dive:0",
                   "500 leave dive", "500 enter hover", "600 buzz hover:1"}));
  EXPECT_EQ(marsh.machine->clips()[0].def.name.text, "dive");
  EXPECT_EQ(marsh.machine->clips()[0].def.frames[0].art.source, "marsh.png");
}

TEST_F(Characters, WhatTheirClipsCannotFillIsFoundWhereItIsAsked) {
  put("thin.yaml",
      "character: thin\nmachine: hornet.yaml\nclips: {dive: {frames: [0], fps: 10}, hover: {frames: [0], fps: 8, "
      "play: loop}}");
  EXPECT_EQ(
      findings("thin.yaml"),
      "hornet.yaml:6:24: error: frame 1 is not in the clip \"hover\" [outside-clip]\n    It has 1 frame, number 0.\n");
}

TEST_F(Characters, BrokenOnesSayWhatIsMissing) {
  put("lost.yaml", "character: lost\nmachine: hornte.yaml");
  put("none.yaml", "character: none");
  put("over.yaml", "character: over\nmachine: none.yaml");
  put("words2.yaml", "character: words\nmachine: words.yaml");
  put("logic.yaml", "character: logic\nmachine: hornet.yaml\nstates: {a: {}}");
  put("user.yaml", "machine: user\nuse: [none.yaml]\nstates: {a: {}}");
  EXPECT_NE(findings("lost.yaml").find("lost.yaml:3:10: error: \"hornte.yaml\" does not exist"), std::string::npos)
      << findings("lost.yaml");
  EXPECT_EQ(findings("none.yaml"),
            "none.yaml:1:1: error: the character \"none\" names no machine [missing-key]\n    Add "
            "`machine: FILE`, the machine whose logic it has.\n");
  EXPECT_EQ(findings("over.yaml"),
            "none.yaml:1:1: error: \"none.yaml\" is a character [wrong-kind-of-file]\n    A character is "
            "made over a machine: name that machine's file.\n");
  EXPECT_EQ(findings("words2.yaml"),
            "words2.yaml:3:10: error: \"words.yaml\" holds no machine [wrong-kind-of-file]\n    Name a "
            "machine's file.\n");
  EXPECT_EQ(findings("logic.yaml").substr(0, 71),
            "logic.yaml:4:1: error: \"states\" is no key of a character [unknown-key]\n");
  EXPECT_EQ(findings("user.yaml"),
            "none.yaml:1:1: error: \"none.yaml\" is a character [wrong-kind-of-file]\n    Only clips, "
            "marks, inputs and cues can be used.\n");
}

}  // namespace
}  // namespace mobrin::test
