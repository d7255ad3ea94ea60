// Marks follow their pictures, however a file writes them; files are written whole, by one at a time.
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <filesystem>
#include <fstream>
#include <thread>

#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

namespace fs = std::filesystem;

// A clip `walk` of pictures, known by numbers; its marks before and after other pictures came.
struct FollowRow {
  const char* name;
  std::vector<int> before, after;
  const char* marks;     // in `walk: ...`
  const char* expected;  // what becomes of them
  std::size_t losses = 0;
  const char* clips = "";  // appended to the entry of the clips file, such as an order of one's own
};

const FollowRow kFollow[] = {
    {"NothingMovesWhereNothingDoes", {1, 2, 3}, {1, 2, 3}, "{cues: {1: a, 2.end: b}}", "{cues: {1: a, 2.end: b}}"},
    {"AKeyInQuotes", {1, 2, 3}, {9, 1, 2, 3}, "{cues: {\"1\": a}}", "{cues: {\"2\": a}}"},
    {"TheEndOfAFrame", {1, 2, 3}, {1, 9, 2, 3}, "{cues: {0.end: a, 2.end: b}}", "{cues: {0.end: a, 3.end: b}}"},
    {"TwoThatChangePlaces", {1, 2, 3}, {1, 3, 2}, "{cues: {1: a, 2: b}}", "{cues: {2: a, 1: b}}"},
    {"ACueGoesWithItsPicture", {1, 2, 3}, {1, 3}, "{cues: {0: a, 1: b, 2: c}}", "{cues: {0: a, 1: c}}", 1},
    {"TheLastCueToo", {1, 2, 3}, {1, 3}, "{cues: {1: b}, pivot: [1, 1]}", "{cues: {}, pivot: [1, 1]}", 1},
    {"SeveralCuesOfOnePlace",
     {1, 2, 3},
     {9, 1, 2, 3},
     "{cues: {1: [a, {b: {n: 2}}]}}",
     "{cues: {2: [a, {b: {n: 2}}]}}"},
    {"ASpanGrowsAroundANewOne", {1, 2, 3, 4}, {1, 2, 9, 3, 4}, "{spans: {a: 1-2}}", "{spans: {a: 1-3}}"},
    {"ASpanDoesNotGrowAtItsEdge", {1, 2, 3, 4}, {1, 9, 2, 3, 4}, "{spans: {a: 1-2}}", "{spans: {a: 2-3}}"},
    {"ASpanOverAllGrowsAtItsEnd", {1, 2, 3}, {1, 2, 3, 9}, "{spans: {a: 0-2}}", "{spans: {a: 0-3}}"},
    {"ASpanShrinks", {1, 2, 3, 4}, {1, 3, 4}, "{spans: {a: 0-2}}", "{spans: {a: 0-1}}"},
    {"ASpanIsLostWithAllOfIt", {1, 2, 3, 4}, {1, 4}, "{spans: {a: 1-2, b: 0}}", "{spans: {b: 0}}", 1},
    {"ASpanOfSeveralParts", {1, 2, 3, 4}, {9, 1, 2, 3, 4}, "{spans: {a: [0, 2-3]}}", "{spans: {a: [1, 3-4]}}"},
    {"ASpanWithFields",
     {1, 2, 3},
     {9, 1, 2, 3},
     "{spans: {b: {frames: 1-2, n: 2}}}",
     "{spans: {b: {frames: 2-3, n: 2}}}"},
    {"AWindowTornApart", {1, 2, 3, 4}, {2, 1, 4, 3}, "{windows: {w: 0-2}}", "{windows: {w: [0-1, 3]}}"},
    {"AWindowInTimes", {1, 2, 3}, {9, 1, 2, 3}, "{windows: {w: 0.1s-0.2s}}", "{windows: {w: 200ms-300ms}}"},
    {"AnOffsetOfOneFrame", {1, 2, 3}, {9, 1, 2, 3}, "{offsets: {2: [1, 0]}}", "{offsets: {3: [1, 0]}}"},
    {"AnOffsetIsLost", {1, 2, 3}, {1, 2}, "{offsets: {2: [1, 0], 0: [0, 1]}}", "{offsets: {0: [0, 1]}}", 1},
    {"ABoxForTheWholeClipStays",
     {1, 2},
     {9, 1, 2},
     "{boxes: [{name: b, role: hurt, rect: [0, 0, 2, 2]}]}",
     "{boxes: [{name: b, role: hurt, rect: [0, 0, 2, 2]}]}"},
    {"ABoxOfFrames",
     {1, 2, 3},
     {9, 1, 2, 3},
     "{boxes: [{name: b, role: hurt, frames: [0, 2], rect: [0, 0, 2, 2]}]}",
     "{boxes: [{name: b, role: hurt, frames: [1, 3], rect: [0, 0, 2, 2]}]}"},
    {"ABoxIsLostAndTheOtherStays",
     {1, 2, 3},
     {1, 2},
     "{boxes: [{name: b, role: hurt, frames: 2, rect: [0, 0, 2, 2]}, {name: c, role: hurt, frames: 0, rect: [0, 0, 2, "
     "2]}]}",
     "{boxes: [{name: c, role: hurt, frames: 0, rect: [0, 0, 2, 2]}]}",
     1},
    {"KeysOfATrack",
     {1, 2, 3},
     {9, 1, 2, 3},
     "{tracks: {lid: {keys: {0: 1, 2: 4, 0.3s: 5}}}}",
     "{tracks: {lid: {keys: {1: 1, 3: 4, 400ms: 5}}}}"},
    {"ATrackGoesWithItsLastKey",
     {1, 2, 3},
     {1, 3},
     "{tracks: {lid: {keys: {1: 1, 1.end: 2}}, cap: {keys: {0: 2, 1: 3}}}}",
     "{tracks: {cap: {keys: {0: 2}}}}",
     3},
    {"TheOnlyTrackToo", {1, 2, 3}, {1, 3}, "{tracks: {lid: {keys: {1: 1}}}}", "{tracks: {}}", 1},
    {"AnOrderOfOnesOwn",
     {1, 2, 3},
     {9, 1, 2, 3},
     "{cues: {0: a, 2: b}}",
     "{cues: {0: a, 2: b}}",
     0,
     "frames: [2, 1, 0]"},
};

