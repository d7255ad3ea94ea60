// The looks of every picture: colours that stay apart for colour-blind eyes, and sizes. Chosen once, used everywhere.
#pragma once

namespace mobrin::draw {

struct Color {
  double red, green, blue, alpha = 1;
};

inline constexpr Color kPaper{0.984, 0.980, 0.965};
inline constexpr Color kInk{0.137, 0.149, 0.169};
inline constexpr Color kFaint{0.43, 0.45, 0.49};
inline constexpr Color kLine{0.82, 0.80, 0.75};
inline constexpr Color kCellDark{0.905, 0.895, 0.868};
inline constexpr Color kCellLight{0.945, 0.938, 0.915};
inline constexpr Color kCue{0.72, 0.29, 0.05};     // burnt orange: something is told here
inline constexpr Color kSpan{0.05, 0.42, 0.55};    // deep teal: something lasts here
inline constexpr Color kWindow{0.42, 0.30, 0.58};  // plum: something may happen here
inline constexpr Color kPivot{0.0, 0.33, 0.78};    // blue: where the feet stand
inline constexpr Color kState{0.20, 0.36, 0.30};   // pine: where it is
inline constexpr Color kStatePale{0.80, 0.87, 0.82};
inline constexpr Color kValue{0.55, 0.42, 0.10};  // ochre: what was written
inline constexpr Color kValuePale{0.93, 0.88, 0.72};
inline constexpr Color kWrong{0.75, 0.05, 0.15};

inline constexpr double kSmall = 12;
inline constexpr double kNormal = 14;
inline constexpr double kTitle = 20;

}  // namespace mobrin::draw
