// Wide: whole numbers of 128 bits, in plain 64-bit steps, so that playheads are exact on every compiler. Not for users.
#pragma once

#include <compare>
#include <concepts>
#include <cstdint>

namespace mobrin::detail {

/// A signed number of 128 bits, two's complement; overflow wraps. Division rounds towards 0, as that of whole numbers
/// does.
class Wide {
 public:
  constexpr Wide() = default;
  template <std::integral T>
  constexpr Wide(T value)  // NOLINT: every whole number is one
      : low_(static_cast<std::uint64_t>(value)),
        high_(std::signed_integral<T> && value < T{} ? ~std::uint64_t{0} : 0) {}

  /// The low bits.
  template <std::integral T>
  constexpr explicit operator T() const {
    return static_cast<T>(low_);
  }
  /// Whether it is a number of 64 bits.
  [[nodiscard]] constexpr bool fits() const { return high_ == (negative_low() ? ~std::uint64_t{0} : 0); }
  [[nodiscard]] constexpr bool negative() const { return (high_ >> 63) != 0; }

  friend constexpr bool operator==(Wide, Wide) = default;
  friend constexpr std::strong_ordering operator<=>(Wide a, Wide b) {
    const auto order = static_cast<std::int64_t>(a.high_) <=> static_cast<std::int64_t>(b.high_);
    return order != 0 ? order : a.low_ <=> b.low_;
  }

  friend constexpr Wide operator-(Wide a) { return Wide(0) - a; }
  friend constexpr Wide operator+(Wide a, Wide b) {
    const std::uint64_t low = a.low_ + b.low_;
    return Wide(low, a.high_ + b.high_ + (low < a.low_ ? 1 : 0));
  }
  friend constexpr Wide operator-(Wide a, Wide b) {
    return Wide(a.low_ - b.low_, a.high_ - b.high_ - (a.low_ < b.low_ ? 1 : 0));
  }
  friend constexpr Wide operator*(Wide a, Wide b) {
    // The low halves' product in full, the rest as far as it reaches.
    const std::uint64_t a0 = a.low_ & kHalf, a1 = a.low_ >> 32, b0 = b.low_ & kHalf, b1 = b.low_ >> 32;
    const std::uint64_t low = a0 * b0, cross = a1 * b0 + (low >> 32), more = a0 * b1 + (cross & kHalf);
    return Wide((more << 32) | (low & kHalf),
                a1 * b1 + (cross >> 32) + (more >> 32) + a.high_ * b.low_ + a.low_ * b.high_);
  }
  /// REQUIRES: b is not 0.
  friend constexpr Wide operator/(Wide a, Wide b) {
    if (a.fits() && b.fits() && b.signed_low() != -1) return Wide(a.signed_low() / b.signed_low());
    const Wide quotient = divided(a.negative() ? -a : a, b.negative() ? -b : b, false);
    return a.negative() != b.negative() ? -quotient : quotient;
  }
  /// REQUIRES: b is not 0. Has a's sign.
  friend constexpr Wide operator%(Wide a, Wide b) {
    if (a.fits() && b.fits() && b.signed_low() != -1) return Wide(a.signed_low() % b.signed_low());
    const Wide rest = divided(a.negative() ? -a : a, b.negative() ? -b : b, true);
    return a.negative() ? -rest : rest;
  }
  friend constexpr Wide operator<<(Wide a, int bits) {
    if (bits == 0) return a;
    return bits >= 64 ? Wide(0, a.low_ << (bits - 64))
                      : Wide(a.low_ << bits, (a.high_ << bits) | (a.low_ >> (64 - bits)));
  }
  /// Towards minus infinity.
  friend constexpr Wide operator>>(Wide a, int bits) {
    if (bits == 0) return a;
    const std::uint64_t sign = a.negative() ? ~std::uint64_t{0} : 0;
    const auto high = static_cast<std::int64_t>(a.high_);
    if (bits >= 64) return Wide(static_cast<std::uint64_t>(high >> (bits - 64)), sign);
    return Wide((a.low_ >> bits) | (a.high_ << (64 - bits)), static_cast<std::uint64_t>(high >> bits));
  }
  constexpr Wide& operator+=(Wide other) { return *this = *this + other; }
  constexpr Wide& operator-=(Wide other) { return *this = *this - other; }
  constexpr Wide& operator*=(Wide other) { return *this = *this * other; }

 private:
  static constexpr std::uint64_t kHalf = 0xffff'ffff;
  constexpr Wide(std::uint64_t low, std::uint64_t high) : low_(low), high_(high) {}
  [[nodiscard]] constexpr std::int64_t signed_low() const { return static_cast<std::int64_t>(low_); }
  [[nodiscard]] constexpr bool negative_low() const { return (low_ >> 63) != 0; }

  // The quotient, or the rest: bit by bit, both as numbers without a sign.
  static constexpr Wide divided(Wide a, Wide b, bool wants_rest) {
    Wide quotient, rest;
    for (int bit = 127; bit >= 0; --bit) {
      rest = (rest << 1) + Wide((bit >= 64 ? a.high_ >> (bit - 64) : a.low_ >> bit) & 1, 0);
      quotient = quotient << 1;
      if (below(rest, b)) continue;
      rest = rest - b;
      quotient.low_ |= 1;
    }
    return wants_rest ? rest : quotient;
  }
  [[nodiscard]] static constexpr bool below(Wide a, Wide b) {
    return a.high_ != b.high_ ? a.high_ < b.high_ : a.low_ < b.low_;
  }

  std::uint64_t low_ = 0, high_ = 0;
};

}  // namespace mobrin::detail
