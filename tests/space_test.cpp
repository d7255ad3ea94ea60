// Looks, blends, tracks, scenes.
#include <cmath>
#include <filesystem>
#include <fstream>

#include <unistd.h>

#include "mobrin/io/file.hpp"
#include "mobrin/io/scene.hpp"
#include "random_scene.hpp"
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
  EXPECT_NE(found("x: pace, points: [{at: 0, clip: a}]").find("has 1 points"), std::string::npos);
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

// --- scenes ---------------------------------------------------------------------------------------------------------

std::string scene_log(const Scene& scene, const std::vector<Ticks>& cuts = {}) {
  SceneRun run(scene);
  std::string log;
  const auto told = [&](const SceneRecord& record) {
    const std::string& name = run.actor(record.actor).name.text;
    if (record.what == SceneRecord::What::spawn || record.what == SceneRecord::What::gone) {
      const Vec2 at = run.placement(record.actor, record.at).at;
      char place[64];
      std::snprintf(place, sizeof place, "%.9f %.9f", at.x, at.y);
      log += ms(record.at) + " " + name + (record.what == SceneRecord::What::spawn ? " comes at " : " is gone at ") +
             place + "\n";
    } else if (record.what == SceneRecord::What::told)
      log += line(record.cue) + " " + name + "\n";
    else
      log += ms(record.at) + " " + name +
             (record.what == SceneRecord::What::hit ? " hits "
              : record.entered                      ? " takes in "
                                                    : " lets out ") +
             run.actor(record.other).name.text + "\n";
  };
  for (const Ticks cut : cuts) run.run(cut, told);
  run.run(scene.until, told);
  return log;
}

// Whoever is watched, cut or alone: what is written where a run ends takes effect in it.
TEST(Scenes, WriteAtTheirVeryEnd) {
  Scene scene;
  scene.until = milliseconds(100);
  SceneActor& actor = scene.actors.emplace_back();
  actor.machine = machine_of("inputs: {go: pulse}\ninitial: a\nstates: {a: {go: [{pulse: go, to: b}]}, b: {}}");
  actor.name = "one";
  actor.tape = tape_of("  - {at: 100ms, pulse: go}");
  for (const bool still : {false, true}) {
    scene.still = still;
    EXPECT_EQ(scene_log(scene), "0 enter a one\n100 leave a one\n100 enter b one\n");
    EXPECT_EQ(scene_log(scene, {milliseconds(100)}), scene_log(scene));
  }
}

class Dusk : public testing::Test {
 protected:
  Dusk() : loaded(load_scene(MOBRIN_DEMO "/dusk.scene.yaml")) {}
  LoadedScene loaded;
};

TEST_F(Dusk, HitsLieOnTheImpactFramesAndTheirConsequencesAtTheSameInstant) {
  ASSERT_TRUE(loaded.scene) << joined(loaded.findings);
  const std::string log = scene_log(*loaded.scene);
  EXPECT_NE(log.find("2050 net_out net:3 keeper\n2050 keeper hits hornet\n2050 leave body/hover hornet\n2050 enter "
                     "body/stunned hornet\n"),
            std::string::npos)
      << log;
  // The second blow fells it; what fell is not hit again, and stings no more.
  EXPECT_NE(log.find("2350 keeper hits hornet\n"), std::string::npos);
  std::size_t hits = 0;
  for (std::size_t at = log.find(" hits "); at != std::string::npos; at = log.find(" hits ", at + 1)) ++hits;
  EXPECT_EQ(hits, 5u);
  EXPECT_NE(log.find("hive takes in keeper\n"), std::string::npos);
}

TEST_F(Dusk, HowTimeIsCutChangesNothing) {
  ASSERT_TRUE(loaded.scene);
  const std::string whole = scene_log(*loaded.scene);
  std::vector<Ticks> cuts;
  for (int i = 1; i < 10 * 144; ++i) cuts.push_back(Ticks(kTicksPerSecond * i / 144));
  EXPECT_EQ(scene_log(*loaded.scene, cuts), whole);
}

TEST_F(Dusk, TheMirroredSceneGivesTheSameLog) {
  ASSERT_TRUE(loaded.scene);
  EXPECT_EQ(scene_log(mirrored(*loaded.scene)), scene_log(*loaded.scene));
}

