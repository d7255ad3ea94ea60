// Packed sheets: pictures by name on one image, trimmed or whole, described by a file of their own.
#include <gtest/gtest.h>

#include <filesystem>

#include "art_files.hpp"
#include "mobrin/core/picture.hpp"
#include "mobrin/draw/scene.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"
#include "mobrin/pack/pack.hpp"
#include "mobrin/prove/art_files.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

constexpr std::int32_t kWide = 8, kHigh = 6;  // of a whole picture

// What is seen of picture `n`: another size, place and colour for each.
PixelRect body(std::int32_t n) { return {n % 3, 1 + n % 2, 3 + n % 2, 4 - n % 2}; }

class PackedSheet : public testing::Test {
 protected:
  PackedSheet() : folder_(std::filesystem::temp_directory_path() / ("mobrin-packed-" + std::to_string(getpid()))) {
    std::filesystem::create_directories(folder_);
  }
  ~PackedSheet() override { std::filesystem::remove_all(folder_); }
  [[nodiscard]] std::string path(const std::string& name) const { return (folder_ / name).string(); }
  void write(const std::string& name, const std::string& text) const {
    std::filesystem::create_directories((folder_ / name).parent_path());
    write_file(path(name), text);
  }

  static void paint(Image& image, PixelRect where, std::int32_t shade) {
    for (std::int32_t y = where.y; y < where.y + where.height; ++y)
      for (std::int32_t x = where.x; x < where.x + where.width; ++x) {
        const std::size_t at = 4 * static_cast<std::size_t>(y * image.width + x);
        image.rgba[at] = static_cast<std::uint8_t>(40 * shade);
        image.rgba[at + 1] = static_cast<std::uint8_t>(20 * (x - where.x));  // the same wherever it lies
        image.rgba[at + 3] = 255;
      }
  }
  static Image empty(std::int32_t width, std::int32_t height) {
    return {width, height, std::vector<std::uint8_t>(static_cast<std::size_t>(4 * width * height))};
  }
  // A sheet of whole pictures in a row, and the same ones packed: trimmed, in any order, with a gap between them.
  void draw(const std::vector<std::int32_t>& order, const std::string& names = "fly_") const {
    Image grid = empty(kWide * 6, kHigh), packed = empty(40, 8);
    std::string rects;
    std::int32_t x = 1;
    for (const std::int32_t n : order) {
      const PixelRect cut = body(n);
      paint(grid, {n * kWide + cut.x, cut.y, cut.width, cut.height}, n);
      paint(packed, {x, 2, cut.width, cut.height}, n);
      rects += (rects.empty() ? "" : ", ") + ("\"" + names + std::to_string(n) + "\": [") + std::to_string(x) +
               ", 2, " + std::to_string(cut.width) + ", " + std::to_string(cut.height) + ", " + std::to_string(cut.x) +
               ", " + std::to_string(cut.y) + ", 8, 6]";
      x += cut.width + 1;
    }
    ASSERT_TRUE(write_png(grid, path("grid.png")));
    ASSERT_TRUE(write_png(packed, path("packed.png")));
    write("bees.sheet.json", "{\"mobrin\": 1, \"image\": \"packed.png\", \"rects\": {" + rects + "}}");
  }
  static constexpr const char* kBee =
      "mobrin: 1\nmachine: bee\ninitial: fly\nmarks: {fly: {pivot: [3, 5], offsets: {1: [1, 2]}}}\nclips:\n  fly: ";
  void bees(const std::string& marks = "") const {
    const std::string rest = "\nstates: {fly: {clip: fly}}\n" + marks;
    write("grid.yaml",
          kBee + std::string("{sheet: grid.png, tile: [8, 6], frames: [0-3, 5], fps: 10, play: loop}") + rest);
    write(
        "packed.yaml",
        kBee +
            std::string("{sheet: bees.sheet.json, frames: [fly_0, fly_1, fly_2, fly_3, fly_5], fps: 10, play: loop}") +
            rest);
  }
  [[nodiscard]] static std::string said(const Loaded& loaded) {
    std::string out;
    for (const Finding& each : loaded.findings) out += each.text() + "\n";
    return out;
  }
  // A machine with these lines for its clip, and what is said of it.
  [[nodiscard]] std::string said_of(const std::string& clip) const {
    return said(load_character_text(
        "mobrin: 1\nmachine: m\ninitial: a\nclips:\n  fly: " + clip + "\nstates: {a: {clip: fly}}\n", path("m.yaml")));
  }
  Imported import(const std::vector<std::string>& sources) {
    ImportOptions options;
    options.sources = sources;
    options.out = path("bee.clips.yaml");
    Imported out = import_art(options);
    if (!has_errors(out.findings)) write("bee.clips.yaml", out.text);
    return out;
  }

