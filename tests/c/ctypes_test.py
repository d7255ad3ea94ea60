"""The C interface from Python: runs the demo's tapes through it and compares each record with what the tool tells; and
headers, library, docs/c.md and the recorded interface agree."""
import ctypes
import json
import pathlib
import re
import resource
import subprocess
import sys
import tempfile
import unittest

import interface

TOOL, ROOT, GAME, FILES = sys.argv[1], pathlib.Path(sys.argv[2]), sys.argv[3], sys.argv[4]
WHAT = ["cue", "enter", "leave", "loop", "done", "fault"]


class Cue(ctypes.Structure):
    _fields_ = [("machine", ctypes.c_void_p), ("at", ctypes.c_int64), ("ordinal", ctypes.c_uint32), ("transition", ctypes.c_uint32),
                ("frame", ctypes.c_int32), ("fields", ctypes.c_uint32), ("cue", ctypes.c_uint16), ("state", ctypes.c_uint16),
                ("clip", ctypes.c_uint16), ("what", ctypes.c_uint8), ("edge", ctypes.c_uint8)]


Handler = ctypes.CFUNCTYPE(None, ctypes.c_void_p, ctypes.POINTER(Cue))


def open_library(path):
    lib = ctypes.CDLL(path)
    for name in ["mobrin_machine_from_file", "mobrin_machine_from_pack", "mobrin_tape_from_file", "mobrin_instance_new",
                 "mobrin_crowd_new", "mobrin_bytes_new"]:
        if hasattr(lib, name):
            getattr(lib, name).restype = ctypes.c_void_p
    for name in ["mobrin_cue_name", "mobrin_cue_state", "mobrin_cue_clip", "mobrin_tape_machine", "mobrin_text_data"]:
        if hasattr(lib, name):
            getattr(lib, name).restype = ctypes.c_char_p
    lib.mobrin_hash.restype = ctypes.c_uint64
    return lib


def declared():
    text = interface.read(ROOT / "include")
    files = (ROOT / "include/mobrin/c/mobrin_files.h").read_text()
    names = lambda header: set(re.findall(r"^MOBRIN_API [^(]*?\b(mobrin_\w+)\(", header, re.M))
    return names(text), names(files)


def exported(path):
    out = subprocess.run(["nm", "-D", "--defined-only", path], capture_output=True, text=True, check=True).stdout
    return {line.split()[2].split("@")[0] for line in out.splitlines() if line.split()[1] == "T"}


