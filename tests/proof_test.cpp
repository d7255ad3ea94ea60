// Proofs over runs: claims are answered as they are, tapes show what they say.
#include "claim_answers.hpp"
#include "mobrin/prove/prove.hpp"

#include <algorithm>
#include <set>

#include "mistake_rows.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/record.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// --- claims ---------------------------------------------------------------------------------------------------------

const char* const kFighter =
    "inputs: {health: {int: 3, min: 0, max: 3}, ground: true, swing: {pulse: 100ms}, hop: pulse, hit: pulse}\n"
    "cues: {step: sound}\n"
    "clips: {w: {frames: [0-3], fps: 8, play: loop}, s: {frames: [0-4], fps: 10}, d: {frames: [0-1], fps: 8}}\n"
    "marks: {w: {cues: {1: step}}, s: {windows: {again: 3-4}}}\n"
    "vars: {n: 0}\ninitial: walk\n"
    "go: [{when: health <= 0, to: dead}, {pulse: hit, to: hurt}]\n"
    "states:\n"
    "  walk: {clip: w, go: [{pulse: swing, to: swing}, {pulse: hop, when: ground, to: air}]}\n"
    "  swing: {clip: s, enter: [\"n = min(n + 1, 5)\"], go: [{pulse: swing, during: again, to: swing, restart: true}, "
    "{at: "
    "end, to: walk, do: [n = 0]}]}\n"
    "  air: {go: [{after: 200ms, when: ground, to: walk}]}\n"
    "  hurt: {length: 300ms, go: [{at: end, to: back}]}\n"
    "  dead: {clip: d, traits: [dead], sealed: true}\n";

struct ClaimRow {
  const char* name;
  const char* claim;
  Answer answer;
  const char* says = "";  // part of it
  const char* assumed = "";
};
const ClaimRow kClaims[] = {
    {"NeverProved", "{never: cue(step) and is(dead)}", Answer::proved, "at any rate"},
    {"NeverRefuted", "{never: in(hurt) and health < 2}", Answer::refuted, "is true"},
    {"NeverOverAVariable", "{never: n > 5}", Answer::proved},
    {"NeverOverAVariableRefuted", "{never: n >= 3}", Answer::refuted},
    {"AlwaysProved", "{always: n >= 0 and n <= 5}", Answer::proved},
    {"AlwaysRefuted", "{always: not in(air)}", Answer::refuted, "\"not in(air)\" is not true"},
    {"OnceProved", "{once: in(dead), then: in(dead)}", Answer::proved},
    {"OnceRefuted", "{once: in(air), then: in(air) or in(dead)}", Answer::refuted},
    {"WhenProved", "{when: pulse(hit) and not is(dead), within: 0s, reaches: in(hurt) or in(dead)}", Answer::proved},
    {"WhenRefuted", "{when: pulse(swing) and in(walk), within: 0s, reaches: in(swing)}", Answer::refuted, "was true"},
    {"WithinProved", "{from: in(hurt), within: 300ms, reaches: not in(hurt)}", Answer::proved,
     "at rate 1 without freezes; it takes at most 0.3 s"},
    {"WithinTooShort", "{from: in(hurt), within: 299ms, reaches: not in(hurt)}", Answer::refuted},
    {"WithinByPressingOn", "{from: in(swing), within: 2s, reaches: not in(swing)}", Answer::refuted,
     "was not within 2 s"},
    {"NextProved", "{from: in(air), next: in(walk) or in(swing) or in(hurt) or in(dead)}", Answer::proved},
    {"NextIsNoWriteThatChangesNothing",
     "{from: cue(step), next: in(walk) or in(swing) or in(hurt) or in(dead) or in(air)}", Answer::proved},
    {"NextRefuted", "{from: in(swing), next: in(walk)}", Answer::refuted, "neither"},
    {"CanProved", "{from: not is(dead), can: in(walk)}", Answer::proved},
    {"CanRefuted", "{from: in(walk) or is(dead), can: in(air)}", Answer::refuted, "no run leads from here"},
    {"Vacuous", "{once: n > 8, then: in(walk)}", Answer::vacuous, "is never true"},
    {"WhatTheGameKeeps", "{never: is(dead) and health > 0}", Answer::proved, "that keep what is assumed",
     "assume: health <= 0 or not in(dead)\n"},
    {"WithoutIt", "{never: is(dead) and health > 0}", Answer::refuted},
    {"WhatNobodyCanKeep", "{never: in(air)}", Answer::vacuous, "no first instant",
     "assume: [health > 2, health < 1]\n"},
};

