#include "picture_formats.hpp"

#include <algorithm>
#include <array>
#include <filesystem>
#include <fstream>

#include "mobrin/io/file.hpp"

namespace mobrin {
namespace io {
namespace {

constexpr const PictureFormat* kPictureFormats[] = {&kPng, &kWebp, &kGif};

Error cannot_read(const std::string& path, const char* why) { return Error{"the image \"" + path + "\" " + why, ""}; }

}  // namespace

Recognised recognise(const std::string& path) {
  if (!is_plain_file(path)) return {};  // a pipe would never end
  std::array<std::uint8_t, 8> head{};
  std::ifstream in(path, std::ios::binary);
  in.read(reinterpret_cast<char*>(head.data()), head.size());
  if (in.gcount() != static_cast<std::streamsize>(head.size())) return {};
  for (const PictureFormat* format : kPictureFormats)
    if (const ImageKind kind = format->kind(path, head); kind != ImageKind::none) return {format, kind};
  return {};
}

std::string picture_format_names() {
  std::string out;
  for (const PictureFormat* format : kPictureFormats) out += (out.empty() ? "" : ", ") + std::string(format->name);
  return out;
}

}  // namespace io

ImageKind image_kind(const std::string& path) { return io::recognise(path).kind; }

std::vector<std::string> image_endings() {
  std::vector<std::string> out;
  for (const io::PictureFormat* format : io::kPictureFormats)
    for (const std::string_view ending : format->endings)
      if (!ending.empty()) out.emplace_back(ending);
  return out;
}

bool has_image_ending(const std::string& path) {
  std::string ending = std::filesystem::path(path).extension().string();
  for (char& c : ending)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  const std::vector<std::string> all = image_endings();
  return std::find(all.begin(), all.end(), ending) != all.end();
}

Result<Image> load_image(const std::string& path) {
  const auto [format, kind] = io::recognise(path);
  if (format == nullptr) return load_png(path);  // which says what is wrong with it
  if (format->load != nullptr && (kind == ImageKind::still || format->still_beside)) return format->load(path);
  return io::cannot_read(path, "is animated");
}

Result<Animation> read_animation(const std::string& path, const std::function<void(const Image&)>& frame) {
  const auto [format, kind] = io::recognise(path);
  if (kind == ImageKind::animated) return format->read(path, frame);
  if (!is_plain_file(path)) return io::cannot_read(path, "cannot be read: it is no file");
  return io::cannot_read(path, "is not animated");
}

}  // namespace mobrin
