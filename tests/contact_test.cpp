// Space: where boxes are, who hits whom, who is in reach, who comes near.
#include <algorithm>
#include <cmath>
#include <limits>
#include <random>

#include "mobrin/contact/contacts.hpp"
#include "mobrin/contact/zones.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

constexpr double kNaN = std::numeric_limits<double>::quiet_NaN();
constexpr double kEndless = std::numeric_limits<double>::infinity();

WorldShape rect(double x, double y, double width, double height) { return {{x, y}, width / 2, height / 2, 0}; }
WorldShape circle(double x, double y, double radius) { return {{x, y}, radius, radius, radius}; }

TEST(Space, ShapesAreMirroredAndScaledAboutThePivot) {
  const Placement left{{10, 2}, true, 2};
  const WorldShape box = to_world(RectShape{8, 4, 16, 8}, left, 32);  // middle 16, 8 from the pivot
  EXPECT_EQ(box.middle.x, 9);
  EXPECT_EQ(box.middle.y, 2.5);
  EXPECT_EQ(box.half_width, 0.5);
  EXPECT_EQ(to_world(Vec2{-32, 16}, left, 32).x, 12);
  EXPECT_EQ(to_world(CircleShape{0, 32, 16}, {{0, 0}}, 32).radius, 0.5);
  EXPECT_FALSE(is_sound({{kNaN, 0}}));
  EXPECT_FALSE(is_sound({{0, kEndless}}));
  EXPECT_FALSE(is_sound({{2e9, 0}}));
  EXPECT_FALSE(is_sound({{0, 0}, false, 0}));
  EXPECT_FALSE(is_sound({{0, 0}, false, kNaN}));
}

TEST(Space, MovingShapesMeetWhereTheyTouchFirst) {
  const auto begins = [](const WorldShape& a, const WorldShape& b, Vec2 way) {
    const auto met = meeting(a, b, way);
    return met ? met->begin : -1;
  };
  EXPECT_EQ(begins(rect(0, 0, 2, 2), rect(5, 0, 2, 2), {-6, 0}), 0.5);
  EXPECT_EQ(begins(rect(0, 0, 2, 2), rect(5, 3, 2, 2), {-6, 0}), -1);
  EXPECT_EQ(begins(circle(0, 0, 1), circle(5, 0, 1), {-6, 0}), 0.5);
  EXPECT_EQ(begins(rect(0, 0, 2, 2), circle(5, 0, 1), {-6, 0}), 0.5);
  // Past the corner: the rounded sum of both is not entered where the straight one would be.
  EXPECT_EQ(begins(rect(0, 0, 2, 2), circle(1.9, 1.9, 1), {}), -1);
  EXPECT_EQ(begins(rect(0, 0, 2, 2), circle(1.7, 1.7, 1), {}), 0);
  EXPECT_TRUE(overlap(rect(0, 0, 2, 2), rect(2, 2, 2, 2)));  // touching counts
  // A fast one does not pass through.
  EXPECT_NEAR(begins(rect(0, 0, 1, 1), rect(1000, 0, 1, 1), {-2000, 0}), 0.4995, 1e-12);
}

TEST(Space, MeetingsAgreeWithManySmallSteps) {
  std::mt19937 random(11);
  const auto any = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
  int met_count = 0;
  for (int i = 0; i < 3000; ++i) {
    const auto shape = [&] {
      return random() % 2 == 0 ? rect(any(-4, 4), any(-4, 4), any(0.2, 3), any(0.2, 3))
                               : circle(any(-4, 4), any(-4, 4), any(0.1, 1.5));
    };
    const WorldShape a = shape(), b = shape();
    const Vec2 way{any(-8, 8), any(-8, 8)};
    const auto met = meeting(a, b, way);
    met_count += met ? 1 : 0;
    for (int step = 0; step <= 100; ++step) {
      WorldShape moved = b;
      moved.middle.x += way.x * step / 100;
      moved.middle.y += way.y * step / 100;
      const double at = step / 100.0;
      const bool inside = met && at >= met->begin - 1e-9 && at <= met->end + 1e-9;
      const bool surely_inside = met && at >= met->begin + 1e-9 && at <= met->end - 1e-9;
      const bool overlaps = overlap(a, moved);
      EXPECT_FALSE(overlaps && !inside) << i;
      EXPECT_FALSE(!overlaps && surely_inside) << i;
    }
  }
  EXPECT_GT(met_count, 500);
}

