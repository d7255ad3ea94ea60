// What every command of the tool has: a function that adds it to the parser and, when chosen, leaves its exit code.
#pragma once

#include <CLI/CLI.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/io/load.hpp"

namespace mobrin::cli {

// Exit codes of the tool.
enum Exit : int { kFine = 0, kFindings = 1, kUsage = 2 };

void add_check(CLI::App& app, int& exit_code);
void add_demo(CLI::App& app, int& exit_code);
void add_draw(CLI::App& app, int& exit_code);
void add_explain(CLI::App& app, int& exit_code);
void add_import(CLI::App& app, int& exit_code);
void add_list(CLI::App& app, int& exit_code);
void add_pack(CLI::App& app, int& exit_code);
void add_run(CLI::App& app, int& exit_code);
void add_schema(CLI::App& app, int& exit_code);
void add_marks(CLI::App& app, int& exit_code);
void add_sheet(CLI::App& app, int& exit_code);

// A run of a machine, as `run` and `demo` do it.
struct RunRequest {
  std::string machine;
  std::string tape{};  // empty: no inputs
  std::int64_t rate_hz = 60;
  std::optional<Ticks> until{};
  bool json = false;
  bool loops = false;     // print loops on which nothing hangs too
  std::string picture{};  // where to draw it; empty: nowhere
  bool dark = false;      // on a dark ground
};
int run(const RunRequest& request);
// The same for a scene, which stands in `machine`.
int run_scene(const RunRequest& request);

// The stage of a scene as `draw` and `demo` draw it.
struct SceneDrawing {
  std::string out;
  std::vector<Ticks> instants{};  // none: a film
  int fps = 12;
  double zoom = 0;
  bool plain = false;  // art alone
  bool dark = false;
};
int draw_scene_file(const std::string& file, const SceneDrawing& drawing);

}  // namespace mobrin::cli
