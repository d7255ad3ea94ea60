// Crowd: members, writes, steps. What members show is in crowd_show.cpp, snapshots and hashes in crowd_bytes.cpp.
#include "mobrin/core/crowd.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "crowd_memory.hpp"
#include "crowd_quick.hpp"
#include "crowd_readers.hpp"
#include "engine.hpp"
#include "write.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::fetch;
using detail::header_of;
using detail::kAhead;
using detail::kElsewhere;
using detail::MachineData;
using detail::Readers;

namespace {

constexpr std::size_t kDueAtOnce = 256;   // how many are looked for before they are stepped
constexpr std::size_t kWritesAhead = 32;  // the same where less is done with each
constexpr std::uint32_t kScanned = 8;     // wakes that are compared together
constexpr std::int64_t kAtOnce = 0;       // the least wake, so that the difference of two is always right

// Which of some wakes, at most kScanned, lie at or before `limit`: a bit each.
std::uint32_t due_among(const std::int64_t* wakes, std::uint32_t count, std::int64_t limit) {
  std::uint32_t bits = 0;
  for (std::uint32_t i = 0; i < count; ++i) bits |= (wakes[i] <= limit ? 1u : 0u) << i;
  return bits;
}
// The same for kScanned of them: the signs of the differences.
std::uint32_t due_among(const std::int64_t* wakes, std::int64_t limit) {
#if defined(__GNUC__) && defined(__SSE2__)
  using Two = std::int64_t __attribute__((vector_size(16)));
  using TwoDoubles = double __attribute__((vector_size(16)));
  const Two most = {limit + 1, limit + 1};
  Two before[kScanned / 2];
  std::memcpy(before, wakes, sizeof before);
  for (Two& pair : before) pair -= most;
  const auto signs = [](Two pair) {
    return static_cast<std::uint32_t>(__builtin_ia32_movmskpd(reinterpret_cast<TwoDoubles>(pair)));
  };
  if (signs((before[0] | before[1]) | (before[2] | before[3])) == 0) return 0;
  return signs(before[0]) | signs(before[1]) << 2 | signs(before[2]) << 4 | signs(before[3]) << 6;
#else
  std::int64_t any = 0;  // negative where one of them is due
  for (std::uint32_t i = 0; i < kScanned; ++i) any |= wakes[i] - limit - 1;
  return any < 0 ? due_among(wakes, kScanned, limit) : 0;
#endif
}

}  // namespace

Crowd::Crowd(Machine machine, CrowdOptions options)
    : machine_(std::move(machine)),
      options_(options),
      readers_(std::make_unique<detail::CrowdReaders>(machine_.data())),
      quick_(std::make_unique<detail::QuickStep>(machine_.data(), options.listening)),
      stride_(machine_.block_size() - kElsewhere),
      blocks_(kElsewhere),
      fresh_(machine_.block_size()) {
  detail::make_block(machine_.data(), fresh_.data());
}
Crowd::Crowd(Crowd&&) noexcept = default;
Crowd& Crowd::operator=(Crowd&&) noexcept = default;
Crowd::~Crowd() = default;

void Crowd::reserve(std::uint32_t count) {
  wakes_.reserve(count);
  cruises_.reserve(count);
  blocks_.reserve(kElsewhere + count * stride_);
  generations_.reserve(count);
  free_.reserve(count);
}

std::size_t Crowd::bytes_per_member() const {
  return stride_ + sizeof wakes_[0] + sizeof cruises_[0] + sizeof generations_[0];
}

Member Crowd::add() {
  std::uint32_t place = places();
  if (!free_.empty()) {
    place = free_.back();
    free_.pop_back();
  } else {
    wakes_.push_back(kAtOnce);
    cruises_.emplace_back();
    blocks_.resize(blocks_.size() + stride_);
    generations_.push_back(0);
  }
  std::memcpy(block(place) + kElsewhere, fresh_.data() + kElsewhere, stride_);
  header_of(block(place)).anchor = now_;
  wakes_[place] = kAtOnce;
  cruises_[place] = {};
  ++living_;
  return {place, ++generations_[place]};
}

bool Crowd::remove(Member member) {
  if (!has(member)) return false;
  ++generations_[member.place];
  std::memset(block(member.place) + kElsewhere, 0, stride_);
  header_of(block(member.place)).flags = detail::kDone;  // writes wake nobody
  wakes_[member.place] = detail::kNever;
  cruises_[member.place] = {};
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
  wakes_[place] = kAtOnce;
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
    wakes_[place] = kAtOnce;
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
  PlainWriter(Crowd&, std::uint16_t) {}
  template <class T>
  [[nodiscard]] bool quiet(std::uint32_t, T) const {
    return false;
  }
};

