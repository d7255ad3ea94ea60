// Crowds for C.
#include "convert.hpp"

using namespace mobrin::c;
using mobrin::Ticks;

namespace {

// Runs `write(places or nothing, values)` over what the caller gave.
template <class T, class Handle>
std::size_t write_values(mobrin_crowd* crowd, const std::uint32_t* places, Handle input, const T* values,
                         std::size_t count) {
  if (crowd == nullptr || values == nullptr) return count;
  return places == nullptr ? crowd->set_all(input, list(values, count))
                           : crowd->set(list(places, count), input, list(values, count));
}

}  // namespace

extern "C" {

mobrin_crowd_cues* mobrin_crowd_cues_new(size_t limit) {
  return new mobrin_crowd_cues(mobrin::MemorySource(), limit == 0 ? static_cast<std::size_t>(-1) : limit);
}
void mobrin_crowd_cues_free(mobrin_crowd_cues* cues) { delete cues; }
int mobrin_crowd_cues_reserve(mobrin_crowd_cues* cues, size_t count) {
  return cues != nullptr && cues->reserve(count) ? 1 : 0;
}
void mobrin_crowd_cues_clear(mobrin_crowd_cues* cues) {
  if (cues != nullptr) cues->clear();
}
const mobrin_crowd_cue* mobrin_crowd_cues_data(const mobrin_crowd_cues* cues, size_t* count) {
  if (count != nullptr) *count = cues == nullptr ? 0 : cues->size();
  return cues == nullptr ? nullptr : given(cues->begin());
}

mobrin_crowd* mobrin_crowd_new(const mobrin_machine* machine, const mobrin_crowd_options* options) {
  if (machine == nullptr) return nullptr;
  mobrin_crowd_options asked = taken(options);
  asked.listening &= MOBRIN_ALL_RECORDS;
  return new mobrin_crowd(*of(machine), asked);
}
void mobrin_crowd_free(mobrin_crowd* crowd) { delete crowd; }
const mobrin_machine* mobrin_crowd_machine(const mobrin_crowd* crowd) {
  return crowd == nullptr ? nullptr : given(&crowd->machine());
}

// --- members

void mobrin_crowd_reserve(mobrin_crowd* crowd, uint32_t count) {
  if (crowd != nullptr) crowd->reserve(count);
}
mobrin_member mobrin_crowd_add(mobrin_crowd* crowd) { return crowd == nullptr ? 0 : given(crowd->add()); }
int mobrin_crowd_remove(mobrin_crowd* crowd, mobrin_member member) {
  return crowd != nullptr && crowd->remove(member_of(member)) ? 1 : 0;
}
uint32_t mobrin_crowd_remove_done(mobrin_crowd* crowd, const mobrin_crowd_cues* cues) {
  return crowd == nullptr || cues == nullptr ? 0 : crowd->remove_done(*cues);
}
uint32_t mobrin_crowd_size(const mobrin_crowd* crowd) { return crowd == nullptr ? 0 : crowd->size(); }
uint32_t mobrin_crowd_places(const mobrin_crowd* crowd) { return crowd == nullptr ? 0 : crowd->places(); }
int mobrin_crowd_has(const mobrin_crowd* crowd, mobrin_member member) {
  return crowd != nullptr && crowd->has(member_of(member)) ? 1 : 0;
}
mobrin_member mobrin_crowd_at(const mobrin_crowd* crowd, uint32_t place) {
  return crowd == nullptr ? 0 : given(crowd->at(place));
}

// --- writes and values of one

int mobrin_crowd_set_bool(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int value) {
  return crowd == nullptr ? mobrin_refused
                          : static_cast<int>(crowd->set(member_of(member), boolean(input), value != 0));
}
int mobrin_crowd_set_int(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int32_t value) {
  return crowd == nullptr ? mobrin_refused : static_cast<int>(crowd->set(member_of(member), whole(input), value));
}
int mobrin_crowd_set_float(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, float value) {
  return crowd == nullptr ? mobrin_refused : static_cast<int>(crowd->set(member_of(member), number(input), value));
}
int mobrin_crowd_set_choice(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, uint32_t index) {
  return crowd == nullptr ? mobrin_refused
                          : static_cast<int>(crowd->set(member_of(member), choice(input), choice_at(index)));
}
int mobrin_crowd_press(mobrin_crowd* crowd, mobrin_member member, mobrin_id id) {
  return crowd == nullptr ? mobrin_refused : static_cast<int>(crowd->pulse(member_of(member), pulse(id)));
}
int mobrin_crowd_bool_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input) {
  return crowd != nullptr && crowd->value(member_of(member), boolean(input)) ? 1 : 0;
}
int32_t mobrin_crowd_int_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input) {
  return crowd == nullptr ? 0 : crowd->value(member_of(member), whole(input));
}
float mobrin_crowd_float_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input) {
  return crowd == nullptr ? 0 : crowd->value(member_of(member), number(input));
}
uint32_t mobrin_crowd_choice_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input) {
  return crowd == nullptr ? 0 : crowd->value(member_of(member), choice(input)).index;
}
int mobrin_crowd_pulse_alive(const mobrin_crowd* crowd, mobrin_member member, mobrin_id id) {
  return crowd != nullptr && crowd->value(member_of(member), pulse(id)) ? 1 : 0;
}
double mobrin_crowd_variable_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id id) {
  return crowd == nullptr ? 0 : crowd->value(member_of(member), variable(id));
}

