// Reaches: who is in a shape at the instant of a cue.
#pragma once

#include <string>
#include <vector>

#include "mobrin/contact/space.hpp"

namespace mobrin {

/// Tags as bits, so that comparing them costs nothing. Made by TagNames; `self` has no bit.
using Tags = std::uint64_t;

/// Gives each tag its bit, in the order in which they are first named. At most 64; more are refused (0).
class TagNames {
 public:
  [[nodiscard]] Tags bit(std::string_view tag);
  [[nodiscard]] Tags bits(std::span<const std::string> tags);

 private:
  std::vector<std::string> names_;
};

/// Who may be found.
struct Candidate {
  std::uint32_t id = 0;
  Vec2 at{};
  double radius = 0;  ///< of its body; 0 for a point
  Tags tags = 0;
  bool alive = true;
};

struct Target {
  std::uint32_t id = 0;
  double distance = 0;  ///< from where the reach begins to the candidate's middle, in world units
};

/// The reach that a cue's field `reach` names; null for none.
[[nodiscard]] const ReachDef* reach_of(const Cue& cue, const Machine& machine);

/// Who is in `reach` of `self`, who stands at `origin`: the nearest first, of equal distance the lower id. The dead,
/// self and whom the filters leave out are not found, nor is a candidate at an unsound place. Returns their number;
/// those for which `out` has no room are left out.
std::size_t targets(const ReachDef& reach, const Placement& origin, double unit, std::uint32_t self,
                    std::span<const Candidate> candidates, TagNames& tags, std::vector<Target>& out);

}  // namespace mobrin
