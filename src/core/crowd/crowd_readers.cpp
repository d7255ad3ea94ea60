#include "crowd/crowd_readers.hpp"

#include <algorithm>
#include <cmath>

#include "engine/quick.hpp"

namespace mobrin::detail {
CrowdReaders::CrowdReaders(const MachineData& m) : inputs_(m.inputs.size()), regions_(inputs_) {
  table_.resize(m.states.size() * inputs_);
  deciding_.resize(table_.size());
  std::vector<std::vector<Found>> own(m.states.size());
  for (std::size_t s = 0; s < m.states.size(); ++s) {
    // Parents stand before their children.
    std::vector<Found>& found = own[s];
    found = s == 0 ? std::vector<Found>(inputs_) : own[m.states[s].parent];
    for (Found& each : found) each.play = false;
    const Range<TransitionData> range = m.states[s].go;
    for (std::uint32_t i = range.begin; i < range.begin + range.count; ++i) {
      const TransitionData& go = m.transitions[i];
      if (rule_of(go.event).of_a_write) found[go.arg].guard = Readers::Guard::any;
      // Where the event is over at once, a guard that changes afterwards comes too late.
      if (rule_of(go.event).lasts) read_guard(m, m.prepared->plan.gos[i], found);
    }
    const PlayData& play = m.states[s].play;
    read_play(m, play.speed_expression, found);
    if (play.by != kNoIndex) found[play.by].play = true;
    if (play.blend != kNoIndex) {
      read_play(m, m.blends[play.blend].x, found);
      read_play(m, m.blends[play.blend].y, found);
    }
    for (std::uint16_t i = 0; i < inputs_; ++i) {
      Readers& out = table_[s * inputs_ + i];
      std::vector<double>& thresholds = found[i].thresholds;
      std::sort(thresholds.begin(), thresholds.end());
      thresholds.erase(std::unique(thresholds.begin(), thresholds.end()), thresholds.end());
      out.guard = found[i].guard;
      out.play = found[i].play;
      if (!thresholds.empty()) out.first = thresholds[0];
      if (thresholds.size() > 1) out.second = thresholds[1];
      const std::size_t near = std::min<std::size_t>(2, thresholds.size());
      out.others = {static_cast<std::uint32_t>(thresholds_.size()),
                    static_cast<std::uint32_t>(thresholds.size() - near)};
      thresholds_.insert(thresholds_.end(), thresholds.begin() + static_cast<std::ptrdiff_t>(near), thresholds.end());
      out.simple = !out.play && out.guard != Readers::Guard::any && out.others.count == 0;
      if (out.simple && !thresholds.empty())
        deciding_[s * inputs_ + i] = find_deciding(m, static_cast<std::uint16_t>(s), i);
      if (m.inputs[i].kind == InputKind::boolean)
        for (const int value : {0, 1}) out.becomes[value] = comes_of(out, deciding_[s * inputs_ + i], value);
      std::vector<Region>& regions = regions_[i];
      const std::uint16_t region = m.states[s].region;
      const bool known =
          std::any_of(regions.begin(), regions.end(), [&](const Region& r) { return r.index == region; });
      if (s > 0 && !out.nothing() && !known) regions.push_back({m.regions[region].leaf, region});
    }
  }
}

std::uint16_t CrowdReaders::input_at(const MachineData& m, const Instruction& step) const {
  const bool loads = step.op == Op::load_bool || step.op == Op::load_int || step.op == Op::load_float;
  return loads ? input_at(m, step.arg) : kNoIndex;
}

std::uint16_t CrowdReaders::input_at(const MachineData& m, std::uint32_t offset) const {
  for (std::uint16_t i = 0; i < inputs_; ++i)
    if (m.inputs[i].offset == offset && m.inputs[i].kind != InputKind::pulse) return i;
  return kNoIndex;  // a variable
}

// Of a guard that is intervals their ends; an input that is read otherwise may matter with any change.
void CrowdReaders::read_guard(const MachineData& m, const PlanGo& go, std::vector<Found>& found) const {
  if (go.guard == PlanGo::Guard::program) {
    for (const Instruction& step : std::span(m.expressions.code).subspan(go.expression.begin, go.expression.count))
      if (const std::uint16_t input = input_at(m, step); input != kNoIndex) found[input].guard = Readers::Guard::any;
    return;
  }
  for (const PlanGuard& guard : MachineData::view(m.prepared->plan.guards, go.guards)) {
    const std::uint16_t input = guard.from == PlanGuard::From::half ? kNoIndex : input_at(m, guard.at);
    if (input == kNoIndex) continue;
    Found& out = found[input];
    for (const double end : {guard.low, guard.high})
      if (std::isfinite(end)) out.thresholds.push_back(end);
    if (out.guard == Readers::Guard::none) out.guard = Readers::Guard::thresholds;
  }
}

Readers::Comes CrowdReaders::comes_of(const Readers& reads, const PlanGuard* decides, double value) const {
  if (reads.play || reads.guard == Readers::Guard::any) return Readers::Comes::look;
  if (reads.guard == Readers::Guard::none || !crosses(reads, 1 - value, value)) return Readers::Comes::nothing;
  return decides != nullptr && lies_within(*decides, value) ? Readers::Comes::opens : Readers::Comes::look;
}

// Of the one transition that reads it, where that waits for nothing else, its guard: it may be taken whenever this
// holds. Null where it is not as plain.
const PlanGuard* CrowdReaders::find_deciding(const MachineData& m, std::uint16_t leaf, std::uint16_t input) const {
  const Plan& plan = m.prepared->plan;
  if (!plan.possible || plan.seals) return nullptr;
  const PlanGuard* decides = nullptr;
  for (const std::uint16_t s : MachineData::view(plan.paths, plan.states[leaf].path)) {
    for (const PlanGo& go : MachineData::view(plan.gos, plan.states[s].go)) {
      if (!go.restart && leaf >= go.target && leaf <= go.target_last) return nullptr;  // it may stand before others
      const auto guards = MachineData::view(plan.guards, go.guards);
      const bool reads = std::any_of(guards.begin(), guards.end(), [&](const PlanGuard& guard) {
        return guard.from != PlanGuard::From::half && guard.at == m.inputs[input].offset;
      });
      if (!reads) continue;
      if (decides != nullptr || guards.size() > 1 || go.event != GoEvent::none || !go.plain) return nullptr;
      decides = &guards.front();
    }
  }
  return decides;
}

void CrowdReaders::read_play(const MachineData& m, ExprRef expression, std::vector<Found>& found) const {
  for (const Instruction& step : std::span(m.expressions.code).subspan(expression.begin, expression.count))
    if (const std::uint16_t input = input_at(m, step); input != kNoIndex) found[input].play = true;
}

}  // namespace mobrin::detail
