// Logic, claims and covers of machines as large as people make them: moods of a bee, each with states of its own, more
// than can be counted out configuration by configuration.
#include <algorithm>
#include <set>

#include "claim_answers.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Moods {
  int count = 0;
  bool own = false;            // each has inputs of its own
  std::string run_rule{};      // the first of `run` in the last but one
  std::string last_rule{};     // the first of that mood
  std::string rest{};          // of the file
  std::string dead_rule = "";  // of the dead, who else have none
};

std::string yaml_of(const Moods& moods) {
  const auto name = [](const char* word, int i) { return word + std::to_string(i); };
  std::string inputs, states;
  for (int i = 0; i < (moods.own ? moods.count : 1); ++i)
    inputs += "  " + name("speed", i) + ": {float: 0, min: 0, max: 10}\n  " + name("ground", i) + ": true\n  " +
              name("sting", i) + ": {pulse: 110ms}\n  " + name("hop", i) + ": pulse\n  " + name("hit", i) + ": pulse\n";
  for (int i = 0; i < moods.count; ++i) {
    const int j = moods.own ? i : 0;
    const bool chosen = i == moods.count - 2;
    const std::string speed = name("speed", j), ground = name("ground", j), hop = name("hop", j),
                      limit = std::to_string(3 + i % 4);
    inputs += "  " + name("to", i) + ": pulse\n";
    states +=
        "  " + name("mood", i) + ":\n    initial: idle\n    vars: {stings: 0}\n    go: [" +
        (chosen ? moods.last_rule : "") + "{pulse: " + name("hit", j) +
        ", to: hurt}, {pulse: " + name("to", (i + 1) % moods.count) + ", when: " + ground +
        ", to: " + name("mood", (i + 1) % moods.count) +
        "}]\n    states:\n      idle: {clip: idle, go: [{pulse: " + name("sting", j) + ", to: sting}, {pulse: " + hop +
        ", when: " + ground + ", to: rise}, {when: " + speed +
        " > 0.1, to: walk}]}\n      walk: {clip: walk, go: [{pulse: " + hop + ", when: " + ground +
        ", to: rise}, {when: " + speed + " > " + limit + ", to: run}, {when: " + speed +
        " <= 0.1, to: idle}]}\n      run: {clip: walk, go: [" + (chosen ? moods.run_rule : "") + "{when: " + speed +
        " <= " + limit +
        ", to: walk}]}\n      sting: {clip: sting, enter: [\"stings = min(stings + 1, 2)\"], go: [{pulse: " +
        name("sting", j) +
        ", during: again, to: twice}, {at: end, to: idle}]}\n      twice: {clip: sting, go: [{at: "
        "end, to: idle}]}\n      rise: {clip: rise, go: [{at: end, to: fall}]}\n      fall: {clip: idle, go: [{when: " +
        ground + ", to: land}, {pulse: " + name("sting", j) +
        ", to: twice}]}\n      land: {clip: rise, go: [{pulse: " + hop +
        ", to: rise}, {at: end, to: idle}]}\n      hurt: {clip: rise, go: [{at: end, to: back}]}\n";
  }
  return "mobrin: 1\nmachine: bee\ninputs:\n  health: {int: 6, min: 0, max: 6}\n" + inputs +
         "cues: {step: {kind: sound}}\nclips:\n  idle: {frames: [0-3], fps: 12, play: loop}\n  walk: {frames: [4-9], "
         "fps: 12, play: loop}\n  sting: {frames: [10-15], fps: 12}\n  rise: {frames: [16-17], fps: 12}\n  lie: "
         "{frames: "
         "[18-20], fps: 12}\nmarks:\n  walk: {cues: {1: step, 4: step}}\n  sting: {windows: {again: 4-5}}\ninitial: "
         "mood0\ngo: [{when: health <= 0, to: lie}]\nstates:\n  lie: {clip: lie, traits: [dead], " +
         (moods.dead_rule.empty() ? "final: true" : "go: [" + moods.dead_rule + "]") + "}\n" + states + moods.rest;
}

