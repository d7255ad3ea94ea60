// Clips: frames, borders, holds, play modes, where frames come from.
#include "support.hpp"

namespace mobrin::test {
namespace {

Machine with_clip(const std::string& clip, const std::string& more = "") {
  return machine_of(more + "clips: {c: " + clip + "}\nstates: {s: {clip: c}}\n");
}

std::vector<std::int64_t> borders_of(const ClipInfo& clip) {
  std::vector<std::int64_t> out;
  for (const Ticks border : clip.borders) out.push_back(border.count);
  return out;
}

TEST(Clips, BordersAreExactSumsRoundedDownOnce) {
  // 11 fps: a frame is 64145454.54... ticks; rounding each frame would lose half a tick a frame.
  const Machine machine = with_clip("{frames: [0-10], fps: 11}");
  const ClipInfo& clip = machine.clips()[0];
  for (std::int64_t k = 0; k <= 11; ++k)
    EXPECT_EQ(clip.borders[static_cast<std::size_t>(k)].count, k * kTicksPerSecond / 11);
  EXPECT_EQ(clip.length.count, kTicksPerSecond);
}

TEST(Clips, FractionsOfARateAreExact) {
  EXPECT_EQ(with_clip("{frames: [0-29], fps: 30000/1001}").clips()[0].length.count,
            30 * kTicksPerSecond * 1001 / 30000);
  EXPECT_EQ(with_clip("{frames: [0-4], fps: 12.5}").clips()[0].length.count, kTicksPerSecond * 4 / 10);
}

TEST(Clips, HoldsRangesAndTimes) {
  EXPECT_EQ(borders_of(with_clip("{frames: [0, 2-4, 7*3], fps: 10}").clips()[0]),
            (std::vector<std::int64_t>{0, 70560000, 141120000, 211680000, 282240000, 493920000}));
  EXPECT_EQ(borders_of(with_clip("{frames: [0-2], times: [60ms, 60ms, 120ms]}").clips()[0]),
            (std::vector<std::int64_t>{0, 42336000, 84672000, 169344000}));
  const Machine down = with_clip("{frames: [3-1], fps: 10}");
  EXPECT_EQ(down.clips()[0].def.frames[0].art.tile, "3");
  EXPECT_EQ(down.clips()[0].def.frames[2].art.tile, "1");
}

TEST(Clips, FrameAtAnyTime) {
  const Machine machine = with_clip("{frames: [0, 1*3, 2], fps: 10}");
  const ClipInfo& clip = machine.clips()[0];
  for (const auto& [at, frame] :
       std::vector<std::pair<int, int>>{{-5, 0}, {0, 0}, {99, 0}, {100, 1}, {399, 1}, {400, 2}, {500, 2}, {9000, 2}})
    EXPECT_EQ(clip.frame_at(milliseconds(at)), frame) << at;
}

TEST(Clips, FramesComeFromImagesRectanglesAndParts) {
  const Machine machine = machine_of(R"(
sheets:
  parts: {image: parts.png, rects: {bow_1: [0, 0, 20, 30], bow_2: [20, 0, 22, 30]}}
clips:
  hop: {images: [a.png, b.png, c.png], frames: [0, 2*2], fps: 10}
  bow: {sheet: parts, frames: [bow_1, bow_2*2], fps: 10}
  long: {frames: [10, 11*2, 12, 13, 14], fps: 10}
  piece: {part: {of: long, frames: [1-2, 4*2]}, play: loop}
  fast: {part: {of: piece, frames: [0]}, fps: 100}
  take: {length: 2s}
  cut: {part: {of: take, from: 500ms, to: 1250ms}}
states: {s: {clip: hop}}
)");
  const auto clips = machine.clips();
  EXPECT_EQ(clips[0].def.frames[1].art.source, "c.png");
  EXPECT_EQ(clips[1].def.frames[1].art.rect.x, 20);
  EXPECT_EQ(clips[1].def.frames[1].art.tile, "bow_2");
  EXPECT_EQ(clips[3].def.frames.size(), 3u);
  EXPECT_EQ(clips[3].length.count, kTicksPerSecond / 2);  // holds 2, 1 and 2
  EXPECT_EQ(clips[4].length.count, kTicksPerSecond / 50);
  EXPECT_EQ(clips[6].length.count, kTicksPerSecond * 3 / 4);
}

TEST(Clips, OneFrameOnceDoesEnd) {
  const Machine machine = machine_of(
      "clips: {c: {frames: [0], fps: 10}}\ninitial: a\nstates: {a: {clip: c, go: [{at: end, to: b}]}, b: {}}");
  EXPECT_EQ(text_of(log_of(machine, {}, milliseconds(300))), "0 enter a\n100 leave a\n100 enter b\n");
}

struct PlayRow {
  const char* play;
  const char* speed;
  const char* shown;  // frame shown every 100 ms from 50 ms on, for 1.2 s; frames 0 to 3 last 100 ms each
  const char* loops;  // loop moments and the end
};

class PlayTable : public testing::TestWithParam<PlayRow> {};

TEST_P(PlayTable, ShowsTheseFrames) {
  const PlayRow& row = GetParam();
  const Machine machine =
      machine_of(std::string("clips: {c: {frames: [0-3], fps: 10, play: ") + row.play + "}}\ninputs: {v: " + row.speed +
                 "}\ninitial: s\nstates: {s: {clip: c, speed: v, go: [{at: end, when: not in(e), to: e}]}, e: {}}");
  Instance instance(machine);
  std::string shown, loops;
  for (int i = 0; i < 12; ++i) {
    for (const int part : {50, 50}) {
      instance.advance(
          milliseconds(part),
          [&](const Cue& cue) { loops += cue.what == Told::loop || cue.what == Told::leave ? line(cue) + ";" : ""; },
          kAllRecords);
      if (i * 100 + part == i * 100 + 50 && shown.size() == static_cast<std::size_t>(i))
        shown += instance.shown().nothing() ? "." : std::to_string(instance.shown().frame);
    }
  }
  EXPECT_EQ(shown, row.shown);
  EXPECT_EQ(loops, row.loops);
}

INSTANTIATE_TEST_SUITE_P(
    All, PlayTable,
    testing::Values(PlayRow{"once", "1.0", "0123........", "400 leave s;"},
                    PlayRow{"once", "-1.0", "3210........", "400 leave s;"},
                    PlayRow{"loop", "1.0", "012301230123", "400 loop s;800 loop s;1200 loop s;"},
                    PlayRow{"loop", "-1.0", "321032103210", "400 loop s;800 loop s;1200 loop s;"},
                    PlayRow{"loop x3", "2.0", "131313......", "200 loop s;400 loop s;600 leave s;"},
                    PlayRow{"back-and-forth", "1.0", "012321012321", "600 loop s;1200 loop s;"},
                    PlayRow{"back-and-forth", "-1.0", "123210123210", "600 loop s;1200 loop s;"},
                    PlayRow{"back-and-forth x1", "1.0", "012321......", "600 leave s;"},
                    PlayRow{"loop", "0.0", "000000000000", ""}, PlayRow{"loop", "0.5", "001122330011", "800 loop s;"}));

TEST(Clips, PlayModesReadAsWritten) {
  for (const char* play : {"once", "loop", "loop x3", "back-and-forth", "back-and-forth x2"})
    EXPECT_EQ(with_clip(std::string("{frames: [0-3], fps: 10, play: ") + play + "}").clips()[0].def.play.text(), play);
  EXPECT_EQ(with_clip("{frames: [0-3], fps: 10, play: back-and-forth}").clips()[0].cycle.count,
            kTicksPerSecond * 6 / 10);
}

}  // namespace
}  // namespace mobrin::test
