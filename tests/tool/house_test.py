#!/usr/bin/env python3
"""The house rules: dependencies point down the list only, headers and sources include what they name, core knows only the standard library.
With `alone`: every public header compiles by itself."""
import os
import re
import subprocess
import sys
import tempfile
import unittest

ROOT, COMPILER = sys.argv[1:3]
ALONE = sys.argv[3:] == ["alone"]
STRICT = ["-std=c++20", "-Wall", "-Wextra", "-Werror", "-fno-exceptions", "-fno-rtti"]

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


# Which standard headers give a name of `std::`.
GIVEN_BY = {
    **{name: {name} for name in ("string", "vector", "optional", "span", "variant", "deque", "map", "set", "array", "chrono")},
    "string_view": {"string_view", "string"},
    **{f"{sign}int{bits}_t": {"cstdint"} for sign in ("", "u") for bits in (8, 16, 32, 64)},
    "size_t": {"cstddef", "string", "string_view", "vector", "span", "array", "optional", "memory"},
    "byte": {"cstddef", "span"},
    "pair": {"utility", "map", "vector", "string"},
    "move": {"utility", "string", "vector", "optional", "memory", "variant", "span"},
    "swap": {"utility", "string", "vector", "optional", "memory", "variant"},
    "exchange": {"utility"},
    "shared_ptr": {"memory"},
    "unique_ptr": {"memory"},
    "function": {"functional"},
    "less": {"functional", "map", "set", "string"},
    "type_identity_t": {"type_traits"},
    "is_floating_point_v": {"type_traits"},
    "integral": {"concepts"},
    "signed_integral": {"concepts"},
    "invocable": {"concepts"},
    "nothrow": {"new"},
    "bad_alloc": {"new"},
    "align_val_t": {"new"},
    "bit_cast": {"bit"},
    "abort": {"cstdlib"},
    "puts": {"cstdio"},
    "strong_ordering": {"compare"},
    "numeric_limits": {"limits"},
    "min": {"algorithm"},
    "initializer_list": {"initializer_list"},
    "pmr": {"memory_resource"},
}


def included(header, text, seen):
    """The standard headers that a public one includes, by way of others of ours, too."""
    found = set()
    for name in re.findall(r'^\s*#\s*include\s*[<"]([^>"]+)[>"]', text, re.M):
        if not name.startswith("mobrin/"):
            found.add(name)
        elif name not in seen:
            seen.add(name)
            with open(os.path.join(ROOT, "include", name), encoding="utf-8") as stream:
                found |= included(name, stream.read(), seen)
    return found


def missing_standard(header, text=None):
    """Names of the standard library for which a header includes nothing that gives them."""
    if text is None:
        with open(os.path.join(ROOT, "include", header), encoding="utf-8") as stream:
            text = stream.read()
    there = included(header, text, {header})
    code = re.sub(r'//[^\n]*|"(?:[^"\\\n]|\\.)*"', "", re.sub(r"^\s*#.*$", "", text, flags=re.M))
    return sorted({f"std::{name}" for name in re.findall(r"\bstd::([a-z_0-9]+)", code) if not GIVEN_BY.get(name, set()) & there})


def sources():
    for top in ("src", "include/mobrin"):
        for folder, _, names in os.walk(os.path.join(ROOT, top)):
            for name in names:
                if name.endswith((".cpp", ".hpp")):
                    path = os.path.join(folder, name)
                    yield os.path.relpath(path, ROOT), os.path.relpath(path, os.path.join(ROOT, top)).split(os.sep)[0]


# At the left margin of a header: a type, or a function whose name is of several words.
DECLARES = re.compile(r"^(?:class|struct|enum class) ([A-Z]\w{4,})|^(?:\[\[nodiscard\]\] |inline |constexpr )*[\w:<>,&* ]+?[&* ](\w+_\w+)\(", re.M)


