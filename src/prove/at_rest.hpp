// What is so at rest because no rule was taken: its guard does not hold then, whatever it compares.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "model.hpp"
#include "solver.hpp"

namespace mobrin::proof {

class AtRest {
 public:
  // The model outlives this, and knows already where inputs are cut.
  explicit AtRest(Model& model) : model_(model) {}

  // What a term comes to when nothing more is taken, where its values alone do not say. `view`: what is known then;
  // `seen`: the same for the term, which may be read earlier at that instant.
  [[nodiscard]] Truth holds(const Term& term, const View& seen, const Moment& rest, const View& view);

 private:
  [[nodiscard]] Truth ask(const Term& term, const std::vector<Term>& bounds, const std::vector<Term>& guards);

  Model& model_;
  std::optional<Solver> solver_{};        // from the first question on
  std::map<std::string, Truth> known_{};  // by what was asked: the same comes again and again
};

}  // namespace mobrin::proof
