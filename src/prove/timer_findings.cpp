// Findings about timers and plays: what comes too late, and too soon.
#include <string>

#include "findings.hpp"

namespace mobrin::proof {

const Rule* RunFindings::leaves_by(std::uint16_t leaf) const {
  const auto time = model_.stay(leaf);
  for (std::uint16_t up = leaf; time; up = model_.states()[up].parent) {
    for (const std::uint32_t index : model_.states()[up].rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.def == nullptr || !rule.def->when.empty() || !rule.def->during.empty() || rule.def->during_stretch)
        continue;
      const bool by_end = rule.event == Event::end && model_.states()[leaf].length == time;
      const bool by_time = rule.event == Event::after && up == leaf && rule.def->after == time;
      if (by_end || by_time) return &rule;
    }
    if (up == 0) break;
  }
  return nullptr;
}

void RunFindings::timers() {
  for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
    const Rule* sooner = leaves_by(s);
    if (sooner == nullptr) continue;
    for (const std::uint32_t index : model_.states()[s].rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.def == nullptr || rule.event != Event::after || &rule == sooner || told(rule)) continue;
      const Ticks time = *model_.stay(s);
      if (*rule.def->after < time || (*rule.def->after == time && rule.index < sooner->index)) continue;
      tell(FindingCode::shadowed, rule, line_of(sooner->index) + " leads on before its time is over",
           "Remove one of them, or wait for less.");
    }
    ring_of(s);
  }
}

// States that follow each other by themselves, round and round, in less than a tenth of a second.
void RunFindings::ring_of(std::uint16_t first) {
  constexpr Ticks kShort{70'560'000};
  Ticks total{};
  std::uint16_t least = first;
  const Rule* at_least = leaves_by(first);
  for (std::uint16_t at = first;;) {
    const Rule* rule = leaves_by(at);
    if (rule == nullptr || rule->aim != Aim::state) return;
    total += *model_.stay(at);
    if (total >= kShort) return;
    at = rule->target;
    while (model_.states()[at].initial != kNoIndex) at = model_.states()[at].initial;
    if (at < least) return;  // told where its first state is looked at
    if (at == first) break;
  }
  if (once(FindingCode::flicker, at_least->index))
    tell(FindingCode::flicker, *at_least,
         "it leads round and back to \"" + path(first) + "\" by itself within " +
             std::to_string(total.count / 705'600) + " ms",
         "Let it wait for longer, or for something.", true);
}

}  // namespace mobrin::proof
