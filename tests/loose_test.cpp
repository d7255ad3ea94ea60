// Machines of many regions side by side, as heroes with many skills are: too many configurations to look at. What is
// proved of some regions whatever the others do is true in random runs, and what is told of their rules never happens.
#include <algorithm>
#include <random>
#include <set>
#include <string>
#include <vector>

#include "claim_answers.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string numbered(const char* word, int i) { return word + std::to_string(i); }

class Many {
 public:
  explicit Many(std::uint32_t seed) : random_(seed) {}
  int pick(int below) { return static_cast<int>(random_() % static_cast<std::uint32_t>(below)); }
  bool chance(int of) { return pick(of) == 0; }
  const std::string& state() { return states_[static_cast<std::size_t>(pick(static_cast<int>(states_.size())))]; }

  // Regions of three to five states that wait for each other, for time, for presses of their own and shared ones, for
  // cues, for inputs, and for what they count together.
  std::string machine() {
    const int regions = 5 + pick(4);
    states_.clear();
    for (int r = 0; r < regions; ++r) {
      sizes_.push_back(2 + pick(3));
      for (int s = 0; s < sizes_.back(); ++s) states_.push_back(numbered("r", r) + "/" + numbered("s", s));
    }
    std::string out = "mobrin: 1\nmachine: m\ninputs: {free: true, far: {int: 2, min: 0, max: 4}";
    for (int r = 0; r <= regions; ++r) out += ", " + numbered("p", r) + (chance(2) ? ": pulse" : ": {pulse: 90ms}");
    out += "}\ncues: {rung: {kind: state}, sung: {kind: state}}\nvars: {steps: 0}\n";
    if (chance(2))
      out += "go: [{when: " + guard() + ", pulse: " + numbered("p", pick(regions)) + ", to: " + state() +
             ", do: [\"steps = 3\"]}]\n";
    out += "regions:\n";
    for (int r = 0; r < regions; ++r) {
      out += "  " + numbered("r", r) + ":\n    initial: s0\n    states:\n";
      const bool tells = chance(7), counts = chance(4);
      for (int s = 0; s < sizes_[static_cast<std::size_t>(r)]; ++s) {
        out += "      " + numbered("s", s) + ":\n";
        if (chance(3)) out += "        length: " + time() + "\n";
        if (chance(4)) out += "        traits: [busy]\n";
        if (tells && chance(2)) out += std::string("        enter: [tell: ") + (chance(2) ? "rung" : "sung") + "]\n";
        if (counts && chance(2)) out += "        exit: [\"steps = min(steps + 1, 3)\"]\n";
        out += "        go:\n";
        if (!chance(4))  // so that most can be come to
          out += "          - {" + (chance(2) ? "pulse: " + numbered("p", r) : "after: " + time()) +
                 ", to: " + numbered("s", (s + 1) % sizes_[static_cast<std::size_t>(r)]) + "}\n";
        for (int i = 1 + pick(2); i-- > 0;) out += "          - {" + rule(r, s) + "}\n";
      }
    }
    return out;
  }

 private:
  std::string time() { return std::to_string(50 * (1 + pick(8))) + "ms"; }
  std::string guard() {
    switch (pick(6)) {
      case 0:
        return chance(2) ? "free" : "not free";
      case 1:
        return "far > " + std::to_string(pick(4));
      case 2:
        return "steps >= " + std::to_string(1 + pick(3));
      case 3:
        return "in(" + state() + ") and not in(" + state() + ")";
      default:
        return (chance(3) ? "not in(" : "in(") + state() + ")";
    }
  }
  // What waits neither for time nor for a press leads on, mostly, so that it comes to rest.
  std::string rule(int region, int state) {
    const int states = sizes_[static_cast<std::size_t>(region)];
    const std::string to = ", to: " + (chance(12) ? "back" : numbered("s", pick(states)));
    const std::string on =
        chance(20) ? to : ", to: " + numbered("s", std::min(state + 1 + pick(states - state), states - 1));
    const std::string when = chance(2) ? ", when: " + guard() : "";
    switch (pick(8)) {
      case 0:
      case 1:
      case 2:
        return "pulse: " + numbered("p", chance(12) ? pick(3) : region) + when + to +
               (chance(6) ? ", restart: true" : "");
      case 3:
        return std::string("cue: ") + (chance(2) ? "rung" : "sung") + when + on;
      case 4:
      case 5:
        return "after: " + time() + when + to;
      default:
        return "when: " + guard() + on;
    }
  }

