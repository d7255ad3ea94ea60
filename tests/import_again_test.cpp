// Importing again: pictures are known again, and everything that people wrote goes with them.
#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <random>

#include "mobrin/io/file.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

namespace fs = std::filesystem;
using Lines = std::vector<std::string>;

class ImportAgain : public testing::Test {
 protected:
  // In memory where that can be: every file that is written waits for its disk.
  ImportAgain()
      : folder_((fs::exists("/dev/shm") ? fs::path("/dev/shm") : fs::temp_directory_path()) /
                ("mobrin_again_" + std::to_string(::getpid()))) {
    fs::remove_all(folder_);
    fs::create_directories(folder_ / "art");
    options_.out = path("a.clips.yaml");
    options_.sources = {path("art")};
  }
  ~ImportAgain() override { fs::remove_all(folder_); }

  [[nodiscard]] std::string path(const std::string& name) const { return (folder_ / name).string(); }
  // A picture of its own for each number.
  void paint(const std::string& name, int number) const {
    Image image{2, 2, std::vector<std::uint8_t>(16, 255)};
    for (int i = 0; i < 3; ++i) image.rgba[static_cast<std::size_t>(i)] = static_cast<std::uint8_t>(number >> 8 * i);
    ASSERT_TRUE(write_png(image, path(name)));
  }
  void paint_walk(const std::vector<int>& numbers, const std::string& clip = "walk") const {
    for (const auto& entry : fs::directory_iterator(folder_ / "art"))
      if (entry.path().filename().string().starts_with(clip + "_")) fs::remove(entry.path());
    for (std::size_t i = 0; i < numbers.size(); ++i)
      paint("art/" + clip + "_" + std::to_string(i) + ".png", numbers[i]);
  }
  void write(const std::string& name, const std::string& text) const {
    ASSERT_TRUE(mobrin::write_file(path(name), text));
  }
  [[nodiscard]] std::string read(const std::string& name) const { return *mobrin::read_file(path(name)); }
  // Imports and writes what comes of it.
  Imported import() {
    Imported out = import_art(options_);
    EXPECT_FALSE(has_errors(out.findings)) << joined(out.findings);
    for (const auto& [file, text] : out.others) EXPECT_TRUE(mobrin::write_file(file, text));
    EXPECT_TRUE(mobrin::write_file(options_.out, out.text));
    for (Lines* lines : {&out.moves, &out.losses})
      for (std::string& line : *lines) line.replace(0, folder_.string().size() + 1, "");
    return out;
  }
  // Changes a part of a file, as its author would.
  void edit(const std::string& name, const std::string& from, const std::string& to) const {
    std::string text = read(name);
    ASSERT_NE(text.find(from), std::string::npos) << text;
    text.replace(text.find(from), from.size(), to);
    write(name, text);
  }
  [[nodiscard]] std::string value(const std::string& key) const {
    const std::string text = read("a.clips.yaml");
    const std::size_t at = text.find("    " + key + ": ");
    return at == std::string::npos ? "" : text.substr(at + 6 + key.size(), text.find('\n', at) - at - 6 - key.size());
  }

  fs::path folder_;
  ImportOptions options_;
};

TEST_F(ImportAgain, UnchangedArtChangesNoByte) {
  paint_walk({1, 2, 3, 4, 5, 6});
  import();
  for (const char* frames :
       {"[5, 4, 3, 2, 1, 0]", "[5-0]", "[0-2, 4-5]", "[0, 3*4, 1]", "[0, 0, 1]", "[2]", "[1-4*2, 1]"}) {
    edit("a.clips.yaml", "    fps:", std::string("    frames: ") + frames + "  # mine\n    fps:");
    const std::string before = read("a.clips.yaml");
    const Imported again = import();
    EXPECT_EQ(read("a.clips.yaml"), before) << frames;
    EXPECT_EQ(again.moves.size() + again.losses.size() + again.notes.size(), 0u);
    edit("a.clips.yaml", std::string("    frames: ") + frames + "  # mine\n", "");
  }
}

