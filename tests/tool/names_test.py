#!/usr/bin/env python3
"""Names in files: none leads out of the folder that was asked for, and what is meant so is accepted for art too."""
import json
import os
import pathlib
import shutil
import subprocess
import sys
import tempfile
import unittest

from made_art import png

TOOL = sys.argv[1]


class Files(unittest.TestCase):
    def setUp(self):
        self.folder = pathlib.Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)

    def write(self, name, text):
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("mobrin: 1\n" + text)
        return path

    def run_tool(self, *args, code=None, cwd=None):
        run = subprocess.run([TOOL, *map(str, args)], capture_output=True, text=True, cwd=cwd or self.folder, timeout=60)
        if code is not None:
            self.assertEqual(run.returncode, code, f"{args}: {run.stdout}{run.stderr}")
        return run.stdout + run.stderr


class Outside(Files):
    MACHINE = "machine: m\nuse: [%s]\nstates: {a: {clip: c}}\n"

    def setUp(self):
        super().setUp()
        self.write("secret.yaml", "clips: {c: {length: 1s}}\n")
        png(self.folder / "secret.png", 8, 8)

    def test_use_stays_in_the_folder(self):
        for road in ["../secret.yaml", "inner/../../secret.yaml", "./../secret.yaml"]:
            self.write("game/m.yaml", self.MACHINE % road)
            for args, cwd in [(("check", "game/m.yaml"), self.folder), (("check", self.folder / "game/m.yaml"), "/"), (("check", "m.yaml"), self.folder / "game"),
                              (("check", "../game/m.yaml"), self.folder / "game")]:
                out = self.run_tool(*args, code=1, cwd=cwd)
                self.assertIn("leads out of the folder", out)
                self.assertIn("outside-folder", out)
                self.assertIn("m.yaml:3:", out)
                self.assertIn("--allow-outside", out)
            self.assertIn("fine", self.run_tool("check", "game/m.yaml", "--allow-outside", code=0))

    def test_within_the_folder_any_road_is_fine(self):
        self.write("game/shared/c.yaml", "use: ../more.yaml\nclips: {c: {length: 1s}}\n")
        self.write("game/more.yaml", "inputs: {x: false}\n")
        self.write("game/m.yaml", "machine: m\nuse: [shared/../shared/c.yaml]\nstates: {a: {clip: c, go: [{when: x, to: b}]}, b: {go: [{when: not x, to: a}]}}\ninitial: a\n")
        self.assertIn("fine", self.run_tool("check", "game/m.yaml", code=0))

    def test_a_whole_path_is_the_authors_own(self):
        self.write("game/m.yaml", self.MACHINE % (self.folder / "secret.yaml"))
        self.assertIn("fine", self.run_tool("check", "game/m.yaml", code=0))

    def test_art_stays_too(self):
        for clip in ["sheet: ../secret.png, tile: [4, 4], frames: [0, 1]", "images: [../secret.png], fps: 10", "animation: ../secret.png, frames: [0]",
                     "images: [in/../../secret.png, ../secret.png], fps: 10"]:
            self.write("game/m.yaml", "machine: m\nclips: {c: {fps: 10, %s}}\nstates: {a: {clip: c}}\n" % clip.replace(", fps: 10", ""))
            for command in [("check", "game/m.yaml"), ("sheet", "game/m.yaml", "-o", "out.png"), ("pack", "game/m.yaml", "-o", "m.pack")]:
                out = self.run_tool(*command, code=1)
                self.assertEqual(out.count("outside-folder"), 1, out)
            self.assertFalse((self.folder / "out.png").exists())
        self.write("game/m.yaml", "machine: m\ninputs: {h: 1}\nclips: {c: {sheet: own.png, tile: [4, 4], frames: [0, 1], fps: 5}}\n"
                   "looks: {pale: {when: h == 0, art: {own.png: ../secret.png}}}\nstates: {a: {clip: c}}\n")
        self.assertIn("outside-folder", self.run_tool("check", "game/m.yaml", code=1))
        self.write("game/m.yaml", "machine: m\nsheets: {s: {image: ../secret.png, rects: {r: [0, 0, 4, 4]}}}\nclips: {c: {sheet: s, frames: [r], fps: 5}}\nstates: {a: {clip: c}}\n")
        self.assertIn("outside-folder", self.run_tool("check", "game/m.yaml", code=1))

    def test_a_character_may_lie_below_its_machine(self):
        self.write("m.yaml", "machine: m\nuse: [shared.yaml]\nclips: {c: {length: 1s}}\nstates: {a: {clip: c}}\n")
        self.write("shared.yaml", "inputs: {}\n")
        self.write("kin/sister.yaml", "character: sister\nmachine: ../m.yaml\nclips: {c: {length: 2s}}\n")
        self.assertNotIn("outside-folder", self.run_tool("check", "kin/sister.yaml"))
        self.write("kin/sister.yaml", "character: sister\nmachine: ../m.yaml\nuse: ../../x.yaml\nclips: {c: {length: 2s}}\n")
        self.assertIn("outside-folder", self.run_tool("check", "kin/sister.yaml", code=1))

    def test_import_does_not_write_what_would_not_load(self):
        (self.folder / "game").mkdir()
        png(self.folder / "art/walk_0.png", 8, 8)
        out = self.run_tool("import", "art", "-o", "game/c.clips.yaml", code=1)
        self.assertIn("outside of the folder", out)
        self.assertFalse((self.folder / "game/c.clips.yaml").exists())
        self.run_tool("import", "art", "-o", "c.clips.yaml")
        self.assertTrue((self.folder / "c.clips.yaml").exists())
        self.run_tool("import", "art", "-o", "game/c.clips.yaml", "--allow-outside")
        self.assertIn("../art/walk_0.png", (self.folder / "game/c.clips.yaml").read_text())
        self.assertIn("outside-folder", self.run_tool("check", "game/c.clips.yaml", code=1))


