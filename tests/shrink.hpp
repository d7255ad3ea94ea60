// Shrinking: a machine and a script for which something fails are made as small as they can be while it fails still,
// and printed so that they can be pasted into a test.
#pragma once

#include <algorithm>
#include <functional>
#include <string>
#include <vector>

#include "mobrin/check/reference.hpp"
#include "mobrin/core/definition.hpp"

namespace mobrin::test {

struct Case {
  MachineDef definition;
  std::vector<ScriptEntry> script;
};

// Makes one of the ways in which a case can be made smaller: the n-th.
class Reduction {
 public:
  explicit Reduction(std::size_t n) : n_(n) {}

  // False where there are not that many ways.
  bool make(Case& from) {
    drop(from.script);
    reduce(from.definition.root);
    for (ClipMarksDef& marks : from.definition.marks) {
      drop(marks.marks);
      drop(marks.windows);
      for (MarkDef& mark : marks.marks) when(mark.way != MarkWay::both, [&] { mark.way = MarkWay::both; });
    }
    for (ClipDef& clip : from.definition.clips)
      for (FrameDef& frame : clip.frames) when(frame.hold > 1, [&] { frame.hold = 1; });
    drop(from.definition.marks);
    drop(from.definition.clips);
    drop(from.definition.inputs);
    std::erase_if(from.script, [&](const ScriptEntry& entry) {  // who writes to one that is gone
      const bool writes = entry.kind == ScriptEntry::Kind::set || entry.kind == ScriptEntry::Kind::pulse;
      return writes && std::none_of(from.definition.inputs.begin(), from.definition.inputs.end(),
                                    [&](const InputDef& input) { return input.name.text == entry.name; });
    });
    drop(from.definition.cues);
    return done_;
  }

 private:
  template <class T>
  void drop(std::vector<T>& list) {
    if (done_) return;
    if (n_ >= list.size()) {
      n_ -= list.size();
      return;
    }
    list.erase(list.begin() + static_cast<std::ptrdiff_t>(n_));
    done_ = true;
  }
  template <class Apply>
  void when(bool possible, const Apply& apply) {
    if (done_ || !possible) return;
    if (n_-- > 0) return;
    apply();
    done_ = true;
  }
  void reduce(std::vector<StateDef>& states) {
    drop(states);
    for (StateDef& state : states) reduce(state);
  }
  void reduce(StateDef& state) {
    drop(state.go);
    reduce(state.states);
    drop(state.regions);
    for (RegionDef& region : state.regions) reduce(region.states);
    drop(state.vars);
    drop(state.enter);
    drop(state.exit);
    drop(state.each_loop);
    drop(state.sequence);
    when(!state.speed.empty(), [&] { state.speed = {}; });
    when(!state.clip.empty(), [&] { state.clip = {}; });
    when(state.clip_by.has_value(), [&] { state.clip_by.reset(); });
    when(state.pose.has_value(), [&] { state.pose.reset(); });
    when(state.sealed, [&] { state.sealed = false; });
    when(state.final, [&] { state.final = false, state.linger = {}; });
    for (GoDef& go : state.go) {
      drop(go.actions);
      when(!go.pulse.empty(), [&] { go.pulse = {}, go.restart = false; });
      when(!go.cue.empty(), [&] { go.cue = {}; });
      when(go.at != GoAt::none, [&] { go.at = GoAt::none; });
      when(go.after.has_value(), [&] { go.after.reset(); });
      when(!go.when.empty(), [&] { go.when = {}; });
      when(!go.during.empty(), [&] { go.during = {}; });
      when(go.during_stretch.has_value(), [&] { go.during_stretch.reset(); });
      when(go.fade_cues == FadeCues::both, [&] { go.fade_cues = FadeCues::entered; });
      when(go.fade.count > 0, [&] { go.fade = {}, go.fade_cues = FadeCues::entered; });
      when(go.start.kind != StartKind::begin, [&] { go.start = {}; });
      when(go.restart, [&] { go.restart = false; });
    }
  }