  std::mt19937 random_;
  std::vector<int> sizes_;
  std::vector<std::string> states_;
};

// Plays at random and calls `look` after each instant that it stops at; until that is false, or for so many writes.
template <class Look>
void play(Instance& it, Many& random, int writes, const Look& look) {
  CueList<512> told(listen_to(Told::enter) | listen_to(Told::fault));
  const Machine& machine = it.machine();
  const auto inputs = machine.inputs();
  std::size_t records = 0;
  for (int i = 0; i < writes && records < 8'000; ++i) {
    for (std::uint16_t p = 0; p < inputs.size(); ++p) {
      if (!random.chance(4)) continue;
      if (std::holds_alternative<PulseInput>(inputs[p].kind))
        it.pulse(*machine.pulse(inputs[p].name.text));
      else if (std::holds_alternative<BoolInput>(inputs[p].kind))
        it.set(*machine.input<bool>(inputs[p].name.text), random.chance(2));
      else
        it.set(*machine.input<int>(inputs[p].name.text), random.pick(5));
    }
    const Ticks until =
        it.now() + (random.chance(2) ? milliseconds(50 * (1 + random.pick(4))) : Ticks(random.pick(90'000'000)));
    for (bool first = true; first || it.now() < until; first = false) {
      const Ticks wake = it.next_wake();
      told.clear();
      (void)it.advance(first ? Ticks{} : (wake > it.now() ? std::min(until, wake) : until) - it.now(), told);
      records += told.size() + 1;
      if (!look(it, told)) return;
    }
  }
}
template <class Look>
void play(const Machine& machine, Many& random, const Look& look) {
  Instance it(machine);
  play(it, random, 300, look);
}

struct Claimed {
  std::string one, other;  // states
  ClaimKind kind = ClaimKind::never;
  [[nodiscard]] std::string text() const {
    if (kind == ClaimKind::never) return "{never: in(" + one + ") and in(" + other + ")}";
    return "{once: in(" + one + "), then: not in(" + other + ")}";
  }
};

// Whether a random run is against it. What is not settled is no instant.
bool broken(const Machine& machine, Many& random, const Claimed& claim) {
  const auto one = machine.state(claim.one), other = machine.state(claim.other);
  bool was = false, out = false;
  play(machine, random, [&](const Instance& it, const auto&) {
    was = (was && claim.kind == ClaimKind::once) || it.in(*one);
    out = was && it.in(*other);
    return !out;
  });
  return out;
}

// A drone of so many skills, each with a region for its cooldown. `rules`: more of `idle`; `rest`: of the file.
std::string drone(int skills, const std::string& rules, const std::string& states, const std::string& rest) {
  std::string inputs = "health: {int: 3, min: 0, max: 3}", idle, body, cooldowns;
  for (int i = 0; i < skills; ++i) {
    const std::string cooldown = numbered("cd", i), act = numbered("act", i);
    inputs += ", " + numbered("skill", i) + ": {pulse: 200ms}";
    idle += "          - {pulse: " + numbered("skill", i) + ", when: in(" + cooldown + "/ready), to: " + act + "}\n";
    body += "      " + act + ": {length: 300ms, go: [{at: end, to: idle}]}\n";
    cooldowns += "  " + cooldown + ":\n    initial: ready\n    states:\n      ready: {go: [{when: in(body/" + act +
                 "), to: waiting}]}\n      waiting: {go: [{after: 1s, to: ready}]}\n" + (i == 7 ? states : "");
  }
  return "mobrin: 1\nmachine: drone\ninputs: {" + inputs +
         "}\ngo: [{when: health <= 0, to: body/dead}]\nregions:\n  body:\n    initial: idle\n    states:\n      "
         "idle:\n "
         "       go:\n" +
         idle + rules + body + "      dead: {}\n" + cooldowns + rest;
}

