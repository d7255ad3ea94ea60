#!/usr/bin/env python3
"""What the pages show is so: C++ compiles, or is part of an example that runs; files are sound; commands run; every
command, key and finding has its place."""
import json
import os
import pathlib
import re
import shutil
import subprocess
import sys
import tempfile
import unittest

ROOT, COMPILER, TOOL = pathlib.Path(sys.argv[1]), sys.argv[2], sys.argv[3]
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
GUIDE = sorted((ROOT / "docs/guide").glob("*.md"))

# What stands around a page's blocks of C++, in their order: includes and what is declared beforehand, by page.
COMMON = """#include <cmath>
#include <cstdio>
#include <string>
#include <vector>
#include "mobrin/contact/arena.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/pack/pack.hpp"
#include "mobrin/probe/probe.hpp"
void play(std::string_view); void write_file(const std::string&); void flee(); void report(const std::string&);
void handle(std::uint32_t, const mobrin::Cue&); void hurt(std::uint32_t, double);
struct Sprite { void show(const mobrin::CrowdShown&); };
struct Character { mobrin::Participant who, participant; mobrin::Instance instance; int health; void hurt(const mobrin::BoxDef*); };
struct Hornet { mobrin::Participant who; mobrin::Member member; };
"""
GAME = ("mobrin::Machine machine, mobrin::Instance hornet, mobrin::Instance keeper, mobrin::Instance reloaded, float stick_x, double dt_seconds, "
        "mobrin::Ticks dt, mobrin::Ticks now, std::vector<Character> characters, mobrin::Router router, const mobrin::Cue cue")
FRAMES = {
    "README.md": ["double dt = dt_seconds; (void)dt;"],
    "docs/crowd.md": ["mobrin::Input<float> distance; mobrin::Pulse stunned; std::vector<std::uint32_t> places; std::vector<float> values, all_values;"
                      "std::vector<mobrin::CrowdShown> shown;", "mobrin::Crowd hornets(machine); std::vector<Sprite> sprites;"],
    "docs/pack.md": ["std::span<const std::byte> bytes;", None],  # the second needs a header: see below
    "docs/live.md": [""],
    "docs/blending.md": ["mobrin::Vec2 velocity, facing; double walk_speed = 1; int eighth_before = 0;"],
    "docs/space.md": ["", "mobrin::Crowd crowd(machine); std::vector<Hornet> hornets; mobrin::ArenaGame game;", "",
                      "mobrin::Placement placement; std::uint32_t self = 0; std::vector<mobrin::Candidate> candidates; mobrin::TagNames tags; std::vector<mobrin::Target> found;"],
}
# What makes a part of a file a whole one.
WHOLE = {
    "tracks: {angle": "machine: m\nclips: {lid: {frames: [0-5], fps: 8}}\nstates: {a: {clip: lid}}\n%s",
    "points:\n": "machine: m\ninputs: {right: 0.0, ahead: 0.0}\nclips: {stand: {frames: [0], fps: 5, play: loop}, walk: {frames: [0-3], fps: 5, play: loop}, side: {frames: [0-3], fps: 5, play: loop}}\n%s",
    "tags: [keeper], inside: keeper_near, enter": "machine: m\ninputs: {keeper_near: false, came: pulse, went: pulse}\n%sstates: {a: {go: [{pulse: came, to: a, restart: true}]}}\n",
}


def blocks(page, language):
    return re.findall(rf"^```{language}\n(.*?)^```$", page.read_text(), re.S | re.M)


def in_demo(arguments, folder, code=0):
    run = subprocess.run([TOOL, *arguments], cwd=folder, capture_output=True, text=True, timeout=120)
    return run.returncode == code, run.stdout + run.stderr


