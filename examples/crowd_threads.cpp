// A crowd on several threads with oneTBB: ranges of places, each with a list of its own. What is told is the same for
// any number of threads.
#include <oneapi/tbb/parallel_for.h>

#include <cstdio>
#include <cstdlib>
#include <vector>

#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"

namespace {

constexpr std::uint32_t kHornets = 20'000, kRanges = 16;
constexpr mobrin::Ticks kStep = mobrin::seconds(1.0 / 60);

// Steps a crowd for two seconds; gives all it told as one number, in order.
std::uint64_t run(const mobrin::Machine& machine, bool threads) {
  mobrin::Crowd crowd(machine);
  crowd.reserve(kHornets);
  const auto sees = *machine.input<bool>("sees_keeper");
  const auto distance = *machine.input<float>("distance");
  for (std::uint32_t i = 0; i < kHornets; ++i) crowd.set(crowd.add(), sees, true);
  std::vector<mobrin::CrowdCues> lists(threads ? kRanges : 1);
  std::vector<float> distances(kHornets);
  std::uint64_t told = 0;
  for (int step = 0; step < 120; ++step) {
    for (std::uint32_t i = 0; i < kHornets; ++i)
      distances[i] = static_cast<float>((i * 13 + static_cast<std::uint32_t>(step) * 7) % 400);
    crowd.set_all(distance, distances);
    for (mobrin::CrowdCues& list : lists) list.clear();
    crowd.begin_step(kStep);
    if (threads)
      tbb::parallel_for(0u, kRanges, [&](std::uint32_t r) {
        crowd.advance_range(r * kHornets / kRanges, (r + 1) * kHornets / kRanges, lists[r]);
      });
    else
      crowd.advance_range(0, kHornets, lists[0]);
    crowd.end_step();
    for (const mobrin::CrowdCues& list : lists)
      for (const mobrin::CrowdCue& each : list)
        told = told * 31 + each.place * 7 + static_cast<std::uint64_t>(each.cue.at.count) + each.cue.cue;
  }
  return told ^ crowd.hash();
}

}  // namespace

int main(int argc, char** argv) {
  const mobrin::Loaded loaded = mobrin::load_character(argc > 1 ? argv[1] : "demo/apiary/hornet.yaml");
  for (const mobrin::Finding& finding : loaded.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  if (!loaded.machine) return EXIT_FAILURE;
  const bool same = run(*loaded.machine, false) == run(*loaded.machine, true);
  std::printf("%u hornets are %s on one thread and on many\n", kHornets, same ? "the same" : "NOT the same");
  return same ? EXIT_SUCCESS : EXIT_FAILURE;
}
