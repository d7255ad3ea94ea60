// Scenes for `run` and `draw`: the log of several actors, the stage, the film.
#include <fmt/format.h>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/draw/scene.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

std::optional<Scene> scene_or_report(const std::string& path) {
  LoadedScene loaded = load_scene(path);
  print_findings(loaded.findings, true);
  if (!loaded.scene) fmt::print(stderr, "{}; nothing was run.\n", counts(loaded.findings));
  return std::move(loaded.scene);
}

Json json_of(const SceneRecord& record, const Scene& scene) {
  const auto name = [&](std::uint32_t actor) { return scene.actors[actor].name.text; };
  if (record.what == SceneRecord::What::told) {
    Json out = cli::json_of(record.cue);
    out["actor"] = name(record.actor);
    return out;
  }
  Json out = {{"ticks", record.at.count}};
  if (record.what == SceneRecord::What::hit) {
    out["what"] = "hit";
    out["by"] = name(record.actor);
    out["on"] = name(record.other);
    out["cue"] = text_or_null(record.hit_cue);
    out["box"] = std::string(record.box);
    out["hurt"] = std::string(record.hurt);
  } else {
    out["what"] = "zone";
    out["of"] = name(record.actor);
    out["zone"] = std::string(record.zone);
    out["who"] = name(record.other);
    out["edge"] = record.entered ? "enter" : "leave";
  }
  return out;
}

void print_line(const SceneRecord& record, const Scene& scene, std::size_t width) {
  const auto name = [&](std::uint32_t actor) -> const std::string& { return scene.actors[actor].name.text; };
  const auto line = [&](std::string_view what, const std::string& text) {
    fmt::print("{:9.3f}  {:{}}  {:6} {}\n", record.at.to_seconds(), name(record.actor), width, what, text);
  };
  if (record.what == SceneRecord::What::hit)
    return line("hits", styled(Style::bad, name(record.other)) +
                            fmt::format("  {} on {}{}", record.box, record.hurt,
                                        record.hit_cue.empty() ? "" : fmt::format(", cue {}", record.hit_cue)));
  if (record.what == SceneRecord::What::zone)
    return line("zone", fmt::format("{} {} {}", name(record.other), record.entered ? "enters" : "leaves", record.zone));
  const Cue& cue = record.cue;
  const Machine& machine = *scene.actors[record.actor].machine;
  if (cue.what == Told::enter && !machine.states()[cue.state].has_children)
    line("state", styled(Style::good, cue.state_path()));
  else if (cue.what == Told::done)
    line("done", styled(Style::strong, fmt::format("{}: remove me", cue.state_path())));
  else if (cue.what == Told::fault)
    line("fault", styled(Style::bad, "runaway"));
  else if (cue.what == Told::cue)
    line("cue",
         styled(Style::warm, cue.name()) +
             (cue.edge == Edge::none    ? ""
              : cue.edge == Edge::begin ? " begins"
                                        : " ends") +
             (cue.kind().empty() ? "" : fmt::format(" ({})", printable(cue.kind()))) +
             (cue.clip == kNoIndex || cue.frame < 0 ? "" : fmt::format("  {} frame {}", cue.clip_name(), cue.frame)));
}

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
  std::size_t width = 0;
  for (const SceneActor& actor : scene->actors) width = std::max(width, actor.name.text.size());
  bool faults = false;
  SceneRun run(*scene);
  if (!request.json) {
    fmt::print("{}  {}  {}, {:g} s\n", styled(Style::strong, scene->name), request.machine,
               plural(scene->actors.size(), "actor"), scene->until.to_seconds());
    fmt::print("{}\n", styled(Style::faint, fmt::format("  seconds  {:{}}  what", "who", width)));
  }
  run.run(scene->until, [&](const SceneRecord& record) {
    faults = faults || (record.what == SceneRecord::What::told && record.cue.what == Told::fault);
    if (request.json)
      fmt::print("{}\n", print_json(json_of(record, *scene)));
    else
      print_line(record, *scene, width);
  });
  if (request.json) {
    for (std::size_t i = 0; i < scene->actors.size(); ++i) {
      Json last = final_json(*scene->actors[i].machine, run.instance(i));
      const Placement place = run.placement(i, run.now());
      last["actor"] = scene->actors[i].name.text;
      last["at"] = {place.at.x, place.at.y};
      last["face"] = place.faces_left ? "left" : "right";
      fmt::print("{}\n", print_json(last));
    }
  }
  if (!request.picture.empty()) {
    if (const Outcome drawn = draw_scene(*scene, request.picture, request.dark); !drawn) {
      fmt::print(stderr, "error: {}\n", drawn.error().text());
      return kFindings;
    }
    if (!request.json) fmt::print("{}  {}\n", styled(Style::strong, "picture"), request.picture);
  }
  return faults ? kFindings : kFine;
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
  const auto drawn = film ? draw_film(*scene, drawing.fps, options, drawing.out)
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
