// Which writes to a member of a crowd can change something active: what reads each input while a state is active.
#pragma once

#include <limits>
#include <vector>

#include "compile/plan.hpp"

namespace mobrin::detail {

// How an input is read while a state is the innermost active one of its region: by its transitions and those of the
// states around it, and by its play.
struct Readers {
  enum class Guard : std::uint8_t {
    none,        // no transition that may be taken depends on it
    thresholds,  // only by comparisons with constants: nothing changes between two of them
    any,         // any change may matter
  };
  Guard guard = Guard::none;
  bool play = false;  // the play's speed, or which clip it shows
  // The first two thresholds, not a number where there are none; the rest.
  double first = std::numeric_limits<double>::quiet_NaN(), second = first;
  Range<double> others{};
  bool simple = true;  // no play, and no more than two thresholds
  // What comes of it that a bool becomes false, or true.
  enum class Comes : std::uint8_t { look, nothing, opens } becomes[2] = {};
  // Whether nothing can come of a change from one value to another.
  [[nodiscard]] bool silent(double from, double to) const {
    // Two values lie on different sides of a threshold, or one on it, where this product is not above 0.
    const bool at_first = (from - first) * (to - first) <= 0, at_second = (from - second) * (to - second) <= 0;
    return simple & !at_first & !at_second;
  }
  [[nodiscard]] bool nothing() const { return guard == Guard::none && !play; }
};

class CrowdReaders {
 public:
  explicit CrowdReaders(const MachineData& machine);

  [[nodiscard]] const Readers& of(std::uint16_t state, std::uint16_t input) const {
    return table_[state * inputs_ + input];
  }
  // Where the leaves of the regions lie in which some state reads the input, and which regions they are.
  struct Region {
    std::uint32_t leaf = 0;
    std::uint16_t index = 0;
  };
  [[nodiscard]] std::span<const Region> regions(std::uint16_t input) const { return regions_[input]; }
  // Whether a value that goes from one to the other reaches or passes a threshold.
  [[nodiscard]] bool crosses(const Readers& readers, double from, double to) const {
    const double low = from < to ? from : to, high = from < to ? to : from;
    if ((low <= readers.first && readers.first <= high) || (low <= readers.second && readers.second <= high))
      return true;
    for (const double threshold : MachineData::view(thresholds_, readers.others))
      if (low <= threshold && threshold <= high) return true;
    return false;
  }

  // What decides alone whether something may be taken with the value as it is; null: that needs a closer look.
  // REQUIRES: what of() or column() gave.
  [[nodiscard]] const PlanGuard* deciding(const Readers* reads) const {
    return deciding_[static_cast<std::size_t>(reads - table_.data())];
  }
  // Whether something may be taken by it; false: that needs a closer look.
  [[nodiscard]] bool opens(const Readers* reads, const std::byte* block) const {
    const PlanGuard* const decides = deciding(reads);
    return decides != nullptr && lies_within(*decides, block);
  }

  // What reads one input, by state.
  class Column {
   public:
    Column(const Readers* first, std::size_t stride) : first_(first), stride_(stride) {}
    [[nodiscard]] const Readers* operator()(std::uint16_t state) const { return first_ + state * stride_; }

   private:
    const Readers* first_;
    std::size_t stride_;
  };
  [[nodiscard]] Column column(std::uint16_t input) const { return {table_.data() + input, inputs_}; }

 private:
  struct Found {
    Readers::Guard guard = Readers::Guard::none;
    bool play = false;
    std::vector<double> thresholds;
  };
  void read_guard(const MachineData& machine, const PlanGo& go, std::vector<Found>& found) const;
  [[nodiscard]] Readers::Comes comes_of(const Readers& reads, const PlanGuard* decides, double value) const;
  [[nodiscard]] const PlanGuard* find_deciding(const MachineData& machine, std::uint16_t leaf,
                                               std::uint16_t input) const;
  void read_play(const MachineData& machine, ExprRef expression, std::vector<Found>& found) const;
  // Which input a step loads, and which lies there; kNoIndex for none.
  [[nodiscard]] std::uint16_t input_at(const MachineData& machine, const Instruction& step) const;
  [[nodiscard]] std::uint16_t input_at(const MachineData& machine, std::uint32_t offset) const;

  std::size_t inputs_;
  std::vector<Readers> table_;
  std::vector<const PlanGuard*> deciding_;  // of each, see find_deciding()
  std::vector<double> thresholds_;
  std::vector<std::vector<Region>> regions_;
};

}  // namespace mobrin::detail
