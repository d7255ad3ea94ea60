/** @file
 * Mobrin for C99 and for every language that can call C. One library, libmobrin, without dependencies: machines from
 * packs, instances, crowds, contacts, zones, arenas, snapshots. docs/c.md shows each call beside its C++ twin, whose
 * description (mobrin/core/... and mobrin/contact/...) holds here too. mobrin_files.h adds files, tapes and saves.
 *
 * Objects are opaque, made by ..._new and given back by ..._free, which takes a null. Nothing here throws; where memory
 * is out when an object is made or grows the program stops. No step allocates once its lists have grown. Objects are as
 * thread-safe as their C++ twins: different instances may run on different threads, a machine may be shared by all.
 *
 * Structures with `size` grow at their end in later versions: set it to sizeof before each call (mobrin_init does it).
 * Texts are UTF-8, end with 0, and live as long as the object they come from (names: as long as a machine or instance
 * of it). A null object, an index beyond a list and an id of another machine or kind are refused: 0, null, -1 or
 * `mobrin_refused` comes back, nothing is read or written.
 */
#ifndef MOBRIN_C_MOBRIN_H
#define MOBRIN_C_MOBRIN_H

#include <stddef.h>
#include <stdint.h>

#if defined(_WIN32) && !defined(MOBRIN_STATIC)
#ifdef MOBRIN_BUILDING
#define MOBRIN_API __declspec(dllexport)
#else
#define MOBRIN_API __declspec(dllimport)
#endif
#elif defined(__GNUC__)
#define MOBRIN_API __attribute__((visibility("default")))
#else
/** What leaves the library. */
#define MOBRIN_API
#endif

