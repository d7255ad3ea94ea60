// Files that are no YAML or no text, and the demo's files with a slip at each of their places in turn: told where it
// is, by few errors.
#include <fstream>
#include <set>
#include <sstream>

#include "mobrin/io/scene.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

std::string text_of_file(const std::string& path) {
  std::ifstream stream(path, std::ios::binary);
  std::ostringstream text;
  text << stream.rdbuf();
  return text.str();
}

std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> out;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) out.push_back(line);
  return out;
}

// Every line of a file moved by itself: what comes of it is told by few errors, or nothing has changed.
template <class Load>
void move_each_line(const std::string& path, std::size_t most, const Load& load) {
  const std::vector<std::string> lines = lines_of(text_of_file(path));
  ASSERT_FALSE(lines.empty());
  std::size_t told = 0;
  for (std::size_t at = 0; at < lines.size(); ++at) {
    if (lines[at].empty() || lines[at].front() == '#') continue;
    for (const int by : {-2, 1, 2}) {
      if (by < 0 && !lines[at].starts_with("  ")) continue;
      std::string text;
      for (std::size_t i = 0; i < lines.size(); ++i)
        text += (i != at  ? lines[i]
                 : by < 0 ? lines[i].substr(2)
                          : std::string(static_cast<std::size_t>(by), ' ') + lines[i]) +
                "\n";
      const std::vector<Finding> findings = load(text);
      told += errors_in(findings) > 0;
      EXPECT_LE(errors_in(findings), most) << path << ":" << at + 1 << " by " << by << "\n" << findings.front().text();
    }
  }
  EXPECT_GT(told, lines.size());
}

// What is no text says what it is.
TEST(Slip, FilesThatAreNoTextSayWhatTheyAre) {
  const auto told = [](std::string_view bytes) { return joined(load_character_text(bytes, "m.yaml").findings); };
  const std::string plain = "mobrin: 1\nmachine: m\nstates: {a: {}}\n";
  std::string little, big;
  for (const char c : plain) little += {c, '\0'}, big += {'\0', c};
  for (const std::string& text : {little, big, "\xff\xfe" + little, "\xfe\xff" + big, std::string("\xff\xfe")})
    EXPECT_EQ(told(text),
              "m.yaml:1:1: error: the file is text in UTF-16, not in UTF-8 [bad-yaml]\n    Save it as UTF-8.\n");
  EXPECT_EQ(
      told("\x89PNG\r\n\x1a\n" + std::string(8, '\0')),
      "m.yaml:1:1: error: the file is a picture [bad-yaml]\n    Name a YAML or JSON file; `mobrin import` makes clips "
      "of pictures.\n");
  EXPECT_EQ(
      told("MOBRINPK" + std::string(8, '\0')),
      "m.yaml:1:1: error: the file is a pack, which games load [bad-yaml]\n    Name the file that it was made of.\n");
  EXPECT_EQ(
      told(plain + std::string(1, '\0')),
      "m.yaml:1:1: error: the file holds a zero byte, so it is no text [bad-yaml]\n    Name a YAML or JSON file.\n");
  EXPECT_EQ(told("\xef\xbb\xbf" + plain), "");
}

TEST(Slip, AnInstantWithACommaIsAnsweredWithItsPoint) {
  EXPECT_EQ(
      joined(load_tape_text("mobrin: 1\ntape: t\nsteps:\n  - at: 1,5s\n    set: {move: 1}\n"
                            "  - {at: 2,5s, set: {move: 0}}\nuntil: 3,5s\n",
                            "t.yaml")
                 .findings),
      "t.yaml:4:9: error: `at:` is \"1,5s\" [wrong-type]\n    Write `1.5s`.\n"
      "t.yaml:6:10: error: the comma in `2,5s` ends the value [bad-yaml]\n    Write `2.5s`: numbers have a point, "
      "and nothing between thousands.\n"
      "t.yaml:7:8: error: `until:` is \"3,5s\" [wrong-type]\n    Write `3.5s`.\n");
}

