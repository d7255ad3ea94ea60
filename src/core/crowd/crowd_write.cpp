// Crowd: values and pulses that are written, and whom they wake.
#include <algorithm>
#include <array>
#include <cstring>
#include <utility>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/engine.hpp"
#include "engine/write.hpp"
#include "machine/block_memory.hpp"
#include "machine/inlining.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::fetch;
using detail::header_of;
using detail::kAtOnce;
using detail::kRow;
using detail::MachineData;
using detail::Readers;

namespace {

constexpr std::size_t kWritesAhead = 32;  // how far ahead blocks are fetched where little is done with each
constexpr std::size_t kPulsesAhead = 16;  // the same where more is

// What an input of this type is stored as.
template <class T>
using StoredAs = std::conditional_t<std::is_same_v<T, float> || std::is_same_v<T, std::int32_t>, T, std::uint8_t>;

}  // namespace

template <class T>
Written detail::CrowdData::write(std::uint32_t place, std::uint16_t input, T value) {
  const MachineData& m = machine.data();
  std::byte* b = block(place);
  const auto& there = detail::field_at<StoredAs<T>>(b, m.inputs[input].offset);
  const auto before = static_cast<double>(there);
  const detail::Stored stored = detail::store(m, b, input, value);
  if (stored.changes) changed(place, input, before, static_cast<double>(there));
  return stored.written;
}

// Wakes a member whose input went from one value to another where something active could change by it.
void detail::CrowdData::changed(std::uint32_t place, std::uint16_t input, double before, double after) {
  const MachineData& m = machine.data();
  std::byte* b = block(place);
  BlockHeader& header = header_of(b);
  // One that has not begun, or starts anew, takes all values as they are when it begins; one that is done rests.
  if ((header.flags & detail::kStarted) == 0 || (header.flags & (detail::kDone | detail::kReset)) != 0) return;
  bool stirs = (header.flags & detail::kUnsettled) != 0, retakes = false;
  for (const auto& region : readers->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    if (leaf == kNoIndex) continue;
    const Readers& reading = readers->of(leaf, input);
    if (reading.guard != Readers::Guard::none)
      stirs = stirs || reading.guard == Readers::Guard::any || readers->crosses(reading, before, after);
    if (!reading.play || retakes) continue;
    const detail::ConstRun run(m, b, region.index);
    const detail::PlayData& play = run.play();
    retakes = (play.chooses() && detail::chosen(m, b, play) != run.choice()) ||
              (play.moves() && play.follows() && detail::speed_now(m, b, play) != run.speed());
  }
  // Where it rests, it is looked at here and now, while its block is at hand.
  if (stirs && (header.flags != detail::kStarted || quick->may_take(b, now))) {
    stir(place);
  } else if (retakes) {
    wake(place);
    header.flags |= detail::kRetake;
  }
}

// All of a row that rests and has begun. As stir() for each.
void detail::CrowdData::stir_row(std::uint32_t first) {
  const bool alike = detail::same_values(wakes->row(first / kRow)) && detail::same_values(&cruises[first]);
  if (!alike || told_now(first) > 0 || !machine.data().brief_pulses.empty()) {
    for (std::uint32_t i = 0; i < kRow; ++i) stir(first + i);
    return;
  }
  for (std::uint32_t i = 0; i < kRow; ++i) header_of(block(first + i)).flags = kStarted | kDirty;
  wakes->put_off(first / kRow, kAtOnce);
}

template <class T>
Written Crowd::write(Member member, Input<T> input, T value) {
  if (input.machine != d_->machine.data().serial || !has(member)) return Written::refused;
  return d_->write(member.place, input.index, value);
}

