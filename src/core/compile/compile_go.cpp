// Compiling transitions: events, windows, targets, starts.
#include <algorithm>

#include "compile/compile.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

// As a file says it: `80ms`, `1.5s`, in the fewest digits that are read as these ticks.
std::string duration_text(Ticks ticks) {
  if (ticks.count < 0) return std::to_string(ticks.count) + " ticks";  // from code; told elsewhere
  const bool in_seconds = ticks.count >= kTicksPerSecond;
  const std::int64_t unit = in_seconds ? kTicksPerSecond : kTicksPerSecond / 1000;
  const std::int64_t rest = ticks.count % unit;
  std::string out = std::to_string(ticks.count / unit);
  std::int64_t scale = 1, part = 0;
  while ((2 * part * unit + scale) / (2 * scale) != rest) {
    scale *= 10;
    part = (2 * rest * scale + unit) / (2 * unit);
  }
  if (scale > 1) out += '.' + std::to_string(scale + part).substr(1);
  return out + (in_seconds ? "s" : "ms");
}

std::string stretch_text(const StretchDef& stretch) {
  if (stretch.timed) return duration_text(stretch.begin) + "-" + duration_text(stretch.end);
  return std::to_string(stretch.first) + (stretch.last == stretch.first ? "" : "-" + std::to_string(stretch.last));
}

// What makes a transition go and how it goes over, as its author wrote them.
std::string words_of(const GoDef& go) {
  std::string out;
  const auto add = [&](const std::string& words) { out += (out.empty() ? "" : ", ") + words; };
  if (!go.pulse.empty()) add("pulse: " + go.pulse.text);
  if (!go.cue.empty()) add("cue: " + go.cue.text);
  if (go.at != GoAt::none) add(go.at == GoAt::end ? "at: end" : "at: loop");
  if (go.after) add("after: " + duration_text(*go.after));
  if (!go.when.empty()) add("when: " + go.when.text);
  if (!go.during.empty()) add("during: " + go.during.text);
  if (go.during_stretch) add("during: " + stretch_text(*go.during_stretch));
  if (go.restart) add("restart");
  if (go.fade.count > 0) add("fade: " + duration_text(go.fade));
  return out.empty() ? "always" : out;
}

class GoStage {
 public:
  GoStage(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues, const NameTable& windows)
      : work_(work),
        m_(work.data),
        tree_(tree),
        texts_(work, tree, inputs, cues),
        inputs_(inputs),
        cues_(cues),
        windows_(windows) {}

  void run() {
    std::size_t count = 0;
    for (std::size_t s = 0; s < m_.states.size(); ++s) {
      const StateDef& source = tree_.source_of(s);
      count += source.go.size();
      if (count > kMaxTransitions) {
        work_.within("transitions", count, kMaxTransitions, source.place);
        return;
      }
      m_.states[s].go.begin = static_cast<std::uint32_t>(m_.transitions.size());
      m_.states[s].afters.begin = static_cast<std::uint32_t>(m_.afters.size());
      const bool at_loop =
          std::any_of(source.go.begin(), source.go.end(), [](const GoDef& go) { return go.at == GoAt::loop; });
      m_.state_infos[s].uses_loops =
          at_loop || !source.each_loop.empty() || (s > 0 && m_.state_infos[m_.states[s].parent].uses_loops);
      for (const GoDef& go : source.go) compile_transition(go, static_cast<std::uint16_t>(s));
      m_.states[s].go.count = static_cast<std::uint32_t>(m_.transitions.size()) - m_.states[s].go.begin;
      m_.states[s].afters.count = static_cast<std::uint32_t>(m_.afters.size()) - m_.states[s].afters.begin;
    }
  }

