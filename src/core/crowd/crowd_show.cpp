// What a crowd's members are at and show.
#include "mobrin/core/crowd.hpp"

#include <algorithm>
#include <cstring>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_frames.hpp"
#include "engine/engine.hpp"
#include "engine/write.hpp"
#include "machine/block_memory.hpp"

namespace mobrin {

using detail::fetch;
using detail::header_of;
using detail::kAhead;
using detail::MachineData;

std::uint16_t Crowd::active(Member member, std::uint16_t region) const {
  if (!has(member) || region >= d_->machine.data().regions.size()) return kNoIndex;
  return detail::leaf_of(d_->machine.data(), d_->block(member.place), region);
}

bool Crowd::in(Member member, State state) const {
  return has(member) && state.machine == d_->machine.data().serial &&
         detail::is_active(d_->machine.data(), d_->block(member.place), state.index);
}

bool Crowd::is(Member member, Trait trait) const {
  return has(member) && trait.machine == d_->machine.data().serial &&
         detail::has_trait(d_->machine.data(), d_->block(member.place), trait.index);
}

bool Crowd::done(Member member) const {
  return has(member) && (header_of(d_->block(member.place)).flags & detail::kDone) != 0;
}

Shown Crowd::shown(Member member, std::uint16_t region) const {
  if (!has(member) || region >= d_->machine.data().regions.size()) return {};
  return detail::show(d_->machine.data(), d_->block(member.place), region, d_->now);
}

std::uint16_t Crowd::look(Member member) const {
  return has(member) ? detail::look_of(d_->machine.data(), d_->block(member.place)) : kNoIndex;
}

Picture Crowd::picture(Member member, std::uint16_t region, bool faces_left) const {
  const Shown now = shown(member, region);
  return d_->machine.picture(now.clip, now.frame, look(member), now.mirrored != faces_left);
}

FieldValue Crowd::input_value(Member member, std::uint16_t index) const {
  if (!has(member) || index >= d_->machine.data().inputs.size()) return false;
  return detail::value_of(d_->machine.data(), d_->block(member.place), index, d_->now);
}

std::optional<Instance> Crowd::copy(Member member) const {
  if (!has(member)) return std::nullopt;
  std::optional<Instance> out(std::in_place, d_->machine, InstanceOptions{0});
  detail::List<std::byte> scratch;
  d_->copy_to(member.place, *out, scratch);
  return out;
}

void detail::CrowdData::copy_to(std::uint32_t place, Instance& out, List<std::byte>& whole) const {
  whole.resize(machine.block_size());
  whole_block(place, whole.data());
  // An instance wakes for each round, and its block is where its last instant was.
  const bool rests = header_of(whole.data()).wake > now;
  if (cruises[place] != kNoIndex)
    quick->catch_up(whole.data(), now, told_now(place));
  else if (rests)
    reanchor(machine.data(), whole.data(), now);
  if (rests) update_wake(machine.data(), whole.data());
  (void)out.restore(whole);
}

std::uint32_t Crowd::count_active(std::uint32_t first, std::uint32_t end, std::span<std::uint32_t> counts) const {
  std::uint32_t there = 0;
  const MachineData& m = d_->machine.data();
  for (std::uint32_t place = first; place < std::min(end, places()); ++place) {
    if (d_->generations[place] % 2 == 0) continue;
    ++there;
    for (const detail::RegionData& region : m.regions)
      if (const auto leaf = detail::field_at<std::uint16_t>(d_->block(place), region.leaf); leaf < counts.size())
        ++counts[leaf];
  }
  return there;
}

// --- what is shown
// ----------------------------------------------------------------------------------------------------

std::size_t Crowd::shown(std::span<const std::uint32_t> places, std::span<CrowdShown> out, std::uint16_t region) const {
  const std::size_t count = std::min(places.size(), out.size());
  const bool there = region < d_->machine.data().regions.size();
  for (std::size_t i = 0; i < count; ++i) {
    if (i + kAhead < count && places[i + kAhead] < this->places()) fetch(d_->block(places[i + kAhead]), d_->stride);
    out[i] = there && places[i] < this->places() ? d_->look(places[i], region) : CrowdShown{};
  }
  return count;
}

std::size_t Crowd::shown_all(std::span<CrowdShown> out, std::uint16_t region) const {
  const auto count = static_cast<std::uint32_t>(std::min<std::size_t>(places(), out.size()));
  if (region >= d_->machine.data().regions.size()) {
    std::fill_n(out.begin(), count, CrowdShown{});
  } else if (detail::CrowdFrames* const kept = d_->frames_of(region, places() >= detail::CrowdFrames::kWorthIt)) {
    if (count > 0) std::memcpy(out.data(), kept->all(*d_).data(), count * sizeof(CrowdShown));
  } else {
    for (std::uint32_t i = 0; i < count; ++i) out[i] = d_->look(i, region);
  }
  return count;
}

std::span<const CrowdShown> Crowd::shown_all(std::uint16_t region) const {
  if (region >= d_->machine.data().regions.size()) return {};
  return d_->frames_of(region, true)->all(*d_);
}

std::span<const CrowdChange> Crowd::shown_changed(std::uint16_t region) {
  if (region >= d_->machine.data().regions.size()) return {};
  return d_->frames_of(region, true)->changed(*d_);
}

CrowdShown detail::CrowdData::look(std::uint32_t place, std::uint16_t region) const {
  if (generations[place] % 2 == 0) return {};
  return look_at(machine.data(), *quick, block(place), region, now).shown;
}

detail::CrowdFrames* detail::CrowdData::frames_of(std::uint16_t region, bool make) const {
  const std::lock_guard lock(frames_busy);
  for (const auto& each : frames)
    if (each->region() == region) return each.get();
  if (!make) return nullptr;
  frames.push_back(std::make_unique<CrowdFrames>(*this, region, memory.get()));
  frames.back()->reserve(static_cast<std::uint32_t>(generations.capacity()));
  return frames.back().get();
}

}  // namespace mobrin
