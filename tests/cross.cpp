// Prints what random machines are and do, as numbers: the same lines on every processor. See `./dev cross`.
#include <cinttypes>
#include <cstdio>
#include <vector>

#include "random_machine.hpp"

int main() {
  using namespace mobrin;
  std::vector<Cue> memory(20'000);
  std::uint64_t log = 0xcbf29ce484222325u;
  const auto add = [&](std::uint64_t value) { log = (log ^ value) * 0x100000001b3u; };
  int sound = 0;
  for (std::uint32_t seed = 0; sound < 400; ++seed) {
    test::RandomMachine random(seed);
    const Compiled compiled = compile(random.make());
    if (!compiled.machine) continue;
    ++sound;
    Instance instance(*compiled.machine);
    CueBuffer cues(memory, kAllRecords);
    for (int step = 0; step < 25; ++step) {
      random.write(instance);
      for (Advanced part{{}, Ticks(random.pick(40'000'000)), 0, true}; !part.complete(); cues.clear()) {
        part = instance.advance(part.left, cues);
        for (const Cue& cue : cues) {
          add(static_cast<std::uint64_t>(cue.at.count)), add(cue.ordinal), add(cue.transition), add(cue.state);
          add(cue.cue), add(static_cast<std::uint64_t>(cue.frame)), add(static_cast<std::uint64_t>(cue.what));
        }
      }
    }
    std::printf("%u %016" PRIx64 " %zu %016" PRIx64 " %016" PRIx64 "\n", seed, compiled.machine->fingerprint(),
                compiled.machine->block_size(), log, instance.hash());
  }
}