 private:
  void compile_transition(const GoDef& go, std::uint16_t owner) {
    TransitionData out;
    out.owner = owner;
    out.restart = go.restart;
    const bool sound_event = compile_event(go, owner, out);
    if (!go.when.empty()) {
      const CompiledExpr guard = texts_.expression(go.when, tree_.node_of(owner), ValueType::boolean);
      if (!guard.ref.empty() && guard.type != ValueType::boolean)
        work_.report(
            FindingCode::wrong_operand, go.when.place,
            "the guard \"" + go.when.text + "\" is " + std::string(text_of(guard.type)) + ", not true or false",
            guard.type == ValueType::choice ? "Compare it with one of its choices: `" + go.when.text + " == ...`."
                                            : "Compare it: `" + go.when.text + " > 0`.",
            go.when.text);
      out.guard = guard.ref;
    }
    const bool sound_during = compile_during(go, owner, out);
    const bool sound_target = compile_target(go, owner, out);
    if (sound_target && sound_event && sound_during) compile_start(go, out);
    compile_fade(go, out);
    out.actions = texts_.actions(go.actions, tree_.node_of(owner));
    m_.transitions.push_back(out);
    const std::uint16_t pulse = out.event == GoEvent::pulse ? out.arg : kNoIndex;
    m_.transition_infos.push_back({owner, out.target, pulse, go.to.text, words_of(go), go.place});
  }

  bool compile_event(const GoDef& go, std::uint16_t owner, TransitionData& out) {
    const int events =
        (go.pulse.empty() ? 0 : 1) + (go.cue.empty() ? 0 : 1) + (go.at == GoAt::none ? 0 : 1) + (go.after ? 1 : 0);
    if (events > 1) {
      work_.report(FindingCode::conflicting_keys, go.place, "a transition with several events: " + words_of(go),
                   "A transition has one of `pulse:`, `cue:`, `at:` and `after:`; write one a transition.");
      return false;
    }
    if (!go.pulse.empty()) {
      out.event = GoEvent::pulse;
      const auto found = inputs_.find(go.pulse.text);
      if (found == inputs_.end()) {
        std::vector<std::string> known;
        for (const InputDef& input : m_.input_defs)
          if (std::holds_alternative<PulseInput>(input.kind)) known.push_back(input.name.text);
        work_.unknown("pulse", go.pulse, known,
                      is_name(go.pulse.text)
                          ? "Declare it under `inputs:`, as `" + go.pulse.text + ": pulse`."
                          : "It is the name of one pulse; what else must hold is written beside it, as `when:`.");
        return false;
      }
      out.arg = found->second;
      if (m_.inputs[out.arg].kind == InputKind::pulse) return true;
      work_.report(FindingCode::wrong_operand, go.pulse.place, "the input \"" + go.pulse.text + "\" is no pulse",
                   "Ask for its value with `when:`.", go.pulse.text);
      return false;
    }
    if (!go.cue.empty()) {
      out.event = GoEvent::cue;
      const auto cue = find_cue(work_, cues_, go.cue);
      if (cue) out.arg = *cue;
      return cue.has_value();
    }
    if (go.after) {
      out.event = GoEvent::after;
      if (go.after->count < 0 || go.after->count > kMaxDurationTicks) {
        work_.report(FindingCode::bad_value, go.place, "an impossible `after:`", "It lasts 0 to 10 hours.");
        return false;
      }
      out.after = go.after->count << kSubBits;
      m_.afters.push_back(out.after);
      return true;
    }
    if (go.at == GoAt::none) return true;
    out.event = go.at == GoAt::end ? GoEvent::at_end : GoEvent::at_loop;
    const StateData& state = m_.states[owner];
    const std::string words = go.at == GoAt::end ? "at: end" : "at: loop";
    if (state.region_count > 1 || (owner != 0 && state.region_count > 0)) {
      work_.report(FindingCode::meaningless_event, go.place, "`" + words + "` on a state with several regions",
                   "Move the transition into the region whose play it speaks of.");
      return false;
    }
    if (state.last != owner) return true;  // it speaks of whatever plays inside
    const std::string name = "\"" + m_.state_infos[owner].path + "\"";
    if (plays_wrongly(tree_.source_of(owner), state.play)) return false;
    if (!state.play.moves()) {
      work_.report(FindingCode::meaningless_event, go.place,
                   "`" + words + "` in " + name + ", which " +
                       (state.play.type == PlayType::pose ? "stands still" : "plays nothing"),
                   "Give it a clip or a `length:`, or use `after:`.", m_.state_infos[owner].path);
      return false;
    }
    if (!state.play.follows() && state.play.speed == 0) {
      work_.report(FindingCode::never_ends, go.place, "`" + words + "` never holds in " + name + ": its speed is 0",
                   "Give it another `speed:`; one frame that stands is a `pose:`.", m_.state_infos[owner].path);
      return true;
    }
    const ClipData& clip = m_.clips[m_.played[state.play.clips.begin].clip];
    if (go.at == GoAt::end && clip.length > 0 && clip.passes == 0)
      work_.report(FindingCode::never_ends, go.place, "`at: end` never holds in " + name + ": its clip loops for ever",
                   "Play the clip once, count its loops (`loop x3`), or use `at: loop`.", m_.state_infos[owner].path);
    if (go.at == GoAt::loop && clip.passes == 1)
      work_.report(FindingCode::never_ends, go.place, "`at: loop` never holds in " + name + ": its play does not loop",
                   "Let the clip loop, or use `at: end`.", m_.state_infos[owner].path);
    return true;
  }

