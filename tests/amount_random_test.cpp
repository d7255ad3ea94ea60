// Proofs over random machines whose variables hold far more values than are counted out: stamina, heat, money. What is
// proved stays true, what is refuted is broken by its tape, what is told never happens.
#include <functional>
#include <map>
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "claim_judge.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A machine of whole `a` and `b`, and of `c` with a fraction, that rounds, entries, exits, cues and transitions change.
class Amounts {
 public:
  explicit Amounts(std::uint32_t seed) : random_(seed) {}

  int pick(int count) { return static_cast<int>(random_() % static_cast<std::uint32_t>(count)); }
  std::string state() { return "s" + std::to_string(pick(states_)); }

  // The machine as a file, without claims; each of its rules stands on a line of its own.
  std::string make() {
    states_ = 2 + pick(3);
    std::string out =
        "inputs: {x: {int: 0, min: 0, max: 100}, y: {float: 0, min: -2, max: 2, grain: 0.25}, on: false, " +
        std::string("p: pulse, q: {pulse: 100ms}}\nvars: {a: ") + start('a', 0) + ", b: " + start('b', 0) +
        ", c: " + start('c', 0.5) +
        "}\ncues: {drop: sound}\nclips:\n  hum: {frames: [0-3], fps: 20, play: loop}\n"
        "  blow: {frames: [0-4], fps: 20}\nmarks: {hum: {cues: {2: drop}}, blow: {cues: {3: drop}}}\n"
        "initial: s0\nstates:\n";
    for (int s = 0; s < states_; ++s)
      out += "  s" + std::to_string(s) + ": {" + plays() + "go: " + rules(1 + pick(3)) + "}\n";
    if (pick(3) == 0) out += "go: " + rules(1) + "\n";
    return out;
  }
  std::optional<std::string> write(Instance& it) {
    const Machine& machine = it.machine();
    const int which = pick(6);
    if (which < 2) {
      it.set(*machine.input<std::int32_t>("x"), pick(2) == 0 ? kNumbers[pick(kCount)] / 10 : pick(101));
    } else if (which == 2) {
      it.set(*machine.input<float>("y"), static_cast<float>(pick(17) - 8) / 4);
    } else if (which == 3) {
      it.set(*machine.input<bool>("on"), pick(2) == 0);
    } else {
      const std::string pulse = which == 4 ? "p" : "q";
      it.pulse(*machine.pulse(pulse));
      return pulse;
    }
    return std::nullopt;
  }
  Saying saying() {
    const std::string path = state();
    const Saying amount = compared();
    switch (pick(5)) {
      case 0:
        return {"in(" + path + ")", [=](const MomentOf& at) { return at.in(path); }};
      case 1:
        return amount;
      case 2:
        return {"in(" + path + ") or " + amount.words,
                [=](const MomentOf& at) { return at.in(path) || amount.holds(at); }};
      case 3:
        return {"not in(" + path + ") and " + amount.words,
                [=](const MomentOf& at) { return !at.in(path) && amount.holds(at); }};
      default:
        return {"in(" + path + ") and " + amount.words,
                [=](const MomentOf& at) { return at.in(path) && amount.holds(at); }};
    }
  }

 private:
  static constexpr int kNumbers[] = {0, 10, 20, 30, 100, 250, 500, 750, 990, 1000};
  static constexpr int kCount = std::size(kNumbers);

