// What a game can bring about through a window: proved where it surely is open while what it lies in goes on, and where
// it is proved random play comes to it.
#include <algorithm>
#include <random>
#include <string>
#include <vector>

#include "claim_answers.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A blow of 600 ms that leads on from 300 to 500 ms, where `again` is open, and what else leads out of it.
struct Combo {
  const char* name;
  const char* rules;       // of the blow, before the one that leads on
  const char* answer;      // to whether it can be led on from standing
  const char* start = "";  // of the blow
  const char* plays = "clip: cut";
  const char* on = "pulse: light, during: again";
  const char* beside = "";             // regions
  const char* begun = "pulse: light";  // the blow
};

class ThroughAWindow : public testing::TestWithParam<Combo> {};

TEST_P(ThroughAWindow, ItCanBeBroughtAbout) {
  const Combo& combo = GetParam();
  const std::string states = "      stand: {length: 2s, go: [{" + std::string(combo.begun) + ", to: blow" +
                             combo.start + "}]}\n      blow: {" + combo.plays + ", go: [" + combo.rules + "{" +
                             combo.on + ", to: on}, {at: end, to: stand}]}\n      on: {go: [{after: 1s, to: stand}]}\n";
  const Loaded loaded = loaded_from(
      "inputs: {light: pulse, kept: {pulse: 200ms}, far: false, v: {float: 1, min: 0, max: 2}, "
      "back: {float: 1, min: -2, max: 2}, free: true}\ncues: {hiss: sound, hum: sound}\n"
      "clips:\n  cut: {length: 600ms}\n  spin: {length: 600ms, play: loop}\n  swing: {frames: [0-5], fps: 10}\n"
      "marks:\n  cut: {windows: {again: 0.3s-0.5s}, cues: {0.1s: hiss, 0.35s: hum}}\n"
      "  spin: {windows: {again: 0.3s-0.5s}}\n  swing: {windows: {again: [1, 3-4]}}\n"
      "regions:\n  body:\n    initial: stand\n    states:\n" +
      states + combo.beside + "claims: {it: {from: in(body/stand), can: in(body/on)}}\n");
  ASSERT_TRUE(loaded.machine);
  EXPECT_EQ(answers_of(loaded), std::string("it: ") + combo.answer + "\n");
}

const char* const kTimer =
    "  timer: {initial: off, states: {off: {go: [{cue: hiss, to: wait}]}, wait: {go: [{after: 2s, to: off}]}}}\n";
const char* const kJumpy =
    "  timer: {initial: off, states: {off: {go: [{after: 1s, to: gone}]}, gone: {go: [{to: off}]}}}\n";

