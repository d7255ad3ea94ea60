// Animated GIF over giflib, line by line: nothing is allocated by what a header says alone.
#include <gif_lib.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <filesystem>
#include <memory>

#include "picture_formats.hpp"

namespace mobrin::io {
namespace {

struct Close {
  void operator()(GifFileType* file) const { DGifCloseFile(file, nullptr); }
};

class GifReader {
 public:
  GifReader(const std::string& path, const OnFrame& frame) : path_(path), on_frame_(frame) {}

  Result<Animation> run() {
    int error = 0;
    file_.reset(DGifOpenFileName(path_.c_str(), &error));
    if (!file_) return refuse(text_of(error));
    animation_.width = file_->SWidth;
    animation_.height = file_->SHeight;
    if (animation_.width < 1 || animation_.height < 1) return refuse("it has no pixels");
    const std::int64_t pixels = std::int64_t{animation_.width} * animation_.height;
    // LZW makes at most some 2,700 pixels of a byte.
    std::error_code ignored;
    const auto bytes = static_cast<std::int64_t>(std::filesystem::file_size(path_, ignored));
    if (pixels > kMaxPixels || pixels / 4096 > bytes)
      return refuse(std::to_string(animation_.width) + " x " + std::to_string(animation_.height) +
                    " pixels are more than the file can hold");
    for (;;) {
      GifRecordType record = UNDEFINED_RECORD_TYPE;
      if (DGifGetRecordType(file_.get(), &record) == GIF_ERROR) return refuse(text_of(file_->Error));
      std::string wrong;
      if (record == TERMINATE_RECORD_TYPE) break;
      if (record == EXTENSION_RECORD_TYPE) wrong = read_extension();
      if (record == IMAGE_DESC_RECORD_TYPE) wrong = read_image();
      if (!wrong.empty()) return refuse(wrong);
    }
    if (animation_.delays.empty()) return refuse("it has no frames");
    return std::move(animation_);
  }

 private:
  [[nodiscard]] Error refuse(const std::string& why) const {
    return Error{"the image \"" + path_ + "\" cannot be read: " + why, ""};
  }
  [[nodiscard]] static std::string text_of(int error) {
    const char* text = GifErrorString(error);
    return text == nullptr ? "it is damaged" : text;
  }

  // Delay, disposal and transparency of the next image; how often all plays.
  std::string read_extension() {
    int code = 0;
    GifByteType* block = nullptr;  // its length, then its bytes
    if (DGifGetExtension(file_.get(), &code, &block) == GIF_ERROR) return text_of(file_->Error);
    bool repeats = false;
    for (bool first = true; block != nullptr; first = false) {
      if (code == GRAPHICS_EXT_FUNC_CODE && first && DGifExtensionToGCB(block[0], block + 1, &control_) == GIF_ERROR)
        return "its graphic control is malformed";
      if (code == APPLICATION_EXT_FUNC_CODE && first)
        repeats = block[0] == 11 &&
                  (std::memcmp(block + 1, "NETSCAPE2.0", 11) == 0 || std::memcmp(block + 1, "ANIMEXTS1.0", 11) == 0);
      else if (repeats && block[0] >= 3 && block[1] == 1) {
        const int count = block[2] | block[3] << 8;
        animation_.plays = count == 0 ? 0 : count + 1;
        says_repeats_ = true;
      }
      if (DGifGetExtensionNext(file_.get(), &block) == GIF_ERROR) return text_of(file_->Error);
    }
    return "";
  }

  std::string read_image() {
    if (DGifGetImageDesc(file_.get()) == GIF_ERROR) return text_of(file_->Error);
    if (!says_repeats_) animation_.plays = 1;
    const GifImageDesc& image = file_->Image;
    const ColorMapObject* colors = image.ColorMap != nullptr ? image.ColorMap : file_->SColorMap;
    if (colors == nullptr) return "a frame has no colours";
    const PixelRect area{image.Left, image.Top, image.Width, image.Height};
    if (area.width < 1 || area.height < 1) return "a frame has no pixels";
    if (std::int64_t{area.width} * area.height > kMaxPixels) return "a frame has too many pixels";
    seen_ += std::int64_t{animation_.width} * animation_.height + std::int64_t{area.width} * area.height;
    if (animation_.delays.size() >= kMostAnimationFrames || seen_ > kMostAnimationPixels)
      return "it has too many frames";
    if (canvas_.width == 0) canvas_ = blank(animation_.width, animation_.height);
    if (control_.DisposalMode == DISPOSE_PREVIOUS) before_ = canvas_;
    line_.resize(static_cast<std::size_t>(area.width));
    // Interlaced rows come in four passes.
    constexpr std::array<std::pair<int, int>, 4> kPasses{{{0, 8}, {4, 8}, {2, 4}, {1, 2}}};
    for (std::size_t pass = 0; pass < (image.Interlace ? kPasses.size() : 1); ++pass) {
      const auto [start, step] = image.Interlace ? kPasses[pass] : std::pair(0, 1);
      for (int y = start; y < area.height; y += step) {
        if (DGifGetLine(file_.get(), line_.data(), area.width) == GIF_ERROR) return text_of(file_->Error);
        draw_line(area, y, *colors);
      }
    }
    animation_.delays.push_back({control_.DelayTime, 100});
    if (on_frame_) on_frame_(canvas_);
    if (control_.DisposalMode == DISPOSE_BACKGROUND) clear(canvas_, area);
    if (control_.DisposalMode == DISPOSE_PREVIOUS) std::swap(canvas_, before_);
    control_ = kNoControl;
    return "";
  }

  // What lies beside the canvas is not seen.
  void draw_line(const PixelRect& area, int y, const ColorMapObject& colors) {
    if (area.y + y >= canvas_.height) return;
    const std::int32_t end = std::min(area.width, canvas_.width - area.x);
    for (std::int32_t x = 0; x < end; ++x) {
      const int index = line_[static_cast<std::size_t>(x)];
      if (index == control_.TransparentColor || index >= colors.ColorCount) continue;
      const GifColorType& color = colors.Colors[index];
      std::uint8_t* to =
          canvas_.rgba.data() + 4 * (static_cast<std::size_t>(area.y + y) * static_cast<std::size_t>(canvas_.width) +
                                     static_cast<std::size_t>(area.x + x));
      to[0] = color.Red;
      to[1] = color.Green;
      to[2] = color.Blue;
      to[3] = 255;
    }
  }

  static constexpr GraphicsControlBlock kNoControl{DISPOSAL_UNSPECIFIED, false, 0, NO_TRANSPARENT_COLOR};

  const std::string& path_;
  const OnFrame& on_frame_;
  std::unique_ptr<GifFileType, Close> file_;
  GraphicsControlBlock control_ = kNoControl;
  Animation animation_;
  bool says_repeats_ = false;
  std::int64_t seen_ = 0;  // pixels
  Image canvas_, before_;
  std::vector<GifPixelType> line_;
};

ImageKind gif_kind(const std::string&, std::span<const std::uint8_t, 8> head) {
  const bool is = std::memcmp(head.data(), "GIF87a", 6) == 0 || std::memcmp(head.data(), "GIF89a", 6) == 0;
  return is ? ImageKind::animated : ImageKind::none;
}

Result<Animation> read_gif(const std::string& path, const OnFrame& frame) { return GifReader(path, frame).run(); }

}  // namespace

constinit const PictureFormat kGif{"GIF", {".gif", ""}, gif_kind, nullptr, nullptr, read_gif};

}  // namespace mobrin::io
