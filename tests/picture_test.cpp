// Images and sheets: what is read, what is refused, what is drawn.
#include <cstdint>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <random>

#include "mobrin/draw/run.hpp"
#include "mobrin/draw/scene.hpp"
#include "mobrin/draw/sheet.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/image.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

class Pictures : public testing::Test {
 protected:
  Pictures() { std::filesystem::create_directories(folder); }
  ~Pictures() override { std::filesystem::remove_all(folder); }
  [[nodiscard]] std::string path(const std::string& name) const { return (folder / name).string(); }
  void write(const std::string& name, const std::string& bytes) const {
    std::ofstream(path(name), std::ios::binary) << bytes;
  }
  static std::string bytes_of(const std::string& file) {
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
  }
  // How many pixels of a picture have this colour, give or take the rounding of one.
  static bool near(int a, int b) { return a - b <= 1 && b - a <= 1; }
  static int count(const Image& image, int red, int green, int blue) {
    int found = 0;
    for (std::size_t i = 0; i < image.rgba.size(); i += 4)
      if (near(image.rgba[i], red) && near(image.rgba[i + 1], green) && near(image.rgba[i + 2], blue)) ++found;
    return found;
  }

  std::filesystem::path folder =
      std::filesystem::temp_directory_path() / ("mobrin-pictures-" + std::to_string(std::random_device()()));
};

TEST_F(Pictures, AnImageIsReadWithItsPixels) {
  const auto image = load_png(MOBRIN_DEMO "/keeper.png");
  ASSERT_TRUE(image) << image.error().message;
  EXPECT_EQ(image->width, 8 * 48);
  EXPECT_EQ(image->height, 6 * 40);
  EXPECT_EQ(image->rgba.size(), 8u * 48 * 6 * 40 * 4);
  EXPECT_GT(count(*image, 36, 28, 40), 1000);  // the outline's colour
}

TEST_F(Pictures, BrokenImagesAreRefusedWithAReason) {
  EXPECT_NE(load_png(path("none.png")).error().message.find("none.png\" cannot be read"), std::string::npos);
  write("text.png", "this is no picture");
  EXPECT_FALSE(load_png(path("text.png")));
  const std::string sound = bytes_of(MOBRIN_DEMO "/smoker.png");
  for (std::size_t cut = 0; cut < sound.size(); cut += 37) {
    write("cut.png", sound.substr(0, cut));
    EXPECT_FALSE(load_png(path("cut.png"))) << cut;
  }
  // A header that promises four thousand million pixels is refused before anything is allocated for them.
  std::string huge = sound;
  for (const std::size_t at : {16u, 20u}) huge.replace(at, 4, std::string("\0\0\xff\xff", 4));
  write("huge.png", huge);
  EXPECT_FALSE(load_png(path("huge.png")));
}

TEST_F(Pictures, DamagedImagesNeverCrash) {
  const std::string sound = bytes_of(MOBRIN_DEMO "/smoker.png");
  std::mt19937 random(3);
  for (int i = 0; i < 300; ++i) {
    std::string damaged = sound;
    for (int k = 0; k < 3; ++k) damaged[random() % damaged.size()] ^= static_cast<char>(1 << random() % 8);
    write("d.png", damaged);
    const auto image = load_png(path("d.png"));
    if (!image) continue;
    EXPECT_EQ(image->rgba.size(), static_cast<std::size_t>(image->width) * static_cast<std::size_t>(image->height) * 4);
  }
}

