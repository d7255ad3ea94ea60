// Figures laid on one another.
#include "art_shift.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <set>

namespace mobrin::check {
namespace {

// A pixel of less opacity is a glow or a leftover.
constexpr std::uint8_t kLeastOpacity = 16;
// Alike: so much of what either shows is shown by both; by so much less where they are not moved.
constexpr double kAlike = 0.8, kBetter = 0.12;
// So many places a row and column are compared at most.
constexpr std::int32_t kMostSamples = 64;
constexpr std::size_t kOneInSoMany = 5;

bool seen(const FramePixels& frame, std::int32_t x, std::int32_t y) {
  return frame.rgba[4 * (std::int64_t{y} * frame.stride + x) + 3] >= kLeastOpacity;
}

}  // namespace

std::string steps_text(std::int32_t along, std::int32_t down, const std::string& on, const std::string& back) {
  const auto pixels = [](std::int32_t by, const std::string& more, const std::string& less) {
    const std::int32_t whole = std::abs(by);
    return std::to_string(whole) + (whole == 1 ? " pixel " : " pixels ") + (by > 0 ? more : less);
  };
  std::string out = along == 0 ? "" : pixels(along, on, back);
  if (down != 0) out += (out.empty() ? "" : " and ") + pixels(down, "lower", "higher");
  return out;
}

Silhouette::Silhouette(const FramePixels& frame, std::pair<double, double> pivot) {
  std::int32_t left = frame.width, right = 0, top = frame.height, bottom = 0;
  for (std::int32_t y = 0; y < frame.height; ++y)
    for (std::int32_t x = 0; x < frame.width; ++x)
      if (seen(frame, x, y)) {
        left = std::min(left, x), right = std::max(right, x + 1);
        top = std::min(top, y), bottom = y + 1;
      }
  if (right == 0) return;
  width_ = right - left, height_ = bottom - top;
  const auto whole = [](double value) { return static_cast<std::int32_t>(std::lround(std::clamp(value, -1e6, 1e6))); };
  left_ = left - whole(pivot.first);
  top_ = top - whole(pivot.second);
  seen_.reserve(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
  for (std::int32_t y = top; y < bottom; ++y)
    for (std::int32_t x = left; x < right; ++x) seen_.push_back(seen(frame, x, y));
}

double Silhouette::alike(const Silhouette& other, std::int32_t x, std::int32_t y) const {
  // Of both together, in the place of this one.
  const std::int32_t dx = other.left_ - x - left_, dy = other.top_ - y - top_;
  const std::int32_t left = std::min(0, dx), right = std::max(width_, dx + other.width_);
  const std::int32_t top = std::min(0, dy), bottom = std::max(height_, dy + other.height_);
  const std::int32_t every_x = std::max(1, (right - left) / kMostSamples),
                     every_y = std::max(1, (bottom - top) / kMostSamples);
  std::int64_t both = 0, either = 0;
  for (std::int32_t j = top; j < bottom; j += every_y)
    for (std::int32_t i = left; i < right; i += every_x) {
      const bool a = at(i, j), b = other.at(i - dx, j - dy);
      both += a && b ? 1 : 0;
      either += a || b ? 1 : 0;
    }
  return either == 0 ? 0 : static_cast<double>(both) / static_cast<double>(either);
}

std::optional<std::pair<std::int32_t, std::int32_t>> Silhouette::moved_to(const Silhouette& other) const {
  const double unmoved = alike(other, 0, 0);
  if (unmoved > 1 - kBetter) return std::pair(0, 0);
  // Their edges or their middles on one another, then what lies beside the best of these.
  double best = unmoved;
  std::pair<std::int32_t, std::int32_t> found{0, 0};
  const auto attempt = [&](std::int32_t x, std::int32_t y) {
    if (const double here = alike(other, x, y); here > best) best = here, found = {x, y};
  };
  const std::int32_t dx = other.left_ - left_, dy = other.top_ - top_;
  const std::int32_t wider = other.width_ - width_, higher = other.height_ - height_;
  for (const std::int32_t x : std::set{0, dx, dx + wider, dx + wider / 2})
    for (const std::int32_t y : std::set{0, dy, dy + higher, dy + higher / 2}) attempt(x, y);
  const auto [near_x, near_y] = found;
  for (std::int32_t i = 0; i < 9; ++i) attempt(near_x + i % 3 - 1, near_y + i / 3 - 1);
  if (best < unmoved + kBetter) return unmoved >= kAlike - kBetter ? std::optional(std::pair(0, 0)) : std::nullopt;
  return best >= kAlike ? std::optional(found) : std::nullopt;
}

void FrameJumps::add(const FramePixels& frame, std::pair<double, double> pivot) {
  if (lost_) return;
  Silhouette now(frame, pivot);
  size_ = std::max({size_, now.width(), now.height()});
  width_ = frame.width, height_ = frame.height;
  lost_ = now.empty();
  if (!lost_ && !places_.empty()) {
    const auto moved = before_.moved_to(now);
    lost_ = !moved;
    if (moved) places_.emplace_back(places_.back().first + moved->first, places_.back().second + moved->second);
  } else if (places_.empty()) {
    places_.emplace_back(0, 0);
  }
  before_ = std::move(now);
}

std::vector<FrameJump> FrameJumps::found() const {
  std::vector<FrameJump> out;
  if (lost_ || places_.size() < kLeastFrames) return out;
  const auto middle = [&](auto member) {
    std::vector<std::int32_t> values;
    for (const auto& place : places_) values.push_back(place.*member);
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    return values[values.size() / 2];
  };
  using Place = std::pair<std::int32_t, std::int32_t>;
  const std::int32_t x = middle(&Place::first), y = middle(&Place::second);
  for (std::size_t i = 0; i < places_.size(); ++i) {
    const std::int32_t forward = places_[i].first - x, down = places_[i].second - y;
    const std::int32_t off = std::max(std::abs(forward), std::abs(down));
    if (off >= far())
      out.push_back({i, forward, down});
    else if (2 * off > far())
      return {};  // they move about
  }
  if (out.size() > std::max<std::size_t>(1, places_.size() / kOneInSoMany)) out.clear();
  return out;
}

bool same_pixels(const FramePixels& a, const FramePixels& b) {
  if (a.width != b.width || a.height != b.height) return false;
  for (std::int32_t y = 0; y < a.height; ++y)
    for (std::int32_t x = 0; x < a.width; ++x) {
      const std::uint8_t* p = a.rgba + 4 * (std::int64_t{y} * a.stride + x);
      const std::uint8_t* q = b.rgba + 4 * (std::int64_t{y} * b.stride + x);
      if (std::memcmp(p, q, 4) != 0 && (p[3] != 0 || q[3] != 0)) return false;
    }
  return true;
}

std::int32_t FrameJumps::shaken() const {
  if (lost_) return 0;
  std::int32_t most = 0;
  for (const auto member :
       {&std::pair<std::int32_t, std::int32_t>::first, &std::pair<std::int32_t, std::int32_t>::second}) {
    // Steps that are far, and go the other way than the far step before.
    std::size_t turns = 0;
    std::int32_t before = 0, widest = 0;
    for (std::size_t i = 1; i < places_.size(); ++i) {
      const std::int32_t step = places_[i].*member - places_[i - 1].*member;
      if (std::abs(step) < far()) continue;
      turns += (step > 0) != (before > 0) && before != 0 ? 1 : 0;
      before = step;
      widest = std::max(widest, std::abs(step));
    }
    if (turns >= 3 && 2 * turns + 2 >= places_.size()) most = std::max(most, widest);
  }
  return most;
}

}  // namespace mobrin::check
