// A machine packed by the installed tool, from the installed package.
#include <cstdio>

#include "hive.hpp"

int main() {
  const auto hive = Hive::load();
  if (!hive) {
    std::fprintf(stderr, "%s\n", hive.error().text().c_str());
    return 1;
  }
  mobrin::Instance one(hive->machine);
  one.set(hive->inputs.keeper_near, true);
  one.set(hive->inputs.smoker_lit, true);
  int creaks = 0;
  one.advance(mobrin::seconds(1), [&](const mobrin::Cue& cue) { creaks += cue.cue == Hive::Cues::creak ? 1 : 0; });
  return one.in(hive->states.opening) && creaks == 1 ? 0 : 1;
}
