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

  // Whether all of `terms` can be true together with none of `others`: false is a proof; empty where it is not decided
  // or may be.
  [[nodiscard]] bool impossible(const std::vector<const Term*>& terms, const std::vector<const Term*>& others);

 private:
  struct Work;
  std::unique_ptr<Work> work_;
};

}  // namespace mobrin::proof
