// Crowd's steps: who is due, and what happens to them.
#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_due.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/engine.hpp"
#include "engine/repeats.hpp"
#include "machine/block_memory.hpp"
#include "machine/inlining.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::CrowdData;
using detail::CrowdWakes;
using detail::due_among;
using detail::fetch;
using detail::for_bits;
using detail::header_of;
using detail::kAtOnce;
using detail::kDueTogether;
using detail::kElsewhere;
using detail::kRow;

namespace {

constexpr std::size_t kDueAtOnce = 256;      // how many rows are looked for before they are stepped
constexpr std::size_t kRowsAhead = 24;       // how far ahead rows of wakes are fetched,
constexpr std::size_t kRowBlocksAhead = 12;  // and for the blocks of those of a row that are due
constexpr std::size_t kLine = 64;            // what memory gives at once

}  // namespace

void Crowd::begin_step(Ticks dt) {
  d_->end = d_->now + std::clamp<std::int64_t>(dt.count, 0, detail::kLastInstant - d_->now);
}

void Crowd::end_step() { d_->now = d_->end; }

namespace {

// One range's way through a step. Stops before what its list has no room for; what was stepped till then stays so, and
// going through the range once more goes on from there.
class CrowdStep {
 public:
  CrowdStep(CrowdData& crowd, CrowdCues& cues, std::byte* scratch)
      : crowd_(crowd), cues_(cues), due_(*crowd.wakes), from_(crowd.now), to_(crowd.end), scratch_(scratch) {
    sink_.crowd = &cues;
    sink_.listening = crowd.options.listening;
    if ((sink_.listening & listen_to(Told::loop)) == 0) engine_.pass_over_rounds();
  }
  // Members of rows that other ranges have members of too: only their own wakes are touched.
  void each(std::uint32_t first, std::uint32_t end) {
    for (std::uint32_t place = first; place < end && !stopped_; ++place)
      if (due_[place] <= to_) step(place);
  }
  // All members of these rows.
  void rows(std::uint32_t first, std::uint32_t end) {
    const detail::CoarseWake limit = detail::coarse(to_);
    std::array<std::uint32_t, kDueAtOnce> due;
    for (std::uint32_t at = first; at < end && !stopped_;) {
      const std::uint32_t begin = at;
      std::size_t count = 0;
      while (at < end && count + kDueTogether <= kDueAtOnce) {
        const std::uint32_t scanned = std::min(end - at, kDueTogether);
        for (std::uint32_t bits = scanned == kDueTogether ? due_among(due_.soonest() + at, limit)
                                                          : due_among(due_.soonest() + at, scanned, limit);
             bits != 0; bits &= bits - 1)
          due[count++] = at + static_cast<std::uint32_t>(std::countr_zero(bits));
        at += scanned;
      }
      if (count == at - begin)
        every_row(begin, at);
      else
        some_rows(std::span(due).first(count));
    }
  }
  [[nodiscard]] Advanced reached() const {
    if (!stopped_) return {Ticks(to_ - from_), Ticks(0), 0, false};
    return {Ticks(0), Ticks(to_ - from_), needs_, true};
  }