def bare(text):
    """Code without comments and what stands in quotes."""
    text = re.sub(r'R"\w*\(.*?\)\w*"', '""', text, flags=re.S)
    return re.sub(r"//[^\n]*", "", re.sub(r'"(?:\\.|[^"\\\n])*"', '""', text))


class Reach:
    """Which names of public headers each source may use: those of what it includes. Sources are compiled many at a time,
    so that the compiler does not see where one leans on what another includes."""

    def __init__(self):
        self.texts = {}
        for top in ("include", "src", "tests", "bench"):
            for folder, _, names in os.walk(os.path.join(ROOT, top)):
                for name in names:
                    if name.endswith(".hpp"):
                        path = os.path.join(folder, name)
                        with open(path, encoding="utf-8") as stream:
                            self.texts[os.path.relpath(path, ROOT)] = stream.read()
        self.declared = {}
        for path, text in self.texts.items():
            for names in DECLARES.findall(bare(text)):
                self.declared.setdefault("".join(names), set()).add(path)

    def included(self, path, text, seen):
        module = os.sep.join(path.split(os.sep)[:2])
        for name in re.findall(r'^\s*#\s*include\s*["<]([^">]+)[">]', text, re.M):
            for folder in ("include", os.path.dirname(path), module, "src/core", "src/io"):
                found = os.path.normpath(os.path.join(folder, name))
                if found in self.texts and found not in seen:
                    seen.add(found)
                    self.included(found, self.texts[found], seen)
        return seen

    def missing(self, path, text):
        seen, code = self.included(path, text, set()), bare(text)
        own = {"".join(names) for names in DECLARES.findall(code)}
        own |= set(re.findall(r"\b(?:class|struct|using|auto&?) (\w+)", code)) | set(re.findall(r"::(\w+)", code))
        own |= {name for header in seen for name in re.findall(r"^ +(?:class|struct) (\w+)", self.texts[header], re.M)}
        for name in sorted(set(re.findall(r"(?<![\w.>])(\w+_\w+)\(|(?<![\w.>])([A-Z]\w{4,})\b", code))):
            name = "".join(name)
            headers = self.declared.get(name, set())
            if len(headers) == 1 and not headers & seen and name not in own and min(headers).startswith("include/"):
                yield f"{path}: {name} needs {min(headers)}"


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


def written():
    """Every file that is written by hand and compiled or run."""
    for top in ("include", "src", "tests", "bench", "examples", "docs", "demo"):
        for folder, _, names in os.walk(os.path.join(ROOT, top)):
            yield from (os.path.join(folder, name) for name in names if name.endswith((".hpp", ".h", ".cpp", ".c", ".py", ".sh", ".js", ".css", ".cmake", ".txt")))


