"""What the tests of the command-line tool share: the tool as a process, and a folder of a test's own."""
import json
import os
import struct
import subprocess
import sys
import tempfile
import unittest

TOOL, ROOT = sys.argv[1], sys.argv[2]
DEMO = os.path.join(ROOT, "demo/apiary")
KEEPER = os.path.join(DEMO, "keeper.yaml")
TAPE = os.path.join(DEMO, "keeper.tape.yaml")
SECOND = 705_600_000


def run(*arguments, **options):
    done = subprocess.run([TOOL, *arguments], capture_output=True, text=True, timeout=60, **options)
    return done.returncode, done.stdout, done.stderr


def png_size(path):
    with open(path, "rb") as stream:
        head = stream.read(24)
    assert head[:8] == b"\x89PNG\r\n\x1a\n"
    return struct.unpack(">II", head[16:24])


def contents(path):
    with open(path, "rb") as stream:
        return stream.read()


class ToolCase(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def write(self, name, text):
        path = os.path.join(self.folder.name, name)
        with open(path, "w", encoding="utf-8") as stream:
            stream.write(text)
        return path

    def read(self, name):
        with open(os.path.join(self.folder.name, name), encoding="utf-8") as stream:
            return stream.read()

    def lines(self, *arguments):
        code, out, err = run(*arguments)
        self.assertEqual(code, 0, err)
        return [json.loads(line) for line in out.splitlines()]
