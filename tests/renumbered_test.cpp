// After an edit: where all has another number it goes on as it was; else, carried over or loaded, it is the same.
#include "engine_log.hpp"
#include "made_machine.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/io/save.hpp"
#include "shrink.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// Gives every list of states another one before it, which nothing leads to.
void push_states_back(StateDef& around) {
  const auto push = [](std::vector<StateDef>& states, Text& initial) {
    for (StateDef& each : states) push_states_back(each);
    if (states.empty()) return;
    if (initial.empty()) initial = states.front().name;
    states.insert(states.begin(), StateDef{.name = "unused"});
  };
  push(around.states, around.initial);
  for (RegionDef& region : around.regions) push(region.states, region.initial);
}

MachineDef renumbered(MachineDef definition) {
  push_states_back(definition.root);
  definition.root.vars.insert(definition.root.vars.begin(), VarDef{.name = "spare", .start = 3});
  const auto turn = [](auto& list) { std::reverse(list.begin(), list.end()); };
  turn(definition.inputs), turn(definition.cues), turn(definition.clips), turn(definition.marks);
  definition.inputs.insert(definition.inputs.begin(), InputDef{.name = "idle", .kind = BoolInput{}});
  return definition;
}

// One step, in words. Nothing where it tells too much, or does not come to rest: another machine looks at its rules
// anew, so that goes on there.
std::optional<std::vector<std::string>> step(Instance& instance, Ticks time) {
  static CueList<kMostRecords> told(kAllRecords);
  if (!comes_to_rest(instance, time, told)) return std::nullopt;
  std::vector<std::string> out;
  for (const Cue& cue : told) out.push_back(text_of_record(cue));
  return out;
}

class Renumbered : public testing::TestWithParam<Made> {};

TEST_P(Renumbered, GoesOnAsItWas) {
  std::size_t told = 0;
  std::uint32_t from = 0;
  for (int more = 300; more > 0; --more) {
    SoundMachine subject = next_sound(from, GetParam());
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    const Machine other = compile(renumbered(subject.definition)).machine.value();
    Instance before(subject.machine);
    bool rests = true;
    for (int i = random.pick(25); i > 0 && rests; --i) {
      random.write(before);
      rests = step(before, Ticks(random.pick(60'000'000))).has_value();
    }
    if (!rests) continue;
    if (random.pick(3) == 0) random.write(before);  // what no step has seen yet
    Instance carried(other), loaded(other);
    ASSERT_TRUE(carry_over(before, carried).empty()) << "seed " << seed;
    ASSERT_TRUE(load(*read_save(save_text(before)), loaded).empty()) << "seed " << seed;
    for (int i = 0; i < 25; ++i) {
      if (i > 0 || random.pick(2) == 0) {
        RandomMachine same = random, and_same = random;
        random.write(before), same.write(carried), and_same.write(loaded);
      }
      const Ticks time(random.pick(80'000'000));
      const auto expected = step(before, time);
      if (!expected) break;
      told += expected->size();
      ASSERT_EQ(step(carried, time), expected) << "seed " << seed << " step " << i;
      ASSERT_EQ(step(loaded, time), expected) << "seed " << seed << " step " << i;
    }
  }
  EXPECT_GT(told, 300U);
}
// Two machines of which one has up to three things that the other has not, such as a state, a rule, a clip or a time.
std::optional<std::pair<Machine, Machine>> edited(RandomMachine& random, Made kind) {
  Case more;
  more.definition = made(kind, random);
  Case less = more;
  for (int i = 1 + random.pick(3); i > 0; --i) {
    Case smaller = less;
    if (Reduction(static_cast<std::size_t>(random.pick(40))).make(smaller)) less = smaller;
  }
  if (less.definition.inputs.size() < more.definition.inputs.size()) return std::nullopt;  // all are written to
  const Compiled whole = compile(more.definition), reduced = compile(less.definition);
  if (!whole.machine || !reduced.machine) return std::nullopt;
  return random.pick(2) == 0 ? std::pair(*whole.machine, *reduced.machine)
                             : std::pair(*reduced.machine, *whole.machine);
}

// Carried over or loaded it is the same, and so it is saved again and loaded; how time is cut then changes nothing.
TEST_P(Renumbered, WhatIsCarriedIsWhatIsLoaded) {
  int done = 0, lost = 0;
  for (std::uint32_t seed = 0; done < 200; ++seed) {
    RandomMachine random(seed);
    const auto machines = edited(random, GetParam());
    if (!machines) continue;
    ++done;
    const auto& [was, is] = *machines;
    Instance before(was), carried(is), loaded(is), again(is), cut(is);
    bool rests = true;
    for (int i = random.pick(20); i > 0 && rests; --i) {
      random.write(before);
      rests = step(before, Ticks(random.pick(60'000'000))).has_value();
    }
    if (!rests) continue;
    CarryLosses losses = carry_over(before, carried);
    (void)carry_over(before, cut);
    std::erase_if(losses, [](const CarryLoss& each) { return each.kind == CarryLoss::Kind::cue; });  // no save has them
    lost += losses.empty() ? 0 : 1;
    ASSERT_EQ(load(*read_save(save_text(before)), loaded).size(), losses.size()) << "seed " << seed;
    ASSERT_TRUE(load(*read_save(save_text(carried)), again).empty()) << "seed " << seed;
    for (int i = 0; i < 20; ++i) {
      ASSERT_EQ(save_text(loaded), save_text(carried)) << "seed " << seed << " step " << i;
      for (Instance* each : {&loaded, &again, &cut})
        ASSERT_EQ(each->hash(), carried.hash()) << "seed " << seed << " step " << i;
      for (Instance* each : {&loaded, &again, &cut}) {
        RandomMachine same = random;
        same.write(*each);
      }
      random.write(carried);
      const Ticks time(random.pick(80'000'000)), part(time.count / 3);
      const auto told = step(carried, time);
      if (!told) break;
      ASSERT_EQ(step(loaded, time), told) << "seed " << seed << " step " << i;
      ASSERT_EQ(step(again, time), told) << "seed " << seed << " step " << i;
      if (!step(cut, part) || !step(cut, time - part)) break;
    }
  }
  EXPECT_GT(lost, 0);
}
INSTANTIATE_TEST_SUITE_P(All, Renumbered,
                         testing::ValuesIn(kAllMade),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
