// The picture of a machine: its graph in Graphviz's language, laid out by Graphviz.
#include "mobrin/draw/graph.hpp"

#include <graphviz/cgraph.h>
#include <graphviz/gvc.h>

#include <algorithm>
#include <cstdio>

#include "mobrin/core/parts.hpp"
#include "mobrin/io/file.hpp"
#include "palette.hpp"

namespace mobrin {
namespace {

using namespace draw;

std::string escaped(std::string_view text, const char* special) {
  std::string out;
  for (const char c : text) {
    if (std::string_view(special).find(c) != std::string_view::npos) out += '\\';
    out += c;
  }
  return out;
}
std::string html(std::string_view text) {
  std::string out;
  for (const char c : text) out += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : std::string(1, c);
  return out;
}
std::string quoted(std::string_view text) { return "\"" + escaped(text, "\"\\") + "\""; }

std::string own_name(const std::string& path) { return path.substr(path.rfind('/') + 1); }

// Long conditions break at a comma or `and`, so that the graph stays narrow.
std::string broken(const std::string& words, const char* newline) {
  std::string out;
  std::size_t since = 0;
  for (std::size_t i = 0; i < words.size(); ++i) {
    out += words[i];
    ++since;
    const bool gap =
        since > 16 && words[i] == ' ' &&
        (words[i - 1] == ',' || words.compare(i + 1, 4, "and ") == 0 || words.compare(i + 1, 3, "or ") == 0);
    if (!gap) continue;
    out.back() = ' ';
    out += newline;
    since = 0;
  }
  return out;
}

class Dot {
 public:
  Dot(const Machine& machine, const GraphOptions& options) : machine_(machine), dark_(options.dark) {}

  std::string text() {
    out_ = "digraph " + quoted(machine_.name()) + " {\n";
    out_ += "  graph [compound=true, fontname=\"DejaVu Sans\", fontsize=13, bgcolor=" + quoted(hex(kPaper)) +
            ", fontcolor=" + quoted(hex(kInk)) + ", pad=0.3, nodesep=0.45, ranksep=0.55, labeljust=l];\n";
    out_ += "  node [fontname=\"DejaVu Sans\", fontsize=13, shape=box, style=\"rounded,filled\", penwidth=1.2, color=" +
            quoted(hex(kState)) + ", fillcolor=" + quoted(hex(kStatePale)) + ", fontcolor=" + quoted(hex(kInk)) +
            ", margin=\"0.14,0.07\", height=0.4];\n";
    out_ += "  edge [fontname=\"DejaVu Sans\", fontsize=10, color=" + quoted(hex(kFaint)) +
            ", fontcolor=" + quoted(hex(kFaint)) + ", arrowsize=0.7];\n";
    out_ += "  title [shape=plaintext, style=\"\", fontsize=18, label=<<b>" + html(machine_.name()) + "</b>>];\n";
    state_inside(0, "  ");
    out_ += starts_to_;  // only now: an arrow within a frame would pull its ends into it
    for (std::size_t i = 0; i < machine_.transitions().size(); ++i) edge(i);
    out_ += "}\n";
    return out_;
  }

 private:
  [[nodiscard]] std::string hex(const Color& color) const {
    char text[8];
    const auto byte = [](double part) { return static_cast<unsigned>(part * 255 + 0.5); };
    const Rgb& rgb = color.on(dark_);
    std::snprintf(text, sizeof text, "#%02x%02x%02x", byte(rgb.red), byte(rgb.green), byte(rgb.blue));
    return text;
  }

  [[nodiscard]] static std::string node(std::uint16_t state) { return "s" + std::to_string(state); }
  [[nodiscard]] const StateInfo& info(std::uint16_t state) const { return machine_.states()[state]; }

  [[nodiscard]] bool has_regions(std::uint16_t state) const {
    for (const RegionInfo& region : machine_.regions())
      if (region.owner == state && !region.path.empty()) return true;
    return false;
  }
  [[nodiscard]] bool is_source(std::uint16_t state) const {
    for (const TransitionInfo& each : machine_.transitions())
      if (each.owner == state) return true;
    return false;
  }
  // A leaf inside, for an arrow that ends at a frame's border.
  [[nodiscard]] std::uint16_t leaf_of(std::uint16_t state) const {
    while (info(state).has_children) {
      if (info(state).initial != kNoIndex) {
        state = info(state).initial;
        continue;
      }
      for (const RegionInfo& region : machine_.regions())
        if (region.owner == state) {
          state = region.initial;
          break;
        }
    }
    return state;
  }

