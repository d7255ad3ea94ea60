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

}  // namespace
}  // namespace mobrin::test
