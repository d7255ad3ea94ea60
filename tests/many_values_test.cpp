// Claims about what holds more values than can be counted out, and about cues and timers that are known to come before
// or after something: rows of what is so, and near misses.
#include <string>

#include "claim_answers.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string row_name(const auto& row) { return row.param.name; }

// --- rounds that bring something about little by little ---

struct Glow {
  const char* name;
  const char* each_loop;  // of who glows, ten times a second
  const char* claim;
  const char* answer;
  const char* rules = "";   // of who glows
  const char* beside = "";  // regions
};

class LittleByLittle : public testing::TestWithParam<Glow> {};

TEST_P(LittleByLittle, IsBroughtAboutOrNot) {
  const Glow& glow = GetParam();
  const Loaded loaded = loaded_from(
      "inputs: {power: {float: 1, min: 0, max: 1}, tap: pulse, near: {int: 0, min: 0, max: 9}}\n"
      "vars: {bright: 0.3, coins: 7, other: 0.1}\nclips:\n  hum: {frames: [0-3], fps: 40, play: loop}\n"
      "regions:\n  body:\n    initial: off\n    states:\n"
      "      off: {clip: hum, each_loop: [\"other = select(other > 0.5, 0.1, 0.7)\"], go: [{pulse: tap, do: [\"bright "
      "= other\"], "
      "to: "
      "on}]}\n      on: {clip: hum, each_loop: [\"" +
      std::string(glow.each_loop) + "\"], go: [{pulse: tap, do: [\"bright = bright * 0.9\"], to: off}" + glow.rules +
      "]}\n" + glow.beside + "claims: {it: " + glow.claim + "}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  ProofLimits limits;
  limits.steps = 40'000;
  limits.moves = 20'000;
  EXPECT_EQ(answers_of(loaded, limits), std::string("it: ") + glow.answer + "\n");
}

const char* const kDark = "{from: in(body/on), can: bright <= 0}";
const char* const kRich = "{from: in(body/on), can: coins >= 1000}";
const char* const kFull = "{from: in(body/on), can: bright >= 1}";
const char* const kTimer = ", {after: 1.5s, to: off}";
const char* const kBeside =
    "  glow: {initial: a, states: {a: {clip: hum, each_loop: [\"bright = min(bright + 0.1, 1)\"], go: [{when: power > "
    "2, "
    "to: b}]}, b: {}}}\n";
const Glow kGlows[] = {
    {"DownToNothing", "bright = max(bright - 0.1, 0)", kDark, "proved"},
    {"DownByWhatIsWritten", "bright = clamp(bright + select(power > 0.5, 0.1, -0.1), 0, 1)", kDark, "proved"},
    {"AndUp", "bright = clamp(bright + select(power > 0.5, 0.1, -0.1), 0, 1)",
     "{from: in(body/on), can: bright >= 0.9}", "proved"},
    {"BelowAPartOfIt", "bright = bright * 0.5", "{from: in(body/on), can: bright < 0.01}", "proved"},
    {"ToNothingByHalvesAsTheyAreStored", "bright = bright * 0.5", kDark, "proved"},
    {"NotWhereItStopsBefore", "bright = max(bright - 0.1, 0.05)", kDark, "refuted"},
    {"NotWhereItTurns", "bright = select(bright > 0.2, bright - 0.1, 0.9)", kDark, "refuted"},
    {"NotWhereAnotherAddsToIt", "bright = max(bright - 0.1, 0)", kDark, "open", "", kBeside},
    {"CountedUp", "coins = min(coins + 3, 2000)", kRich, "proved", ", {pulse: tap, to: on, restart: true}"},
    {"CountedUpByANumber", "coins = min(coins + near, 2000)", kRich, "proved"},
    {"NotCountedUpToWhereItEnds", "coins = min(coins + 3, 990)", kRich, "refuted"},
    {"BeforeATimerIsOver", "bright = min(bright + 0.125, 1)", kFull, "proved", kTimer},
    {"NotAfterIt", "bright = min(bright + 0.002, 1)", kFull, "open", kTimer},
    {"NotBesideAPressThatNobodyMakes", "bright = min(bright + 0.125, 1)", "{from: in(body/on), can: bright > 1}",
     "refuted", kTimer},
    {"LeftInTimeAndComeToAgain", "coins = min(coins + 3, 2000)", kRich, "proved", ", {after: 1s, to: off}"},
};
INSTANTIATE_TEST_SUITE_P(All, LittleByLittle, testing::ValuesIn(kGlows), [](const auto& row) { return row_name(row); });

// --- which of two ways an action goes ---

TEST(EitherWay, IsKnownByItsValues) {
  const Loaded loaded = loaded_from(
      "inputs: {sees: false}\nvars: {doubt: 0, fear: 0.5}\nclips: {hum: {frames: [0-3], fps: 10, play: loop}}\n"
      "initial: calm\nstates:\n"
      "  calm: {clip: hum, each_loop: [\"doubt = clamp(doubt + select(sees, 20, -10), 0, 100)\"], go: [{when: doubt >= "
      "40, to: wary}]}\n"
      "  wary: {clip: hum, each_loop: [\"doubt = clamp(doubt + select(sees, 25, -10), 0, 100)\", \"fear = clamp(fear + "
      "select(sees, 0.5, -0.25), 0, 2)\"], go: [{when: doubt <= 0, to: calm}]}\nclaims:\n"
      "  wary doubts: {always: not in(wary) or doubt > 0}\n  tens and fives: {never: doubt == 32}\n"
      "  also: {never: doubt == 35}\n  quarters: {never: fear > 0.3 and fear < 0.5}\n  calms down: {from: in(wary), "
      "can: "
      "in(calm)}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded),
            "wary doubts: proved\ntens and fives: proved\nalso: refuted\nquarters: proved\ncalms down: proved\n");
}

// --- rounds are instants ---

// By the press the number is large, and `next` was so since the round that made it so.
TEST(Next, IsReadAfterARoundThatTellsNothing) {
  const Loaded loaded = loaded_from(
      "inputs: {p: pulse, x: {float: 9, min: 0, max: 60}}\nvars: {c: 30.0, d: 0.0}\nclips: {hum: {frames: [0-3], fps: "
      "20, play: loop}}\ninitial: s0\nstates:\n  s0: {clip: hum, each_loop: [\"c = min(c + x, 500)\", d = c + 1], go: "
      "[{pulse: p, when: c >= 99, to: s2}]}\n  s2: {enter: [d = 0]}\nclaims:\n  so: {from: c < 99, next: d > c}\n  not "
      "so: {from: c < 199 and in(s0), next: d > c}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "so: open\nnot so: refuted\n");
}

// --- cues that are never told while a window is open ---

struct Blow {
  const char* name;
  const char* marks;
  const char* during;
  const char* answer;
  const char* plays = "clip: cut";
  const char* stand = "{pulse: swing, to: blow}";
};

class CueBesideAWindow : public testing::TestWithParam<Blow> {};

TEST_P(CueBesideAWindow, IsToldInItsState) {
  const Blow& blow = GetParam();
  const Loaded loaded = loaded_from(
      std::string("inputs: {swing: pulse, guard: false, v: {float: 1, min: -1, max: 1}}\ncues: {hit: sound, hiss: "
                  "sound}\nclips:\n  cut: {frames: [0-5], fps: 10}\n  spin: {frames: [0-5], fps: 10, play: loop}\n"
                  "marks:\n  cut: {") +
      blow.marks + "}\n  spin: {" + blow.marks + "}\ninitial: stand\nstates:\n  stand: {go: [" + blow.stand +
      "]}\n  blow: {" + blow.plays + ", go: [{when: guard, during: " + blow.during +
      ", to: stand}, {at: end, to: stand}]}\nclaims: {it: {never: cue(hit) and not in(blow)}}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + blow.answer + "\n");
}

const Blow kBlows[] = {
    {"BeforeIt", "windows: {w: 0-2}, cues: {4: hit}", "w", "proved"},
    {"UpToIt", "windows: {w: 0-3}, cues: {4: hit}", "w", "proved"},
    {"FromItOn", "windows: {w: 4-5}, cues: {4: hit}", "w", "refuted"},
    {"AfterIt", "windows: {w: 5}, cues: {4: hit}", "w", "proved"},
    {"AroundOneOfTwo", "windows: {w: 0-1}, cues: {1: hit, 4: hit}", "w", "open"},
    {"BesideBothOfTwo", "windows: {w: [0, 3]}, cues: {1: hit, 4: hit}", "w", "proved"},
    {"OfItsOwnFrames", "cues: {4: hit}", "0-3", "proved"},
    {"OfItsOwnFramesFromItOn", "cues: {4: hit}", "4", "refuted"},
    {"OfTimes", "windows: {w: 0s-0.4s}, cues: {4: hit}", "w", "proved"},
    {"OfTimesPastIt", "cues: {0.35s: hit}", "0.3s-0.4s", "open"},
    {"OfTimesFromItOn", "cues: {0.35s: hit}", "0.35s-0.4s", "refuted"},
    {"InALoop", "windows: {w: 0-3}, cues: {4: hit}", "w", "proved", "clip: spin"},
    {"AtTheBegin", "windows: {w: 2-3}, cues: {0: hit}", "w", "proved"},
    {"AtTheBeginFromThereOn", "windows: {w: 0-3}, cues: {0: hit}", "w", "refuted"},
    {"AtItsEnd", "windows: {w: 0-3}, cues: {5.end: hit}", "w", "refuted"},
    {"WhereItMayTurn", "windows: {w: 0-3}, cues: {4: hit}", "w", "open", "clip: cut, speed: v"},
    {"NotWhereAnActionTellsItToo", "windows: {w: 0-3}, cues: {4: hit}", "w", "refuted", "clip: cut",
     "{pulse: swing, do: {tell: hit}, to: stand, restart: true}, {when: guard, to: blow}"},
};
INSTANTIATE_TEST_SUITE_P(All, CueBesideAWindow, testing::ValuesIn(kBlows),
                         [](const auto& row) { return row_name(row); });

// --- timers with a guard ---

struct Shield {
  const char* name;
  const char* on;  // rules of the shield while it is up
  const char* within;
  const char* answer;
  const char* rise = "{at: end, to: fly}";
};

class KeptByAnother : public testing::TestWithParam<Shield> {};

// A shield that is not put down while its bearer gets up, which takes 750 ms.
TEST_P(KeptByAnother, IsOverInTime) {
  const Shield& shield = GetParam();
  const Loaded loaded = loaded_from(
      std::string(
          "inputs: {guard: pulse, fell: pulse, hit: pulse}\nclips:\n  fall: {length: 1s}\n  rise: {length: "
          "750ms}\nregions:\n  body:\n    initial: fly\n    states:\n      fly: {go: [{pulse: fell, to: fall}]}\n"
          "      fall: {clip: fall, go: [{at: end, to: rise}]}\n      rise: {clip: rise, go: [") +
      shield.rise + "]}\n  shield:\n    initial: down\n    states:\n      down: {go: [{pulse: guard, to: up}]}\n" +
      "      up: {go: [" + shield.on + "]}\nclaims: {it: {from: in(shield/up), within: " + shield.within +
      ", reaches: in(shield/down)}}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + shield.answer + "\n");
}

const char* const kNotRising = "{after: 2s, when: not in(body/rise), to: down}";
const Shield kShields[] = {
    {"AsLongAsThatTakes", kNotRising, "2.75s", "proved"},
    {"NoSooner", kNotRising, "2s", "refuted"},
    {"NotWhereThatMayGoOn", kNotRising, "2.75s", "refuted",
     "{pulse: hit, to: rise, restart: true}, {at: end, to: fly}"},
    {"NotWhereItMayBePutUpAtThatInstant", kNotRising, "2.75s", "refuted", "{pulse: hit, to: fall}, {at: end, to: fly}"},
    {"WithoutOne", "{after: 2s, to: down}", "2s", "proved"},
    {"NotWhereItBeginsAnew", "{pulse: hit, to: up, restart: true}, {after: 2s, when: not in(body/rise), to: down}",
     "2.75s", "refuted"},
};
INSTANTIATE_TEST_SUITE_P(All, KeptByAnother, testing::ValuesIn(kShields),
                         [](const auto& row) { return row_name(row); });

}  // namespace
}  // namespace mobrin::test
