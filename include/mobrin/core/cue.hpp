// Cues: what a step tells the game, and the list it is told into.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// What a record tells. A game hears `cue`, `done` and `fault` unless it asks for more.
enum class Told : std::uint8_t {
  cue,    ///< a frame-timed event, or the begin or end of a span
  enter,  ///< a state was entered
  leave,  ///< a state was left
  loop,   ///< the clip of a state came round
  done,   ///< a final state has lingered: remove the character; told once
  fault,  ///< `runaway`: 64 rounds of one instant all took transitions; `transition` and `state` are the last one's
};

enum class Edge : std::uint8_t { none, begin, end };

inline constexpr std::uint32_t kNoTransition = 0xffff'ffff;

/// One told record. (at, ordinal) is its identity: a step that is repeated after a rollback tells the same pair again.
/// Plain value; its member functions
/// look names up in the machine, which must still be alive (an instance keeps its machine alive).
struct Cue {
  const detail::MachineData* machine = nullptr;  ///< not for users
  Ticks at;                                      ///< its instant, on the instance's clock
  std::uint32_t ordinal = 0;                     ///< counts the records of that instant, told to this list or not
  std::uint32_t transition = kNoTransition;      ///< behind an enter, leave or fault; kNoTransition for initial states
  std::int32_t frame = -1;                       ///< of a cue on a clip: the frame; -1 for none
  std::uint32_t fields = 0;                      ///< not for users: index of the resolved fields
  std::uint16_t cue = kNoIndex;                  ///< index into Machine::cues(); kNoIndex for what is no cue
  std::uint16_t state = kNoIndex;                ///< index into Machine::states(); kNoIndex: of none
  std::uint16_t clip = kNoIndex;                 ///< index into Machine::clips(); kNoIndex: of none
  Told what = Told::cue;                         ///< what kind of record this is
  Edge edge = Edge::none;                        ///< begin or end of a span; none for a plain cue

  /// The cue's name and kind; empty for other records. Views into the machine.
  [[nodiscard]] std::string_view name() const;
  [[nodiscard]] std::string_view kind() const;  ///< The `kind:` of its cue; empty without one.
  /// The state entered, left, looping, done, or in whose play the cue lies; empty where there is none.
  [[nodiscard]] std::string_view state_path() const;
  /// The name of its clip; empty without one, or where the machine was packed without names.
  [[nodiscard]] std::string_view clip_name() const;

  /// The cue as declared. REQUIRES: what is Told::cue.
  [[nodiscard]] const CueDef& definition() const;
  /// A field's value with the mark's override applied; null where the cue has no such field or it is another machine's.
  [[nodiscard]] const FieldValue* field(Field handle) const;
  /// One of its fields by name, null where there is none; lives as long as the machine.
  [[nodiscard]] const FieldValue* field(std::string_view name) const;
  /// A number field (whole or not); empty where the field is missing or no number.
  [[nodiscard]] std::optional<double> number(std::string_view name) const;
  /// A text field; empty where the field is missing or no text. View into the machine.
  [[nodiscard]] std::string_view text(std::string_view name) const;
  /// The record as a line to read, as `mobrin run` prints it: `net_out (damage)  net frame 3  amount: 2`, `walk comes
  /// round`. Allocates.
  [[nodiscard]] std::string line() const;
};

/// Which records a list takes, as a set of bits 1 << Told.
using Listening = std::uint8_t;
inline constexpr Listening listen_to(Told what) { return static_cast<Listening>(1u << static_cast<unsigned>(what)); }
inline constexpr Listening kGameRecords = listen_to(Told::cue) | listen_to(Told::done) | listen_to(Told::fault);
inline constexpr Listening kAllRecords = 0x3f;

/// A list over memory the caller owns and keeps alive. Not thread-safe. Never allocates.
class CueBuffer {
 public:
  /// Over the caller's memory, which must live as long and is all that is ever used.
  explicit CueBuffer(std::span<Cue> memory, Listening listening = kGameRecords)
      : memory_(memory), listening_(listening) {}
  CueBuffer(const CueBuffer&) = delete;
  CueBuffer& operator=(const CueBuffer&) = delete;

  /// How many were told.
  [[nodiscard]] std::uint32_t size() const { return size_; }
  /// Whether nothing was told.
  [[nodiscard]] bool empty() const { return size_ == 0; }
  /// The most it can hold.
  [[nodiscard]] std::uint32_t capacity() const { return static_cast<std::uint32_t>(memory_.size()); }
  /// What is told into it.
  [[nodiscard]] Listening listening() const { return listening_; }
  /// The first that was told.
  [[nodiscard]] const Cue* begin() const { return memory_.data(); }
  /// One past the last.
  [[nodiscard]] const Cue* end() const { return memory_.data() + size_; }
  /// REQUIRES: i < size().
  [[nodiscard]] const Cue& operator[](std::uint32_t i) const { return memory_[i]; }
  /// Forgets what was told.
  void clear() { size_ = 0; }

  /// Not for users: the engine's side. False when full.
  bool append(const Cue& cue) {
    if (size_ == capacity()) return false;
    memory_[size_++] = cue;
    return true;
  }
  /// Forgets all but the first so many.
  void shrink(std::uint32_t size) { size_ = size; }

 private:
  std::span<Cue> memory_;
  std::uint32_t size_ = 0;
  Listening listening_;
};

namespace detail {
template <std::size_t N>
struct CueMemory {
  std::array<Cue, N> cues;
};
}  // namespace detail

/// A list with room for N records inside itself.
template <std::size_t N>
class CueList : private detail::CueMemory<N>, public CueBuffer {
 public:
  /// With room for N within itself.
  explicit CueList(Listening listening = kGameRecords) : CueBuffer(std::span<Cue>(this->cues), listening) {}
};

}  // namespace mobrin
