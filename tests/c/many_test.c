/* Crowds, fights and zones as a C99 program uses them. */
#include <math.h>

#include "check.h"

/* Memory that counts, out of a pool. */
static size_t taken_bytes = 0;
static union {
  double aligned;
  unsigned char bytes[1 << 20];
} pool;
static size_t pool_end = 0;
static void* take(void* memory, size_t bytes, size_t alignment) {
  *(int*)memory += 1;
  taken_bytes += bytes;
  while (((uintptr_t)pool.bytes + pool_end) % alignment != 0) ++pool_end;
  if (pool_end + bytes > sizeof pool) return NULL;
  pool_end += bytes;
  return pool.bytes + pool_end - bytes;
}
static void give_back(void* memory, void* what, size_t bytes, size_t alignment) {
  CHECK(what != NULL && *(int*)memory > 0 && alignment > 0);
  taken_bytes -= bytes;
}

static void crowds(void) {
  mobrin_machine* machine = keeper();
  int calls = 0;
  mobrin_crowd_options options;
  mobrin_init(options);
  options.memory = &calls;
  options.allocate = take;
  options.deallocate = give_back;
  mobrin_crowd* crowd = mobrin_crowd_new(machine, &options);
  mobrin_crowd_cues* cues = mobrin_crowd_cues_new(0);
  const mobrin_id move = mobrin_input_id(machine, "move", mobrin_float, NULL);
  const mobrin_id jars = mobrin_input_id(machine, "jars", mobrin_int, NULL);
  const mobrin_id veiled = mobrin_input_id(machine, "veiled", mobrin_bool, NULL);
  const mobrin_id tool = mobrin_input_id(machine, "tool", mobrin_choice, NULL);
  const mobrin_id swing = mobrin_input_id(machine, "swing", mobrin_pulse, NULL);
  mobrin_member all[6];
  mobrin_crowd_reserve(crowd, 6);
  CHECK(calls > 0 && taken_bytes > 0);
  for (int i = 0; i < 6; ++i) all[i] = mobrin_crowd_add(crowd);
  CHECK(mobrin_crowd_size(crowd) == 6 && mobrin_crowd_has(crowd, all[3]) && !mobrin_crowd_has(crowd, 0));
  CHECK(mobrin_crowd_at(crowd, 2) == all[2] && mobrin_member_place(all[2]) == 2);

  const float moves[6] = {0, 0.1f, 0.2f, 0.3f, 0.4f, 0.5f};
  const int32_t counts[2] = {7, 8};
  const uint8_t truths[3] = {1, 0, 5}, choices[3] = {2, 1, 9};
  const uint32_t places[2] = {5, 1};
  CHECK(mobrin_crowd_write_floats(crowd, NULL, move, moves, 6) == 0);
  CHECK(mobrin_crowd_write_ints(crowd, places, jars, counts, 2) == 0);
  CHECK(mobrin_crowd_write_bools(crowd, NULL, veiled, truths, 3) == 0);
  CHECK(mobrin_crowd_write_choices(crowd, NULL, tool, choices, 3) == 1);
  CHECK(mobrin_crowd_write_floats(crowd, NULL, jars, moves, 6) == 6);
  CHECK(mobrin_crowd_float_value(crowd, all[4], move) == 0.4f && mobrin_crowd_int_value(crowd, all[5], jars) == 7);
  CHECK(mobrin_crowd_bool_value(crowd, all[2], veiled) && mobrin_crowd_choice_value(crowd, all[0], tool) == 2);
  CHECK(mobrin_crowd_write_all_float(crowd, move, 1) == 0 && mobrin_crowd_float_value(crowd, all[0], move) == 1);
  CHECK(mobrin_crowd_write_all_bool(crowd, veiled, 1) == 0 && mobrin_crowd_write_all_int(crowd, jars, 4) == 0);
  CHECK(mobrin_crowd_write_all_choice(crowd, tool, 7) == 6);
  CHECK(mobrin_crowd_set_int(crowd, all[0], jars, 2) == mobrin_changed && mobrin_crowd_set_float(crowd, 0, move, 1) == mobrin_refused);
  CHECK(mobrin_crowd_set_bool(crowd, all[0], veiled, 1) == mobrin_same && mobrin_crowd_set_choice(crowd, all[0], tool, 1) == mobrin_changed);
  CHECK(mobrin_crowd_place(crowd, all[5], mobrin_state_id(machine, "stand", NULL), mobrin_seconds(0.6)));

  CHECK(mobrin_crowd_advance(crowd, mobrin_seconds(0.1), cues, NULL));
  CHECK(mobrin_crowd_press(crowd, all[1], swing) == mobrin_changed && mobrin_crowd_pulse_alive(crowd, all[1], swing));
  CHECK(mobrin_crowd_press_many(crowd, places, swing, 2));
  mobrin_bytes* snapshot = mobrin_bytes_new();
  mobrin_crowd_snapshot(crowd, snapshot);
  const uint64_t before = mobrin_crowd_hash(crowd);
  CHECK(mobrin_crowd_advance(crowd, mobrin_seconds(0.15), cues, NULL));
  size_t told = 0;
  const mobrin_crowd_cue* records = mobrin_crowd_cues_data(cues, &told);
  CHECK(told == 2 && records[0].place == 1 && records[1].place == 5 && records[0].cue.frame == 1);
  CHECK(strcmp(mobrin_cue_name(&records[1].cue), "net_out") == 0);
  CHECK(mobrin_crowd_in(crowd, all[5], mobrin_state_id(machine, "net", NULL)) && mobrin_crowd_active(crowd, all[0], 0) == 1);
  CHECK(mobrin_crowd_is(crowd, all[1], mobrin_trait_id(machine, "busy", NULL)));
  CHECK(mobrin_crowd_variable_value(crowd, all[1], mobrin_variable_id(machine, "pace", NULL, NULL)) == 2.5);

  /* What they show: one, some, all, changes. */
  mobrin_shown shown;
  mobrin_picture picture;
  mobrin_init(shown);
  mobrin_init(picture);
  CHECK(mobrin_crowd_shown(crowd, all[5], 0, &shown) && shown.clip == 1 && shown.frame == 1);
  CHECK(mobrin_crowd_picture(crowd, all[0], 0, 0, &picture) && picture.image == 0 && mobrin_crowd_look(crowd, all[0]) == MOBRIN_NONE);
  mobrin_crowd_frame frames[6];
  CHECK(mobrin_crowd_frames(crowd, places, 0, frames, 2) == 2 && frames[0].clip == 1 && frames[1].clip == 1);
  CHECK(mobrin_crowd_frames(crowd, NULL, 0, frames, 6) == 6 && frames[0].clip == 0 && frames[5].frame == 1);
  size_t count = 0;
  CHECK(mobrin_crowd_all_frames(crowd, 0, &count)[5].frame == 1 && count == 6);
  mobrin_crowd_changes(crowd, 0, &count);
  CHECK(count == 6);
  mobrin_crowd_changes(crowd, 0, &count);
  CHECK(count == 0);
  uint32_t active[4] = {0, 0, 0, 0};
  CHECK(mobrin_crowd_count_active(crowd, 0, 6, active, 4) == 6 && active[1] == 4 && active[2] == 2);

  /* Back again, and single members over to another crowd. */
  uint32_t differ[6];
  CHECK(mobrin_crowd_changed_since(crowd, mobrin_bytes_data(snapshot), mobrin_bytes_size(snapshot), differ, 6) > 0);
  CHECK(mobrin_crowd_changed_since(crowd, "x", 1, differ, 6) == (size_t)-1);
  unsigned char member[4096];
  const size_t member_size = mobrin_crowd_member_size(crowd);
  CHECK(member_size <= sizeof member && mobrin_crowd_member_bytes(crowd, 5, member, sizeof member));
  CHECK(!mobrin_crowd_member_bytes(crowd, 5, member, member_size - 1) && !mobrin_crowd_member_bytes(crowd, 6, member, sizeof member));
  CHECK(mobrin_crowd_restore(crowd, mobrin_bytes_data(snapshot), mobrin_bytes_size(snapshot)) && mobrin_crowd_hash(crowd) == before);
  CHECK(mobrin_crowd_put_member_bytes(crowd, 5, member, member_size) && mobrin_crowd_hash(crowd) != before);
  CHECK(!mobrin_crowd_put_member_bytes(crowd, 5, member, member_size + 1));
  mobrin_bytes_free(snapshot);

  /* In ranges, and with a limit. */
  mobrin_crowd_cues* few = mobrin_crowd_cues_new(1);
  mobrin_crowd_press_many(crowd, places, swing, 2);
  mobrin_crowd_begin_step(crowd, mobrin_seconds(0.2));
  CHECK(mobrin_crowd_advance_range(crowd, 0, 3, few, NULL));
  mobrin_crowd_cues_clear(few);
  CHECK(mobrin_crowd_advance_range(crowd, 3, 6, few, NULL));
  mobrin_crowd_end_step(crowd);
  CHECK(mobrin_crowd_set_rate(crowd, all[0], 2) && mobrin_crowd_freeze(crowd, all[0], 5) && mobrin_crowd_reset(crowd, all[0]));
  CHECK(mobrin_crowd_now(crowd) > 0 && mobrin_crowd_next_wake(crowd) <= mobrin_crowd_now(crowd));
  CHECK(mobrin_crowd_bytes_per_member(crowd) > 20);

  /* One alone, and the end of some. */
  mobrin_instance* alone = mobrin_crowd_copy(crowd, all[1]);
  CHECK(alone != NULL && mobrin_now(alone) == mobrin_crowd_now(crowd) && mobrin_crowd_copy(crowd, 0) == NULL);
  mobrin_instance_free(alone);
  mobrin_crowd_cues_clear(cues);
  CHECK(mobrin_crowd_remove(crowd, all[2]) && !mobrin_crowd_remove(crowd, all[2]));
  mobrin_crowd_set_int(crowd, all[3], jars, 0);
  mobrin_crowd_advance(crowd, mobrin_seconds(1), cues, NULL);
  CHECK(mobrin_crowd_done(crowd, all[3]) && mobrin_crowd_remove_done(crowd, cues) == 1 && mobrin_crowd_size(crowd) == 4);

  mobrin_machine* changed = keeper();
  mobrin_crowd* into = mobrin_crowd_new(changed, NULL);
  mobrin_text* losses = NULL;
  CHECK(mobrin_crowd_carry_over(crowd, into, &losses) == 0 && losses == NULL && mobrin_crowd_size(into) == 4);
  mobrin_crowd_free(into);
  mobrin_machine_free(changed);
  mobrin_crowd_cues_free(few);
  mobrin_crowd_cues_free(cues);
  mobrin_crowd_free(crowd);
  CHECK(taken_bytes == 0);
  mobrin_machine_free(machine);
}

