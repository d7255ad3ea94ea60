// Mistakes of art in drawings of chance: what is planted is found, and what is drawn right is left alone.
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <random>

#include "mobrin/check/art.hpp"
#include "mobrin/io/cells.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

Image blank(std::int32_t width, std::int32_t height) {
  return {width, height, std::vector<std::uint8_t>(static_cast<std::size_t>(4 * width * height))};
}
void dot(Image& on, std::int32_t x, std::int32_t y, std::uint8_t shade) {
  if (x < 0 || y < 0 || x >= on.width || y >= on.height) return;
  std::uint8_t* at = on.rgba.data() + 4 * (std::ptrdiff_t{y} * on.width + x);
  at[0] = shade, at[1] = static_cast<std::uint8_t>(200 - shade / 2), at[2] = 60, at[3] = 255;
}
void oval(Image& on, double x, double y, double wide, double high, std::uint8_t shade) {
  for (std::int32_t j = 0; j < on.height; ++j)
    for (std::int32_t i = 0; i < on.width; ++i) {
      const double dx = (i + 0.5 - x) / wide, dy = (j + 0.5 - y) / high;
      if (dx * dx + dy * dy <= 1) dot(on, i, j, shade);
    }
}

// A character: a body, a head, legs that go and a wing that beats, each of its own size.
class Figure {
 public:
  Figure(std::mt19937& rng, std::int32_t width, std::int32_t height) : width_(width), height_(height) {
    const auto between = [&](double low, double high) { return std::uniform_real_distribution<>(low, high)(rng); };
    body_wide_ = between(0.14, 0.24) * width, body_high_ = between(0.16, 0.24) * height;
    head_ = between(0.1, 0.16) * std::min(width, height);
    wing_ = between(0.12, 0.3) * width, step_ = between(0.02, 0.1) * width, phase_ = between(0, 6);
    middle_ = between(0.44, 0.56) * width;
  }
  // The picture at a place in its round, 0 to 1.
  [[nodiscard]] Image draw(double round, double x = 0, double y = 0) const {
    Image out = blank(width_, height_);
    const double beat = std::sin(6.28318 * round + phase_), ground = height_ - 2 + y;
    const double middle = middle_ + x, body = ground - 0.16 * height_ - body_high_;
    for (const double side : {-1.0, 1.0})
      oval(out, middle + side * (0.06 * width_ + step_ * beat * side), ground - 0.1 * height_, 0.05 * width_,
           0.1 * height_, 40);
    oval(out, middle - 0.3 * body_wide_, body - 0.4 * body_high_, wing_ * (0.8 + 0.2 * beat), 0.05 * height_ + 1, 90);
    oval(out, middle, body, body_wide_, body_high_, 160);
    oval(out, middle + 0.5 * body_wide_, body - body_high_ - 0.4 * head_, head_, head_, 220);
    return out;
  }
  [[nodiscard]] std::int32_t width() const { return width_; }
  [[nodiscard]] std::int32_t height() const { return height_; }

 private:
  std::int32_t width_, height_;
  double body_wide_, body_high_, head_, wing_, step_, phase_, middle_;
};

Image sheet_of(const std::vector<Image>& frames, std::int32_t columns, std::int32_t margin, std::int32_t spacing,
               std::int32_t left_over = 0) {
  const std::int32_t wide = frames[0].width, high = frames[0].height;
  const auto rows = (static_cast<std::int32_t>(frames.size()) + columns - 1) / columns;
  Image out = blank(2 * margin + columns * wide + (columns - 1) * spacing + left_over,
                    2 * margin + rows * high + (rows - 1) * spacing);
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const std::int32_t cell = static_cast<std::int32_t>(i), left = margin + cell % columns * (wide + spacing);
    const std::int32_t top = margin + cell / columns * (high + spacing);
    for (std::int32_t y = 0; y < high; ++y)
      std::copy_n(frames[i].rgba.begin() + 4 * std::ptrdiff_t{y} * wide, 4 * wide,
                  out.rgba.begin() + 4 * (std::ptrdiff_t{top + y} * out.width + left));
  }
  return out;
}

