// Which cues are surely told as a play begins, or on its way, and which never as it ends or comes round, or while a
// window is open.
#include <algorithm>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

// So much of a clip may go by within a tick, at the highest rate and speed: 64 times 64 ticks, and as much again.
constexpr std::int64_t kOneTick = 8'192;

// Whether a mark is told apart from both ends of its clip.
bool lies_inside(const ClipInfo& clip, const MarkDef& mark, Course course) {
  if (!is_plain(clip)) return false;
  if (course == Course::any)
    return (!tells(mark, Course::forward) || lies_inside(clip, mark, Course::forward)) &&
           (!tells(mark, Course::backward) || lies_inside(clip, mark, Course::backward));
  const auto inside = [&](std::int64_t at) { return at > kOneTick && at < clip.cycle.count - kOneTick; };
  const Stretch told = told_at(clip, mark, course);
  return inside(told.begin) && inside(told.end);
}

// The same apart from its end alone, by who runs one way.
bool lies_before_its_end(const ClipInfo& clip, const MarkDef& mark, Course course) {
  return told_at(clip, mark, course).end < clip.cycle.count - kOneTick;
}

// Whether a play that runs one way never tells a mark where a window is open. A window that lasts to the end of its
// clip stays open there.
bool lies_apart(const ClipInfo& clip, const MarkDef& mark, const StretchDef& window, Course course) {
  if (!lies_before_its_end(clip, mark, course)) return false;
  if (!has_frames_of(clip, window)) return false;
  const Stretch told = told_at(clip, mark, course), open = open_at(clip, window, course);
  // Running backward one that is over there may still be open.
  const std::int64_t late = course == Course::backward ? kOneTick : 0;
  return (open.end + late <= told.begin && open.end < clip.cycle.count) || open.begin > told.end + kOneTick;
}

// Where a rule's window is open in a clip.
std::vector<StretchDef> stretches_of(const ClipInfo& clip, const GoDef& go) {
  if (go.during_stretch) return {*go.during_stretch};
  for (const WindowDef& window : clip.marks.windows)
    if (window.name.text == go.during.text) return window.stretches;
  return {};
}

}  // namespace

// What is left by a fade with `cues: both` tells its cues while what was entered plays, and whatever that fades into; a
// rule without a fade cuts it all.
void Model::find_layer_cues() {
  const auto tells = [](const Rule& rule) { return rule.def != nullptr && rule.def->fade_cues == FadeCues::both; };
  for (bool more = std::any_of(rules_.begin(), rules_.end(), tells); more;) {
    more = false;
    for (const Rule& rule : rules_) {
      if (rule.def == nullptr || rule.def->fade.count == 0) continue;
      std::vector<std::vector<std::uint16_t>> left(machine_.regions().size());  // by region
      for (std::uint16_t s = 1; s < states_.size(); ++s) {
        const StateFacts& from = states_[s];
        const bool beside = rule.owner != 0 && states_[rule.owner].region == from.region && !within(s, rule.owner);
        if (!from.children.empty() || beside) continue;
        for (const auto* told : {&from.cues, &from.layer_cues})
          for (const std::uint16_t cue : *told)
            if (tells(rule) || told == &from.layer_cues) add_once(left[from.region], cue);
      }
      for (std::uint16_t to = 1; to < states_.size(); ++to) {
        if (!states_[to].children.empty() || (rule.aim == Aim::state && !within(to, rule.target))) continue;
        std::vector<std::uint16_t>& known = states_[to].layer_cues;
        const std::size_t before = known.size();
        for (const std::uint16_t cue : left[states_[to].region]) add_once(known, cue);
        more = more || known.size() > before;
      }
    }
  }
}