typedef struct Fight {
  mobrin_arena* arena;
  int hits, told, settled, entered, aside;
  mobrin_ticks at;
} Fight;
static int fight_hit(void* context, const mobrin_hit* hit) {
  Fight* fight = (Fight*)context;
  ++fight->hits;
  fight->at = hit->at;
  CHECK(hit->by == 1 && hit->on >= 2 && strcmp(hit->hit_box, "net") == 0);
  CHECK(mobrin_press_named(mobrin_arena_instance(fight->arena, hit->on), "stunned", NULL) == mobrin_ok);
  return mobrin_lives;
}
static void fight_told(void* context, uint32_t id, const mobrin_cue* cue) {
  ((Fight*)context)->told += id == 1 && cue->what == mobrin_told_cue;
}
static void fight_settled(void* context, mobrin_ticks at) { ((Fight*)context)->settled += at >= 0; }
static void fight_zone(void* context, const mobrin_zone_event* event) { ((Fight*)context)->entered += event->entered; }
static void fight_aside(void* context, mobrin_crowd* crowd, const mobrin_crowd_cue* cue) {
  ((Fight*)context)->aside += mobrin_crowd_size(crowd) > 0 && cue->place < 9;
}
static int count_hit(void* context, const mobrin_hit* hit) { return *(int*)context += 1, hit->on == 99 ? mobrin_dies : mobrin_misses; }
static void count_zone(void* context, const mobrin_zone_event* event) { *(int*)context += event->entered ? 1 : 100; }

