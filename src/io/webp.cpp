// WebP, still and animated, over libwebp and its demuxer.
#include <webp/decode.h>
#include <webp/demux.h>

#include <array>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <memory>

#include "mobrin/io/file.hpp"
#include "picture_formats.hpp"

namespace mobrin::io {
namespace {

// A few bytes may stand for any number of equal pixels, so the number is what is limited.
constexpr std::int64_t kMostPixels = std::int64_t{16} << 20;
constexpr std::uintmax_t kMostBytes = std::uintmax_t{256} << 20;

struct Delete {
  void operator()(WebPAnimDecoder* decoder) const { WebPAnimDecoderDelete(decoder); }
};

Error refused(const std::string& path, const std::string& why) {
  return Error{"the image \"" + path + "\" cannot be read: " + why, ""};
}

Result<std::string> bytes_of(const std::string& path) {
  std::error_code error;
  if (!is_plain_file(path)) return refused(path, "it is no file");
  if (std::filesystem::file_size(path, error) > kMostBytes) return refused(path, "it is larger than 256 MiB");
  auto bytes = read_file(path);
  if (!bytes) return refused(path, bytes.error().message);
  return bytes;
}

// Empty where the size is one that is read.
std::string wrong_size(std::int64_t width, std::int64_t height) {
  if (width < 1 || height < 1) return "it has no pixels";
  if (width * height <= kMostPixels) return "";
  return std::to_string(width) + " x " + std::to_string(height) + " pixels are more than " +
         std::to_string(kMostPixels >> 20) + " megapixels";
}

ImageKind webp_kind(const std::string& path, std::span<const std::uint8_t, 8> first) {
  if (std::memcmp(first.data(), "RIFF", 4) != 0) return ImageKind::none;
  std::array<char, 21> head{};
  std::ifstream(path, std::ios::binary).read(head.data(), head.size());
  if (std::memcmp(head.data() + 8, "WEBP", 4) != 0) return ImageKind::none;
  constexpr char kAnimated = 2;
  const bool extended = std::memcmp(head.data() + 12, "VP8X", 4) == 0;
  return extended && (head[20] & kAnimated) != 0 ? ImageKind::animated : ImageKind::still;
}

PixelSize webp_size(const std::string& path) {
  std::array<char, 64> head{};
  std::ifstream in(path, std::ios::binary);
  in.read(head.data(), head.size());
  PixelSize size;
  if (WebPGetInfo(reinterpret_cast<const std::uint8_t*>(head.data()), static_cast<std::size_t>(in.gcount()),
                  &size.width, &size.height) == 0)
    return {};
  return size;
}

Result<Image> load_webp(const std::string& path) {
  const auto bytes = bytes_of(path);
  if (!bytes) return bytes.error();
  const auto* data = reinterpret_cast<const std::uint8_t*>(bytes->data());
  int width = 0, height = 0;
  if (WebPGetInfo(data, bytes->size(), &width, &height) == 0) return refused(path, "it is damaged");
  if (const std::string wrong = wrong_size(width, height); !wrong.empty()) return refused(path, wrong);
  Image image = blank(width, height);
  if (WebPDecodeRGBAInto(data, bytes->size(), image.rgba.data(), image.rgba.size(), 4 * width) == nullptr)
    return refused(path, "it is damaged");
  return image;
}

Result<Animation> read_webp(const std::string& path, const OnFrame& frame) {
  const auto bytes = bytes_of(path);
  if (!bytes) return bytes.error();
  WebPAnimDecoderOptions options;
  const WebPData data{reinterpret_cast<const std::uint8_t*>(bytes->data()), bytes->size()};
  int width = 0, height = 0;
  if (WebPGetInfo(data.bytes, data.size, &width, &height) == 0) return refused(path, "it is damaged");
  if (const std::string wrong = wrong_size(width, height); !wrong.empty()) return refused(path, wrong);
  if (WebPAnimDecoderOptionsInit(&options) == 0) return refused(path, "this libwebp does not fit");
  options.color_mode = MODE_RGBA;
  const std::unique_ptr<WebPAnimDecoder, Delete> decoder(WebPAnimDecoderNew(&data, &options));
  WebPAnimInfo info;
  if (!decoder || WebPAnimDecoderGetInfo(decoder.get(), &info) == 0) return refused(path, "it is damaged");
  Animation out;
  out.width = static_cast<std::int32_t>(info.canvas_width);
  out.height = static_cast<std::int32_t>(info.canvas_height);
  out.plays = static_cast<std::int32_t>(info.loop_count);
  if (const std::string wrong = wrong_size(out.width, out.height); !wrong.empty()) return refused(path, wrong);
  if (info.frame_count > kMostAnimationFrames ||
      std::int64_t{info.frame_count} * out.width * out.height > kMostAnimationPixels)
    return refused(path, "it has too many frames");
  Image picture = blank(out.width, out.height);
  int before = 0;
  while (WebPAnimDecoderHasMoreFrames(decoder.get()) != 0) {
    std::uint8_t* pixels = nullptr;
    int until = 0;  // milliseconds
    if (WebPAnimDecoderGetNext(decoder.get(), &pixels, &until) == 0) return refused(path, "a frame is damaged");
    out.delays.push_back({std::max(0, until - before), 1000});
    before = until;
    if (!frame) continue;
    std::memcpy(picture.rgba.data(), pixels, picture.rgba.size());
    frame(picture);
  }
  if (out.delays.size() != info.frame_count) return refused(path, "it is cut short");
  if (out.delays.empty()) return refused(path, "it has no frames");
  return out;
}

}  // namespace

constinit const PictureFormat kWebp{"WebP", {".webp", ""}, webp_kind, webp_size, load_webp, read_webp};

}  // namespace mobrin::io
