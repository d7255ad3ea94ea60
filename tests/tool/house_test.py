#!/usr/bin/env python3
"""The house rules: dependencies point down the list only, public headers compile alone, core knows only the standard library."""
import os
import re
import subprocess
import sys
import tempfile
import unittest

ROOT, COMPILER, TOOL = sys.argv[1:4]

# module: the modules it may include, itself aside. docs/architecture.md draws the same arrows.
ARROWS = {
    "core": set(),
    "contact": {"core"},
    "pack": {"core"},
    "check": {"core", "contact"},
    "io": {"core", "contact"},
    "draw": {"core", "contact", "io"},
    "prove": {"core", "check", "io"},
    "probe": {"core", "pack"},
    "c": {"core", "contact", "pack", "io"},  # io in the library that reads files only
    "live": {"core", "contact", "pack", "check", "io", "draw", "prove", "probe"},
    "cli": {"core", "contact", "pack", "check", "io", "draw", "prove", "live"},
}
# The rooms within core: each includes those before it.
CORE_ROOMS = ["machine", "expression", "definition", "compile", "engine", "instance", "crowd"]
CORE_FRIENDS = {("machine", "expression")}  # what tables hold of expressions, and expressions read off tables
STANDARD_ONLY = {"core", "contact", "pack"}
STANDARD = re.compile(r"^[a-z_]+$")


def sources():
    for top in ("src", "include/mobrin"):
        for folder, _, names in os.walk(os.path.join(ROOT, top)):
            for name in names:
                if name.endswith((".cpp", ".hpp")):
                    path = os.path.join(folder, name)
                    yield os.path.relpath(path, ROOT), os.path.relpath(path, os.path.join(ROOT, top)).split(os.sep)[0]


def broken_arrows(path, module, text):
    """What a file includes against the arrows."""
    found = []
    for mark, name in re.findall(r'^\s*#\s*include\s*([<"])([^>"]+)[>"]', text, re.M):
        if name.startswith("mobrin/"):
            other = name.split("/")[1]
            if other != module and other not in ARROWS[module]:
                found.append(f"{path} includes {name}")
        elif mark == '"':
            if "/" in name and name.split("/")[0] not in CORE_ROOMS:
                found.append(f"{path} includes {name} of another room")
            elif module == "core" and not within_core(path.split("/")[2], name.split("/")[0]):
                found.append(f"{path} includes {name}, of a later room of core")
        elif module in STANDARD_ONLY and not STANDARD.match(name):
            found.append(f"{path} includes <{name}>, which is no standard header")
        elif path.startswith("include/") and not STANDARD.match(name):
            found.append(f"{path}, a public header, includes <{name}>")
    return found


def within_core(room, other):
    return room in CORE_ROOMS and other in CORE_ROOMS and (
        CORE_ROOMS.index(other) <= CORE_ROOMS.index(room) or (room, other) in CORE_FRIENDS)


class House(unittest.TestCase):
    def test_includes_follow_the_arrows(self):
        wrong = []
        for path, module in sources():
            with open(os.path.join(ROOT, path), encoding="utf-8") as stream:
                wrong += broken_arrows(path, module, stream.read())
        self.assertEqual(wrong, [])

    def test_the_check_sees_a_broken_arrow(self):
        self.assertTrue(broken_arrows("src/core/engine/x.cpp", "core", '#include "mobrin/io/load.hpp"\n'))
        self.assertTrue(broken_arrows("src/core/x.cpp", "core", "#include <yaml-cpp/yaml.h>\n"))
        self.assertTrue(broken_arrows("src/io/x.cpp", "io", '#include "../core/engine.hpp"\n'))
        self.assertTrue(broken_arrows("include/mobrin/io/x.hpp", "io", "#include <png.h>\n"))
        self.assertFalse(broken_arrows("src/io/x.cpp", "io", '#include <png.h>\n#include "mobrin/core/time.hpp"\n#include "reader.hpp"\n'))

    def test_public_core_headers_are_light(self):
        heavy = re.compile(r"#include <(chrono|functional|memory|memory_resource|iostream|sstream|regex|map|set|unordered_map|algorithm)>")
        for path, module in sources():
            if path.startswith("include/") and module in ("core", "contact", "pack"):
                with open(os.path.join(ROOT, path), encoding="utf-8") as stream:
                    self.assertIsNone(heavy.search(stream.read()), path)

    def test_the_library_asks_no_locale_and_no_compiler_for_more_than_64_bits(self):
        asks = re.compile(r"__int128|\b(strtod|strtof|stod|stof|atof|sscanf|setlocale|localeconv)\b")
        for path, module in sources():
            if module != "cli":
                with open(os.path.join(ROOT, path), encoding="utf-8") as stream:
                    self.assertIsNone(asks.search(stream.read()), path)

    def test_public_headers_compile_alone(self):
        headers = [path for path, _ in sources() if path.startswith("include/")]
        self.assertGreater(len(headers), 10)
        with tempfile.TemporaryDirectory() as folder:
            for header in headers:
                unit = os.path.join(folder, "unit.cpp")
                with open(unit, "w", encoding="utf-8") as stream:
                    stream.write(f'#include "{os.path.relpath(header, "include")}"\n')
                done = subprocess.run([COMPILER, "-std=c++20", "-Wall", "-Wextra", "-Werror", "-fno-exceptions", "-fno-rtti", "-fsyntax-only",
                                       "-I", os.path.join(ROOT, "include"), unit], capture_output=True, text=True, timeout=120)
                self.assertEqual(done.returncode, 0, f"{header}:\n{done.stderr}")

    def compiles(self, code):
        with tempfile.TemporaryDirectory() as folder:
            unit = os.path.join(folder, "unit.cpp")
            with open(unit, "w", encoding="utf-8") as stream:
                stream.write(code)
            return subprocess.run([COMPILER, "-std=c++20", "-fsyntax-only", "-I", os.path.join(ROOT, "include"), unit], capture_output=True, text=True, timeout=120)

    def test_misuse_of_handles_does_not_compile(self):
        frame = """#include "mobrin/core/instance.hpp"
            void use(mobrin::Instance& it, mobrin::Input<float> number, mobrin::Input<bool> flag, mobrin::Pulse pulse, mobrin::State state) {{ {} }}"""
        for sound, broken in (("it.set(number, 1.0f);", "it.set(pulse, 1.0f);"), ("it.set(flag, true);", "it.set(flag, mobrin::Choice{});"),
                              ("it.pulse(pulse);", "it.pulse(flag);"), ("(void)it.in(state);", "(void)it.in(pulse);"),
                              ("it.freeze(mobrin::milliseconds(60));", "it.freeze(60);")):
            self.assertEqual(self.compiles(frame.format(sound)).returncode, 0, sound)
            self.assertNotEqual(self.compiles(frame.format(broken)).returncode, 0, broken)

    def test_every_room_is_in_the_house_plan(self):
        with open(os.path.join(ROOT, "docs/architecture.md"), encoding="utf-8") as stream:
            plan = stream.read()
        for module in {module for _, module in sources()}:
            self.assertIn(f"`src/{module}/`", plan)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])