class ClaimRows : public testing::TestWithParam<ClaimRow> {};
TEST_P(ClaimRows, AreAnswered) {
  const ClaimRow& row = GetParam();
  const Loaded loaded = loaded_from(std::string(kFighter) + row.assumed + "claims: {it is so: " + row.claim + "}\n");
  ASSERT_TRUE(loaded.machine);
  ASSERT_EQ(joined(claim_findings(*loaded.definition, *loaded.machine)), "");
  const auto answers = prove(*loaded.definition, *loaded.machine);
  ASSERT_EQ(answers.size(), 1u);
  EXPECT_EQ(text_of(answers[0].answer), text_of(row.answer)) << answers[0].says;
  EXPECT_NE(answers[0].says.find(row.says), std::string::npos) << answers[0].says;
  EXPECT_EQ(answers[0].tape.has_value(), row.answer == Answer::refuted);
  if (!answers[0].tape) return;
  // It is a tape like any other.
  Tape tape = *answers[0].tape;
  const LoadedTape read = load_tape_text(tape_text(tape), "t.tape.yaml");
  ASSERT_TRUE(read.tape) << joined(read.findings);
  EXPECT_EQ(joined(check_tape(*read.tape, *loaded.machine, "t.tape.yaml")), "");
}

// Plays whose speed the game decides; many pulses and regions.
TEST(Claims, BoundPlaysBySpeeds) {
  const auto answer = [](const std::string& range, const std::string& speed, const std::string& claim) {
    const Loaded loaded = loaded_from("inputs: {pace: {float: 1, " + range +
                                      "}, p: pulse}\nclips: {c: {frames: [0-3], fps: 10}}\ninitial: a\nstates:\n  a: "
                                      "{go: [{pulse: p, to: b}]}\n  b: {clip: c, speed: \"" +
                                      speed + "\", go: [{at: end, to: a}]}\nclaims: {it is so: " + claim + "}\n");
    return prove(*loaded.definition, *loaded.machine).at(0);
  };
  const char* const over = "{from: in(b), within: 801ms, reaches: in(a)}";
  EXPECT_EQ(text_of(answer("min: 0.5, max: 2", "pace", over).answer), "proved");
  EXPECT_EQ(text_of(answer("min: 0.5, max: 2", "-pace", over).answer), "proved");  // backwards from its end
  EXPECT_EQ(text_of(answer("min: 0.25, max: 2", "pace + 0.25", over).answer), "proved");
  EXPECT_EQ(text_of(answer("min: 0.5, max: 2", "pace", "{from: in(b), within: 790ms, reaches: in(a)}").answer),
            "refuted");
  EXPECT_EQ(text_of(answer("min: 0, max: 2", "pace", over).answer), "refuted");  // it may stand
  EXPECT_NE(text_of(answer("min: -1, max: 2", "pace", over).answer), "proved");  // it may turn
  // With its inputs held the game can let it end.
  EXPECT_EQ(text_of(answer("min: 0, max: 2", "pace", "{from: in(b), can: in(a)}").answer), "proved");
}