// Less than the work on all regions at once.
ProofLimits little() {
  ProofLimits out;
  out.steps = 20'000, out.moments = 3'000, out.moves = 20'000;
  return out;
}

TEST(Loose, ADroneOfTenSkillsIsDecided) {
  const std::string claims =
      "claims:\n  dead do nothing: {never: in(body/act0) and in(body/dead)}\n  it waits: {never: in(body/act0) and "
      "in(cd0/ready)}\n  it dies: {from: health <= 0, within: 0s, reaches: in(body/dead)}\n  it ends: {from: "
      "in(body/act9), within: 300ms, reaches: not in(body/act9)}\n  not again at once: {never: in(body/act3) and "
      "in(cd3/ready)}\n  two at once: {never: in(cd1/waiting) and in(cd2/waiting)}\n  it can act: {from: not "
      "in(body/dead) and health > 0, can: in(body/act1)}\n";
  const Loaded loaded = load_character_text(drone(10, "", "", claims), "drone.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded, little()),
            "dead do nothing: proved\nit waits: proved\nit dies: proved\nit ends: proved\nnot again at once: "
            "proved\ntwo at once: refuted\nit can act: proved\n");
  const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine, little());
  for (const FindingCode each : {FindingCode::runaway, FindingCode::press_lost})
    EXPECT_EQ(std::ranges::count(report.undecided, each), 0) << text_of(each);
  // Not all of the regions were looked at together.
  EXPECT_EQ(std::ranges::count(report.undecided, FindingCode::unreachable), 1);
}

TEST(Loose, MistakesBesideManyRegionsAreTold) {
  const Loaded loaded = load_character_text(
      drone(10,
            "          - {when: in(cd3/ready) and in(cd3/waiting), to: act3}\n          - {when: in(cd7/stuck), to: "
            "act4}\n",
            "      stuck: {go: [{after: 1s, to: ready}]}\n", ""),
      "drone.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  std::string told;
  for (const ProvedFinding& each : logic_and_runs(*loaded.definition, *loaded.machine, little()).findings)
    if (!each.finding.hint) told += each.finding.text() + "\n";
  EXPECT_EQ(told,
            "drone.yaml:21:13: warning: no run makes \"in(cd3/ready) and in(cd3/waiting)\" true in \"body/idle\" "
            "[never-holds]\n    Only one of \"cd3/ready\" and \"cd3/waiting\" is active at a time: is it `or`?\n"
            "drone.yaml:22:13: warning: no run makes \"in(cd7/stuck)\" true in \"body/idle\" [never-holds]\n    No run "
            "enters \"cd7/stuck\": let a rule lead there, or name another.\n"
            "drone.yaml:74:7: warning: no rule leads to \"cd7/stuck\" [unreachable]\n    Add a rule that does, or "
            "remove it; what only `force` or `place` enters says `accept: [unreachable]`.\n");
}

// Each of many presses may be pending or not when the game begins to bring something about.
TEST(Can, CountsOnWhatFollowsManyPresses) {
  std::string inputs, rules, states;
  for (int i = 0; i < 24; ++i) {
    inputs += (i > 0 ? ", " : "") + numbered("p", i) + ": {pulse: 200ms}, " + numbered("ok", i) + ": true";
    rules +=
        "      - {pulse: " + numbered("p", i) + ", when: " + numbered("ok", i) + ", to: " + numbered("s", i) + "}\n";
    states += "  " + numbered("s", i) + ": {length: 300ms, go: [{at: end, to: idle}]}\n";
  }
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninputs: {" + inputs + "}\ninitial: idle\nstates:\n  idle:\n    go:\n" + rules + states +
          "claims:\n  acts: {from: true, can: in(s7)}\n  rests: {from: true, can: in(idle)}\n",
      "m.yaml");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(answers_of(loaded), "acts: proved\nrests: proved\n");
}

