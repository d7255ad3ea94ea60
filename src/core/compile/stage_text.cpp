// What each stage of compiling made, as text: for tests, and for people who want to see it.
#include <algorithm>
#include <charconv>
#include <tuple>
#include <utility>

#include "compile/plan.hpp"
#include "compile/stages.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

template <class T>
std::string number(T value) {
  if constexpr (std::is_floating_point_v<T>)
    return number_text(value);
  else
    return std::to_string(value);
}
std::string state_name(const MachineData& m, std::uint16_t state) {
  return state == 0 ? "root" : state == kNoIndex ? "nothing" : m.state_infos[state].path;
}
std::string clip_name(const MachineData& m, std::uint16_t clip) {
  return clip < m.clip_infos.size() ? m.clip_infos[clip].def.name.text : "#" + number(clip);
}
std::string field_text(const FieldValue& value) {
  if (const auto* truth = std::get_if<bool>(&value)) return *truth ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return number(*whole);
  if (const auto* real = std::get_if<double>(&value)) return number(*real);
  if (const auto* text = std::get_if<std::string>(&value)) return "\"" + *text + "\"";
  std::string out;
  for (const double each : std::get<std::vector<double>>(value)) out += (out.empty() ? "" : ", ") + number(each);
  return "[" + out + "]";
}
std::string cue_text(const MachineData& m, std::uint16_t cue, std::uint32_t fields) {
  std::string out = m.cue_defs[cue].name.text;
  for (std::size_t i = 0; i < m.cue_defs[cue].fields.size(); ++i)
    out += (i == 0 ? " {" : ", ") + m.cue_defs[cue].fields[i].name.text + ": " + field_text(m.fields[fields][i]);
  return m.cue_defs[cue].fields.empty() ? out : out + "}";
}
std::string at_text(std::uint32_t offset) { return "@" + number(offset); }

// The input or variable that lies there; else where that is.
std::string value_text(const MachineData& m, std::uint32_t offset) {
  for (const Symbol& symbol : m.symbols)
    if (symbol.offset == offset) return symbol.name;
  return at_text(offset);
}

std::string action_text(const MachineData& m, const ActionData& action) {
  if (action.cue != kNoIndex) return "tell " + cue_text(m, action.cue, action.fields);
  return value_text(m, action.offset) + " = " + text_of(m, action.value);
}
std::string actions_text(const MachineData& m, std::string_view when, Range<ActionData> actions) {
  std::string out;
  for (const ActionData& action : MachineData::view(m.actions, actions))
    out += "  " + std::string(when) + " " + action_text(m, action) + "\n";
  return out;
}
std::string_view kind_text(InputKind kind) {
  constexpr std::string_view kKinds[] = {"bool", "int", "float", "choice", "pulse"};
  return kKinds[static_cast<std::size_t>(kind)];
}

}  // namespace

std::string inputs_text(const MachineData& m) {
  std::string out;
  for (std::size_t i = 0; i < m.inputs.size(); ++i) {
    const InputData& input = m.inputs[i];
    out += m.input_defs[i].name.text + " " + std::string(kind_text(input.kind));
    if (input.kind == InputKind::pulse) out += " lives " + number(input.buffer) + " ticks";
    if (input.kind == InputKind::boolean) out += input.whole_start != 0 ? " starts true" : " starts false";
    if (input.kind == InputKind::whole)
      out += " starts " + number(input.whole_start) + " from " + number(input.whole_min) + " to " +
             number(input.whole_max);
    if (input.kind == InputKind::number)
      out += " starts " + number(double{input.start}) + " from " + number(double{input.min}) + " to " +
             number(double{input.max}) + (input.grain > 0 ? " by " + number(input.grain) : "");
    if (input.kind == InputKind::choice) {
      out += " starts " + number(input.whole_start) + " of";
      for (const Text& each : std::get<ChoiceInput>(m.input_defs[i].kind).choices) out += " " + each.text;
    }
    out += "\n";
  }
  return out;
}

std::string cues_text(const MachineData& m) {
  std::string out;
  for (std::size_t i = 0; i < m.cue_defs.size(); ++i)
    out += cue_text(m, static_cast<std::uint16_t>(i), static_cast<std::uint32_t>(i)) + ", " + m.cue_defs[i].kind + "\n";
  return out;
}

