#!/usr/bin/env python3
"""Games side by side in one machine: what is claimed of one is answered, what is wrong with it told and its rules taken
as where it is alone, whatever goes on beside."""
import json
import os
import re
import sys
import unittest

import yaml

from tool_case import ROOT, ToolCase, run

NAMED = ("inputs", "cues", "clips", "sheets", "marks", "reaches", "zones", "looks")
# Keys under which nothing is a name of the game's own.
PLAIN = {"at", "after", "within", "restart", "fade", "accept", "length", "play", "fps", "kind", "frames", "times"}


def read(path):
    """A game as text throughout, as names such as `on` and numbers such as `1:30` would be read as something else."""
    with open(path, encoding="utf-8") as file:
        return yaml.load(file, Loader=yaml.BaseLoader)


def listed(value):
    """What may be written as one or as a list."""
    return [value] if isinstance(value, str) else value


def words_of(game):
    """Every name that a game gives."""
    out = set()
    for key in NAMED + ("vars",):
        out.update(game.get(key, {}))
    for each in game["inputs"].values():
        if isinstance(each, dict):
            out.update(listed(each.get("one_of", [])))
    for marks in game.get("marks", {}).values():
        out.update(marks.get("windows", {}), marks.get("tracks", {}))

    def of_state(state):
        out.update(state.get("vars", {}))
        out.update(listed(state.get("traits", [])))
        for inside in ("states", "regions"):
            for name, each in (state.get(inside) or {}).items():
                out.add(name)
                of_state(each or {})

    of_state(game)
    return out


class Renamer:
    """Puts a prefix before each of a game's names, wherever it stands, so that no two games share one."""

    def __init__(self, game, prefix, ends):
        self.words, self.prefix, self.ends = words_of(game), prefix, ends

    def text(self, text):
        return re.sub(r"(?<![\w.])[A-Za-z_]\w*", lambda m: self.prefix + m[0] if m[0] in self.words else m[0], text)

    def any(self, value, key=""):
        if key in PLAIN:
            return value
        if key in ("states", "regions"):
            return {self.text(name): self.any(each) for name, each in value.items()}
        if isinstance(value, str):
            return self.text(value)
        if isinstance(value, list):
            return [self.any(each) for each in value]
        return {self.key(name, key): self.any(each, name) for name, each in value.items()
                if self.ends or name not in ("final", "linger")}

    def key(self, name, above):
        named = above in ("vars", "tell", "spans", "windows", "tracks", "clip")
        return self.text(name) if named and (above, name) != ("clip", "by") else name

    def marks(self, marks):
        out = {key: self.any(value, key) for key, value in marks.items() if key != "cues"}
        if "cues" in marks:
            out["cues"] = {place: self.cue(each) for place, each in marks["cues"].items()}
        return out

    def cue(self, told):
        if isinstance(told, list):
            return [self.cue(each) for each in told]
        return self.text(told) if isinstance(told, str) else {self.text(name): each for name, each in told.items()}


def side_by_side(paths, ends):
    """A machine in which each of these games is a region. `ends`: one that ends for good ends the others as well."""
    out = {"mobrin": 1, "machine": "beside", "regions": {}, "assume": []}
    for number, path in enumerate(paths):
        game, prefix = read(path), f"g{number}_"
        renamer = Renamer(game, prefix, ends)
        for key in NAMED:
            for name, each in game.get(key, {}).items():
                new = renamer.marks(each) if key == "marks" else renamer.any(each)
                if key == "cues" and isinstance(each, dict):
                    new = {field: renamer.any(value) if field == "reach" else value for field, value in each.items()}
                out.setdefault(key, {})[renamer.text(name)] = new
        for name, claim in game["claims"].items():
            out.setdefault("claims", {})[prefix + name] = renamer.any(claim)
        out["assume"] += map(renamer.any, listed(game.get("assume", [])))
        root = {key: renamer.any(game[key], key) for key in ("initial", "vars", "enter", "exit", "go", "states",
                                                             "regions") if key in game}
        out["regions"][f"r{number}"] = {"states": {f"root{number}": root}}
    if not out["assume"]:
        del out["assume"]
    return out


