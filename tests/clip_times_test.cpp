// What is said by times of a clip, with frames or without: windows, spans, where a play begins, poses.
#include "support.hpp"

namespace mobrin::test {
namespace {

using Lines = std::vector<std::string>;

// A clip without frames is known by its length; a window of it is a time, which lies in the clip also backwards and on
// the way back.
TEST(Window, OfAClipWithoutFramesOpensAtItsTime) {
  const auto left_at = [](const std::string& play, const std::string& speed, const std::string& at) {
    const Machine machine = machine_of("inputs: {go: pulse}\nclips: {blow: {length: 400ms" + play +
                                       "}}\nmarks: {blow: {windows: {again: 0.2s-0.3s}}}\n" +
                                       "initial: blows\nstates:\n  blows: {clip: blow, speed: " + speed +
                                       ", go: [{pulse: go, during: again, to: stands}]}\n  stands: {}\n");
    return only(log_of(machine, tape_of("  - {at: " + at + ", pulse: go}\n"), seconds(1)), "leave blows");
  };
  EXPECT_EQ(left_at("", "1", "199ms"), Lines{});
  EXPECT_EQ(left_at("", "1", "200ms"), Lines{"200 leave blows"});
  EXPECT_EQ(left_at("", "1", "299ms"), Lines{"299 leave blows"});
  EXPECT_EQ(left_at("", "1", "300ms"), Lines{});
  EXPECT_EQ(left_at("", "0.5", "500ms"), Lines{"500 leave blows"});
  EXPECT_EQ(left_at("", "-1", "99ms"), Lines{});
  EXPECT_EQ(left_at("", "-1", "100ms"), Lines{"100 leave blows"});
  EXPECT_EQ(left_at("", "-1", "200ms"), Lines{});
  EXPECT_EQ(left_at(", play: back-and-forth", "1", "550ms"), Lines{"550 leave blows"});
  EXPECT_EQ(left_at(", play: back-and-forth", "1", "650ms"), Lines{});
}

// A span over times, of a clip with frames or without, which knows where it begins and ends in both directions.
TEST(Span, OverTimesLastsFromOneToTheOther) {
  const auto told = [](const std::string& clip, const std::string& spans, const std::string& state,
                       const std::string& steps = "") {
    const Machine machine =
        machine_of("inputs: {go: pulse, v: 1.0}\ncues: {glow: effect}\nclips: {c: " + clip +
                   ", d: {length: 200ms}}\nmarks: {c: {spans: {glow: " + spans + "}}}\ninitial: s\nstates: {s: {" +
                   state + ", go: [{pulse: go, to: rest}]}, rest: {}}\n");
    return only(log_of(machine, tape_of(steps), milliseconds(1000)), "glow");
  };
  const std::string bare = "{length: 400ms", framed = "{frames: [0-3], fps: 10";
  EXPECT_EQ(told(bare + "}", "0.1s-0.3s", "clip: c"), (Lines{"100 glow> c", "300 <glow c"}));
  EXPECT_EQ(told(bare + "}", "0.1s-0.3s", "clip: c, speed: -1"), (Lines{"100 glow> c", "300 <glow c"}));
  EXPECT_EQ(told(bare + "}", "0s-0.1s", "clip: c, speed: -1"), (Lines{"300 glow> c"}));  // where it ends, it holds
  EXPECT_EQ(told(bare + "}", "0.3s-0.4s", "clip: c", "  - {at: 700ms, pulse: go}\n"),
            (Lines{"300 glow> c", "700 <glow c"}));
  EXPECT_EQ(told(bare + "}", "0.1s-0.3s", "clip: c", "  - {at: 200ms, pulse: go}\n"),
            (Lines{"100 glow> c", "200 <glow c"}));
  EXPECT_EQ(told(bare + "}", "0.1s-0.3s", "clip: c, speed: v", "  - {at: 200ms, set: {v: -1}}\n"),
            (Lines{"100 glow> c", "300 <glow c"}));
  EXPECT_EQ(told(bare + "}", "[0.1s-0.2s, 0.25s-0.3s]", "clip: c"),
            (Lines{"100 glow> c", "200 <glow c", "250 glow> c", "300 <glow c"}));
  // Loops: over the seam it is one; by `same` it begins in the middle of it.
  EXPECT_EQ(told(bare + ", play: loop}", "0.1s-0.3s", "clip: c"),
            (Lines{"100 glow> c", "300 <glow c", "500 glow> c", "700 <glow c", "900 glow> c"}));
  EXPECT_EQ(told(bare + ", play: loop}", "0s-0.4s", "clip: c"), (Lines{"0 glow> c"}));
  // The way back passes it mirrored; at the turn it goes on.
  EXPECT_EQ(told(bare + ", play: back-and-forth}", "0.1s-0.15s", "clip: c"),
            (Lines{"100 glow> c", "150 <glow c", "650 glow> c", "700 <glow c", "900 glow> c", "950 <glow c"}));
  EXPECT_EQ(told(bare + ", play: back-and-forth}", "0.3s-0.4s", "clip: c"), (Lines{"300 glow> c", "500 <glow c"}));
  // Frames that it cuts stay what they are.
  EXPECT_EQ(told(framed + "}", "150ms-320ms", "clip: c"), (Lines{"150 glow> c:1", "320 <glow c:3"}));
  EXPECT_EQ(told(framed + "}", "100ms-200ms", "clip: c"), (Lines{"100 glow> c:1", "200 <glow c:1"}));
  EXPECT_EQ(
      told(framed + ", play: back-and-forth}", "150ms-250ms", "clip: c"),
      (Lines{"150 glow> c:1", "250 <glow c:2", "450 glow> c:2", "550 <glow c:1", "750 glow> c:1", "850 <glow c:2"}));
  EXPECT_EQ(told(bare + "}", "0.1s-0.3s", "clip: [d, c]"), (Lines{"300 glow> c", "500 <glow c"}));
}

// `during:` with times of what plays, without a window's name; also where there is a length alone.
TEST(Window, MayBeWrittenAsTimesWhereItIsAskedFor) {
  const auto left_at = [](const std::string& plays, const std::string& at) {
    const Machine machine = machine_of(
        "inputs: {go: pulse, v: 1.0}\nclips: {blow: {length: 400ms}, back: {length: "
        "400ms, play: back-and-forth}, cut: {frames: [0-3], fps: 10}}\n"
        "initial: s\nstates:\n  s: {" +
        plays + ", go: [{pulse: go, during: 0.15s-0.4s, to: rest}]}\n  rest: {}\n");
    return only(log_of(machine, tape_of("  - {at: " + at + ", pulse: go}\n"), seconds(1)), "leave s");
  };
  for (const char* plays : {"clip: blow", "length: 400ms", "clip: cut"}) {
    EXPECT_EQ(left_at(plays, "149ms"), Lines{}) << plays;
    EXPECT_EQ(left_at(plays, "150ms"), Lines{"150 leave s"}) << plays;
    EXPECT_EQ(left_at(plays, "900ms"), Lines{"900 leave s"}) << plays;  // the clip ends in it, and stands there
  }
  EXPECT_EQ(left_at("length: 500ms", "399ms"), Lines{"399 leave s"});
  EXPECT_EQ(left_at("length: 500ms", "400ms"), Lines{});
  EXPECT_EQ(left_at("clip: back", "649ms"), Lines{"649 leave s"});
  EXPECT_EQ(left_at("clip: back", "651ms"), Lines{});
}

TEST(Window, OpensForWhatWaitsAtItsTime) {
  const Machine machine = machine_of(
      "inputs: {go: {pulse: 300ms}}\ninitial: s\nstates:\n  s: {length: 400ms, go: [{pulse: go, during: 0.2s-0.3s, to: "
      "t}]}\n  t: {length: 1s, go: [{during: 0.25s-0.5s, to: u}]}\n  u: {}\n");
  EXPECT_EQ(log_of(machine, tape_of("  - {at: 20ms, pulse: go}\n"), seconds(1)),
            (Lines{"0 enter s", "200 leave s", "200 enter t", "450 leave t", "450 enter u"}));
}

// A play that begins at a time tells what lies there, and nothing that lies before.
TEST(Start, AtATimeOfTheClip) {
  const auto told = [](const std::string& clip, const std::string& start, const std::string& state = "") {
    const Machine machine = machine_of(
        "inputs: {go: pulse}\ncues: {a: {}, b: {}, k: {}}\nclips: {c: " + clip +
        "}\nmarks: {c: {cues: {0s: a, 0.2s: b, 0.3s: k}}}\ninitial: rest\nstates:\n  rest: {go: [{pulse: go, to: s, "
        "start: " +
        start + "}]}\n  s: {clip: c" + state + ", go: [{at: end, to: done}]}\n  done: {}\n");
    const auto all = log_of(machine, tape_of("  - {at: 100ms, pulse: go}\n"), seconds(1));
    return Lines(all.begin() + 3, all.end());
  };
  EXPECT_EQ(told("{length: 400ms}", "0.1s"), (Lines{"200 b c", "300 k c", "400 leave s", "400 enter done"}));
  EXPECT_EQ(told("{length: 400ms}", "200ms"), (Lines{"100 b c", "200 k c", "300 leave s", "300 enter done"}));
  EXPECT_EQ(told("{length: 400ms}", "0.4s"), (Lines{"100 leave s", "100 enter done"}));
  EXPECT_EQ(told("{length: 400ms}", "0.25s", ", speed: -1"),
            (Lines{"150 b c", "350 a c", "350 leave s", "350 enter done"}));
  EXPECT_EQ(told("{length: 400ms, play: back-and-forth x1}", "0.35s", ", speed: -1"),
            (Lines{"250 k c", "350 b c", "550 a c", "550 leave s", "550 enter done"}));  // on the way that comes first
  EXPECT_EQ(told("{frames: [0-3], fps: 10}", "0.25s"), (Lines{"150 k c:3", "250 leave s", "250 enter done"}));
  EXPECT_EQ(told("{length: 400ms}", "0.25s", ", speed: 0"), Lines{});
}

TEST(Start, AtATimeThatIsNotThereIsRefused) {
  const auto found = [](const std::string& clip, const std::string& start) {
    return findings_of(
        "inputs: {go: pulse}\nclips: {c: {length: 400ms}, d: {frames: [0-1], fps: 10}}\ninitial: "
        "s\nstates: {s: {go: [{pulse: go, to: t, start: " +
        start + "}]}, t: {clip: " + clip + "}}");
  };
  EXPECT_EQ(found("c", "0.4s"), "");
  EXPECT_EQ(found("c", "0.41s"),
            "m.yaml:6:45: error: `start: 410ms` does not lie in what \"t\" plays [outside-clip]\n    It lasts "
            "400ms.\n");
  EXPECT_EQ(found("c", "2"),
            "m.yaml:6:45: error: frame 2 is not in the clip that \"t\" plays [outside-clip]\n    It has no frames, so "
            "write a time: `start: 0.2s`.\n");
  EXPECT_EQ(found("[c, d]", "0.1s"),
            "m.yaml:6:45: error: `start:` with a time into \"t\", which plays several clips in turn "
            "[meaningless-event]\n    Only `begin` and `same` fit a sequence.\n");
}

// A pose of a clip without frames is of a time: it shows that, and stands in the windows that hold it.
TEST(Pose, OfAClipWithoutFramesIsOfATime) {
  const auto file = [](const std::string& pose, const std::string& window) {
    return "inputs: {go: pulse}\nclips: {c: {length: 400ms}, d: {frames: [0-3], fps: 10}}\nmarks: {c: {windows: {w: " +
           window + "}}}\ninitial: s\nstates: {s: {pose: " + pose + ", go: [{pulse: go, during: w, to: t}]}, t: {}}\n";
  };
  const auto left = [&](const std::string& pose, const std::string& window) {
    return !only(log_of(machine_of(file(pose, window)), tape_of("  - {at: 50ms, pulse: go}\n"), milliseconds(100)),
                 "leave s")
                .empty();
  };
  EXPECT_TRUE(left("{clip: c, time: 0.2s}", "0.2s-0.3s"));
  EXPECT_FALSE(left("{clip: c, time: 0.2s}", "0.1s-0.2s"));
  EXPECT_TRUE(left("{clip: c, time: 400ms}", "0.3s-0.4s"));
  EXPECT_TRUE(left("c", "0s-0.1s"));  // its begin
  EXPECT_FALSE(left("c", "0.1s-0.2s"));
  const Machine machine = machine_of(file("{clip: c, time: 0.25s}", "0s-0.1s"));
  EXPECT_EQ(machine.states()[1].plays, "pose c 0.25s");
  Instance instance(machine);
  CueList<8> cues;
  ASSERT_TRUE(instance.advance(Ticks(), cues).complete());
  EXPECT_EQ(instance.shown().frame, -1);
  EXPECT_EQ(instance.shown().seconds, 0.25);
  EXPECT_EQ(machine.clip_name(instance.shown().clip), "c");

  // Of several clips by an input, each shows its frame at a time of its own.
  const Machine both = machine_of(
      "inputs: {way: {one_of: [up, down]}}\nclips: {u: {frames: [0-3], fps: 10}, v: {frames: [0-3], fps: 5}}\nstates: "
      "{s: "
      "{pose: {clip: {by: way, up: u, down: v}, frame: 2}}}\n");
  Instance chosen(both);
  for (const auto& [way, seconds] : {std::pair("up", 0.2), std::pair("down", 0.4)}) {
    const auto input = *both.input<Choice>("way");
    chosen.set(input, *both.choice(input, way));
    ASSERT_TRUE(chosen.advance(Ticks(), cues).complete());
    EXPECT_EQ(chosen.shown().frame, 2);
    EXPECT_EQ(chosen.shown().seconds, seconds) << way;
  }

  const auto told = [&](const std::string& pose) {
    const std::string all = findings_of(file(pose, "0.2s-0.3s"));
    return all.substr(all.find("error: "));
  };
  EXPECT_EQ(told("{clip: c, time: 0.41s}"),
            "error: a pose lies past the end of the clip \"c\" [outside-clip]\n    It lasts 0.4 s.\n");
  EXPECT_EQ(told("{clip: c, frame: 2}"),
            "error: frame 2 is not in the clip \"c\" [outside-clip]\n    It has no frames, so write a time: `time: "
            "0.2s`.\n");
  EXPECT_EQ(told("{clip: c, frame: 0.2s}"), "error: `frame:` is \"0.2s\" [wrong-type]\n    Write `time: 0.2s`.\n");
  EXPECT_TRUE(
      told("{clip: d, time: 0.2s}")
          .starts_with("error: a pose says a time of the clip \"d\", which has frames [outside-clip]\n    Write "
                       "`frame: N`.\n"));
  EXPECT_EQ(told("{clip: c, frame: 0, time: 0.2s}"),
            "error: a pose has both `frame:` and `time:` [conflicting-keys]\n    Keep one of them.\n");
}

TEST(Span, ThatCutsAFrameLeavesItsCuesAndBorders) {
  const Machine machine = machine_of(
      "cues: {glow: effect, comes: sound, goes: sound}\nclips: {c: {frames: [0-2], fps: 10, play: loop}}\n"
      "marks: {c: {cues: {1: comes, 1.end: goes}, spans: {glow: [110ms-130ms, 0.15s-0.17s]}}}\nstates: {s: {clip: c}}");
  EXPECT_EQ(log_of(machine, {}, milliseconds(200)),
            (Lines{"0 enter s", "100 comes c:1", "110 glow> c:1", "130 <glow c:1", "150 glow> c:1", "170 <glow c:1",
                   "200 goes c:1"}));
  Instance instance(machine);
  CueList<32> cues({});  // whom no cue wakes, the next frame does
  ASSERT_TRUE(instance.advance(milliseconds(120), cues).complete());
  EXPECT_EQ(instance.shown().frame, 1);
  EXPECT_NEAR(instance.shown().seconds, 0.12, 1e-9);
}

TEST(Span, OverTimesThatCannotBeIsRefused) {
  const auto found = [](const std::string& times) {
    return findings_of("cues: {glow: effect}\nclips: {c: {length: 400ms}}\nmarks: {c: {spans: {glow: " + times +
                       "}}}\nstates: {s: {clip: c}}");
  };
  EXPECT_EQ(found("0.1s-0.5s"),
            "m.yaml:5:27: error: the span \"glow\" reaches past the clip \"c\" [outside-clip]\n    The clip lasts 0.4 "
            "s.\n");
  EXPECT_EQ(found("0.3s-0.1s"),
            "m.yaml:5:27: error: the span \"glow\" ends before it begins in \"c\" [outside-clip]\n    The clip lasts "
            "0.4 s.\n");
  EXPECT_EQ(found("1-2"),
            "m.yaml:5:27: error: frame 2 is not in the clip \"c\" [outside-clip]\n    It has no frames, so write a "
            "time: `0.1s-0.3s`.\n");
}

}  // namespace
}  // namespace mobrin::test
