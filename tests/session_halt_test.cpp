// Sessions: where they halt, what follows a running game, what expressions give over time.
#include "session_support.hpp"

namespace mobrin::test {
namespace {

TEST(Sessions, HaltAfterTheInstant) {
  const auto cast = cast_of(kDemo + "keeper.yaml");
  const Machine& machine = *cast->scene.actors[0].machine;
  const auto index = [](const auto& all, const auto& is) {
    return static_cast<std::uint32_t>(std::find_if(all.begin(), all.end(), is) - all.begin());
  };
  const std::uint32_t walk = machine.state("ground/walk")->index;
  const std::uint32_t step = index(machine.cues(), [](const CueDef& cue) { return cue.name.text == "step"; });
  const auto halted = [&](Halt halt) {
    Session session(cast);
    session.advance(milliseconds(100));
    (void)session.write(0, set_by_hand("move", 1.0));
    session.halts = {halt};
    session.advance(seconds(5));
    EXPECT_TRUE(session.halted());
    return session.now();
  };
  EXPECT_EQ(halted({Halt::On::state, 0, walk, ""}), milliseconds(100));
  EXPECT_EQ(halted({Halt::On::cue, 0, step, ""}), milliseconds(100) + Ticks(kTicksPerSecond / 12));
  EXPECT_EQ(halted({Halt::On::holds, 0, 0, "in(ground/walk)"}), milliseconds(100));
  Session session(cast);
  session.halts = {{Halt::On::state, 0, walk, ""}};
  session.advance(seconds(5));
  EXPECT_FALSE(session.halted());
  EXPECT_EQ(session.now(), seconds(5));
}

TEST(Sessions, SayWhyAPressRanOut) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  session.advance(milliseconds(500));
  (void)session.write(0, press_by_hand("swing"));
  const Machine& machine = session.run().instance(0).machine();
  // Waiting: what it would do.
  const auto would = session.would_consider(0);
  const auto guard = [&](const std::vector<Session::Looked>& all) {
    std::string out;
    for (const Session::Looked& each : all)
      if (machine.transitions()[each.transition].text.starts_with("pulse: swing") && each.verdict == Verdict::guard)
        out = each.parts.empty() ? "" : each.parts.back().text;
    return out;
  };
  EXPECT_EQ(guard(would), "carrying == net");
  session.advance(seconds(1));
  const Ticks shown = session.now();
  const auto looked = session.considered(0, milliseconds(500), milliseconds(610));
  EXPECT_EQ(guard(looked), "carrying == net");
  EXPECT_EQ(session.now(), shown);
  for (const Session::Looked& each : looked) EXPECT_TRUE(each.at >= milliseconds(500) && each.at <= milliseconds(610));
}

// In a scene the tape drives until a hand touches an input.
TEST(Sessions, LeaveAnInputToTheHand) {
  const auto cast = cast_of(kDemo + "dusk.scene.yaml");
  std::uint32_t keeper = 0;
  while (cast->scene.actors[keeper].name.text != "keeper") ++keeper;
  const auto value = [&](const Session& session, const char* name) {
    const Instance& instance = session.run().instance(keeper);
    for (std::uint16_t i = 0; i < instance.machine().inputs().size(); ++i)
      if (instance.machine().inputs()[i].name.text == name) return instance.input_value(i);
    return FieldValue(false);
  };
  Session session(cast);
  session.advance(milliseconds(200));
  (void)session.write(keeper, set_by_hand("move", -0.5));
  session.advance(seconds(1));
  EXPECT_EQ(value(session, "move"), FieldValue(-0.5)) << "the tape sets 1 at 0.4 s";
  EXPECT_EQ(value(session, "carrying"), FieldValue(std::string("net"))) << "the rest of the tape runs on";
  (void)session.give_back(keeper, "move");
  session.advance(seconds(1));
  EXPECT_EQ(value(session, "move"), FieldValue(0.0)) << "the tape sets 0 at 1.6 s";
}

// An expression that a write makes true halts at its instant.
TEST(Sessions, HaltWhereAWriteMakesItTrue) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  session.halts = {{Halt::On::holds, 0, 0, "health < 3"}};
  session.advance(seconds(1));
  EXPECT_FALSE(session.halted());
  (void)session.write(0, set_by_hand("health", std::int64_t{2}));
  session.advance(seconds(1));
  ASSERT_TRUE(session.halted());
  EXPECT_EQ(session.now(), seconds(1));
  const std::string shown = state_of(session);
  const auto looked = session.considered(0, seconds(1), seconds(1));
  EXPECT_FALSE(looked.empty()) << "what was looked at when it was written";
  EXPECT_EQ(state_of(session), shown);
  EXPECT_FALSE(session.waits()) << "it has taken effect";
  session.jump(milliseconds(300));
  session.jump(session.end());
  EXPECT_EQ(state_of(session), shown);
  session.advance(seconds(1));  // it holds already
  EXPECT_EQ(session.now(), seconds(2));
}

