// Instance: the public face of one block and the engine that steps it.
#include "mobrin/core/instance.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "engine/engine.hpp"
#include "engine/quick.hpp"
#include "engine/write.hpp"
#include "instance/stale.hpp"
#include "machine/hash.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {

using detail::BlockHeader;
using detail::header_of;
using detail::MachineData;
using detail::rests;
using detail::TicketSlot;

Instance::Instance(Machine machine, InstanceOptions options)
    : machine_(std::move(machine)),
      block_size_(machine_.block_size() + options.tickets * sizeof(TicketSlot)),
      bytes_(3 * block_size_),
      ticket_count_(options.tickets) {
  detail::make_block(machine_.data(), bytes_.get());
  detail::check_floats();
  (void)begin_at(options.begin);
  for (TicketSlot& slot : tickets()) slot.status = TicketStatus::lost;
}

bool Instance::begin_at(Ticks begin) {
  BlockHeader& header = header_of(bytes_.get());
  const std::int64_t to = std::clamp<std::int64_t>(begin.count, 0, detail::kLastInstant), by = to - header.now;
  if ((header.flags & detail::kStarted) != 0 || header.now != header.anchor) return false;
  for (const detail::InputData& input : machine_.data().inputs)
    if (input.buffer > 0 && detail::pulse_alive(bytes_.get(), input, header.now))
      detail::field_at<std::int64_t>(bytes_.get(), input.offset) += by;
  header.now = header.anchor = to;
  return true;
}

std::span<TicketSlot> Instance::tickets() {
  return {reinterpret_cast<TicketSlot*>(bytes_.get() + machine_.block_size()), ticket_count_};
}

Ticket Instance::give_ticket(const TicketSlot& asked) {
  const auto ticket_of = [&](const TicketSlot& slot) {
    return Ticket{machine_.data().serial, slot.serial, static_cast<std::uint16_t>(&slot - tickets().data())};
  };
  TicketSlot *free = nullptr, *follows = nullptr;
  std::uint32_t serial = 0;
  for (TicketSlot& slot : tickets()) {
    serial = std::max(serial, slot.serial);
    const TicketStatus status = status_of(slot);
    const bool open = status == TicketStatus::waiting || status == TicketStatus::running;
    // Who asks for the same press, or follows the same state, holds it too.
    const bool same = slot.pulse == asked.pulse &&
                      (asked.pulse == kNoIndex ? slot.state == asked.state && status == asked.status
                                               : status == TicketStatus::waiting && slot.until == asked.until);
    if (open && same && slot.holders < 255) {
      ++slot.holders;
      return ticket_of(slot);
    }
    if (!open && (free == nullptr || slot.serial < free->serial)) free = &slot;
    if (open && slot.pulse == kNoIndex && (follows == nullptr || slot.serial < follows->serial)) follows = &slot;
  }
  // Who only follows gives way to who asks: a loop may be followed for ever.
  if (free == nullptr && asked.pulse != kNoIndex) free = follows;
  if (free == nullptr) return {};
  *free = asked;
  may_be_asked_ = true;
  free->serial = serial + 1;
  free->holders = 1;
  return ticket_of(*free);
}

bool Instance::give_back(Ticket ticket) {
  if (status(ticket) == TicketStatus::lost) return false;
  TicketSlot& slot = tickets()[ticket.slot];
  if (--slot.holders == 0) slot.status = TicketStatus::lost;
  return true;
}

bool Instance::never_ends(Ticket ticket) const {
  if (status(ticket) != TicketStatus::running) return false;
  const auto* slots = reinterpret_cast<const TicketSlot*>(bytes_.get() + machine_.block_size());
  return detail::never_ends(machine_.data(), slots[ticket.slot].state);
}

TicketStatus Instance::status_of(const TicketSlot& slot) const {
  const bool over = slot.status == TicketStatus::waiting && slot.until < header_of(bytes_.get()).now;
  return over ? TicketStatus::failed : slot.status;
}

