// The games of tests/games with some of their words changed, as a slip or a new idea would: engine and reference
// evaluator agree on them, what is proved of them stays true, what is refuted is broken by its tape, what is told of
// them never happens.
#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <optional>
#include <random>
#include <regex>
#include <string>
#include <vector>

#include "claim_judge.hpp"
#include "engine_log.hpp"
#include "mobrin/check/expect.hpp"
#include "mobrin/check/reference.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// What one place of a game may become: one of these.
struct Change {
  std::regex of;
  std::vector<std::string> to;
};
const std::vector<Change>& changes() {
  static const std::vector<Change> all = {
      {std::regex("at: end"), {"at: loop", "after: 0.2s", "at: end, after: 0.1s"}},
      {std::regex(" (<=|>=|<|>|==|!=) "), {" < ", " <= ", " > ", " >= ", " == ", " != "}},
      {std::regex("(clip: \\w+),"), {"$1, speed: -1,", "$1, speed: 2,", "$1, speed: -0.5,"}},
      {std::regex("(to: [\\w/]+)\\}"),
       {"$1, restart: true}", "$1, fade: 0.15s, cues: both}", "$1, fade: 0.2s}", "$1, start: same}",
        "$1, start: clock}", "$1, start: 0.1s}"}},
      {std::regex("when: (\\w+)([,}])"), {"when: not $1$2"}},
      {std::regex("play: loop\\b"), {"play: once", "play: loop x2", "play: back-and-forth", "play: back-and-forth x2"}},
      {std::regex("\\{[^{}]*to: [\\w/]+[^{}]*\\},? ?"), {""}},  // a rule is left out
      {std::regex("to: [\\w/]+"), {"to: back"}},
      {std::regex("pulse: (\\w+),"), {"pulse: $1, after: 0.15s,"}},
      {std::regex(": pulse([,\\n}])"), {": {pulse: 200ms}$1"}},
      {std::regex("final: true"), {"final: true, linger: 0.3s", "sealed: true"}},
      {std::regex("\\b[0-9.]+m?s\\b"), {"30ms", "0.4s", "1s"}},
      {std::regex("([^.\\w])[0-9]([^.\\w])"), {"$010$2", "$011$2", "$013$2"}},
  };
  return all;
}

class ChangedGame {
 public:
  explicit ChangedGame(std::uint32_t seed) : seed_(seed), random_(seed) {}

  int pick(int count) { return static_cast<int>(random_() % static_cast<std::uint32_t>(count)); }

  // The game as a file without its head and its claims; one that loads.
  std::string make() {
    const std::string text = whole_game();
    const std::size_t machine = text.find('\n', text.find("machine:")) + 1, claims = text.find("\nclaims:");
    own_ = load_character_text(text, "game.yaml").definition->claims;
    const std::string body = text.substr(machine, claims - machine) + "\n";
    const std::regex number("\\b[0-9]+(\\.[0-9]+)?\\b"), target("to: ([\\w/]+)");
    for (std::sregex_iterator each(body.begin(), body.end(), number), end; each != end; ++each)
      if (each->length() < 6) numbers_.push_back(std::stod(each->str()));
    for (std::sregex_iterator each(body.begin(), body.end(), target), end; each != end; ++each)
      targets_.push_back(each->str(1));
    for (;;) {
      std::string changed = body;
      for (int i = 1 + pick(6); i > 0; --i) change(changed);
      loaded_ = load_character_text("mobrin: 1\nmachine: m\n" + changed, "m.yaml");
      if (loaded_.machine) return changed;
    }
  }
  [[nodiscard]] const Loaded& loaded() const { return loaded_; }

