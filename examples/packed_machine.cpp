// A machine that is built into the program: no files, no names to misspell. See mobrin_add_machine in CMakeLists.txt.
#include <cstdio>
#include <cstdlib>

#include "hornet.hpp"  // made from demo/apiary/hornet.yaml
#include "mobrin/core/definition.hpp"
#include "mobrin/core/instance.hpp"

int main() {
  const auto hornet = Hornet::load();
  if (!hornet) {
    std::fprintf(stderr, "%s\n", hornet.error().text().c_str());
    return EXIT_FAILURE;
  }
  mobrin::Instance one(hornet->machine);
  one.set(hornet->inputs.sees_keeper, true);  // `sees_keper` would not compile
  one.set(hornet->inputs.distance, 90.0f);
  const auto tell = [&](const mobrin::Cue& cue) {
    if (cue.cue == Hornet::Cues::stings) std::printf("stings for %g\n", cue.number("amount").value_or(0));
  };
  one.advance(mobrin::milliseconds(200), tell);
  one.pulse(hornet->inputs.dive);
  one.advance(mobrin::milliseconds(600), tell);

  // A pack that does not fit is refused, so a handle never means another thing.
  const mobrin::Compiled other = mobrin::compile({.name = "other", .root = {.states = {{.name = "only"}}}});
  if (!other.machine) return EXIT_FAILURE;
  if (const auto loaded = Hornet::load(mobrin::pack(*other.machine)); !loaded)
    std::printf("a pack of another machine is refused: %s\n", loaded.error().text().c_str());
  return EXIT_SUCCESS;
}
