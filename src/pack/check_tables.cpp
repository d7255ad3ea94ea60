// Whether tables that came from outside may be run: every index and offset leads somewhere, every range lies within its
// table, expressions keep to their stack, and cycles have the places the engine relies on.
#include <algorithm>
#include <cmath>
#include <set>

#include "machine/tables.hpp"

namespace mobrin::detail {
namespace {

class Check {
 public:
  explicit Check(const MachineData& machine) : m(machine) {}

  std::string run() {
    sizes();
    if (why_.empty()) values();
    if (why_.empty()) expressions();
    if (why_.empty()) clips();
    if (why_.empty()) plays();
    if (why_.empty()) states();
    if (why_.empty()) rest();
    if (why_.empty()) block();
    return why_;
  }

 private:
  void need(bool holds, const char* what) {
    if (!holds && why_.empty()) why_ = std::string("its ") + what + " are not sound";
  }
  template <class T>
  [[nodiscard]] static bool within(Range<T> range, std::size_t size) {
    return range.begin <= size && range.count <= size - range.begin;
  }
  // Whether a value of `size` bytes lies in the block, behind the header's fixed part.
  [[nodiscard]] bool lies(std::uint32_t offset, std::size_t size) const {
    return offset >= offsetof(BlockHeader, given_away) && offset % size == 0 && m.block_size >= size &&
           offset <= m.block_size - size;
  }
  [[nodiscard]] bool lies_or_not(std::uint32_t offset, std::size_t size) const {
    return offset == kNoOffset || lies(offset, size);
  }
  [[nodiscard]] bool expression(ExprRef ref) const {
    return ref.begin <= m.expressions.code.size() && ref.count <= m.expressions.code.size() - ref.begin;
  }
  // Whether sub-ticks are a duration that may be.
  [[nodiscard]] static bool lasts(std::int64_t sub_ticks) {
    return sub_ticks >= 0 && sub_ticks <= kMaxDurationTicks << kSubBits;
  }
  [[nodiscard]] bool any_or(std::uint16_t index, std::size_t size) const { return index == kNoIndex || index < size; }

  void sizes() {
    need(m.block_size >= sizeof(BlockHeader) && m.block_size % 8 == 0 && m.block_size <= (std::size_t{1} << 24),
         "block's size");
    need(!m.states.empty() && m.states.size() <= kMaxStates && m.state_infos.size() == m.states.size(), "states");
    need(!m.regions.empty() && m.regions.size() <= kMaxRegions && m.region_infos.size() == m.regions.size(), "regions");
    need(m.inputs.size() <= kMaxInputs && m.input_defs.size() == m.inputs.size(), "inputs");
    need(m.cue_defs.size() <= kMaxCues && m.heard.size() == m.cue_defs.size() && m.fields.size() >= m.cue_defs.size() &&
             m.cue_words == (m.cue_defs.size() + 63) / 64,
         "cues");
    need(m.transitions.size() <= kMaxTransitions && m.transition_infos.size() == m.transitions.size(), "transitions");
    need(m.clip_infos.size() <= m.clips.size() && m.clips.size() <= kMaxClips + kMaxStates, "clips");
    need(m.var_names.size() == m.vars.size(), "variables");
    need(m.looks.size() == m.look_guards.size(), "looks");
    need(m.trait_names.size() <= kMaxTraits, "traits");
    need(m.durings.size() <= kMaxWindowsAskedFor && m.window_names.size() <= kMaxWindowNames, "windows");
    need(m.expressions.code.size() <= std::size_t{kMaxTransitions} * kMaxExpressionLength, "expressions");
    need(sound_unit(m.unit), "units");
  }

