// Crowd: values and pulses that are written, and whom they wake.
#include <algorithm>
#include <utility>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "crowd/crowd_writer.hpp"
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
using detail::RowWriter;
using detail::StoredAs;
using detail::WakesAhead;
using detail::WakesInOrder;
using detail::Writer;

namespace {

constexpr std::size_t kWritesAhead = 32;      // how far ahead blocks are fetched where little is done with each
constexpr std::size_t kPulsesAhead = 16;      // the same where more is
constexpr std::size_t kWrittenTogether = 64;  // so many one by one before it is asked whether rows pay

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
  bool stirs = (header.flags & detail::kUnsettled) != 0, opens = false, retakes = false;
  for (const auto& region : readers->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    if (leaf == kNoIndex) continue;
    const Readers& reading = readers->of(leaf, input);
    if (reading.guard != Readers::Guard::none) {
      const bool comes = reading.guard == Readers::Guard::any || readers->crosses(reading, before, after);
      stirs = stirs || comes;
      opens = opens || (comes && readers->opens(&reading, b));
    }
    if (!reading.play || retakes) continue;
    const detail::ConstRun run(m, b, region.index);
    const detail::PlayData& play = run.play();
    retakes = (play.chooses() && detail::chosen(m, b, play) != run.choice()) ||
              (play.moves() && play.follows() && detail::speed_now(m, b, play) != run.speed());
  }
  // Where it rests, it is looked at here and now, while its block is at hand.
  if (stirs && (opens || header.flags != detail::kStarted || quick->may_take(b, now))) {
    stir(place);
  } else if (retakes) {
    wake(place);
    header.flags |= detail::kRetake;
  }
}

// All of a row that rests and has begun. As stir() for each.
void detail::CrowdData::stir_row(std::uint32_t first) {
  const bool alike = detail::same_values(wakes->row(first / kRow)) && detail::same_values(&cruises[first]);
  std::uint32_t told = 0;
  for (std::uint32_t i = 0; i < (alike ? 1 : kRow); ++i) told |= told_now(first + i);
  if (told > 0) {
    for (std::uint32_t i = 0; i < kRow; ++i) stir(first + i);
    return;
  }
  if (machine.data().brief_pulses.empty())
    for (std::uint32_t i = 0; i < kRow; ++i) header_of(block(first + i)).flags = kStarted | kDirty;
  else
    for (std::uint32_t i = 0; i < kRow; ++i) stir_block(machine.data(), block(first + i), now);
  wakes->put_off(first / kRow, kAtOnce);
}

template <class T>
Written Crowd::write(Member member, Input<T> input, T value) {
  if (input.machine != d_->machine.data().serial || !has(member)) return Written::refused;
  return d_->write(member.place, input.index, value);
}

namespace {

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

// Those from `first` up to `end`; how many were refused. In a loop of its own with a writer that nobody else sees: it
// stays in registers.
template <class T, class ValueAt>
MOBRIN_APART std::size_t write_each(detail::CrowdData& d, Writer<T> writer, std::uint32_t first, std::uint32_t end,
                                    Input<T> input, ValueAt value, WakesInOrder& wakes) {
  std::size_t refused = 0;
  for (std::uint32_t i = first; i < end; ++i)
    if (!writer.write(i, value(i), wakes) && d.write(i, input.index, value(i)) == Written::refused) ++refused;
  return refused;
}

// The same for the first `count` places.
template <class T, class ValueAt>
std::size_t write_first(detail::CrowdData& d, std::size_t count, Input<T> input, const ValueAt& value) {
  if (input.machine != d.machine.data().serial) return count;
  const Writer<T> writer(d, input.index);
  RowWriter<T> rows(writer);
  WakesInOrder wakes(d);
  std::size_t refused = 0;
  for (std::uint32_t i = 0; i < count;) {
    if (rows.worth_it() && i + kRow <= count && rows.write(i, value)) {
      i += kRow;
      continue;
    }
    const std::uint32_t first = i, stirred = wakes.stirred();
    i = static_cast<std::uint32_t>(std::min<std::size_t>(count, i + (rows.worth_it() ? kRow : kWrittenTogether)));
    refused += write_each(d, writer, first, i, input, value, wakes);
    rows.stirred(wakes.stirred() - stirred, i - first);
  }
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
                     [values](std::size_t i) { return values[i]; });
}

std::size_t Crowd::set_all(Input<bool> input, std::span<const std::uint8_t> values) {
  return write_first(*d_, std::min<std::size_t>(places(), values.size()), input,
                     [values](std::size_t i) { return values[i] != 0; });
}

template <class T>
std::size_t Crowd::write_same(Input<T> input, T value) {
  return write_first(*d_, places(), input, [value](std::size_t) { return value; });
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