  // What lies inside a state: its start, its own transitions' source, its children or regions.
  void state_inside(std::uint16_t state, const std::string& indent) {
    if (is_source(state)) {
      const std::string words = state == 0 ? "anywhere" : "any in " + own_name(info(state).path);
      out_ += indent + "from" + std::to_string(state) + " [label=" + quoted(words) +
              ", shape=box, style=\"rounded,dashed\", color=" + quoted(hex(kFaint)) +
              ", fontcolor=" + quoted(hex(kFaint)) + ", fontsize=11, height=0.3];\n";
    }
    if (!has_regions(state)) return begin_and_children(state, "", initial_of(state), indent);
    for (std::size_t r = 0; r < machine_.regions().size(); ++r) {
      const RegionInfo& region = machine_.regions()[r];
      if (region.owner != state) continue;
      out_ += indent + "subgraph cluster_r" + std::to_string(r) + " {\n" + indent +
              "  label=" + quoted(own_name(region.path)) + "; fontsize=11; fontcolor=" + quoted(hex(kFaint)) +
              "; style=\"rounded,dashed\"; color=" + quoted(hex(kLine)) + "; id=" + quoted(region.path) + ";\n";
      begin_and_children(state, region.path, region.initial, indent + "  ");
      out_ += indent + "}\n";
    }
  }

  [[nodiscard]] std::uint16_t initial_of(std::uint16_t state) const {
    if (state != 0) return info(state).initial;
    for (const RegionInfo& region : machine_.regions())
      if (region.owner == 0) return region.initial;
    return kNoIndex;
  }

  void begin_and_children(std::uint16_t state, const std::string& region, std::uint16_t initial,
                          const std::string& indent) {
    const std::string start = "start" + std::to_string(starts_++);
    out_ += indent + start +
            " [shape=circle, label=\"\", width=0.13, height=0.13, fixedsize=true, style=filled, fillcolor=" +
            quoted(hex(kInk)) + ", color=" + quoted(hex(kInk)) + "];\n";
    if (initial != kNoIndex) starts_to_ += "  " + start + " -> " + target(initial) + ";\n";
    for (std::uint16_t s = 1; s < machine_.states().size(); ++s) {
      if (info(s).parent != state || !(region.empty() || info(s).path.starts_with(region + "/"))) continue;
      if (!info(s).has_children) {
        leaf(s, indent);
        continue;
      }
      out_ += indent + "subgraph cluster_" + node(s) + " {\n" + indent + "  label=<<b>" + html(own_name(info(s).path)) +
              "</b>" + notes(s) + ">; style=\"rounded,filled\"; fillcolor=" + quoted(hex(kCellLight)) +
              "; color=" + quoted(hex(kState)) + "; penwidth=" + (info(s).sealed ? "2.6" : "1") +
              "; id=" + quoted(info(s).path) + "; fontcolor=" + quoted(hex(kInk)) + ";\n";
      state_inside(s, indent + "  ");
      out_ += indent + "}\n";
    }
  }

  // What a state is besides its name.
  [[nodiscard]] std::string notes(std::uint16_t state) const {
    std::string words = info(state).plays;
    const auto add = [&](const std::string& more) { words += (words.empty() ? "" : ", ") + more; };
    if (info(state).final)
      add("final");
    else if (info(state).sealed)
      add("sealed");
    for (const std::string& trait : info(state).traits) add(trait);
    if (words.empty()) return "";
    return std::string(info(state).has_children ? "  " : "<br/>") + "<font point-size=\"10\" color=\"" + hex(kFaint) +
           "\">" + html(words) + "</font>";
  }

  void leaf(std::uint16_t state, const std::string& indent) {
    out_ += indent + node(state) + " [label=<<b>" + html(own_name(info(state).path)) + "</b>" + notes(state) +
            ">, id=" + quoted(info(state).path) + (info(state).final ? ", peripheries=2" : "") +
            (info(state).sealed && !info(state).final ? ", penwidth=2.6" : "") + "];\n";
  }

  [[nodiscard]] std::string target(std::uint16_t state) const {
    std::string out = node(leaf_of(state));
    if (info(state).has_children) out += " [lhead=cluster_" + node(state) + "]";
    return out;
  }

