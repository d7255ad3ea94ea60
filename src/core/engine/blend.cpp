// Blends: weights of several clips by where a point lies among theirs, and what a play follows of its inputs.
#include <algorithm>
#include <array>
#include <cmath>

#include "engine/engine.hpp"
#include "expression/expression.hpp"

namespace mobrin::detail {

// Gradient bands: each point's influence falls in a straight line from 1 at the point to 0 at every other point, taken
// along the way to that other point; the least of these counts, and all are scaled to sum to 1. Source: R. S. Johansen,
// "Automated Semi-Procedural Animation for Character Locomotion", Aarhus University 2009, section 6.3. Only + - * / are
// used, so the result is the same everywhere. On one axis it is linear between neighbours.
void blend_weights(const MachineData& m, const std::byte* block, const BlendData& blend, std::span<double> out) {
  const double x = number_of(m, block, blend.x);
  const double y = blend.y.empty() ? 0 : number_of(m, block, blend.y);
  const std::size_t count = blend.points.size();
  const bool known = std::isfinite(x) && std::isfinite(y);
  double sum = 0;
  for (std::size_t i = 0; i < count; ++i) {
    const BlendPointDef& here = blend.points[i];
    double influence = known || i == 0 ? 1 : 0;
    for (std::size_t k = 0; k < count && known; ++k) {
      if (k == i) continue;
      const double dx = blend.points[k].x - here.x, dy = blend.points[k].y - here.y;
      const double along = ((x - here.x) * dx + (y - here.y) * dy) / (dx * dx + dy * dy);
      influence = std::min(influence, std::clamp(1 - along, 0.0, 1.0));
    }
    out[i] = influence;
    sum += influence;
  }
  if (sum > 0) {
    for (std::size_t i = 0; i < count; ++i) out[i] /= sum;
  } else {  // far away from all points none has an influence: the nearest counts alone
    std::size_t nearest = 0;
    double least = -1;
    for (std::size_t i = 0; i < count; ++i) {
      const double dx = blend.points[i].x - x, dy = blend.points[i].y - y, far = dx * dx + dy * dy;
      if (least < 0 || far < least) nearest = i, least = far;
    }
    out[nearest] = 1;
  }
  const double rest = 1 - blend.floor * static_cast<double>(count);
  for (std::size_t i = 0; i < count; ++i) out[i] = blend.floor + rest * out[i];
}

namespace {

std::size_t heaviest_of(std::span<const double> weights) {
  return static_cast<std::size_t>(std::max_element(weights.begin(), weights.end()) - weights.begin());
}

}  // namespace

std::uint8_t chosen(const MachineData& m, const std::byte* block, const PlayData& play) {
  if (play.by != kNoIndex) return field_at<std::uint8_t>(block, m.inputs[play.by].offset);
  const BlendData& blend = m.blends[play.blend];
  std::array<double, kMostBlendPoints> weights{};
  blend_weights(m, block, blend, weights);
  return static_cast<std::uint8_t>(heaviest_of(std::span(weights).first(blend.points.size())));
}

bool weighs_enough(const MachineData& m, const std::byte* block, const PlayData& play, std::size_t point) {
  const BlendData& blend = m.blends[play.blend];
  std::array<double, kMostBlendPoints> weights{};
  blend_weights(m, block, blend, weights);
  const auto clip = [&](std::size_t i) { return m.played[play.clips.begin + static_cast<std::uint32_t>(i)].clip; };
  double sum = 0;
  for (std::size_t i = 0; i < blend.points.size(); ++i)
    if (clip(i) == clip(point)) sum += weights[i];
  return sum >= blend.cues_above;
}

// All clips of a blend run in phase: each second the phase moves by the weighted mean of what each clip alone would
// move it, those played backwards counting negative. The heaviest clip's own speed follows from that.
std::int32_t speed_now(const MachineData& m, const std::byte* block, const PlayData& play) {
  const double own = play.speed_expression.empty() ? static_cast<double>(play.speed) / kOne
                                                   : number_of(m, block, play.speed_expression);
  if (play.blend == kNoIndex) return play.speed_expression.empty() ? play.speed : fixed_speed(own);
  const BlendData& blend = m.blends[play.blend];
  std::array<double, kMostBlendPoints> weights{};
  blend_weights(m, block, blend, weights);
  const auto clip = [&](std::size_t i) -> const ClipData& {
    return m.clips[m.played[play.clips.begin + static_cast<std::uint32_t>(i)].clip];
  };
  double phase = 0;
  for (std::size_t i = 0; i < blend.points.size(); ++i)
    phase += (blend.points[i].backward ? -weights[i] : weights[i]) / static_cast<double>(clip(i).cycle);
  const std::size_t heaviest = heaviest_of(std::span(weights).first(blend.points.size()));
  return fixed_speed(own * phase * static_cast<double>(clip(heaviest).cycle));
}

}  // namespace mobrin::detail
