// Instances for C.
#include <optional>

#include "convert.hpp"
#include "mobrin/core/names.hpp"

using namespace mobrin::c;
using mobrin::Ticks;

extern "C" {

mobrin_instance* mobrin_instance_new(const mobrin_machine* machine, const mobrin_instance_options* options) {
  if (machine == nullptr) return nullptr;
  const mobrin_instance_options asked = taken(options);
  mobrin::InstanceOptions with;
  if (asked.tickets != 0) with.tickets = static_cast<std::uint16_t>(std::min(asked.tickets, 65535u));
  with.begin = Ticks(asked.begin);
  return given(new mobrin::Instance(*of(machine), with));
}
void mobrin_instance_free(mobrin_instance* it) { delete of(it); }
const mobrin_machine* mobrin_instance_machine(const mobrin_instance* it) {
  return it == nullptr ? nullptr : given(&of(it)->machine());
}
int mobrin_instance_begin_at(mobrin_instance* it, mobrin_ticks begin) {
  return it != nullptr && of(it)->begin_at(Ticks(begin)) ? 1 : 0;
}

// --- writes

int mobrin_set_bool(mobrin_instance* it, mobrin_id input, int value) {
  return it == nullptr ? mobrin_refused : static_cast<int>(of(it)->set(boolean(input), value != 0));
}
int mobrin_set_int(mobrin_instance* it, mobrin_id input, int32_t value) {
  return it == nullptr ? mobrin_refused : static_cast<int>(of(it)->set(whole(input), value));
}
int mobrin_set_float(mobrin_instance* it, mobrin_id input, float value) {
  return it == nullptr ? mobrin_refused : static_cast<int>(of(it)->set(number(input), value));
}
int mobrin_set_choice(mobrin_instance* it, mobrin_id input, uint32_t index) {
  return it == nullptr ? mobrin_refused : static_cast<int>(of(it)->set(choice(input), choice_at(index)));
}
int mobrin_press(mobrin_instance* it, mobrin_id id) {
  return it == nullptr ? mobrin_refused : static_cast<int>(of(it)->pulse(pulse(id)));
}

int mobrin_set_named(mobrin_instance* it, const char* input, double value, mobrin_error* error) {
  if (it == nullptr) return no_object(error);
  // As the input takes it: a bool by 0 and 1, a whole number where it is one.
  mobrin::FieldValue as = value;
  for (const mobrin::InputDef& each : of(it)->machine().inputs()) {
    if (each.name.text != view(input)) continue;
    if (std::holds_alternative<mobrin::BoolInput>(each.kind)) as = value != 0;
    if (std::holds_alternative<mobrin::IntInput>(each.kind) && value >= -2147483648.0 && value <= 2147483647.0 &&
        value == static_cast<double>(static_cast<std::int64_t>(value)))
      as = static_cast<std::int64_t>(value);
  }
  const mobrin::Outcome done = of(it)->set_by_name(view(input), as);
  return done ? mobrin_ok : fail(error, done.error());
}
int mobrin_choose_named(mobrin_instance* it, const char* input, const char* choice, mobrin_error* error) {
  if (it == nullptr) return no_object(error);
  const mobrin::Outcome done = of(it)->set_by_name(view(input), mobrin::FieldValue(std::string(view(choice))));
  return done ? mobrin_ok : fail(error, done.error());
}
int mobrin_press_named(mobrin_instance* it, const char* pulse, mobrin_error* error) {
  if (it == nullptr) return no_object(error);
  const mobrin::Outcome done = of(it)->pulse_by_name(view(pulse));
  return done ? mobrin_ok : fail(error, done.error());
}

// --- values

int mobrin_bool_value(const mobrin_instance* it, mobrin_id input) {
  return it != nullptr && of(it)->value(boolean(input)) ? 1 : 0;
}
int32_t mobrin_int_value(const mobrin_instance* it, mobrin_id input) {
  return it == nullptr ? 0 : of(it)->value(whole(input));
}
float mobrin_float_value(const mobrin_instance* it, mobrin_id input) {
  return it == nullptr ? 0 : of(it)->value(number(input));
}
uint32_t mobrin_choice_value(const mobrin_instance* it, mobrin_id input) {
  return it == nullptr ? 0 : of(it)->value(choice(input)).index;
}
int mobrin_pulse_alive(const mobrin_instance* it, mobrin_id id) {
  return it != nullptr && of(it)->value(pulse(id)) ? 1 : 0;
}
double mobrin_variable_value(const mobrin_instance* it, mobrin_id id) {
  return it == nullptr ? 0 : of(it)->value(variable(id));
}

// --- steps

int mobrin_advance(mobrin_instance* it, mobrin_ticks dt, mobrin_cues* cues, mobrin_advanced* out) {
  if (it == nullptr || cues == nullptr) return 0;
  const mobrin::Advanced how = of(it)->advance(Ticks(dt), cues->list);
  if (out != nullptr) give_advanced(out, how);
  return how.complete() ? 1 : 0;
}
int mobrin_advance_telling(mobrin_instance* it, mobrin_ticks dt, mobrin_cue_handler handler, void* context,
                           uint32_t listening, mobrin_advanced* out) {
  if (it == nullptr) return 0;
  const mobrin::Advanced how = of(it)->advance(Ticks(dt), Teller{handler, context},
                                               static_cast<mobrin::Listening>(listening & MOBRIN_ALL_RECORDS));
  give_advanced(out, how);
  return how.complete() ? 1 : 0;
}

// --- what is shown, and where it is

uint32_t mobrin_region_count(const mobrin_instance* it) { return it == nullptr ? 0 : of(it)->region_count(); }
int mobrin_shown_now(const mobrin_instance* it, uint32_t region, mobrin_shown* out) {
  return give_shown(out, it == nullptr ? mobrin::Shown() : of(it)->shown(index16(region)));
}
uint32_t mobrin_layers(const mobrin_instance* it, uint32_t region, mobrin_shown* out, uint32_t room) {
  if (it == nullptr) return 0;
  const mobrin::ShownLayers all = of(it)->layers(index16(region));
  for (std::size_t i = 0; out != nullptr && i < std::min<std::size_t>(all.size(), room); ++i) {
    nth(out, i)->size = out->size;
    (void)give_shown(nth(out, i), all[i]);
  }
  return static_cast<std::uint32_t>(all.size());
}
uint32_t mobrin_blended(const mobrin_instance* it, uint32_t region, mobrin_shown* out, uint32_t room) {
  if (it == nullptr) return 0;
  const auto shown =
      all<mobrin::Shown>([&](std::span<mobrin::Shown> to) { return of(it)->blended(index16(region), to); });
  shown.each(out, room, [](mobrin_shown* to, const mobrin::Shown& each) { (void)give_shown(to, each); });
  return shown.count();
}
int mobrin_picture_now(const mobrin_instance* it, uint32_t region, int faces_left, mobrin_picture* out) {
  if (it == nullptr) return 0;
  return give_picture(out, of(it)->picture(index16(region), faces_left != 0));
}
int mobrin_shows(const mobrin_instance* it, mobrin_id id) { return it != nullptr && of(it)->shows(clip(id)) ? 1 : 0; }
uint32_t mobrin_active(const mobrin_instance* it, uint32_t region) {
  return it == nullptr ? MOBRIN_NONE : of(it)->active(index16(region));
}
const char* mobrin_active_path(const mobrin_instance* it, uint32_t region) {
  return it == nullptr ? "" : words(of(it)->active_path(index16(region)));
}
int mobrin_in(const mobrin_instance* it, mobrin_id id) { return it != nullptr && of(it)->in(state(id)) ? 1 : 0; }
int mobrin_is(const mobrin_instance* it, mobrin_id id) { return it != nullptr && of(it)->is(trait(id)) ? 1 : 0; }
int mobrin_done(const mobrin_instance* it) { return it != nullptr && of(it)->done() ? 1 : 0; }
mobrin_ticks mobrin_now(const mobrin_instance* it) { return it == nullptr ? 0 : of(it)->now().count; }
mobrin_ticks mobrin_next_wake(const mobrin_instance* it) {
  return it == nullptr ? MOBRIN_NEVER : of(it)->next_wake().count;
}
mobrin_ticks mobrin_next_change(const mobrin_instance* it) {
  return it == nullptr ? MOBRIN_NEVER : of(it)->next_change().count;
}
uint32_t mobrin_look(const mobrin_instance* it) { return it == nullptr ? MOBRIN_NONE : of(it)->look(); }
int mobrin_track(const mobrin_instance* it, const char* name, uint32_t region, double* out) {
  const auto value = it == nullptr ? std::nullopt : of(it)->track(view(name), index16(region));
  if (value && out != nullptr) *out = *value;
  return value ? 1 : 0;
}
double mobrin_moved(const mobrin_instance* it, const char* name, const void* before, size_t size, uint32_t region) {
  if (it == nullptr || before == nullptr || size != of(it)->block().size()) return 0;
  return of(it)->moved(view(name), bytes(before, size), index16(region));
}

// --- rate, freeze, places

int mobrin_set_rate(mobrin_instance* it, double rate) { return it != nullptr && of(it)->set_rate(rate) ? 1 : 0; }
double mobrin_rate(const mobrin_instance* it) { return it == nullptr ? 0 : of(it)->rate(); }
int mobrin_freeze(mobrin_instance* it, mobrin_ticks duration) {
  return it != nullptr && of(it)->freeze(Ticks(duration)) ? 1 : 0;
}
int mobrin_force(mobrin_instance* it, mobrin_id id) { return it != nullptr && of(it)->force(state(id)) ? 1 : 0; }
mobrin_id mobrin_forced(const mobrin_instance* it) {
  const std::optional<mobrin::State> forced = it != nullptr ? of(it)->forced() : std::nullopt;
  return forced ? id_of(forced->machine, Kind::state, forced->index) : 0;
}
int mobrin_place(mobrin_instance* it, mobrin_id id, mobrin_ticks time) {
  return it != nullptr && of(it)->place(state(id), Ticks(time)) ? 1 : 0;
}
void mobrin_reset(mobrin_instance* it) {
  if (it != nullptr) of(it)->reset();
}

// --- the whole state

const void* mobrin_block(const mobrin_instance* it, size_t* size) {
  const std::span<const std::byte> block = it == nullptr ? std::span<const std::byte>() : of(it)->block();
  if (size != nullptr) *size = block.size();
  return block.data();
}
int mobrin_restore(mobrin_instance* it, const void* block, size_t size) {
  return it != nullptr && block != nullptr && of(it)->restore(bytes(block, size)) ? 1 : 0;
}
uint64_t mobrin_hash(const mobrin_instance* it) { return it == nullptr ? 0 : of(it)->hash(); }
uint32_t mobrin_carry_over(const mobrin_instance* from, mobrin_instance* into, mobrin_text** losses) {
  if (losses != nullptr) *losses = nullptr;
  if (from == nullptr || into == nullptr) return 0;
  return tell_losses(mobrin::carry_over(*of(from), *of(into)), losses);
}

}  // extern "C"

