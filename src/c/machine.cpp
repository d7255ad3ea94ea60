// Machines, records and texts for C.
#include <cmath>

#include "convert.hpp"
#include "mobrin/core/version.hpp"
#include "mobrin/pack/pack.hpp"

using namespace mobrin::c;

extern "C" {

// --- the library, time, texts

int32_t mobrin_version(void) { return mobrin::linked_version(); }

mobrin_ticks mobrin_seconds(double seconds) { return std::abs(seconds) <= 1e9 ? mobrin::seconds(seconds).count : 0; }
double mobrin_to_seconds(mobrin_ticks ticks) { return mobrin::Ticks(ticks).to_seconds(); }
mobrin_ticks mobrin_step_end(int64_t step, int64_t hz) {
  return hz < 1 || hz > 1'000'000 || step < 0 || step / hz > 9'999'999'999 ? 0 : mobrin::step_end(step, hz).count;
}

const char* mobrin_text_data(const mobrin_text* text) { return text == nullptr ? "" : text->text.c_str(); }
size_t mobrin_text_size(const mobrin_text* text) { return text == nullptr ? 0 : text->text.size(); }
void mobrin_text_free(mobrin_text* text) { delete text; }

mobrin_bytes* mobrin_bytes_new(void) { return new mobrin_bytes; }
const void* mobrin_bytes_data(const mobrin_bytes* bytes) { return bytes == nullptr ? nullptr : bytes->bytes.data(); }
size_t mobrin_bytes_size(const mobrin_bytes* bytes) { return bytes == nullptr ? 0 : bytes->bytes.size(); }
void mobrin_bytes_free(mobrin_bytes* bytes) { delete bytes; }

// --- machines

mobrin_machine* mobrin_machine_from_pack(const void* data, size_t size, uint64_t fits, mobrin_error* error) {
  const auto machine = mobrin::load_pack(bytes(data, size), fits);
  if (machine) return given(new mobrin::Machine(*machine));
  (void)fail(error, mobrin_refused_bytes, machine.error().text());
  return nullptr;
}
void mobrin_machine_pack(const mobrin_machine* machine, int with_names, mobrin_bytes* out) {
  if (machine != nullptr && out != nullptr) out->bytes = mobrin::pack(*of(machine), {with_names != 0});
}
mobrin_machine* mobrin_machine_share(const mobrin_machine* machine) {
  return machine == nullptr ? nullptr : given(new mobrin::Machine(*of(machine)));
}
void mobrin_machine_free(mobrin_machine* machine) { delete of(machine); }

const char* mobrin_machine_name(const mobrin_machine* machine) {
  return machine == nullptr ? "" : words(of(machine)->name());
}
uint64_t mobrin_machine_fingerprint(const mobrin_machine* machine) {
  return machine == nullptr ? 0 : of(machine)->fingerprint();
}
uint64_t mobrin_machine_interface(const mobrin_machine* machine) {
  return machine == nullptr ? 0 : mobrin::interface_of(*of(machine));
}
size_t mobrin_machine_block_size(const mobrin_machine* machine) {
  return machine == nullptr ? 0 : of(machine)->block_size();
}
uint32_t mobrin_machine_most_records(const mobrin_machine* machine) {
  return machine == nullptr ? 0 : of(machine)->most_records_per_instant();
}
double mobrin_machine_unit(const mobrin_machine* machine) { return machine == nullptr ? 0 : of(machine)->unit(); }

}  // extern "C"

// --- ids

namespace {

// The id of what was found; 0, with the error, where nothing was.
template <class Handle>
mobrin_id id_or_fail(const mobrin::Result<Handle>& found, Kind kind, mobrin_error* error) {
  if (found) return id_of(found->machine, kind, found->index);
  (void)fail(error, found.error());
  return 0;
}

mobrin_id none(mobrin_error* error) { return static_cast<void>(no_object(error)), 0; }

}  // namespace

