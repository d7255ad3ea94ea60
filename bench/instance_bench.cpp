// One instance: advancing with nothing due, a guard, a transition; dispatch against a hand-written table and
// std::variant; expressions against the same in C++.
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>
#include <string>
#include <variant>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/instance.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

[[noreturn]] void fail(const char* what) {
  std::fprintf(stderr, "%s\n", what);
  std::exit(1);
}

// Eight states in a ring, eight pulses: pulse k leads from state s to (s + k + 1) mod 8.
constexpr int kStates = 8;
constexpr int target(int state, int event) { return (state + event + 1) % kStates; }

Machine ring() {
  MachineBuilder builder("ring");
  for (int e = 0; e < kStates; ++e) builder.pulse("p" + std::to_string(e));
  for (int s = 0; s < kStates; ++s) {
    StateDef state;
    state.name = "s" + std::to_string(s);
    for (int e = 0; e < kStates; ++e) {
      GoDef go;
      go.pulse = "p" + std::to_string(e);
      go.to = "s" + std::to_string(target(s, e));
      go.restart = true;
      state.go.push_back(go);
    }
    builder.state(state);
  }
  const Compiled compiled = builder.initial("s0").build();
  if (!compiled.machine) fail("the ring does not compile");
  return *compiled.machine;
}

std::vector<int> events() {
  std::mt19937 random(5);
  std::vector<int> out(1000);
  for (int& event : out) event = static_cast<int>(random() % kStates);
  return out;
}

class Ours {
 public:
  Ours() : instance_(ring()) {
    for (int e = 0; e < kStates; ++e) pulses_.push_back(*instance_.machine().pulse("p" + std::to_string(e)));
    static_cast<void>(instance_.advance(Ticks(0), cues_));
  }
  int run(const std::vector<int>& events) {
    for (const int event : events) {
      instance_.pulse(pulses_[static_cast<std::size_t>(event)]);
      static_cast<void>(instance_.advance(Ticks(1), cues_));
      cues_.clear();
    }
    return instance_.active() - 1;
  }

 private:
  Instance instance_;
  std::vector<Pulse> pulses_;
  CueList<8> cues_;
};

class Table {
 public:
  Table() {
    for (int s = 0; s < kStates; ++s)
      for (int e = 0; e < kStates; ++e) to_[s][e] = target(s, e);
  }
  int run(const std::vector<int>& events) {
    for (const int event : events) state_ = to_[state_][event];
    return state_;
  }

 private:
  int to_[kStates][kStates];
  int state_ = 0;
};

template <int N>
struct In {};
using RingState = std::variant<In<0>, In<1>, In<2>, In<3>, In<4>, In<5>, In<6>, In<7>>;
template <int N>
RingState after(In<N>, int event) {
  switch (event) {
    case 0:
      return In<target(N, 0)>{};
    case 1:
      return In<target(N, 1)>{};
    case 2:
      return In<target(N, 2)>{};
    case 3:
      return In<target(N, 3)>{};
    case 4:
      return In<target(N, 4)>{};
    case 5:
      return In<target(N, 5)>{};
    case 6:
      return In<target(N, 6)>{};
    default:
      return In<target(N, 7)>{};
  }
}
class Variant {
 public:
  int run(const std::vector<int>& events) {
    for (const int event : events) state_ = std::visit([&](auto in) { return after(in, event); }, state_);
    return static_cast<int>(state_.index());
  }

 private:
  RingState state_;
};

// A thousand events each.
template <class Other>
void dispatch(benchmark::State& state) {
  const std::vector<int> all = events();
  Ours ours;
  Other other;
  if (ours.run(all) != other.run(all)) fail("they end in different states");
  int one = 0, two = 0;
  time_in_turns(
      state, [&] { one = ours.run(all); }, [&] { benchmark::DoNotOptimize(two = other.run(all)); });
  if (one != two) fail("they end in different states");
}

// --- what a step costs ---

Machine walker() {
  MachineBuilder builder("walker");
  builder.input("near", FloatInput{10, 0, 100, 0}).cue("step", "sound").clip("walk", 4, {8, 1}, PlayMode::loop());
  builder.mark("walk", 1, "step");
  StateDef walk, stop;
  walk.name = "walk";
  walk.clip = "walk";
  GoDef go;
  go.when = "near < 5";
  go.to = "stop";
  walk.go.push_back(go);
  stop.name = "stop";
  stop.clip = "walk";
  go.when = "near >= 5";
  go.to = "walk";
  stop.go.push_back(go);
  const Compiled compiled = builder.state(walk).state(stop).initial("walk").build();
  if (!compiled.machine) fail("the walker does not compile");
  return *compiled.machine;
}

