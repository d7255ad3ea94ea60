// What a crowd's members show in one region, kept from one look to the next: only those are looked at anew whose frame
// is over, or who were touched since.
#pragma once

#include <memory_resource>
#include <mutex>
#include <span>
#include <vector>

#include "crowd/frame_reels.hpp"
#include "engine/quick.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin::detail {

struct CrowdData;

// What a region shows by its block.
[[nodiscard]] Showing look_at(const MachineData& machine, const Quick& quick, const std::byte* block,
                              std::uint16_t region, std::int64_t now);

class CrowdFrames {
 public:
  // Crowds of fewer than this are as fast without.
  static constexpr std::uint32_t kWorthIt = 256;

  CrowdFrames(const CrowdData& crowd, std::uint16_t region, std::pmr::memory_resource* memory);

  [[nodiscard]] std::uint16_t region() const { return region_; }
  void reserve(std::uint32_t count);
  // The member may show something else from now on. Of members apart by several threads at once.
  void touch(std::uint32_t place) {
    if (place < touched_.size()) touched_[place] = 1;
  }
  void touch_all() { all_touched_ = true; }

  // As things stand; valid until the next update. Several threads may ask at once.
  [[nodiscard]] std::span<const CrowdShown> all(const CrowdData& crowd);
  // Those that changed since this was asked last, each once; at first all who are there.
  [[nodiscard]] std::span<const CrowdChange> changed(const CrowdData& crowd);

 private:
  // One that is looked at again when its time is over.
  struct Loose {
    std::int64_t until = 0;
    std::uint32_t place = 0;
  };
  static constexpr std::uint32_t kNotLoose = 0xffff'ffff;

  void update(const CrowdData& crowd);
  void catch_up();
  void find_touched();
  void let_go(std::uint32_t place);
  void look(const CrowdData& crowd, std::uint32_t place);
  void show(std::uint32_t place, const CrowdShown& shown);
  void show(std::span<const FrameReels::Entry> entries, const Segment& segment);
  [[nodiscard]] CrowdChange* room_for(std::size_t count);
  void once_each();

  std::mutex busy_;
  std::uint16_t region_;
  std::int64_t updated_ = 0;
  bool all_touched_ = true;
  bool lists_ = false;       // somebody asks for changes
  bool given_ = false;       // those that stand there have been given out
  std::size_t updates_ = 0;  // since they were
  std::size_t changed_count_ = 0;
  // Where nobody asks for all, what those in reels show is listed only: `shown_` is behind for them.
  static constexpr int kUpdatesWithAll = 16;  // after somebody did
  int with_all_ = 0;
  bool behind_ = false;
  FrameReels reels_;
  std::pmr::vector<Loose> loose_;          // who is in no reel, and will not stay as they are
  std::pmr::vector<std::uint32_t> slots_;  // where a member is among them
  std::pmr::vector<std::uint8_t> touched_;
  std::pmr::vector<std::uint32_t> to_look_at_;
  std::pmr::vector<CrowdShown> shown_;
  std::pmr::vector<CrowdChange> changed_;
};

}  // namespace mobrin::detail
