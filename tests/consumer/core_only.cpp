// A game that links the core alone.
#include <mobrin/core/builder.hpp>
#include <mobrin/core/instance.hpp>

int main() {
  mobrin::MachineBuilder builder("lamp");
  mobrin::StateDef lit;
  lit.name = "lit";
  const mobrin::Compiled compiled = builder.state(lit).build();
  if (!compiled.machine) return 1;
  mobrin::Instance instance(*compiled.machine);
  mobrin::CueList<4> cues;
  return instance.advance(mobrin::milliseconds(16), cues).complete() ? 0 : 1;
}
