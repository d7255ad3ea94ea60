// Random machines whose rules, speeds and actions are written with everything the expression language has, over inputs
// and variables of all kinds; with frames of their own times, poses, and rules that ask for what plays inside.
#pragma once

#include <algorithm>
#include <initializer_list>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "random_machine.hpp"

namespace mobrin::test {

class WiderMachine {
 public:
  explicit WiderMachine(RandomMachine& random) : random_(random) {}

  // With the inputs of RandomMachine and its variable `w`; `k` is whole, `o` true or false. Some states have a variable
  // of their own.
  MachineDef make() {
    MachineDef def = random_.pick(3) == 0 ? random_.make_with_regions() : random_.make();
    def.root.vars.push_back({Text("k"), std::int32_t{1}});
    def.root.vars.push_back({Text("o"), true});
    collect(def.root, "");
    for (ClipDef& clip : def.clips)
      for (ClipMarksDef& marks : def.marks)
        if (marks.clip.text == clip.name.text) change(clip, marks);
    widen(def.root, {{"w"}, {"k"}, {"o"}});
    return def;
  }

  struct Variables {
    std::vector<std::string> numbers, wholes, truths;
  };
  std::string number(const Variables& there, int depth) {
    const auto some = [&] { return number(there, depth - 1); };
    switch (depth <= 0 ? pick(3) : pick(12)) {
      case 0:
        return "v";
      case 1:
        return one_of(there.numbers);
      case 2:
        return in_order({std::to_string(pick(5)), either(".5", ".25")});
      case 3:
        return in_order({"(", some(), " / ", some(), ")"});
      case 4:
        return in_order({"-(", some(), " / 3)"});
      case 5:
        return in_order({"abs(", some(), ")"});
      case 6:
        return whole(there, depth - 1);
      default:
        return computed(there, depth, some);
    }
  }
  std::string whole(const Variables& there, int depth) {
    const auto some = [&] { return whole(there, depth - 1); };
    switch (depth <= 0 ? pick(3) : pick(9)) {
      case 0:
        return "n";
      case 1:
        return one_of(there.wholes);
      case 2:
        return std::to_string(pick(4));
      case 3:
        return in_order({"sign(", number(there, depth - 1), ")"});
      default:
        return computed(there, depth, some);
    }
  }
  std::string truth(const Variables& there, int depth) {
    const auto some = [&] { return in_order({"(", truth(there, depth - 1), ")"}); };
    const char* const signs[] = {" < ", " <= ", " > ", " >= ", " == ", " != "};
    const std::string sign = signs[pick(6)];
    switch (depth <= 0 ? pick(7) : pick(13)) {
      case 0:
        return "b";
      case 1:
        return one_of(there.truths);
      case 2:
        return in_order({"h", either(" == ", " != "), std::string(1, "xyz"[pick(3)])});
      case 3:
        return in_order({"n", sign, std::to_string(pick(5) - 2)});
      case 4:
        return in_order({"v", sign, std::to_string(pick(5) - 2), either(".5", "")});
      case 5:
        return in_order({one_of(there.wholes), sign, std::to_string(pick(4))});
      case 6:
        return in_order({"in(", one_of(states_), ")"});
      case 7:
        return in_order({"not ", some()});
      case 8:
        return in_order({some(), " and ", some()});
      case 9:
        return in_order({some(), " or ", some()});
      case 10:
        return in_order({some(), either(" == ", " != "), some()});
      case 11:
        return in_order({whole(there, depth - 1), sign, whole(there, depth - 1)});
      default:
        return in_order({number(there, depth - 1), sign, number(there, depth - 1)});
    }
  }

