#!/usr/bin/env python3
"""mobrin new: what it makes is sound, does what its tape says, and builds; with no art, some, odd and wrong art."""
import os
import pathlib
import shutil
import struct
import subprocess
import sys
import tempfile
import unittest

from made_art import png

TOOL, ROOT, BUILD, COMPILER = sys.argv[1], pathlib.Path(sys.argv[2]), sys.argv[3], sys.argv[4]


class New(unittest.TestCase):
    def setUp(self):
        self.folder = pathlib.Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)

    def run_tool(self, *args, code=0):
        run = subprocess.run([TOOL, *map(str, args)], capture_output=True, text=True, cwd=self.folder, timeout=120)
        self.assertEqual(run.returncode, code, f"{args}: {run.stdout}{run.stderr}")
        return run.stdout + run.stderr

    def sound(self, name, folder=None):
        folder = folder or name
        self.assertIn("fine", self.run_tool("check", f"{folder}/{name}.yaml"))
        out = self.run_tool("test", folder)
        self.assertIn("1 passed, 0 failed", out)
        self.assertFalse(list(self.folder.glob(".*")), "something was left over")

    def test_without_art_it_builds_and_runs(self):
        out = self.run_tool("new", "keeper")
        self.assertIn("mobrin live keeper/keeper.yaml", out)
        self.sound("keeper")
        self.assertEqual(len((self.folder / "keeper/README.md").read_text().splitlines()), 7)
        prefix = self.folder / "prefix"
        subprocess.run(["cmake", "--install", BUILD, "--prefix", prefix], check=True, stdout=subprocess.DEVNULL)
        build = self.folder / "keeper/build"
        subprocess.run(["cmake", "-S", self.folder / "keeper", "-B", build, f"-DCMAKE_PREFIX_PATH={prefix}", f"-DCMAKE_CXX_COMPILER={COMPILER}"],
                       check=True, stdout=subprocess.DEVNULL)
        subprocess.run(["cmake", "--build", build], check=True, stdout=subprocess.DEVNULL)
        run = subprocess.run([build / "keeper_game"], capture_output=True, text=True)
        self.assertEqual(run.returncode, 0, run.stdout)
        for what in ["step (sound)", "act_lands (damage)  act frame 2", "shows art/move_", "gone: remove me"]:
            self.assertIn(what, run.stdout)

    def test_what_it_prints_can_be_pasted_wherever_it_lies(self):
        folder = "our games/the sister's"
        out = self.run_tool("new", "sister", "-o", folder)
        self.assertIn("mobrin live 'our games/the sister'\\''s/sister.yaml'\n", out)
        line = next(each for each in out.splitlines() if each.startswith("Try it:")).removeprefix("Try it:").strip()
        done = subprocess.run(["sh", "-c", line.replace("mobrin", f"'{TOOL}'", 1)], cwd=self.folder, capture_output=True, text=True)
        self.assertIn("1 passed, 0 failed", done.stdout, done.stderr)

    def test_a_folder_named_with_its_path(self):
        for path in ["pets/sister", "pets/brother/"]:
            self.run_tool("new", path)
            self.sound(path.split("/")[1], path.rstrip("/"))

    def test_clips_of_the_art_take_their_parts(self):
        art = self.folder / "pictures"
        for name, count in [("Idle", 3), ("Walk", 4), ("SwingNet", 6), ("Wave", 2)]:
            for i in range(count):
                png(art / f"{name}_{i}.png", shade=20 + 30 * i)
        out = self.run_tool("new", "sister", "--art", art, "-o", "made/it")
        self.assertIn("stand  shows Idle", out)
        self.assertIn("act    shows SwingNet", out)
        self.assertIn("No clip's name says that it shows hurt, down", out)
        self.sound("sister", "made/it")
        made = self.folder / "made/it"
        self.assertEqual((made / "art/Walk_2.png").read_bytes(), (art / "Walk_2.png").read_bytes())
        self.assertIn("accept: [unused-clip]", (made / "sister.yaml").read_text())
        # Stand-ins are as high as the art.
        self.assertEqual(struct.unpack(">II", (made / "art/hurt_0.png").read_bytes()[16:24]), (24, 24))
        # Drawn over, and imported again: it stays sound, and the timing stays.
        png(made / "art/hurt_0.png", 24, 24)
        self.run_tool("import", "made/it/art", "-o", "made/it/sister.clips.yaml")
        self.sound("sister", "made/it")

    def test_odd_art(self):
        for name, clips in {
            "one": {"idle": 1},
            "true_name": {"yes": 2, "no-idle": 3, "Attack 1": 2},  # words that YAML takes for something else
            "all_one": {"idle_walk_attack_hurt_die": 4},  # one clip that could be every part
            "nested": {"body/walk": 3, "body/idle": 2, "extra/die": 2},
            "long_one": {"swing": 60},
        }.items():
            art = self.folder / f"art_{name}"
            for clip, count in clips.items():
                for i in range(count):
                    png(art / f"{clip}_{i}.png", shade=10 + 3 * i)
            self.run_tool("new", name, "--art", art)
            self.sound(name)

    def test_sheets_and_moving_pictures_of_the_demo(self):
        """Art that is no row of numbered pictures says what to do, or is taken as it is."""
        out = self.run_tool("new", "flier", "--art", ROOT / "demo/apiary")
        self.assertIn("stand-ins", out)
        self.assertIn("runs", self.run_tool("check", "flier/flier.yaml", code=1))  # four characters at once do jump
        self.assertIn("1 passed, 0 failed", self.run_tool("test", "flier"))

    def test_within_the_folder_of_its_pictures(self):
        art = self.folder / "art_of_all"
        for i in range(3):
            png(art / f"walk_{i}.png", shade=20 + 30 * i)
        run = subprocess.run([TOOL, "new", "first", "--art", "."], capture_output=True, text=True, cwd=art, timeout=60)
        self.assertEqual(run.returncode, 0, run.stderr)
        made = sorted(path.name for path in (art / "first/art").iterdir())
        self.assertEqual([name for name in made if name.startswith("walk")], ["walk_0.png", "walk_1.png", "walk_2.png"])
        self.assertNotIn("first", made)
        self.sound("first", "art_of_all/first")

    def test_what_is_wrong_is_named_where_it_lies(self):
        for i in range(2):
            png(self.folder / f"pictures/walk_{i}.png", 20 + i, 24)
        self.assertIn("bee/art/walk_1.png", self.run_tool("new", "bee", "--art", "pictures"))  # two sizes: a warning
        (self.folder / "pictures/idle_0.png").write_bytes(b"no picture")
        out = self.run_tool("new", "wasp", "--art", "pictures", code=1)
        self.assertIn("pictures/idle_0.png", out)
        self.assertNotIn(".wasp.new", out)

    def test_what_is_refused(self):
        self.assertIn("cannot be a character's name", self.run_tool("new", "9lives", code=2))
        self.assertIn("cannot be a character's name", self.run_tool("new", "..", code=2))
        self.assertIn("cannot be a character's name", self.run_tool("new", "pets/bee", "-o", "other", code=2))
        self.assertIn("cannot be a character's name", self.run_tool("new", "class", code=2))
        self.assertIn("is not there", self.run_tool("new", "bee", "--art", "nowhere", code=1))
        sheet = str(ROOT / "demo/apiary/keeper.png")
        self.assertIn("is one file. Name the folder", self.run_tool("new", "bee", "--art", sheet, code=1))
        (self.folder / "empty").mkdir()
        self.assertIn("no pictures", self.run_tool("new", "bee", "--art", "empty", code=1))
        self.assertFalse((self.folder / "bee").exists())
        (self.folder / "bee").mkdir()
        (self.folder / "bee/notes.txt").write_text("mine")
        self.assertIn("is there already", self.run_tool("new", "bee", code=2))
        self.assertEqual((self.folder / "bee/notes.txt").read_text(), "mine")
        art = self.folder / "broken"
        art.mkdir()
        (art / "idle_0.png").write_bytes(b"\x89PNG\r\n\x1a\nbroken")
        self.assertIn("nothing was made", self.run_tool("new", "wasp", "--art", "broken", code=1))
        self.assertFalse((self.folder / "wasp").exists())
        self.assertFalse(list(self.folder.glob(".*")))
        if os.getuid() != 0:
            self.folder.chmod(0o500)
            self.run_tool("new", "late", code=1)
            self.folder.chmod(0o700)


unittest.main(argv=[sys.argv[0]] + sys.argv[5:])