const Combo kCombos[] = {
    {"ByTheWindowAlone", "", "proved"},
    {"InALoop", "", "proved", "", "clip: spin"},
    {"OverFrames", "", "proved", "", "clip: swing"},
    {"WithTimesInPlace", "", "proved", "", "length: 600ms", "pulse: light, during: 0.3s-0.5s"},
    {"WithAKeptPress", "", "proved", "", "clip: cut", "pulse: kept, during: again"},
    {"WithAGuard", "", "proved", "", "clip: cut", "pulse: light, when: far, during: again"},
    {"ByWhatIsWritten", "", "proved", "", "clip: cut", "when: far, during: again"},
    {"ByNothingAtAll", "", "proved", "", "clip: cut", "during: again"},
    {"WithAGuardThatNeverHolds", "", "refuted", "", "clip: cut", "pulse: light, when: v > 2, during: again"},
    {"BegunByTime", "", "proved", "", "clip: cut", "pulse: light, during: again", "", "after: 1s"},
    {"BegunByAnEnd", "", "proved", "", "clip: cut", "pulse: light, during: again", "", "at: end"},
    // What leads out before; what does not.
    {"ATimeThatIsOverBefore", "{after: 200ms, to: stand}, ", "open"},
    {"ATimeThatIsOverAsItOpens", "{after: 300ms, to: stand}, ", "open"},
    {"ATimeThatIsOverBehind", "{after: 301ms, to: stand}, ", "proved"},
    {"ACueBefore", "{cue: hiss, to: stand}, ", "open"},
    {"ACueThatTheGameHolds", "{cue: hiss, when: far, to: stand}, ", "proved"},
    {"AWindowBefore", "{during: 0.1s-0.2s, to: stand}, ", "open"},
    {"AWindowBehind", "{during: 0.4s-0.5s, to: stand}, ", "proved"},
    {"AnotherTakesThePress", "{pulse: light, to: stand}, ", "refuted"},
    {"AnotherTakesThePressBehind", "{pulse: light, during: 0.45s-0.5s, to: stand}, ", "proved"},
    // Its pace.
    {"AtHalfSpeed", "", "proved", "", "clip: cut, speed: 0.5"},
    {"AtHalfSpeedATimeIsOverBefore", "{after: 500ms, to: stand}, ", "open", "", "clip: cut, speed: 0.5"},
    {"AtTwiceTheSpeedItIsNot", "{after: 151ms, to: stand}, ", "proved", "", "clip: cut, speed: 2"},
    {"AtASpeedThatTheGameHolds", "", "proved", "", "clip: cut, speed: v"},
    {"AtASpeedThatIsHeldPositive", "", "proved", "", "clip: cut, speed: back"},
    {"StandingStill", "", "open", "", "clip: cut, speed: 0"},
    {"FromTheMiddle", "", "open", ", start: 0.55s"},
    {"FromTheSamePlace", "", "open", ", start: same"},
    // Beside others.
    {"BesideATimer", "", "proved", "", "clip: cut", "pulse: light, during: again", kTimer},
    {"WhereTheTimerMustBeOff", "", "open", "", "clip: cut", "pulse: light, during: again, when: in(timer/off)", kTimer},
    {"WhereTheTimerMustWait", "", "open", "", "clip: cut", "pulse: light, during: again, when: in(timer/wait)", kTimer},
    {"BesideWhatComesAndGoes", "", "proved", "", "clip: cut", "pulse: light, during: again", kJumpy},
    {"LeftWhileAnotherComesAndGoes", "{when: in(timer/gone), to: stand}, ", "open", "", "clip: cut",
     "pulse: light, during: again", kJumpy},
};
INSTANTIATE_TEST_SUITE_P(All, ThroughAWindow, testing::ValuesIn(kCombos),
                         [](const auto& row) { return std::string(row.param.name); });

// Chains of blows, each led on from in a window of its own.
class Chains {
 public:
  explicit Chains(std::uint32_t seed) : random_(seed) {}
  int pick(int below) { return static_cast<int>(random_() % static_cast<std::uint32_t>(below)); }
  bool chance(int of) { return pick(of) == 0; }

