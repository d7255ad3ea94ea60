// What a state may play: clips in turn, a clip by an input, fades.
#include <cmath>

#include "support.hpp"

namespace mobrin::test {
namespace {

using Lines = std::vector<std::string>;

const char* const kStrike = R"(
inputs: {go: pulse, stop: pulse, v: 1.0}
cues: {swish: sound, hit: damage, trail: effect, thud: sound, last: sound}
clips:
  windup: {frames: [0-1], fps: 10}
  swing:  {frames: [0-1], fps: 20, play: loop x2}
  rest:   {length: 50ms}
marks:
  windup: {cues: {0: swish, 1.end: thud, 0.2s: last}}
  swing:  {cues: {1: hit}, spans: {trail: 0-1}, windows: {again: 1}}
initial: idle
states:
  idle: {go: [{pulse: go, to: strike}]}
  strike:
    clip: [windup, swing, rest]
    speed: v
    go:
      - {pulse: go, during: again, to: idle}
      - {pulse: stop, to: idle}
      - {at: end, to: idle}
)";

TEST(Sequence, PlaysItsClipsInTurnAndEndsOnce) {
  EXPECT_EQ(log_of(machine_of(kStrike), tape_of("  - {at: 0s, pulse: go}\n"), seconds(1)),
            (Lines{"0 enter idle", "0 leave idle", "0 enter strike", "0 swish windup:0", "200 thud windup:1",
                   "200 last windup:1", "200 trail> swing:0", "250 hit swing:1", "350 hit swing:1",
                   "400 <trail swing:1", "450 leave strike", "450 enter idle"}));
}

TEST(Sequence, BackwardsItPlaysFromItsEnd) {
  EXPECT_EQ(log_of(machine_of(kStrike), tape_of("  - {at: 0s, set: {v: -1}, pulse: go}\n"), seconds(1)),
            (Lines{"0 enter idle", "0 leave idle", "0 enter strike", "50 hit swing:1", "50 trail> swing:1",
                   "150 hit swing:1", "250 <trail swing:0", "250 last windup:1", "350 thud windup:1",
                   "350 swish windup:0", "450 leave strike", "450 enter idle"}));
}

TEST(Sequence, AWindowOfOneOfItsClipsIsOpenInEveryPassOfThatClip) {
  const Machine machine = machine_of(kStrike);
  const auto left_at = [&](const std::string& at) {
    return only(log_of(machine, tape_of("  - {at: 0s, pulse: go}\n  - {at: " + at + ", pulse: go}\n"), seconds(1)),
                "leave strike");
  };
  EXPECT_EQ(left_at("120ms"), (Lines{"450 leave strike"}));  // in the wind-up's frame 1
  EXPECT_EQ(left_at("260ms"), (Lines{"260 leave strike"}));
  EXPECT_EQ(left_at("310ms"), (Lines{"450 leave strike"}));
  EXPECT_EQ(left_at("360ms"), (Lines{"360 leave strike"}));
}

TEST(Sequence, ShowsTheClipOfTheMomentAndItsOwnSeconds) {
  const Machine machine = machine_of(kStrike);
  Instance instance(machine);
  CueList<32> cues;
  instance.pulse(*machine.pulse("go"));
  struct Row {
    int until_ms;
    const char* clip;
    int frame;
    double seconds;
  };
  for (const Row& row : {Row{150, "windup", 1, 0.15}, Row{200, "swing", 0, 0}, Row{330, "swing", 0, 0.03},
                         Row{399, "swing", 1, 0.099}, Row{430, "rest", -1, 0.03}}) {
    ASSERT_TRUE(instance.advance(milliseconds(row.until_ms) - instance.now(), cues).complete());
    const Shown shown = instance.shown();
    EXPECT_EQ(machine.clips()[shown.clip].def.name.text, row.clip) << row.until_ms;
    EXPECT_EQ(shown.frame, row.frame) << row.until_ms;
    EXPECT_NEAR(shown.seconds, row.seconds, 1e-9) << row.until_ms;
  }
}

TEST(Sequence, WhatCannotBeIsRefusedWithARemedy) {
  const auto findings = [](const std::string& state, const std::string& go = "") {
    return findings_of(
        "clips: {a: {frames: [0-3], fps: 8}, b: {frames: [0-1], fps: 8, play: loop}}\ninitial: s\nstates: {s: " +
        state + ", t: {go: [" + go + "]}}");
  };
  EXPECT_EQ(findings("{clip: [a, a]}"), "");
  EXPECT_EQ(findings("{clip: [a, b]}"),
            "m.yaml:5:24: error: \"b\" loops for ever, but the clips of \"s\" play in turn [bad-value]\n    Count its "
            "loops (`loop x3`), or give it a state of its own, entered `at: end` of this one.\n");
  EXPECT_EQ(findings("{clip: [a, c]}"),
            "m.yaml:5:24: error: there is no clip \"c\" [unknown-name]\n    Add it under `clips:`. There is a, b.\n");
  EXPECT_EQ(findings("{clip: [a, a], go: [{during: 1-2, to: t}]}"),
            "m.yaml:5:33: error: `during:` with frames in \"s\", which plays several clips in turn "
            "[meaningless-event]\n    Name a window in the marks of the clip that is meant.\n");
  EXPECT_EQ(findings("{clip: [a, a]}", "{to: s, start: 2}"),
            "m.yaml:5:53: error: `start:` with a frame into \"s\", which plays several clips in turn "
            "[meaningless-event]\n    Only `begin` and `same` fit a sequence.\n");
  EXPECT_EQ(findings("{clip: []}"),
            "m.yaml:5:20: error: `clip:` lists no clip [missing-key]\n    Name one, or several to play in turn.\n");
}

const char* const kWalker = R"(
inputs: {heading: {one_of: [up, down]}, v: 1.0}
cues: {step: sound, trail: effect}
clips:
  walk_up:   {frames: [0-3], fps: 10, play: loop}
  walk_down: {frames: [0-7], fps: 10, play: loop}
marks:
  walk_up:   {cues: {1: step, 3: step}}
  walk_down: {cues: {2: step, 4: step}, spans: {trail: 4-7}}
states:
  walk: {clip: {by: heading, up: walk_up, down: walk_down}, speed: v}
)";

