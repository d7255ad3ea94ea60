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
  Lately& lately = lately_[leaf % lately_.size()];
  if (lately.credit > 0) {
    if (fit<1>(lately.learnt, block, 0)) {
      lately.credit = std::min(lately.credit + 1, kMostCredit);
      return repeat<1>(lately.learnt, block, 0, sink, after);
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
template <std::uint32_t kCount>
MOBRIN_APART bool Repeats::within_bounds(const Numbers& numbers, const std::byte* blocks, std::size_t stride) {
  for (const Bounds& each : numbers.view()) {
    const auto all_within = [&]<class Number>(Number) {
      bool within = true;
      for (std::size_t i = 0; i < kCount; ++i) {
        const auto value = static_cast<double>(field_at<Number>(blocks + i * stride, each.at));
        within &= (value >= each.low) & (value <= each.high);
      }
      return within;
    };
    if (!(each.from == BlockValue::number ? all_within(float{}) : all_within(std::int32_t{}))) return false;
  }
  return true;
}

template <std::uint32_t kCount>
MOBRIN_INLINE bool Repeats::fit(const Learnt& learnt, const std::byte* blocks, std::size_t stride) const {
  std::uint64_t bits = 0;
  learnt.for_changes([&]<class Word>(const Change<Word>& each) {
    Word differ{};
    for (std::size_t i = 0; i < kCount; ++i)
      differ = differ | (load_word<Word>(blocks + i * stride + each.at) ^ each.before);
    bits |= bits_of(differ & each.read);
  });
  if (bits != 0) return false;
  if (learnt.numbers.count > 0 && !within_bounds<kCount>(learnt.numbers, blocks, stride)) return false;
  // Where they stand in time: mostly all of a row at the same instant.
  const auto stands_at = [&](std::size_t i) { return header_of(blocks + i * stride).anchor; };
  const auto here = [&](std::size_t i) {
    return field_at<std::int64_t>(blocks + i * stride, quick_.slots_[0].playhead);
  };
  std::uint32_t looked_at = 1;
  if constexpr (kCount > 1) {
    std::int64_t apart = 0;
    for (std::size_t i = 1; i < kCount; ++i) apart |= stands_at(i) ^ stands_at(0);
    if (learnt.lap->moves)
      for (std::size_t i = 1; i < kCount; ++i) apart |= here(i) ^ here(0);
    if (apart != 0) looked_at = kCount;
  }
  for (std::size_t i = 0; i < looked_at; ++i) {
    const std::int64_t played = at_ - stands_at(i);
    if (played <= 0 || played > kLongestQuick) return false;
    if (learnt.lap->moves &&
        (Quick::stands(*learnt.lap, here(i)) != learnt.stood || Quick::turns(*learnt.lap, here(i), played)))
      return false;
  }
  return true;
}

template <std::uint32_t kCount>
MOBRIN_INLINE bool Repeats::repeat(const Learnt& learnt, std::byte* blocks, std::size_t stride, Sink& sink,
                                   Quick::After& after) const {
  if (const std::span cues = MachineData::view(quick_.plan_.cues, learnt.cues); !cues.empty()) {
    if constexpr (kCount > 1) {
      if (sink.listens(Told::cue)) {
        if (!sink.crowd->has_room(kCount * cues.size())) return false;
        sink.crowd->append_for_each(cues, Ticks(at_), sink.place, kCount);
      }
    } else if (!Quick::tell_all(cues, at_, 0, sink)) {
      return false;
    }
  }
  // A copy of each: what is stored in blocks could be one of them, for all a compiler knows.
  learnt.for_changes([&]<class Word>(const Change<Word> each) {
    if (!each.stores) return;
    for (std::size_t i = 0; i < kCount; ++i) {
      std::byte* const to = blocks + i * stride + each.at;
      store_word<Word>(to, (load_word<Word>(to) & each.keep) | each.value);
    }
  });
  after = learnt.after;
  return true;
}

bool Repeats::answer_row(std::byte* blocks, std::size_t stride, std::int64_t end, Sink& sink, Quick::After& after) {
  if (!possible_ || row_credit_ == 0) return false;
  Lately& lately = lately_[field_at<std::uint16_t>(blocks, leaf_) % lately_.size()];
  if (lately.credit == 0 || lately.learnt.after.wake <= end) return false;
  if (!fit<kRow>(lately.learnt, blocks, stride)) {
    --row_credit_;
    return false;
  }
  row_credit_ = std::min(row_credit_ + 1, kMostCredit);
  lately.credit = std::min(lately.credit + kRow, kMostCredit);
  return repeat<kRow>(lately.learnt, blocks, stride, sink, after);
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
  out.cues = script.cues;
  out.after = after;
  out.lap = &quick_.laps_[leaf];
  out.stood = out.lap->moves && Quick::stands(*out.lap, field_at<std::int64_t>(before, slot.playhead));
}

}  // namespace mobrin::detail
