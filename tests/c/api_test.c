/* The C interface as a C99 program uses it: what it says is what the library does, and what is wrong is refused. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "mobrin/c/mobrin_files.h"

static int failures = 0;
#define CHECK(what)                                                          \
  do {                                                                       \
    if (!(what)) {                                                           \
      ++failures;                                                            \
      fprintf(stderr, "%s:%d: this is not so: %s\n", __FILE__, __LINE__, #what); \
    }                                                                        \
  } while (0)

static const char kKeeper[] =
    "mobrin: 1\nmachine: keeper\n"
    "inputs: {veiled: false, jars: {int: 3, min: 0, max: 9}, move: {float: 0, min: -1, max: 1},\n"
    "         tool: {one_of: [nothing, net, smoker]}, swing: {pulse: 100ms}}\n"
    "cues: {net_out: {kind: damage, amount: 2, push: [0.5, 1], soft: true, word: swish}}\n"
    "clips: {idle: {frames: [0-3], fps: 4, play: loop, sheet: keeper.png, tile: [16, 20]}, net: {frames: [8, 9], fps: 10}}\n"
    "marks: {idle: {pivot: [8, 19]}, net: {cues: {1: net_out}}}\n"
    "looks: {pale: {when: jars < 2, art: {keeper.png: pale.png}}}\n"
    "vars: {pace: 1.5}\n"
    "initial: stand\n"
    "states:\n"
    "  stand: {clip: idle, go: [{pulse: swing, to: net}, {when: jars == 0, to: out}]}\n"
    "  net: {clip: net, traits: [busy], enter: [\"pace = pace + 1\"], go: [{at: end, to: stand}]}\n"
    "  out: {final: true}\n";

static mobrin_machine* keeper(void) {
  mobrin_text* report = NULL;
  mobrin_machine* machine = mobrin_machine_from_text(kKeeper, strlen(kKeeper), "keeper.yaml", &report);
  if (machine == NULL) fprintf(stderr, "%s\n", mobrin_text_data(report));
  mobrin_text_free(report);
  if (machine == NULL) exit(1);
  return machine;
}

static void names_and_errors(void) {
  mobrin_machine* machine = keeper();
  mobrin_error error;
  mobrin_init(error);
  CHECK(strcmp(mobrin_machine_name(machine), "keeper") == 0);
  CHECK(mobrin_count(machine, mobrin_states) == 4);
  CHECK(strcmp(mobrin_name(machine, mobrin_states, 2), "net") == 0);
  CHECK(strcmp(mobrin_name(machine, mobrin_images, 1), "pale.png") == 0);
  CHECK(strcmp(mobrin_name(machine, mobrin_states, 9), "") == 0);
  CHECK(mobrin_count(machine, 99) == 0);

  CHECK(mobrin_input_id(machine, "moove", mobrin_float, &error) == 0);
  CHECK(error.code == mobrin_unknown_name && strstr(error.text, "\"move\"") != NULL);
  CHECK(mobrin_input_id(machine, "move", mobrin_int, &error) == 0);
  CHECK(error.code == mobrin_wrong_type);
  CHECK(mobrin_input_id(NULL, "move", mobrin_float, &error) == 0 && error.code == mobrin_bad_argument);
  CHECK(mobrin_input_id(machine, "move", 17, NULL) == 0);
  CHECK(mobrin_state_id(machine, "nett", &error) == 0 && strstr(error.text, "\"net\"") != NULL);

  mobrin_input_info info;
  mobrin_init(info);
  CHECK(mobrin_input_at(machine, 1, &info) && info.kind == mobrin_int && info.start == 3 && info.max == 9);
  CHECK(mobrin_input_at(machine, 3, &info) && info.choices == 3);
  CHECK(strcmp(mobrin_choice_name(machine, 3, 2), "smoker") == 0);
  CHECK(mobrin_input_at(machine, 4, &info) && info.buffer == MOBRIN_TICKS_PER_SECOND / 10);
  CHECK(!mobrin_input_at(machine, 5, &info));
  CHECK(mobrin_clip_length(machine, 0) == MOBRIN_TICKS_PER_SECOND && mobrin_clip_frames(machine, 1) == 2);
  CHECK(mobrin_clip_length(machine, 2) == -1);
  CHECK(mobrin_seconds(0.5) == MOBRIN_TICKS_PER_SECOND / 2 && mobrin_seconds(NAN) == 0 && mobrin_step_end(1, 0) == 0);

  /* A file that is wrong says where. */
  mobrin_text* report = NULL;
  const char* wrong = "mobrin: 1\nmachine: m\nstates: {a: {go: [{to: b}]}}\n";
  CHECK(mobrin_machine_from_text(wrong, strlen(wrong), "wrong.yaml", &report) == NULL);
  CHECK(strstr(mobrin_text_data(report), "wrong.yaml:3") != NULL);
  mobrin_text_free(report);
  mobrin_machine_free(machine);
}