  bool compile_during(const GoDef& go, std::uint16_t owner, TransitionData& out) {
    if (go.during.empty() && !go.during_stretch) return true;
    const StateData& state = m_.states[owner];
    if (state.region_count > 1 || (owner != 0 && state.region_count > 0)) {
      work_.report(FindingCode::meaningless_event, go.place, "`during:` on a state with several regions",
                   "Move the transition into the region whose play it speaks of.");
      return false;
    }
    DuringData during;
    if (go.during_stretch) {
      const StretchDef& wanted = *go.during_stretch;
      const bool timed = wanted.timed;
      if (timed ? wanted.begin.count < 0 || wanted.end <= wanted.begin
                : wanted.first < 0 || wanted.last < wanted.first) {
        work_.report(FindingCode::bad_value, go.place,
                     std::string("`during:` with ") + (timed ? "times" : "frames") + " that run backwards",
                     std::string("Write the earlier ") + (timed ? "time" : "frame") + " first.");
        return false;
      }
      during.stretch = {timed, false, kNoIndex, timed ? wanted.begin.count : wanted.first,
                        timed ? wanted.end.count : wanted.last};
    } else {
      const auto number = windows_.find(go.during.text);
      if (number == windows_.end()) {
        work_.unknown("window", go.during, m_.window_names, "Add it under `windows:` in the marks of the clip.");
        return false;
      }
      during.window = number->second;
    }
    bool any_clip = false, open_somewhere = false;
    std::string clip_name;
    std::size_t most_frames = 0;
    Ticks longest{};
    for (std::size_t s = owner; s <= state.last; ++s) {
      const PlayData& play = m_.states[s].play;
      if (plays_wrongly(tree_.source_of(s), play)) return false;
      if (play.type == PlayType::length && during.stretch.timed) {
        const Ticks length(m_.clips[m_.played[play.clips.begin].clip].length);
        longest = std::max(longest, length);
        open_somewhere = open_somewhere || during.stretch.end <= length.count;
      }
      if (play.type != PlayType::clip && play.type != PlayType::pose) continue;
      any_clip = true;
      for (const std::uint16_t clip : m_.state_infos[s].clips) {
        const ClipDef& shown = m_.clip_infos[clip].def;
        clip_name = shown.name.text;
        most_frames = std::max(most_frames, shown.frames.size());
        longest = std::max(longest, m_.clip_infos[clip].length);
        if (during.window == kNoIndex)
          open_somewhere = open_somewhere ||
                           (during.stretch.timed ? during.stretch.end <= m_.clips[clip].length
                                                 : during.stretch.end < static_cast<std::int64_t>(shown.frames.size()));
        for (const ClipWindow& window : m_.clips[clip].windows)
          open_somewhere = open_somewhere || window.name == during.window;
      }
      if (during.window == kNoIndex && m_.played[play.clips.begin].clip >= m_.clip_infos.size()) {
        work_.report(FindingCode::meaningless_event, go.place,
                     std::string("`during:` with ") + (during.stretch.timed ? "times" : "frames") + " in \"" +
                         m_.state_infos[s].path + "\", which plays several clips in turn",
                     "Name a window in the marks of the clip that is meant.", m_.state_infos[s].path);
        return false;
      }
    }
    if (!open_somewhere) {
      if (!any_clip && longest.count == 0)
        work_.report(FindingCode::meaningless_event, go.place, "`during:` where no clip plays",
                     "Give the state a clip, or leave `during:` out.");
      else if (during.window != kNoIndex)
        work_.report(FindingCode::unknown_name, go.during.place,
                     "the clip \"" + clip_name + "\" has no window \"" + go.during.text + "\"",
                     "Add it under `windows:` in the marks of that clip.", clip_name);
      else
        work_.report(FindingCode::outside_clip, go.place,
                     "`during: " + stretch_text(*go.during_stretch) + "` reaches past " +
                         (clip_name.empty() ? "what is played" : "the clip \"" + clip_name + "\""),
                     during.stretch.timed ? "It lasts " + duration_text(longest) + "."
                     : most_frames == 0   ? "It has no frames, so write times: `during: 0.1s-0.3s`."
                                          : "It has " + std::to_string(most_frames) + " frames, numbered from 0.",
                     clip_name);
      return false;
    }
    if (m_.durings.size() == kMaxWindowsAskedFor)
      return work_.within("`during:`", m_.durings.size() + 1, kMaxWindowsAskedFor, go.place);
    if (m_.durings.size() > kMaxWindowsAskedFor) return false;
    out.during = static_cast<std::uint16_t>(m_.durings.size());
    m_.durings.push_back(during);
    return true;
  }

