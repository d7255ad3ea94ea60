// What several commands of the tool share.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mobrin/io/load.hpp"
#include "parameters.hpp"
#include "run_source.hpp"

namespace mobrin::cli {

// Exit codes of the tool.
enum Exit : int { kFine = 0, kFindings = 1, kUsage = 2 };

// An argument that cannot be used: says so, with what to write instead; kUsage.
int usage(const std::string& message, const std::string& remedy);

// A run of a machine, as `run` and `demo` do it.
struct RunRequest {
  std::string machine;
  std::string tape{};  // empty: no inputs
  std::int64_t rate_hz = 60;
  std::optional<Ticks> until{};
  bool json = false;
  bool loops = false;                 // print loops on which nothing hangs too
  std::string picture{};              // where to draw it; empty: nowhere
  bool dark = false;                  // on a dark ground
  std::optional<Ticks> from{}, to{};  // what of it is printed and drawn
  std::vector<TypedStep> steps{};     // of the command line
};
int run(const RunRequest& request);
// The same for a scene, which stands in `machine`.
int run_scene(const RunRequest& request);
// Answers what a machine claims; for `demo` too.
int prove_claims(const std::string& file);

// The stage of a scene as `draw` and `demo` draw it.
struct SceneDrawing {
  std::string out;
  std::vector<Ticks> instants{};  // none: a film
  std::int64_t fps = 12;
  double zoom = 0;
  bool plain = false;  // art alone
  bool dark = false;
};
int draw_scene_file(const std::string& file, const SceneDrawing& drawing);

}  // namespace mobrin::cli
