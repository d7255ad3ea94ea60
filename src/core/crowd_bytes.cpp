// A crowd's bytes: snapshots, hashes, single members.
//
// A snapshot is its counts, then wakes, cruises, blocks, generations and free places as they lie in memory.
#include <algorithm>
#include <cstring>

#include "crowd_memory.hpp"
#include "crowd_wakes.hpp"
#include "hash.hpp"
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
  return sizeof(Counts) + places() * member_size() + free_.size() * sizeof free_[0];
}

void Crowd::snapshot(std::vector<std::byte>& out) const {
  out.resize(snapshot_size());
  std::byte* to = out.data();
  const auto put = [&](std::span<const std::byte> bytes) {
    if (!bytes.empty()) std::memcpy(to, bytes.data(), bytes.size());
    to += bytes.size();
  };
  const Counts counts{now_, places(), static_cast<std::uint32_t>(free_.size()), living_, 0};
  put(std::as_bytes(std::span(&counts, 1)));
  put(wakes_->bytes(places()));
  put(bytes_of(cruises_));
  put(bytes_of(blocks_).subspan(kElsewhere));
  put(bytes_of(generations_));
  put(bytes_of(free_));
}

bool Crowd::restore(std::span<const std::byte> snapshot) {
  Counts counts{};
  if (snapshot.size() < sizeof counts) return false;
  std::memcpy(&counts, snapshot.data(), sizeof counts);
  const std::uint64_t size =
      sizeof counts + std::uint64_t{counts.places} * member_size() + std::uint64_t{counts.free} * sizeof free_[0];
  if (size != snapshot.size() || counts.free > counts.places) return false;
  cruises_.resize(counts.places);
  blocks_.resize(kElsewhere + counts.places * stride_);
  generations_.resize(counts.places);
  free_.resize(counts.free);
  const std::byte* from = snapshot.data() + sizeof counts;
  const auto take = [&](void* to, std::size_t bytes) {
    if (bytes > 0) std::memcpy(to, from, bytes);
    from += bytes;
  };
  wakes_->take(from, counts.places);
  from += counts.places * sizeof(std::int64_t);
  take(cruises_.data(), cruises_.size() * sizeof cruises_[0]);
  take(blocks_.data() + kElsewhere, counts.places * stride_);
  take(generations_.data(), generations_.size() * sizeof generations_[0]);
  take(free_.data(), free_.size() * sizeof free_[0]);
  now_ = end_ = counts.now;
  living_ = counts.living;
  return true;
}

std::uint64_t Crowd::hash() const {
  detail::Hash hash;
  hash.add(std::as_bytes(std::span(&now_, 1)));
  hash.add(wakes_->bytes(places()));
  hash.add(bytes_of(cruises_));
  hash.add(bytes_of(blocks_).subspan(kElsewhere));
  hash.add(bytes_of(generations_));
  return hash.value();
}

// A member's bytes are its wake, its generation, its cruise, and its block.
std::size_t Crowd::member_size() const {
  return sizeof(std::int64_t) + sizeof generations_[0] + sizeof cruises_[0] + stride_;
}

bool Crowd::member_bytes(std::uint32_t place, std::span<std::byte> out) const {
  if (place >= places() || out.size() < member_size()) return false;
  const std::int64_t wake = (*wakes_)[place];
  std::memcpy(out.data(), &wake, 8);
  std::memcpy(out.data() + 8, &generations_[place], 4);
  std::memcpy(out.data() + 12, &cruises_[place], 2);
  std::memcpy(out.data() + 14, block(place) + kElsewhere, stride_);
  return true;
}

bool Crowd::put_member_bytes(std::uint32_t place, std::span<const std::byte> bytes) {
  if (place >= places() || bytes.size() != member_size()) return false;
  const bool before = generations_[place] % 2 == 1;
  std::int64_t wake = 0;
  std::memcpy(&wake, bytes.data(), 8);
  wakes_->set(place, wake);
  std::memcpy(&generations_[place], bytes.data() + 8, 4);
  std::memcpy(&cruises_[place], bytes.data() + 12, 2);
  std::memcpy(block(place) + kElsewhere, bytes.data() + 14, stride_);
  const bool after = generations_[place] % 2 == 1;
  if (before && !after) free_.push_back(place), --living_;
  if (!before && after) std::erase(free_, place), ++living_;
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
    const std::int64_t wake = (*wakes_)[i];
    from = snapshot.data() + sizeof counts;
    const bool same = i < counts.places && !differs(i, &wake, 8) && !differs(i, &cruises_[i], 2) &&
                      !differs(i, block(i) + kElsewhere, stride_) && !differs(i, &generations_[i], 4);
    if (!same) out.push_back(i);
  }
  return true;
}

}  // namespace mobrin