TEST_F(Pictures, ASheetShowsTheArtItsCuesSpansWindowsAndPivot) {
  const auto with_marks = [](const std::string& more) {
    return load_character_text(
        "mobrin: 1\nmachine: m\nuse: [keeper.clips.yaml]\ncues: {swish: {}, net_out: {}, trail: {}}\nmarks: {net: "
        "{pivot: "
        "[22, 38], cues: {2: swish, 3: net_out}, spans: {trail: 2-4}, windows: {again: 4-5}" +
            more + "}}\nstates: {s: {clip: net}}\n",
        MOBRIN_DEMO "/m.yaml");
  };
  const Loaded loaded = with_marks("");
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  const auto drawn = draw_sheet(*loaded.machine, {{"net"}, MOBRIN_DEMO "/"}, path("net.png"));
  ASSERT_TRUE(drawn) << drawn.error().text();
  EXPECT_TRUE(drawn->empty());
  const auto picture = load_png(path("net.png"));
  ASSERT_TRUE(picture);
  const auto art = load_png(MOBRIN_DEMO "/keeper.png");
  ASSERT_TRUE(art);
  // Each pixel of the six frames is drawn as a square of nine.
  int outline = 0;
  for (std::int32_t y = 2 * 40; y < 3 * 40; ++y)
    for (std::int32_t x = 0; x < 6 * 48; ++x) {
      const std::size_t at = (static_cast<std::size_t>(y) * 8 * 48 + static_cast<std::size_t>(x)) * 4;
      if (art->rgba[at] == 36 && art->rgba[at + 1] == 28 && art->rgba[at + 2] == 40 && art->rgba[at + 3] == 255)
        ++outline;
    }
  EXPECT_GT(outline, 300);
  EXPECT_NEAR(count(*picture, 36, 28, 40), 9 * outline, outline);  // the pivot's cross and line cover some
  EXPECT_GT(count(*picture, 184, 74, 13), 100);                    // cues
  EXPECT_GT(count(*picture, 13, 107, 140), 1000);                  // the span's bar
  EXPECT_GT(count(*picture, 107, 77, 148), 1000);                  // the window's bar
  EXPECT_GT(count(*picture, 0, 84, 199), 50);                      // the pivot
  // A box of 10 x 8 pixels on two frames: its edge in the colour of its role, once more for each frame.
  const Loaded boxed = with_marks(", boxes: [{name: n, role: hit, frames: 3-4, rect: [8, 8, 10, 8]}]");
  ASSERT_TRUE(boxed.machine) << joined(boxed.findings);
  ASSERT_TRUE(draw_sheet(*boxed.machine, {{"net"}, MOBRIN_DEMO "/"}, path("box.png")));
  const auto with_box = load_png(path("box.png"));
  ASSERT_TRUE(with_box);
  EXPECT_EQ(count(*picture, 191, 13, 38), 0);
  EXPECT_GT(count(*with_box, 191, 13, 38), 2 * 2 * 3 * (10 + 8) - 40);
}

TEST_F(Pictures, ASheetOfAClipWithoutMarksHasNoneOfThem) {
  const Machine machine = machine_of("clips: {c: {frames: [0-3], fps: 8}}\nstates: {a: {clip: c}}");
  ASSERT_TRUE(draw_sheet(machine, {}, path("c.png")));
  const auto picture = load_png(path("c.png"));
  ASSERT_TRUE(picture);
  EXPECT_EQ(count(*picture, 184, 74, 13), 0);
  EXPECT_EQ(count(*picture, 13, 107, 140), 0);
  EXPECT_EQ(count(*picture, 0, 84, 199), 0);
}

TEST_F(Pictures, ASheetOfAClipWithoutFramesHasItsMarksAlongItsTime) {
  const auto drawn = [&](const std::string& marks) {
    const Machine machine = machine_of("cues: {hum: sound}\nclips: {c: {length: 400ms}}\nmarks: {c: {" + marks +
                                       "}}\nstates: {a: {clip: c}}");
    EXPECT_TRUE(draw_sheet(machine, {}, path("c.png")));
    auto picture = load_png(path("c.png"));
    EXPECT_TRUE(picture);
    return *picture;
  };
  const Image bare = drawn("pivot: [1, 1]"), one = drawn("cues: {0.1s: hum}"),
              two = drawn("cues: {0.1s: hum, 0.3s: hum}");
  EXPECT_GT(one.height, bare.height);  // a line each, with its name and time
  EXPECT_EQ(two.height - one.height, one.height - bare.height);
  const Image box = drawn("boxes: [{name: sting, role: hit, frames: 0.1s-0.2s, rect: [0, 0, 1, 1]}]");
  EXPECT_GE(count(box, 191, 13, 38), 5 * (1240 - 56) / 4);  // a quarter of the clip
  const Image always = drawn("boxes: [{name: sting, role: hit, rect: [0, 0, 1, 1]}]");
  EXPECT_GE(count(always, 191, 13, 38), 5 * (1240 - 56));
}

