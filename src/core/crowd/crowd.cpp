// Crowd: members and writes. Steps are in crowd_step.cpp, what members show in crowd_show.cpp, snapshots and hashes in
// crowd_bytes.cpp.
#include "mobrin/core/crowd.hpp"

#include <algorithm>
#include <cstring>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_readers.hpp"
#include "crowd/crowd_wakes.hpp"
#include "engine/engine.hpp"
#include "engine/write.hpp"
#include "instance/stale.hpp"
#include "machine/block_memory.hpp"

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
constexpr std::size_t kMostCues = 64;     // of a beginning that is kept
constexpr std::size_t kPulsesAhead = 16;  // the same where more is

}  // namespace

detail::CrowdData::CrowdData(Machine of, CrowdOptions how)
    : machine(std::move(of)),
      options(how),
      memory(std::make_unique<SourceResource>(how.memory)),
      readers(std::make_unique<CrowdReaders>(machine.data())),
      quick(&machine.data().prepared->quick((how.listening & listen_to(Told::loop)) != 0)),
      beginning(machine, how, *quick),
      stride(machine.block_size() - kElsewhere),
      wakes(std::make_unique<CrowdWakes>(memory.get())),
      cruises(memory.get()),
      blocks(kElsewhere, std::byte{}, memory.get()),
      generations(memory.get()),
      free(memory.get()) {
  check_floats();
}

detail::Beginning::Beginning(const Machine& machine, const CrowdOptions& options, const Quick& quick)
    : before(machine.block_size()), after(machine.block_size()), cues({}, kMostCues) {
  const MachineData& m = machine.data();
  make_block(m, before.data());
  known = std::none_of(m.transitions.begin(), m.transitions.end(),
                       [](const TransitionData& go) { return go.start == StartKind::clock; });
  if (!known) return;
  after = before;
  Sink sink;
  sink.crowd = &cues;
  sink.listening = options.listening;
  Engine engine(m, after.data(), sink);
  if ((sink.listening & listen_to(Told::loop)) == 0) engine.pass_over_rounds();
  engine.instant(0);
  known = !sink.full;
  wake = header_of(after.data()).wake;
  cruise = quick.cruise(after.data());
}

Crowd::Crowd(Machine machine, CrowdOptions options) : d_(new detail::CrowdData(std::move(machine), options)) {}
Crowd::Crowd(Crowd&& other) noexcept : d_(std::exchange(other.d_, nullptr)) {}
Crowd& Crowd::operator=(Crowd&& other) noexcept {
  if (this != &other) delete std::exchange(d_, std::exchange(other.d_, nullptr));
  return *this;
}
Crowd::~Crowd() { delete d_; }

std::uint32_t Crowd::size() const { return d_->living; }
std::uint32_t Crowd::places() const { return d_->places(); }
bool Crowd::has(Member member) const {
  return member.place < places() && member.generation != 0 && d_->generations[member.place] == member.generation;
}
Ticks Crowd::now() const { return Ticks(d_->now); }
const Machine& Crowd::machine() const { return d_->machine; }

void Crowd::reserve(std::uint32_t count) {
  d_->wakes->reserve(count);
  d_->cruises.reserve(count);
  d_->blocks.reserve(kElsewhere + count * d_->stride);
  d_->generations.reserve(count);
  d_->free.reserve(count);
  for (const auto& each : d_->frames) each->reserve(count);
}

std::size_t Crowd::bytes_per_member() const { return member_size() + CrowdWakes::kMoreBytes; }

Member Crowd::add() {
  std::uint32_t place = places();
  if (!d_->free.empty()) {
    place = d_->free.back();
    d_->free.pop_back();
  } else {
    d_->wakes->resize(place + 1);
    d_->cruises.push_back(kNoIndex);
    d_->blocks.resize(d_->blocks.size() + d_->stride);
    d_->generations.push_back(0);
  }
  std::memcpy(d_->block(place) + kElsewhere, d_->beginning.before.data() + kElsewhere, d_->stride);
  header_of(d_->block(place)).anchor = d_->now;
  d_->wakes->set(place, kAtOnce);
  d_->cruises[place] = kNoIndex;
  ++d_->living;
  return {place, ++d_->generations[place]};
}

bool Crowd::remove(Member member) {
  if (!has(member)) return false;
  ++d_->generations[member.place];
  std::memset(d_->block(member.place) + kElsewhere, 0, d_->stride);
  header_of(d_->block(member.place)).flags = detail::kDone;  // writes wake nobody
  d_->wakes->set(member.place, detail::kNever);
  d_->cruises[member.place] = kNoIndex;
  d_->free.push_back(member.place);
  d_->touch(member.place);
  --d_->living;
  return true;
}

std::uint32_t Crowd::remove_done(const CrowdCues& cues) {
  std::uint32_t removed = 0;
  for (const CrowdCue& each : cues)
    if (each.cue.what == Told::done && done(at(each.place)) && remove(at(each.place))) ++removed;
  return removed;
}

Member Crowd::at(std::uint32_t place) const {
  if (place >= places() || d_->generations[place] % 2 == 0) return {};
  return {place, d_->generations[place]};
}

// --- writes
// -----------------------------------------------------------------------------------------------------------

void detail::CrowdData::stir(std::uint32_t place) {
  stir_block(machine.data(), block(place), now);
  wakes->set(place, kAtOnce);
}

