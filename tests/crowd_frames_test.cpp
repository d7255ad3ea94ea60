// What a crowd keeps of what its members show: all of it, and only what changed.
#include <array>
#include <random>
#include <thread>

#include "mobrin/core/crowd.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A drop of honey that shines at a pace, and lies there once it was taken.
Machine drop(const std::string& speed = "1", const std::string& cycle = "[70ms, 110ms, 1ms, 40ms, 1s]") {
  return machine_of("inputs: {take: pulse}\nclips:\n  shine: {frames: [0-4], times: " + cycle +
                    ", play: loop}\n  gone: {frames: [5-7], fps: 11, play: once}\n"
                    "states:\n  shine: {clip: shine, speed: " +
                    speed + ", go: [{pulse: take, to: gone}]}\n  gone: {clip: gone}\ninitial: shine");
}

// Follows a crowd by what it says has changed, and holds that against each member's own frame.
struct Follower {
  explicit Follower(Crowd& of) : crowd(of) {}
  // The number of changes.
  std::size_t look() {
    const auto changes = crowd.shown_changed();
    frames.resize(crowd.places());
    std::vector<bool> told(frames.size());
    for (const CrowdChange& each : changes) {
      EXPECT_FALSE(told.at(each.place)) << "twice";
      told[each.place] = true;
      frames[each.place] = each.shown;
    }
    for (std::uint32_t place = 0; place < crowd.places(); ++place) {
      const Shown shown = crowd.shown(crowd.at(place));
      EXPECT_EQ(frames[place].clip, shown.clip) << "place " << place << " at " << crowd.now().count;
      EXPECT_EQ(frames[place].frame, shown.frame) << "place " << place << " at " << crowd.now().count;
    }
    return changes.size();
  }
  Crowd& crowd;
  std::vector<CrowdShown> frames;
};

class Paces : public testing::TestWithParam<const char*> {};

TEST_P(Paces, WhatChangedIsEnoughAtAnyStep) {
  const Machine machine = drop(GetParam());
  Crowd crowd(machine);
  CrowdCues cues;
  for (int i = 0; i < 40; ++i) {
    crowd.add();
    crowd.advance(milliseconds(7) + Ticks(i), cues);
  }
  Follower follower(crowd);
  EXPECT_EQ(follower.look(), 40u) << "at first all";
  EXPECT_EQ(follower.look(), 0u);
  std::size_t changes = 0;
  for (int step = 0; step < 300; ++step) {
    crowd.advance(step % 50 == 49 ? seconds(2.3) : step % 7 == 6 ? Ticks(1) : milliseconds(step % 23), cues);
    changes += follower.look();
    if (testing::Test::HasFailure()) return;
  }
  if (GetParam() == std::string("0"))
    EXPECT_EQ(changes, 0u);
  else
    EXPECT_GT(changes, 150u);
  EXPECT_LT(changes, 40u * 150) << "mostly nothing does";
}
INSTANTIATE_TEST_SUITE_P(CrowdFrames, Paces, testing::Values("1", "0.37", "-1", "2.5", "0"),
                         [](const auto& it) { return "Number" + std::to_string(it.index); });