TEST(ClipByInput, KeepsTheRelativePositionAndFiresNothingWhereItLands) {
  // Half way through the one (200 of 400 ms) is half way through the other (400 of 800 ms), on frame 4.
  EXPECT_EQ(log_of(machine_of(kWalker),
                   tape_of("  - {at: 200ms, set: {heading: down}}\n  - {at: 500ms, set: {heading: up}}\n"),
                   milliseconds(700)),
            (Lines{"0 enter walk", "100 step walk_up:1", "200 trail> walk_down:4", "500 <trail walk_down:7",
                   "550 loop walk", "650 step walk_up:1"}));
}

TEST(ClipByInput, IsTakenAtEntryAndFollowsWhileItPlaysBackwards) {
  EXPECT_EQ(log_of(machine_of(kWalker),
                   tape_of("  - {at: 0s, set: {heading: down, v: -1}}\n  - {at: 300ms, set: {heading: up}}\n"),
                   milliseconds(500)),
            (Lines{"0 enter walk", "0 trail> walk_down:7", "300 step walk_down:4", "300 <trail walk_down:4",
                   "350 step walk_up:1"}));
}

TEST(ClipByInput, APoseFollowsToo) {
  const Machine machine = machine_of(
      "inputs: {heading: {one_of: [up, down]}}\nclips: {u: {frames: [0-3], fps: 8}, d: {frames: [0-3], fps: 8, play: "
      "loop}}\nstates: {stand: {pose: {clip: {by: heading, up: u, down: d}, frame: 2}}}");
  Instance instance(machine);
  CueList<4> cues;
  ASSERT_TRUE(instance.advance({}, cues).complete());
  EXPECT_EQ(machine.clips()[instance.shown().clip].def.name.text, "u");
  ASSERT_TRUE(instance.set_by_name("heading", FieldValue(std::string("down"))));
  ASSERT_TRUE(instance.advance({}, cues).complete());
  EXPECT_EQ(machine.clips()[instance.shown().clip].def.name.text, "d");
  EXPECT_EQ(instance.shown().frame, 2);
}

