// All that a machine can come to. Regions that go their own ways are looked at one by one: together they come to as
// much as is left when each is multiplied with all others.
#pragma once

#include <algorithm>
#include <utility>
#include <vector>

#include "settling.hpp"

namespace mobrin::proof {

struct PartFacts {
  bool whole = true;            // all was looked at; where not, nothing follows from what is missing
  bool runaway = false;         // a settling may not come to rest
  bool undoes_a_press = false;  // a press may lead back to where it came from, at the same instant
  void add(const PartFacts& other) {
    whole = whole && other.whole;
    runaway = runaway || other.runaway;
    undoes_a_press = undoes_a_press || other.undoes_a_press;
  }
};

struct Explored {
  std::vector<std::pair<Apart, PartFacts>> parts;  // one where the machine is
  bool roughly = false;                            // without what guards read
  bool one_by_one = true;                          // each configuration
  // Of all parts together that have a region; that have one which this does not leave out; of all.
  [[nodiscard]] PartFacts of(std::uint16_t region) const;
  [[nodiscard]] PartFacts of(const Apart& apart) const;
  [[nodiscard]] bool whole() const {
    return std::ranges::all_of(parts, [](const auto& each) { return each.second.whole; });
  }
};

// What is left out of each part: each region is in one of them, with what it hangs on. None where the machine is one.
// That another region may be done only makes a run shorter, by whole instants: what none does without that, none does.
[[nodiscard]] std::vector<Apart> parts_of(const Model& model, const std::vector<Term>& assumed);

// What was looked at stands in the model's notes, and what is entered. `assumed`: what the game keeps true. `steps`:
// how much work; for several parts up to twice as much, shared among them.
[[nodiscard]] Explored explore(Model& model, const std::vector<Term>& assumed, std::size_t steps);

}  // namespace mobrin::proof
