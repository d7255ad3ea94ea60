// Sessions: any instant can be gone back to, futures that were left are kept, reloads cut the past.
#include "mobrin/live/session.hpp"

#include <gtest/gtest.h>

#include <map>
#include <random>

#include "mobrin/io/file.hpp"
#include "mobrin/io/record.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

const std::string kDemo = std::string(MOBRIN_DEMO) + "/";

std::shared_ptr<const Cast> cast_of(const std::string& path, const FileText& instead = {}) {
  LoadedCast loaded = load_cast(path, instead);
  EXPECT_TRUE(loaded.cast) << joined(loaded.findings);
  return loaded.cast;
}

TapeStep set_by_hand(const std::string& input, FieldValue value) {
  TapeStep step;
  step.set.emplace_back(input, std::move(value));
  return step;
}
TapeStep press_by_hand(const std::string& input) {
  TapeStep step;
  step.pulses.emplace_back(input);
  return step;
}

// All that a session shows: who is there, where, in which state.
std::string state_of(const Session& session) {
  std::string out = std::to_string(session.stretch()) + ":";
  const SceneRun& run = session.run();
  for (std::size_t i = 0; i < run.actors(); ++i) {
    if (run.gone(i)) continue;
    const Placement place = run.placement(i, run.now());
    out += run.actor(i).name.text + " " + std::to_string(run.instance(i).hash()) + " " + std::to_string(place.at.x) +
           " " + std::to_string(place.at.y) + (place.faces_left ? " <\n" : " >\n");
  }
  return out;
}

std::string told_in(const std::vector<SessionRecord>& records) {
  std::string out;
  for (const SessionRecord& each : records)
    out += std::to_string(each.at.count) + " " + std::to_string(each.actor) + " " +
           std::to_string(static_cast<int>(each.what)) + " " + std::to_string(static_cast<int>(each.cue.what)) + " " +
           std::string(each.cue.state_path()) + std::string(each.cue.what == Told::cue ? each.cue.name() : "") +
           each.text + "\n";
  return out;
}

std::string whole_file(const std::string& path) { return *mobrin::read_file(path); }
std::string with_words(std::string text, const std::string& from, const std::string& to) {
  const std::size_t at = text.find(from);
  EXPECT_NE(at, std::string::npos) << from;
  return at == std::string::npos ? text : text.replace(at, from.size(), to);
}

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