namespace {

// Members that were stirred, until their wakes have come from memory.
class WakesAhead {
 public:
  explicit WakesAhead(detail::CrowdData& crowd) : crowd_(crowd) {}
  ~WakesAhead() {
    for (std::size_t i = count_ - std::min(count_, places_.size()); i < count_; ++i) crowd_.wake(at(i));
  }
  WakesAhead(const WakesAhead&) = delete;
  WakesAhead& operator=(const WakesAhead&) = delete;
  void stir(std::uint32_t place) {
    detail::stir_block(crowd_.machine.data(), crowd_.block(place), crowd_.now);
    crowd_.wakes->fetch(place);
    fetch(&crowd_.cruises[place]);
    if (count_ >= places_.size()) crowd_.wake(at(count_));
    at(count_++) = place;
  }

 private:
  [[nodiscard]] std::uint32_t& at(std::size_t i) { return places_[i % places_.size()]; }

  detail::CrowdData& crowd_;
  std::array<std::uint32_t, 16> places_;
  std::size_t count_ = 0;
};

// Members that follow one another: their wakes come by themselves.
class WakesInOrder {
 public:
  explicit WakesInOrder(detail::CrowdData& crowd) : crowd_(crowd) {}
  void stir(std::uint32_t place) { crowd_.stir(place); }
  void stir_row(std::uint32_t first) { crowd_.stir_row(first); }

 private:
  detail::CrowdData& crowd_;
};

// Many writes of one input. Of numbers most come to nothing: they are compared with a threshold or two, without a
// branch that depends on the values. Of other values most change something, and for many members alike.
template <class T>
class Writer {
 public:
  Writer(detail::CrowdData& crowd, std::uint16_t input)
      : base_(crowd.blocks.data()), pitch_(crowd.stride), crowd_(crowd), column_(crowd.readers->column(input)) {
    const MachineData& m = crowd.machine.data();
    const detail::InputData& data = m.inputs[input];
    offset_ = data.offset;
    if constexpr (std::is_same_v<T, float>) least_ = data.min, most_ = data.max;
    if constexpr (std::is_same_v<T, std::int32_t>) least_ = data.whole_min, most_ = data.whole_max;
    if constexpr (std::is_same_v<T, Choice>)
      most_ = static_cast<std::uint8_t>(std::get<ChoiceInput>(m.input_defs[input].kind).choices.size() - 1);
    const auto regions = crowd.readers->regions(input);
    leaf_ = regions.empty() ? m.regions[0].leaf : regions[0].leaf;
    possible_ = regions.size() <= 1 && data.grain == 0;
    look_at(offsetof(BlockHeader, flags), sizeof BlockHeader::flags);
    look_at(leaf_, sizeof(std::uint16_t));
    look_at(offset_, sizeof(StoredAs<T>));
  }
  void fetch_ahead(std::uint32_t place) const {
    if constexpr (std::is_same_v<T, float>) {
      fetch(block(place) + leaf_);
      fetch(block(place) + offset_);
    } else {
      fetch(block(place), pitch_);
    }
  }
  // One value for all of a row, where that comes to the same for each. False, with nothing written, where it may not.
  [[nodiscard]] bool write_row(std::uint32_t first, T value, WakesInOrder& wakes) {
    if (rows_ == 0 || !takes(value)) return false;
    std::byte* const b = block(first);
    const auto state = detail::field_at<std::uint16_t>(b, leaf_);
    const auto before = detail::field_at<StoredAs<T>>(b, offset_), after = stored_as(value);
    std::uint64_t differ = 0;
    for (std::size_t k = 0; k < looks_; ++k) {
      const auto first_word = detail::load_word<std::uint64_t>(b + look_[k].at);
      std::uint64_t others = 0;
      for (std::size_t i = 1; i < kRow; ++i)
        others |= detail::load_word<std::uint64_t>(b + i * pitch_ + look_[k].at) ^ first_word;
      differ |= others & look_[k].mask;
    }
    if (differ != 0 || !possible_ || state == kNoIndex || header_of(b).flags != detail::kStarted) return --rows_, false;
    rows_ = std::min(rows_ + 1, kMostRows);
    if (before == after) return true;
    const Readers* const reads = column_(state);
    if (reads->play || reads->guard == Readers::Guard::any) return false;
    const bool comes = comes_of(*reads, before, after);
    for (std::size_t i = 0; i < kRow; ++i) detail::field_at<StoredAs<T>>(b + i * pitch_, offset_) = after;
    if (!comes) return true;
    if (opens_by_itself(*reads, b, after)) {
      wakes.stir_row(first);
      return true;
    }
    for (std::uint32_t place = first; place < first + kRow; ++place)
      if (crowd_.quick->may_take(block(place), crowd_.now)) wakes.stir(place);
    return true;
  }
  // False, with nothing written, where the value or what comes of it needs a closer look.
  template <class Wakes>
  [[nodiscard]] bool write(std::uint32_t place, T value, Wakes& wakes) const {
    std::byte* const b = block(place);
    const auto state = detail::field_at<std::uint16_t>(b, leaf_);
    const bool fits = takes(value), rests = header_of(b).flags == detail::kStarted;
    const bool plain = possible_ & fits & rests & (state != kNoIndex);
    if (!plain) return false;
    const Readers* const reads = column_(state);
    if constexpr (std::is_same_v<T, float>) {
      auto& stored = detail::field_at<float>(b, offset_);
      if (!reads->silent(static_cast<double>(stored), static_cast<double>(value)))
        return weigh_apart(*this, place, *reads, value, wakes);
      stored = stored_as(value);
      return true;
    } else {
      return weigh(place, *reads, value, wakes);
    }
  }

