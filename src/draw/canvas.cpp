// Drawing over Cairo and Pango.
#include "canvas.hpp"

#include <pango/pangocairo.h>

#include <algorithm>
#include <cmath>

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

Canvas::Canvas(int width, int height)
    : surface_(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height)), context_(cairo_create(surface_.get())) {
  fill({0, 0, static_cast<double>(width), static_cast<double>(height)}, kPaper);
}

void Canvas::use(Color color) {
  cairo_set_source_rgba(context_.get(), color.red, color.green, color.blue, color.alpha);
}

void Canvas::fill(const Box& box, Color color) {
  use(color);
  cairo_rectangle(context_.get(), box.x, box.y, box.width, box.height);
  cairo_fill(context_.get());
}

void Canvas::frame(const Box& box, Color color, double thickness) {
  use(color);
  cairo_set_line_width(context_.get(), thickness);
  cairo_rectangle(context_.get(), std::floor(box.x) + 0.5, std::floor(box.y) + 0.5, std::floor(box.width),
                  std::floor(box.height));
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

void Canvas::image(const Image& image, const PixelRect& from, const Box& to) {
  std::unique_ptr<cairo_surface_t, Free> pixels(
      cairo_image_surface_create(CAIRO_FORMAT_ARGB32, from.width, from.height));
  cairo_surface_flush(pixels.get());
  unsigned char* data = cairo_image_surface_get_data(pixels.get());
  const int stride = cairo_image_surface_get_stride(pixels.get());
  if (data == nullptr) return;
  for (std::int32_t y = 0; y < from.height; ++y) {
    for (std::int32_t x = 0; x < from.width; ++x) {
      const std::size_t at = (static_cast<std::size_t>(from.y + y) * static_cast<std::size_t>(image.width) +
                              static_cast<std::size_t>(from.x + x)) *
                             4;
      const unsigned alpha = image.rgba[at + 3];
      const auto scaled = [&](std::size_t channel) { return image.rgba[at + channel] * alpha / 255; };
      const std::uint32_t pixel = alpha << 24 | scaled(0) << 16 | scaled(1) << 8 | scaled(2);
      *reinterpret_cast<std::uint32_t*>(data + y * stride + x * 4) = pixel;
    }
  }
  cairo_surface_mark_dirty(pixels.get());
  cairo_save(context_.get());
  cairo_translate(context_.get(), to.x, to.y);
  cairo_scale(context_.get(), to.width / from.width, to.height / from.height);
  cairo_set_source_surface(context_.get(), pixels.get(), 0, 0);
  cairo_pattern_set_filter(cairo_get_source(context_.get()), CAIRO_FILTER_NEAREST);
  cairo_paint(context_.get());
  cairo_restore(context_.get());
}

bool Canvas::write_png(const std::string& path) {
  return cairo_surface_write_to_png(surface_.get(), path.c_str()) == CAIRO_STATUS_SUCCESS;
}

}  // namespace mobrin::draw
