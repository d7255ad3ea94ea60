// Claims and logic of regions side by side: what they do in one round, and what hangs on some of them only.
#include <algorithm>

#include "claim_answers.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// What regions side by side do in one round: each takes at most one rule, all of them see the same presses and cues,
// and the next round does not see them any more.
struct RoundRow {
  const char* name;
  const char* machine;
  const char* claim;
  const char* answer;
};
const RoundRow kRounds[] = {
    {"APressIsTakenByBoth",
     "  left:\n    initial: one\n    states: {one: {go: [{pulse: p, to: two}]}, two: {go: [{pulse: p, to: three}]}, "
     "three: {}}\n"
     "  right:\n    initial: off\n    states: {off: {go: [{pulse: p, to: on}]}, on: {go: [{pulse: p, to: off}]}}\n",
     "{when: pulse(p) and in(left/one) and in(right/off), within: 0s, reaches: in(left/two) and in(right/on)}",
     "proved"},
    {"ButOnlyOnce",
     "  left:\n    initial: one\n    states: {one: {go: [{pulse: p, to: two}]}, two: {go: [{pulse: p, to: one}]}}\n"
     "  right:\n    initial: off\n    states: {off: {go: [{pulse: p, to: on}]}, on: {go: [{pulse: p, to: off}]}}\n",
     "{always: in(left/one) == in(right/off)}", "proved"},
    {"ACueIsHeardForOneRound",
     "  left:\n    initial: one\n    states: {one: {go: [{pulse: p, to: two, do: [{tell: rings}]}]}, two: {}}\n"
     "  right:\n    initial: off\n    states: {off: {go: [{cue: rings, to: on}]}, on: {go: [{when: not b, to: "
     "off}]}}\n",
     "{never: in(right/on) and not b}", "proved"},
    {"ALoopComesRoundForOneRound",
     "  left:\n    initial: one\n    states: {one: {clip: c, each_loop: [n = n + 1], go: [{at: loop, when: n >= 2, to: "
     "two, do: [n = "
     "0]}]}, two: {go: [{pulse: p, to: one}]}}\n"
     "  right:\n    initial: off\n    states: {off: {go: [{when: n == 1, to: on}]}, on: {go: [{when: n == 0, to: "
     "off}]}}\n",
     "{never: n > 1}", "proved"},
    {"TheFirstRegionIsSeenByTheSecond",
     "  left:\n    initial: one\n    states: {one: {go: [{pulse: p, to: two, do: [n = 1]}]}, two: {}}\n"
     "  right:\n    initial: off\n    states: {off: {go: [{when: n == 1, to: on}]}, on: {}}\n",
     "{always: in(left/two) == in(right/on)}", "proved"},
    {"WhatIsLeftIsNotLookedAt",
     "  left:\n    initial: one\n    states:\n      one: {go: [{pulse: p, to: two}]}\n      two:\n        regions:\n"
     "          up: {states: {a: {go: [{pulse: p, to: one}]}}}\n"
     "          down: {initial: a, states: {a: {go: [{pulse: p, to: b, do: [n = 5]}]}, b: {}}}\n",
     "{never: n == 5}", "proved"},
    {"NorThatOneIsBefore",
     "  left:\n    initial: one\n    states:\n      one: {go: [{pulse: p, to: two}]}\n      two:\n        regions:\n"
     "          up: {initial: a, states: {a: {go: [{pulse: p, to: b, do: [n = 5]}]}, b: {}}}\n"
     "          down: {states: {a: {go: [{pulse: p, to: one}]}}}\n",
     "{never: n == 5}", "refuted"},
};
class Rounds : public testing::TestWithParam<RoundRow> {};
TEST_P(Rounds, AreAnswered) {
  const RoundRow& row = GetParam();
  const Loaded loaded = load_character_text(
      std::string("mobrin: 1\nmachine: m\ninputs: {p: pulse, b: false}\nvars: {n: 0, m: 0}\ncues: {rings: sound, "
                  "ticks: sound}\nclips: {c: {length: 100ms, play: loop}, told: {frames: 0-3, fps: 10}}\n"
                  "marks: {told: {cues: {2: ticks}}}\nclaims: {it is so: ") +
          row.claim + "}\nregions:\n" + row.machine,
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const ClaimAnswer answer = prove(*loaded.definition, *loaded.machine).at(0);
  EXPECT_EQ(text_of(answer.answer), row.answer) << answer.says;
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine);
  EXPECT_TRUE(report.undecided.empty()) << text_of(report.undecided.front());
}
// What stands keeps those below it in its list from being taken, not those inside: they may have their turn.
TEST(RoundsOfRegions, WhatMayStandLetsThoseInsideBeTaken) {
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {b: false}\ninitial: s\nstates:\n  s:\n    initial: a\n"
      "    go: [{after: 1s, to: s}, {when: b, to: x}]\n    states:\n      a: {go: [{when: b, to: c}]}\n"
      "      c: {go: [{when: not b, to: a}]}\n  x: {go: [{when: not b, to: s}]}\n"
      "claims: {never c: {never: in(s/c)}}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_TRUE(logic_and_runs(*loaded.definition, *loaded.machine).findings.empty());
  EXPECT_EQ(text_of(prove(*loaded.definition, *loaded.machine).at(0).answer), "refuted");
}

