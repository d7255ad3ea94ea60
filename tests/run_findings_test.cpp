// What runs can do: a mistake is told at its place, a near miss is not, and what may be shown is shown by a tape.
#include "mistake_rows.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// `line code`, hints with a `?`, errors with a `!`; with a tape a `*`.
std::string runs_of(const std::string& text) {
  const Loaded loaded = loaded_from(text);
  if (!loaded.machine) return "";
  std::string out;
  for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine).findings) {
    out += std::to_string(each.finding.line) + " " + std::string(text_of(each.finding.code)) +
           (each.finding.hint        ? "?"
            : is_error(each.finding) ? "!"
                                     : "") +
           (each.tape ? "*" : "") + "\n";
    EXPECT_FALSE(each.finding.remedy.empty());
    EXPECT_FALSE(explain_finding(text_of(each.finding.code)).empty()) << text_of(each.finding.code);
  }
  return out;
}

// Of much that can be written much has to be.
const std::string kMany =
    "inputs: {f1: {float: 0, min: -1, max: 1}, f2: {float: 0, min: -1, max: 1}, f3: {float: 0, min: -1, max: 1}, "
    "b: false, mode: {one_of: [calm, busy, wild, lost]}, hp: {int: 5, min: 0, max: 10}, p: {pulse: 100ms}}\n"
    "initial: a\nstates:\n";

// A press that leads back at once, unless that has to `wait`, behind a time in a loop that tells a cue again and again.
std::string after_a_wait_in_a_loop(const std::string& time, const std::string& wait) {
  return "inputs: {jump: pulse}\ncues: {step: sound}\nclips: {walk: {frames: [0-1], fps: 10, play: loop}}\n"
         "marks: {walk: {cues: {0: step, 1: step}}}\ninitial: a\nstates:\n  a: {clip: walk, go: [{after: " +
         time + ", to: b}]}\n  b: {go: [{pulse: jump, to: c}]}\n  c: {go: [{" + wait + "to: b}]}\n";
}
std::string beside_two_loops(const std::string& wait) {
  return "inputs: {jump: pulse}\ncues: {step: sound}\nclips: {walk: {frames: [0-1], fps: 10, play: loop}, look: "
         "{frames: [0-3], fps: 8, play: loop}}\nmarks: {walk: {cues: {0: step, 1: step}}, look: {cues: {2: step}}}\n"
         "regions:\n  legs: {states: {go: {clip: walk}}}\n  body:\n    initial: a\n    states:\n"
         "      a: {clip: look, go: [{after: 100s, to: b}]}\n      b: {go: [{pulse: jump, to: c}]}\n"
         "      c: {go: [{" +
         wait + "to: b}]}\n";
}

