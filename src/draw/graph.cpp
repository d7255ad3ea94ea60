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

constexpr double kLargestPicture = 20'000;  // pixels
// From so many arrows on they are laid out with less care; of more than the last number nobody could follow one.
constexpr std::size_t kManyArrows = 150, kVeryManyArrows = 400, kMostArrows = 1'000;

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
// In quotes of an HTML-like label.
std::string attribute(std::string_view text) {
  std::string out;
  for (const char c : html(text)) out += c == '"' ? "&quot;" : std::string(1, c);
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
  Dot(const Machine& machine, const GraphOptions& options)
      : machine_(machine), dark_(options.dark), around_(options.around), missed_(options.missed) {
    choose();
    arrows_ = static_cast<std::size_t>(std::count_if(machine_.transitions().begin(), machine_.transitions().end(),
                                                     [&](const TransitionInfo& each) { return shows_edge(each); }));
  }

  [[nodiscard]] std::size_t arrows() const { return arrows_; }

  std::string text() {
    out_ = "digraph " + quoted(machine_.name()) + " {\n";
    out_ += "  graph [fontname=\"DejaVu Sans\", fontsize=13, bgcolor=" + quoted(hex(kPaper)) +
            ", fontcolor=" + quoted(hex(kInk)) +
            ", pad=0.3, compound=true, nodesep=0.3, ranksep=0.8, rankdir=LR, newrank=true" + care() +
            ", labeljust=l, labelloc=t, label=<<font "
            "point-size=\"18\"><b>" +
            html(machine_.name()) + "</b></font>>];\n";
    out_ += "  node [fontname=\"DejaVu Sans\", fontsize=13, shape=plain, fontcolor=" + quoted(hex(kInk)) + "];\n";
    out_ += "  edge [fontname=\"DejaVu Sans\", fontsize=10, color=" + quoted(hex(kFaint)) +
            ", fontcolor=" + quoted(hex(kFaint)) + ", arrowsize=0.7];\n";
    state_inside(0, "  ");
    out_ += starts_to_;  // only now: an arrow within a frame would pull its ends into it
    for (std::size_t i = 0; i < machine_.transitions().size(); ++i) edge(i);
    out_ += "}\n";
    return out_;
  }

 private:
  [[nodiscard]] std::string hex(const Color& color) const {
    char text[8];
    const auto byte = [](double part) { return static_cast<unsigned>(std::lround(part * 255)); };
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
  [[nodiscard]] std::vector<std::size_t> rules_of(std::uint16_t state) const {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < machine_.transitions().size(); ++i)
      if (machine_.transitions()[i].owner == state) out.push_back(i);
    return out;
  }

  [[nodiscard]] bool inside(std::uint16_t state, std::uint16_t of) const {
    for (;; state = info(state).parent) {
      if (state == of) return true;
      if (state == 0) return false;
    }
  }

  // With `around`: that state, what is in it and around it, and whatever its rules lead to or comes to it from.
  void choose() {
    shown_.assign(machine_.states().size(), around_ == kNoIndex);
    if (around_ == kNoIndex) return;
    const auto show = [&](std::uint16_t state) {
      for (;; state = info(state).parent) {
        shown_[state] = true;
        if (state == 0) return;
      }
    };
    for (std::uint16_t s = 0; s < machine_.states().size(); ++s)
      if (inside(s, around_)) show(s);
    for (const TransitionInfo& each : machine_.transitions()) {
      const bool from = inside(each.owner, around_), to = inside(each.target, around_);
      if (from) show(leaf_of(each.target));
      if (to) show(each.owner);
    }
  }
  // Improving where things lie takes more than quadratic time.
  [[nodiscard]] std::string care() const {
    std::string out = arrows_ > kManyArrows ? ", nslimit=1, nslimit1=1, mclimit=0.05" : "";
    if (arrows_ > kVeryManyArrows) out += ", splines=line";
    return out;
  }
  [[nodiscard]] bool shows_edge(const TransitionInfo& each) const {
    return shown_[each.owner] && (shown_[leaf_of(each.target)] || each.to == "back");
  }

  // A leaf inside, which an arrow to a frame is laid out to.
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
    // The rules of the whole frame, once, as a box of their own.
    if (!rules_of(state).empty()) {
      const std::string words = state == 0 ? "anywhere" : "anywhere in " + own_name(info(state).path);
      out_ += indent + "from" + std::to_string(state) + " [label=<" + table(state, words, "", true) + ">];\n";
    }
    if (!has_regions(state)) return begin_and_children(state, "", initial_of(state), indent);
    for (std::size_t r = 0; r < machine_.regions().size(); ++r) {
      const RegionInfo& region = machine_.regions()[r];
      if (region.owner != state) continue;
      out_ += indent + "subgraph cluster_r" + std::to_string(r) + " {\n" + indent +
              "  label=" + quoted(own_name(region.path)) + "; fontsize=11; fontcolor=" + quoted(hex(kFaint)) +
              "; style=\"rounded,dashed\"; margin=16; color=" + quoted(hex(kLine)) + "; id=" + quoted(region.path) +
              ";\n";
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
    if (initial != kNoIndex && shown_[leaf_of(initial)]) {
      const std::string start = "start" + std::to_string(starts_++);
      out_ += indent + start +
              " [shape=circle, label=\"\", style=filled, width=0.13, height=0.13, fixedsize=true, fillcolor=" +
              quoted(hex(kInk)) + ", color=" + quoted(hex(kInk)) + "];\n";
      starts_to_ += "  " + start + " -> " + node(leaf_of(initial)) + ":in" +
                    (info(initial).has_children ? " [" + at_frame(initial) + "]" : "") + ";\n";
    }
    for (std::uint16_t s = 1; s < machine_.states().size(); ++s) {
      if (!shown_[s] || info(s).parent != state || !(region.empty() || info(s).path.starts_with(region + "/")))
        continue;
      if (!info(s).has_children) {
        leaf(s, indent);
        continue;
      }
      out_ += indent + "subgraph cluster_" + node(s) + " {\n" + indent + "  label=<<b>" + html(own_name(info(s).path)) +
              "</b>" + notes(s) + ">; style=\"rounded,filled\"; margin=16; fillcolor=" + quoted(hex(kCellLight)) +
              "; color=" + quoted(hex(kState)) + "; penwidth=" + (info(s).sealed ? "2.6" : "1") +
              "; id=" + quoted(info(s).path) + "; class=" + quoted(node(s)) + "; fontcolor=" + quoted(hex(kInk)) +
              ";\n";
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
    return std::string(info(state).has_children ? "  " : "<br align=\"left\"/>") + "<font point-size=\"10\" color=\"" +
           hex(kFaint) + "\">" + html(words) + "</font>" + (info(state).has_children ? "" : "<br align=\"left\"/>");
  }

  // A state as a box with its rules as rows, in order, in the file's words; each row is a port that its arrow leaves.
  [[nodiscard]] std::string table(std::uint16_t state, const std::string& title, const std::string& about,
                                  bool dashed) {
    const std::string border = hex(dashed ? kFaint : kState);
    const bool heavy = state != 0 && info(state).sealed && !info(state).final;
    std::string out = "<table border=\"" + std::string(heavy ? "3" : "1") +
                      "\" cellborder=\"0\" cellspacing=\"0\" cellpadding=\"3\" style=\"rounded" +
                      (dashed ? ",dashed" : "") + "\" color=\"" + border + "\" bgcolor=\"" +
                      hex(dashed ? kPaper : kStatePale) + "\"><tr><td align=\"left\" port=\"in\"" +
                      (dashed ? ""
                              : " sides=\"b\" border=\"" + std::string(rules_of(state).empty() ? "0" : "1") +
                                    "\" color=\"" + border + "\"") +
                      "><b>" + html(title) + "</b>" + about + "</td></tr>";
    for (const std::size_t rule : rules_of(state)) {
      const TransitionInfo& each = machine_.transitions()[rule];
      std::string words = broken(each.text.empty() ? "always" : each.text, "\n");
      std::string lines;
      for (const char c : words)
        lines += c == '\n' ? std::string("<br align=\"left\"/>") : html(std::string_view(&c, 1));
      out += "<tr><td align=\"left\" balign=\"left\" id=\"r" + std::to_string(rule) + "\" href=\"#r" +
             std::to_string(rule) + "\" title=\"" + attribute(each.text) + "\" port=\"r" + std::to_string(rule) +
             "\"><font point-size=\"10\" color=\"" + hex(missed(rule) ? kWrong : kFaint) + "\">" + lines +
             "  <font color=\"" + hex(missed(rule) ? kWrong : kInk) + "\">\xe2\x86\x92 " + html(each.to) +
             "</font></font></td></tr>";
    }
    return out + "</table>";
  }

  void leaf(std::uint16_t state, const std::string& indent) {
    const std::string name = own_name(info(state).path) + (info(state).final ? " \xe2\x97\x8e" : "");
    out_ += indent + node(state) + " [label=<" + table(state, name, notes(state), false) +
            ">, id=" + quoted(info(state).path) + ", class=" + quoted(node(state)) + "];\n";
  }

  void edge(std::size_t index) {
    const TransitionInfo& each = machine_.transitions()[index];
    // What leads to `back` or to `x/last` says so in its row; there is no one state to point at.
    if (!shows_edge(each) || each.to == "back" || each.to.ends_with("/last")) return;
    const bool frame = each.owner == 0 || info(each.owner).has_children;
    const std::string from = frame ? "from" + std::to_string(each.owner) : node(each.owner);
    out_ += "  " + from + ":r" + std::to_string(index) + ":e -> " + node(leaf_of(each.target)) + ":in" +
            (each.owner == each.target ? ":e" : "") + " [id=t" + std::to_string(index) +
            (info(each.target).has_children && !inside(each.owner, each.target) ? ", " + at_frame(each.target) : "") +
            (missed(index) ? ", style=dashed, color=" + quoted(hex(kWrong)) : "") + "];\n";
  }
  // An arrow into a frame ends at its border: what is entered within is told by the frame's own start.
  [[nodiscard]] static std::string at_frame(std::uint16_t state) { return "lhead=cluster_" + node(state); }
  [[nodiscard]] bool missed(std::size_t rule) const {
    return std::find(missed_.begin(), missed_.end(), rule) != missed_.end();
  }

  const Machine& machine_;
  bool dark_;
  std::uint16_t around_;
  std::vector<std::uint32_t> missed_;
  std::vector<bool> shown_;
  std::size_t arrows_ = 0;
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

namespace {

// A rule back to its own state leaves its row and comes in at the name, close to the box: Graphviz lays such loops half
// as wide as the way to the next box, so behind it, where they look like arrows from there.
void tighten_loops(Agraph_t* graph) {
  constexpr double kArrowHead = 7, kFirst = 12, kStep = 6;  // points
  for (Agnode_t* node = agfstnode(graph); node != nullptr; node = agnxtnode(graph, node)) {
    double reach = kFirst;
    for (Agedge_t* edge = agfstout(graph, node); edge != nullptr; edge = agnxtout(graph, edge)) {
      if (aghead(edge) != node || ED_spl(edge) == nullptr || ED_spl(edge)->size != 1) continue;
      bezier& way = ED_spl(edge)->list[0];
      if (way.size < 4) continue;
      const double right = ND_coord(node).x + ND_rw(node);
      const double from = (way.sflag != 0 ? way.sp : way.list[0]).y;
      const double to = (way.eflag != 0 ? way.ep : way.list[way.size - 1]).y;
      const double width = reach * 4 / 3;  // a curve comes three quarters of the way to where it is pulled
      way.list[0] = {right, from};
      way.list[1] = {right + width, from};
      way.list[2] = {right + width, to};
      way.list[3] = {right + kArrowHead, to};
      way.size = 4;
      way.ep = {right, to};
      GD_bb(graph).UR.x = std::max(GD_bb(graph).UR.x, right + reach);
      reach += kStep;
    }
  }
}

// `format` as Graphviz names it. As a picture of dots no larger than can be looked at.
Result<std::string> rendered(const Machine& machine, const GraphOptions& options, const char* format) {
  Dot dot(machine, options);
  if (dot.arrows() > kMostArrows)
    return Error{"the graph of \"" + std::string(machine.name()) + "\" has " + std::to_string(dot.arrows()) +
                     " arrows, too many to follow one",
                 "", "Draw a part of it, `--state PATH`, or write what a program reads: .dot, .mmd."};
  agseterr(AGMAX);  // what it has to say is no help to users
  // One for the life of the process: Graphviz's text measuring keeps pointers into the context of the last call.
  static GVC_t* const context = gvContext();
  Agraph_t* const graph = agmemread(dot.text().c_str());
  Result<std::string> out = Error{"the graph of \"" + std::string(machine.name()) + "\" cannot be laid out", ""};
  if (graph != nullptr && gvLayout(context, graph, "dot") == 0) {
    tighten_loops(graph);
    const boxf box = GD_bb(graph);
    if (format[0] == 'p' && std::max(box.UR.x - box.LL.x, box.UR.y - box.LL.y) * 96 / 72 > kLargestPicture) {
      gvFreeLayout(context, graph);
      agclose(graph);
      return Error{"the graph of \"" + std::string(machine.name()) + "\" is too large for a PNG", "",
                   "Write an SVG, or a part of it: `--state PATH`."};
    }
    char* data = nullptr;
    unsigned size = 0;
    if (gvRenderData(context, graph, format, &data, &size) == 0) out = std::string(data, size);
    gvFreeRenderData(data);
    gvFreeLayout(context, graph);
  }
  if (graph != nullptr) agclose(graph);
  return out;
}

}  // namespace

Result<std::string> graph_svg(const Machine& machine, const GraphOptions& options) {
  return rendered(machine, options, "svg");
}

Outcome draw_graph(const Machine& machine, const GraphOptions& options, const std::string& path) {
  const std::string end = path.substr(std::min(path.rfind('.'), path.size()));
  if (end == ".dot") return write_file(path, graph_dot(machine, options));
  if (end == ".mmd") return write_file(path, graph_mermaid(machine));
  if (end != ".svg" && end != ".png") return Error{"\"" + path + "\" ends in none of .svg, .png, .dot and .mmd", ""};
  const auto picture = rendered(machine, options, end == ".svg" ? "svg" : "png");
  if (!picture) return picture.error();
  return write_file(path, *picture);
}

}  // namespace mobrin