void nothing_due(benchmark::State& state) {
  Instance instance(walker());
  CueList<8> cues;
  static_cast<void>(instance.advance(Ticks(0), cues));
  for (auto _ : state) benchmark::DoNotOptimize(instance.advance(Ticks(1), cues));
  if (instance.active() != 1) fail("it does not walk");
}
void guard(benchmark::State& state) {
  Instance instance(walker());
  const auto near = *instance.machine().input<float>("near");
  CueList<8> cues;
  float value = 20;
  for (auto _ : state) {
    instance.set(near, value = 50 - value);  // 20 and 30: looked at, nothing taken
    benchmark::DoNotOptimize(instance.advance(Ticks(1), cues));
  }
  if (instance.active() != 1) fail("it does not walk");
}
void transition(benchmark::State& state) {
  Instance instance(walker());
  const auto near = *instance.machine().input<float>("near");
  CueList<8> cues;
  std::size_t steps = 0;
  for (auto _ : state) {
    instance.set(near, ++steps % 2 == 1 ? 1.0f : 9.0f);
    benchmark::DoNotOptimize(instance.advance(Ticks(1), cues));
  }
  if (instance.active() != (steps % 2 == 1 ? 2 : 1)) fail("it is in the wrong state");
}
void cue(benchmark::State& state) {
  Instance instance(walker());
  CueList<8> cues;
  static_cast<void>(instance.advance(Ticks(0), cues));
  std::size_t told = 0, steps = 0;
  for (auto _ : state) {
    benchmark::DoNotOptimize(instance.advance(milliseconds(250), cues));  // half a round: the cue, or coming round
    told += cues.size();
    cues.clear();
    ++steps;
  }
  if (told != (steps + 1) / 2) fail("a cue is missing");
}

// --- expressions ---

void expressions(benchmark::State& state) {
  MachineBuilder builder("look");
  builder.input("x", FloatInput{}).input("y", FloatInput{}).input("n", IntInput{}).input("b", BoolInput{});
  StateDef only;
  only.name = "only";
  builder.state(only);
  LookDef look;
  look.name = "near";
  look.when = "abs(x - 3) * 2 > y and (n + 1) * 3 < 20 or b";
  builder.definition().looks.push_back(look);
  const Compiled compiled = builder.build();
  if (!compiled.machine) fail("the look does not compile");
  Instance instance(*compiled.machine);
  const auto x_in = *compiled.machine->input<float>("x"), y_in = *compiled.machine->input<float>("y");
  const auto n_in = *compiled.machine->input<std::int32_t>("n");
  CueList<8> cues;
  static_cast<void>(instance.advance(Ticks(0), cues));
  std::mt19937 random(9);
  const auto any = [&](int below) { return static_cast<int>(random() % static_cast<unsigned>(below)); };
  volatile bool b = false;
  for (int i = 0; i < 1000; ++i) {
    const auto x = static_cast<float>(any(10)), y = static_cast<float>(any(10));
    const int n = any(10);
    instance.set(x_in, x);
    instance.set(y_in, y);
    instance.set(n_in, n);
    const bool expected = (std::abs(double{x} - 3) * 2 > double{y} && (n + 1) * 3 < 20) || b;
    if ((instance.look() == 0) != expected) fail("the expression gives another value than C++");
  }
  volatile float x = 7, y = 3;
  volatile int n = 4;
  instance.set(x_in, 7.0f);
  instance.set(y_in, 3.0f);
  instance.set(n_in, 4);
  int held = 0, other = 0;
  time_in_turns(
      state,
      [&] {
        for (int i = 0; i < 1000; ++i) held += instance.look() == 0 ? 1 : 0;
      },
      [&] {
        for (int i = 0; i < 1000; ++i)
          other += (std::abs(double{x} - 3) * 2 > double{y} && (n + 1) * 3 < 20) || b ? 1 : 0;
      });
  if (held != other || held == 0) fail("they count differently");
}

}  // namespace
}  // namespace mobrin::bench

int main(int argc, char** argv) {
  using namespace mobrin::bench;
  benchmark::RegisterBenchmark("advance, nothing due", nothing_due);
  benchmark::RegisterBenchmark("advance, a guard is looked at", guard);
  benchmark::RegisterBenchmark("advance, a transition is taken", transition);
  benchmark::RegisterBenchmark("advance, a cue or a round", cue);
  paired("1000 events against a table", dispatch<Table>);
  paired("1000 events against std::variant", dispatch<Variant>);
  paired("1000 expressions against C++", expressions);
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 2;
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
