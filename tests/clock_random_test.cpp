// Timers beside plays and other timers, as cooldowns are: what is proved of them is true in random runs at any rate.
#include <algorithm>
#include <random>
#include <string>
#include <vector>

#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

class Cooldowns {
 public:
  explicit Cooldowns(std::uint32_t seed) : random_(seed) {}
  int pick(int below) { return static_cast<int>(random_() % static_cast<std::uint32_t>(below)); }
  bool chance(int of) { return pick(of) == 0; }

  // A body with things to do, each for a time; beside it timers that these start, of one or two stages.
  std::string machine() {
    const int things = 2 + pick(2), timers = 1 + pick(2);
    const auto name = [](const char* word, int i) { return word + std::to_string(i); };
    const auto time = [&] { return std::to_string(50 * (1 + pick(12))) + "ms"; };
    std::string out = "mobrin: 1\nmachine: m\ninputs: {free: true";
    for (int i = 0; i < things; ++i) out += ", " + name("p", i) + ": " + (chance(2) ? "pulse" : "{pulse: 90ms}");
    out += "}\ncues: {";
    for (int i = 0; i < things; ++i) out += name("did", i) + ": {kind: state}" + (i + 1 < things ? ", " : "");
    out += "}\nregions:\n  body:\n    initial: idle\n    states:\n      idle:\n        go:\n";
    for (int i = 0; i < things; ++i)
      out += "          - {pulse: " + name("p", i) +
             (chance(3) ? "" : ", when: in(" + name("t", pick(timers)) + "/ready)") + ", to: " + name("do", i) + "}\n";
    for (int i = 0; i < things; ++i) {
      const std::string next = chance(3) ? name("do", pick(things)) : "idle";
      out += "      " + name("do", i) + ":\n        length: " + time() + "\n        enter: [tell: " + name("did", i) +
             "]\n        go:\n";
      if (chance(3))
        out += "          - {pulse: " + name("p", pick(things)) + ", restart: true, to: " + name("do", pick(things)) +
               "}\n";
      if (chance(4)) out += "          - {when: not free, to: idle}\n";
      out += "          - {at: end, to: " + next + (next == name("do", i) ? ", restart: true" : "") + "}\n";
      states_.push_back("body/" + name("do", i));
    }
    for (int t = 0; t < timers; ++t) {
      const bool twice = chance(2);
      const std::string cue = name("did", pick(things));
      out += "  " + name("t", t) + ":\n    initial: ready\n    states:\n      ready: {go: [{cue: " + cue +
             ", to: wait}]}\n      wait: {go: [" + (chance(3) ? "{cue: " + cue + ", restart: true, to: wait}, " : "") +
             "{after: " + time() + ", to: " + (twice ? "late" : "ready") + "}]}\n" +
             (twice ? "      late: {go: [{after: " + time() + ", to: ready}]}\n" : "");
      for (const char* state : {"ready", "wait", "late"})
        if (twice || std::string(state) != "late") states_.push_back(name("t", t) + "/" + state);
    }
    return out;
  }
  // Two of its states that are in different regions.
  std::pair<std::string, std::string> two() {
    for (;;) {
      const std::string &one = states_[static_cast<std::size_t>(pick(static_cast<int>(states_.size())))],
                        &other = states_[static_cast<std::size_t>(pick(static_cast<int>(states_.size())))];
      if (one.substr(0, one.find('/')) != other.substr(0, other.find('/'))) return {one, other};
    }
  }

 private:
  std::mt19937 random_;
  std::vector<std::string> states_;
};

// Whether both are active when an instant is over, in a random run with rates and freezes of any kind.
bool meet(const Machine& machine, Cooldowns& random, const std::string& one, const std::string& other) {
  Instance it(machine);
  CueList<256> told(listen_to(Told::enter) | listen_to(Told::leave));
  const auto a = machine.state(one), b = machine.state(other);
  const bool steady = random.chance(2);
  for (int i = 0; i < 400; ++i) {
    const auto inputs = machine.inputs();
    for (std::uint16_t p = 0; p < inputs.size(); ++p) {
      if (!random.chance(3)) continue;
      if (std::holds_alternative<PulseInput>(inputs[p].kind))
        it.pulse(*machine.pulse(inputs[p].name.text));
      else
        it.set(*machine.input<bool>("free"), !random.chance(3));
    }
    if (!steady && random.chance(9)) it.set_rate(0.1 * random.pick(25));
    if (!steady && random.chance(20)) it.freeze(milliseconds(random.pick(300)));
    const Ticks until =
        it.now() + (random.chance(2) ? milliseconds(50 * (1 + random.pick(4))) : Ticks(random.pick(90'000'000)));
    for (bool first = true; first || it.now() < until; first = false) {
      const Ticks wake = it.next_wake();
      (void)it.advance(first ? Ticks{} : (wake > it.now() ? std::min(until, wake) : until) - it.now(), told);
      told.clear();
      if (it.in(*a) && it.in(*b)) return true;
    }
  }
  return false;
}

