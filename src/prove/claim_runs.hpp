// Runs against one claim: what a game may write is tried in the engine.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "claims.hpp"
#include "guide.hpp"
#include "search.hpp"
#include "space.hpp"

namespace mobrin::proof {

class RunsAgainst {
 public:
  // `model`: the whole machine. `parts`: without what the claim does not hang on. All outlive this.
  RunsAgainst(const Model& model, const Model& parts, const ClaimDef& claim, Claimed claimed, const ProofLimits& limits)
      : model_(model), parts_(parts), claim_(claim), claimed_(std::move(claimed)), limits_(limits) {}

  // All that can be come to, once it was looked at whole; null where it was not.
  void know(Space* space) { space_ = space; }

  // Whether there is a run that breaks it, which engine and reference replay: then it is the answer.
  [[nodiscard]] bool refute(ClaimAnswer& out);
  // The same with less work, where there is much to look at for a proof. Not of what can be.
  [[nodiscard]] bool refute_soon(ClaimAnswer& out);
  // The same for what can be, by a run after which the machine is done: then it rests for ever.
  [[nodiscard]] bool refute_once_done(ClaimAnswer& out);
  // Moves that were tried for it.
  [[nodiscard]] std::size_t tried() const { return tried_; }

 private:
  [[nodiscard]] bool refute_narrowly(SearchLimits limits, const std::vector<bool>& no_hope, ClaimAnswer& out);
  [[nodiscard]] bool refute_within(const SearchLimits& limits, const std::vector<bool>& no_hope, bool closely,
                                   ClaimAnswer& out);
  // The same by what leads there in what can be come to.
  [[nodiscard]] bool refute_by_guide(SearchLimits limits, ClaimAnswer& out);
  // The way to what was found; false where engine and reference do not agree on it.
  [[nodiscard]] bool take(Search& search, std::uint32_t found, const Search::Watch& look, ClaimAnswer& out);
  [[nodiscard]] SearchLimits limits_of_claim() const;
  [[nodiscard]] std::vector<std::vector<Term>> sought_apart() const;
  // Whether the first expression may be true with it active, and nothing beside it in its region.
  [[nodiscard]] bool may_hold_in(std::uint16_t state) const;
  [[nodiscard]] std::string where_done(const Seen& seen) const;
  [[nodiscard]] Verdict watch(Seen& seen, const Search& search, const std::vector<bool>& no_hope);

  const Model& model_;
  const Model& parts_;
  const ClaimDef& claim_;
  const Claimed claimed_;
  const ProofLimits& limits_;
  Space* space_ = nullptr;
  std::optional<Guide> guide_{};  // once it was asked for
  std::size_t tried_ = 0;
  std::string found_;
};

}  // namespace mobrin::proof