static void packs(void) {
  mobrin_machine* machine = keeper();
  mobrin_bytes* bytes = mobrin_bytes_new();
  mobrin_machine_pack(machine, 1, bytes);
  mobrin_error error;
  mobrin_init(error);
  mobrin_machine* again = mobrin_machine_from_pack(mobrin_bytes_data(bytes), mobrin_bytes_size(bytes), 0, &error);
  CHECK(again != NULL && mobrin_machine_fingerprint(again) == mobrin_machine_fingerprint(machine));
  CHECK(mobrin_machine_from_pack(mobrin_bytes_data(bytes), mobrin_bytes_size(bytes) - 1, 0, &error) == NULL);
  CHECK(error.code == mobrin_refused_bytes && strstr(error.text, "cut short") != NULL);
  CHECK(mobrin_machine_from_pack(NULL, 5, 0, NULL) == NULL);
  const uint64_t fits = mobrin_machine_interface(machine);
  mobrin_machine* fitting = mobrin_machine_from_pack(mobrin_bytes_data(bytes), mobrin_bytes_size(bytes), fits, NULL);
  CHECK(fitting != NULL);
  CHECK(mobrin_machine_from_pack(mobrin_bytes_data(bytes), mobrin_bytes_size(bytes), fits + 1, &error) == NULL);
  mobrin_machine_free(fitting);
  mobrin_machine_free(again);
  mobrin_bytes_free(bytes);
  mobrin_machine_free(machine);
}

typedef struct Heard {
  int count;
  char last[200];
  mobrin_instance* it;
  mobrin_id swing;
} Heard;
static void hear(void* context, const mobrin_cue* cue) {
  Heard* heard = (Heard*)context;
  ++heard->count;
  mobrin_cue_line(cue, heard->last, sizeof heard->last);
  if (heard->it != NULL && cue->what == mobrin_told_leave) mobrin_press(heard->it, heard->swing);
}