  // What others call the state before this one.
  static bool means_before(std::string_view word) {
    constexpr std::string_view kBefore[] = {"previous", "prev", "return", "last", "history", "before", "pop"};
    return std::find(std::begin(kBefore), std::end(kBefore), word) != std::end(kBefore);
  }

  // The end of `path` that leads from the owner to the same state.
  std::string shortest_from(std::uint16_t owner, const std::string& path) const {
    const auto meant = tree_.find_state(path, tree_.node_of(owner));
    for (std::size_t slash = path.rfind('/'); meant && slash != std::string::npos && slash > 0;
         slash = path.rfind('/', slash - 1))
      if (std::string end = path.substr(slash + 1); tree_.find_state(end, tree_.node_of(owner)) == meant) return end;
    return path;
  }

  // Of a rule without a target: one that only does something is meant to stay.
  std::string stays_remedy(const GoDef& go, std::uint16_t owner) const {
    const StateDef& source = tree_.source_of(owner);
    const std::string add = "Add `to:` with the name of a state", stays = add + "; to do this and stay, ";
    const auto begins_anew = [](const std::string& to, bool plays) {
      return "`to: " + to + ", restart: true" + (plays ? ", start: same`, which goes on where it is." : "`.");
    };
    if (go.actions.empty()) return add + ".";
    if (owner == 0)
      return stays + "give it to a region of its own: `tally: {states: {count: {go: [{" +
             (go.pulse.empty() ? "..." : "pulse: " + go.pulse.text + ", do: ...") +
             ", to: count, restart: true}]}}}` under `regions:`.";
    if (source.states.empty() && source.regions.empty())
      return stays + begins_anew(source.name.text, m_.states[owner].play.moves());
    const bool shallow = source.regions.empty() &&
                         std::all_of(source.states.begin(), source.states.end(),
                                     [](const StateDef& each) { return each.states.empty() && each.regions.empty(); });
    if (!shallow) return add + ".";
    const auto first = m_.states.begin() + owner;
    return stays +
           begins_anew(source.name.text + "/last", std::any_of(first + 1, m_.states.begin() + m_.states[owner].last + 1,
                                                               [](const auto& each) { return each.play.moves(); }));
  }

