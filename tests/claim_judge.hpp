// Claims held against runs of the engine, moment for moment.
#pragma once

#include <functional>
#include <iterator>
#include <optional>
#include <set>
#include <string>
#include <utility>

#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "random_machine.hpp"
#include "support.hpp"

namespace mobrin::test {

// A moment of a run: what it told and what was written.
struct MomentOf {
  const Instance& it;
  std::set<std::string> cues, pulses;
  [[nodiscard]] bool in(const std::string& path) const { return it.in(*it.machine().state(path)); }
  [[nodiscard]] double number(const std::string& name) const {
    if (const auto variable = it.machine().variable(name)) return it.value(*variable);
    const auto inputs = it.machine().inputs();
    for (std::uint16_t i = 0; i < inputs.size(); ++i)
      if (inputs[i].name.text == name) {
        const FieldValue value = it.input_value(i);
        if (const auto* whole = std::get_if<std::int64_t>(&value)) return static_cast<double>(*whole);
        if (const auto* number = std::get_if<double>(&value)) return *number;
      }
    return 0;
  }
};
// What a claim speaks of, as words and as a question.
struct Saying {
  std::string words;
  std::function<bool(const MomentOf&)> holds;
};
// Holds a claim against a run, moment for moment.
class Judge {
 public:
  Judge(const ClaimDef& claim, Saying one, Saying two) : claim_(claim), one_(std::move(one)), two_(std::move(two)) {}
  // When the game has written.
  void before(const MomentOf& at) { written_ = one_.holds(at); }
  [[nodiscard]] bool counts_instants() const { return claim_.kind == ClaimKind::next; }
  // Whether what is waited for has not come in time.
  [[nodiscard]] bool late(Ticks now) const {
    return claim_.kind == ClaimKind::within && since_ && now - *since_ > claim_.within;
  }
  // When it has settled; false: the claim is broken.
  [[nodiscard]] bool after(const MomentOf& at) {
    const bool a = claim_.kind == ClaimKind::when ? written_ : one_.holds(at), b = two_.holds(at);
    met_ = met_ || a;
    const bool last = last_;
    last_ = a;
    const bool too_late = late(at.it.now());  // even if it is so now
    if (b) since_.reset();
    if (a && !b && !since_) since_ = at.it.now();
    switch (claim_.kind) {
      case ClaimKind::never:
        return !a;
      case ClaimKind::always:
        return a;
      case ClaimKind::once:
        return !met_ || b;
      case ClaimKind::next:
        return !last || a || b;
      case ClaimKind::when:
        return !a || b;
      default:
        return !too_late;
    }
  }