namespace {

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
    header.flags |= detail::kRetake;
    wakes->set(place, kAtOnce);
  }
}

template <class T>
Written Crowd::write(Member member, Input<T> input, T value) {
  if (input.machine != d_->machine.data().serial || !has(member)) return Written::refused;
  return d_->write(member.place, input.index, value);
}

namespace {

// Writing numbers is the commonest bulk write, and mostly nothing comes of it: compares with a threshold or two,
// without a branch that depends on the values.
class NumberWriter {
 public:
  NumberWriter(detail::CrowdData& crowd, std::uint16_t input)
      : base_(crowd.blocks.data()), pitch_(crowd.stride), column_(crowd.readers->column(input)) {
    const detail::InputData& data = crowd.machine.data().inputs[input];
    const auto regions = crowd.readers->regions(input);
    offset_ = data.offset;
    min_ = data.min;
    max_ = data.max;
    leaf_ = regions.empty() ? crowd.machine.data().regions[0].leaf : regions[0].leaf;
    possible_ = regions.size() <= 1 && data.grain == 0;
  }
  void fetch_ahead(std::uint32_t place) const {
    fetch(base_ + place * pitch_ + leaf_);
    fetch(base_ + place * pitch_ + offset_);
  }
  // False, with nothing written, where something may come of it or the value needs a closer look.
  [[nodiscard]] bool quiet(std::uint32_t place, float value) const {
    std::byte* b = base_ + place * pitch_;
    const auto state = detail::field_at<std::uint16_t>(b, leaf_);
    const bool plain =
        possible_ & (value >= min_) & (value <= max_) & (state != kNoIndex) & (header_of(b).flags == detail::kStarted);
    if (!plain) return false;
    auto& stored = detail::field_at<float>(b, offset_);
    if (!column_(state).silent(static_cast<double>(stored), static_cast<double>(value))) return false;
    stored = value + 0.0f;  // no negative zero
    return true;
  }

 private:
  std::byte* base_;
  std::size_t pitch_;
  detail::CrowdReaders::Column column_;
  std::uint32_t offset_ = 0, leaf_ = 0;
  float min_ = 0, max_ = 0;
  bool possible_ = false;
};

// Other values have no such short cut.
class PlainWriter {
 public:
  PlainWriter(detail::CrowdData& crowd, std::uint16_t) : crowd_(crowd) {}
  void fetch_ahead(std::uint32_t place) const { fetch(crowd_.block(place), crowd_.stride); }
  template <class T>
  [[nodiscard]] bool quiet(std::uint32_t, T) const {
    return false;
  }

 private:
  detail::CrowdData& crowd_;
};

}  // namespace

template <class T>
std::size_t Crowd::write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values) {
  const std::size_t count = std::min(places.size(), values.size());
  if (input.machine != d_->machine.data().serial) return count;
  const std::conditional_t<std::is_same_v<T, float>, NumberWriter, PlainWriter> writer(*d_, input.index);
  const std::uint32_t end = this->places();
  std::size_t refused = 0;
  for (std::size_t i = 0; i < count; ++i) {
    if (i + kWritesAhead < count && places[i + kWritesAhead] < end) writer.fetch_ahead(places[i + kWritesAhead]);
    if (places[i] >= end || writer.quiet(places[i], values[i])) continue;
    if (d_->write(places[i], input.index, values[i]) == Written::refused) ++refused;
  }
  return refused;
}

template <class T>
std::size_t Crowd::write_all(Input<T> input, std::span<const T> values) {
  const auto count = static_cast<std::uint32_t>(std::min<std::size_t>(places(), values.size()));
  if (input.machine != d_->machine.data().serial) return count;
  const std::conditional_t<std::is_same_v<T, float>, NumberWriter, PlainWriter> writer(*d_, input.index);
  std::size_t refused = 0;
  for (std::uint32_t i = 0; i < count; ++i)
    if (!writer.quiet(i, values[i]) && d_->write(i, input.index, values[i]) == Written::refused) ++refused;
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
void detail::CrowdData::write_pulse(std::uint32_t place, std::uint16_t input) {
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

Ticks Crowd::next_wake() const { return Ticks(std::max(d_->wakes->first(), d_->now)); }

// --- one member
// -------------------------------------------------------------------------------------------------------

void detail::CrowdData::whole_block(std::uint32_t place, std::byte* out) const {
  std::memcpy(out + kElsewhere, block(place) + kElsewhere, stride);
  header_of(out).now = now;
  header_of(out).wake = (*wakes)[place];
}

bool Crowd::set_rate(Member member, double rate) {
  if (!has(member) || !(rate >= 0 && rate <= 64)) return false;
  d_->change_whole(member.place,
                   [&](std::byte* b) { detail::change_rate(d_->machine.data(), b, rate, d_->hears_loops()); });
  return true;
}

bool Crowd::freeze(Member member, Ticks duration) {
  if (!has(member) || duration.count < 0 || duration > kLongestFreeze) return false;
  d_->change_whole(member.place, [&](std::byte* b) {
    detail::begin_freeze(d_->machine.data(), b, duration.count, d_->hears_loops());
  });
  return true;
}

bool Crowd::reset(Member member) {
  if (!has(member)) return false;
  if (detail::restart_block(d_->machine.data(), d_->block(member.place))) d_->wakes->set(member.place, kAtOnce);
  return true;
}

}  // namespace mobrin
