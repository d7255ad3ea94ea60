/* Who meets whom, for C: boxes, reaches, arenas, contacts and zones. Part of mobrin.h, which includes it. */
#ifndef MOBRIN_C_MOBRIN_MEET_H
#define MOBRIN_C_MOBRIN_MEET_H

#include "mobrin/c/mobrin.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct mobrin_placement {
  double x, y; /* of the pivot, in world units; y up */
  double scale; /* above 0 */
  int32_t faces_left;
} mobrin_placement;

/* Tags as bits, in the order in which they are first named; at most 64. */
typedef struct mobrin_tags mobrin_tags;
MOBRIN_API mobrin_tags* mobrin_tags_new(void);
MOBRIN_API void mobrin_tags_free(mobrin_tags* tags);
/* 0 where there are 64 others already. */
MOBRIN_API uint64_t mobrin_tag(mobrin_tags* tags, const char* name);

/* A rectangle (half sizes) or a circle (radius above 0) in the world. */
typedef struct mobrin_shape {
  double x, y, half_width, half_height, radius;
} mobrin_shape;
typedef struct mobrin_box {
  uint32_t size;
  uint32_t region;
  uint32_t clip;
  const char* name;
  const char* role;
  mobrin_shape shape;
} mobrin_box;
/* The boxes of what it shows now; how many there are. */
MOBRIN_API uint32_t mobrin_boxes(const mobrin_instance* it, const mobrin_placement* placement, mobrin_box* out,
                                 uint32_t room);

/* `velocity` over `walk_speed`, seen along `facing`: what a blend by direction takes. */
MOBRIN_API void mobrin_local_direction(double velocity_x, double velocity_y, double facing_x, double facing_y,
                                       double walk_speed, double* forward, double* right);
/* One of four or eight headings, 0 to the right, then counter-clockwise; keeps `before` unless another fits better by
 * more than `slack`. `before` for any other count. */
MOBRIN_API int mobrin_heading(double velocity_x, double velocity_y, int count, int before, double slack);

/* Who may be found by a reach, and who was: the nearest first. */
typedef struct mobrin_candidate {
  uint32_t id;
  int32_t alive;
  double x, y, radius;
  uint64_t tags;
} mobrin_candidate;
typedef struct mobrin_target {
  uint32_t id;
  double distance;
} mobrin_target;
/* The reach that a cue's field `reach` names, as an index; MOBRIN_NONE for none. */
MOBRIN_API uint32_t mobrin_cue_reach(const mobrin_machine* machine, const mobrin_cue* cue);
MOBRIN_API size_t mobrin_targets(const mobrin_machine* machine, uint32_t reach, const mobrin_placement* origin,
                                 uint32_t self, const mobrin_candidate* candidates, size_t count, mobrin_tags* tags,
                                 mobrin_target* out, size_t room);

/* Somebody who takes part in a step. */
typedef struct mobrin_participant {
  uint32_t size;
  uint32_t id; /* the game's own; one in a step */
  uint64_t tags;
  int32_t alive;
  mobrin_placement from, to; /* at the step's begin and end; straight in between */
} mobrin_participant;
/* A box of something that is no machine. `shape` in pixels from the pivot, x forward, y up. */
typedef struct mobrin_plain_box {
  uint32_t size;
  int32_t hits; /* else it can be hit */
  mobrin_shape shape;
  double unit;      /* pixels to a world unit */
  uint64_t only;    /* of what hits: whom, 0 for all */
  uint64_t spares;
  mobrin_ticks every; /* one swing hits a target again after this long; 0: never */
  uint32_t swing;     /* another number is another swing */
} mobrin_plain_box;
typedef struct mobrin_hit {
  uint32_t size;
  uint32_t by, on;
  mobrin_ticks at;
  const char* hit_box; /* empty of plain boxes */
  const char* hurt_box;
  double distance, x, y;
} mobrin_hit;
typedef struct mobrin_zone_event {
  uint32_t size;
  uint32_t owner, visitor;
  uint32_t zone; /* index of mobrin_zones */
  mobrin_ticks at;
  int32_t entered; /* else left */
} mobrin_zone_event;
/* What a game answers to a hit. */
enum { mobrin_lives = 0, mobrin_dies = 1, mobrin_misses = 2 };

/* A whole step of those who meet, cut where one changes what happens to another: advances everybody, finds hits, deaths
 * and zones, and lets what is written take effect at its instant. The usual choice; see mobrin/contact/arena.hpp. */
