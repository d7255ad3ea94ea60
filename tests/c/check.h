/* What the C tests share: a check that goes on, and a keeper. */
#ifndef MOBRIN_TESTS_C_CHECK_H
#define MOBRIN_TESTS_C_CHECK_H
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

static mobrin_machine* machine_of(const char* text) {
  mobrin_text* report = NULL;
  mobrin_machine* machine = mobrin_machine_from_text(text, strlen(text), "keeper.yaml", &report);
  if (machine == NULL) fprintf(stderr, "%s\n", mobrin_text_data(report));
  mobrin_text_free(report);
  if (machine == NULL) exit(1);
  return machine;
}
static mobrin_machine* keeper(void) { return machine_of(kKeeper); }

#endif