struct Drawn {
  Figure figure;
  std::int32_t count, columns, margin = 0, spacing = 0;
  [[nodiscard]] std::vector<Image> frames(
      const std::function<std::pair<double, double>(std::int32_t)>& moved = {}) const {
    std::vector<Image> out;
    for (std::int32_t i = 0; i < count; ++i) {
      const auto [x, y] = moved ? moved(i) : std::pair(0.0, 0.0);
      out.push_back(figure.draw(static_cast<double>(i) / count, x, y));
    }
    return out;
  }
  [[nodiscard]] std::vector<std::int32_t> cells() const {
    std::vector<std::int32_t> out;
    for (std::int32_t i = 0; i < count; ++i) out.push_back(i);
    return out;
  }
  [[nodiscard]] CellGrid grid() const { return {figure.width(), figure.height(), margin, spacing}; }
};
Drawn drawn(std::mt19937& rng) {
  const auto one_of = [&](std::initializer_list<std::int32_t> values) {
    return *(values.begin() + std::uniform_int_distribution<>(0, static_cast<int>(values.size()) - 1)(rng));
  };
  const std::int32_t size = one_of({24, 32, 40, 48, 64});
  const std::int32_t columns = one_of({4, 5, 6, 8}), rows = one_of({1, 1, 2, 3});
  return {Figure(rng, size, one_of({size, size, size + 8, 32})), columns * rows, columns};
}

constexpr unsigned kDrawings = 400;

// What is drawn on its grid is not told, with any margin and spacing, and where pixels are left over.
TEST(ArtOfChance, AGridThatIsRightIsLeftAlone) {
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    Drawn it = drawn(rng);
    it.margin = static_cast<std::int32_t>(seed % 3), it.spacing = static_cast<std::int32_t>(seed / 3 % 3);
    const Image sheet = sheet_of(it.frames(), it.columns, it.margin, it.spacing, seed % 5 == 0 ? 13 : 0);
    const auto better = better_grid(sheet, it.grid(), it.cells());
    EXPECT_FALSE(better) << seed << ": " << grid_keys(it.grid()) << " -> " << grid_keys(better->grid);
  }
}

// Pictures that fill their cells from edge to edge, all or some of them.
TEST(ArtOfChance, PicturesThatTouchEachOtherAreLeftAlone) {
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    std::vector<Image> frames = it.frames();
    const double width = it.figure.width(), height = it.figure.height();
    for (std::size_t i = 0; i < frames.size(); ++i) {
      const bool wide = seed % 3 == 0 || (seed % 3 == 1 ? rng() % 2 == 0 : i % 3 == 1);
      if (wide) oval(frames[i], width / 2, height / 2, width / 2 + 1, seed % 2 == 0 ? height / 2 + 1 : height / 5, 120);
    }
    const auto better = better_grid(sheet_of(frames, it.columns, 0, 0, seed % 5 == 0 ? 13 : 0), it.grid(), it.cells());
    EXPECT_FALSE(better) << seed << ": " << grid_keys(it.grid()) << " -> " << grid_keys(better->grid);
  }
}

// Half of it, a little too small, three quarters, a little too large. Three quarters of a cell cut every third time
// only, which is not always enough to say.
TEST(ArtOfChance, AGridThatIsWrongIsFoundWithTheRightOne) {
  unsigned right = 0, other = 0;
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    const std::int32_t width = it.figure.width();
    CellGrid wrong = it.grid();
    wrong.width = std::array{width / 2, width - 2, width * 3 / 4, width + 3}[seed % 4];
    const auto better = better_grid(sheet_of(it.frames(), it.columns, 0, 0), wrong, it.cells());
    if (better) (better->grid == it.grid() ? right : other)++;
    if (better && better->flaw == BetterGrid::Flaw::cuts) {
      EXPECT_FALSE(better->across) << seed;
      for (const std::int32_t at : better->at) EXPECT_EQ(at % wrong.width, 0) << seed;
    }
  }
  EXPECT_GE(right, kDrawings * 97 / 100);
  EXPECT_EQ(other, 0U);
}

