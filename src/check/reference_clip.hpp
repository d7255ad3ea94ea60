// A clip as the reference evaluator sees it: what shows when on one cycle, and a play of it.
#pragma once

#include <optional>
#include <set>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::check {

using Big = detail::Wide;  // playheads and timers in 1/65536 ticks

// One pass of one clip: a clip is one, a sequence several.
struct Pass {
  const ClipDef* clip = nullptr;
  const ClipMarksDef* marks = nullptr;
  Big begin = 0;              // on the cycle
  Big length = 0, cycle = 0;  // of the clip
  Big turn = 0;
  bool frames = false;

  // Where on the cycle the clip's own time lies in this pass: on the way there, and on the way back.
  [[nodiscard]] std::vector<std::pair<Big, bool>> places_of(Big time) const {
    if (time > length) return {};
    std::vector<std::pair<Big, bool>> out{{begin + time, false}};
    if (cycle == length) return out;
    const Big again = length + turn - time;
    if (frames ? again >= length && again <= cycle : again > length && again < cycle)
      out.emplace_back(begin + again, true);
    return out;
  }
};

// A frame's showing within one cycle. Without frames the whole clip is one showing of no frame, and one back.
struct Showing {
  Big begin, end;  // on the cycle
  int frame = -1;
  bool back = false;  // on the way back
  std::size_t pass = 0;
};

struct Film {
  std::vector<Pass> passes_of_clips;
  Big cycle = 0;
  int passes = 1;
  std::vector<Showing> showings;
};

struct Play {
  Film film;
  Big at = 0;
  bool backward = false;
  long speed = 65536;
  int edges = 0;
  [[nodiscard]] bool ended() const { return film.passes > 0 && edges >= film.passes; }
  [[nodiscard]] const Pass& pass_of(const Showing& showing) const { return film.passes_of_clips[showing.pass]; }
};

inline void add_pass(Film& film, const ClipDef& clip, const ClipMarksDef& marks) {
  Pass pass{&clip, &marks};
  pass.begin = film.cycle;
  std::vector<Big> borders{0};
  Big holds = 0, times = 0;
  for (const FrameDef& frame : clip.frames) {
    holds += frame.hold;
    times += frame.time.count;
    const Big ticks = clip.fps.num > 0 ? holds * kTicksPerSecond * clip.fps.den / clip.fps.num : times;
    borders.push_back(ticks << 16);
  }
  const int n = static_cast<int>(clip.frames.size());
  pass.frames = n > 0;
  pass.length = pass.cycle = n > 0 ? borders.back() : Big{clip.length.count} << 16;
  const std::size_t number = film.passes_of_clips.size();
  const auto show = [&](Big begin, Big end, int frame, bool back) {
    film.showings.push_back({film.cycle + begin, film.cycle + end, frame, back, number});
  };
  for (int i = 0; i < n; ++i)
    show(borders[static_cast<std::size_t>(i)], borders[static_cast<std::size_t>(i) + 1], i, false);
  if (n == 0) show(0, pass.length, -1, false);
  if (clip.play.kind == PlayKind::back_and_forth && n == 0) {
    pass.turn = pass.length;
    pass.cycle = 2 * pass.length;
    show(pass.length, pass.cycle, -1, true);
  } else if (clip.play.kind == PlayKind::back_and_forth && n > 2) {
    pass.turn = borders[static_cast<std::size_t>(n) - 1];
    for (int i = n - 2; i >= 1; --i) {
      const Big lasts = borders[static_cast<std::size_t>(i) + 1] - borders[static_cast<std::size_t>(i)];
      show(pass.cycle, pass.cycle + lasts, i, true);
      pass.cycle += lasts;
    }
  }
  film.cycle += pass.cycle;
  film.passes_of_clips.push_back(pass);
}

