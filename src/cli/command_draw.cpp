// mobrin draw: the machine as a graph.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/graph.hpp"
#include "mobrin/io/scene.hpp"

namespace mobrin::cli {
namespace {

int draw(const std::string& file, const GraphOptions& options, const std::string& out) {
  const auto loaded = load_or_report(file);
  if (!loaded) return kFindings;
  if (!loaded->has_machine) {
    fmt::print(stderr, "error: {} holds no machine\n    `mobrin sheet` draws clips.\n", file);
    return kFindings;
  }
  if (const Outcome drawn = draw_graph(*loaded->machine, options, out); !drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  fmt::print("{}  {}, {}\n", out, plural(loaded->machine->states().size() - 1, "state"),
             plural(loaded->machine->transitions().size(), "transition"));
  return kFine;
}

}  // namespace

void add_draw(CLI::App& app, int& exit_code) {
  struct Options {
    std::string file, out;
    GraphOptions graph;
    std::vector<std::string> at;
    SceneDrawing scene;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* command = app.add_subcommand("draw", "Draw all states and transitions as a graph; or the stage of a scene");
  command->add_option("FILE", options->file, "The machine; or a scene")->required();
  command
      ->add_option("-o,--out", options->out,
                   "What to write, by its ending: .svg, .png, .dot or .mmd (Mermaid); a scene's film: .apng")
      ->required();
  command->add_flag("--dark", options->graph.dark, "On a dark ground");
  command->add_option("--at", options->at, "Of a scene: the instant, such as 1.5s; several for a filmstrip");
  command->add_option("--fps", options->scene.fps, "Of a scene's film: pictures a second")
      ->check(CLI::Range(1, 60))
      ->capture_default_str();
  command->add_option("--zoom", options->scene.zoom, "Of a scene: image pixels this many times as large")
      ->check(CLI::Range(0.1, 16.0));
  command->add_flag("--plain", options->scene.plain, "Of a scene: the art alone, without boxes, zones and names");
  command->footer(
      "Example:\n  mobrin draw keeper.yaml -o keeper.svg\n  mobrin draw dusk.scene.yaml --at 2.06s -o still.png\n  "
      "mobrin "
      "draw dusk.scene.yaml -o dusk.apng");
  command->callback([options, &exit_code] {
    if (!is_scene(options->file).value_or(false)) {
      exit_code = draw(options->file, options->graph, options->out);
      return;
    }
    for (const std::string& at : options->at) {
      const auto instant = parse_duration(at);
      if (!instant || *instant > Ticks(kMaxDurationTicks)) {
        fmt::print(stderr, "error: `--at {}` is no instant\n    Write it with its unit, such as `--at 1.5s`.\n", at);
        exit_code = kUsage;
        return;
      }
      options->scene.instants.push_back(*instant);
    }
    std::sort(options->scene.instants.begin(), options->scene.instants.end());
    options->scene.out = options->out;
    options->scene.dark = options->graph.dark;
    exit_code = draw_scene_file(options->file, options->scene);
  });
}

}  // namespace mobrin::cli
