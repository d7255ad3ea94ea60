#!/usr/bin/env python3
"""The JSON Schema agrees with the loader: what one takes the other takes; the committed copies are the generated ones."""
import copy
import glob
import json
import os
import subprocess
import sys
import tempfile
import unittest
from random import Random

import jsonschema
import yaml

TOOL, ROOT = sys.argv[1], sys.argv[2]

SOUND = [
    {"machine": "m", "states": {"a": None}},
    {"machine": "m", "initial": "a", "inputs": {"v": {"float": 0, "min": -1, "max": 1, "grain": 0.1}, "b": True, "n": 3, "p": "pulse", "q": {"pulse": "90ms"}, "c": {"one_of": ["x", "y"], "start": "y"}},
     "vars": {"w": 1.5}, "go": [{"when": "n > 4", "to": "b"}],
     "states": {"a": {"go": [{"pulse": "p", "to": "b", "restart": True}, {"after": "1.5s", "to": "b", "do": ["w = 1", {"tell": "k"}]}]},
                "b": {"final": True, "linger": "2s", "clip": "c", "speed": "v", "traits": ["busy"], "enter": "w = 2", "exit": {"tell": {"k": {"gain": 2}}}}},
     "cues": {"k": {"kind": "sound", "gain": 1, "from": [1, 2]}, "j": "sound", "i": None},
     "clips": {"c": {"frames": ["0-3", 4, "5*2"], "fps": 12.5, "play": "loop x3"}, "d": {"length": "2s"}, "e": {"part": {"of": "c", "frames": ["1-2"]}, "play": "back-and-forth"},
               "f": {"images": ["a.png", "b.png"], "times": ["60ms", "80ms"]}, "g": {"sheet": "s", "frames": ["r*2"], "fps": "30000/1001"}},
     "sheets": {"s": {"image": "s.png", "rects": {"r": [0, 0, 8, 8]}}},
     "marks": {"c": {"pivot": [4, 7.5], "cues": {"1": "k", "0.1s": ["j", {"k": {"gain": 3}}], "2.end": "i"}, "spans": {"j": "1-2", "i": {"frames": "0-1"}}, "windows": {"w1": "1-2", "w2": ["0.1s-0.2s"]}}}},
    {"machine": "m", "regions": {"l": {"states": {"a": {"sealed": True}}}, "r": {"initial": "c", "states": {"c": {"length": "1s"}, "d": {"states": {"e": {}}}}}}},
    {"clips": {"c": {"frames": [0], "fps": 1}}},
    {"tape": "t", "steps": [{"at": "0s", "set": {"x": 1, "y": "net", "z": False}}, {"at": {"ticks": 5}, "pulse": ["p", "q"]}], "until": "4s"},
    {"tape": "as it was, again", "until": "4s",
     "steps": [{"at": "0s", "place": "ground/walk", "played": "1s"}, {"at": "1s", "force": ""}, {"at": "2s", "expect": {"in": "ground/walk", "is": "busy", "shows": "net/3"}},
               {"from": "2s", "to": "3s", "expect": {"never": "in(a)", "cues": {"k": 2}}}]},
    {"machine": "the keeper's own", "states": {"a": {"states": None}}},
    {"machine": "m", "states": {"a" * 64: {"states": {"_": {"states": {"minimum": {"states": {"In": {}}}}}}}}},
]
BROKEN = [
    {"machine": "m", "states": {"a": {"clpi": "x"}}},
    {"machine": "m", "states": {"a": {"go": [{"when": "true"}]}}},
    {"machine": "m", "states": {"a": {"final": "yes"}}},
    {"machine": "m", "states": {"a": {"length": 5}}},
    {"machine": "m", "states": {"a": {"go": [{"at": "edn", "to": "a"}]}}},
    {"machine": "m", "inputs": {"v": {"flaot": 0}}, "states": {"a": {}}},
    {"machine": "m", "states": {}},
    {"clips": {"c": {"frames": [0], "fps": 1, "play": "lop"}}},
    {"clips": {"c": {"frames": [0], "fps": 0}}},
    {"clips": {"c": {"part": {"frames": [0]}}}},
    {"clips": {"c": {"frames": [0], "fps": 1}}, "marks": {"c": {"cues": {"x": "k"}}}},
    {"clips": {"c": {"frames": [0], "fps": 1}}, "marks": {"c": {"cues": {"0": []}}}},
    {"clips": {"c": {"frames": [0], "fps": 1}}, "marks": {"c": {"windows": {"w": []}}}},
    {"clips": {"c": {"frames": [0], "fps": 1}}, "marks": {"c": {"spans": {"k": None}}}},
    {"machine": "m", "states": {"a": {"go": [{"when": "", "to": "a", "restart": True}]}}},
    {"machine": "m", "claims": {"c": None}, "states": {"a": {}}},
    {"tape": "t", "steps": [{"set": {"x": 1}}], "until": "4s"},
    {"tape": "t", "steps": [{"at": "5"}], "until": "4s"},
    {"tape": "t", "steps": [], "untill": "4s"},
    {"tape": "t", "steps": [{"at": "1s", "set": None}], "until": "4s"},
    {"tape": "t", "steps": [{"at": "1s", "expect": None}], "until": "4s"},
    {"tape": "t", "steps": [{"from": "1s", "expect": {"never": "in(a)"}}], "until": "4s"},
    {"scene": "s", "actors": {"a": None}, "until": "4s"},
    {"scene": "s", "actors": {}, "until": "4s"},
    {"scene": "s", "actors": {"a": {"machine": "m.yaml"}}, "spawns": {"puff": None}, "until": "4s"},
    {"scene": "s", "actors": {"a": {"machine": "m.yaml", "moves": [None]}}, "until": "4s"},
    {"scene": "s", "actors": {"a": {"machine": "m.yaml", "when_hit": [None]}}, "until": "4s"},
    {"machine": "m", "sheets": {"s": None}, "states": {"a": {}}},
    {"machine": "m", "states": {"at rest": {}}},
    {"machine": "m", "states": {"a": {"states": {"2nd": {}}}}},
    {"machine": "m", "states": {"min": {}}},
    {"machine": "m", "states": {"a" * 65: {}}},
    {"machine": "m", "inputs": {"x-y": False}, "states": {"a": {}}},
    {"machine": "m", "cues": {"k.l": None}, "states": {"a": {}}},
    {"machine": "m", "vars": {"": 1}, "states": {"a": {}}},
    {"machine": "m", "regions": {"left wing": {"states": {"a": {}}}}},
    {"machine": "m", "clips": {"c!": {"frames": [0], "fps": 1}}, "states": {"a": {}}},
    {"machine": "m", "clips": {"c": {"frames": [0], "fps": 1}}, "marks": {"c": {"windows": {"a b": 0}}}, "states": {"a": {}}},
    {"machine": "m", "zones": {"a b": {"circle": [0, 0, 9]}}, "states": {"a": {}}},
]