  void values() {
    for (std::size_t i = 0; i < m.inputs.size(); ++i) {
      const InputData& input = m.inputs[i];
      const bool wide = input.kind == InputKind::whole || input.kind == InputKind::number;
      need(lies(input.offset, wide ? 4 : input.kind == InputKind::pulse && input.buffer > 0 ? 8 : 1), "inputs");
      need(m.input_defs[i].kind.index() == static_cast<std::size_t>(input.kind), "inputs");
      need(input.buffer == 0 || input.kind == InputKind::pulse, "inputs");
      need(input.buffer >= 0 && input.buffer <= kMaxDurationTicks && input.whole_min <= input.whole_max &&
               input.min <= input.max && sound_grain(input.grain),
           "inputs");
      if (input.kind == InputKind::choice) {
        const auto* choices = std::get_if<ChoiceInput>(&m.input_defs[i].kind);
        need(choices != nullptr && !choices->choices.empty() && choices->choices.size() <= 255 &&
                 input.whole_start >= 0 && static_cast<std::size_t>(input.whole_start) < choices->choices.size(),
             "inputs");
      }
    }
    for (const std::int64_t after : m.afters) need(lasts(after), "timers");
    for (const VarData& var : m.vars) {
      need(lies(var.offset, var.type == ValueType::whole || var.type == ValueType::number ? 4 : 1), "variables");
      // What is stored in a float or a whole number must fit one.
      const double most = var.type == ValueType::whole ? 2147483647.0 : 3.4e38;
      need(var.start >= -most - 1 && var.start <= most, "variables");
    }
    for (const std::uint16_t pulse : m.brief_pulses)
      need(pulse < m.inputs.size() && m.inputs[pulse].kind == InputKind::pulse && m.inputs[pulse].buffer == 0,
           "pulses");
    for (const auto* regions : {&m.speed_regions, &m.choice_regions})
      for (const std::uint16_t region : *regions) need(region < m.regions.size(), "regions");
    std::vector<std::pair<std::uint32_t, ValueType>> variables;
    for (const VarData& var : m.vars) variables.emplace_back(var.offset, var.type);
    std::sort(variables.begin(), variables.end());
    for (const ActionData& action : m.actions) {
      const bool tells = action.cue != kNoIndex;
      need(tells ? action.cue < m.cue_defs.size() && action.fields < m.fields.size() : expression(action.value),
           "actions");
      need(tells || std::binary_search(variables.begin(), variables.end(), std::pair(action.offset, action.type)),
           "actions");
    }
  }

  // Each stretch that something refers to is run once over a stack of heights.
  void expressions() {
    const auto run = [&](ExprRef ref, bool may_be_empty) {
      need(expression(ref) && (may_be_empty || !ref.empty()) && ref.count <= kMaxExpressionLength, "expressions");
      if (!why_.empty() || ref.empty()) return;
      std::size_t height = 0;
      for (std::uint32_t i = ref.begin; i < ref.begin + ref.count; ++i) {
        const Instruction& step = m.expressions.code[i];
        const auto takes = static_cast<std::size_t>(operands_of(step.op));
        need(height >= takes, "expressions");
        if (!why_.empty()) return;
        height += 1 - takes;
        need(height <= kMaxStack, "expressions");
        const std::uint32_t arg = step.arg;
        if (step.op == Op::constant) need(arg < m.expressions.constants.size(), "expressions");
        if (step.op == Op::in_state) need(arg < m.states.size(), "expressions");
        if (step.op == Op::load_bool) need(lies(arg, 1), "expressions");
        if (step.op == Op::load_int || step.op == Op::load_float) need(lies(arg, 4), "expressions");
        if (!why_.empty()) return;
      }
      need(height == 1, "expressions");
    };
    for (const TransitionData& go : m.transitions) run(go.guard, true);
    for (const StateData& state : m.states) run(state.play.speed_expression, true);
    for (const BlendData& blend : m.blends) run(blend.x, false), run(blend.y, true);
    for (const ActionData& action : m.actions) run(action.value, action.cue != kNoIndex);
    for (const ExprRef guard : m.look_guards) run(guard, false);
  }

