// Edits of boxes by index, of a cue's fields, of rates, play modes and holds: one place changes, nothing else.
#include "mobrin/io/clip_edit.hpp"

#include <random>

#include "mobrin/io/marks_edit.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

const char* const kClips =
    "# Made by hand.\n"
    "mobrin: 1\n"
    "clips:\n"
    "  walk: {frames: [8-13], fps: 12, play: loop}   # feet\n"
    "  net:\n"
    "    frames: [16, 17, 18, 19*3, 20, 21]   # the blow\n"
    "    fps: 20\n"
    "  down: {frames: [5-2], fps: 6}\n"
    "  list:\n"
    "    fps: 8\n"
    "    frames:\n"
    "      - 1\n"
    "      - 4-6*2   # slow\n"
    "      - 9\n"
    "  one: {frames: 3, fps: 5}\n"
    "  own: {images: [a.png, b.png], times: [60ms, 80ms]}\n";

struct ClipRow {
  const char* name;
  ClipEdit edit;
  const char* from;
  const char* to;
};

using ClipKind = ClipEdit::Kind;
const ClipRow kClipRows[] = {
    {"ARate", {ClipKind::rate, "walk", 0, "14"}, "fps: 12", "fps: 14"},
    {"AFraction", {ClipKind::rate, "net", 0, "30000/1001"}, "fps: 20", "fps: 30000/1001"},
    {"APlayMode", {ClipKind::play, "walk", 0, "loop x3"}, "play: loop}", "play: loop x3}"},
    {"APlayModeThatWasNotThere", {ClipKind::play, "net", 0, "loop"}, "    fps: 20\n", "    fps: 20\n    play: loop\n"},
    {"AHoldInTheMiddleOfARange", {ClipKind::hold, "walk", 2, "3"}, "[8-13]", "[8-9, 10*3, 11-13]"},
    {"AHoldAtItsBegin", {ClipKind::hold, "walk", 0, "2"}, "[8-13]", "[8*2, 9-13]"},
    {"AHoldAtItsEnd", {ClipKind::hold, "walk", 5, "2"}, "[8-13]", "[8-12, 13*2]"},
    {"AHoldOfOne", {ClipKind::hold, "net", 1, "4"}, "16, 17,", "16, 17*4,"},
    {"NoHoldAnyMore", {ClipKind::hold, "net", 3, "1"}, "19*3", "19"},
    {"InARangeThatRunsBack", {ClipKind::hold, "down", 1, "2"}, "[5-2]", "[5, 4*2, 3-2]"},
    {"InARangeThatIsHeld",
     {ClipKind::hold, "list", 2, "5"},
     "      - 4-6*2   # slow\n",
     "      - 4*2   # slow\n      - 5*5\n      - 6*2\n"},
    {"OfOneFrameAlone", {ClipKind::hold, "one", 0, "2"}, "frames: 3", "frames: [3*2]"},
};

class ClipEdits : public testing::TestWithParam<ClipRow> {};
TEST_P(ClipEdits, ChangeOnePlaceAndNothingElse) {
  std::string expected = kClips;
  expected.replace(expected.find(GetParam().from), std::string(GetParam().from).size(), GetParam().to);
  const auto edited = edit_clip(kClips, GetParam().edit);
  ASSERT_TRUE(edited) << edited.error().message;
  EXPECT_EQ(*edited, expected);
}
INSTANTIATE_TEST_SUITE_P(All, ClipEdits, testing::ValuesIn(kClipRows),
                         [](const auto& row) { return std::string(row.param.name); });

TEST(ClipEdit, SaysWhyItCannot) {
  const auto refused = [](const ClipEdit& edit) {
    const auto out = edit_clip(kClips, edit);
    return out ? std::string("done") : out.error().message;
  };
  EXPECT_EQ(refused({ClipKind::rate, "wlak", 0, "3"}), "this file has no clip \"wlak\"");
  EXPECT_EQ(refused({ClipKind::hold, "walk", 6, "2"}), "\"walk\" has no frame 6 that can be held here");
  EXPECT_EQ(refused({ClipKind::hold, "walk", 1, "0"}), "a frame is held for 1 to 1000 frame times, not 0");
  EXPECT_EQ(refused({ClipKind::hold, "own", 1, "2"}),
            "the frames of \"own\" have times of their own; edit them in `times:`");
  EXPECT_EQ(refused({ClipKind::rate, "own", 0, "9"}),
            "the frames of \"own\" have times of their own, so it has no rate");
  EXPECT_FALSE(edit_clip("clips: [", {ClipKind::rate, "walk", 0, "3"}));
  EXPECT_FALSE(edit_clip("", {ClipKind::rate, "walk", 0, "3"}));
}

