#include "instance/stale.hpp"

#include <atomic>
#include <cstdio>

#include "mobrin/core/floats.hpp"

namespace mobrin::detail {

#ifdef NDEBUG
void tell_stale(std::string_view, const Machine&) {}
void check_floats() {}
#else
void check_floats() {
  static std::atomic<bool> told = false;
  if (told || floats_are_exact() || told.exchange(true)) return;
  std::fprintf(stderr,
               "mobrin: this thread rounds or flushes floating-point numbers otherwise than usual, so runs may differ "
               "from those of other machines; see mobrin/core/floats.hpp\n");
}

void tell_stale(std::string_view what, const Machine& machine) {
  const std::string_view name = machine.name();
  std::fprintf(stderr, "mobrin: %.*s of another machine than this \"%.*s\" is refused; after a reload rebind() it\n",
               static_cast<int>(what.size()), what.data(), static_cast<int>(name.size()), name.data());
}
#endif

}  // namespace mobrin::detail
