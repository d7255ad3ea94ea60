// mobrin draw: the machine as a graph.
#include <fmt/format.h>

#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/graph.hpp"

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
  };
  const auto options = std::make_shared<Options>();
  CLI::App* command = app.add_subcommand("draw", "Draw all states and transitions as a graph");
  command->add_option("FILE", options->file, "The machine")->required();
  command->add_option("-o,--out", options->out, "What to write, by its ending: .svg, .png, .dot or .mmd (Mermaid)")
      ->required();
  command->add_flag("--dark", options->graph.dark, "On a dark ground");
  command->footer("Example:\n  mobrin draw keeper.yaml -o keeper.svg");
  command->callback([options, &exit_code] { exit_code = draw(options->file, options->graph, options->out); });
}

}  // namespace mobrin::cli
