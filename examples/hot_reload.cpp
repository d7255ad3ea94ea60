// A game loop that goes on when its machine's file is changed: the new machine takes over the state, the handles and
// the handlers, and whatever has gone is told by name. Here the loop changes the file itself, after a second.
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <string>

#include "mobrin/core/bindings.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/io/load.hpp"

namespace {

const char* const kBefore = R"(mobrin: 1
machine: smoker
inputs: {draught: 1.0, lit: pulse}
cues: {puff: {kind: spawn}, hiss: {kind: sound}}
clips: {bellows: {frames: [0-7], fps: 16, play: loop}}
marks: {bellows: {cues: {5: puff, 2: hiss}}}
initial: out
states:
  out: {go: [{pulse: lit, to: burning}]}
  burning: {clip: bellows, speed: draught}
)";

// The author slows the bellows down, narrows the draught, and renames a cue.
const char* const kAfter = R"(mobrin: 1
machine: smoker
inputs: {draught: {float: 1.0, max: 2}, lit: pulse}
cues: {puff: {kind: spawn}, sizzle: {kind: sound}}
clips: {bellows: {frames: [0-7], fps: 8, play: loop}}
marks: {bellows: {cues: {5: puff, 2: sizzle}}}
initial: out
states:
  out: {go: [{pulse: lit, to: burning}]}
  burning: {clip: bellows, speed: draught}
)";

void write(const std::string& path, const char* text) { std::ofstream(path) << text; }

}  // namespace

int main() {
  const std::string path = (std::filesystem::temp_directory_path() / "mobrin_hot_reload.yaml").string();
  write(path, kBefore);
  mobrin::Loaded loaded = mobrin::load_character(path);
  if (!loaded.machine) return 1;

  int puffs = 0, sounds = 0;
  mobrin::Router router(*loaded.machine);
  (void)router.on("puff", [&](const mobrin::Cue&) { ++puffs; });
  (void)router.on("hiss", [&](const mobrin::Cue&) { ++sounds; });

  mobrin::Input<float> draught;
  mobrin::Pulse lit;
  mobrin::Bindings names(*loaded.machine);
  names.input(draught, "draught").pulse(lit, "lit").router(router);
  if (!names) return std::fputs(names.text().c_str(), stderr), 1;

  mobrin::Instance smoker(*loaded.machine);
  smoker.set(draught, 3);
  smoker.pulse(lit);
  auto seen = std::filesystem::last_write_time(path);
  for (int step = 0; step < 180; ++step) {
    if (step == 60) {
      write(path, kAfter);
      std::filesystem::last_write_time(path, seen + std::chrono::seconds(1));
    }
    // A changed file that does not load leaves the old machine running.
    if (const auto now = std::filesystem::last_write_time(path); now != seen) {
      seen = now;
      mobrin::Loaded changed = mobrin::load_character(path);
      for (const mobrin::Finding& finding : changed.findings) std::printf("%s\n", finding.text().c_str());
      if (changed.machine) {
        mobrin::Instance next(*changed.machine);
        for (const mobrin::CarryLoss& loss : mobrin::carry_over(smoker, next))
          std::printf("lost: %s\n", loss.text.c_str());
        for (const mobrin::Error& gone : names.rebind(*changed.machine)) std::printf("gone: %s\n", gone.text().c_str());
        smoker = std::move(next);
        std::printf("reloaded at %.3f s, after %d puffs and %d sounds\n", smoker.now().to_seconds(), puffs, sounds);
      }
    }
    smoker.advance(mobrin::seconds(1.0 / 60), router);
  }
  std::printf("%d puffs, %d sounds; records of another machine: %llu\n", puffs, sounds,
              static_cast<unsigned long long>(router.strangers()));
  std::filesystem::remove(path);
  return router.strangers() == 0 && puffs > 9 ? 0 : 1;
}
