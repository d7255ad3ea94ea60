// Tapes: loading, what is wrong with them, running.
#include <sstream>

#include "mobrin/io/record.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string tape_findings(const std::string& steps) {
  return joined(load_tape_text("mobrin: 1\ntape: t\n" + steps, "t.yaml").findings);
}

TEST(Tapes, SayWhatIsWrong) {
  EXPECT_EQ(tape_findings("steps: [{at: 1s, pulse: p}, {at: 500ms, pulse: p}]"),
            "t.yaml:3:34: error: the step at \"500ms\" lies before the one above it [bad-value]\n    Put the steps in "
            "order of time.\n");
  EXPECT_EQ(tape_findings("steps: [{at: 2, pulse: p}]"),
            "t.yaml:3:14: error: `at:` is \"2\" [wrong-type]\n    Write `2s` or `2ms`.\n");
  EXPECT_EQ(tape_findings("steps: [{pulse: p}]"),
            "t.yaml:3:9: error: the step does not say when [missing-key]\n    Add `at:`, such as `at: 900ms`.\n");
  EXPECT_EQ(tape_findings("steps: [{at: 0s, puls: p}]"),
            "t.yaml:3:18: error: \"puls\" is no key of a tape step [unknown-key]\n    Did you mean \"pulse\"?\n");
  EXPECT_EQ(tape_findings("steps: [{at: 3s, pulse: p}]\nuntil: 2s"),
            "t.yaml:4:8: warning: the tape ends before its last step [after-until]\n    Steps after `until:` are not "
            "run; raise it.\n");
  EXPECT_NE(
      tape_findings("steps: [{at: 1s, pulse: p}, {at: {ticks: 9}, pulse: p}]").find("the step at tick 9 lies before"),
      std::string::npos);
  EXPECT_NE(tape_findings("steps: [{900ms: p}]").find("A step says its instant by a key: `{at: 900ms, ...}`."),
            std::string::npos);
  EXPECT_NE(
      tape_findings("steps: [{at: 0s, pulse: p, until: 1s}]").find("It is one of the tape: put it beside `steps:`."),
      std::string::npos);
  EXPECT_EQ(joined(load_tape_text("mobrin: 1\nmachine: m", "t.yaml").findings),
            "t.yaml:1:1: error: \"t.yaml\" is no tape [wrong-kind-of-file]\n    A tape says `tape: NAME` and lists its "
            "`steps:`.\n");
}

// Habits of other tapes: one finding each, with how it is written here.
TEST(Tapes, AnswerHabitsOnce) {
  const auto told = [](const std::string& step) {
    return tape_findings("steps:\n  - " + step + "\n  - {at: 2s, pulse: p}");
  };
  const std::string no_key = "t.yaml:4:6: error: \"";
  EXPECT_EQ(
      told("{frame: 24, pulse: p}"),
      no_key + "frame\" is no key of a tape step [unknown-key]\n    Steps count time, not frames: `at: 400ms`.\n");
  EXPECT_EQ(told("{after: 1s, pulse: p}"),
            no_key + "after\" is no key of a tape step [unknown-key]\n    Did you mean \"at\"?\n");
  EXPECT_EQ(told("{for: 1s, at: 1s, set: {x: 1}}"), no_key +
                                                        "for\" is no key of a tape step [unknown-key]\n    What is set "
                                                        "stays until it is set again: write another step.\n");
  EXPECT_EQ(told("{add: {x: 1}, at: 1s}"), no_key +
                                               "add\" is no key of a tape step [unknown-key]\n    A step says what an "
                                               "input becomes: `set: {health: 4}`.\n");
  EXPECT_NE(told("{at: 1s, go: true}").find("    An input is written under `set:`, a press under `pulse:`."),
            std::string::npos);
  EXPECT_NE(told("{at: 1s, rest: true}").find("    Did you mean \"reset\"?\n"), std::string::npos);
  EXPECT_EQ(
      told("{at: 1s}"),
      "t.yaml:4:5: warning: the step does nothing [hardly-meant]\n    Say what is written, `set:` or `pulse:`, or "
      "what must be so, `expect:`.\n");
  EXPECT_EQ(tape_findings("steps: [{at: 1s, pulse: p}, {at: 2s}]"), "");  // how long it lasts
  EXPECT_EQ(tape_findings("events: [{at: 1s, pulse: p}]"),
            "t.yaml:3:1: error: \"events\" is no key of a tape [unknown-key]\n    Did you mean \"steps\"?\n");
}

