// A step allocates nothing: every allocation of this program is counted.
#include <gtest/gtest.h>

#include <array>
#include <cstdlib>
#include <new>

#include "made_machine.hpp"
#include "mobrin/c/mobrin.h"
#include "mobrin/contact/arena.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/core/router.hpp"
#include "mobrin/pack/pack.hpp"

namespace {
long allocations = 0;
void* counted(std::size_t size) {
  ++allocations;
  void* memory = std::malloc(size);
  if (memory == nullptr) std::abort();
  return memory;
}
}  // namespace

void* operator new(std::size_t size) { return counted(size); }
void* operator new[](std::size_t size) { return counted(size); }
void* operator new(std::size_t size, std::align_val_t alignment) {
  ++allocations;
  const auto to = static_cast<std::size_t>(alignment);
  void* memory = std::aligned_alloc(to, (size + to - 1) / to * to);
  if (memory == nullptr) std::abort();
  return memory;
}
void operator delete(void* memory, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete[](void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete[](void* memory, std::size_t) noexcept { std::free(memory); }

namespace mobrin::test {
namespace {

TEST(Allocation, TheCounterCounts) {
  const long before = allocations;
  int* volatile one = new int(1);  // volatile, so that no compiler leaves the pair out
  delete one;
  struct alignas(64) Wide {
    char bytes[64];
  };
  Wide* volatile wide = new Wide;
  delete wide;
  EXPECT_EQ(allocations, before + 2);
}

TEST(Allocation, AStepAllocatesNothing) {
  std::uint64_t told = 0;
  std::uint32_t from = 0;
  for (int more = 100; more > 0; --more) {
    const SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    const Machine& machine = subject.machine;
    const auto v = *machine.input<float>("v");
    const auto n = *machine.input<std::int32_t>("n");
    const auto p = *machine.pulse("p");
    Router router(machine);
    ASSERT_TRUE(router.on_kind("kind", [&](const Cue& cue) { told += cue.number("amount").has_value() ? 1 : 0; }));
    Instance instance(machine);
    CueList<8> cues;
    const long before = allocations;
    for (int i = 0; i < 60; ++i) {
      instance.set(v, static_cast<float>(i % 7) - 3);
      instance.set(n, i % 3);
      if (i % 5 == 0) instance.pulse(p);
      instance.advance(milliseconds(16), router);
      static_cast<void>(instance.advance(milliseconds(1), cues));
      cues.clear();
      told += instance.shown().nothing() ? 0 : 1;
      if (i == 30) instance.freeze(milliseconds(5));
      if (i == 40) instance.reset();
    }
    EXPECT_EQ(allocations, before) << "seed " << seed;
  }
  EXPECT_GT(told, 1000u);
}

TEST(Allocation, AStepOfACrowdAllocatesNothing) {
  std::size_t told = 0;
  std::uint32_t from = 0;
  for (int more = 60; more > 0; --more) {
    const SoundMachine subject = next_sound(from);
    const std::uint32_t seed = subject.seed;
    const Machine& machine = subject.machine;
    const auto v = *machine.input<float>("v");
    Crowd crowd(machine);
    CrowdCues cues;
    crowd.reserve(50);
    cues.reserve(200'000);
    std::array<float, 50> values{};
    std::array<CrowdShown, 50> shown;
    std::vector<std::byte> snapshot;
    snapshot.reserve(100'000);
    for (int i = 0; i < 50; ++i) crowd.add();
    crowd.advance(Ticks(0), cues);
    const long before = allocations;
    for (int i = 0; i < 30; ++i) {
      values[static_cast<std::size_t>(i)] = static_cast<float>(i % 7) - 3;
      crowd.set_all(v, values);
      cues.clear();
      crowd.advance(milliseconds(16), cues);
      crowd.shown_all(shown);
      crowd.snapshot(snapshot);
      told += cues.size();
      if (i == 20) crowd.remove(crowd.at(7));
      if (i == 22) crowd.add();
    }
    EXPECT_EQ(allocations, before) << "seed " << seed;
  }
  EXPECT_GT(told, 1000u);
}

TEST(Allocation, ContactsAllocateNothingOnceTheyHaveGrown) {
  TagNames tags;
  Contacts contacts(tags);
  std::array<PlainBox, 2> boxes{PlainBox{true, CircleShape{0, 0, 32}, 32},
                                PlainBox{false, RectShape{-16, 0, 32, 32}, 32}};
  long before = 0, hits = 0;
  for (std::uint32_t step = 0; step < 3000; ++step) {
    if (step == 2000) before = allocations;
    boxes[0].swing = step / 10;  // a new swing now and then, so that old ones are forgotten
    contacts.begin(Ticks(0), milliseconds(16));
    for (std::uint32_t i = 0; i < 12; ++i) {
      Participant who{i};
      who.from.at = who.to.at = {0.3 * i, 0};
      contacts.add(who, boxes);
    }
    contacts.resolve([&](const Hit&) { return ++hits, HitAnswer::lives; });
  }
  EXPECT_GT(hits, 10'000);
  EXPECT_EQ(allocations, before);
}

// A step of an arena with hits, a zone that is entered and left, and members of a crowd.
TEST(Allocation, AnArenaAllocatesNothingInSteadyState) {
  MachineDef def;
  def.name = "swinger";
  def.unit = 10;
  ClipDef clip;
  clip.name = "swing";
  clip.fps = {10, 1};
  clip.frames.resize(4);
  clip.play = PlayMode::loop();
  def.clips.push_back(clip);
  ClipMarksDef marks;
  marks.clip = "swing";
  BoxDef body, net;
  body.name = "body";
  body.role = "hurt";
  body.shape = RectShape{-5, 0, 10, 20};
  net.name = "net";
  net.role = "hit";
  net.shape = RectShape{0, 0, 25, 10};
  net.every = milliseconds(150);
  marks.boxes = {body, net};
  def.marks.push_back(marks);
  def.inputs.push_back({"near", BoolInput{}});
  ZoneDef zone;
  zone.name = "around";
  zone.shape = CircleShape{0, 0, 15};
  zone.inside = "near";
  def.zones.push_back(zone);
  StateDef state;
  state.name = "swing";
  state.clip = "swing";
  def.root.states.push_back(state);
  const Compiled compiled = compile(def);
  ASSERT_TRUE(compiled.machine);
  struct Game : ArenaGame {
    HitAnswer hit(const Hit&) override { return ++hits, HitAnswer::lives; }
    void zone(const ZoneEvent&) override { ++visits; }
    int hits = 0, visits = 0;
  } game;
  Crowd crowd(*compiled.machine);
  std::vector<Member> members;
  std::vector<Instance> alone;
  for (int i = 0; i < 4; ++i) {
    members.push_back(crowd.add());
    alone.emplace_back(*compiled.machine);
  }
  TagNames tags;
  Arena arena(tags);
  Ticks now{};
  const auto step = [&] {
    const Ticks to = now + milliseconds(16);
    arena.begin(now, to);
    const auto at = [&](std::uint32_t i, Ticks when) {
      const double there = static_cast<double>((when.count / milliseconds(16).count + i * 5) % 40);
      return Placement{{there < 20 ? there * 0.2 : (40 - there) * 0.2, 0}};
    };
    for (std::uint32_t i = 0; i < 4; ++i) {
      (void)arena.add({i, 0, true, at(i, now), at(i, to)}, alone[i]);
      (void)arena.add({i + 4, 0, true, at(i + 4, now), at(i + 4, to)}, crowd, members[i]);
    }
    (void)arena.run(game);
    now = to;
  };
  for (int i = 0; i < 200; ++i) step();
  const int hits = game.hits, visits = game.visits;
  const long before = allocations;
  for (int i = 0; i < 200; ++i) step();
  EXPECT_EQ(allocations, before);
  EXPECT_GT(game.hits, hits + 50);
  EXPECT_GT(game.visits, visits + 50);
}

// By way of C: an instance, a crowd, and an arena with boxes of what is no machine.
TEST(Allocation, AStepInCAllocatesNothing) {
  std::uint32_t from = 0;
  const Machine machine = next_sound(from).machine;
  const std::vector<std::byte> packed = pack(machine);
  mobrin_machine* const same = mobrin_machine_from_pack(packed.data(), packed.size(), 0, nullptr);
  ASSERT_NE(same, nullptr);
  const long none = allocations;
  mobrin_instance* const it = mobrin_instance_new(same, nullptr);
  ASSERT_GT(allocations, none);  // what the library allocates is counted too
  mobrin_cues* const cues = mobrin_cues_new(2000, MOBRIN_ALL_RECORDS);
  mobrin_crowd* const crowd = mobrin_crowd_new(same, nullptr);
  mobrin_crowd_cues* const told = mobrin_crowd_cues_new(0);
  (void)mobrin_crowd_cues_reserve(told, 20'000);
  for (int i = 0; i < 20; ++i) (void)mobrin_crowd_add(crowd);
  mobrin_tags* const tags = mobrin_tags_new();
  mobrin_arena* const arena = mobrin_arena_new(tags, 0);
  mobrin_arena_game game;
  mobrin_init(game);
  int hits = 0;
  game.context = &hits;
  game.hit = [](void* context, const mobrin_hit*) { return ++*static_cast<int*>(context), 0; };
  const mobrin_id number = mobrin_input_id(same, "v", mobrin_float, nullptr);
  const mobrin_id pulse = mobrin_input_id(same, "p", mobrin_pulse, nullptr);
  const auto step = [&](int at) {
    (void)mobrin_set_float(it, number, static_cast<float>(at % 5));
    (void)mobrin_press(it, pulse);
    mobrin_cues_clear(cues);
    (void)mobrin_advance(it, mobrin_seconds(1.0 / 60), cues, nullptr);
    mobrin_picture picture;
    mobrin_init(picture);
    (void)mobrin_picture_now(it, 0, 0, &picture);
    (void)mobrin_crowd_write_all_float(crowd, number, static_cast<float>(at % 5));
    mobrin_crowd_cues_clear(told);
    (void)mobrin_crowd_advance(crowd, mobrin_seconds(1.0 / 60), told, nullptr);
    mobrin_arena_begin(arena, mobrin_step_end(at, 60), mobrin_step_end(at + 1, 60));
    for (std::uint32_t id = 1; id <= 4; ++id) {
      mobrin_participant who;
      mobrin_init(who);
      who.id = id;
      who.alive = 1;
      who.from.scale = who.to.scale = 1;
      mobrin_plain_box box;
      mobrin_init(box);
      box.hits = id == 1 ? 1 : 0;
      box.unit = 32;
      box.shape.half_width = box.shape.half_height = 8;
      box.swing = static_cast<std::uint32_t>(at);
      ASSERT_EQ(mobrin_arena_add_boxes(arena, &who, &box, 1), 1);
    }
    (void)mobrin_arena_run(arena, &game);
  };
  for (int at = 0; at < 700; ++at) step(at);
  const long before = allocations;
  for (int at = 700; at < 900; ++at) step(at);
  EXPECT_EQ(allocations, before);
  EXPECT_GT(hits, 600);
  mobrin_arena_free(arena);
  mobrin_tags_free(tags);
  mobrin_crowd_cues_free(told);
  mobrin_crowd_free(crowd);
  mobrin_cues_free(cues);
  mobrin_instance_free(it);
  mobrin_machine_free(same);
}

}  // namespace
}  // namespace mobrin::test