// Random holds of random lists of frames: each frame shows the picture that it showed, for as long as was said.
TEST(ClipEdit, KeepsEveryPicture) {
  std::mt19937 random(11);
  const auto pick = [&](int from, int to) {
    return from + static_cast<int>(random() % static_cast<unsigned>(to - from + 1));
  };
  for (int seed = 0; seed < 300; ++seed) {
    std::string items;
    for (int i = pick(1, 4); i > 0; --i) {
      const int first = pick(0, 30);
      items += (items.empty() ? "" : ", ") + std::to_string(first);
      if (pick(0, 1) == 1) items += "-" + std::to_string(pick(0, 30));
      if (pick(0, 2) == 0) items += "*" + std::to_string(pick(2, 4));
    }
    const std::string head =
        "mobrin: 1\nmachine: m\nstates: {s: {clip: c}}\nclips: {c: {sheet: a.png, tile: [8, 8], fps: 10, frames: [";
    std::string text = head + items + "]}}\n";
    const auto frames_of = [](const std::string& of) {
      const Loaded loaded = load_character_text(of, "m.yaml");
      EXPECT_TRUE(loaded.machine) << joined(loaded.findings) << of;
      std::vector<std::pair<std::string, int>> out;
      if (loaded.machine)
        for (const FrameDef& frame : loaded.machine->clips()[0].def.frames)
          out.emplace_back(frame.art.tile, frame.hold);
      return out;
    };
    auto expected = frames_of(text);
    for (int edits = 0; edits < 4; ++edits) {
      const auto frame = static_cast<std::size_t>(pick(0, static_cast<int>(expected.size()) - 1));
      const int hold = pick(1, 5);
      const auto edited = edit_clip(text, {ClipKind::hold, "c", frame, std::to_string(hold)});
      if (expected[frame].second == hold && !edited) continue;  // as it was
      ASSERT_TRUE(edited) << edited.error().message << " " << text;
      text = *edited;
      expected[frame].second = hold;
      ASSERT_EQ(frames_of(text), expected) << text;
    }
  }
}

// --- boxes and fields -----------------------------------------------------------------------------------------------

const char* const kBoxes =
    "mobrin: 1\n"
    "marks:\n"
    "  net:   # the swing\n"
    "    cues:\n"
    "      2: swish\n"
    "      3: [net_out, {step: {foot: left}}]   # here\n"
    "      5.end: {thud: {loud: true}, ready: {}}\n"
    "    boxes:\n"
    "      - {name: net, role: hit,   frames: 3-4, rect: [8, 8, 17, 10]}   # both\n"
    "      - name: body   # all\n"
    "        role: hurt\n"
    "        rect: [-6, 0, 12, 26]\n"
    "  walk:\n"
    "    boxes: {name: body, role: hurt, circle: [0, 9, 5]}\n";

struct BoxRow {
  const char* name;
  MarkEdit edit;
  const char* from;
  const char* to;
};
using MarkKind = MarkEdit::Kind;
const BoxRow kBoxRows[] = {
    {"ARect", {MarkKind::set_box, "net", "", "rect", "[9, 8, 17, 10]", 0}, "[8, 8, 17, 10]", "[9, 8, 17, 10]"},
    {"ARectInABlock", {MarkKind::set_box, "net", "", "rect", "[-5, 0, 9, 9]", 1}, "[-6, 0, 12, 26]", "[-5, 0, 9, 9]"},
    {"ACircleOfARect",
     {MarkKind::set_box, "net", "", "circle", "[1, 2, 3]", 0},
     "rect: [8, 8, 17, 10]",
     "circle: [1, 2, 3]"},
    {"ItsFrames", {MarkKind::set_box, "net", "", "frames", "[1, 3-4]", 0}, "frames: 3-4", "frames: [1, 3-4]"},
    {"FramesOfABlock",
     {MarkKind::set_box, "net", "", "frames", "2", 1},
     "        rect: [-6, 0, 12, 26]\n",
     "        rect: [-6, 0, 12, 26]\n        frames: 2\n"},
    {"NoFramesAnyMore", {MarkKind::set_box, "net", "", "frames", "", 0}, "frames: 3-4, ", ""},
    {"ItsRole", {MarkKind::set_box, "net", "", "role", "grab", 0}, "role: hit", "role: grab"},
    {"WhomItHits", {MarkKind::set_box, "net", "", "hits", "[hornet]", 0}, "17, 10]}", "17, 10], hits: [hornet]}"},
    {"OneWithoutAList", {MarkKind::set_box, "walk", "", "circle", "[0, 9, 6]", 0}, "[0, 9, 5]", "[0, 9, 6]"},
    {"OneDropped",
     {MarkKind::drop_box, "net", "", "", "", 0},
     "      - {name: net, role: hit,   frames: 3-4, rect: [8, 8, 17, 10]}   # both\n",
     ""},
    {"OneSplit",
     {MarkKind::split_box, "net", "3", "4", "[1, 1, 2, 2]", 0},
     "      - {name: net, role: hit,   frames: 3-4, rect: [8, 8, 17, 10]}   # both\n",
     "      - {name: net, role: hit, frames: 4, rect: [8, 8, 17, 10]}   # both\n"
     "      - {name: net, role: hit, frames: 3, rect: [1, 1, 2, 2]}\n"},
    {"OneSplitThatHasNoList",
     {MarkKind::split_box, "walk", "2", "[0-1, 3]", "[0, 9, 6]", 0},
     "{name: body, role: hurt, circle: [0, 9, 5]}",
     "[{name: body, role: hurt, circle: [0, 9, 5], frames: [0-1, 3]}, {name: body, role: hurt, frames: 2, circle: [0, "
     "9, 6]}]"},
    {"FieldsOfACue",
     {MarkKind::set_fields, "net", "2", "swish", "{loud: true}"},
     "2: swish",
     "2: {swish: {loud: true}}"},
    {"FieldsInAList",
     {MarkKind::set_fields, "net", "3", "net_out", "{amount: 3}"},
     "[net_out,",
     "[{net_out: {amount: 3}},"},
    {"OtherFieldsInAList",
     {MarkKind::set_fields, "net", "3", "step", "{foot: right}"},
     "{foot: left}",
     "{foot: right}"},
    {"NoFieldsInAList", {MarkKind::set_fields, "net", "3", "step", "{}"}, "{step: {foot: left}}", "step"},
    {"FieldsInAMapOfCues", {MarkKind::set_fields, "net", "5.end", "ready", "{now: 1}"}, "ready: {}", "ready: {now: 1}"},
};

