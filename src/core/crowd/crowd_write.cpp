// Crowd: values and pulses that are written, and whom they wake.
#include <algorithm>
#include <array>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/engine.hpp"
#include "engine/write.hpp"
#include "machine/block_memory.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::CrowdData;
using detail::fetch;
using detail::header_of;
using detail::kAtOnce;
using detail::Readers;

namespace {

constexpr std::size_t kWritesAhead = 32;     // how far ahead blocks are fetched where little is done with each
constexpr std::size_t kPulsesAhead = 16;     // the same where more is
constexpr std::size_t kWritesTogether = 64;  // how many are stored before it is asked what comes of them

// What an input of this type is stored as.
template <class T>
using StoredAs = std::conditional_t<std::is_same_v<T, float> || std::is_same_v<T, std::int32_t>, T, std::uint8_t>;

// A value that was stored for another.
struct Change {
  std::uint32_t place = 0;
  double before = 0, after = 0;
};

// Writes one input of members: stores a value, and wakes its member where something active could change by it.
template <class T>
class Writer {
 public:
  Writer(CrowdData& crowd, std::uint16_t input)
      : crowd_(crowd),
        input_(input),
        data_(crowd.machine.data().inputs[input]),
        base_(crowd.blocks.data()),
        pitch_(crowd.stride),
        regions_(crowd.readers->regions(input)),
        column_(crowd.readers->column(input)) {
    leaf_ = regions_.empty() ? crowd.machine.data().regions[0].leaf : regions_[0].leaf;
    possible_ = regions_.size() <= 1 && data_.grain == 0;
  }
  void fetch_ahead(std::uint32_t place) const {
    std::byte* const b = base_ + place * pitch_;
    fetch(b + leaf_);
    fetch(b + data_.offset);
  }

  Written operator()(std::uint32_t place, T value) const {
    Change change;
    const Written written = store(place, value, change);
    if (change.before != change.after) consider(change);
    return written;
  }
  // So many values, for the member at place(i), if there is one. What comes of a change is looked at when more of them
  // are stored: by then the memory that this takes is at hand. How many were refused.
  template <class Place>
  [[nodiscard]] std::size_t all(std::size_t count, const Place& place, const T* values) const {
    std::array<Change, kWritesTogether> changes;
    const std::uint32_t end = crowd_.places();
    std::size_t refused = 0;
    for (std::size_t first = 0; first < count; first += kWritesTogether) {
      std::size_t changed = 0;
      for (std::size_t i = first; i < std::min(count, first + kWritesTogether); ++i) {
        if (i + kWritesAhead < count && place(i + kWritesAhead) < end) fetch_ahead(place(i + kWritesAhead));
        if (place(i) >= end || stored_quietly(place(i), values[i])) continue;
        Change& change = changes[changed];
        if (store(place(i), values[i], change) == Written::refused) ++refused;
        if (change.before == change.after) continue;
        crowd_.wakes->fetch(place(i));
        ++changed;
      }
      for (std::size_t i = 0; i < changed; ++i) consider(changes[i]);
    }
    return refused;
  }

 private:
  [[nodiscard]] std::byte* block(std::uint32_t place) const { return base_ + place * pitch_; }

  // Mostly nothing comes of a number: then it is compared with a threshold or two, without a branch that depends on the
  // values. False, with nothing stored, where something may come of it or the value needs a closer look.
  [[nodiscard]] bool stored_quietly(std::uint32_t place, T value) const {
    if constexpr (!std::is_same_v<T, float>) {
      return false;
    } else {
      std::byte* b = block(place);
      const auto state = detail::field_at<std::uint16_t>(b, leaf_);
      const bool plain = possible_ & (value >= data_.min) & (value <= data_.max) & (state != kNoIndex) &
                         (header_of(b).flags == detail::kStarted);
      if (!plain) return false;
      auto& stored = detail::field_at<float>(b, data_.offset);
      if (!column_(state).silent(static_cast<double>(stored), static_cast<double>(value))) return false;
      stored = value + 0.0f;  // no negative zero
      return true;
    }
  }
  Written store(std::uint32_t place, T value, Change& change) const {
    std::byte* b = block(place);
    const auto& there = detail::field_at<StoredAs<T>>(b, data_.offset);
    change.place = place;
    change.before = static_cast<double>(there);
    const detail::Stored stored = detail::store(crowd_.machine.data(), b, input_, value);
    change.after = static_cast<double>(there);
    return stored.written;
  }

