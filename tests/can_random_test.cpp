// What a game can bring about, over random machines: where it is proved that it can, random play comes to it from
// wherever it is asked for; where it is refuted, none does.
#include <algorithm>
#include <optional>

#include "made_machine.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A claim that one state can be come to from another, that `c` can be counted up, or that a cue can be told.
struct Aim {
  ClaimDef claim{};
  std::string from, to;        // paths
  std::optional<double> more;  // than this is `c`, in place of a state
  std::string cue;             // the same, if it has a name
  [[nodiscard]] bool is_met(const Instance& it, const CueBuffer& told) const {
    if (!cue.empty())
      return std::any_of(told.begin(), told.end(),
                         [&](const Cue& each) { return each.name() == cue && each.edge != Edge::end; });
    return more ? it.value(*it.machine().variable("c")) > *more : it.in(*it.machine().state(to));
  }
};

Aim aim_at(const Machine& machine, RandomMachine& random) {
  const auto path = [&] {
    return machine.states()[static_cast<std::size_t>(1 + random.pick(static_cast<int>(machine.states().size()) - 1))]
        .path;
  };
  Aim out;
  out.from = path();
  out.to = path();
  if (machine.variable("c") && random.pick(3) == 0)
    out.more = random.pick(4);
  else if (!machine.cues().empty() && random.pick(3) == 0)
    out.cue = machine.cues()[static_cast<std::size_t>(random.pick(static_cast<int>(machine.cues().size())))].name.text;
  out.claim.name = "it";
  out.claim.kind = ClaimKind::can;
  out.claim.first = Text("in(" + out.from + ")");
  out.claim.second = Text(!out.cue.empty() ? "cue(" + out.cue + ")"
                          : out.more       ? "c > " + std::to_string(static_cast<int>(*out.more))
                                           : "in(" + out.to + ")");
  return out;
}

// Some writes and a step; false where it is over, or tells too much: a region on which nothing hangs that is asked for
// may come to no rest.
using ToldHere = CueList<512>;
bool play(Instance& it, RandomMachine& random, int writes, ToldHere& told) {
  for (int k = 0; k < writes; ++k) (void)random.write_input(it);
  told.clear();
  const int far = random.pick(8);
  const Ticks step(far == 0 ? random.pick(600'000'000) : far < 3 ? 0 : random.pick(90'000'000));
  return it.advance(step, told).needs == 0 && !it.done();
}

// Whether play from here comes to it, in many tries.
bool comes_to(const Instance& here, const Aim& aim, RandomMachine& random) {
  ToldHere told;
  if (aim.is_met(here, told)) return true;
  Instance it(here.machine());
  for (int run = 0; run < 400; ++run) {
    if (!it.restore(here.block())) return false;
    for (int i = 0; i < 25; ++i) {
      const bool goes_on = play(it, random, 1 + random.pick(4), told);
      if (aim.is_met(it, told)) return true;  // also where it is over with it
      if (!goes_on) break;
    }
  }
  return false;
}

TEST(RandomCan, IsBroughtAboutWhereItIsProvedAndNeverWhereItIsRefuted) {
  std::size_t tried = 0, cues_tried = 0, refuted = 0, from_reach = 0;
  const std::uint32_t count = seeds(90);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    RandomMachine random(seed + 900'000);
    MachineDef definition = made(static_cast<Made>(seed % 5), random);
    const Compiled plain = compile(definition);
    if (!plain.machine) continue;
    const Aim aim = aim_at(*plain.machine, random);
    definition.claims.push_back(aim.claim);
    const Machine machine = *compile(definition).machine;
    ProofLimits limits;
    limits.steps = 40'000;
    limits.moments = 300;
    limits.moves = 2'000;
    const ClaimAnswer answer = prove(definition, machine, limits)[0];
    limits.steps = 1;  // too little for all configurations one by one
    const bool by_reach = prove(definition, machine, limits)[0].answer == Answer::proved;
    from_reach += by_reach ? 1 : 0;
    const std::string all = "seed " + std::to_string(seed) + " " + aim.claim.first.text + ", " + aim.claim.second.text;
    Instance it(machine);
    if (answer.answer == Answer::refuted) {
      EXPECT_FALSE(by_reach) << all;
      ++refuted;
      RunOptions options;
      options.until = *answer.tape->until;
      run_tape(it, *answer.tape, options, [](const Cue&) {});
      EXPECT_FALSE(comes_to(it, aim, random)) << all;
    }
    // From the first few moments at which it is asked for.
    const bool proved = answer.answer == Answer::proved || by_reach;
    ToldHere told;
    for (int run = 0, asked = 0; proved && run < 120 && asked < 3; ++run) {
      if (run % 40 == 0) it = Instance(machine);
      if (!play(it, random, 1, told)) {
        it = Instance(machine);
      } else if (it.in(*machine.state(aim.from)) && random.pick(3) == 0) {
        ++asked, ++tried;
        if (!aim.cue.empty()) ++cues_tried;
        ASSERT_TRUE(comes_to(it, aim, random)) << all;
      }
    }
  }
  EXPECT_GT(tried, count / 20);
  EXPECT_GE(cues_tried, count / 100);
  EXPECT_GT(refuted, count / 40);
  EXPECT_GT(from_reach, count / 40);
}

}  // namespace
}  // namespace mobrin::test
