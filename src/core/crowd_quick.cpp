#include "crowd_quick.hpp"

#include <algorithm>
#include <array>

#include "expression.hpp"

namespace mobrin::detail {
namespace {

// Beyond these the engine does it: such machines are rare, and a distance must stay far from overflow.
constexpr std::size_t kMostRegions = 8;
constexpr std::int64_t kFarthest = std::int64_t{1} << 38;  // ticks; six minutes

}  // namespace

QuickStep::QuickStep(const MachineData& m, Listening listening)
    : possible_(m.regions.size() <= kMostRegions),
      tells_cues_((listening & listen_to(Told::cue)) != 0),
      laps_(m.states.size()),
      m_(m) {
  for (const RegionData& region : m.regions) slots_.push_back({region.leaf, region.slot.playhead, region.fade_length});
  for (const std::uint16_t pulse : m.brief_pulses) brief_pulses_.push_back(m.inputs[pulse].offset);
  const bool loops = (listening & listen_to(Told::loop)) != 0;
  std::vector<std::size_t> first(m.states.size());
  for (std::size_t s = 1; s < m.states.size(); ++s) {
    const StateData& state = m.states[s];
    const PlayData& play = state.play;
    Lap& lap = laps_[s];
    lap.quick = !play.follows();
    for (std::size_t around = s;; around = m.states[around].parent) {
      if (m.states[around].timer != kNoOffset) lap.quick = false;
      if (around == 0) break;
    }
    lap.moves = play.moves();
    if (!lap.moves) continue;
    // One of several clips by an input, backwards, or counted rounds: left to the engine.
    const PlayedClip& played = m.played[play.clips.begin];
    const ClipData& clip = m.clips[played.clip];
    if (play.chooses() || play.speed <= 0 || clip.passes > 1) lap.quick = false;
    if (!lap.quick) continue;
    lap.pace = play.speed;
    lap.clip = played.clip;
    lap.endless = clip.passes == 0;
    lap.cycle = clip.cycle << kSubBits;
    lap.rounds = 1 / static_cast<double>(lap.cycle);
    lap.round_trip = clip.passes == 0 && !loops && played.forward_round;
    first[s] = places_.size();
    add_places(static_cast<std::uint16_t>(s), played, lap.round_trip);
    lap.places = static_cast<std::uint32_t>(places_.size() - first[s]);
  }
  for (std::size_t s = 1; s < m.states.size(); ++s) {
    Lap& lap = laps_[s];
    lap.first = places_.data() + first[s];
    lap.cruises = lap.round_trip && lap.pace == kOne && lap.places > 0 && places_.size() < kNoIndex;
    for (std::size_t i = 0; i < lap.places; ++i) {
      Place& place = places_[first[s] + i];
      lap.cruises = lap.cruises && place.quiet;
      const bool last = i + 1 == lap.places;
      place.next = static_cast<std::uint16_t>(first[s] + (last ? 0 : i + 1));
      place.to_next = (places_[place.next].at + (last ? lap.cycle : 0) - place.at) >> kSubBits;
    }
  }
}

void QuickStep::add_places(std::uint16_t state, const PlayedClip& played, bool round_trip) {
  const ClipData& clip = m_.clips[played.clip];
  for (const Stop& stop : MachineData::view(m_.stops, played.stops)) {
    const bool edge = stop.at == 0 || stop.at == clip.cycle;
    if (stop.at == 0 || (edge && round_trip)) continue;  // what lies at 0 is told with the round
    if (!stop.always && stop.forward.count == 0) continue;
    Place place{stop.at << kSubBits, {static_cast<std::uint32_t>(cues_.size()), 0}, !edge && !stop.window};
    for (const Firing& firing : MachineData::view(m_.firings, stop.forward)) {
      const MarkData& mark = clip.marks[firing.mark];
      if (firing.point != kOwnPoint || m_.heard[mark.cue] != 0) {
        place.quiet = false;
        break;
      }
      Cue& cue = cues_.emplace_back().cue;
      cue.machine = &m_;
      cue.ordinal = place.cues.count++;
      cue.frame = firing.frame;
      cue.fields = mark.fields;
      cue.cue = mark.cue;
      cue.state = state;
      cue.clip = mark.clip;
      cue.edge = firing.kind == FiringKind::cue          ? Edge::none
                 : firing.kind == FiringKind::span_begin ? Edge::begin
                                                         : Edge::end;
    }
    places_.push_back(place);
  }
}

// Whether any transition in effect holds, as far as its event and guard tell: then one may be taken, for a guard above
// it that held, so that all below was passed over, may hold no more. Windows and seals are the engine's to look at.
bool QuickStep::may_settle(const std::byte* block, std::int64_t now) const {
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    for (std::uint16_t state = leaf;; state = m_.states[state].parent) {
      for (const TransitionData& go : MachineData::view(m_.transitions, m_.states[state].go)) {
        if (!rule_of(go.event).lasts) continue;  // over when it was told
        if (go.event == GoEvent::pulse && !pulse_alive(block, m_.inputs[go.arg], now)) continue;
        if (go.event == GoEvent::at_end && !stands_at_end(m_, block, go.owner)) continue;
        if (go.guard.empty() || evaluate(m_, block, go.guard) != 0) return true;
      }
      if (state == 0) break;
    }
  }
  return false;
}

