// Who hits whom among many: the grid against looking at every pair. The answers are compared before anything is timed.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <random>
#include <tuple>
#include <vector>

#include "mobrin/contact/contacts.hpp"

namespace {

using namespace mobrin;

constexpr Ticks kStep(kTicksPerSecond / 60);

struct Crowd {
  std::vector<Participant> who;
  std::vector<std::array<PlainBox, 2>> boxes;
};

// Half of a square is free: about one in three touches another.
Crowd make_crowd(std::uint32_t count) {
  std::mt19937 random(9);
  const double side = std::sqrt(static_cast<double>(count)) * 2;
  const auto any = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
  Crowd out;
  for (std::uint32_t i = 0; i < count; ++i) {
    Participant& one = out.who.emplace_back();
    one.id = i;
    one.from.at = {any(0, side), any(0, side)};
    one.to.at = {one.from.at.x + any(-0.1, 0.1), one.from.at.y + any(-0.1, 0.1)};
    out.boxes.push_back({PlainBox{true, CircleShape{10, 8, 6}, 32}, PlainBox{false, RectShape{-6, 0, 12, 26}, 32}});
  }
  return out;
}

using Found = std::tuple<std::int64_t, std::uint32_t, double, std::uint32_t>;

std::vector<Found> by_grid(const Crowd& crowd, Contacts& contacts) {
  std::vector<Found> out;
  contacts.begin(Ticks(0), kStep);
  for (std::size_t i = 0; i < crowd.who.size(); ++i) contacts.add(crowd.who[i], crowd.boxes[i]);
  contacts.resolve([&](const Hit& hit) {
    out.emplace_back(hit.at.count, hit.by, hit.distance, hit.on);
    return HitAnswer::misses;  // so that each round finds the same
  });
  return out;
}

std::vector<Found> by_pairs(const Crowd& crowd) {
  std::vector<Found> out;
  for (std::size_t a = 0; a < crowd.who.size(); ++a) {
    const Participant& one = crowd.who[a];
    const WorldShape hit = to_world(crowd.boxes[a][0].shape, one.from, 32);
    const Vec2 way{one.to.at.x - one.from.at.x, one.to.at.y - one.from.at.y};
    for (std::size_t b = 0; b < crowd.who.size(); ++b) {
      if (a == b) continue;
      const Participant& other = crowd.who[b];
      const Vec2 its{other.to.at.x - other.from.at.x, other.to.at.y - other.from.at.y};
      const auto met = meeting(hit, to_world(crowd.boxes[b][1].shape, other.from, 32), {its.x - way.x, its.y - way.y});
      if (!met) continue;
      const double ticks = std::ceil(met->begin * static_cast<double>(kStep.count) - 1e-4);
      const double part = ticks / static_cast<double>(kStep.count);
      const double dx = (one.from.at.x + way.x * part) - (other.from.at.x + its.x * part);
      const double dy = (one.from.at.y + way.y * part) - (other.from.at.y + its.y * part);
      out.emplace_back(static_cast<std::int64_t>(ticks), one.id, std::sqrt(dx * dx + dy * dy), other.id);
    }
  }
  std::sort(out.begin(), out.end());
  return out;
}

void verify(const Crowd& crowd) {
  TagNames tags;
  Contacts contacts(tags);
  const auto grid = by_grid(crowd, contacts), pairs = by_pairs(crowd);
  if (grid == pairs && grid.size() > crowd.who.size() / 20) return;
  std::fprintf(stderr, "the answers differ: %zu hits by the grid, %zu by all pairs\n", grid.size(), pairs.size());
  std::exit(1);
}

void Grid(benchmark::State& state) {
  const Crowd crowd = make_crowd(static_cast<std::uint32_t>(state.range(0)));
  verify(crowd);
  TagNames tags;
  Contacts contacts(tags);
  std::size_t hits = 0;
  for (auto _ : state) hits = by_grid(crowd, contacts).size();
  state.counters["hits"] = static_cast<double>(hits);
}
void AllPairs(benchmark::State& state) {
  const Crowd crowd = make_crowd(static_cast<std::uint32_t>(state.range(0)));
  for (auto _ : state) benchmark::DoNotOptimize(by_pairs(crowd));
}

BENCHMARK(Grid)->Arg(1'000)->Arg(10'000)->Unit(benchmark::kMillisecond);
BENCHMARK(AllPairs)->Arg(1'000)->Arg(10'000)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
