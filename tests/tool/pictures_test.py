#!/usr/bin/env python3
"""What the tool draws: graphs, runs, sheets, scenes, and the demo."""
import json
import os
import re
import shlex
import shutil
import sys
import unittest

from tool_case import DEMO, KEEPER, SECOND, TAPE, TOOL, ToolCase, contents, png_size, run


class Pictures(ToolCase):
    def test_a_scene_spawns_and_lists_its_sounds(self):
        scene = os.path.join(DEMO, "smoke.scene.yaml")
        lines = self.lines("run", scene, "--json")
        spawned = [line["actor"] for line in lines if line["what"] == "spawn"]
        self.assertEqual(spawned, [f"puff {n}" for n in range(1, 10)])
        self.assertEqual([line["actor"] for line in lines if line["what"] == "gone"], spawned)
        self.assertTrue(all("rule" in line for line in lines if line["what"] in ("enter", "leave")))
        self.assertIn("sounds  buzz.wav x5", run("run", scene)[1])
        strip = os.path.join(self.folder.name, "strip.png")
        self.assertEqual(run("draw", scene, "--at", "1.6s", "--at", "3.2s", "-o", strip)[0], 0)
        code, _, err = run("draw", scene, "--at", "8s", "-o", strip)
        self.assertEqual(code, 2)
        self.assertIn("the scene ends at 7 s", err)

    def test_draw_draws_the_machine(self):
        picture = os.path.join(self.folder.name, "keeper.svg")
        code, out, err = run("draw", KEEPER, "-o", picture)
        self.assertEqual((code, out, err), (0, f"{picture}  12 states, 17 transitions\n", ""))
        self.assertEqual(run("draw", KEEPER, "--dark", "-o", picture)[0], 0)
        code, _, err = run("draw", os.path.join(DEMO, "keeper.clips.yaml"), "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("holds no machine", err)
        self.assertEqual(run("draw", KEEPER, "-o", "keeper.bmp")[0], 1)

    def test_no_option_is_passed_over(self):
        picture, scene = os.path.join(self.folder.name, "a.svg"), os.path.join(DEMO, "dusk.scene.yaml")
        for command, words in ((["draw", KEEPER, "-o", picture, "--at", "1s"], "speak of a scene, and "),
                               (["draw", KEEPER, "-o", picture, "--plain"], "speak of a scene, and "),
                               (["draw", scene, "-o", picture, "--state", "net"], "`--state` speaks of a machine, and "),
                               (["run", KEEPER, "--until", "4s", "--from", "5s"], "`--from` lies behind the end of the run, 4 s"),
                               (["run", scene, "--from", "99s"], "`--from` lies behind the end of the run, 10 s")):
            code, out, err = run(*command)
            self.assertEqual((code, out), (2, ""), command)
            self.assertIn(words, err)
            self.assertFalse(os.path.exists(picture))

    def test_run_draws_its_lanes(self):
        picture = os.path.join(self.folder.name, "run.png")
        code, out, err = run("run", TAPE, "--picture", picture)
        self.assertEqual((code, err), (0, ""))
        self.assertTrue(out.endswith(f"picture  {picture}\n"), out[-200:])
        self.assertEqual(png_size(picture)[0], 1280)
        many = png_size(picture)[1]
        self.assertEqual(run("run", KEEPER, "--until", "1s", "--picture", picture)[0], 0)
        self.assertLess(png_size(picture)[1], many)  # only what was written and told has a lane
        self.assertEqual(run("run", KEEPER, "--until", "0s", "--picture", picture)[0], 2)
        self.assertEqual(run("run", TAPE, "--picture", "/nowhere/x.png")[0], 1)

    def test_sheet_draws_clips(self):
        picture = os.path.join(self.folder.name, "lanes.svg")
        smoke = os.path.join(DEMO, "smoke.scene.yaml")
        self.assertEqual(run("run", smoke, "--picture", picture)[0], 0)
        with open(picture, encoding="utf-8") as file:
            whole = file.read()
        self.assertEqual(run("run", smoke, "--from", "6s", "--to", "7s", "--picture", picture)[0], 0)
        with open(picture, encoding="utf-8") as file:
            self.assertLess(len(file.read()), len(whole) * 0.7)  # what is before has no lanes and no flags
        code, _, err = run("run", smoke, "--from", "9s", "--picture", picture)
        self.assertEqual(code, 2)
        self.assertIn("`--from` lies behind the end of the run, 7 s", err)
        code, out, _ = run("marks", KEEPER, "--clip", "net", "--json")
        marks = json.loads(out)["clips"]
        self.assertEqual((code, [clip["name"] for clip in marks]), (0, ["net"]))
        self.assertIn(("net_out", "3"), [(cue["cue"], cue["at"]) for cue in marks[0]["cues"]])
        self.assertEqual(run("marks", KEEPER, "--json", "--clip", "net", "--add-cue", "1=step")[0], 2)
        picture = os.path.join(self.folder.name, "net.png")
        self.assertEqual(run("sheet", KEEPER, "--clip", "net", "-o", picture)[0], 0)
        width, height = png_size(picture)
        everything = os.path.join(self.folder.name, "all.png")
        self.assertEqual(run("sheet", KEEPER, "-o", everything)[0], 0)
        self.assertEqual(png_size(everything)[0], width)
        self.assertGreater(png_size(everything)[1], 4 * height)
        code, _, err = run("sheet", KEEPER, "--clip", "nett", "-o", picture)
        self.assertEqual((code, err), (1, 'error: there is no clip "nett"; did you mean "net"?\n'))
        for wrong, words in ((["--clip", "bees"], 'there is no clip "bees". There is idle, walk, net, leap, fall, land, hurt, sag.'),
                             (["--look", "dusk"], 'there is no look "dusk". There is pale.'),
                             (["--clip", "net", "--frames", "3-1"], "the frames 3-1 end before they begin. Write 1-3."),
                             (["--clip", "net", "--frames", "3-9"], 'there is no frame 9 in "net", which has 6, numbered from 0')):
            self.assertEqual(run("sheet", KEEPER, "-o", picture, *wrong), (1, "", f"error: {words}\n"))
        self.assertEqual(run("sheet", KEEPER, "-o", "/nowhere/x.png"), (1, "", 'error: "/nowhere/x.png" cannot be written: there is no folder "/nowhere". Make it first.\n'))
        self.assertEqual(run("sheet", KEEPER, "-o", picture + "/x.png"), (1, "", f'error: "{picture}/x.png" cannot be written: "{picture}" is no folder. Name another one.\n'))

    def test_sheet_zooms_ghosts_and_picks_frames(self):
        def size(*arguments):
            picture = os.path.join(self.folder.name, "s.png")
            code, _, err = run("sheet", KEEPER, "--clip", "walk", *arguments, "-o", picture)
            self.assertEqual(code, 0, err)
            return png_size(picture), contents(picture)
        plain, bytes_plain = size()
        self.assertGreater(size("--zoom", "6")[0][1], plain[1])
        self.assertNotEqual(size("--ghost", "idle:0")[1], bytes_plain)
        self.assertNotEqual(size("--ghost", "idle")[1], size("--ghost", "idle:0")[1])
        self.assertNotEqual(size("--dark")[1], bytes_plain)
        self.assertLess(size("--zoom", "8", "--frames", "2-3")[0][1], size("--zoom", "8")[0][1])
        vector = os.path.join(self.folder.name, "s.svg")
        self.assertEqual(run("sheet", KEEPER, "--clip", "walk", "-o", vector)[0], 0)
        with open(vector, encoding="utf-8") as drawing:
            self.assertIn("<svg", drawing.read(200))
        for arguments, code, words in ((["--frames", "4-9"], 1, 'no frame 9 in "walk", which has 6'), (["--frames", "x"], 2, "no range"),
                                       (["--ghost", "idel"], 1, 'did you mean "idle"'), (["--ghost", "idle:x"], 2, "no frame"),
                                       (["--ghost", "idle:7"], 1, 'no frame 7 in "idle"'), (["--zoom", "900"], 2, "zoom")):
            got, _, err = run("sheet", KEEPER, "--clip", "walk", *arguments, "-o", vector)
            self.assertEqual(got, code, err)
            self.assertIn(words, err)

    def test_scenes_run_are_drawn_and_checked(self):
        scene = os.path.join(DEMO, "dusk.scene.yaml")
        lines = self.lines("run", scene, "--json")
        hits = [(line["by"], line["on"], line["cue"], line["box"]) for line in lines if line["what"] == "hit"]
        self.assertEqual(hits, [("keeper", "hornet", "net_out", "net")] * 2 + [("sister", "keeper", "stings", "sting")] * 3)
        impact = [line["ticks"] for line in lines if line["what"] == "cue" and line["cue"] == "net_out"]
        self.assertEqual(impact, [line["ticks"] for line in lines if line["what"] == "hit" and line["by"] == "keeper"])
        zones = [(line["who"], line["edge"]) for line in lines if line["what"] == "zone"]
        self.assertEqual(zones[0], ("keeper", "enter"))
        ends = {line["actor"]: line for line in lines if line["what"] == "final"}
        self.assertEqual((ends["keeper"]["look"], ends["keeper"]["states"]), ("pale", ["faint/lie"]))
        self.assertEqual(self.lines("run", scene, "--json", "--rate", "24"), lines)
        code, out, _ = run("run", scene)
        self.assertEqual(code, 0)
        self.assertIn("hits   hornet  net on body, cue net_out", out)
        picture = os.path.join(self.folder.name, "stage.png")
        self.assertEqual(run("draw", scene, "--at", "2.06s", "-o", picture)[0], 0)
        one = png_size(picture)
        self.assertEqual(run("draw", scene, "--at", "2.06s", "--at", "3.6s", "--zoom", "2", "-o", picture)[0], 0)
        self.assertNotEqual(png_size(picture), one)
        film = os.path.join(self.folder.name, "dusk.apng")
        self.assertEqual(run("draw", scene, "--fps", "4", "-o", film)[0], 0)
        clips = os.path.join(self.folder.name, "film.clips.yaml")  # what is written can be read
        self.assertEqual(run("import", film, "-o", clips)[0], 0)
        self.assertEqual(json.loads(run("list", clips, "--json")[1])["clips"][0]["ticks"], 41 * SECOND // 4)
        for arguments, code in ((["draw", scene, "-o", picture], 2), (["draw", scene, "--at", "x", "-o", picture], 2),
                                (["run", scene, "--tape", TAPE], 2), (["draw", scene, "--at", "1s", "-o", "/nowhere/x.png"], 1),
                                (["check", scene], 0), (["sheet", KEEPER, "--look", "pael", "-o", picture], 1)):
            self.assertEqual(run(*arguments)[0], code, arguments)
        broken = self.write("b.scene.yaml", f"mobrin: 1\nscene: b\nuntil: 1s\nactors: {{k: {{machine: {KEEPER}, when_hit: {{pulse: stunk}}}}}}\n")
        code, _, err = run("run", broken)
        self.assertEqual(code, 1)
        self.assertIn('Did you mean "stung"?', err)

    def test_looks_whose_art_does_not_fit_are_told(self):
        shutil.copy(os.path.join(DEMO, "keeper.png"), self.folder.name)
        shutil.copy(os.path.join(DEMO, "hive.png"), self.folder.name)
        look = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {pale: false}\nclips: {c: {sheet: keeper.png, tile: [48, 40], frames: [0, 1], fps: 8}}\n"
                          "looks: {p: {when: pale, art: {keeper.png: hive.png, other.png: hive.png}}}\nstates: {s: {clip: c}}\n")
        code, out, _ = run("check", look)
        self.assertEqual(code, 1)
        self.assertIn("hive.png is 240 x 56 pixels, keeper.png 384 x 240 [look-misfit]", out)
        self.assertIn("no clip uses other.png [look-misfit]", out)

    def test_sheet_draws_without_art_and_says_what_is_missing(self):
        plain = self.write("p.yaml", "mobrin: 1\nclips: {c: {frames: [0-3], fps: 8}, d: {length: 1s}}\n")
        picture = os.path.join(self.folder.name, "p.png")
        self.assertEqual(run("sheet", plain, "-o", picture)[0], 0)
        broken = self.write("b.yaml", "mobrin: 1\nclips: {c: {sheet: b.png, tile: [8, 8], frames: [0], fps: 8}}\n")
        self.write("b.png", "this is no picture")
        code, _, err = run("sheet", broken, "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("b.png\" cannot be read", err)
        outside = self.write("o.yaml", f"mobrin: 1\nclips: {{c: {{sheet: {DEMO}/smoker.png, tile: [24, 28], frames: [8], fps: 8}}}}\n")
        code, _, err = run("sheet", outside, "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("lies outside", err)

    def test_demo_runs_and_says_what_to_try_next(self):
        code, out, err = run("demo", "--out", self.folder.name)
        self.assertEqual((code, err), (0, ""))
        self.assertIn("faint/lie: remove me", out)
        self.assertIn("burning -> out", out)
        for name in ("keeper_run.png", "smoker_run.png", "keeper_sheet.png", "hornet_sheet.png", "hive_sheet.png", "smoker_sheet.png"):
            self.assertGreater(png_size(os.path.join(self.folder.name, name))[0], 1000)
        commands = [shlex.split(line) for line in re.findall(r"^  (.*mobrin'? \w.*)$", out, re.M)]
        self.assertGreater(len(commands), 8)
        for tool, command, *arguments in commands:
            self.assertEqual(os.path.realpath(shutil.which(tool)), os.path.realpath(TOOL))
            if command != "live":  # it goes on until it is stopped; tests/live
                self.assertIn(run(command, *arguments)[0], (0, 1) if command == "prove" else (0,), arguments)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
