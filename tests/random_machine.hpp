// Random machines and random writing: for properties that must hold for all of them.
#pragma once

#include <optional>
#include <random>
#include <string>
#include <vector>

#include "mobrin/check/reference.hpp"
#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::test {

inline void write(Instance& instance, const ScriptEntry& entry) {
  const Machine& machine = instance.machine();
  switch (entry.kind) {
    case ScriptEntry::Kind::set:
      if (const auto truth = machine.input<bool>(entry.name)) instance.set(*truth, entry.value != 0);
      if (const auto whole = machine.input<std::int32_t>(entry.name))
        instance.set(*whole, static_cast<std::int32_t>(entry.value));
      if (const auto number = machine.input<float>(entry.name)) instance.set(*number, static_cast<float>(entry.value));
      if (const auto choice = machine.input<Choice>(entry.name))
        instance.set(*choice, Choice{static_cast<std::uint8_t>(entry.value)});
      break;
    case ScriptEntry::Kind::pulse:
      instance.pulse(*machine.pulse(entry.name));
      break;
    case ScriptEntry::Kind::rate:
      instance.set_rate(entry.value);
      break;
    case ScriptEntry::Kind::freeze:
      instance.freeze(entry.duration);
      break;
    case ScriptEntry::Kind::reset:
      instance.reset();
      break;
  }
}

class RandomMachine {
 public:
  // `plain`: clips at their own pace, and rules that wait for nothing but inputs: what the engine does by
  // a plan made beforehand. Else anything; but every fourth machine is plain.
  explicit RandomMachine(std::uint32_t seed, bool plain = false)
      : random_(seed), plain_(plain || seed % 4 == 3), grain_(seed % 7 == 5 ? 0.3 : 0) {}

  // Inputs: v (float), n (int), b (bool), h (x, y or z), p (pulse with buffer), q (pulse without).
  MachineDef make() {
    MachineBuilder builder("random");
    builder.input("v", FloatInput{1, -4, 4, grain_})
        .input("n", IntInput{0, -3, 3})
        .input("b", BoolInput{})
        .input("h", ChoiceInput{{"x", "y", "z"}, {}})
        .pulse("p", milliseconds(pick(400)))
        .pulse("q");
    for (int i = 0; i < 4; ++i) builder.cue("cue" + std::to_string(i), "kind", {{"amount", std::int64_t{i}}});
    clips_ = 2 + pick(3);
    for (int i = 0; i < clips_; ++i) add_clip(builder, i);
    MachineDef& def = builder.definition();
    const int shape = pick(3);
    if (shape == 2) {
      for (int r = 0; r < 2; ++r) {
        RegionDef& region = def.root.regions.emplace_back();
        region.name = "r" + std::to_string(r);
        add_states(region.states, region.initial, 2 + pick(3), 1);
      }
    } else {
      add_states(def.root.states, def.root.initial, 2 + pick(4), shape);
    }
    def.root.vars.push_back({Text("w"), 1.0});
    if (shape != 2 && rarely())
      for (int i = pick(3); i > 0; --i) def.root.go.push_back(transition(def.root.states, true));
    return def;
  }

  // The same with regions side by side, also inside of a state, rules that lead from anywhere to anywhere, and a
  // variable `c` that counts.
  MachineDef make_with_regions() {
    MachineDef def = make();
    StateDef& root = def.root;
    root.vars.push_back({Text("c"), std::int32_t{0}});
    if (root.regions.empty()) {
      RegionDef body;
      body.name = "r0";
      body.states = std::move(root.states);
      body.initial = std::move(root.initial);
      root.states.clear();
      root.initial = {};
      for (GoDef& go : root.go) go.to = "r0/" + go.to.text;
      root.regions.push_back(std::move(body));
    }
    split_states(root.regions.back().states.front(), "i");
    while (root.regions.size() < static_cast<std::size_t>(2 + pick(2))) add_region(root, "r");
    std::vector<std::string> paths;
    paths_in(root, "", paths);
    for (RegionDef& region : root.regions) lead_anywhere(region.states, region.name.text + "/", paths);
    for (int i = pick(3); i > 0; --i) root.go.push_back(transition_to(paths));
    return def;
  }

