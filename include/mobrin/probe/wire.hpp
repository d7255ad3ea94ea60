// Wire: what a probe and its viewer say to each other. docs/live.md has the grammar. Numbers are little-endian.
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

#include "mobrin/core/parts.hpp"
#include "mobrin/core/ticket.hpp"

namespace mobrin::probe {

/// 128 random bits as text; empty where the system gives none.
[[nodiscard]] std::string random_secret();
/// Whether two secrets are the same; takes as long whatever differs.
[[nodiscard]] bool same_secret(std::string_view given, std::string_view wanted);

/// An input's value as the wire has it: a bool and a choice as a number.
[[nodiscard]] double number_of(const InputDef& input, const FieldValue& value);
/// And back; empty for a pulse and for a choice that is not there.
[[nodiscard]] std::optional<FieldValue> value_of(const InputDef& input, double number);

inline constexpr std::string_view kGreeting = "mobrin-probe 2 ";  // then the token and a newline
inline constexpr std::uint32_t kMostBytes = 64u << 20;            // of a message

enum class Kind : std::uint8_t {
  machine = 1,  // u16 id, u32 length and name, u8 what it is (see kWritable), the pack
  frame = 2,  // u64 number, u8 gap, u16 count, then each: u16 id, u32 place of the crowd's member (kNobody: none, or no
              // crowd), u8 count of tickets, each: see OpenTicket; u32 count of writes, each: see Write; u32 length and
              // block
  write = 3,  // of the viewer: u16 id, then a Write
  counts = 4,  // of a crowd: u16 id, u32 members, u32 places, u16 count, then each: u16 state, u32 members in it
  choose = 5,  // of the viewer: u16 id of a crowd, u32 place of the member to be shown
};
inline constexpr std::uint8_t kWritable = 1, kIsCrowd = 2;
inline constexpr std::uint32_t kNobody = 0xffff'ffff;

/// A ticket that is open or over: what became of it, and indices of the pulse (kNoIndex: it follows) and the state.
struct OpenTicket {
  TicketStatus status = TicketStatus::lost;  ///< how it stands
  std::uint16_t pulse = kNoIndex;            ///< the pulse it asked with
  std::uint16_t state = kNoIndex;            ///< the state it leads to
};

/// A write as it was made. `value`: of an input by its type (bool and choice as a number), of a rate; `ticks` of a
/// freeze.
struct Write {
  std::int64_t at = 0;  ///< ticks
  /// InstanceWrite::Kind
  std::uint8_t kind = 0;    // InstanceWrite::Kind
  std::uint16_t index = 0;  ///< of the input or state
  double value = 0;         ///< an input's value, or a rate
  std::int64_t ticks = 0;   ///< of a freeze or a place
};
inline constexpr std::size_t kWriteBytes = 8 + 1 + 2 + 8 + 8;

template <class T>
void put(std::vector<std::byte>& out, T value) {
  std::uint64_t bits = 0;
  if constexpr (std::is_floating_point_v<T>)
    bits = std::bit_cast<std::uint64_t>(static_cast<double>(value));
  else
    bits = static_cast<std::uint64_t>(value);
  for (std::size_t i = 0; i < sizeof(T); ++i) out.push_back(static_cast<std::byte>(bits >> (8 * i) & 255));
}

inline void put(std::vector<std::byte>& out, const Write& write) {
  put(out, write.at), put(out, write.kind), put(out, write.index), put(out, write.value), put(out, write.ticks);
}

inline void put(std::vector<std::byte>& out, const OpenTicket& ticket) {
  put(out, static_cast<std::uint8_t>(ticket.status)), put(out, ticket.pulse), put(out, ticket.state);
}

/// Takes from the front; once something was missing nothing is given any more.
class Taker {
 public:
  /// Of so many bytes, which must live as long.
  Taker(const std::byte* data, std::size_t size) : data_(data), left_(size) {}
  template <class T>
  /// The next value.
  [[nodiscard]] T take() {
    std::uint64_t bits = 0;
    if (left_ < sizeof(T)) {
      sound_ = false;
      left_ = 0;
      return T{};
    }
    for (std::size_t i = 0; i < sizeof(T); ++i) bits |= static_cast<std::uint64_t>(data_[i]) << (8 * i);
    data_ += sizeof(T);
    left_ -= sizeof(T);
    if constexpr (std::is_floating_point_v<T>)
      return std::bit_cast<double>(bits);
    else
      return static_cast<T>(bits);
  }
  /// The next so many bytes; null where there are fewer.
  [[nodiscard]] const std::byte* bytes(std::size_t size) {
    if (left_ < size) {
      sound_ = false;
      left_ = 0;
      return nullptr;
    }
    const std::byte* out = data_;
    data_ += size;
    left_ -= size;
    return out;
  }
  /// The next write.
  [[nodiscard]] Write write() {
    Write out;
    out.at = take<std::int64_t>();
    out.kind = take<std::uint8_t>();
    out.index = take<std::uint16_t>();
    out.value = take<double>();
    out.ticks = take<std::int64_t>();
    return out;
  }
  /// The next ticket.
  [[nodiscard]] OpenTicket ticket() {
    OpenTicket out;
    out.status = static_cast<TicketStatus>(
        std::min<std::uint8_t>(take<std::uint8_t>(), static_cast<std::uint8_t>(TicketStatus::lost)));
    out.pulse = take<std::uint16_t>();
    out.state = take<std::uint16_t>();
    return out;
  }
  /// Whether there was enough for all that was taken.
  [[nodiscard]] bool sound() const { return sound_; }
  /// How many bytes are left.
  [[nodiscard]] std::size_t left() const { return left_; }

 private:
  const std::byte* data_;
  std::size_t left_;
  bool sound_ = true;
};

}  // namespace mobrin::probe
