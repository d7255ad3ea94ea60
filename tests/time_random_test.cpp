// What surely is over in time, over random machines: however long it is proved to take at most, no random run takes
// longer.
#include <algorithm>

#include "made_machine.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// From a state on another is waited for; or, where there is none, that the one is left.
struct Awaited {
  std::string from, to;  // paths
  [[nodiscard]] ClaimDef within(std::int64_t limit) const {
    ClaimDef out;
    out.name = "it";
    out.kind = ClaimKind::within;
    out.first = Text("in(" + from + ")");
    out.second = Text(to.empty() ? "not in(" + from + ")" : "in(" + to + ")");
    out.within = milliseconds(limit);
    return out;
  }
};

// How long it is waited for at most in random runs at rate 1, as instants show it when they have settled; a runaway
// ends a run.
Ticks longest_seen(const Machine& machine, const Awaited& aim, RandomMachine& random) {
  Ticks out{};
  for (int run = 0; run < 6; ++run) {
    Instance it(machine);
    CueList<512> told(listen_to(Told::enter) | listen_to(Told::leave) | listen_to(Told::fault));
    Ticks since{};
    bool there = false, arrived = false, ended = false, waits = false;
    for (int i = 0; i < 150 && !ended; ++i) {
      if (random.pick(3) == 0) (void)random.write_input(it);
      told.clear();
      const Ticks step(random.pick(4) == 0 ? random.pick(600'000'000) : random.pick(90'000'000));
      ended = it.advance(step, told).needs > 0;
      for (const Cue* cue = told.begin(); cue != told.end() && !ended; ++cue) {
        if (cue->what == Told::fault) ended = true;
        if (cue->state_path() == aim.from) there = cue->what == Told::enter;
        if (cue->state_path() == aim.to) arrived = cue->what == Told::enter;
        if (cue + 1 != told.end() && (cue + 1)->at == cue->at) continue;
        if (waits) out = std::max(out, cue->at - since);
        const bool over = aim.to.empty() ? !there : arrived;
        if (there && !waits) since = cue->at;
        waits = !over && (there || waits);
      }
      EXPECT_TRUE(ended || it.in(*machine.state(aim.from)) == there);
    }
    if (waits && !ended) out = std::max(out, it.now() - since);
  }
  return out;
}

TEST(RandomTimes, NothingTakesLongerThanIsProved) {
  std::size_t proved = 0, reached = 0;
  const std::uint32_t count = seeds(400);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    RandomMachine random(seed + 3'000'000);
    MachineDef definition = seed % 4 != 3 ? CountingMachine(random).make() : made(seed / 4, random);
    const Compiled plain = compile(definition);
    if (!plain.machine) continue;
    const auto states = plain.machine->states();
    const auto some = [&] {
      return states[static_cast<std::size_t>(1 + random.pick(static_cast<int>(states.size()) - 1))].path;
    };
    Awaited aim{some(), random.pick(2) == 0 ? "" : some()};
    if (aim.to == aim.from) aim.to = "";
    ProofLimits limits;
    limits.steps = seed % 3 == 0 ? 1 : 40'000;
    limits.moments = limits.moves = 1;
    const auto holds = [&](std::int64_t limit) {
      definition.claims = {aim.within(limit)};
      const Compiled compiled = compile(definition);
      return prove(definition, *compiled.machine, limits)[0].answer == Answer::proved;
    };
    // The least that is proved.
    std::int64_t least = 0, most = 20'000;
    if (!holds(most)) continue;
    ++proved;
    while (most - least > 1) {
      const std::int64_t between = (least + most) / 2;
      (holds(between) ? most : least) = between;
    }
    const Ticks seen = longest_seen(*plain.machine, aim, random);
    EXPECT_LE(seen, milliseconds(most)) << "seed " << seed << " " << aim.from << " to " << aim.to;
    reached += seen.count > 0 && seen > milliseconds(most - 2) ? 1 : 0;
  }
  EXPECT_GT(proved, count / 20);
  EXPECT_GT(reached, count / 40);
}

}  // namespace
}  // namespace mobrin::test