// A time that a seal lets pass is over when the seal is gone.
TEST(Claims, KnowWhatASealHoldsBack) {
  const Loaded loaded = loaded_from(
      "inputs: {p: pulse}\ninitial: a\ngo: [{after: 1s, to: c}]\nstates:\n  a: {sealed: true, go: [{pulse: p, to: "
      "b}]}\n"
      "  b: {go: [{pulse: p, to: c}]}\n  c: {final: true}\nclaims:\n  b: {when: pulse(p) and in(a), within: 0s, "
      "reaches: "
      "in(b)}\n  over: {from: in(b), within: 1s, reaches: in(c)}\n  left: {from: in(a), within: 1s, reaches: not "
      "in(a)}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "b: refuted\nover: proved\nleft: refuted\n");
}

// A start is kept as it is written, off the grain too; no write leads back to it.
TEST(Claims, KnowThatAStartNeedNotLieOnTheGrain) {
  const Loaded loaded = loaded_from(
      "inputs: {x: {float: 1, min: -4, max: 4, grain: 0.3}, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x >= 1, "
      "to: b}]}\n  b: {go: [{pulse: p, when: x > 0.95 and x < 1.1, to: c}]}\n  c: {}\nclaims:\n  left: {when: in(a), "
      "within: 0s, reaches: in(b)}\n  never: {never: in(c)}\n  late: {once: in(a), then: not in(c)}\n  can: {from: "
      "in(b), can: in(c)}\n");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "left: refuted\nnever: refuted\nlate: open\ncan: open\n");
  const auto answers = prove(*loaded.definition, *loaded.machine);
  EXPECT_EQ(answers[0].tape->steps.size(), 1u);  // a write of 1 would be held as 0.9
  EXPECT_EQ(answers[1].tape->steps.size(), 1u);  // x is left alone
  EXPECT_TRUE(answers[1].tape->steps[0].set.empty());
}

// All rules `at: end` of a state see the same end, whatever the play lasts; what is written into a truth is true or
// false.
TEST(Claims, KnowThatTheFirstRuleAtAnEndDecides) {
  for (const std::string speed : {"1", "pace", "-1"}) {
    const Loaded loaded = loaded_from(
        "inputs: {weak: false, pace: {float: 1, min: -2, max: 2}, grab: pulse, hold: pulse}\n"
        "vars: {tired: false, noted: false}\ninitial: stands\nstates:\n"
        "  stands: {go: [{pulse: grab, to: reaches, do: [tired = weak]}, {pulse: hold, to: hangs}]}\n"
        "  reaches: {length: 250ms, speed: \"" +
        speed +
        "\", go: [{at: end, when: tired, to: slips}, {at: end, to: hangs}]}\n"
        "  hangs: {go: [{after: 1s, to: stands}]}\n  slips: {go: [{after: 1s, to: stands, do: [tired = false]}]}\n"
        "claims:\n  not tired: {never: in(hangs) and tired}\n"
        "  he slips: {from: in(reaches) and tired, next: not in(hangs)}\n"
        "  he hangs: {from: in(reaches) and not tired, next: not in(slips)}\n"
        "  he never slips: {from: in(reaches), next: not in(slips)}\n");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    EXPECT_EQ(answers_of(loaded), "not tired: proved\nhe slips: proved\nhe hangs: proved\nhe never slips: refuted\n")
        << speed;
  }
}

