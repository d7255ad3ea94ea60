// Reading PNG files with libpng's simplified interface, which reports errors as values.
#include "mobrin/io/image.hpp"

#include <png.h>

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

}  // namespace mobrin
