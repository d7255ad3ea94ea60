// What the engine tells of a script, in the words of the reference evaluator.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "random_machine.hpp"

namespace mobrin::test {

inline std::string text_of_record(const Cue& cue) {
  const char* const told[] = {"cue", "enter", "leave", "loop", "done", "fault"};
  const char* const edges[] = {"none", "begin", "end"};
  std::string out = std::to_string(cue.at.count) + " " + told[static_cast<int>(cue.what)];
  if (cue.what == Told::fault) return out;
  if (cue.what != Told::cue) return out + " " + std::string(cue.state_path());
  out += " " + std::string(cue.name()) + " " + std::string(cue.clip_name()) + " " + std::to_string(cue.frame);
  return out + " " + edges[static_cast<int>(cue.edge)];
}

// Machines that run away at every other instant tell so much that comparing them takes minutes; the rest is enough.
inline constexpr std::size_t kMostRecords = 20'000;

// Advances, with what is told in `told`. False where that is too much, or where the machine does not come to rest.
inline bool comes_to_rest(Instance& instance, Ticks time, CueBuffer& told) {
  told.clear();
  return instance.advance(time, told).complete() &&
         std::none_of(told.begin(), told.end(), [](const Cue& cue) { return cue.what == Told::fault; });
}

inline std::vector<std::string> run_engine(const Machine& machine, const std::vector<ScriptEntry>& script,
                                           Ticks until) {
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
      return (shown.nothing() ? "" : std::string(machine.clip_name(shown.clip))) + " " + std::to_string(shown.frame);
    };
    const ShownLayers layers = instance.layers(r);
    const std::string path(machine.state_path(leaf));
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

}  // namespace mobrin::test