struct Trouble {
  const char* name;
  const char* text;  // that is no YAML
  const char* finding;
};
class Troubles : public testing::TestWithParam<Trouble> {};
TEST_P(Troubles, AreToldAsPeopleSeeThem) {
  const std::vector<Finding> findings = load_character_text(GetParam().text, "m.yaml").findings;
  EXPECT_EQ(joined(findings), std::string("m.yaml:") + GetParam().finding + "\n");
}
const Trouble kTroubles[] = {
    {"AListing", "```yaml\nmobrin: 1\n```\n",
     "1:1: error: \"```\" is the frame of a listing [bad-yaml]\n    Take the line out; it came with the text from a "
     "page."},
    {"AMerge", "mobrin: 1\nstates:\n<<<<<<< mine\n  a: {}\n=======\n  b: {}\n>>>>>>> theirs\n",
     "3:1: error: \"<<<<<<<\" is a mark of a merge that is not done [bad-yaml]\n    Finish the merge: keep one of the "
     "two, "
     "without the marks."},
    {"AComment", "mobrin: 1\n// a note\nstates: {a: {}}\n",
     "2:1: error: a comment does not begin with `//` [bad-yaml]\n    Write `#`."},
    {"ACommentBehindAValue", "mobrin: 1\nstates: {a: {}} -- a note\n",
     "2:17: error: a comment does not begin with `--` [bad-yaml]\n    Write `#`."},
    {"ASemicolon", "mobrin: 1\nstates: {a: {}};\n", "2:16: error: nothing ends with `;` [bad-yaml]\n    Take it out."},
    {"AnOpenQuote", "mobrin: 1\nstates:\n  a: {enter: [\"x = 1]}\n  b: {enter: [\"x = 2\"]}\n",
     "3:15: error: the quote that begins here is not closed on its line [bad-yaml]\n    Close it with `\"`."},
    {"AnOpenBrace", "mobrin: 1\nstates:\n  a: {go: [{to: b}]\ninputs: {x: false}\n",
     "3:6: error: the `{` that begins here is not closed [bad-yaml]\n    Close it with `}`."},
    {"TheWrongBracket", "mobrin: 1\nstates:\n  a: {go: [{to: b]}}\n",
     "3:18: error: `]` stands here, but the `{` of column 12 is open [bad-yaml]\n    Close that with `}` first."},
    {"ABraceOfALineAbove", "mobrin: 1\nstates: {\n  a: {go: [\n    {to: b}}\n}\n",
     "4:12: error: `}` stands here, but the `[` of line 3, column 11 is open [bad-yaml]\n    Close that with `]` "
     "first."},
    {"ABraceTooMany", "mobrin: 1\nstates:\n  a: {go: [{to: b}]}}\n",
     "3:21: error: no `{` is open for this `}` [bad-yaml]\n    Take it out, or open it before."},
    {"NoCommaBetweenLines", "{\"mobrin\": 1,\n \"inputs\": {\"x\": false}\n \"states\": {}}\n",
     "3:2: error: a comma is missing before this [bad-yaml]\n    Write `,` between the two."},
    {"NoCommaBetweenEntries", "mobrin: 1\nstates:\n  a: {go: [{when: x > 1 to: b}]}\n",
     "3:25: error: a comma is missing before `to:` [bad-yaml]\n    Write `,` between the two."},
    {"NoCommaAtTheEndOfALine", "mobrin: 1\nstates: {a: {go: [\n  {pulse: p, after: 2s\n   to: b}]}}\n",
     "4:4: error: a comma is missing before `to:` [bad-yaml]\n    Write `,` between the two."},
    {"NoColonBeforeABrace", "mobrin: 1\nstates:\n  a: {go: [{to: b}], vars {n: 0}}\n",
     "3:22: error: there is no colon behind \"vars\" [bad-yaml]\n    Write `vars: {`."},
    {"NoSpaceBehindTheColonBeforeABrace", "mobrin: 1\nstates:\n  a: {go:[{to: b}]}\n",
     "3:7: error: there is no space behind the colon of \"go\" [bad-yaml]\n    Write `go: [`."},
    {"ASpaceOnTheWrongSideOfTheColon", "mobrin: 1\nstates:\n  a: {go :[{to: b}]}\n",
     "3:7: error: there is no space behind the colon of \"go\" [bad-yaml]\n    Write `go: [`."},
    {"ABraceWithinAWord", "mobrin: 1\nstates:\n  a: {go: [{t{o: b}]}\n",
     "3:14: error: `{` stands in the middle of a word [bad-yaml]\n    Take it out, or put the word into quotes."},
    {"JsonNeedsNoSpaces", "{\"mobrin\":1,\"states\":{\"a\":{\"go\":[{\"to\":\"b\"]}}}\n",
     "1:43: error: `]` stands here, but the `{` of column 34 is open [bad-yaml]\n    Close that with `}` first."},
    {"ADashWithinBrackets", "mobrin: 1\nstates:\n  a: {go: [- {to: b}]}\n",
     "3:12: error: a dash stands within brackets [bad-yaml]\n    Take it out: within brackets, commas part the items."},
    {"ASecondColon", "mobrin: 1\nstates:\n  a: {go: [{after: 1s:, to: b}]}\n",
     "3:22: error: a second colon stands here [bad-yaml]\n    Take it out."},
    {"ACommentRightBehindABrace", "mobrin: 1\nstates:\n  a: {#go: []}\n  b: {}\n",
     "3:6: error: the `{` that begins here is not closed [bad-yaml]\n    Close it with `}`."},
    {"AChoiceOfAnotherLanguage", "mobrin: 1\nstates:\n  a: {clip: c, speed: x > 1 ? 2 : 1}\n",
     "3:29: error: `?` and `:` choose nothing here [bad-yaml]\n    Write `\"select(condition, a, b)\"`."},
    {"ColonsInQuotesAndWithinWordsAreFine",
     "mobrin: 1\ncues: {a: {word: \"b: c\", file: a:b, \"other\":1}}\nstates: {a: {go: [}}\n",
     "3:19: error: `}` stands here, but the `[` of column 18 is open [bad-yaml]\n    Close that with `]` first."},
    {"QuotesOverLinesAndWithinWordsAreFine",
     "mobrin: 1\nmachine: it's [mine\ncues: {a: {word: \"two\n   lines\", other: 'it''s', file: x\"y}}\nstates: {a: "
     "{go: [}}\n",
     "5:19: error: `}` stands here, but the `[` of column 18 is open [bad-yaml]\n    Close that with `]` first."},
    {"SomethingElse", "---\nmobrin: 1\nstates: {a: {}}: b\n",
     "3:16: error: this is not well-formed YAML: illegal map value [bad-yaml]\n    Check indentation, brackets and "
     "quotes "
     "on this line and the one before it."},
    {"ATab", "mobrin: 1\nstates:\n\ta: {}\n",
     "3:1: error: this line is indented with a tab [bad-yaml]\n    YAML is indented with spaces; write two for each "
     "level."},
};
INSTANTIATE_TEST_SUITE_P(, Troubles, testing::ValuesIn(kTroubles),
                         [](const auto& each) { return std::string(each.param.name); });

