// One claim: proved over the model, or refuted by a run of the engine. prove.cpp asks for all of a machine's.
#pragma once

#include <string>
#include <vector>

#include "mobrin/prove/prove.hpp"
#include "settling.hpp"

namespace mobrin::proof {

// What a claim asks, in a model's terms.
struct Claimed {
  Term first{}, second{};
  Asked asked{};  // of every instant, with what is assumed
  [[nodiscard]] std::vector<Term> all() const;
};
[[nodiscard]] Claimed terms_of(const Model& model, const ClaimDef& claim);
// Whether its first expression is read when the game has written, before the machine settles.
inline bool reads_before(ClaimKind kind) { return kind == ClaimKind::when; }

// Whether it gives what is waited for a time.
inline bool is_timed(const ClaimDef& claim) {
  return (claim.kind == ClaimKind::when || claim.kind == ClaimKind::within) && claim.within.count > 0;
}
// `never: a or b` is two claims, `always: a and b` as well; any other of their kinds is one. None of those that say two
// expressions.
[[nodiscard]] std::vector<Term> claims_in(ClaimKind kind, const Term& first);
// Whether one of those holds for all that inputs and variables may hold.
[[nodiscard]] bool holds_by_ranges(const Model& model, ClaimKind kind, const Term& term);
[[nodiscard]] std::string seconds_text(Ticks ticks);

struct Proved {
  ClaimAnswer answer{};
  bool too_large = false;  // there were too many configurations to look at them all; not known where that was not tried
};
// `parts`: the model without what the claim does not hang on. `large`: there are, so it is not tried.
[[nodiscard]] Proved answer_claim(const Model& model, const Model& parts, const ClaimDef& claim, const Claimed& claimed,
                                  const ProofLimits& limits, bool large);

}  // namespace mobrin::proof