  std::filesystem::path folder_;
};

TEST_F(PackedSheet, IsDrawnAsTheWholePicturesWere) {
  draw({3, 0, 5, 1, 2});
  bees();
  const Loaded whole = load_character(path("grid.yaml")), trimmed = load_character(path("packed.yaml"));
  ASSERT_TRUE(whole.machine && trimmed.machine) << said(whole) << said(trimmed);
  for (std::int32_t frame = 0; frame < 5; ++frame)
    for (const bool mirrored : {false, true}) {
      const Picture a = whole.machine->picture(0, frame, kNoIndex, mirrored);
      const Picture b = trimmed.machine->picture(0, frame, kNoIndex, mirrored);
      EXPECT_EQ(trimmed.machine->images()[b.image], "packed.png");
      const PictureCut from = a.cut(48, 6), cut = b.cut(40, 8);
      const PixelRect seen = body(frame < 4 ? frame : 5);
      EXPECT_EQ(cut.from.width, seen.width);
      EXPECT_EQ(cut.from.height, seen.height);
      // The same pixels lie at the same place against the pivot.
      const std::int32_t left = mirrored ? kWide - seen.x - seen.width : seen.x;
      EXPECT_EQ(cut.pivot_x, from.pivot_x - left) << frame;
      EXPECT_EQ(cut.pivot_y, from.pivot_y - seen.y) << frame;
    }
  const auto drawn = [&](const char* file) {
    write("bee.scene.yaml", std::string("mobrin: 1\nscene: s\nuntil: 1s\nactors: {bee: {machine: ") + file +
                                ", at: [1, 1]}, back: {machine: " + file + ", at: [3, 1], face: left}}\n");
    const LoadedScene loaded = load_scene(path("bee.scene.yaml"));
    EXPECT_TRUE(loaded.scene) << (loaded.findings.empty() ? "" : loaded.findings[0].text());
    const std::string to = path("stage.png");
    EXPECT_TRUE(draw_stage(*loaded.scene, {milliseconds(0), milliseconds(150), milliseconds(450)}, {}, to));
    return read_file(to);
  };
  EXPECT_EQ(drawn("grid.yaml"), drawn("packed.yaml"));
}

TEST_F(PackedSheet, WithoutAPivotStandsOnTheMiddleOfItsWholeLowerEdge) {
  draw({2});
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninitial: a\nclips: {fly: {sheet: bees.sheet.json, frames: [fly_2], fps: 1}}\n"
      "states: {a: {clip: fly}}\n",
      path("m.yaml"));
  ASSERT_TRUE(loaded.machine) << said(loaded);
  const PictureCut cut = loaded.machine->picture(0, 0).cut(40, 8);
  EXPECT_EQ(cut.pivot_x, kWide / 2.0 - body(2).x);
  EXPECT_EQ(cut.pivot_y, kHigh - body(2).y);
  // A pack remembers it.
  const auto packed = load_pack(pack(*loaded.machine));
  ASSERT_TRUE(packed);
  EXPECT_EQ(packed->picture(0, 0).cut(40, 8).pivot_x, cut.pivot_x);
}