 private:
  MOBRIN_INLINE void some_rows(std::span<const std::uint32_t> due) {
    for (std::size_t i = 0; i < std::min(due.size(), kRowsAhead); ++i) fetch_row(due[i]);
    for (std::size_t i = 0; i < std::min(due.size(), kRowBlocksAhead); ++i) fetch_blocks(due[i]);
    for (std::size_t i = 0; i < due.size(); ++i) {
      if (i + kRowsAhead < due.size()) fetch_row(due[i + kRowsAhead]);
      if (i + kRowBlocksAhead < due.size()) fetch_blocks(due[i + kRowBlocksAhead]);
      one_by_one(due[i]);
      if (stopped_) return;
    }
  }
  // Where somebody is due in every row, many may do the same.
  MOBRIN_APART void every_row(std::uint32_t first, std::uint32_t end) {
    for (std::uint32_t row = first; row < end && !stopped_; ++row) {
      if (row + kRowsAhead < end) fetch_row(row + kRowsAhead);
      if (row + kRowBlocksAhead < end) fetch_together(row + kRowBlocksAhead);
      const std::uint32_t due = due_among(due_.row(row), from_);
      if (!at_once(row, due) && !each_at_once(row, due)) one_by_one(row);
    }
  }
  MOBRIN_INLINE void one_by_one(std::uint32_t row) {
    for_due(row, [&](std::uint32_t place) {
      if (!stopped_) step(place);
    });
    due_.look_again(row);
  }
  template <class Do>
  void for_due(std::uint32_t row, const Do& act) const {
    for_bits(due_among(due_.row(row), to_), [&](std::uint32_t i) { act(row * kRow + i); });
  }
  MOBRIN_INLINE void fetch_row(std::uint32_t row) const {
    fetch(due_.row(row));
    fetch(&crowd_.cruises[std::size_t{row} * kRow]);
  }
  // Those that cruise do not need their blocks. Inlined, for a call that does nothing but fetch counts as one without
  // effect and is left out.
  MOBRIN_INLINE void fetch_blocks(std::uint32_t row) const {
    for (std::uint32_t bits = due_among(due_.row(row), to_); bits != 0; bits &= bits - 1) {
      const std::uint32_t place = row * kRow + static_cast<std::uint32_t>(std::countr_zero(bits));
      if (!cruises(place)) fetch(crowd_.block(place), crowd_.stride);
    }
  }
  // All blocks of a row, which lie side by side.
  MOBRIN_INLINE void fetch_together(std::uint32_t row) const {
    const std::byte* const blocks = crowd_.block(row * kRow) + kElsewhere;
    for (std::size_t at = 0; at < kRow * crowd_.stride; at += kLine) fetch(blocks + at);
  }
  [[nodiscard]] bool cruises(std::uint32_t place) const {
    return crowd_.cruises[place] != kNoIndex && due_[place] > from_;
  }

  void step(std::uint32_t place) {
    sink_.place = place;
    std::int64_t& wake = due_.stepped(place);
    std::uint16_t& cruise = crowd_.cruises[place];
    if (cruises(place)) {
      do {
        const std::uint32_t cues = sink_.listens(Told::cue) ? crowd_.quick->cues_at(cruise) : 0;
        if (!cues_.has_room(cues)) return stop(cues);
        wake = crowd_.quick->pass(cruise, wake, sink_);
      } while (wake <= to_);
      return;
    }
    crowd_.touch(place);
    std::byte* const b = crowd_.block(place);
    if (const std::int64_t at = std::max(wake, from_); begin_as_made<1>(place, at)) {
      wake = wake_of_beginning(at);
      cruise = crowd_.beginning.cruise;
      if (wake > to_) return;
      cruise = kNoIndex;
    }
    std::uint16_t next = kNoIndex;
    do {
      detail::Quick::After after;
      const std::int64_t at = std::max(wake, from_);
      if (repeats_.answer(b, at, sink_, after) || crowd_.quick->instant(b, at, sink_, scratch_, after)) {
        wake = after.wake;
        next = after.cruise;
        cruise = kNoIndex;
        continue;
      }
      crowd_.catch_up(place);
      if (!run_engine(b, wake)) return;
      next = crowd_.quick->cruise(b);
    } while (wake <= to_);
    cruise = next;
  }
  // Where all of a row do the same at the beginning of the step, and nothing after it; `due`: those who are so early.
  // False, with nothing done, where that is not so.
  bool at_once(std::uint32_t row, std::uint32_t due) {
    if (due != (1u << kRow) - 1) return false;
    const std::uint32_t first = row * kRow;
    std::byte* const blocks = crowd_.block(first);
    sink_.place = first;
    detail::Quick::After after;
    if (begin_as_made<kRow>(first, from_)) {
      after = {wake_of_beginning(from_), crowd_.beginning.cruise};
    } else if (!repeats_.answer_row(blocks, crowd_.stride, to_, sink_, after)) {
      return false;
    }
    due_.put_off(row, after.wake);
    std::fill_n(&crowd_.cruises[first], kRow, after.cruise);
    if (!crowd_.frames.empty())
      for (std::uint32_t place = first; place < first + kRow; ++place) crowd_.touch(place);
    return true;
  }
  // The same where each of them does what some member did, and nobody else is due.
  bool each_at_once(std::uint32_t row, std::uint32_t due) {
    if (due != due_among(due_.row(row), to_)) return false;
    const std::uint32_t first = row * kRow;
    sink_.place = first;
    if (!repeats_.answer_each(crowd_.block(first), crowd_.stride, due, to_, sink_, &due_.stepped(first),
                              &crowd_.cruises[first]))
      return false;
    due_.look_again(row);
    if (!crowd_.frames.empty()) for_bits(due, [&](std::uint32_t i) { crowd_.touch(first + i); });
    return true;
  }
  [[nodiscard]] std::int64_t wake_of_beginning(std::int64_t at) const {
    return crowd_.beginning.wake == detail::kNever ? detail::kNever : at + crowd_.beginning.wake;
  }
  // So many members, from `place` on, that begin with their inputs at their start. False, with nothing done, where one
  // does not, where there is no room for what they tell, and of several where that is not all until the end of the
  // step.
  template <std::uint32_t kCount>
  bool begin_as_made(std::uint32_t place, std::int64_t at) {
    const detail::Beginning& beginning = crowd_.beginning;
    constexpr std::size_t kValues = kElsewhere + sizeof(BlockHeader::anchor);
    const std::size_t stride = crowd_.stride;
    std::byte* const blocks = crowd_.block(place);
    if (header_of(blocks).flags != 0 || !beginning.known || (kCount > 1 && wake_of_beginning(at) <= to_) ||
        !detail::same_words<kCount>(blocks + kValues, stride, beginning.before.data() + kValues,
                                    crowd_.machine.block_size() - kValues))
      return false;
    const std::span<const CrowdCue> cues(beginning.cues.begin(), beginning.cues.size());
    if (!cues_.has_room(kCount * cues.size())) return false;
    cues_.append_for_each(cues, Ticks(at), place, kCount);
    detail::copy_words<kCount>(blocks + kElsewhere, stride, beginning.after.data() + kElsewhere, stride);
    for (std::uint32_t i = 0; i < kCount; ++i) header_of(blocks + i * stride).anchor = at;
    return true;
  }
  // Until the end of the step. False where it had to stop before.
  bool run_engine(std::byte* block, std::int64_t& wake) {
    std::memcpy(scratch_ + kElsewhere, block + kElsewhere, crowd_.stride);
    BlockHeader& header = header_of(scratch_);
    header.now = from_;
    header.wake = wake;
    do {
      const std::size_t before = cues_.size();
      sink_.told = 0;
      header.now = std::max(header.wake, header.now);
      engine_.instant(header.now);
      if (sink_.full) {
        sink_.full = false;
        cues_.shrink(before);
        stop(sink_.told);
        return false;
      }
      std::memcpy(block + kElsewhere, scratch_ + kElsewhere, crowd_.stride);
      wake = std::max(header.wake, kAtOnce);
    } while (header.wake <= to_);
    return true;
  }
  // Before an instant of one member that tells so many records.
  void stop(std::uint32_t records) {
    stopped_ = true;
    if (cues_.empty()) needs_ = records;
  }

