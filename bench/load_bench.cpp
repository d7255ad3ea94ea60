// Loading a machine from its file and from its pack.
#include <cstdio>
#include <cstdlib>
#include <string>

#include "mobrin/io/load.hpp"
#include "mobrin/pack/pack.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

[[noreturn]] void fail(const std::string& what) {
  std::fprintf(stderr, "%s\n", what.c_str());
  std::exit(1);
}

// So many states, three transitions each, a clip with a cue for each; `more` variables a state, each set on entering.
std::string text_of(std::int64_t states, std::int64_t more = 0) {
  std::string out =
      "mobrin: 1\nmachine: large\ninputs: {near: {float: 0}, hit: pulse, free: false}\ncues: {step: {kind: sound, "
      "file: "
      "step.wav}}\nclips:\n";
  const auto name = [](const char* what, std::int64_t i) { return what + std::to_string(i); };
  for (std::int64_t i = 0; i < states; ++i) out += "  " + name("c", i) + ": {frames: [0-5], fps: 12, play: loop}\n";
  out += "marks:\n";
  for (std::int64_t i = 0; i < states; ++i) out += "  " + name("c", i) + ": {cues: {2: step}}\n";
  out += "initial: s0\nstates:\n";
  for (std::int64_t i = 0; i < states; ++i) {
    const auto to = [&](std::int64_t way) { return name("s", (i + way) % states); };
    std::string vars, enter;
    for (std::int64_t v = 0; v < more; ++v) {
      vars += (v > 0 ? ", " : "") + name("v", v) + ": 0";
      enter += (v > 0 ? ", " : "") + name("v", v) + " = " + name("v", v) + " + 1";
    }
    out += "  " + name("s", i) + ":\n    clip: " + name("c", i) +
           (more > 0 ? "\n    vars: {" + vars + "}\n    enter: [" + enter + "]" : "") +
           "\n    go:\n      - {pulse: hit, to: " + to(1) + "}\n      - {when: near > " + std::to_string(i % 50) +
           " and not free, to: " + to(2) + "}\n      - {after: 2s, when: free, to: " + to(3) + "}\n";
  }
  return out;
}

void load(benchmark::State& state) {
  const std::string text = text_of(state.range(0));
  const Loaded first = load_character_text(text, "large.yaml");
  if (!first.machine) fail(first.findings.empty() ? "it does not load" : first.findings.front().text());
  const std::vector<std::byte> packed = pack(*first.machine);
  const auto again = load_pack(packed);
  if (!again || again->dump() != first.machine->dump()) fail("the pack gives another machine");
  std::size_t states = 0;
  time_in_turns(
      state, [&] { states = load_pack(packed)->states().size(); },
      [&] {
        if (load_character_text(text, "large.yaml").machine->states().size() != first.machine->states().size())
          fail("states are missing");
      });
  if (states != first.machine->states().size()) fail("states are missing");
  state.counters["pack_bytes"] = static_cast<double>(packed.size());
  state.counters["file_bytes"] = static_cast<double>(text.size());
}

// A machine whose states have variables and actions, against one without.
void load_more(benchmark::State& state) {
  const auto packed = [&](std::int64_t more) {
    const Loaded loaded = load_character_text(text_of(1'000, more), "large.yaml");
    if (!loaded.machine) fail(loaded.findings.empty() ? "it does not load" : loaded.findings.front().text());
    return pack(*loaded.machine);
  };
  const std::vector<std::byte> with = packed(state.range(0)), without = packed(0);
  std::size_t states = 0;
  time_in_turns(
      state, [&] { states = load_pack(with)->states().size(); }, [&] { states = load_pack(without)->states().size(); });
  if (states != 1'001) fail("states are missing");
}

}  // namespace
}  // namespace mobrin::bench

int main(int argc, char** argv) {
  using namespace mobrin::bench;
  for (const std::int64_t states : {10, 100, 1'000}) paired("pack against file", load)->Arg(states);
  for (const std::int64_t more : {3, 10})
    paired("pack with so many variables a state against none", load_more)->Arg(more);
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 2;
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
