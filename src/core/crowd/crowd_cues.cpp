// CrowdCues: a list that grows up to a limit, and says so where it cannot.
#include <algorithm>
#include <cstring>
#include <type_traits>
#include <utility>

#include "mobrin/core/crowd.hpp"

namespace mobrin {

static_assert(std::is_trivially_copyable_v<CrowdCue>);

CrowdCues::CrowdCues(CrowdCues&& other) noexcept
    : memory_(other.memory_),
      limit_(other.limit_),
      all_(std::exchange(other.all_, nullptr)),
      size_(std::exchange(other.size_, 0)),
      room_(std::exchange(other.room_, 0)),
      scratch_(std::exchange(other.scratch_, nullptr)),
      scratch_size_(std::exchange(other.scratch_size_, 0)) {}

CrowdCues& CrowdCues::operator=(CrowdCues&& other) noexcept {
  std::swap(memory_, other.memory_);
  std::swap(limit_, other.limit_);
  std::swap(all_, other.all_);
  std::swap(size_, other.size_);
  std::swap(room_, other.room_);
  std::swap(scratch_, other.scratch_);
  std::swap(scratch_size_, other.scratch_size_);
  return *this;
}

CrowdCues::~CrowdCues() {
  memory_.deallocate(all_, room_ * sizeof(CrowdCue), alignof(CrowdCue));
  memory_.deallocate(scratch_, scratch_size_, alignof(std::max_align_t));
}

bool CrowdCues::take_room(std::size_t count) {
  if (count > static_cast<std::size_t>(-1) / sizeof(CrowdCue)) return false;
  auto* const all = static_cast<CrowdCue*>(memory_.allocate(count * sizeof(CrowdCue), alignof(CrowdCue)));
  if (all == nullptr) return false;
  if (size_ > 0) std::memcpy(static_cast<void*>(all), all_, size_ * sizeof(CrowdCue));
  memory_.deallocate(all_, room_ * sizeof(CrowdCue), alignof(CrowdCue));
  all_ = all;
  room_ = count;
  return true;
}

bool CrowdCues::reserve(std::size_t count) {
  count = std::min(count, limit_);
  return count <= room_ || take_room(count);
}

bool CrowdCues::grow(std::size_t more) {
  if (more > limit_ - size_) return false;
  const std::size_t needed = size_ + more;
  const std::size_t wished = std::min(limit_, std::max({needed, 2 * room_, std::size_t{64}}));
  return take_room(wished) || (wished > needed && take_room(needed));
}

void CrowdCues::append_for_each(std::span<const CrowdCue> cues, Ticks at, std::uint32_t place, std::uint32_t members) {
  // Only the place differs: a record is stored as often as it is wanted from where it was loaded once.
  for (std::size_t k = 0; k < cues.size(); ++k) {
    CrowdCue told = cues[k];
    told.cue.at = at;
    CrowdCue* to = all_ + size_ + k;
    for (std::uint32_t i = 0; i < members; ++i, to += cues.size()) {
      std::memcpy(static_cast<void*>(to), &told, sizeof told);
      to->place = place + i;
    }
  }
  size_ += cues.size() * members;
}

std::byte* CrowdCues::scratch(std::size_t bytes) {
  if (bytes > scratch_size_) {
    memory_.deallocate(scratch_, scratch_size_, alignof(std::max_align_t));
    scratch_size_ = 0;
    scratch_ = static_cast<std::byte*>(memory_.allocate(bytes, alignof(std::max_align_t)));
    if (scratch_ != nullptr) scratch_size_ = bytes;
  }
  return scratch_;
}

}  // namespace mobrin
