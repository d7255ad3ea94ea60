// Animated images and glTF: what is in them, and that broken ones are refused.
#include "mobrin/io/animation.hpp"

#include <filesystem>
#include <random>

#include "art_files.hpp"
#include "mobrin/io/gltf.hpp"
#include "mobrin/io/import.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

namespace fs = std::filesystem;
using Lines = std::vector<std::string>;

class Animations : public testing::Test {
 protected:
  Animations() : folder_(fs::temp_directory_path() / ("mobrin-animations-" + std::to_string(std::random_device()()))) {
    fs::create_directories(folder_);
    options_.out = path("art.clips.yaml");
  }
  ~Animations() override { fs::remove_all(folder_); }
  [[nodiscard]] std::string path(const std::string& name) const { return (folder_ / name).string(); }

  // The frames as letters: r g b, `.` for transparent, `?` for another colour; rows one after the other.
  Lines pictures(const std::string& bytes) {
    write_file(path("x"), bytes);
    Lines out;
    const auto read = read_animation(path("x"), [&](const Image& image) {
      std::string& text = out.emplace_back();
      for (std::size_t at = 0; at < image.rgba.size(); at += 4) {
        const Pixel pixel{image.rgba[at], image.rgba[at + 1], image.rgba[at + 2], image.rgba[at + 3]};
        text += pixel == kRed ? 'r' : pixel == kGreen ? 'g' : pixel == kBlue ? 'b' : pixel[3] == 0 ? '.' : '?';
      }
    });
    if (!read) return {read.error().message};
    EXPECT_EQ(read->delays.size(), out.size());
    return out;
  }
  Imported import(const std::string& name, const std::string& bytes) {
    write_file(path(name), bytes);
    options_.sources = {path(name)};
    return import_art(options_);
  }
  [[nodiscard]] std::string without_folder(std::string text) const {
    const std::string prefix = folder_.string() + "/";
    for (std::size_t at = text.find(prefix); at != std::string::npos; at = text.find(prefix))
      text.erase(at, prefix.size());
    return text;
  }
  std::string refused(const std::string& name, const std::string& bytes) {
    const Imported imported = import(name, bytes);
    EXPECT_TRUE(imported.clips.empty());
    return imported.findings.empty() ? "" : without_folder(imported.findings.front().message);
  }
  // Every cut and many flipped bits: an error or an animation, and nothing worse.
  template <class Read>
  void survives(const std::string& bytes, const Read& read) {
    for (std::size_t cut = 0; cut < bytes.size(); ++cut) read(bytes.substr(0, cut));
    std::mt19937 random(7);
    for (int i = 0; i < 600; ++i) {
      std::string flipped = bytes;
      for (int k = 0; k <= i % 3; ++k) flipped[random() % flipped.size()] ^= static_cast<char>(1 << random() % 8);
      read(flipped);
    }
  }

  fs::path folder_;
  ImportOptions options_;
};

const std::vector<int> kAllRed{0, 0, 0, 0};

TEST_F(Animations, AGifIsShownAfterItsDisposals) {
  // Kept, cleared where it was, put back as it was; transparent pixels leave what is below.
  EXPECT_EQ(pictures(gif(2, 2,
                         {{0, 0, 2, 2, 10, 1, kAllRed},
                          {1, 1, 1, 1, 10, 1, {1}},
                          {0, 0, 2, 1, 10, 2, {2, 3}},
                          {0, 0, 2, 2, 10, 3, {1, 1, 3, 3}},
                          {1, 0, 1, 1, 10, 0, {2}}},
                         0)),
            (Lines{"rrrr", "rrrg", "brrg", "ggrg", ".brg"}));
  // What reaches past the canvas is not seen.
  EXPECT_EQ(pictures(gif(2, 2, {{1, 1, 2, 2, 10, 0, kAllRed}}, -1)), Lines{"...r"});
}

