// Scenes of chance: neither cuts of time nor mirrors nor going back change what happens in them.
#include <algorithm>
#include <cmath>
#include <random>

#include "mobrin/io/scene.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// On a grid, places, ways and instants are round numbers, so that much falls on borders and on one tick.
enum class Numbers { any, round };

// A scene of the apiary's machines with tapes, moves and hits of chance.
class RandomScene {
 public:
  RandomScene(std::uint32_t seed, Numbers numbers) : random_(seed), numbers_(numbers) {}

  Scene scene() {
    Scene out;
    out.until = seconds(4);
    if (pick(2) == 0) out.gravity = number(2, 30);
    if (pick(3) == 0) out.ground = number(-1, 1);
    const int count = 2 + pick(5);
    for (int i = 0; i < count; ++i) out.actors.push_back(actor(static_cast<char>('a' + i), count));
    SceneSpawn puff;
    puff.what = "puff";
    puff.machine = machine("puff");
    puff.velocity = {number(-1, 1), number(-0.5, 2)};
    puff.falls = pick(2) == 0;
    if (pick(2) == 0) puff.lasts = time(1500);
    out.spawns.push_back(puff);
    return out;
  }
  Ticks time(int most_milliseconds) {
    if (numbers_ == Numbers::any) return Ticks(static_cast<std::int64_t>(number(0, most_milliseconds) * 705'600));
    return pick(4) > 0 ? milliseconds(50 * pick(std::max(1, most_milliseconds / 50)))
                       : Ticks(kTicksPerSecond / 60 * pick(std::max(1, most_milliseconds * 60 / 1000)));
  }
  std::vector<Ticks> cuts(int count) {
    std::vector<Ticks> out;
    for (int i = 0; i < count; ++i) out.push_back(time(4000));
    std::sort(out.begin(), out.end());
    return out;
  }

 private:
  static Machine machine(const std::string& name) {
    static std::map<std::string, Machine> all;
    auto known = all.find(name);
    if (known == all.end()) known = all.emplace(name, *load_character(MOBRIN_DEMO "/" + name + ".yaml").machine).first;
    return known->second;
  }
  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }
  double number(double low, double high) {
    if (numbers_ == Numbers::round) return std::round((low + (high - low) * pick(9) / 8) * 8) / 8;
    return std::uniform_real_distribution<double>(low, high)(random_);
  }
  std::string state_of(const Machine& machine) {
    return machine.states()[static_cast<std::size_t>(1 + pick(static_cast<int>(machine.states().size()) - 1))].path;
  }

  SceneActor actor(char name, int count) {
    const char* const files[] = {"keeper", "hornet", "marsh_hornet", "hive", "smoker"};
    SceneActor out;
    out.name = std::string(1, name);
    const std::string file = files[pick(5)];
    out.machine = machine(file);
    out.start = {{number(-3, 3), pick(2) == 0 ? 0 : number(-1, 1.5)}, pick(2) == 0, pick(4) == 0 ? number(0.5, 2) : 1};
    out.tags = {file == "marsh_hornet" ? "hornet" : file};
    for (const Ticks at : cuts(pick(14))) out.tape.steps.push_back(step(at, *out.machine));
    Ticks free{};
    for (int i = pick(6); i > 0; --i) {
      out.moves.push_back(move(free + time(500), name, count));
      free = out.moves.back().at + out.moves.back().lasts;
    }
    for (const InputDef& input : out.machine->inputs()) {
      if (pick(3) == 0 && out.rules.size() < 3) out.rules.push_back(rule(input));
      if (input.name.text == "grounded" && pick(2) == 0) out.grounded = input.name;
    }
    return out;
  }
  TapeStep step(Ticks at, const Machine& machine) {
    TapeStep out;
    out.at = at;
    switch (pick(14)) {
      case 0:
        out.rate = pick(4) * 0.5;
        break;
      case 1:
        out.freeze = time(300);
        break;
      case 2:
        out.place = Text(state_of(machine));
        out.played = time(500);
        break;
      case 3:
        out.force = Text(state_of(machine));
        break;
      case 4:
        out.reset = true;
        break;
      default:
        break;
    }
    for (int i = 0; i < 2; ++i) {
      const InputDef& input =
          machine.inputs()[static_cast<std::size_t>(pick(static_cast<int>(machine.inputs().size())))];
      if (std::holds_alternative<PulseInput>(input.kind))
        out.pulses.push_back(input.name);
      else
        out.set.emplace_back(input.name, value_of(input));
    }
    return out;
  }
  FieldValue value_of(const InputDef& input) {
    if (std::holds_alternative<BoolInput>(input.kind)) return pick(2) == 0;
    if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
      return choice->choices[static_cast<std::size_t>(pick(static_cast<int>(choice->choices.size())))].text;
    if (const auto* whole = std::get_if<IntInput>(&input.kind)) {
      const int low = std::max(whole->min, -5);
      return static_cast<std::int64_t>(low + pick(std::min(12, whole->max - low + 1)));
    }
    const auto& real = std::get<FloatInput>(input.kind);
    return number(std::max(real.min, -200.0), std::min(real.max, 200.0));
  }
  SceneMove move(Ticks at, char mover, int count) {
    SceneMove out;
    out.at = at;
    if (pick(6) > 0) out.lasts = time(900);
    out.by = {number(-2, 2), number(-0.75, 0.75)};
    if (pick(3) == 0) out.faces_left = pick(2) == 0;
    const char whom = static_cast<char>('a' + pick(count));
    if (pick(4) > 0 || whom == mover || out.lasts.count == 0) return out;
    out.follows = std::string(1, whom);
    out.by = {};
    out.keeps = number(0, 1);
    out.speed = number(0.5, 3);
    out.faces_it = pick(2) == 0;
    return out;
  }
  HitRule rule(const InputDef& input) {
    const char* const boxes[] = {"", "sting", "net", "smoke"};
    HitRule out;
    out.box = boxes[pick(4)];
    if (std::holds_alternative<PulseInput>(input.kind)) out.pulses.push_back(input.name);
    if (std::holds_alternative<IntInput>(input.kind)) out.add.emplace_back(input.name, -pick(4));
    return out;
  }

  std::mt19937 random_;
  Numbers numbers_;
};

// Everything that a run tells, with where it happens; `mirrored`: as in a mirror.
class SceneLog {
 public:
  explicit SceneLog(const Scene& scene, bool mirrored = false) : run(scene), mirrored_(mirrored) {}
  void to(Ticks until) {
    run.run(until, [&](const SceneRecord& record) { note(record); });
  }
  // With where everybody has come to.
  [[nodiscard]] std::string whole(Ticks until) {
    to(until);
    for (std::size_t i = 0; i < run.actors(); ++i)
      text += run.actor(i).name.text + " " + std::to_string(run.instance(i).hash()) + "\n";
    return text;
  }