// --- what runs elsewhere --------------------------------------------------------------------------------------------

// An instance that runs elsewhere is followed from what was written to it: nothing is taken from its blocks while that
// leads to the same; where it was restored or placed, the blocks are, and it is told.
TEST(Sessions, FollowWhatRunsElsewhere) {
  const LoadedCast loaded = load_cast(kDemo + "keeper.yaml");
  ASSERT_TRUE(loaded.cast);
  const Machine& machine = *loaded.cast->scene.actors[0].machine;
  Session session(loaded.cast);
  Instance game(machine, {4, seconds(37)});
  std::mt19937 random(5);
  const auto pick = [&](int below) { return static_cast<int>(random() % static_cast<unsigned>(below)); };
  std::vector<SessionWrite> writes;
  std::string told_there;
  const auto write = [&](const TapeStep& step) {
    SessionWrite out;
    out.at = game.now();
    out.step = step;
    writes.push_back(out);
    write_step(game, step);
  };
  std::vector<std::byte> snapshot;
  int placed = 0, restores = 0;
  std::map<std::int64_t, std::uint64_t> was;
  for (int frame = 0; frame < 600; ++frame) {
    if (pick(20) == 0) write(press_by_hand(pick(2) == 0 ? "hop" : "swing"));
    if (pick(10) == 0) write(set_by_hand("move", (pick(5) - 2) / 2.0));
    if (pick(25) == 0) write(set_by_hand("grounded", pick(3) != 0));
    if (pick(40) == 0) write(set_by_hand("carrying", std::string(pick(2) == 0 ? "net" : "nothing")));
    CueList<64> cues(kAllRecords);
    (void)game.advance(Ticks(kTicksPerSecond / 60 + pick(3)), cues);
    for (const Cue& cue : cues) {
      SessionRecord record;
      record.at = cue.at;
      record.cue = cue;
      told_there += told_in({record});
    }
    bool jumped = false;
    if (frame % 200 == 50) snapshot.assign(game.block().begin(), game.block().end());
    if (frame % 200 == 150) {  // a rollback, two thirds of which are not seen as such
      ASSERT_TRUE(game.restore(snapshot));
      jumped = true;
      ++restores;
    }
    if (frame == 320) {
      ASSERT_TRUE(game.place(*machine.state("ground/land")));
      jumped = true;
    }
    const auto size = machine.block_size();
    ASSERT_TRUE(
        session.follow(writes, {{game.block().begin(), game.block().begin() + static_cast<std::ptrdiff_t>(size)}}));
    writes.clear();
    ASSERT_EQ(session.now(), game.now()) << frame;
    ASSERT_EQ(session.run().instance(0).hash(), game.hash()) << frame;
    was.erase(was.lower_bound(game.now().count), was.end());
    was[game.now().count] = game.hash();
    placed += jumped ? 1 : 0;
  }
  ASSERT_GE(restores, 3);
  int taken = 0;
  for (const SessionWrite& each : session.writes(Ticks(0), session.end(), SIZE_MAX))
    taken += each.blocks != nullptr ? 1 : 0;
  EXPECT_LE(taken, placed + 1) << "the first, and where it was put elsewhere";
  EXPECT_EQ(session.first(), seconds(37) + Ticks(session.first().count - seconds(37).count));
  // Every frame can be gone back to, those too at which it was put elsewhere.
  for (const auto& [at, hash] : was) {
    session.jump(Ticks(at));
    ASSERT_EQ(session.run().instance(0).hash(), hash) << at;
  }
  session.jump(session.end());
  // Looking back while it goes on.
  const auto some = was.lower_bound(was.rbegin()->first - kTicksPerSecond);
  session.jump(Ticks(some->first));
  EXPECT_EQ(session.run().instance(0).hash(), some->second);
  CueList<64> cues;
  (void)game.advance(Ticks(kTicksPerSecond / 60), cues);
  const auto size = static_cast<std::ptrdiff_t>(machine.block_size());
  ASSERT_TRUE(session.follow({}, {{game.block().begin(), game.block().begin() + size}}));
  EXPECT_EQ(session.now().count, some->first) << "what is looked at stays";
  EXPECT_EQ(session.end(), game.now());
  // What does not fit is refused.
  EXPECT_FALSE(session.follow({}, {}));
  EXPECT_FALSE(session.follow({}, {{std::byte{1}}}));
}