  std::size_t n_;
  bool done_ = false;
};

// The smallest case that can be reached from `from`, which fails, by single reductions after each of which it fails.
inline Case shrink(Case from, const std::function<bool(const Case&)>& fails) {
  for (bool progress = true; progress;) {
    progress = false;
    for (std::size_t n = 0;;) {
      Case smaller = from;
      if (!Reduction(n).make(smaller)) break;
      if (fails(smaller)) {
        from = std::move(smaller);
        progress = true;
      } else {
        ++n;
      }
    }
  }
  return from;
}

// A case as the text of a file, as far as the generator's machines need it, with the script as comments.
class CaseText {
 public:
  static std::string of(const Case& each) {
    CaseText text;
    text.inputs(each.definition);
    text.clips(each.definition);
    text.state(each.definition.root, "");
    const char* const kinds[] = {"set", "pulse", "rate", "freeze", "reset"};
    for (const ScriptEntry& entry : each.script)
      text.out_ += "# " + std::to_string(entry.at.count) + " " + kinds[static_cast<int>(entry.kind)] + " " +
                   entry.name + " " + std::to_string(entry.value) + " " + std::to_string(entry.duration.count) + "\n";
    return text.out_;
  }

 private:
  static std::string ms(Ticks ticks) {
    return std::to_string(static_cast<double>(ticks.count) / (static_cast<double>(kTicksPerSecond) / 1000)) + "ms";
  }
  static std::string stretch(const StretchDef& of) {
    return of.timed ? ms(of.begin) + "-" + ms(of.end) : std::to_string(of.first) + "-" + std::to_string(of.last);
  }
  void inputs(const MachineDef& definition) {
    out_ += "inputs: {";
    for (const InputDef& input : definition.inputs) {
      out_ += input.name.text + ": ";
      if (const auto* kind = std::get_if<BoolInput>(&input.kind)) out_ += kind->start ? "true" : "false";
      if (const auto* kind = std::get_if<IntInput>(&input.kind)) out_ += std::to_string(kind->start);
      if (const auto* kind = std::get_if<FloatInput>(&input.kind)) out_ += std::to_string(kind->start);
      if (const auto* kind = std::get_if<PulseInput>(&input.kind)) out_ += "{pulse: " + ms(kind->buffer) + "}";
      if (const auto* kind = std::get_if<ChoiceInput>(&input.kind)) {
        out_ += "{one_of: [";
        for (const Text& choice : kind->choices) out_ += choice.text + ", ";
        out_ += "]}";
      }
      out_ += ", ";
    }
    out_ += "}\ncues: {";
    for (const CueDef& cue : definition.cues) out_ += cue.name.text + ": x, ";
    out_ += "}\n";
  }
  void clips(const MachineDef& definition) {
    out_ += "clips:\n";
    for (const ClipDef& clip : definition.clips) {
      out_ += "  " + clip.name.text + ": {";
      if (clip.frames.empty()) out_ += "length: " + ms(clip.length);
      if (!clip.frames.empty()) out_ += "frames: [";
      for (std::size_t i = 0; i < clip.frames.size(); ++i)
        out_ += std::to_string(i) + "*" + std::to_string(clip.frames[i].hold) + ", ";
      if (!clip.frames.empty()) out_ += "], fps: " + std::to_string(clip.fps.num) + "/" + std::to_string(clip.fps.den);
      out_ += ", play: " + clip.play.text() + "}\n";
    }
    out_ += "marks:\n";
    for (const ClipMarksDef& marks : definition.marks) {
      out_ += "  " + marks.clip.text + ":\n";
      const char* const ways[] = {"both", "forward", "backward"};
      for (const MarkDef& mark : marks.marks) {
        const std::string frame = std::to_string(mark.frame);
        const std::string at = mark.at == MarkAt::time        ? ms(mark.time)
                               : mark.at == MarkAt::times     ? ms(mark.time) + "-" + ms(mark.until)
                               : mark.at == MarkAt::frames    ? frame + "-" + std::to_string(mark.last_frame)
                               : mark.at == MarkAt::frame_end ? frame + ".end"
                                                              : frame;
        out_ += "    " + at + ": " + mark.cue.text + " " + ways[static_cast<int>(mark.way)] + "\n";
      }
      for (const WindowDef& window : marks.windows)
        for (const StretchDef& s : window.stretches)
          out_ += "    window " + window.name.text + ": " + stretch(s) + "\n";
    }
  }
  void states(const std::vector<StateDef>& states, const std::string& indent) {
    for (const StateDef& each : states) {
      out_ += indent + each.name.text + ":\n";
      state(each, indent + "  ");
    }
  }
  void actions(const std::string& key, const std::vector<ActionDef>& list, const std::string& begin, const char* end) {
    for (const ActionDef& action : list)
      out_ +=
          begin + key + ": [" + (action.tell.empty() ? action.assign.text : "tell: " + action.tell.text) + "]" + end;
  }
  void state(const StateDef& state, const std::string& indent) {
    const auto put = [&](const std::string& words) { out_ += indent + words + "\n"; };
    for (const VarDef& var : state.vars)
      std::visit([&](auto start) { put("vars: {" + var.name.text + ": " + std::to_string(start) + "}"); }, var.start);
    if (!state.clip.empty()) put("clip: " + state.clip.text);
    for (const Text& clip : state.sequence) put("clip in turn: " + clip.text);
    if (state.clip_by)
      for (const auto& [choice, clip] : state.clip_by->clips)
        put("clip by " + state.clip_by->input.text + ": " + choice.text + " " + clip.text);
    if (state.pose) put("pose: " + std::to_string(*state.pose) + " or " + ms(state.pose_time));
    if (state.length) put("length: " + ms(*state.length));
    if (!state.speed.empty()) put("speed: " + state.speed.text);
    if (state.sealed) put("sealed: true");
    if (state.final) put("final: true\n" + indent + "linger: " + ms(state.linger));
    actions("enter", state.enter, indent, "\n");
    actions("exit", state.exit, indent, "\n");
    actions("each_loop", state.each_loop, indent, "\n");
    if (!state.initial.empty()) put("initial: " + state.initial.text);
    for (const GoDef& go : state.go) {
      out_ += indent + "go: {";
      if (!go.pulse.empty()) out_ += "pulse: " + go.pulse.text + ", ";
      if (!go.cue.empty()) out_ += "cue: " + go.cue.text + ", ";
      if (go.at != GoAt::none) out_ += go.at == GoAt::end ? "at: end, " : "at: loop, ";
      if (go.after) out_ += "after: " + ms(*go.after) + ", ";
      if (!go.when.empty()) out_ += "when: " + go.when.text + ", ";
      if (!go.during.empty()) out_ += "during: " + go.during.text + ", ";
      if (go.during_stretch) out_ += "during: " + stretch(*go.during_stretch) + ", ";
      if (go.restart) out_ += "restart: true, ";
      const char* const starts[] = {"begin", "same", "clock"};
      if (go.start.kind != StartKind::begin)
        out_ += std::string("start: ") +
                (go.start.kind == StartKind::frame  ? std::to_string(go.start.frame)
                 : go.start.kind == StartKind::time ? ms(go.start.time)
                                                    : starts[static_cast<int>(go.start.kind)]) +
                ", ";
      if (go.fade.count > 0)
        out_ += "fade: " + ms(go.fade) + (go.fade_cues == FadeCues::both ? ", cues: both, " : ", ");
      actions("do", go.actions, "", ", ");
      out_ += "to: " + go.to.text + "}\n";
    }
    if (!state.states.empty()) put("states:");
    states(state.states, indent + "  ");
    for (const RegionDef& region : state.regions) {
      put("region " + region.name.text + ": initial " + region.initial.text);
      states(region.states, indent + "  ");
    }
  }

  std::string out_;
};

}  // namespace mobrin::test
