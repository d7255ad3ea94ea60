// A clip as the reference evaluator sees it: what shows when on one cycle, and a play of it.
#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "mobrin/core/definition.hpp"

namespace mobrin::check {

__extension__ using Big = __int128;  // playheads and timers in 1/65536 ticks

// A frame's showing within one cycle. Without frames the whole clip is one showing of no frame.
struct Showing {
  Big begin, end;  // on the cycle
  int frame = -1;
  bool back = false;  // on the way back
};

struct Film {
  const ClipDef* clip = nullptr;
  const ClipMarksDef* marks = nullptr;
  Big length = 0, cycle = 0;
  int passes = 1;
  std::vector<Showing> showings;
  Big turn = 0;

  // Where on the cycle the clip's own time lies: on the way there, and on the way back.
  [[nodiscard]] std::vector<std::pair<Big, bool>> places_of(Big time) const {
    std::vector<std::pair<Big, bool>> out{{time, false}};
    if (cycle == length) return out;
    const Big again = length + turn - time;
    const bool frames = showings.front().frame >= 0;
    if (frames ? again >= length && again <= cycle : again > length && again < cycle) out.emplace_back(again, true);
    return out;
  }
};

struct Play {
  Film film;
  Big at = 0;
  bool backward = false;
  long speed = 65536;
  int edges = 0;
  [[nodiscard]] bool ended() const { return film.passes > 0 && edges >= film.passes; }
};

// What a state plays; nothing for a pose, nothing, or states inside.
[[nodiscard]] inline std::optional<Film> film_of(const MachineDef& definition, const StateDef& state) {
  Film film;
  static const ClipMarksDef kNoMarks;
  static const ClipDef kLength;
  film.marks = &kNoMarks;
  film.clip = &kLength;
  if (state.pose || !state.states.empty() || !state.regions.empty()) return std::nullopt;
  if (state.length) {
    film.length = film.cycle = Big{state.length->count} << 16;
    film.showings.push_back({0, film.length, -1, false});
    return film;
  }
  if (state.clip.empty()) return std::nullopt;
  for (const ClipDef& clip : definition.clips)
    if (clip.name.text == state.clip.text) film.clip = &clip;
  for (const ClipMarksDef& marks : definition.marks)
    if (marks.clip.text == state.clip.text) film.marks = &marks;
  const ClipDef& clip = *film.clip;
  film.passes = clip.play.passes;
  std::vector<Big> borders{0};
  Big holds = 0, times = 0;
  for (const FrameDef& frame : clip.frames) {
    holds += frame.hold;
    times += frame.time.count;
    const Big ticks = clip.fps.num > 0 ? holds * kTicksPerSecond * clip.fps.den / clip.fps.num : times;
    borders.push_back(ticks << 16);
  }
  const int n = static_cast<int>(clip.frames.size());
  film.length = film.cycle = n > 0 ? borders.back() : Big{clip.length.count} << 16;
  for (int i = 0; i < n; ++i)
    film.showings.push_back({borders[static_cast<std::size_t>(i)], borders[static_cast<std::size_t>(i) + 1], i, false});
  if (n == 0) film.showings.push_back({0, film.length, -1, false});
  if (clip.play.kind != PlayKind::back_and_forth) return film;
  if (n == 0) {
    film.turn = film.length;
    film.cycle = 2 * film.length;
    film.showings.push_back({film.length, film.cycle, -1, true});
  } else if (n > 2) {
    film.turn = borders[static_cast<std::size_t>(n) - 1];
    for (int i = n - 2; i >= 1; --i) {
      const Big lasts = borders[static_cast<std::size_t>(i) + 1] - borders[static_cast<std::size_t>(i)];
      film.showings.push_back({film.cycle, film.cycle + lasts, i, true});
      film.cycle += lasts;
    }
  }
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
[[nodiscard]] inline bool covers(const MarkDef& mark, int frame) {
  return mark.frame <= frame && frame <= mark.last_frame;
}
[[nodiscard]] inline bool goes(const MarkDef& mark, bool down) {
  return mark.way == MarkWay::both || (mark.way == MarkWay::backward) == down;
}

}  // namespace mobrin::check