// --- writes in bulk

size_t mobrin_crowd_write_bools(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input, const uint8_t* values,
                                size_t count) {
  return write_values(crowd, places, boolean(input), values, count);
}
size_t mobrin_crowd_write_ints(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input, const int32_t* values,
                               size_t count) {
  return write_values(crowd, places, whole(input), values, count);
}
size_t mobrin_crowd_write_floats(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input, const float* values,
                                 size_t count) {
  return write_values(crowd, places, number(input), values, count);
}
size_t mobrin_crowd_write_choices(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input, const uint8_t* values,
                                  size_t count) {
  static_assert(sizeof(mobrin::Choice) == 1);
  return write_values(crowd, places, choice(input), reinterpret_cast<const mobrin::Choice*>(values), count);
}
int mobrin_crowd_press_many(mobrin_crowd* crowd, const uint32_t* places, mobrin_id id, size_t count) {
  return crowd != nullptr && places != nullptr && crowd->pulse(list(places, count), pulse(id)) ? 1 : 0;
}
size_t mobrin_crowd_write_all_bool(mobrin_crowd* crowd, mobrin_id input, int value) {
  return crowd == nullptr ? 0 : crowd->set_all(boolean(input), value != 0);
}
size_t mobrin_crowd_write_all_int(mobrin_crowd* crowd, mobrin_id input, int32_t value) {
  return crowd == nullptr ? 0 : crowd->set_all(whole(input), value);
}
size_t mobrin_crowd_write_all_float(mobrin_crowd* crowd, mobrin_id input, float value) {
  return crowd == nullptr ? 0 : crowd->set_all(number(input), value);
}
size_t mobrin_crowd_write_all_choice(mobrin_crowd* crowd, mobrin_id input, uint32_t index) {
  return crowd == nullptr ? 0 : crowd->set_all(choice(input), choice_at(index));
}

// --- steps