std::string clips_text(const MachineData& m) {
  std::string out;
  for (std::size_t c = 0; c < m.clips.size(); ++c) {
    const ClipData& clip = m.clips[c];
    out += clip_name(m, static_cast<std::uint16_t>(c)) + " length " + number(clip.length) + " cycle " +
           number(clip.cycle) + (clip.passes == 0 ? " endless" : " passes " + number(clip.passes)) + "\n";
    for (const Segment& segment : clip.segments)
      out += "  from " + number(segment.begin) + " " + clip_name(m, segment.clip) + " frame " + number(segment.frame) +
             (segment.mirrored ? " on the way back" : "") + "\n";
    for (const MarkData& mark : clip.marks) {
      constexpr std::string_view kAt[] = {"at the begin of", "at the end of", "at", "over", "over"};
      out += "  mark " + cue_text(m, mark.cue, mark.fields) + " " +
             std::string(kAt[static_cast<std::size_t>(mark.at)]) +
             (mark.at == MarkAt::time    ? " tick " + number(mark.time)
              : mark.at == MarkAt::times ? " ticks " + number(mark.time) + " to " + number(mark.until)
                                         : " frame " + number(mark.first)) +
             (mark.at == MarkAt::frames ? " to " + number(mark.last) : "") + "\n";
    }
    for (const ClipWindow& window : clip.windows) {
      out += "  window " + m.window_names[window.name];
      for (const Stretch& each : window.stretches)
        out += (each.timed ? " ticks " : " frames ") + number(each.begin) + " to " + number(each.end);
      out += "\n";
    }
  }
  return out;
}

std::string tree_text(const MachineData& m) {
  std::string out;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    out += number(s) + " " + state_name(m, static_cast<std::uint16_t>(s));
    if (s > 0) out += " in " + state_name(m, state.parent) + ", region " + number(state.region);
    if (state.last != s) out += ", down to " + number(state.last);
    if (state.initial != kNoIndex) out += ", begins in " + state_name(m, state.initial);
    if (state.final) out += ", final";
    if (state.sealed) out += ", sealed";
    for (std::size_t t = 0; t < m.trait_names.size(); ++t)
      if ((state.traits >> t & 1) != 0) out += ", " + m.trait_names[t];
    out += "\n";
  }
  for (std::size_t r = 0; r < m.regions.size(); ++r)
    out += "region " + number(r) + (m.region_infos[r].path.empty() ? "" : " " + m.region_infos[r].path) + " of " +
           state_name(m, m.regions[r].owner) + ", begins in " + state_name(m, m.regions[r].initial) + "\n";
  return out;
}

std::string plays_text(const MachineData& m) {
  constexpr std::string_view kTypes[] = {"nothing", "pose", "length", "clip"};
  std::string out;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const PlayData& play = m.states[s].play;
    if (play.type == PlayType::nothing) continue;
    out +=
        state_name(m, static_cast<std::uint16_t>(s)) + " " + std::string(kTypes[static_cast<std::size_t>(play.type)]);
    for (const PlayedClip& played : MachineData::view(m.played, play.clips)) out += " " + clip_name(m, played.clip);
    if (play.type == PlayType::pose)
      out += play.pose_frame < 0 ? " tick " + number(play.pose_time) : " frame " + number(play.pose_frame);
    if (play.by != kNoIndex) out += " by " + m.input_defs[play.by].name.text;
    if (play.blend != kNoIndex) out += " blended";
    out += "\n";
  }
  return out;
}

std::string block_text(const MachineData& m) {
  std::vector<std::tuple<std::uint32_t, int, std::string>> all;
  const auto add = [&](std::uint32_t at, int bytes, std::string what) {
    if (at != kNoOffset) all.emplace_back(at, bytes, std::move(what));
  };
  const auto add_slot = [&](const SlotData& slot, const std::string& of) {
    add(slot.playhead, 8, "playhead" + of);
    add(slot.speed, 4, "speed" + of);
    add(slot.passes, 2, "passes" + of);
    add(slot.choice, 1, "choice" + of);
  };
  for (std::size_t i = 0; i < m.inputs.size(); ++i) {
    const InputKind kind = m.inputs[i].kind;
    const bool wide = kind == InputKind::whole || kind == InputKind::number;
    add(m.inputs[i].offset, m.inputs[i].buffer > 0 ? 8 : wide ? 4 : 1, "input " + m.input_defs[i].name.text);
  }
  for (std::size_t i = 0; i < m.vars.size(); ++i)
    add(m.vars[i].offset, m.vars[i].type == ValueType::boolean || m.vars[i].type == ValueType::choice ? 1 : 4,
        "var " + m.var_names[i]);
  for (std::size_t r = 0; r < m.regions.size(); ++r) {
    const RegionData& region = m.regions[r];
    const std::string of = " of region " + number(r);
    add(region.leaf, 2, "active state" + of);
    add(region.rest, 2, "state to go back to" + of);
    add_slot(region.slot, of);
    add(region.fade_length, 8, "fade's length" + of);
    add(region.fade_run, 8, "fade's run" + of);
    for (std::size_t l = 0; region.fades() && l < region.layers.size(); ++l) {
      const LayerData& layer = region.layers[l];
      const std::string of_layer = " of layer " + number(l) + of;
      add_slot(layer.slot, of_layer);
      add(layer.weight, 4, "weight" + of_layer);
      add(layer.state, 2, "state" + of_layer);
      add(layer.loud, 1, "loud" + of_layer);
    }
  }
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const std::string of = " of " + state_name(m, static_cast<std::uint16_t>(s));
    add(m.states[s].timer, 8, "time in state" + of);
    add(m.states[s].back, 2, "way back" + of);
    add(m.states[s].last_child, 2, "last child" + of);
  }
  std::sort(all.begin(), all.end());
  std::string out = number(m.block_size) + " bytes\n";
  for (const auto& [at, bytes, what] : all) out += at_text(at) + " " + number(bytes) + " " + what + "\n";
  return out;
}

