// Crowds: what is written to members, whom it wakes, and what many do that are written to alike.
#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <functional>
#include <numeric>
#include <random>

#include "mobrin/core/crowd.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

TEST(Crowd, AWriteWakesOnlyWhereSomethingActiveCouldChange) {
  const Loaded loaded = load_character(MOBRIN_DEMO "/hornet.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const Machine& machine = *loaded.machine;
  const auto distance = *machine.input<float>("distance");
  const auto sees = *machine.input<bool>("sees_keeper");
  Crowd crowd(machine);
  const Member member = crowd.add();
  CrowdCues cues;
  crowd.advance(milliseconds(10), cues);
  const auto wakes = [&] {
    const bool due = crowd.next_wake() == crowd.now();
    crowd.advance(milliseconds(10), cues);
    return due;
  };
  EXPECT_FALSE(wakes());
  crowd.set(member, distance, 300.0f);  // hovering compares it with 160
  EXPECT_FALSE(wakes());
  crowd.set(member, distance, 161.0f);
  EXPECT_FALSE(wakes());
  crowd.set(member, distance, 159.0f);  // near enough, but it sees nobody
  EXPECT_FALSE(wakes());
  crowd.set(member, sees, true);
  EXPECT_TRUE(wakes());
  EXPECT_EQ(machine.states()[crowd.active(member)].path, "body/notice");
  crowd.set(member, distance, 190.0f);  // and noticing with 200
  EXPECT_FALSE(wakes());
  crowd.set(member, distance, 200.0f);  // on it, and it is not above
  EXPECT_FALSE(wakes());
  crowd.pulse(member, *machine.pulse("dive"));
  EXPECT_TRUE(wakes());
  EXPECT_EQ(machine.states()[crowd.active(member)].path, "body/dive");
  crowd.set(member, sees, false);  // a dive looks at nothing
  crowd.set(member, distance, 20.0f);
  EXPECT_FALSE(wakes());
}

TEST(Crowd, AnInputThatPlaysFollowWakesWhereTheRoundedSpeedChanges) {
  const Machine machine = machine_of(
      "inputs: {pace: {float: 1}}\ncues: {step: {}}\nclips: {walk: {frames: [0-3], fps: 4, play: loop}}\n"
      "marks: {walk: {cues: {2: step}}}\nstates: {walk: {clip: walk, speed: pace}}");
  Crowd crowd(machine);
  const Member member = crowd.add();
  CrowdCues cues;
  crowd.advance(milliseconds(250), cues);
  crowd.set(member, *machine.input<float>("pace"), 1.0000001f);  // the same in 65536ths
  EXPECT_GT(crowd.next_wake(), crowd.now());
  crowd.set(member, *machine.input<float>("pace"), 2.0f);
  EXPECT_EQ(crowd.next_wake(), crowd.now());
  crowd.advance(seconds(1), cues);
  ASSERT_EQ(cues.size(), 2u);
  EXPECT_EQ(cues[0].cue.at, milliseconds(375));  // a quarter at full pace, a quarter at twice the pace
  EXPECT_EQ(cues[1].cue.at, milliseconds(875));
}

// Writes that change nothing, also at the very instants at which clips come round or cues lie.
TEST(Crowd, AWriteAtAnEdgeOfTheClipLosesNothing) {
  const Machine machine = machine_of(
      "inputs: {near: {float: 0}}\ncues: {hum: {}}\nclips: {fly: {frames: [0-3], fps: 8, play: loop}}\n"
      "marks: {fly: {cues: {1: hum}}}\nstates: {a: {clip: fly, go: [{when: near > 5, to: b}]}, b: {}}\ninitial: a");
  const auto near = *machine.input<float>("near");
  Crowd crowd(machine);
  const Member member = crowd.add();
  CrowdCues cues;
  std::vector<std::string> told;
  for (int step = 0; step < 40; ++step) {
    crowd.set(member, near, step % 2 == 0 ? 5.0f : 4.0f);  // on the threshold: it is looked at, nothing is taken
    cues.clear();
    crowd.advance(milliseconds(62) + Ticks(kTicksPerSecond / 2000), cues);  // an eighth of the clip
    for (const CrowdCue& each : cues) told.push_back(line(each.cue));
  }
  EXPECT_EQ(told, (std::vector<std::string>{"125 hum fly:1", "625 hum fly:1", "1125 hum fly:1", "1625 hum fly:1",
                                            "2125 hum fly:1"}));
}

// Which writes wake a member whose only transition waits for a guard.
struct GuardRow {
  const char* name;
  const char* guard;
  float before, quiet, loud;  // from `before` to `quiet` nothing can come of it; on to `loud` something can
};
class Guards : public testing::TestWithParam<GuardRow> {};
TEST_P(Guards, WakeOnlyWhereTheyComeToHold) {
  const GuardRow& row = GetParam();
  const Machine machine = machine_of("inputs: {x: {float: 0}, on: true}\nstates: {a: {go: [{when: \"" +
                                     std::string(row.guard) + "\", to: b}]}, b: {}}\ninitial: a");
  const auto x = *machine.input<float>("x");
  Crowd crowd(machine);
  const Member one = crowd.add(), all = crowd.add();
  CrowdCues cues;
  crowd.set_all(x, std::array{row.before, row.before});
  crowd.advance(milliseconds(1), cues);
  ASSERT_EQ(machine.states()[crowd.active(one)].path, "a");
  crowd.set(one, x, row.quiet);
  EXPECT_GT(crowd.next_wake(), crowd.now()) << "quiet";
  crowd.set_all(x, std::array{row.quiet, row.quiet});
  EXPECT_GT(crowd.next_wake(), crowd.now()) << "quiet, all at once";
  crowd.advance(milliseconds(1), cues);
  crowd.set(std::array{all.place}, x, std::array{row.loud});
  EXPECT_EQ(crowd.next_wake(), crowd.now()) << "loud";
}
INSTANTIATE_TEST_SUITE_P(
    Crowd, Guards,
    testing::Values(GuardRow{"less", "x < -5", 9, -4, -6}, GuardRow{"at_most", "x <= -5", 9, -4, -5},
                    GuardRow{"turned_round", "7 < x", 3, 6, 8}, GuardRow{"absolute", "abs(x) > 4", 3, -3, -5},
                    GuardRow{"two", "x > 10 or x < -10", 0, 9, -11},
                    GuardRow{"three", "x == 20 or x == 30 or x == 40", 1, 41, 30},
                    GuardRow{"with_another", "x > 3 and on", 0, 2, 4}, GuardRow{"past_one", "x > 3 and x < 5", 0, 9, 4},
                    GuardRow{"computed", "x * 2 > 100", 1, 2, 51}),
    [](const auto& row) { return std::string(row.param.name); });

// A write that chooses a pose's clip and crosses a threshold without making a guard hold.
TEST(Crowd, APoseFollowsItsInputWhateverElseReadsIt) {
  const Machine machine = machine_of(
      "inputs: {way: {one_of: [left, right, up]}, far: true}\n"
      "clips: {l: {frames: [0], fps: 1}, r: {frames: [1], fps: 1}, u: {frames: [2], fps: 1}}\n"
      "states: {a: {pose: {clip: {by: way, left: l, right: r, up: u}, frame: 0}, "
      "go: [{when: way == right and not far, to: b}]}, b: {}}\ninitial: a");
  Crowd crowd(machine);
  Instance alone(machine);
  const Member member = crowd.add();
  CrowdCues cues;
  CueList<8> list;
  crowd.advance(milliseconds(1), cues);
  (void)alone.advance(milliseconds(1), list);
  const auto way = *machine.input<Choice>("way");
  for (const std::uint8_t choice : {1, 2, 0, 1, 0}) {
    crowd.set(member, way, Choice{choice});
    alone.set(way, Choice{choice});
    crowd.advance(milliseconds(1), cues);
    (void)alone.advance(milliseconds(1), list);
    EXPECT_EQ(crowd.shown(member).clip, alone.shown().clip) << int{choice};
    EXPECT_EQ(machine.clips()[crowd.shown(member).clip].def.name.text, std::string(1, "lru"[choice]));
  }
}
TEST(Crowd, EveryKindOfInputIsWrittenInBulk) {
  const Machine machine = machine_of(
      "inputs: {on: false, count: {int: 0, min: 0, max: 5}, way: {one_of: [left, right, up]}, pace: {float: 0, grain: "
      "0.5}}\n"
      "states: {a: {}}");
  Crowd crowd(machine);
  for (int i = 0; i < 3; ++i) crowd.add();
  const auto on = *machine.input<bool>("on");
  const auto count = *machine.input<std::int32_t>("count");
  const auto way = *machine.input<Choice>("way");
  const auto pace = *machine.input<float>("pace");
  EXPECT_EQ(crowd.set_all(on, std::array{true, false, true}), 0u);
  EXPECT_EQ(crowd.set_all(count, std::array{3, 9}), 0u);
  EXPECT_EQ(crowd.set_all(way, std::array{Choice{2}, Choice{3}, Choice{1}}), 1u);  // there is no fourth
  EXPECT_EQ(crowd.set_all(pace, std::array{0.7f, -0.2f, NAN}), 1u);
  EXPECT_EQ(crowd.set(std::array<std::uint32_t, 2>{2, 0}, count, std::array{4, 1}), 0u);
  const auto values = [&](std::uint32_t place) {
    std::string out;
    for (std::uint16_t i = 0; i < 4; ++i) {
      const FieldValue value = crowd.input_value(crowd.at(place), i);
      if (const auto* flag = std::get_if<bool>(&value)) out += *flag ? "on " : "off ";
      if (const auto* whole = std::get_if<std::int64_t>(&value)) out += std::to_string(*whole) + " ";
      if (const auto* words = std::get_if<std::string>(&value)) out += *words + " ";
      if (const auto* number = std::get_if<double>(&value)) out += std::to_string(*number).substr(0, 3);
    }
    return out;
  };
  EXPECT_EQ(values(0), "on 1 up 0.5");
  EXPECT_EQ(values(1), "off 5 left 0.0");
  EXPECT_EQ(values(2), "on 4 right 0.0");
}

// Who told what, with its number.
std::string numbered(std::uint32_t place, const Cue& cue) {
  return std::to_string(place) + " " + record(cue) + " " + std::to_string(cue.ordinal);
}

// What many members tell that are all written to in the same way, and a list too short for it.
class Bees {
 public:
  explicit Bees(std::size_t limit) : cues({}, limit) {
    for (std::uint32_t i = 0; i < kCount; ++i) {
      crowd.add();
      alone.emplace_back(machine, InstanceOptions{0, crowd.now()});
      if (i % 7 == 0) step(milliseconds(31));
    }
  }
  void turn(bool way) {
    crowd.set_all(left, way);
    for (Instance& each : alone) each.set(left, way);
  }
  // Each its own way, and all the other way next time.
  void turn_apart(bool way) {
    std::array<bool, kCount> ways{};
    for (std::uint32_t i = 0; i < kCount; ++i) alone[i].set(left, ways[i] = (i * i / 5 % 2 == 0) == way);
    crowd.set_all(left, std::span<const bool>(ways));
  }
  // Both sides of it, in parts where the list is full.
  void step(Ticks dt) {
    std::vector<std::string> expected, told;
    for (Advanced part{{}, dt, 0, true}; !part.complete();) {
      cues.clear();
      part = crowd.advance(part.left, cues);
      ASSERT_EQ(part.needs, 0u);
      for (const CrowdCue& each : cues) told.push_back(numbered(each.place, each.cue));
    }
    CueList<40> list;
    for (std::size_t i = 0; i < alone.size(); ++i) {
      list.clear();
      ASSERT_TRUE(alone[i].advance(dt, list).complete());
      for (const Cue& each : list) expected.push_back(numbered(static_cast<std::uint32_t>(i), each));
      ASSERT_EQ(crowd.copy(crowd.at(static_cast<std::uint32_t>(i)))->hash(), alone[i].hash()) << i;
    }
    EXPECT_EQ(told, expected);
    most = std::max(most, told.size());
  }

  static constexpr std::uint32_t kCount = 60;
  Machine machine = machine_of(
      "inputs: {left: false, hit: pulse}\ncues: {hum: sound}\nclips: {l: {frames: [0-3], fps: 8, play: loop}, r: "
      "{frames: [4-7], fps: 8, play: once}}\nmarks: {l: {cues: {2: hum}}}\n"
      "states: {right: {clip: r, enter: [{tell: hum}], go: [{when: left, to: left}]}, left: {clip: l, enter: [{tell: "
      "hum}, {tell: hum}], "
      "go: [{when: not left, to: right}, {pulse: hit, to: right, do: [{tell: hum}]}]}}\ninitial: right");
  Input<bool> left = *machine.input<bool>("left");
  Pulse hit = *machine.pulse("hit");
  Crowd crowd{machine};
  std::vector<Instance> alone;
  CrowdCues cues;
  std::size_t most = 0;
};

TEST(Crowd, ManyThatDoTheSameTellWhatInstancesTell) {
  for (const std::size_t limit : {std::size_t{1'000}, std::size_t{17}}) {
    Bees bees(limit);
    std::vector<std::uint32_t> places(Bees::kCount);
    std::iota(places.begin(), places.end(), 0);
    for (int round = 0; round < 12; ++round) {
      bees.turn(round % 2 == 0);
      if (round % 3 == 2) bees.step(Ticks(0));
      if (round % 4 == 2) {
        bees.crowd.pulse(places, bees.hit);
        for (Instance& each : bees.alone) each.pulse(bees.hit);
      }
      ASSERT_NO_FATAL_FAILURE(bees.step(milliseconds(round % 5 * 40)));
    }
    EXPECT_GE(bees.most, 2 * Bees::kCount);
  }
}

TEST(Crowd, ManyThatDoTheSameOrItsOppositeTellWhatInstancesTell) {
  for (const std::size_t limit : {std::size_t{1'000}, std::size_t{17}}) {
    Bees bees(limit);
    for (int round = 0; round < 16; ++round) {
      bees.turn_apart(round % 2 == 0);
      if (round % 3 == 2) bees.step(Ticks(0));
      // 250 ms: to the very instant at which those who look left hum.
      ASSERT_NO_FATAL_FAILURE(bees.step(milliseconds(round % 4 < 2 ? 250 : 60 * (round % 4)))) << round;
    }
    EXPECT_GE(bees.most, Bees::kCount);
  }
}

std::vector<std::string> lines_of(const CrowdCues& cues) {
  std::vector<std::string> out;
  for (const CrowdCue& each : cues) out.push_back(numbered(each.place, each.cue));
  return out;
}

// In bulk, some twice in one call: whoever wakes by it told something at the very instant or did not.
TEST(Crowd, WritesOfManyDoWhatAsManyWritesDo) {
  const Machine machine = machine_of(
      "inputs: {near: {float: 9, min: 0, max: 10}, sees: false}\ncues: {hum: {}}\n"
      "clips: {fly: {frames: [0-3], fps: 8, play: loop}}\nmarks: {fly: {cues: {2: hum}}}\n"
      "states: {a: {clip: fly, go: [{when: sees and near < 5, to: b}]}, b: {enter: [{tell: hum}], go: [{when: near > "
      "7, "
      "to: a}]}}\ninitial: a");
  const auto near = *machine.input<float>("near");
  const auto sees = *machine.input<bool>("sees");
  constexpr std::uint32_t kCount = 90;
  Crowd many(machine), one(machine);
  for (std::uint32_t i = 0; i < kCount; ++i) (void)many.add(), (void)one.add();
  std::mt19937 random(11);
  CrowdCues of_many, of_one;
  std::size_t told = 0, woken = 0;
  for (int step = 0; step < 60; ++step) {
    std::vector<std::uint32_t> places(70);
    std::vector<float> values(70);
    for (std::uint32_t& place : places) place = static_cast<std::uint32_t>(random() % kCount);
    for (float& value : values) value = static_cast<float>(random() % 11);
    std::vector<std::uint8_t> sights(70);
    for (std::uint8_t& sight : sights) sight = static_cast<std::uint8_t>(random() % 2);
    EXPECT_EQ(many.set(places, near, values), 0u);
    EXPECT_EQ(many.set(std::span(places).first(30), sees, std::span<const std::uint8_t>(sights)), 0u);
    for (std::size_t i = 0; i < places.size(); ++i) one.set(one.at(places[i]), near, values[i]);
    for (std::size_t i = 0; i < 30; ++i) one.set(one.at(places[i]), sees, sights[i] != 0);
    woken += one.next_wake() == one.now() ? 1 : 0;
    ASSERT_EQ(many.next_wake(), one.next_wake()) << step;
    // A quarter of a second is where the hum lies of those that were never woken.
    of_many.clear(), of_one.clear();
    many.advance(milliseconds(step % 3 == 0 ? 0 : 125), of_many);
    one.advance(milliseconds(step % 3 == 0 ? 0 : 125), of_one);
    ASSERT_EQ(lines_of(of_many), lines_of(of_one)) << step;
    told += of_one.size();
    ASSERT_EQ(many.hash(), one.hash()) << step;
  }
  EXPECT_GT(told, 500u);
  EXPECT_GT(woken, 40u);
}

// Rows of members are written at once where the same comes of it for all: as one by one, whatever they are given.
template <class T>
void writes_to_all_are_writes_to_each(const std::string& name, const std::string& left, const std::string& right,
                                      const std::function<T(std::mt19937&, bool)>& value, T wrong) {
  SCOPED_TRACE(left);
  const Machine machine = machine_of(
      "inputs: {near: {float: 0, min: 0, max: 10}, count: {int: 0, min: 0, max: 9}, way: {one_of: [down, up, left]},\n"
      "  on: false, hit: pulse}\ncues: {hum: {}}\nmarks: {fly: {cues: {2: hum}}}\ninitial: a\n"
      "clips: {fly: {frames: [0-3], fps: 8, play: loop}, rest: {frames: [4-7], fps: 8}}\n"
      "states:\n  a: {clip: rest, go: [{when: " +
      left + ", to: b}]}\n  b: {clip: fly, enter: [{tell: hum}], go: [{when: " + right +
      ", to: a}, {pulse: hit, to: b, restart: true}]}\n");
  const auto input = *machine.input<T>(name);
  const Pulse hit = *machine.pulse("hit");
  constexpr std::uint32_t kCount = 150;
  Crowd many(machine), one(machine);
  for (std::uint32_t i = 0; i < kCount; ++i) (void)many.add(), (void)one.add();
  std::mt19937 random(5);
  CrowdCues of_many, of_one;
  using Given = std::conditional_t<std::is_same_v<T, bool>, std::uint8_t, T>;
  std::size_t told = 0, refused = 0;
  for (int step = 0; step < 80; ++step) {
    // All one side, then all the other; some that are not alike, one that is no value, and one that lies elsewhere.
    std::vector<Given> values;
    const bool mixed = step % 7 == 5, alike = random() % 2 == 0, far = (step + step / 10) % 2 == 0;
    const T same = value(random, far);
    for (std::uint32_t i = 0; i < kCount; ++i)
      values.push_back(alike ? same : value(random, mixed ? random() % 2 == 0 : far));
    if (step % 3 == 2) values[random() % kCount] = wrong;
    if (step % 5 == 3) values[random() % kCount] = value(random, !far);
    // Now and then nothing but a press, which nobody may hear and which is forgotten at the next instant.
    std::size_t wrongs = 0;
    if (step % 10 != 9) {
      for (std::uint32_t i = 0; i < kCount; ++i)
        if (one.set(one.at(i), input, static_cast<T>(values[i])) == Written::refused) ++wrongs;
      EXPECT_EQ(many.set_all(input, std::span<const Given>(values)), wrongs);
    }
    refused += wrongs;
    if (step % 4 == 1) one.pulse(one.at(17), hit), many.pulse(many.at(17), hit);
    ASSERT_EQ(many.hash(), one.hash()) << step;
    of_many.clear(), of_one.clear();
    const Ticks dt = milliseconds(step % 6 == 0 ? 250 : step % 4 * 16);
    many.advance(dt, of_many);
    one.advance(dt, of_one);
    ASSERT_EQ(lines_of(of_many), lines_of(of_one)) << step;
    told += of_one.size();
    ASSERT_EQ(many.hash(), one.hash()) << step;
  }
  EXPECT_GT(told, 20 * kCount);
  EXPECT_EQ(refused > 0, (std::is_same_v<T, float> || std::is_same_v<T, Choice>));
}

TEST(Crowd, WritesToAllAreWritesToEach) {
  const auto near = [](std::mt19937& random, bool far) { return static_cast<float>(far * 6 + random() % 16 / 4); };
  const auto count = [](std::mt19937& random, bool many) { return static_cast<std::int32_t>(many * 6 + random() % 4); };
  const auto way = [](std::mt19937& random, bool up) { return Choice{std::uint8_t(up ? 1 : random() % 2 * 2)}; };
  const auto on = [](std::mt19937&, bool is) { return is; };
  writes_to_all_are_writes_to_each<float>("near", "near > 5", "near <= 5", near, NAN);
  writes_to_all_are_writes_to_each<float>("near", "near > 5 and not on", "near <= 4", near, NAN);
  writes_to_all_are_writes_to_each<float>("near", "near > 5 and count < 3", "near < 6", near, NAN);
  writes_to_all_are_writes_to_each<std::int32_t>("count", "count > 5", "count <= 5", count, 99);
  writes_to_all_are_writes_to_each<Choice>("way", "way == up", "way != up", way, Choice{9});
  writes_to_all_are_writes_to_each<bool>("on", "on", "not on", on, true);
  writes_to_all_are_writes_to_each<bool>("on", "on and near < 1", "not on", on, false);
}

// Records of one instant are numbered on, whatever was written when: after a cue that was passed quietly, and after a
// round that nobody hears.
TEST(Crowd, RecordsAreNumberedOnFromWhatLiesAtTheSameInstant) {
  const Machine machine = machine_of(
      "inputs: {stop: pulse}\ncues: {hum: {}}\nclips: {fly: {frames: [0-3], fps: 8, play: loop}}\n"
      "marks: {fly: {cues: {2: hum}}}\nstates: {a: {clip: fly, go: [{pulse: stop, to: b}]}, b: {enter: [{tell: "
      "hum}]}}\ninitial: a");
  for (const int at : {250, 500, 750, 1'000, 1'250}) {
    Crowd crowd(machine);
    const Member member = crowd.add();
    Instance game(machine), all(machine);
    CrowdCues cues;
    CueList<8> of_game;
    static std::vector<Cue> memory(100);
    CueBuffer of_all(memory, kAllRecords);
    const auto step = [&](Ticks dt) {
      cues.clear(), of_game.clear(), of_all.clear();
      crowd.advance(dt, cues);
      (void)game.advance(dt, of_game);
      (void)all.advance(dt, of_all);
    };
    step(milliseconds(100));
    step(milliseconds(at - 100));
    // A change of rate and back is none, but looks at the playhead.
    if (at == 1'000) {
      crowd.set_rate(member, 2), crowd.set_rate(member, 1);
      game.set_rate(2), game.set_rate(1);
    }
    crowd.pulse(member, *machine.pulse("stop"));
    game.pulse(*machine.pulse("stop"));
    all.pulse(*machine.pulse("stop"));
    EXPECT_EQ(crowd.copy(member)->hash(), game.hash()) << at;
    step(milliseconds(1));
    ASSERT_EQ(of_all.size(), 3u) << "left, entered, hum";
    ASSERT_EQ(cues.size(), 1u);
    ASSERT_EQ(of_game.size(), 1u);
    EXPECT_EQ(cues[0].cue.ordinal, of_all[2].ordinal) << at;
    EXPECT_EQ(of_game[0].ordinal, of_all[2].ordinal) << at;
    EXPECT_EQ(of_all[2].ordinal, 3u) << "after a hum or a round";
  }
}

// A press that nothing active hears wakes nobody, and is gone with its instant. What else is written there, before or
// after it, may lead to where it is heard.
TEST(Crowd, APressThatNobodyHearsLivesForItsInstant) {
  const Machine machine = machine_of(
      "inputs: {stop: pulse, near: false}\ncues: {hum: {}}\nclips: {fly: {frames: [0-3], fps: 8, play: loop}}\n"
      "marks: {fly: {cues: {2: hum}}}\nstates:\n  a: {clip: fly, go: [{when: near, to: b}]}\n"
      "  b: {go: [{pulse: stop, to: c}]}\n  c: {enter: [{tell: hum}]}\ninitial: a");
  const auto stop = *machine.pulse("stop");
  const auto near = *machine.input<bool>("near");
  enum class Write { before, after, after_a_look, later, never };
  for (const double rate : {1.0, 0.5}) {
    for (const int at : {0, 100, 250, 500, 600, 750, 1'000}) {
      for (const Write write : {Write::before, Write::after, Write::after_a_look, Write::later, Write::never}) {
        Crowd crowd(machine);
        const Member member = crowd.add();
        Instance alone(machine);
        CrowdCues cues;
        CueList<16> list;
        std::vector<std::string> told, expected;
        const auto step = [&](Ticks dt) {
          cues.clear(), list.clear();
          crowd.advance(dt, cues);
          (void)alone.advance(dt, list);
          for (const CrowdCue& each : cues) told.push_back(record(each.cue));
          for (const Cue& each : list) expected.push_back(record(each));
        };
        const auto come_near = [&] { crowd.set(member, near, true), alone.set(near, true); };
        crowd.set_rate(member, rate), alone.set_rate(rate);
        step(milliseconds(at / 2));
        step(milliseconds(at - at / 2));
        if (write == Write::before) come_near();
        const Ticks wake = crowd.next_wake();
        EXPECT_EQ(crowd.pulse(member, stop), alone.pulse(stop));
        if (rate == 1 && (at == 100 || at == 600)) {
          EXPECT_EQ(crowd.next_wake(), wake) << "nothing else lies there";
        }
        EXPECT_TRUE(crowd.value(member, stop));
        if (write == Write::after_a_look) step(milliseconds(0));
        if (write == Write::after || write == Write::after_a_look) come_near();
        step(milliseconds(1));
        EXPECT_EQ(crowd.value(member, stop), alone.value(stop));
        if (write == Write::later) come_near();
        step(milliseconds(700));
        const std::string what =
            std::to_string(rate) + " " + std::to_string(at) + " " + std::to_string(static_cast<int>(write));
        EXPECT_EQ(told, expected) << what;
        EXPECT_EQ(crowd.copy(member)->hash(), alone.hash()) << what;
        const bool heard = write == Write::before || write == Write::after || write == Write::after_a_look;
        EXPECT_EQ(crowd.in(member, *machine.state("c")), heard) << what;
      }
    }
  }
}

}  // namespace
}  // namespace mobrin::test
