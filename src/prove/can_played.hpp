// What a leaf plays, as the game sees it that waits for a place of it.
#pragma once

#include <cstdint>
#include <vector>

#include "model.hpp"

namespace mobrin::proof {

// From when a place is waited for until it is surely behind: twice what a clip goes on within a tick at most, 64 times
// 64 ticks.
constexpr std::int64_t kAWhile = std::int64_t{2} * 64 * 64;

class Played {
 public:
  // `held`: the inputs, which may pick the clip. `course`: the way it runs in.
  Played(const Model& model, std::uint16_t leaf, const std::vector<Span>& held, Course course);

  // Of one round, or of all that is played in turn; 0 where it is not known what is played, and no length.
  [[nodiscard]] std::int64_t cycle() const { return cycle_; }
  // Of a rule's window.
  [[nodiscard]] std::vector<Stretch> stretches_of(const Rule& rule) const;
  // Where a cue is told, or a span begins.
  [[nodiscard]] std::vector<std::int64_t> places_of(std::uint16_t cue) const;
  // Whether a rule speaks of what the leaf plays, wherever it stands.
  [[nodiscard]] bool speaks_of_it(const Rule& rule) const;

  // What is so of rules while it is waited until it comes there, as it does after so long at most; and when it has just
  // done so.
  struct Known {
    Truths waiting, open;
  };
  [[nodiscard]] Known known_at(Stretch at, Ticks by) const;

 private:
  struct Part {
    const ClipInfo* clip;
    std::int64_t begin;  // in the play; of several passes, of the first
  };
  const Model& model_;
  const std::uint16_t leaf_;
  const Course course_;
  std::vector<Part> parts_;
  std::int64_t cycle_ = 0;
};

}  // namespace mobrin::proof