// Each is changed in a text of its own.
TEST_F(ImportAgain, ManyClipsAtOnceChangeAsOneAfterTheOther) {
  const auto paint_all = [&](bool old, std::initializer_list<const char*> clips) {
    for (const std::string clip : clips) {
      if (clip == "hop") paint_walk(old ? std::vector{1, 2, 3} : std::vector{1, 9, 2, 3}, "hop");
      if (clip == "net") paint_walk(old ? std::vector{11, 12} : std::vector{12}, "net");
      if (clip == "walk") paint_walk(old ? std::vector{21, 22, 23} : std::vector{23, 29, 21}, "walk");
      if (clip != "sag") continue;
      paint_walk(old ? std::vector{31, 32} : std::vector<int>{}, "sag");
      paint_walk(old ? std::vector<int>{} : std::vector{31, 32}, "lie");
    }
  };
  for (const bool other_ends : {false, true}) {
    fs::remove(options_.out);
    paint_all(true, {"hop", "net", "sag", "walk"});
    import();
    edit("a.clips.yaml", "  hop:\n", "  # Jumps.\n  hop: # up\n    # by hand\n");
    edit("a.clips.yaml", "    fps: 12\n", "    fps: 9  # slow\n");
    edit("a.clips.yaml", "  walk:\n", "\n  walk:\n    frames: [0*2, 1, 2]\n");
    std::string text = read("a.clips.yaml") + "# The end.\nmarks: {net: {pivot: [1, 2]}}\n";
    for (std::size_t at = other_ends ? text.find('\n') : std::string::npos; at != std::string::npos;
         at = text.find('\n', at + 2))
      text.insert(at, "\r");
    write("a.clips.yaml", text);
    paint_all(false, {"hop", "net", "sag", "walk"});
    import();
    const std::string at_once = read("a.clips.yaml");
    EXPECT_NE(at_once.find("  lie:"), std::string::npos) << at_once;
    EXPECT_NE(at_once.find("# by hand"), std::string::npos) << at_once;
    write("a.clips.yaml", text);
    paint_all(true, {"hop", "net", "sag", "walk"});
    for (const char* const clip : {"walk", "hop", "sag", "net"}) {
      paint_all(false, {clip});
      import();
    }
    EXPECT_EQ(read("a.clips.yaml"), at_once);
  }
}

TEST_F(ImportAgain, AFileWrittenByHandKeepsItsWords) {
  paint_walk({1, 2, 3});
  write("a.clips.yaml",
        "# By hand.\nmobrin: 1\nunit: 16px   # small\nclips:\n\n  # of another source\n  other: {length: 1s}\n  "
        "walk:\n    "
        "images: # in order\n      - art/walk_0.png   # the first\n      # then\n      - \"art/walk_1.png\"\n      - "
        "art/walk_2.png\n    fps: 8\ncues: {step: {kind: sound}}\nmarks: {walk: {cues: {1: step}}}\n");
  import();
  const std::string once = read("a.clips.yaml");
  EXPECT_EQ(
      once,
      "# By hand.\nmobrin: 1\nunit: 16px   # small\nclips:\n\n  # of another source\n  other: {length: 1s}\n  walk:\n  "
      "  "
      "images: # in order\n      - art/walk_0.png   # the first\n      # then\n      - \"art/walk_1.png\"\n      - "
      "art/walk_2.png\n    fps: 8\n    prints: " +
          value("prints") + "\ncues: {step: {kind: sound}}\nmarks: {walk: {cues: {1: step}}}\n");
  import();
  EXPECT_EQ(read("a.clips.yaml"), once);
  // A picture before the second: the comments go with their lines, the mark with its picture.
  paint_walk({1, 9, 2, 3});
  const Imported changed = import();
  EXPECT_NE(read("a.clips.yaml")
                .find("- art/walk_0.png   # the first\n      - art/walk_1.png\n      # then\n      - "
                      "art/walk_2.png\n      - art/walk_3.png\n    fps: 8\n"),
            std::string::npos)
      << read("a.clips.yaml");
  EXPECT_NE(read("a.clips.yaml").find("marks: {walk: {cues: {2: step}}}"), std::string::npos);
  EXPECT_EQ(changed.moves, Lines{"a.clips.yaml:18: the cue step of \"walk\" goes from 1 to 2"});
}

