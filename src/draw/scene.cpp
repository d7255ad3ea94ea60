// A scene over time: lanes for each actor.
#include "mobrin/draw/scene.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "canvas.hpp"

namespace mobrin {
namespace {

using namespace draw;

constexpr double kWidth = 1280, kLeft = 150, kRight = 30, kTop = 78, kLane = 24;

struct Span {
  Ticks begin, end;
  std::string text;
};

class Lanes {
 public:
  explicit Lanes(const Scene& scene) : scene_(scene), states_(scene.actors.size()), cues_(scene.actors.size()) {
    SceneRun run(scene);
    std::vector<std::map<std::uint16_t, Span>> open(scene.actors.size());
    const auto close = [&](std::size_t actor, std::uint16_t state, Ticks at) {
      const auto found = open[actor].find(state);
      if (found == open[actor].end()) return;
      found->second.end = at;
      states_[actor][scene.actors[actor].machine->states()[state].region].push_back(found->second);
      open[actor].erase(found);
    };
    run.run(scene.until, [&](const SceneRecord& record) {
      if (record.what != SceneRecord::What::told) {
        between_.push_back(record);
        return;
      }
      const Machine& machine = *scene.actors[record.actor].machine;
      const Cue& cue = record.cue;
      if (cue.what == Told::enter && !machine.states()[cue.state].has_children) {
        const std::string& path = machine.states()[cue.state].path;
        open[record.actor][cue.state] = {cue.at, cue.at, path.substr(path.rfind('/') + 1)};
      } else if (cue.what == Told::leave) {
        close(record.actor, cue.state, cue.at);
      } else if ((cue.what == Told::cue && cue.edge != Edge::end) || cue.what == Told::done) {
        while (cue.what == Told::done && !open[record.actor].empty())
          close(record.actor, open[record.actor].begin()->first, cue.at);
        cues_[record.actor].emplace_back(cue.at, cue.what == Told::done ? "done" : std::string(cue.name()));
      }
    });
    for (std::size_t i = 0; i < open.size(); ++i)
      while (!open[i].empty()) close(i, open[i].begin()->first, scene.until);
  }

  Outcome write(const std::string& path, bool dark) {
    Canvas ruler(0, 0);
    const double height = draw(ruler);
    Canvas canvas(static_cast<int>(kWidth), static_cast<int>(height) + 24, dark);
    grid(canvas, height);
    draw(canvas);
    return canvas.write(path);
  }

 private:
  [[nodiscard]] double x_of(Ticks at) const {
    return kLeft + static_cast<double>(at.count) / static_cast<double>(std::max<std::int64_t>(1, scene_.until.count)) *
                       (kWidth - kLeft - kRight);
  }
  void grid(Canvas& canvas, double height) const {
    const double seconds = scene_.until.to_seconds();
    double step = 0.1;
    for (const double wider : {0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0, 3600.0})
      if (seconds / step > 14) step = wider;
    for (int i = 0; i * step <= seconds * 1.0001; ++i) {
      const double x = x_of(mobrin::seconds(i * step));
      canvas.line(x, kTop - 8, x, height, kLine);
      char text[32];
      std::snprintf(text, sizeof text, "%g s", i * step);
      canvas.text(x - canvas.text_width(text, {kSmall}) / 2, kTop - 26, text, {kSmall, false, kFaint});
    }
  }

  double draw(Canvas& canvas) const {
    canvas.text(20, 18, scene_.name, {kTitle, true});
    double y = kTop;
    std::vector<double> lane_of(scene_.actors.size());
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      const std::string& name = scene_.actors[i].name.text;
      canvas.text(kLeft - 14 - canvas.text_width(name, {kNormal, true}), y + 2, name, {kNormal, true, kInk});
      lane_of[i] = y;
      for (const auto& [region, spans] : states_[i]) {
        for (const Span& span : spans) {
          const double from = x_of(span.begin), to = x_of(span.end);
          canvas.fill({from, y, std::max(1.0, to - from), kLane - 2}, kStatePale);
          canvas.line(from, y, from, y + kLane - 2, kState, 2);
          if (canvas.text_width(span.text, {kSmall, true}) < to - from - 6)
            canvas.text(from + 4, y + 3, span.text, {kSmall, true, kState});
        }
        y += kLane;
      }
      // Cues as flags, named where there is room.
      for (std::size_t c = 0; c < cues_[i].size(); ++c) {
        const auto& [at, cue] = cues_[i][c];
        const double x = x_of(at), next = c + 1 < cues_[i].size() ? x_of(cues_[i][c + 1].first) : kWidth;
        canvas.flag(x, y + 16, 14, kCue);
        if (x + 14 + canvas.text_width(cue, {kSmall - 1}) < next)
          canvas.text(x + 11, y + 1, cue, {kSmall - 1, false, kCue});
      }
      y += kLane + 12;
    }
    for (const SceneRecord& record : between_) {
      const double x = x_of(record.at), from = lane_of[record.actor] + 11, to = lane_of[record.other] + 11;
      const bool hit = record.what == SceneRecord::What::hit;
      const Color color = hit ? kWrong : kWindow;
      canvas.line(x, from, x, to, color, hit ? 2 : 1);
      canvas.circle(x, to, 4, hit || record.entered ? color : kPaper, color, 1.5);
      canvas.circle(x, from, 3, color, color, 1);
    }
    canvas.flag(kLeft, y + 16, 14, kCue);
    double x = kLeft + 12;
    x += canvas.text(x, y + 1, "a cue", {kSmall, false, kCue}) + 24;
    for (const auto& [color, words] : {std::pair(kWrong, "hits, the large dot at who is hit"),
                                       std::pair(kWindow, "enters a zone (hollow: leaves it)")}) {
      canvas.circle(x, y + 9, 4, color, color, 1);
      x += 10;
      x += canvas.text(x, y + 1, words, {kSmall, false, color}) + 24;
    }
    return y + 20;
  }

  const Scene& scene_;
  std::vector<std::map<std::uint16_t, std::vector<Span>>> states_;  // by actor and region
  std::vector<std::vector<std::pair<Ticks, std::string>>> cues_;
  std::vector<SceneRecord> between_;
};

}  // namespace

Outcome draw_scene(const Scene& scene, const std::string& path, bool dark) { return Lanes(scene).write(path, dark); }

}  // namespace mobrin