 private:
  int pick(int below) { return random_.pick(below); }
  std::string either(const char* one, const char* other) { return pick(2) == 0 ? one : other; }
  // What stands between braces is made from left to right by every compiler, so that all make the same machine.
  static std::string in_order(std::initializer_list<std::string> parts) {
    std::string out;
    for (const std::string& part : parts) out += part;
    return out;
  }
  // Of numbers, whole if they are.
  template <class Some>
  std::string computed(const Variables& there, int depth, const Some& some) {
    switch (pick(5)) {
      case 0:
        return in_order({"(", some(), either(" + ", " - "), some(), ")"});
      case 1:
        return in_order({"(", some(), " * ", some(), ")"});
      case 2:
        return in_order({either("min(", "max("), some(), ", ", some(), ")"});
      case 3:
        return in_order({"clamp(", some(), ", ", some(), ", ", some(), ")"});
      default:
        return in_order({"select(", truth(there, depth - 1), ", ", some(), ", ", some(), ")"});
    }
  }
  const std::string& one_of(const std::vector<std::string>& names) {
    return names[static_cast<std::size_t>(pick(static_cast<int>(names.size())))];
  }

  void collect(const std::vector<StateDef>& states, const std::string& in) {
    for (const StateDef& state : states) {
      states_.push_back(in + state.name.text);
      collect(state, states_.back() + "/");
    }
  }
  void collect(const StateDef& state, const std::string& in) {
    collect(state.states, in);
    for (const RegionDef& region : state.regions) collect(region.states, in + region.name.text + "/");
  }

  ActionDef assignment(const Variables& there) {
    switch (pick(3)) {
      case 0:
        return ActionDef(in_order({one_of(there.numbers), " = ", number(there, 2)}));
      case 1:
        return ActionDef(in_order({one_of(there.wholes), " = ", whole(there, 2)}));
      default:
        return ActionDef(in_order({one_of(there.truths), " = ", truth(there, 2)}));
    }
  }
  // Cues by time also at borders of frames, at the clip's end, or anywhere.
  void change_times(const ClipDef& clip, ClipMarksDef& marks) {
    std::vector<Ticks> borders;
    std::int64_t holds = 0, times = 0;
    for (const FrameDef& frame : clip.frames) {
      holds += frame.hold, times += frame.time.count;
      borders.emplace_back(clip.fps.num == 0 ? times : holds * kTicksPerSecond * clip.fps.den / clip.fps.num);
    }
    if (borders.empty()) borders.push_back(clip.length);
    for (MarkDef& mark : marks.marks) {
      if (mark.at != MarkAt::time) continue;
      if (pick(3) == 0) mark.time = borders[static_cast<std::size_t>(pick(static_cast<int>(borders.size())))];
      if (pick(3) == 0) mark.time = Ticks(pick(static_cast<int>(borders.back().count)));
      if (pick(3) == 0 && mark.time < borders.back()) make_span(mark, borders);
    }
  }
  // From a cue's time on, to a border or anywhere behind.
  void make_span(MarkDef& mark, const std::vector<Ticks>& borders) {
    mark.at = MarkAt::times;
    mark.until = borders[static_cast<std::size_t>(pick(static_cast<int>(borders.size())))];
    if (mark.until <= mark.time || pick(2) == 0)
      mark.until = mark.time + Ticks(1 + pick(static_cast<int>((borders.back() - mark.time).count)));
  }
  // Of a clip without frames, which is known by its length alone.
  void add_timed_window(ClipMarksDef& marks) {
    if (pick(2) == 0) return;
    windows_ = true;
    const Ticks begin = milliseconds(pick(60));
    marks.windows.push_back({Text("win"), {StretchDef{true, 0, 0, begin, begin + milliseconds(5 + pick(60))}}});
  }
  // Frames that last as long as each says, in place of a rate; windows of several stretches, by frames and by times.
  void change(ClipDef& clip, ClipMarksDef& marks) {
    const int frames = static_cast<int>(clip.frames.size());
    if (frames == 0) bare_[clip.name.text] = clip.length;
    if (frames == 0) add_timed_window(marks);
    if (frames == 0) return change_times(clip, marks);
    if (pick(3) == 0) {
      clip.fps = {0, 1};
      for (FrameDef& frame : clip.frames) frame.hold = 1, frame.time = milliseconds(20 + pick(70));
    }
    for (WindowDef& window : marks.windows) {
      windows_ = true;
      while (pick(3) == 0) {
        StretchDef& stretch = window.stretches.emplace_back();
        stretch.timed = pick(2) == 0;
        stretch.first = pick(frames);
        stretch.last = stretch.first + pick(frames - stretch.first);
        stretch.begin = milliseconds(pick(10));
        stretch.end = stretch.begin + milliseconds(1 + pick(10));
      }
    }
    fewest_frames_ = std::min(fewest_frames_, frames);
    change_times(clip, marks);
  }
  // It stands still on a frame, in place of playing.
  void stand_still(StateDef& state) {
    if ((state.clip.empty() && !state.clip_by) || pick(6) != 0) return;
    const auto bare = bare_.find(state.clip.text);
    state.pose = bare == bare_.end() ? pick(fewest_frames_) : 0;
    if (bare != bare_.end()) state.pose_time = Ticks(pick(static_cast<int>(bare->second.count) + 1));
    state.speed = {};
    state.each_loop.clear();
    for (GoDef& go : state.go) {
      go.at = GoAt::none;
      if (windows_ && pick(2) == 0) go.during = "win", go.during_stretch.reset();
    }
  }
  // What is asked of a state with others inside is asked of the one that plays.
  void ask_inside(GoDef& go) {
    const bool eventless = go.pulse.empty() && go.cue.empty() && !go.after;
    if (eventless && pick(3) == 0) go.at = pick(2) == 0 ? GoAt::end : GoAt::loop;
    if (windows_ && pick(5) == 0)
      go.during = "win";
    else if (pick(6) == 0)
      go.during_stretch = StretchDef{false, 0, pick(2), {}, {}};
    else if (const Ticks begin = milliseconds(pick(40)); pick(6) == 0)
      go.during_stretch = StretchDef{true, 0, 0, begin, begin + milliseconds(1 + pick(40))};
  }

