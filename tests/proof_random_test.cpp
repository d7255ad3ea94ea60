// Proofs over random machines: what is told never happens, what is proved is true.
#include <algorithm>
#include <functional>
#include <set>

#include "claim_judge.hpp"
#include "made_machine.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

void place_rules(StateDef& state, std::uint32_t& line) {
  state.place = {0, ++line, 1};
  for (GoDef& go : state.go) {
    go.place = {0, ++line, 1};
    go.when.place = go.cue.place = go.place;
  }
  for (StateDef& each : state.states) place_rules(each, line);
  for (RegionDef& region : state.regions)
    for (StateDef& each : region.states) place_rules(each, line);
}

// Too little for all configurations one by one: what a machine can come to is found without the ways there.
ProofLimits tiny() {
  ProofLimits out;
  out.steps = 1;
  out.moments = out.moves = 50;
  return out;
}

class RandomProofs : public testing::TestWithParam<Made> {
 protected:
  [[nodiscard]] static bool is_plain() { return GetParam() == Made::plain; }
  [[nodiscard]] static MachineDef made(RandomMachine& random) { return test::made(GetParam(), random); }
  // The machine of a seed with what `add` adds to each list of states, its rules placed on lines of their own; nothing
  // where it is refused.
  using AddRules = void (*)(std::vector<StateDef>& states, RandomMachine& random);
  [[nodiscard]] static std::optional<SoundMachine> placed(std::uint32_t seed, AddRules add = nullptr) {
    RandomMachine random(seed);
    MachineDef definition = made(random);
    if (add != nullptr) {
      add(definition.root.states, random);
      for (RegionDef& region : definition.root.regions) add(region.states, random);
    }
    std::uint32_t line = 0;
    place_rules(definition.root, line);
    const Compiled compiled = compile(definition);
    if (!compiled.machine) return std::nullopt;
    return SoundMachine{seed, random, std::move(definition), *compiled.machine};
  }
  // Those with regions take longer, fewer of them compile, and less is known of them.
  [[nodiscard]] static std::uint32_t machines(std::uint32_t usual) {
    return static_cast<std::uint32_t>(seeds(usual)) / (is_plain() ? 1 : 4);
  }
  // Of those that use all of the language so little is known that some findings are not told in some hundred of them.
  [[nodiscard]] static bool is_told_of() { return GetParam() != Made::wider; }
  [[nodiscard]] static std::size_t at_least(std::size_t of_the_plain) { return of_the_plain / (is_plain() ? 1 : 12); }
};

// Nothing called unreachable is entered, no rule called never-holding, shadowed or never taken is taken, in ten
// thousand random steps with rates, freezes and resets; each
// tape of a finding replays.
TEST_P(RandomProofs, WhatIsToldNeverHappens) {
  std::size_t told = 0, steps = 0, tapes = 0, by_reach = 0;
  const std::uint32_t count = machines(300);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    std::optional<SoundMachine> subject = placed(seed);
    if (!subject) continue;
    RandomMachine& random = subject->random;
    const Machine& machine = subject->machine;
    std::set<std::uint32_t> lines, states, rules;
    for (const ProofLimits& limits : {small(), tiny()}) {
      const LogicReport report = logic_and_runs(subject->definition, machine, limits);
      if (limits.steps == 1) by_reach += std::ranges::count(report.undecided, FindingCode::shadowed) == 0 ? 1 : 0;
      for (const ProvedFinding& each : report.findings) {
        const FindingCode code = each.finding.code;
        if (code == FindingCode::never_holds || code == FindingCode::shadowed || code == FindingCode::wrong_order)
          lines.insert(each.finding.line);
        if (code == FindingCode::unreachable) states.insert(each.finding.line);
        tapes += each.tape ? 1 : 0;
      }
    }
    for (const Finding& each :
         logic_findings(subject->definition, machine))  // several of one cause are told at the first
      if (each.code == FindingCode::shadowed || each.code == FindingCode::wrong_order) lines.insert(each.line);
    if (seed % 4 == 0)
      for (const ProofLimits& limits : {small(), tiny()})
        for (const Cover::Left& left : cover(subject->definition, machine, limits).left)
          if (left.never) rules.insert(left.transition);
    if (lines.empty() && states.empty() && rules.empty()) continue;
    told += lines.size() + states.size() + rules.size();
    Instance it(machine);
    CueList<512> told_list(listen_to(Told::enter));
    std::size_t records = 0;  // one that never rests takes 64 rounds at each instant: it is looked at for less long
    for (int i = 0; i < 10'000 && records < 40'000; ++i) {
      random.write(it);
      Ticks left(random.pick(6) == 0 ? random.pick(60'000'000) : random.pick(2'000'000));
      for (bool more = true; more;) {
        told_list.clear();
        const Advanced part = it.advance(left, told_list);
        left = part.left;
        records += told_list.size();
        more = left.count > 0;
        for (const Cue& cue : told_list) {
          const TransitionInfo* rule =
              cue.transition == kNoTransition ? nullptr : &machine.transitions()[cue.transition];
          ASSERT_TRUE(rule == nullptr || (lines.count(rule->place.line) == 0 && rules.count(cue.transition) == 0))
              << "seed " << seed << " " << rule->text << " to " << rule->to;
          ASSERT_EQ(states.count(machine.states()[cue.state].place.line), 0u)
              << "seed " << seed << " " << cue.state_path();
        }
      }
      if (it.done()) it = Instance(machine);
      ++steps;
    }
  }
  EXPECT_GT(by_reach, at_least(count / 4));
  EXPECT_GT(told, count * 3 / 4);
  EXPECT_GT(tapes, count / 20);
  EXPECT_GT(steps, std::size_t{count} * (is_plain() ? 1'750 : 1'200));
}

