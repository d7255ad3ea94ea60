// Drawing over Cairo and Pango.
#include "canvas.hpp"

#include <cairo-svg.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <cmath>

#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"

namespace mobrin::draw {
namespace {

struct Unref {
  void operator()(PangoLayout* layout) const { g_object_unref(layout); }
};
using Layout = std::unique_ptr<PangoLayout, Unref>;

Layout make_layout(cairo_t* context, std::string_view text, const TextStyle& style) {
  Layout layout(pango_cairo_create_layout(context));
  PangoFontDescription* font = pango_font_description_from_string("DejaVu Sans");
  pango_font_description_set_absolute_size(font, style.size * PANGO_SCALE);
  if (style.bold) pango_font_description_set_weight(font, PANGO_WEIGHT_BOLD);
  pango_layout_set_font_description(layout.get(), font);
  pango_font_description_free(font);
  pango_layout_set_text(layout.get(), text.data(), static_cast<int>(text.size()));
  return layout;
}

}  // namespace

std::string value_text(const FieldValue& value) {
  if (const auto* boolean = std::get_if<bool>(&value)) return *boolean ? "true" : "false";
  if (const auto* whole = std::get_if<std::int64_t>(&value)) return std::to_string(*whole);
  if (const auto* words = std::get_if<std::string>(&value)) return *words;
  const auto* const number = std::get_if<double>(&value);
  return number != nullptr ? detail::short_text(*number, 4) : "";
}

std::vector<TimeMark> time_marks(Ticks from, Ticks to) {
  constexpr double kMostMarks = 14, kMinute = 60, kHour = 3'600, kDay = 24 * kHour;
  const double first = from.to_seconds(), last = to.to_seconds();
  double step = 1e-6;
  int digits = 6;  // behind the point, of a step in seconds
  for (int of_ten = 0; step < 10 && (last - first) / step > kMostMarks; of_ten = (of_ten + 1) % 3) {
    step *= of_ten == 1 ? 2.5 : 2;
    if (of_ten == 2) --digits;
  }
  for (const double wider : {30.0, kMinute, 5 * kMinute, kHour, 6 * kHour, kDay, 30 * kDay, 365 * kDay})
    if ((last - first) / step > kMostMarks) step = wider;
  std::vector<TimeMark> out;
  for (double i = std::ceil(first / step - 1e-9) + 0.0; i * step <= last + (last - first) * 1e-4; ++i) {
    const double at = i * step;
    const std::string text =
        step < 0.0099 ? detail::short_text(at * 1'000, 3) + " ms" : detail::fixed_text(at, std::max(digits, 0)) + " s";
    out.push_back({mobrin::seconds(at), text});
  }
  return out;
}

std::string seconds_text(Ticks ticks) { return detail::fixed_text(ticks.to_seconds(), 3) + " s"; }

Color color_of_role(const std::string& role) {
  if (role == "hit") return kWrong;
  if (role == "hurt") return kSpan;
  if (role == "body") return kState;
  return role == "grab" ? kWindow : kValue;
}

Canvas::Canvas(int width, int height, bool dark) : width_(width), height_(height), dark_(dark) {
  const cairo_rectangle_t extent{0, 0, static_cast<double>(width), static_cast<double>(height)};
  surface_.reset(cairo_recording_surface_create(CAIRO_CONTENT_COLOR_ALPHA, &extent));
  context_.reset(cairo_create(surface_.get()));
  fill({0, 0, extent.width, extent.height}, kPaper);
}

void Canvas::use(Color color) {
  const Rgb& rgb = color.on(dark_);
  cairo_set_source_rgba(context_.get(), rgb.red, rgb.green, rgb.blue, color.alpha);
}

void Canvas::fill(const Box& box, Color color) {
  use(color);
  cairo_rectangle(context_.get(), box.x, box.y, box.width, box.height);
  cairo_fill(context_.get());
}

void Canvas::clip(const Box& box) {
  cairo_rectangle(context_.get(), box.x, box.y, box.width, box.height);
  cairo_clip(context_.get());
}
void Canvas::no_clip() { cairo_reset_clip(context_.get()); }

void Canvas::frame(const Box& box, Color color, double thickness) {
  use(color);
  cairo_set_line_width(context_.get(), thickness);
  cairo_rectangle(context_.get(), std::floor(box.x) + 0.5, std::floor(box.y) + 0.5, std::floor(box.width),
                  std::floor(box.height));
  cairo_stroke(context_.get());
}

void Canvas::circle(double x, double y, double radius, Color fill, Color edge, double thickness) {
  cairo_new_path(context_.get());
  cairo_arc(context_.get(), x, y, radius, 0, 2 * 3.14159265358979323846);
  use(fill);
  cairo_fill_preserve(context_.get());
  use(edge);
  cairo_set_line_width(context_.get(), thickness);
  cairo_stroke(context_.get());
}

void Canvas::line(double x1, double y1, double x2, double y2, Color color, double thickness) {
  use(color);
  cairo_set_line_width(context_.get(), thickness);
  cairo_move_to(context_.get(), x1, y1);
  cairo_line_to(context_.get(), x2, y2);
  cairo_stroke(context_.get());
}

void Canvas::flag(double x, double y, double height, Color color) {
  line(x, y, x, y - height, color, 1.5);
  use(color);
  cairo_move_to(context_.get(), x, y - height);
  cairo_line_to(context_.get(), x + height * 0.6, y - height * 0.78);
  cairo_line_to(context_.get(), x, y - height * 0.56);
  cairo_close_path(context_.get());
  cairo_fill(context_.get());
}

double Canvas::text(double x, double y, std::string_view text, const TextStyle& style) {
  const Layout layout = make_layout(context_.get(), text, style);
  use(style.color);
  cairo_move_to(context_.get(), x, y);
  pango_cairo_show_layout(context_.get(), layout.get());
  int width = 0;
  pango_layout_get_pixel_size(layout.get(), &width, nullptr);
  return width;
}

double Canvas::text_width(std::string_view text, const TextStyle& style) {
  const Layout layout = make_layout(context_.get(), text, style);
  int width = 0;
  pango_layout_get_pixel_size(layout.get(), &width, nullptr);
  return width;
}

std::string Canvas::cut_to(double most, std::string_view text, const TextStyle& style) {
  std::string out(text);
  for (std::size_t size = out.size(); size > 1 && text_width(out, style) > most;) {
    do --size;
    while (size > 1 && (static_cast<unsigned char>(text[size]) & 0xc0) == 0x80);  // not within a letter
    out = std::string(text.substr(0, size)) + "\xe2\x80\xa6";
  }
  return out;
}

void Canvas::image(const Image& image, const PixelRect& from, const Box& to, double opacity) {
  // Each pixel becomes a block of whole pixels here: a viewer of the SVG would smooth them.
  const int block = std::clamp(static_cast<int>(std::floor(std::abs(to.width) / from.width)), 1, 16);
  const int width = from.width * block, height = from.height * block;
  std::unique_ptr<cairo_surface_t, Free> pixels(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height));
  cairo_surface_flush(pixels.get());
  unsigned char* data = cairo_image_surface_get_data(pixels.get());
  const int stride = cairo_image_surface_get_stride(pixels.get());
  if (data == nullptr) return;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const std::size_t at = (static_cast<std::size_t>(from.y + y / block) * static_cast<std::size_t>(image.width) +
                              static_cast<std::size_t>(from.x + x / block)) *
                             4;
      const unsigned alpha = image.rgba[at + 3];
      const auto scaled = [&](std::size_t channel) { return image.rgba[at + channel] * alpha / 255; };
      const std::uint32_t pixel = alpha << 24 | scaled(0) << 16 | scaled(1) << 8 | scaled(2);
      *reinterpret_cast<std::uint32_t*>(data + std::ptrdiff_t{y} * stride + std::ptrdiff_t{x} * 4) = pixel;
    }
  }
  cairo_surface_mark_dirty(pixels.get());
  cairo_save(context_.get());
  cairo_translate(context_.get(), to.x + (to.width < 0 ? -to.width : 0), to.y);  // mirrored: from its right
  cairo_scale(context_.get(), to.width / width, to.height / height);
  cairo_set_source_surface(context_.get(), pixels.get(), 0, 0);
  cairo_pattern_set_filter(cairo_get_source(context_.get()), CAIRO_FILTER_NEAREST);
  cairo_paint_with_alpha(context_.get(), opacity);
  cairo_restore(context_.get());
}

