// Crowd's steps: who is due, and what happens to them.
#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "crowd_memory.hpp"
#include "crowd_quick.hpp"
#include "crowd_wakes.hpp"
#include "engine.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::CrowdWakes;
using detail::fetch;
using detail::header_of;
using detail::kAtOnce;
using detail::kElsewhere;

namespace {

constexpr std::size_t kDueAtOnce = 256;     // how many rows are looked for before they are stepped
constexpr std::size_t kRowsAhead = 24;      // how far ahead rows of wakes are fetched,
constexpr std::size_t kRowBlocksAhead = 8;  // and for the blocks of those of a row that are due
constexpr std::uint32_t kScanned = 8;       // rows that are compared together

// Which of some rows, at most kScanned, have one that is due at or before `limit`: a bit each.
std::uint32_t due_among(const detail::CoarseWake* soonest, std::uint32_t count, detail::CoarseWake limit) {
  std::uint32_t bits = 0;
  for (std::uint32_t i = 0; i < count; ++i) bits |= (soonest[i] <= limit ? 1u : 0u) << i;
  return bits;
}

#if defined(__GNUC__) && defined(__SSE2__)

// The same of kScanned rows.
std::uint32_t due_among(const detail::CoarseWake* soonest, detail::CoarseWake limit) {
  using Four = std::int32_t __attribute__((vector_size(16)));
  using FourFloats = float __attribute__((vector_size(16)));
  const Four most = {limit, limit, limit, limit};
  Four after[2];
  std::memcpy(after, soonest, sizeof after);
  for (Four& four : after) four = four > most;
  const auto signs = [](Four four) {
    return static_cast<std::uint32_t>(__builtin_ia32_movmskps(reinterpret_cast<FourFloats>(four)));
  };
  return (signs(after[0]) | signs(after[1]) << 4) ^ 0xff;
}
// Which wakes of a row are due: the signs of the differences.
std::uint32_t due_among(const std::int64_t* wakes, std::int64_t limit) {
  using Two = std::int64_t __attribute__((vector_size(16)));
  using TwoDoubles = double __attribute__((vector_size(16)));
  const Two most = {limit + 1, limit + 1};
  Two before[CrowdWakes::kTogether / 2];
  std::memcpy(before, wakes, sizeof before);
  for (Two& pair : before) pair -= most;
  const auto signs = [](Two pair) {
    return static_cast<std::uint32_t>(__builtin_ia32_movmskpd(reinterpret_cast<TwoDoubles>(pair)));
  };
  return signs(before[0]) | signs(before[1]) << 2 | signs(before[2]) << 4 | signs(before[3]) << 6;
}

#else

std::uint32_t due_among(const detail::CoarseWake* soonest, detail::CoarseWake limit) {
  return due_among(soonest, kScanned, limit);
}
std::uint32_t due_among(const std::int64_t* wakes, std::int64_t limit) {
  std::uint32_t bits = 0;
  for (std::uint32_t i = 0; i < CrowdWakes::kTogether; ++i) bits |= (wakes[i] <= limit ? 1u : 0u) << i;
  return bits;
}

#endif

}  // namespace

void Crowd::advance(Ticks dt, CrowdCues& cues) {
  begin_step(dt);
  advance_range(0, places(), cues);
  end_step();
}

void Crowd::begin_step(Ticks dt) {
  constexpr std::int64_t kLatest = std::int64_t{1} << 62;
  end_ = now_ + std::clamp<std::int64_t>(dt.count, 0, kLatest - now_);
}

void Crowd::end_step() { now_ = end_; }

