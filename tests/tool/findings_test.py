#!/usr/bin/env python3
"""What the tool finds, proves and tests, as text, JSON and SARIF."""
import json
import os
import pathlib
import re
import shlex
import shutil
import sys
import unittest

from made_art import walkers
from tool_case import DEMO, KEEPER, ROOT, TAPE, ToolCase, run


class Findings(ToolCase):
    def test_a_name_that_is_unknown_everywhere_is_told_once(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {poke: pulse, far: 0}\ninitial: a\nstates:\n"
                          "  a: {go: [{pulse: hop, to: b}]}\n  b: {go: [{pulse: hop, to: c}]}\n  c: {go: [{pulse: hop, to: a}, {pulse: hop, to: b}]}\n")
        code, out, _ = run("check", path)
        self.assertEqual(code, 1)
        self.assertEqual(out, f'{path}:6:20: error: there is no pulse "hop"; also line 7, 8 [unknown-name]\n'
                              f'    Declare it under `inputs:`, as `hop: pulse`. There is poke.\n1 error  {path}  will not run\n')
        code, out, _ = run("check", path, "--json")  # each with its place, for editors
        self.assertEqual([each["line"] for each in json.loads(out)["files"][0]["findings"]], [6, 7, 8, 8])

    def test_a_key_that_is_misplaced_again_and_again_is_told_once(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\nclips:\n  a: {length: 1s, windows: {w: 0s-1s}, speed: 2}\n  b: {length: 1s, windows: {w: 0s-1s}, spede: 2}\n"
                          "  c: {length: 1s, windows: {w: 0s-1s}, speed: 2}\ninitial: x\nstates: {x: {clip: a, spede: 1}}\n")
        code, out, _ = run("check", path)
        self.assertEqual(code, 1)
        self.assertIn(f'{path}:4:19: error: "windows" is no key of a clip; also line 5, 6 [unknown-key]\n', out)
        self.assertIn(f'{path}:4:40: error: "speed" is no key of a clip; also line 6 [unknown-key]\n', out)
        self.assertIn(f'{path}:5:40: error: "spede" is no key of a clip [unknown-key]\n', out)
        self.assertIn(f'{path}:8:23: error: "spede" is no key of a state [unknown-key]\n', out)
        self.assertIn(f"4 errors  {path}", out)
        self.assertEqual(len(json.loads(run("check", path, "--json")[1])["files"][0]["findings"]), 7)

    def test_check_reports_all_that_is_wrong(self):
        path = self.write("k.yaml", "mobrin: 1\nmachine: k\nclips: {walk: {frames: [0-3], fps: 8}}\nstates: {a: {clip: wlak, spede: 1}}\n")
        code, out, _ = run("check", path, KEEPER)
        self.assertEqual(code, 1)
        self.assertIn(f'{path}:4:20: error: there is no clip "wlak" [unknown-name]\n    Did you mean "walk"?\n', out)
        self.assertIn(f'{path}:4:26: error: "spede" is no key of a state [unknown-key]\n    Did you mean "speed"?\n', out)
        self.assertIn(f"2 errors  {path}  will not run\n1 claim refuted  {KEEPER}  (machine keeper: ", out)
        told, command = out.rsplit("What refutes it: ", 1)
        self.assertTrue(told.endswith("; claims: 6 proved, 1 refuted; 2 hints with --hints)\n"), out)
        self.assertEqual(shlex.split(command), ["mobrin", "prove", KEEPER])
        self.assertEqual(json.loads(run("check", KEEPER, "--json")[1])["files"][0]["claims"], {"proved": 6, "refuted": 1})
        # A warning hides no claim.
        warned = self.write("w.yaml", "mobrin: 1\nmachine: w\ninputs: {p: pulse, idle: false}\ninitial: a\nstates: {a: {go: [{pulse: p, to: b}]}, "
                            "b: {go: [{pulse: p, to: a}]}}\nclaims: {never b: {never: in(b)}, always one: {always: in(a) or in(b)}}\n")
        code, out, _ = run("check", warned)
        self.assertEqual(code, 1)
        self.assertTrue(out.endswith(f"1 warning  {warned}  runs; claims: 1 proved, 1 refuted\nWhat refutes it: mobrin prove {shlex.quote(warned)}\n"), out)
        code, out, _ = run("check", path, "--json")
        self.assertEqual(code, 1)
        finding = json.loads(out)["files"][0]["findings"][0]
        self.assertEqual((finding["code"], finding["severity"], finding["line"], finding["column"]), ("unknown-name", "error", 4, 20))

    def test_what_needs_a_broken_machine_is_not_fine(self):
        self.write("m.yaml", "mobrin: 1\nmachine: m\nstates: {a: {clip: no}}\n")
        scene = self.write("s.scene.yaml", "mobrin: 1\nscene: s\nuntil: 1s\nactors: {a: {machine: m.yaml}}\n")
        code, out, _ = run("check", self.folder.name)
        self.assertEqual((code, out.count("error:"), out.count("fine")), (1, 1, 0), out)
        self.assertTrue(out.endswith(f"will not run  {scene}  (it needs what has the errors above)\n"), out)
        files = json.loads(run("check", self.folder.name, "--json")[1])["files"]
        self.assertEqual([each["sound"] for each in files], [False, False])

    def test_check_takes_tapes_and_clips_and_sees_missing_art(self):
        code, out, _ = run("check", TAPE, os.path.join(DEMO, "keeper.clips.yaml"), os.path.join(DEMO, "smoker.yaml"))
        self.assertEqual(code, 0, out)
        self.assertEqual(out.count("fine"), 3)
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\nclips: {c: {sheet: no.png, tile: [8, 8], frames: [0], fps: 8}}\nstates: {a: {clip: c}}\n")
        code, out, _ = run("check", path)
        self.assertEqual(code, 1)
        self.assertIn("m.yaml:3:9: warning: the clip \"c\": the image", out)
        self.assertEqual(run("run", path, "--until", "1s")[0], 0)  # art is not needed to run
        self.write("knot.png", "")  # the one that is meant, as far as its name goes
        look = "looks: {l: {when: v, art: {keeper.png: kont.png}}}"
        shutil.copy(os.path.join(DEMO, "keeper.png"), os.path.dirname(path))
        path = self.write("n.yaml", "mobrin: 1\nmachine: m\ninputs: {v: true}\nclips:\n  c: {sheet: knto.png, tile: [8, 8], frames: [0], fps: 8}\n"
                          f"  k: {{sheet: keeper.png, tile: [48, 40], frames: [0], fps: 8}}\n{look}\nstates: {{a: {{clip: c}}}}\n")
        out = run("check", path)[1]
        self.assertEqual(out.count('Did you mean "knot.png"?'), 2, out)

    def test_art_that_was_cut_out_wrong_is_told_with_what_would_fit(self):
        def told(tile, more="", **drawing):
            walkers(pathlib.Path(self.folder.name, "walk.png"), **drawing)
            path = self.write("walk.yaml", f"mobrin: 1\nclips:\n  walk: {{sheet: walk.png, tile: {tile}, frames: [0-5], fps: 10, play: loop{more}}}\n"
                                           f"  stroll: {{sheet: walk.png, tile: {tile}, frames: [0-3], fps: 6{more}}}\n")
            out = run("check", path)[1].replace(path, "walk.yaml")
            return out[: out.index("1 warning  ")] if "1 warning  " in out else out[:5]
        self.assertEqual(told("[32, 32]"), "fine ")
        self.assertEqual(told("[32, 32], spacing: 2", spacing=2), "fine ")
        self.assertEqual(told("[24, 32]"), 'walk.yaml:3:3: warning: the clip "walk" and 1 other like it: its cells of 24 x 32 cut through the pictures of walk.png, '
                         "at 24, 48, 120 and 144 pixels from the left [wrong-grid]\n    `tile: [32, 32]` would fit; the numbers of `frames:` then change.\n")
        self.assertEqual(told("[24, 32]", ", accept: [wrong-grid]"), "fine ")
        self.assertEqual(told("[32, 32]", spacing=1), 'walk.yaml:3:3: warning: the clip "walk" and 1 other like it: what its cells of 32 x 32 show wanders from cell '
                         "to cell of walk.png, which is 197 x 32 pixels [wrong-grid]\n    `tile: [32, 32], spacing: 1` would fit.\n")
        self.assertEqual(told("[32, 32]", moved={4: (-6, 0)}), 'walk.yaml:3:3: warning: the clip "walk" jumps in frame 4: it shows nearly what the others do, 6 pixels '
                         "further back [frame-jump]\n    Draw it in its place, or move it: `mobrin marks FILE --clip walk --pivot 16,32 --offset 4=6,0`.\n")
        self.assertEqual(told("[32, 32]", behind=(250, 0, 250, 255)), 'walk.yaml:3:3: warning: the clip "walk" and 1 other have no transparent pixel: behind what is '
                         "drawn lies #fa00fa [solid-background]\n    Save its pictures with transparency, or the game draws a box.\n")

    def test_a_sheet_is_imported_with_a_word_about_its_grid(self):
        path, out = pathlib.Path(self.folder.name, "walk.png"), os.path.join(self.folder.name, "walk.yaml")
        walkers(path, spacing=1)
        told = run("import", path, "-o", out)
        self.assertIn("taken as one picture; a sheet is cut into cells with `--tile`; `--tile 32x32 --spacing 1` would fit its pictures", told[1] + told[2])
        os.remove(out)
        code, _, err = run("import", path, "--tile", "32x32", "-o", out)
        self.assertEqual((code, os.path.exists(out)), (1, False))
        self.assertIn("Check `--tile`, `--margin` and `--spacing`; `--tile 32x32 --spacing 1` would fit its pictures.", err)
        self.assertEqual(run("import", path, "--tile", "32x32", "--spacing", "1", "-o", out)[2], "")
        os.remove(out)
        walkers(path)
        code, _, err = run("import", path, "--tile", "24x32", "-o", out)
        self.assertEqual((code, err), (1, f'{path}: warning: the cells of "walk" cut through its pictures [wrong-grid]\n    `--tile 32x32` would fit.\n'))

    def test_check_takes_folders(self):
        code, out, err = run("check", DEMO)
        self.assertEqual((code, err), (0, ""))
        told = [line.split("/")[-1].split("  ")[0] for line in out.splitlines() if "  (" in line]
        ours = sorted(name for name in os.listdir(DEMO) if name.endswith(".yaml"))
        self.assertEqual(told, ours)
        self.write("sheet.json", '{"frames": []}')
        self.write("notes.txt", "mobrin: 1\n")
        self.assertEqual(run("check", self.folder.name)[0], 2)
        os.mkdir(os.path.join(self.folder.name, "inner"))
        self.write("inner/broken.yaml", "mobrin: 1\nmachine: m\nstates: {a: {clip: {\n")
        code, out, _ = run("check", self.folder.name)
        self.assertEqual(code, 1)
        self.assertIn(os.path.join(self.folder.name, "inner/broken.yaml") + "  will not run\n", out)
        self.assertIn("inner/broken.yaml:3:", out)
        self.assertNotIn("sheet.json", out)

    def test_a_scene_is_no_machine(self):
        scene = os.path.join(DEMO, "dusk.scene.yaml")
        for command in (["list", scene], ["pack", scene, "-o", os.path.join(self.folder.name, "a.pack")], ["prove", scene], ["cover", scene], ["sheet", scene, "-o", os.path.join(self.folder.name, "a.png")]):
            code, _, err = run(*command)
            self.assertEqual(code, 1, command)
            self.assertIn('dusk.scene.yaml:4:1: error: "' + scene + '" is a scene [wrong-kind-of-file]\n    Name the machine of one of its actors; ', err)

    def test_a_tape_whose_machine_is_not_there_is_told_where_it_names_it(self):
        self.write("bee.yaml", "mobrin: 1\nmachine: bee\nstates: {a: {}}\n")
        tape = self.write("t.tape.yaml", "mobrin: 1\ntape: t\nmachine: bees.yaml\nsteps: [{at: 1s, pulse: p}]\n")
        code, out, _ = run("check", tape)
        self.assertEqual(code, 1)
        self.assertIn('t.tape.yaml:3:10: error: "' + os.path.join(self.folder.name, "bees.yaml") + '" does not exist [unreadable-file]\n    Did you mean "bee.yaml"?\n', out)

    def test_a_code_that_is_misspelt_is_answered(self):
        self.assertEqual(run("check", "--explain", "unused-clipp")[2], "error: there is no finding `unused-clipp`\n    Did you mean `unused-clip`?\n")

    def test_a_write_beyond_its_range_is_a_hint(self):
        path = self.write("t.tape.yaml", f"mobrin: 1\ntape: t\nmachine: {KEEPER}\nsteps: [{{at: 0s, set: {{move: 3, health: -2}}}}, {{at: 1s, set: {{move: 1}}}}]\nuntil: 2s\n")
        code, out, _ = run("check", path)
        self.assertEqual((code, out), (0, f"fine  {path}  (tape t, 2 steps; 2 hints with --hints)\n"))
        out = run("check", path, "--hints")[1]
        self.assertIn(f'{path}:4:24: hint: "move" is 3 here, beyond its range [hardly-meant]\n    It becomes 1.\n', out)
        self.assertIn('"health" is -2 here, beyond its range [hardly-meant]\n    It becomes 0.\n', out)

    def test_keys_of_what_begins_with_a_vowel(self):
        path = self.write("t.yaml", f"mobrin: 1\ntape: t\nmachine: {KEEPER}\nsteps: [{{at: 1s, expect: {{state: a}}}}]\n")
        self.assertIn('"state" is no key of an expectation [unknown-key]\n    Did you mean "in"?', "".join(run("check", path, "--allow-outside")[1:]))

    def test_every_example_of_the_findings_has_its_finding(self):
        with open(os.path.join(ROOT, "docs/checking.md"), encoding="utf-8") as stream:
            examples = re.findall(r"```yaml\n# finding: ([a-z-]+)\n(.*?)```", stream.read(), re.S)
        self.assertGreaterEqual(len(examples), 16)
        for code, text in examples:
            path = self.write("m.yaml", text)
            exit_code, out, err = run("check", "--hints", "--json", path)
            found = json.loads(out)["files"][0]["findings"]
            self.assertIn(code, [each["code"] for each in found], (code, err))
            told = [each for each in found if each["code"] == code][0]
            self.assertGreater(told["line"], 2)
            self.assertEqual(exit_code, 0 if all(each["severity"] == "hint" for each in found) else 1)
            self.assertIn(code, run("check", "--explain", code)[1])
        self.assertEqual(run("check", "--explain", "nonsense")[0], 2)
        self.assertEqual(run("check")[0], 2)
        self.assertNotIn("flicker", run("check", self.write("f.yaml", dict(examples)["flicker"]))[1])

    def test_claims_are_proved_or_refuted_with_a_tape(self):
        code, out, err = run("prove", os.path.join(DEMO, "hornet.yaml"))
        self.assertEqual((code, err), (0, ""))
        self.assertEqual(out.count("proved"), 3)
        self.assertIn("a dive gets over         for all values of the inputs, at rate 1 without freezes; it takes at most 0.5 s", out)
        tapes = os.path.join(self.folder.name, "tapes")
        code, out, _ = run("prove", KEEPER, "-o", tapes)
        self.assertEqual(code, 1)
        self.assertIn('refuted   a blow gets over        at 2.095 s: "in(net)" was true at 0 s', out)
        self.assertIn("            {at: 399ms, pulse: swing}\n", out)
        tape = os.path.join(tapes, "a-blow-gets-over.tape.yaml")
        self.assertEqual(run("check", tape)[0], 0)
        self.assertIn("again", run("explain", tape, "--at", "399ms")[1])
        answers = json.loads(run("prove", KEEPER, "--json")[1])["files"][0]["claims"]
        self.assertEqual([each["answer"] for each in answers], ["proved"] * 6 + ["refuted"])
        self.assertEqual(len(answers[-1]["tape"]["steps"]), 6)
        # Some of them, in the file's order.
        code, out, _ = run("prove", KEEPER, "--claim", "pain gets over", "--claim", "death is final")
        self.assertEqual((code, [line[10:24] for line in out.splitlines()]), (0, ["death is final", "pain gets over"]))
        code, out, err = run("prove", KEEPER, "--claim", "pain gets ovr")
        self.assertEqual((code, out), (2, ""))
        self.assertIn('has no claim "pain gets ovr"\n    Did you mean "pain gets over"?', err)
        self.assertIn('It has "', run("prove", KEEPER, "--claim", "x")[2])
        for text, words in (("machine: m\nstates: {a: {}}\n", "claims nothing"),
                            ("machine: m\nstates: {a: {}}\nclaims: {x: {never: in(b)}}\n", 'there is no state "b"'),
                            ("clips: {a: {length: 1s}}\n", "holds no machine")):
            code, _, err = run("prove", self.write("m.yaml", "mobrin: 1\n" + text))
            self.assertNotEqual(code, 0)
            self.assertIn(words, err)
        # `check` tells what does not fit too.
        code, out, _ = run("check", self.write("m.yaml", "mobrin: 1\nmachine: m\nstates: {a: {}}\nclaims: {x: {never: in(b)}}\n"))
        self.assertEqual(code, 1)
        self.assertIn('m.yaml:4:24: error: "in(b)": there is no state "b"', out)
        # Names that are asked for by a function.
        for claim, words in (("in(a) and b", '"b" is a state, and no input or variable [bad-expression]\n    Write `in(b)`.'), ("tired", '"tired" is a trait, and no input or variable [bad-expression]\n    Write `is(tired)`.'),
                             ("not hum", '"hum" is a cue, and no input or variable [bad-expression]\n    Write `cue(hum)`.')):
            code, out, _ = run("check", self.write("m.yaml", "mobrin: 1\nmachine: m\ncues: {hum: sound}\nstates: {a: {traits: [tired], enter: [{tell: hum}], states: {b: {}}}}\nclaims: {x: {never: " + claim + "}}\n"))
            self.assertEqual(code, 1)
            self.assertIn(words, out)
        open_claim = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {x: 0.0, y: 0.0}\ninitial: a\nstates:\n  a: {go: [{when: x * x * y > 7, to: b}]}\n"
                                          "  b: {}\nclaims: {x: {never: in(b)}}\n")
        self.assertEqual(run("prove", open_claim, "--strict")[0], 1)

    def test_what_is_too_much_to_decide_is_said(self):
        regions = "".join(f"  r{i}: {{initial: a, states: {{a: {{go: [{{when: in(r{(i + 1) % 14}/a) and free, to: b}}]}}, b: {{go: [{{after: 1s, to: a}}]}}}}}}\n" for i in range(14))
        large = self.write("large.yaml", "mobrin: 1\nmachine: m\ninputs: {free: true}\nregions:\n" + regions)
        self.assertIn("0 cues; too large to decide all, --hints says what)\n", run("check", large)[1])
        self.assertIn("0 cues; undecided: unreachable, never-holds, shadowed, never-shown)\n", run("check", large, "--hints")[1])
        more = self.write("more.yaml", "mobrin: 1\nmachine: m\ninputs: {free: true, idle: true}\nregions:\n" + regions)
        code, out, _ = run("check", more)
        self.assertEqual(code, 1)
        self.assertIn("runs; too large to decide all, --hints says what\n", out)
        self.assertNotIn("decide", run("check", KEEPER)[1])

    def test_cover_takes_every_rule(self):
        tapes = os.path.join(self.folder.name, "tapes")
        code, out, err = run("cover", os.path.join(DEMO, "hornet.yaml"), "-o", tapes)
        self.assertEqual((code, err), (0, ""))
        self.assertIn(": 11 of 11 rules taken, 8 of 8 states entered\n", out)
        taken = set()
        for name in sorted(os.listdir(tapes)):
            for line in run("run", os.path.join(tapes, name), "--json")[1].splitlines():
                rule = json.loads(line).get("rule")
                if rule:
                    taken.add(rule["line"])
        self.assertEqual(len(taken), 11)
        never = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {p: pulse}\nvars: {n: 0}\ninitial: a\nstates:\n"
                                     "  a: {go: [{pulse: p, to: b}, {when: n > 2, to: b}]}\n  b: {go: [{pulse: p, to: a}]}\n")
        code, out, _ = run("cover", never)
        self.assertEqual(code, 0)
        self.assertIn("never  a: when: n > 2  (m.yaml:7)", out)
        left = json.loads(run("cover", never, "--json")[1])["left"]
        self.assertEqual([(each["line"], each["never"]) for each in left], [(7, True)])

    def test_logs_are_kept_and_held_against(self):
        tapes = os.path.join(self.folder.name, "tapes")
        self.assertEqual(run("cover", KEEPER, "-o", tapes)[0], 0)
        tape = os.path.join(tapes, "cover-1.tape.yaml")
        with open(tape, encoding="utf-8") as stream:
            before = stream.read()
        code, out, err = run("test", tapes, "--keep", "--coverage")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("17 of 17 rules taken, 12 of 12 states entered by 10 tapes\n", out)
        with open(tape, encoding="utf-8") as stream:
            kept = stream.read()
        self.assertTrue(kept.startswith(before))  # no other byte
        self.assertIn("log:\n  - 0 enter ground\n  - 0 enter ground/stand\n", kept)
        self.assertEqual(run("test", tapes)[0], 0)
        self.assertEqual(run("test", tapes, "--keep")[0], 0)
        with open(tape, encoding="utf-8") as stream:
            self.assertEqual(stream.read(), kept)  # twice is once
        # The machine changes: the first line that differs, with its rule; --diff shows all, --keep keeps them.
        art = os.path.join(self.folder.name, "art")
        shutil.copytree(DEMO, art)
        keeper = os.path.join(art, "keeper.yaml")
        with open(keeper, encoding="utf-8") as stream:
            text = stream.read()
        with open(keeper, "w", encoding="utf-8") as stream:
            stream.write(text.replace("{pulse: stung, to: hurt}", "{pulse: stung, to: air/fall}"))
        code, out, _ = run("test", tapes, "--on", keeper)
        self.assertEqual(code, 1)
        self.assertRegex(out, r'cover-\d+\.tape\.yaml:\d+: the log differs: expected "\d+ enter hurt", but it tells "\d+ enter air", by pulse: stung  \(keeper.yaml:\d+\)')
        self.assertIn("`--diff` shows", out)
        out = run("test", tapes, "--on", keeper, "--diff")[1]
        self.assertRegex(out, r"  - \d+ enter hurt\n(  .*\n)*  \+ \d+ enter air\n")
        self.assertEqual(run("test", tapes, "--on", keeper, "--keep")[0], 0)
        self.assertEqual(run("test", tapes, "--on", keeper)[0], 0)
        self.assertEqual(run("test", tapes)[0], 1)
        flow = self.write("flow.tape.yaml", f"{{mobrin: 1, tape: t, machine: {KEEPER}, steps: [], until: 1s}}\n")
        code, _, err = run("test", flow, "--keep")
        self.assertEqual(code, 1)
        self.assertIn("the tape's keys do not stand one below the other", err)
        odd = self.write("odd.tape.yaml", f"mobrin: 1\ntape: t\nmachine: {KEEPER}\nsteps: []\nuntil: 1s\nlog: [0 enter ground,\n]\n")
        code, _, err = run("test", odd, "--keep")
        self.assertEqual(code, 1)
        self.assertIn("its `log:` is written in a way that cannot be edited here", err)
        with open(odd, encoding="utf-8") as stream:
            self.assertTrue(stream.read().endswith("log: [0 enter ground,\n]\n"))  # nothing was lost

    def test_coverage_and_assumptions(self):
        picture = os.path.join(self.folder.name, "left.svg")
        code, out, _ = run("test", os.path.join(DEMO, "blow.tape.yaml"), "--coverage", "--picture", picture)
        self.assertEqual(code, 0)
        self.assertIn("not taken    anywhere: pulse: stung", out)
        self.assertIn("not entered  hurt\n", out)
        self.assertIn("mobrin cover", out)
        with open(picture, encoding="utf-8") as stream:
            self.assertIn("stroke-dasharray", stream.read())
        coverage = json.loads(run("test", os.path.join(DEMO, "blow.tape.yaml"), "--coverage", "--json")[1])["coverage"][0]
        self.assertEqual(coverage["rules"], 17)
        self.assertEqual(coverage["taken"] + len(coverage["not_taken"]), 17)
        heals = self.write("heals.tape.yaml", f"mobrin: 1\ntape: t\nmachine: {KEEPER}\nsteps:\n  - {{at: 0s, set: {{health: 0}}}}\n"
                                              "  - {at: 1s, set: {health: 3}, expect: {in: faint}}\nuntil: 2s\n")
        code, out, _ = run("test", heals)
        self.assertEqual(code, 0)
        self.assertIn("at 1 s what is written breaks what the machine assumes: health <= 0 or not in(faint)\n", out)

    def test_files_are_checked_together(self):
        shared = self.write("shared.yaml", "mobrin: 1\ncues: {one: {kind: sound}, two: {kind: sound}, three: {kind: sound}}\n"
                                           "clips:\n  w: {frames: [0-1], fps: 9, play: loop}\n")
        body = "mobrin: 1\nmachine: m\nuse: [shared.yaml]\nstates:\n  a: {{clip: w, enter: [{{tell: {}}}]}}\n"
        one, two = self.write("one.yaml", body.format("one")), self.write("two.yaml", body.format("two"))
        out = run("check", "--hints", one)[1]
        self.assertIn('nothing tells the cue "two"; also line 2 [unused-cue]', out)  # one a code
        out = run("check", "--hints", one, two)[1]
        self.assertEqual(out.count("unused-cue"), 1)  # what either uses is used, and the rest is told once
        self.assertIn('nothing tells the cue "three" [unused-cue]', out)
        self.assertTrue(os.path.exists(shared))
        # An accept in a used file is idle only if it is so for all.
        self.write("shared.yaml", "mobrin: 1\naccept: [unused-cue two]\ncues: {one: {kind: sound}, two: {kind: sound}}\n"
                                  "clips:\n  w: {frames: [0-1], fps: 9, play: loop}\n")
        self.assertIn("idle-accept", run("check", two)[1])
        self.assertNotIn("idle-accept", run("check", one, two)[1])
        undecided = json.loads(run("check", "--json", one)[1])["files"][0]["undecided"]
        self.assertEqual(undecided, [])

    def test_findings_as_sarif(self):
        with open(os.path.join(ROOT, "docs/checking.md"), encoding="utf-8") as stream:
            examples = dict(re.findall(r"```yaml\n# finding: ([a-z-]+)\n(.*?)```", stream.read(), re.S))
        path = self.write("my bees.yaml", examples["runaway"])
        code, out, err = run("check", "--sarif", path)
        self.assertEqual((code, err), (1, ""))
        log = json.loads(out)
        # What SARIF 2.1.0 requires: sarifLog, run, tool, toolComponent, result, message, and the ranges it gives.
        self.assertEqual(log["version"], "2.1.0")
        self.assertTrue(log["$schema"].endswith("sarif-schema-2.1.0.json"))
        self.assertEqual(len(log["runs"]), 1)
        driver = log["runs"][0]["tool"]["driver"]
        self.assertEqual(driver["name"], "mobrin")
        self.assertEqual(len({rule["id"] for rule in driver["rules"]}), len(driver["rules"]))
        for result in log["runs"][0]["results"]:
            self.assertEqual(driver["rules"][result["ruleIndex"]]["id"], result["ruleId"])
            self.assertIn(result["level"], ("none", "note", "warning", "error"))
            self.assertTrue(result["message"]["text"])
            place = result["locations"][0]["physicalLocation"]
            self.assertTrue(place["artifactLocation"]["uri"].endswith("my%20bees.yaml"))
            self.assertGreaterEqual(place["region"]["startLine"], 1)
            self.assertGreaterEqual(place["region"]["startColumn"], 1)
        self.assertEqual(json.loads(run("check", "--sarif", KEEPER)[1])["runs"][0]["results"], [])

    def test_a_finding_shows_its_tape(self):
        with open(os.path.join(ROOT, "docs/checking.md"), encoding="utf-8") as stream:
            examples = dict(re.findall(r"```yaml\n# finding: ([a-z-]+)\n(.*?)```", stream.read(), re.S))
        path = self.write("m.yaml", examples["press-lost"])
        self.assertIn("A run that shows it: steps: [{at: 1ms, pulse: jump}]\n", run("check", path)[1])
        tape = json.loads(run("check", "--json", path)[1])["files"][0]["findings"][0]["tape"]
        self.assertEqual(tape["steps"], [{"ticks": 705600, "pulse": ["jump"]}])

    def test_tapes_that_expect_are_tests(self):
        code, out, err = run("test", DEMO)
        self.assertEqual((code, err), (0, ""))
        self.assertIn("blow.tape.yaml  6 expectations\n", out)
        self.assertIn("keeper.tape.yaml  expects nothing\n", out)
        self.assertIn("1 passed, 0 failed, 4 expect nothing\n", out)
        with open(os.path.join(DEMO, "blow.tape.yaml"), encoding="utf-8") as stream:
            good = stream.read().replace("machine: keeper.yaml", f"machine: {KEEPER}")
        report = os.path.join(self.folder.name, "results.xml")
        for edit, words in ((("in: ground/walk", "in: ground/stand"), r":8:\d*:? ?expected at 0.483 s in ground/stand, but it is in ground/walk, since 0.400 s by when: abs\(move\) > 0.1  \(keeper.yaml:44\)"),
                            (("shows: net/2", "shows: net/3"), "expected at 1 s to show net/3, but it shows net/2"),
                            (("is: busy", "is: dead"), "expected at 1 s to be dead, but in ground/net it is not"),
                            (("move > 0.5", "move > 1.5"), r'expected at 0.483 s "move > 1.5", which is false: move is 1\n'),
                            (("move > 0.5", "move > 0.5 and carrying != smoker and in(ground/stand)"), r"which is false: move is 1, carrying is \w+, in ground/walk\n"),
                            (("{at: 1.05s, expect", "{at: 1.06s, expect"), "expected the cue net_out at 1.06 s, but the nearest is at 1.0500 s"),
                            (("step: 2", "step: 3"), "expected the cue step 3 times from 0 s to 0.9 s, but it is told 2 times"),
                            (("from: 0s, to: 900ms", "from: 0s, to: 1s"), r'expected never "in\(ground/net\)" from 0 s to 1 s, but at 0.900 s it is so'),
                            (("until: 3s", "until: 3s\nfaults: 1"), "expected 1 runaway, but there were none")):
            self.assertIn(edit[0], good)
            path = self.write("t.tape.yaml", good.replace(*edit, 1))
            code, out, _ = run("test", path, "--junit", report)
            self.assertEqual(code, 1, edit)
            self.assertRegex(out, words)
            self.assertIn("0 passed, 1 failed", out)
            with open(report, encoding="utf-8") as stream:
                self.assertIn('failures="1"', stream.read())
        for edit, words in ((("in: ground/walk", "in: ground/wlak"), 'Did you mean "ground/walk"?'), (("cue: step", "cue: stp"), 'Did you mean "step"?'),
                            (("move > 0.5", "mvoe > 0.5"), 'Did you mean "move"?'), (("is: busy", "is: bussy"), 'Did you mean "busy"?'),
                            (("until: 3s", "until: 2.6s"), "the tape ends before this expectation"), (("shows: net/2", "shows: net/6"), 'frame 6 is not in the clip "net", which has 6, 0 to 5 [outside-clip]'), (("shows: net/2", "shows: net/last"), 'frame last is not in the clip "net"'), (("shows: net/2", "never: true"), "does not go with this time"),
                            (("from: 2s, to: 3s", "from: 3s, to: 2s"), "ends before it begins")):
            path = self.write("t.tape.yaml", good.replace(*edit, 1))
            for command in ("test", "check"):
                code, out, _ = run(command, path)
                self.assertEqual(code, 1, (command, edit))
                self.assertIn(words, out)
        path = self.write("t.tape.yaml", good)
        self.assertEqual(run("check", path)[0], 0)
        result = json.loads(run("test", path, "--json")[1])["tapes"][0]
        self.assertEqual((result["passed"], result["expectations"], result["failures"]), (True, 6, []))
        self.assertEqual(run("test", self.folder.name, "--on", os.path.join(DEMO, "hornet.yaml"))[0], 1)
        self.assertEqual(run("test", os.path.join(DEMO, "art"))[0], 1)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