  // Regions side by side that mostly go their own ways: what one takes, tells and counts the others mostly do not hear.
  MachineDef make_with_regions_apart() {
    MachineDef def = make_with_regions();
    if (pick(4) != 0) def.root.go.clear();
    for (std::size_t r = 0; r < def.root.regions.size(); ++r)
      for (StateDef& state : def.root.regions[r].states) keep_apart(state, def.root.regions[r].name.text, r);
    return def;
  }

  int pick(int below) { return static_cast<int>(random_() % static_cast<unsigned>(below)); }

  // Writes something to the instance, or nothing.
  void write(Instance& instance) {
    const int what = pick(9);
    if (what == 8) return write(instance, kInputs[5]);
    if (what < 5) return write(instance, kInputs[what]);
    if (what == 5 && pick(4) == 0) instance.set_rate(pick(5) / 2.0);
    if (what == 6 && pick(4) == 0) instance.freeze(milliseconds(pick(100)));
    if (what == 7 && pick(12) == 0) instance.reset();
  }
  // An input, or nothing; no rate, freeze or reset. Gives the name of the pulse, if it is one.
  std::optional<std::string> write_input(Instance& instance) {
    const int what = pick(7);
    if (what == 6) return std::nullopt;
    write(instance, kInputs[what]);
    return what == 3 || what == 4 ? std::optional(std::string(1, kInputs[what])) : std::nullopt;
  }

  // What is written when, for the reference evaluator and the engine alike.
  std::vector<ScriptEntry> script(int count) {
    using Wrote = ScriptEntry::Kind;
    std::vector<ScriptEntry> out;
    Ticks at{};
    for (int i = 0; i < count; ++i) {
      if (pick(4) != 0) at += milliseconds(pick(250)), at += Ticks(pick(3));
      ScriptEntry entry{at};
      switch (pick(12)) {
        case 10:
        case 11:
          entry = {at, Wrote::set, "h", static_cast<double>(pick(3)), {}};
          break;
        case 0:
        case 1:
          entry = {at, Wrote::set, "v", (pick(17) - 8) / 2.0, {}};
          break;
        case 2:
          entry = {at, Wrote::set, "n", static_cast<double>(pick(9) - 4), {}};
          break;
        case 3:
          entry = {at, Wrote::set, "b", static_cast<double>(pick(2)), {}};
          break;
        case 4:
        case 5:
          entry = {at, Wrote::pulse, "p", 0, {}};
          break;
        case 6:
          entry = {at, Wrote::pulse, "q", 0, {}};
          break;
        case 7:
          entry = {at, Wrote::rate, "", pick(5) / 2.0, {}};
          break;
        case 8:
          entry = {at, Wrote::freeze, "", 0, milliseconds(pick(100))};
          break;
        default:
          entry = {at, pick(3) == 0 ? Wrote::reset : Wrote::pulse, "p", 0, {}};
          break;
      }
      out.push_back(entry);
    }
    return out;
  }

 private:
  // Always, or of a plain machine now and then.
  bool rarely() { return !plain_ || pick(12) == 0; }