TEST(ClipByInput, NeedsAClipForEachChoiceAllPlayedTheSameWay) {
  const auto findings = [](const std::string& clip) {
    return findings_of(
        "inputs: {h: {one_of: [up, down]}, n: 3}\nclips: {u: {frames: [0-3], fps: 8}, d: {frames: [0-3], fps: 8, play: "
        "loop}}\nstates: {s: {clip: " +
        clip + "}}");
  };
  EXPECT_EQ(findings("{by: h, up: u, down: u}"), "");
  EXPECT_EQ(findings("{by: h, up: u}"),
            "m.yaml:5:25: error: \"s\" has no clip for the choice \"down\" of \"h\" [missing-key]\n    Give each "
            "choice its clip: `down: NAME`.\n");
  EXPECT_EQ(findings("{by: h, up: u, down: d}"),
            "m.yaml:5:41: error: the clips of \"s\" play in different ways: \"d\" loop, \"u\" once [bad-value]\n    "
            "Where an input chooses the clip while it plays, all play the same way.\n");
  EXPECT_EQ(findings("{by: n, up: u}"),
            "m.yaml:5:25: error: \"n\" does not choose among names, so it cannot choose a clip [wrong-operand]\n    "
            "Declare it as `n: {one_of: [...]}`.\n");
  EXPECT_EQ(
      findings("{by: h, up: u, down: u, dwon: u}"),
      "m.yaml:5:44: error: there is no choice of \"h\" called \"dwon\" [unknown-name]\n    Did you mean \"down\"?\n");
  EXPECT_EQ(findings("{up: u, down: u}"),
            "m.yaml:5:20: error: `clip:` does not say which input chooses [missing-key]\n    Write `{by: INPUT, "
            "up: u, down: u}`.\n");
  // What is tried for it.
  EXPECT_EQ(findings("{by: h, up: {clip: u, mirror: true}, down: u}"),
            "m.yaml:5:32: error: the clip of a choice is a map [wrong-type]\n    Write `up: u`; who draws a picture "
            "turns it over.\n");
  for (const char* const tried : {"{h: {up: u, down: u}}", "{input: h, up: u, down: u}", "{switch: h, up: u, down: u}"})
    EXPECT_EQ(findings(tried),
              "m.yaml:5:20: error: `clip:` does not say which input chooses [missing-key]\n    Write `{by: h, up: u, "
              "down: u}`.\n");
  EXPECT_EQ(findings("{up: {clip: u}, down: u}"),
            "m.yaml:5:20: error: `clip:` does not say which input chooses [missing-key]\n    Write `{by: INPUT, up: "
            "CLIP, down: u}`.\n");
  EXPECT_EQ(findings("\"u_{h}\""),
            "m.yaml:5:21: error: there is no clip \"u_{h}\" [unknown-name]\n    Write `{by: h, up: u_up, down: "
            "u_down}`.\n");
  EXPECT_EQ(findings("u_$h"),
            "m.yaml:5:20: error: there is no clip \"u_$h\" [unknown-name]\n    Write `{by: h, up: u_up, down: "
            "u_down}`.\n");
  EXPECT_EQ(findings("{by: h, up: u, else: u}"),
            "m.yaml:5:35: error: \"else\" is no choice of \"h\": each choice has a clip of its own [unknown-name]\n    "
            "Write `down: u` in its place.\n");
}

const char* const kFader = R"(
inputs: {to_b: pulse, to_c: pulse, to_d: pulse, to_e: pulse, cut: pulse}
cues: {step: sound, trail: effect}
clips:
  a: {frames: [0-3], fps: 10, play: loop}
  b: {frames: [0-3], fps: 10, play: loop}
marks:
  a: {cues: {1: step, 3: step}, spans: {trail: 0-3}}
initial: a
go:
  - {pulse: to_b, to: b, fade: 400ms}
  - {pulse: to_c, to: c, fade: 200ms, cues: both}
  - {pulse: to_d, to: d, fade: 100ms}
  - {pulse: to_e, to: e, fade: 100ms}
  - {pulse: cut, to: a}
states: {a: {clip: a}, b: {clip: b}, c: {clip: b}, d: {clip: b}, e: {}}
)";

class Fader : public testing::Test {
 protected:
  void pulse(const char* name, int at_ms) {
    to(at_ms);
    ASSERT_TRUE(instance_.pulse_by_name(name));
    to(at_ms);
  }
  void to(int at_ms) {
    ASSERT_TRUE(instance_.advance(milliseconds(at_ms) - instance_.now(), cues_).complete());
    for (const Cue& cue : cues_) lines_.push_back(line(cue));
    cues_.clear();
    double sum = 0;
    for (const Shown& shown : instance_.layers()) sum += shown.weight;
    EXPECT_NEAR(sum, 1, 1e-12) << at_ms;
  }
  // `b:0 0.25, a:3 0.75`
  std::string shown() {
    std::string out;
    for (const Shown& each : instance_.layers()) {
      char weight[32];
      std::snprintf(weight, sizeof weight, "%.4g", each.weight);
      out +=
          (out.empty() ? "" : ", ") +
          (each.nothing() ? "nothing" : machine_.clips()[each.clip].def.name.text + ":" + std::to_string(each.frame)) +
          " " + weight;
    }
    return out;
  }

  Machine machine_ = machine_of(kFader);
  Instance instance_{machine_};
  CueList<64> cues_{kAllRecords};
  std::vector<std::string> lines_;
};

TEST_F(Fader, BlendsLinearlyWhileTheLeavingClipPlaysOnSilently) {
  pulse("to_b", 250);
  EXPECT_EQ(shown(), "b:0 0, a:2 1");
  to(350);
  EXPECT_EQ(shown(), "b:1 0.25, a:3 0.75");
  to(649);
  EXPECT_EQ(shown(), "b:3 0.9975, a:2 0.0025");
  to(650);
  EXPECT_EQ(shown(), "b:0 1");
  EXPECT_EQ(lines_, (Lines{"0 enter a", "0 trail> a:0", "100 step a:1", "250 <trail a:2", "250 leave a", "250 enter b",
                           "650 loop b"}));
}

