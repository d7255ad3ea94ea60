// What people write in expressions out of other habits, and how it is written here.
#include "expression/idioms.hpp"

#include <algorithm>
#include <string>
#include <vector>

#include "mobrin/core/names.hpp"

namespace mobrin::detail {
namespace {

// A sign before those it begins with.
constexpr Idiom kSigns[] = {
    {"&&", "Write `and`."},
    {"&", "Write `and`."},
    {"||", "Write `or`."},
    {"|", "Write `or`."},
    {"=>", "Write `>=`."},
    {"=<", "Write `<=`."},
    {"=", "Write `==` to compare."},
    {"!", "Write `not`."},
    {"<>", "Write `!=`."},
    {"?", "Write `select(condition, a, b)`."},
    {"'", "Names stand without quotes."},
    {"\"", "Names stand without quotes."},
    {"%", "There is no remainder; work it out in the game and write it into an input."},
    {"^", "There is no power; write `x * x`."},
    {"*", "There is no power; write `x * x`."},
    {".", "Names have no parts: an input's name stands alone."},
    {";", "Leave it out: conditions are joined by `and`, actions are a list."},
};

constexpr Idiom kWords[] = {
    {"is", "Write `==` to compare."},
    {"equals", "Write `==` to compare."},
    {"in", "Compare with each, as in `x == 1 or x == 2`; `in(STATE)` asks for a state."},
    {"between", "Write `x >= 1 and x <= 3`."},
    {"then", "What comes of a condition is `to:` and `do:` of the rule."},
    {"mod", "There is no remainder; work it out in the game and write it into an input."},
    {"xor", "Write `a != b`."},
    {"implies", "Write `not (a) or b`."},
    {"for", "An expression has no times: wait by `after:` of a rule, or say `within:` in a claim."},
    {"until", "An expression has no times: wait by `after:` of a rule, or say `within:` in a claim."},
};

// What makes the word behind it one too many.
constexpr Idiom kPrefixes[] = {
    {"NOT", "Write `not`."},
    {"Not", "Write `not`."},
    {"if", "A condition stands by itself: leave `if` out."},
    {"when", "A condition stands by itself: leave `when` out."},
    {"is", "Ask for a state by `in(STATE)`; traits are for the game."},
    {"at", "That the clip ends or comes round is an event of the rule, `at: end`, beside `when:`."},
    {"after", "How long a state has been active is an event of the rule, `after: 2s`, beside `when:`."},
    {"during", "A window stands beside `when:`, `during: WINDOW`."},
    {"pulse", "A press is the event of a rule: `pulse: NAME`, beside `when:`."},
    {"cue", "A cue is the event of a rule: `cue: NAME`, beside `when:`."},
};

// `x` in words with spaces around them.
bool is_one_of(std::string_view name, std::string_view words) {
  const std::string spaced = " " + std::string(name) + " ";
  return words.find(spaced) != std::string_view::npos;
}

constexpr std::string_view kOwnWords[][2] = {{" TRUE True ", "Write `true`."},
                                             {" FALSE False ", "Write `false`."},
                                             {" NOT Not ", "Write `not`."},
                                             {" AND And ", "Write `and`."},
                                             {" OR Or ", "Write `or`."}};

std::string_view own_word(std::string_view name) {
  for (const auto& [words, remedy] : kOwnWords)
    if (is_one_of(name, words)) return remedy;
  return {};
}

// `health < 50%`: there is nothing behind it to divide by.
bool is_percent(std::string_view rest) {
  if (!rest.starts_with('%')) return false;
  rest.remove_prefix(std::min(rest.find_first_not_of("% "), rest.size()));
  return rest.empty() || rest.front() == ')' || rest.front() == ',' || rest.starts_with("and ") ||
         rest.starts_with("or ");
}

}  // namespace

Idiom idiom_at(std::string_view rest) {
  if (is_percent(rest)) return {"%", "A number stands alone: leave it out, and compare with as much as that is."};
  for (const Idiom& each : kSigns)
    if (rest.starts_with(each.text)) return each;
  std::size_t end = 0;
  while (end < rest.size() && (is_letter(rest[end]) || is_digit(rest[end]))) ++end;
  const std::string_view word = rest.substr(0, end);
  for (const Idiom& each : kWords)
    if (word == each.text) return each;
  return {word, own_word(word)};
}

std::string between_meant(std::string_view source, std::size_t at) {
  const auto words = [](std::string_view text) {
    std::vector<std::string> out;
    for (std::size_t i = 0; i < text.size();) {
      const std::size_t end = std::min(text.find_first_of(" ,", i), text.size());
      if (end > i) out.emplace_back(text.substr(i, end - i));
      i = end + 1;
    }
    return out;
  };
  const std::vector<std::string> before = words(source.substr(0, at));
  std::vector<std::string> behind = words(source.substr(at + std::string_view("between").size()));
  std::erase(behind, "and");
  if (before.empty() || behind.size() < 2) return "";
  return "Write `" + before.back() + " >= " + behind[0] + " and " + before.back() + " <= " + behind[1] + "`.";
}

Idiom idiom_before(std::string_view word) {
  for (const Idiom& each : kPrefixes)
    if (word == each.text) return each;
  return {};
}

std::string_view idiom_of_name(std::string_view name) {
  if (const std::string_view own = own_word(name); !own.empty()) return own;
  if (is_one_of(name, " time elapsed timer state_time time_in_state "))
    return "How long a state has been active is asked for by `after: 2s` of a rule.";
  if (is_one_of(name, " state current_state ")) return "Ask for a state by `in(STATE)`.";
  if (is_one_of(name, " clip anim animation frame current_frame "))
    return "Ask for what plays by `in(STATE)`, or by `during:` and a window of the clip.";
  for (const std::string_view part :
       {"finished", "ended", "anim_done", "anim_over", "clip_done", "anim_end", "clip_end", "at_end"})
    if (name.find(part) != std::string_view::npos) return "That the state's clip has ended is `at: end` of a rule.";
  return {};
}

std::string_view idiom_of_function(std::string_view name) {
  if (is_one_of(name, " pulse pressed press trigger just_pressed "))
    return "A press is the event of a rule: `pulse: NAME`, beside `when:`.";
  if (is_one_of(name, " cue event ")) return "A cue is the event of a rule: `cue: NAME`, beside `when:`.";
  if (is_one_of(name, " random rand rnd chance ")) return "Chance is the game's: let it write an input.";
  if (is_one_of(name, " state current_state ")) return "Ask for a state by `in(STATE)`.";
  if (is_one_of(name, " prev previous was old last changed rising falling "))
    return "There is no before: a variable keeps what was, or the game writes a pulse when it changes.";
  if (is_one_of(name, " count times number_of ")) return "A variable counts, `do: [n = n + 1]`; `vars:` declares it.";
  if (is_one_of(name, " elapsed time since time_in timer "))
    return "How long a state has been active is asked for by `after: 2s` of a rule.";
  if (is_one_of(name, " floor ceil round sqrt pow sin cos tan lerp distance length mod "))
    return "Work it out in the game and write it into an input.";
  if (is_one_of(name, " is has trait ")) return "Ask for a state by `in(STATE)`; traits are for the game.";
  return {};
}

}  // namespace mobrin::detail