Image Canvas::pixels() {
  Image out{width_, height_, {}};
  out.rgba.resize(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_) * 4);
  const std::unique_ptr<cairo_surface_t, Free> raster(cairo_image_surface_create(CAIRO_FORMAT_RGB24, width_, height_));
  const std::unique_ptr<cairo_t, Free> onto(cairo_create(raster.get()));
  cairo_set_source_surface(onto.get(), surface_.get(), 0, 0);
  cairo_paint(onto.get());
  cairo_surface_flush(raster.get());
  const unsigned char* data = cairo_image_surface_get_data(raster.get());
  const int stride = cairo_image_surface_get_stride(raster.get());
  for (int y = 0; y < height_ && data != nullptr; ++y)
    for (int x = 0; x < width_; ++x) {
      const std::uint32_t pixel =
          *reinterpret_cast<const std::uint32_t*>(data + std::ptrdiff_t{y} * stride + std::ptrdiff_t{x} * 4);
      std::uint8_t* to = out.rgba.data() + 4 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) +
                                                static_cast<std::size_t>(x));
      to[0] = static_cast<std::uint8_t>(pixel >> 16);
      to[1] = static_cast<std::uint8_t>(pixel >> 8);
      to[2] = static_cast<std::uint8_t>(pixel);
      to[3] = 255;
    }
  return out;
}

