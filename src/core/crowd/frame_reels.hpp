// Those that play the same endless clip at normal pace, sorted by when their round began: where a frame begins, those
// who come to it in a step lie side by side, and nobody else is looked at.
#pragma once

#include <algorithm>
#include <array>
#include <memory_resource>
#include <span>
#include <utility>
#include <vector>

#include "compile/timeline.hpp"
#include "machine/block_memory.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin::detail {

class FrameReels {
 public:
  FrameReels(const MachineData& machine, std::pmr::memory_resource* memory);

  void reserve(std::uint32_t count) { where_.reserve(count), chunks_.reserve(std::size_t{count} / Chunk::kRoom * 2); }
  void clear();
  void resize(std::uint32_t count) { where_.resize(count, kNowhere); }

  // Whether a clip of MachineData::clips is one of these.
  [[nodiscard]] bool takes(const ClipData& clip) const { return reels_[number_of(clip)].width_bits >= 0; }
  // A member that comes to the place `begin` of the clip's cycle at the instant `at`. REQUIRES: it is not in; takes().
  void add(std::uint32_t member, const ClipData& clip, std::int64_t at, std::int64_t begin);
  // Takes it out, if it is in.
  void remove(std::uint32_t member);

  struct Entry {
    std::uint32_t member;
    std::uint32_t within;  // when the round began, from where its bin does
  };
  // look(member, segment) for all, with what they show at an instant.
  template <class Look>
  void look_at_all(std::int64_t at, const Look& look) const {
    for (const std::uint32_t number : in_use_)
      if (reels_[number].members > 0) look_at_all(reels_[number], at, look);
  }
  // What one shows at an instant; null for one that is not in.
  [[nodiscard]] const Segment* shown_by(std::uint32_t member, std::int64_t at) const {
    const std::uint32_t where = where_[member];
    if (where == kNowhere) return nullptr;
    const Chunk& chunk = chunks_[where >> kSlotBits];
    const Reel& reel = reels_[owners_[chunk.bin]];
    return &shown_at(reel, chunk.bin - reel.first_bin, chunk.entries[where & ((1u << kSlotBits) - 1)], at % reel.cycle);
  }
  // Whether a step is longer than some frame, so that pass() looks at all.
  [[nodiscard]] bool is_long(std::int64_t step) const {
    return std::any_of(in_use_.begin(), in_use_.end(),
                       [&](std::uint32_t number) { return step >= reels_[number].shortest; });
  }
  // For all who come to a segment with another picture within (from, to], each once: show(entries, segment). Where that
  // is longer than a frame: look(member, segment) for all, whether they come to another or not.
  template <class Show, class Look>
  void pass(std::int64_t from, std::int64_t to, const Show& show, const Look& look) const {
    for (const std::uint32_t number : in_use_) {
      const Reel& reel = reels_[number];
      if (reel.members == 0) continue;
      if (to - from >= reel.shortest) {
        look_at_all(reel, to, look);
        continue;
      }
      const std::int64_t next = (from + 1) % reel.cycle, length = to - from;
      for (const Segment& segment : reel.clip->segments) {
        if (!begins_another(*reel.clip, segment)) continue;
        // Who began his round so long before.
        const std::int64_t first = next >= segment.begin ? next - segment.begin : next - segment.begin + reel.cycle;
        pass(reel, first, std::min(first + length, reel.cycle), segment, show);
        if (first + length > reel.cycle) pass(reel, 0, first + length - reel.cycle, segment, show);
      }
    }
  }

 private:
  static constexpr std::uint32_t kNowhere = 0xffff'ffff;
  static constexpr int kBinBits = 8;  // of a reel, at most
  struct Chunk {
    static constexpr std::uint32_t kRoom = 30;
    Entry entries[kRoom];
    std::uint32_t count = 0;
    std::uint32_t next = kNowhere;
    std::uint32_t bin = 0;
  };
  static constexpr int kSlotBits = 5;
  static_assert(Chunk::kRoom <= 1u << kSlotBits && sizeof(Chunk) <= 256);
  struct Reel {
    const ClipData* clip = nullptr;
    std::int64_t cycle = 0, shortest = 0;  // ticks; the shortest of its segments
    int width_bits = -1;                   // of a bin, in ticks; -1 for a clip that is none of these
    std::uint32_t first_bin = kNowhere;
    std::uint32_t members = 0;
  };

  [[nodiscard]] std::size_t number_of(const ClipData& clip) const {
    return static_cast<std::size_t>(&clip - machine_.clips.data());
  }
  [[nodiscard]] static bool begins_another(const ClipData& clip, const Segment& segment) {
    const Segment& before = &segment == clip.segments.data() ? clip.segments.back() : *(&segment - 1);
    return before.clip != segment.clip || before.frame != segment.frame;
  }
  [[nodiscard]] std::uint32_t new_chunk(std::uint32_t bin);

  // Those whose round began within [first, end) of a cycle.
  template <class Show>
  void pass(const Reel& reel, std::int64_t first, std::int64_t end, const Segment& segment, const Show& show) const {
    const std::int64_t last_bin = (end - 1) >> reel.width_bits;
    for (std::int64_t bin = first >> reel.width_bits; bin <= last_bin; ++bin) {
      const std::int64_t begin = bin << reel.width_bits;
      const bool whole = begin >= first && begin + (std::int64_t{1} << reel.width_bits) <= end;
      for (std::uint32_t c = bins_[reel.first_bin + static_cast<std::uint32_t>(bin)]; c != kNowhere;) {
        const Chunk& chunk = chunks_[c];
        c = chunk.next;
        if (c != kNowhere) fetch(&chunks_[c]);
        if (whole) {
          show(std::span(chunk.entries, chunk.count), segment);
          continue;
        }
        std::array<Entry, Chunk::kRoom> some;
        std::size_t count = 0;
        for (const Entry& entry : std::span(chunk.entries, chunk.count)) {
          some[count] = entry;
          count += begin + entry.within >= first && begin + entry.within < end ? 1 : 0;
        }
        show(std::span(some).first(count), segment);
      }
    }
  }
  template <class Look>
  void look_at_all(const Reel& reel, std::int64_t at, const Look& look) const {
    const auto bins = static_cast<std::uint32_t>(((reel.cycle - 1) >> reel.width_bits) + 1);
    const std::int64_t there = at % reel.cycle;
    for (std::uint32_t bin = 0; bin < bins; ++bin)
      for (std::uint32_t c = bins_[reel.first_bin + bin]; c != kNowhere; c = chunks_[c].next)
        for (const Entry& entry : std::span(chunks_[c].entries, chunks_[c].count))
          look(entry.member, shown_at(reel, bin, entry, there));
  }
  // What a member of a bin shows `there` on the cycle of the clock.
  [[nodiscard]] static const Segment& shown_at(const Reel& reel, std::uint32_t bin, const Entry& entry,
                                               std::int64_t there) {
    std::int64_t position = there - (std::int64_t{bin} << reel.width_bits) - entry.within;
    if (position < 0) position += reel.cycle;
    return reel.clip->segments[segment_at(*reel.clip, position << kSubBits, false)];
  }

  const MachineData& machine_;
  List<Reel> reels_;            // one a clip
  List<std::uint32_t> in_use_;  // those that ever had a member
  List<std::uint32_t> owners_;  // of each bin of them: the reel
  List<std::uint32_t> bins_;    // their first chunks: the one that is not full
  std::pmr::vector<Chunk> chunks_;
  std::pmr::vector<std::uint32_t> where_;  // of each member: chunk and slot
  std::uint32_t free_ = kNowhere;
};

}  // namespace mobrin::detail
