// Marks: boxes, offsets and pivots as they are read, and edits that leave the rest of a file as it is.
#include <random>

#include "art_files.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using Kind = MarkEdit::Kind;

const char* const kFile =
    "# The keeper's marks.\n"
    "mobrin: 1\n"
    "marks:\n"
    "  walk:            # feet\n"
    "    pivot: [22, 38]\n"
    "    cues: {1: step, 4: {step: {foot: right}}}   # two steps\n"
    "  net:\n"
    "    cues:\n"
    "      3: [net_out, swish]   # the blow\n"
    "      0.22s: creak\n"
    "      5.end:\n"
    "        - ready\n"
    "        - thud: {loud: true}\n"
    "    spans: {trail: 2-4}\n"
    "\n"
    "  hover: {pivot: [16, 16]}\n"
    "# the end\n";

struct Edit {
  const char* name;
  MarkEdit edit;
  const char* from;  // what of the file above is replaced ...
  const char* to;    // ... by this; nothing else changes
};

class MarkEdits : public testing::TestWithParam<Edit> {};

TEST_P(MarkEdits, ChangeOnePlaceAndNothingElse) {
  std::string expected = kFile;
  const std::string from = GetParam().from;
  expected.replace(expected.find(from), from.size(), GetParam().to);
  const auto edited = edit_marks(kFile, GetParam().edit);
  ASSERT_TRUE(edited) << edited.error().message;
  EXPECT_EQ(*edited, expected);
  // The same in a file with the line ends of another system, and with a mark of byte order.
  const auto with_returns = [](const std::string& text) {
    std::string out = "\xEF\xBB\xBF";
    for (const char c : text) out += c == '\n' ? "\r\n" : std::string(1, c);
    return out;
  };
  const auto other = edit_marks(with_returns(kFile), GetParam().edit);
  ASSERT_TRUE(other) << other.error().message;
  EXPECT_EQ(*other, with_returns(expected));
}

const Edit kEdits[] = {
    {"ToAFlowMap", {Kind::add_cue, "walk", "6", "step", ""}, "{foot: right}}}", "{foot: right}}, 6: step}"},
    {"ToAPlaceWithOne", {Kind::add_cue, "walk", "01", "swish", ""}, "1: step", "1: [step, swish]"},
    {"ToAPlaceWithFields",
     {Kind::add_cue, "walk", "4", "swish", ""},
     "{step: {foot: right}}",
     "[{step: {foot: right}}, swish]"},
    {"ToAFlowList", {Kind::add_cue, "net", "3", "step", ""}, "[net_out, swish]", "[net_out, swish, step]"},
    {"ToABlockMap",
     {Kind::add_cue, "net", "0", "step", ""},
     "- thud: {loud: true}\n",
     "- thud: {loud: true}\n      0: step\n"},
    {"ToABlockList",
     {Kind::add_cue, "net", "5.end", "step", ""},
     "- thud: {loud: true}\n",
     "- thud: {loud: true}\n        - step\n"},
    {"ToATimeWrittenOtherwise", {Kind::add_cue, "net", "220ms", "step", ""}, "0.22s: creak", "0.22s: [creak, step]"},
    {"ToAClipWithoutCues",
     {Kind::add_cue, "hover", "2", "buzz", ""},
     "{pivot: [16, 16]}",
     "{pivot: [16, 16], cues: {2: buzz}}"},
    {"ToAClipWithoutMarks",
     {Kind::add_cue, "sag", "4", "thud", ""},
     "  hover: {pivot: [16, 16]}\n",
     "  hover: {pivot: [16, 16]}\n  sag:\n    cues: {4: thud}\n"},
    {"RemoveFromAFlowMap", {Kind::remove_cue, "walk", "1", "step", ""}, "{1: step, 4", "{4"},
    {"RemoveTheLastOfAFlowMap",
     {Kind::remove_cue, "walk", "4", "step", ""},
     "{1: step, 4: {step: {foot: right}}}",
     "{1: step}"},
    {"RemoveFromAFlowList", {Kind::remove_cue, "net", "3", "net_out", ""}, "[net_out, swish]", "[swish]"},
    {"RemoveALine", {Kind::remove_cue, "net", "0.22s", "creak", ""}, "      0.22s: creak\n", ""},
    {"RemoveFromABlockList", {Kind::remove_cue, "net", "5.end", "ready", ""}, "        - ready\n", ""},
    {"MoveWithFields",
     {Kind::move_cue, "walk", "4", "step", "5"},
     "4: {step: {foot: right}}",
     "5: {step: {foot: right}}"},
    {"MoveFromAList",
     {Kind::move_cue, "net", "5.end", "thud", "4"},
     "        - thud: {loud: true}\n",
     "      4: {thud: {loud: true}}\n"},
    {"Pivot", {Kind::set_pivot, "walk", "", "", "[20, 37.5]"}, "[22, 38]", "[20, 37.5]"},
    {"FirstPivot",
     {Kind::set_pivot, "net", "", "", "[20, 37]"},
     "spans: {trail: 2-4}\n",
     "spans: {trail: 2-4}\n    pivot: [20, 37]\n"},
    {"OffsetOfFrames",
     {Kind::set_offset, "walk", "2-3", "", "[1, 0]"},
     "# two steps\n",
     "# two steps\n    offsets: {2-3: [1, 0]}\n"},
    {"Span", {Kind::set_span, "net", "", "trail", "1-4"}, "2-4", "1-4"},
    {"SpanInTimes", {Kind::set_span, "net", "", "trail", "0.1s-0.3s"}, "2-4", "0.1s-0.3s"},
    {"FieldsOfASpan",
     {Kind::set_fields, "net", "", "trail", "{hue: 3}"},
     "{trail: 2-4}",
     "{trail: {frames: 2-4, hue: 3}}"},
    {"RemoveSpan", {Kind::remove_span, "net", "", "trail", ""}, "{trail: 2-4}", "{}"},
    {"Window", {Kind::set_window, "hover", "", "again", "4-5"}, "[16, 16]", "[16, 16], windows: {again: 4-5}"},
    {"FirstBox",
     {Kind::add_box, "hover", "", "", "{name: body, role: hurt, rect: [0, 0, 1, 1]}"},
     "[16, 16]",
     "[16, 16], boxes: [{name: body, role: hurt, rect: [0, 0, 1, 1]}]"},
    {"Airborne", {Kind::set_airborne, "hover", "", "", "true"}, "[16, 16]", "[16, 16], airborne: true"},
};
INSTANTIATE_TEST_SUITE_P(All, MarkEdits, testing::ValuesIn(kEdits),
                         [](const auto& row) { return std::string(row.param.name); });

