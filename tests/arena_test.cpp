// Arenas: whole steps of instances and members of crowds, cut where one changes what happens to another.
#include "mobrin/contact/arena.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <random>

#include "support.hpp"

namespace mobrin::test {
namespace {

// Swings, is hit, flinches, falls at health 0; its cry reaches whoever stands near.
const char* const kBrawler =
    "unit: 10px\n"
    "clips: {wait: {frames: [0], fps: 10, play: loop}, swing: {frames: [0-3], fps: 10}, fall: {frames: [0-1], fps: "
    "9}}\n"
    "cues: {out: {kind: damage}, cry: {kind: damage, reach: around}}\n"
    "reaches: {around: {circle: [0, 5, 25], spares: [self]}}\n"
    "marks:\n"
    "  wait: {boxes: [{name: body, role: hurt, rect: [-5, 0, 10, 20]}]}\n"
    "  swing:\n    cues: {1: out, 3: cry}\n"
    "    boxes: [{name: net, role: hit, frames: 1-2, rect: [5, 0, 20, 10]}, {name: body, role: hurt, rect: [-5, 0, 10, "
    "20]}]\n"
    "zones: {near: {rect: [-30, 0, 60, 20], inside: near}}\n"
    "inputs: {go: pulse, struck: pulse, health: {int: 3, min: 0}, near: 0}\n"
    "initial: wait\ngo: [{when: health <= 0, to: fall}, {pulse: struck, to: wait, restart: true}]\n"
    "states:\n  wait: {clip: wait, go: [{pulse: go, to: swing}]}\n"
    "  swing: {clip: swing, go: [{at: end, to: wait}]}\n"
    "  fall: {clip: fall, sealed: true, traits: [dead], go: [{at: end, to: gone}]}\n"
    "  gone: {final: true}\n";

std::string brawler(bool again) {
  std::string out = kBrawler;
  const std::string net = "role: hit, frames: 1-2";
  if (again) out.replace(out.find(net), net.size(), "role: hit, every: 70ms, frames: 1-2");
  return out;
}

// Fighters that walk, each along its own line, and swing at instants of their own.
class Brawl : public ArenaGame {
 public:
  struct How {
    bool crowd = false;     // every second one is a member of a crowd
    bool reversed = false;  // added in the other order
    int pieces = 1;         // of each 100 ms
    bool cries = false;     // the cue `cry` hits through its reach
    bool round = false;     // places and speeds are round numbers: much falls on borders and on one tick
    double margin = 0;      // of the zones
    bool again = false;     // a net hits every 70 ms
  };

  Brawl(std::uint32_t seed, How how)
      : how_(how), machine_(machine_of(brawler(how.again))), crowd_(machine_), arena_(tags_, how.margin) {
    std::mt19937 random(seed);
    const auto any = [&](double low, double high) {
      const double number = std::uniform_real_distribution<double>(low, high)(random);
      return how.round ? std::round(number * 4) / 4 : number;
    };
    for (std::uint32_t i = 0; i < 10; ++i) {
      Fighter one{any(-4, 4),  any(-3, 3), random() % 2 == 0, static_cast<std::uint32_t>(random() % 5),
                  any(0, 0.4), {},         std::nullopt};
      if (how.crowd && i % 2 == 0)
        one.member = crowd_.add();
      else
        one.instance.emplace(machine_);
      fighters_.push_back(std::move(one));
    }
  }

  const std::string& run() {
    for (int round = 0; round < 25; ++round)
      for (int piece = 0; piece < how_.pieces; ++piece) {
        const double begin = round * 0.1, from = begin + 0.1 * piece / how_.pieces,
                     to = begin + 0.1 * (piece + 1) / how_.pieces;
        if (piece == 0)
          for (std::uint32_t i = 0; i < fighters_.size(); ++i)
            if ((static_cast<std::uint32_t>(round) + fighters_[i].turn) % 5 == 0) press(i);
        arena_.begin(ticks(from), ticks(to));
        for (std::uint32_t k = 0; k < fighters_.size(); ++k) {
          const auto i = how_.reversed ? static_cast<std::uint32_t>(fighters_.size()) - 1 - k : k;
          const Fighter& one = fighters_[i];
          const Participant who{i, 0, true, at(one, from), at(one, to)};
          EXPECT_TRUE(one.instance ? arena_.add(who, *fighters_[i].instance) : arena_.add(who, crowd_, one.member));
        }
        (void)arena_.run(*this);
      }
    return log_;
  }

