#!/usr/bin/env python3
"""The words of the tool for what the demo does not have: a machine with one of everything, all that can be written to a
run, and each reason why a rule was not taken."""
import json
import sys
import unittest

from tool_case import SECOND, ToolCase, run

MOTH = """mobrin: 1
machine: moth
inputs: {dx: {float: 0, min: -1, max: 1}, dy: {float: 0, min: -1, max: 1}, near: false, lamp: pulse, count: {int: 0, min: 0, max: 9}, wing: {one_of: [dry, wet]}}
cues: {flap: {kind: sound, gain: 0.5}, dust: trail, glint: {kind: light, at: [1, 2.5]}}
clips:
  hover: {frames: [0-3], fps: 8, play: loop}
  dart: {frames: [0*2, 1, 2], fps: 8, play: loop}
  turn: {frames: [0-2], times: [100ms, 50ms, 150ms]}
  lid: {length: 400ms, play: back-and-forth x2}
marks:
  hover:
    pivot: [8, 12]
    offset: [1, -2]
    offsets: {1-2: [0, 3]}
    cues: {1: flap, 3.end: {glint: {at: [3, 4]}}, 0.2s: flap}
    spans: {dust: 1-2}
    windows: {open: [0-1, 3]}
    boxes: [{name: body, role: body, circle: [0, 6, 5]}, {name: sting, role: hit, frames: 2-3, rect: [4, 2, 6, 3], hits: [bees], every: 200ms}]
  lid:
    tracks: {angle: {curve: cubic, keys: {0s: [0, 0, 1], 0.4s: [1, 40, 0]}}, lift: {keys: {0s: 0, 0.2s: 3}}}
reaches: {bite: {cone: {length: 20, angle: 60}, hits: [bees], spares: [queen]}}
zones: {glow: {circle: [0, 0, 30], tags: [bees], inside: near, enter: lamp}, hall: {rect: [-5, 0, 10, 8], inside: count}}
looks: {wet: {when: wing == wet, art: {moth.png: moth_wet.png}}}
vars: {tired: 0.5, laps: 0, lit: false}
initial: fly
states:
  fly:
    blend: {x: dx, y: dy, points: [{at: [0, 0], clip: hover}, {at: [1, 0], clip: dart, mirror: true}, {at: [0, 1], clip: dart, backward: true}], floor: 0.05, cues_above: 0.3}
    enter: ["tired = tired + 0.1", {tell: {flap: {gain: 0.25}}}]
    go: [{pulse: lamp, to: rest, start: 2, fade: 80ms, cues: both}, {when: near, during: open, to: fold}]
  rest:
    clip: {by: wing, dry: turn, wet: turn}
    speed: 0.5 + tired
    traits: [calm, still]
    exit: laps = laps + 1
    go: [{at: end, to: fly, do: [lit = true, {tell: glint}]}]
  fold: {clip: [turn, lid], go: [{after: 2s, to: gone}, {at: end, to: pose}]}
  pose: {pose: {clip: turn, frame: 1}, go: [{when: not near, to: back}]}
  gone: {final: true, linger: 1s}
"""

LISTED = """
inputs
  dx        float, starts 0.0, from -1.0 to 1.0
  dy        float, starts 0.0, from -1.0 to 1.0
  near      bool, starts false
  lamp      pulse
  count     int, starts 0, from 0 to 9
  wing      one of dry, wet; starts dry

states  begins in fly
  anywhere
              vars tired = 0.5, laps = 0, lit = false
  fly       clips blend: hover, dart, dart
              blend by dx and dy: hover at 0, 0, dart at 1, 0 mirrored, dart at 0, 1 backward; none below 0.05; cues of all from 0.3 on
              on entry tired = tired + 0.1; tell flap {gain: 0.25}
              to rest  pulse: lamp, fade: 80ms, start: 2, cues: both
              to fold  when: near, during: open
  rest      clips by wing: turn, turn; is calm, still
              speed 0.5 + tired
              on exit laps = laps + 1
              to fly  at: end, do: lit = true; tell glint
  fold      clips turn, lid
              to gone  after: 2s
              to pose  at: end
  pose      pose turn 1
              to back  when: not near
  gone      final
              lingers 1 s

clips
  hover       0.500 s  loop, 4 frames, 8 fps
                       pivot 8, 12
                       offset 1, -2
                       box body (body)  circle [0, 6, 5]
              0.000 s  window open  at 0-1
              0.125 s  offset 0, 3  at 1-2
              0.125 s  flap at frame 1
              0.125 s  dust at frames 1 to 2
              0.200 s  flap at this time
              0.250 s  box sting (hit)  rect [4, 2, 6, 3], only bees, every 200 ms  at 2-3
              0.375 s  window open  at 3
              0.500 s  glint at the end of frame 3  at: [3, 4]
  dart        0.500 s  loop, 3 frames (0 held 2), 8 fps
  turn        0.300 s  once, 3 frames, own times
  lid         0.400 s  back-and-forth x2, no frames
              0.000 s  track angle (cubic)  0 s: 0, 0.4 s: 40
              0.000 s  track lift (linear)  0 s: 0, 0.2 s: 3

looks
  wet       when wing == wet  moth_wet.png instead of moth.png

reaches
  bite      cone of 20 px and 60 degrees from [0, 0], only bees, not queen

zones
  glow      circle [0, 0, 30], only bees  inside: near  enter: lamp
  hall      rect [-5, 0, 10, 8]  inside: count

cues
  flap      sound     gain: 0.5
  dust      trail
  glint     light     at: [1, 2.5]
"""

