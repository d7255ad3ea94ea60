// Time: whole ticks, the only clock Mobrin knows, and exact conversions into them.
#pragma once

#include <compare>
#include <concepts>
#include <cstdint>

namespace mobrin {

/// Ticks in a second. 24, 25, 30, 48, 50, 60, 90, 100 and 120 Hz and the audio rates divide it exactly.
inline constexpr std::int64_t kTicksPerSecond = 705'600'000;

/// The longest duration a clip, a timer or a buffer may have: ten hours.
inline constexpr std::int64_t kMaxDurationTicks = kTicksPerSecond * 36'000;

/// A span of time, or an instant counted from the first step of an instance, in ticks of 1/705,600,000 s.
/// Plain value; no range is enforced here.
struct Ticks {
  std::int64_t count = 0;  ///< of kTicksPerSecond; exact

  constexpr Ticks() = default;
  /// So many ticks.
  constexpr explicit Ticks(std::int64_t ticks) : count(ticks) {}
  /// From a std::chrono duration with a whole-number representation (`60ms`), rounded to the nearest tick, half up.
  /// Known by its shape, so that who does not use `chrono` does not pay for it.
  template <class Duration>
  requires std::integral<typename Duration::rep> && requires { Duration::period::num; }
  constexpr Ticks(Duration duration)  // NOLINT: implicit so that freeze(60ms) reads well
      : count(scaled(duration.count(), Duration::period::num, Duration::period::den)) {}

  /// In seconds; for people and renderers, not for comparing.
  [[nodiscard]] constexpr double to_seconds() const {
    return static_cast<double>(count) / static_cast<double>(kTicksPerSecond);
  }

  friend constexpr auto operator<=>(Ticks, Ticks) = default;  ///< By their count.
  /// The sum; REQUIRES: it fits.
  friend constexpr Ticks operator+(Ticks a, Ticks b) { return Ticks(a.count + b.count); }
  /// The difference; REQUIRES: it fits.
  friend constexpr Ticks operator-(Ticks a, Ticks b) { return Ticks(a.count - b.count); }
  /// Adds.
  constexpr Ticks& operator+=(Ticks other) { return count += other.count, *this; }
  /// Subtracts.
  constexpr Ticks& operator-=(Ticks other) { return count -= other.count, *this; }

 private:
  static constexpr std::int64_t scaled(std::int64_t count, std::int64_t num, std::int64_t den) {
    // Whole seconds' worth first, so that nothing overflows; the rest is below one period of `den`.
    const std::int64_t whole = count / den;
    const std::int64_t twice = 2 * (count % den) * num * kTicksPerSecond + den;
    const std::int64_t down = twice / (2 * den) - (twice % (2 * den) < 0 ? 1 : 0);
    return whole * num * kTicksPerSecond + down;
  }
};

/// `seconds` as ticks, to the nearest tick, half up. REQUIRES: a finite number within +-10^9.
[[nodiscard]] constexpr Ticks seconds(double seconds) {
  const double exact = seconds * static_cast<double>(kTicksPerSecond);
  const auto down = static_cast<std::int64_t>(exact);
  const std::int64_t floor = static_cast<double>(down) > exact ? down - 1 : down;
  return Ticks(exact - static_cast<double>(floor) >= 0.5 ? floor + 1 : floor);
}

/// `milliseconds` as ticks; exact.
[[nodiscard]] constexpr Ticks milliseconds(std::int64_t milliseconds) {
  return Ticks(milliseconds * (kTicksPerSecond / 1000));
}

/// The instant at which step `step` of a game at `hz` steps a second ends, without drift: floor(step / hz).
/// REQUIRES: hz > 0, step >= 0, step below 10^10.
[[nodiscard]] constexpr Ticks step_end(std::int64_t step, std::int64_t hz) {
  return Ticks(step / hz * kTicksPerSecond + (step % hz) * kTicksPerSecond / hz);
}

}  // namespace mobrin
