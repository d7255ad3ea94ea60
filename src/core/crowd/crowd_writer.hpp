// Writing one input of many members of a crowd: what is stored, and who is woken.
#pragma once

#include <algorithm>
#include <array>
#include <cstring>
#include <type_traits>
#include <utility>
#include <variant>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/write.hpp"
#include "machine/block_memory.hpp"
#include "machine/inlining.hpp"

namespace mobrin::detail {

// What an input of this type is stored as.
template <class T>
using StoredAs = std::conditional_t<std::is_same_v<T, float> || std::is_same_v<T, std::int32_t>, T, std::uint8_t>;

// Members that were stirred, until their wakes have come from memory.
class WakesAhead {
 public:
  explicit WakesAhead(CrowdData& crowd) : crowd_(crowd) {}
  ~WakesAhead() {
    for (std::size_t i = count_ - std::min(count_, places_.size()); i < count_; ++i) crowd_.wake(at(i));
  }
  WakesAhead(const WakesAhead&) = delete;
  WakesAhead& operator=(const WakesAhead&) = delete;
  void stir(std::uint32_t place) {
    stir_block(crowd_.machine.data(), crowd_.block(place), crowd_.now);
    crowd_.wakes->fetch(place);
    fetch(&crowd_.cruises[place]);
    if (count_ >= places_.size()) crowd_.wake(at(count_));
    at(count_++) = place;
  }

 private:
  [[nodiscard]] std::uint32_t& at(std::size_t i) { return places_[i % places_.size()]; }

  CrowdData& crowd_;
  std::array<std::uint32_t, 16> places_;
  std::size_t count_ = 0;
};

// Members that follow one another: their wakes come by themselves.
class WakesInOrder {
 public:
  explicit WakesInOrder(CrowdData& crowd) : crowd_(crowd) {}
  void stir(std::uint32_t place) {
    crowd_.stir(place);
    ++stirred_;
  }
  [[nodiscard]] std::uint32_t stirred() const { return stirred_; }

 private:
  CrowdData& crowd_;
  std::uint32_t stirred_ = 0;
};

template <class T>
class RowWriter;

// Many writes of one input. Of numbers most come to nothing: they are compared with a threshold or two, without a
// branch that depends on the values. Of other values most change something, and for many members alike.
template <class T>
class Writer {
 public:
  Writer(CrowdData& crowd, std::uint16_t input)
      : base_(crowd.blocks.data()), pitch_(crowd.stride), crowd_(crowd), column_(crowd.readers->column(input)) {
    const MachineData& m = crowd.machine.data();
    const InputData& data = m.inputs[input];
    offset_ = data.offset;
    if constexpr (std::is_same_v<T, float>) least_ = data.min, most_ = data.max;
    if constexpr (std::is_same_v<T, std::int32_t>) least_ = data.whole_min, most_ = data.whole_max;
    if constexpr (std::is_same_v<T, Choice>)
      most_ = static_cast<std::uint8_t>(std::get<ChoiceInput>(m.input_defs[input].kind).choices.size() - 1);
    const auto regions = crowd.readers->regions(input);
    leaf_ = regions.empty() ? m.regions[0].leaf : regions[0].leaf;
    possible_ = regions.size() <= 1 && data.grain == 0;
  }
  void fetch_ahead(std::uint32_t place) const {
    if constexpr (std::is_same_v<T, float>) {
      fetch(block(place) + leaf_);
      fetch(block(place) + offset_);
    } else {
      fetch(block(place), pitch_);
    }
  }
  // False, with nothing written, where the value or what comes of it needs a closer look.
  template <class Wakes>
  [[nodiscard]] bool write(std::uint32_t place, T value, Wakes& wakes) const {
    std::byte* const b = block(place);
    const auto state = field_at<std::uint16_t>(b, leaf_);
    const bool fits = takes(value), rests = header_of(b).flags == kStarted;
    const bool plain = possible_ & fits & rests & (state != kNoIndex);
    if (!plain) return false;
    const Readers* const reads = column_(state);
    if constexpr (std::is_same_v<T, float>) {
      auto& stored = field_at<float>(b, offset_);
      if (!reads->silent(static_cast<double>(stored), static_cast<double>(value)))
        return weigh_apart(*this, place, *reads, value, wakes);
      stored = stored_as(value);
      return true;
    } else {
      return weigh(place, *reads, value, wakes);
    }
  }