// --- tickets

namespace {

mobrin_ticket given_ticket(mobrin::Ticket ticket) { return {ticket.machine, ticket.serial, ticket.slot}; }
// A place that does not exist belongs to no ticket.
mobrin::Ticket ticket_of(mobrin_ticket ticket) {
  if (ticket.slot > 0xffff) return {};
  return {ticket.machine, ticket.serial, static_cast<std::uint16_t>(ticket.slot)};
}

}  // namespace

extern "C" {

mobrin_ticket mobrin_ask(mobrin_instance* it, mobrin_id id) {
  return it == nullptr ? mobrin_ticket{} : given_ticket(of(it)->ask(pulse(id)));
}
mobrin_ticket mobrin_follow(mobrin_instance* it, mobrin_id id) {
  return it == nullptr ? mobrin_ticket{} : given_ticket(of(it)->follow(state(id)));
}
int mobrin_ticket_status(const mobrin_instance* it, mobrin_ticket ticket) {
  return it == nullptr ? mobrin_lost : static_cast<int>(of(it)->status(ticket_of(ticket)));
}
int mobrin_never_ends(const mobrin_instance* it, mobrin_ticket ticket) {
  return it != nullptr && of(it)->never_ends(ticket_of(ticket)) ? 1 : 0;
}
int mobrin_give_back(mobrin_instance* it, mobrin_ticket ticket) {
  return it != nullptr && of(it)->give_back(ticket_of(ticket)) ? 1 : 0;
}
uint32_t mobrin_open_tickets(const mobrin_instance* it, mobrin_ticket_info* out, uint32_t room) {
  if (it == nullptr) return 0;
  const auto open = all<mobrin::TicketInfo>([&](std::span<mobrin::TicketInfo> to) { return of(it)->open_tickets(to); });
  open.each(out, room, [](mobrin_ticket_info* to, const mobrin::TicketInfo& each) {
    mobrin_ticket_info info{};
    info.ticket = given_ticket(each.ticket);
    info.status = static_cast<std::int32_t>(each.status);
    info.pulse = each.pulse;
    info.state = each.state;
    give(to, info);
  });
  return open.count();
}

}  // extern "C"

