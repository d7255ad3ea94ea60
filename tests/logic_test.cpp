// Findings about logic: each mistake is told at its place, a near miss is not, and nothing that is told happens.
#include "mobrin/check/logic.hpp"

#include "mistake_rows.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

// The findings of a machine as `line code`, hints with a `?`.
std::string logic_of(const std::string& text) {
  const Loaded loaded = loaded_from(text);
  if (!loaded.machine) return "";
  std::string out;
  for (const Finding& finding : logic_findings(*loaded.definition, *loaded.machine)) {
    out += std::to_string(finding.line) + " " + std::string(text_of(finding.code)) + (finding.hint ? "?" : "") + "\n";
    EXPECT_FALSE(finding.remedy.empty());
    EXPECT_FALSE(explain_finding(text_of(finding.code)).empty()) << text_of(finding.code);
  }
  return out;
}

const MistakeRow kLogic[] = {
    {"Unreachable",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: "
     "{go: [{pulse: p, to: a}]}\n",
     "8 unreachable\n",
     "inputs: {p: pulse, q: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}, {pulse: q, to: c}]}\n  b: {go: "
     "[{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n"},
    {"AnIslandIsOneFinding",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: "
     "{go: [{pulse: p, to: d}]}\n  d: {go: [{pulse: p, to: c}]}\n",
     "8 unreachable\n",
     "inputs: {p: pulse, q: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}, {pulse: q, to: c}]}\n  b: {go: "
     "[{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: d}]}\n  d: {go: [{pulse: p, to: c}]}\n"},
    {"NoWayOut",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  "
     "b: {clip: c}\n",
     "8 no-way-out\n",
     "inputs: {p: pulse}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  "
     "b: {clip: c, final: true}\n"},
    {"NoWayOutButToAnEnding",
     "inputs: {p: pulse, dead: false}\ninitial: a\ngo: [{when: dead, to: lie}]\nstates:\n  a: {go: [{pulse: p, to: "
     "b}]}\n  b: {}\n  lie: {final: true}\n",
     "8 no-way-out?\n",
     "inputs: {p: pulse, dead: false}\ninitial: a\ngo: [{when: dead, to: lie}]\nstates:\n  a: {go: [{pulse: p, to: "
     "b}]}\n  b: {go: [{pulse: p, to: a}]}\n  lie: {final: true}\n"},
    {"WaitsAtItsEnd",
     "inputs: {p: pulse, hit: pulse}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\ngo: [{pulse: hit, to: "
     "ow}]\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c}\n  ow: {clip: c, go: [{at: end, to: a}]}\n",
     "9 waits-at-end?\n",
     "inputs: {p: pulse, hit: pulse}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\ngo: [{pulse: hit, to: "
     "ow}]\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c, go: [{at: end, to: a}]}\n  ow: {clip: c, go: [{at: "
     "end, to: a}]}\n"},
    {"WaitsAtItsEndForWhatIsSo",
     "inputs: {p: pulse, dead: false}\ncues: {land: sound}\nclips: {c: {frames: [0-1], fps: 9}, d: "
     "{frames: "
     "[0-1], fps: 9, play: loop}}\nmarks: {d: {cues: {1: land}}}\ninitial: a\ngo: [{when: dead, to: lie}]\nstates:\n  "
     "a: {clip: d, go: [{pulse: p, to: air}]}\n  air: {initial: up, go: [{cue: land, to: a}], states: {up: {clip: "
     "c}}}\n"
     "  lie: {final: true}\n",
     "11 waits-at-end?\n",
     "inputs: {p: pulse, ground: true, dead: false}\ncues: {land: sound}\nclips: {c: {frames: [0-1], fps: 9}, d: "
     "{frames: "
     "[0-1], fps: 9, play: loop}}\nmarks: {d: {cues: {1: land}}}\ninitial: a\ngo: [{when: dead, to: lie}]\nstates:\n  "
     "a: {clip: d, go: [{pulse: p, to: air}, {cue: land, to: lie}]}\n  air: {initial: up, go: [{when: ground, to: a}], "
     "states: {up: {clip: c}}}\n  lie: {final: true}\n"},
    {"NeverHoldsBeyondTheRange",
     "inputs: {h: {int: 6, min: 0, max: 6}}\ninitial: a\nstates:\n  a: {go: [{when: h > 6, to: b}]}\n  b: {go: [{when: "
     "h < 3, to: a}]}\n",
     "6 never-holds\n",
     "inputs: {h: {int: 6, min: 0, max: 6}}\ninitial: a\nstates:\n  a: {go: [{when: h >= 6, to: b}]}\n  b: {go: "
     "[{when: h < 3, to: a}]}\n"},
    {"NeverHoldsAgainstItself",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x > 4 and x < 3, to: b}]}\n  b: {go: [{when: x < 1, to: "
     "a}]}\n",
     "6 never-holds\n",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x > 3 and x < 4, to: b}]}\n  b: {go: [{when: x < 1, to: "
     "a}]}\n"},
    {"NeverHoldsForACueThatNothingTells",
     "cues: {c: sound}\ninitial: a\nstates:\n  a: {go: [{cue: c, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n",
     "3 unused-cue\n6 never-holds\n",
     "cues: {c: sound}\ninitial: a\nstates:\n  a: {enter: [{tell: c}], go: [{cue: c, to: b}]}\n  b: {go: [{after: 1s, "
     "to: a}]}\n"},
    {"AlwaysHolds",
     "inputs: {h: {int: 6, min: 0, max: 6}}\ninitial: a\nstates:\n  a: {go: [{after: 1s, when: h >= 0, to: b}]}\n  b: "
     "{go: [{when: h < 3, to: a}]}\n",
     "6 always-holds?\n",
     "inputs: {h: {int: 6, min: 0, max: 6}}\ninitial: a\nstates:\n  a: {go: [{after: 1s, when: h >= 1, to: b}]}\n  b: "
     "{go: [{when: h < 3, to: a}]}\n"},
    {"ALookThatIsAlwaysOrNeverShown",
     "inputs: {h: {int: 6, min: 0, max: 6}}\nclips: {c: {images: [a.png, b.png], fps: 9, play: loop}}\nlooks: {x: "
     "{when: h "
     "> 6, art: {a.png: d.png}}, y: {when: h >= 0, art: {b.png: d.png}}}\nstates: {a: {clip: c}}\n",
     "5 never-holds\n5 always-holds\n",
     "inputs: {h: {int: 6, min: 0, max: 6}}\nclips: {c: {images: [a.png, b.png], fps: 9, play: loop}}\nlooks: {x: "
     "{when: h "
     "> 5, art: {a.png: d.png}}, y: {when: true, art: {b.png: d.png}}}\nstates: {a: {clip: c}}\n"},
    {"Shadowed",
     "inputs: {x: 0, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x > 1, to: b}, {when: x > 1, to: c}, {pulse: p, "
     "to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n",
     "6 shadowed\n",
     "inputs: {x: 0, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x > 1, to: b}, {when: x < 1, to: c}, {pulse: p, "
     "to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n"},
    {"WrongOrder",
     "inputs: {x: 0, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x > 1, to: b}, {when: x > 5, to: c}, {pulse: p, "
     "to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n",
     "6 wrong-order\n",
     "inputs: {x: 0, p: pulse}\ninitial: a\nstates:\n  a: {go: [{when: x > 5, to: c}, {when: x > 1, to: b}, {pulse: p, "
     "to: c}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{pulse: p, to: a}]}\n"},
    {"ShadowedByAnOuterRule",
     "inputs: {x: 0, p: pulse}\ninitial: a\ngo: [{when: x > 1, to: c}]\nstates:\n  a: {go: [{when: x > 2, to: b}, "
     "{pulse: p, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{when: x < 0, to: a}]}\n",
     "7 shadowed\n",
     "inputs: {x: 0, p: pulse}\ninitial: a\ngo: [{when: x > 1, to: c}]\nstates:\n  a: {go: [{when: x < 0, to: b}, "
     "{pulse: p, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: {go: [{when: x > 2, to: a}]}\n"},
    {"ShadowedByAnOuterRuleThatLeadsInside",
     "inputs: {hit: pulse}\ninitial: a\ngo: [{pulse: hit, to: hurt/stun}]\nstates:\n  a: {go: [{pulse: hit, to: b}, "
     "{after: 1s, to: b}]}\n  b: {go: [{after: 1s, to: a}]}\n  hurt: {initial: stun, go: [{after: 1s, to: a}], states: "
     "{stun: {}}}\n",
     "7 shadowed\n",
     "inputs: {hit: pulse}\ninitial: a\ngo: [{pulse: hit, to: hurt/stun}]\nstates:\n  a: {go: [{after: 1s, to: b}]}\n  "
     "b: {go: [{after: 1s, to: a}]}\n  hurt: {initial: stun, go: [{pulse: hit, to: b}, {after: 1s, to: a}], states: "
     "{stun: {}}}\n"},
    {"AFadeThatRegionsCut",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8, play: loop}}\ninitial: a\nstates:\n  a: {clip: w, go: "
     "[{pulse: p, to: fight, fade: 80ms}]}\n  fight:\n    go: [{pulse: p, to: a, fade: 80ms}]\n    regions:\n      i0: "
     "{initial: b, states: {b: {clip: w, go: [{after: 1s, to: c, fade: 80ms}]}, c: {clip: w, go: [{after: 1s, to: "
     "b}]}}}\n      i1: {states: {d: {clip: w}}}\n",
     "7 hardly-meant?\n9 hardly-meant?\n",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8, play: loop}}\ninitial: a\nstates:\n  a: {clip: w, go: "
     "[{pulse: p, to: fight}]}\n  fight:\n    go: [{pulse: p, to: a}]\n    regions:\n      i0: {initial: b, states: "
     "{b: {clip: w, go: [{after: 1s, to: c, fade: 80ms}]}, c: {clip: w, go: [{after: 1s, to: b}]}}}\n      i1: "
     "{states: {d: {clip: w}}}\n"},
    {"ShadowedByAnOuterRuleUnlessARegionBeforeChangesWhatItAsks",
     "inputs: {p: pulse, q: pulse, x: 0}\nvars: {c: 0}\ngo: [{when: x == 1, to: legs/down}]\nregions:\n  arms:\n    "
     "initial: a\n    states:\n      a: {go: [{pulse: p, to: b, do: [c = 1]}]}\n      b: {go: [{pulse: q, to: a, do: "
     "[c = 0]}]}\n  legs:\n    initial: up\n    states:\n      up: {go: [{when: x == 1, to: side}, {pulse: p, when: c "
     "== 0, to: side}]}\n      down: {go: [{pulse: q, to: up}]}\n      side: {go: [{pulse: q, to: up}]}\n",
     "15 shadowed\n",
     "inputs: {p: pulse, q: pulse}\nvars: {c: 0}\ngo: [{when: c == 1, to: legs/down}]\nregions:\n  arms:\n    "
     "initial: a\n    states:\n      a: {go: [{pulse: p, to: b, do: [c = 1]}]}\n      b: {go: [{pulse: q, to: a, do: "
     "[c = 0]}]}\n  legs:\n    initial: up\n    states:\n      up: {go: [{when: c == 1, to: side}, {pulse: p, when: c "
     "== 0, to: side}]}\n      down: {go: [{pulse: q, to: up}]}\n      side: {go: [{pulse: q, to: up}]}\n"},
    {"ASamePlaceThatRegionsDoNotHave",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8, play: loop}}\ninitial: a\nstates:\n  a: {clip: w, go: "
     "[{pulse: p, to: fight}]}\n  fight:\n    go: [{pulse: p, to: a, start: same}]\n    regions:\n      i0: {initial: "
     "b, states: {b: {clip: w, go: [{after: 1s, to: c, start: same}]},\n        c: {clip: w, go: [{after: 1s, to: b}, "
     "{pulse: p, to: a, start: same}]}}}\n      "
     "i1: {states: {d: {clip: w}}}\n",
     "9 hardly-meant?\n12 hardly-meant?\n",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8, play: loop}}\ninitial: a\nstates:\n  a: {clip: w, go: "
     "[{pulse: p, to: fight}]}\n  fight:\n    go: [{pulse: p, to: a, start: clock}]\n    regions:\n      i0: {initial: "
     "b, states: {b: {clip: w, go: [{after: 1s, to: c, start: same}]}, c: {clip: w, go: [{after: 1s, to: b}, {pulse: "
     "p, to: a}]}}}\n      "
     "i1: {states: {d: {clip: w}}}\n"},
    {"ACountThatWaitsForNothing",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = 0]}]}\n  b:\n    "
     "go:\n      - {when: n < 5, do: [n = n + 1], to: b, restart: true}\n      - {after: 1s, to: a}\n",
     "10 hardly-meant?\n",
     "inputs: {p: pulse, x: 0}\nvars: {n: 0, seen: false}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = "
     "0, seen = false]}]}\n  b:\n    go:\n      - {after: 1s, when: n < 5, do: [n = n + 1], to: b, restart: true}\n"
     "      - {when: not seen, do: [seen = true], to: b, restart: true}\n      - {after: 2s, when: x > 1, to: a}\n"},
    {"AnAfterBelowASoonerOne",
     "initial: a\nstates:\n  a: {go: [{after: 1s, to: b}, {after: 2s, to: c}]}\n  b: {go: [{after: 1s, to: c}]}\n  c: "
     "{go: [{after: 1s, to: a}]}\n",
     "5 wrong-order\n",
     "initial: a\nstates:\n  a: {go: [{after: 2s, to: b}]}\n  b: {go: [{after: 1s, to: c}]}\n  c: {go: [{after: 1s, "
     "to: a}]}\n"},
    {"Flicker",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x > 5, to: b}]}\n  b: {go: [{when: x <= 5, to: a}]}\n",
     "6 flicker?\n",
     "inputs: {x: 0.5}\ninitial: a\nstates:\n  a: {go: [{when: x > 6, to: b}]}\n  b: {go: [{when: x <= 5, to: a}]}\n"},
    {"UnusedWhole",
     "clips: {long: {length: 2s}, half: {part: {of: long, to: 1s}}, end: {part: {of: half, from: 0.5s}}, k: {length: "
     "1s}}\nstates: {a: {clip: k}}\n",
     "3 unused-clip\n3 unused-clip\n3 unused-clip\n",
     "clips: {long: {length: 2s}, half: {part: {of: long, to: 1s}}, end: {part: {of: half, from: 0.5s}}}\nstates: {a: "
     "{clip: end}}\n"},
    {"Unused",
     "inputs: {x: 0, q: pulse, p: pulse}\nvars: {v: 0}\ncues: {c: {kind: sound}}\nreaches: {r: {circle: [0, 0, "
     "4]}}\nclips: {w: {frames: [0-1], fps: 9, play: loop}, k: {frames: [0-1], fps: 9}}\n"
     "marks: {w: {windows: {u: 0}}}\ninitial: a\nstates:\n  a: {clip: w, go: [{pulse: p, to: b}]}\n  b: {go: [{pulse: "
     "p, to: a}]}\n",
     "3 unused-input\n3 unused-input\n4 unused-var\n5 unused-cue\n6 unused-reach\n7 unused-clip\n8 unused-window\n",
     "inputs: {x: 0, q: pulse, p: pulse}\nvars: {v: 0}\ncues: {c: {kind: sound, reach: r}}\nreaches: {r: {circle: [0, "
     "0, "
     "4]}}\nclips: {w: {frames: [0-1], fps: 9, play: loop}, k: {frames: [0-1], fps: 9}}\n"
     "marks: {w: {cues: {1: c}, windows: {u: 0}}}\ninitial: a\nstates:\n  a: {clip: w, go: [{pulse: p, during: u, "
     "when: x "
     "> 2, to: b}, {pulse: q, to: b}]}\n  b: {clip: k, go: [{pulse: p, when: v < 3, to: a, do: [v = 3 - v]}]}\n"},
    {"LooksMisspelt",
     "inputs: {p: pulse}\ncues:\n  a: {knd: damage}\n  b: {kind: damge}\n  c: {Kind: sound}\n  d: {kind: damage, "
     "raech: "
     "r}\n  e: {kind: spawn, form: [1, 2], waht: bee}\n  f: impluse\n  g: {kind: sound, fil: hum.wav}\nreaches: {r: "
     "{circle: [0, 0, 4]}}\ninitial: x\nstates:\n  x: {traits: [daed], enter: [{tell: a}, {tell: b}, {tell: c}, {tell: "
     "d}, {tell: e}, {tell: f}, {tell: g}], go: [{pulse: p, to: y}]}\n  y: {go: [{pulse: p, to: x}]}\n",
     "5 looks-misspelt\n6 looks-misspelt\n7 looks-misspelt\n8 looks-misspelt\n9 looks-misspelt\n9 looks-misspelt\n10 "
     "looks-misspelt\n11 looks-misspelt\n12 unused-reach\n15 looks-misspelt\n",
     "cues:\n  a: {kind: damage}\n  b: {kind: round, wind: 3, mind: left}\n  c: {wind: 3}\n  d: "
     "{kind: damage, reach: r}\n  e: {kind: spawn, from: [1, 2], form: [1, 2]}\n  f: spark\n  g: {kind: sound, file: "
     "hum.wav, fil: no}\n  h: {kind: sounds, accept: [looks-misspelt]}\n  i: damages\n  j: damages\n  k: damages\n"
     "reaches: {r: {circle: [0, 0, 4]}}\ninitial: x\nstates:\n  x: {traits: [dead, lead, heard], enter: [{tell: a}, "
     "{tell: b}, {tell: c}, {tell: d}, {tell: e}, {tell: f}, {tell: g}, {tell: h}, {tell: i}, {tell: j}, {tell: "
     "k}]}\n"},
    {"LooksMisspeltBesideOthers",
     "inputs: {p: pulse}\nclips: {k: {length: 1s}, n: {length: 1s}}\n"
     "cues:\n  a: {kind: hum, volume: 1}\n  b: {kind: hum, volume: 2}\n  c: {kind: hum, volum: 2}\n"
     "marks:\n  k:\n    boxes:\n      - {name: body, role: hurt, rect: [0, 0, 4, 4]}\n"
     "      - {name: net, role: hitbox, rect: [0, 0, 4, 4]}\n      - {name: tail, role: hrut, rect: [0, 0, 4, 4]}\n"
     "  n:\n    boxes:\n      - {name: body, role: hurt, rect: [0, 0, 4, 4]}\n"
     "      - {name: bdoy, role: hurt, rect: [0, 0, 4, 4]}\n"
     "      - {name: jaw, role: hit, spares: [sefl], rect: [0, 0, 4, 4]}\n"
     "initial: x\nstates:\n  x: {clip: k, traits: [busy], enter: [{tell: a}, {tell: b}, {tell: c}], go: [{at: end, to: "
     "y}]}\n"
     "  y: {clip: n, traits: [busy], go: [{at: end, to: z}]}\n  z: {traits: [buy, Busy], go: [{pulse: p, to: x}]}\n",
     "8 looks-misspelt\n13 looks-misspelt\n14 looks-misspelt\n18 looks-misspelt\n19 looks-misspelt\n24 "
     "looks-misspelt\n24 looks-misspelt\n",
     "inputs: {p: pulse}\nclips: {k: {length: 1s}, n: {length: 1s}}\n"
     "cues:\n  a: {kind: hum, volume: 1}\n  b: {kind: hum, volume: 2}\n  c: {kind: hum, tone: 2}\n"
     "marks:\n  k:\n    boxes:\n      - {name: wing_l, role: hurt, rect: [0, 0, 4, 4]}\n"
     "      - {name: wing_r, role: wind, rect: [0, 0, 4, 4]}\n      - {name: leg1, role: hurt, rect: [0, 0, 4, 4]}\n"
     "  n:\n    boxes:\n      - {name: wing_l, role: hurt, rect: [0, 0, 4, 4]}\n"
     "      - {name: leg2, role: grab, rect: [0, 0, 4, 4]}\n      - {name: leg1, role: body2, rect: [0, 0, 4, 4]}\n"
     "      - {name: jaw, role: hit, spares: [self, shelf_bee], rect: [0, 0, 4, 4]}\n"
     "initial: x\nstates:\n  x: {clip: k, traits: [busy, wings, walk], enter: [{tell: a}, {tell: b}, {tell: c}], go: "
     "[{at: end, to: y}]}\n"
     "  y: {clip: n, traits: [busy, wings, walk], go: [{at: end, to: z}]}\n  z: {traits: [wing, wall, easy], go: "
     "[{pulse: p, to: x}]}\n"},
    {"OnlyGrows",
     "inputs: {p: pulse}\nvars: {n: 0, k: 9}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: n < 3, to: b, do: [n = "
     "n + "
     "1, k = k - 2]}]}\n  b: {enter: [n = n + 2], go: [{pulse: p, when: k > 0, to: a}]}\n",
     "4 stays-set?\n",
     "inputs: {p: pulse}\nvars: {n: 0, k: 9}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: n < 3, to: b, do: [n = "
     "n + "
     "1, k = k - 2]}]}\n  b: {enter: [n = n - 2], go: [{pulse: p, when: k > 0, to: a}]}\n"},
    {"OnlyGrowsToItsEnd",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\ngo: [{when: n > 2, to: z}]\nstates:\n  a: {go: [{pulse: p, to: b, "
     "do: [n = n + 1]}]}\n  b: {go: [{pulse: p, to: a}]}\n  z: {go: [{pulse: p, to: a}]}\n",
     "4 stays-set?\n",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\ngo: [{when: n > 2, to: z}]\nstates:\n  a: {go: [{pulse: p, to: b, "
     "do: [n = n + 1]}]}\n  b: {go: [{pulse: p, to: a}]}\n  z: {final: true}\n"},
    {"NeverSet",
     "inputs: {p: pulse}\nvars: {seen: false, most: 3, n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: not "
     "seen "
     "and n < most, to: b, do: [n = n + 1]}]}\n  b: {go: [{pulse: p, to: a, do: [n = 0]}]}\n",
     "4 never-set\n4 never-set?\n",
     "inputs: {p: pulse}\nvars: {seen: false, most: 3, n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: not "
     "seen "
     "and n < most, to: b, do: [n = n + 1, seen = n > 2]}]}\n  b: {go: [{pulse: p, to: a, do: [n = 0, most = 4, most = "
     "3]}]}\n"},
    {"CountedForNobody",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = n + 1]}]}\n  b: "
     "{go: "
     "[{pulse: p, to: a}]}\n",
     "4 unused-var?\n",
     "inputs: {p: pulse}\nvars: {n: 0, k: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = n + 1, k = k "
     "+ "
     "n]}]}\n  b: {go: [{pulse: p, when: k < 9, to: a, do: [n = 0]}]}\n"},
    {"CountedForAClaim",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = n + 1]}]}\n  b: "
     "{go: "
     "[{pulse: p, to: a}]}\nclaims: {it is: {never: in(a) and in(b)}}\n",
     "4 unused-var?\n",
     "inputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b, do: [n = n + 1]}]}\n  b: "
     "{go: "
     "[{pulse: p, to: a}]}\nclaims: {it is: {always: n >= 0}}\n"},
    {"StaysSet",
     "inputs: {p: pulse}\nvars: {seen: false}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: not seen, to: b, do: "
     "[seen = true]}]}\n  b: {go: [{pulse: p, to: a}]}\n",
     "4 stays-set?\n",
     "inputs: {p: pulse}\nvars: {seen: false}\ninitial: a\nstates:\n  a: {go: [{pulse: p, when: not seen, to: b, do: "
     "[seen = true]}]}\n  b: {go: [{pulse: p, to: a, do: [seen = false]}]}\n"},
    {"HitsTwice",
     "cues: {one: {kind: damage}, two: {kind: damage}}\nclips: {c: {frames: [0-3], fps: 9, play: loop}}\nmarks: {c: "
     "{cues: {0: one, 2: two}}}\nstates:\n  a: {clip: c}\n",
     "4 hits-twice?\n",
     "cues: {one: {kind: damage}, two: {kind: sound}}\nclips: {c: {frames: [0-3], fps: 9, play: loop}}\nmarks: {c: "
     "{cues: {0: one, 2: two}}}\nstates:\n  a: {clip: c}\n"},
    {"ARuleToWhatIsActiveAlready",
     "inputs: {p: pulse, x: false}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\nstates:\n  a: {clip: c, go: "
     "[{pulse: p, to: a}, {when: x, to: b}]}\n  b: {clip: c, go: [{pulse: p, to: a}, {at: end, to: b}]}\n",
     "7 never-holds\n8 never-holds\n",
     "inputs: {p: pulse, x: false}\nclips: {c: {frames: [0-1], fps: 9}}\ninitial: a\nstates:\n  a: {clip: c, go: "
     "[{pulse: p, to: a, restart: true}, {when: x, to: b}]}\n  b: {clip: c, go: [{at: end, to: b}, {pulse: p, to: "
     "a}]}\n"},
    {"ACueThatARuleCutsOff",
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {2: t}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c, go: [{after: 150ms, to: a}]}\n",
     "10 unreached-cue\n",
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {2: t}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c, go: [{after: 200ms, to: a}]}\n"},
    {"ACueThatARuleAroundItCutsOffAtTwiceThePace",
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {spans: {t: 2-3}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    go: [{after: 99ms, to: a}]\n    states: {i: "
     "{clip: c, speed: 2}}\n",
     "11 unreached-cue\n",
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {spans: {t: 2-3}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    go: [{after: 100ms, to: a}]\n    states: {i: "
     "{clip: c, speed: 2}}\n"},
    {"ACueThatIsCutOffHereAndToldThere",
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {2: t}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c, go: [{after: 150ms, to: d}]}\n  d: {clip: "
     "c, go: [{at: end, to: a}]}\n",
     "10 unreached-cue?\n",
     // What fades out goes on telling; and who begins within a clip may come to all of it.
     "inputs: {p: pulse}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10}}\nmarks: {c: {cues: {2: t}}}\n"
     "initial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {clip: c, go: [{after: 150ms, to: a, fade: 60ms, "
     "cues: both}]}\n  d: {accept: [unreachable], clip: c, go: [{after: 50ms, to: e}]}\n  e: {"
     "clip: c, go: [{after: 150ms, to: a}, {pulse: p, to: e, restart: true, start: 1}]}\n"},
    {"ACueInAnotherDirection",
     "cues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\nmarks: {c: {cues: {2: {t: {way: "
     "backward}}}}}\nstates:\n  a: {clip: c}\n",
     "5 unreached-cue\n",
     "cues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10, play: back-and-forth}}\nmarks: {c: {cues: {2: {t: {way: "
     "backward}}}}}\nstates:\n  a: {clip: c}\n"},
    {"ForwardOnlyOnAClipThatPlaysBackwards",
     "cues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\nmarks: {c: {cues: {2: {t: {way: "
     "forward}}}}}\nstates:\n  a: {clip: c, speed: -0.5}\n",
     "5 unreached-cue\n",
     "inputs: {x: 1.0}\ncues: {t: sound}\nclips: {c: {frames: [0-3], fps: 10, play: loop}}\nmarks: {c: {cues: {2: {t: "
     "{way: forward}}}}}\nstates:\n  a: {clip: c, speed: x}\n"},
    {"RulesThatComeTooLate",
     "inputs: {p: pulse}\nclips: {w: {frames: [0-3], fps: 8}, l: {frames: [0-3], fps: 8, play: loop}}\ninitial: a\n"
     "marks: {w: {windows: {late: 3}}}\n"
     "states:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    clip: w\n    go:\n      - {after: 2s, to: c}\n      - "
     "{pulse: p, during: late, to: c}\n      - {after: 200ms, to: a}\n      - {at: end, to: c}\n  c:\n    clip: l\n"
     "    go:\n      - {pulse: p, during: 3, to: a}\n      - {after: 200ms, to: a}\n      - {at: loop, to: b}\n",
     "13 never-holds\n15 never-holds\n19 never-holds\n21 never-holds\n",
     "inputs: {p: pulse, x: false}\nclips: {w: {frames: [0-3], fps: 8}, l: {frames: [0-3], fps: 8, play: loop}}\n"
     "initial: a\nmarks: {w: {windows: {late: 3}}}\n"
     "states:\n  a: {go: [{pulse: p, to: b}]}\n  b:\n    clip: w\n    go:\n      - {after: 100ms, when: x, to: c}\n"
     "      - {pulse: p, during: late, to: c}\n      - {after: 600ms, to: a}\n      - {at: end, to: c}\n  c:\n    "
     "clip: l\n    go:\n      - {pulse: p, during: 3, to: a}\n      - {after: 500ms, to: a}\n      - {at: loop, to: "
     "b}\n"},
    {"ValuesThatAreHardlyMeant",
     "inputs: {p: {pulse: 80s}}\nclips: {c: {sheet: bees.png, tile: [20, 10], frames: [0-3], fps: 9, play: loop}}\n"
     "marks:\n  c: {pivot: [0.5, 1], boxes: [{name: b, role: hit, hits: [bee], spares: [self, bee], rect: [0, 0, 4, "
     "4]}]}\nreaches: {r: {circle: [0, 0, 4], hits: [bee, wasp], spares: [wasp, bee]}}\ncues: {s: {kind: damage, "
     "reach: r}}\nstates:\n  a: {clip: c, go: [{pulse: p, to: a, restart: true}], enter: [{tell: s}]}\n",
     "3 hardly-meant?\n6 hardly-meant\n6 hardly-meant\n7 hardly-meant\n",
     "inputs: {p: {pulse: 3s}}\nclips: {c: {sheet: bees.png, tile: [20, 10], frames: [0-3], fps: 9, play: loop}}\n"
     "marks:\n  c: {pivot: [1, 0], boxes: [{name: b, role: hit, hits: [bee, wasp], spares: [self, bee], rect: [0, 0, "
     "4, "
     "4]}]}\nreaches: {r: {circle: [0, 0, 4], spares: [wasp, bee]}}\ncues: {s: {kind: strike, "
     "reach: r}}\nstates:\n  a: {clip: c, go: [{pulse: p, to: a, restart: true}], enter: [{tell: s}]}\n"},
    {"ValuesInOtherUnits",
     "inputs: {x: {float: 0, min: 0, max: 0}, y: {float: 0, min: 0, max: 1, grain: 2}, n: false}\n"
     "clips: {c: {frames: [0-3], fps: 0.08, play: loop}}\nmarks: {c: {boxes: [{name: b, role: hurt, rect: [0, 0, 0.5, "
     "0.8]}]}}\nreaches: {r: {cone: {length: 20, angle: 1.5}}, s: {circle: [0, 0, 1.5]}}\n"
     "zones: {z: {circle: [0, 0, 2], inside: n}}\n"
     "cues: {t: {kind: damage, reach: r}, u: {kind: damage, reach: s}}\n"
     "states:\n  a: {clip: c, speed: 50, enter: [{tell: t}, {tell: u}], go: [{when: n and x > y, to: a, restart: "
     "true}]}\n",
     "3 hardly-meant\n3 hardly-meant\n4 hardly-meant\n5 hardly-meant\n6 hardly-meant\n6 hardly-meant\n7 "
     "hardly-meant\n10 hardly-meant\n",
     "inputs: {x: {float: 0, min: 0, max: 1}, y: {float: 0, min: 0, max: 1, grain: 0.5}, n: false}\n"
     "clips: {c: {frames: [0-3], fps: 0.5, play: loop}}\nmarks: {c: {boxes: [{name: b, role: hurt, rect: [0, 0, 1.5, "
     "0.8]}]}}\nreaches: {r: {cone: {length: 20, angle: 10}}, s: {circle: [0, 0, 3]}}\n"
     "zones: {z: {circle: [0, 0, 20], inside: n}}\n"
     "cues: {t: {kind: damage, reach: r}, u: {kind: damage, reach: s}}\n"
     "states:\n  a: {clip: c, speed: 8, enter: [{tell: t}, {tell: u}], go: [{when: n and x > y, to: a, restart: "
     "true}]}\n"},
    {"HardlyMeantIsAccepted",
     "inputs: {x: {float: 0, min: 0, max: 0, accept: [hardly-meant]}, p: {pulse: 9s, accept: [hardly-meant]}}\n"
     "clips: {c: {frames: [0-3], fps: 0.1, play: loop, accept: [hardly-meant, unreached-cue]}}\n"
     "marks: {c: {pivot: [0.5, 0.5], cues: {1: {t: {way: backward}}}, boxes: [{name: b, role: hurt, rect: [0, 0, 0.5, "
     "0.8]}]}}\nreaches: {r: {circle: [0, 0, 1.5], accept: [hardly-meant]}}\ncues: {t: {kind: damage, reach: r}}\n"
     "vars: {n: 0.0}\nstates:\n  a: {clip: c, speed: 50, accept: [hardly-meant], enter: [n = n + x], go: [{pulse: p, "
     "when: n < 2, to: a, restart: true}]}\n",
     "", ""},
    {"AcceptIsHonoured",
     "accept: [unused-input x]\ninputs: {x: 0, p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: "
     "{go: [{pulse: p, to: a}]}\n  c: {accept: [unreachable], go: [{pulse: p, to: a}]}\n",
     "", ""},
    {"AnIdleAcceptIsTold",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {accept: [unreachable], go: [{pulse: p, to: b}]}\n  b: {go: "
     "[{pulse: p, to: a}]}\n",
     "6 idle-accept\n",
     "inputs: {p: pulse}\ninitial: a\nstates:\n  a: {go: [{pulse: p, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n  c: "
     "{accept: [unreachable], go: [{pulse: p, to: a}]}\n"},
    {"AStandingOuterRuleHidesNothing",
     "inputs: {x: 0, p: pulse}\ninitial: a\ngo: [{when: x > 1, to: c}]\nstates:\n  a: {go: [{pulse: p, to: c}]}\n  c: "
     "{go: [{when: x > 2, to: a}, {pulse: p, to: a}]}\n",
     "", ""},
};

class LogicRows : public testing::TestWithParam<MistakeRow> {};
TEST_P(LogicRows, TellTheMistakeAndNotTheNearMiss) { tells_the_mistake_and_not_the_near_miss(GetParam(), logic_of); }
INSTANTIATE_TEST_SUITE_P(All, LogicRows, testing::ValuesIn(kLogic), name_of_row);

TEST(LogicFindings, TheDemosMachinesAreClean) {
  for (const char* name : {"keeper", "hornet", "hive", "smoker", "puff", "marsh_hornet"}) {
    const Loaded loaded = load_character(std::string(MOBRIN_DEMO "/") + name + ".yaml");
    for (const Finding& finding : logic_findings(*loaded.definition, *loaded.machine))
      EXPECT_TRUE(finding.hint) << finding.text();
  }
}

}  // namespace
}  // namespace mobrin::test