const char* const kSwinger =
    "unit: 10px\nclips: {swing: {frames: [0-5], fps: 10}, wait: {frames: [0], fps: 10, play: loop}}\n"
    "cues: {out: {kind: damage, reach: cone}}\nreaches: {cone: {cone: {length: 40, angle: 90}, hits: [hornet]}}\n"
    "marks:\n  swing:\n    cues: {2: out}\n    boxes: [{name: net, role: hit, frames: 2-3, rect: [10, 0, 20, 10], "
    "spares: [friend]},"
    " {name: body, role: hurt, rect: [-5, 0, 10, 20]}]\n"
    "  wait: {boxes: [{name: body, role: hurt, rect: [-5, 0, 10, 20]}, {name: head, role: hurt, circle: [0, 22, 5]}]}\n"
    "inputs: {go: pulse}\ninitial: wait\nstates:\n  wait: {clip: wait, go: [{pulse: go, to: swing}]}\n"
    "  swing: {clip: swing, go: [{pulse: go, to: swing, restart: true}, {at: end, to: wait}]}\n";

// Two who stand 2 apart; the first swings at 0. Each hit as `INSTANT ms BY>ON box`.
class Fight : public testing::Test {
 protected:
  Fight() : machine(machine_of(kSwinger)), contacts(tags), swinger(machine), other(machine) {}
  void step(double milliseconds_of_step) {
    const Ticks from = swinger.now(), to = from + seconds(milliseconds_of_step / 1000);
    contacts.begin(from, to);
    Participant a{1, 0, true, here, here}, b{2, other_tags, other_alive, there, there_next ? *there_next : there};
    if (there_next) there = *there_next, there_next.reset();
    contacts.advance(b, other, [](const Cue&) {});
    contacts.advance(a, swinger, [](const Cue&) {});
    contacts.resolve([&](const Hit& hit) {
      log += ms(hit.at) + " " + std::to_string(hit.by) + ">" + std::to_string(hit.on) + " " + hit.hit_box->name.text +
             " on " + hit.hurt_box->name.text + "\n";
      return answer;
    });
  }
  Machine machine;
  TagNames tags;
  Contacts contacts;
  Instance swinger, other;
  Placement here{{0, 0}}, there{{2, 0}, true};
  std::optional<Placement> there_next;
  Tags other_tags = 0;
  bool other_alive = true;
  HitAnswer answer = HitAnswer::lives;
  std::string log;
};

TEST_F(Fight, OneSwingHitsOnceAtTheFrameOfTheBlowWhateverTheSteps) {
  for (const double length : {7.0, 16.6, 50.0, 1000.0}) {
    contacts = Contacts(tags);
    swinger = Instance(machine);
    other = Instance(machine);
    log.clear();
    swinger.pulse(*machine.pulse("go"));
    for (double at = 0; at < 900; at += length) step(length);
    EXPECT_EQ(log, "200 1>2 net on body\n") << length;
  }
}

TEST_F(Fight, SlowMotionMovesTheHitWithTheFrame) {
  swinger.set_rate(0.25);
  swinger.pulse(*machine.pulse("go"));
  for (int i = 0; i < 300; ++i) step(10);
  EXPECT_EQ(log, "800 1>2 net on body\n");
}

TEST_F(Fight, ANewSwingHitsAgainAndAMissMayStillHit) {
  swinger.pulse(*machine.pulse("go"));
  for (int i = 0; i < 23; ++i) step(10);
  swinger.pulse(*machine.pulse("go"));
  for (int i = 0; i < 40; ++i) step(10);
  EXPECT_EQ(log, "200 1>2 net on body\n430 1>2 net on body\n");
  log.clear();
  swinger.pulse(*machine.pulse("go"));
  answer = HitAnswer::misses;
  for (int i = 0; i < 25; ++i) step(10);
  answer = HitAnswer::lives;
  for (int i = 0; i < 25; ++i) step(10);
  EXPECT_GT(std::count(log.begin(), log.end(), '\n'), 2);
}

TEST_F(Fight, FriendsAndTheDeadAreSpared) {
  other_tags = tags.bit("friend");
  swinger.pulse(*machine.pulse("go"));
  for (int i = 0; i < 50; ++i) step(10);
  EXPECT_EQ(log, "");
  other_tags = 0;
  other_alive = false;
  swinger.pulse(*machine.pulse("go"));
  for (int i = 0; i < 50; ++i) step(10);
  EXPECT_EQ(log, "");
}