TEST_F(ImportAgain, HoldsAndOmissionsStayWithTheirPictures) {
  paint_walk({1, 2, 3, 4, 5});
  import();
  edit("a.clips.yaml", "    fps:", "    frames: [0, 1*3, 2, 4]\n    fps:");  // without the fourth
  paint_walk({7, 1, 2, 3, 4, 5});
  EXPECT_TRUE(import().losses.empty());
  EXPECT_EQ(value("frames"), "[0-1, 2*3, 3, 5]");
  paint_walk({7, 1, 3, 4, 5});
  EXPECT_EQ(import().losses,
            Lines{"a.clips.yaml: the hold of 3 on walk_2.png of \"walk\" is lost: its picture is gone"});
  EXPECT_EQ(value("frames"), "[0-2, 4]");
  edit("a.clips.yaml", "    frames: [0-2, 4]", "    frames: [4, 2, 1, 0]");
  paint_walk({7, 1, 3, 8, 4, 5});
  import();
  EXPECT_EQ(value("frames"), "[5, 3-0]") << "a new one beside its neighbour, the way they run";
}

TEST_F(ImportAgain, TimesStayWithTheirPictures) {
  paint_walk({1, 2, 3});
  import();
  edit("a.clips.yaml", "    fps: 12", "    times: [100ms, 250ms, 80ms]");
  write("a.marks.yaml", "mobrin: 1\nmarks: {walk: {cues: {0.3s: late}, windows: {w: 0.1s-0.35s}}}\n");
  paint_walk({1, 9, 2, 3});
  const Imported again = import();
  EXPECT_EQ(value("times"), "[100ms, 100ms, 250ms, 80ms]");
  EXPECT_EQ(read("a.marks.yaml"), "mobrin: 1\nmarks: {walk: {cues: {400ms: late}, windows: {w: 200ms-450ms}}}\n");
  EXPECT_EQ(again.moves.size(), 2u);
}

