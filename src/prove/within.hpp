// How long it may take until what is waited for comes.
#pragma once

#include <optional>
#include <vector>

#include "model.hpp"

namespace mobrin::proof {

// An instant after which something is still waited for. `from`: UINT32_MAX where it was not waited before. `looped`: a
// bit for each region whose play came round. `rests`: it may rest for ever meanwhile, as it is done.
struct Wait {
  std::uint32_t from = UINT32_MAX, to = 0;
  std::uint64_t looped = 0;
  bool rests = false;
  Indices fresh{};  // by region: the outermost state that was entered; 0 where that is not known
};

// The longest way through these configurations, by what a region shows meanwhile, at rate 1 without freezes; empty
// where it has a ring or something that may be stayed in, or takes longer than `most`.
[[nodiscard]] std::optional<Ticks> longest_wait(const Model& model, const std::vector<Config>& nodes,
                                                const std::vector<Wait>& waits, std::uint16_t region, Ticks most);

}  // namespace mobrin::proof
