// What an input picks, what plays in turn and what turns: claims about it, and what is told of clips that one input
// picks from. Rows of what is so, and near misses.
#include <filesystem>
#include <fstream>
#include <random>
#include <string>

#include "claim_answers.hpp"
#include "mistake_rows.hpp"
#include "mobrin/check/logic.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// --- claims ---

struct Strike {
  const char* name;
  std::string plays;  // of who strikes
  std::string claim;
  const char* answer;
  const char* stings = "3";                   // where `side` stings; `up` and `down` do so at 2 of 6
  const char* rules = "{at: end, to: rest}";  // of who strikes
  const char* more = "";                      // states
  const char* dusty = "2";                    // where `turn` raises dust
};

// `3` or `7.end`; or the cue itself with fields, then at 3.
std::string cue_at(const std::string& stings) { return stings[0] == '{' ? "3: " + stings : stings + ": sting"; }

class PlayedClips : public testing::TestWithParam<Strike> {};

TEST_P(PlayedClips, AreAnsweredFor) {
  const Strike& strike = GetParam();
  const Loaded loaded = loaded_from(
      "inputs: {to: {one_of: [up, down, side]}, near: false, quick: {float: 1, min: 1, max: 2}, go: pulse, roll: "
      "pulse}\n"
      "vars: {v: 1}\ncues: {sting: {kind: damage}, swish: sound, dust: sound}\nclips:\n"
      "  up: {frames: [0-5], fps: 10}\n  down: {frames: [0-5], fps: 10}\n  side: {frames: [0-7], fps: 10}\n"
      "  wind: {frames: [0-3], fps: 10}\n  swirl: {frames: [0-3], fps: 10, play: loop}\n  turn: {frames: [0-7], fps: "
      "10, play: loop}\n"
      "marks:\n  up: {cues: {0: swish, 2: sting}, windows: {early: 0-1, late: 4-5}}\n"
      "  down: {cues: {0: swish, 2: sting}, windows: {early: 0-1, late: 4-5}}\n  side: {cues: {0: swish, " +
      cue_at(strike.stings) + "}, windows: {early: 0-1, late: 5-7}}\n  swirl: {cues: {2: dust}}\n  turn: {cues: {" +
      strike.dusty +
      ": dust}}\n"
      "initial: rest\nstates:\n  rest: {go: [{pulse: go, to: strike}, {when: near and v > 5, to: rest}]}\n  strike: {" +
      strike.plays + ", go: [" + strike.rules + "]}\n" + strike.more + "claims: {it: " + strike.claim + "}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + strike.answer + "\n");
}

const std::string kBy = "clip: {by: to, up: up, down: down, side: side}";
const std::string kAlike = "clip: {by: to, up: up, down: down, side: up}";
const std::string kInTurn = "clip: [wind, up]";
const std::string kTurns = "clip: up, speed: \"select(near, 1, -1)\"";
const std::string kBackward = "clip: side, speed: -1";
const char* const kEnds = "{at: end, to: spent}";
const char* const kSpent = "  spent: {go: [{after: 100ms, to: rest}]}\n";
const char* const kStings = "{from: in(rest), can: cue(sting)}";
std::string over(const char* time) {
  return std::string("{from: in(strike), within: ") + time + ", reaches: not in(strike)}";
}
const Strike kStrikes[] = {
    // One of several by an input: the longest of them, and a little more where they differ.
    {"OverAfterTheLongest", kBy, over("801ms"), "proved"},
    {"NotBefore", kBy, over("799ms"), "refuted"},
    {"NotLeftWhereItMayTakeLonger", kBy, over("700ms"), "refuted"},
    {"OverAtOnceWhereTheyAreAlike", kAlike, over("600ms"), "proved"},
    {"OverAtTheSlowest", kBy + ", speed: quick", over("801ms"), "proved"},
    {"NotAtHalfThePace", kBy + ", speed: 0.5 * quick", over("801ms"), "refuted"},
    {"Brought", kBy, kStings, "proved"},
    {"BroughtWhereOneAloneTellsIt", "clip: {by: to, up: wind, down: wind, side: up}", kStings, "proved"},
    {"NotWhereNoneDoes", "clip: {by: to, up: wind, down: wind, side: wind}", kStings, "refuted"},
    {"BroughtThroughAWindow", kBy, "{from: in(rest), can: in(roll)}", "proved", "3",
     "{pulse: roll, during: late, to: roll}, {at: end, to: rest}", "  roll: {go: [{after: 100ms, to: rest}]}\n"},
    {"ARoundOfOne", "clip: {by: to, up: swirl, down: swirl, side: turn}", "{from: in(strike), can: cue(dust)}",
     "proved", "3", "{pulse: go, to: rest}"},
    {"ARoundComesInTime", "clip: {by: to, up: swirl, down: swirl, side: turn}", over("801ms"), "proved", "3",
     "{at: loop, to: rest}"},
    {"InsideOnly", kBy, "{never: cue(sting) and in(rest)}", "proved"},
    {"NotWhereItLiesAtTheEnd", kBy, "{never: cue(sting) and in(rest)}", "refuted", "7.end"},
    {"ApartFromItsWindow", kBy, "{never: cue(sting) and in(rest)}", "proved", "3",
     "{when: near, during: early, to: rest}, {at: end, to: rest}"},
    {"NotApartFromOneThatOpensThere", kBy, "{never: cue(sting) and in(rest)}", "refuted", "5",
     "{when: near, during: late, to: rest}, {at: end, to: rest}"},
    // A cue at one place of all of them leads on before the end.
    {"LeftAtACueOfAll", kAlike, over("200ms"), "proved", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"NotAtOneThatATurnSkips", kBy, over("300ms"), "refuted", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    // As it begins.
    {"ToldAsItBegins", kBy, "{from: in(rest), next: in(rest) or cue(swish)}", "proved"},
    {"NotWhereOneBeginsWithoutIt", "clip: {by: to, up: up, down: down, side: wind}",
     "{from: in(rest), next: in(rest) or cue(swish)}", "refuted"},
    {"NotWhereARuleBeginsLater", kBy, "{from: in(rest), next: in(rest) or cue(swish)}", "refuted", "3",
     "{at: end, to: rest}", "  late: {go: [{pulse: go, to: strike, start: same}]}\ngo: [{when: near, to: late}]\n"},
    // Several in turn.
    {"InTurnTold", kInTurn, kStings, "proved"},
    {"InTurnOver", kInTurn, over("1s"), "proved"},
    {"InTurnLeftAtACue", kInTurn, over("600ms"), "proved", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"InTurnNotBeforeIt", kInTurn, over("599ms"), "refuted", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"InTurnThroughAWindow", kInTurn, "{from: in(rest), can: in(roll)}", "proved", "3",
     "{pulse: roll, during: late, to: roll}, {at: end, to: rest}", "  roll: {go: [{after: 100ms, to: rest}]}\n"},
    {"InTurnInsideOnly", kInTurn, "{never: cue(sting) and in(rest)}", "proved"},
    {"InTurnTwice", "clip: [up, up]", "{from: in(rest), can: in(roll)}", "proved", "3",
     "{pulse: roll, during: late, to: roll}, {at: end, to: rest}", "  roll: {go: [{after: 100ms, to: rest}]}\n"},
    // What the inputs turn does not turn by itself.
    {"TurnedNotOverAtOnce", kTurns, "{from: in(rest), next: not in(spent)}", "proved", "3", kEnds, kSpent},
    {"TurnedOpensInItsMiddleLater", kTurns, "{from: in(rest), next: not in(spent)}", "proved", "3",
     "{during: 0.2s-0.4s, to: spent}", kSpent},
    {"TurnedMayOpenAtOnce", kTurns, "{from: in(rest), next: not in(spent)}", "refuted", "3",
     "{during: late, to: spent}", kSpent},
    {"TurnedByAVariable", "clip: up, speed: v, enter: [v = 0 - v]", "{from: in(rest), next: not in(spent)}", "open",
     "3", kEnds, kSpent},
    {"TurnedTellsWhileHeld", kTurns, kStings, "proved"},
    {"TurnedByAVariableItMayNot", "clip: up, speed: v, enter: [v = 0 - v]", kStings, "open"},
    {"OfAConstantPaceAtLeast", "clip: up, speed: \"select(near, 1.5, 1)\"", over("600ms"), "proved"},
    {"NotBelowIt", "clip: up, speed: \"select(near, 1.5, 1)\"", over("599ms"), "refuted"},
    // Who starts elsewhere in another state changes nothing here.
    {"StartedElsewhereThere", "clip: up", over("200ms"), "proved", "3", "{cue: sting, to: other, start: same}",
     "  other: {clip: up, go: [{at: end, to: rest}]}\n"},
    {"StartedElsewhereHere", "clip: up", over("200ms"), "refuted", "3", "{cue: sting, to: rest}, {at: end, to: rest}",
     "  other: {clip: up, go: [{pulse: go, to: strike, start: same}]}\ngo: [{pulse: roll, to: other}]\n"},
    // Backward, as a lid that shuts by what opens it.
    {"BackwardTold", kBackward, kStings, "proved"},
    {"BackwardNotWhatIsToldForward", kBackward, kStings, "refuted", "{sting: {way: forward}}"},
    {"BackwardOver", kBackward, over("800ms"), "proved"},
    {"BackwardLeftAtACue", kBackward, over("400ms"), "proved", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"BackwardNotBeforeIt", kBackward, over("399ms"), "refuted", "3", "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"BackwardThroughAWindow", kBackward, "{from: in(rest), can: in(roll)}", "proved", "3",
     "{pulse: roll, during: early, to: roll}, {at: end, to: rest}", "  roll: {go: [{after: 100ms, to: rest}]}\n"},
    {"BackwardFirstFrameBeforeItsEnd", kBackward, "{never: cue(swish) and in(spent)}", "proved", "3", kEnds, kSpent},
    {"BackwardEndOfTheFirstAtItsEnd", kBackward, "{never: cue(sting) and in(spent)}", "refuted", "0.end", kEnds,
     kSpent},
    {"BackwardBeginsWithTheLast", kBackward, "{from: in(rest), next: in(rest) or cue(sting)}", "proved", "7"},
    {"BackwardNotWithTheEndOfThat", kBackward, "{from: in(rest), next: in(rest) or cue(sting)}", "refuted", "7.end"},
    {"BackwardWindowOpensLater", kBackward, "{from: in(rest), next: not in(spent)}", "proved", "3",
     "{during: early, to: spent}", kSpent},
    {"BackwardWindowOpensAtOnce", kBackward, "{from: in(rest), next: not in(spent)}", "refuted", "3",
     "{during: late, to: spent}", kSpent},
    {"BackwardWindowOpenAtItsEnd", kBackward, "{never: in(strike) and pulse(roll) and cue(sting)}", "proved", "0.end",
     "{pulse: roll, during: early, to: rest}, {at: end, to: rest}"},
    {"BackwardApartFromItsWindow", kBackward, "{never: cue(sting) and in(spent)}", "proved", "4",
     "{when: near, during: early, to: spent}, {at: end, to: rest}", kSpent},
    {"BackwardInTurnTold", "clip: [side, wind], speed: -1", kStings, "proved"},
    {"BackwardInTurnLeftAtACue", "clip: [side, wind], speed: -1", over("800ms"), "proved", "3",
     "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"BackwardInTurnNotBeforeIt", "clip: [side, wind], speed: -1", over("799ms"), "refuted", "3",
     "{cue: sting, to: rest}, {at: end, to: rest}"},
    {"BackwardComesRoundWithTheLast", "clip: turn, speed: -1", "{never: cue(dust) and in(spent)}", "refuted", "3",
     "{at: loop, to: spent}", kSpent, "7"},
    {"BackwardComesRoundApartFromTheFirst", "clip: turn, speed: -1", "{never: cue(dust) and in(spent)}", "proved", "3",
     "{at: loop, to: spent}", kSpent, "0"},
    {"ForwardComesRoundApartFromTheLast", "clip: turn", "{never: cue(dust) and in(spent)}", "proved", "3",
     "{at: loop, to: spent}", kSpent, "7"},
    {"EitherWayRoundWithTheLast", "clip: turn, speed: v, enter: [v = 0 - v]", "{never: cue(dust) and in(spent)}",
     "refuted", "3", "{at: loop, to: spent}", kSpent, "7"},
    {"BackwardOfALength", "length: 800ms, speed: -1", "{from: in(rest), can: in(roll)}", "proved", "3",
     "{pulse: roll, during: 0.1s-0.3s, to: roll}, {at: end, to: rest}", "  roll: {go: [{after: 100ms, to: rest}]}\n"},
    {"BackwardARoundTold", "clip: turn, speed: -1", "{from: in(strike), can: cue(dust)}", "proved", "3",
     "{pulse: go, to: rest}"},
    {"ToldAtTheEndOfWhatIsFinal", "clip: side, final: true", kStings, "proved", "7.end", ""},
};
INSTANTIATE_TEST_SUITE_P(All, PlayedClips, testing::ValuesIn(kStrikes), [](const auto& row) { return row.param.name; });

// Where clips of different lengths may change into each other, a change takes less than a tick; the answer says for
// what time it is known.
TEST(Within, SaysWhatIsProvedWhereItIsOpen) {
  const Loaded loaded = loaded_from(
      "inputs: {to: {one_of: [up, side]}, go: pulse}\nclips: {up: {frames: [0-5], fps: 10}, side: {frames: [0-7], fps: "
      "10}}\ninitial: rest\nstates:\n  rest: {go: [{pulse: go, to: strike}]}\n  strike: {clip: {by: to, up: up, side: "
      "side}, go: [{at: end, to: rest}]}\nclaims: {it: {from: in(strike), within: 800ms, reaches: in(rest)}}\n");
  const ClaimAnswer answer = prove(*loaded.definition, *loaded.machine)[0];
  EXPECT_EQ(answer.answer, Answer::open);
  EXPECT_NE(answer.says.find("; `within: 801ms` is proved"), std::string::npos) << answer.says;
}

// Who is done rests for ever, also in a region beside the one that is waited for.
TEST(Done, LeavesNothingToWaitFor) {
  const std::string regions =
      "inputs: {p: pulse}\nclips: {hum: {frames: [0-1], fps: 10, play: loop}, blow: {frames: [0-3], fps: 10}}\n"
      "regions:\n  life: {initial: alive, states: {alive: {clip: hum, go: [{pulse: p, to: gone}]}, gone: {clip: hum, ";
  const std::string body =
      "}}}\n  body: {initial: idle, states: {idle: {clip: hum, go: [{pulse: p, to: blow}, {at: loop, to: blow}]}, "
      "blow: "
      "{clip: blow, go: [{at: end, to: idle}]}}}\nclaims:\n  over: {from: in(body/blow), within: 450ms, reaches: not "
      "in(body/blow)}\n  over or done: {from: in(body/blow), within: 450ms, reaches: not in(body/blow) or "
      "in(life/gone)}\n";
  EXPECT_EQ(answers_of(loaded_from(regions + "final: true" + body)), "over: refuted\nover or done: proved\n");
  EXPECT_EQ(answers_of(loaded_from(regions + "go: [{pulse: p, to: alive}]" + body)),
            "over: proved\nover or done: proved\n");
}

// Who lingers is not done before that is over: what was entered before is.
TEST(Done, LeavesTimeWhileItLingers) {
  const auto answer = [](const std::string& linger, const std::string& guard) {
    return answers_of(loaded_from(
        "inputs: {hp: {int: 3, min: 0, max: 3}, hit: pulse}\nclips: {hum: {frames: [0-1], fps: 4, play: loop}, blow: "
        "{frames: [0-3], fps: 10}}\nregions:\n  life: {initial: alive, states: {alive: {go: [{when: hp <= 0, to: "
        "dead}]}, dead: {final: true, linger: " +
        linger + "}}}\n  body: {initial: idle, states: {idle: {clip: hum, go: [{pulse: hit, " + guard +
        "to: blow}]}, blow: {clip: blow, go: [{at: end, to: idle}]}}}\nclaims:\n  over: {from: in(body/blow), "
        "within: 400ms, reaches: not in(body/blow)}\n"));
  };
  EXPECT_EQ(answer("1s", "when: in(life/alive), "), "over: proved\n");
  EXPECT_EQ(answer("300ms", "when: in(life/alive), "), "over: refuted\n");
  EXPECT_EQ(answer("3s", ""), "over: refuted\n");
}

// --- findings ---

std::string told_of(const std::string& text) {
  const Loaded loaded = loaded_from(text);
  std::string out;
  for (const Finding& each : logic_findings(*loaded.definition, *loaded.machine))
    if (each.code == FindingCode::uneven_clips || each.code == FindingCode::turn_skips)
      out += std::to_string(each.line) + " " + std::string(text_of(each.code)) + (each.hint ? "?" : "") + "\n";
  return out;
}

// Clips of six frames, but for `cut_side` of so many; `marks`: a line each, from line 6 on.
std::string strikes(const std::string& marks, const std::string& clips = "up: cut_up, down: cut_down, side: cut_side",
                    const char* last = "5") {
  return "inputs: {to: {one_of: [up, down, side]}, go: pulse}\ncues: {sting: {kind: damage}, drop: {kind: spawn}, "
         "swish: "
         "sound}\nclips: {cut_up: {frames: [0-5], fps: 9}, cut_down: {frames: [0-5], fps: 9}, cut_side: {frames: [0-" +
         std::string(last) + "], fps: 9}, shrug: {frames: [0-5], fps: 9}}\nmarks:\n" + marks +
         "initial: rest\nstates:\n  rest: {go: [{pulse: go, to: strike}]}\n  strike: {clip: {by: to, " + clips +
         "}, go: [{at: end, to: rest}]}\n";
}
const std::string kSting = "{cues: {2: sting}}\n", kHit = "{boxes: [{name: net, role: hit, rect: [0, 0, 9, 9]}]}\n";
const std::string kUpAndSide = "  cut_up: " + kSting + "  cut_side: " + kSting;

class ChosenClips : public testing::TestWithParam<MistakeRow> {};

const MistakeRow kMistakes[] = {
    {"OneThatDoesNotSting", strikes(kUpAndSide + "  cut_down: {cues: {1: swish}}\n"), "9 uneven-clips\n",
     strikes(kUpAndSide + "  cut_down: " + kSting)},
    {"OneWithoutMarks", strikes(kUpAndSide), "5 uneven-clips\n",
     strikes(kUpAndSide, "up: cut_up, down: cut_up, side: cut_side")},
    {"OneThatDoesSomethingElse", strikes(kUpAndSide + "  cut_down: {cues: {1: drop}}\n"), "9 uneven-clips?\n",
     strikes("  cut_side: " + kSting + "  cut_down: {cues: {1: drop}}\n")},
    {"OneThatIsNotHeard",
     strikes("  cut_up: {cues: {1: swish}}\n  cut_side: {cues: {1: swish}}\n  cut_down: {cues: {}}\n"),
     "9 uneven-clips?\n", strikes("  cut_up: {cues: {1: swish}}\n")},
    {"OneWithoutABox", strikes("  cut_up: " + kHit + "  cut_down: " + kHit), "5 uneven-clips\n",
     strikes("  cut_up: " + kHit + "  cut_down: " + kHit + "  cut_side: " + kHit)},
    {"OneOfAnotherName", strikes(kUpAndSide, "up: cut_up, down: shrug, side: cut_side"), "5 uneven-clips?\n",
     strikes(kUpAndSide, "up: cut_up, down: shrug, side: shrug")},
    {"TurnedPastIt", strikes(kUpAndSide + "  cut_down: {cues: {3: sting}}\n"), "13 turn-skips?\n",
     strikes(kUpAndSide + "  cut_down: " + kSting)},
    {"AtOtherShares", strikes(kUpAndSide + "  cut_down: " + kSting, "up: cut_up, down: cut_down, side: cut_side", "7"),
     "13 turn-skips?\n",
     strikes("  cut_up: " + kSting + "  cut_down: " + kSting + "  cut_side: {cues: {4: sting}}\n",
             "up: cut_up, down: cut_down, side: cut_side", "11")},
};
INSTANTIATE_TEST_SUITE_P(All, ChosenClips, testing::ValuesIn(kMistakes), name_of_row);

TEST_P(ChosenClips, TellTheMistakeAndNotTheNearMiss) { tells_the_mistake_and_not_the_near_miss(GetParam(), told_of); }

TEST(ChosenClips, AreAnsweredWithWhatToWrite) {
  const Loaded loaded = loaded_from(strikes(kUpAndSide + "  cut_down: {cues: {1: swish}}\n"));
  const std::string found = joined(logic_findings(*loaded.definition, *loaded.machine));
  EXPECT_NE(found.find("\"cut_down\" does not tell \"sting\", and all other clips that \"to\" picks in \"strike\" do"),
            std::string::npos)
      << found;
  EXPECT_NE(found.find("Add `2: sting` to its `cues:`"), std::string::npos) << found;
}

// A character's marks of a clip stand in place of the machine's, whole.
TEST(ReplacedMarks, AreToldWhereTheyLeaveSomethingOut) {
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / ("mobrin_marks_" + std::to_string(std::random_device()()));
  std::filesystem::create_directories(folder);
  const auto put = [&](const char* name, const std::string& text) {
    std::ofstream(folder / name) << "mobrin: 1\n" << text << "\n";
  };
  put("m.yaml",
      "machine: m\ncues: {sting: {kind: damage}, drop: {kind: spawn, what: leaf}, swish: sound, glow: effect}\nclips: "
      "{cut: "
      "{frames: "
      "[0-5], fps: 9, play: loop}}\nmarks: {cut: {cues: {1: swish, 2: [sting, {drop: {what: dust}}]}, spans: {glow: "
      "1-2}, boxes: "
      "[{name: net, role: hit, rect: [0, 0, 9, 9]}, {name: all, role: hurt, rect: [0, 0, 9, 9]}]}}\nstates: {a: {clip: "
      "cut}}");
  const auto told = [&](const std::string& text) {
    put("c.yaml", "character: c\nmachine: m.yaml\n" + text);
    const Loaded loaded = load_character((folder / "c.yaml").string());
    if (!loaded.machine) return joined(loaded.findings);
    std::string out;
    for (const Finding& each : logic_findings(*loaded.definition, *loaded.machine))
      if (each.code == FindingCode::replaced_marks || each.code == FindingCode::idle_accept)
        out += std::to_string(each.line) + (each.hint ? "? " : " ") + each.message + "\n";
    return out;
  };
  const std::string begin = "the marks of \"cut\" stand in place of the machine's, whole, and leave out ";
  const std::string boxes =
      "boxes: [{name: net, role: hit, rect: [0, 0, 5, 5]}, {name: all, role: hurt, rect: [0, 0, 5, 5]}]";
  EXPECT_EQ(
      told("marks: {cut: {windows: {late: 4-5}}}"),
      "4 " + begin +
          "\"swish\", \"sting\", \"drop\", \"glow\", boxes with the role \"hit\", boxes with the role \"hurt\"\n");
  EXPECT_EQ(told("marks: {cut: {cues: {1: swish, 2: [sting, drop]}, spans: {glow: 1-2}, " + boxes + "}}"), "");
  EXPECT_EQ(told("marks: {cut: {cues: {2: [sting, drop]}, spans: {glow: 1-2}, " + boxes + "}}"),
            "4? " + begin + "\"swish\"\n");
  EXPECT_EQ(told("marks: {cut: {cues: {2: drop}, " + boxes + "}}"), "4? " + begin + "\"swish\", \"sting\", \"glow\"\n");
  EXPECT_EQ(told("accept: [replaced-marks cut]\nmarks: {cut: {windows: {late: 4-5}}}"), "");
  EXPECT_EQ(told("clips: {cut: {frames: [0-3], fps: 9, play: loop}}"), "");
  std::filesystem::remove_all(folder);
}

TEST(Poses, OfClipsByAnInputAreAnsweredWithWhatToWrite) {
  EXPECT_NE(findings_of("inputs: {to: {one_of: [up, down]}}\nclips: {a: {frames: [0-1], fps: 9}}\nstates:\n  a: {pose: "
                        "{by: to, up: a, down: a}}\n")
                .find("Write `pose: {clip: {by: to, CHOICE: CLIP, ...}}`."),
            std::string::npos);
}

}  // namespace
}  // namespace mobrin::test
