/** @file
 * Machines from files, tapes and saves, for C. The library libmobrin_files has these and all that libmobrin has: link
 * one of the two. It needs the packages that `mobrin::io` needs; a game that ships packs does without. The rules of
 * mobrin.h hold here too. */
#ifndef MOBRIN_C_MOBRIN_FILES_H
#define MOBRIN_C_MOBRIN_FILES_H

#include "mobrin/c/mobrin.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Loads a machine's or a character's file and all it uses. Null where it has an error. `report`, unless null, gets all
 * findings as `mobrin check` prints them, warnings too, or null where there are none; to be freed. */
MOBRIN_API mobrin_machine* mobrin_machine_from_file(const char* path, mobrin_text** report);
/** The same from text; `name` stands for the file in findings, and `use:` is relative to its folder. */
MOBRIN_API mobrin_machine* mobrin_machine_from_text(const char* text, size_t size, const char* name,
                                                    mobrin_text** report);

/** Tapes: what was written over time. */
typedef struct mobrin_tape mobrin_tape;
/** Null where it has an error, or where it does not fit `machine`, unless that is null. */
MOBRIN_API mobrin_tape* mobrin_tape_from_file(const char* path, const mobrin_machine* machine, mobrin_text** report);
/** The same from text; `name` stands for the file in the report. */
MOBRIN_API mobrin_tape* mobrin_tape_from_text(const char* text, size_t size, const char* name,
                                              const mobrin_machine* machine, mobrin_text** report);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_tape_free(mobrin_tape* tape);
/** The path of the machine it names; empty for none. */
MOBRIN_API const char* mobrin_tape_machine(const mobrin_tape* tape);
/** When it ends: its `until:`, or its last step. */
MOBRIN_API mobrin_ticks mobrin_tape_end(const mobrin_tape* tape);
/** Runs it on an instance, `hz` steps a second, and tells each record. 0, with nothing done, where hz < 1. */
MOBRIN_API int mobrin_tape_run(const mobrin_tape* tape, mobrin_instance* it, int64_t hz, mobrin_cue_handler handler,
                               void* context, uint32_t listening);

/** Keeps what is written to an instance from now on, which outlives it. */
typedef struct mobrin_recorder mobrin_recorder;
/** Records what is written to an instance from now on, as a tape of that name; to be freed. `it` outlives it. */
MOBRIN_API mobrin_recorder* mobrin_recorder_new(mobrin_instance* it, const char* name);
/** What was written so far, as a tape file; to be freed. */
MOBRIN_API mobrin_text* mobrin_recorder_tape(const mobrin_recorder* recorder);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_recorder_free(mobrin_recorder* recorder);

/** The state by names, as JSON; it outlives the next patch. To be freed. */
MOBRIN_API mobrin_text* mobrin_save(const mobrin_instance* it);
/** mobrin_ok, also where something could not be carried over: `losses`, unless null, gets that as a text, a line each,
 * or null; to be freed. Else the error, with nothing changed. */
MOBRIN_API int mobrin_load_save(mobrin_instance* into, const char* text, size_t size, mobrin_text** losses,
                                mobrin_error* error);

#ifdef __cplusplus
}
#endif

#endif
