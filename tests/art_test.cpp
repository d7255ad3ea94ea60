// Findings about art: each usual mistake is told with its place, and what is right is not.
#include "mobrin/check/art.hpp"

#include <map>

#include "support.hpp"

namespace mobrin::test {
namespace {

// Pictures of 2 x 2 pixels by their cell: each a colour of its own, but 4 like 3, 5 like 0, and 9 with nothing on it.
class Pictures2 {
 public:
  std::optional<FramePixels> operator()(const FrameArt& art) {
    if (art.source != "a.png") return std::nullopt;
    int cell = std::stoi(art.tile);
    const bool nothing = cell == 9;
    cell = cell == 4 ? 3 : cell == 5 ? 0 : cell;
    auto& pixels = cells_[std::stoi(art.tile)];
    // Behind alpha 0 the colours differ; they do not count.
    pixels.assign(16, static_cast<std::uint8_t>(nothing ? std::stoi(art.tile) : 20 * cell + 5));
    for (std::size_t at = 3; at < 16; at += 4) pixels[at] = nothing || at == 15 ? 0 : 255;
    pixels[12] = static_cast<std::uint8_t>(std::stoi(art.tile));
    const std::int32_t width = cell == 8 ? 1 : 2;
    return FramePixels{pixels.data(), width, 2, 2};
  }