TEST_F(Fight, WhatFliesPastWithinAStepIsHit) {
  there = {{20, 0.5}};
  swinger.pulse(*machine.pulse("go"));
  step(250);
  there_next = Placement{{-20, 0.5}};  // through the net within 100 ms, while it is out
  step(100);
  // The net's edge is 3 right of the pivot, the body's 0.5 left of its own: after 16.5 of 40.
  EXPECT_EQ(log, "291.25 1>2 net on body\n");
}

TEST_F(Fight, BothAtOnceHitEachOtherAndThenNobodyIsLeft) {
  answer = HitAnswer::dies;
  swinger.pulse(*machine.pulse("go"));
  other.pulse(*machine.pulse("go"));
  step(1000);
  EXPECT_EQ(log, "200 1>2 net on body\n200 2>1 net on body\n");
  // The other strikes later: he is dead by then.
  log.clear();
  contacts = Contacts(tags);
  swinger = Instance(machine);
  other = Instance(machine);
  swinger.pulse(*machine.pulse("go"));
  step(50);
  other.pulse(*machine.pulse("go"));
  step(950);
  EXPECT_EQ(log, "200 1>2 net on body\n");
}

TEST_F(Fight, UnsoundPlacesAreRefusedAndTimeGoesOn) {
  contacts.begin(Ticks(0), milliseconds(100));
  Participant who{1};
  who.to.at.x = kNaN;
  EXPECT_FALSE(contacts.advance(who, swinger, [](const Cue&) {}));
  EXPECT_EQ(swinger.now(), milliseconds(100));
  const PlainBox sound{false, CircleShape{0, 0, 4}, 32};
  EXPECT_TRUE(contacts.add({3}, std::span(&sound, 1)));
  for (const Shape& shape :
       {Shape(CircleShape{0, 0, 0}), Shape(CircleShape{0, 0, kNaN}), Shape(RectShape{kEndless, 0, 1, 1}),
        Shape(RectShape{0, 0, 0, 1}), Shape(ConeShape{0, 0, 4, 40})}) {
    const PlainBox box{false, shape, 32};
    EXPECT_FALSE(contacts.add({4}, std::span(&box, 1)));
  }
}

// Plain boxes that move: the grid finds what looking at every pair finds, in the same order, in whatever order they
// come.
TEST(ManyContacts, AreThoseOfTheDoubleLoopWhateverTheOrder) {
  std::mt19937 random(5);
  const auto any = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
  for (int round = 0; round < 20; ++round) {
    struct Body {
      Participant who;
      std::array<PlainBox, 2> boxes;
    };
    std::vector<Body> bodies;
    for (std::uint32_t i = 0; i < 300; ++i) {
      Body body{{i}, {}};
      body.who.from.at = {any(-40, 40), any(-40, 40)};
      body.who.to.at = {body.who.from.at.x + any(-3, 3), body.who.from.at.y + any(-3, 3)};
      body.boxes[0] = {true, CircleShape{any(-20, 20), 0, any(5, 40)}, 32};
      body.boxes[1] = {false, RectShape{-16, 0, 32, any(10, i % 50 == 0 ? 3000 : 60)}, 32};
      bodies.push_back(body);
    }
    const Ticks step = milliseconds(16);
    std::string expected;
    struct Found {
      Ticks at;
      std::uint32_t by;
      double distance;
      std::uint32_t on;
    };
    std::vector<Found> found;
    for (const Body& a : bodies)
      for (const Body& b : bodies) {
        if (a.who.id == b.who.id) continue;
        const auto way = [](const Body& body) {
          return Vec2{body.who.to.at.x - body.who.from.at.x, body.who.to.at.y - body.who.from.at.y};
        };
        const Vec2 relative{way(b).x - way(a).x, way(b).y - way(a).y};
        const auto met =
            meeting(to_world(a.boxes[0].shape, a.who.from, 32), to_world(b.boxes[1].shape, b.who.from, 32), relative);
        if (!met) continue;
        const auto ticks = static_cast<std::int64_t>(std::ceil(met->begin * static_cast<double>(step.count) - 1e-4));
        const double part = static_cast<double>(ticks) / static_cast<double>(step.count);
        const double dx = a.who.from.at.x + way(a).x * part - b.who.from.at.x - way(b).x * part;
        const double dy = a.who.from.at.y + way(a).y * part - b.who.from.at.y - way(b).y * part;
        found.push_back({Ticks(ticks), a.who.id, std::sqrt(dx * dx + dy * dy), b.who.id});
      }
    std::sort(found.begin(), found.end(), [](const Found& a, const Found& b) {
      return std::tie(a.at, a.by, a.distance, a.on) < std::tie(b.at, b.by, b.distance, b.on);
    });
    for (const Found& each : found)
      expected += std::to_string(each.at.count) + " " + std::to_string(each.by) + ">" + std::to_string(each.on) + "\n";
    EXPECT_GT(found.size(), 30u);
    for (int order = 0; order < 2; ++order) {
      TagNames tags;
      Contacts contacts(tags);
      contacts.begin(Ticks(0), step);
      for (const Body& body : bodies) ASSERT_TRUE(contacts.add(body.who, body.boxes));
      std::string log;
      contacts.resolve([&](const Hit& hit) {
        log += std::to_string(hit.at.count) + " " + std::to_string(hit.by) + ">" + std::to_string(hit.on) + "\n";
        return HitAnswer::lives;
      });
      ASSERT_EQ(log, expected);
      std::shuffle(bodies.begin(), bodies.end(), random);
    }
  }
}