class Code(unittest.TestCase):
    def compile(self, text, language="c++", flags=("-std=c++20",)):
        with tempfile.TemporaryDirectory() as folder:
            unit = pathlib.Path(folder) / "unit"
            unit.write_text(text)
            done = subprocess.run([COMPILER, "-x", language, *flags, "-fsyntax-only", "-I", ROOT / "include", "-I", folder, unit], capture_output=True, text=True, timeout=120)
        return done.returncode, done.stderr

    def test_cpp_of_the_pages_compiles(self):
        includes, bodies, seen = "", "", 0
        for page in PAGES:
            name = str(page.relative_to(ROOT))
            found = blocks(page, "cpp")
            self.assertEqual(len(found), len(FRAMES.get(name, [])), f"{name}: its frames are in {__file__}")
            for block, frame in zip(found, FRAMES.get(name, [])):
                if frame is None:
                    continue
                seen += 1
                # A mistake is told with the page and its block's line.
                line = page.read_text()[:page.read_text().index(block)].count("\n") + 1
                includes += "".join(each + "\n" for each in block.splitlines() if each.startswith("#include"))
                body = "".join(("" if each.startswith("#include") else each) + "\n" for each in block.splitlines())
                bodies += f'void game_{seen}({GAME}) {{ {{\n{frame}\n{{\n#line {line} "{name}"\n{body}}} }} }}\n'
        code, said = self.compile(COMMON + includes + bodies)
        self.assertEqual(code, 0, said)
        self.assertGreater(seen, 8)

    def test_the_header_of_a_machine(self):
        with tempfile.TemporaryDirectory() as folder:
            header = pathlib.Path(folder) / "hornet.hpp"
            subprocess.run([TOOL, "pack", ROOT / "demo/apiary/hornet.yaml", "--cpp", header, "--class", "Hornet"], check=True, capture_output=True)
            block = blocks(ROOT / "docs/pack.md", "cpp")[1].replace("...", ";").replace('#include "hornet.hpp"', "")
            code, said = self.compile(f"{header.read_text()}\nvoid game(mobrin::Instance one, mobrin::Cue cue) {{ {block} }}\n")
            self.assertEqual(code, 0, said)

    def test_c_of_the_pages_compiles(self):
        block = blocks(ROOT / "docs/c.md", "c")[0].replace('#include "mobrin/c/mobrin.h"', "")
        frame = ('#include <stdio.h>\n#include "mobrin/c/mobrin.h"\nvoid heard(const mobrin_cue*); void draw(const mobrin_picture*);\n'
                 "void game(const void* bytes, size_t size, double dt, int faces_left) {\n%s}\n")
        code, said = self.compile(frame % block, "c", ("-std=c99", "-Wall", "-Werror"))
        self.assertEqual(code, 0, said)

    def test_the_guide_is_part_of_what_runs(self):
        programs = (ROOT / "examples/guide.cpp").read_text()
        squeeze = lambda text: re.sub(r"\s+", " ", text).strip()
        seen = 0
        for page in GUIDE:
            for block in blocks(page, "cpp"):
                self.assertIn(squeeze(block), squeeze(programs), f"{page.name}: no part of examples/guide.cpp:\n{block}")
                seen += 1
        self.assertGreater(seen, 8)


class Files(unittest.TestCase):
    def test_files_of_the_pages_are_sound(self):
        seen = 0
        with tempfile.TemporaryDirectory() as folder:
            demo = pathlib.Path(folder) / "apiary"
            shutil.copytree(ROOT / "demo/apiary", demo)
            for page in PAGES:
                if page.name == "checking.md":  # its files are mistakes; findings_test.py holds them to their findings
                    continue
                for block in blocks(page, "yaml"):
                    text = block
                    if not block.startswith("mobrin: 1"):
                        frames = [frame for key, frame in WHOLE.items() if key in block]
                        text = "mobrin: 1\n" + (frames[0] % block if frames else "")
                        if block.startswith("claims:"):
                            keeper = (demo / "keeper.yaml").read_text()
                            text = keeper[:keeper.index("claims:")] + block
                        self.assertNotEqual(text, "mobrin: 1\n", f"{page.name}: nothing makes a file of\n{block}")
                    (demo / "shown.yaml").write_text(text)
                    out = json.loads(subprocess.run([TOOL, "check", "shown.yaml", "--json"], cwd=demo, capture_output=True, text=True, timeout=60).stdout)
                    wrong = [each for each in out["files"][0]["findings"] if each.get("level", each.get("severity")) == "error"]
                    self.assertEqual(wrong, [], f"{page.name}:\n{text}")
                    self.assertTrue(out["files"][0]["sound"], block)
                    seen += 1
        self.assertGreater(seen, 6)

    def test_the_moves_do_what_the_guide_says(self):
        run = lambda *words: subprocess.run([TOOL, *words], cwd=ROOT / "examples/guide", capture_output=True, text=True, timeout=300)
        played = run("test", ".")
        self.assertEqual(played.returncode, 0, played.stdout)
        self.assertIn("passed  scout.tape.yaml  22 expectations", played.stdout.replace("./", ""))
        proved = run("prove", "scout.yaml")
        self.assertEqual([line.split()[0] for line in proved.stdout.splitlines()], ["proved"] * 5, proved.stdout)
        # A jump that the ground ends at once is told before it is played.
        scout = (ROOT / "examples/guide/scout.yaml").read_text()
        rule = "          - {pulse: jump, when: jumps > 0, to: rise"
        self.assertIn(rule, scout)
        with tempfile.TemporaryDirectory() as folder:
            (pathlib.Path(folder) / "m.yaml").write_text(scout.replace(rule, "          - {when: grounded, to: ground}\n" + rule))
            told = subprocess.run([TOOL, "check", "m.yaml"], cwd=folder, capture_output=True, text=True, timeout=300).stdout
        self.assertIn("it takes \"jump\"", told)
        self.assertIn("A run that shows it: steps: [", told)

    def test_files_of_the_guide_are_parts_of_those_that_run(self):
        whole = [re.sub(r"[ \t]+", " ", path.read_text()) for path in [*(ROOT / "demo/apiary").glob("*.yaml"), *(ROOT / "examples/guide").glob("*.yaml")]]
        seen = 0
        for page in GUIDE:
            for block in blocks(page, "yaml"):
                parts = re.sub(r"[ \t]+", " ", block).splitlines()
                if parts[0].rstrip(":") in ("states", "clips", "marks", "looks", "zones"):
                    parts = parts[1:]  # of the part only some lines are shown
                text = "\n".join(parts)
                self.assertTrue(any(text in each for each in whole), f"{page.name}: in no file:\n{block}")
                seen += 1
        self.assertGreater(seen, 8)


