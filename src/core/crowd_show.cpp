// What a crowd's members are at and show.
#include "mobrin/core/crowd.hpp"

#include <algorithm>

#include "crowd_memory.hpp"
#include "crowd_quick.hpp"
#include "engine.hpp"
#include "write.hpp"

namespace mobrin {

using detail::fetch;
using detail::header_of;
using detail::kAhead;
using detail::MachineData;

std::uint16_t Crowd::active(Member member, std::uint16_t region) const {
  if (!has(member) || region >= machine_.data().regions.size()) return kNoIndex;
  return detail::leaf_of(machine_.data(), block(member.place), region);
}

bool Crowd::in(Member member, State state) const {
  return has(member) && state.machine == machine_.data().serial &&
         detail::is_active(machine_.data(), block(member.place), state.index);
}

bool Crowd::is(Member member, Trait trait) const {
  return has(member) && trait.machine == machine_.data().serial &&
         detail::has_trait(machine_.data(), block(member.place), trait.index);
}

bool Crowd::done(Member member) const {
  return has(member) && (header_of(block(member.place)).flags & detail::kDone) != 0;
}

Shown Crowd::shown(Member member, std::uint16_t region) const {
  if (!has(member) || region >= machine_.data().regions.size()) return {};
  return detail::show(machine_.data(), block(member.place), region, now_);
}

FieldValue Crowd::input_value(Member member, std::uint16_t index) const {
  if (!has(member) || index >= machine_.data().inputs.size()) return false;
  return detail::value_of(machine_.data(), block(member.place), index, now_);
}

std::unique_ptr<Instance> Crowd::copy(Member member) const {
  if (!has(member)) return nullptr;
  auto out = std::make_unique<Instance>(machine_, InstanceOptions{0});
  std::vector<std::byte> whole(machine_.block_size());
  whole_block(member.place, whole.data());
  // An instance wakes for each round, and its block is where its last instant was.
  const bool rests = header_of(whole.data()).wake > now_;
  if (rests || cruises_[member.place] != kNoIndex) detail::reanchor(machine_.data(), whole.data(), now_);
  if (rests) detail::update_wake(machine_.data(), whole.data());
  out->restore(whole);
  return out;
}

// --- what is shown
// ----------------------------------------------------------------------------------------------------

namespace {

CrowdShown brief(const MachineData& m, const detail::QuickStep& quick, const std::byte* block, std::uint16_t region,
                 std::int64_t now) {
  CrowdShown out;
  const std::uint16_t leaf = detail::leaf_of(m, block, region);
  if (leaf == kNoIndex || quick.show(block, region, now, out)) return out;
  const detail::ConstRun run(m, block, region);
  const detail::PlayData& play = run.play();
  if (play.type == detail::PlayType::pose) {
    out.clip = run.played().clip;
    out.frame = play.pose_frame;
  } else if (play.moves()) {
    const detail::ClipData& clip = run.clip();
    const detail::Segment& segment =
        clip.segments[detail::segment_at(clip, detail::playhead_at(block, run, now), run.backward())];
    out.clip = segment.clip;
    out.frame = segment.frame;
    if (play.blend != kNoIndex) out.mirrored = m.blends[play.blend].points[run.choice()].mirrored;
  }
  if (m.regions[region].fades()) out.weight = static_cast<float>(detail::fade_progress(m, block, region, now));
  return out;
}

}  // namespace

std::size_t Crowd::shown(std::span<const std::uint32_t> places, std::span<CrowdShown> out, std::uint16_t region) const {
  const std::size_t count = std::min(places.size(), out.size());
  const bool there = region < machine_.data().regions.size();
  for (std::size_t i = 0; i < count; ++i) {
    if (i + kAhead < count && places[i + kAhead] < this->places()) fetch(block(places[i + kAhead]), stride_);
    const bool anybody = there && places[i] < this->places() && generations_[places[i]] % 2 == 1;
    out[i] = anybody ? brief(machine_.data(), *quick_, block(places[i]), region, now_) : CrowdShown{};
  }
  return count;
}

std::size_t Crowd::shown_all(std::span<CrowdShown> out, std::uint16_t region) const {
  const auto count = static_cast<std::uint32_t>(std::min<std::size_t>(places(), out.size()));
  const bool there = region < machine_.data().regions.size();
  for (std::uint32_t i = 0; i < count; ++i)
    out[i] = there && generations_[i] % 2 == 1 ? brief(machine_.data(), *quick_, block(i), region, now_) : CrowdShown{};
  return count;
}

}  // namespace mobrin