TEST(MarkEditing, MakesWhatIsMissing) {
  const auto edited = [](const char* text, const MarkEdit& edit) {
    const auto out = edit_marks(text, edit);
    return out ? *out : out.error().message;
  };
  const MarkEdit edit{Kind::add_cue, "walk", "3", "step", ""};
  EXPECT_EQ(edited("", edit), "mobrin: 1\nmarks:\n  walk:\n    cues: {3: step}\n");
  EXPECT_EQ(edited("mobrin: 1\nmarks:   # none yet\n", edit),
            "mobrin: 1\nmarks:\n  walk:\n    cues: {3: step}   # none yet\n");
  EXPECT_EQ(edited("mobrin: 1\nmarks: {}", edit), "mobrin: 1\nmarks: {walk: {cues: {3: step}}}");
  EXPECT_EQ(edited("mobrin: 1\nmarks:\n  walk:\n    cues:\n", edit),
            "mobrin: 1\nmarks:\n  walk:\n    cues: {3: step}\n");
  EXPECT_EQ(edited("{\"mobrin\": 1, \"marks\": {\"walk\": {\"cues\": {\"1\": \"step\"}}}}", edit),
            "{\"mobrin\": 1, \"marks\": {\"walk\": {\"cues\": {\"1\": \"step\", \"3\": \"step\"}}}}");
}

TEST(MarkEditing, ABoxIsAddedToEitherKindOfList) {
  const MarkEdit edit{Kind::add_box, "walk", "", "", "{name: b, role: hit, frames: 2, rect: [0, 0, 1, 1]}"};
  const std::string head = "mobrin: 1\nmarks:\n  walk:\n    boxes:", one = "{name: a, role: hurt, circle: [0, 0, 1]}";
  for (const auto& [from, to] :
       {std::pair(" [" + one + "]   # one\n", " [" + one + ", " + edit.to + "]   # one\n"),
        std::pair("\n      - " + one + "  # one\n", "\n      - " + one + "  # one\n      - " + edit.to + "\n"),
        std::pair(std::string("\n"), " [" + edit.to + "]\n")}) {
    const auto edited = edit_marks(head + from, edit);
    ASSERT_TRUE(edited) << edited.error().message;
    EXPECT_EQ(*edited, head + to);
  }
}

TEST(MarkEditing, RefusesWhatItCannotDo) {
  const auto refused = [](const char* text, const MarkEdit& edit) { return edit_marks(text, edit).error().message; };
  EXPECT_EQ(refused(kFile, {Kind::add_cue, "walk", "1", "step", ""}), "the cue \"step\" is at 1 of \"walk\" already");
  EXPECT_EQ(refused(kFile, {Kind::remove_cue, "walk", "2", "step", ""}), "there is no cue \"step\" at 2 of \"walk\"");
  EXPECT_EQ(refused(kFile, {Kind::remove_window, "walk", "", "again", ""}), "\"walk\" has no window \"again\"");
  EXPECT_NE(refused("a: [", {Kind::add_cue, "walk", "1", "step", ""}).find("is not closed"), std::string::npos);
  const std::string by_hand =
      "the marks of \"walk\" are written in a way that cannot be edited here; edit the file by hand";
  EXPECT_EQ(refused("mobrin: 1\nmarks:\n  hop: &same {cues: {1: step}}\n  walk: *same\n",
                    {Kind::add_cue, "walk", "2", "step", ""}),
            by_hand);
  EXPECT_EQ(refused("marks: {walk: {cues: 5}}\n", {Kind::add_cue, "walk", "2", "step", ""}), by_hand);
  EXPECT_EQ(refused("marks:\n  \"\":\n    cues: 5\n", {Kind::add_cue, "", "2", "step", ""}),
            "an edit says whose marks it changes");
}