  void clips() {
    for (std::size_t c = 0; c < m.clips.size(); ++c) {
      const ClipData& clip = m.clips[c];
      need(clip.length > 0 && clip.cycle > 0 && clip.cycle <= 2 * kMaxDurationTicks && clip.passes >= 0 &&
               clip.passes <= kMaxPasses && !clip.segments.empty() && clip.segments.front().begin == 0,
           "clips");
      need(clip.length <= clip.cycle && clip.turn >= 0 && clip.turn <= clip.length &&
               clip.segments.size() <= 2 * kMaxSegments && clip.marks.size() <= kMaxMarksOfCycle &&
               clip.windows.size() <= kMaxMarksOfCycle,
           "clips");
      for (const CyclePart& part : clip.parts)
        need(any_or(part.clip, m.clips.size()) && part.begin >= 0 && part.begin < clip.cycle &&
                 part.segment < clip.segments.size(),
             "clips");
      for (std::size_t i = 0; i < clip.segments.size(); ++i)
        need(clip.segments[i].begin >= 0 && clip.segments[i].begin < clip.cycle &&
                 (i == 0 || clip.segments[i].begin >= clip.segments[i - 1].begin),
             "clips");
      if (!why_.empty()) return;
      for (std::size_t i = 0; i < clip.segments.size(); ++i) {
        const Segment& segment = clip.segments[i];
        // Shown as seconds of the clip's own time: it stays within the clip.
        const std::int64_t lasts =
            (i + 1 < clip.segments.size() ? clip.segments[i + 1].begin : clip.cycle) - segment.begin;
        need(segment.own >= 0 && segment.own <= clip.length &&
                 (segment.mirrored ? segment.own >= lasts : segment.own + lasts <= clip.length + 1),
             "clips");
        need(any_or(segment.clip, m.clip_infos.size()), "clips");
        if (segment.clip == kNoIndex || !why_.empty()) continue;
        const auto frames = static_cast<std::int64_t>(m.clip_infos[segment.clip].def.frames.size());
        need(segment.frame >= -1 && segment.frame < frames, "clips");
      }
      for (const MarkData& mark : clip.marks)
        need(mark.cue < m.cue_defs.size() && mark.clip < m.clip_infos.size() && mark.fields < m.fields.size(), "marks");
      for (const ClipWindow& window : clip.windows)
        need(window.name < std::max<std::size_t>(1, m.window_names.size()), "windows");
    }
    for (const ClipInfo& info : m.clip_infos) {
      const ClipMarksDef& marks = info.marks;
      need(info.length.count > 0 && info.length.count <= kMaxDurationTicks && info.cycle >= info.length &&
               std::is_sorted(info.borders.begin(), info.borders.end()),
           "clips");
      for (const BoxDef& box : marks.boxes)
        need(sound_shape(box.shape, false) && box.every.count >= 0 && box.every.count <= kMaxDurationTicks, "boxes");
      for (const TrackDef& track : marks.tracks) need(sound_track(track, info.length), "tracks");
      const auto near = [](const std::pair<double, double>& at) {
        return near_pivot(at.first) && near_pivot(at.second);
      };
      need((!marks.pivot || near(*marks.pivot)) && (!marks.offset || near(*marks.offset)), "marks");
      for (const OffsetDef& offset : marks.offsets) need(near_pivot(offset.x) && near_pivot(offset.y), "marks");
    }
    for (const ReachDef& reach : m.reaches) need(sound_shape(reach.shape, true), "reaches");
    for (const ZoneInfo& zone : m.zones) need(sound_shape(zone.def.shape, false), "zones");
    need(count_tags(m) <= kMaxTags, "tags");
    for (const ClipInfo& info : m.clip_infos)
      need(info.borders.empty() ? info.def.frames.empty() : info.borders.size() == info.def.frames.size() + 1, "clips");
  }