bool QuickStep::show(const std::byte* block, std::uint16_t region, std::int64_t now, CrowdShown& out) const {
  const BlockHeader& h = header_of(block);
  if (h.flags != kStarted || h.frozen != 0 || h.rate() != kOne) return false;
  const Slot& slot = slots_[region];
  const Lap& lap = laps_[field_at<std::uint16_t>(block, slot.leaf)];
  const std::int64_t played = now - h.anchor;
  if (lap.pace == 0 || played > kFarthest ||
      (slot.fade_length != kNoOffset && field_at<std::int64_t>(block, slot.fade_length) != 0))
    return false;
  const auto here = field_at<std::int64_t>(block, slot.playhead);
  std::int64_t to = here + lap.pace * played;
  if (to >= lap.cycle) to = lap.endless ? within(lap, to) : lap.cycle;
  const ClipData& clip = m_.clips[lap.clip];
  // Few segments: one after the other is fastest.
  const Segment* shown = clip.segments.data();
  for (const Segment* next = shown + 1; next != clip.segments.data() + clip.segments.size(); ++next) {
    if (next->begin << kSubBits > to) break;
    shown = next;
  }
  out.clip = shown->clip;
  out.frame = shown->frame;
  return true;
}

void QuickStep::catch_up(std::byte* block, std::int64_t now) const {
  BlockHeader& h = header_of(block);
  const std::int64_t played = now - h.anchor;
  if (played > kFarthest) return reanchor(m_, block, now);
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex || !laps_[leaf].round_trip) continue;  // what does not come round has ended
    const Lap& lap = laps_[leaf];
    auto& playhead = field_at<std::int64_t>(block, slot.playhead);
    playhead += lap.pace * played;
    if (playhead >= lap.cycle) playhead = within(lap, playhead);
  }
  turn_to(m_, block, now);
}

std::uint16_t QuickStep::cruise(const std::byte* block) const {
  const BlockHeader& h = header_of(block);
  if (h.flags != kStarted || h.frozen != 0 || h.rate() != kOne || !possible_) return kNoIndex;
  std::uint16_t out = kNoIndex;
  bool round_before = false;
  for (const Slot& slot : slots_) {
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || (slot.fade_length != kNoOffset && field_at<std::int64_t>(block, slot.fade_length) != 0))
      return kNoIndex;
    if (!lap.moves) continue;
    const auto here = field_at<std::int64_t>(block, slot.playhead);
    if (!lap.round_trip) {
      if (here != lap.cycle) return kNoIndex;
      continue;  // it has ended and stands
    }
    if (lap.places == 0) {
      // Where it comes round at the instant of a cue, that counts as a record: before the cue if its region is first.
      round_before = round_before || out == kNoIndex;
      continue;
    }
    if (!lap.cruises || out != kNoIndex || round_before) return kNoIndex;
    std::uint32_t next = 0;
    while (next < lap.places && lap.first[next].at <= here) ++next;
    out = static_cast<std::uint16_t>(lap.first - places_.data() + (next < lap.places ? next : 0));
  }
  return out;
}

bool QuickStep::instant(std::byte* block, std::int64_t at, Sink& sink, std::int64_t& wake) const {
  BlockHeader& h = header_of(block);
  if (h.frozen != 0 || h.rate() != kOne || !possible_) return false;
  const bool written = h.flags == (kStarted | kDirty);
  if (h.flags != kStarted && (!written || may_settle(block, at))) return false;
  const std::int64_t played = at - h.anchor;
  if (played > kFarthest) return false;
  const Place* told = nullptr;
  std::array<std::int64_t, kMostRegions> there{};  // each region's playhead
  std::int64_t soonest = kNever;                   // ticks
  const std::size_t count = slots_.size();
  for (std::size_t i = 0; i < count; ++i) {
    const Slot& slot = slots_[i];
    const auto leaf = field_at<std::uint16_t>(block, slot.leaf);
    there[i] = -1;
    if (leaf == kNoIndex) continue;
    const Lap& lap = laps_[leaf];
    if (!lap.quick || (slot.fade_length != kNoOffset && field_at<std::int64_t>(block, slot.fade_length) != 0))
      return false;
    if (!lap.moves) continue;
    const auto here = field_at<std::int64_t>(block, slot.playhead);
    if (!lap.round_trip && here == lap.cycle) continue;  // it has ended and stands
    std::int64_t to = here + lap.pace * played;
    const Place* const end = lap.first + lap.places;
    const Place* next = lap.first;
    while (next != end && next->at <= here) ++next;
    if (to >= lap.cycle) {
      if (!lap.round_trip || next != end) return false;
      to = within(lap, to);
      if (to < lap.pace) return false;  // it comes round at this very instant
      next = lap.first;
    }
    there[i] = to;
    if (next != end && next->at <= to) {
      if (!next->quiet || told != nullptr) return false;  // the order of two regions is the engine's
      told = next++;
      if (next != end && next->at <= to) return false;  // it passes several
    }
    std::int64_t distance = 0;
    if (next != end)
      distance = next->at - to;
    else if (lap.places > 0 && lap.round_trip)
      distance = lap.cycle - to + lap.first->at;
    else
      continue;
    const std::int64_t ticks =
        lap.pace == kOne ? (distance + kOne - 1) >> kSubBits : (distance + lap.pace - 1) / lap.pace;
    soonest = std::min(soonest, ticks);
  }
  if (told != nullptr && tells_cues_ && !sink.crowd->has_room(told->cues.count)) return false;
  if (at != h.anchor) {
    if (!written)
      for (const std::uint32_t pulse : brief_pulses_) field_at<std::uint8_t>(block, pulse) = 0;
    h.anchor = at;
    h.set_ordinal(0);
  }
  h.flags = kStarted;
  for (std::size_t i = 0; i < count; ++i)
    if (there[i] >= 0) field_at<std::int64_t>(block, slots_[i].playhead) = there[i];
  if (told != nullptr) {
    h.set_ordinal(told->cues.count);
    if (tells_cues_) sink.crowd->append(MachineData::view(cues_, told->cues), Ticks(at), sink.place);
  }
  wake = soonest == kNever ? kNever : at + soonest;
  return true;
}

}  // namespace mobrin::detail
