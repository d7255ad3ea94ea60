// Reaches: who is in a shape at the instant of a cue.
#pragma once

#include <string>
#include <vector>

#include "mobrin/contact/space.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin {

/// Tags as bits, so that comparing them costs nothing. Made by TagNames; `self` has no bit.
using Tags = std::uint64_t;

/// Whom a box, reach or zone takes.
struct TagFilter {
  Tags only = 0;    ///< who has one of these
  Tags spares = 0;  ///< and none of these
  bool all = true;  ///< `only` is not asked: nothing was named
  /// Whether somebody with these tags is one of those meant.
  [[nodiscard]] bool takes(Tags tags) const { return (all || (tags & only) != 0) && (tags & spares) == 0; }
};

/// Gives each tag its bit, in the order in which they are first named. At most 64: a 65th gets none (0), and is
/// counted.
class TagNames {
 public:
  /// The bit of a tag, a new one where it is not known yet; 0 where there are 64 already.
  [[nodiscard]] Tags bit(std::string_view tag);
  [[nodiscard]] Tags bits(std::span<const std::string> tags);  ///< The bits of several tags.
  /// A filter shuts where a tag has no bit: one that names only such tags takes nobody, and so does one that is to
  /// spare such a tag. An empty `only` takes all.
  [[nodiscard]] TagFilter filter(std::span<const std::string> only, std::span<const std::string> spares);
  /// How often a tag was refused because there were 64 already; 0 where all is well.
  [[nodiscard]] std::size_t refused() const { return refused_; }

 private:
  detail::List<std::string> names_;
  std::size_t refused_ = 0;
};

/// Who may be found.
struct Candidate {
  std::uint32_t id = 0;  ///< the game's own
  Vec2 at{};             ///< world units
  double radius = 0;     ///< of its body; 0 for a point
  Tags tags = 0;         ///< what the reach's filter asks for
  bool alive = true;     ///< the dead are not found
};

/// Somebody whom a reach found.
struct Target {
  std::uint32_t id = 0;  ///< of the candidate
  double distance = 0;   ///< from where the reach begins to the candidate's middle, in world units
};

/// The reach that a cue's field `reach` names; null for none.
[[nodiscard]] const ReachDef* reach_of(const Cue& cue, const Machine& machine);

/// Who is in `reach` of `self`, who stands at `origin`: the nearest first, of equal distance the lower id. The dead,
/// self and whom the filters leave out are not found, nor is a candidate at an unsound place. Returns their number;
/// those for which `out` has no room are left out.
std::size_t targets(const ReachDef& reach, const Placement& origin, double unit, std::uint32_t self,
                    std::span<const Candidate> candidates, TagNames& tags, std::vector<Target>& out);

}  // namespace mobrin
