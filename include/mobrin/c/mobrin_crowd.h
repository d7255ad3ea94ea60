/** @file
 * Crowds for C: many instances of one machine, stepped together. Part of mobrin.h, which includes it. */
#ifndef MOBRIN_C_MOBRIN_CROWD_H
#define MOBRIN_C_MOBRIN_CROWD_H

#include "mobrin/c/mobrin.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Records of a crowd, at most `limit`; the list grows as needed and keeps its memory. */
typedef struct mobrin_crowd_cues mobrin_crowd_cues;
/** Makes one: `CrowdCues` in C++. */
MOBRIN_API mobrin_crowd_cues* mobrin_crowd_cues_new(size_t limit);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_crowd_cues_free(mobrin_crowd_cues* cues);
/** In C++: `CrowdCues`. */
MOBRIN_API int mobrin_crowd_cues_reserve(mobrin_crowd_cues* cues, size_t count);
/** In C++: `CrowdCues`. */
MOBRIN_API void mobrin_crowd_cues_clear(mobrin_crowd_cues* cues);
/** All records, one after the other; `count` gets their number. Valid until the list is cleared, filled or freed. */
MOBRIN_API const mobrin_crowd_cue* mobrin_crowd_cues_data(const mobrin_crowd_cues* cues, size_t* count);

/** How a crowd is made. */
typedef struct mobrin_crowd_options {
  uint32_t size;      /**< sizeof this struct; mobrin_init sets it */
  uint32_t listening; /**< 0: MOBRIN_GAME_RECORDS */
  /* Where its memory comes from; all null: the program's own. allocate may give null where it has no more. */
  void* memory;                                                    /**< given to both functions */
  void* (*allocate)(void* memory, size_t bytes, size_t alignment); /**< gives memory, or null where there is none */
  void (*deallocate)(void* memory, void* what, size_t bytes, size_t alignment); /**< takes it back */
} mobrin_crowd_options;
/** Makes one: `Crowd` in C++. */
MOBRIN_API mobrin_crowd* mobrin_crowd_new(const mobrin_machine* machine, const mobrin_crowd_options* options);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_crowd_free(mobrin_crowd* crowd);
/** In C++: `machine`. */
MOBRIN_API const mobrin_machine* mobrin_crowd_machine(const mobrin_crowd* crowd);

/** In C++: `reserve`. */
MOBRIN_API void mobrin_crowd_reserve(mobrin_crowd* crowd, uint32_t count);
/** In C++: `add`. */
MOBRIN_API mobrin_member mobrin_crowd_add(mobrin_crowd* crowd);
/** In C++: `remove`. */
MOBRIN_API int mobrin_crowd_remove(mobrin_crowd* crowd, mobrin_member member);
/** In C++: `remove_done`. */
MOBRIN_API uint32_t mobrin_crowd_remove_done(mobrin_crowd* crowd, const mobrin_crowd_cues* cues);
/** In C++: `size`. */
MOBRIN_API uint32_t mobrin_crowd_size(const mobrin_crowd* crowd);
/** In C++: `places`. */
MOBRIN_API uint32_t mobrin_crowd_places(const mobrin_crowd* crowd);
/** In C++: `has`. */
MOBRIN_API int mobrin_crowd_has(const mobrin_crowd* crowd, mobrin_member member);
/** In C++: `at`. */
MOBRIN_API mobrin_member mobrin_crowd_at(const mobrin_crowd* crowd, uint32_t place);

/** In C++: `set`, `pulse`. */
MOBRIN_API int mobrin_crowd_set_bool(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int value);
/** In C++: `set`, `pulse`. */
MOBRIN_API int mobrin_crowd_set_int(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int32_t value);
/** In C++: `set`, `pulse`. */
MOBRIN_API int mobrin_crowd_set_float(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, float value);
/** In C++: `set`, `pulse`. */
MOBRIN_API int mobrin_crowd_set_choice(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, uint32_t choice);
/** In C++: `set`, `pulse`. */
MOBRIN_API int mobrin_crowd_press(mobrin_crowd* crowd, mobrin_member member, mobrin_id pulse);
/** In C++: `value`. */
MOBRIN_API int mobrin_crowd_bool_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** In C++: `value`. */
MOBRIN_API int32_t mobrin_crowd_int_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** In C++: `value`. */
MOBRIN_API float mobrin_crowd_float_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** In C++: `value`. */
MOBRIN_API uint32_t mobrin_crowd_choice_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** In C++: `value`. */
MOBRIN_API int mobrin_crowd_pulse_alive(const mobrin_crowd* crowd, mobrin_member member, mobrin_id pulse);
/** In C++: `value`. */
MOBRIN_API double mobrin_crowd_variable_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id variable);