TEST_F(Animations, AnApngIsShownAfterItsDisposalsAndBlending) {
  const std::vector<Pixel> all_red(4, kRed);
  EXPECT_EQ(pictures(apng(2, 2,
                          {{0, 0, 2, 2, 1, 10, 0, 0, all_red},
                           {1, 1, 1, 1, 1, 10, 0, 0, {kClear}},
                           {0, 0, 2, 1, 1, 10, 2, 1, {kBlue, kClear}},
                           {0, 0, 2, 1, 1, 10, 1, 0, {kGreen, kClear}},
                           {1, 1, 1, 1, 1, 10, 0, 1, {kGreen}}},
                          0)),
            (Lines{"rrrr", "rrr.", "brr.", "g.r.", "..rg"}));
  // Half of blue over opaque red: the mean of both.
  write_file(path("half"),
             apng(1, 1, {{0, 0, 1, 1, 1, 10, 0, 0, {kRed}}, {0, 0, 1, 1, 1, 10, 0, 1, {{0, 0, 255, 128}}}}, 0));
  Pixel mixed{};
  ASSERT_TRUE(
      read_animation(path("half"), [&](const Image& image) { std::memcpy(mixed.data(), image.rgba.data(), 4); }));
  EXPECT_EQ(mixed, (Pixel{127, 0, 128, 255}));
  // A picture for those who cannot animate is no frame.
  EXPECT_EQ(pictures(apng(2, 2, {{0, 0, 2, 2, 1, 10, 0, 0, all_red}}, 0, true)), Lines{"rrrr"});
}

TEST_F(Animations, DelaysBecomeHoldsOverACommonRate) {
  const Imported imported = import("swing.gif", gif(2, 2, {{0, 0, 2, 2, 6, 1, kAllRed}, {0, 0, 1, 1, 9, 1, {1}}}, 0));
  EXPECT_EQ(joined(imported.findings), "");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(
      imported.text.substr(imported.text.find("clips:")),
      "clips:\n  swing:\n    animation: swing.gif\n    frames: [0*2, 1*3]\n    fps: 100/3\n    play: loop\n    prints: "
      "{0: e9c9706e6cce 6/100s, 1: n5dd99b326d6 9/100s}\n");
  write_file(options_.out, imported.text);
  const Loaded loaded = load_character(options_.out);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(loaded.machine->clips()[0].borders, (std::vector<Ticks>{Ticks(0), milliseconds(60), milliseconds(150)}));
  // What is written there is the user's from then on, until the art's own delays change.
  std::string edited = imported.text;
  edited.replace(edited.find("play: loop"), 10, "play: back-and-forth");
  edited.replace(edited.find("100/3"), 5, "7");
  write_file(options_.out, edited);
  EXPECT_EQ(import_art(options_).text, edited);
  import("swing.gif", gif(2, 2, {{0, 0, 2, 2, 10, 1, kAllRed}, { 0, 0, 1, 1, 10, 1, { 1 } }}, 0));
  EXPECT_NE(import_art(options_).text.find("frames: [0-1]\n    fps: 10\n    play: back-and-forth"), std::string::npos);
  EXPECT_EQ(import_art(options_).notes, Lines{"\"swing\": its art has other delays than before, which count now"});
  options_.fps = Fraction{8, 1};
  EXPECT_NE(import_art(options_).text.find("frames: [0-1]\n    fps: 8\n"), std::string::npos);
}

