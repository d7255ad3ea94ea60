// mobrin draw: the machine as a graph.
#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <optional>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/graph.hpp"
#include "mobrin/io/scene.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

int draw(const std::string& file, GraphOptions options, const std::string& state, const std::string& out) {
  const auto loaded = load_or_report(file);
  if (!loaded) return kFindings;
  if (!loaded->has_machine) {
    fmt::print(stderr, "error: {} holds no machine\n    `mobrin sheet` draws clips.\n", file);
    return kFindings;
  }
  if (!state.empty()) {
    const auto found = loaded->machine->state(state);
    if (!found) return usage(found.error().text(), "Name a state by its path, as `mobrin list` prints it.");
    options.around = found->index;
  }
  if (!can_write("-o", out, {".svg", ".png", ".dot", ".mmd"}, &*loaded)) return kFindings;
  if (const Outcome drawn = draw_graph(*loaded->machine, options, out); !drawn) {
    fmt::print(stderr, "error: {}\n", drawn.error().text());
    return kFindings;
  }
  fmt::print("{}  {}{}, {}\n", out, state.empty() ? "" : printable("\"" + state + "\" and its neighbours, of "),
             plural(loaded->machine->states().size() - 1, "state"),
             plural(loaded->machine->transitions().size(), "transition"));
  return kFine;
}

const Command draw_command(
    Command::Rank::look, "draw", "Draw all states and transitions as a graph; or the stage of a scene",
    [](Parameters& parameters) -> Action {
      struct Options {
        std::string file, out, state;
        GraphOptions graph;
        std::vector<std::string> at;
        SceneDrawing scene;
      };
      const auto options = std::make_shared<Options>();
      parameters.place("FILE", options->file, "The machine; or a scene");
      parameters.option("-o,--out", options->out,
                        "What to write, by its ending: .svg, .png, .dot or .mmd (Mermaid); a scene's film: .apng",
                        Parameters::Need::required);
      parameters.option("--state", options->state, "Only this state and its neighbours");
      parameters.flag("--dark", options->graph.dark, "On a dark ground");
      parameters.options("--at", options->at, "Of a scene: the instant, such as 1.5s; several for a filmstrip");
      parameters.number("--fps", options->scene.fps, {1, 60}, "Of a scene's film: pictures a second");
      parameters.number("--zoom", options->scene.zoom, {0.1, 16.0},
                        "Of a scene: image pixels this many times as large");
      parameters.flag("--plain", options->scene.plain, "Of a scene: the art alone, without boxes, zones and names");
      parameters.footer(
          "Example:\n  mobrin draw keeper.yaml -o keeper.svg\n  mobrin draw dusk.scene.yaml --at 2.06s -o still.png\n  "
          "mobrin "
          "draw dusk.scene.yaml -o dusk.apng");
      return [options]() -> int {
        const std::optional<bool> known = is_scene(options->file);
        const bool scene = known.value_or(false);
        if (scene && !options->state.empty())
          return usage("`--state` speaks of a machine, and " + options->file + " is a scene", "Leave it out.");
        const SceneDrawing plain;
        if (known == false && (!options->at.empty() || options->scene.zoom != plain.zoom || options->scene.plain ||
                               options->scene.fps != plain.fps))
          return usage("`--at`, `--fps`, `--zoom` and `--plain` speak of a scene, and " + options->file + " is none",
                       "Leave them out, or name a scene.");
        if (!scene) {
          return draw(options->file, options->graph, options->state, options->out);
        }
        for (const std::string& at : options->at) {
          const auto instant = parse_duration(at);
          if (!instant || *instant > Ticks(kMaxDurationTicks)) {
            fmt::print(stderr, "error: `--at {}` is no instant\n    Write it with its unit, such as `--at 1.5s`.\n",
                       at);
            return kUsage;
          }
          options->scene.instants.push_back(*instant);
        }
        std::sort(options->scene.instants.begin(), options->scene.instants.end());
        options->scene.out = options->out;
        options->scene.dark = options->graph.dark;
        return draw_scene_file(options->file, options->scene);
      };
    });

}  // namespace

}  // namespace mobrin::cli
