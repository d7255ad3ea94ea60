// Orders and meetings: what happens when several things lie at one instant, in one machine or between regions.
#include "mobrin/core/builder.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

class Orders : public testing::TestWithParam<Row> {};

TEST_P(Orders, TellExactlyThis) { expect_log(GetParam()); }

const Row kRows[] = {
    {"ExitThenOwnThenEnterActions",
     "cues: {out: {}, between: {}, in_b: {}}\ninputs: {p: pulse}\ninitial: a\nstates:\n  a:\n    exit: [tell: out]\n   "
     " go:\n"
     "      - {pulse: p, to: b, do: [tell: between]}\n  b:\n    enter: [tell: in_b]",
     "  - {at: 10ms, pulse: p}", 20, "0 enter a\n10 out\n10 leave a\n10 between\n10 enter b\n10 in_b\n"},
    {"InnerExitsFirstOuterEntersFirst",
     "cues: {xo: {}, xi: {}, eo: {}, ei: {}}\ninputs: {p: pulse}\ninitial: a\nstates:\n  a: {exit: [tell: xo], go: "
     "[{pulse: p, to: b}], "
     "states: {i: {exit: [tell: xi]}}}\n  b: {enter: [tell: eo], states: {j: {enter: [tell: ei]}}}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter a\n0 enter a/i\n10 xi\n10 leave a/i\n10 xo\n10 leave a\n10 enter b\n10 eo\n10 enter b/j\n10 ei\n"},
    {"VariablesStartAnewOnEachEntry",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {vars: {n: 0}, enter: [n = n + 1], go: [{pulse: p, when: n == 1, "
     "to: b}, {pulse: p, to: z}]}\n"
     "  b: {go: [{pulse: p, to: a}]}\n  z: {}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}\n  - {at: 30ms, pulse: p}", 40,
     "0 enter a\n10 leave a\n10 enter b\n20 leave b\n20 enter a\n30 leave a\n30 enter b\n"},
    {"AVariableAroundKeepsItsValue",
     "vars: {n: 0}\ninputs: {p: pulse}\ninitial: a\nstates:\n  a: {enter: [n = n + 1], go: [{pulse: p, when: n == 1, "
     "to: b}, {pulse: p, to: z}]}\n"
     "  b: {go: [{pulse: p, to: a}]}\n  z: {}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}\n  - {at: 30ms, pulse: p}", 40,
     "0 enter a\n10 leave a\n10 enter b\n20 leave b\n20 enter a\n30 leave a\n30 enter z\n"},
    {"RegionsComeInFileOrderAtOneInstant",
     "clips: {c: {frames: [0-1], fps: 10, play: loop}}\ncues: {k: {}}\nmarks: {c: {cues: {1: k}}}\nregions:\n  second: "
     "{states: {a: {clip: c}}}\n"
     "  first: {states: {b: {clip: c}}}",
     "", 200, "0 enter second/a\n0 enter first/b\n100 k c:1\n100 k c:1\n200 loop second/a\n200 loop first/b\n"},
    {"RegionsInsideComeBeforeThoseThatFollow",
     "inputs: {h: {one_of: [x, y]}}\ncues: {k: {}}\nclips: {c: {frames: [0-1], fps: 10, play: loop}, d: {frames: [0], "
     "fps: 1, play: loop}}\nmarks: {c: {spans: {k: 0-1}}}\nregions:\n  l: {states: {a: {regions: {i: {states: {e: "
     "{clip: "
     "{by: h, x: d, y: c}}}}, j: {states: {f: {}}}}}}}\n"
     "  m: {states: {b: {clip: {by: h, x: c, y: d}}}}",
     "  - {at: 30ms, set: {h: y}}", 40,
     "0 enter l/a\n0 enter l/a/i/e\n0 enter l/a/j/f\n0 enter m/b\n0 k> c:0\n30 k> c:0\n30 <k c:0\n"},
    {"GuardsSeeEarlierRegionsButCuesWaitARound",
     "cues: {k: {}}\ninputs: {p: pulse}\nregions:\n  l: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {enter: "
     "[tell: k]}}}\n"
     "  m: {initial: c, states: {c: {go: [{when: in(l/b), to: d}]}, d: {go: [{cue: k, to: e}]}, e: {}}}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter l/a\n0 enter m/c\n10 leave l/a\n10 enter l/b\n10 k\n10 leave m/c\n10 enter m/d\n10 leave m/d\n10 enter "
     "m/e\n"},
    {"ACueIsSeenByOneRoundOnly",
     "cues: {k: {}}\ninputs: {p: pulse, x: false}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b, do: [tell: k]}]}, "
     "b: {go: [{cue: k, when: x, to: c}]}, c: {}}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, set: {x: true}}", 30, "0 enter a\n10 leave a\n10 k\n10 enter b\n"},
    {"AnOuterTransitionEndsTheRoundForAllBelow",
     "inputs: {p: pulse}\ninitial: s\nstates:\n  s:\n    go: [{pulse: p, to: t}]\n    regions:\n      l: {initial: a, "
     "states: {a: {go: [{pulse: p, to: b}]}, b: {}}}\n"
     "      r: {initial: c, states: {c: {go: [{pulse: p, to: d}]}, d: {}}}\n  t: {}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter s\n0 enter s/l/a\n0 enter s/r/c\n10 leave s/l/a\n10 leave s/r/c\n10 leave s\n10 enter t\n"},
    {"ARegionMayLeaveWhatIsAroundIt",
     "inputs: {p: pulse}\ninitial: s\nstates:\n  s:\n    regions:\n      l: {initial: a, states: {a: {go: [{pulse: p, "
     "to: t}]}}}\n"
     "      r: {initial: c, states: {c: {go: [{pulse: p, to: d}]}, d: {}}}\n  t: {}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter s\n0 enter s/l/a\n0 enter s/r/c\n10 leave s/l/a\n10 leave s/r/c\n10 leave s\n10 enter t\n"},
    {"OneRegionChangesTheOtherStays",
     "inputs: {p: pulse}\ninitial: s\nstates:\n  s:\n    go: [{pulse: p, to: l/b}]\n    regions:\n      l: {initial: "
     "a, states: {a: {}, b: {}}}\n"
     "      r: {initial: c, states: {c: {}, d: {}}}",
     "  - {at: 10ms, pulse: p}", 20, "0 enter s\n0 enter s/l/a\n0 enter s/r/c\n10 leave s/l/a\n10 enter s/l/b\n"},
    {"APathEntersTheOtherRegionsInitially",
     "inputs: {p: pulse}\ninitial: o\ngo: [{pulse: p, to: s/r/d}]\nstates:\n  o: {}\n  s:\n    regions:\n"
     "      l: {initial: a, states: {a: {}, b: {}}}\n      r: {initial: c, states: {c: {}, d: {}}}",
     "  - {at: 10ms, pulse: p}", 20, "0 enter o\n10 leave o\n10 enter s\n10 enter s/l/a\n10 enter s/r/d\n"},
    {"SealedHoldsAgainstOutsideNotAgainstItself",
     "inputs: {p: pulse, q: pulse}\ninitial: s\ngo: [{pulse: p, to: o}]\nstates:\n  s: {sealed: true, initial: a, go: "
     "[{pulse: q, to: o}], states: {a: {go: [{pulse: p, to: b}]}, b: {}}}\n  o: {}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}\n  - {at: 30ms, pulse: q}", 40,
     "0 enter s\n0 enter s/a\n10 leave s/a\n10 enter s/b\n30 leave s/b\n30 leave s\n30 enter o\n"},
    {"OfSeveralFinalStatesTheFirstIsTold",
     "regions:\n  l: {states: {a: {final: true, linger: 50ms}}}\n  r: {states: {b: {final: true, linger: 50ms}}}", "",
     100, "0 enter l/a\n0 enter r/b\n50 done l/a\n"},
    {"DoneRestsAllRegions",
     "clips: {c: {frames: [0-1], fps: 10, play: loop}}\nregions:\n  l: {states: {a: {final: true, linger: 250ms}}}\n  "
     "r: {states: {b: {clip: c}}}",
     "", 1000, "0 enter l/a\n0 enter r/b\n200 loop r/b\n250 done l/a\n"},
    {"AnEndMeetsAnAfterAtOneInstant",
     "clips: {c: {frames: [0-1], fps: 10}}\ninitial: a\nstates: {a: {clip: c, go: [{after: 200ms, to: by_time}, {at: "
     "end, to: by_end}]}, by_time: {}, by_end: {}}",
     "", 300, "0 enter a\n200 leave a\n200 enter by_time\n"},
    {"APressAtTheInstantOfTheEndComesAfterIt",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-1], fps: 10}}\ninitial: a\nstates: {a: {clip: c, go: [{pulse: p, to: "
     "pressed}, {at: end, to: over}]}, pressed: {}, over: {go: [{pulse: p, to: pressed}]}}",
     "  - {at: 200ms, pulse: p}", 300, "0 enter a\n200 leave a\n200 enter over\n200 leave over\n200 enter pressed\n"},
    {"SpeedReadsAVariableSetOnTheWay",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {2: k}}}\nvars: "
     "{pace: 1.0}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b, do: [pace = 2]}]}, b: {clip: c, speed: pace}}",
     "  - {at: 100ms, pulse: p}", 400, "0 enter a\n100 leave a\n100 enter b\n200 k c:2\n"},
    {"EndsOfFramesComeBeforeTheRestAtOnePlace",
     "clips: {c: {frames: [0-2], fps: 10}}\ncues: {k: {}, e: {}, t: {}, s: {}, r: {}}\nmarks: {c: {cues: {1: k, 100ms: "
     "t, 0.end: e}, spans: {s: 0, r: 1-2}}}\nstates: {a: {clip: c}}",
     "", 150, "0 enter a\n0 s> c:0\n100 e c:0\n100 <s c:0\n100 k c:1\n100 t c:1\n100 r> c:1\n"},
};

std::string name_of_order(const testing::TestParamInfo<Row>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, Orders, testing::ValuesIn(kRows), name_of_order);

TEST(Orders, OrdinalsCountThroughWritesAtOneInstant) {
  const Machine machine = machine_of(
      "inputs: {p: pulse}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, b: {go: [{pulse: p, to: a}]}}");
  Instance instance(machine);
  std::vector<std::uint32_t> ordinals;
  const auto step = [&](Ticks dt) {
    instance.advance(
        dt, [&](const Cue& cue) { ordinals.push_back(cue.ordinal); }, kAllRecords);
  };
  step(0ms);
  for (int i = 0; i < 2; ++i) {
    instance.pulse(*machine.pulse("p"));
    step(0ms);
  }
  instance.pulse(*machine.pulse("p"));
  step(5ms);
  step(5ms);
  instance.pulse(*machine.pulse("p"));
  step(0ms);
  EXPECT_EQ(ordinals, (std::vector<std::uint32_t>{0, 1, 2, 3, 4, 5, 6, 0, 1}));
}

TEST(Orders, TheBuilderAndTheFileMakeTheSameMachine) {
  const Machine from_file = machine_of(
      "inputs: {move: {float: 0, min: -1, max: 1}, tool: {one_of: [net, smoker]}, swing: {pulse: 110ms}}\ncues: {step: "
      "{kind: sound, foot: left}}\n"
      "clips: {walk: {frames: [0-1, 2*3], fps: 12, play: loop}, net: {length: 400ms}}\nmarks: {walk: {cues: {1: {step: "
      "{foot: right}}}, windows: {again: 1-2}}}\n"
      "initial: stand\ngo: [{when: move > 0.5, to: walk}]\nstates:\n  stand: {go: [{pulse: swing, when: tool == net, "
      "to: net}]}\n"
      "  walk: {clip: walk, speed: abs(move), traits: [busy], go: [{after: 1s, during: again, to: stand}]}\n  net: "
      "{clip: net, go: [{at: end, to: back, start: same}]}");
  MachineBuilder builder("m");
  builder.input("move", FloatInput{.start = 0, .min = -1, .max = 1})
      .input("tool", ChoiceInput{.choices = {"net", "smoker"}})
      .pulse("swing", 110ms);
  builder.cue("step", "sound", {{"foot", "left"}});
  builder.clip("walk", 3, {.num = 12}, PlayMode::loop()).frames[2].hold = 3;
  builder.clip("net", 400ms, PlayMode::once());
  builder.mark("walk", 1, "step", {{"foot", "right"}})
      .marks("walk")
      .windows.push_back({"again", {{.first = 1, .last = 2}}});
  builder.go({.when = "move > 0.5", .to = "walk"}).initial("stand");
  builder.state({.name = "stand", .go = {{.pulse = "swing", .when = "tool == net", .to = "net"}}});
  builder.state({.name = "walk",
                 .clip = "walk",
                 .speed = "abs(move)",
                 .traits = {"busy"},
                 .go = {{.after = 1s, .during = "again", .to = "stand"}}});
  builder.state(
      {.name = "net", .clip = "net", .go = {{.at = GoAt::end, .to = "back", .start = {.kind = StartKind::same}}}});
  const Compiled built = builder.build();
  ASSERT_TRUE(built.machine) << joined(built.findings);
  EXPECT_EQ(built.machine->dump(), from_file.dump());
}

struct Places {
  const char* clip;
  const char* marks;
  const char* places;  // tick(firings forwards, firings backwards) in ms
};

class Timelines : public testing::TestWithParam<Places> {};

// Where on its cycle a clip of 100 ms a frame tells something.
TEST_P(Timelines, HaveThesePlaces) {
  const Machine machine = machine_of(std::string("cues: {k: {}}\nclips: {c: ") + GetParam().clip +
                                     "}\nmarks: {c: " + GetParam().marks + "}\nstates: {a: {clip: c}}");
  const std::string dump = machine.dump();
  std::string places = dump.substr(dump.find("places ") + 7);
  std::string in_ms;
  for (std::size_t at = 0; at < places.size() && places[at] != '\n';) {
    const std::size_t open = places.find('(', at), close = places.find(')', open);
    in_ms += (in_ms.empty() ? "" : " ") +
             std::to_string(std::stoll(places.substr(at, open - at)) / (kTicksPerSecond / 1000)) +
             places.substr(open, close + 1 - open);
    at = close + 1 + (places[close + 1] == ' ' ? 1 : 0);
  }
  EXPECT_EQ(in_ms, GetParam().places);
}

INSTANTIATE_TEST_SUITE_P(
    All, Timelines,
    testing::Values(
        Places{"{frames: [0-3], fps: 10}", "{cues: {1: k}}", "0(0,0) 100(1,0) 200(0,1) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{cues: {1.end: k}}", "0(0,0) 100(0,1) 200(1,0) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{cues: {150ms: k}}", "0(0,0) 150(1,1) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{cues: {1: {k: {way: forward}}}}", "0(0,0) 100(1,0) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{spans: {k: 1-2}}", "0(0,0) 100(1,1) 300(1,1) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{spans: {k: 0-3}}", "0(0,0) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10}", "{spans: {k: 150ms-300ms}}", "0(0,0) 150(1,1) 300(1,1) 400(0,0)"},
        Places{"{frames: [0-3], fps: 10, play: loop}", "{spans: {k: [0s-50ms, 350ms-400ms]}}",
               "0(1,1) 50(1,1) 350(1,1) 400(1,1)"},
        Places{"{length: 400ms, play: back-and-forth}", "{spans: {k: 150ms-400ms}}",
               "0(0,0) 150(1,1) 650(1,1) 800(0,0)"},
        Places{"{frames: [0-3], fps: 10, play: back-and-forth}", "{cues: {1: k}}",
               "0(0,0) 100(1,0) 200(0,1) 500(1,0) 600(0,1)"},
        Places{"{frames: [0-3], fps: 10, play: back-and-forth}", "{cues: {3: k}}", "0(0,0) 300(1,0) 400(0,1) 600(0,0)"},
        Places{"{frames: [0-3], fps: 10, play: back-and-forth}", "{cues: {250ms: k}}",
               "0(0,0) 250(1,1) 450(1,1) 600(0,0)"},
        Places{"{frames: [0-3], fps: 10, play: back-and-forth}", "{cues: {350ms: k}}", "0(0,0) 350(1,1) 600(0,0)"},
        Places{"{frames: [0-1], fps: 10, play: back-and-forth}", "{cues: {100ms: k}}", "0(0,0) 100(1,1) 200(0,0)"},
        Places{"{frames: [0], fps: 10, play: back-and-forth}", "{cues: {0: k}}", "0(1,0) 100(0,1)"}));

}  // namespace
}  // namespace mobrin::test