class ArtThatChanges : public testing::Test {
 protected:
  ArtThatChanges()
      : folder_((fs::exists("/dev/shm") ? fs::path("/dev/shm") : fs::temp_directory_path()) /
                ("mobrin_follow_" + std::to_string(::getpid()))) {
    fs::remove_all(folder_);
    fs::create_directories(folder_ / "art");
    options_.out = (folder_ / "a.clips.yaml").string();
    options_.sources = {(folder_ / "art").string()};
  }
  ~ArtThatChanges() override { fs::remove_all(folder_); }
  void paint(const std::vector<int>& pictures, const std::string& clip = "walk") const {
    for (const auto& each : fs::directory_iterator(folder_ / "art"))
      if (each.path().filename().string().starts_with(clip + "_")) fs::remove(each.path());
    for (std::size_t i = 0; i < pictures.size(); ++i) {
      Image image{1, 1, {static_cast<std::uint8_t>(pictures[i]), 7, 7, 255}};
      ASSERT_TRUE(write_png(image, (folder_ / ("art/" + clip + "_" + std::to_string(i) + ".png")).string()));
    }
  }
  void put(const std::string& name, const std::string& text) const {
    std::ofstream(folder_ / name, std::ios::binary) << text;
  }
  [[nodiscard]] std::string get(const std::string& name) const { return *mobrin::read_file((folder_ / name).string()); }
  // Imports and writes what comes of it.
  Imported import() const {
    Imported out = import_art(options_);
    EXPECT_FALSE(has_errors(out.findings)) << joined(out.findings);
    for (const auto& [path, text] : out.others) std::ofstream(path, std::ios::binary) << text;
    std::ofstream(options_.out, std::ios::binary) << out.text;
    return out;
  }
  fs::path folder_;
  ImportOptions options_;
};

