#!/usr/bin/env python3
"""What tapes and scenes expect: between the instants at which anything is told, of actors, and where it is wrong."""
import json
import os
import sys
import unittest

from tool_case import DEMO, KEEPER, ToolCase, run

MACHINE = """mobrin: 1
machine: m
inputs: {go: pulse, v: 0.0}
vars: {n: 0}
clips: {round: {length: 100ms, play: loop}}
initial: a
states:
  a: {go: [{pulse: go, to: blip}]}
  blip: {length: 5ms, go: [{at: end, to: b}]}
  b: {clip: round, each_loop: [n = n + 1]}
"""
SCENE = """mobrin: 1
scene: s
until: 4s
actors:
  keeper:
    machine: KEEPER
    tags: [keeper]
    steps:
      - {at: 0s, set: {carrying: net}}
      - {at: 1s, pulse: swing, expect: {in: ground/net, is: busy, shows: net/0}}
      - {at: 1.15s, expect: {cue: net_out}}
      - {from: 0s, to: 4s, expect: {cues: {net_out: 1, step: 0}, never: in(hurt)}}
      - {at: 4s, pulse: hop, expect: {in: air/leap}}
  hornet:
    machine: HORNET
    at: [0.6, 0.5]
    face: left
    tags: [hornet]
    when_hit: [{by: net, pulse: stunned}]
    steps:
      - {from: 0s, to: 1.15s, expect: {never: in(body/stunned)}}
      - {from: 1.15s, to: 2s, expect: {always: in(body/stunned)}}
"""