TEST_F(PackedSheet, IsLookedAtAsTheWholePicturesAre) {
  draw({0, 1, 2, 3, 5});
  bees();
  EXPECT_EQ(art_file_findings(load_character(path("packed.yaml")), path("packed.yaml")).size(),
            art_file_findings(load_character(path("grid.yaml")), path("grid.yaml")).size());
  // Equal pixels trimmed at other places are other pictures; at the same place they are equal.
  const auto equal = [&](const char* second) {
    write("two.sheet.yaml", std::string("mobrin: 1\nimage: packed.png\nrects:\n  a: [1, 2, 3, 4, 0, 0, 8, 6]\n  b: ") +
                                second + "\n  c: [5, 2, 3, 3, 0, 0, 8, 6]\n");
    const Loaded loaded = load_character_text(
        "mobrin: 1\nmachine: m\ninitial: s\nclips: {fly: {sheet: two.sheet.yaml, frames: [a, b, c], fps: 9}}\n"
        "states: {s: {clip: fly}}\n",
        path("m.yaml"));
    EXPECT_TRUE(loaded.machine) << said(loaded);
    std::size_t found = 0;
    for (const Finding& each : art_file_findings(loaded, path("m.yaml")))
      found += each.code == FindingCode::equal_neighbours;
    return found;
  };
  EXPECT_EQ(equal("[1, 2, 3, 4, 1, 0, 8, 6]"), 0u);
  EXPECT_EQ(equal("[1, 2, 3, 4, 0, 0, 8, 6]"), 1u);
}

TEST_F(PackedSheet, SaysWhereItsDescriptionIsWrong) {
  draw({0});
  struct Row {
    const char *rects, *told;
  };
  for (const Row& row : std::initializer_list<Row>{
           {"rects: {a: [0, 0, 4]}", "bad.sheet.yaml:3:12: error: the rectangle"},
           {"rects: {a: [0, 0, 4, 4, 5, 0, 8, 6]}", "reaches past the whole picture of 8 x 6 pixels"},
           {"rects: {a: [0, 0, 4, 4, 0, 3, 8, 6]}", "reaches past the whole picture"},
           {"rects: {a: [0, 0, 4, 4, 0, 0, 900000, 900000]}", "more than 16 megapixels"},
           {"rects: {a: [0, 0, 0, 4]}", "from 1 to"},
           {"rect: {a: [0, 0, 4, 4]}", "Did you mean \"rects\"?"},
           {"", "lacks `rects:`"}}) {
    write("bad.sheet.yaml", std::string("mobrin: 1\nimage: packed.png\n") + row.rects + "\n");
    const std::string text =
        said_of("{sheet: bad.sheet.yaml, frames: [a], fps: 9}\n  again: {sheet: bad.sheet.yaml, frames: [a], fps: 9}");
    EXPECT_NE(text.find(row.told), std::string::npos) << row.rects << "\n" << text;
    EXPECT_EQ(text.find("there is no rectangle"), std::string::npos) << "told once, where it is\n" << text;
  }
  EXPECT_NE(said_of("{sheet: bees.sheet.json, frames: [fli_0], fps: 9}").find("Did you mean \"fly_0\"?"),
            std::string::npos);
  EXPECT_NE(said_of("{sheet: gone.sheet.json, frames: [a], fps: 9}").find("gone.sheet.json"), std::string::npos);
  EXPECT_NE(said_of("{sheet: ../bees.sheet.json, frames: [fly_0], fps: 9}").find("outside-folder"), std::string::npos);
  write("other.json", "{\"frames\": []}");
  EXPECT_NE(said_of("{sheet: other.json, frames: [a], fps: 9}").find("wrong-version"), std::string::npos);
}

