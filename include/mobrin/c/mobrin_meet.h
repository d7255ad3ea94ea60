/** @file
 * Who meets whom, for C: boxes, reaches, arenas, contacts and zones. Part of mobrin.h, which includes it. */
#ifndef MOBRIN_C_MOBRIN_MEET_H
#define MOBRIN_C_MOBRIN_MEET_H

#include "mobrin/c/mobrin.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Where somebody stands, and how he faces. */
typedef struct mobrin_placement {
  double x;           /**< of the pivot, in world units */
  double y;           /**< y up */
  double scale;       /**< above 0 */
  int32_t faces_left; /**< mirrored: its clips face right */
} mobrin_placement;

/** Tags as bits, in the order in which they are first named; at most 64. */
typedef struct mobrin_tags mobrin_tags;
/** Names for up to 64 tags, shared by all who meet; to be freed. */
MOBRIN_API mobrin_tags* mobrin_tags_new(void);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_tags_free(mobrin_tags* tags);
/** 0 where there are 64 others already. */
MOBRIN_API uint64_t mobrin_tag(mobrin_tags* tags, const char* name);

/** A rectangle (half sizes) or a circle (radius above 0) in the world. */
typedef struct mobrin_shape {
  double x;           /**< of the middle, in world units */
  double y;           /**< of the middle, in world units */
  double half_width;  /**< of a rectangle; 0 for a circle */
  double half_height; /**< of a rectangle */
  double radius;      /**< of a circle; 0 for a rectangle */
} mobrin_shape;
/** A box of what is shown. */
typedef struct mobrin_box {
  uint32_t size;      /**< sizeof this struct; mobrin_init sets it */
  uint32_t region;    /**< index of the region that shows the clip */
  uint32_t clip;      /**< index of the clip */
  const char* name;   /**< its name; lives as long as the machine */
  const char* role;   /**< its role; likewise */
  mobrin_shape shape; /**< where it is now */
} mobrin_box;
/** The boxes of what it shows now; how many there are. */
MOBRIN_API uint32_t mobrin_boxes(const mobrin_instance* it, const mobrin_placement* placement, mobrin_box* out,
                                 uint32_t room);

/** `velocity` over `walk_speed`, seen along `facing`: what a blend by direction takes. */
MOBRIN_API void mobrin_local_direction(double velocity_x, double velocity_y, double facing_x, double facing_y,
                                       double walk_speed, double* forward, double* right);
/** One of four or eight headings, 0 to the right, then counter-clockwise; keeps `before` unless another fits better by
 * more than `slack`. `before` for any other count. */
MOBRIN_API int mobrin_heading(double velocity_x, double velocity_y, int count, int before, double slack);

/** Who may be found by a reach, and who was: the nearest first. */
typedef struct mobrin_candidate {
  uint32_t id;   /**< the game's own */
  int32_t alive; /**< else it is passed over */
  double x;      /**< of its middle, in world units */
  double y;      /**< likewise */
  double radius; /**< of the circle that it is */
  uint64_t tags; /**< what it is, as bits */
} mobrin_candidate;
/** Somebody whom a reach found. */
typedef struct mobrin_target {
  uint32_t id;     /**< as of the candidate */
  double distance; /**< from the reach's middle to the candidate's circle, in world units */
} mobrin_target;
/** The reach that a cue's field `reach` names, as an index; MOBRIN_NONE for none. */
MOBRIN_API uint32_t mobrin_cue_reach(const mobrin_machine* machine, const mobrin_cue* cue);
/** Whom a reach finds, the nearest first, `self` not among them; how many, also beyond `room`. */
MOBRIN_API size_t mobrin_targets(const mobrin_machine* machine, uint32_t reach, const mobrin_placement* origin,
                                 uint32_t self, const mobrin_candidate* candidates, size_t count, mobrin_tags* tags,
                                 mobrin_target* out, size_t room);