 private:
  const ClaimDef& claim_;
  Saying one_, two_;
  bool written_ = false, met_ = false, last_ = false;
  std::optional<Ticks> since_;
};

// Whether a claim stays true in a random run; one that comes to no rest ends it.
// `write(instance)` writes something, and gives the name of a pulse that it wrote. `any_rate`: rates and freezes are
// any, for a claim that is true then too.
template <class Random, class Write>
bool stays_true(const Machine& machine, Random& random, Judge judge, const Write& write, bool any_rate = false) {
  Instance it(machine);
  CueList<512> told(listen_to(Told::fault) | listen_to(Told::cue));
  for (int i = 0; i < 120; ++i) {
    std::set<std::string> pulses;
    if (const auto pulse = write(it)) pulses.insert(*pulse);
    if (any_rate && random.pick(6) == 0) it.set_rate(random.pick(8) == 0 ? 64 : 0.125 * random.pick(25));
    if (any_rate && random.pick(12) == 0) it.freeze(milliseconds(random.pick(200)));
    const Ticks until = it.now() + Ticks(random.pick(60'000'000));
    for (bool first = true; first || it.now() < until; first = false) {
      judge.before({it, {}, first ? pulses : std::set<std::string>{}});
      const Ticks wake = it.next_wake();
      const Ticks to = first ? it.now() : wake > it.now() ? std::min(until, wake) : until;
      told.clear();
      if (it.advance(to - it.now(), told).needs > 0) return true;
      MomentOf at{it, {}, first ? pulses : std::set<std::string>{}};
      for (const Cue& cue : told) {
        if (cue.what == Told::fault) return true;
        if (cue.edge != Edge::end) at.cues.insert(std::string(cue.name()));
      }
      if ((first || wake <= it.now()) && !judge.after(at)) return false;
    }
  }
  return true;
}

// Whether a tape breaks a claim: the engine runs it, judged moment for moment.
inline bool breaks(const Machine& machine, const Tape& tape, Judge judge) {
  Instance it(machine);
  CueList<512> told(listen_to(Told::fault) | listen_to(Told::cue));
  const auto moment = [&](Ticks to, const std::set<std::string>& pulses) {
    judge.before({it, {}, pulses});
    told.clear();
    (void)it.advance(to - it.now(), told);
    MomentOf at{it, {}, pulses};
    for (const Cue& cue : told)
      if (cue.what == Told::cue && cue.edge != Edge::end) at.cues.insert(std::string(cue.name()));
    return judge.after(at);
  };
  // Moment for moment up to an instant, where nothing is due no moment; false: it is broken on the way.
  const auto run_to = [&](Ticks to) {
    while (it.now() < to) {
      const Ticks wake = it.next_wake();
      if (wake > to) {
        (void)it.advance(to - it.now(), told);
        return !judge.late(to);
      }
      if (!moment(wake > it.now() ? wake : to, {})) return false;
    }
    return true;
  };
  bool first = true;
  for (const TapeStep& step : tape.steps) {
    if (first && step.at.count > 0 && !moment({}, {})) return true;
    first = false;
    if (!run_to(step.at)) return true;
    write_step(it, step);
    std::set<std::string> pulses;
    for (const Text& pulse : step.pulses) pulses.insert(pulse.text);
    if (!moment(it.now(), pulses)) return true;
  }
  if (first && !moment({}, {})) return true;
  // At its end something was due for who listens to more; a claim about states is judged there too.
  return !run_to(*tape.until) || (!judge.counts_instants() && !moment(it.now(), {}));
}

inline bool is_at_any_rate(const ClaimAnswer& answer) {
  return answer.says.find("at any rate") != std::string::npos;
}

// Whether runs agree with an answer: what refutes it breaks it, what is proved stays true in so many.
template <class Random, class Write>
bool is_borne_out(const Machine& machine, const ClaimAnswer& answer, const Judge& judge, Random& random,
                  const Write& write, int runs = 40) {
  if (answer.answer == Answer::refuted) return breaks(machine, *answer.tape, judge);
  const bool any_rate = is_at_any_rate(answer);
  for (int run = 0; run < runs && answer.answer == Answer::proved; ++run)
    if (!stays_true(machine, random, judge, write, any_rate && run % 2 == 1)) return false;
  return true;
}

// Whether play from here comes to it, if only for an instant, in many tries of which some write little and wait long.
template <class Random>
bool comes_to(const Instance& here, const Saying& aim, Random& random) {
  CueList<512> told(listen_to(Told::cue));
  if (aim.holds({here, {}, {}})) return true;
  for (int run = 0; run < 3'000; ++run) {
    Instance it(here.machine());
    if (!it.restore(here.block())) return false;
    const int seldom = 1 + random.pick(12);
    bool rests = true;
    for (int i = 0; i < 60 && rests; ++i) {
      for (int k = random.pick(seldom) == 0 ? 1 + random.pick(4) : 0; k > 0; --k) (void)random.write(it);
      const Ticks until = it.now() + Ticks(random.pick(4) == 0 ? random.pick(60'000'000) : random.pick(1'500'000'000));
      Ticks to = it.now();
      for (int instants = 0; rests && it.now() <= until && instants < 200; ++instants) {
        told.clear();
        rests = it.advance(to - it.now(), told).needs == 0;
        MomentOf at{it, {}, {}};
        for (const Cue& cue : told)
          if (cue.edge != Edge::end) at.cues.insert(std::string(cue.name()));
        if (aim.holds(at)) return true;
        if (it.now() == until) break;
        const Ticks wake = it.next_wake();
        to = wake > it.now() ? std::min(until, wake) : until;
      }
    }
  }
  return false;
}

// Little work, so that many machines can be looked at.
inline ProofLimits small() {
  ProofLimits out;
  out.steps = 20'000;
  out.moments = 300;
  out.moves = 2'000;
  return out;
}

inline ClaimDef claim_of(ClaimKind kind, const Saying& one, const Saying& two) {
  ClaimDef out;
  out.name = "it";
  out.kind = kind;
  out.first = Text(one.words);
  if (kind != ClaimKind::never && kind != ClaimKind::always) out.second = Text(two.words);
  return out;
}

// A machine with one claim, and its answer; nothing where the text is no sound machine.
struct Answered {
  Machine machine;
  ClaimAnswer answer;
};
inline std::optional<Answered> answered(const std::string& text, const ClaimDef& claim,
                                        const ProofLimits& limits = small()) {
  Loaded loaded = loaded_from(text);
  if (!loaded.machine) return std::nullopt;
  loaded.definition->claims.push_back(claim);
  Machine machine = *compile(*loaded.definition).machine;
  ClaimAnswer answer = prove(*loaded.definition, machine, limits)[0];
  return Answered{std::move(machine), std::move(answer)};
}

// A claim and what it says.
struct Said {
  ClaimDef claim;
  Saying one, two;
};
// How many of so many random machines' claims are proved, and refuted; runs agree with each. `make(random)`: Said.
struct Counts {
  std::size_t proved = 0, refuted = 0;
};
template <class Random, class Make>
Counts hold_claims_against_runs(std::uint32_t count, const Make& make, const ProofLimits& limits = small()) {
  Counts out;
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    Random random(seed);
    const std::string text = random.make();
    const Said said = make(random);
    const auto& [claim, one, two] = said;
    const auto found = answered(text, claim, limits);
    if (!found) continue;
    out.proved += found->answer.answer == Answer::proved ? 1 : 0;
    out.refuted += found->answer.answer == Answer::refuted ? 1 : 0;
    const bool agree = is_borne_out(found->machine, found->answer, {claim, one, two}, random,
                                    [&](Instance& it) { return random.write(it); });
    EXPECT_TRUE(agree) << "seed " << seed << " kind " << static_cast<int>(claim.kind) << " " << one.words << " / "
                       << two.words << "\n"
                       << text << (found->answer.tape ? tape_text(*found->answer.tape) : "");
    if (!agree) break;
  }
  return out;
}

// From how many moments what can be brought about was asked for; random play did it from each. `make(random)`: from
// where, and what.
template <class Random, class Make>
std::size_t bring_about_what_can_be(std::uint32_t count, std::uint32_t first, const Make& make) {
  std::size_t tried = 0;
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    Random random(seed + first);
    const std::string text = random.make();
    const std::pair<Saying, Saying> claim = make(random);
    const auto& [from, aim] = claim;
    const auto found = answered(text, claim_of(ClaimKind::can, from, aim));
    if (!found || found->answer.answer != Answer::proved) continue;
    Instance it(found->machine);
    CueList<512> told;
    for (int i = 0, asked = 0; i < 200 && asked < 3; ++i) {
      (void)random.write(it);
      told.clear();
      if (it.advance(Ticks(random.pick(200'000'000)), told).needs > 0) break;
      if (!from.holds({it, {}, {}}) || aim.holds({it, {}, {}}) || random.pick(3) != 0) continue;
      ++asked, ++tried;
      const bool comes = comes_to(it, aim, random);
      EXPECT_TRUE(comes) << "seed " << seed << " " << from.words << ", " << aim.words << "\n" << text;
      if (!comes) return tried;
    }
  }
  return tried;
}

// Rules that are said never to hold, or never to have their turn, are not taken, and what is said to be unreachable is
// not entered, at any rate, over random machines; how many were told.
template <class Random>
std::size_t never_happens_what_is_told(std::uint32_t count, std::uint32_t first) {
  std::size_t told = 0;
  for (std::uint32_t seed = 0; seed < count && !testing::Test::HasFailure(); ++seed) {
    Random random(seed + first);
    const std::string text = random.make();
    const Loaded loaded = loaded_from(text);
    if (!loaded.machine) continue;
    const Machine& machine = *loaded.machine;
    // By line and column: a rule's own, also where its guard's is told.
    using At = std::pair<std::uint32_t, std::uint32_t>;
    std::set<At> places, never;
    for (const StateInfo& each : machine.states()) places.emplace(each.place.line, each.place.column);
    for (const TransitionInfo& each : machine.transitions()) places.emplace(each.place.line, each.place.column);
    for (const ProvedFinding& each : logic_and_runs(*loaded.definition, machine, small()).findings) {
      const FindingCode code = each.finding.code;
      if (code == FindingCode::never_holds || code == FindingCode::shadowed || code == FindingCode::wrong_order ||
          code == FindingCode::unreachable) {
        const auto behind = places.upper_bound(At(each.finding.line, each.finding.column));
        if (behind != places.begin() && std::prev(behind)->first == each.finding.line) never.insert(*std::prev(behind));
      }
    }
    told += never.size();
    CueList<512> list(listen_to(Told::enter));
    for (int run = 0; run < 20 && !never.empty(); ++run) {
      Instance it(machine);
      bool rests = true;
      for (int i = 0; i < 120 && rests; ++i) {
        (void)random.write(it);
        if (random.pick(20) == 0) it.set_rate(0.25 * random.pick(9));
        list.clear();
        rests = it.advance(Ticks(random.pick(6) == 0 ? random.pick(700'000'000) : random.pick(60'000'000)), list).needs == 0;
        for (const Cue& cue : list) {
          const auto told_of = [&](const Place& place) { return never.count({place.line, place.column}) > 0; };
          const bool by_rule = cue.transition != kNoTransition;
          EXPECT_FALSE((by_rule && told_of(machine.transitions()[cue.transition].place)) ||
                       told_of(machine.states()[cue.state].place))
              << "seed " << seed << " " << cue.state_path() << "\n"
              << text;
        }
      }
    }
  }
  return told;
}

}  // namespace mobrin::test