TEST(ManyContacts, TwoBoxesOfOneTargetAreOneHitOfASwing) {
  TagNames tags;
  Contacts contacts(tags);
  PlainBox net{true, CircleShape{0, 0, 32}, 32};
  const std::array<PlainBox, 2> body_and_head{PlainBox{false, CircleShape{0, 0, 32}, 32},
                                              PlainBox{false, RectShape{-8, 0, 16, 16}, 32}};
  std::string log;
  for (const std::uint32_t swing : {0u, 0u, 1u}) {
    net.swing = swing;
    contacts.begin(Ticks(0), milliseconds(16));
    contacts.add({1}, std::span(&net, 1));
    contacts.add({2}, body_and_head);
    contacts.resolve([&](const Hit& hit) { return log += std::to_string(hit.on) + " ", HitAnswer::lives; });
    log += "| ";
  }
  EXPECT_EQ(log, "2 | | 2 | ");
}

TEST(ManyContacts, ASwingMayHitAgainAfterAWhile) {
  TagNames tags;
  Contacts contacts(tags);
  PlainBox sting{true, CircleShape{0, 0, 32}, 32};
  sting.every = milliseconds(200);
  const PlainBox body{false, CircleShape{0, 0, 32}, 32};
  std::string log;
  for (int i = 0; i < 10; ++i) {
    contacts.begin(milliseconds(100 * i), milliseconds(100 * (i + 1)));
    contacts.add({1}, std::span(&sting, 1));
    contacts.add({2}, std::span(&body, 1));
    contacts.resolve([&](const Hit& hit) { return log += ms(hit.at) + " ", HitAnswer::lives; });
  }
  EXPECT_EQ(log, "0 200 400 600 800 1000 ");
}

// --- reaches --------------------------------------------------------------------------------------------------------

TEST(Reaches, FindTheNearestFirstAndSpareWhomTheyShould) {
  const Machine machine = machine_of(kSwinger);
  Instance instance(machine);
  instance.pulse(*machine.pulse("go"));
  const ReachDef* reach = nullptr;
  instance.advance(seconds(1), [&](const Cue& cue) { reach = reach_of(cue, machine); });
  ASSERT_NE(reach, nullptr);
  TagNames tags;
  const Tags hornet = tags.bit("hornet");
  const std::vector<Candidate> all = {{1, {0, 0}, 0, hornet},         // self
                                      {2, {3, 0}, 0, hornet},         // ahead
                                      {3, {1, 0.9}, 0, hornet},       // just inside the edge of 45 degrees
                                      {4, {1, 1.1}, 0, hornet},       // just outside
                                      {5, {1, 1.2}, 0.2, hornet},     // its body reaches in
                                      {6, {2, 0}, 0, 0},              // no hornet
                                      {7, {2, 0}, 0, hornet, false},  // dead
                                      {8, {-3, 0}, 0, hornet},        // behind
                                      {9, {4.1, 0}, 0, hornet},       // too far
                                      {10, {3, 0}, 0, hornet},        // as near as 2
                                      {11, {kNaN, 0}, 0, hornet}};
  const auto found = [&](const Placement& origin) {
    std::vector<Target> out;
    std::string ids;
    targets(*reach, origin, machine.unit(), 1, all, tags, out);
    for (const Target& each : out) ids += std::to_string(each.id) + " ";
    return ids;
  };
  EXPECT_EQ(found({{0, 0}}), "3 5 2 10 ");
  EXPECT_EQ(found({{0, 0}, true}), "8 ");
  EXPECT_EQ(found({{0, 0}, false, 2}), "3 5 2 10 9 ");
  EXPECT_EQ(found({{kEndless, 0}}), "");
}