// One answer each, at its place.
TEST(Tapes, AnswerWhatIsWrittenInAnotherWay) {
  struct {
    const char *step, *told;
  } const rows[] = {
      {"{at: 1s, set: move = 1}", ":19: error: `set:` is \"move = 1\" [wrong-type]\n    Expected a map: `{move: 1}`."},
      {"{at: 1s, set: [move, 1]}", ":19: error: `set:` is a list [wrong-type]\n    Expected a map: `{move: 1}`."},
      {"{at: 1s, set: {move: {from: 0, to: 1}}}", "one value; what changes over time takes a step for each."},
      {"{at: 1s, pulse: {hop: true}}",
       ":21: error: `pulse:` is a map [wrong-type]\n    Expected its name: `pulse: hop`."},
      {"{at: 1s, hold: run}", "What is held is a bool: `set: {run: true}`, and in a later step `false`."},
      {"{at: 1s, toggle: run}", "A step says what an input becomes"},
      {"{at: 1s, state: air}", "A state is put there by `place: air`, and expected by `expect: {in: air}`."},
      {"{wait: 1s}", "Steps say their instant, counted from the tape's begin: `at: 1s`."},
      {"{at: 1s, pulse: p, note: x}", "Write it as a comment, `# ...`."},
      {"{at: 1s, to: air}", ":18: error: `to:` stands without `from:` [conflicting-keys]"},
      {"{from: 1s, to: 2s, set: {x: 1}, pulse: p}", ":29: error: `set:` stands beside `from:` [conflicting-keys]"},
      {"{from: 1s, to: 2s}", ":12: error: the stretch expects nothing [missing-key]"},
      {"{at: 1s, from: 1s, to: 2s, expect: {never: x}}", ":10: error: `at:` stands beside `from:`"},
      {"{at: 1s, expect: air}",
       ":22: error: `expect:` is \"air\" [wrong-type]\n    Expected a map such as `{in: air}`"},
      {"{at: 1s, expect: {in: [a, b]}}", "Expected one state; any of several is `holds: in(stand) or in(walk)`."},
      {"{at: 1s, expect: {not_in: a}}", "Write `holds: not in(air)`."},
      {"{at: 1s, expect: {skin: a}}", "Did you mean \"look\"?"},
      {"{at: 1s, expect: {frame: 3}}", "Write the clip and the number of its frame: `shows: walk/3`."},
      {"{at: 1s, expect: {health: 3}}", "A value is expected by an expression, `holds: health == 3`. Its keys are: "},
      {"{at: 1s, expect: {cues: [x]}}", "`cues:` does not go with this time"},
  };
  for (const auto& [step, told] : rows) {
    const std::string all = tape_findings("steps:\n  - " + std::string(step) + "\n  - {at: 2s, pulse: p}");
    EXPECT_NE(all.find(told), std::string::npos) << step << '\n' << all;
    EXPECT_EQ(std::count(all.begin(), all.end(), '\n'), 2) << step << '\n' << all;  // a finding and its remedy
  }
  for (const auto& [top, told] : std::initializer_list<std::pair<const char*, const char*>>{
           {"expect: [{at: 1s, in: a}]", "What must be so is said by a step: `- {at: 1s, expect: {in: air}}`."},
           {"fps: 60", "Steps count time, not frames; leave it out."},
           {"loop: true", "A tape runs once; leave it out."},
           {"set: {x: 1}", "It is one of a step: put it into one of the list `steps:`"},
           {"states: {a: {}}", "It is one of a machine: put it into the file that `machine:` names."},
           {"for: 2s", "Did you mean \"until\"?"}}) {
    const std::string all = tape_findings("steps: []\n" + std::string(top));
    EXPECT_NE(all.find(told), std::string::npos) << top << '\n' << all;
    EXPECT_EQ(std::count(all.begin(), all.end(), '\n'), 2) << top << '\n' << all;
  }
}