TEST_F(Animations, DelaysWithoutACommonRateBecomeTimes) {
  const std::vector<Pixel> red(4, kRed);
  const Imported imported = import("a.png", apng(2, 2,
                                                 {{0, 0, 2, 2, 1, 7, 0, 0, red},
                                                  {0, 0, 2, 2, 1, 65521, 0, 0, red},
                                                  {0, 0, 2, 2, 3, 0, 0, 0, red},
                                                  {0, 0, 2, 2, 5, 65519, 0, 0, red}},
                                                 2));
  ASSERT_EQ(imported.clips.size(), 1u) << joined(imported.findings);
  EXPECT_EQ(imported.notes, Lines{"\"a\": 2 frames ask for no delay and get 100ms"});
  EXPECT_EQ(imported.clips[0].play.text(), "loop x2");
  const Imported uneven = import(
      "b.png",
      apng(2, 2, {{0, 0, 2, 2, 1000, 7919, 0, 0, red}, {0, 0, 2, 2, 1, 3, 0, 0, red}, {0, 0, 2, 2, 1, 997, 0, 0, red}},
           1));
  ASSERT_EQ(uneven.clips.size(), 1u) << joined(uneven.findings);
  EXPECT_NE(uneven.text.find("times: [126.278"), std::string::npos) << uneven.text;
  write_file(options_.out, uneven.text);
  const Loaded loaded = load_character(options_.out);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  // To the nearest tick of 1/705,600,000 s.
  const auto& borders = loaded.machine->clips()[0].borders;
  EXPECT_EQ(borders[1].count, 89'102'159);
  EXPECT_EQ(borders[2].count - borders[1].count, 235'200'000);
  EXPECT_EQ(borders[3].count - borders[2].count, 707'723);
}

TEST_F(Animations, HowOftenItPlaysIsKept) {
  const std::vector<GifPart> parts{{0, 0, 2, 2, 10, 0, kAllRed}, {0, 0, 1, 1, 10, 0, {1}}};
  EXPECT_EQ(import("a.gif", gif(2, 2, parts, -1)).clips[0].play.text(), "once");
  EXPECT_EQ(import("a.gif", gif(2, 2, parts, 0)).clips[0].play.text(), "loop");
  EXPECT_EQ(import("a.gif", gif(2, 2, parts, 2)).clips[0].play.text(), "loop x3");
  const Imported many = import("a.gif", gif(2, 2, parts, 60'000));
  EXPECT_EQ(many.clips[0].play.text(), "loop");
  EXPECT_EQ(many.notes, Lines{"\"a\": plays 60001 times; it loops for ever here"});
}

TEST_F(Animations, ExtractedFramesAreImagesOfTheirOwn) {
  options_.extract = folder_.string();
  const Imported imported = import("a.gif", gif(2, 2, {{0, 0, 2, 2, 10, 1, kAllRed}, {0, 0, 1, 1, 10, 0, {1}}}, 0));
  ASSERT_EQ(imported.clips.size(), 1u) << joined(imported.findings);
  EXPECT_EQ(imported.clips[0].frames[1].art.source, "a_0001.png");
  EXPECT_FALSE(fs::exists(path("a_0001.png")));  // until somebody says so
  ASSERT_TRUE(write_pictures(imported));
  const auto second = load_png(path("a_0001.png"));
  ASSERT_TRUE(second);
  EXPECT_EQ(Pixel({second->rgba[0], second->rgba[1], second->rgba[2], second->rgba[3]}), kGreen);
  // A folder is made; what is there already is not touched; where no folder can be, that is said.
  options_.extract = path("deep/down");
  ASSERT_TRUE(write_pictures(import_art(options_)));
  EXPECT_TRUE(fs::exists(path("deep/down/a_0000.png")));
  fs::last_write_time(path("a_0001.png"), fs::file_time_type{});
  ASSERT_TRUE(write_pictures(imported));
  EXPECT_EQ(fs::last_write_time(path("a_0001.png")), fs::file_time_type{});
  options_.extract = path("a.gif/inside");
  EXPECT_EQ(write_pictures(import_art(options_)).error().text(), "\"" + path("a.gif/inside/a_0000.png") +
                                                                     "\" cannot be written: \"" + path("a.gif") +
                                                                     "\" is no folder. Name another one.");
}

TEST_F(Animations, FramesOfAnAnimationAreFoundByNumber) {
  write_file(path("a.gif"), gif(2, 2, {{0, 0, 2, 2, 10, 1, kAllRed}, {0, 0, 1, 1, 10, 0, {1}}}, 0));
  ArtStore store(folder_.string() + "/");
  const auto second = store.find({"a.gif", "1"});
  ASSERT_TRUE(second);
  EXPECT_EQ(second->image->rgba[1], 255);
  EXPECT_NE(store.find({"a.gif", "2"}).error().message.find("there is no frame 2 in a.gif, which has 2"),
            std::string::npos);
  EXPECT_TRUE(store.find({"a.gif", ""}));  // one image of several: its first frame
}

TEST_F(Animations, StillGifsAreNumberedImages) {
  fs::create_directories(folder_ / "art");
  for (const char* name : {"art/walk_2.gif", "art/walk_10.gif"})
    write_file(path(name), gif(2, 2, {{0, 0, 2, 2, 10, 0, kAllRed}}, -1));
  options_.sources = {path("art")};
  const Imported imported = import_art(options_);
  ASSERT_EQ(imported.clips.size(), 1u) << joined(imported.findings);
  EXPECT_EQ(imported.clips[0].frames[0].art.source, "art/walk_2.gif");
  EXPECT_EQ(imported.clips[0].frames.size(), 2u);
}

TEST_F(Animations, BrokenOnesAreRefusedWithAReason) {
  const std::string sound = gif(2, 2, {{0, 0, 2, 2, 10, 0, kAllRed}}, 0);
  EXPECT_NE(refused("a.gif", sound.substr(0, sound.size() - 6)).find("\"a.gif\" cannot be read: "), std::string::npos);
  EXPECT_EQ(refused("a.gif", gif(60'000, 60'000, {{0, 0, 2, 2, 10, 0, kAllRed}}, 0)),
            "the image \"a.gif\" cannot be read: 60000 x 60000 pixels are more than the file can hold");
  EXPECT_EQ(refused("a.gif", gif(6'000, 6'000, {{0, 0, 2, 2, 10, 0, kAllRed}}, 0)),
            "the image \"a.gif\" cannot be read: 6000 x 6000 pixels are more than the file can hold");
  EXPECT_EQ(refused("a.gif", gif(2, 2, {}, 0)), "the image \"a.gif\" cannot be read: it has no frames");
  const std::vector<Pixel> red(4, kRed);
  const std::string moving = apng(2, 2, {{0, 0, 2, 2, 1, 10, 0, 0, red}, {1, 0, 2, 2, 1, 10, 0, 0, red}}, 0);
  EXPECT_EQ(refused("a.png", moving), "the image \"a.png\" cannot be read: a frame lies outside the canvas");
  std::string damaged = apng(2, 2, {{0, 0, 2, 2, 1, 10, 0, 0, red}}, 0);
  damaged[damaged.find("fcTL") + 4] ^= 1;
  EXPECT_EQ(refused("a.png", damaged), "the image \"a.png\" cannot be read: its chunk fcTL is damaged");
  EXPECT_NE(refused("a.png", apng(8'000, 8'000, {{0, 0, 8'000, 8'000, 1, 10, 0, 0, red}}, 0))
                .find("8000 x 8000 pixels are more than the file can hold"),
            std::string::npos);
  EXPECT_EQ(read_animation(path("nowhere.gif")).error().message,
            "the image \"" + path("nowhere.gif") + "\" cannot be read: it is no file");
}

TEST_F(Animations, WhateverIsInTheFileNothingCrashes) {
  const auto read = [&](const std::string& bytes) {
    write_file(path("x"), bytes);
    std::int64_t frames = 0;
    const auto animation = read_animation(path("x"), [&](const Image&) { ++frames; });
    if (!animation) return;
    EXPECT_EQ(static_cast<std::int64_t>(animation->delays.size()), frames);
  };
  survives(gif(3, 3, {{0, 0, 3, 3, 10, 3, std::vector<int>(9)}, {1, 1, 2, 2, 5, 2, kAllRed}}, 4), read);
  const std::vector<Pixel> red(4, kRed);
  survives(apng(2, 2, {{0, 0, 2, 2, 1, 10, 0, 0, red}, {0, 0, 2, 2, 1, 10, 2, 1, red}}, 0), read);
}

// --- glTF
// -------------------------------------------------------------------------------------------------------------

TEST_F(Animations, EachAnimationOfAGltfFileIsAClipOfItsExactLength) {
  const auto parts = gltf(
      {{"Fly|Up", {{0.5f, 0.75f, 2.0f}, {1.0f, 2.5f}}}, {"", {{0, 0.1f}}}, {"glide", {{0, 1}}}, {"glide", {{0, 3}}}},
      "hornet.bin");
  write_file(path("hornet.bin"), parts.second);
  const Imported imported = import("hornet.gltf", parts.first);
  EXPECT_EQ(joined(imported.findings), "");
  Lines clips;
  for (const ClipDef& clip : imported.clips) clips.push_back(clip.name.text + " " + std::to_string(clip.length.count));
  EXPECT_EQ(clips, (Lines{"Fly_Up 1411200000", "animation_1 70560000", "glide 705600000", "glide_2 2116800000"}));
  EXPECT_EQ(without_folder(text_of(imported.notes)),
            "\"Fly_Up\": called \"Fly|Up\" in hornet.gltf\n"
            "\"Fly_Up\": its keys run from 0.5 s to 2.5 s; the clip begins at the first\n"
            "\"glide_2\": a clip of that name stands before it in hornet.gltf\n"
            "\"glide_2\": called \"glide\" in hornet.gltf\n");
  write_file(options_.out, imported.text);
  const Loaded loaded = load_character(options_.out);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(loaded.machine->clips()[1].length, milliseconds(100));  // in 32 bits it is a little more
  // The same from one binary file, whatever it is called.
  EXPECT_EQ(import("hornet.dat", glb(gltf({{"up", {{0.5f, 2}}}}, ""))).clips[0].length, milliseconds(1500));
}

TEST_F(Animations, KeyTimesOfAGltfFileAreTheMillisecondsAndFramesThatTheyStandFor) {
  const auto ticks = [&](float first, float last) {
    return import("hornet.glb", glb(gltf({{"up", {{first, last}}}}, ""))).clips.at(0).length.count;
  };
  EXPECT_EQ(ticks(0, 1.1f), kTicksPerSecond / 10 * 11);
  EXPECT_EQ(ticks(0.3f, 1.1f), kTicksPerSecond / 10 * 8);
  EXPECT_EQ(ticks(0, 12.345f), kTicksPerSecond / 1000 * 12'345);
  for (const int rate : {24, 30, 60, 72, 90, 120, 144})
    for (const int frame : {7, 31, 1001})
      EXPECT_EQ(ticks(0, static_cast<float>(frame) / static_cast<float>(rate)), kTicksPerSecond / rate * frame) << rate;
  // Any other is what its 32 bits say.
  constexpr float kOdd = 0.1234567f;
  EXPECT_EQ(ticks(0, kOdd), std::llround(double{kOdd} * static_cast<double>(kTicksPerSecond)));
  const std::string text = import("hornet.glb", glb(gltf({{"up", {{0, 1.1f}}}}, ""))).text;
  EXPECT_NE(text.find("up:\n    length: 1100ms\n"), std::string::npos) << text;
}

TEST_F(Animations, WhatMovesInAGltfFileMakesTracks) {
  options_.tracks = true;
  const Imported imported = import("lid.glb", glb_of_a_lid());
  EXPECT_EQ(joined(imported.findings), "");
  EXPECT_EQ(imported.tracks_text,
            "# Tracks made by `mobrin import --tracks`, which writes this file anew: other marks lie elsewhere.\n"
            "mobrin: 1\nmarks:\n  open:\n    tracks:\n"
            "      lid_x: {curve: cubic, keys: {0ms: [0, 0, 0], 1000ms: [0, 3, 0]}}\n"
            "      lid_y: {curve: cubic, keys: {0ms: [0, 1, 4], 1000ms: [-2, 8, 0]}}\n"
            "      lid_z: {curve: cubic, keys: {0ms: [0, 0, 0], 1000ms: [0, 0, 0]}}\n"
            "      lid_weight_0: {curve: step, keys: {0ms: 0, 1000ms: 0.5}}\n"
            "      lid_weight_1: {curve: step, keys: {0ms: 1, 1000ms: 0.25}}\n");
  // They stand in a file of their own beside other marks of the clip, in either order.
  write_file(options_.out, imported.text);
  write_file(path("hive.tracks.yaml"), imported.tracks_text);
  write_file(path("hive.marks.yaml"),
             "mobrin: 1\nmarks: {open: {cues: {0.2s: creak}, tracks: {glow: {keys: {0.5s: 2}}}}}\n");
  for (const char* files : {"hive.tracks.yaml, hive.marks.yaml", "hive.marks.yaml, hive.tracks.yaml"}) {
    write_file(path("hive.yaml"), "mobrin: 1\nmachine: hive\nuse: [" + fs::path(options_.out).filename().string() +
                                      ", " + files + "]\ncues: {creak: {}}\nstates: {open: {clip: open}}\n");
    const Loaded loaded = load_character(path("hive.yaml"));
    ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
    Instance hive(*loaded.machine);
    CueList<8> cues;
    (void)hive.advance(milliseconds(500), cues);
    EXPECT_EQ(cues.size(), 1u);
    // Half way: 0.5 * 1 + 0.125 * 4 + 0.5 * 8 - 0.125 * -2.
    EXPECT_EQ(hive.track("lid_y"), 5.25) << files;
    EXPECT_EQ(hive.track("lid_weight_1"), 1.0);
    EXPECT_EQ(hive.track("glow"), 2.0);
  }
}

// 0 to 1 or -1 to 1 in whole numbers, each as a multiple of the greatest.
TEST_F(Animations, WeightsOfAGltfFileMayBeNormalized) {
  options_.tracks = true;
  const auto weights = [&](const std::vector<int>& each, int component) {
    std::string bytes;
    for (const int byte : each) bytes += static_cast<char>(byte);
    const Imported imported = import(
        "lid.glb", glb_of_a_lid(bytes, 4, "\"componentType\":" + std::to_string(component) + ",\"normalized\":true"));
    EXPECT_EQ(joined(imported.findings), "");
    const std::size_t at = imported.tracks_text.find("lid_weight_0");
    return at == std::string::npos ? "" : imported.tracks_text.substr(at);
  };
  const std::string of_bytes =
      "lid_weight_0: {curve: step, keys: {0ms: 0, 1000ms: 0.2}}\n      lid_weight_1: {curve: step, keys: {0ms: 1, "
      "1000ms: 0.6}}\n";
  EXPECT_EQ(weights({0, 0xff, 0x33, 0x99}, 5121), of_bytes);
  EXPECT_EQ(weights({0, 0, 0xff, 0xff, 0x33, 0x33, 0x99, 0x99}, 5123), of_bytes);
  EXPECT_EQ(weights({0x80, 0x7f, 0x81, 0}, 5120),
            "lid_weight_0: {curve: step, keys: {0ms: -1, 1000ms: -1}}\n      lid_weight_1: {curve: step, keys: {0ms: "
            "1, 1000ms: 0}}\n");
  EXPECT_EQ(weights({0, 0x80, 0xff, 0x7f, 0x01, 0x80, 0, 0}, 5122),
            "lid_weight_0: {curve: step, keys: {0ms: -1, 1000ms: -1}}\n      lid_weight_1: {curve: step, keys: {0ms: "
            "1, 1000ms: 0}}\n");
  EXPECT_EQ(refused("lid.glb", glb_of_a_lid(std::string(4, '\0'), 4, "\"componentType\":5121")),
            "the glTF file \"lid.glb\" cannot be read: animation 0 \"open\": its values are no 32-bit numbers, nor "
            "normalized ones of fewer bits");
}

TEST_F(Animations, OtherGltfFilesAreRefusedWithAReason) {
  const auto sound = gltf({{"up", {{0, 1}}}}, "");
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string json = sound.first;
    json.replace(json.find(from), from.size(), to);
    return glb({json, sound.second});
  };
  EXPECT_EQ(refused("a.glb", glb(sound, 1)),
            "the glTF file \"a.glb\" cannot be read: its version is 1; only glTF 2 is read");
  EXPECT_EQ(refused("a.glb", changed("2.0", "1.0")),
            "the glTF file \"a.glb\" cannot be read: its version is 1.0; only glTF 2 is read");
  EXPECT_EQ(refused("a.gltf", "{\"asset\": {\"version\": \"2.0\"}, "),
            "the glTF file \"a.gltf\" cannot be read: its JSON is damaged");
  EXPECT_EQ(refused("a.glb", changed("\"count\":2", "\"count\":9")),
            "the glTF file \"a.glb\" cannot be read: animation 0 \"up\": its key times reach past their buffer");
  EXPECT_EQ(refused("a.glb", glb(gltf({{"up", {{1, 0.5f}}}}, ""))),
            "the glTF file \"a.glb\" cannot be read: animation 0 \"up\": its key times fall, or are no numbers");
  EXPECT_EQ(refused("a.glb", glb(gltf({{"up", {{-1, 0.5f}}}}, ""))),
            "the glTF file \"a.glb\" cannot be read: animation 0 \"up\": its keys begin before 0");
  EXPECT_NE(refused("a.gltf", gltf({{"up", {{0, 1}}}}, "gone.bin").first).find("cannot be read: "), std::string::npos);
  EXPECT_EQ(refused("a.gltf", "{\"asset\": {\"version\": \"2.0\"}}"), "this file has no animations");
  EXPECT_EQ(refused("a.glb", glb_of_a_lid({0, 1, 2})),
            "the glTF file \"a.glb\" cannot be read: animation 0 \"open\": a sampler has 3 values for 2 keys");
  EXPECT_EQ(refused("a.glb", glb(gltf({{"pose", {{0.5f}}}}, ""))), "the animation \"pose\" lasts less than 1 ms");
  EXPECT_EQ(refused("a.glb", glb(gltf({{"long", {{0, 40'000}}}}, ""))),
            "the animation \"long\" lasts more than 10 hours");
}

// A pose beside animations is left out, and told; it spoils nothing.
TEST_F(Animations, PosesInAGltfFileAreLeftOut) {
  const Imported imported = import("a.glb", glb(gltf({{"rest", {{0}}}, {"up", {{0, 1}}}, {"bind", {{2, 2}}}}, "")));
  EXPECT_EQ(joined(imported.findings), "");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(imported.clips[0].name.text, "up");
  EXPECT_EQ(without_folder(text_of(imported.notes)),
            "no clip is made of \"rest\" in a.glb: it lasts less than 1 ms\n"
            "no clip is made of \"bind\" in a.glb: it lasts less than 1 ms\n");
}

// Numbers that stand nowhere are 0, but for those that a list of exceptions names.
TEST_F(Animations, ValuesOfAGltfFileMayBeSparse) {
  options_.tracks = true;
  // The lid with other words in its JSON, its weights behind which two indices stand.
  const auto lid = [](const std::vector<std::pair<std::string, std::string>>& changes) {
    const std::string whole =
        glb_of_a_lid(floats({0.5f, 0.25f}) + std::string("\x03\x01\0\0", 4), 4, "\"componentType\":5126");
    const std::size_t size = static_cast<unsigned char>(whole[12]) + 256u * static_cast<unsigned char>(whole[13]);
    std::string json = whole.substr(20, size);
    for (const auto& [from, to] : changes) json.replace(json.find(from), from.size(), to);
    return glb({json, whole.substr(20 + size + 8)});
  };
  const auto weights = [&](const std::string& instead) {
    const Imported imported =
        import("lid.glb",
               lid({{"\"bufferView\":2,", instead},
                    {"\"byteLength\":12}", "\"byteLength\":8},{\"buffer\":0,\"byteOffset\":88,\"byteLength\":4}"}}));
    EXPECT_EQ(joined(imported.findings), "");
    const std::size_t at = imported.tracks_text.find("lid_weight_0");
    return at == std::string::npos ? "" : imported.tracks_text.substr(at);
  };
  EXPECT_EQ(weights("\"sparse\":{\"count\":2,\"indices\":{\"bufferView\":3,\"componentType\":5121},\"values\":{"
                    "\"bufferView\":2}},"),
            "lid_weight_0: {curve: step, keys: {0ms: 0, 1000ms: 0}}\n"
            "      lid_weight_1: {curve: step, keys: {0ms: 0.25, 1000ms: 0.5}}\n");
  EXPECT_EQ(weights(""),
            "lid_weight_0: {curve: step, keys: {0ms: 0, 1000ms: 0}}\n"
            "      lid_weight_1: {curve: step, keys: {0ms: 0, 1000ms: 0}}\n");
  // No list is made of a number in the file alone.
  EXPECT_EQ(refused("lid.glb", lid({{"\"bufferView\":2,", ""}, {"\"count\":4,", "\"count\":40000000,"}})),
            "the glTF file \"lid.glb\" cannot be read: animation 0 \"open\": it has no keys, or too many");
}

TEST_F(Animations, OtherJsonInAFolderIsNoGltf) {
  fs::create_directories(folder_ / "art");
  write_file(path("art/walk_1.gif"), gif(2, 2, {{0, 0, 2, 2, 10, 0, kAllRed}}, -1));
  write_file(path("art/list.json"), "{\"asset\": \"walk\"}");
  options_.sources = {path("art")};
  const Imported imported = import_art(options_);
  EXPECT_EQ(joined(imported.findings), "");
  EXPECT_EQ(imported.clips.size(), 1u);
  EXPECT_NE(refused("list.gltf", "{\"asset\": \"walk\"}").find("does not say its version"), std::string::npos);
}

TEST_F(Animations, WhateverIsInAGltfFileNothingCrashes) {
  for (const std::string& sound : {glb(gltf({{"up", {{0, 1, 4}}}, {"", {{0, 2}}}}, "")), glb_of_a_lid()})
    survives(sound, [&](const std::string& bytes) {
      write_file(path("x"), bytes);
      const auto read = read_gltf(path("x"));
      if (!read) return;
      for (const GltfAnimation& each : *read) EXPECT_GE(each.last, each.first);
    });
}

}  // namespace
}  // namespace mobrin::test
