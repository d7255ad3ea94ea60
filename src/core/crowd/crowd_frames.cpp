#include "crowd/crowd_frames.hpp"

#include <algorithm>
#include <cstddef>
#include <cstring>
#include <utility>

#include "crowd/crowd_data.hpp"
#include "engine/engine.hpp"

namespace mobrin::detail {
namespace {

[[nodiscard]] bool same(const CrowdShown& a, const CrowdShown& b) {
  return a.clip == b.clip && a.frame == b.frame && a.mirrored == b.mirrored && a.weight == b.weight;
}

[[nodiscard]] CrowdShown shown_on(const Segment& segment) { return {segment.clip, false, segment.frame, 1}; }

// Until when a play surely shows the segment that it shows now; one that is played at any pace, in any direction.
std::int64_t surely_until(const BlockHeader& h, const ConstRun& run, const Segment& shown, std::int64_t here,
                          std::int64_t now) {
  const std::int64_t pace = effective_speed(run.speed(), h.rate());
  if (pace == 0 || run.ended() || (h.flags & kDone) != 0) return kNever;
  const std::int64_t border = pace < 0 ? shown.begin : segment_end(run.clip(), shown);
  const std::int64_t distance =
      std::max<std::int64_t>(0, pace < 0 ? here - (border << kSubBits) : (border << kSubBits) - here);
  return std::max(now, h.anchor + std::int64_t{h.frozen}) + std::max<std::int64_t>(1, distance / std::abs(pace));
}

}  // namespace

Showing look_at(const MachineData& m, const Quick& quick, const std::byte* block, std::uint16_t region,
                std::int64_t now) {
  Showing out;
  const std::uint16_t leaf = leaf_of(m, block, region);
  if (leaf == kNoIndex) return out;
  if (quick.look(block, region, now, out)) return out;
  const ConstRun run(m, block, region);
  const PlayData& play = run.play();
  if (play.type == PlayType::pose) {
    out.shown.clip = run.played().clip;
    out.shown.frame = play.pose_frame;
  } else if (play.moves()) {
    const ClipData& clip = run.clip();
    const std::int64_t here = playhead_at(block, run, now);
    const Segment& segment = clip.segments[segment_at(clip, here, run.backward())];
    out.shown = shown_on(segment);
    if (play.blend != kNoIndex) out.shown.mirrored = m.blends[play.blend].points[run.choice()].mirrored;
    out.until = surely_until(header_of(block), run, segment, here, now);
  }
  if (m.regions[region].fades()) {
    out.shown.weight = static_cast<float>(fade_progress(m, block, region, now));
    if (out.shown.weight < 1) out.until = now + 1;
  }
  return out;
}

CrowdFrames::CrowdFrames(const CrowdData& crowd, std::uint16_t region, std::pmr::memory_resource* memory)
    : region_(region),
      reels_(crowd.machine.data(), memory),
      loose_(memory),
      slots_(memory),
      touched_(memory),
      to_look_at_(memory),
      shown_(memory),
      changed_(memory) {}

void CrowdFrames::reserve(std::uint32_t count) {
  reels_.reserve(count);
  slots_.reserve(count);
  touched_.reserve(count);
  shown_.reserve(count);
  if (lists_) changed_.reserve(count);
}

std::span<const CrowdShown> CrowdFrames::all(const CrowdData& crowd) {
  const std::lock_guard lock(busy_);
  update(crowd);
  catch_up();
  with_all_ = kUpdatesWithAll;
  return shown_;
}

std::span<const CrowdChange> CrowdFrames::changed(const CrowdData& crowd) {
  const std::lock_guard lock(busy_);
  if (!std::exchange(lists_, true)) {
    update(crowd);
    catch_up();
    changed_.resize(shown_.capacity());
    changed_count_ = 0;
    for (std::uint32_t place = 0; place < shown_.size(); ++place)
      if (crowd.generations[place] % 2 == 1) changed_[changed_count_++] = {place, shown_[place]};
  } else {
    update(crowd);
    if (given_) changed_count_ = 0;  // nothing has come since
    if (updates_ > 1) catch_up(), once_each();
  }
  updates_ = 0;
  given_ = true;
  return std::span(changed_).first(changed_count_);
}

// Several updates have noted who changes: each once, as it is now.
void CrowdFrames::once_each() {
  const auto begin = changed_.begin();
  auto end = begin + static_cast<std::ptrdiff_t>(changed_count_);
  std::sort(begin, end, [](const CrowdChange& a, const CrowdChange& b) { return a.place < b.place; });
  end = std::unique(begin, end, [](const CrowdChange& a, const CrowdChange& b) { return a.place == b.place; });
  end = std::remove_if(begin, end, [&](const CrowdChange& each) { return each.place >= shown_.size(); });
  for (auto each = begin; each != end; ++each) each->shown = shown_[each->place];
  changed_count_ = static_cast<std::size_t>(end - begin);
}

// What those in reels show at the last update.
void CrowdFrames::catch_up() {
  if (!std::exchange(behind_, false)) return;
  reels_.look_at_all(updated_, [&](std::uint32_t place, const Segment& segment) { shown_[place] = shown_on(segment); });
}

void CrowdFrames::update(const CrowdData& crowd) {
  const std::uint32_t count = crowd.places();
  const bool anew = touched_.size() > count || crowd.now < updated_ || all_touched_;
  if (anew || reels_.is_long(crowd.now - updated_)) catch_up();
  if (with_all_ > 0) --with_all_;
  const std::int64_t from = std::exchange(updated_, crowd.now);
  ++updates_;
  if (anew) {
    all_touched_ = false;
    reels_.clear();
    loose_.clear();
    std::fill(slots_.begin(), slots_.end(), kNotLoose);
    std::fill(touched_.begin(), touched_.end(), std::uint8_t{1});
  }
  touched_.resize(count, 1);
  slots_.resize(count, kNotLoose);
  shown_.resize(count);
  reels_.resize(count);
  find_touched();
  for (const std::uint32_t place : to_look_at_) {
    const Segment* const shown = behind_ ? reels_.shown_by(place, from) : nullptr;
    if (shown != nullptr) shown_[place] = shown_on(*shown);
    let_go(place);
  }
  for (std::size_t i = 0; i < loose_.size(); ++i)
    if (loose_[i].until <= crowd.now) to_look_at_.push_back(loose_[i].place);
  reels_.pass(
      from, crowd.now,
      [&](std::span<const FrameReels::Entry> entries, const Segment& segment) { show(entries, segment); },
      [&](std::uint32_t place, const Segment& segment) { show(place, shown_on(segment)); });
  for (const std::uint32_t place : to_look_at_) look(crowd, place);
}

void CrowdFrames::find_touched() {
  to_look_at_.clear();
  const std::size_t count = touched_.size();
  for (std::size_t first = 0; first < count; first += sizeof(std::uint64_t)) {
    std::uint64_t together = 1;
    if (first + sizeof together <= count) std::memcpy(&together, touched_.data() + first, sizeof together);
    if (together == 0) continue;
    for (std::size_t place = first; place < std::min(count, first + sizeof together); ++place)
      if (std::exchange(touched_[place], std::uint8_t{0}) != 0)
        to_look_at_.push_back(static_cast<std::uint32_t>(place));
  }
}

// Neither in a reel nor loose any more.
void CrowdFrames::let_go(std::uint32_t place) {
  reels_.remove(place);
  const std::uint32_t slot = std::exchange(slots_[place], kNotLoose);
  if (slot == kNotLoose) return;
  if (slot + 1 < loose_.size()) slots_[loose_.back().place] = slot;
  loose_[slot] = loose_.back();
  loose_.pop_back();
}

// By its block.
void CrowdFrames::look(const CrowdData& crowd, std::uint32_t place) {
  Showing look;
  if (crowd.generations[place] % 2 == 1)
    look = look_at(crowd.machine.data(), *crowd.quick, crowd.block(place), region_, crowd.now);
  let_go(place);
  if (look.on != nullptr && reels_.takes(*look.of)) {
    reels_.add(place, *look.of, look.until, segment_end(*look.of, *look.on));
  } else if (look.until != kNever) {
    slots_[place] = static_cast<std::uint32_t>(loose_.size());
    loose_.push_back({look.until, place});
  }
  show(place, look.shown);
}

void CrowdFrames::show(std::uint32_t place, const CrowdShown& shown) {
  CrowdShown& there = shown_[place];
  if (same(there, shown)) return;
  there = shown;
  if (!lists_) return;
  *room_for(1) = {place, shown};
  ++changed_count_;
}

inline void CrowdFrames::show(std::span<const FrameReels::Entry> entries, const Segment& segment) {
  const CrowdShown shown = shown_on(segment);
  // As words: the fewer stores, the more of them wait for memory at once.
  std::uint64_t first = 0;
  std::uint32_t rest = 0;
  static_assert(sizeof shown == sizeof first + sizeof rest);
  std::memcpy(&first, &shown, sizeof first);
  std::memcpy(&rest, reinterpret_cast<const std::byte*>(&shown) + sizeof first, sizeof rest);
  const auto put = [&](CrowdShown& to) {
    auto* const bytes = reinterpret_cast<std::byte*>(&to);
    std::memcpy(bytes, &first, sizeof first);
    std::memcpy(bytes + sizeof first, &rest, sizeof rest);
  };
  CrowdShown* const all = shown_.data();
  if (!lists_) {
    for (const FrameReels::Entry& entry : entries) put(all[entry.member]);
    return;
  }
  CrowdChange* change = room_for(entries.size());
  for (const FrameReels::Entry& entry : entries) {
    change->place = entry.member;
    put(change++->shown);
  }
  changed_count_ += entries.size();
  if (with_all_ == 0)
    behind_ = true;
  else
    for (const FrameReels::Entry& entry : entries) put(all[entry.member]);
}

// For so many more that change.
CrowdChange* CrowdFrames::room_for(std::size_t count) {
  if (std::exchange(given_, false)) changed_count_ = 0;
  if (changed_.size() < changed_count_ + count) changed_.resize(std::max(2 * changed_.size(), changed_count_ + count));
  return changed_.data() + changed_count_;
}

}  // namespace mobrin::detail
