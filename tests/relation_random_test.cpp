// Proofs over random machines whose guards hold inputs against each other: what is proved stays true, what is refuted
// is broken by its tape.
#include <random>
#include <string>
#include <vector>

#include "claim_judge.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Relation {
  const char* words;
  bool (*holds)(double x, double y, double n, double m);
};
constexpr Relation kRelations[] = {
    {"x > y", [](double x, double y, double, double) { return x > y; }},
    {"x < y * 2", [](double x, double y, double, double) { return x < y * 2; }},
    {"x == y", [](double x, double y, double, double) { return x == y; }},
    {"x != y", [](double x, double y, double, double) { return x != y; }},
    {"abs(x) + abs(y) > 1", [](double x, double y, double, double) { return std::abs(x) + std::abs(y) > 1; }},
    {"abs(x) + abs(y) < 0.5", [](double x, double y, double, double) { return std::abs(x) + std::abs(y) < 0.5; }},
    {"x * x + y * y > 1", [](double x, double y, double, double) { return x * x + y * y > 1; }},
    {"x * x + y * y < 0.5", [](double x, double y, double, double) { return x * x + y * y < 0.5; }},
    {"n == m", [](double, double, double n, double m) { return n == m; }},
    {"n > m + 1", [](double, double, double n, double m) { return n > m + 1; }},
    {"n * 2 < m", [](double, double, double n, double m) { return n * 2 < m; }},
    {"x > n", [](double x, double, double n, double) { return x > n; }},
    {"n >= m and x > 0", [](double x, double, double n, double m) { return n >= m && x > 0; }},
    {"x - y >= 1 or n < m", [](double x, double y, double n, double m) { return x - y >= 1 || n < m; }},
    {"x > 0", [](double x, double, double, double) { return x > 0; }},
};

class Relating {
 public:
  explicit Relating(std::uint32_t seed) : random_(seed) {}

  int pick(int count) { return static_cast<int>(random_() % static_cast<std::uint32_t>(count)); }
  const Relation& relation() { return kRelations[pick(std::size(kRelations))]; }
  std::string state() { return "s" + std::to_string(pick(states_)); }

  // The machine as a file, without claims.
  std::string make() {
    states_ = 2 + pick(3);
    std::string out =
        "inputs: {x: {float: 0, min: -2, max: 2, grain: 0.5}, y: {float: 0, min: -2, max: 2, grain: 0.5}, "
        "n: {int: 0, min: 0, max: 3}, m: {int: 0, min: 0, max: 3}, p: pulse, q: {pulse: 100ms}}\ninitial: "
        "s0\nstates:\n";
    for (int s = 0; s < states_; ++s)
      out +=
          "  s" + std::to_string(s) + ": {length: 300ms, go: [" + rules(1 + pick(3), "s" + std::to_string(s)) + "]}\n";
    if (pick(3) == 0) out += "go: [" + rules(1, "") + "]\n";
    return out;
  }
  std::optional<std::string> write(Instance& it) {
    const Machine& machine = it.machine();
    const char* const names[] = {"x", "y", "n", "m"};
    const int which = pick(6);
    if (which < 2) {
      it.set(*machine.input<float>(names[which]), static_cast<float>(pick(9) - 4) / 2);
    } else if (which < 4) {
      it.set(*machine.input<std::int32_t>(names[which]), pick(4));
    } else {
      const std::string pulse = which == 4 ? "p" : "q";
      it.pulse(*machine.pulse(pulse));
      return pulse;
    }
    return std::nullopt;
  }
  // Two things that a claim says: at random, or what a rule waits for where it stands, and where it leads.
  std::pair<Saying, Saying> sayings() {
    if (rules_.empty() || pick(3) == 0) return {saying(state(), relation()), saying(state(), relation())};
    const auto& [from, relation, to] = rules_[static_cast<std::size_t>(pick(static_cast<int>(rules_.size())))];
    return {both(from, *relation), in(to)};
  }

 private:
  static Saying in(const std::string& path) {
    return {"in(" + path + ")", [=](const MomentOf& at) { return at.in(path); }};
  }
  static bool is_so(const Relation& each, const MomentOf& at) {
    return each.holds(at.number("x"), at.number("y"), at.number("n"), at.number("m"));
  }
  static Saying both(const std::string& path, const Relation& each) {
    return {"in(" + path + ") and (" + each.words + ")",
            [=, &each](const MomentOf& at) { return at.in(path) && is_so(each, at); }};
  }
  Saying saying(const std::string& path, const Relation& each) {
    const int kind = pick(3);
    if (kind == 0) return in(path);
    if (kind == 1) return both(path, each);
    return {"in(" + path + ") or " + each.words,
            [=, &each](const MomentOf& at) { return at.in(path) || is_so(each, at); }};
  }
  std::string rules(int count, const std::string& from) {
    std::string out;
    for (int i = 0; i < count; ++i) {
      const int event = pick(8);
      const Relation* const when = event > 3 || pick(2) == 0 ? &relation() : nullptr;
      const std::string to = state();
      if (event > 3 && !from.empty()) rules_.push_back({from, when, to});
      out += std::string(i > 0 ? ", " : "") + "{" +
             (event == 0   ? "at: end, "
              : event == 1 ? "after: 200ms, "
              : event == 2 ? "pulse: p, "
              : event == 3 ? "pulse: q, "
                           : "") +
             (when != nullptr ? std::string("when: ") + when->words + ", " : "") + "to: " + to + "}";
    }
    return out;
  }

  struct Ruled {
    std::string from;
    const Relation* when;
    std::string to;
  };
  std::mt19937 random_;
  int states_ = 0;
  std::vector<Ruled> rules_;
};

TEST(RandomRelations, AreProvedAsTheyAreTrue) {
  const std::uint32_t count = seeds(400);
  ProofLimits limits;
  limits.moments = 600;
  limits.moves = 6'000;
  const auto make = [](Relating& random) {
    const ClaimKind kinds[] = {ClaimKind::never, ClaimKind::always, ClaimKind::once, ClaimKind::next, ClaimKind::when};
    const ClaimKind kind = kinds[random.pick(5)];
    const auto [one, two] = random.sayings();
    return Said{claim_of(kind, one, two), one, two};
  };
  const Counts told = hold_claims_against_runs<Relating>(count, make, limits);
  EXPECT_GT(told.proved, count / 8);
  EXPECT_GT(told.refuted, count / 4);
}

}  // namespace
}  // namespace mobrin::test