// Rules that leave leaves after a short time, whatever is written.
void add_leaving_rules(std::vector<StateDef>& states, RandomMachine& random) {
  for (StateDef& state : states) {
    add_leaving_rules(state.states, random);
    for (RegionDef& region : state.regions) add_leaving_rules(region.states, random);
    if (states.size() < 2 || random.pick(2) == 0) continue;
    GoDef go;
    go.after = milliseconds(random.pick(400));
    go.to = states[static_cast<std::size_t>(random.pick(static_cast<int>(states.size())))].name;
    go.restart = random.pick(8) == 0;
    if (random.pick(6) == 0) go.fade = milliseconds(100), go.fade_cues = FadeCues::both;
    state.go.insert(random.pick(2) == 0 ? state.go.begin() : state.go.end(), go);
  }
}

// Rules without an event that lead on at once: whatever comes, or the one half of it after the other.
void add_rules_at_once(std::vector<StateDef>& states, RandomMachine& random) {
  for (StateDef& state : states) {
    add_rules_at_once(state.states, random);
    for (RegionDef& region : state.regions) add_rules_at_once(region.states, random);
    if (states.size() < 2 || !state.states.empty() || !state.regions.empty() || random.pick(4) != 0) continue;
    const auto to = [&] { return states[static_cast<std::size_t>(random.pick(static_cast<int>(states.size())))].name; };
    GoDef go;
    go.to = to();
    if (random.pick(2) == 0) {
      go.when.text = random.pick(2) == 0 ? "v >= 0.5" : "n > 0";
      state.go.push_back(go);
      go.when.text = "not (" + go.when.text + ")";
      go.to = to();
    }
    state.go.push_back(go);
  }
}

// What is called never shown is active at the end of no instant.
TEST_P(RandomProofs, WhatIsNeverShownIsLeftAtOnce) {
  std::size_t told = 0, passed = 0;
  const std::uint32_t count = machines(400);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    std::optional<SoundMachine> subject = placed(seed, add_rules_at_once);
    if (!subject) continue;
    RandomMachine& random = subject->random;
    const Machine& machine = subject->machine;
    std::set<std::uint16_t> never;
    for (const ProofLimits& limits : {small(), tiny()})
      for (const ProvedFinding& each : logic_and_runs(subject->definition, machine, limits).findings)
        for (const TransitionInfo& rule : machine.transitions())
          if (each.finding.code == FindingCode::never_shown && rule.place.line == each.finding.line)
            never.insert(rule.owner);
    told += never.size();
    if (never.empty()) continue;
    Instance it(machine);
    CueList<512> list(listen_to(Told::enter));
    for (int i = 0; i < 2'000; ++i) {
      random.write(it);
      const Ticks until = it.now() + Ticks(random.pick(6) == 0 ? random.pick(60'000'000) : random.pick(2'000'000));
      for (bool more = true; more; more = it.now() < until) {
        list.clear();
        const Ticks wake = it.next_wake();
        (void)it.advance((wake > it.now() ? std::min(until, wake) : until) - it.now(), list);
        for (const Cue& cue : list) passed += never.count(cue.state);
        for (std::uint16_t r = 0; r < it.region_count(); ++r)
          ASSERT_EQ(never.count(it.active(r)), 0u) << "seed " << seed << " " << machine.states()[it.active(r)].path;
      }
      if (it.done()) it = Instance(machine);
    }
  }
  if (!is_told_of()) return;
  EXPECT_GT(told, at_least(count / 60));
  EXPECT_GT(passed, at_least(count / 4));
}