  void add_clip(MachineBuilder& builder, int index) {
    const std::string name = "clip" + std::to_string(index);
    const int frames = pick(6);
    const PlayMode modes[] = {PlayMode::once(), PlayMode::loop(), PlayMode::loop(1 + pick(3)),
                              PlayMode::back_and_forth(), PlayMode::back_and_forth(1 + pick(2))};
    const PlayMode mode = modes[pick(5)];
    modes_.push_back(mode);
    if (frames == 0)
      builder.clip(name, milliseconds(20 + pick(500)), mode);
    else
      builder.clip(name, frames, {5 + pick(40), 1 + pick(2)}, mode);
    ClipDef& clip = builder.definition().clips.back();
    for (FrameDef& frame : clip.frames) frame.hold = 1 + pick(3);
    ClipMarksDef& marks = builder.marks(name);
    for (int i = pick(6); i > 0; --i) {
      MarkDef mark;
      mark.cue = "cue" + std::to_string(pick(4));
      mark.way = static_cast<MarkWay>(pick(3));
      const int kind = rarely() ? pick(4) : 0;
      if (kind == 3 || frames == 0) {
        mark.at = MarkAt::time;
        mark.time = milliseconds(pick(20));
      } else {
        mark.at = kind == 0 ? MarkAt::frame_begin : kind == 1 ? MarkAt::frame_end : MarkAt::frames;
        mark.frame = pick(frames);
        mark.last_frame = mark.frame + pick(frames - mark.frame);
      }
      marks.marks.push_back(mark);
    }
    WindowDef window{Text("win"), {}};
    if (frames > 0) window.stretches.push_back(StretchDef{false, pick(frames), frames - 1, {}, {}});
    if (frames > 0 && pick(3) == 0)
      window.stretches = {StretchDef{true, 0, 0, milliseconds(pick(10)), milliseconds(10 + pick(10))}};
    if (frames > 0 && rarely()) marks.windows.push_back(window);
  }

  void add_states(std::vector<StateDef>& states, Text& initial, int count, int nest) {
    for (int i = 0; i < count; ++i) states.emplace_back().name = "s" + std::to_string(made_++);
    initial = states[static_cast<std::size_t>(pick(count))].name;
    for (StateDef& state : states) fill(state, states, nest);
  }

  void fill(StateDef& state, const std::vector<StateDef>& siblings, int nest) {
    if (plain_) return fill_plainly(state, siblings, nest);
    state.sealed = pick(12) == 0;
    if (nest > 0 && pick(3) == 0) {
      add_states(state.states, state.initial, 1 + pick(3), nest - 1);
    } else {
      const int play = pick(8);
      if (play < 6)
        choose_clips(state, pick(6));
      else if (play == 6)
        state.length = milliseconds(10 + pick(200));
      const char* speeds[] = {"", "-1", "v", "w", "v * 0.5", "2.5", "select(b, 1, -1)"};
      if (play < 7) state.speed = speeds[pick(7)];
      if (play < 6 && pick(2) == 0) state.each_loop.emplace_back("w = max(w - 0.25, -2)");
      if (pick(4) == 0) state.enter.emplace_back("w = select(w < -1, 1.5, w)");
      if (play < 6 && !state.blend && pick(15) == 0) state.pose = 0;
      if (pick(15) == 0) {
        state.final = true;
        state.linger = milliseconds(pick(300));
        return;
      }
    }
    // What holds on to the state while something is so, above a rule that would leave it at once.
    if (pick(6) == 0) {
      GoDef stand;
      stand.to = state.name;
      stand.when = pick(2) == 0 ? "not b" : "v < 1";
      state.go.push_back(stand);
      if (pick(2) == 0) {
        GoDef leave = transition(siblings, true);
        leave.pulse = leave.when = {};
        leave.cue = {};
        leave.restart = false;
        state.go.push_back(leave);
      }
    }
    for (int i = pick(4); i > 0; --i) {
      GoDef go = transition(siblings, !state.states.empty() || (state.clip.empty() && state.sequence.empty() &&
                                                                !state.clip_by && !state.blend));
      if (pick(8) == 0) go.to = "back";
      const StateDef& other = siblings[static_cast<std::size_t>(pick(static_cast<int>(siblings.size())))];
      if (pick(5) == 0 && !other.states.empty()) go.to = other.name.text + "/last";
      state.go.push_back(go);
    }
  }