// --- hooks

namespace {

void told_write(void* hook, const mobrin::InstanceWrite& write) {
  const auto& to = *static_cast<const mobrin_write_hook*>(hook);
  mobrin_write out{};
  out.size = sizeof out;
  out.kind = static_cast<std::int32_t>(write.kind);
  out.input = write.input;
  out.state = write.state;
  out.rate = write.rate;
  out.duration = write.duration.count;
  out.clamped = write.clamped ? 1 : 0;
  out.pending = write.pending ? 1 : 0;
  to.handler(to.context, &out);
}

void told_considered(void* trace, const mobrin::Considered& considered) {
  const auto& to = *static_cast<const mobrin_trace*>(trace);
  mobrin_considered out{};
  out.size = sizeof out;
  out.round = considered.round;
  out.at = considered.at.count;
  out.transition = considered.transition;
  out.verdict = static_cast<std::int32_t>(considered.verdict);
  out.machine = considered.machine;
  out.block = considered.block;
  to.handler(to.context, &out);
}

// What a handler was told of; nothing where that is none.
std::optional<mobrin::Considered> considered_of(const mobrin_considered* considered) {
  const mobrin_considered from = taken(considered);
  if (from.machine == nullptr || from.block == nullptr) return std::nullopt;
  mobrin::Considered out;
  out.at = Ticks(from.at);
  out.round = from.round;
  out.transition = from.transition;
  out.verdict = static_cast<mobrin::Verdict>(from.verdict);
  out.machine = static_cast<const mobrin::detail::MachineData*>(from.machine);
  out.block = static_cast<const std::byte*>(from.block);
  return out;
}

}  // namespace

