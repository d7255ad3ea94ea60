// What a run would show and nobody is told of is not there: random machines are played at length.
#include <algorithm>
#include <map>
#include <set>

#include "made_machine.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// Puts each rule on a line of its own, and gives the lines of those that do something and begin anew.
void find_doers(StateDef& state, std::uint32_t& line, std::set<std::uint32_t>& out) {
  for (GoDef& go : state.go) {
    go.place = {0, ++line, 1};
    if (!go.actions.empty() && go.restart) out.insert(line);
  }
  for (StateDef& each : state.states) find_doers(each, line, out);
  for (RegionDef& region : state.regions)
    for (StateDef& each : region.states) find_doers(each, line, out);
}

// Whether a rule does something where it stays: then its press is not lost.
bool stays(const Machine& machine, const TransitionInfo& rule, const std::set<std::uint32_t>& doers) {
  std::uint16_t up = rule.target;
  while (up != rule.owner && up != 0) up = machine.states()[up].parent;
  return rule.to != "back" && rule.owner != 0 && up == rule.owner && doers.count(rule.place.line) > 0;
}

// What was seen at one instant.
struct Sight {
  bool runaway = false, press_lost = false;
};
template <class List>
Sight sight_of(const Machine& machine, const std::set<std::uint16_t>& before, const std::set<std::uint32_t>& doers,
               const List& told) {
  Sight out;
  std::map<std::uint16_t, std::uint32_t> left;  // leaves, by the rule that took a pulse
  for (const Cue& cue : told) {
    if (cue.what == Told::fault) out.runaway = true;
    if (cue.transition == kNoTransition) continue;
    const bool by_pulse = machine.transitions()[cue.transition].pulse != kNoIndex;
    if (cue.what == Told::leave && by_pulse && before.count(cue.state) > 0) left.try_emplace(cue.state, cue.transition);
    if (cue.what == Told::enter && left.count(cue.state) > 0 && left[cue.state] != cue.transition &&
        !stays(machine, machine.transitions()[left[cue.state]], doers))
      out.press_lost = true;
  }
  return out;
}

std::set<std::uint16_t> leaves_of(const Instance& it) {
  std::set<std::uint16_t> out;
  for (std::uint16_t r = 0; r < it.region_count(); ++r) out.insert(it.active(r));
  return out;
}

// Plays at random, a thing written at a time.
Sight played(const Machine& machine, const std::set<std::uint32_t>& doers, RandomMachine& random) {
  Sight out;
  Instance it(machine);
  CueList<512> told(listen_to(Told::enter) | listen_to(Told::leave) | listen_to(Told::fault));
  std::size_t records = 0;
  for (int i = 0; i < 1'500 && records < 20'000; ++i) {
    random.write_input(it);
    const Ticks until = it.now() + Ticks(random.pick(i % 3 == 0 ? 60'000'000 : 2'000'000));
    bool stopped = false;
    for (bool first = true; (first || it.now() < until) && !stopped; first = false) {
      const std::set<std::uint16_t> before = leaves_of(it);
      const Ticks wake = it.next_wake();
      told.clear();
      const Ticks to = first ? it.now() : wake > it.now() ? std::min(until, wake) : until;
      stopped = it.advance(to - it.now(), told).needs > 0;  // an instant of so many records is a runaway's
      records += told.size();
      const Sight now = sight_of(machine, before, doers, told);
      out.runaway = out.runaway || now.runaway || stopped;
      out.press_lost = out.press_lost || now.press_lost;
      stopped = stopped || now.runaway;
    }
    if (stopped || it.done()) it = Instance(machine);
  }
  return out;
}

class RandomDecided : public testing::TestWithParam<Made> {};
TEST_P(RandomDecided, WhatIsNotToldAndNotUndecidedIsNotSeen) {
  std::size_t decided = 0, told = 0;
  const int count = seeds(120) / (GetParam() == Made::plain ? 1 : 2);
  for (int seed = 0; seed < count; ++seed) {
    RandomMachine random(static_cast<std::uint32_t>(seed));
    MachineDef definition = made(GetParam(), random);
    std::uint32_t line = 0;
    std::set<std::uint32_t> doers;
    find_doers(definition.root, line, doers);
    const Compiled compiled = compile(definition);
    if (!compiled.machine) continue;
    ProofLimits limits;
    limits.moments = 3'000, limits.moves = 20'000;
    const LogicReport report = logic_and_runs(definition, *compiled.machine, limits);
    const auto known = [&](FindingCode code) {
      const bool out =
          std::ranges::any_of(report.findings, [&](const auto& each) { return each.finding.code == code; });
      told += out ? 1 : 0;
      return out || std::ranges::count(report.undecided, code) > 0;
    };
    const bool runaway = known(FindingCode::runaway), press_lost = known(FindingCode::press_lost);
    if (runaway) continue;  // what comes of one says nothing more
    decided += press_lost ? 0 : 1;
    const Sight seen = played(*compiled.machine, doers, random);
    ASSERT_FALSE(seen.runaway) << "seed " << seed;
    ASSERT_TRUE(press_lost || !seen.press_lost) << "seed " << seed;
  }
  EXPECT_GT(decided, static_cast<std::size_t>(count) / 16);
  EXPECT_GT(told, static_cast<std::size_t>(count) / 40);
}
INSTANTIATE_TEST_SUITE_P(All, RandomDecided,
                         testing::Values(Made::plain, Made::with_regions_apart, Made::counting, Made::wider),
                         name_of_made);

}  // namespace
}  // namespace mobrin::test
