// Sessions: any instant can be gone back to, futures that were left are kept, reloads cut the past.
#include "session_support.hpp"

namespace mobrin::test {
namespace {

// --- any instant ----------------------------------------------------------------------------------------------------

// Ten minutes by hand, with a force and two reloads within, of a machine alone and of a scene.
class AnyInstant : public testing::TestWithParam<const char*> {};
TEST_P(AnyInstant, IsWhatItWas) {
  const bool alone = std::string(GetParam()) == "keeper.yaml";
  const std::string path = kDemo + GetParam();
  const std::string machine = kDemo + "keeper.yaml";
  Session session(cast_of(path));
  std::uint32_t keeper = 0;
  while (session.run().actor(keeper).name.text != "keeper") ++keeper;
  std::mt19937 random(7);
  const auto pick = [&](int below) { return static_cast<int>(random() % static_cast<unsigned>(below)); };
  std::map<std::int64_t, std::string> was;
  const Ticks until = alone ? seconds(600) : seconds(60);
  int reloads = 0;
  while (session.now() < until) {
    switch (pick(12)) {
      case 0:
        (void)session.write(keeper, press_by_hand("swing"));
        break;
      case 1:
        (void)session.write(keeper, set_by_hand("move", (pick(5) - 2) / 2.0));
        break;
      case 2:
        (void)session.write(keeper, set_by_hand("grounded", pick(2) == 0));
        (void)session.write(keeper, press_by_hand("hop"));
        break;
      case 3:
        (void)session.write(keeper, set_by_hand("health", std::int64_t{3 + pick(3)}));
        (void)session.write(keeper, set_by_hand("carrying", std::string(pick(2) == 0 ? "net" : "nothing")));
        break;
      case 4: {
        TapeStep step;
        if (pick(3) == 0) step.rate = pick(3) / 2.0 + 0.25;
        if (pick(3) == 0) step.freeze = milliseconds(pick(200));
        if (pick(20) == 0) step.reset = true;
        if (pick(20) == 0) step.force = Text("hurt");
        (void)session.write(keeper, step);
        break;
      }
      default:
        break;
    }
    if ((reloads == 0 && session.now() > Ticks(until.count / 3)) ||
        (reloads == 1 && session.now() > Ticks(until.count / 2))) {
      const std::string text = whole_file(machine);
      session.reload(
          cast_of(path, {machine, with_words(text, "{pulse: 110ms}", reloads == 0 ? "{pulse: 90ms}" : "pulse")}));
      ++reloads;
      EXPECT_EQ(session.stretch(), static_cast<std::uint32_t>(reloads));
    }
    session.advance(Ticks(1 + random() % 400'000'000));
    was[session.now().count] = state_of(session);
  }
  ASSERT_EQ(reloads, 2);
  const std::string all = told_in(session.records(Ticks(0), session.end(), SIZE_MAX));
  std::vector<std::int64_t> instants;
  for (const auto& [at, state] : was) instants.push_back(at);
  const int jumps = alone ? 1000 : 200;
  for (int i = 0; i < jumps; ++i) {
    const std::int64_t at = instants[static_cast<std::size_t>(pick(static_cast<int>(instants.size())))];
    session.jump(Ticks(at));
    ASSERT_EQ(session.now().count, at);
    ASSERT_EQ(state_of(session), was[at]) << at;
    if (pick(4) == 0 && session.now() < session.end()) {  // and on from there
      const auto next = was.upper_bound(at);
      session.advance(Ticks(next->first - at));
      ASSERT_EQ(state_of(session), next->second) << at << " to " << next->first;
    }
  }
  EXPECT_EQ(told_in(session.records(Ticks(0), session.end(), SIZE_MAX)), all);
  EXPECT_TRUE(session.strands().empty());
}
INSTANTIATE_TEST_SUITE_P(Demo, AnyInstant, testing::Values("keeper.yaml", "dusk.scene.yaml", "smoke.scene.yaml"),
                         [](const auto& row) {
                           return std::string(row.param).substr(0, std::string(row.param).find('.'));
                         });

// --- a tape, and what is known from elsewhere
// -------------------------------------------------------------------------

// A session that is fed a tape tells what the tape's own run tells, at whatever steps.
TEST(Sessions, PlayATapeAsItsRunDoes) {
  for (const char* const name : {"keeper", "hornet", "smoker", "hive"}) {
    const auto cast = cast_of(kDemo + name + ".yaml");
    const LoadedTape tape = load_tape(kDemo + name + ".tape.yaml");
    ASSERT_TRUE(tape.tape) << name;
    Instance instance(*cast->scene.actors[0].machine);
    std::string expected;
    run_tape(instance, *tape.tape, {}, [&](const Cue& cue) {
      SessionRecord record;
      record.at = cue.at;
      record.cue = cue;
      expected += told_in({record});
    });
    for (const std::int64_t step : {7'000'000, 705'600'000, 33'333'333}) {
      Session session(cast, &*tape.tape);
      while (session.now() < *tape.tape->until)
        session.advance(std::min(Ticks(step), *tape.tape->until - session.now()));
      EXPECT_EQ(told_in(session.records(Ticks(0), session.end(), SIZE_MAX)), expected) << name << " by " << step;
      EXPECT_EQ(session.run().instance(0).hash(), instance.hash()) << name;
    }
  }
}

// What was done by hand becomes a tape that does the same.
TEST(Sessions, GiveATapeOfWhatWasDone) {
  const auto cast = cast_of(kDemo + "keeper.yaml");
  Session session(cast);
  session.advance(milliseconds(300));
  (void)session.write(0, set_by_hand("carrying", std::string("net")));
  (void)session.write(0, press_by_hand("swing"));
  session.advance(milliseconds(400));
  (void)session.write(0, set_by_hand("move", 1.0));
  session.advance(seconds(1));
  const Tape tape = session.tape(0, Ticks(0), session.end());
  Instance instance(*cast->scene.actors[0].machine);
  RunOptions options;
  options.until = session.end();
  run_tape(instance, tape, options, [](const Cue&) {});
  EXPECT_EQ(instance.hash(), session.run().instance(0).hash());
  // From the middle: with what the inputs were there.
  const Tape later = session.tape(0, milliseconds(500), session.end());
  ASSERT_FALSE(later.steps.empty());
  EXPECT_EQ(later.steps[0].at, Ticks(0));
  EXPECT_EQ(later.steps[0].set[0].first.text, "carrying");
  EXPECT_EQ(*later.until, session.end() - milliseconds(500));
  // It carries the state of then, so it goes on alike, also as a file.
  ASSERT_TRUE(later.save);
  const LoadedTape read = load_tape_text(tape_text(later), "later.tape.yaml");
  ASSERT_TRUE(read.tape) << joined(read.findings);
  Instance other(*cast->scene.actors[0].machine);
  options.until = read.tape->until;
  std::string told_again;
  run_tape(other, *read.tape, options, [&](const Cue& cue) {
    SessionRecord record;
    record.at = cue.at;
    record.cue = cue;
    told_again += told_in({record});
  });
  EXPECT_EQ(other.hash(), session.run().instance(0).hash());
  EXPECT_EQ(told_again, told_in(session.records(milliseconds(500) + Ticks(1), session.end())));
  Session taken_up(cast, &*read.tape);
  EXPECT_EQ(taken_up.now(), milliseconds(500));
  taken_up.advance(*later.until);
  EXPECT_EQ(taken_up.run().instance(0).hash(), session.run().instance(0).hash());
}

// --- other futures
// ----------------------------------------------------------------------------------------------------

TEST(Sessions, AWriteInThePastBeginsAStrandThatCanBeTakenUpAgain) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  session.advance(seconds(1));
  (void)session.write(0, set_by_hand("move", 1.0));
  session.advance(seconds(2));
  const std::string first = state_of(session), first_told = told_in(session.records(Ticks(0), session.end()));
  session.jump(seconds(2));
  session.advance(milliseconds(100));  // over what is known: nothing is left
  EXPECT_TRUE(session.strands().empty());
  EXPECT_EQ(session.end(), seconds(3));
  (void)session.write(0, press_by_hand("hop"));
  ASSERT_EQ(session.strands().size(), 1u);
  EXPECT_EQ(session.strands()[0].from, milliseconds(2100));
  EXPECT_EQ(session.strands()[0].to, seconds(3));
  EXPECT_EQ(session.end(), milliseconds(2100));
  EXPECT_TRUE(session.waits());
  session.advance(milliseconds(500));
  EXPECT_FALSE(session.waits());
  const std::string second = state_of(session);
  EXPECT_NE(second, first);
  // A third from the second, then back to the first through both.
  session.jump(milliseconds(2300));
  (void)session.write(0, set_by_hand("health", std::int64_t{0}));
  session.advance(seconds(1));
  ASSERT_EQ(session.strands().size(), 2u);
  const std::uint32_t first_id = session.strands()[1].id, second_id = session.strands()[0].id;
  ASSERT_TRUE(session.take_up(second_id));
  session.jump(session.end());
  EXPECT_EQ(state_of(session), second);
  ASSERT_TRUE(session.take_up(first_id));
  session.jump(session.end());
  EXPECT_EQ(state_of(session), first);
  EXPECT_EQ(told_in(session.records(Ticks(0), session.end())), first_told);
  EXPECT_EQ(session.strands().size(), 2u);
  EXPECT_FALSE(session.take_up(first_id)) << "it is shown now";
}

// Random hands, jumps and strands: each future is what it was when it is taken up again.
TEST(Sessions, KeepEveryFutureAsItWas) {
  int checked = 0;
  for (std::uint32_t seed = 0; seed < 60; ++seed) {
    std::mt19937 random(seed);
    const auto pick = [&](int below) { return static_cast<int>(random() % static_cast<unsigned>(below)); };
    Session session(cast_of(kDemo + "keeper.yaml"));
    std::map<std::uint32_t, std::string> ends;  // by strand: what is shown at its end, and all that was told
    const auto whole = [&] {
      const Ticks now = session.now();
      session.jump(session.end());
      const std::string out = state_of(session) + told_in(session.records(Ticks(0), session.end(), SIZE_MAX));
      session.jump(now);
      return out;
    };
    for (int i = 0; i < 60; ++i) {
      const std::string before = whole();
      const auto known = session.strands();
      switch (pick(5)) {
        case 0:
          session.jump(
              Ticks(static_cast<std::int64_t>(random() % static_cast<unsigned long>(session.end().count + 1))));
          break;
        case 1:
          (void)session.write(0, pick(2) == 0 ? set_by_hand("move", pick(3) - 1.0) : press_by_hand("hop"));
          break;
        case 2: {
          if (known.empty()) break;
          const std::uint32_t id = known[static_cast<std::size_t>(pick(static_cast<int>(known.size())))].id;
          ASSERT_TRUE(session.take_up(id));
          if (ends.contains(id)) {
            ASSERT_EQ(whole(), ends[id]) << seed << " " << i;
          }
          checked += ends.contains(id) ? 1 : 0;
          break;
        }
        default:
          session.advance(Ticks(random() % 300'000'000));
      }
      // The one that was left just now; where one was taken up through others these were left after it.
      std::uint32_t left = UINT32_MAX;
      for (const StrandInfo& each : session.strands())
        if (std::none_of(known.begin(), known.end(), [&](const StrandInfo& other) { return other.id == each.id; }))
          left = std::min(left, each.id);
      if (left != UINT32_MAX) ends[left] = before;
    }
    EXPECT_LE(session.strands().size(), SessionLimits().strands);
  }
  EXPECT_GT(checked, 200);
}

TEST(Sessions, ForgetWhatIsTooOld) {
  SessionLimits limits;
  limits.kept = seconds(5);
  Session session(cast_of(kDemo + "keeper.yaml"), nullptr, limits);
  for (int i = 0; i < 20; ++i) {
    (void)session.write(0, press_by_hand("hop"));
    session.advance(seconds(1));
  }
  EXPECT_GE(session.first(), seconds(14));
  EXPECT_LE(session.first(), seconds(15));
  session.jump(Ticks(0));
  EXPECT_EQ(session.now(), session.first());
  EXPECT_TRUE(session.records(Ticks(0), session.first() - Ticks(1)).empty());
  limits.kept = seconds(600);
  limits.bytes = 4096;
  Session small(cast_of(kDemo + "keeper.yaml"), nullptr, limits);
  small.advance(seconds(100));
  EXPECT_GT(small.first(), seconds(90));
}

// --- files that change
// -------------------------------------------------------------------------------------------------

TEST(Sessions, GoOnFromAnOlderStretchWithTheNewestMachine) {
  const std::string file = kDemo + "keeper.yaml";
  Session session(cast_of(file));
  session.advance(seconds(1));
  session.reload(
      cast_of(file, {file, with_words(whole_file(file), "abs(move) > 0.1, to: walk", "abs(move) > 0.6, to: walk")}));
  session.advance(seconds(1));
  const std::string after = state_of(session);
  session.jump(milliseconds(500));
  EXPECT_EQ(session.stretch(), 0u);
  session.advance(milliseconds(1500));
  EXPECT_EQ(state_of(session), after) << "over the reload";
  session.jump(milliseconds(500));
  (void)session.write(0, set_by_hand("move", 0.5));
  EXPECT_EQ(session.stretch(), 1u);
  session.advance(milliseconds(100));
  EXPECT_EQ(session.run().instance(0).machine().states()[session.run().instance(0).active()].path, "ground/stand");
  EXPECT_EQ(session.strands().size(), 1u);
}

// The loop that people work in: a press, a change of the file, the same press again.
TEST(Sessions, PlayTheSamePressesWithTheNewFile) {
  const std::string file = kDemo + "keeper.yaml";
  Session session(cast_of(file));
  session.advance(milliseconds(500));
  (void)session.write(0, press_by_hand("hop"));
  session.advance(milliseconds(50));
  const auto path = [&] {
    return session.run().instance(0).machine().states()[session.run().instance(0).active()].path;
  };
  EXPECT_EQ(path(), "air/leap");
  session.reload(cast_of(file, {file, with_words(whole_file(file), "{pulse: hop, to: air}", "{pulse: hop, to: net}")}));
  session.again(seconds(10));
  EXPECT_EQ(session.now(), milliseconds(550));
  EXPECT_EQ(path(), "ground/net");
  EXPECT_EQ(session.strands().size(), 1u);
}

TEST(Sessions, NameWhatWasLost) {
  const std::string file = kDemo + "keeper.yaml";
  Session session(cast_of(file));
  (void)session.write(0, set_by_hand("carrying", std::string("smoker")));
  session.advance(milliseconds(100));
  session.reload(
      cast_of(file, {file, with_words(with_words(whole_file(file), "[nothing, net, smoker]", "[nothing, net]"),
                                      "[1, 2, 3]", "[1, 2]")}));
  ASSERT_EQ(session.losses().size(), 1u);
  EXPECT_EQ(session.losses()[0].first, "keeper");
  EXPECT_EQ(session.losses()[0].second.name, "carrying");
}

// --- halts and reasons
// --------------------------------------------------------------------------------------------------

}  // namespace
}  // namespace mobrin::test
