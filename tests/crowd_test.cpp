// Crowds: handles, writes that wake or do not, threads, snapshots, single members.
#include "mobrin/core/crowd.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <thread>

#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

Machine hornet() {
  const Loaded loaded = load_character(MOBRIN_DEMO "/hornet.yaml");
  EXPECT_TRUE(loaded.machine) << joined(loaded.findings);
  return *loaded.machine;
}

// Some hornets with different inputs, some time on.
Crowd some_hornets(const Machine& machine, std::uint32_t count, CrowdCues& cues) {
  Crowd crowd(machine);
  for (std::uint32_t i = 0; i < count; ++i) {
    const Member member = crowd.add();
    crowd.set(member, *machine.input<bool>("sees_keeper"), i % 3 == 0);
    crowd.set(member, *machine.input<float>("distance"), static_cast<float>(i % 500));
    if (i % 4 == 0) crowd.advance(milliseconds(7), cues);
  }
  return crowd;
}

void crowd_is_unchanged_by_an_empty_step(Crowd& crowd) {
  CrowdCues cues;
  const std::uint64_t before = crowd.hash();
  crowd.advance(Ticks(0), cues);
  crowd.advance(Ticks(-5), cues);
  EXPECT_EQ(crowd.hash(), before);
  EXPECT_TRUE(cues.empty());
}

TEST(Crowd, AHornetTakes64BytesAtMost) {
  const Crowd crowd(hornet());
  EXPECT_LE(crowd.bytes_per_member(), 64u);
}

TEST(Crowd, WhatWasToldMovesWithItsList) {
  const Machine machine = machine_of(
      "cues: {ping: sound}\ninitial: a\nclips: {c: {frames: [0-1], fps: 10, play: loop}}\n"
      "marks: {c: {cues: {1: ping}}}\nstates: {a: {clip: c}}\n");
  Crowd crowd(machine);
  for (int i = 0; i < 3; ++i) (void)crowd.add();
  CrowdCues first({}, 6);
  crowd.advance(milliseconds(100), first);
  ASSERT_EQ(first.size(), 3U);
  CrowdCues second(std::move(first));
  EXPECT_EQ(second.limit(), 6U);
  crowd.advance(milliseconds(200), second);  // goes on behind what was told
  ASSERT_EQ(second.size(), 6U);
  first = std::move(second);
  ASSERT_EQ(first.size(), 6U);
  for (std::uint32_t i = 0; i < 6; ++i) {
    EXPECT_EQ(first[i].place, i % 3);
    EXPECT_EQ(first[i].cue.at, milliseconds(i < 3 ? 100 : 300));
    EXPECT_EQ(first[i].cue.name(), "ping");
  }
}

TEST(Crowd, HandlesOfThoseGoneAreRefused) {
  const Machine machine = hornet();
  const auto sees = *machine.input<bool>("sees_keeper");
  Crowd crowd(machine);
  const Member first = crowd.add(), second = crowd.add();
  EXPECT_EQ(crowd.size(), 2u);
  EXPECT_TRUE(crowd.remove(first));
  EXPECT_FALSE(crowd.remove(first));
  EXPECT_EQ(crowd.set(first, sees, true), Written::refused);
  EXPECT_EQ(crowd.pulse(first, *machine.pulse("dive")), Written::refused);
  EXPECT_EQ(crowd.active(first), kNoIndex);
  EXPECT_FALSE(crowd.copy(first));
  EXPECT_EQ(crowd.at(first.place), Member{});
  // Bulk writes to a free place, and beyond all places, do nothing.
  EXPECT_EQ(crowd.set(std::vector<std::uint32_t>{0, 77}, sees, std::array{true, true}), 0u);
  EXPECT_TRUE(crowd.pulse(std::vector<std::uint32_t>{0, 77}, *machine.pulse("dive")));
  CrowdCues cues;
  crowd.advance(milliseconds(500), cues);
  std::array<CrowdShown, 2> shown;
  EXPECT_EQ(crowd.shown_all(shown), 2u);
  EXPECT_EQ(shown[0].clip, kNoIndex);
  EXPECT_NE(shown[1].clip, kNoIndex);

  const Member third = crowd.add();  // takes the place over
  EXPECT_EQ(third.place, first.place);
  EXPECT_NE(third.generation, first.generation);
  EXPECT_FALSE(crowd.has(first));
  EXPECT_EQ(crowd.places(), 2u);
  EXPECT_EQ(std::get<bool>(crowd.input_value(third, 1)), false);
  // It begins at the crowd's now.
  EXPECT_EQ(crowd.next_wake(), crowd.now());
  crowd.advance(milliseconds(1), cues);
  EXPECT_EQ(machine.states()[crowd.active(third)].path, "body/hover");
  EXPECT_TRUE(crowd.has(second));
}

