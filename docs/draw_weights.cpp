// Draws docs/screenshots/weights.png: the weights of a walker's five clips over the plane of directions.
#include <array>
#include <cstdio>
#include <string>

#include "canvas.hpp"
#include "mobrin/core/instance.hpp"
#include "mobrin/io/load.hpp"

namespace {

using namespace mobrin;

constexpr int kSide = 216, kGap = 34, kLeft = 56, kTop = 64;
constexpr double kReach = 1.5;  // the plane goes from -1.5 to 1.5
constexpr int kSteps = 10;      // of ink, so that the lines of equal weight are seen

// Ink of a weight, laid over the paper.
void lay(draw::Canvas& canvas, const draw::Box& box, double weight) {
  const double ink = static_cast<int>(weight * kSteps + 1e-9) / double{kSteps};
  canvas.fill(box, draw::kCellLight);
  canvas.fill(box, draw::kSpan.faded(ink));
}

double on_picture(double begin, double value) { return begin + (value + kReach) / (2 * kReach) * kSide; }

void axes(draw::Canvas& canvas, double left, double top, bool first) {
  canvas.frame({left, top, kSide, kSide}, draw::kFaint);
  const draw::TextStyle small{draw::kSmall, false, draw::kFaint};
  for (const int value : {-1, 0, 1}) {
    const std::string text = std::to_string(value);
    const double x = on_picture(left, value), y = on_picture(top, -value);
    canvas.line(x, top + kSide, x, top + kSide + 5, draw::kFaint);
    canvas.text(x - canvas.text_width(text, small) / 2, top + kSide + 7, text, small);
    canvas.line(left - 5, y, left, y, draw::kFaint);
    if (first) canvas.text(left - 10 - canvas.text_width(text, small), y - 8, text, small);
  }
  canvas.text(left + kSide / 2.0 - canvas.text_width("right", small) / 2, top + kSide + 24, "right", small);
  if (first) canvas.text(left - 44, top - 20, "ahead", small);
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  const Loaded loaded = load_character_text(
      "mobrin: 1\nmachine: walker\ninputs: {ahead: {float: 0}, right: {float: 0}}\n"
      "clips: {stand: {frames: [0], fps: 4, play: loop}, walk: {frames: [0], fps: 4, play: loop}, side: {frames: [0], "
      "fps: 4, play: loop}}\n"
      "states: {s: {blend: {x: right, y: ahead, points: [{at: [0, 0], clip: stand}, {at: [0, 1], clip: walk}, {at: [1, "
      "0], clip: side}, "
      "{at: [0, -1], clip: walk, backward: true}, {at: [-1, 0], clip: side, mirror: true}]}}}\n",
      "walker.yaml");
  if (!loaded.machine) return 1;
  const struct {
    const char* title;
    double right, ahead;
  } points[] = {{"stand", 0, 0}, {"walk", 0, 1}, {"side", 1, 0}, {"walk, backward", 0, -1}, {"side, mirrored", -1, 0}};
  Instance it(*loaded.machine);
  const auto right = loaded.machine->input<float>("right"), ahead = loaded.machine->input<float>("ahead");
  draw::Canvas canvas(kLeft + 5 * kSide + 5 * kGap, kTop + kSide + 100);
  canvas.fill({0, 0, kLeft + 5 * kSide + 5 * kGap, kTop + kSide + 100}, draw::kPaper);
  canvas.text(12, 10, "The weight of each clip of a blend, by where the character goes", {draw::kNormal, true});
  constexpr int kCell = 2;
  for (int y = 0; y < kSide; y += kCell)
    for (int x = 0; x < kSide; x += kCell) {
      it.set(*right, static_cast<float>(-kReach + 2 * kReach * (x + 1) / kSide));
      it.set(*ahead, static_cast<float>(kReach - 2 * kReach * (y + 1) / kSide));
      (void)it.advance(Ticks(0), [](const Cue&) {});
      std::array<Shown, 5> all{};
      it.blended(0, all);
      for (std::size_t i = 0; i < 5; ++i)
        lay(canvas, {kLeft + static_cast<double>(i) * (kSide + kGap) + x, kTop + double(y), kCell, kCell},
            all[i].weight);
    }
  for (std::size_t i = 0; i < 5; ++i) {
    const double left = kLeft + static_cast<double>(i) * (kSide + kGap);
    axes(canvas, left, kTop, i == 0);
    canvas.text(left, kTop - 24, points[i].title, {draw::kNormal, true, draw::kSpan});
    for (const auto& point : points)
      canvas.circle(on_picture(left, point.right), on_picture(kTop, -point.ahead), 3.5,
                    &point == &points[i] ? draw::kCue : draw::kPaper, draw::kInk);
  }
  const double y = kTop + kSide + 64;
  double x = kLeft;
  for (int step = 0; step <= kSteps; ++step, x += 24) lay(canvas, {x, y, 24, 14}, step / double{kSteps});
  canvas.frame({kLeft, y, x - kLeft, 14}, draw::kFaint);
  canvas.text(kLeft - 14, y - 2, "0", {draw::kSmall, false, draw::kFaint});
  canvas.text(x + 6, y - 2, "1, alone     Dots: the clips' points; the filled one is the panel's own",
              {draw::kSmall, false, draw::kFaint});
  if (const auto written = canvas.write(argv[1]); !written) {
    std::fprintf(stderr, "%s\n", written.error().text().c_str());
    return 1;
  }
  return 0;
}
