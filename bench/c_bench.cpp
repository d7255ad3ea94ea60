// A call by way of the C library against the same call in C++: 1,000 of each, so that a microsecond more is a
// nanosecond a call.
#include <cstdio>
#include <cstdlib>

#include "mobrin/c/mobrin.h"
#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/pack/pack.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

constexpr int kCalls = 1000;

Machine walker() {
  MachineBuilder builder("walker");
  builder.input("move", FloatInput{0, -1, 1});
  StateDef stand, walk;
  stand.name = "stand";
  walk.name = "walk";
  GoDef go;
  go.when = "move > 0.5";
  go.to = "walk";
  stand.go.push_back(go);
  builder.state(stand).state(walk);
  const Compiled compiled = builder.initial("stand").build();
  if (!compiled.machine) std::abort();
  return *compiled.machine;
}

// Both sides hold the same machine, each by its own way in.
struct Sides {
  Sides() : machine(walker()), it(machine), move(*machine.input<float>("move")) {
    const std::vector<std::byte> packed = pack(machine);
    c_machine = mobrin_machine_from_pack(packed.data(), packed.size(), 0, nullptr);
    c_it = mobrin_instance_new(c_machine, nullptr);
    c_cues = mobrin_cues_new(16, MOBRIN_GAME_RECORDS);
    c_move = mobrin_input_id(c_machine, "move", mobrin_float, nullptr);
    (void)it.advance(Ticks(0), cues);
    (void)mobrin_advance(c_it, 0, c_cues, nullptr);
  }
  ~Sides() {
    mobrin_cues_free(c_cues);
    mobrin_instance_free(c_it);
    mobrin_machine_free(c_machine);
  }
  Sides(const Sides&) = delete;
  Sides& operator=(const Sides&) = delete;
  void check() {
    // Both went as far as each other; a rollback copies a block either way.
    if (it.hash() == mobrin_hash(c_it)) return;
    std::fprintf(stderr, "the two sides differ\n");
    std::exit(1);
  }

  Machine machine;
  Instance it;
  CueList<16> cues;
  Input<float> move;
  mobrin_machine* c_machine = nullptr;
  mobrin_instance* c_it = nullptr;
  mobrin_cues* c_cues = nullptr;
  mobrin_id c_move = 0;
};

void advances(benchmark::State& state) {
  Sides s;
  time_in_turns(
      state,
      [&] {
        for (int i = 0; i < kCalls; ++i) mobrin_advance(s.c_it, 100, s.c_cues, nullptr);
      },
      [&] {
        for (int i = 0; i < kCalls; ++i) (void)s.it.advance(Ticks(100), s.cues);
      });
  s.check();
}

void writes(benchmark::State& state) {
  Sides s;
  time_in_turns(
      state,
      [&] {
        for (int i = 0; i < kCalls; ++i) mobrin_set_float(s.c_it, s.c_move, static_cast<float>(i & 7) / 32);
      },
      [&] {
        for (int i = 0; i < kCalls; ++i) (void)s.it.set(s.move, static_cast<float>(i & 7) / 32);
      });
  s.check();
}

void reads(benchmark::State& state) {
  Sides s;
  std::uint32_t theirs = 0, ours = 0;
  time_in_turns(
      state,
      [&] {
        for (int i = 0; i < kCalls; ++i) ours += mobrin_active(s.c_it, 0);
        benchmark::DoNotOptimize(ours);
      },
      [&] {
        for (int i = 0; i < kCalls; ++i) theirs += s.it.active(), benchmark::ClobberMemory();
        benchmark::DoNotOptimize(theirs);
      });
  if (ours == 0 || theirs == 0) std::abort();
  s.check();
}

}  // namespace
}  // namespace mobrin::bench

int main(int argc, char** argv) {
  using namespace mobrin::bench;
  paired("1000 advances in C against C++", advances);
  paired("1000 writes in C against C++", writes);
  paired("1000 reads in C against C++", reads);
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}
