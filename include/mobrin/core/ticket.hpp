// Tickets: what game code holds while an action it asked for runs. See Instance::ask and Instance::follow.
#pragma once

#include <cstdint>

namespace mobrin {

enum class TicketStatus : std::uint8_t {
  waiting,      ///< the pulse is alive and not yet taken; a followed state is not entered yet
  running,      ///< the state it led to is active and its play has not reached its end; a loop for ever runs on
  succeeded,    ///< that state's play reached its end, it was left by `at: end` or `after:`, or `done` was told in it
  failed,       ///< the pulse was not taken while it was alive
  interrupted,  ///< that state was left in another way, or the instance was reset
  lost,  ///< no such ticket: never given, of another instance's block, given back, or its place was given to a newer
         ///< one
};

/// A handle to one asked action. Plain value; stays valid over snapshots, like what it stands for.
struct Ticket {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint32_t serial = 0;   ///< 0: none was given
  std::uint16_t slot = 0;     ///< of the instance's open tickets
  /// Whether it is one at all, and not what a refused ask gives.
  [[nodiscard]] explicit operator bool() const { return serial != 0; }
};

/// What a ticket stands for, for tools.
struct TicketInfo {
  Ticket ticket{};                           ///< which one
  TicketStatus status = TicketStatus::lost;  ///< what became of it
  std::uint16_t pulse = 0xffff;              ///< index into Machine::inputs(); kNoIndex: it follows a state
  std::uint16_t state = 0xffff;  ///< index into Machine::states() of what it follows or was led to; kNoIndex: not yet
};

}  // namespace mobrin