// One range's way through a step.
class Crowd::Step {
 public:
  Step(Crowd& crowd, CrowdCues& cues)
      : crowd_(crowd), wakes_(*crowd.wakes_), now_(crowd.now_), end_(crowd.end_), scratch_(room(crowd, cues)) {
    sink_.crowd = &cues;
    sink_.listening = crowd.options_.listening;
    if ((sink_.listening & listen_to(Told::loop)) == 0) engine_.pass_over_rounds();
  }
  // Members of rows that other ranges have members of too: only their own wakes are touched.
  void each(std::uint32_t first, std::uint32_t end) {
    for (std::uint32_t place = first; place < end; ++place)
      if (wakes_[place] <= end_) step(place);
  }
  // All members of these rows.
  void rows(std::uint32_t first, std::uint32_t end) {
    const detail::CoarseWake limit = detail::coarse(end_);
    std::array<std::uint32_t, kDueAtOnce> due;
    for (std::uint32_t at = first; at < end;) {
      std::size_t count = 0;
      while (at < end && count + kScanned <= kDueAtOnce) {
        const std::uint32_t scanned = std::min(end - at, kScanned);
        for (std::uint32_t bits = scanned == kScanned ? due_among(wakes_.soonest() + at, limit)
                                                      : due_among(wakes_.soonest() + at, scanned, limit);
             bits != 0; bits &= bits - 1)
          due[count++] = at + static_cast<std::uint32_t>(std::countr_zero(bits));
        at += scanned;
      }
      for (std::size_t i = 0; i < std::min(count, kRowsAhead); ++i) fetch_row(due[i]);
      for (std::size_t i = 0; i < std::min(count, kRowBlocksAhead); ++i) fetch_blocks(due[i]);
      for (std::size_t i = 0; i < count; ++i) {
        if (i + kRowsAhead < count) fetch_row(due[i + kRowsAhead]);
        if (i + kRowBlocksAhead < count) fetch_blocks(due[i + kRowBlocksAhead]);
        for_due(due[i], [&](std::uint32_t place) { step(place); });
        wakes_.look_again(due[i]);
      }
    }
  }

 private:
  static std::byte* room(const Crowd& crowd, CrowdCues& cues) {
    cues.scratch_.resize(crowd.machine_.block_size());
    return cues.scratch_.data();
  }
  template <class Do>
  void for_due(std::uint32_t row, const Do& act) const {
    for (std::uint32_t bits = due_among(wakes_.row(row), end_); bits != 0; bits &= bits - 1)
      act(row * CrowdWakes::kTogether + static_cast<std::uint32_t>(std::countr_zero(bits)));
  }
  void fetch_row(std::uint32_t row) const {
    fetch(wakes_.row(row));
    fetch(&crowd_.cruises_[std::size_t{row} * CrowdWakes::kTogether]);
  }
  // Those that cruise do not need their blocks.
  void fetch_blocks(std::uint32_t row) const {
    for_due(row, [&](std::uint32_t place) {
      if (!cruises(place)) fetch(crowd_.block(place), crowd_.stride_);
    });
  }
  [[nodiscard]] bool cruises(std::uint32_t place) const {
    return crowd_.cruises_[place] != kNoIndex && wakes_[place] > now_;
  }

  void step(std::uint32_t place) {
    sink_.place = place;
    std::int64_t& wake = wakes_.stepped(place);
    std::uint16_t& cruise = crowd_.cruises_[place];
    if (cruises(place)) {
      do wake = crowd_.quick_->pass(cruise, wake, sink_);
      while (wake <= end_);
      return;
    }
    crowd_.catch_up(place);
    std::byte* const b = crowd_.block(place);
    do {
      if (!crowd_.quick_->instant(b, std::max(wake, now_), sink_, wake)) run_engine(b, wake);
    } while (wake <= end_);
    cruise = crowd_.quick_->cruise(b);
  }
  // Until the end of the step.
  void run_engine(std::byte* block, std::int64_t& wake) {
    std::memcpy(scratch_ + kElsewhere, block + kElsewhere, crowd_.stride_);
    BlockHeader& header = header_of(scratch_);
    header.now = now_;
    header.wake = wake;
    do {
      header.now = std::max(header.wake, header.now);
      engine_.instant(header.now);
    } while (header.wake <= end_);
    std::memcpy(block + kElsewhere, scratch_ + kElsewhere, crowd_.stride_);
    wake = std::max(header.wake, kAtOnce);
  }

  Crowd& crowd_;
  CrowdWakes& wakes_;
  std::int64_t now_, end_;
  std::byte* scratch_;
  detail::Sink sink_;
  detail::Engine engine_{crowd_.machine_.data(), scratch_, sink_};
};

void Crowd::advance_range(std::uint32_t first, std::uint32_t end, CrowdCues& cues) {
  end = std::min(end, places());
  if (first >= end) return;
  constexpr std::uint32_t kRow = CrowdWakes::kTogether;
  Step step(*this, cues);
  const std::uint32_t first_row = first / kRow + (first % kRow != 0 ? 1 : 0);
  const std::uint32_t end_row = end / kRow + (end == places() && end % kRow != 0 ? 1 : 0);
  if (first_row >= end_row) return step.each(first, end);
  step.each(first, first_row * kRow);
  step.rows(first_row, end_row);
  if (end_row * kRow < end) step.each(end_row * kRow, end);
}

// Brings the block of one that cruised to now.
void Crowd::catch_up(std::uint32_t place) {
  if (cruises_[place] == kNoIndex) return;
  cruises_[place] = kNoIndex;
  quick_->catch_up(block(place), now_);
}

}  // namespace mobrin
