// PNG files over libpng's simplified interface, which reports errors as values; images found by frame.
#include "mobrin/io/image.hpp"

#include <png.h>

#include <array>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "mobrin/io/file.hpp"
#include "picture_formats.hpp"

namespace mobrin {
namespace {

// Inflating a byte gives at most some 1,032: a header that promises more lies, and nothing is allocated for it.
// `head` is the file's first 26 bytes: signature, IHDR with width, height, depth and colour type.
bool can_hold(const std::array<std::uint8_t, 26>& head, std::uint64_t file_size) {
  const auto number = [&](std::size_t at) {
    return std::uint64_t{head[at]} << 24 | std::uint64_t{head[at + 1]} << 16 | std::uint64_t{head[at + 2]} << 8 |
           head[at + 3];
  };
  constexpr std::array<std::uint64_t, 7> kChannels{1, 1, 3, 1, 2, 1, 4};
  const std::uint64_t channels = head[25] < kChannels.size() ? kChannels[head[25]] : 1;
  const std::uint64_t row = (number(16) * channels * head[24] + 7) / 8 + 1;
  return row * number(20) <= (file_size + 64) * 1040;
}

// `begin` opens the stream; the rest is the same for files and memory.
template <class Begin>
Result<Image> decode(const std::array<std::uint8_t, 26>& head, std::uint64_t file_size, const Begin& begin) {
  png_image png;
  std::memset(&png, 0, sizeof png);
  png.version = PNG_IMAGE_VERSION;
  const auto refuse = [&](const std::string& why) {
    png_image_free(&png);
    return Error{why, ""};
  };
  if (begin(png) == 0) return refuse(png.message);
  const std::string size = std::to_string(png.width) + " x " + std::to_string(png.height) + " pixels are ";
  if (std::int64_t{png.width} * png.height > kMaxPixels) return refuse(size + "too many");
  if (!can_hold(head, file_size)) return refuse(size + "more than the file can hold");
  png.format = PNG_FORMAT_RGBA;
  Image image = io::blank(static_cast<std::int32_t>(png.width), static_cast<std::int32_t>(png.height));
  if (png_image_finish_read(&png, nullptr, image.rgba.data(), 0, nullptr) == 0) return refuse(png.message);
  return image;
}

png_image described(const Image& image) {
  png_image png;
  std::memset(&png, 0, sizeof png);
  png.version = PNG_IMAGE_VERSION;
  png.width = static_cast<png_uint_32>(image.width);
  png.height = static_cast<png_uint_32>(image.height);
  png.format = PNG_FORMAT_RGBA;
  return png;
}

}  // namespace

namespace io {

PixelSize png_size(const std::string& path) {
  std::array<unsigned char, 24> head{};
  std::ifstream(path, std::ios::binary).read(reinterpret_cast<char*>(head.data()), head.size());
  const auto number = [&](std::size_t at) {
    return static_cast<std::int32_t>((std::uint32_t{head[at]} << 24 | std::uint32_t{head[at + 1]} << 16 |
                                      std::uint32_t{head[at + 2]} << 8 | head[at + 3]) &
                                     0x7fffffff);
  };
  return {number(16), number(20)};
}

Result<Image> decode_png(std::span<const std::uint8_t> bytes) {
  std::array<std::uint8_t, 26> head{};
  std::memcpy(head.data(), bytes.data(), std::min(bytes.size(), head.size()));
  return decode(head, bytes.size(),
                [&](png_image& png) { return png_image_begin_read_from_memory(&png, bytes.data(), bytes.size()); });
}

Result<std::vector<std::uint8_t>> encode_png(const Image& image) {
  png_image png = described(image);
  png_alloc_size_t size = 0;
  std::vector<std::uint8_t> out;
  bool done = png_image_write_to_memory(&png, nullptr, &size, 0, image.rgba.data(), 0, nullptr) != 0;
  if (done) {
    out.resize(size);
    done = png_image_write_to_memory(&png, out.data(), &size, 0, image.rgba.data(), 0, nullptr) != 0;
  }
  if (done) return out;
  const std::string why = png.message;
  png_image_free(&png);
  return Error{why, ""};
}

}  // namespace io

Result<Image> load_png(const std::string& path) {
  if (!is_plain_file(path)) return Error{"the image \"" + path + "\" cannot be read: it is no file", ""};
  std::array<std::uint8_t, 26> head{};
  std::ifstream(path, std::ios::binary).read(reinterpret_cast<char*>(head.data()), head.size());
  std::error_code ignored;
  const std::uintmax_t size = std::filesystem::file_size(path, ignored);
  auto image = decode(head, ignored ? 0 : size,
                      [&](png_image& png) { return png_image_begin_read_from_file(&png, path.c_str()); });
  if (!image) return Error{"the image \"" + path + "\" cannot be read: " + image.error().message, ""};
  return image;
}

Result<std::string> png_bytes(const Image& image) {
  const auto bytes = io::encode_png(image);
  if (!bytes) return bytes.error();
  return std::string(reinterpret_cast<const char*>(bytes->data()), bytes->size());
}

Outcome write_png(const Image& image, const std::string& path) {
  const auto bytes = png_bytes(image);
  if (!bytes) return Error{"\"" + path + "\" cannot be written: " + bytes.error().message, ""};
  return write_file(path, *bytes);
}

std::string ArtStore::path_of(const std::string& source) const {
  return source.starts_with('/') ? source : folder_ + source;
}

bool ArtStore::left_out(const std::string& source) const {
  const auto found = sources_.find(source);
  return found != sources_.end() && found->second.left_out;
}

Result<ArtStore::Picture> ArtStore::find(const FrameArt& art) {
  const bool of_animation = art.rect.width == 0 && !art.tile.empty();
  const auto [entry, fresh] = sources_.try_emplace(art.source);
  Source& source = entry->second;
  if (fresh) read(art.source, of_animation, source);
  if (!source.wrong.empty()) return Error{source.wrong, ""};
  const auto index = of_animation ? static_cast<std::size_t>(std::strtoul(art.tile.c_str(), nullptr, 10)) : 0;
  if (index >= source.images.size())
    return Error{
        "there is no frame " + art.tile + " in " + art.source + ", which has " + std::to_string(source.images.size()),
        ""};
  std::shared_ptr<const Image> image = source.images[index];
  const auto rect = rect_on_image(art, image->width, image->height);
  if (!rect)
    return Error{(art.tile.empty() ? "its rectangle" : "its cell " + art.tile) + " lies outside " + art.source +
                     ", which is " + std::to_string(image->width) + " x " + std::to_string(image->height) + " pixels",
                 ""};
  return Picture{std::move(image), *rect};
}

void ArtStore::read(const std::string& name, bool of_animation, Source& source) {
  const std::string path = path_of(name);
  std::size_t bytes = 0;
  const auto keep = [&](Image image) {
    bytes += image.rgba.size();
    source.images.push_back(std::make_shared<const Image>(std::move(image)));
  };
  const auto [format, kind] = io::recognise(path);
  const bool again = counted_.contains(name);  // it was let go, and counts once
  const std::int64_t room = again ? most_pixels_ : most_pixels_ - pixels_;
  const io::PixelSize size = kind == ImageKind::still ? format->size(path) : io::PixelSize{};
  if (room <= 0 || std::int64_t{size.width} * size.height > std::min(room, most_of_image_)) {
    source.left_out = true;
    source.wrong = "the image \"" + path + "\" was not looked at";
  } else if (of_animation || (kind == ImageKind::animated && !format->still_beside)) {
    bool fits = true;
    const auto read = read_animation(path, [&](const Image& image) {
      fits = fits && bytes + image.rgba.size() <= kMostBytes;
      if (fits && (of_animation || source.images.empty())) keep(image);
    });
    if (!read)
      source.wrong = read.error().message;
    else if (!fits)
      source.wrong = "the animation \"" + path + "\" has too many pixels; import it with --extract";
  } else if (auto image = load_image(path)) {
    keep(std::move(*image));
  } else {
    source.wrong = image.error().message;
  }
  if (bytes > 0 && counted_.insert(name).second) pixels_ += static_cast<std::int64_t>(bytes / 4);
  if (!source.wrong.empty()) source.images.clear();
  // The pictures read longest ago go first; who still holds one keeps it.
  held_ += bytes;
  source.bytes = bytes;
  order_.push_back(name);
  while (held_ > kMostBytes && order_.size() > 1) {
    held_ -= sources_[order_.front()].bytes;
    sources_.erase(order_.front());
    order_.pop_front();
  }
}

}  // namespace mobrin
