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
    {Section::clip, " reverse reversed backward backwards ", "The state that plays it says `speed: -1`."},
    {Section::tape_step, " frame frames tick ticks ", "Steps count time, not frames: `at: 400ms`."},
    {Section::tape_step, " for lasts duration ", "What is set stays until it is set again: write another step."},
    {Section::tape_step, " add ", "A step says what an input becomes: `set: {health: 4}`."},
    {Section::actor, " flip flipped mirror mirrored ", "Write `face: left`."},
    {Section::hit_rule, " damage set change ", "Write what is added to an input: `add: {health: -2}`."},
    {Section::scene_move, " to ", "A move says how far it goes, `by: [1.2, 0]`, and for how long, `for: 1s`."},
};

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
  return {};
}

}  // namespace mobrin::io