// --- zones ----------------------------------------------------------------------------------------------------------

TEST(ZonesOfAMachine, FillItsInputsInTheOrderOfEvents) {
  const Machine machine = machine_of(
      "unit: 10px\ninputs: {near: 0, came: pulse, went: pulse}\nvars: {comings: 0, goings: 0}\n"
      "zones: {door: {rect: [-10, 0, 20, 20], tags: [keeper], inside: near, enter: came, leave: went}}\n"
      "initial: a\nstates: {a: {go: [{pulse: came, to: b, do: [comings = comings + 1]}]}, b: {go: [{pulse: went, to: "
      "a, do: [goings = goings + 1]}]}}");
  Instance hive(machine);
  TagNames tags;
  Zones zones(tags);
  const Tags keeper = tags.bit("keeper");
  std::string log;
  const auto step = [&](std::vector<Visitor> visitors) {
    const Ticks from = hive.now(), to = from + milliseconds(100);
    hive.advance(milliseconds(100), [](const Cue&) {});
    zones.begin(from, to);
    EXPECT_TRUE(zones.add_owner(1, hive, {}, {}));
    for (const Visitor& each : visitors) EXPECT_TRUE(zones.add_visitor(each));
    for (const ZoneEvent& event : zones.resolve())
      log += ms(event.at) + (event.entered ? " +" : " -") + std::to_string(event.visitor) + " ";
    log += std::to_string(std::get<std::int64_t>(hive.input_value(0))) + "\n";
  };
  step({{2, keeper, {-3, 1}, {0, 1}}, {3, 0, {0, 0}, {0, 0}}});       // comes in; the other has no tag
  step({{2, keeper, {0, 1}, {0, 1}}, {4, keeper, {-3, 0}, {3, 0}}});  // one rushes through
  step({{2, keeper, {0, 1}, {3, 1}}, {5, keeper, {3, 1}, {0, 1}}});   // one goes, one comes
  step({{5, keeper, {0, 1}, {0, 1}}});
  step({});  // gone without walking
  EXPECT_EQ(log, "66.6666667 +2 1\n133.333333 +4 166.666667 -4 1\n233.333333 -2 266.666667 +5 1\n1\n400 -5 0\n");
  zones.begin(Ticks(0), Ticks(1));
  EXPECT_FALSE(zones.add_visitor({9, keeper, {kNaN, 0}, {0, 0}}));
  EXPECT_FALSE(zones.add_owner(9, hive, {{0, 0}, false, -1}, {}));
}

// On a border: who goes on comes in or goes out at the very tick, who stays there or turns back does neither.
TEST(ZonesOfAMachine, KnowOfABorderByWhatOneDoesNext) {
  const Machine machine =
      machine_of("unit: 10px\nzones: {door: {rect: [-10, 0, 20, 20]}}\ninitial: a\nstates: {a: {}}");
  // Places at each 100 ms, on a border at some of them.
  const auto events = [&](const std::vector<Vec2>& places, int pieces) {
    Instance hive(machine);
    TagNames tags;
    Zones zones(tags);
    std::string log;
    for (std::size_t i = 0; i + 1 < places.size(); ++i)
      for (int piece = 0; piece < pieces; ++piece) {
        const auto at = [&](int part) {
          const double way = static_cast<double>(part) / pieces;
          return Vec2{places[i].x + (places[i + 1].x - places[i].x) * way,
                      places[i].y + (places[i + 1].y - places[i].y) * way};
        };
        const Ticks begin = milliseconds(100 * static_cast<std::int64_t>(i));
        zones.begin(begin + Ticks(milliseconds(100).count * piece / pieces),
                    begin + Ticks(milliseconds(100).count * (piece + 1) / pieces));
        EXPECT_TRUE(zones.add_owner(1, hive, {}, {}));
        EXPECT_TRUE(zones.add_visitor({2, 0, at(piece), at(piece + 1)}));
        for (const ZoneEvent& event : zones.resolve()) log += ms(event.at) + (event.entered ? "+ " : "- ");
      }
    return log;
  };
  const struct {
    std::vector<Vec2> places;
    const char* told;
  } rows[] = {
      {{{-3, 1}, {-1, 1}, {0, 1}, {0, 1}}, "100+ "},         // in at the border
      {{{0, 1}, {1, 1}, {2, 1}}, "0+ 100- "},                // out at it
      {{{0, 1}, {1, 1}, {1, 1}, {0, 1}}, "0+ "},             // stays on it, and comes back
      {{{0, 1}, {1, 1}, {1, 1}, {2, 1}}, "0+ 200- "},        // stays on it, and goes
      {{{-3, 1}, {-1, 1}, {-3, 1}}, ""},                     // touches it
      {{{-3, 1}, {-1, 1}, {-1, 1}, {-3, 1}}, "100+ 200- "},  // stays on it for a while
      {{{-1, -1}, {-1, 0}, {-1, 1}}, "100+ "},               // along it
      {{{-2, 1}, {-1, 2}, {0, 3}}, ""},                      // by a corner
      {{{-3, 0}, {-1, 0}, {0.5, 0}, {1, 0}, {3, 0}}, "100+ 300- "},
  };
  for (const auto& row : rows)
    for (const int pieces : {1, 3, 4}) EXPECT_EQ(events(row.places, pieces), row.told) << row.told << pieces;
}

