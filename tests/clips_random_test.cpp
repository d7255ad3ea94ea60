// Proofs over random machines whose plays are changed while they run: clips by an input, several in turn, speeds of
// either sign. What is proved stays true, what is refuted is broken by its tape, what can be brought about is.
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "claim_judge.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

class Turned {
 public:
  explicit Turned(std::uint32_t seed) : random_(seed) {}

  int pick(int count) { return static_cast<int>(random_() % static_cast<std::uint32_t>(count)); }
  std::string state() { return (beside_ ? "a/s" : "s") + std::to_string(pick(states_)); }

  // The machine as a file, without claims.
  std::string make() {
    states_ = 2 + pick(3);
    std::string out =
        "inputs: {to: {one_of: [up, down, left]}, y: {float: 1, min: -2, max: 2, grain: 0.25}, on: false, "
        "p: pulse, q: {pulse: 100ms}}\nvars: {v: 1}\ncues: {hit: sound, tap: sound}\nclips:\n";
    const char* const all_that_end[] = {"once", "once", "loop x2", "back-and-forth x2"};
    const std::string ends = all_that_end[pick(4)], round = pick(3) == 0 ? "back-and-forth" : "loop";
    may_blend_ = round == "loop";
    for (int c = 0; c < kClips; ++c) {
      // Often of one length.
      frames_[c] = pick(2) == 0 ? 4 : 3 + pick(4);
      out += "  " + clip(c) + ": {frames: [0-" + std::to_string(frames_[c] - 1) +
             "], fps: " + (pick(4) == 0 ? "15" : "20") + ", play: " +
             (c < kOnce ? ends : round) + "}\n";
    }
    out += "marks:\n";
    for (int c = 0; c < kClips; ++c) {
      out += "  " + clip(c) + ": {" + marks(frames_[c]) + "}\n";
    }
    beside_ = pick(4) == 0;
    if (!beside_) return out + "initial: s0\n" + states("s", states_);
    out += "regions:\n a:\n  initial: s0\n  " + states("s", states_);
    return out + " b:\n  initial: t0\n  " + states("t", 2);
  }
  std::optional<std::string> write(Instance& it) {
    const Machine& machine = it.machine();
    const int which = pick(7);
    if (which < 2) {
      const Input<Choice> to = *machine.input<Choice>("to");
      const char* const choices[] = {"up", "down", "left"};
      it.set(to, *machine.choice(to, choices[pick(3)]));
    } else if (which == 2) {
      it.set(*machine.input<float>("y"), static_cast<float>(pick(17) - 8) / 4);
    } else if (which == 3) {
      it.set(*machine.input<bool>("on"), pick(2) == 0);
    } else if (which < 6) {
      const std::string pulse = which == 4 ? "p" : "q";
      it.pulse(*machine.pulse(pulse));
      return pulse;
    }
    return std::nullopt;
  }
  Saying saying() {
    const std::string path = state(), cue = pick(2) == 0 ? "hit" : "tap";
    const Saying here{"in(" + path + ")", [=](const MomentOf& at) { return at.in(path); }};
    const Saying told{"cue(" + cue + ")", [=](const MomentOf& at) { return at.cues.count(cue) > 0; }};
    switch (pick(6)) {
      case 0:
        return told;
      case 1:
        return {told.words + " and " + here.words,
                [=](const MomentOf& at) { return told.holds(at) && here.holds(at); }};
      case 2:
        return {told.words + " and not " + here.words,
                [=](const MomentOf& at) { return told.holds(at) && !here.holds(at); }};
      case 3:
        return {"not " + here.words, [=](const MomentOf& at) { return !here.holds(at); }};
      default:
        return here;
    }
  }
  Saying place() {
    const std::string path = state();
    return {"in(" + path + ")", [=](const MomentOf& at) { return at.in(path); }};
  }

 private:
  static constexpr int kOnce = 4, kClips = 7;  // those that end come first

