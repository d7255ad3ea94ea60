// What comes together in two regions at one tick, where the game begins one of them at just the right time: a blow that
// is told as who strikes dies. Rows of what is so, and near misses.
#include <string>

#include "claim_answers.hpp"
#include "mobrin/prove/prove.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A bee that darts, and does not fall before that is over; its arms strike.
struct Dart {
  const char* name;
  const char* dart;    // the state, and how it is left
  const char* strike;  // what it plays: a blow at its third frame
  const char* answer;  // to `never: cue(blow) and in(body/fallen)`
};

Loaded loaded_dart(const Dart& dart) {
  return loaded_from(std::string("inputs: {health: {int: 3, min: 0, max: 3}, go: pulse, hit: pulse}\n"
                                 "cues: {blow: {kind: damage, amount: 1}}\n"
                                 "clips:\n  dart: {frames: [0-6], fps: 24}\n  strike: {") +
                     dart.strike +
                     "}\nmarks: {strike: {cues: {2: blow}}}\nregions:\n  body:\n    initial: stand\n    states:\n"
                     "      stand: {go: [{when: health <= 0, to: fallen}, {pulse: go, to: dart}]}\n"
                     "      dart: {" +
                     dart.dart +
                     "}\n      fallen: {}\n  arms:\n    initial: hold\n    states:\n"
                     "      hold: {go: [{pulse: hit, when: not in(body/fallen), to: strike}]}\n"
                     "      strike: {clip: strike, go: [{when: in(body/fallen), to: hold}, {at: end, to: hold}]}\n"
                     "claims: {it: {never: cue(blow) and in(body/fallen)}}\n");
}

class Coincidences : public testing::TestWithParam<Dart> {};

TEST_P(Coincidences, AreTried) {
  const Loaded loaded = loaded_dart(GetParam());
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const std::vector<ClaimAnswer> answers = prove(*loaded.definition, *loaded.machine);
  ASSERT_EQ(answers.size(), 1U);
  EXPECT_EQ(text_of(answers[0].answer), GetParam().answer) << answers[0].says;
}

INSTANTIATE_TEST_SUITE_P(
    All, Coincidences,
    testing::Values(
        // 291.7 ms, and a blow after 111.1 ms: no two times that were come to before are 180.6 ms apart.
        Dart{"StruckWhileItDarts", "clip: dart, go: [{at: end, to: stand}]", "frames: [0-4], fps: 18", "refuted"},
        Dart{"DartedWhileItStrikes", "clip: dart, go: [{at: end, to: stand}]", "frames: [0-4], fps: 7", "refuted"},
        Dart{"ByATimer", "go: [{after: 230ms, to: stand}]", "frames: [0-4], fps: 18", "refuted"},
        Dart{"OnlyAlive", "clip: dart, go: [{at: end, when: health > 0, to: stand}]", "frames: [0-4], fps: 18",
             "proved"},
        Dart{"AtATimeOfItsOwn", "clip: dart, go: [{at: end, to: stand}, {when: health <= 0, to: fallen}]",
             "frames: [0-4], fps: 18", "proved"}),
    [](const auto& row) { return row.param.name; });

}  // namespace
}  // namespace mobrin::test
