/* Mobrin for Lua 5.4, as much as a behaviour needs: `local mobrin = require "mobrin_lua"`.
 *
 *   local hornet = mobrin.load("hornet.pack")      -- an error says why
 *   local body = hornet:new()                      -- an instance
 *   body:set("distance", 90)                       -- by name: numbers, true and false, a choice's name
 *   body:press("stunned")
 *   local ticket = body:ask("dive")                -- then body:status(ticket): "waiting", "running", ...
 *   for _, cue in ipairs(body:advance(1 / 60)) do  -- seconds; each a table with at, what, name, kind, line
 *   body:is_in("body/notice"), body:is_done(), body:seconds()
 *
 * Names are looked up once a machine and kept as ids, so a step compares no texts. */
#include <lauxlib.h>
#include <lua.h>
#include <stdio.h>
#include <stdlib.h>

#include "mobrin/c/mobrin.h"

static const char kMachine[] = "mobrin.machine", kInstance[] = "mobrin.instance", kTicket[] = "mobrin.ticket";

typedef struct Body {
  mobrin_instance* it;
  mobrin_cues* cues;
  int ids; /* a reference to the machine's table of ids by name */
} Body;

/* --- machines */

static int load(lua_State* L) {
  const char* path = luaL_checkstring(L, 1);
  FILE* file = fopen(path, "rb");
  if (file == NULL) return luaL_error(L, "%s cannot be read", path);
  luaL_Buffer bytes;
  luaL_buffinit(L, &bytes);
  size_t got = 0;
  do {
    char* room = luaL_prepbuffsize(&bytes, 65536);
    got = fread(room, 1, 65536, file);
    luaL_addsize(&bytes, got);
  } while (got > 0);
  fclose(file);
  luaL_pushresult(&bytes);
  size_t size = 0;
  const char* data = lua_tolstring(L, -1, &size);
  mobrin_error error;
  mobrin_init(error);
  mobrin_machine* machine = mobrin_machine_from_pack(data, size, 0, &error);
  if (machine == NULL) return luaL_error(L, "%s: %s", path, error.text);
  mobrin_machine** held = lua_newuserdatauv(L, sizeof *held, 1);
  *held = machine;
  luaL_setmetatable(L, kMachine);
  lua_newtable(L);
  lua_setiuservalue(L, -2, 1);
  return 1;
}

static int free_machine(lua_State* L) {
  mobrin_machine** held = luaL_checkudata(L, 1, kMachine);
  mobrin_machine_free(*held);
  *held = NULL;
  return 0;
}

static int new_body(lua_State* L) {
  mobrin_machine** held = luaL_checkudata(L, 1, kMachine);
  Body* body = lua_newuserdatauv(L, sizeof *body, 0);
  body->it = mobrin_instance_new(*held, NULL);
  body->cues = mobrin_cues_new(64, MOBRIN_ALL_RECORDS);
  lua_getiuservalue(L, 1, 1);
  body->ids = luaL_ref(L, LUA_REGISTRYINDEX);
  luaL_setmetatable(L, kInstance);
  return 1;
}

/* --- bodies */

static Body* body_at(lua_State* L) { return luaL_checkudata(L, 1, kInstance); }

static int free_body(lua_State* L) {
  Body* body = body_at(L);
  mobrin_instance_free(body->it);
  mobrin_cues_free(body->cues);
  luaL_unref(L, LUA_REGISTRYINDEX, body->ids);
  body->it = NULL;
  body->cues = NULL;
  return 0;
}

/* The id of a name of one kind of thing; looked up once. */
static mobrin_id id_of(lua_State* L, Body* body, const char* sort, int at) {
  const char* name = luaL_checkstring(L, at);
  mobrin_id id = 0;
  lua_rawgeti(L, LUA_REGISTRYINDEX, body->ids);
  lua_pushfstring(L, "%s %s", sort, name);
  lua_pushvalue(L, -1);
  if (lua_rawget(L, -3) == LUA_TNUMBER) {
    id = (mobrin_id)lua_tointeger(L, -1);
    lua_pop(L, 3);
    return id;
  }
  lua_pop(L, 1);
  const mobrin_machine* machine = mobrin_instance_machine(body->it);
  mobrin_error error;
  mobrin_init(error);
  id = sort[0] == 's' ? mobrin_state_id(machine, name, &error)
                      : mobrin_input_id(machine, name, mobrin_pulse, &error);
  if (id == 0) luaL_error(L, "%s", error.text);
  lua_pushinteger(L, (lua_Integer)id);
  lua_rawset(L, -3);
  lua_pop(L, 1);
  return id;
}