std::string states_text(const MachineData& m) {
  std::string out;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    std::string more;
    if (!state.play.speed_expression.empty()) more += "  speed " + text_of(m, state.play.speed_expression) + "\n";
    if (state.play.speed_expression.empty() && state.play.speed != kOne)
      more += "  speed " + number(state.play.speed) + "/65536\n";
    for (std::uint32_t v = state.vars.begin; v < state.vars.begin + state.vars.count; ++v)
      more += "  var " + m.var_names[v] + " starts " + number(m.vars[v].start) + "\n";
    more += actions_text(m, "enter:", state.enter) + actions_text(m, "exit:", state.exit) +
            actions_text(m, "each loop:", state.each_loop);
    if (!more.empty()) out += state_name(m, static_cast<std::uint16_t>(s)) + "\n" + more;
  }
  return out;
}

std::string go_text(const MachineData& m) {
  std::string out;
  for (std::size_t i = 0; i < m.transitions.size(); ++i) {
    const TransitionData& go = m.transitions[i];
    const EventRule rule = rule_of(go.event);
    out += number(i) + " " + state_name(m, go.owner) + " -> " +
           (go.target_kind == TargetKind::state ? state_name(m, go.target) : m.transition_infos[i].to);
    if (!m.transition_infos[i].text.empty()) out += ", " + m.transition_infos[i].text;
    if (!go.guard.empty()) out += " [" + text_of(m, go.guard) + "]";
    out += rule.lasts ? "" : ", for one round";
    out += rule.stands && !go.restart ? ", stands\n" : "\n";
    out += actions_text(m, "do:", go.actions);
  }
  return out;
}

std::string space_text(const MachineData& m) {
  std::string out = "unit " + number(m.unit) + " pixels\n";
  for (std::size_t i = 0; i < m.looks.size(); ++i)
    out += "look " + m.looks[i].name.text + " [" + text_of(m, m.look_guards[i]) + "]\n";
  for (const ReachDef& reach : m.reaches) out += "reach " + reach.name.text + "\n";
  for (const ZoneInfo& zone : m.zones) out += "zone " + zone.def.name.text + "\n";
  return out;
}

std::string stops_text(const MachineData& m) {
  std::string out;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const PlayData& play = m.states[s].play;
    if (!play.moves()) continue;
    for (const PlayedClip& played : MachineData::view(m.played, play.clips)) {
      const ClipData& clip = m.clips[played.clip];
      out += state_name(m, static_cast<std::uint16_t>(s)) + " " + clip_name(m, played.clip) +
             (played.edges_stir ? "" : ", nothing waits for its edges") + "\n";
      const auto firings = [&](std::string_view way, Range<Firing> range) {
        for (const Firing& firing : MachineData::view(m.firings, range)) {
          constexpr std::string_view kKinds[] = {"", "begin of ", "end of "};
          const bool own = firing.point == kOwnPoint;
          out += std::string(way) + std::string(kKinds[static_cast<std::size_t>(firing.kind)]) +
                 (own ? m.cue_defs[clip.marks[firing.mark].cue].name.text
                      : "mark " + number(firing.mark) + " of point " + number(firing.point));
        }
      };
      for (const Stop& stop : MachineData::view(m.stops, played.stops)) {
        out += "  at " + number(stop.at) + (stop.window ? ", window" : "");
        firings(", forward ", stop.forward);
        firings(", backward ", stop.backward);
        out += "\n";
      }
    }
  }
  return out;
}

