// Time, names, expressions.
#include <cctype>
#include <cmath>
#include <random>

#include "mobrin/core/crowd.hpp"
#include "mobrin/core/names.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using namespace std::chrono_literals;

TEST(Time, FrameRatesDivideItExactly) {
  for (const std::int64_t hz : {24, 25, 30, 48, 50, 60, 90, 100, 120, 44100, 48000, 96000})
    EXPECT_EQ(kTicksPerSecond % hz, 0) << hz;
}

TEST(Time, ConversionsRoundToTheNearestTickHalfUp) {
  EXPECT_EQ(Ticks(60ms).count, 42'336'000);
  EXPECT_EQ(Ticks(2min).count, 120 * kTicksPerSecond);
  EXPECT_EQ(Ticks(1us).count, 706);  // 705.6
  EXPECT_EQ(Ticks(1ns).count, 1);    // 0.7056
  EXPECT_EQ(Ticks(-1us).count, -706);
  EXPECT_EQ(seconds(0.5).count, kTicksPerSecond / 2);
  EXPECT_EQ(seconds(2.5 / 705'600'000.0).count, 3);
  EXPECT_EQ(parse_duration("110ms")->count, 77'616'000);
  EXPECT_EQ(parse_duration("0.0000000007s")->count, 0);  // 0.49 ticks
  EXPECT_EQ(parse_duration("0.0000000008s")->count, 1);
  for (const char* text : {"", "5", "s", "1.5", "-1s", "1e3s", "1.2.3s", "ms", "1 2s"})
    EXPECT_FALSE(parse_duration(text)) << text;
}

TEST(Time, StepEndsDoNotDrift) {
  EXPECT_EQ(step_end(1'000'000 * 7, 7).count, 1'000'000 * kTicksPerSecond);
  EXPECT_EQ(step_end(1, 144).count, kTicksPerSecond / 144);
}

TEST(Names, NearestNameForgivesTyposButDoesNotGuess) {
  const std::vector<std::string> known = {"stand", "walk", "net", "hop", "hurt", "faint"};
  for (const auto& [typo, name] : std::vector<std::pair<std::string, std::string>>{{"wlak", "walk"},
                                                                                   {"Walk", "walk"},
                                                                                   {"fiant", "faint"},
                                                                                   {"stnd", "stand"},
                                                                                   {"nett", "net"},
                                                                                   {"climb", ""},
                                                                                   {"x", ""},
                                                                                   {"", ""}})
    EXPECT_EQ(nearest_name(typo, known), name) << typo;
}

// The distance as it is defined, step by step, without any of what makes it fast.
std::size_t distance(const std::string& a, const std::string& b) {
  std::vector<std::vector<std::size_t>> d(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  const auto same = [](char x, char y) { return std::tolower(x) == std::tolower(y); };
  for (std::size_t i = 0; i <= a.size(); ++i)
    for (std::size_t j = 0; j <= b.size(); ++j) {
      if (i == 0 || j == 0) {
        d[i][j] = i + j;
        continue;
      }
      d[i][j] = std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + (same(a[i - 1], b[j - 1]) ? 0 : 1)});
      if (i > 1 && j > 1 && same(a[i - 1], b[j - 2]) && same(a[i - 2], b[j - 1]))
        d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
    }
  return d[a.size()][b.size()];
}

TEST(Names, TheNearestIsTheFirstOfTheFewestEdits) {
  std::mt19937 random(11);
  const auto below = [&](unsigned most) { return random() % most; };
  const auto word = [&] {
    std::string out;
    for (unsigned i = 1 + below(9); i > 0; --i) out += "abcAB_"[below(6)];
    return out;
  };
  for (int round = 0; round < 3'000; ++round) {
    std::vector<std::string> known;
    for (unsigned i = below(8); i > 0; --i) known.push_back(word());
    const std::string name = word();
    std::string nearest;
    std::size_t fewest = std::max<std::size_t>(1, name.size() / 3) + 1;
    for (const std::string& each : known)
      if (const std::size_t edits = distance(name, each); edits < fewest && edits < std::max(name.size(), each.size()))
        fewest = edits, nearest = each;
    ASSERT_EQ(nearest_name(name, known), nearest) << name;
  }
}

