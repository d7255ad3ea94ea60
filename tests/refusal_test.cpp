// Doors of the loader that no other test asks for: what is wrong in a file is told, with its place and what to write.
#include <fstream>

#include "mobrin/io/scene.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

class Refusals : public testing::TestWithParam<ToldRow> {};

TEST_P(Refusals, AreToldWithWhatToWrite) { EXPECT_EQ(findings_of(GetParam().text), GetParam().told); }

const ToldRow kRefused[] = {
    {"OneKeyForTwoInputs",
     "keys: {p: q, n: [q, w]}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:18: error: the key \"q\" writes \"p\" already [duplicate-name]\n    Choose another key.\n"},
    {"ThreeKeysForANumber",
     "keys: {n: [q, w, e]}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: "
     "{p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:11: error: the number \"n\" has more than two keys [bad-value]\n    One for its lower end, one for its "
     "upper.\n"},
    {"MoreKeysThanChoices",
     "keys: {c: [q, w, e]}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: "
     "{p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:11: error: \"c\" has more keys than choices [bad-value]\n    At most a key a choice, in their order.\n"},
    {"AnInputWithoutItsKey",
     "keys: {p: []}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: "
     "pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:11: error: \"p\" has no key [bad-value]\n    Name one, `p: space`, or leave the line out.\n"},
    {"AKindThatIsANumber",
     "cues: {hum: 3, ham: {kind: true}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:13: error: the kind of the cue \"hum\" is \"3\" [wrong-type]\n    Expected a word, such as `damage` or "
     "`sound`.\nm.yaml:3:28: error: the kind of the cue \"ham\" is \"true\" [wrong-type]\n    Expected a word, such as "
     "`damage` or `sound`.\n"},
    {"ACueThatIsAList",
     "cues: {hum: [a]}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: "
     "pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:13: error: the cue \"hum\" is a list [wrong-type]\n    Expected its kind, or a map such as `{kind: "
     "sound, file: grass.wav}`.\n"},
    {"NoFramesAtAll",
     "clips: {k: {frames: [], fps: 3}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:21: error: the clip \"k\" has an empty list of frames [bad-value]\n    List its frames, such as "
     "`[0-7]`.\n"},
    {"AnAnimationWithoutFrames",
     "clips: {k: {animation: x.gif}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:24: error: the clip \"k\" does not say which frames of the animation it shows [missing-key]\n    Add "
     "`frames:`, such as `[0-7]`.\n"},
    {"AFrameOfNoTime",
     "clips: {k: {frames: [0-1], times: [0s, 1s]}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, "
     "to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:36: error: a frame's time is 0 [bad-value]\n    A frame shows for at least 1 ms.\n"},
    {"AHoldAndATime",
     "clips: {k: {frames: [0*2, 1], times: [1s, 1s]}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == "
     "y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:38: error: a frame of the clip \"k\" has both a hold and a time [conflicting-keys]\n    Holds belong to "
     "`fps:`; write the whole time here.\n"},
    {"ABoxOfNothing",
     "clips: {k: {frames: [0-3], fps: 3}}\nmarks: {k: {boxes: [null]}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: "
     "n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:4:21: error: a box is nothing [wrong-type]\n    Expected a map such as `{name: head, role: hurt, "
     "...}`.\n"},
    {"ABoxForNothing",
     "clips: {k: {frames: [0-3], fps: 3}}\nmarks: {k: {boxes: [{name: x, rect: [0, 0, 1, 1]}]}}\ninitial: a\nstates: "
     "{a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, "
     "c: {one_of: [x, y]}}",
     "m.yaml:4:21: error: the box \"x\" has no `role:` [missing-key]\n    Say what it is for: body, hurt, hit, grab, "
     "or a word of your own.\n"},
    {"AKeyAtNoPlace",
     "clips: {k: {frames: [0-3], fps: 3}}\nmarks: {k: {tracks: {lid: {keys: {x: 3}}}}}\ninitial: a\nstates: {a: {go: "
     "[{pulse: p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: "
     "{one_of: [x, y]}}",
     "m.yaml:4:35: error: the place of a key is \"x\" [wrong-type]\n    Expected a frame `3`, the end of a frame "
     "`5.end`, or a time `0.22s`.\n"},
    {"ARectangleBeyondItsPicture",
     "sheets: {s: {image: a.png, rects: {r: [0, 0, 4, 4, 2, 2, 5, 5]}}}\ninitial: a\nstates: {a: {go: [{pulse: p, "
     "when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:39: error: the rectangle \"r\" reaches past the whole picture of 5 x 5 pixels that it was trimmed from "
     "[bad-value]\n    The last four numbers are: columns cut off at its left, rows at its top, whole width, whole "
     "height.\n"},
    {"APictureOfManyMegapixels",
     "sheets: {s: {image: a.png, rects: {r: [0, 0, 4, 4, 2, 2, 5000, 5000]}}}\ninitial: a\nstates: {a: {go: [{pulse: "
     "p, when: n > 0 and c == y, to: b}]}, b: {}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, "
     "y]}}",
     "m.yaml:3:39: error: the rectangle \"r\" was trimmed from more than 16 megapixels [too-large]\n    Check its "
     "whole width and height.\n"},
    {"AConeWithoutAnAngle",
     "reaches: {r: {cone: {length: 3}}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:21: error: the cone lacks `angle:` [missing-key]\n    Write `{length: 44, angle: 75}`.\n"},
    {"ALookWithoutAWhen",
     "looks: {l: {art: {a.png: b.png}}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:9: error: the look \"l\" lacks `when:` [missing-key]\n    Write `{when: health <= 2, art: {keeper.png: "
     "keeper_pale.png}}`.\n"},
    {"ALookWithoutArt",
     "looks: {l: {when: n > 1}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: n > 0 and c == y, to: b}]}, b: "
     "{}}\ninputs: {p: pulse, n: {int: 0, min: 0, max: 3}, c: {one_of: [x, y]}}",
     "m.yaml:3:9: error: the look \"l\" lacks `art:` [missing-key]\n    Write `{when: health <= 2, art: {keeper.png: "
     "keeper_pale.png}}`.\n"},
    {"ABlendWithoutPoints", "clips: {k: {length: 1s}}\ninputs: {n: 0.0}\nstates: {a: {blend: {x: n}}}",
     "m.yaml:5:21: error: the blend lacks `points:` [missing-key]\n    Write `{x: pace, points: [{at: 0, clip: "
     "stroll}, {at: 1, clip: run}]}`.\n"},
    {"APointWithoutItsPlace",
     "clips: {k: {length: 1s}}\ninputs: {n: 0.0}\nstates: {a: {blend: {x: n, points: [{clip: k}, {at: 1, clip: k}]}}}",
     "m.yaml:5:37: error: a point of the blend lacks `at:` [missing-key]\n    Write `{at: [0, 1], clip: walk}`; with "
     "one axis `{at: 0.5, clip: walk}`.\n"},
    {"PointsAsAMap", "clips: {k: {length: 1s}}\ninputs: {n: 0.0}\nstates: {a: {blend: {by: n, points: {0: k, 1: k}}}}",
     "m.yaml:5:22: error: \"by\" is no key of a blend [unknown-key]\n    Did you mean \"x\"?\nm.yaml:5:37: error: "
     "`points:` is a map [wrong-type]\n    Expected a list: `[{at: 0, clip: stroll}, {at: 1, clip: run}]`.\n"},
    {"StatesAndRegions", "initial: a\nregions: {x: {states: {a: {}}}}\nstates: {a: {}}",
     "m.yaml:4:11: error: the machine has both `states:` and `regions:` [conflicting-keys]\n    Put the states into a "
     "region.\n"},
    {"AClipAndALength", "clips: {k: {length: 1s}}\nstates: {a: {clip: k, length: 1s}}",
     "m.yaml:4:10: error: \"a\" has both `clip:` and `length:` [conflicting-keys]\n    A clip brings its own "
     "length.\n"},
    {"AClipAndABlend",
     "clips: {k: {length: 1s}}\ninputs: {n: 0.0}\nstates: {a: {clip: k, blend: {x: n, points: [{at: 0, clip: k}, {at: "
     "1, clip: k}]}}}",
     "m.yaml:5:10: error: \"a\" has both `clip:` and `blend:` [conflicting-keys]\n    A state plays one of them.\n"},
    {"APoseThatIsANumber",
     "clips: {k: {frames: [0-3], fps: 4}}\ninitial: a\nstates: {a: {clip: k, pose: 2}, b: {pose: 2}}",
     "m.yaml:5:29: error: \"a\" has both `clip:` and `pose:` [conflicting-keys]\n    Write `pose: {clip: k, frame: 2}` "
     "in place of both.\nm.yaml:5:43: error: `pose:` is \"2\" [wrong-type]\n    Expected a clip's name, or `{clip: "
     "NAME, frame: 2}`.\n"},
    {"AWindowOfAClipThatIsWrong",
     "clips: {k: {frames: [0-3], fps: 100000}}\nmarks: {k: {windows: {w: 0-1}}}\ninputs: {p: pulse}\ninitial: "
     "a\nstates: {a: {clip: k, go: [{pulse: p, during: w, to: b}]}, b: {}}",
     "m.yaml:3:33: error: `fps:` is \"100000\" [bad-value]\n    Rates lie between 0.001 and 10000 frames a second.\n"},
    {"AClipTooShort",
     "clips: {k: {frames: [0-3], fps: 9000}}\nmarks: {k: {windows: {w: 0-1}}}\ninputs: {p: pulse}\ninitial: a\nstates: "
     "{a: {clip: k, go: [{pulse: p, during: w, to: b}]}, b: {}}",
     "m.yaml:3:9: error: the clip \"k\" lasts less than 1 ms [bad-value]\n    Check its `fps:` and holds.\n"},
    {"ANameThatCannotBe", "clips: {k-2: {length: 1s}}\nstates: {a: {clip: k-2}}",
     "m.yaml:3:9: error: \"k-2\" cannot be the name of a clip [bad-name]\n    Write `k_2`: a name is a letter, then "
     "letters, digits or underscores (at most 64), and no word of the expression language.\n"},
    {"FieldsOfACueInAMap",
     "cues: {bite: {kind: damage, fields: {amount: 2, reach: far}}}\nclips: {c: {frames: [0-3], fps: 5}}\n"
     "marks: {c: {cues: {1: {bite: {data: {amount: 3}}}}}}\n"
     "states: {a: {clip: c, enter: [{tell: {bite: {args: {amount: 4}}}}, {tell: {bite: {amount: {}}}}]}}",
     "m.yaml:3:29: error: what a cue carries stands in no map of its own [unknown-key]\n"
     "    Leave `fields:` and its braces out: `amount: 2, reach: far`.\n"
     "m.yaml:5:31: error: what a cue carries stands in no map of its own [unknown-key]\n"
     "    Leave `data:` and its braces out: `amount: 3`.\n"
     "m.yaml:6:46: error: what a cue carries stands in no map of its own [unknown-key]\n"
     "    Leave `args:` and its braces out: `amount: 4`.\n"
     "m.yaml:6:91: error: the field \"amount\" is a map [wrong-type]\n"
     "    Expected true, false, a number, text or a list of numbers.\n"},
    {"StatesOfTheMachine", "inputs: {p: pulse}\ninitial: a\na: {go: [{pulse: p, to: b}]}\nb: {}\n",
     "m.yaml:5:1: error: there is no `states:` above the state \"a\" [unknown-key]\n"
     "    Write `states:` there, and move the states under it to the right.\n"},
    {"StatesOfAState",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  b: {go: [{pulse: p, to: a/d}]}\n  a:\n    initial: c\n    c:\n    d: "
     "{go: [{pulse: p, to: "
     "b}]}\n",
     "m.yaml:9:5: error: there is no `states:` above the state \"c\" [unknown-key]\n"
     "    Write `states:` there, and move the states under it to the right.\n"},
    {"StatesOfARegion", "inputs: {p: pulse}\nregions:\n  arms: {initial: a, a: {go: [{pulse: p, to: b}]}, b: {}}\n",
     "m.yaml:5:22: error: there is no `states:` above the state \"a\" [unknown-key]\n    Put the states into `states: "
     "{...}`.\n"},
    {"OneStateAsARegion",
     "inputs: {p: pulse}\nregions:\n  arms: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {}}}\n  legs: "
     "{length: 1s, go: [{when: "
     "in(arms/b), to: legs, restart: true}]}\n",
     "m.yaml:6:3: error: the region \"legs\" is written like a state [unknown-key]\n    Put it into one: `legs: "
     "{states: {legs: {...}}}`.\n"},
    {"AListOfStates", "inputs: {p: pulse}\ninitial: a\nstates:\n  a: [c, d]\n",
     "m.yaml:6:6: error: a state is a list [wrong-type]\n    Expected a map, such as `{clip: walk}`; what is inside it "
     "stands under `states:`.\n"},
    {"AMisspeltNameOfWhatIsWrongItself",
     "inputs: {near: bool}\ninitial: a\nstates: {a: {go: [{when: nera, to: b}]}, b: {}}\n",
     "m.yaml:3:16: error: the input \"near\" is \"bool\" [wrong-type]\n    Write how it starts, `false`, or `{bool: "
     "false}`.\n"
     "m.yaml:5:26: error: \"nera\" is no input or variable [unknown-name]\n    Did you mean \"near\"?\n"},
    {"AListOfRegionStates", "inputs: {p: pulse}\nregions:\n  arms: [c, d]\n",
     "m.yaml:5:9: error: a region is a list [wrong-type]\n    Expected a map, such as `{initial: free, states: {free: "
     "{}, full: {}}}`.\n"},
};

