// What the reference evaluator plays: the places of a play, what is told on passing them, speeds.
#pragma once

#include "reference_state.hpp"

namespace mobrin::check {

class ReferencePlays : protected ReferenceState {
 protected:
  using ReferenceState::ReferenceState;

  // --- plays ------------------------------------------------------------------------------------------------------
  [[nodiscard]] Big effective(const Play& play) const {
    if (rate_ == 65536) return play.speed;
    const Big product = Big{play.speed} * rate_;
    Big down = product / 65536;
    if (product % 65536 < 0) --down;
    const Big rest = product - down * 65536;
    if (rest * 2 > 65536 || (rest * 2 == 65536 && down % 2 != 0)) ++down;
    return down;
  }
  // Every place of the cycle where something may lie for this play.
  std::set<Big> places(const Node& leaf, const Play& play) {
    std::set<Big> out{0, play.film.cycle};
    for (const MarkDef& mark : play.film.marks->marks) {
      if (mark.at == MarkAt::time) {
        for (const auto& [place, back] : play.film.places_of(Big{mark.time.count} << 16))
          if (goes(mark, play.backward != back)) out.insert(place);
        continue;
      }
      for (const Showing& each : play.film.showings) {
        // A frame's begin and end as playing reaches them; of a span only where play comes into or out of its frames.
        const Big begin = play.backward ? each.end : each.begin, end = play.backward ? each.begin : each.end;
        const bool way = goes(mark, play.backward != each.back);
        if (mark.at == MarkAt::frame_begin && mark.frame == each.frame && way) out.insert(begin);
        if (mark.at == MarkAt::frame_end && mark.frame == each.frame && way) out.insert(end);
        if (mark.at != MarkAt::frames || !covers(mark, each.frame)) continue;
        for (const Showing& other : play.film.showings) {
          if (covers(mark, other.frame)) continue;
          if (other.end == each.begin) out.insert(each.begin);
          if (other.begin == each.end) out.insert(each.end);
        }
      }
    }
    for (const Node* node = &leaf; node != nullptr; node = node->parent) {
      if (node->def == nullptr) continue;
      for (const GoDef& go : node->def->go) {
        for (const StretchDef& stretch : stretches_of(go, play)) {
          if (stretch.timed) {
            for (const Ticks time : {stretch.begin, stretch.end})
              for (const auto& [place, back] : play.film.places_of(Big{time.count} << 16)) out.insert(place);
          }
          const auto open = [&](const Showing& each) {
            return each.frame >= stretch.first && each.frame <= stretch.last;
          };
          for (const Showing& each : play.film.showings)
            for (const Showing& other : play.film.showings)
              if (!stretch.timed && open(each) != open(other) && other.begin == each.end) out.insert(other.begin);
        }
      }
    }
    return out;
  }
  static std::vector<StretchDef> stretches_of(const GoDef& go, const Play& play) {
    if (go.during_frames) return {*go.during_frames};
    for (const WindowDef& window : play.film.marks->windows)
      if (!go.during.empty() && window.name.text == go.during.text) return window.stretches;
    return {};
  }

  // Tells what lies where the playhead stands, on passing it. `ends`: the play ends here, so its last frame stays.
  void pass(const Play& play, bool ends) {
    const std::string& clip = play.film.clip->name.text;
    const auto& marks = play.film.marks->marks;
    const auto& showings = play.film.showings;
    // What stops and what starts being shown in playing direction; at an edge only one of them is on this side.
    const Showing* over = nullptr;
    const Showing* now_shown = nullptr;
    for (const Showing& each : showings) {
      if ((play.backward ? each.begin : each.end) == play.at && each.begin != each.end) over = &each;
      if ((play.backward ? each.end : each.begin) == play.at && each.begin != each.end) now_shown = &each;
    }
    const bool leading_edge = play.at == (play.backward ? 0 : play.film.cycle);
    const bool trailing_edge = play.at == (play.backward ? play.film.cycle : Big{0});
    const Showing* const first = play.backward ? &showings.back() : &showings.front();
    const Showing* const last = play.backward ? &showings.front() : &showings.back();
    const int next_frame = now_shown != nullptr ? now_shown->frame : leading_edge ? first->frame : -1;
    const int last_frame = over != nullptr ? over->frame : trailing_edge ? last->frame : -1;
    for (const MarkDef& mark : marks) {
      if (over == nullptr || trailing_edge) break;
      if (mark.at == MarkAt::frame_end && mark.frame == over->frame && goes(mark, play.backward != over->back))
        tell_cue(mark.cue.text, clip, over->frame, "none");
      if (mark.at == MarkAt::frames && covers(mark, over->frame) && !covers(mark, next_frame) && !ends)
        tell_cue(mark.cue.text, clip, over->frame, "end");
    }
    for (const MarkDef& mark : marks) {
      if (mark.at == MarkAt::frame_begin && now_shown != nullptr && !leading_edge && mark.frame == now_shown->frame &&
          goes(mark, play.backward != now_shown->back))
        tell_cue(mark.cue.text, clip, now_shown->frame, "none");
      if (mark.at == MarkAt::frames && now_shown != nullptr && !leading_edge && covers(mark, now_shown->frame) &&
          !covers(mark, last_frame))
        tell_cue(mark.cue.text, clip, now_shown->frame, "begin");
      if (mark.at == MarkAt::time)
        for (const auto& [place, back] : play.film.places_of(Big{mark.time.count} << 16))
          if (place == play.at && goes(mark, play.backward != back))
            tell_cue(mark.cue.text, clip, frame_of(play), "none");
    }
  }
  void diff_spans(const Play& play, int from, int to) {
    if (from == to) return;
    for (const char* edge : {"end", "begin"})
      for (const MarkDef& mark : play.film.marks->marks) {
        if (mark.at != MarkAt::frames) continue;
        const bool ends = covers(mark, from) && !covers(mark, to), begins = covers(mark, to) && !covers(mark, from);
        if (*edge == 'e' ? ends : begins)
          tell_cue(mark.cue.text, play.film.clip->name.text, *edge == 'e' ? from : to, edge);
      }
  }
  // A playhead on the edge it runs toward has reached it.
  static void reached(Play& play) {
    if (play.speed == 0 || play.ended() || play.at != (play.backward ? 0 : play.film.cycle)) return;
    if (play.film.passes == 1)
      ++play.edges;
    else
      play.at = play.backward ? play.film.cycle : Big{0};
  }
  [[nodiscard]] long speed_of(const Node& leaf) {
    if (leaf.def->speed.empty()) return 65536;
    const double speed = compute_at(leaf, leaf.def->speed.text);
    return std::isnan(speed) ? 0 : static_cast<long>(std::nearbyint(std::clamp(speed, -64.0, 64.0) * 65536));
  }
  void retake_speeds() {
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if (found == plays_.end()) continue;
      Play& play = found->second;
      const long speed = speed_of(*leaf);
      if (speed == play.speed) continue;
      play.speed = speed;
      if (speed == 0) continue;
      const int shown = frame_of(play);
      if (play.backward != (speed < 0)) {
        if (play.ended()) play.edges = 0;
        play.backward = speed < 0;
      }
      const bool was = play.ended();
      reached(play);
      if (play.ended() && !was) ended_for_[leaf] = 0;
      diff_spans(play, shown, frame_of(play));
    }
  }
};

}  // namespace mobrin::check