// Two regions that step in turn: together they have more rounds than an instant may.
TEST(Loose, RoundsOfAllRegionsCount) {
  for (const int steps : {5, 40}) {
    std::string regions;
    for (const char* each : {"left", "right"}) {
      const bool left = std::string(each) == "left";
      regions += std::string("  ") + each + ":\n    initial: s0\n    states:\n";
      for (int s = 0; s < steps; ++s)
        regions += "      " + numbered("s", s) + ": {go: [{when: in(" + (left ? "right/" : "left/") +
                   numbered("s", left ? s : s + 1) + ")" + (left && s == 0 ? " and in(body/act0)" : "") +
                   ", to: " + numbered("s", s + 1) + "}]}\n";
      regions += "      " + numbered("s", steps) + ": {go: [{after: 5s, to: s0}]}\n";
    }
    const Loaded loaded = load_character_text(drone(9, "", "", regions), "drone.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine, little());
    EXPECT_EQ(std::ranges::count(report.undecided, FindingCode::runaway), steps == 40 ? 1 : 0) << steps;
  }
}

TEST(RandomLoose, WhatIsProvedIsTrueInRandomRuns) {
  int proved = 0, refuted = 0, seen = 0;
  const int count = seeds(8);
  for (int seed = 0; seed < count; ++seed) {
    Many random(static_cast<std::uint32_t>(seed));
    std::string text = random.machine() + "claims:\n";
    std::vector<Claimed> claims;
    for (int c = 0; c < 4; ++c) {
      Claimed claim{random.state(), random.state(), random.chance(3) ? ClaimKind::once : ClaimKind::never};
      if (claim.one == claim.other) continue;
      text += "  " + numbered("c", c) + ": " + claim.text() + "\n";
      claims.push_back(claim);
    }
    const Loaded loaded = load_character_text(text, "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << text;
    ProofLimits limits;
    limits.steps = 2'000, limits.moments = 300, limits.moves = 2'000;
    const std::vector<ClaimAnswer> answers = prove(*loaded.definition, *loaded.machine, limits);
    for (std::size_t c = 0; c < claims.size(); ++c) {
      proved += answers[c].answer == Answer::proved ? 1 : 0;
      refuted += answers[c].answer == Answer::refuted ? 1 : 0;
      for (int run = 0; run < 3; ++run) {
        const bool is_broken = broken(*loaded.machine, random, claims[c]);
        seen += is_broken ? 1 : 0;
        ASSERT_FALSE(is_broken && (answers[c].answer == Answer::proved || answers[c].answer == Answer::vacuous))
            << "seed " << seed << " " << claims[c].text() << "\n"
            << text;
      }
    }
  }
  EXPECT_GT(proved, count / 8);
  EXPECT_GT(refuted, count / 8);
  EXPECT_GT(seen, count);
}

// Where it is proved that the game can, random play comes to it from wherever it is asked for.
TEST(RandomLoose, WhatCanBeIsComeTo) {
  int proved = 0, tried = 0;
  const int count = seeds(8);
  for (int seed = 0; seed < count; ++seed) {
    Many random(static_cast<std::uint32_t>(seed + 200'000));
    std::string text = random.machine() + "claims:\n";
    std::vector<std::pair<std::string, std::string>> aims;
    for (int c = 0; c < 4; ++c) {
      aims.emplace_back(random.state(), random.state());
      text +=
          "  " + numbered("c", c) + ": {from: in(" + aims.back().first + "), can: in(" + aims.back().second + ")}\n";
    }
    const Loaded loaded = load_character_text(text, "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << text;
    ProofLimits limits;
    limits.steps = 2'000, limits.moments = 50, limits.moves = 100;
    const std::vector<ClaimAnswer> answers = prove(*loaded.definition, *loaded.machine, limits);
    for (std::size_t c = 0; c < aims.size(); ++c) {
      if (answers[c].answer != Answer::proved) continue;
      ++proved;
      const auto from = loaded.machine->state(aims[c].first), to = loaded.machine->state(aims[c].second);
      for (int run = 0; run < 2; ++run) {
        Instance here(*loaded.machine);
        play(here, random, 60, [&](const Instance& it, const auto&) { return !it.in(*from) || !random.chance(3); });
        if (!here.in(*from)) continue;
        ++tried;
        bool met = false;
        for (int run_on = 0; run_on < 400 && !met; ++run_on) {
          Instance it(*loaded.machine);
          ASSERT_TRUE(it.restore(here.block()));
          play(it, random, 25, [&](const Instance& now, const auto&) { return !(met = met || now.in(*to)); });
        }
        ASSERT_TRUE(met) << "seed " << seed << " " << aims[c].first << " can " << aims[c].second << "\n" << text;
      }
    }
  }
  EXPECT_GT(proved, count / 4);
  EXPECT_GT(tried, count / 8);
}

TEST(RandomLoose, WhatIsToldNeverHappens) {
  int looked = 0, lines_told = 0, rested = 0;
  const int count = seeds(40);
  for (int seed = 0; seed < count; ++seed) {
    Many random(static_cast<std::uint32_t>(seed + 100'000));
    const std::string text = random.machine();
    const Loaded loaded = load_character_text(text, "m.yaml");
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << text;
    ProofLimits limits;
    limits.steps = 1'000, limits.moments = 100, limits.moves = 200;
    const LogicReport report = logic_and_runs(*loaded.definition, *loaded.machine, limits);
    const auto undecided = [&](FindingCode code) { return std::ranges::count(report.undecided, code) > 0; };
    std::set<std::uint32_t> lines;
    bool runaway = undecided(FindingCode::runaway);
    for (const ProvedFinding& each : report.findings) {
      const FindingCode code = each.finding.code;
      if (code == FindingCode::never_holds || code == FindingCode::shadowed || code == FindingCode::wrong_order ||
          code == FindingCode::unreachable)
        lines.insert(each.finding.line);
      runaway = runaway || code == FindingCode::runaway;
    }
    looked += undecided(FindingCode::unreachable) && !undecided(FindingCode::runaway) ? 1 : 0;
    rested += runaway ? 0 : 1;
    lines_told += static_cast<int>(lines.size());
    for (int run = 0; run < 3; ++run)
      play(*loaded.machine, random, [&](const Instance& it, const auto& told) {
        for (const Cue& cue : told) {
          if (cue.what == Told::fault) {
            EXPECT_TRUE(runaway) << "seed " << seed << "\n" << text;
            return false;
          }
          const std::uint32_t entered = loaded.machine->states()[cue.state].place.line;
          const std::uint32_t by =
              cue.transition == kNoTransition ? 0 : loaded.machine->transitions()[cue.transition].place.line;
          EXPECT_EQ(lines.count(entered) + lines.count(by), 0u)
              << "seed " << seed << " " << cue.state_path() << " line " << by << "\n"
              << text;
        }
        return !testing::Test::HasFailure() && !it.done();
      });
    ASSERT_FALSE(testing::Test::HasFailure());
  }
  EXPECT_GT(looked, count / 8);
  EXPECT_GT(lines_told, count / 2);
  EXPECT_GT(rested, count / 8);
}

}  // namespace
}  // namespace mobrin::test
