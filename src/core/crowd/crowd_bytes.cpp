// A crowd's bytes: snapshots, hashes, single members.
//
// A snapshot is its counts, then wakes, cruises, blocks, generations and free places as they lie in memory.
#include <algorithm>
#include <cstring>

#include "crowd/crowd_data.hpp"
#include "crowd/crowd_wakes.hpp"
#include "machine/block_memory.hpp"
#include "machine/hash.hpp"
#include "mobrin/core/crowd.hpp"

namespace mobrin {
namespace {

using detail::kElsewhere;

struct Counts {
  std::int64_t now;
  std::uint32_t places, free, living, unused;
};
static_assert(sizeof(Counts) == 24);

template <class T>
std::span<const std::byte> bytes_of(const std::pmr::vector<T>& all) {
  return std::as_bytes(std::span(all));
}

}  // namespace

std::size_t Crowd::snapshot_size() const {
  return sizeof(Counts) + places() * member_size() + d_->free.size() * sizeof d_->free[0];
}

void Crowd::snapshot(std::vector<std::byte>& out) const {
  out.resize(snapshot_size());
  std::byte* to = out.data();
  const auto put = [&](std::span<const std::byte> bytes) {
    if (!bytes.empty()) std::memcpy(to, bytes.data(), bytes.size());
    to += bytes.size();
  };
  const Counts counts{d_->now, places(), static_cast<std::uint32_t>(d_->free.size()), d_->living, 0};
  put(std::as_bytes(std::span(&counts, 1)));
  put(d_->wakes->bytes(places()));
  put(bytes_of(d_->cruises));
  put(bytes_of(d_->blocks).subspan(kElsewhere));
  put(bytes_of(d_->generations));
  put(bytes_of(d_->free));
}

bool Crowd::restore(std::span<const std::byte> snapshot) {
  Counts counts{};
  if (snapshot.size() < sizeof counts) return false;
  std::memcpy(&counts, snapshot.data(), sizeof counts);
  const std::uint64_t size =
      sizeof counts + std::uint64_t{counts.places} * member_size() + std::uint64_t{counts.free} * sizeof d_->free[0];
  if (size != snapshot.size() || counts.free > counts.places) return false;
  d_->cruises.resize(counts.places);
  d_->blocks.resize(kElsewhere + counts.places * d_->stride);
  d_->generations.resize(counts.places);
  d_->free.resize(counts.free);
  const std::byte* from = snapshot.data() + sizeof counts;
  const auto take = [&](void* to, std::size_t bytes) {
    if (bytes > 0) std::memcpy(to, from, bytes);
    from += bytes;
  };
  d_->wakes->take(from, counts.places);
  from += counts.places * sizeof(std::int64_t);
  take(d_->cruises.data(), d_->cruises.size() * sizeof d_->cruises[0]);
  take(d_->blocks.data() + kElsewhere, counts.places * d_->stride);
  take(d_->generations.data(), d_->generations.size() * sizeof d_->generations[0]);
  take(d_->free.data(), d_->free.size() * sizeof d_->free[0]);
  d_->now = d_->end = counts.now;
  d_->living = counts.living;
  for (const auto& each : d_->frames) each->touch_all();
  return true;
}

std::uint64_t Crowd::hash() const {
  detail::Hash hash;
  hash.add(std::as_bytes(std::span(&d_->now, 1)));
  hash.add(d_->wakes->bytes(places()));
  hash.add(bytes_of(d_->cruises));
  hash.add(bytes_of(d_->blocks).subspan(kElsewhere));
  hash.add(bytes_of(d_->generations));
  return hash.value();
}

// A member's bytes are its wake, its generation, its cruise, and its block.
std::size_t Crowd::member_size() const {
  return sizeof(std::int64_t) + sizeof d_->generations[0] + sizeof d_->cruises[0] + d_->stride;
}

bool Crowd::member_bytes(std::uint32_t place, std::span<std::byte> out) const {
  if (place >= places() || out.size() < member_size()) return false;
  const std::int64_t wake = (*d_->wakes)[place];
  std::memcpy(out.data(), &wake, 8);
  std::memcpy(out.data() + 8, &d_->generations[place], 4);
  std::memcpy(out.data() + 12, &d_->cruises[place], 2);
  std::memcpy(out.data() + 14, d_->block(place) + kElsewhere, d_->stride);
  return true;
}

bool Crowd::put_member_bytes(std::uint32_t place, std::span<const std::byte> bytes) {
  if (place >= places() || bytes.size() != member_size()) return false;
  const bool before = d_->generations[place] % 2 == 1;
  std::int64_t wake = 0;
  std::memcpy(&wake, bytes.data(), 8);
  d_->wakes->set(place, wake);
  std::memcpy(&d_->generations[place], bytes.data() + 8, 4);
  std::memcpy(&d_->cruises[place], bytes.data() + 12, 2);
  std::memcpy(d_->block(place) + kElsewhere, bytes.data() + 14, d_->stride);
  d_->touch(place);
  const bool after = d_->generations[place] % 2 == 1;
  if (before && !after) d_->free.push_back(place), --d_->living;
  if (!before && after) std::erase(d_->free, place), ++d_->living;
  return true;
}

bool Crowd::changed_since(std::span<const std::byte> snapshot, std::vector<std::uint32_t>& out) const {
  out.clear();
  Counts counts{};
  if (snapshot.size() < sizeof counts) return false;
  std::memcpy(&counts, snapshot.data(), sizeof counts);
  const std::uint64_t least = std::uint64_t{counts.places} * member_size();
  if (snapshot.size() - sizeof counts < least) return false;
  const std::byte* from = snapshot.data() + sizeof counts;
  const auto differs = [&](std::uint32_t i, const void* one, std::size_t size) {
    const bool other = std::memcmp(one, from + i * size, size) != 0;
    from += counts.places * size;
    return other;
  };
  for (std::uint32_t i = 0; i < places(); ++i) {
    const std::int64_t wake = (*d_->wakes)[i];
    from = snapshot.data() + sizeof counts;
    const bool same = i < counts.places && !differs(i, &wake, 8) && !differs(i, &d_->cruises[i], 2) &&
                      !differs(i, d_->block(i) + kElsewhere, d_->stride) && !differs(i, &d_->generations[i], 4);
    if (!same) out.push_back(i);
  }
  return true;
}

void Crowd::take_over(const Crowd& from, void (*carry)(void* context, const Instance& from, Instance& into),
                      void* context) {
  const std::uint32_t count = from.places();
  d_->now = d_->end = from.d_->now;
  d_->living = from.d_->living;
  d_->generations.assign(from.d_->generations.begin(), from.d_->generations.end());
  d_->free.assign(from.d_->free.begin(), from.d_->free.end());
  d_->cruises.assign(count, kNoIndex);
  d_->blocks.assign(kElsewhere + count * d_->stride, std::byte{});
  for (const auto& each : d_->frames) each->touch_all();
  const std::vector<std::int64_t> never(count, detail::kNever);
  d_->wakes->take(reinterpret_cast<const std::byte*>(never.data()), count);
  for (std::uint32_t place = 0; place < count; ++place) {
    const auto member = from.copy(from.at(place));
    if (!member) {
      detail::header_of(d_->block(place)).flags = detail::kDone;  // as remove() leaves it
      continue;
    }
    Instance carried(d_->machine, {0, Ticks(d_->now)});
    carry(context, *member, carried);
    d_->take(place, carried);
  }
}

void detail::CrowdData::take(std::uint32_t place, const Instance& from) {
  const std::byte* const whole = from.block().data();
  std::memcpy(block(place) + kElsewhere, whole + kElsewhere, stride);
  cruises[place] = kNoIndex;
  wakes->set(place, std::max(header_of(whole).wake, kAtOnce));
  touch(place);
}

bool Crowd::lend(Member member, Instance& stand_in) {
  if (!has(member) || stand_in.machine().serial() != d_->machine.serial()) return false;
  d_->copy_to(member.place, stand_in, d_->scratch);
  d_->cruises[member.place] = kNoIndex;
  d_->wakes->set(member.place, detail::kNever);
  return true;
}

bool Crowd::take_back(Member member, const Instance& stand_in) {
  if (!has(member) || stand_in.machine().serial() != d_->machine.serial() || stand_in.now() != now()) return false;
  d_->take(member.place, stand_in);
  return true;
}

}  // namespace mobrin
