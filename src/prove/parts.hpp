// All that a machine can come to. Regions that go their own ways are looked at one by one: together they come to as
// much as is left when each is multiplied with all others.
#pragma once

#include "settling.hpp"

namespace mobrin::proof {

struct Explored {
  bool whole = true;       // all was looked at; where not, nothing follows from what is missing
  bool roughly = false;    // without what guards read
  bool one_by_one = true;  // each configuration
  bool in_parts = false;
  bool runaway = false;         // a settling may not come to rest
  bool undoes_a_press = false;  // a press may lead back to where it came from, at the same instant
};

// What was looked at stands in the model's notes, and what is entered. `assumed`: what the game keeps true. `steps`:
// how much work; for several parts up to twice as much, shared among them.
[[nodiscard]] Explored explore(Model& model, const std::vector<Term>& assumed, std::size_t steps);

}  // namespace mobrin::proof