Loaded machine_of(const Moods& moods) {
  Loaded loaded = load_character_text(yaml_of(moods), "bee.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  return loaded;
}

// `code of the last but one mood`, with a tape a `*`; `undecided` where more might be told.
std::string told_of(const Moods& moods) {
  const Loaded loaded = machine_of(moods);
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine);
  std::string out;
  for (const ProvedFinding& each : report.findings)
    if (!each.finding.hint) out += std::string(text_of(each.finding.code)) + (each.tape ? "* " : " ");
  for (const FindingCode code : {FindingCode::unreachable, FindingCode::never_holds, FindingCode::shadowed})
    if (std::ranges::count(report.undecided, code) > 0) out += "undecided ";
  return out;
}

class LargeLogic : public testing::TestWithParam<bool> {
 protected:
  [[nodiscard]] static Moods moods(int count) { return {count, GetParam()}; }
  [[nodiscard]] static std::string of_last(const std::string& input, int count) {
    return input + std::to_string(GetParam() ? count - 2 : 0);
  }
};

TEST_P(LargeLogic, IsDecided) { EXPECT_EQ(told_of(moods(12)), ""); }

// What no rule says by itself: a variable never holds so much; speeds go round for ever; the dead are revived.
TEST_P(LargeLogic, TellsWhatIsWrongFarFromTheBegin) {
  Moods never = moods(5), ring = moods(5), revived = moods(5), meant = moods(5);
  never.last_rule = "{when: stings > 3, to: hurt}, ";
  EXPECT_EQ(told_of(never), "never-holds ");
  never.last_rule = "{when: stings > 1, to: hurt}, ";
  EXPECT_EQ(told_of(never), "");
  ring.run_rule = "{when: " + of_last("speed", 5) + " > 9, to: idle}, ";
  EXPECT_EQ(told_of(ring), "runaway* ");
  revived.dead_rule = "{when: health > 0, to: mood3}";
  EXPECT_EQ(told_of(revived), "revived* ");
  meant = revived;
  meant.rest = "assume: [health <= 0 or not is(dead)]\n";
  EXPECT_EQ(told_of(meant), "");
}

TEST_P(LargeLogic, ClaimsAreAnswered) {
  const char* const claims =
      "claims:\n  death is final: {once: in(lie), then: in(lie)}\n  no dead steps: {never: cue(step) and is(dead)}\n"
      "  a sting gets over: {from: in(mood2/twice), within: 600ms, reaches: not in(mood2/twice)}\n"
      "  too soon: {from: in(mood2/twice), within: 400ms, reaches: not in(mood2/twice)}\n"
      "  no landing sting: {from: in(mood3/sting), next: not in(mood3/land)}\n"
      "  never twice: {never: in(mood3/twice)}\n  death at once: {when: health <= 0, within: 0s, reaches: is(dead)}\n"
      "  no soft lock: {from: not is(dead), can: in(mood0/idle)}\n  to die is no way out: {from: is(dead), can: "
      "in(mood0/idle)}\n";
  Moods large = moods(5);
  large.rest = claims;
  const Loaded loaded = machine_of(large);
  EXPECT_EQ(joined(claim_findings(*loaded.definition, *loaded.machine)), "");
  std::string answers;
  for (const ClaimAnswer& each : prove(*loaded.definition, *loaded.machine)) {
    answers += each.claim.text + ": " + std::string(text_of(each.answer)) + "\n";
    EXPECT_EQ(each.tape.has_value(), each.answer == Answer::refuted);
  }
  EXPECT_EQ(answers,
            "death is final: proved\nno dead steps: proved\na sting gets over: proved\ntoo soon: refuted\n"
            "no landing sting: proved\nnever twice: refuted\ndeath at once: proved\n"
            "no soft lock: proved\nto die is no way out: refuted\n");
}