TEST(Names, WordsOfTheExpressionLanguageAreNoNames) {
  for (const char* name : {"walk", "_x", "a1"}) EXPECT_TRUE(is_name(name)) << name;
  for (const char* name : {"", "1a", "a-b", "and", "in", "true", "clamp", "a b", "caf\xc3\xa9"})
    EXPECT_FALSE(is_name(name)) << name;
}

const char* const kInputs = R"(
inputs:
  a: {float: 2}
  n: {int: 3}
  b: true
  p: pulse
  tool: {one_of: [nothing, net, smoker]}
  hand: {one_of: [nothing, net, smoker]}
initial: x
states:
  x: {go: [{when: 'EXPR', to: y}]}
  y: {}
)";

std::string with(const std::string& expression) {
  std::string text = kInputs;
  return text.replace(text.find("EXPR"), 4, expression);
}

struct Row {
  const char* source;
  const char* compiled;  // the list for the stack
  bool value;            // with a = 2, n = 3, b = true, tool = nothing
};

class ExpressionTable : public testing::TestWithParam<Row> {};

TEST_P(ExpressionTable, CompilesAndEvaluates) {
  const Machine machine = machine_of(with(GetParam().source));
  const std::string dump = machine.dump();
  EXPECT_NE(dump.find(std::string("[") + GetParam().compiled + "] -> y"), std::string::npos) << dump;
  const auto log = log_of(machine, {}, Ticks(0));
  EXPECT_EQ(log.back() == "0 enter y", GetParam().value);
}

INSTANTIATE_TEST_SUITE_P(
    All, ExpressionTable,
    testing::Values(Row{"a > 1", "a 1 >", true}, Row{"a + n * 2 >= 8", "a n 2 * + 8 >=", true},
                    Row{"(a + n) * 2 == 10", "a n + 2 * 10 ==", true},
                    Row{"-a < 0 and not b", "a neg 0 < b not and", false},
                    Row{"b or a > 5 and n > 5", "b a 5 > n 5 > and or", true}, Row{"not b or true", "b not 1 or", true},
                    Row{"a / 0 == 0", "a 0 / 0 ==", true}, Row{"n / 2 == 1.5", "n 2 / 1.5 ==", true},
                    Row{"2 * 3 - 1 == 5", "1", true}, Row{"abs(0 - a) == a", "0 a - abs a ==", true},
                    Row{"min(a, n) == 2", "a n min 2 ==", true}, Row{"max(a, n) == 2", "a n max 2 ==", false},
                    Row{"clamp(n, 0, 2) == 2", "n 0 2 clamp 2 ==", true},
                    Row{"sign(a - 5) == -1", "a 5 - sign -1 ==", true},
                    Row{"select(b, a, n) == 2", "b a n select 2 ==", true}, Row{"tool == nothing", "tool 0 ==", true},
                    Row{"smoker != tool", "2 tool !=", true}, Row{"tool == hand", "tool hand ==", true},
                    Row{"b == true", "b 1 ==", true}, Row{"in(x)", "in(x)", true}, Row{"a > 1e-3", "a 0.001 >", true},
                    Row{"1 - 2 - 3 == -4", "1", true}));

struct WrongExpression {
  const char* source;
  const char* text;  // the finding
};

class ExpressionErrors : public testing::TestWithParam<WrongExpression> {};

TEST_P(ExpressionErrors, SayWhatIsWrongWhereAndHowToMendIt) {
  EXPECT_EQ(findings_of(with(GetParam().source)), std::string(GetParam().text) + "\n");
}

