// When each member of a crowd has something to do next, and of each few that lie together the soonest: a step reads
// those first, so that of members at rest it hardly touches any memory.
#pragma once

#include <algorithm>
#include <cstring>
#include <limits>
#include <memory_resource>
#include <span>
#include <vector>

#include "machine/block_memory.hpp"

namespace mobrin::detail {

// The least wake, so that the difference of two is always right.
inline constexpr std::int64_t kAtOnce = 0;

// A wake in units of 1.5 ms, rounded down, in half the room. From what it can hold on (36 days) a row may seem due that
// is not; looking at it is all that comes of it.
using CoarseWake = std::int32_t;
inline constexpr int kCoarseBits = 20;
[[nodiscard]] inline CoarseWake coarse(std::int64_t wake) {
  return static_cast<CoarseWake>(std::min<std::int64_t>(wake >> kCoarseBits, std::numeric_limits<CoarseWake>::max()));
}

class CrowdWakes {
 public:
  static constexpr std::uint32_t kTogether = kRow;  // a cache line of wakes

  // What a member takes beside its wake, rounded up.
  static constexpr std::size_t kMoreBytes = (sizeof(CoarseWake) + kTogether - 1) / kTogether;

  explicit CrowdWakes(std::pmr::memory_resource* memory) : rows_(memory), soonest_(memory) {}

  void reserve(std::uint32_t count) {
    rows_.reserve(rows(count));
    soonest_.reserve(rows(count));
  }
  // New ones never wake.
  void resize(std::uint32_t count) {
    rows_.resize(rows(count));
    soonest_.resize(rows(count), coarse(kNever));
  }
  [[nodiscard]] std::int64_t operator[](std::uint32_t place) const {
    return rows_[place / kTogether].wakes[place % kTogether];
  }
  void set(std::uint32_t place, std::int64_t wake) {
    stepped(place) = wake;
    CoarseWake& soonest = soonest_[place / kTogether];
    soonest = std::min(soonest, coarse(wake));
  }
  void fetch(std::uint32_t place) const {
    detail::fetch(row(place / kTogether));
    detail::fetch(&soonest_[place / kTogether]);
  }

  // Those of the same row: eight from its first place on. Beyond the last member are some that never wake.
  [[nodiscard]] const std::int64_t* row(std::uint32_t row) const { return rows_[row].wakes; }
  // Of each row. Not later than its wakes; earlier, but for the rounding, only until somebody looks again.
  [[nodiscard]] const CoarseWake* soonest() const { return soonest_.data(); }
  // For a step, which only puts wakes off: look_again() at the row follows, or it stays as soon as it was.
  [[nodiscard]] std::int64_t& stepped(std::uint32_t place) { return rows_[place / kTogether].wakes[place % kTogether]; }
  void look_again(std::uint32_t row) { soonest_[row] = coarse(soonest_of(row)); }
  // All of a row at once.
  void put_off(std::uint32_t row, std::int64_t wake) {
    std::fill_n(rows_[row].wakes, kTogether, wake);
    soonest_[row] = coarse(wake);
  }

  [[nodiscard]] std::span<const std::byte> bytes(std::uint32_t count) const {
    return std::as_bytes(std::span(rows_)).first(count * sizeof(std::int64_t));
  }
  // The wakes of so many members as bytes() gave them.
  void take(const std::byte* from, std::uint32_t count) {
    resize(count);
    for (std::uint32_t row = 0; row < count / kTogether; ++row) {
      std::memcpy(rows_[row].wakes, from + row * sizeof(Row), sizeof(Row));
      look_again(row);
    }
    if (const std::uint32_t rest = count % kTogether; rest != 0) {
      rows_.back() = {};
      std::memcpy(rows_.back().wakes, from + (rows_.size() - 1) * sizeof(Row), rest * sizeof(std::int64_t));
      look_again(count / kTogether);
    }
  }
  // The soonest of all.
  [[nodiscard]] std::int64_t first() const {
    std::int64_t first = kNever;
    for (std::uint32_t row = 0; row < rows_.size(); ++row)
      if (soonest_[row] <= coarse(first)) first = std::min(first, soonest_of(row));
    return first;
  }

 private:
  struct alignas(64) Row {
    std::int64_t wakes[kTogether] = {kNever, kNever, kNever, kNever, kNever, kNever, kNever, kNever};
  };
  static_assert(sizeof(Row) == 64);

  [[nodiscard]] static std::size_t rows(std::uint32_t count) {
    return (std::size_t{count} + kTogether - 1) / kTogether;
  }
  [[nodiscard]] std::int64_t soonest_of(std::uint32_t row) const {
    // In pairs, without a branch that depends on the values.
    const std::int64_t* const each = rows_[row].wakes;
    const auto sooner = [](std::int64_t a, std::int64_t b) { return b < a ? b : a; };
    return sooner(sooner(sooner(each[0], each[1]), sooner(each[2], each[3])),
                  sooner(sooner(each[4], each[5]), sooner(each[6], each[7])));
  }

  std::pmr::vector<Row> rows_;
  std::pmr::vector<CoarseWake> soonest_;
};

}  // namespace mobrin::detail