  std::string machine() {
    const int blows = 2 + pick(3);
    std::string clips = "clips:\n", marks = "marks:\n", states;
    for (int i = 0; i < blows; ++i) {
      const std::string at = std::to_string(i), clip = "c" + at;
      const int length = 200 + 50 * pick(8), from = 50 * pick(length / 50 - 1), to = from + 50 * (1 + pick(3));
      clips += "  " + clip + ": {length: " + ms(length) + (chance(4) ? ", play: loop}\n" : "}\n");
      marks += "  " + clip + ": {cues: {" + ms(50 * pick(length / 50)) + ": hiss}, windows: {again: " + ms(from) + "-" +
               ms(std::min(to, length)) + "}}\n";
      std::string rules;
      const auto add = [&](const std::string& rule) { rules += (rules.empty() ? "{" : ", {") + rule + "}"; };
      const auto blow = [&] { return "to: b" + std::to_string(pick(blows)) + (chance(3) ? ", restart: true" : ""); };
      const auto guard = [&] {
        const char* const guards[] = {", when: far", ", when: not far", ", when: v > 1", ", when: in(timer/off)"};
        return chance(3) ? std::string(guards[pick(4)]) : "";
      };
      if (chance(3)) add("after: " + ms(50 * (1 + pick(10))) + guard() + ", to: stand");
      if (chance(4)) add("cue: hiss" + guard() + ", to: stand");
      if (chance(5)) add("when: far, to: stand");
      if (chance(5)) add("during: " + ms(50 * pick(3)) + "-" + ms(length) + guard() + ", to: stand");
      add((chance(5) ? "when: far" : std::string("pulse: ") + (chance(2) ? "light" : "kept") + guard()) +
          ", during: again, " + blow());
      if (chance(2)) add(std::string("pulse: ") + (chance(2) ? "light" : "kept") + guard() + ", " + blow());
      add("at: end" + guard() + ", to: stand");
      const char* const speeds[] = {"", ", speed: 0.5", ", speed: v", ", speed: back"};
      states += "      b" + at + ": {clip: " + clip + speeds[chance(2) ? 0 : pick(4)] + ", go: [" + rules + "]}\n";
    }
    const char* const starts[] = {"", ", start: same", ", start: 50ms"};
    return "inputs: {light: pulse, kept: {pulse: 90ms}, far: false, v: {float: 1, min: 0, max: "
           "2}, back: {float: 1, min: -1, max: 1}}\ncues: {hiss: sound}\n" +
           clips + marks + "regions:\n  body:\n    initial: stand\n    states:\n      stand: {length: 300ms, go: [{" +
           (chance(3)   ? "after: 250ms"
            : chance(3) ? "at: end"
                        : "pulse: light") +
           ", to: b0" + starts[chance(3) ? pick(3) : 0] + "}]}\n" + states +
           "  timer: {initial: off, states: {off: {go: [{cue: hiss, to: wait}]}, wait: {go: [{after: " +
           ms(50 * (1 + pick(20))) + ", to: off}]}}}\nclaims: {it: {from: " +
           (chance(2) ? "in(body/stand)" : "in(body/b" + std::to_string(pick(blows)) + ")") + ", can: in(body/b" +
           std::to_string(last_ = blows - 1) + ")}}\n";
  }
  [[nodiscard]] std::string aim() const { return "body/b" + std::to_string(last_); }

  // Some writes and a step.
  void play(Instance& it, bool slow) {
    const Machine machine = it.machine();
    if (chance(3)) it.set(*machine.input<bool>("far"), chance(2));
    if (chance(3)) it.set(*machine.input<float>("v"), static_cast<float>(pick(9)) / 4);
    if (chance(3)) it.set(*machine.input<float>("back"), static_cast<float>(pick(9)) / 4 - 1);
    if (chance(2)) it.pulse(*machine.pulse(chance(2) ? "light" : "kept"));
    CueList<64> cues({});
    (void)it.advance(milliseconds(1 + pick(slow ? 400 : 90)), cues);
  }

 private:
  static std::string ms(int count) { return std::to_string(count) + "ms"; }
  std::mt19937 random_;
  int last_ = 0;
};

// Whether play comes to it from here, in many tries.
bool comes_through(const Instance& here, const std::string& aim, Chains& chains) {
  Instance it(here.machine());
  for (int run = 0; run < 2'000; ++run) {
    if (!it.restore(here.block())) return false;
    for (int i = 0; i < 40; ++i) {
      if (it.in(*here.machine().state(aim))) return true;
      chains.play(it, i == 0 && run % 4 == 0);
    }
  }
  return false;
}

TEST(RandomCanThroughWindows, IsBroughtAboutWhereItIsProved) {
  std::size_t proved = 0, asked = 0;
  const auto count = static_cast<std::uint32_t>(seeds(250));
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    Chains chains(seed);
    const std::string text = chains.machine();
    const Loaded loaded = loaded_from(text);
    ASSERT_TRUE(loaded.machine);
    if (answers_of(loaded) != "it: proved\n") continue;
    ++proved;
    const std::string from = loaded.definition->claims[0].first.text;
    const auto state = *loaded.machine->state(from.substr(3, from.size() - 4));
    Instance it(*loaded.machine);
    for (int i = 0, found = 0; i < 300 && found < 3; ++i) {
      if (it.in(state) && chains.chance(3)) {
        ++found, ++asked;
        ASSERT_TRUE(comes_through(it, chains.aim(), chains)) << "seed " << seed << "\n" << text;
      }
      chains.play(it, false);
    }
  }
  EXPECT_GT(proved, count / 6);
  EXPECT_GT(asked, count / 4);
}

}  // namespace
}  // namespace mobrin::test
