// Animated PNG: its chunks are taken apart here, each frame's pixels are decoded by libpng as a PNG of their own.
#include <zlib.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <fstream>
#include <iterator>

#include "mobrin/io/file.hpp"
#include "picture_formats.hpp"

namespace mobrin {
namespace io {

void clear(Image& canvas, const PixelRect& area) {
  const std::int32_t right = std::min(area.x + area.width, canvas.width);
  for (std::int32_t y = area.y; y < std::min(area.y + area.height, canvas.height); ++y)
    for (std::int32_t x = area.x; x < right; ++x)
      std::memset(canvas.rgba.data() + 4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(canvas.width) +
                                            static_cast<std::size_t>(x)),
                  0, 4);
}

namespace {

using Bytes = std::vector<std::uint8_t>;
using View = std::span<const std::uint8_t>;

constexpr std::array<std::uint8_t, 8> kSignature{0x89, 'P', 'N', 'G', '\r', '\n', 0x1a, '\n'};
constexpr std::streamoff kMostBytes = std::streamoff{1} << 28;

std::uint32_t number(View bytes, std::size_t at) {
  return std::uint32_t{bytes[at]} << 24 | std::uint32_t{bytes[at + 1]} << 16 | std::uint32_t{bytes[at + 2]} << 8 |
         bytes[at + 3];
}
std::uint32_t short_number(View bytes, std::size_t at) { return std::uint32_t{bytes[at]} << 8 | bytes[at + 1]; }

void append(Bytes& to, std::uint32_t value) {
  for (int shift = 24; shift >= 0; shift -= 8) to.push_back(static_cast<std::uint8_t>(value >> shift));
}
std::uint32_t sum_of(View typed) {
  return static_cast<std::uint32_t>(crc32(0, typed.data(), static_cast<uInt>(typed.size())));
}
void append_chunk(Bytes& to, const char* type, View data) {
  append(to, static_cast<std::uint32_t>(data.size()));
  const std::size_t begin = to.size();
  to.insert(to.end(), type, type + 4);
  to.insert(to.end(), data.begin(), data.end());
  append(to, sum_of(View(to).subspan(begin)));
}

// One frame's control and the pieces of its pixels.
struct ApngFrame {
  PixelRect area;
  Fraction delay;
  int dispose = 0, blend = 0;
  std::vector<View> data;
};

class ApngReader {
 public:
  ApngReader(const std::string& path, const OnFrame& frame) : path_(path), on_frame_(frame) {}

