// What claims are answered with, as lines.
#pragma once

#include <optional>
#include <string>

#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"

namespace mobrin::test {

// `name: answer` of each claim.
inline std::string answers_of(const Loaded& loaded, const ProofLimits& limits = {},
                              std::optional<bool> too_large = {}) {
  std::string out;
  for (const ClaimAnswer& each : prove(*loaded.definition, *loaded.machine, limits, too_large))
    out += each.claim.text + ": " + std::string(text_of(each.answer)) + "\n";
  return out;
}

}  // namespace mobrin::test
