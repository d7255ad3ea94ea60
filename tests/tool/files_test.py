#!/usr/bin/env python3
"""What the tool writes: marks, imports, packs, logs; whole or not at all, and nothing that is not meant."""
import base64
import json
import os
import resource
import shutil
import signal
import struct
import subprocess
import sys
import unittest

from tool_case import DEMO, KEEPER, SECOND, TAPE, TOOL, ToolCase, contents, run


class Files(ToolCase):
    def test_marks_shows_and_edits_and_writes_nothing_that_would_not_load(self):
        for name in os.listdir(DEMO):
            shutil.copy(os.path.join(DEMO, name), self.folder.name)
        machine, marks = (os.path.join(self.folder.name, name) for name in ("keeper.yaml", "keeper.marks.yaml"))
        before = contents(marks)
        code, out, _ = run("marks", machine, "--clip", "net")
        self.assertEqual(code, 0)
        self.assertIn("  3         net_out\n", out)
        code, out, err = run("marks", machine, "--clip", "net", "--move-cue", "3:4=net_out", "--add-cue", "5.end=thud")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("written and checked with", out)
        self.assertEqual(contents(marks), before.replace(b"cues: {2: swish, 3: net_out}", b"cues: {2: swish, 4: net_out, 5.end: thud}"))
        now = contents(marks)
        for edit, words in ((["--add-cue", "9=thud"], "frame 9 is not in the clip"), (["--add-cue", "1=thudd"], 'Did you mean "thud"?'),
                            (["--remove-cue", "1=thud"], 'no cue "thud" at 1'), (["--window", "again=9-12"], "reaches past the clip")):
            code, _, err = run("marks", marks, "--clip", "net", *edit)
            self.assertEqual(code, 1)
            self.assertIn(words, err)
            self.assertEqual(contents(marks), now)
        self.assertEqual(run("marks", machine, "--clip", "net", "--copy-box", "net=5", "--copy-box", "body=hurt")[0], 0)
        clips = {clip["name"]: clip for clip in json.loads(run("list", machine, "--json")[1])["clips"]}
        self.assertEqual([box["frames"] for box in clips["net"]["boxes"] if box["name"] == "net"], [["3"], ["4"], ["5"]])
        self.assertEqual(clips["hurt"]["boxes"], [box for box in clips["net"]["boxes"] if box["name"] == "body"])
        self.assertIn('did you mean "body"', run("marks", machine, "--clip", "net", "--copy-box", "boddy=hurt")[2])
        self.assertEqual(run("marks", marks, "--clip", "net", "--pivot", "22")[0], 2)
        self.assertEqual(run("marks", marks, "--pivot", "22,1")[0], 2)
        fresh = os.path.join(self.folder.name, "new.marks.yaml")
        self.assertEqual(run("marks", fresh, "--clip", "walk", "--add-cue", "1=step", "--pivot", "3,4.5")[0], 0)
        with open(fresh, encoding="utf-8") as written:
            self.assertEqual(written.read(), "mobrin: 1\nmarks:\n  walk:\n    cues: {1: step}\n    pivot: [3, 4.5]\n")

    def test_import_of_an_animation_and_its_extraction(self):
        # Two frames of one pixel: 70 ms and no delay.
        picture = b"\x2c\0\0\0\0\1\0\1\0\0\2\2\x44\1\0"
        gif = (b"GIF89a\1\0\1\0\xf0\0\0\xff\0\0\0\xff\0" + b"\x21\xf9\4\4\7\0\0\0" + picture + b"\x21\xf9\4\4\0\0\0\0" + picture + b";")
        source, out = os.path.join(self.folder.name, "puff.gif"), os.path.join(self.folder.name, "puff.clips.yaml")
        with open(source, "wb") as stream:
            stream.write(gif)
        frames = os.path.join(self.folder.name, "frames")
        # Nothing is written before it is known that all will be.
        code, text, err = run("import", source, "-o", out, "--extract", frames, "--dry-run")
        self.assertEqual((code, os.path.exists(frames)), (0, False), err)
        self.assertEqual(run("import", source, KEEPER, "-o", out, "--extract", frames)[0], 1)
        self.assertEqual((os.path.exists(frames), os.path.exists(out)), (False, False))
        self.assertEqual(run("import", source, "-o", out, "--extract", source)[2], f"error: `--extract {source}` is no folder\n    Name a folder; it is made where it is not there.\n")
        sheet = os.path.join(DEMO, "puff.png")
        self.assertIn(f"nothing is animated, so no pictures were written to {frames}", run("import", sheet, "-o", os.path.join(self.folder.name, "still.clips.yaml"), "--extract", frames, "--allow-outside")[1])
        self.assertFalse(os.path.exists(frames))
        code, text, err = run("import", source, "-o", out, "--extract", frames)
        self.assertEqual(code, 0, err)
        self.assertIn("1 frame asks for no delay and gets 100ms", text)
        self.assertEqual(sorted(os.listdir(os.path.join(self.folder.name, "frames"))), ["puff_0000.png", "puff_0001.png"])
        clips = json.loads(run("list", out, "--json")[1])["clips"]
        self.assertEqual([frame["ticks"] for frame in clips[0]["frames"]], [SECOND * 7 // 100, SECOND // 10])
        self.assertEqual(run("sheet", out, "-o", os.path.join(self.folder.name, "s.png"))[0], 0)

    def test_import_says_what_it_makes_of_rows(self):
        sheet, out = os.path.join(self.folder.name, "keeper.png"), os.path.join(self.folder.name, "k.clips.yaml")
        shutil.copy(os.path.join(DEMO, "keeper.png"), sheet)
        code, text, err = run("import", sheet, "--tile", "48x40", "--row", "2:net out", "-o", out)
        self.assertEqual((code, err), (0, ""))
        self.assertIn('note  "net_out": "net out" cannot be a clip\'s name\n', text)
        for wrong, words in ((["--row", "6:walk"], "there is no row 6; the sheet has 6, numbered from 0 [bad-grid]\n    Check `--row`."),
                             (["--row", "2:walk", "--count", "3"], "row 2 begins behind the first 3 cells [bad-grid]\n    `--count` counts the cells of the whole sheet: raise it, or leave it out.")):
            code, _, err = run("import", sheet, "--tile", "48x40", *wrong, "-o", os.path.join(self.folder.name, "other.clips.yaml"))
            self.assertEqual(code, 1)
            self.assertIn(words, err)

    def test_import_writes_tracks_of_what_moves(self):
        # One node, "lid", that moves from 0 to 2 in a second.
        numbers = struct.pack("<8f", 0, 1, 0, 0, 0, 0, 2, 0)
        uri = "data:application/octet-stream;base64," + base64.b64encode(numbers).decode()
        gltf = {"asset": {"version": "2.0"}, "nodes": [{"name": "lid"}], "buffers": [{"uri": uri, "byteLength": 32}],
                "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 8}, {"buffer": 0, "byteOffset": 8, "byteLength": 24}],
                "accessors": [{"bufferView": 0, "componentType": 5126, "count": 2, "type": "SCALAR"},
                              {"bufferView": 1, "componentType": 5126, "count": 2, "type": "VEC3"}],
                "animations": [{"name": "open", "samplers": [{"input": 0, "output": 1}],
                                "channels": [{"sampler": 0, "target": {"node": 0, "path": "translation"}}]}]}
        name = lambda file: os.path.join(self.folder.name, file)
        with open(name("lid.gltf"), "w", encoding="utf-8") as stream:
            json.dump(gltf, stream)
        code, _, err = run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("lid.tracks.yaml"))
        self.assertEqual(code, 0, err)
        with open(name("lid.tracks.yaml"), encoding="utf-8") as stream:
            self.assertIn("lid_y: {curve: linear, keys: {0ms: 0, 1000ms: 2}}", stream.read())
        # Again over its own file, but never over somebody's.
        self.assertEqual(run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("lid.tracks.yaml"))[0], 0)
        with open(name("mine.yaml"), "w", encoding="utf-8") as stream:
            stream.write("mobrin: 1\n")
        code, _, err = run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("mine.yaml"))
        self.assertEqual(code, 2)
        self.assertIn("was not written by it", err)

    def test_pack_makes_packs_and_headers(self):
        name = lambda file: os.path.join(self.folder.name, file)
        hornet = os.path.join(DEMO, "hornet.yaml")
        code, out, err = run("pack", hornet, "-o", name("hornet.pack"))
        self.assertEqual(code, 0, err)
        self.assertIn("8 states, 11 transitions, 6 clips", out)
        with open(name("hornet.pack"), "rb") as stream:
            self.assertEqual(stream.read(8), b"MOBRINPK")
        self.assertEqual(run("pack", hornet, "-o", name("lean.pack"), "--no-names")[0], 0)
        self.assertLess(os.path.getsize(name("lean.pack")), os.path.getsize(name("hornet.pack")))
        code, out, err = run("pack", hornet, "--cpp", name("hornet.hpp"), "--class", "Hornet", "--depfile", name("hornet.d"))
        self.assertEqual(code, 0, err)
        with open(name("hornet.hpp"), encoding="utf-8") as stream:
            self.assertIn("mobrin::Input<float> distance;", stream.read())
        with open(name("hornet.d"), encoding="utf-8") as stream:
            made = stream.read()
        self.assertIn("hornet.hpp:", made)
        for file in ("hornet.yaml", "hornet.marks.yaml", "shared.yaml"):
            self.assertIn(os.path.join(os.path.realpath(DEMO), file).replace(" ", "\\ "), made)
        for arguments, part in ((["pack", hornet], "nothing is to be written"),
                                (["pack", hornet, "-o", name("a"), "--cpp", name("b.hpp"), "--depfile", name("d")], "is for one output"),
                                (["pack", hornet, "--cpp", name("b.hpp"), "--class", "7up"], "cannot be the name of a class"),
                                (["pack", os.path.join(DEMO, "hornet.clips.yaml"), "-o", name("a")], "holds no machine"),
                                (["pack", hornet, "-o", os.path.join(self.folder.name, "none", "a.pack")], "cannot be written")):
            code, _, err = run(*arguments)
            self.assertNotEqual(code, 0)
            self.assertIn(part, err)

    def test_a_file_that_cannot_be_written_whole_leaves_the_old_one(self):
        hornet = os.path.join(DEMO, "hornet.yaml")
        art = os.path.join(self.folder.name, "art")
        shutil.copytree(DEMO, art)

        def as_on_a_full_disk():
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (100, 100))

        scene = os.path.join(DEMO, "dusk.scene.yaml")
        for command in (["pack", hornet, "-o", ".pack"], ["pack", hornet, "--cpp", ".hpp"], ["draw", hornet, "-o", ".svg"], ["draw", hornet, "-o", ".png"],
                        ["draw", hornet, "-o", ".dot"], ["draw", hornet, "-o", ".mmd"], ["sheet", hornet, "-o", ".svg"],
                        ["sheet", hornet, "-o", ".png"], ["run", TAPE, "--picture", ".png"], ["run", TAPE, "--picture", ".svg"],
                        ["draw", scene, "--at", "1s", "-o", ".png"], ["draw", scene, "-o", ".apng"],
                        ["import", os.path.join(art, "hornet.png"), "--tile", "32x28", "-o", ".yaml"]):
            end = command.pop()
            before = {".pack": b"MOBRINPK", ".hpp": b"// old\n", ".svg": b"<svg/>", ".dot": b"digraph {}", ".mmd": b"stateDiagram-v2",
                      ".yaml": b"mobrin: 1\n"}.get(end, b"\x89PNG\r\n\x1a\n")
            path = os.path.join(self.folder.name, "old" + end)
            with open(path, "wb") as stream:
                stream.write(before)
            there = sorted(os.listdir(self.folder.name))
            with self.subTest(command=command):
                code, _, err = run(*command, path, preexec_fn=as_on_a_full_disk)
                self.assertEqual(code, 1, err)
                self.assertIn(f'"{path}" cannot be written', err)
                self.assertIn("room", err)
                self.assertEqual(contents(path), before)
                self.assertEqual(sorted(os.listdir(self.folder.name)), there, "nothing is left behind")

    def test_no_output_replaces_a_file_of_another_kind_or_a_source(self):
        art = os.path.join(self.folder.name, "art")
        shutil.copytree(DEMO, art)
        hornet, scene = os.path.join(art, "hornet.yaml"), os.path.join(art, "dusk.scene.yaml")
        text = self.write("notes.png", "what I meant to do")
        code, _, err = run("sheet", hornet, "-o", text)
        self.assertEqual(code, 1)
        self.assertIn("is there already, and is no png file", err)
        self.assertEqual(self.read("notes.png"), "what I meant to do")
        for command, option, path, words in (
                (["sheet", hornet], "-o", os.path.join(art, "hornet.png"), "is a source of what is written there"),
                (["run", os.path.join(art, "hornet.tape.yaml")], "--picture", os.path.join(art, "hornet.png"), "is a source"),
                (["pack", hornet], "-o", os.path.join(art, "hornet.yaml"), "does not end in .pack"),
                (["pack", hornet], "--cpp", os.path.join(art, "draw_art.py"), "ends in none of .hpp"),
                (["draw", hornet], "-o", os.path.join(art, "out.jpg"), "ends in none of .svg, .png, .dot, .mmd"),
                (["draw", scene, "--at", "1s"], "-o", os.path.join(art, "keeper.yaml"), "ends in none of .png"),
                (["sheet", hornet], "-o", art, "is a folder"),
                (["import", os.path.join(art, "hornet.png"), "--tile", "32x28"], "-o", os.path.join(art, "hornet.png"), "ends in none of")):
            before = contents(path) if os.path.isfile(path) else None
            code, _, err = run(*command, option, path)
            self.assertEqual(code, 1, (command, err))
            self.assertIn(words, err)
            self.assertEqual(contents(path) if os.path.isfile(path) else None, before)

    def test_pipes_and_deep_files_are_refused_at_once(self):
        art = os.path.join(self.folder.name, "art")
        os.mkdir(art)
        pipe = os.path.join(art, "walk_1.png")
        os.mkfifo(pipe)
        clips = self.write("c.yaml", "mobrin: 1\nclips: {walk: {images: [art/walk_1.png], fps: 10}}\n")
        for command in (["check", clips], ["sheet", clips, "-o", os.path.join(self.folder.name, "x.png")], ["import", pipe, "-o", os.path.join(self.folder.name, "d.clips.yaml")],
                        ["import", art, "-o", os.path.join(self.folder.name, "d.clips.yaml")]):
            done = subprocess.run([TOOL, *command], capture_output=True, text=True, timeout=10)
            self.assertEqual(done.returncode, 1, (command, done.stderr))
        deep = self.write("deep.gltf", '{"asset": {"version": "2.0"}, "extras": ' + "[" * 20000 + "]" * 20000 + "}")
        code, _, err = run("import", deep, "-o", os.path.join(self.folder.name, "d.clips.yaml"))
        self.assertEqual(code, 1)
        self.assertIn("it nests deeper than 200 levels", err)

    def test_edits_at_once_lose_none(self):
        for _ in range(10):
            marks = self.write("k.marks.yaml", "mobrin: 1\nmarks:\n  walk: {pivot: [1, 1]}\n")
            both = [subprocess.Popen([TOOL, "marks", marks, "--clip", "walk", "--add-cue", f"{n}=step"], stdout=subprocess.DEVNULL)
                    for n in range(4)]
            self.assertEqual([each.wait(timeout=30) for each in both], [0] * 4)
            for n in range(4):
                self.assertIn(f"{n}: step", self.read("k.marks.yaml"))

    def test_who_is_killed_while_writing_leaves_the_old_file_or_the_new(self):
        cues = "".join(f"      {n}: step\n" for n in range(4000))
        before = "mobrin: 1\nmarks:\n  walk:\n    pivot: [1, 1]\n    cues:\n" + cues
        after = before + "      4000: step\n"
        seen = set()
        for wait in range(30):
            marks = self.write("k.marks.yaml", before)
            victim = subprocess.Popen([TOOL, "marks", marks, "--clip", "walk", "--add-cue", "4000=step"], stdout=subprocess.DEVNULL)
            try:
                victim.wait(timeout=0.005 * wait if wait < 28 else 60)
            except subprocess.TimeoutExpired:
                victim.kill()
                victim.wait()
            now = self.read("k.marks.yaml")
            self.assertIn(now, (before, after))
            seen.add(now == after)
        self.assertIn(True, seen, "some were let live")

    def test_the_name_beside_a_file_is_nobodys(self):
        marks = self.write("k.marks.yaml", "mobrin: 1\nmarks:\n  walk: {pivot: [1, 1]}\n")
        part = self.write("k.marks.yaml.part", "mine")
        os.mkdir(marks + ".tmp")
        os.chmod(marks, 0o640)
        self.assertEqual(run("marks", marks, "--clip", "walk", "--add-cue", "1=step")[0], 0)
        self.assertEqual(contents(part), b"mine")
        self.assertTrue(os.path.isdir(marks + ".tmp"))
        self.assertEqual(os.stat(marks).st_mode & 0o777, 0o640)
        self.assertEqual(sorted(os.listdir(self.folder.name)), ["k.marks.yaml", "k.marks.yaml.part", "k.marks.yaml.tmp"])

    def test_output_that_cannot_be_written_is_an_error_for_every_command(self):
        for command in (["check", KEEPER], ["list", KEEPER], ["marks", KEEPER], ["run", TAPE], ["schema"], ["explain", TAPE, "--at", "1s"],
                        ["--help"], ["check", KEEPER, "--json"]):
            with open("/dev/full", "w", encoding="utf-8") as full:
                done = subprocess.run([TOOL, *command], stdout=full, stderr=subprocess.PIPE, text=True, timeout=60)
            self.assertNotEqual(done.returncode, 0, command)
            self.assertIn("written", done.stderr, command)

    def test_no_name_forges_a_line_or_a_colour(self):
        for name, text in (("a", 'states: {a: {clip: "\\e[31mred\\nall is fine\\u202e"}}'), ("b", 'use: "\\e[31mfoo\\nbar.yaml"\nstates: {a: {}}'),
                           ("c", 'cues: {c: {kind: "x\\ny", words: "\\e[2Jgone\\r"}}\nstates: {a: {enter: [{tell: c}]}}')):
            path = self.write(name + ".yaml", f"mobrin: 1\nmachine: m\n{text}\n")
            for command in (["check"], ["run", "--until", "1s"], ["list"]):
                _, out, err = run(command[0], path, *command[1:])
                for line in (out + err).splitlines():
                    self.assertNotRegex(line, r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202e]", command)
                    self.assertFalse(line.startswith(("all is fine", "bar.yaml", "y")), line)

    def test_links_stay_links_and_pipes_are_written_to(self):
        hornet = os.path.join(DEMO, "hornet.yaml")
        real, link = self.write("real.pack", "old"), os.path.join(self.folder.name, "link.pack")
        os.symlink(real, link)
        self.assertEqual(run("pack", hornet, "-o", link)[0], 0)
        self.assertTrue(os.path.islink(link))
        self.assertGreater(len(contents(real)), 1000)
        pipe = os.path.join(self.folder.name, "pipe.mmd")
        os.mkfifo(pipe)
        with subprocess.Popen(["cat", pipe], stdout=subprocess.PIPE, text=True) as reader:
            self.assertEqual(run("draw", hornet, "-o", pipe)[0], 0)
            self.assertIn("stateDiagram", reader.communicate(timeout=20)[0])

    def test_import_writes_clips_and_holds_the_marks_against_them(self):
        art = os.path.join(self.folder.name, "art")
        os.mkdir(art)
        for number in range(3):
            shutil.copy(os.path.join(DEMO, "smoker.png"), os.path.join(art, f"puff_{number}.png"))
        out = os.path.join(self.folder.name, "smoke.clips.yaml")
        code, text, err = run("import", art, "-o", out)
        self.assertEqual((code, err), (0, ""))
        self.assertIn("1 clip, 3 frames, no findings", text)
        code, text, _ = run("check", out)  # it can be read, and its three pictures are one
        self.assertEqual(code, 1)
        self.assertIn("1 warning", text)
        self.assertIn('the clip "puff" shows the same picture in all its frames', text)
        self.write("smoke.marks.yaml", "mobrin: 1\nmarks: {puff: {cues: {2: out}}, haze: {cues: {0: out}}}\n")
        code, _, err = run("import", art, "-o", out)
        self.assertEqual(code, 1)
        self.assertIn('smoke.marks.yaml:2:33: error: there is no clip "haze"', err)
        os.remove(os.path.join(art, "puff_2.png"))
        before, marks = contents(out), self.read("smoke.marks.yaml")
        code, text, err = run("import", art, "-o", out)
        self.assertEqual((code, text), (1, ""))
        self.assertIn('lost   ', err)
        self.assertIn('smoke.marks.yaml:2: the cue out of "puff" is lost: its picture puff_2.png is gone', err)
        self.assertIn("Nothing was written, for something would be lost. Run it with `--yes`", err)
        self.assertEqual((contents(out), self.read("smoke.marks.yaml")), (before, marks))
        code, text, err = run("import", art, "-o", out, "--dry-run")
        self.assertIn("is lost", text)
        self.assertIn("Nothing was written (--dry-run).", text)
        self.assertEqual((contents(out), self.read("smoke.marks.yaml")), (before, marks))
        code, text, err = run("import", art, "-o", out, "--yes", "--json", "--fps", "30000/1001", "--play", "loop x2")
        self.assertEqual(len(json.loads(text)["losses"]), 1)
        self.assertEqual(self.read("smoke.marks.yaml"), "mobrin: 1\nmarks: {puff: {cues: {}}, haze: {cues: {0: out}}}\n")
        self.assertEqual(json.loads(text)["clips"], [{"name": "puff", "frames": 2, "ticks": SECOND * 2 * 1001 // 30000, "play": "loop x2"}])
        for wrong, words in ((["--tile", "48"], "`--tile 48` is no size"), (["--row", "1:a"], "speak of a sheet"),
                             (["--tile", "8x8", "--row", "x"], "`--row x` is no row"), (["--fps", "0"], "")):
            code, _, err = run("import", art, "-o", out, *wrong)
            self.assertEqual(code, 2, wrong)
            self.assertIn(words, err)
        self.assertEqual(run("import", art, "-o", "/nowhere/x.clips.yaml")[0], 1)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