TEST_F(Fader, WithCuesOfBothTheLeavingClipTellsThemUntilTheFadeIsOver) {
  pulse("to_c", 250);
  to(1000);
  EXPECT_EQ(only(lines_, "step"), (Lines{"100 step a:1", "300 step a:3"}));
  EXPECT_EQ(only(lines_, "trail"), (Lines{"0 trail> a:0", "250 <trail a:2"}));  // spans end with their state
}

TEST_F(Fader, AnInterruptedFadeKeepsTheSumOfWeightsAtOne) {
  pulse("to_b", 0);
  to(100);
  EXPECT_EQ(shown(), "b:1 0.25, a:1 0.75");
  pulse("to_c", 100);
  EXPECT_EQ(shown(), "b:0 0, b:1 0.25, a:1 0.75");
  to(150);
  EXPECT_EQ(shown(), "b:0 0.25, b:1 0.1875, a:1 0.5625");
  pulse("to_d", 150);
  EXPECT_EQ(shown(), "b:0 0, b:0 0.25, b:1 0.1875, a:1 0.5625");
  to(175);
  // Four are left and one is entered: the lightest (0.75 of 0.1875) is dropped, the heaviest takes its weight.
  pulse("to_e", 175);
  EXPECT_EQ(shown(), "nothing 0, b:0 0.25, b:0 0.1875, a:1 0.5625");
  to(400);
  EXPECT_EQ(shown(), "nothing 1");
}

TEST_F(Fader, WhatFadesAlreadyStaysSilentOrTellingAsItWasLeft) {
  // At one instant a silent fade to b, then one of both to c: b had no weight yet, and a was left silently.
  pulse("to_b", 250);
  pulse("to_c", 250);
  EXPECT_EQ(shown(), "b:0 0, a:2 1");
  to(1000);
  EXPECT_EQ(only(lines_, "step"), Lines{"100 step a:1"});
}

TEST_F(Fader, ATransitionWithoutAFadeCutsAll) {
  pulse("to_b", 0);
  to(100);
  pulse("cut", 100);
  EXPECT_EQ(shown(), "a:0 1");
}

TEST_F(Fader, SlowMotionAndFreezeHoldTheFade) {
  pulse("to_b", 0);
  instance_.set_rate(0.5);
  to(200);
  EXPECT_EQ(shown(), "b:1 0.25, a:1 0.75");
  instance_.freeze(milliseconds(100));
  to(300);
  EXPECT_EQ(shown(), "b:1 0.25, a:1 0.75");
  to(500);
  EXPECT_EQ(shown(), "b:2 0.5, a:2 0.5");
}

TEST_F(Fader, ASnapshotHoldsTheFade) {
  pulse("to_b", 0);
  to(100);
  const std::vector<std::byte> taken(instance_.block().begin(), instance_.block().end());
  to(200);
  const std::string later = shown();
  ASSERT_TRUE(instance_.restore(taken));
  EXPECT_EQ(shown(), "b:1 0.25, a:1 0.75");
  to(200);
  EXPECT_EQ(shown(), later);
}

TEST(Fade, WhatMeansNothingIsRefused) {
  const std::string states = "initial: a\nstates: {a: {go: [{after: 1s, to: b, ";
  EXPECT_EQ(
      findings_of(states + "cues: both}]}, b: {}}"),
      "m.yaml:4:19: error: `cues: both` without a fade [meaningless-event]\n    Add `fade:`, such as `fade: 80ms`.\n");
  EXPECT_EQ(findings_of(states + "fade: 80ms, cues: all}]}, b: {}}"),
            "m.yaml:4:56: error: `cues:` is \"all\" [bad-value]\n    Expected `entered` or `both`.\n");
  EXPECT_EQ(findings_of(states + "fade: 80ms, cues: both}]}, b: {}}"), "");
}

// The pace of a blend is rounded once, with its clips' in it: a constant speed is no other than a variable that holds
// it.
TEST(Blends, AConstantSpeedIsRoundedNoEarlierThanAComputedOne) {
  const auto playhead = [](const char* speed) {
    Instance it(machine_of(
        "vars: {s: 1.3}\nclips: {a: {frames: [0-3], fps: 4, play: loop}, b: {frames: [0], fps: 0.03, play: loop}}\n"
        "states: {s: {blend: {x: 0.6, points: [{at: 0, clip: a}, {at: 1, clip: b}]}, speed: " +
        std::string(speed) + "}}"));
    (void)it.advance(seconds(20), [](const Cue&) {});
    return it.playhead().value();
  };
  EXPECT_EQ(playhead("1.3"), playhead("s"));
  EXPECT_EQ(playhead("0.5"), playhead("s - 0.8"));
}

}  // namespace
}  // namespace mobrin::test
