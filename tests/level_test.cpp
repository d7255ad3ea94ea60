// Lines that no bracket holds together: what is missing, or stands too deep, is told as people see it.
#include "support.hpp"

namespace mobrin::test {
namespace {

const char* const kWhole =
    "mobrin: 1\nmachine: m\ninputs:\n  near:\n    bool: false\n  hop: pulse\nclips:\n  hum:\n    frames: 0-3\n    fps: "
    "6\ninitial: rest\nstates:\n  rest:\n    clip: hum\n    go:\n      - pulse: hop\n        to: fly\n      - when: "
    "near\n        to: fly\n  fly:\n    go:\n      - after: 1s\n        to: rest\n";

// The file with one of its lines written otherwise.
std::string with(const std::string& line, const std::string& otherwise) {
  std::string out = kWhole;
  const std::size_t at = out.find("\n" + line + "\n");
  EXPECT_NE(at, std::string::npos) << line;
  return out.replace(at + 1, line.size(), otherwise);
}

struct LevelRow {
  const char* name;
  const char* line;
  const char* otherwise;
  const char* told;
};
class Levels : public testing::TestWithParam<LevelRow> {};
TEST_P(Levels, AreToldAsPeopleSeeThem) {
  const LevelRow& row = GetParam();
  EXPECT_EQ(joined(load_character_text(with(row.line, row.otherwise), "m.yaml").findings),
            std::string("m.yaml:") + row.told + "\n");
}
const LevelRow kLevels[] = {
    {"NoSpaceBehindAColon", "machine: m", "machine:m",
     "2:1: error: there is no space behind the colon of \"machine\" [bad-yaml]\n    Write `machine: m`."},
    {"NoSpaceBehindAColonOfAList", "    go:", "    go:[{to: fly}]",
     "15:5: error: there is no space behind the colon of \"go\" [bad-yaml]\n    Write `go: [{to: fly}]`."},
    {"AnotherSign", "    clip: hum", "    clip = hum",
     "14:5: error: between \"clip\" and its value stands `=` [bad-yaml]\n    Write `clip: hum`."},
    {"NoColon", "    clip: hum", "    clip hum",
     "14:5: error: there is no colon behind \"clip\" [bad-yaml]\n    Write `clip: hum`."},
    {"NoColonBeforeAList", "    clip: hum", "    traits [busy]",
     "14:5: error: there is no colon behind \"traits\" [bad-yaml]\n    Write `traits: [busy]`."},
    {"NoColonOfAHeading", "  rest:", "  rest",
     "13:3: error: there is no colon behind \"rest\" [bad-yaml]\n    Write `rest:`."},
    {"NoColonBehindSeveralWords", "  fly:", "  far fly {clip: hum}",
     "20:3: error: there is no colon behind \"far fly\" [bad-yaml]\n    Write `far fly: {clip: hum}`."},
    {"AValueWithoutItsKey", "    clip: hum", "    hum",
     "14:5: error: \"hum\" stands here alone, among keys [bad-yaml]\n    Write the key that it belongs to before it, "
     "or "
     "`hum:` if it is one."},
    {"APathWithoutItsKey", "    clip: hum", "    hum.yaml",
     "14:5: error: \"hum.yaml\" stands here alone, among keys [bad-yaml]\n    Write the key that it belongs to before "
     "it."},
    {"ANumberWithoutItsKey", "    fps: 6", "    6",
     "10:5: error: a value stands here without its key [bad-yaml]\n    Write the key before it: `name: value`."},
    {"BracketsWithoutTheirKey", "    clip: hum", "    {clip: hum}",
     "14:5: error: a value stands here without its key [bad-yaml]\n    Write the key before it: `name: value`."},
    {"SeveralWordsTooDeep", "  fly:", "  far fly: {clip: hum}\n    far rest: {clip: hum}\n  fly:",
     "21:5: error: this line stands deeper than the one before, which is whole [bad-yaml]\n    Indent both by 2 "
     "spaces."},
    {"AKeyWithBracketsBehindAKey", "  rest:", "  rest: clip: {frames: 1}",
     "13:9: error: a second key stands on this line [bad-yaml]\n    Put it on a line of its own, or both into `{ }` "
     "with a comma."},
    {"NoSpaceBehindADash", "      - when: near", "      -when: near",
     "18:7: error: there is no space behind the dash [bad-yaml]\n    Write `- when: near`."},
    {"ASpaceBeforeTheColonAndNoneBehindIt", "    clip: hum", "    clip :hum",
     "14:5: error: there is no space behind the colon of \"clip\" [bad-yaml]\n    Write `clip: hum`."},
    {"AnItemBehindAKey", "    go:\n      - pulse: hop", "    go: - pulse: hop",
     "15:9: error: a dash stands behind a key [bad-yaml]\n    Begin the item on a line of its own."},
    {"ASignBeforeAKey", "    clip: hum", "=   clip: hum",
     "14:1: error: `=` begins no line [bad-yaml]\n    Take it out."},
    {"ASignBeforeAValue", "    frames: 0-3", "    frames: >{0-3}",
     "9:13: error: `>` begins no value [bad-yaml]\n    Take it out, or put the value into quotes."},
    {"TwoKeysOnALine", "    clip: hum", "    clip: hum traits: busy",
     "14:15: error: a second key stands on this line [bad-yaml]\n    Put it on a line of its own, or both into `{ }` "
     "with "
     "a comma."},
    {"TwoHeadingsOnALine", "  rest:", "  rest: clip: hum",
     "13:9: error: a second key stands on this line [bad-yaml]\n    Put it on a line of its own, or both into `{ }` "
     "with "
     "a comma."},
    {"NoDashBeforeAnItemInBrackets", "      - pulse: hop",
     "      - {pulse: hop, to: fly}\n      {pulse: hop, to: fly}\n      - pulse: hop",
     "17:7: error: there is no dash before this item [bad-yaml]\n    Write `- ` before it, as before the others."},
    {"AnItemThatStandsDeeper", "      - pulse: hop",
     "      - {pulse: hop, to: fly}\n       - {pulse: hop, to: fly}\n      - pulse: hop",
     "17:8: error: this line stands deeper than the one before, which is whole [bad-yaml]\n    Indent both by 6 "
     "spaces."},
    {"ABracketThatNothingOpened", "    clip: hum", "  } clip: hum",
     "14:3: error: no `{` is open for this `}` [bad-yaml]\n    Take it out, or open it before."},
    {"SomethingBehindABracket", "    clip: hum", "    traits: [busy], calm",
     "14:19: error: the value before this is closed [bad-yaml]\n    Take this out, or put it inside."},
    {"NoColonOfTheLastHeading", "  fly:", "  fly",
     "20:3: error: there is no colon behind \"fly\" [bad-yaml]\n    Write `fly:`."},
    {"ASignThatBeginsNoWord", "    clip: hum", "    clip: @hum",
     "14:11: error: no word begins with the sign that stands here [bad-yaml]\n    Take it out, or put the word into "
     "quotes."},
    {"ANameOfNothing", "    clip: hum", "    clip: *hum",
     "14:11: error: `*` repeats what `&` has named before, and nothing has that name [bad-yaml]\n    Write the value "
     "itself; what begins with `*` otherwise stands in quotes."},
    {"TwoDashes", "      - when: near", "      - - when: near",
     "18:9: error: a second dash stands here [bad-yaml]\n    Write one dash for each item."},
    {"ADashAmongKeys", "states:", "- states:",
     "12:1: error: a dash stands among keys [bad-yaml]\n    Take it out, or put the list under a key of its own."},
    {"ADashAmongKeysOfAnItem", "        to: rest", "        - to: rest",
     "23:9: error: a dash stands among keys [bad-yaml]\n    Take it out, or put the list under a key of its own."},
    {"NoDash", "      - when: near", "      when: near",
     "18:7: error: this line stands beside a dash, and has none [bad-yaml]\n    Indent it by 8 spaces, as what stands "
     "behind the dash, or take the dash out."},
    {"TooDeep", "    fps: 6", "      fps: 6",
     "10:7: error: this line stands deeper than the one before, which is whole [bad-yaml]\n    Indent both by 4 "
     "spaces."},
    {"NothingAboveAList", "    go:", "    traits: [busy]",
     "16:7: error: this line stands deeper than the one before, which is whole [bad-yaml]\n    Is the line missing "
     "above "
     "it that it belongs under? Else indent both by 4 spaces."},
    {"TooDeepAtTheTop", "machine: m", " machine: m",
     "2:2: error: this line stands deeper than the one before, which is whole [bad-yaml]\n    Indent both by nothing."},
    {"BetweenTwoLevels", "  fly:", " fly:",
     "20:2: error: this line stands between two levels [bad-yaml]\n    Indent it by nothing or by 2 spaces."},
    {"BesideAStateThatStandsElsewhere", "  rest:", " rest:",
     "20:3: error: this line stands between two levels [bad-yaml]\n    Indent it by 1 space, or line 13 by 2 spaces."},
    {"BesideAKeyThatStandsElsewhere", "    clip: hum", "      clip: hum",
     "15:5: error: this line stands between two levels [bad-yaml]\n    Indent it by 6 spaces, or line 14 by 4 spaces."},
    {"ACommentOfAnotherLanguage", "    clip: hum", "    clip: hum // it waits",
     "14:11: error: a comment does not begin with `//` [bad-yaml]\n    Write `#`."},
    {"AMergeOfKeys", "    clip: hum", "    <<: hum\n    clip: hum",
     "14:5: error: \"<<\" is no key of a state [unknown-key]\n    Nothing is merged: write the keys out, or give the "
     "whole value by `*name`."},
};
TEST(FirstLine, ThatStandsDeeperBeginsNoOtherDocument) {
  EXPECT_EQ(joined(load_character_text("# bees\n  mobrin: 1\nmachine: m\nstates: {a: {}}\n", "m.yaml").findings),
            "m.yaml:2:3: error: the first line stands deeper than line 3 [bad-yaml]\n    Indent it by nothing, too.\n");
}

INSTANTIATE_TEST_SUITE_P(, Levels, testing::ValuesIn(kLevels), [](const auto& each) {
  return std::string(each.param.name);
});

TEST(LevelsOfLines, ADashBeforeTheFirstKeyIsNoSecondDocument) {
  EXPECT_EQ(joined(load_character_text("- mobrin: 1\nmachine: m\nstates: {a: {}}\n", "m.yaml").findings),
            "m.yaml:2:1: error: this line stands beside a dash, and has none [bad-yaml]\n    Indent it by 2 spaces, as "
            "what stands behind the dash, or take the dash out.\n");
  EXPECT_EQ(joined(load_character_text(std::string(kWhole) + "---\n" + kWhole, "m.yaml").findings),
            "m.yaml:1:1: error: the file holds several documents [bad-yaml]\n    Put each into a file of its own.\n");
}

// What a finger leaves out, on any line: few errors, and the first of them there or on the next line.
TEST(LevelsOfLines, WhatIsLeftOutIsToldWhereItWas) {
  const std::string whole = kWhole;
  EXPECT_EQ(joined(load_character_text(whole, "m.yaml").findings), "");
  std::size_t tried = 0, plain = 0;
  for (const std::string gone : {": ", ":\n", "- ", " "})
    for (std::size_t at = whole.find(gone); at != std::string::npos; at = whole.find(gone, at + 1)) {
      std::string text = whole;
      text.erase(at + (gone == ": " ? 1 : 0), 1);  // a colon alone, or the space behind what there is
      const auto line = static_cast<std::uint32_t>(
          1 + std::count(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(at), '\n'));
      const std::vector<Finding> findings = load_character_text(text, "m.yaml").findings;
      if (errors_in(findings) == 0) continue;
      ++tried;
      plain += joined(findings).find("not well-formed") == std::string::npos ? 1 : 0;
      EXPECT_LE(errors_in(findings), 3u) << text << joined(findings);
      const bool named = findings[0].remedy.find("or line " + std::to_string(line) + " ") != std::string::npos;
      EXPECT_TRUE(named || findings[0].line - line <= 2 || line - findings[0].line <= 1) << text << joined(findings);
    }
  EXPECT_GT(tried, 40u);
  EXPECT_EQ(plain, tried);
}

}  // namespace
}  // namespace mobrin::test
