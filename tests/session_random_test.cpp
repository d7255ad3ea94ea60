// Sessions of chance: what was done, given as a tape, does it again.
#include "random_scene.hpp"
#include "session_support.hpp"

namespace mobrin::test {
namespace {

std::shared_ptr<const Cast> played(const Scene& scene) {
  const auto out = std::make_shared<Cast>();
  out->scene = scene;
  out->alone = false;
  return out;
}

// Goes on, back and forth, and writes by hand, up to some time.
void play_by_hand(Session& session, RandomScene& random, Ticks until) {
  const Scene& scene = session.cast().scene;
  for (int i = 0; i < 40 && session.end() < until; ++i) {
    if (random.pick(4) == 0) session.jump(random.time(4000));
    if (random.pick(2) == 0) {
      const auto actor = static_cast<std::uint32_t>(random.pick(static_cast<int>(scene.actors.size())));
      TapeStep step;
      random.add_write(step, *scene.actors[actor].machine);
      if (random.pick(8) == 0) step.freeze = random.time(200);
      (void)session.write(actor, step);
    }
    session.advance(random.time(500));
  }
  session.jump(session.end());
}

class RandomSessions : public testing::TestWithParam<Numbers> {};

TEST_P(RandomSessions, GiveTapesThatDoTheSame) {
  std::size_t tapes = 0, steps = 0;
  for (std::uint32_t seed = 0; seed < static_cast<std::uint32_t>(seeds(40)); ++seed) {
    RandomScene random(seed, GetParam());
    const auto cast = played(random.scene());
    Session session(cast);
    play_by_hand(session, random, milliseconds(3000));
    for (std::uint32_t actor = 0; actor < cast->scene.actors.size(); ++actor) {
      if (session.run().gone(actor)) continue;
      for (const Ticks from : {Ticks(0), random.time(2000) + Ticks(1)}) {
        const Tape tape = session.tape(actor, from, session.end());
        const LoadedTape read = load_tape_text(tape_text(tape), "done.tape.yaml");
        ASSERT_TRUE(read.tape) << joined(read.findings);
        Instance alone(*cast->scene.actors[actor].machine);
        RunOptions options;
        options.until = read.tape->until;
        std::string again, was;
        run_tape(alone, *read.tape, options, [&](const Cue& cue) { again += record(cue) + "\n"; });
        for (const SessionRecord& each : session.records(from + Ticks(from.count > 0), session.end(), 100'000))
          if (each.what == SceneRecord::What::told && each.actor == actor) was += record(each.cue) + "\n";
        ASSERT_EQ(again, was) << "seed " << seed << "\n" << tape_text(tape);
        ASSERT_EQ(alone.hash(), session.run().instance(actor).hash()) << "seed " << seed << "\n" << tape_text(tape);
        ++tapes;
        steps += tape.steps.size();
      }
    }
  }
  EXPECT_GT(tapes, 200u);
  EXPECT_GT(steps, 3 * tapes);
}

INSTANTIATE_TEST_SUITE_P(All, RandomSessions, testing::Values(Numbers::any, Numbers::round),
                         [](const auto& row) { return row.param == Numbers::any ? "Any" : "Round"; });

}  // namespace
}  // namespace mobrin::test
