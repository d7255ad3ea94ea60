// Reading PNG files with libpng's simplified interface, which reports errors as values.
#include "mobrin/io/image.hpp"

#include <png.h>

#include <cstdlib>
#include <cstring>

namespace mobrin {

Result<Image> load_png(const std::string& path) {
  png_image png;
  std::memset(&png, 0, sizeof png);
  png.version = PNG_IMAGE_VERSION;
  const auto refuse = [&](const std::string& why) {
    png_image_free(&png);
    return Error{"the image \"" + path + "\" cannot be read: " + why, ""};
  };
  if (png_image_begin_read_from_file(&png, path.c_str()) == 0) return refuse(png.message);
  if (std::int64_t{png.width} * png.height > kMaxPixels)
    return refuse(std::to_string(png.width) + " x " + std::to_string(png.height) + " pixels are too many");
  png.format = PNG_FORMAT_RGBA;
  Image image;
  image.width = static_cast<std::int32_t>(png.width);
  image.height = static_cast<std::int32_t>(png.height);
  image.rgba.resize(static_cast<std::size_t>(image.width) * static_cast<std::size_t>(image.height) * 4);
  if (png_image_finish_read(&png, nullptr, image.rgba.data(), 0, nullptr) == 0) return refuse(png.message);
  return image;
}

std::optional<PixelRect> rect_on_image(const FrameArt& art, std::int32_t width, std::int32_t height) {
  PixelRect rect = art.rect;
  if (rect.width == 0) rect = {0, 0, width, height};
  if (rect.x < 0) {
    const std::int32_t wide = rect.width + art.spacing, high = rect.height + art.spacing;
    const std::int32_t columns = (width - 2 * art.margin + art.spacing) / wide;
    if (columns <= 0) return std::nullopt;
    const long number = std::strtol(art.tile.c_str(), nullptr, 10);
    const long top = art.margin + number / columns * high;
    if (number < 0 || top > height) return std::nullopt;
    rect.x = art.margin + static_cast<std::int32_t>(number % columns) * wide;
    rect.y = static_cast<std::int32_t>(top);
  }
  if (rect.x > width - rect.width || rect.y > height - rect.height) return std::nullopt;
  return rect;
}

}  // namespace mobrin