def plain(value):
    """As text, in which only what cannot stand without has quotes: a quoted number is no number."""
    if isinstance(value, dict):
        return "{" + ", ".join(f"{plain(key)}: {plain(each)}" for key, each in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(plain, value)) + "]"
    text = str(value)
    if re.fullmatch(r"-?[\d.]+|[A-Za-z0-9_+.]([\w ./%*+-]*[\w.%/])?", text):
        return text
    return json.dumps(text)


class Beside(ToolCase):
    def machine(self, games, ends, claims=True):
        machine = side_by_side([os.path.join(ROOT, "tests/games", game + ".yaml") for game in games], ends)
        if not claims:
            del machine["claims"]
        return self.write("beside.yaml", "".join(f"{key}: {plain(each)}\n" for key, each in machine.items()))

    def report(self, command, *arguments):
        """What a command says of a file, as JSON."""
        code, out, err = run(command, "--json", *arguments)
        self.assertIn(code, (0, 1), err)
        files = json.loads(out)["files"]
        self.assertEqual(len(files), 1, err)
        return files[0]

    def answers(self, *games):
        report = self.report("prove", self.machine(games, False))
        return {each["claim"]: each["answer"] for each in report["claims"]}

    def findings(self, *games):
        """With what is undecided."""
        report = self.report("check", "--hints", self.machine(games, True, claims=False))
        told = [each["code"] + ": " + re.sub(r"line \d+", "line N", each["message"]) for each in report["findings"]]
        return sorted(told), set(report["undecided"])

    def left(self, *games):
        """What no tape takes or enters, and how many things there are."""
        code, out, err = run("cover", self.machine(games, True))
        self.assertEqual(code, 0, err)
        counts = re.search(r"of (\d+) rules taken, \d+ of (\d+) states", out)
        left = re.findall(r"^  (?:open|never|not entered) +(.*?)(?:  \(.*)?$", out, re.M)
        return sorted(left), int(counts[1]) + int(counts[2])

    def test_claims_are_answered_as_of_a_game_alone(self):
        for games in (("grub", "courier"), ("prowler", "scout"), ("duellist", "curl", "toad"),
                      ("brood", "charge", "centipede"), ("board", "nest", "drone")):
            together = self.answers(*games)
            for number, game in enumerate(games):
                for claim, answer in self.answers(game).items():
                    name = f"g{number}_{claim.removeprefix('g0_')}"
                    with self.subTest(game=game, beside=games, claim=name):
                        self.assertEqual(together.pop(name), answer)
            self.assertEqual(together, {})

    @staticmethod
    def second(lines):
        """Of a game alone, as where it stands beside another."""
        return [line.replace("g0_", "g1_").replace("r0/root0", "r1/root1") for line in lines]

    def test_findings_are_told_as_of_a_game_alone(self):
        for games in (("guard", "hatch"), ("climber", "stun"), ("flag", "pot"), ("cannon", "puppet"),
                      ("door", "charge"), ("frog", "boss"), ("talk", "raft"), ("wax", "sleeper")):
            one, other, together = *map(self.findings, games), self.findings(*games)
            with self.subTest(games=games):
                self.assertEqual(together[0], sorted(one[0] + self.second(other[0])))
                self.assertLessEqual(together[1], one[1] | other[1])

    def test_rules_are_taken_as_of_a_game_alone(self):
        for games in (("snail", "pot"), ("aphid", "shell"), ("clerk", "knight"), ("beetle", "barge"),
                      ("drawbridge", "bombardier")):
            one, other, together = *map(self.left, games), self.left(*games)
            with self.subTest(games=games):
                self.assertEqual(together[1], one[1] + other[1])
                self.assertLessEqual(set(together[0]), set(one[0] + self.second(other[0])))


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])