  CrowdData& crowd_;
  CrowdCues& cues_;
  CrowdWakes& due_;
  std::int64_t from_, to_;
  std::byte* scratch_;
  detail::Sink sink_;
  detail::Repeats repeats_{crowd_.machine.data(), *crowd_.quick, from_};
  detail::Engine engine_{crowd_.machine.data(), scratch_, sink_};
  bool stopped_ = false;
  std::uint32_t needs_ = 0;
};

}  // namespace

Advanced Crowd::advance(Ticks dt, CrowdCues& cues) {
  begin_step(dt);
  const Advanced reached = advance_range(0, places(), cues);
  if (reached.complete()) end_step();
  return reached;
}

Advanced Crowd::advance_range(std::uint32_t first, std::uint32_t end, CrowdCues& cues) {
  const Advanced all{Ticks(d_->end - d_->now), Ticks(0), 0, false};
  end = std::min(end, places());
  if (first >= end) return all;
  std::byte* const scratch = cues.scratch(d_->machine.block_size());
  if (scratch == nullptr) return {Ticks(0), all.covered, 1, true};
  CrowdStep step(*d_, cues, scratch);
  const std::uint32_t first_row = first / kRow + (first % kRow != 0 ? 1 : 0);
  const std::uint32_t end_row = end / kRow + (end == places() && end % kRow != 0 ? 1 : 0);
  if (first_row >= end_row) {
    step.each(first, end);
  } else {
    step.each(first, first_row * kRow);
    step.rows(first_row, end_row);
    if (end_row * kRow < end) step.each(end_row * kRow, end);
  }
  return step.reached();
}

void detail::CrowdData::catch_up(std::uint32_t place) {
  if (cruises[place] == kNoIndex) return;
  quick->catch_up(block(place), now, told_now(place));
  cruises[place] = kNoIndex;
}

}  // namespace mobrin