TEST_F(ImportAgain, MarksFollowInWhateverFileTheyStand) {
  paint_walk({1, 2, 3, 4, 5, 6});
  import();
  const char* const marks =
      "mobrin: 1\nmarks:\n  walk:\n    cues:\n      2: [step, {puff: {much: 2}}]  # left\n      5.end: over\n    "
      "spans: {trail: 1-4, "
      "all: {frames: 0-5, what: dust}}\n    windows: {again: 3-4}\n    offsets: {1-2: [0, 1]}\n    boxes:\n      - "
      "{name: body, "
      "role: hurt, rect: [0, 0, 2, 2]}\n      - name: net\n        role: hit\n        frames: [2, 4-5]\n        "
      "circle: [0, 0, 2]\n";
  write("a.marks.yaml", marks);
  write("m.yaml",
        "mobrin: 1\nmachine: m\nuse: [a.clips.yaml, a.marks.yaml, t.yaml]\ncues: {step: {}, puff: {much: 1}, over: {}, "
        "trail: "
        "{}, all: {what: sand}}\ninputs: {p: pulse}\ninitial: s\nstates:\n"
        "  s: {clip: walk, go: [{pulse: p, during: again, to: q}, {pulse: p, during: 2-3, to: q}]}\n"
        "  q: {pose: {clip: walk, frame: 4}}\n");
  write("t.yaml", "mobrin: 1\nmarks: {walk: {tracks: {lid: {keys: {0: 1, 3: 2}}}}}\n");
  paint_walk({1, 2, 3, 9, 4, 5, 6});  // before the fourth
  Imported again = import();
  EXPECT_TRUE(again.losses.empty());
  EXPECT_EQ(read("a.marks.yaml"),
            "mobrin: 1\nmarks:\n  walk:\n    cues:\n      2: [step, {puff: {much: 2}}]  # left\n      6.end: over\n    "
            "spans: "
            "{trail: 1-5, all: {frames: 0-6, what: dust}}\n    windows: {again: 4-5}\n    offsets: {1-2: [0, 1]}\n    "
            "boxes:\n      "
            "- {name: body, role: hurt, rect: [0, 0, 2, 2]}\n      - name: net\n        role: hit\n        frames: [2, "
            "5-6]\n        "
            "circle: [0, 0, 2]\n");
  EXPECT_NE(read("m.yaml").find("during: 2-4"), std::string::npos) << read("m.yaml");
  EXPECT_NE(read("m.yaml").find("{clip: walk, frame: 5}"), std::string::npos);
  EXPECT_NE(read("t.yaml").find("{0: 1, 4: 2}"), std::string::npos);
  EXPECT_EQ(again.moves.size(), 8u) << ::testing::PrintToString(again.moves);
  // The new one goes again: all is as it was.
  paint_walk({1, 2, 3, 4, 5, 6});
  again = import();
  EXPECT_EQ(read("a.marks.yaml"), marks);
  EXPECT_TRUE(again.losses.empty()) << ::testing::PrintToString(again.losses);
  // One with marks goes.
  paint_walk({1, 2, 4, 5, 6});
  again = import();
  EXPECT_EQ(again.losses,
            Lines{"a.marks.yaml:5: the cue step, puff of \"walk\" is lost: its picture walk_2.png is gone"});
  EXPECT_NE(read("a.marks.yaml").find("cues:\n      4.end: over\n    spans: {trail: 1-3, all: {frames: 0-4"),
            std::string::npos)
      << read("a.marks.yaml");
  EXPECT_TRUE(load_character(path("m.yaml")).machine) << joined(load_character(path("m.yaml")).findings);
}

TEST_F(ImportAgain, ARenamedClipIsKnownAgain) {
  paint_walk({1, 2, 3}, "strike");
  paint_walk({4, 5, 6});
  import();
  edit("a.clips.yaml", "fps: 12\n    play: once", "fps: 20\n    play: loop");  // of strike, the first
  write("a.marks.yaml", "mobrin: 1\nmarks: {strike: {cues: {1: hit}}, walk: {cues: {1: step}}}\n");
  paint_walk({}, "strike");
  paint_walk({1, 2, 3}, "smite");
  options_.as_new = true;
  const Imported as_new = import_art(options_);
  EXPECT_EQ(as_new.losses.size(), 1u);
  options_.as_new = false;
  const Imported again = import();
  EXPECT_TRUE(again.losses.empty()) << ::testing::PrintToString(again.losses);
  ASSERT_EQ(again.moves.size(), 2u);
  EXPECT_NE(again.moves[0].find("\"smite\" has the pictures that \"strike\" had"), std::string::npos) << again.moves[0];
  EXPECT_EQ(read("a.marks.yaml"), "mobrin: 1\nmarks: {smite: {cues: {1: hit}}, walk: {cues: {1: step}}}\n");
  EXPECT_EQ(again.clips[0].name.text, "smite");
  EXPECT_EQ(again.clips[0].fps.num, 20);
  EXPECT_EQ(again.clips[0].play.text(), "loop");
}