template <class T>
std::size_t Crowd::write_many(std::span<const std::uint32_t> places, Input<T> input, std::span<const T> values) {
  const std::size_t count = std::min(places.size(), values.size());
  if (input.machine != machine_.data().serial) return count;
  const std::conditional_t<std::is_same_v<T, float>, NumberWriter, PlainWriter> writer(*this, input.index);
  const std::uint32_t end = this->places();
  const std::uint32_t offset = machine_.data().inputs[input.index].offset;
  std::size_t refused = 0;
  for (std::size_t i = 0; i < count; ++i) {
    if (i + kWritesAhead < count && places[i + kWritesAhead] < end) {
      fetch(&header_of(block(places[i + kWritesAhead])).flags);
      fetch(block(places[i + kWritesAhead]) + offset);
    }
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
    if (i + kAhead < places.size() && places[i + kAhead] < this->places()) fetch(block(places[i + kAhead]), stride_);
    if (places[i] < this->places()) write_pulse(places[i], pulse.index);
  }
  return true;
}

// --- time
// -------------------------------------------------------------------------------------------------------------

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

void Crowd::advance_range(std::uint32_t first, std::uint32_t end, CrowdCues& cues) {
  end = std::min(end, places());
  std::array<std::uint32_t, kDueAtOnce> due;
  cues.scratch_.resize(machine_.block_size());
  std::byte* const scratch = cues.scratch_.data();
  detail::Sink sink;
  sink.crowd = &cues;
  sink.listening = options_.listening;
  detail::Engine engine(machine_.data(), scratch, sink);
  if ((options_.listening & listen_to(Told::loop)) == 0) engine.pass_over_rounds();
  const std::int64_t* const wakes = wakes_.data();
  for (std::uint32_t at = first; at < end;) {
    std::size_t count = 0;
    while (at < end && count + kScanned <= kDueAtOnce) {
      const std::uint32_t scanned = std::min(end - at, kScanned);
      for (std::uint32_t bits = scanned == kScanned ? due_among(wakes + at, end_)
                                                    : due_among(wakes + at, scanned, end_);
           bits != 0; bits &= bits - 1) {
        due[count] = at + static_cast<std::uint32_t>(std::countr_zero(bits));
        fetch(&cruises_[due[count++]]);
      }
      at += scanned;
    }
    // Those that cruise do not need their blocks.
    const auto fetch_next = [&](std::size_t i) {
      if (i < count && (cruises_[due[i]].state == kNoIndex || wakes[due[i]] <= now_)) fetch(block(due[i]), stride_);
    };
    for (std::size_t i = 0; i < kAhead; ++i) fetch_next(i);
    for (std::size_t i = 0; i < count; ++i) {
      fetch_next(i + kAhead);
      sink.place = due[i];
      step_one(due[i], sink, engine, scratch);
    }
  }
}

void Crowd::step_one(std::uint32_t place, detail::Sink& sink, detail::Engine& engine, std::byte* scratch) {
  std::int64_t& wake = wakes_[place];
  if (cruises_[place].state != kNoIndex && wake > now_) {
    do wake = quick_->pass(cruises_[place], wake, sink);
    while (wake <= end_);
    return;
  }
  catch_up(place);
  std::byte* const b = block(place);
  do {
    if (quick_->instant(b, std::max(wake, now_), sink, wake)) continue;
    std::memcpy(scratch + kElsewhere, b + kElsewhere, stride_);
    BlockHeader& header = header_of(scratch);
    header.now = now_;
    header.wake = wake;
    do {
      header.now = std::max(header.wake, header.now);
      engine.instant(header.now);
    } while (header.wake <= end_);
    std::memcpy(b + kElsewhere, scratch + kElsewhere, stride_);
    wake = std::max(header.wake, kAtOnce);
  } while (wake <= end_);
  cruises_[place] = quick_->cruise(b);
}

// Brings the block of one that cruised to now.
void Crowd::catch_up(std::uint32_t place) {
  if (cruises_[place].state == kNoIndex) return;
  cruises_[place] = {};
  quick_->catch_up(block(place), now_);
}

Ticks Crowd::next_wake() const {
  std::int64_t soonest = detail::kNever;
  for (const std::int64_t wake : wakes_) soonest = std::min(soonest, wake);
  return Ticks(std::max(soonest, now_));
}

// --- one member
// -------------------------------------------------------------------------------------------------------

void Crowd::whole_block(std::uint32_t place, std::byte* out) const {
  std::memcpy(out + kElsewhere, block(place) + kElsewhere, stride_);
  header_of(out).now = now_;
  header_of(out).wake = wakes_[place];
}

template <class Change>
void Crowd::change_whole(std::uint32_t place, const Change& change) {
  catch_up(place);
  std::vector<std::byte> whole(machine_.block_size());
  whole_block(place, whole.data());
  change(whole.data());
  std::memcpy(block(place) + kElsewhere, whole.data() + kElsewhere, stride_);
  wakes_[place] = std::max(header_of(whole.data()).wake, kAtOnce);
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
  if (detail::restart_block(machine_.data(), block(member.place))) wakes_[member.place] = kAtOnce;
  return true;
}

}  // namespace mobrin