/** Somebody who takes part in a step. */
typedef struct mobrin_participant {
  uint32_t size;         /**< sizeof this struct; mobrin_init sets it */
  uint32_t id;           /**< the game's own; one in a step */
  uint64_t tags;         /**< what it is, as bits */
  int32_t alive;         /**< else nothing meets it */
  mobrin_placement from; /**< at the step's begin */
  mobrin_placement to;   /**< at its end; straight in between */
} mobrin_participant;
/** A box of something that is no machine. `shape` in pixels from the pivot, x forward, y up. */
typedef struct mobrin_plain_box {
  uint32_t size;      /**< sizeof this struct; mobrin_init sets it */
  int32_t hits;       /**< else it can be hit */
  mobrin_shape shape; /**< in pixels from the pivot */
  double unit;        /**< pixels to a world unit */
  uint64_t only;      /**< of what hits: whom, 0 for all */
  uint64_t spares;    /**< whom it never hits */
  mobrin_ticks every; /**< one swing hits a target again after this long; 0: never */
  uint32_t swing;     /**< another number is another swing */
} mobrin_plain_box;
/** A hit. */
typedef struct mobrin_hit {
  uint32_t size;        /**< sizeof this struct; mobrin_init sets it */
  uint32_t by;          /**< id of who hits */
  uint32_t on;          /**< id of who is hit */
  mobrin_ticks at;      /**< the instant */
  const char* hit_box;  /**< empty of plain boxes */
  const char* hurt_box; /**< of who is hit; empty of plain boxes */
  double distance;      /**< between the two middles, in world units */
  double x;             /**< where it happened, in world units */
  double y;             /**< likewise */
} mobrin_hit;
/** Somebody came into a zone or left it. */
typedef struct mobrin_zone_event {
  uint32_t size;    /**< sizeof this struct; mobrin_init sets it */
  uint32_t owner;   /**< whose zone it is, by id */
  uint32_t visitor; /**< who came or went, by id */
  uint32_t zone;    /**< index of mobrin_zones */
  mobrin_ticks at;  /**< the instant */
  int32_t entered;  /**< else left */
} mobrin_zone_event;
/** What a game answers to a hit. */
enum { mobrin_lives = 0, mobrin_dies = 1, mobrin_misses = 2 };

/** A whole step of those who meet, cut where one changes what happens to another: advances everybody, finds hits,
 * deaths and zones, and lets what is written take effect at its instant. The usual choice; see
 * mobrin/contact/arena.hpp. */
typedef struct mobrin_arena mobrin_arena;
/** What a game makes of it; each may be null. What is written takes effect at that instant; nobody is added meanwhile.
 */
typedef struct mobrin_arena_game {
  uint32_t size;                                                     /**< sizeof this struct; mobrin_init sets it */
  void* context;                                                     /**< given to each of the functions */
  void (*told)(void* context, uint32_t id, const mobrin_cue* cue);   /**< a cue was told */
  int (*acts_at)(void* context, uint32_t id, const mobrin_cue* cue); /**< whether all come to a halt at it */
  int (*hit)(void* context, const mobrin_hit* hit);                  /**< mobrin_lives, mobrin_dies or mobrin_misses */
  void (*settled)(void* context, mobrin_ticks at);                   /**< all are settled at an instant */
  void (*zone)(void* context, const mobrin_zone_event* event);       /**< somebody came into a zone or left it */
  void (*aside)(void* context, mobrin_crowd* crowd, const mobrin_crowd_cue* cue); /**< of a member who takes no part */
} mobrin_arena_game;
/** `tags` outlives it. */
MOBRIN_API mobrin_arena* mobrin_arena_new(mobrin_tags* tags, double margin);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_arena_free(mobrin_arena* arena);
/** Begins a step of the game's time. */
MOBRIN_API void mobrin_arena_begin(mobrin_arena* arena, mobrin_ticks from, mobrin_ticks to);
/** Somebody takes part; 0 where the id is taken or his clock is past the step's begin. `it` outlives the step. */
MOBRIN_API int mobrin_arena_add(mobrin_arena* arena, const mobrin_participant* who, mobrin_instance* it);
/** The same of a member of a crowd. */
MOBRIN_API int mobrin_arena_add_member(mobrin_arena* arena, const mobrin_participant* who, mobrin_crowd* crowd,
                                       mobrin_member member);
/** Something without a machine takes part. */
MOBRIN_API int mobrin_arena_add_boxes(mobrin_arena* arena, const mobrin_participant* who, const mobrin_plain_box* boxes,
                                      uint32_t count);
/** Runs the step; 1 where something was answered at its last instant, which takes effect with the next one. */
MOBRIN_API int mobrin_arena_run(mobrin_arena* arena, const mobrin_arena_game* game);
/** Runs what happens at the step's begin alone, and nobody's time goes on: for who stops there and wants to know who is
 * in which zone, of those too who are on a border. 1 where something was answered, as of mobrin_arena_run. */