  Result<Animation> run() {
    std::ifstream in(path_, std::ios::binary | std::ios::ate);
    if (!in) return refuse("it cannot be opened");
    if (in.tellg() > kMostBytes) return refuse("the file is larger than 256 MiB");
    in.seekg(0);
    bytes_.assign(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
    if (std::string wrong = read_chunks(); !wrong.empty()) return refuse(wrong);
    if (std::string wrong = show_frames(); !wrong.empty()) return refuse(wrong);
    return std::move(animation_);
  }

 private:
  [[nodiscard]] Error refuse(const std::string& why) const {
    return Error{"the image \"" + path_ + "\" cannot be read: " + why, ""};
  }

  std::string read_chunks() {
    const View all(bytes_);
    if (all.size() < 8 || std::memcmp(all.data(), kSignature.data(), 8) != 0) return "it is no PNG";
    bool ended = false;
    for (std::size_t at = 8; at < all.size() && !ended;) {
      if (all.size() - at < 12) return "it is cut short";
      const std::size_t length = number(all, at);
      if (length > all.size() - at - 12) return "it is cut short";
      const View typed = all.subspan(at + 4, length + 4), data = typed.subspan(4);
      const std::string type(typed.begin(), typed.begin() + 4);
      if (sum_of(typed) != number(all, at + 8 + length)) return "its chunk " + type + " is damaged";
      if (at == 8 && (type != "IHDR" || length != 13)) return "it does not begin with a header";
      if (std::string wrong = take(type, data); !wrong.empty()) return wrong;
      ended = type == "IEND";
      at += length + 12;
    }
    if (!ended) return "it is cut short";
    if (!has_control_) return "it has no animation";
    if (frames_.size() != promised_)
      return "it promises " + std::to_string(promised_) + " frames and has " + std::to_string(frames_.size());
    return "";
  }

  std::string take(const std::string& type, View data) {
    const bool known_color = type == "PLTE" || type == "tRNS" || type == "gAMA" || type == "cHRM" || type == "sRGB" ||
                             type == "iCCP" || type == "sBIT";
    if (type == "IHDR") {
      header_ = data;
      const std::uint32_t width = number(data, 0), height = number(data, 4);
      if (width == 0 || height == 0 || std::uint64_t{width} * height > std::uint64_t{kMaxPixels})
        return std::to_string(width) + " x " + std::to_string(height) + " pixels are none, or too many";
      animation_.width = static_cast<std::int32_t>(width);
      animation_.height = static_cast<std::int32_t>(height);
    } else if (type == "acTL") {
      if (data.size() != 8 || has_control_ || has_pixels_) return "its animation control is malformed";
      has_control_ = true;
      promised_ = number(data, 0);
      if (promised_ == 0 || promised_ > kMostAnimationFrames) return "it promises no frames, or more than 10000";
      animation_.plays = static_cast<std::int32_t>(std::min<std::uint32_t>(number(data, 4), 0x7fffffff));
    } else if (type == "fcTL") {
      return take_control(data);
    } else if (type == "IDAT") {
      has_pixels_ = true;
      if (frames_.size() > 1) return "its first frame comes late";
      if (!frames_.empty()) frames_.back().data.push_back(data);  // else: a picture for those who cannot animate
    } else if (type == "fdAT") {
      if (data.size() < 4 || frames_.empty() || !has_pixels_ || !in_sequence(number(data, 0)))
        return "its frames are out of sequence";
      frames_.back().data.push_back(data.subspan(4));
    } else if (known_color && !has_pixels_) {
      append_chunk(colors_, type.c_str(), data);
    }
    return "";
  }

  std::string take_control(View data) {
    if (data.size() != 26 || !has_control_) return "a frame's control is malformed";
    if (!in_sequence(number(data, 0))) return "its frames are out of sequence";
    if (!frames_.empty() && frames_.back().data.empty()) return "a frame has no pixels";
    const std::uint64_t width = number(data, 4), height = number(data, 8), x = number(data, 12), y = number(data, 16);
    const auto right = static_cast<std::uint64_t>(animation_.width),
               bottom = static_cast<std::uint64_t>(animation_.height);
    if (width == 0 || height == 0 || x + width > right || y + height > bottom) return "a frame lies outside the canvas";
    if (!has_pixels_ && (x != 0 || y != 0 || width != right || height != bottom))
      return "its first frame does not cover the canvas";
    if (data[24] > 2 || data[25] > 1) return "a frame's control is malformed";
    if (frames_.size() >= promised_) return "it has more frames than it promises";
    ApngFrame& frame = frames_.emplace_back();
    frame.area = {static_cast<std::int32_t>(x), static_cast<std::int32_t>(y), static_cast<std::int32_t>(width),
                  static_cast<std::int32_t>(height)};
    const std::uint32_t parts = short_number(data, 22);
    frame.delay = {short_number(data, 20), parts == 0 ? 100 : parts};  // 0 means hundredths, as the format says
    frame.dispose = data[24];
    frame.blend = data[25];
    return "";
  }
  bool in_sequence(std::uint32_t value) { return value == next_++; }

  std::string show_frames() {
    const std::int64_t pixels = std::int64_t{animation_.width} * animation_.height;
    if (pixels * static_cast<std::int64_t>(frames_.size()) > kMostAnimationPixels) return "it has too many frames";
    Image canvas, before;
    for (std::size_t i = 0; i < frames_.size(); ++i) {
      const ApngFrame& frame = frames_[i];
      if (frame.data.empty()) return "frame " + std::to_string(i) + " has no pixels";
      Bytes png(kSignature.begin(), kSignature.end());
      Bytes header;
      append(header, static_cast<std::uint32_t>(frame.area.width));
      append(header, static_cast<std::uint32_t>(frame.area.height));
      header.insert(header.end(), header_.begin() + 8, header_.end());
      append_chunk(png, "IHDR", header);
      png.insert(png.end(), colors_.begin(), colors_.end());
      for (const View piece : frame.data) append_chunk(png, "IDAT", piece);
      append_chunk(png, "IEND", {});
      const auto picture = decode_png(png);
      if (!picture) return "frame " + std::to_string(i) + ": " + picture.error().message;
      if (canvas.width == 0) canvas = blank(animation_.width, animation_.height);
      const bool restores = frame.dispose == 2 && i > 0;
      if (restores) before = canvas;
      lay(canvas, *picture, frame);
      animation_.delays.push_back(frame.delay);
      if (on_frame_) on_frame_(canvas);
      if (restores)
        std::swap(canvas, before);
      else if (frame.dispose != 0)
        clear(canvas, frame.area);
    }
    return "";
  }

  // Blending as the PNG specification states it (alpha channel processing) for colours not multiplied by alpha.
  static void lay(Image& canvas, const Image& picture, const ApngFrame& frame) {
    for (std::int32_t y = 0; y < frame.area.height; ++y) {
      for (std::int32_t x = 0; x < frame.area.width; ++x) {
        const std::uint8_t* from =
            picture.rgba.data() +
            4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(picture.width) + static_cast<std::size_t>(x));
        std::uint8_t* to = canvas.rgba.data() +
                           4 * (static_cast<std::size_t>(frame.area.y + y) * static_cast<std::size_t>(canvas.width) +
                                static_cast<std::size_t>(frame.area.x + x));
        if (frame.blend == 0 || from[3] == 255 || to[3] == 0) {
          std::memcpy(to, from, 4);
          continue;
        }
        if (from[3] == 0) continue;
        const unsigned over = from[3] * 255u, under = (255u - from[3]) * to[3], sum = over + under;
        for (int c = 0; c < 3; ++c) to[c] = static_cast<std::uint8_t>((from[c] * over + to[c] * under + sum / 2) / sum);
        to[3] = static_cast<std::uint8_t>((sum + 127) / 255);
      }
    }
  }

