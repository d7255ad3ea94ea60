// The engine and the reference evaluator agree on every record and every playhead, over random machines and scripts.
#include "mobrin/check/reference.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string text_of_record(const Cue& cue) {
  const char* const told[] = {"cue", "enter", "leave", "loop", "done", "fault"};
  const char* const edges[] = {"none", "begin", "end"};
  std::string out = std::to_string(cue.at.count) + " " + told[static_cast<int>(cue.what)];
  if (cue.what == Told::fault) return out;
  if (cue.what != Told::cue) return out + " " + std::string(cue.state_path());
  out += " " + std::string(cue.name()) + " " + std::string(cue.clip_name()) + " " + std::to_string(cue.frame);
  return out + " " + edges[static_cast<int>(cue.edge)];
}

// Machines that run away at every other instant tell so much that comparing them takes minutes; the rest is enough.
constexpr std::size_t kMostRecords = 20'000;

std::vector<std::string> run_engine(const Machine& machine, const std::vector<ScriptEntry>& script, Ticks until) {
  Instance instance(machine);
  std::vector<std::string> log;
  const auto cover = [&](Ticks to) {
    static std::vector<Cue> memory(kMostRecords);
    for (CueBuffer cues(memory, kAllRecords); log.size() <= kMostRecords; cues.clear()) {
      const Advanced step = instance.advance(to - instance.now(), cues);
      for (const Cue& cue : cues) log.push_back(text_of_record(cue));
      if (step.complete() || step.needs > 0) return;
    }
  };
  for (const ScriptEntry& entry : script) {
    if (entry.at > instance.now()) {
      cover(instance.now());
      cover(entry.at);
    }
    write(instance, entry);
  }
  cover(instance.now());
  cover(until);
  std::vector<std::pair<std::uint16_t, std::string>> plays;
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    const std::uint16_t leaf = instance.active(r);
    if (leaf == kNoIndex) continue;
    const std::string now = std::to_string(instance.now().count);
    const auto words = [&](const Shown& shown) {
      return (shown.nothing() ? "" : machine.clips()[shown.clip].def.name.text) + " " + std::to_string(shown.frame);
    };
    const ShownLayers layers = instance.layers(r);
    const std::string& path = machine.states()[leaf].path;
    if (instance.playhead(r))
      plays.emplace_back(leaf,
                         now + " shown " + path + " " + words(layers[0]) + " " + std::to_string(*instance.playhead(r)));
    for (std::size_t i = 1; i < layers.size(); ++i)
      plays.emplace_back(leaf, now + " fades " + path + " " + words(layers[i]) + " " +
                                   std::to_string(std::llround(layers[i].weight * 1e6)));
  }
  std::stable_sort(plays.begin(), plays.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  for (const auto& [leaf, words] : plays) log.push_back(words);
  return log;
}

class Agreement : public testing::TestWithParam<int> {};

TEST_P(Agreement, OfEngineAndReference) {
  const int wanted = std::getenv("MOBRIN_SEEDS") != nullptr ? std::atoi(std::getenv("MOBRIN_SEEDS")) : 250;
  int sound = 0;
  for (std::uint32_t seed = static_cast<std::uint32_t>(GetParam()) * 1'000'000; sound < wanted; ++seed) {
    RandomMachine random(seed);
    const MachineDef definition = random.make();
    const Compiled compiled = compile(definition);
    if (!compiled.machine) continue;
    const std::vector<ScriptEntry> script = random.script(10);
    const Ticks until = script.back().at + milliseconds(300);
    const auto told = run_engine(*compiled.machine, script, until);
    if (told.size() > kMostRecords) continue;
    ++sound;
    const auto expected = run_reference(definition, script, until);
    if (told == expected) continue;
    std::size_t same = 0;
    while (same < told.size() && same < expected.size() && told[same] == expected[same]) ++same;
    std::string around;
    for (std::size_t i = same < 6 ? 0 : same - 6; i < same + 4; ++i)
      around += (i < told.size() ? told[i] : "-") + (i == same ? "   <- engine | reference ->   " : "   |   ") +
                (i < expected.size() ? expected[i] : "-") + "\n";
    std::string written;
    for (const ScriptEntry& entry : script)
      written += std::to_string(entry.at.count) + " kind " + std::to_string(static_cast<int>(entry.kind)) + " " +
                 entry.name + " " + std::to_string(entry.value) + "\n";
    FAIL() << "seed " << seed << "\n" << around << written << compiled.machine->dump();
  }
}

INSTANTIATE_TEST_SUITE_P(Seeds, Agreement, testing::Range(0, 8));

}  // namespace
}  // namespace mobrin::test