class Follow : public ArtThatChanges, public testing::WithParamInterface<FollowRow> {
 protected:
  // As the row says, with the marks as `around` writes them.
  void follows(const std::string& name, const std::string& head, const std::string& tail) {
    const FollowRow& row = GetParam();
    paint(row.before);
    options_.fps = Fraction{10, 1};
    import();
    options_.fps.reset();
    if (row.clips[0] != '\0') {
      std::string text = get("a.clips.yaml");
      text.replace(text.find("    fps:"), 0, std::string("    ") + row.clips + "\n");
      put("a.clips.yaml", text);
    }
    put(name, head + row.marks + tail);
    put("m.yaml", "mobrin: 1\nmachine: m\nuse: [a.clips.yaml, " + name +
                      "]\ncues: {a: {}, b: {n: 1}, c: {}}\nstates: {s: {clip: walk}}\n");
    paint(row.after);
    const Imported again = import();
    EXPECT_EQ(get(name), head + row.expected + tail);
    EXPECT_EQ(again.losses.size(), row.losses) << testing::PrintToString(again.losses);
    EXPECT_TRUE(load_character((folder_ / "m.yaml").string()).machine)
        << joined(load_character((folder_ / "m.yaml").string()).findings) << get(name);
  }
};

TEST_P(Follow, InAFileOfMarks) {
  follows("a.marks.yaml", "# of mine\nmobrin: 1\nmarks:   # here\n  walk: ", "  # walks\n  # end\n");
}
TEST_P(Follow, InAFileOfAnyOtherName) { follows("b.yaml", "mobrin: 1\r\nmarks: {walk: ", "}\r\n"); }

std::string name_of_follow(const testing::TestParamInfo<FollowRow>& row) { return row.param.name; }
INSTANTIATE_TEST_SUITE_P(All, Follow, testing::ValuesIn(kFollow), name_of_follow);

// So do times: those of a window that a rule asks for, of a start, of a span.
TEST_F(ArtThatChanges, TimesOfTransitionsAndSpans) {
  paint({1, 2, 3});
  options_.fps = Fraction{10, 1};
  import();
  options_.fps.reset();
  put("m.yaml",
      "mobrin: 1\nmachine: m\nuse: [a.clips.yaml]\ninputs: {p: pulse}\ncues: {t: effect}\n"
      "marks: {walk: {spans: {t: 0.15s-0.3s}}}\nstates:\n"
      "  s: {clip: walk, go: [{pulse: p, during: 0.1s-0.2s, to: u, start: 0.15s}]}\n  u: {clip: walk}\ninitial: s\n");
  paint({9, 1, 2, 3});
  EXPECT_TRUE(import().losses.empty());
  const std::string after = get("m.yaml");
  EXPECT_NE(after.find("during: 200ms-300ms, to: u, start: 250ms"), std::string::npos) << after;
  EXPECT_NE(after.find("spans: {t: 250ms-400ms}"), std::string::npos) << after;
}

// Where the play of an entered state begins moves with its picture too, or is told.
TEST_F(ArtThatChanges, StartsOfTransitions) {
  paint({1, 2, 3});
  options_.fps = Fraction{10, 1};
  import();
  options_.fps.reset();
  const std::string states =
      "mobrin: 1\nmachine: m\nuse: [a.clips.yaml]\ninputs: {p: pulse}\nstates:\n"
      "  s: {clip: walk, go: [{pulse: p, to: t, start: 1}, {pulse: p, to: u, start: 2}]}\n"
      "  t: {states: {inner: {clip: walk}}, go: [{pulse: p, to: other, start: 1}, {pulse: p, to: back, start: 0}]}\n"
      "  u: {clip: walk}\n  other: {length: 1s}\ninitial: s\n";
  put("m.yaml", states);
  paint({9, 1, 2});
  const Imported again = import();
  std::string expected = states;
  expected.replace(expected.find("start: 1"), 8, "start: 2");
  EXPECT_EQ(get("m.yaml"), expected);
  ASSERT_EQ(again.losses.size(), 2U) << testing::PrintToString(again.losses);
  EXPECT_NE(again.losses[0].find("m.yaml:6: the start of the play in \"u\" of \"walk\" is lost: its picture"),
            std::string::npos)
      << again.losses[0];
  EXPECT_NE(again.losses[1].find("m.yaml:7: the start of the play in \"back\" may be meant at a picture of \"walk\""),
            std::string::npos)
      << again.losses[1];
}