 private:
  friend class RowWriter<T>;
  // Of numbers few come here: the loop around write() keeps its registers, and a writer that nobody else sees is in
  // them.
  template <class Wakes>
  MOBRIN_APART static bool weigh_apart(Writer by, std::uint32_t place, const Readers& reads, T value, Wakes& wakes) {
    return by.weigh(place, reads, value, wakes);
  }
  template <class Wakes>
  MOBRIN_INLINE bool weigh(std::uint32_t place, const Readers& reads, T value, Wakes& wakes) const {
    if (reads.play || reads.guard == Readers::Guard::any) return false;
    std::byte* const b = block(place);
    const auto before = std::exchange(field_at<StoredAs<T>>(b, offset_), stored_as(value));
    const auto after = stored_as(value);
    if (before == after) return true;
    if (comes_of(reads, before, after) && opens(reads, b, after)) wakes.stir(place);
    return true;
  }
  // Whether anything may come of it.
  [[nodiscard]] MOBRIN_INLINE bool comes_of(const Readers& reads, StoredAs<T> before, StoredAs<T> after) const {
    if constexpr (std::is_same_v<T, bool>) return reads.becomes[after] != Readers::Comes::nothing;
    return reads.guard != Readers::Guard::none &&
           crowd_.readers->crosses(reads, static_cast<double>(before), static_cast<double>(after));
  }
  // Whether something does, whatever else the block holds. REQUIRES: the value is stored.
  [[nodiscard]] MOBRIN_INLINE bool opens_by_itself(const Readers& reads, const std::byte* b, StoredAs<T> value) const {
    if constexpr (std::is_same_v<T, bool>) return reads.becomes[value] == Readers::Comes::opens;
    return crowd_.readers->opens(&reads, b);
  }
  // Whether something does.
  [[nodiscard]] MOBRIN_INLINE bool opens(const Readers& reads, const std::byte* b, StoredAs<T> value) const {
    return opens_by_itself(reads, b, value) || crowd_.quick->may_take(b, crowd_.now);
  }
  [[nodiscard]] std::byte* block(std::uint32_t place) const { return base_ + place * pitch_; }
  // Whether it is stored as it is.
  [[nodiscard]] bool takes(T value) const {
    if constexpr (std::is_same_v<T, Choice>) return value.index <= most_;
    if constexpr (std::is_same_v<T, std::int32_t> || std::is_same_v<T, float>)
      return (value >= least_) & (value <= most_);
    return true;
  }
  [[nodiscard]] static StoredAs<T> stored_as(T value) {
    if constexpr (std::is_same_v<T, Choice>)
      return value.index;
    else if constexpr (std::is_same_v<T, float>)
      return value + 0.0f;  // no negative zero
    else
      return value;
  }

