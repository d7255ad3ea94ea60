// What is shown, asked for: looks, blends, tracks, and when it changes next.
#include <algorithm>
#include <cmath>
#include <limits>

#include "engine/engine.hpp"
#include "engine/write.hpp"
#include "expression/expression.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin {
namespace {

using namespace detail;

constexpr double kSubTicksPerSecond = static_cast<double>(kTicksPerSecond) * kOne;

// A track at `time` of its clip, in sub-ticks.
double sampled(const TrackDef& track, double time) {
  const auto at = [](const TrackKey& key) { return static_cast<double>(key.time.count) * kOne; };
  const auto after =
      std::find_if(track.keys.begin(), track.keys.end(), [&](const TrackKey& key) { return at(key) > time; });
  if (after == track.keys.begin()) return track.keys.front().value;
  const TrackKey& from = *(after - 1);
  if (after == track.keys.end() || track.curve == TrackCurve::step) return from.value;
  const double span = at(*after) - at(from), t = (time - at(from)) / span;
  if (track.curve == TrackCurve::linear) return from.value + (after->value - from.value) * t;
  // glTF 2.0, appendix C.4 (cubic spline interpolation).
  const double seconds = span / kSubTicksPerSecond, t2 = t * t, t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * from.value + seconds * (t3 - 2 * t2 + t) * from.out +
         (3 * t2 - 2 * t3) * after->value + seconds * (t3 - t2) * after->in;
}

const TrackDef* track_of(const MachineData& m, std::uint16_t clip, std::string_view name) {
  if (clip == kNoIndex) return nullptr;
  for (const TrackDef& track : m.clip_infos[clip].marks.tracks)
    if (track.name.text == name) return &track;
  return nullptr;
}

// A track along a play's cycle.
class Along {
 public:
  Along(const MachineData& m, const ClipData& clip, std::string_view name) : m_(m), clip_(clip), name_(name) {}
  [[nodiscard]] std::optional<double> at(std::int64_t position, bool backward) const {
    const Segment& segment = clip_.segments[segment_at(clip_, position, backward)];
    const TrackDef* track = track_of(m_, segment.clip, name_);
    if (track == nullptr) return std::nullopt;
    return sampled(*track, static_cast<double>(own_time(segment, position)));
  }

 private:
  const MachineData& m_;
  const ClipData& clip_;
  std::string_view name_;
};

// How often a play that ends has come round; 0 of one that does not.
std::int64_t rounds_of(const std::byte* block, const ConstRun& run) {
  const std::int32_t most = run.clip().passes;
  if (most == 0) return 0;
  const std::int32_t passes = reached_now(block, run).passes;
  return passes - (passes == most ? 1 : 0);
}

// How often a play for ever came round between two blocks, by the pace that it has now: a write takes effect at the
// begin of a step. Where that does not lead to where it is, as after several steps, at most once.
std::int64_t rounds_between(const BlockHeader& now, const BlockHeader& before, const ConstRun& run, std::int64_t from,
                            std::int64_t to) {
  const bool backward = run.backward();
  const auto frozen = [](const BlockHeader& h) {
    return std::max<std::int64_t>(0, h.anchor + std::int64_t{h.frozen} - h.now);
  };
  const std::int64_t held = std::max<std::int64_t>(0, frozen(before) - frozen(now));
  const Wide way = Wide{std::abs(effective_speed(run.speed(), now.rate()))} * (now.now - before.now - held);
  const std::int64_t ahead = backward ? from : run.cycle() - from;
  const std::int64_t rounds = way < ahead ? 0 : static_cast<std::int64_t>((way - ahead) / run.cycle()) + 1;
  const auto past = static_cast<std::int64_t>(way < ahead ? way : (way - ahead) % run.cycle());
  const std::int64_t begin = way < ahead ? from : run.edge_behind();
  if (to == (backward ? begin - past : begin + past)) return rounds;
  return (backward ? to > from : to < from) ? 1 : 0;
}

// When a play that stands at `at` next shows another frame, or a box that comes and goes by time.
Ticks next_border(const MachineData& m, const BlockHeader& h, const ConstRun& run, Reached at) {
  const std::int64_t pace = effective_speed(run.speed(), h.rate());
  const ClipData& clip = run.clip();
  std::int64_t soonest = kNever;
  if (pace == 0 || (clip.passes > 0 && at.passes >= clip.passes)) return Ticks(soonest);
  const std::int64_t from = std::max(h.now, h.anchor + std::int64_t{h.frozen});
  const auto consider = [&](std::int64_t position) {
    const std::int64_t distance = pace > 0 ? position - at.playhead : at.playhead - position;
    if (distance <= 0) return;
    soonest = std::min(soonest, from + ticks_to_cover(distance, std::abs(pace)));
  };
  const std::size_t shown = segment_at(clip, at.playhead, pace < 0);
  consider(run.edge_ahead());
  // The nearest two borders of frames on either side: one may be where it stands.
  const auto border = [&](std::size_t s) {
    if (continues(clip, s)) return 0;
    consider(clip.segments[s].begin << kSubBits);
    return 1;
  };
  int behind = 0, ahead = 0;
  for (std::size_t s = shown + 1; s > 0 && behind < 2; --s) behind += border(s - 1);
  for (std::size_t s = shown + 1; s < clip.segments.size() && ahead < 2; ++s) ahead += border(s);
  const Segment& segment = clip.segments[shown];
  if (segment.clip == kNoIndex) return Ticks(soonest);
  for (const BoxDef& box : m.clip_infos[segment.clip].marks.boxes)
    for (const StretchDef& stretch : box.stretches)
      for (const Ticks time : {stretch.begin, stretch.end})
        if (stretch.timed)
          consider((segment.begin + (segment.mirrored ? segment.own - time.count : time.count - segment.own))
                   << kSubBits);
  return Ticks(soonest);
}

}  // namespace

