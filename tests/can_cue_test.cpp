// What a game can bring about of a cue: proved where it surely comes to the cue's place before anything leads out.
#include <string>

#include "claim_answers.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A blow of 600 ms that tells a cue, and how it is left before its end.
struct Blow {
  const char* name;
  const char* mark;    // of the clip `cut`, of six frames
  const char* answer;  // to whether the cue can be told
  const char* plays = "clip: cut";
  const char* rules = "{at: end, to: stand}";
  const char* claim = "cue(hum)";
  const char* more = "";  // of the blow
  const char* beside = "";
};

class TheCue : public testing::TestWithParam<Blow> {};

TEST_P(TheCue, CanBeTold) {
  const Blow& blow = GetParam();
  const Loaded loaded = loaded_from(
      "inputs: {light: pulse, far: false, v: {float: 1, min: 0, max: 2}, back: {float: 1, min: -2, max: 2}}\n"
      "cues: {hum: sound, hiss: sound}\nclips:\n  cut: {frames: [0-5], fps: 10}\n"
      "  round: {frames: [0-5], fps: 10, play: loop}\n  to_and_fro: {frames: [0-5], fps: 10, play: back-and-forth}\n"
      "marks:\n  cut: {" +
      std::string(blow.mark) + "}\n  round: {" + blow.mark + "}\n  to_and_fro: {" + blow.mark +
      "}\nregions:\n  body:\n    initial: stand\n    states:\n      stand: {length: 2s, go: [{pulse: light, to: "
      "blow}]}\n"
      "      blow: {" +
      blow.plays + blow.more + ", go: [" + blow.rules + "]}\n      on: {go: [{after: 1s, to: stand}]}\n" + blow.beside +
      "claims: {it: {from: in(body/stand), can: " + blow.claim + "}}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + blow.answer + "\n");
}

const char* const kLife =
    "  life: {initial: ok, states: {ok: {go: [{when: in(body/blow), to: gone}]}, gone: {final: true}}}\n";
const char* const kLeft = "{after: 200ms, to: stand}, {at: end, to: stand}";

const Blow kBlows[] = {
    {"OnAFrame", "cues: {3: hum}", "proved"},
    {"AtATime", "cues: {0.45s: hum}", "proved"},
    {"AsItBegins", "cues: {0: hum}", "proved"},
    {"AtTheEndOfAFrame", "cues: {2.end: hum}", "proved"},
    {"AtItsEnd", "cues: {5.end: hum}", "proved"},
    {"OfASpan", "spans: {hum: 2-4}", "proved"},
    {"OnNoFrame", "cues: {3: hiss}", "refuted"},
    {"BeforeItIsLeft", "cues: {1: hum}", "proved", "clip: cut", kLeft},
    {"AfterItIsLeft", "cues: {3: hum}", "open", "clip: cut", kLeft},
    {"AsItIsLeft", "cues: {2: hum}", "open", "clip: cut", kLeft},
    {"WhereAnInputCouldLeadOut", "cues: {3: hum}", "proved", "clip: cut", "{when: far, to: on}, {at: end, to: stand}"},
    {"WhereItIsLeftAtOnce", "cues: {3: hum}", "refuted", "clip: cut", "{when: v >= 0, to: on}"},
    {"PlayedBackwards", "cues: {3: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum)", ", speed: -1"},
    {"ToldBackwardsAlone", "cues: {3: {hum: {way: backward}}}", "refuted"},
    {"ToldForwardsAlone", "cues: {3: {hum: {way: forward}}}", "proved"},
    {"AtASpeedThatIsWritten", "cues: {3: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum)",
     ", speed: v"},
    {"AtASpeedThatIsHeldPositive", "cues: {3: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum)",
     ", speed: back"},
    {"OfALoop", "cues: {3: hum}", "proved", "clip: round", "{when: far, to: stand}"},
    {"OfAWayBack", "cues: {3: hum}", "proved", "clip: to_and_fro", "{at: loop, to: stand}"},
    {"ByAnAction", "cues: {3: hiss}", "proved", "clip: cut", "{at: end, do: [tell: hum], to: stand}"},
    {"ByTheLoop", "cues: {3: hiss}", "proved", "clip: round", "{when: far, to: stand}", "cue(hum)",
     ", each_loop: [tell: hum]"},
    {"AndStaysThere", "cues: {3: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum) and in(body/blow)"},
    {"AndLeadsOn", "cues: {3: hum}", "proved", "clip: cut", "{cue: hum, to: on}", "cue(hum) and in(body/on)"},
    {"ForWhichARuleWaits", "cues: {3: hum}", "proved", "clip: cut", "{cue: hum, to: on}, {at: end, to: stand}",
     "in(body/on)"},
    {"ForWhichARuleWaitsThatTheGameMustHelp", "cues: {3: hum}", "proved", "clip: cut",
     "{cue: hum, when: far and v > 1, to: on}, {at: end, to: stand}", "in(body/on)"},
    {"ForWhichARuleWaitsTooLate", "cues: {3: hum}", "open", "clip: cut",
     "{after: 200ms, to: stand}, {cue: hum, to: on}", "in(body/on)"},
    {"AndWouldHaveToBeElsewhere", "cues: {3: hum}", "refuted", "clip: cut", "{cue: hum, to: on}",
     "cue(hum) and in(body/stand)"},
    {"AndSomethingIsWritten", "cues: {3: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum) and v > 1"},
    {"WhereAllIsOverBefore", "cues: {3: hum}", "open", "clip: cut", "{at: end, to: stand}", "cue(hum)", "", kLife},
    {"BeforeAllIsOver", "cues: {0: hum}", "proved", "clip: cut", "{at: end, to: stand}", "cue(hum)", "", kLife},
};
INSTANTIATE_TEST_SUITE_P(All, TheCue, testing::ValuesIn(kBlows), [](const auto& row) { return row.param.name; });

// In a loop that is stood in, whichever frame it is on.
TEST(TheCueOfALoop, CanBeToldFromWhereverItStands) {
  const Loaded loaded = loaded_from(
      "inputs: {v: {float: 1, min: 0, max: 2}}\ncues: {step: sound}\n"
      "clips: {walk: {frames: [0-5], fps: 10, play: loop}}\nmarks: {walk: {cues: {3: step}}}\n"
      "states: {walk: {clip: walk, speed: v}}\n"
      "claims: {steps: {from: in(walk), can: cue(step)}, steps slowly: {from: in(walk), can: cue(step) and v < 1}}\n");
  EXPECT_EQ(answers_of(loaded), "steps: proved\nsteps slowly: proved\n");
}

}  // namespace
}  // namespace mobrin::test
