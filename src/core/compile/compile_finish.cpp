// What is known of a machine once all its tables are there.
#include <algorithm>
#include <atomic>

#include "compile/compile.hpp"

namespace mobrin::detail {

std::uint32_t new_serial() {
  static std::atomic<std::uint32_t> next{1};
  return next.fetch_add(1);
}

std::uint64_t bound_of_records(const MachineData& m) {
  const auto tells = [&](Range<ActionData> range) {
    const auto actions = MachineData::view(m.actions, range);
    return static_cast<std::uint64_t>(
        std::count_if(actions.begin(), actions.end(), [](const ActionData& a) { return a.cue != kNoIndex; }));
  };
  std::uint64_t marks = 0, entered = 0, left = 0, loops = 0, taken = 0;
  for (const ClipData& clip : m.clips) marks = std::max<std::uint64_t>(marks, clip.marks.size());
  for (const StateData& state : m.states) {
    if (state.play.blend == kNoIndex) continue;
    std::uint64_t all = 0;
    for (const PlayedClip& played : MachineData::view(m.played, state.play.clips))
      all += m.clips[played.clip].marks.size();
    marks = std::max(marks, all);
  }
  for (const StateData& state : m.states) {
    entered = std::max(entered, tells(state.enter));
    left = std::max(left, tells(state.exit));
    loops = std::max(loops, tells(state.each_loop));
  }
  for (const TransitionData& go : m.transitions) taken = std::max(taken, tells(go.actions));
  const std::uint64_t regions = m.regions.size();
  const std::uint64_t deepest =
      std::max_element(m.states.begin(), m.states.end(), [](auto& a, auto& b) { return a.depth < b.depth; })->depth;
  // Both sides of a loop, what fades out below it, a turn and a choice.
  const std::uint64_t moved = regions * (3 * marks + 2 * marks * kFadeLayers + 1 + loops);
  const std::uint64_t step = regions * (deepest * (2 + entered + left) + 5 * marks + taken);
  return (kMaxMicrosteps + 2) * step + moved + 2;
}

void finish(Work& work) {
  MachineData& m = work.data;
  m.heard.assign(m.cue_defs.size(), 0);
  m.cue_words = (m.cue_defs.size() + 63) / 64;
  for (const StateData& state : m.states) {
    m.timed = m.timed || state.timer != kNoOffset;
    m.ends = m.ends || state.final;
  }
  for (const TransitionData& go : m.transitions)
    if (go.event == GoEvent::cue) m.heard[go.arg] = 1;
  const std::uint64_t bound = bound_of_records(m);
  if (bound > kMaxOrdinal)
    work.report(FindingCode::too_large, work.def.name.place,
                "one instant of \"" + work.def.name.text + "\" may tell " + std::to_string(bound) + " records",
                "At most " + std::to_string(kMaxOrdinal) + " are supported: fewer marks of a clip, regions or actions.",
                work.def.name.text);
  m.most_records = static_cast<std::uint32_t>(std::min<std::uint64_t>(bound, kMaxOrdinal));

  m.serial = new_serial();
  m.name = work.def.name.text;
  m.files = work.def.files;
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    m.state_infos[s].initial = m.states[s].initial;
    m.state_infos[s].region = m.states[s].region;
  }
  for (std::size_t r = 0; r < m.regions.size(); ++r) m.region_infos[r].initial = m.regions[r].initial;
  if (work.sound()) complete(m);
}

}  // namespace mobrin::detail
