// What follows of a guard from others that were true at the same instant: the inputs that they read are the same.
#pragma once

#include <map>
#include <memory>
#include <utility>

#include "term.hpp"

namespace mobrin::proof {

class Model;
class Solver;

class GuardFacts {
 public:
  GuardFacts();
  // Copies know what was found out.
  GuardFacts(const GuardFacts& other);
  GuardFacts& operator=(const GuardFacts& other);
  ~GuardFacts();

  // Of the guard of one rule; `before`: rules whose guards were true. All read inputs alone. The model is always the
  // same, or a copy of it.
  [[nodiscard]] Truth holds(const Model& model, const Indices& before, std::uint16_t rule);

 private:
  std::unique_ptr<Solver> solver_;
  std::map<std::pair<Indices, std::uint16_t>, Truth> known_;
};

}  // namespace mobrin::proof
