// Stepping: what happens at which instant, in which order. Each row is a machine, what is written, and the whole log.
#include "support.hpp"

namespace mobrin::test {
namespace {

class Steps : public testing::TestWithParam<Row> {};

TEST_P(Steps, TellsExactlyThis) { expect_log(GetParam()); }

const Row kSwitching[] = {
    {"StartsInTheNamedDefaultState", "initial: b\nstates: {a: {}, b: {}}", "", 100, "0 enter b\n"},
    {"InputsWrittenBeforeTheFirstStepCount",
     "inputs: {x: 0}\ninitial: a\nstates: {a: {go: [{when: x > 0, to: b}]}, b: {}}", "  - {at: 0s, set: {x: 1}}", 10,
     "0 enter a\n0 leave a\n0 enter b\n"},
    {"AskingForWhatPlaysChangesNothing",
     "inputs: {p: {pulse: 500ms}}\nclips: {c: {frames: [0-1], fps: 10, play: loop}}\ninitial: a\ngo: [{pulse: p, to: "
     "a}]\nstates: {a: {clip: c, go: [{pulse: p, when: in(a), to: b}]}, b: {}}",
     "  - {at: 50ms, pulse: p}", 120, "0 enter a\n50 leave a\n50 enter b\n"},
    {"WhenAloneDoesNotRestartWhatPlays",
     "inputs: {x: true}\nclips: {c: {frames: [0-1], fps: 10}}\ninitial: a\ngo: [{when: x, to: a}]\nstates: {a: {clip: "
     "c, go: [{at: end, to: b}]}, b: {}}",
     "  - {at: 50ms, set: {x: false}}\n  - {at: 60ms, set: {x: true}}", 300,
     "0 enter a\n200 leave a\n200 enter b\n200 leave b\n200 enter a\n"},
    {"RestartBeginsAnew",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-1], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {0: k}}}\ninitial: "
     "a\nstates: {a: {clip: c, go: [{pulse: p, to: a, restart: true}, {at: end, to: b}]}, b: {}}",
     "  - {at: 150ms, pulse: p}", 400,
     "0 enter a\n0 k c:0\n150 leave a\n150 enter a\n150 k c:0\n350 leave a\n350 enter b\n"},
    {"TwoOppositeKeysStandBeforeEither",
     "inputs: {left: false, right: false}\ninitial: stand\ngo:\n  - {when: left and right, to: stand}\n  - {when: "
     "left, to: go_left}\n  - {when: right, to: go_right}\n  - {when: not left and not right, to: stand}\nstates: "
     "{stand: {}, go_left: {}, go_right: {}}",
     "  - {at: 10ms, set: {left: true}}\n  - {at: 20ms, set: {right: true}}\n  - {at: 30ms, set: {left: false}}", 40,
     "0 enter stand\n10 leave stand\n10 enter go_left\n20 leave go_left\n20 enter stand\n30 leave stand\n30 enter "
     "go_right\n"},
    {"WhatStandsPassesTheRestOver",
     "inputs: {dead: false, p: {pulse: 1s}}\ninitial: a\ngo: [{when: dead, to: lie}, {pulse: p, to: hurt}]\nstates: "
     "{a: {}, lie: {}, hurt: {go: [{after: 10ms, to: a}]}}",
     "  - {at: 10ms, set: {dead: true}}\n  - {at: 20ms, pulse: p}", 100, "0 enter a\n10 leave a\n10 enter lie\n"},
    {"APulseForWhatIsThereLetsTheSearchGoOn",
     "inputs: {p: pulse}\ninitial: a\ngo: [{pulse: p, to: a}, {pulse: p, to: b}]\nstates: {a: {}, b: {}}",
     "  - {at: 10ms, pulse: p}", 20, "0 enter a\n10 leave a\n10 enter b\n"},
    {"AtEndStandsToo",
     "clips: {c: {frames: [0], fps: 10}}\ninitial: a\ngo: [{at: end, to: a}, {after: 200ms, to: b}]\nstates: {a: "
     "{clip: c}, b: {}}",
     "", 300, "0 enter a\n"},
    {"AfterCountsTimeInTheState",
     "inputs: {p: pulse}\ninitial: a\nstates: {a: {go: [{after: 100ms, to: b}]}, b: {go: [{pulse: p, to: a}, {after: "
     "250ms, to: a}]}}",
     "  - {at: 150ms, pulse: p}", 600,
     "0 enter a\n100 leave a\n100 enter b\n150 leave b\n150 enter a\n250 leave a\n250 enter b\n500 leave b\n500 enter "
     "a\n600 leave a\n600 enter b\n"},
    {"AfterStaysTrueUntilItsGuardHolds",
     "inputs: {x: 0}\ninitial: a\nstates: {a: {go: [{after: 100ms, when: x > 0, to: b}]}, b: {}}",
     "  - {at: 333ms, set: {x: 1}}", 400, "0 enter a\n333 leave a\n333 enter b\n"},
    {"APulseLivesAsLongAsItsBuffer",
     "inputs: {p: {pulse: 100ms}, x: false}\ninitial: a\nstates: {a: {go: [{pulse: p, when: x, to: b}]}, b: {go: "
     "[{after: 10ms, to: a}]}}",
     "  - {at: 10ms, pulse: p}\n  - {at: 110ms, set: {x: true}}\n  - {at: 200ms, set: {x: false}, pulse: p}\n  - {at: "
     "300.001ms, set: {x: true}}",
     400, "0 enter a\n110 leave a\n110 enter b\n120 leave b\n120 enter a\n"},
    {"APulseIsConsumedByWhoTakesIt",
     "inputs: {p: {pulse: 1s}}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, b: {go: [{pulse: p, to: c}]}, c: "
     "{}}",
     "  - {at: 10ms, pulse: p}", 100, "0 enter a\n10 leave a\n10 enter b\n"},
    {"WrittenAgainAPulseLivesOn",
     "inputs: {p: {pulse: 100ms}, x: false}\ninitial: a\nstates: {a: {go: [{pulse: p, when: x, to: b}]}, b: {}}",
     "  - {at: 0s, pulse: p}\n  - {at: 90ms, pulse: p}\n  - {at: 190ms, set: {x: true}}", 200,
     "0 enter a\n190 leave a\n190 enter b\n"},
    {"TheDeadAreNotHurt",
     "inputs: {health: 3, p: pulse}\nclips: {fall: {frames: [0-1], fps: 10}}\ninitial: a\ngo: [{when: health <= 0, to: "
     "faint}, {pulse: p, to: hurt}]\nstates: {a: {}, hurt: {}, faint: {clip: fall, final: true, linger: 300ms}}",
     "  - {at: 10ms, set: {health: 0}}\n  - {at: 50ms, pulse: p}\n  - {at: 100ms, set: {health: 3}}\n  - {at: 900ms, "
     "pulse: p}",
     1000, "0 enter a\n10 leave a\n10 enter faint\n510 done faint\n"},
    {"LingerCountsFromEntryWhereThePlayNeverEnds",
     "clips: {c: {frames: [0-1], fps: 10, play: loop}}\nstates: {a: {clip: c, final: true, linger: 250ms}}", "", 1000,
     "0 enter a\n200 loop a\n250 done a\n"},
    {"AFinalStateWithNothingIsDoneAtOnce", "states: {a: {final: true}}", "", 100, "0 enter a\n0 done a\n"},
};