/** In bulk: a value for each of `places`, or, where `places` is null, for the first `count` places. How many were
 * refused. Bools and choices are bytes. */
MOBRIN_API size_t mobrin_crowd_write_bools(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                           const uint8_t* values, size_t count);
/** In C++: `set`, `set_all`, `pulse`. */
MOBRIN_API size_t mobrin_crowd_write_ints(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                          const int32_t* values, size_t count);
/** In C++: `set`, `set_all`, `pulse`. */
MOBRIN_API size_t mobrin_crowd_write_floats(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                            const float* values, size_t count);
/** In C++: `set`, `set_all`, `pulse`. */
MOBRIN_API size_t mobrin_crowd_write_choices(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                             const uint8_t* values, size_t count);
/** In C++: `set`, `set_all`, `pulse`. */
MOBRIN_API int mobrin_crowd_press_many(mobrin_crowd* crowd, const uint32_t* places, mobrin_id pulse, size_t count);
/** One value for all. */
MOBRIN_API size_t mobrin_crowd_write_all_bool(mobrin_crowd* crowd, mobrin_id input, int value);
/** In C++: `set_all`. */
MOBRIN_API size_t mobrin_crowd_write_all_int(mobrin_crowd* crowd, mobrin_id input, int32_t value);
/** In C++: `set_all`. */
MOBRIN_API size_t mobrin_crowd_write_all_float(mobrin_crowd* crowd, mobrin_id input, float value);
/** In C++: `set_all`. */
MOBRIN_API size_t mobrin_crowd_write_all_choice(mobrin_crowd* crowd, mobrin_id input, uint32_t choice);

/** In C++: `advance`. */
MOBRIN_API int mobrin_crowd_advance(mobrin_crowd* crowd, mobrin_ticks dt, mobrin_crowd_cues* cues,
                                    mobrin_advanced* out);
/** The same in parts for several threads: begin, ranges that do not overlap and together are all places, each with a
 * list of its own, end. */
MOBRIN_API void mobrin_crowd_begin_step(mobrin_crowd* crowd, mobrin_ticks dt);
/** In C++: `advance_range`. */
MOBRIN_API int mobrin_crowd_advance_range(mobrin_crowd* crowd, uint32_t first, uint32_t end, mobrin_crowd_cues* cues,
                                          mobrin_advanced* out);
/** In C++: `end_step`. */
MOBRIN_API void mobrin_crowd_end_step(mobrin_crowd* crowd);
/** In C++: `now`. */
MOBRIN_API mobrin_ticks mobrin_crowd_now(const mobrin_crowd* crowd);
/** In C++: `next_wake`. */
MOBRIN_API mobrin_ticks mobrin_crowd_next_wake(const mobrin_crowd* crowd);

/** In C++: `set_rate`. */
MOBRIN_API int mobrin_crowd_set_rate(mobrin_crowd* crowd, mobrin_member member, double rate);
/** In C++: `freeze`. */
MOBRIN_API int mobrin_crowd_freeze(mobrin_crowd* crowd, mobrin_member member, mobrin_ticks duration);
/** In C++: `reset`. */
MOBRIN_API int mobrin_crowd_reset(mobrin_crowd* crowd, mobrin_member member);
/** In C++: `place`. */
MOBRIN_API int mobrin_crowd_place(mobrin_crowd* crowd, mobrin_member member, mobrin_id state, mobrin_ticks time);
/** In C++: `active`. */
MOBRIN_API uint32_t mobrin_crowd_active(const mobrin_crowd* crowd, mobrin_member member, uint32_t region);
/** In C++: `in`. */
MOBRIN_API int mobrin_crowd_in(const mobrin_crowd* crowd, mobrin_member member, mobrin_id state);
/** In C++: `is`. */
MOBRIN_API int mobrin_crowd_is(const mobrin_crowd* crowd, mobrin_member member, mobrin_id trait);
/** In C++: `done`. */
MOBRIN_API int mobrin_crowd_done(const mobrin_crowd* crowd, mobrin_member member);
/** In C++: `shown`, `shown_all`, `shown_changed`, `count_active`. */
MOBRIN_API int mobrin_crowd_shown(const mobrin_crowd* crowd, mobrin_member member, uint32_t region, mobrin_shown* out);
/** In C++: `look`. */
MOBRIN_API uint32_t mobrin_crowd_look(const mobrin_crowd* crowd, mobrin_member member);
/** In C++: `picture`. */
MOBRIN_API int mobrin_crowd_picture(const mobrin_crowd* crowd, mobrin_member member, uint32_t region, int faces_left,
                                    mobrin_picture* out);
