// A picture to draw on: lines, boxes, text and pixel art, over Cairo and Pango.
#pragma once

#include <cairo.h>

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/definition.hpp"
#include "mobrin/core/field_value.hpp"
#include "mobrin/core/time.hpp"
#include "mobrin/io/image.hpp"
#include "palette.hpp"

namespace mobrin::draw {

struct Box {
  double x = 0, y = 0, width = 0, height = 0;
};

struct TextStyle {
  double size = kNormal;
  bool bold = false;
  Color color = kInk;
};

// The colour of a box by its role.
[[nodiscard]] Color color_of_role(const std::string& role);
// A value as a lane shows it.
[[nodiscard]] std::string value_text(const FieldValue& value);
// To the millisecond: "0.250 s".
[[nodiscard]] std::string seconds_text(Ticks ticks);

// Where lines of a time axis stand, so that some five to fourteen of them are within, each with its words.
struct TimeMark {
  Ticks at;
  std::string text;
};
[[nodiscard]] std::vector<TimeMark> time_marks(Ticks from, Ticks to);

class Canvas {
 public:
  // Width and height in pixels. A canvas of 0 x 0 measures text and draws nothing.
  Canvas(int width, int height, bool dark = false);

  // From now on draws within `box` only, until no_clip().
  void clip(const Box& box);
  void no_clip();
  void fill(const Box& box, Color color);
  void frame(const Box& box, Color color, double thickness = 1);
  void circle(double x, double y, double radius, Color fill, Color edge, double thickness = 1);
  void line(double x1, double y1, double x2, double y2, Color color, double thickness = 1);
  // A small pennant on a pole that stands on (x, y).
  void flag(double x, double y, double height, Color color);
  // Draws `text` with its top left at (x, y); returns its width.
  double text(double x, double y, std::string_view text, const TextStyle& style = {});
  [[nodiscard]] double text_width(std::string_view text, const TextStyle& style = {});
  // As much of `text` as is no wider than `most`, with dots where it is cut.
  [[nodiscard]] std::string cut_to(double most, std::string_view text, const TextStyle& style = {});
  // Draws the part `from` of an image into `to`, each pixel a sharp square; `opacity` 1 is as it is. A negative width
  // mirrors it.
  void image(const Image& image, const PixelRect& from, const Box& to, double opacity = 1);
  // Writes an SVG where the path ends in `.svg`, else a PNG.
  [[nodiscard]] Outcome write(const std::string& path);
  [[nodiscard]] Image pixels();

 private:
  void use(Color color);
  struct Free {
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
    void operator()(cairo_t* context) const { cairo_destroy(context); }
  };
  int width_, height_;
  bool dark_;
  std::unique_ptr<cairo_surface_t, Free> surface_;  // what was drawn, to be played onto a file
  std::unique_ptr<cairo_t, Free> context_;
};

// The names at the left of lanes: a column as wide as the longest of them, within bounds.
struct NameColumn {
  double width = 150;  // from the picture's left to the lanes

  // Makes room for a name.
  void hold(Canvas& canvas, std::string_view name, const TextStyle& style = {});
  // Writes it to the column's right end; where there is no room for all of it, its beginning.
  void draw(Canvas& canvas, std::string_view name, double y, const TextStyle& style = {}) const;
};

}  // namespace mobrin::draw
