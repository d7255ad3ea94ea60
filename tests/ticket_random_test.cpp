// Tickets of random machines: what becomes of them does not depend on how time is cut, and what is said never to end
// never succeeds by itself.
#include "engine_log.hpp"
#include "made_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

bool advance(Instance& instance, Ticks time) {
  static CueList<kMostRecords> told(kAllRecords);
  return comes_to_rest(instance, time, told);
}

class RandomTickets : public testing::TestWithParam<Made> {};

TEST_P(RandomTickets, AreTheSameHoweverTimeIsCut) {
  std::size_t endless = 0;
  std::array<std::size_t, 6> seen{};
  std::uint32_t from = 0;
  for (int more = 150; more > 0; --more) {
    SoundMachine subject = next_sound(from, GetParam());
    const std::uint32_t seed = subject.seed;
    RandomMachine& random = subject.random;
    const Machine& machine = subject.machine;
    const auto state = [&] {
      const auto index = static_cast<std::size_t>(random.pick(static_cast<int>(machine.states().size())));
      return machine.state(machine.states()[std::max<std::size_t>(index, 1)].path).value_or(State{});
    };
    Instance whole(machine), cut(machine);
    std::vector<std::pair<Ticket, Ticket>> tickets;
    bool rests = true;
    for (int step = 0; step < 25 && rests; ++step) {
      bool written = false;
      for (int i = random.pick(3); i > 0; --i, written = true) {
        RandomMachine same = random;
        random.write(whole), same.write(cut);
      }
      if (random.pick(3) == 0) {
        const Pulse pulse = *machine.pulse(random.pick(2) == 0 ? "p" : "q");
        tickets.emplace_back(whole.ask(pulse), cut.ask(pulse));
        written = true;
      }
      if (random.pick(4) == 0) {
        const State wanted = state();
        tickets.emplace_back(whole.follow(wanted), cut.follow(wanted));
      }
      if (random.pick(12) == 0) {
        const State wanted = state();
        whole.force(wanted), cut.force(wanted);
        written = true;
      }
      std::vector<Ticket> never;
      for (const auto& [ticket, other] : tickets)
        if (!written && whole.never_ends(ticket)) never.push_back(ticket);
      endless += never.size();
      const Ticks time(random.pick(3) == 0 ? 0 : random.pick(100'000'000));
      rests = advance(whole, time);
      Ticks left = time;
      for (int i = random.pick(6); i > 0 && rests && left.count > 0; --i) {
        const Ticks part(random.pick(static_cast<int>(left.count)));
        rests = advance(cut, part);
        left = left - part;
      }
      rests = rests && advance(cut, left);
      for (const auto& [one, other] : tickets) {
        if (!rests) break;
        ++seen[static_cast<std::size_t>(whole.status(one))];
        ASSERT_EQ(whole.status(one), cut.status(other)) << "seed " << seed << " step " << step;
        ASSERT_EQ(whole.never_ends(one), cut.never_ends(other)) << "seed " << seed << " step " << step;
      }
      for (const Ticket& ticket : never)
        ASSERT_NE(whole.status(ticket), TicketStatus::succeeded) << "seed " << seed << " step " << step;
    }
  }
  EXPECT_GT(endless, 50U);
  for (const std::size_t count : seen) EXPECT_GT(count, 50U);  // each of the six
}
INSTANTIATE_TEST_SUITE_P(All, RandomTickets,
                         testing::ValuesIn(kAllMade),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
