// PNG files over libpng; images found by frame. Its simplified interface writes them. It does not read them: it takes
// 16 bits a channel for linear light, and interlaced ones of these come out with their pixels at other places (1.6.39).
#include "mobrin/io/image.hpp"

#include <png.h>

#include <algorithm>
#include <array>
#include <csetjmp>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <span>
#include <string>
#include <utility>
#include <vector>

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

// Gives so many of the file's next bytes; false where there are fewer.
using ReadBytes = std::function<bool(std::uint8_t* out, std::size_t count)>;

// A PNG file that is being read. libpng leaves a function that fails by a jump: those that call it hold nothing that
// would have to be destroyed.
struct PngReading {
  explicit PngReading(const ReadBytes& bytes) : read(bytes) {
    png = png_create_read_struct(PNG_LIBPNG_VER_STRING, this, fail, pass_over);
    if (png != nullptr) info = png_create_info_struct(png);
    if (info == nullptr) return;
    png_set_benign_errors(png, 1);
    png_set_keep_unknown_chunks(png, PNG_HANDLE_CHUNK_NEVER, nullptr, -1);  // what tells nothing of the pixels
    png_set_read_fn(png, this, give);
  }
  PngReading(const PngReading&) = delete;
  PngReading& operator=(const PngReading&) = delete;
  ~PngReading() { png_destroy_read_struct(&png, &info, nullptr); }

  // What of the file says how its pixels lie. False: see `why`.
  bool head() {
    if (info == nullptr || setjmp(png_jmpbuf(png)) != 0) return false;
    png_read_info(png, info);
    width = png_get_image_width(png, info);
    height = png_get_image_height(png, info);
    return true;
  }
  // All rows, as 8 bits of red, green, blue and alpha a pixel, values as they are: what a file says of its gamma is of
  // screens, and picture tools mostly write it without meaning it.
  bool rows(png_bytepp out) {
    if (setjmp(png_jmpbuf(png)) != 0) return false;
    png_set_expand(png);
    png_set_scale_16(png);
    png_set_gray_to_rgb(png);
    png_set_add_alpha(png, 0xff, PNG_FILLER_AFTER);
    png_set_interlace_handling(png);
    png_read_update_info(png, info);
    if (png_get_rowbytes(png, info) != std::size_t{4} * width) png_error(png, "its pixels are of an unknown kind");
    png_read_image(png, out);
    return true;
  }

  const ReadBytes& read;
  png_structp png = nullptr;
  png_infop info = nullptr;
  std::uint32_t width = 0, height = 0;
  std::string why = "there is no memory for it";

 private:
  [[noreturn]] static void fail(png_structp png, png_const_charp why) {
    static_cast<PngReading*>(png_get_error_ptr(png))->why = why;
    png_longjmp(png, 1);
  }
  static void pass_over(png_structp, png_const_charp) {}
  static void give(png_structp png, png_bytep out, std::size_t count) {
    if (!static_cast<PngReading*>(png_get_io_ptr(png))->read(out, count)) png_error(png, "the file ends too early");
  }
};

Result<Image> decode(const std::array<std::uint8_t, 26>& head, std::uint64_t file_size, const ReadBytes& read) {
  PngReading png(read);
  if (!png.head()) return Error{png.why, ""};
  const std::string size = std::to_string(png.width) + " x " + std::to_string(png.height) + " pixels are ";
  if (std::int64_t{png.width} * png.height > kMaxPixels) return Error{size + "too many", ""};
  if (!can_hold(head, file_size)) return Error{size + "more than the file can hold", ""};
  Image image = io::blank(static_cast<std::int32_t>(png.width), static_cast<std::int32_t>(png.height));
  std::vector<png_bytep> rows;
  rows.reserve(png.height);
  for (std::size_t y = 0; y < png.height; ++y) rows.push_back(image.rgba.data() + y * png.width * 4);
  if (!png.rows(rows.data())) return Error{png.why, ""};
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
  std::span<const std::uint8_t> rest = bytes;
  return decode(head, bytes.size(), [&](std::uint8_t* out, std::size_t count) {
    if (count > rest.size()) return false;
    std::copy_n(rest.data(), count, out);
    rest = rest.subspan(count);
    return true;
  });
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
  std::ifstream file(path, std::ios::binary);
  file.read(reinterpret_cast<char*>(head.data()), head.size());
  file.clear();
  file.seekg(0);
  std::error_code ignored;
  const std::uintmax_t size = std::filesystem::file_size(path, ignored);
  auto image = decode(head, ignored ? 0 : size, [&](std::uint8_t* out, std::size_t count) {
    return !file.read(reinterpret_cast<char*>(out), static_cast<std::streamsize>(count)).fail();
  });
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
                 "", art.tile.empty() ? "Check its rectangle." : "Check `tile:` and the numbers of `frames:`."};
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
