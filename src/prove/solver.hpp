// What no values at all can make true, decided for expressions that compute.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "model.hpp"

namespace mobrin::proof {

// Decides over all values that inputs and variables may hold. Computed are real numbers, each operation off by what the
// engine's 64 bits may lose: what is impossible here is impossible there. Work is counted.
class Solver {
 public:
  explicit Solver(const Model& model);
  ~Solver();
  Solver(const Solver&) = delete;
  Solver& operator=(const Solver&) = delete;

  // Whether it is proved that not all of `terms` are true while none of `others` is. `quickly`: of what two unknowns
  // make of each other nothing is known, but that the same is the same.
  [[nodiscard]] bool impossible(const std::vector<const Term*>& terms, const std::vector<const Term*>& others,
                                bool quickly = false);

 private:
  struct Work;
  std::unique_ptr<Work> work_;
};

}  // namespace mobrin::proof