extern "C" {

void mobrin_set_write_hook(mobrin_instance* it, const mobrin_write_hook* hook) {
  if (it == nullptr) return;
  const bool none = hook == nullptr || hook->handler == nullptr;
  of(it)->set_write_hook(none ? mobrin::WriteHook{}
                              : mobrin::WriteHook{told_write, const_cast<mobrin_write_hook*>(hook)});
}
void mobrin_set_trace(mobrin_instance* it, const mobrin_trace* trace) {
  if (it == nullptr) return;
  const bool none = trace == nullptr || trace->handler == nullptr;
  of(it)->set_trace(none ? mobrin::TraceHook{} : mobrin::TraceHook{told_considered, const_cast<mobrin_trace*>(trace)});
}
void mobrin_consider(const mobrin_instance* it) {
  if (it != nullptr) of(it)->consider();
}

size_t mobrin_guard_text(const mobrin_considered* considered, char* out, size_t room) {
  const auto from = considered_of(considered);
  if (!from) return put("", out, room);
  std::string text;
  const std::vector<mobrin::PartValue> parts = from->guard_parts();
  for (auto part = parts.rbegin(); part != parts.rend(); ++part) {
    text += (text.empty() ? "" : ", ") + part->text + ": ";
    text += !part->choice.empty() ? part->choice
            : part->is_truth      ? (part->value != 0 ? "true" : "false")
                                  : mobrin::detail::number_text(part->value);
  }
  return put(text, out, room);
}

int mobrin_considered_shown(const mobrin_considered* considered, mobrin_shown* out) {
  const auto from = considered_of(considered);
  return give_shown(out, from ? from->shown() : mobrin::Shown{});
}

mobrin_round* mobrin_round_new(const mobrin_considered* first) {
  const auto from = considered_of(first);
  return from ? new mobrin_round(*from) : nullptr;
}
void mobrin_round_free(mobrin_round* round) { delete round; }
int mobrin_round_add(mobrin_round* round, const mobrin_considered* next) {
  const auto from = considered_of(next);
  if (round == nullptr || !from || !round->goes_on_with(*from)) return 0;
  round->add(*from);
  return 1;
}
uint32_t mobrin_round_skipped(const mobrin_round* round, mobrin_skipped* out, uint32_t room) {
  if (round == nullptr) return 0;
  const std::vector<mobrin::Skipped> skipped = round->skipped();
  give_each(std::span<const mobrin::Skipped>(skipped), out, room, [](mobrin_skipped* to, const mobrin::Skipped& each) {
    mobrin_skipped one{};
    one.transition = each.transition;
    one.why = static_cast<std::int32_t>(each.why);
    one.by = each.by;
    give(to, one);
  });
  return static_cast<std::uint32_t>(skipped.size());
}

}  // extern "C"