// A bracket or a quote that is taken out is told on its line or the next.
TEST(Slip, ABracketThatIsGoneIsToldWhereItWas) {
  for (const char* file : {"keeper.yaml", "hornet.yaml", "hive.yaml"}) {
    const std::string path = std::string(MOBRIN_DEMO) + "/" + file, whole = text_of_file(path);
    std::size_t told = 0;
    for (std::size_t at = whole.find_first_of("{}[]\""); at != std::string::npos;
         at = whole.find_first_of("{}[]\"", at + 1)) {
      std::string text = whole;
      text.erase(at, 1);
      const auto line = static_cast<std::uint32_t>(
          1 + std::count(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(at), '\n'));
      const std::vector<Finding> findings = load_character(path, {path, text}).findings;
      if (errors_in(findings) == 0) continue;
      ++told;
      EXPECT_TRUE(findings[0].line == line || findings[0].line == line + 1)
          << path << ":" << line << " " << whole.substr(at, 20) << "\n"
          << joined(findings);
    }
    EXPECT_GT(told, 30u) << path;
  }
}

// A space of another kind anywhere is told once, or changes nothing.
TEST(Slip, OfASpaceIsOneError) {
  const std::string path = std::string(MOBRIN_DEMO) + "/keeper.yaml", whole = text_of_file(path);
  std::size_t told = 0, spaces = 0;
  for (std::size_t at = whole.find(' '); at != std::string::npos; at = whole.find(' ', at + 7)) {
    std::string text = whole;
    text.replace(at, 1, "\u00a0");
    const std::vector<Finding> findings = load_character(path, {path, text}).findings;
    ++spaces;
    told += errors_in(findings) > 0;
    EXPECT_LE(errors_in(findings), 1u) << whole.substr(at - std::min<std::size_t>(at, 30), 60) << "\n"
                                       << joined(findings);
  }
  EXPECT_GT(told, spaces / 2);
}

TEST(Slip, OfIndentationAreFewErrors) {
  for (const char* file : {"keeper.yaml", "hornet.yaml", "hive.yaml"}) {
    const std::string path = std::string(MOBRIN_DEMO) + "/" + file;
    move_each_line(path, 3, [&](const std::string& text) { return load_character(path, {path, text}).findings; });
  }
  const std::string scene = std::string(MOBRIN_DEMO) + "/dusk.scene.yaml";
  move_each_line(scene, 3, [&](const std::string& text) { return load_scene(scene, {scene, text}).findings; });
}

