// The graph of a machine: what is in it, and where its arrows lie.
#include "mobrin/draw/graph.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "mobrin/io/load.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct Box {
  double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
  // Frames are rounded: the line lies on the box but for its corners.
  [[nodiscard]] bool holds(const Box& other, double more) const {
    return other.left > left - more && other.right < right + more && other.top > top - more &&
           other.bottom < bottom + more;
  }
};

// What the numbers of `name="..."` span, the first such after `at`.
Box span_of(const std::string& svg, std::size_t at, const std::string& name) {
  const std::size_t begin = svg.find(" " + name + "=\"", at) + name.size() + 3;
  Box out;
  bool across = true;
  for (const char* c = svg.c_str() + begin; *c != '"'; across = !across) {
    while (std::isdigit(static_cast<unsigned char>(*c)) == 0 && *c != '-' && *c != '"') ++c;
    if (*c == '"') break;
    char* end = nullptr;
    const double value = std::strtod(c, &end);
    c = end;
    double& least = across ? out.left : out.top;
    double& most = across ? out.right : out.bottom;
    least = std::min(least, value), most = std::max(most, value);
  }
  return out;
}

std::size_t group(const std::string& svg, const std::string& id) {
  const std::size_t at = svg.find("<g id=\"" + id + "\"");
  EXPECT_NE(at, std::string::npos) << id;
  return at;
}

TEST(Graph, ShowsNestingRegionsOrderAndWhatHoldsFromAnywhereOnce) {
  const auto count = [](const std::string& text, const std::string& words) {
    std::size_t found = 0;
    for (std::size_t at = text.find(words); at != std::string::npos; at = text.find(words, at + 1)) ++found;
    return found;
  };
  const Machine keeper = *load_character(MOBRIN_DEMO "/keeper.yaml").machine;
  const std::string dot = graph_dot(keeper);
  for (std::size_t s = 1; s < keeper.states().size(); ++s)
    EXPECT_EQ(count(dot, "id=\"" + keeper.states()[s].path + "\""), 1u) << keeper.states()[s].path;
  EXPECT_EQ(count(dot, "subgraph cluster_s"), 3u);  // ground, air, faint
  EXPECT_EQ(count(dot, "<b>anywhere</b>"), 1u);
  EXPECT_EQ(count(dot, "from0:r"), 2u);  // and not an arrow from every state
  // Each rule is a row of its state, in the file's words, and its arrow leaves from that row; but for the one that
  // leads back, where that may be: it says so.
  for (std::size_t t = 0; t < keeper.transitions().size(); ++t) {
    EXPECT_EQ(count(dot, "port=\"r" + std::to_string(t) + "\""), 1u);
    EXPECT_EQ(count(dot, ":r" + std::to_string(t) + ":e -> "), keeper.transitions()[t].to == "back" ? 0u : 1u) << t;
  }
  EXPECT_EQ(count(dot, " -> "), keeper.transitions().size() - 1 + 4);  // four starts: the machine, ground, air, faint
  EXPECT_LT(dot.find("when: health &lt;= 0"), dot.find("pulse: stung"));
  EXPECT_NE(graph_dot(keeper, {true}), dot);
  const Machine hornet = *load_character(MOBRIN_DEMO "/hornet.yaml").machine;
  EXPECT_EQ(count(graph_dot(hornet), "subgraph cluster_r"), 2u);
  const std::string mermaid = graph_mermaid(hornet);
  EXPECT_EQ(mermaid.substr(0, 45), "stateDiagram-v2\n  [*] --> body.hover\n  --\n  [");
  EXPECT_EQ(count(mermaid, " : "), hornet.transitions().size());
}

TEST(Graph, OfAStateHasItsNeighboursOnly) {
  const Machine keeper = *load_character(MOBRIN_DEMO "/keeper.yaml").machine;
  const std::string dot = graph_dot(keeper, {false, keeper.state("air/fall")->index});
  for (const char* there : {"air/fall", "air/leap", "ground/land"})
    EXPECT_NE(dot.find("id=\"" + std::string(there) + "\""), std::string::npos) << there;
  for (const char* other : {"hurt", "faint/sag", "ground/net"})
    EXPECT_EQ(dot.find("id=\"" + std::string(other) + "\""), std::string::npos) << other;
}

TEST(Graph, IsWrittenAsPictureOrTextByTheEndingOfItsName) {
  const Machine hive = *load_character(MOBRIN_DEMO "/hive.yaml").machine;
  const auto written = [&](const std::string& end) {
    const std::string path = testing::TempDir() + "mobrin_graph" + end;
    EXPECT_TRUE(draw_graph(hive, {}, path)) << end;
    std::ifstream in(path, std::ios::binary);
    return std::string(std::istreambuf_iterator<char>(in), {});
  };
  const std::string svg = written(".svg");
  for (const StateInfo& state : hive.states().subspan(1))
    EXPECT_NE(svg.find("id=\"" + state.path + "\""), std::string::npos) << state.path;
  EXPECT_EQ(written(".png").substr(1, 3), "PNG");
  EXPECT_EQ(written(".dot"), graph_dot(hive));
  EXPECT_EQ(written(".mmd"), graph_mermaid(hive));
  EXPECT_EQ(draw_graph(hive, {}, "hive.jpg").error().message, "\"hive.jpg\" ends in none of .svg, .png, .dot and .mmd");
  EXPECT_FALSE(draw_graph(hive, {}, "/nowhere/hive.svg"));
}

// A rule back to its own state must not look like one of the box beside it.
TEST(Graph, ALoopStaysWithItsStateAndAnArrowIntoAFrameEndsAtItsBorder) {
  std::vector<std::string> files;
  for (const auto& entry : std::filesystem::directory_iterator(MOBRIN_TESTS "/games"))
    files.push_back(entry.path().string());
  for (const char* demo : {"keeper", "hornet", "smoker", "hive"})
    files.push_back(MOBRIN_DEMO "/" + std::string(demo) + ".yaml");
  std::size_t loops = 0, into_frames = 0;
  for (const std::string& file : files) {
    const Loaded loaded = load_character(file);
    if (!loaded.machine) continue;
    const Machine& machine = *loaded.machine;
    const std::string svg = *graph_svg(machine, {});
    for (std::size_t t = 0; t < machine.transitions().size(); ++t) {
      const TransitionInfo& rule = machine.transitions()[t];
      if (rule.to == "back" || rule.to.ends_with("/last")) continue;
      const StateInfo &owner = machine.states()[rule.owner], &target = machine.states()[rule.target];
      const std::size_t arrow = group(svg, "t" + std::to_string(t));
      if (rule.owner == rule.target && !owner.has_children) {
        ++loops;
        Box room = span_of(svg, group(svg, owner.path), "d");
        room.left = room.right, room.right += 40;
        EXPECT_TRUE(room.holds(span_of(svg, arrow, "d"), 0.5)) << file << ' ' << owner.path << " rule " << t;
      }
      if (target.has_children && !(owner.path + "/").starts_with(target.path + "/")) {
        ++into_frames;
        const Box frame = span_of(svg, group(svg, target.path), "d"), tip = span_of(svg, arrow, "points");
        EXPECT_FALSE(frame.holds(tip, -4)) << file << ' ' << owner.path << " -> " << target.path;
        EXPECT_TRUE(frame.holds(tip, 8)) << file << ' ' << owner.path << " -> " << target.path;
      }
    }
  }
  EXPECT_GE(loops, 8u);
  EXPECT_GE(into_frames, 15u);
}

}  // namespace
}  // namespace mobrin::test
