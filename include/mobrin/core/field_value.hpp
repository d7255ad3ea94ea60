// Values of fields and inputs, for who reads them by name.
#pragma once

#include <cstdint>
#include <string>
#include <variant>
#include <vector>

namespace mobrin {

/// A cue's field: a bool, a whole number, a number, words, or a list of numbers.
using FieldValue = std::variant<bool, std::int64_t, double, std::string, std::vector<double>>;

}  // namespace mobrin
