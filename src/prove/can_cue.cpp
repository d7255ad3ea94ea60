// What a game brings about of a cue: it waits in what it has just entered until the cue's place is come to, or in what
// goes on for ever until that comes round.
#include <algorithm>

#include "can.hpp"
#include "can_played.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

void Can::find_tellers() {
  each_term(aim_, [&](const Term& term) {
    if (term.kind == Term::Kind::cue) add_once(aim_cues_, term.index);
  });
  cues_ = aim_cues_;
  for (const Rule& rule : model_.rules())
    if (rule.cue != kNoIndex) add_once(cues_, rule.cue);
  tells_.assign(model_.states().size(), false);
  for (std::uint16_t s = 1; s < tells_.size() && !cues_.empty(); ++s) {
    if (!model_.states()[s].children.empty()) continue;
    const Played played(model_, s);
    tells_[s] =
        std::any_of(cues_.begin(), cues_.end(), [&](std::uint16_t cue) { return !played.places_of(cue).empty(); });
  }
}

// What is asked, at the end of an instant; what has begun just then has told what stands at its begin.
Truth Can::aim_after(const Configurations::Outcome& end, const std::vector<Span>& held) const {
  if (aim_cues_.empty()) return aim_at(end.node, held);
  Truths told = end.told;
  const Indices& leaves = config(end.node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if ((end.begun >> r & 1) == 0 || leaves[r] == kNoIndex || !tells_[leaves[r]]) continue;
    if (!model_.comes_to(leaves[r], Ticks(), held)) continue;
    const Played played(model_, leaves[r]);
    for (const std::uint16_t cue : aim_cues_)
      for (const std::int64_t place : played.places_of(cue))
        if (place == 0) told[cue] = Truth::yes;
  }
  return aim_at(end.node, held, &told);
}

// Whether it is well at the instant at which the cue is told, wherever it is then. `known`: of rules, then.
bool Can::told_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held, std::uint16_t cue,
                    const Truths& known, const std::vector<bool>& good) {
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    configurations_.suppose(known);
    const auto ends = outcomes(node, held, none_, true, cue);
    configurations_.suppose({});
    return ends && !ends->empty() && all_well(*ends, held, none_, good);
  });
}

bool Can::tells_well(std::uint32_t node, std::uint16_t region, const std::vector<bool>& good) {
  const std::uint16_t leaf = config(node).leaves[region];
  if (!tells_[leaf]) return false;
  const Played played(model_, leaf);
  for (const std::uint16_t cue : cues_)
    for (const std::int64_t place : played.places_of(cue))
      for (const std::vector<Span>& held : choices(node, true)) {
        const auto by = model_.comes_to(leaf, Ticks(place), held);
        if (place == 0 || !by || !allowed(node, held, none_)) continue;
        // A tick may lead some way past the place.
        const Truths known = played.known_at({place, place + kAWhile}, *by).waiting;
        const auto there = waits_in(node, region, held, known, good);
        if (there && told_well(*there, held, cue, place + kAWhile < played.cycle() ? known : Truths(), good))
          return true;
      }
  return false;
}

// Of what goes on for ever: within a round it tells all that stands on its clip.
bool Can::tells_in_a_round(std::uint32_t node, const std::vector<Span>& held, const std::vector<bool>& good) {
  const Indices& leaves = config(node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if (leaves[r] == kNoIndex || !tells_[leaves[r]]) continue;
    const StateFacts& facts = model_.states()[leaves[r]];
    const Played played(model_, leaves[r]);
    if (facts.may_end || !facts.may_loop || !model_.comes_to(leaves[r], Ticks(played.cycle()), held)) continue;
    const auto there = waits_in(node, r, held, {}, good);
    for (const std::uint16_t cue : cues_)
      if (there && !played.places_of(cue).empty() && told_well(*there, held, cue, {}, good)) return true;
  }
  return false;
}

}  // namespace mobrin::proof
