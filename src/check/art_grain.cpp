// The grain of pictures, by where their columns and rows differ from those before.
#include "art_grain.hpp"

#include <cstring>
#include <numeric>

namespace mobrin::check {
namespace {

// So many columns, and so many rows, differ from those before, or the picture says nothing.
constexpr std::int32_t kLeastEdges = 6;

// Along one axis: what all distances between edges are multiples of.
class Edges {
 public:
  void add(std::int32_t at) {
    if (count_++ == 0) first_ = at;
    step_ = std::gcd(step_, at - first_);
  }
  [[nodiscard]] bool single() const { return step_ == 1; }
  [[nodiscard]] std::int32_t step() const { return count_ >= kLeastEdges ? step_ : 0; }

 private:
  std::int32_t first_ = 0, count_ = 0, step_ = 0;
};

bool same_pixel(const std::uint8_t* a, const std::uint8_t* b) {
  return std::memcmp(a, b, 4) == 0 || (a[3] == 0 && b[3] == 0);
}

// Of `along` columns or rows, `step` pixels apart in memory, each of `across` pixels, `next` apart.
Edges edges_of(const FramePixels& frame, std::int32_t along, std::int64_t step, std::int32_t across,
               std::int64_t next) {
  Edges out;
  for (std::int32_t place = 1; place < along && !out.single(); ++place) {
    const std::uint8_t* at = frame.rgba + 4 * step * place;
    for (std::int32_t i = 0; i < across; ++i, at += 4 * next)
      if (!same_pixel(at, at - 4 * step)) {
        out.add(place);
        break;
      }
  }
  return out;
}

}  // namespace

std::int32_t grain_of(const FramePixels& frame) {
  const Edges columns = edges_of(frame, frame.width, 1, frame.height, frame.stride);
  if (columns.single()) return 1;
  const Edges rows = edges_of(frame, frame.height, frame.stride, frame.width, 1);
  if (rows.single()) return 1;
  if (columns.step() == 0 || rows.step() == 0) return 0;
  return std::gcd(columns.step(), rows.step());
}

}  // namespace mobrin::check
