#include "stale.hpp"

#include <cstdio>

namespace mobrin::detail {

#ifdef NDEBUG
void tell_stale(std::string_view, const Machine&) {}
#else
void tell_stale(std::string_view what, const Machine& machine) {
  const std::string_view name = machine.name();
  std::fprintf(stderr, "mobrin: %.*s of another machine than this \"%.*s\" is refused; after a reload rebind() it\n",
               static_cast<int>(what.size()), what.data(), static_cast<int>(name.size()), name.data());
}
#endif

}  // namespace mobrin::detail
