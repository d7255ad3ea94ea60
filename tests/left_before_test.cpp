// What leads on before a play is over, and what is counted by what the game writes: rows of what is so, and near
// misses.
#include <string>

#include "claim_answers.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A meal of 1.2 s, twelve frames, and how it is left.
struct Meal {
  const char* name;
  const char* marks;
  const char* rules;
  const char* answer;  // to the claim
  const char* plays = "clip: eat";
  const char* more = "";  // a rule of who stands
  const char* claim = "{from: in(eat), within: 0.9s, reaches: not in(eat)}";
};

Loaded loaded_meal(const Meal& meal) {
  return loaded_from(
      std::string("inputs: {go: pulse, light: {pulse: 150ms}, far: false, v: {float: 1, min: 0, max: 2}}\n"
                  "cues: {got: sound, hiss: sound}\nclips:\n  eat: {frames: [0-11], fps: 10}\n"
                  "  chew: {frames: [0-11], fps: 10, play: loop}\nmarks:\n  eat: {") +
      meal.marks + "}\n  chew: {" + meal.marks + "}\ninitial: stand\nstates:\n  stand: {go: [{pulse: go, to: eat}" +
      meal.more + "]}\n  eat: {" + meal.plays + ", go: [" + meal.rules +
      "]}\n  off: {length: 100ms, go: [{at: end, to: stand}]}\nclaims: {it: " + meal.claim + "}\n");
}

class LeftBefore : public testing::TestWithParam<Meal> {};

TEST_P(LeftBefore, TheEnd) {
  const Loaded loaded = loaded_meal(GetParam());
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + GetParam().answer + "\n");
}

const char* const kCue = "{cue: got, to: off}, {at: end, to: stand}";
const char* const kWindow = "{pulse: light, during: next, to: off}, {at: end, to: stand}";
const char* const kAgain = ", {pulse: light, to: eat}";  // a press that is left over begins it anew
const char* const kOver = "{from: in(eat), within: 1.2s, reaches: not in(eat)}";

const Meal kMeals[] = {
    {"AtACue", "cues: {8: got}", kCue, "proved"},
    {"AtACueAtATime", "cues: {0.85s: got}", kCue, "proved"},
    {"AtTheEndOfAFrame", "cues: {8.end: got}", kCue, "proved"},
    {"AtACueThatComesTooLate", "cues: {10: got}", kCue, "refuted"},
    {"AtTheFirstOfTwo", "cues: {8: got, 10: got}", kCue, "proved"},
    {"AtACueOfALoop", "cues: {8: got}", "{cue: got, to: off}", "proved", "clip: chew"},
    {"AtACueOfAFasterPlay", "cues: {10: got}", kCue, "proved", "clip: eat, speed: 1.2 + v"},
    {"NotWhereItMayStandStill", "cues: {8: got}", kCue, "refuted", "clip: eat, speed: v"},
    {"NotIfAGuardIsAsked", "cues: {8: got}", "{cue: got, when: far, to: off}, {at: end, to: stand}", "refuted"},
    {"NotIfOneBeforeMayStand", "cues: {8: got}", "{when: far, to: eat}, {cue: got, to: off}, {at: end, to: stand}",
     "refuted"},
    {"NotByACueToldBackwards", "cues: {8: {got: {way: backward}}}", kCue, "refuted"},
    {"NotIfItMayBeginBehindIt", "cues: {8: got}", kCue, "refuted", "clip: eat", ", {pulse: light, to: eat, start: 9}",
     "{from: in(eat), next: in(eat) or in(off)}"},
    {"NorByTheEnd", "cues: {8: got}", kCue, "proved", "clip: eat", "", "{from: in(eat), next: in(eat) or in(off)}"},
    {"InAWindow", "windows: {next: 3-11}", kWindow, "proved", "clip: eat", kAgain, kOver},
    {"InAWindowOfTime", "windows: {next: 0.3s-1.2s}", kWindow, "proved", "clip: eat", kAgain, kOver},
    {"InFramesOfItsOwn", "cues: {3: hiss}", "{pulse: light, during: 3-11, to: off}, {at: end, to: stand}", "proved",
     "clip: eat", kAgain, kOver},
    {"InTimesOfItsOwn", "cues: {3: hiss}", "{pulse: light, during: 0.3s-1.2s, to: off}, {at: end, to: stand}", "proved",
     "clip: eat", kAgain, kOver},
    {"InAWindowOfABareLength", "cues: {3: hiss}", "{pulse: light, during: 0.3s-1.2s, to: off}, {at: end, to: stand}",
     "proved", "length: 1.2s", kAgain, kOver},
    {"NotIfTheWindowClosesBefore", "windows: {next: 3-10}", kWindow, "refuted", "clip: eat", kAgain, kOver},
    {"NotIfItsTimeIsOverBefore", "windows: {next: 0.3s-1.1s}", kWindow, "refuted", "clip: eat", kAgain, kOver},
    {"NotInFramesThatEndBefore", "cues: {3: hiss}", "{pulse: light, during: 3-10, to: off}, {at: end, to: stand}",
     "refuted", "clip: eat", kAgain, kOver},
    {"NotIfTheWindowsRuleHasAGuard", "windows: {next: 3-11}",
     "{pulse: light, during: next, when: far, to: off}, {at: end, to: stand}", "refuted", "clip: eat", kAgain, kOver},
};
std::string name_of_meal(const testing::TestParamInfo<Meal>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, LeftBefore, testing::ValuesIn(kMeals), name_of_meal);

