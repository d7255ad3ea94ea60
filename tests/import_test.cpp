// Importing: from images to clips, and what is told of doubtful ones.
#include "mobrin/io/import.hpp"

#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>

#include "mobrin/io/image.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

namespace fs = std::filesystem;
using Lines = std::vector<std::string>;

class Import : public testing::Test {
 protected:
  Import() : folder_(fs::temp_directory_path() / ("mobrin_import_" + std::to_string(::getpid()))) {
    fs::remove_all(folder_);
    fs::create_directories(folder_);
    options_.out = (folder_ / "art.clips.yaml").string();
  }
  ~Import() override { fs::remove_all(folder_); }

  // Puts images of the demo under other names.
  void put(const std::string& name, const char* image = "smoker.png") {
    fs::create_directories((folder_ / name).parent_path());
    fs::copy_file(fs::path(MOBRIN_DEMO) / image, folder_ / name, fs::copy_options::overwrite_existing);
  }
  Imported import(const std::string& source = "art") {
    options_.sources = {(folder_ / source).string()};
    return import_art(options_);
  }
  std::string without_folder(std::string text) const {
    const std::string prefix = folder_.string() + "/";
    for (std::size_t at = text.find(prefix); at != std::string::npos; at = text.find(prefix))
      text.erase(at, prefix.size());
    return text;
  }
  std::string findings(const Imported& imported) const { return without_folder(joined(imported.findings)); }
  static Lines sources(const ClipDef& clip) {
    Lines out;
    for (const FrameDef& frame : clip.frames) out.push_back(fs::path(frame.art.source).filename().string());
    return out;
  }
  void write(const Imported& imported) const { std::ofstream(options_.out) << imported.text; }

  fs::path folder_;
  ImportOptions options_;
};