// Of each state those of its clips' cues that nothing else may tell meanwhile: no action, no clip of another region.
// What is entered in its own region tells it later, or else the state has just begun itself.
void Model::find_inner_cues() {
  const std::size_t cues = machine_.cues().size();
  std::vector<std::optional<std::uint16_t>> regions(cues);  // where states tell it
  std::vector<bool> otherwise(cues, false);
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
    for (const auto* told : {&state.turn_cues, &state.layer_cues})
      for (const std::uint16_t cue : *told) otherwise[cue] = true;
  }
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    const std::vector<const ClipInfo*> clips = clips_of(s);
    const Course course = states_[s].course;
    if (clips.empty()) continue;
    // Of its cues those of which all marks are such.
    const auto cues_if = [&](const auto& is_so) {
      std::vector<std::uint16_t> out;
      for (const std::uint16_t cue : states_[s].cues)
        if (!otherwise[cue] && std::all_of(clips.begin(), clips.end(), [&](const ClipInfo* clip) {
              const auto& marks = clip->marks.marks;
              return std::all_of(marks.begin(), marks.end(), [&](const MarkDef& mark) {
                return cue_of(mark.cue.text) != cue || is_so(*clip, mark, course);
              });
            }))
          out.push_back(cue);
      return out;
    };
    states_[s].early_cues = states_[s].inner_cues = cues_if(lies_inside);
    if (course == Course::any || !may_run_backward(s)) continue;
    states_[s].early_cues = cues_if(lies_before_its_end);
    if (!defs_[s]->sequence.empty()) continue;
    for (std::uint16_t up = s; up != kNoIndex; up = up == 0 ? kNoIndex : states_[up].parent)
      for (const std::uint32_t index : states_[up].rules) {
        if (!rules_[index].in_a_window()) continue;
        std::vector<std::uint16_t> apart = cues_if([&](const ClipInfo& clip, const MarkDef& mark, Course) {
          const std::vector<StretchDef> open = stretches_of(clip, *rules_[index].def);
          return std::all_of(open.begin(), open.end(),
                             [&](const StretchDef& each) { return lies_apart(clip, mark, each, course); });
        });
        if (!apart.empty()) states_[s].cues_apart[index] = std::move(apart);
      }
  }
}

namespace {

// Where a play that runs one way from its begin surely tells a cue.
std::vector<std::pair<std::string, Ticks>> sure_marks(const ClipInfo& clip, Course course) {
  std::vector<std::pair<std::string, Ticks>> out;
  for (const MarkDef& mark : clip.marks.marks)
    if (!is_span(mark.at) && tells(mark, course) && lies_inside(clip, mark, course))
      out.emplace_back(mark.cue.text, Ticks(told_at(clip, mark, course).begin));
  return out;
}

}  // namespace

// Of each state those that what it plays surely tells on its way. Where an input may change the clip meanwhile, those
// that lie at one place in all of them, as the position stays.
void Model::find_sure_cues() {
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    std::vector<const ClipInfo*> clips = clips_of(s);
    const Course course = states_[s].course;
    if (course == Course::any || clips.empty()) continue;
    if (course == Course::backward && !defs_[s]->sequence.empty()) std::reverse(clips.begin(), clips.end());
    auto marks = sure_marks(*clips.front(), course);
    Ticks before = whole_play(*clips.front());
    for (std::size_t c = 1; c < clips.size(); ++c) {
      auto more = sure_marks(*clips[c], course);
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
  for (std::uint16_t s = 1; s < states_.size(); ++s) {
    std::vector<const ClipInfo*> clips = clips_of(s);
    const Course course = states_[s].course;
    if (course == Course::any || clips.empty()) continue;
    if (!defs_[s]->clip_by) clips = {course == Course::backward ? clips.back() : clips.front()};
    for (const std::uint16_t cue : states_[s].entry_cues)
      if (std::all_of(clips.begin(), clips.end(), [&](const ClipInfo* clip) {
            const auto& marks = clip->marks.marks;
            return std::any_of(marks.begin(), marks.end(), [&](const MarkDef& mark) {
              return cue_of(mark.cue.text) == cue && tells(mark, course) && told_at(*clip, mark, course).begin == 0;
            });
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