TEST(Tapes, SayWhatStandsThereWithNothingBehindIt) {
  for (const char* step : {"{at: 1s, set: }", "{at: 1s, expect: }", "{at: 1s, expect: {}}", "{at: 1s, pulse: }",
                           "{from: 1s, to: 2s, expect: {cues: }}", "{from: 1s, to: 2s, expect: {cues: {}}}"}) {
    const std::string told = tape_findings("steps: [" + std::string(step) + "]");
    EXPECT_NE(told.find("error: "), std::string::npos) << step;
    EXPECT_NE(told.find("    Expected "), std::string::npos) << step << told;
    EXPECT_EQ(std::count(told.begin(), told.end(), '\n'), 2) << step << told;
  }
}

TEST(Tapes, LastAsLongAsALastStepSays) {
  EXPECT_EQ(tape_of("  - {at: 1s, pulse: p}\n  - {at: 3s}").until, milliseconds(3000));
  EXPECT_FALSE(tape_of("  - {at: 1s, pulse: p}").until);
  EXPECT_FALSE(tape_of("  - {at: 1s, pulse: p}\n  - {at: 3s, expect: {in: a}, set: {x: 1}}").until);
  // To the end of what is expected last: a half of a digit further, which is still that instant.
  EXPECT_EQ(tape_of("  - {at: 1s, pulse: p}\n  - {at: {ticks: 705600000}, expect: {in: a}}").until, milliseconds(1000));
  EXPECT_EQ(tape_of("  - {at: 1s, pulse: p}\n  - {at: 3s, expect: {in: a}}").until, Ticks(3000 * 705'600LL + 352'800));
  EXPECT_EQ(tape_of("  - {at: 1s, pulse: p}\n  - {from: 2s, to: 4s, expect: {never: in(a)}}").until,
            milliseconds(4000));
  EXPECT_EQ(tape_of("  - {at: 3s, pulse: p}\n  - {from: 1s, to: 2s, expect: {never: in(a)}}").until,
            milliseconds(3000));
  EXPECT_EQ(tape_of("  - {from: 1s, to: 2s, expect: {never: in(a)}}").until, milliseconds(2000));
  EXPECT_EQ(tape_of("  - {from: 0s, to: 5s, expect: {never: in(a)}}\n  - {at: 3s}").until, milliseconds(3000));
  EXPECT_EQ(tape_of("  - {from: 0s, to: 5s, expect: {never: in(a)}}\n  - {at: 3s, expect: {in: a}}").until,
            milliseconds(5000));
  // What is expected behind the end is told when it is checked, not as a step that is lost.
  EXPECT_EQ(tape_findings("steps: [{at: 3s, expect: {in: a}}]\nuntil: 2s"), "");
}

// What a game writes at every frame, as a recorder keeps it.
Tape long_tape(std::int64_t steps) {
  Tape tape;
  tape.name = "long";
  for (std::int64_t i = 0; i < steps; ++i) {
    TapeStep& step = tape.steps.emplace_back();
    step.at = Ticks(i * 11'760'000);
    step.set.emplace_back("move", 0.5 + static_cast<double>(i % 7));
    if (i % 1000 == 1) step.pulses.emplace_back("go");
  }
  tape.until = tape.steps.back().at + milliseconds(500);
  return tape;
}