class Commands(unittest.TestCase):
    def test_commands_of_the_pages_run(self):
        seen = 0
        for page in [*PAGES, *GUIDE]:
            with tempfile.TemporaryDirectory() as folder:
                demo = pathlib.Path(folder) / "apiary"
                shutil.copytree(ROOT / "demo/apiary", demo)
                for block in blocks(page, "sh"):
                    for line in block.splitlines():
                        words, _, remark = line.partition("#")
                        words = words.split()
                        if not words or words[0] != "mobrin" or (words[1] == "live" and "--help" not in words):
                            continue
                        code = 1 if "exit 1" in remark or words[1] == "prove" else 0
                        fine, said = in_demo(words[1:], demo, code)
                        if words[1] == "prove" and not fine:
                            fine, said = in_demo(words[1:], demo, 0)
                        self.assertTrue(fine, f"{page.name}: {line}\n{said}")
                        seen += 1
        self.assertGreater(seen, 15)

    def test_every_command_is_in_the_pages(self):
        text = "\n".join(page.read_text() for page in [*PAGES, *GUIDE])
        listed = re.findall(r"^  ([a-z]+) +[A-Z]", subprocess.run([TOOL, "--help"], capture_output=True, text=True).stdout, re.M)
        self.assertGreater(len(listed), 15)
        for command in listed:
            self.assertTrue(re.search(rf"mobrin {command}\b", text), f"no page says `mobrin {command}`")

    def test_every_finding_is_in_the_pages(self):
        text = (ROOT / "docs/checking.md").read_text()
        codes = re.findall(r'X\(\w+, "([a-z-]+)", \w+,\s*\\?\s*"(.)', (ROOT / "include/mobrin/core/finding_codes.hpp").read_text())
        self.assertGreater(len(codes), 25)
        for code, first in codes:
            if first != '"':  # with more to say than its message
                self.assertTrue(code in text, f"docs/checking.md does not say {code}")

    def test_the_readme_is_short_and_begins_with_what_it_is(self):
        lines = (ROOT / "README.md").read_text().splitlines()
        self.assertLess(len(lines), 150)
        head = "\n".join(lines[:16])
        for part in ["Animation state machines for gameplay programmers", "./dev demo", "./dev test", "](docs/screenshots/"]:
            self.assertIn(part, head)

    def test_links_lead_somewhere(self):
        for page in [*PAGES, *GUIDE]:
            prose = re.sub(r"^```.*?^```$", "", page.read_text(), flags=re.S | re.M)
            for target in re.findall(r"\]\(([^)# ]+)(?:#[^)]*)?\)", prose):
                if "://" not in target:
                    self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")


unittest.main(argv=[sys.argv[0]] + sys.argv[4:])
