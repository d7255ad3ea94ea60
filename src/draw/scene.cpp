// A scene over time: lanes for each actor.
#include "mobrin/draw/scene.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "canvas.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {
namespace {

using namespace draw;

constexpr double kSceneWidth = 1280, kSceneRight = 30, kSceneTop = 78, kSceneLane = 24;

constexpr TextStyle kName{kNormal, true}, kVariable{kSmall, false, kFaint};

struct Span {
  Ticks begin, end;
  std::string text;
};

class Lanes {
 public:
  Lanes(const Scene& scene, const LanesOptions& options)
      : scene_(scene),
        from_(options.from),
        to_(options.to.value_or(scene.until)),
        states_(scene.actors.size()),
        variables_(scene.actors.size()),
        cues_(scene.actors.size()) {
    SceneRun run(scene);
    for (std::size_t i = 0; i < scene.actors.size(); ++i) note_variables(run, i, {});
    std::vector<std::map<std::uint16_t, Span>> open(scene.actors.size());
    const auto close = [&](std::size_t actor, std::uint16_t state, Ticks at) {
      const auto found = open[actor].find(state);
      if (found == open[actor].end()) return;
      found->second.end = at;
      states_[actor][scene.actors[actor].machine->states()[state].region].push_back(found->second);
      open[actor].erase(found);
    };
    run.run(to_, [&](const SceneRecord& record) {
      if (record.what == SceneRecord::What::spawn || record.what == SceneRecord::What::gone)
        return note_life(run, record);
      if (record.what != SceneRecord::What::told) {
        between_.push_back(record);
        return;
      }
      if (record.actor >= scene.actors.size()) return;  // those that were spawned have a lane a kind
      note_variables(run, record.actor, record.at);
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
      while (!open[i].empty()) close(i, open[i].begin()->first, to_);
    for (std::vector<Span>& kind : spawned_)
      for (Span& life : kind)
        if (life.end < life.begin) life.end = to_;
  }

  Outcome write(const std::string& path, bool dark) {
    Canvas ruler(0, 0);
    measure_names(ruler);
    const double height = draw(ruler);
    Canvas canvas(static_cast<int>(kSceneWidth), static_cast<int>(height) + 24, dark);
    grid(canvas, height);
    draw(canvas);
    return canvas.write(path);
  }

 private:
  void note_variables(const SceneRun& run, std::size_t actor, Ticks at) {
    const Instance& instance = run.instance(actor);
    for (const SavedInstance::Named& each : save(instance).variables) {
      const auto state = instance.machine().state(each.state);
      const bool there = each.state.empty() || (state && instance.in(*state));
      const std::string name = each.state.empty() ? each.name : each.name + " (" + each.state + ")";
      std::vector<Span>& list = variables_[actor][name];
      std::string text = there ? value_text(each.value) : "";
      if (!list.empty() && list.back().text == text) continue;
      if (!list.empty()) list.back().end = at;
      if (!list.empty() && list.back().begin == at) list.pop_back();
      list.push_back({at, to_, std::move(text)});
    }
  }
  // From when it comes until it is gone.
  void note_life(const SceneRun& run, const SceneRecord& record) {
    if (record.actor < scene_.actors.size()) return;
    const std::string& name = run.actor(record.actor).name.text;
    spawned_.resize(scene_.spawns.size());
    for (std::size_t k = 0; k < scene_.spawns.size(); ++k) {
      if (name.substr(0, name.rfind(' ')) != scene_.spawns[k].what.text) continue;
      kind_of_[record.actor] = k;
      if (record.what == SceneRecord::What::spawn)
        spawned_[k].push_back({record.at, Ticks(-1), name.substr(name.rfind(' ') + 1)});
      for (Span& life : spawned_[k])
        if (record.what == SceneRecord::What::gone && life.text == name.substr(name.rfind(' ') + 1))
          life.end = record.at;
    }
  }

  // What lies outside is cut at the edge; see shown() for what has no length.
  [[nodiscard]] double x_of(Ticks at) const {
    const Ticks inside = std::clamp(at, from_, to_);
    return names_.width + static_cast<double>((inside - from_).count) /
                              static_cast<double>(std::max<std::int64_t>(1, (to_ - from_).count)) *
                              (kSceneWidth - names_.width - kSceneRight);
  }
  [[nodiscard]] bool shown(Ticks at) const { return at >= from_ && at <= to_; }
  [[nodiscard]] bool shown(const Span& span) const { return span.end >= from_ && span.begin <= to_; }
  void grid(Canvas& canvas, double height) const {
    for (const auto& [at, text] : time_marks(from_, to_)) {
      const double x = x_of(at);
      canvas.line(x, kSceneTop - 8, x, height, kLine);
      canvas.text(x - canvas.text_width(text, {kSmall}) / 2, kSceneTop - 26, text, {kSmall, false, kFaint});
    }
  }

  // Each gives the height below it.
  double draw(Canvas& canvas) const {
    canvas.text(20, 18, scene_.name, {kTitle, true});
    double y = kSceneTop;
    std::vector<double> lane_of(scene_.actors.size()), kind_lane(spawned_.size());
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      lane_of[i] = y;
      y = draw_actor(canvas, i, y);
    }
    for (std::size_t k = 0; k < spawned_.size(); ++k) {
      if (spawned_[k].empty()) continue;
      kind_lane[k] = y;
      y = draw_lives(canvas, k, y);
    }
    const auto lane = [&](std::uint32_t actor) {
      return actor < lane_of.size() ? lane_of[actor] + 11 : kind_lane[kind_of_.at(actor)] + 5;
    };
    for (const SceneRecord& record : between_) {
      if (!shown(record.at)) continue;
      const double x = x_of(record.at), from = lane(record.actor), to = lane(record.other);
      const bool hit = record.what == SceneRecord::What::hit;
      const Color color = hit ? kWrong : kWindow;
      canvas.line(x, from, x, to, color, hit ? 2 : 1);
      canvas.circle(x, to, 4, hit || record.entered ? color : kPaper, color, 1.5);
      canvas.circle(x, from, 3, color, color, 1);
    }
    return draw_legend(canvas, y);
  }

  double draw_actor(Canvas& canvas, std::size_t i, double y) const {
    names_.draw(canvas, scene_.actors[i].name.text, y + 2, kName);
    for (const auto& [region, spans] : states_[i]) {
      for (const Span& span : spans) draw_span(canvas, span, y, {kSceneLane - 2, 3, 2, true, kStatePale, kState});
      y += kSceneLane;
    }
    for (const auto& [variable, spans] : variables_[i]) {
      names_.draw(canvas, variable, y + 1, kVariable);
      for (const Span& span : spans)
        if (!span.text.empty()) draw_span(canvas, span, y, {kSceneLane - 8, 1, 1.5, false, kValuePale, kValue});
      y += kSceneLane - 4;
    }
    // Cues as flags, named where there is room.
    for (std::size_t c = 0; c < cues_[i].size(); ++c) {
      if (!shown(cues_[i][c].first)) continue;
      const auto& [at, cue] = cues_[i][c];
      const double x = x_of(at), next = c + 1 < cues_[i].size() ? x_of(cues_[i][c + 1].first) : kSceneWidth;
      canvas.flag(x, y + 16, 14, kCue);
      if (x + 14 + canvas.text_width(cue, {kSmall - 1}) < next)
        canvas.text(x + 11, y + 1, cue, {kSmall - 1, false, kCue});
    }
    return y + kSceneLane + 12;
  }

  void measure_names(Canvas& canvas) {
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      names_.hold(canvas, scene_.actors[i].name.text, kName);
      for (const auto& [variable, spans] : variables_[i]) names_.hold(canvas, variable, kVariable);
    }
    for (std::size_t k = 0; k < spawned_.size(); ++k)
      if (!spawned_[k].empty()) names_.hold(canvas, scene_.spawns[k].what.text, kName);
  }

