// Tables of what each stage of compiling makes of a source, as text.
#include <algorithm>

#include "mobrin/pack/pack.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct StageRow {
  const char* stage;
  const char* name;
  const char* source;
  const char* dump;
};

const StageRow kStageRows[] = {
    {"inputs", "InputsOfEachKind",
     "inputs: {far: true, nectar: {int: 3, min: 0, max: 9}, height: {float: 0.5, min: -1, max: 2}, way: {one_of: "
     "[left, right], start: right}, sting: {pulse: 10ms}}\n"
     "states: {a: {}}\n",
     "far bool starts true\n"
     "nectar int starts 3 from 0 to 9\n"
     "height float starts 0.5 from -1 to 2\n"
     "way choice starts 1 of left right\n"
     "sting pulse lives 7056000 ticks\n"},
    {"cues", "CuesWithTheirFields",
     "cues: {hum: {kind: sound, file: hum.wav, pitch: 1.5}, stings: {kind: damage, amount: 2}}\n"
     "states: {a: {}}\n",
     "hum {file: \"hum.wav\", pitch: 1.5}, sound\n"
     "stings {amount: 2}, damage\n"},
    {"clips", "AClipThatComesBack",
     "cues: {hum: {kind: sound}}\n"
     "clips:\n"
     "  sway: {frames: [0-2], fps: 10, play: back-and-forth}\n"
     "marks: {sway: {cues: {1: hum}}}\n"
     "states: {a: {clip: sway}}\n",
     "sway length 211680000 cycle 282240000 endless\n"
     "  from 0 sway frame 0\n"
     "  from 70560000 sway frame 1\n"
     "  from 141120000 sway frame 2\n"
     "  from 211680000 sway frame 1 on the way back\n"
     "  mark hum at the begin of frame 1\n"},
    {"tree", "StatesWithinStates",
     "states:\n"
     "  fly: {initial: up, states: {up: {traits: [busy]}, down: {}}}\n"
     "  rest: {final: true}\n"
     "initial: fly\n",
     "0 root, down to 4\n"
     "1 fly in root, region 0, down to 3, begins in fly/up\n"
     "2 fly/up in fly, region 0, busy\n"
     "3 fly/down in fly, region 0\n"
     "4 rest in root, region 0, final, sealed\n"
     "region 0 of root, begins in fly\n"},
    {"tree", "RegionsSideBySide",
     "regions:\n"
     "  body: {states: {sit: {}, fly: {}}, initial: sit}\n"
     "  wings: {states: {buzz: {}}}\n",
     "0 root, down to 3\n"
     "1 body/sit in root, region 0\n"
     "2 body/fly in root, region 0\n"
     "3 wings/buzz in root, region 1\n"
     "region 0 body of root, begins in body/sit\n"
     "region 1 wings of root, begins in wings/buzz\n"},
    {"plays", "APoseALengthAndAChoice",
     "inputs: {way: {one_of: [left, right]}}\n"
     "clips: {l: {frames: [0-1], fps: 5}, r: {frames: [2-3], fps: 5}}\n"
     "states:\n"
     "  look: {clip: {by: way, left: l, right: r}}\n"
     "  still: {pose: {clip: l, frame: 1}}\n"
     "  wait: {length: 2s}\n"
     "initial: look\n",
     "look clip l r by way\n"
     "still pose l frame 1\n"
     "wait length #2\n"},
    {"block", "WhereValuesLie",
     "inputs: {far: true, height: 1.5, sting: {pulse: 10ms}}\n"
     "clips: {hum: {frames: [0-1], fps: 5, play: loop}}\n"
     "states:\n"
     "  a: {clip: hum, vars: {times: 0}, go: [{after: 1s, to: b}]}\n"
     "  b: {}\n"
     "initial: a\n",
     "72 bytes\n"
     "@35 1 input far\n"
     "@36 4 input height\n"
     "@40 4 var times\n"
     "@44 2 active state of region 0\n"
     "@48 8 input sting\n"
     "@56 8 playhead of region 0\n"
     "@64 8 time in state of a\n"},
    {"states", "SpeedsAndActions",
     "cues: {hum: {kind: sound}}\n"
     "inputs: {wind: 1.0}\n"
     "clips: {fan: {frames: [0-1], fps: 5, play: loop}}\n"
     "states:\n"
     "  a: {clip: fan, speed: wind * 2, vars: {times: 0}, enter: [{tell: hum}, times = times + 1]}\n",
     "a\n"
     "  speed wind 2 *\n"
     "  var times starts 0\n"
     "  enter: tell hum\n"
     "  enter: times = times 1 +\n"},
    {"go", "EventsInTheirOrder",
     "cues: {hum: {kind: sound}}\n"
     "inputs: {sting: pulse, far: false}\n"
     "clips: {fan: {frames: [0-1], fps: 5, play: once}}\n"
     "marks: {fan: {cues: {1: hum}}}\n"
     "states:\n"
     "  a: {clip: fan, go: [{pulse: sting, to: b}, {cue: hum, when: far, to: b}, {at: end, to: b, do: [{tell: "
     "hum}]}]}\n"
     "  b: {}\n"
     "initial: a\n",
     "0 a -> b, pulse: sting\n"
     "1 a -> b, cue: hum, when: far [far], for one round\n"
     "2 a -> b, at: end, stands\n"
     "  do: tell hum\n"},
    {"space", "ALook",
     "inputs: {wet: false}\n"
     "looks: {rain: {when: wet, art: {bee.png: wet_bee.png}}}\n"
     "states: {a: {}}\n",
     "unit 32 pixels\n"
     "look rain [wet]\n"},
    {"clips", "ASpanInTimesCutsItsFrames",
     "cues: {danger: {kind: warning}}\n"
     "clips: {dive: {frames: [0-1], fps: 4}}\n"
     "marks: {dive: {spans: {danger: 0.125s-0.25s}}}\n"
     "states: {a: {clip: dive}}\n",
     "dive length 352800000 cycle 352800000 passes 1\n"
     "  from 0 dive frame 0\n"
     "  from 88200000 dive frame 0\n"
     "  from 176400000 dive frame 1\n"
     "  mark danger over ticks 88200000 to 176400000\n"},
    {"stops", "WhatLiesOnACycle",
     "cues: {hum: {kind: sound}, danger: {kind: warning}}\n"
     "clips: {dive: {frames: [0-3], fps: 4, play: once}}\n"
     "marks: {dive: {cues: {1: hum}, spans: {danger: 2-3}}}\n"
     "states: {a: {clip: dive}}\n",
     "a dive\n"
     "  at 0\n"
     "  at 176400000, forward hum\n"
     "  at 352800000, forward begin of danger, backward end of danger, backward hum\n"
     "  at 705600000, forward end of danger, backward begin of danger\n"},
    {"plan", "ThresholdsAndDeeds",
     "inputs: {height: 1.0, sting: pulse}\n"
     "clips: {fan: {frames: [0-1], fps: 5, play: loop}}\n"
     "states:\n"
     "  low: {clip: fan, go: [{when: height > 2, to: high}, {pulse: sting, to: high}]}\n"
     "  high: {clip: fan, go: [{when: height <= 2, to: low}]}\n"
     "initial: low\n",
     "root\n"
     "low, steady\n"
     "  leave: @48 = 0\n"
     "  leave: tell leave low\n"
     "  leave: @40 = 65535\n"
     "  enter: @40 = 1\n"
     "  enter: tell enter low\n"
     "  begin: @48 = 0\n"
     "  go 0, when height in [2.0000000000000004, inf] -> high, 3 deeds\n"
     "  go 1 on pulse sting -> high, 3 deeds\n"
     "  looks at 0, 1 if sting is 1\n"
     "high, steady\n"
     "  leave: @48 = 0\n"
     "  leave: tell leave high\n"
     "  leave: @40 = 65535\n"
     "  enter: @40 = 2\n"
     "  enter: tell enter high\n"
     "  begin: @48 = 0\n"
     "  go 2, when height in [-inf, 2] -> low, 3 deeds\n"
     "  looks at 2\n"},
    {"plan", "WhatALeafLooksAt",
     "inputs: {lit: false, mood: {one_of: [calm, angry]}, height: 1.0}\n"
     "states:\n"
     "  all: {go: [{when: mood == angry, to: all/b}], states: {a: {go: [{when: lit and height > 2, to: b}]}, b: {}}, "
     "initial: a}\n",
     "root\n"
     "all, steady\n"
     "  leave: tell leave all\n"
     "  leave: @40 = 65535\n"
     "  enter: @40 = 1\n"
     "  enter: tell enter all\n"
     "  go 0, when mood in [1, 1] -> all/b\n"
     "all/a, steady\n"
     "  leave: tell leave all/a\n"
     "  leave: @40 = 1\n"
     "  enter: @40 = 2\n"
     "  enter: tell enter all/a\n"
     "  go 1, when lit outside [0, 0] and height in [2.0000000000000004, inf] -> all/b, 2 deeds\n"
     "  looks at 0 if mood is 1, 1 if lit is 1\n"
     "all/b, steady\n"
     "  leave: tell leave all/b\n"
     "  leave: @40 = 1\n"
     "  enter: @40 = 3\n"
     "  enter: tell enter all/b\n"
     "  looks at 0 if mood is 1 (stands)\n"},
};

class Stages : public testing::TestWithParam<StageRow> {};

TEST_P(Stages, MakeOfASourceWhatIsWritten) {
  const StageRow& row = GetParam();
  EXPECT_EQ(machine_of(row.source).dump(row.stage), row.dump) << row.source;
}
INSTANTIATE_TEST_SUITE_P(Compiling, Stages, testing::ValuesIn(kStageRows),
                         [](const auto& it) { return it.param.name; });

TEST(Stages, EachHasARow) {
  for (const StageInfo& stage : compile_stages()) {
    EXPECT_FALSE(stage.makes.empty());
    EXPECT_TRUE(std::any_of(std::begin(kStageRows), std::end(kStageRows), [&](const StageRow& row) {
      return row.stage == stage.name;
    })) << stage.name;
  }
}

TEST(Stages, AreTheSameOfAPackedMachineButForWords) {
  const Machine machine = machine_of(kStageRows[2].source);
  EXPECT_EQ(machine.dump("no stage"), "");
  for (const StageInfo& stage : compile_stages())
    EXPECT_EQ(load_pack(pack(machine))->dump(stage.name), machine.dump(stage.name));
}

}  // namespace
}  // namespace mobrin::test