TEST(CrowdFrames, FollowThoseWhoComeGoAndChange) {
  const Machine machine = drop();
  const Pulse take = *machine.pulse("take");
  Crowd crowd(machine);
  CrowdCues cues;
  for (int i = 0; i < 20; ++i) crowd.add();
  Follower follower(crowd);
  EXPECT_EQ(follower.look(), 20u);
  crowd.advance(milliseconds(1), cues);
  EXPECT_EQ(follower.look(), 20u) << "they have begun";
  crowd.pulse(crowd.at(3), take);
  EXPECT_EQ(follower.look(), 0u) << "not before the step";
  crowd.advance(Ticks(0), cues);
  EXPECT_EQ(follower.look(), 1u);
  crowd.remove(crowd.at(5));
  EXPECT_EQ(follower.look(), 1u);
  EXPECT_EQ(follower.frames[5].clip, kNoIndex);
  crowd.add();
  crowd.add();
  crowd.advance(milliseconds(1), cues);
  EXPECT_EQ(follower.look(), 2u) << "one at a new place";
  crowd.freeze(crowd.at(0), seconds(1));
  crowd.set_rate(crowd.at(1), 0.5);
  crowd.reset(crowd.at(3));
  for (int i = 0; i < 60; ++i) crowd.advance(milliseconds(33), cues), follower.look();
  std::vector<std::byte> saved, one(crowd.member_size());
  crowd.snapshot(saved);
  crowd.advance(milliseconds(95), cues);
  follower.look();
  ASSERT_TRUE(crowd.restore(saved));
  follower.look();
  ASSERT_TRUE(crowd.member_bytes(2, one));
  crowd.put_member_bytes(4, one);
  follower.look();
  Instance stand_in(machine, {0});
  ASSERT_TRUE(crowd.lend(crowd.at(6), stand_in));
  stand_in.pulse(take);
  CueList<64> list;
  (void)stand_in.advance(Ticks(0), list);
  ASSERT_TRUE(crowd.take_back(crowd.at(6), stand_in));
  follower.look();
}

TEST(CrowdFrames, BothWaysOfAskingAgree) {
  Crowd crowd(drop());
  CrowdCues cues;
  for (int i = 0; i < 300; ++i) {
    crowd.add();
    crowd.advance(Ticks(milliseconds(3).count + i), cues);
  }
  std::vector<CrowdShown> copied(300), followed(300);
  std::size_t changes = 0;
  for (int step = 0; step < 60; ++step) {
    // All are asked for several times before the changes are: those say once what is so by then.
    for (int i = 0; i < 3; ++i) {
      crowd.advance(milliseconds(16 + step % 5), cues);
      const auto kept = crowd.shown_all();
      ASSERT_EQ(kept.size(), 300u);
      ASSERT_EQ(crowd.shown_all(copied), 300u);
      for (std::uint32_t place = 0; place < 300; ++place) ASSERT_EQ(kept[place].frame, copied[place].frame);
    }
    std::vector<bool> told(300);
    for (const CrowdChange& each : crowd.shown_changed()) {
      ASSERT_FALSE(told[each.place]);
      told[each.place] = true;
      followed[each.place] = each.shown;
      ++changes;
    }
    for (std::uint32_t place = 0; place < 300; ++place) {
      ASSERT_EQ(followed[place].frame, copied[place].frame);
      ASSERT_EQ(copied[place].frame, crowd.shown(crowd.at(place)).frame);
    }
  }
  EXPECT_GT(changes, 3000u);
}

// For long only changes are asked for, then all, in any order, while members are taken, removed and slowed.
TEST(CrowdFrames, AllAreKnownHoweverLongOnlyChangesWereAskedFor) {
  const Machine machine = drop();
  const Pulse take = *machine.pulse("take");
  Crowd crowd(machine);
  CrowdCues cues;
  for (int i = 0; i < 300; ++i) {
    crowd.add();
    crowd.advance(Ticks(milliseconds(3).count + i), cues);
  }
  std::mt19937 random(3);
  const auto any = [&](std::uint32_t below) { return static_cast<std::uint32_t>(random() % below); };
  Follower follower(crowd);
  std::vector<std::byte> saved;
  crowd.snapshot(saved);
  for (int step = 0; step < 600; ++step) {
    const Member one = crowd.at(any(300));
    if (any(3) == 0) crowd.pulse(one, take);
    if (any(6) == 0) crowd.set_rate(one, any(4) * 0.5);
    if (any(6) == 0) crowd.reset(one);
    if (any(40) == 0) {
      crowd.remove(one);
      crowd.add();
    }
    if (any(90) == 0) {
      ASSERT_TRUE(crowd.restore(saved));
    }
    crowd.advance(any(40) == 0 ? milliseconds(300) : milliseconds(any(40)), cues);
    if (step % 100 < 60 ? any(5) != 0 : any(2) == 0) follower.look();
    if (step % 100 > 50 && any(4) == 0) {
      const auto all = crowd.shown_all();
      for (std::uint32_t place = 0; place < 300; ++place)
        ASSERT_EQ(all[place].frame, crowd.shown(crowd.at(place)).frame) << "place " << place << " step " << step;
    }
    ASSERT_FALSE(testing::Test::HasFailure()) << "step " << step;
  }
}