  void fill_plainly(StateDef& state, const std::vector<StateDef>& siblings, int nest) {
    const bool inner = nest > 0 && pick(3) == 0;
    if (inner) {
      add_states(state.states, state.initial, 1 + pick(3), nest - 1);
    } else if (pick(6) != 0) {
      state.clip = "clip" + std::to_string(pick(clips_));
      if (pick(4) == 0) state.speed = "2.5";
    }
    if (pick(3) == 0) state.enter.emplace_back().tell = "cue" + std::to_string(pick(4));
    if (pick(12) == 0) state.enter.emplace_back("w = select(w < -1, 1.5, w)");
    if (!inner && pick(15) == 0) state.final = true;
    if (state.final) return;
    const char* guards[] = {"n > 0", "b",      "v < 0",  "abs(v) > 1 and not b", "v * 2 + 1 < n",  "n == 0", "v >= 1",
                            "not b", "h == x", "h != y", "(n + 1) * 3 < 5 or b", "3 - abs(v) >= n"};
    for (int i = 1 + pick(3); i > 0; --i) {
      GoDef& go = state.go.emplace_back();
      go.to = siblings[static_cast<std::size_t>(pick(static_cast<int>(siblings.size())))].name;
      const int event = pick(8);
      if (event == 0 && !state.clip.empty()) go.at = GoAt::end;
      if (event == 1) go.pulse = "p";
      if (event == 2 || event == 3) go.pulse = "q";
      if (event > 3 || pick(2) == 0) go.when = guards[pick(12)];
      go.restart = !go.pulse.empty() && pick(3) == 0;
      if (pick(4) == 0) go.actions.emplace_back().tell = "cue" + std::to_string(pick(4));
      if (pick(12) == 0) go.fade = milliseconds(1 + pick(300));
    }
  }

  // Several clips at once, of those that loop; false without any.
  bool blend_clips(StateDef& state) {
    std::vector<int> loops;
    for (int i = 0; i < clips_; ++i)
      if (modes_[static_cast<std::size_t>(i)].kind == PlayKind::loop && modes_[static_cast<std::size_t>(i)].endless())
        loops.push_back(i);
    if (loops.empty()) return false;
    BlendDef& blend = state.blend.emplace();
    blend.x = "v";
    if (pick(2) == 0) blend.y = "n";
    const int points = 2 + pick(3);
    for (int i = 0; i < points; ++i) {
      BlendPointDef point;
      point.x = i - 1.25 * pick(3);
      point.y = blend.y.empty() ? 0 : i % 2;
      point.clip = "clip" + std::to_string(loops[static_cast<std::size_t>(pick(static_cast<int>(loops.size())))]);
      point.backward = pick(4) == 0;
      blend.points.push_back(point);
    }
    if (pick(3) == 0) blend.floor = 0.125;
    if (pick(2) == 0) blend.cues_above = 0.05 + 0.1 * pick(4);
    return true;
  }

  // One clip, several in turn, one of several by an input, or several at once.
  void choose_clips(StateDef& state, int kind) {
    const int first = pick(clips_);
    const auto name = [](int clip) { return Text("clip" + std::to_string(clip)); };
    const PlayMode mode = modes_[static_cast<std::size_t>(first)];
    if (kind == 0) {
      for (int i = 1 + pick(3); i > 0; --i) {
        const int clip = pick(clips_);  // what loops for ever cannot be in a sequence
        if (!modes_[static_cast<std::size_t>(clip)].endless()) state.sequence.push_back(name(clip));
      }
      if (!state.sequence.empty()) return;
    }
    if (kind == 1) {
      std::vector<int> alike;
      for (int i = 0; i < clips_; ++i) {
        const PlayMode other = modes_[static_cast<std::size_t>(i)];
        if (other.kind == mode.kind && other.passes == mode.passes) alike.push_back(i);
      }
      state.clip_by.emplace().input = "h";
      for (const char* choice : {"x", "y", "z"})
        state.clip_by->clips.emplace_back(choice,
                                          name(alike[static_cast<std::size_t>(pick(static_cast<int>(alike.size())))]));
      return;
    }
    if (kind == 2 && blend_clips(state)) return;
    state.clip = name(first);
  }