// A dash of 400 ms that may be done again when its cooldown is over.
TEST(Clocks, OfACooldownArePlayedAgainstTheDash) {
  struct Row {
    const char *cooldown, *answers;
  };
  for (const Row& row :
       {Row{"2s", "proved proved "}, Row{"450ms", "proved proved "}, Row{"300ms", "refuted refuted "}}) {
    const Loaded loaded = load_character_text(
        "mobrin: 1\nmachine: m\ninputs: {dash: {pulse: 110ms}, stung: pulse}\ncues: {dashed: {kind: state}}\nregions:\n"
        "  body:\n    initial: idle\n    states:\n      idle: {go: [{pulse: dash, when: in(legs/ready), to: dash}]}\n"
        "      dash: {length: 400ms, enter: [tell: dashed], go: [{pulse: stung, to: hurt}, {at: end, to: idle}]}\n"
        "      hurt: {length: 200ms, go: [{at: end, to: idle}]}\n"
        "  legs:\n    initial: ready\n    states:\n      ready: {go: [{cue: dashed, to: tired}]}\n      tired: {go: "
        "[{after: " +
            std::string(row.cooldown) +
            ", to: ready}]}\n"
            "claims:\n  rests: {never: in(body/dash) and in(legs/ready)}\n"
            "  is over: {from: in(body/dash), within: 450ms, reaches: not in(body/dash)}\n",
        "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    std::string answers;
    for (const ClaimAnswer& each : prove(*loaded.definition, *loaded.machine))
      answers += std::string(text_of(each.answer)) + " ";
    EXPECT_EQ(answers, row.answers) << row.cooldown;
  }
}

// Of two rules of a state that wait, the one above is taken where both are over: what waits longer below it is not.
TEST(Clocks, WhatWaitsLongerBelowIsNotTakenBefore) {
  struct Row {
    const char *rules, *entering, *answer, *told;
  };
  for (const Row& row : {
           Row{"{after: 1s, when: near, to: near}, {after: 3s, to: far}", "", "proved", ""},
           Row{"{after: 1s, when: near, to: near}, {at: end, to: far}", "", "proved", ""},
           Row{"{at: end, when: near, to: near}, {after: 3s, to: far}", "", "proved", ""},
           // A play that begins in its middle ends sooner, and a shorter wait below is over first.
           Row{"{after: 1s, when: near, to: near}, {at: end, to: far}", ", start: same", "refuted", ""},
           Row{"{after: 3s, when: near, to: near}, {after: 1s, to: far}", "", "refuted", "before its time is over"},
           Row{"{after: 1s, when: near, to: near}, {after: 500ms, when: not near, to: far}", "", "proved", ""},
           Row{"{after: 1s, when: near, to: near}, {after: 2s, when: near and glad, to: far}", "", "proved",
               "decides whenever this one holds"},
       }) {
    const Loaded loaded = load_character_text(
        "mobrin: 1\nmachine: m\ninputs: {near: true, glad: true, go: pulse}\nclips: {w: {length: 2s}}\n"
        "initial: idle\nstates:\n  idle: {clip: w, go: [{pulse: go, to: wait" +
            std::string(row.entering) + "}]}\n  wait: {clip: w, go: [" + row.rules +
            "]}\n  near: {go: [{after: 1s, to: idle}]}\n  far: {go: [{after: 1s, to: idle}]}\n"
            "assume: [near]\nclaims: {apart: {never: in(far)}}\n",
        "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    EXPECT_EQ(text_of(prove(*loaded.definition, *loaded.machine)[0].answer), row.answer) << row.rules << row.entering;
    std::string told;
    for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine).findings)
      if (each.finding.code == FindingCode::shadowed || each.finding.code == FindingCode::wrong_order)
        told += each.finding.text();
    EXPECT_NE(told.find(row.told), std::string::npos) << told;
    EXPECT_EQ(told.empty(), *row.told == '\0') << row.rules << told;
  }
}

// A play that begins in its middle ends before what waits for less than all of it.
TEST(Clocks, APlayThatGoesOnEndsSooner) {
  for (const bool goes_on : {false, true}) {
    const Loaded loaded = load_character_text(
        "mobrin: 1\nmachine: m\nclips: {w: {length: 2s}}\ninitial: idle\nstates:\n"
        "  idle: {clip: w, go: [{after: 1500ms, to: wait" +
            std::string(goes_on ? ", start: same" : "") +
            "}]}\n  wait: {clip: w, go: [{after: 1s, to: idle}, {at: end, to: far}]}\n"
            "  far: {go: [{after: 1s, to: idle}]}\nclaims: {apart: {from: in(wait), next: not in(far)}}\n",
        "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    EXPECT_EQ(text_of(prove(*loaded.definition, *loaded.machine)[0].answer), goes_on ? "refuted" : "proved");
  }
}

TEST(RandomClocks, WhatIsProvedOfTimersIsTrueAtAnyRate) {
  int proved = 0, refuted = 0, met = 0;
  const int count = seeds(150);
  for (int seed = 0; seed < count; ++seed) {
    Cooldowns random(static_cast<std::uint32_t>(seed));
    const std::string text = random.machine();
    const auto [one, other] = random.two();
    const Loaded loaded =
        load_character_text(text + "claims: {apart: {never: in(" + one + ") and in(" + other + ")}}\n", "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << text;
    ProofLimits limits;
    limits.steps = 40'000, limits.moments = 500, limits.moves = 3'000;
    const Answer answer = prove(*loaded.definition, *loaded.machine, limits)[0].answer;
    proved += answer == Answer::proved ? 1 : 0;
    refuted += answer == Answer::refuted ? 1 : 0;
    for (int run = 0; run < 12; ++run) {
      const bool meets = meet(*loaded.machine, random, one, other);
      met += meets ? 1 : 0;
      ASSERT_FALSE(meets && answer == Answer::proved) << "seed " << seed << " " << one << " " << other << "\n" << text;
    }
  }
  EXPECT_GT(proved, count / 8);
  EXPECT_GT(refuted, count / 8);
  EXPECT_GT(met, count);
}

}  // namespace
}  // namespace mobrin::test
