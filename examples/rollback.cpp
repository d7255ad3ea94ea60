// Rollback: inputs of a far player arrive 8 steps late, so each step goes 8 steps back and runs them again with what
// has come in since. What was told before is known by its identity and not heard twice.
#include <array>
#include <cstdio>
#include <cstdlib>
#include <set>
#include <tuple>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

namespace {

constexpr int kLate = 8, kSteps = 120;
constexpr std::uint32_t kHornets = 200;
constexpr mobrin::Ticks kStep = mobrin::seconds(1.0 / 60);

struct Hornets {
  explicit Hornets(const mobrin::Machine& machine)
      : crowd(machine),
        sees(*machine.input<bool>("sees_keeper")),
        distance(*machine.input<float>("distance")),
        dive(*machine.pulse("dive")) {
    for (std::uint32_t i = 0; i < kHornets; ++i) crowd.set(crowd.add(), sees, i % 2 == 0);
  }
  // What the far player does in a step, known late.
  void write(int step) {
    for (auto i = static_cast<std::uint32_t>(step % 7); i < kHornets; i += 7) {
      crowd.set(crowd.at(i), distance, static_cast<float>((static_cast<int>(i) * 31 + step * 17) % 300));
      if ((static_cast<int>(i) + step) % 5 == 0) crowd.pulse(crowd.at(i), dive);
    }
  }
  mobrin::Crowd crowd;
  mobrin::CrowdCues cues;
  mobrin::Input<bool> sees;
  mobrin::Input<float> distance;
  mobrin::Pulse dive;
};

}  // namespace

int main(int argc, char** argv) {
  const mobrin::Loaded loaded = mobrin::load_character(argc > 1 ? argv[1] : "demo/apiary/hornet.yaml");
  for (const mobrin::Finding& finding : loaded.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  if (!loaded.machine) return EXIT_FAILURE;

  Hornets on_time(*loaded.machine);
  for (int step = 0; step < kSteps; ++step) {
    on_time.write(step);
    on_time.crowd.advance(kStep, on_time.cues);
  }

  Hornets late(*loaded.machine);
  std::array<std::vector<std::byte>, kLate + 1> past;  // snapshots of the last steps' beginnings
  std::set<std::tuple<std::uint32_t, mobrin::Ticks, std::uint32_t, std::uint16_t>> heard;
  std::size_t again = 0;
  for (int step = 0; step < kSteps + kLate; ++step) {
    // Inputs of step - 8 have come in: back to it, and all steps since once more.
    const int from = step < kLate ? 0 : step - kLate;
    if (step > 0 && !late.crowd.restore(past[static_cast<std::size_t>(from % (kLate + 1))])) return EXIT_FAILURE;
    for (int replayed = from; replayed <= step && replayed < kSteps; ++replayed) {
      late.crowd.snapshot(past[static_cast<std::size_t>(replayed % (kLate + 1))]);
      if (replayed <= step - kLate) late.write(replayed);
      late.cues.clear();
      late.crowd.advance(kStep, late.cues);
      for (const mobrin::CrowdCue& each : late.cues)
        if (!heard.insert({each.place, each.cue.at, each.cue.ordinal, each.cue.cue}).second) ++again;
    }
  }
  std::printf("%zu cues told again were not heard twice\n", again);
  const bool same = late.crowd.hash() == on_time.crowd.hash();
  std::printf("after %d steps, each run up to %d times, the crowd is %s\n", kSteps, kLate + 1,
              same ? "the same as without the delay" : "NOT the same as without the delay");
  return same ? EXIT_SUCCESS : EXIT_FAILURE;
}