const MistakeRow kRuns[] = {
    {"ARunawayWithValues",
     "inputs: {x: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: [{when: x > 0.2, to: b}]}\n  b: {go: "
     "[{when: x < 0.5, to: a}]}\n",
     "6 runaway*\n",
     "inputs: {x: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: [{when: x > 0.2, to: b}]}\n  b: {go: "
     "[{when: x < 0.1, to: a}]}\n"},
    {"ARunawayInEveryRun",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{to: c}]}\n  c: {go: [{to: "
     "b}]}\n",
     "7 runaway!*\n",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{to: c}]}\n  c: {go: "
     "[{after: "
     "1s, to: b}]}\n"},
    {"APressThatIsLost",
     "inputs: {jump: pulse, grounded: true}\nclips: {up: {frames: [0-3], fps: 9}}\ninitial: stand\nstates:\n  stand: "
     "{go: [{pulse: jump, to: air}]}\n  air: {clip: up, go: [{when: grounded, to: stand}]}\n",
     "7 press-lost*\n",
     "inputs: {jump: pulse, grounded: true}\nclips: {up: {frames: [0-3], fps: 9}}\ninitial: stand\nstates:\n  stand: "
     "{go: [{pulse: jump, to: air}]}\n  air: {clip: up, go: [{after: 100ms, when: grounded, to: stand}]}\n"},
    {"APressThatIsLostAfterAWaitInAShortLoop", after_a_wait_in_a_loop("300s", ""), "10 press-lost*\n",
     after_a_wait_in_a_loop("300s", "after: 1s, ")},
    {"APressThatIsLostBesideTwoLoops", beside_two_loops(""), "13 press-lost*\n", beside_two_loops("after: 1s, ")},
    {"APressThatIsLostByTwoInputsTogether",
     "inputs: {v: {float: 1, min: -4, max: 4}, n: {int: 0, min: -3, max: 3}, q: pulse}\ninitial: a\nstates:\n  a: {go: "
     "[{pulse: q, to: b}]}\n  b: {length: 1s, go: [{when: v * 2 + 1 < n, to: a}, {at: end, when: v > 0.5 and n > 0, "
     "to: "
     "a}, {at: end, when: n == 0, to: a}]}\n",
     "6 press-lost*\n",
     "inputs: {v: {float: 1, min: -4, max: 4}, n: {int: 0, min: -3, max: 3}, q: pulse}\ninitial: a\nstates:\n  a: {go: "
     "[{pulse: q, to: b}]}\n  b: {length: 1s, go: [{after: 50ms, when: v * 2 + 1 < n, to: a}, {at: end, when: v > 0.5 "
     "and "
     "n > 0, to: a}, {at: end, when: n == 0, to: a}]}\n"},
    {"TheDeadRevived",
     "inputs: {health: {int: 3, min: 0, max: 3}, hit: pulse}\ninitial: a\ngo: [{when: health <= 0, to: dead}, {pulse: "
     "hit, to: hurt}]\nstates:\n  a: {}\n  hurt: {length: 1s, go: [{at: end, to: a}]}\n  dead: {traits: [dead]}\n",
     "5 revived*\n",
     "inputs: {health: {int: 3, min: 0, max: 3}, hit: pulse}\ninitial: a\ngo: [{when: health <= 0, to: dead}, {pulse: "
     "hit, to: hurt}]\nstates:\n  a: {}\n  hurt: {length: 1s, go: [{at: end, to: a}]}\n  dead: {traits: [dead], "
     "sealed: true}\n"},
    {"ADeathThatIsLeftForAnother",
     "inputs: {hit: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: hit, to: fall}]}\n  fall: {length: 1s, traits: "
     "[dead], go: [{at: end, to: a}]}\n",
     "7 revived*\n",
     "inputs: {hit: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: hit, to: fall}]}\n  fall: {length: 1s, traits: "
     "[dead], go: [{at: end, to: lie}]}\n  lie: {final: true}\n"},
    {"APlayThatStands",
     "inputs: {pace: {float: 1, min: 0, max: 2}, p: pulse}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: a\nstates:\n "
     " "
     "a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, speed: pace, go: [{at: end, to: a}]}\n",
     "8 stands-still*\n",
     "inputs: {pace: {float: 1, min: 0.5, max: 2}, p: pulse}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: "
     "a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, speed: pace, go: [{at: end, to: a}]}\n"},
    {"AStateThatIsLeftAsItIsEntered",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  "
     "b: {clip: w, go: [{to: c}]}\n  c: {go: [{after: 1s, to: a}]}\n",
     "8 never-shown\n",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  "
     "b: {clip: w, go: [{at: end, to: c}]}\n  c: {go: [{after: 1s, to: a}]}\n"},
    {"AStateWhoseRulesLeaveNothing",
     "inputs: {p: pulse, x: 0.5}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    length: 1s\n    go:\n "
     " "
     "    - {when: x > 0, to: c}\n      - {when: x <= 0, to: d}\n  c: {go: [{after: 1s, to: a}]}\n  d: {go: [{after: "
     "1s, to: a}]}\n",
     "10 never-shown\n",
     "inputs: {p: pulse, x: 0.5}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    length: 1s\n    go:\n "
     " "
     "    - {when: x > 0, to: c}\n      - {when: x < 0, to: d}\n  c: {go: [{after: 1s, to: a}]}\n  d: {go: [{after: "
     "1s, "
     "to: a}]}\n"},
    {"AStateThatOnlyChoosesShowsNothing",
     "inputs: {p: pulse, x: false}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, "
     "to: "
     "b}]}\n  b: {pose: {clip: w, frame: 1}, go: [{when: x, to: c}, {to: d}]}\n  c: {go: [{after: 1s, to: a}]}\n  d: "
     "{go: [{after: 1s, "
     "to: a}]}\n",
     "8 never-shown\n",
     "inputs: {p: pulse, x: false}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, "
     "to: "
     "b}]}\n  b: {go: [{when: x, to: c}, {to: d}]}\n  c: {clip: w, go: [{after: 1s, to: a}]}\n  d: {go: [{after: 1s, "
     "to: "
     "a}]}\n"},
    {"ItNamesWhatNeverHasItsTurnThere",
     "inputs: {p: pulse, block: false}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: open\nstates:\n  open: {go: "
     "[{after: "
     "2s, when: not block, to: closing}]}\n  closing:\n    clip: w\n    go:\n      - {when: block, to: open}\n      - "
     "{to: "
     "shut}\n  shut: {go: [{pulse: p, to: open}]}\n",
     "12 never-shown\n",
     "inputs: {p: pulse, block: false}\nclips: {w: {frames: [0-3], fps: 9}}\ninitial: open\nstates:\n  open: {go: "
     "[{after: "
     "2s, when: not block, to: closing}]}\n  closing:\n    clip: w\n    go:\n      - {when: block, to: open}\n      - "
     "{at: "
     "end, to: shut}\n  shut: {go: [{pulse: p, to: open}]}\n"},
    {"APartOfAGuardThatSaysNothing",
     "inputs: {x: {float: 0, min: 0, max: 1}, near: false}\ninitial: a\nstates:\n  a: {go: [{when: near and x < 10, "
     "to: "
     "b}]}\n  b: {go: [{when: not near and (x > 0.5 or not (x <= 8)), to: a}]}\n",
     "6 hardly-meant?\n7 hardly-meant?\n",
     "inputs: {x: {float: 0, min: 0, max: 1}, near: false}\ninitial: a\nstates:\n  a: {go: [{when: near and x < 1, to: "
     "b}]}\n  b: {go: [{when: not near and (x > 0.5 or not (x <= 0.1)), to: a}]}\n"},
    {"APartOfAGuardOnACount",
     "inputs: {p: pulse, near: false}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: near and n < 30, "
     "to: b, do: ['n = min(n + 1, 3)']}]}\n  b: {go: [{after: 1s, when: n == 3, to: a, do: [n = 0]}, {pulse: p, to: "
     "a}]}\n",
     "7 hardly-meant?\n",
     "inputs: {p: pulse, near: false}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: near and n < 3, "
     "to: b, do: ['n = min(n + 1, 3)']}]}\n  b: {go: [{after: 1s, when: n == 3, to: a, do: [n = 0]}, {pulse: p, to: "
     "a}]}\n"},
    {"AVariableThatNeverComesThere",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: n < 3, to: b, do: [n = n + "
     "1]}, {when: n > 3, to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n",
     "4 stays-set?\n7 never-holds\n",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: n < 3, to: b, do: [n = n + "
     "1]}, {when: n > 2, to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a, do: [n = 0]}]}\n"},
    {"WhatIsComputedCannotBe",
     "inputs: {x: {float: 0, min: -1, max: 1}, y: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: [{when: "
     "x "
     "* 2 + y > 4, to: b}]}\n  b: {go: [{when: x < 0, to: a}]}\n",
     "6 never-holds\n",
     "inputs: {x: {float: 0, min: -1, max: 1}, y: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: [{when: "
     "x "
     "* 2 + y > 2.5, to: b}]}\n  b: {go: [{when: x < 0, to: a}]}\n"},
    {"WhatIsDividedCannotBe",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: abs(abs(x) / (x * 3)) < 0 - 0.25, to: b}, {when: x > 3, "
     "to: b}]}\n  b: {go: [{when: x < 0, to: a}]}\n",
     "6 never-holds\n",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: abs(abs(x) / (x * 3)) < 0.25, to: b}, {when: x > 3, to: "
     "b}]}\n  b: {go: [{when: x < 0, to: a}]}\n"},
    {"WhatIsComputedTwiceIsTheSame",
     "inputs: {x: 0.5, y: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x + y * 0.3 > 3, to: b}, {when: \"max(x + y * "
     "0.3, 0) > 3\", to: c}]}\n  b: {go: [{after: 1s, to: a}]}\n  c: {go: [{after: 1s, to: a}]}\n",
     "6 shadowed\n",
     "inputs: {x: 0.5, y: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x + y * 0.3 > 3, to: b}, {when: \"max(x + y * "
     "0.7, 0) > 3\", to: c}]}\n  b: {go: [{after: 1s, to: a}]}\n  c: {go: [{after: 1s, to: a}]}\n"},
    {"WhatIsComputedInTheWrongOrder",
     "inputs: {x: {float: 0, min: -1, max: 1}, y: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: "
     "[{when: x + y > 1, to: b}, {when: x + y > 1.5, to: c}]}\n  b: {go: [{after: 1s, to: a}]}\n  c: {go: [{after: 1s, "
     "to: a}]}\n",
     "6 wrong-order\n",
     "inputs: {x: {float: 0, min: -1, max: 1}, y: {float: 0, min: -1, max: 1}}\ninitial: a\nstates:\n  a: {go: "
     "[{when: x + y > 1.5, to: c}, {when: x + y > 1, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n  c: {go: [{after: 1s, "
     "to: a}]}\n"},
    {"AGrainThatSkipsIt",
     "inputs: {x: {float: 0, min: -1, max: 1, grain: 0.25}}\ninitial: a\nstates:\n  a: {go: [{when: x > 0.3 "
     "and x < 0.45, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n",
     "6 never-holds\n",
     "inputs: {x: {float: 0, min: -1, max: 1, grain: 0.25}}\ninitial: a\nstates:\n  a: {go: [{when: x > 0.3 "
     "and x < 0.55, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n"},
    {"AGrainThatSkipsItAndAStartThatIsWithin",
     "inputs: {x: {float: 0.5, min: 0, max: 1, grain: 0.25}, p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, "
     "when: x > 0.3 and x < 0.45, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n",
     "6 never-holds\n",
     "inputs: {x: {float: 0.4, min: 0, max: 1, grain: 0.25}, p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, "
     "when: x > 0.3 and x < 0.45, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n"},
    {"ACueThatIsToldElsewhere",
     "inputs: {p: pulse}\ncues: {c: sound}\nclips: {w: {frames: [0-3], fps: 9}, u: {frames: [0-3], fps: 9}}\nmarks: "
     "{w: "
     "{cues: {1: c}}}\ninitial: a\nstates:\n  a: {clip: w, go: [{pulse: p, to: b}]}\n  b: {clip: u, go: [{cue: c, to: "
     "a}, {at: end, to: a}]}\n",
     "10 never-holds\n",
     "inputs: {p: pulse}\ncues: {c: sound}\nclips: {w: {frames: [0-3], fps: 9}, u: {frames: [0-3], fps: 9}}\nmarks: "
     "{w: "
     "{cues: {1: c}}}\ninitial: a\nstates:\n  a: {clip: w, go: [{cue: c, to: b}]}\n  b: {clip: u, go: [{pulse: p, to: "
     "a}, {at: end, to: a}]}\n"},
    {"AnOuterRuleThatDecidesOverAVariable",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\ngo: [{when: n >= 2, to: c}]\nstates:\n  a: {go: [{pulse: p, to: b, "
     "do: [n = n + 1]}, {when: n >= 2, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{after: 1s, to: a, do: [n "
     "= "
     "0]}]}\n",
     "8 shadowed\n",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\ngo: [{when: n >= 3, to: c}]\nstates:\n  a: {go: [{pulse: p, to: b, "
     "do: [n = n + 1]}, {after: 1s, when: n >= 2, to: b, do: [n = n + 1]}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: "
     "[{after: 1s, "
     "to: a, do: [n = 0]}]}\n"},
    {"AnAfterThatItsEndComesBefore",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  "
     "b: {clip: w, go: [{at: end, to: a}, {after: 2s, to: c}]}\n  c: {go: [{pulse: p, to: a}]}\n",
     "8 shadowed\n",
     "inputs: {p: pulse, x: false}\nclips: {w: {frames: [0-3], fps: 8}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, "
     "to: b}]}\n  b: {clip: w, go: [{at: end, to: a}, {after: 200ms, when: x, to: c}]}\n  c: {go: [{pulse: p, to: "
     "a}]}\n"},
    {"AnAfterThatARuleThatIsSealedBesideItComesBefore",
     "inputs: {p: pulse, q: pulse}\ninitial: out\nstates:\n  out: {go: [{pulse: p, to: fight}]}\n  fight:\n    "
     "regions:\n      i0:\n        initial: a\n        states:\n          a: {go: [{after: 2ms, to: out}, {after: "
     "10ms, to: b}, {pulse: p, to: b}]}\n          b: {go: [{pulse: p, to: a}, {after: 1s, to: out}]}\n      i1:\n     "
     "   initial: c\n        states:\n          c: {go: [{pulse: q, to: d}]}\n          d: {go: [{pulse: q, to: c}]}\n",
     "12 shadowed\n",
     "inputs: {p: pulse, q: pulse}\ninitial: out\nstates:\n  out: {go: [{pulse: p, to: fight}]}\n  fight:\n    "
     "regions:\n      i0:\n        initial: a\n        states:\n          a: {go: [{after: 2ms, to: out}, {after: "
     "10ms, to: b}, {pulse: p, to: b}]}\n          b: {go: [{pulse: p, to: a}, {after: 1s, to: out}]}\n      i1:\n     "
     "   initial: c\n        states:\n          c: {go: [{pulse: q, to: d}]}\n          d: {sealed: true, go: [{pulse: "
     "q, to: c}]}\n"},
    {"ARingOfShortTimes",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{after: 30ms, to: c}]}\n  c: "
     "{go: [{after: 40ms, to: b}]}\n",
     "7 flicker?\n",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{after: 30ms, to: c}]}\n  c: "
     "{go: [{after: 80ms, to: b}]}\n"},
    {"ALookThatOneAboveCovers",
     "inputs: {h: {int: 3, min: 0, max: 9}}\nlooks:\n  hurt: {when: h < 4, art: {}}\n  faint: {when: h < 2, art: "
     "{}}\nstates:\n  a: {}\n",
     "6 wrong-order\n",
     "inputs: {h: {int: 3, min: 0, max: 9}}\nlooks:\n  faint: {when: h < 2, art: {}}\n  hurt: {when: h < 4, art: "
     "{}}\nstates:\n  a: {}\n"},
    {"MeantSo",
     "inputs: {jump: pulse, grounded: true}\nclips: {up: {frames: [0-3], fps: 9}}\ninitial: stand\nstates:\n  stand: "
     "{go: [{pulse: jump, to: air, accept: [press-lost]}]}\n  air: {clip: up, go: [{when: grounded, to: stand}]}\n",
     "",
     "accept: [press-lost]\ninputs: {jump: pulse, grounded: true}\nclips: {up: {frames: [0-3], fps: 9}}\ninitial: "
     "stand\nstates:\n  stand: {go: [{pulse: jump, to: air}]}\n  air: {clip: up, go: [{when: grounded, to: stand}]}\n"},
    {"AcceptedForNothing",
     "inputs: {jump: pulse}\ninitial: stand\nstates:\n  stand: {go: [{pulse: jump, to: air, accept: [press-lost]}]}\n  "
     "air: {go: [{pulse: jump, to: stand}]}\n",
     "6 idle-accept\n", ""},
    {"ARunawayOfManyWrites",
     kMany + "  a: {go: [{when: f1 > 0.5 and f2 > 0.5 and b, to: b}]}\n"
             "  b: {go: [{when: f3 > 0.5 and mode == wild and hp < 3, to: a}, {pulse: p, to: c}]}\n"
             "  c: {go: [{after: 1s, to: a}]}\n",
     "6 runaway*\n",
     kMany + "  a: {go: [{when: f1 > 0.5 and f2 > 0.5 and b, to: b}]}\n"
             "  b: {go: [{when: f3 > 0.5 and mode == wild and hp < 3 and not b, to: a}, {pulse: p, to: c}]}\n"
             "  c: {go: [{after: 1s, to: a}]}\n"},
    {"APressThatDoesSomethingWhereItStays",
     "inputs: {fast: false, hit: pulse}\ninitial: s\nstates:\n  s:\n    initial: a\n    go: [{pulse: hit, to: a, "
     "restart: "
     "true}]\n    states: {a: {go: [{when: fast, to: b}]}, b: {go: [{when: not fast, to: a}]}}\n",
     "8 press-lost*\n",
     "inputs: {fast: false, hit: pulse}\nvars: {air: 9}\ninitial: s\nstates:\n  s:\n    initial: a\n    go: [{pulse: "
     "hit, do: ['air = max(air - 1, 0)'], to: a, restart: true}, {when: air < 1, to: out}]\n    states: {a: {go: "
     "[{when: "
     "fast, to: b}]}, b: {go: [{when: not fast, to: a}]}}\n  out: {final: true}\n"},
    {"APressThatIsLostByManyWrites",
     kMany +
         "  a: {go: [{pulse: p, when: hp > 1, to: b}]}\n"
         "  b: {go: [{when: f1 > 0.5 and f2 > 0.5 and f3 < -0.5 and b and mode == lost, to: a}, {after: 1s, to: a}]}\n",
     "6 press-lost*\n",
     kMany + "  a: {go: [{pulse: p, when: mode != lost and hp > 1, to: b}]}\n"
             "  b: {go: [{when: f1 > 0.5 and f2 > 0.5 and f3 < -0.5 and b and mode == lost, to: a}, {after: 1s, to: "
             "a}]}\n"},
};

class RunRows : public testing::TestWithParam<MistakeRow> {};
TEST_P(RunRows, TellTheMistakeAndNotTheNearMiss) { tells_the_mistake_and_not_the_near_miss(GetParam(), runs_of); }
INSTANTIATE_TEST_SUITE_P(All, RunRows, testing::ValuesIn(kRuns), name_of_row);

// Longer than a settling: every rule of it would begin another.
TEST(RunFindings, TellALongRingOnce) {
  std::string text = "inputs: {near: false}\ninitial: s0\nstates:\n";
  for (int i = 0; i < 90; ++i)
    text += "  s" + std::to_string(i) + ": {go: [{when: near, to: s" + std::to_string((i + 1) % 90) + "}]}\n";
  EXPECT_EQ(runs_of(text), "6 runaway*\n");
  const Loaded loaded = loaded_from(text);
  const std::string message = logic_and_runs(*loaded.definition, *loaded.machine).findings[0].finding.message;
  EXPECT_TRUE(message.ends_with(", s7 -> s8 (line 13), and so on")) << message;
}

TEST(RunFindings, NameTheRuleOfARingThatWaitsForNothing) {
  const std::string jab =
      "inputs: {near: false}\nclips: {jab: {frames: 0-5, fps: 12}}\ninitial: idle\nstates:\n  idle: {go: [{when: near, "
      "to: jab}]}\n  jab: {clip: jab, go: [{";
  const auto remedy = [](const Loaded& loaded) {
    const auto all = logic_and_runs(*loaded.definition, *loaded.machine).findings;
    return all.empty() ? "" : all[0].finding.remedy;
  };
  EXPECT_EQ(remedy(loaded_from(jab + "to: idle}]}\n")),
            "Let the rule in line 8 wait (`at: end`, `after:`), or guard it.");
  EXPECT_EQ(remedy(loaded_from(jab + "when: near, to: idle}]}\n")), "Let the guards of the ring exclude each other.");
  EXPECT_EQ(remedy(loaded_from(jab + "at: end, to: idle}]}\n")), "");
}

TEST(RunFindings, TellARuleThatRestartsItselfAsARingOfOne) {
  // What it counts begins anew with it; and what waits below it is not told by itself.
  const std::string own =
      "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    vars: {n: 0}\n    go:\n"
      "      - {when: n < 5, do: [n = n + 1], to: b, restart: true}\n      - {after: 1s, to: a}\n";
  EXPECT_EQ(runs_of(own), "10 runaway*\n");
  const Loaded loaded = loaded_from(own);
  const Finding told = logic_and_runs(*loaded.definition, *loaded.machine).findings[0].finding;
  EXPECT_EQ(told.message, "it never comes to rest: b -> b (line 10), and so on");
  EXPECT_EQ(told.remedy, "Let it wait, such as by `at: end` or `after:`.");
}

TEST(RunFindings, TellOnceOfARuleThatHidesSeveral) {
  const std::string text =
      "inputs: {near: false, x: 0.5}\ninitial: a\nstates:\n  a:\n    go:\n      - to: b\n"
      "      - {when: near, to: c}\n      - {when: x > 1, to: c}\n      - {when: x < 0, to: b}\n"
      "  b: {go: [{after: 1s, to: a}]}\n  c: {go: [{after: 1s, to: a}]}\n";
  EXPECT_EQ(runs_of(text), "9 wrong-order\n");
  const auto first = [](const std::string& of) {
    const Loaded loaded = loaded_from(of);
    return logic_and_runs(*loaded.definition, *loaded.machine).findings.at(0).finding;
  };
  EXPECT_EQ(first(text).message,
            "the rule in line 8 decides whenever this one holds, and in more cases; likewise before those in lines 10 "
            "and 11");
  EXPECT_EQ(first(text).remedy, "Put it below them, so that each has its turn.");
  // One that is meant so is none of them.
  std::string meant = text;
  meant.replace(meant.find("x > 1, to: c"), 12, "x > 1, to: c, accept: [wrong-order]");
  EXPECT_EQ(runs_of(meant), "9 wrong-order\n");
  EXPECT_TRUE(first(meant).message.ends_with("; likewise before what is in line 11")) << first(meant).message;
}

TEST(RunFindings, NameTheRingAndTheValues) {
  const Loaded loaded = loaded_from(kRuns[0].text);
  const auto all = logic_and_runs(*loaded.definition, *loaded.machine).findings;
  ASSERT_EQ(all.size(), 1u);
  EXPECT_EQ(all[0].finding.message.substr(0, 32), "it never comes to rest with x 0.");
  EXPECT_NE(all[0].finding.message.find(": a -> b (line 6), b -> a (line 7), and so on"), std::string::npos)
      << all[0].finding.message;
  // The tape does what is said.
  Instance instance(*loaded.machine);
  RunOptions options;
  options.until = all[0].tape->until;
  int faults = 0;
  run_tape(instance, *all[0].tape, options, [&](const Cue& cue) { faults += cue.what == Told::fault ? 1 : 0; });
  EXPECT_EQ(faults, 1);
}

// What a run would show is undecided only where the model knows of a way, and the runs that are tried do not end.
struct OpenRow {
  const char* name;
  std::string text;
  std::string undecided;
};
class OpenRuns : public testing::TestWithParam<OpenRow> {};
TEST_P(OpenRuns, AreThoseThatMayBe) {
  const Loaded loaded = loaded_from(GetParam().text);
  ASSERT_TRUE(loaded.machine);
  ProofLimits few;
  few.moments = few.moves = 5;
  std::string out;
  for (const FindingCode each : logic_and_runs(*loaded.definition, *loaded.machine, few).undecided)
    out += std::string(text_of(each)) + " ";
  EXPECT_EQ(out, GetParam().undecided);
}
// What lies further than it is waited for.
TEST(LongWaits, AreUndecidedBeyondWhatIsWaitedFor) {
  const Loaded loaded = loaded_from(after_a_wait_in_a_loop("36000s", ""));
  ASSERT_TRUE(loaded.machine);
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine);
  EXPECT_TRUE(report.findings.empty());
  EXPECT_EQ(report.undecided, std::vector{FindingCode::press_lost});
}

const std::string kMoves =
    "inputs: {x: 0.5, y: 0.5, p: pulse, q: {pulse: 100ms}, still: false, life: {int: 3, min: 0, max: 3}}\n"
    "clips: {w: {frames: [0-3], fps: 9}}\ninitial: a\n";
// Regions that hang on each other, more than are looked at together. `rule`: of `a`, in all of them.
std::string many_regions(const std::string& rule = "") {
  std::string out =
      "inputs: {still: false, x: 0.5, y: 0.5}\ncues: {rung: {kind: state}}\nclips: {w: {frames: [0-3], fps: "
      "9}}\nregions:\n";
  for (int i = 0; i < 14; ++i) {
    const std::string n = std::to_string(i), other = std::to_string((i + 1) % 14);
    out += "  r" + n + ":\n    initial: a\n    states:\n      a: {go: [" + rule + "{after: 1s, when: in(r" + other +
           "/a), to: b}]}\n      b: {clip: w, speed: \"select(still and x + y > 4, 0, 1)\", go: [{at: end, to: a}]}\n";
  }
  return out;
}
const OpenRow kOpen[] = {
    {"NoPressAndNoDeadWhereThereAreNone", many_regions(), "unreachable never-holds shadowed never-shown stands-still "},
    {"AlsoRestWhereRegionsHearEachOther", many_regions("{cue: rung, do: {tell: rung}, to: b}, "),
     "unreachable never-holds shadowed never-shown runaway stands-still "},
    {"NoneOfAPlainOne",
     kMoves + "states:\n  a: {go: [{pulse: p, to: b}, {when: x > 1, to: c}]}\n  b: {clip: w, go: [{at: end, to: a}, "
              "{pulse: q, to: c}]}\n  c: {go: [{after: 1s, to: a}]}\n",
     ""},
    {"ARunawayWhereGuardsMayBothBeTrue",
     kMoves + "states:\n  a: {go: [{when: x + y > 4, to: b}]}\n  b: {go: [{when: x - y < 3, to: a}]}\n", "runaway "},
    {"APressWhereARuleLeadsBack",
     kMoves + "states:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, go: [{when: x + y > 4, to: a}, {at: end, to: "
              "a}]}\n",
     "press-lost "},
    {"NoPressWhereItGoesOn",
     kMoves + "states:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, go: [{when: x + y > 4, to: c}, {at: end, to: "
              "a}]}\n  c: {clip: w, go: [{at: end, to: a}]}\n",
     ""},
    {"NoPressWhereAnotherRegionGoesOn",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 9}}\nregions:\n  body:\n    initial: a\n    states:\n      "
     "a: "
     "{go: [{pulse: p, to: b}]}\n      b: {clip: w, go: [{at: end, to: a}]}\n  face:\n    initial: c\n    states:\n    "
     " "
     " c: {go: [{when: in(body/b), to: d}]}\n      d: {go: [{when: in(body/a), to: c}]}\n",
     ""},
    {"TheDeadWhereARuleLeadsOut",
     kMoves + "go: [{when: life <= 0, to: d}]\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, go: [{at: end, "
              "to: a}]}\n  d: {traits: [dead], go: [{when: x + y > 4, to: a}]}\n",
     "runaway revived "},
    {"NoDeadWhereOnlyDeathLeadsOut",
     kMoves + "go: [{when: life <= 0, to: d}]\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, go: [{at: end, "
              "to: a}]}\n  d: {traits: [dead], length: 1s, go: [{at: end, to: lie}]}\n  lie: {traits: [dead]}\n",
     ""},
    {"APlayWhoseSpeedMayBeZero",
     kMoves + "states:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, speed: \"select(still and x + y > 4, 0, 1)\", "
              "go: [{at: end, to: a}]}\n",
     "stands-still "},
    {"NoPlayWhoseSpeedIsAboveZero",
     kMoves + "states:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: w, speed: \"select(still, 0.5, 1)\", go: [{at: "
              "end, to: a}]}\n",
     ""},
};
INSTANTIATE_TEST_SUITE_P(All, OpenRuns, testing::ValuesIn(kOpen), [](const auto& row) { return row.param.name; });

TEST(Covers, KeepWhatIsAssumed) {
  const std::string machine =
      "inputs: {health: {int: 3, min: 0, max: 3}}\ninitial: fly\nstates:\n  fly: {go: [{when: health <= 0, to: lie}]}\n"
      "  lie: {traits: [dead], go: [{when: health > 0, to: fly}]}\n";
  const Loaded free = loaded_from(machine), held = loaded_from(machine + "assume: [health <= 0 or not is(dead)]\n");
  EXPECT_TRUE(cover(*free.definition, *free.machine).left.empty());
  const Cover covered = cover(*held.definition, *held.machine);
  ASSERT_EQ(covered.left.size(), 1u);
  EXPECT_TRUE(covered.left[0].never);
  for (const Tape& tape : covered.tapes)
    EXPECT_TRUE(broken_assumptions(*held.definition, *held.machine, tape).empty()) << tape_text(tape);
  EXPECT_EQ(runs_of(machine), "7 revived*\n");
  EXPECT_EQ(runs_of(machine + "assume: [health <= 0 or not is(dead)]\n"), "");
}

}  // namespace
}  // namespace mobrin::test