  void told(std::uint32_t id, const Cue& cue) override {
    if (!how_.reversed) log_ += line(cue) + " " + std::to_string(id) + "\n";
    if (acts_at(id, cue)) {
      std::vector<Candidate> all;
      for (std::uint32_t i = 0; i < fighters_.size(); ++i) all.push_back({i, arena_.placement(i, cue.at).at});
      std::vector<Target> found;
      targets(*reach_of(cue, machine_), arena_.placement(id, cue.at), machine_.unit(), id, all, tags_, found);
      for (const Target& target : found) hurt(target.id);
    }
  }
  bool acts_at(std::uint32_t, const Cue& cue) override {
    return how_.cries && cue.what == Told::cue && cue.name() == "cry";
  }
  HitAnswer hit(const Hit& hit) override {
    EXPECT_EQ(hit.at, arena_.now());
    EXPECT_EQ(arena_.instance(hit.on)->now(), hit.at) << "everybody has come to this very instant";
    log_ += ms(hit.at) + " " + std::to_string(hit.by) + " hits " + std::to_string(hit.on) + "\n";
    hurt(hit.on);
    ++hits;
    return HitAnswer::lives;
  }
  void zone(const ZoneEvent& event) override {
    log_ += ms(event.at) + " " + std::to_string(event.owner) + (event.entered ? " takes in " : " lets out ") +
            std::to_string(event.visitor) + "\n";
  }

  int hits = 0;

 private:
  struct Fighter {
    double x = 0, speed = 0;
    bool left = false;
    std::uint32_t turn = 0;
    double height = 0;
    Member member;
    std::optional<Instance> instance;
  };
  static Ticks ticks(double seconds) { return Ticks(std::llround(seconds * static_cast<double>(kTicksPerSecond))); }
  static Placement at(const Fighter& one, double time) { return {{one.x + one.speed * time, one.height}, one.left}; }
  void press(std::uint32_t i) {
    const Pulse go = *machine_.pulse("go");
    if (fighters_[i].instance)
      fighters_[i].instance->pulse(go);
    else
      crowd_.pulse(fighters_[i].member, go);
  }
  void hurt(std::uint32_t i) {
    Instance& it = *arena_.instance(i);
    const auto health = *machine_.input<std::int32_t>("health");
    it.set(health, static_cast<std::int32_t>(std::get<std::int64_t>(it.input_value(health.index))) - 1);
    it.pulse(*machine_.pulse("struck"));
  }

