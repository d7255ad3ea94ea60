// Draws docs/screenshots/growth.png: time a step over the number of hornets, from what `./dev bench` measured.
// Usage: draw_growth CROWD.json OUT.png
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <utility>
#include <vector>

#include "canvas.hpp"

namespace {

using namespace mobrin;

constexpr double kLeft = 90, kTop = 60, kWidth = 640, kHeight = 420;
constexpr double kFewest = 3, kMost = 6;        // powers of ten of hornets
constexpr double kShortest = -1, kLongest = 5;  // and of microseconds

double x_of(double count) { return kLeft + (std::log10(count) - kFewest) / (kMost - kFewest) * kWidth; }
double y_of(double us) { return kTop + kHeight - (std::log10(us) - kShortest) / (kLongest - kShortest) * kHeight; }

struct Line {
  std::string name;
  draw::Color color;
  std::vector<std::pair<double, double>> points{};  // count, microseconds
};

}  // namespace

int main(int argc, char** argv) {
  if (argc != 3) return 2;
  std::ifstream in(argv[1]);
  const auto report = nlohmann::json::parse(in, nullptr, false);
  if (report.is_discarded() || !report.contains("benchmarks")) {
    std::fprintf(stderr, "%s holds no measurements\n", argv[1]);
    return 1;
  }
  const std::string against = "crowd against a loop by hand, ";
  Line hand{"by hand, 1% written", draw::kFaint}, scan{"bare scan of wakes", draw::kValue};
  std::map<std::string, Line> ours{{"no writes", {"crowd, no writes", draw::kState}},
                                   {"1% written", {"crowd, 1% written", draw::kSpan}},
                                   {"10% written", {"crowd, 10% written", draw::kWindow}},
                                   {"all get a new float", {"crowd, all get a new float", draw::kCue}}};
  Line idle{"crowd, nothing due", draw::kPivot};
  for (const auto& run : report["benchmarks"]) {
    const std::string name = run["name"];
    const std::string what = name.substr(0, name.find('/'));
    if (!run.contains("other_us")) continue;
    const double count = std::stod(name.substr(name.find('/') + 1));
    const double time = run["real_time"], other = run["other_us"];
    if (what == "nothing due against a bare scan") {
      idle.points.emplace_back(count, time);
      scan.points.emplace_back(count, other);
    } else if (what.starts_with(against)) {
      const auto line = ours.find(what.substr(against.size()));
      if (line != ours.end()) line->second.points.emplace_back(count, time);
      if (what == against + "1% written") hand.points.emplace_back(count, other);
    }
  }
  draw::Canvas canvas(1040, 560);
  canvas.fill({0, 0, 1040, 560}, draw::kPaper);
  canvas.text(12, 10, "A step of many hornets: time over their number, at the right for a million",
              {draw::kNormal, true});
  canvas.text(12, 32, "microseconds", {draw::kSmall, false, draw::kFaint});
  for (double power = kShortest; power <= kLongest; ++power) {
    const double y = y_of(std::pow(10, power));
    canvas.line(kLeft, y, kLeft + kWidth, y, draw::kLine);
    char text[16];
    std::snprintf(text, sizeof text, "%g", std::pow(10, power));
    canvas.text(kLeft - 12 - canvas.text_width(text, {draw::kSmall}), y - 8, text, {draw::kSmall, false, draw::kFaint});
  }
  for (double power = kFewest; power <= kMost; ++power) {
    const double x = x_of(std::pow(10, power));
    canvas.line(x, kTop, x, kTop + kHeight, draw::kLine);
    const std::string text = std::to_string(static_cast<long>(std::pow(10, power)));
    canvas.text(x - canvas.text_width(text, {draw::kSmall}) / 2, kTop + kHeight + 8, text,
                {draw::kSmall, false, draw::kFaint});
  }
  canvas.text(kLeft + kWidth / 2 - 30, kTop + kHeight + 28, "hornets", {draw::kSmall, false, draw::kFaint});
  std::vector<const Line*> all{
      &ours["all get a new float"], &hand, &ours["10% written"], &ours["1% written"], &ours["no writes"], &scan, &idle};
  std::erase_if(all, [](const Line* line) { return line->points.empty(); });
  std::sort(all.begin(), all.end(),
            [](const Line* a, const Line* b) { return a->points.back().second > b->points.back().second; });
  double label = kTop;
  for (const Line* line : all) {
    for (std::size_t i = 0; i < line->points.size(); ++i) {
      const auto& [count, time] = line->points[i];
      canvas.circle(x_of(count), y_of(time), 3, line->color, line->color);
      if (i == 0) continue;
      const auto& [before, its] = line->points[i - 1];
      canvas.line(x_of(before), y_of(its), x_of(count), y_of(time), line->color,
                  line == &hand || line == &scan ? 1.5 : 2.5);
    }
    char text[96];
    std::snprintf(text, sizeof text, "%s: %.3g ms", line->name.c_str(), line->points.back().second / 1000);
    canvas.fill({kLeft + kWidth + 22, label + 6, 12, 4}, line->color);
    canvas.text(kLeft + kWidth + 40, label, text, {draw::kSmall, false, line->color});
    label += 26;
  }
  if (const auto written = canvas.write(argv[2]); !written) {
    std::fprintf(stderr, "%s\n", written.error().text().c_str());
    return 1;
  }
  return 0;
}
