// Covering: the tapes together take what can be taken, and what is left is named.
#include <algorithm>
#include <set>

#include "made_machine.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// What rules a run takes, by their indices, up to the first fault.
std::set<std::uint32_t> taken_on(const Machine& machine, const Tape& tape) {
  std::set<std::uint32_t> out;
  Instance it(machine);
  RunOptions options;
  options.until = *tape.until;
  run_tape(it, tape, options, [&](const Cue& cue) {
    if (cue.what == Told::enter && cue.transition != kNoTransition) out.insert(cue.transition);
  });
  return out;
}

// Beside it so much can be written that only what a rule hangs on can be tried.
std::string beside_much(const std::string& states, const std::string& inputs) {
  std::string more, noise;
  for (int i = 0; i < 12; ++i) {
    const std::string n = std::to_string(i), next = std::to_string((i + 1) % 12);
    more += ", f" + n + ": {float: 0, min: 0, max: 9}, p" + n + ": {pulse: 200ms}";
    noise += "      n" + n + ": {go: [{pulse: p" + n + ", when: f" + n + " > 3, to: n" + next + "}, {pulse: p" + next +
             ", when: f" + n + " < 1, to: n" + next + "}]}\n";
  }
  return "inputs: {" + inputs + more + "}\nregions:\n  it:\n" + states + "  beside:\n    initial: n0\n    states:\n" +
         noise;
}

// Nothing is begun while it sleeps, as it does at first. Each link asks for values of its own, and without them a press
// leads back to the first.
std::string chain_beside_much() {
  constexpr int kLinks = 10;
  const auto value = [](int i) { return "g" + std::to_string(i % kLinks); };
  std::string inputs = "asleep: true, go: pulse", states = "    initial: c0\n    states:\n";
  for (int i = 0; i < kLinks; ++i) {
    inputs += ", " + value(i) + ": {float: 0, min: 0, max: 9}";
    states += "      c" + std::to_string(i) + ": {go: [" + (i == 0 ? "{when: asleep, to: c0}, " : "") +
              "{pulse: go, when: " + value(i) + " > 5 and " + value(i + 3) + " < 2, to: c" + std::to_string(i + 1) +
              "}, {pulse: go, to: c0}]}\n";
  }
  return beside_much(states + "      c10: {go: [{after: 1s, to: c0}]}\n", inputs);
}

struct CoverRow {
  const char* name;
  std::string machine;  // behind the line `machine: m`
  std::string left{};   // rules that no tape takes and states that none enters, a line each
};
void PrintTo(const CoverRow& row, std::ostream* out) { *out << row.name; }

class Covered : public testing::TestWithParam<CoverRow> {};

