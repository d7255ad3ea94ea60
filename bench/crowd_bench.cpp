// A crowd of hornets against a loop written by hand, whose cues are compared first; against the bare scan of its wakes;
// its snapshots against memcpy; what it shows.
#include <algorithm>
#include <cstring>
#include <limits>
#include <memory>
#include <string>
#include <tuple>

#include "hornets.hpp"
#include "large_pages.hpp"
#include "mobrin/core/builder.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

const Machine& hornet() {
  static const Machine machine = load_hornet(MOBRIN_BENCH_FOLDER "/hornet.yaml");
  return machine;
}

struct Case {
  const char* name;
  double share;
  bool all, jumps;
  bool large_pages = false;
  [[nodiscard]] std::pmr::memory_resource* memory() const {
    static LargePages large;
    return large_pages ? &large : std::pmr::get_default_resource();
  }
};
constexpr Case kCases[] = {{"no writes", 0, false, false},
                           {"1% written", 0.01, false, false},
                           {"1% written, large pages", 0.01, false, false, true},
                           {"10% written", 0.1, false, false},
                           {"10% written, every second one changes its mind", 0.1, false, true},
                           {"all get a new float", 0, true, false}};
constexpr int kColdTurns = 100;
constexpr std::int64_t kCounts[] = {1'000, 10'000, 100'000, 1'000'000};

[[noreturn]] void fail(const char* what) {
  std::fprintf(stderr, "%s\n", what);
  std::exit(1);
}

// Both sides, brought to where their cues are spread over the steps. Made once for each case and count: it takes longer
// than what is timed.
struct Both {
  Both(std::uint32_t count, const Case& which)
      : writes(count, which.share, which.all, which.jumps),
        crowd(hornet(), count, writes, which.memory()),
        hand(hornet(), count, writes, which.memory()) {}
  Writes writes;
  Running<CrowdSide> crowd;
  Running<HandSide> hand;

  // Steps both, which must tell the same.
  void verify(int steps) {
    std::size_t told = 0;
    for (int step = 0; step < steps; ++step) {
      std::vector<Event> a, b;
      crowd.step();
      hand.step();
      crowd.side.told(a);
      hand.side.told(b);
      if (a != b) {
        const auto [one, other] = std::mismatch(a.begin(), a.end(), b.begin(), b.end());
        for (const auto& [who, at, end] :
             {std::tuple("the crowd", one, a.end()), std::tuple("by hand", other, b.end())})
          if (at != end)
            std::fprintf(stderr, "step %d, %s: hornet %u tells %d at %lld\n", step, who, at->who,
                         static_cast<int>(at->what), static_cast<long long>(at->at));
        fail("the crowd and the loop by hand tell different things");
      }
      told += a.size();
    }
    if (told * 60 < crowd.side.crowd.size() * static_cast<std::size_t>(steps)) fail("hardly anything was told");
  }
  static Both& of(std::uint32_t count, const Case& which) {
    static std::unique_ptr<Both> kept;
    static std::pair<std::uint32_t, const Case*> of_what;
    if (kept == nullptr || of_what != std::pair(count, &which)) {
      kept.reset();
      kept = std::make_unique<Both>(count, which);
      of_what = {count, &which};
      kept->verify(2 * static_cast<int>(Writes::kRounds));
    }
    return *kept;
  }
};

void step(benchmark::State& state, const Case& which) {
  Both& both = Both::of(static_cast<std::uint32_t>(state.range(0)), which);
  time_in_turns(
      state, [&] { both.crowd.step(); }, [&] { both.hand.step(); });
  both.verify(1);
  state.counters["cues"] = static_cast<double>(both.crowd.side.cues.size());
}

// What the rest of a game's frame does to the caches: more memory than they hold is read and written.
void use_caches() {
  static std::vector<std::uint64_t> rest(std::size_t{12} << 20);
  for (std::size_t i = 0; i < rest.size(); i += 8) ++rest[i];
  benchmark::DoNotOptimize(rest.data());
}

// A step of ten times as many against ten steps; or, with the caches used for other things before every step, against
// ten times what one takes.
void growth(benchmark::State& state, const Case& which, bool cold) {
  struct Some {
    Some(std::uint32_t count, const Case& which)
        : writes(count, which.share, which.all, which.jumps), crowd(hornet(), count, writes, which.memory()) {
      for (std::uint32_t i = 0; i < 2 * Writes::kRounds; ++i) step();
      told = steps = 0;
    }
    void step() {
      crowd.step();
      told += crowd.side.cues.size();
      ++steps;
    }
    Writes writes;
    Running<CrowdSide> crowd;
    std::size_t told = 0, steps = 0;
  };
  const auto count = static_cast<std::uint32_t>(state.range(0));
  Some few(count, which), many(10 * count, which);
  if (cold) {
    time_in_turns(
        state, [&] { many.step(); }, [&] { few.step(); }, use_caches, 10);
  } else {
    time_in_turns(
        state, [&] { many.step(); },
        [&] {
          for (int i = 0; i < 10; ++i) few.step();
        });
  }
  const double more =
      static_cast<double>(many.told * few.steps) / static_cast<double>(few.told * many.steps);  // in a step
  if (many.steps > 30 && (more < 8 || more > 12)) fail("ten times as many do not tell ten times as much");
}

// Nobody has anything to do, against looking at each wake once: the demo's hornet, which hovers and tells nothing.
void nothing_due(benchmark::State& state) {
  Crowd crowd(load_hornet(MOBRIN_BENCH_FOLDER "/../demo/apiary/hornet.yaml"));
  crowd.reserve(static_cast<std::uint32_t>(state.range(0)));
  for (std::int64_t i = 0; i < state.range(0); ++i) crowd.add();
  CrowdCues cues;
  crowd.advance(kStep, cues);
  if (crowd.next_wake().count != std::numeric_limits<std::int64_t>::max()) fail("somebody is due");
  const std::vector<std::int64_t> wakes(static_cast<std::size_t>(state.range(0)), std::int64_t{1} << 60);
  std::int64_t now = 0;
  std::size_t due = 0;
  time_in_turns(
      state, [&] { crowd.advance(kStep, cues); },
      [&] {
        now += kStep.count;
        for (const std::int64_t wake : wakes) due += wake <= now ? 1 : 0;
        benchmark::DoNotOptimize(due);
      });
  if (!cues.empty() || due > 0) fail("something was told");
}

// Every member is due in every step: a cue of each lies in it.
void all_due(benchmark::State& state) {
  const Compiled compiled = [] {
    MachineBuilder builder("fly");
    builder.cue("flap", "sound").clip("wings", 4, {120, 1}, PlayMode::loop());
    builder.mark("wings", 1, "flap").mark("wings", 3, "flap");
    StateDef fly;
    fly.name = "fly";
    fly.clip = "wings";
    return builder.state(fly).build();
  }();
  Crowd crowd(*compiled.machine);
  const auto count = static_cast<std::uint32_t>(state.range(0));
  crowd.reserve(count);
  for (std::uint32_t i = 0; i < count; ++i) crowd.add();
  CrowdCues cues;
  cues.reserve(3 * std::size_t{count});
  crowd.advance(kStep, cues);
  for (auto _ : state) {
    cues.clear();
    crowd.advance(kStep, cues);
    if (cues.size() != count) fail("not all have told their cue");
  }
}

void snapshots(benchmark::State& state, bool back) {
  Crowd& crowd = Both::of(static_cast<std::uint32_t>(state.range(0)), kCases[0]).crowd.side.crowd;
  std::vector<std::byte> snapshot, copy;
  crowd.snapshot(snapshot);
  copy = snapshot;
  const std::uint64_t hash = crowd.hash();
  time_in_turns(
      state,
      [&] {
        if (back) {
          if (!crowd.restore(snapshot)) fail("it is not restored");
        } else {
          crowd.snapshot(snapshot);
        }
      },
      [&] { std::memcpy(copy.data(), snapshot.data(), snapshot.size()); });
  if (crowd.hash() != hash || copy != snapshot) fail("the snapshot is not what was there");
}

void hashing(benchmark::State& state) {
  Crowd& crowd = Both::of(static_cast<std::uint32_t>(state.range(0)), kCases[0]).crowd.side.crowd;
  std::vector<std::byte> snapshot;
  crowd.snapshot(snapshot);
  std::uint64_t hash = 0, sum = 0;
  time_in_turns(
      state, [&] { hash = crowd.hash(); },
      [&] {
        for (std::size_t i = 0; i + 8 <= snapshot.size(); i += 8) {
          std::uint64_t word = 0;
          std::memcpy(&word, snapshot.data() + i, 8);
          sum += word;
        }
        benchmark::DoNotOptimize(sum);
      });
  if (hash != crowd.hash()) fail("the hash changes");
}

// Clip and frame of all, against reading all that must be read for it.
void frames(benchmark::State& state) {
  Crowd& crowd = Both::of(static_cast<std::uint32_t>(state.range(0)), kCases[0]).crowd.side.crowd;
  std::vector<CrowdShown> shown(crowd.places());
  std::vector<std::byte> snapshot, copy;
  crowd.snapshot(snapshot);
  copy = snapshot;
  time_in_turns(
      state, [&] { crowd.shown_all(shown); }, [&] { std::memcpy(copy.data(), snapshot.data(), snapshot.size()); });
  for (std::uint32_t i = 0; i < crowd.places(); i += 97) {
    const Shown one = crowd.shown(crowd.at(i));
    if (one.clip != shown[i].clip || one.frame != shown[i].frame) fail("a frame differs");
  }
}

}  // namespace
}  // namespace mobrin::bench

