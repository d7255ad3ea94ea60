// What a crowd holds; shared by the files that make up Crowd.
#pragma once

#include <memory>
#include <memory_resource>
#include <mutex>
#include <vector>

#include "crowd/crowd_frames.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/quick.hpp"
#include "engine/write.hpp"
#include "machine/block_memory.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/list.hpp"

namespace mobrin::detail {

// A MemorySource as the standard's containers take it, which do not ask whether they were given anything: where there
// is none left, the program stops.
class SourceResource : public std::pmr::memory_resource {
 public:
  explicit SourceResource(MemorySource source) : source_(source) {}

 private:
  void* do_allocate(std::size_t bytes, std::size_t alignment) override {
    return or_stop(source_.allocate(bytes, alignment), bytes);
  }
  void do_deallocate(void* memory, std::size_t bytes, std::size_t alignment) override {
    source_.deallocate(memory, bytes, alignment);
  }
  [[nodiscard]] bool do_is_equal(const std::pmr::memory_resource& other) const noexcept override {
    return this == &other;
  }

  MemorySource source_;
};

// What the first instant of a member brings whose inputs were left at their start, wherever it lies in time.
struct Beginning {
  Beginning(const Machine& machine, const CrowdOptions& options, const Quick& quick);

  List<std::byte> before, after;  // its whole block
  bool known = false;             // it does not hang on the clock, nor tells much
  std::int64_t wake = 0;          // from then on
  std::uint16_t cruise = kNoIndex;
  CrowdCues cues;
};

struct CrowdData {
  CrowdData(Machine machine, CrowdOptions options);

  // Blocks lie here without their clock, which is the crowd's, and their wake. The engine's offsets count from the
  // address that block() gives; those two, which would lie first, may not be touched there.
  [[nodiscard]] std::byte* block(std::uint32_t place) { return blocks.data() + place * stride; }
  [[nodiscard]] const std::byte* block(std::uint32_t place) const { return blocks.data() + place * stride; }
  [[nodiscard]] std::uint32_t places() const { return static_cast<std::uint32_t>(generations.size()); }
  [[nodiscard]] bool hears_loops() const { return (options.listening & listen_to(Told::loop)) != 0; }

  // The next instant of the member settles.
  void stir(std::uint32_t place) {
    stir_block(machine.data(), block(place), now);
    wake(place);
  }
  void stir_row(std::uint32_t first);
  // Brings the block of one that cruised to now.
  void catch_up(std::uint32_t place);
  // How many records one that cruises told at this very instant: its block does not know of them.
  [[nodiscard]] std::uint32_t told_now(std::uint32_t place) const {
    return cruises[place] == kNoIndex ? 0 : quick->told_at(cruises[place], (*wakes)[place], now);
  }
  // The next instant of the member is now.
  void wake(std::uint32_t place) {
    if (told_now(place) > 0) catch_up(place);  // what comes now counts on from there
    wakes->set(place, kAtOnce);
  }
  void whole_block(std::uint32_t place, std::byte* out) const;
  // A member as an instance without tickets, and back.
  void copy_to(std::uint32_t place, Instance& out, List<std::byte>& scratch) const;
  void take(std::uint32_t place, const Instance& from);
  // What a member shows, by its block.
  [[nodiscard]] CrowdShown look(std::uint32_t place, std::uint16_t region) const;
  // What is kept of what a region shows; null where nothing is and none is to be made.
  [[nodiscard]] CrowdFrames* frames_of(std::uint16_t region, bool make) const;
  // For whoever changes a block, from now on.
  void touch(std::uint32_t place) const {
    for (const auto& each : frames) each->touch(place);
  }
  // Calls change(whole block) and takes its wake over.
  template <class Change>
  void change_whole(std::uint32_t place, const Change& change) {
    catch_up(place);
    List<std::byte> whole(machine.block_size());
    whole_block(place, whole.data());
    change(whole.data());
    std::copy_n(whole.data() + kElsewhere, stride, block(place) + kElsewhere);
    wakes->set(place, std::max(header_of(whole.data()).wake, kAtOnce));
    touch(place);
  }

  // Writes a value; wakes the member where something active could change by it.
  template <class T>
  Written write(std::uint32_t place, std::uint16_t input, T value);
  void changed(std::uint32_t place, std::uint16_t input, double before, double now);
  void write_pulse(std::uint32_t place, std::uint16_t input);

  Machine machine;
  CrowdOptions options;
  std::unique_ptr<SourceResource> memory;
  std::unique_ptr<CrowdReaders> readers;
  const Quick* quick;  // the machine's
  Beginning beginning;
  std::size_t stride;
  std::unique_ptr<CrowdWakes> wakes;
  std::pmr::vector<std::uint16_t> cruises;  // where one tells next that only passes such places; else none (Quick)
  std::pmr::vector<std::byte> blocks;
  List<std::byte> scratch;                      // of lend()
  std::pmr::vector<std::uint32_t> generations;  // odd where somebody is
  std::pmr::vector<std::uint32_t> free;
  std::int64_t now = 0, end = 0;
  std::uint32_t living = 0;
  mutable std::mutex frames_busy;  // while one more is made
  mutable List<std::unique_ptr<CrowdFrames>> frames;
};

}  // namespace mobrin::detail