// A cue of a clip's frame in a state, as a finding names it: `it leaves "b" at once, before "c" of "w" is told (frame
// 3, 0.3 s)`.
std::string cue_of(const Finding& finding) {
  const std::string& text = finding.message;
  const std::size_t state = text.find('"') + 1, cue = text.find(", before \""), told = text.find(" is told (frame ");
  if (cue == std::string::npos || told == std::string::npos) return "";
  const std::size_t frame = told + 16;
  return text.substr(state, text.find('"', state) - state) + ": " + text.substr(cue + 9, told - cue - 9) + " " +
         text.substr(frame, text.find(',', frame) - frame);
}

// No cue that a rule is said to cut off is told in the state that it leaves, no rule that is said to come too late is
// taken; a runaway, which stops rules wherever they are, ends a run.
TEST_P(RandomProofs, WhatComesTooLateNeverComes) {
  std::size_t cut = 0, late = 0;
  const std::uint32_t count = machines(300);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    std::optional<SoundMachine> subject = placed(seed, add_leaving_rules);
    if (!subject) continue;
    RandomMachine& random = subject->random;
    const Machine& machine = subject->machine;
    std::set<std::string> cues;
    std::set<std::uint32_t> lines;
    for (const Finding& each : logic_findings(subject->definition, machine)) {
      if (each.code == FindingCode::unreached_cue) cues.insert(cue_of(each));
      if (each.code == FindingCode::never_holds) lines.insert(each.line);
    }
    cues.erase("");
    cut += cues.size();
    late += lines.size();
    if (cues.empty() && lines.empty()) continue;
    Instance it(machine);
    CueList<512> told(listen_to(Told::enter) | listen_to(Told::cue) | listen_to(Told::fault));
    std::size_t records = 0;
    for (int i = 0; i < 3'000 && records < 20'000; ++i) {
      random.write(it);
      bool stopped = false;
      for (Ticks left(random.pick(6) == 0 ? random.pick(60'000'000) : random.pick(2'000'000));
           left.count > 0 && !stopped;) {
        told.clear();
        const Advanced part = it.advance(left, told);
        left = part.left;
        records += told.size();
        stopped = stopped || part.needs > 0;  // an instant of so many records is a runaway's
        for (const Cue& cue : told) {
          stopped = stopped || cue.what == Told::fault;
          if (stopped) break;
          if (cue.what == Told::cue) {
            const std::string name = std::string(cue.state_path()) + ": \"" + std::string(cue.name()) + "\" of \"" +
                                     std::string(cue.clip_name()) + "\" " + std::to_string(cue.frame);
            ASSERT_EQ(cues.count(name), 0u) << "seed " << seed << " " << name;
          }
          ASSERT_TRUE(cue.transition == kNoTransition ||
                      lines.count(machine.transitions()[cue.transition].place.line) == 0)
              << "seed " << seed << " " << machine.transitions()[cue.transition].text;
        }
      }
      if (it.done() || stopped) it = Instance(machine);
    }
  }
  if (!is_told_of()) return;
  EXPECT_GT(cut, at_least(count / 100));
  EXPECT_GT(late, count / 10);
}

Saying saying(const Machine& machine, RandomMachine& random, bool of_the_write) {
  const std::string path =
      machine.states()[static_cast<std::size_t>(1 + random.pick(static_cast<int>(machine.states().size()) - 1))].path;
  if (machine.variable("c") && random.pick(3) == 0) {
    const int limit = random.pick(5);
    return {"c > " + std::to_string(limit), [=](const MomentOf& at) { return at.number("c") > limit; }};
  }
  if (machine.variable("d") && random.pick(3) == 0) {
    const int limit = random.pick(4);
    return {"d == " + std::to_string(limit), [=](const MomentOf& at) { return at.number("d") == limit; }};
  }
  switch (random.pick(of_the_write ? 8 : 7)) {
    case 0:
      return {"in(" + path + ") and n > 0", [=](const MomentOf& at) { return at.in(path) && at.number("n") > 0; }};
    case 1:
      return {"in(" + path + ") and v >= 1", [=](const MomentOf& at) { return at.in(path) && at.number("v") >= 1; }};
    case 2:
      return {"not in(" + path + ")", [=](const MomentOf& at) { return !at.in(path); }};
    case 3: {
      const std::string cue = "cue" + std::to_string(random.pick(4));
      return {"cue(" + cue + ") and in(" + path + ")",
              [=](const MomentOf& at) { return at.cues.count(cue) > 0 && at.in(path); }};
    }
    case 7:
      return {"pulse(q) and in(" + path + ")",
              [=](const MomentOf& at) { return at.pulses.count("q") > 0 && at.in(path); }};
    default:
      return {"in(" + path + ")", [=](const MomentOf& at) { return at.in(path); }};
  }
}

