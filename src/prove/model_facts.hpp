// What the model knows of a machine's parts, and of where it stands.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "courses.hpp"
#include "term.hpp"

namespace mobrin::proof {

struct Action {
  std::uint16_t variable = kNoIndex;  // what it assigns ...
  std::optional<Term> value{};
  std::uint16_t cue = kNoIndex;  // ... or tells
};

enum class Event : std::uint8_t { none, pulse, cue, end, loop, after };
enum class Aim : std::uint8_t { state, back, last };

struct Rule {
  std::uint32_t index = 0;  // into Machine::transitions()
  const GoDef* def = nullptr;
  std::uint16_t owner = 0, target = 0, pulse = kNoIndex, cue = kNoIndex;
  Event event = Event::none;
  Aim aim = Aim::state;
  std::optional<Term> when{};
  bool inputs_only = true;  // the guard reads no variable and no state
  bool relates = false;     // the same, and no ranges of its inputs say what it comes to
  std::vector<Action> actions{};
  [[nodiscard]] bool in_a_window() const { return def != nullptr && (!def->during.empty() || def->during_stretch); }
};

struct StateFacts {
  std::uint16_t parent = 0, region = 0, initial = kNoIndex, depth = 0;
  std::vector<std::uint16_t> children{}, regions{}, variables{};
  std::vector<std::uint32_t> rules{};
  std::vector<Action> enter{}, exit{}, each_loop{};
  bool sealed = false, final = false, dead = false, restful = true;
  bool ends_all = false;      // all rests for ever once it was entered
  bool splits_below = false;  // it, or a state inside it, has regions of its own
  bool may_end = false, may_loop = false, plays = false, steady = true;
  bool turns = false;              // its speed may change its sign ...
  bool turns_at_once = false;      // ... also while no input is written
  std::optional<Term> speed{};     // an expression
  std::vector<Term> axes{};        // of a blend: one or two
  std::optional<Ticks> stay{};     // see Model::stay, and of what is not a leaf Model::stay_in
  bool leaves_at_end = false;      // when its play ends a rule surely leads on
  bool may_leave_in_time = false;  // a rule of it, or around it, that waits for that or for a time has a guard
  std::optional<Ticks> length{};   // of its whole play, where it ends and its speed is always 1
  // At speed 1, where its clip stays the same: of its whole play, where that ends; of one round, where it never does.
  std::optional<Ticks> way{}, round{};
  // The input that picks its clip, and the choices that pick another one than the choice before, which plays otherwise.
  std::uint16_t chosen_by = kNoIndex;
  std::vector<double> choices_differ{};
  // What its clips may tell; as it is entered; when a write turns its play or changes its clip (spans only).
  std::vector<std::uint16_t> cues{}, entry_cues{}, turn_cues{};
  std::vector<std::uint16_t> layer_cues{};  // what fades out under what it plays may tell
  std::vector<std::uint16_t> begin_cues{};  // surely told as its play begins, if that is at its begin
  std::vector<std::uint16_t> inner_cues{};  // that are never told as its play ends or comes round, and by nothing else
  std::vector<std::uint16_t> early_cues{};  // the same, as its play ends
  // By rules that wait for a window: that are never told while that is open, and by nothing else.
  std::map<std::uint32_t, std::vector<std::uint16_t>> cues_apart{};
  // Windows its clips have; those open where its play begins; those where it is over, if that is at its clip's end.
  std::vector<std::string> windows{}, first_windows{}, last_windows{};
  std::optional<std::int32_t> last_frame{};  // shown there
  std::optional<Ticks> last_time{};          // of its clip there
  // Cues that its one clip surely tells on its way from its begin to its end, both left out, and where first.
  std::vector<std::pair<std::uint16_t, Ticks>> sure_cues{};
  std::optional<std::uint32_t> ends_before{};  // a rule that surely leads on at one of those, before its end
  Course course = Course::any;                 // its play runs this way from its begin, if a rule says nothing else
  bool begins = true;                          // no rule does
};

struct Variable {
  std::string name;
  std::uint16_t owner = 0;
  enum class Kind : std::uint8_t { truth, whole, number } kind = Kind::truth;
  double start = 0;
  Span range{};  // in no run it holds anything else
};

// How much of a variable is known: each of its values; between which comparisons it lies; nothing.
enum class Knowledge : std::uint8_t { values, comparisons, nothing };

// What rules go by that lead back. Of `back`: the leaf that was begun last in a region, of those that may be gone back
// to, outside `of`, if that is given. Of `x/last`: the child of `of` that was active last, while none is.
struct Memory {
  Aim aim = Aim::back;
  std::uint16_t of = kNoIndex, region = 0;
  bool operator==(const Memory&) const = default;
};

// What a question does not hang on: by region, by variable.
struct Apart {
  std::vector<bool> regions, variables;
};

// What is active and what variables may hold, all of the range where that is not known.
struct Config {
  Indices leaves;  // by region; kNoIndex: not active
  Values variables;
  Indices memories{};  // by memory; kNoIndex: there is none. Empty where it is not known
  // By clock and region: how old the clock's state was at most when the region's leaf was entered, in steps of the
  // clock; kNoIndex: any age. Empty where times are not compared.
  Indices ages{};
};

// Where a play that was entered at this instant stands: at its begin, maybe at its end, or somewhere before that.
enum class Begun : std::uint8_t { at_begin, anywhere, inside };

// In the middle of a settling.
struct Moment {
  Config config;
  Truths pulses, cues, told;  // alive; seen in this round; told at this instant
  Truths looped;              // by region: its play just came round
  Indices fresh;              // by region: the outermost state that was entered at this instant
  Flags begun;                // by region, of what was entered: see Begun
  bool timed = false;         // it is time that brought it about
  Indices held{};             // rules that were taken at this instant and relate inputs: their guards are true still
  Indices early{};            // whose time, or play, is not over, as they would have been taken before
};

// One of the ways in which a round may end, if something is taken in it.
struct Step {
  std::uint16_t pulse = kNoIndex;  // one that is taken
  Moment after{};
};

}  // namespace mobrin::proof
