// A 64-bit hash at the speed of memory: four lanes of multiply and shift over 32 bytes at a time. Not against people
// who want two things to hash alike.
#pragma once

#include <algorithm>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <span>

namespace mobrin::detail {

class Hash {
 public:
  void add(std::span<const std::byte> bytes) {
    std::size_t at = 0;
    for (; at + 32 <= bytes.size(); at += 32)
      for (std::size_t lane = 0; lane < 4; ++lane) mix(lanes_[lane], word(bytes.data() + at + 8 * lane, 8));
    for (std::size_t lane = 0; at < bytes.size(); at += 8, ++lane)
      mix(lanes_[lane], word(bytes.data() + at, std::min<std::size_t>(8, bytes.size() - at)));
    mix(lanes_[0], bytes.size());
  }
  [[nodiscard]] std::uint64_t value() const {
    std::uint64_t out = 0;
    for (const std::uint64_t lane : lanes_) mix(out, lane);
    out *= 0xbf58476d1ce4e5b9u;
    return out ^ (out >> 32);
  }

 private:
  // Little-endian, whatever the machine.
  static std::uint64_t word(const std::byte* from, std::size_t size) {
    std::uint64_t out = 0;
    if constexpr (std::endian::native == std::endian::little) {
      std::memcpy(&out, from, size);
      return out;
    }
    for (std::size_t i = 0; i < size; ++i) out |= std::uint64_t{std::to_integer<std::uint8_t>(from[i])} << (8 * i);
    return out;
  }
  static void mix(std::uint64_t& lane, std::uint64_t value) {
    lane = (lane ^ value) * 0x9e3779b97f4a7c15u;
    lane ^= lane >> 29;
  }
  std::uint64_t lanes_[4] = {1, 2, 3, 4};
};

}  // namespace mobrin::detail