// How often the grid that it was drawn on is found in place of another, which `spoil` makes of it; never one that is
// neither.
unsigned times_found(const std::function<CellGrid(unsigned seed, Drawn&)>& spoil) {
  unsigned right = 0;
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    Drawn it = drawn(rng);
    const CellGrid wrong = spoil(seed, it);
    const auto better = better_grid(sheet_of(it.frames(), it.columns, 0, it.spacing), wrong, it.cells());
    if (!better) continue;
    EXPECT_EQ(grid_keys(better->grid), grid_keys(it.grid())) << seed;
    EXPECT_TRUE(better->across || wrong.height == it.grid().height) << seed;
    ++right;
  }
  return right;
}

TEST(ArtOfChance, CellsOfTheWrongHeightAreFoundToo) {
  EXPECT_GE(times_found([](unsigned seed, Drawn& it) {
              it.count = 3 * it.columns;
              CellGrid wrong = it.grid();
              wrong.height = seed % 2 == 0 ? wrong.height / 2 : wrong.height * 3 / 4;
              return wrong;
            }),
            kDrawings * 9 / 10);
}

TEST(ArtOfChance, ASpacingThatWasForgottenIsFound) {
  EXPECT_GE(times_found([](unsigned seed, Drawn& it) {
              it.spacing = 1 + static_cast<std::int32_t>(seed % 3);
              CellGrid wrong = it.grid();
              wrong.spacing = 0;
              return wrong;
            }),
            kDrawings * 99 / 100);
}

// Two or three pictures in each cell, or two rows; the last cell may hold fewer.
TEST(ArtOfChance, CellsThatHoldSeveralPicturesAreFound) {
  EXPECT_GE(times_found([](unsigned seed, Drawn& it) {
              const std::int32_t several = seed % 3 == 1 ? 3 : 2;
              it.spacing = static_cast<std::int32_t>(seed / 3 % 3);
              CellGrid wrong = it.grid();
              if (seed % 3 == 2) {
                it.columns = 4, it.count = 16;
                wrong.height = 2 * wrong.height + it.spacing;
              } else {
                it.columns = 2 * several, it.count = it.columns - static_cast<std::int32_t>(seed / 9 % 2);
                wrong.width = several * wrong.width + (several - 1) * it.spacing;
              }
              return wrong;
            }),
            kDrawings * 95 / 100);
}

// Two of a kind in one picture move alike, or as in a mirror.
TEST(ArtOfChance, WhatAPictureHoldsTwiceIsLeftAlone) {
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    std::vector<Image> pairs;
    for (const Image& one : it.frames()) {
      Image other = one;
      for (std::int32_t y = 0; seed % 2 == 0 && y < one.height; ++y)
        for (std::int32_t x = 0; x < one.width; ++x)
          std::copy_n(one.rgba.begin() + 4 * (std::ptrdiff_t{y} * one.width + x), 4,
                      other.rgba.begin() + 4 * (std::ptrdiff_t{y} * one.width + one.width - 1 - x));
      pairs.push_back(sheet_of({one, other}, 2, 0, 0));
    }
    CellGrid grid = it.grid();
    grid.width *= 2;
    const auto better = better_grid(sheet_of(pairs, it.columns, 0, 0), grid, it.cells());
    EXPECT_FALSE(better) << seed << ": " << grid_keys(grid) << " -> " << grid_keys(better->grid);
  }
}

TEST(ArtOfChance, ASheetsGridIsSeenAndOnePictureIsNoSheet) {
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    Drawn it = drawn(rng);
    it.margin = static_cast<std::int32_t>(seed % 3), it.spacing = static_cast<std::int32_t>(seed / 3 % 3);
    const auto seen = grid_of(sheet_of(it.frames(), it.columns, it.margin, it.spacing));
    EXPECT_TRUE(seen && *seen == it.grid())
        << seed << ": " << grid_keys(it.grid()) << " -> " << (seen ? grid_keys(*seen) : "none");
    EXPECT_FALSE(grid_of(it.figure.draw(0.3))) << seed;
  }
}

