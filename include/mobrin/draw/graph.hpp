// A machine as a graph: states within states, transitions in their author's words.
#pragma once

#include <string>
#include <vector>

#include "mobrin/core/machine.hpp"

namespace mobrin {

/// How a graph is drawn.
struct GraphOptions {
  bool dark = false;  ///< light on dark
  /// Only this state (an index into Machine::states()), what is in it, and what its rules lead to or comes to it from.
  std::uint16_t around = kNoIndex;
  /// Rules (indices into Machine::transitions()) that stand out in red: those that nothing took.
  std::vector<std::uint32_t> missed{};
};

/// The graph in Graphviz's language. Each state is a box with its rules as rows, in order, in the file's words, and an
/// arrow leaves from its row. Nesting is drawn as frames within frames, regions as dashed frames side by side; the
/// rules of a frame, and those that hold from anywhere, stand in a box of their own, once. Each state's element carries
/// its path as its id.
[[nodiscard]] std::string graph_dot(const Machine& machine, const GraphOptions& options = {});

/// The graph as Mermaid text (a `stateDiagram-v2`), for documents.
[[nodiscard]] std::string graph_mermaid(const Machine& machine);

/// The laid out graph as SVG text. Each state's element has the class `sN`, each frame's too, each rule's row an anchor
/// with the id `a_rN`, each arrow the id `tN` (N: indices into states() and transitions()). Graphviz keeps state of its
/// own: not for two threads at once.
[[nodiscard]] Result<std::string> graph_svg(const Machine& machine, const GraphOptions& options = {});

/// Lays the graph out and writes it to `path`: .svg or .png as a picture, .dot or .mmd as text. Another ending, or a
/// path that cannot be written, is an error. Graphviz keeps state of its own: not for two threads at once.
[[nodiscard]] Outcome draw_graph(const Machine& machine, const GraphOptions& options, const std::string& path);

}  // namespace mobrin
