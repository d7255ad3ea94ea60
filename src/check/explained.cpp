// What the codes of findings mean, for people.
#include <array>
#include <string_view>

#include "mobrin/check/logic.hpp"

namespace mobrin {
namespace {

struct Explained {
  std::string_view code, text;
};
constexpr std::array kExplained{
    Explained{"unreachable",
              "No run enters the state: no rule leads to it or into it. States that lead only to each other are told "
              "once, as an island. What the game enters with `force` or `place` says `accept: [unreachable]`."},
    Explained{"no-way-out",
              "The state can be entered and nothing leads out of it, though it is no ending. A warning where its play "
              "ends (the character would stand on the last frame for ever), else a hint. An ending says `final: true` "
              "or has the trait `dead`."},
    Explained{"never-holds",
              "The rule cannot be taken: no values of its inputs satisfy the guard, or nothing tells the cue that it "
              "waits for."},
    Explained{"always-holds",
              "The guard is true whatever the inputs are, so it says nothing. Often a comparison against the end of an "
              "input's range."},
    Explained{"shadowed",
              "Whenever this rule holds, one that is looked at before it decides, so it never has its turn. Rules are "
              "looked at from the outermost state inwards, in each list from the top."},
    Explained{"wrong-order",
              "A rule above it in the same list decides whenever this one holds, and in more cases besides. The "
              "narrower rule belongs above the wider one."},
    Explained{"flicker",
              "Two states lead to each other at one value of a float: an input that hovers there changes the state at "
              "every step. Leave a gap between the two values, or wait with `after:`."},
    Explained{"unused-input",
              "The game writes it and nothing in the machine reads it: no guard, speed, blend, choice of clips or "
              "action; or no rule takes the pulse."},
    Explained{"unused-var", "Nothing reads the variable."},
    Explained{"unused-cue", "The cue is declared, and no clip, action or transition tells it."},
    Explained{"unused-clip", "No state plays the clip."},
    Explained{"unused-window", "No rule says `during:` with this window."},
    Explained{"unused-reach", "No cue names the reach."},
    Explained{
        "stays-set",
        "A variable of the whole machine is set to one value and never to another again, so it remembers for ever."},
    Explained{"hits-twice",
              "One pass of the clip strikes more than once: two damage cues, or a hit box and a cue with a reach."},
    Explained{"runaway",
              "Some values let rules lead round and round at one instant: the engine stops after 64 rounds, tells a "
              "fault and goes on. An error where it is so in every run, as no rule of the ring waits for anything."},
    Explained{"press-lost",
              "A rule takes the press, and at the same instant another leads back, for what was true before is still "
              "true: `jump` leads to `air`, and `grounded` back to the ground. The press did nothing. Let the way back "
              "wait (`after: 50ms`), or guard it."},
    Explained{"revived",
              "A state with the trait `dead` is left for one that is no ending: the dead get up. A seal "
              "(`sealed: true`) on the dead state stops rules from outside."},
    Explained{"stands-still",
              "A rule waits for the end (or the loop) of a play whose speed is an expression, and a run holds that "
              "expression at 0: it waits for ever. Keep the speed above 0, or give the state another way out."},
    Explained{"idle-accept", "An `accept:` that accepts nothing: the finding is gone, or the code is misspelt."},
};

}  // namespace

std::string_view explain_finding(std::string_view code) {
  for (const Explained& each : kExplained)
    if (each.code == code) return each.text;
  return "";
}

}  // namespace mobrin
