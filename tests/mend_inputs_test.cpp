// Inputs as people write them who have not read how: told once, with what to write.
#include "support.hpp"

namespace mobrin::test {
namespace {

class InputSlips : public testing::TestWithParam<ToldRow> {};
TEST_P(InputSlips, AreToldOnceWithWhatToDo) { EXPECT_EQ(findings_of(GetParam().text), GetParam().told); }

const ToldRow kInputSlips[] = {
    {"ChoicesWithoutTheirWord",
     "inputs: {tool: [none, net]}\ninitial: a\nstates: {a: {go: [{when: tool == net, to: b}]}, b: {}}",
     "m.yaml:3:16: error: the input \"tool\" is a list [wrong-type]\n    Write `{one_of: [none, net]}`.\n"},
    {"TypesAsValues",
     "inputs:\n  x: {type: int, default: 6, min: 0, max: 9}\n  y: {type: boolean}\n  z: {type: trigger}\n"
     "states: {a: {clip: c, speed: x}}\nclips: {c: {length: 1s}}",
     "m.yaml:4:7: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{int: 6, "
     "min: "
     "0, max: 9}`.\n"
     "m.yaml:5:7: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{bool: "
     "false}`.\n"
     "m.yaml:6:7: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{pulse: "
     "110ms}`.\n"},
    {"PulsesWithTheirBuffers",
     "inputs: {a: {pulse: true, buffer: 0.2}, b: {pulse: true}, c: {type: pulse, window: 150}}\n"
     "states: {a: {clip: c}}\nclips: {c: {length: 1s}}",
     "m.yaml:3:21: error: behind \"pulse\" stands how long an early press waits, and of the input \"a\" it is "
     "\"true\" [wrong-type]\n    Write `{pulse: 0.2s}`.\n"
     "m.yaml:3:52: error: behind \"pulse\" stands how long an early press waits, and of the input \"b\" it is "
     "\"true\" [wrong-type]\n    Write `pulse` alone, or `{pulse: 110ms}` where it is to wait.\n"
     "m.yaml:3:63: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{pulse: "
     "110ms}`.\n"},
    {"TypesAsValuesWithWhatTheyHold",
     "inputs:\n  x: {type: pulse, buffer: 200ms}\n  y: {type: enum, values: [none, net], default: net}\n"
     "states: {a: {clip: c}}\nclips: {c: {length: 1s}}",
     "m.yaml:4:7: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{pulse: "
     "200ms}`.\n"
     "m.yaml:5:7: error: \"type\" is no key of an input: the type itself is one [unknown-key]\n    Write `{one_of: "
     "[none, net], start: net}`.\n"},
    {"AnInputWithoutItsName",
     "inputs: {float: 0, min: 0, max: 1}\ninitial: a\nstates: {a: {go: [{when: x > 1, to: b}]}, b: {}}",
     "m.yaml:3:10: error: \"float\" stands right under `inputs:` and is a key of an input [unknown-key]\n    Write a "
     "name before them all: `inputs: {NAME: {...}}`.\n"},
    {"AClipWithoutItsName", "clips: {frames: 0-3, fps: 9}\ninitial: a\nstates: {a: {clip: walk}}",
     "m.yaml:3:9: error: \"frames\" stands right under `clips:` and is a key of a clip [unknown-key]\n    Write a name "
     "before them all: `clips: {NAME: {...}}`.\n"},
    {"AStateWithoutItsName", "clips: {c: {length: 1s}}\nstates: {clip: c, go: [{after: 1s, to: b}]}",
     "m.yaml:4:10: error: \"clip\" stands right under `states:` and is a key of a state [unknown-key]\n    Write a "
     "name "
     "before them all: `states: {NAME: {...}}`.\n"},
    {"ACueWithoutItsName",
     "clips: {c: {length: 1s}}\ncues: {kind: sound, file: x.wav}\nmarks: {c: {cues: {1ms: step}}}\nstates: {a: {clip: "
     "c}}",
     "m.yaml:4:8: error: \"kind\" stands right under `cues:` and is a key of a cue [unknown-key]\n    Write a name "
     "before them all: `cues: {NAME: {...}}`.\n"},
    {"AZoneWithoutItsName", "zones: {rect: [-40, 0, 80, 60]}\nstates: {a: {}}",
     "m.yaml:3:9: error: \"rect\" stands right under `zones:` and is a key of a zone [unknown-key]\n    Write a name "
     "before them all: `zones: {NAME: {...}}`.\n"},
    {"AClaimWithoutItsName", "states: {a: {}}\nclaims: {never: in(a)}",
     "m.yaml:4:10: error: \"never\" stands right under `claims:` and is a key of a claim [unknown-key]\n    Write a "
     "name "
     "before them all: `claims: {NAME: {...}}`.\n"},
    {"NoClipsAtAll",
     "initial: idle\nstates:\n  idle: {clip: idle, go: [{when: in(walk), during: again, to: walk}]}\n  walk: {clip: "
     "walk, "
     "go: [{at: end, to: net}]}\n  net: {clip: net}",
     "m.yaml:5:16: error: there are no clips, and 3 are named: \"idle\", \"walk\", \"net\" [unknown-name]\n    Add "
     "them "
     "under `clips:`, or name the file that has them under `use:`.\n"},
    {"AClipCalledAsAState",
     "clips: {c: {length: 1s}}\ninitial: idle\nstates: {idle: {clip: idle, go: [{at: end, to: net}]}, net: {clip: c}}",
     "m.yaml:5:23: error: there is no clip \"idle\" [unknown-name]\n    Add it under `clips:`. There is c.\n"},
    {"ARangeAsAList",
     "inputs: {x: {int: 0, range: [0, 6]}}\nstates: {a: {clip: c, speed: x}}\nclips: {c: {length: 1s}}",
     "m.yaml:3:22: error: \"range\" is no key of an input [unknown-key]\n    Write `min:` and `max:`.\n"},
};
INSTANTIATE_TEST_SUITE_P(All, InputSlips, testing::ValuesIn(kInputSlips), name_of_told);

}  // namespace
}  // namespace mobrin::test