// Several clips of one file change at once: each loses and moves what is its own, told at the lines of before.
TEST_F(ArtThatChanges, SeveralClipsOfOneFile) {
  const std::vector<std::string> clips = {"dig", "hop", "walk"};
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const int first = 10 * static_cast<int>(i);
    paint({first, first + 1, first + 2, first + 3}, clips[i]);
  }
  import();
  const std::string head = "mobrin: 1\nmarks:\n";
  put("a.marks.yaml", head +
                          "  dig:\n    cues:\n      1: a\n      2: b\n      3: c\n"
                          "  hop: {boxes: [{name: b, role: hurt, frames: 1, rect: [0, 0, 2, 2]}]}\n"
                          "  walk:\n    cues: {0: a, 3: b}\n");
  paint({0, 3}, "dig");
  paint({10, 12, 13}, "hop");
  paint({99, 20, 21, 22, 23}, "walk");
  const Imported again = import();
  EXPECT_EQ(get("a.marks.yaml"), head + "  dig:\n    cues:\n      1: c\n  hop: {}\n  walk:\n    cues: {1: a, 4: b}\n");
  std::string losses;
  for (const std::string& each : again.losses) losses += each.substr(each.rfind('/') + 1) + "\n";
  EXPECT_EQ(losses,
            "a.marks.yaml:5: the cue a of \"dig\" is lost: its picture dig_1.png is gone\n"
            "a.marks.yaml:5: the cue b of \"dig\" is lost: its picture dig_2.png is gone\n"
            "a.marks.yaml:8: the box b of \"hop\" is lost: its picture hop_1.png is gone\n");
  EXPECT_EQ(again.moves.size(), 3U) << testing::PrintToString(again.moves);
}

// What two clips say in one place, by an alias, moves where both want it so, and else stays to be moved by hand.
TEST_F(ArtThatChanges, MarksThatClipsShare) {
  const auto both = [&](const std::vector<int>& dig, const std::vector<int>& walk) {
    paint({1, 2, 3}, "dig");
    paint({11, 12, 13});
    import();
    put("a.marks.yaml", "mobrin: 1\nmarks:\n  dig: &both {cues: {1: a, 2: b}}\n  walk: *both\n");
    paint(dig, "dig");
    paint(walk);
    const Imported again = import();
    const std::string text = get("a.marks.yaml");
    return text.substr(text.find("{cues")) + testing::PrintToString(again.losses.size());
  };
  EXPECT_EQ(both({9, 1, 2, 3}, {19, 11, 12, 13}), "{cues: {2: a, 3: b}}\n  walk: *both\n0");
  EXPECT_EQ(both({9, 1, 2, 3}, {11, 12, 13}), "{cues: {1: a, 2: b}}\n  walk: *both\n1");
  EXPECT_EQ(both({9, 1, 2, 3}, {18, 19, 11, 12, 13}), "{cues: {1: a, 2: b}}\n  walk: *both\n2");
  EXPECT_EQ(both({1, 3}, {11, 12, 13}), "{cues: {1: a, 2: b}}\n  walk: *both\n1");
}

// --- files ----------------------------------------------------------------------------------------------------------

class FilesWritten : public testing::Test {
 protected:
  FilesWritten() : folder_(fs::temp_directory_path() / ("mobrin_files_" + std::to_string(::getpid()))) {
    fs::remove_all(folder_);
    fs::create_directories(folder_);
  }
  ~FilesWritten() override { fs::remove_all(folder_); }
  [[nodiscard]] std::string path(const std::string& name) const { return (folder_ / name).string(); }
  [[nodiscard]] std::size_t count() const {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder_), fs::directory_iterator()));
  }
  fs::path folder_;
};

TEST_F(FilesWritten, SeveralAtOnceOrNone) {
  ASSERT_TRUE(mobrin::write_files({{path("a"), "1"}, {path("b"), "2"}}));
  EXPECT_EQ(*mobrin::read_file(path("a")) + *mobrin::read_file(path("b")), "12");
  const Outcome refused = mobrin::write_files({{path("a"), "3"}, {path("nowhere/b"), "4"}});
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("nowhere/b"), std::string::npos);
  EXPECT_EQ(*mobrin::read_file(path("a")), "1") << "the first is as it was";
  EXPECT_EQ(count(), 2u) << "nothing is left behind";
}