#ifdef __cplusplus
extern "C" {
#endif

/* --- the library, time, errors, texts ---------------------------------------------------------------------------- */

/** major * 10000 + minor * 100 + patch of the library that is linked. */
MOBRIN_API int32_t mobrin_version(void);

/** An instant or a span of time, in ticks of 1/705,600,000 s. 24, 25, 30, 48, 50, 60, 90, 100 and 120 Hz divide it. */
typedef int64_t mobrin_ticks;
/** How many ticks a second has. */
#define MOBRIN_TICKS_PER_SECOND INT64_C(705600000)
/** An instant that does not come. */
#define MOBRIN_NEVER INT64_MAX
/** To the nearest tick. 0 for what is no number or beyond 10^9 s. */
MOBRIN_API mobrin_ticks mobrin_seconds(double seconds);
/** The other way round. */
MOBRIN_API double mobrin_to_seconds(mobrin_ticks ticks);
/** The instant at which step `step` of a game at `hz` steps a second ends, without drift. 0 where hz < 1 or step < 0.
 */
MOBRIN_API mobrin_ticks mobrin_step_end(int64_t step, int64_t hz);

/** What a call says that can fail. */
enum {
  mobrin_ok = 0,
  mobrin_unknown_name = 1, /* a name that nothing has; the text names the nearest */
  mobrin_wrong_type = 2,   /* the name is known and does not fit */
  mobrin_refused_bytes = 3,
  mobrin_bad_argument = 4,
  mobrin_bad_file = 5 /* of mobrin_files.h: its report says where and why */
};
/** What went wrong, for a person. Every function that takes one takes a null too. */
typedef struct mobrin_error {
  uint32_t size;   /**< sizeof this struct; mobrin_init sets it */
  int32_t code;    /**< what mobrin_ok and its like number; mobrin_ok: none */
  char text[1016]; /**< cut where it is longer */
} mobrin_error;

/** Sets `size` and clears the rest: `mobrin_error error; mobrin_init(error);` */
#ifdef __cplusplus
#define mobrin_init(object) ((object) = {}, (object).size = static_cast<uint32_t>(sizeof(object)))
#else
#define mobrin_init(object)                                                                        \
  do {                                                                                             \
    unsigned char* mobrin_bytes_ = (unsigned char*)&(object);                                      \
    size_t mobrin_at_;                                                                             \
    for (mobrin_at_ = 0; mobrin_at_ < sizeof(object); ++mobrin_at_) mobrin_bytes_[mobrin_at_] = 0; \
    (object).size = (uint32_t)sizeof(object);                                                      \
  } while (0)
#endif

/** A text of any length that the library made. */
typedef struct mobrin_text mobrin_text;
/** The text, which ends with 0; lives as long as `text`. */
MOBRIN_API const char* mobrin_text_data(const mobrin_text* text);
/** Its bytes, without the 0. */
MOBRIN_API size_t mobrin_text_size(const mobrin_text* text);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_text_free(mobrin_text* text);

/** Bytes that grow as needed and keep their memory when they are filled anew. */
typedef struct mobrin_bytes mobrin_bytes;
/** An empty list of bytes, for what a call gives; to be freed. */
MOBRIN_API mobrin_bytes* mobrin_bytes_new(void);
/** The bytes; valid until the list is filled anew or freed. */
MOBRIN_API const void* mobrin_bytes_data(const mobrin_bytes* bytes);
/** How many there are. */
MOBRIN_API size_t mobrin_bytes_size(const mobrin_bytes* bytes);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_bytes_free(mobrin_bytes* bytes);

/* --- machines ----------------------------------------------------------------------------------------------------- */

/** A machine: what a file or a pack says, shared by all that run it. */
typedef struct mobrin_machine mobrin_machine;
/** One running machine. */
typedef struct mobrin_instance mobrin_instance;
/** Many running machines of one kind; see mobrin_crowd.h. */
typedef struct mobrin_crowd mobrin_crowd;
/** A member: its place, and a number that a later member of the same place does not share. 0: nobody. */
typedef uint64_t mobrin_member;
/** The place of a member, as lists of places and records have it. */
#define mobrin_member_place(member) ((member)&0xffffffffu)

/** Stands for no index. */
#define MOBRIN_NONE 0xffffu
/** Stands for no image. */
#define MOBRIN_NO_IMAGE 0xffffffffu

/** What a name stands for in one machine: an input, pulse, state, trait, clip, region, variable or field. Get it once
 * and keep it; another machine, also the same one loaded anew, refuses it. 0: nothing. */
typedef uint64_t mobrin_id;
/** The index an id stands for: compare a clip's with mobrin_shown.clip. */
#define mobrin_index(id) ((id)&0xfffffffu)

/** Loads what `mobrin pack` made; the bytes may be freed afterwards. `fits`: the interface that a program was built
 * against, 0 for any. Null with the error for bytes that are no sound pack. */
MOBRIN_API mobrin_machine* mobrin_machine_from_pack(const void* bytes, size_t size, uint64_t fits, mobrin_error* error);
/** The machine as a pack. */
MOBRIN_API void mobrin_machine_pack(const mobrin_machine* machine, int with_names, mobrin_bytes* out);
/** Another handle to the same machine, to be freed on its own. Instances and crowds keep what they need. */
MOBRIN_API mobrin_machine* mobrin_machine_share(const mobrin_machine* machine);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_machine_free(mobrin_machine* machine);

/** As its file says. */
MOBRIN_API const char* mobrin_machine_name(const mobrin_machine* machine);
/** A hash of all that decides what the machine does: the same for the same definition everywhere. */
MOBRIN_API uint64_t mobrin_machine_fingerprint(const mobrin_machine* machine);
/** What ids depend on (names, kinds and ranges), as a number; never 0 but without a machine. */
MOBRIN_API uint64_t mobrin_machine_interface(const mobrin_machine* machine);
/** Bytes of an instance's state: see mobrin_block. */
MOBRIN_API size_t mobrin_machine_block_size(const mobrin_machine* machine);
/** The most records that one instant can bring: a list with as much room never stops a step. */
MOBRIN_API uint32_t mobrin_machine_most_records(const mobrin_machine* machine);
/** Pixels of the art to a world unit. */
MOBRIN_API double mobrin_machine_unit(const mobrin_machine* machine);

/** Kinds of inputs. */
enum { mobrin_bool = 0, mobrin_int = 1, mobrin_float = 2, mobrin_choice = 3, mobrin_pulse = 4 };

/** Ids by name; 0 with the error, which names the nearest, where there is no such thing or the input is of another
 * kind. A state by its path. `state` of a variable: null for the machine's own, else a state's path. */
MOBRIN_API mobrin_id mobrin_input_id(const mobrin_machine* machine, const char* name, int kind, mobrin_error* error);
/** A state by its path, or by its name where only one has it; 0 with an error where there is none. */
MOBRIN_API mobrin_id mobrin_state_id(const mobrin_machine* machine, const char* path, mobrin_error* error);
/** A trait; likewise. */
MOBRIN_API mobrin_id mobrin_trait_id(const mobrin_machine* machine, const char* name, mobrin_error* error);
/** A clip; likewise. */
MOBRIN_API mobrin_id mobrin_clip_id(const mobrin_machine* machine, const char* name, mobrin_error* error);
/** A region by its path; likewise. */
MOBRIN_API mobrin_id mobrin_region_id(const mobrin_machine* machine, const char* path, mobrin_error* error);
/** A variable, of a state by its path or of the whole machine (null or empty); likewise. */
MOBRIN_API mobrin_id mobrin_variable_id(const mobrin_machine* machine, const char* name, const char* state,
                                        mobrin_error* error);
/** A field of a cue; likewise. */
MOBRIN_API mobrin_id mobrin_field_id(const mobrin_machine* machine, const char* cue, const char* field,
                                     mobrin_error* error);
/** The index of a choice of a choice input; -1 with the error. */
MOBRIN_API int32_t mobrin_choice_index(const mobrin_machine* machine, mobrin_id input, const char* name,
                                       mobrin_error* error);
/** The index of a cue, to compare with mobrin_cue.cue; -1 with the error. */
MOBRIN_API int32_t mobrin_cue_index(const mobrin_machine* machine, const char* name, mobrin_error* error);

/** What a machine is made of, by index. */
enum {
  mobrin_inputs = 0,
  mobrin_cue_names = 1,
  mobrin_clips = 2,
  mobrin_states = 3, /* by path; the root, with an empty one, first */
  mobrin_regions = 4,
  mobrin_transitions = 5, /* their text */
  mobrin_traits = 6,
  mobrin_looks = 7,
  mobrin_zones = 8,
  mobrin_reaches = 9,
  mobrin_images = 10 /* all image files that are shown, each once */
};
/** In C++: `inputs()`, `cues()`, `clips()`, `states()`, `regions()`, `transitions()`, `traits()`, `looks()`, `zones()`,
 * `reaches()`, `images()`. */
MOBRIN_API uint32_t mobrin_count(const mobrin_machine* machine, int what);
/** Empty beyond the list. */
MOBRIN_API const char* mobrin_name(const mobrin_machine* machine, int what, uint32_t index);

/** What an input can hold. */
typedef struct mobrin_input_info {
  uint32_t size;       /**< sizeof this struct; mobrin_init sets it */
  int32_t kind;        /**< mobrin_bool to mobrin_pulse */
  double start;        /**< of numbers, and of a bool and a choice */
  double min;          /**< of numbers: the least it can hold */
  double max;          /**< of numbers: the most it can hold */
  mobrin_ticks buffer; /**< of a pulse: how long it waits */
  uint32_t choices;    /**< of a choice: how many */
} mobrin_input_info;
/** 0 beyond the list. */
MOBRIN_API int mobrin_input_at(const mobrin_machine* machine, uint32_t index, mobrin_input_info* out);
/** The name of a choice; empty beyond the list. */
MOBRIN_API const char* mobrin_choice_name(const mobrin_machine* machine, uint32_t input, uint32_t choice);
/** -1 beyond the list. */
MOBRIN_API mobrin_ticks mobrin_clip_length(const mobrin_machine* machine, uint32_t clip);
/** How many frames its list has; 0 beyond the clips. */
MOBRIN_API int32_t mobrin_clip_frames(const mobrin_machine* machine, uint32_t clip);

/* --- what is shown ------------------------------------------------------------------------------------------------ */

/** What a region shows. */
typedef struct mobrin_shown {
  uint32_t size;    /**< sizeof this struct; mobrin_init sets it */
  uint16_t clip;    /**< index; MOBRIN_NONE when nothing is shown */
  uint8_t mirrored; /**< of a blend: the clip is shown mirrored */
  int32_t frame;    /**< index in the clip's own list; -1 for a clip without frames */
  double seconds;   /**< the playhead on the clip's own time */
  double weight;    /**< below 1 while it fades in over what was left */
} mobrin_shown;

/** Which image to draw, and what to cut out of it. */
typedef struct mobrin_picture {
  uint32_t size;      /**< sizeof this struct; mobrin_init sets it */
  uint32_t image;     /**< index of mobrin_images, the look applied; MOBRIN_NO_IMAGE: nothing to draw */
  int32_t file_frame; /**< of an animated image: which of its frames, from 0; else -1 */
  uint8_t mirrored;   /**< draw it with left and right exchanged */
  uint16_t clip;      /**< what it is of */
  int32_t frame;      /**< of the clip's own list */
} mobrin_picture;
/** What to cut out of an image, and where to draw it. */
typedef struct mobrin_cut {
  uint32_t size;  /**< sizeof this struct; mobrin_init sets it */
  int32_t x;      /**< in the image, from its left */
  int32_t y;      /**< in the image, from its top */
  int32_t width;  /**< 0 where the picture reaches past it */
  int32_t height; /**< pixels */
  double pivot_x; /**< on what is drawn, mirrored if it is, in pixels from its left */
  double pivot_y; /**< likewise from its top */
} mobrin_cut;
/** The picture of a clip's frame in a look (an index, or MOBRIN_NONE). 0 where there is none. */
MOBRIN_API int mobrin_picture_of(const mobrin_machine* machine, uint32_t clip, int32_t frame, uint32_t look,
                                 int mirrored, mobrin_picture* out);
/** What to cut out of its image, which is `width` by `height` pixels. 0 where it reaches past the image. */
MOBRIN_API int mobrin_picture_cut(const mobrin_machine* machine, const mobrin_picture* picture, int32_t width,
                                  int32_t height, mobrin_cut* out);

/* --- cues --------------------------------------------------------------------------------------------------------- */

/** What a record tells. */
enum {
  mobrin_told_cue = 0,
  mobrin_told_enter,
  mobrin_told_leave,
  mobrin_told_loop,
  mobrin_told_done,
  mobrin_told_fault
};
enum { mobrin_no_edge = 0, mobrin_begins = 1, mobrin_ends = 2 };
/** Which records a list takes, as bits 1 << mobrin_told_...: cues, ends and faults. */
#define MOBRIN_GAME_RECORDS 0x31u
/** Likewise: all of them. */
#define MOBRIN_ALL_RECORDS 0x3fu

/** One record. (at, ordinal) is its identity: a step that is repeated after a rollback tells the same pair again. */
typedef struct mobrin_cue {
  const void* machine; /**< not for users */
  mobrin_ticks at;     /**< the instant */
  uint32_t ordinal;    /**< counts on among those of one instant */
  uint32_t transition; /**< behind an enter, leave or fault; 0xffffffff for none */
  int32_t frame;       /**< of a cue on a clip; -1 for none */
  uint32_t fields;     /**< not for users */
  uint16_t cue;        /**< index; MOBRIN_NONE for none */
  uint16_t state;      /**< index; MOBRIN_NONE for none */
  uint16_t clip;       /**< index; MOBRIN_NONE for none */
  uint8_t what;        /**< mobrin_told_cue to mobrin_told_fault */
  uint8_t edge;        /**< of a window: mobrin_begins or mobrin_ends; else mobrin_no_edge */
} mobrin_cue;
/** A record of a crowd. */
typedef struct mobrin_crowd_cue {
  mobrin_cue cue; /**< what was told */
  uint32_t place; /**< of the member that told it */
} mobrin_crowd_cue;

/** Of a record; empty where there is none. A record's machine must be alive. */
MOBRIN_API const char* mobrin_cue_name(const mobrin_cue* cue);
/** The `kind:` of its cue; empty without one. */
MOBRIN_API const char* mobrin_cue_kind(const mobrin_cue* cue);
/** The path of its state; empty without one. */
MOBRIN_API const char* mobrin_cue_state(const mobrin_cue* cue);
/** The name of its clip; empty without one. */
MOBRIN_API const char* mobrin_cue_clip(const mobrin_cue* cue);
/** A number field, whole or not; a bool field as 0 or 1. 0 where the cue has no such field. */
MOBRIN_API int mobrin_cue_number(const mobrin_cue* cue, mobrin_id field, double* out);
/** The same by the field's name. */
MOBRIN_API int mobrin_cue_number_named(const mobrin_cue* cue, const char* field, double* out);
/** A text field; null where the cue has no such field. */
MOBRIN_API const char* mobrin_cue_text(const mobrin_cue* cue, mobrin_id field);
/** The same by the field's name. */
MOBRIN_API const char* mobrin_cue_text_named(const mobrin_cue* cue, const char* field);
/** A list field: its numbers, as many as there is room for; how many it has, -1 where there is no such field. */
MOBRIN_API int32_t mobrin_cue_list(const mobrin_cue* cue, mobrin_id field, double* out, uint32_t room);
/** The record as a line to read, as `mobrin run` prints it, into `out`, cut where it is longer; how long it is. */
MOBRIN_API size_t mobrin_cue_line(const mobrin_cue* cue, char* out, size_t room);

/** A list of records with room for `room`. */
typedef struct mobrin_cues mobrin_cues;
/** A list with room for so many records, which takes those that `listening` says; to be freed. */
MOBRIN_API mobrin_cues* mobrin_cues_new(uint32_t room, uint32_t listening);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_cues_free(mobrin_cues* cues);
/** Forgets the records. */
MOBRIN_API void mobrin_cues_clear(mobrin_cues* cues);
/** How many there are. */
MOBRIN_API uint32_t mobrin_cues_count(const mobrin_cues* cues);
/** Null beyond the list. Valid until the list is cleared, filled or freed. */
MOBRIN_API const mobrin_cue* mobrin_cues_at(const mobrin_cues* cues, uint32_t index);

/* --- instances ---------------------------------------------------------------------------------------------------- */

/** How an instance is made. */
typedef struct mobrin_instance_options {
  uint32_t size;      /**< sizeof this struct; mobrin_init sets it */
  uint32_t tickets;   /**< how many may be open at once; 0 for the usual 4 */
  mobrin_ticks begin; /**< the game's instant at which it begins */
} mobrin_instance_options;
/** `options` may be null. Null where the machine is. */
MOBRIN_API mobrin_instance* mobrin_instance_new(const mobrin_machine* machine, const mobrin_instance_options* options);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_instance_free(mobrin_instance* it);
/** Its machine: the instance's, not to be freed. */
MOBRIN_API const mobrin_machine* mobrin_instance_machine(const mobrin_instance* it);
/** Moves its begin to an instant of the game, before its first step; 0 after it. */
MOBRIN_API int mobrin_instance_begin_at(mobrin_instance* it, mobrin_ticks begin);

/** What became of a written value. */
enum { mobrin_same = 0, mobrin_changed = 1, mobrin_clamped = 2, mobrin_refused = 3 };
/** Writes an input, 0 for false: mobrin_same to mobrin_refused. It counts from the next step on. */
MOBRIN_API int mobrin_set_bool(mobrin_instance* it, mobrin_id input, int value);
/** Writes a whole number; clamped to the input's range. */
MOBRIN_API int mobrin_set_int(mobrin_instance* it, mobrin_id input, int32_t value);
/** Writes a number; clamped; what is no number is refused. */
MOBRIN_API int mobrin_set_float(mobrin_instance* it, mobrin_id input, float value);
/** Writes a choice, by its index among the input's. */
MOBRIN_API int mobrin_set_choice(mobrin_instance* it, mobrin_id input, uint32_t choice);
/** Sends a pulse; it waits for as long as its buffer says. */
MOBRIN_API int mobrin_press(mobrin_instance* it, mobrin_id pulse);
/** By name, for tools: numbers and bools as a number, choices as a text. mobrin_ok or the error. */
MOBRIN_API int mobrin_set_named(mobrin_instance* it, const char* input, double value, mobrin_error* error);
/** Writes a choice by both names; mobrin_ok or what is wrong. */
MOBRIN_API int mobrin_choose_named(mobrin_instance* it, const char* input, const char* choice, mobrin_error* error);
/** Sends a pulse by its name; mobrin_ok or what is wrong. */
MOBRIN_API int mobrin_press_named(mobrin_instance* it, const char* pulse, mobrin_error* error);

/** What inputs and variables hold; 0 for an id that is refused. */
MOBRIN_API int mobrin_bool_value(const mobrin_instance* it, mobrin_id input);
/** A whole number's value; 0 for another kind. */
MOBRIN_API int32_t mobrin_int_value(const mobrin_instance* it, mobrin_id input);
/** A number's value; 0 for another kind. */
MOBRIN_API float mobrin_float_value(const mobrin_instance* it, mobrin_id input);
/** The index of the choice; 0 for another kind. */
MOBRIN_API uint32_t mobrin_choice_value(const mobrin_instance* it, mobrin_id input);
/** Whether a pulse waits. */
MOBRIN_API int mobrin_pulse_alive(const mobrin_instance* it, mobrin_id pulse);
/** A variable's value; of one that is true or false 1 or 0. */
MOBRIN_API double mobrin_variable_value(const mobrin_instance* it, mobrin_id variable);

/** How far a step came. */
typedef struct mobrin_advanced {
  uint32_t size;        /**< sizeof this struct; mobrin_init sets it */
  uint32_t needs;       /**< where an empty list is too small for the next instant: the records it needs */
  mobrin_ticks covered; /**< how much of the asked time was covered */
  mobrin_ticks left;    /**< how much of it is left */
  int32_t stopped;      /**< the next instant does not fit, or a handler went on and on: call again with `left` */
} mobrin_advanced;
/** Covers (now, now + dt] and appends what happens in it to `cues`. 1 when all is done; 0 where it stopped: read and
 * clear the list, call again with `out->left`. `out` may be null. */
MOBRIN_API int mobrin_advance(mobrin_instance* it, mobrin_ticks dt, mobrin_cues* cues, mobrin_advanced* out);
/** The same with a call for each record, right after the instant it belongs to: what it writes takes effect there. */
typedef void (*mobrin_cue_handler)(void* context, const mobrin_cue* cue);
/** `listening`: which records, as of mobrin_cues_new. 1 when all is done; 0 where the handler went on and on. */
MOBRIN_API int mobrin_advance_telling(mobrin_instance* it, mobrin_ticks dt, mobrin_cue_handler handler, void* context,
                                      uint32_t listening, mobrin_advanced* out);

/** How many regions the machine has, active or not. */
MOBRIN_API uint32_t mobrin_region_count(const mobrin_instance* it);
/** What a region (0 for a machine without regions) shows. 0 where it shows nothing. */
MOBRIN_API int mobrin_shown_now(const mobrin_instance* it, uint32_t region, mobrin_shown* out);
/** All layers of a fade, at most 4; all clips of a blend. `out`: `room` structures, each with its `size`. How many
 * there are. */
MOBRIN_API uint32_t mobrin_layers(const mobrin_instance* it, uint32_t region, mobrin_shown* out, uint32_t room);
/** The clips of a blend alone. */
MOBRIN_API uint32_t mobrin_blended(const mobrin_instance* it, uint32_t region, mobrin_shown* out, uint32_t room);
/** What to draw of a region, with the look that holds; 0 where there is nothing. `faces_left`: mirrored, as drawn
 * facing right. */
MOBRIN_API int mobrin_picture_now(const mobrin_instance* it, uint32_t region, int faces_left, mobrin_picture* out);
/** Whether a region shows the clip. */
MOBRIN_API int mobrin_shows(const mobrin_instance* it, mobrin_id clip);
/** The active innermost state of a region as an index; MOBRIN_NONE for none. Its path; empty for none. */
MOBRIN_API uint32_t mobrin_active(const mobrin_instance* it, uint32_t region);
/** Its path; empty for none. */
MOBRIN_API const char* mobrin_active_path(const mobrin_instance* it, uint32_t region);
/** Whether the state is active. */
MOBRIN_API int mobrin_in(const mobrin_instance* it, mobrin_id state);
/** Whether an active state has the trait. */
MOBRIN_API int mobrin_is(const mobrin_instance* it, mobrin_id trait);
/** Whether its machine has come to an end. */
MOBRIN_API int mobrin_done(const mobrin_instance* it);
/** The instant up to which it has been stepped. */
MOBRIN_API mobrin_ticks mobrin_now(const mobrin_instance* it);
/** Before it, with nothing written, a step has nothing to do; MOBRIN_NEVER for none. */
MOBRIN_API mobrin_ticks mobrin_next_wake(const mobrin_instance* it);
/** The soonest instant at which what is shown may change; MOBRIN_NEVER for none. */
MOBRIN_API mobrin_ticks mobrin_next_change(const mobrin_instance* it);
/** The look that holds as an index; MOBRIN_NONE for none. */
MOBRIN_API uint32_t mobrin_look(const mobrin_instance* it);
/** A track of what a region shows, sampled now. 0 where its clip has none of that name. */
MOBRIN_API int mobrin_track(const mobrin_instance* it, const char* name, uint32_t region, double* out);
/** How far a track moved since `before`, a block of this machine. */
MOBRIN_API double mobrin_moved(const mobrin_instance* it, const char* name, const void* before, size_t size,
                               uint32_t region);

/** Its pace from the next step on, 0 to 64, 1 as the machine says; 0 where it is refused. */
MOBRIN_API int mobrin_set_rate(mobrin_instance* it, double rate);
/** Its pace. */
MOBRIN_API double mobrin_rate(const mobrin_instance* it);
/** Holds it for so long; a shorter freeze does not end a longer one. 0 where it is refused. */
MOBRIN_API int mobrin_freeze(mobrin_instance* it, mobrin_ticks duration);
/** Enters a state at the next step, whatever the rules say; 0 where it is refused. */
MOBRIN_API int mobrin_force(mobrin_instance* it, mobrin_id state);
/** The state that the next step enters, where mobrin_force() asked for one; else 0. */
MOBRIN_API mobrin_id mobrin_forced(const mobrin_instance* it);
/** Puts it into a state, `time` after it was entered, without telling anything; 0 where it is refused. */
MOBRIN_API int mobrin_place(mobrin_instance* it, mobrin_id state, mobrin_ticks time);
/** Puts it back to its begin. */
MOBRIN_API void mobrin_reset(mobrin_instance* it);

/** The whole state: copy it for a snapshot. Owned by the instance. */
MOBRIN_API const void* mobrin_block(const mobrin_instance* it, size_t* size);
/** 0 where the size is not this instance's. The bytes are a block of this very machine. */
MOBRIN_API int mobrin_restore(mobrin_instance* it, const void* block, size_t size);
/** The same for the same state of the same machine. */
MOBRIN_API uint64_t mobrin_hash(const mobrin_instance* it);
/** Hot reload: gives `into`, of a changed machine, what `from` holds. How many things could not be carried; `losses`,
 * unless null, gets them as a text, a line each, to be freed. */
MOBRIN_API uint32_t mobrin_carry_over(const mobrin_instance* from, mobrin_instance* into, mobrin_text** losses);

#ifdef __cplusplus
}
#endif

#include "mobrin/c/mobrin_crowd.h"
#include "mobrin/c/mobrin_meet.h"
#include "mobrin/c/mobrin_watch.h"

#endif