  void plays() {
    for (const Stop& stop : m.stops)
      need(within(stop.forward, m.firings.size()) && within(stop.backward, m.firings.size()), "places");
    for (const PlayedClip& played : m.played)
      need(played.clip < m.clips.size() && within(played.stops, m.stops.size()), "plays");
    for (const BlendData& blend : m.blends)
      need(!blend.points.empty() && blend.points.size() <= kMostBlendPoints && blend.floor >= 0 && blend.floor <= 1 &&
               std::isfinite(blend.cues_above) &&
               std::all_of(blend.points.begin(), blend.points.end(),
                           [](const BlendPointDef& point) { return near_pivot(point.x) && near_pivot(point.y); }),
           "blends");
    if (!why_.empty()) return;
    for (const StateData& state : m.states) {
      const PlayData& play = state.play;
      need(within(play.clips, m.played.size()) && any_or(play.by, m.inputs.size()) &&
               any_or(play.blend, m.blends.size()),
           "plays");
      need(play.type == PlayType::nothing || play.clips.count > 0, "plays");
      need(play.moves() || !play.follows(), "plays");
      need(play.type != PlayType::nothing || !play.chooses(), "plays");
      if (!why_.empty() || play.type == PlayType::nothing) continue;
      std::size_t choices = 1;
      if (play.by != kNoIndex) {
        const auto* by = std::get_if<ChoiceInput>(&m.input_defs[play.by].kind);
        need(by != nullptr, "plays");
        choices = by != nullptr ? by->choices.size() : 0;
      }
      if (play.blend != kNoIndex) choices = m.blends[play.blend].points.size();
      need(play.clips.count == choices, "plays");
      for (const PlayedClip& played : MachineData::view(m.played, play.clips)) {
        if (!why_.empty()) return;
        const ClipData& clip = m.clips[played.clip];
        if (play.type == PlayType::pose) {
          need(played.clip < m.clip_infos.size(), "plays");
          if (!why_.empty()) return;
          const auto frames = static_cast<std::int64_t>(m.clip_infos[played.clip].def.frames.size());
          need(frames > 0 ? play.pose_frame >= 0 && play.pose_frame < frames : play.pose_frame == -1, "plays");
          need(play.pose_time >= 0 && play.pose_time <= kMaxDurationTicks, "plays");
          continue;
        }
        stops(play, played, clip);
      }
    }
  }

  // The engine runs from place to place and relies on one at each edge of the cycle.
  void stops(const PlayData& play, const PlayedClip& played, const ClipData& clip) {
    const auto all = MachineData::view(m.stops, played.stops);
    need(all.size() >= 2 && all.front().at == 0 && all.front().always && all.back().at == clip.cycle &&
             all.back().always,
         "places");
    for (std::size_t i = 1; i < all.size(); ++i) need(all[i - 1].at < all[i].at, "places");
    for (const Stop& stop : all)
      for (const Range<Firing> range : {stop.forward, stop.backward})
        for (const Firing& firing : MachineData::view(m.firings, range)) {
          const bool other = firing.point != kOwnPoint;
          need(!other || (play.blend != kNoIndex && firing.point < play.clips.count), "places");
          if (!why_.empty()) return;
          const ClipData& of = other ? m.clips[m.played[play.clips.begin + firing.point].clip] : clip;
          need(firing.mark < of.marks.size(), "places");
        }
  }

  void slot(const SlotData& slot) {
    need(lies_or_not(slot.playhead, 8) && lies_or_not(slot.speed, 4) && lies_or_not(slot.passes, 2) &&
             lies_or_not(slot.choice, 1),
         "regions");
  }