  std::optional<std::string> write(Instance& it) {
    const auto entry = some_write({});
    if (!entry) return std::nullopt;
    test::write(it, *entry);
    return entry->kind == ScriptEntry::Kind::pulse ? std::optional(entry->name) : std::nullopt;
  }
  std::vector<ScriptEntry> script(int count) {
    std::vector<ScriptEntry> out;
    Ticks at{};
    for (; count > 0; --count) {
      if (pick(4) != 0) at += milliseconds(pick(pick(4) == 0 ? 2'500 : 250)) + Ticks(pick(3));
      const int what = pick(20);
      std::optional<ScriptEntry> entry = some_write(at);
      if (what == 0) entry = {at, ScriptEntry::Kind::rate, "", pick(5) / 2.0, {}};
      if (what == 1) entry = {at, ScriptEntry::Kind::freeze, "", 0, milliseconds(pick(200))};
      if (what == 2) entry = {at, ScriptEntry::Kind::reset, "", 0, {}};
      if (entry) out.push_back(*entry);
    }
    return out;
  }

  // One that the game comes with, or any.
  Said claim() {
    ClaimDef claim;
    if (!own_.empty() && pick(2) == 0) {
      claim = one_of(own_);
    } else {
      const ClaimKind kinds[] = {ClaimKind::never,  ClaimKind::once, ClaimKind::within,
                                 ClaimKind::within, ClaimKind::next, ClaimKind::always};
      claim = claim_of(kinds[pick(6)], {some_words(), {}}, {some_words(), {}});
      claim.within = milliseconds(50 + pick(1'500));
    }
    return {claim, saying(claim.first.text), saying(claim.second.text)};
  }

 private:
  template <class List>
  const typename List::value_type& one_of(const List& list) {
    return list[static_cast<std::size_t>(pick(static_cast<int>(list.size())))];
  }
  [[nodiscard]] std::string whole_game() const {
    std::vector<std::string> paths;
    for (const auto& each : std::filesystem::directory_iterator(MOBRIN_TESTS "/games"))
      paths.push_back(each.path().string());
    std::sort(paths.begin(), paths.end());
    std::ifstream file(paths[seed_ % paths.size()]);
    return {std::istreambuf_iterator<char>(file), {}};
  }
  // At one of the places where it can be; often none.
  void change(std::string& text) {
    const auto which = static_cast<std::size_t>(pick(static_cast<int>(changes().size()) + 1));
    const bool leads_elsewhere = which == changes().size();
    const std::regex of = leads_elsewhere ? std::regex("to: [\\w/]+") : changes()[which].of;
    std::vector<std::smatch> places{std::sregex_iterator(text.begin(), text.end(), of), {}};
    if (places.empty()) return;
    const std::smatch& place = one_of(places);
    const std::string with = leads_elsewhere ? "to: " + one_of(targets_) : place.format(one_of(changes()[which].to));
    text = place.prefix().str() + with + place.suffix().str();
  }

  // A value for an input that is near what the game says somewhere, or a press.
  std::optional<ScriptEntry> some_write(Ticks at) {
    const auto& inputs = loaded_.definition->inputs;
    if (inputs.empty() || pick(5) == 0) return std::nullopt;
    const InputDef& input = one_of(inputs);
    ScriptEntry out{at, ScriptEntry::Kind::set, input.name.text, 0, {}};
    const double number = numbers_.empty() ? 0 : one_of(numbers_);
    if (std::holds_alternative<PulseInput>(input.kind)) out.kind = ScriptEntry::Kind::pulse;
    if (std::holds_alternative<BoolInput>(input.kind)) out.value = pick(2);
    if (std::holds_alternative<IntInput>(input.kind)) out.value = std::floor(number) + pick(3) - 1;
    if (std::holds_alternative<FloatInput>(input.kind)) out.value = number + (pick(2) == 0 ? 0 : (pick(9) - 4) / 8.0);
    if (const auto* choices = std::get_if<ChoiceInput>(&input.kind))
      out.value = pick(static_cast<int>(choices->choices.size()));
    return out;
  }

  std::string some_words() {
    const Machine& machine = *loaded_.machine;
    const auto state = [&] {
      const auto which = static_cast<std::size_t>(1 + pick(static_cast<int>(machine.states().size()) - 1));
      return "in(" + machine.states()[which].path + ")";
    };
    const auto& cues = machine.cues();
    switch (pick(6)) {
      case 0:
        if (cues.empty()) return state();
        return "cue(" + one_of(cues).name.text + ") and " + (pick(2) == 0 ? "not " : "") + state();
      case 1:
        return "not " + state();
      case 2:
        return state() + " and " + state();
      default:
        return state();
    }
  }
  // What stands as cue(c), pulse(p) and is(trait) is known here; the rest is computed.
  static Saying saying(const std::string& words) {
    return {words, [words](const MomentOf& at) {
              std::string rest;
              for (std::size_t i = 0; i < words.size();) {
                bool known = false;
                for (const std::string name : {"cue(", "pulse(", "is("}) {
                  if (words.compare(i, name.size(), name) != 0 || (i > 0 && std::isalnum(words[i - 1]) != 0)) continue;
                  const std::size_t end = words.find(')', i);
                  const std::string of = words.substr(i + name.size(), end - i - name.size());
                  const bool holds = name == "cue("     ? at.cues.count(of) > 0
                                     : name == "pulse(" ? at.pulses.count(of) > 0
                                                        : at.it.is(*at.it.machine().trait(of));
                  rest += holds ? "true" : "false";
                  i = end + 1;
                  known = true;
                  break;
                }
                if (!known) rest += words[i++];
              }
              return expression_holds(at.it, rest);
            }};
  }

  std::uint32_t seed_;
  std::mt19937 random_;
  Loaded loaded_{};
  std::vector<ClaimDef> own_{};
  std::vector<double> numbers_{};
  std::vector<std::string> targets_{};
};

TEST(ChangedGames, RunAsTheReferenceEvaluatorDoes) {
  std::size_t compared = 0;
  const auto count = static_cast<std::uint32_t>(seeds(150));
  for (std::uint32_t seed = 0; seed < count; ++seed) {
    ChangedGame game(seed);
    const std::string text = game.make();
    const auto script = game.script(25);
    if (script.empty()) continue;
    const Ticks until = script.back().at + milliseconds(1'300);
    const auto told = run_engine(*game.loaded().machine, script, until);
    if (told.size() > kMostRecords) continue;
    compared += told.size();
    ASSERT_EQ(told, run_reference(*game.loaded().definition, script, until)) << "seed " << seed << "\n" << text;
  }
  EXPECT_GT(compared, std::size_t{count} * 40);
}

TEST(ChangedGames, AreProvedAsTheyAreTrue) {
  const auto count = static_cast<std::uint32_t>(seeds(150));
  const Counts told = hold_claims_against_runs<ChangedGame>(count, [](ChangedGame& game) {
    // What is said of the very instant or of some run is not what a judge of runs can tell.
    for (;;) {
      Said said = game.claim();
      const bool at_once = said.claim.within.count == 0;
      if (said.claim.kind != ClaimKind::can && !(said.claim.kind == ClaimKind::within && at_once) &&
          !(said.claim.kind == ClaimKind::when && !at_once))
        return said;
    }
  });
  EXPECT_GT(told.proved, count / 4);
  EXPECT_GT(told.refuted, count / 5);
}

TEST(ChangedGames, WhatIsToldNeverHappens) {
  const auto count = static_cast<std::uint32_t>(seeds(150));
  EXPECT_GT(never_happens_what_is_told<ChangedGame>(count, 700'000), count / 10);
}

}  // namespace
}  // namespace mobrin::test
