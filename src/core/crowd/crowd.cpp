// Crowd: its members. Writes are in crowd_write.cpp, steps in crowd_step.cpp, what members show in crowd_show.cpp,
// snapshots and hashes in crowd_bytes.cpp.
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

constexpr std::size_t kMostCues = 64;  // of a beginning that is kept

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

bool Crowd::place(Member member, State state, Ticks time) {
  if (!has(member)) return false;
  Instance alone(d_->machine, InstanceOptions{0});
  d_->copy_to(member.place, alone, d_->scratch);
  if (!alone.place(state, time)) return false;
  d_->take(member.place, alone);
  return true;
}

bool Crowd::reset(Member member) {
  if (!has(member)) return false;
  if (detail::restart_block(d_->machine.data(), d_->block(member.place))) d_->wake(member.place);
  return true;
}

}  // namespace mobrin
