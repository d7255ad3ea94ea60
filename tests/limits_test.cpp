// Limits: each works up to its last, and the next is refused with its number; so it is through a pack with the right
// checksum.
#include <cmath>
#include <cstring>
#include <fstream>

#include "../src/core/machine/hash.hpp"
#include "mobrin/contact/contacts.hpp"
#include "mobrin/core/builder.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/pack/pack.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string told_by(const Compiled& compiled) { return joined(compiled.findings); }

// A machine that plays clips in turn with so many marks in all, on frame 1 of each.
Compiled with_marks(std::size_t marks) {
  MachineBuilder builder("m");
  builder.cue("a", "", {});
  StateDef state;
  state.name = "s";
  for (std::size_t made = 0, clip = 0; made < marks; ++clip) {
    const std::string name = "c" + std::to_string(clip);
    builder.clip(name, 2, {10, 1}, PlayMode::once());
    for (const std::size_t end = std::min(marks, made + 4096); made < end; ++made) builder.mark(name, 1, "a");
    state.sequence.emplace_back(name);
  }
  return builder.state(state).build();
}

// The last rules of a very long list are as good as its first.
TEST(Limits, APulseFindsItsRuleBehindSixtyFiveThousandOthers) {
  for (const std::size_t before : {std::size_t{65'534}, std::size_t{65'535}, std::size_t{65'536}}) {
    MachineBuilder builder("m");
    builder.pulse("p").pulse("q").input("n", IntInput{});
    StateDef from, to;
    from.name = "from";
    to.name = "to";
    GoDef never;
    never.pulse = "p";
    never.when = "n == 7";
    never.to = "to";
    from.go.assign(before, never);
    GoDef& last = from.go.emplace_back();
    last.pulse = "q";
    last.to = "to";
    const Compiled compiled = builder.state(from).state(to).initial("from").build();
    ASSERT_TRUE(compiled.machine) << told_by(compiled);
    Instance instance(*compiled.machine);
    CueList<8> cues;
    static_cast<void>(instance.advance(Ticks(0), cues));
    instance.pulse(*compiled.machine->pulse("p"));
    static_cast<void>(instance.advance(Ticks(1), cues));
    EXPECT_EQ(instance.active(), 1) << before;
    instance.pulse(*compiled.machine->pulse("p"));
    instance.pulse(*compiled.machine->pulse("q"));
    static_cast<void>(instance.advance(Ticks(1), cues));
    EXPECT_EQ(instance.active(), 2) << before;
  }
}

TEST(Limits, MarksOfClipsInTurn) {
  for (const std::size_t marks : {65'534u, 65'535u}) {
    const Compiled compiled = with_marks(marks);
    ASSERT_TRUE(compiled.machine) << told_by(compiled);
    for (const Machine& machine : {*compiled.machine, *load_pack(pack(*compiled.machine))}) {
      Instance instance(machine);
      std::size_t told = 0;
      instance.advance(seconds(4), [&](const Cue&) { ++told; });
      EXPECT_EQ(told, marks);
    }
  }
  const Compiled more = with_marks(65'536);
  EXPECT_FALSE(more.machine);
  EXPECT_NE(told_by(more).find("65536 marks of clips in turn are too many [too-large]\n    At most 65535"),
            std::string::npos)
      << told_by(more);
}

// So many transitions, each open in frame 3 only; the last ones belong to the initial state.
Compiled with_windows(std::size_t windows) {
  MachineBuilder builder("m");
  builder.input("p", BoolInput{true}).clip("c", 4, {10, 1}, PlayMode::loop());
  std::size_t made = 0;
  int states = 0;
  for (; made < windows; ++states) {
    StateDef state;
    state.name = "s" + std::to_string(states);
    state.clip = "c";
    for (int i = 0; i < 100 && made < windows; ++i, ++made) {
      GoDef go;
      go.when = "p";
      go.during_stretch = StretchDef{false, made == 0 ? 0 : 3, 3, {}, {}};
      go.to = "z";
      state.go.push_back(go);
    }
    builder.state(state);
  }
  StateDef end;
  end.name = "z";
  return builder.state(end).initial("s" + std::to_string(states - 1)).build();
}

TEST(Limits, WindowsOfTransitions) {
  for (const std::size_t windows : {65'534u, 65'535u}) {
    const Compiled compiled = with_windows(windows);
    ASSERT_TRUE(compiled.machine) << told_by(compiled);
    Instance instance(*load_pack(pack(*compiled.machine)));
    const State end = *instance.machine().state("z");
    instance.advance(milliseconds(299), [](const Cue&) {});
    EXPECT_FALSE(instance.in(end));
    instance.advance(milliseconds(1), [](const Cue&) {});
    EXPECT_TRUE(instance.in(end)) << "frame 3 begins";
  }
  EXPECT_NE(told_by(with_windows(65'536)).find("65536 `during:` are too many [too-large]"), std::string::npos);
}

TEST(Limits, RecordsOfOneInstantAreToldApart) {
  MachineBuilder builder("m");
  builder.cue("a", "", {}).clip("c", 2, {10, 1}, PlayMode::once());
  for (int i = 0; i < 4096; ++i) builder.mark("c", 1, "a");
  for (int r = 0; r < 20; ++r) {
    RegionDef& region = builder.definition().root.regions.emplace_back();
    region.name = "r" + std::to_string(r);
    StateDef& state = region.states.emplace_back();
    state.name = "s";
    state.clip = "c";
  }
  const Compiled compiled = builder.build();
  ASSERT_TRUE(compiled.machine) << told_by(compiled);
  std::vector<Cue> memory(20 * 4096);
  CueBuffer cues(memory);
  Instance instance(*compiled.machine);
  ASSERT_TRUE(instance.advance(milliseconds(100), cues).complete());
  ASSERT_EQ(cues.size(), 81'920u);
  for (std::uint32_t i = 0; i < cues.size(); ++i) ASSERT_EQ(cues[i].ordinal - cues[0].ordinal, i);
  for (int r = 20; r < 64; ++r) {
    RegionDef region = builder.definition().root.regions[0];
    region.name = "r" + std::to_string(r);
    builder.definition().root.regions.push_back(region);
  }
  EXPECT_NE(told_by(builder.build()).find("records"), std::string::npos) << "64 regions could tell too many";
}

std::string reach_with_tags(int tags) {
  std::string hits;
  for (int i = 0; i < tags; ++i) hits += (i == 0 ? "t" : ", t") + std::to_string(i);
  return "reaches: {r: {circle: [0, 0, 32], hits: [" + hits + "]}}\nstates: {a: {}}\n";
}

TEST(Limits, TagsOfAMachine) {
  for (const int tags : {63, 64}) EXPECT_EQ(findings_of(reach_with_tags(tags)), "");
  EXPECT_NE(findings_of(reach_with_tags(65)).find("65 tags in `hits:`, `spares:` and zones are too many"),
            std::string::npos);
}

TEST(Limits, ATagWithoutABitShutsAFilter) {
  TagNames tags;
  std::vector<std::string> names;
  for (int i = 0; i < 65; ++i) names.push_back("t" + std::to_string(i));
  const Tags all = tags.bits(names);
  EXPECT_EQ(all, ~Tags{0});
  EXPECT_EQ(tags.refused(), 1u);
  const std::vector<std::string> none, last{"t64"}, first{"t0"}, self{"self"};
  EXPECT_TRUE(tags.filter(none, none).takes(1));
  EXPECT_FALSE(tags.filter(last, none).takes(all)) << "an unknown tag is nobody's";
  EXPECT_FALSE(tags.filter(none, last).takes(1)) << "whom it should spare cannot be told";
  EXPECT_TRUE(tags.filter(first, self).takes(1));
  EXPECT_FALSE(tags.filter(self, none).takes(1));
}

TEST(Limits, BoxesOfOneAreAllThere) {
  for (const int before : {62, 63, 64, 200}) {
    MachineBuilder builder("m");
    builder.clip("c", 1, {10, 1}, PlayMode::loop());
    ClipMarksDef& marks = builder.marks("c");
    for (int i = 0; i <= before; ++i) {
      BoxDef box;
      box.name = "b" + std::to_string(i);
      box.role = i == before ? "hit" : "body";
      box.shape = RectShape{0, 0, 32, 32};
      marks.boxes.push_back(box);
    }
    StateDef state;
    state.name = "s";
    state.clip = "c";
    const Compiled compiled = builder.state(state).build();
    ASSERT_TRUE(compiled.machine) << told_by(compiled);
    TagNames tags;
    Contacts contacts(tags);
    Instance instance(*compiled.machine);
    contacts.begin(Ticks(0), milliseconds(10));
    contacts.advance({1, 0, true, {}, {}}, instance, [](const Cue&) {});
    const PlainBox hurt{false, RectShape{0, 0, 16, 16}};
    contacts.add({2, 0, true, {}, {}}, std::span(&hurt, 1));
    int hits = 0;
    contacts.resolve([&](const Hit&) { return ++hits, HitAnswer::lives; });
    EXPECT_EQ(hits, 1) << before;
  }
}

TEST(Limits, TheEdgeOfAConeBelongsToIt) {
  const double kPi = std::acos(-1.0);
  for (const double angle : {30.0, 60.0, 90.0, 120.0, 180.0, 270.0, 359.0}) {
    ReachDef reach;
    reach.shape = ConeShape{0, 0, 320, angle};
    TagNames tags;
    for (int i = 1; i <= 50; ++i)
      for (const int side : {-1, 1}) {
        const double r = i * 0.19;
        std::vector<Target> found;
        const auto at = [&](double degrees) {
          const double radians = side * degrees / 360 * kPi;
          const Candidate one{7, {r * std::cos(radians), r * std::sin(radians)}, 0, 0, true};
          return targets(reach, {}, 32, 1, std::span(&one, 1), tags, found);
        };
        EXPECT_EQ(at(angle), 1u) << angle << " at " << r;
        EXPECT_EQ(at(angle + 0.001), 0u) << angle << " at " << r;
      }
  }
}

TEST(Limits, ForceOnTheWholeMachineLeavesAllRegionsFirst) {
  const Machine machine = machine_of(
      "vars: {n: 1}\nenter: [n = n + 1]\nregions:\n  l: {states: {a: {go: [{when: n > 5, to: b}]}, b: {}}, initial: "
      "a}\n  r: {states: {a: {}}}\n");
  Instance instance(machine);
  std::vector<std::string> log;
  listen(instance, milliseconds(1), log);
  log.clear();
  ASSERT_TRUE(instance.force(*machine.state("")));
  listen(instance, milliseconds(1), log);
  EXPECT_EQ(text_of(log), "1 leave l/a\n1 leave r/a\n1 enter l/a\n1 enter r/a\n");
}

TEST(Limits, NumbersThatAVariableCannotHoldAreRefused) {
  EXPECT_NE(findings_of("vars: {big: 99999999999}\nstates: {a: {}}\n").find("which no whole number holds"),
            std::string::npos);
  for (const char* fits : {"2147483647", "-2147483648", "99999999999.0"})
    EXPECT_EQ(findings_of(std::string("vars: {big: ") + fits + "}\nstates: {a: {go: [{when: big > 1, to: a}]}}\n"), "")
        << fits;
}

TEST(Limits, ACrowdsListStopsTheStepAndLosesNothing) {
  const Machine machine = machine_of(
      "cues: {k: x, l: x}\nclips: {c: {frames: [0-3], fps: 40, play: loop}}\nmarks: {c: {cues: {0: [k, l], 2: k}}}\n"
      "states: {a: {clip: c, speed: 3}}\n");
  const auto all = [&](std::size_t limit) {
    Crowd crowd(machine);
    for (int i = 0; i < 20; ++i) crowd.add();
    CrowdCues cues({}, limit);
    std::vector<std::string> told;
    Advanced part{{}, seconds(0.7), 0, true};
    for (int calls = 0; !part.complete() && calls < 10'000; ++calls) {
      part = crowd.advance(part.left, cues);
      EXPECT_LE(cues.size(), limit);
      EXPECT_EQ(part.needs, 0u);
      for (const CrowdCue& each : cues) told.push_back(std::to_string(each.place) + " " + record(each.cue));
      cues.clear();
    }
    EXPECT_TRUE(part.complete());
    EXPECT_EQ(crowd.now(), seconds(0.7));
    return std::pair(told, crowd.hash());
  };
  const auto whole = all(100'000);
  EXPECT_GT(whole.first.size(), 1000u);
  for (const std::size_t limit : {2u, 3u, 7u, 500u}) EXPECT_EQ(all(limit), whole) << limit;
  Crowd crowd(machine);
  crowd.add();
  CrowdCues one({}, 1);
  const Advanced stuck = crowd.advance(seconds(1), one);
  EXPECT_FALSE(stuck.complete());
  EXPECT_EQ(stuck.needs, 2u) << "two cues of one instant";
}

// A source that has no more.
struct Poor {
  std::size_t left;
  void* allocate(std::size_t bytes, std::size_t alignment) {
    if (bytes > left) return nullptr;
    left -= bytes;
    return ::operator new(bytes, std::align_val_t(alignment));
  }
  void deallocate(void* memory, std::size_t, std::size_t alignment) {
    if (memory != nullptr) ::operator delete(memory, std::align_val_t(alignment));
  }
};

TEST(Limits, ACrowdsListWithoutMemoryStopsToo) {
  const Machine machine = machine_of(
      "cues: {k: x}\nclips: {c: {frames: [0-3], fps: 40, play: loop}}\nmarks: {c: {cues: {0: k}}}\nstates: {a: {clip: "
      "c}}\n");
  Crowd crowd(machine);
  for (int i = 0; i < 200; ++i) crowd.add();
  Poor poor{64 * sizeof(CrowdCue) + 4096};
  CrowdCues cues(&poor);
  std::size_t told = 0;
  Advanced part{{}, seconds(1), 0, true};
  for (int calls = 0; !part.complete() && calls < 10'000; ++calls) {
    part = crowd.advance(part.left, cues);
    told += cues.size();
    cues.clear();
  }
  EXPECT_TRUE(part.complete());
  EXPECT_EQ(told, 200u * 11);
}

// --- packs ----------------------------------------------------------------------------------------------------------

// The pack's format changes only with a new version: bytes as this version wrote them when it was settled.
TEST(Packs, AreWrittenAsTheyAlwaysWere) {
  const Machine machine = machine_of(
      "inputs: {move: {float: 0, min: -1, max: 1}, swing: {pulse: 110ms}, carrying: {one_of: [nothing, net]}, ok: "
      "true, n: 2}\n"
      "cues: {net_out: {kind: damage, amount: 2}, trail: {}}\n"
      "clips: {idle: {frames: [0-3], fps: 5, play: loop}, net: {frames: [0, 1*3, 2], fps: 20}}\n"
      "marks: {net: {pivot: [1, 2], cues: {1: net_out}, spans: {trail: 1-2}, windows: {again: 2}, boxes: [{name: b, "
      "role: hit, rect: [0, 0, 4, 4]}]}}\n"
      "vars: {w: 1.5}\ninitial: stand\nstates:\n  stand: {clip: idle, speed: w, go: [{pulse: swing, when: carrying == "
      "net, to: net, fade: 50ms}]}\n"
      "  net: {clip: net, traits: [busy], enter: [w = w + 1], go: [{pulse: swing, during: again, to: net, restart: "
      "true}, {at: end, to: stand}]}\n");
  const std::vector<std::byte> packed = pack(machine);
  const std::string path = MOBRIN_TESTS "/golden/machine.pack";
  if (std::getenv("MOBRIN_WRITE_GOLDEN") != nullptr)
    std::ofstream(path, std::ios::binary)
        .write(reinterpret_cast<const char*>(packed.data()), static_cast<std::streamsize>(packed.size()));
  std::ifstream in(path, std::ios::binary);
  const std::string golden{std::istreambuf_iterator<char>(in), {}};
  ASSERT_EQ(golden, std::string(reinterpret_cast<const char*>(packed.data()), packed.size()))
      << "The format is another. Raise kVersion in src/pack/pack.cpp, write it into docs/pack.md, and run this test "
         "once "
         "with MOBRIN_WRITE_GOLDEN=1.";
}

TEST(Packs, OfHugeCountsUnderARightChecksumAreRefusedBeforeTheyTakeMemory) {
  const Machine machine = machine_of("vars: {a: 1, b: 2}\nstates: {s: {go: [{when: a > b, to: s}]}}\n");
  const std::vector<std::byte> sound = pack(machine);
  // Every four bytes in turn become a count of a million, with a megabyte behind to make it credible.
  for (std::size_t at = 40; at + 4 < sound.size(); at += 7) {
    std::vector<std::byte> packed = sound;
    packed.resize(1'000'000);
    const std::uint32_t count = 900'000;
    std::memcpy(packed.data() + at, &count, 4);
    const std::uint64_t size = packed.size() - 40;
    std::memcpy(packed.data() + 16, &size, 8);
    detail::Hash hash;
    hash.add(std::span(packed).subspan(32));
    const std::uint64_t checksum = hash.value();
    std::memcpy(packed.data() + 24, &checksum, 8);
    EXPECT_FALSE(load_pack(packed)) << at;
  }
}

}  // namespace
}  // namespace mobrin::test