// The rule for an end that is never come to is told, with what leads on before.
TEST(LeftBeforeTheEnd, IsTold) {
  const auto told = [](const char* rules) {
    const Loaded loaded = loaded_meal({"", "cues: {8: got}", rules, ""});
    std::string out;
    for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine).findings)
      if (each.finding.code == FindingCode::never_holds) out += each.finding.message + "\n";
    return out;
  };
  EXPECT_EQ(told(kCue), "\"eat\" is left at the cue \"got\" (line 14), before its play ends\n");
  EXPECT_EQ(told("{cue: got, when: far, to: off}, {at: end, to: stand}"), "");
  EXPECT_EQ(told("{at: end, to: stand}"), "");
}

struct Count {
  const char* name;
  const char* each_loop;
  const char* rules;
  const char* claim;
  const char* answer;
};

class Counted : public testing::TestWithParam<Count> {};

// What a round adds hangs on what the game writes meanwhile.
TEST_P(Counted, ByWhatIsWritten) {
  const Count& count = GetParam();
  const Loaded loaded = loaded_from(
      std::string("inputs: {lit: false, heat: {float: 0, min: 0, max: 10}, near: {int: 0, min: 0, max: 3}}\n"
                  "vars: {temp: 0}\nclips: {hum: {frames: [0-3], fps: 10, play: loop}}\ninitial: cool\nstates:\n"
                  "  cool: {clip: hum, each_loop: [\"") +
      count.each_loop + "\"], go: [" + count.rules + "]}\n  hot: {clip: hum, each_loop: [\"" + count.each_loop +
      "\"], go: [{when: temp < 10, to: cool}]}\nclaims: {it: " + count.claim + "}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + count.answer + "\n");
}

const char* const kHot = "{when: temp >= 10, to: hot}";
const char* const kByHeat = "temp = clamp(temp + select(heat > 6, 1, -1), 0, 20)";
const Count kCounts[] = {
    {"UpAndDown", "temp = clamp(temp + select(lit, 1, -1), 0, 20)", kHot, "{from: in(cool), can: in(hot)}", "proved"},
    {"UpAndDownByANumber", kByHeat, kHot, "{from: in(cool), can: temp == 12}", "proved"},
    {"AndBack", kByHeat, kHot, "{from: in(hot), can: temp == 0}", "proved"},
    {"NoFurther", kByHeat, kHot, "{from: in(cool), can: temp == 21}", "refuted"},
    {"NeverBelow", kByHeat, kHot, "{always: not in(hot) or temp >= 9}", "proved"},
    {"ByTwoKinds", "temp = clamp(temp + select(lit, 2, select(heat > 6, 1, -1)), 0, 20)", kHot,
     "{from: in(cool), can: temp == 20}", "proved"},
    {"ByANumberItself", "temp = min(temp + near, 20)", kHot, "{from: in(cool), can: in(hot)}", "proved"},
    {"NotByNothing", "temp = min(temp + near, 20)", kHot, "{from: in(cool), within: 100s, reaches: in(hot)}",
     "refuted"},
};
// `when:` reads variables as they stood, before a round that ends at the same instant adds to them; so does a proof
// that does not know each of their values.
TEST(ReadAsTheyStood, VariablesThatARoundChanges) {
  for (const char* less : {"weight", "select(run, 50, 3)", "3"}) {
    const Loaded loaded = loaded_from(
        std::string(
            "inputs: {run: false, trip: pulse, weight: {int: 0, min: 0, max: 20}}\nvars: {stamina: 100}\nclips:\n"
            "  stroll: {frames: [0-5], fps: 12, play: loop}\n  fall: {frames: [0-5], fps: 12}\ninitial: walk\n"
            "go: [{pulse: trip, when: in(run), to: fall}]\nstates:\n"
            "  walk: {clip: stroll, each_loop: [\"stamina = min(stamina + 2, 100)\"], go: [{when: run and stamina "
            "> 20, to: run}]}\n  run: {clip: stroll, each_loop: [\"stamina = max(stamina - ") +
        less +
        ", 0)\"], go: [{when: not run, to: walk}]}\n"
        "  fall: {clip: fall, enter: [\"stamina = max(stamina - 20, 0)\"], go: [{at: end, to: walk}]}\n"
        "claims:\n  tired: {when: run and stamina <= 20 and in(walk), within: 0s, reaches: not in(run)}\n"
        "  once: {once: in(walk) and stamina <= 20, then: stamina <= 60}\n");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    EXPECT_EQ(answers_of(loaded), "tired: refuted\nonce: refuted\n") << less;
  }
}

std::string name_of_count(const testing::TestParamInfo<Count>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, Counted, testing::ValuesIn(kCounts), name_of_count);

}  // namespace
}  // namespace mobrin::test
