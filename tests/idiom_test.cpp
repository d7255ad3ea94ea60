// Expressions as other languages would have them: told once, where they depart, with how they are written here.
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Idiom {
  const char* expression;
  std::uint32_t at;  // the first letter that is wrong, from 1
  const char* remedy;
};

class Idioms : public testing::TestWithParam<Idiom> {};

TEST_P(Idioms, AreAnsweredWithHowTheyAreWrittenHere) {
  const std::string file = std::string(
                               "mobrin: 1\nmachine: m\ninputs: {x: {int: 0, min: 0, max: 9}, near: false, p: pulse, "
                               "tool: {one_of: [none, net]}}\ninitial: a\nstates:\n  a:\n    go:\n      - to: b\n"
                               "        when: ") +
                           GetParam().expression + "\n  b: {states: {c: {}}}\n";
  const std::vector<Finding> findings = load_character_text(file, "m.yaml").findings;
  ASSERT_EQ(findings.size(), 1u) << joined(findings);
  EXPECT_EQ(findings[0].remedy, GetParam().remedy) << joined(findings);
  EXPECT_EQ(findings[0].column, 14 + GetParam().at) << joined(findings);
}

INSTANTIATE_TEST_SUITE_P(
    , Idioms,
    testing::Values(
        Idiom{"a and near", 1, "Whether it is active is asked by `in(a)`."},
        Idiom{"near and not c", 14, "Whether it is active is asked by `in(b/c)`."},
        Idiom{"b/c or near", 1, "Whether it is active is asked by `in(b/c)`."},
        Idiom{"near/x > 1", 1, "Expected a number."},
        Idiom{"near and at_end", 10, "That the state's clip has ended is `at: end` of a rule."},
        Idiom{"x = 3", 3, "Write `==` to compare."}, Idiom{"x && near", 3, "Write `and`."},
        Idiom{"x > 1 & near", 7, "Write `and`."}, Idiom{"near | x > 1", 6, "Write `or`."},
        Idiom{"x => 3", 3, "Write `>=`."}, Idiom{"x =< 3", 3, "Write `<=`."}, Idiom{"x <> 3", 3, "Write `!=`."},
        Idiom{"near is true", 6, "Write `==` to compare."}, Idiom{"tool is net", 6, "Write `==` to compare."},
        Idiom{"x in [1, 2]", 3, "Compare with each, as in `x == 1 or x == 2`; `in(STATE)` asks for a state."},
        Idiom{"x between 1 and 3", 3, "Write `x >= 1 and x <= 3`."},
        Idiom{"x between", 3, "Write `x >= 1 and x <= 3`."},
        Idiom{"near and x between -2 and n", 12, "Write `x >= -2 and x <= n`."},
        Idiom{"prev(near)", 1,
              "There is no before: a variable keeps what was, or the game writes a pulse when it changes."},
        Idiom{"count(near) > 3", 1, "A variable counts, `do: [n = n + 1]`; `vars:` declares it."},
        Idiom{"state(b) == c", 1, "Ask for a state by `in(STATE)`."},
        Idiom{"sqrt(x) > 2", 1, "Work it out in the game and write it into an input."},
        Idiom{"0 < x < 1", 7, "Join them: `0 < x and x < 1`."}, Idiom{"NOT near", 1, "Write `not`."},
        Idiom{"near AND x > 1", 6, "Write `and`."}, Idiom{"near or Not near", 9, "Write `not`."},
        Idiom{"near == True", 9, "Write `true`."}, Idiom{"near == 1", 9, "Write `true`."},
        Idiom{"near != 0", 9, "Write `false`."},
        Idiom{"tool > net", 1, "Compare it with `==` or `!=`, or make it a whole number."},
        Idiom{"2 <= tool", 6, "Compare it with `==` or `!=`, or make it a whole number."},
        Idiom{"x % 2 == 0", 3, "There is no remainder; work it out in the game and write it into an input."},
        Idiom{"x < 50%", 7, "A number stands alone: leave it out, and compare with as much as that is."},
        Idiom{"(x < 50 %) and near", 9, "A number stands alone: leave it out, and compare with as much as that is."},
        Idiom{"x > 50% or near", 7, "A number stands alone: leave it out, and compare with as much as that is."},
        Idiom{"x ** 2 > 4", 4, "There is no power; write `x * x`."},
        Idiom{"x ^ 2 > 4", 3, "There is no power; write `x * x`."},
        Idiom{"self.x > 1", 5, "Names have no parts: an input's name stands alone."},
        Idiom{"x > 1; near", 6, "Leave it out: conditions are joined by `and`, actions are a list."},
        Idiom{"in(\"a\")", 4, "Names stand without quotes."}, Idiom{"state == a", 1, "Ask for a state by `in(STATE)`."},
        Idiom{"x > 2s", 5, "Numbers in expressions have none; write \"2\". To wait, write `after: 2s` beside `when:`."},
        Idiom{"elapsed > 2", 1, "How long a state has been active is asked for by `after: 2s` of a rule."},
        Idiom{"anim_finished", 1, "That the state's clip has ended is `at: end` of a rule."},
        Idiom{"frame == 3", 1, "Ask for what plays by `in(STATE)`, or by `during:` and a window of the clip."},
        Idiom{"pulse(p)", 1, "A press is the event of a rule: `pulse: NAME`, beside `when:`."},
        Idiom{"random() > 0.5", 1, "Chance is the game's: let it write an input."},
        Idiom{"is(a)", 1, "Ask for a state by `in(STATE)`; traits are for the game."},
        Idiom{"not is busy", 5, "Ask for a state by `in(STATE)`; traits are for the game."},
        Idiom{"near and at end", 10,
              "That the clip ends or comes round is an event of the rule, `at: end`, beside `when:`."},
        Idiom{"during again", 1, "A window stands beside `when:`, `during: WINDOW`."},
        Idiom{"if near", 1, "A condition stands by itself: leave `if` out."},
        Idiom{"x mod 2 == 0", 3, "There is no remainder; work it out in the game and write it into an input."},
        Idiom{"in(a, b)", 4, "Ask for each: `in(a) or in(...)`."},
        Idiom{"tool == none or net", 17, "It is a choice of \"tool\": `tool == net`."},
        Idiom{"timid > 1", 1, "Declare it under `inputs:`, as `timid: 0`, or under `vars:`. There is x, near, tool."},
        Idiom{"timid", 1, "Declare it under `inputs:`, as `timid: false`, or under `vars:`. There is x, near, tool."},
        Idiom{"near and not timid", 14,
              "Declare it under `inputs:`, as `timid: false`, or under `vars:`. There is x, near, tool."},
        Idiom{"abs(timid) > 0.1", 5,
              "Declare it under `inputs:`, as `timid: 0.0`, or under `vars:`. There is x, near, tool."},
        Idiom{"x / timid > 2", 5,
              "Declare it under `inputs:`, as `timid: 0.0`, or under `vars:`. There is x, near, tool."},
        Idiom{"timid == true", 1,
              "Declare it under `inputs:`, as `timid: false`, or under `vars:`. There is x, near, tool."},
        Idiom{"near == timid", 9,
              "Declare it under `inputs:`, as `timid: false`, or under `vars:`. There is x, near, tool."},
        Idiom{"timid != 3", 1, "Declare it under `inputs:`, as `timid: 0`, or under `vars:`. There is x, near, tool."},
        Idiom{"x == timid", 6, "Declare it under `inputs:`, as `timid: 0`, or under `vars:`. There is x, near, tool."},
        Idiom{"timid == brave", 1,
              "Declare it under `inputs:`, as `timid: {one_of: [brave, ...]}`, or under `vars:`. There is x, near, "
              "tool."},
        Idiom{"select(timid, x, 1) > 0", 8,
              "Declare it under `inputs:`, as `timid: false`, or under `vars:`. There is x, near, tool."},
        Idiom{"max(timid, 2) < x", 5,
              "Declare it under `inputs:`, as `timid: 0`, or under `vars:`. There is x, near, tool."}));

