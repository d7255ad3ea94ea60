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
/** An empty list that may hold so many records at most; to be freed. */
MOBRIN_API mobrin_crowd_cues* mobrin_crowd_cues_new(size_t limit);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_crowd_cues_free(mobrin_crowd_cues* cues);
/** Takes memory for so many; 0 where there is none. */
MOBRIN_API int mobrin_crowd_cues_reserve(mobrin_crowd_cues* cues, size_t count);
/** Forgets the records; keeps the memory. */
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
/** A crowd without members; `options` may be null. To be freed. */
MOBRIN_API mobrin_crowd* mobrin_crowd_new(const mobrin_machine* machine, const mobrin_crowd_options* options);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_crowd_free(mobrin_crowd* crowd);
/** Its machine; the crowd's. */
MOBRIN_API const mobrin_machine* mobrin_crowd_machine(const mobrin_crowd* crowd);

/** Takes memory for so many members. */
MOBRIN_API void mobrin_crowd_reserve(mobrin_crowd* crowd, uint32_t count);
/** A new member, which begins now. */
MOBRIN_API mobrin_member mobrin_crowd_add(mobrin_crowd* crowd);
/** Takes one out; 0 where it has gone. */
MOBRIN_API int mobrin_crowd_remove(mobrin_crowd* crowd, mobrin_member member);
/** Takes out all who told their end in `cues`; how many. */
MOBRIN_API uint32_t mobrin_crowd_remove_done(mobrin_crowd* crowd, const mobrin_crowd_cues* cues);
/** How many members there are. */
MOBRIN_API uint32_t mobrin_crowd_size(const mobrin_crowd* crowd);
/** How many places there are, free ones too. */
MOBRIN_API uint32_t mobrin_crowd_places(const mobrin_crowd* crowd);
/** Whether this very member is still there. */
MOBRIN_API int mobrin_crowd_has(const mobrin_crowd* crowd, mobrin_member member);
/** Who is at a place; 0 for nobody. */
MOBRIN_API mobrin_member mobrin_crowd_at(const mobrin_crowd* crowd, uint32_t place);

/** Writes an input of one member: mobrin_same to mobrin_refused. */
MOBRIN_API int mobrin_crowd_set_bool(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int value);
/** Writes a whole number; clamped to the input's range. */
MOBRIN_API int mobrin_crowd_set_int(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, int32_t value);
/** Writes a number; clamped; what is no number is refused. */
MOBRIN_API int mobrin_crowd_set_float(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, float value);
/** Writes a choice, by its index. */
MOBRIN_API int mobrin_crowd_set_choice(mobrin_crowd* crowd, mobrin_member member, mobrin_id input, uint32_t choice);
/** Sends a pulse to one member. */
MOBRIN_API int mobrin_crowd_press(mobrin_crowd* crowd, mobrin_member member, mobrin_id pulse);
/** A member's input; 0 where it has gone or the input is of another kind, as of the next ones. */
MOBRIN_API int mobrin_crowd_bool_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** A whole number's value. */
MOBRIN_API int32_t mobrin_crowd_int_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** A number's value. */
MOBRIN_API float mobrin_crowd_float_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** The index of the choice. */
MOBRIN_API uint32_t mobrin_crowd_choice_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id input);
/** Whether a pulse waits. */
MOBRIN_API int mobrin_crowd_pulse_alive(const mobrin_crowd* crowd, mobrin_member member, mobrin_id pulse);
/** A variable's value. */
MOBRIN_API double mobrin_crowd_variable_value(const mobrin_crowd* crowd, mobrin_member member, mobrin_id variable);

/** In bulk: a value for each of `places`, or, where `places` is null, for the first `count` places. How many were
 * refused. Bools and choices are bytes. */
MOBRIN_API size_t mobrin_crowd_write_bools(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                           const uint8_t* values, size_t count);
/** The same of whole numbers. */
MOBRIN_API size_t mobrin_crowd_write_ints(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                          const int32_t* values, size_t count);
/** The same of numbers. */
MOBRIN_API size_t mobrin_crowd_write_floats(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                            const float* values, size_t count);
/** The same of choices, by their indices. */
MOBRIN_API size_t mobrin_crowd_write_choices(mobrin_crowd* crowd, const uint32_t* places, mobrin_id input,
                                             const uint8_t* values, size_t count);
/** Sends a pulse to those at `count` places; 0 where a place is free or the pulse refused. */
MOBRIN_API int mobrin_crowd_press_many(mobrin_crowd* crowd, const uint32_t* places, mobrin_id pulse, size_t count);
/** One value for all. */
MOBRIN_API size_t mobrin_crowd_write_all_bool(mobrin_crowd* crowd, mobrin_id input, int value);
/** The same of a whole number. */
MOBRIN_API size_t mobrin_crowd_write_all_int(mobrin_crowd* crowd, mobrin_id input, int32_t value);
/** The same of a number. */
MOBRIN_API size_t mobrin_crowd_write_all_float(mobrin_crowd* crowd, mobrin_id input, float value);
/** The same of a choice, by its index. */
MOBRIN_API size_t mobrin_crowd_write_all_choice(mobrin_crowd* crowd, mobrin_id input, uint32_t choice);

/** Steps all members by `dt`. 1 when all is done; 0 where the list is full: read and clear it, call again with
 * `out->left`. */
