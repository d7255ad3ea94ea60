// What all who let the model settle have in common: which moments are known, and how many rounds there may be.
#pragma once

#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "model_parts.hpp"

namespace mobrin::proof {

constexpr std::size_t kMostRounds = 64;      // of one settling
constexpr std::size_t kMostMoments = 2'000;  // of one settling
constexpr std::size_t kStepsOfOne = 4;       // ways for a round to end, which are as much work as to look at one moment
constexpr std::size_t kMostTogether = 12;    // regions, and pulses asked for, each there or not

// What is asked at every instant. Before: when the game has written and before the machine settles. After: when it has
// settled.
struct Asked {
  std::vector<Term> assumed{}, before{}, after{};
};
// The pulses of which these speak.
[[nodiscard]] std::vector<std::uint16_t> pulses_asked(const Asked& asked);

// An instant after which something is still waited for: the leaves by region, and in which of these a state was
// entered. `from` is empty where it was not waited before. `rests`: it may rest for ever meanwhile, as it is done.
struct Waiting {
  Indices from{}, to{};
  std::uint64_t entered = 0;
  bool rests = false;
};

// A bit for each region in which a state was entered; whose play came round.
[[nodiscard]] std::uint64_t entered_in(const Moment& moment);
// Those of them that play from their begin.
[[nodiscard]] std::uint64_t begun_in(const Moment& moment);
[[nodiscard]] std::uint64_t looped_in(const Truths& looped);

// Which cues matter; the others tell no moment from another.
class Heard {
 public:
  // Those that rules wait for. `asked`: terms that read those that were told at the instant.
  Heard(const Model& model, const std::vector<Term>& asked);
  void forget_others(Moment& moment) const;
  // What was told of those that are asked for; empty where none is.
  [[nodiscard]] Truths told_of(const Moment& moment) const;

 private:
  std::vector<bool> seen_, told_;
};

// Moments by a key that says all of them but their pulses. One covers another where it knows the same of each pulse, or
// nothing: then all that may come of the other may come of it.
class Known {
 public:
  // The number of one that covers the moment. Where there is none, it is known as `number` from now on.
  std::optional<std::uint32_t> find_or_add(std::string key, const Truths& pulses, std::uint32_t number);
  [[nodiscard]] std::size_t size() const { return by_key_.size(); }

 private:
  // A bit for each pulse.
  struct One {
    std::vector<std::uint64_t> maybe, yes;
    std::uint32_t number = 0;
    [[nodiscard]] bool covers(const One& other) const;
  };
  std::unordered_map<std::string, std::vector<One>> by_key_;
};

// A moment that may come after another: in the next round, or the same of which more is known.
struct Next {
  std::uint32_t to = 0;
  bool round = true;
};
// A pulse that was taken, and is gone with that; the moments before and after it.
struct Taken {
  std::uint16_t pulse = 0;
  std::uint32_t from = 0, to = 0;
};
// Where a moment stands, by region: its leaf, and the outermost state that was entered just before.
struct Stop {
  Indices leaves{}, fresh{};
};
// Whether a settling may lead round without a pulse being taken, or have more rounds than it may: at most those that
// follow its begin, and for each pulse one and those that follow it. `next`: by moment, without those that take a
// pulse. `beside`: rounds that there may be besides.
[[nodiscard]] bool may_run_away(const std::vector<std::vector<Next>>& next, const std::vector<Taken>& taken,
                                std::size_t beside = 0);
// Whether what may come after a pulse was taken, at the same instant, leads back to a leaf that was left with it. Yes,
// too, where that is too much to look at.
[[nodiscard]] bool may_undo_a_press(const std::vector<std::vector<Next>>& next, const std::vector<Taken>& taken,
                                    const std::vector<Stop>& stops);

}  // namespace mobrin::proof