int mobrin_crowd_advance(mobrin_crowd* crowd, mobrin_ticks dt, mobrin_crowd_cues* cues, mobrin_advanced* out) {
  if (crowd == nullptr || cues == nullptr) return 0;
  const mobrin::Advanced how = crowd->advance(Ticks(dt), *cues);
  give_advanced(out, how);
  return how.complete() ? 1 : 0;
}
void mobrin_crowd_begin_step(mobrin_crowd* crowd, mobrin_ticks dt) {
  if (crowd != nullptr) crowd->begin_step(Ticks(dt));
}
int mobrin_crowd_advance_range(mobrin_crowd* crowd, uint32_t first, uint32_t end, mobrin_crowd_cues* cues,
                               mobrin_advanced* out) {
  if (crowd == nullptr || cues == nullptr) return 0;
  const mobrin::Advanced how = crowd->advance_range(first, end, *cues);
  give_advanced(out, how);
  return how.complete() ? 1 : 0;
}
void mobrin_crowd_end_step(mobrin_crowd* crowd) {
  if (crowd != nullptr) crowd->end_step();
}
mobrin_ticks mobrin_crowd_now(const mobrin_crowd* crowd) { return crowd == nullptr ? 0 : crowd->now().count; }
mobrin_ticks mobrin_crowd_next_wake(const mobrin_crowd* crowd) {
  return crowd == nullptr ? MOBRIN_NEVER : crowd->next_wake().count;
}

// --- one member

int mobrin_crowd_set_rate(mobrin_crowd* crowd, mobrin_member member, double rate) {
  return crowd != nullptr && crowd->set_rate(member_of(member), rate) ? 1 : 0;
}
int mobrin_crowd_freeze(mobrin_crowd* crowd, mobrin_member member, mobrin_ticks duration) {
  return crowd != nullptr && crowd->freeze(member_of(member), Ticks(duration)) ? 1 : 0;
}
int mobrin_crowd_reset(mobrin_crowd* crowd, mobrin_member member) {
  return crowd != nullptr && crowd->reset(member_of(member)) ? 1 : 0;
}
int mobrin_crowd_place(mobrin_crowd* crowd, mobrin_member member, mobrin_id id, mobrin_ticks time) {
  return crowd != nullptr && crowd->place(member_of(member), state(id), Ticks(time)) ? 1 : 0;
}
uint32_t mobrin_crowd_active(const mobrin_crowd* crowd, mobrin_member member, uint32_t region) {
  return crowd == nullptr ? MOBRIN_NONE : crowd->active(member_of(member), index16(region));
}
int mobrin_crowd_in(const mobrin_crowd* crowd, mobrin_member member, mobrin_id id) {
  return crowd != nullptr && crowd->in(member_of(member), state(id)) ? 1 : 0;
}
int mobrin_crowd_is(const mobrin_crowd* crowd, mobrin_member member, mobrin_id id) {
  return crowd != nullptr && crowd->is(member_of(member), trait(id)) ? 1 : 0;
}
int mobrin_crowd_done(const mobrin_crowd* crowd, mobrin_member member) {
  return crowd != nullptr && crowd->done(member_of(member)) ? 1 : 0;
}
int mobrin_crowd_shown(const mobrin_crowd* crowd, mobrin_member member, uint32_t region, mobrin_shown* out) {
  return give_shown(out, crowd == nullptr ? mobrin::Shown() : crowd->shown(member_of(member), index16(region)));
}
uint32_t mobrin_crowd_look(const mobrin_crowd* crowd, mobrin_member member) {
  return crowd == nullptr ? MOBRIN_NONE : crowd->look(member_of(member));
}
int mobrin_crowd_picture(const mobrin_crowd* crowd, mobrin_member member, uint32_t region, int faces_left,
                         mobrin_picture* out) {
  if (crowd == nullptr) return 0;
  return give_picture(out, crowd->picture(member_of(member), index16(region), faces_left != 0));
}
mobrin_instance* mobrin_crowd_copy(const mobrin_crowd* crowd, mobrin_member member) {
  if (crowd == nullptr) return nullptr;
  auto copy = crowd->copy(member_of(member));
  return copy ? given(new mobrin::Instance(std::move(*copy))) : nullptr;
}

// --- what all show

