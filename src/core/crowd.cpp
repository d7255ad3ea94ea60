// Crowd: members and writes. Steps are in crowd_step.cpp, what members show in crowd_show.cpp, snapshots and hashes in
// crowd_bytes.cpp.
#include "mobrin/core/crowd.hpp"

#include <algorithm>
#include <cstring>

#include "crowd_memory.hpp"
#include "crowd_quick.hpp"
#include "crowd_readers.hpp"
#include "crowd_wakes.hpp"
#include "write.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::CrowdWakes;
using detail::fetch;
using detail::header_of;
using detail::kAtOnce;
using detail::kElsewhere;
using detail::MachineData;
using detail::Readers;

namespace {

constexpr std::size_t kWritesAhead = 32;  // how far ahead blocks are fetched where little is done with each
constexpr std::size_t kPulsesAhead = 16;  // the same where more is

}  // namespace

Crowd::Crowd(Machine machine, CrowdOptions options)
    : machine_(std::move(machine)),
      options_(options),
      readers_(std::make_unique<detail::CrowdReaders>(machine_.data())),
      quick_(std::make_unique<detail::QuickStep>(machine_.data(), options.listening)),
      stride_(machine_.block_size() - kElsewhere),
      wakes_(std::make_unique<CrowdWakes>(options.memory)),
      cruises_(options.memory),
      blocks_(kElsewhere, std::byte{}, options.memory),
      fresh_(machine_.block_size()),
      generations_(options.memory),
      free_(options.memory) {
  detail::make_block(machine_.data(), fresh_.data());
}
Crowd::Crowd(Crowd&&) noexcept = default;
// Its memory comes along, as it does for a new one.
Crowd& Crowd::operator=(Crowd&& other) noexcept {
  if (this == &other) return *this;
  std::destroy_at(this);
  return *std::construct_at(this, std::move(other));
}
Crowd::~Crowd() = default;

void Crowd::reserve(std::uint32_t count) {
  wakes_->reserve(count);
  cruises_.reserve(count);
  blocks_.reserve(kElsewhere + count * stride_);
  generations_.reserve(count);
  free_.reserve(count);
}

std::size_t Crowd::bytes_per_member() const { return member_size() + CrowdWakes::kMoreBytes; }

Member Crowd::add() {
  std::uint32_t place = places();
  if (!free_.empty()) {
    place = free_.back();
    free_.pop_back();
  } else {
    wakes_->resize(place + 1);
    cruises_.push_back(kNoIndex);
    blocks_.resize(blocks_.size() + stride_);
    generations_.push_back(0);
  }
  std::memcpy(block(place) + kElsewhere, fresh_.data() + kElsewhere, stride_);
  header_of(block(place)).anchor = now_;
  wakes_->set(place, kAtOnce);
  cruises_[place] = kNoIndex;
  ++living_;
  return {place, ++generations_[place]};
}

bool Crowd::remove(Member member) {
  if (!has(member)) return false;
  ++generations_[member.place];
  std::memset(block(member.place) + kElsewhere, 0, stride_);
  header_of(block(member.place)).flags = detail::kDone;  // writes wake nobody
  wakes_->set(member.place, detail::kNever);
  cruises_[member.place] = kNoIndex;
  free_.push_back(member.place);
  --living_;
  return true;
}

std::uint32_t Crowd::remove_done(const CrowdCues& cues) {
  std::uint32_t removed = 0;
  for (const CrowdCue& each : cues)
    if (each.cue.what == Told::done && done(at(each.place)) && remove(at(each.place))) ++removed;
  return removed;
}

Member Crowd::at(std::uint32_t place) const {
  if (place >= places() || generations_[place] % 2 == 0) return {};
  return {place, generations_[place]};
}

// --- writes
// -----------------------------------------------------------------------------------------------------------

// The next instant of the member settles.
void Crowd::stir(std::uint32_t place) {
  detail::stir_block(machine_.data(), block(place), now_);
  wakes_->set(place, kAtOnce);
}

namespace {

// What an input of this type is stored as.
template <class T>
using Stored_ = std::conditional_t<std::is_same_v<T, float> || std::is_same_v<T, std::int32_t>, T, std::uint8_t>;

}  // namespace