static mobrin_participant somebody(uint32_t id, uint64_t tags, double x, double y, int left) {
  mobrin_participant who;
  mobrin_init(who);
  who.id = id;
  who.tags = tags;
  who.alive = 1;
  who.from.x = who.to.x = x;
  who.from.y = who.to.y = y;
  who.from.scale = who.to.scale = 1;
  who.from.faces_left = who.to.faces_left = left;
  return who;
}

static void meetings(const char* demo) {
  char path[500];
  snprintf(path, sizeof path, "%s/keeper.yaml", demo);
  mobrin_machine* keepers = mobrin_machine_from_file(path, NULL);
  snprintf(path, sizeof path, "%s/hornet.yaml", demo);
  mobrin_machine* hornets = mobrin_machine_from_file(path, NULL);
  snprintf(path, sizeof path, "%s/hive.yaml", demo);
  mobrin_machine* hives = mobrin_machine_from_file(path, NULL);
  CHECK(keepers != NULL && hornets != NULL && hives != NULL);
  if (keepers == NULL || hornets == NULL || hives == NULL) return;
  mobrin_instance* it = mobrin_instance_new(keepers, NULL);
  mobrin_instance* hornet = mobrin_instance_new(hornets, NULL);
  mobrin_instance* hive = mobrin_instance_new(hives, NULL);
  mobrin_crowd* swarm = mobrin_crowd_new(hornets, NULL);
  const mobrin_member one = mobrin_crowd_add(swarm);
  const mobrin_member elsewhere = mobrin_crowd_add(swarm);
  CHECK(elsewhere != one);
  mobrin_choose_named(it, "carrying", "net", NULL);

  mobrin_tags* tags = mobrin_tags_new();
  const uint64_t keeper_tag = mobrin_tag(tags, "keeper"), hornet_tag = mobrin_tag(tags, "hornet");
  mobrin_arena* arena = mobrin_arena_new(tags, 0.1);
  Fight fight = {arena, 0, 0, 0, 0, 0, 0};
  mobrin_arena_game game;
  mobrin_init(game);
  game.context = &fight;
  game.hit = fight_hit;
  game.told = fight_told;
  game.settled = fight_settled;
  game.zone = fight_zone;
  game.aside = fight_aside;
  mobrin_arena_memory* memory = NULL;
  uint64_t hash = 0;
  for (int step = 0; step < 60; ++step) {
    if (step == 10) mobrin_press_named(it, "swing", NULL);
    mobrin_arena_begin(arena, mobrin_step_end(step, 60), mobrin_step_end(step + 1, 60));
    mobrin_participant me = somebody(1, keeper_tag, 0, 0, 0), wasp = somebody(2, hornet_tag, 0.7, 0.4, 1);
    mobrin_participant member = somebody(3, hornet_tag, 0.65, 0.45, 1), home = somebody(4, 0, 0.2, 0, 0);
    CHECK(mobrin_arena_add(arena, &me, it) && mobrin_arena_add(arena, &wasp, hornet) && mobrin_arena_add(arena, &home, hive));
    CHECK(mobrin_arena_add_member(arena, &member, swarm, one));
    CHECK(!mobrin_arena_add(arena, &me, it)); /* the id is taken */
    mobrin_arena_run(arena, &game);
    CHECK(mobrin_arena_now(arena) == mobrin_step_end(step + 1, 60));
    if (step == 40) memory = mobrin_arena_remember(arena);
  }
  CHECK(fight.hits == 2 && fight.settled > 0 && fight.told > 0 && fight.entered > 0);
  CHECK(mobrin_is(hornet, mobrin_trait_id(hornets, "busy", NULL)) || strcmp(mobrin_active_path(hornet, 0), "body/hover") == 0);
  hash = mobrin_hash(hornet);
  CHECK(hash != 0 && memory != NULL);
  mobrin_arena_recall(arena, memory);
  mobrin_arena_memory_free(memory);
  mobrin_arena_free(arena);

  /* Who stops where a step ends, and looks: who stands in a zone there is told, and no time goes by. */
  arena = mobrin_arena_new(tags, 0.1);
  fight.entered = 0;
  mobrin_arena_begin(arena, mobrin_seconds(1), mobrin_seconds(2));
  const mobrin_participant keeper = somebody(1, keeper_tag, 0, 0, 0), at_home = somebody(4, 0, 0.2, 0, 0);
  CHECK(mobrin_arena_add(arena, &keeper, it) && mobrin_arena_add(arena, &at_home, hive));
  mobrin_arena_run_begin(arena, &game);
  CHECK(fight.entered == 1 && mobrin_arena_now(arena) == mobrin_seconds(1) && mobrin_now(it) == mobrin_seconds(1));
  mobrin_arena_free(arena);

  /* Hits and zones alone; a thrown stone. */
  mobrin_contacts* contacts = mobrin_contacts_new(tags);
  int hits = 0;
  mobrin_contacts_begin(contacts, mobrin_seconds(1), mobrin_seconds(1.5));
  mobrin_participant wasp = somebody(2, hornet_tag, 0.7, 0.4, 1), stone = somebody(9, 0, 0.7, 0.4, 0);
  mobrin_plain_box box;
  mobrin_init(box);
  box.hits = 1;
  box.unit = 32;
  box.shape.half_width = box.shape.half_height = 16;
  CHECK(mobrin_contacts_advance(contacts, &wasp, hornet, NULL, NULL, MOBRIN_GAME_RECORDS));
  CHECK(mobrin_contacts_add_boxes(contacts, &stone, &box, 1));
  mobrin_contacts* copy = mobrin_contacts_copy(contacts);
  mobrin_contacts_resolve(contacts, count_hit, &hits);
  CHECK(hits > 0);
  mobrin_contacts_free(copy);
  mobrin_contacts_free(contacts);

  mobrin_zone_watch* watch = mobrin_zone_watch_new(tags, 0);
  int entered = 0;
  mobrin_placement there = {0, 0, 1, 0};
  mobrin_zone_watch_begin(watch, 0, mobrin_seconds(1));
  CHECK(mobrin_zone_watch_add_owner(watch, 4, hive, &there, &there));
  CHECK(mobrin_zone_watch_add_visitor(watch, 1, keeper_tag, -9, 0, 0, 0) && !mobrin_zone_watch_add_visitor(watch, 1, 0, NAN, 0, 0, 0));
  CHECK(mobrin_zone_watch_resolve(watch, count_zone, &entered) == 1 && entered == 1);
  mobrin_zone_watch* second = mobrin_zone_watch_copy(watch);
  mobrin_zone_watch_begin(second, mobrin_seconds(1), mobrin_seconds(2)); /* nobody is added: the visitor has left */
  mobrin_zone_watch_add_owner(second, 4, hive, &there, &there);
  CHECK(mobrin_zone_watch_resolve(second, count_zone, &entered) == 1 && entered == 101);
  mobrin_zone_watch_free(second);
  mobrin_zone_watch_free(watch);

  /* Boxes and reaches. */
  mobrin_box boxes[8];
  mobrin_init(boxes[0]);
  const uint32_t count = mobrin_boxes(hornet, &there, boxes, 8);
  CHECK(count > 0 && count < 8 && boxes[0].name[0] != 0 && boxes[count - 1].role[0] != 0);
  const mobrin_candidate who[3] = {{5, 1, 1, 0.4, 0, hornet_tag}, {6, 1, 0.5, 0.4, 0, hornet_tag}, {7, 0, 0.3, 0.4, 0, hornet_tag}};
  mobrin_target found[3];
  CHECK(mobrin_targets(keepers, 0, &there, 1, who, 3, tags, found, 3) == 1 && found[0].id == 6);
  CHECK(mobrin_targets(keepers, 7, &there, 1, who, 3, tags, found, 3) == 0);
  double forward = 0, right = 0;
  mobrin_local_direction(0, 2, 0, 1, 2, &forward, &right);
  CHECK(forward == 1 && fabs(right) < 1e-12);
  CHECK(mobrin_heading(0, 1, 4, 0, 0.1) == 1 && mobrin_heading(0, 1, 5, 3, 0.1) == 3);

  mobrin_tags_free(tags);
  mobrin_crowd_free(swarm);
  mobrin_instance_free(hive);
  mobrin_instance_free(hornet);
  mobrin_instance_free(it);
  mobrin_machine_free(hives);
  mobrin_machine_free(hornets);
  mobrin_machine_free(keepers);
}

int main(int argc, char** argv) {
  crowds();
  meetings(argc > 1 ? argv[1] : "demo/apiary");
  if (failures == 0) puts("the C interface does what it says");
  return failures == 0 ? 0 : 1;
}