TEST_P(LargeLogic, IsCovered) {
  const Loaded loaded = machine_of(moods(6));
  const Machine& machine = *loaded.machine;
  const Cover all = cover(*loaded.definition, machine);
  EXPECT_TRUE(all.left.empty());
  EXPECT_TRUE(all.states.empty());
  EXPECT_LE(all.tapes.size(), 6u);
  std::set<std::uint32_t> taken;
  for (const Tape& tape : all.tapes) {
    Instance instance(machine);
    RunOptions options;
    options.until = *tape.until;
    run_tape(instance, tape, options, [&](const Cue& cue) {
      if (cue.what == Told::enter && cue.transition != kNoTransition) taken.insert(cue.transition);
    });
  }
  EXPECT_EQ(taken.size(), machine.transitions().size());
}

// Counters, each of a pulse: far more configurations than can be looked at, of which a claim speaks of few.
std::string counters(int count, const std::string& claims) {
  std::string inputs = "inputs: {", vars = "vars: {", rules, rests;
  for (int i = 0; i < count; ++i) {
    const std::string n = std::to_string(i), counted = "count" + n;
    inputs += (i > 0 ? ", press" : "press") + n + ": pulse";
    vars += (i > 0 ? ", " : "") + counted + ": 0";
    rules += "      - {pulse: press" + n + ", when: " + counted + " < 9, to: counts, restart: true, do: [" + counted +
             " = " + counted + " + 1]}\n      - {pulse: press" + n + ", to: rests" + n + "}\n";
    rests += "  rests" + n + ": {enter: [" + counted + " = 0], go: [{after: 1s, to: counts}]}\n";
  }
  return "mobrin: 1\nmachine: m\n" + inputs + "}\n" + vars + "}\n" + claims +
         "initial: counts\nstates:\n  counts:\n    go:\n" + rules + rests;
}