static void instances(void) {
  mobrin_machine* machine = keeper();
  mobrin_machine* other = keeper();
  mobrin_instance* it = mobrin_instance_new(machine, NULL);
  mobrin_machine_free(machine); /* the instance keeps what it needs */
  const mobrin_machine* own = mobrin_instance_machine(it);
  const mobrin_id move = mobrin_input_id(own, "move", mobrin_float, NULL);
  const mobrin_id jars = mobrin_input_id(own, "jars", mobrin_int, NULL);
  const mobrin_id veiled = mobrin_input_id(own, "veiled", mobrin_bool, NULL);
  const mobrin_id tool = mobrin_input_id(own, "tool", mobrin_choice, NULL);
  const mobrin_id swing = mobrin_input_id(own, "swing", mobrin_pulse, NULL);
  const mobrin_id net = mobrin_state_id(own, "net", NULL);
  const mobrin_id pace = mobrin_variable_id(own, "pace", NULL, NULL);
  const mobrin_id amount = mobrin_field_id(own, "net_out", "amount", NULL);
  const mobrin_id push = mobrin_field_id(own, "net_out", "push", NULL);
  const mobrin_id word = mobrin_field_id(own, "net_out", "word", NULL);

  CHECK(mobrin_set_float(it, move, 3) == mobrin_clamped && mobrin_float_value(it, move) == 1);
  CHECK(mobrin_set_float(it, move, NAN) == mobrin_refused);
  CHECK(mobrin_set_int(it, jars, 5) == mobrin_changed && mobrin_int_value(it, jars) == 5);
  CHECK(mobrin_set_bool(it, veiled, 1) == mobrin_changed && mobrin_bool_value(it, veiled));
  CHECK(mobrin_set_choice(it, tool, 2) == mobrin_changed && mobrin_choice_value(it, tool) == 2);
  CHECK(mobrin_set_choice(it, tool, 300) == mobrin_refused);
  CHECK(mobrin_choice_index(own, tool, "net", NULL) == 1 && mobrin_choice_index(own, move, "net", NULL) == -1);
  /* Ids of another machine, of another kind, and null are refused. */
  CHECK(mobrin_set_float(it, mobrin_input_id(other, "move", mobrin_float, NULL), 0) == mobrin_refused);
  CHECK(mobrin_set_float(it, jars, 0) == mobrin_refused && mobrin_set_int(it, net, 0) == mobrin_refused);
  CHECK(mobrin_press(it, move) == mobrin_refused && mobrin_in(it, swing) == 0);
  CHECK(mobrin_set_float(NULL, move, 0) == mobrin_refused && mobrin_float_value(it, 0) == 0);
  CHECK(mobrin_set_named(it, "jars", 4, NULL) == mobrin_ok && mobrin_int_value(it, jars) == 4);
  mobrin_error error;
  mobrin_init(error);
  CHECK(mobrin_set_named(it, "jars", 4.5, &error) == mobrin_wrong_type);
  CHECK(mobrin_set_named(it, "jar", 4, &error) == mobrin_unknown_name && strstr(error.text, "jars") != NULL);
  CHECK(mobrin_choose_named(it, "tool", "net", NULL) == mobrin_ok && mobrin_choice_value(it, tool) == 1);

  mobrin_cues* cues = mobrin_cues_new(3, MOBRIN_ALL_RECORDS);
  mobrin_advanced how;
  mobrin_init(how);
  CHECK(mobrin_advance(it, 0, cues, &how) && mobrin_cues_count(cues) == 1);
  mobrin_cues_clear(cues);
  CHECK(mobrin_press_named(it, "swing", NULL) == mobrin_ok && mobrin_pulse_alive(it, swing));
  /* Two records at once, a third later, then the list is full: what is left is told after it was read. */
  CHECK(!mobrin_advance(it, mobrin_seconds(0.25), cues, &how));
  CHECK(how.stopped && how.left > 0 && how.covered + how.left == mobrin_seconds(0.25));
  CHECK(mobrin_cues_count(cues) == 3);
  const mobrin_cue* told = mobrin_cues_at(cues, 2);
  CHECK(told->what == mobrin_told_cue && told->frame == 1 && told->at == mobrin_seconds(0.1));
  CHECK(told->cue == mobrin_cue_index(own, "net_out", NULL) && mobrin_cue_index(own, "net", NULL) == -1);
  CHECK(strcmp(mobrin_cue_name(told), "net_out") == 0 && strcmp(mobrin_cue_kind(told), "damage") == 0);
  CHECK(strcmp(mobrin_cue_clip(told), "net") == 0 && strcmp(mobrin_cue_state(told), "net") == 0);
  double number = 0, numbers[2] = {0, 0};
  CHECK(mobrin_cue_number(told, amount, &number) && number == 2);
  CHECK(mobrin_cue_number_named(told, "soft", &number) && number == 1);
  CHECK(!mobrin_cue_number(told, word, &number) && strcmp(mobrin_cue_text(told, word), "swish") == 0);
  CHECK(mobrin_cue_list(told, push, numbers, 2) == 2 && numbers[0] == 0.5 && numbers[1] == 1);
  CHECK(mobrin_cue_list(told, amount, numbers, 2) == -1 && mobrin_cue_text_named(told, "words") == NULL);
  char line[100], little[8];
  CHECK(mobrin_cue_line(told, line, sizeof line) < sizeof line);
  CHECK(strcmp(line, "net_out (damage)  net frame 1  amount: 2  push: [0.5, 1]  soft: true  word: swish") == 0);
  CHECK(mobrin_cue_line(told, little, sizeof little) > 8 && strcmp(little, "net_out") == 0);
  CHECK(mobrin_variable_value(it, pace) == 2.5);
  CHECK(mobrin_is(it, mobrin_trait_id(own, "busy", NULL)) && mobrin_in(it, net));
  mobrin_cues_clear(cues);
  CHECK(mobrin_advance(it, how.left, cues, &how) && how.left == 0);
  CHECK(strcmp(mobrin_active_path(it, 0), "stand") == 0 && mobrin_active(it, 1) == MOBRIN_NONE);
  CHECK(mobrin_cues_at(cues, 9) == NULL);

  /* What is shown. */
  mobrin_shown shown;
  mobrin_init(shown);
  CHECK(mobrin_shown_now(it, 0, &shown) && shown.clip == mobrin_index(mobrin_clip_id(own, "idle", NULL)));
  CHECK(mobrin_shows(it, mobrin_clip_id(own, "idle", NULL)) && !mobrin_shows(it, mobrin_clip_id(other, "idle", NULL)));
  mobrin_picture picture;
  mobrin_cut cut;
  mobrin_init(picture);
  mobrin_init(cut);
  CHECK(mobrin_picture_now(it, 0, 1, &picture) && picture.image == 0 && picture.mirrored);
  CHECK(mobrin_picture_cut(own, &picture, 64, 40, &cut) && cut.width == 16 && cut.pivot_x == 8 && cut.pivot_y == 19);
  CHECK(!mobrin_picture_cut(own, &picture, 4, 4, &cut) && cut.width == 0);
  mobrin_set_int(it, jars, 1);
  CHECK(mobrin_picture_now(it, 0, 0, &picture));
  CHECK(strcmp(mobrin_name(own, mobrin_images, picture.image), "pale.png") == 0 && mobrin_look(it) == 0);
  mobrin_shown layers[4];
  mobrin_init(layers[0]);
  CHECK(mobrin_layers(it, 0, layers, 4) == 1 && layers[0].weight == 1 && mobrin_layers(it, 0, NULL, 0) == 1);
  CHECK(mobrin_blended(it, 0, layers, 1) == 1 && mobrin_shown_now(it, 5, &shown) == 0);

  /* A handler that writes: it takes effect at that instant. */
  Heard heard = {0, "", it, swing};
  mobrin_press(it, swing);
  CHECK(mobrin_advance_telling(it, mobrin_seconds(0.3), hear, &heard, MOBRIN_ALL_RECORDS, NULL));
  CHECK(heard.count == 8); /* out, in, its cue; and the same again; out, in */
  CHECK(mobrin_now(it) == mobrin_seconds(0.55));

  /* Snapshots, rate, places. */
  size_t size = 0;
  const void* block = mobrin_block(it, &size);
  void* kept = malloc(size);
  memcpy(kept, block, size);
  const uint64_t hash = mobrin_hash(it);
  CHECK(mobrin_set_rate(it, 0.5) && mobrin_rate(it) == 0.5 && !mobrin_set_rate(it, -1));
  CHECK(mobrin_freeze(it, mobrin_seconds(0.1)) && !mobrin_freeze(it, mobrin_seconds(10)));
  CHECK(mobrin_hash(it) != hash && mobrin_restore(it, kept, size) && mobrin_hash(it) == hash);
  CHECK(!mobrin_restore(it, kept, size - 1) && !mobrin_restore(it, NULL, size));
  free(kept);
  CHECK(mobrin_place(it, net, mobrin_seconds(0.05)) && mobrin_in(it, net) && !mobrin_place(it, swing, 0));
  mobrin_advance(it, 0, cues, NULL);
  CHECK(mobrin_next_change(it) == mobrin_now(it) + mobrin_seconds(0.05));
  mobrin_reset(it);
  CHECK(mobrin_force(it, net) && !mobrin_force(NULL, net));
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(other);
}

