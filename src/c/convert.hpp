// Between C and C++: objects, ids, structures with a size, errors.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/c/mobrin.h"
#include "mobrin/contact/arena.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/parts.hpp"
#include "mobrin/core/trace.hpp"

struct mobrin_text {
  std::string text;
};
struct mobrin_bytes {
  std::vector<std::byte> bytes;
};
struct mobrin_cues {
  mobrin_cues(std::uint32_t room, mobrin::Listening listening) : memory(room), list(memory, listening) {}
  std::vector<mobrin::Cue> memory;
  mobrin::CueBuffer list;
};
struct mobrin_crowd_cues : mobrin::CrowdCues {
  using CrowdCues::CrowdCues;
};
struct mobrin_round : mobrin::SettlingRound {
  using SettlingRound::SettlingRound;
};

namespace mobrin::c {

// What a crowd's memory comes from, as the caller gave it.
struct Memory {
  mobrin_crowd_options from{};
  void* allocate(std::size_t bytes, std::size_t alignment) { return from.allocate(from.memory, bytes, alignment); }
  void deallocate(void* what, std::size_t bytes, std::size_t alignment) {
    from.deallocate(from.memory, what, bytes, alignment);
  }
};

}  // namespace mobrin::c

struct mobrin_crowd : mobrin::c::Memory, mobrin::Crowd {
  mobrin_crowd(const mobrin::Machine& machine, const mobrin_crowd_options& options)
      : Memory{options}, Crowd(machine, crowd_options(options)) {}

 private:
  mobrin::CrowdOptions crowd_options(const mobrin_crowd_options& options) {
    mobrin::CrowdOptions out;
    if (options.listening != 0) out.listening = static_cast<mobrin::Listening>(options.listening);
    if (options.allocate != nullptr && options.deallocate != nullptr) out.memory = static_cast<Memory*>(this);
    return out;
  }
};