size_t mobrin_crowd_frames(const mobrin_crowd* crowd, const uint32_t* places, uint32_t region, mobrin_crowd_frame* out,
                           size_t room) {
  if (crowd == nullptr || out == nullptr) return 0;
  const std::span<mobrin::CrowdShown> to(reinterpret_cast<mobrin::CrowdShown*>(out), room);
  return places == nullptr ? crowd->shown_all(to, index16(region))
                           : crowd->shown(list(places, room), to, index16(region));
}
const mobrin_crowd_frame* mobrin_crowd_all_frames(const mobrin_crowd* crowd, uint32_t region, size_t* count) {
  const std::span<const mobrin::CrowdShown> all =
      crowd == nullptr ? std::span<const mobrin::CrowdShown>() : crowd->shown_all(index16(region));
  if (count != nullptr) *count = all.size();
  return reinterpret_cast<const mobrin_crowd_frame*>(all.data());
}
const mobrin_crowd_change* mobrin_crowd_changes(mobrin_crowd* crowd, uint32_t region, size_t* count) {
  const std::span<const mobrin::CrowdChange> all =
      crowd == nullptr ? std::span<const mobrin::CrowdChange>() : crowd->shown_changed(index16(region));
  if (count != nullptr) *count = all.size();
  return reinterpret_cast<const mobrin_crowd_change*>(all.data());
}
uint32_t mobrin_crowd_count_active(const mobrin_crowd* crowd, uint32_t first, uint32_t end, uint32_t* counts,
                                   uint32_t states) {
  if (crowd == nullptr || counts == nullptr) return 0;
  return crowd->count_active(first, end, std::span<std::uint32_t>(counts, states));
}

// --- snapshots

void mobrin_crowd_snapshot(const mobrin_crowd* crowd, mobrin_bytes* out) {
  if (crowd != nullptr && out != nullptr) crowd->snapshot(out->bytes);
}
int mobrin_crowd_restore(mobrin_crowd* crowd, const void* snapshot, size_t size) {
  return crowd != nullptr && snapshot != nullptr && crowd->restore(bytes(snapshot, size)) ? 1 : 0;
}
uint64_t mobrin_crowd_hash(const mobrin_crowd* crowd) { return crowd == nullptr ? 0 : crowd->hash(); }
size_t mobrin_crowd_member_size(const mobrin_crowd* crowd) { return crowd == nullptr ? 0 : crowd->member_size(); }
int mobrin_crowd_member_bytes(const mobrin_crowd* crowd, uint32_t place, void* out, size_t room) {
  if (crowd == nullptr || out == nullptr || room < crowd->member_size()) return 0;
  return crowd->member_bytes(place, {static_cast<std::byte*>(out), room}) ? 1 : 0;
}
int mobrin_crowd_put_member_bytes(mobrin_crowd* crowd, uint32_t place, const void* from, size_t size) {
  return crowd != nullptr && from != nullptr && crowd->put_member_bytes(place, bytes(from, size)) ? 1 : 0;
}
size_t mobrin_crowd_changed_since(const mobrin_crowd* crowd, const void* snapshot, size_t size, uint32_t* out,
                                  size_t room) {
  std::vector<std::uint32_t> places;
  if (crowd == nullptr || snapshot == nullptr || !crowd->changed_since(bytes(snapshot, size), places))
    return static_cast<std::size_t>(-1);
  if (out != nullptr) std::copy_n(places.begin(), std::min(places.size(), room), out);
  return places.size();
}
size_t mobrin_crowd_bytes_per_member(const mobrin_crowd* crowd) {
  return crowd == nullptr ? 0 : crowd->bytes_per_member();
}
uint32_t mobrin_crowd_carry_over(const mobrin_crowd* from, mobrin_crowd* into, mobrin_text** losses) {
  if (losses != nullptr) *losses = nullptr;
  if (from == nullptr || into == nullptr) return 0;
  return tell_losses(mobrin::carry_over(*from, *into), losses);
}

}  // extern "C"