const Row kPlaying[] = {
    {"CuesLieOnTheirFrames",
     "clips: {c: {frames: [0-3], fps: 10, play: loop}}\ncues: {k: {}, e: {}, t: {}}\nmarks: {c: {cues: {0: k, 2: [k, "
     "e], 150ms: t, 3.end: e, 1.end: e}}}\nstates: {a: {clip: c}}",
     "", 450, "0 enter a\n0 k c:0\n150 t c:1\n200 e c:1\n200 k c:2\n200 e c:2\n400 e c:3\n400 loop a\n400 k c:0\n"},
    {"TheLastFramesEndFiresWhenTheClipEnds",
     "clips: {c: {frames: [0-1], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {1.end: k}}}\ninitial: a\nstates: {a: "
     "{clip: c, go: [{at: end, to: b}]}, b: {}}",
     "", 300, "0 enter a\n200 k c:1\n200 leave a\n200 enter b\n"},
    {"LeavingEarlyFiresNoFrameEnd",
     "clips: {c: {frames: [0-1], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {0.end: k}}}\ninitial: a\nstates: {a: "
     "{clip: c, go: [{after: 50ms, to: b}]}, b: {}}",
     "", 300, "0 enter a\n50 leave a\n50 enter b\n"},
    {"BackwardsFramesShowInReverse",
     "inputs: {v: -1.0}\nclips: {c: {frames: [0-2], fps: 10}}\ncues: {k: {}, e: {}, t: {}}\nmarks: {c: {cues: {0: k, "
     "1: k, 2: k, 1.end: e, 0.end: e, 50ms: t, 300ms: t, 0ms: t}}}\nstates: {a: {clip: c, speed: v}}",
     "", 400, "0 enter a\n0 k c:2\n0 t c:2\n100 k c:1\n200 e c:1\n200 k c:0\n250 t c:0\n300 e c:0\n300 t c:0\n"},
    {"MarksMayFireOneWayOnly",
     "inputs: {v: 1.0}\nclips: {c: {frames: [0-2], fps: 10, play: back-and-forth}}\ncues: {f: {}, b: {}}\nmarks: {c: "
     "{cues: {1: [{f: {way: forward}}, {b: {way: backward}}]}}}\nstates: {a: {clip: c}}",
     "", 500, "0 enter a\n100 f c:1\n300 b c:1\n400 loop a\n500 f c:1\n"},
    {"BackAndForthPassesTimesAgainMirrored",
     "clips: {c: {frames: [0-3], fps: 10, play: back-and-forth}}\ncues: {t: {}}\nmarks: {c: {cues: {250ms: t, 50ms: "
     "t}}}\nstates: {a: {clip: c}}",
     "", 700, "0 enter a\n50 t c:0\n250 t c:2\n450 t c:2\n600 loop a\n650 t c:0\n"},
    {"SlowTheClipAndTheEventMovesWithIt",
     "inputs: {v: 1.0}\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {2: k}}}\nstates: {a: "
     "{clip: c, speed: v}}",
     "  - {at: 100ms, set: {v: 0.25}}", 600, "0 enter a\n500 k c:2\n"},
    {"AStandingClipFiresNothing",
     "inputs: {v: 1.0}\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {c: {cues: {2: k}}}\nstates: {a: "
     "{clip: c, speed: v}}",
     "  - {at: 100ms, set: {v: 0.0}}\n  - {at: 900ms, set: {v: 1.0}}", 1050, "0 enter a\n1000 k c:2\n"},
    {"TurningOnABorderFiresNothingTwice",
     "inputs: {v: 1.0}\nclips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}, l: {}}\nmarks: {c: {cues: {1: k, 2: "
     "l}}}\nstates: {a: {clip: c, speed: v}}",
     "  - {at: 200ms, set: {v: -1.0}}\n  - {at: 350ms, set: {v: 1.0}}", 500,
     "0 enter a\n100 k c:1\n200 l c:2\n400 k c:1\n500 l c:2\n"},
    {"OneClipBothWaysOpensAndClosesALid",
     "inputs: {dir: 0.0}\nclips: {lid: {frames: [0-3], fps: 10}}\ncues: {open: {}, shut: {}}\nmarks: {lid: {cues: "
     "{3.end: {open: {way: forward}}, 0.end: {shut: {way: backward}}}}}\nstates: {a: {clip: lid, speed: dir}}",
     "  - {at: 100ms, set: {dir: 1.0}}\n  - {at: 300ms, set: {dir: -1.0}}\n  - {at: 600ms, set: {dir: 1.0}}\n  - {at: "
     "1200ms, set: {dir: -1.0}}",
     1700, "0 enter a\n500 shut lid:0\n1000 open lid:3\n1600 shut lid:0\n"},
    {"SameGoesBackFromWhereItIs",
     "inputs: {shut: false}\nclips: {lid: {frames: [0-3], fps: 10}}\ncues: {k: {}}\nmarks: {lid: {cues: {0: k, 1: k, "
     "2: k, 3: k}}}\ninitial: opening\nstates:\n  opening: {clip: lid, go: [{when: shut, to: closing, start: same}]}\n "
     " closing: {clip: lid, speed: -1, go: [{at: end, to: still}]}\n  still: {}",
     "  - {at: 250ms, set: {shut: true}}", 700,
     "0 enter opening\n0 k lid:0\n100 k lid:1\n200 k lid:2\n250 leave opening\n250 enter closing\n300 k lid:1\n400 k "
     "lid:0\n500 leave closing\n500 enter still\n"},
    {"SameKeepsTheRelativePosition",
     "inputs: {fast: false}\nclips: {w: {frames: [0-3], fps: 4, play: loop}, r: {frames: [0-3], fps: 8, play: "
     "loop}}\ncues: {k: {}}\nmarks: {r: {cues: {0: k, 1: k, 2: k, 3: k}}}\ninitial: a\nstates: {a: {clip: w, go: "
     "[{when: fast, to: b, start: same}]}, b: {clip: r}}",
     "  - {at: 300ms, set: {fast: true}}", 600, "0 enter a\n300 leave a\n300 enter b\n400 k r:2\n525 k r:3\n"},
    {"AFramesStartFiresItsCues",
     "clips: {c: {frames: [0-3], fps: 10}}\ncues: {k: {}, t: {}}\nmarks: {c: {cues: {2: k, 0: k, 200ms: t}}}\ninitial: "
     "a\nstates: {a: {go: [{after: 50ms, to: b, start: 2}]}, b: {clip: c, go: [{at: end, to: e}]}, e: {}}",
     "", 500, "0 enter a\n50 leave a\n50 enter b\n50 k c:2\n50 t c:2\n250 leave b\n250 enter e\n"},
    {"ClockPutsAllInStep",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\ncues: {k: {}}\nmarks: {c: {cues: {0: k, 1: "
     "k}}}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b, start: clock}]}, b: {clip: c}}",
     "  - {at: 550ms, pulse: p}", 950, "0 enter a\n550 leave a\n550 enter b\n800 loop b\n800 k c:0\n900 k c:1\n"},
    {"SpansBeginAndEndAlsoWhenLeftEarly",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\ncues: {s: {}}\nmarks: {c: {spans: {s: "
     "1-2}}}\ninitial: a\nstates: {a: {clip: c, go: [{pulse: p, to: b}]}, b: {}}",
     "  - {at: 650ms, pulse: p}", 700,
     "0 enter a\n100 s> c:1\n300 <s c:2\n400 loop a\n500 s> c:1\n650 <s c:2\n650 leave a\n650 enter b\n"},
    {"ASpanOverTheSeamIsOne",
     "clips: {c: {frames: [0-3], fps: 10, play: loop}}\ncues: {s: {}}\nmarks: {c: {spans: {s: 0-3}}}\nstates: {a: "
     "{clip: c, go: [{after: 900ms, to: b}]}, b: {}}\ninitial: a",
     "", 1000, "0 enter a\n0 s> c:0\n400 loop a\n800 loop a\n900 <s c:1\n900 leave a\n900 enter b\n"},
    {"DuringOpensOnlyItsFrames",
     "inputs: {p: {pulse: 500ms}}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\nstates: {a: {clip: c, go: "
     "[{pulse: p, during: 2-3, to: b}]}, b: {}}\ninitial: a",
     "  - {at: 50ms, pulse: p}", 300, "0 enter a\n200 leave a\n200 enter b\n"},
    {"DuringANamedWindowInTime",
     "inputs: {x: true}\nclips: {c: {frames: [0-3], fps: 10, play: once}}\nmarks: {c: {windows: {w: "
     "0.25s-0.3s}}}\nstates: {a: {clip: c, go: [{when: x, during: w, to: b}]}, b: {}}\ninitial: a",
     "", 300, "0 enter a\n250 leave a\n250 enter b\n"},
    {"ALoopRunsItsActionsAfterFrameZero",
     "clips: {c: {frames: [0-1], fps: 10, play: loop}}\ncues: {k: {}, n: {}}\nmarks: {c: {cues: {0: k}}}\nstates: {a: "
     "{clip: c, vars: {count: 0}, each_loop: [count = count + 1, tell: n], go: [{at: loop, when: count >= 2, to: b}]}, "
     "b: {}}\ninitial: a",
     "", 500,
     "0 enter a\n0 k c:0\n200 loop a\n200 k c:0\n200 n\n400 loop a\n400 k c:0\n400 n\n400 leave a\n400 enter b\n"},
    {"ALengthWithoutArtEnds", "initial: a\nstates: {a: {length: 123ms, go: [{at: end, to: b}]}, b: {}}", "", 200,
     "0 enter a\n123 leave a\n123 enter b\n"},
    {"APoseAndNothingNeverEnd",
     "clips: {c: {frames: [0-1], fps: 10}}\ninitial: a\ngo: [{at: end, to: b}]\nstates: {a: {pose: {clip: c, frame: "
     "1}}, b: {}}",
     "", 1000, "0 enter a\n"},
    {"ClipsWithoutFramesHaveTimesOnly",
     "clips: {c: {length: 1s, play: back-and-forth}}\ncues: {k: {}}\nmarks: {c: {cues: {250ms: k, 0s: k, 1s: "
     "k}}}\nstates: {a: {clip: c}}",
     "", 2000, "0 enter a\n0 k c\n250 k c\n1000 k c\n1750 k c\n2000 loop a\n2000 k c\n"},
    {"TheSmokerSlowsDownUntilItIsOut",
     "inputs: {lit: pulse}\nclips: {b: {frames: [0-3], fps: 4, play: loop}}\ncues: {puff: {}}\nmarks: {b: {cues: {2: "
     "puff}}}\ninitial: out\nstates:\n  out: {go: [{pulse: lit, to: burning}]}\n  burning: {clip: b, vars: {pace: "
     "1.0}, speed: pace, each_loop: [pace = pace - 0.5], go: [{at: loop, when: pace <= 0, to: out}]}",
     "  - {at: 0s, pulse: lit}", 4000,
     "0 enter out\n0 leave out\n0 enter burning\n500 puff b:2\n1000 loop burning\n2000 puff b:2\n3000 loop "
     "burning\n3000 leave burning\n3000 enter out\n"},
    {"CuesDriveTransitions",
     "clips: {c: {frames: [0-3], fps: 10}}\ncues: {hit: {}}\nmarks: {c: {cues: {2: hit}}}\ninitial: a\nstates: {a: "
     "{clip: c, go: [{cue: hit, to: b}]}, b: {enter: {tell: hit}, go: [{cue: hit, to: d}]}, d: {}}",
     "", 500, "0 enter a\n200 hit c:2\n200 leave a\n200 enter b\n200 hit\n200 leave b\n200 enter d\n"},
};

const Row kNested[] = {
    {"DeathBeatsAllAndSealedHolds",
     "inputs: {dead: false, hurt: pulse}\ninitial: alive\ngo: [{when: dead, to: faint}, {pulse: hurt, to: "
     "alive/ouch}]\nstates:\n  alive: {initial: walk, states: {walk: {go: [{when: dead, to: ouch}]}, ouch: {}}}\n  "
     "faint: {sealed: true, initial: sag, states: {sag: {go: [{after: 50ms, to: lie}]}, lie: {final: true, linger: "
     "100ms}}}",
     "  - {at: 10ms, set: {dead: true}}\n  - {at: 20ms, pulse: hurt}\n  - {at: 70ms, pulse: hurt}", 300,
     "0 enter alive\n0 enter alive/walk\n10 leave alive/walk\n10 leave alive\n10 enter faint\n10 enter faint/sag\n60 "
     "leave faint/sag\n60 enter faint/lie\n160 done faint/lie\n"},
    {"TheLeastChange",
     "inputs: {p: pulse, q: pulse}\ninitial: a\nstates:\n  a:\n    initial: x\n    go: [{pulse: p, to: y}, {pulse: q, "
     "to: a, restart: true}]\n    states: {x: {}, y: {initial: i, states: {i: {}, j: {}}}}\n",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: q}", 30,
     "0 enter a\n0 enter a/x\n10 leave a/x\n10 enter a/y\n10 enter a/y/i\n20 leave a/y/i\n20 leave a/y\n20 leave a\n20 "
     "enter a\n20 enter a/x\n"},
    {"RegionsStepTogetherAndSpeakThroughStates",
     "inputs: {p: pulse}\nregions:\n  body: {initial: stand, states: {stand: {go: [{pulse: p, to: run}]}, run: {}}}\n  "
     "wings: {initial: still, states: {still: {go: [{when: in(body/run), to: buzz}]}, buzz: {}}}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter body/stand\n0 enter wings/still\n10 leave body/stand\n10 enter body/run\n10 leave wings/still\n10 enter "
     "wings/buzz\n"},
    {"EveryRegionSeesAPulseOnce",
     "inputs: {p: {pulse: 1s}}\nregions:\n  l: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {go: [{pulse: p, "
     "to: a}]}}}\n  r: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {}}}",
     "  - {at: 10ms, pulse: p}", 20,
     "0 enter l/a\n0 enter r/a\n10 leave l/a\n10 enter l/b\n10 leave r/a\n10 enter r/b\n"},
    {"BackToWhatWasGoingOnNotIntoTheMiddleOfABlow",
     "inputs: {p: pulse, hit: pulse}\nclips: {c: {frames: [0-3], fps: 10}}\ninitial: stand\ngo: [{pulse: hit, to: "
     "hurt}]\nstates:\n  stand: {go: [{pulse: p, to: walk}]}\n  walk: {go: [{pulse: p, to: net}]}\n  net: {clip: c, "
     "go: "
     "[{at: end, to: stand}]}\n  hurt: {clip: c, go: [{at: end, to: back}]}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}\n  - {at: 30ms, pulse: hit}", 500,
     "0 enter stand\n10 leave stand\n10 enter walk\n20 leave walk\n20 enter net\n30 leave net\n30 enter hurt\n430 "
     "leave "
     "hurt\n430 enter walk\n"},
    {"BackFromACompositeSkipsWhatIsInside",
     "inputs: {p: pulse}\ninitial: ground\nstates:\n  ground: {initial: stand, states: {stand: {go: [{pulse: p, to: "
     "walk}]}, walk: {go: [{pulse: p, to: air}]}}}\n  air: {initial: up, go: [{after: 50ms, to: back}], states: {up: "
     "{go: "
     "[{after: 10ms, to: down}]}, down: {}}}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}", 100,
     "0 enter ground\n0 enter ground/stand\n10 leave ground/stand\n10 enter ground/walk\n20 leave ground/walk\n20 "
     "leave "
     "ground\n20 enter air\n20 enter air/up\n30 leave air/up\n30 enter air/down\n70 leave air/down\n70 leave air\n70 "
     "enter "
     "ground\n70 enter ground/walk\n"},
    {"LastComesBackToTheChildThatWasActive",
     "inputs: {p: pulse}\ninitial: ground\nstates:\n  ground: {initial: stand, go: [{pulse: p, when: in(walk), to: "
     "sleep}], states: {stand: {go: [{pulse: p, to: walk}]}, walk: {}}}\n  sleep: {go: [{after: 50ms, to: "
     "ground/last}]}",
     "  - {at: 10ms, pulse: p}\n  - {at: 20ms, pulse: p}", 100,
     "0 enter ground\n0 enter ground/stand\n10 leave ground/stand\n10 enter ground/walk\n20 leave ground/walk\n20 "
     "leave "
     "ground\n20 enter sleep\n70 leave sleep\n70 enter ground\n70 enter ground/walk\n"},
    {"StatesInsideARegionsStatesPlay",
     "clips: {c: {frames: [0-1], fps: 10}}\nregions:\n  l: {states: {a: {clip: c}}}\n  r: {states: {b: {initial: x, "
     "states: {x: {clip: c, go: [{at: end, to: y}]}, y: {}}}}}",
     "", 300, "0 enter l/a\n0 enter r/b\n0 enter r/b/x\n200 leave r/b/x\n200 enter r/b/y\n"},
};

INSTANTIATE_TEST_SUITE_P(Switching, Steps, testing::ValuesIn(kSwitching), name_of);
INSTANTIATE_TEST_SUITE_P(Playing, Steps, testing::ValuesIn(kPlaying), name_of);
INSTANTIATE_TEST_SUITE_P(Nested, Steps, testing::ValuesIn(kNested), name_of);

TEST(Stepping, ALongStepOverAShortLoopFiresEachPass) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-2], fps: 10, play: loop}}\ncues: {k: {}}\nmarks: {c: {cues: {1: k}}}\nstates: {a: {clip: "
      "c}}");
  Instance instance(machine);
  int count = 0;
  Ticks expected = milliseconds(100);
  instance.advance(seconds(10), [&](const Cue& cue) {
    EXPECT_EQ(cue.at, expected);
    expected += milliseconds(300);
    ++count;
  });
  EXPECT_EQ(count, 34);  // at 100 ms, 400 ms, ... 10000 ms
}

TEST(Stepping, ARunawayIsToldOnceUntilItComesToRestAndTheGameGoesOn) {
  const Machine machine = machine_of(
      "inputs: {x: true, y: 0}\ninitial: a\nstates: {a: {go: [{when: x, to: b}, {when: y > 1, to: c}]}, b: {go: "
      "[{when: x, to: a}]}, c: {}}");
  const auto log =
      log_of(machine, tape_of("  - {at: 5ms, set: {y: 1}}\n  - {at: 10ms, set: {x: false, y: 2}}"), milliseconds(20));
  EXPECT_EQ(only(log, "runaway"), (std::vector<std::string>{"0 runaway"}));
  EXPECT_EQ(only(log, "0 enter").size(), 1u + 64 + 1);  // also the one at 10 ms
  EXPECT_EQ(log.back(), "10 enter c");
}

TEST(Stepping, TheDemosLogIsTheSameAtAnyRate) {
  for (const char* name : {"keeper", "smoker"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    EXPECT_TRUE(loaded.findings.empty()) << joined(loaded.findings);
    const LoadedTape tape = load_tape(std::string(MOBRIN_DEMO "/") + name + ".tape.yaml");
    ASSERT_TRUE(tape.tape);
    const auto log = log_of(*loaded.machine, *tape.tape, *tape.tape->until, 60);
    EXPECT_GT(log.size(), 20u);
    for (const std::int64_t hz : {1, 24, 144, 1000})
      EXPECT_EQ(log_of(*loaded.machine, *tape.tape, *tape.tape->until, hz), log) << hz;
  }
}

}  // namespace
}  // namespace mobrin::test