INSTANTIATE_TEST_SUITE_P(
    All, ExpressionErrors,
    testing::Values(
        WrongExpression{
            "a >",
            "m.yaml:13:23: error: the expression \"a >\" ends too early [bad-expression]\n    Expected a number, a "
            "name or `(`."},
        WrongExpression{
            "a = 2",
            "m.yaml:13:22: error: \"=\" is not a sign of the expression language [bad-expression]\n    Write `==` to "
            "compare."},
        WrongExpression{
            "a > 1 && b",
            "m.yaml:13:26: error: \"&&\" is not a sign of the expression language [bad-expression]\n    Write `and`."},
        WrongExpression{
            "0 < a < 3",
            "m.yaml:13:26: error: two comparisons in a row in \"0 < a < 3\" [bad-expression]\n    Join them: `0 < a "
            "and a < 3`."},
        WrongExpression{
            "n + 1",
            "m.yaml:13:20: error: the guard \"n + 1\" is a whole number, not true or false [wrong-operand]\n    "
            "Compare it: `n + 1 > 0`."},
        WrongExpression{"b > 1", "m.yaml:13:20: error: \"b\" is true or false [wrong-operand]\n    Expected a number."},
        WrongExpression{
            "p",
            "m.yaml:13:20: error: \"p\" is a pulse, and pulses are not names in expressions [wrong-operand]\n    "
            "Write `pulse: p` as the transition's event."},
        WrongExpression{
            "tool == nett",
            "m.yaml:13:28: error: \"nett\" is no choice of \"tool\" [unknown-name]\n    Did you mean \"net\"? The "
            "choices are: nothing, net, smoker."},
        WrongExpression{
            "tool",
            "m.yaml:13:20: error: the guard \"tool\" is a choice, not true or false [wrong-operand]\n    Compare it "
            "with one of its choices: `tool == ...`."},
        WrongExpression{"aa > 1",
                        "m.yaml:13:20: error: \"aa\" is no input or variable [unknown-name]\n    Did you mean \"a\"?"},
        WrongExpression{"in(z)",
                        "m.yaml:13:23: error: \"z\" is no state [unknown-name]\n    Name a state of this machine."},
        WrongExpression{
            "twice(a) > 1",
            "m.yaml:13:20: error: \"twice\" is not a function [bad-expression]\n    The functions are abs, min, max, "
            "clamp, sign, select and in."},
        WrongExpression{"min(a) > 1", "m.yaml:13:20: error: `min` has 1 operand [bad-expression]\n    It takes 2."},
        WrongExpression{
            "a > 5ms",
            "m.yaml:13:24: error: \"5ms\" has a unit [bad-expression]\n    Numbers in expressions have none; write "
            "\"5\". To wait, write `after: 5ms` beside `when:`."},
        WrongExpression{
            "a > (1",
            "m.yaml:13:26: error: the expression \"a > (1\" ends too early [bad-expression]\n    Expected `)`."},
        WrongExpression{"b and n",
                        "m.yaml:13:26: error: \"n\" is a whole number [wrong-operand]\n    Compare it: `n > 0`."}));

TEST(Expressions, NestingAndLengthAreLimited) {
  const std::string deep(100, '(');
  EXPECT_NE(findings_of(with(deep + "b" + std::string(100, ')'))).find("nests more than 64 deep"), std::string::npos);
  EXPECT_NE(findings_of(with(std::string(5000, ' ') + "b")).find("longer than 4096"), std::string::npos);
  std::string wide = "a";
  for (int i = 0; i < 600; ++i) wide += " + 1";
  EXPECT_EQ(findings_of(with(wide + " > 1")), "");
}

TEST(Expressions, DivisionByAWrittenZeroIsAWarning) {
  const std::string text = findings_of(with("a / 0 > 1"));
  EXPECT_EQ(text,
            "m.yaml:13:24: warning: a division by zero gives 0 [division-by-zero]\n    Divide by something else.\n");
}

// --- guards
// -----------------------------------------------------------------------------------------------------------

