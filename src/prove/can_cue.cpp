// What a game brings about of a cue: it waits in what it has just entered until the cue's place is come to, or in what
// goes on for ever until that comes round.
#include <algorithm>

#include "can.hpp"
#include "can_played.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

void Can::find_tellers() {
  each_term(aim_, [&](const Term& term) {
    if (term.kind == Term::Kind::cue) add_once(aim_cues_, term.index);
  });
  cues_ = aim_cues_;
  for (const Rule& rule : model_.rules())
    if (rule.cue != kNoIndex) add_once(cues_, rule.cue);
  tells_.assign(model_.states().size(), false);
  for (std::uint16_t s = 1; s < tells_.size() && !cues_.empty(); ++s) {
    if (!model_.states()[s].children.empty()) continue;
    if (model_.definition_of(s)->pose) continue;
    for (const std::uint16_t clip : model_.machine().states()[s].clips)
      for (const MarkDef& mark : model_.machine().clips()[clip].marks.marks)
        for (const std::uint16_t cue : cues_)
          if (mark.cue.text == model_.machine().cues()[cue].name.text && tells(mark, model_.states()[s].course))
            tells_[s] = true;
    if (tells_[s]) note_points_of_blend(s);
  }
}

// Where one of a blend's clips is shown alone, as far as inputs say so.
void Can::note_points_of_blend(std::uint16_t state) {
  const std::vector<Term>& axes = model_.states()[state].axes;
  for (std::size_t a = 0; a < axes.size(); ++a)
    for (const BlendPointDef& point : model_.definition_of(state)->blend->points)
      if (axes[a].kind == Term::Kind::input) add_once(blend_points_[axes[a].index], a == 0 ? point.x : point.y);
}

// What is asked, at the end of an instant; what has begun just then has told what stands at its begin.
Truth Can::aim_after(const Configurations::Outcome& end, const std::vector<Span>& held) const {
  if (aim_cues_.empty()) return aim_at(end.node, held);
  Truths told = end.told;
  const Indices& leaves = config(end.node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if ((end.begun >> r & 1) == 0 || leaves[r] == kNoIndex || !tells_[leaves[r]]) continue;
    const Course course = model_.course_of(leaves[r], held);
    if (!model_.comes_to(leaves[r], Ticks(), held, course)) continue;
    const Played played(model_, leaves[r], held, course);
    for (const std::uint16_t cue : aim_cues_)
      for (const std::int64_t place : played.places_of(cue))
        if (place == 0) told[cue] = Truth::yes;
  }
  return aim_at(end.node, held, &told);
}

// Whether it is well at the instant at which the cue is told, wherever it is then. `known`: of rules, then.
bool Can::told_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held, std::uint16_t cue,
                    const Truths& known) {
  return std::all_of(nodes.begin(), nodes.end(), [&](std::uint32_t node) {
    configurations_.suppose(known);
    const auto ends = outcomes(node, held, none_, true, cue);
    configurations_.suppose({});
    return ends && !ends->empty() && all_well(*ends, held, none_);
  });
}

bool Can::tells_well(std::uint32_t node, std::uint16_t region, Course course) {
  const std::uint16_t leaf = config(node).leaves[region];
  if (!tells_[leaf]) return false;
  for (const std::vector<Span>& held : choices(node, breadth_ == Breadth::few ? Breadth::few : Breadth::all)) {
    if (!allowed(node, held, none_)) continue;
    const Played played(model_, leaf, held, course);
    for (const std::uint16_t cue : cues_)
      for (const std::int64_t place : played.places_of(cue)) {
        const auto by = model_.comes_to(leaf, Ticks(place), held, course);
        if (place == 0 || !by) continue;
        // A tick may lead some way past the place.
        const Truths known = played.known_at({place, place + kAWhile}, *by).waiting;
        const auto there = waits_in(node, region, held, known);
        if (there && told_well(*there, held, cue, place + kAWhile < played.cycle() ? known : Truths())) return true;
      }
  }
  return false;
}

// Of what goes on for ever: within a round it tells all that stands on its clip.
bool Can::tells_in_a_round(std::uint32_t node, const std::vector<Span>& held) {
  const Indices& leaves = config(node).leaves;
  for (std::uint16_t r = 0; r < leaves.size() && r < 64; ++r) {
    if (leaves[r] == kNoIndex || !tells_[leaves[r]]) continue;
    const Played played(model_, leaves[r], held, model_.course_of(leaves[r], held));
    if (played.cycle() == 0 || !model_.goes_round(leaves[r], held)) continue;
    const auto there = waits_in(node, r, held, {});
    for (const std::uint16_t cue : cues_)
      if (there && !played.places_of(cue).empty() && told_well(*there, held, cue, {})) return true;
  }
  return false;
}

}  // namespace mobrin::proof
