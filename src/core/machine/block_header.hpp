// How every instance's block begins, and what lies behind it; the units of what is in it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <limits>

#include "mobrin/core/ticket.hpp"

namespace mobrin::detail {

// Sub-ticks: the playhead's unit, 1/65536 of a tick. Speeds and rates are 16.16 fixed point.
inline constexpr int kSubBits = 16;
inline constexpr std::int64_t kLastInstant = std::int64_t{1} << 62;  // the clock stops there
inline constexpr std::int32_t kOne = 1 << kSubBits;
inline constexpr std::int32_t kMaxSpeed = 64 * kOne;
inline constexpr std::int64_t kNever = std::numeric_limits<std::int64_t>::max();
inline constexpr std::int64_t kLongAgo = std::numeric_limits<std::int64_t>::min();
inline constexpr std::uint32_t kNoOffset = 0xffff'ffff;
inline constexpr int kMaxMicrosteps = 64;

// The fixed begin of every block. Trivially copyable, no padding: the layout gives away its last bytes.
struct BlockHeader {
  std::int64_t now;
  std::int64_t wake;     // nothing lies before it
  std::int64_t anchor;   // the instant at which playheads and timers in the block were taken
  std::uint32_t frozen;  // ticks after `anchor` for which plays and timers stand
  std::uint32_t packed;  // the rate, 16.16, in 23 bits, and above them the ordinal's highest 9
  std::uint16_t lowest;  // of the ordinal
  std::uint8_t flags;
  std::uint8_t given_away[5];

  [[nodiscard]] std::int32_t rate() const { return static_cast<std::int32_t>(packed & kRateBits); }
  void set_rate(std::int32_t rate) { packed = (packed & ~kRateBits) | static_cast<std::uint32_t>(rate); }
  // Records told at `anchor` so far; compile() refuses machines that may tell more at once.
  [[nodiscard]] std::uint32_t ordinal() const { return (packed >> 23) << 16 | lowest; }
  void set_ordinal(std::uint32_t ordinal) {
    packed = (packed & kRateBits) | (ordinal >> 16) << 23;
    lowest = static_cast<std::uint16_t>(ordinal);
  }

 private:
  static constexpr std::uint32_t kRateBits = (1u << 23) - 1;
};
inline constexpr std::uint32_t kMaxOrdinal = (1u << 25) - 1;
static_assert(kMaxSpeed < 1 << 23);
static_assert(sizeof(BlockHeader) == 40);
enum BlockFlag : std::uint8_t {
  kStarted = 1,  // the initial states have been entered
  kDirty = 2,    // an input changed or a pulse was written since the last settle
  kDone = 4,
  kReset = 8,       // leave everything and start anew at the next advance
  kUnsettled = 16,  // the last settle was given up, so the next instant goes on with it
  kRetake = 32,     // an input that only plays follow changed since the last settle
};

// A ticket's place behind the block. Trivially copyable, no padding.
struct TicketSlot {
  std::int64_t until;    // last instant of the pulse's life
  std::uint32_t serial;  // 0: never given
  std::uint16_t pulse;   // kNoIndex: it follows a state
  std::uint16_t state;   // what it leads to
  TicketStatus status;
  std::uint8_t holders;  // how many hold a ticket for it
  std::uint8_t unused[6];
};
static_assert(sizeof(TicketSlot) == 24);

}  // namespace mobrin::detail