  std::string states(const std::string& name, int count) {
    std::vector<std::string> played(static_cast<std::size_t>(count));
    starts_.clear();
    for (std::string& each : played) each = plays();
    std::string out = "states: {";
    for (int s = 0; s < count; ++s)
      out += (s == 0 ? "" : ",\n    ") + name + std::to_string(s) + ": {" + played[static_cast<std::size_t>(s)] +
             "go: " + rules(s, name, count) + "}";
    return out + "}\n";
  }
  static std::string clip(int c) { return "c" + std::to_string(c); }
  std::string some_clip(bool once) { return clip(once ? pick(kOnce) : kOnce + pick(kClips - kOnce)); }
  // One cue, mostly, or some that may be told in one direction only; and a window.
  std::string marks(int frames) {
    const auto cue = [&] { return std::string(pick(4) == 0 ? "tap" : "hit"); };
    std::string out = "cues: {";
    if (pick(3) != 0) {
      out += std::to_string(pick(3) == 0 ? pick(frames) : 2) + (pick(8) == 0 ? ".end: " : ": ") + cue();
    } else {
      for (int frame = 0; frame < frames; ++frame) {
        if (pick(2) == 0) continue;
        const char* const ways[] = {"forward", "backward"};
        const std::string told = cue();
        out += std::string(out.back() == '{' ? "" : ", ") + std::to_string(frame) + (pick(3) == 0 ? ".end: " : ": ") +
               (pick(3) == 0 ? "{" + told + ": {way: " + ways[pick(2)] + "}}" : told);
      }
      if (pick(3) == 0) out += std::string(out.back() == '{' ? "" : ", ") + (pick(2) == 0 ? "0s: " : "0.1s: ") + cue();
    }
    out += "}";
    if (pick(6) == 0) out += ", spans: {tap: " + std::string(pick(2) == 0 ? "1-2" : "0-1") + "}";
    const int first = pick(4) == 0 ? 0 : 1 + pick(2);
    return out + ", windows: {open: " + std::to_string(first) + "-" +
           std::to_string(frames - 1 - pick(2) % (frames - 2)) + "}";
  }
  std::string blend() {
    std::string out = "blend: {x: y, points: [{at: -1, clip: " + some_clip(false) + "}, {at: 0, clip: " +
                      some_clip(false) + (pick(4) == 0 ? ", backward: true" : "") + "}, {at: 1.5, clip: " +
                      some_clip(false) + "}]";
    return out + (pick(3) == 0 ? ", floor: 0.1" : "") + (pick(3) == 0 ? ", cues_above: 0.3" : "") + "}, ";
  }
  std::string plays() {
    const bool once = pick(3) != 0;
    std::string out;
    const int kind = pick(5);
    starts_.push_back(kind == 0 ? 1 : once ? 3 : 4);
    switch (kind) {
      case 0:
        out =
            "clip: [" + some_clip(true) + ", " + some_clip(true) + (pick(2) == 0 ? ", " + some_clip(true) : "") + "], ";
        break;
      case 1:
        out = once || !may_blend_ || pick(2) == 0 ? "clip: " + some_clip(once) + ", " : blend();
        break;
      default:
        out = "clip: {by: to, up: " + some_clip(once) + ", down: " + some_clip(once) + ", left: " + some_clip(once) +
              "}, ";
    }
    const char* const speeds[] = {"",  "",   "",     "2",           "select(on, 1, -1)", "y", "clamp(y, 0.5, 2)",
                                  "v", "-1", "-1.5", "select(on, -1, -2)"};
    const std::string speed = speeds[pick(11)];
    if (!speed.empty()) out += "speed: \"" + speed + "\", ";
    if (pick(5) == 0) out += std::string("enter: [\"v = ") + (pick(2) == 0 ? "-v" : "2") + "\"], ";
    return out;
  }
  std::string rule(int of, const std::string& name, int count) {
    const int event = pick(10);
    const std::string guards[] = {"on", "not on", "y > 0.5", "to == up", "v > 0", name == "s" ? "in(b/t0)" : "in(a/s1)"};
    const int kinds = beside_ ? 6 : 5;
    const char* const starts[] = {"same", "1", "0.05s", "clock"};
    const auto to = static_cast<std::size_t>(pick(count));
    const bool in_turn = starts_[static_cast<std::size_t>(of)] == 1;
    const bool in_window = pick(4) == 0, needs_guard = event > 7 && !in_window;
    return std::string("{") +
           (event < 3    ? pick(6) == 0 ? "at: loop, " : "at: end, "
            : event == 3 ? "after: 150ms, "
            : event < 6  ? "pulse: p, "
            : event == 6 ? "pulse: q, "
            : event == 7 ? "cue: hit, "
                         : "") +
           (in_window ? !in_turn && pick(4) == 0 ? "during: 0.05s-0.1s, " : "during: open, " : "") +
           (needs_guard || pick(3) == 0 ? "when: " + guards[pick(kinds)] + ", " : "") +
           (pick(8) == 0 ? "do: [\"v = -v\"], " : "") +
           (pick(8) == 0 ? std::string("start: ") + starts[pick(starts_[to])] + ", " : "") +
           (pick(4) == 0 ? "restart: true, " : "") +
           (pick(8) != 0      ? ""
            : pick(2) == 0 ? "fade: 80ms, "
                           : "fade: 120ms, cues: both, ") +
           "to: " + name + std::to_string(to) + "}";
  }
  std::string rules(int of, const std::string& name, int count) {
    std::string out = "[";
    for (int i = 1 + pick(3); i > 0; --i) out += "\n      " + rule(of, name, count) + (i > 1 ? "," : "");
    return out + "]";
  }

  std::mt19937 random_;
  int states_ = 0;
  bool may_blend_ = false;
  bool beside_ = false;  // another region beside the one that is asked about
  int frames_[kClips] = {};
  std::vector<int> starts_{};  // by state: how many ways to begin what it plays there are
};

TEST(RandomClips, AreProvedAsTheyAreTrue) {
  const std::uint32_t count = seeds(150);
  const Counts told = hold_claims_against_runs<Turned>(count, [](Turned& random) {
    const ClaimKind kinds[] = {ClaimKind::never, ClaimKind::always, ClaimKind::once,
                               ClaimKind::next,  ClaimKind::within, ClaimKind::within};
    const Saying one = random.saying(), two = random.saying();
    ClaimDef claim = claim_of(kinds[random.pick(6)], one, two);
    if (claim.kind == ClaimKind::within) claim.within = milliseconds(100 + random.pick(500));
    return Said{claim, one, two};
  });
  EXPECT_GT(told.proved, count / 8);
  EXPECT_GT(told.refuted, count / 4);
}

// From the first few moments at which it is asked for.
TEST(RandomClips, CanBringAboutWhatIsProved) {
  const std::uint32_t count = seeds(100);
  const std::size_t tried = bring_about_what_can_be<Turned>(count, 500'000, [](Turned& random) {
    const Saying from = random.place();
    const std::string cue = random.pick(3) == 0 ? "tap" : "hit";
    if (random.pick(3) == 0) return std::pair(from, random.place());
    return std::pair(from, Saying{"cue(" + cue + ")", [=](const MomentOf& at) { return at.cues.count(cue) > 0; }});
  });
  EXPECT_GT(tried, count / 3);
}

TEST(RandomClips, WhatIsToldNeverHappens) {
  const std::uint32_t count = seeds(100);
  EXPECT_GT(never_happens_what_is_told<Turned>(count, 900'000), count / 8);
}

}  // namespace
}  // namespace mobrin::test
