/* Preloaded into the tool: the FAULT_AT-th call of a kind fails, or ends the process.
   FAULT_ON: write, fsync, rename, create (of files and folders), read, memory, or any (of those that write).
   FAULT: an errno's number, or `kill`. How many calls there were goes to the file FAULT_COUNT when the process ends. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <stdarg.h>
#include <stdatomic.h>
#include <stddef.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/types.h>
#include <unistd.h>

static atomic_long seen;
static long at = -1;
static int on_memory, ready;
static const char* on = "";
static int error;

static void set_up(void) {
  if (ready) return;
  ready = 1;
  const char* number = getenv("FAULT_AT");
  const char* what = getenv("FAULT");
  on = getenv("FAULT_ON") ? getenv("FAULT_ON") : "";
  on_memory = strcmp(on, "memory") == 0;
  error = what && strcmp(what, "kill") != 0 ? atoi(what) : 0;
  at = number ? atol(number) : -1;
}

/* Whether this call is the one. */
static int is_it(const char* kind) {
  set_up();
  const int counts = strcmp(on, kind) == 0 || (strcmp(on, "any") == 0 && strcmp(kind, "read") != 0 && strcmp(kind, "memory") != 0);
  if (!counts || atomic_fetch_add(&seen, 1) + 1 != at) return 0;
  if (error == 0) kill(getpid(), SIGKILL);
  errno = error;
  return 1;
}

__attribute__((destructor)) static void tell(void) {
  const char* path = getenv("FAULT_COUNT");
  if (!path) return;
  const long count = seen;
  on = "";
  FILE* out = fopen(path, "w");
  if (out) fprintf(out, "%ld", count), fclose(out);
}

#define REAL(type, name, ...) ((type(*)(__VA_ARGS__))dlsym(RTLD_NEXT, #name))

ssize_t write(int file, const void* bytes, size_t size) {
  static ssize_t (*real)(int, const void*, size_t);
  if (!real) real = REAL(ssize_t, write, int, const void*, size_t);
  if (file > 2 && is_it("write")) {
    if (errno == ENOSPC && size > 1) (void)!real(file, bytes, size / 2); /* a part still found room */
    errno = error;
    return -1;
  }
  return real(file, bytes, size);
}
ssize_t read(int file, void* bytes, size_t size) {
  static ssize_t (*real)(int, void*, size_t);
  if (!real) real = REAL(ssize_t, read, int, void*, size_t);
  return file > 2 && is_it("read") ? -1 : real(file, bytes, size);
}
int fsync(int file) { return is_it("fsync") ? -1 : REAL(int, fsync, int)(file); }
int rename(const char* from, const char* to) { return is_it("rename") ? -1 : REAL(int, rename, const char*, const char*)(from, to); }
int mkdir(const char* path, mode_t mode) { return is_it("create") ? -1 : REAL(int, mkdir, const char*, mode_t)(path, mode); }
int open(const char* path, int flags, ...) {
  mode_t mode = 0;
  if (flags & O_CREAT) {
    va_list rest;
    va_start(rest, flags);
    mode = va_arg(rest, mode_t);
    va_end(rest);
    if (is_it("create")) return -1;
  }
  return REAL(int, open, const char*, int, ...)(path, flags, mode);
}

/* Memory: what dlsym itself takes comes from here. */
static char early[65536];
static size_t early_used;
static void* (*real_malloc)(size_t);
void* malloc(size_t size) {
  static int looking;
  if (!real_malloc) {
    if (looking) {
      void* out = early + early_used;
      early_used += (size + 15) & ~(size_t)15;
      return early_used <= sizeof early ? out : NULL;
    }
    looking = 1;
    real_malloc = REAL(void*, malloc, size_t);
    looking = 0;
  }
  if (ready && on_memory && is_it("memory")) return NULL;
  return real_malloc(size);
}
void free(void* memory) {
  static void (*real)(void*);
  if ((char*)memory >= early && (char*)memory < early + sizeof early) return;
  if (!real) real = REAL(void, free, void*);
  real(memory);
}
__attribute__((constructor)) static void begin(void) { set_up(); }