  bool compile_target(const GoDef& go, std::uint16_t owner, TransitionData& out) {
    if (go.to.empty()) {
      work_.report(FindingCode::missing_key, go.place, "a transition without a target", stays_remedy(go, owner));
      return false;
    }
    if (go.to.text == "back") {
      out.target_kind = TargetKind::back;
      out.target = owner;
      if (owner != 0) return true;
      work_.report(FindingCode::unreachable_target, go.to.place, "`to: back` from anywhere has nothing to go back from",
                   "Write it in the `go:` of the state that is left.");
      return false;
    }
    const bool last = go.to.text.ends_with("/last");
    const auto target =
        tree_.find_state(last ? go.to.text.substr(0, go.to.text.size() - 5) : go.to.text, tree_.node_of(owner));
    if (!target) {
      // One of that very name somewhere else is meant by its path.
      const std::vector<std::string>& names = tree_.names();
      const std::string elsewhere = shortest_from(owner, path_ending_in(go.to.text, names));
      if (!elsewhere.empty())
        work_.report(FindingCode::unknown_name, go.to.place, "there is no state \"" + go.to.text + "\"",
                     "Did you mean \"" + elsewhere + "\"?", go.to.text);
      else
        work_.unknown("state", go.to, names,
                      means_before(go.to.text)
                          ? "Write `back` for what went on before, `STATE/last` for what was active last in a state."
                          : "Name a state of this machine, or a path like `faint/lie`.");
      return false;
    }
    out.target = *target;
    if (last) {
      out.target_kind = TargetKind::last;
      if (m_.states[*target].initial == kNoIndex) {
        work_.report(FindingCode::unreachable_target, go.to.place,
                     "`to: " + go.to.text + "`, but that state has no states inside to come back to",
                     "Name the state itself.", go.to.text);
        return false;
      }
    }
    // The target's region is the owner's, one inside the owner, or one around it.
    const bool inside_owner = *target >= owner && *target <= m_.states[owner].last;
    bool around = false;
    for (std::uint16_t s = owner; s != 0 && !around; s = m_.states[s].parent)
      around = m_.states[s].region == m_.states[*target].region;
    if (inside_owner || around) return true;
    work_.report(FindingCode::unreachable_target, go.to.place,
                 "\"" + go.to.text + "\" lies in another region than this transition",
                 "Regions speak to each other through cues, inputs and `in(...)`.", go.to.text);
    return false;
  }

