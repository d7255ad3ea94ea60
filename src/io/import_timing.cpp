#include "import_timing.hpp"

#include <numeric>

namespace mobrin::io {
namespace {

// What a clips file can say (reader.cpp).
constexpr std::int64_t kMostHold = 1'000;
constexpr std::int64_t kMostRate = 1'000;

}  // namespace

std::string time_by(std::vector<Fraction> delays, ArtClip& clip) {
  std::size_t none = 0;
  for (Fraction& delay : delays) {
    if (delay.num * 1000 >= delay.den) continue;
    delay = {1, 10};
    ++none;
  }
  std::string told;
  if (none > 0)
    told = (none == 1 ? std::string("1 frame asks") : std::to_string(none) + " frames ask") + " for no delay and " +
           (none == 1 ? "gets" : "get") + " 100ms";
  // All delays as whole multiples of 1/common s, then their greatest common part.
  std::int64_t common = 1, part = 0;
  for (const Fraction& delay : delays) {
    common = std::lcm(common, delay.den);
    if (common > 1'000'000) break;
  }
  if (common <= 1'000'000) {
    for (const Fraction& delay : delays) part = std::gcd(part, delay.num * (common / delay.den));
    const std::int64_t divisor = std::gcd(common, part);
    clip.fps = {common / divisor, part / divisor};
  }
  bool holds = common <= 1'000'000 && clip.fps.num <= kMostRate * clip.fps.den;
  for (std::size_t i = 0; i < delays.size() && holds; ++i) {
    const std::int64_t hold = delays[i].num * (common / delays[i].den) / part;
    holds = hold <= kMostHold;
    clip.frames[i].hold = static_cast<std::int32_t>(hold);
  }
  if (holds) return told;
  clip.fps = {0, 1};
  for (std::size_t i = 0; i < delays.size(); ++i) {
    clip.frames[i].hold = 1;
    clip.frames[i].time =
        Ticks((2 * delays[i].num * kTicksPerSecond + delays[i].den) / (2 * delays[i].den));  // to the nearest
  }
  return told;
}

}  // namespace mobrin::io
