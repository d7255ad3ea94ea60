// The places on each play's cycle where something lies.
#include <algorithm>
#include <map>

#include "compile/compile.hpp"
#include "compile/make_timeline.hpp"
#include "mobrin/core/wide.hpp"

namespace mobrin::detail {
namespace {

// What lies at one place, before it is put in order.
struct TellingAt {
  std::vector<Firing> forward_ends, forward_rest, backward_ends, backward_rest;
  bool always = false, window = false;
};

class StopMaker {
 public:
  StopMaker(const ClipData& clip, MachineData& data) : clip_(clip), data_(data) {
    places_[0].always = true;
    places_[clip.cycle].always = true;
    // Where two passes meet, what lies on the one left comes before what lies on the one entered.
    for (const CyclePart& part : clip.parts) add_marks(part, false);
    for (auto part = clip.parts.rbegin(); part != clip.parts.rend(); ++part) add_marks(*part, true);
  }

  // Places where a window opens or closes; nothing is told there, but transitions are looked at.
  void add_window(std::span<const Stretch> stretches) {
    for (const Stretch& stretch : stretches) {
      if (stretch.timed) {
        for (const CyclePart& part : clip_.parts) {
          if (stretch.clip != kNoIndex && part.clip != stretch.clip) continue;
          const ClipData& own = part.clip == kNoIndex ? clip_ : data_.clips[part.clip];
          for (const std::int64_t time : {stretch.begin, stretch.end}) {
            if (time > own.length) continue;  // it may be meant for a longer one
            add_edge(part.begin + time);
            if (const std::int64_t again = mirrored_time(own, time); again >= 0) add_edge(part.begin + again);
          }
        }
        continue;
      }
      for (std::size_t s = 1; s < clip_.segments.size(); ++s)
        if (open_at(clip_.segments[s], stretch) != open_at(clip_.segments[s - 1], stretch))
          add_edge(clip_.segments[s].begin);
    }
  }

  // Cues of another clip of the same blend, which runs in phase: each at its share of the cycle, rounded up.
  void add_others(const PlayedClip& other, std::uint8_t point) {
    const ClipData& of = data_.clips[other.clip];
    for (std::uint32_t i = other.stops.begin; i < other.stops.begin + other.stops.count; ++i) {
      const Stop stop = data_.stops[i];
      TellingAt& place = places_[static_cast<std::int64_t>((Wide{stop.at} * clip_.cycle + of.cycle - 1) / of.cycle)];
      const auto add = [&](Range<Firing> firings, std::vector<Firing>& to) {
        for (std::uint32_t f = firings.begin; f < firings.begin + firings.count; ++f) {
          Firing firing = data_.firings[f];
          if (firing.kind != FiringKind::cue || firing.point != kOwnPoint) continue;
          firing.point = point;
          to.push_back(firing);
        }
      };
      add(stop.forward, place.forward_rest);
      add(stop.backward, place.backward_rest);
    }
  }

  Range<Stop> finish() {
    Range<Stop> range{static_cast<std::uint32_t>(data_.stops.size()), 0};
    for (const auto& [at, place] : places_) {
      Stop stop;
      stop.at = at;
      stop.always = place.always;
      stop.window = place.window;
      stop.forward = append(place.forward_ends, place.forward_rest);
      stop.backward = append(place.backward_ends, place.backward_rest);
      data_.stops.push_back(stop);
      ++range.count;
    }
    return range;
  }

 private:
  void add_edge(std::int64_t at) {
    TellingAt& place = places_[at];
    place.always = place.window = true;
  }
  void add_marks(const CyclePart& part, bool backward) {
    for (std::size_t i = 0; i < clip_.marks.size(); ++i) {
      const MarkData& mark = clip_.marks[i];
      const auto index = static_cast<std::uint16_t>(i);
      if (mark.clip != part.clip) continue;
      if (mark.at == MarkAt::time) {
        add_time(index, part, mark.time, false, backward);
        if (const std::int64_t again = mirrored_time(data_.clips[part.clip], mark.time); again >= 0)
          add_time(index, part, again, true, backward);
        continue;
      }
      const std::size_t count = data_.clips[part.clip].segments.size();
      for (std::size_t s = part.segment; s < part.segment + count; ++s) {
        if (is_span(mark.at))
          add_span_edges(index, s, backward);
        else if (clip_.segments[s].frame == mark.first)
          add_frame(index, s, backward);
      }
    }
  }

  // Whether a mark fires when its place is passed in the cycle's direction `backward`, on the way back or not.
  static bool fires(const MarkData& mark, bool backward, bool mirrored) {
    if (mark.way == MarkWay::both) return true;
    return (mark.way == MarkWay::backward) == (backward != mirrored);
  }

