// Tickets: what becomes of what game code asked for.
#include "support.hpp"

namespace mobrin::test {
namespace {

const char* const kGuard = R"(
inputs: {dive: {pulse: 100ms}, feint: pulse, circle: pulse, sting: pulse, free: true}
clips: {dive: {frames: [0-3], fps: 10}, wing: {frames: [0-1], fps: 10, play: loop}}
initial: hover
go: [{pulse: sting, to: hurt}]
states:
  hover:
    go:
      - {pulse: dive, when: free, to: dive}
      - {pulse: feint, to: feint}
      - {pulse: circle, to: circle}
  dive: {clip: dive, go: [{after: 2s, to: hover}]}
  feint:
    initial: back_off
    states:
      back_off: {length: 100ms, go: [{at: end, to: turn}]}
      turn: {length: 100ms, go: [{at: end, to: hover}]}
  circle: {clip: wing, go: [{after: 1s, to: hover}]}
  hurt: {length: 50ms, final: true, linger: 200ms}
)";

class Tickets : public testing::Test {
 protected:
  void wait(int milliseconds_) {
    CueList<32> cues;
    ASSERT_TRUE(instance_.advance(milliseconds(milliseconds_), cues).complete());
  }
  Ticket ask(const char* pulse) { return instance_.ask(*machine_.pulse(pulse)); }
  const char* status(Ticket ticket) {
    const char* const names[] = {"waiting", "running", "succeeded", "failed", "interrupted", "lost"};
    return names[static_cast<int>(instance_.status(ticket))];
  }

