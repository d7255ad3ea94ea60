/* A C game against the installed library: a pack in, a pulse, a state out. */
#include <stdio.h>
#include <stdlib.h>

#include "mobrin/c/mobrin.h"

int main(int argc, char** argv) {
  static unsigned char bytes[1 << 20];
  FILE* file = fopen(argc > 1 ? argv[1] : "", "rb");
  if (file == NULL) return 1;
  const size_t size = fread(bytes, 1, sizeof bytes, file);
  fclose(file);
  mobrin_error error;
  mobrin_init(error);
  mobrin_machine* hive = mobrin_machine_from_pack(bytes, size, 0, &error);
  if (hive == NULL) return fprintf(stderr, "%s\n", error.text), 1;
  mobrin_instance* one = mobrin_instance_new(hive, NULL);
  mobrin_set_named(one, "keeper_near", 1, NULL);
  mobrin_set_named(one, "smoker_lit", 1, NULL);
  mobrin_advance_telling(one, mobrin_seconds(1), NULL, NULL, MOBRIN_GAME_RECORDS, NULL);
  printf("%s\n", mobrin_active_path(one, 0));
  const int fine = mobrin_in(one, mobrin_state_id(hive, "opening", &error));
  mobrin_instance_free(one);
  mobrin_machine_free(hive);
  return fine ? 0 : 1;
}