// What a state plays; nothing for a pose, nothing, or states inside. `choice` names the clip chosen by an input.
[[nodiscard]] inline std::optional<Film> film_of(const MachineDef& definition, const StateDef& state,
                                                 const std::string& choice) {
  Film film;
  static const ClipMarksDef kNoMarks;
  static const ClipDef kLength;
  if (state.pose || !state.states.empty() || !state.regions.empty()) return std::nullopt;
  if (state.length) {
    film.cycle = Big{state.length->count} << 16;
    film.passes_of_clips.push_back({&kLength, &kNoMarks, 0, film.cycle, film.cycle, 0, false});
    film.showings.push_back({0, film.cycle, -1, false, 0});
    return film;
  }
  const auto add = [&](const std::string& name, bool in_turn) {
    const ClipMarksDef* marks = &kNoMarks;
    for (const ClipMarksDef& each : definition.marks)
      if (each.clip.text == name) marks = &each;
    for (const ClipDef& clip : definition.clips) {
      if (clip.name.text != name) continue;
      film.passes = in_turn ? 1 : clip.play.passes;
      for (int pass = 0; pass < (in_turn ? clip.play.passes : 1); ++pass) add_pass(film, clip, *marks);
    }
  };
  for (const Text& clip : state.sequence) add(clip.text, true);
  if (state.clip_by)
    for (const auto& [name, clip] : state.clip_by->clips)
      if (name.text == choice) add(clip.text, false);
  if (state.blend)
    for (std::size_t i = 0; i < state.blend->points.size(); ++i)
      if (std::to_string(i) == choice) add(state.blend->points[i].clip.text, false);
  if (!state.clip.empty()) add(state.clip.text, false);
  if (film.showings.empty()) return std::nullopt;
  return film;
}

// At a border, forwards the later showing, backwards the earlier.
[[nodiscard]] inline const Showing& showing_of(const Play& play) {
  const Showing* found = &play.film.showings.front();
  for (const Showing& each : play.film.showings) {
    if (play.backward ? each.begin < play.at : each.begin <= play.at) found = &each;
  }
  return *found;
}
[[nodiscard]] inline int frame_of(const Play& play) { return showing_of(play).frame; }
[[nodiscard]] inline const std::string& clip_of(const Play& play) {
  return play.pass_of(showing_of(play)).clip->name.text;
}
// What is seen just after a place of the cycle, or just before it.
struct Seen {
  const Showing* showing = nullptr;
  Big at = 0;
  bool after = true;
};
// At a place of the cycle; the cycle comes round at its edges.
[[nodiscard]] inline Seen seen_at(const Film& film, Big at, bool after) {
  if (at == (after ? film.cycle : Big{0})) at = after ? Big{0} : film.cycle;
  for (const Showing& each : film.showings)
    if (after ? each.begin <= at && at < each.end : each.begin < at && at <= each.end) return {&each, at, after};
  return {nullptr, at, after};
}
[[nodiscard]] inline Seen seen_of(const Play& play) {
  return {&showing_of(play), play.at, play.backward ? play.at == 0 : play.at != play.film.cycle};
}
// Whether a span of a clip covers what is seen; nothing is covered where nothing is shown.
[[nodiscard]] inline bool covers(const ClipDef* clip, const MarkDef& mark, const Film& film, const Seen& seen) {
  if (seen.showing == nullptr || !is_span(mark.at)) return false;
  const Pass& pass = film.passes_of_clips[seen.showing->pass];
  if (pass.clip != clip) return false;
  if (mark.at == MarkAt::frames) return mark.frame <= seen.showing->frame && seen.showing->frame <= mark.last_frame;
  const Big way = seen.at - pass.begin, begin = Big{mark.time.count} << 16, end = Big{mark.until.count} << 16;
  const Big time = seen.showing->back ? pass.length + pass.turn - way : way;
  return seen.after != seen.showing->back ? begin <= time && time < end : begin < time && time <= end;
}
// Where a play comes to a frame or a time first in its direction. REQUIRES: it does.
[[nodiscard]] inline Big first_place(const StartDef& start, const Play& play) {
  std::set<Big> all;
  if (start.kind == StartKind::time)
    for (const auto& [place, back] : play.film.passes_of_clips.front().places_of(Big{start.time.count} << 16))
      all.insert(place);
  else
    for (const Showing& each : play.film.showings)
      if (each.frame == start.frame) all.insert(play.backward ? each.end : each.begin);
  return play.backward ? *all.rbegin() : *all.begin();
}
[[nodiscard]] inline bool goes(const MarkDef& mark, bool down) {
  return mark.way == MarkWay::both || (mark.way == MarkWay::backward) == down;
}

}  // namespace mobrin::check
