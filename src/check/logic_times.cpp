// What comes too late, or lies in the other direction: what a clip has in store that no run comes to.
#include <algorithm>
#include <charconv>
#include <cmath>

#include "logic_views.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::check {
namespace {

std::string seconds_words(double ticks) {
  const double milliseconds = std::round(1000 * Ticks(static_cast<std::int64_t>(ticks)).to_seconds());
  return detail::number_text(milliseconds / 1000) + " s";
}

// Where on the first pass of a clip that plays forwards something begins; empty where it is told on the way back only.
std::optional<double> begin_of(const ClipInfo& clip, const MarkDef& mark) {
  if (mark.way == MarkWay::backward) return std::nullopt;
  return static_cast<double>(clip.begin_of(mark).count);
}

// `frame 3, `; nothing where it lies at a time.
std::string place_words(const MarkDef& mark) {
  if (mark.at == MarkAt::time || mark.at == MarkAt::times) return {};
  return (mark.at == MarkAt::frame_end ? "end of frame " : "frame ") + std::to_string(mark.frame) + ", ";
}

double passes_of(const ClipInfo& clip) {
  return static_cast<double>(clip.def.play.passes) * static_cast<double>(clip.cycle.count);
}

}  // namespace

std::optional<double> constant_speed(const StateDef& state) {
  const std::string& text = state.speed.text;
  if (text.empty()) return 1.0;
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  return error == std::errc() && end == text.data() + text.size() ? std::optional(value) : std::nullopt;
}

// The rule that leaves a leaf first, whatever the game does.
std::optional<Logic::Leaving> Logic::leaves_by_itself(std::uint16_t leaf) const {
  std::optional<Leaving> out;
  for (std::uint16_t owner = leaf;; owner = info(owner).parent) {
    for (const std::uint32_t rule : rules_of(owner)) {
      const GoDef* go = go_of(rule);
      if (go == nullptr || !go->pulse.empty() || !go->cue.empty() || go->at != GoAt::none || !go->during.empty() ||
          go->during_stretch || (!go->when.empty() && go->when.text != "true"))
        continue;
      const std::uint16_t target = machine_.transitions()[rule].target;
      const bool itself = owner == leaf && target == leaf && go->restart;
      if (leads_by_memory(*go) || (within(leaf, target) && !itself) || info(target).region != info(leaf).region ||
          sealed_between(leaf, owner) || stands_before(rule, leaf))
        continue;
      const double after = go->after ? static_cast<double>(go->after->count) : 0;
      if (!out || after < out->after) out = Leaving{rule, after};
    }
    if (owner == 0) return out;
  }
}

// Whether a leaf's clips are begun somewhere else than at their begin.
bool Logic::begins_within(std::uint16_t leaf) const {
  return std::any_of(begin_later_.begin(), begin_later_.end(), [&](std::uint32_t rule) {
    return leads_by_memory(*go_of(rule)) || within(leaf, machine_.transitions()[rule].target);
  });
}

// What a leaf plays forwards at one speed, clip after clip; empty where that hangs on anything. Where an input chooses
// the clip, its change keeps the relative position, so any place may come at any time.
std::vector<Logic::Played> Logic::played_forwards(const StateView& view) const {
  const StateDef& state = *view.def;
  const auto speed = constant_speed(state);
  if (!speed || *speed <= 0 || state.blend || state.clip_by || state.pose || begins_within(view.index)) return {};
  std::vector<Played> out;
  double from = 0;
  for (const std::uint16_t clip : info(view.index).clips) {
    const bool again = std::any_of(out.begin(), out.end(), [&](const Played& each) { return each.clip == clip; });
    out.push_back({clip, from, *speed, again});
    from += passes_of(machine_.clips()[clip]);
  }
  return out;
}

void Logic::cut_off() {
  std::set<std::pair<std::uint16_t, std::size_t>> told;  // marks of clips that some state comes to
  struct Cut {
    const StateView* view;
    Leaving leaving;
    std::vector<Played> played;
  };
  std::vector<Cut> cuts;
  fades_tell_ = std::any_of(go_.begin(), go_.end(),
                            [](const GoDef* go) { return go != nullptr && go->fade_cues == FadeCues::both; });
  for (const StateView& view : views_) {
    if (view.index == 0 || info(view.index).has_children || !reached_[view.index]) continue;
    const auto leaving = info(view.index).final ? std::nullopt : leaves_by_itself(view.index);
    std::vector<Played> played = played_forwards(view);
    if (leaving && !played.empty()) {
      late_rules(view, *leaving, played);
      cuts.push_back({&view, *leaving, played});
    }
    for (const std::uint16_t clip : info(view.index).clips) {
      const ClipInfo& clip_info = machine_.clips()[clip];
      for (std::size_t m = 0; m < clip_info.marks.marks.size(); ++m) {
        const auto it =
            std::find_if(played.begin(), played.end(), [&](const Played& each) { return each.clip == clip; });
        if (it == played.end() || !leaving || !too_late(*it, clip_info.marks.marks[m], *leaving)) told.emplace(clip, m);
      }
    }
  }
  for (const Cut& cut : cuts) {
    const MarkDef* first = nullptr;
    const Played* where = nullptr;
    std::size_t count = 0;
    bool elsewhere = true;  // all that is cut off here is told somewhere else
    for (const Played& each : cut.played) {
      if (each.again) continue;
      const std::vector<MarkDef>& marks = machine_.clips()[each.clip].marks.marks;
      for (std::size_t m = 0; m < marks.size(); ++m) {
        if (!too_late(each, marks[m], cut.leaving)) continue;
        ++count;
        const bool here_only = told.count({each.clip, m}) == 0;
        if (first == nullptr || (elsewhere && here_only)) first = &marks[m], where = &each;
        elsewhere = elsewhere && !here_only;
      }
    }
    if (first == nullptr) continue;
    const ClipInfo& clip = machine_.clips()[where->clip];
    const GoDef* go = go_of(cut.leaving.rule);
    tell(FindingCode::unreached_cue, machine_.transitions()[cut.leaving.rule].place, go->accept,
         "it leaves \"" + cut.view->path + "\" " + leaving_words(cut.leaving) + ", before \"" + first->cue.text +
             "\" of \"" + clip.def.name.text + "\" is told (" + place_words(*first) +
             seconds_words((where->from + *begin_of(clip, *first)) / where->speed) + ")" +
             (count > 1 ? ", and " + std::to_string(count - 1) + " more" : ""),
         "Let the rule wait (`after:`, `at: end`), or move the cue.", elsewhere, first->cue.text);
  }
}