TEST_F(Dusk, SlowedDownToAQuarterTheBlowMovesWithItsFrame) {
  ASSERT_TRUE(loaded.scene);
  Scene slow = *loaded.scene;
  TapeStep step;
  step.at = milliseconds(1900);
  step.rate = 0.25;
  auto& steps = slow.actors[2].tape.steps;
  steps.insert(
      std::find_if(steps.begin(), steps.end(), [](const TapeStep& each) { return each.at >= milliseconds(1900); }),
      step);
  const std::string log = scene_log(slow);
  for (const char* words :
       {"\n2500 net_out net:3 keeper\n", "\n2500 keeper hits hornet\n", "\n2500 enter body/stunned hornet\n"})
    EXPECT_NE(log.find(words), std::string::npos) << words;
}

TEST(Scenes, WrongOnesAreFoundWithTheirPlace) {
  const std::string path = testing::TempDir() + "wrong.scene.yaml";
  const auto found = [&](const std::string& text) {
    std::ofstream(path) << "mobrin: 1\nscene: s\n" << text;
    const LoadedScene loaded = load_scene(path);
    EXPECT_FALSE(loaded.scene);
    return joined(loaded.findings);
  };
  const std::string keeper = std::string("machine: ") + MOBRIN_DEMO + "/keeper.yaml";
  EXPECT_NE(found("until: 1s\nactors: {k: {" + keeper + ", when_hit: {pulse: stun}}}").find(":4:"), std::string::npos);
  EXPECT_NE(found("until: 1s\nactors: {k: {" + keeper + ", when_hit: {pulse: stunk}}}").find("stung"),
            std::string::npos);
  EXPECT_NE(found("actors: {k: {" + keeper + "}}").find("how long it lasts"), std::string::npos);
  EXPECT_EQ(found("until: 1s\nactors: {k: {machine: none.yaml}}"),
            path + ":4:23: error: \"" + testing::TempDir() +
                "none.yaml\" does not exist [unreadable-file]\n    Check the path; it is relative to the file it "
                "stands in.\n");
  const std::string demo = MOBRIN_DEMO;
  EXPECT_EQ(found("until: 1s\nactors:\n  k:\n    " + keeper + "\n    tape: " + demo + "/keeper.tpe.yaml"),
            path + ":7:11: error: \"" + demo +
                "/keeper.tpe.yaml\" does not exist [unreadable-file]\n    Did you mean \"keeper.tape.yaml\"?\n");
  EXPECT_EQ(found("until: 1s\nactors: {k: {machine: " + demo + "/smoker}, h: {machine: " + demo + "/hornit.yaml}}"),
            path + ":4:23: error: \"" + demo +
                "/smoker\" does not exist [unreadable-file]\n    Did you mean \"smoker.png\" or \"smoker.yaml\"?\n" +
                path + ":4:" + std::to_string(46 + demo.size()) + ": error: \"" + demo +
                "/hornit.yaml\" does not exist [unreadable-file]\n    Did you mean \"hornet.yaml\"?\n");
  // Other words for keys, and durations without a unit.
  EXPECT_EQ(found("until: 7\nactors:\n  k:\n    " + keeper +
                  "\n    pos: [1, 0]\n    on_hit: {pulse: stung}\n"
                  "    moves: [{at: 0, by: [1, 0]}, {at: 1s, duration: 1.5, by: [1, 0]}, {at: 110, face: left}]"),
            path + ":3:8: error: `until:` is \"7\" [wrong-type]\n    Write `7s` or `7ms`.\n" + path +
                ":7:5: error: \"pos\" is no key of an actor [unknown-key]\n    Did you mean \"at\"?\n" + path +
                ":8:5: error: \"on_hit\" is no key of an actor [unknown-key]\n    Did you mean \"when_hit\"?\n" + path +
                ":9:18: error: `at:` is \"0\" [wrong-type]\n    Write `0s`.\n" + path +
                ":9:43: error: \"duration\" is no key of a move [unknown-key]\n    Did you mean \"for\"?\n" + path +
                ":9:53: error: `for:` is \"1.5\" [wrong-type]\n    Write `1.5s`.\n" + path +
                ":9:76: error: `at:` is \"110\" [wrong-type]\n    Write `110ms` or `110s`.\n");
  EXPECT_NE(found("until: 1s\nactors: {k: {" + keeper + ", at: [.inf, 0]}}").find("error"), std::string::npos);
  EXPECT_NE(found("until: 1s\nactors: {k: {" + keeper + ", scale: 0}}").find("scale"), std::string::npos);
  EXPECT_NE(
      found("until: 1s\nactors: {k: {" + keeper + ", moves: [{at: 1s, for: 1s, by: [1, 0]}, {at: 1.5s, by: [1, 0]}]}}")
          .find("before the one above it ends"),
      std::string::npos);
  EXPECT_NE(found("until: 1s").find("no actors"), std::string::npos);
}

// --- scenes that do what cues say -----------------------------------------------------------------------------------