  std::byte* base_;
  std::size_t pitch_;
  CrowdData& crowd_;
  CrowdReaders::Column column_;
  std::uint32_t offset_ = 0, leaf_ = 0;
  StoredAs<T> least_{}, most_{};
  bool possible_ = false;
};

// The same of whole rows at once: of those whose members have one innermost state, where what comes of it is the same
// for all; and of those that differ, where it is clear for each what comes of it.
template <class T>
class RowWriter {
 public:
  explicit RowWriter(const Writer<T>& one) : one_(one) {
    look_at(offsetof(BlockHeader, flags), sizeof BlockHeader::flags);
    look_at(one.leaf_, sizeof(std::uint16_t));
    if (kOfOneValue) look_at(one.offset_, sizeof(StoredAs<T>));
  }
  // `value(place)` for each of a row; REQUIRES: worth_it(). False, with nothing written, where some of them need a
  // closer look.
  template <class ValueAt>
  [[nodiscard]] MOBRIN_INLINE bool write(std::uint32_t first, const ValueAt& value) {
    if (write_alike(first, value)) return true;
    if (!write_mixed(one_, first, value)) return false;
    rows_ = std::min(rows_ + 1, kMostRows);
    return true;
  }
  // So many of those that were written one by one were stirred.
  void stirred(std::uint32_t members, std::uint32_t of) {
    if (!kOfOneValue && members == of) rows_ = kFirstRows;
  }
  // Whether rows are to be tried.
  [[nodiscard]] bool worth_it() const { return rows_ > 0; }

 private:
  // Of few values all are mostly given the same. Of numbers each has its own, and mostly nothing comes of them: one by
  // one they are faster then.
  static constexpr bool kOfOneValue = sizeof(StoredAs<T>) == 1;
  static constexpr std::uint32_t kFirstRows = 4, kMostRows = 16;