TEST(CrowdFrames, AFadeChangesTheWeightAtEveryStep) {
  const Machine machine = machine_of(
      "inputs: {far: false}\nclips: {a: {frames: [0], fps: 1}, b: {frames: [1], fps: 1}}\n"
      "states: {a: {clip: a, go: [{when: far, to: b, fade: 100ms}]}, b: {clip: b}}\ninitial: a");
  Crowd crowd(machine);
  CrowdCues cues;
  const Member member = crowd.add();
  crowd.advance(milliseconds(1), cues);
  EXPECT_EQ(crowd.shown_changed().size(), 1u);
  crowd.set(member, *machine.input<bool>("far"), true);
  crowd.advance(Ticks(0), cues);
  std::size_t changes = 0;
  for (int i = 0; i < 20; ++i) {
    for (const CrowdChange& each : crowd.shown_changed()) {
      EXPECT_EQ(each.shown.weight, static_cast<float>(crowd.shown(member).weight));
      ++changes;
    }
    crowd.advance(milliseconds(10), cues);
  }
  EXPECT_EQ(changes, 11u) << "from 0 to 1";
}

TEST(CrowdFrames, LongTimesAreKeptApart) {
  // A frame that stays for five hours, beside one of a tick; steps of hours, and back by a snapshot.
  const Machine machine = drop("1", "[18000s, 1ms, 180s, 1s, 1s]");
  Crowd crowd(machine);
  CrowdCues cues;
  for (int i = 0; i < 9; ++i) {
    crowd.add();
    crowd.advance(seconds(60 * i), cues);
  }
  Follower follower(crowd);
  std::vector<std::byte> saved;
  crowd.snapshot(saved);
  for (int step = 0; step < 60; ++step) {
    crowd.advance(seconds(step % 3 == 0 ? 3600 * 4.3 : step % 3 == 1 ? 1200 : 0.001), cues);
    follower.look();
    if (step == 30) {
      ASSERT_TRUE(crowd.restore(saved));
      follower.look();
    }
    // Hours go by with nobody asking; some are touched meanwhile.
    if (step % 10 == 9)
      for (int i = 0; i < 5; ++i) {
        crowd.pulse(crowd.at(static_cast<std::uint32_t>(step / 10)), *machine.pulse("take"));
        crowd.advance(seconds(3600 * 2.9), cues);
      }
  }
}

TEST(CrowdFrames, AreAskedForByThreadsAtOnce) {
  Crowd crowd(drop());
  CrowdCues cues;
  for (int i = 0; i < 500; ++i) {
    crowd.add();
    crowd.advance(milliseconds(3), cues);
  }
  const Crowd& seen = crowd;
  for (int step = 0; step < 20; ++step) {
    crowd.advance(milliseconds(16), cues);
    std::array<std::vector<CrowdShown>, 2> both{std::vector<CrowdShown>(500), std::vector<CrowdShown>(500)};
    {
      std::jthread other([&] { seen.shown_all(both[0]); });
      seen.shown_all(both[1]);
    }
    for (std::size_t i = 0; i < 500; ++i) ASSERT_EQ(both[0][i].frame, both[1][i].frame);
  }
}

TEST(CrowdFrames, OfARegionThatIsNoneAreNone) {
  Crowd crowd(drop());
  crowd.add();
  EXPECT_TRUE(crowd.shown_all(7).empty());
  EXPECT_TRUE(crowd.shown_changed(7).empty());
}

}  // namespace
}  // namespace mobrin::test
