// A game loop that can be watched: `mobrin live --attach ADDRESS FILE`. Usage: watched_game FILE [SECONDS]
//
// It shows a keeper that the game's code drives, a crowd of the same machine, and one in a world of its own that runs
// at half the speed: the page looks at those that share a clock together, and can be asked for the others.
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <thread>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/probe/probe.hpp"

namespace {

// Covers dt; a game plays its sounds where the records are cleared.
void advance(mobrin::Instance& instance, mobrin::Ticks dt) {
  mobrin::CueList<32> cues;
  for (mobrin::Advanced step{{}, dt}; step.left.count > 0; cues.clear()) step = instance.advance(step.left, cues);
}

}  // namespace

int main(int count, char** arguments) {
  if (count < 2) return std::fputs("usage: watched_game FILE [SECONDS]\n", stderr), 2;
  const mobrin::Loaded loaded = mobrin::load_character(arguments[1]);
  if (!loaded.machine) return std::fputs("the machine does not load; see mobrin check\n", stderr), 1;
  const double until = count > 2 ? std::atof(arguments[2]) : 3600;

  mobrin::Instance keeper(*loaded.machine), dreamt(*loaded.machine);
  mobrin::Crowd helpers(*loaded.machine);
  constexpr std::uint32_t kHelpers = 300;
  for (std::uint32_t i = 0; i < kHelpers; ++i) helpers.add();

  mobrin::ProbeOptions options;
  options.may_write = true;
  mobrin::Probe probe(options);  // a game that ships makes none
  if (probe.address().empty()) return std::fprintf(stderr, "%s\n", probe.error().c_str()), 1;
  probe.show("keeper", keeper);
  probe.show("helpers", helpers);
  probe.show("dreamt", dreamt);
  std::printf("watch it: mobrin live --attach %s %s\n", probe.address().c_str(), arguments[1]);
  std::fflush(stdout);

  const auto move = loaded.machine->input<float>("move");
  const auto hop = loaded.machine->pulse("hop");
  mobrin::Ticket ticket;
  mobrin::CrowdCues told;
  std::vector<float> sticks(kHelpers);
  for (int frame = 0; frame < until * 60; ++frame) {
    // Sticks that go this way and that; every other second the keeper is asked to hop, and the game could wait for it.
    for (std::uint32_t i = 0; i < kHelpers; ++i) sticks[i] = static_cast<float>(std::sin(frame / 60.0 + i));
    if (move) keeper.set(*move, static_cast<float>(std::sin(frame / 90.0)));
    if (move) helpers.set_all<float>(*move, sticks);
    if (hop && frame % 120 == 60) ticket = keeper.ask(*hop);
    if (ticket && keeper.status(ticket) == mobrin::TicketStatus::succeeded && keeper.give_back(ticket)) ticket = {};
    const mobrin::Ticks dt = mobrin::step_end(frame + 1, 60) - mobrin::step_end(frame, 60);
    advance(keeper, dt);
    advance(dreamt, mobrin::Ticks(dt.count / 2));
    told.clear();
    helpers.advance(dt, told);
    probe.poll();
    std::this_thread::sleep_for(std::chrono::milliseconds(16));
  }
}
