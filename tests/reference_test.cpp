// The engine and the reference evaluator agree on every record and every playhead, over random machines and scripts.
#include "mobrin/check/reference.hpp"

#include <algorithm>
#include <cmath>

#include "engine_log.hpp"
#include "made_machine.hpp"
#include "shrink.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

class Agreement : public testing::TestWithParam<int> {};

// How the two differ, or nothing where they agree. Machines that the compiler refuses are passed over.
struct Comparison {
  bool compared = false;
  std::string difference;
};
Comparison compared(const Case& each) {
  const Compiled compiled = compile(each.definition);
  if (!compiled.machine || each.script.empty()) return {};
  const Ticks until = each.script.back().at + milliseconds(300);
  const auto told = run_engine(*compiled.machine, each.script, until);
  if (told.size() > kMostRecords) return {};
  const auto expected = run_reference(each.definition, each.script, until);
  if (told == expected) return {true, ""};
  std::size_t same = 0;
  while (same < told.size() && same < expected.size() && told[same] == expected[same]) ++same;
  std::string around;
  for (std::size_t i = same < 6 ? 0 : same - 6; i < same + 4; ++i)
    around += (i < told.size() ? told[i] : "-") + (i == same ? "   <- engine | reference ->   " : "   |   ") +
              (i < expected.size() ? expected[i] : "-") + "\n";
  return {true, around};
}

TEST_P(Agreement, OfEngineAndReference) {
  const int wanted = seeds(250);
  int sound = 0;
  for (std::uint32_t seed = static_cast<std::uint32_t>(GetParam()) * 1'000'000; sound < wanted; ++seed) {
    RandomMachine random(seed);
    Case each;
    each.definition = made(seed, random);
    each.script = random.script(10);
    const Comparison comparison = compared(each);
    sound += comparison.compared ? 1 : 0;
    if (comparison.difference.empty()) continue;
    const Case small = shrink(each, [](const Case& smaller) { return !compared(smaller).difference.empty(); });
    FAIL() << "seed " << seed << ", made small:\n" << compared(small).difference << CaseText::of(small);
  }
}

// A choice beside its input is meant, whatever else has its name; and so on.
TEST(NamesThatAreAlike, OfSeveralThingsMeanTheSameToAll) {
  for (const std::string when :
       {"a == a", "a != a", "a == b", "b == a", "b != a", "a == v", "v == a", "a == v and v > 1", "a == a and b == b",
        "not (b == b) or a == b", "in(a) and a == a", "in(b) or b == v", "select(a == a, v, 0 - v) > 0",
        "w > 0 and a == w", "min(v, w) > 0", "c == b", "b == c", "c == c", "v > 0 and stand > 0"}) {
    const Loaded loaded = loaded_from(
        "inputs: {a: {one_of: [x, a, b, v, w]}, b: {one_of: [a, b, c, v]}, c: {one_of: [a, b, c, v]}, "
        "v: {int: 0, min: -2, max: 2}, p: {pulse: 100ms}}\nvars: {stand: 1, w: 1}\ncues: {p: sound, a: sound}\n"
        "clips: {a: {length: 200ms, play: loop}, p: {length: 300ms}}\n"
        "marks: {a: {cues: {100ms: a}, windows: {a: 50ms-150ms}}, p: {cues: {100ms: p}, windows: {p: 0ms-150ms}}}\n"
        "initial: stand\nstates:\n"
        "  stand: {clip: a, each_loop: [stand = 1 - stand], go: [{when: \"" +
        when + "\", to: a}, {pulse: p, during: a, to: p}]}\n  a: {clip: a, go: [{when: \"not (" + when +
        ")\", to: stand}, {cue: a, do: [w = 1 - w], to: b}]}\n  b: {clip: p, go: [{pulse: p, during: p, to: a}, "
        "{cue: p, to: stand}]}\n  p: {clip: p, go: [{cue: p, to: b}]}\n");
    ASSERT_TRUE(loaded.machine) << when << "\n" << joined(loaded.findings);
    Case each;
    each.definition = *loaded.definition;
    for (int i = 0; i < 5 * 4 * 4 * 5; ++i) {
      const auto write = [&](const char* name, int value) {
        each.script.push_back({milliseconds(23 * i), ScriptEntry::Kind::set, name, double(value)});
      };
      write("a", i % 5);
      write("b", i / 5 % 4);
      write("c", i / 20 % 4);
      write("v", i / 80 - 2);
      if (i % 3 == 0) each.script.push_back({milliseconds(23 * i), ScriptEntry::Kind::pulse, "p"});
    }
    const Comparison comparison = compared(each);
    EXPECT_TRUE(comparison.compared) << when;
    EXPECT_EQ(comparison.difference, "") << when;
  }
}

TEST(Shrink, LeavesOnlyWhatACaseNeedsToFail) {
  // What fails here: a run in which s1 is entered after q was written.
  const auto fails = [](const Case& each) {
    const Compiled compiled = compile(each.definition);
    if (!compiled.machine || each.script.empty()) return false;
    const auto told = run_reference(each.definition, each.script, each.script.back().at);
    const auto ends_with = [](const std::string& line, std::string_view end) { return line.ends_with(end); };
    const bool entered =
        std::any_of(told.begin(), told.end(), [&](const auto& l) { return ends_with(l, " enter s1"); });
    return entered && std::any_of(each.script.begin(), each.script.end(), [](const auto& e) { return e.name == "q"; });
  };
  int shrunk = 0;
  for (std::uint32_t seed = 0; shrunk < 3; ++seed) {
    RandomMachine random(seed);
    Case each;
    each.definition = random.make();
    each.script = random.script(20);
    if (!fails(each)) continue;
    ++shrunk;
    const Case small = shrink(each, fails);
    EXPECT_TRUE(fails(small));
    EXPECT_TRUE(small.definition.marks.empty() && small.definition.clips.empty()) << CaseText::of(small);
    EXPECT_LE(small.script.size(), 2u) << CaseText::of(small);
    EXPECT_NE(CaseText::of(small).find("s1:"), std::string::npos);
  }
}

INSTANTIATE_TEST_SUITE_P(Seeds, Agreement, testing::Range(0, 8));

}  // namespace
}  // namespace mobrin::test
