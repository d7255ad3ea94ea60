// Scenes of chance: neither cuts of time nor mirrors nor going back change what happens in them.
#include "random_scene.hpp"

namespace mobrin::test {
namespace {

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
    ASSERT_EQ(SceneLog(mirrored(scene), true).whole(scene.until), whole) << "seed " << seed;
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