GUARDED = """mobrin: 1
machine: w
initial: g
inputs: {p: pulse, q: pulse, n: 0}
cues: {ping: sound, pong: sound}
clips: {k: {frames: [0-3], fps: 8, play: loop}}
marks: {k: {cues: {2: ping}}}
states:
  g:
    initial: a
    go: [{pulse: p, to: h}, {cue: ping, when: n > 1, to: h}, {when: n == 5, to: g}]
    states:
      a: {clip: k, sealed: true, go: [{cue: ping, to: b}, {when: n == 1, to: a}, {pulse: q, to: b}]}
      b: {clip: k, go: [{after: 300ms, to: a}]}
  h: {clip: k, go: [{after: 1s, to: g}]}
"""

TAPE = """mobrin: 1
tape: t
machine: w.yaml
steps:
  - {at: 0s, set: {n: 1}}
  - {at: 50ms, pulse: [p, q]}
  - {at: 100ms, rate: 0.5}
  - {at: 200ms, freeze: 30ms}
  - {at: 700ms, set: {n: 5}}
  - {at: 800ms, force: h}
  - {at: 900ms, reset: true}
  - {at: 1s, place: g/b, played: 100ms}
until: 1200ms
"""

RAN = """  seconds    step  what
    0.000       0  state  g/a
    0.050       3  press  p
    0.050       3  press  q
    0.050       3  press  p ran out untaken
    0.050       3  press  q ran out untaken
    0.100       6  write  rate 0.5
    0.200      12  write  freeze for 30 ms
    0.430      25  cue    ping (sound)  k frame 2
    0.430      25  state  g/a -> g/b  cue: ping  (w.yaml:13)
    0.800      48  write  force h
    0.800      48  state  g/b -> h
    0.900      54  write  reset
    0.900      54  state  h -> g/a
    1.000      60  write  place g/b, active for 100 ms already
    1.200      72  end    in g/b; shows k frame 1 at 0.200 s  with n=5
"""


def trimmed(text):
    """Behind its first line, which names the file, without blanks at the ends of lines."""
    return "\n".join(line.rstrip() for line in text.split("\n")[1:])


class Words(ToolCase):
    def test_a_machine_with_one_of_everything(self):
        code, out, err = run("list", self.write("moth.yaml", MOTH))
        self.assertEqual((code, err), (0, ""))
        self.assertEqual(trimmed(out), LISTED)

    def test_the_same_as_json(self):
        moth = json.loads(run("list", "--json", self.write("moth.yaml", MOTH))[1])
        lid = next(each for each in moth["clips"] if each["name"] == "lid")
        self.assertEqual(lid["tracks"][0], {"name": "angle", "curve": "cubic", "keys": [{"ticks": 0, "value": 0}, {"ticks": 0.4 * SECOND, "value": 40}]})
        self.assertEqual(moth["clips"][0]["offsets"], [{"frames": [1, 2], "offset": [0, 3]}])
        self.assertEqual(moth["zones"][0], {"name": "glow", "tags": ["bees"], "inside": "near", "enter": "lamp", "leave": None, "circle": [0, 0, 30]})
        self.assertEqual(moth["reaches"][0]["cone"], {"angle": 60, "length": 20, "tip": [0, 0]})

    def test_all_that_is_written_to_a_run(self):
        self.write("w.yaml", GUARDED)
        path = self.write("w.tape.yaml", TAPE)
        self.assertEqual(trimmed(run("run", path)[1]), RAN)
        writes = [each for each in self.lines("run", "--json", path) if each["what"] in ("rate", "freeze", "force", "reset", "place")]
        self.assertEqual([(each.pop("what"), each.pop("ticks") / SECOND) for each in writes],
                         [("rate", 0.1), ("freeze", 0.2), ("force", 0.8), ("reset", 0.9), ("place", 1)])
        self.assertEqual(writes[0]["rate"], 0.5)
        self.assertEqual(writes[1]["duration_ticks"], 0.03 * SECOND)
        self.assertEqual(writes[2]["state"], "h")
        self.assertEqual((writes[4]["state"], writes[4]["played_ticks"]), ("g/b", 0.1 * SECOND))

    def test_each_reason_why_a_rule_was_not_taken(self):
        self.write("w.yaml", GUARDED)
        path = self.write("w.tape.yaml", TAPE)
        out = run("explain", path, "--at", "0.05s")[1]
        self.assertIn("      no: a sealed state lies in between\n", out)
        self.assertIn("      no: ping is not told now\n        n  is 1\n        n > 1  is false\n", out)
        self.assertIn("      stands: a is active already, so the rest of this list is passed over\n        n  is 1\n", out)
        self.assertIn("      not looked at: the rule in line 13 above it decided\n", out)
        self.assertIn("      no: its state has not been active for 300ms\n", run("explain", path, "--at", "0.7s")[1])


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