class Actions : public testing::TestWithParam<std::pair<const char*, const char*>> {};

TEST_P(Actions, AreAnsweredWithHowTheyAreWrittenHere) {
  const auto& [action, remedy] = GetParam();
  const std::string file = std::string(
                               "mobrin: 1\nmachine: m\ninputs: {near: false}\ncues: {hum: sound}\nvars: {n: 0, f: 0.0, "
                               "b: false}\ninitial: a\nstates:\n  a: {go: [{when: near and n > 1 and f > 1 or b, to: "
                               "a, restart: true}], enter: ") +
                           action + "}\n";
  const std::vector<Finding> findings = load_character_text(file, "m.yaml").findings;
  ASSERT_EQ(findings.size(), 1u) << joined(findings);
  EXPECT_EQ(findings[0].remedy, remedy) << joined(findings);
}

INSTANTIATE_TEST_SUITE_P(
    , Actions,
    testing::Values(std::pair{"hum", "Write `tell: hum`."}, std::pair{"play hum", "Write `tell: hum`."},
                    std::pair{"n++", "Write `n = n + 1`."}, std::pair{"n -= f + 1", "Write `n = n - (f + 1)`."},
                    std::pair{"n == 1", "Write `n = 1`."}, std::pair{"\"n := 1\"", "Write `n = 1`."},
                    std::pair{"set n = n + 1", "Write `n = n + 1`."},
                    std::pair{"n + 1", "Write `variable = expression`, or `tell: cue`."},
                    std::pair{"n >= 1", "Write `variable = expression`, or `tell: cue`."},
                    std::pair{"n = n + 1;", "Leave it out: conditions are joined by `and`, actions are a list."},
                    std::pair{"n = near", "Start the variable as `n: false` to let it hold true or false."},
                    std::pair{"n = 0.5", "Start the variable as `n: 0.0` to let it hold any number."},
                    std::pair{"b = 1", "Start the variable as `b: 0` to let it hold whole numbers."},
                    std::pair{
                        "{hum: {tone: 2}}",
                        "An action tells a cue, `tell: CUE` or `tell: {CUE: {field: value}}`, or assigns, `variable = "
                        "expression`."}));

}  // namespace
}  // namespace mobrin::test
