// WebP as art: still ones like PNG files, animated ones with their exact delays, damaged ones refused.
#include <gtest/gtest.h>
#include <webp/encode.h>
#include <webp/mux.h>

#include <filesystem>
#include <fstream>

#include "mobrin/io/animation.hpp"
#include "mobrin/io/import.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

Image picture(std::int32_t width, std::int32_t height, std::uint8_t shade) {
  Image image{width, height, {}};
  for (std::int32_t i = 0; i < width * height; ++i)
    for (const std::uint8_t part : {shade, static_cast<std::uint8_t>(i % 7 * 30), std::uint8_t{40}, std::uint8_t{255}})
      image.rgba.push_back(part);
  return image;
}

class WebP : public testing::Test {
 protected:
  WebP() : folder_(std::filesystem::temp_directory_path() / ("mobrin-webp-" + std::to_string(getpid()))) {
    std::filesystem::create_directories(folder_ / "art");
  }
  ~WebP() override { std::filesystem::remove_all(folder_); }

  [[nodiscard]] std::string path(const std::string& name) const { return (folder_ / name).string(); }
  static void write(const std::string& path, const void* bytes, std::size_t size) {
    std::ofstream(path, std::ios::binary).write(static_cast<const char*>(bytes), static_cast<std::streamsize>(size));
  }
  void still(const std::string& name, const Image& image) const {
    std::uint8_t* bytes = nullptr;
    const std::size_t size =
        WebPEncodeLosslessRGBA(image.rgba.data(), image.width, image.height, image.width * 4, &bytes);
    write(path(name), bytes, size);
    WebPFree(bytes);
  }
  // Frames with how long each is shown, in milliseconds.
  void animated(const std::string& name, const std::vector<std::pair<Image, int>>& frames, int loops) const {
    WebPAnimEncoderOptions options;
    ASSERT_TRUE(WebPAnimEncoderOptionsInit(&options));
    options.anim_params.loop_count = loops;
    WebPAnimEncoder* encoder = WebPAnimEncoderNew(frames[0].first.width, frames[0].first.height, &options);
    WebPConfig config;
    ASSERT_TRUE(WebPConfigInit(&config));
    config.lossless = 1;
    config.exact = 1;
    int at = 0;
    for (const auto& [image, lasts] : frames) {
      WebPPicture pixels;
      ASSERT_TRUE(WebPPictureInit(&pixels));
      pixels.width = image.width;
      pixels.height = image.height;
      pixels.use_argb = 1;
      ASSERT_TRUE(WebPPictureImportRGBA(&pixels, image.rgba.data(), image.width * 4));
      ASSERT_TRUE(WebPAnimEncoderAdd(encoder, &pixels, at, &config));
      WebPPictureFree(&pixels);
      at += lasts;
    }
    ASSERT_TRUE(WebPAnimEncoderAdd(encoder, nullptr, at, nullptr));
    WebPData data;
    ASSERT_TRUE(WebPAnimEncoderAssemble(encoder, &data));
    write(path(name), data.bytes, data.size);
    WebPDataClear(&data);
    WebPAnimEncoderDelete(encoder);
  }

  std::filesystem::path folder_;
};

TEST_F(WebP, AStillOneIsReadAsItWasDrawn) {
  const Image drawn = picture(9, 5, 200);
  still("a.webp", drawn);
  EXPECT_EQ(image_kind(path("a.webp")), ImageKind::still);
  const auto image = load_image(path("a.webp"));
  ASSERT_TRUE(image) << image.error().text();
  EXPECT_EQ(image->width, 9);
  EXPECT_EQ(image->rgba, drawn.rgba);
  EXPECT_FALSE(read_animation(path("a.webp")));
}

TEST_F(WebP, AnAnimatedOneHasItsPicturesAndDelays) {
  animated("b.webp", {{picture(6, 4, 10), 80}, {picture(6, 4, 90), 120}, {picture(6, 4, 170), 40}}, 3);
  EXPECT_EQ(image_kind(path("b.webp")), ImageKind::animated);
  std::vector<Image> seen;
  const auto animation = read_animation(path("b.webp"), [&](const Image& image) { seen.push_back(image); });
  ASSERT_TRUE(animation) << animation.error().text();
  EXPECT_EQ(animation->plays, 3);
  ASSERT_EQ(animation->delays.size(), 3u);
  EXPECT_EQ(animation->delays[1].num, 120);
  EXPECT_EQ(animation->delays[1].den, 1000);
  ASSERT_EQ(seen.size(), 3u);
  EXPECT_EQ(seen[2].rgba, picture(6, 4, 170).rgba);
}

TEST_F(WebP, ImportMakesClipsOfBoth) {
  for (int i = 0; i < 3; ++i)
    still("art/walk_" + std::to_string(i) + ".webp", picture(8, 8, static_cast<std::uint8_t>(60 * i)));
  animated("art/swing.webp", {{picture(8, 8, 10), 100}, {picture(8, 8, 90), 200}}, 1);
  ImportOptions options;
  options.sources = {path("art")};
  options.out = path("c.clips.yaml");
  const Imported imported = import_art(options);
  EXPECT_TRUE(imported.findings.empty()) << joined(imported.findings);
  ASSERT_EQ(imported.clips.size(), 2u);
  const Loaded loaded = load_character_text(imported.text, options.out);
  ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << imported.text;
  const Machine& machine = *loaded.machine;
  const ClipInfo& swing = machine.clips()[machine.clip("swing")->index];
  EXPECT_EQ(swing.length, milliseconds(300));
  ArtStore store(path(""));
  for (const ClipInfo& clip : machine.clips())
    for (const FrameDef& frame : clip.def.frames) {
      const auto found = store.find(frame.art);
      ASSERT_TRUE(found) << found.error().text();
      EXPECT_EQ(found->rect.width, 8);
    }
  // As a sheet, too.
  still("sheet.webp", picture(16, 8, 33));
  options.sources = {path("sheet.webp")};
  options.grid = SheetGrid{8, 8};
  options.out = path("s.clips.yaml");
  const Imported cut = import_art(options);
  ASSERT_EQ(cut.clips.size(), 1u) << joined(cut.findings);
  EXPECT_EQ(cut.clips[0].frames.size(), 2u);
}

TEST_F(WebP, DamagedAndOverlargeOnesAreRefusedWithAReason) {
  animated("b.webp", {{picture(6, 4, 10), 80}, {picture(6, 4, 90), 120}}, 0);
  still("a.webp", picture(9, 5, 200));
  for (const char* name : {"a.webp", "b.webp"}) {
    std::ifstream in(path(name), std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    int refused = 0;
    for (std::size_t size = 0; size < whole.size(); ++size) {
      write(path("cut.webp"), whole.data(), size);
      const auto image = load_image(path("cut.webp"));
      const auto animation = read_animation(path("cut.webp"));
      refused += !image && !animation ? 1 : 0;
      EXPECT_EQ(image.error().text().empty(), bool(image));
      std::string changed = whole;
      changed[size] = static_cast<char>(changed[size] ^ 0x55);
      write(path("cut.webp"), changed.data(), changed.size());
      (void)load_image(path("cut.webp"));
      (void)read_animation(path("cut.webp"));
    }
    EXPECT_GT(refused, static_cast<int>(whole.size()) / 2);
  }
  still("large.webp", Image{5000, 4000, std::vector<std::uint8_t>(std::size_t{5000} * 4000 * 4)});
  const auto large = load_image(path("large.webp"));
  ASSERT_FALSE(large);
  EXPECT_NE(large.error().text().find("megapixels"), std::string::npos);
}

}  // namespace
}  // namespace mobrin::test