// A proved claim is true in random runs at rate 1, and the tape of a refuted one breaks it.
TEST_P(RandomProofs, WhatIsProvedIsTrueInRandomRuns) {
  std::size_t proved = 0, refuted = 0, open = 0, by_reach = 0;
  const std::uint32_t count = machines(500);
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    RandomMachine random(seed + 50'000);
    MachineDef definition = made(random);
    const Compiled plain = compile(definition);
    if (!plain.machine) continue;
    const ClaimKind kinds[] = {ClaimKind::never, ClaimKind::once,   ClaimKind::within,
                               ClaimKind::next,  ClaimKind::always, ClaimKind::when};
    ClaimDef claim;
    claim.name = "it";
    claim.kind = kinds[random.pick(6)];
    const Saying one = saying(*plain.machine, random, claim.kind == ClaimKind::when),
                 two = saying(*plain.machine, random, false);
    claim.first = Text(one.words);
    if (claim.kind != ClaimKind::never && claim.kind != ClaimKind::always) claim.second = Text(two.words);
    if (claim.kind == ClaimKind::within) claim.within = milliseconds(200 + random.pick(1500));
    definition.claims.push_back(claim);
    const Compiled compiled = compile(definition);
    const ClaimAnswer answer = prove(definition, *compiled.machine, small())[0];
    (answer.answer == Answer::proved ? proved : answer.answer == Answer::refuted ? refuted : open)++;
    const std::string all = "seed " + std::to_string(seed) + " kind " + std::to_string(static_cast<int>(claim.kind)) +
                            " " + one.words + " / " + two.words + " within " + std::to_string(claim.within.count);
    if (answer.answer == Answer::refuted) {
      ASSERT_TRUE(breaks(*compiled.machine, *answer.tape, {claim, one, two})) << all << "\n" << tape_text(*answer.tape);
    }
    const auto write = [&](Instance& it) { return random.write_input(it); };
    // However much is looked at, the answers agree.
    const ClaimAnswer by_little = prove(definition, *compiled.machine, tiny())[0];
    const Answer quick = by_little.answer;
    by_reach += quick == Answer::proved ? 1 : 0;
    ASSERT_FALSE(quick == Answer::proved && answer.answer == Answer::refuted) << all;
    ASSERT_FALSE(quick == Answer::vacuous && (answer.answer == Answer::refuted || answer.answer == Answer::proved))
        << all;
    const bool any_rate = is_at_any_rate(answer) || is_at_any_rate(by_little);
    for (int run = 0; run < 20 && (answer.answer == Answer::proved || quick == Answer::proved); ++run)
      ASSERT_TRUE(stays_true(*compiled.machine, random, {claim, one, two}, write, any_rate && run % 2 == 1)) << all;
  }
  EXPECT_GT(proved, at_least(count / 40));
  EXPECT_GT(refuted, count / 20);
  EXPECT_GE(by_reach, is_plain() ? count / 50 + 1 : 0);
}

// The same answers every time: work is counted.
TEST_P(RandomProofs, AreTheSameEveryTime) {
  for (std::uint32_t seed = 0; seed < 30; ++seed) {
    RandomMachine random(seed);
    const MachineDef definition = made(random);
    const Compiled compiled = compile(definition);
    if (!compiled.machine) continue;
    const auto text = [&] {
      std::string out;
      for (const ProvedFinding& each : logic_and_runs(definition, *compiled.machine, small()).findings)
        out += each.finding.text() + (each.tape ? tape_text(*each.tape) : "") + "\n";
      return out;
    };
    EXPECT_EQ(text(), text());
  }
}

INSTANTIATE_TEST_SUITE_P(All, RandomProofs, testing::ValuesIn(kAllMade), name_of_made);

}  // namespace
}  // namespace mobrin::test
