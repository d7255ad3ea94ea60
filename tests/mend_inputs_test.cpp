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
    {"ARangeAsAList",
     "inputs: {x: {int: 0, range: [0, 6]}}\nstates: {a: {clip: c, speed: x}}\nclips: {c: {length: 1s}}",
     "m.yaml:3:22: error: \"range\" is no key of an input [unknown-key]\n    Write `min:` and `max:`.\n"},
};
INSTANTIATE_TEST_SUITE_P(All, InputSlips, testing::ValuesIn(kInputSlips), name_of_told);

}  // namespace
}  // namespace mobrin::test