  How how_;
  Machine machine_;
  Crowd crowd_;
  TagNames tags_;
  Arena arena_;
  std::vector<Fighter> fighters_;
  std::string log_;
};

TEST(Arenas, NoCutOfTimeChangesAnything) {
  int hits = 0, deaths = 0, visits = 0;
  const Brawl::How hows[] = {{},
                             {.cries = true},
                             {.cries = true, .round = true},
                             {.round = true, .margin = 0.25},
                             {.round = true, .again = true}};
  for (std::uint32_t seed = 0; seed < static_cast<std::uint32_t>(seeds(30)); ++seed)
    for (Brawl::How how : hows) {
      Brawl whole(seed, how);
      const std::string& log = whole.run();
      hits += whole.hits;
      for (std::size_t at = 0; (at = log.find("enter fall", at)) != std::string::npos; ++at) ++deaths;
      for (std::size_t at = 0; (at = log.find("takes in", at)) != std::string::npos; ++at) ++visits;
      for (const int pieces : {2, 7}) {
        how.pieces = pieces;
        EXPECT_EQ(Brawl(seed, how).run(), log) << seed;
      }
    }
  EXPECT_GT(hits, 300);
  EXPECT_GT(deaths, 50);
  EXPECT_GT(visits, 300);
}

TEST(Arenas, MembersOfACrowdAreInstances) {
  for (std::uint32_t seed = 0; seed < 30; ++seed) {
    const std::string log = Brawl(seed, {}).run();
    EXPECT_EQ(Brawl(seed, {.crowd = true}).run(), log) << seed;
    EXPECT_EQ(Brawl(seed, {.crowd = true, .pieces = 3}).run(), log) << seed;
  }
}

TEST(Arenas, TheOrderOfAddingChangesNothing) {
  const auto without_records = [](const std::string& log) {
    std::string out;
    for (std::size_t at = 0; at < log.size();) {
      const std::size_t end = log.find('\n', at) + 1;
      const std::string one = log.substr(at, end - at);
      if (one.find(" hits ") != std::string::npos || one.find(" takes in ") != std::string::npos ||
          one.find(" lets out ") != std::string::npos)
        out += one;
      at = end;
    }
    return out;
  };
  for (std::uint32_t seed = 0; seed < 30; ++seed)
    EXPECT_EQ(without_records(Brawl(seed, {}).run()), Brawl(seed, {.reversed = true}).run()) << seed;
}

// Two who stand 2 apart and face each other.
class Pair : public testing::Test, public ArenaGame {
 protected:
  Pair() : machine(machine_of(kBrawler)), arena(tags), first(machine), second(machine) {}
  void step(double milliseconds, Placement here = {{0, 0}}, Placement there = {{2, 0}, true}) {
    const Ticks from = now, to = from + seconds(milliseconds / 1000);
    arena.begin(from, to);
    EXPECT_TRUE(arena.add({1, 0, true, here, here}, first));
    EXPECT_TRUE(arena.add({2, 0, true, there, there}, second));
    if (stone) {
      EXPECT_TRUE(arena.add({3, 0, true, {{-1, 1}}, {{3, 1}}}, std::span(&*stone, 1)));
    }
    again = arena.run(*this);
    now = to;
  }
  HitAnswer hit(const Hit& hit) override {
    log += ms(hit.at) + " " + std::to_string(hit.by) + ">" + std::to_string(hit.on) + "\n";
    if (Instance* it = arena.instance(hit.on); it != nullptr && blow > 0)
      (void)it->set_by_name("health", FieldValue(std::int64_t{blow - 1}));
    if (restarts) (void)arena.instance(hit.by)->force(*machine.state("swing"));
    return answer;
  }
  void press(Instance& it) { it.pulse(*machine.pulse("go")); }