typedef struct mobrin_arena mobrin_arena;
/* What a game makes of it; each may be null. What is written takes effect at that instant; nobody is added meanwhile. */
typedef struct mobrin_arena_game {
  uint32_t size;
  void* context;
  void (*told)(void* context, uint32_t id, const mobrin_cue* cue);
  int (*acts_at)(void* context, uint32_t id, const mobrin_cue* cue);
  int (*hit)(void* context, const mobrin_hit* hit);
  void (*settled)(void* context, mobrin_ticks at);
  void (*zone)(void* context, const mobrin_zone_event* event);
  void (*aside)(void* context, mobrin_crowd* crowd, const mobrin_crowd_cue* cue);
} mobrin_arena_game;
/* `tags` outlives it. */
MOBRIN_API mobrin_arena* mobrin_arena_new(mobrin_tags* tags, double margin);
MOBRIN_API void mobrin_arena_free(mobrin_arena* arena);
MOBRIN_API void mobrin_arena_begin(mobrin_arena* arena, mobrin_ticks from, mobrin_ticks to);
MOBRIN_API int mobrin_arena_add(mobrin_arena* arena, const mobrin_participant* who, mobrin_instance* it);
MOBRIN_API int mobrin_arena_add_member(mobrin_arena* arena, const mobrin_participant* who, mobrin_crowd* crowd,
                                       mobrin_member member);
MOBRIN_API int mobrin_arena_add_boxes(mobrin_arena* arena, const mobrin_participant* who, const mobrin_plain_box* boxes,
                                      uint32_t count);
MOBRIN_API int mobrin_arena_run(mobrin_arena* arena, const mobrin_arena_game* game);
MOBRIN_API void mobrin_arena_end_here(mobrin_arena* arena);
/* Who has this id in the step: the arena's or the caller's, not to be freed. */
MOBRIN_API mobrin_instance* mobrin_arena_instance(mobrin_arena* arena, uint32_t id);
MOBRIN_API mobrin_ticks mobrin_arena_now(const mobrin_arena* arena);
/* What is remembered between steps, for a rollback. */
typedef struct mobrin_arena_memory mobrin_arena_memory;
MOBRIN_API mobrin_arena_memory* mobrin_arena_remember(const mobrin_arena* arena);
MOBRIN_API void mobrin_arena_recall(mobrin_arena* arena, const mobrin_arena_memory* memory);
MOBRIN_API void mobrin_arena_memory_free(mobrin_arena_memory* memory);

/* Hits alone. A step: begin, advance each, add boxes, resolve. */
typedef struct mobrin_contacts mobrin_contacts;
MOBRIN_API mobrin_contacts* mobrin_contacts_new(mobrin_tags* tags);
MOBRIN_API mobrin_contacts* mobrin_contacts_copy(const mobrin_contacts* contacts);
MOBRIN_API void mobrin_contacts_free(mobrin_contacts* contacts);
MOBRIN_API void mobrin_contacts_begin(mobrin_contacts* contacts, mobrin_ticks from, mobrin_ticks to);
MOBRIN_API int mobrin_contacts_advance(mobrin_contacts* contacts, const mobrin_participant* who, mobrin_instance* it,
                                       mobrin_cue_handler handler, void* context, uint32_t listening);
MOBRIN_API int mobrin_contacts_add_boxes(mobrin_contacts* contacts, const mobrin_participant* who,
                                         const mobrin_plain_box* boxes, uint32_t count);
MOBRIN_API void mobrin_contacts_resolve(mobrin_contacts* contacts, int (*answer)(void* context, const mobrin_hit* hit),
                                        void* context);

/* Zones alone. A step: begin, add owners and visitors, resolve. */
typedef struct mobrin_zone_watch mobrin_zone_watch;
MOBRIN_API mobrin_zone_watch* mobrin_zone_watch_new(mobrin_tags* tags, double margin);
MOBRIN_API mobrin_zone_watch* mobrin_zone_watch_copy(const mobrin_zone_watch* watch);
MOBRIN_API void mobrin_zone_watch_free(mobrin_zone_watch* watch);
MOBRIN_API void mobrin_zone_watch_begin(mobrin_zone_watch* watch, mobrin_ticks from, mobrin_ticks to);
MOBRIN_API int mobrin_zone_watch_add_owner(mobrin_zone_watch* watch, uint32_t id, mobrin_instance* it,
                                           const mobrin_placement* from, const mobrin_placement* to);
MOBRIN_API int mobrin_zone_watch_add_visitor(mobrin_zone_watch* watch, uint32_t id, uint64_t tags, double from_x,
                                             double from_y, double to_x, double to_y);
/* Writes the owners' inputs and tells each event; how many there were. */
MOBRIN_API uint32_t mobrin_zone_watch_resolve(mobrin_zone_watch* watch,
                                              void (*handler)(void* context, const mobrin_zone_event* event),
                                              void* context);

#ifdef __cplusplus
}
#endif

#endif