  SceneRun run;
  std::string text;
  std::size_t hits = 0, visits = 0;

 private:
  void note(const SceneRecord& record) {
    hits += record.what == SceneRecord::What::hit ? 1 : 0;
    visits += record.what == SceneRecord::What::zone ? 1 : 0;
    text += std::to_string(record.at.count) + " " + run.actor(record.actor).name.text;
    if (record.what == SceneRecord::What::told)
      text += " " + line(record.cue);
    else
      text += " " + std::to_string(static_cast<int>(record.what)) + " " + run.actor(record.other).name.text + " " +
              std::string(record.box) + " " + std::string(record.hurt) + " " + std::string(record.hit_cue) + " " +
              std::string(record.zone) + (record.entered ? " in" : " out");
    text += at(run.placement(record.actor, record.at).at) + at(record.where) + "\n";
  }
  [[nodiscard]] std::string at(Vec2 place) const {
    char out[64];
    std::snprintf(out, sizeof out, " %.7f %.7f", (mirrored_ ? -place.x : place.x) + 0.0, place.y + 0.0);
    return out;
  }
  bool mirrored_;
};

std::string in_pieces(const Scene& scene, const std::vector<Ticks>& cuts) {
  SceneLog log(scene);
  for (const Ticks cut : cuts) log.to(cut);
  return log.whole(scene.until);
}

std::string in_a_mirror(Scene scene) {
  for (SceneActor& actor : scene.actors) {
    actor.start.at.x = -actor.start.at.x;
    actor.start.faces_left = !actor.start.faces_left;
    for (SceneMove& move : actor.moves) {
      move.by.x = -move.by.x;
      if (move.faces_left) move.faces_left = !*move.faces_left;
    }
  }
  return SceneLog(scene, true).whole(scene.until);
}

class RandomScenes : public testing::TestWithParam<Numbers> {};

TEST_P(RandomScenes, AreTheSameHoweverTheyAreRun) {
  std::size_t hits = 0, visits = 0;
  const auto count = static_cast<std::uint32_t>(seeds(120));
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    RandomScene random(seed, GetParam());
    const Scene scene = random.scene();
    SceneLog log(scene);
    const std::string whole = log.whole(scene.until);
    hits += log.hits;
    visits += log.visits;
    std::vector<Ticks> even;
    for (int i = 1; i < 480; ++i) even.push_back(Ticks(kTicksPerSecond / 120 * i));
    ASSERT_EQ(in_pieces(scene, even), whole) << "seed " << seed;
    ASSERT_EQ(in_pieces(scene, random.cuts(60)), whole) << "seed " << seed;
    ASSERT_EQ(in_a_mirror(scene), whole) << "seed " << seed;
    // Gone back to, by the same run and by another.
    SceneLog on(scene), other(scene);
    const Ticks then = random.time(3000);
    on.to(then);
    const SceneRun::Moment moment = on.run.save();
    on.run.run(then + random.time(1000), [](const SceneRecord&) {});
    on.run.restore(moment);
    other.run.restore(moment);
    other.text = on.text;
    ASSERT_EQ(on.whole(scene.until), whole) << "seed " << seed;
    ASSERT_EQ(other.whole(scene.until), whole) << "seed " << seed;
  }
  EXPECT_GT(hits, count / 4);
  EXPECT_GT(visits, count / 2);
}

INSTANTIATE_TEST_SUITE_P(All, RandomScenes, testing::Values(Numbers::any, Numbers::round),
                         [](const auto& row) { return row.param == Numbers::any ? "Any" : "Round"; });

}  // namespace
}  // namespace mobrin::test