TEST(Crowd, HandlesAndValuesOfOthersAreRefused) {
  const Machine machine = hornet(), other = hornet();
  Crowd crowd(machine);
  const Member member = crowd.add();
  EXPECT_EQ(crowd.set(member, *other.input<bool>("sees_keeper"), true), Written::refused);
  EXPECT_EQ(crowd.set_all(*other.input<bool>("sees_keeper"), std::array{true}), 1u);
  EXPECT_FALSE(crowd.pulse(std::vector<std::uint32_t>{0}, *other.pulse("dive")));
  EXPECT_EQ(crowd.set_all(*machine.input<float>("distance"), std::array{NAN}), 1u);
  EXPECT_EQ(crowd.set(member, *machine.input<float>("distance"), 1e9f), Written::clamped);
  EXPECT_FALSE(crowd.set_rate(member, -1));
  EXPECT_FALSE(crowd.freeze(member, seconds(60)));
  EXPECT_FALSE(crowd.in(member, *other.state("body/hover")));
}

TEST(Crowd, CountsWhoIsInWhichState) {
  const Machine machine = hornet();
  Crowd crowd(machine);
  std::vector<Member> all;
  for (int i = 0; i < 10; ++i) all.push_back(crowd.add());
  CrowdCues cues;
  std::vector<std::uint32_t> counts(machine.states().size());
  EXPECT_EQ(crowd.count_active(0, 100, counts), 10u);
  EXPECT_EQ(counts, std::vector<std::uint32_t>(counts.size())) << "nobody has begun";
  crowd.advance(milliseconds(1), cues);
  crowd.pulse(all[3], *machine.pulse("stunned"));
  crowd.remove(all[4]);
  crowd.advance(milliseconds(1), cues);
  EXPECT_EQ(crowd.count_active(0, 100, counts), 9u);
  const auto of = [&](const char* path) { return counts[machine.state(path)->index]; };
  EXPECT_EQ(of("body/hover"), 8u);
  EXPECT_EQ(of("body/stunned"), 1u);
  EXPECT_EQ(of("wings/buzz"), 9u);
  EXPECT_EQ(crowd.count_active(3, 5, counts), 1u) << "added to what was there";
  EXPECT_EQ(of("body/stunned"), 2u);
  EXPECT_EQ(crowd.count_active(0, 10, std::span(counts).first(1)), 9u) << "as far as there is room";
}

