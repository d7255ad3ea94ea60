/* The C interface as a C99 program uses it: what it says is what the library does, and what is wrong is refused. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "check.h"

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
  CHECK(mobrin_forced(it) == 0 && mobrin_force(it, net) && !mobrin_force(NULL, net));
  CHECK(mobrin_forced(it) == net && mobrin_forced(NULL) == 0);
  mobrin_cues_clear(cues); /* back to the begin and over to the net are more records than it holds */
  CHECK(!mobrin_advance(it, 0, cues, &how) && how.needs == 4 && mobrin_forced(it) == net);
  mobrin_cues_free(cues);
  cues = mobrin_cues_new(how.needs, MOBRIN_ALL_RECORDS);
  CHECK(mobrin_advance(it, 0, cues, NULL) && mobrin_forced(it) == 0 && mobrin_in(it, net));
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(other);
}

static void wrote(void* context, const mobrin_write* write) {
  *(int*)context += write->kind == mobrin_wrote_pulse;
  if (write->kind == mobrin_wrote_place && write->duration == mobrin_seconds(0.5)) *(int*)context += 100 + (int)write->state;
}
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
  mobrin_instance* late = mobrin_instance_new(machine, NULL);
  const mobrin_id net = mobrin_state_id(machine, "net", NULL);
  mobrin_set_write_hook(late, &hook);
  CHECK(mobrin_place(late, net, mobrin_seconds(0.5)) && pulses == 101 + (int)mobrin_index(net));
  mobrin_instance_free(late);
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

/* Rounds are gathered; the first keeps its own, what comes after it is another. */
typedef struct gathered {
  mobrin_round* rounds[4];
  int count, window;
} gathered;
static void gather(void* context, const mobrin_considered* one) {
  gathered* all = context;
  mobrin_shown shown;
  mobrin_init(shown);
  if (mobrin_considered_shown(one, &shown) && shown.frame == 2) ++all->window;
  if (all->count > 0 && mobrin_round_add(all->rounds[all->count - 1], one)) return;
  if (all->count < 4) all->rounds[all->count++] = mobrin_round_new(one);
}
static void why_not(void) {
  const char* text =
      "mobrin: 1\nmachine: m\ninitial: s\ninputs: {p: pulse, q: pulse}\nclips: {c: {frames: [0-3], fps: 4, play: loop}}\n"
      "go: [{pulse: p, to: t}]\nstates: {s: {clip: c, go: [{pulse: q, to: t}, {pulse: p, to: t}]}, t: {}}\n";
  mobrin_machine* machine = machine_of(text);
  mobrin_instance* it = mobrin_instance_new(machine, NULL);
  mobrin_cues* cues = mobrin_cues_new(16, MOBRIN_GAME_RECORDS);
  mobrin_advance(it, mobrin_seconds(0.5), cues, NULL);
  gathered all = {{NULL, NULL, NULL, NULL}, 0, 0};
  mobrin_trace trace = {gather, &all};
  mobrin_set_trace(it, &trace);
  mobrin_press_named(it, "p", NULL);
  mobrin_press_named(it, "q", NULL);
  mobrin_advance(it, 0, cues, NULL);
  CHECK(all.count == 2 && all.window == 1 && mobrin_round_skipped(all.rounds[0], NULL, 0) == 2);
  mobrin_skipped skipped[2];
  mobrin_init(skipped[0]);
  CHECK(mobrin_round_skipped(all.rounds[0], skipped, 2) == 2);
  CHECK(skipped[0].transition == 1 && skipped[0].why == mobrin_skipped_around && skipped[0].by == 0);
  CHECK(skipped[1].transition == 2 && skipped[1].why == mobrin_skipped_around && skipped[1].size == sizeof skipped[1]);
  CHECK(mobrin_round_skipped(all.rounds[1], skipped, 2) == 0);
  mobrin_reset(it);
  mobrin_advance(it, 0, cues, NULL);
  for (int i = 0; i < all.count; ++i) mobrin_round_free(all.rounds[i]);
  all.count = 0;
  mobrin_press_named(it, "q", NULL);
  mobrin_advance(it, 0, cues, NULL);
  CHECK(all.count == 2 && mobrin_round_skipped(all.rounds[0], skipped, 2) == 1);
  CHECK(skipped[0].transition == 2 && skipped[0].why == mobrin_skipped_above && skipped[0].by == 1);
  for (int i = 0; i < all.count; ++i) mobrin_round_free(all.rounds[i]);
  mobrin_round_free(NULL);
  CHECK(mobrin_round_new(NULL) == NULL && !mobrin_round_add(NULL, NULL) && mobrin_round_skipped(NULL, skipped, 2) == 0);
  mobrin_shown shown;
  mobrin_init(shown);
  CHECK(!mobrin_considered_shown(NULL, &shown));
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(machine);
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

int main(void) {
  names_and_errors();
  packs();
  instances();
  tickets_hooks_saves();
  why_not();
  older_programs();
  if (failures == 0) puts("the C interface does what it says");
  return failures == 0 ? 0 : 1;
}