  void add_time(std::uint16_t index, const CyclePart& part, std::int64_t at, bool mirrored, bool backward) {
    if (!fires(clip_.marks[index], backward, mirrored)) return;
    const ClipData& own = data_.clips[part.clip];
    const std::int32_t frame = own.segments[segment_at(own, at << kSubBits, backward)].frame;
    TellingAt& place = places_[part.begin + at];
    (backward ? place.backward_rest : place.forward_rest).push_back({index, FiringKind::cue, frame});
  }
  void add_frame(std::uint16_t index, std::size_t segment, bool backward) {
    const MarkData& mark = clip_.marks[index];
    if (!fires(mark, backward, clip_.segments[segment].mirrored)) return;
    const bool at_end = mark.at == MarkAt::frame_end, there = at_end == backward;
    if (there ? continues(clip_, segment) : segment + 1 < clip_.segments.size() && continues(clip_, segment + 1))
      return;  // not where the frame begins or ends
    TellingAt& place = places_[there ? clip_.segments[segment].begin : segment_end(clip_, clip_.segments[segment])];
    const Firing firing{index, FiringKind::cue, mark.first};
    if (backward)
      (at_end ? place.backward_ends : place.backward_rest).push_back(firing);
    else
      (at_end ? place.forward_ends : place.forward_rest).push_back(firing);
  }
  // A span begins where what is shown comes into its frames or times and ends where it goes out of them, also where the
  // cycle comes round.
  void add_span_edges(std::uint16_t index, std::size_t segment, bool backward) {
    const MarkData& mark = clip_.marks[index];
    const std::size_t count = clip_.segments.size();
    if (!covers(mark, clip_.segments[segment])) return;
    const std::int32_t frame = clip_.segments[segment].frame;
    const Firing begin{index, FiringKind::span_begin, frame}, end{index, FiringKind::span_end, frame};
    if (!covers(mark, clip_.segments[(segment + count - 1) % count])) {
      TellingAt& place = places_[clip_.segments[segment].begin];
      if (backward)
        place.backward_ends.push_back(end);
      else
        place.forward_rest.push_back(begin);
    }
    if (!covers(mark, clip_.segments[(segment + 1) % count])) {
      TellingAt& place = places_[segment_end(clip_, clip_.segments[segment])];
      if (backward)
        place.backward_rest.push_back(begin);
      else
        place.forward_ends.push_back(end);
    }
  }

  Range<Firing> append(const std::vector<Firing>& ends, const std::vector<Firing>& rest) {
    const Range<Firing> range{static_cast<std::uint32_t>(data_.firings.size()),
                              static_cast<std::uint32_t>(ends.size() + rest.size())};
    data_.firings.insert(data_.firings.end(), ends.begin(), ends.end());
    data_.firings.insert(data_.firings.end(), rest.begin(), rest.end());
    return range;
  }

  const ClipData& clip_;
  MachineData& data_;
  std::map<std::int64_t, TellingAt> places_;
};

}  // namespace

void compile_stops(MachineData& m) {
  // The windows that matter to a play are those its state's and the states' around it transitions name.
  std::vector<std::vector<std::uint16_t>> durings(m.states.size());
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    if (s > 0) durings[s] = durings[m.states[s].parent];
    for (const TransitionData& go : MachineData::view(m.transitions, m.states[s].go))
      if (go.during != kNoIndex) durings[s].push_back(go.during);
  }
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const PlayData& play = m.states[s].play;
    if (!play.moves()) continue;
    const auto played = std::span(m.played).subspan(play.clips.begin, play.clips.count);
    const bool others = play.blend != kNoIndex && m.blends[play.blend].cues_above <= 1;
    if (others)
      for (PlayedClip& each : played) each.stops = StopMaker(m.clips[each.clip], m).finish();
    std::vector<PlayedClip> alone(played.begin(), played.end());
    for (PlayedClip& each : played) {
      const ClipData& clip = m.clips[each.clip];
      StopMaker stops(clip, m);
      for (std::size_t k = 0; others && k < alone.size(); ++k) {
        const auto same = [&](const PlayedClip& p) { return p.clip == alone[k].clip; };
        if (!same(each) &&
            std::find_if(alone.begin(), alone.end(), same) == alone.begin() + static_cast<std::ptrdiff_t>(k))
          stops.add_others(alone[k], static_cast<std::uint8_t>(k));
      }
      for (const std::uint16_t during : durings[s]) {
        if (m.durings[during].window == kNoIndex) stops.add_window(std::span(&m.durings[during].stretch, 1));
        for (const ClipWindow& window : clip.windows)
          if (window.name == m.durings[during].window) stops.add_window(window.stretches);
      }
      each.stops = stops.finish();
      const Stop &first = m.stops[each.stops.begin], &last = m.stops[each.stops.begin + each.stops.count - 1];
      each.edges_stir = clip.passes > 0 || m.state_infos[s].uses_loops || !durings[s].empty();
      each.forward_round = !each.edges_stir && first.forward.count + last.forward.count == 0;
      each.backward_round = !each.edges_stir && first.backward.count + last.backward.count == 0;
    }
  }
}

}  // namespace mobrin::detail
