#include "can_played.hpp"

#include <algorithm>

#include "model_parts.hpp"

namespace mobrin::proof {
namespace {

bool holds_all(const std::vector<Stretch>& stretches, Stretch of) {
  return std::any_of(stretches.begin(), stretches.end(),
                     [&](const Stretch& each) { return each.begin <= of.begin && of.end <= each.end; });
}
bool begin_after(const std::vector<Stretch>& stretches, std::int64_t time) {
  return std::all_of(stretches.begin(), stretches.end(), [&](const Stretch& each) { return each.begin > time; });
}

}  // namespace

Played::Played(const Model& model, std::uint16_t leaf, const std::vector<Span>& held, Course course)
    : model_(model), leaf_(leaf), course_(course) {
  cycle_ = model.definition_of(leaf)->length.value_or(Ticks()).count;
  std::vector<const ClipInfo*> clips = model.clips_of(leaf);
  if (const ClipInfo* alone = model.blended_clip(leaf, held)) clips = {alone};
  if (const std::uint16_t input = model.states()[leaf].chosen_by; input != kNoIndex && !clips.empty()) {
    if (!held[input].point()) return;
    clips = {clips[static_cast<std::size_t>(held[input].low)]};
  }
  if (course == Course::backward) std::reverse(clips.begin(), clips.end());
  for (const ClipInfo* const clip : clips) {
    parts_.push_back({clip, cycle_});
    cycle_ += (clips.size() > 1 ? whole_play(*clip) : clip->cycle).count;
  }
}

std::vector<Stretch> Played::stretches_of(const Rule& rule) const {
  std::vector<Stretch> out;
  const auto add = [&](const StretchDef& each, const Part& part) {
    const bool back = course_ == Course::backward;
    Stretch open{each.begin.count, each.end.count};
    if (part.clip != nullptr) {
      if (!has_frames_of(*part.clip, each)) return;
      open = open_at(*part.clip, each, course_);
    } else if (back) {
      open = {cycle_ - each.end.count, cycle_ - each.begin.count};
    }
    const std::int64_t edge = back ? 1 : 0;
    out.push_back({part.begin + open.begin + edge, part.begin + open.end - edge});
  };
  // Of several in turn a rule says no frames, nor times.
  if (rule.def->during_stretch) add(*rule.def->during_stretch, parts_.empty() ? Part{nullptr, 0} : parts_.front());
  for (const Part& part : parts_)
    for (const WindowDef& window : part.clip->marks.windows)
      if (window.name.text == rule.def->during.text)
        for (const StretchDef& each : window.stretches) add(each, part);
  return out;
}

std::vector<std::int64_t> Played::places_of(std::uint16_t cue) const {
  std::vector<std::int64_t> out;
  for (const Part& part : parts_)
    for (const MarkDef& mark : part.clip->marks.marks)
      if (mark.cue.text == model_.machine().cues()[cue].name.text && tells(mark, course_))
        out.push_back(part.begin + told_at(*part.clip, mark, course_).begin);
  return out;
}

bool Played::speaks_of_it(const Rule& rule) const {
  if (rule.def == nullptr || !model_.within(leaf_, rule.owner)) return false;
  for (std::uint16_t up = leaf_;; up = model_.states()[up].parent) {
    if (model_.states()[up].regions.size() > (up == 0 ? 1U : 0U)) return false;
    if (up == rule.owner) return true;
  }
}

Played::Known Played::known_at(Stretch at, Ticks by) const {
  Known out;
  out.waiting.assign(model_.rules().size(), Truth::maybe);
  for (const Rule& rule : model_.rules()) {
    const bool over = rule.event == Event::end || rule.event == Event::loop;
    const bool late = rule.event == Event::after && rule.owner == leaf_ && *rule.def->after > by;
    if (speaks_of_it(rule) && (over || late)) out.waiting[rule.index] = Truth::no;
  }
  out.open = out.waiting;
  for (const Rule& rule : model_.rules()) {
    if (!rule.in_a_window() || !speaks_of_it(rule) || out.waiting[rule.index] == Truth::no) continue;
    const std::vector<Stretch> stretches = stretches_of(rule);
    if (begin_after(stretches, at.end)) out.waiting[rule.index] = out.open[rule.index] = Truth::no;
    if (holds_all(stretches, at)) out.open[rule.index] = Truth::yes;
  }
  return out;
}

}  // namespace mobrin::proof
