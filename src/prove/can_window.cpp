// What a game brings about through a window: it waits in what it has just entered until the window is open, and
// presses.
#include <algorithm>
#include <set>

#include "can.hpp"
#include "can_played.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

// Whether the game says when it is taken, by a press or by what it writes.
bool is_for_the_game(const Rule& rule) { return rule.event == Event::pulse || rule.event == Event::none; }

}  // namespace

void Can::find_windows() {
  has_windows_.assign(model_.states().size(), false);
  for (const Rule& rule : model_.rules())
    for (std::uint16_t s = 1; s < has_windows_.size() && rule.in_a_window() && is_for_the_game(rule); ++s)
      has_windows_[s] = has_windows_[s] || model_.within(s, rule.owner);
}

bool Can::opens_well(std::uint32_t node, std::uint16_t region, Course course) {
  const std::uint16_t leaf = config(node).leaves[region];
  const std::uint16_t picks = model_.states()[leaf].chosen_by;
  const std::vector<std::vector<Span>> values = choices(node, std::min(breadth_, Breadth::near));
  for (const std::vector<Span>& held : values) {
    const Played played(model_, leaf, held, course);
    if (played.cycle() == 0 || !allowed(node, held, none_)) continue;
    for (const Rule& rule : model_.rules()) {
      if (!rule.in_a_window() || !is_for_the_game(rule) || !played.speaks_of_it(rule)) continue;
      for (const Stretch& each : played.stretches_of(rule)) {
        const Stretch at{each.begin, each.begin + kAWhile};
        if (at.end > each.end || at.end > played.cycle()) continue;
        const auto by = model_.comes_to(leaf, Ticks(at.end), held, course);
        if (!by) continue;
        const Played::Known known = played.known_at(at, *by);
        const auto there = waits_in(node, region, held, known.waiting);
        if (!there) continue;
        if (rule.event == Event::pulse && presses_well(*there, held, rule.pulse, known.open)) return true;
        for (const std::vector<Span>& written : values)
          if (rule.event == Event::none && (picks == kNoIndex || written[picks] == held[picks]) &&
              presses_well(*there, written, kNoIndex, known.open))
            return true;
      }
    }
  }
  return false;
}

// From wherever it is then, this press, if it is one, and what is written lead to something good.
bool Can::presses_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held, std::uint16_t pulse,
                       const Truths& known) {
  std::vector<std::uint16_t> together;
  if (pulse != kNoIndex) together.push_back(pulse);
  const Press press = press_of(together, none_);
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    if (!allowed(node, held, press.written)) return false;
    configurations_.suppose(known);
    const auto ends = outcomes(node, held, press.alive, false);
    configurations_.suppose({});
    return ends && !ends->empty() && all_well(*ends, held, press.left);
  });
}

}  // namespace mobrin::proof
