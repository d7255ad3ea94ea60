// Loading: what files may say, and the exact text of what is wrong with broken ones.
#include <unistd.h>

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <random>

#include "support.hpp"

namespace mobrin::test {
namespace {

// After `mobrin: 1` and `machine: m`, with all that is told.
class LoaderErrors : public testing::TestWithParam<ToldRow> {};

TEST_P(LoaderErrors, SayWhereWhatAndHowToMendIt) { EXPECT_EQ(findings_of(GetParam().text), GetParam().told); }

const ToldRow kWrong[] = {
    {"UnknownKey", "states: {a: {clpi: x}}",
     "m.yaml:3:14: error: \"clpi\" is no key of a state [unknown-key]\n    Did you mean \"clip\"?\n"
     "m.yaml:3:20: error: there is no clip \"x\" [unknown-name]\n    Add it under `clips:`.\n"},
    {"WhatHangsOnAMisspeltKeyIsNotTold",
     "inputz: {near: false}\nclip: {fly: {frames: 0-3, fsp: 8}}\nstaets: {a: {cilp: fly, go: [{wehn: near, tp: a}]}}",
     "m.yaml:3:1: error: \"inputz\" is no key of a machine [unknown-key]\n    Did you mean \"inputs\"?\n"
     "m.yaml:4:1: error: \"clip\" is no key of a machine [unknown-key]\n    Did you mean \"clips\"?\n"
     "m.yaml:4:27: error: \"fsp\" is no key of a clip [unknown-key]\n    Did you mean \"fps\"?\n"
     "m.yaml:5:1: error: \"staets\" is no key of a machine [unknown-key]\n    Did you mean \"states\"?\n"
     "m.yaml:5:14: error: \"cilp\" is no key of a state [unknown-key]\n    Did you mean \"clip\"?\n"
     "m.yaml:5:31: error: \"wehn\" is no key of a transition [unknown-key]\n    Did you mean \"when\"?\n"
     "m.yaml:5:43: error: \"tp\" is no key of a transition [unknown-key]\n    Did you mean \"to\"?\n"},
    {"KeysByOtherWords",
     "inputs: {p: {trigger: 100ms}, v: true}\nanimations: {}\nstates: {a: {on_enter: [], rules: [], go: [{if: v, "
     "target: a}]}}",
     "m.yaml:3:14: error: \"trigger\" is no key of an input [unknown-key]\n    Did you mean "
     "\"pulse\"?\nm.yaml:4:1: error: \"animations\" is no key of a machine [unknown-key]\n    Did you mean "
     "\"clips\"?\nm.yaml:5:14: error: \"on_enter\" is no key of a state [unknown-key]\n    Did you mean "
     "\"enter\"?\nm.yaml:5:28: error: \"rules\" is no key of a state [unknown-key]\n    Did you mean "
     "\"go\"? `go:` stands here too: keep one.\nm.yaml:5:45: error: \"if\" is no key of a transition [unknown-key]\n   "
     " Did you mean "
     "\"when\"?\nm.yaml:5:52: error: \"target\" is no key of a transition [unknown-key]\n    Did you mean \"to\"?\n"},
    {"UnknownTopKey", "statse: {a: {}}",
     "m.yaml:3:1: error: \"statse\" is no key of a machine [unknown-key]\n    Did you mean \"states\"?\n"},
    {"DuplicateKey", "states:\n  a: {}\n  a: {}",
     "m.yaml:5:3: error: the key \"a\" stands here a second time [duplicate-key]\n    Remove one of the two, or join "
     "them.\n"},
    {"SeveralAtOnce",
     "inputs: {x: {flaot: 0}}\ninitial: a\nstates: {a: {clip: wlak, go: [{to: c}]}, b: {}}\nclips: {walk: {frames: "
     "[0], fps: 1}}",
     "m.yaml:3:14: error: \"flaot\" is no key of an input [unknown-key]\n    Did you mean \"float\"?\n"
     "m.yaml:5:20: error: there is no clip \"wlak\" [unknown-name]\n    Did you mean \"walk\"?\nm.yaml:5:36: error: "
     "there is no state \"c\" [unknown-name]\n    Name a state of this machine, or a path like `faint/lie`. There is "
     "a, b.\n"},
    {"AnInputByItsTypeAlone",
     "inputs: {a: pules, b: float, c: boolean, d: flase, e: trigger, f: enum, g: integer, h: xyzzy}\nstates: {s: {}}",
     "m.yaml:3:13: error: the input \"a\" is \"pules\" [wrong-type]\n    Write `pulse`.\n"
     "m.yaml:3:23: error: the input \"b\" is \"float\" [wrong-type]\n    Write `{float: 0}`, with what it starts at.\n"
     "m.yaml:3:33: error: the input \"c\" is \"boolean\" [wrong-type]\n    Write how it starts, `false`, or `{bool: "
     "false}`.\n"
     "m.yaml:3:45: error: the input \"d\" is \"flase\" [wrong-type]\n    Write `false`.\n"
     "m.yaml:3:55: error: the input \"e\" is \"trigger\" [wrong-type]\n    Write `pulse`.\n"
     "m.yaml:3:67: error: the input \"f\" is \"enum\" [wrong-type]\n    Write its choices, `{one_of: [a, b]}`.\n"
     "m.yaml:3:76: error: the input \"g\" is \"integer\" [wrong-type]\n    Write `{int: 0}`, with what it starts at.\n"
     "m.yaml:3:88: error: the input \"h\" is \"xyzzy\" [wrong-type]\n    Expected `pulse`, `true`, a number, or a map "
     "such as `{float: 0, min: -1, max: 1}`, `{one_of: [a, b]}`, `{pulse: 110ms}`.\n"},
    {"WhatFollowsIsNotSaidAgain", "inputs: {move: {int: x}}\nstates: {a: {go: [{when: move > 0, to: a}]}}",
     "m.yaml:3:22: error: the input \"move\" is \"x\" [wrong-type]\n    Expected a whole number from -2147483648 to "
     "2147483647.\n"},
    {"NorWhatABrokenInputIsComparedWith",
     "inputs: {tool: {choice: [none, net]}}\nstates: {a: {go: [{when: tool != none, to: a}]}}",
     "m.yaml:3:17: error: \"choice\" is no key of an input [unknown-key]\n    Did you mean \"one_of\"?\n"},
    {"AMisspeltInputIsToldAndNotItsChoice",
     "inputs: {tool: {one_of: [none, net]}}\nstates: {a: {go: [{when: net == tol, to: a}]}}",
     "m.yaml:4:33: error: \"tol\" is no input or variable [unknown-name]\n    Did you mean \"tool\"?\n"},
    {"APulseWithACondition", "inputs: {p: pulse, v: true}\nstates: {a: {go: [{pulse: p and v, to: a}]}}",
     "m.yaml:4:27: error: there is no pulse \"p and v\" [unknown-name]\n    It is the name of one pulse; what else "
     "must hold is written beside it, as `when:`. There is p.\n"},
    {"ACueThatIsNotTold", "cues: {k: {}}\nstates: {a: {enter: k}}",
     "m.yaml:4:21: error: \"k\" is no action [bad-expression]\n    Write `tell: k`.\n"},
    {"CountingUp", "vars: {n: 0}\nstates: {a: {enter: [n += 1, n*= 2 + n, n--, n =+ 1]}}",
     "m.yaml:4:22: error: \"n += 1\" is no action [bad-expression]\n    Write `n = n + 1`.\nm.yaml:4:30: error: \"n*= "
     "2 + n\" is no action [bad-expression]\n    Write `n = n * (2 + n)`.\nm.yaml:4:41: error: \"n--\" is no action "
     "[bad-expression]\n    Write `n = n - 1`.\nm.yaml:4:49: error: \"+\" is not expected here in \"+ 1\" "
     "[bad-expression]\n    Expected a number, a name or `(`.\n"},
    {"TheCueBeforeItsFrame",
     "cues: {k: {}}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {k: 3}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:20: error: the place of a cue is \"k\" [wrong-type]\n    Expected the frame first, then the cue: `3: "
     "k`.\n"},
    {"ACueAtTheEnd",
     "cues: {k: {}}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {end: k}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:20: error: the place of a cue is \"end\" [wrong-type]\n    Expected a frame `3`, the end of a frame "
     "`5.end`, or a time `0.22s`.\n"},
    {"ManyFramesThatAreNone", "clips: {c: {frames: 2000000, fps: 10}}\nstates: {a: {clip: c}}",
     "m.yaml:3:21: error: a frame is \"2000000\" [wrong-type]\n    Expected a number `3`, a range `2-5`, or a hold "
     "`7*3`.\n"},
    {"ANumberOfFrames",
     "clips: {c: {frames: 6, fps: 10}, one: {frames: 1, fps: 10}, none: {frames: 0, fps: 10}, six: {frames: [6], fps: "
     "10}}\nstates: {a: {clip: c}}",
     "m.yaml:3:21: warning: `frames: 6` is one frame, number 6 [lone-frame]\n    Write `[0-5]` for 6 frames, `[6]` for "
     "this one.\nm.yaml:3:48: warning: `frames: 1` is one frame, number 1 [lone-frame]\n    Write `[0]` for one frame, "
     "`[1]` for this one.\n"},
    {"InitialMissing", "states: {a: {}, b: {}}",
     "m.yaml:2:10: error: the machine has several states but does not say which is first [missing-key]\n    Add "
     "`initial:` with the name of one.\n"},
    {"InitialMisspelt", "initial: stnad\nstates: {stand: {}, b: {}}",
     "m.yaml:3:10: error: there is no state \"stnad\" [unknown-name]\n    Did you mean \"stand\"?\n"},
    {"CommaInBraces", "inputs: {x: 0}\nstates: {a: {go: [{when: max(x, 1) > 2, to: a}]}}",
     "m.yaml:4:26: error: the expression \"max(x\" is cut at its comma: inside { } and [ ] a comma ends the value "
     "[bad-expression]\n    Put the whole expression in quotes: `\"max(x, 1) > 2\"`.\n"},
    {"BangTag", "inputs: {x: true}\nstates: {a: {go: [{when: !x, to: a}]}}",
     "m.yaml:4:26: error: `when:` begins with `!`, which YAML takes for itself [bad-expression]\n    Write `not x`.\n"},
    {"BangAndSpace", "inputs: {x: true}\nstates: {a: {go: [{when: ! x, to: a}]}}",
     "m.yaml:4:26: error: `when:` begins with `!`, which YAML takes for itself [bad-expression]\n    Write `not x`.\n"},
    {"YesIsNoBool", "states: {a: {final: yes}}",
     "m.yaml:3:21: error: `final:` is \"yes\" [wrong-type]\n    Expected `true` or `false`.\n"},
    {"NoUnit", "states: {a: {length: 5}}",
     "m.yaml:3:22: error: `length:` is \"5\" [wrong-type]\n    Write `5s` or `5ms`.\n"},
    {"TooShort", "states: {a: {length: 0.5ms}}",
     "m.yaml:3:22: error: `length:` is \"0.5ms\", which is too short [bad-value]\n    A duration is 0 or at least 1 "
     "ms.\n"},
    {"FrameOutside",
     "cues: {k: {}}\nclips: {c: {frames: [0-5], fps: 10}}\nmarks: {c: {cues: {6: k}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:20: error: frame 6 is not in the clip \"c\" [outside-clip]\n    It has 6 frames, 0 to 5.\n"},
    {"TimeOutside",
     "cues: {k: {}}\nclips: {c: {frames: [0-5], fps: 10}}\nmarks: {c: {cues: {0.61s: k}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:20: error: the cue \"k\" lies at 0.61 s, past the end of \"c\" [outside-clip]\n    The clip lasts 0.6 "
     "s.\n"},
    {"CueUndeclared",
     "cues: {step: sound}\nclips: {c: {frames: [0-5], fps: 10}}\nmarks: {c: {cues: {1: setp}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:23: error: there is no cue \"setp\" [unknown-name]\n    Did you mean \"step\"?\n"},
    {"FieldUndeclared",
     "cues: {hit: {kind: damage, amount: 2}}\nclips: {c: {frames: [0], fps: 10}}\nmarks: {c: {cues: {0: {hit: {amout: "
     "3}}}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:30: error: there is no field of the cue \"hit\" called \"amout\" [unknown-name]\n    Did you mean "
     "\"amount\"?\n"},
    {"FieldType",
     "cues: {hit: {kind: damage, amount: 2}}\nclips: {c: {frames: [0], fps: 10}}\nmarks: {c: {cues: {0: {hit: {amount: "
     "lots}}}}}\nstates: {a: {clip: c}}",
     "m.yaml:5:30: error: the field \"amount\" is text here [wrong-type]\n    It is declared as a whole number; a "
     "field holds a value, no expression.\n"},
    {"PlayMisspelt", "clips: {c: {frames: [0], fps: 10, play: lop}}\nstates: {a: {clip: c}}",
     "m.yaml:3:41: error: `play:` is \"lop\" [bad-value]\n    Did you mean \"loop\"?\n"},
    {"ClipTooShort", "clips: {c: {frames: [0], fps: 2000}}\nstates: {a: {clip: c}}",
     "m.yaml:3:9: error: the clip \"c\" lasts less than 1 ms [bad-value]\n    Check its `fps:` and holds.\n"},
    {"NoTiming", "clips: {c: {frames: [0-3]}}\nstates: {a: {clip: c}}",
     "m.yaml:3:9: error: the clip \"c\" says no timing [missing-key]\n    Add `fps:`, or `times:` with one time a "
     "frame.\n"},
    {"TimesDoNotMatch", "clips: {c: {frames: [0-3], times: [10ms]}}\nstates: {a: {clip: c}}",
     "m.yaml:3:35: error: the clip \"c\" has 4 frames and 1 time [bad-value]\n    Give one time a frame; one for all "
     "is `fps: 100`.\n"},
    {"SheetWithoutTile", "clips: {c: {sheet: a.png, frames: [0], fps: 1}}\nstates: {a: {clip: c}}",
     "m.yaml:3:20: error: the sheet \"a.png\" has no `tile:` [missing-key]\n    Add `tile: [width, height]`, or "
     "declare its rectangles under `sheets:`.\n"},
    {"UnknownRectangle",
     "sheets: {p: {image: p.png, rects: {bow_1: [0, 0, 8, 8]}}}\nclips: {c: {sheet: p, frames: [bow1], fps: "
     "1}}\nstates: {a: {clip: c}}",
     "m.yaml:4:32: error: there is no rectangle \"bow1\" on this sheet [unknown-name]\n    Did you mean \"bow_1\"?\n"},
    {"PartsOfEachOther",
     "clips: {c: {part: {of: d, frames: [0]}}, d: {part: {of: c, frames: [0]}}}\nstates: {a: {clip: c}}",
     "m.yaml:3:9: error: the clip \"c\" has neither frames nor a length [missing-key]\n    Give it `frames:` with "
     "`fps:`, or a `length:`.\nm.yaml:3:19: error: the parts \"d\" and \"c\" are taken from each other [bad-value]\n   "
     " Give one of them frames of its own.\nm.yaml:3:42: error: the clip \"d\" has neither frames nor a length "
     "[missing-key]\n    Give it `frames:` with `fps:`, or a `length:`.\nm.yaml:3:52: error: the parts \"c\" and \"d\" "
     "are taken from each other [bad-value]\n    Give one of them frames of its own.\n"},
    {"TwoEvents", "inputs: {p: pulse}\nstates: {a: {go: [{pulse: p, after: 1s, to: a}]}}",
     "m.yaml:4:19: error: a transition with several events: pulse: p, after: 1s [conflicting-keys]\n    A "
     "transition has one of `pulse:`, `cue:`, `at:` and `after:`; write one a transition.\n"},
    {"NoTarget", "states: {a: {go: [{after: 1s}]}}",
     "m.yaml:3:19: error: a transition without a target [missing-key]\n    Add `to:` with the name of a state.\n"},
    {"AtEndOfNothing", "states: {a: {go: [{at: end, to: a}]}}",
     "m.yaml:3:19: error: `at: end` in \"a\", which plays nothing [meaningless-event]\n    Give it a clip or a "
     "`length:`, or use `after:`.\n"},
    {"AtEndOfALoop", "clips: {c: {frames: [0-3], fps: 10, play: loop}}\nstates: {a: {clip: c, go: [{at: end, to: a}]}}",
     "m.yaml:4:28: warning: `at: end` never holds in \"a\": its clip loops for ever [never-ends]\n    Play the clip "
     "once, count its loops (`loop x3`), or use `at: loop`.\n"},
    {"ClockOfWhatEnds",
     "clips: {c: {frames: [0-3], fps: 10}}\ninitial: a\nstates: {a: {go: [{after: 1s, to: b, start: clock}]}, b: "
     "{clip: c}}",
     "m.yaml:5:45: error: `start: clock` into \"b\", whose play ends [meaningless-event]\n    Only a clip that loops "
     "for ever can follow the clock.\n"},
    {"WindowUnknown",
     "clips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {windows: {again: 2-3}}}\ninputs: {p: pulse}\nstates: {a: "
     "{clip: c, go: [{pulse: p, during: agian, to: a}]}}",
     "m.yaml:6:47: error: there is no window \"agian\" [unknown-name]\n    Did you mean \"again\"?\n"},
    {"FinalWithWayOut", "initial: a\nstates: {a: {final: true, go: [{after: 1s, to: b}]}, b: {}}",
     "m.yaml:4:10: error: the final state \"a\" has transitions [conflicting-keys]\n    A final state is an end: it "
     "has neither `go:` nor states inside.\n"},
    {"AssignsAnInput", "inputs: {x: 0}\nstates: {a: {enter: [x = 1]}}",
     "m.yaml:4:22: error: \"x\" is an input, which only the game writes [wrong-operand]\n    Declare a variable under "
     "`vars:` and assign to that.\n"},
    {"AssignsAnotherType", "vars: {x: 0}\nstates: {a: {enter: [x = 1.5]}}",
     "m.yaml:4:22: error: \"x = 1.5\" assigns a number to a variable that holds a whole number [wrong-type]\n    Start "
     "the variable as `x: 0.0` to let it hold any number.\n"},
    {"SpeedOutOfRange", "clips: {c: {frames: [0-3], fps: 10}}\nstates: {a: {clip: c, speed: 65}}",
     "m.yaml:4:30: error: the speed 65 is out of range [bad-value]\n    Speeds lie between -64 and 64.\n"},
    {"AnotherRegion",
     "regions:\n  l: {initial: a, states: {a: {go: [{after: 1s, to: r/d}]}, b: {}}}\n  r: {initial: c, states: {c: {}, "
     "d: {}}}",
     "m.yaml:4:53: error: \"r/d\" lies in another region than this transition [unreachable-target]\n    Regions speak "
     "to each other through cues, inputs and `in(...)`.\n"},
    {"InitialIsNoChild", "initial: a\nstates: {a: {initial: b, states: {b: {initial: a, states: {c: {}, d: {}}}}}}",
     "m.yaml:4:48: error: there is no state \"a\" [unknown-name]\n    `initial:` names one of the states beside it. "
     "There is c, "
     "d.\n"},
    {"InitialIsNotSaid", "states: {a: {}, b: {}}",
     "m.yaml:2:10: error: the machine has several states but does not say which is first [missing-key]\n    Add "
     "`initial:` with the name of one.\n"},
    {"TargetMisspelt", "initial: stand\nstates: {stand: {go: [{after: 1s, to: wlak}]}, walk: {}}",
     "m.yaml:4:39: error: there is no state \"wlak\" [unknown-name]\n    Did you mean \"walk\"?\n"},
    {"VariableOfAnotherState", "initial: a\nstates: {a: {go: [{when: rounds > 2, to: b}]}, b: {vars: {rounds: 0}}}",
     "m.yaml:4:26: error: \"rounds\" is no input or variable [unknown-name]\n    It is a variable of \"b\" and exists "
     "only "
     "inside it; declare it under `vars:` of a state around both.\n"},
    {"AtLoopOfSeveralRegions",
     "initial: a\nstates:\n  a: {go: [{at: loop, to: b}], regions: {x: {states: {p: {}}}, y: {states: {q: {}}}}}\n  b: "
     "{}",
     "m.yaml:5:12: error: `at: loop` on a state with several regions [meaningless-event]\n    Move the transition into "
     "the region whose play it speaks of.\n"},
    {"EachLoopOfNothing", "vars: {n: 0}\nstates: {a: {each_loop: [n = n + 1]}}",
     "m.yaml:4:10: error: \"a\" has `each_loop:` but plays no clip [meaningless-event]\n    Give it a clip that "
     "loops.\n"},
    {"EachLoopOfClipsInTurn",
     "vars: {n: 0}\nclips: {c: {frames: [0-3], fps: 8}}\nstates: {a: {clip: [c, c], each_loop: [n = n + 1]}}",
     "m.yaml:5:10: warning: `each_loop:` of \"a\" never runs: its play does not loop [never-ends]\n    Clips in turn "
     "have "
     "no loop moments; use cues at their ends.\n"},
    {"RangeBackwards", "inputs: {x: {float: 0, min: 1, max: -1}}\nstates: {a: {}}",
     "m.yaml:3:10: error: the input \"x\" has a range that ends before it begins [bad-value]\n    `min:` is at most "
     "`max:`.\n"},
    {"NameOfTheLanguage", "inputs: {in: 0}\nstates: {a: {}}",
     "m.yaml:3:10: error: \"in\" cannot be the name of an input [bad-name]\n    A name is a letter, then letters, "
     "digits or underscores (at most 64), and no word of the expression language.\n"},
    {"BackFromAnywhere", "inputs: {p: pulse}\ngo: [{pulse: p, to: back}]\nstates: {a: {}}",
     "m.yaml:4:21: error: `to: back` from anywhere has nothing to go back from [unreachable-target]\n    Write it in "
     "the "
     "`go:` of the state that is left.\n"},
    {"LastOfALeaf", "initial: a\nstates: {a: {go: [{after: 1s, to: b/last}]}, b: {}}",
     "m.yaml:4:35: error: `to: b/last`, but that state has no states inside to come back to [unreachable-target]\n    "
     "Name "
     "the state itself.\n"},
    {"BrokenYaml", "states: {a: {go: [",
     "m.yaml:3:18: error: the `[` that begins here is not closed [bad-yaml]\n    Close it with `]`.\n"},
};

INSTANTIATE_TEST_SUITE_P(All, LoaderErrors, testing::ValuesIn(kWrong), name_of_told);

std::string whole_file(const std::string& text) { return joined(load_character_text(text, "f.yaml").findings); }

TEST(Loader, JudgesAFileByItsTop) {
  EXPECT_EQ(whole_file(""),
            "f.yaml:1:1: error: the file is empty [wrong-kind-of-file]\n    Expected a machine, or clips, marks, "
            "inputs or cues.\n");
  EXPECT_EQ(whole_file("[1]"),
            "f.yaml:1:1: error: the file holds a list, not a map [wrong-kind-of-file]\n    Expected a machine, or "
            "clips, marks, inputs or cues.\n");
  const std::string no_version =
      "f.yaml:1:1: error: the file does not say `mobrin: 1` [wrong-version]\n    Put `mobrin: 1` at its begin, the "
      "version of the format.\n";
  EXPECT_EQ(whole_file("frames: {a: 1}"), no_version);
  // What says that it is a machine is read on.
  const std::string no_state =
      "f.yaml:2:35: error: there is no state \"b\" [unknown-name]\n    Name a state of this machine, or a path like "
      "`faint/lie`. There is a.\n";
  EXPECT_EQ(whole_file("machine: m\nstates: {a: {go: [{after: 1s, to: b}]}}"), no_version + no_state);
  EXPECT_EQ(whole_file("mobrin: 2"),
            "f.yaml:1:9: error: this is version \"2\" of the format [wrong-version]\n    This build reads version 1: "
            "`mobrin: 1`.\n");
  EXPECT_EQ(whole_file("mobrin: 1\ntape: t"),
            "f.yaml:1:1: error: \"f.yaml\" is a tape [wrong-kind-of-file]\n    Name its machine here and give the tape "
            "with `--tape`.\n");
  EXPECT_EQ(whole_file("mobrin: 1\nstates: {a: {go: [{after: 1s, to: b}]}}"),
            "f.yaml:2:9: error: the file has `states:` but no `machine:` [wrong-kind-of-file]\n    Add `machine: "
            "NAME`.\n" +
                no_state);
  EXPECT_EQ(joined(load_character("/nowhere/x.yaml").findings),
            "/nowhere/x.yaml: error: \"/nowhere/x.yaml\" does not exist [unreadable-file]\n    Check the path.\n");
}

TEST(Loader, AMisspeltFileIsAnsweredWithTheOneBesideItAndNothingThatFollows) {
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / ("mobrin_near_" + std::to_string(::getpid()));
  std::filesystem::remove_all(folder);
  std::filesystem::create_directories(folder);
  const auto put = [&](const char* name, const char* text) {
    std::ofstream(folder / name) << text;
    return (folder / name).string();
  };
  put("bee.clips.yaml", "mobrin: 1\nclips: {hum: {length: 1s}}\n");
  put("a.clips.yaml", "mobrin: 1\nclips: {hum: {length: 1s}}\n");
  put("moth.yaml", "");
  const auto found = [&](const std::string& use) {
    const std::string text = "mobrin: 1\nmachine: m\nuse: " + use +
                             "\nmarks: {hum: {cues: {0: k}}}\nstates: {a: {clip: hum, enter: {tell: q}}}\n";
    std::string out = joined(load_character(put("m.yaml", text.c_str())).findings);
    for (std::size_t at = out.find(folder.string() + "/"); at != std::string::npos;
         at = out.find(folder.string() + "/"))
      out.erase(at, folder.string().size() + 1);
    return out;
  };
  EXPECT_EQ(
      found("bee.clip.yaml"),
      "m.yaml:3:6: error: \"bee.clip.yaml\" does not exist [unreadable-file]\n    Did you mean \"bee.clips.yaml\"?\n");
  EXPECT_EQ(
      found("bea.clips.yml"),
      "m.yaml:3:6: error: \"bea.clips.yml\" does not exist [unreadable-file]\n    Did you mean \"bee.clips.yaml\"?\n");
  for (const char* far : {"b.clips.yaml", "nothing.yaml", "bee/clips.yaml"})
    EXPECT_NE(found(far).find("Check the path; it is relative to the file it stands in.\n"), std::string::npos) << far;
  // A file that is there, but none that can be used, may hold the names as well.
  put("of_another.clips.yaml", "mborin: 1\nclips: {hum: {frames: 0-3, fps: 9}}\ncues: {k: {}, q: {}}\n");
  EXPECT_EQ(found("of_another.clips.yaml"),
            "of_another.clips.yaml:1:1: error: the file does not say `mobrin: 1` [wrong-version]\n    Write it where "
            "`mborin:` stands; it is the version of the format.\n");
  put("whole.yaml", "mobrin: 1\nmachine: w\nclips: {hum: {length: 1s}}\ncues: {k: {}, q: {}}\nstates: {a: {}}\n");
  EXPECT_EQ(
      found("whole.yaml"),
      "whole.yaml:2:10: error: a file that is used by another has `machine:` [wrong-kind-of-file]\n    Only clips, "
      "marks, inputs and cues can be used.\n");
  // With the file there, what it lacks is told.
  EXPECT_NE(found("bee.clips.yaml").find("there are no cues, and 2 are named: \"k\", \"q\""), std::string::npos);
  std::filesystem::remove_all(folder);
}

TEST(Loader, TheKindOfAFileThatIsMisspeltIsToldAlone) {
  for (const auto& [line, remedy] :
       {std::pair("cahracter: bee\nmachine: bee.yaml\nmarks: {fly: {pivot: [1, 1]}}\n", "Did you mean \"character\"?"),
        std::pair("taep: bee.yaml\nsteps: []\n", "Did you mean \"tape\"?"),
        std::pair("scnee: field\nuntil: 2s\nactors: {}\n", "Did you mean \"scene\"?")}) {
    const std::string said = whole_file(std::string("mobrin: 1\n") + line);
    EXPECT_NE(said.find(std::string("is no key of a machine [unknown-key]\n    ") + remedy + "\n"), std::string::npos)
        << said;
    EXPECT_EQ(std::count(said.begin(), said.end(), '\n'), 2) << said;
  }
}

TEST(Loader, HostileFilesAreRefusedQuickly) {
  EXPECT_NE(whole_file(std::string(100'000, '[')).find("nests too deeply"), std::string::npos);
  EXPECT_NE(whole_file(std::string("a\0b", 3)).find("zero byte"), std::string::npos);
  EXPECT_NE(whole_file("mobrin: 1\n" + std::string(9u << 20, '#')).find("larger than 8 MiB"), std::string::npos);
  std::string laughs = "mobrin: 1\na: &a [x,x,x,x,x,x,x,x,x,x]\n";
  for (char c = 'b'; c < 'h'; ++c) {
    laughs += std::string(1, c) + ": &" + c + " [";
    for (int i = 0; i < 10; ++i) laughs += std::string(i > 0 ? "," : "") + "*" + static_cast<char>(c - 1);
    laughs += "]\n";
  }
  EXPECT_NE(whole_file(laughs).find("more than 500000 values"), std::string::npos);
  EXPECT_NE(whole_file("mobrin: 1\nclips: {c: {frames: [0-900000], fps: 1}}").find("more than 10000 frames"),
            std::string::npos);
  EXPECT_NE(whole_file("mobrin: 1\n---\nmobrin: 1\n").find("several documents"), std::string::npos);
  const std::string long_text = "mobrin: 1\na: &a " + std::string(1u << 20, 'x') + "\nb: [";
  const auto aliases = [&](int count) {
    std::string out = long_text;
    for (int i = 0; i < count; ++i) out += i > 0 ? ", *a" : "*a";
    return whole_file(out + "]\n");
  };
  EXPECT_EQ(aliases(20).find("MiB"), std::string::npos);
  EXPECT_NE(aliases(140).find("takes more than 128 MiB of memory"), std::string::npos);
}

// Bytes of a sound file changed or cut off: any answer but a crash, and a machine only without errors.
TEST(Loader, DamagedFilesNeverCrash) {
  std::ifstream stream(MOBRIN_DEMO "/smoker.yaml");
  const std::string sound((std::istreambuf_iterator<char>(stream)), {});
  ASSERT_TRUE(load_character_text(sound, MOBRIN_DEMO "/smoker.yaml").machine);
  std::mt19937 random(7);
  for (int i = 0; i < 1500; ++i) {
    std::string damaged = sound;
    if (i % 3 == 0)
      damaged.resize(random() % sound.size());
    else
      for (int k = 0; k < 1 + i % 4; ++k) damaged[random() % damaged.size()] = "{}[]:,*&!-#'\"0 \n\txz"[random() % 19];
    const Loaded loaded = load_character_text(damaged, "d.yaml");
    ASSERT_EQ(loaded.machine.has_value(), !has_errors(loaded.findings)) << damaged;
  }
}

TEST(Loader, JsonFilesLoadToo) {
  const Loaded loaded = load_character_text(R"({"mobrin": 1, "machine": "j", "initial": "a",
	"inputs": {"x": {"float": 0.5}, "p": "pulse", "q": {"pulse": "110ms"}},
	"clips": {"c": {"frames": ["0-3", 4], "fps": "30000/1001", "play": "loop x2"}},
	"marks": {"c": {"cues": {"1": "k", "2.end": ["k"]}, "windows": {"w": "1-2"}}}, "cues": {"k": {"kind": "sound", "gain": 0.5}},
	"states": {"a": {"clip": "c", "go": [{"when": "x > 1", "to": "b"}, {"pulse": "p", "during": "w", "to": "b", "start": "same"}]}, "b": {"clip": "c", "traits": ["busy"]}}})",
                                            "j.json");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
}

TEST(Loader, FilesUseEachOtherOnceAndFromTheirOwnFolder) {
  const auto folder = std::filesystem::temp_directory_path() / ("mobrin-use-" + std::to_string(std::random_device()()));
  std::filesystem::create_directories(folder / "art");
  const auto write = [&](const char* name, const std::string& text) {
    std::ofstream(folder / name) << "mobrin: 1\n" << text;
  };
  write("m.yaml",
        "machine: m\nuse: [shared.yaml, art/c.clips.yaml]\nstates: {a: {clip: c, go: [{when: x > 0, to: a}]}}\n");
  write("shared.yaml", "inputs: {x: 0}\ncues: {k: sound}\n");
  write("art/c.clips.yaml",
        "use: ../shared.yaml\nclips: {c: {sheet: c.png, tile: [8, 8], frames: [0], fps: 10}}\nmarks: {c: {cues: {0: "
        "k}}}\n");
  const Loaded loaded = load_character((folder / "m.yaml").string());
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(loaded.files.size(), 3u);
  EXPECT_EQ(loaded.machine->clips()[0].def.frames[0].art.source, "art/c.png");
  write("shared.yaml", "inputs: {x: 0}\ncues: {q: sound}\nstates: {}\n");
  EXPECT_NE(joined(load_character((folder / "m.yaml").string()).findings)
                .find("shared.yaml:4:9: error: a file that is used by another has `states:`"),
            std::string::npos);
  write("m.yaml", "machine: m\nuse: nope.yaml\nstates: {a: {}}\n");
  EXPECT_NE(joined(load_character((folder / "m.yaml").string()).findings).find("m.yaml:3:6: error: \""),
            std::string::npos);
  std::filesystem::remove_all(folder);
}

TEST(Loader, ClipsAloneAreCheckedWithoutTheirMachine) {
  const Loaded sound = load_character(MOBRIN_DEMO "/keeper.clips.yaml");
  EXPECT_TRUE(sound.machine) << joined(sound.findings);
  EXPECT_FALSE(sound.has_machine);
  EXPECT_EQ(sound.machine->clips().size(), 8u);
  const Loaded marks = load_character(MOBRIN_DEMO "/keeper.marks.yaml");  // of clips that are elsewhere
  EXPECT_TRUE(marks.machine) << joined(marks.findings);
}

TEST(Loader, AMachineOfAThousandStatesLoads) {
  std::string text = "inputs: {x: 0}\ninitial: s0\nstates:\n";
  for (int i = 0; i < 1000; ++i) {
    text += "  s" + std::to_string(i) + ":\n    go:\n";
    for (int k = 1; k <= 3; ++k)
      text +=
          "      - {when: x == " + std::to_string(i + k) + ", to: s" + std::to_string((i * 7 + k * 13) % 1000) + "}\n";
  }
  const Machine machine = machine_of(text);
  EXPECT_EQ(machine.states().size(), 1001u);
  EXPECT_EQ(machine.transitions().size(), 3000u);
}

TEST(Loader, AStateOfThatNameElsewhereIsNamedByItsPath) {
  const std::string states =
      "states:\n  a: {initial: x, states: {x: {}, y: {go: [{after: 1s, to: x}]}}}\n  b: {go: [{when: in(y), to: a}, "
      "{after: 1s, to: y}]}\n";
  const std::string found = findings_of("initial: a\n" + states);
  EXPECT_NE(found.find("\"y\" is no state [unknown-name]\n    Did you mean \"a/y\"?"), std::string::npos) << found;
  EXPECT_NE(found.find("there is no state \"y\" [unknown-name]\n    Did you mean \"a/y\"?"), std::string::npos)
      << found;
}

TEST(Loader, TabsAndLettersAreNamedWhole) {
  const auto found = [](const std::string& text) { return joined(load_character_text(text, "m.yaml").findings); };
  EXPECT_NE(
      found("mobrin: 1\nmachine: m\nstates:\n\ta: {}\n").find("m.yaml:4:1: error: this line is indented with a tab"),
      std::string::npos);
  EXPECT_NE(found("mobrin: 1\nmachine: m\nstates: {a: {go: [{when: \"\xc3\xa4 > 1\", to: a}]}}\n")
                .find("\"\xc3\xa4\" is not expected here"),
            std::string::npos);
}

// A finding says what it is about, so that nobody reads it out of the words.
TEST(Subjects, AreTheNamesThatFindingsAreAbout) {
  const auto subjects = [](const std::string& text) {
    std::string out;
    for (const Finding& each : load_character_text("mobrin: 1\nmachine: m\n" + text, "m.yaml").findings)
      out += "[" + each.subject + "]";
    return out;
  };
  EXPECT_EQ(subjects("states: {a: {clip: nett}}"), "[nett]");
  EXPECT_EQ(subjects("inputs: {far: 1.0}\nstates: {a: {go: [{when: fer > 2, to: a}]}}"), "[fer]");
  EXPECT_EQ(subjects("states: {a: {go: [{at: end, to: a}]}}"), "[a]");
  EXPECT_EQ(subjects("inputs: {far: {float: 3, min: 0, max: 1}}\nstates: {a: {}}"), "[far]");
  EXPECT_EQ(subjects("cues: {hum: sound}\nclips: {net: {frames: [0-1], fps: 8, play: once}}\n"
                     "states: {a: {clip: net, each_loop: [{tell: hum}]}}"),
            "[a]");
  EXPECT_EQ(subjects("clips: {net: {fps: 8}}\nstates: {a: {clip: net}}"), "[net]");
  EXPECT_EQ(subjects("cues: {hum: sound}\nclips: {net: {frames: [0-1], fps: 8}}\nmarks: {net: {cues: {9: hum}}}\n"
                     "states: {a: {clip: net}}"),
            "[net]");
}

// A clip that is not there is one mistake: what would follow from its play is not told beside it.
TEST(OneMistake, GivesOneErrorWhereAClipIsMissing) {
  const std::string head =
      "mobrin: 1\nmachine: m\ninputs: {p: pulse, h: {one_of: [x, y]}}\ncues: {c: sound}\nclips: {net: {frames: [0-5], "
      "fps: "
      "9}}\nmarks: {net: {windows: {again: 2-3}}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: ";
  for (const char* const state : {
           "{clip: nett, go: [{at: end, to: a}]}",
           "{clip: nett, go: [{at: loop, to: a}]}",
           "{clip: nett, go: [{pulse: p, during: again, to: a}]}",
           "{clip: nett, go: [{pulse: p, during: 2-3, to: a}]}",
           "{clip: nett, each_loop: [{tell: c}]}",
           "{clip: [net, nett], go: [{at: end, to: a}]}",
           "{clip: {by: h, x: net, y: nett}, go: [{at: end, to: a}]}",
           "{pose: {clip: nett, frame: 9}, go: [{after: 1s, to: a}]}",
           "{clip: nett, speed: 2, go: [{at: end, to: a, start: same}, {at: end, to: b, restart: true, start: 3}]}",
       }) {
    const Loaded loaded = load_character_text(head + std::string(state) + "\n", "m.yaml");
    ASSERT_EQ(loaded.findings.size(), 1u) << state << "\n" << joined(loaded.findings);
    EXPECT_NE(loaded.findings[0].message.find("there is no clip \"nett\""), std::string::npos)
        << joined(loaded.findings);
  }
}

}  // namespace
}  // namespace mobrin::test