// The findings, hints aside, of loops of these frames, named c0 and so on.
std::string told_of(const std::vector<std::vector<Image>>& clips, const std::string& marks = "") {
  std::string text = "clips:\n", states;
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const std::string number = std::to_string(i);
    text += "  c" + number + ": {sheet: " + number + ".png, tile: [" + std::to_string(clips[i][0].width) + ", " +
            std::to_string(clips[i][0].height) + "], frames: [0-" + std::to_string(clips[i].size() - 1) +
            "], fps: 10, play: loop}\n";
    states += "  s" + number + ": {clip: c" + number + "}\n";
  }
  const Machine machine = machine_of(text + "marks: {c0: {" + marks + "}}\ninitial: s0\nstates:\n" + states);
  std::string out;
  for (const Finding& finding : art_findings(machine, [&](const FrameArt& art) -> std::optional<FramePixels> {
         const auto clip = static_cast<std::size_t>(std::stoi(art.source));
         const Image& image = clips[clip][static_cast<std::size_t>(std::stoi(art.tile))];
         return FramePixels{image.rgba.data(), image.width, image.height, image.width};
       }))
    if (!finding.hint) out += finding.message + " [" + std::string(text_of(finding.code)) + "]\n";
  return out;
}
std::string told_of(const std::vector<Image>& frames, const std::string& marks = "") {
  return told_of(std::vector<std::vector<Image>>{frames}, marks);
}

TEST(ArtOfChance, FramesInTheirPlaceAreLeftAlone) {
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    const std::string told = told_of(it.frames([&](std::int32_t i) -> std::pair<double, double> {
      const double wave = std::sin(6.28318 * i / it.count);
      switch (seed % 4) {
        case 1:
          return {0.0, std::round(1.4 * wave)};  // a bob
        case 2:
          return {std::round(5 * wave), 0.0};  // a sway
        case 3:
          return {0.0, -std::round(std::max(0.0, 8 * wave))};  // a hop
        default:
          return {0.0, 0.0};
      }
    }));
    EXPECT_EQ(told.find("jump"), std::string::npos) << seed << ": " << told;
    EXPECT_EQ(told.find("background"), std::string::npos) << seed << ": " << told;
  }
}

TEST(ArtOfChance, AFrameOffItsPlaceIsFoundAndItsOffsetMendsIt) {
  unsigned found = 0;
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    const auto which = static_cast<std::int32_t>(seed % static_cast<unsigned>(it.count));
    const int by = (seed % 2 == 0 ? 1 : -1) * static_cast<int>(4 + seed % 3);
    const std::vector<Image> frames = it.frames([&](std::int32_t i) {
      return i != which      ? std::pair(0.0, 0.0)
             : seed % 3 == 0 ? std::pair(0.0, -double(std::abs(by)))
                             : std::pair(double(by), 0.0);
    });
    const std::string told = told_of(frames);
    const std::string where = seed % 3 == 0 ? "higher" : by > 0 ? "further forward" : "further back";
    if (told.empty()) continue;
    EXPECT_NE(told.find("jumps in frame " + std::to_string(which) + ":"), std::string::npos) << seed << ": " << told;
    EXPECT_NE(told.find(where + " [frame-jump]"), std::string::npos) << seed << ": " << told;
    const std::string offset =
        seed % 3 == 0 ? "[0, " + std::to_string(-std::abs(by)) + "]" : "[" + std::to_string(-by) + ", 0]";
    const std::string pivot = std::to_string(it.figure.width() / 2) + ", " + std::to_string(it.figure.height());
    const std::string mended =
        told_of(frames, "pivot: [" + pivot + "], offsets: {" + std::to_string(which) + ": " + offset + "}");
    EXPECT_EQ(mended.find("jump"), std::string::npos) << seed << ": " << mended;
    ++found;
  }
  EXPECT_GE(found, kDrawings * 85 / 100);
}

