// First steps: load the keeper, press keys, advance at 60 Hz, print what shows and what happens.
#include <cstdio>

#include "mobrin/core/router.hpp"
#include "mobrin/io/load.hpp"

int main() {
  // Findings have places and remedies; the machine is there if none of them is an error.
  const mobrin::Loaded loaded = mobrin::load_character("demo/apiary/keeper.yaml");
  for (const mobrin::Finding& finding : loaded.findings) std::puts(finding.text().c_str());
  if (!loaded.machine) return 1;
  const mobrin::Machine& keeper = *loaded.machine;

  // Handles, made once. A misspelt name is an error that names the nearest right one.
  const auto move = keeper.input<float>("move");
  const auto swing = keeper.pulse("swing");
  const auto carrying = keeper.input<mobrin::Choice>("carrying");
  if (!move || !swing || !carrying) return 1;
  const auto net = keeper.choice(*carrying, "net");
  if (!net) return 1;

  // Who hears what.
  mobrin::Router router(keeper);
  const bool bound = router.on_kind("sound", [](const mobrin::Cue& cue) {
    std::printf("  play %s\n", cue.text("file").data());
  }) && router.on("net_out", [](const mobrin::Cue& cue) {
    std::printf("  net_out at %.3f s: damage %g\n", cue.at.to_seconds(), cue.number("amount").value_or(0));
  });
  if (!bound) return 1;

  mobrin::Instance it(keeper);
  it.set(*carrying, *net);
  for (int step = 0; step < 120; ++step) {
    if (step == 10) it.set(*move, 1.0f);
    if (step == 50) it.set(*move, 0.0f);
    if (step == 60) it.pulse(*swing);
    it.advance(mobrin::step_end(step + 1, 60) - it.now(), router);
    const mobrin::Shown shown = it.shown();
    if (step % 10 == 0)
      std::printf("step %3d  %s frame %d\n", step, keeper.clips()[shown.clip].def.name.text.c_str(), shown.frame);
  }
  return 0;
}