/** A copy of a member as an instance, to be freed; null for one that is gone. */
MOBRIN_API mobrin_instance* mobrin_crowd_copy(const mobrin_crowd* crowd, mobrin_member member);

/** What a member shows, for a renderer. */
typedef struct mobrin_crowd_frame {
  uint16_t clip;    /**< MOBRIN_NONE when nothing is shown */
  uint8_t mirrored; /**< the clip is shown mirrored */
  int32_t frame;    /**< index in the clip's own list; -1 for a clip without frames */
  float weight;     /**< below 1 while it fades in */
} mobrin_crowd_frame;
/** A member who shows something else than before. */
typedef struct mobrin_crowd_change {
  uint32_t place;           /**< the member's place */
  mobrin_crowd_frame shown; /**< what it shows now */
} mobrin_crowd_change;
/** Of `places`, or of the first `room` places where that is null. How many were filled. */
MOBRIN_API size_t mobrin_crowd_frames(const mobrin_crowd* crowd, const uint32_t* places, uint32_t region,
                                      mobrin_crowd_frame* out, size_t room);
/** All, without a copy; and those that show something else than when this was last asked. Valid until the crowd is next
 * asked what is shown, written to or stepped. */
MOBRIN_API const mobrin_crowd_frame* mobrin_crowd_all_frames(const mobrin_crowd* crowd, uint32_t region, size_t* count);
/** In C++: `shown`, `shown_all`, `shown_changed`, `count_active`. */
MOBRIN_API const mobrin_crowd_change* mobrin_crowd_changes(mobrin_crowd* crowd, uint32_t region, size_t* count);
/** Adds to counts[state] how many members at places [first, end) are in it; how many are there. */
MOBRIN_API uint32_t mobrin_crowd_count_active(const mobrin_crowd* crowd, uint32_t first, uint32_t end, uint32_t* counts,
                                              uint32_t states);

/** In C++: `snapshot`. */
MOBRIN_API void mobrin_crowd_snapshot(const mobrin_crowd* crowd, mobrin_bytes* out);
/** In C++: `restore`. */
MOBRIN_API int mobrin_crowd_restore(mobrin_crowd* crowd, const void* snapshot, size_t size);
/** In C++: `hash`. */
MOBRIN_API uint64_t mobrin_crowd_hash(const mobrin_crowd* crowd);
/** In C++: `member_size`. */
MOBRIN_API size_t mobrin_crowd_member_size(const mobrin_crowd* crowd);
/** In C++: `member_bytes`. */
MOBRIN_API int mobrin_crowd_member_bytes(const mobrin_crowd* crowd, uint32_t place, void* out, size_t room);
/** In C++: `put_member_bytes`. */
MOBRIN_API int mobrin_crowd_put_member_bytes(mobrin_crowd* crowd, uint32_t place, const void* bytes, size_t size);
/** Writes the places that differ from a snapshot to `out`, as many as there is room for; how many there are, or
 * (size_t)-1 where it is no snapshot of this crowd. */
MOBRIN_API size_t mobrin_crowd_changed_since(const mobrin_crowd* crowd, const void* snapshot, size_t size,
                                             uint32_t* out, size_t room);
/** In C++: `bytes_per_member`. */
MOBRIN_API size_t mobrin_crowd_bytes_per_member(const mobrin_crowd* crowd);
/** In C++: `carry_over`. */
MOBRIN_API uint32_t mobrin_crowd_carry_over(const mobrin_crowd* from, mobrin_crowd* into, mobrin_text** losses);

#ifdef __cplusplus
}
#endif

#endif