  Machine machine;
  TagNames tags;
  Arena arena;
  Instance first, second;
  std::optional<PlainBox> stone;
  Ticks now{};
  int blow = 0;  // above 0: leaves the target blow - 1 of its health
  HitAnswer answer = HitAnswer::lives;
  bool restarts = false, again = false;
  std::string log;
};

TEST_F(Pair, TheDeadDoNotStrikeOnceMore) {
  blow = 1;
  press(first);
  step(10);
  press(second);  // would hit 10 ms after it is hit
  step(1000);
  EXPECT_EQ(log, "100 1>2\n");
  EXPECT_TRUE(second.done());
  EXPECT_FALSE(first.done());
}

TEST_F(Pair, WhoStrikeAtTheSameInstantBothHit) {
  blow = 1;
  press(first);
  press(second);
  step(1000);
  EXPECT_EQ(log, "100 1>2\n100 2>1\n");
  EXPECT_TRUE(first.done() && second.done());
}

// The step is cut at the hit, and what comes before it is gone through again.
TEST_F(Pair, WhatIsForcedIsSoHoweverTheStepIsCut) {
  press(first);
  step(50);
  ASSERT_TRUE(second.force(*machine.state("swing")));
  step(200);
  EXPECT_EQ(log, "100 1>2\n150 2>1\n");
  EXPECT_FALSE(second.forced());
}

TEST_F(Pair, WhatHasNoTraitDiesOfTheAnswer) {
  answer = HitAnswer::dies;
  press(first);
  press(second);
  step(50);
  EXPECT_EQ(log, "");
  step(200);
  EXPECT_EQ(log, "100 1>2\n100 2>1\n");
  stone.emplace();
  stone->hits = true;
  stone->shape = CircleShape{0, 0, 3};
  stone->unit = 10;
  log.clear();
  step(100);
  EXPECT_EQ(log, "255 3>1\n305 3>2\n");
}

TEST_F(Pair, AMissIsAskedOnceAStepAndMayHitInTheNext) {
  answer = HitAnswer::misses;
  press(first);
  step(150);
  step(100);
  answer = HitAnswer::lives;
  step(40);
  EXPECT_EQ(log, "100 1>2\n150 1>2\n250 1>2\n");
}

TEST_F(Pair, HitsThatNeverComeToRestGoOn) {
  restarts = true;
  press(first);
  step(102);
  const auto count = std::count(log.begin(), log.end(), '\n');
  EXPECT_GE(count, 1);
  EXPECT_LE(count, 64 * 3 + 1);
  EXPECT_EQ(first.now(), now);
}

TEST_F(Pair, AnAnswerAtTheEndTakesEffectWithTheNextStep) {
  blow = 1;
  press(first);
  step(100);
  EXPECT_TRUE(again);
  EXPECT_FALSE(second.is(*machine.trait("dead")));
  step(0);
  EXPECT_FALSE(again);
  EXPECT_TRUE(second.is(*machine.trait("dead")));
}

TEST_F(Pair, MemoryGoesBack) {
  press(first);
  step(90);
  const Arena::Memory before = arena.memory();
  const std::vector<std::byte> one(first.block().begin(), first.block().end()),
      two(second.block().begin(), second.block().end());
  step(100);
  const std::string once = log;
  first.restore(one);
  second.restore(two);
  arena.recall(before);
  now = first.now();
  log.clear();
  step(100);
  EXPECT_EQ(log, once);
  EXPECT_EQ(log, "100 1>2\n");
}

TEST_F(Pair, WhatCannotTakePartIsRefused) {
  Crowd crowd(machine);
  const Member member = crowd.add();
  arena.begin(Ticks(1000), Ticks(2000));
  EXPECT_FALSE(arena.add({1}, crowd, member)) << "its clock is at 0";
  EXPECT_TRUE(arena.add({1}, first)) << "new ones begin with the step";
  EXPECT_FALSE(arena.add({1}, second)) << "the id is taken";
  EXPECT_FALSE(arena.add({2, 0, true, {{std::numeric_limits<double>::quiet_NaN(), 0}}, {}}, second));
  const PlainBox cone{true, ConeShape{}};
  EXPECT_FALSE(arena.add({3}, std::span(&cone, 1)));
  (void)arena.run(*this);
  EXPECT_EQ(first.now(), Ticks(2000));
  EXPECT_EQ(second.now(), Ticks(2000)) << "it is advanced all the same";
  arena.begin(Ticks(500), Ticks(600));
  EXPECT_FALSE(arena.add({1}, first)) << "it is past this step";
  EXPECT_EQ(arena.instance(1), nullptr);
}

// Members that take part, and their sisters that do not, in a crowd that goes on between steps.
TEST(ArenasOfCrowds, TheOthersGoOnAside) {
  struct Game : ArenaGame {
    void told(std::uint32_t id, const Cue& cue) override {
      if (cue.what == Told::cue) log += line(cue) + " " + std::to_string(id) + "\n";
    }
    void aside(Crowd&, const CrowdCue& cue) override {
      if (cue.cue.what == Told::cue) log += line(cue.cue) + " beside " + std::to_string(cue.place) + "\n";
    }
    std::string log;
  } game;
  const Machine machine = machine_of(kBrawler);
  Crowd crowd(machine);
  const Member here = crowd.add(), there = crowd.add();
  for (const Member each : {here, there}) crowd.pulse(each, *machine.pulse("go"));
  TagNames tags;
  Arena arena(tags);
  const auto step = [&](bool takes_part) {
    const Ticks from = crowd.now(), to = from + milliseconds(150);
    arena.begin(from, to);
    if (takes_part) {
      EXPECT_TRUE(arena.add({7}, crowd, here));
    }
    EXPECT_TRUE(arena.add({8}, crowd, there));
    (void)arena.run(game);
    EXPECT_EQ(crowd.now(), to);
  };
  step(true);
  step(false);
  step(true);
  EXPECT_EQ(game.log, "100 out swing:1 7\n100 out swing:1 8\n300 cry swing:3 8\n300 cry swing:3 beside 0\n");
  EXPECT_TRUE(crowd.in(here, *machine.state("wait")));
  EXPECT_TRUE(crowd.in(there, *machine.state("wait")));
}

}  // namespace
}  // namespace mobrin::test