  void edge(std::size_t index) {
    const TransitionInfo& each = machine_.transitions()[index];
    // The order in its list, where there is one.
    std::size_t place = 1, count = 0;
    for (std::size_t i = 0; i < machine_.transitions().size(); ++i) {
      if (machine_.transitions()[i].owner != each.owner) continue;
      ++count;
      if (i < index) ++place;
    }
    const bool frame = each.owner == 0 || info(each.owner).has_children;
    const std::string from = frame ? "from" + std::to_string(each.owner) : node(each.owner);
    const std::string order = count > 1 ? std::to_string(place) + "  " : "";
    const std::string label = "label=\"  " + escaped(broken(order + each.text, "\n  "), "\"\\") + "\"";
    std::string line;
    for (const char c : label) line += c == '\n' ? std::string("\\l") : std::string(1, c);
    line.insert(line.size() - 1, "\\l");
    const bool back = each.to == "back";
    if (back || each.to.ends_with("/last")) {
      const std::string memory = "memory" + std::to_string(index);
      out_ += "  " + memory + " [label=" + quoted(back ? "back" : "last of " + each.to.substr(0, each.to.size() - 5)) +
              ", shape=box, style=\"rounded,dashed\", color=" + quoted(hex(kFaint)) +
              ", fontcolor=" + quoted(hex(kFaint)) + ", fontsize=11, height=0.3];\n  " + from + " -> " + memory + " [" +
              line + "];\n";
      return;
    }
    out_ += "  " + from + " -> " + node(leaf_of(each.target)) + " [" + line;
    if (info(each.target).has_children) out_ += ", lhead=cluster_" + node(each.target);
    out_ += "];\n";
  }

  const Machine& machine_;
  bool dark_;
  std::string out_, starts_to_;
  int starts_ = 0;
};

std::string mermaid_id(const std::string& path) {
  std::string out = path.empty() ? "anywhere" : path;
  for (char& c : out)
    if (c == '/') c = '.';
  return out;
}

void mermaid_inside(const Machine& machine, std::uint16_t state, std::string& out, const std::string& indent) {
  bool first_region = true;
  for (const RegionInfo& region : machine.regions()) {
    if (region.owner != state) continue;
    if (!first_region) out += indent + "--\n";
    first_region = false;
    out += indent + "[*] --> " + mermaid_id(machine.states()[region.initial].path) + "\n";
  }
  const std::uint16_t initial = machine.states()[state].initial;
  if (state != 0 && initial != kNoIndex) out += indent + "[*] --> " + mermaid_id(machine.states()[initial].path) + "\n";
  for (std::uint16_t s = 1; s < machine.states().size(); ++s) {
    const StateInfo& info = machine.states()[s];
    if (info.parent != state) continue;
    out += indent + "state \"" + own_name(info.path) + "\" as " + mermaid_id(info.path) + "\n";
    if (info.has_children) {
      out += indent + "state " + mermaid_id(info.path) + " {\n";
      mermaid_inside(machine, s, out, indent + "  ");
      out += indent + "}\n";
    }
    if (info.final) out += indent + mermaid_id(info.path) + " --> [*]\n";
  }
}

}  // namespace

std::string graph_dot(const Machine& machine, const GraphOptions& options) { return Dot(machine, options).text(); }

std::string graph_mermaid(const Machine& machine) {
  std::string out = "stateDiagram-v2\n";
  mermaid_inside(machine, 0, out, "  ");
  for (const TransitionInfo& each : machine.transitions()) {
    const std::string to =
        each.to == "back" || each.to.ends_with("/last") ? each.to : machine.states()[each.target].path;
    out += "  " + mermaid_id(machine.states()[each.owner].path) + " --> " + mermaid_id(to) + " : " + each.text + "\n";
  }
  return out;
}

Outcome draw_graph(const Machine& machine, const GraphOptions& options, const std::string& path) {
  const std::string end = path.substr(std::min(path.rfind('.'), path.size()));
  if (end == ".dot") return write_file(path, graph_dot(machine, options));
  if (end == ".mmd") return write_file(path, graph_mermaid(machine));
  if (end != ".svg" && end != ".png") return Error{"\"" + path + "\" ends in none of .svg, .png, .dot and .mmd", ""};
  agseterr(AGMAX);  // what it has to say is no help to users
  // One for the life of the process: Graphviz's text measuring keeps pointers into the context of the last call.
  static GVC_t* const context = gvContext();
  Agraph_t* const graph = agmemread(graph_dot(machine, options).c_str());
  Outcome written = Error{"the graph of \"" + std::string(machine.name()) + "\" cannot be laid out", ""};
  if (graph != nullptr && gvLayout(context, graph, "dot") == 0) {
    char* data = nullptr;
    unsigned size = 0;
    if (gvRenderData(context, graph, end == ".svg" ? "svg" : "png", &data, &size) == 0)
      written = write_file(path, {data, size});
    gvFreeRenderData(data);
    gvFreeLayout(context, graph);
  }
  if (graph != nullptr) agclose(graph);
  return written;
}

}  // namespace mobrin
