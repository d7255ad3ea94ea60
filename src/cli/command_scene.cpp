// Scenes for `run` and `draw`: the log of several actors, the stage, the film.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/draw/scene.hpp"
#include "output.hpp"
#include "run_log.hpp"

namespace mobrin::cli {
namespace {

std::optional<Scene> scene_or_report(const std::string& path) {
  LoadedScene loaded = load_scene(path);
  print_findings(loaded.findings, true);
  if (!loaded.scene) fmt::print(stderr, "{}; nothing was run.\n", counts(loaded.findings));
  return std::move(loaded.scene);
}

// The log of all actors: each has one of its own, told in order.
class SceneLog {
 public:
  SceneLog(SceneRun& run, const Scene& scene, const RunRequest& request) : run_(run), request_(request) {
    for (const SceneActor& actor : scene.actors) width_ = std::max(width_, actor.name.text.size());
    for (const SceneSpawn& spawn : scene.spawns) width_ = std::max(width_, spawn.what.text.size() + 3);
    for (std::size_t i = 0; i < run.actors(); ++i) add_actor(i);
    run.set_at_wakes(true);  // a look is told when it changes
  }
  ~SceneLog() {
    run_.set_at_wakes(false);
    for (std::size_t i = 0; i < logs_.size(); ++i) run_.set_write_hook(i, {});
  }
  SceneLog(const SceneLog&) = delete;
  SceneLog& operator=(const SceneLog&) = delete;

  [[nodiscard]] std::size_t width() const { return width_; }

  void add(const SceneRecord& record) {
    // Another's turn: what the last one has gathered comes first.
    if (record.actor != last_ || record.what != SceneRecord::What::told) flush();
    for (std::unique_ptr<RunLog>& log : logs_) log->pass(record.at);
    last_ = record.actor;
    switch (record.what) {
      case SceneRecord::What::told:
        if (record.cue.what == Told::cue && record.cue.kind() == "sound" && record.cue.edge != Edge::end)
          ++sounds_[sound(record.cue)];
        logs_[record.actor]->add(record.cue);
        return;
      case SceneRecord::What::hit:
        put(record, "hits",
            styled(Style::bad, name(record.other)) +
                fmt::format("  {}{}{}", record.box, record.hurt.empty() ? "" : fmt::format(" on {}", record.hurt),
                            record.hit_cue.empty() ? "" : fmt::format(", cue {}", record.hit_cue)),
            {{"what", "hit"},
             {"by", name(record.actor)},
             {"on", name(record.other)},
             {"cue", text_or_null(record.hit_cue)},
             {"box", std::string(record.box)},
             {"hurt", text_or_null(record.hurt)}});
        return;
      case SceneRecord::What::zone:
        put(record, "zone",
            fmt::format("{} {} {}", printable(name(record.other)), record.entered ? "enters" : "leaves", record.zone),
            {{"what", "zone"},
             {"of", name(record.actor)},
             {"zone", std::string(record.zone)},
             {"who", name(record.other)},
             {"edge", record.entered ? "enter" : "leave"}});
        return;
      case SceneRecord::What::spawn: {
        add_actor(record.actor);
        const Placement at = run_.placement(record.actor, record.at);
        put(record, "spawn",
            fmt::format("comes of {} at {:.2f}, {:.2f}", printable(name(record.other)), at.at.x, at.at.y),
            {{"what", "spawn"},
             {"actor", name(record.actor)},
             {"by", name(record.other)},
             {"at", {at.at.x, at.at.y}},
             {"face", at.faces_left ? "left" : "right"}});
        return;
      }
      case SceneRecord::What::gone:
        put(record, "gone", "", {{"what", "gone"}, {"actor", name(record.actor)}});
        return;
    }
  }
  void end() {
    flush();
    for (std::unique_ptr<RunLog>& log : logs_) log->end();
    if (request_.json || sounds_.empty()) return;
    std::string all;
    for (const auto& [what, count] : sounds_) all += fmt::format("{}{} x{}", all.empty() ? "" : ", ", what, count);
    fmt::print("{}  {}\n", styled(Style::strong, "sounds"), all);
  }
  [[nodiscard]] bool faults() const {
    return std::any_of(logs_.begin(), logs_.end(), [](const auto& log) { return log->faults(); });
  }

 private:
  [[nodiscard]] const std::string& name(std::size_t actor) const { return run_.actor(actor).name.text; }
  [[nodiscard]] static std::string sound(const Cue& cue) {
    const std::string_view file = cue.text("file");
    return printable(file.empty() ? cue.name() : file);
  }
  void flush() {
    if (last_ < logs_.size()) logs_[last_]->flush();
  }
  [[nodiscard]] bool wanted(Ticks at) const {
    return (!request_.from || at >= *request_.from) && (!request_.to || at <= *request_.to);
  }
  void line(std::size_t actor, Ticks at, std::string_view what, const std::string& text) const {
    if (wanted(at))
      fmt::print("{:9.3f}  {:{}}  {:6} {}\n", at.to_seconds(), printable(name(actor)), width_, what, text);
  }
  void json(Ticks at, const Json& out) const {
    if (wanted(at)) fmt::print("{}\n", print_json(out));
  }
  void put(const SceneRecord& record, std::string_view what, const std::string& text, const Json& fields) const {
    if (!request_.json) return line(record.actor, record.at, what, text);
    Json out = {{"ticks", record.at.count}};
    out.update(fields);
    json(record.at, out);
  }
  void add_actor(std::size_t actor) {
    RunLog::Line line;
    RunLog::JsonLine json;
    if (request_.json)
      json = [this, actor](Json out) {
        out["actor"] = name(actor);
        this->json(Ticks(out["ticks"].get<std::int64_t>()), out);
      };
    else
      line = [this, actor](Ticks at, std::string_view what, const std::string& text) {
        this->line(actor, at, what, text);
      };
    logs_.push_back(std::make_unique<RunLog>(run_.instance(actor), line, json, request_.loops));
    run_.set_write_hook(actor, logs_.back()->hook());
  }