struct ConstantRow {
  const char* name;
  const char* sign;
  bool (*holds)(double, double);
};
const ConstantRow kConstantRows[] = {
    {"less", "<", [](double a, double b) { return a < b; }},
    {"less_equal", "<=", [](double a, double b) { return a <= b; }},
    {"greater", ">", [](double a, double b) { return a > b; }},
    {"greater_equal", ">=", [](double a, double b) { return a >= b; }},
    {"equal", "==", [](double a, double b) { return a == b; }},
    {"not_equal", "!=", [](double a, double b) { return a != b; }},
};

// Whether a machine with that guard leaves its first state when the input has the value.
bool leaves(const std::string& guard, double value) {
  const Machine machine =
      machine_of("inputs: {x: {float: 77}, n: {int: 77}, on: false}\nstates: {a: {go: [{when: " + guard +
                 ", to: b}]}, b: {}}\ninitial: a");
  bool out[3] = {};
  // By the quick way, by the engine (somebody listens to what it considers), and in a crowd.
  for (int way = 0; way < 2; ++way) {
    Instance instance(machine);
    if (way == 1) instance.set_trace({[](void*, const Considered&) {}, nullptr});
    CueList<8> cues;
    instance.set(*machine.input<float>("x"), static_cast<float>(value));
    instance.set(*machine.input<std::int32_t>("n"), static_cast<std::int32_t>(value));
    (void)instance.advance(milliseconds(1), cues);
    out[way] = instance.in(*machine.state("b"));
  }
  Crowd crowd(machine);
  const Member member = crowd.add();
  CrowdCues cues;
  crowd.set(member, *machine.input<float>("x"), static_cast<float>(value));
  crowd.set(member, *machine.input<std::int32_t>("n"), static_cast<std::int32_t>(value));
  crowd.advance(milliseconds(1), cues);
  out[2] = crowd.in(member, *machine.state("b"));
  EXPECT_EQ(out[0], out[1]) << guard << " at " << value;
  EXPECT_EQ(out[0], out[2]) << guard << " at " << value;
  return out[0];
}

class GuardsOfConstants : public testing::TestWithParam<ConstantRow> {};
TEST_P(GuardsOfConstants, HoldAsTheirNumbersDo) {
  const ConstantRow& row = GetParam();
  for (const float constant : {0.0f, 0.1f, -2.5f, 3.0f, 16777216.0f}) {
    std::string words = std::to_string(constant);
    for (const float value : {constant, std::nextafter(constant, -1e30f), std::nextafter(constant, 1e30f), -constant,
                              std::nextafter(-constant, -1e30f), std::nextafter(-constant, 1e30f), 1e20f}) {
      EXPECT_EQ(leaves("x " + std::string(row.sign) + " " + words, value), row.holds(value, constant)) << words;
      EXPECT_EQ(leaves(words + " " + row.sign + " x", value), row.holds(constant, value)) << words;
      EXPECT_EQ(leaves("not x " + std::string(row.sign) + " " + words, value), !row.holds(value, constant)) << words;
      EXPECT_EQ(leaves("abs(x) " + std::string(row.sign) + " " + words, value), row.holds(std::abs(value), constant));
    }
  }
  for (const int constant : {0, 5, -3})
    for (const int value : {constant - 1, constant, constant + 1, -constant}) {
      const std::string whole = "n " + std::string(row.sign) + " " + std::to_string(constant);
      EXPECT_EQ(leaves(whole, value), row.holds(value, constant));
      EXPECT_EQ(leaves(whole + " and not on", value), row.holds(value, constant));
      EXPECT_EQ(leaves(whole + " and on", value), false);
      EXPECT_EQ(leaves("on or " + whole, value), row.holds(value, constant));
      EXPECT_EQ(leaves("not on or " + whole, value), true);
      EXPECT_EQ(leaves("n + 1 " + std::string(row.sign) + " " + std::to_string(constant), value),
                row.holds(value + 1, constant));
    }
}
INSTANTIATE_TEST_SUITE_P(All, GuardsOfConstants, testing::ValuesIn(kConstantRows),
                         [](const auto& row) { return std::string(row.param.name); });

}  // namespace
}  // namespace mobrin::test
