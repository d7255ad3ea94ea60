// Runs against one claim: what a game may write is tried in the engine.
#pragma once

#include <string>
#include <vector>

#include "claims.hpp"
#include "search.hpp"
#include "space.hpp"

namespace mobrin::proof {

class RunsAgainst {
 public:
  // `model`: the whole machine. `parts`: without what the claim does not hang on. `space`: null where not all of it was
  // looked at. All outlive this.
  RunsAgainst(const Model& model, const Model& parts, const ClaimDef& claim, Claimed claimed, const ProofLimits& limits,
              Space* space)
      : model_(model), parts_(parts), claim_(claim), claimed_(std::move(claimed)), limits_(limits), space_(space) {}

  // Whether there is a run that breaks it, which engine and reference replay: then it is the answer.
  [[nodiscard]] bool refute(ClaimAnswer& out);
  // Moves that were tried for it.
  [[nodiscard]] std::size_t tried() const { return tried_; }

 private:
  [[nodiscard]] bool refute_within(const SearchLimits& limits, const std::vector<bool>& no_hope, bool closely,
                                   ClaimAnswer& out);
  [[nodiscard]] std::vector<std::vector<Term>> sought_apart() const;
  [[nodiscard]] Verdict watch(Seen& seen, const Search& search, const std::vector<bool>& no_hope);

  const Model& model_;
  const Model& parts_;
  const ClaimDef& claim_;
  const Claimed claimed_;
  const ProofLimits& limits_;
  Space* space_;
  std::size_t tried_ = 0;
  std::string found_;
};

}  // namespace mobrin::proof
