#!/usr/bin/env python3
"""Drives the command-line tool as a process: exit codes, streams, JSON, pictures."""
import base64
import json
import os
import re
import resource
import shutil
import signal
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


class Tool(unittest.TestCase):
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

    def test_every_command_explains_itself_with_an_example(self):
        code, out, _ = run("--help")
        self.assertEqual(code, 0)
        commands = re.findall(r"^  ([a-z]+) +[A-Z]", out, re.M)
        self.assertGreaterEqual(set(commands), {"check", "demo", "draw", "explain", "import", "list", "marks", "pack", "run", "sheet", "schema"})
        for command in commands:
            code, out, _ = run(command, "--help")
            self.assertEqual(code, 0)
            self.assertIn(f"Example:\n  mobrin {command}", out)

    def test_wrong_usage_is_exit_code_2_on_standard_error(self):
        for arguments in ([], ["rnu"], ["run"], ["run", KEEPER, "--rate", "0"], ["run", KEEPER, "--until", "5"], ["run", KEEPER],
                          ["check"], ["sheet", KEEPER], ["list", KEEPER, "--nothing"]):
            code, out, err = run(*arguments)
            self.assertEqual((code, out), (2, ""), arguments)
            self.assertTrue(err.startswith("error: "), err)
        self.assertIn('did you mean "run"?', run("rnu")[2])
        self.assertEqual(run()[2], "error: no command is named\n    `mobrin --help` lists them.\n")
        self.assertEqual(run("run", KEEPER, "--tap", "x")[2],
                         'error: `mobrin run` has no option "--tap"; did you mean "--tape"?\n    See `mobrin run --help`.\n')
        self.assertIn('has no option "--frobnicate"\n', run("draw", KEEPER, "--frobnicate=3", "-o", "x.png")[2])
        self.assertEqual(run("draw", KEEPER)[2], "error: --out is required\n    See `mobrin draw --help`.\n")

    def test_check_reports_all_that_is_wrong(self):
        path = self.write("k.yaml", "mobrin: 1\nmachine: k\nclips: {walk: {frames: [0-3], fps: 8}}\nstates: {a: {clip: wlak, spede: 1}}\n")
        code, out, _ = run("check", path, KEEPER)
        self.assertEqual(code, 1)
        self.assertIn(f'{path}:4:20: error: there is no clip "wlak" [unknown-name]\n    Did you mean "walk"?\n', out)
        self.assertIn(f'{path}:4:26: error: "spede" is no key of a state [unknown-key]\n    Did you mean "speed"?\n', out)
        self.assertIn(f"2 errors  {path}  will not run\nfine  {KEEPER}", out)
        code, out, _ = run("check", path, "--json")
        self.assertEqual(code, 1)
        finding = json.loads(out)["files"][0]["findings"][0]
        self.assertEqual((finding["code"], finding["severity"], finding["line"], finding["column"]), ("unknown-name", "error", 4, 20))

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

    def test_keys_of_what_begins_with_a_vowel(self):
        path = self.write("t.yaml", f"mobrin: 1\ntape: t\nmachine: {KEEPER}\nsteps: [{{at: 1s, expect: {{state: a}}}}]\n")
        self.assertIn('"state" is no key of an expectation [unknown-key]\n    Did you mean "in"?', "".join(run("check", path, "--allow-outside")[1:]))

    def test_list_dumps_what_a_stage_made(self):
        code, out, _ = run("list", KEEPER, "--dump", "inputs")
        self.assertEqual(code, 0)
        self.assertIn("carrying choice starts 0 of", out)
        for stage in ("cues", "clips", "tree", "plays", "block", "states", "go", "space", "stops", "plan"):
            code, out, err = run("list", KEEPER, "--dump", stage)
            self.assertEqual((code, err), (0, ""), stage)
            self.assertTrue(out.endswith("\n"), stage)
        code, out, err = run("list", KEEPER, "--dump", "planes")
        self.assertEqual((code, out), (2, ""))
        self.assertIn('there is no stage "planes"', err)
        self.assertIn("inputs, cues, clips", err)
        code, out, err = run("list", KEEPER, "--dump", "plan", "--json")
        self.assertEqual((code, out), (2, ""))
        self.assertIn("two ways of printing", err)
        code, _, err = run("list", os.path.join(os.path.dirname(KEEPER), "keeper.clips.yaml"), "--dump", "plan")
        self.assertEqual(code, 1)
        self.assertIn("holds no machine", err)

    def test_list_calls_a_rectangle_by_its_name(self):
        name = "9" * 30
        path = self.write("s.clips.yaml", "mobrin: 1\nsheets: {s: {image: a.png, rects: {\"%s\": [0, 0, 4, 4], \"1\": [4, 0, 4, 4]}}}\n"
                          "clips: {c: {sheet: s, frames: [\"%s\", \"1\"], fps: 9}, d: {frames: [3], fps: 9}}\n" % (name, name))
        code, out, err = run("list", path, "--json")
        self.assertEqual(code, 0, err)
        self.assertEqual([[frame["tile"] for frame in clip["frames"]] for clip in json.loads(out)["clips"]], [[name, "1"], [3]])

    def test_list_gives_exact_times(self):
        code, out, _ = run("list", KEEPER, "--json")
        self.assertEqual(code, 0)
        data = json.loads(out)
        net = next(clip for clip in data["clips"] if clip["name"] == "net")
        self.assertEqual((net["play"], net["ticks"]), ("once", 8 * SECOND // 20))
        self.assertEqual([frame["ticks"] for frame in net["frames"]], [SECOND // 20 * hold for hold in (1, 1, 1, 3, 1, 1)])
        self.assertEqual([frame["tile"] for frame in net["frames"]], [16, 17, 18, 19, 20, 21])
        self.assertEqual({frame["source"] for frame in net["frames"]}, {"keeper.png"})
        self.assertEqual([frame["index"] for frame in net["frames"]], list(range(6)))
        self.assertEqual([(cue["cue"], cue["at"], cue["ticks"]) for cue in net["cues"]],
                         [("swish", "2", SECOND // 10), ("net_out", "3", 3 * SECOND // 20), ("trail", "2-4", SECOND // 10)])
        self.assertEqual([state["name"] for state in data["states"]], ["ground", "ground/stand", "ground/walk", "ground/net", "ground/land", "air", "air/leap", "air/fall", "hurt", "faint", "faint/sag", "faint/lie"])
        self.assertEqual([state["plays"] for state in data["states"]][-3:], [None, "sag", "pose sag 5"])
        self.assertEqual({entry["name"]: entry["type"] for entry in data["inputs"]},
                         {"move": "float", "grounded": "bool", "health": "int", "carrying": "one_of", "swing": "pulse", "hop": "pulse", "stung": "pulse"})
        self.assertIn({"name": "step", "kind": "sound", "fields": {"file": "grass.wav", "foot": "left"}}, data["cues"])
        code, out, _ = run("list", KEEPER)
        self.assertEqual(code, 0)
        self.assertIn("0.150 s  net_out at frame 3", out)

    def test_run_prints_json_lines_in_order(self):
        lines = self.lines("run", KEEPER, "--tape", TAPE, "--json")
        self.assertEqual([line["state"] for line in lines[:2]], ["ground", "ground/stand"])
        blow = next(line for line in lines if line.get("cue") == "net_out")
        self.assertEqual(blow, {"ticks": 1_900 * SECOND // 1000, "what": "cue", "cue": "net_out", "kind": "damage", "clip": "net", "frame": 3,
                                "fields": {"amount": 2, "reach": "net_reach"}})
        feet = [line["fields"]["foot"] for line in lines if line.get("cue") == "step"]
        self.assertEqual(feet[:3], ["left", "right", "left"])  # a mark's own value
        edges = [line["edge"] for line in lines if line.get("cue") == "trail"]
        self.assertEqual(edges, ["begin", "end"] * 2)
        self.assertEqual([line["state"] for line in lines if line["what"] == "done"], ["faint/lie"])
        self.assertEqual(lines[-1], {"ticks": 7 * SECOND, "what": "final", "states": ["faint/lie"],
                                     "inputs": {"move": 0.0, "grounded": True, "health": 0, "carrying": "net"},
                                     "shown": [{"clip": "sag", "frame": 5, "seconds": 0.6, "weight": 1.0}], "look": "pale"})
        self.assertEqual(sorted(line["ticks"] for line in lines), [line["ticks"] for line in lines])

    def test_the_rate_changes_nothing_in_the_log(self):
        logs = {run("run", KEEPER, "--tape", TAPE, "--json", "--rate", str(rate))[1] for rate in (1, 24, 60, 144, 1000)}
        self.assertEqual(len(logs), 1)

    def test_a_tape_names_its_machine_and_until_may_be_given(self):
        self.assertEqual(run("run", TAPE, "--json")[1], run("run", KEEPER, "--tape", TAPE, "--json")[1])
        self.assertEqual(self.lines("run", TAPE, "--json", "--until", "250ms")[-1]["ticks"], SECOND // 4)
        self.assertEqual(self.lines("run", KEEPER, "--until", "0s", "--json")[0]["state"], "ground")

    def test_the_readable_log_says_why_and_where(self):
        code, out, err = run("run", TAPE)
        self.assertEqual((code, err), (0, ""))
        self.assertRegex(out, r"0\.400 +24  state  ground/stand -> ground/walk  when: abs\(move\) > 0\.1  \(keeper\.yaml:\d+\)")
        self.assertIn("net_out (damage)  net frame 3  amount: 2", out)
        self.assertNotIn("comes round", out)  # a loop on which nothing hangs is no news
        self.assertIn("ground/walk comes round", run("run", TAPE, "--loops")[1])
        self.assertIn("burning comes round", run("run", os.path.join(DEMO, "smoker.tape.yaml"))[1])
        self.assertIn("state  body/hover, wings/buzz\n", run("run", os.path.join(DEMO, "hornet.tape.yaml"))[1])
        self.assertNotIn("\x1b", out)  # no colours but on a terminal

    def test_colours_only_on_a_terminal_and_never_with_no_color(self):
        import pty
        for environment, coloured in (({}, True), ({"NO_COLOR": "1"}, False)):
            master, slave = pty.openpty()
            variables = {key: value for key, value in os.environ.items() if key != "NO_COLOR"} | environment
            process = subprocess.Popen([TOOL, "check", KEEPER], stdout=slave, env=variables)
            process.wait(timeout=60)
            os.close(slave)
            self.assertEqual(b"\x1b" in os.read(master, 4096), coloured)
            os.close(master)

    def test_what_stops_a_run_goes_to_standard_error(self):
        machine = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {go: pulse}\nstates: {a: {}}\n")
        tape = self.write("t.yaml", "mobrin: 1\ntape: t\nsteps: [{at: 0s, pulse: og}]\nuntil: 1s\n")
        code, out, err = run("run", machine, "--tape", tape)
        self.assertEqual((code, out), (1, ""))
        self.assertIn('t.yaml:3:25: error: there is no pulse "og" [unknown-name]\n    Did you mean "go"?\n', err)
        self.assertIn("nothing was run", err)

    def test_a_runaway_is_a_failed_run(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninitial: a\nstates: {a: {go: [{when: true, to: b}]}, b: {go: [{when: true, to: a}]}}\n")
        code, out, _ = run("run", path, "--until", "1s", "--json")
        self.assertEqual(code, 1)
        fault = [json.loads(line) for line in out.splitlines() if '"fault"' in line][0]
        self.assertEqual((fault["ticks"], fault["what"], fault["fault"], fault["rule"]["line"]), (0, "fault", "runaway", 4))
        text = run("run", path, "--until", "1s")[1]
        self.assertRegex(text, r"runaway: (a <-> b|b <-> a), 64 times  when: true  \(m.yaml:4\)")
        self.assertLess(text.count("\n"), 8, "one line, not 64")
        path = self.write("v.yaml", "mobrin: 1\nmachine: m\ninputs: {v: 0.5}\ninitial: a\nstates: {a: {go: [{when: v < 1, to: b}]}, b: {go: [{when: v < 2, to: a}]}}\n")
        self.assertIn("; v is 0.5", run("run", path, "--until", "1s")[1])

    def test_run_tells_presses_writes_and_looks(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {swing: {pulse: 100ms}, n: {int: 1, max: 5}, up: false}\nvars: {count: 0}\n"
                          "initial: a\nstates:\n  a: {go: [{pulse: swing, when: up, to: b, do: [count = count + 1]}]}\n  b: {}\n")
        _, out, err = run("run", path, "--press", "swing@0.1s", "--press", "swing@0.5s", "--set", "up=true@0.58s", "--set", "n=9@0.7s")
        self.assertEqual(err, "")
        self.assertIn("    0.100       6  press  swing, kept for 100 ms\n    0.200      12  press  swing ran out untaken\n", out)
        self.assertIn("a -> b  pulse: swing, when: up  (m.yaml:7)  80 ms after the press", out)
        self.assertIn("write  n = 5, clamped into its range", out)
        self.assertIn("    2.700     162  end    in b  with n=5 up=true count=1", out)
        lines = [json.loads(line) for line in run("run", path, "--press", "swing@0.5s", "--set", "up=true@0.5s", "--json")[1].splitlines()]
        self.assertIn({"ticks": SECOND // 2, "what": "press", "pulse": "swing", "edge": "written"}, lines)
        entered = [line for line in lines if line["what"] == "enter" and line["state"] == "b"][0]
        self.assertEqual((entered["rule"]["line"], entered["rule"]["text"]), (7, "pulse: swing, when: up"))
        self.assertEqual(lines[-1]["vars"], {"count": 1})
        _, out, _ = run("run", TAPE, "--from", "1.9s", "--to", "2.1s")
        self.assertEqual([line.split()[0] for line in out.splitlines()[2:]], ["1.900", "1.950", "2.050", "2.050"])
        for wrong in (["--press", "swing"], ["--press", "swng@0.1s"], ["--set", "up@0.1s"], ["--set", "n=x@0.1s"], ["--from", "2"], ["--from", "2s", "--to", "1s"]):
            code, _, err = run("run", path, *wrong)
            self.assertNotEqual(code, 0, wrong)
            self.assertIn("\n    ", err)

    def test_explain_takes_what_run_prints(self):
        # 0.983 s is printed for an instant that is no whole millisecond; a tape alone will do.
        printed = [line for line in run("run", TAPE)[1].splitlines() if "cue    step" in line][0].split()[0]
        code, out, err = run("explain", TAPE, "--at", printed + "s")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("keeper at 0.483333333 s", out)
        ticks = [line["ticks"] for line in self.lines("run", TAPE, "--json") if line["what"] == "cue"][0]
        self.assertEqual(run("explain", TAPE, "--at", f"{{ticks: {ticks}}}")[1], out)
        self.assertIn("swing was pressed 33 ms ago and waits 77 ms longer; what could take it:\n    ground/net -> net", run("explain", TAPE, "--at", "1.983s")[1])
        self.assertIn("not looked at: the rule in line 56 above it decided", run("explain", TAPE, "--at", "2.05s")[1])
        code, _, err = run("explain", TAPE, "--at", "1s", "--to", "ground/stnd")
        self.assertEqual(code, 2)
        self.assertIn('did you mean "ground/stand"?', err)

    def test_explain_of_a_scene_says_who_hit_whom_and_who_was_not(self):
        scene = os.path.join(DEMO, "dusk.scene.yaml")
        code, out, err = run("explain", scene, "--actor", "keeper", "--at", "2.05s")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("keeper hits hornet with net", out)
        self.assertIn("net of keeper, on hornet: hit now", out)
        self.assertIn("net of keeper, on sister: no: out of reach by ", out)
        self.assertIn("net of keeper, on hive: no: it has no box that can be hit now", out)
        self.assertIn("this swing hit it at 2.050 s already", run("explain", scene, "--actor", "keeper", "--at", "2.1s")[1])
        self.assertIn("body/hover -> stunned  pulse: stunned  (hornet.yaml:25)\n      taken", run("explain", scene, "--actor", "hornet", "--at", "2.05s")[1])
        for wrong, words in (([], "a scene has several actors"), (["--actor", "keepr"], 'did you mean "keeper"?')):
            code, _, err = run("explain", scene, "--at", "2s", *wrong)
            self.assertEqual(code, 2)
            self.assertIn(words, err)
        # Whom the run spawned is named as well, and who has left is not asked about.
        code, out, _ = run("explain", os.path.join(DEMO, "smoke.scene.yaml"), "--actor", "keeper", "--at", "3.3s")
        self.assertEqual(code, 0)
        self.assertIn("net of keeper, on hornet: no: this swing hit it at 3.275 s already", out)
        self.assertIn("net of keeper, on puff 7: no: it has no box that can be hit now", out)
        self.assertNotIn("on puff 1:", out)
        code, _, err = run("explain", scene, "--actor", "keeper", "--at", "99s")
        self.assertIn("the scene ends at 10 s", err)

    def test_a_scene_spawns_and_lists_its_sounds(self):
        scene = os.path.join(DEMO, "smoke.scene.yaml")
        lines = self.lines("run", scene, "--json")
        spawned = [line["actor"] for line in lines if line["what"] == "spawn"]
        self.assertEqual(spawned, [f"puff {n}" for n in range(1, 10)])
        self.assertEqual([line["actor"] for line in lines if line["what"] == "gone"], spawned)
        self.assertTrue(all("rule" in line for line in lines if line["what"] in ("enter", "leave")))
        self.assertIn("sounds  buzz.wav x5", run("run", scene)[1])
        strip = os.path.join(self.folder.name, "strip.png")
        self.assertEqual(run("draw", scene, "--at", "1.6s", "--at", "3.2s", "-o", strip)[0], 0)
        code, _, err = run("draw", scene, "--at", "8s", "-o", strip)
        self.assertEqual(code, 2)
        self.assertIn("the scene ends at 7 s", err)

    def test_explain_says_why_and_why_not(self):
        code, out, err = run("explain", KEEPER, "--tape", TAPE, "--at", "1.75s")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("ground/walk -> net  pulse: swing, when: carrying == net  (keeper.yaml:49)\n      taken\n        carrying  is net\n        carrying == net  is true", out)
        self.assertIn("anywhere -> faint  when: health <= 0  (keeper.yaml:30)\n      no: the guard is false\n        health  is 6\n", out)
        self.assertIn("anywhere -> hurt  pulse: stung  (keeper.yaml:31)\n      no: pulse: stung does not hold now", out)
        code, out, _ = run("explain", KEEPER, "--tape", TAPE, "--at", "1.2s", "--state", "ground/walk", "--to", "ground/stand")
        self.assertEqual(code, 0)
        self.assertIn("Nothing happened at this instant", out)
        self.assertIn("abs(move)  is 0.5", out)
        self.assertEqual(out.count("->"), 1)
        self.assertEqual(run("explain", KEEPER, "--at", "5")[0], 2)
        self.assertIn('did you mean "ground/walk"?', run("explain", KEEPER, "--at", "1s", "--state", "wlak")[2])

    def test_draw_draws_the_machine(self):
        picture = os.path.join(self.folder.name, "keeper.svg")
        code, out, err = run("draw", KEEPER, "-o", picture)
        self.assertEqual((code, out, err), (0, f"{picture}  12 states, 17 transitions\n", ""))
        self.assertEqual(run("draw", KEEPER, "--dark", "-o", picture)[0], 0)
        code, _, err = run("draw", os.path.join(DEMO, "keeper.clips.yaml"), "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("holds no machine", err)
        self.assertEqual(run("draw", KEEPER, "-o", "keeper.bmp")[0], 1)

    def test_run_draws_its_lanes(self):
        picture = os.path.join(self.folder.name, "run.png")
        code, out, err = run("run", TAPE, "--picture", picture)
        self.assertEqual((code, err), (0, ""))
        self.assertTrue(out.endswith(f"picture  {picture}\n"), out[-200:])
        self.assertEqual(png_size(picture)[0], 1280)
        many = png_size(picture)[1]
        self.assertEqual(run("run", KEEPER, "--until", "1s", "--picture", picture)[0], 0)
        self.assertLess(png_size(picture)[1], many)  # only what was written and told has a lane
        self.assertEqual(run("run", KEEPER, "--until", "0s", "--picture", picture)[0], 2)
        self.assertEqual(run("run", TAPE, "--picture", "/nowhere/x.png")[0], 1)

    def test_sheet_draws_clips(self):
        picture = os.path.join(self.folder.name, "lanes.svg")
        smoke = os.path.join(DEMO, "smoke.scene.yaml")
        self.assertEqual(run("run", smoke, "--picture", picture)[0], 0)
        with open(picture, encoding="utf-8") as file:
            whole = file.read()
        self.assertEqual(run("run", smoke, "--from", "6s", "--to", "7s", "--picture", picture)[0], 0)
        with open(picture, encoding="utf-8") as file:
            self.assertLess(len(file.read()), len(whole) * 0.7)  # what is before has no lanes and no flags
        code, _, err = run("run", smoke, "--from", "9s", "--picture", picture)
        self.assertEqual(code, 2)
        self.assertIn("--from 9 s is not before the end at 7 s", err)
        code, out, _ = run("marks", KEEPER, "--clip", "net", "--json")
        marks = json.loads(out)["clips"]
        self.assertEqual((code, [clip["name"] for clip in marks]), (0, ["net"]))
        self.assertIn(("net_out", "3"), [(cue["cue"], cue["at"]) for cue in marks[0]["cues"]])
        self.assertEqual(run("marks", KEEPER, "--json", "--clip", "net", "--add-cue", "1=step")[0], 2)
        picture = os.path.join(self.folder.name, "net.png")
        self.assertEqual(run("sheet", KEEPER, "--clip", "net", "-o", picture)[0], 0)
        width, height = png_size(picture)
        everything = os.path.join(self.folder.name, "all.png")
        self.assertEqual(run("sheet", KEEPER, "-o", everything)[0], 0)
        self.assertEqual(png_size(everything)[0], width)
        self.assertGreater(png_size(everything)[1], 4 * height)
        code, _, err = run("sheet", KEEPER, "--clip", "nett", "-o", picture)
        self.assertEqual((code, err), (1, 'error: there is no clip "nett"; did you mean "net"?\n'))
        code, _, err = run("sheet", KEEPER, "-o", "/nowhere/x.png")
        self.assertEqual(code, 1)
        self.assertIn("cannot be written", err)

    def test_sheet_zooms_ghosts_and_picks_frames(self):
        def size(*arguments):
            picture = os.path.join(self.folder.name, "s.png")
            code, _, err = run("sheet", KEEPER, "--clip", "walk", *arguments, "-o", picture)
            self.assertEqual(code, 0, err)
            return png_size(picture), contents(picture)
        plain, bytes_plain = size()
        self.assertGreater(size("--zoom", "6")[0][1], plain[1])
        self.assertNotEqual(size("--ghost", "idle:0")[1], bytes_plain)
        self.assertNotEqual(size("--ghost", "idle")[1], size("--ghost", "idle:0")[1])
        self.assertNotEqual(size("--dark")[1], bytes_plain)
        self.assertLess(size("--zoom", "8", "--frames", "2-3")[0][1], size("--zoom", "8")[0][1])
        vector = os.path.join(self.folder.name, "s.svg")
        self.assertEqual(run("sheet", KEEPER, "--clip", "walk", "-o", vector)[0], 0)
        with open(vector, encoding="utf-8") as drawing:
            self.assertIn("<svg", drawing.read(200))
        for arguments, code, words in ((["--frames", "4-9"], 1, 'no frame 9 in "walk", which has 6'), (["--frames", "x"], 2, "no range"),
                                       (["--ghost", "idel"], 1, 'did you mean "idle"'), (["--ghost", "idle:x"], 2, "no frame"),
                                       (["--ghost", "idle:7"], 1, 'no frame 7 in "idle"'), (["--zoom", "900"], 2, "zoom")):
            got, _, err = run("sheet", KEEPER, "--clip", "walk", *arguments, "-o", vector)
            self.assertEqual(got, code, err)
            self.assertIn(words, err)

    def test_marks_shows_and_edits_and_writes_nothing_that_would_not_load(self):
        for name in os.listdir(DEMO):
            shutil.copy(os.path.join(DEMO, name), self.folder.name)
        machine, marks = (os.path.join(self.folder.name, name) for name in ("keeper.yaml", "keeper.marks.yaml"))
        before = contents(marks)
        code, out, _ = run("marks", machine, "--clip", "net")
        self.assertEqual(code, 0)
        self.assertIn("  3         net_out\n", out)
        code, out, err = run("marks", machine, "--clip", "net", "--move-cue", "3:4=net_out", "--add-cue", "5.end=thud")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("written and checked with", out)
        self.assertEqual(contents(marks), before.replace(b"cues: {2: swish, 3: net_out}", b"cues: {2: swish, 4: net_out, 5.end: thud}"))
        now = contents(marks)
        for edit, words in ((["--add-cue", "9=thud"], "frame 9 is not in the clip"), (["--add-cue", "1=thudd"], 'Did you mean "thud"?'),
                            (["--remove-cue", "1=thud"], 'no cue "thud" at 1'), (["--window", "again=9-12"], "reaches past the clip")):
            code, _, err = run("marks", marks, "--clip", "net", *edit)
            self.assertEqual(code, 1)
            self.assertIn(words, err)
            self.assertEqual(contents(marks), now)
        self.assertEqual(run("marks", machine, "--clip", "net", "--copy-box", "net=5", "--copy-box", "body=hurt")[0], 0)
        clips = {clip["name"]: clip for clip in json.loads(run("list", machine, "--json")[1])["clips"]}
        self.assertEqual([box["frames"] for box in clips["net"]["boxes"] if box["name"] == "net"], [["3"], ["4"], ["5"]])
        self.assertEqual(clips["hurt"]["boxes"], [box for box in clips["net"]["boxes"] if box["name"] == "body"])
        self.assertIn('did you mean "body"', run("marks", machine, "--clip", "net", "--copy-box", "boddy=hurt")[2])
        self.assertEqual(run("marks", marks, "--clip", "net", "--pivot", "22")[0], 2)
        self.assertEqual(run("marks", marks, "--pivot", "22,1")[0], 2)
        fresh = os.path.join(self.folder.name, "new.marks.yaml")
        self.assertEqual(run("marks", fresh, "--clip", "walk", "--add-cue", "1=step", "--pivot", "3,4.5")[0], 0)
        with open(fresh, encoding="utf-8") as written:
            self.assertEqual(written.read(), "mobrin: 1\nmarks:\n  walk:\n    cues: {1: step}\n    pivot: [3, 4.5]\n")

    def test_import_of_an_animation_and_its_extraction(self):
        # Two frames of one pixel: 70 ms and no delay.
        picture = b"\x2c\0\0\0\0\1\0\1\0\0\2\2\x44\1\0"
        gif = (b"GIF89a\1\0\1\0\xf0\0\0\xff\0\0\0\xff\0" + b"\x21\xf9\4\4\7\0\0\0" + picture + b"\x21\xf9\4\4\0\0\0\0" + picture + b";")
        source, out = os.path.join(self.folder.name, "puff.gif"), os.path.join(self.folder.name, "puff.clips.yaml")
        with open(source, "wb") as stream:
            stream.write(gif)
        code, text, err = run("import", source, "-o", out, "--extract", os.path.join(self.folder.name, "frames"))
        self.assertEqual(code, 0, err)
        self.assertIn("1 frame asks for no delay and gets 100ms", text)
        self.assertEqual(sorted(os.listdir(os.path.join(self.folder.name, "frames"))), ["puff_0000.png", "puff_0001.png"])
        clips = json.loads(run("list", out, "--json")[1])["clips"]
        self.assertEqual([frame["ticks"] for frame in clips[0]["frames"]], [SECOND * 7 // 100, SECOND // 10])
        self.assertEqual(run("sheet", out, "-o", os.path.join(self.folder.name, "s.png"))[0], 0)

    def test_import_writes_tracks_of_what_moves(self):
        # One node, "lid", that moves from 0 to 2 in a second.
        numbers = struct.pack("<8f", 0, 1, 0, 0, 0, 0, 2, 0)
        uri = "data:application/octet-stream;base64," + base64.b64encode(numbers).decode()
        gltf = {"asset": {"version": "2.0"}, "nodes": [{"name": "lid"}], "buffers": [{"uri": uri, "byteLength": 32}],
                "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 8}, {"buffer": 0, "byteOffset": 8, "byteLength": 24}],
                "accessors": [{"bufferView": 0, "componentType": 5126, "count": 2, "type": "SCALAR"},
                              {"bufferView": 1, "componentType": 5126, "count": 2, "type": "VEC3"}],
                "animations": [{"name": "open", "samplers": [{"input": 0, "output": 1}],
                                "channels": [{"sampler": 0, "target": {"node": 0, "path": "translation"}}]}]}
        name = lambda file: os.path.join(self.folder.name, file)
        with open(name("lid.gltf"), "w", encoding="utf-8") as stream:
            json.dump(gltf, stream)
        code, _, err = run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("lid.tracks.yaml"))
        self.assertEqual(code, 0, err)
        with open(name("lid.tracks.yaml"), encoding="utf-8") as stream:
            self.assertIn("lid_y: {curve: linear, keys: {0ms: 0, 1000ms: 2}}", stream.read())
        # Again over its own file, but never over somebody's.
        self.assertEqual(run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("lid.tracks.yaml"))[0], 0)
        with open(name("mine.yaml"), "w", encoding="utf-8") as stream:
            stream.write("mobrin: 1\n")
        code, _, err = run("import", name("lid.gltf"), "-o", name("lid.clips.yaml"), "--tracks", name("mine.yaml"))
        self.assertEqual(code, 2)
        self.assertIn("was not written by it", err)

    def test_pack_makes_packs_and_headers(self):
        name = lambda file: os.path.join(self.folder.name, file)
        hornet = os.path.join(DEMO, "hornet.yaml")
        code, out, err = run("pack", hornet, "-o", name("hornet.pack"))
        self.assertEqual(code, 0, err)
        self.assertIn("8 states, 11 transitions, 6 clips", out)
        with open(name("hornet.pack"), "rb") as stream:
            self.assertEqual(stream.read(8), b"MOBRINPK")
        self.assertEqual(run("pack", hornet, "-o", name("lean.pack"), "--no-names")[0], 0)
        self.assertLess(os.path.getsize(name("lean.pack")), os.path.getsize(name("hornet.pack")))
        code, out, err = run("pack", hornet, "--cpp", name("hornet.hpp"), "--class", "Hornet", "--depfile", name("hornet.d"))
        self.assertEqual(code, 0, err)
        with open(name("hornet.hpp"), encoding="utf-8") as stream:
            self.assertIn("mobrin::Input<float> distance;", stream.read())
        with open(name("hornet.d"), encoding="utf-8") as stream:
            made = stream.read()
        self.assertIn("hornet.hpp:", made)
        for file in ("hornet.yaml", "hornet.marks.yaml", "shared.yaml"):
            self.assertIn(os.path.join(os.path.realpath(DEMO), file), made)
        for arguments, part in ((["pack", hornet], "nothing is to be written"),
                                (["pack", hornet, "-o", name("a"), "--cpp", name("b.hpp"), "--depfile", name("d")], "is for one output"),
                                (["pack", hornet, "--cpp", name("b.hpp"), "--class", "7up"], "cannot be the name of a class"),
                                (["pack", os.path.join(DEMO, "hornet.clips.yaml"), "-o", name("a")], "holds no machine"),
                                (["pack", hornet, "-o", os.path.join(self.folder.name, "none", "a.pack")], "cannot be written")):
            code, _, err = run(*arguments)
            self.assertNotEqual(code, 0)
            self.assertIn(part, err)

    def test_a_file_that_cannot_be_written_whole_leaves_the_old_one(self):
        hornet = os.path.join(DEMO, "hornet.yaml")
        art = os.path.join(self.folder.name, "art")
        shutil.copytree(DEMO, art)

        def as_on_a_full_disk():
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (100, 100))

        scene = os.path.join(DEMO, "dusk.scene.yaml")
        for command in (["pack", hornet, "-o", ".pack"], ["pack", hornet, "--cpp", ".hpp"], ["draw", hornet, "-o", ".svg"], ["draw", hornet, "-o", ".png"],
                        ["draw", hornet, "-o", ".dot"], ["draw", hornet, "-o", ".mmd"], ["sheet", hornet, "-o", ".svg"],
                        ["sheet", hornet, "-o", ".png"], ["run", TAPE, "--picture", ".png"], ["run", TAPE, "--picture", ".svg"],
                        ["draw", scene, "--at", "1s", "-o", ".png"], ["draw", scene, "-o", ".apng"],
                        ["import", os.path.join(art, "hornet.png"), "--tile", "32x28", "-o", ".yaml"]):
            end = command.pop()
            before = {".pack": b"MOBRINPK", ".hpp": b"// old\n", ".svg": b"<svg/>", ".dot": b"digraph {}", ".mmd": b"stateDiagram-v2",
                      ".yaml": b"mobrin: 1\n"}.get(end, b"\x89PNG\r\n\x1a\n")
            path = os.path.join(self.folder.name, "old" + end)
            with open(path, "wb") as stream:
                stream.write(before)
            there = sorted(os.listdir(self.folder.name))
            with self.subTest(command=command):
                code, _, err = run(*command, path, preexec_fn=as_on_a_full_disk)
                self.assertEqual(code, 1, err)
                self.assertIn(f'"{path}" cannot be written', err)
                self.assertIn("room", err)
                self.assertEqual(contents(path), before)
                self.assertEqual(sorted(os.listdir(self.folder.name)), there, "nothing is left behind")

    def test_no_output_replaces_a_file_of_another_kind_or_a_source(self):
        art = os.path.join(self.folder.name, "art")
        shutil.copytree(DEMO, art)
        hornet, scene = os.path.join(art, "hornet.yaml"), os.path.join(art, "dusk.scene.yaml")
        text = self.write("notes.png", "what I meant to do")
        code, _, err = run("sheet", hornet, "-o", text)
        self.assertEqual(code, 1)
        self.assertIn("is there already, and is no png file", err)
        self.assertEqual(self.read("notes.png"), "what I meant to do")
        for command, option, path, words in (
                (["sheet", hornet], "-o", os.path.join(art, "hornet.png"), "is a source of what is written there"),
                (["run", os.path.join(art, "hornet.tape.yaml")], "--picture", os.path.join(art, "hornet.png"), "is a source"),
                (["pack", hornet], "-o", os.path.join(art, "hornet.yaml"), "does not end in .pack"),
                (["pack", hornet], "--cpp", os.path.join(art, "draw_art.py"), "ends in none of .hpp"),
                (["draw", hornet], "-o", os.path.join(art, "out.jpg"), "ends in none of .svg, .png, .dot, .mmd"),
                (["draw", scene, "--at", "1s"], "-o", os.path.join(art, "keeper.yaml"), "ends in none of .png"),
                (["sheet", hornet], "-o", art, "is a folder"),
                (["import", os.path.join(art, "hornet.png"), "--tile", "32x28"], "-o", os.path.join(art, "hornet.png"), "ends in none of")):
            before = contents(path) if os.path.isfile(path) else None
            code, _, err = run(*command, option, path)
            self.assertEqual(code, 1, (command, err))
            self.assertIn(words, err)
            self.assertEqual(contents(path) if os.path.isfile(path) else None, before)

    def test_pipes_and_deep_files_are_refused_at_once(self):
        art = os.path.join(self.folder.name, "art")
        os.mkdir(art)
        pipe = os.path.join(art, "walk_1.png")
        os.mkfifo(pipe)
        clips = self.write("c.yaml", "mobrin: 1\nclips: {walk: {images: [art/walk_1.png], fps: 10}}\n")
        for command in (["check", clips], ["sheet", clips, "-o", os.path.join(self.folder.name, "x.png")], ["import", pipe, "-o", os.path.join(self.folder.name, "d.clips.yaml")],
                        ["import", art, "-o", os.path.join(self.folder.name, "d.clips.yaml")]):
            done = subprocess.run([TOOL, *command], capture_output=True, text=True, timeout=10)
            self.assertEqual(done.returncode, 1, (command, done.stderr))
        deep = self.write("deep.gltf", '{"asset": {"version": "2.0"}, "extras": ' + "[" * 20000 + "]" * 20000 + "}")
        code, _, err = run("import", deep, "-o", os.path.join(self.folder.name, "d.clips.yaml"))
        self.assertEqual(code, 1)
        self.assertIn("it nests deeper than 200 levels", err)

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
        for text, words in (("machine: m\nstates: {a: {}}\n", "claims nothing"),
                            ("machine: m\nstates: {a: {}}\nclaims: {x: {never: in(b)}}\n", 'there is no state "b"'),
                            ("clips: {a: {length: 1s}}\n", "holds no machine")):
            code, _, err = run("prove", self.write("m.yaml", "mobrin: 1\n" + text))
            self.assertNotEqual(code, 0)
            self.assertIn(words, err)
        # `check` tells what does not fit too.
        code, out, _ = run("check", self.write("m.yaml", "mobrin: 1\nmachine: m\nstates: {a: {}}\nclaims: {x: {never: in(b)}}\n"))
        self.assertEqual(code, 1)
        self.assertIn('m.yaml:4:21: error: "in(b)": there is no state "b"', out)
        open_claim = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {x: 0.0, y: 0.0}\ninitial: a\nstates:\n  a: {go: [{when: x * x * y > 7, to: b}]}\n"
                                          "  b: {}\nclaims: {x: {never: in(b)}}\n")
        self.assertEqual(run("prove", open_claim, "--strict")[0], 1)

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
                            (("move > 0.5", "move > 1.5"), r'expected at 0.483 s "move > 1.5", which is false'),
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
                            (("until: 3s", "until: 2.6s"), "the tape ends before this expectation"), (("shows: net/2", "never: true"), "does not go with this time"),
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

    def test_edits_at_once_lose_none(self):
        for _ in range(10):
            marks = self.write("k.marks.yaml", "mobrin: 1\nmarks:\n  walk: {pivot: [1, 1]}\n")
            both = [subprocess.Popen([TOOL, "marks", marks, "--clip", "walk", "--add-cue", f"{n}=step"], stdout=subprocess.DEVNULL)
                    for n in range(4)]
            self.assertEqual([each.wait(timeout=30) for each in both], [0] * 4)
            for n in range(4):
                self.assertIn(f"{n}: step", self.read("k.marks.yaml"))

    def test_who_is_killed_while_writing_leaves_the_old_file_or_the_new(self):
        cues = "".join(f"      {n}: step\n" for n in range(20000))
        before = "mobrin: 1\nmarks:\n  walk:\n    pivot: [1, 1]\n    cues:\n" + cues
        after = before + "      20000: step\n"
        seen = set()
        for wait in range(30):
            marks = self.write("k.marks.yaml", before)
            victim = subprocess.Popen([TOOL, "marks", marks, "--clip", "walk", "--add-cue", "20000=step"], stdout=subprocess.DEVNULL)
            try:
                victim.wait(timeout=0.02 * wait if wait < 28 else 60)
            except subprocess.TimeoutExpired:
                victim.kill()
                victim.wait()
            now = self.read("k.marks.yaml")
            self.assertIn(now, (before, after))
            seen.add(now == after)
        self.assertIn(True, seen, "some were let live")

    def test_the_name_beside_a_file_is_nobodys(self):
        marks = self.write("k.marks.yaml", "mobrin: 1\nmarks:\n  walk: {pivot: [1, 1]}\n")
        part = self.write("k.marks.yaml.part", "mine")
        os.mkdir(marks + ".tmp")
        os.chmod(marks, 0o640)
        self.assertEqual(run("marks", marks, "--clip", "walk", "--add-cue", "1=step")[0], 0)
        self.assertEqual(contents(part), b"mine")
        self.assertTrue(os.path.isdir(marks + ".tmp"))
        self.assertEqual(os.stat(marks).st_mode & 0o777, 0o640)
        self.assertEqual(sorted(os.listdir(self.folder.name)), ["k.marks.yaml", "k.marks.yaml.part", "k.marks.yaml.tmp"])

    def test_output_that_cannot_be_written_is_an_error_for_every_command(self):
        for command in (["check", KEEPER], ["list", KEEPER], ["marks", KEEPER], ["run", TAPE], ["schema"], ["explain", TAPE, "--at", "1s"],
                        ["--help"], ["check", KEEPER, "--json"]):
            with open("/dev/full", "w", encoding="utf-8") as full:
                done = subprocess.run([TOOL, *command], stdout=full, stderr=subprocess.PIPE, text=True, timeout=60)
            self.assertNotEqual(done.returncode, 0, command)
            self.assertIn("written", done.stderr, command)

    def test_no_name_forges_a_line_or_a_colour(self):
        for name, text in (("a", 'states: {a: {clip: "\\e[31mred\\nall is fine\\u202e"}}'), ("b", 'use: "\\e[31mfoo\\nbar.yaml"\nstates: {a: {}}'),
                           ("c", 'cues: {c: {kind: "x\\ny", words: "\\e[2Jgone\\r"}}\nstates: {a: {enter: [{tell: c}]}}')):
            path = self.write(name + ".yaml", f"mobrin: 1\nmachine: m\n{text}\n")
            for command in (["check"], ["run", "--until", "1s"], ["list"]):
                _, out, err = run(command[0], path, *command[1:])
                for line in (out + err).splitlines():
                    self.assertNotRegex(line, r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202e]", command)
                    self.assertFalse(line.startswith(("all is fine", "bar.yaml", "y")), line)

    def test_links_stay_links_and_pipes_are_written_to(self):
        hornet = os.path.join(DEMO, "hornet.yaml")
        real, link = self.write("real.pack", "old"), os.path.join(self.folder.name, "link.pack")
        os.symlink(real, link)
        self.assertEqual(run("pack", hornet, "-o", link)[0], 0)
        self.assertTrue(os.path.islink(link))
        self.assertGreater(len(contents(real)), 1000)
        pipe = os.path.join(self.folder.name, "pipe.mmd")
        os.mkfifo(pipe)
        with subprocess.Popen(["cat", pipe], stdout=subprocess.PIPE, text=True) as reader:
            self.assertEqual(run("draw", hornet, "-o", pipe)[0], 0)
            self.assertIn("stateDiagram", reader.communicate(timeout=20)[0])

    def test_scenes_run_are_drawn_and_checked(self):
        scene = os.path.join(DEMO, "dusk.scene.yaml")
        lines = self.lines("run", scene, "--json")
        hits = [(line["by"], line["on"], line["cue"], line["box"]) for line in lines if line["what"] == "hit"]
        self.assertEqual(hits, [("keeper", "hornet", "net_out", "net")] * 2 + [("sister", "keeper", "stings", "sting")] * 3)
        impact = [line["ticks"] for line in lines if line["what"] == "cue" and line["cue"] == "net_out"]
        self.assertEqual(impact, [line["ticks"] for line in lines if line["what"] == "hit" and line["by"] == "keeper"])
        zones = [(line["who"], line["edge"]) for line in lines if line["what"] == "zone"]
        self.assertEqual(zones[0], ("keeper", "enter"))
        ends = {line["actor"]: line for line in lines if line["what"] == "final"}
        self.assertEqual((ends["keeper"]["look"], ends["keeper"]["states"]), ("pale", ["faint/lie"]))
        self.assertEqual(self.lines("run", scene, "--json", "--rate", "24"), lines)
        code, out, _ = run("run", scene)
        self.assertEqual(code, 0)
        self.assertIn("hits   hornet  net on body, cue net_out", out)
        picture = os.path.join(self.folder.name, "stage.png")
        self.assertEqual(run("draw", scene, "--at", "2.06s", "-o", picture)[0], 0)
        one = png_size(picture)
        self.assertEqual(run("draw", scene, "--at", "2.06s", "--at", "3.6s", "--zoom", "2", "-o", picture)[0], 0)
        self.assertNotEqual(png_size(picture), one)
        film = os.path.join(self.folder.name, "dusk.apng")
        self.assertEqual(run("draw", scene, "--fps", "4", "-o", film)[0], 0)
        clips = os.path.join(self.folder.name, "film.clips.yaml")  # what is written can be read
        self.assertEqual(run("import", film, "-o", clips)[0], 0)
        self.assertEqual(json.loads(run("list", clips, "--json")[1])["clips"][0]["ticks"], 41 * SECOND // 4)
        for arguments, code in ((["draw", scene, "-o", picture], 2), (["draw", scene, "--at", "x", "-o", picture], 2),
                                (["run", scene, "--tape", TAPE], 2), (["draw", scene, "--at", "1s", "-o", "/nowhere/x.png"], 1),
                                (["check", scene], 0), (["sheet", KEEPER, "--look", "pael", "-o", picture], 1)):
            self.assertEqual(run(*arguments)[0], code, arguments)
        broken = self.write("b.scene.yaml", f"mobrin: 1\nscene: b\nuntil: 1s\nactors: {{k: {{machine: {KEEPER}, when_hit: {{pulse: stunk}}}}}}\n")
        code, _, err = run("run", broken)
        self.assertEqual(code, 1)
        self.assertIn('Did you mean "stung"?', err)

    def test_looks_whose_art_does_not_fit_are_told(self):
        shutil.copy(os.path.join(DEMO, "keeper.png"), self.folder.name)
        shutil.copy(os.path.join(DEMO, "hive.png"), self.folder.name)
        look = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {pale: false}\nclips: {c: {sheet: keeper.png, tile: [48, 40], frames: [0, 1], fps: 8}}\n"
                          "looks: {p: {when: pale, art: {keeper.png: hive.png, other.png: hive.png}}}\nstates: {s: {clip: c}}\n")
        code, out, _ = run("check", look)
        self.assertEqual(code, 1)
        self.assertIn("hive.png is 240 x 56 pixels, keeper.png 384 x 240 [look-misfit]", out)
        self.assertIn("no clip uses other.png [look-misfit]", out)

    def test_sheet_draws_without_art_and_says_what_is_missing(self):
        plain = self.write("p.yaml", "mobrin: 1\nclips: {c: {frames: [0-3], fps: 8}, d: {length: 1s}}\n")
        picture = os.path.join(self.folder.name, "p.png")
        self.assertEqual(run("sheet", plain, "-o", picture)[0], 0)
        broken = self.write("b.yaml", "mobrin: 1\nclips: {c: {sheet: b.png, tile: [8, 8], frames: [0], fps: 8}}\n")
        self.write("b.png", "this is no picture")
        code, _, err = run("sheet", broken, "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("b.png\" cannot be read", err)
        outside = self.write("o.yaml", f"mobrin: 1\nclips: {{c: {{sheet: {DEMO}/smoker.png, tile: [24, 28], frames: [8], fps: 8}}}}\n")
        code, _, err = run("sheet", outside, "-o", picture)
        self.assertEqual(code, 1)
        self.assertIn("lies outside", err)

    def test_import_writes_clips_and_holds_the_marks_against_them(self):
        art = os.path.join(self.folder.name, "art")
        os.mkdir(art)
        for number in range(3):
            shutil.copy(os.path.join(DEMO, "smoker.png"), os.path.join(art, f"puff_{number}.png"))
        out = os.path.join(self.folder.name, "smoke.clips.yaml")
        code, text, err = run("import", art, "-o", out)
        self.assertEqual((code, err), (0, ""))
        self.assertIn("1 clip, 3 frames, no findings", text)
        code, text, _ = run("check", out)  # it can be read, and its three pictures are one
        self.assertEqual(code, 1)
        self.assertIn("1 warning", text)
        self.assertIn('the clip "puff" shows the same picture in all its frames', text)
        self.write("smoke.marks.yaml", "mobrin: 1\nmarks: {puff: {cues: {2: out}}, haze: {cues: {0: out}}}\n")
        code, _, err = run("import", art, "-o", out)
        self.assertEqual(code, 1)
        self.assertIn('smoke.marks.yaml:2:33: error: there is no clip "haze"', err)
        os.remove(os.path.join(art, "puff_2.png"))
        before, marks = contents(out), self.read("smoke.marks.yaml")
        code, text, err = run("import", art, "-o", out)
        self.assertEqual((code, text), (1, ""))
        self.assertIn('lost   ', err)
        self.assertIn('smoke.marks.yaml:2: the cue out of "puff" is lost: its picture puff_2.png is gone', err)
        self.assertIn("Nothing was written, for something would be lost. Run it with `--yes`", err)
        self.assertEqual((contents(out), self.read("smoke.marks.yaml")), (before, marks))
        code, text, err = run("import", art, "-o", out, "--dry-run")
        self.assertIn("is lost", text)
        self.assertIn("Nothing was written (--dry-run).", text)
        self.assertEqual((contents(out), self.read("smoke.marks.yaml")), (before, marks))
        code, text, err = run("import", art, "-o", out, "--yes", "--json", "--fps", "30000/1001", "--play", "loop x2")
        self.assertEqual(len(json.loads(text)["losses"]), 1)
        self.assertEqual(self.read("smoke.marks.yaml"), "mobrin: 1\nmarks: {puff: {cues: {}}, haze: {cues: {0: out}}}\n")
        self.assertEqual(json.loads(text)["clips"], [{"name": "puff", "frames": 2, "ticks": SECOND * 2 * 1001 // 30000, "play": "loop x2"}])
        for wrong, words in ((["--tile", "48"], "`--tile 48` is no size"), (["--row", "1:a"], "speak of a sheet"),
                             (["--tile", "8x8", "--row", "x"], "`--row x` is no row"), (["--fps", "0"], "")):
            code, _, err = run("import", art, "-o", out, *wrong)
            self.assertEqual(code, 2, wrong)
            self.assertIn(words, err)
        self.assertEqual(run("import", art, "-o", "/nowhere/x.clips.yaml")[0], 1)

    def test_demo_runs_and_says_what_to_try_next(self):
        code, out, err = run("demo", "--out", self.folder.name)
        self.assertEqual((code, err), (0, ""))
        self.assertIn("faint/lie: remove me", out)
        self.assertIn("burning -> out", out)
        for name in ("keeper_run.png", "smoker_run.png", "keeper_sheet.png", "hornet_sheet.png", "hive_sheet.png", "smoker_sheet.png"):
            self.assertGreater(png_size(os.path.join(self.folder.name, name))[0], 1000)
        commands = re.findall(r"^  (\S*mobrin) (.*)$", out, re.M)
        self.assertGreater(len(commands), 8)
        for tool, command in commands:
            self.assertEqual(os.path.realpath(tool), os.path.realpath(TOOL))
            if not command.startswith("live "):  # it goes on until it is stopped; tests/live
                self.assertIn(run(*command.split())[0], (0, 1) if command.startswith("prove") else (0,), command)


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]], verbosity=1)