std::string Logic::leaving_words(const Leaving& leaving) {
  return leaving.after == 0 ? "at once" : "after " + seconds_words(leaving.after);
}

bool Logic::too_late(const Played& played, const MarkDef& mark, const Leaving& leaving) const {
  if (fades_tell_) return false;
  const auto begin = begin_of(machine_.clips()[played.clip], mark);
  return begin && (played.from + *begin) / played.speed > leaving.after + 1;
}

// When the window of a rule opens first; empty where nothing that is played has it.
std::optional<double> Logic::opens(const GoDef& go, const std::vector<Played>& played) const {
  std::optional<double> out;
  for (const Played& each : played) {
    const ClipInfo& clip = machine_.clips()[each.clip];
    const auto look_at = [&](const StretchDef& stretch) {
      const bool within = static_cast<std::size_t>(stretch.first) < clip.borders.size();
      if (!stretch.timed && !within) return;
      const Ticks begin = stretch.timed ? stretch.begin : clip.borders[static_cast<std::size_t>(stretch.first)];
      const double at = (each.from + static_cast<double>(begin.count)) / each.speed;
      out = std::min(out.value_or(at), at);
    };
    if (go.during_stretch) look_at(*go.during_stretch);
    for (const WindowDef& window : clip.marks.windows)
      if (window.name.text == go.during.text)
        for (const StretchDef& stretch : window.stretches) look_at(stretch);
  }
  return out;
}

// Rules of a leaf that wait for more than it comes to. Those that wait for a time are told by proofs, which know more
// of times than this.
void Logic::late_rules(const StateView& view, const Leaving& leaving, const std::vector<Played>& played) {
  const double limit = leaving.after + 1;
  const ClipInfo& last = machine_.clips()[played.back().clip];
  const double speed = played.back().speed, ends = (played.back().from + passes_of(last)) / speed;
  const double round = static_cast<double>(last.cycle.count) / speed;
  for (const std::uint32_t rule : rules_of(view.index)) {
    const GoDef* go = go_of(rule);
    if (go == nullptr || never_[rule] || shadowed_[rule] || rule == leaving.rule) continue;
    std::string waits;
    if (go->at == GoAt::end && !last.def.play.endless() && ends > limit) waits = "what it plays has ended";
    if (go->at == GoAt::loop && played.size() == 1 && round > limit) waits = "its clip comes round";
    if (const auto open = opens(*go, played); open && *open > limit) waits = "its window opens";
    if (waits.empty()) continue;
    never_[rule] = true;
    tell(FindingCode::never_holds, machine_.transitions()[rule].place, go->accept,
         line_words(leaving.rule) + " leaves \"" + view.path + "\" " + leaving_words(leaving) + ", before " + waits,
         "Let that rule wait longer, or remove this one.");
  }
}

// Marks of one direction on clips that only play in the other.
void Logic::one_way_marks() {
  for (std::size_t c = 0; c < machine_.clips().size(); ++c) {
    const ClipInfo& clip = machine_.clips()[c];
    if (clip.def.play.kind == PlayKind::back_and_forth) continue;
    bool played = false, forward = false, backward = false;
    for (const StateView& view : views_) {
      const auto& shown = info(view.index).clips;
      if (std::find(shown.begin(), shown.end(), c) == shown.end() || view.def->pose) continue;
      played = true;
      const auto speed = constant_speed(*view.def);
      const bool open = !speed || view.def->blend.has_value();
      forward = forward || open || *speed > 0;
      backward = backward || open || *speed < 0;
    }
    for (const MarkDef& mark : clip.marks.marks) {
      const bool told = mark.way == MarkWay::both || (mark.way == MarkWay::forward ? forward : backward);
      if (!played || told) continue;
      const std::string way = mark.way == MarkWay::forward ? "forward" : "backward";
      tell(FindingCode::unreached_cue, mark.place, clip.def.accept,
           "\"" + mark.cue.text + "\" is told only where \"" + clip.def.name.text + "\" plays " + way +
               ", and nothing plays it so",
           "Leave `way: " + way + "` out, or let a state play it so (`speed:` " +
               (mark.way == MarkWay::forward ? "above" : "below") + " 0).",
           false, mark.cue.text);
    }
  }
}

}  // namespace mobrin::check
