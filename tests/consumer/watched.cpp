// A game that can be watched, and a session of its file.
#include "mobrin/live/session.hpp"
#include "mobrin/probe/probe.hpp"

int main(int, char** arguments) {
  const mobrin::LoadedCast loaded = mobrin::load_cast(arguments[1]);
  if (!loaded.cast) return 1;
  mobrin::Session session(loaded.cast);
  session.advance(mobrin::seconds(1));
  mobrin::Instance instance(*loaded.cast->scene.actors[0].machine);
  mobrin::Probe probe;
  return session.now() == mobrin::seconds(1) && probe.show("keeper", instance) && !probe.address().empty() ? 0 : 1;
}
