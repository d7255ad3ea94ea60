// Regions of which nothing is known: a question that speaks of some regions is often answered whatever the others do.
// Each region multiplies what there is to look at; one that is loose multiplies nothing. A round in which only such
// change is not looked at: what may be taken after it may be taken before, as nothing that rests is sure to rest.
#pragma once

#include <vector>

#include "model.hpp"

namespace mobrin::proof {

// Regions that have no part of their own in what these terms come to: each may be loose, and is not spoken of.
// `kept`: others that are spoken of.
[[nodiscard]] std::vector<bool> loose_regions(const Model& model, const std::vector<Term>& asked,
                                              std::vector<bool> kept = {});
// Marks the regions of which a term speaks.
void note_regions(const Model& model, const Term& term, std::vector<bool>& regions);
// Those of which guards speak of rules that lead to states of which these terms do.
[[nodiscard]] std::vector<bool> regions_before(const Model& model, const std::vector<Term>& asked);
// How many configurations there are at most, of regions that are not left out, whatever variables hold.
[[nodiscard]] double most_configurations(const Model& model);

}  // namespace mobrin::proof
