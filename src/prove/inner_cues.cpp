// Which cues are never told as a play ends or comes round.
#include <algorithm>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

// So much of a clip may go by within a tick, at the highest rate and speed: 64 times 64 ticks, and as much again.
constexpr std::int64_t kOneTick = 8'192;

// Whether a mark lies apart from both ends of its clip.
bool lies_inside(const ClipInfo& clip, const MarkDef& mark) {
  if (clip.def.play.kind != PlayKind::once && clip.def.play.kind != PlayKind::loop) return false;
  const auto inside = [&](Ticks at) { return at.count > kOneTick && at.count < clip.cycle.count - kOneTick; };
  return inside(clip.begin_of(mark)) && inside(clip.end_of(mark));
}

}  // namespace

// Of each state those of its clips' cues that nothing else may tell meanwhile: no action, nothing that is entered, no
// clip of another region.
void Model::find_inner_cues() {
  const std::size_t cues = machine_.cues().size();
  std::vector<std::optional<std::uint16_t>> regions(cues);  // where states tell it
  std::vector<bool> otherwise(cues, fades_tell_);
  const auto by_actions = [&](const std::vector<Action>& actions) {
    for (const Action& action : actions)
      if (action.cue != kNoIndex) otherwise[action.cue] = true;
  };
  for (const Rule& rule : rules_) by_actions(rule.actions);
  for (const StateFacts& state : states_) {
    for (const std::uint16_t cue : state.cues) {
      otherwise[cue] = otherwise[cue] || regions[cue].value_or(state.region) != state.region;
      regions[cue] = state.region;
    }
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) by_actions(*actions);
    for (const auto* list : {&state.entry_cues, &state.turn_cues})
      for (const std::uint16_t cue : *list) otherwise[cue] = true;
  }
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    const StateDef* def = defs_[s];
    if (def == nullptr || def->clip.empty() || def->pose || def->blend || def->clip_by) continue;
    const auto found = clips_.find(def->clip.text);
    if (found == clips_.end()) continue;
    const ClipInfo& clip = machine_.clips()[found->second];
    for (const std::uint16_t cue : states_[s].cues) {
      const bool inside = std::all_of(clip.marks.marks.begin(), clip.marks.marks.end(), [&](const MarkDef& mark) {
        return cue_of(mark.cue.text) != cue || lies_inside(clip, mark);
      });
      if (inside && !otherwise[cue]) states_[s].inner_cues.push_back(cue);
    }
  }
}

// Of each state those that its clip surely tells on its way.
void Model::find_sure_cues() {
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    const StateDef* def = defs_[s];
    if (def == nullptr || !states_[s].from_begin || def->clip.empty() || def->pose || def->blend || def->clip_by)
      continue;
    const auto found = clips_.find(def->clip.text);
    if (found == clips_.end()) continue;
    const ClipInfo& clip = machine_.clips()[found->second];
    for (const MarkDef& mark : clip.marks.marks) {
      const std::uint16_t cue = cue_of(mark.cue.text);
      if (cue == kNoIndex || is_span(mark.at) || mark.way == MarkWay::backward || !lies_inside(clip, mark)) continue;
      const Ticks at = clip.begin_of(mark);
      auto& sure = states_[s].sure_cues;
      const auto known = std::find_if(sure.begin(), sure.end(), [&](const auto& each) { return each.first == cue; });
      if (known == sure.end())
        sure.emplace_back(cue, at);
      else
        known->second = std::min(known->second, at);
    }
  }
}

std::optional<Ticks> Model::sure_place(std::uint16_t leaf, std::uint16_t cue) const {
  if (!all_start_at_begin_) return std::nullopt;
  for (const auto& [each, at] : states_[leaf].sure_cues)
    if (each == cue) return at;
  return std::nullopt;
}

void Model::hush_inside(std::uint16_t leaf) {
  for (const std::uint16_t cue : states_[leaf].inner_cues) made_.told[cue] = Truth::no;
}

}  // namespace mobrin::proof