static int set(lua_State* L) {
  Body* body = body_at(L);
  const char* name = luaL_checkstring(L, 2);
  mobrin_error error;
  mobrin_init(error);
  int failed;
  if (lua_type(L, 3) == LUA_TSTRING)
    failed = mobrin_choose_named(body->it, name, lua_tostring(L, 3), &error);
  else if (lua_isboolean(L, 3))
    failed = mobrin_set_named(body->it, name, lua_toboolean(L, 3), &error);
  else
    failed = mobrin_set_named(body->it, name, luaL_checknumber(L, 3), &error);
  return failed != mobrin_ok ? luaL_error(L, "%s", error.text) : 0;
}

static int press(lua_State* L) {
  Body* body = body_at(L);
  mobrin_press(body->it, id_of(L, body, "pulse", 2));
  return 0;
}

static int ask(lua_State* L) {
  Body* body = body_at(L);
  const mobrin_ticket ticket = mobrin_ask(body->it, id_of(L, body, "pulse", 2));
  if (ticket.serial == 0) return 0; /* nil: no place is free */
  mobrin_ticket* held = lua_newuserdatauv(L, sizeof *held, 0);
  *held = ticket;
  luaL_setmetatable(L, kTicket);
  return 1;
}

static int status(lua_State* L) {
  static const char* const words[] = {"waiting", "running", "succeeded", "failed", "interrupted", "lost"};
  Body* body = body_at(L);
  const mobrin_ticket* ticket = luaL_checkudata(L, 2, kTicket);
  lua_pushstring(L, words[mobrin_ticket_status(body->it, *ticket)]);
  return 1;
}

static int is_in(lua_State* L) {
  Body* body = body_at(L);
  lua_pushboolean(L, mobrin_in(body->it, id_of(L, body, "state", 2)));
  return 1;
}

static int is_done(lua_State* L) {
  lua_pushboolean(L, mobrin_done(body_at(L)->it));
  return 1;
}

static int seconds(lua_State* L) {
  lua_pushnumber(L, mobrin_to_seconds(mobrin_now(body_at(L)->it)));
  return 1;
}

static int advance(lua_State* L) {
  static const char* const words[] = {"cue", "enter", "leave", "loop", "done", "fault"};
  Body* body = body_at(L);
  mobrin_advanced how;
  mobrin_init(how);
  how.left = mobrin_seconds(luaL_checknumber(L, 2));
  lua_newtable(L);
  lua_Integer told = 0;
  int done;
  do {
    mobrin_cues_clear(body->cues);
    done = mobrin_advance(body->it, how.left, body->cues, &how);
    if (how.needs > 64) return luaL_error(L, "one instant tells %d records", (int)how.needs);
    for (uint32_t i = 0; i < mobrin_cues_count(body->cues); ++i) {
      const mobrin_cue* cue = mobrin_cues_at(body->cues, i);
      char line[300];
      mobrin_cue_line(cue, line, sizeof line);
      lua_createtable(L, 0, 5);
      lua_pushnumber(L, mobrin_to_seconds(cue->at));
      lua_setfield(L, -2, "at");
      lua_pushstring(L, words[cue->what]);
      lua_setfield(L, -2, "what");
      lua_pushstring(L, cue->what == mobrin_told_cue ? mobrin_cue_name(cue) : mobrin_cue_state(cue));
      lua_setfield(L, -2, "name");
      lua_pushstring(L, mobrin_cue_kind(cue));
      lua_setfield(L, -2, "kind");
      lua_pushstring(L, line);
      lua_setfield(L, -2, "line");
      lua_rawseti(L, -2, ++told);
    }
  } while (!done);
  return 1;
}

int luaopen_mobrin_lua(lua_State* L);
int luaopen_mobrin_lua(lua_State* L) {
  static const luaL_Reg machine[] = {{"new", new_body}, {"__gc", free_machine}, {NULL, NULL}};
  static const luaL_Reg body[] = {{"set", set},         {"press", press},     {"ask", ask},         {"status", status}, {"is_in", is_in},
                                  {"is_done", is_done}, {"seconds", seconds}, {"advance", advance}, {"__gc", free_body}, {NULL, NULL}};
  static const luaL_Reg module[] = {{"load", load}, {NULL, NULL}};
  luaL_newmetatable(L, kTicket);
  luaL_newmetatable(L, kMachine);
  luaL_setfuncs(L, machine, 0);
  lua_pushvalue(L, -1);
  lua_setfield(L, -2, "__index");
  luaL_newmetatable(L, kInstance);
  luaL_setfuncs(L, body, 0);
  lua_pushvalue(L, -1);
  lua_setfield(L, -2, "__index");
  luaL_newlib(L, module);
  return 1;
}
