#!/usr/bin/env python3
"""Drives the command-line tool as a process: usage, lists, runs, explanations."""
import json
import os
import re
import subprocess
import sys
import tempfile
import unittest

from tool_case import DEMO, KEEPER, SECOND, TAPE, TOOL, ToolCase, run


class Tool(ToolCase):
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

    def test_a_look_is_told_when_it_changes(self):
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(folder, "flag.yaml")
            with open(path, "w", encoding="utf-8") as file:
                file.write("mobrin: 1\nmachine: flag\ninputs: {wet: false, p: pulse}\nvars: {worn: 0}\n"
                           "clips: {c: {frames: [0-3], fps: 8, play: loop}}\n"
                           "looks: {wet: {when: wet, art: {}}, torn: {when: worn > 1, art: {}}, frayed: {when: worn > 0, art: {}}}\n"
                           "states: {a: {clip: c, each_loop: [worn = worn + 1]}}\n")
            scene = os.path.join(folder, "s.scene.yaml")
            with open(scene, "w", encoding="utf-8") as file:
                file.write("mobrin: 1\nscene: s\nuntil: 1.2s\nactors: {a: {machine: flag.yaml, steps: [{at: 0.1s, set: {wet: true}}, "
                           "{at: 0.2s, set: {wet: false}}]}}\n")
            told = [(0.1, "wet"), (0.2, None), (0.5, "frayed"), (1, "torn")]
            for arguments in (["--set", "wet=true@0.1s", "--set", "wet=false@0.2s", "--until", "1.2s", "--rate", rate]
                              for rate in ("1", "60")):
                self.assertEqual([(line["ticks"] / SECOND, line["look"]) for line in self.lines("run", path, "--json", *arguments)
                                  if line["what"] == "look"], told)
            self.assertEqual([(line["ticks"] / SECOND, line["look"]) for line in self.lines("run", scene, "--json")
                              if line["what"] == "look"], told)

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

    def test_what_is_wrong_on_the_command_line_is_told_there(self):
        for wrong, words in ((["--press", "swng@1s"], '--press swng@1s: error: there is no pulse "swng" [unknown-name]\n    Did you mean "swing"?\n1 error in --press swng@1s; nothing was run.\n'),
                             (["--set", "move=up@1s"], '--set move=up@1s: error: the input "move" takes a number, not "up" [wrong-type]\n    Write a number.\n1 error in --set move=up@1s; nothing was run.\n'),
                             (["--set", "move={"], "--set move={: error: the `{` that begins here is not closed [bad-yaml]\n    Close it with `}`.\n")):
            for command in (["run", KEEPER], ["run", TAPE], ["explain", KEEPER, "--at", "1s"]):
                self.assertEqual(run(*command, *wrong), (2, "", words))

    def test_explain_takes_presses_and_values_as_run_does(self):
        steps = ["--set", "carrying=net", "--press", "swing@0.9s"]
        self.assertIn("    0.900      54  state  ground/stand -> ground/net  pulse: swing", run("run", KEEPER, *steps)[1])
        code, out, err = run("explain", KEEPER, *steps, "--at", "0.9s", "--to", "net")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("ground/stand -> net  pulse: swing, when: carrying == net  (keeper.yaml:42)\n      taken\n        carrying  is net\n", out)
        self.assertIn("pulse: swing, when: carrying == net  (keeper.yaml:42)\n      no: the guard is false\n        carrying  is nothing\n", run("explain", KEEPER, *steps[2:], "--at", "0.9s")[1])
        code, _, err = run("explain", os.path.join(DEMO, "dusk.scene.yaml"), "--actor", "keeper", "--at", "1s", *steps)
        self.assertEqual((code, err), (2, "error: a scene has its own presses\n    Write them under its actors: `steps:`.\n"))

    def test_list_says_what_a_rule_says_once(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {x: false}\nclips: {c: {length: 1s, play: loop}}\nvars: {n: 0}\ninitial: a\nstates:\n"
                          "  a: {clip: c, go: [{after: 1.5s, when: x, to: b, fade: 33.3ms, cues: both, start: same, do: [n = n + 1]}]}\n  b: {clip: c, go: [{when: not x, to: a}]}\n")
        out = run("list", path)[1]
        self.assertIn("  anywhere\n              vars n = 0\n  a         clip c\n              to b  after: 1.5s, when: x, fade: 33.3ms, start: same, cues: both, do: n = n + 1\n", out)
        self.assertIn("a -> b  after: 1.5s, when: x, fade: 33.3ms  (m.yaml:8)", run("run", path, "--set", "x=true", "--until", "2s")[1])

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

    def test_explain_says_why_a_rule_was_not_looked_at(self):
        both = ["explain", KEEPER, "--press", "swing@0.9s", "stung@0.9s", "--at"]
        around = "not looked at: anywhere -> hurt, around it, was taken\n"
        code, out, err = run(*both, "0.9s")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("      taken\n  ground: its rule was " + around + "  ground/stand: its 3 rules were " + around + "round 2\n", out)
        self.assertIn("anywhere -> hurt  pulse: stung  (keeper.yaml:31)\n      no: stung was taken by a round before\n", out)
        self.assertIn("      no: its play has not ended\n", out)
        # Of those asked for each has its reason, also where its state is not active at all.
        out = run(*both, "0.9s", "--state", "ground/stand")[1]
        self.assertEqual(out.count("      " + around), 3)
        self.assertNotIn("Nothing happened", out)
        self.assertEqual(run(*both, "0.9s", "--state", "ground/walk")[1], "keeper at 0.9 s\n  no: ground/walk is not active; ground/stand is\n"
                         "swing was pressed 0 ms ago and waits 110 ms longer; no rule in effect takes it\n")
        out = run(*both, "0.9s", "--to", "net")[1]
        self.assertIn("ground/stand -> net  pulse: swing, when: carrying == net  (keeper.yaml:42)\n      " + around, out)
        self.assertIn("ground/walk -> net  pulse: swing, when: carrying == net  (keeper.yaml:49)\n      no: ground/walk is not active; ground/stand is\n", out)
        out = run(*both, "0.9s", "--state", "anywhere")[1]
        self.assertEqual((out.count("anywhere -> faint"), out.count("anywhere -> hurt"), out.count("ground")), (2, 2, 0))
        # Who asks for a state that is entered with the one around it.
        self.assertIn("anywhere -> faint  when: health <= 0  (keeper.yaml:30)\n      no: the guard is false\n", run(*both, "0.9s", "--to", "faint/sag")[1])
        self.assertIn('did you mean "faint"', run(*both, "0.9s", "--to", "fant")[2])
        self.assertIn("  ground/stand has no rule to hurt\n", run(*both, "0.9s", "--state", "ground/stand", "--to", "hurt")[1])
        self.assertIn("\nswing was pressed 350 ms ago and ran out 240 ms ago, untaken\n", run(*both, "1.25s")[1])
        self.assertIn("\nIt is done: no rule is looked at any more.\n", run("explain", KEEPER, "--set", "health=0", "--at", "9s")[1])

    def test_explain_says_where_the_playhead_is_and_where_its_window(self):
        # The instant settles first for a frame that begins, then for the press that was written at it.
        out = run("explain", KEEPER, "--set", "carrying=net", "--press", "swing@0.9s", "swing@1s", "--at", "1s", "--state", "ground/net", "--to", "net")[1]
        rule = "round 1\n  ground/net -> net  pulse: swing, during: again, restart  (keeper.yaml:56)\n      no: "
        self.assertIn(f"keeper at 1 s\n{rule}swing is not pressed\nthen, with what was written at this instant:\n{rule}net is on frame 2; again is 4-5\nswing was", out)
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {p: pulse}\nclips: {c: {frames: [0-5], fps: 10, play: loop}, d: {length: 1s}}\n"
                          "marks: {c: {windows: {open: [4-5, 1], late: 0.35s-0.5s}}, d: {windows: {open: 0.5s-0.7s}}}\ninitial: a\nstates:\n"
                          "  a: {clip: c, go: [{pulse: p, during: open, to: b}, {pulse: p, during: 3, to: b}, {pulse: p, during: 0.4s-0.5s, to: b}, {pulse: p, during: late, to: b}, {after: 600ms, to: b}]}\n"
                          "  b: {clip: d, go: [{pulse: p, during: open, to: a}]}\n")
        out = run("explain", path, "--press", "p@0.2s", "--at", "0.2s")[1]
        self.assertIn("      no: c is on frame 2; open is 4-5, 1\n", out)
        self.assertIn("  a -> b  pulse: p, during: 3  (m.yaml:8)\n      no: c is on frame 2, not in 3\n", out)
        self.assertIn("  a -> b  pulse: p, during: 400ms-500ms  (m.yaml:8)\n      no: c is at 0.200 s, not in 400ms-500ms\n", out)
        self.assertIn("      no: c is on frame 2, at 0.200 s; late is 0.35s-0.5s\n", out)
        self.assertIn("      no: its state has not been active for 600ms\n", out)
        self.assertIn("p was pressed at this instant, and counts at no other; what could take it:\n", out)
        self.assertIn("      no: d is at 0.300 s; open is 0.5s-0.7s\n", run("explain", path, "--press", "p@0.9s", "--at", "0.9s")[1])

    def test_long_waits_are_told_in_seconds(self):
        path = self.write("m.yaml", "mobrin: 1\nmachine: m\ninputs: {x: false, p: {pulse: 60s}}\ninitial: a\nstates: {a: {go: [{pulse: p, when: x, to: b}]}, b: {}}\n")
        self.assertIn("12.35 s after the press", run("run", path, "--press", "p@1s", "--set", "x=true@13.35s", "--until", "14s")[1])
        self.assertIn("p was pressed 11.5 s ago and waits 48.5 s longer", run("explain", path, "--press", "p@1s", "--at", "12.5s")[1])

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

    def test_explain_says_why_and_why_not(self):
        code, out, err = run("explain", KEEPER, "--tape", TAPE, "--at", "1.75s")
        self.assertEqual((code, err), (0, ""))
        self.assertIn("ground/walk -> net  pulse: swing, when: carrying == net  (keeper.yaml:49)\n      taken\n        carrying  is net\n        carrying == net  is true", out)
        self.assertIn("anywhere -> faint  when: health <= 0  (keeper.yaml:30)\n      no: the guard is false\n        health  is 6\n", out)
        self.assertIn("anywhere -> hurt  pulse: stung  (keeper.yaml:31)\n      no: stung is not pressed", out)
        code, out, _ = run("explain", KEEPER, "--tape", TAPE, "--at", "1.2s", "--state", "ground/walk", "--to", "ground/stand")
        self.assertEqual(code, 0)
        self.assertIn("Nothing happened at this instant", out)
        self.assertIn("abs(move)  is 0.5", out)
        self.assertEqual(out.count("->"), 1)
        self.assertEqual(run("explain", KEEPER, "--at", "5")[0], 2)
        self.assertIn('did you mean "ground/walk"?', run("explain", KEEPER, "--at", "1s", "--state", "wlak")[2])


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0], *sys.argv[3:]], verbosity=1)
