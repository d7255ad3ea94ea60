// Lines that stand where they do not belong, and what YAML takes for something else: told once each.
#include "support.hpp"

namespace mobrin::test {
namespace {

// After `mobrin: 1` and `machine: m`, with all that is told.
class Slips : public testing::TestWithParam<ToldRow> {};

TEST_P(Slips, AreToldOnceWithWhatToDo) { EXPECT_EQ(findings_of(GetParam().text), GetParam().told); }

const ToldRow kSlips[] = {
    {"AHeadingTooFarInWithWhatIsUnderIt",
     "inputs:\n  near: false\n  cues:\n    hum: sound\nstates:\n  a:\n    enter: [tell: hum]",
     "m.yaml:5:3: error: \"cues\" stands inside `inputs:` [unknown-key]\n    Move it to the left, so that it begins "
     "where `inputs:` does.\n"},
    {"AHeadingAloneTooFarIn",
     "inputs:\n  near: false\n  cues:\n  hum: {kind: sound}\nstates:\n  a:\n    enter: [tell: hum]",
     "m.yaml:5:3: error: \"cues\" stands inside `inputs:` [unknown-key]\n    Move it to the left, so that it begins "
     "where `inputs:` does.\n"},
    {"AHeadingThatIsGone",
     "inputs:\n  near: false\n  hum: {kind: sound, file: hum.wav}\n  buzz: {kind: sound}\nstates:\n  a:\n    enter: "
     "[tell: hum, tell: buzz]",
     "m.yaml:5:3: error: \"hum\" stands under `inputs:` and is written like a cue [unknown-key]\n    Is the line "
     "`cues:` missing above it?\n"},
    {"EntriesAtTheLeftMargin",
     "clips:\nfly: {length: 1s}\nrest: {length: 2s}\nstates:\n  a: {clip: fly, go: [{at: end, to: b}]}\n  b: {clip: "
     "rest}\ninitial: a",
     "m.yaml:4:1: error: \"fly\" stands beside `clips:` and is written like a clip [unknown-key]\n    Move it to the "
     "right, under `clips:`.\n"},
    {"AnInputAtTheLeftMargin", "inputs:\nnear: false\nstates:\n  a: {go: [{when: near, to: a, restart: true}]}",
     "m.yaml:4:1: error: \"near\" stands beside `inputs:` and is written like an input [unknown-key]\n    Move it to "
     "the right, under `inputs:`.\n"},
    {"KeysBesideTheirState",
     "inputs: {near: false}\ninitial: a\nstates:\n  a:\n    length: 1s\n  traits: [busy]\n  go: [{when: near, to: "
     "b}]\n  b: {}",
     "m.yaml:8:3: error: \"traits\" stands beside \"a\" and is a key of a state [unknown-key]\n    Move it to the "
     "right, into \"a\".\n"},
    {"KeysWithoutTheNameOfTheirState",
     "states:\n  length: 1s\n  go: [{at: end, to: b}]\n  b: {go: [{after: 1s, to: c}]}",
     "m.yaml:4:3: error: \"length\" stands right under `states:` and is a key of a state [unknown-key]\n    Is the "
     "line "
     "with a name missing above it?\n"},
    {"AStateInsideTheOneAboveIt",
     "initial: a\nstates:\n  a:\n    go: [{after: 1s, to: b}]\n    b: {length: 1s}\n    c: {}",
     "m.yaml:7:5: error: \"b\" stands inside \"a\" [unknown-key]\n    Move it to the left, so that it begins where "
     "\"a\" does.\n"},
    {"TheNameOfAStateTooFarIn", "initial: a\nstates:\n  a:\n    go: [{after: 1s, to: b}]\n    b:\n    length: 1s",
     "m.yaml:7:5: error: \"b\" stands inside \"a\" with nothing under it [unknown-key]\n    Move it to the left, so "
     "that "
     "it begins where \"a\" does.\n"},
    {"TheNameOfAStateIsGone",
     "initial: a\nstates:\n  a:\n    length: 1s\n    go: [{at: end, to: b}]\n    length: 2s\n    go: [{at: end, to: "
     "a}]",
     "m.yaml:8:5: error: the keys \"go\" and \"length\" stand here a second time [duplicate-key]\n    Is the name "
     "missing above them that they belong under? Else keep one of each.\n"},
    {"AStateOfARegionAtTheRegionsOwnPlace",
     "regions:\n  body:\n    initial: a\n  states:\n    a: {go: [{after: 1s, to: b}]}\n    b: {}\n  wings:\n    "
     "states: "
     "{c: {}}",
     "m.yaml:6:3: error: \"states\" stands beside \"body\" and is a key of a region [unknown-key]\n    Move it to the "
     "right, into \"body\".\n"},
    {"MarksWithoutTheirClip",
     "cues: {hum: sound}\nclips: {fly: {length: 1s}}\nmarks:\n  cues: {0.5s: hum}\n  windows: {open: 0.1s-0.3s}\n"
     "states: {a: {clip: fly, go: [{during: open, to: a, restart: true}]}}",
     "m.yaml:6:3: error: \"cues\" stands right under `marks:` and is a key of a clip's marks [unknown-key]\n    Is the "
     "line with a name missing above it?\n"},
    {"ASectionTwice", "inputs:\ninputs:\n  near: false\nstates:\n  a: {go: [{when: near, to: a, restart: true}]}",
     "m.yaml:4:1: error: the key \"inputs\" stands here a second time [duplicate-key]\n    Remove one of the two, or "
     "join them.\n"},
    {"ASectionInTwoParts",
     "inputs: {near: false}\nstates: {a: {go: [{when: near or far, to: a, restart: true}]}}\ninputs: {far: false, "
     "near: true}",
     "m.yaml:5:1: error: the key \"inputs\" stands here a second time [duplicate-key]\n    Remove one of the two, or "
     "join them.\n"},
    {"AValueTwiceKeepsTheFirst", "states: {a: {length: 1s, traits: [x], traits: [y]}}",
     "m.yaml:3:39: error: the key \"traits\" stands here a second time [duplicate-key]\n    Remove one of the two, or "
     "join them.\n"},
    {"AStateWithTheNameOfAKey", "initial: final\nstates:\n  final:\n    length: 1s\n    weight: 3",
     "m.yaml:7:5: error: \"weight\" is no key of a state [unknown-key]\n    Its keys are: accept, clip, blend, pose, "
     "length, speed, traits, vars, enter, exit, each_loop, go, final, linger, sealed, initial, states, regions.\n"},
    {"SomethingElseAltogether", "states: {a: {}}\nreaches: {near: {speed: 3, name: x, colour: red}}",
     "m.yaml:4:18: error: \"speed\", \"name\" and \"colour\" are no keys of a reach [unknown-key]\n    Its keys are: "
     "cone, circle, rect, accept, hits, spares.\n"},
    {"NoSpaceBehindAColon", "states: {a: {length:2s, go: [{after:1s, to: a, restart: true}]}}",
     "m.yaml:3:14: error: there is no space behind the colon of \"length\" [bad-yaml]\n    Write `length: 2s`.\n"
     "m.yaml:3:31: error: there is no space behind the colon of \"after\" [bad-yaml]\n    Write `after: 1s`.\n"},
    {"NoColon", "inputs:\n  near {bool: false}\nstates: {a: {length 2s, go: [{when: near, to: a, restart: true}]}}",
     "m.yaml:4:3: error: there is no colon behind \"near\" [bad-yaml]\n    Write `near: {bool: false}`.\n"
     "m.yaml:5:14: error: there is no colon behind \"length\" [bad-yaml]\n    Write `length: 2s`.\n"},
    {"NoSpaceBeforeABrace", "inputs:\n  near:{bool: false}\nstates: {a: {go: [{when: near, to: a, restart: true}]}}",
     "m.yaml:4:3: error: there is no space behind the colon of \"near\" [bad-yaml]\n    Write `near: {bool: "
     "false}`.\n"},
    {"SpacesThatDoNotBreak",
     "inputs: {near:\u00a0false}\ninitial: a\nstates:\n\u00a0\u00a0a: {go: [{when: near,\u00a0to: b}]}\n  b: "
     "{}\u3000\n",
     "m.yaml:3:15: error: the character U+00A0 looks like a space and is none; 2 more lines have such [bad-yaml]\n    "
     "Write plain spaces; text that is copied from a page often has others.\n"},
    {"WhatCannotBeSeen", "initial: \u200ba\nstates:\n  \ufeffa: {}\n  b: {} # none\u200b\n",
     "m.yaml:3:10: error: the character U+200B stands here, which cannot be seen; 1 more line has such [bad-yaml]\n    "
     "Take it out; text that is copied from a page often has such.\n"},
    {"SpacesWithinWordsQuotesAndCommentsStay",
     "cues: {hum: {kind: sound, line: \u201cWho goes there\u201d, file: a\u202fhum.wav, word: \"\u00a0x\u00a0\"}} "
     "#\u00a0 so\nstates: {a: {enter: [tell: "
     "hum]}}",
     ""},
    {"CurlyQuotes",
     "inputs: {x: {float: 0, min: 0, max: 9}}\ninitial: \u201ca\u201d\nstates:\n  a: {go: [{when: \u201emax(x, 2) > "
     "3\u201c, to: \u2018b\u2019}]}\n  b: {}",
     "m.yaml:4:10: error: the quotes of \u201ca\u201d are none to YAML; 2 more words have such [bad-yaml]\n    Write "
     "`\"a\"`, or no quotes at all.\n"},
    {"SignsOfOtherAlphabets",
     "inputs: {x: {float: 0, min: 0, max: 9}}\ninitial: a\nstates:\n  a: {go: [{when: x \u2265 3, to: b}]}\n  b: {go: "
     "[{when: "
     "x\u00a0> 3, to: a}, {when: \uff58 > 3, to: a}, {when: x == \u2019b\u2019, to: a}]}",
     "m.yaml:6:21: error: \"\u2265\" (U+2265) is not a sign of the expression language [bad-expression]\n    Write "
     "`>=`.\n"
     "m.yaml:7:20: error: the character U+00A0 in \"x\u00a0> 3\" is no space to an expression [bad-expression]\n    "
     "Write "
     "a plain space.\n"
     "m.yaml:7:41: error: \"\uff58\" (U+FF58) is not a sign of the expression language [bad-expression]\n    Write "
     "`x`.\n"
     "m.yaml:7:68: error: \"\u2019\" (U+2019) is not a sign of the expression language [bad-expression]\n    Names "
     "stand "
     "without quotes.\n"},
    {"NamesThatAreNearlyOnes",
     "initial: a\nstates: {a: {go: [{after: 1s, to: b}]}, b: {traits: [not-me, b\u0430d, caf\u00e9, "
     "\u0141\u00f3\u00df, \u8702]}}",
     "m.yaml:4:54: error: \"not-me\" cannot be the name of a trait [bad-name]\n    Write `not_me`: a name is a letter, "
     "then "
     "letters, digits or underscores (at most 64), and no word of the expression language.\n"
     "m.yaml:4:62: error: \"b\u0430d\" cannot be the name of a trait [bad-name]\n    Write `bad` with a plain `a`, "
     "which "
     "stands there as U+0430: a name is a letter, then letters, digits or underscores (at most 64), and no word of the "
     "expression language.\n"
     "m.yaml:4:67: error: \"caf\u00e9\" cannot be the name of a trait [bad-name]\n    Write `cafe`, in letters from a "
     "to "
     "z: a name is a letter, then letters, digits or underscores (at most 64), and no word of the expression "
     "language.\n"
     "m.yaml:4:73: error: \"\u0141\u00f3\u00df\" cannot be the name of a trait [bad-name]\n    Write `Loss`, in "
     "letters "
     "from a to z: a name is a letter, then letters, digits or underscores (at most 64), and no word of the expression "
     "language.\n"
     "m.yaml:4:78: error: \"\u8702\" cannot be the name of a trait [bad-name]\n    A name is a letter, then letters, "
     "digits or underscores (at most 64), and no word of the expression language.\n"},
    {"CommasInNumbers",
     "inputs: {x: {pulse: 0,5s}, n: {int: 3, min: 0, max: 1,000}, v: {float: \u22121, min: -2, max: 2}}\n"
     "clips:\n  c:\n    length: 1,5s\nstates: {a: {clip: c}}",
     "m.yaml:3:21: error: the comma in `0,5s` ends the value [bad-yaml]\n    Write `0.5s`: numbers have a point, and "
     "nothing between thousands.\n"
     "m.yaml:3:53: error: the comma in `1,000` ends the value [bad-yaml]\n    Write `1000` or `1.000`: numbers have a "
     "point, and nothing between thousands.\n"
     "m.yaml:3:72: error: the input \"v\" is \"\u22121\" [wrong-type]\n    Write `-1`.\n"
     "m.yaml:6:13: error: `length:` is \"1,5s\" [wrong-type]\n    Write `1.5s`.\n"},
    {"CommasInNumbersOfExpressions",
     "inputs: {x: {float: 0, min: 0, max: 9000}}\ninitial: a\nstates:\n  a: {go: [{when: x > 0,25 and x < 8, to: b}]}\n"
     "  b:\n    go:\n      - when: x > 1,5\n        to: a\n      - {when: x > 1,000, to: a}",
     "m.yaml:6:19: error: the comma in `0,25` ends the value [bad-yaml]\n    Write `0.25`: numbers have a point, and "
     "nothing between thousands.\n"
     "m.yaml:9:20: error: there is a comma within a number in \"x > 1,5\" [bad-expression]\n    A number has a point, "
     "and "
     "nothing between thousands.\n"
     "m.yaml:11:16: error: the comma in `1,000` ends the value [bad-yaml]\n    Write `1000` or `1.000`: numbers have a "
     "point, and nothing between thousands.\n"},
    // Between the operands of a call a comma is one, and with a space behind it anywhere.
    {"CommasBetweenOperands",
     "inputs: {x: 1, y: {float: 1, min: 0, max: 9}}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{when: x > 2, do: n "
     "= "
     "min(n + 1, 5), to: b}, {when: x > max(3,50), to: b}, {when: abs(y - 0,5) > 1, to: b}]}\n"
     "  b:\n    go:\n      - when: abs(y - 0,5) > 1 and min(n) > 0\n        to: a",
     "m.yaml:7:30: error: the expression \"n = min(n + 1\" is cut at its comma: inside { } and [ ] a comma ends the "
     "value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"n = min(n + 1, 5)\"`.\n"
     "m.yaml:7:64: error: the expression \"x > max(3\" is cut at its comma: inside { } and [ ] a comma ends the value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"x > max(3,50)\"`.\n"
     "m.yaml:7:94: error: the comma in `0,5` ends the value [bad-yaml]\n    Write `0.5`: numbers have a point, and "
     "nothing between thousands.\n"
     "m.yaml:10:15: error: `abs` has 2 operands [bad-expression]\n    It takes 1; a number has a point, not a "
     "comma.\n"},
    {"CommasBetweenOperandsOfActions",
     "inputs: {x: 1}\nvars: {n: 0}\nstates: {a: {enter: [n = min(x, 5), n = clamp(n, 0, max(x, 2))], exit: [n = max(x, "
     "1]}}",
     "m.yaml:5:22: error: the expression \"n = min(x\" is cut at its comma: inside { } and [ ] a comma ends the value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"n = min(x, 5)\"`.\n"
     "m.yaml:5:37: error: the expression \"n = clamp(n\" is cut at its comma: inside { } and [ ] a comma ends the "
     "value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"n = clamp(n, 0, max(x, 2))\"`.\n"
     "m.yaml:5:73: error: a `(` in \"n = max(x\" is not closed [bad-expression]\n    Close it with `)`; inside { } "
     "and [ ] an expression with a comma stands in quotes.\n"},
    {"BracketsThatStayOpen",
     "inputs: {x: 0.0, y: 0.0}\ninitial: a\nstates:\n  a: {go: [{when: (x > 1, to: b}, {when: min(x, y > 1, to: b}, "
     "{to: "
     "b, when: min(x, y}]}\n  b: {}",
     "m.yaml:6:19: error: a `(` in \"(x > 1\" is not closed [bad-expression]\n    Close it with `)`; inside { } and [ "
     "] "
     "an expression with a comma stands in quotes.\n"
     "m.yaml:6:42: error: a `(` in \"min(x\" is not closed [bad-expression]\n    Close it with `)`; inside { } and [ ] "
     "an "
     "expression with a comma stands in quotes.\n"
     "m.yaml:6:78: error: a `(` in \"min(x\" is not closed [bad-expression]\n    Close it with `)`; inside { } and [ ] "
     "an "
     "expression with a comma stands in quotes.\n"},
    // What is cut at its comma is no word without a colon.
    {"ACutExpressionStaysOne", "inputs: {x: 1}\nstates: {a: {go: [{when: max(x, 2) > x, to: a, restart: true}]}}",
     "m.yaml:4:26: error: the expression \"max(x\" is cut at its comma: inside { } and [ ] a comma ends the value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"max(x, 2) > x\"`.\n"},
    {"AStateThatIsMisspeltAndNamedByItsPath",
     "inputs: {hop: pulse, land: pulse}\ninitial: ground\nstates:\n  gorund: {initial: stand, states: {stand: {go: "
     "[{pulse: "
     "hop, to: air}]}}}\n  air: {go: [{pulse: land, to: ground/stand}]}",
     "m.yaml:6:3: error: \"gorund\" is declared, and \"ground\" is named 2 times [unknown-name]\n    Write it one way: "
     "\"ground\" stands at line 4, line 7.\n"},
    // A region with a key of a state is one, no state whose heading is gone.
    {"ARegionWithRules",
     "inputs: {hit: pulse}\nregions:\n  body:\n    initial: a\n    go: [{pulse: hit, to: b}]\n    states: {a: {}, b: "
     "{go: "
     "[{after: 1s, to: a}]}}\n  guard:\n    enter: hit\n    states: {c: {}}",
     "m.yaml:7:5: error: \"go\" is no key of a region [unknown-key]\n    It is one of a state: put it at the state "
     "around "
     "the region; rules of `go:` lead to `REGION/STATE`.\n"
     "m.yaml:10:5: error: \"enter\" is no key of a region [unknown-key]\n    It is one of a state: put it at the state "
     "around the region; rules of `go:` lead to `REGION/STATE`.\n"},
    // A cue is the key of what it carries.
    {"CuesNamedByAKey",
     "clips: {c: {frames: [0-5], fps: 10, play: loop}}\ncues: {step: {kind: sound, foot: left}, hum: {kind: sound, "
     "tone: 1}}\n"
     "marks: {c: {cues: {1: {cue: step, foot: right}, 3: {name: hum}, 4: {step: right}}}}\n"
     "states: {a: {clip: c, enter: [{tell: {cue: hum, tone: 2}}, {tell: hum, tone: 3}]}}",
     "m.yaml:5:24: error: \"cue\" stands where the cue's name stands [wrong-type]\n    The name is the key: `{step: "
     "{foot: "
     "right}}`.\n"
     "m.yaml:5:53: error: \"name\" stands where the cue's name stands [wrong-type]\n    The name alone will do: "
     "`hum`.\n"
     "m.yaml:5:75: error: what \"step\" carries is \"right\" [wrong-type]\n    Write a map: `{step: {field: value}}`.\n"
     "m.yaml:6:39: error: \"cue\" stands where the cue's name stands [wrong-type]\n    The name is the key: `{hum: "
     "{tone: "
     "2}}`.\n"
     "m.yaml:6:72: error: \"tone\" is no key of an action [unknown-key]\n    An action tells a cue, `tell: CUE` or "
     "`tell: {CUE: {field: value}}`, or assigns, `variable = expression`.\n"},
    // A field that the cue does not have.
    {"AFieldThatIsNotDeclared",
     "clips: {c: {frames: [0-5], fps: 10, play: loop}}\ncues: {hum: sound}\nmarks: {c: {cues: {1: {hum: {file: "
     "hum.wav}}}}}\n"
     "states: {a: {clip: c}}",
     "m.yaml:5:30: error: there is no field of the cue \"hum\" called \"file\" [unknown-name]\n    Declare it with the "
     "cue, "
     "as in `hum: {kind: sound, file: ...}`; a mark may then give it another value.\n"},
    // Of two names that differ by a slip the declared one is wrong where nothing but the other is named.
    {"ADeclarationThatIsMisspelt",
     "inputs: {naer: false, mvoe: {float: 0, min: -1, max: 1}}\nkeys: {near: n}\ninitial: a\nstates:\n  a: {go: "
     "[{when: "
     "near, to: b}]}\n  b: {go: [{when: not near, to: a}, {when: move > 0, to: a}]}",
     "m.yaml:3:10: error: \"naer\" is declared, and \"near\" is named 3 times [unknown-name]\n    Write it one way: "
     "\"near\" stands at line 4, line 7, line 8.\n"
     "m.yaml:8:44: error: \"move\" is no input or variable [unknown-name]\n    Did you mean \"mvoe\"?\n"},
    {"ADeclarationThatIsNamedToo",
     "inputs: {near: false}\ninitial: a\nstates:\n  a: {go: [{when: naer, to: b}]}\n  b: {go: [{when: not naer, to: "
     "a}, "
     "{when: near, to: a}]}",
     "m.yaml:6:19: error: \"naer\" is no input or variable [unknown-name]\n    Did you mean \"near\"?\n"
     "m.yaml:7:23: error: \"naer\" is no input or variable [unknown-name]\n    Did you mean \"near\"?\n"},
    // Where something was to be written.
    {"AnEmptyGuard", "states: {a: {go: [{after: 1s, when: \"\", to: b}]}, b: {}}\ninitial: a",
     "m.yaml:3:37: error: `when:` is \"\" [wrong-type]\n    Expected an expression.\n"},
    {"AnEmptyClaim", "states: {a: {}}\nclaims:\n  it ends:",
     "m.yaml:5:3: error: the claim \"it ends\" has no form that can be asked [missing-key]\n    Write one of {never: "
     "E}, "
     "{always: E}, {once: E, then: F}, {when: E, within: 0s, reaches: F}, {from: E, within: 2s, reaches: F}, {from: E, "
     "next: F}, {from: E, can: F}.\n"},
    {"EmptyMarks",
     "cues: {hum: sound}\nclips: {fly: {frames: [0-3], fps: 8}}\nmarks:\n  fly:\n    cues: {1: }\n    spans: {hum: }\n "
     "   "
     "windows: {open: []}\n    boxes: [{name: b, role: hit, circle: [0, 0, 4], frames: , hits: }]\nstates: {a: {clip: "
     "fly}}",
     "m.yaml:7:15: error: the cue at \"1\" is nothing [wrong-type]\n    Expected a cue's name, or `{name: {field: "
     "value}}`.\n"
     "m.yaml:8:13: error: the span \"hum\" does not say over which frames or times [missing-key]\n    Write `hum: "
     "2-4`, or `0.1s-0.3s`.\n"
     "m.yaml:9:15: error: the window \"open\" does not say when it is open [missing-key]\n    Write frames, such as "
     "`open: 4-5`, or times, such as `0.1s-0.3s`.\n"
     "m.yaml:10:61: error: `frames:` of a box is nothing [wrong-type]\n    Expected frames such as `3-4`; without it, "
     "all of them.\n"
     "m.yaml:10:69: error: `hits:` is nothing [wrong-type]\n    Expected a tag, or a list of them.\n"},
    {"AnEndAtSpeedZero",
     "clips: {c: {length: 1s}}\ninitial: a\nstates: {a: {clip: c, speed: 0, go: [{at: end, to: b}]}, b: {}}",
     "m.yaml:5:38: warning: `at: end` never holds in \"a\": its speed is 0 [never-ends]\n    Give it another `speed:`; "
     "one frame that stands is a `pose:`.\n"},
    {"ClipsAmongCues",
     "cues:\n  thud: sound\n  walk: {fps: 10, frames: 4, play: loop}\ninitial: a\nstates: {a: {clip: walk}}",
     "m.yaml:7:20: error: there is no clip \"walk\" [unknown-name]\n"
     "    It stands under `cues:`, but reads like a clip: put it under `clips:`.\n"},
    {"AClipWithASpeed", "clips: {c: {frames: [0-1], fps: 8, speed: 2}}\nstates: {a: {clip: c}}",
     "m.yaml:3:36: error: \"speed\" is no key of a clip [unknown-key]\n    How fast its frames come is `fps: 12`; the "
     "state that plays it may say `speed: 2`, twice as fast as that.\n"},
    {"LoopsInOtherWords",
     "clips:\n  b: {frames: [0-1], fps: 8, loop: true}\n  c: {frames: [0-1], fps: 8, loop: 3}\n"
     "  d: {frames: [0-1], fps: 8, play: repeat 2}\n  e: {frames: [0-1], fps: 8, play: alternate}\n"
     "  f: {frames: [0-1], fps: 8, play: false}\n  g: {frames: [0-1], fps: 8, play: loop x0}\n"
     "initial: a\nstates:\n  a: {clip: b, go: [{at: loop, to: h}]}\n  h: {clip: c, go: [{at: end, to: a}]}",
     "m.yaml:4:30: error: \"loop\" is no key of a clip [unknown-key]\n    Write `play: loop`.\n"
     "m.yaml:5:30: error: \"loop\" is no key of a clip [unknown-key]\n    Write `play: loop x3`.\n"
     "m.yaml:6:36: error: `play:` is \"repeat 2\" [bad-value]\n    Write `loop x2`.\n"
     "m.yaml:7:36: error: `play:` is \"alternate\" [bad-value]\n    Write `back-and-forth`.\n"
     "m.yaml:8:36: error: `play:` is \"false\" [bad-value]\n    Write `once`.\n"
     "m.yaml:9:36: error: `play:` is \"loop x0\" [wrong-type]\n    Expected once, loop, loop x3, back-and-forth or "
     "back-and-forth x3 (1 to 10000 times).\n"},
    {"TimesWithoutTheirUnitAreToldOnce", "clips: {c: {frames: [0-2], times: [80, 90, 80]}}\nstates: {a: {clip: c}}",
     "m.yaml:3:36: error: a frame's time is \"80\" [wrong-type]\n    Write `80ms` or `80s`.\n"},
    {"HabitsOfClips",
     "clips:\n"
     "  a: {sheet: k.png, tile: [8, 8], frames: [0-7], duration: 100ms}\n"
     "  b: {duration: 1s}\n"
     "  c: {sheet: k.png, tile: [8, 8], row: 1, fps: 12}\n"
     "  d: {sheet: k.png, tile: [8, 8], columns: 8, frames: [0-7], fps: 12, flip: true}\n"
     "  e: {sheet: k.png, tile: [8, 8], first: 0, fps: 12}\n"
     "  f: {frames: [{frame: 0, time: 100ms}]}\n"
     "  g: {frames: [[0, 100ms]]}\n"
     "  h: {frames: [0-3], fps: 12, play: reverse}\n"
     "  i: {length: 1s, frames: [0-3]}\n"
     "  j: {image: k.png, fps: 12}\n"
     "states: {x: {clip: a}}\n",
     "m.yaml:4:50: error: \"duration\" is no key of a clip [unknown-key]\n    With frames it is `fps: 10`, or `times:` "
     "with one a frame; without frames `length: 1s`.\n"
     "m.yaml:5:7: error: \"duration\" is no key of a clip [unknown-key]\n    With frames it is `fps: 10`, or `times:` "
     "with one a frame; without frames `length: 1s`.\n"
     "m.yaml:6:35: error: \"row\" is no key of a clip [unknown-key]\n    Cells are numbered from 0, row after row: row "
     "1 of eight columns is `frames: [8-15]`.\n"
     "m.yaml:7:35: error: \"columns\" is no key of a clip [unknown-key]\n    Leave it out: how many there are follows "
     "from the sheet's width and `tile:`.\n"
     "m.yaml:7:71: error: \"flip\" is no key of a clip [unknown-key]\n    Who draws a picture turns it over; a point "
     "of a blend says `mirror: true`.\n"
     "m.yaml:8:35: error: \"first\" is no key of a clip [unknown-key]\n    Write the first and the last of them, from "
     "0: `frames: [0-7]`.\n"
     "m.yaml:9:16: error: a frame is a map [wrong-type]\n    Times stand beside the frames: `frames: [0, 1], times: "
     "[100ms, 50ms]`.\n"
     "m.yaml:10:16: error: a frame is a list [wrong-type]\n    Times stand beside the frames: `frames: [0, 1], times: "
     "[100ms, 50ms]`.\n"
     "m.yaml:11:37: error: `play:` is \"reverse\" [bad-value]\n    It says how the clip goes on at its end; the state "
     "that plays it backwards says `speed: -1`.\n"
     "m.yaml:12:27: error: the clip \"i\" has both `length:` and `frames:` [conflicting-keys]\n    `length:` is of a "
     "clip without frames: how long these show is `fps:`, or `times:`.\n"
     "m.yaml:13:7: error: \"image\" is no key of a clip [unknown-key]\n    Did you mean \"images\"?\n"},
    {"SeveralEventsInAList",
     "inputs: {p: pulse, q: pulse}\ninitial: a\nstates: {a: {go: [{pulse: [p, q], to: b}]}, b: {}}",
     "m.yaml:5:27: error: `pulse:` is a list [wrong-type]\n    A rule has one; write a rule for each.\n"},
    {"KeysOfSomethingElse",
     "clips: {c: {length: 1s, pivot: [2, 3]}, d: {length: 1s, traits: [busy]}}\ninitial: a\n"
     "states:\n  a: {clip: c, fps: 12, go: [{at: end, to: b, linger: 1s}]}\n  b: {clip: d, loop: true, windows: {w: "
     "0.1s-0.2s}, go: [{at: end, to: previous}]}",
     "m.yaml:3:25: error: \"pivot\" is no key of a clip [unknown-key]\n    It is one of a clip's marks: put it there, "
     "under `marks:` and the clip's name.\n"
     "m.yaml:3:57: error: \"traits\" is no key of a clip [unknown-key]\n    It is one of a state: put it at the state "
     "that plays the clip.\n"
     "m.yaml:6:16: error: \"fps\" is no key of a state [unknown-key]\n    It is one of a clip: put it there, under "
     "`clips:`.\n"
     "m.yaml:6:47: error: \"linger\" is no key of a transition [unknown-key]\n    It is one of a state: put it at the "
     "state, beside `go:`.\n"
     "m.yaml:7:16: error: \"loop\" is no key of a state [unknown-key]\n    It is `play:` of a clip: put it there, "
     "under "
     "`clips:`.\n"
     "m.yaml:7:28: error: \"windows\" is no key of a state [unknown-key]\n    It is one of a clip's marks: put it "
     "there, under `marks:` and the clip's name.\n"
     "m.yaml:7:72: error: there is no state \"previous\" [unknown-name]\n    Write `back` for what went on before, "
     "`STATE/last` for what was active last in a state. There is a, b.\n"},
    {"TwoFramesWhereAllBetweenAreMeant",
     "clips: {c: {frames: [0-5], fps: 12}}\ncues: {t: sound}\nstates: {a: {clip: c}}\nmarks:\n  c:\n"
     "    spans: {t: [1, 4]}\n    windows: {w: [1-1, 4-4], v: [2, 3], u: [1, 3, 5]}\n"
     "    boxes: [{name: b, role: hurt, frames: [0, 5], rect: [0, 0, 4, 4]}]",
     "m.yaml:8:16: warning: the span \"t\" is frames 1 and 4, without those between them [hardly-meant]\n    Write "
     "`1-4` for all of them, `[1-1, 4-4]` for these two.\n"
     "m.yaml:10:43: warning: `frames:` is frames 0 and 5, without those between them [hardly-meant]\n    Write `0-5` "
     "for all of them, `[0-0, 5-5]` for these two.\n"},
    {"ATransitionThatCannotBeRead", "initial: a\nstates: {a: {go: [{after: 1s, to: []}, {pulse: [], to: b}]}, b: {}}",
     "m.yaml:4:35: error: `to:` is a list [wrong-type]\n    Expected a name.\n"
     "m.yaml:4:48: error: `pulse:` is a list [wrong-type]\n    Expected a name.\n"},
    {"WhatPlaysCannotBeRead",
     "initial: []\nstates: {a: {clip: , go: [{at: end, to: b, start: same}]}, b: {clip: fly, go: [{to: a, start: "
     "clock}]}}",
     "m.yaml:3:10: error: `initial:` is a list [wrong-type]\n    Expected a name.\n"
     "m.yaml:4:20: error: `clip:` is nothing [wrong-type]\n    Expected a name.\n"
     "m.yaml:4:70: error: there is no clip \"fly\" [unknown-name]\n    Add it under `clips:`.\n"},
    {"ASectionOfAnotherKind", "vars: [1, 2]\nstates: {a: {speed: pace, length: 1s, enter: [pace = 2]}}",
     "m.yaml:3:7: error: `vars:` is a list [wrong-type]\n    Expected a map, such as `{blows: 0}`.\n"},
    {"WhatIsSomethingElse",
     "inputs: {near: false, swing: pulse}\n"
     "cues: {thud: sound}\n"
     "clips: {c: {frames: [0-1], fps: 12}}\n"
     "marks: {c: {windows: {late: 1}}}\n"
     "initial: a\n"
     "states:\n"
     "  a: {clip: c, traits: [busy], go: [{when: thud, to: b}, {when: busy, to: b}, {when: late, to: b}, {when: c, to: "
     "b}]}\n"
     "  b:\n"
     "    states:\n"
     "      i: {clip: near, go: [{cue: swing, to: a}, {pulse: thud, to: a}, {during: thud, to: a}]}\n"
     "    go: [{pulse: swing, to: c}, {pulse: swing, to: late}, {when: at_end, to: a}, {when: i, to: a}, {cue: late, "
     "to: a}]\n",
     "m.yaml:9:44: error: \"thud\" is no input or variable [unknown-name]\n"
     "    It is a cue; a rule hears it by `cue: thud`, an action tells it by `tell: thud`.\n"
     "m.yaml:9:65: error: \"busy\" is no input or variable [unknown-name]\n"
     "    It is a trait, for the game to ask for; a guard asks for a state, `in(STATE)`.\n"
     "m.yaml:9:86: error: \"late\" is no input or variable [unknown-name]\n"
     "    It is a window; a rule is open within it by `during: late`.\n"
     "m.yaml:9:107: error: \"c\" is no input or variable [unknown-name]\n"
     "    It is a clip; a state plays it by `clip: c`.\n"
     "m.yaml:12:17: error: there is no clip \"near\" [unknown-name]\n"
     "    It is an input; a guard asks for its value, `when:`.\n"
     "m.yaml:12:34: error: there is no cue \"swing\" [unknown-name]\n"
     "    It is a pulse; a rule takes it by `pulse: swing`.\n"
     "m.yaml:12:57: error: there is no pulse \"thud\" [unknown-name]\n"
     "    It is a cue; a rule hears it by `cue: thud`, an action tells it by `tell: thud`.\n"
     "m.yaml:12:80: error: there is no window \"thud\" [unknown-name]\n"
     "    It is a cue; a rule hears it by `cue: thud`, an action tells it by `tell: thud`.\n"
     "m.yaml:13:29: error: there is no state \"c\" [unknown-name]\n"
     "    It is a clip; \"a\" plays it.\n"
     "m.yaml:13:52: error: there is no state \"late\" [unknown-name]\n"
     "    It is a window; a rule is open within it by `during: late`.\n"
     "m.yaml:13:66: error: \"at_end\" is no input or variable [unknown-name]\n"
     "    That the state's clip has ended is `at: end` of a rule.\n"
     "m.yaml:13:89: error: \"i\" is a state, and no input or variable [unknown-name]\n"
     "    Whether it is active is asked by `in(i)`.\n"
     "m.yaml:13:106: error: there is no cue \"late\" [unknown-name]\n"
     "    It is a window; a rule is open within it by `during: late`.\n"},
    {"HabitsOfShapesAndFrames",
     "inputs: {near: false, hp: 3}\n"
     "clips:\n"
     "  c: {sheet: a.png, tile: 40x56, frames: [0..5], fps: 12}\n"
     "  d: {frames: [0-3], fps: 12}\n"
     "cues: {bite: {kind: damage, reach: jaw}}\n"
     "reaches: {jaw: {cone: {range: 26, angle: 75}, ignores: [self]}, paw: {cone: [1, 2]}}\n"
     "zones: {den: {radius: 40, tags: [bee], fills: near}}\n"
     "looks: {pale: {if: hp < 2, art: {a.png: b.png}}}\n"
     "states: {a: {pose: d/2, enter: [{tell: bite}]}}\n"
     "claims: {x: {after: near, then: near}}\n",
     "m.yaml:5:27: error: `tile:` is \"40x56\" [wrong-type]\n"
     "    Write `[40, 56]`.\n"
     "m.yaml:5:43: error: a frame is \"0..5\" [wrong-type]\n"
     "    Write `0-5`.\n"
     "m.yaml:8:24: error: \"range\" is no key of a cone [unknown-key]\n"
     "    Did you mean \"length\"?\n"
     "m.yaml:8:47: error: \"ignores\" is no key of a reach [unknown-key]\n"
     "    Did you mean \"spares\"?\n"
     "m.yaml:8:77: error: a cone is a list [wrong-type]\n"
     "    Expected a map: `name: value` lines.\n"
     "m.yaml:9:15: error: \"radius\" is no key of a zone [unknown-key]\n"
     "    Write `rect: [left, bottom, width, height]` or `circle: [x, y, radius]`.\n"
     "m.yaml:9:40: error: \"fills\" is no key of a zone [unknown-key]\n"
     "    Did you mean \"inside\"?\n"
     "m.yaml:10:16: error: \"if\" is no key of a look [unknown-key]\n"
     "    Did you mean \"when\"?\n"
     "m.yaml:11:20: error: `pose:` is \"d/2\" [wrong-type]\n"
     "    Write `pose: {clip: d, frame: 2}`.\n"
     "m.yaml:12:14: error: \"after\" is no key of a claim [unknown-key]\n"
     "    Write `{from: E, within: 2s, reaches: F}`.\n"},
    // A state is meant before a clip of that name.
    {"AStateAndAClipOfOneName",
     "clips: {fall: {frames: [0-1], fps: 12}}\ninputs: {x: false}\ninitial: a\nstates:\n  a: {go: [{when: x, to: "
     "fall}]}\n"
     "  b: {go: [{when: x, to: a}], states: {fall: {clip: fall}}}",
     "m.yaml:7:26: error: there is no state \"fall\" [unknown-name]\n    Did you mean \"b/fall\"?\n"},
    {"APairWithoutItsBrackets",
     "clips: {c: {frames: [0-1], fps: 12}}\nstates: {a: {clip: c}}\nmarks:\n  c:\n    pivot: 22, 38\n    boxes:\n"
     "      - {name: b, role: hurt, rect: 0 0 4 4}",
     "m.yaml:7:12: error: `pivot:` is \"22, 38\" [wrong-type]\n    Write `[22, 38]`.\n"
     "m.yaml:9:37: error: `rect:` is \"0 0 4 4\" [wrong-type]\n    Write `[0, 0, 4, 4]`.\n"},
    {"AScene", "actors: {k: {}}",
     "m.yaml:3:1: error: the file has `actors:` but no `scene:` [wrong-kind-of-file]\n    Add `scene: NAME`.\n"},
    {"APackedSheetInPlaceOfAMachine", "image: smoker.png\nrects: {walk_0: [0, 0, 8, 8]}\n",
     "m.yaml:4:1: error: the file describes a packed sheet [wrong-kind-of-file]\n    A clip names it, `sheet: FILE`; "
     "`mobrin import FILE -o NAME.clips.yaml` makes clips of it.\n"},
    {"ATape", "steps: []",
     "m.yaml:3:1: error: the file has `steps:` but no `tape:` [wrong-kind-of-file]\n    Add `tape: NAME`.\n"},
};

INSTANTIATE_TEST_SUITE_P(, Slips, testing::ValuesIn(kSlips), name_of_told);
}  // namespace
}  // namespace mobrin::test
