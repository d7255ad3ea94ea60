// What a game may write, and where, for a run against a claim: read off the instants at which it may be broken.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "mobrin/io/load.hpp"
#include "search.hpp"
#include "space.hpp"

namespace mobrin::proof {

// Values that lie in these spans, where they say something, and pulses; empty where no write leads there, or nothing is
// written.
[[nodiscard]] std::optional<Press> press_of(const Model& model, const std::vector<Span>& inputs,
                                            const std::vector<std::uint16_t>& pulses);
// The space was looked at whole; the first answer of its edges is that of the claim's first term.
[[nodiscard]] std::vector<Hint> hints_against(Space& space, const Model& model, const ClaimDef& claim);

}  // namespace mobrin::proof