// A window that lies behind the begin is not open as a play begins; one at the begin may be, and any where it begins
// elsewhere or runs backwards.
TEST(Claims, KnowWhichWindowsAreOpenAtABegin) {
  const auto answer = [](const std::string& window, const std::string& speed, const std::string& more) {
    const Loaded loaded = loaded_from(
        "inputs: {call: {pulse: 500ms}, near: false}\nclips: {hop: {frames: [0-4], fps: 10}, eat: {length: 1s}}\n"
        "marks: {hop: {windows: {land: " +
        window + "}}}\ninitial: sits\nstates:\n  sits: {go: [{pulse: call, to: hops" + more +
        "}]}\n  hops: {clip: hop, speed: " + speed +
        ", go: [{during: land, when: near, to: eats}, {at: end, to: sits}]}\n"
        "  eats: {clip: eat, go: [{at: end, to: sits}]}\n"
        "claims: {it eats up: {from: in(eats), within: 1s, reaches: not in(eats)}}\n");
    EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
    return std::string(text_of(prove(*loaded.definition, *loaded.machine)[0].answer));
  };
  EXPECT_EQ(answer("3-4", "1", ""), "proved");
  EXPECT_EQ(answer("0.1s-0.2s", "1", ""), "proved");
  EXPECT_EQ(answer("[2, 0]", "1", ""), "refuted");  // called again while it eats
  EXPECT_EQ(answer("0s-0.2s", "1", ""), "refuted");
  EXPECT_EQ(answer("4", "-1", ""), "refuted");
  EXPECT_EQ(answer("3-4", "1", ", start: 3"), "refuted");
}

// What leaves claims open is told: a ring that another rule closes, far from what is asked.
TEST(Claims, SayThatARingLeavesThemOpen) {
  for (const bool ring : {true, false}) {
    const Loaded loaded = loaded_from(
        "inputs: {x: false, y: false, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x, to: b}]}\n  b: {go: "
        "[{when: " +
        std::string(ring ? "y" : "not x") +
        ", to: a}, {pulse: p, to: c}]}\n  c: {length: 1s, go: [{at: end, to: a}]}\n"
        "claims: {c ends: {from: in(c), within: 1s, reaches: not in(c)}}\n");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    const ClaimAnswer answer = prove(*loaded.definition, *loaded.machine)[0];
    EXPECT_EQ(answer.answer, ring ? Answer::open : Answer::proved);
    EXPECT_EQ(answer.says.find("mend what is called runaway") != std::string::npos, ring) << answer.says;
  }
}

// Each region is always active: one of its states is meant, in a guard as in a claim.
TEST(Claims, OfARegionNameAStateInside) {
  const std::string regions =
      "regions:\n  arm: {initial: ready, states: {ready: {go: [{when: in(legs), to: out}]}, out: {}}}\n  legs: {states: "
      "{stand: {}}}\n";
  EXPECT_NE(findings_of(regions).find("\"legs\" is a region, and no state [unknown-name]\n    Ask for a state inside, "
                                      "such as `in(legs/stand)`."),
            std::string::npos);
  const Loaded loaded = loaded_from("regions:\n  arm: {states: {ready: {}}}\nclaims: {it: {never: in(arm)}}\n");
  EXPECT_NE(joined(claim_findings(*loaded.definition, *loaded.machine))
                .find("\"in(arm)\": \"arm\" is a region, and no state [bad-expression]\n    Ask for a state inside, such "
                      "as `in(arm/ready)`."),
            std::string::npos);
}

TEST(Claims, AskOfManyPulsesAndRegions) {
  std::string pulses, any, rules, regions;
  for (const char c : std::string("abcdefgh")) {
    const std::string name(1, c);
    pulses += "p" + name + ": pulse, ";
    any += (any.empty() ? "pulse(p" : " or pulse(p") + name + ")";
    rules += "{pulse: p" + name + ", to: on}, ";
    regions += "  r" + name + ": {initial: off" + name + ", states: {off" + name + ": {go: [{pulse: p" + name +
               ", to: on" + name + "}]}, on" + name + ": {}}}\n";
  }
  const std::string head = "inputs: {" + pulses + "}\n";
  for (const std::string& text : {
           head + "initial: off\nstates:\n  off: {go: [" + rules + "]}\n  on: {}\nclaims: {any will do: {when: \"" +
               any + "\", within: 0s, reaches: in(on)}}\n",
           head + "regions:\n" + regions +
               "claims: {each by its own: {when: pulse(pc), within: 0s, reaches: in(rc/onc)}}\n",
       }) {
    const Loaded loaded = loaded_from(text);
    ASSERT_TRUE(loaded.machine);
    const ClaimAnswer answer = prove(*loaded.definition, *loaded.machine).at(0);
    EXPECT_EQ(text_of(answer.answer), "proved") << answer.claim.text << ": " << answer.says;
  }
}
std::string name_of_claim(const testing::TestParamInfo<ClaimRow>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, ClaimRows, testing::ValuesIn(kClaims), name_of_claim);

