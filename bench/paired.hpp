// Two ways of doing the same work, timed in turns within one run, so that a busy machine slows both. Gives the ratio of
// each pair, its median and its spread.
#pragma once

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cstdint>
#include <vector>

namespace mobrin::bench {

inline double seconds_of(const auto& work) {
  const auto begin = std::chrono::steady_clock::now();
  work();
  benchmark::ClobberMemory();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

// `ours` is the time reported; counters: `other_us`, and how many times longer the other takes: `ratio` (median),
// `ratio_low` and `ratio_high` (quartiles). `before` is run before each of the two; the other's time counts `times` as
// much.
inline void time_in_turns(benchmark::State& state, const auto& ours, const auto& other, const auto& before,
                          double times) {
  std::vector<double> others, ratios;
  ours();
  other();
  for (auto _ : state) {
    const bool first = ratios.size() % 2 == 0;  // whoever goes second finds warmer or colder caches
    double mine = 0;
    before();
    if (first) mine = seconds_of(ours), before();
    const double its = times * seconds_of(other);
    if (!first) before(), mine = seconds_of(ours);
    state.SetIterationTime(mine);
    others.push_back(its);
    ratios.push_back(its / mine);
  }
  const auto at = [](std::vector<double>& all, double share) {
    std::sort(all.begin(), all.end());
    return all[std::min(all.size() - 1, static_cast<std::size_t>(share * static_cast<double>(all.size())))];
  };
  state.counters["other_us"] = at(others, 0.5) * 1e6;
  state.counters["ratio"] = at(ratios, 0.5);
  state.counters["ratio_low"] = at(ratios, 0.25);
  state.counters["ratio_high"] = at(ratios, 0.75);
}

inline void time_in_turns(benchmark::State& state, const auto& ours, const auto& other) {
  time_in_turns(
      state, ours, other, [] {}, 1);
}

inline benchmark::internal::Benchmark* paired(const char* name, const auto& run) {
  return benchmark::RegisterBenchmark(name, run)->UseManualTime()->Unit(benchmark::kMicrosecond);
}

}  // namespace mobrin::bench
