#include "placeholder.hpp"

#include <array>
#include <cmath>
#include <cstdlib>

namespace mobrin::cli {
namespace {

struct Color {
  std::uint8_t red, green, blue;
};
constexpr Color kSuit{222, 208, 176}, kShade{178, 162, 138}, kHat{214, 166, 80}, kVeil{92, 100, 120}, kBoot{62, 48, 48},
    kPole{118, 72, 40}, kNet{182, 198, 186}, kSting{184, 58, 40};

struct Point {
  double x = 0, y = 0;
};

// Draws in a square from 0 to 1, x to the right, y up, turned by an angle about a point on the ground.
class Pen {
 public:
  Pen(int size, Point foot, double lean, double shift)
      : size_(size), foot_(foot), shift_(shift), cos_(std::cos(lean)), sin_(std::sin(lean)), image_{size, size, {}} {
    image_.rgba.resize(static_cast<std::size_t>(size) * static_cast<std::size_t>(size) * 4);
  }
  // A stroke with round ends.
  void stroke(Point from, Point to, double thick, Color color) {
    from = placed(from);
    to = placed(to);
    thick *= kScale;
    for (int row = 0; row < size_; ++row)
      for (int column = 0; column < size_; ++column) {
        const Point at{(column + 0.5) / size_, 1 - (row + 0.5) / size_};
        const Point way{to.x - from.x, to.y - from.y};
        const double length = way.x * way.x + way.y * way.y;
        double along = length == 0 ? 0 : ((at.x - from.x) * way.x + (at.y - from.y) * way.y) / length;
        along = std::min(1.0, std::max(0.0, along));
        if (std::hypot(at.x - from.x - along * way.x, at.y - from.y - along * way.y) > thick / 2) continue;
        std::uint8_t* pixel = &image_.rgba[(static_cast<std::size_t>(row) * static_cast<std::size_t>(size_) +
                                            static_cast<std::size_t>(column)) *
                                           4];
        pixel[0] = color.red, pixel[1] = color.green, pixel[2] = color.blue, pixel[3] = 255;
      }
  }
  [[nodiscard]] Image image() && { return std::move(image_); }

 private:
  // Turned about the foot, and small enough to swing a net.
  [[nodiscard]] Point placed(Point at) const {
    const double x = kScale * (at.x - foot_.x), y = kScale * (at.y - foot_.y);
    return {foot_.x + shift_ + x * cos_ + y * sin_, foot_.y - x * sin_ + y * cos_};
  }

  static constexpr double kScale = 0.8;
  int size_;
  Point foot_;
  double shift_;
  double cos_, sin_;
  Image image_;
};

// How the figure stands: everything in shares of the square.
struct Pose {
  double lean = 0;    // forwards, in radians
  double shift = 0;   // to the right
  double bob = 0;     // up
  double stride = 0;  // the forward foot; the other goes as far back
  double arm = -0.6;  // the hand's angle from straight ahead
  bool net = false;   // in the hand
  bool stung = false;
};

Pose pose_of(std::string_view role, int frame, int size) {
  constexpr double kTurn = 6.283185307179586;
  Pose pose;
  if (role == "stand") {
    // A pixel at least, or neighbours would be one picture.
    pose.bob = std::max(0.012, 1.25 / size) * std::sin(kTurn * frame / 4);
  } else if (role == "move") {
    pose.stride = 0.13 * std::cos(kTurn * frame / 6);
    pose.bob = 0.02 * std::abs(std::sin(kTurn * frame / 6));
    pose.lean = 0.08;
    pose.arm = -0.9 - 2 * pose.stride;
  } else if (role == "act") {
    constexpr std::array<double, 5> kArm{1.6, 2.2, 0.9, -0.3, -0.5}, kLean{-0.05, -0.12, 0.12, 0.2, 0.08};
    pose.arm = kArm[static_cast<std::size_t>(frame)];
    pose.lean = kLean[static_cast<std::size_t>(frame)];
    pose.stride = 0.07;
    pose.net = true;
  } else if (role == "hurt") {
    constexpr std::array<double, 3> kLean{-0.2, -0.3, -0.1};
    pose.lean = kLean[static_cast<std::size_t>(frame)];
    pose.arm = 0.9;
    pose.stung = frame < 2;
  } else {
    constexpr std::array<double, 5> kLean{-0.15, -0.5, -1.0, -1.5, -1.52};
    pose.lean = kLean[static_cast<std::size_t>(frame)];
    pose.shift = -0.2 * pose.lean;
    pose.arm = 0.3;
  }
  return pose;
}

}  // namespace

int placeholder_frames(std::string_view role) {
  return role == "stand" ? 4 : role == "move" ? 6 : role == "act" ? 5 : role == "hurt" ? 3 : role == "down" ? 5 : 0;
}

Image draw_placeholder(std::string_view role, int frame, int size) {
  const Pose pose = pose_of(role, frame, size);
  const Point foot{0.46, 0.06}, hip{0.46, 0.32 + pose.bob}, neck{0.47, 0.56 + pose.bob}, head{0.48, 0.68 + pose.bob};
  Pen pen(size, foot, pose.lean, pose.shift);
  for (const double side : {-1.0, 1.0}) {
    const Point sole{foot.x + side * pose.stride, foot.y + (side * pose.stride > 0.05 ? 0.03 : 0.0)};
    pen.stroke(hip, sole, 0.12, side < 0 ? kShade : kSuit);
    pen.stroke(sole, {sole.x + 0.05, sole.y}, 0.1, kBoot);
  }
  pen.stroke(hip, neck, 0.25, kSuit);
  pen.stroke({hip.x - 0.06, hip.y}, {neck.x - 0.06, neck.y}, 0.11, kShade);
  pen.stroke(head, head, 0.2, kVeil);
  pen.stroke({head.x - 0.13, head.y + 0.06}, {head.x + 0.15, head.y + 0.06}, 0.05, kHat);
  pen.stroke({head.x - 0.05, head.y + 0.1}, {head.x + 0.06, head.y + 0.1}, 0.1, kHat);
  const Point hand{neck.x + 0.2 * std::cos(pose.arm), neck.y - 0.04 + 0.2 * std::sin(pose.arm)};
  if (pose.net) {
    const Point tip{hand.x + 0.26 * std::cos(pose.arm + 0.2), hand.y + 0.26 * std::sin(pose.arm + 0.2)};
    pen.stroke(hand, tip, 0.035, kPole);
    pen.stroke(tip, tip, 0.17, kNet);
  }
  pen.stroke({neck.x, neck.y - 0.04}, hand, 0.1, kSuit);
  if (pose.stung) pen.stroke({neck.x + 0.06, neck.y - 0.1}, {neck.x + 0.06, neck.y - 0.1}, 0.08, kSting);
  return std::move(pen).image();
}

}  // namespace mobrin::cli
