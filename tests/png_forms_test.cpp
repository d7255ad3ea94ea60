// PNG files of every colour type and depth, interlaced or not: the same pixels come out of each.
#include <array>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "art_files.hpp"
#include "mobrin/io/image.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Form {
  const char* name;
  int colour, depth;  // colour: 0 grey, 2 red green blue, 3 palette, 4 grey with alpha, 6 all four
};

constexpr Form kForms[] = {
    {"Grey1", 0, 1},    {"Grey2", 0, 2},      {"Grey4", 0, 4},        {"Grey8", 0, 8},    {"Grey16", 0, 16},
    {"Colour8", 2, 8},  {"Colour16", 2, 16},  {"Palette1", 3, 1},     {"Palette2", 3, 2}, {"Palette4", 3, 4},
    {"Palette8", 3, 8}, {"GreyAlpha8", 4, 8}, {"GreyAlpha16", 4, 16}, {"All8", 6, 8},     {"All16", 6, 16},
};
constexpr std::uint32_t kFormWide = 11, kFormHigh = 9;

// A picture's samples, each from 0 to `top`, and the pixels that they stand for.
struct Samples {
  explicit Samples(const Form& of) : form(of) {
    std::mt19937 random(7);
    for (std::uint32_t i = 0; i < kFormWide * kFormHigh; ++i) {
      std::array<int, 4> all{};
      // 0x4d4d is 77 of 255 times 257; of few bits only what is at either end is the same in all depths.
      const std::array<int, 3> levels{0, top(), form.depth == 16 ? 0x4d4d : form.depth == 8 ? 0x4d : top()};
      for (int channel = 0; channel < channels; ++channel) all[channel] = levels[random() % 3];
      samples.push_back(all);
    }
  }
  [[nodiscard]] int top() const { return (1 << form.depth) - 1; }
  // The first sample is clear where a file can say so of a colour.
  [[nodiscard]] bool clear(const std::array<int, 4>& sample) const {
    return form.colour != 4 && form.colour != 6 && sample == samples[0];
  }
  [[nodiscard]] Pixel pixel(const std::array<int, 4>& sample) const {
    const auto eight = [&](int value) { return static_cast<std::uint8_t>(value * 255 / top()); };
    const bool grey = form.colour == 0 || form.colour == 4;
    const int alpha = form.colour == 4 ? sample[1] : form.colour == 6 ? sample[3] : clear(sample) ? 0 : top();
    if (form.colour == 3)
      return {static_cast<std::uint8_t>(sample[0]), 9, 200, static_cast<std::uint8_t>(clear(sample) ? 0 : 255)};
    return {eight(sample[0]), eight(sample[grey ? 0 : 1]), eight(sample[grey ? 0 : 2]), eight(alpha)};
  }
  // The rows of every `across`th pixel and `down`th row from a place on, as a file has them.
  [[nodiscard]] std::string rows(std::uint32_t x0, std::uint32_t y0, std::uint32_t across, std::uint32_t down) const {
    std::string out;
    for (std::uint32_t y = y0; y < kFormHigh && x0 < kFormWide; y += down) {
      out += '\0';
      int bits = 0;
      unsigned held = 0;
      for (std::uint32_t x = x0; x < kFormWide; x += across)
        for (int channel = 0; channel < channels; ++channel) {
          const int value = samples[y * kFormWide + x][channel];
          if (form.depth >= 8) {
            out += big(static_cast<std::uint32_t>(value), form.depth / 8);
            continue;
          }
          held = held << form.depth | static_cast<unsigned>(value);
          bits += form.depth;
          if (bits == 8) out += static_cast<char>(held), held = 0, bits = 0;
        }
      if (bits > 0) out += static_cast<char>(held << (8 - bits));
    }
    return out;
  }
  [[nodiscard]] std::string file(bool interlaced, const std::string& others) const {
    std::string out =
        std::string("\x89PNG\r\n\x1a\n", 8) +
        chunk("IHDR", big(kFormWide) + big(kFormHigh) + static_cast<char>(form.depth) + static_cast<char>(form.colour) +
                          std::string(2, '\0') + static_cast<char>(interlaced ? 1 : 0)) +
        others;
    if (form.colour == 3) {
      std::string palette, clears;
      for (int i = 0; i <= top(); ++i) palette += static_cast<char>(i) + std::string("\x09\xc8");
      for (int i = 0; i <= samples[0][0]; ++i) clears += i == samples[0][0] ? '\0' : '\xff';
      out += chunk("PLTE", palette) + chunk("tRNS", clears);
    } else if (form.colour == 0 || form.colour == 2) {
      std::string colour;
      for (int channel = 0; channel < channels; ++channel)
        colour += big(static_cast<std::uint32_t>(samples[0][channel]), 2);
      out += chunk("tRNS", colour);
    }
    std::string raw;
    if (interlaced)
      for (const auto& [x, y, across, down] : std::initializer_list<std::array<std::uint32_t, 4>>{
               {0, 0, 8, 8}, {4, 0, 8, 8}, {0, 4, 4, 8}, {2, 0, 4, 4}, {0, 2, 2, 4}, {1, 0, 2, 2}, {0, 1, 1, 2}})
        raw += rows(x, y, across, down);
    else
      raw = rows(0, 0, 1, 1);
    return out + chunk("IDAT", stored(raw)) + chunk("IEND", "");
  }

  Form form;
  int channels = form.colour == 2 ? 3 : form.colour == 4 ? 2 : form.colour == 6 ? 4 : 1;
  std::vector<std::array<int, 4>> samples;
};

class PngForms : public testing::TestWithParam<Form> {};

TEST_P(PngForms, GiveTheirPixelsAsTheyAre) {
  const std::string path = testing::TempDir() + "mobrin-form-" + GetParam().name + ".png";
  const Samples samples(GetParam());
  std::vector<std::uint8_t> expected;
  for (const auto& each : samples.samples)
    for (const std::uint8_t part : samples.pixel(each)) expected.push_back(part);
  // What a file says of the light of screens (linear, here) changes nothing.
  for (const std::string& others : {std::string(), chunk("gAMA", big(100000))}) {
    for (const bool interlaced : {false, true}) {
      write_file(path, samples.file(interlaced, others));
      const auto image = load_png(path);
      ASSERT_TRUE(image) << image.error().message;
      EXPECT_EQ(image->width, static_cast<std::int32_t>(kFormWide));
      EXPECT_EQ(image->height, static_cast<std::int32_t>(kFormHigh));
      EXPECT_EQ(image->rgba, expected) << (interlaced ? "interlaced" : "row by row");
    }
  }
  std::filesystem::remove(path);
}
INSTANTIATE_TEST_SUITE_P(All, PngForms, testing::ValuesIn(kForms),
                         [](const testing::TestParamInfo<Form>& each) { return each.param.name; });

}  // namespace
}  // namespace mobrin::test
