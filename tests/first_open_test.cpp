// Which of a leaf's transitions is the first that may be taken: as the quick way finds it, in instances and crowds, and
// as the engine does, whom a trace makes do all.
#include <gtest/gtest.h>

#include "mobrin/core/crowd.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A machine whose state `a` has these transitions; `b`, `c` and `d` have none. Beside it a region that turns by `on`.
Machine with_go(const std::string& go) {
  return machine_of(
      "inputs: {b: false, on: false, mood: {one_of: [calm, angry, tired]}, x: {float: 0}, n: {int: 0}, p: pulse, q: "
      "{pulse: 0.2s}}\nregions: {body: {states: {a: {go: [" +
      go +
      "]}, b: {}, c: {}, d: {}}, initial: a}, wings: {states: {still: {go: [{when: on, to: beat}]}, beat: {go: [{when: "
      "not on, to: still}]}}, initial: still}}");
}

struct FirstRow {
  const char* name;
  const char* go;
};
class FirstOpen : public testing::TestWithParam<FirstRow> {
 protected:
  struct Values {
    bool b, on;
    std::uint8_t mood;
    float x;
    std::int32_t n;
    int pulses;
  };
  static void write(const Machine& m, const Values& values, const auto& set, const auto& pulse) {
    set(*m.input<bool>("b"), values.b);
    set(*m.input<bool>("on"), values.on);
    set(*m.input<Choice>("mood"), Choice{values.mood});
    set(*m.input<float>("x"), values.x);
    set(*m.input<std::int32_t>("n"), values.n);
    if ((values.pulses & 1) != 0) pulse(*m.pulse("p"));
    if ((values.pulses & 2) != 0) pulse(*m.pulse("q"));
  }
};

TEST_P(FirstOpen, IsOneForAll) {
  const Machine machine = with_go(GetParam().go);
  std::array<int, 5> reached{};
  for (int bits = 0; bits < 2 * 2 * 3 * 3 * 2 * 4; ++bits) {
    int left = bits;
    const auto take = [&](int of) {
      const int value = left % of;
      left /= of;
      return value;
    };
    Values values{};
    values.b = take(2) != 0;
    values.on = take(2) != 0;
    values.mood = static_cast<std::uint8_t>(take(3));
    values.x = static_cast<float>(take(3)) * 4;
    values.n = take(2) * 7;
    values.pulses = take(4);
    Instance quick(machine), watched(machine);
    watched.set_trace({[](void*, const Considered&) {}, nullptr});
    Crowd crowd(machine);
    const Member member = crowd.add();
    CueList<16> list;
    CrowdCues cues;
    for (Instance* each : {&quick, &watched}) ASSERT_TRUE(each->advance(milliseconds(5), list).complete());
    crowd.advance(milliseconds(5), cues);
    for (Instance* each : {&quick, &watched})
      write(
          machine, values, [&](auto input, auto value) { each->set(input, value); },
          [&](Pulse pulse) { each->pulse(pulse); });
    write(
        machine, values, [&](auto input, auto value) { crowd.set(member, input, value); },
        [&](Pulse pulse) { crowd.pulse(member, pulse); });
    for (Instance* each : {&quick, &watched}) ASSERT_TRUE(each->advance(milliseconds(5), list).complete());
    crowd.advance(milliseconds(5), cues);
    EXPECT_EQ(quick.active(0), watched.active(0)) << bits;
    EXPECT_EQ(crowd.active(member, 0), watched.active(0)) << bits;
    EXPECT_EQ(quick.hash(), watched.hash()) << bits;
    EXPECT_EQ(crowd.copy(member)->hash(), watched.hash()) << bits;
    ++reached[static_cast<std::size_t>(machine.states()[watched.active(0)].path.back() - 'a')];
  }
  EXPECT_GT(reached[0], 0);  // some stay
  EXPECT_GT(reached[1], 0);  // and some go
}
INSTANTIATE_TEST_SUITE_P(
    Settling, FirstOpen,
    testing::Values(
        FirstRow{"bools_of_one_word", "{when: b and on, to: b}, {when: not b and on, to: c}"},
        FirstRow{"never", "{when: b and not b, to: c}, {when: b, to: b}"},
        FirstRow{"choices", "{when: mood == angry and b, to: b}, {when: mood != calm, to: c}"},
        FirstRow{"two_choices", "{when: mood == angry and mood == tired, to: c}, {when: mood == tired and on, to: b}"},
        FirstRow{"pulse_and_bool", "{pulse: p, when: b, to: b}, {pulse: p, to: c}"},
        FirstRow{"pulse_and_number", "{pulse: p, when: b and x > 2, to: b}, {pulse: q, when: n == 7, to: c}"},
        FirstRow{"any", "{when: b or on, to: b}, {when: mood == tired or x > 7, to: c}"},
        FirstRow{"another_region", "{when: in(wings/beat) and x < 3, to: b}, {when: in(wings/beat), to: c}"},
        FirstRow{"more_terms",
                 "{when: b and on and x > 2 and n == 7 and mood == angry, to: b}, {when: b "
                 "and on and n == 7 and x < 9, to: c}"},
        FirstRow{"stands", "{when: b, to: a}, {when: on, to: b}"},
        FirstRow{"stands_by_a_press", "{pulse: p, when: b, to: a}, {pulse: q, to: b}, {when: x > 5, to: c}"},
        FirstRow{"computed", "{when: x + n > 6 and b, to: b}, {when: \"max(x, n) > 6\", to: c}"}),
    [](const auto& row) { return std::string(row.param.name); });

// Transitions of an outer state stand in the lists of so many leaves only; of the others the way out is looked at.
TEST(Settling, ManyLeavesOfAnOuterStateTakeItsTransitions) {
  std::string text = "inputs: {x: {float: 0}, b: false, p: pulse}\nstates: {all: {go: [";
  for (int i = 0; i < 12; ++i)
    text += "{when: x == " + std::to_string(i + 1) + " and b, to: s" + std::to_string(3 * i) + "}, ";
  text += "{pulse: p, to: out}], states: {";
  for (int i = 0; i < 40; ++i) text += (i == 0 ? "s" : ", s") + std::to_string(i) + ": {}";
  const Machine machine = machine_of(text + "}, initial: s39}, out: {}}\ninitial: all");
  const auto x = *machine.input<float>("x");
  const auto b = *machine.input<bool>("b");
  for (int to = 1; to <= 12; ++to) {
    Instance quick(machine), watched(machine);
    watched.set_trace({[](void*, const Considered&) {}, nullptr});
    CueList<16> list;
    for (Instance* each : {&quick, &watched}) {
      const auto now_in = [&] {
        (void)each->advance(milliseconds(5), list);
        return machine.states()[each->active()].path;
      };
      EXPECT_EQ(now_in(), "all/s39");
      each->set(x, static_cast<float>(to));
      EXPECT_EQ(now_in(), "all/s39");
      each->set(b, true);
      EXPECT_EQ(now_in(), "all/s" + std::to_string(3 * to - 3));
      each->set(x, static_cast<float>(to % 12 + 1));
      EXPECT_EQ(now_in(), "all/s" + std::to_string(to % 12 * 3));
      each->set(x, 0.0f);  // else it stands, and what is behind it is not looked at
      each->pulse(*machine.pulse("p"));
      EXPECT_EQ(now_in(), "out");
    }
    EXPECT_EQ(quick.hash(), watched.hash());
  }
}

}  // namespace
}  // namespace mobrin::test