template <class T>
Written Crowd::write_at(std::uint32_t place, std::uint16_t input, T value) {
  const MachineData& m = machine_.data();
  std::byte* b = block(place);
  const auto& there = detail::field_at<Stored_<T>>(b, m.inputs[input].offset);
  const auto before = static_cast<double>(there);
  const detail::Stored stored = detail::store(m, b, input, value);
  if (stored.changes) changed(place, input, before, static_cast<double>(there));
  return stored.written;
}

// Wakes a member whose input went from one value to another where something active could change by it.
void Crowd::changed(std::uint32_t place, std::uint16_t input, double before, double now) {
  const MachineData& m = machine_.data();
  std::byte* b = block(place);
  BlockHeader& header = header_of(b);
  // One that has not begun, or starts anew, takes all values as they are when it begins; one that is done rests.
  if ((header.flags & detail::kStarted) == 0 || (header.flags & (detail::kDone | detail::kReset)) != 0) return;
  bool stirs = (header.flags & detail::kUnsettled) != 0, retakes = false;
  for (const auto& region : readers_->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    if (leaf == kNoIndex) continue;
    const Readers& readers = readers_->of(leaf, input);
    if (readers.guard != Readers::Guard::none)
      stirs = stirs || readers.guard == Readers::Guard::any || readers_->crosses(readers, before, now);
    if (!readers.play || retakes) continue;
    const detail::ConstRun run(m, b, region.index);
    const detail::PlayData& play = run.play();
    retakes = (play.chooses() && detail::chosen(m, b, play) != run.choice()) ||
              (play.moves() && play.follows() && detail::speed_now(m, b, play) != run.speed());
  }
  if (stirs) {
    stir(place);
  } else if (retakes) {
    header.flags |= detail::kRetake;
    wakes_->set(place, kAtOnce);
  }
}

template <class T>
Written Crowd::write(Member member, Input<T> input, T value) {
  if (input.machine != machine_.data().serial || !has(member)) return Written::refused;
  return write_at(member.place, input.index, value);
}

// Writing numbers is the commonest bulk write, and mostly nothing comes of it: compares with a threshold or two,
// without a branch that depends on the values.
class Crowd::NumberWriter {
 public:
  NumberWriter(Crowd& crowd, std::uint16_t input)
      : base_(crowd.blocks_.data()), stride_(crowd.stride_), readers_(crowd.readers_->column(input)) {
    const detail::InputData& data = crowd.machine_.data().inputs[input];
    const auto regions = crowd.readers_->regions(input);
    offset_ = data.offset;
    min_ = data.min;
    max_ = data.max;
    leaf_ = regions.empty() ? crowd.machine_.data().regions[0].leaf : regions[0].leaf;
    possible_ = regions.size() <= 1 && data.grain == 0;
  }
  void fetch_ahead(std::uint32_t place) const {
    fetch(base_ + place * stride_ + leaf_);
    fetch(base_ + place * stride_ + offset_);
  }
  // False, with nothing written, where something may come of it or the value needs a closer look.
  [[nodiscard]] bool quiet(std::uint32_t place, float value) const {
    std::byte* b = base_ + place * stride_;
    const auto state = detail::field_at<std::uint16_t>(b, leaf_);
    const bool plain =
        possible_ & (value >= min_) & (value <= max_) & (state != kNoIndex) & (header_of(b).flags == detail::kStarted);
    if (!plain) return false;
    auto& stored = detail::field_at<float>(b, offset_);
    if (!readers_(state).silent(static_cast<double>(stored), static_cast<double>(value))) return false;
    stored = value + 0.0f;  // no negative zero
    return true;
  }

 private:
  std::byte* base_;
  std::size_t stride_;
  detail::CrowdReaders::Column readers_;
  std::uint32_t offset_ = 0, leaf_ = 0;
  float min_ = 0, max_ = 0;
  bool possible_ = false;
};

// Other values have no such short cut.
class Crowd::PlainWriter {
 public:
  PlainWriter(Crowd& crowd, std::uint16_t) : crowd_(crowd) {}
  void fetch_ahead(std::uint32_t place) const { fetch(crowd_.block(place), crowd_.stride_); }
  template <class T>
  [[nodiscard]] bool quiet(std::uint32_t, T) const {
    return false;
  }

 private:
  Crowd& crowd_;
};