// Members that begin with their inputs as the machine has them are begun by a copy of one that did: it must be what an
// instance comes to, whenever and beside whomever it begins.
void begins_as_an_instance(const std::string& text) {
  const Machine machine = machine_of(text);
  const auto far = *machine.input<bool>("far");
  Crowd crowd(machine, {kAllRecords});
  std::vector<Instance> alone;
  CrowdCues cues;
  static std::vector<Cue> memory(1'000);
  CueBuffer list(memory, kAllRecords);
  for (int step = 0; step < 40; ++step) {
    const Member member = crowd.add();
    alone.emplace_back(machine, InstanceOptions{0, crowd.now()});
    if (step % 3 == 1) {
      crowd.set(member, far, true);
      alone.back().set(far, true);
    }
    cues.clear();
    ASSERT_TRUE(crowd.advance(milliseconds(step % 4 * 37), cues).complete());
    std::vector<std::string> expected, told;
    for (const CrowdCue& each : cues) told.push_back(std::to_string(each.place) + " " + record(each.cue));
    for (std::size_t i = 0; i < alone.size(); ++i) {
      list.clear();
      ASSERT_TRUE(alone[i].advance(milliseconds(step % 4 * 37), list).complete());
      for (const Cue& each : list) expected.push_back(std::to_string(i) + " " + record(each));
      ASSERT_EQ(crowd.copy(crowd.at(static_cast<std::uint32_t>(i)))->hash(), alone[i].hash()) << text << step;
    }
    ASSERT_EQ(told, expected) << text << step;
  }
}
TEST(Crowd, BeginsAsAnInstanceDoes) {
  const std::string head =
      "inputs: {far: false}\ncues: {hum: sound}\nclips: {fan: {frames: [0-3], fps: 8, play: loop}}\n"
      "marks: {fan: {cues: {0: hum, 2: hum}}}\n";
  begins_as_an_instance(head +
                        "states: {a: {clip: fan, enter: [{tell: hum}], go: [{when: far, to: b}]}, b: {}}\ninitial: a");
  // A way on that is taken at once, and one that hangs on the clock.
  begins_as_an_instance(head + "states: {a: {go: [{to: b}]}, b: {clip: fan, go: [{after: 90ms, to: a}]}}\ninitial: a");
  begins_as_an_instance(head + "states: {a: {go: [{to: b, start: clock}]}, b: {clip: fan}}\ninitial: a");
  // More is told than is kept of a beginning.
  std::string many = "states: {a: {enter: [";
  for (int i = 0; i < 90; ++i) many += "{tell: hum}, ";
  begins_as_an_instance(head + many + "{tell: hum}], clip: fan, go: [{when: far, to: b}]}, b: {}}\ninitial: a");
}

TEST(Crowd, AFullListStopsBeforeSomebodyBegins) {
  const Machine machine = machine_of(
      "inputs: {far: false}\ncues: {hum: sound}\nstates: {a: {enter: [{tell: hum}, {tell: hum}], go: [{when: far, to: "
      "a}]}}");
  Crowd crowd(machine);
  for (int i = 0; i < 3; ++i) crowd.add();
  CrowdCues cues({}, 5), narrow({}, 1);
  Advanced part = crowd.advance(milliseconds(1), narrow);
  EXPECT_FALSE(part.complete());
  EXPECT_EQ(part.needs, 2u);
  part = crowd.advance(part.left, cues);
  EXPECT_EQ(cues.size(), 4u);
  EXPECT_FALSE(part.complete());
  cues.clear();
  EXPECT_TRUE(crowd.advance(part.left, cues).complete());
  ASSERT_EQ(cues.size(), 2u);
  EXPECT_EQ(cues[0].place, 2u);
  EXPECT_EQ(cues[1].cue.ordinal, 2u) << "after the state was entered";
}

// What a game does to one of many: hit-stop, slow motion, starting anew, in the middle of telling its cues.
TEST(Crowd, OneMemberIsSlowedFrozenAndReset) {
  const Machine machine = machine_of(
      "cues: {hum: {}}\nclips: {fly: {frames: [0-3], fps: 8, play: loop}}\nmarks: {fly: {cues: {1: hum}}}\n"
      "states: {a: {clip: fly, traits: [busy]}}");
  Crowd crowd(machine);
  for (int i = 0; i < 4; ++i) crowd.add();
  CrowdCues cues;
  crowd.advance(milliseconds(1200), cues);  // all have told three by now
  EXPECT_EQ(cues.size(), 12u);
  EXPECT_TRUE(crowd.set_rate(crowd.at(1), 0.5));
  EXPECT_TRUE(crowd.freeze(crowd.at(2), milliseconds(100)));
  EXPECT_TRUE(crowd.reset(crowd.at(3)));
  cues.clear();
  crowd.advance(milliseconds(1000), cues);
  std::vector<std::string> told;
  for (const CrowdCue& each : cues) told.push_back(std::to_string(each.place) + " " + line(each.cue));
  EXPECT_EQ(told, (std::vector<std::string>{"0 1625 hum fly:1", "0 2125 hum fly:1", "1 2050 hum fly:1",
                                            "2 1725 hum fly:1", "3 1325 hum fly:1", "3 1825 hum fly:1"}));
  EXPECT_TRUE(crowd.in(crowd.at(3), *machine.state("a")));
  EXPECT_TRUE(crowd.is(crowd.at(3), *machine.trait("busy")));
  EXPECT_EQ(crowd.copy(crowd.at(1))->rate(), 0.5);
}

TEST(Crowd, ALongStepTellsWhatManyShortOnesDo) {
  const Machine machine = hornet();
  CrowdCues cues;
  Crowd whole = some_hornets(machine, 60, cues), cut = some_hornets(machine, 60, cues);
  CrowdCues one, many;
  whole.advance(seconds(30), one);
  for (int i = 0; i < 3000; ++i) cut.advance(milliseconds(10), many);
  const auto lines = [](const CrowdCues& list) {
    std::vector<std::string> out;
    for (const CrowdCue& each : list) out.push_back(std::to_string(each.place) + record(each.cue));
    std::sort(out.begin(), out.end());
    return out;
  };
  EXPECT_GT(one.size(), 10u);
  EXPECT_EQ(lines(many), lines(one));
  EXPECT_EQ(whole.hash(), cut.hash());
  EXPECT_EQ(whole.now(), cut.now());
  crowd_is_unchanged_by_an_empty_step(whole);
}

TEST(Crowd, ThoseDoneAreToldAndTheirPlacesReused) {
  const Machine machine = hornet();
  CrowdCues cues;
  Crowd crowd = some_hornets(machine, 40, cues);
  const std::vector<std::uint32_t> places{3, 5, 7};
  crowd.advance(milliseconds(100), cues);
  for (int hit = 0; hit < 2; ++hit) {
    crowd.pulse(places, *machine.pulse("stunned"));
    crowd.advance(milliseconds(100), cues);
  }
  cues.clear();
  crowd.advance(seconds(2), cues);
  std::vector<std::uint32_t> done;
  for (const CrowdCue& each : cues)
    if (each.cue.what == Told::done) done.push_back(each.place);
  EXPECT_EQ(done, places);
  EXPECT_EQ(crowd.remove_done(cues), 3u);
  EXPECT_EQ(crowd.remove_done(cues), 0u);
  EXPECT_EQ(crowd.size(), 37u);
  EXPECT_EQ(crowd.add().place, 7u);  // the last one freed first
}

TEST(Crowd, RangesOnThreadsTellTheSame) {
  const Machine machine = hornet();
  CrowdCues warm;
  Crowd whole = some_hornets(machine, 1003, warm), parts = some_hornets(machine, 1003, warm);
  ASSERT_EQ(whole.hash(), parts.hash());
  constexpr std::uint32_t kParts = 5;
  for (int step = 0; step < 60; ++step) {
    for (Crowd* crowd : {&whole, &parts})
      for (std::uint32_t i = static_cast<std::uint32_t>(step); i < 1003; i += 17)
        crowd->set(crowd->at(i), *machine.input<float>("distance"), static_cast<float>((i * 7 + step * 13) % 400));
    CrowdCues all;
    whole.advance(milliseconds(16), all);
    std::array<CrowdCues, kParts> lists;
    parts.begin_step(milliseconds(16));
    std::vector<std::thread> threads;
    for (std::uint32_t p = 0; p < kParts; ++p)
      threads.emplace_back([&, p] { parts.advance_range(p * 1003 / kParts, (p + 1) * 1003 / kParts, lists[p]); });
    for (std::thread& thread : threads) thread.join();
    parts.end_step();
    std::vector<std::string> expected, told;
    for (const CrowdCue& each : all) expected.push_back(std::to_string(each.place) + record(each.cue));
    for (const CrowdCues& list : lists)
      for (const CrowdCue& each : list) told.push_back(std::to_string(each.place) + record(each.cue));
    ASSERT_EQ(told, expected);
    ASSERT_EQ(whole.hash(), parts.hash());
  }
}

TEST(Crowd, ASnapshotBringsEverythingBack) {
  const Machine machine = hornet();
  CrowdCues cues;
  Crowd crowd = some_hornets(machine, 50, cues);
  crowd.remove(crowd.at(9));
  std::vector<std::byte> snapshot;
  crowd.snapshot(snapshot);
  EXPECT_EQ(snapshot.size(), crowd.snapshot_size());
  const std::uint64_t before = crowd.hash();
  const auto run = [&] {
    std::vector<std::string> told;
    cues.clear();
    const Member added = crowd.add();
    EXPECT_EQ(added.place, 9u);
    crowd.pulse(crowd.at(4), *machine.pulse("stunned"));
    for (int i = 0; i < 30; ++i) crowd.advance(milliseconds(16), cues);
    for (const CrowdCue& each : cues) told.push_back(std::to_string(each.place) + record(each.cue));
    return told;
  };
  const auto first = run();
  EXPECT_GT(first.size(), 10u);
  const std::uint64_t after = crowd.hash();
  EXPECT_NE(before, after);
  ASSERT_TRUE(crowd.restore(snapshot));
  EXPECT_EQ(crowd.hash(), before);
  EXPECT_EQ(crowd.size(), 49u);
  EXPECT_EQ(run(), first);
  EXPECT_EQ(crowd.hash(), after);
  // Another crowd of the machine takes it as well; cut or empty bytes are refused and change nothing.
  Crowd other(machine);
  EXPECT_FALSE(other.restore(std::span(snapshot).first(snapshot.size() - 1)));
  EXPECT_FALSE(other.restore({}));
  EXPECT_EQ(other.places(), 0u);
  ASSERT_TRUE(other.restore(snapshot));
  EXPECT_EQ(other.hash(), before);
}

TEST(Crowd, SendingWhatChangedIsEnough) {
  const Machine machine = hornet();
  CrowdCues cues;
  Crowd here = some_hornets(machine, 200, cues);
  Crowd there(machine);
  std::vector<std::byte> snapshot, bytes(here.member_size());
  here.snapshot(snapshot);
  ASSERT_TRUE(there.restore(snapshot));
  std::vector<std::uint32_t> changed;
  for (int step = 0; step < 20; ++step) {
    here.pulse(std::vector<std::uint32_t>{static_cast<std::uint32_t>(step)}, *machine.pulse("stunned"));
    if (step == 10) here.remove(here.at(33));
    if (step == 15) here.add();
    here.advance(milliseconds(16), cues);
    ASSERT_TRUE(here.changed_since(snapshot, changed));
    EXPECT_LT(changed.size(), 100u);
    there.advance(milliseconds(16), cues);
    for (const std::uint32_t place : changed) {
      ASSERT_TRUE(here.member_bytes(place, bytes));
      ASSERT_TRUE(there.put_member_bytes(place, bytes));
    }
    ASSERT_EQ(there.hash(), here.hash()) << step;
    ASSERT_EQ(there.size(), here.size());
    here.snapshot(snapshot);
  }
  EXPECT_FALSE(there.put_member_bytes(0, std::span(bytes).first(3)));
  EXPECT_FALSE(there.put_member_bytes(9999, bytes));
  EXPECT_FALSE(here.member_bytes(9999, bytes));
  EXPECT_FALSE(here.changed_since({}, changed));
}

}  // namespace
}  // namespace mobrin::test
