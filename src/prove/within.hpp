// How long it may take until what is waited for comes.
#pragma once

#include <optional>
#include <vector>

#include "model.hpp"

namespace mobrin::proof {

// An instant after which something is still waited for. `from`: UINT32_MAX where it was not waited before. A bit for
// each region: a state was entered there; its play came round.
struct Wait {
  std::uint32_t from = UINT32_MAX, to = 0;
  std::uint64_t entered = 0, looped = 0;
};

// The longest way through these configurations, by what a region shows meanwhile, at rate 1 without freezes; empty
// where it has a ring or something that may be stayed in, or takes longer than `most`.
[[nodiscard]] std::optional<Ticks> longest_wait(const Model& model, const std::vector<Config>& nodes,
                                                const std::vector<Wait>& waits, std::uint16_t region, Ticks most);

}  // namespace mobrin::proof