  void act(std::vector<ActionDef>& actions, const Variables& there, int once_in) {
    if (pick(once_in) == 0) actions.push_back(assignment(there));
    if (pick(2 * once_in) == 0) actions.emplace_back().tell = "cue" + std::to_string(pick(4));
  }

  void widen(StateDef& state, Variables there) {
    if (!state.name.text.empty() && pick(4) == 0) {
      const std::string own = "of_" + state.name.text;
      const int kind = pick(3);
      if (kind == 0) state.vars.push_back({Text(own), pick(2) == 0}), there.truths.push_back(own);
      if (kind == 1) state.vars.push_back({Text(own), std::int32_t{pick(4)}}), there.wholes.push_back(own);
      if (kind == 2) state.vars.push_back({Text(own), pick(8) / 4.0}), there.numbers.push_back(own);
    }
    if (state.states.empty() && state.regions.empty()) stand_still(state);
    if (!state.states.empty())
      for (GoDef& go : state.go) ask_inside(go);
    for (GoDef& go : state.go) {
      if (go.start.kind == StartKind::frame && pick(2) == 0)
        go.start = {StartKind::time, 0, Ticks(pick(30'000'000)), {}};
      const bool eventless = go.pulse.empty() && go.cue.empty() && !go.after && go.at == GoAt::none;
      if (pick(2) == 0 && (eventless || !go.when.empty())) go.when = truth(there, pick(3));
      act(go.actions, there, 5);
    }
    if (!state.name.text.empty()) {
      act(state.enter, there, 5);
      act(state.exit, there, 5);
    }
    if (!state.each_loop.empty()) act(state.each_loop, there, 3);
    if (!state.speed.text.empty() && pick(3) == 0) state.speed = number(there, 2);
    for (StateDef& inner : state.states) widen(inner, there);
    for (RegionDef& region : state.regions)
      for (StateDef& inner : region.states) widen(inner, there);
  }

  RandomMachine& random_;
  std::vector<std::string> states_;
  bool windows_ = false;               // some clip has one
  int fewest_frames_ = 6;              // of a clip that has any
  std::map<std::string, Ticks> bare_;  // how long those without frames are
};

}  // namespace mobrin::test
