// A fight in a game loop: a keeper, and hornets that come into the middle of the game. An arena does the whole order of
// a step, so nobody strikes after his death and no step size changes who hits whom.
#include <cstdio>
#include <deque>
#include <string>

#include "mobrin/contact/arena.hpp"
#include "mobrin/io/load.hpp"

namespace {

struct Character {
  std::uint32_t id;
  mobrin::Tags tags;
  mobrin::Placement from, to;  // of this step, as the game moves it
  mobrin::Instance machine;
};

// What the game makes of it. Whatever it writes takes effect at the very instant.
struct Fight : mobrin::ArenaGame {
  mobrin::HitAnswer hit(const mobrin::Hit& hit) override {
    std::printf("%.3f s: %u is hit by %s\n", hit.at.to_seconds(), hit.on, hit.hit_box->name.text.c_str());
    if (hit.hit_box->name.text == "net") (void)arena->instance(hit.on)->pulse_by_name("stunned");
    return mobrin::HitAnswer::lives;  // whether it is dead of it, its machine says
  }
  mobrin::Arena* arena = nullptr;
};

}  // namespace

int main(int argc, char** argv) {
  const std::string folder = argc > 1 ? argv[1] : "demo/apiary";
  const mobrin::Loaded keeper = mobrin::load_character(folder + "/keeper.yaml");
  const mobrin::Loaded hornet = mobrin::load_character(folder + "/hornet.yaml");
  if (!keeper.machine || !hornet.machine) return std::fputs("run it where demo/apiary is\n", stderr), 1;

  mobrin::TagNames tags;
  mobrin::Arena arena(tags);
  Fight fight;
  fight.arena = &arena;
  std::deque<Character> all;
  const mobrin::Placement hive{{1.4, 0.4}, true};
  all.push_back({0, tags.bit("keeper"), {}, {}, mobrin::Instance(*keeper.machine)});
  (void)all[0].machine.set_by_name("carrying", std::string("net"));

  mobrin::Ticks now{};
  std::uint32_t next_id = 1;
  const mobrin::Ticks frame = mobrin::milliseconds(16);
  for (int step = 0; step < 240; ++step) {
    if (step % 60 == 30)  // a new one, whose clock is the game's: `start: clock` is in step with all others
      all.push_back({next_id++, tags.bit("hornet"), hive, hive, mobrin::Instance(*hornet.machine, {.begin = now})});
    if (step % 60 == 40 || step % 60 == 55) (void)all[0].machine.pulse_by_name("swing");

    for (Character& each : all) {  // hornets fly at the keeper
      each.from = each.to;
      if (each.id != 0 && each.to.at.x > 0.6) each.to.at.x -= 0.02;
    }

    arena.begin(now, now + frame);
    for (Character& each : all) arena.add({each.id, each.tags, true, each.from, each.to}, each.machine);
    arena.run(fight);
    now += frame;

    const auto removed = std::erase_if(all, [](const Character& each) { return each.machine.done(); });
    if (removed > 0) std::printf("%.3f s: %zu removed\n", now.to_seconds(), removed);
  }
}
