// Covering: few tapes that take every rule that can be taken.
#include <algorithm>
#include <set>

#include "mobrin/prove/prove.hpp"
#include "search.hpp"
#include "space.hpp"

namespace mobrin {

Cover cover(const MachineDef& definition, const Machine& machine, const ProofLimits& limits) {
  using namespace proof;
  Model model(definition, machine);
  Limits space_limits;
  space_limits.steps = limits.steps;
  const Space space(model, {}, space_limits);
  SearchLimits search_limits;
  search_limits.nodes = limits.moments;
  search_limits.moves = limits.moves;
  Search search(model, search_limits);
  // What each moment takes and enters: rules by their index, states behind them.
  const auto rules = static_cast<std::uint32_t>(machine.transitions().size());
  const std::size_t all = rules + machine.states().size();
  std::size_t possible = all;
  for (std::uint32_t t = 0; t < rules; ++t)
    if (space.whole() && !model.notes()[t].taken) --possible;
  for (std::uint16_t s = 0; s < machine.states().size(); ++s)
    if (s == 0 || (space.whole() && !model.entered(s))) --possible;
  std::set<std::uint32_t> met;
  std::vector<Tape> candidates;
  (void)search.run([&](Seen& seen) {
    std::set<std::uint32_t> taken;
    for (const Cue& cue : seen.told) {
      if (cue.what == Told::fault) return proof::Verdict::ends;
      if (cue.what != Told::enter) continue;
      if (cue.transition != kNoTransition) taken.insert(cue.transition);
      if (cue.state != 0) taken.insert(rules + cue.state);
    }
    bool fresh = false;
    for (const std::uint32_t each : taken) fresh = met.insert(each).second || fresh;
    if (fresh) candidates.push_back(search.tape_to(seen));
    return met.size() >= possible ? proof::Verdict::found : proof::Verdict::goes_on;
  });
  // What a whole tape shows, told by the engine once more.
  const auto shown = [&](const Tape& tape) {
    std::set<std::uint32_t> out;
    Instance instance(machine);
    RunOptions options;
    options.until = tape.until.value_or(Ticks{});
    run_tape(instance, tape, options, [&](const Cue& cue) {
      if (cue.what != Told::enter) return;
      if (cue.transition != kNoTransition) out.insert(cue.transition);
      out.insert(rules + cue.state);
    });
    return out;
  };
  std::vector<std::set<std::uint32_t>> by_candidate;
  for (const Tape& tape : candidates) by_candidate.push_back(shown(tape));
  Cover out;
  std::set<std::uint32_t> covered;
  for (;;) {
    std::size_t best = candidates.size(), most = 0;
    for (std::size_t i = 0; i < candidates.size(); ++i) {
      const auto gain =
          static_cast<std::size_t>(std::count_if(by_candidate[i].begin(), by_candidate[i].end(),
                                                 [&](std::uint32_t each) { return covered.count(each) == 0; }));
      if (gain > most) best = i, most = gain;
    }
    if (best == candidates.size()) break;
    covered.insert(by_candidate[best].begin(), by_candidate[best].end());
    out.tapes.push_back(candidates[best]);
  }
  for (std::uint32_t t = 0; t < rules; ++t)
    if (covered.count(t) == 0) out.left.push_back({t, space.whole() && !model.notes()[t].taken});
  for (std::uint16_t s = 1; s < machine.states().size(); ++s)
    if (covered.count(rules + s) == 0) out.states.push_back(s);
  return out;
}

}  // namespace mobrin