const ToldRow kWrong[] = {
    {"AState", "{a: {never: in(swin)}}",
     "m.yaml:16:24: error: \"in(swin)\": there is no state \"swin\" [bad-expression]\n    Did you mean \"swing\"?"},
    {"ATrait", "{a: {never: is(daed)}}", "\"is(daed)\": there is no trait \"daed\""},
    {"APulse", "{a: {never: pulse(swin)}}", "there is no pulse \"swin\""},
    {"APulseAsAValue", "{a: {never: swing}}", "\"swing\" is a pulse and has no value"},
    {"ACue", "{a: {never: cue(stp)}}", "there is no cue \"stp\""},
    {"AnInput", "{a: {never: helth > 2}}", "there is no input or variable \"helth\""},
    {"ANumberAsATruth", "{a: {never: health}}", "\"health\": \"health\" is a whole number, not true or false"},
    {"ANumberInside", "{a: {from: in(walk) and not (health + 1), within: 1s, reaches: true}}",
     "m.yaml:16:45: error: \"in(walk) and not (health + 1)\": what stands there is a number, not true or false"},
    {"ACueBeforeItIsTold", "{a: {when: cue(step) and ground, within: 0s, reaches: in(walk)}}",
     "m.yaml:16:24: error: \"cue(step) and ground\": no cue is told yet when this is read, before the machine settles "
     "[wrong-operand]\n    Ask from then on: `{from: cue(step), within: 0s, reaches: ...}`."},
    {"AConstant", "{a: {from: true, within: 1s, reaches: -1}}", "\"-1\": what stands there is a number"},
    {"AFunction", "{a: {never: was(walk)}}", "\"was\" is not a function"},
    {"AnImplication", "{a: {always: in(air) implies ground}}", "Write `not (a) or b`."},
    {"ATime", "{a: {never: in(air) for 2s}}", "or say `within:` in a claim."},
};
class WrongClaims : public testing::TestWithParam<ToldRow> {};
TEST_P(WrongClaims, AreTold) {
  const Loaded loaded = loaded_from(std::string(kFighter) + "claims: " + GetParam().text + "\n");
  ASSERT_TRUE(loaded.machine);
  const std::string told = joined(claim_findings(*loaded.definition, *loaded.machine));
  EXPECT_NE(told.find(GetParam().told), std::string::npos) << told;
}
INSTANTIATE_TEST_SUITE_P(All, WrongClaims, testing::ValuesIn(kWrong), name_of_told);