  void add_region(StateDef& state, const std::string& letter) {
    RegionDef& region = state.regions.emplace_back();
    region.name = letter + std::to_string(state.regions.size() - 1);
    add_states(region.states, region.initial, 2 + pick(2), 0);
  }
  // Regions in place of what it plays, or has inside.
  void split_states(StateDef& state, const std::string& letter) {
    StateDef split;
    split.name = state.name;
    split.go = std::move(state.go);
    // Nothing plays in it by itself.
    std::erase_if(split.go, [](const GoDef& go) {
      return go.at != GoAt::none || !go.during.empty() || go.during_stretch || go.to.text.ends_with("/last");
    });
    state = std::move(split);
    add_region(state, letter);
    add_region(state, letter);
  }
  static void paths_in(const StateDef& state, const std::string& path, std::vector<std::string>& out) {
    const auto inside = [&](const std::vector<StateDef>& states, const std::string& in) {
      for (const StateDef& each : states) {
        out.push_back(in + each.name.text);
        paths_in(each, in + each.name.text + "/", out);
      }
    };
    inside(state.states, path);
    for (const RegionDef& region : state.regions) inside(region.states, path + region.name.text + "/");
  }
  GoDef transition_to(const std::vector<std::string>& paths) {
    GoDef go;
    go.to = paths[static_cast<std::size_t>(pick(static_cast<int>(paths.size())))];
    const int event = pick(6);
    if (event == 0) go.pulse = "p";
    if (event == 1) go.pulse = "q";
    if (event == 2) go.after = milliseconds(1 + pick(300));
    if (event == 3) go.cue = "cue" + std::to_string(pick(4));
    const char* guards[] = {"c >= 3", "c == 1", "c < 2", "n > 1", "v < -1", "c != 2 and b", "2 * c > 5"};
    if (event > 3 || pick(2) == 0) go.when = guards[pick(7)];
    go.restart = pick(4) == 0;
    const char* actions[] = {"c = c + 1", "c = 0", "c = min(c + 2, 5)", "c = c - 1", "c = n"};
    if (pick(2) == 0) go.actions.emplace_back(actions[pick(5)]);
    if (pick(6) == 0) go.actions.emplace_back().tell = "cue" + std::to_string(pick(4));
    return go;
  }
  // A rule leads to what is inside its state, in its region, or in one around that.
  static bool may_lead(const std::string& from, const std::string& to) {
    std::size_t region = 0;  // how much of the path says the region: they are called r or i
    for (std::size_t at = 0; at != std::string::npos; at = to.find('/', at + 1))
      if (to[at == 0 ? 0 : at + 1] != 's') region = to.find('/', at + 1) + 1;
    return to.starts_with(from + "/") || from.starts_with(to.substr(0, region));
  }
  void lead_anywhere(std::vector<StateDef>& states, const std::string& in, const std::vector<std::string>& paths) {
    for (StateDef& state : states) {
      const std::string path = in + state.name.text;
      lead_anywhere(state.states, path + "/", paths);
      for (RegionDef& region : state.regions) lead_anywhere(region.states, path + "/" + region.name.text + "/", paths);
      if (state.final || pick(2) == 0) continue;
      std::vector<std::string> open = paths;
      std::erase_if(open, [&](const std::string& each) { return !may_lead(path, each); });
      const std::size_t at = static_cast<std::size_t>(pick(static_cast<int>(state.go.size()) + 1));
      state.go.insert(state.go.begin() + static_cast<std::ptrdiff_t>(at), transition_to(open));
      if (pick(4) == 0) state.enter.emplace_back("c = c + 1");
    }
  }

  static constexpr char kInputs[] = {'v', 'n', 'b', 'p', 'q', 'h'};
  void write(Instance& instance, char input) {
    const std::string name(1, input);
    const Machine& machine = instance.machine();
    if (input == 'v') instance.set(*machine.input<float>(name), static_cast<float>(pick(17) - 8) / 2);
    if (input == 'n') instance.set(*machine.input<std::int32_t>(name), pick(7) - 3);
    if (input == 'b') instance.set(*machine.input<bool>(name), pick(2) == 0);
    if (input == 'p' || input == 'q') instance.pulse(*machine.pulse(name));
    if (input == 'h') instance.set(*machine.input<Choice>(name), Choice{static_cast<std::uint8_t>(pick(3))});
  }