Ticket Instance::ask(Pulse wanted) {
  if (!known(wanted.machine)) return {};
  const bool rests_now = rests(header_of(bytes_.get()));
  pulse(wanted);
  TicketSlot slot{};
  slot.pulse = wanted.index;
  slot.until = header_of(bytes_.get()).now + machine_.data().inputs[wanted.index].buffer;
  slot.status = rests_now ? TicketStatus::failed : TicketStatus::waiting;
  return give_ticket(slot);
}

Ticket Instance::follow(State state) {
  if (!known(state.machine) || state.index == 0) return {};
  TicketSlot slot{};
  slot.pulse = kNoIndex;
  slot.state = state.index;
  slot.until = detail::kNever;
  slot.status = TicketStatus::waiting;
  const bool rests_now = rests(header_of(bytes_.get()));
  if (in(state)) {
    const std::uint16_t region = machine_.data().states[state.index].region;
    const bool plays = active(region) == state.index && machine_.data().states[state.index].play.moves();
    const bool over = plays && detail::ConstRun(machine_.data(), bytes_.get(), region).ended();
    slot.status = over ? TicketStatus::succeeded : rests_now ? TicketStatus::interrupted : TicketStatus::running;
  } else if (rests_now) {
    slot.status = TicketStatus::failed;
  }
  return give_ticket(slot);
}

TicketStatus Instance::status(Ticket ticket) const {
  if (!known(ticket.machine) || ticket.slot >= ticket_count_ || ticket.serial == 0) return TicketStatus::lost;
  const auto* slots = reinterpret_cast<const TicketSlot*>(bytes_.get() + machine_.block_size());
  const TicketSlot& slot = slots[ticket.slot];
  return slot.serial == ticket.serial ? status_of(slot) : TicketStatus::lost;
}

std::size_t Instance::open_tickets(std::span<TicketInfo> out) const {
  const auto* slots = reinterpret_cast<const TicketSlot*>(bytes_.get() + machine_.block_size());
  std::size_t count = 0;
  for (std::uint16_t i = 0; i < ticket_count_ && count < out.size(); ++i) {
    const TicketSlot& slot = slots[i];
    const TicketStatus status = status_of(slot);
    if (status == TicketStatus::lost) continue;
    const bool led = slot.pulse == kNoIndex || (status != TicketStatus::waiting && status != TicketStatus::failed);
    out[count++] = {
        {machine_.data().serial, slot.serial, i}, status, slot.pulse, led ? slot.state : std::uint16_t{kNoIndex}};
  }
  return count;
}

bool Instance::known(std::uint32_t serial) const {
  if (serial == machine_.data().serial) return true;
  if (!told_stale_) detail::tell_stale("a handle", machine_);
  told_stale_ = true;
  return false;
}

namespace {

// Of a block: something was written that has not taken effect yet.
constexpr std::uint8_t kWaiting = detail::kDirty | detail::kReset | detail::kRetake;

}  // namespace

// Whether anything was written that has not taken effect yet; asked for a hook only.
bool Instance::writes_wait() const {
  const std::uint8_t flags = header_of(bytes_.get()).flags;
  return write_hook_.call != nullptr &&
         ((flags & kWaiting) != 0 || (flags & detail::kStarted) == 0 || forced_ != kNoIndex);
}

// A done instance rests: what is written is kept but wakes nobody.
void Instance::wake() {
  BlockHeader& header = header_of(bytes_.get());
  if (rests(header)) return;
  detail::stir_block(machine_.data(), bytes_.get(), header.now);
  header.wake = detail::kLongAgo;
}

// Whether anything may come of it that an input changed. Where all that was written before has taken effect, and nobody
// looks on, that is decided here: mostly no guard holds that did not, and the next step has nothing to do with it.
bool Instance::comes_to_something(std::uint16_t input) {
  const BlockHeader& header = header_of(bytes_.get());
  if (header.flags != detail::kStarted || trace_.call != nullptr || write_hook_.call != nullptr ||
      forced_ != kNoIndex || tickets_open())
    return true;
  const MachineData& m = machine_.data();
  return m.prepared->of_all.stirs(bytes_.get(), m.inputs[input].offset, header.now);
}