TEST(LargeClaims, OfFewVariablesAreAnswered) {
  const std::string claims =
      "claims:\n  one: {never: count1 > 9}\n  two: {always: count1 <= 9 and count2 <= 9}\n"
      "  at rest: {never: in(rests2) and count2 > 0}\n  so many: {never: count3 == 9}\n"
      "  rested: {never: in(rests4)}\n";
  const Loaded loaded = load_character_text(counters(5, claims), "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  std::string answers;
  for (const ClaimAnswer& each : prove(*loaded.definition, *loaded.machine)) {
    answers += each.claim.text + ": " + std::string(text_of(each.answer));
    // Nothing is pressed that has nothing to do with it.
    std::set<std::string> pressed;
    if (each.tape)
      for (const TapeStep& step : each.tape->steps)
        for (const Text& pulse : step.pulses) pressed.insert(pulse.text);
    for (const std::string& name : pressed) answers += " by " + name;
    answers += "\n";
  }
  EXPECT_EQ(answers,
            "one: proved\ntwo: proved\nat rest: proved\nso many: refuted by press3\nrested: refuted by press4\n");
}

TEST(LargeClaims, WhatManyPressesOfOneInputLeadToIsCovered) {
  const Loaded loaded = load_character_text(counters(8, ""), "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const Cover all = cover(*loaded.definition, *loaded.machine);
  EXPECT_TRUE(all.left.empty()) << all.left.size();
  EXPECT_TRUE(all.states.empty()) << all.states.size();
}

// What comes back with time, beside what is used up by presses: known by what it is compared with.
constexpr const char* kRoller = R"--(mobrin: 1
machine: roller
inputs: {roll: {pulse: 100ms}, sweep: {pulse: 100ms}, guard: false, stung: pulse, speed: {float: 0, min: 0, max: 6}}
vars: {breath: 1000, life: 500}
clips:
  stand: {length: 1s, play: loop}
  roll:  {length: 500ms}
  hurt:  {length: 300ms}
claims:
  breath is left:   {never: breath < 0}
  and not too much: {always: breath <= 1000}
  life is left:     {never: life < 0}
  death at once:    {never: in(body/hurt) and life <= 0}
  it may be out:    {never: breath < 15}
go:
  - {when: life <= 0, to: body/faint}
  - {pulse: stung, when: not in(body/roll) and not in(body/block), to: body/hurt}
regions:
  body:
    initial: stand
    states:
      stand:
        clip: stand
        go:
          - {pulse: roll, when: breath >= 25, to: roll}
          - {pulse: sweep, when: breath >= 15, to: sweep}
          - {when: guard, to: block}
          - {when: speed > 0.2, to: walk}
      walk:
        clip: stand
        speed: speed / 2
        go: [{pulse: roll, when: breath >= 25, to: roll}, {when: speed < 0.1, to: stand}]
      roll:  {clip: roll, enter: [breath = breath - 25], go: [{at: end, to: stand}]}
      sweep: {clip: roll, enter: [breath = breath - 15], go: [{at: end, to: stand}]}
      block: {clip: stand, go: [{when: not guard, to: stand}]}
      hurt:  {clip: hurt, enter: [life = life - 1], go: [{at: end, to: stand}]}
      faint: {clip: hurt, final: true}
  lungs:
    initial: rest
    states:
      rest:   {go: [{when: breath < 1000, to: regain}]}
      regain:
        go:
          - {after: 200ms, to: regain, restart: true, when: breath < 1000, do: ["breath = min(1000, breath + 5)"]}
          - {when: breath >= 1000, to: rest}
)--";
TEST(LargeClaims, OnWhatComesBackWithTimeAreAnswered) {
  const Loaded loaded = load_character_text(kRoller, "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  ProofLimits less;  // as `mobrin check` has
  less.steps = 100'000;
  less.moments = less.moves = 2'000;
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine, less);
  EXPECT_TRUE(report.findings.empty()) << report.findings.front().finding.text();
  EXPECT_EQ(answers_of(loaded, less, report.too_large),
            "breath is left: proved\nand not too much: proved\nlife is left: proved\ndeath at once: proved\n"
            "it may be out: open\n");
}

// What a variable can hold at all, whatever leads there: proved where nothing can be looked at.
struct RangeRow {
  const char* claim;
  bool holds;
};
class Ranges : public testing::TestWithParam<RangeRow> {};
TEST_P(Ranges, AreBoundsOfEveryRun) {
  const auto& [claim, holds] = GetParam();
  const Loaded loaded = load_character_text(std::string(R"--(mobrin: 1
machine: m
inputs: {p: pulse, q: pulse, gain: {int: 1, min: 1, max: 4}, x: {float: 0, min: 0, max: 1}}
vars: {most: 0, few: 9, kept: 0, seen: false, share: 0.5, left: 2, turned: 0, both: 0, free: 0, odd: 0}
initial: a
go: [{pulse: q, to: b, restart: true, do: ["most = min(most + gain, 7)", share = x]}]
states:
  a:
    vars: {own: 3}
    exit: [left = left + 2]
    go:
      - {pulse: p, when: few > 2 and gain > 2, to: b, do: [few = few - 1]}
      - {pulse: p, when: kept < 40, to: b, do: [kept = kept + 3]}
      - {pulse: p, when: left < 5, to: b, do: [left = left + 1]}
      - {pulse: p, when: own >= 4, to: b, do: [odd = own]}
      - {pulse: p, when: 3 > both, to: b, do: [both = both + 1, both = both + 1]}
  b: {enter: [turned = 1 - turned], go: [{pulse: p, to: a, do: [free = free + 1]}]}
claims: {it is so: )--") + claim + "}\n",
                                            "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  ProofLimits none;
  none.steps = none.moments = none.moves = 1;
  const Answer answer = prove(*loaded.definition, *loaded.machine, none).at(0).answer;
  EXPECT_EQ(text_of(answer), holds ? "proved" : "open");
}
const RangeRow kRanges[] = {
    {"{never: most > 7}", true},
    {"{never: most > 6}", false},
    {"{always: most >= 0}", true},
    {"{never: few < 2}", true},  // by its guard
    {"{never: few < 3}", false},
    {"{never: few > 9}", true},
    {"{never: kept > 42}", true},  // it takes more rounds than are gone through one by one
    {"{never: kept > 41}", false},
    {"{never: seen}", true},
    {"{always: share >= 0 and share <= 1}", true},
    {"{never: left > 8}", false},  // what is left adds to it behind the guard
    {"{never: odd > 3}", true},
    {"{never: both > 4}", true},
    {"{never: both > 3}", false},  // its guard is looked at once
    {"{never: free < 0}", true},
    {"{never: free > 1000}", false},
    {"{never: in(a) and most > 7 or few > 9}", true},
    {"{never: in(a) and most > 6}", false},
};
INSTANTIATE_TEST_SUITE_P(All, Ranges, testing::ValuesIn(kRanges));

INSTANTIATE_TEST_SUITE_P(All, LargeLogic, testing::Bool(),
                         [](const auto& row) { return row.param ? "InputsOfItsOwn" : "SharedInputs"; });

// One state from which everything is done, each thing by its own press and under conditions that nothing else reads:
// which of them hold and which are pressed are more than can be counted out together.
struct HubRow {
  const char* name;
  std::string more_rules{}, more_states{}, told{}, undecided{};
};
std::string hub(const HubRow& row, int skills, const std::string& buffer) {
  std::string inputs, rules, states;
  for (int i = 0; i < skills; ++i) {
    const std::string n = std::to_string(i);
    inputs += "  p" + n + ": " + buffer + "\n  ready" + n + ": false\n  far" + n + ": 0.0\n";
    rules += "      - {pulse: p" + n + ", when: ready" + n + " and far" + n + " > 1, to: w" + n + "}\n";
    states += "  w" + n + ": {clip: c, go: [{at: end, to: idle}]}\n";
  }
  return "mobrin: 1\nmachine: hub\ninputs:\n" + inputs +
         "clips: {c: {frames: [0-3], fps: 10}}\ninitial: idle\nstates:\n" + "  idle:\n    go:\n" + rules +
         row.more_rules + states + row.more_states;
}
class Hub : public testing::TestWithParam<HubRow> {};
TEST_P(Hub, OfManySkillsIsDecided) {
  for (const int skills : {12, 24})
    for (const char* buffer : {"pulse", "{pulse: 110ms}"}) {
      const Loaded loaded = load_character_text(hub(GetParam(), skills, buffer), "hub.yaml");
      ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
      const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine);
      std::string told;
      for (const ProvedFinding& each : report.findings)
        told += std::string(text_of(each.finding.code)) + (each.tape ? "* " : " ");
      EXPECT_EQ(told, GetParam().told) << skills << ' ' << buffer;
      std::string undecided;
      for (const FindingCode each : report.undecided) undecided += std::string(text_of(each)) + " ";
      EXPECT_EQ(undecided, GetParam().undecided) << skills << ' ' << buffer;
    }
}
const HubRow kHubs[] = {
    {"Sound"},
    {"ARuleBelowOneThatHoldsInMoreCases", "      - {pulse: p3, when: ready3 and far3 > 2, to: w4}\n", "",
     "wrong-order "},
    {"ARuleBelowOneThatHoldsInFewerCases", "      - {pulse: p3, when: ready3, to: w4}\n"},
    {"AGuardThatNoValuesSatisfy", "      - {pulse: p5, when: far6 > 3 and far6 < 2, to: w4}\n", "", "never-holds "},
    {"AStateThatNothingLeadsTo", "", "  lost: {clip: c, go: [{at: end, to: idle}]}\n", "unreachable "},
    {"APressThatIsUndone", "      - {pulse: p7, when: not ready7, to: brief}\n",
     "  brief: {go: [{when: far7 < 1, to: idle}, {after: 1s, to: idle}]}\n", "press-lost* ", "press-lost "},
};
INSTANTIATE_TEST_SUITE_P(Rows, Hub, testing::ValuesIn(kHubs),
                         [](const auto& row) { return std::string(row.param.name); });

}  // namespace
}  // namespace mobrin::test
