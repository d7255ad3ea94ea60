// What an instance says it waits for: nothing is told before its next wake, and nothing shown changes before its next
// change.
#include "engine_log.hpp"
#include "made_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// What all regions show, what fades out with it.
std::string frames(const Instance& instance) {
  std::string out;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    out += std::to_string(instance.active(r));
    for (const Shown& shown : instance.layers(r))
      out += " " + std::to_string(shown.clip) + ":" + std::to_string(shown.frame);
    out += ";";
  }
  return out;
}

class Waits : public testing::TestWithParam<Made> {
 protected:
  bool advance(Instance& instance, Ticks time) { return comes_to_rest(instance, time, told_); }
  CueList<8'192> told_{kAllRecords};
};

TEST_P(Waits, AsLongAsItSays) {
  constexpr Ticks kTick(1), kLongest(3'000'000'000);
  std::size_t wakes = 0, changes = 0;
  std::uint32_t from = 0;
  for (int more = 150; more > 0; --more) {
    SoundMachine subject = next_sound(from, GetParam());
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    Instance it(subject.machine);
    for (int step = 0; step < 40; ++step) {
      if (random.pick(3) != 0) random.write(it);
      const Ticks wake = it.next_wake();
      if (wake <= it.now() || random.pick(2) == 0) {
        const bool rests = advance(it, random.pick(3) != 0 ? Ticks(0) : Ticks(random.pick(90'000'000)));
        for (const Cue& cue : told_) ASSERT_GE(cue.at, wake) << "seed " << seed << " step " << step;
        if (!rests) break;
        continue;
      }
      // Up to just before something else is shown, and that once.
      const Ticks change = it.next_change(), until = std::min({change, wake, it.now() + kLongest});
      const std::string before = frames(it);
      if (change > it.now() && until > it.now()) {
        ASSERT_TRUE(advance(it, until - it.now() - kTick));
        ASSERT_TRUE(told_.empty()) << "seed " << seed << " step " << step;
        ASSERT_EQ(frames(it), before) << "seed " << seed << " step " << step;
        ASSERT_GE(it.next_wake(), wake) << "seed " << seed << " step " << step;
        if (!advance(it, kTick)) break;
        changes += frames(it) != before ? 1 : 0;
      }
      // Up to just before something is told, and that once.
      const Ticks next = it.next_wake();
      if (next <= it.now() || next > it.now() + kLongest) continue;
      ASSERT_TRUE(advance(it, next - it.now() - kTick));
      ASSERT_TRUE(told_.empty()) << "seed " << seed << " step " << step;
      if (!advance(it, kTick)) break;
      wakes += told_.empty() ? 0 : 1;
    }
  }
  EXPECT_GT(wakes, 150U);
  EXPECT_GT(changes, 150U);
}
INSTANTIATE_TEST_SUITE_P(All, Waits,
                         testing::ValuesIn(kAllMade),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
