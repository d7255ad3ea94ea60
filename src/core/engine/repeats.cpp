#include "engine/repeats.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <span>
#include <type_traits>

#include "engine/quick_open.hpp"

namespace mobrin::detail {

namespace {

constexpr std::uint32_t kMostCredit = 64, kFirstCredit = 8;
constexpr std::size_t kClock = kElsewhere / sizeof(std::uint64_t);  // words that lie elsewhere

// Sets bytes of a block, word by word.
template <class T>
void put(std::span<std::uint64_t> words, std::size_t at, const T& value) {
  std::memcpy(reinterpret_cast<std::byte*>(words.data()) + (at - kElsewhere), &value, sizeof value);
}
void put_ones(std::span<std::uint64_t> words, std::size_t at, std::size_t size) {
  std::memset(reinterpret_cast<std::byte*>(words.data()) + (at - kElsewhere), 0xff, size);
}

// What a guard reads of the block, but for the states that are active and what `in_bounds` takes.
template <class InBounds>
void add_guard(const MachineData& m, const Plan& plan, const PlanGo& go, std::span<std::uint64_t> read,
               const InBounds& in_bounds) {
  if (go.guard == PlanGo::Guard::program) {
    for (const Instruction& step : std::span(m.expressions.code).subspan(go.expression.begin, go.expression.count)) {
      if (step.op == Op::load_bool) put_ones(read, step.arg, sizeof(std::uint8_t));
      if (step.op == Op::load_int || step.op == Op::load_float) put_ones(read, step.arg, sizeof(std::int32_t));
    }
    return;
  }
  for (const PlanGuard& guard : MachineData::view(plan.guards, go.guards)) {
    if (guard.from == PlanGuard::From::byte)
      put_ones(read, guard.at, sizeof(std::uint8_t));
    else if (guard.from == PlanGuard::From::half)
      put_ones(read, guard.at, sizeof(std::uint16_t));
    else if (!in_bounds(guard))
      put_ones(read, guard.at, sizeof(std::int32_t));
  }
}

}  // namespace

bool Repeats::Numbers::add(const PlanGuard& guard, const std::byte* block) {
  constexpr double kInfinity = std::numeric_limits<double>::infinity();
  const double value = value_at(block, guard.from, guard.at);
  double low = -kInfinity, high = kInfinity;
  if (value >= guard.low && value <= guard.high)
    low = guard.low, high = guard.high;
  else if (value < guard.low)
    high = std::nextafter(guard.low, -kInfinity);
  else if (value > guard.high)
    low = std::nextafter(guard.high, kInfinity);
  else
    return false;
  for (Bounds& each : std::span(all).first(count)) {
    if (each.at != guard.at) continue;
    each.low = std::max(each.low, low);
    each.high = std::min(each.high, high);
    return true;
  }
  if (count == all.size()) return false;
  all[count++] = {guard.from, guard.at, low, high};
  return true;
}

Repeats::Repeats(const MachineData& machine, const Quick& quick, std::int64_t at)
    : m_(machine),
      quick_(quick),
      at_(at),
      words_((machine.block_size - kElsewhere) / sizeof(std::uint64_t)),
      leaf_(machine.regions[0].leaf),
      possible_(quick.single_) {}

bool Repeats::answer_one(std::byte* block, std::int64_t at, Sink& sink, Quick::After& after) {
  if (words_ > kMostWords || at != at_) return quick_.answer(block, at, sink, after);
  const auto leaf = field_at<std::uint16_t>(block, leaf_);
  Lately& lately = lately_[leaf % kLeaves];
  if (lately.credit > 0) {
    if (fit(lately.learnt, One{block})) {
      lately.credit = std::min(lately.credit + 1, kMostCredit);
      if (!lately.learnt.cues.empty() && !Quick::tell_all(lately.learnt.cues, at_, 0, sink)) return false;
      repeat(lately.learnt, One{block});
      after = lately.learnt.after;
      return true;
    }
    // It has to be seen more often before the next is learnt, or learning would cost more than it saves.
    if (--lately.credit == 0) lately.times = 0, lately.wanted = std::min(4 * lately.wanted, 1u << 20);
  }
  std::array<std::byte, kElsewhere + kMostWords * sizeof(std::uint64_t)> before;
  const bool learns = lately.times + 1 == lately.wanted;
  if (learns) {
    // What stands first of a member's block is another's.
    std::fill_n(before.begin(), kElsewhere, std::byte{});
    copy_words(before.data() + kElsewhere, block + kElsewhere, words_ * sizeof(std::uint64_t));
  }
  const bool later = header_of(block).anchor != at;
  const PlanGo* taken = nullptr;
  if (!quick_.answer(block, at, sink, after, taken)) return false;
  lately.times = taken == lately.go ? std::min(lately.times + 1, lately.wanted) : 1;
  lately.go = taken;
  if (learns && later && lately.times == lately.wanted) {
    learn(*taken, after, before.data(), lately.learnt);
    lately.credit = kFirstCredit;
  }
  return true;
}

// Apart, for registers: most that is learnt has none.
template <class Blocks>
MOBRIN_APART bool Repeats::within_bounds(const Numbers& numbers, const Blocks& blocks) {
  for (const Bounds& each : numbers.view()) {
    const auto all_within = [&]<class Number>(Number) {
      bool within = true;
      blocks.for_each([&](const std::byte* block) {
        const auto value = static_cast<double>(field_at<Number>(block, each.at));
        within &= (value >= each.low) & (value <= each.high);
      });
      return within;
    };
    if (!(each.from == BlockValue::number ? all_within(float{}) : all_within(std::int32_t{}))) return false;
  }
  return true;
}

template <class Blocks>
MOBRIN_INLINE bool Repeats::fit(const Learnt& learnt, const Blocks& blocks) const {
  std::uint64_t bits = 0;
  learnt.for_changes([&]<class Word>(const Change<Word>& each) {
    Word differ{};
    blocks.for_each(
        [&](const std::byte* block) { differ = differ | (load_word<Word>(block + each.at) ^ each.before); });
    bits |= bits_of(differ & each.read);
  });
  if (bits != 0) return false;
  if (learnt.numbers.count > 0 && !within_bounds(learnt.numbers, blocks)) return false;
  // Where they stand in time: mostly all at the same instant.
  const std::uint32_t playhead = quick_.slots_[0].playhead;  // of what moves
  const auto fits_in_time = [&](const std::byte* block) {
    const std::int64_t played = at_ - header_of(block).anchor;
    if (played <= 0 || played > kLongestQuick) return false;
    if (!learnt.lap->moves) return true;
    const auto here = field_at<std::int64_t>(block, playhead);
    return Quick::stands(*learnt.lap, here) == learnt.stood && !Quick::turns(*learnt.lap, here, played);
  };
  if constexpr (!std::is_same_v<Blocks, One>) {
    const std::byte* const first = blocks.first();
    std::int64_t apart = 0;
    blocks.for_each([&](const std::byte* block) { apart |= header_of(block).anchor ^ header_of(first).anchor; });
    if (learnt.lap->moves)
      blocks.for_each([&](const std::byte* block) {
        apart |= field_at<std::int64_t>(block, playhead) ^ field_at<std::int64_t>(first, playhead);
      });
    if (apart != 0) {
      bool fits = true;
      blocks.for_each([&](const std::byte* block) { fits = fits && fits_in_time(block); });
      return fits;
    }
  }
  return fits_in_time(blocks.first());
}

template <class Blocks>
MOBRIN_INLINE void Repeats::repeat(const Learnt& learnt, const Blocks& blocks) const {
  // A copy of each: what is stored in blocks could be one of them, for all a compiler knows.
  learnt.for_changes([&]<class Word>(const Change<Word> each) {
    if (!each.stores) return;
    blocks.for_each([&](std::byte* block) {
      std::byte* const to = block + each.at;
      store_word<Word>(to, (load_word<Word>(to) & each.keep) | each.value);
    });
  });
}

bool Repeats::answer_row(std::byte* blocks, std::size_t stride, std::int64_t end, Sink& sink, Quick::After& after) {
  if (!possible_ || row_credit_ == 0) return false;
  Lately& lately = lately_[field_at<std::uint16_t>(blocks, leaf_) % kLeaves];
  if (lately.credit == 0 || lately.learnt.after.wake <= end) return false;
  const Row row{blocks, stride};
  if (!fit(lately.learnt, row)) {
    --row_credit_;
    return false;
  }
  const std::span<const CrowdCue> cues = lately.learnt.cues;
  if (!cues.empty() && sink.listens(Told::cue)) {
    if (!sink.crowd->has_room(kRow * cues.size())) return false;
    sink.crowd->append_for_each(cues, Ticks(at_), sink.place, kRow);
  }
  row_credit_ = std::min(row_credit_ + 1, kMostCredit);
  lately.credit = std::min(lately.credit + kRow, kMostCredit);
  repeat(lately.learnt, row);
  after = lately.learnt.after;
  return true;
}

bool Repeats::answer_each(std::byte* blocks, std::size_t stride, std::uint32_t due, std::int64_t end, Sink& sink,
                          std::int64_t* wakes, std::uint16_t* cruises) {
  if (!possible_ || each_credit_ == 0) return false;
  std::array<Some, kLeaves> alike;
  std::array<std::uint8_t, kRow> of;
  for_bits(due, [&](std::uint32_t i) {
    std::byte* const block = blocks + i * stride;
    of[i] = static_cast<std::uint8_t>(field_at<std::uint16_t>(block, leaf_) % kLeaves);
    Some& some = alike[of[i]];
    some.blocks[some.count++] = block;
  });
  std::size_t cues = 0;
  for (std::size_t k = 0; k < kLeaves; ++k) {
    if (alike[k].count == 0) continue;
    const Lately& lately = lately_[k];
    if (lately.credit == 0) return false;
    if (lately.learnt.after.wake <= end || !fit(lately.learnt, alike[k])) return --each_credit_, false;
    cues += alike[k].count * lately.learnt.cues.size();
  }
  if (cues > 0 && sink.listens(Told::cue)) {
    if (!sink.crowd->has_room(cues)) return false;
    for_bits(due, [&](std::uint32_t i) { sink.crowd->append(lately_[of[i]].learnt.cues, Ticks(at_), sink.place + i); });
  }
  each_credit_ = std::min(each_credit_ + 1, kMostCredit);
  for (std::size_t k = 0; k < kLeaves; ++k)
    if (alike[k].count > 0) repeat(lately_[k].learnt, alike[k]);
  for_bits(due, [&](std::uint32_t i) {
    const Quick::After& after = lately_[of[i]].learnt.after;
    wakes[i] = after.wake;
    cruises[i] = after.cruise;
  });
  return true;
}

void Repeats::learn(const PlanGo& go, const Quick::After& after, const std::byte* before, Learnt& out) const {
  const Plan& plan = quick_.plan_;
  const Script& script = plan.scripts[go.script];
  const auto leaf = field_at<std::uint16_t>(before, leaf_);
  const Quick::Slot& slot = quick_.slots_[0];
  std::array<std::uint64_t, kMostWords> read{}, keep, value{};
  out.numbers.count = 0;
  keep.fill(~std::uint64_t{0});

  // What was read: of the header all but where the block stands in time and the records told there,
  BlockHeader header{};
  header.frozen = ~std::uint32_t{0};
  header.set_rate((1 << 23) - 1);
  put(read, offsetof(BlockHeader, frozen), header.frozen);
  put(read, offsetof(BlockHeader, packed), header.packed);
  put_ones(read, offsetof(BlockHeader, flags), sizeof header.flags);
  put_ones(read, leaf_, sizeof leaf);
  if (slot.fade_length != kNoOffset) put_ones(read, slot.fade_length, sizeof(std::int64_t));
  // what transitions wait for and look at, in the state that is left and the one that is entered.
  for (const WordMask& pulses : plan.brief_pulses) read[pulses.at / sizeof(std::uint64_t) - kClock] |= pulses.mask;
  for (const std::uint16_t innermost : {leaf, go.leaf}) {
    for (const std::uint16_t s : MachineData::view(plan.paths, plan.states[innermost].path)) {
      for (const PlanGo& each : MachineData::view(plan.gos, plan.states[s].go)) {
        if (each.event == GoEvent::pulse)
          put_ones(read, each.pulse, each.buffered ? sizeof(std::int64_t) : sizeof(std::uint8_t));
        add_guard(m_, plan, each, read, [&](const PlanGuard& guard) { return out.numbers.add(guard, before); });
      }
    }
  }

  // What became of it: the script's stores, a pulse that is used up, and the header.
  for (const Patch& patch : MachineData::view(plan.patches, script.patches)) {
    const std::size_t word = patch.at / sizeof(std::uint64_t) - kClock;
    keep[word] = patch.keep;
    value[word] = patch.value;
  }
  const auto store = [&](std::size_t at, const auto& what) {
    put(keep, at, std::decay_t<decltype(what)>{});
    put(value, at, what);
  };
  if (go.event == GoEvent::pulse && go.buffered) store(go.pulse, kLongAgo);
  if (go.event == GoEvent::pulse && !go.buffered) store(go.pulse, std::uint8_t{0});
  header = header_of(before);
  header.set_ordinal(std::min(kMaxOrdinal, script.records));
  store(offsetof(BlockHeader, anchor), at_);
  store(offsetof(BlockHeader, packed), header.packed);
  store(offsetof(BlockHeader, lowest), header.lowest);
  store(offsetof(BlockHeader, flags), std::uint8_t{kStarted});
  out.count = 0;
  out.odd = false;
  for_words(words_ * sizeof(std::uint64_t), [&]<class Word>(std::size_t at, Word) {
    const auto of = [at](const void* words) { return load_word<Word>(static_cast<const std::byte*>(words) + at); };
    const Word none{}, all = ~none;
    const Change<Word> change = {kElsewhere + at, of(read.data()),  of(before + kElsewhere),
                                 of(keep.data()), of(value.data()), bits_of(of(keep.data()) ^ all) != 0};
    if (bits_of(change.read) == 0 && !change.stores) return;
    if constexpr (std::is_same_v<Word, WordPair>)
      out.pairs[out.count++] = change;
    else
      out.last = change, out.odd = true;
  });
  out.cues = MachineData::view(plan.cues, script.cues);
  out.after = after;
  out.lap = &quick_.laps_[leaf];
  out.stood = out.lap->moves && Quick::stands(*out.lap, field_at<std::int64_t>(before, slot.playhead));
}

}  // namespace mobrin::detail