extern "C" {

mobrin_id mobrin_input_id(const mobrin_machine* machine, const char* name, int kind, mobrin_error* error) {
  if (machine == nullptr || name == nullptr) return none(error);
  const mobrin::Machine& m = *of(machine);
  switch (kind) {
    case mobrin_bool:
      return id_or_fail(m.input<bool>(name), Kind::boolean, error);
    case mobrin_int:
      return id_or_fail(m.input<std::int32_t>(name), Kind::whole, error);
    case mobrin_float:
      return id_or_fail(m.input<float>(name), Kind::number, error);
    case mobrin_choice:
      return id_or_fail(m.input<mobrin::Choice>(name), Kind::choice, error);
    case mobrin_pulse:
      return id_or_fail(m.pulse(name), Kind::pulse, error);
    default:
      return static_cast<void>(fail(error, mobrin_bad_argument, "there is no such kind of input")), 0;
  }
}
mobrin_id mobrin_state_id(const mobrin_machine* machine, const char* path, mobrin_error* error) {
  return machine == nullptr ? none(error) : id_or_fail(of(machine)->state(view(path)), Kind::state, error);
}
mobrin_id mobrin_trait_id(const mobrin_machine* machine, const char* name, mobrin_error* error) {
  return machine == nullptr ? none(error) : id_or_fail(of(machine)->trait(view(name)), Kind::trait, error);
}
mobrin_id mobrin_clip_id(const mobrin_machine* machine, const char* name, mobrin_error* error) {
  return machine == nullptr ? none(error) : id_or_fail(of(machine)->clip(view(name)), Kind::clip, error);
}
mobrin_id mobrin_region_id(const mobrin_machine* machine, const char* path, mobrin_error* error) {
  return machine == nullptr ? none(error) : id_or_fail(of(machine)->region(view(path)), Kind::region, error);
}
mobrin_id mobrin_variable_id(const mobrin_machine* machine, const char* name, const char* state, mobrin_error* error) {
  if (machine == nullptr) return none(error);
  return id_or_fail(of(machine)->variable(view(name), view(state)), Kind::variable, error);
}
mobrin_id mobrin_field_id(const mobrin_machine* machine, const char* cue, const char* field, mobrin_error* error) {
  if (machine == nullptr) return none(error);
  const auto found = of(machine)->field(view(cue), view(field));
  if (!found) return static_cast<void>(fail(error, found.error())), 0;
  if (found->index > 4095)
    return static_cast<void>(fail(error, mobrin_bad_argument, "a cue has at most 4096 fields with an id")), 0;
  return id_of(found->machine, Kind::field, std::uint32_t{found->cue} << 12 | found->index);
}

int32_t mobrin_choice_index(const mobrin_machine* machine, mobrin_id input, const char* name, mobrin_error* error) {
  if (machine == nullptr) return static_cast<void>(no_object(error)), -1;
  const auto found = of(machine)->choice(choice(input), view(name));
  return found ? found->index : (static_cast<void>(fail(error, found.error())), -1);
}
int32_t mobrin_cue_index(const mobrin_machine* machine, const char* name, mobrin_error* error) {
  if (machine == nullptr) return static_cast<void>(no_object(error)), -1;
  const auto found = of(machine)->cue(view(name));
  return found ? *found : (static_cast<void>(fail(error, found.error())), -1);
}

uint32_t mobrin_count(const mobrin_machine* machine, int what) {
  if (machine == nullptr) return 0;
  const mobrin::Machine& m = *of(machine);
  const std::size_t counts[] = {m.inputs().size(),  m.cues().size(),        m.clips().size(),  m.states().size(),
                                m.regions().size(), m.transitions().size(), m.traits().size(), m.looks().size(),
                                m.zones().size(),   m.reaches().size(),     m.images().size()};
  return what < 0 || what >= static_cast<int>(std::size(counts)) ? 0 : static_cast<std::uint32_t>(counts[what]);
}

const char* mobrin_name(const mobrin_machine* machine, int what, uint32_t index) {
  if (index >= mobrin_count(machine, what)) return "";
  const mobrin::Machine& m = *of(machine);
  switch (what) {
    case mobrin_inputs:
      return m.inputs()[index].name.text.c_str();
    case mobrin_cue_names:
      return m.cues()[index].name.text.c_str();
    case mobrin_clips:
      return m.clips()[index].def.name.text.c_str();
    case mobrin_states:
      return m.states()[index].path.c_str();
    case mobrin_regions:
      return m.regions()[index].path.c_str();
    case mobrin_transitions:
      return m.transitions()[index].text.c_str();
    case mobrin_traits:
      return m.traits()[index].c_str();
    case mobrin_looks:
      return m.looks()[index].name.text.c_str();
    case mobrin_zones:
      return m.zones()[index].def.name.text.c_str();
    case mobrin_reaches:
      return m.reaches()[index].name.text.c_str();
    default:
      return m.images()[index].c_str();
  }
}

int mobrin_input_at(const mobrin_machine* machine, uint32_t index, mobrin_input_info* out) {
  if (index >= mobrin_count(machine, mobrin_inputs)) return 0;
  const mobrin::InputDef& input = of(machine)->inputs()[index];
  mobrin_input_info info{};
  info.kind = static_cast<std::int32_t>(input.kind.index());
  const auto numbers = [&](const auto& def) {
    info.start = static_cast<double>(def.start);
    info.min = static_cast<double>(def.min);
    info.max = static_cast<double>(def.max);
  };
  if (const auto* truth = std::get_if<mobrin::BoolInput>(&input.kind)) info.start = truth->start ? 1 : 0;
  if (const auto* def = std::get_if<mobrin::IntInput>(&input.kind)) numbers(*def);
  if (const auto* def = std::get_if<mobrin::FloatInput>(&input.kind)) numbers(*def);
  if (const auto* def = std::get_if<mobrin::PulseInput>(&input.kind)) info.buffer = def->buffer.count;
  if (const auto* def = std::get_if<mobrin::ChoiceInput>(&input.kind)) {
    info.choices = static_cast<std::uint32_t>(def->choices.size());
    for (std::size_t i = 0; i < def->choices.size(); ++i)
      if (def->choices[i].text == def->start.text) info.start = static_cast<double>(i);
  }
  give(out, info);
  return 1;
}
const char* mobrin_choice_name(const mobrin_machine* machine, uint32_t input, uint32_t choice) {
  if (input >= mobrin_count(machine, mobrin_inputs)) return "";
  const auto* def = std::get_if<mobrin::ChoiceInput>(&of(machine)->inputs()[input].kind);
  return def == nullptr || choice >= def->choices.size() ? "" : def->choices[choice].text.c_str();
}
mobrin_ticks mobrin_clip_length(const mobrin_machine* machine, uint32_t clip) {
  return clip >= mobrin_count(machine, mobrin_clips) ? -1 : of(machine)->clips()[clip].length.count;
}
int32_t mobrin_clip_frames(const mobrin_machine* machine, uint32_t clip) {
  return clip >= mobrin_count(machine, mobrin_clips)
             ? -1
             : static_cast<std::int32_t>(of(machine)->clips()[clip].def.frames.size());
}

int mobrin_picture_of(const mobrin_machine* machine, uint32_t clip, int32_t frame, uint32_t look, int mirrored,
                      mobrin_picture* out) {
  if (machine == nullptr) return 0;
  return give_picture(out, of(machine)->picture(index16(clip), frame, index16(look), mirrored != 0));
}
int mobrin_picture_cut(const mobrin_machine* machine, const mobrin_picture* picture, int32_t width, int32_t height,
                       mobrin_cut* out) {
  if (machine == nullptr || picture == nullptr) return 0;
  const mobrin_picture of_this = taken(picture);
  const mobrin::Picture whole =
      of(machine)->picture(of_this.clip, of_this.frame, mobrin::kNoIndex, of_this.mirrored != 0);
  const mobrin::PictureCut cut = whole.cut(width, height);
  mobrin_cut value{};
  value.x = cut.from.x;
  value.y = cut.from.y;
  value.width = cut.from.width;
  value.height = cut.from.height;
  value.pivot_x = cut.pivot_x;
  value.pivot_y = cut.pivot_y;
  give(out, value);
  return cut.from.width > 0 ? 1 : 0;
}

// --- records

const char* mobrin_cue_name(const mobrin_cue* cue) { return cue == nullptr ? "" : words(of(cue)->name()); }
const char* mobrin_cue_kind(const mobrin_cue* cue) { return cue == nullptr ? "" : words(of(cue)->kind()); }
const char* mobrin_cue_state(const mobrin_cue* cue) { return cue == nullptr ? "" : words(of(cue)->state_path()); }
const char* mobrin_cue_clip(const mobrin_cue* cue) { return cue == nullptr ? "" : words(of(cue)->clip_name()); }

}  // extern "C"

