// What stands in each table, in which order: one list for writing and reading packs (docs/pack.md is its grammar) and
// for fingerprints.
#pragma once

#include "machine/machine_data.hpp"

namespace mobrin::detail {

// An archive has: number(x) for whole numbers, bools and floating-point ones, size(x) for what is as wide as
// the processor, word(enum, last), name(text) for what may
// be left out, words(text) for what only people read, text(string), list(vector, each), maybe(optional, each),
// choice(variant), and kWithArt: whether it takes pictures and files, which change nothing in what a machine does.

// One alternative of a variant.
template <class A, class T>
void alternative(A& a, T& value) {
  if constexpr (std::is_arithmetic_v<T>)
    a.number(value);
  else if constexpr (std::is_same_v<T, std::string>)
    a.text(value);
  else if constexpr (std::is_same_v<T, std::vector<double>>)
    a.list(value, [&](double& each) { a.number(each); });
  else
    fields(a, value);
}

template <class A, class T>
void fields(A& a, Range<T>& v) {
  a.number(v.begin);
  a.number(v.count);
}
template <class A>
void fields(A& a, ExprRef& v) {
  a.number(v.begin);
  a.number(v.count);
}
template <class A>
void fields(A& a, Ticks& v) {
  a.number(v.count);
}
template <class A>
void fields(A& a, Place& v) {
  a.place(v);
}

// --- definitions that the compiled machine keeps ---

template <class A>
void fields(A& a, FieldValue& v) {
  a.choice(v);
}
template <class A>
void fields(A& a, FieldDef& v) {
  a.name(v.name);
  fields(a, v.value);
}
template <class A>
void fields(A& a, BoolInput& v) {
  a.number(v.start);
}
template <class A>
void fields(A& a, IntInput& v) {
  a.number(v.start), a.number(v.min), a.number(v.max);
}
template <class A>
void fields(A& a, FloatInput& v) {
  a.number(v.start), a.number(v.min), a.number(v.max), a.number(v.grain);
}
template <class A>
void fields(A& a, ChoiceInput& v) {
  a.list(v.choices, [&](Text& each) { a.name(each); });
  a.name(v.start);
}
template <class A>
void fields(A& a, PulseInput& v) {
  fields(a, v.buffer);
}
template <class A>
void fields(A& a, InputDef& v) {
  a.name(v.name);
  a.choice(v.kind);
}
template <class A>
void fields(A& a, CueDef& v) {
  a.name(v.name);
  a.text(v.kind);
  a.list(v.fields, [&](FieldDef& each) { fields(a, each); });
}
template <class A>
void fields(A& a, PixelRect& v) {
  a.number(v.x), a.number(v.y), a.number(v.width), a.number(v.height);
}
template <class A>
void fields(A& a, FrameDef& v) {
  a.number(v.hold);
  fields(a, v.time);
  if constexpr (A::kWithArt) {
    a.text(v.art.source), a.text(v.art.tile);
    fields(a, v.art.rect);
    a.number(v.art.margin), a.number(v.art.spacing);
    fields(a, v.art.whole);
  }
}
template <class A>
void fields(A& a, ClipDef& v) {
  a.text(v.name);
  a.list(v.frames, [&](FrameDef& each) { fields(a, each); });
  a.number(v.fps.num), a.number(v.fps.den);
  fields(a, v.length);
  a.word(v.play.kind, PlayKind::back_and_forth);
  a.number(v.play.passes);
}
template <class A>
void fields(A& a, MarkDef& v) {
  a.name(v.cue);
  a.word(v.at, MarkAt::times);
  a.number(v.frame), a.number(v.last_frame);
  fields(a, v.time), fields(a, v.until);
  a.word(v.way, MarkWay::backward);
  a.list(v.fields, [&](FieldDef& each) { fields(a, each); });
  fields(a, v.place);
}
template <class A>
void fields(A& a, StretchDef& v) {
  a.number(v.timed), a.number(v.first), a.number(v.last);
  fields(a, v.begin), fields(a, v.end);
}
template <class A>
void fields(A& a, WindowDef& v) {
  a.name(v.name);
  a.list(v.stretches, [&](StretchDef& each) { fields(a, each); });
}
template <class A>
void fields(A& a, RectShape& v) {
  a.number(v.left), a.number(v.bottom), a.number(v.width), a.number(v.height);
}
template <class A>
void fields(A& a, CircleShape& v) {
  a.number(v.x), a.number(v.y), a.number(v.radius);
}
template <class A>
void fields(A& a, ConeShape& v) {
  a.number(v.x), a.number(v.y), a.number(v.length), a.number(v.angle);
}
template <class A>
void fields(A& a, BoxDef& v) {
  a.text(v.name), a.text(v.role);
  a.list(v.stretches, [&](StretchDef& each) { fields(a, each); });
  a.choice(v.shape);
  fields(a, v.place);
  a.list(v.hits, [&](std::string& each) { a.text(each); });
  a.list(v.spares, [&](std::string& each) { a.text(each); });
  fields(a, v.every);
}
template <class A>
void fields(A& a, TrackDef& v) {
  a.text(v.name);
  a.word(v.curve, TrackCurve::cubic);
  a.list(v.keys, [&](TrackKey& each) {
    fields(a, each.time);
    a.number(each.value), a.number(each.in), a.number(each.out);
  });
}
template <class A>
void fields(A& a, OffsetDef& v) {
  a.number(v.first), a.number(v.last), a.number(v.x), a.number(v.y);
  fields(a, v.place);
}
template <class A>
void fields(A& a, std::pair<double, double>& v) {
  a.number(v.first), a.number(v.second);
}
template <class A>
void fields(A& a, ClipMarksDef& v) {
  a.text(v.clip);
  a.maybe(v.pivot), a.maybe(v.offset);
  a.list(v.offsets, [&](OffsetDef& each) { fields(a, each); });
  a.number(v.airborne);
  a.list(v.boxes, [&](BoxDef& each) { fields(a, each); });
  a.list(v.tracks, [&](TrackDef& each) { fields(a, each); });
  a.list(v.marks, [&](MarkDef& each) { fields(a, each); });
  a.list(v.windows, [&](WindowDef& each) { fields(a, each); });
}
template <class A>
void fields(A& a, ReachDef& v) {
  a.text(v.name);
  a.choice(v.shape);
  a.list(v.hits, [&](std::string& each) { a.text(each); });
  a.list(v.spares, [&](std::string& each) { a.text(each); });
}
template <class A>
void fields(A& a, ZoneInfo& v) {
  a.text(v.def.name);
  a.choice(v.def.shape);
  a.list(v.def.tags, [&](std::string& each) { a.text(each); });
  a.name(v.def.inside), a.name(v.def.enter), a.name(v.def.leave);
  a.number(v.inside), a.number(v.enter), a.number(v.leave), a.number(v.counts);
}
template <class A>
void fields(A& a, LookDef& v) {
  a.text(v.name);
  a.words(v.when);
  if constexpr (A::kWithArt)
    a.list(v.art, [&](std::pair<std::string, std::string>& each) { a.text(each.first), a.text(each.second); });
}
template <class A>
void fields(A& a, BlendPointDef& v) {
  a.number(v.x), a.number(v.y);
  a.text(v.clip);
  a.number(v.mirrored), a.number(v.backward);
}

// --- compiled tables ---

template <class A>
void fields(A& a, InputData& v) {
  a.word(v.kind, InputKind::pulse);
  a.number(v.offset), a.number(v.whole_min), a.number(v.whole_max), a.number(v.whole_start);
  a.number(v.min), a.number(v.max), a.number(v.start), a.number(v.grain), a.number(v.buffer);
}
template <class A>
void fields(A& a, VarData& v) {
  a.word(v.type, ValueType::choice);
  a.number(v.offset), a.number(v.start);
}
template <class A>
void fields(A& a, ActionData& v) {
  fields(a, v.value);
  a.word(v.type, ValueType::choice);
  a.number(v.offset), a.number(v.cue), a.number(v.fields);
}
template <class A>
void fields(A& a, Stretch& v) {
  a.number(v.timed), a.number(v.to_end), a.number(v.clip), a.number(v.begin), a.number(v.end);
}
template <class A>
void fields(A& a, ClipWindow& v) {
  a.number(v.name);
  a.list(v.stretches, [&](Stretch& each) { fields(a, each); });
}
template <class A>
void fields(A& a, Segment& v) {
  a.number(v.begin), a.number(v.own), a.number(v.frame), a.number(v.clip), a.number(v.mirrored);
}
template <class A>
void fields(A& a, MarkData& v) {
  a.word(v.at, MarkAt::times);
  a.word(v.way, MarkWay::backward);
  a.number(v.cue), a.number(v.clip), a.number(v.first), a.number(v.last);
  a.number(v.time), a.number(v.until), a.number(v.fields);
}
template <class A>
void fields(A& a, CyclePart& v) {
  a.number(v.clip), a.number(v.begin), a.number(v.segment);
}
template <class A>
void fields(A& a, ClipData& v) {
  a.number(v.length), a.number(v.cycle), a.number(v.turn), a.number(v.passes);
  a.list(v.segments, [&](Segment& each) { fields(a, each); });
  a.list(v.parts, [&](CyclePart& each) { fields(a, each); });
  a.list(v.marks, [&](MarkData& each) { fields(a, each); });
  a.list(v.windows, [&](ClipWindow& each) { fields(a, each); });
}
template <class A>
void fields(A& a, Firing& v) {
  a.number(v.mark);
  a.word(v.kind, FiringKind::span_end);
  a.number(v.frame), a.number(v.point);
}
template <class A>
void fields(A& a, Stop& v) {
  a.number(v.at), a.number(v.always), a.number(v.window);
  fields(a, v.forward), fields(a, v.backward);
}
template <class A>
void fields(A& a, PlayedClip& v) {
  a.number(v.clip);
  fields(a, v.stops);
  a.number(v.edges_stir), a.number(v.forward_round), a.number(v.backward_round);
}
template <class A>
void fields(A& a, PlayData& v) {
  a.word(v.type, PlayType::clip);
  a.number(v.by), a.number(v.blend);
  fields(a, v.clips);
  a.number(v.speed);
  fields(a, v.speed_expression);
  a.number(v.pose_frame), a.number(v.pose_time);
}
template <class A>
void fields(A& a, BlendData& v) {
  fields(a, v.x), fields(a, v.y);
  a.list(v.points, [&](BlendPointDef& each) { fields(a, each); });
  a.number(v.floor), a.number(v.cues_above);
}
template <class A>
void fields(A& a, DuringData& v) {
  a.number(v.window);
  fields(a, v.stretch);
}
template <class A>
void fields(A& a, TransitionData& v) {
  a.word(v.event, GoEvent::after);
  a.word(v.start, StartKind::time);
  a.word(v.target_kind, TargetKind::last);
  a.number(v.restart), a.number(v.loud), a.number(v.owner), a.number(v.target), a.number(v.arg), a.number(v.during);
  a.number(v.start_frame), a.number(v.start_time), a.number(v.after), a.number(v.fade);
  fields(a, v.guard), fields(a, v.actions);
}
template <class A>
void fields(A& a, StateData& v) {
  a.number(v.parent), a.number(v.last), a.number(v.region), a.number(v.initial);
  a.number(v.region_begin), a.number(v.region_count), a.number(v.depth);
  a.number(v.final), a.number(v.sealed), a.number(v.restful);
  a.number(v.back), a.number(v.last_child), a.number(v.timer), a.number(v.linger), a.number(v.traits);
  fields(a, v.play), fields(a, v.go), fields(a, v.afters), fields(a, v.vars);
  fields(a, v.enter), fields(a, v.exit), fields(a, v.each_loop);
}
template <class A>
void fields(A& a, SlotData& v) {
  a.number(v.playhead), a.number(v.speed), a.number(v.passes), a.number(v.choice);
}
template <class A>
void fields(A& a, RegionData& v) {
  a.number(v.owner), a.number(v.initial), a.number(v.rest), a.number(v.leaf);
  fields(a, v.slot);
  a.number(v.fade_length), a.number(v.fade_run);
  for (LayerData& layer : v.layers) {
    fields(a, layer.slot);
    a.number(layer.weight), a.number(layer.state), a.number(layer.loud);
  }
}
template <class A>
void fields(A& a, Instruction& v) {
  a.word(v.op, Op::select);
  a.number(v.arg);
}

// --- for people and tools ---

template <class A>
void fields(A& a, ClipInfo& v) {
  fields(a, v.def), fields(a, v.marks), fields(a, v.length), fields(a, v.cycle);
  a.list(v.borders, [&](Ticks& each) { fields(a, each); });
}
template <class A>
void fields(A& a, StateInfo& v) {
  a.name(v.path);
  a.number(v.parent), a.number(v.region);
  a.list(v.clips, [&](std::uint16_t& each) { a.number(each); });
  a.words(v.plays);
  a.number(v.has_children), a.number(v.initial), a.number(v.final), a.number(v.sealed), a.number(v.uses_loops);
  a.list(v.traits, [&](std::string& each) { a.name(each); });
  fields(a, v.place);
}
template <class A>
void fields(A& a, RegionInfo& v) {
  a.name(v.path);
  a.number(v.owner), a.number(v.initial);
}
template <class A>
void fields(A& a, TransitionInfo& v) {
  a.number(v.owner), a.number(v.target), a.number(v.pulse);
  a.words(v.to), a.words(v.text);
  fields(a, v.place);
}

template <class A>
void fields(A& a, MachineData& m) {
  const auto all = [&](auto& list) { a.list(list, [&](auto& each) { fields(a, each); }); };
  const auto numbers = [&](auto& list) { a.list(list, [&](auto& each) { a.number(each); }); };
  const auto names = [&](std::vector<std::string>& list) { a.list(list, [&](std::string& each) { a.name(each); }); };
  a.text(m.name);
  a.size(m.block_size), a.number(m.most_records);
  all(m.inputs), all(m.states), all(m.regions), all(m.transitions), all(m.durings), all(m.clips), all(m.played);
  all(m.blends), all(m.stops), all(m.firings);
  numbers(m.afters);
  all(m.vars), all(m.actions);
  a.list(m.fields, [&](std::vector<FieldValue>& values) { all(values); });
  all(m.expressions.code);
  numbers(m.expressions.constants);
  a.number(m.timed), a.number(m.ends), a.size(m.cue_words);
  numbers(m.heard), numbers(m.brief_pulses), numbers(m.speed_regions), numbers(m.choice_regions);
  a.number(m.unit);
  all(m.reaches), all(m.zones), all(m.looks), all(m.look_guards);
  all(m.input_defs), all(m.cue_defs), all(m.clip_infos), all(m.state_infos), all(m.region_infos),
      all(m.transition_infos);
  names(m.trait_names), names(m.window_names);
  if constexpr (A::kWithArt) names(m.files);
  names(m.var_names);
}

// check_tables.cpp
// What is wrong with tables that were read; empty where the engine may run them.
[[nodiscard]] std::string unsound(const MachineData& machine);

}  // namespace mobrin::detail