int main(int argc, char** argv) {
  using namespace mobrin::bench;
  for (const Case& which : kCases)
    for (const std::int64_t count : kCounts)
      paired((std::string("crowd against a loop by hand, ") + which.name).c_str(), [&which](benchmark::State& state) {
        step(state, which);
      })->Arg(count);
  for (const Case& which : {kCases[0], kCases[1], kCases[2]})
    for (const bool cold : {false, true})
      for (const std::int64_t count : {1'000, 10'000, 100'000}) {
        const std::string name =
            std::string("ten times as many, ") + which.name + (cold ? ", caches used between steps" : "");
        auto* const run =
            paired(name.c_str(), [which, cold](benchmark::State& state) { growth(state, which, cold); })->Arg(count);
        if (cold) run->Iterations(kColdTurns);
      }
  for (const std::int64_t count : kCounts) paired("nothing due against a bare scan", nothing_due)->Arg(count);
  for (const std::int64_t count : kCounts)
    benchmark::RegisterBenchmark("all due", all_due)->Arg(count)->Unit(benchmark::kMicrosecond);
  for (const std::int64_t count : {1'000, 1'000'000}) {
    paired("snapshot against memcpy", [](benchmark::State& state) { snapshots(state, false); })->Arg(count);
    paired("restore against memcpy", [](benchmark::State& state) { snapshots(state, true); })->Arg(count);
    paired("hash against a sum of words", hashing)->Arg(count);
    paired("frames of all against memcpy", frames)->Arg(count);
  }
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 2;
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