  std::string number() { return std::to_string(kNumbers[pick(kCount)]); }
  std::string start(char of, double more) {
    starts_[of] = kNumbers[pick(kCount)] + more;
    return more > 0 ? std::to_string(starts_[of]) : std::to_string(static_cast<int>(starts_[of]));
  }
  std::string variable() { return std::string(1, "abc"[pick(3)]); }
  // What a variable holds; before a run begins, what it will start with.
  [[nodiscard]] std::function<double(const MomentOf&)> held(const std::string& of) const {
    return [of, start = starts_.at(of[0])](const MomentOf& at) {
      return at.it.active(0) == kNoIndex ? start : at.number(of);
    };
  }
  Saying compared() {
    const std::string of = variable();
    const auto value = held(of);
    if (pick(8) == 0) return {"a < b", [a = held("a"), b = held("b")](const MomentOf& at) { return a(at) < b(at); }};
    const int limit = kNumbers[pick(kCount)] + pick(3) - 1;
    const std::string text = std::to_string(limit);
    switch (pick(5)) {
      case 0:
        return {of + " < " + text, [=](const MomentOf& at) { return value(at) < limit; }};
      case 1:
        return {of + " >= " + text, [=](const MomentOf& at) { return value(at) >= limit; }};
      case 2:
        return {of + " == " + text, [=](const MomentOf& at) { return value(at) == limit; }};
      case 3:
        return {of + " != " + text, [=](const MomentOf& at) { return value(at) != limit; }};
      default:
        return {of + " > " + text, [=](const MomentOf& at) { return value(at) > limit; }};
    }
  }
  // What a state does: loops, ends, or only stands; and its actions.
  std::string plays() {
    const int kind = pick(4);
    std::string out = kind < 2 ? "clip: hum, " : kind == 2 ? "clip: blow, " : "length: 150ms, ";
    if (kind < 2 && pick(4) == 0) out += pick(2) == 0 ? "speed: 2, " : "speed: y, ";
    if (kind < 2 && pick(4) != 0) out += "each_loop: [" + actions() + "], ";
    if (pick(3) == 0) out += "enter: [" + actions() + "], ";
    if (pick(4) == 0) out += "exit: [" + actions() + "], ";
    return out;
  }
  std::string actions() { return "\"" + action() + "\"" + (pick(3) == 0 ? ", \"" + action() + "\"" : ""); }
  std::string action() {
    const std::string of = variable(), step = std::to_string(kNumbers[1 + pick(7)] + pick(2));
    switch (pick(12)) {
      case 0:
        return of + " = min(" + of + " + " + step + ", 1000)";
      case 1:
        return of + " = max(" + of + " - " + step + ", 0)";
      case 2:
        return of + " = " + of + " - " + step;
      case 3:
        return of + " = clamp(" + of + " + select(on, " + step + ", -" + step + "), 0, 1000)";
      case 4:
        return of + " = max(" + of + " - x, 0)";
      case 5:
        return of + " = x * 10";
      case 6:
        return of + " = " + (of == "c" ? variable() : std::string(1, "ab"[pick(2)]));
      case 7:
        return of + " = clamp(" + of + " + x, 10, 750)";
      case 8:
        return "c = " + variable() + " / 2";
      case 9:
        return of + " = select(" + compared().words + ", " + number() + ", " + of + ")";
      case 10:
        return "c = clamp(" + variable() + " + y * 100, 0, 990)";
      default:
        return of + " = " + number();
    }
  }
  std::string guard() {
    switch (pick(6)) {
      case 0:
        return "on";
      case 1:
        return "y > 0.5";
      case 2:
        return "x * 10 > " + variable();
      case 3:
        return compared().words + " and not on";
      default:
        return compared().words;
    }
  }
  std::string rule() {
    const int event = pick(9);
    const bool needs_guard = event > 4;
    return std::string("{") +
           (event == 0   ? "at: end, "
            : event == 1 ? "after: 200ms, "
            : event == 2 ? "pulse: p, "
            : event == 3 ? "pulse: q, "
            : event == 4 ? "cue: drop, "
                         : "") +
           (needs_guard || pick(2) == 0 ? "when: \"" + guard() + "\", " : "") +
           (pick(4) == 0 ? "do: [" + actions() + "], " : "") + "to: " + state() + "}";
  }
  std::string rules(int count) {
    std::string out = "[";
    for (int i = 0; i < count; ++i) out += (i > 0 ? ",\n    " : "\n    ") + rule();
    return out + "]";
  }

  std::mt19937 random_;
  int states_ = 0;
  std::map<char, double> starts_;
};

TEST(RandomAmounts, AreProvedAsTheyAreTrue) {
  const std::uint32_t count = seeds(150);
  const Counts told = hold_claims_against_runs<Amounts>(count, [](Amounts& random) {
    const ClaimKind kinds[] = {ClaimKind::never, ClaimKind::always, ClaimKind::once,
                               ClaimKind::next,  ClaimKind::when,   ClaimKind::within};
    const Saying one = random.saying(), two = random.saying();
    ClaimDef claim = claim_of(kinds[random.pick(6)], one, two);
    if (claim.kind == ClaimKind::within) claim.within = milliseconds(200 + random.pick(800));
    return Said{claim, one, two};
  });
  EXPECT_GT(told.proved, count / 8);
  EXPECT_GT(told.refuted, count / 4);
}

// What can be brought about is, by random play, from the first few moments at which it is asked for.
TEST(RandomAmounts, CanBeBroughtAboutWhereItIsProved) {
  const std::uint32_t count = seeds(150);
  const std::size_t tried = bring_about_what_can_be<Amounts>(count, 140'000, [](Amounts& random) {
    const Saying from = random.saying();
    return std::pair(from, random.saying());
  });
  EXPECT_GT(tried, count / 10);
}

TEST(RandomAmounts, WhatIsToldNeverHappens) {
  const std::uint32_t count = seeds(60);
  EXPECT_GT(never_happens_what_is_told<Amounts>(count, 70'000), count / 2);
}

}  // namespace
}  // namespace mobrin::test