TEST_F(Pictures, ManyFramesWrapIntoRowsAndTooManyAreRefused) {
  const Machine few = machine_of("clips: {c: {frames: [0-5], fps: 8}}\nstates: {a: {clip: c}}");
  const Machine many = machine_of("clips: {c: {frames: [0-157], fps: 30}}\nstates: {a: {clip: c}}");
  const Machine most = machine_of("clips: {c: {frames: [0-9999], fps: 30}}\nstates: {a: {clip: c}}");
  ASSERT_TRUE(draw_sheet(few, {}, path("few.png")));
  ASSERT_TRUE(draw_sheet(many, {}, path("many.png")));
  const auto small = load_png(path("few.png")), large = load_png(path("many.png"));
  ASSERT_TRUE(small);
  ASSERT_TRUE(large);
  EXPECT_EQ(small->width, large->width);
  EXPECT_GT(large->height, 4 * small->height);
  EXPECT_NE(draw_sheet(most, {}, path("most.png")).error().message.find("draw fewer clips"), std::string::npos);
  EXPECT_EQ(draw_sheet(few, {{"d"}, ""}, path("x.png")).error().message, "there is no clip \"d\"");
}

TEST_F(Pictures, ATileOutsideItsImageIsNamed) {
  const Machine machine = machine_of(
      "clips: {c: {sheet: smoker.png, tile: [24, 28], frames: [7, 8], fps: 8}, d: {images: [smoker.png, none.png], "
      "fps: 8}}\nstates: {a: {clip: c}}");
  const auto drawn = draw_sheet(machine, {{}, MOBRIN_DEMO "/"}, path("c.png"));
  ASSERT_TRUE(drawn);
  ASSERT_EQ(drawn->size(), 2u);
  EXPECT_EQ((*drawn)[0], "frame 1 of \"c\": its cell 8 lies outside smoker.png, which is 192 x 28 pixels");
  EXPECT_NE((*drawn)[1].find("none.png\" cannot be read"), std::string::npos);
}

TEST(RunPicture, DrawsWhatWasPressedAndSaysWhatWasNotTaken) {
  const Loaded loaded = load_character(MOBRIN_DEMO "/keeper.yaml");
  const LoadedTape tape = load_tape(MOBRIN_DEMO "/keeper.tape.yaml");
  ASSERT_TRUE(loaded.machine && tape.tape);
  const std::string path = testing::TempDir() + "mobrin_run.png";
  const auto pixels = [&](const Tape& of, Ticks until) {
    EXPECT_TRUE(draw_run(*loaded.machine, of, until, path));
    const auto image = load_png(path);
    EXPECT_TRUE(image);
    return *image;
  };
  const Image whole = pixels(*tape.tape, *tape.tape->until);
  EXPECT_EQ(whole.width, 1280);
  EXPECT_EQ(pixels(*tape.tape, *tape.tape->until).rgba, whole.rgba);  // the same every time
  // One more cue lane for each cue that is told, one more lane for each input that is written.
  Tape shorter = *tape.tape;
  shorter.steps.resize(2);  // carrying and move only
  EXPECT_LT(pixels(shorter, milliseconds(450)).height, whole.height);
  EXPECT_EQ(pixels(shorter, milliseconds(450)).height + 24,
            pixels(shorter, milliseconds(500)).height);  // the first step
  EXPECT_FALSE(draw_run(*loaded.machine, shorter, milliseconds(450), "/nowhere/x.png"));
}