  struct SpanStyle {
    double height, text_top, edge;
    bool strong;
    Color pale, color;
  };
  void draw_span(Canvas& canvas, const Span& span, double y, const SpanStyle& style) const {
    if (!shown(span)) return;
    const double from = x_of(span.begin), to = x_of(span.end);
    canvas.fill({from, y, std::max(1.0, to - from), style.height}, style.pale);
    canvas.line(from, y, from, y + style.height, style.color, style.edge);
    if (canvas.text_width(span.text, {kSmall, style.strong}) < to - from - 6)
      canvas.text(from + 4, y + style.text_top, span.text, {kSmall, style.strong, style.color});
  }

  // What was spawned of a kind; those that are there at once under each other.
  double draw_lives(Canvas& canvas, std::size_t k, double y) const {
    names_.draw(canvas, scene_.spawns[k].what.text, y + 2, kName);
    std::vector<double> ends;
    for (const Span& life : spawned_[k]) {
      if (!shown(life)) continue;
      const double from = x_of(life.begin), to = x_of(life.end);
      std::size_t row = 0;
      while (row < ends.size() && ends[row] > from) ++row;
      if (row == ends.size()) ends.push_back(0);
      ends[row] = to + 2;
      canvas.fill({from, y + static_cast<double>(row) * 10, std::max(2.0, to - from), 8}, kWindow.faded(0.35));
      canvas.line(from, y + static_cast<double>(row) * 10, from, y + static_cast<double>(row) * 10 + 8, kWindow, 2);
    }
    return y + std::max(kSceneLane, static_cast<double>(ends.size()) * 10) + 12;
  }

  double draw_legend(Canvas& canvas, double y) const {
    canvas.flag(names_.width, y + 16, 14, kCue);
    double x = names_.width + 12;
    x += canvas.text(x, y + 1, "a cue", {kSmall, false, kCue}) + 24;
    const auto any = [&](SceneRecord::What what) {
      return std::any_of(between_.begin(), between_.end(),
                         [&](const SceneRecord& each) { return each.what == what && shown(each.at); });
    };
    const auto dot = [&](Color color, const char* words) {
      canvas.circle(x, y + 9, 4, color, color, 1);
      x += 10;
      x += canvas.text(x, y + 1, words, {kSmall, false, color}) + 24;
    };
    if (any(SceneRecord::What::hit)) dot(kWrong, "hits, the large dot at who is hit");
    if (any(SceneRecord::What::zone)) dot(kWindow, "enters a zone (hollow: leaves it)");
    if (!spawned_.empty()) {
      canvas.fill({x, y + 5, 16, 8}, kWindow.faded(0.35));
      x += 22;
      canvas.text(x, y + 1, "a life that was spawned", {kSmall, false, kWindow});
    }
    return y + 20;
  }

  std::vector<std::vector<Span>> spawned_;        // beside the scene's spawns
  std::map<std::uint32_t, std::size_t> kind_of_;  // of those that were spawned
  const Scene& scene_;
  Ticks from_, to_;
  std::vector<std::map<std::uint16_t, std::vector<Span>>> states_;   // by actor and region
  std::vector<std::map<std::string, std::vector<Span>>> variables_;  // by actor and name
  std::vector<std::vector<std::pair<Ticks, std::string>>> cues_;
  std::vector<SceneRecord> between_;
  NameColumn names_;
};

}  // namespace

Outcome draw_scene(const Scene& scene, const std::string& path, const LanesOptions& options) {
  return Lanes(scene, options).write(path, options.dark);
}

}  // namespace mobrin