INSTANTIATE_TEST_SUITE_P(OfFiles, Refusals, testing::ValuesIn(kRefused), name_of_told);

// In a scene, each of these lines for the actor.
class ActorRefusals : public testing::TestWithParam<ToldRow> {};

TEST_P(ActorRefusals, AreToldWithWhatToWrite) {
  const std::string path = testing::TempDir() + "refused.scene.yaml";
  std::ofstream(path) << "mobrin: 1\nscene: s\nuntil: 1s\nactors:\n  a:\n    machine: " MOBRIN_DEMO
                         "/keeper.yaml\n    at: [0, 0]\n    "
                      << GetParam().text << "\n";
  std::string told = joined(load_scene(path).findings);
  for (std::size_t at = 0; (at = told.find(path)) != std::string::npos;) told.erase(at, path.size() + 1);
  EXPECT_EQ(told, GetParam().told);
}

const ToldRow kRefusedOfActors[] = {
    {"AMoveWithoutItsInstant", "moves: [{for: 1s, by: [1, 0]}]",
     "8:13: error: the move does not say when [missing-key]\n    Add `at: 900ms`.\n"},
    {"AMoveThatFollowsForNoTime", "moves: [{at: 0s, follows: a}]",
     "8:31: error: the move does not say how long it follows [missing-key]\n    Add `for: 2s`.\n"},
    {"AMoveThatKeepsFromNobody", "moves: [{at: 0s, for: 1s, by: [1, 0], keeps: 3}]",
     "8:50: error: `keeps:` without `follows:` [missing-key]\n    Say whom: `follows: keeper`.\n"},
    {"AMoveThatDoesNothing", "moves: [{at: 0s, for: 1s}]",
     "8:13: error: the move does nothing [missing-key]\n    Say how far it goes, `by: [2, 0]`, whom it follows, "
     "`follows: keeper`, or `face: left`.\n"},
    {"ASizeOfNothing", "scale: 0", "8:12: error: `scale:` is \"0\" [bad-value]\n    A scale is above 0.\n"},
    {"AMoveBeforeTheOneAboveItEnds",
     "moves: [{at: 100ms, for: 400ms, by: [1, 0]}, {at: 300ms, for: 100ms, by: [1, 0]}]",
     "8:55: error: the move at \"300ms\" begins before the one above it ends [bad-value]\n    Put moves in order of "
     "time, one after the other.\n"},
    {"AMoveThatFollowsAndGoes", "moves: [{at: 0s, for: 1s, follows: a, by: [1, 0]}]",
     "8:47: error: the move has both `by:` and `follows:` [conflicting-keys]\n    Who follows goes where the other one "
     "is: keep one of them.\n"},
    {"AFaceThatIsNone", "face: up", "8:11: error: `face:` is \"up\" [bad-value]\n    Expected `right` or `left`.\n"},
    {"AMoveAmongSteps", "steps: [{at: 0s, by: [1, 0]}]",
     "8:22: error: \"by\" is no key of a tape step [unknown-key]\n    It is one of a move, which an actor of a scene "
     "has beside `steps:`: `moves: [{at: 0s, for: 1s, by: [1.2, 0]}]`.\n"},
    {"AStepAmongMoves", "moves: [{at: 0s, pulse: swing}]",
     "8:22: error: \"pulse\" is no key of a move [unknown-key]\n    It is one of a step: put it under `steps:`, beside "
     "`moves:`, `- {at: 900ms, pulse: swing}`.\n"},
    {"AnInputOfTheActor", "health: 3",
     "8:5: error: \"health\" is no key of an actor [unknown-key]\n    An input is written by a step: `steps: [{at: 0s, "
     "set: {health: 3}}]`. Its keys are: machine, at, face, scale, tags, tape, steps, moves, when_hit, grounded.\n"},
    {"AHopAmongMoves", "moves: [{at: 0s, for: 1s, jump: 2}]",
     "8:31: error: \"jump\" is no key of a move [unknown-key]\n    A hop is a cue of the kind impulse: press for it, "
     "`steps: [{at: 900ms, pulse: hop}]`.\n"},
    {"AnInputOfARule", "when_hit: [{by: net_out, health: -1}]",
     "8:30: error: \"health\" is no key of a hit rule [unknown-key]\n    What is added to an input stands under "
     "`add:`: `add: {health: -1}`.\n"},
    {"ARuleWithoutWhatToDo", "when_hit: [{by: net_out}]",
     "8:16: warning: the hit rule does nothing [hardly-meant]\n    Add `pulse: stung`, or `add: {health: -1}`.\n"},
    {"StepsThatAreNoList", "steps: {at: 0s, pulse: swing}",
     "8:12: error: `steps:` is a map [wrong-type]\n    Expected a list: `- {at: 900ms, pulse: swing}`.\n"},
    {"AMoveToNowhere", "moves: [{at: 0s, for: 1s, by: [1.0e+12, 0]}]",
     "8:35: error: `by:` is too far [bad-value]\n    Stay within 1000000000 world units.\n"},
    {"TooMuchToAdd", "when_hit: [{add: {health: 1e300}}]",
     "8:31: error: \"1e300\" is too much to add [bad-value]\n    It lies within -2147483647 and 2147483647.\n"},
    {"AFractionForAWholeNumber", "when_hit: [{add: {health: -2.5}}]",
     "8:23: error: the input \"health\" takes a whole number, not -2.5 [wrong-type]\n    Write a whole number, or make "
     "the input a float.\n"},
};

INSTANTIATE_TEST_SUITE_P(OfScenes, ActorRefusals, testing::ValuesIn(kRefusedOfActors), name_of_told);

}  // namespace
}  // namespace mobrin::test
