// No key is passed over without a word: whatever key of the format is added to whatever map of a machine, the machine
// becomes another one, or something is told.
#include <array>
#include <fstream>
#include <map>
#include <set>

#include "mobrin/pack/pack.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// A map for each `@SECTION`; what is tried is written in its place.
const char* const kMachine = R"({@machine mobrin: 1, machine: m, unit: 32px,
inputs: {v: {@input float: 0, min: 0, max: 10}, i: {@input int: 0, min: 0, max: 10}, b: {@input bool: false},
  p: {@input pulse: 100ms}, q: {@input pulse: 0s}, c: {@input one_of: [x, y]}},
cues: {hit: {kind: damage, reach: r}, s: {kind: sound}, sp: {kind: effect}},
clips: {k: {@clip sheet: k.png, tile: [48, 40], frames: [0-3], fps: 10, play: loop},
  o: {@clip sheet: k.png, tile: [48, 40], frames: [8-13], fps: 10, play: once},
  l: {@clip length: 1s, play: loop},
  im: {@clip images: [a.png, b.png], times: [100ms, 200ms], play: loop},
  pt: {@clip part: {@part of: o, frames: [1-2]}, play: once},
  pl: {@clip part: {@part of: l, from: 100ms, to: 200ms}, play: loop}},
marks: {o: {@marks pivot: [3, 3], cues: {1: s}, windows: {w: 1-2}, spans: {sp: 1-2},
  boxes: [{@box name: h, role: hurt, rect: [0, 0, 3, 3]}, {@box name: hh, role: hit, circle: [0, 0, 3]}],
  tracks: {lid: {@track keys: {0: 1, 2: 2}}}}},
reaches: {r: {@reach cone: {@cone length: 30, angle: 60}}, r2: {@reach circle: [0, 0, 4]}, r3: {@reach rect: [0, 0, 3, 3]}},
zones: {z: {@zone circle: [0, 0, 20], inside: b}, z2: {@zone rect: [0, 0, 20, 20], enter: p}},
looks: {lk: {@look when: b, art: {k.png: pale.png}}},
vars: {n: 0}, initial: a, states: {
a: {@state clip: k, go: [{@go pulse: p, to: d}, {@go when: b, to: e}, {@go when: i > 5, to: f}, {@go pulse: q, to: g}]},
d: {@state clip: o, go: [{@go at: end, to: a}, {@go pulse: p, during: w, to: e}, {@go cue: s, when: v > 3, to: f}]},
e: {@state length: 500ms, go: [{@go after: 200ms, to: a}, {@go at: end, to: f}]},
f: {@state go: [{@go when: v < 1, to: a}, {@go when: i == 0, to: h}, {@go pulse: q, to: pz}]},
g: {@state initial: g1, states: {g1: {@state clip: k, go: [{@go pulse: p, to: g2}]}, g2: {@state clip: im, go: [{@go pulse: q, to: a}]}}},
h: {@state regions: {x: {@region initial: x1, states: {x1: {@state clip: k, go: [{@go pulse: p, to: x2}]}, x2: {@state clip: pl}}},
  y: {@region states: {y1: {@state clip: l}}}}, go: [{@go when: b and i > 3, to: bl}]},
bl: {@state blend: {@blend x: v, points: [{@blend_point at: 0, clip: k}, {@blend_point at: 10, clip: im}]},
  go: [{@go when: not b, to: fin}, {@go pulse: q, to: pt}]},
pt: {@state clip: pt, go: [{@go at: end, to: a}]},
pz: {@state pose: {clip: o, frame: 2}, go: [{@go pulse: q, to: a}]},
fin: {@state clip: o, final: true, linger: 1s}}})";

// A value of each key that is another one than without it; those of a type have one in common.
const std::map<std::string, std::string> kValues = {{"use", "[other.yaml]"},
                                                    {"sheets", "{sh: {image: k.png, rects: {t: [0, 0, 2, 2]}}}"},
                                                    {"keys", "{p: space}"},
                                                    {"cues", "{0: s}"},
                                                    {"claims", "{cc: {never: in(a) and in(d)}}"},
                                                    {"assume", "[b or not b]"},
                                                    {"enter", "[n = n + 1]"},
                                                    {"exit", "[n = n + 1]"},
                                                    {"each_loop", "[n = n + 1]"},
                                                    {"do", "[n = n + 1]"},
                                                    {"go", "[{pulse: q, to: a}]"},
                                                    {"states", "{zz: {clip: k}}"},
                                                    {"regions", "{zz: {states: {z1: {clip: k}}}}"},
                                                    {"vars", "{m: 1}"},
                                                    {"initial", "b"},
                                                    {"clip", "o"},
                                                    {"pose", "o"},
                                                    {"blend", "{x: v, points: [{at: 0, clip: k}, {at: 1, clip: im}]}"},
                                                    {"during", "1-2"},
                                                    {"start", "same"},
                                                    {"at", "end"},
                                                    {"sheet", "k.png"},
                                                    {"tile", "[24, 20]"},
                                                    {"images", "[a.png, b.png]"},
                                                    {"animation", "x.gif"},
                                                    {"frames", "[1-2]"},
                                                    {"fps", "7"},
                                                    {"times", "[50ms, 60ms]"},
                                                    {"part", "{of: o, frames: [1-2]}"},
                                                    {"play", "loop x3"},
                                                    {"offsets", "{1: [1, 0]}"},
                                                    {"tracks", "{q: {keys: {0: 1, 1: 3}}}"},
                                                    {"spans", "{sp: 0-1}"},
                                                    {"boxes", "[{name: n, role: hurt, rect: [0, 0, 2, 2]}]"},
                                                    {"windows", "{w2: 0-1}"},
                                                    {"cone", "{length: 20, angle: 40}"},
                                                    {"curve", "step"},
                                                    {"points", "[{at: 0, clip: k}]"},
                                                    {"art", "{b.png: c.png}"},
                                                    {"unit", "16px"},
                                                    {"machine", "other"},
                                                    {"looks", "{l2: {when: i > 1, art: {b.png: c.png}}}"},
                                                    {"of", "k"},
                                                    {"prints", "[x]"},
                                                    {"inputs", "{zz: false}"},
                                                    {"clips", "{zz: {length: 1s}}"},
                                                    {"marks", "{k: {pivot: [1, 1]}}"},
                                                    {"reaches", "{zz: {circle: [0, 0, 9]}}"},
                                                    {"zones", "{zz: {circle: [0, 0, 9], inside: b}}"},
                                                    {"inputs", "{zz: false}"},
                                                    {"clips", "{zz: {length: 1s}}"},
                                                    {"marks", "{k: {pivot: [1, 1]}}"},
                                                    {"reaches", "{zz: {circle: [0, 0, 9]}}"},
                                                    {"zones", "{zz: {circle: [0, 0, 9], inside: b}}"}};
