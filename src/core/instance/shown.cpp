// What a region shows: its clip, frame and weight, also of what fades out.
#include "engine/engine.hpp"
#include "engine/write.hpp"

namespace mobrin {
using detail::MachineData;

namespace {

// What one play shows at `position` of its cycle.
Shown shown_of(const MachineData& m, const detail::ConstRun& run, std::int64_t position) {
  Shown shown;
  const detail::PlayData& play = run.play();
  if (play.type == detail::PlayType::pose) {
    shown.clip = run.played().clip;
    shown.frame = play.pose_frame;
    const std::vector<Ticks>& borders = m.clip_infos[shown.clip].borders;
    const Ticks at = play.pose_frame < 0 ? Ticks(play.pose_time) : borders[static_cast<std::size_t>(play.pose_frame)];
    shown.seconds = at.to_seconds();
  } else if (play.moves()) {
    const detail::ClipData& clip = run.clip();
    const detail::Segment& segment = clip.segments[detail::segment_at(clip, position, run.backward())];
    shown.clip = segment.clip;
    shown.frame = segment.frame;
    if (segment.clip != kNoIndex)
      shown.seconds = static_cast<double>(detail::own_time(segment, position)) /
                      (static_cast<double>(kTicksPerSecond) * detail::kOne);
    if (play.blend != kNoIndex) shown.mirrored = m.blends[play.blend].points[run.choice()].mirrored;
  }
  return shown;
}

}  // namespace

namespace detail {

Shown show(const MachineData& m, const std::byte* block, std::uint16_t region, std::int64_t now) {
  if (leaf_of(m, block, region) == kNoIndex) return {};
  const ConstRun run(m, block, region);
  Shown shown = shown_of(m, run, run.play().moves() ? playhead_at(block, run, now) : 0);
  shown.weight = fade_progress(m, block, region, now);
  return shown;
}

}  // namespace detail

Shown Considered::shown() const {
  const std::uint16_t region = detail::played_region(*machine, machine->transitions[transition].owner);
  return detail::show(*machine, block, region, detail::header_of(block).anchor);
}

Shown Instance::shown(std::uint16_t region) const {
  if (region >= region_count()) return {};
  return detail::show(machine_.data(), bytes_.get(), region, detail::header_of(bytes_.get()).now);
}

bool Instance::shows(Clip clip) const {
  if (!known(clip.machine)) return false;
  for (std::uint16_t region = 0; region < region_count(); ++region)
    if (shown(region).clip == clip.index) return true;
  return false;
}

std::string_view Instance::active_path(std::uint16_t region) const { return machine_.state_path(active(region)); }

Picture Instance::picture(std::uint16_t region, bool faces_left) const {
  const Shown now = shown(region);
  return machine_.picture(now.clip, now.frame, look(), now.mirrored != faces_left);
}

ShownLayers Instance::layers(std::uint16_t region) const {
  ShownLayers out;
  const MachineData& m = machine_.data();
  const std::byte* block = bytes_.get();
  if (region >= m.regions.size() || detail::leaf_of(m, block, region) == kNoIndex) return out;
  const Shown newest = shown(region);
  out.add(newest);
  if (newest.weight >= 1) return out;
  const auto& layers = m.regions[region].layers;
  for (auto layer = layers.rbegin(); layer != layers.rend(); ++layer) {
    const std::uint32_t weight = detail::layer_weight(block, *layer);
    if (weight == 0) continue;
    const detail::ConstRun run(m, block, layer->slot, detail::layer_state(block, *layer));
    Shown shown = shown_of(m, run, run.play().moves() ? detail::reached_now(block, run).playhead : 0);
    shown.weight = (1 - newest.weight) * (static_cast<double>(weight) / detail::kWholeWeight);
    out.add(shown);
  }
  return out;
}

}  // namespace mobrin
