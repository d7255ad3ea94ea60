// Expressions for the reference evaluator: read and computed from their text, each time anew.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace mobrin::check {

// What a name stands for when it is asked.
struct NameValue {
  double value = 0;
  const std::vector<std::string>* choices = nullptr;  // of a choice input
};

struct Names {
  std::function<NameValue(const std::string&)> value;
  std::function<bool(const std::string&)> in_state;
  std::function<bool(const std::string&)> known;
};

// REQUIRES: compile() takes the expression.
[[nodiscard]] double compute(std::string_view source, const Names& names);

}  // namespace mobrin::check