TEST_P(Covered, AllButWhatIsLeft) {
  const Loaded loaded = load_character_text("mobrin: 1\nmachine: m\n" + GetParam().machine, "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const Machine& machine = *loaded.machine;
  const Cover all = cover(*loaded.definition, machine);
  std::set<std::uint32_t> met;
  for (const Tape& tape : all.tapes) met.merge(taken_on(machine, tape));
  std::string left;
  for (const Cover::Left& each : all.left) {
    const TransitionInfo& rule = machine.transitions()[each.transition];
    left += rule.text + " to " + rule.to + (each.never ? ": never\n" : ": open\n");
    EXPECT_EQ(met.count(each.transition), 0u) << rule.text;
  }
  for (const std::uint16_t state : all.states) left += machine.states()[state].path + ": not entered\n";
  EXPECT_EQ(left, GetParam().left);
  EXPECT_EQ(met.size() + all.left.size(), machine.transitions().size());
}

const CoverRow kCoverRows[] = {
    {"AGuardOfManyInputs",
     "inputs: {f1: {float: 0, min: -1, max: 1}, f2: {float: 0, min: -1, max: 1}, f3: {float: 0, min: -1, max: 1}, "
     "b: false, mode: {one_of: [calm, busy, wild, lost]}, hp: {int: 5, min: 0, max: 10}, p: pulse}\n"
     "initial: a\nstates:\n  a: {go: [{when: f1 > 0.5 and f2 < 0 and f3 > 0.5 and b, to: b}]}\n"
     "  b: {go: [{pulse: p, when: mode == wild and hp < 3 and f3 < 0.2 and f1 < 0, to: c}]}\n"
     "  c: {go: [{when: f1 > 0.9 and f2 > 0.9 and hp == 7, to: a}]}\n"},
    {"WhatIsWaitedForInAShortLoop",
     "inputs: {go: pulse}\ncues: {step: sound}\nclips: {walk: {frames: [0-1], fps: 10, play: loop}}\n"
     "marks: {walk: {cues: {0: step, 1: step}}}\ninitial: a\nstates:\n  a: {clip: walk, go: [{after: 60s, to: b}]}\n"
     "  b: {clip: walk, go: [{pulse: go, to: a}, {after: 90s, to: c}]}\n  c: {go: [{pulse: go, to: b}]}\n"},
    {"WhatIsHeldUntilItsTimeComes", R"--(
inputs: {roll: {int: 0, min: 0, max: 99}, distance: {float: 5, min: 0, max: 20}}
initial: hovers
states:
  hovers:
    go:
      - {after: 1s, when: distance < 2, to: stings}
      - {after: 1s, when: roll < 30, to: hums}
      - {after: 3s, to: rests}
  stings: {length: 300ms, go: [{at: end, to: hovers}]}
  hums:   {length: 300ms, go: [{at: end, when: roll > 90, to: rests}, {at: end, to: hovers}]}
  rests:  {go: [{after: 1s, to: hovers}]}
)--"},
    {"WhatAChoiceReadsAtOnce", R"--(
inputs: {near: false, angry: false, sting: pulse}
initial: rests
states:
  rests: {length: 1s, go: [{at: end, to: decides}]}
  decides: {go: [{when: near and angry, to: dives}, {when: near, to: hums}, {to: rests}]}
  dives: {length: 1s, go: [{at: end, to: rests}]}
  hums: {length: 1s, go: [{at: end, to: rests}]}
)--"},
    {"APressInAWindow", R"--(
inputs: {swing: pulse}
clips: {blow: {length: 400ms}, smite: {frames: [0-3], fps: 10}}
marks: {blow: {windows: {again: 0.2s-0.3s}}, smite: {windows: {again: 2}}}
initial: stands
states:
  stands: {go: [{pulse: swing, to: blows}]}
  blows: {clip: blow, go: [{pulse: swing, during: again, to: smites}, {at: end, to: stands}]}
  smites: {clip: smite, go: [{pulse: swing, during: again, to: blows}, {at: end, to: stands}]}
)--"},
    {"APressInAWindowThatComesRound", R"--(
inputs: {swing: pulse, back: {float: 1, min: -1, max: 1}}
clips: {turn: {length: 400ms, play: loop}}
marks: {turn: {windows: {again: 0.02s-0.03s}}}
initial: turns
states:
  turns: {clip: turn, speed: back, go: [{pulse: swing, during: again, when: back < 0, to: blows}]}
  blows: {length: 1s, go: [{at: end, to: turns}]}
)--"},
    {"CuesCloseBesideEachOther", R"--(
inputs: {fly: pulse}
cues: {hum: {kind: sound}}
clips: {flap: {length: 180ms, play: loop x2}}
marks: {flap: {cues: {1ms: hum, 6ms: hum, 9ms: hum, 13ms: hum}}}
initial: sits
states:
  sits: {go: [{pulse: fly, to: flies}]}
  flies: {clip: flap, go: [{at: end, to: sits}]}
)--"},
    {"WhatAnActionCompares", R"--(
inputs: {fall: {float: 0, min: 0, max: 20}, grounded: false}
vars: {hard: false, exact: false}
initial: air
states:
  air: {go: [{when: grounded, to: lands, do: ["hard = fall > 8 and fall < 9", "exact = fall == 3"]}]}
  lands: {go: [{when: hard, to: rolls}, {when: exact, to: poses}, {after: 1s, when: not grounded, to: air}]}
  rolls: {go: [{when: not grounded, to: air}]}
  poses: {go: [{when: not grounded, to: air}]}
)--"},
    {"WhatNothingLeadsTo", R"--(
inputs: {near: true, far: false}
initial: sits
states:
  sits: {go: [{when: near, to: flies}, {when: near and far, to: hides}]}
  flies: {go: [{when: not near, to: sits}]}
  hides: {go: [{after: 1s, to: sits}]}
)--",
     "when: near and far to hides: never\nafter: 1s to sits: never\nhides: not entered\n"},
    {"ALoopOfAStateWithinBesideMuch", beside_much(R"--(
    initial: moves
    states:
      moves:
        initial: walks
        go: [{at: loop, when: tired, to: sleeps}]
        states:
          walks: {go: [{when: fast, to: trots}]}
          trots: {length: 500ms, go: [{at: end, to: gallops}]}
          gallops: {clip: gallop, go: [{when: not fast, to: walks}]}
      sleeps: {go: [{after: 1s, when: not tired, to: moves}]}
)--",
                                                  "fast: false, tired: false") +
                                          "clips: {gallop: {length: 300ms, play: loop}}\n"},
    // What stands before a rule and is so at the begin has to be ended first.
    {"WhatIsSoAtTheBeginBesideMuch", beside_much(R"--(
    initial: sits
    states:
      sits:
        go:
          - {when: asleep, to: dreams}
          - {when: heavy > 5, to: hides}
          - {when: near, to: flies}
      dreams: {go: [{when: not asleep, to: sits}]}
      hides: {go: [{when: heavy < 1, to: sits}]}
      flies: {go: [{when: asleep, to: sits}]}
)--",
                                                 "asleep: true, heavy: {float: 9, min: 0, max: 10}, near: false")},
    {"AChainOfPressesUnderConditionsBesideMuch", chain_beside_much(),
     "when: asleep to c0: never\npulse: go to c0: never\n"},
};
INSTANTIATE_TEST_SUITE_P(Covers, Covered, testing::ValuesIn(kCoverRows),
                         [](const auto& each) { return each.param.name; });