namespace mobrin::c {

// --- objects

inline Machine* of(mobrin_machine* machine) { return reinterpret_cast<Machine*>(machine); }
inline const Machine* of(const mobrin_machine* machine) { return reinterpret_cast<const Machine*>(machine); }
inline Instance* of(mobrin_instance* it) { return reinterpret_cast<Instance*>(it); }
inline const Instance* of(const mobrin_instance* it) { return reinterpret_cast<const Instance*>(it); }
inline mobrin_machine* given(Machine* machine) { return reinterpret_cast<mobrin_machine*>(machine); }
inline const mobrin_machine* given(const Machine* machine) { return reinterpret_cast<const mobrin_machine*>(machine); }
inline mobrin_instance* given(Instance* it) { return reinterpret_cast<mobrin_instance*>(it); }

// A record is the same in both.
static_assert(sizeof(mobrin_cue) == sizeof(Cue) && sizeof(mobrin_crowd_cue) == sizeof(CrowdCue));
static_assert(offsetof(mobrin_cue, at) == offsetof(Cue, at) && offsetof(mobrin_cue, ordinal) == offsetof(Cue, ordinal));
static_assert(offsetof(mobrin_cue, transition) == offsetof(Cue, transition));
static_assert(offsetof(mobrin_cue, frame) == offsetof(Cue, frame));
static_assert(offsetof(mobrin_cue, fields) == offsetof(Cue, fields) && offsetof(mobrin_cue, cue) == offsetof(Cue, cue));
static_assert(offsetof(mobrin_cue, state) == offsetof(Cue, state) && offsetof(mobrin_cue, clip) == offsetof(Cue, clip));
static_assert(offsetof(mobrin_cue, what) == offsetof(Cue, what) && offsetof(mobrin_cue, edge) == offsetof(Cue, edge));
static_assert(offsetof(mobrin_crowd_cue, place) == offsetof(CrowdCue, place));
inline const Cue* of(const mobrin_cue* cue) { return reinterpret_cast<const Cue*>(cue); }
inline const mobrin_cue* given(const Cue* cue) { return reinterpret_cast<const mobrin_cue*>(cue); }
inline const mobrin_crowd_cue* given(const CrowdCue* cue) { return reinterpret_cast<const mobrin_crowd_cue*>(cue); }
// So is what a crowd shows.
static_assert(sizeof(mobrin_crowd_frame) == sizeof(CrowdShown) && sizeof(mobrin_crowd_change) == sizeof(CrowdChange));
static_assert(offsetof(mobrin_crowd_frame, mirrored) == offsetof(CrowdShown, mirrored));
static_assert(offsetof(mobrin_crowd_frame, frame) == offsetof(CrowdShown, frame));
static_assert(offsetof(mobrin_crowd_frame, weight) == offsetof(CrowdShown, weight));
static_assert(offsetof(mobrin_crowd_change, shown) == offsetof(CrowdChange, shown));

// --- structures with a size

// As much of a structure as its user knows.
template <class T>
T taken(const T* from) {
  T out{};
  if (from != nullptr) std::memcpy(&out, from, std::min<std::size_t>(from->size, sizeof(T)));
  out.size = sizeof(T);
  return out;
}
template <class T>
void give(T* to, T value) {
  if (to == nullptr) return;
  value.size = to->size;
  std::memcpy(to, &value, std::min<std::size_t>(to->size, sizeof(T)));
}
// The i-th of an array whose elements are as large as the first one says.
template <class T>
T* nth(T* first, std::size_t i) {
  return reinterpret_cast<T*>(reinterpret_cast<std::byte*>(first) + i * first->size);
}
template <class T>
const T* nth(const T* first, std::size_t i) {
  return reinterpret_cast<const T*>(reinterpret_cast<const std::byte*>(first) + i * first->size);
}

// --- ids: the machine's serial, what it is, and where

enum class Kind : std::uint8_t {
  nothing,
  boolean,
  whole,
  number,
  choice,
  pulse,
  state,
  trait,
  clip,
  region,
  variable,
  field
};

inline mobrin_id id_of(std::uint32_t machine, Kind kind, std::uint32_t index) {
  return std::uint64_t{machine} << 32 | std::uint64_t{static_cast<std::uint8_t>(kind)} << 28 | index;
}
inline Kind kind_of(mobrin_id id) { return static_cast<Kind>(id >> 28 & 15); }
// The handle that an id stands for; one that every machine refuses where it is of another kind.
template <class Handle>
Handle handle(mobrin_id id, Kind kind) {
  if (kind_of(id) != kind) return {};
  return {static_cast<std::uint32_t>(id >> 32), static_cast<decltype(Handle::index)>(mobrin_index(id))};
}
inline Input<bool> boolean(mobrin_id id) { return handle<Input<bool>>(id, Kind::boolean); }
inline Input<std::int32_t> whole(mobrin_id id) { return handle<Input<std::int32_t>>(id, Kind::whole); }
inline Input<float> number(mobrin_id id) { return handle<Input<float>>(id, Kind::number); }
inline Input<Choice> choice(mobrin_id id) { return handle<Input<Choice>>(id, Kind::choice); }
inline Pulse pulse(mobrin_id id) { return handle<Pulse>(id, Kind::pulse); }
inline State state(mobrin_id id) { return handle<State>(id, Kind::state); }
inline Trait trait(mobrin_id id) { return handle<Trait>(id, Kind::trait); }
inline Clip clip(mobrin_id id) { return handle<Clip>(id, Kind::clip); }
inline Variable variable(mobrin_id id) { return handle<Variable>(id, Kind::variable); }
inline Field field(mobrin_id id) {
  if (kind_of(id) != Kind::field) return {};
  return {static_cast<std::uint32_t>(id >> 32), static_cast<std::uint16_t>(id >> 12),
          static_cast<std::uint16_t>(id & 4095)};
}

// --- small things

inline std::uint16_t index16(std::uint32_t index) {
  return index < kNoIndex ? static_cast<std::uint16_t>(index) : kNoIndex;
}
// A choice that does not exist is refused by the engine.
inline Choice choice_at(std::uint32_t index) { return {static_cast<std::uint8_t>(std::min(index, 255u))}; }
inline Member member_of(mobrin_member member) {
  return {static_cast<std::uint32_t>(member), static_cast<std::uint32_t>(member >> 32)};
}
inline mobrin_member given(Member member) {
  return member.generation == 0 ? 0 : std::uint64_t{member.generation} << 32 | member.place;
}
// Names are whole strings of the machine, so that they end with 0.
inline const char* words(std::string_view name) { return name.data() == nullptr ? "" : name.data(); }
inline std::string_view view(const char* text) { return text == nullptr ? std::string_view() : text; }
template <class T>
std::span<const T> list(const T* first, std::size_t count) {
  return {first, first == nullptr ? 0 : count};
}
inline std::span<const std::byte> bytes(const void* first, std::size_t size) {
  return list(static_cast<const std::byte*>(first), size);
}
// Into a caller's characters, cut where it is longer; how long it is.
inline std::size_t put(std::string_view text, char* out, std::size_t room) {
  if (out == nullptr || room == 0) return text.size();
  const std::size_t fits = std::min(text.size(), room - 1);
  std::memcpy(out, text.data(), fits);
  out[fits] = 0;
  return text.size();
}
inline mobrin_text* text_of(std::string text) { return text.empty() ? nullptr : new mobrin_text{std::move(text)}; }
// The losses as a text, a line each.
inline std::uint32_t tell_losses(const CarryLosses& losses, mobrin_text** out) {
  std::string text;
  for (const CarryLoss& loss : losses) text += loss.text + "\n";
  if (out != nullptr) *out = text_of(std::move(text));
  return static_cast<std::uint32_t>(losses.size());
}

inline int fail(mobrin_error* out, int code, std::string_view why) {
  mobrin_error error{};
  error.code = code;
  (void)put(why, error.text, sizeof error.text);
  give(out, error);
  return code;
}
inline int fail(mobrin_error* out, const Error& error) {
  return fail(out, error.unknown ? mobrin_unknown_name : mobrin_wrong_type, error.text());
}
inline int no_object(mobrin_error* out) {
  return fail(out, mobrin_bad_argument, "there is no object: a null was given");
}

// Gives each of them for which there is room to `put(structure, value)`.
template <class T, class Out, class Put>
void give_each(std::span<const T> all, Out* out, std::uint32_t room, const Put& put) {
  for (std::size_t i = 0; out != nullptr && i < std::min<std::size_t>(all.size(), room); ++i) {
    nth(out, i)->size = out->size;
    put(nth(out, i), all[i]);
  }
}

// All that `read(span)` has, which gives their number: few of them without allocating.
template <class T, class Read>
class All {
 public:
  explicit All(const Read& read) : count_(read(std::span<T>(few_))) {
    if (count_ <= few_.size()) return;
    many_.resize(count_);
    (void)read(std::span<T>(many_));
  }
  [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(count_); }
  // Gives each for which there is room to `put(structure, value)`.
  template <class Out, class Put>
  void each(Out* out, std::uint32_t room, const Put& put) const {
    give_each(std::span<const T>(many_.empty() ? few_.data() : many_.data(), count_), out, room, put);
  }

