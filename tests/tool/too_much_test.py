"""Small files that ask for much: answered soon, within bounded memory, with what to do instead."""

import json
import os
import random
import resource
import struct
import subprocess
import sys
import tempfile
import unittest
import zlib

TOOL = sys.argv[1]
MEMORY = 768 << 20  # of address space: what a check may take at most


def limit():
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


# A tool that watches over its own memory reserves more than that before it begins.
LIMIT = limit if subprocess.run([TOOL, "--version"], capture_output=True, preexec_fn=limit).returncode == 0 else None


def run(*arguments):
    done = subprocess.run([TOOL, *arguments], capture_output=True, text=True, timeout=120, preexec_fn=LIMIT)
    return done.returncode, done.stdout, done.stderr


def states(count, way):
    """So many states, each with three rules that lead where way(state, rule) says."""
    lines = [f"  s{i:05d}: {{go: [" + ", ".join(f"{{pulse: p{k}, to: {way(i, k)}}}" for k in range(3)) + "]}" for i in range(count)]
    return "mobrin: 1\nmachine: m\ninputs: {p0: pulse, p1: pulse, p2: pulse}\ninitial: s00000\nstates:\n" + "\n".join(lines) + "\n"


def png(width, height, shade):
    """One colour, the only one of its palette, in as few bytes as it takes."""
    data = zlib.compress(bytes((1 + (width + 7) // 8) * height), 9)
    head = struct.pack(">IIBBBBB", width, height, 1, 3, 0, 0, 0)
    chunks = [(b"IHDR", head), (b"PLTE", bytes([shade, 10, 10])), (b"IDAT", data), (b"IEND", b"")]
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body)) for name, body in chunks)


