// Tickets: how what happens in a step changes what was asked for.
#include "engine/engine.hpp"

namespace mobrin::detail {

// A transition took a pulse: whoever asked for it now follows the state it led to.
void Engine::tickets_taken(std::uint16_t pulse, std::uint16_t target) {
  for (TicketSlot& slot : tickets_) {
    if (slot.status != TicketStatus::waiting || slot.pulse != pulse || slot.until < header().anchor) continue;
    slot.state = target;
    begin_ticket(slot);
  }
}

void Engine::tickets_entered(std::uint16_t state) {
  for (TicketSlot& slot : tickets_)
    if (slot.status == TicketStatus::waiting && slot.pulse == kNoIndex && slot.state == state)
      slot.status = TicketStatus::running;
}

void Engine::begin_ticket(TicketSlot& slot) {
  const std::uint16_t inner = leaf(m_.states[slot.state].region);
  const bool over =
      inner == slot.state && m_.states[inner].play.moves() && Run(m_, b_, m_.states[inner].region).ended();
  slot.status = over ? TicketStatus::succeeded : TicketStatus::running;
}

void Engine::tickets_left(std::uint16_t state, std::uint32_t transition) {
  // By itself: its play was over, or its time was.
  const bool by_end = transition != kNoTransition && rule_of(m_.transitions[transition].event).by_itself;
  settle_tickets(state, by_end ? TicketStatus::succeeded : TicketStatus::interrupted);
}

// The play of a state reached its end, or it was left: its tickets are over.
void Engine::settle_tickets(std::uint16_t state, TicketStatus status) {
  for (TicketSlot& slot : tickets_)
    if (slot.status == TicketStatus::running && slot.state == state) slot.status = status;
}

namespace {

// Whether a rule may lead out of a state: one of it, of what lies inside or around it, or one of a region beside it
// that leads out of there.
bool may_lead_out_of(const MachineData& m, std::uint16_t state, const TransitionData& go) {
  const auto within = [&](std::uint16_t inner, std::uint16_t outer) {
    return outer <= inner && inner <= m.states[outer].last;
  };
  if (within(go.owner, state) || within(state, go.owner)) return true;
  for (std::uint16_t s = go.target; s != 0; s = m.states[s].parent)
    if (m.states[s].region == m.states[go.owner].region) return false;
  return true;
}

}  // namespace

bool never_ends(const MachineData& m, std::uint16_t state) {
  for (std::uint16_t s = state; s <= m.states[state].last; ++s) {
    const StateData& each = m.states[s];
    if (each.final) return false;
    if (each.play.moves())
      for (const PlayedClip& played : MachineData::view(m.played, each.play.clips))
        if (m.clips[played.clip].passes > 0) return false;
  }
  return std::none_of(m.transitions.begin(), m.transitions.end(), [&](const TransitionData& go) {
    return rule_of(go.event).by_itself && may_lead_out_of(m, state, go);
  });
}

// From now on the instance rests: nothing runs or waits any more.
void Engine::tickets_done(std::uint16_t final_state) {
  for (TicketSlot& slot : tickets_) {
    if (slot.status == TicketStatus::waiting) slot.status = TicketStatus::failed;
    if (slot.status != TicketStatus::running) continue;
    const bool within = slot.state <= final_state && final_state <= m_.states[slot.state].last;
    slot.status = within ? TicketStatus::succeeded : TicketStatus::interrupted;
  }
}

}  // namespace mobrin::detail