  const std::string& path_;
  const OnFrame& on_frame_;
  Bytes bytes_, colors_;
  View header_;
  bool has_control_ = false, has_pixels_ = false;
  std::uint32_t promised_ = 0, next_ = 0;
  std::vector<ApngFrame> frames_;
  Animation animation_;
};

Result<Animation> read_apng(const std::string& path, const OnFrame& frame) { return ApngReader(path, frame).run(); }

// The animation's control stands before the pixels.
ImageKind png_kind(const std::string& path, std::span<const std::uint8_t, 8> first) {
  if (std::memcmp(first.data(), kSignature.data(), kSignature.size()) != 0) return ImageKind::none;
  std::ifstream in(path, std::ios::binary);
  std::array<std::uint8_t, 8> head{};
  in.seekg(static_cast<std::streamoff>(head.size()));
  for (int chunks = 0; chunks < 1000 && in.read(reinterpret_cast<char*>(head.data()), head.size()); ++chunks) {
    if (std::memcmp(head.data() + 4, "acTL", 4) == 0) return ImageKind::animated;
    if (std::memcmp(head.data() + 4, "IDAT", 4) == 0) break;
    in.seekg(std::streamoff{number(head, 0)} + 4, std::ios::cur);
  }
  return ImageKind::still;
}

}  // namespace

constinit const PictureFormat kPng{"PNG", {".png", ".apng"}, png_kind, png_size, load_png, read_apng, true};

}  // namespace io

Outcome write_apng(const std::vector<Image>& frames, Fraction delay, const std::string& path) {
  return write_apng(frames, std::vector<Fraction>(frames.size(), delay), 0, path);
}

// Each picture is encoded as a PNG of its own; its pixels' chunks become a frame's.
Outcome write_apng(const std::vector<Image>& frames, const std::vector<Fraction>& delays, std::int32_t plays,
                   const std::string& path) {
  using namespace io;
  Bytes out(kSignature.begin(), kSignature.end());
  std::uint32_t sequence = 0;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const auto png = encode_png(frames[i]);
    if (!png) return png.error();
    Bytes control;
    for (const std::uint32_t value : {sequence++, static_cast<std::uint32_t>(frames[i].width),
                                      static_cast<std::uint32_t>(frames[i].height), 0u, 0u})
      append(control, value);
    for (const std::int64_t value : {delays[i].num, delays[i].den}) {
      control.push_back(static_cast<std::uint8_t>(value >> 8));
      control.push_back(static_cast<std::uint8_t>(value));
    }
    control.push_back(0);  // stays
    control.push_back(0);  // replaces
    const View all(*png);
    bool begun = false;
    for (std::size_t at = 8; at + 12 <= all.size();) {
      const std::size_t length = number(all, at);
      const std::string type(all.begin() + static_cast<std::ptrdiff_t>(at) + 4,
                             all.begin() + static_cast<std::ptrdiff_t>(at) + 8);
      const View data = all.subspan(at + 8, length);
      if (type == "IHDR" && i == 0) {
        append_chunk(out, "IHDR", data);
        Bytes animation;
        append(animation, static_cast<std::uint32_t>(frames.size()));
        append(animation, static_cast<std::uint32_t>(plays));
        append_chunk(out, "acTL", animation);
      }
      if (type == "IDAT") {
        if (!begun) append_chunk(out, "fcTL", control);
        begun = true;
        if (i == 0) {
          append_chunk(out, "IDAT", data);
        } else {
          Bytes numbered;
          append(numbered, sequence++);
          numbered.insert(numbered.end(), data.begin(), data.end());
          append_chunk(out, "fdAT", numbered);
        }
      }
      at += length + 12;
    }
  }
  append_chunk(out, "IEND", {});
  return write_file(path, {reinterpret_cast<const char*>(out.data()), out.size()});
}

}  // namespace mobrin
