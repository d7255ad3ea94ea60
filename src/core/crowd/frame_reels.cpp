#include "crowd/frame_reels.hpp"

#include <algorithm>
#include <bit>

namespace mobrin::detail {

FrameReels::FrameReels(const MachineData& machine, std::pmr::memory_resource* memory)
    : machine_(machine), reels_(machine.clips.size()), chunks_(memory), where_(memory) {
  for (std::size_t i = 0; i < reels_.size(); ++i) {
    const ClipData& clip = machine.clips[i];
    Reel& reel = reels_[i];
    reel.clip = &clip;
    reel.cycle = reel.shortest = clip.cycle;
    for (const Segment& segment : clip.segments)
      reel.shortest = std::min(reel.shortest, segment_end(clip, segment) - segment.begin);
    const auto bits = static_cast<int>(std::bit_width(static_cast<std::uint64_t>(clip.cycle)));
    if (clip.passes == 0 && bits <= 32 + kBinBits) reel.width_bits = std::max(0, bits - kBinBits);
  }
}

void FrameReels::clear() {
  std::fill(bins_.begin(), bins_.end(), kNowhere);
  std::fill(where_.begin(), where_.end(), kNowhere);
  chunks_.clear();
  free_ = kNowhere;
  for (const std::uint32_t number : in_use_) reels_[number].members = 0;
}

void FrameReels::add(std::uint32_t member, const ClipData& clip, std::int64_t at, std::int64_t begin) {
  const std::size_t number = number_of(clip);
  Reel& reel = reels_[number];
  if (reel.first_bin == kNowhere) {
    reel.first_bin = static_cast<std::uint32_t>(bins_.size());
    bins_.resize(bins_.size() + static_cast<std::size_t>((reel.cycle - 1) >> reel.width_bits) + 1, kNowhere);
    owners_.resize(bins_.size(), static_cast<std::uint32_t>(number));
    in_use_.push_back(static_cast<std::uint32_t>(number));
  }
  ++reel.members;
  std::int64_t began = (at - begin) % reel.cycle;
  if (began < 0) began += reel.cycle;
  const std::uint32_t bin = reel.first_bin + static_cast<std::uint32_t>(began >> reel.width_bits);
  std::uint32_t c = bins_[bin];
  if (c == kNowhere || chunks_[c].count == Chunk::kRoom) c = new_chunk(bin);
  Chunk& chunk = chunks_[c];
  where_[member] = c << kSlotBits | chunk.count;
  chunk.entries[chunk.count++] = {member,
                                  static_cast<std::uint32_t>(began & ((std::int64_t{1} << reel.width_bits) - 1))};
}

std::uint32_t FrameReels::new_chunk(std::uint32_t bin) {
  std::uint32_t c = free_;
  if (c != kNowhere) {
    free_ = chunks_[c].next;
  } else {
    c = static_cast<std::uint32_t>(chunks_.size());
    chunks_.emplace_back();
  }
  chunks_[c].count = 0;
  chunks_[c].bin = bin;
  chunks_[c].next = std::exchange(bins_[bin], c);
  return c;
}

void FrameReels::remove(std::uint32_t member) {
  const std::uint32_t where = std::exchange(where_[member], kNowhere);
  if (where == kNowhere) return;
  const std::uint32_t bin = chunks_[where >> kSlotBits].bin, first = bins_[bin];
  // The bin's last one takes its slot.
  Chunk& last = chunks_[first];
  const Entry moved = last.entries[--last.count];
  if (moved.member != member) {
    chunks_[where >> kSlotBits].entries[where & ((1u << kSlotBits) - 1)] = moved;
    where_[moved.member] = where;
  }
  --reels_[owners_[bin]].members;
  if (last.count > 0) return;
  bins_[bin] = last.next;
  last.next = std::exchange(free_, first);
}

}  // namespace mobrin::detail