class Smoke : public testing::Test {
 protected:
  Smoke() : loaded(load_scene(MOBRIN_DEMO "/smoke.scene.yaml")) {}
  LoadedScene loaded;
};

TEST_F(Smoke, SpawnsFliesFollowsAndReaches) {
  ASSERT_TRUE(loaded.scene) << joined(loaded.findings);
  const std::string log = scene_log(*loaded.scene);
  // The puff comes where the spout is: 9 px forward and 14 up of (2.2, 0), 32 px a unit.
  EXPECT_NE(log.find("puff 1 comes at 2.481250000 0.437500000\n"), std::string::npos) << log;
  EXPECT_NE(log.find("done gone puff 1\n"), std::string::npos);
  EXPECT_NE(log.find(" puff 1 is gone at "), std::string::npos);
  // The hop: 5.5 units a second up against 22 a second squared: 0.5 s, from frame 1 of leap on.
  EXPECT_NE(log.find("1480 lift leap:1 keeper\n"), std::string::npos);
  EXPECT_NE(log.find("1980 enter ground/land keeper\n"), std::string::npos);
  EXPECT_NE(log.find("keeper hits hornet\n"), std::string::npos);
}

TEST_F(Smoke, NoCutChangesWhatFliesFollowsAndIsSpawned) {
  ASSERT_TRUE(loaded.scene);
  const std::string whole = scene_log(*loaded.scene);
  std::vector<Ticks> even, odd;
  for (int i = 1; i < 700; ++i) even.push_back(milliseconds(10 * i));
  for (int i = 1; i < 90; ++i) odd.push_back(Ticks(77'777'777LL * i / 1 % loaded.scene->until.count));
  std::sort(odd.begin(), odd.end());
  EXPECT_EQ(scene_log(*loaded.scene, even), whole);
  EXPECT_EQ(scene_log(*loaded.scene, odd), whole);
}

TEST_F(Smoke, WhoFollowsKeepsItsDistanceAndFaces) {
  ASSERT_TRUE(loaded.scene);
  SceneRun run(*loaded.scene);
  run.run(milliseconds(4200), [](const SceneRecord&) {});
  const Placement keeper = run.placement(1, run.now()), hornet = run.placement(2, run.now());
  EXPECT_NEAR(std::hypot(keeper.at.x - hornet.at.x, keeper.at.y - hornet.at.y), 0.7, 0.02);
  EXPECT_FALSE(hornet.faces_left);
}

// A machine that strikes through a reach only, throws itself up, and is thrown off the stage.
TEST(Scenes, ADamageCueReachesOnceASwingAndBodiesLeaveTheStage) {
  const Machine striker = machine_of(
      "unit: 10px\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {out: {kind: damage, reach: near}, kick: {kind: "
      "impulse, "
      "forward: 60, up: 5}}\nreaches: {near: {circle: [10, 0, 12], spares: [friend]}}\nmarks: {c: {cues: {1: out, 3: "
      "kick}}}\n"
      "inputs: {flying: true}\ninitial: a\nstates: {a: {clip: c}}");
  const Machine target = machine_of(
      "unit: 10px\nclips: {c: {frames: [0], fps: 10, play: loop}}\nmarks: {c: {boxes: [{name: body, role: hurt, rect: "
      "[-3, 0, 6, "
      "6]}]}}\ninputs: {n: 0}\nstates: {a: {clip: c}}");
  Scene scene;
  scene.until = seconds(4);
  const auto add = [&](const char* name, const Machine& machine, double x) -> SceneActor& {
    SceneActor& actor = scene.actors.emplace_back();
    actor.name = name;
    actor.machine = machine;
    actor.start.at.x = x;
    return actor;
  };
  add("striker", striker, 0).grounded = "flying";
  add("near", target, 2).rules = {{"out", {}, {{"n", 1}}}};
  add("friend", target, 1).tags = {"friend"};
  add("far", target, 4);
  const std::string log = scene_log(scene);
  EXPECT_NE(log.find("100 striker hits near\n"), std::string::npos) << log;
  EXPECT_EQ(log.find("hits friend"), std::string::npos);
  EXPECT_EQ(log.find("hits far"), std::string::npos);
  EXPECT_EQ(log.find("striker hits near", log.find("striker hits near") + 1), std::string::npos);
  SceneRun run(scene);
  run.run(milliseconds(150), [](const SceneRecord&) {});
  EXPECT_EQ(std::get<std::int64_t>(run.instance(1).input_value(0)), 1);
  run.run(milliseconds(400), [](const SceneRecord&) {});
  EXPECT_EQ(std::get<bool>(run.instance(0).input_value(0)), false);
  // 60 units a second for the 2 v / g = 0.5 s of its flight; then it lies there, on the stage.
  run.run(milliseconds(900), [](const SceneRecord&) {});
  EXPECT_NEAR(run.placement(0, run.now()).at.x, 30, 0.01);
  EXPECT_EQ(std::get<bool>(run.instance(0).input_value(0)), true);
  scene.gravity = 0.1;
  bool gone = false;
  SceneRun far(scene);
  far.run(scene.until, [&](const SceneRecord& record) { gone = gone || record.what == SceneRecord::What::gone; });
  EXPECT_TRUE(gone);
  EXPECT_TRUE(far.gone(0));
}

