// Many members that do the same at one instant: what Quick::answer() did with one block is learnt, and done to others
// that are alike in all that it read, without looking again.
#pragma once

#include <array>
#include <span>

#include "engine/quick.hpp"
#include "machine/block_memory.hpp"

namespace mobrin::detail {

class Repeats {
 public:
  // For a step in which something was written before `at`.
  Repeats(const MachineData& machine, const Quick& quick, std::int64_t at);

  // As Quick::answer().
  [[nodiscard]] bool answer(std::byte* block, std::int64_t at, Sink& sink, Quick::After& after) {
    if (!possible_ || header_of(block).flags != (kStarted | kDirty)) return false;
    return answer_one(block, at, sink, after);
  }
  // The same at once for all of a row whose blocks lie side by side, from that of the sink's member on, where all do
  // what was learnt and have nothing else to do until `end`.
  [[nodiscard]] bool answer_row(std::byte* blocks, std::size_t stride, std::int64_t end, Sink& sink,
                                Quick::After& after);
  // The same for those of a row that `due` has a bit for, where each does something that was learnt. `wakes` and
  // `cruises`: the row's, of which theirs are set.
  [[nodiscard]] bool answer_each(std::byte* blocks, std::size_t stride, std::uint32_t due, std::int64_t end, Sink& sink,
                                 std::int64_t* wakes, std::uint16_t* cruises);

 private:
  static constexpr std::size_t kMostWords = 16, kMostNumbers = 6;
  static constexpr std::size_t kLeaves = 4;  // so many innermost states are followed at a time

  // Of a word of the blocks, or of a pair: what is read of it and was there, and what becomes of it.
  template <class Word>
  struct Change {
    std::size_t at;
    Word read, before, keep, value;
    bool stores;  // something becomes of it
  };
  // Numbers that guards compare with constants, and between which bounds they all come to the same.
  struct Bounds {
    BlockValue from;
    std::uint32_t at;
    double low, high;  // both included
  };
  struct Numbers {
    std::array<Bounds, kMostNumbers> all;
    std::size_t count = 0;
    // False, with nothing added, where there is no room for one more, or no telling.
    [[nodiscard]] bool add(const PlanGuard& guard, const std::byte* block);
    [[nodiscard]] std::span<const Bounds> view() const { return std::span(all).first(count); }
  };
  struct Learnt {
    std::array<Change<WordPair>, kMostWords / 2> pairs;
    std::size_t count = 0;
    bool odd = false;
    Change<std::uint64_t> last;  // of an odd number of words
    // each(a change)
    template <class Each>
    void for_changes(const Each& each) const {
      for (std::size_t i = 0; i < count; ++i) each(pairs[i]);
      if (odd) each(last);
    }
    Numbers numbers;
    std::span<const CrowdCue> cues;
    Quick::After after;
    const Quick::Lap* lap = nullptr;  // of what is left,
    bool stood = false;               // and whether it stood at its end
  };
  // What those with one innermost state did lately.
  struct Lately {
    const PlanGo* go = nullptr;
    std::uint32_t times = 0;   // one after the other
    std::uint32_t wanted = 8;  // so many are enough to learn it
    std::uint32_t credit = 0;  // 0: nothing is learnt
    Learnt learnt;
  };

  // Blocks that are looked at together: one, all of a row, some of it.
  struct One {
    std::byte* block;
    [[nodiscard]] std::byte* first() const { return block; }
    template <class Each>
    MOBRIN_INLINE void for_each(const Each& each) const {
      each(block);
    }
  };
  struct Row {
    std::byte* blocks;
    std::size_t stride;
    [[nodiscard]] std::byte* first() const { return blocks; }
    template <class Each>
    MOBRIN_INLINE void for_each(const Each& each) const {
      for (std::size_t i = 0; i < kRow; ++i) each(blocks + i * stride);
    }
  };
  struct Some {
    std::array<std::byte*, kRow> blocks;
    std::size_t count = 0;
    [[nodiscard]] std::byte* first() const { return blocks[0]; }
    template <class Each>
    MOBRIN_INLINE void for_each(const Each& each) const {
      for (std::size_t i = 0; i < count; ++i) each(blocks[i]);
    }
  };

  [[nodiscard]] bool answer_one(std::byte* block, std::int64_t at, Sink& sink, Quick::After& after);
  template <class Blocks>
  [[nodiscard]] static bool within_bounds(const Numbers& numbers, const Blocks& blocks);
  // Whether all would do what was learnt.
  template <class Blocks>
  [[nodiscard]] bool fit(const Learnt& learnt, const Blocks& blocks) const;
  // They become what comes of it.
  template <class Blocks>
  void repeat(const Learnt& learnt, const Blocks& blocks) const;
  // `before`: the block as it was.
  void learn(const PlanGo& go, const Quick::After& after, const std::byte* before, Learnt& out) const;

  const MachineData& m_;
  const Quick& quick_;
  std::int64_t at_;
  std::size_t words_;
  std::uint32_t leaf_;
  bool possible_;                       // for Quick::answer()
  std::array<Lately, kLeaves> lately_;  // by the state's index
  std::uint32_t row_credit_ = 4;        // 0: rows are not alike here
  std::uint32_t each_credit_ = 8;       // 0: nor are their members like others
};

}  // namespace mobrin::detail