class Records(unittest.TestCase):
    def test_tapes_tell_what_the_tool_tells(self):
        lib = open_library(FILES)
        runs = 0
        for tape_file in sorted((ROOT / "demo/apiary").glob("*.tape.yaml")):
            out = subprocess.run([TOOL, "run", tape_file, "--json", "--rate", "60"], capture_output=True, text=True).stdout
            wanted = [json.loads(line) for line in out.splitlines()]
            wanted = [(each["ticks"], each["what"], each.get("cue") or each.get("state"), each.get("clip"), each.get("frame", -1))
                      for each in wanted if each["what"] in WHAT]
            tape = lib.mobrin_tape_from_file(str(tape_file).encode(), None, None)
            self.assertTrue(tape, tape_file)
            machine = lib.mobrin_machine_from_file(lib.mobrin_tape_machine(ctypes.c_void_p(tape)), None)
            self.assertTrue(machine, tape_file)
            it = ctypes.c_void_p(lib.mobrin_instance_new(ctypes.c_void_p(machine), None))
            told = []

            def hear(_, cue):
                one = cue.contents
                what = WHAT[one.what]
                name = lib.mobrin_cue_name(cue) if what == "cue" else lib.mobrin_cue_state(cue)
                clip = lib.mobrin_cue_clip(cue).decode() or None
                told.append((one.at, what, name.decode(), clip, one.frame))

            self.assertEqual(lib.mobrin_tape_run(ctypes.c_void_p(tape), it, ctypes.c_int64(60), Handler(hear), None, 0x3f), 1)
            self.assertEqual([each[:3] for each in told], [each[:3] for each in wanted], tape_file)
            self.assertEqual([each for each in told if each[1] == "cue"], [each for each in wanted if each[1] == "cue"])
            self.assertGreater(len(told), 10)
            runs += 1
            lib.mobrin_instance_free(it)
            lib.mobrin_tape_free(ctypes.c_void_p(tape))
            lib.mobrin_machine_free(ctypes.c_void_p(machine))
        self.assertGreaterEqual(runs, 4)

    def test_a_game_needs_no_files(self):
        packed = ROOT / "tests/golden/machine.pack"
        lib = open_library(GAME)
        data = packed.read_bytes()
        machine = lib.mobrin_machine_from_pack(data, ctypes.c_size_t(len(data)), ctypes.c_uint64(0), None)
        self.assertTrue(machine)
        it = lib.mobrin_instance_new(ctypes.c_void_p(machine), None)
        self.assertNotEqual(lib.mobrin_hash(ctypes.c_void_p(it)), 0)
        needed = subprocess.run(["readelf", "-d", GAME], capture_output=True, text=True, check=True).stdout
        libraries = set(re.findall(r"NEEDED.*\[(\w+)[-.\w]*\.so", needed))
        self.assertLessEqual(libraries, {"libstdc++", "libm", "libc", "libgcc_s", "ld", "libasan", "libubsan"}, libraries)

    def test_no_memory_stops_the_program(self):
        code = ("import ctypes, resource, sys; lib = ctypes.CDLL(sys.argv[1]); data = open(sys.argv[2], 'rb').read();"
                "lib.mobrin_machine_from_pack.restype = lib.mobrin_crowd_new.restype = ctypes.c_void_p;"
                "m = lib.mobrin_machine_from_pack(data, ctypes.c_size_t(len(data)), ctypes.c_uint64(0), None);"
                "c = lib.mobrin_crowd_new(ctypes.c_void_p(m), None);"
                "resource.setrlimit(resource.RLIMIT_AS, (1 << 30, 1 << 30));"
                "lib.mobrin_crowd_reserve(ctypes.c_void_p(c), ctypes.c_uint32(400000000)); print('went on')")
        run = subprocess.run([sys.executable, "-c", code, GAME, ROOT / "tests/golden/machine.pack"], capture_output=True, text=True,
                             preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_CORE, (0, 0)))
        self.assertLess(run.returncode, 0, run.stdout)
        self.assertNotIn("went on", run.stdout)


class Agreement(unittest.TestCase):
    def test_what_is_declared_is_there_and_nothing_else(self):
        game, files = declared()
        self.assertGreater(len(game), 200)
        self.assertEqual(exported(GAME), game)
        self.assertEqual(exported(FILES), game | files)

    def test_every_function_is_in_the_documentation(self):
        text = (ROOT / "docs/c.md").read_text()
        game, files = declared()
        known = set(re.findall(r"`(mobrin_\w+)`", text))
        self.assertEqual(sorted((game | files) - known), [], "not in docs/c.md")
        types = set(re.findall(r"\bmobrin_\w+\b", interface.read(ROOT / "include")))
        types |= set(re.findall(r"\bmobrin_\w+\b", (ROOT / "include/mobrin/c/mobrin_files.h").read_text()))
        self.assertEqual(sorted(known - types), [], "docs/c.md names what is not there")

    def compare(self, change=lambda text: text):
        with tempfile.TemporaryDirectory() as folder:
            built = pathlib.Path(folder) / "libmobrin.so"
            interface.build(ROOT / "include", built, change)
            return subprocess.run(["abidiff", "--no-added-syms", ROOT / "tests/c/libmobrin.abi", built], capture_output=True, text=True)

    def test_the_interface_is_the_recorded_one(self):
        """What was promised stays. Whoever adds something runs `./dev abi`."""
        run = self.compare()
        self.assertEqual(run.returncode, 0, run.stdout + run.stderr)

    def test_a_broken_promise_is_seen(self):
        for kept, broken in [("  uint32_t ordinal;", "  uint64_t ordinal;"), ("mobrin_advance(", "mobrin_advances("),
                             ("int32_t mobrin_choice_index(", "int64_t mobrin_choice_index(")]:
            def change(text):
                self.assertIn(kept, text)
                return text.replace(kept, broken, 1)
            run = self.compare(change)
            self.assertNotEqual(run.returncode, 0, run.stdout)


unittest.main(argv=[sys.argv[0]] + sys.argv[5:])
