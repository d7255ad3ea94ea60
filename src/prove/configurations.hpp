// Configurations at rest, by number, and what may become of one at an instant.
#pragma once

#include <optional>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "settling.hpp"

namespace mobrin::proof {

class Configurations {
 public:
  // `asked`: terms that read what was told at an instant. The model outlives this.
  Configurations(Model& model, const std::vector<Term>& asked) : model_(model), heard_(model, asked) {}

  void clear();
  // Its number, and whether it is new.
  std::pair<std::uint32_t, bool> add(const Config& config);
  [[nodiscard]] std::optional<std::uint32_t> find(const Config& config) const;
  [[nodiscard]] const std::vector<Config>& all() const { return all_; }
  [[nodiscard]] const Heard& heard() const { return heard_; }
  // See Model::suppose.
  void suppose(Truths known) const { model_.suppose(std::move(known)); }

  // The pulses that may be alive there while nothing comes, whatever the inputs.
  [[nodiscard]] Truths pending(std::uint32_t node) const;

  struct Outcome {
    std::uint32_t node = 0;
    std::uint64_t entered = 0, looped = 0;  // see Edge
    std::uint64_t begun = 0;                // by region: entered, and it plays from its begin
    Truths pulses{};                        // that may be alive still
    Truths told{};                          // of the cues that are asked for; empty where none is
    auto operator<=>(const Outcome&) const = default;
  };
  // All that may become of a configuration at an instant at which the inputs are these and the pulses so; empty where
  // it cannot be said. `timed`: time brings it, else the game writes. `told`: a cue that is surely told as it begins.
  [[nodiscard]] std::optional<std::vector<Outcome>> outcomes(std::uint32_t node, const std::vector<Span>& inputs,
                                                             const Truths& pulses, bool timed,
                                                             std::uint16_t told = kNoIndex) const;

 private:
  Model& model_;
  Heard heard_;
  std::vector<Config> all_;
  std::unordered_map<std::string, std::uint32_t> index_;
};

// All of a moment but its pulses, as a key.
[[nodiscard]] std::string key_of(const Moment& moment);

}  // namespace mobrin::proof
