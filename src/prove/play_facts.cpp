// What is known of the play of a state: which way it runs, how long, what it tells as it begins, and how it stands at
// its end.
#include <algorithm>

#include "model.hpp"
#include "model_parts.hpp"

namespace mobrin::proof {

void Model::facts_of_plays(std::uint16_t state) {
  const StateDef& def = *defs_[state];
  StateFacts& facts = states_[state];
  std::vector<std::string> clips;
  if (!def.clip.empty()) clips.push_back(def.clip.text);
  for (const Text& clip : def.sequence) clips.push_back(clip.text);
  if (def.clip_by)
    for (const auto& [choice, clip] : def.clip_by->clips) clips.push_back(clip.text);
  if (def.blend)
    for (const BlendPointDef& point : def.blend->points) clips.push_back(point.clip.text);
  facts.steady = def.speed.empty() && !def.blend;
  facts.plays = !clips.empty() || def.length.has_value();
  // Whether its play surely begins at its begin.
  bool forward = facts.steady;
  facts.turns = !facts.steady;
  if (const auto speeds = speeds_of(state, nullptr)) {
    forward = speeds->low >= 0;
    facts.turns = !forward && !(speeds->high < -kSpeedGrain);
  }
  const bool onward = def.blend ? own_speeds(state, nullptr).low >= 0 &&
                                      std::none_of(def.blend->points.begin(), def.blend->points.end(),
                                                   [](const BlendPointDef& point) { return point.backward; })
                                : forward;
  facts.turns_at_once = facts.turns && (def.blend || !facts.speed);
  if (facts.turns && facts.speed)
    each_term(*facts.speed, [&](const Term& term) {
      if (term.kind == Term::Kind::variable || term.kind == Term::Kind::state) facts.turns_at_once = true;
    });
  note_choice(state);
  if (def.length) {
    facts.may_end = true;
    facts.length = def.length;
  }
  if (!def.pose && !def.blend && !facts.turns)
    facts.course = forward ? Course::forward : may_run_backward(state) ? Course::backward : Course::any;
  if (facts.course != Course::any) know_the_end(def, clips, facts);
  std::int64_t total = 0;
  for (const std::string& name : clips) {
    const auto found = clips_.find(name);
    if (found == clips_.end()) continue;
    const ClipInfo& clip = machine_.clips()[found->second];
    const PlayMode play = clip.def.play;
    if (!def.pose && def.sequence.empty()) {
      facts.may_end = facts.may_end || play.passes != 0;
      facts.may_loop = facts.may_loop || (play.kind != PlayKind::once && play.passes != 1);
    }
    total += whole_play(clip).count;
    const auto at_begin = [&](const StretchDef& each) { return open_at_begin(clip, each, facts.course); };
    for (const WindowDef& window : clip.marks.windows) {
      facts.windows.push_back(window.name.text);
      if (def.pose || def.blend || std::any_of(window.stretches.begin(), window.stretches.end(), at_begin))
        facts.first_windows.push_back(window.name.text);
    }
    if (def.pose) continue;
    for (const MarkDef& mark : clip.marks.marks) {
      const std::uint16_t cue = cue_of(mark.cue.text);
      if (cue == kNoIndex || (is_plain(clip) && !tells(mark, facts.course))) continue;
      add_once(facts.cues, cue);
      const bool first = told_at(clip, mark, facts.course).begin == 0 || is_span(mark.at);
      if (first || !(onward || facts.course == Course::backward)) add_once(facts.entry_cues, cue);
      if (is_span(mark.at) && (!facts.steady || def.clip_by)) add_once(facts.turn_cues, cue);
    }
  }
  if (!def.sequence.empty()) facts.may_end = true;
  if (def.pose) facts.may_end = facts.may_loop = false;
  if (!clips.empty() && facts.may_end) facts.length = Ticks(total);
  // Of several clips by an input it may be any; what has a speed takes what it takes.
  if (!def.clip_by && !def.blend && facts.may_end) facts.way = facts.length;
  const bool one = clips.size() == 1 && !def.blend && !def.clip_by;
  if (one && facts.may_loop && !facts.may_end && machine_.states()[state].uses_loops) facts.round = Ticks(total);
  if (!facts.steady || def.clip_by) facts.length.reset();
  facts.ends_all = facts.final && !facts.may_end && def.linger.count == 0;
}

// A play that has ended stands at the end of its clip, and the windows that are open there stay open.
void Model::know_the_end(const StateDef& def, const std::vector<std::string>& clips, StateFacts& facts) const {
  if (def.length) facts.last_time = def.length;
  std::vector<std::string> last = clips;
  if (!def.sequence.empty()) last = {facts.course == Course::backward ? clips.front() : clips.back()};
  bool first = true;
  for (const std::string& name : last) {
    const auto found = clips_.find(name);
    if (found == clips_.end()) continue;
    const ClipInfo& clip = machine_.clips()[found->second];
    if (clip.def.play.kind == PlayKind::back_and_forth) return facts.last_windows.clear();
    const bool back = facts.course == Course::backward;
    const std::int32_t frame = clip.def.frames.empty() ? -1
                               : back                  ? 0
                                                       : static_cast<std::int32_t>(clip.def.frames.size()) - 1;
    const auto at_end = [&](const StretchDef& each) {
      if (!each.timed) return each.first <= frame && frame <= each.last;
      return back ? each.begin.count == 0 : each.end >= clip.cycle;
    };
    std::vector<std::string> open;
    for (const WindowDef& window : clip.marks.windows)
      if (std::any_of(window.stretches.begin(), window.stretches.end(), at_end)) open.push_back(window.name.text);
    if (first) {
      facts.last_windows = open;
      if (frame >= 0) facts.last_frame = frame;
      facts.last_time = clip.cycle;
    } else {
      std::erase_if(facts.last_windows, [&](const std::string& each) { return !contains(open, each); });
      if (facts.last_frame != frame) facts.last_frame.reset();
      if (facts.last_time != clip.cycle) facts.last_time.reset();
    }
    first = false;
  }
}

// Whether a stretch of what a state plays may hold where that begins.
bool Model::begins_in(const StretchDef& stretch, std::uint16_t state) const {
  const StateDef& def = *defs_[state];
  if (def.pose || def.blend) return true;
  const Course course = states_[state].course;
  if (course == Course::forward) return stretch.timed ? stretch.begin.count <= 0 : stretch.first <= 0;
  const std::vector<const ClipInfo*> clips = clips_of(state);
  return clips.empty() || std::any_of(clips.begin(), clips.end(), [&](const ClipInfo* clip) {
           return !has_frames_of(*clip, stretch) || open_at_begin(*clip, stretch, course);
         });
}

bool Model::open_at_end(const Rule& rule, const StateFacts& facts) {
  if (!rule.def->during.empty()) return contains(facts.last_windows, rule.def->during.text);
  const StretchDef& own = *rule.def->during_stretch;
  if (own.timed && facts.course == Course::backward) return own.begin.count == 0;
  if (own.timed) return facts.last_time && own.end >= *facts.last_time;
  return facts.last_frame && own.first <= *facts.last_frame && *facts.last_frame <= own.last;
}

}  // namespace mobrin::proof