TEST_F(PackedSheet, IsSeenFromItsOwnFolder) {
  draw({0, 1});
  std::filesystem::create_directories(path("art"));
  for (const char* each : {"packed.png", "bees.sheet.json"})
    std::filesystem::rename(path(each), path(std::string("art/") + each));
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: m\ninitial: a\nclips:\n  fly: {sheet: art/bees.sheet.json, frames: [fly_0, fly_1*3], fps: "
      "9}\n"
      "  grid: {sheet: grid.png, tile: [8, 6], frames: [0], fps: 9}\nstates: {a: {clip: fly}}\n",
      path("m.yaml"));
  ASSERT_TRUE(loaded.machine) << said(loaded);
  EXPECT_EQ(std::vector<std::string>(loaded.machine->images().begin(), loaded.machine->images().end()),
            (std::vector<std::string>{"art/packed.png", "grid.png"}));
  EXPECT_EQ(loaded.machine->clips()[0].def.frames[1].hold, 3);
  EXPECT_TRUE(art_file_findings(loaded, path("m.yaml")).empty());
}

TEST_F(PackedSheet, IsImportedByItsNames) {
  draw({1, 0, 3, 2});
  const Imported first = import({path("bees.sheet.json")});
  ASSERT_EQ(first.clips.size(), 1u) << (first.findings.empty() ? "" : first.findings[0].text());
  EXPECT_NE(first.text.find("sheet: bees.sheet.json\n    frames: [fly_0, fly_1, fly_2, fly_3]"), std::string::npos)
      << first.text;
  EXPECT_EQ(import({path("bees.sheet.json")}).text, first.text) << "nothing changed";
  // The same of its folder: the image is no picture of its own.
  std::filesystem::remove(path("grid.png"));
  EXPECT_EQ(import({folder_.string()}).text, first.text);

  // What people wrote goes with the pictures, wherever they are packed now.
  std::string text = first.text;
  text.replace(text.find("fly_1, fly_2"), 12, "fly_1*3, fly_2 ");
  write("bee.clips.yaml", text);
  draw({2, 5, 0, 1});  // 3 is gone, 5 is new
  const Imported again = import({path("bees.sheet.json")});
  EXPECT_NE(again.text.find("frames: [fly_0, fly_1*3, fly_2, fly_5]"), std::string::npos) << again.text;
  EXPECT_TRUE(load_character(path("bee.clips.yaml")).machine) << said(load_character(path("bee.clips.yaml")));
  // Under other names they are known by their pixels: the clip was renamed.
  draw({2, 5, 0, 1}, "hover_");
  const Imported renamed = import({path("bees.sheet.json")});
  ASSERT_FALSE(renamed.moves.empty());
  EXPECT_NE(renamed.text.find("hover:"), std::string::npos) << renamed.text;
  EXPECT_NE(renamed.text.find("hover_1*3"), std::string::npos) << renamed.text;
}

TEST_F(PackedSheet, ThatCannotBeImportedSaysWhy) {
  draw({0, 1});
  const auto told = [&](const std::string& text) {
    write("bad.sheet.json", text);
    const Imported out = import({path("bad.sheet.json")});
    EXPECT_TRUE(has_errors(out.findings) || !out.findings.empty()) << text;
    std::string all;
    for (const Finding& each : out.findings) all += each.text() + "\n";
    return all;
  };
  EXPECT_NE(told(R"({"mobrin": 1, "image": "packed.png", "rects": {"a_0": [38, 0, 4, 4]}})").find("lies outside"),
            std::string::npos);
  EXPECT_NE(told(R"({"mobrin": 1, "image": "gone.png", "rects": {"a_0": [0, 0, 4, 4]}})").find("gone.png"),
            std::string::npos);
  EXPECT_NE(told(R"({"mobrin": 1, "image": "packed.png", "rects": {"a*0": [0, 0, 4, 4]}})").find("without `*`"),
            std::string::npos);
  EXPECT_NE(told(R"({"mobrin": 2, "image": "packed.png", "rects": {"a": [0, 0, 4, 4]}})").find("wrong-version"),
            std::string::npos);
  EXPECT_NE(told(R"({"pictures": []})").find("describes no packed sheet"), std::string::npos);
  EXPECT_NE(
      told(R"({"mobrin": 1, "image": "packed.png", "rects": {"a_0": [0, 0, 4, 4], "a_0": [0, 0, 4, 4]}})").find("a_0"),
      std::string::npos);
}

}  // namespace
}  // namespace mobrin::test