class House(unittest.TestCase):
    def test_no_file_is_longer_than_500_lines(self):
        lengths = {}
        for path in written():
            with open(path, encoding="utf-8") as stream:
                lengths[path] = sum(1 for _ in stream)
        self.assertGreater(len(lengths), 300)
        self.assertEqual({path: length for path, length in lengths.items() if length > 500}, {})

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
        asks = re.compile(r"__int128|\b(strtod|strtof|stod|stof|atof|sscanf|setlocale|localeconv)\b|printf\([^;]*%[-+0-9.*]*[aefgAEFG]")
        for path, module in sources():
            if module != "cli":
                with open(os.path.join(ROOT, path), encoding="utf-8") as stream:
                    self.assertIsNone(asks.search(stream.read()), path)

    # Each by itself. Most of the time goes into reading the standard library anew for each, so it is read once here, and
    # what a header needs of it is looked up by name; `./dev headers` does without that.
    @unittest.skipUnless(ALONE, "./dev headers")
    def test_public_headers_compile_alone(self):
        headers = [os.path.relpath(path, "include") for path, _ in sources() if path.startswith("include/")]
        self.assertGreater(len(headers), 10)
        with tempfile.TemporaryDirectory() as folder:
            unit = os.path.join(folder, "unit.cpp")
            for header in headers:
                with open(unit, "w", encoding="utf-8") as stream:
                    stream.write(f'#include "{header}"\n')
                done = subprocess.run([COMPILER, *STRICT, "-fsyntax-only", "-I", os.path.join(ROOT, "include"), unit],
                                      capture_output=True, text=True, timeout=120)
                self.assertEqual(done.returncode, 0, f"{header}:\n{done.stderr}")

    def test_public_headers_include_what_they_name_of_the_standard_library(self):
        missing = {path: missing_standard(os.path.relpath(path, "include")) for path, _ in sources() if path.startswith("include/")}
        self.assertEqual({path: names for path, names in missing.items() if names}, {})

    def test_the_check_sees_what_is_not_included(self):
        self.assertEqual(missing_standard("x.hpp", "#include <cstdint>\nstd::vector<std::int32_t> x;  // std::deque\n"), ["std::vector"])
        self.assertEqual(missing_standard("x.hpp", "std::uint8_t x = std::no_such_name;"), ["std::no_such_name", "std::uint8_t"])
        self.assertEqual(missing_standard("x.hpp", '#include "mobrin/core/definition.hpp"\nstd::variant<std::vector<int>> x;'), [])

    def test_sources_include_what_they_name_of_public_headers(self):
        reach, missing = Reach(), []
        for top in ("src", "tests", "bench", "examples"):
            for folder, _, names in os.walk(os.path.join(ROOT, top)):
                for name in (name for name in names if name.endswith(".cpp")):
                    path = os.path.join(folder, name)
                    with open(path, encoding="utf-8") as stream:
                        missing += reach.missing(os.path.relpath(path, ROOT), stream.read())
        self.assertEqual(missing, [])
        self.assertEqual(list(reach.missing("src/cli/x.cpp", "auto x = path_remedy(path, words);  // Image")),
                         ["src/cli/x.cpp: path_remedy needs include/mobrin/io/file.hpp"])
        self.assertEqual(list(reach.missing("tests/x.cpp", '#include "mobrin/io/file.hpp"\nauto x = path_remedy(path); Image y;')),
                         ["tests/x.cpp: Image needs include/mobrin/io/image.hpp"])

    def test_misuse_of_handles_does_not_compile(self):
        frame = """void use(mobrin::Instance& it, mobrin::Input<float> number, mobrin::Input<bool> flag, mobrin::Pulse pulse, mobrin::State state) {{ {} }}"""
        flags = ["-std=c++20", "-I", os.path.join(ROOT, "include")]
        with tempfile.TemporaryDirectory() as folder:
            header, unit = os.path.join(folder, "all.hpp"), os.path.join(folder, "unit.cpp")
            with open(header, "w", encoding="utf-8") as stream:
                stream.write('#include "mobrin/core/instance.hpp"\n')
            subprocess.run([COMPILER, *flags, "-x", "c++-header", header, "-o", header + ".gch"], check=True, timeout=120)

            def compiles(code):
                with open(unit, "w", encoding="utf-8") as stream:
                    stream.write(frame.format(code))
                return subprocess.run([COMPILER, *flags, "-include", header, "-fsyntax-only", unit], capture_output=True, timeout=120).returncode == 0

            for sound, broken in (("it.set(number, 1.0f);", "it.set(pulse, 1.0f);"), ("it.set(flag, true);", "it.set(flag, mobrin::Choice{});"),
                                  ("it.pulse(pulse);", "it.pulse(flag);"), ("(void)it.in(state);", "(void)it.in(pulse);"),
                                  ("it.freeze(mobrin::milliseconds(60));", "it.freeze(60);")):
                self.assertTrue(compiles(sound), sound)
                self.assertFalse(compiles(broken), broken)

    def test_every_room_is_in_the_house_plan(self):
        with open(os.path.join(ROOT, "docs/architecture.md"), encoding="utf-8") as stream:
            plan = stream.read()
        for module in {module for _, module in sources()}:
            self.assertIn(f"`src/{module}/`", plan)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]] + ["House.test_public_headers_compile_alone"] * ALONE)
