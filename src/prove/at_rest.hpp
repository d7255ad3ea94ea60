// What is so at rest because no rule was taken: its guard does not hold then, whatever it compares.
#pragma once

#include <cstddef>
#include <optional>

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
  Model& model_;
  std::optional<Solver> solver_{};  // from the first question on
  std::size_t asked_ = 0;
};

}  // namespace mobrin::proof
