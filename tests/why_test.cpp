// Why: what a round of settling did not look at, and whose doing that was.
#include <map>
#include <set>

#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// Gathers rounds as they are heard.
class Rounds {
 public:
  explicit Rounds(Instance& instance) {
    instance.set_trace({[](void* context, const Considered& each) { static_cast<Rounds*>(context)->add(each); }, this});
  }
  std::vector<SettlingRound> all;

 private:
  void add(const Considered& each) {
    if (!all.empty() && all.back().goes_on_with(each))
      all.back().add(each);
    else
      all.emplace_back(each);
  }
};

// `b -> c: around by a -> d`, a line each.
std::string skipped_text(const Machine& machine, const SettlingRound& round) {
  constexpr const char* kWhy[] = {"above", "around", "left"};
  const auto rule = [&](std::uint32_t index) {
    const TransitionInfo& info = machine.transitions()[index];
    return machine.states()[info.owner].path + " -> " + info.to;
  };
  std::string out;
  for (const Skipped& each : round.skipped())
    out += rule(each.transition) + ": " + kWhy[static_cast<std::size_t>(each.why)] + " by " + rule(each.by) + "\n";
  return out;
}

std::string first_skipped(const std::string& text) {
  const Machine machine = machine_of("inputs: {p: pulse}\n" + text);
  Instance instance(machine);
  CueList<64> cues;
  EXPECT_TRUE(instance.advance(milliseconds(1), cues).complete());
  instance.pulse(*machine.pulse("p"));
  Rounds rounds(instance);
  EXPECT_TRUE(instance.advance(milliseconds(1), cues).complete());
  return rounds.all.empty() ? "nothing was looked at" : skipped_text(machine, rounds.all.front());
}

TEST(Skipped, BelowTheOneOfItsListThatDecided) {
  EXPECT_EQ(first_skipped("states: {a: {go: [{when: in(b), to: c}, {pulse: p, to: b}, {to: c}, {pulse: p, to: c}]}, "
                          "b: {}, c: {}}\ninitial: a\n"),
            "nothing was looked at")
      << "`to: c` was taken at once";
  EXPECT_EQ(first_skipped("states: {a: {go: [{when: in(b), to: c}, {pulse: p, to: b}, {pulse: p, to: c}]}, b: {}, c: "
                          "{}}\ninitial: a\n"),
            "a -> c: above by a -> b\n");
  // What stands decides for its own list only.
  EXPECT_EQ(first_skipped("states: {s: {initial: a, go: [{when: in(a), to: a}, {pulse: p, to: b}], states: {a: {go: "
                          "[{pulse: p, to: b}, {pulse: p, to: a}]}, b: {}}}}\n"),
            "s -> b: above by s -> a\ns/a -> a: above by s/a -> b\n");
}

TEST(Skipped, InsideOfAStateWhoseOwnRuleWasTaken) {
  const std::string inner = "states: {a: {go: [{pulse: p, to: b}]}, b: {}}";
  EXPECT_EQ(
      first_skipped("go: [{pulse: p, to: d}, {pulse: p, to: s}]\ninitial: s\nstates: {s: {initial: a, go: [{when: "
                    "in(d), to: d}], " +
                    inner + "}, d: {}}\n"),
      " -> s: above by  -> d\ns -> d: around by  -> d\ns/a -> b: around by  -> d\n");
  // Regions inside of it too; those beside it are looked at.
  EXPECT_EQ(first_skipped("regions:\n  l: {initial: s, states: {s: {go: [{pulse: p, to: d}], regions: {x: {initial: "
                          "a, " +
                          inner + "}, y: {initial: a, " + inner + "}}}, d: {}}}\n  r: {initial: a, " + inner + "}\n"),
            "l/s/x/a -> b: around by l/s -> d\nl/s/y/a -> b: around by l/s -> d\n");
}

TEST(Skipped, WhatARuleOfAnotherRegionLeft) {
  // x leads out of the state that y runs in.
  EXPECT_EQ(first_skipped("initial: s\nstates:\n  s:\n    regions:\n      x: {initial: a, states: {a: {go: [{pulse: p, "
                          "to: away}]}}}\n      y: {initial: a, states: {a: {go: [{pulse: p, to: b}]}, b: {}}}\n  "
                          "away: {}\n"),
            "s/y/a -> b: left by s/x/a -> away\n");
}

