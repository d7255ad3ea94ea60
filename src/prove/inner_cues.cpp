// Which cues are surely told as a play begins, or on its way, and which never as it ends or comes round, or while a
// window is open.
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

// The same apart from its end alone.
bool lies_before_its_end(const ClipInfo& clip, const MarkDef& mark) {
  return clip.end_of(mark).count < clip.cycle.count - kOneTick;
}

// Whether a play that runs forward never tells a mark where a window is open. A window that lasts to the end of its
// clip stays open there.
bool lies_apart(const ClipInfo& clip, const MarkDef& mark, const StretchDef& open) {
  if (!lies_before_its_end(clip, mark)) return false;
  if (!open.timed && static_cast<std::size_t>(open.last) + 1 >= clip.borders.size()) return false;
  const Ticks begin = open.timed ? open.begin : clip.borders[static_cast<std::size_t>(open.first)];
  const Ticks end = open.timed ? open.end : clip.borders[static_cast<std::size_t>(open.last) + 1];
  return (end <= clip.begin_of(mark) && end < clip.cycle) || begin.count > clip.end_of(mark).count + kOneTick;
}

// Where a rule's window is open in a clip.
std::vector<StretchDef> stretches_of(const ClipInfo& clip, const GoDef& go) {
  if (go.during_stretch) return {*go.during_stretch};
  for (const WindowDef& window : clip.marks.windows)
    if (window.name.text == go.during.text) return window.stretches;
  return {};
}

}  // namespace

// Of each state those of its clips' cues that nothing else may tell meanwhile: no action, no clip of another region.
// What is entered in its own region tells it later, or else the state has just begun itself.
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
    for (const std::uint16_t cue : state.turn_cues) otherwise[cue] = true;
  }
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    const std::vector<const ClipInfo*> clips = clips_of(s);
    if (clips.empty()) continue;
    // Of its cues those of which all marks are such.
    const auto cues_if = [&](const auto& is_so) {
      std::vector<std::uint16_t> out;
      for (const std::uint16_t cue : states_[s].cues)
        if (!otherwise[cue] && std::all_of(clips.begin(), clips.end(), [&](const ClipInfo* clip) {
              const auto& marks = clip->marks.marks;
              return std::all_of(marks.begin(), marks.end(), [&](const MarkDef& mark) {
                return cue_of(mark.cue.text) != cue || is_so(*clip, mark);
              });
            }))
          out.push_back(cue);
      return out;
    };
    states_[s].early_cues = states_[s].inner_cues = cues_if(lies_inside);
    const bool onward = std::all_of(clips.begin(), clips.end(), [](const ClipInfo* clip) {
      return clip->def.play.kind == PlayKind::once || clip->def.play.kind == PlayKind::loop;
    });
    if (!states_[s].from_begin || !onward) continue;
    states_[s].early_cues = cues_if(lies_before_its_end);
    if (!defs_[s]->sequence.empty()) continue;
    for (std::uint16_t up = s; up != kNoIndex; up = up == 0 ? kNoIndex : states_[up].parent)
      for (const std::uint32_t index : states_[up].rules) {
        if (!rules_[index].in_a_window()) continue;
        std::vector<std::uint16_t> apart = cues_if([&](const ClipInfo& clip, const MarkDef& mark) {
          const std::vector<StretchDef> open = stretches_of(clip, *rules_[index].def);
          return std::all_of(open.begin(), open.end(),
                             [&](const StretchDef& each) { return lies_apart(clip, mark, each); });
        });
        if (!apart.empty()) states_[s].cues_apart[index] = std::move(apart);
      }
  }
}

namespace {

// Where a play that runs forward from its begin surely tells a cue.
std::vector<std::pair<std::string, Ticks>> sure_marks(const ClipInfo& clip) {
  std::vector<std::pair<std::string, Ticks>> out;
  for (const MarkDef& mark : clip.marks.marks)
    if (!is_span(mark.at) && mark.way != MarkWay::backward && lies_inside(clip, mark))
      out.emplace_back(mark.cue.text, clip.begin_of(mark));
  return out;
}

}  // namespace

// Of each state those that what it plays surely tells on its way. Where an input may change the clip meanwhile, those
// that lie at one place in all of them, as the position stays.
void Model::find_sure_cues() {
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    const std::vector<const ClipInfo*> clips = clips_of(s);
    if (!states_[s].from_begin || clips.empty()) continue;
    auto marks = sure_marks(*clips.front());
    Ticks before = whole_play(*clips.front());
    for (std::size_t c = 1; c < clips.size(); ++c) {
      auto more = sure_marks(*clips[c]);
      if (defs_[s]->clip_by) {
        const bool alike = clips[c]->cycle == clips.front()->cycle;
        std::erase_if(
            marks, [&](const auto& each) { return !alike || std::find(more.begin(), more.end(), each) == more.end(); });
        continue;
      }
      for (auto& [cue, at] : more) marks.emplace_back(std::move(cue), before + at);
      before = before + whole_play(*clips[c]);
    }
    auto& sure = states_[s].sure_cues;
    for (const auto& [name, at] : marks) {
      const std::uint16_t cue = cue_of(name);
      const auto known = std::find_if(sure.begin(), sure.end(), [&](const auto& each) { return each.first == cue; });
      if (known == sure.end())
        sure.emplace_back(cue, at);
      else
        known->second = std::min(known->second, at);
    }
  }
}

// What stands where its play begins, whichever clip that is.
void Model::find_begin_cues() {
  const auto begins_there = [](const MarkDef& mark) {
    const bool by_frame = mark.at == MarkAt::frame_begin || mark.at == MarkAt::frames;
    const bool by_time = mark.at == MarkAt::time || mark.at == MarkAt::times;
    return mark.way == MarkWay::both && ((by_frame && mark.frame == 0) || (by_time && mark.time.count == 0));
  };
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    std::vector<const ClipInfo*> clips = clips_of(s);
    if (!states_[s].from_begin || clips.empty()) continue;
    if (!defs_[s]->clip_by) clips.resize(1);
    for (const std::uint16_t cue : states_[s].entry_cues)
      if (std::all_of(clips.begin(), clips.end(), [&](const ClipInfo* clip) {
            return std::any_of(clip->marks.marks.begin(), clip->marks.marks.end(),
                               [&](const MarkDef& mark) { return cue_of(mark.cue.text) == cue && begins_there(mark); });
          }))
        states_[s].begin_cues.push_back(cue);
  }
}

std::optional<Ticks> Model::sure_place(std::uint16_t leaf, std::uint16_t cue) const {
  if (!states_[leaf].begins) return std::nullopt;
  for (const auto& [each, at] : states_[leaf].sure_cues)
    if (each == cue) return at;
  return std::nullopt;
}

void Model::hush(const std::vector<std::uint16_t>& cues) {
  for (const std::uint16_t cue : cues) made_.told[cue] = Truth::no;
}

// What was not told as a rule is taken of a leaf that has not just begun.
void Model::hush_for(const Rule& rule, std::uint16_t leaf) {
  if (rule.event == Event::end) hush(states_[leaf].early_cues);
  if (!rule.in_a_window()) return;
  const auto& apart = states_[leaf].cues_apart;
  if (const auto found = apart.find(rule.index); found != apart.end()) hush(found->second);
}

}  // namespace mobrin::proof