 private:
  std::array<T, 32> few_{};
  std::vector<T> many_;
  std::size_t count_;
};
template <class T, class Read>
All<T, Read> all(const Read& read) {
  return All<T, Read>(read);
}

inline void give_advanced(mobrin_advanced* out, const Advanced& how) {
  mobrin_advanced value{};
  value.needs = how.needs;
  value.covered = how.covered.count;
  value.left = how.left.count;
  value.stopped = how.stopped ? 1 : 0;
  give(out, value);
}
// 0 where nothing is shown, or `out` is no structure.
inline int give_shown(mobrin_shown* out, const Shown& shown) {
  mobrin_shown value{};
  value.clip = shown.clip;
  value.mirrored = shown.mirrored ? 1 : 0;
  value.frame = shown.frame;
  value.seconds = shown.seconds;
  value.weight = shown.weight;
  give(out, value);
  return shown.nothing() ? 0 : 1;
}
inline int give_picture(mobrin_picture* out, const Picture& picture) {
  mobrin_picture value{};
  value.image = picture.image;
  value.file_frame = picture.file_frame;
  value.mirrored = picture.mirrored ? 1 : 0;
  value.clip = picture.clip;
  value.frame = picture.frame;
  give(out, value);
  return picture ? 1 : 0;
}

inline Placement placement(const mobrin_placement& from) {
  return {{from.x, from.y}, from.faces_left != 0, from.scale};
}
inline Participant participant(const mobrin_participant* from) {
  const mobrin_participant who = taken(from);
  return {who.id, who.tags, who.alive != 0, placement(who.from), placement(who.to)};
}

// Calls a C handler with a context.
struct Teller {
  mobrin_cue_handler handler;
  void* context;
  void operator()(const Cue& cue) const {
    if (handler != nullptr) handler(context, given(&cue));
  }
};

}  // namespace mobrin::c
