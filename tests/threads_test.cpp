// Threads: one machine that many use at once, crowds in ranges, a probe beside the game. ./dev threads runs it under
// the thread sanitizer.
#include <gtest/gtest.h>
#include <sys/socket.h>
#include <unistd.h>

#include <atomic>
#include <thread>

#include "mobrin/contact/arena.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/router.hpp"
#include "mobrin/pack/pack.hpp"
#include "mobrin/probe/probe.hpp"
#include "probe_page.hpp"
#include "random_machine.hpp"

namespace mobrin::test {
namespace {

Machine some_machine(std::uint32_t seed) {
  for (;; ++seed)
    if (const Compiled compiled = compile(RandomMachine(seed).make()); compiled.machine) return *compiled.machine;
}

void write_something(Instance& it, std::uint32_t number) {
  const Machine& machine = it.machine();
  for (std::uint16_t i = 0; i < machine.inputs().size(); ++i) {
    if ((number >> i % 16 & 1) == 0) continue;
    switch (machine.inputs()[i].kind.index()) {
      case 0:
        it.set(handle_at<Input<bool>>(machine, i), number % 3 == 0);
        break;
      case 1:
        it.set(handle_at<Input<std::int32_t>>(machine, i), static_cast<std::int32_t>(number % 7));
        break;
      case 2:
        it.set(handle_at<Input<float>>(machine, i), static_cast<float>(number % 11) / 4);
        break;
      case 3:
        break;
      default:
        it.pulse(handle_at<Pulse>(machine, i));
    }
  }
}

// All that a thread does with a machine of many: plays it, asks it, carries over, packs it; what came of it.
std::uint64_t use(const Machine& machine, const std::vector<std::byte>& packed) {
  Instance it(machine);
  std::uint64_t seen = 0;
  for (std::uint32_t step = 0; step < 200; ++step) {
    write_something(it, step * 2654435761u >> 8);
    it.advance(
        milliseconds(7),
        [&](const Cue& cue) { seen = seen * 31 + static_cast<std::uint64_t>(cue.at.count) + cue.line().size(); },
        kAllRecords);
    for (std::uint16_t r = 0; r < it.region_count(); ++r)
      seen += it.active_path(r).size() + it.picture(r).image + it.layers(r).size();
    if (step % 50 == 0) {
      Instance other(machine);
      (void)carry_over(it, other);
      seen += other.hash() == it.hash() ? 1 : 0;
      seen += machine.fingerprint() + machine.dump("plan").size() + pack(machine).size();
      if (const auto loaded = load_pack(packed)) seen += loaded->fingerprint();
    }
  }
  return seen + it.hash();
}

TEST(Threads, ManyUseOneMachine) {
  for (const std::uint32_t seed : {3u, 90u, 500u}) {
    // Nobody has asked it for anything yet: what is worked out at the first question is asked for by all at once.
    const Machine machine = some_machine(seed), twin = some_machine(seed);
    const std::vector<std::byte> packed = pack(twin);
    const std::uint64_t alone = use(twin, packed);
    std::vector<std::uint64_t> seen(4);
    std::vector<std::thread> threads;
    for (std::uint64_t& each : seen) threads.emplace_back([&] { each = use(machine, packed); });
    for (std::thread& each : threads) each.join();
    for (const std::uint64_t each : seen) EXPECT_EQ(each, alone) << seed;
  }
}

TEST(Threads, CompileAndMakeAtOnce) {
  std::vector<std::uint64_t> seen(4);
  std::vector<std::thread> threads;
  for (std::uint64_t& each : seen)
    threads.emplace_back([&each] {
      for (std::uint32_t seed = 1; seed < 12; ++seed) {
        const Machine machine = some_machine(seed);
        Crowd crowd(machine);
        for (int i = 0; i < 20; ++i) (void)crowd.add();
        CrowdCues told;
        crowd.advance(milliseconds(300), told);
        each = each * 31 + machine.fingerprint() + crowd.hash() + told.size();
      }
    });
  for (std::thread& each : threads) each.join();
  for (const std::uint64_t each : seen) EXPECT_EQ(each, seen[0]);
}

// Ranges on threads, cut anywhere; in between all read, show and ask at once.
TEST(Threads, CrowdsInRangesAreTheSame) {
  for (const std::uint32_t seed : {11u, 42u, 77u, 300u}) {
    const Machine machine = some_machine(seed);
    constexpr std::uint32_t kMembers = 777;
    Crowd whole(machine), parts(machine);
    for (std::uint32_t i = 0; i < kMembers; ++i) (void)whole.add(), (void)parts.add();
    CrowdCues all;
    std::array<CrowdCues, 3> lists;
    for (std::uint32_t step = 0; step < 40; ++step) {
      for (Crowd* crowd : {&whole, &parts}) {
        if (const auto x = machine.input<float>("v"))
          for (std::uint32_t i = step % 13; i < kMembers; i += 13)
            crowd->set(crowd->at(i), *x, static_cast<float>((i + step) % 9) / 2);
        if (const auto pulse = machine.pulse("p"))
          for (std::uint32_t i = step % 7; i < kMembers; i += 29) crowd->pulse(crowd->at(i), *pulse);
        if (step % 10 == 3) (void)crowd->remove(crowd->at(step * 17 % kMembers));
      }
      all.clear();
      whole.advance(milliseconds(23), all);
      parts.begin_step(milliseconds(23));
      const std::uint32_t first = step * 37 % kMembers, second = first + (kMembers - first) / 2;
      const std::array<std::uint32_t, 4> cuts{0, first, second, kMembers};
      std::vector<std::thread> threads;
      for (std::size_t p = 0; p < lists.size(); ++p) {
        lists[p].clear();
        threads.emplace_back([&, p] { (void)parts.advance_range(cuts[p], cuts[p + 1], lists[p]); });
      }
      for (std::thread& each : threads) each.join();
      parts.end_step();
      ASSERT_EQ(parts.hash(), whole.hash()) << seed << " step " << step;
      ASSERT_EQ(lists[0].size() + lists[1].size() + lists[2].size(), all.size());
      threads.clear();
      std::array<std::uint64_t, 3> read{};
      for (std::size_t p = 0; p < read.size(); ++p)
        threads.emplace_back([&, p] {
          read[p] = parts.hash() + parts.shown_all().size();
          for (std::uint32_t i = 0; i < kMembers; i += 50)
            read[p] += parts.shown(parts.at(i)).clip + static_cast<std::uint64_t>(parts.next_wake().count);
        });
      for (std::thread& each : threads) each.join();
      EXPECT_EQ(read[0], read[1]);
      EXPECT_EQ(read[0], read[2]);
    }
  }
}

// A page that comes, greeting as it should or not to the end; -1 where it cannot.
int visit_of(const Probe& game, bool greets) {
  const int page = page_at(game);
  const std::string greeting = greets ? greeting_for(game) : std::string(probe::kGreeting);
  if (page >= 0) (void)!send(page, greeting.data(), greeting.size(), MSG_NOSIGNAL);
  return page;
}

// A game that is stepped and polled while pages come, write and go.
TEST(Threads, AProbeServesBesideTheGame) {
  const Machine machine = some_machine(5);
  Probe game;
  ASSERT_EQ(game.error(), "");
  Instance one(machine);
  Crowd many(machine);
  for (int i = 0; i < 100; ++i) (void)many.add();
  ASSERT_TRUE(game.show("one", one));
  ASSERT_TRUE(game.show("many", many));
  std::atomic<bool> over{false};
  std::atomic<std::size_t> received{0};
  std::thread pages([&] {
    for (int visit = 0; visit < 5; ++visit) {
      const int page = visit_of(game, true);
      if (page < 0) break;
      char bytes[4096];
      for (int reads = 0; reads < 20; ++reads) {
        const ssize_t got = recv(page, bytes, sizeof bytes, 0);
        if (got <= 0) break;
        received += static_cast<std::size_t>(got);
      }
      close(page);
    }
    over = true;
  });
  CrowdCues told;
  for (int step = 0; step < 100'000 && !over; ++step) {
    (void)one.advance(milliseconds(16), [](const Cue&) {});
    told.clear();
    many.advance(milliseconds(16), told);
    write_something(one, static_cast<std::uint32_t>(step) * 40503u);
    game.poll();
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  over = true;
  pages.join();
  EXPECT_GT(received, 1000u);
}

// Pages that come and are gone at once, woken or not, with words or without: the game can end at any time.
TEST(Threads, AProbeEndsWhateverPagesDid) {
  const Machine machine = some_machine(5);
  for (int visit = 0; visit < 400; ++visit) {
    const auto begun = std::chrono::steady_clock::now();
    {
      Instance one(machine);
      Probe game;
      ASSERT_TRUE(game.show("one", one));
      const int page = visit_of(game, visit % 3 != 2);
      for (int wait = 0; wait < 200 && visit % 3 != 2 && !game.watched(); ++wait)
        std::this_thread::sleep_for(std::chrono::microseconds(50));
      if (visit % 2 == 0) close(page);
      for (int step = 0; step < 1 + visit % 5; ++step) {
        (void)one.advance(milliseconds(16), [](const Cue&) {});
        game.poll();
      }
      if (visit % 2 != 0) close(page);
      if (visit % 7 == 0) std::this_thread::sleep_for(std::chrono::milliseconds(3));
    }
    ASSERT_LT(std::chrono::steady_clock::now() - begun, std::chrono::seconds(10)) << visit;
  }
}

}  // namespace
}  // namespace mobrin::test
