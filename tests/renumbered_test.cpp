// A machine in which everything has another number, as after an edit: what is carried over or loaded goes on as it was.
#include "engine_log.hpp"
#include "made_machine.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/io/save.hpp"
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
INSTANTIATE_TEST_SUITE_P(All, Renumbered,
                         testing::Values(Made::plain, Made::with_regions, Made::with_regions_apart, Made::counting,
                                         Made::wider),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