TEST(Sessions, RefuseWhoIsNotThere) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  EXPECT_FALSE(session.write(7, press_by_hand("hop")));
  EXPECT_FALSE(session.give_back(7, "hop"));
  EXPECT_FALSE(session.take_up(3));
  const LoadedCast none = load_cast(kDemo + "keeper.clips.yaml");
  EXPECT_FALSE(none.cast);
  EXPECT_NE(joined(none.findings).find("holds no machine"), std::string::npos) << joined(none.findings);
}

// --- what is drawn over time ----------------------------------------------------------------------------------------

TEST(Sessions, ValuesOfAnExpressionMoveNothing) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  session.advance(seconds(1));
  (void)session.write(0, set_by_hand("move", 0.5));
  session.advance(seconds(1));
  (void)session.write(0, set_by_hand("health", std::int64_t{2}));  // waits
  const std::string before = state_of(session);
  const std::uint64_t number = session.number();
  const auto values = session.values(0, "abs(move) * 4 + health", Ticks(0), seconds(3));
  ASSERT_EQ(values.size(), 2u);
  EXPECT_EQ(values[0].value, 6);
  EXPECT_EQ(values[1].value, 8);
  EXPECT_GE(values[1].at, seconds(1));
  EXPECT_LE(values[1].at, seconds(1) + seconds(3.0 / 400));
  EXPECT_EQ(state_of(session), before);
  EXPECT_EQ(session.number(), number);
  EXPECT_TRUE(session.waits());
  EXPECT_EQ(session.now(), seconds(2));
  // Of an instant that waits, what holds with it once time goes on.
  session.advance(seconds(1));
  EXPECT_EQ(session.values(0, "health", seconds(1), seconds(3)).back().value, 2);
  EXPECT_EQ(session.values(0, "in(walk)", Ticks(0), seconds(3)).back().value, 1);
  EXPECT_TRUE(session.values(7, "health", Ticks(0), seconds(3)).empty());
  EXPECT_TRUE(session.values(0, "health", seconds(4), seconds(5)).empty());
}

TEST(Sessions, ValuesAreOfTheStretchThatIsShown) {
  Session session(cast_of(kDemo + "keeper.yaml"));
  session.advance(seconds(1));
  const std::string text = whole_file(kDemo + "keeper.yaml");
  session.reload(cast_of(kDemo + "keeper.yaml",
                         {kDemo + "keeper.yaml", with_words(text, "move:     {float: 0,", "move:     {float: 0.25,")}));
  session.advance(seconds(1));
  const auto values = session.values(0, "1", Ticks(0), seconds(2));
  ASSERT_EQ(values.size(), 1u);
  EXPECT_GE(values[0].at, seconds(1));
  session.jump(seconds(0.5));
  EXPECT_EQ(session.values(0, "1", Ticks(0), seconds(2))[0].at, Ticks(0));
}

}  // namespace
}  // namespace mobrin::test