class Expect(ToolCase):
    def tape(self, *steps):
        self.write("m.yaml", MACHINE)
        return self.write("t.tape.yaml", "mobrin: 1\ntape: t\nmachine: m.yaml\nuntil: 2s\nsteps:\n" +
                          "".join(f"  - {step}\n" for step in steps))

    def scene(self, edit=("", "")):
        text = SCENE.replace("KEEPER", KEEPER).replace("HORNET", os.path.join(DEMO, "hornet.yaml"))
        self.assertIn(edit[0], text)
        return self.write("s.scene.yaml", text.replace(*edit))

    def test_a_stretch_is_every_instant_of_it(self):
        steps = ["{at: 1s, pulse: go}", "{at: 1500ms, set: {v: 3}}", "{at: 1502ms, set: {v: 0}}"]
        for expected, failure in (
                ("{from: 1.002s, to: 1.003s, expect: {never: in(blip)}}", 'never "in(blip)" from 1.002 s to 1.003 s, but at 1.002 s it is so: in '),
                ("{from: 900ms, to: 1s, expect: {never: in(blip)}}", None),
                ("{from: 1005ms, to: 2s, expect: {never: in(blip), always: in(b)}}", None),
                ("{from: 0s, to: 1.5s, expect: {always: v < 2}}", None),
                ("{from: 0s, to: 1.501s, expect: {always: v < 2}}", 'always "v < 2" from 0 s to 1.501 s, but at 1.500 s it is not: v is 3\n'),
                ("{from: 1.501s, to: 1.5015s, expect: {never: v > 2}}", "but at 1.501 s it is so: v is 3\n"),
                ("{from: 1.502s, to: 2s, expect: {never: v > 2}}", None),
                ("{from: 1s, to: 1.304s, expect: {never: n == 3}}", None),
                ("{from: 1s, to: 1.306s, expect: {never: n == 3}}", "but at 1.305 s it is so: n is 3\n")):
            code, out, err = run("test", self.tape(*sorted(steps + [expected], key=lambda step: float(
                step.split(": ")[1].split(",")[0].replace("ms", "e-3").replace("s", "")))))
            self.assertEqual((code, err), (0 if failure is None else 1, ""), expected + out)
            self.assertIn(failure or "1 passed, 0 failed", out)

    def test_a_look_is_worn_or_none(self):
        look = "looks: {worn: {when: v > 1, art: {a.png: b.png}}}\n"
        for expected, told in (
                ("{at: 500ms, expect: {look: worn}}", "1 passed, 0 failed"),
                ("{at: 501ms, expect: {look: none}}", "t.tape.yaml:8: expected at 0.501 s the look none, but it is worn\n"),
                ("{at: 1s, expect: {look: worm}}", 'error: there is no look "worm" [unknown-name]\n    Did you mean "worn"?'),
                ("{from: 1s, to: 2s, expect: {look: worn}}", "`look:` does not go with this time")):
            tape = self.tape("{at: 0s, expect: {look: none}}", "{at: 500ms, set: {v: 3}}", expected)
            self.write("m.yaml", MACHINE.replace("initial", look + "initial"))
            code, out, err = run("test", tape)
            self.assertEqual((code, err), (0 if "passed" in told else 1, ""), out)
            self.assertIn(told, out)

    def test_many_expressions_are_checked_at_their_places(self):
        steps = ["{at: 1s, expect: {holds: in(a) and vv == 0}}"] + ["{at: 1s, expect: {holds: v}}"] * 300
        code, out, _ = run("check", "--json", self.tape(*steps))
        told = [(each["line"], each["column"], each["code"]) for each in json.loads(out)["files"][0]["findings"]]
        self.assertEqual((code, told[:2], len(told)), (1, [(6, 40, "unknown-name"), (7, 30, "wrong-operand")], 301))

    def test_how_long_a_run_may_last(self):
        open_end = self.tape("{at: 12.5s, pulse: go}")
        with open(open_end, encoding="utf-8") as stream:
            text = stream.read().replace("until: 2s\n", "")
        self.write("t.tape.yaml", text)
        for command in (("test", open_end), ("run", open_end)):
            code, out, err = run(*command)
            self.assertNotEqual(code, 0)
            self.assertIn("`until: 14s`", out + err)
        out = run("run", open_end, "--press", "go@0.5s")[1]
        self.assertIn("12.500     750  press  go", out)

    def test_actors_of_a_scene_expect(self):
        self.assertEqual(run("check", self.scene())[0], 0)
        code, out, err = run("test", self.scene())
        self.assertEqual((code, err), (0, ""), out)
        self.assertIn("s.scene.yaml  6 expectations\n1 passed, 0 failed\n", out)
        for edit, failure in (
                (("shows: net/0", "shows: net/1"), "s.scene.yaml:10: keeper: expected at 1 s to show net/1, but it shows net/0"),
                (("net_out: 1,", "net_out: 2,"), "s.scene.yaml:12: keeper: expected the cue net_out 2 times"),
                (("to: 1.15s, expect: {never", "to: 1.151s, expect: {never"), "s.scene.yaml:21: hornet: expected never \"in(body/stunned)\" from 0 s to 1.151 s, but at 1.150 s it is so"),
                (("from: 1.15s", "from: 1.149s"), "s.scene.yaml:22: hornet: expected always"),
                (("at: 1.15s,", "at: 1.16s,"), "s.scene.yaml:11: keeper: expected the cue net_out at 1.16 s, but the nearest is at 1.1500 s")):
            code, out, _ = run("test", self.scene(edit))
            self.assertEqual(code, 1)
            self.assertIn(failure, out)
            self.assertIn("0 passed, 1 failed", out)

    def test_what_a_scene_expects_wrongly_is_told(self):
        for edit, finding in ((("in(hurt)", "in(hrt)"), ':12:76: error: "hrt" is no state [unknown-name]\n    Did you mean "hurt"?'),
                              (("until: 4s", "until: 3s"), ":13:38: error: the scene ends before this expectation [bad-value]")):
            for command in ("check", "test"):
                code, out, _ = run(command, self.scene(edit))
                self.assertEqual(code, 1)
                self.assertIn(finding, out)

    def test_scenes_answer_what_is_written_in_another_way(self):
        head = "mobrin: 1\nscene: s\nuntil: 4s\n"
        rows = [("actors: [{machine: %s}]", "Expected a map with their names: `keeper: {machine: keeper.yaml}`."),
                ("actors: {k: %s}", "Expected a map: `{machine: "),
                ("actors: {k: {machine: %s, x: 3}}", "Write `at: [x, y]`, in world units."),
                ("actors: {k: {machine: %s, set: {carrying: net}}}", "Write a step: `steps: [{at: 0s, set: {carrying: net}}]`."),
                ("actors: {k: {machine: %s, inputs: {carrying: net}}}", "Write a step: "),
                ("actors: {k: {machine: %s, team: bees}}", "`tags: [bees]`"),
                ("actors: {k: {machine: %s, when_hit: stung}}", "Expected a map such as `{by: sting, pulse: stung}`."),
                ("actors: {k: {machine: %s, when_hit: [{to: hurt}]}}", "A hit presses, `pulse: stung`"),
                ("actors: {k: {machine: %s, moves: [{at: 0s, for: 1s, by: [1, 0], follows: k}]}}", "the move has both `by:` and `follows:`"),
                ("actors: {k: {machine: %s}}\nexpect: [{at: 1s}]", "said by a step of an actor"),
                ("actors: {k: {machine: %s}}\nsteps: []", "It is one of an actor: put it at one of them, under `actors:`."),
                ("actors: {k: {machine: %s}}\nzones: {}", "It is one of a machine: "),
                ("actors: {k: {machine: %s}}\ncamera: 1", "Pictures show what is on the stage; leave it out.")]
        for text, told in rows:
            code, out, _ = run("check", self.write("s.scene.yaml", head + text % KEEPER + "\n"))
            self.assertEqual(code, 1, text)
            self.assertIn(told, out)
            self.assertIn("\n1 error  ", out)

    def test_scenes_among_tapes(self):
        self.scene()
        self.write("still.scene.yaml", f"mobrin: 1\nscene: t\nuntil: 1s\nactors: {{keeper: {{machine: {KEEPER}}}}}\n")
        folder = self.folder.name
        self.assertEqual(run("test", folder)[1].count("scene.yaml"), 1)  # the other one is for looking at
        self.assertIn("still.scene.yaml  expects nothing", run("test", os.path.join(folder, "still.scene.yaml"))[1])
        code, _, err = run("test", self.scene(), "--on", KEEPER)
        self.assertEqual(code, 2)
        self.assertIn("is a scene, which names its own", err)
        before = open(self.scene(), encoding="utf-8").read()
        self.assertIn("is a scene, which keeps no log", run("test", self.scene(), "--keep")[2])
        self.assertEqual(open(os.path.join(folder, "s.scene.yaml"), encoding="utf-8").read(), before)
        out = run("test", self.scene(), "--coverage")[1]
        self.assertRegex(out, r"hornet.yaml  \d+ of 11 rules taken, \d+ of 8 states entered by 1 run\n")
        # A tape's expectations are of the machine alone.
        tape = os.path.join(DEMO, "blow.tape.yaml")
        lent = self.write("lent.scene.yaml", f"mobrin: 1\nscene: t\nuntil: 3s\nactors: {{keeper: {{machine: {KEEPER}, tape: {tape}}}}}\n")
        self.assertIn("expects nothing", run("test", lent)[1])


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
