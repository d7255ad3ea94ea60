// What a name is, where something else of that name was looked for.
#pragma once

#include <map>
#include <string>
#include <string_view>

#include "mobrin/core/definition.hpp"

namespace mobrin::detail {

class OtherKinds {
 public:
  explicit OtherKinds(const MachineDef& definition);
  // What is called so and how it is written, as a remedy; empty where nothing is, or what is looked for is not one of
  // the kinds (`pulse`, `input`, `cue`, `state`, `clip`, `window`).
  [[nodiscard]] std::string remedy(std::string_view looked_for, std::string_view name) const;

 private:
  void add(const StateDef& state, const std::string& path);

  std::map<std::string, std::string, std::less<>> pulses_, inputs_, cues_, states_, clips_, windows_, traits_,
      choices_;                                              // remedies
  std::map<std::string, std::string, std::less<>> players_;  // of clips: the first state that plays one
};

}  // namespace mobrin::detail