  void keep_apart(StateDef& state, const std::string& region, std::size_t number) {
    if (pick(4) != 0) state.final = state.sealed = false;
    const auto apart = [&](std::vector<ActionDef>& actions) {
      std::erase_if(actions, [&](const ActionDef& action) {
        return pick(8) != 0 && (!action.tell.empty() || (number > 0 && action.assign.text.starts_with("c ")));
      });
    };
    apart(state.enter), apart(state.exit), apart(state.each_loop);
    std::erase_if(state.go, [&](const GoDef& go) {
      const bool leads_out = go.to.text.find('/') != std::string::npos && !go.to.text.starts_with(region + "/");
      const bool taken = go.pulse.text == (number == 0 ? "q" : "p") || (number > 1 && !go.pulse.empty());
      return pick(12) != 0 && (leads_out || taken || !go.cue.empty());
    });
    for (GoDef& go : state.go) {
      apart(go.actions);
      // Rules that may lead round at once keep a region from being looked at by itself.
      const bool at_once = go.pulse.empty() && go.cue.empty() && !go.after && go.at != GoAt::loop;
      if (number > 0 && at_once && pick(12) != 0) go.at = GoAt::none, go.after = milliseconds(1 + pick(300));
      if (pick(8) != 0 && number > 0 && go.when.text.find('c') != std::string::npos) go.when = "b";
    }
    for (StateDef& each : state.states) keep_apart(each, region, number);
    for (RegionDef& each : state.regions)
      for (StateDef& inner : each.states) keep_apart(inner, region, number);
  }

  GoDef transition(const std::vector<StateDef>& targets, bool plays_no_clip) {
    GoDef go;
    go.to = targets[static_cast<std::size_t>(pick(static_cast<int>(targets.size())))].name;
    const int event = pick(plays_no_clip ? 5 : 7);
    if (event == 0)
      go.pulse = "p";
    else if (event == 1)
      go.pulse = "q";
    else if (event == 2)
      go.after = milliseconds(pick(300));
    else if (event == 3)
      go.cue = "cue" + std::to_string(pick(4));
    else if (event == 5)
      go.at = GoAt::end;
    else if (event == 6)
      go.at = GoAt::loop;
    go.restart = !go.pulse.empty() && pick(3) == 0;
    const char* guards[] = {"n > 0", "b", "v < 0", "abs(v) > 1 and not b", "w < 0", "n == 0", "v >= 1", "not b"};
    if (event == 4 || pick(2) == 0) go.when = guards[pick(8)];
    if (!plays_no_clip && pick(6) == 0)
      go.during = "win";
    else if (!plays_no_clip && pick(8) == 0)
      go.during_stretch = StretchDef{false, pick(2), 1 + pick(2), {}, {}};
    const int start = pick(12);  // the compiler refuses those that do not fit their target
    if (start < 3) go.start.kind = StartKind::same;
    if (start == 3) go.start.kind = StartKind::clock;
    if (start == 4) go.start = {StartKind::frame, pick(3), {}};
    if (pick(4) == 0) {
      go.fade = milliseconds(1 + pick(300));
      if (pick(2) == 0) go.fade_cues = FadeCues::both;
    }
    if (pick(8) == 0) go.actions.emplace_back("w = min(w + 0.5, 2)");
    if (pick(8) == 0) {
      ActionDef tell;
      tell.tell = "cue" + std::to_string(pick(4));
      go.actions.push_back(tell);
    }
    return go;
  }

  std::mt19937 random_;
  bool plain_;
  double grain_;  // of v, in some of them
  std::vector<PlayMode> modes_;
  int clips_ = 0;
  int made_ = 0;
};

}  // namespace mobrin::test
