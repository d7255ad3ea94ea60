#!/usr/bin/env python3
"""The house rules: dependencies point down the list only, public headers compile alone, core knows only the standard library."""
import os
import re
import subprocess
import sys
import tempfile
import unittest

ROOT, COMPILER = sys.argv[1], sys.argv[2]

# module: the modules it may include, itself aside. docs/architecture.md draws the same arrows.
ARROWS = {
    "core": set(),
    "io": {"core"},
    "draw": {"core", "io"},
    "cli": {"core", "io", "draw"},
}
STANDARD_ONLY = {"core"}
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
            if "/" in name:
                found.append(f"{path} includes {name} of another room")
        elif module in STANDARD_ONLY and not STANDARD.match(name):
            found.append(f"{path} includes <{name}>, which is no standard header")
        elif path.startswith("include/") and not STANDARD.match(name):
            found.append(f"{path}, a public header, includes <{name}>")
    return found


class House(unittest.TestCase):
    def test_includes_follow_the_arrows(self):
        wrong = []
        for path, module in sources():
            with open(os.path.join(ROOT, path), encoding="utf-8") as stream:
                wrong += broken_arrows(path, module, stream.read())
        self.assertEqual(wrong, [])

    def test_the_check_sees_a_broken_arrow(self):
        self.assertTrue(broken_arrows("src/core/x.cpp", "core", '#include "mobrin/io/load.hpp"\n'))
        self.assertTrue(broken_arrows("src/core/x.cpp", "core", "#include <yaml-cpp/yaml.h>\n"))
        self.assertTrue(broken_arrows("src/io/x.cpp", "io", '#include "../core/engine.hpp"\n'))
        self.assertTrue(broken_arrows("include/mobrin/io/x.hpp", "io", "#include <png.h>\n"))
        self.assertFalse(broken_arrows("src/io/x.cpp", "io", '#include <png.h>\n#include "mobrin/core/time.hpp"\n#include "reader.hpp"\n'))

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

    def test_every_room_is_in_the_house_plan(self):
        with open(os.path.join(ROOT, "docs/architecture.md"), encoding="utf-8") as stream:
            plan = stream.read()
        for module in {module for _, module in sources()}:
            self.assertIn(f"`src/{module}/`", plan)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])
