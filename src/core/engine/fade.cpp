// Fades: plays that were left and fade out under the one that was entered.
#include <algorithm>

#include "engine/engine.hpp"

namespace mobrin::detail {
namespace {

std::int64_t& fade_length(const RegionData& region, std::byte* block) {
  return field_at<std::int64_t>(block, region.fade_length);
}
std::int64_t& fade_run(const RegionData& region, std::byte* block) {
  return field_at<std::int64_t>(block, region.fade_run);
}
bool under_way(const RegionData& region, std::byte* block) { return region.fades() && fade_length(region, block) > 0; }

void run_layer_on(const MachineData& m, std::byte* block, const LayerData& layer, std::int64_t played) {
  const std::uint16_t state = layer_state(block, layer);
  if (!m.states[state].play.moves()) return;
  const Run run(m, block, layer.slot, state);
  const Wide way = Wide{effective_speed(run.speed(), header_of(block).rate())} * played;
  const Reached reached = run_on(run.clip(), {run.playhead(), run.passes()}, way);
  run.playhead() = reached.playhead;
  run.set_passes(run.backward(), reached.passes);
}

}  // namespace

double fade_progress(const MachineData& m, const std::byte* block, std::uint16_t region, std::int64_t now) {
  const RegionData& data = m.regions[region];
  if (!data.fades()) return 1;
  const BlockHeader& header = header_of(block);
  const std::int64_t length = field_at<std::int64_t>(block, data.fade_length);
  if (length == 0) return 1;
  const Wide run = field_at<std::int64_t>(block, data.fade_run) +
                   ((header.flags & kDone) != 0 ? Wide{0} : Wide{played_until(header, now)} * header.rate());
  return run >= length ? 1 : static_cast<double>(static_cast<std::int64_t>(run)) / static_cast<double>(length);
}

Engine::Fadings Engine::fadings(std::uint16_t region, bool loud) {
  Fadings out;
  const RegionData& data = m_.regions[region];
  const std::uint16_t state = leaf(region);
  if (!data.fades() || state == kNoIndex || m_.states[state].region_count > 0) return out;
  const auto add = [&](const SlotData& slot, std::uint16_t of, std::uint32_t weight, bool tells) {
    if (weight == 0) return;
    Fading fading;
    fading.state = of;
    fading.weight = weight;
    fading.loud = tells;
    const Run run(m_, b_, slot, of);
    fading.choice = run.choice();
    if (m_.states[of].play.moves()) {
      fading.playhead = run.playhead();
      fading.speed = run.speed();
      fading.backward = run.backward();
      fading.passes = run.passes();
      // A turn that waited for the rate is taken now, silently: what fades follows nothing any more.
      if (turns(run)) {
        const std::int32_t most = run.clip().passes;
        const bool ended = run.ended(), backward = fading.speed < 0;
        if (fading.backward != backward && ended) fading.passes = 0;
        fading.backward = backward;
        const std::int64_t ahead = backward ? 0 : run.cycle();
        if (fading.playhead == ahead && most == 1)
          fading.passes = 1;
        else if (fading.playhead == ahead)
          fading.playhead = backward ? run.cycle() : 0;
      }
    }
    out.all[out.count++] = fading;
  };
  std::uint32_t rest = kWholeWeight;
  if (under_way(data, b_)) {
    const std::int64_t length = fade_length(data, b_), left = length - fade_run(data, b_);
    for (const LayerData& layer : data.layers) {
      const auto weight = static_cast<std::uint32_t>(Wide{layer_weight(b_, layer)} * left / length);
      rest -= weight;
      add(layer.slot, layer_state(b_, layer), weight, field_at<std::uint8_t>(b_, layer.loud) != 0);
    }
  }
  add(data.slot, state, rest, loud);
  return out;
}

void Engine::begin_fade(std::uint16_t region, Fadings before, const Entry& entry) {
  const RegionData& data = m_.regions[region];
  if (!data.fades() || entry.fade == 0 || before.count == 0 || m_.states[leaf(region)].region_count > 0) return;
  const auto end = before.all.begin() + static_cast<std::ptrdiff_t>(before.count);
  if (before.count > kFadeLayers) {
    // Too many: the lightest is dropped (of equals the oldest), the heaviest of the rest takes its weight.
    const auto by_weight = [](const Fading& a, const Fading& b) { return a.weight < b.weight; };
    const auto lightest = std::min_element(before.all.begin(), end, by_weight);
    const std::uint32_t weight = lightest->weight;
    std::move(lightest + 1, end, lightest);
    --before.count;
    std::max_element(before.all.begin(), end - 1, by_weight)->weight += weight;
  }
  fade_length(data, b_) = entry.fade;
  for (std::size_t i = 0; i < before.count; ++i) {
    const Fading& fading = before.all[i];
    const LayerData& layer = data.layers[i];
    field_at<std::uint32_t>(b_, layer.weight) = fading.weight;
    field_at<std::uint16_t>(b_, layer.state) = fading.state;
    field_at<std::uint8_t>(b_, layer.loud) = fading.loud ? 1 : 0;
    const Run run(m_, b_, layer.slot, fading.state);
    run.set_choice(fading.choice);
    if (!m_.states[fading.state].play.moves()) continue;
    run.playhead() = fading.playhead;
    run.set_speed(fading.speed);
    run.set_passes(fading.backward, fading.passes);
  }
}

// All of it back to zero, so that equal instances have equal blocks.
void Engine::clear_fade(std::uint16_t region) {
  const RegionData& data = m_.regions[region];
  if (!under_way(data, b_)) return;
  fade_length(data, b_) = 0;
  fade_run(data, b_) = 0;
  for (const LayerData& layer : data.layers) {
    const Run run(m_, b_, layer.slot, layer_state(b_, layer));
    if (layer.slot.playhead != kNoOffset) run.playhead() = 0;
    run.set_speed(0);
    run.set_passes(false, 0);
    run.set_choice(0);
    field_at<std::uint32_t>(b_, layer.weight) = 0;
    field_at<std::uint16_t>(b_, layer.state) = 0;
    field_at<std::uint8_t>(b_, layer.loud) = 0;
  }
}

// Lets the fade of a region run for `played` ticks; layers that are loud tell their cues. At its end it is over.
void Engine::move_fade(std::uint16_t region, std::int64_t played) {
  const RegionData& data = m_.regions[region];
  if (!under_way(data, b_)) return;
  for (const LayerData& layer : data.layers) {
    if (layer_weight(b_, layer) == 0) continue;
    const bool loud = field_at<std::uint8_t>(b_, layer.loud) != 0;
    if (!loud)
      run_layer_on(m_, b_, layer, played);
    else if (m_.states[layer_state(b_, layer)].play.moves())
      move_play(Run(m_, b_, layer.slot, layer_state(b_, layer)), played, true);
  }
  fade_run(data, b_) += played * header().rate();
  if (fade_run(data, b_) >= fade_length(data, b_)) clear_fade(region);
}

void carry_fades(const MachineData& m, std::byte* block, std::int64_t played) {
  for (const RegionData& region : m.regions) {
    if (!under_way(region, block)) continue;
    fade_run(region, block) += played * header_of(block).rate();
    for (const LayerData& layer : region.layers)
      if (layer_weight(block, layer) > 0) run_layer_on(m, block, layer, played);
  }
}

}  // namespace mobrin::detail
