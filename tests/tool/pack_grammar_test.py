#!/usr/bin/env python3
"""The grammar on docs/pack.md is enough to read a pack: every demo machine's is read by it to its last byte."""
import os
import re
import struct
import subprocess
import sys
import tempfile
import unittest

TOOL, ROOT = sys.argv[1:3]
PAGE = os.path.join(ROOT, "docs/pack.md")
NUMBERS = {"bool": "?", "word": "B", "u8": "B", "u16": "H", "u32": "I", "u64": "Q", "i32": "i", "i64": "q", "f32": "f", "f64": "d"}


def parts(text, mark):
    """What stands between marks that are in no brackets."""
    depth, out = 0, [""]
    for at, char in enumerate(text):
        depth += {"(": 1, ")": -1}.get(char, 0)
        if depth == 0 and text.startswith(mark, at):
            out.append("")
        elif not (depth == 0 and at > 0 and text.startswith(mark, at - 1) and len(mark) == 2):
            out[-1] += char
    return [each.strip() for each in out]


class Reading:
    def __init__(self, rules, data, names):
        self.rules, self.data, self.names, self.at = rules, data, names, 0

    def number(self, kind):
        form = "<" + NUMBERS[kind]
        size = struct.calcsize(form)
        value = struct.unpack_from(form, self.data, self.at)[0]
        self.at += size
        return value

    def row(self, text):
        for part in parts(text, ", "):
            self.value(part)

    def value(self, part):
        """One value of a row: its type's words come first, then its name."""
        bracket = re.match(r"(three times|list|variant [\w ]+|variant|word [\w ]+) \((.*)\)([\w ]*)$", part)
        words = part.split()
        if bracket and bracket.group(1) == "three times":
            for _ in range(3):
                self.row(bracket.group(2))
        elif words[0] == "word":
            self.number("word")
        elif words[0] == "variant":
            options = parts(bracket.group(2), "/")
            self.value(options[self.number("word")] + " it")
        elif words[0] == "list":
            count = self.number("u32")
            element = bracket.group(2) if bracket else " ".join(words[1:])
            for _ in range(count):
                self.value(element)
        elif words[0] == "optional":
            if self.number("bool"):
                self.value(" ".join(words[1:]))
        elif part.startswith("pair of "):
            self.value(words[2])
            self.value(words[2])
        elif words[0] == "range":
            self.number("u32"), self.number("u32")
        elif words[0] == "place":
            if self.names:
                self.number("u16"), self.number("u32"), self.number("u32")
        elif words[0] in ("text", "name"):
            size = self.number("u32")
            self.data[self.at:self.at + size].decode("utf-8")
            self.at += size
            if words[-1] == "place" and len(words) > 1:
                self.value("place")
        elif words[0] in NUMBERS:
            self.number(words[0])
        else:
            self.row(self.rules[words[0]])


class Grammar(unittest.TestCase):
    def setUp(self):
        with open(PAGE, encoding="utf-8") as stream:
            page = stream.read()
        body = page.split("<!-- body -->")[1].split("<!-- end -->")[0]
        lines = re.sub(r"\n    ", " ", body).split("\n")
        self.rules = dict(line.split(" = ", 1) for line in lines if " = " in line)

    def test_the_page_is_the_generated_one(self):
        made = subprocess.run([sys.executable, os.path.join(ROOT, "docs/pack_grammar.py")], capture_output=True, text=True, check=True)
        with open(PAGE, encoding="utf-8") as stream:
            self.assertIn(made.stdout, stream.read(), "run ./dev pictures")

    def test_reads_the_packs_of_the_demo_to_the_last_byte(self):
        demo = os.path.join(ROOT, "demo/apiary")
        read = 0
        with tempfile.TemporaryDirectory() as folder:
            for machine in ("bee", "hive", "hornet", "keeper", "smoker"):
                file = os.path.join(demo, machine + ".yaml")
                if not os.path.exists(file):
                    continue
                for more in ([], ["--no-names"]):
                    out = os.path.join(folder, "m.pack")
                    subprocess.run([TOOL, "pack", file, "-o", out, *more], capture_output=True, check=True)
                    with open(out, "rb") as stream:
                        data = stream.read()
                    magic, version, flags, size = struct.unpack_from("<8sIIQ", data)
                    self.assertEqual((magic, version, flags, size), (b"MOBRINPK", 4, 0 if more else 1, len(data) - 40))
                    reading = Reading(self.rules, data[40:], not more)
                    reading.row(self.rules["body"])
                    self.assertEqual(reading.at, size, (machine, more))
                    read += 1
        self.assertGreaterEqual(read, 6)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])