template <class T>
Written Instance::write(Input<T> input, T value) {
  if (!known(input.machine)) return Written::refused;
  const bool waits = writes_wait();
  const detail::Stored stored = detail::store(machine_.data(), bytes_.get(), input.index, value);
  const bool clamped = stored.written == Written::clamped;
  if (stored.changes && comes_to_something(input.index)) wake();
  if (stored.changes || clamped)
    tell_write([&] { return InstanceWrite{InstanceWrite::Kind::input, input.index, 1, {}, kNoIndex, clamped, waits}; });
  return stored.written;
}

Written Instance::set(Input<bool> input, bool value) { return write(input, value); }
Written Instance::set(Input<std::int32_t> input, std::int32_t value) { return write(input, value); }
Written Instance::set(Input<float> input, float value) { return write(input, value); }
Written Instance::set(Input<Choice> input, Choice value) { return write(input, value); }

Written Instance::pulse(Pulse pulse) {
  if (!known(pulse.machine)) return Written::refused;
  const BlockHeader& header = header_of(bytes_.get());
  if (rests(header)) return Written::same;
  const bool waits = writes_wait();
  wake();
  detail::store_pulse(bytes_.get(), machine_.data().inputs[pulse.index], header.now);
  tell_write([&] { return InstanceWrite{InstanceWrite::Kind::pulse, pulse.index, 1, {}, kNoIndex, false, waits}; });
  return Written::changed;
}

namespace {

// What an input takes, in the words of files.
std::string takes_text(const InputDef& input) {
  if (std::holds_alternative<BoolInput>(input.kind)) return "true or false";
  if (std::holds_alternative<IntInput>(input.kind)) return "a whole number";
  if (std::holds_alternative<FloatInput>(input.kind)) return "a number";
  if (std::holds_alternative<PulseInput>(input.kind)) return "a press (`pulse:`) and no value";
  std::string names;
  for (const Text& choice : std::get<ChoiceInput>(input.kind).choices)
    names += (names.empty() ? "" : ", ") + choice.text;
  return "one of " + names;
}

std::string given_text(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return std::to_string(*whole);
  if (const auto* number = std::get_if<double>(&value)) return detail::number_text(*number);
  if (const auto* words = std::get_if<std::string>(&value)) return "\"" + *words + "\"";
  return "a list";
}

}  // namespace

Outcome Instance::set_by_name(std::string_view input, const FieldValue& value) {
  const auto inputs = machine_.inputs();
  const auto found =
      std::find_if(inputs.begin(), inputs.end(), [&](const InputDef& each) { return each.name.text == input; });
  if (found == inputs.end()) return machine_.input<bool>(input).error();  // with the nearest name
  const auto wrong = [&] {
    const std::string takes = takes_text(*found);
    return Error{"the input \"" + std::string(input) + "\" takes " + takes + ", not " + given_text(value), "",
                 std::holds_alternative<PulseInput>(found->kind) ? "Write `pulse: " + std::string(input) + "`."
                                                                 : "Write " + takes + "."};
  };
  const std::uint16_t index = static_cast<std::uint16_t>(found - inputs.begin());
  const std::uint32_t serial = machine_.serial();
  const auto* boolean = std::get_if<bool>(&value);
  const auto* whole = std::get_if<std::int64_t>(&value);
  const auto* number = std::get_if<double>(&value);
  const auto* words = std::get_if<std::string>(&value);
  const auto outcome = [&](Written written) -> Outcome {
    return written != Written::refused ? Outcome(Done{}) : wrong();
  };
  if (std::holds_alternative<BoolInput>(found->kind))
    return boolean != nullptr ? outcome(set(Input<bool>{serial, index}, *boolean)) : Outcome(wrong());
  if (std::holds_alternative<IntInput>(found->kind)) {
    if (whole == nullptr) return wrong();
    return outcome(set(Input<std::int32_t>{serial, index},
                       static_cast<std::int32_t>(std::clamp<std::int64_t>(*whole, INT32_MIN, INT32_MAX))));
  }
  if (std::holds_alternative<FloatInput>(found->kind)) {
    if (whole == nullptr && number == nullptr) return wrong();
    const double given = whole != nullptr ? static_cast<double>(*whole) : *number;
    return outcome(set(Input<float>{serial, index}, static_cast<float>(given)));
  }
  if (words == nullptr || std::holds_alternative<PulseInput>(found->kind)) return wrong();
  const auto choice = machine_.choice(Input<Choice>{serial, index}, *words);
  if (choice) return outcome(set(Input<Choice>{serial, index}, *choice));
  Error error = choice.error();
  if (error.nearest.empty()) error.remedy = "It takes " + takes_text(*found) + ".";
  return error;
}