TEST(RunPicture, HasSomeMarksOfTimeHoweverLongItIs) {
  const Machine machine = *load_character_text("mobrin: 1\nmachine: m\nstates: {a: {}}", "m.yaml").machine;
  const std::string path = testing::TempDir() + "mobrin_marks.png";
  for (const Ticks length : {Ticks(5'000), milliseconds(1), milliseconds(4), milliseconds(45), milliseconds(1'000),
                             milliseconds(90'000), milliseconds(3'600'000), seconds(3e7)}) {
    ASSERT_TRUE(draw_run(machine, Tape{}, length, path));
    const Image image = *load_png(path);
    const auto light = [&](int x) {
      return int(image.rgba[std::size_t((74 * image.width + x) * 4)]);
    };  // above the lanes
    int lines = 0;
    for (int x = 100; x < image.width; ++x) lines += light(x) < 240 && light(x - 1) > 242;
    EXPECT_GE(lines, 4) << length.count;
    EXPECT_LE(lines, 15) << length.count;
  }
}

// Two long names that differ at their beginning are told apart; one without end leaves room for the lanes.
TEST(RunPicture, ShowsNamesFromTheirBeginning) {
  const std::string path = testing::TempDir() + "mobrin_names.png";
  const auto drawn = [&](const std::string& name) {
    const Machine machine =
        *load_character_text("mobrin: 1\nmachine: m\ninputs: {" + name + ": 0}\nstates: {a: {go: [{when: " + name +
                                 " > 9, restart: true, to: a}]}}",
                             "m.yaml")
             .machine;
    const LoadedTape tape =
        load_tape_text("mobrin: 1\ntape: t\nuntil: 1s\nsteps: [{at: 0s, set: {" + name + ": 1}}]", "t.yaml");
    EXPECT_TRUE(tape.tape && draw_run(machine, *tape.tape, *tape.tape->until, path));
    return load_png(path)->rgba;
  };
  const std::string tail = "_the_way_to_the_nearest_hornet";
  EXPECT_NE(drawn("a" + tail), drawn("b" + tail));
  EXPECT_NE(drawn("a" + std::string(62, 'x')), drawn("b" + std::string(62, 'x')));
  EXPECT_EQ(drawn(std::string(62, 'x') + "a"), drawn(std::string(62, 'x') + "b"));
}

// As the run itself has it: what is written at one instant in turns, and what is placed without a word.
TEST(RunPicture, ShowsTheStatesOfTheRun) {
  const Machine machine = *load_character_text(
                               "mobrin: 1\nmachine: m\ninputs: {n: 0}\ninitial: walking\nstates: {walking: {go: "
                               "[{when: n > 0, to: netting}]}, netting: {}, resting: {}}",
                               "m.yaml")
                               .machine;
  const auto pixels = [&](const std::string& steps) {
    const LoadedTape tape = load_tape_text("mobrin: 1\ntape: t\nuntil: 1s\nsteps: " + steps, "t.yaml");
    const std::string path = testing::TempDir() + "mobrin_states.png";
    EXPECT_TRUE(tape.tape && draw_run(machine, *tape.tape, *tape.tape->until, path));
    return load_png(path)->rgba;
  };
  const std::string before = "[{at: 300ms, set: {n: 1}}, {at: 300ms, ";
  EXPECT_EQ(pixels(before + "settled: true, set: {n: 0}}]"), pixels(before + "set: {n: 0}, force: netting}]"));
  EXPECT_NE(pixels(before + "settled: true, set: {n: 0}}]"), pixels(before + "set: {n: 0}}]"));
  EXPECT_EQ(pixels("[{at: 300ms, place: resting, played: 5s}]"), pixels("[{at: 300ms, force: resting}]"));
}

// The art of others is often larger than a world unit, and its pivot anywhere.
TEST_F(Pictures, AStageHoldsTheWholeArtOfEverybodyAndNothingLeavesIt) {
  Image art{200, 160, std::vector<std::uint8_t>(200 * 160 * 4)};
  for (std::size_t y = 20; y < 150; ++y)  // empty at its edges, as most is
    for (std::size_t x = 30; x < 170; ++x)
      for (std::size_t part = 0; part < 4; ++part)
        art.rgba[(y * 200 + x) * 4 + part] = part == 0 || part == 3 ? 255 : 0;
  ASSERT_TRUE(write_png(art, path("art.png")));
  write("m.yaml",
        "mobrin: 1\nmachine: m\nunit: 10px\nclips: {c: {images: [art.png], fps: 1}}\n"
        "marks: {c: {pivot: [180, 100]}}\nstates: {a: {clip: c}}\n");
  write("s.scene.yaml",
        "mobrin: 1\nscene: s\nuntil: 1s\nactors: {a: {machine: m.yaml}, b: {machine: m.yaml, at: [3, 4], "
        "face: left, scale: 2}}\n");
  const LoadedScene loaded = load_scene(path("s.scene.yaml"));
  ASSERT_TRUE(loaded.scene) << (loaded.findings.empty() ? "" : loaded.findings[0].text());
  const auto red = [](const Image& image, int x, int y) {
    const std::uint8_t* at = &image.rgba[std::size_t((y * image.width + x) * 4)];
    return at[0] > 200 && at[1] < 90;
  };
  StageOptions options;
  options.zoom = 1, options.shapes = false;
  ASSERT_TRUE(draw_stage(*loaded.scene, {milliseconds(0), milliseconds(500)}, options, path("two.png")));
  ASSERT_TRUE(draw_stage(*loaded.scene, {milliseconds(0)}, options, path("one.png")));
  const Image one = *load_png(path("one.png")), two = *load_png(path("two.png"));
  int seen = 0, seen_twice = 0;
  for (int y = 0; y < one.height; ++y)
    for (int x = 0; x < one.width; ++x) {
      seen += red(one, x, y);
      EXPECT_FALSE(red(one, x, y) && (x < 20 || y < 44 || x >= one.width - 20 || y >= one.height - 20))
          << x << ' ' << y;
    }
  for (int y = 0; y < two.height; ++y)
    for (int x = 0; x < two.width; ++x) seen_twice += red(two, x, y);
  // They do not overlap: what is seen of a ends at -1 world unit, of b it begins at 5.
  EXPECT_NEAR(seen, 140 * 130 + 280 * 260, 1'500);
  EXPECT_EQ(seen_twice, 2 * seen);
}

TEST(Films, OfAClipHaveItsExactTiming) {
  const Loaded loaded = load_character(MOBRIN_DEMO "/keeper.yaml");
  const std::string path = testing::TempDir() + "mobrin_clip.apng";
  SheetOptions options;
  options.art_folder = MOBRIN_DEMO "/";
  options.clips = {"net"};
  ASSERT_TRUE(draw_sheet(*loaded.machine, options, path));
  const auto film = read_animation(path);
  ASSERT_TRUE(film) << film.error().message;
  for (const ClipInfo& clip : loaded.machine->clips()) {
    if (clip.def.name.text != "net") continue;
    ASSERT_EQ(film->delays.size(), clip.def.frames.size());
    for (std::size_t f = 0; f < film->delays.size(); ++f)
      EXPECT_EQ(film->delays[f].num * kTicksPerSecond,
                (clip.borders[f + 1] - clip.borders[f]).count * film->delays[f].den);
  }
  options.clips.clear();
  EXPECT_EQ(draw_sheet(*loaded.machine, options, path).error().text(),
            "a film shows one clip with frames. Name it: --clip NAME.");
}

}  // namespace
}  // namespace mobrin::test
