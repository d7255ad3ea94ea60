#include "can_played.hpp"

#include <algorithm>

namespace mobrin::proof {
namespace {

bool holds_all(const std::vector<Played::Stay>& stretches, Played::Stay of) {
  return std::any_of(stretches.begin(), stretches.end(),
                     [&](const Played::Stay& each) { return each.begin <= of.begin && of.end <= each.end; });
}
bool begin_after(const std::vector<Played::Stay>& stretches, std::int64_t time) {
  return std::all_of(stretches.begin(), stretches.end(), [&](const Played::Stay& each) { return each.begin > time; });
}

}  // namespace

Played::Played(const Model& model, std::uint16_t leaf) : model_(model), leaf_(leaf), def_(*model.definition_of(leaf)) {
  if (!def_.clip.empty() && !def_.pose) clip_ = &model.machine().clips()[model.machine().states()[leaf].clips.front()];
  cycle_ = clip_ != nullptr ? clip_->cycle.count : def_.length.value_or(Ticks()).count;
}

std::vector<Played::Stay> Played::stretches_of(const Rule& rule) const {
  std::vector<Stay> out;
  const auto add = [&](const StretchDef& each) {
    if (each.timed)
      out.push_back({each.begin.count, each.end.count});
    else if (clip_ != nullptr && static_cast<std::size_t>(each.last) + 1 < clip_->borders.size())
      out.push_back({clip_->borders[static_cast<std::size_t>(each.first)].count,
                     clip_->borders[static_cast<std::size_t>(each.last) + 1].count});
  };
  if (rule.def->during_stretch) add(*rule.def->during_stretch);
  if (clip_ != nullptr)
    for (const WindowDef& window : clip_->marks.windows)
      if (window.name.text == rule.def->during.text)
        for (const StretchDef& each : window.stretches) add(each);
  return out;
}

std::vector<std::int64_t> Played::places_of(std::uint16_t cue) const {
  std::vector<std::int64_t> out;
  if (clip_ == nullptr) return out;
  for (const MarkDef& mark : clip_->marks.marks)
    if (mark.cue.text == model_.machine().cues()[cue].name.text && mark.way != MarkWay::backward)
      out.push_back(clip_->begin_of(mark).count);
  return out;
}

bool Played::speaks_of_it(const Rule& rule) const {
  if (rule.def == nullptr || !model_.within(leaf_, rule.owner)) return false;
  for (std::uint16_t up = leaf_;; up = model_.states()[up].parent) {
    if (model_.states()[up].regions.size() > (up == 0 ? 1U : 0U)) return false;
    if (up == rule.owner) return true;
  }
}

Played::Known Played::known_at(Stay at, Ticks by) const {
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
    const std::vector<Stay> stretches = stretches_of(rule);
    if (begin_after(stretches, at.end)) out.waiting[rule.index] = out.open[rule.index] = Truth::no;
    if (holds_all(stretches, at)) out.open[rule.index] = Truth::yes;
  }
  return out;
}

}  // namespace mobrin::proof
