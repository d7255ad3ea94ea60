// Where to go for a run against a claim: read off all that can be come to, how many instants there are from each place
// to one at which the claim may be broken, and what is written on the way. Where there is much to write it is a way
// through; that what is written does lead there is not said.
#pragma once

#include <cstdint>
#include <map>
#include <utility>
#include <vector>

#include "reach.hpp"
#include "search.hpp"

namespace mobrin::proof {

struct Guide {
  struct At {
    std::uint32_t distance = 0;
    std::vector<Press> presses{}, beside{};  // for the next to be nearer; for it to be as near, but another
  };
  // By the leaves, and whether something is waited for; as a run begins no leaf is active.
  std::map<std::pair<Indices, bool>, At> places{};

  [[nodiscard]] const At* find(const Indices& leaves, bool waits) const {
    const auto found = places.find({leaves, waits});
    return found == places.end() ? nullptr : &found->second;
  }
};

// Of a model with what the claim hangs on; empty where no way against it was seen within so many steps.
[[nodiscard]] Guide guide_against(const Model& model, const Question& question, std::size_t steps);

}  // namespace mobrin::proof