TEST_F(ImportAgain, ASecondSourceAddsAndWhatIsGoneIsTold) {
  paint_walk({1, 2});
  import();
  const std::string walk = read("a.clips.yaml");
  fs::create_directories(folder_ / "more");
  paint("more/hop_0.png", 11);
  paint("more/hop_1.png", 12);
  options_.sources = {path("more")};
  options_.clips = {{"hop", PlayMode::loop(), Fraction{14, 1}}};
  Imported again = import();
  EXPECT_TRUE(again.losses.empty());
  EXPECT_TRUE(read("a.clips.yaml").starts_with(walk.substr(0, walk.size() - 1))) << read("a.clips.yaml");
  EXPECT_NE(read("a.clips.yaml")
                .find("  hop:\n    images:\n      - more/hop_0.png\n      - more/hop_1.png\n    fps: 14\n    "
                      "play: loop\n"),
            std::string::npos);
  // A clip of that name of another source is not written over; an unknown one is told.
  options_.clips = {{"hopp", PlayMode::loop(), {}}};
  EXPECT_NE(joined(import_art(options_).findings).find("Did you mean \"hop\"?"), std::string::npos);
  options_.clips.clear();
  paint("more/walk_0.png", 21);
  EXPECT_NE(joined(import_art(options_).findings).find("of another source"), std::string::npos);
  fs::remove(folder_ / "more/walk_0.png");
  fs::remove(folder_ / "more/hop_0.png");
  fs::remove(folder_ / "more/hop_1.png");
  paint("more/run_0.png", 31);
  again = import();
  EXPECT_EQ(again.losses, Lines{"a.clips.yaml: the clip \"hop\" is lost: its art is gone"});
}

TEST_F(ImportAgain, CellsOfASheetAreKnownAgain) {
  const auto sheet = [&](const std::vector<int>& cells) {
    Image image{static_cast<std::int32_t>(cells.size()) * 2, 2, std::vector<std::uint8_t>(cells.size() * 16, 255)};
    for (std::size_t i = 0; i < cells.size(); ++i) image.rgba[i * 8] = static_cast<std::uint8_t>(cells[i]);
    ASSERT_TRUE(write_png(image, path("sheet.png")));
  };
  options_.sources = {path("sheet.png")};
  options_.grid = SheetGrid{2, 2};
  sheet({1, 2, 3, 4});
  import();
  edit("a.clips.yaml", "frames: [0-3]", "frames: [3, 1*2, 0]");
  const std::string before = read("a.clips.yaml");
  import();
  EXPECT_EQ(read("a.clips.yaml"), before);
  sheet({9, 1, 2, 3, 4});
  import();
  EXPECT_EQ(value("frames"), "[4, 2*2, 1, 0]");
}

// --- random edits of an art folder ----------------------------------------------------------------------------------