// A rule that leads out of a state with regions keeps those of the next region from being looked at.
TEST(RoundsOfRegions, HideWhatIsLeft) {
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {p: pulse}\ninitial: one\nstates:\n  one: {go: [{pulse: p, to: two}]}\n"
      "  two:\n    regions:\n"
      "      up: {states: {a: {go: [{pulse: p, to: one}]}}}\n"
      "      down: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {final: true}}}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  std::string told;
  for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine).findings)
    told += each.finding.text() + "\n";
  EXPECT_EQ(told,
            "m.yaml:10:44: warning: in every run the rule in line 9 decides before it, whenever it holds [shadowed]\n"
            "    Remove one of them, or tell their guards apart.\n");
}

// A claim about `body`, which what goes on in `hand` changes: it may not be left out. Each would be proved without it.
// But for the last three: what is done is at no further instant, a seal keeps what is around it, and what settles has
// settled before the rounds of another are over.
const RoundRow kDisturbed[] = {
    {"ByAPressThatIsTaken",
     "  body:\n    initial: one\n    states: {one: {go: [{when: b, to: two}]}, two: {go: [{pulse: p, to: three}]}, "
     "three: {}}\n"
     "  hand: {initial: off, states: {off: {go: [{pulse: p, to: on}]}, on: {go: [{after: 1s, to: off}]}}}\n",
     "{when: pulse(p) and b and in(body/one), within: 0s, reaches: in(body/three)}", "refuted"},
    {"ByACueOfAnAction",
     "  body: {initial: one, states: {one: {go: [{cue: rings, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {enter: {tell: rings}}}}\n",
     "{never: in(body/two)}", "refuted"},
    {"ByACueOfAClip",
     "  body: {initial: one, states: {one: {go: [{cue: ticks, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {clip: told}}}\n",
     "{never: in(body/two)}", "refuted"},
    {"ByAVariable",
     "  body: {initial: one, states: {one: {go: [{when: n > 1, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {exit: [n = n + 1], go: [{after: 1s, to: on}]}, on: {go: [{after: 1s, to: "
     "off}]}}}\n",
     "{never: in(body/two)}", "refuted"},
    {"ByAVariableOfAVariable",
     "  body: {initial: one, states: {one: {go: [{after: 1s, to: one, restart: true, do: [n = m]}, {when: n > 1, to: "
     "two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {exit: [m = 2], go: [{after: 1s, to: on}]}, on: {}}}\n",
     "{never: in(body/two)}", "refuted"},
    {"ByWhatIsActive",
     "  body: {initial: one, states: {one: {go: [{when: in(hand/on), to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {}}}\n",
     "{never: in(body/two)}", "refuted"},
    {"ByATrait",
     "  body: {initial: one, states: {one: {go: [{after: 1s, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {traits: [busy]}}}\n",
     "{never: in(body/two) and is(busy)}", "refuted"},
    {"ByItsEnd",
     "  body: {initial: one, states: {one: {go: [{pulse: p, to: two}]}, two: {go: [{after: 2s, to: one}]}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {final: true}}}\n",
     "{from: in(body/two), within: 2s, reaches: in(body/one)}", "refuted"},
    {"ByASeal",
     "  body:\n    initial: one\n    states:\n      one:\n        go: [{pulse: p, to: two}]\n        regions:\n"
     "          up: {initial: a, states: {a: {}}}\n"
     "          down: {initial: c, states: {c: {go: [{after: 1s, to: d}]}, d: {sealed: true}}}\n      two: {}\n",
     "{when: pulse(p) and in(body/one), within: 0s, reaches: in(body/two)}", "refuted"},
    {"ByASealOfWhatEnds",
     "  body:\n    initial: one\n    states:\n      one:\n        go: [{pulse: p, to: two}]\n        regions:\n"
     "          up: {initial: a, states: {a: {}}}\n"
     "          down: {initial: c, states: {c: {go: [{after: 1s, to: d}]}, d: {final: true, linger: 3s}}}\n"
     "      two: {}\n",
     "{when: pulse(p) and in(body/one), within: 0s, reaches: in(body/two)}", "refuted"},
    {"NotByItsEndWhereNothingIsWaitedFor",
     "  body: {initial: one, states: {one: {go: [{pulse: p, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {final: true}}}\n",
     "{when: pulse(p) and in(body/one), within: 0s, reaches: in(body/two)}", "proved"},
    {"NotByASealOfItsOwn",
     "  body: {initial: one, states: {one: {go: [{pulse: p, to: two}]}, two: {}}}\n"
     "  hand: {initial: off, states: {off: {go: [{after: 1s, to: on}]}, on: {sealed: true}}}\n",
     "{when: pulse(p) and in(body/one), within: 0s, reaches: in(body/two)}", "proved"},
    {"NotByARingThatNeverRests",
     "  body: {initial: one, states: {one: {go: [{pulse: p, to: two}]}, two: {go: [{pulse: p, to: one}]}}}\n"
     "  hand: {initial: off, states: {off: {go: [{when: b, to: on}]}, on: {go: [{when: b, to: off}]}}}\n",
     "{when: pulse(p) and in(body/one), within: 0s, reaches: in(body/two)}", "proved"},
};

