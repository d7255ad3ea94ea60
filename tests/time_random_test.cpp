// What surely is over in time, over random machines: however long it is proved to take at most, no random run takes
// longer.
#include <algorithm>

#include "counting_machine.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

ClaimDef left_within(const std::string& path, std::int64_t limit) {
  ClaimDef out;
  out.name = "it";
  out.kind = ClaimKind::within;
  out.first = Text("in(" + path + ")");
  out.second = Text("not in(" + path + ")");
  out.within = milliseconds(limit);
  return out;
}

// How long it is in a state at most in random runs at rate 1, as instants show it when they have settled; a runaway
// ends a run.
Ticks longest_seen(const Machine& machine, const std::string& path, RandomMachine& random) {
  Ticks out{};
  const State state = *machine.state(path);
  for (int run = 0; run < 6; ++run) {
    Instance it(machine);
    CueList<512> told(listen_to(Told::enter) | listen_to(Told::leave) | listen_to(Told::fault));
    Ticks since{};
    bool inside = false, ended = false, counts = false;
    for (int i = 0; i < 150 && !ended; ++i) {
      if (random.pick(3) == 0) (void)random.write_input(it);
      told.clear();
      ended =
          it.advance(Ticks(random.pick(4) == 0 ? random.pick(600'000'000) : random.pick(90'000'000)), told).needs > 0;
      for (const Cue* cue = told.begin(); cue != told.end() && !ended; ++cue) {
        if (cue->what == Told::fault) ended = true;
        if (cue->state_path() == path) inside = cue->what == Told::enter;
        if (cue + 1 != told.end() && (cue + 1)->at == cue->at) continue;
        if (counts && !inside) out = std::max(out, cue->at - since);
        if (inside && !counts) since = cue->at;
        counts = inside;
      }
      EXPECT_EQ(ended || it.in(state) == inside, true);
    }
    if (counts && !ended) out = std::max(out, it.now() - since);
  }
  return out;
}

TEST(RandomTimes, NothingTakesLongerThanIsProved) {
  std::size_t proved = 0, reached = 0;
  const std::uint32_t count = seeds(400);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    RandomMachine random(seed + 3'000'000);
    MachineDef definition = CountingMachine(random).make();
    const Compiled plain = compile(definition);
    if (!plain.machine) continue;
    const auto states = plain.machine->states();
    const std::string path =
        states[static_cast<std::size_t>(1 + random.pick(static_cast<int>(states.size()) - 1))].path;
    ProofLimits limits;
    limits.steps = seed % 3 == 0 ? 1 : 40'000;
    limits.moments = limits.moves = 1;
    const auto holds = [&](std::int64_t limit) {
      definition.claims = {left_within(path, limit)};
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
    const Ticks seen = longest_seen(*plain.machine, path, random);
    EXPECT_LE(seen, milliseconds(most)) << "seed " << seed << " " << path;
    reached += seen.count > 0 && seen > milliseconds(most - 2) ? 1 : 0;
  }
  EXPECT_GT(proved, count / 20);
  EXPECT_GT(reached, count / 40);
}

}  // namespace
}  // namespace mobrin::test