// What must come of it, slowly: each mark stands on a picture; an edit says which picture is where; a mark is where its
// picture is, and gone with it.
TEST_F(ImportAgain, RandomEditsKeepEveryMarkOnItsPicture) {
  int moved = 0, lost = 0;
  const auto folders = static_cast<unsigned>(seeds(250));
  for (unsigned seed = 0; seed < folders; ++seed) {
    std::mt19937 random(seed);
    const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(random() % n); };
    for (const char* name : {"a.clips.yaml", "a.marks.yaml", "m.yaml"}) fs::remove(folder_ / name);
    int next = 1;
    std::vector<int> pictures, colours;  // who is at each place; how it is painted
    std::map<int, int> colour;
    for (std::size_t i = 0; i < 3 + pick(6); ++i) pictures.push_back(next), colour[next] = next * 7919, ++next;
    const auto repaint = [&] {
      std::vector<int> out;
      for (const int each : pictures) out.push_back(colour[each]);
      paint_walk(out);
    };
    repaint();
    import();
    // A mark on some of them: cues in a file of marks, boxes in the machine.
    std::map<std::string, int> marks;
    std::string cues, boxes;
    for (std::size_t f = 0; f < pictures.size(); ++f) {
      if (pick(2) == 0) {
        const std::string name = "c" + std::to_string(f);
        cues += "      " + std::to_string(f) + ": " + name + "\n";
        marks[name] = pictures[f];
      }
      if (pick(3) == 0) {
        const std::string name = "b" + std::to_string(f);
        boxes += "    - {name: " + name + ", role: hurt, frames: " + std::to_string(f) + ", rect: [0, 0, 2, 2]}\n";
        marks[name] = pictures[f];
      }
    }
    write("a.marks.yaml",
          "mobrin: 1\nmarks:\n  walk:\n    pivot: [1, 1]\n" + (cues.empty() ? "" : "    cues:\n" + cues));
    const bool apart = !boxes.empty() && pick(2) == 0;
    write("m.yaml", std::string("mobrin: 1\nmachine: m\nuse: [a.clips.yaml") + (apart ? "" : ", a.marks.yaml") +
                        "]\ncues: {c0: {}, c1: {}, c2: {}, c3: {}, c4: {}, c5: {}, c6: {}, c7: {}, c8: {}}\nstates: "
                        "{s: {clip: walk}}\n" +
                        (apart ? "marks:\n  walk:\n    boxes:\n" + boxes : ""));
    if (!apart)
      for (auto at = marks.begin(); at != marks.end();) at = at->first[0] == 'b' ? marks.erase(at) : std::next(at);
    for (int round = 0; round < 3; ++round) {
      std::size_t losses = 0;
      const auto gone = [&](int picture) {
        for (auto at = marks.begin(); at != marks.end();)
          if (at->second == picture)
            at = marks.erase(at), ++losses;
          else
            ++at;
      };
      switch (pick(5)) {
        case 0:  // some are put in
          for (std::size_t i = 0; i <= pick(2); ++i) {
            pictures.insert(pictures.begin() + static_cast<std::ptrdiff_t>(pick(pictures.size() + 1)), next);
            colour[next] = next * 7919;
            ++next;
          }
          break;
        case 1:  // one goes
          if (pictures.size() > 2) {
            // The last of them: else a name would seem to be painted anew (which the next one's pixels rule out).
            const std::size_t which = pick(pictures.size());
            gone(pictures[which]);
            pictures.erase(pictures.begin() + static_cast<std::ptrdiff_t>(which));
          }
          break;
        case 2:  // two change places
          std::swap(pictures[pick(pictures.size())], pictures[pick(pictures.size())]);
          break;
        case 3:  // one is painted anew
          colour[pictures[pick(pictures.size())]] = 7919 * 1000 + static_cast<int>(random() % 100'000);
          break;
        default:  // all are shuffled
          std::shuffle(pictures.begin(), pictures.end(), random);
      }
      repaint();
      const Imported again = import();
      ASSERT_EQ(again.losses.size(), losses) << seed << " " << ::testing::PrintToString(again.losses);
      moved += static_cast<int>(again.moves.size());
      lost += static_cast<int>(losses);
      const Loaded loaded = load_character(path("m.yaml"));
      ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << read("a.marks.yaml");
      const Loaded beside = load_character(path("a.marks.yaml"));
      std::map<std::string, int> now;
      const ClipInfo& clip = loaded.machine->clips()[0];
      const auto stand = [&](const std::string& name, std::int32_t frame) {
        const std::string file = clip.def.frames[static_cast<std::size_t>(frame)].art.source;
        const auto image = load_png(file.starts_with("/") ? file : path(file));
        ASSERT_TRUE(image) << file;
        const int seen = image->rgba[0] | image->rgba[1] << 8 | image->rgba[2] << 16;
        for (const int each : pictures)
          if ((colour[each] & 0xffffff) == seen) now[name] = each;
      };
      for (const BoxDef& box : clip.marks.boxes) stand(box.name.text, box.stretches[0].first);
      const std::string text = read("a.marks.yaml");
      for (std::size_t at = 0; (at = text.find(": c", at)) != std::string::npos; ++at) {
        const std::size_t begin = text.rfind(' ', at - 1) + 1;
        if (text.substr(at, 6) == ": cues") continue;
        stand(text.substr(at + 2, text.find('\n', at) - at - 2), std::stoi(text.substr(begin, at - begin)));
      }
      ASSERT_EQ(now, marks) << "seed " << seed << " round " << round << "\n" << text << read("a.clips.yaml");
      if (round < 2) continue;
      const std::string clips = read("a.clips.yaml");
      import();
      ASSERT_EQ(read("a.clips.yaml"), clips) << "twice in a row changes no byte";
      ASSERT_EQ(read("a.marks.yaml"), text);
    }
  }
  EXPECT_GT(moved, 250);
  EXPECT_GT(lost, 25);
}

}  // namespace
}  // namespace mobrin::test