MOBRIN_API int mobrin_crowd_advance(mobrin_crowd* crowd, mobrin_ticks dt, mobrin_crowd_cues* cues,
                                    mobrin_advanced* out);
/** The same in parts for several threads: begin, ranges that do not overlap and together are all places, each with a
 * list of its own, end. */
MOBRIN_API void mobrin_crowd_begin_step(mobrin_crowd* crowd, mobrin_ticks dt);
/** Steps the members at places [first, end); 0 where the list is full: read and clear it, call again. */
MOBRIN_API int mobrin_crowd_advance_range(mobrin_crowd* crowd, uint32_t first, uint32_t end, mobrin_crowd_cues* cues,
                                          mobrin_advanced* out);
/** REQUIRES: all ranges are done. */
MOBRIN_API void mobrin_crowd_end_step(mobrin_crowd* crowd);
/** The instant up to which all have been stepped. */
MOBRIN_API mobrin_ticks mobrin_crowd_now(const mobrin_crowd* crowd);
/** The first instant at which something happens to anybody by itself; MOBRIN_NEVER for none. */
MOBRIN_API mobrin_ticks mobrin_crowd_next_wake(const mobrin_crowd* crowd);

/** A member's pace, 0 to 64; 0 where it has gone or the rate is refused. */
MOBRIN_API int mobrin_crowd_set_rate(mobrin_crowd* crowd, mobrin_member member, double rate);
/** Holds a member for so long; 0 where it has gone. */
MOBRIN_API int mobrin_crowd_freeze(mobrin_crowd* crowd, mobrin_member member, mobrin_ticks duration);
/** Puts a member back to its begin; 0 where it has gone. */
MOBRIN_API int mobrin_crowd_reset(mobrin_crowd* crowd, mobrin_member member);
/** Puts a member into a state, `time` after it was entered, without telling anything; 0 where it is refused. */
MOBRIN_API int mobrin_crowd_place(mobrin_crowd* crowd, mobrin_member member, mobrin_id state, mobrin_ticks time);
/** The innermost active state of a region as an index; MOBRIN_NONE for none. */
MOBRIN_API uint32_t mobrin_crowd_active(const mobrin_crowd* crowd, mobrin_member member, uint32_t region);
/** Whether the state is active. */
MOBRIN_API int mobrin_crowd_in(const mobrin_crowd* crowd, mobrin_member member, mobrin_id state);
/** Whether an active state has the trait. */
MOBRIN_API int mobrin_crowd_is(const mobrin_crowd* crowd, mobrin_member member, mobrin_id trait);
/** Whether its machine has come to an end. */
MOBRIN_API int mobrin_crowd_done(const mobrin_crowd* crowd, mobrin_member member);
/** What a region shows; 0 where that is nothing. */
MOBRIN_API int mobrin_crowd_shown(const mobrin_crowd* crowd, mobrin_member member, uint32_t region, mobrin_shown* out);
/** The look that holds as an index; MOBRIN_NONE for none. */
MOBRIN_API uint32_t mobrin_crowd_look(const mobrin_crowd* crowd, mobrin_member member);
/** What to draw of a region, with the look that holds; 0 where there is nothing. */
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
/** Who shows something else than when this was last asked, `count` of them. */
MOBRIN_API const mobrin_crowd_change* mobrin_crowd_changes(mobrin_crowd* crowd, uint32_t region, size_t* count);
/** Adds to counts[state] how many members at places [first, end) are in it; how many are there. */
MOBRIN_API uint32_t mobrin_crowd_count_active(const mobrin_crowd* crowd, uint32_t first, uint32_t end, uint32_t* counts,
                                              uint32_t states);

/** The whole state into `out`. */
MOBRIN_API void mobrin_crowd_snapshot(const mobrin_crowd* crowd, mobrin_bytes* out);
/** 0, with nothing changed, where the bytes are no snapshot of a crowd of this machine. */
MOBRIN_API int mobrin_crowd_restore(mobrin_crowd* crowd, const void* snapshot, size_t size);
/** The same for the same state of the same machine. */
MOBRIN_API uint64_t mobrin_crowd_hash(const mobrin_crowd* crowd);
/** Bytes of one member's state. */
MOBRIN_API size_t mobrin_crowd_member_size(const mobrin_crowd* crowd);
/** A member's state into `out`; 0 where there is no room or nobody. */
MOBRIN_API int mobrin_crowd_member_bytes(const mobrin_crowd* crowd, uint32_t place, void* out, size_t room);
/** Puts it back at a place; 0 where it does not fit. */
MOBRIN_API int mobrin_crowd_put_member_bytes(mobrin_crowd* crowd, uint32_t place, const void* bytes, size_t size);
/** Writes the places that differ from a snapshot to `out`, as many as there is room for; how many there are, or
 * (size_t)-1 where it is no snapshot of this crowd. */
MOBRIN_API size_t mobrin_crowd_changed_since(const mobrin_crowd* crowd, const void* snapshot, size_t size,
                                             uint32_t* out, size_t room);
/** Memory that each member takes, all counted. */
MOBRIN_API size_t mobrin_crowd_bytes_per_member(const mobrin_crowd* crowd);
/** Hot reload: gives `into`, of a changed machine, all members of `from`. As mobrin_carry_over. */
MOBRIN_API uint32_t mobrin_crowd_carry_over(const mobrin_crowd* from, mobrin_crowd* into, mobrin_text** losses);

#ifdef __cplusplus
}
#endif

#endif