  SceneRun& run_;
  const RunRequest& request_;
  std::vector<std::unique_ptr<RunLog>> logs_;
  std::map<std::string, int> sounds_;
  std::size_t width_ = 0, last_ = 0;
};

}  // namespace

int run_scene(const RunRequest& request) {
  auto scene = scene_or_report(request.machine);
  if (!scene) return kFindings;
  if (!request.tape.empty()) {
    fmt::print(stderr, "error: a scene has its own tapes\n    Write them under its actors: `tape: FILE`.\n");
    return kUsage;
  }
  if (!request.picture.empty() && !can_write("--picture", request.picture, {".png", ".svg"})) return kFindings;
  if (request.until) scene->until = *request.until;
  if (request.from && *request.from > scene->until)
    return usage(fmt::format("`--from` lies behind the end of the run, {:g} s", scene->until.to_seconds()),
                 "Name an earlier instant, or let the run last: `--until`.");
  if (!request.steps.empty()) return usage("a scene has its own presses", "Write them under its actors: `steps:`.");
  SceneRun run(*scene);
  SceneLog log(run, *scene, request);
  if (!request.json) {
    fmt::print("{}  {}  {}, {:g} s\n", styled(Style::strong, scene->name), request.machine,
               plural(scene->actors.size(), "actor"), scene->until.to_seconds());
    fmt::print("{}\n", styled(Style::faint, fmt::format("  seconds  {:{}}  what", "who", log.width())));
  }
  run.run(scene->until, [&](const SceneRecord& record) { log.add(record); });
  log.end();
  if (request.json) {
    for (std::size_t i = 0; i < run.actors(); ++i) {
      if (run.gone(i)) continue;
      Json last = final_json(*run.actor(i).machine, run.instance(i));
      const Placement place = run.placement(i, run.now());
      last["actor"] = run.actor(i).name.text;
      last["at"] = {place.at.x, place.at.y};
      last["face"] = place.faces_left ? "left" : "right";
      fmt::print("{}\n", print_json(last));
    }
  }
  if (!request.picture.empty()) {
    LanesOptions lanes;
    lanes.dark = request.dark;
    lanes.from = request.from.value_or(Ticks{});
    if (request.to && *request.to < scene->until) lanes.to = request.to;
    if (lanes.to.value_or(scene->until) <= lanes.from)
      return usage(fmt::format("--from {:g} s is not before the end at {:g} s", lanes.from.to_seconds(),
                               lanes.to.value_or(scene->until).to_seconds()),
                   "Name an earlier begin.");
    if (const Outcome drawn = draw_scene(*scene, request.picture, lanes); !drawn) {
      fmt::print(stderr, "error: {}\n", drawn.error().text());
      return kFindings;
    }
    if (!request.json) fmt::print("{}  {}\n", styled(Style::strong, "picture"), request.picture);
  }
  return log.faults() ? kFindings : kFine;
}

int draw_scene_file(const std::string& file, const SceneDrawing& drawing) {
  const auto scene = scene_or_report(file);
  if (!scene) return kFindings;
  StageOptions options;
  options.shapes = !drawing.plain;
  options.dark = drawing.dark;
  options.zoom = drawing.zoom;
  if (!can_write("-o", drawing.out, {".png", ".svg", ".apng"})) return kFindings;
  const bool film = drawing.out.ends_with(".apng");
  if (!film && drawing.instants.empty()) {
    fmt::print(stderr,
               "error: no instant is named\n    Say when: `--at 1.5s`, several times for a filmstrip; or write a film "
               "to a file "
               "that ends in .apng.\n");
    return kUsage;
  }
  for (const Ticks at : drawing.instants)
    if (at > scene->until)
      return usage(fmt::format("the scene ends at {:g} s, before {:g} s", scene->until.to_seconds(), at.to_seconds()),
                   "Name an instant within it.");
  const auto drawn = film ? draw_film(*scene, static_cast<int>(drawing.fps), options, drawing.out)
                          : draw_stage(*scene, drawing.instants, options, drawing.out);
  if (!drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  for (const std::string& message : *drawn) fmt::print(stderr, "warning: {}\n", message);
  fmt::print("{}  {}\n", drawing.out,
             film ? fmt::format("{} pictures a second, {:g} s", drawing.fps, scene->until.to_seconds())
                  : plural(drawing.instants.size(), "instant"));
  return drawn->empty() ? kFine : kFindings;
}

}  // namespace mobrin::cli