def by_words(data):
    """As JSON has it: keys are words."""
    if isinstance(data, dict):
        return {str(key): by_words(value) for key, value in data.items()}
    return [by_words(each) for each in data] if isinstance(data, list) else data


def ways(data, before=()):
    """To all that is in it, from its root."""
    yield before
    for key in data if isinstance(data, dict) else range(len(data)) if isinstance(data, list) else ():
        yield from ways(data[key], before + (key,))


def follow(data, way):
    for key in way:
        data = data[key]
    return data


def output(*arguments):
    return subprocess.run([TOOL, *arguments], capture_output=True, text=True, timeout=60)


class Schema(unittest.TestCase):
    schema = json.loads(output("schema").stdout)
    validator = jsonschema.Draft202012Validator(schema)

    def loads(self, data):
        with tempfile.NamedTemporaryFile("w", suffix=".json") as stream:
            json.dump(data, stream)
            stream.flush()
            done = output("check", "--json", stream.name)
        return json.loads(done.stdout)["files"][0]["sound"], done.stdout

    def test_is_a_schema(self):
        jsonschema.Draft202012Validator.check_schema(self.schema)

    def test_takes_what_the_loader_takes(self):
        for data in SOUND:
            data = {"mobrin": 1, **data}
            self.assertEqual([error.message for error in self.validator.iter_errors(data)], [], data)
            sound, report = self.loads(data)
            self.assertTrue(sound, report)

    def test_refuses_what_the_loader_refuses(self):
        for data in BROKEN:
            data = {"mobrin": 1, **data}
            self.assertFalse(self.validator.is_valid(data), data)
            self.assertFalse(self.loads(data)[0], data)
        self.assertFalse(self.validator.is_valid({"machine": "m", "states": {"a": None}}))

    def test_takes_the_projects_own_files(self):
        files = [path for folder in ("demo", "docs", "examples") for path in glob.glob(os.path.join(ROOT, folder, "**/*.yaml"), recursive=True)
                 if not path.endswith("broken.yaml")]
        self.assertGreater(len(files), 15)
        for path in files:
            with open(path, encoding="utf-8") as stream:
                data = by_words(yaml.safe_load(stream))
            if "mobrin" in data:
                self.assertEqual([error.message for error in self.validator.iter_errors(data)], [], path)

    def test_takes_what_the_loader_takes_of_what_is_changed(self):
        """Files with one thing put elsewhere, left out, or of another kind: where they still load the schema takes them."""
        random = Random(7)
        machines = [each for each in SOUND if "states" in each or "regions" in each]  # names are looked up
        taken = 0
        for _ in range(250):
            data = {"mobrin": 1, **copy.deepcopy(random.choice(machines))}
            at = random.choice([way for way in ways(data) if way and way != ("mobrin",)])
            around = follow(data, at[:-1])
            if random.random() < 0.3:
                del around[at[-1]]
            elif isinstance(around[at[-1]], (str, list, dict, type(None))):
                around[at[-1]] = random.choice([None, "", "a", "1s", "3-5", [], ["a"], [1], {}, {"a": 1}, "loop", "2", "x > 0", "c*3", "back", ["x", "y"], [around[at[-1]]]])
            else:
                around[at[-1]] = random.choice([0, 1, -1, 3.5, 100000, True, None, "1s", "a", [1], {}])
            if not self.loads(data)[0]:
                continue
            taken += 1
            self.assertEqual([error.message for error in self.validator.iter_errors(data)], [], (at, data))
        self.assertGreater(taken, 30)

    def test_the_committed_schema_is_the_generated_one(self):
        with open(os.path.join(ROOT, "docs/mobrin.schema.json"), encoding="utf-8") as stream:
            self.assertEqual(stream.read(), output("schema").stdout, "run ./dev pictures")

    def test_the_documents_tables_are_the_generated_ones(self):
        with open(os.path.join(ROOT, "docs/format.md"), encoding="utf-8") as stream:
            document = stream.read()
        for section in self.schema["$defs"]:
            if section != "field_value":
                self.assertIn(output("schema", "--keys", section).stdout, document, f"{section}: run ./dev pictures")


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])