const std::map<std::string, std::string> kValuesOfTypes = {{"name", "s"},
                                                           {"name or list of names", "[zz]"},
                                                           {"expression", "v > 2"},
                                                           {"number", "2"},
                                                           {"text", "x.yaml"},
                                                           {"duration, as `110ms` or `1.5s`", "70ms"},
                                                           {"true or false", "true"},
                                                           {"[x, y]", "[4, 5]"},
                                                           {"whole number", "2"},
                                                           {"[x, y, radius]", "[1, 1, 5]"},
                                                           {"[left, bottom, width, height]", "[0, 0, 7, 7]"},
                                                           {"`entered` or `both`", "both"}};
// Of the tools, not of the machine; or made by an import.
const std::set<std::string> kAsTheyAre = {"mobrin", "accept", "claims", "assume", "keys", "prints", "clip.from",
                                          "machine.sheets",
                                          // Who stays is left by nobody.
                                          "state.sealed"};

// The keys of each section with their types, as docs/format.md lists them.
std::vector<std::array<std::string, 3>> keys_of_format() {
  std::vector<std::array<std::string, 3>> out;
  std::ifstream in(std::string(MOBRIN_TESTS) + "/../docs/format.md");
  std::string section;
  for (std::string line; std::getline(in, line);) {
    const std::string begin = "<!-- keys: ";
    if (line.starts_with(begin)) section = line.substr(begin.size(), line.find(' ', begin.size()) - begin.size());
    if (line.starts_with("<!-- end")) section.clear();
    if (section.empty() || !line.starts_with("| `")) continue;
    const std::size_t key_end = line.find("` | "), type = key_end + 4;
    out.push_back({section, line.substr(3, key_end - 3), line.substr(type, line.find(" | ", type) - type)});
  }
  return out;
}

// What it is, without places in its file, and what is told of it without them.
std::string machine_with(const std::string& text) {
  const Loaded loaded = load_character_text(text, "m.yaml");
  std::string out;
  for (const Finding& finding : loaded.findings) out += finding.message + '\n';
  if (!loaded.machine) return out;
  for (const std::byte each : pack(*loaded.machine, {false})) out += static_cast<char>(each);
  for (const ClipInfo& clip : loaded.machine->clips())
    for (const FrameDef& frame : clip.def.frames)
      out += frame.art.source + frame.art.tile + std::to_string(frame.art.margin) + std::to_string(frame.art.spacing);
  return out;
}

TEST(Keys, AreNeverPassedOverWithoutAWord) {
  const std::string all = kMachine;
  const auto with = [&](std::size_t which, const std::string& words) {
    std::string out;
    std::size_t at = 0;
    for (std::size_t i = 0;; ++i) {
      const std::size_t next = all.find('@', at);
      out += all.substr(at, next - at);
      if (next == std::string::npos) return out;
      at = all.find(' ', next);
      if (i == which) out += words;
    }
  };
  const std::string plain = machine_with(with(SIZE_MAX, ""));
  ASSERT_EQ(plain.find("no key"), std::string::npos);
  ASSERT_TRUE(plain == machine_with(with(3, "")));
  const auto keys = keys_of_format();
  std::size_t tried = 0, which = 0;
  for (std::size_t at = all.find('@'); at != std::string::npos; at = all.find('@', at + 1), ++which) {
    const std::string section = all.substr(at + 1, all.find(' ', at) - at - 1);
    for (const auto& [of, key, type] : keys) {
      if (of != section || kAsTheyAre.count(key) > 0 || kAsTheyAre.count(section + "." + key) > 0) continue;
      const auto own = kValues.find(key), common = kValuesOfTypes.find(type);
      ASSERT_TRUE(own != kValues.end() || common != kValuesOfTypes.end()) << section << ' ' << key << ": " << type;
      const std::string value = own != kValues.end() ? own->second : common->second;
      // What is there already is told as standing there a second time.
      EXPECT_TRUE(machine_with(with(which, key + ": " + value + ", ")) != plain)
          << section << " number " << which << ", " << key << ": " << value;
      ++tried;
    }
  }
  EXPECT_GT(tried, 700U);
}

}  // namespace
}  // namespace mobrin::test