  [[nodiscard]] static bool plain(const Readers& reads) {
    return reads.simple || (kOfOneValue && !reads.play && reads.guard != Readers::Guard::any);
  }
  // What alike() compares: these bytes too.
  void look_at(std::size_t at, std::size_t size) {
    const auto in_word = static_cast<std::uint32_t>(at % sizeof(std::uint64_t));
    const auto word = static_cast<std::uint32_t>(at - in_word);
    std::uint64_t mask = 0;
    std::memset(reinterpret_cast<std::byte*>(&mask) + in_word, 0xff, size);
    std::size_t k = 0;
    while (k < looks_ && look_[k].at != word) ++k;
    if (k == looks_) look_[looks_++] = {word, 0};
    look_[k].mask |= mask;
  }
  [[nodiscard]] MOBRIN_INLINE bool alike(const std::byte* b) const {
    std::uint64_t differ = 0;
    for (std::size_t k = 0; k < looks_; ++k) {
      const auto first = load_word<std::uint64_t>(b + look_[k].at);
      std::uint64_t others = 0;
      for (std::size_t i = 1; i < kRow; ++i) others |= load_word<std::uint64_t>(nth(b, i) + look_[k].at) ^ first;
      differ |= others & look_[k].mask;
    }
    return differ == 0;
  }
  // All are in one state, and what comes of it is the same for all.
  template <class ValueAt>
  [[nodiscard]] MOBRIN_INLINE bool write_alike(std::uint32_t first, const ValueAt& value) {
    if constexpr (kOfOneValue) {
      bool same = true;
      for (std::uint32_t i = 1; i < kRow; ++i) same &= value(first + i) == value(first);
      if (!same || !one_.takes(value(first))) return false;
    }
    std::byte* const b = one_.block(first);
    const auto state = field_at<std::uint16_t>(b, one_.leaf_);
    const Readers* const reads = one_.column_(state != kNoIndex ? state : 0);
    if (!one_.possible_ || state == kNoIndex || !plain(*reads) || !alike(b) || header_of(b).flags != kStarted)
      return --rows_, false;
    if constexpr (kOfOneValue)
      return write_one(first, *reads, one_.stored_as(value(first)));
    else
      return write_numbers(first, *reads, value);
  }
  // Each may be given its own, in a state of its own: nothing comes of it, or something whatever else the member holds.
  // Apart, with a copy of the writer: the loop around write() keeps its registers.
  template <class ValueAt>
  [[nodiscard]] MOBRIN_APART static bool write_mixed(Writer<T> by, std::uint32_t first, ValueAt value) {
    const auto block = [&](std::uint32_t i) { return by.block(first + i); };
    bool fits = by.possible_, sure = true;
    std::array<const Readers*, kRow> reads;
    for (std::uint32_t i = 0; i < kRow; ++i) {
      const auto state = field_at<std::uint16_t>(block(i), by.leaf_);
      reads[i] = by.column_(state != kNoIndex ? state : 0);
      fits &= state != kNoIndex && header_of(block(i)).flags == kStarted;
      fits &= plain(*reads[i]) && by.takes(value(first + i));
    }
    if (!fits) return false;
    std::uint32_t stirred = 0;
    std::array<StoredAs<T>, kRow> before;
    for (std::uint32_t i = 0; i < kRow; ++i) {
      const auto after = Writer<T>::stored_as(value(first + i));
      before[i] = std::exchange(field_at<StoredAs<T>>(block(i), by.offset_), after);
      const bool comes = before[i] != after && by.comes_of(*reads[i], before[i], after);
      const bool opens = by.opens_by_itself(*reads[i], block(i), after);
      sure &= !comes || opens;
      if (comes && opens) stirred |= 1u << i;
    }
    if (!sure) {
      for (std::uint32_t i = 0; i < kRow; ++i) field_at<StoredAs<T>>(block(i), by.offset_) = before[i];
      return false;
    }
    if (stirred == (1u << kRow) - 1)
      by.crowd_.stir_row(first);
    else
      for_bits(stirred, [&](std::uint32_t i) { by.crowd_.stir(first + i); });
    return true;
  }
  // All hold the same, and are given the same.
  [[nodiscard]] MOBRIN_INLINE bool write_one(std::uint32_t first, const Readers& reads, StoredAs<T> after) {
    std::byte* const b = one_.block(first);
    const auto before = field_at<StoredAs<T>>(b, one_.offset_);
    rows_ = std::min(rows_ + 1, kMostRows);
    if (before == after) return true;
    for (std::size_t i = 0; i < kRow; ++i) field_at<StoredAs<T>>(nth(b, i), one_.offset_) = after;
    if (!one_.comes_of(reads, before, after)) return true;
    if (one_.opens_by_itself(reads, b, after)) {
      one_.crowd_.stir_row(first);
      return true;
    }
    for (std::uint32_t place = first; place < first + kRow; ++place)
      if (one_.crowd_.quick->may_take(one_.block(place), one_.crowd_.now)) one_.crowd_.stir(place);
    return true;
  }
  // Each is given its own: nothing comes of it, or for all the same transition may be taken.
  template <class ValueAt>
  [[nodiscard]] MOBRIN_INLINE bool write_numbers(std::uint32_t first, const Readers& reads, const ValueAt& value) {
    std::byte* const b = one_.block(first);
    const PlanGuard* const decides = one_.crowd_.readers->deciding(&reads);
    const PlanGuard guard = decides != nullptr ? *decides : PlanGuard{};
    bool fits = true, comes = false, opens = decides != nullptr;
    for (std::uint32_t i = 0; i < kRow; ++i) {
      const auto after = static_cast<double>(value(first + i));
      const bool silent = reads.silent(static_cast<double>(field_at<T>(nth(b, i), one_.offset_)), after);
      fits &= one_.takes(value(first + i));
      comes |= !silent;
      opens &= !silent & lies_within(guard, after);
    }
    if (!fits || (comes && !opens)) return --rows_, false;
    for (std::uint32_t i = 0; i < kRow; ++i) field_at<T>(nth(b, i), one_.offset_) = one_.stored_as(value(first + i));
    if (comes)
      one_.crowd_.stir_row(first), rows_ = std::min(rows_ + 1, kMostRows);
    else
      --rows_;
    return true;
  }
  template <class Byte>
  [[nodiscard]] Byte* nth(Byte* first, std::size_t i) const {
    return first + i * one_.pitch_;
  }

  const Writer<T>& one_;
  std::uint32_t rows_ = kOfOneValue ? kFirstRows : 0;  // 0: they are not alike here
  std::array<WordMask, 3> look_;
  std::size_t looks_ = 0;
};

}  // namespace mobrin::detail