TEST(Scenes, NamesAreCheckedWithTheNearestRightOne) {
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / ("mobrin_names_" + std::to_string(::getpid()));
  std::filesystem::copy(MOBRIN_DEMO, folder);
  const auto found = [&](const std::string& edit_from, const std::string& edit_to) {
    std::string text = *mobrin::read_file(MOBRIN_DEMO "/smoke.scene.yaml");
    const std::size_t at = text.find(edit_from);
    EXPECT_NE(at, std::string::npos) << edit_from;
    text.replace(at, edit_from.size(), edit_to);
    const std::string path = (folder / "smoke.scene.yaml").string();
    EXPECT_TRUE(mobrin::write_file(path, text));
    return joined(load_scene(path).findings);
  };
  EXPECT_NE(found("{by: smoke", "{by: smok").find("nothing called \"smok\" hits in this scene"), std::string::npos);
  EXPECT_NE(found("{by: smoke", "{by: smok").find("Did you mean \"smoke\"?"), std::string::npos);
  EXPECT_NE(found("{by: smoke", "{by: axe").find("its reach. There are \""), std::string::npos);
  EXPECT_NE(found("follows: keeper", "follows: nobody").find("There are \"smoker\", \"keeper\" and \"hornet\"."),
            std::string::npos);
  EXPECT_NE(found("pulse: stunned", "pulse: distance").find("Name a pulse of \"hornet\"."), std::string::npos);
  EXPECT_NE(
      found("at: [2.2, 0]", "at: [70.4, 320]").find("World units are not pixels: of 32 pixels it is `[2.2, 10]`."),
      std::string::npos);
  EXPECT_NE(found("by: [3, 0]", "by: [-120, 0]").find("`by:` is [-120, 0] in world units"), std::string::npos);
  EXPECT_NE(found("follows: keeper", "follows: keepr").find("Did you mean \"keeper\"?"), std::string::npos);
  EXPECT_NE(found("follows: keeper", "follows: hornet").find("it follows itself"), std::string::npos);
  EXPECT_NE(found("tags: [hornet]", "tags: [hornett]").find("Did you mean \"hornet\"?"), std::string::npos);
  EXPECT_NE(found("  puff: {machine", "  pufff: {machine").find("Did you mean \"puff\"?"), std::string::npos);
  EXPECT_NE(found("grounded: grounded", "grounded: groundd").find("Did you mean \"grounded\"?"), std::string::npos);
  EXPECT_NE(found("machine: puff.yaml", "machine: pufff.yaml").find("does not exist"), std::string::npos);
  EXPECT_NE(found("keeps: 0.7", "keeps: -1").find("`keeps:` is"), std::string::npos);
  EXPECT_NE(found("gravity: 22", "gravity: -1").find("It lies between 0 and 1000."), std::string::npos);
  // A damage cue of a machine without reaches finds nobody.
  EXPECT_TRUE(mobrin::write_file(folder / "moth.yaml",
                                 "mobrin: 1\nmachine: moth\ncues: {nip: {kind: damage}}\nclips: {n: {length: 1s}}\n"
                                 "marks: {n: {cues: {100ms: nip}}}\nstates: {n: {clip: n}}\n"));
  const std::string scene = (folder / "moth.scene.yaml").string();
  EXPECT_TRUE(mobrin::write_file(scene,
                                 "mobrin: 1\nscene: s\nuntil: 1s\nactors:\n  a: {machine: moth.yaml, at: [0, 0]}\n"
                                 "  b: {machine: keeper.yaml, at: [1, 0], when_hit: [{by: nip, pulse: stung}]}\n"));
  EXPECT_NE(joined(load_scene(scene).findings)
                .find("moth.scene.yaml:6:57: error: the cue \"nip\" hits nobody: its machine has no reaches"),
            std::string::npos);
  std::filesystem::remove_all(folder);
}

}  // namespace
}  // namespace mobrin::test
