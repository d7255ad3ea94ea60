// Looks, blends, tracks.
#include <cmath>

#include "support.hpp"

namespace mobrin::test {
namespace {

TEST(Looks, TheFirstWhoseConditionHoldsCountsAndThePhaseIsKept) {
  const Machine machine = machine_of(
      "inputs: {health: {int: 6, min: 0, max: 6}}\nlooks: {grey: {when: health <= 1, art: {a.png: g.png}}, pale: "
      "{when: health <= 3, art: {a.png: p.png}}}\n"
      "clips: {c: {sheet: a.png, tile: [8, 8], frames: [0-3], fps: 4, play: loop}}\nstates: {s: {clip: c}}");
  Instance it(machine);
  EXPECT_EQ(it.look(), kNoIndex);
  it.advance(milliseconds(600), [](const Cue&) {});
  for (const auto& [health, look] : {std::pair(3, 1), std::pair(1, 0), std::pair(6, 0xffff)}) {
    it.set(*machine.input<std::int32_t>("health"), health);
    it.advance(milliseconds(10), [](const Cue&) {});
    EXPECT_EQ(it.look(), look);
  }
  EXPECT_EQ(it.shown().frame, 2);
  EXPECT_NE(findings_of("looks: {pale: {when: health <= 3, art: {a: b}}}\nstates: {s: {}}").find("health"),
            std::string::npos);
  EXPECT_NE(findings_of("inputs: {health: 3}\nlooks: {pale: {when: health, art: {a: b}}}\nstates: {s: {}}")
                .find("is no condition"),
            std::string::npos);
}

const char* const kBlendWalker =
    "inputs: {ahead: {float: 0, min: -2, max: 2}, right: {float: 0, min: -2, max: 2}}\ncues: {step: {}, drag: {}}\n"
    "clips: {walk: {frames: [0-3], fps: 4, play: loop}, side: {frames: [0-3], fps: 8, play: loop}, idle: {frames: "
    "[0-1], fps: 1, play: loop}}\n"
    "marks: {walk: {cues: {2: step}}, side: {cues: {2: drag}}}\n"
    "states: {s: {blend: {x: right, y: ahead, points: [{at: [0, 0], clip: idle}, {at: [0, 1], clip: walk}, {at: [0, "
    "-1], clip: walk, backward: true}, "
    "{at: [1, 0], clip: side}, {at: [-1, 0], clip: side, mirror: true}]}}}\n";

class Walker : public testing::Test {
 protected:
  Walker() : machine(machine_of(kBlendWalker)), it(machine) {}
  std::array<Shown, 8> weights(double right, double ahead) {
    it.set(*machine.input<float>("right"), static_cast<float>(right));
    it.set(*machine.input<float>("ahead"), static_cast<float>(ahead));
    it.advance(Ticks(0), [](const Cue&) {});
    std::array<Shown, 8> out{};
    EXPECT_EQ(it.blended(0, out), 5u);
    return out;
  }
  Machine machine;
  Instance it;
};

TEST_F(Walker, WeightsAreExactAtThePointsContinuousAndSumToOne) {
  const double points[5][2] = {{0, 0}, {0, 1}, {0, -1}, {1, 0}, {-1, 0}};
  for (std::size_t i = 0; i < 5; ++i) {
    const auto all = weights(points[i][0], points[i][1]);
    for (std::size_t k = 0; k < 5; ++k) EXPECT_EQ(all[k].weight, k == i ? 1 : 0);
  }
  EXPECT_TRUE(weights(-1, 0)[4].mirrored);
  const auto half = weights(0, 0.5);
  EXPECT_EQ(half[0].weight, 0.5);
  EXPECT_EQ(half[1].weight, 0.5);
  // Over the plane: sums of 1, none negative, and no jump between neighbours.
  std::array<Shown, 8> before{};
  for (double y = -1.6; y <= 1.6; y += 0.05)
    for (double x = -1.6; x <= 1.6; x += 0.05) {
      const auto now = weights(x, y);
      double sum = 0;
      for (std::size_t k = 0; k < 5; ++k) {
        sum += now[k].weight;
        EXPECT_GE(now[k].weight, 0);
        if (x < -1.59) continue;
        EXPECT_LT(std::abs(now[k].weight - before[k].weight), 0.16) << x << " " << y;
      }
      EXPECT_NEAR(sum, 1, 1e-12);
      before = now;
    }
}

TEST_F(Walker, TheHeaviestClipTellsItsCuesAndAllRunInPhase) {
  std::vector<std::string> log;
  weights(0, 1);
  listen(it, seconds(1), log);
  EXPECT_EQ(only(log, "step"), (std::vector<std::string>{"500 step walk:2"}));
  log.clear();
  // As much walk of 1 s as side of 0.5 s, and some idle of 2 s: the phase moves by the mean of what each would move it.
  const auto mixed = weights(0.75, 0.75);
  EXPECT_NEAR(mixed[1].weight, mixed[3].weight, 1e-12);
  const double rounds = 4 * (mixed[0].weight / 2 + mixed[1].weight + mixed[3].weight / 0.5);
  listen(it, seconds(4), log);
  EXPECT_EQ(only(log, "loop").size(), static_cast<std::size_t>(rounds));
  const auto all = weights(0.75, 0.75);
  EXPECT_NEAR(all[1].seconds / 1.0, all[3].seconds / 0.5, 1e-6);  // one phase
  // Backwards it turns back from where it is.
  const double phase = weights(0, 1)[1].seconds;
  weights(0, -1);
  it.advance(milliseconds(100), [](const Cue&) {});
  EXPECT_NEAR(it.shown().seconds, std::fmod(phase - 0.1 + 1, 1), 1e-6);
}

TEST(Blends, AFloorKeepsEveryClip) {
  const Machine machine = machine_of(
      "inputs: {pace: {float: 0}}\nclips: {a: {frames: [0], fps: 4, play: loop}, b: {frames: [0], fps: 4, play: loop}, "
      "c: {frames: [0], fps: 4, play: loop}}\n"
      "states: {s: {blend: {x: pace, floor: 0.01, points: [{at: 0, clip: a}, {at: 1, clip: b}, {at: 3, clip: c}]}}}");
  Instance it(machine);
  it.set(*machine.input<float>("pace"), 2.0f);
  it.advance(Ticks(0), [](const Cue&) {});
  std::array<Shown, 4> out{};
  ASSERT_EQ(it.blended(0, out), 3u);
  EXPECT_NEAR(out[0].weight, 0.01, 1e-12);
  EXPECT_NEAR(out[1].weight, 0.01 + 0.97 / 2, 1e-12);
  it.set(*machine.input<float>("pace"), 50.0f);
  it.advance(Ticks(0), [](const Cue&) {});
  it.blended(0, out);
  EXPECT_NEAR(out[2].weight, 0.98, 1e-12);
}

// At 0.5 both weigh the same and the phase makes 1.5 rounds a second: left lies at a quarter of it, right at a half.
TEST(Blends, LighterClipsTellTheirCuesWhereTheyWeighEnough) {
  const auto log = [](const std::string& cues_above, const std::string& go = "") {
    const Machine machine = machine_of(
        "inputs: {pace: {float: 0.5}}\ncues: {left: {}, right: {}, glow: {}}\n"
        "clips: {a: {frames: [0-3], fps: 4, play: loop}, b: {frames: [0-1], fps: 4, play: loop}}\n"
        "marks: {a: {cues: {1: left}}, b: {cues: {1: right, 0.end: right}, spans: {glow: 1-1}}}\n"
        "states: {s: {blend: {x: pace, points: [{at: 0, clip: a}, {at: 1, clip: b}]" +
        cues_above + "}" + go + "}, t: {}}\ninitial: s");
    return text_of(log_of(machine, tape_of("- {at: 1s, set: {pace: 0.75}}"), milliseconds(1100), 60, kGameRecords));
  };
  EXPECT_EQ(log(""), "166.666667 left a:1\n833.333333 left a:1\n1000 glow> b:1\n");
  EXPECT_EQ(log(", cues_above: 0.6"), log(""));
  EXPECT_EQ(log(", cues_above: 0.5"),
            "166.666667 left a:1\n333.333333 right b:0\n333.333333 right b:1\n833.333333 left a:1\n"
            "1000 right b:0\n1000 right b:1\n1000 glow> b:1\n");
  EXPECT_EQ(log(", cues_above: 0.5", ", go: [{cue: right, to: t}]"),
            "166.666667 left a:1\n333.333333 right b:0\n333.333333 right b:1\n");
}

TEST(Blends, WrongOnesAreFound) {
  const std::string clips =
      "inputs: {pace: {float: 0}}\nclips: {a: {frames: [0], fps: 4, play: loop}, b: {frames: [0], fps: 4}}\n";
  const auto found = [&](const std::string& blend) {
    return findings_of(clips + "states: {s: {blend: {" + blend + "}}}");
  };
  EXPECT_NE(found("x: pace, points: [{at: 0, clip: a}]").find("has 1 point"), std::string::npos);
  EXPECT_NE(found("x: pace, points: [[0, a], [1, b]]").find("Write `{at: 1, clip: b}`."), std::string::npos);
  EXPECT_NE(found("x: pace, points: [{at: 0, clip: a}, {at: 1, clip: b}]").find("they all `loop`"), std::string::npos);
  EXPECT_NE(found("x: pace, points: [{at: 0, clip: a}, {at: 0, clip: a}]").find("two clips at one point"),
            std::string::npos);
  EXPECT_NE(found("x: pase, points: [{at: 0, clip: a}, {at: 1, clip: a}]").find("Did you mean \"pace\""),
            std::string::npos);
  EXPECT_NE(found("x: pace, floor: 0.5, points: [{at: 0, clip: a}, {at: 1, clip: a}]").find("impossible floor"),
            std::string::npos);
  EXPECT_NE(found("x: pace, cues_above: 1.5, points: [{at: 0, clip: a}, {at: 1, clip: a}]").find("impossible weight"),
            std::string::npos);
  EXPECT_NE(found("x: pace > 1, points: [{at: 0, clip: a}, {at: 1, clip: a}]").find("is no number"), std::string::npos);
}

TEST(Tracks, AreSampledAndSayHowFarTheyMoved) {
  const Machine machine = machine_of(
      "inputs: {dir: {float: 1, min: -2, max: 2}}\nclips: {c: {frames: [0-3], fps: 4, play: loop}}\nmarks: {c: "
      "{tracks: {lid: {keys: {0: 0, 2: 40, 3.end: 60}}, "
      "stair: {curve: step, keys: {0: 1, 0.5s: 2}}, ease: {curve: cubic, keys: {0: [0, 0, 0], 3.end: [0, 10, "
      "0]}}}}}\nstates: {s: {clip: c, speed: dir}}");
  Instance it(machine);
  const auto on = [&](int step) { it.advance(milliseconds(step), [](const Cue&) {}); };
  on(0);
  std::vector<std::byte> before(it.block().begin(), it.block().end());
  on(250);
  EXPECT_NEAR(*it.track("lid"), 20, 1e-9);
  EXPECT_EQ(*it.track("stair"), 1);
  EXPECT_NEAR(*it.track("ease"), 10 * (3 * 0.0625 - 2 * 0.015625), 1e-9);
  EXPECT_FALSE(it.track("lidd"));
  EXPECT_NEAR(it.moved("lid", before), 20, 1e-9);
  on(500);
  EXPECT_NEAR(*it.track("lid"), 50, 1e-9);
  EXPECT_EQ(*it.track("stair"), 2);
  // Across the loop: 10 to the end, 20 from the beginning; and three whole rounds of 60 in one step.
  before.assign(it.block().begin(), it.block().end());
  on(500);
  EXPECT_NEAR(it.moved("lid", before), 30, 1e-9);
  before.assign(it.block().begin(), it.block().end());
  on(3000);
  EXPECT_NEAR(it.moved("lid", before), 180, 1e-9);
  // On reversal it runs back.
  it.set(*machine.input<float>("dir"), -1.0f);
  on(0);
  before.assign(it.block().begin(), it.block().end());
  on(200);
  EXPECT_NEAR(it.moved("lid", before), -16, 1e-9);
  on(0);
  before.assign(it.block().begin(), it.block().end());
  on(100);
  EXPECT_NEAR(it.moved("lid", before), -4 - 4.0, 5);
}

TEST(Tracks, WrongOnesAreFound) {
  const auto found = [](const std::string& tracks) {
    return findings_of("clips: {c: {frames: [0-3], fps: 4}}\nmarks: {c: {tracks: {" + tracks +
                       "}}}\nstates: {s: {clip: c}}");
  };
  EXPECT_NE(found("lid: {keys: {4: 1}}").find("frame 4 is not in the clip"), std::string::npos);
  EXPECT_NE(found("lid: {keys: {2: 1, 0: 2}}").find("do not rise in time"), std::string::npos);
  EXPECT_NE(found("lid: {keys: {2s: 1}}").find("lies past the end"), std::string::npos);
  EXPECT_NE(found("lid: {}").find("has no keys"), std::string::npos);
  EXPECT_NE(found("lid: {curve: bezier, keys: {0: 1}}").find("curve"), std::string::npos);
}

}  // namespace
}  // namespace mobrin::test