namespace {

int number_in(const mobrin::FieldValue* value, double* out) {
  if (value == nullptr) return 0;
  double number = 0;
  if (const auto* truth = std::get_if<bool>(value))
    number = *truth ? 1 : 0;
  else if (const auto* whole = std::get_if<std::int64_t>(value))
    number = static_cast<double>(*whole);
  else if (const auto* fraction = std::get_if<double>(value))
    number = *fraction;
  else
    return 0;
  if (out != nullptr) *out = number;
  return 1;
}

const char* text_in(const mobrin::FieldValue* value) {
  const auto* text = value == nullptr ? nullptr : std::get_if<std::string>(value);
  return text == nullptr ? nullptr : text->c_str();
}

}  // namespace

extern "C" {

int mobrin_cue_number(const mobrin_cue* cue, mobrin_id id, double* out) {
  return cue == nullptr ? 0 : number_in(of(cue)->field(field(id)), out);
}
int mobrin_cue_number_named(const mobrin_cue* cue, const char* name, double* out) {
  return cue == nullptr ? 0 : number_in(of(cue)->field(view(name)), out);
}
const char* mobrin_cue_text(const mobrin_cue* cue, mobrin_id id) {
  return cue == nullptr ? nullptr : text_in(of(cue)->field(field(id)));
}
const char* mobrin_cue_text_named(const mobrin_cue* cue, const char* name) {
  return cue == nullptr ? nullptr : text_in(of(cue)->field(view(name)));
}
int32_t mobrin_cue_list(const mobrin_cue* cue, mobrin_id id, double* out, uint32_t room) {
  const mobrin::FieldValue* value = cue == nullptr ? nullptr : of(cue)->field(field(id));
  const auto* numbers = value == nullptr ? nullptr : std::get_if<std::vector<double>>(value);
  if (numbers == nullptr) return -1;
  if (out != nullptr) std::copy_n(numbers->begin(), std::min<std::size_t>(numbers->size(), room), out);
  return static_cast<std::int32_t>(numbers->size());
}
size_t mobrin_cue_line(const mobrin_cue* cue, char* out, size_t room) {
  return put(cue == nullptr ? std::string() : of(cue)->line(), out, room);
}

mobrin_cues* mobrin_cues_new(uint32_t room, uint32_t listening) {
  return new mobrin_cues(room, static_cast<mobrin::Listening>(listening & MOBRIN_ALL_RECORDS));
}
void mobrin_cues_free(mobrin_cues* cues) { delete cues; }
void mobrin_cues_clear(mobrin_cues* cues) {
  if (cues != nullptr) cues->list.clear();
}
uint32_t mobrin_cues_count(const mobrin_cues* cues) { return cues == nullptr ? 0 : cues->list.size(); }
const mobrin_cue* mobrin_cues_at(const mobrin_cues* cues, uint32_t index) {
  return cues == nullptr || index >= cues->list.size() ? nullptr : given(&cues->list[index]);
}

}  // extern "C"
