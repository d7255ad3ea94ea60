// Sending a crowd to another computer: the whole once, then each step only the members whose bytes differ from what the
// other side would have by itself.
#include <cstdio>
#include <cstdlib>
#include <utility>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

int main(int argc, char** argv) {
  const mobrin::Loaded loaded = mobrin::load_character(argc > 1 ? argv[1] : "demo/apiary/hornet.yaml");
  for (const mobrin::Finding& finding : loaded.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  if (!loaded.machine) return EXIT_FAILURE;
  const mobrin::Machine& machine = *loaded.machine;
  const auto sees = machine.input<bool>("sees_keeper");
  const auto stunned = machine.pulse("stunned");
  if (!sees || !stunned) return EXIT_FAILURE;

  constexpr mobrin::Ticks kStep = mobrin::seconds(1.0 / 60);
  mobrin::Crowd here(machine), there(machine);
  for (int i = 0; i < 1000; ++i) here.add();
  mobrin::CrowdCues cues;
  here.advance(kStep, cues);
  std::vector<std::byte> guess;
  here.snapshot(guess);
  if (!there.restore(guess)) return EXIT_FAILURE;

  std::size_t sent = 0, whole = 0;
  std::vector<std::uint32_t> changed;
  std::vector<std::pair<std::uint32_t, std::vector<std::byte>>> message;
  for (int step = 0; step < 120; ++step) {
    here.set(here.at(static_cast<std::uint32_t>(step * 7 % 1000)), *sees, step % 2 == 0);
    if (step % 10 == 0) here.pulse(here.at(static_cast<std::uint32_t>(step)), *stunned);
    here.advance(kStep, cues);

    // What the other side has by now, run here as well.
    there.advance(kStep, cues);
    there.snapshot(guess);
    if (!here.changed_since(guess, changed)) return EXIT_FAILURE;
    message.clear();
    for (const std::uint32_t place : changed) {
      message.emplace_back(place, std::vector<std::byte>(here.member_size()));
      here.member_bytes(place, message.back().second);
    }
    // ... over the network ...
    for (const auto& [place, bytes] : message)
      if (!there.put_member_bytes(place, bytes)) return EXIT_FAILURE;
    sent += message.size() * (here.member_size() + 4);
    whole += guess.size();
    if (there.hash() != here.hash()) {
      std::printf("the sides differ at step %d\n", step);
      return EXIT_FAILURE;
    }
  }
  std::printf("%zu bytes sent in place of %zu; both sides agree\n", sent, whole);
  return EXIT_SUCCESS;
}