Outcome Instance::pulse_by_name(std::string_view name) {
  const auto handle = machine_.pulse(name);
  if (!handle) return handle.error();
  pulse(*handle);
  return Done{};
}

const std::byte* Instance::settled_block() const {
  std::byte* scratch = bytes_.get() + 2 * block_size_;
  std::memcpy(scratch, bytes_.get(), block_size_);
  detail::reanchor(machine_.data(), scratch, header_of(scratch).now);
  detail::update_wake(machine_.data(), scratch);
  header_of(scratch).set_ordinal(0);  // depends on what was listened to
  return scratch;
}

std::uint16_t Instance::region_count() const { return static_cast<std::uint16_t>(machine_.data().regions.size()); }

std::uint16_t Instance::active(std::uint16_t region) const {
  return region < region_count() ? detail::leaf_of(machine_.data(), bytes_.get(), region) : kNoIndex;
}

std::optional<std::int64_t> Instance::playhead(std::uint16_t region) const {
  const std::uint16_t leaf = active(region);
  if (leaf == kNoIndex || !machine_.data().states[leaf].play.moves()) return std::nullopt;
  const std::byte* block = bytes_.get();
  return detail::playhead_at(block, detail::ConstRun(machine_.data(), block, region), header_of(block).now);
}

bool Instance::in(State state) const {
  return known(state.machine) && detail::is_active(machine_.data(), bytes_.get(), state.index);
}

bool Instance::is(Trait trait) const {
  return known(trait.machine) && detail::has_trait(machine_.data(), bytes_.get(), trait.index);
}

bool Instance::done() const { return (header_of(bytes_.get()).flags & detail::kDone) != 0; }
Ticks Instance::now() const { return Ticks(header_of(bytes_.get()).now); }
Ticks Instance::next_wake() const {
  const BlockHeader& header = header_of(bytes_.get());
  if (forced_ != kNoIndex) return Ticks(header.now);
  if (header.wake <= header.now || !passed_rounds_) return Ticks(std::max(header.wake, header.now));
  return Ticks(header_of(settled_block()).wake);
}

FieldValue Instance::input_value(std::uint16_t index) const {
  if (index >= machine_.data().inputs.size()) return false;
  return detail::value_of(machine_.data(), bytes_.get(), index, header_of(bytes_.get()).now);
}

bool Instance::set_rate(double rate) {
  if (!(rate >= 0 && rate <= 64)) return false;
  const bool waits = writes_wait();
  if (detail::change_rate(machine_.data(), bytes_.get(), rate))
    tell_write([&] { return InstanceWrite{InstanceWrite::Kind::rate, kNoIndex, rate, {}, kNoIndex, false, waits}; });
  return true;
}

double Instance::rate() const { return static_cast<double>(header_of(bytes_.get()).rate()) / detail::kOne; }