std::uint16_t detail::look_of(const MachineData& m, const std::byte* block) {
  for (std::size_t i = 0; i < m.look_guards.size(); ++i)
    if (holds(m, block, m.look_guards[i])) return static_cast<std::uint16_t>(i);
  return kNoIndex;
}

std::uint16_t Instance::look() const { return detail::look_of(machine_.data(), bytes_.get()); }

std::size_t Instance::blended(std::uint16_t region, std::span<Shown> out) const {
  const MachineData& m = machine_.data();
  const std::uint16_t leaf = active(region);
  if (leaf == kNoIndex) return 0;
  const Shown heaviest = shown(region);
  const PlayData& play = m.states[leaf].play;
  if (play.blend == kNoIndex) {
    if (!out.empty()) out[0] = heaviest;
    return 1;
  }
  const BlendData& blend = m.blends[play.blend];
  std::array<double, kMostBlendPoints> weights{};
  blend_weights(m, bytes_.get(), blend, weights);
  const ConstRun run(m, bytes_.get(), region);
  const std::int64_t here = playhead(region).value_or(0);
  for (std::size_t i = 0; i < std::min(out.size(), blend.points.size()); ++i) {
    const std::uint16_t index = m.played[play.clips.begin + static_cast<std::uint32_t>(i)].clip;
    const ClipData& clip = m.clips[index];
    const auto same = static_cast<std::int64_t>(Wide{here} * clip.cycle / run.clip().cycle);
    const Segment& segment = clip.segments[segment_at(clip, same, run.backward())];
    out[i] = {index, segment.frame, static_cast<double>(own_time(segment, same)) / kSubTicksPerSecond,
              heaviest.weight * weights[i], blend.points[i].mirrored};
  }
  return blend.points.size();
}

std::optional<double> Instance::track(std::string_view name, std::uint16_t region) const {
  const Shown now = shown(region);
  const TrackDef* track = track_of(machine_.data(), now.clip, name);
  if (track == nullptr) return std::nullopt;
  return sampled(*track, now.seconds * kSubTicksPerSecond);
}

double Instance::moved(std::string_view name, std::span<const std::byte> before, std::uint16_t region) const {
  const MachineData& m = machine_.data();
  const std::uint16_t leaf = active(region);
  if (leaf == kNoIndex || !m.states[leaf].play.moves() || before.size() < m.block_size) return 0;
  const ConstRun run(m, bytes_.get(), region);
  const Along along(m, run.clip(), name);
  const BlockHeader& h_before = header_of(before.data());
  const bool goes_on = leaf_of(m, before.data(), region) == leaf && (h_before.flags & kStarted) != 0;
  const bool backward = run.backward();
  const std::int64_t to = *playhead(region);
  const auto value = [&](std::int64_t position) { return along.at(position, backward).value_or(0); };
  if (!along.at(to, backward)) return 0;
  std::int64_t from = run.edge_behind(), rounds = rounds_of(bytes_.get(), run);
  if (goes_on) {
    const ConstRun was(m, before.data(), region);
    const std::int64_t rounds_before = was.backward() == backward ? rounds_of(before.data(), was) : 0;
    if (rounds >= rounds_before) {  // else it has begun anew
      from = playhead_at(before.data(), was, h_before.now);
      rounds = run.clip().passes > 0 ? rounds - rounds_before
                                     : rounds_between(header_of(bytes_.get()), h_before, run, from, to);
    }
  }
  if (rounds == 0) return value(to) - value(from);
  const double whole = value(run.edge_ahead()) - value(run.edge_behind());
  return value(run.edge_ahead()) - value(from) + whole * static_cast<double>(rounds - 1) + value(to) -
         value(run.edge_behind());
}

Ticks Instance::next_change() const {
  const MachineData& m = machine_.data();
  const std::byte* block = bytes_.get();
  const BlockHeader& h = header_of(block);
  Ticks soonest(std::max(h.wake, h.now));
  if (h.wake <= h.now || (h.flags & kDone) != 0 || h.rate() == 0) return soonest;
  for (std::uint16_t r = 0; r < m.regions.size(); ++r) {
    const std::uint16_t leaf = leaf_of(m, block, r);
    if (leaf == kNoIndex) continue;
    if (const ConstRun run(m, block, r); m.states[leaf].play.moves())
      soonest = std::min(soonest, next_border(m, h, run, {playhead_at(block, run, h.now), run.passes()}));
    if (fade_progress(m, block, r, h.now) >= 1) continue;
    for (const LayerData& layer : m.regions[r].layers) {
      if (layer_weight(block, layer) == 0) continue;
      const ConstRun run(m, block, layer.slot, layer_state(block, layer));
      if (run.play().moves()) soonest = std::min(soonest, next_border(m, h, run, reached_now(block, run)));
    }
  }
  return soonest;
}

}  // namespace mobrin
