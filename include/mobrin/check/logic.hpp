// Findings about logic: what loads and runs, and is still a mistake.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/parts.hpp"

namespace mobrin {

/// Looks at guards, order, reachability and what is used, without running anything. Told is only what is sure: guards
/// are decided over every value that their inputs may hold (names of states, and what is computed, may be anything),
/// and every event may come. `accept:` of the definition is honoured; one that accepts nothing is itself told. What is
/// a matter of taste is a hint (Finding::hint). REQUIRES: `definition` compiled to `machine` without errors. The
/// findings' files are those of `definition`. `machine` is looked at for its states; linear in the machine's size but
/// for guards of one list, which are held against each other (work is bounded: what would take longer is not told).
[[nodiscard]] std::vector<Finding> logic_findings(const MachineDef& definition, const Machine& machine);

/// What a code of a finding, as it is printed, means and what to do; empty for one that has no more to say (see
/// meaning_of).
[[nodiscard]] std::string_view explain_finding(std::string_view code);

}  // namespace mobrin