Outcome Canvas::write(const std::string& path) {
  const bool svg = path.ends_with(".svg");
  std::string bytes;
  const auto append = [](void* to, const unsigned char* data, unsigned size) {
    static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(data), size);
    return CAIRO_STATUS_SUCCESS;
  };
  const std::unique_ptr<cairo_surface_t, Free> file(
      svg ? cairo_svg_surface_create_for_stream(append, &bytes, width_, height_)
          : cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width_, height_));
  const std::unique_ptr<cairo_t, Free> onto(cairo_create(file.get()));
  cairo_set_source_surface(onto.get(), surface_.get(), 0, 0);
  cairo_paint(onto.get());
  cairo_surface_flush(file.get());
  cairo_status_t status = cairo_status(onto.get());
  if (status == CAIRO_STATUS_SUCCESS && !svg) status = cairo_surface_write_to_png_stream(file.get(), append, &bytes);
  if (svg) cairo_surface_finish(file.get());
  if (status == CAIRO_STATUS_SUCCESS) status = cairo_surface_status(file.get());
  if (status == CAIRO_STATUS_SUCCESS) return write_file(path, bytes);
  return Error{"\"" + path + "\" cannot be drawn: " + cairo_status_to_string(status), ""};
}

namespace {

constexpr double kWidestNames = 420, kBesideNames = 14;

}  // namespace

void NameColumn::hold(Canvas& canvas, std::string_view name, const TextStyle& style) {
  width = std::clamp(canvas.text_width(name, style) + 2 * kBesideNames, width, kWidestNames);
}

void NameColumn::draw(Canvas& canvas, std::string_view name, double y, const TextStyle& style) const {
  const std::string shown = canvas.cut_to(width - 2 * kBesideNames, name, style);
  canvas.text(width - kBesideNames - canvas.text_width(shown, style), y, shown, style);
}

}  // namespace mobrin::draw