  void states() {
    for (std::size_t r = 0; r < m.regions.size(); ++r) {
      const RegionData& region = m.regions[r];
      need(region.owner < m.states.size() && region.initial > 0 && region.initial < m.states.size() &&
               lies(region.leaf, 2) && lies_or_not(region.rest, 2) && lies_or_not(region.fade_length, 8) &&
               lies_or_not(region.fade_run, 8) && (region.fade_length == kNoOffset) == (region.fade_run == kNoOffset),
           "regions");
      slot(region.slot);
      for (const LayerData& layer : region.layers) {
        slot(layer.slot);
        need(lies_or_not(layer.weight, 4) && lies_or_not(layer.state, 2) && lies_or_not(layer.loud, 1), "regions");
        if (region.fades())
          need(layer.weight != kNoOffset && layer.state != kNoOffset && layer.loud != kNoOffset, "regions");
      }
      if (why_.empty())
        need(m.states[region.initial].region == r && m.states[region.initial].parent == region.owner, "regions");
    }
    for (std::size_t s = 0; s < m.states.size(); ++s) {
      const StateData& state = m.states[s];
      need(s == 0 ? state.last == m.states.size() - 1
                  : state.parent < s && state.last >= s && state.last <= m.states[state.parent].last,
           "states");
      if (!why_.empty()) return;
      need(lasts(state.linger), "timers");
      need(state.play.speed >= -kMaxSpeed && state.play.speed <= kMaxSpeed, "plays");
      need(state.region < m.regions.size() && state.depth <= kMaxDepth &&
               (s == 0 || state.depth == m.states[state.parent].depth + 1),
           "states");
      need(state.region_begin + std::size_t{state.region_count} <= m.regions.size() || state.region_count == 0,
           "states");
      need(state.initial == kNoIndex || (state.initial > s && state.initial <= state.last), "states");
      need(s != 0 || state.region_count > 0, "states");
      need(lies_or_not(state.back, 2) && lies_or_not(state.last_child, 2) && lies_or_not(state.timer, 8), "states");
      need(within(state.go, m.transitions.size()) && within(state.afters, m.afters.size()) &&
               within(state.vars, m.vars.size()) && within(state.enter, m.actions.size()) &&
               within(state.exit, m.actions.size()) && within(state.each_loop, m.actions.size()),
           "states");
      if (!why_.empty()) return;
      if (state.initial != kNoIndex)
        need(m.states[state.initial].parent == s && m.states[state.initial].region == state.region, "states");
      for (std::uint16_t r = state.region_begin; r < state.region_begin + state.region_count; ++r)
        need(m.regions[r].owner == s, "regions");
      if (s == 0) continue;
      // It lies in the region of the state around it, or in one that this owns.
      const RegionData& region = m.regions[state.region];
      need(region.owner == state.parent || m.states[state.parent].region == state.region, "states");
      const PlayData& play = state.play;
      const SlotData& values = region.slot;
      if (play.moves()) need(values.playhead != kNoOffset, "plays");
      if (play.chooses() && play.type != PlayType::nothing) need(values.choice != kNoOffset, "plays");
      if (play.follows() && play.moves()) need(values.speed != kNoOffset && values.passes != kNoOffset, "plays");
      for (const PlayedClip& played : MachineData::view(m.played, play.clips))
        if (play.moves() && m.clips[played.clip].passes > 0) need(values.passes != kNoOffset, "plays");
      if (region.fades())
        for (const LayerData& layer : region.layers)
          need((values.playhead == kNoOffset) == (layer.slot.playhead == kNoOffset) &&
                   (values.choice == kNoOffset) == (layer.slot.choice == kNoOffset) &&
                   (values.speed == kNoOffset) == (layer.slot.speed == kNoOffset) &&
                   (values.passes == kNoOffset) == (layer.slot.passes == kNoOffset),
               "regions");
    }
  }