  Machine machine_ = machine_of(kGuard);
  Instance instance_{machine_};
};

TEST_F(Tickets, RunUntilThePlayReachesItsEndThoughTheStateGoesOn) {
  const Ticket dive = ask("dive");
  EXPECT_STREQ(status(dive), "waiting");
  wait(0);
  EXPECT_STREQ(status(dive), "running");
  wait(399);
  EXPECT_STREQ(status(dive), "running");
  wait(1);
  EXPECT_STREQ(status(dive), "succeeded");
  wait(5000);  // back in hover long since
  EXPECT_STREQ(status(dive), "succeeded");
}

TEST_F(Tickets, OfAStateWithStatesInsideSucceedWhereItIsLeftAtTheEnd) {
  const Ticket feint = ask("feint");
  wait(150);  // back_off has ended, turn has not
  EXPECT_STREQ(status(feint), "running");
  wait(50);
  EXPECT_STREQ(status(feint), "succeeded");
}

TEST_F(Tickets, FailWhereThePulseIsNotTakenWhileItIsAlive) {
  ASSERT_NE(instance_.set(*machine_.input<bool>("free"), false), Written::refused);
  const Ticket dive = ask("dive");
  wait(100);
  EXPECT_STREQ(status(dive), "waiting");
  wait(1);
  EXPECT_STREQ(status(dive), "failed");
  instance_.pulse(*machine_.pulse("dive"));  // somebody else's, and it is taken
  instance_.set(*machine_.input<bool>("free"), true);
  wait(10);
  EXPECT_TRUE(instance_.in(*machine_.state("dive")));
  EXPECT_STREQ(status(dive), "failed");
}

TEST_F(Tickets, AreInterruptedWhereTheStateIsLeftInAnotherWay) {
  const Ticket dive = ask("dive");
  wait(100);
  const Ticket sting = ask("sting");
  wait(0);
  EXPECT_STREQ(status(dive), "interrupted");
  EXPECT_STREQ(status(sting), "running");
  wait(50);
  EXPECT_STREQ(status(sting), "succeeded");
}

TEST_F(Tickets, ALoopForEverNeverSucceedsByItself) {
  const Ticket circle = ask("circle");
  wait(999);
  EXPECT_STREQ(status(circle), "running");
  EXPECT_FALSE(instance_.never_ends(circle)) << "a rule leads on when its time is over";
  wait(1);
  EXPECT_STREQ(status(circle), "succeeded");
}

TEST_F(Tickets, SayThatNothingWillEndThem) {
  wait(0);
  const Ticket hover = instance_.follow(*machine_.state("hover")), dive = ask("dive");
  EXPECT_TRUE(instance_.never_ends(hover));
  wait(10);
  EXPECT_FALSE(instance_.never_ends(hover)) << "it is over";
  EXPECT_FALSE(instance_.never_ends(dive));
  EXPECT_FALSE(instance_.never_ends(Ticket{}));
}

TEST_F(Tickets, OfOnePressAreOneAndCanBeGivenBack) {
  const Ticket one = ask("dive"), two = ask("dive");
  EXPECT_EQ(std::pair(one.slot, one.serial), std::pair(two.slot, two.serial));
  wait(50);
  EXPECT_STREQ(status(two), "running");
  EXPECT_TRUE(instance_.give_back(one));
  EXPECT_STREQ(status(two), "running") << "the other still holds it";
  EXPECT_TRUE(instance_.give_back(two));
  EXPECT_STREQ(status(two), "lost");
  EXPECT_FALSE(instance_.give_back(two));
}

TEST_F(Tickets, WhoFollowsGivesWayToWhoAsks) {
  wait(0);
  std::vector<Ticket> followed;
  for (const char* path : {"hover", "dive", "circle", "feint"})
    followed.push_back(instance_.follow(*machine_.state(path)));
  const Ticket dive = ask("dive");
  EXPECT_TRUE(dive);
  EXPECT_STREQ(status(followed[0]), "lost");
  wait(100);
  EXPECT_STREQ(status(dive), "running");
  EXPECT_STREQ(status(followed[1]), "running");
}

TEST_F(Tickets, FollowAState) {
  const Ticket hover = instance_.follow(*machine_.state("hover"));
  const Ticket dive = instance_.follow(*machine_.state("dive"));
  wait(0);
  EXPECT_STREQ(status(hover), "running");
  EXPECT_STREQ(status(dive), "waiting");
  instance_.pulse(*machine_.pulse("dive"));
  wait(100);
  EXPECT_STREQ(status(hover), "interrupted");
  EXPECT_STREQ(status(dive), "running");
  EXPECT_STREQ(status(instance_.follow(*machine_.state("dive"))), "running");
  wait(300);
  EXPECT_STREQ(status(dive), "succeeded");
  EXPECT_STREQ(status(instance_.follow(*machine_.state("dive"))), "succeeded");
}

TEST_F(Tickets, WhatRestsForEverFailsThemAtOnce) {
  const Ticket waiting = instance_.follow(*machine_.state("circle"));
  ask("sting");
  wait(1000);
  ASSERT_TRUE(instance_.done());
  EXPECT_STREQ(status(waiting), "failed");
  EXPECT_STREQ(status(ask("dive")), "failed");
  EXPECT_STREQ(status(instance_.follow(*machine_.state("hover"))), "failed");
}

TEST_F(Tickets, AResetInterruptsWhatRunsAndFailsWhatWaits) {
  const Ticket dive = ask("dive");
  wait(10);
  ASSERT_NE(instance_.set(*machine_.input<bool>("free"), false), Written::refused);
  const Ticket again = ask("dive");
  instance_.reset();
  wait(0);
  EXPECT_STREQ(status(dive), "interrupted");
  EXPECT_STREQ(status(again), "failed");
}

TEST_F(Tickets, AreRestoredByASnapshot) {
  const Ticket dive = ask("dive");
  wait(100);
  const std::vector<std::byte> taken(instance_.block().begin(), instance_.block().end());
  wait(300);
  EXPECT_STREQ(status(dive), "succeeded");
  ASSERT_TRUE(instance_.restore(taken));
  EXPECT_STREQ(status(dive), "running");
  wait(300);
  EXPECT_STREQ(status(dive), "succeeded");
}

TEST_F(Tickets, TheOldestThatIsOverGivesItsPlaceToANewOne) {
  const Ticket first = ask("dive");
  wait(10);
  const Ticket second = ask("sting");
  wait(10);
  EXPECT_STREQ(status(first), "interrupted");
  for (const char* path : {"circle", "hover"}) EXPECT_TRUE(instance_.follow(*machine_.state(path)));
  EXPECT_STREQ(status(first), "interrupted");
  EXPECT_TRUE(instance_.follow(*machine_.state("dive")));  // takes the place of the first
  EXPECT_STREQ(status(first), "lost");
  EXPECT_STREQ(status(second), "running");
  EXPECT_FALSE(instance_.follow(*machine_.state("feint")));  // four are open
  EXPECT_TRUE(instance_.follow(*machine_.state("circle")));  // shares the one there is
  EXPECT_STREQ(status(Ticket{}), "lost");
}

TEST_F(Tickets, TakeNoRoomWhereNoneAreWanted) {
  const Instance bare(machine_, {.tickets = 0});
  EXPECT_EQ(bare.block().size(), machine_.block_size());
  EXPECT_EQ(instance_.block().size(), machine_.block_size() + 4 * 24);
}

TEST_F(Tickets, AllThatAreOpenCanBeListed) {
  TicketInfo all[8];
  EXPECT_EQ(instance_.open_tickets(all), 0u);
  wait(0);
  const Ticket asked = ask("feint");
  const Ticket circles = instance_.follow(*machine_.state("circle"));
  ASSERT_EQ(instance_.open_tickets(all), 2u);
  EXPECT_EQ(all[0].ticket.serial, asked.serial);
  EXPECT_EQ(all[0].pulse, machine_.pulse("feint")->index);
  EXPECT_EQ(all[0].state, kNoIndex) << "not taken yet";
  EXPECT_EQ(all[0].status, TicketStatus::waiting);
  EXPECT_EQ(all[1].ticket.serial, circles.serial);
  EXPECT_EQ(all[1].pulse, kNoIndex);
  EXPECT_EQ(all[1].state, machine_.state("circle")->index);
  EXPECT_EQ(instance_.open_tickets({all, 1}), 1u) << "as many as there is room for";
  wait(1);
  ASSERT_EQ(instance_.open_tickets(all), 2u);
  EXPECT_EQ(all[0].status, TicketStatus::running);
  EXPECT_EQ(machine_.states()[all[0].state].path, "feint");
  EXPECT_TRUE(instance_.give_back(circles));
  ASSERT_EQ(instance_.open_tickets(all), 1u);
  EXPECT_EQ(all[0].ticket.serial, asked.serial);
}

}  // namespace
}  // namespace mobrin::test
