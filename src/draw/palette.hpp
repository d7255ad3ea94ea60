// The looks of every picture: colours that stay apart for colour-blind eyes, and sizes. Chosen once, used everywhere.
#pragma once

namespace mobrin::draw {

struct Rgb {
  double red, green, blue;
};

// A colour as it is on light and on dark ground.
struct Color {
  Rgb light, dark;
  double alpha = 1;

  [[nodiscard]] constexpr const Rgb& on(bool dark_ground) const { return dark_ground ? dark : light; }
  [[nodiscard]] constexpr Color faded(double to) const { return {light, dark, to}; }
};

inline constexpr Color kPaper{{0.984, 0.980, 0.965}, {0.118, 0.122, 0.141}};
inline constexpr Color kInk{{0.137, 0.149, 0.169}, {0.90, 0.90, 0.88}};
inline constexpr Color kFaint{{0.43, 0.45, 0.49}, {0.62, 0.64, 0.68}};
inline constexpr Color kLine{{0.82, 0.80, 0.75}, {0.33, 0.34, 0.38}};
inline constexpr Color kCellDark{{0.905, 0.895, 0.868}, {0.205, 0.212, 0.240}};
inline constexpr Color kCellLight{{0.945, 0.938, 0.915}, {0.150, 0.156, 0.180}};
// burnt orange: something is told here
inline constexpr Color kCue{{0.72, 0.29, 0.05}, {0.98, 0.60, 0.33}};
// deep teal: something lasts here
inline constexpr Color kSpan{{0.05, 0.42, 0.55}, {0.38, 0.78, 0.90}};
// plum: something may happen here
inline constexpr Color kWindow{{0.42, 0.30, 0.58}, {0.76, 0.66, 0.93}};
// blue: where the feet stand
inline constexpr Color kPivot{{0.0, 0.33, 0.78}, {0.45, 0.70, 1.0}};
// pine: where it is
inline constexpr Color kState{{0.20, 0.36, 0.30}, {0.55, 0.78, 0.66}};
inline constexpr Color kStatePale{{0.80, 0.87, 0.82}, {0.18, 0.29, 0.25}};
// ochre: what was written
inline constexpr Color kValue{{0.55, 0.42, 0.10}, {0.90, 0.77, 0.42}};
inline constexpr Color kValuePale{{0.93, 0.88, 0.72}, {0.30, 0.26, 0.15}};
inline constexpr Color kWrong{{0.75, 0.05, 0.15}, {1.0, 0.45, 0.48}};

inline constexpr double kSmall = 12;
inline constexpr double kNormal = 14;
inline constexpr double kTitle = 20;

}  // namespace mobrin::draw
