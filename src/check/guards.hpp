// Guards, decided over all values: which cases there are, and in which of them a guard is true.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "expression/expression_parse.hpp"
#include "mobrin/core/parts.hpp"

namespace mobrin::check {

// What may stand for a value: true or false, a choice's index, or a number.
struct GuardValue {
  enum class Kind : std::uint8_t { truth, choice, number };
  Kind kind = Kind::truth;
  bool whole = false;
  double low = 0, high = 0;      // of a number
  std::set<double> constants{};  // that it is compared with
  std::size_t choices = 0;
};

class Guard {
 public:
  // `text` may be empty: always true. REQUIRES: it compiles in `definition`.
  Guard(const std::string& text, const MachineDef& definition);

  [[nodiscard]] bool empty() const { return tree_ == nullptr; }
  [[nodiscard]] const detail::ExprNode* tree() const { return tree_.get(); }

 private:
  friend class GuardCases;
  const MachineDef* definition_;
  std::unique_ptr<detail::ExprNode> tree_;
};

// The answers, over all cases of the values that some guards speak of; empty where there are too many to try.
[[nodiscard]] std::optional<bool> never(const Guard& guard);
[[nodiscard]] std::optional<bool> always(const Guard& guard);
// Whether `one` is true in every case in which `other` is.
[[nodiscard]] std::optional<bool> covers(const Guard& one, const Guard& other);

}  // namespace mobrin::check
