// Scenes: who hits whom when, what cues make, and what is refused of their files.
#include <filesystem>
#include <fstream>

#include <unistd.h>

#include "mobrin/io/file.hpp"
#include "mobrin/io/scene.hpp"
#include "random_scene.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

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

class DemoScene : public testing::Test {
 protected:
  explicit DemoScene(const char* file) : loaded(load_scene(std::string(MOBRIN_DEMO "/") + file)) {}
  LoadedScene loaded;
};

class Dusk : public DemoScene {
 protected:
  Dusk() : DemoScene("dusk.scene.yaml") {}
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

// Who is larger reaches further, and what he makes comes from where he is larger.
TEST(Scenes, BoxesReachesAndWhatIsSpawnedGrowWithTheirActor) {
  const Machine striker = machine_of(
      "unit: 10px\ncues: {blow: {kind: damage, reach: arm}, seed: {kind: spawn, what: seed, from: [5, 20]}}\n"
      "reaches: {arm: {circle: [10, 0, 5]}}\nclips: {c: {length: 1s}}\n"
      "marks: {c: {cues: {100ms: blow, 200ms: seed}}}\nstates: {s: {clip: c}}\n");
  const Machine target = machine_of(
      "unit: 10px\nclips: {c: {length: 1s}}\nmarks: {c: {boxes: [{name: body, role: hurt, rect: [-1, -1, 2, 2]}]}}\n"
      "states: {s: {clip: c}}\n");
  for (const auto& [scale, expected] :
       {std::pair(1.0,
                  "0 enter s one\n0 enter s two\n100 blow c one\n200 seed c one\n200 seed 1 comes at 1.500000000 "
                  "2.000000000\n200 enter s seed 1\n"),
        std::pair(2.0,
                  "0 enter s one\n0 enter s two\n100 blow c one\n100 one hits two\n200 seed c one\n200 seed 1 comes "
                  "at 2.000000000 4.000000000\n200 enter s seed 1\n")}) {
    Scene scene;
    scene.until = milliseconds(300);
    for (const auto& [name, machine, x] : {std::tuple("one", striker, 1.0), std::tuple("two", target, 3.0)}) {
      SceneActor& actor = scene.actors.emplace_back();
      actor.name = name;
      actor.machine = machine;
      actor.start.at = {x, 0};
    }
    scene.actors[0].start.scale = scale;
    scene.spawns.emplace_back().what = "seed";
    scene.spawns.back().machine = target;
    EXPECT_EQ(scene_log(scene), expected);
  }
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

class Smoke : public DemoScene {
 protected:
  Smoke() : DemoScene("smoke.scene.yaml") {}
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
