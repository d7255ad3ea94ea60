#!/usr/bin/env python3
"""What goes wrong underneath: a full disk, a kill, files that cannot be read, no memory, at calls spread over all of them (at each
with MOBRIN_FAULTS=all, except for memory: a thousand of those). Old files stay whole, an error is clear, nothing hangs."""
import errno
import os
import pathlib
import shutil
import signal
import subprocess
import sys
import tempfile
import unittest

TOOL, ROOT, COMPILER = sys.argv[1], pathlib.Path(sys.argv[2]), sys.argv[3]
DEMO = ROOT / "demo/apiary"
PLACE = tempfile.TemporaryDirectory()
SHIM = os.path.join(PLACE.name, "shim.so")
subprocess.run([COMPILER, "-x", "c", "-shared", "-fPIC", "-O1", "-o", SHIM, ROOT / "tests/tool/fault_shim.c", "-ldl"], check=True)

TAPE = "mobrin: 1\ntape: t\nmachine: ../smoker.yaml\nuntil: 1s\n"
MINE = "mobrin: 1\nclips:\n  walk: {sheet: keeper.png, tile: [48, 40], frames: [8-13], fps: 14, play: loop}\n"
# Commands that write, in a folder with the demo's files.
WRITING = [
    ["marks", "keeper.marks.yaml", "--clip", "walk", "--add-cue", "0=step"],
    ["import", "puff.png", "--tile", "16x16", "-o", "puff.clips.yaml"],
    ["import", "keeper.png", "--tile", "48x40", "--row", "1:walk", "--row", "2:net", "-o", "mine.clips.yaml"],
    ["pack", "smoker.yaml", "-o", "old.pack", "--cpp", "old.hpp"],
    ["draw", "smoker.yaml", "-o", "old.svg"],
    ["sheet", "puff.yaml", "-o", "old.png"],
    ["run", "smoker.tape.yaml", "--picture", "old.png"],
    ["cover", "smoker.yaml", "-o", "tapes"],
    ["test", "tapes", "--keep"],
    ["manual", "-o", "manual"],
    ["new", "drone"],
]
# As it is before each of them, with what they wrote at another time.
BEGUN = pathlib.Path(PLACE.name) / "apiary"
shutil.copytree(DEMO, BEGUN)
for words in (["pack", "hive.yaml", "-o", "old.pack", "--cpp", "old.hpp"], ["draw", "hive.yaml", "-o", "old.svg"], ["sheet", "hornet.yaml", "-o", "old.png"]):
    subprocess.run([TOOL, *words], cwd=BEGUN, check=True, capture_output=True)
(BEGUN / "mine.clips.yaml").write_text(MINE)
(BEGUN / "tapes").mkdir()
(BEGUN / "tapes/t.tape.yaml").write_text(TAPE)


def everything_in(folder):
    """The bytes of its files by their names; None of what is no file, as of folders."""
    return {str(path.relative_to(folder)): path.read_bytes() if path.is_file() else None for path in sorted(folder.rglob("*"))}


EVERYTHING = everything_in(BEGUN)