// Of a quarter of an hour: read in pieces, and all the same.
TEST(Tapes, OfHoursAreReadAsTheyAreRecorded) {
  const Tape tape = long_tape(60'000);
  const LoadedTape loaded = load_tape_text(tape_text(tape), "t.yaml");
  ASSERT_EQ(joined(loaded.findings), "");
  EXPECT_EQ(loaded.tape->until, tape.until);
  EXPECT_TRUE(std::equal(tape.steps.begin(), tape.steps.end(), loaded.tape->steps.begin(), loaded.tape->steps.end(),
                         [](const TapeStep& a, const TapeStep& b) {
                           return a.at == b.at && a.set.size() == b.set.size() && a.set[0].second == b.set[0].second &&
                                  a.pulses.size() == b.pulses.size();
                         }));
}

// Before, in and behind its steps, and where one piece of them ends.
TEST(Tapes, OfHoursSayWhatIsWrongOnItsLine) {
  std::vector<std::string> lines;
  std::istringstream stream(tape_text(long_tape(28'000)));
  for (std::string line; std::getline(stream, line);) lines.push_back(line);
  ASSERT_EQ(lines.size(), 28'004U);  // three before the steps, one behind them
  const auto told = [&](std::initializer_list<std::pair<std::size_t, const char*>> others) {
    std::vector<std::string> wrong = lines;
    for (const auto& [number, line] : others) wrong[number - 1] = line;
    std::string text;
    for (const std::string& line : wrong) text += line + '\n';
    return joined(load_tape_text(text, "t.yaml").findings);
  };
  EXPECT_EQ(told({{2, "tape: [long]"},
                  {10'000, "  - {at: {ticks: 117553000000}, puls: go}"},
                  {20'000, "  # nothing here"},
                  {3 + 6 * 4'096 + 1, "  - {at: 1s, pulse: go}"},
                  {28'004, "untill: 8000s"}}),
            "t.yaml:2:7: error: the tape's name is a list [wrong-type]\n    Expected a name.\n"
            "t.yaml:10000:33: error: \"puls\" is no key of a tape step [unknown-key]\n    Did you mean \"pulse\"?\n"
            "t.yaml:24580:10: error: the step at \"1s\" lies before the one above it [bad-value]\n    Put the steps in "
            "order of time.\n"
            "t.yaml:28004:1: error: \"untill\" is no key of a tape [unknown-key]\n    Did you mean \"until\"?\n");
  EXPECT_EQ(told({{20'000, "  - {at: 1s, pulse: [go}"}}).substr(0, 15), "t.yaml:20000:24");
}

// As JSON is written that nobody is to read: all on one line, without an end of line.
TEST(Tapes, OnOneLineAreReadHoweverLongItIs) {
  std::string text = R"({"mobrin":1,"tape":"t","until":"1s","steps":[)";
  for (int i = 0; i < 30'000; ++i) text += R"({"at":"500ms","set":{"move":0.5}},)";
  text.back() = ']';
  text += '}';
  ASSERT_GT(text.size(), 1'000'000U);
  for (const char* end : {"", "\n"}) {
    const LoadedTape loaded = load_tape_text(text + end, "t.json");
    ASSERT_TRUE(loaded.tape) << joined(loaded.findings);
    EXPECT_EQ(loaded.tape->steps.size(), 30'000U);
  }
  // A last line without its end, where the rest is read in pieces.
  std::string lines = "mobrin: 1\ntape: t\nsteps:\n";
  for (int i = 0; i < 40'000; ++i) lines += "  - {at: 500ms, set: {move: 0.5}}\n";
  lines.pop_back();
  EXPECT_EQ(load_tape_text(lines, "t.yaml").tape.value().steps.size(), 40'000U);
  EXPECT_NE(joined(load_tape_text(lines + "\nuntill: 3s", "t.yaml").findings).find("t.yaml:40004:1: "),
            std::string::npos);
}

TEST(Tapes, MoreThanAreReadAreRefused) {
  std::string text = "mobrin: 1\ntape: t\nsteps:\n";
  for (int i = 0; i <= 500'000; ++i) text += "- at: 0s\n";
  EXPECT_EQ(joined(load_tape_text(text, "t.yaml").findings),
            "t.yaml:3:1: error: the tape has 500001 steps [too-large]\n    At most 500000 are read: record shorter "
            "ones, each with its `save:`.\n");
}

TEST(Tapes, AreCheckedAgainstTheirMachine) {
  const Machine machine = machine_of(
      "inputs: {move: 0.0, health: 3, tool: {one_of: [net, smoker]}, swing: pulse}\nvars: {rounds: 0}\n"
      "states: {a: {}}");
  const auto check = [&](const std::string& steps) { return joined(check_tape(tape_of(steps), machine, "t.yaml")); };
  EXPECT_EQ(check("  - {at: 0s, set: {move: 1, health: 2, tool: net}, pulse: [swing]}"), "");
  EXPECT_EQ(check("  - {at: 0s, set: {mvoe: 1}}"),
            "t.yaml:4:20: error: there is no input \"mvoe\" [unknown-name]\n    Did you mean \"move\"?\n");
  EXPECT_EQ(check("  - {at: 0s, set: {rounds: 1}}"),
            "t.yaml:4:20: error: there is no input \"rounds\" [unknown-name]\n    It is a variable: the machine's own "
            "actions write it.\n");
  EXPECT_EQ(check("  - {at: 0s, set: {health: 2.5}}"),
            "t.yaml:4:20: error: the input \"health\" takes a whole number, not 2.5 [wrong-type]\n    "
            "Write a whole number.\n");
  EXPECT_EQ(
      check("  - {at: 0s, set: {tool: nett}}"),
      "t.yaml:4:20: error: there is no choice of \"tool\" called \"nett\" [unknown-name]\n    Did you mean \"net\"?\n");
  EXPECT_EQ(
      check("  - {at: 0s, set: {move: true, swing: true, tool: 1}}"),
      "t.yaml:4:20: error: the input \"move\" takes a number, not true [wrong-type]\n    Write a number.\n"
      "t.yaml:4:32: error: the input \"swing\" takes a press (`pulse:`) and no value, not true [wrong-type]\n    Write "
      "`pulse: swing`.\n"
      "t.yaml:4:45: error: the input \"tool\" takes one of net, smoker, not 1 [wrong-type]\n    Write one of net, "
      "smoker.\n");
  EXPECT_EQ(check("  - {at: 0s, pulse: swng}"),
            "t.yaml:4:21: error: there is no pulse \"swng\" [unknown-name]\n    Did you mean \"swing\"?\n");
  EXPECT_EQ(check("  - {at: 0s, place: nowhere}"),
            "t.yaml:4:21: error: there is no state \"nowhere\" [unknown-name]\n    There is a.\n");
}

TEST(Tapes, TakeEffectAtExactlyTheirTick) {
  const Machine machine = machine_of(
      "inputs: {x: false, y: false}\ninitial: a\nstates: {a: {go: [{when: x, to: b}]}, b: {go: [{when: y, to: c}]}, c: "
      "{}}");
  const Tape tape = tape_of("  - {at: {ticks: 70560001}, set: {x: true}}\n  - {at: {ticks: 70560001}, set: {y: true}}");
  Instance instance(machine);
  std::vector<std::int64_t> instants;
  run_tape(instance, tape, {7, Ticks(70560001), kAllRecords},
           [&](const Cue& cue) { instants.push_back(cue.at.count); });
  EXPECT_EQ(instants,
            (std::vector<std::int64_t>{0, 70560001, 70560001, 70560001, 70560001}));  // also what lies at the very end
  EXPECT_EQ(instance.now().count, 70560001);
}

TEST(Tapes, StepsOfOneInstantAreWrittenTogether) {
  const Machine machine = machine_of(
      "inputs: {x: false, y: false}\ninitial: a\nstates: {a: {go: [{when: x and not y, to: wrong}, {when: x and y, to: "
      "right}]}, wrong: {}, right: {}}");
  EXPECT_EQ(log_of(machine, tape_of("  - {at: 10ms, set: {x: true}}\n  - {at: 10ms, set: {y: true}}"), milliseconds(20))
                .back(),
            "10 enter right");
}

}  // namespace
}  // namespace mobrin::test
