// Keys that stand in a section to which they do not belong.
#include <algorithm>

#include "keys.hpp"

namespace mobrin::io {
namespace {

struct Other {
  Section here, there;
  std::string_view where;
};
constexpr std::string_view kOfClip = "a clip: put it there, under `clips:`.";
constexpr std::string_view kOfMarks = "a clip's marks: put it there, under `marks:`.";
constexpr std::string_view kOfPlayer = "a state: put it at the state that plays the clip.";
constexpr Other kOthers[] = {
    {Section::region, Section::state,
     "a state: put it at the state around the region; rules of `go:` lead to `REGION/STATE`."},
    {Section::state, Section::clip, kOfClip},
    {Section::state, Section::go, "a rule: put it into one of the list `go:`."},
    {Section::state, Section::marks, kOfMarks},
    {Section::clip, Section::marks, kOfMarks},
    {Section::clip, Section::state, kOfPlayer},
    {Section::marks, Section::clip, kOfClip},
    {Section::marks, Section::state, kOfPlayer},
    {Section::go, Section::state, "a state: put it at the state, beside `go:`."},
    {Section::tape_step, Section::tape_expect, "an expectation: put it under `expect:`."},
    {Section::tape, Section::tape_step, "a step: put it into one of the list `steps:`, `- {at: 0s, set: {move: 1}}`."},
    {Section::scene, Section::actor, "an actor: put it at one of them, under `actors:`."},
    {Section::scene, Section::machine, "a machine: put it into the file of that."},
    {Section::tape, Section::machine, "a machine: put it into the file that `machine:` names."},
};

// What is said in another way here, whatever sections have such keys.
struct Otherwise {
  Section here;
  std::string_view words, remedy;
};
constexpr Otherwise kOtherwise[] = {
    {Section::input, " range limits bounds ", "Write `min:` and `max:`."},
    {Section::clip, " duration time ",
     "With frames it is `fps: 10`, or `times:` with one a frame; without frames `length: 1s`."},
    {Section::clip, " row rows ",
     "Cells are numbered from 0, row after row: row 1 of eight columns is `frames: [8-15]`."},
    {Section::clip, " column columns cols ",
     "Leave it out: how many there are follows from the sheet's width and `tile:`."},
    {Section::clip, " first last start end from_frame to_frame start_frame end_frame count frame_count ",
     "Write the first and the last of them, from 0: `frames: [0-7]`."},
    {Section::clip, " flip flipped flip_x mirror mirrored ",
     "Who draws a picture turns it over; a point of a blend says `mirrored: true`."},
    {Section::clip, " speed ",
     "How fast its frames come is `fps: 12`; the state that plays it may say `speed: 2`, twice as fast as that."},
    {Section::clip, " reverse reversed backward backwards ", "The state that plays it says `speed: -1`."},
    {Section::tape_step, " frame frames tick ticks ", "Steps count time, not frames: `at: 400ms`."},
    {Section::tape_step, " for lasts duration ", "What is set stays until it is set again: write another step."},
    {Section::tape_step, " add toggle ", "A step says what an input becomes: `set: {health: 4}`."},
    {Section::tape_step, " hold release down up ",
     "What is held is a bool: `set: {run: true}`, and in a later step `false`."},
    {Section::tape_step, " wait delay sleep ", "Steps say their instant, counted from the tape's begin: `at: 1s`."},
    {Section::tape_step, " state goto ", "A state is put there by `place: air`, and expected by `expect: {in: air}`."},
    {Section::tape, " expect expects expectations asserts checks ",
     "What must be so is said by a step: `- {at: 1s, expect: {in: air}}`."},
    {Section::tape, " fps rate hz frame_rate ", "Steps count time, not frames; leave it out."},
    {Section::tape, " loop repeat ", "A tape runs once; leave it out."},
    {Section::tape_expect, " frame frames ", "Write the clip and the number of its frame: `shows: walk/3`."},
    {Section::tape_expect, " not not_in ", "Write `holds: not in(air)`."},
    {Section::scene, " expect expects expectations asserts checks ",
     "What must be so is said by a step of an actor: `steps: [{at: 1s, expect: {in: air}}]`."},
    {Section::scene, " fps rate hz frame_rate ", "A scene counts time, not frames; leave it out."},
    {Section::scene, " camera size width height background view resolution ",
     "Pictures show what is on the stage; leave it out."},
    {Section::actor, " flip flipped mirror mirrored ", "Write `face: left`."},
    {Section::actor, " x y ", "Write `at: [x, y]`, in world units."},
    {Section::actor, " set inputs values ", "Write a step: `steps: [{at: 0s, set: {carrying: net}}]`."},
    {Section::actor, " team group faction layer ",
     "Write words by which boxes and zones pick whom they mean: `tags: [bees]`."},
    {Section::actor, " count copies number ", "Each actor stands by himself, under a name of his own."},
    {Section::hit_rule, " damage set change subtract minus ", "Write what is added to an input: `add: {health: -2}`."},
    {Section::hit_rule, " to state goto ", "A hit presses, `pulse: stung`, and a rule of the machine takes that."},
    {Section::scene_move, " to ", "A move says how far it goes, `by: [1.2, 0]`, and for how long, `for: 1s`."},
};

constexpr std::string_view kNotes = " comment comments note notes description doc todo ";

}  // namespace

std::string key_elsewhere(Section section, std::string_view key) {
  for (const Otherwise& each : kOtherwise)
    if (each.here == section && each.words.find(" " + std::string(key) + " ") != std::string_view::npos)
      return std::string(each.remedy);
  for (const Other& each : kOthers) {
    if (each.here != section) continue;
    const std::vector<std::string>& known = keys_of(each.there);
    if (std::find(known.begin(), known.end(), key) != known.end()) return "It is one of " + std::string(each.where);
    if (const std::string_view meant = meant_key(each.there, key); !meant.empty())
      return "It is `" + std::string(meant) + ":` of " + std::string(each.where);
  }
  if (kNotes.find(" " + std::string(key) + " ") != std::string_view::npos) return "Write it as a comment, `# ...`.";
  return {};
}

}  // namespace mobrin::io