// A state in which three regions run, whose rules lead to each other and out of it; with the inputs of RandomMachine.
std::string regions_text(RandomMachine& random) {
  const auto any = [&](const std::vector<std::string>& list) {
    return list[static_cast<std::size_t>(random.pick(static_cast<int>(list.size())))];
  };
  const auto rules = [&](const std::vector<std::string>& targets) {
    std::string out = "go: [";
    for (int i = random.pick(3); i >= 0; --i)
      out += "{" + any({"pulse: p", "pulse: q", "when: b", "when: n > 0", "after: 50ms"}) + ", to: " + any(targets) +
             (i > 0 ? "}, " : "}]");
    return out;
  };
  std::string text =
      "inputs: {v: 1.0, n: 0, b: false, h: {one_of: [x, y, z]}, p: {pulse: 50ms}, q: pulse}\ninitial: s\nstates:\n  t: "
      "{" +
      rules({"s"}) + "}\n  s:\n    " + rules({"t", "s"}) + "\n    regions:\n";
  for (const char* region : {"x", "y", "z"})
    text += "      " + std::string(region) + ": {initial: a, states: {a: {" + rules({"b", "t"}) + "}, b: {" +
            rules({"a", "t"}) + "}}}\n";
  return text;
}

// Of each round of random machines: what was looked at and what was skipped are together all rules of what was active;
// the reason of each is so.
TEST(Skipped, AreAllOfARoundWithTheirReasons) {
  int counts[3] = {0, 0, 0}, steps = 0;
  for (std::uint32_t seed = 0; seed < static_cast<std::uint32_t>(seeds(400)); ++seed) {
    RandomMachine random(seed);
    std::optional<Machine> made;
    if (seed % 2 == 0)
      made = compile(random.make()).machine;
    else
      made = load_character_text("mobrin: 1\nmachine: m\n" + regions_text(random), "m.yaml").machine;
    if (!made) continue;  // the generator makes some that the compiler rightly refuses
    const Machine& machine = *made;
    Instance instance(machine);
    Rounds rounds(instance);
    std::vector<Cue> heard(4000);
    CueBuffer cues(heard, kAllRecords);
    for (int step = 0; step < 30; ++step) {
      rounds.all.clear();
      random.write(instance);
      random.write(instance);
      cues.clear();
      if (!instance.advance(milliseconds(random.pick(120)), cues).complete()) break;  // a runaway tells more
      ++steps;
      for (const SettlingRound& round : rounds.all) {
        std::set<std::uint32_t> looked, expected, found;
        std::map<std::uint32_t, Verdict> verdicts;
        const std::set<std::uint16_t> active(round.active().begin(), round.active().end());
        for (const SettlingRound::Looked& each : round.looked()) {
          verdicts[each.transition] = each.verdict;
          if (active.count(machine.transitions()[each.transition].owner) > 0) found.insert(each.transition);
        }
        for (std::uint32_t rule = 0; rule < machine.transitions().size(); ++rule)
          if (active.count(machine.transitions()[rule].owner) > 0) expected.insert(rule);
        for (const Skipped& each : round.skipped()) {
          EXPECT_TRUE(found.insert(each.transition).second) << "told twice";
          const TransitionInfo& rule = machine.transitions()[each.transition];
          const TransitionInfo& by = machine.transitions()[each.by];
          ASSERT_EQ(verdicts.count(each.by), 1u) << "the one to blame was not looked at";
          const Verdict verdict = verdicts[each.by];
          const std::string own = machine.states()[rule.owner].path, other = machine.states()[by.owner].path;
          ++counts[static_cast<std::size_t>(each.why)];
          if (each.why == Skipped::Why::above) {
            EXPECT_TRUE(verdict == Verdict::taken || verdict == Verdict::stands);
            EXPECT_TRUE(own == other && each.by < each.transition);
          } else {
            EXPECT_EQ(verdict, Verdict::taken);
            const bool around = by.owner == 0 || own.starts_with(other + "/");
            EXPECT_EQ(around, each.why == Skipped::Why::around) << own << " by " << other;
            EXPECT_NE(own, other);
          }
          if (each.why != Skipped::Why::left) continue;
          bool is_left = false;
          for (const Cue& cue : cues)
            is_left = is_left || (cue.what == Told::leave && cue.at == round.at() && cue.state_path() == own);
          EXPECT_TRUE(is_left) << own << " was not left";
        }
        EXPECT_EQ(found, expected) << "seed " << seed;
        if (HasFailure()) return;
      }
    }
  }
  EXPECT_GT(steps, 4000);
  EXPECT_GT(counts[0], 100);
  EXPECT_GT(counts[1], 100);
  EXPECT_GT(counts[2], 10);
}

}  // namespace
}  // namespace mobrin::test