template <class T>
std::size_t Crowd::write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values) {
  const std::size_t count = std::min(places.size(), values.size());
  if (input.machine != machine_.data().serial) return count;
  const std::conditional_t<std::is_same_v<T, float>, NumberWriter, PlainWriter> writer(*this, input.index);
  const std::uint32_t end = this->places();
  std::size_t refused = 0;
  for (std::size_t i = 0; i < count; ++i) {
    if (i + kWritesAhead < count && places[i + kWritesAhead] < end) writer.fetch_ahead(places[i + kWritesAhead]);
    if (places[i] >= end || writer.quiet(places[i], values[i])) continue;
    if (write_at(places[i], input.index, values[i]) == Written::refused) ++refused;
  }
  return refused;
}

template <class T>
std::size_t Crowd::write_all(Input<T> input, std::span<const T> values) {
  const auto count = static_cast<std::uint32_t>(std::min<std::size_t>(places(), values.size()));
  if (input.machine != machine_.data().serial) return count;
  const std::conditional_t<std::is_same_v<T, float>, NumberWriter, PlainWriter> writer(*this, input.index);
  std::size_t refused = 0;
  for (std::uint32_t i = 0; i < count; ++i)
    if (!writer.quiet(i, values[i]) && write_at(i, input.index, values[i]) == Written::refused) ++refused;
  return refused;
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
void Crowd::write_pulse(std::uint32_t place, std::uint16_t input) {
  const MachineData& m = machine_.data();
  std::byte* b = block(place);
  const BlockHeader& header = header_of(b);
  if (detail::rests(header)) return;
  bool heard = m.inputs[input].buffer == 0 || (header.flags & (detail::kUnsettled | detail::kReset)) != 0 ||
               (header.flags & detail::kStarted) == 0;
  for (const auto& region : readers_->regions(input)) {
    const auto leaf = detail::field_at<std::uint16_t>(b, region.leaf);
    heard = heard || (leaf != kNoIndex && readers_->of(leaf, input).guard != Readers::Guard::none);
  }
  if (heard) stir(place);
  detail::store_pulse(b, m.inputs[input], now_);
}

Written Crowd::pulse(Member member, Pulse pulse) {
  if (pulse.machine != machine_.data().serial || !has(member)) return Written::refused;
  if (detail::rests(header_of(block(member.place)))) return Written::same;
  write_pulse(member.place, pulse.index);
  return Written::changed;
}

bool Crowd::pulse(std::span<const std::uint32_t> places, Pulse pulse) {
  if (pulse.machine != machine_.data().serial) return false;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (i + kPulsesAhead < places.size() && places[i + kPulsesAhead] < this->places()) {
      const std::uint32_t ahead = places[i + kPulsesAhead];
      fetch(block(ahead), stride_);
      fetch(&cruises_[ahead]);
      wakes_->fetch(ahead);
    }
    if (places[i] < this->places()) write_pulse(places[i], pulse.index);
  }
  return true;
}

Ticks Crowd::next_wake() const { return Ticks(std::max(wakes_->first(), now_)); }

// --- one member
// -------------------------------------------------------------------------------------------------------

void Crowd::whole_block(std::uint32_t place, std::byte* out) const {
  std::memcpy(out + kElsewhere, block(place) + kElsewhere, stride_);
  header_of(out).now = now_;
  header_of(out).wake = (*wakes_)[place];
}

template <class Change>
void Crowd::change_whole(std::uint32_t place, const Change& change) {
  catch_up(place);
  std::vector<std::byte> whole(machine_.block_size());
  whole_block(place, whole.data());
  change(whole.data());
  std::memcpy(block(place) + kElsewhere, whole.data() + kElsewhere, stride_);
  wakes_->set(place, std::max(header_of(whole.data()).wake, kAtOnce));
}

bool Crowd::set_rate(Member member, double rate) {
  if (!has(member) || !(rate >= 0 && rate <= 64)) return false;
  const bool loops = (options_.listening & listen_to(Told::loop)) != 0;
  change_whole(member.place, [&](std::byte* b) { detail::change_rate(machine_.data(), b, rate, loops); });
  return true;
}

bool Crowd::freeze(Member member, Ticks duration) {
  if (!has(member) || duration.count < 0 || duration > kLongestFreeze) return false;
  const bool loops = (options_.listening & listen_to(Told::loop)) != 0;
  change_whole(member.place, [&](std::byte* b) { detail::begin_freeze(machine_.data(), b, duration.count, loops); });
  return true;
}

bool Crowd::reset(Member member) {
  if (!has(member)) return false;
  if (detail::restart_block(machine_.data(), block(member.place))) wakes_->set(member.place, kAtOnce);
  return true;
}

}  // namespace mobrin
