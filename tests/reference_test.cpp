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
