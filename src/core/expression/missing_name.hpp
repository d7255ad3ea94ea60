// A name in an expression that is declared nowhere: how it could be.
#pragma once

#include <string>

#include "expression/expression_parse.hpp"

namespace mobrin::detail {

// How to declare it, as a sentence, with an input of that name by what is done with it: `near: false`, `speed: 0.0`,
// `tool: {one_of: [net, ...]}`. `wanted`: what the whole of it is to give; none: whatever. REQUIRES: `name` lies within
// `whole`.
[[nodiscard]] std::string how_to_declare(const ExprNode& name, const ExprNode& whole, ValueType wanted,
                                         const Symbols& symbols);

}  // namespace mobrin::detail