 private:
  std::map<int, std::vector<std::uint8_t>> cells_;
};

struct Mistake {
  const char* name;
  const char* clip;      // after `c: {sheet: a.png, tile: [2, 2], `
  const char* findings;  // after the place and `the clip "c" `
};

class ArtFindings : public testing::TestWithParam<Mistake> {};

TEST_P(ArtFindings, AreToldWithPlaceAndRemedy) {
  const Machine machine = machine_of(std::string("clips: {c: {sheet: a.png, tile: [2, 2], ") + GetParam().clip +
                                     "}}\nstates: {s: {clip: c}}");
  const std::string told = joined(art_findings(machine, Pictures2()));
  const std::string place = "m.yaml:3:9: warning: the clip \"c\" ";
  EXPECT_EQ(told, *GetParam().findings == '\0' ? "" : place + GetParam().findings);
}

const Mistake kMistakes[] = {
    {"NoneInASoundLoop", "frames: [0-3], fps: 8, play: loop", ""},
    {"NoneInAPlayThatEndsAsItBegan", "frames: [0, 1, 2, 5], fps: 8", ""},
    {"LoopSeam", "frames: [0, 1, 2, 5], fps: 8, play: loop",
     "loops, and its last frame is its first again: it stops there for a frame [loop-seam]\n    Leave the last frame "
     "out of "
     "`frames:`.\n"},
    {"EqualNeighbours", "frames: [2, 3*2, 4], fps: 8",
     "shows the same picture in the frames 1 and 2 [equal-neighbours]\n    Hold one of them longer instead: `3*3`; the "
     "numbers of later frames then change.\n"},
    {"AllTheSame", "frames: [0, 5, 0], fps: 8",
     "shows the same picture in all its frames [same-picture]\n    Use `pose:` for a picture that stands still, or "
     "check the "
     "numbers of `frames:`.\n"},
    {"EmptyFrame", "frames: [0, 9, 1], fps: 8",
     "shows nothing in frame 1 [empty-frame]\n    Draw it, or leave it out of `frames:`.\n"},
    {"EmptyFramesAreOne", "frames: [0, 9, 9, 1, 9, 9, 9, 2, 9], fps: 8",
     "shows nothing in the frames 1-2, 4-6, 8 [empty-frame]\n    Draw them, or leave them out of `frames:`.\n"},
    {"EmptyAtBothEndsOfALoop", "frames: [9, 0, 1, 9], fps: 8, play: loop",
     "shows nothing in the frames 0, 3 [empty-frame]\n    Draw them, or leave them out of `frames:`.\n"},
    {"NothingAtAll", "frames: [9, 9], fps: 8",
     "shows nothing in the frames 0-1 [empty-frame]\n    Draw them, or leave them out of `frames:`.\n"},
    {"MixedSizes", "frames: [0, 1, 8], fps: 8",
     "has a frame 2 of 1 x 2 pixels; frame 0 has 2 x 2 [mixed-sizes]\n    Give all frames of a clip one size, or it "
     "will "
     "jump.\n"},
    {"AbsurdRate", "frames: [0-3], fps: 60",
     "shows 4 frames at 60 a second: it is over before it is seen [absurd-rate]\n    Frames a second of drawn art are "
     "5 to "
     "30; `fps:` is not the game's rate.\n"},
    {"HeldFramesAreNoAbsurdRate", "frames: [0*6, 1*6, 2*6], fps: 60", ""},
};

std::string name_of_mistake(const testing::TestParamInfo<Mistake>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, ArtFindings, testing::ValuesIn(kMistakes), name_of_mistake);

TEST(ArtFindingsOfAMachine, CuesOnAClipThatNoStatePlays) {
  const Machine machine = machine_of(
      "cues: {step: {}}\nclips: {a: {frames: [0-3], fps: 8}, b: {frames: [0-3], fps: 8}, c: {frames: [0-3], fps: "
      "8}}\nmarks: {a: "
      "{cues: {1: step}}, b: {cues: {1: step}}}\ninitial: s\nstates: {s: {clip: [a, c], go: [{at: end, to: t}]}, t: "
      "{}}");
  const auto nothing = [](const FrameArt&) { return std::optional<FramePixels>(); };
  EXPECT_EQ(joined(art_findings(machine, nothing)),
            "m.yaml:4:37: warning: the clip \"b\" has cues, but no state plays it [unreached-cue]\n    Play it in a "
            "state, or "
            "take its marks out of the machine's files.\n");
}

// Figures of 6 x 10 pixels on frames of 40 x 40; the cell's number says where: 100 * left + top.
std::optional<FramePixels> figure(const FrameArt& art) {
  const int left = std::stoi(art.tile) / 100, top = std::stoi(art.tile) % 100;
  const auto pixels = std::make_shared<std::vector<std::uint8_t>>(40 * 40 * 4);
  if (art.tile == "9999") return FramePixels{pixels->data(), 40, 40, 40, pixels};
  for (int y = top; y < top + 10; ++y)
    for (int x = left; x < left + 6; ++x) (*pixels)[static_cast<std::size_t>(4 * (40 * y + x) + 3)] = 255;
  return FramePixels{pixels->data(), 40, 40, 40, pixels};
}
std::string jumps(const std::string& clips, const std::string& marks) {
  const Machine machine = machine_of("clips:\n" + clips + "marks: {" + marks + "}\nstates: {s: {clip: a}}");
  std::string out;
  for (const Finding& finding : art_findings(machine, figure))
    out += finding.message + " [" + std::string(text_of(finding.code)) + "]\n";
  return out;
}
std::string clip_at(const char* name, const char* cells) {
  return std::string("  ") + name + ": {sheet: a.png, tile: [40, 40], fps: 8, frames: " + cells + "}\n";
}

// Those that are as if y went down or the pivot were the picture's corner; of what is on it for one frame, nothing.
TEST(BoxesBesideTheirPicture, AreTold) {
  const std::string clips = clip_at("a", "[1720, 1721, 1722]");
  const auto told = [&](const std::string& boxes) {
    return jumps(clips, "a: {pivot: [20, 30], offsets: {2: [30, 0]}, boxes: [" + boxes + "]}");
  };
  EXPECT_EQ(told("{name: b, role: hurt, rect: [-5, -30, 10, 20]}"),
            "the clip \"a\" has a box \"b\" that lies below its picture [hardly-meant]\n");
  EXPECT_EQ(told("{name: b, role: hurt, circle: [0, 36, 6]}, {name: c, role: hit, frames: 0-1, rect: [20, 5, 10, 10]}"),
            "the clip \"a\" has a box \"b\" that lies above its picture [hardly-meant]\n"
            "the clip \"a\" has a box \"c\" that lies in front of its picture [hardly-meant]\n");
  EXPECT_EQ(told("{name: b, role: hit, frames: 1, rect: [-40, 0, 20, 10]}"),
            "the clip \"a\" has a box \"b\" that lies behind its picture [hardly-meant]\n");
  EXPECT_EQ(told("{name: b, role: body, rect: [-5, -29, 10, 20]}, {name: c, role: hit, rect: [20, 5, 10, 10]}"), "");
  EXPECT_EQ(jumps(clips, "a: {boxes: [{name: b, role: hurt, rect: [-5, -30, 10, 20]}]}"), "") << "no pivot, no place";
}

// What is hit is drawn: a box over nothing in all its frames stands where nobody is. What hits need not be drawn.
TEST(BoxesBesideTheirPicture, WhatIsHitIsDrawn) {
  const std::string clips = clip_at("a", "[1720, 1721, 2920]");
  const auto told = [&](const std::string& box) { return jumps(clips, "a: {pivot: [20, 30], boxes: [" + box + "]}"); };
  const std::string off =
      "the clip \"a\" has a box \"b\" that lies beside all that is drawn in its picture [hardly-meant]\n";
  EXPECT_EQ(told("{name: b, role: hurt, rect: [-20, 0, 16, 10]}"), off);
  EXPECT_EQ(told("{name: b, role: hurt, circle: [0, 20, 8]}"), off);
  EXPECT_EQ(told("{name: b, role: hurt, frames: 0-1, rect: [5, 0, 10, 10]}"), off);
  EXPECT_EQ(told("{name: b, role: hurt, frames: 0-2, rect: [5, 0, 10, 10]}"), "") << "in its last frame it is on it";
  EXPECT_EQ(told("{name: b, role: hit, rect: [-20, 0, 16, 10]}"), "");
  EXPECT_EQ(told("{name: b, role: hurt, rect: [-3.5, 0, 1, 10]}"), "") << "a part of a pixel";
}

// The cells of figure(), moved by so much in a look; 9999 of a look shows nothing.
TEST(Looks, StandWhereTheirPicturesDo) {
  const auto told = [](int right, int down, bool nothing = false) {
    const Machine machine = machine_of("inputs: {weak: false}\nclips:\n" + clip_at("a", "[1710, 1712, 1811, 1710]") +
                                       "looks: {pale: {when: weak, art: {a.png: b.png}}}\nstates: {s: {clip: a}}");
    std::string out;
    for (const Finding& finding : art_findings(machine, [&](const FrameArt& art) {
           FrameArt moved = art;
           if (art.source == "b.png")
             moved.tile = nothing ? "9999" : std::to_string(std::stoi(art.tile) + 100 * right + down);
           return figure(moved);
         }))
      if (finding.code == FindingCode::look_misfit) out += finding.message;
    return out;
  };
  EXPECT_EQ(told(3, 0), "the look \"pale\": what b.png shows stands 3 pixels further right than in a.png");
  EXPECT_EQ(told(-2, 4),
            "the look \"pale\": what b.png shows stands 2 pixels further left and 4 pixels lower than in a.png");
  EXPECT_EQ(told(1, 0), "") << "hardly seen";
  EXPECT_EQ(told(0, 0), "the look \"pale\": b.png shows the same as a.png");
  EXPECT_EQ(told(0, 0, true), "the look \"pale\": b.png shows nothing in 4 frames where a.png shows something");
}

TEST(JumpsBetweenClips, AGroundLineThatIsOffIsTold) {
  // Feet at row 30: two clips agree, the third stands five rows higher; marks or a pivot make it right.
  const std::string clips = clip_at("a", "[1720, 1719]") + clip_at("b", "[1720]") + clip_at("c", "[1715, 1714]");
  const std::string pivots = "a: {pivot: [20, 30]}, b: {pivot: [20, 30]}, ";
  EXPECT_EQ(jumps(clips, pivots + "c: {pivot: [20, 30]}"),
            "the clip \"c\" stands 5 pixels higher than most clips of the machine [ground-jump]\n");
  EXPECT_EQ(jumps(clips, pivots + "c: {pivot: [20, 25]}"), "");
  EXPECT_EQ(jumps(clips, pivots + "c: {pivot: [20, 30], offset: [0, -5]}"), "");
  EXPECT_EQ(jumps(clips, pivots + "c: {pivot: [20, 30], airborne: true}"), "");
  EXPECT_EQ(jumps(clips, ""), "the clip \"c\" stands 5 pixels higher than most clips of the machine [ground-jump]\n");
  // Pivots in the body's middle, as of what flies, are no ground.
  EXPECT_EQ(jumps(clips, "a: {pivot: [20, 15]}, b: {pivot: [20, 15]}, c: {pivot: [20, 15]}"), "");
  // One of two.
  EXPECT_EQ(jumps(clip_at("a", "[1720]") + clip_at("b", "[1723]"), "a: {pivot: [20, 30]}, b: {pivot: [20, 30]}"),
            "the clip \"b\" stands 3 pixels lower than most clips of the machine [ground-jump]\n");
}

TEST(JumpsBetweenClips, OffsetsMoveAPivot) {
  const std::string clips = clip_at("a", "[1720, 1719]");
  EXPECT_EQ(jumps(clips, "a: {offsets: {1: [0, -1]}}"),
            "the clip \"a\" has offsets, which move its pivot, and no pivot: they do nothing [pivot-missing]\n");
  EXPECT_EQ(jumps(clips, "a: {offset: [2, 0]}"),
            "the clip \"a\" has offsets, which move its pivot, and no pivot: they do nothing [pivot-missing]\n");
  EXPECT_EQ(jumps(clips, "a: {pivot: [20, 30], offset: [2, 0], offsets: {1: [0, -1]}}"), "");
}

TEST(JumpsBetweenClips, APivotThatIsOffOrMissingIsTold) {
  const std::string clips = clip_at("a", "[1720]") + clip_at("b", "[1720]") + clip_at("c", "[2520]");
  EXPECT_EQ(jumps(clips, "a: {pivot: [20, 30]}, b: {pivot: [20, 30]}, c: {pivot: [20, 30]}"),
            "the clip \"c\" begins 8 pixels further forward than most clips of the machine [pivot-jump]\n");
  EXPECT_EQ(jumps(clips, "a: {pivot: [20, 30]}, b: {pivot: [20, 30]}, c: {pivot: [28, 30]}"), "");
  EXPECT_EQ(jumps(clips, "a: {pivot: [20, 30]}, b: {pivot: [20, 30]}"),
            "the clip \"c\" has no pivot; other clips of the machine have one [pivot-missing]\n");
}

}  // namespace
}  // namespace mobrin::test
