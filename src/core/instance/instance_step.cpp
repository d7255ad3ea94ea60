// Instance: its steps.
#include <algorithm>
#include <cstring>

#include "engine/engine.hpp"
#include "engine/quick.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::header_of;
using detail::MachineData;
using detail::TicketSlot;

namespace {

// Where a step of `dt` ends; a negative one ends where it begins.
std::int64_t end_of(const BlockHeader& header, Ticks dt) {
  return header.now + std::clamp<std::int64_t>(dt.count, 0, detail::kLastInstant - header.now);
}

}  // namespace

// One instant in place. Where that is more than the quick way can do the engine goes on with it; if that may tell more
// than there is room for, the block before it is kept.
void Instance::run_instant(std::int64_t at, detail::Sink& sink, bool passes, bool keeps) {
  std::byte* block = bytes_.get();
  detail::Quick::After after;
  const bool quickly = trace_.call == nullptr && forced_ == kNoIndex && !tickets_open();
  const detail::Quick& quick = machine_.data().prepared->quick(!passes);
  if (quickly && quick.answer(block, at, sink, after)) {
    header_of(block).wake = after.wake;
    return;
  }
  if (keeps) std::memcpy(block + block_size_, block, block_size_);
  if (quickly && quick.instant(block, at, sink, block + 2 * block_size_, after))
    header_of(block).wake = after.wake;
  else
    run_engine(at, sink, passes);
}

void Instance::run_engine(std::int64_t at, detail::Sink& sink, bool passes) {
  detail::Engine engine(machine_.data(), bytes_.get(), sink, trace_);
  if (passes) engine.pass_over_rounds();
  engine.force(forced_);
  engine.watch(tickets());
  engine.instant(at);
}

// Whether somebody waits to hear what becomes of something.
bool Instance::tickets_open() {
  if (!may_be_asked_) return false;
  for (const TicketSlot& slot : tickets())
    if (const TicketStatus status = status_of(slot); status == TicketStatus::waiting || status == TicketStatus::running)
      return true;
  return may_be_asked_ = false;
}

Advanced Instance::advance(Ticks dt, CueBuffer& cues) {
  const MachineData& m = machine_.data();
  std::byte* block = bytes_.get();
  BlockHeader& header = header_of(block);
  const bool passes = begin_step(cues.listening());
  const std::int64_t begin = header.now;
  const std::int64_t end = end_of(header, dt);
  while (header.wake <= end) {
    const std::int64_t at = std::max(header.wake, header.now);
    const std::uint32_t before = cues.size();
    const bool might_overflow = cues.capacity() - before < m.most_records;
    detail::Sink sink{&cues};
    run_instant(at, sink, passes, might_overflow);
    if (sink.full) {
      std::memcpy(block, block + block_size_, block_size_);
      cues.shrink(before);
      header.now = std::max(header.now, at - 1);
      return {Ticks(header.now - begin), Ticks(end - header.now), before == 0 ? sink.told : 0, true};
    }
    forced_ = kNoIndex;
    header.now = at;
  }
  header.now = end;
  return {Ticks(end - begin), Ticks(0)};
}

Instance::PartOfStep Instance::advance_part(Ticks dt, CueBuffer& cues) {
  std::byte* block = bytes_.get();
  BlockHeader& header = header_of(block);
  const bool passes = begin_step(cues.listening());
  const std::int64_t begin = header.now;
  const std::int64_t end = end_of(header, dt);
  while (header.wake <= end) {
    const std::int64_t at = std::max(header.wake, header.now);
    std::memcpy(block + block_size_, block, block_size_);  // for tell_again()
    detail::Sink sink{&cues};
    told_forced_ = forced_;
    run_instant(at, sink, passes, false);
    forced_ = kNoIndex;
    header.now = at;
    if (sink.told > 0) return {Ticks(at - begin), Ticks(end - at), sink.told};
  }
  header.now = end;
  return {Ticks(end - begin), Ticks(0), 0};
}

void Instance::tell_again(std::uint32_t skip, CueBuffer& cues) {
  std::byte* scratch = bytes_.get() + 2 * block_size_;
  std::memcpy(scratch, bytes_.get() + block_size_, block_size_);
  detail::Sink sink{&cues, skip};
  BlockHeader& header = header_of(scratch);
  detail::Engine engine(machine_.data(), scratch, sink);
  engine.force(told_forced_);
  engine.instant(std::max(header.wake, header.now));
}

// Whether rounds are passed over in it.
bool Instance::begin_step(Listening listening) {
  const bool passes = passes_over_rounds(listening);
  if (forced_ != kNoIndex) header_of(bytes_.get()).wake = detail::kLongAgo;  // calls since may have reckoned it anew
  return passes;
}

bool Instance::passes_over_rounds(Listening listening) {
  const bool passes = (listening & listen_to(Told::loop)) == 0 && trace_.call == nullptr;
  if (passes == passed_rounds_) return passes;
  if (!passes) {
    std::byte* block = bytes_.get();
    detail::reanchor(machine_.data(), block, header_of(block).now);
    detail::update_wake(machine_.data(), block);
  }
  return passed_rounds_ = passes;
}

}  // namespace mobrin