TEST_F(FilesWritten, KeepTheirModeAndTheirLinks) {
  ASSERT_TRUE(mobrin::write_file(path("a"), "1"));
  fs::permissions(path("a"), fs::perms::owner_read | fs::perms::owner_write);
  fs::create_symlink(path("a"), path("link"));
  ASSERT_TRUE(mobrin::write_file(path("link"), "2"));
  EXPECT_TRUE(fs::is_symlink(path("link")));
  EXPECT_EQ(*mobrin::read_file(path("a")), "2");
  EXPECT_EQ(fs::status(path("a")).permissions(), fs::perms::owner_read | fs::perms::owner_write);
  if (::geteuid() != 0) {
    fs::permissions(path("a"), fs::perms::owner_read);
    EXPECT_FALSE(mobrin::write_file(path("a"), "3"));
  }
}

TEST_F(FilesWritten, ArePlainOrSaidNotToBe) {
  EXPECT_FALSE(mobrin::is_plain_file(path("none")));
  EXPECT_FALSE(mobrin::is_plain_file(folder_.string()));
  ASSERT_EQ(::mkfifo(path("pipe").c_str(), 0600), 0);
  EXPECT_FALSE(mobrin::is_plain_file(path("pipe")));
  ASSERT_TRUE(mobrin::write_file(path("a"), ""));
  EXPECT_TRUE(mobrin::is_plain_file(path("a")));
  EXPECT_NE(mobrin::read_file(path("none")).error().message.find("cannot be opened"), std::string::npos);
  EXPECT_NE(mobrin::read_file(folder_.string()).error().message.find("cannot be read"), std::string::npos);
}

TEST_F(FilesWritten, AreEditedByOneAtATime) {
  ASSERT_TRUE(mobrin::write_file(path("a"), "0"));
  const EditLock mine(path("a"));
  ASSERT_TRUE(mine.held());
  // A lock belongs to who opened the folder, so another of the same process waits as well.
  const EditLock another(path("b"), 0.05);
  EXPECT_FALSE(another.held());
}

TEST_F(FilesWritten, NoEditIsLostAmongMany) {
  ASSERT_TRUE(mobrin::write_file(path("a"), ""));
  std::atomic<int> held{0};
  std::vector<std::thread> all;
  for (int t = 0; t < 4; ++t)
    all.emplace_back([&] {
      for (int i = 0; i < 10; ++i) {
        const EditLock lock(path("a"));
        if (!lock.held()) return;
        ++held;
        (void)mobrin::write_file(path("a"), *mobrin::read_file(path("a")) + "x");
      }
    });
  for (std::thread& each : all) each.join();
  EXPECT_EQ(held, 40);
  EXPECT_EQ(*mobrin::read_file(path("a")), std::string(40, 'x'));
}

TEST(Printable, IsWhatATerminalMayShow) {
  EXPECT_EQ(printable("walk, h\xc3\xa4lt \xe2\x86\x92 \xf0\x9f\x90\x9d"),
            "walk, h\xc3\xa4lt \xe2\x86\x92 \xf0\x9f\x90\x9d");
  EXPECT_EQ(printable("a\nb\tc\x1b[31m\x7f"), "a\\x0ab\\x09c\\x1b[31m\\x7f");
  EXPECT_EQ(printable("\xc2\x9b"
                      "31m"),
            "\\u{9b}31m");
  EXPECT_EQ(printable("\xe2\x80\xae"
                      "abc"),
            "\\u{202e}abc");
  EXPECT_EQ(printable("\xff\xc3(\xe2\x82"), "\\xff\\xc3(\\xe2\\x82");
  EXPECT_EQ(printable("\xc0\xaf\xed\xa0\x80"), "\\xc0\\xaf\\xed\\xa0\\x80") << "long forms and halves of pairs";
}

}  // namespace
}  // namespace mobrin::test
