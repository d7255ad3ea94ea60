// Built in code: the keeper's standing, walking and net, without a file. The core alone is enough.
#include <chrono>
#include <cstdio>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/core/parts.hpp"

using namespace std::chrono_literals;

int main() {
  mobrin::MachineBuilder builder("keeper");
  builder.input("move", mobrin::FloatInput{.start = 0, .min = -1, .max = 1})
      .input("carrying", mobrin::ChoiceInput{.choices = {"nothing", "net", "smoker"}})
      .pulse("swing", 110ms)
      .cue("step", "sound", {{"foot", "left"}})
      .cue("net_out", "damage", {{"amount", std::int64_t{2}}});
  builder.clip("idle", 4, {.num = 5}, mobrin::PlayMode::back_and_forth());
  builder.clip("walk", 6, {.num = 12}, mobrin::PlayMode::loop());
  builder.clip("net", 6, {.num = 20}, mobrin::PlayMode::once()).frames[3].hold = 3;
  builder.mark("walk", 1, "step").mark("walk", 4, "step", {{"foot", "right"}}).mark("net", 3, "net_out");

  const mobrin::GoDef swing{.pulse = "swing", .when = "carrying == net", .to = "net"};
  builder.state({.name = "stand", .clip = "idle", .go = {swing, {.when = "abs(move) > 0.1", .to = "walk"}}})
      .state({.name = "walk",
              .clip = "walk",
              .speed = "abs(move)",
              .go = {swing, {.when = "abs(move) <= 0.1", .to = "stand"}}})
      .state({.name = "net", .clip = "net", .traits = {"busy"}, .go = {{.at = mobrin::GoAt::end, .to = "stand"}}})
      .initial("stand");

  const mobrin::Compiled compiled = builder.build();
  for (const mobrin::Finding& finding : compiled.findings) std::puts(finding.text().c_str());
  if (!compiled.machine) return 1;
  const mobrin::Machine& keeper = *compiled.machine;

  const auto carrying = keeper.input<mobrin::Choice>("carrying");
  const auto pulse = keeper.pulse("swing");
  if (!carrying || !pulse) return 1;
  mobrin::Instance it(keeper);
  it.set(*carrying, mobrin::Choice{1});
  it.pulse(*pulse);
  it.advance(1s, [](const mobrin::Cue& cue) {
    std::printf("%s at %.3f s: %s %g\n", cue.name().data(), cue.at.to_seconds(), cue.kind().data(),
                cue.number("amount").value_or(0));
  });
  std::printf("shows %s\n", keeper.clips()[it.shown().clip].def.name.text.c_str());
  return 0;
}
