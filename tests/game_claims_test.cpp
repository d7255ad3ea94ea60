// Claims of machines as people make them, each with its answer behind it: what is plainly true is proved, what is not
// is broken by a run.
#include <algorithm>
#include <filesystem>
#include <fstream>

#include "claim_answers.hpp"
#include "mobrin/io/record.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::vector<std::string> games() {
  std::vector<std::string> out;
  for (const auto& each : std::filesystem::directory_iterator(MOBRIN_TESTS "/games"))
    out.push_back(each.path().stem().string());
  std::sort(out.begin(), out.end());
  return out;
}

// The answers of a file's claims, from `  name: {...}  # answer`, as `name: answer` lines.
std::string answers_in(const std::string& path) {
  std::ifstream file(path);
  std::string out, line;
  while (std::getline(file, line) && line != "claims:") {
  }
  while (std::getline(file, line)) {
    const std::size_t name = line.find(": {"), answer = line.find("}  # ");
    if (name == std::string::npos || answer == std::string::npos) continue;
    out += line.substr(2, name - 2) + ": " + line.substr(answer + 5) + "\n";
  }
  return out;
}

class GameClaims : public testing::TestWithParam<std::string> {};

TEST_P(GameClaims, AreDecided) {
  const std::string path = std::string(MOBRIN_TESTS "/games/") + GetParam() + ".yaml";
  const Loaded loaded = load_character(path);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  ASSERT_EQ(joined(claim_findings(*loaded.definition, *loaded.machine)), "");
  const std::string answers = answers_of(loaded);
  EXPECT_NE(answers, "");
  EXPECT_EQ(answers, answers_in(path));
}

// What a game can do is done on a tape; of the rest it is known that no run does it.
TEST_P(GameClaims, AreOfMachinesThatAreCovered) {
  const Loaded loaded = load_character(MOBRIN_TESTS "/games/" + GetParam() + ".yaml");
  ASSERT_TRUE(loaded.machine);
  const Cover all = cover(*loaded.definition, *loaded.machine);
  EXPECT_FALSE(all.tapes.empty());
  for (const Cover::Left& each : all.left)
    EXPECT_TRUE(each.never) << loaded.machine->transitions()[each.transition].text;
}

// Machines of many states, inputs and numbers in regions that ask each other, within the work that `mobrin check` does.
TEST(FindingsOfLargeGames, AreDecided) {
  const auto undecided_of = [](const std::string& game) {
    const Loaded loaded = load_character(MOBRIN_TESTS "/games/" + game + ".yaml");
    return logic_and_runs(*loaded.definition, *loaded.machine, {100'000, 4'000, 24'000}).undecided;
  };
  EXPECT_EQ(undecided_of("sentinel"), std::vector<FindingCode>());
  // Runs show some of these; whether there are more is not known.
  EXPECT_EQ(undecided_of("acrobat"), (std::vector{FindingCode::press_lost, FindingCode::revived}));
}

// Also where it was looked for by what is new, among much that could be written.
TEST(RunsAgainstClaims, WriteNoMoreThanIsNeeded) {
  const Loaded loaded = load_character(MOBRIN_TESTS "/games/wax.yaml");
  ASSERT_TRUE(loaded.machine);
  const ClaimAnswer answer = prove(*loaded.definition, *loaded.machine)[7];
  ASSERT_EQ(answer.claim.text, "done only idle");
  ASSERT_TRUE(answer.tape);
  std::size_t written = 0;
  for (const TapeStep& step : answer.tape->steps) written += step.set.size() + step.pulses.size();
  // It is built by order and with wax, and by another order as it is done.
  EXPECT_EQ(written, 3U) << tape_text(*answer.tape);
}

INSTANTIATE_TEST_SUITE_P(All, GameClaims, testing::ValuesIn(games()), [](const auto& game) { return game.param; });

}  // namespace
}  // namespace mobrin::test