MOBRIN_API int mobrin_arena_run_begin(mobrin_arena* arena, const mobrin_arena_game* game);
/** For a game's functions: the step ends at the instant that is told. */
MOBRIN_API void mobrin_arena_end_here(mobrin_arena* arena);
/** Who has this id in the step: the arena's or the caller's, not to be freed. */
MOBRIN_API mobrin_instance* mobrin_arena_instance(mobrin_arena* arena, uint32_t id);
/** How far the step has come. */
MOBRIN_API mobrin_ticks mobrin_arena_now(const mobrin_arena* arena);
/** What is remembered between steps, for a rollback. */
typedef struct mobrin_arena_memory mobrin_arena_memory;
/** Who was hit by which swing, who is in which zone: for a rollback; to be freed. */
MOBRIN_API mobrin_arena_memory* mobrin_arena_remember(const mobrin_arena* arena);
/** Goes back to it. */
MOBRIN_API void mobrin_arena_recall(mobrin_arena* arena, const mobrin_arena_memory* memory);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_arena_memory_free(mobrin_arena_memory* memory);

/** Hits alone. A step: begin, advance each, add boxes, resolve. */
typedef struct mobrin_contacts mobrin_contacts;
/** Finds hits alone, for loops of one's own; `tags` outlives it. To be freed. */
MOBRIN_API mobrin_contacts* mobrin_contacts_new(mobrin_tags* tags);
/** With all it remembers; to be freed. */
MOBRIN_API mobrin_contacts* mobrin_contacts_copy(const mobrin_contacts* contacts);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_contacts_free(mobrin_contacts* contacts);
/** Begins a step of the game's time. */
MOBRIN_API void mobrin_contacts_begin(mobrin_contacts* contacts, mobrin_ticks from, mobrin_ticks to);
/** Steps somebody and remembers his boxes on the way; 0 where he takes part already or his clock is elsewhere. */
MOBRIN_API int mobrin_contacts_advance(mobrin_contacts* contacts, const mobrin_participant* who, mobrin_instance* it,
                                       mobrin_cue_handler handler, void* context, uint32_t listening);
/** Something without a machine; 0 where it takes part already. */
MOBRIN_API int mobrin_contacts_add_boxes(mobrin_contacts* contacts, const mobrin_participant* who,
                                         const mobrin_plain_box* boxes, uint32_t count);
/** Tells all hits of the step in order of time; `answer` gives mobrin_lives to mobrin_misses. */
MOBRIN_API void mobrin_contacts_resolve(mobrin_contacts* contacts, int (*answer)(void* context, const mobrin_hit* hit),
                                        void* context);

/** Zones alone. A step: begin, add owners and visitors, resolve. */
typedef struct mobrin_zone_watch mobrin_zone_watch;
/** Finds who comes into zones and leaves them; who is within `margin` of the edge stays as he is. To be freed. */
MOBRIN_API mobrin_zone_watch* mobrin_zone_watch_new(mobrin_tags* tags, double margin);
/** With all it remembers; to be freed. */
MOBRIN_API mobrin_zone_watch* mobrin_zone_watch_copy(const mobrin_zone_watch* watch);
/** Gives it back; a null is nothing. */
MOBRIN_API void mobrin_zone_watch_free(mobrin_zone_watch* watch);
/** Begins a step of the game's time; who comes to a border at its very end is told of by the next. */
MOBRIN_API void mobrin_zone_watch_begin(mobrin_zone_watch* watch, mobrin_ticks from, mobrin_ticks to);
/** Somebody with zones; 0 where he is there already. */
MOBRIN_API int mobrin_zone_watch_add_owner(mobrin_zone_watch* watch, uint32_t id, mobrin_instance* it,
                                           const mobrin_placement* from, const mobrin_placement* to);
/** Somebody who may enter zones; 0 where he is there already. */
MOBRIN_API int mobrin_zone_watch_add_visitor(mobrin_zone_watch* watch, uint32_t id, uint64_t tags, double from_x,
                                             double from_y, double to_x, double to_y);
/** Writes the owners' inputs and tells each event; how many there were. */
MOBRIN_API uint32_t mobrin_zone_watch_resolve(mobrin_zone_watch* watch,
                                              void (*handler)(void* context, const mobrin_zone_event* event),
                                              void* context);

#ifdef __cplusplus
}
#endif

#endif