// What random runs come to is on a tape, but for one rule in some hundred; what no run shall take none does.
class RandomCover : public testing::TestWithParam<Made> {};

TEST_P(RandomCover, TakesWhatRandomRunsTake) {
  std::size_t taken = 0, missed = 0;
  std::uint32_t next = 0;
  for (int i = seeds(8); i > 0; --i) {
    auto [seed, random, definition, machine] = next_sound(next, GetParam());
    const Cover found = cover(definition, machine);
    std::set<std::uint32_t> on_tapes, met;
    for (const Tape& tape : found.tapes) on_tapes.merge(taken_on(machine, tape));
    Instance it(machine);
    std::size_t records = 0;
    for (int step = 0; step < 5'000 && records < 20'000; ++step) {
      (void)random.write_input(it);
      const Ticks time(random.pick(6) == 0 ? random.pick(60'000'000) : random.pick(2'000'000));
      std::vector<Cue> told;
      const auto keep = [&](const Cue& cue) { told.push_back(cue); };
      (void)it.advance(time, keep, listen_to(Told::enter) | listen_to(Told::fault));
      // A tape ends before a fault.
      const auto fault = std::ranges::find(told, Told::fault, &Cue::what);
      for (const Cue& cue : told)
        if (cue.transition != kNoTransition && (fault == told.end() || cue.at < fault->at)) met.insert(cue.transition);
      records += told.size();
      if (fault != told.end() || it.done() || random.pick(400) == 0) it = Instance(machine);
    }
    for (const Cover::Left& each : found.left)
      ASSERT_FALSE(each.never && met.count(each.transition) > 0) << "seed " << seed << " rule " << each.transition;
    taken += met.size();
    missed += static_cast<std::size_t>(
        std::ranges::count_if(met, [&](std::uint32_t rule) { return on_tapes.count(rule) == 0; }));
  }
  EXPECT_LE(missed * 50, taken);
  EXPECT_GT(taken, 5u);
}
INSTANTIATE_TEST_SUITE_P(Machines, RandomCover, testing::ValuesIn(kAllMade), name_of_made);

}  // namespace
}  // namespace mobrin::test