TEST(ZonesOfAMachine, MisspeltInputsAndBadShapesAreFound) {
  EXPECT_NE(findings_of("inputs: {near: false}\nzones: {door: {circle: [0, 0, 4], inside: naer}}\nstates: {a: {}}")
                .find("Did you mean \"near\"?"),
            std::string::npos);
  EXPECT_NE(findings_of("inputs: {near: 0.5}\nzones: {door: {circle: [0, 0, 4], inside: near}}\nstates: {a: {}}")
                .find("It needs a bool"),
            std::string::npos);
  EXPECT_NE(findings_of("zones: {door: {circle: [0, 0, 0]}}\nstates: {a: {}}").find("has no size"), std::string::npos);
  EXPECT_NE(findings_of("reaches: {r: {cone: {length: 3, angle: 400}}}\nstates: {a: {}}").find("has no size"),
            std::string::npos);
  EXPECT_NE(
      findings_of(
          std::string(
              "cues: {hit: {reach: conne}}\nreaches: {cone: {circle: [0, 0, 4]}}\nclips: {c: {frames: [0], fps: 9}}\n"
              "marks: {c: {cues: {0: hit}}}\nstates: {a: {clip: c}}"))
          .find("Did you mean \"cone\"?"),
      std::string::npos);
}

// --- direction ------------------------------------------------------------------------------------------------------

TEST(Direction, IsSeenAlongTheFacing) {
  const auto local = [](Vec2 velocity, Vec2 facing) {
    const LocalDirection out = local_direction(velocity, facing, 2);
    return std::pair(out.forward, out.right);
  };
  EXPECT_EQ(local({2, 0}, {1, 0}), std::pair(1.0, 0.0));
  EXPECT_EQ(local({0, -2}, {5, 0}), std::pair(0.0, 1.0));
  EXPECT_EQ(local({0, -1}, {0, 1}), std::pair(-0.5, 0.0));
  EXPECT_EQ(local({kNaN, 0}, {0, 1}), std::pair(0.0, 0.0));
  EXPECT_EQ(local({1, 0}, {0, 0}), std::pair(0.0, 0.0));
}

TEST(Direction, HeadingsHoldOnAtTheirBorders) {
  EXPECT_EQ(heading({1, 0}, 8, 4), 0);
  EXPECT_EQ(heading({1, 1}, 8, 0), 1);
  EXPECT_EQ(heading({0, -3}, 4, 0), 3);
  EXPECT_EQ(heading({0, 0}, 8, 5), 5);
  EXPECT_EQ(heading({kNaN, 0}, 8, 5), 5);
  // 22.5 degrees is the border between 0 and 1: a little past it the old one stays.
  const Vec2 past{std::cos(0.42), std::sin(0.42)};
  EXPECT_EQ(heading(past, 8, 0), 0);
  EXPECT_EQ(heading(past, 8, 1), 1);
  EXPECT_EQ(heading(past, 8, 0, 0), 1);
}

}  // namespace
}  // namespace mobrin::test
