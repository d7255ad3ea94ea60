// Frames of a crowd, changes of everyone at once, and the first step, each against a loop written by hand whose answers
// are compared first.
#include <cstring>
#include <memory>
#include <random>
#include <string>

#include "mobrin/core/builder.hpp"
#include "mobrin/core/crowd.hpp"
#include "paired.hpp"

namespace mobrin::bench {
namespace {

constexpr Ticks kStep = seconds(1.0 / 60);
constexpr std::int64_t kFrames[] = {kTicksPerSecond / 10, kTicksPerSecond / 8, kTicksPerSecond / 12,
                                    kTicksPerSecond / 10, kTicksPerSecond / 9, kTicksPerSecond / 5};
constexpr int kFrameCount = 6;

[[noreturn]] void fail(const char* what) {
  std::fprintf(stderr, "%s\n", what);
  std::exit(1);
}

Machine made_of(const MachineBuilder& builder) {
  const Compiled compiled = builder.build();
  for (const Finding& finding : compiled.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  return *compiled.machine;
}

// A drop of honey that shines round and round.
Machine drop() {
  MachineBuilder builder("drop");
  ClipDef& clip = builder.clip("shine", kFrameCount, {0, 1}, PlayMode::loop());
  for (int i = 0; i < kFrameCount; ++i) clip.frames[static_cast<std::size_t>(i)].time = Ticks(kFrames[i]);
  StateDef shine;
  shine.name = "shine";
  shine.clip = "shine";
  return made_of(builder.state(shine));
}

// What a renderer wants, as a naive loop computes it.
struct Drops {
  explicit Drops(std::uint32_t count) : all(count), shown(count) {}
  struct Drop {
    std::int64_t time = 0;
    std::int32_t frame = 0;
  };
  void step(std::int64_t dt) {
    for (std::size_t i = 0; i < all.size(); ++i) {
      Drop& drop = all[i];
      drop.time += dt;
      while (drop.time >= kFrames[drop.frame]) {
        drop.time -= kFrames[drop.frame];
        drop.frame = drop.frame + 1 == kFrameCount ? 0 : drop.frame + 1;
      }
      shown[i] = {0, false, drop.frame, 1};
    }
  }
  std::vector<Drop> all;
  std::vector<CrowdShown> shown;
};

struct DropsTwice {
  explicit DropsTwice(std::uint32_t count) : crowd(drop()), hand(count), shown(count) {
    crowd.reserve(count);
    // Each begins somewhere of its own.
    const std::uint32_t groups = 600;
    for (std::uint32_t i = 0; i < count; ++i) {
      crowd.add();
      if (i % (count / groups + 1) == 0) crowd.advance(Ticks(kTicksPerSecond / 997), cues);
    }
    std::uint32_t at = 0;
    for (Drops::Drop& each : hand.all) {
      const auto there = crowd.copy(crowd.at(at++));
      std::int64_t playhead = there->playhead().value_or(0) >> 16;  // none yet of the last one
      while (playhead >= kFrames[each.frame]) playhead -= kFrames[each.frame++];
      each.time = playhead;
    }
  }
  void compare() {
    crowd.shown_all(shown);
    for (std::size_t i = 0; i < shown.size(); ++i)
      if (shown[i].frame != hand.shown[i].frame) fail("a drop shows another frame than the one by hand");
  }
  Crowd crowd;
  Drops hand;
  CrowdCues cues;
  std::vector<CrowdShown> shown;
};

void all_frames(benchmark::State& state, bool copies) {
  DropsTwice both(static_cast<std::uint32_t>(state.range(0)));
  std::int64_t sum = 0;
  time_in_turns(
      state,
      [&] {
        both.crowd.advance(kStep, both.cues);
        if (copies)
          both.crowd.shown_all(both.shown);
        else
          sum += both.crowd.shown_all()[7].frame;
      },
      [&] { both.hand.step(kStep.count); });
  benchmark::DoNotOptimize(sum);
  both.compare();
}

void changed_frames(benchmark::State& state) {
  DropsTwice both(static_cast<std::uint32_t>(state.range(0)));
  std::vector<CrowdShown> followed(both.shown.size());
  std::size_t changes = 0, steps = 0;
  const auto follow = [&] {
    for (const CrowdChange& each : both.crowd.shown_changed()) followed[each.place] = each.shown;
  };
  follow();
  time_in_turns(
      state,
      [&] {
        both.crowd.advance(kStep, both.cues);
        changes += both.crowd.shown_changed().size();
        ++steps;
      },
      [&] { both.hand.step(kStep.count); });
  state.counters["changed"] = static_cast<double>(changes) / static_cast<double>(steps);
  // What was missed while the clock ran is made good by asking for all; from then on changes are enough.
  both.crowd.shown_all(followed);
  for (int i = 0; i < 30; ++i) {
    both.crowd.advance(kStep, both.cues);
    both.hand.step(kStep.count);
    follow();
    both.compare();
    for (std::size_t k = 0; k < followed.size(); ++k)
      if (followed[k].frame != both.shown[k].frame) fail("a change was not told");
  }
}

// A bee that looks left or right, tells it, and hums for a while after each turn. What it looks at lies left or right
// of it, or is so many units away to its left.
Machine bee(bool by_number = false) {
  MachineBuilder builder("bee");
  by_number ? builder.input("away", FloatInput{}) : builder.input("left", BoolInput{});
  builder.cue("hum", "sound").clip("looks_left", 4, {8, 1}, PlayMode::loop());
  builder.clip("looks_right", 4, {8, 1}, PlayMode::loop());
  builder.mark("looks_left", 2, "hum").mark("looks_right", 2, "hum");
  const auto looks = [](const std::string& way, const std::string& when, const std::string& other) {
    StateDef state;
    state.name = way;
    state.clip = "looks_" + way;
    state.enter.emplace_back().tell = "hum";
    GoDef& go = state.go.emplace_back();
    go.when = when;
    go.to = other;
    return state;
  };
  const char* const left = by_number ? "away > 0" : "left";
  const char* const right = by_number ? "away <= 0" : "not left";
  builder.state(looks("right", left, "left")).state(looks("left", right, "right")).initial("right");
  return made_of(builder);
}

struct Hum {
  std::int64_t at;
  std::uint32_t who;
};

struct Bees {
  explicit Bees(std::uint32_t count) : all(count) {}
  static constexpr std::int64_t kCycle = kTicksPerSecond / 2, kHum = kTicksPerSecond / 4;
  struct Bee {
    std::int64_t time = 0;
    bool left = false, state = false, began = false;
  };
  void step(std::int64_t dt) {
    for (std::uint32_t i = 0; i < all.size(); ++i) {
      Bee& bee = all[i];
      if (!bee.began || bee.left != bee.state) {
        if (!bee.began) hums.push_back({now, i});
        const bool turns = bee.left != bee.state;
        bee.began = true;
        bee.state = bee.left;
        bee.time = 0;
        if (turns) hums.push_back({now, i});
      }
      const std::int64_t before = bee.time;
      bee.time += dt;
      if (before < kHum && bee.time >= kHum) hums.push_back({now + kHum - before, i});
      if (bee.time >= kCycle) bee.time -= kCycle;
    }
    now += dt;
  }
  std::vector<Bee> all;
  std::vector<Hum> hums;
  std::int64_t now = 0;
};

void compare(const CrowdCues& cues, const std::vector<Hum>& hums) {
  if (cues.size() != hums.size()) fail("the bees by hand hum another number of times");
  for (std::size_t i = 0; i < hums.size(); ++i)
    if (cues[i].place != hums[i].who || cues[i].cue.at.count != hums[i].at) fail("a bee hums at another time");
}

// By a bool, or by numbers: each its own. All from one state to the other, or some there and the others back.
void all_change(benchmark::State& state, bool by_number, bool both_ways) {
  const auto count = static_cast<std::uint32_t>(state.range(0));
  Crowd crowd(bee(by_number));
  const auto left = crowd.machine().input<bool>("left");  // it has one of them
  const auto away = crowd.machine().input<float>("away");
  crowd.reserve(count);
  for (std::uint32_t i = 0; i < count; ++i) crowd.add();
  std::unique_ptr<bool[]> ways[2] = {std::make_unique<bool[]>(count), std::make_unique<bool[]>(count)};
  std::vector<float> distances[2];
  std::mt19937 random(5);
  for (std::uint32_t i = 0; i < count; ++i) {
    ways[1][i] = !both_ways || random() % 2 == 0;
    ways[0][i] = !ways[1][i];
    const float far = 1 + static_cast<float>(i % 7) / 8;
    for (const int k : {0, 1}) distances[k].push_back(ways[k][i] ? far : -far);
  }
  Bees hand(count);
  CrowdCues cues;
  cues.reserve(3 * std::size_t{count});
  hand.hums.reserve(3 * std::size_t{count});
  int mine = 0, other = 0;
  const auto step = [&] {
    cues.clear();
    ++mine;
    if (by_number)
      crowd.set_all(*away, distances[mine % 2]);
    else
      crowd.set_all(*left, std::span<const bool>(ways[mine % 2].get(), count));
    crowd.advance(kStep, cues);
  };
  const auto step_by_hand = [&] {
    hand.hums.clear();
    ++other;
    const bool* const way = ways[other % 2].get();
    const float* const distance = distances[other % 2].data();
    for (std::uint32_t i = 0; i < count; ++i) hand.all[i].left = by_number ? distance[i] > 0 : way[i];
    hand.step(kStep.count);
  };
  for (int i = 0; i < 3; ++i) step(), step_by_hand(), compare(cues, hand.hums);
  time_in_turns(state, step, step_by_hand);
  compare(cues, hand.hums);
}

void first_step(benchmark::State& state) {
  const auto count = static_cast<std::uint32_t>(state.range(0));
  const Machine machine = bee();
  std::unique_ptr<Crowd> crowd;
  std::unique_ptr<Bees> hand;
  CrowdCues cues;
  cues.reserve(3 * std::size_t{count});
  const auto make = [&] {
    cues.clear();
    crowd = std::make_unique<Crowd>(machine);
    crowd->reserve(count);
    for (std::uint32_t i = 0; i < count; ++i) crowd->add();
    hand = std::make_unique<Bees>(count);
    hand->hums.reserve(3 * std::size_t{count});
  };
  make();
  time_in_turns(
      state, [&] { crowd->advance(kStep, cues); }, [&] { hand->step(kStep.count); }, make, 1);
  make();
  crowd->advance(kStep, cues);
  hand->step(kStep.count);
  compare(cues, hand->hums);
}

}  // namespace
}  // namespace mobrin::bench

int main(int argc, char** argv) {
  using namespace mobrin::bench;
  for (const std::int64_t count : {1'000, 100'000}) {
    paired("frames of all against a loop by hand", [](benchmark::State& state) {
      all_frames(state, true);
    })->Arg(count);
    paired("frames of all, not copied", [](benchmark::State& state) { all_frames(state, false); })->Arg(count);
    paired("frames that changed against a loop by hand for all", changed_frames)->Arg(count);
    for (const bool both_ways : {false, true})
      for (const bool by_number : {false, true}) {
        const std::string name = std::string("everyone changes state") + (by_number ? " by a number" : "") +
                                 (both_ways ? ", some each way" : "");
        paired(name.c_str(), [=](benchmark::State& state) { all_change(state, by_number, both_ways); })->Arg(count);
      }
    paired("the first step", first_step)->Arg(count);
  }
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 2;
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
