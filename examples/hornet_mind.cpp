// A hornet driven by a small decision loop: plain functions that ask for an action and poll its ticket. A behaviour
// tree or a script does the same.
#include <cstdio>

#include "mobrin/core/instance.hpp"
#include "mobrin/io/load.hpp"

namespace {

// What the game's world says, here a keeper who comes near and swings a net.
struct World {
  float distance = 300;
  bool visible = false;
  bool net_hits = false;
};

World world_at(int step) {
  const double seconds = step / 60.0;
  World world;
  world.visible = seconds > 0.5;
  world.distance = seconds < 1.5 ? static_cast<float>(300 - 180 * seconds) : 60;
  world.net_hits = step == 150 || step == 175;
  return world;
}

// The mind: it wants to dive again and again as long as it has noticed the keeper, and rests between two dives.
class Mind {
 public:
  explicit Mind(const mobrin::Machine& machine)
      : dive_(*machine.pulse("dive")), notice_(*machine.state("body/notice")) {}

  void think(mobrin::Instance& body, double seconds) {
    using mobrin::TicketStatus;
    switch (body.status(ticket_)) {
      case TicketStatus::waiting:
      case TicketStatus::running:
        return;  // it is at it
      case TicketStatus::succeeded:
        report(seconds, "dive done; rest a little");
        rested_at_ = seconds + 0.3;
        break;
      case TicketStatus::interrupted:
        report(seconds, "dive interrupted; think again when awake");
        rested_at_ = seconds + 0.5;
        break;
      case TicketStatus::failed:
        report(seconds, "dive not possible now");
        rested_at_ = seconds + 0.2;
        break;
      case TicketStatus::lost:
        break;  // nothing asked for yet
    }
    ticket_ = {};
    if (!body.in(notice_) || seconds < rested_at_) return;
    report(seconds, "ask for a dive");
    ticket_ = body.ask(dive_);
  }

 private:
  static void report(double seconds, const char* words) { std::printf("%5.2f  mind   %s\n", seconds, words); }

  mobrin::Pulse dive_;
  mobrin::State notice_;
  mobrin::Ticket ticket_;
  double rested_at_ = 0;
};

}  // namespace

int main() {
  const mobrin::Loaded loaded = mobrin::load_character("demo/apiary/hornet.yaml");
  for (const mobrin::Finding& finding : loaded.findings) std::printf("%s\n", finding.text().c_str());
  if (!loaded.machine) return 1;
  const mobrin::Machine& hornet = *loaded.machine;
  const auto distance = hornet.input<float>("distance");
  const auto sees_keeper = hornet.input<bool>("sees_keeper");
  const auto stunned = hornet.pulse("stunned");
  if (!distance || !sees_keeper || !stunned) return 1;

  mobrin::Instance body(hornet);
  Mind mind(hornet);
  for (int step = 0; step < 300 && !body.done(); ++step) {
    const double seconds = step / 60.0;
    const World world = world_at(step);
    body.set(*distance, world.distance);
    body.set(*sees_keeper, world.visible);
    if (world.net_hits) body.pulse(*stunned);
    mind.think(body, seconds);
    const auto told = [](const mobrin::Cue& cue) {
      const double at = cue.at.to_seconds();
      if (cue.what == mobrin::Told::enter)
        std::printf("%5.2f  body   %.*s\n", at, static_cast<int>(cue.state_path().size()), cue.state_path().data());
      if (cue.what == mobrin::Told::cue && cue.kind() == "damage")
        std::printf("%5.2f  game   stings for %g\n", at, cue.number("amount").value_or(0));
      if (cue.what == mobrin::Told::done) std::printf("%5.2f  game   remove the hornet\n", at);
    };
    body.advance(mobrin::step_end(step + 1, 60) - mobrin::step_end(step, 60), told, mobrin::kAllRecords);
  }
  return body.done() ? 0 : 1;
}