// What goes its own way beside a claim is not multiplied with it, nor with the rest of the logic.
TEST(RegionsApart, AreLookedAtByThemselves) {
  std::string inputs, variables, regions, claims, expected, findings;
  for (const std::string n : {"0", "1", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12", "13"}) {
    const int line = 53 + 14 * std::stoi(n);
    if (n == "9")
      findings += "m.yaml:" + std::to_string(line + 7) + ":13: warning: no run makes \"n9 > 3\" true in \"r9/c\" " +
                  "[never-holds]\n    Check what its variables are set to, and where.\n";
    else
      findings += "m.yaml:" + std::to_string(line) + ":13: warning: it takes \"p" + n +
                  "\", and at the same instant the rule in line " + std::to_string(line + 7) + " leads back to \"r" +
                  n +
                  "/a\": the press is lost [press-lost]\n    Let that rule wait (`after:`), or guard it against what " +
                  "is still true of the state before.\n";
    inputs += "  p" + n + ": pulse\n  b" + n + ": false\n";
    variables += "  n" + n + ": 0\n";
    regions += "  r" + n + ":\n    initial: a\n    states:\n      a:\n        go:\n          - {pulse: p" + n +
               ", to: b, do: \"n" + n + " = min(n" + n + " + 1, 3)\"}\n      b:\n        go:\n          - {when: b" +
               n + ", to: c}\n          - {after: 1s, to: a}\n      c:\n        go:\n          - {when: n" + n +
               (n == "9" ? " > 3" : " == 3") + ", to: a}\n          - {after: 200ms, to: a}\n";
    claims += "  ends " + n + ": {from: in(r" + n + "/b), within: 1s, reaches: not in(r" + n + "/b)}\n  back " + n +
              ": {from: in(r" + n + "/c), can: in(r" + n + "/b)}\n";
    expected += "ends " + n + ": proved\nback " + n + ": proved\n";
  }
  const Loaded loaded = load_character_text("mobrin: 1\nmachine: m\ninputs:\n" + inputs + "vars:\n" + variables +
                                                "regions:\n" + regions + "claims:\n" + claims,
                                            "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  ProofLimits less;  // than the work on all of them at once
  less.steps = 20'000;
  less.moments = 300;
  less.moves = 2'000;
  std::string told;
  EXPECT_EQ(answers_of(loaded, less), expected);
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine, less);
  for (const FindingCode each : {FindingCode::unreachable, FindingCode::never_holds, FindingCode::shadowed})
    EXPECT_EQ(std::count(report.undecided.begin(), report.undecided.end(), each), 0) << text_of(each);
  EXPECT_FALSE(report.too_large);
  for (const ProvedFinding& each : report.findings) told += each.finding.text() + "\n";
  EXPECT_EQ(told, findings);
}

// A press that was taken is pending no more, however long its buffer: what comes of time alone is good.
TEST(Can, CountsOnWhatFollowsAPress) {
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {puff: {pulse: 120ms}, open: false}\nvars: {fuel: 6}\ninitial: free\nstates:\n"
      "  free:\n    go:\n      - {pulse: puff, when: fuel > 0, to: puffs}\n      - {pulse: puff, to: fill}\n"
      "  puffs: {length: 400ms, enter: [fuel = fuel - 1], go: [{at: end, to: free}]}\n"
      "  fill: {length: 1s, go: [{when: open, to: free}, {at: end, to: free, do: [fuel = 6]}]}\n"
      "claims:\n  it is filled: {from: fuel < 6, can: fuel == 6}\n  it is held: {from: fuel < 6, can: fuel == 7}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const std::vector<ClaimAnswer> answers = prove(*loaded.definition, *loaded.machine);
  EXPECT_EQ(text_of(answers.at(0).answer), "proved") << answers[0].says;
  EXPECT_EQ(text_of(answers.at(1).answer), "refuted") << answers[1].says;
}

// One that is done meanwhile waits for ever.
TEST(Can, IsNotWaitedForBeyondTheEnd) {
  const auto answer = [](const char* linger) {
    const Loaded loaded = load_character_text(
        std::string("mobrin: 1\nmachine: m\ninputs: {q: pulse}\nregions:\n"
                    "  body: {initial: on, states: {on: {go: [{after: 1s, to: off}]}, off: {final: true, linger: ") +
            linger +
            "}}}\n  hands: {initial: free, states: {free: {go: [{pulse: q, to: full}]}, full: {go: [{after: 3s, to: "
            "free}]}}}\n"
            "claims: {free again: {from: in(hands/full), can: in(hands/free)}}\n",
        "m.yaml");
    EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
    return prove(*loaded.definition, *loaded.machine).at(0).says;
  };
  EXPECT_EQ(answer("0s"), "at 1 s: the machine is done in \"body/off\", and \"in(hands/free)\" is not true");
  // It may be done before the hands are free, however long that takes.
  EXPECT_EQ(answer("9s"), "at 10 s: the machine is done in \"body/off\", and \"in(hands/free)\" is not true");
}

// Nor is what was true as it began, once it was made false; what is true where it is done holds there, and what the end
// is excepted from.
TEST(Can, IsRefutedByTheEndOnlyWhereItIsAsked) {
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {dies: pulse, eats: pulse}\nvars: {food: 9}\nregions:\n"
      "  body: {initial: alive, states: {alive: {go: [{pulse: dies, to: dead}]}, dead: {final: true, linger: 1s}}}\n"
      "  mouth: {initial: free, states: {free: {go: [{pulse: eats, when: food > 0, to: eats}, {pulse: eats, to: free, "
      "restart: true, do: [food = 9]}]}, eats: {enter: [food = food - 1], go: [{after: 2s, to: free}]}}}\n"
      "claims:\n  full again: {from: in(mouth/eats), can: food == 9}\n"
      "  alive and full: {from: in(mouth/free) and not in(body/dead), can: food == 9}\n"
      "  is or was: {from: in(body/dead), can: food <= 9}\n  eats: {from: not in(body/dead), can: in(mouth/eats)}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "full again: refuted\nalive and full: proved\nis or was: proved\neats: proved\n");
}

// What is known of variables while nothing but time comes says which rule leads on then.
TEST(Can, WaitsForWhatVariablesLeadTo) {
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {go: {pulse: 150ms}}\nvars: {tired: 0.0}\ninitial: rest\nstates:\n"
      "  rest:\n    go:\n      - {pulse: go, when: tired < 1, to: out}\n"
      "      - {after: 3s, when: tired > 0.25, to: rest, restart: true, do: \"tired = max(tired - 0.5, 0)\"}\n"
      "  out: {length: 1s, exit: \"tired = min(tired + 0.5, 1)\", go: [{at: end, to: rest}]}\n"
      "claims:\n  out again: {from: in(rest), can: in(out)}\n  fresh again: {from: in(rest), can: tired == 0}\n"
      "  worn out: {from: in(rest), can: tired > 1}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "out again: proved\nfresh again: proved\nworn out: refuted\n");
}

// A rule further out that stands keeps its own list from being taken, not what ends further in.
TEST(Within, CountsOnWhatEndsInsideOfWhatStands) {
  const std::string machine =
      "mobrin: 1\nmachine: m\ninputs: {health: {int: 9, min: 0, max: 9}, hit: pulse}\nvars: {phase: 1}\n"
      "initial: sleep\ngo: [{when: \"health <= 3 and phase == 1\", to: roar, do: [phase = 2]}]\nstates:\n"
      "  sleep: {go: [{pulse: hit, to: roar}]}\n  roar: {length: 1.2s, go: [{at: end, to: fight}]}\n"
      "  fight: {go: [{after: 1s, to: fight, restart: true}]}\n";
  const auto answer = [&](const std::string& claim) {
    const Loaded loaded = load_character_text(machine + "claims: {it ends: " + claim + "}\n", "m.yaml");
    EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
    return std::string(text_of(prove(*loaded.definition, *loaded.machine).at(0).answer));
  };
  EXPECT_EQ(answer("{from: in(roar) and health > 3, within: 1.2s, reaches: not in(roar) or health <= 3}"), "proved");
  EXPECT_EQ(answer("{from: in(roar) and health > 3, within: 1.1s, reaches: not in(roar) or health <= 3}"), "refuted");
  EXPECT_EQ(answer("{from: in(roar), within: 1.2s, reaches: not in(roar)}"), "refuted");  // it roars twice
}

INSTANTIATE_TEST_SUITE_P(All, Rounds, testing::ValuesIn(kRounds), [](const auto& row) { return row.param.name; });
INSTANTIATE_TEST_SUITE_P(Disturbed, Rounds, testing::ValuesIn(kDisturbed),
                         [](const auto& row) { return row.param.name; });

}  // namespace
}  // namespace mobrin::test