 private:
  // What write_row() compares: these bytes too.
  void look_at(std::size_t at, std::size_t size) {
    const auto in_word = static_cast<std::uint32_t>(at % sizeof(std::uint64_t));
    const auto word = static_cast<std::uint32_t>(at - in_word);
    std::uint64_t mask = 0;
    std::memset(reinterpret_cast<std::byte*>(&mask) + in_word, 0xff, size);
    std::size_t k = 0;
    while (k < looks_ && look_[k].at != word) ++k;
    if (k == looks_) look_[looks_++].at = word;
    look_[k].mask |= mask;
  }
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
    const auto before = std::exchange(detail::field_at<StoredAs<T>>(b, offset_), stored_as(value));
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
  detail::CrowdData& crowd_;
  detail::CrowdReaders::Column column_;
  std::uint32_t offset_ = 0, leaf_ = 0;
  StoredAs<T> least_{}, most_{};
  bool possible_ = false;
  static constexpr std::uint32_t kMostRows = 16;
  std::uint32_t rows_ = 4;  // 0: rows are not alike here
  std::array<detail::WordMask, 3> look_;
  std::size_t looks_ = 0;
};

// `value(i)` for each of `places`; how many were refused.
template <class T, class ValueAt>
std::size_t write_places(detail::CrowdData& d, std::span<const std::uint32_t> places, Input<T> input,
                         const ValueAt& value) {
  if (input.machine != d.machine.data().serial) return places.size();
  const Writer<T> writer(d, input.index);
  WakesAhead wakes(d);
  const std::uint32_t end = d.places();
  std::size_t refused = 0;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (i + kWritesAhead < places.size() && places[i + kWritesAhead] < end)
      writer.fetch_ahead(places[i + kWritesAhead]);
    if (places[i] >= end || writer.write(places[i], value(i), wakes)) continue;
    if (d.write(places[i], input.index, value(i)) == Written::refused) ++refused;
  }
  return refused;
}

// The same for the first `count` places.
template <class T, class ValueAt>
std::size_t write_first(detail::CrowdData& d, std::size_t count, Input<T> input, const ValueAt& value) {
  if (input.machine != d.machine.data().serial) return count;
  Writer<T> writer(d, input.index);
  WakesInOrder wakes(d);
  std::size_t refused = 0;
  const auto write = [&](std::uint32_t i) {
    if (!writer.write(i, value(i), wakes) && d.write(i, input.index, value(i)) == Written::refused) ++refused;
  };
  std::uint32_t i = 0;
  if constexpr (!std::is_same_v<T, float>) {
    for (; i + kRow <= count; i += kRow) {
      bool same = true;
      for (std::uint32_t k = 1; k < kRow; ++k) same &= value(i + k) == value(i);
      if (same && writer.write_row(i, value(i), wakes)) continue;
      for (std::uint32_t k = 0; k < kRow; ++k) write(i + k);
    }
  }
  for (; i < count; ++i) write(i);
  return refused;
}

}  // namespace