static void wrote(void* context, const mobrin_write* write) { *(int*)context += write->kind == mobrin_wrote_pulse; }
static void considered(void* context, const mobrin_considered* one) {
  if (one->verdict == 1 && *(char*)context == 0) mobrin_guard_text(one, (char*)context, 100);
}

static void tickets_hooks_saves(void) {
  mobrin_machine* machine = keeper();
  mobrin_instance_options options;
  mobrin_init(options);
  options.begin = mobrin_seconds(60);
  mobrin_instance* it = mobrin_instance_new(machine, &options);
  CHECK(mobrin_now(it) == mobrin_seconds(60) && mobrin_instance_begin_at(it, mobrin_seconds(60)));
  const mobrin_id swing = mobrin_input_id(machine, "swing", mobrin_pulse, NULL);
  mobrin_cues* cues = mobrin_cues_new(16, MOBRIN_GAME_RECORDS);
  mobrin_advance(it, mobrin_seconds(1), cues, NULL);

  int pulses = 0;
  char guard[100] = "";
  mobrin_write_hook hook = {wrote, &pulses};
  mobrin_trace trace = {considered, guard};
  mobrin_set_write_hook(it, &hook);
  mobrin_set_trace(it, &trace);
  mobrin_consider(it);
  CHECK(strcmp(guard, "jars == 0: false, jars: 3") == 0);
  mobrin_set_trace(it, NULL);
  const mobrin_ticket ticket = mobrin_ask(it, swing);
  CHECK(ticket.serial != 0 && mobrin_ticket_status(it, ticket) == mobrin_waiting && pulses == 1);
  mobrin_set_write_hook(it, NULL);
  mobrin_advance(it, mobrin_seconds(0.1), cues, NULL);
  mobrin_ticket_info open;
  mobrin_init(open);
  CHECK(mobrin_ticket_status(it, ticket) == mobrin_running && mobrin_open_tickets(it, &open, 1) == 1);
  CHECK(open.status == mobrin_running && open.state == 2 && open.pulse == 4 && !mobrin_never_ends(it, ticket));

  mobrin_text* save = mobrin_save(it);
  mobrin_advance(it, mobrin_seconds(0.2), cues, NULL);
  CHECK(mobrin_ticket_status(it, ticket) == mobrin_succeeded && mobrin_give_back(it, ticket));
  const mobrin_ticket nobodys = {1, 2, 70000};
  CHECK(mobrin_ticket_status(it, nobodys) == mobrin_lost && !mobrin_give_back(it, nobodys));

  mobrin_instance* other = mobrin_instance_new(machine, NULL);
  mobrin_text* losses = NULL;
  mobrin_error error;
  mobrin_init(error);
  CHECK(mobrin_load_save(other, mobrin_text_data(save), mobrin_text_size(save), &losses, &error) == mobrin_ok);
  CHECK(losses == NULL);
  mobrin_advance(other, mobrin_seconds(0.2), cues, NULL);
  CHECK(mobrin_hash(other) == mobrin_hash(it));
  CHECK(mobrin_load_save(other, "{", 1, NULL, &error) == mobrin_bad_file && error.text[0] != 0);
  mobrin_text_free(save);

  /* Into a machine that has lost a state. */
  const char* less = "mobrin: 1\nmachine: keeper\nstates: {rest: {}}\n";
  mobrin_machine* changed = mobrin_machine_from_text(less, strlen(less), "less.yaml", NULL);
  mobrin_instance* into = mobrin_instance_new(changed, NULL);
  CHECK(mobrin_carry_over(it, into, &losses) > 0 && strstr(mobrin_text_data(losses), "jars") != NULL);
  mobrin_text_free(losses);

  /* What was written is a tape that tells the same. */
  mobrin_instance* live = mobrin_instance_new(machine, NULL);
  mobrin_recorder* recorder = mobrin_recorder_new(live, "bug");
  Heard first = {0, "", NULL, 0}, second = {0, "", NULL, 0};
  mobrin_advance_telling(live, mobrin_seconds(0.3), hear, &first, MOBRIN_ALL_RECORDS, NULL);
  mobrin_press(live, swing);
  mobrin_advance_telling(live, mobrin_seconds(0.7), hear, &first, MOBRIN_ALL_RECORDS, NULL);
  mobrin_text* written = mobrin_recorder_tape(recorder);
  mobrin_recorder_free(recorder);
  mobrin_tape* tape =
      mobrin_tape_from_text(mobrin_text_data(written), mobrin_text_size(written), "bug.tape.yaml", machine, NULL);
  mobrin_text_free(written);
  CHECK(tape != NULL && mobrin_tape_end(tape) == mobrin_seconds(1));
  mobrin_instance* fresh = mobrin_instance_new(machine, NULL);
  CHECK(mobrin_tape_run(tape, fresh, 60, hear, &second, MOBRIN_ALL_RECORDS) && !mobrin_tape_run(tape, fresh, 0, hear, &second, 0));
  CHECK(first.count == second.count && first.count > 4 && strcmp(first.last, second.last) == 0);
  CHECK(mobrin_hash(fresh) == mobrin_hash(live));
  mobrin_text* report = NULL;
  const char* misfit = "mobrin: 1\ntape: t\nsteps: [{at: 0s, pulse: swong}]\nuntil: 1s\n";
  CHECK(mobrin_tape_from_text(misfit, strlen(misfit), "t.yaml", machine, &report) == NULL);
  CHECK(strstr(mobrin_text_data(report), "swing") != NULL);
  mobrin_text_free(report);

  mobrin_tape_free(tape);
  mobrin_instance_free(fresh);
  mobrin_instance_free(live);
  mobrin_instance_free(into);
  mobrin_machine_free(changed);
  mobrin_instance_free(other);
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(machine);
}

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

