// A game loop that can be watched: `mobrin live --attach ADDRESS FILE`. Usage: watched_game FILE [SECONDS]
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <thread>

#include "mobrin/core/instance.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/probe/probe.hpp"

int main(int count, char** arguments) {
  if (count < 2) return std::fputs("usage: watched_game FILE [SECONDS]\n", stderr), 2;
  const mobrin::Loaded loaded = mobrin::load_character(arguments[1]);
  if (!loaded.machine) return std::fputs("the machine does not load; see mobrin check\n", stderr), 1;
  const double until = count > 2 ? std::atof(arguments[2]) : 3600;

  mobrin::Instance keeper(*loaded.machine);
  mobrin::ProbeOptions options;
  options.may_write = true;
  mobrin::Probe probe(options);  // a game that ships makes none
  if (probe.address().empty()) return std::fprintf(stderr, "%s\n", probe.error().c_str()), 1;
  probe.show("keeper", keeper);
  std::printf("watch it: mobrin live --attach %s %s\n", probe.address().c_str(), arguments[1]);
  std::fflush(stdout);

  const auto move = loaded.machine->input<float>("move");
  mobrin::CueList<32> cues;
  for (int frame = 0; frame < until * 60; ++frame) {
    // A stick that goes this way and that.
    if (move) keeper.set(*move, static_cast<float>(std::sin(frame / 90.0)));
    cues.clear();
    for (mobrin::Advanced step{{}, mobrin::step_end(frame + 1, 60) - mobrin::step_end(frame, 60)};
         step.left.count > 0;) {
      step = keeper.advance(step.left, cues);
      cues.clear();  // here a game plays its sounds
    }
    probe.poll();
    std::this_thread::sleep_for(std::chrono::milliseconds(16));
  }
}