TEST(MarkEditing, WhateverTheTextNothingElseChanges) {
  // Random damage: an edit is refused, or the result differs in one place and can be taken back.
  std::mt19937 random(3);
  int made = 0;
  for (int i = 0; i < 4000; ++i) {
    std::string text = kFile;
    for (int k = 0; k <= i % 4; ++k) {
      const std::size_t at = random() % text.size();
      const char* const kNoise = "{}[]:,#\"' \n-*&a1";
      if (random() % 2 == 0)
        text[at] = kNoise[random() % 16];
      else
        text.insert(at, 1, kNoise[random() % 16]);
    }
    const auto added = edit_marks(text, {Kind::add_cue, "walk", "6", "swish", ""});
    if (!added) continue;
    ++made;
    const auto removed = edit_marks(*added, {Kind::remove_cue, "walk", "6", "swish", ""});
    ASSERT_TRUE(removed) << removed.error().message << "\n" << *added;
  }
  EXPECT_GT(made, 1000);
}

// --- as they are read -----------------------------------------------------------------------------------------------

TEST(Marks, BoxesAndOffsetsAreRead) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {pivot: [10, 20], offset: [1, 2], offsets: {2-3: [0.5, -1]}, "
      "boxes: [{name: head, role: hurt, frames: [0, 2-3], circle: [0, 25, 5]}, {name: body, role: body, rect: [-4, 0, "
      "8, "
      "20]}, {name: net, role: hit, frames: 100ms-250ms, rect: [4, 4, 9, 9]}]}}\nstates: {s: {clip: c}}");
  const ClipInfo& clip = machine.clips()[0];
  ASSERT_EQ(clip.marks.boxes.size(), 3u);
  EXPECT_EQ(clip.marks.boxes[0].stretches.size(), 2u);
  EXPECT_EQ(std::get<CircleShape>(clip.marks.boxes[0].shape).radius, 5);
  EXPECT_EQ(*clip.pivot_of(0), std::pair(9.0, 22.0));
  EXPECT_EQ(*clip.pivot_of(3), std::pair(8.5, 21.0));
  const StretchDef& timed = clip.marks.boxes[2].stretches[0];
  EXPECT_FALSE(clip.holds(timed, milliseconds(99), 0));
  EXPECT_TRUE(clip.holds(timed, milliseconds(100), 1));
  EXPECT_FALSE(clip.holds(timed, milliseconds(250), 2));
}

TEST(Marks, WrongBoxesAndOffsetsAreFound) {
  const auto found = [](const std::string& marks) {
    const std::string all =
        findings_of("clips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {" + marks + "}}\nstates: {s: {clip: c}}");
    return all.substr(std::min(all.size(), all.find("error: ")),
                      all.find('[', all.find("error: ")) - all.find("error: "));
  };
  EXPECT_EQ(found("boxes: [{name: a, role: hit, frames: 3-4, rect: [0, 0, 1, 1]}]"),
            "error: the box \"a\" reaches past the clip \"c\" ");
  EXPECT_EQ(found("boxes: [{name: a, role: hit, rect: [0, 0, 0, 1]}]"),
            "error: the box \"a\" has no size, or is out of range ");
  EXPECT_EQ(found("boxes: [{name: a, role: hit, circle: [0, 9000000, 1]}]"),
            "error: the box \"a\" has no size, or is out of range ");
  EXPECT_EQ(found("boxes: [{name: a, role: hit}]"), "error: the box \"a\" has no shape ");
  EXPECT_EQ(found("boxes: [{role: hit, rect: [0, 0, 1, 1]}]"), "error: the box has no `name:` ");
  EXPECT_EQ(found("boxes: [{name: a, role: hit, rect: [0, 0, 1, 1], circle: [0, 0, 1]}]"),
            "error: the box \"a\" has both `rect:` and `circle:` ");
  EXPECT_EQ(found("offsets: {4: [1, 0]}"), "error: the offset reaches past the clip \"c\" ");
  EXPECT_EQ(found("airborne: maybe").substr(0, 26), "error: `airborne:` is \"may");
}

}  // namespace
}  // namespace mobrin::test
