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

}  // namespace

std::string key_elsewhere(Section section, std::string_view key) {
  if (section == Section::input && (key == "range" || key == "limits" || key == "bounds"))
    return "Write `min:` and `max:`.";
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