namespace {

std::string deed_text(const MachineData& m, const Plan& plan, const Deed& deed) {
  switch (deed.does) {
    case Deed::Does::store8:
    case Deed::Does::store16:
    case Deed::Does::store32:
    case Deed::Does::store64:
      return at_text(deed.at) + " = " + number(deed.value);
    case Deed::Does::tell: {
      const Cue& record = plan.records[deed.at];
      if (record.what == Told::cue) return "tell " + cue_text(m, record.cue, record.fields);
      return (record.what == Told::enter ? "tell enter " : "tell leave ") + state_name(m, record.state);
    }
    case Deed::Does::assign:
      return action_text(m, m.actions[deed.at]);
    case Deed::Does::end_spans:
      return "end spans of " + state_name(m, static_cast<std::uint16_t>(deed.at));
    case Deed::Does::remember:
      return "remember the way back to " + state_name(m, static_cast<std::uint16_t>(deed.at));
    case Deed::Does::count:
      return "count " + number(deed.value);
  }
  return {};
}

// As exactly as it is compared.
std::string exactly(double value) {
  char text[40];
  return {text, std::to_chars(text, text + sizeof text, value).ptr};
}

std::string event_text(const MachineData& m, const PlanGo& go, const TransitionData& of) {
  switch (go.event) {
    case GoEvent::none:
      return {};
    case GoEvent::pulse:
      return " on pulse " + value_text(m, go.pulse);
    case GoEvent::cue:
      return " on cue " + m.cue_defs[of.arg].name.text;
    case GoEvent::at_end:
      return " at end";
    case GoEvent::at_loop:
      return " at loop";
    case GoEvent::after:
      return " after " + number(of.after >> kSubBits);
  }
  return {};
}

std::string guard_text(const MachineData& m, const Plan& plan, const PlanGo& go) {
  if (go.guard == PlanGo::Guard::nothing) return {};
  if (go.guard == PlanGo::Guard::program) return ", when " + text_of(m, go.expression);
  std::string out;
  for (const PlanGuard& guard : MachineData::view(plan.guards, go.guards)) {
    out += out.empty() ? ", when " : go.guard == PlanGo::Guard::any ? " or " : " and ";
    out += value_text(m, guard.at) + (guard.outside ? " outside " : " in ") + "[" + exactly(guard.low) + ", " +
           exactly(guard.high) + "]";
  }
  return out;
}

// What a leaf looks at: its transitions, with the bytes that must be so first.
std::string looks_text(const MachineData& m, const Plan& plan, const StatePlan& leaf) {
  std::string out;
  for (const LeafGo& go : MachineData::view(plan.leaf_gos, leaf.leaf_gos)) {
    out += (out.empty() ? "  looks at " : ", ") + number(go.go);
    const auto* const mask = reinterpret_cast<const std::uint8_t*>(&go.word.mask);
    const auto* const wanted = reinterpret_cast<const std::uint8_t*>(&go.wanted);
    bool first = true;
    for (std::uint32_t i = 0; i < kWord; ++i)
      if (mask[i] != 0)
        out += (std::exchange(first, false) ? " if " : " and ") + value_text(m, go.word.at + i) + " is " +
               number(wanted[i]);
    if (go.skip != 0) out += " (stands)";
  }
  return out.empty() ? out : out + "\n";
}

}  // namespace

std::string plan_text(const MachineData& m) {
  const Plan& plan = plan_of(m);
  std::string out = plan.possible ? "" : "the quick way is not possible here\n";
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    out += state_name(m, static_cast<std::uint16_t>(s));
    if (s > 0 && plan.possible) {
      const StatePlan& own = plan.states[s];
      if (own.steady) out += ", steady";
      out += "\n";
      const auto deeds = [&](std::string_view when, Range<Deed> range) {
        for (const Deed& deed : MachineData::view(plan.deeds, range))
          out += "  " + std::string(when) + " " + deed_text(m, plan, deed) + "\n";
      };
      deeds("leave:", own.leave);
      deeds("enter:", own.enter);
      deeds("begin:", own.begin);
    } else {
      out += "\n";
    }
    for (std::uint32_t i = state.go.begin; i < state.go.begin + state.go.count; ++i) {
      const PlanGo& go = plan.gos[i];
      out += "  go " + number(i) + event_text(m, go, m.transitions[i]) + guard_text(m, plan, go) + " -> " +
             state_name(m, go.target) + (plan.possible && !go.plain ? ", by the engine" : "") +
             (go.whole.count > 0 ? ", " + number(go.whole.count) + " deeds" : "") + "\n";
    }
    out += looks_text(m, plan, plan.states[s]);
  }
  return out;
}

}  // namespace mobrin::detail