  void consider(const Change& change) const {
    BlockHeader& header = header_of(block(change.place));
    // One that has not begun, or starts anew, takes all values as they are when it begins; one that is done rests.
    if ((header.flags & detail::kStarted) == 0 || (header.flags & (detail::kDone | detail::kReset)) != 0) return;
    const std::byte* const b = block(change.place);
    bool stirs = (header.flags & detail::kUnsettled) != 0, plays = false;
    for (const auto& region : regions_) {
      const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
      if (leaf == kNoIndex) continue;
      const Readers& reading = column_(leaf);
      plays = plays || reading.play;
      stirs = stirs || reading.guard == Readers::Guard::any ||
              (reading.guard != Readers::Guard::none && crowd_.readers->crosses(reading, change.before, change.after));
    }
    // Where it rests, it is looked at here and now, while its block is at hand.
    if (stirs && (header.flags != detail::kStarted || crowd_.quick->may_take(b, crowd_.now))) {
      crowd_.stir(change.place);
    } else if (plays && retakes(b)) {
      header.flags |= detail::kRetake;
      crowd_.wakes->set(change.place, kAtOnce);
    }
  }
  // Whether a play that follows the input is to go at another speed, or to show another clip.
  [[nodiscard]] bool retakes(const std::byte* b) const {
    const detail::MachineData& m = crowd_.machine.data();
    return std::any_of(regions_.begin(), regions_.end(), [&](const auto& region) {
      const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
      if (leaf == kNoIndex || !column_(leaf).play) return false;
      const detail::ConstRun run(m, b, region.index);
      const detail::PlayData& play = run.play();
      return (play.chooses() && detail::chosen(m, b, play) != run.choice()) ||
             (play.moves() && play.follows() && detail::speed_now(m, b, play) != run.speed());
    });
  }

  CrowdData& crowd_;
  std::uint16_t input_;
  const detail::InputData& data_;
  std::byte* base_;
  std::size_t pitch_;
  std::span<const detail::CrowdReaders::Region> regions_;  // in which some state reads the input
  detail::CrowdReaders::Column column_;
  std::uint32_t leaf_ = 0;  // of the first of them
  bool possible_ = false;
};

}  // namespace

void CrowdData::stir(std::uint32_t place) {
  stir_block(machine.data(), block(place), now);
  wakes->set(place, kAtOnce);
}

template <class T>
Written Crowd::write(Member member, Input<T> input, T value) {
  if (input.machine != d_->machine.data().serial || !has(member)) return Written::refused;
  return Writer<T>(*d_, input.index)(member.place, value);
}

template <class T>
std::size_t Crowd::write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values) {
  const std::size_t count = std::min(places.size(), values.size());
  if (input.machine != d_->machine.data().serial) return count;
  return Writer<T>(*d_, input.index)
      .all(
          count, [&](std::size_t i) { return places[i]; }, values.data());
}

template <class T>
std::size_t Crowd::write_all(Input<T> input, std::span<const T> values) {
  const std::size_t count = std::min<std::size_t>(places(), values.size());
  if (input.machine != d_->machine.data().serial) return count;
  return Writer<T>(*d_, input.index)
      .all(
          count, [](std::size_t i) { return static_cast<std::uint32_t>(i); }, values.data());
}

#define MOBRIN_WRITES(T)                                                                                   \
  template Written Crowd::write<T>(Member, Input<T>, T);                                                   \
  template std::size_t Crowd::write_many<T>(std::span<const std::uint32_t>, Input<T>, std::span<const T>); \
  template std::size_t Crowd::write_all<T>(Input<T>, std::span<const T>);
MOBRIN_WRITES(bool)
MOBRIN_WRITES(std::int32_t)
MOBRIN_WRITES(float)
MOBRIN_WRITES(Choice)
#undef MOBRIN_WRITES

// One with a buffer that nothing active hears waits without waking anybody; one without lives at this instant only, and
// what else was written may lead to a state that hears it.
void CrowdData::write_pulse(std::uint32_t place, std::uint16_t input) {
  const MachineData& m = machine.data();
  std::byte* b = block(place);
  const BlockHeader& header = header_of(b);
  if (detail::rests(header)) return;
  bool heard = m.inputs[input].buffer == 0 || (header.flags & (detail::kUnsettled | detail::kReset)) != 0 ||
               (header.flags & detail::kStarted) == 0;
  for (const auto& region : readers->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    heard = heard || (leaf != kNoIndex && readers->of(leaf, input).guard != Readers::Guard::none);
  }
  if (heard) stir(place);
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