template <class T>
std::size_t Crowd::write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values) {
  return write_places(*d_, places.first(std::min(places.size(), values.size())), input,
                      [&](std::size_t i) { return values[i]; });
}

std::size_t Crowd::set(std::span<const std::uint32_t> places, Input<bool> input, std::span<const std::uint8_t> values) {
  return write_places(*d_, places.first(std::min(places.size(), values.size())), input,
                      [&](std::size_t i) { return values[i] != 0; });
}

template <class T>
std::size_t Crowd::write_all(Input<T> input, std::span<const T> values) {
  return write_first(*d_, std::min<std::size_t>(places(), values.size()), input,
                     [&](std::size_t i) { return values[i]; });
}

std::size_t Crowd::set_all(Input<bool> input, std::span<const std::uint8_t> values) {
  return write_first(*d_, std::min<std::size_t>(places(), values.size()), input,
                     [&](std::size_t i) { return values[i] != 0; });
}

template <class T>
std::size_t Crowd::write_same(Input<T> input, T value) {
  return write_first(*d_, places(), input, [&](std::size_t) { return value; });
}

#define MOBRIN_WRITES(T)                                                                                   \
  template Written Crowd::write<T>(Member, Input<T>, T);                                                   \
  template std::size_t Crowd::write_many<T>(std::span<const std::uint32_t>, Input<T>, std::span<const T>); \
  template std::size_t Crowd::write_all<T>(Input<T>, std::span<const T>);                                  \
  template std::size_t Crowd::write_same<T>(Input<T>, T);
MOBRIN_WRITES(bool)
MOBRIN_WRITES(std::int32_t)
MOBRIN_WRITES(float)
MOBRIN_WRITES(Choice)
#undef MOBRIN_WRITES

// One that nothing active hears wakes nobody. With a buffer it waits; without, it lives at this instant only, and what
// else is written there may lead to a state that hears it.
void detail::CrowdData::write_pulse(std::uint32_t place, std::uint16_t input) {
  const MachineData& m = machine.data();
  std::byte* b = block(place);
  const BlockHeader& header = header_of(b);
  if (detail::rests(header)) return;
  bool stirs = (header.flags & (detail::kUnsettled | detail::kReset)) != 0 || (header.flags & detail::kStarted) == 0;
  for (const auto& region : readers->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    stirs = stirs || (leaf != kNoIndex && readers->of(leaf, input).guard != Readers::Guard::none);
  }
  if (!stirs && m.inputs[input].buffer == 0)
    stirs = header.flags != detail::kStarted || told_now(place) > 0 || !quick->hold_pulses(b, now);
  if (stirs) stir(place);
  detail::store_pulse(b, m.inputs[input], now);
}

Written Crowd::pulse(Member member, Pulse pulse) {
  if (pulse.machine != d_->machine.data().serial || !has(member)) return Written::refused;
  if (detail::rests(header_of(d_->block(member.place)))) return Written::same;
  d_->write_pulse(member.place, pulse.index);
  return Written::changed;
}

bool Crowd::pulse(std::span<const std::uint32_t> places, Pulse pulse) {
  if (pulse.machine != d_->machine.data().serial) return false;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (i + kPulsesAhead < places.size() && places[i + kPulsesAhead] < this->places()) {
      const std::uint32_t ahead = places[i + kPulsesAhead];
      fetch(d_->block(ahead), d_->stride);
      fetch(&d_->cruises[ahead]);
      d_->wakes->fetch(ahead);
    }
    if (places[i] < this->places()) d_->write_pulse(places[i], pulse.index);
  }
  return true;
}

}  // namespace mobrin
