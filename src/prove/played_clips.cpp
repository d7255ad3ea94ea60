// The clips of a state: one, several in turn, or one of several by an input.
#include <algorithm>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

// Whether they are over, tell the same and open the same windows at the same times.
bool play_alike(const ClipInfo& one, const ClipInfo& other) {
  const auto same_mark = [&](const MarkDef& a, const MarkDef& b) {
    return a.cue.text == b.cue.text && a.way == b.way && one.begin_of(a) == other.begin_of(b) &&
           one.end_of(a) == other.end_of(b);
  };
  const auto same_stretch = [&](const StretchDef& a, const StretchDef& b) {
    if (a.timed || b.timed) return a.timed == b.timed && a.begin == b.begin && a.end == b.end;
    return a.first == b.first && a.last == b.last && one.borders == other.borders;
  };
  const auto same_window = [&](const WindowDef& a, const WindowDef& b) {
    return a.name.text == b.name.text &&
           std::equal(a.stretches.begin(), a.stretches.end(), b.stretches.begin(), b.stretches.end(), same_stretch);
  };
  const ClipMarksDef &a = one.marks, &b = other.marks;
  return whole_play(one) == whole_play(other) &&
         std::equal(a.marks.begin(), a.marks.end(), b.marks.begin(), b.marks.end(), same_mark) &&
         std::equal(a.windows.begin(), a.windows.end(), b.windows.begin(), b.windows.end(), same_window);
}

}  // namespace

std::vector<const ClipInfo*> Model::clips_of(std::uint16_t state) const {
  const StateDef* const def = defs_[state];
  std::vector<const ClipInfo*> out;
  if (def == nullptr || def->pose || def->blend) return out;
  for (const std::uint16_t clip : machine_.states()[state].clips) out.push_back(&machine_.clips()[clip]);
  return out;
}

// Of clips by an input: the longest that may be shown. Where the game may change meanwhile to one of another length,
// each change takes less than a grain of a tick, as the position is rounded down; one comes with a tick at most.
std::optional<Ticks> Model::longest_of_choices(std::uint16_t state, const std::vector<Span>* held) const {
  const StateFacts& facts = states_[state];
  const std::vector<std::uint16_t>& clips = machine_.states()[state].clips;
  const auto way = [&](std::size_t choice) { return whole_play(machine_.clips()[clips[choice]]); };
  std::size_t first = 0, last = clips.size() - 1;
  if (held != nullptr) {
    first = static_cast<std::size_t>((*held)[facts.chosen_by].low);
    last = static_cast<std::size_t>((*held)[facts.chosen_by].high);
  }
  Ticks longest = way(first);
  bool alike = true;
  for (std::size_t choice = first + 1; choice <= last; ++choice) {
    alike = alike && way(choice) == longest;
    longest = std::max(longest, way(choice));
  }
  return facts.steady && alike ? longest : longest_way(longest, state, held, !alike);
}

const ClipInfo* Model::blended_clip(std::uint16_t state, const std::vector<Span>& held) const {
  const auto& blend = defs_[state]->blend;
  if (!blend || blend->floor != 0) return nullptr;
  const Values variables = nothing_known();
  const Flags active(states_.size(), 0);
  std::vector<double> at;
  for (const Term& axis : states_[state].axes) {
    bool by_states = false;
    each_term(axis, [&](const Term& term) { by_states = by_states || term.kind == Term::Kind::state; });
    if (by_states) return nullptr;
    const Span value = compute(axis, View{&held, &variables, &active, nullptr, nullptr, &traits_});
    if (!value.point()) return nullptr;
    at.push_back(value.low);
  }
  const std::vector<std::uint16_t>& clips = machine_.states()[state].clips;
  for (std::size_t p = 0; p < blend->points.size() && p < clips.size() && !at.empty(); ++p) {
    const BlendPointDef& point = blend->points[p];
    if (point.x == at[0] && (at.size() < 2 || point.y == at[1]) && !point.backward) return &machine_.clips()[clips[p]];
  }
  return nullptr;
}

bool Model::goes_round(std::uint16_t leaf, const std::vector<Span>& held) const {
  const StateFacts& facts = states_[leaf];
  if (facts.may_end || !facts.may_loop || !facts.children.empty()) return false;
  if (defs_[leaf]->blend && blended_clip(leaf, held) == nullptr) return false;
  const Span speeds = own_speeds(leaf, &held);
  return speeds.low >= kSpeedGrain || (speeds.high < -kSpeedGrain && !defs_[leaf]->blend);
}

void Model::note_choice(std::uint16_t state) {
  StateFacts& facts = states_[state];
  if (!defs_[state]->clip_by) return;
  const auto inputs = machine_.inputs();
  for (std::uint16_t i = 0; i < inputs.size(); ++i)
    if (inputs[i].name.text == defs_[state]->clip_by->input.text) facts.chosen_by = i;
  const std::vector<const ClipInfo*> clips = clips_of(state);
  for (std::size_t c = 1; c < clips.size(); ++c)
    if (!play_alike(*clips[c - 1], *clips[c])) facts.choices_differ.push_back(static_cast<double>(c));
}

}  // namespace mobrin::proof
