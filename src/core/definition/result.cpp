#include "mobrin/core/result.hpp"

#include "mobrin/core/names.hpp"

#include <cstdio>
#include <cstdlib>

namespace mobrin::detail {

void stop_at(const Error& error) {
  std::fprintf(stderr, "mobrin: the value of an error was taken: %s\n", error.text().c_str());
  std::fflush(stderr);
  std::abort();
}

}  // namespace mobrin::detail

namespace mobrin {

std::string Error::text() const {
  std::string out = message;
  if (!nearest.empty()) out += "; did you mean \"" + nearest + "\"?";
  if (!remedy.empty()) out += ". " + remedy;
  return printable(out);
}

}  // namespace mobrin