TEST_F(Import, NumbersInsideNamesCount) {
  for (int i = 0; i < 11; ++i) {
    const std::string n = std::to_string(i);
    put("art/walk_" + n + "_left.png");
    put("art/walk_" + n + "_right.png");
    put("art/sting-" + n + "@2x.png");
    put("art/turn/0" + n + "_turn.png");
    put("art/hop" + n + "/hop.png");  // another folder is another clip
  }
  put("art/v2_rest.png");  // a number that nothing else differs by
  for (const char* n : {"0_0", "0_1", "1_0", "1_1"}) put("art/tile_" + std::string(n) + "_day.png");
  put("art/dive_1.png"), put("art/dive_2.png"), put("art/dive_1_low.png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  std::map<std::string, Lines> clips;
  for (const ClipDef& clip : imported.clips) clips[clip.name.text] = sources(clip);
  EXPECT_EQ(clips.size(), 11u + 9);
  EXPECT_EQ(clips["walk_left"].size(), 11u);
  EXPECT_EQ(clips["walk_right"].back(), "walk_10_right.png");
  EXPECT_EQ(clips["sting_2x"].back(), "sting-10@2x.png");
  EXPECT_EQ(clips["turn"].back(), "010_turn.png");
  EXPECT_EQ(clips["hop3_hop"], Lines{"hop.png"});
  EXPECT_EQ(clips["v2_rest"], Lines{"v2_rest.png"});
  EXPECT_EQ(clips["tile_0_day"], (Lines{"tile_0_0_day.png", "tile_0_1_day.png"}));
  EXPECT_EQ(clips["dive"], (Lines{"dive_1.png", "dive_2.png"}));
  EXPECT_EQ(clips["dive_1_low"], Lines{"dive_1_low.png"});
  EXPECT_EQ(std::count(imported.notes.begin(), imported.notes.end(),
                       "\"walk_left\": numbered inside their names, as \"walk_0_left\""),
            1);
}

TEST_F(Import, HowManyThereAreIsNoNumberOfAPicture) {
  for (const char* n : {"1", "2", "3", "10"}) {
    put("art/bite_" + std::string(n) + "of10.png");
    put("art/flap " + std::string(n) + " of 10.png");
  }
  put("art/roof2.png"), put("art/roof3.png"), put("art/9of3.png");
  const Imported imported = import();
  Lines clips;
  for (const ClipDef& clip : imported.clips) clips.push_back(clip.name.text + " " + std::to_string(clip.frames.size()));
  EXPECT_EQ(clips, (Lines{"bite 4", "clip_9of 1", "flap 4", "roof 2"}));
}

TEST_F(Import, LettersThatAClipsNameCannotHaveAreTold) {
  put("art/Fl\u00fcgel_1.png"), put("art/Fl\u00fcgel_2.png");
  put("art/gro\u00df_1.png"), put("art/na\u0308he.png");  // a letter, and its mark as one of its own
  put("art/\u98db_1.png"), put("art/\u98db_2.png");
  put("art/10th bee.png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  Lines clips;
  for (const ClipDef& clip : imported.clips) clips.push_back(clip.name.text + " " + std::to_string(clip.frames.size()));
  EXPECT_EQ(clips, (Lines{"Flugel 2", "clip 2", "clip_10th_bee 1", "gross 1", "nahe 1"}));
  const std::string letters = "\"; a clip's name is made of the letters a to z, digits and _";
  EXPECT_EQ(imported.notes,
            (Lines{"\"clip_10th_bee\": called \"10th bee" + letters, "\"Flugel\": called \"Fl\u00fcgel_1" + letters,
                   "\"gross\": called \"gro\u00df_1" + letters, "\"nahe\": called \"na\u0308he" + letters,
                   "\"clip\": called \"\u98db_1" + letters}));
}

TEST_F(Import, PicturesOfTwoNamesAreNeverOneClip) {
  put("art/\u98db_1.png"), put("art/\u8d70_2.png"), put("art/\u8d70_3.png"), put("art/rest.png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported),
            "art/\u8d70_2.png: error: \"\u8d70_2\" and \"\u98db_1\" would both be of a clip \"clip\" "
            "[duplicate-name]\n    Rename the pictures of one of them: a clip's name is made of the letters a to z, "
            "digits and _.\n");
  EXPECT_EQ(imported.notes, Lines{});
  // Beside other errors warnings stay what they are.
  fs::remove(folder_ / "art/rest.png");
  put("art/walk_1.png"), put("art/walk_01.png"), put("art/walk_3.png");
  EXPECT_NE(findings(import()).find("art/walk_3.png: warning: the number 2 is missing"), std::string::npos);
}

TEST_F(Import, ClipsThatDifferInCapitalLettersOnlyAreTold) {
  put("art/WALK_1.PNG"), put("art/Walk_2.png"), put("art/walk_3.png"), put("art/wake_1.png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  EXPECT_EQ(imported.clips.size(), 4u);
  EXPECT_EQ(imported.notes, Lines{"\"WALK\": differs from \"Walk\", \"walk\" in capital letters only; if they are one "
                                  "clip, rename their pictures"});
}

TEST_F(Import, HiddenFilesAndFoldersAreNoArt) {
  put("art/walk_1.png"), put("art/._walk_1.png"), put("art/.walk_2.png"), put("art/.old/walk_1.png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(sources(imported.clips[0]), Lines{"walk_1.png"});
  // Unless it is what was named.
  put(".hidden/hop_1.png");
  EXPECT_EQ(import(".hidden").clips.size(), 1u);
  EXPECT_EQ(import("art/.walk_2.png").clips.size(), 1u);
}

TEST_F(Import, AnImageThatIsNotThereIsAnsweredWithTheOneBesideIt) {
  put("sheet.png");
  EXPECT_EQ(findings(import("shet.png")),
            "shet.png: error: the file cannot be opened [unreadable-file]\n    Did you mean \"sheet.png\"?\n");
}

TEST_F(Import, OneImageIsSaidToBeTakenAsOne) {
  put("sheet.png");
  const Imported imported = import("sheet.png");
  ASSERT_EQ(imported.notes.size(), 1u);
  EXPECT_EQ(
      without_folder(imported.notes[0]),
      "\"sheet.png\": taken as one picture; a sheet is cut into cells with `--tile`; `--tile 24x28` would fit its "
      "pictures");
}

TEST_F(Import, SixteenFramesNamedZeroToFifteenComeInTheOrderOfTheirNumbers) {
  for (int i = 0; i < 16; ++i) put("art/dusk/" + std::to_string(i) + ".png");
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(imported.clips[0].name.text, "dusk");
  Lines expected;
  for (int i = 0; i < 16; ++i) expected.push_back(std::to_string(i) + ".png");
  EXPECT_EQ(sources(imported.clips[0]), expected);
}

TEST_F(Import, NamesAreReadInEveryUsualWay) {
  for (const char* name : {"walk_1", "walk_2", "walk_10", "hop-01", "hop-02", "net0001", "net0002", "sag (3)",
                           "sag (4)", "lie", "deep/er/turn.7", "deep/er/turn.8"})
    put("art/" + std::string(name) + ".png");
  std::ofstream(folder_ / "art/notes.txt") << "no art";
  const Imported imported = import();
  Lines clips;
  for (const ClipDef& clip : imported.clips) clips.push_back(clip.name.text + " " + std::to_string(clip.frames.size()));
  EXPECT_EQ(clips, (Lines{"deep_er_turn 2", "hop 2", "lie 1", "net 2", "sag 2", "walk 3"}));
  EXPECT_EQ(sources(imported.clips[5]), (Lines{"walk_1.png", "walk_2.png", "walk_10.png"}));
  EXPECT_EQ(findings(imported),
            "art/walk_10.png: warning: the numbers 3 to 9 are missing between \"walk_2.png\" and \"walk_10.png\" "
            "[gap-in-numbers]\n    If a frame was lost, add it; else number the images anew.\n");
  // What is written loads, and says the same.
  write(imported);
  const Loaded loaded = load_character(options_.out);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings);
  EXPECT_EQ(loaded.machine->clips().size(), 6u);
  EXPECT_EQ(loaded.machine->clips()[4].def.frames[0].art.source, "art/sag (3).png");
}

TEST_F(Import, TheSameNumberTwiceAndDifferentSizesAreFindingsNotChoices) {
  put("art/walk_1.png");
  put("art/walk_01.png");
  put("art/hop_1.png");
  put("art/hop_2.png", "hive.png");
  std::ofstream(folder_ / "art/broken_1.png") << "no picture";
  const Imported imported = import();
  EXPECT_EQ(
      findings(imported),
      "art/broken_1.png: error: this is no PNG, WebP, GIF or glTF file [unreadable-art]\n    Give images, animated or "
      "not (PNG, WebP, GIF), glTF 2.0 files or packed sheets (docs/format.md).\n"
      "art/hop_2.png: warning: \"hop_2.png\" is 240 x 56 pixels, \"hop_1.png\" 192 x 28 [mixed-sizes]\n    Give all "
      "images of a clip one size, or it will jump.\n"
      "art/walk_1.png: error: \"walk_01.png\" and \"walk_1.png\" have the same number [number-twice]\n    Remove one, "
      "or give it another number.\n");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(imported.clips[0].name.text, "hop");
}

TEST_F(Import, AGridIsCutIntoRowsAndOneThatOverrunsIsRefusedWithTheArithmetic) {
  put("keeper.png", "keeper.png");
  options_.grid = SheetGrid{48, 40, 0, 0, {}, {{1, "walk"}, {2, "net"}}};
  const Imported imported = import("keeper.png");
  EXPECT_EQ(findings(imported), "");
  EXPECT_EQ(imported.notes,
            (Lines{"\"walk\": 2 empty cells at its end left out", "\"net\": 2 empty cells at its end left out"}));
  ASSERT_EQ(imported.clips.size(), 2u);
  EXPECT_EQ(imported.clips[1].frames.size(), 6u);
  EXPECT_EQ(imported.clips[1].frames[0].art.tile, "8");
  EXPECT_NE(imported.text.find("    sheet: keeper.png\n    tile: [48, 40]\n    frames: [8-13]\n"), std::string::npos)
      << imported.text;

  options_.grid = SheetGrid{50, 40};
  EXPECT_EQ(findings(import("keeper.png")),
            "keeper.png: error: the image is 384 pixels wide; 8 columns of 50 would take 400 [bad-grid]\n    Check "
            "`--tile`, `--margin` and `--spacing`; `--tile 48x40` would fit its pictures.\n");
  for (const SheetGrid& none : {SheetGrid{0, 40}, SheetGrid{48, -1}, SheetGrid{48, 40, -1}, SheetGrid{48, 40, 0, -48},
                                SheetGrid{48, 40, 0, 1 << 17}}) {
    options_.grid = none;
    EXPECT_NE(findings(import("keeper.png")).find("no grid has such sizes [bad-grid]"), std::string::npos)
        << none.width;
  }
  options_.grid = SheetGrid{46, 40, 0, 2, {}, {}};
  EXPECT_EQ(
      findings(import("keeper.png")),
      "keeper.png: error: the image is 384 pixels wide; 9 columns of 46 would take 430 with margin and spacing "
      "[bad-grid]\n    Check `--tile`, `--margin` and `--spacing`; `--tile 48x40` would fit its pictures.\nkeeper.png: "
      "error: the image is 240 pixels high; 6 rows of 40 would take 250 with margin and spacing [bad-grid]\n    Check "
      "`--tile`, `--margin` and `--spacing`; `--tile 48x40` would fit its pictures.\n");
  options_.grid = SheetGrid{48, 40, 0, 0, 49, {}};
  EXPECT_EQ(findings(import("keeper.png")),
            "keeper.png: error: the sheet has 8 x 6 = 48 cells, not 49 [bad-grid]\n    Check `--count`.\n");
  options_.grid = SheetGrid{48, 40, 0, 0, 8, {{3, "hop"}}};
  EXPECT_EQ(findings(import("keeper.png")),
            "keeper.png: error: row 3 begins behind the first 8 cells [bad-grid]\n    `--count` counts the cells of "
            "the whole sheet: raise it, or leave it out.\n");
  options_.grid = SheetGrid{48, 40};
  EXPECT_NE(findings(import("keeper.png")).find("16 cells of \"keeper\" are empty: 4, 5, 6, 7, 14, 15, 22, 23, ..."),
            std::string::npos);
}

// What no command would load is not written.
TEST_F(Import, ASheetOfMoreCellsThanAClipHasIsRefused) {
  put("art/keeper.png", "keeper.png");
  options_.grid = SheetGrid{2, 2};
  const Imported imported = import("art/keeper.png");
  EXPECT_TRUE(imported.clips.empty());
  EXPECT_NE(findings(imported).find("\"keeper\" has "), std::string::npos) << findings(imported);
  EXPECT_NE(findings(imported).find(" frames [too-large]\n    At most 10000 are supported: take rows of it, "),
            std::string::npos)
      << findings(imported);
}

TEST_F(Import, ASheetWithNothingOnItIsOneError) {
  ASSERT_TRUE(
      write_png(Image{16, 8, std::vector<std::uint8_t>(std::size_t{16} * 8 * 4)}, (folder_ / "bare.png").string()));
  options_.grid = SheetGrid{8, 8};
  EXPECT_EQ(
      findings(import("bare.png")),
      "bare.png: error: all cells of \"bare\" are empty [empty-frame]\n    Check that this is the right image.\n");
}

TEST_F(Import, RunAgainItKeepsTheTimingThatTheFileSays) {
  for (int i = 1; i <= 3; ++i) put("art/walk_" + std::to_string(i) + ".png");
  write(import());
  std::string text = import().text;
  for (const auto& [from, to] :
       {std::pair("    fps: 12\n", "    frames: [0, 1*4, 2]\n    fps: 14\n"), std::pair("play: once", "play: loop")})
    text.replace(text.find(from), std::string(from).size(), to);
  std::ofstream(options_.out) << text;
  const Imported again = import();
  EXPECT_EQ(again.clips[0].fps.num, 14);
  EXPECT_EQ(again.clips[0].play.text(), "loop");
  EXPECT_EQ(again.clips[0].frames[1].hold, 4);
  EXPECT_NE(again.text.find("frames: [0, 1*4, 2]"), std::string::npos) << again.text;
  write(again);
  EXPECT_EQ(import().text, again.text);
  put("art/walk_4.png");
  const Imported longer = import();
  EXPECT_EQ(longer.clips[0].fps.num, 14);
  EXPECT_EQ(longer.clips[0].frames[1].hold, 4) << "holds go with their pictures";
  EXPECT_EQ(longer.notes, Lines{"\"walk\": 1 picture is new"});
  options_.fps = Fraction{30000, 1001};
  EXPECT_NE(import().text.find("fps: 30000/1001"), std::string::npos);
}

TEST_F(Import, AMachineOrABrokenFileIsNotOverwritten) {
  put("art/walk_1.png");
  std::ofstream(options_.out) << "mobrin: 1\nmachine: m\nstates: {a: {}}\n";
  EXPECT_EQ(findings(import()),
            "art.clips.yaml: error: there is a machine in this file already [wrong-kind-of-file]\n    "
            "Import into a file of its own, which the machine names under `use:`.\n");
  std::ofstream(options_.out) << "mobrin: 1\nclips: {walk: {fps: fast}}\n";
  EXPECT_TRUE(has_errors(import().findings));
  EXPECT_TRUE(has_errors(import("nowhere").findings));
}

TEST_F(Import, ManyImagesAreNotDecoded) {
  // Two thousand headers of huge images, with nothing behind them: only what says their size is read.
  fs::create_directories(folder_ / "art");
  const unsigned char head[] = {0x89, 'P', 'N', 'G',  '\r', '\n', 0x1a, '\n', 0, 0, 0, 13, 'I', 'H', 'D',
                                'R',  0,   0,   0x40, 0,    0,    0,    0x40, 0, 8, 6, 0,  0,   0};
  for (int i = 0; i < 2000; ++i) {
    char name[32];
    std::snprintf(name, sizeof name, "art/long%04d.png", i);
    std::ofstream(folder_ / name, std::ios::binary).write(reinterpret_cast<const char*>(head), sizeof head);
  }
  std::size_t last = 0;
  options_.progress = [&](std::size_t done, std::size_t all) {
    EXPECT_EQ(all, 2000u);
    last = done;
  };
  const Imported imported = import();
  EXPECT_EQ(findings(imported), "");
  ASSERT_EQ(imported.clips.size(), 1u);
  EXPECT_EQ(imported.clips[0].frames.size(), 2000u);
  EXPECT_EQ(last, 2000u);
}

}  // namespace
}  // namespace mobrin::test
