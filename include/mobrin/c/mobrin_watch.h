/** @file
 * What becomes of what was asked for, what is written, and why a step did what it did, for C. Part of mobrin.h, which
 * includes it. */
#ifndef MOBRIN_C_MOBRIN_WATCH_H
#define MOBRIN_C_MOBRIN_WATCH_H

#include "mobrin/c/mobrin.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Tickets: what became of an action that was asked for. */
typedef struct mobrin_ticket {
  uint32_t machine; /**< serial number of the machine */
  uint32_t serial;  /**< 0: none was given */
  uint32_t slot;    /**< place among the open ones */
} mobrin_ticket;
enum { mobrin_waiting = 0, mobrin_running, mobrin_succeeded, mobrin_failed, mobrin_interrupted, mobrin_lost };
/** Sends a pulse and follows what becomes of it. Serial 0 where there is no place for it: the pulse is sent all the
 * same. */
MOBRIN_API mobrin_ticket mobrin_ask(mobrin_instance* it, mobrin_id pulse);
/** Follows a state, from when it is entered, until its play ends or it is left. */
MOBRIN_API mobrin_ticket mobrin_follow(mobrin_instance* it, mobrin_id state);
/** mobrin_waiting to mobrin_lost. */
MOBRIN_API int mobrin_ticket_status(const mobrin_instance* it, mobrin_ticket ticket);
/** Whether it leads into what does not end by itself. */
MOBRIN_API int mobrin_never_ends(const mobrin_instance* it, mobrin_ticket ticket);
/** Lets it go, so that its place is free; 0 where it is not open. */
MOBRIN_API int mobrin_give_back(mobrin_instance* it, mobrin_ticket ticket);
/** How a ticket stands. */
typedef struct mobrin_ticket_info {
  uint32_t size;        /**< sizeof this struct; mobrin_init sets it */
  mobrin_ticket ticket; /**< which one */
  int32_t status;       /**< mobrin_waiting to mobrin_lost */
  uint32_t pulse;       /**< index of its input; MOBRIN_NONE: it follows a state */
  uint32_t state;       /**< index of what it follows or was led to; MOBRIN_NONE: not yet */
} mobrin_ticket_info;
/** All that are not lost, as many as there is room for; how many there are. */
MOBRIN_API uint32_t mobrin_open_tickets(const mobrin_instance* it, mobrin_ticket_info* out, uint32_t room);

/** What is written: the handler is called right after each write that changed something. */
enum {
  mobrin_wrote_input = 0,
  mobrin_wrote_pulse,
  mobrin_wrote_rate,
  mobrin_wrote_freeze,
  mobrin_wrote_reset,
  mobrin_wrote_force,
  mobrin_wrote_restore,
  mobrin_wrote_place
};
/** Something that was written to an instance. */
typedef struct mobrin_write {
  uint32_t size;         /**< sizeof this struct; mobrin_init sets it */
  int32_t kind;          /**< mobrin_wrote_input to mobrin_wrote_place */
  uint32_t input;        /**< index; MOBRIN_NONE for none */
  uint32_t state;        /**< of a force or a place */
  double rate;           /**< of a rate */
  mobrin_ticks duration; /**< of a freeze; of a place: for how long */
  int32_t clamped;       /**< it was beyond the input's range */
  int32_t pending;       /**< before it were writes that have not taken effect yet */
} mobrin_write;
/** Is told of each write: see mobrin_set_write_hook. */
typedef struct mobrin_write_hook {
  void (*handler)(void* context, const mobrin_write* write); /**< called with each write, after it was taken */
  void* context;                                             /**< given to it */
} mobrin_write_hook;
/** The hook stays the caller's and where it is as long as it is set; null ends it. */
MOBRIN_API void mobrin_set_write_hook(mobrin_instance* it, const mobrin_write_hook* hook);

/** Why: each transition that a step looks at. Valid during the call only. */
typedef struct mobrin_considered {
  uint32_t size;       /**< sizeof this struct; mobrin_init sets it */
  int32_t round;       /**< which time round at that instant, from 0 */
  mobrin_ticks at;     /**< the instant */
  uint32_t transition; /**< index */
  int32_t verdict;     /**< 0 event, 1 guard, 2 window, 3 sealed, 4 already active, 5 stands, 6 taken */
  const void* machine; /**< not for users */
  const void* block;   /**< not for users */
} mobrin_considered;
/** Looks on at a step: see mobrin_set_trace. */
typedef struct mobrin_trace {
  void (*handler)(void* context, const mobrin_considered* considered); /**< called with each transition looked at */
  void* context;                                                       /**< given to it */
} mobrin_trace;
/** The trace stays the caller's and where it is as long as it is set; null ends it. */
MOBRIN_API void mobrin_set_trace(mobrin_instance* it, const mobrin_trace* trace);
/** Tells the trace what would be considered now, without taking any. */
MOBRIN_API void mobrin_consider(const mobrin_instance* it);
/** The parts of the guard with their values, `x > 3: false, x: 2`; how long it is. */
MOBRIN_API size_t mobrin_guard_text(const mobrin_considered* considered, char* out, size_t room);
/** What the region of its state shows then, against which its window is held; 0 where it shows nothing. */
MOBRIN_API int mobrin_considered_shown(const mobrin_considered* considered, mobrin_shown* out);

/** Why not: a transition that a round did not look at, though its state was active when the round began. */
enum {
  mobrin_skipped_above = 0, /**< one above it in its own list was taken, or stands */
  mobrin_skipped_around,    /**< one of a state around its own was taken */
  mobrin_skipped_left       /**< one of another region was taken and left its state */
};
/** Such a transition: see mobrin_round_skipped. */
typedef struct mobrin_skipped {
  uint32_t size;       /**< sizeof this struct; mobrin_init sets it */
  uint32_t transition; /**< index */
  int32_t why;         /**< mobrin_skipped_above to mobrin_skipped_left, the first of these that is so */
  uint32_t by;         /**< index of the one that was taken or stands */
} mobrin_skipped;
/** A round of settling, gathered from what a trace is told. */
typedef struct mobrin_round mobrin_round;
/** Begins with the first that it looks at, while the trace's handler is called; NULL for NULL. The machine outlives it.
 * Free it. */
MOBRIN_API mobrin_round* mobrin_round_new(const mobrin_considered* first);
/** Its end; NULL is fine. */
MOBRIN_API void mobrin_round_free(mobrin_round* round);
/** The next one that is looked at. 0, with nothing added, where it is the first of another round. */
MOBRIN_API int mobrin_round_add(mobrin_round* round, const mobrin_considered* next);
/** The transitions of active states that it did not look at, each once, as many as there is room for; how many. */
MOBRIN_API uint32_t mobrin_round_skipped(const mobrin_round* round, mobrin_skipped* out, uint32_t room);

#ifdef __cplusplus
}
#endif

#endif