  void rest() {
    for (std::size_t t = 0; t < m.transitions.size(); ++t) {
      const TransitionData& go = m.transitions[t];
      need(go.owner < m.states.size() && go.target < m.states.size() && any_or(go.during, m.durings.size()),
           "transitions");
      if (!why_.empty()) return;
      if (go.event == GoEvent::pulse)
        need(go.arg < m.inputs.size() && m.inputs[go.arg].kind == InputKind::pulse, "transitions");
      if (go.event == GoEvent::cue) need(go.arg < m.cue_defs.size(), "transitions");
      if (go.event == GoEvent::after) need(m.states[go.owner].timer != kNoOffset, "transitions");
      if (!why_.empty()) return;
      const StateData& target = m.states[go.target];
      if (go.target_kind == TargetKind::back)
        need(go.target > 0 && (target.back != kNoOffset || m.regions[target.region].rest != kNoOffset), "transitions");
      if (go.target_kind == TargetKind::last)
        need(target.last_child != kNoOffset && target.initial != kNoIndex, "transitions");
      need(go.target_kind != TargetKind::state || go.target > 0, "transitions");
      need(within(go.actions, m.actions.size()) && lasts(go.fade) && lasts(go.after), "transitions");
      if (go.start == StartKind::frame || go.start == StartKind::time) start_inside(go);
    }
    for (const ZoneInfo& zone : m.zones)
      need(any_or(zone.inside, m.inputs.size()) && any_or(zone.enter, m.inputs.size()) &&
               any_or(zone.leave, m.inputs.size()),
           "zones");
    for (const StateInfo& state : m.state_infos) {
      for (const std::uint16_t clip : state.clips) need(clip < m.clip_infos.size(), "states");
      need(state.parent < m.states.size() && state.region < m.regions.size() && any_or(state.initial, m.states.size()),
           "states");
    }
    for (const TransitionInfo& go : m.transition_infos)
      need(go.owner < m.states.size() && go.target < m.states.size() && any_or(go.pulse, m.inputs.size()),
           "transitions");
    for (const RegionInfo& region : m.region_infos)
      need(region.owner < m.states.size() && region.initial < m.states.size(), "regions");
    if (!why_.empty()) return;
    // What it says of itself must be so.
    need(m.most_records == bound_of_records(m) && m.most_records <= kMaxOrdinal, "records");
    for (std::size_t i = 0; i < m.cue_defs.size(); ++i) need(m.fields[i].size() == m.cue_defs[i].fields.size(), "cues");
  }

  // No two values share a byte, but timers of states that are never active together.
  void block() {
    std::vector<bool> taken(m.block_size);
    const auto claim = [&](std::uint32_t offset, std::size_t size) {
      if (offset == kNoOffset) return;
      for (std::size_t i = offset; i < offset + size; ++i) {
        need(!taken[i], "values' places");
        taken[i] = true;
      }
    };
    const auto claim_slot = [&](const SlotData& slot) {
      claim(slot.playhead, 8), claim(slot.speed, 4), claim(slot.passes, 2), claim(slot.choice, 1);
    };
    for (const InputData& input : m.inputs) {
      const bool wide = input.kind == InputKind::whole || input.kind == InputKind::number;
      claim(input.offset, wide ? 4 : input.kind == InputKind::pulse && input.buffer > 0 ? 8 : 1);
    }
    for (const VarData& var : m.vars)
      claim(var.offset, var.type == ValueType::whole || var.type == ValueType::number ? 4 : 1);
    for (const RegionData& region : m.regions) {
      claim(region.leaf, 2), claim(region.rest, 2), claim(region.fade_length, 8), claim(region.fade_run, 8);
      claim_slot(region.slot);
      for (const LayerData& layer : region.layers) {
        claim_slot(layer.slot);
        claim(layer.weight, 4), claim(layer.state, 2), claim(layer.loud, 1);
      }
    }
    std::set<std::uint32_t> timers;
    for (const StateData& state : m.states) {
      claim(state.back, 2), claim(state.last_child, 2);
      if (timers.insert(state.timer).second) claim(state.timer, 8);
    }
  }

  // Where a play begins at a frame or a time, each clip of what may be entered must have it.
  void start_inside(const TransitionData& go) {
    for (std::size_t s = go.target; s <= m.states[go.target].last; ++s) {
      const PlayData& play = m.states[s].play;
      if (!play.moves()) continue;
      for (const PlayedClip& played : MachineData::view(m.played, play.clips)) {
        const ClipData& clip = m.clips[played.clip];
        const auto shows = [&](const Segment& x) { return x.frame == go.start_frame; };
        const bool has = go.start == StartKind::time
                             ? clip.parts.size() <= 1 && go.start_time >= 0 && go.start_time <= clip.length
                             : std::any_of(clip.segments.begin(), clip.segments.end(), shows);
        need(m.states[go.target].last != go.target || has, "transitions");
      }
    }
  }

  const MachineData& m;
  std::string why_;
};

}  // namespace

std::string unsound(const MachineData& machine) { return Check(machine).run(); }

}  // namespace mobrin::detail