class TooMuch(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = folder.name

    def write(self, name, content):
        path = os.path.join(self.folder, name)
        with open(path, "wb") as file:
            file.write(content if isinstance(content, bytes) else content.encode())
        return path

    def test_aliases_of_a_long_text(self):
        text = "mobrin: 1\nmachine: m\na: &a " + "x" * 100_000 + "\nb: [" + ", ".join(["*a"] * 3_000) + "]\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 1)
        self.assertIn("the file takes more than 128 MiB of memory [too-large]", out)
        self.assertIn("aliases (`*name`) count each time they are used", out)

    def test_brackets_on_one_line(self):
        text = "mobrin: 1\nmachine: m\nstates: [" + ", ".join(["[]      "] * 400_000) + " }\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 1)
        self.assertIn("m.yaml:3:4000009: error: `}` stands here, but the `[` of column 9 is open [bad-yaml]", out)

    def test_anchors_within_anchors(self):
        depth = 1_500
        text = "mobrin: 1\na: " + "".join(f"&a{i} [" for i in range(depth)) + "x" * 60_000 + "]" * depth + "\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 1)
        self.assertRegex(out, "takes more than 128 MiB of memory|has more than 500000 values|nests too deeply")

    def test_many_clips_of_many_frames(self):
        clips = "\n".join(f"  c{i}: {{frames: [0-9999], fps: 10, play: loop}}" for i in range(1_000))
        code, out, _ = run("check", self.write("m.yaml", f"mobrin: 1\nmachine: m\nclips:\n{clips}\nstates: {{s: {{clip: c0}}}}\n"))
        self.assertEqual(code, 1)
        self.assertIn("more than 500000 frames in all clips together [too-large]", out)

    def test_thousands_of_misspelt_names(self):
        path = self.write("m.yaml", states(1_000, lambda i, k: f"stat{(i * 7 + k) % 1_000:05d}"))
        code, out, _ = run("check", path)
        self.assertEqual(code, 1)
        self.assertEqual(out.count("[unknown-name]"), 200)
        self.assertIn('Did you mean "s00007"?', out)
        self.assertIn(f"... and 800 more; `mobrin check {path} --json` lists all of them\n1000 errors  {path}  will not run\n", out)
        findings = json.loads(run("check", path, "--json")[1])["files"][0]["findings"]
        self.assertEqual(len(findings), 3_000)

    def test_thousands_of_lines_in_the_wrong_place(self):
        many = range(20_000)
        for name, lines, told in (
                ("again", [f"states: {{k{i}: {{}}}}" for i in many], "stands here a second time"),
                ("inside", ["states:", "  a:", "    length: 1s"] + [f"    b{i}: {{length: 1s}}" for i in many], "stands inside \"a\""),
                ("beside", ["states:"] + [f"  a{i}: {{}}\n  go: []" for i in many], "is a key of a state"),
                ("left", ["clips:"] + [f"c{i}: {{length: 1s}}" for i in many], "is written like a clip")):
            code, out, err = run("check", self.write(f"{name}.yaml", "mobrin: 1\nmachine: m\n" + "\n".join(lines) + "\n"))
            self.assertEqual(code, 1, name)
            self.assertIn(told, out + err)

    def test_half_a_million_characters_that_look_like_others(self):
        many = 60_000
        for name, text, told in (
                ("spaces", "machine: a" + "\u00a0" * 500_000 + "b\nstates: {a: {}}", "fine"),
                ("behind", "machine: m\nstates: {a: {}}\n" + ("\u00a0" * 40 + "\n") * 20_000, "19999 more lines have such"),
                ("decimals", "machine: m\nstates: {" + "a: 0,5," * many + "}", "ends the value"),
                ("calls", "machine: m\nstates: {" + "a: max(0, min(b, 2)), " * many + "}", "is cut at its comma"),
                ("curly", "machine: m\nstates: {" + "a: “b, c”, " * many + "}", "are none to YAML"),
                ("open", "machine: m\nstates: {a: " + "\"b\n  c\", d: " * many + "[}", "is open"),
                ("brackets", "machine: m\nstates: " + "[" * 40 + "\n" + "# x\n" * many, "is not closed")):
            code, out, err = run("check", self.write(f"{name}.yaml", f"mobrin: 1\n{text}\n"))
            self.assertIn(code, (0, 1), name)
            self.assertIn(told, out + err, name)

    def test_errors_come_first_where_not_all_is_told(self):
        clips = "\n".join(f"  c{i}: {{frames: [0], fps: 10}}" for i in range(400))
        text = f"mobrin: 1\nmachine: m\nclips:\n{clips}\nstates: {{s: {{clip: c0, go: [{{to: nowhere}}]}}}}\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 1)
        self.assertIn('there is no state "nowhere" [unknown-name]', out)

    def test_images_that_open_to_gigabytes(self):
        names = [f"f_{i}.png" for i in range(30)]
        image = png(8192, 8192, 5)
        for name in names:
            self.write(name, image)
        text = f"mobrin: 1\nmachine: m\nclips: {{c: {{images: [{', '.join(names)}], fps: 10, play: loop}}}}\nstates: {{s: {{clip: c}}}}\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 0, "it runs, and nothing is wrong with it for all that is known")
        self.assertIn("hint: 30 images were not looked at, the first is f_0.png [art-left-out]", out)

    def test_art_that_counts_once_though_it_is_read_again(self):
        # More than is held at a time (64 megapixels), looked at twice: first whether it is there, then at its pixels.
        names = [f"f_{i}.png" for i in range(9)]
        for i, name in enumerate(names):
            self.write(name, png(4096, 4096, i if i < 8 else 7))
        text = f"mobrin: 1\nmachine: m\nclips: {{c: {{images: [{', '.join(names)}], fps: 10, play: once}}}}\nstates: {{s: {{clip: c}}}}\n"
        code, out, _ = run("check", self.write("m.yaml", text))
        self.assertEqual(code, 1)
        self.assertIn("shows the same picture in the frames 7 and 8 [equal-neighbours]", out)
        self.assertNotIn("art-left-out", out)

    def test_a_picture_of_a_run_that_tells_millions(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ncues: {k: {kind: sound}}\nclips: {c: {frames: [0, 1], fps: 2000, play: loop}}\n"
                          "marks: {c: {cues: {0: k}}}\nstates: {s: {clip: c}}\n")
        picture = os.path.join(self.folder, "run.png")
        code, _, err = run("run", path, "--until", "200s", "--picture", picture)
        self.assertEqual(code, 1)
        self.assertIn("more than 50000 cues and states: too much for one picture", err)
        self.assertIn("Draw less of the run: `--from 1s --to 3s`", err)
        self.assertFalse(os.path.exists(picture))
        code, out, _ = run("run", path, "--until", "200s", "--from", "199.9s", "--picture", picture)
        self.assertEqual(code, 0)
        self.assertTrue(os.path.exists(picture))

    def test_graphs_of_many_arrows(self):
        chance = random.Random(1)
        path = self.write("m.yaml", states(1_000, lambda i, k: f"s{chance.randrange(1_000):05d}"))
        target = os.path.join(self.folder, "m.svg")
        code, _, err = run("draw", path, "--out", target)
        self.assertEqual(code, 1)
        self.assertIn('the graph of "m" has 3000 arrows, too many to follow one', err)
        self.assertFalse(os.path.exists(target))
        self.assertEqual(run("draw", path, "--state", "s00003", "--out", target)[0], 0)
        self.assertEqual(run("draw", path, "--out", os.path.join(self.folder, "m.dot"))[0], 0)
        chance = random.Random(2)
        path = self.write("n.yaml", states(150, lambda i, k: f"s{chance.randrange(150):05d}"))
        self.assertEqual(run("draw", path, "--out", target)[0], 0)
        with open(target, encoding="utf-8") as file:
            self.assertEqual(file.read().count('class="edge"'), 451, "450 rules and where it begins")


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])