TEST(ArtOfChance, FramesThatWereCutOutUnalikeShake) {
  unsigned tried = 0, found = 0;
  for (unsigned seed = 0; seed < kDrawings; ++seed) {
    std::mt19937 rng(seed);
    const Drawn it = drawn(rng);
    if (it.count < 6) continue;
    const std::string told = told_of(
        it.frames([&](std::int32_t i) { return std::pair((i % 2 == 0 ? 3.0 : -3.0) + double(rng() % 2), 0.0); }));
    ++tried;
    found += told.find("shakes: what it shows goes back and forth by up to") == std::string::npos ? 0 : 1;
    EXPECT_EQ(told.find("jumps in frame"), std::string::npos) << seed << ": " << told;
  }
  EXPECT_GE(found, tried * 9 / 10) << tried;
}

// One pixel each becomes a square of `times` x `times`; the first row and column are of so many less.
Image enlarged(const Image& image, std::int32_t times, std::int32_t less) {
  Image out = blank(image.width * times - less, image.height * times - less);
  for (std::int32_t y = 0; y < out.height; ++y)
    for (std::int32_t x = 0; x < out.width; ++x)
      std::copy_n(image.rgba.begin() + 4 * (std::ptrdiff_t{(y + less) / times} * image.width + (x + less) / times), 4,
                  out.rgba.begin() + 4 * (std::ptrdiff_t{y} * out.width + x));
  return out;
}

TEST(ArtOfChance, ClipsOfAnotherScaleAreTold) {
  for (unsigned seed = 0; seed < kDrawings; seed += 4) {
    std::mt19937 rng(seed);
    const std::int32_t most = seed % 8 == 0 ? 1 : 2, odd = seed % 3 == 0 ? 3 : 3 - most;
    const auto clips = [&](const std::vector<std::int32_t>& scales) {
      std::vector<std::vector<Image>> out;
      for (const std::int32_t scale : scales) {
        for (Image& frame : out.emplace_back(drawn(rng).frames()))
          frame = enlarged(frame, scale, static_cast<std::int32_t>(seed / 4) % scale);
      }
      return told_of(out);
    };
    const auto squares = [](std::int32_t scale) {
      return scale == 1 ? "single ones" : "squares of " + std::to_string(scale) + " x " + std::to_string(scale);
    };
    EXPECT_EQ(clips({most, most, most}).find("pixel-size"), std::string::npos) << seed;
    EXPECT_EQ(clips({most, odd}).find("pixel-size"), std::string::npos) << seed;
    const std::string told = clips({most, odd, most});
    EXPECT_NE(told.find("the clip \"c1\" is drawn in pixels that are " + squares(odd) +
                        ", most clips of the machine in " + squares(most) + " [pixel-size]"),
              std::string::npos)
        << seed << told;
    EXPECT_EQ(told.find("pixel-size"), told.rfind("pixel-size")) << seed << told;
  }
}

// A colour behind everything, as of what was saved without transparency; a thin frame or one colour all over is none.
TEST(ArtOfChance, ASolidBackgroundIsTold) {
  for (unsigned seed = 0; seed < kDrawings; seed += 5) {
    std::mt19937 rng(seed);
    std::vector<Image> frames = drawn(rng).frames();
    std::vector<Image> framed = frames;
    for (Image& frame : frames)
      for (std::size_t at = 0; at < frame.rgba.size(); at += 4)
        if (frame.rgba[at + 3] == 0)
          frame.rgba[at] = 250, frame.rgba[at + 1] = 10, frame.rgba[at + 2] = 200, frame.rgba[at + 3] = 255;
    EXPECT_NE(told_of(frames).find("behind what is drawn lies #fa0ac8 [solid-background]"), std::string::npos) << seed;
    for (Image& frame : framed)
      for (std::int32_t y = 0; y < frame.height; ++y)
        for (std::int32_t x = 0; x < frame.width; ++x) {
          const bool edge = std::min({x, y, frame.width - 1 - x, frame.height - 1 - y}) == 0;
          std::uint8_t* at = frame.rgba.data() + 4 * (std::ptrdiff_t{y} * frame.width + x);
          at[0] = edge ? 0 : at[0], at[1] = edge ? 0 : static_cast<std::uint8_t>(at[1] + x),
          at[2] = edge ? 0 : static_cast<std::uint8_t>(1 + y), at[3] = 255;
        }
    EXPECT_EQ(told_of(framed).find("background"), std::string::npos) << seed;
  }
}

}  // namespace
}  // namespace mobrin::test