bool Instance::freeze(Ticks duration) {
  if (duration.count < 0 || duration > kLongestFreeze) return false;
  if (detail::begin_freeze(machine_.data(), bytes_.get(), duration.count))
    tell_write([&] {
      return InstanceWrite{InstanceWrite::Kind::freeze, kNoIndex, 1, duration, kNoIndex, false, writes_wait()};
    });
  return true;
}

void Instance::consider() const {
  if ((header_of(bytes_.get()).flags & detail::kStarted) == 0 || done()) return;
  std::byte* scratch = bytes_.get() + 2 * block_size_;
  std::memcpy(scratch, bytes_.get(), block_size_);
  CueBuffer nobody({}, 0);
  detail::Sink sink{&nobody};
  detail::reanchor(machine_.data(), scratch, header_of(scratch).now);
  header_of(scratch).flags |= detail::kDirty;
  detail::Engine(machine_.data(), scratch, sink, trace_).instant(header_of(scratch).now);
}

bool Instance::force(State state) {
  if (!known(state.machine) || rests(header_of(bytes_.get()))) return false;
  const bool waits = writes_wait();
  forced_ = state.index;
  header_of(bytes_.get()).wake = detail::kLongAgo;
  tell_write([&] { return InstanceWrite{InstanceWrite::Kind::force, kNoIndex, 1, {}, state.index, false, waits}; });
  return true;
}

std::optional<State> Instance::forced() const {
  if (forced_ == kNoIndex) return std::nullopt;
  return State{machine_.serial(), forced_};
}

bool Instance::place(State state, Ticks time) {
  if (!known(state.machine) || time.count < 0 || time.count > kMaxDurationTicks) return false;
  const bool waits = writes_wait();
  CueBuffer nobody({}, 0);
  detail::Sink sink{&nobody};
  detail::Engine engine(machine_.data(), bytes_.get(), sink);
  engine.watch(tickets());
  engine.place(state.index, time.count);
  forced_ = kNoIndex;
  tell_write([&] { return InstanceWrite{InstanceWrite::Kind::place, kNoIndex, 1, time, state.index, false, waits}; });
  return true;
}

void Instance::reset() {
  const bool waits = writes_wait();
  start_anew();
  forced_ = kNoIndex;
  tell_write([&] { return InstanceWrite{InstanceWrite::Kind::reset, kNoIndex, 1, {}, kNoIndex, false, waits}; });
}

void Instance::start_anew() {
  BlockHeader& header = header_of(bytes_.get());
  for (TicketSlot& slot : tickets())
    if (slot.status == TicketStatus::waiting && slot.pulse != kNoIndex) slot.status = TicketStatus::failed;
  if (detail::restart_block(machine_.data(), bytes_.get())) header.wake = detail::kLongAgo;
}

std::span<const std::byte> Instance::block() const { return {bytes_.get(), block_size_}; }

bool Instance::restore(std::span<const std::byte> block) {
  if (block.size() != block_size_) return false;
  std::memcpy(bytes_.get(), block.data(), block_size_);
  forced_ = kNoIndex;
  may_be_asked_ = true;
  passed_rounds_ = true;  // it may have been taken from one that does
  const BlockHeader& header = header_of(bytes_.get());
  const bool waits = (header.flags & kWaiting) != 0;
  const Ticks frozen(std::max<std::int64_t>(0, header.anchor + header.frozen - header.now));
  tell_write([&] { return InstanceWrite{InstanceWrite::Kind::restore, kNoIndex, 1, frozen, kNoIndex, false, waits}; });
  return true;
}

std::uint64_t Instance::hash() const {
  detail::Hash hash;
  std::byte* const block = bytes_.get() + 2 * block_size_;
  (void)settled_block();
  detail::forget_what_is_over(machine_.data(), block);
  detail::to_little_endian(machine_.data(), block);
  hash.add({block, machine_.block_size()});
  return hash.value();
}

}  // namespace mobrin