/* A structure that is shorter than the library's, as an older program has it, is filled as far as it goes. */
static void older_programs(void) {
  mobrin_machine* machine = keeper();
  mobrin_instance* it = mobrin_instance_new(machine, NULL);
  mobrin_cues* cues = mobrin_cues_new(4, MOBRIN_GAME_RECORDS);
  mobrin_advance(it, mobrin_seconds(0.5), cues, NULL);
  mobrin_shown shown;
  memset(&shown, 0x55, sizeof shown);
  shown.size = offsetof(mobrin_shown, seconds);
  const double before = shown.seconds;
  CHECK(mobrin_shown_now(it, 0, &shown) && shown.frame == 2 && memcmp(&shown.seconds, &before, sizeof before) == 0);
  CHECK(shown.size == offsetof(mobrin_shown, seconds));
  shown.size = 0; /* forgotten: nothing is written */
  shown.frame = 77;
  mobrin_shown_now(it, 0, &shown);
  CHECK(shown.frame == 77);
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(machine);
  mobrin_machine_free(NULL);
  mobrin_instance_free(NULL);
  mobrin_crowd_free(NULL);
  mobrin_text_free(NULL);
  CHECK(mobrin_instance_new(NULL, NULL) == NULL && mobrin_crowd_new(NULL, NULL) == NULL && mobrin_arena_new(NULL, 0) == NULL);
  CHECK(mobrin_version() == 100);
}

int main(int argc, char** argv) {
  names_and_errors();
  packs();
  instances();
  tickets_hooks_saves();
  crowds();
  meetings(argc > 1 ? argv[1] : "demo/apiary");
  older_programs();
  if (failures == 0) puts("the C interface does what it says");
  return failures == 0 ? 0 : 1;
}
