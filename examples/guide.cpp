// The code of docs/guide/, page by page, as one program that holds what the pages say.
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

#include "mobrin/contact/arena.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"

using namespace mobrin;

namespace {

void must(bool holds, const char* what) {
  if (holds) return;
  std::printf("this is not so: %s\n", what);
  std::exit(1);
}

Machine load(const std::string& file) {
  const Loaded loaded = load_character(file);
  for (const Finding& finding : loaded.findings) std::printf("%s\n", finding.text().c_str());
  must(loaded.machine.has_value(), file.c_str());
  return *loaded.machine;
}

const auto ignore = [](const Cue&) {};  // who does not listen

// first_switch.md
void first_switch() {
  const Machine boy = load("examples/guide/smoker_boy.yaml");
  const auto left = boy.input<bool>("left"), right = boy.input<bool>("right");
  Instance it(boy);

  it.set(*left, true);
  it.advance(milliseconds(16), ignore);
  must(it.active_path() == "walk", "one key walks");

  it.set(*right, true);  // and now both
  it.advance(milliseconds(16), ignore);
  must(it.active_path() == "stand", "both stand");
}

// frames.md
void frames() {
  Instance it(load("examples/guide/smoker_boy.yaml"));
  it.set(*it.machine().input<bool>("left"), true);

  std::string feet;
  const auto heard = [&](const Cue& cue) {
    if (cue.name() == "step") feet += std::string(cue.text("foot")) + " ";
  };
  it.advance(seconds(1.4), heard);  // two rounds of eight frames at 12 a second

  must(feet == "left right left right ", "each foot once a round");
}

// busy.md
void busy() {
  const Machine boy = load("examples/guide/smoker_boy.yaml");
  const auto puff = boy.pulse("puff");
  const auto is_busy = boy.trait("busy");
  Instance it(boy);
  it.advance(milliseconds(16), ignore);

  it.pulse(*puff);
  it.advance(milliseconds(150), ignore);  // in the third frame
  must(it.is(*is_busy), "it puffs");

  it.pulse(*puff);  // 50 ms too early for the window: kept, and taken when it opens
  it.advance(milliseconds(50), ignore);
  must(it.shown().frame == 0 && !it.value(*puff), "the second puff has begun");
}

// hits.md
struct Fight : ArenaGame {
  HitAnswer hit(const Hit& hit) override {
    arena->instance(hit.on)->pulse(stunned);  // takes effect at this very instant
    ++hits;
    return HitAnswer::lives;  // whether it is dead of it, its own machine says
  }
  Arena* arena = nullptr;
  Pulse stunned{};
  int hits = 0;
};

void hits() {
  const Machine keepers = load("demo/apiary/keeper.yaml"), hornets = load("demo/apiary/hornet.yaml");
  TagNames tags;
  Arena arena(tags);
  Fight fight;
  fight.arena = &arena;
  fight.stunned = *hornets.pulse("stunned");
  Instance keeper(keepers), hornet(hornets);
  const auto carrying = keepers.input<Choice>("carrying");
  keeper.set(*carrying, *keepers.choice(*carrying, "net"));
  const Placement here{{0, 0}}, there{{0.7, 0.4}, true};
  for (int step = 0; step < 120; ++step) {
    if (step == 10 || step == 30) keeper.pulse(*keepers.pulse("swing"));
    arena.begin(step_end(step, 60), step_end(step + 1, 60));
    arena.add({1, tags.bit("keeper"), true, here, here}, keeper);
    arena.add({2, tags.bit("hornet"), true, there, there}, hornet);
    arena.run(fight);
  }
  must(fight.hits == 2, "two swings, two hits");
  must(hornet.is(*hornets.trait("dead")) || hornet.done(), "the second one, before it could flee, fells it");
}

// minds.md
void minds() {
  Instance hornet(load("demo/apiary/hornet.yaml"));
  hornet.set(*hornet.machine().input<bool>("sees_keeper"), true);
  hornet.set(*hornet.machine().input<float>("distance"), 100.0f);
  hornet.advance(milliseconds(16), ignore);

  const Ticket dive = hornet.ask(*hornet.machine().pulse("dive"));  // the mind wants it
  hornet.advance(milliseconds(100), ignore);
  must(hornet.status(dive) == TicketStatus::running, "the body is at it");
  hornet.advance(seconds(1), ignore);
  must(hornet.status(dive) == TicketStatus::succeeded, "and has done it");
}

// many.md
void many() {
  const Machine hornets = load("demo/apiary/hornet.yaml");
  const State hover = *hornets.state("body/hover");
  Crowd swarm(hornets);
  CrowdCues cues;
  for (int i = 0; i < 1000; ++i) {
    const Member member = swarm.add();
    swarm.place(member, hover, milliseconds(i % 500));  // out of step with each other
  }
  std::vector<float> distances(swarm.places(), 300.0f);
  swarm.set_all(*hornets.input<float>("distance"), distances);
  swarm.advance(milliseconds(16), cues);
  std::size_t drawn = 0;
  for (const CrowdChange& each : swarm.shown_changed()) drawn += each.shown.clip != kNoIndex ? 1 : 0;
  must(drawn == 1000 && swarm.shown_changed().empty(), "each once, then only who changes");
}

// saving.md
void saving() {
  const Machine keepers = load("demo/apiary/keeper.yaml");
  Instance keeper(keepers);
  const auto move = keepers.input<float>("move");
  keeper.set(*move, 1.0f);
  keeper.advance(seconds(0.7), ignore);

  // A save, by names: it outlives the next patch of the file.
  const std::string saved = save_text(keeper);
  Instance loaded(keepers);
  const CarryLosses lost = mobrin::load(*read_save(saved), loaded);
  must(lost.empty() && loaded.hash() == keeper.hash(), "it goes on bit for bit");

  // A rollback: the whole state is one flat block.
  const std::vector<std::byte> before(keeper.block().begin(), keeper.block().end());
  keeper.advance(seconds(0.5), ignore);
  const std::uint64_t after = keeper.hash();
  keeper.restore(before);
  keeper.advance(seconds(0.5), ignore);
  must(keeper.hash() == after, "the same again");

  // A bug report: what was written, as a tape.
  Instance fresh(keepers);
  Recorder recorder(fresh, "bug");
  fresh.set(*move, 1.0f);
  fresh.advance(seconds(0.5), ignore);
  must(tape_text(recorder.tape()).find("move: 1") != std::string::npos, "the tape has it");
}

// reload.md
void reload() {
  const Machine before = load("demo/apiary/keeper.yaml");
  Instance keeper(before);
  Input<float> move;
  Pulse swing;
  Bindings names(before);
  names.input(move, "move").pulse(swing, "swing");
  must(bool(names), "all names are there");

  const Machine changed = load("demo/apiary/keeper.yaml");  // after somebody wrote to it
  Instance after(changed);
  for (const CarryLoss& loss : carry_over(keeper, after)) std::printf("lost: %s\n", loss.text.c_str());
  for (const Error& gone : names.rebind(changed)) std::printf("gone: %s\n", gone.text().c_str());
  must(after.set(move, 0.5f) == Written::changed, "the handles are those of the new one");
}

}  // namespace

int main() {
  first_switch();
  frames();
  busy();
  hits();
  minds();
  many();
  saving();
  reload();
  std::puts("the guide holds");
  return 0;
}