class Faults(unittest.TestCase):
    def setUp(self):
        self.temporary = tempfile.TemporaryDirectory()
        self.folder = pathlib.Path(self.temporary.name) / "apiary"
        self.begin()

    def tearDown(self):
        self.temporary.cleanup()

    def begin(self):
        if everything_in(self.folder) != EVERYTHING:
            shutil.rmtree(self.folder, ignore_errors=True)
            shutil.copytree(BEGUN, self.folder)

    def files(self):
        return {name: content for name, content in everything_in(self.folder).items() if content is not None}

    def run_with(self, command, on, at, fault):
        count = os.path.join(PLACE.name, "count")
        environment = dict(os.environ, LD_PRELOAD=SHIM, FAULT_ON=on, FAULT_AT=str(at), FAULT=str(fault), FAULT_COUNT=count)
        run = subprocess.run([TOOL, *command], cwd=self.folder, env=environment, capture_output=True, text=True, errors="replace", timeout=120)
        return run.returncode, run.stdout + run.stderr, count

    def calls(self, command, on):
        """How many calls of that kind a command makes, and what its files are when none fails."""
        self.begin()
        code, said, count = self.run_with(command, on, -1, 5)
        self.assertEqual(code, 0, f"{command}\n{said}")
        return int(pathlib.Path(count).read_text()), self.files()

    def at_each(self, count, most):
        """So many spread over them, the first and last among them; all of them with MOBRIN_FAULTS=all."""
        if os.environ.get("MOBRIN_FAULTS") == "all":
            most = 1000
        return range(1, count + 1) if count <= most else sorted({1 + i * (count - 1) // (most - 1) for i in range(most)})

    def whole(self, before, after, now, what):
        """Each file is what it was or what it becomes; others are the hidden ones that a kill leaves behind."""
        for name, text in now.items():
            if self.hidden(name):
                self.assertFalse(name in before)
                continue
            self.assertTrue(name in before or name in after, f"{what}: {name} is a new one")
            self.assertTrue(text in (before.get(name), after.get(name)), f"{what}: {name} is neither the old file nor the new one")
        for name in before:
            if name in after:
                self.assertTrue(name in now, f"{what}: {name} is gone")

    @staticmethod
    def hidden(name):
        return any(part.startswith(".") for part in name.split("/"))

    def test_a_kill_at_any_write_leaves_whole_files_and_does_no_harm_later(self):
        for command in WRITING:
            self.begin()
            before = self.files()
            count, after = self.calls(command, "any")
            self.assertGreater(count, 0, command)
            for at in self.at_each(count, 9):
                self.begin()
                code, _, _ = self.run_with(command, "any", at, "kill")
                self.assertEqual(code, -signal.SIGKILL, f"{command} at {at} of {count}")
                self.whole(before, after, self.files(), f"{command}, killed at {at} of {count}")
                if self.files() != after:
                    again = subprocess.run([TOOL, *command], cwd=self.folder, capture_output=True, text=True, timeout=120)
                    self.assertEqual(again.returncode, 0, f"{command} after a kill at {at}: {again.stderr}")

    def test_a_full_disk_and_a_failing_one_are_errors_that_leave_the_old_files(self):
        for command in WRITING:
            self.begin()
            before = self.files()
            for on, fault in (("write", errno.ENOSPC), ("fsync", errno.EIO), ("rename", errno.EACCES), ("create", errno.EROFS)):
                count, after = self.calls(command, on)
                for at in self.at_each(count, 4):
                    self.begin()
                    code, said, _ = self.run_with(command, on, at, fault)
                    what = f"{command}, {on} {at} of {count}"
                    now = self.files()
                    self.whole(before, after, now, what)
                    self.assertFalse([name for name in now if self.hidden(name)], f"{what} leaves a part behind")
                    if code == 0:  # a folder's fsync, which some file systems do not have
                        self.assertTrue(on == "fsync" and now == after, what)
                    else:
                        self.assertIn(code, (1, 2), f"{what}\n{said}")
                        self.assertRegex(said, r"cannot be (written|made)|written", what)

    def test_files_that_cannot_be_read_are_named(self):
        for command in (["check", "keeper.yaml"], ["run", "dusk.scene.yaml"], ["pack", "hornet.yaml", "-o", "new.pack"], ["sheet", "keeper.yaml", "-o", "new.png"]):
            count, _ = self.calls(command, "read")
            failed = 0
            for at in self.at_each(count, 10):
                code, said, _ = self.run_with(command, "read", at, errno.EIO)
                self.assertIn(code, (0, 1, 2), f"{command}, read {at}\n{said}")
                failed += code != 0
                if code != 0:
                    self.assertRegex(said, r"cannot be (read|opened|decoded)|keeper|hornet|shared|dusk", f"{command}, read {at}")
            self.assertGreater(failed, 0, command)

    def test_no_memory_ends_a_command_with_words(self):
        # Not `check`: the prover that it asks is not ours, and crashes there.
        for command in (["list", "keeper.yaml"], ["pack", "keeper.yaml", "-o", "old.pack"], ["import", "keeper.png", "--tile", "48x40", "--row", "2:net", "-o", "mine.clips.yaml", "--yes"],
                        ["run", "keeper.tape.yaml", "--json"]):
            self.begin()
            before = self.files()
            count, after = self.calls(command, "memory")
            self.assertGreater(count, 1000)
            for at in self.at_each(count, 20):
                self.begin()
                code, said, _ = self.run_with(command, "memory", at, errno.ENOMEM)
                what = f"{command}, allocation {at} of {count}: {code}\n{said}"
                self.whole(before, after, self.files(), what)
                # The game part stops the program where there is none left (docs/c.md); nothing crashes.
                self.assertIn(code, (0, 1, 2, -signal.SIGABRT), what)
                if code in (1, 2):
                    self.assertTrue(said.strip(), what)

    def test_what_is_no_file_where_one_should_be_is_named(self):
        os.makedirs(self.folder / "a.yaml")
        os.mkfifo(self.folder / "pipe.yaml")
        os.symlink("loop.yaml", self.folder / "loop.yaml")
        os.symlink("nowhere.yaml", self.folder / "dangling.yaml")
        for name in ("a.yaml", "pipe.yaml", "loop.yaml", "dangling.yaml"):
            for command in (["check", name], ["list", name], ["run", name], ["pack", name, "-o", "x.pack"], ["marks", name, "--clip", "a", "--add-cue", "0=b"]):
                run = subprocess.run([TOOL, *command], cwd=self.folder, capture_output=True, text=True, timeout=20)
                self.assertIn(run.returncode, (1, 2), f"{command}: {run.stdout}{run.stderr}")
                self.assertIn(name.split(".")[0], run.stdout + run.stderr)
        for command in (["pack", "hornet.yaml", "-o", "a.yaml"], ["import", "puff.png", "--tile", "16x16", "-o", "a.yaml"], ["draw", "hornet.yaml", "-o", "a.yaml/x/y.svg"]):
            run = subprocess.run([TOOL, *command], cwd=self.folder, capture_output=True, text=True, timeout=20)
            self.assertNotEqual(run.returncode, 0, command)
            self.assertTrue(os.path.isdir(self.folder / "a.yaml"))

    def test_a_file_that_changes_while_it_is_read_does_no_harm(self):
        path = self.folder / "keeper.yaml"
        text = path.read_text()
        code = "import sys\npath, text = sys.argv[1], open(sys.argv[1]).read()\nwhile True:\n" \
               "    for cut in (len(text), len(text) // 2, 10, 0):\n        open(path, 'w').write(text[:cut])\n"
        with subprocess.Popen([sys.executable, "-c", code, path]) as writer:
            try:
                for _ in self.at_each(1000, 30):
                    run = subprocess.run([TOOL, "check", "keeper.yaml"], cwd=self.folder, capture_output=True, text=True, timeout=60)
                    self.assertIn(run.returncode, (0, 1, 2), run.stderr)
            finally:
                writer.kill()
        path.write_text(text)


unittest.main(argv=[sys.argv[0]] + sys.argv[4:])