class Accepted(Files):
    """What `accept:` says of a clip's pictures."""

    def setUp(self):
        super().setUp()
        for i, shade in enumerate([100, 100, 200]):
            png(self.folder / f"f_{i}.png", 8, 8, shade)

    def check(self, accept="", top="", images="[f_0.png, f_1.png, f_2.png]"):
        self.write("m.yaml", "machine: m\n%sclips: {c: {images: %s, fps: 10, play: once%s}}\nstates: {s: {clip: c}}\n" % (top, images, accept))
        out = json.loads(subprocess.run([TOOL, "check", self.folder / "m.yaml", "--json"], capture_output=True, text=True, timeout=60).stdout)
        return sorted(each["code"] for each in out["files"][0]["findings"] if each.get("severity", each.get("level")) != "hint")

    def test_of_the_clip_and_of_the_file(self):
        told = self.check()
        self.assertIn("equal-neighbours", told)
        rest = sorted(set(told) - {"equal-neighbours"})
        self.assertEqual(self.check(accept=", accept: [equal-neighbours]"), rest)
        self.assertEqual(self.check(top="accept: [equal-neighbours]\n"), rest)
        self.assertEqual(self.check(top="accept: [equal-neighbours c]\n"), rest)
        self.assertEqual(self.check(accept=", accept: [%s]" % ", ".join(told)), [])

    def test_of_nothing_is_told(self):
        self.assertIn("idle-accept", self.check(accept=", accept: [mixed-sizes]"))
        self.assertIn("idle-accept", self.check(top="accept: [equal-neighbours d]\n"))
        self.assertIn("idle-accept", self.check(accept=", accept: [equal-neighbours]", images="[f_0.png]"))

    def test_missing_pictures_too(self):
        self.assertEqual(self.check(images="[gone.png]"), ["missing-art"])
        self.assertEqual(self.check(images="[gone.png]", accept=", accept: [missing-art]"), [])


unittest.main(argv=[sys.argv[0]] + sys.argv[2:])