const ToldRow kForms[] = {
    {"InWords", "{x: never in(air)}", "a claim is \"never in(air)\" [wrong-type]\n    Write `{never: in(air)}`."},
    {"OfTwoThings", "{x: {always: in(air), never: in(walk)}}", "A claim says one thing: write two of them."},
    {"FromOnNever", "{x: {from: in(air), never: ground and in(walk)}}",
     "From then on it is `{once: in(air), then: not (ground and in(walk))}`; at the same time `{never: in(air) and "
     "(ground and in(walk))}`."},
    {"WhileAlways", "{x: {when: in(air), always: not ground}}",
     "`{once: in(air), then: not ground}`; at the same time `{always: not in(air) or (not ground)}`."},
    {"WhenThen", "{x: {when: pulse(hop), then: in(air)}}",
     "`{once: pulse(hop), then: in(air)}`; at once `{when: pulse(hop), within: 0s, reaches: in(air)}`."},
    {"WithoutATime", "{x: {from: true, reaches: in(air)}}", "Say in what time: `within: 2s`, or `0s` for at once."},
    {"FromNowhere", "{x: {can: in(air)}}", "Say from where, `from: E`; from anywhere is `from: true`."},
    {"WithoutItsThen", "{x: {once: in(air)}}", "Say what is so from then on: `then: E`."},
    {"WithoutItsEnd", "{x: {from: true, within: 1s}}", "Say what comes by then: `reaches: E`."},
    {"OfOneKeyAndAnothers", "{x: {never: in(walk), then: in(air)}}", "the claim \"x\" has no form that can be asked"},
    {"OfABeginAlone", "{x: {from: in(walk)}}", "Write one of {never: E}, {always: E}"},
    {"OfAWhenAndACan", "{x: {when: in(walk), can: in(air)}}", "has no form that can be asked"},
    {"OfAWhenWithoutItsEnd", "{x: {when: in(walk), within: 0s}}", "Say what comes by then: `reaches: E`."},
    {"Empty", "{x: {}}", "has no form that can be asked"},
    {"If", "{x: {if: in(air), then: in(air)}}", "Write `{once: E, then: F}`, or `{when: E, within: 0s, reaches: F}`."},
    {"To", "{x: {from: in(air), within: 1s, to: in(walk)}}", "What is come to is `reaches:`, beside `within: 2s`"},
    {"Assumed", "{x: {never: in(air), assume: ground}}", "for all of them: `assume: [health > 0]`."},
};
class ClaimForms : public testing::TestWithParam<ToldRow> {};
TEST_P(ClaimForms, AreAnsweredWithWhatToWrite) {
  const std::string text = "mobrin: 1\nmachine: m\n" + std::string(kFighter) + "claims: " + GetParam().text + "\n";
  const Loaded loaded = load_character_text(text, "m.yaml");
  EXPECT_FALSE(loaded.machine);
  EXPECT_NE(joined(loaded.findings).find(GetParam().told), std::string::npos) << joined(loaded.findings);
}
INSTANTIATE_TEST_SUITE_P(All, ClaimForms, testing::ValuesIn(kForms), name_of_told);

// --- covering -------------------------------------------------------------------------------------------------------

TEST(Covers, TakeEveryRuleOfTheDemo) {
  for (const char* name : {"keeper", "hornet", "hive", "smoker", "puff", "marsh_hornet"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    const Cover covered = cover(*loaded.definition, *loaded.machine);
    EXPECT_TRUE(covered.left.empty() && covered.states.empty()) << name;
    std::set<std::uint32_t> taken;
    for (const Tape& tape : covered.tapes) {
      Instance instance(*loaded.machine);
      RunOptions options;
      options.until = tape.until;
      run_tape(instance, tape, options, [&](const Cue& cue) {
        if (cue.transition != kNoTransition) taken.insert(cue.transition);
      });
    }
    EXPECT_EQ(taken.size(), loaded.machine->transitions().size()) << name;
  }
}

TEST(Covers, ProveWhatIsLeft) {
  const Loaded loaded = loaded_from(
      "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: n < 2, to: b, do: [n = n + "
      "1]}, {when: n > 2, to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n");
  const Cover covered = cover(*loaded.definition, *loaded.machine);
  ASSERT_EQ(covered.left.size(), 2u);
  EXPECT_TRUE(covered.left[0].never && covered.left[1].never);
  EXPECT_EQ(covered.states.size(), 1u);
}

TEST(Proofs, TheDemosMachinesAreClean) {
  for (const char* name : {"keeper", "hornet", "hive", "smoker", "puff", "marsh_hornet"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine).findings)
      EXPECT_TRUE(each.finding.hint) << each.finding.text();
  }
}

}  // namespace
}  // namespace mobrin::test