// Two letters of a word that changed places, wherever it stands first: one error, or none where it is a name of one's
// own.
TEST(Slip, OfTheFingerIsOneError) {
  for (const char* file : {"keeper.yaml", "hornet.yaml", "hive.yaml", "marsh_hornet.yaml"}) {
    const std::string path = std::string(MOBRIN_DEMO) + "/" + file, text = text_of_file(path);
    std::set<std::string> seen;
    std::size_t told = 0;
    for (std::size_t at = 0, end = 0; at < text.size(); at = end + 1) {
      end = std::min(text.find_first_not_of("abcdefghijklmnopqrstuvwxyz_", at), text.size());
      const std::string word = text.substr(at, end - at);
      if (text[at] == '#') end = text.find('\n', at);
      if (word.size() < 4 || word[1] == word[2] || !seen.insert(word).second) continue;
      std::string spoilt = text;
      std::swap(spoilt[at + 1], spoilt[at + 2]);
      const std::vector<Finding> findings = load_character(path, {path, spoilt}).findings;
      told += errors_in(findings) > 0;
      EXPECT_LE(errors_in(findings), 1u) << path << ": " << word << "\n" << joined(findings);
    }
    EXPECT_GT(told, 10u) << path;
  }
}

TEST(Slip, InASceneGoWhereTheyAreMeant) {
  const std::string path = std::string(MOBRIN_DEMO) + "/dusk.scene.yaml";
  std::string text = text_of_file(path);
  // The first actor's moves, without the line that says so.
  const std::size_t moves = text.find("    moves:\n");
  ASSERT_NE(moves, std::string::npos);
  text.erase(moves, std::string("    moves:\n").size());
  const LoadedScene loaded = load_scene(path, {path, text});
  ASSERT_EQ(loaded.findings.size(), 1u);
  EXPECT_EQ(loaded.findings.front().message, "this item stands under `steps:` and is written like a move");
  EXPECT_EQ(loaded.findings.front().remedy, "Is the line `moves:` missing above it?");
}

// Each with one finding, at its place.
TEST(Slip, OfAnActorIsToldWhereItIsWritten) {
  const std::string path = std::string(MOBRIN_DEMO) + "/dusk.scene.yaml", text = text_of_file(path);
  const struct {
    std::string written, instead, place, remedy;
  } rows[] = {
      {"at: [3.4, 0]", "at: 3.4, 0", "9:9", "Write `[3.4, 0]`."},
      {"face: left", "flip: true", "37:5", "Write `face: left`."},
      {"add: {health: -2}", "damage: 2", "33:35", "Write what is added to an input: `add: {health: -2}`."},
      {"for: 1200ms, by: [1.2, 0]", "to: [1.2, 0]", "30:21",
       "A move says how far it goes, `by: [1.2, 0]`, and for how long, `for: 1s`."},
      {"for: 1200ms, by: [1.2, 0]", "until: 1600ms, by: [1.2, 0]", "30:21",
       "A move says for how long it goes, `for: 1s`."},
      {"actors:", "entities:", "6:1", "Did you mean \"actors\"?"},
      {"until: 10s", "until: 1s", "5:8", "What comes after `until:` is not run; raise it."},
      {"machine: hive.yaml", "machine: hives.yaml", "8:14", "Did you mean \"hive.yaml\"?"},
      {"machine: hive.yaml\n", "machine: hive.yaml\n    tape: keeper.tape.yaml\n", "9:11", ""},
      {"{by: net, pulse: stunned}", "{by: net}", "43:9", "Add `pulse: stung`, or `add: {health: -1}`."},
      {"{at: 600ms, for: 1200ms, by: [-1.4, -0.1]}", "", "40:7",
       "Expected a map such as `{at: 900ms, for: 500ms, by: [2, 0]}`."},
  };
  for (const auto& [written, instead, place, remedy] : rows) {
    std::string spoilt = text;
    const std::size_t at = spoilt.find(written);
    ASSERT_NE(at, std::string::npos) << written;
    spoilt.replace(at, written.size(), instead);
    const std::vector<Finding> findings = load_scene(path, {path, spoilt}).findings;
    ASSERT_EQ(findings.size(), 1u) << instead << "\n" << joined(findings);
    EXPECT_EQ(findings[0].file, path);
    EXPECT_EQ(std::to_string(findings[0].line) + ":" + std::to_string(findings[0].column), place) << joined(findings);
    if (!remedy.empty()) {
      EXPECT_EQ(findings[0].remedy, remedy);
    }
  }
}

