// A key that its section does not have: what is meant, where it belongs, or what is written instead.
#include <algorithm>

#include "support.hpp"

namespace mobrin::test {
namespace {

// A file in which each section has a place for one more key; `where` says which of them gets it.
std::string file_with(const std::string& where, const std::string& line) {
  const auto here = [&](const std::string& section) { return section == where ? ", " + line : std::string(); };
  return (where == "machine" ? line + "\n" : std::string()) +
         "inputs:\n"
         "  press: pulse\n"
         "  n: {int: 1, min: 0, max: 9" +
         here("input") +
         "}\n"
         "  x: {float: 0, min: -1, max: 1}\n"
         "  near: false\n"
         "cues: {buzz: sound}\n"
         "clips:\n"
         "  a: {frames: [0-3], fps: 6, play: loop" +
         here("clip") +
         "}\n"
         "  b: {frames: [0-3], fps: 6, play: loop}\n"
         "marks:\n"
         "  a: {cues: {1: buzz}, boxes: [{name: bite, frames: 1-2, role: hit, rect: [0, 0, 4, 4]" +
         here("box") + "}]" + here("marks") +
         "}\n"
         "reaches: {cut: {cone: {length: 3, angle: 60}, accept: unused-reach, hits: [bees]" +
         here("reach") +
         "}}\n"
         "zones: {hive: {rect: [-4, 0, 8, 8], tags: [bees], inside: near" +
         here("zone") +
         "}}\n"
         "looks: {pale: {when: n < 2, art: {a.png: b.png}" +
         here("look") +
         "}}\n"
         "claims: {ok: {never: in(one) and n > 9" +
         here("claim") +
         "}}\n"
         "states:\n"
         "  one: {clip: a" +
         here("state") + ", go: [{pulse: press, when: near" + here("go") +
         ", to: two}]}\n"
         "  two: {blend: {x: x, points: [{clip: a, at: -1" +
         here("blend point") + "}, {clip: b, at: 1}]" + here("blend") + "}, enter: [{" +
         (where == "action" ? line : "tell: buzz") +
         "}], go: [{at: loop, to: one}]}\n"
         "initial: one\n";
}

struct Foreign {
  const char* section;
  const char* line;
  const char* remedy;
};

class ForeignKeys : public testing::TestWithParam<Foreign> {};

TEST_P(ForeignKeys, AreAnsweredWithWhatToWrite) {
  const auto& [section, line, remedy] = GetParam();
  const std::string text(line), told = findings_of(file_with(section, text));
  const std::string key = text.substr(0, text.find(':'));
  const std::size_t at = told.find("error: \"" + key + "\" is no key of ");
  ASSERT_NE(at, std::string::npos) << told;
  const std::size_t from = told.find("\n    ", at) + 5;
  EXPECT_EQ(told.substr(from, told.find('\n', from) - from), remedy);
  EXPECT_EQ(told.find("error: ", from), std::string::npos) << "more than one error:\n" << told;
}

const char* const kOrder =
    "Rules are looked at from the top, those of states around it first: their order in the file is it.";
const char* const kLayers = "What goes on beside each other stands under `regions:`, each with its states.";
const char* const kShapes = "Write `rect: [left, bottom, width, height]` or `circle: [x, y, radius]`.";
const char* const kHits =
    "What a hit does is said by whom it hits: the game, by the box's name, or in a scene `when_hit:`.";
const char* const kGame = "The game does that before it writes the input: leave it out.";

const Foreign kForeign[] = {
    {"machine", "layers: {}", kLayers},
    {"machine", "anywhere: []", "Rules that hold from anywhere stand under `go:`, at the top of the file."},
    {"machine", "root: {go: []}",
     "The machine is its outermost state: write at the top of the file what stands in it."},
    {"machine", "guards: {}", "A guard stands at its rule: `go: [{when: health < 3, to: hurt}]`."},
    {"machine", "timers: {}", "A timer is a rule, `go: [{after: 2s, to: rest}]`: it begins and ends with its state."},
    {"machine", "fps: 10", "It is one of a clip: put it there, under `clips:`."},
    {"machine", "hitboxes: []", "It is `boxes:` of a clip's marks: put it there, under `marks:` and the clip's name."},
    {"machine", "speed: 2", "It is one of a state: put it at one of those under `states:`."},
    {"machine", "fade: 100ms", "It is one of a rule: put it into one of the list `go:`."},
    {"machine", "steps: []",
     "It is one of a tape: put it into a file of its own, with `tape: NAME` and `machine: FILE`."},
    {"machine", "actors: {}", "It is one of a scene: put it into a file of its own, with `scene: NAME`."},
    {"machine", "author: somebody", "Write it as a comment, `# ...`."},
    {"input", "key: space", "What presses it stands under `keys:` of the machine."},
    {"input", "clamp: true", "What is written is clamped to `min:` and `max:`: leave it out."},
    {"input", "smooth: 0.1", kGame},
    {"input", "lifetime: 1s", "A press that waits for so long is `{pulse: 150ms}`."},
    {"input", "name: n", "It is called by the word in front of the colon."},
    {"state", "layer: arms", kLayers},
    {"state", "sound: buzz",
     "The game hears cues: declare one under `cues:`, and tell it as an action, `enter: [{tell: CUE}]`, or on a frame, "
     "under `marks:`."},
    {"state", "update: n",
     "Nothing is done each frame: a value is looked at by a rule, `when:`; `each_loop:` is done as its clip comes "
     "round."},
    {"state", "timeout: 1s", "Write a rule: `go: [{after: 1s, to: STATE}]`."},
    {"state", "interruptible: false",
     "A state is left as its rules say. `sealed: true` keeps out those of states around it, `during: WINDOW` lets one "
     "through in a window only."},
    {"state", "priority: 2", kOrder},
    {"state", "cooldown: 2s",
     "A region of its own counts it, with two states: `cooling` leads to `ready` `after: 2s`; rules ask "
     "`in(REGION/ready)`."},
    {"state", "parent: two", "Put it under `states:` of that state."},
    {"state", "flip: true",
     "Who draws a picture turns it over. Where the pictures differ an input picks the clip: `clip: {by: heading, left: "
     "walk_left, right: walk_right}`."},
    {"state", "type: attack", "A word for the game to ask is a trait: `traits: [attack]`."},
    {"state", "invulnerable: true", "A word for the game to ask is a trait: `traits: [invulnerable]`."},
    {"state", "to: two", "It is one of a rule: put it into one of the list `go:`."},
    {"state", "marks: {}", "It is one of the machine: put it at the top of the file."},
    {"state", "flags: [busy]", "Did you mean \"traits\"?"},
    {"go", "unless: n > 3", "Write `when: not (...)`."},
    {"go", "and: n > 3", "Join them in one guard, `when: a and b`."},
    {"go", "from: one", "A rule stands at the state that it leads away from, in the `go:` of that."},
    {"go", "priority: 2", kOrder},
    {"go", "chance: 0.5",
     "Nothing is left to chance: the game throws the die and writes it to an input, `when: die < 3`."},
    {"go", "once: true", "A variable keeps it: `when: not roared` and `do: [roared = true]`."},
    {"go", "interrupt: true",
     "A rule is looked at whenever its state is active; in a window only with `during: WINDOW`."},
    {"go", "key: space",
     "It is taken by a press, `pulse: INPUT`; which key that is stands under `keys:` of the machine."},
    {"go", "tell: buzz", "Write `do: [{tell: CUE}]`."},
    {"go", "set: {n: 1}", "Write `do: [n = n + 1]`."},
    {"go", "name: leaves", "A rule has no name: logs and findings tell its line."},
    {"go", "else: two", "Write another rule below it."},
    {"go", "buffer: 100ms",
     "How long an early press waits is said where it is declared: `inputs: {hop: {pulse: 100ms}}`."},
    {"state", "reach: net",
     "A cue of the kind damage names it: `cues: {sting: {kind: damage, reach: REACH}}`; on a frame it strikes."},
    {"clip", "fade: 80ms",
     "It is a key of a transition. Its keys are: sheet, tile, margin, spacing, images, animation, frames, fps, times, "
     "length, part, accept, prints, from, play."},
    {"state", "inside: press",
     "It is a key of a zone. Its keys are: accept, clip, blend, pose, length, speed, traits, vars, enter, exit, "
     "each_loop, go, final, linger, sealed, initial, states, regions."},
    {"go", "blend: 100ms", "Did you mean \"fade\"?"},
    {"action", "add: {n: 1}", "Write the assignment, `n = n + 1`; `vars:` declares `n`."},
    {"action", "play: a", "The game hears cues: declare one under `cues:` and write `tell: CUE`."},
    {"action", "pulse: press", "Only the game presses. Rules hear a cue: `tell: CUE` here, `cue: CUE` there."},
    {"action", "if: n > 3",
     "An action is always done. A value may depend, `n = select(n > 3, 0, n + 1)`; else two rules with guards do it."},
    {"action", "wait: 1s", "An action is done at once; a rule waits, `{after: 1s, to: STATE}`."},
    {"action", "goto: two", "Where it goes on is said by a rule, in `go:`."},
    {"clip", "ms: 100", "With frames it is `fps: 10`, or `times:` with one a frame; without frames `length: 1s`."},
    {"clip", "mirror: true", "Who draws a picture turns it over; a point of a blend says `mirror: true`."},
    {"clip", "next: two", "What follows is a rule of the state that plays it: `go: [{at: end, to: STATE}]`."},
    {"clip", "hold: 3", "A frame that shows longer is written so: `frames: [0, 1*3, 2]`."},
    {"clip", "cancel: 3",
     "A window of its marks says from when, `windows: {free: 4-7}`; a rule asks for it, `during: free`."},
    {"clip", "bounce: true", "Write `play: back-and-forth`."},
    {"clip", "marks: {}", "Marks stand beside `clips:`, by the clip's name: `marks: {CLIP: {cues: {2: CUE}}}`."},
    {"clip", "scale: 2", "The game draws it as large as it likes: leave it out."},
    {"clip", "sound: buzz", "A sound is a cue on a frame, under `marks:`: `cues: {3: CUE}`."},
    {"marks", "sound: buzz", "A sound is a cue on a frame: `cues: {3: CUE}`."},
    {"marks", "move: 3",
     "Where it goes is the game's; what moves along with the clip may be a track, `tracks: {lift: {keys: {0: 0, 3: "
     "4}}}`."},
    {"marks", "1: buzz", "Frames stand under `cues:`: `cues: {1: buzz}`."},
    {"box", "damage: 2", kHits},
    {"box", "team: bees",
     "Whom it hits: `hits: [bees]`. Such words are given by the game, or in a scene by `tags:` of an actor."},
    {"box", "once: true", "One swing hits a target once; `every: 200ms` hits it again."},
    {"box", "size: [4, 4]", kShapes},
    {"box", "active: 2-3", "Write the frames at which it is there: `frames: 2-4`."},
    {"reach", "knockback: 2", kHits},
    {"reach", "range: 4", "Write `cone: {length: 30, angle: 60}`."},
    {"reach", "radius: 4", kShapes},
    {"reach", "frames: 2-3",
     "A reach is always there. What comes and goes with frames is a box: under `marks:`, `boxes:`."},
    {"zone", "radius: 4", kShapes},
    {"zone", "on_exit: press", "Did you mean \"leave\"?"},
    {"zone", "margin: 2", "The game gives its arena a margin: leave it out."},
    {"zone", "when: near", "A zone writes an input, `inside: near`; a rule asks for it, `when: near`."},
    {"look", "tint: red", "A look shows other pictures, `art: {bee.png: pale_bee.png}`; colours are the game's."},
    {"look", "state: one", "A look depends on inputs and the machine's variables: `when: health < 3`."},
    {"look", "priority: 2", "The first in the file whose `when:` is true is shown."},
    {"claim", "eventually: in(two)", "Write `{from: E, within: 2s, reaches: F}`."},
    {"claim", "in: one", "Expressions say it: `{never: in(faint) and is(busy)}`."},
    {"blend", "0: a", "Points stand in a list: `points: [{at: 0, clip: a}, ...]`."},
    {"blend", "sync: true", "Clips of a blend run in phase: leave it out."},
    {"blend", "smooth: 0.1", kGame},
    {"blend", "at: {0: a}", "Points stand in a list: `points: [{at: 0, clip: stroll}, {at: 1, clip: run}]`."},
    {"blend", "type: plane", "With `y:` it has two axes, without it one: leave it out."},
    {"blend", "speed: 2", "It is one of a state: put it at the state, beside `blend:`."},
    {"blend point", "weight: 1", "How much it counts follows from where it lies: `at: 0.5`."},
    {"blend point", "fps: 2", "Clips of a blend run in phase: leave it out."},
    {"blend point", "flip: true", "Did you mean \"mirror\"?"},
};

INSTANTIATE_TEST_SUITE_P(All, ForeignKeys, testing::ValuesIn(kForeign), [](const auto& row) {
  std::string name = std::string(row.param.section) + "_" + row.param.line;
  name.erase(name.find(':'));
  std::replace(name.begin(), name.end(), ' ', '_');
  return name;
});

TEST(ForeignKey, TheFileThatTheyStandInIsElseSound) { EXPECT_EQ(findings_of(file_with("", "")), ""); }

// What the game writes and what the machine counts, written where neither stands.
TEST(ForeignKey, AValueAtTheTopIsAnInputOrAVariable) {
  EXPECT_NE(
      findings_of(file_with("machine", "health: 10"))
          .find("What the game writes stands under `inputs:`, what the machine counts under `vars:`. Its keys are: "),
      std::string::npos);
}

TEST(ForeignKey, AreReadAsSpeltWhereOnlyTheEndDiffers) {
  EXPECT_NE(findings_of("clip: {hum: {length: 1s}}\nstates: {a: {clip: hum}}").find("Did you mean \"clips\"?"),
            std::string::npos);
}

// Stretches of a clip in other forms are answered with this one.
TEST(ForeignKey, StretchesInOtherForms) {
  const auto told = [](const std::string& marks) {
    const std::string all = findings_of(
        "clips: {a: {length: 1s}}\ncues: {hum: sound}\nstates: {a: {clip: a}}\nmarks: {a: {" + marks + "}}\n");
    return all.substr(std::min(all.size(), all.find("error: ")));
  };
  EXPECT_EQ(told("windows: {w: {from: 0.2s, to: 0.4s}}"),
            "error: the window \"w\" is a map [wrong-type]\n    Write `0.2s-0.4s`.\n");
  EXPECT_EQ(told("windows: {w: [0.2s, 0.4s]}"),
            "error: the window \"w\" is a list of two times [wrong-type]\n    Write `0.2s-0.4s`.\n");
  EXPECT_EQ(told("windows: {w: 0.2-0.4}"),
            "error: the window \"w\" is \"0.2-0.4\" [wrong-type]\n    Write `0.2s-0.4s`.\n");
  EXPECT_EQ(told("windows: {w: 200-400ms}"),
            "error: the window \"w\" is \"200-400ms\" [wrong-type]\n    Write `200ms-400ms`.\n");
  EXPECT_EQ(told("windows: {w: 50%-80%}"),
            "error: the window \"w\" is \"50%-80%\" [wrong-type]\n    Expected frames such as `4-5`, or times such as "
            "`0.1s-0.3s`.\n");
  EXPECT_EQ(told("windows: {w: [0.2s-0.4s, 0.6s-0.8s]}"), "");
  EXPECT_EQ(told("spans: {hum: {begin: 0.1s, end: 0.2s}}"),
            "error: the span \"hum\" does not say over which frames or times [missing-key]\n    Write `hum: "
            "0.1s-0.2s`.\n");
  EXPECT_EQ(told("spans: {hum: {loud: true}}"),
            "error: the span \"hum\" does not say over which frames or times [missing-key]\n    Add `frames: 2-4`, or "
            "`frames: 0.1s-0.3s`.\n");
  EXPECT_EQ(told("cues: {\"0.3\": hum}"),
            "error: the place of a cue is \"0.3\" [wrong-type]\n    A time has a unit: write `0.3s`.\n");
  EXPECT_EQ(told("tracks: {lift: {0: 0, 0.4s: 1}}"),
            "error: the keys of the track \"lift\" stand without `keys:` [unknown-key]\n    Write `lift: {keys: {0: 0, "
            "...}}`.\n");
}

TEST(ForeignKey, WhatIsMeantIsWrittenOut) {
  const auto told = [](const std::string& text) {
    const std::string all = findings_of(text);
    return all.substr(std::min(all.size(), all.find("error: ")));
  };
  EXPECT_EQ(
      told("inputs: {v: {start: 1.5, min: 0, max: 2}}\nstates: {a: {go: [{when: v > 1, to: b}]}, b: {}}\ninitial: a\n"),
      "error: the input \"v\" says no type [missing-key]\n    Write `{float: 1.5, min: 0, max: 2}`.\n");
  EXPECT_EQ(told("inputs: {v: {min: 0, max: 2}}\nstates: {a: {go: [{when: v > 1, to: b}]}, b: {}}\ninitial: a\n"),
            "error: the input \"v\" says no type [missing-key]\n    Write `{int: 0, min: 0, max: 2}`.\n");
  EXPECT_EQ(told("clips: {a: {length: 1s}}\nstates: {a: {clip: a, on_end: b}, b: {}}\ninitial: a\n"),
            "error: \"on_end\" is no key of a state [unknown-key]\n    What follows is a rule: `go: [{at: end, to: "
            "STATE}]`.\n");
  EXPECT_EQ(told("clips: {a: {length: 1s}, b: {length: 1s}}\nstates: {a: {sequence: [a, b]}}\n"),
            "error: \"sequence\" is no key of a state [unknown-key]\n    Clips one after the other are a list: `clip: "
            "[wind_up, swing]`.\n");
  EXPECT_EQ(told("states: {a: {go: b}, b: {}}\ninitial: a\n"),
            "error: `go:` is \"b\" [wrong-type]\n    A list of rules says when: `[{at: end, to: b}]`.\n");
  for (const char* action : {"hum", "play hum", "play(hum)", "emit('hum')"})
    EXPECT_EQ(told("cues: {hum: sound}\nstates: {a: {enter: [\"" + std::string(action) + "\"]}}\n"),
              "error: \"" + std::string(action) + "\" is no action [bad-expression]\n    Write `tell: hum`.\n");
  const std::string rule =
      "inputs: {p: pulse}\nvars: {n: 0}\nclips: {c: {length: 1s}}\ninitial: a\nstates: {a: {@go: "
      "[{pulse: p, do: [n = n + 1]}]}}\n";
  const auto of = [&](const std::string& plays) {
    std::string text = rule;
    return told(text.replace(text.find('@'), 1, plays));
  };
  const std::string without =
      "error: a transition without a target [missing-key]\n    Add `to:` with the name of a "
      "state; to do this and stay, `to: a, restart: true";
  EXPECT_EQ(of(""), without + "`.\n");
  EXPECT_EQ(of("clip: c, "), without + ", start: same`, which goes on where it is.\n");
  const std::string by_hit = "inputs: {hit: pulse}\nvars: {n: 9}\nclips: {c: {length: 1s}}\n",
                    counts = "go: [{pulse: hit, do: [n = n - 1]}]", one = without.substr(0, without.find("`to: a"));
  EXPECT_EQ(told(by_hit + "states: {a: {" + counts + ", states: {x: {clip: c}}}}\n"),
            one + "`to: a/last, restart: true, start: same`, which goes on where it is.\n");
  EXPECT_EQ(told(by_hit + counts + "\nstates: {a: {}}\n"),
            one + "give it to a region of its own: `tally: {states: {count: {go: [{pulse: hit, do: ..., to: count, "
                  "restart: true}]}}}` under `regions:`.\n");
}

// Maps in which the name stands where something else does.
TEST(ForeignKey, NamesStandInFront) {
  const std::string rest = "clips: {a: {frames: [0-5], fps: 10}}\ncues: {hum: sound}\nstates: {a: {clip: a}}\n";
  EXPECT_EQ(findings_of(rest + "marks: {a: {cues: {hum: 2}, spans: {2-3: hum}, windows: {3-5: free}}}"),
            "m.yaml:6:20: error: the place of a cue is \"hum\" [wrong-type]\n    Expected the frame first, then the "
            "cue: `2: hum`.\n"
            "m.yaml:6:42: error: the span \"2-3\" is \"hum\" [wrong-type]\n    Expected the name first, then when: "
            "`hum: 2-3`.\n"
            "m.yaml:6:63: error: the window \"3-5\" is \"free\" [wrong-type]\n    Expected the name first, then when: "
            "`free: 3-5`.\n");
  EXPECT_EQ(findings_of("states:\n  - name: one\n    clip: a\n"),
            "m.yaml:4:3: error: `states:` is a list [wrong-type]\n    Expected each under its name, `one: {...}` in "
            "place of `- name: one`.\n");
  EXPECT_EQ(findings_of(rest + "inputs: [press]"),
            "m.yaml:6:9: error: `inputs:` is a list [wrong-type]\n    Expected a map, such as `{move: 0.0, swing: "
            "pulse}`.\n");
  EXPECT_EQ(findings_of(rest + "marks: {a: {spans: [hum]}}"),
            "m.yaml:6:20: error: `spans:` is a list [wrong-type]\n    Expected a map, such as `{hum: 2-4}`.\n");
}

TEST(ForeignKey, WhatIsSaidTwoWaysAtOnceIsToldAsItIsWritten) {
  EXPECT_EQ(
      findings_of("inputs: {p: {pulse: 100ms, buffer: 0.2}}\nstates: {a: {go: [{pulse: p, to: a, restart: true}]}}"),
      "m.yaml:3:28: error: \"buffer\" is no key of an input [unknown-key]\n    Did you mean \"pulse\"? `pulse:` "
      "stands here too: keep one.\n");
  EXPECT_EQ(
      findings_of("clips: {fly: {frames: 0-3, fps: 8}}\nstates: {a: {clpi: x, clip: fly, cilp: y}}"),
      "m.yaml:4:14: error: \"clpi\" is no key of a state [unknown-key]\n    Did you mean \"clip\"? `clip:` stands "
      "here too: keep one.\n"
      "m.yaml:4:34: error: \"cilp\" is no key of a state [unknown-key]\n    Did you mean \"clip\"? `clip:` stands "
      "here too: keep one.\n");
  EXPECT_EQ(findings_of("inputs: {near: false, x: 0.0}\nclips: {a: {frames: [0-3], fps: 6}}\n"
                        "states: {a: {blend: {by: x, at: {0: a}}, go: [{when: near, to: a}]}}"),
            "m.yaml:5:22: error: \"by\" is no key of a blend [unknown-key]\n    Did you mean \"x\"?\n"
            "m.yaml:5:29: error: \"at\" is no key of a blend [unknown-key]\n    Points stand in a list: `points: [{at: "
            "0, clip: stroll}, {at: 1, clip: run}]`.\n");
}

// What a rule says, without its keys.
TEST(ForeignKey, ARuleInOneKey) {
  const std::string keys =
      " Its keys are: accept, pulse, cue, at, after, when, during, to, restart, start, fade, cues, do.\n";
  for (const auto& [rule, remedy] :
       {std::pair("after 2s: b", "Write `{after: 2s, to: b}`."), std::pair("on p: b", "Write `{pulse: p, to: b}`."),
        std::pair("n < 3: b", "Write `{when: n < 3, to: b}`."),
        std::pair("not near: b", "Write `{when: not near, to: b}`."),
        std::pair("p: b", "Write `{pulse: p, to: b}`, or `{when: p, to: b}`."),
        std::pair("near: false, to: b", "A condition is `when: not near`."),
        std::pair("n: 3, to: b", "A condition is `when: n == 3`.")}) {
    const std::string key(rule, std::string_view(rule).find(':'));
    EXPECT_EQ(findings_of("inputs: {p: pulse, near: false, n: 3}\ninitial: a\nstates: {a: {go: [{after: 1s, to: b, "
                          "when: near and n > "
                          "1}, {pulse: p, to: b}, {" +
                          std::string(rule) + "}]}, b: {}}"),
              "m.yaml:5:81: error: \"" + key + "\" is no key of a transition [unknown-key]\n    " + remedy +
                  (remedy[0] == 'W' ? "\n" : keys));
  }
}

TEST(ForeignKey, FramesOfMarksStandUnderCues) {
  EXPECT_EQ(findings_of("cues: {hum: sound}\nclips: {a: {frames: [0-3], fps: 6}}\nmarks: {a: {1: hum, 3: hum}}\n"
                        "states: {a: {clip: a}}"),
            "m.yaml:5:13: error: \"1\" and \"3\" are no keys of a clip's marks [unknown-key]\n    Frames stand under "
            "`cues:`: `cues: {1: hum}`.\n");
}

// `at:` of a rule is an end or a loop.
TEST(ForeignKey, ATimeOrAFrameOfARule) {
  for (const auto& [at, remedy] :
       {std::pair("2s", "How long a state goes on is said by `after: 2s`."),
        std::pair("frame 3", "A frame is said by `during: 3`."), std::pair("3", "A frame is said by `during: 3`."),
        std::pair("50%", "Expected `end` or `loop`."), std::pair("looop", "Did you mean \"loop\"?")})
    EXPECT_EQ(findings_of("clips: {a: {frames: [0-3], fps: 6}}\nstates: {a: {clip: a, go: [{at: " + std::string(at) +
                          ", to: a, restart: true}]}}"),
              "m.yaml:4:33: error: `at:` is \"" + std::string(at) + "\" [bad-value]\n    " + remedy + "\n");
}

TEST(ForeignKey, PlayModesByOtherWords) {
  for (const auto& [words, mode] :
       {std::pair("ping pong", "back-and-forth"), std::pair("back and forth", "back-and-forth"),
        std::pair("loop 3 times", "loop x3"), std::pair("bounce 2", "back-and-forth x2"),
        std::pair("loop *4", "loop x4"), std::pair("forever", "loop")})
    EXPECT_EQ(
        findings_of("clips: {a: {frames: [0-3], fps: 6, play: " + std::string(words) + "}}\nstates: {a: {clip: a}}"),
        "m.yaml:3:42: error: `play:` is \"" + std::string(words) + "\" [bad-value]\n    Write `" + mode + "`.\n");
}

TEST(ForeignKey, AFieldThatIsDeclaredByTheNameOfItsType) {
  EXPECT_EQ(findings_of("cues: {hit: {kind: damage, amount: int}}\nclips: {a: {frames: [0-3], fps: 6}}\n"
                        "marks: {a: {cues: {1: {hit: {amount: 3}}}}}\nstates: {a: {clip: a}}"),
            "m.yaml:5:30: error: the field \"amount\" is a whole number here [wrong-type]\n    It is declared as text, "
            "\"int\"; write there what it is where no mark says more.\n");
}

// Two shapes are two boxes, but of a zone or a reach one too many.
TEST(ForeignKey, TwoShapesOfAZone) {
  EXPECT_NE(findings_of(file_with("zone", "circle: [0, 0, 3]"))
                .find("has both `rect:` and `circle:` [conflicting-keys]\n    Keep one of them.\n"),
            std::string::npos);
}

TEST(ForeignKey, FramesOfOneImage) {
  EXPECT_EQ(
      findings_of("clips: {a: {images: a.png, frames: [0-3], fps: 6}}\nstates: {a: {clip: a}}"),
      "m.yaml:3:36: error: the clip \"a\" has no image 1 [outside-clip]\n    It lists one image, 0. Frames of one "
      "image are cells of a `sheet:`, with `tile: [width, height]`.\n");
}

}  // namespace
}  // namespace mobrin::test