class BoxEdits : public testing::TestWithParam<BoxRow> {};
TEST_P(BoxEdits, ChangeOnePlaceAndNothingElse) {
  std::string expected = kBoxes;
  expected.replace(expected.find(GetParam().from), std::string(GetParam().from).size(), GetParam().to);
  const auto edited = edit_marks(kBoxes, GetParam().edit);
  ASSERT_TRUE(edited) << edited.error().message;
  EXPECT_EQ(*edited, expected);
}
INSTANTIATE_TEST_SUITE_P(All, BoxEdits, testing::ValuesIn(kBoxRows),
                         [](const auto& row) { return std::string(row.param.name); });

TEST(BoxEdit, SaysWhyItCannot) {
  const auto refused = [](const MarkEdit& edit) {
    const auto out = edit_marks(kBoxes, edit);
    return out ? std::string("done") : out.error().message;
  };
  EXPECT_EQ(refused({MarkKind::set_box, "net", "", "rect", "[1, 1, 1, 1]", 7}), "\"net\" has no box number 7");
  EXPECT_EQ(refused({MarkKind::drop_box, "hurt", "", "", "", 0}), "\"hurt\" has no box number 0");
  EXPECT_EQ(refused({MarkKind::set_fields, "net", "4", "swish", "{}"}), "there is no cue \"swish\" at 4 of \"net\"");
  EXPECT_EQ(refused({MarkKind::set_fields, "net", "2", "swosh", "{}"}), "there is no cue \"swosh\" at 2 of \"net\"");
  EXPECT_NE(refused({MarkKind::set_box, "net", "", "rect", "[1, 1", 0}), "done") << "what is no YAML any more";
}

TEST(CopiedMarks, StandBesideWhatIsThere) {
  const std::string head = "mobrin: 1\ncharacter: c\nmachine: m.yaml\n";
  const std::string net =
      "cues: {2: swish, 3: [net_out, {step: {foot: left}}], 5.end: {thud: {loud: true}, ready: {}}}";
  const std::string boxes =
      "boxes: [{name: net, role: hit, frames: 3-4, rect: [8, 8, 17, 10]}, {name: body, role: hurt, rect: [-6, 0, 12, "
      "26]}]";
  const auto copied = [](const std::string& into, const std::string& clip) {
    const auto out = copy_marks(kBoxes, into, clip);
    return out ? *out : "error: " + out.error().message;
  };
  EXPECT_EQ(copied(head, "net"), head + "marks:\n  net:\n    " + net + "\n    " + boxes + "\n");
  EXPECT_EQ(copied(head + "marks:\n    hover: {pivot: [1, 2]}   # mine\n", "walk"),
            head +
                "marks:\n    hover: {pivot: [1, 2]}   # mine\n    walk:\n      boxes: {name: body, role: hurt, circle: "
                "[0, 9, 5]}\n");
  EXPECT_EQ(copied(head + "marks: {hover: {pivot: [1, 2]}}\n", "walk"),
            head + "marks: {hover: {pivot: [1, 2]}, walk: {boxes: {name: body, role: hurt, circle: [0, 9, 5]}}}\n");
  EXPECT_EQ(copied(head, "hover"), "error: \"hover\" has no marks");
  EXPECT_EQ(copied(head + "marks: {walk: {}}\n", "walk"), "error: \"walk\" has marks of its own already");
}

TEST(MarkEditKinds, HaveNames) {
  EXPECT_EQ(mark_edit_kind("split_box"), MarkKind::split_box);
  EXPECT_FALSE(mark_edit_kind("paint"));
}

}  // namespace
}  // namespace mobrin::test