// Nothing is told where it should stand, not where the next word begins.
TEST(Slip, OfNothingIsToldBehindItsKeyOrItsDash) {
  const std::string all = findings_of(
      "vars:\n  x:\n\n  y: 1\nclips:\n  c:  # later\n\n  d: {length: 1s}\ngo:\n  -   # here\n  -\n  - {when: y > 2, "
      "to: a}\nstates:\n  a:\n    go:\n      -");
  for (const char* place : {":4:3: error: the variable \"x\" is nothing", ":8:3: error: the clip \"c\" is nothing",
                            ":12:3: error: a transition is nothing", ":13:3: error: a transition is nothing",
                            ":18:7: error: a transition is nothing"})
    EXPECT_NE(all.find(place), std::string::npos) << place << "\n" << all;
  EXPECT_EQ(std::count(all.begin(), all.end(), '\n'), 10) << all;
}

// What does not fit the actor is told in the tape, not in the scene or the machine.
TEST(Slip, OfATapeOfASceneIsToldInTheTape) {
  const std::string folder = std::string(MOBRIN_DEMO) + "/", path = folder + "dusk.scene.yaml";
  const std::string scene =
      "mobrin: 1\nscene: s\nuntil: 1s\nactors: {hive: {machine: hive.yaml, tape: keeper.tape.yaml}}\n";
  const std::vector<Finding> findings = load_scene(path, {path, scene}).findings;
  std::size_t strange = 0;
  for (const Finding& each : findings) {
    if (each.code != FindingCode::unknown_name) continue;
    EXPECT_EQ(each.file, folder + "keeper.tape.yaml") << each.text();
    ++strange;
  }
  EXPECT_GT(strange, 5u);
}

TEST(Slip, APulseThatIsNotWrittenIsNone) {
  const LoadedTape loaded = load_tape_text("mobrin: 1\ntape: t\nsteps:\n  - {at: 1s, pulse: }\n", "t.yaml");
  ASSERT_EQ(loaded.findings.size(), 1u);
  EXPECT_EQ(loaded.findings[0].text(),
            "t.yaml:4:21: error: `pulse:` is nothing [wrong-type]\n    Expected a pulse, or a list of them.");
}

// As editors count them, whether letters take one byte or more.
TEST(Slip, StandsAtItsCharacterOfTheLine) {
  const auto found = [](std::string line, const std::string& word) {
    line.replace(line.find("WORD"), 4, word);
    std::string out;
    for (const Finding& each : load_character_text("mobrin: 1\nmachine: m\n" + line, "m.yaml").findings)
      out += std::to_string(each.line) + ":" + std::to_string(each.column) + " " + each.message + "\n";
    return out;
  };
  const std::string_view lines[] = {
      "inputs: {near: false}\ncues: {hum: {sound: WORD, pitch: 1, pitch: 2}}\n"
      "states: {a: {enter: [{tell: {hum: {sound: WORD}}, louder: 2}], go: [{when: neer, to: a}]}}\n",
      "states: {a: {length: 1s}, b: \"WORD\" }]\n", "states: {a: [x, \"WORD\", {}, {: ]}\n",
      "states: {a: {clip: \"WORD\", speed: \u201c2\u201d}\u00a0}\n"};
  for (const std::string_view line : lines) {
    const std::string plain = found(std::string(line), "aeub");
    EXPECT_FALSE(plain.empty());
    std::string wide = found(std::string(line), "\u00e4\u20ac\U0001f41db");
    for (std::size_t at; (at = wide.find("\u00e4\u20ac\U0001f41db")) != std::string::npos;)
      wide.replace(at, std::string("\u00e4\u20ac\U0001f41db").size(), "aeub");
    EXPECT_EQ(wide, plain);
  }
}

TEST(Slip, OfOneStepInTimeAreToldOnce) {
  const LoadedTape loaded = load_tape_text(
      "mobrin: 1\ntape: t\nsteps:\n  - {at: 1s, pulse: a}\n  - {at: 9s, pulse: a}\n  - {at: 2s, pulse: a}\n  - {at: "
      "3s, "
      "pulse: a}\n  - {at: 4 hours, expect: {is: a}}\n",
      "t.yaml");
  ASSERT_EQ(loaded.findings.size(), 2u);
  EXPECT_EQ(loaded.findings[0].line, 6u);
  EXPECT_EQ(loaded.findings[0].message, "the step at \"2s\" lies before the one above it");
  EXPECT_EQ(loaded.findings[1].message, "`at:` is \"4 hours\"");
}

}  // namespace
}  // namespace mobrin::test
