// What the quick way knows of plays: their laps and stops; and what is made of a machine when it is complete.
#include <algorithm>
#include <cstring>

#include "engine/quick.hpp"

namespace mobrin::detail {

Prepared::Prepared(const MachineData& m)
    : plan(m),
      programs(m.expressions, programs_of(m, plan)),
      of_game(m, plan, programs, false),
      of_all(m, plan, programs, true) {}

double number_of(const MachineData& machine, const std::byte* block, ExprRef expression) {
  return machine.prepared->programs.number(machine, block, expression);
}
bool holds(const MachineData& machine, const std::byte* block, ExprRef expression) {
  return machine.prepared->programs.holds(machine, block, expression);
}

const Plan& plan_of(const MachineData& machine) { return machine.prepared->plan; }

void complete(MachineData& machine) {
  list_images(machine);
  machine.prepared = std::make_shared<const Prepared>(machine);
}

Quick::Quick(const MachineData& m, const Plan& plan, const Programs& programs, bool hears_loops)
    : m_(m),
      plan_(plan),
      programs_(programs),
      possible_(plan.possible),
      single_(plan.possible && m.regions.size() == 1),
      laps_(m.states.size()) {
  for (const RegionData& region : m.regions)
    slots_.push_back({region.leaf, region.slot.playhead, region.slot.passes, region.fade_length});
  root_looks_ = plan.possible && m.regions.size() > 1 && m.states[0].go.count > 0;
  for (std::size_t s = 1; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    const PlayData& play = state.play;
    Lap& lap = laps_[s];
    lap.quick = plan.possible && plan.states[s].steady && !state.final;  // whether it is done is the engine's
    lap.moves = play.moves();
    if (!lap.moves) continue;
    const PlayedClip& played = m.played[play.clips.begin];
    const ClipData& clip = m.clips[played.clip];
    if (!lap.quick) continue;
    lap.pace = play.speed;
    lap.clip = played.clip;
    lap.endless = clip.passes == 0;
    lap.passes = static_cast<std::uint16_t>(clip.passes);
    lap.cycle = clip.cycle << kSubBits;
    lap.quick = lap.pace <= lap.cycle;  // at most one round a tick
    lap.rounds = 1 / static_cast<double>(lap.cycle);
    lap.round_trip = clip.passes == 0 && !hears_loops && played.forward_round;
    lap.first = static_cast<std::uint32_t>(stops_.size());
    add_stops(static_cast<std::uint16_t>(s), played, lap.round_trip, hears_loops);
    lap.stops = static_cast<std::uint32_t>(stops_.size() - lap.first);
  }
  for (std::size_t s = 1; s < m.states.size(); ++s) {
    Lap& lap = laps_[s];
    if (!lap.quick || !lap.moves) continue;
    const LapStop* const from_start = stop_ahead(lap, 0);
    lap.to_first = ticks_to(from_start, lap, 0);
    lap.first_stop = index_of(lap, from_start);
    lap.cruises = lap.round_trip && lap.pace == kOne && lap.stops > 0 && stops_.size() < kNoIndex;
    for (std::size_t i = 0; i < lap.stops; ++i) {
      LapStop& stop = stops_[lap.first + i];
      lap.cruises = lap.cruises && stop.quiet;
      const bool last = i + 1 == lap.stops;
      stop.next = static_cast<std::uint16_t>(lap.first + (last ? 0 : i + 1));
      stop.to_next = (stops_[stop.next].at + (last ? lap.cycle : 0) - stop.at) >> kSubBits;
      stops_[stop.next].since_last = stop.to_next;
      stops_[stop.next].told_last = stop.cues.count;
    }
  }
}

void Quick::add_stops(std::uint16_t state, const PlayedClip& played, bool round_trip, bool hears_loops) {
  const ClipData& clip = m_.clips[played.clip];
  const Stop &begin = m_.stops[played.stops.begin], &end = m_.stops[played.stops.begin + played.stops.count - 1];
  const bool rounds_tell = hears_loops || m_.state_infos[state].uses_loops || begin.window || end.window ||
                           begin.forward.count + end.forward.count > 0;
  for (const Stop& stop : MachineData::view(m_.stops, played.stops)) {
    const bool edge = stop.at == 0 || stop.at == clip.cycle;
    if (stop.at == 0 || (edge && round_trip)) continue;  // what lies at 0 is told with the round
    if (!stop.always && stop.forward.count == 0) continue;
    LapStop on_lap{stop.at << kSubBits, {static_cast<std::uint32_t>(cues_.size()), 0}, !edge && !stop.window};
    on_lap.ends = stop.at == clip.cycle && (clip.passes == 1 || (clip.passes > 1 && !rounds_tell));
    for (const Firing& firing : MachineData::view(m_.firings, stop.forward)) {
      const MarkData& mark = clip.marks[firing.mark];
      if (firing.point != kOwnPoint || m_.heard[mark.cue] != 0) {
        on_lap.quiet = on_lap.ends = false;
        break;
      }
      // Where the play ends the last frame stays shown, so no span ends there.
      if (on_lap.ends && firing.kind == FiringKind::span_end) continue;
      Cue& cue = cues_.emplace_back().cue;
      cue = record_of(mark, state, edge_of(firing.kind), firing.frame);
      cue.machine = &m_;
      cue.ordinal = on_lap.cues.count++;
    }
    stops_.push_back(on_lap);
  }
}

bool Quick::look(const std::byte* block, std::uint16_t region, std::int64_t now, Showing& out) const {
  const BlockHeader& h = header_of(block);
  if (h.flags != kStarted || h.frozen != 0 || h.rate() != kOne) return false;
  const Slot& slot = slots_[region];
  const Lap& lap = laps_[field_at<std::uint16_t>(block, slot.leaf)];
  const std::int64_t played = now - h.anchor;
  if (lap.pace == 0 || played > kLongestQuick || fades(block, slot)) return false;
  const auto here = field_at<std::int64_t>(block, slot.playhead);
  std::int64_t to = here + lap.pace * played;
  if (to >= lap.cycle) to = lap.endless ? within(lap, to) : lap.cycle;
  const ClipData& clip = m_.clips[lap.clip];
  // Few segments: one after the other is fastest.
  const Segment *shown = clip.segments.data(), *const end = shown + clip.segments.size();
  std::int64_t border = lap.cycle;
  for (const Segment* next = shown + 1; next != end; ++next) {
    if (next->begin << kSubBits > to) {
      border = next->begin << kSubBits;
      break;
    }
    shown = next;
  }
  out.shown.clip = shown->clip;
  out.shown.frame = shown->frame;
  if (lap.endless || border != lap.cycle) out.until = now + ticks_to_cover(border - to, lap.pace);
  if (lap.pace == kOne) out.on = shown, out.of = &clip;
  return true;
}

void Quick::catch_up(std::byte* block, std::int64_t now, std::uint32_t told) const {
  BlockHeader& h = header_of(block);
  const std::int64_t played = now - h.anchor;
  if (played == 0) return;   // it knows what was told there
  std::uint32_t rounds = 0;  // at this very instant: records that nobody heard
  if (played > kLongestQuick) {
    reanchor(m_, block, now);
    rounds = h.ordinal();
  } else {
    for (const Slot& slot : slots_) {
      const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
      if (leaf == kNoIndex || !laps_[leaf].round_trip) continue;  // what does not come round has ended
      const Lap& lap = laps_[leaf];
      auto& playhead = field_at<std::int64_t>(block, slot.playhead);
      playhead += lap.pace * played;
      if (playhead < lap.cycle) continue;
      playhead = within(lap, playhead);
      if (playhead < lap.pace) ++rounds;
    }
    turn_to(m_, block, now);
  }
  h.set_ordinal(told + rounds);
}

std::uint16_t Quick::cruise(const std::byte* block) const {
  const BlockHeader& h = header_of(block);
  if (h.flags != kStarted || h.frozen != 0 || h.rate() != kOne || !possible_) return kNoIndex;
  Cruise cruise;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || fades(block, slot)) return kNoIndex;
    if (!lap.moves) continue;
    const auto here = field_at<std::int64_t>(block, slot.playhead);
    if (stands(lap, here)) continue;
    cruise.add(lap, index_of(lap, stop_ahead(lap, here)));
  }
  return cruise.stop();
}

}  // namespace mobrin::detail
