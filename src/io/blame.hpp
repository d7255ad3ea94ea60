// Which of two names that differ by a slip is the wrong one.
#pragma once

#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::io {

// Names that there are not and that are nearly one that is declared: where they stand several times and nothing names
// what is declared, the declaration is told instead of each of them. What reading the files told, and what compiling
// did.
void blame_declarations(const MachineDef& definition, std::vector<Finding>& read, std::vector<Finding>& compiled);

}  // namespace mobrin::io