  bool compile_start(const GoDef& go, TransitionData& out) {
    out.start = go.start.kind;
    out.start_frame = go.start.frame;
    out.start_time = go.start.time.count;
    if (go.start.kind == StartKind::begin) return true;
    if (out.target_kind != TargetKind::state) {
      if (go.start.kind == StartKind::same) return true;
      work_.report(FindingCode::meaningless_event, go.start.place,
                   "`start:` with `to: " + go.to.text + "`, which may lead to any clip",
                   "Only `begin` and `same` fit every clip.", go.to.text);
      return false;
    }
    const auto leaf = single_leaf(out.target);
    if (!leaf) return true;  // each region begins
    const PlayData& play = m_.states[*leaf].play;
    const std::string name = "\"" + m_.state_infos[*leaf].path + "\"";
    if (plays_wrongly(tree_.source_of(*leaf), play)) return false;
    if (!play.moves()) {
      work_.report(FindingCode::meaningless_event, go.start.place, "`start:` into " + name + ", which does not play",
                   "Leave `start:` out.", m_.state_infos[*leaf].path);
      return false;
    }
    const ClipData& clip = m_.clips[m_.played[play.clips.begin].clip];
    if (go.start.kind == StartKind::clock && clip.passes != 0) {
      work_.report(FindingCode::meaningless_event, go.start.place, "`start: clock` into " + name + ", whose play ends",
                   "Only a clip that loops for ever can follow the clock.", m_.state_infos[*leaf].path);
      return false;
    }
    const bool timed = go.start.kind == StartKind::time;
    if (!timed && go.start.kind != StartKind::frame) return true;
    const std::vector<std::uint16_t>& shown = m_.state_infos[*leaf].clips;
    if (!play.chooses() && shown.size() > 1) {
      work_.report(FindingCode::meaningless_event, go.start.place,
                   std::string("`start:` with a ") + (timed ? "time" : "frame") + " into " + name +
                       ", which plays several clips in turn",
                   "Only `begin` and `same` fit a sequence.", m_.state_infos[*leaf].path);
      return false;
    }
    if (timed) return fits_all(go.start, shown, Ticks(clip.length), name, *leaf);
    std::size_t frames = play.type == PlayType::clip ? kMaxFrames : 0;  // all clips must have it
    for (const std::uint16_t each : shown) frames = std::min(frames, m_.clip_infos[each].def.frames.size());
    if (go.start.frame >= 0 && static_cast<std::size_t>(go.start.frame) < frames) return true;
    work_.report(FindingCode::outside_clip, go.start.place,
                 "frame " + std::to_string(go.start.frame) + " is not in the clip that " + name + " plays",
                 frames == 0 ? "It has no frames, so write a time: `start: 0.2s`."
                             : "It has " + std::to_string(frames) + " frames, numbered from 0.",
                 m_.state_infos[*leaf].path);
    return false;
  }

  // Whether every clip that may play lasts until the time of a start.
  bool fits_all(const StartDef& start, const std::vector<std::uint16_t>& clips, Ticks length, const std::string& name,
                std::uint16_t leaf) {
    for (const std::uint16_t each : clips) length = std::min(length, m_.clip_infos[each].length);
    if (start.time.count >= 0 && start.time <= length) return true;
    work_.report(FindingCode::outside_clip, start.place,
                 "`start: " + duration_text(start.time) + "` does not lie in what " + name + " plays",
                 "It lasts " + duration_text(length) + ".", m_.state_infos[leaf].path);
    return false;
  }

  void compile_fade(const GoDef& go, TransitionData& out) {
    if (go.fade.count < 0 || go.fade.count > kMaxDurationTicks)
      return work_.report(FindingCode::bad_value, go.place, "an impossible `fade:`", "It lasts 0 to 10 hours.");
    if (go.fade.count == 0 && go.fade_cues == FadeCues::both)
      return work_.report(FindingCode::meaningless_event, go.place, "`cues: both` without a fade",
                          "Add `fade:`, such as `fade: 80ms`.");
    out.fade = go.fade.count << kSubBits;
    out.loud = go.fade_cues == FadeCues::both;
  }

  // The state entered last on the way down from `state`, or empty where regions split the way.
  std::optional<std::uint16_t> single_leaf(std::uint16_t state) const {
    while (m_.states[state].initial != kNoIndex) state = m_.states[state].initial;
    if (m_.states[state].region_count > 0) return std::nullopt;
    return state;
  }

  Work& work_;
  MachineData& m_;
  const StateTree& tree_;
  Texts texts_;
  const NameTable &inputs_, &cues_, &windows_;
};

}  // namespace

void compile_go(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues,
                const NameTable& windows) {
  GoStage(work, tree, inputs, cues, windows).run();
}

}  // namespace mobrin::detail
